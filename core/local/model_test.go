package local_test

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"math/rand"
	"slices"
	"testing"

	"proscen/core/alternate"
	"proscen/core/local"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/sync"

	"github.com/stretchr/testify/require"
)

var (
	runs  = flag.Int("runs", 100, "random runs of the model checker")
	first = flag.Int("first", 0, "seed of the first of them")
)

// world is a server with a log, and clients whose messages are delayed, repeated,
// reordered and dropped.
type world struct {
	*rand.Rand
	doc      *scene.Document
	log      []sync.Edit
	answered map[string]bool // edits that were acknowledged to their author
	clients  []*tab
	n        int
}

// tab is a client in a browser, with what would survive its end.
type tab struct {
	*local.Copy
	s      *session.Session // the scene itself
	sides  *session.Sides
	in     string // the alternate that is worked in
	w      *world
	inbox  []sync.Edit // events on their way
	posted *sync.Edit  // a request on its way, which may be handled more than once
	made   map[string]bool
	lost   map[string]bool
	same   map[string]bool
}

func (w *world) newID() string {
	w.n++
	return fmt.Sprintf("e%d", w.n)
}

func (w *world) open(t *tab, waiting []sync.Edit) {
	doc, err := scene.Decode(w.doc.Encode())
	if err != nil {
		panic(err)
	}
	t.s = session.Open(doc, w.newID)
	var mine []sync.Edit
	for _, e := range w.log {
		if e.Person == t.person() {
			mine = append(mine, e)
		}
	}
	t.sides, t.in = session.NewSides(t.s), ""
	t.Copy = local.Join(t.sides, len(w.log), t.name(), t.person(), mine, w.newID)
	t.inbox, t.posted = nil, nil
	waiting = slices.DeleteFunc(slices.Clone(waiting), func(e sync.Edit) bool {
		return slices.ContainsFunc(w.log, func(l sync.Edit) bool { return l.ID == e.ID })
	})
	t.report(t.Adopt(waiting), nil)
}

func (t *tab) name() string   { return fmt.Sprintf("tab%d", slices.Index(t.w.clients, t)) }
func (t *tab) person() string { return fmt.Sprintf("p%d", slices.Index(t.w.clients, t)/2) } // two tabs each

func (t *tab) report(r local.Report, err error) {
	for _, l := range r.Lost {
		t.lost[l.Edit.ID] = true
	}
	for _, e := range r.Same {
		t.same[e.ID] = true
	}
	for _, id := range r.Found {
		delete(t.lost, id)
	}
	switch {
	case errors.Is(err, local.ErrAstray):
		panic("a copy went astray")
	case r.Behind:
		t.catchUp()
	}
}

// catchUp asks for the edits since.
func (t *tab) catchUp() {
	r, err := t.Receive(t.w.log[t.Revision():])
	t.report(r, err)
}

// accept is the server's side of a post: what was sent before is answered as it
// was then.
func (w *world) accept(e sync.Edit) (sync.Edit, error) {
	for _, l := range w.log {
		if l.ID == e.ID {
			return l, nil
		}
	}
	if err := e.Check(); err != nil {
		return e, err
	}
	if err := sync.Accept(w.doc, len(w.log), e); err != nil {
		return e, err
	}
	e.Revision = len(w.log) + 1
	w.log = append(w.log, e)
	for _, c := range w.clients {
		switch w.Intn(8) {
		case 0: // dropped
		case 1:
			c.inbox = append(c.inbox, e, e)
		default:
			c.inbox = append(c.inbox, e)
		}
	}
	answer := e
	answer.Patch = nil
	return answer, nil
}

// seen is what is worked in: an alternate as long as there is one.
func (t *tab) seen() *session.Session {
	s, err := t.sides.At(t.in)
	if err != nil {
		t.in = ""
		return t.s
	}
	return s
}

// alternates are laid on a scene in which many work.
func alternates(d *scene.Document) *scene.Document {
	d.Alternates["night"] = scene.Alternate{Name: "night"}
	d.Alternates["rain"] = scene.Alternate{Name: "rain", Parent: "night"}
	d.Alternates["tall"] = scene.Alternate{Name: "tall"}
	return d
}

