package compose

import (
	"math"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"

	"gonum.org/v1/gonum/spatial/r3"
)

// Thing is a subject that is no person: a box in axes of its own, which looks to −Z.
type Thing struct {
	Axes geom.Mat4 // rigid, to the world
	Box  geom.Box  // in these axes, metres
}

// Side is from which side of its subject a picture is taken.
type Side string

// The sides, as the trade calls them.
const (
	AnySide     Side = ""
	Front       Side = "front"
	Quarter     Side = "three-quarter"
	Profile     Side = "side"
	RearQuarter Side = "rear three-quarter"
	Rear        Side = "rear"
)

// Sides lists the sides in the order in which they are offered.
var Sides = []Side{Front, Quarter, Profile, RearQuarter, Rear}

// Arounds returns from where around a subject a side is looked at, the likeliest first:
// degrees from straight in front, positive to its own right. There are none for a side
// that is not known.
func (s Side) Arounds() []float64 {
	switch s {
	case AnySide:
		return []float64{30, -30, 50, -50, 12, -12, 75, -75, 0, 100, -100, 135, -135, 180}
	case Front:
		return []float64{0, 8, -8, 16, -16}
	case Quarter:
		return []float64{40, -40, 30, -30, 52, -52}
	case Profile:
		return []float64{90, -90, 80, -80, 100, -100}
	case RearQuarter:
		return []float64{140, -140, 128, -128, 150, -150}
	case Rear:
		return []float64{180, 172, -172, 164, -164}
	}
	return nil
}

// SideOf returns the side whose middle is nearest to an angle around a subject.
func SideOf(around float64) Side {
	a := math.Abs(math.Remainder(around, 360))
	switch {
	case a < 20:
		return Front
	case a < 65:
		return Quarter
	case a < 115:
		return Profile
	case a < 160:
		return RearQuarter
	}
	return Rear
}

// Figure returns a thing as framing sees a person: its middle is what is aimed at.
func (t Thing) Figure(node int, name string) motion.Figure {
	c := t.middle()
	f := motion.Figure{Node: node, Name: name, Eyes: c, Top: c, Feet: c, Stature: max(1e-3, t.Box.Max.Y-t.Box.Min.Y), Front: t.Axes.Dir(r3.Vec{Z: -1})}
	for k := range 8 {
		y := t.corner(k).Y
		f.Top.Y, f.Feet.Y = max(f.Top.Y, y), min(f.Feet.Y, y)
	}
	f.Front.Y = 0
	if r3.Norm(f.Front) < 1e-6 { // it looks straight up or down
		f.Front = r3.Vec{Z: -1}
	}
	f.Front = r3.Unit(f.Front)
	return f
}

func (t Thing) middle() r3.Vec      { return t.Axes.Point(t.Box.Center()) }
func (t Thing) corner(k int) r3.Vec { return t.Axes.Point(t.Box.Corner(k)) }

// extent returns the width and height of a thing's right-angled outline, as shares of the
// picture's; infinite when a part of it is behind the lens.
func (t Thing) extent(c *motion.CameraState) (x, y float64) {
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	for k := range 8 {
		x, y, depth := c.Project(t.corner(k))
		if depth < nearest {
			return math.Inf(1), math.Inf(1)
		}
		lo, hi = [2]float64{min(lo[0], x), min(lo[1], y)}, [2]float64{max(hi[0], x), max(hi[1], y)}
	}
	return (hi[0] - lo[0]) / 2, (hi[1] - lo[1]) / 2
}

// reach returns how far a thing reaches from its middle in a direction.
func (t Thing) reach(way r3.Vec) (d float64) {
	c := t.middle()
	for k := range 8 {
		d = max(d, r3.Dot(r3.Sub(t.corner(k), c), way))
	}
	return d
}

// looking returns a camera that has the middle of a thing at a place in its picture.
func (t Thing) looking(from r3.Vec, at [2]float64, l Lens) motion.CameraState {
	p, tilt := motion.AimFramed(r3.Sub(t.middle(), from), at, l.HFov, l.VFov, 0, l.Shift)
	return motion.CameraState{World: geom.PanTiltRoll(p, tilt, 0).At(from), HFov: l.HFov, VFov: l.VFov, Shift: l.Shift}
}

// whole returns the distance from the middle of a thing at which all of it, seen from the
// places that stand gives, takes a share of its picture.
func (t Thing) whole(stand func(d float64) r3.Vec, l Lens, share float64) float64 {
	return least(func(d float64) bool {
		c := t.looking(stand(d), [2]float64{}, l)
		x, y := t.extent(&c)
		return max(x, y) <= share
	})
}

