package patch

import (
	"bytes"
	"errors"
	"fmt"
	"slices"

	"proscen/core/scene"
)

// Apply checks every before of a canonical patch against the document, applies
// it, and validates what it touches and what refers to that. On any error the
// document, which was valid, is as it was.
func Apply(doc *scene.Document, p Patch) error {
	if err := Fits(doc, p); err != nil {
		return err
	}
	d := NewDraft(doc)
	for _, c := range p {
		if err := d.put(c); err != nil {
			d.Rollback()
			return err
		}
	}
	if problems := d.Problems(); len(problems) > 0 {
		d.Rollback()
		return problems
	}
	by, err := bound(doc, p)
	if err != nil {
		d.Rollback()
		return err
	}
	doc.Grow(by)
	d.Release()
	return nil
}

// Lay applies a patch whose outcome is known to be valid, such as one that the
// server has accepted, or the inverse of one. Every before must fit.
func Lay(doc *scene.Document, p Patch) error {
	if err := Fits(doc, p); err != nil {
		return err
	}
	t := tablesOf(doc)
	for i, c := range p {
		if err := put(t[c.Collection], c); err != nil {
			for _, done := range slices.Backward(p[:i]) {
				done.After = done.Before
				_ = put(t[done.Collection], done) // it was read from this table, so it decodes
			}
			return err
		}
	}
	doc.Grow(p.growth())
	return nil
}

// Fits tells whether a patch names collections and layers that there are, each
// entity once, and whether each is still as it was when the patch was made.
func Fits(doc *scene.Document, p Patch) error {
	if len(p) > MaxChanges {
		return fmt.Errorf("the edit has %d changes, more than %d", len(p), MaxChanges)
	}
	t := tablesOf(doc)
	seen := make(map[Key]bool, len(p))
	for _, c := range p {
		if c.Layer != "" {
			return fmt.Errorf("the scene has no alternate %q", clip(c.Layer))
		}
		if t[c.Collection] == nil {
			return fmt.Errorf("%q is not a collection of a scene", clip(c.Collection))
		}
		if seen[c.Key()] {
			return fmt.Errorf("the edit changes %s twice", c.Key())
		}
		seen[c.Key()] = true
		if c.Collection == "settings" && none(c.After) == nil {
			return errors.New("the settings of a scene cannot be deleted")
		}
		if !bytes.Equal(t[c.Collection].Get(c.ID), none(c.Before)) {
			return fmt.Errorf("%w (%s)", ErrMismatch, c.Key())
		}
	}
	return nil
}

func put(t scene.Table, c Change) error {
	if none(c.After) == nil {
		t.Delete(c.ID)
		return nil
	}
	if err := t.Set(c.ID, c.After); err != nil {
		return fmt.Errorf("%s %w", c.Key(), err)
	}
	return nil
}

// growth returns by how much the JSON form of a document grows: an entity stands
// there with its id, quotes, a colon and a comma.
func (p Patch) growth() (by scene.Weight) {
	for _, c := range p {
		around := scene.Weight{Bytes: len(c.ID) + 4, Entities: 1}
		if b := none(c.Before); b != nil {
			by = by.Plus(around, -1).Plus(scene.Weigh(b), -1)
		}
		if a := none(c.After); a != nil {
			by = by.Plus(around, 1).Plus(scene.Weigh(a), 1)
		}
	}
	return by
}

// bound returns by how much a document grows with a patch, and refuses one with which
// it would grow past what is read.
func bound(doc *scene.Document, p Patch) (by scene.Weight, err error) {
	by = p.growth()
	if by.Bytes <= 0 && by.Things <= 0 && by.Entities <= 0 {
		return by, nil
	}
	if err := doc.Weight().Plus(by, 1).Over(); err != nil {
		return by, fmt.Errorf("the scene would become larger than %w; remove something first", err)
	}
	return by, nil
}

func clip(s string) string {
	if len(s) > 80 {
		return s[:80] + "…"
	}
	return s
}
