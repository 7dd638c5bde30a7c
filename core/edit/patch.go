// Package edit turns named operations into patches. Operations hold the rules;
// undo, saving, history and sync know only patches.
package edit

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"proscen/core/geom"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// Change replaces one entity. Before is nil when it did not exist, After is nil
// when it is deleted; both are canonical JSON.
type Change struct {
	Collection string          `json:"collection"`
	ID         string          `json:"id"`
	Before     json.RawMessage `json:"before,omitempty"`
	After      json.RawMessage `json:"after,omitempty"`
}

// Patch is what an operation did, in order of collection and id.
type Patch []Change

// Inverse returns the patch that undoes p.
func (p Patch) Inverse() Patch {
	out := make(Patch, len(p))
	for i, c := range p {
		out[i] = Change{c.Collection, c.ID, c.After, c.Before}
	}
	return out
}

// MaxChanges bounds the changes of one patch.
const MaxChanges = 100_000

// ErrMismatch says that a patch was made from another state of the document.
var ErrMismatch = errors.New("the document has changed since this edit was made")

// Apply checks every before of the patch against the document, applies it and
// validates the result. On any error the document is as it was.
func Apply(doc *scene.Document, p Patch) error {
	if len(p) > MaxChanges {
		return fmt.Errorf("the edit has %d changes, more than %d", len(p), MaxChanges)
	}
	tables := map[string]scene.Table{}
	for _, t := range doc.Tables() {
		tables[t.Name()] = t
	}
	seen := make(map[[2]string]bool, len(p))
	for _, c := range p {
		t := tables[c.Collection]
		if t == nil {
			return fmt.Errorf("%q is not a collection of a scene", c.Collection)
		}
		if seen[[2]string{c.Collection, c.ID}] {
			return fmt.Errorf("the edit changes %s/%s twice", c.Collection, c.ID)
		}
		seen[[2]string{c.Collection, c.ID}] = true
		if c.Collection == "settings" && none(c.After) == nil {
			return errors.New("the settings of a scene cannot be deleted")
		}
		if !bytes.Equal(t.Get(c.ID), none(c.Before)) {
			return fmt.Errorf("%w (%s/%s)", ErrMismatch, c.Collection, c.ID)
		}
	}
	for i, c := range p {
		if err := put(tables[c.Collection], c.ID, none(c.After)); err != nil {
			restore(tables, p[:i])
			return fmt.Errorf("%s/%s %w", c.Collection, c.ID, err)
		}
	}
	if problems := doc.Validate(); len(problems) > 0 {
		restore(tables, p)
		return problems
	}
	return nil
}

// none reads the JSON null as absence.
func none(b json.RawMessage) json.RawMessage {
	if bytes.Equal(b, []byte("null")) {
		return nil
	}
	return b
}

func put(t scene.Table, id string, body json.RawMessage) error {
	if body == nil {
		t.Delete(id)
		return nil
	}
	return t.Set(id, body)
}

func restore(tables map[string]scene.Table, p Patch) {
	for _, c := range slices.Backward(p) {
		// The before was read from this table, so it decodes.
		_ = put(tables[c.Collection], c.ID, none(c.Before))
	}
}

// Canonicalise rewrites before and after into canonical form, so that patches
// from outside compare by their meaning and not by their spaces.
func Canonicalise(p Patch) (Patch, error) {
	scratch := scene.New()
	out := make(Patch, len(p))
	for i, c := range p {
		t := scratch.Table(c.Collection)
		if t == nil {
			return nil, fmt.Errorf("%q is not a collection of a scene", c.Collection)
		}
		out[i] = Change{Collection: c.Collection, ID: c.ID}
		for _, side := range []struct {
			in  json.RawMessage
			out *json.RawMessage
		}{{none(c.Before), &out[i].Before}, {none(c.After), &out[i].After}} {
			if side.in == nil {
				continue
			}
			if err := t.Set(c.ID, side.in); err != nil {
				return nil, fmt.Errorf("%s/%s %w", c.Collection, c.ID, err)
			}
			*side.out = t.Get(c.ID)
		}
	}
	return out, nil
}

// Tools is what operations need besides the document.
type Tools struct {
	NewID func() string // makes ids; nil when no operation makes entities
	Stage Stage         // nil when no operation asks where things are
}

