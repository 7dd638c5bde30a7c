package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand"
	"net/http"
	"slices"
	"strings"
	gosync "sync"
	"sync/atomic"
	"testing"
	"time"

	"proscen/core/local"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/sync"
	"proscen/internal/demo"
	"proscen/internal/httpapi"
	"proscen/internal/store"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	people  = flag.Int("people", 6, "clients at work on one scene")
	seconds = flag.Int("seconds", 3, "how long they work")
	perEach = flag.Float64("rate", 5, "edits a second of each")
)

// worker is a browser without a picture: the real engine over the real API.
type worker struct {
	r     *rig
	t     *testing.T
	scene string
	mu    gosync.Mutex
	c     *local.Copy
	s     *session.Session
	made  map[string]time.Time
	lost  int
	sent  int
	heard chan time.Duration // from the making of an edit to its being seen here
	wake  chan struct{}
	all   *gosync.Map // when edits were made, by id
}

func (w *worker) open(name string) {
	var got httpapi.Scene
	require.Equal(w.t, 200, w.r.call("GET", "/scenes/"+w.scene, nil, &got))
	doc, err := scene.Decode(got.Document)
	require.NoError(w.t, err)
	w.s = session.Open(doc, store.NewID)
	w.c = local.Join(session.NewSides(w.s), got.Revision, name, name, nil, store.NewID)
}

func edits(list []httpapi.Edit) []sync.Edit {
	out := make([]sync.Edit, len(list))
	for i, e := range list {
		out[i] = sync.Edit{ID: e.Id, Revision: e.Revision, Kind: sync.Kind(e.Kind), Label: e.Label}
		if e.Person != nil {
			out[i].Person = *e.Person
		}
		if e.Patch != nil {
			out[i].Patch = patch.Patch(*e.Patch)
		}
	}
	return out
}

// receive takes edits in; the caller holds the lock.
func (w *worker) receive(list []sync.Edit) {
	r, err := w.c.Receive(list)
	if err != nil {
		w.t.Error(err)
	}
	w.lost += len(r.Lost)
	for _, e := range list {
		if at, ok := w.all.Load(e.ID); ok && w.made[e.ID].IsZero() {
			select {
			case w.heard <- time.Since(at.(time.Time)):
			default:
			}
		}
	}
	if r.Behind {
		w.catchUp()
	}
}

func (w *worker) catchUp() {
	var since httpapi.Since
	if assert.Equal(w.t, 200, w.r.call("GET", fmt.Sprintf("/scenes/%s/since/%d", w.scene, w.c.Revision()), nil, &since)) {
		w.receive(edits(since.Edits))
	}
}

// listen takes in what is told.
func (w *worker) listen(ctx context.Context, conn *websocket.Conn) {
	for {
		var e httpapi.Event
		if wsjson.Read(ctx, conn, &e) != nil {
			return
		}
		w.mu.Lock()
		switch {
		case e.Edits != nil:
			w.receive(edits(*e.Edits))
		case e.Revision != nil && *e.Revision > w.c.Revision():
			w.catchUp()
		}
		w.mu.Unlock()
	}
}

// send posts what waits, one after the other, until done is closed and nothing waits.
func (w *worker) send(done <-chan struct{}) {
	for {
		w.mu.Lock()
		e, ok := w.c.Next()
		w.mu.Unlock()
		if !ok {
			select {
			case <-w.wake:
				continue
			case <-done:
				w.mu.Lock()
				_, more := w.c.Next()
				w.mu.Unlock()
				if !more {
					return
				}
				continue
			}
		}
		body, _ := json.Marshal(e)
		res, err := http.Post(w.r.server.URL+"/api/scenes/"+w.scene+"/edits", "application/json", bytes.NewReader(body))
		if err != nil {
			w.t.Error(err)
			return
		}
		var answer struct {
			httpapi.Edit
			Title string
		}
		err = json.NewDecoder(res.Body).Decode(&answer)
		_ = res.Body.Close()
		w.mu.Lock()
		w.sent++
		switch {
		case err == nil && res.StatusCode == 200:
			w.receive(edits([]httpapi.Edit{answer.Edit}))
		case res.StatusCode == 409:
			w.catchUp()
		default:
			w.t.Errorf("status %d: %s", res.StatusCode, answer.Title)
		}
		w.mu.Unlock()
	}
}

