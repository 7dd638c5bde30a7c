// Package scene holds the document: flat collections of entities by id, their
// JSON form and their total validation.
package scene

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"
)

// Schema is the name and version that a document carries.
const Schema = "proscen.scene/1"

// SettingsID is the id of the single entity in the settings collection.
const SettingsID = "settings"

// Document is a scene. References between entities are ids.
type Document struct {
	Schema     string              `json:"schema"`
	Settings   Settings            `json:"settings"`
	Nodes      map[string]Node     `json:"nodes"`
	Paths      map[string]Path     `json:"paths"`
	Curves     map[string]Curve    `json:"curves"`
	Actions    map[string]Action   `json:"actions"`
	Assemblies map[string]Assembly `json:"assemblies"`
	Lanes      map[string]Lane     `json:"lanes"`
	Shots      map[string]Shot     `json:"shots"` // changed through PutShot or Table
	Markers    map[string]Marker   `json:"markers"`
	Lines      map[string]Line     `json:"lines"`
	Formats    map[string]Format   `json:"formats"`
	Models     map[string]Model    `json:"models"`
	Kits       map[string]Kit      `json:"kits"`
	Boards     map[string]Board    `json:"boards"`
	Cards      map[string]Card     `json:"cards"`
	Footage    map[string]Footage  `json:"footage"`
	Tracks     map[string]Track    `json:"tracks"`
	Sounds     map[string]Sound    `json:"sounds"`
	Recipes    map[string]Recipe   `json:"recipes"`

	// Left out of documents that have none.
	Alternates  map[string]Alternate  `json:"alternates,omitempty"`
	Differences map[string]Difference `json:"differences,omitempty"`

	// As is the id of the alternate that the document is resolved to, "" for the scene itself.
	As string `json:"-"`

	order              *shotOrder // remembered by ShotsInOrder
	curvesOf, boardsOf *owners    // remembered by CurvesOf and BoardsOf
	weight             Weight     // of the JSON form, 0 as long as nobody has asked
}

// New returns an empty document whose collections can be filled.
func New() *Document {
	return &Document{
		Schema: Schema, Nodes: map[string]Node{}, Paths: map[string]Path{}, Curves: map[string]Curve{},
		Actions: map[string]Action{}, Assemblies: map[string]Assembly{}, Lanes: map[string]Lane{},
		Shots: map[string]Shot{}, Markers: map[string]Marker{}, Lines: map[string]Line{}, Formats: map[string]Format{},
		Models: map[string]Model{}, Kits: map[string]Kit{}, Boards: map[string]Board{},
		Cards: map[string]Card{}, Footage: map[string]Footage{}, Tracks: map[string]Track{}, Sounds: map[string]Sound{}, Recipes: map[string]Recipe{},
		Alternates: map[string]Alternate{}, Differences: map[string]Difference{},
		order: &shotOrder{}, curvesOf: &owners{}, boardsOf: &owners{},
	}
}

// Table gives access to one collection through the JSON form of its entities.
type Table interface {
	// Name is the collection's name in the document.
	Name() string
	// IDs lists the ids in order.
	IDs() []string
	// Len counts the entities.
	Len() int
	// Get returns the canonical JSON of an entity, or nil.
	Get(id string) json.RawMessage
	// Set decodes an entity strictly and stores it. Nothing changes on error.
	Set(id string, body json.RawMessage) error
	// Delete removes an entity.
	Delete(id string)
	// Value returns an entity as it is held, or nil.
	Value(id string) any
	// Put stores what Value has returned; nil deletes.
	Put(id string, v any)
}

type table[T any] struct {
	name     string
	entities map[string]T
	stored   func(id string) // told what is stored and deleted; may be nil
}

