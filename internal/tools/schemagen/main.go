// Command schemagen prints JSON Schemas: "document" that of the scene document,
// "core" that of all that pages and the core say to each other, from which the front
// end's types are made.
package main

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"reflect"
	"slices"
	"strings"
	"unicode"

	"github.com/invopop/jsonschema"

	"proscen/core/curve"
	"proscen/core/interchange"
	"proscen/core/page"
	"proscen/core/patch"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/timing"
)

func main() {
	of := ""
	if len(os.Args) == 2 {
		of = os.Args[1]
	}
	var s *jsonschema.Schema
	switch of {
	case "document":
		s = (&jsonschema.Reflector{Anonymous: true, ExpandedStruct: true, Mapper: mapped}).Reflect(&scene.Document{})
		s.Title = "Proscen scene"
	case "core":
		learn(reflect.TypeFor[scene.Document](), map[reflect.Type]bool{})
		s = core()
	default:
		fmt.Fprintln(os.Stderr, "say of what: document or core")
		os.Exit(1)
	}
	body, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	_, _ = os.Stdout.Write(append(body, '\n'))
}

// words holds what text of a type can be, as the fields of the document say.
var words = map[reflect.Type][]any{
	reflect.TypeFor[curve.Ease](): {curve.Hold, curve.Even, curve.Soft, curve.Shaped}, // joins have only two of them
}

func learn(t reflect.Type, seen map[reflect.Type]bool) {
	if seen[t] {
		return
	}
	seen[t] = true
	switch t.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Map, reflect.Array:
		learn(t.Elem(), seen)
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			tag := f.Tag.Get("jsonschema")
			if f.Type.PkgPath() != "" && f.Type.Kind() == reflect.String && strings.HasPrefix(tag, "enum=") && words[f.Type] == nil {
				for _, w := range strings.Split(tag, ",") {
					words[f.Type] = append(words[f.Type], strings.TrimPrefix(w, "enum="))
				}
			}
			learn(f.Type, seen)
		}
	}
}

// mapped gives the schema of types that write their JSON themselves, and of text that
// can be only some words.
func mapped(t reflect.Type) *jsonschema.Schema {
	if w := words[t]; w != nil {
		return &jsonschema.Schema{Type: "string", Enum: w}
	}
	switch t {
	case reflect.TypeFor[timing.Rate]():
		return &jsonschema.Schema{Type: "string", Pattern: `^[0-9]+(/[0-9]+)?$`, Description: "Frames per second, such as 24 or 24000/1001"}
	case reflect.TypeFor[json.RawMessage]():
		return &jsonschema.Schema{}
	}
	if t.Kind() == reflect.Array && t.Elem().Kind() == reflect.Pointer && t.Elem().Elem().Kind() == reflect.Float64 {
		n := uint64(t.Len())
		return &jsonschema.Schema{Type: "array", MinItems: &n, MaxItems: &n, Items: orNull(&jsonschema.Schema{Type: "number"})}
	}
	return nil
}

// core returns a schema with the operations and what they take, the calls of the page
// with what they take and give, and what is handed over in other ways.
func core() *jsonschema.Schema {
	defs := &definitions{types: map[string]reflect.Type{}, names: map[reflect.Type]string{}}
	r := &jsonschema.Reflector{Anonymous: true, Mapper: mapped, Namer: defs.name}
	all := jsonschema.Definitions{}
	ref := func(t reflect.Type) *jsonschema.Schema {
		s := r.ReflectFromType(t)
		maps.Copy(all, s.Definitions)
		s.Definitions, s.Version = nil, ""
		return s
	}

	// What every other name is given way by.
	top := closed("")
	for _, t := range []reflect.Type{
		reflect.TypeFor[scene.Document](), reflect.TypeFor[page.Opened](), reflect.TypeFor[page.Refusal](),
		reflect.TypeFor[patch.Compared](), reflect.TypeFor[interchange.Brought](), reflect.TypeFor[program.Between](),
	} {
		put(top, defs.name(t), ref(t))
	}

	calls := closed("Calls")
	for name, c := range sorted(page.Calls()) {
		gives := ref(c.Gives)
		if c.Gives.Kind() == reflect.Pointer && !always[name] {
			gives = orNull(gives)
		}
		one := closed("")
		put(one, "takes", ref(c.Takes))
		put(one, "gives", gives)
		put(one, "fails", &jsonschema.Schema{Const: c.Fails})
		put(calls, name, one)
	}
	put(top, "calls", calls)

	operations := closed("Operations")
	for name, o := range sorted(session.Operations()) {
		put(operations, name, ref(o.Takes))
	}
	put(top, "operations", operations)
	top.Title, top.Definitions = "Core", all
	return top
}

func orNull(s *jsonschema.Schema) *jsonschema.Schema {
	return &jsonschema.Schema{OneOf: []*jsonschema.Schema{s, {Type: "null"}}}
}

// always names the calls that give a pointer which is never nil.
var always = map[string]bool{"onAir": true, "synced": true, "fetched": true, "document": true}

func closed(title string) *jsonschema.Schema {
	return &jsonschema.Schema{Type: "object", Title: title, AdditionalProperties: jsonschema.FalseSchema, Properties: jsonschema.NewProperties()}
}

func put(s *jsonschema.Schema, name string, of *jsonschema.Schema) {
	s.Properties.Set(name, of)
	s.Required = append(s.Required, name)
}

func sorted[V any](m map[string]V) func(func(string, V) bool) {
	return func(yield func(string, V) bool) {
		for _, k := range slices.Sorted(maps.Keys(m)) {
			if !yield(k, m[k]) {
				return
			}
		}
	}
}

// definitions gives each type a name of its own: that which Go has for it, with the
// package before it when another type has that name already.
type definitions struct {
	types map[string]reflect.Type
	names map[reflect.Type]string
}

func (d *definitions) name(t reflect.Type) string {
	if n, ok := d.names[t]; ok || t.Name() == "" {
		return n
	}
	n := upper(t.Name())
	for d.types[n] != nil {
		n = upper(t.PkgPath()[strings.LastIndex(t.PkgPath(), "/")+1:]) + n
	}
	d.types[n], d.names[t] = t, n
	return n
}

func upper(s string) string { return string(unicode.ToUpper(rune(s[0]))) + s[1:] }
