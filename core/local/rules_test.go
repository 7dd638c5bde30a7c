package local_test

import (
	"encoding/json"
	"fmt"
	"math/rand"
	"slices"
	"testing"

	"proscen/core/local"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/sync"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type m = map[string]any

// two are two people whose edits are made at the same moment: first's comes first.
type two struct {
	t             *testing.T
	w             *world
	first, second *tab
}

func pair(t *testing.T) *two {
	w := &world{Rand: rand.New(rand.NewSource(1)), doc: scenetest.Rich(), answered: map[string]bool{}}
	for range 3 { // the first two are one person's
		w.clients = append(w.clients, &tab{w: w, made: map[string]bool{}, lost: map[string]bool{}, same: map[string]bool{}})
	}
	for _, c := range w.clients {
		w.open(c, nil)
	}
	return &two{t, w, w.clients[0], w.clients[2]}
}

func (p *two) run(c *tab, name string, args m) sync.Edit {
	p.t.Helper()
	body, _ := json.Marshal(args)
	e, err := c.Run("", name, body)
	require.NoError(p.t, err)
	return e
}

// meet lets both send what they have done, the first one's before the second one's.
func (p *two) meet() {
	p.t.Helper()
	p.first.drain()
	p.second.drain() // without having heard of the first one's
	p.first.finish()
	p.second.finish()
	require.Equal(p.t, string(p.w.doc.Encode()), string(p.first.s.Doc.Encode()))
	require.Equal(p.t, string(p.w.doc.Encode()), string(p.second.s.Doc.Encode()))
	require.Empty(p.t, p.w.doc.Validate())
}

func shotNumbers(d *scene.Document) (out []string) {
	for _, s := range d.ShotsInOrder() {
		if s.Lane == "main" {
			out = append(out, fmt.Sprintf("%s %d-%d", s.Number, s.ScreenIn, s.ScreenOut))
		}
	}
	return out
}

// The rules of docs/sync.md.
func TestWhatClashesHasARule(t *testing.T) {
	t.Run("what has nothing to do with each other is kept as it is", func(t *testing.T) {
		p := pair(t)
		a := p.run(p.first, "shotSet", m{"ids": []string{"s1"}, "change": m{"name": "one"}})
		b := p.run(p.second, "place", m{"id": "box", "frame": 0, "position": []int{1, 2, 3}})
		p.meet()
		assert.True(t, p.w.log[0].Patch.Equal(a.Patch))
		assert.True(t, p.w.log[1].Patch.Equal(b.Patch))
		assert.Equal(t, 0, p.w.log[1].Base, "taken as it came, from the older revision")
	})
	t.Run("two fields of one thing are both kept", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "set", m{"collection": "nodes", "id": "box", "merge": m{"name": "Crate"}, "label": "rename"})
		p.run(p.second, "set", m{"collection": "nodes", "id": "box", "merge": m{"locked": true}, "label": "lock"})
		p.meet()
		assert.Equal(t, []any{"Crate", true}, []any{p.w.doc.Nodes["box"].Name, p.w.doc.Nodes["box"].Locked})
	})
	t.Run("one field: the later one wins", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "set", m{"collection": "nodes", "id": "box", "merge": m{"name": "Crate"}, "label": "rename"})
		p.run(p.second, "set", m{"collection": "nodes", "id": "box", "merge": m{"name": "Chest"}, "label": "rename"})
		p.meet()
		assert.Equal(t, "Chest", p.w.doc.Nodes["box"].Name)
	})
	t.Run("two new shots get two numbers, one after the other", func(t *testing.T) {
		p := pair(t)
		a := p.run(p.first, "shotAppend", m{"assembly": "cut", "camera": "a", "frames": 10})
		b := p.run(p.second, "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 20})
		assert.Equal(t, a.Label, b.Label, "both have the same number here")
		p.meet()
		assert.Equal(t, []string{"050 168-192", "050a 192-202", "050b 202-222"}, last3(p.w.doc))
	})
	t.Run("two new shots in different assemblies are no clash", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "shotAppend", m{"assembly": "calm", "camera": "a", "frames": 10})
		p.run(p.second, "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 20})
		p.meet()
		assert.Equal(t, 0, p.w.log[1].Base)
	})
	t.Run("two new cameras get two numbers, and keep their ids", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "cameraAdd", m{"position": []int{1, 1, 1}})
		b := p.run(p.second, "cameraAdd", m{"position": []int{2, 2, 2}})
		p.run(p.second, "cutTo", m{"assembly": "cut", "at": 60, "camera": b.Patch[0].ID}) // goes on with it at once
		p.meet()
		assert.Equal(t, 4, p.w.doc.Nodes[b.Patch[0].ID].Camera.Number)
		assert.Equal(t, "add camera 4", p.w.log[1].Label)
		assert.Empty(t, p.second.lost)
	})
	t.Run("a curve keyed by two has both keys", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "value", m{"node": "b", "channel": "travel", "frame": 24, "value": 0.4, "key": true})
		p.run(p.second, "value", m{"node": "b", "channel": "travel", "frame": 48, "value": 0.6, "key": true})
		p.meet()
		var frames []float64
		for _, k := range p.w.doc.Curves["b-travel"].Keys {
			frames = append(frames, k.Frame)
		}
		assert.Equal(t, []float64{0, 24, 48, 96}, frames)
	})
	t.Run("two first keys of a channel make one curve", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "value", m{"node": "a", "channel": "turn.pan", "frame": 0, "value": 1, "key": true})
		p.run(p.second, "value", m{"node": "a", "channel": "turn.pan", "frame": 48, "value": 2, "key": true})
		p.meet()
		curves := 0
		for _, c := range p.w.doc.Curves {
			if c.Node == "a" && c.Channel == scene.Pan {
				curves++
				assert.Len(t, c.Keys, 2)
			}
		}
		assert.Equal(t, 1, curves)
	})
	t.Run("on the main lane the later one makes its place by the rule of its operation", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "shotTrim", m{"id": "s1", "edge": "out", "by": -8, "ripple": true})
		p.run(p.second, "shotInsert", m{"assembly": "cut", "camera": "b", "at": 48, "frames": 12})
		p.meet()
		assert.Equal(t, []string{"010 0-40", "020 40-48"}, shotNumbers(p.w.doc)[:2])
		assert.Contains(t, shotNumbers(p.w.doc)[2], " 48-60")
	})
	t.Run("a removed thing stays removed, and whoever moved it is told", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "remove", m{"collection": "nodes", "ids": []string{"box"}})
		e := p.run(p.second, "place", m{"id": "box", "frame": 0, "position": []int{1, 2, 3}})
		p.run(p.second, "markerAdd", m{"clock": "story", "frame": 7})
		p.meet()
		assert.NotContains(t, p.w.doc.Nodes, "box")
		assert.True(t, p.second.lost[e.ID])
		assert.Len(t, p.w.log, 2, "what came behind it is kept")
	})
	t.Run("what both have removed is no loss", func(t *testing.T) {
		p := pair(t)
		p.run(p.first, "set", m{"collection": "nodes", "id": "box", "merge": m{"hidden": true}, "label": "hide"})
		e := p.run(p.second, "set", m{"collection": "nodes", "id": "box", "merge": m{"hidden": true}, "label": "hide"})
		p.meet()
		assert.Empty(t, p.second.lost)
		assert.True(t, p.second.same[e.ID])
		assert.Len(t, p.w.log, 1)
	})
}

