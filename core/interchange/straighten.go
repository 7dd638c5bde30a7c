package interchange

import (
	"math"

	"proscen/core/geom"
	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

// straighten sees to it that every shape is drawn through a place that neither mirrors nor
// stretches it one way: such a place would turn its triangles and tilt its normals. What
// stands still is moved to where it is at rest; of what moves, its own scale is taken into
// it. It tells whether anything stretched is left, which an animation moves.
func straighten(b *kit.Bundle) (left bool) {
	moving, scaled := make([]bool, len(b.Nodes)), make([]bool, len(b.Nodes))
	for _, c := range b.Clips {
		for _, t := range c.Tracks {
			moving[t.Node] = true
			scaled[t.Node] = scaled[t.Node] || t.What == "scale"
		}
	}
	for i, n := range b.Nodes { // parents come first
		moving[i] = moving[i] || n.Parent >= 0 && moving[n.Parent]
	}
	root := b.Root
	b.Root = geom.Identity
	var pose kit.BundlePose
	b.Pose(&pose, -1, 0)
	b.Root = root
	add := func(n kit.BundleNode) int {
		b.Nodes = append(b.Nodes, n)
		return len(b.Nodes) - 1
	}
	unit := kit.BundleNode{Parent: -1, Turn: [4]float32{0, 0, 0, 1}, Scale: [3]float32{1, 1, 1}}
	still := -1
	own, mirrors := map[int]int{}, map[int]int{}
	for i := range b.Shapes {
		s := &b.Shapes[i]
		if s.Skin >= 0 {
			continue
		}
		world := &pose.Worlds[s.Node]
		even, mirrored := proportions(world)
		if even && !mirrored {
			continue
		}
		if !moving[s.Node] {
			if still < 0 {
				still = add(unit)
			}
			bake(s, world)
			s.Node = still
			continue
		}
		k := b.Nodes[s.Node].Scale
		if !scaled[s.Node] && (k[0] != k[1] || k[1] != k[2] || k[0] < 0) { // a place beside its own that has no scale
			at, ok := own[s.Node]
			if !ok {
				n := b.Nodes[s.Node]
				n.Scale = unit.Scale
				at = add(n)
				own[s.Node] = at
				for c := range b.Clips {
					for _, t := range b.Clips[c].Tracks {
						if t.Node == s.Node {
							t.Node = at
							b.Clips[c].Tracks = append(b.Clips[c].Tracks, t)
						}
					}
				}
			}
			m := geom.Identity
			m[0], m[5], m[10] = float64(k[0]), float64(k[1]), float64(k[2])
			bake(s, &m)
			rest := scaleless(world, k)
			s.Node = at
			even, mirrored = proportions(&rest)
		}
		if mirrored { // a mirror before it, and the shape mirrored too, is the same without a mirror
			parent := s.Node
			at, ok := mirrors[parent]
			if !ok {
				at = add(kit.BundleNode{Parent: parent, Turn: unit.Turn, Scale: [3]float32{-1, 1, 1}})
				mirrors[parent] = at
			}
			m := geom.Identity
			m[0] = -1
			bake(s, &m)
			s.Node = at
		}
		left = left || !even
	}
	return left
}

// proportions tells whether a place scales alike all ways and keeps right angles, but for a
// thousandth, and whether it mirrors.
func proportions(m *geom.Mat4) (even, mirrored bool) {
	x, y, z := column(m, 0), column(m, 1), column(m, 2)
	a, b, c := r3.Norm(x), r3.Norm(y), r3.Norm(z)
	most := max(a, b, c)
	const little = 1e-3
	even = most-min(a, b, c) <= little*most &&
		max(math.Abs(r3.Dot(x, y)), math.Abs(r3.Dot(y, z)), math.Abs(r3.Dot(z, x))) <= little*most*most
	return even, r3.Dot(r3.Cross(x, y), z) < 0
}

func column(m *geom.Mat4, c int) r3.Vec { return r3.Vec{X: m[c], Y: m[c+4], Z: m[c+8]} }

// scaleless takes a scale that was applied first out of a place.
func scaleless(m *geom.Mat4, k [3]float32) geom.Mat4 {
	out := *m
	for i := range 12 {
		if c := i % 4; c < 3 && k[c] != 0 {
			out[i] /= float64(k[c])
		}
	}
	return out
}

// bake moves the corners of a shape by a place. Normals go by its inverse transposed, which
// is found from its columns; triangles are turned where it mirrors.
func bake(s *kit.Shape, m *geom.Mat4) {
	x, y, z := column(m, 0), column(m, 1), column(m, 2)
	nx, ny, nz := r3.Cross(y, z), r3.Cross(z, x), r3.Cross(x, y)
	sign := 1.0
	if r3.Dot(nz, z) < 0 {
		sign = -1
	}
	at := func(v []float32) r3.Vec { return r3.Vec{X: float64(v[0]), Y: float64(v[1]), Z: float64(v[2])} }
	put := func(v []float32, p r3.Vec) { v[0], v[1], v[2] = float32(p.X), float32(p.Y), float32(p.Z) }
	for i := 0; i+2 < len(s.Positions); i += 3 {
		put(s.Positions[i:], m.Point(at(s.Positions[i:])))
	}
	for i := 0; i+2 < len(s.Normals); i += 3 {
		n := at(s.Normals[i:])
		d := r3.Add(r3.Add(r3.Scale(sign*n.X, nx), r3.Scale(sign*n.Y, ny)), r3.Scale(sign*n.Z, nz))
		if l := r3.Norm(d); l > 0 {
			d = r3.Scale(1/l, d)
		}
		put(s.Normals[i:], d)
	}
	if sign < 0 {
		for i := 0; i+2 < len(s.Indices); i += 3 {
			s.Indices[i+1], s.Indices[i+2] = s.Indices[i+2], s.Indices[i+1]
		}
	}
}
