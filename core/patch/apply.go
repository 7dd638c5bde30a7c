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
	if err := bound(doc, p); err != nil {
		d.Rollback()
		return err
	}
	doc.Grow(p.growth())
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

// growth returns by how many bytes the JSON form of a document grows: an entity
// stands there with its id, quotes, a colon and a comma.
func (p Patch) growth() (bytes int) {
	for _, c := range p {
		around := len(c.ID) + 4
		if b := none(c.Before); b != nil {
			bytes -= len(b) + around
		}
		if a := none(c.After); a != nil {
			bytes += len(a) + around
		}
	}
	return bytes
}

// bound refuses a patch with which the document would grow past what is read.
func bound(doc *scene.Document, p Patch) error {
	if by := p.growth(); by > 0 && doc.Size()+by > scene.MaxBytes {
		return fmt.Errorf("the scene would become larger than the %d MB that a scene can have; remove something first", scene.MaxBytes>>20)
	}
	return nil
}

func clip(s string) string {
	if len(s) > 80 {
		return s[:80] + "…"
	}
	return s
}
