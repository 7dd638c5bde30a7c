package scene

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
)

// Read reads a document that may have been written by others. It is Decode for which a
// byte-order mark before the text does not matter, and by which is refused, with its place,
// what reading JSON lets pass: names in other letters or twice, lists of another length,
// collections that are missing, and pieces of which the stock does not know the kind.
func Read(data []byte, stock func(kind string) bool) (*Document, error) {
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if bytes.HasPrefix(data, []byte("\xff\xfe")) || bytes.HasPrefix(data, []byte("\xfe\xff")) {
		return nil, fmt.Errorf("this is not a scene document: it is UTF-16; save it as UTF-8")
	}
	d, err := Decode(data)
	var wrong Problems
	if err != nil && !errors.As(err, &wrong) {
		return nil, err
	}
	r := shape{dec: json.NewDecoder(bytes.NewReader(data))}
	r.document()
	if d != nil {
		for _, id := range slices.Sorted(maps.Keys(d.Nodes)) {
			if p := d.Nodes[id].Piece; p != nil && !stock(p.Stock) {
				r.problems.add("nodes/"+clip(id)+"/piece/stock", fmt.Sprintf("is %q, which is not in the stock", clip(p.Stock)))
			}
		}
	}
	// What is written otherwise comes first: other things may follow from it.
	if all := append(r.problems, wrong...); len(all) > 0 {
		return nil, all
	}
	return d, nil
}

// shape compares the text of a document with the types that it is decoded to.
type shape struct {
	dec      *json.Decoder
	problems Problems
}

// document compares the collections.
func (r *shape) document() {
	types := map[string]reflect.Type{}
	spare := map[string]bool{} // those that documents leave out
	of := reflect.TypeFor[Document]()
	for i := range of.NumField() {
		if name, how, _ := strings.Cut(of.Field(i).Tag.Get("json"), ","); name != "" && name != "-" {
			types[name], spare[name] = of.Field(i).Type, how == "omitempty"
		}
	}
	found := map[string]bool{}
	r.object("", func(name string) {
		found[name] = true
		r.value(name, types[name])
	})
	for _, t := range New().Tables() {
		if !found[t.Name()] && !spare[t.Name()] {
			r.problems.add(t.Name(), "is missing; a collection without anything in it is {}")
		}
	}
}

// object goes through an object whose beginning is read next.
func (r *shape) object(place string, each func(name string)) {
	_, _ = r.dec.Token() // it is JSON, so it is there
	r.members(place, each)
}

// members goes through an object after its beginning.
func (r *shape) members(place string, each func(name string)) {
	seen := map[string]bool{}
	for r.dec.More() {
		t, err := r.dec.Token()
		name, ok := t.(string)
		if err != nil || !ok {
			return
		}
		if seen[name] {
			r.problems.add(under(place, name), "is there twice")
		}
		seen[name] = true
		each(name)
	}
	_, _ = r.dec.Token()
}

func under(place, name string) string {
	if place == "" {
		return clip(name)
	}
	return place + "/" + clip(name)
}

// value compares a value with its type, nil for any.
func (r *shape) value(place string, of reflect.Type) {
	t, err := r.dec.Token()
	if err != nil {
		return
	}
	for of != nil && of.Kind() == reflect.Pointer {
		of = of.Elem()
	}
	if of != nil && reflect.PointerTo(of).Implements(reflect.TypeFor[json.Unmarshaler]()) {
		of = nil // it has a form of its own
	}
	switch t {
	case json.Delim('{'):
		r.members(place, func(name string) { r.value(under(place, name), r.field(place, of, name)) })
	case json.Delim('['):
		var each reflect.Type
		if of != nil && (of.Kind() == reflect.Array || of.Kind() == reflect.Slice) {
			each = of.Elem()
		}
		n := 0
		for ; r.dec.More(); n++ {
			r.value(fmt.Sprintf("%s/%d", place, n), each)
		}
		_, _ = r.dec.Token()
		if of != nil && of.Kind() == reflect.Array && n != of.Len() {
			r.problems.add(place, fmt.Sprintf("has %d numbers; it must have %d", n, of.Len()))
		}
	}
}

// field is the type of a member of an object.
func (r *shape) field(place string, of reflect.Type, name string) reflect.Type {
	switch {
	case of == nil:
		return nil
	case of.Kind() == reflect.Map:
		return of.Elem()
	case of.Kind() != reflect.Struct:
		return nil
	}
	for i := range of.NumField() {
		f := of.Field(i)
		tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Anonymous && tag == "" && f.Type.Kind() == reflect.Struct {
			if t := (&shape{}).field("", f.Type, name); t != nil {
				return t
			}
		}
		if tag == name {
			return f.Type
		}
	}
	if place != "" {
		r.problems.add(under(place, name), "is no name of this; names are written in the letters of the schema")
	}
	return nil
}
