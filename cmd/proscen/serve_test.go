package main

import (
	"bufio"
	"context"
	"encoding/json"
	"io"
	"io/fs"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	"proscen/internal/pgtest"
	"proscen/web"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// started runs the binary in the background and returns it with the first
// line of its log that matches.
func started(t *testing.T, line string, args ...string) (*exec.Cmd, []string) {
	t.Helper()
	return startedAs(t, exec.Command(binary, args...), line)
}

// startedAs is started for a command that is set up already.
func startedAs(t *testing.T, cmd *exec.Cmd, line string) (*exec.Cmd, []string) {
	t.Helper()
	log, err := cmd.StderrPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill() })
	found := make(chan []string, 1)
	said, err := os.Create(filepath.Join(t.TempDir(), "log"))
	require.NoError(t, err)
	t.Cleanup(func() {
		_ = said.Close()
		if body, err := os.ReadFile(said.Name()); err == nil && t.Failed() {
			t.Logf("the end of its log:\n%s", body[max(0, len(body)-6000):])
		}
	})
	go func() { // all of it: a log that nobody reads holds its writer up
		form := regexp.MustCompile(line)
		from := bufio.NewReader(io.TeeReader(log, said))
		for told := false; ; {
			s, err := from.ReadString('\n')
			if m := form.FindStringSubmatch(s); m != nil && !told {
				told = true
				found <- m
			}
			if err != nil {
				return
			}
		}
	}()
	select {
	case m := <-found:
		return cmd, m
	case <-time.After(30 * time.Second):
		t.Fatalf("%v does not say %s", cmd.Args, line)
		return nil, nil
	}
}

func stops(t *testing.T, cmd *exec.Cmd) {
	t.Helper()
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	select {
	case err := <-ended:
		assert.NoError(t, err, "it stops gracefully")
	case <-time.After(20 * time.Second):
		_ = cmd.Process.Signal(syscall.SIGQUIT)
		t.Fatal("it does not stop")
	}
}

func TestServeFromStartToStop(t *testing.T) {
	database, blobs := pgtest.Database(t), t.TempDir()
	serve := []string{"serve", "--demo", "--database", database, "--blobs", blobs}
	cmd, m := started(t, `address=(http://127\.0\.0\.1:(\d+))`, append(serve, "--listen", "127.0.0.1:0")...)
	url := m[1]
	get := func(path string) (int, http.Header, string) {
		t.Helper()
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		req, err := http.NewRequestWithContext(ctx, "GET", url+path, nil)
		require.NoError(t, err)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, res.Header, string(body)
	}
	status, _, body := get("/api/health")
	assert.Equal(t, 200, status)
	assert.JSONEq(t, `{"status":"ok","database":"ok","ffmpeg":"ok"}`, body)

	var scenes []struct{ ID, Title string }
	_, _, body = get("/api/scenes")
	require.NoError(t, json.Unmarshal([]byte(body), &scenes))
	require.Len(t, scenes, 1)
	assert.Equal(t, "Last Car Down", scenes[0].Title)

	status, header, body := get("/scenes/" + scenes[0].ID + "/splice")
	if status == http.StatusServiceUnavailable {
		assert.Contains(t, body, "The front end is not built. Run ‘make build’")
	} else { // the page of the application answers at every address of it
		assert.Equal(t, 200, status)
		assert.Contains(t, body, `<div id="app">`)
		assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'self'")
		assert.Equal(t, "nosniff", header.Get("X-Content-Type-Options"))
		script := regexp.MustCompile(`/assets/index-[^"]+\.js`).FindString(body)
		require.NotEmpty(t, script)
		status, header, _ = get(script)
		assert.Equal(t, 200, status)
		assert.Contains(t, header.Get("Cache-Control"), "immutable")
		dist, _ := web.Dist()
		cores, err := fs.Glob(dist, "assets/core-*.wasm.gz")
		require.NoError(t, err)
		require.Len(t, cores, 1, "the core lies there compressed, under a name with its content")
		status, header, wasm := get("/" + strings.TrimSuffix(cores[0], ".gz")) // this client takes gzip, and unpacks it
		assert.Equal(t, 200, status)
		assert.Equal(t, "application/wasm", header.Get("Content-Type"))
		assert.Equal(t, "\x00asm", wasm[:4])
		status, header, _ = get("/assets/index-of-another-build.js")
		assert.Equal(t, 404, status, "a page in its place would be taken for a script")
		assert.Equal(t, "no-store", header.Get("Cache-Control"))
	}
	status, header, body = get("/api/nothing/here")
	assert.Equal(t, 404, status)
	assert.Equal(t, "application/problem+json", header.Get("Content-Type"))
	assert.Contains(t, body, `"status":404`)

	// A second one at the same address says so and leaves the first alone.
	out, _ := exec.Command(binary, append(serve, "--listen", "127.0.0.1:"+m[2])...).CombinedOutput()
	assert.Contains(t, string(out), "cannot listen on 127.0.0.1:"+m[2])
	status, _, _ = get("/api/health")
	assert.Equal(t, 200, status)
	stops(t, cmd)

	// Started again it finds everything there, and loads no second demonstration.
	cmd, m = started(t, `address=(http://127\.0\.0\.1:(\d+))`, append(serve, "--listen", "127.0.0.1:0")...)
	url = m[1]
	_, _, body = get("/api/scenes")
	assert.Equal(t, 1, strings.Count(body, "Last Car Down"))
	stops(t, cmd)
}

