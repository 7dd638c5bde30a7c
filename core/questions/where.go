package questions

import (
	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// where answers operations' questions about places, as edit.Stage. It looks at
// the scene as it was before the operation began.
type where Scene

func (w *where) at(frame float64) {
	if w.where.Frame != frame || w.whereAt != w.changes {
		w.Motion.Evaluate(frame, &w.where)
		w.whereAt = w.changes
	}
}

// World returns a node's world matrix.
func (w *where) World(node string, frame float64) geom.Mat4 {
	w.at(frame)
	if i := w.Motion.Index(node); i >= 0 {
		return w.where.Worlds[i]
	}
	return geom.Identity
}

// Base returns the world matrix of what a node hangs on or is carried by.
func (w *where) Base(node string, frame float64) geom.Mat4 {
	w.at(frame)
	if i := w.Motion.Index(node); i >= 0 {
		return w.Motion.BaseOf(i, &w.where)
	}
	return geom.Identity
}

// Joint returns the world matrix of a node's joint, or the node's own for "".
func (w *where) Joint(node, joint string, frame float64) geom.Mat4 {
	w.at(frame)
	i := w.Motion.Index(node)
	if i < 0 {
		return geom.Identity
	}
	if j, ok := kit.JointByName(joint); ok && w.Motion.Nodes[i].Entity.Kind == scene.KindCast {
		return w.Motion.JointOf(i, j, &w.where)
	}
	return w.where.Worlds[i]
}

// Extent returns the box in the world of a node and all that hangs on it.
func (w *where) Extent(node string, frame float64) geom.Box {
	w.at(frame)
	return w.extents.of(w.Motion, w.Motion.Index(node), &w.where, w.changes)
}

// Below returns a function that tells the height of what lies under a place, leaving
// out nodes and what hangs on them, and people.
func (w *where) Below(frame float64, leave []string) func(at r3.Vec) (float64, bool) {
	w.at(frame)
	left := w.Motion.Among(leave)
	down := w.Motion.Down(&w.where, func(i int) bool { return left[i] || w.Motion.Nodes[i].Entity.Kind == scene.KindCast })
	return func(at r3.Vec) (float64, bool) {
		hit, ok := down(at)
		return hit.At.Y, ok
	}
}

// Picture returns what a camera shows.
func (w *where) Picture(camera string, frame float64) edit.Picture {
	w.at(frame)
	i := (*Scene)(w).CameraIndex(camera)
	if i < 0 {
		return edit.Picture{World: geom.Identity, Focal: 35, Focus: 4, Project: func(r3.Vec) (x, y, depth float64) { return 0, 0, 0 }}
	}
	c := w.where.Cameras[i] // a copy: the state goes on to other frames
	return edit.Picture{
		World: c.World, Focal: c.Focal, Focus: c.Focus, Pan: c.Pan, Tilt: c.Tilt, Roll: c.Roll,
		Aimed: w.Motion.Aimed(c.Node, &w.where), Project: c.Project,
	}
}

// Subject returns the point of a node that cameras aim at.
func (w *where) Subject(node string, frame float64) r3.Vec {
	w.at(frame)
	if i := w.Motion.Index(node); i >= 0 {
		return w.Motion.Subject(i, &w.where)
	}
	return r3.Vec{}
}

// Late returns a node's point as an operator who lags by some seconds holds it.
func (w *where) Late(node string, frame, lag float64) r3.Vec {
	if lag <= 0 {
		return w.Subject(node, frame)
	}
	return motion.Late(frame, w.Doc.Settings.Rate.Frames(lag), func(f float64) r3.Vec { return w.Subject(node, f) })
}