func (t *tab) step() {
	w := t.w
	switch w.Intn(13) {
	case 12: // somebody works in another alternate
		t.seen().Cancel()
		if ids := append(t.s.Doc.Table("alternates").IDs(), "", ""); w.Intn(2) == 0 {
			t.in = ids[w.Intn(len(ids))]
			if shots := t.s.Doc.Table("shots").IDs(); len(shots) > 0 && w.Intn(3) == 0 { // or in one shot of it
				t.in = alternate.InShot(t.in, shots[w.Intn(len(shots))])
			}
		}
	case 0, 1, 2: // something is done
		name, args := operation(w.Rand, t.seen().Doc)
		if e, err := t.Run(t.in, name, args); err == nil && len(e.Patch) > 0 {
			t.made[e.ID] = true
		}
	case 3:
		if e, err := t.Turn([]sync.Kind{sync.Undo, sync.Undo, sync.Redo}[w.Intn(3)]); err == nil {
			t.made[e.ID] = true
		}
	case 4: // a drag begins, goes on, or ends
		name, args := operation(w.Rand, t.seen().Doc)
		_ = t.seen().Preview(name, args)
		if w.Intn(2) == 0 {
			other := w.clients[w.Intn(len(w.clients))]
			other.seen().Guest(t.name(), name, args)
		}
	case 5:
		t.seen().Cancel()
		for _, other := range w.clients {
			other.s.Guest(t.name(), "", nil)
			other.seen().Guest(t.name(), "", nil)
		}
	case 6, 7: // an event comes, not in order
		if len(t.inbox) > 0 {
			i := w.Intn(len(t.inbox))
			e := t.inbox[i]
			t.inbox = slices.Delete(t.inbox, i, i+1)
			r, err := t.Receive([]sync.Edit{e})
			t.report(r, err)
		}
	case 8, 9:
		if e, ok := t.Next(); ok {
			body, _ := json.Marshal(e)
			t.posted = &sync.Edit{}
			_ = json.Unmarshal(body, t.posted)
		}
	case 10:
		t.deliver()
	case 11:
		if w.Intn(6) == 0 { // the tab is closed or crashes, and is opened again
			w.open(t, t.Pending())
		}
	}
}

// deliver lets a request arrive, perhaps for the second time, and its answer be lost.
func (t *tab) deliver() {
	if t.posted == nil {
		return
	}
	e := *t.posted
	if t.w.Intn(3) > 0 {
		t.posted = nil
	}
	answer, err := t.w.accept(e)
	if t.w.Intn(4) == 0 {
		return
	}
	t.answer(e, answer, err)
}

func (t *tab) answer(e, answer sync.Edit, err error) {
	var clash sync.ClashError
	switch {
	case err == nil:
		t.w.answered[e.ID] = true
		r, err := t.Receive([]sync.Edit{answer})
		t.report(r, err)
	case errors.As(err, &clash):
		t.catchUp()
	default:
		r, err := t.Refused(e.ID, err.Error())
		t.report(r, err)
	}
}

// finish lets everything arrive.
func (t *tab) finish() {
	for _, s := range []*session.Session{t.s, t.seen()} {
		s.Cancel()
		for _, other := range t.w.clients {
			s.Guest(other.name(), "", nil)
		}
	}
	for id := range t.s.Doc.Alternates { // those that it does not work in any more
		if s, err := t.sides.At(id); err == nil {
			s.Cancel()
			for _, other := range t.w.clients {
				s.Guest(other.name(), "", nil)
			}
		}
	}
	t.catchUp()
	t.drain()
}

// drain sends what waits until nothing does.
func (t *tab) drain() {
	for range 1000 {
		e, ok := t.Next()
		if !ok {
			return
		}
		answer, err := t.w.accept(e)
		t.answer(e, answer, err)
	}
	panic("the edits of a tab are never accepted")
}

