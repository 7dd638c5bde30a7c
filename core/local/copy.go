// Package local keeps one open copy of a scene together with the server's: what is
// done here goes on its way, and what others do is laid under it. The browser and the
// tests run the same code; docs/sync.md has the rules for what can clash.
package local

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"

	"proscen/core/patch"
	"proscen/core/session"
	"proscen/core/sync"
)

// Copy is one open copy of a scene: the document as the server has it at a
// revision, with the edits of its own that the server has not confirmed applied
// on top, in order.
type Copy struct {
	Tab, Person string

	sides    *session.Sides
	revision int
	pending  []sync.Edit
	mine     []sync.Edit // what can be undone follows from these; patches may be missing
	newID    func() string
	sent     sync.Edit // what Next gave last
}

// Lost is an edit that could not be kept, with the reason.
type Lost struct {
	Edit sync.Edit `json:"edit"`
	Why  string    `json:"why"`
}

// Report says what taking in edits has done.
type Report struct {
	Touched []patch.Key // what may be different now
	Lost    []Lost      // own edits that could not be kept
	Same    []sync.Edit // own edits that had nothing left to do, since others had done the same
	Found   []string    // ids of own edits that are in the log after all, though they were said to be lost
	Behind  bool        // edits between are missing: ask for those since Revision
}

// ErrAstray says that this copy is not what the server has: it must be loaded
// again.
var ErrAstray = errors.New("this copy of the scene is not the one that the server has; it must be loaded again")

// Join begins with a session whose document is at a revision. Mine are the edits of
// this person in the log, oldest first, as far as they are wanted for undo.
func Join(s *session.Sides, revision int, tab, person string, mine []sync.Edit, newID func() string) *Copy {
	return &Copy{Tab: tab, Person: person, sides: s, revision: revision, mine: slices.Clone(mine), newID: newID}
}

// Revision returns the newest revision of the server that is taken in.
func (c *Copy) Revision() int { return c.revision }

// Pending lists the edits that the server has not confirmed, oldest first.
func (c *Copy) Pending() []sync.Edit { return c.pending }

// Next returns the oldest edit that the server has not confirmed, made from the
// newest revision that is known, and whether there is one.
func (c *Copy) Next() (sync.Edit, bool) {
	if len(c.pending) == 0 {
		return sync.Edit{}, false
	}
	e := c.pending[0]
	e.Base = c.revision
	c.sent = e
	return e, true
}

// ids makes the ids of what an edit makes: the same when it is done again.
func ids(edit string) func() string {
	n := 0
	return func() string {
		n++
		return edit + "-" + strconv.Itoa(n)
	}
}

// Run performs an operation in an alternate, "" for the scene itself. An edit without a
// patch has changed nothing and is not sent.
func (c *Copy) Run(alternate, operation string, args json.RawMessage) (sync.Edit, error) {
	e := sync.Edit{ID: c.newID(), Base: c.revision, Kind: sync.Do, Operation: operation, Arguments: args, Alternate: alternate, Tab: c.Tab, Person: c.Person}
	r, err := c.sides.Run(alternate, operation, args, ids(e.ID))
	if err != nil {
		return e, err
	}
	e.Label, e.Patch = clipLabel(r.Label), r.Patch
	if len(e.Patch) > 0 {
		c.add(e)
	}
	return e, nil
}

// Restore applies a patch that leads to an earlier state, as an edit of its own.
func (c *Copy) Restore(p patch.Patch, label string) (sync.Edit, error) {
	e := sync.Edit{ID: c.newID(), Base: c.revision, Kind: sync.Restore, Label: clipLabel(label), Tab: c.Tab, Person: c.Person, Patch: p}
	if len(p) == 0 {
		return e, nil
	}
	if err := c.sides.Apply(p); err != nil {
		return e, err
	}
	c.add(e)
	return e, nil
}

func (c *Copy) add(e sync.Edit) {
	c.pending = append(c.pending, e)
	c.mine = append(c.mine, e)
}

// Turn takes back the edit that is next to be undone, or does the one again that
// is next to be redone, as far as others have not built on it.
func (c *Copy) Turn(kind sync.Kind) (sync.Edit, error) {
	undo, redo := c.Stacks()
	list := undo
	if kind == sync.Redo {
		list = redo
	}
	if len(list) == 0 {
		return sync.Edit{}, fmt.Errorf("there is nothing to %s", kind)
	}
	step := list[len(list)-1]
	if step.Patch == nil {
		return sync.Edit{}, fmt.Errorf("the edit “%s” has to be fetched first", step.Label)
	}
	wanted := step.Patch.Inverse()
	e := sync.Edit{ID: c.newID(), Base: c.revision, Kind: kind, Of: step.ID, Label: clipLabel(string(kind) + " " + step.Label), Tab: c.Tab, Person: c.Person}
	c.sides.Scene().Cancel()
	var p patch.Patch
	var whole bool
	c.sides.Under(func() { p, whole = patch.Rebase(c.sides.Scene().Doc, wanted) })
	if len(p) == 0 {
		c.mine = append(c.mine, e) // without a patch: the step goes, or it would be in the way for good
		return e, fmt.Errorf("“%s” stays: others have changed the same since; the edit before it is next", step.Label)
	}
	if !whole {
		e.Label = clipLabel(e.Label + ", as far as others have not built on it")
	}
	if err := c.sides.Apply(p); err != nil {
		c.mine = append(c.mine, e)
		return e, fmt.Errorf("“%s” stays, since others have built on it (%w); the edit before it is next", step.Label, err)
	}
	e.Patch = p
	c.add(e)
	return e, nil
}

