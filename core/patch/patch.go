// Package patch is what everything but the operations themselves knows of an
// edit: the list of entities that it replaces. Undo, history, storage, sync and
// alternates need nothing else.
package patch

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"proscen/core/scene"
)

// Change replaces one entity of a layer; the layer "" is the scene itself.
// Before is nil when it did not exist, After is nil when it is deleted; both are
// canonical JSON. An entity is one value: two changes of a curve do not mix.
type Change struct {
	Layer      string          `json:"layer,omitempty"`
	Collection string          `json:"collection"`
	ID         string          `json:"id"`
	Before     json.RawMessage `json:"before,omitempty"`
	After      json.RawMessage `json:"after,omitempty"`
}

// Key names an entity of a layer.
type Key struct{ Layer, Collection, ID string }

// Key returns what the change replaces.
func (c Change) Key() Key { return Key{c.Layer, c.Collection, c.ID} }

// String writes the key for people.
func (k Key) String() string {
	if k.Layer != "" {
		return k.Layer + ":" + k.Collection + "/" + k.ID
	}
	return k.Collection + "/" + k.ID
}

// Patch is what an operation did, in order of layer, collection and id.
type Patch []Change

// Inverse returns the patch that undoes p.
func (p Patch) Inverse() Patch {
	out := make(Patch, len(p))
	for i, c := range p {
		c.Before, c.After = c.After, c.Before
		out[i] = c
	}
	return out
}

// Merge returns one patch that does what patches in a row do. What is as it was
// in the end is left out.
func Merge(row ...Patch) Patch {
	at := map[Key]int{}
	var out Patch
	for _, p := range row {
		for _, c := range p {
			if i, ok := at[c.Key()]; ok {
				out[i].After = c.After
				continue
			}
			at[c.Key()] = len(out)
			out = append(out, c)
		}
	}
	out = slices.DeleteFunc(out, func(c Change) bool { return bytes.Equal(none(c.Before), none(c.After)) })
	out.sort()
	return out
}

func (p Patch) sort() {
	slices.SortFunc(p, func(a, b Change) int {
		return cmp.Or(cmp.Compare(a.Layer, b.Layer), cmp.Compare(a.Collection, b.Collection), cmp.Compare(a.ID, b.ID))
	})
}

// Equal tells whether two patches do the same.
func (p Patch) Equal(q Patch) bool {
	return slices.EqualFunc(p, q, func(a, b Change) bool {
		return a.Key() == b.Key() && bytes.Equal(none(a.Before), none(b.Before)) && bytes.Equal(none(a.After), none(b.After))
	})
}

// MaxChanges bounds the changes of one patch.
const MaxChanges = 100_000

// ErrMismatch says that a patch was made from another state of the document.
var ErrMismatch = errors.New("the document has changed since this edit was made")

// none reads the JSON null as absence.
func none(b json.RawMessage) json.RawMessage {
	if bytes.Equal(b, []byte("null")) {
		return nil
	}
	return b
}

// tables are the collections of a document by name.
type tables map[string]scene.Table

func tablesOf(doc *scene.Document) tables {
	t := tables{}
	for _, table := range doc.Tables() {
		t[table.Name()] = table
	}
	return t
}

// Canonical rewrites before and after into the one form in which entities are
// compared, so that patches from outside compare by their meaning and not by
// their spaces. It refuses what is no entity, and text that cannot be kept.
func Canonical(p Patch) (Patch, error) {
	if len(p) > MaxChanges {
		return nil, fmt.Errorf("the edit has %d changes, more than %d", len(p), MaxChanges)
	}
	scratch := tablesOf(scene.New())
	out := make(Patch, len(p))
	for i, c := range p {
		t := scratch[c.Collection]
		if t == nil {
			return nil, fmt.Errorf("%q is not a collection of a scene", c.Collection)
		}
		out[i] = Change{Layer: c.Layer, Collection: c.Collection, ID: c.ID}
		for _, side := range []struct {
			in  json.RawMessage
			out *json.RawMessage
		}{{none(c.Before), &out[i].Before}, {none(c.After), &out[i].After}} {
			if side.in == nil {
				continue
			}
			if err := t.Set(c.ID, side.in); err != nil {
				return nil, fmt.Errorf("%s %w", c.Key(), err)
			}
			*side.out = t.Get(c.ID)
		}
	}
	return out, nil
}