// Many clients run random operations over a bad network; in the end all have what
// the server has, nothing acknowledged is lost, and nothing is there twice.
func TestManyCopiesStayTogether(t *testing.T) {
	edits, lost, clashes, seed := 0, 0, 0, 0
	t.Cleanup(func() {
		if t.Failed() {
			t.Logf("it was seed %d", seed)
		}
	})
	for seed = *first; seed < *first+*runs; seed++ {
		w := &world{Rand: rand.New(rand.NewSource(int64(seed))), doc: alternates(scenetest.Rich()), answered: map[string]bool{}}
		for range 2 + w.Intn(7) {
			w.clients = append(w.clients, &tab{w: w, made: map[string]bool{}, lost: map[string]bool{}, same: map[string]bool{}})
		}
		for _, c := range w.clients {
			w.open(c, nil)
		}
		for range 20 * len(w.clients) {
			w.clients[w.Intn(len(w.clients))].step()
		}
		for _, c := range w.clients {
			c.finish()
		}
		for _, c := range w.clients {
			c.finish()
		}
		want := string(w.doc.Encode())
		require.Empty(t, w.doc.Validate(), "seed %d", seed)
		inLog := map[string]int{}
		for i, e := range w.log {
			require.Equal(t, i+1, e.Revision)
			inLog[e.ID]++
			require.Equal(t, 1, inLog[e.ID], "seed %d: %s is in the log twice", seed, e.ID)
		}
		for id := range w.answered {
			require.Equal(t, 1, inLog[id], "seed %d: %s was acknowledged", seed, id)
		}
		for i, c := range w.clients {
			require.Equal(t, want, string(c.s.Doc.Encode()), "seed %d, client %d", seed, i)
			c.sameAlternate(t, seed+i)
			for id := range c.lost {
				require.Zero(t, inLog[id], "seed %d: %s is in the log and said to be lost", seed, id)
			}
			for id := range c.made {
				require.True(t, inLog[id] == 1 || c.lost[id] || c.same[id], "seed %d: %s is gone without a word", seed, id)
			}
			lost += len(c.lost)
		}
		// The log leads to the document by itself.
		replay := alternates(scenetest.Rich())
		for _, e := range w.log {
			if e.Base+1 < e.Revision {
				clashes++
			}
			require.NoError(t, sync.Accept(replay, e.Revision-1, e))
		}
		require.Equal(t, want, string(replay.Encode()))
		edits += len(w.log)
		if n := seed - *first + 1; n%10_000 == 0 {
			t.Logf("%d runs", n)
		}
	}
	t.Logf("%d runs: %d edits, %d of them from older revisions, %d could not be kept", *runs, edits, clashes, lost)
	require.Greater(t, edits, *runs, "something was done")
	if *runs >= 100 {
		require.Positive(t, lost, "something clashed")
		require.Positive(t, clashes)
	}
}

// sameAlternate checks that an alternate that is followed is what it would be made anew.
func (t *tab) sameAlternate(test *testing.T, n int) {
	ids := t.w.doc.Table("alternates").IDs()
	if len(ids) == 0 {
		return
	}
	id := ids[n%len(ids)]
	if layers := alternate.Layers(t.w.doc); n%2 == 0 && len(layers) > 0 {
		id = layers[n/2%len(layers)]
	}
	fresh, _, err := alternate.Resolve(t.w.doc, id)
	followed, cannot := t.sides.At(id)
	if err != nil { // what it hung on was removed at the same time
		if _, shot := alternate.Parts(id); shot == "" {
			require.NotEmpty(test, alternate.Faults(t.w.doc)[id])
		}
		require.Error(test, cannot)
		return
	}
	require.NoError(test, cannot)
	require.Empty(test, fresh.Validate(), "alternate %s", id)
	require.Empty(test, patch.Between(fresh, followed.Doc), "%s, alternate %s", t.name(), id)
}