// Step is an edit that can be undone or redone now. The inverse of its patch does
// that.
type Step struct {
	ID       string      `json:"id"`
	Label    string      `json:"label"`
	Revision int         `json:"revision"`          // of the edit whose patch it is
	Missing  bool        `json:"missing,omitempty"` // its patch has not been fetched
	Patch    patch.Patch `json:"-"`
}

// Stacks works out from the edits of this copy what can be undone and redone
// now; the last element of each is the next. A new edit ends what could be redone.
func (c *Copy) Stacks() (undo, redo []Step) {
	take := func(from *[]Step, id string) (Step, bool) {
		for i := len(*from) - 1; i >= 0; i-- {
			if s := (*from)[i]; s.ID == id {
				*from = slices.Delete(*from, i, i+1)
				return s, true
			}
		}
		return Step{}, false
	}
	for i := range c.mine {
		e := &c.mine[i]
		step := Step{e.ID, e.Label, e.Revision, e.Patch == nil, e.Patch}
		switch e.Kind {
		case sync.Undo, sync.Redo:
			from, to := &undo, &redo
			if e.Kind == sync.Redo {
				from, to = &redo, &undo
			}
			if s, ok := take(from, e.Of); ok && len(e.Patch) > 0 || ok && e.Revision > 0 {
				step.ID, step.Label = s.ID, s.Label
				*to = append(*to, step)
			}
		default:
			undo, redo = append(undo, step), nil
		}
	}
	return undo, redo
}

// Fetched hands over the patch of an edit of this person that was not read with the
// history.
func (c *Copy) Fetched(revision int, p patch.Patch) {
	for i := range c.mine {
		if c.mine[i].Revision == revision {
			c.mine[i].Patch = p
		}
	}
}

// Receive takes in edits of the log: of others, and of this copy, which confirms
// them. Those that are known already are passed over. What of its own still waits
// is laid on top again: as it is where it fits, else done again by its rule.
func (c *Copy) Receive(edits []sync.Edit) (Report, error) {
	var r Report
	var fresh []sync.Edit
	var stored []string // ids of what is in the document already
	at := c.revision
	for _, e := range slices.SortedFunc(slices.Values(edits), func(a, b sync.Edit) int { return a.Revision - b.Revision }) {
		if e.Revision <= at {
			stored = append(stored, e.ID)
			continue
		}
		if e.Revision > at+1 {
			r.Behind = true
			break
		}
		fresh, at = append(fresh, e), e.Revision
	}
	for i := range fresh {
		if e := &fresh[i]; e.Patch == nil && e.ID == c.sent.ID {
			e.Patch = c.sent.Patch // an answer does not repeat what was sent
		}
	}
	for _, id := range stored {
		// It was read with the document and laid on top once more: that goes.
		if _, err := c.without(id, &r); err != nil {
			return r, err
		}
	}
	fresh = c.confirm(fresh)
	if len(fresh) == 0 {
		return r, nil
	}
	var err error
	c.sides.Under(func() { err = c.take(fresh, &r) })
	return r, err
}

// confirm passes over the first edits when they are just what this copy has sent.
func (c *Copy) confirm(fresh []sync.Edit) []sync.Edit {
	for len(fresh) > 0 && len(c.pending) > 0 && fresh[0].ID == c.pending[0].ID && fresh[0].Patch.Equal(c.pending[0].Patch) {
		c.confirmed(fresh[0].ID, fresh[0].Revision, c.pending[0].Patch)
		c.pending = c.pending[1:]
		c.revision = fresh[0].Revision
		fresh = fresh[1:]
	}
	return fresh
}

// confirmed notes what the log has of an own edit.
func (c *Copy) confirmed(id string, revision int, p patch.Patch) {
	for i := range slices.Backward(c.mine) {
		if c.mine[i].ID == id {
			c.mine[i].Revision, c.mine[i].Patch = revision, p
			return
		}
	}
}

