package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"proscen/internal/heavytest"
	"proscen/internal/pgtest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// memoryOf returns how many bytes a process and its children hold.
func memoryOf(pid int) (bytes int64) {
	family := map[int]bool{pid: true}
	all, _ := filepath.Glob("/proc/[0-9]*/stat")
	for range 2 { // children of children
		for _, f := range all {
			body, _ := os.ReadFile(f)
			after := body[strings.LastIndexByte(string(body), ')')+1:]
			fields := strings.Fields(string(after))
			if len(fields) < 2 {
				continue
			}
			parent, _ := strconv.Atoi(fields[1])
			own, _ := strconv.Atoi(filepath.Base(filepath.Dir(f)))
			if family[parent] {
				family[own] = true
			}
		}
	}
	for p := range family {
		body, _ := os.ReadFile(fmt.Sprintf("/proc/%d/statm", p))
		if fields := strings.Fields(string(body)); len(fields) > 1 {
			pages, _ := strconv.ParseInt(fields[1], 10, 64)
			bytes += pages * int64(os.Getpagesize())
		}
	}
	return bytes
}

// flood sends a request with bytes that all share, so that it is the server that has
// the work. It is answered, and not listened to any further.
func flood(t *testing.T, host string, request []byte) {
	conn, err := net.Dial("tcp", host)
	if !assert.NoError(t, err) {
		return
	}
	defer func() { _ = conn.Close() }()
	_, _ = conn.Write(request)
	resp, err := http.ReadResponse(bufio.NewReader(conn), nil)
	if err == nil {
		_ = resp.Body.Close()
		assert.Equal(t, http.StatusRequestHeaderFieldsTooLarge, resp.StatusCode)
	}
}

// Everything that would take much memory comes at once: the program stays within a
// gigabyte, each request gets its answer, and a scene can be opened meanwhile.
func TestEverythingHeavyAtOnceStaysWithinAGigabyte(t *testing.T) {
	if !*long {
		t.Skip("it takes long: ‘make soak’ does it")
	}
	cmd, found := started(t, served, "serve", "--demo", "--database", pgtest.Database(t), "--blobs", t.TempDir(), "--listen", "127.0.0.1:0")
	url := found[1] + "/api"
	resp, err := http.Get(url + "/scenes")
	require.NoError(t, err)
	var scenes []struct{ ID string }
	require.NoError(t, json.NewDecoder(resp.Body).Decode(&scenes))
	_ = resp.Body.Close()
	demo := scenes[0].ID

	stop := make(chan struct{})
	var watching sync.WaitGroup
	var most int64
	watching.Go(func() {
		for {
			select {
			case <-stop:
				return
			case <-time.After(20 * time.Millisecond):
				most = max(most, memoryOf(cmd.Process.Pid))
			}
		}
	})
	var opened []time.Duration
	browser := http.Client{Transport: &http.Transport{}} // with a connection of its own
	watching.Go(func() {
		for {
			select {
			case <-stop:
				return
			case <-time.After(100 * time.Millisecond):
			}
			start := time.Now()
			resp, err := browser.Get(url + "/scenes/" + demo)
			if !assert.NoError(t, err) {
				return
			}
			_, _ = io.Copy(io.Discard, resp.Body)
			_ = resp.Body.Close()
			assert.Equal(t, 200, resp.StatusCode)
			opened = append(opened, time.Since(start))
		}
	})
	var group sync.WaitGroup
	const storyboards = 30
	times := map[string]int{"a large picture": 8, "a deep picture": 1, "a wide picture": 4, "many empty things": 3, "many entities": 3, "an unknown long id": 2100, "a page that is slow": 1}
	for _, r := range heavytest.Requests() {
		raw := []byte("POST /api" + r.Path + " HTTP/1.1\r\nHost: localhost\r\nContent-Length: 2\r\n\r\n{}")
		for range times[r.Name] {
			group.Go(func() {
				if r.Name == "an unknown long id" {
					flood(t, strings.TrimPrefix(found[1], "http://"), raw)
					return
				}
				resp, err := http.Post(url+r.Path, "application/json", strings.NewReader(r.Body))
				if !assert.NoError(t, err, r.Name) {
					return
				}
				defer func() { _ = resp.Body.Close() }()
				said, _ := io.ReadAll(resp.Body)
				assert.Contains(t, string(said), r.Says, r.Name)
			})
		}
	}
	group.Go(func() { // storyboards wait in the queue
		for range storyboards {
			status, said, err := post(url+"/scenes/"+demo+"/deliveries", m{"assembly": "first-cut", "sheet": "storyboard"})
			require.NoError(t, err)
			require.Equal(t, 201, status, string(said))
		}
	})
	group.Wait()
	require.Eventually(t, func() bool {
		resp, err := http.Get(url + "/scenes/" + demo + "/deliveries")
		require.NoError(t, err)
		body, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		_ = resp.Body.Close()
		return bytes.Count(body, []byte(`"state":"done"`)) == storyboards
	}, 4*time.Minute, 500*time.Millisecond, "all storyboards are made")
	close(stop)
	watching.Wait()
	assert.Less(t, most>>20, int64(1024), "megabytes at most")
	slices.Sort(opened)
	t.Logf("at most %d MB; the scene was opened %d times, in %s (median), %s (95 of 100), %s (at most)", most>>20, len(opened),
		opened[len(opened)/2].Round(time.Millisecond), opened[len(opened)*95/100].Round(time.Millisecond), opened[len(opened)-1].Round(time.Millisecond))
	stops(t, cmd)
}