func TestWorkAndMigrate(t *testing.T) {
	database := pgtest.Database(t)
	for range 2 { // up to date is not an error
		_, errs, code := cli(t, "migrate", "--database", database)
		assert.Zero(t, code, errs)
	}
	cmd, _ := started(t, `msg=working threads=1`, "work", "--database", database, "--blobs", t.TempDir(), "--threads", "1")
	stops(t, cmd)
	_, errs, code := cli(t, "work", "--database", database, "--blobs", "/proc/no/such")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "folder for videos cannot be made")
	_, errs, code = cli(t, "migrate", "--database", "not an address")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "database address cannot be read")
}

func TestEnvironmentConfiguresLikeFlags(t *testing.T) {
	database := pgtest.Database(t)
	cmd := exec.Command(binary, "migrate")
	cmd.Env = append(os.Environ(), "PROSCEN_DATABASE="+database)
	out, err := cmd.CombinedOutput()
	assert.NoError(t, err, string(out))
	cmd = exec.Command(binary, "serve")
	cmd.Env = append(os.Environ(), "PROSCEN_DATABASE="+database, "PROSCEN_LISTEN=0.0.0.0:8470")
	out, _ = cmd.CombinedOutput()
	assert.Equal(t, 2, cmd.ProcessState.ExitCode())
	assert.Contains(t, string(out), "refusing to listen on \"0.0.0.0:8470\"")
}

func TestPackAndUnpackBetweenTwoDatabases(t *testing.T) {
	dir := t.TempDir()
	here := []string{"--database", pgtest.Database(t), "--blobs", dir + "/here"}
	there := []string{"--database", pgtest.Database(t), "--blobs", dir + "/there"}
	do := func(where []string, args ...string) (string, error) {
		out, err := exec.Command(binary, append(args, where...)...).CombinedOutput()
		return string(out), err
	}
	cmd, _ := started(t, "address=", append([]string{"serve", "--demo", "--no-worker", "--listen", "127.0.0.1:0"}, here...)...)
	stops(t, cmd)
	said, err := do(here, "pack", "Hollin Pass/Last Car Down", dir+"/a.zip")
	require.NoError(t, err, said)
	said, err = do(there, "unpack", dir+"/a.zip")
	require.NoError(t, err, said)
	assert.Contains(t, said, "Hollin Pass/Last Car Down")
	said, err = do(there, "pack", "Last Car Down", dir+"/b.zip")
	require.NoError(t, err, said)
	a, err := os.ReadFile(dir + "/a.zip")
	require.NoError(t, err)
	b, err := os.ReadFile(dir + "/b.zip")
	require.NoError(t, err)
	assert.True(t, string(a) == string(b), "%d and %d bytes", len(a), len(b))

	said, err = do(there, "unpack", dir+"/a.zip")
	require.NoError(t, err)
	assert.Contains(t, said, "Last Car Down 2")
	said, err = do(there, "pack", "Nowhere", dir+"/c.zip")
	require.Error(t, err)
	assert.Contains(t, said, `there is no scene "Nowhere"`)
	assert.NoFileExists(t, dir+"/c.zip")
	require.NoError(t, os.WriteFile(dir+"/d.zip", []byte("hello"), 0o600))
	said, err = do(there, "unpack", dir+"/d.zip")
	require.Error(t, err)
	assert.Contains(t, said, "no packed scene")
}
