package patch

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"proscen/core/scene"
)

// Between returns the patch that leads from one document to another.
func Between(from, to *scene.Document) Patch {
	var p Patch
	tables := to.Tables()
	for i, a := range from.Tables() {
		b := tables[i]
		ids := map[string]bool{}
		for _, id := range slices.Concat(a.IDs(), b.IDs()) {
			ids[id] = true
		}
		for id := range ids {
			before, after := a.Get(id), b.Get(id)
			if !bytes.Equal(before, after) {
				p = append(p, Change{Collection: a.Name(), ID: id, Before: before, After: after})
			}
		}
	}
	p.sort()
	return p
}

// Compared is one thing that differs between two documents.
type Compared struct {
	Collection string   `json:"collection"`
	ID         string   `json:"id"`
	Name       string   `json:"name"`                                                   // as people call it
	What       string   `json:"what" jsonschema:"enum=added,enum=removed,enum=changed"` // added, removed or changed
	Fields     []string `json:"fields,omitempty"`
}

// Differences lists what differs between two documents, thing by thing.
func Differences(from, to *scene.Document) []Compared {
	out := []Compared{}
	for _, c := range Between(from, to) {
		d := Compared{Collection: c.Collection, ID: c.ID, What: "changed"}
		switch {
		case c.Before == nil:
			d.What, d.Name = "added", to.Called(c.Collection, c.ID)
		case c.After == nil:
			d.What, d.Name = "removed", from.Called(c.Collection, c.ID)
		default:
			d.Name, d.Fields = to.Called(c.Collection, c.ID), fieldsThatDiffer("", c.Before, c.After)
		}
		out = append(out, d)
	}
	return out
}

// mostFields bounds how many fields of a thing are named.
const mostFields = 6

func fieldsThatDiffer(within string, before, after json.RawMessage) (out []string) {
	var b, a map[string]json.RawMessage
	if json.Unmarshal(before, &b) != nil || json.Unmarshal(after, &a) != nil || a == nil || b == nil {
		return []string{within}
	}
	names := maps.Clone(b)
	maps.Copy(names, a)
	for _, name := range slices.Sorted(maps.Keys(names)) {
		if bytes.Equal(b[name], a[name]) {
			continue
		}
		path := name
		if within != "" {
			path = within + "." + name
		}
		out = append(out, fieldsThatDiffer(path, b[name], a[name])...)
	}
	if len(out) > mostFields {
		out = append(out[:mostFields:mostFields], fmt.Sprintf("and %d more", len(out)-mostFields))
	}
	return out
}
