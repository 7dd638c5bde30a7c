// Package session is the one door to a scene: it holds the document, the
// compiled motion and the cut together, runs operations on them, and says what
// is on air. The browser, the renderer and the command line all go through it.
package session

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync/atomic"

	"proscen/core/alternate"
	"proscen/core/assembly"
	"proscen/core/clip"
	"proscen/core/edit"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/patch"
	"proscen/core/program"
	"proscen/core/questions"
	"proscen/core/scene"
)

// Operations returns every operation there is.
func Operations() edit.Catalog {
	c := edit.Core()
	maps.Copy(c, assembly.Operations())
	maps.Copy(c, clip.Operations())
	maps.Copy(c, alternate.Operations())
	return c
}

// Session is an open scene. It is not safe for use by several goroutines at
// once.
type Session struct {
	questions.Scene
	serial    int
	assembly  string
	program   program.Program
	compiled  bool // whether program is what the document says
	catalog   edit.Catalog
	newID     func() string
	preview   *edit.Trial
	previewed asked // what the preview was made by
	guests    []*guest
	apart     int         // how many nested calls keep the guests away
	claimed   patch.Claim // what is dragged here, while guests are laid below it
	air       program.Air
	others    map[string]*program.Program // compiled when they are asked for
	order     orderOf                     // as Order saw it last
	ordered   int                         // counts the orders that there have been
	shots     func(shot string) *Session  // the scene as a shot has it; nil when that is no other
	parts     parts                       // made by In where there are no sides
	between   [2]motion.State
	aired     [2]motion.State // of ribbons: subjects, and the camera
}

// Open prepares a valid document. newID makes ids for new entities; it may be
// nil when no operation is run.
func Open(doc *scene.Document, newID func() string) *Session {
	doc.ForgetOrder()
	return opened(questions.New(doc), Operations(), newID)
}

func opened(q questions.Scene, catalog edit.Catalog, newID func() string) *Session {
	s := &Session{Scene: q, serial: int(serials.Add(1)), catalog: catalog, newID: newID}
	s.ChooseAssembly("")
	return s
}

var serials atomic.Int64

// Serial is a number that no other session of this program has.
func (s *Session) Serial() int { return s.serial }

// ChooseAssembly selects the cut by id or name, "" for the first.
func (s *Session) ChooseAssembly(name string) error {
	id, ok := program.Find(s.Doc, name)
	if !ok && name != "" {
		return fmt.Errorf("there is no assembly called %q", name)
	}
	s.assembly, s.compiled, s.others = id, false, nil
	return nil
}

// Assembly returns the id of the chosen assembly, "" if the scene has none.
func (s *Session) Assembly() string { return s.assembly }

// Provide hands over the bundle of an imported model by its blob.
func (s *Session) Provide(blob string, b *kit.Bundle) {
	s.Motion.Provide(s.Doc, blob, b)
	s.Changed()
}

// Program returns the compiled cut.
func (s *Session) Program() *program.Program {
	if !s.compiled {
		s.program.Recompile(s.Doc, s.assembly)
		s.compiled = true
	}
	return &s.program
}

// Order returns a number that changes whenever shots of the chosen assembly come,
// go or change their order. An assembly that follows cues has a new order with
// every change.
func (s *Session) Order() int {
	now := orderOf{s.assembly, s.Doc.OrderOfShots(), strings.Join(program.SpareLanes(s.Doc, s.assembly), " "), 0}
	if s.Doc.Assemblies[s.assembly].Cues != "" {
		now.change = s.Changes()
	}
	if now != s.order {
		s.order = now
		s.ordered++
	}
	return s.ordered
}

// orderOf is what the order of a cut follows from.
type orderOf struct {
	assembly string
	shots    int
	lanes    string
	change   int
}

// ProgramOf returns the compiled cut of any assembly.
func (s *Session) ProgramOf(id string) *program.Program {
	if id == s.assembly {
		return s.Program()
	}
	p := s.others[id]
	if p == nil {
		if s.others == nil {
			s.others = map[string]*program.Program{}
		}
		p = program.Compile(s.Doc, id)
		s.others[id] = p
	}
	return p
}

// OnAir returns what the cut shows at a screen frame; it is reused.
func (s *Session) OnAir(screen float64) *program.Air {
	s.Program().At(screen, &s.air)
	return &s.air
}

// View returns the camera through which a shot on air is seen, at the story
// frame of the shot; nil when it has none. On a travel it is between two. It
// holds until the next call of Evaluate or View.
func (s *Session) View(p *program.Playing) *motion.CameraState {
	s.Evaluate(p.Story)
	if p.Between != nil {
		return s.Between(*p.Between)
	}
	if p.Reframe != nil {
		return s.through(p.View, &s.between[0])
	}
	if i := s.CameraIndex(p.Camera); i >= 0 {
		return &s.State.Cameras[i]
	}
	return nil
}

// through evaluates what a shot is seen through; nil when there is no such camera.
func (s *Session) through(v program.View, st *motion.State) *motion.CameraState {
	i := s.CameraIndex(v.Camera)
	if i < 0 {
		return nil
	}
	if v.Reframe == nil {
		return s.Motion.EvaluateCamera(i, v.Story, st)
	}
	return s.Motion.EvaluateCameraAs(motion.As{Aspect: s.Motion.Aspect(), Reframe: *v.Reframe}, i, v.Story, st)
}