// take lays edits of the log under those that wait.
func (c *Copy) take(fresh []sync.Edit, r *Report) error {
	waiting := c.pending
	own := make([]patch.Patch, len(waiting))
	for i, e := range waiting {
		own[i] = e.Patch
	}
	off := patch.Merge(own...).Inverse()
	if err := c.sides.Lay(off); err != nil {
		return ErrAstray
	}
	r.touch(off)
	for _, e := range fresh {
		if err := c.sides.Lay(e.Patch); err != nil {
			c.pending = waiting
			return ErrAstray
		}
		r.touch(e.Patch)
		c.revision = e.Revision
		if i := slices.IndexFunc(waiting, func(w sync.Edit) bool { return w.ID == e.ID }); i >= 0 {
			waiting = slices.Concat(waiting[:i], waiting[i+1:])
			c.confirmed(e.ID, e.Revision, e.Patch)
		} else if e.Tab == c.Tab {
			// It was stored, its answer was lost, and what came before it in the log and
			// was known first left it no place here.
			r.Found = append(r.Found, e.ID)
			c.mine = append(c.mine, e)
		} else if e.Person == c.Person && e.Of != "" && slices.ContainsFunc(c.mine, func(m sync.Edit) bool { return m.ID == e.Of }) {
			c.mine = append(c.mine, e) // another tab of this person has turned it
		}
	}
	c.pending = nil
	c.adopt(waiting, r)
	return nil
}

// Adopt lays own edits that are not in the log on top of the document: those that
// waited while others were taken in, or were left by a tab that has been closed.
func (c *Copy) Adopt(waiting []sync.Edit) (r Report) {
	c.sides.Under(func() { c.adopt(waiting, &r) })
	return r
}

func (c *Copy) adopt(waiting []sync.Edit, r *Report) {
	for _, e := range waiting {
		e.Base = c.revision
		if err := c.again(&e); err != nil {
			c.lose(e, err, r)
			continue
		}
		r.touch(e.Patch)
		if len(e.Patch) == 0 {
			r.Same = append(r.Same, e)
			c.forget(e.ID)
			continue
		}
		c.pending = append(c.pending, e)
		if i := slices.IndexFunc(c.mine, func(m sync.Edit) bool { return m.ID == e.ID }); i >= 0 {
			c.mine[i] = e
		} else {
			c.mine = append(c.mine, e)
		}
	}
}

// again puts an edit onto another document than it was made from: its patch where
// that fits; else an operation is done anew, and what takes back or restores
// does so as far as it can.
func (c *Copy) again(e *sync.Edit) error {
	err := sync.NumbersFree(c.sides.Scene().Doc, e.Patch)
	if err == nil {
		err = c.sides.Apply(e.Patch)
	}
	if err == nil {
		return nil
	}
	if e.Operation != "" {
		r, err := c.sides.Run(e.Alternate, e.Operation, e.Arguments, ids(e.ID))
		if err != nil {
			return err
		}
		e.Label, e.Patch = clipLabel(r.Label), r.Patch
		return nil
	}
	p, _ := patch.Rebase(c.sides.Scene().Doc, e.Patch)
	if len(p) == 0 {
		return errors.New("others have changed the same since")
	}
	if err := c.sides.Apply(p); err != nil {
		return err
	}
	e.Patch = p
	return nil
}

// Refused sets an edit aside that the server refuses for good; those behind it are
// done again without it.
func (c *Copy) Refused(id, why string) (Report, error) {
	var r Report
	e, err := c.without(id, &r)
	if e != nil {
		c.lose(*e, errors.New(why), &r)
	}
	return r, err
}

// without takes an edit off that waits, and does those behind it again. It returns
// the edit, nil when it does not wait.
func (c *Copy) without(id string, r *Report) (taken *sync.Edit, err error) {
	i := slices.IndexFunc(c.pending, func(e sync.Edit) bool { return e.ID == id })
	if i < 0 {
		return nil, nil
	}
	c.sides.Under(func() {
		waiting := slices.Clone(c.pending[i:])
		for _, e := range slices.Backward(waiting) {
			if c.sides.Lay(e.Patch.Inverse()) != nil {
				err = ErrAstray
				return
			}
			r.touch(e.Patch)
		}
		c.pending = c.pending[:i:i]
		taken = &waiting[0]
		c.adopt(waiting[1:], r)
	})
	return taken, err
}

func (c *Copy) lose(e sync.Edit, why error, r *Report) {
	c.forget(e.ID)
	r.Lost = append(r.Lost, Lost{e, why.Error()})
}

func (c *Copy) forget(id string) {
	c.mine = slices.DeleteFunc(c.mine, func(m sync.Edit) bool { return m.ID == id })
}

func (r *Report) touch(p patch.Patch) {
	for _, change := range p {
		r.Touched = append(r.Touched, change.Key())
	}
}

// clipLabel shortens a label to what an edit may have.
func clipLabel(s string) string {
	if len(s) <= sync.MaxLabel {
		return s
	}
	r := []rune(s)
	for len(string(r)) > sync.MaxLabel-len("…") {
		r = r[:len(r)-1]
	}
	return string(r) + "…"
}
