package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/internal/blobs"
	"proscen/internal/httpapi"
	"proscen/internal/live"
	"proscen/internal/pgtest"
	"proscen/internal/render"
	"proscen/internal/store"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var quiet = slog.New(slog.DiscardHandler)

// rig is a server on a database of its own.
type rig struct {
	t      *testing.T
	server *httptest.Server
	store  *store.Store
	bucket *blobs.Bucket
	dir    string
	url    string
}

// newRig starts a server; with a worker it also renders.
func newRig(t *testing.T, worker bool) *rig {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	r := &rig{t: t, dir: t.TempDir(), url: pgtest.Database(t)}
	var err error
	r.store, err = store.Open(ctx, r.url)
	require.NoError(t, err)
	r.bucket, err = blobs.Open(ctx, r.dir)
	require.NoError(t, err)
	var w *render.Worker
	if worker {
		w = &render.Worker{Store: r.store, Bucket: r.bucket, Threads: 2, Timing: render.DefaultTiming, Maker: "test", Log: quiet}
	}
	q, err := render.NewQueue(r.store, w, quiet)
	require.NoError(t, err)
	if worker {
		require.NoError(t, q.Start(ctx))
	}
	hub := live.NewHub(httpapi.Encode)
	r.store.Told(hub.Tell)
	go hub.Run(ctx, r.store, quiet)
	handler, err := (&httpapi.API{Store: r.store, Queue: q, Bucket: r.bucket, Hub: hub, Log: quiet}).Handler()
	require.NoError(t, err)
	r.server = httptest.NewServer(handler)
	t.Cleanup(func() {
		cancel()
		if worker {
			q.Wait()
		}
		r.server.Close()
		_ = r.bucket.Close()
		r.store.Close()
	})
	return r
}

// call sends a request and decodes the answer into out.
func (r *rig) call(method, path string, body, out any) int {
	r.t.Helper()
	var b io.Reader
	switch v := body.(type) {
	case nil:
	case string:
		b = strings.NewReader(v)
	default:
		raw, err := json.Marshal(v)
		require.NoError(r.t, err)
		b = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, r.server.URL+"/api"+path, b)
	require.NoError(r.t, err)
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(r.t, err)
	defer func() { _ = res.Body.Close() }()
	raw, err := io.ReadAll(res.Body)
	require.NoError(r.t, err)
	if out != nil {
		require.NoError(r.t, json.Unmarshal(raw, out), "%s", raw)
	}
	return res.StatusCode
}

func (r *rig) scene(doc *scene.Document) httpapi.SceneInfo {
	r.t.Helper()
	var info httpapi.SceneInfo
	status := r.call("POST", "/scenes", map[string]any{"production": "P", "title": "T", "document": json.RawMessage(doc.Encode())}, &info)
	require.Equal(r.t, 201, status)
	return info
}

type m = map[string]any

