package httpapi_test

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/gif"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/internal/heavytest"
	"proscen/internal/httpapi"
	"proscen/internal/live"
	"proscen/internal/media"
	"proscen/internal/pgtest"
	"proscen/internal/render"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// beside starts another server on the database and files of a rig, as set.
func (r *rig) beside(set func(*httpapi.API)) string {
	r.t.Helper()
	queue, err := render.NewQueue(r.store, nil, quiet)
	require.NoError(r.t, err)
	a := &httpapi.API{Store: r.store, Queue: queue, Bucket: r.bucket, Hub: live.NewHub(httpapi.Encode), Log: quiet}
	set(a)
	h, err := a.Handler()
	require.NoError(r.t, err)
	s := httptest.NewServer(h)
	r.t.Cleanup(s.Close)
	return s.URL
}

func TestWhatCannotBeAnAddressIsAnsweredWithoutAskingFurther(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(scenetest.Small())
	status := func(method, path, body string) (int, string) {
		t.Helper()
		req, err := http.NewRequest(method, r.server.URL+path, strings.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		resp, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer func() { _ = resp.Body.Close() }()
		said, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		assert.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"))
		assert.NotEmpty(t, resp.Header.Get("Content-Security-Policy"))
		return resp.StatusCode, string(said)
	}
	long := strings.Repeat("a", 100_000)
	s := "/api/scenes/" + info.Id
	for _, c := range []struct {
		method, path, body string
		status             int
	}{
		{"GET", "/api/scenes/%00", "", 400},
		{"GET", "/api/scenes/%ff", "", 400},
		{"GET", "/api/scenes/a%20b", "", 404},
		{"GET", "/api/scenes/" + long[:100], "", 404},
		{"GET", "/api/scenes/" + long, "", 414},
		{"GET", s + "/edits?person=%00", "", 400},
		{"GET", s + "/edits?person=" + long[:200], "", 400},
		{"GET", s + "/edits?before=2147483648", "", 400},
		{"GET", s + "/edits?before=x", "", 400},
		{"GET", s + "/edits?limit=100000", "", 400},
		{"GET", s + "/edits/2147483648", "", 404},
		{"GET", s + "/since/99999999999999999999", "", 404},
		{"GET", s + "/at/2147483648", "", 404},
		{"GET", s + "/at/-1", "", 404},
		{"GET", s + "/deliveries?before=0", "", 400},
		{"GET", "/api/outputs/%2e%2e/picture", "", 404},
		{"POST", s + "/versions", `{"revision":4294967296,"name":"x"}`, 404},
		{"POST", s + "/versions", `{"revision":0,"name":"a\u0000"}`, 422},
		{"POST", s + "/versions", "{\"revision\":0,\"name\":\"\xff\"}", 422},
		{"POST", s + "/edits", `{"id":"e","base":4294967296,"label":"l","kind":"do","patch":[{"collection":"markers","id":"x","after":{}}]}`, 409},
		{"POST", s + "/known", "[" + strings.Repeat("[],", scene.MaxThings) + "[]]", 422},
		{"POST", "/api/scenes/nobody/edits", `{"id":"e","base":0,"label":"l","kind":"do","patch":[{"collection":"markers","id":"x","after":{}}]}`, 404},
		{"GET", "/api/scenes/nobody/events", "", 404},
	} {
		got, said := status(c.method, c.path, c.body)
		assert.Equal(t, c.status, got, "%s %.60s: %s", c.method, c.path, said)
	}
	assert.Equal(t, 1, r.store.Held(), "unknown scenes are not kept")
}

func TestOnlyWhatIsPromisedIsTakenForAPicture(t *testing.T) {
	r := newRig(t, false)
	var b bytes.Buffer
	require.NoError(t, gif.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 8)), nil))
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/images", b.String(), &p))
	assert.Contains(t, p.Title, "neither PNG, JPEG, WebP nor TIFF")
}

func TestTheServerSaysWhenItIsFailingAndWhatItCounts(t *testing.T) {
	r := newRig(t, false)
	r.scene(scenetest.Small())
	code, header, body := r.raw("/metrics")
	assert.Equal(t, 200, code)
	assert.Contains(t, header.Get("Content-Type"), "text/plain")
	for _, line := range []string{"proscen_open_pages 0", `proscen_outputs{state="waiting"} 0`, `proscen_request_seconds_count{method="POST",route="/api/scenes",status="201"} 1`} {
		assert.Contains(t, string(body), line)
	}
	pgtest.Lose(t, r.url)
	var h httpapi.Health
	assert.Equal(t, 503, r.call("GET", "/health", nil, &h))
	assert.Equal(t, "failing", h.Status)
}