// Stage knows where things are in the world; positions are metres, frames story
// time.
type Stage interface {
	// World returns a node's world matrix.
	World(node string, frame float64) geom.Mat4
	// Base returns the world matrix of what a node hangs on or is carried by.
	Base(node string, frame float64) geom.Mat4
	// Joint returns the world matrix of a node's joint, or the node's own for "".
	Joint(node, joint string, frame float64) geom.Mat4
	// Extent returns the box in the world of a node and all that hangs on it.
	Extent(node string, frame float64) geom.Box
	// Below returns the height of what lies under a place, leaving out nodes.
	Below(at r3.Vec, frame float64, leave []string) (y float64, ok bool)
	// Picture returns what a camera shows.
	Picture(camera string, frame float64) Picture
	// Subject returns the point of a node that cameras aim at.
	Subject(node string, frame float64) r3.Vec
	// Late returns that point as an operator who lags by some seconds holds it.
	Late(node string, frame, lag float64) r3.Vec
}

// Picture is what a camera shows at a frame: its world matrix, its lens (mm, m),
// and where in the picture it sees a point of the world, from −1 to 1 to the
// right and up, with the depth in metres.
type Picture struct {
	World           geom.Mat4
	Focal, Focus    float64
	Pan, Tilt, Roll float64
	Aimed           r3.Vec // the point that it holds, when it aims at a subject
	Project         func(p r3.Vec) (x, y, depth float64)
}

// shotsName is the name of the collection that drafts keep in a way of its own.
const shotsName = "shots"

// Draft collects what an operation changes, so that it can become a patch or
// be taken back.
type Draft struct {
	Doc *scene.Document
	Tools
	tables map[string]scene.Table
	before map[[2]string]any // entities but shots as they were, nil for none
	order  [][2]string       // their collections and ids, as they were touched
	shots  *touchedShots     // nil as long as none is touched
}

func newDraft(doc *scene.Document, tools Tools) *Draft {
	d := &Draft{Doc: doc, Tools: tools, tables: map[string]scene.Table{}, before: map[[2]string]any{}}
	for _, t := range doc.Tables() {
		d.tables[t.Name()] = t
	}
	return d
}

func (d *Draft) touch(collection, id string) {
	if collection == shotsName {
		d.touchShot(id)
		return
	}
	key := [2]string{collection, id}
	if _, seen := d.before[key]; !seen {
		d.before[key] = d.tables[collection].Value(id)
		d.order = append(d.order, key)
	}
}

// Delete removes an entity.
func (d *Draft) Delete(collection, id string) {
	d.touch(collection, id)
	d.tables[collection].Delete(id)
	d.settle(collection, id)
}

// SetJSON replaces an entity by its JSON form.
func (d *Draft) SetJSON(collection, id string, body json.RawMessage) error {
	d.touch(collection, id)
	err := d.tables[collection].Set(id, body)
	d.settle(collection, id)
	return err
}

// SetNode stores a node.
func (d *Draft) SetNode(id string, v scene.Node) { d.touch("nodes", id); d.Doc.Nodes[id] = v }

// SetPath stores a path.
func (d *Draft) SetPath(id string, v scene.Path) { d.touch("paths", id); d.Doc.Paths[id] = v }

// SetCurve stores a curve.
func (d *Draft) SetCurve(id string, v scene.Curve) { d.touch("curves", id); d.Doc.Curves[id] = v }

// SetAction stores an action.
func (d *Draft) SetAction(id string, v scene.Action) { d.touch("actions", id); d.Doc.Actions[id] = v }

// SetShot stores a shot.
func (d *Draft) SetShot(id string, v scene.Shot) {
	c := d.touchShot(id)
	c.After, c.Is = v, true
	d.Doc.PutShot(id, v)
}

// SetModel stores an imported model.
func (d *Draft) SetModel(id string, v scene.Model) { d.touch("models", id); d.Doc.Models[id] = v }

// SetKit stores a lens kit.
func (d *Draft) SetKit(id string, v scene.Kit) { d.touch("kits", id); d.Doc.Kits[id] = v }

// SetBoard stores a board.
func (d *Draft) SetBoard(id string, v scene.Board) { d.touch("boards", id); d.Doc.Boards[id] = v }

// SetCard stores a card.
func (d *Draft) SetCard(id string, v scene.Card) { d.touch("cards", id); d.Doc.Cards[id] = v }

// SetFootage stores footage.
func (d *Draft) SetFootage(id string, v scene.Footage) { d.touch("footage", id); d.Doc.Footage[id] = v }

// SetTrack stores a track.
func (d *Draft) SetTrack(id string, v scene.Track) { d.touch("tracks", id); d.Doc.Tracks[id] = v }

// SetSound stores a sound.
func (d *Draft) SetSound(id string, v scene.Sound) { d.touch("sounds", id); d.Doc.Sounds[id] = v }