func (t table[T]) Name() string  { return t.name }
func (t table[T]) IDs() []string { return slices.Sorted(maps.Keys(t.entities)) }
func (t table[T]) Len() int      { return len(t.entities) }
func (t table[T]) Get(id string) json.RawMessage {
	e, ok := t.entities[id]
	if !ok {
		return nil
	}
	return Canonical(e)
}
func (t table[T]) Set(id string, body json.RawMessage) error {
	var e T
	if err := Strict(body, &e); err != nil {
		return err
	}
	t.entities[id] = e
	t.tell(id)
	return nil
}
func (t table[T]) Delete(id string) {
	delete(t.entities, id)
	t.tell(id)
}
func (t table[T]) tell(id string) {
	if t.stored != nil {
		t.stored(id)
	}
}
func (t table[T]) Value(id string) any {
	if e, ok := t.entities[id]; ok {
		return e
	}
	return nil
}
func (t table[T]) Put(id string, v any) {
	if e, ok := v.(T); ok {
		t.entities[id] = e
	} else {
		delete(t.entities, id)
	}
	t.tell(id)
}

// settingsTable shows the single settings entity as a collection.
type settingsTable struct{ doc *Document }

func (t settingsTable) Name() string  { return "settings" }
func (t settingsTable) IDs() []string { return []string{SettingsID} }
func (t settingsTable) Len() int      { return 1 }
func (t settingsTable) Get(id string) json.RawMessage {
	if id != SettingsID {
		return nil
	}
	return Canonical(t.doc.Settings)
}
func (t settingsTable) Set(id string, body json.RawMessage) error {
	if id != SettingsID {
		return fmt.Errorf("the only id in settings is %q", SettingsID)
	}
	var s Settings
	if err := Strict(body, &s); err != nil {
		return err
	}
	t.doc.Settings = s
	return nil
}
func (t settingsTable) Delete(string)    {}
func (t settingsTable) Value(string) any { return t.doc.Settings }
func (t settingsTable) Put(_ string, v any) {
	if s, ok := v.(Settings); ok {
		t.doc.Settings = s
	}
}

// Tables lists all collections in a fixed order.
func (d *Document) Tables() []Table {
	return []Table{
		settingsTable{d},
		table[Node]{"nodes", d.Nodes, nil}, table[Path]{"paths", d.Paths, nil}, table[Curve]{"curves", d.Curves, d.curveStored},
		table[Action]{"actions", d.Actions, nil}, table[Assembly]{"assemblies", d.Assemblies, nil}, table[Lane]{"lanes", d.Lanes, nil},
		table[Shot]{"shots", d.Shots, d.shotStored}, table[Marker]{"markers", d.Markers, nil}, table[Line]{"lines", d.Lines, nil},
		table[Format]{"formats", d.Formats, nil}, table[Model]{"models", d.Models, nil}, table[Kit]{"kits", d.Kits, nil}, table[Board]{"boards", d.Boards, d.boardStored},
		table[Card]{"cards", d.Cards, nil}, table[Footage]{"footage", d.Footage, nil}, table[Track]{"tracks", d.Tracks, nil}, table[Sound]{"sounds", d.Sounds, nil}, table[Recipe]{"recipes", d.Recipes, nil},
		table[Alternate]{"alternates", d.Alternates, nil}, table[Difference]{"differences", d.Differences, nil},
	}
}

// Table returns a collection by name, or nil.
func (d *Document) Table(name string) Table {
	for _, t := range d.Tables() {
		if t.Name() == name {
			return t
		}
	}
	return nil
}

// BoardsByShot lists the ids of all boards by their shots, each in the order in
// which they are held.
func (d *Document) BoardsByShot() map[string][]string {
	out := map[string][]string{}
	for id, b := range d.Boards {
		out[b.Shot] = append(out[b.Shot], id)
	}
	for _, ids := range out {
		d.SortBoards(ids)
	}
	return out
}

// SortBoards puts boards of one shot into the order in which they are held.
func (d *Document) SortBoards(ids []string) {
	slices.SortFunc(ids, func(a, b string) int {
		return cmp.Or(cmp.Compare(d.Boards[a].At, d.Boards[b].At), strings.Compare(a, b))
	})
}