func last3(d *scene.Document) []string {
	all := shotNumbers(d)
	return all[len(all)-3:]
}

func TestUndoIsMine(t *testing.T) {
	p := pair(t)
	p.run(p.first, "set", m{"collection": "nodes", "id": "box", "merge": m{"name": "Crate"}, "label": "rename"})
	p.run(p.first, "value", m{"node": "b", "channel": "travel", "frame": 24, "value": 0.4, "key": true})
	p.meet()
	p.run(p.second, "place", m{"id": "case", "frame": 0, "position": []int{1, 2, 3}})
	p.meet()
	undo, _ := p.second.Stacks()
	require.Len(t, undo, 1, "the other one's edits are not here")
	// What others have built on stays: here a curve, which is one value.
	p.run(p.second, "value", m{"node": "b", "channel": "travel", "frame": 48, "value": 0.6, "key": true})
	p.meet()
	_, err := p.first.Turn(sync.Undo)
	require.ErrorContains(t, err, "others have changed the same since; the edit before it is next")
	e, err := p.first.Turn(sync.Undo)
	require.NoError(t, err)
	assert.Equal(t, "undo rename", e.Label)
	p.meet()
	assert.Equal(t, "Box", p.w.doc.Nodes["box"].Name)
	assert.Equal(t, scene.Vec{1, 2, 3}, p.w.doc.Nodes["case"].Position)
	e, err = p.first.Turn(sync.Redo)
	require.NoError(t, err)
	assert.Equal(t, "redo rename", e.Label)
	p.meet()
	assert.Equal(t, "Crate", p.w.doc.Nodes["box"].Name)
	_, err = p.first.Turn(sync.Redo)
	require.ErrorContains(t, err, "nothing to redo")

	// A tab that is opened again knows its steps from the log, and what another tab of
	// the same person has taken back is no step here any more.
	p.w.open(p.first, nil)
	undo, redo := p.first.Stacks()
	require.Len(t, undo, 2)
	assert.Empty(t, redo)
	sibling := p.w.clients[1]
	p.w.open(sibling, nil)
	_, err = sibling.Turn(sync.Undo)
	require.NoError(t, err)
	sibling.finish()
	p.meet()
	undo, redo = p.first.Stacks()
	assert.Len(t, undo, 1)
	assert.Len(t, redo, 1)
}

