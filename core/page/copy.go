package page

import (
	"encoding/json"
	"errors"

	"proscen/core/local"
	"proscen/core/patch"
	"proscen/core/sync"
)

// Outcome is what a change of the scene gives back.
type Outcome struct {
	Error   string      `json:"error,omitempty"`
	Edit    *sync.Edit  `json:"edit,omitempty"` // what was made, unless it changed nothing
	Changed []EntityNow `json:"changed"`
	Synced  *Synced     `json:"synced,omitempty"`
	Left    string      `json:"left,omitempty"` // why the alternate that was worked in is not any more
}

// Synced says how this copy of the scene stands to the server's.
type Synced struct {
	Revision int          `json:"revision"`
	Waiting  []string     `json:"waiting"` // ids of edits that the server has not confirmed
	Undo     []local.Step `json:"undo"`    // the last ones; the last of them is the next
	Redo     []local.Step `json:"redo"`
	Lost     []local.Lost `json:"lost,omitempty"`
	Found    []string     `json:"found,omitempty"`
	Behind   bool         `json:"behind,omitempty"`
	Astray   bool         `json:"astray,omitempty"`
}

// stepsShown is how many steps that can be undone are named.
const stepsShown = 100

func (p *Page) synced() *Synced {
	undo, redo := p.copy.Stacks()
	out := Synced{Revision: p.copy.Revision(), Waiting: []string{}, Undo: last(undo), Redo: last(redo)}
	for _, e := range p.copy.Pending() {
		out.Waiting = append(out.Waiting, e.ID)
	}
	return &out
}

func last(list []local.Step) []local.Step {
	return append([]local.Step{}, list[max(0, len(list)-stepsShown):]...)
}

// change makes an edit, and tells what has become of the entities that it names.
func (p *Page) change(make func() (sync.Edit, error)) Outcome {
	before := p.touchedNow()
	e, err := make()
	return p.answer(Outcome{Edit: &e}, before, e.Patch, err)
}

// answer tells what has become of the entities that a patch names, and of those
// that previews had touched.
func (p *Page) answer(o Outcome, before touched, by patch.Patch, err error) Outcome {
	if err != nil {
		o.Error, o.Edit = err.Error(), nil
	}
	now := p.touchedNow()
	before.moved, before.whole = append(before.moved, now.moved...), append(before.whole, now.whole...)
	by = p.alongside(by, &o)
	if p.live == nil { // else what is seen has not changed
		o.Changed = p.changed(before, by)
	}
	if o.Changed == nil {
		o.Changed = []EntityNow{}
	}
	if o.Synced == nil {
		o.Synced = p.synced()
	}
	return o
}

// join says at which revision of the server the opened scene is, who this is, and
// which edits they have made: those in the log, oldest first, and those that wait.
func (p *Page) join(a struct {
	Revision int         `json:"revision"`
	Tab      string      `json:"tab"`
	Person   string      `json:"person"`
	Mine     []sync.Edit `json:"mine"`
	Waiting  []sync.Edit `json:"waiting"`
}) Outcome {
	p.copy = local.Join(p.sides, a.Revision, a.Tab, a.Person, a.Mine, p.newID)
	return p.reported(p.copy.Adopt(a.Waiting), nil, touched{})
}

// run performs an operation for good.
func (p *Page) run(a operation) (Outcome, error) {
	if p.live != nil {
		return Outcome{}, errPast
	}
	return p.change(func() (sync.Edit, error) { return p.copy.Run(p.side, a.Name, a.Args) }), nil
}

// turn undoes or redoes the next edit of this person.
func (p *Page) turn(a struct {
	Kind sync.Kind `json:"kind" jsonschema:"enum=undo,enum=redo"`
}) (Outcome, error) {
	if p.live != nil {
		return Outcome{}, errPast
	}
	return p.change(func() (sync.Edit, error) { return p.copy.Turn(a.Kind) }), nil
}

// next gives the oldest edit that the server has not confirmed, null for none.
func (p *Page) next(none) *sync.Edit {
	if e, ok := p.copy.Next(); ok {
		return &e
	}
	return nil
}

// pending lists the edits that the server has not confirmed.
func (p *Page) pending(none) []sync.Edit { return p.copy.Pending() }

// stands says how this copy stands to the server's.
func (p *Page) stands(none) *Synced { return p.synced() }

// makeID makes an id for the page.
func (p *Page) makeID(none) string { return p.newID() }

// receive takes in edits of the log, of others and of this copy.
func (p *Page) receive(a struct {
	Edits []sync.Edit `json:"edits"`
}) Outcome {
	before := p.touchedNow()
	r, err := p.copy.Receive(a.Edits)
	return p.reported(r, err, before)
}

// refused sets an edit aside that the server refuses for good.
func (p *Page) refused(a struct {
	ID  string `json:"id"`
	Why string `json:"why"`
}) Outcome {
	before := p.touchedNow()
	r, err := p.copy.Refused(a.ID, a.Why)
	return p.reported(r, err, before)
}

func (p *Page) reported(r local.Report, err error, before touched) Outcome {
	s := p.synced()
	s.Lost, s.Found, s.Behind, s.Astray = r.Lost, r.Found, r.Behind, errors.Is(err, local.ErrAstray)
	by := make(patch.Patch, len(r.Touched))
	for i, k := range r.Touched {
		by[i] = patch.Change{Layer: k.Layer, Collection: k.Collection, ID: k.ID}
	}
	return p.answer(Outcome{Synced: s}, before, by, err)
}

// fetched hands over the patch of an old edit of this person.
func (p *Page) fetched(a struct {
	Revision int         `json:"revision"`
	Patch    patch.Patch `json:"patch"`
}) (*Synced, error) {
	canonical, err := patch.Canonical(a.Patch)
	if err != nil {
		return nil, err
	}
	p.copy.Fetched(a.Revision, canonical)
	return p.synced(), nil
}

// guest shows what another browser is dragging; with an empty operation it has let
// go.
func (p *Page) guest(a struct {
	Tab       string          `json:"tab"`
	Name      string          `json:"name"`
	Args      json.RawMessage `json:"args"`
	Alternate string          `json:"alternate,omitempty"` // in which they drag
}) Outcome {
	before := p.touchedNow()
	s := p.session
	if p.live != nil {
		s = p.live
	}
	if a.Alternate != p.side { // it is no matter of what is seen
		a.Name = ""
	}
	s.Guest(a.Tab, a.Name, a.Args)
	return p.answer(Outcome{}, before, nil, nil)
}

// held lists the things that others are dragging, as collection/id, by tab.
func (p *Page) held(none) map[string][]string {
	out := map[string][]string{}
	for tab, t := range p.session.Held() {
		for _, o := range t.Others() {
			out[tab] = append(out[tab], o.Collection+"/"+o.ID)
		}
		for _, s := range t.Shots() {
			out[tab] = append(out[tab], "shots/"+s.ID)
		}
	}
	return out
}
