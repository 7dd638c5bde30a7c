package session

import (
	"encoding/json"
	"slices"

	"proscen/core/alternate"
	"proscen/core/edit"
	"proscen/core/kit"
	"proscen/core/patch"
)

// Sides are an open scene and those of its alternates that are open with it: each is a
// session of its own that follows the scene. What is done in an alternate is kept in the
// scene as differences. It is not safe for use by several goroutines at once.
//
// What differs in single shots only is open likewise, as layers of the shots.
type Sides struct {
	scene *Session
	open  map[string]*side
	moved map[string][]patch.Key
	shut  map[string]error // why those cannot be any more that were open
	kept  []string         // they stay open
	asked int              // counts what was asked for
	used  used
}

type side struct {
	*Session
	stack *alternate.Stack
	asked int // when it was last
}

// used are the layers that have differences.
type used struct {
	known   bool
	changes int
	layers  map[string]int
	faulty  map[string]bool // those that cannot be opened
}

// mostOpen is how many sides are open beyond those that are kept.
const mostOpen = 6

// NewSides begins with the scene alone.
func NewSides(scene *Session) *Sides {
	s := &Sides{scene: scene, open: map[string]*side{}, moved: map[string][]patch.Key{}, shut: map[string]error{}}
	scene.shots = func(shot string) *Session { return s.ofShot("", shot) }
	return s
}

// Layer names the layer from which the picture of a shot is made in an alternate, or in the
// layer of any shot: its own, or that of the alternate.
func (s *Sides) Layer(layer, shot string) string {
	of, _ := alternate.Parts(layer)
	if shot == "" {
		return layer
	}
	if !s.used.known || s.used.changes != s.scene.Changes() {
		s.used = used{true, s.scene.Changes(), alternate.Used(s.scene.Doc), map[string]bool{}}
	}
	own := alternate.InShot(of, shot)
	if own == layer || s.used.layers[own] > 0 {
		return own
	}
	chain, _ := alternate.Chain(s.scene.Doc, of)
	for _, below := range append([]string{""}, chain...) {
		if s.used.layers[alternate.InShot(below, shot)] > 0 {
			return own
		}
	}
	return of
}

// ofShot returns what a shot is seen in, where a layer is worked in; nil for that itself.
func (s *Sides) ofShot(layer, shot string) *Session {
	want := s.Layer(layer, shot)
	if want == layer || s.used.faulty[want] {
		return nil
	}
	v, err := s.At(want)
	if err != nil {
		s.used.faulty[want] = true
		return nil
	}
	return v
}

// Scene returns the scene itself.
func (s *Sides) Scene() *Session { return s.scene }

// At returns an alternate, "" for the scene, and opens it when it is not.
func (s *Sides) At(id string) (*Session, error) {
	if id == "" {
		return s.scene, nil
	}
	v, err := s.side(id)
	if err != nil {
		return nil, err
	}
	return v.Session, nil
}

func (s *Sides) side(id string) (*side, error) {
	s.asked++
	if v := s.open[id]; v != nil {
		v.asked = s.asked
		return v, nil
	}
	var v *side
	var err error
	s.scene.Under(func() {
		var stack *alternate.Stack
		if stack, err = alternate.Open(s.scene.Doc, id); err != nil {
			return
		}
		v = &side{opened(s.scene.Like(stack.Doc), s.scene.catalog, s.scene.newID), stack, s.asked}
	})
	if err != nil {
		return nil, err
	}
	v.shots = func(shot string) *Session { return s.ofShot(id, shot) }
	s.open[id] = v
	delete(s.shut, id)
	s.forget()
	return v, nil
}

// Without makes a layer as it would be without some differences, by their ids.
func (s *Sides) Without(layer string, ids []string) (v *Session, err error) {
	s.scene.Under(func() {
		doc := s.scene.Doc.Clone()
		for _, id := range ids {
			delete(doc.Differences, id)
		}
		var stack *alternate.Stack
		if stack, err = alternate.Open(doc, layer); err == nil {
			v = opened(s.scene.Like(stack.Doc), s.scene.catalog, s.scene.newID)
		}
	})
	return v, err
}

