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
	toView := v.World.Inverse()
	tx := math.Tan(v.HFov/2*math.Pi/180) * (1 + margin)
	ty := math.Tan(v.VFov/2*math.Pi/180) * (1 + margin)
	return func(b geom.Box) bool {
		if b.Empty() {
			return false
		}
		var beyond [5]int // corners left, right, below, above and behind
		for i := range 8 {
			q := toView.Point(b.Corner(i))
			depth := -q.Z
			x, y := q.X-v.Shift[0]*depth, q.Y-v.Shift[1]*depth
			for k, out := range [5]bool{x < -tx*depth, x > tx*depth, y < -ty*depth, y > ty*depth, depth < 0} {
				if out {
					beyond[k]++
				}
			}
		}
		return !slices.Contains(beyond[:], 8)
	}
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
