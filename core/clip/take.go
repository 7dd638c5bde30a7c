// Package clip copies things of one scene, so that they can be pasted into another. A
// clip is a document of its own: it is whole without the scene that it comes from.
package clip

import (
	"cmp"
	"encoding/json"
	"errors"
	"maps"
	"slices"

	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/scene"
)

// MaxBytes bounds the JSON form of a clip.
const MaxBytes = 8 << 20

// Selection names what is copied. What it needs comes along: what hangs on nodes, what
// they do and say, their keys, paths and models; the cameras, boards, cards and footage
// of shots.
type Selection struct {
	Nodes []string `json:"nodes,omitempty"`
	Paths []string `json:"paths,omitempty"`
	Shots []string `json:"shots,omitempty"`
	// Boards without their shot are taken when no shots are: as a shot that plays them.
	Boards []string `json:"boards,omitempty"`
}

// What a clip has of its own: an assembly with a lane.
const (
	cutID  = "cut"
	laneID = "main"

	boardShot = "boards" // the shot of boards that were copied without theirs
)

// Take copies a selection as it looks at a frame of story time. The document is as it
// was afterwards.
func Take(doc *scene.Document, sel Selection, frame float64, stage edit.Stage) (*scene.Document, error) {
	t := taking{doc: doc, nodes: map[string]float64{}, below: map[string][]string{}, out: scene.New()}
	for id, n := range doc.Nodes {
		if n.Parent != "" {
			t.below[n.Parent] = append(t.below[n.Parent], id)
		}
	}
	for _, id := range sel.Nodes {
		t.node(id, frame)
	}
	for _, id := range sel.Shots {
		s := doc.Shots[id]
		for camera := range s.Cameras {
			t.node(camera, s.StoryIn)
		}
	}
	loosen := edit.Op(func(d *edit.Draft, _ struct{}) (string, error) { return "", edit.Loosen(d, t.nodes) })
	trial, err := edit.Catalog{"loosen": loosen}.Try(doc, "loosen", json.RawMessage("{}"), edit.Tools{Stage: stage})
	if err != nil {
		return nil, err
	}
	t.copy(sel)
	trial.Rollback()
	if len(t.out.Nodes)+len(t.out.Paths)+len(t.out.Shots) == 0 {
		return nil, errors.New("nothing is selected that can be copied; select things, a path or shots")
	}
	if problems := t.out.Validate(); len(problems) > 0 {
		return nil, problems
	}
	if t.out.Weight().Bytes > MaxBytes {
		return nil, errors.New("this is too much to be copied at once; copy it in parts")
	}
	return t.out, nil
}

// taking is the work of copying.
type taking struct {
	doc   *scene.Document
	out   *scene.Document
	nodes map[string]float64  // the frame at which each is looked at
	below map[string][]string // what hangs on each node
}

func (t *taking) has(node string) bool {
	_, ok := t.nodes[node]
	return ok
}

// node takes a node with all that hangs on it. What carries a camera comes along,
// alone, so that its move stays whole.
func (t *taking) node(id string, frame float64) {
	n, ok := t.doc.Nodes[id]
	if !ok || t.has(id) {
		return
	}
	t.nodes[id] = frame
	for _, k := range t.below[id] {
		t.node(k, frame)
	}
	for n.Camera != nil && n.Parent != "" && !t.has(n.Parent) {
		t.nodes[n.Parent] = frame
		n.Parent = t.doc.Nodes[n.Parent].Parent
	}
}

// copy fills the clip from the loosened document.
func (t *taking) copy(sel Selection) {
	doc, out := t.doc, t.out
	out.Settings = doc.Settings
	out.Settings.Follow = false
	maps.Copy(out.Formats, doc.Formats)
	for id := range t.nodes {
		n := t.detached(doc.Nodes[id], sel)
		out.Nodes[id] = n
		t.path(n.Path)
		if n.Piece != nil {
			t.path(n.Piece.Along)
		}
		if m, ok := doc.Models[n.Model]; ok {
			out.Models[n.Model] = m
		}
		if n.Camera != nil {
			if k, ok := doc.Kits[n.Camera.Kit]; ok {
				out.Kits[n.Camera.Kit] = k
			}
		}
	}
	for id, c := range doc.Curves {
		if t.has(c.Node) {
			out.Curves[id] = t.unfocused(c)
		}
	}
	for id, a := range doc.Actions {
		if a, ok := t.action(a); ok {
			out.Actions[id] = a
			t.path(a.Path)
		}
	}
	for id, l := range doc.Lines {
		if t.has(l.Cast) {
			out.Lines[id] = l
		}
	}
	for _, id := range sel.Paths {
		t.path(id)
	}
	t.shots(sel.Shots)
	if len(out.Shots) == 0 {
		t.boards(sel.Boards)
	}
}