func TestEditsThroughTheAPI(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(scenetest.Small())
	var got httpapi.Scene
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id, nil, &got))
	doc, err := scene.Decode(got.Document)
	require.NoError(t, err)
	s := session.Open(doc, store.NewID)
	op, err := s.Run("cutTo", json.RawMessage(`{"assembly":"cut","at":20,"camera":"b"}`))
	require.NoError(t, err)

	edit := m{"id": "e1", "base": 0, "label": op.Label, "kind": "do", "patch": op.Patch}
	var made httpapi.Edit
	require.Equal(t, 200, r.call("POST", "/scenes/"+info.Id+"/edits", edit, &made))
	assert.Equal(t, 1, made.Revision)

	var p httpapi.Problem
	var again httpapi.Edit
	require.Equal(t, 200, r.call("POST", "/scenes/"+info.Id+"/edits", edit, &again), "sent twice")
	assert.Equal(t, 1, again.Revision)
	require.NotNil(t, again.Patch)
	edit["id"] = "e2"
	assert.Equal(t, 409, r.call("POST", "/scenes/"+info.Id+"/edits", edit, &p))
	require.NotNil(t, p.Revision)
	assert.Equal(t, 1, *p.Revision)
	assert.Contains(t, p.Title, "has gone on to edit 1")

	zero := `{"id":"e3","base":1,"label":"x","kind":"do","patch":[{"collection":"shots","id":"z","after":{"lane":"main","number":"9","camera":"a","screenIn":500,"screenOut":500,"storyIn":0,"speed":1}}]}`
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/edits", zero, &p))
	require.NotNil(t, p.Fields)
	assert.Equal(t, "shots/z/screenOut", (*p.Fields)[0].Path)

	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/edits", m{"id": "e4", "base": 1, "label": "x", "kind": "maybe", "patch": op.Patch}, &p))
	assert.Equal(t, 400, r.call("POST", "/scenes/"+info.Id+"/edits", "{nonsense", &p))
	assert.Equal(t, 404, r.call("GET", "/scenes/none", nil, &p))
	assert.Contains(t, p.Title, "cannot be found")
	assert.Equal(t, 404, r.call("GET", "/nothing", nil, &p))

	var history []httpapi.Edit
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/edits", nil, &history))
	require.Len(t, history, 1)
	assert.Equal(t, op.Label, history[0].Label)
	require.NotNil(t, history[0].Patch)
	assert.Nil(t, made.Patch, "who sent it has it")
	var one httpapi.Edit
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/edits/1", nil, &one))
	assert.Equal(t, history[0], one)
	assert.Equal(t, 404, r.call("GET", "/scenes/"+info.Id+"/edits/2", nil, &p))
	assert.Contains(t, p.Title, "edit cannot be found")
	var since httpapi.Since
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/since/0", nil, &since))
	require.Len(t, since.Edits, 1)
	assert.Equal(t, one, since.Edits[0])
	var known []string
	require.Equal(t, 200, r.call("POST", "/scenes/"+info.Id+"/known", []string{"e1", "e2"}, &known))
	assert.Equal(t, []string{"e1"}, known)
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/known", make([]string, 10_001), &p))
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/at/0", nil, &got))
	assert.Equal(t, string(doc0(t, scenetest.Small()).Encode()), string(got.Document))
	var v httpapi.Version
	require.Equal(t, 201, r.call("POST", "/scenes/"+info.Id+"/versions", m{"revision": 0, "name": "first"}, &v))
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/versions", m{"revision": 0, "name": " "}, &p))
	assert.Equal(t, 409, r.call("POST", "/scenes/"+info.Id+"/versions", m{"revision": 1, "name": "first"}, &p))
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/versions/"+v.Id, nil, &got))
	require.Equal(t, 204, r.call("DELETE", "/scenes/"+info.Id+"/versions/"+v.Id, nil, nil))
	assert.Equal(t, 404, r.call("DELETE", "/scenes/"+info.Id+"/versions/"+v.Id, nil, &p))
}

// doc0 is a document as the rig stores it.
func doc0(t *testing.T, d *scene.Document) *scene.Document {
	t.Helper()
	d.Settings.Production, d.Settings.Title = "P", "T"
	return d
}

func TestScenesFromBadDocumentsAreRefused(t *testing.T) {
	r := newRig(t, false)
	var p httpapi.Problem
	circle := scenetest.Small()
	box := circle.Nodes["box"]
	box.Parent = "box"
	circle.Nodes["box"] = box
	for _, c := range []struct{ document, says string }{
		{string(circle.Encode()), "closes a circle"},
		{`{"schema":"other/1"}`, "other/1"},
		{`5`, "not a scene document"},
	} {
		assert.Equal(t, 422, r.call("POST", "/scenes", m{"production": "P", "title": "T", "document": json.RawMessage(c.document)}, &p), c.says)
		assert.Contains(t, p.Title, c.says)
	}
	assert.Equal(t, 422, r.call("POST", "/scenes", m{"production": " ", "title": "T"}, &p))
	var empty httpapi.SceneInfo
	assert.Equal(t, 201, r.call("POST", "/scenes", m{"production": "P", "title": "New"}, &empty))
	assert.Equal(t, 409, r.call("POST", "/scenes", m{"production": "P", "title": "New"}, &p))
	assert.Contains(t, p.Title, "another title")
	var all []httpapi.SceneInfo
	r.call("GET", "/scenes", nil, &all)
	assert.Len(t, all, 1, "nothing was left of the refused ones")

	// A scene without shots has nothing to deliver.
	assert.Equal(t, 422, r.call("POST", "/scenes/"+empty.Id+"/deliveries", m{"assembly": "first-cut"}, &p))
	assert.Contains(t, p.Title, "nothing to deliver")
}

