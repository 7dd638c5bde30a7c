package page

import (
	"encoding/json"
	"errors"
	"slices"

	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/session"
)

// EntityNow is an entity after a change; a null value means that it is gone.
type EntityNow struct {
	Collection string          `json:"collection"`
	ID         string          `json:"id"`
	Value      json.RawMessage `json:"value"`
}

// touched is what a preview may have changed: shots of which only the place in
// screen time has changed, and all else by collection and id.
type touched struct {
	moved  []string
	frames []int // their first frames and those after their last
	whole  [][2]string
}

func touchedBy(t *edit.Trial) (out touched) {
	if t == nil {
		return out
	}
	shots := t.Shots()
	out.moved, out.frames = make([]string, 0, len(shots)), make([]int, 0, 2*len(shots))
	for i := range shots {
		if c := &shots[i]; c.Moved {
			out.moved, out.frames = append(out.moved, c.ID), append(out.frames, c.After.ScreenIn, c.After.ScreenOut)
		} else {
			out.whole = append(out.whole, [2]string{"shots", c.ID})
		}
	}
	for _, o := range t.Others() {
		out.whole = append(out.whole, [2]string{o.Collection, o.ID})
	}
	return out
}

// changed lists the entities of patches and of what a preview had touched, as
// they are now.
func (p *Page) changed(before touched, by patch.Patch) []EntityNow {
	out := []EntityNow{}
	seen := map[[2]string]bool{}
	add := func(key [2]string) {
		if !seen[key] {
			seen[key] = true
			out = append(out, p.entity(key))
		}
	}
	for _, key := range before.whole {
		add(key)
	}
	for _, id := range before.moved {
		add([2]string{"shots", id})
	}
	for _, c := range by {
		add([2]string{c.Collection, c.ID})
	}
	return out
}

func (p *Page) entity(key [2]string) EntityNow {
	return EntityNow{key[0], key[1], p.session.Doc.Table(key[0]).Get(key[1])}
}

// touchedNow is what previews, of this browser and of guests, may have changed.
func (p *Page) touchedNow() touched {
	out := touchedBy(p.session.Previewing())
	for _, t := range p.session.Held() {
		more := touchedBy(t)
		out.moved, out.whole = append(out.moved, more.moved...), append(out.whole, more.whole...)
	}
	return out
}

// Previewed is what a preview, or taking one back, gives. Of shots that have only
// been moved in screen time, of which there may be thousands, there are the ids,
// and their first frames and the frames after their last.
// While a drag goes on they are mostly the same shots as in the answer before, and
// then they are not named again.
type Previewed struct {
	Error   string      `json:"error,omitempty"`
	Held    string      `json:"held,omitempty"` // the tab that is dragging what would be grabbed
	Changed []EntityNow `json:"changed"`
	Moved   []string    `json:"moved,omitempty"`
	Again   bool        `json:"again,omitempty"` // the same shots have been moved again
	Frames  []int       `json:"frames,omitempty"`
}

func (p *Page) preview(a operation) Previewed {
	earlier := touchedBy(p.session.Previewing())
	err := p.session.Preview(a.Name, a.Args)
	return p.previewed(err, earlier)
}

// warm does what a drag of a shot asks for, and takes it back: browsers compile
// code when it is called first, which a drag would be held up by.
func (p *Page) warm(none) done {
	s := p.session
	if s.Previewing() != nil || s.Program().Length() == 0 {
		return done{}
	}
	first := s.Program().Shots()[0]
	args, _ := json.Marshal(map[string]any{"id": first.ID, "edge": "out", "by": 1, "ripple": true})
	if s.Preview("shotTrim", args) == nil {
		p.previewed(nil, touched{})
		p.cancel(none{})
		p.moved = nil
	}
	var cast []string
	for id, n := range s.Doc.Nodes {
		if n.Kind == scene.KindCast {
			cast = append(cast, id)
		}
	}
	s.Entrances(first.Shot, cast, first.ScreenIn, first.ScreenIn+8)
	return done{}
}

func (p *Page) cancel(none) Previewed {
	earlier := touchedBy(p.session.Previewing())
	p.session.Cancel()
	return p.previewed(nil, earlier)
}

// previewed tells what the preview in effect has changed, and what one before it
// had changed and was taken back.
func (p *Page) previewed(err error, earlier touched) Previewed {
	out := Previewed{Changed: []EntityNow{}}
	if err != nil {
		out.Error = err.Error()
		var held session.HeldError
		if errors.As(err, &held) {
			out.Held = held.Tab
		}
	}
	trial := p.session.Previewing()
	now := touchedBy(trial)
	whole := map[[2]string]bool{}
	for _, key := range slices.Concat(now.whole, earlier.whole) {
		if !whole[key] {
			whole[key] = true
			out.Changed = append(out.Changed, p.entity(key))
		}
	}
	if !slices.Equal(now.moved, earlier.moved) {
		for _, id := range earlier.moved { // they are back where they were
			if trial == nil || !trial.Touches(id) {
				s := p.session.Doc.Shots[id]
				now.moved, now.frames = append(now.moved, id), append(now.frames, s.ScreenIn, s.ScreenOut)
			}
		}
	}
	out.Moved, out.Frames = now.moved, now.frames
	if slices.Equal(out.Moved, p.moved) {
		out.Moved, out.Again = nil, len(p.moved) > 0
	} else {
		p.moved = out.Moved
	}
	return out
}