func (t *taking) path(id string) {
	if p, ok := t.doc.Paths[id]; ok {
		t.out.Paths[id] = p
	}
}

// detached returns a node that refers to nothing outside the clip.
func (t *taking) detached(n scene.Node, sel Selection) scene.Node {
	if n.Shooting != nil && len(n.Shooting.Only) > 0 {
		s := *n.Shooting
		s.Only = slices.DeleteFunc(slices.Clone(s.Only), func(shot string) bool { return !slices.Contains(sel.Shots, shot) })
		n.Shooting = &s
		if len(s.Only) == 0 && !s.Hidden {
			n.Shooting = nil
		}
	}
	return n
}

// unfocused frees keys of the focus from subjects outside the clip.
func (t *taking) unfocused(c scene.Curve) scene.Curve {
	if !slices.ContainsFunc(c.Keys, func(k curve.Key) bool { return k.On != "" && !t.has(k.On) }) {
		return c
	}
	c.Keys = slices.Clone(c.Keys)
	for i := range c.Keys {
		if !t.has(c.Keys[i].On) {
			c.Keys[i].On = ""
		}
	}
	return c
}

// action returns what somebody in the clip does, unless it means nothing without
// somebody or something outside.
func (t *taking) action(a scene.Action) (scene.Action, bool) {
	outside := func(id string) bool { return id != "" && !t.has(id) }
	faces := a.Do == scene.Look || a.Do == scene.Point || a.Do == scene.Reach
	switch {
	case !t.has(a.Cast), outside(a.On), outside(a.With), outside(a.Face) && faces:
		return a, false
	case outside(a.Face):
		a.Face = ""
	}
	return a, true
}

// shots puts shots one after the other, with the gaps that were between those of one
// lane.
func (t *taking) shots(ids []string) {
	doc, out := t.doc, t.out
	ids = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { _, ok := doc.Shots[id]; return !ok })
	if len(ids) == 0 {
		return
	}
	slices.SortFunc(ids, func(a, b string) int {
		return cmp.Or(doc.Shots[a].ScreenIn-doc.Shots[b].ScreenIn, cmp.Compare(a, b))
	})
	ids = slices.Compact(ids)
	t.cut()
	boards := doc.BoardsByShot()
	end, first := 0, doc.Shots[ids[0]].ScreenIn
	var before scene.Shot
	table := out.Table("shots")
	for i, id := range ids {
		s := doc.Shots[id]
		follows := i > 0 && s.Lane == before.Lane && s.ScreenIn == before.ScreenOut
		before = s
		if !follows {
			s.Join = nil
		}
		by := max(s.ScreenIn-first, end) - s.ScreenIn
		s.ScreenIn, s.ScreenOut = s.ScreenIn+by, s.ScreenOut+by
		s.Lane, s.Locked = laneID, false
		end = s.ScreenOut
		table.Put(id, s)
		for _, b := range boards[id] {
			out.Boards[b] = doc.Boards[b]
		}
		if c, ok := doc.Cards[s.Card]; ok {
			out.Cards[s.Card] = c
		}
		if f, ok := doc.Footage[s.Footage]; ok {
			out.Footage[s.Footage] = f
		}
	}
}

// cut makes the assembly of the clip.
func (t *taking) cut() {
	t.out.Assemblies[cutID] = scene.Assembly{Name: "copied"}
	t.out.Lanes[laneID] = scene.Lane{Assembly: cutID, Main: true, Name: "main"}
}

// boards puts boards into one shot that plays them, each held as long as it was.
func (t *taking) boards(ids []string) {
	doc := t.doc
	ids = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { _, ok := doc.Boards[id]; return !ok })
	if len(ids) == 0 {
		return
	}
	slices.SortFunc(ids, func(a, b string) int {
		return cmp.Or(doc.Shots[doc.Boards[a].Shot].ScreenIn+doc.Boards[a].At-doc.Shots[doc.Boards[b].Shot].ScreenIn-doc.Boards[b].At, cmp.Compare(a, b))
	})
	t.cut()
	at, held := 0, 0
	for _, id := range slices.Compact(ids) {
		b := doc.Boards[id]
		s := doc.Shots[b.Shot]
		until := s.ScreenOut - s.ScreenIn
		for _, other := range doc.BoardsOf(b.Shot) {
			if v := doc.Boards[other].At; v > b.At {
				until = min(until, v)
			}
		}
		held = until - b.At
		b.Shot, b.At = boardShot, at
		t.out.Boards[id] = b
		at += held
	}
	t.out.Table("shots").Put(boardShot, scene.Shot{Lane: laneID, Number: "010", Plays: scene.PlaysBoard, ScreenOut: at, Speed: 1})
}