// Many people work on one scene at once over the real API; nothing that was
// acknowledged is lost, and in the end all have the same. Each is a whole copy with its
// evaluation, so a machine holds few of them; see the crowd for many.
func TestManyPeopleWorkOnOneScene(t *testing.T) {
	r := newRig(t, false)
	info := r.scene(demo.Scene())
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	var all gosync.Map
	workers := make([]*worker, *people)
	done := make(chan struct{})
	var group, senders gosync.WaitGroup
	var refused atomic.Int64
	for i := range workers {
		w := &worker{r: r, t: t, scene: info.Id, made: map[string]time.Time{}, heard: make(chan time.Duration, 100_000), wake: make(chan struct{}, 1), all: &all}
		workers[i] = w
		w.open(fmt.Sprint("p", i))
		conn, _, err := websocket.Dial(ctx, strings.Replace(r.server.URL, "http", "ws", 1)+fmt.Sprintf("/api/scenes/%s/events?tab=p%d", info.Id, i), nil)
		require.NoError(t, err)
		conn.SetReadLimit(8 << 20)
		defer func() { _ = conn.CloseNow() }()
		go w.listen(ctx, conn)
		senders.Go(func() { w.send(done) })
		group.Go(func() {
			random := rand.New(rand.NewSource(int64(i)))
			tick := time.NewTicker(time.Duration(float64(time.Second) / *perEach))
			defer tick.Stop()
			for end := time.Now().Add(time.Duration(*seconds) * time.Second); time.Now().Before(end); <-tick.C {
				w.mu.Lock()
				name, args := work(random, i)
				if e, err := w.c.Run("", name, args); err != nil {
					refused.Add(1)
				} else if len(e.Patch) > 0 {
					now := time.Now()
					w.made[e.ID] = now
					all.Store(e.ID, now)
				}
				w.mu.Unlock()
				select {
				case w.wake <- struct{}{}:
				default:
				}
			}
		})
	}
	start := time.Now()
	group.Wait()
	close(done)
	senders.Wait()
	took := time.Since(start)
	var end httpapi.Scene
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id, nil, &end))
	made, lost, posts := 0, 0, 0
	var waits []time.Duration
	for i, w := range workers {
		w.mu.Lock()
		w.catchUp()
		assert.Equal(t, string(end.Document), string(w.s.Doc.Encode()), "client %d", i)
		made, lost, posts = made+len(w.made), lost+w.lost, posts+w.sent
		w.mu.Unlock()
		close(w.heard)
		for d := range w.heard {
			waits = append(waits, d)
		}
	}
	log := map[string]int{}
	stored, _, err := storedEdits(r.store, info.Id)
	require.NoError(t, err)
	for _, e := range stored {
		log[e]++
	}
	missing := 0
	for _, w := range workers {
		for id := range w.made {
			switch log[id] {
			case 0:
				missing++
			case 1:
			default:
				t.Errorf("%s is in the log %d times", id, log[id])
			}
		}
	}
	assert.LessOrEqual(t, missing, lost+made/20, "what is not in the log was said to be lost, or had nothing left to do")
	slices.Sort(waits)
	require.NotEmpty(t, waits)
	t.Logf("%d people, %.0f s: %d edits made, %d stored (%.0f a second), %d could not be kept, %d refused at once, %.2f posts for each; seen by the others after %v (median), %v (95 %%)",
		*people, took.Seconds(), made, len(stored), float64(len(stored))/took.Seconds(), lost, refused.Load(), float64(posts)/float64(max(1, made)),
		waits[len(waits)/2].Round(time.Millisecond), waits[len(waits)*95/100].Round(time.Millisecond))
}

func storedEdits(s *store.Store, id string) (ids []string, revision int, err error) {
	for {
		edits, now, err := s.Since(context.Background(), id, revision)
		if err != nil {
			return nil, 0, err
		}
		if len(edits) == 0 && now > revision { // too many at once: one by one
			for revision < now {
				e, err := s.Edit(context.Background(), id, revision+1)
				if err != nil {
					return nil, 0, err
				}
				ids, revision = append(ids, e.ID), e.Revision
			}
			continue
		}
		for _, e := range edits {
			ids, revision = append(ids, e.ID), e.Revision
		}
		if revision == now {
			return ids, revision, nil
		}
	}
}

// work draws what somebody does: mostly on things of their own, at times on what
// all work on.
func work(r *rand.Rand, who int) (string, json.RawMessage) {
	args := m{}
	name := ""
	camera := fmt.Sprintf("camera-%d", 2+who%10)
	switch r.Intn(10) {
	case 0, 1, 2:
		name, args = "place", m{"id": camera, "frame": 0, "position": []float64{r.Float64() * 10, 2, r.Float64() * 10}}
	case 3, 4, 5:
		name, args = "markerAdd", m{"clock": "story", "frame": r.Intn(1000)}
	case 6:
		name, args = "value", m{"node": camera, "channel": "lens.focal", "frame": r.Intn(1000), "value": 20 + r.Intn(60), "key": true}
	case 7:
		name, args = "shotSet", m{"ids": []string{fmt.Sprintf("shot-%03d", 10*(1+r.Intn(11)))}, "change": m{"notes": fmt.Sprint("note ", r.Intn(1e6))}}
	case 8:
		name, args = "shotTrim", m{"id": fmt.Sprintf("shot-%03d", 10*(1+r.Intn(11))), "edge": "out", "by": 1 - 2*r.Intn(2), "ripple": true}
	case 9:
		name, args = "set", m{"collection": "nodes", "id": "ida", "merge": m{"locked": r.Intn(2) == 0}, "label": "lock"}
	}
	body, _ := json.Marshal(args)
	return name, body
}
