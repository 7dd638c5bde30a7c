// Package edit turns named operations into patches. Operations hold the rules;
// undo, saving, history and sync know only patches.
package edit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"

	"proscen/core/geom"
	"proscen/core/patch"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

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
	// Below returns a function that tells the height of what lies under a place,
	// leaving out nodes.
	Below(frame float64, leave []string) func(at r3.Vec) (y float64, ok bool)
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

// Draft is what an operation changes, with its tools.
type Draft struct {
	*patch.Draft
	Tools
}

// Trial is an operation that has been performed and can be taken back.
type Trial struct {
	Label string
	*patch.Draft
}

// Operation changes a draft by a rule and returns a label that people read in
// the history.
type Operation struct {
	Takes reflect.Type // its arguments, a struct; what may be left out is marked omitempty
	do    func(d *Draft, args json.RawMessage) (label string, err error)
}

// Catalog holds operations by name.
type Catalog map[string]Operation

// Result is what running an operation gives.
type Result struct {
	Label string      `json:"label"`
	Patch patch.Patch `json:"patch"`
}

// Run performs an operation on the document. On error, and when the outcome
// would not be valid, the document is as it was.
func (c Catalog) Run(doc *scene.Document, name string, args json.RawMessage, tools Tools) (Result, error) {
	t, err := c.Try(doc, name, args, tools)
	if err != nil {
		return Result{}, err
	}
	p, err := t.Keep()
	if err != nil {
		return Result{}, err
	}
	return Result{t.Label, p}, nil
}

// Try performs an operation like Run, so that it can be taken back without its
// patch being written.
func (c Catalog) Try(doc *scene.Document, name string, args json.RawMessage, tools Tools) (*Trial, error) {
	op, ok := c[name]
	if !ok {
		return nil, fmt.Errorf("there is no operation %q", name)
	}
	d := patch.NewDraft(doc)
	label, err := op.do(&Draft{d, tools}, args)
	if err == nil {
		err = followAction(d)
	}
	if err != nil {
		d.Rollback()
		return nil, err
	}
	if problems := d.Problems(); len(problems) > 0 {
		d.Rollback()
		return nil, problems
	}
	return &Trial{label, d}, nil
}

// Op wraps a function with typed arguments as an Operation.
func Op[A any](run func(d *Draft, a A) (string, error)) Operation {
	return Operation{reflect.TypeFor[A](), func(d *Draft, args json.RawMessage) (string, error) {
		if err := scene.Plain(args); err != nil {
			return "", fmt.Errorf("this was not done: a text %w", err)
		}
		var a A
		dec := json.NewDecoder(bytes.NewReader(args))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&a); err != nil {
			return "", fmt.Errorf("the arguments do not fit the operation: %w", err)
		}
		return run(d, a)
	}}
}