// SetAssembly stores an assembly.
func (d *Draft) SetAssembly(id string, v scene.Assembly) {
	d.touch("assemblies", id)
	d.Doc.Assemblies[id] = v
}

// SetLane stores a lane.
func (d *Draft) SetLane(id string, v scene.Lane) { d.touch("lanes", id); d.Doc.Lanes[id] = v }

// SetLine stores a line.
func (d *Draft) SetLine(id string, v scene.Line) { d.touch("lines", id); d.Doc.Lines[id] = v }

// SetMarker stores a marker.
func (d *Draft) SetMarker(id string, v scene.Marker) { d.touch("markers", id); d.Doc.Markers[id] = v }

func (d *Draft) patch() Patch {
	var p Patch
	add := func(collection, id string, was any) {
		after := d.tables[collection].Get(id)
		var before json.RawMessage
		if was != nil {
			before = scene.Canonical(was)
		}
		if !bytes.Equal(before, after) {
			p = append(p, Change{collection, id, before, after})
		}
	}
	for _, key := range d.order {
		add(key[0], key[1], d.before[key])
	}
	for _, c := range d.changedShots() {
		if c.Was {
			add(shotsName, c.ID, c.Before)
		} else {
			add(shotsName, c.ID, nil)
		}
	}
	slices.SortFunc(p, func(a, b Change) int {
		if c := strings.Compare(a.Collection, b.Collection); c != 0 {
			return c
		}
		return strings.Compare(a.ID, b.ID)
	})
	return p
}

func (d *Draft) rollback() {
	for key, before := range d.before {
		d.tables[key[0]].Put(key[1], before)
	}
	for _, c := range d.changedShots() {
		if c.Was {
			d.Doc.PutShot(c.ID, c.Before)
		} else {
			d.tables[shotsName].Delete(c.ID)
		}
	}
	d.release()
}

// validate checks the document after the draft's changes.
func (d *Draft) validate() scene.Problems { return d.Doc.ValidateCut(d.changedShots(), d.order) }

// Trial is an operation that has been performed and can be taken back.
type Trial struct {
	Label string
	draft *Draft
}

// Patch returns what the operation did.
func (t *Trial) Patch() Patch { return t.draft.patch() }

// Shots lists the shots that the operation may have changed. The list holds until
// Back.
func (t *Trial) Shots() []scene.ShotChange { return t.draft.changedShots() }

// Others lists the collections and ids of what else the operation may have changed.
func (t *Trial) Others() [][2]string { return t.draft.order }

// Touches tells whether the operation may have changed a shot.
func (t *Trial) Touches(shot string) bool {
	if t.draft.shots == nil {
		return false
	}
	_, ok := t.draft.shots.index[shot]
	return ok
}

// Back restores what was before the operation, of which nothing can be asked then.
func (t *Trial) Back() { t.draft.rollback() }

// Operation changes a draft by a rule and returns a label that people read in
// the history.
type Operation func(d *Draft, args json.RawMessage) (label string, err error)

// Catalog holds operations by name.
type Catalog map[string]Operation

// Result is what running an operation gives.
type Result struct {
	Label string `json:"label"`
	Patch Patch  `json:"patch"`
}

// Run performs an operation on the document. On error, and when the outcome
// would not be valid, the document is as it was.
func (c Catalog) Run(doc *scene.Document, name string, args json.RawMessage, tools Tools) (Result, error) {
	t, err := c.Try(doc, name, args, tools)
	if err != nil {
		return Result{}, err
	}
	defer t.draft.release()
	return Result{t.Label, t.Patch()}, nil
}

// Try performs an operation like Run, so that it can be taken back without its
// patch being written.
func (c Catalog) Try(doc *scene.Document, name string, args json.RawMessage, tools Tools) (*Trial, error) {
	op, ok := c[name]
	if !ok {
		return nil, fmt.Errorf("there is no operation %q", name)
	}
	d := newDraft(doc, tools)
	label, err := op(d, args)
	if err != nil {
		d.rollback()
		return nil, err
	}
	for i := range d.changedShots() {
		d.shots.list[i].Settle()
	}
	if problems := d.validate(); len(problems) > 0 {
		d.rollback()
		return nil, problems
	}
	return &Trial{label, d}, nil
}

// Op wraps a function with typed arguments as an Operation.
func Op[A any](run func(d *Draft, a A) (string, error)) Operation {
	return func(d *Draft, args json.RawMessage) (string, error) {
		var a A
		dec := json.NewDecoder(bytes.NewReader(args))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&a); err != nil {
			return "", fmt.Errorf("the arguments do not fit the operation: %w", err)
		}
		return run(d, a)
	}
}