// Keep says which sides stay open; of the others those that were asked for last do.
func (s *Sides) Keep(ids ...string) {
	s.kept = ids
	s.forget()
}

// forget closes sides that have not been asked for for long.
func (s *Sides) forget() {
	others := 0
	oldest := ""
	for id, v := range s.open {
		if slices.Contains(s.kept, id) {
			continue
		}
		if others++; oldest == "" || v.asked < s.open[oldest].asked {
			oldest = id
		}
	}
	if others > mostOpen {
		s.close(oldest)
		s.forget()
	}
}

func (s *Sides) close(id string) {
	delete(s.open, id)
	delete(s.moved, id)
}

// Rests lists what has no effect in an alternate that is open.
func (s *Sides) Rests(id string) []alternate.Rest {
	if v := s.open[id]; v != nil {
		return v.stack.Rests()
	}
	return nil
}

// Provide hands over the bundle of an imported model by its blob, to all of them.
func (s *Sides) Provide(blob string, b *kit.Bundle) {
	s.scene.Provide(blob, b)
	for _, v := range s.open {
		v.Provide(blob, b)
	}
}

// Under does something to the scene below what is being dragged, in it and in alternates.
func (s *Sides) Under(do func()) {
	for _, v := range s.open {
		below := do
		do = func() { v.Under(below) }
	}
	s.scene.Under(do)
}

// Run performs a named operation in an alternate, "" for the scene, and returns what it is
// for the scene.
func (s *Sides) Run(id, name string, args json.RawMessage, newID func() string) (r edit.Result, err error) {
	if _, ok := alternates[name]; ok {
		id = "" // alternates themselves are the scene's
	}
	if id == "" {
		if r, err = s.scene.RunWith(name, args, newID); err == nil {
			s.follow(r.Patch)
		}
		return r, err
	}
	v, err := s.side(id)
	if err != nil {
		return r, err
	}
	v.Cancel()
	v.aside(func() {
		var t *edit.Trial
		if t, err = v.catalog.Try(v.Doc, name, args, v.tools(newID)); err == nil {
			r = edit.Result{Label: t.Label, Patch: t.Patch()}
			t.Rollback()
		}
	})
	if err != nil {
		return r, err
	}
	if r.Patch, err = v.stack.Record(s.scene.Doc, r.Patch); err == nil {
		err = s.Apply(r.Patch)
	}
	return r, err
}

// Apply applies a patch of the scene, and checks what comes of it.
func (s *Sides) Apply(p patch.Patch) error { return s.put(p, s.scene.Apply) }

// Lay applies a patch that is known to leave a valid scene.
func (s *Sides) Lay(p patch.Patch) error { return s.put(p, s.scene.Lay) }

func (s *Sides) put(p patch.Patch, apply func(patch.Patch) error) error {
	err := apply(p)
	if err == nil {
		s.follow(p)
	}
	return err
}

// follow brings the alternates in line with the scene; those that cannot be made any more
// are closed.
func (s *Sides) follow(p patch.Patch) {
	if len(p) == 0 {
		return
	}
	for id, v := range s.open {
		v.Cancel()
		v.aside(func() {
			m, err := v.stack.Follow(s.scene.Doc, p)
			if err != nil {
				s.close(id)
				s.shut[id] = err
				return
			}
			v.refresh(m.Touched)
			for _, c := range m.Patch {
				s.moved[id] = append(s.moved[id], c.Key())
			}
		})
	}
}

// Moved returns what has changed in an alternate since it was asked, or why it cannot be
// any more.
func (s *Sides) Moved(id string) ([]patch.Key, error) {
	keys := s.moved[id]
	delete(s.moved, id)
	return keys, s.shut[id]
}

var alternates = alternate.Operations()