func TestWhoStandsStillIsLetGo(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(scenetest.Small())
	address := r.beside(func(a *httpapi.API) {
		a.Pace = httpapi.Pace{Body: 300 * time.Millisecond, Look: 200 * time.Millisecond, Say: 300 * time.Millisecond}
	})
	host := strings.TrimPrefix(address, "http://")

	conn, err := net.Dial("tcp", host)
	require.NoError(t, err)
	defer func() { _ = conn.Close() }()
	_, err = fmt.Fprintf(conn, "POST /api/scenes HTTP/1.1\r\nHost: %s\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{", host)
	require.NoError(t, err)
	require.NoError(t, conn.SetReadDeadline(time.Now().Add(10*time.Second)))
	resp, err := http.ReadResponse(bufio.NewReader(conn), nil)
	require.NoError(t, err)
	assert.Equal(t, 408, resp.StatusCode)

	// An answer that nobody takes: most of it is not there for who looks later.
	f := media.File{Kind: media.Still, Blob: strings.Repeat("ab", 32)}
	require.NoError(t, r.bucket.PutBytes(t.Context(), f.Path(), "image/jpeg", make([]byte, 64<<20)))
	slow, err := net.Dial("tcp", host)
	require.NoError(t, err)
	defer func() { _ = slow.Close() }()
	_, err = fmt.Fprintf(slow, "GET /api/images/%s HTTP/1.1\r\nHost: %s\r\n\r\n", f.Blob, host)
	require.NoError(t, err)
	time.Sleep(time.Second)
	require.NoError(t, slow.SetReadDeadline(time.Now().Add(20*time.Second)))
	n, err := io.Copy(io.Discard, slow)
	assert.False(t, errors.Is(err, os.ErrDeadlineExceeded), "the server ends the connection")
	assert.Less(t, n, int64(48<<20))

	// A browser that does not answer: it never reads, so it never sees the ping.
	silent, err := net.Dial("tcp", host)
	require.NoError(t, err)
	defer func() { _ = silent.Close() }()
	_, err = fmt.Fprintf(silent, "GET /api/scenes/%s/events HTTP/1.1\r\nHost: %s\r\nConnection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\n\r\n", info.Id, host)
	require.NoError(t, err)
	require.NoError(t, silent.SetReadDeadline(time.Now().Add(10*time.Second)))
	_, err = io.Copy(io.Discard, silent)
	assert.NoError(t, err, "the server ends the line")

	// One that answers stays.
	ws, _, err := websocket.Dial(t.Context(), "ws://"+host+"/api/scenes/"+info.Id+"/events", nil)
	require.NoError(t, err)
	defer func() { _ = ws.CloseNow() }()
	for range 8 {
		_, _, err := ws.Read(t.Context())
		require.NoError(t, err)
	}
}

func TestOnlyAProxyThatSaysWhoSomebodyIsOpensTheServerToOthers(t *testing.T) {
	r := newRig(t, false)
	public, err := url.Parse("https://shots.example")
	require.NoError(t, err)
	address := r.beside(func(a *httpapi.API) { a.Public, a.UserHeader = public, "X-Forwarded-User" })
	ask := func(host, origin, user string) int {
		req, err := http.NewRequest("GET", address+"/api/scenes", nil)
		require.NoError(t, err)
		req.Host = host
		if origin != "" {
			req.Header.Set("Origin", origin)
		}
		if user != "" {
			req.Header.Set("X-Forwarded-User", user)
		}
		resp, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_ = resp.Body.Close()
		return resp.StatusCode
	}
	assert.Equal(t, 200, ask("shots.example", "https://shots.example", "ida"))
	assert.Equal(t, 401, ask("shots.example", "", ""))
	assert.Equal(t, 403, ask("shots.example", "http://shots.example", "ida"), "another scheme is another site")
	assert.Equal(t, 403, ask("elsewhere.example", "", "ida"))
	local := strings.TrimPrefix(address, "http://")
	assert.Equal(t, 200, ask(local, "http://"+local, ""))
	assert.Equal(t, 403, ask(local, "https://"+local, ""))
}

func TestDeliveriesTellWhoIsThere(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(short())
	l := r.watch(info.Id, "ida")
	l.hear(httpapi.EventKindHello)
	d := r.deliver(info.Id, m{"assembly": "cut"})
	assert.Equal(t, d.Id, *l.hear(httpapi.EventKindDelivery).Delivery)
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/cancel", nil, nil))
	assert.Equal(t, d.Id, *l.hear(httpapi.EventKindDelivery).Delivery)
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/resume", nil, nil))
	assert.Equal(t, d.Id, *l.hear(httpapi.EventKindDelivery).Delivery)
}

func TestWhatIsHeavyIsRefusedOrTakesItsTurn(t *testing.T) {
	r := newRig(t, false)
	var group sync.WaitGroup
	var most runtime.MemStats
	stop := make(chan struct{})
	go func() {
		for {
			select {
			case <-stop:
				return
			case <-time.After(10 * time.Millisecond):
				var now runtime.MemStats
				runtime.ReadMemStats(&now)
				if now.HeapInuse > most.HeapInuse {
					most = now
				}
			}
		}
	}()
	for _, c := range heavytest.Requests() {
		for n := range 2 {
			if n > 0 && (c.Path == "/panels" || c.Path == "/images") {
				continue // once is long enough; there are several pictures anyway
			}
			name := c.Name
			group.Go(func() {
				resp, err := http.Post(r.server.URL+"/api"+c.Path, "application/json", strings.NewReader(c.Body))
				if !assert.NoError(t, err, name) {
					return
				}
				defer func() { _ = resp.Body.Close() }()
				said, err := io.ReadAll(resp.Body)
				assert.NoError(t, err, name)
				assert.Contains(t, string(said), c.Says, name)
			})
		}
	}
	group.Wait()
	close(stop)
	t.Logf("at most %d MB in use", most.HeapInuse>>20)
}