func TestOnlyThisMachineIsServed(t *testing.T) {
	r := newRig(t, false)
	for _, c := range []struct {
		host, origin string
		want         int
	}{
		{"", "", 200}, {"localhost:99", "", 200}, {"evil.example", "", 403}, {"", "http://evil.example", 403},
	} {
		req, _ := http.NewRequest("GET", r.server.URL+"/api/health", nil)
		if c.host != "" {
			req.Host = c.host
		}
		if c.origin != "" {
			req.Header.Set("Origin", c.origin)
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.Equal(t, c.want, res.StatusCode, "%q %q", c.host, c.origin)
	}
	assert.NoError(t, httpapi.CheckListen("127.0.0.1:8470"))
	assert.NoError(t, httpapi.CheckListen("[::1]:0"))
	for _, a := range []string{"0.0.0.0:80", ":80", "192.0.2.1:80", "host.example:80"} {
		assert.ErrorContains(t, httpapi.CheckListen(a), "without accounts", a)
	}
	assert.ErrorContains(t, httpapi.CheckListen("8470"), "cannot be read")
}

// line is a browser's connection to a scene.
type line struct {
	t    *testing.T
	ctx  context.Context
	conn *websocket.Conn
}

func (r *rig) watch(scene, tab string) line {
	r.t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	r.t.Cleanup(cancel)
	conn, _, err := websocket.Dial(ctx, strings.Replace(r.server.URL, "http", "ws", 1)+"/api/scenes/"+scene+"/events?tab="+tab, nil)
	require.NoError(r.t, err)
	r.t.Cleanup(func() { _ = conn.CloseNow() })
	return line{r.t, ctx, conn}
}

// hear waits for an event of a kind.
func (l line) hear(kind httpapi.EventKind) httpapi.Event {
	l.t.Helper()
	for {
		var e httpapi.Event
		require.NoError(l.t, wsjson.Read(l.ctx, l.conn, &e), "waiting for %s", kind)
		if e.Kind == kind {
			return e
		}
	}
}

// Two scenes, and two browsers in one of them: they hear its edits with their
// patches, see each other come, drag and go, and nothing of the other scene.
func TestBrowsersHearEachOther(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(scenetest.Small())
	var other httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "P", "title": "Other"}, &other))
	ida, elsewhere := r.watch(info.Id, "ida"), r.watch(other.Id, "elsewhere")
	hello := ida.hear(httpapi.EventKindHello)
	assert.Equal(t, 0, *hello.Revision)
	assert.Empty(t, *hello.People)
	require.NoError(t, wsjson.Write(ida.ctx, ida.conn, m{"tab": "lies", "person": "p1", "name": "Ida", "color": "#e0a458"}))
	var tomas line
	require.Eventually(t, func() bool { // until the room has heard it
		tomas = r.watch(info.Id, "tomas")
		return len(*tomas.hear(httpapi.EventKindHello).People) == 1
	}, 10*time.Second, 20*time.Millisecond)
	drag := m{"operation": "place", "arguments": m{"id": "box"}}
	require.NoError(t, wsjson.Write(tomas.ctx, tomas.conn, m{"tab": "tomas", "person": "p2", "name": "Tomas", "color": "#6fa8dc", "drag": drag}))
	here := ida.hear(httpapi.EventKindHere).Here
	assert.Equal(t, []string{"tomas", "Tomas", "place", `{"id":"box"}`}, []string{here.Tab, here.Name, here.Drag.Operation, string(here.Drag.Arguments)})

	edit := m{"id": "e1", "base": 0, "label": "mark", "kind": "do", "tab": "ida", "author": "Ida", "patch": []m{{"collection": "markers", "id": "x", "after": m{"clock": "story", "frame": 3, "name": "x", "color": "#000000"}}}}
	require.Equal(t, 200, r.call("POST", "/scenes/"+info.Id+"/edits", edit, nil))
	for _, l := range []line{ida, tomas} {
		e := l.hear(httpapi.EventKindEdit)
		require.Len(t, *e.Edits, 1)
		assert.Equal(t, "Ida", (*e.Edits)[0].Author)
		assert.Len(t, *(*e.Edits)[0].Patch, 1)
	}
	// What another server has stored is told without patches.
	require.NoError(t, r.store.Notify(ida.ctx, store.Event{Scene: info.Id, Kind: store.EditEvent, Revision: 7, Origin: "another"}))
	for {
		if e := ida.hear(httpapi.EventKindEdit); *e.Revision == 7 {
			assert.Nil(t, e.Edits)
			break
		}
	}
	_ = tomas.conn.Close(websocket.StatusNormalClosure, "")
	assert.Equal(t, "tomas", *ida.hear(httpapi.EventKindGone).Tab)
	require.Equal(t, 200, r.call("POST", "/scenes/"+other.Id+"/edits", edit, nil))
	assert.Equal(t, 1, *elsewhere.hear(httpapi.EventKindEdit).Revision)
}

