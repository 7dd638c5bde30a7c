package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand"
	"net/http"
	"slices"
	"strings"
	gosync "sync"
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/internal/demo"
	"proscen/internal/httpapi"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// bystander is a client that knows only what things are now, so that many of them
// take little of the machine that the server runs on.
type bystander struct {
	r        *rig
	scene    string
	mu       gosync.Mutex
	revision int
	now      map[string]json.RawMessage // collection/id
	made     map[string]time.Time
	waits    []time.Duration
	again    int // posts that did not fit and were made anew
}

func (b *bystander) take(list []httpapi.Edit, all *gosync.Map) {
	for _, e := range list {
		if e.Revision != b.revision+1 || e.Patch == nil {
			continue
		}
		b.revision = e.Revision
		for _, c := range *e.Patch {
			b.now[c.Collection+"/"+c.ID] = c.After
		}
		if at, ok := all.Load(e.Id); ok && b.made[e.Id].IsZero() {
			b.waits = append(b.waits, time.Since(at.(time.Time)))
		}
	}
}

func (b *bystander) catchUp(all *gosync.Map) {
	var since httpapi.Since
	if b.r.call("GET", fmt.Sprintf("/scenes/%s/since/%d", b.scene, b.revision), nil, &since) == 200 {
		b.take(since.Edits, all)
	}
}

// edit posts a new note for a thing until it fits.
func (b *bystander) edit(id, thing string, all *gosync.Map) error {
	collection, of, _ := strings.Cut(thing, "/")
	for {
		b.mu.Lock()
		before, base := b.now[thing], b.revision
		if b.made[id].IsZero() {
			b.made[id] = time.Now()
			all.Store(id, b.made[id])
		}
		b.mu.Unlock()
		var fields map[string]json.RawMessage
		if err := json.Unmarshal(before, &fields); err != nil {
			return fmt.Errorf("%s: %w", thing, err)
		}
		fields["name"], _ = json.Marshal(id)
		after, _ := json.Marshal(fields)
		body, _ := json.Marshal(m{"id": id, "base": base, "kind": "do", "label": "name it", "patch": []m{{"collection": collection, "id": of, "before": before, "after": json.RawMessage(after)}}})
		res, err := http.Post(b.r.server.URL+"/api/scenes/"+b.scene+"/edits", "application/json", bytes.NewReader(body))
		if err != nil {
			return err
		}
		_ = res.Body.Close()
		switch res.StatusCode {
		case 200:
			return nil
		case 409:
			b.mu.Lock()
			b.again++
			b.catchUp(all)
			b.mu.Unlock()
		default:
			return fmt.Errorf("status %d", res.StatusCode)
		}
	}
}

// A crowd works on one scene, each on a thing of their own and at times on a shot
// that all work on: every edit is stored once, and all have the same in the end.
func TestACrowdInOneScene(t *testing.T) {
	r := newRig(t, false)
	doc := demo.Scene()
	for i := range *people {
		doc.Markers[fmt.Sprintf("own-%d", i)] = scene.Marker{Clock: scene.StoryClock, Frame: i, Name: "own", Color: "#ffffff"}
	}
	info := r.scene(doc)
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	var all gosync.Map
	crowd := make([]*bystander, *people)
	for i := range crowd {
		b := &bystander{r: r, scene: info.Id, now: map[string]json.RawMessage{}, made: map[string]time.Time{}}
		crowd[i] = b
		for _, table := range doc.Tables() {
			for _, id := range table.IDs() {
				b.now[table.Name()+"/"+id] = table.Get(id)
			}
		}
		conn, _, err := websocket.Dial(ctx, strings.Replace(r.server.URL, "http", "ws", 1)+fmt.Sprintf("/api/scenes/%s/events?tab=b%d", info.Id, i), nil)
		require.NoError(t, err)
		conn.SetReadLimit(8 << 20)
		defer func() { _ = conn.CloseNow() }()
		go func() {
			for {
				var e httpapi.Event
				if wsjson.Read(ctx, conn, &e) != nil {
					return
				}
				b.mu.Lock()
				if e.Edits != nil {
					b.take(*e.Edits, &all)
				}
				if e.Revision != nil && *e.Revision > b.revision {
					b.catchUp(&all)
				}
				b.mu.Unlock()
			}
		}()
	}
	var group gosync.WaitGroup
	start := time.Now()
	for i, b := range crowd {
		group.Go(func() {
			random := rand.New(rand.NewSource(int64(i)))
			every := time.Duration(float64(time.Second) / *perEach)
			for n := 0; time.Since(start) < time.Duration(*seconds)*time.Second; n++ {
				thing := fmt.Sprintf("markers/own-%d", i)
				if random.Intn(20) == 0 {
					thing = "shots/shot-050"
				}
				if err := b.edit(fmt.Sprintf("b%d-%d", i, n), thing, &all); err != nil {
					t.Error(err)
					return
				}
				time.Sleep(time.Until(start.Add(time.Duration(n+1) * every)))
			}
		})
	}
	group.Wait()
	took := time.Since(start)
	var end httpapi.Scene
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id, nil, &end))
	stored, revision, err := storedEdits(r.store, info.Id)
	require.NoError(t, err)
	once := map[string]int{}
	for _, id := range stored {
		once[id]++
	}
	made, again := 0, 0
	var waits []time.Duration
	now, err := scene.Decode(end.Document)
	require.NoError(t, err)
	for i, b := range crowd {
		require.Eventually(t, func() bool { b.mu.Lock(); defer b.mu.Unlock(); return b.revision == revision }, 20*time.Second, 10*time.Millisecond, "%d hears everything", i)
		b.mu.Lock()
		for id := range b.made {
			assert.Equal(t, 1, once[id], id)
		}
		made, again = made+len(b.made), again+b.again
		waits = append(waits, b.waits...)
		for _, id := range []string{"markers/own-0", "shots/shot-050"} {
			collection, of, _ := strings.Cut(id, "/")
			assert.Equal(t, string(now.Table(collection).Get(of)), string(b.now[id]))
		}
		b.mu.Unlock()
	}
	slices.Sort(waits)
	require.NotEmpty(t, waits)
	t.Logf("%d people, %.0f s: %d edits made and stored (%.0f a second), %d posts were made anew; heard by the others %v after they were made (median), %v (95 %%)",
		*people, took.Seconds(), made, float64(made)/took.Seconds(), again, waits[len(waits)/2].Round(time.Millisecond), waits[len(waits)*95/100].Round(time.Millisecond))
	assert.Equal(t, len(stored), made)
}