// Between returns the camera on a travel; nil when one of its cameras is not
// there.
func (s *Session) Between(b program.Between) *motion.CameraState {
	from, to := s.through(b.From, &s.between[0]), s.through(b.To, &s.between[1])
	if from == nil || to == nil {
		return nil
	}
	out := motion.Between(from, to, b.Share)
	return &out
}

// refresh brings motion and cut in line with what was touched.
func (s *Session) refresh(p []scene.Touched) {
	s.Motion.Update(s.Doc, p)
	s.Changed()
	cut := false
	for _, c := range p {
		switch c.Collection {
		case "shots", "lanes", "assemblies", "boards", "footage":
			cut = true
		case "settings": // in another format other cameras may be on air
			was, _ := c.Before.(scene.Settings)
			cut = cut || was.Format != s.Doc.Settings.Format || s.Doc.Assemblies[s.assembly].Cues != ""
		case "markers":
			cut = cut || s.Doc.Assemblies[s.assembly].Cues != ""
		}
	}
	if cut {
		if _, ok := s.Doc.Assemblies[s.assembly]; !ok {
			s.assembly, _ = program.Find(s.Doc, "")
		}
		s.compiled, s.others = false, nil
	}
}

// Run performs a named operation for good. A preview is taken back first.
func (s *Session) Run(name string, args json.RawMessage) (edit.Result, error) {
	return s.RunWith(name, args, s.newID)
}

// RunWith is Run with another way of making ids.
func (s *Session) RunWith(name string, args json.RawMessage, newID func() string) (r edit.Result, err error) {
	s.Cancel()
	s.aside(func() {
		var t *edit.Trial
		if t, err = s.catalog.Try(s.Doc, name, args, s.tools(newID)); err != nil {
			return
		}
		touched := changesOf(t)
		r.Label = t.Label
		if r.Patch, err = t.Keep(); err == nil {
			s.refresh(touched)
		}
	})
	return r, err
}

// Would tells the label that an operation would have, or why it cannot be done. The
// document stays; a preview is taken back first.
func (s *Session) Would(name string, args json.RawMessage) (label string, err error) {
	s.Cancel()
	s.aside(func() {
		var t *edit.Trial
		if t, err = s.catalog.Try(s.Doc, name, args, s.tools(s.newID)); err == nil {
			label = t.Label
			t.Rollback()
		}
	})
	return label, err
}

func (s *Session) tools(newID func() string) edit.Tools {
	return edit.Tools{NewID: newID, Stage: s.Stage()}
}

// asked is an operation with its arguments.
type asked struct {
	name string
	args json.RawMessage
}

// Preview performs an operation for as long as a drag lasts: the next Preview,
// Run, Apply or Cancel takes it back. What a guest moves is refused.
func (s *Session) Preview(name string, args json.RawMessage) error {
	s.Cancel()
	t, err := s.catalog.Try(s.Doc, name, args, s.tools(s.newID))
	if err != nil {
		return err
	}
	if g := s.holder(t); g != nil {
		t.Rollback()
		return HeldError{Tab: g.tab}
	}
	s.preview, s.previewed = t, asked{name, args}
	s.refresh(changesOf(t))
	return nil
}

// Cancel takes a preview back and reports whether there was one.
func (s *Session) Cancel() bool {
	if s.preview == nil {
		return false
	}
	s.takeBack(s.preview)
	s.preview = nil
	return true
}

func (s *Session) takeBack(t *edit.Trial) {
	p := changesOf(t)
	for i, c := range p {
		p[i].Before = t.Table(c.Collection).Value(c.ID)
	}
	t.Rollback()
	s.refresh(p)
}

// changesOf returns what a trial has touched. One shot stands for all: of the cut it
// matters only that it has changed.
func changesOf(t *edit.Trial) []scene.Touched {
	p := slices.Clone(t.Others())
	if shots := t.Shots(); len(shots) > 0 {
		p = append(p, scene.Touched{Collection: "shots", ID: shots[0].ID})
	}
	return p
}

// Previewing returns the preview in effect, or nil.
func (s *Session) Previewing() *edit.Trial { return s.preview }

// Apply applies a patch of this session, and checks what comes of it.
func (s *Session) Apply(p patch.Patch) error { return s.put(p, patch.Apply) }

// Lay applies a patch that is known to leave a valid scene.
func (s *Session) Lay(p patch.Patch) error { return s.put(p, patch.Lay) }

func (s *Session) put(p patch.Patch, apply func(*scene.Document, patch.Patch) error) (err error) {
	s.Cancel()
	s.aside(func() {
		touched := make([]scene.Touched, len(p))
		for i, c := range p {
			touched[i] = scene.Touched{Collection: c.Collection, ID: c.ID}
			if t := s.Doc.Table(c.Collection); t != nil {
				touched[i].Before = t.Value(c.ID)
			}
		}
		if err = apply(s.Doc, p); err == nil {
			s.refresh(touched)
		}
	})
	return err
}

// ShotAt returns what a shot shows at a screen frame, as if it played alone.
func (s *Session) ShotAt(shot string, screen float64) (program.Playing, bool) {
	e, ok := s.Doc.Shots[shot]
	if !ok {
		return program.Playing{}, false
	}
	return s.Program().Show(&program.Entry{ID: shot, Shot: e}, screen), true
}

// Clip copies a selection as it looks at a frame of story time, for paste in this or
// another scene.
func (s *Session) Clip(sel clip.Selection, frame float64) (out *scene.Document, err error) {
	s.Cancel()
	s.aside(func() { out, err = clip.Take(s.Doc, sel, frame, s.Stage()) })
	return out, err
}
