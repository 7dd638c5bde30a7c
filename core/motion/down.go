package motion

import (
	"math"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Down returns a function that tells what lies under a place at an evaluated state,
// leaving out the nodes that skip names. It is for many places: shapes are sorted into
// squares of the ground once.
func (s *Scene) Down(st *State, skip func(node int) bool) func(at r3.Vec) (Struck, bool) {
	const most = 64 // squares that a shape lies in; larger ones are looked at for all places
	var boxes []geom.Box
	var of []int
	size := 0.0
	for i := range s.Instances {
		in := &s.Instances[i]
		if skip(in.Node) {
			continue
		}
		b := s.Meshes[in.Mesh].Mesh.Bounds.Transform(&st.Instances[i])
		boxes, of = append(boxes, b), append(of, i)
		size += max(b.Max.X-b.Min.X, b.Max.Z-b.Min.Z)
	}
	side := max(0.5, size/float64(max(1, len(boxes)))) // about that of a shape
	square := func(v float64) int { return int(math.Floor(v / side)) }
	squares := map[[2]int][]int{}
	var large []int
	for k, b := range boxes {
		x0, x1, z0, z1 := square(b.Min.X), square(b.Max.X), square(b.Min.Z), square(b.Max.Z)
		if float64(x1-x0+1)*float64(z1-z0+1) > most {
			large = append(large, k)
			continue
		}
		for x := x0; x <= x1; x++ {
			for z := z0; z <= z1; z++ {
				squares[[2]int{x, z}] = append(squares[[2]int{x, z}], k)
			}
		}
	}
	return func(at r3.Vec) (Struck, bool) {
		out := Struck{Node: -1, Distance: farDown}
		r := geom.Ray{From: at, Dir: r3.Vec{Y: -1}}
		for _, list := range [][]int{large, squares[[2]int{square(at.X), square(at.Z)}]} {
			for _, k := range list {
				b := &boxes[k]
				if at.X < b.Min.X || at.X > b.Max.X || at.Z < b.Min.Z || at.Z > b.Max.Z || at.Y < b.Min.Y || at.Y-b.Max.Y > out.Distance {
					continue
				}
				s.hit(of[k], r, st, &out)
			}
		}
		return out, out.Node >= 0
	}
}

// farDown is how far down in metres something is looked for.
const farDown = 1e4
