//go:build js && wasm

package main

import (
	"encoding/json"
	"slices"
	"syscall/js"

	"proscen/core/edit"
	"proscen/core/scene"
)

// entityNow is an entity after a change; a null value means that it is gone.
type entityNow struct {
	Collection string          `json:"collection"`
	ID         string          `json:"id"`
	Value      json.RawMessage `json:"value"`
}

// outcome is what a change of the document gives back.
type outcome struct {
	Label   string      `json:"label,omitempty"`
	Patch   edit.Patch  `json:"patch,omitempty"`
	Changed []entityNow `json:"changed"`
}

// changed lists the entities of patches and of what a preview had touched, as
// they are now.
func (h *host) changed(before *edit.Trial, p edit.Patch) []entityNow {
	out := []entityNow{}
	seen := map[[2]string]bool{}
	add := func(key [2]string) {
		if !seen[key] {
			seen[key] = true
			out = append(out, entityNow{key[0], key[1], h.session.Doc.Table(key[0]).Get(key[1])})
		}
	}
	if before != nil {
		for _, key := range before.Touched() {
			add(key)
		}
	}
	for _, c := range p {
		add([2]string{c.Collection, c.ID})
	}
	return out
}

func (h *host) run(args []js.Value) any {
	before := h.session.Previewing()
	r, err := h.session.Run(args[0].String(), json.RawMessage(args[1].String()))
	return h.outcome(r, err, before)
}

func (h *host) outcome(r edit.Result, err error, before *edit.Trial) any {
	if err != nil {
		b, _ := json.Marshal(struct {
			Error   string      `json:"error"`
			Changed []entityNow `json:"changed"`
		}{err.Error(), h.changed(before, nil)})
		return string(b)
	}
	return reply(outcome{r.Label, r.Patch, h.changed(before, r.Patch)})
}

// previewed is what a preview, or taking one back, gives. Of shots that have only
// been moved in screen time, of which there may be thousands, there are the ids,
// and their first frames and the frames after their last.
type previewed struct {
	Error   string      `json:"error,omitempty"`
	Changed []entityNow `json:"changed"`
	Moved   []string    `json:"moved,omitempty"`
	Frames  []int       `json:"frames,omitempty"`
}

func (h *host) preview(args []js.Value) any {
	earlier := h.shifts(h.session.Previewing())
	err := h.session.Preview(args[0].String(), json.RawMessage(args[1].String()))
	return h.previewed(err, earlier)
}

func (h *host) cancel([]js.Value) any {
	earlier := h.shifts(h.session.Previewing())
	h.session.Cancel()
	return h.previewed(nil, earlier)
}

// shift is something that a preview has touched; only is set for a shot of which
// nothing but its place in screen time has changed.
type shift struct {
	key  [2]string
	only bool
}

func (h *host) shifts(t *edit.Trial) []shift {
	if t == nil {
		return nil
	}
	out := make([]shift, 0, len(t.Touched()))
	for _, key := range t.Touched() {
		s := shift{key: key}
		if was, ok := t.Before(key[0], key[1]).(scene.Shot); ok {
			now, there := h.session.Doc.Shots[key[1]]
			was.ScreenIn, was.ScreenOut = now.ScreenIn, now.ScreenOut
			s.only = there && was == now
		}
		out = append(out, s)
	}
	return out
}

// previewed tells what the preview in effect has changed, and what one before it
// had changed and was taken back.
func (h *host) previewed(err error, earlier []shift) any {
	out := previewed{Changed: []entityNow{}}
	if err != nil {
		out.Error = err.Error()
	}
	trial := h.session.Previewing()
	now := h.shifts(trial)
	whole := map[[2]string]bool{}
	for _, s := range slices.Concat(now, earlier) {
		if !s.only {
			whole[s.key] = true
		}
	}
	tell := func(key [2]string) {
		if whole[key] {
			out.Changed = append(out.Changed, entityNow{key[0], key[1], h.session.Doc.Table(key[0]).Get(key[1])})
			return
		}
		shot := h.session.Doc.Shots[key[1]]
		out.Moved = append(out.Moved, key[1])
		out.Frames = append(out.Frames, shot.ScreenIn, shot.ScreenOut)
	}
	for _, s := range now {
		tell(s.key)
	}
	for _, s := range earlier {
		if !trial.Touches(s.key) {
			tell(s.key)
		}
	}
	return reply(out)
}

func (h *host) patched(args []js.Value, turn func(edit.Patch) edit.Patch) any {
	var p edit.Patch
	if err := json.Unmarshal([]byte(args[0].String()), &p); err != nil {
		return failed(err)
	}
	p = turn(p)
	before := h.session.Previewing()
	err := h.session.Apply(p)
	return h.outcome(edit.Result{Patch: p}, err, before)
}

func (h *host) apply(args []js.Value) any {
	return h.patched(args, func(p edit.Patch) edit.Patch { return p })
}

func (h *host) revert(args []js.Value) any { return h.patched(args, edit.Patch.Inverse) }

func (h *host) stacks(args []js.Value) any {
	var entries []edit.Entry
	if err := json.Unmarshal([]byte(args[0].String()), &entries); err != nil {
		return failed(err)
	}
	undo, redo := edit.Stacks(entries)
	revisions := func(list []edit.Entry) []int {
		out := make([]int, len(list))
		for i, e := range list {
			out[i] = e.Revision
		}
		return out
	}
	return reply(map[string]any{"undo": revisions(undo), "redo": revisions(redo)})
}

func (h *host) document([]js.Value) any { return string(h.session.Doc.Encode()) }