// short is the small scene with shots of a few frames in a small format.
func short() *scene.Document {
	d := scenetest.Small()
	d.Formats["wide"] = scene.Format{Name: "small", Width: 160, Height: 90}
	return d
}

func (r *rig) deliver(scene string, body m) httpapi.Delivery {
	r.t.Helper()
	var d httpapi.Delivery
	require.Equal(r.t, 201, r.call("POST", "/scenes/"+scene+"/deliveries", body, &d))
	return d
}

// await asks for a delivery until all its outputs have come to an end.
func (r *rig) await(scene, id string) httpapi.Delivery {
	r.t.Helper()
	for end := time.Now().Add(2 * time.Minute); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		var all []httpapi.Delivery
		r.call("GET", "/scenes/"+scene+"/deliveries", nil, &all)
		for _, d := range all {
			open := 0
			for _, o := range d.Outputs {
				if o.State == httpapi.OutputStateWaiting || o.State == httpapi.OutputStateRendering {
					open++
				}
			}
			if d.Id == id && open == 0 {
				return d
			}
		}
	}
	r.t.Fatal("the delivery does not end")
	return httpapi.Delivery{}
}

func TestDeliveryFromRequestToVideo(t *testing.T) {
	r := newRig(t, true)
	info := r.scene(short())
	d := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut"}).Id)
	require.Len(t, d.Outputs, 3)
	for _, o := range d.Outputs {
		require.Equal(t, httpapi.OutputStateDone, o.State, "%v", o.Error)
		assert.Equal(t, o.Frames, o.FramesDone)
		file := r.dir + "/" + o.File
		probe, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames,r_frame_rate,width,height,pix_fmt,codec_name", "-of", "csv=p=0", file).Output()
		require.NoError(t, err)
		assert.Equal(t, "h264,160,90,yuv420p,24/1,48", strings.TrimSpace(string(probe)))
	}
	assert.Contains(t, d.Outputs[1].File, "outputs/p/t-")
	assert.Contains(t, d.Outputs[1].File, "/delivery-001/cut/020/t_020_cam02_v001.mp4")

	// The video is served with ranges, and is what the manifest says.
	var manifest httpapi.Manifest
	require.Equal(t, 200, r.call("GET", "/deliveries/"+d.Id+"/manifest", nil, &manifest))
	require.Len(t, manifest.Outputs, 3)
	stored, err := os.ReadFile(r.dir + "/" + strings.Replace(d.Outputs[0].File, "cut/010/t_010_cam01_v001.mp4", "manifest.json", 1))
	require.NoError(t, err)
	assert.Contains(t, string(stored), manifest.Outputs[2].Sha256)
	req, _ := http.NewRequest("GET", r.server.URL+"/api/outputs/"+d.Outputs[0].Id+"/file", nil)
	req.Header.Set("Range", "bytes=4-7")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	body, _ := io.ReadAll(res.Body)
	_ = res.Body.Close()
	assert.Equal(t, 206, res.StatusCode)
	assert.Equal(t, "ftyp", string(body))
	res, err = http.Get(r.server.URL + "/api/outputs/" + d.Outputs[0].Id + "/picture")
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, "image/jpeg", res.Header.Get("Content-Type"))

	// A second delivery gets the next version and touches nothing.
	again := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "shots": []string{"s2"}, "quality": "rough"}).Id)
	require.Len(t, again.Outputs, 1)
	assert.Equal(t, 2, again.Outputs[0].Version)
	assert.NotEqual(t, d.Outputs[1].File, again.Outputs[0].File)
	left, err := os.ReadDir(r.dir + "/parts")
	if err == nil {
		for _, e := range left {
			inside, _ := os.ReadDir(r.dir + "/parts/" + e.Name())
			assert.Empty(t, inside, "parts are cleared away")
		}
	}
}