// Clone returns a copy that shares no collection with d. Entities are treated
// as values that are replaced, never changed in place.
func (d *Document) Clone() *Document {
	c := *d
	c.Nodes, c.Paths, c.Curves = maps.Clone(d.Nodes), maps.Clone(d.Paths), maps.Clone(d.Curves)
	c.Actions, c.Assemblies, c.Lanes = maps.Clone(d.Actions), maps.Clone(d.Assemblies), maps.Clone(d.Lanes)
	c.Shots, c.Markers, c.Lines, c.Formats = maps.Clone(d.Shots), maps.Clone(d.Markers), maps.Clone(d.Lines), maps.Clone(d.Formats)
	c.Models, c.Kits, c.Boards = maps.Clone(d.Models), maps.Clone(d.Kits), maps.Clone(d.Boards)
	c.Cards, c.Footage, c.Tracks, c.Sounds, c.Recipes = maps.Clone(d.Cards), maps.Clone(d.Footage), maps.Clone(d.Tracks), maps.Clone(d.Sounds), maps.Clone(d.Recipes)
	c.Alternates, c.Differences = maps.Clone(d.Alternates), maps.Clone(d.Differences)
	c.order, c.curvesOf, c.boardsOf, c.weight = &shotOrder{}, &owners{}, &owners{}, Weight{}
	return &c
}

// Canonical returns the one JSON form of a value that patches compare: fields
// in declared order, map keys sorted, nothing escaped for HTML, no −0.
func Canonical(v any) json.RawMessage {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(v); err != nil {
		// Only NaN and infinity can fail here; validation keeps them out, and a
		// null never equals an entity.
		return json.RawMessage("null")
	}
	return withoutNegativeZero(bytes.TrimRight(b.Bytes(), "\n"))
}

// withoutNegativeZero writes 0 for every number −0 of a JSON text as encoding/json
// writes it.
func withoutNegativeZero(b []byte) []byte {
	if !bytes.Contains(b, []byte("-0")) {
		return b
	}
	out := b[:0]
	text := false
	for i := 0; i < len(b); i++ {
		switch c := b[i]; {
		case text && c == '\\':
			out = append(out, c)
			i++
		case c == '"':
			text = !text
		case !text && c == '-' && i+1 < len(b) && b[i+1] == '0' && (i+2 == len(b) || strings.IndexByte(",]}", b[i+2]) >= 0):
			continue
		}
		out = append(out, b[i])
	}
	return out
}

// Plain tells why a JSON text holds what cannot be kept: the character NUL, half
// of a surrogate pair, or bytes that are no text. The database would refuse the
// first two, and the last would come back as something else.
func Plain(body []byte) error {
	if !utf8.Valid(body) {
		return errors.New("holds bytes that are not text (UTF-8)")
	}
	for i := 0; ; {
		at := bytes.IndexByte(body[i:], '\\')
		if at < 0 || i+at+1 >= len(body) {
			return nil
		}
		i += at + 2
		if body[i-1] != 'u' {
			continue
		}
		switch r := escaped(body[i:]); {
		case r == 0:
			return errors.New("holds the character NUL, which cannot be kept; remove it")
		case utf16.IsSurrogate(r):
			if i+6 > len(body) || body[i+4] != '\\' || body[i+5] != 'u' || utf16.DecodeRune(r, escaped(body[i+6:])) == unicode.ReplacementChar {
				return errors.New("holds half of a character (a lone surrogate), which cannot be kept; remove it")
			}
			i += 6
		}
	}
}

// escaped reads four hexadecimal digits, −1 when they are none.
func escaped(b []byte) rune {
	if len(b) < 4 {
		return -1
	}
	n, err := strconv.ParseUint(string(b[:4]), 16, 16)
	if err != nil {
		return -1
	}
	return rune(n)
}

