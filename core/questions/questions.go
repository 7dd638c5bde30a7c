// Package questions is what a scene can be asked: what a camera sees and how it is
// framed, where things are, what a ray meets, how far and how fast something goes.
// Nothing here changes the scene.
package questions

import (
	"proscen/core/ambient"
	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/scene"
)

// Scene is a document with its compiled motion, evaluated at a frame. It is not safe
// for use by several goroutines at once.
type Scene struct {
	Doc    *scene.Document
	Motion *motion.Scene
	State  motion.State // as Evaluate has filled it last

	Textures Textures // gives picture planes what they show when they are drawn; nil for nothing

	past      motion.State // for Trail
	where     motion.State // for Stage
	changes   int
	whereAt   int        // changes when where was filled
	evaluated int        // changes when State was filled
	extents   extents    // for Stage
	spread    extents    // for Extent
	boxes     []geom.Box // for Snap
	figures   []motion.Figure
	around    ambient.Field
	crowd     []ambient.Thing // for Around

	visibility visibility
}

// New prepares a valid document.
func New(doc *scene.Document) Scene {
	return Scene{Doc: doc, Motion: motion.Compile(doc), changes: 1}
}

// Like prepares another version of the document, which has what this one has worked out of
// things that are the same.
func (s *Scene) Like(doc *scene.Document) Scene {
	return Scene{Doc: doc, Motion: s.Motion.Like(doc), Textures: s.Textures, changes: 1}
}

// extents are the boxes of all nodes with what hangs on them, found once for a state.
type extents struct {
	changes int
	frame   float64
	boxes   []geom.Box
}

func (e *extents) of(m *motion.Scene, node int, st *motion.State, changes int) geom.Box {
	if e.boxes == nil || e.changes != changes || e.frame != st.Frame {
		e.boxes = m.Extents(st, e.boxes)
		e.changes, e.frame = changes, st.Frame
	}
	switch {
	case node < 0:
		return geom.EmptyBox()
	case e.boxes[node].Empty():
		return geom.EmptyBox().Add(st.Worlds[node].Origin())
	}
	return e.boxes[node]
}

// Changed notes that document and motion are not what they were.
func (s *Scene) Changed() { s.changes++ }

// Changes counts how often they have changed.
func (s *Scene) Changes() int { return s.changes }

// Stage answers the questions that operations ask about places.
func (s *Scene) Stage() edit.Stage { return (*where)(s) }
