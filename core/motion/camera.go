package motion

import (
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/optics"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// camera places and turns one camera and reads its lens. m is where its node
// is, yaw and pitch the heading of its path in degrees.
func (s *Scene) camera(n *Node, frame float64, m geom.Mat4, yaw, pitch float64, i int, st *State) {
	k := n.Entity.Camera
	c := &st.Cameras[n.camera]
	c.Node = i
	as := As{s.aspect, k.Formats[s.format]}
	if st.as != nil && st.asOf == n.camera { // what carries it is as it always is
		as = *st.as
	}
	c.Focal = max(1, n.animated(focal, frame, k.Focal))
	if as.Reframe.Focal > 0 {
		c.Focal *= as.Reframe.Focal / k.Focal
	}
	c.Stop = n.animated(stop, frame, k.Stop)
	c.Squeeze = k.Squeeze
	if c.Squeeze == 0 {
		c.Squeeze = 1
	}
	c.Gate = optics.CropGate(k.Sensor[0], k.Sensor[1], as.Aspect, c.Squeeze)
	c.HFov, c.VFov = c.Gate.FieldOfView(c.Focal, c.Squeeze)
	c.Shift = [2]float64{n.animated(shiftX, frame, k.Shift[0]) * c.Squeeze / c.Focal, n.animated(shiftY, frame, k.Shift[1]) / c.Focal}
	m = rigid(m)
	at := r3.Add(m.Origin(), m.Dir(as.Reframe.Move.R3()))
	m = m.At(at)
	switch {
	case n.aimAt >= 0:
		r := n.animated(roll, frame, n.Entity.Turn[2])
		if k.Level {
			r = 0
		}
		framing := [2]float64{n.animated(framingX, frame, k.Framing[0]), n.animated(framingY, frame, k.Framing[1])}
		p, t := AimFramed(r3.Sub(s.aimed(n, frame, st), at), framing, c.HFov, c.VFov, r, c.Shift)
		m = geom.PanTiltRoll(p, t, r).At(at)
	case k.Aim == scene.AimAlong && n.path != nil:
		// The turn keys are an offset from the path's heading.
		along := geom.PanTiltRoll(yaw, pitch, 0)
		m = along.Mul(&m).At(at)
	}
	if k.Level {
		p, t, _ := m.Angles()
		m = geom.PanTiltRoll(p, t, 0).At(at)
	}
	if k.Support == scene.Handheld && k.Unrest != nil {
		u := unrest(*k.Unrest, n.animated(restless, frame, k.Unrest.Amount), frame, s.rate)
		m = m.Mul(&u)
	}
	// The part of the sensor is chosen after the camera has been aimed: it does not turn it.
	if as.Reframe.Scale > 0 {
		c.Gate.Width *= as.Reframe.Scale
		c.Gate.Height *= as.Reframe.Scale
		c.HFov, c.VFov = c.Gate.FieldOfView(c.Focal, c.Squeeze)
	}
	c.Shift[0] += as.Reframe.Shift[0] * c.Gate.Width * c.Squeeze / c.Focal
	c.Shift[1] += as.Reframe.Shift[1] * c.Gate.Height / c.Focal
	c.World = m
	c.Pan, c.Tilt, c.Roll = m.Angles()
	c.Focus = s.focusOf(n, frame, &m, st)
	st.Worlds[i] = m
}

// As is how cameras make their pictures: the aspect, and what is framed otherwise.
type As struct {
	Aspect  float64
	Reframe scene.Reframe
}

// rigid takes the scale of what carries a camera out of its matrix.
func rigid(m geom.Mat4) geom.Mat4 {
	size := math.Hypot(math.Hypot(m[0], m[4]), m[8])
	if math.Abs(size-1) < 1e-12 || size == 0 {
		return m
	}
	at := m.Origin()
	return m.Scaled(1 / size).At(at)
}

// AimFramed returns the pan and tilt in degrees with which a camera of the
// given field of view, roll and shift (tangents) shows a direction at a place
// in the picture: framing runs from −1 to 1 of the half width to the right and
// the half height up. With the ray c through that place, turned by the roll,
// tilt solves c.y·cos t − c.z·sin t = d.y, and pan turns the rest.
func AimFramed(d r3.Vec, framing [2]float64, hfov, vfov, roll float64, shift [2]float64) (pan, tilt float64) {
	if r3.Norm2(d) == 0 {
		return 0, 0
	}
	d = r3.Unit(d)
	turn := geom.RotateZ(roll)
	lens := CameraState{HFov: hfov, VFov: vfov, Shift: shift}
	c := r3.Unit(turn.Dir(lens.Ray(framing[0], framing[1])))
	r := math.Hypot(c.Y, c.Z)
	t := math.Asin(max(-1, min(1, d.Y/r))) - math.Atan2(c.Y, -c.Z)
	z := c.Y*math.Sin(t) + c.Z*math.Cos(t)
	p := math.Atan2(-d.X, -d.Z) - math.Atan2(-c.X, -z)
	return math.Remainder(geom.Degrees(p), 360), geom.Degrees(t)
}

// Ray returns the direction in the camera's own space through a place in its
// picture, from −1 to 1 to the right and up; its z is −1.
func (c *CameraState) Ray(x, y float64) r3.Vec {
	return r3.Vec{X: x*math.Tan(geom.Radians(c.HFov/2)) + c.Shift[0], Y: y*math.Tan(geom.Radians(c.VFov/2)) + c.Shift[1], Z: -1}
}

// Spread returns the diameter of the blur at infinity as a share of the
// picture's height; see optics.Spread.
func (c *CameraState) Spread() float64 {
	return optics.Spread(c.Focal, c.Stop, c.Focus, c.Gate.Height)
}

// Project returns where in its picture a camera sees a point of the world, from
// −1 to 1 to the right and up, and its depth in metres along the view axis;
// points with a depth of 0 or less are behind the lens.
func (c *CameraState) Project(p r3.Vec) (x, y, depth float64) {
	d := r3.Sub(p, c.World.Origin())
	w := &c.World
	u, v := w[0]*d.X+w[4]*d.Y+w[8]*d.Z, w[1]*d.X+w[5]*d.Y+w[9]*d.Z
	depth = -(w[2]*d.X + w[6]*d.Y + w[10]*d.Z)
	x = (u/depth - c.Shift[0]) / math.Tan(geom.Radians(c.HFov/2))
	y = (v/depth - c.Shift[1]) / math.Tan(geom.Radians(c.VFov/2))
	return x, y, depth
}

// lateSamples is the number of moments over which a lagging operator's aim is
// averaged.
const lateSamples = 8

// lateWeights is a raised-cosine window over the last 2·lag seconds: its mean
// delay is the lag.
var lateWeights = func() (w [lateSamples]float64) {
	for i := range w {
		s := math.Sin(math.Pi * (float64(i) + 0.5) / lateSamples)
		w[i] = s * s / (lateSamples / 2)
	}
	return w
}()

// aimed returns the point in the world that a camera aims at: the subject, or
// with an operator who lags, where it was over the last moments.
func (s *Scene) aimed(n *Node, frame float64, st *State) r3.Vec {
	lag := n.Entity.Camera.Lag * s.rate
	if lag <= 0 || len(n.lagging) == 0 {
		return s.Subject(n.aimAt, st)
	}
	if st.late == nil {
		st.late = &State{}
	}
	late := st.late
	s.ready(late)
	return Late(frame, lag, func(past float64) r3.Vec {
		for _, k := range n.lagging {
			s.node(k, past, late)
		}
		return s.Subject(n.aimAt, late)
	})
}

// Late returns where a subject seems to be for an operator who lags by a number
// of frames: its place averaged over twice that time, weighted so that the mean
// delay is the lag.
func Late(frame, lag float64, at func(frame float64) r3.Vec) (out r3.Vec) {
	for i, w := range lateWeights {
		out = r3.Add(out, r3.Scale(w, at(frame-2*lag*(float64(i)+0.5)/lateSamples)))
	}
	return out
}

// Aimed returns the point in the world that a camera node holds at an evaluated
// state, or its own place when it aims at nothing.
func (s *Scene) Aimed(i int, st *State) r3.Vec {
	if n := &s.Nodes[i]; n.aimAt >= 0 {
		return s.aimed(n, st.Frame, st)
	}
	return st.Worlds[i].Origin()
}

// compileNeeds finds what cameras depend on, and the subjects of operators who
// lag.
func (s *Scene) compileNeeds(doc *scene.Document) {
	depends := doc.Dependencies()
	for _, i := range s.Cameras {
		n := &s.Nodes[i]
		n.needs, n.lagging = s.needs(depends, i), nil
		if n.aimAt >= 0 && n.Entity.Camera.Lag > 0 {
			n.lagging = s.needs(depends, n.aimAt)
		}
	}
}

// EvaluateCamera fills st with one camera and what it depends on, and nothing
// else. The camera is an index into State.Cameras.
func (s *Scene) EvaluateCamera(camera int, frame float64, st *State) *CameraState {
	st.Frame = frame
	s.ready(st)
	for _, i := range s.Nodes[s.Cameras[camera]].needs {
		s.node(i, frame, st)
	}
	return &st.Cameras[camera]
}

// EvaluateCameraAs is EvaluateCamera with another framing than that of the format that
// is worked in.
func (s *Scene) EvaluateCameraAs(as As, camera int, frame float64, st *State) *CameraState {
	st.as, st.asOf = &as, camera
	defer func() { st.as = nil }()
	return s.EvaluateCamera(camera, frame, st)
}

// Moves returns the story frames between which a camera is keyed, zeros when it
// is not.
func (s *Scene) Moves(camera int) (from, to float64, ok bool) {
	n := &s.Nodes[s.Cameras[camera]]
	from, to = math.Inf(1), math.Inf(-1)
	for c := range n.channels {
		if k := n.channels[c].Keys(); len(k) > 0 {
			from, to, ok = min(from, k[0].Frame), max(to, k[len(k)-1].Frame), true
		}
	}
	if !ok {
		return 0, 0, false
	}
	return from, to, true
}

// pull is a key of the focus whose distance may follow a subject.
type pull struct {
	frame, value float64
	ease         curve.Ease
	on           int // node, or −1
}

// pullsOf returns the keys of a focus curve when any of them follows a subject.
func (s *Scene) pullsOf(v scene.Curve) []pull {
	out := make([]pull, len(v.Keys))
	any := false
	for i, k := range v.Keys {
		out[i] = pull{k.Frame, k.Value, k.Ease, -1}
		if k.On != "" {
			if on, ok := s.index[k.On]; ok {
				out[i].on, any = on, true
			}
		}
	}
	if !any {
		return nil
	}
	return out
}

// follows tells whether the JSON of a curve holds keys that follow subjects.
func follows(v any) bool {
	c, ok := v.(scene.Curve)
	return ok && slices.ContainsFunc(c.Keys, func(k curve.Key) bool { return k.On != "" })
}

// focusOf returns the focus distance in metres along the view axis, to the
// plane of what is in focus.
func (s *Scene) focusOf(n *Node, frame float64, m *geom.Mat4, st *State) float64 {
	k := n.Entity.Camera
	if n.focusOn >= 0 {
		return s.depthOf(n.focusOn, m, st)
	}
	p := n.pulls
	if len(p) == 0 {
		return max(0.05, n.animated(focus, frame, k.Focus))
	}
	at := func(p pull) float64 {
		if p.on < 0 {
			return p.value
		}
		return s.depthOf(p.on, m, st)
	}
	if frame <= p[0].frame {
		return at(p[0])
	}
	for i := 1; i < len(p); i++ {
		if frame < p[i].frame {
			w := pulled(p[i-1].ease, p[i].ease, (frame-p[i-1].frame)/(p[i].frame-p[i-1].frame))
			return at(p[i-1])*(1-w) + at(p[i])*w
		}
	}
	return at(p[len(p)-1])
}

// pulled returns how much of a focus pull is done at t from 0 to 1: a cubic
// whose ends are flat at soft and shaped keys and straight at even ones.
func pulled(from, to curve.Ease, t float64) float64 {
	if from == curve.Hold {
		return 0
	}
	a, b := 0.0, 1.0
	if from == curve.Even {
		a = 1.0 / 3
	}
	if to == curve.Even {
		b = 2.0 / 3
	}
	u := 1 - t
	return 3*u*u*t*a + 3*u*t*t*b + t*t*t
}

// depthOf returns how far in front of a camera the plane of a subject is.
func (s *Scene) depthOf(subject int, m *geom.Mat4, st *State) float64 {
	d := r3.Dot(r3.Sub(s.Subject(subject, st), m.Origin()), m.Dir(r3.Vec{Z: -1}))
	return max(0.05, d)
}