// operation draws an operation on what there is, with arguments that are at times
// wrong.
func operation(r *rand.Rand, d *scene.Document) (string, json.RawMessage) {
	of := func(collection string) string {
		ids := d.Table(collection).IDs()
		if len(ids) == 0 || r.Intn(20) == 0 {
			return "gone"
		}
		return ids[r.Intn(len(ids))]
	}
	type m = map[string]any
	at, by := r.Intn(300), r.Intn(60)-30
	name, args := "", m{}
	switch r.Intn(28) {
	case 24:
		name, args = "alternateAdd", m{"name": fmt.Sprint("a", at), "parent": of("alternates")}
	case 25:
		name, args = "alternateRemove", m{"id": of("alternates"), "keep": r.Intn(2) == 0}
	case 26:
		name, args = []string{"differencesBack", "differencesDown"}[r.Intn(2)], m{"ids": []string{of("differences")}}
	case 27:
		name, args = "differencesCopy", m{"ids": []string{of("differences")}, "to": of("alternates")}
	case 0:
		name, args = "shotAppend", m{"assembly": "cut", "camera": of("nodes"), "frames": 1 + r.Intn(40)}
	case 1:
		name, args = "shotInsert", m{"assembly": "cut", "camera": "a", "at": at, "frames": 1 + r.Intn(40)}
	case 2:
		name, args = "shotMove", m{"ids": []string{of("shots")}, "by": by}
	case 3:
		name, args = "shotTrim", m{"id": of("shots"), "edge": []string{"in", "out"}[r.Intn(2)], "by": by, "ripple": r.Intn(2) == 0}
	case 4:
		name, args = "shotSplit", m{"assembly": "cut", "at": at}
	case 5:
		name, args = "shotRemove", m{"ids": []string{of("shots")}, "close": r.Intn(2) == 0}
	case 6, 7:
		name, args = "cutTo", m{"assembly": "cut", "at": at, "camera": []string{"a", "b"}[r.Intn(2)]}
	case 8, 9:
		name, args = "place", m{"id": of("nodes"), "frame": at, "position": []int{at, by, 0}, "key": r.Intn(2) == 0}
	case 10, 11:
		name, args = "value", m{"node": []string{"a", "b"}[r.Intn(2)], "channel": []string{"lens.focal", "travel", "turn.pan"}[r.Intn(3)], "frame": at, "value": 20 + r.Intn(60), "key": true}
	case 12:
		name, args = "keyMove", m{"node": "b", "channel": "travel", "frames": []int{0, 96}, "by": by}
	case 13:
		name, args = "remove", m{"collection": []string{"nodes", "paths", "markers", "lines"}[r.Intn(4)], "ids": []string{of("nodes")}}
	case 14:
		name, args = "remove", m{"collection": "nodes", "ids": []string{of("nodes")}}
	case 15:
		name, args = "cameraAdd", m{"position": []int{at, 1, by}}
	case 16:
		name, args = "markerAdd", m{"clock": "screen", "assembly": "cut", "frame": at}
	case 17:
		name, args = "set", m{"collection": "nodes", "id": of("nodes"), "merge": m{"name": fmt.Sprint("n", at)}, "label": "rename"}
	case 18:
		name, args = "set", m{"collection": "nodes", "id": of("nodes"), "merge": m{"locked": r.Intn(2) == 0}, "label": "lock"}
	case 19:
		name, args = "shotSet", m{"ids": []string{of("shots")}, "change": m{"name": fmt.Sprint("s", at), "head": r.Intn(12)}}
	case 20:
		name, args = "shotJoin", m{"id": of("shots"), "kind": "dip", "frames": 4, "color": "#000000"}
	case 21:
		name, args = "assemblyDuplicate", m{"id": "cut", "name": fmt.Sprint("copy", at)}
	case 22:
		name, args = "actionAdd", m{"cast": "walker", "do": "stand", "in": at, "out": at + 1 + r.Intn(40)}
	case 23: // what touches everything, and what follows from others
		name, args = "set", m{"collection": "settings", "id": "settings", "merge": m{"follow": r.Intn(2) == 0}}
		if r.Intn(6) == 0 {
			name, args = "rateChange", m{"rate": []string{"24", "25"}[r.Intn(2)], "keep": []string{"seconds", "frames"}[r.Intn(2)]}
		}
	}
	body, err := json.Marshal(args)
	if err != nil {
		panic(err)
	}
	return name, body
}