func TestHistoryLeadsToTheStacks(t *testing.T) {
	var mine []sync.Edit
	kinds := []struct {
		kind sync.Kind
		of   string
	}{{sync.Do, ""}, {sync.Do, ""}, {sync.Do, ""}, {sync.Undo, "e3"}, {sync.Undo, "e2"}, {sync.Redo, "e2"}, {sync.Restore, ""}, {sync.Undo, "e7"}, {sync.Undo, "gone"}}
	for i, k := range kinds {
		mine = append(mine, sync.Edit{ID: fmt.Sprint("e", i+1), Revision: i + 1, Kind: k.kind, Of: k.of, Label: fmt.Sprint("label ", i+1)})
	}
	s := session.Open(scenetest.Small(), nil)
	undo, redo := local.Join(session.NewSides(s), len(mine), "t", "p", mine, nil).Stacks()
	ids := func(steps []local.Step) (out []string) {
		for _, x := range steps {
			out = append(out, fmt.Sprintf("%s by %d", x.ID, x.Revision))
		}
		return out
	}
	assert.Equal(t, []string{"e1 by 1", "e2 by 6"}, ids(undo), "what was done again is taken back by what did it")
	assert.Equal(t, []string{"e7 by 8"}, ids(redo), "a new edit has ended what could be redone before")
	assert.True(t, undo[0].Missing)
}

// An edit that is in the document already and was laid on top once more, since its
// answer was late, is there once in the end.
func TestAnEditThatWasReadWithTheDocumentIsNotDoneTwice(t *testing.T) {
	p := pair(t)
	e := p.run(p.first, "shotTrim", m{"id": "s1", "edge": "out", "by": -4, "ripple": true})
	behind := p.run(p.first, "markerAdd", m{"clock": "story", "frame": 7})
	waiting := slices.Clone(p.first.Pending())
	answer, err := p.w.accept(e)
	require.NoError(t, err)
	doc, err := scene.Decode(p.w.doc.Encode())
	require.NoError(t, err)
	s := session.Open(doc, p.w.newID)
	c := local.Join(session.NewSides(s), 1, "tab0", "p0", nil, p.w.newID)
	c.Adopt(waiting)
	require.Equal(t, 40, s.Doc.Shots["s1"].ScreenOut, "twice, for now")
	_, err = c.Receive([]sync.Edit{answer})
	require.NoError(t, err)
	assert.Equal(t, 44, s.Doc.Shots["s1"].ScreenOut)
	require.Len(t, c.Pending(), 1)
	assert.Equal(t, behind.ID, c.Pending()[0].ID)
	assert.Contains(t, s.Doc.Markers, behind.ID+"-1")
}

// The server has taken an edit and its answer is lost; what this copy hears of
// first left no place for it, and what it hears of next made one again.
func TestAnEditThatSeemedLostIsFound(t *testing.T) {
	p := pair(t)
	gone := p.run(p.first, "remove", m{"collection": "nodes", "ids": []string{"box"}})
	p.first.drain()
	back, err := p.first.Turn(sync.Undo)
	require.NoError(t, err)
	p.first.drain()
	named := p.run(p.second, "set", m{"collection": "nodes", "id": "box", "merge": m{"name": "Crate"}})
	_, err = p.w.accept(named) // and the answer does not come
	require.NoError(t, err)

	r, err := p.second.Receive(p.w.log[:1])
	require.NoError(t, err)
	require.Len(t, r.Lost, 1, "there is no box now")
	assert.Equal(t, named.ID, r.Lost[0].Edit.ID)
	r, err = p.second.Receive(p.w.log[1:])
	require.NoError(t, err)
	assert.Equal(t, []string{named.ID}, r.Found)
	assert.Empty(t, r.Lost)
	assert.Equal(t, []string{gone.ID, back.ID, named.ID}, []string{p.w.log[0].ID, p.w.log[1].ID, p.w.log[2].ID})
	require.Equal(t, string(p.w.doc.Encode()), string(p.second.s.Doc.Encode()))
	undo, _ := p.second.Stacks()
	require.Len(t, undo, 1, "it can be undone like any other")
	_, err = p.second.Turn(sync.Undo)
	require.NoError(t, err)
	assert.NotEqual(t, "Crate", p.second.s.Doc.Nodes["box"].Name)
}
