package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"proscen/core/scenetest"
	"proscen/internal/pgtest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const served = `address=(http://127\.0\.0\.1:\d+)`

// post sends JSON and returns the status and the answer.
func post(url string, body any) (int, []byte, error) {
	raw, err := json.Marshal(body)
	if err != nil {
		return 0, nil, err
	}
	resp, err := http.Post(url, "application/json", bytes.NewReader(raw))
	if err != nil {
		return 0, nil, err
	}
	defer func() { _ = resp.Body.Close() }()
	said, err := io.ReadAll(resp.Body)
	return resp.StatusCode, said, err
}

type m = map[string]any

// made makes the small scene on a server and returns its id.
func made(t *testing.T, url string) string {
	t.Helper()
	status, said, err := post(url+"/api/scenes", m{"production": "P", "title": "T", "document": json.RawMessage(scenetest.Small().Encode())})
	require.NoError(t, err)
	require.Equal(t, 201, status, string(said))
	var info struct{ ID string }
	require.NoError(t, json.Unmarshal(said, &info))
	return info.ID
}

// Eight people send edits while the server is asked to stop: each request that was
// taken is answered with what was done, and what was answered is there.
func TestWhatIsUnderWayIsFinishedWhenTheServerStops(t *testing.T) {
	database := pgtest.Database(t)
	serve := []string{"serve", "--no-worker", "--database", database, "--blobs", t.TempDir(), "--listen", "127.0.0.1:0"}
	cmd, m1 := started(t, served, serve...)
	scene := made(t, m1[1])
	var stored sync.Map
	var accepted, refused atomic.Int64
	var group sync.WaitGroup
	for who := range 8 {
		group.Go(func() {
			for n := 0; ; n++ {
				id := fmt.Sprintf("e-%d-%d", who, n)
				status, said, err := post(m1[1]+"/api/scenes/"+scene+"/edits", m{
					"id": id, "base": 0, "label": "mark", "kind": "do",
					"patch": []m{{"collection": "markers", "id": id, "after": m{"clock": "story", "frame": n, "name": id, "color": "#000000"}}},
				})
				if err != nil { // nobody takes requests any more
					refused.Add(1)
					return
				}
				if !assert.Equal(t, 200, status, string(said)) {
					return
				}
				accepted.Add(1)
				stored.Store(id, true)
			}
		})
	}
	require.Eventually(t, func() bool { return accepted.Load() > 40 }, 20*time.Second, time.Millisecond)
	stops(t, cmd)
	group.Wait()
	assert.EqualValues(t, 8, refused.Load(), "all ended because they were not let in, none with an error")

	cmd, m1 = started(t, served, serve...)
	resp, err := http.Get(m1[1] + "/api/scenes/" + scene)
	require.NoError(t, err)
	var got struct {
		Document struct{ Markers map[string]any }
	}
	require.NoError(t, json.NewDecoder(resp.Body).Decode(&got))
	_ = resp.Body.Close()
	stored.Range(func(id, _ any) bool { return assert.Contains(t, got.Document.Markers, id) })
	stops(t, cmd)
}

// A page that listens does not hold the stop up, nor does a request that stands still.
func TestTheServerStopsAlsoWhenSomebodyIsThere(t *testing.T) {
	cmd, m1 := started(t, served, "serve", "--no-worker", "--database", pgtest.Database(t), "--blobs", t.TempDir(), "--listen", "127.0.0.1:0")
	scene := made(t, m1[1])
	host := m1[1][len("http://"):]
	conn, err := net.Dial("tcp", host)
	require.NoError(t, err)
	defer func() { _ = conn.Close() }()
	_, err = fmt.Fprintf(conn, "GET /api/scenes/%s/events HTTP/1.1\r\nHost: %s\r\nConnection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\n\r\n", scene, host)
	require.NoError(t, err)
	first := make([]byte, 200)
	_, err = conn.Read(first)
	require.NoError(t, err)
	began := time.Now()
	stops(t, cmd)
	assert.Less(t, time.Since(began), grace)
}

// blockedWorker is an ffmpeg that waits for ever, and says as what process.
func blockedWorker(t *testing.T) (path, told string) {
	t.Helper()
	dir := t.TempDir()
	told = dir + "/pid"
	script := "#!/bin/sh\n[ \"$1\" = -version ] && exit\necho $$ > " + told + "\nexec sleep 600\n"
	require.NoError(t, os.WriteFile(dir+"/ffmpeg", []byte(script), 0o755))
	return "PATH=" + dir + ":" + os.Getenv("PATH"), told
}

// What a program has started ends with it, even when it is killed.
func TestNoChildRunsOnWhenTheProgramIsKilled(t *testing.T) {
	path, told := blockedWorker(t)
	cmd := exec.Command(binary, "serve", "--database", pgtest.Database(t), "--blobs", t.TempDir(), "--listen", "127.0.0.1:0")
	cmd.Env = append(os.Environ(), path)
	cmd, m1 := startedAs(t, cmd, served)
	scene := made(t, m1[1])
	status, said, err := post(m1[1]+"/api/scenes/"+scene+"/deliveries", m{"assembly": "cut", "width": 64, "height": 36})
	require.NoError(t, err)
	require.Equal(t, 201, status, string(said))
	var child int
	require.Eventually(t, func() bool {
		body, err := os.ReadFile(told)
		if err != nil {
			return false
		}
		_, err = fmt.Sscan(string(body), &child)
		return err == nil
	}, 20*time.Second, 10*time.Millisecond)
	require.NoError(t, syscall.Kill(child, 0))
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	assert.Eventually(t, func() bool {
		state, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", child))
		return err != nil || bytes.Contains(state, []byte(") Z ")) // gone, or nobody has looked at it yet
	}, 5*time.Second, 10*time.Millisecond)
}