// least returns the least distance that is far enough, by halving.
func least(far func(d float64) bool) float64 {
	lo, hi := nearest, farthest
	for hi-lo > 1e-7*hi {
		if mid := (lo + hi) / 2; far(mid) {
			hi = mid
		} else {
			lo = mid
		}
	}
	return hi
}

// fullShare is how much of its picture a thing takes in a full shot: as much as a person.
var fullShare = func() float64 { s, _ := SizeByName("full"); return 1 / s.Statures() }()

// distance returns how far from the middle of a thing a picture of a size is taken. Sizes
// that have all of it in the picture are measured by its outline: it takes as much of the
// picture's height, or width if that is more, as a person does. Nearer ones are measured
// by the distance from its face: half a full shot is taken from half as far.
func (t Thing) distance(stand func(d float64) r3.Vec, l Lens, s Size) float64 {
	if share := 1 / s.Statures(); share <= fullShare {
		return t.whole(stand, l, share)
	}
	return least(func(d float64) bool {
		c := t.looking(stand(d), [2]float64{}, l)
		return t.Statures(&c) >= s.Statures()
	})
}

// Statures returns how many of a thing's own sizes the picture of a camera covers, as
// SizeOf takes it: the inverse of what a thing is placed by.
func (t Thing) Statures(c *motion.CameraState) float64 {
	from := c.World.Origin()
	off := r3.Sub(from, t.middle())
	d := r3.Norm(off)
	if d < nearest {
		return 0
	}
	if x, y := t.extent(c); max(x, y) <= fullShare {
		return 1 / max(1e-9, max(x, y))
	}
	way := r3.Scale(1/d, off)
	stand := func(d float64) r3.Vec { return r3.Add(t.middle(), r3.Scale(d, way)) }
	full := t.whole(stand, Lens{HFov: c.HFov, VFov: c.VFov, Shift: c.Shift}, fullShare)
	face := t.reach(way)
	return max(0, (d-face)/max(1e-9, full-face)) / fullShare
}

// tallThing is how tall in metres a thing is that is looked at from the height of somebody's
// eyes: what is smaller, from its own height.
const tallThing = 1.2

// placeThing returns where a camera stands for a picture of a thing.
func placeThing(w Wish) (Pose, error) {
	t, f := *w.Thing, w.Subjects[0]
	if w.Angle == Overhead {
		return t.above(w, f), nil
	}
	c := t.middle()
	up := geom.Radians(rise[w.Angle])
	turn := geom.RotateY(-w.Around)
	way := turn.Dir(f.Front)
	stand := func(d float64) r3.Vec {
		at := r3.Add(c, r3.Scale(d*math.Cos(up), way))
		at.Y = max(f.Feet.Y+lowest, c.Y+d*math.Sin(up))
		if w.Angle == Eye && f.Top.Y-f.Feet.Y >= tallThing {
			at.Y = f.Feet.Y + kit.EyeHeight
		}
		return at
	}
	d := t.distance(stand, w.Lens, w.Size)
	if d >= farthest {
		return Pose{}, errNone
	}
	at := stand(d)
	cam := t.looking(at, [2]float64{}, w.Lens)
	side := w.X
	if x, _ := t.extent(&cam); x < 1 { // all of it stays in the picture
		side = max(-max(0, 0.95-x), min(max(0, 0.95-x), side))
	}
	p, tilt := motion.AimFramed(r3.Sub(c, at), [2]float64{side, 0}, w.Lens.HFov, w.Lens.VFov, 0, w.Lens.Shift)
	return Pose{At: at, Pan: p, Tilt: tilt, Distance: r3.Norm(r3.Sub(c, at))}, nil
}

// above looks straight down at a thing; up in the picture is where it looks to.
func (t Thing) above(w Wish, f motion.Figure) Pose {
	pan, _ := geom.Toward(f.Front)
	m := geom.PanTiltRoll(pan, -90, 0)
	tx, ty := math.Tan(geom.Radians(w.Lens.HFov/2)), math.Tan(geom.Radians(w.Lens.VFov/2))
	half := max(t.reach(m.Dir(r3.Vec{X: 1}))/tx, t.reach(m.Dir(r3.Vec{Y: 1}))/ty)
	d := t.reach(r3.Vec{Y: 1}) + half*w.Size.Statures()
	at := r3.Add(t.middle(), m.Dir(r3.Vec{X: -d * (w.X*tx + w.Lens.Shift[0]), Y: -d * w.Lens.Shift[1], Z: d}))
	return Pose{At: at, Pan: pan, Tilt: -90, Distance: d}
}
