//go:build js && wasm

package main

import (
	"encoding/json"
	"errors"
	"syscall/js"

	"proscen/core/local"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/sync"
)

// outcome is what a change of the scene gives back.
type outcome struct {
	Error   string      `json:"error,omitempty"`
	Edit    *sync.Edit  `json:"edit,omitempty"` // what was made, unless it changed nothing
	Changed []entityNow `json:"changed"`
	Synced  *synced     `json:"synced,omitempty"`
}

// synced says how this copy of the scene stands to the server's.
type synced struct {
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

func (h *host) synced() *synced {
	undo, redo := h.copy.Stacks()
	out := synced{Revision: h.copy.Revision(), Waiting: []string{}, Undo: last(undo), Redo: last(redo)}
	for _, e := range h.copy.Pending() {
		out.Waiting = append(out.Waiting, e.ID)
	}
	return &out
}

func last(list []local.Step) []local.Step {
	return append([]local.Step{}, list[max(0, len(list)-stepsShown):]...)
}

// answer tells what has become of the entities that a patch names, and of those
// that previews had touched.
func (h *host) answer(o outcome, before touched, p patch.Patch, err error) any {
	if err != nil {
		o.Error, o.Edit = err.Error(), nil
	}
	now := h.touchedNow()
	before.moved, before.whole = append(before.moved, now.moved...), append(before.whole, now.whole...)
	if h.live == nil { // else what is seen has not changed
		o.Changed = h.changed(before, p)
	}
	if o.Changed == nil {
		o.Changed = []entityNow{}
	}
	if o.Synced == nil {
		o.Synced = h.synced()
	}
	return reply(o)
}

// stands says how this copy stands to the server's.
func (h *host) stands([]js.Value) any { return reply(h.synced()) }

// newID makes an id for JavaScript.
func (h *host) newID([]js.Value) any { return newID() }

var errPast = errors.New("this is a state of the history; go back to the scene, or restore the state, to change something")

// join says at which revision of the server the opened scene is, who this is, and
// which edits they have made: those in the log, oldest first, and those that wait.
func (h *host) join(args []js.Value) any {
	var a struct {
		Revision int         `json:"revision"`
		Tab      string      `json:"tab"`
		Person   string      `json:"person"`
		Mine     []sync.Edit `json:"mine"`
		Waiting  []sync.Edit `json:"waiting"`
	}
	if err := json.Unmarshal([]byte(args[0].String()), &a); err != nil {
		return failed(err)
	}
	h.copy = local.Join(h.session, a.Revision, a.Tab, a.Person, a.Mine, newID)
	return h.reported(h.copy.Adopt(a.Waiting), nil, touched{})
}

func (h *host) run(args []js.Value) any {
	if h.live != nil {
		return failed(errPast)
	}
	before := h.touchedNow()
	e, err := h.copy.Run(args[0].String(), json.RawMessage(args[1].String()))
	return h.answer(outcome{Edit: &e}, before, e.Patch, err)
}

// turn undoes or redoes the next edit of this person.
func (h *host) turn(args []js.Value) any {
	if h.live != nil {
		return failed(errPast)
	}
	before := h.touchedNow()
	e, err := h.copy.Turn(sync.Kind(args[0].String()))
	return h.answer(outcome{Edit: &e}, before, e.Patch, err)
}

// next gives the oldest edit that the server has not confirmed, null for none.
func (h *host) next([]js.Value) any {
	if e, ok := h.copy.Next(); ok {
		return reply(e)
	}
	return "null"
}

// pending lists the edits that the server has not confirmed.
func (h *host) pending([]js.Value) any {
	return reply(append([]sync.Edit{}, h.copy.Pending()...))
}

func (h *host) receive(args []js.Value) any {
	var edits []sync.Edit
	if err := json.Unmarshal([]byte(args[0].String()), &edits); err != nil {
		return failed(err)
	}
	before := h.touchedNow()
	r, err := h.copy.Receive(edits)
	return h.reported(r, err, before)
}

func (h *host) refused(args []js.Value) any {
	before := h.touchedNow()
	r, err := h.copy.Refused(args[0].String(), args[1].String())
	return h.reported(r, err, before)
}

func (h *host) reported(r local.Report, err error, before touched) any {
	s := h.synced()
	s.Lost, s.Found, s.Behind, s.Astray = r.Lost, r.Found, r.Behind, errors.Is(err, local.ErrAstray)
	p := make(patch.Patch, len(r.Touched))
	for i, k := range r.Touched {
		p[i] = patch.Change{Layer: k.Layer, Collection: k.Collection, ID: k.ID}
	}
	return h.answer(outcome{Synced: s}, before, p, err)
}

// fetched hands over the patch of an old edit of this person.
func (h *host) fetched(args []js.Value) any {
	var p patch.Patch
	if err := json.Unmarshal([]byte(args[1].String()), &p); err != nil {
		return failed(err)
	}
	p, err := patch.Canonical(p)
	if err != nil {
		return failed(err)
	}
	h.copy.Fetched(args[0].Int(), p)
	return reply(h.synced())
}

// guest shows what another browser is dragging; with an empty operation it has let
// go.
func (h *host) guest(args []js.Value) any {
	before := h.touchedNow()
	s := h.session
	if h.live != nil {
		s = h.live
	}
	s.Guest(args[0].String(), args[1].String(), json.RawMessage(args[2].String()))
	return h.answer(outcome{}, before, nil, nil)
}

// held lists the things that others are dragging, as collection/id, by tab.
func (h *host) held([]js.Value) any {
	out := map[string][]string{}
	for tab, t := range h.session.Held() {
		for _, o := range t.Others() {
			out[tab] = append(out[tab], o.Collection+"/"+o.ID)
		}
		for _, s := range t.Shots() {
			out[tab] = append(out[tab], "shots/"+s.ID)
		}
	}
	return reply(out)
}

// look shows a state of the history instead of the scene; back shows the scene
// again.
func (h *host) look(args []js.Value) any {
	doc, err := scene.Decode(bytesOf(args[0]))
	if err != nil {
		return failed(err)
	}
	if h.live == nil {
		h.session.Cancel()
		h.live = h.session
	}
	past := session.Open(doc, newID)
	h.see(past)
	return reply(map[string]any{})
}

func (h *host) back([]js.Value) any {
	if h.live != nil {
		past := h.live
		h.live = nil
		h.see(past)
	}
	return reply(map[string]any{})
}

func (h *host) see(s *session.Session) {
	was := h.session.Assembly()
	h.session = s
	if _, ok := s.Doc.Assemblies[was]; ok {
		_ = s.ChooseAssembly(was)
	}
	h.opened++
}

// restore makes the scene what another document is, as an edit of its own.
func (h *host) restore(args []js.Value) any {
	doc, err := scene.Decode(bytesOf(args[0]))
	if err != nil {
		return failed(err)
	}
	h.back(nil)
	before := h.touchedNow()
	var p patch.Patch
	h.session.Under(func() { p = patch.Between(h.session.Doc, doc) })
	e, err := h.copy.Restore(p, args[1].String())
	return h.answer(outcome{Edit: &e}, before, e.Patch, err)
}

// compare lists what differs between two documents, thing by thing; without the
// second, between one and the scene.
func (h *host) compare(args []js.Value) any {
	first, err := scene.Decode(bytesOf(args[0]))
	if err != nil {
		return failed(err)
	}
	second := h.session.Doc
	if h.live != nil {
		second = h.live.Doc
	}
	if len(args) > 1 && args[1].Truthy() {
		if second, err = scene.Decode(bytesOf(args[1])); err != nil {
			return failed(err)
		}
	}
	return reply(patch.Differences(first, second))
}
