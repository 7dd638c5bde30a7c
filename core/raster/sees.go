package raster

import (
	"math"
	"slices"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Sight returns a function that tells whether a box in the world can be in the
// picture: never falsely that it cannot. Margin widens the picture by so many of its
// halves, for what blurs into it.
func (v View) Sight(margin float64) func(b geom.Box) bool {
	sides := v.sides(margin)
	return func(b geom.Box) bool {
		if b.Empty() {
			return false
		}
		var corners [8]r3.Vec
		for i := range corners {
			corners[i] = b.Corner(i)
		}
		return !beyondOne(sides, corners[:])
	}
}

// reaches tells whether a lamp may light something in the picture.
func (v *View) reaches(l *Lamp) bool {
	for _, inside := range v.sides(0)(l.At) {
		if !(inside >= -l.Reach) {
			return false
		}
	}
	return true
}

// sides returns a function that tells how many metres a place is inside of what bounds the
// picture: the plane of the eye and four sides. Beyond one it is less than 0.
func (v *View) sides(margin float64) func(at r3.Vec) [5]float64 {
	toView := v.World.Inverse()
	tx := math.Tan(geom.Radians(v.HFov/2)) * (1 + margin)
	ty := math.Tan(geom.Radians(v.VFov/2)) * (1 + margin)
	shift := v.Shift
	// A side leans away from the view's axis by a tangent.
	within := func(depth, aside, tan float64) float64 { return (tan*depth - aside) / math.Hypot(1, tan) }
	return func(at r3.Vec) [5]float64 {
		p := toView.Point(at)
		return [5]float64{
			-p.Z,
			within(-p.Z, p.X, tx+shift[0]), within(-p.Z, -p.X, tx-shift[0]),
			within(-p.Z, p.Y, ty+shift[1]), within(-p.Z, -p.Y, ty-shift[1]),
		}
	}
}

// beyondOne tells whether all of some places are beyond the same side.
func beyondOne(sides func(r3.Vec) [5]float64, places []r3.Vec) bool {
	var beyond [5]int
	for _, at := range places {
		for k, inside := range sides(at) {
			if inside < 0 {
				beyond[k]++
			}
		}
	}
	return slices.Contains(beyond[:], len(places))
}

// Swept returns the box that holds another one and its shadow, so many metres away
// from a light in a direction.
func Swept(b geom.Box, light r3.Vec, far float64) geom.Box {
	if b.Empty() {
		return b
	}
	by := r3.Scale(-far, light)
	return b.Add(r3.Add(b.Min, by)).Add(r3.Add(b.Max, by))
}