func TestCancelLeavesNoHalfFileAndResumeFinishes(t *testing.T) {
	r := newRig(t, true)
	doc := short()
	doc.Formats["wide"] = scene.Format{Name: "large", Width: 1920, Height: 1080}
	info := r.scene(doc)
	d := r.deliver(info.Id, m{"assembly": "cut", "width": 1920, "height": 1080, "quality": "fine"})
	for { // until something has been rendered
		var all []httpapi.Delivery
		r.call("GET", "/scenes/"+info.Id+"/deliveries", nil, &all)
		if all[0].Outputs[0].FramesDone > 0 {
			break
		}
		time.Sleep(30 * time.Millisecond)
	}
	var now httpapi.Delivery
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/cancel", nil, &now))
	for _, o := range now.Outputs {
		assert.Equal(t, httpapi.OutputStateCancelled, o.State)
	}
	time.Sleep(500 * time.Millisecond)
	found, _ := exec.Command("find", r.dir+"/outputs", "-name", "*.mp4*").Output()
	assert.Empty(t, string(found))
	var p httpapi.Problem
	assert.Equal(t, 404, r.call("GET", "/outputs/"+now.Outputs[0].Id+"/file", nil, &p))
	assert.Contains(t, p.Title, "not finished")

	// A fresh, small delivery goes through while the cancelled one stays so.
	small := r.await(info.Id, r.deliver(info.Id, m{"assembly": "cut", "shots": []string{"s1"}, "width": 160, "height": 90}).Id)
	assert.Equal(t, httpapi.OutputStateDone, small.Outputs[0].State)
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/resume", nil, &now))
	assert.Equal(t, httpapi.OutputStateWaiting, now.Outputs[1].State)
	assert.False(t, now.Paused)
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/pause", nil, &now))
	assert.True(t, now.Paused, "it is to go on")
	assert.Equal(t, httpapi.OutputStateCancelled, now.Outputs[1].State)
	require.Equal(t, 200, r.call("POST", "/deliveries/"+d.Id+"/cancel", nil, &now))
	assert.False(t, now.Paused)
}

func TestMissingEncoderIsSaidBeforeAnythingIsQueued(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(short())
	t.Setenv("PATH", t.TempDir())
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", m{"assembly": "cut"}, &p))
	assert.Contains(t, p.Title, "ffmpeg is not installed")
	for body, says := range map[string]string{
		`{"assembly":"cut","shots":[]}`:                   "no shot is chosen",
		`{"assembly":"cut","shots":["nope"]}`:             "no shot nope",
		`{"assembly":"cut","width":161,"height":90}`:      "must be even",
		`{"assembly":"cut","quality":"best"}`:             "choose rough, check or fine",
		`{"assembly":"cut","width":99999,"height":90000}`: "must be even and from 16",
	} {
		t.Setenv("PATH", os.Getenv("PATH")+":/usr/bin")
		assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", body, &p), body)
		assert.Contains(t, p.Title, says)
	}
	var all []httpapi.Delivery
	r.call("GET", "/scenes/"+info.Id+"/deliveries", nil, &all)
	assert.Empty(t, all)
}