// Encode returns the document's canonical JSON form.
func (d *Document) Encode() []byte { return Canonical(d) }

// Decode reads and validates a document. Any bytes give either a valid document
// or an error; problems in a well-formed document come as Problems. Documents
// over MaxBytes are refused.
func Decode(data []byte) (*Document, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the document has %d MB, more than the %d MB that are read", len(data)>>20, MaxBytes>>20)
	}
	weight := Weigh(data)
	if err := weight.Over(); err != nil {
		return nil, fmt.Errorf("the document is larger than %w", err)
	}
	var top map[string]json.RawMessage
	if err := json.Unmarshal(data, &top); err != nil {
		return nil, fmt.Errorf("this is not a scene document: %w", located(data, err))
	}
	var schema string
	if err := json.Unmarshal(top["schema"], &schema); err != nil || schema == "" {
		return nil, fmt.Errorf("this is not a scene document: it names no schema, %q is expected", Schema)
	}
	if schema != Schema {
		return nil, fmt.Errorf("the document says it is %q; this program reads %q", clip(schema), Schema)
	}
	d := New()
	var problems Problems
	delete(top, "schema")
	for _, t := range d.Tables() {
		body, ok := top[t.Name()]
		delete(top, t.Name())
		if !ok {
			if t.Name() == "settings" {
				problems.add("settings", "is missing")
			}
			continue
		}
		if t.Name() == "settings" {
			if err := t.Set(SettingsID, body); err != nil {
				problems.add("settings", err.Error())
			}
			continue
		}
		var entities map[string]json.RawMessage
		if err := json.Unmarshal(body, &entities); err != nil {
			problems.add(t.Name(), "must be an object of entities by id")
			continue
		}
		if weight.Entities += len(entities); weight.Over() != nil {
			return nil, fmt.Errorf("the document is larger than %w", weight.Over())
		}
		for _, id := range slices.Sorted(maps.Keys(entities)) {
			if err := t.Set(id, entities[id]); err != nil {
				problems.add(t.Name()+"/"+clip(id), err.Error())
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(top)) {
		problems.add(clip(name), "is not a collection of a scene document")
	}
	if len(problems) > 0 {
		return nil, problems
	}
	if problems = d.Validate(); len(problems) > 0 {
		return nil, problems
	}
	// Fields that are left out in a file are written in full.
	if len(data) > MaxBytes/8 {
		if err := d.Weight().Over(); err != nil {
			return nil, fmt.Errorf("written in full, the document is larger than %w", err)
		}
	}
	return d, nil
}

// Strict decodes one JSON value into v, refusing unknown fields and null.
func Strict(body []byte, v any) error {
	if err := Plain(body); err != nil {
		return err
	}
	dec := json.NewDecoder(bytes.NewReader(body))
	dec.DisallowUnknownFields()
	if err := dec.Decode(v); err != nil {
		return located(body, err)
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return errors.New("has text after its end")
	}
	if bytes.Equal(bytes.TrimSpace(body), []byte("null")) {
		return errors.New("is null")
	}
	return nil
}

// located rewrites an error of encoding/json as a sentence with a place.
func located(data []byte, err error) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		before := data[:min(int(syntax.Offset), len(data))]
		line := bytes.Count(before, []byte("\n")) + 1
		column := len(before) - bytes.LastIndexByte(before, '\n') - 1
		return fmt.Errorf("line %d, column %d: %s", line, column, clip(syntax.Error()))
	case errors.As(err, &kind):
		field := kind.Field
		if field == "" {
			field = "the value"
		}
		return fmt.Errorf("%s cannot be %s", clip(field), kind.Value)
	}
	return errors.New(clip(strings.TrimPrefix(err.Error(), "json: ")))
}

func clip(s string) string {
	const most = 120
	if len(s) > most {
		return strings.ToValidUTF8(s[:most], "") + "…"
	}
	return s
}
