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
type Sides struct {
	scene *Session
	open  map[string]*side
	moved map[string][]patch.Key
	shut  map[string]error // why those cannot be any more that were open
}

type side struct {
	*Session
	stack *alternate.Stack
}

// NewSides begins with the scene alone.
func NewSides(scene *Session) *Sides {
	return &Sides{scene: scene, open: map[string]*side{}, moved: map[string][]patch.Key{}, shut: map[string]error{}}
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
	if v := s.open[id]; v != nil {
		return v, nil
	}
	var v *side
	var err error
	s.scene.Under(func() {
		var stack *alternate.Stack
		if stack, err = alternate.Open(s.scene.Doc, id); err != nil {
			return
		}
		v = &side{opened(s.scene.Like(stack.Doc), s.scene.catalog, s.scene.newID), stack}
	})
	if err != nil {
		return nil, err
	}
	s.open[id] = v
	delete(s.shut, id)
	return v, nil
}

// Keep forgets all alternates but some.
func (s *Sides) Keep(ids ...string) {
	for id := range s.open {
		if !slices.Contains(ids, id) {
			s.close(id)
		}
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
