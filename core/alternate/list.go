package alternate

import (
	"maps"
	"slices"

	"proscen/core/patch"
	"proscen/core/scene"
)

// Told is one difference as people read it.
type Told struct {
	ID         string        `json:"id"`
	Collection string        `json:"collection"`
	Thing      string        `json:"thing"`
	Name       string        `json:"name"`  // of the thing
	Owner      string        `json:"owner"` // the node that a curve, deed or line belongs to; else ""
	What       scene.Differs `json:"what" jsonschema:"enum=added,enum=removed,enum=changed"`
	Fields     []Field       `json:"fields"`          // of what is changed
	Rests      string        `json:"rests,omitempty"` // why it has no effect
}

// Field is a field that differs.
type Field struct {
	Name   string `json:"name"`   // names with dots between
	Before any    `json:"before"` // as it is below
	After  any    `json:"after"`
	Moved  bool   `json:"moved,omitempty"` // what lies below has changed since
}

// List tells what differs in an alternate, or in a shot, from what it hangs on.
func List(doc *scene.Document, id string) ([]Told, error) {
	s, err := Open(doc, id)
	if err != nil {
		return nil, err
	}
	below, err := s.under(doc)
	if err != nil {
		return nil, err
	}
	out := []Told{}
	for _, k := range Of(doc, id) {
		d := doc.Differences[k]
		t := Told{ID: k, Collection: d.Collection, Thing: d.Thing, What: d.What, Fields: []Field{}, Rests: s.rests[k]}
		in := s.Doc
		if d.What == scene.Removed {
			in = below.Doc
		}
		t.Name = in.Called(d.Collection, d.Thing)
		t.Owner = ownerOf(in, d.Collection, d.Thing)
		if d.What == scene.Changed {
			base := scene.Fields{}
			if table := below.Doc.Table(d.Collection); table != nil {
				base = scene.FieldsOf(table.Get(d.Thing))
			}
			if d.Collection == "curves" {
				t.Fields = []Field{{Name: "keys", Before: base["keys"], After: d.Fields["keys"], Moved: !scene.Same(base, d.Was)}}
			} else {
				t.Fields = fieldsOf("", base, d.Fields, d.Was)
			}
		}
		out = append(out, t)
	}
	return out, nil
}

// Compared tells what differs in a document from another one of the same scene, as List does;
// the ids of its differences are empty.
func Compared(doc, other *scene.Document) []Told {
	out := []Told{}
	for _, c := range patch.Between(other, doc) {
		if Shared(c.Collection) {
			continue
		}
		t := Told{Collection: c.Collection, Thing: c.ID, What: scene.Changed, Fields: []Field{}}
		in := doc
		switch {
		case c.Before == nil:
			t.What = scene.Added
		case c.After == nil:
			t.What, in = scene.Removed, other
		default:
			base, now := scene.FieldsOf(c.Before), scene.FieldsOf(c.After)
			if c.Collection == "curves" {
				t.Fields = []Field{{Name: "keys", Before: base["keys"], After: now["keys"]}}
			} else {
				to, was := base.To(now)
				t.Fields = fieldsOf("", base, to, was)
			}
		}
		t.Name, t.Owner = in.Called(c.Collection, c.ID), ownerOf(in, c.Collection, c.ID)
		out = append(out, t)
	}
	return out
}

func ownerOf(doc *scene.Document, collection, id string) string {
	switch collection {
	case "nodes":
		return id
	case "curves":
		return doc.Curves[id].Node
	case "actions":
		return doc.Actions[id].Cast
	case "lines":
		return doc.Lines[id].Cast
	}
	return ""
}

// fieldsOf lists the fields of a merge patch against what they change.
func fieldsOf(within string, base, fields, was map[string]any) (out []Field) {
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		path := name
		if within != "" {
			path = within + "." + name
		}
		in, nested := fields[name].(map[string]any)
		b, both := base[name].(map[string]any)
		w, _ := was[name].(map[string]any)
		if nested && both {
			out = append(out, fieldsOf(path, b, in, w)...)
			continue
		}
		out = append(out, Field{path, base[name], fields[name], !scene.Same(base[name], was[name])})
	}
	return out
}

// Names lists the fields of a merge patch, with dots between names.
func Names(fields scene.Fields) (out []string) {
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		in, nested := fields[name].(map[string]any)
		if !nested || len(in) == 0 {
			out = append(out, name)
			continue
		}
		for _, more := range Names(in) {
			out = append(out, name+"."+more)
		}
	}
	return out
}

// InTree lists all alternates, each after what it hangs on.
func InTree(doc *scene.Document) (out []string) {
	children := map[string][]string{}
	for _, id := range Sorted(doc) {
		parent := doc.Alternates[id].Parent
		children[parent] = append(children[parent], id)
	}
	seen := map[string]bool{}
	var add func(id string)
	add = func(id string) {
		if seen[id] {
			return
		}
		seen[id] = true
		out = append(out, id)
		for _, c := range children[id] {
			add(c)
		}
	}
	for _, id := range children[""] {
		add(id)
	}
	for _, id := range Sorted(doc) { // those that hang on nothing that is there
		add(id)
	}
	return out
}
