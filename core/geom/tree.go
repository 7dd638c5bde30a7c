package geom

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"
)

// Tree finds where rays meet a triangle mesh: a hierarchy of boxes, halved at
// the median of the longest side.
type Tree struct {
	positions []float32
	indices   []uint32
	order     []int32 // triangles, as the leaves hold them
	nodes     []treeNode
}

type treeNode struct {
	lo, hi [3]float32
	// A leaf holds order[first : first+count]; otherwise the children are the
	// next node and the one at first.
	first, count int32
}

const leafSize = 6

// NewTree builds a tree over triangles; three positions for each vertex, three
// indices for each triangle, all inside positions. It keeps both slices.
func NewTree(positions []float32, indices []uint32) *Tree {
	n := len(indices) / 3
	t := &Tree{positions: positions, indices: indices, order: make([]int32, n)}
	centers := make([][3]float32, n)
	for i := range n {
		t.order[i] = int32(i)
		for _, k := range indices[3*i : 3*i+3] {
			for c := range 3 {
				centers[i][c] += positions[3*k+uint32(c)] / 3
			}
		}
	}
	if n > 0 {
		t.build(0, n, centers)
	}
	return t
}

func (t *Tree) build(from, to int, centers [][3]float32) int32 {
	at := int32(len(t.nodes))
	inf := float32(math.Inf(1))
	n := treeNode{lo: [3]float32{inf, inf, inf}, hi: [3]float32{-inf, -inf, -inf}, first: int32(from), count: int32(to - from)}
	lo, hi := n.lo, n.hi
	for _, tri := range t.order[from:to] {
		for _, k := range t.indices[3*tri : 3*tri+3] {
			for c := range 3 {
				v := t.positions[3*k+uint32(c)]
				n.lo[c], n.hi[c] = min(n.lo[c], v), max(n.hi[c], v)
			}
		}
		for c := range 3 {
			lo[c], hi[c] = min(lo[c], centers[tri][c]), max(hi[c], centers[tri][c])
		}
	}
	// A little wider than what it holds, as triangles are met a little beyond
	// their edges.
	pad := 1e-6 * max(n.hi[0]-n.lo[0], n.hi[1]-n.lo[1], n.hi[2]-n.lo[2])
	for c := range 3 {
		n.lo[c], n.hi[c] = n.lo[c]-pad, n.hi[c]+pad
	}
	t.nodes = append(t.nodes, n)
	if to-from <= leafSize {
		return at
	}
	axis := 0
	for c := 1; c < 3; c++ {
		if hi[c]-lo[c] > hi[axis]-lo[axis] {
			axis = c
		}
	}
	slices.SortFunc(t.order[from:to], func(a, b int32) int {
		switch d := centers[a][axis] - centers[b][axis]; {
		case d < 0:
			return -1
		case d > 0:
			return 1
		}
		return int(a - b)
	})
	mid := (from + to) / 2
	t.build(from, mid, centers)
	right := t.build(mid, to, centers)
	t.nodes[at].first, t.nodes[at].count = right, 0
	return at
}

// Ray is a half line: a point and a direction, whose length is the unit of
// distances along it.
type Ray struct{ From, Dir r3.Vec }

// At returns the point at a distance along the ray.
func (r Ray) At(t float64) r3.Vec { return r3.Add(r.From, r3.Scale(t, r.Dir)) }

// Hit returns the smallest distance in (0, limit) at which the ray meets a
// triangle, from either side, and that triangle's number.
func (t *Tree) Hit(r Ray, limit float64) (distance float64, triangle int, ok bool) {
	if len(t.nodes) == 0 {
		return 0, 0, false
	}
	o := [3]float64{r.From.X, r.From.Y, r.From.Z}
	inv := [3]float64{1 / r.Dir.X, 1 / r.Dir.Y, 1 / r.Dir.Z}
	best := limit
	var stack [64]int32
	stack[0] = 0
	for top := 1; top > 0; {
		top--
		at := stack[top]
		n := &t.nodes[at]
		if !slabs(&n.lo, &n.hi, &o, &inv, best) {
			continue
		}
		if n.count == 0 {
			stack[top], stack[top+1] = n.first, at+1
			top += 2
			continue
		}
		for _, tri := range t.order[n.first : n.first+n.count] {
			if d, hit := t.meets(tri, r); hit && d < best {
				best, triangle, ok = d, int(tri), true
			}
		}
	}
	return best, triangle, ok
}

// slabs tells whether a ray meets a box before a distance (A. Williams et al.,
// 2005).
func slabs(lo, hi *[3]float32, o, inv *[3]float64, limit float64) bool {
	t0, t1 := 0.0, limit
	for c := range 3 {
		a, b := (float64(lo[c])-o[c])*inv[c], (float64(hi[c])-o[c])*inv[c]
		if a > b {
			a, b = b, a
		}
		// A NaN (the ray lies in the side of a flat box) leaves both as they are.
		if a > t0 {
			t0 = a
		}
		if b < t1 {
			t1 = b
		}
	}
	return t0 <= t1+1e-9*math.Abs(t1)
}

// meets intersects a ray with a triangle (T. Möller and B. Trumbore, 1997).
func (t *Tree) meets(tri int32, r Ray) (float64, bool) {
	p := func(k int32) r3.Vec {
		i := 3 * t.indices[3*tri+k]
		return r3.Vec{X: float64(t.positions[i]), Y: float64(t.positions[i+1]), Z: float64(t.positions[i+2])}
	}
	a := p(0)
	e1, e2 := r3.Sub(p(1), a), r3.Sub(p(2), a)
	h := r3.Cross(r.Dir, e2)
	det := r3.Dot(e1, h)
	if math.Abs(det) < 1e-14 {
		return 0, false
	}
	s := r3.Sub(r.From, a)
	u := r3.Dot(s, h) / det
	q := r3.Cross(s, e1)
	v := r3.Dot(r.Dir, q) / det
	const slack = 1e-9 // so that a ray through an edge does not slip between
	if u < -slack || v < -slack || u+v > 1+slack {
		return 0, false
	}
	d := r3.Dot(e2, q) / det
	return d, d > 1e-9
}

// Normal returns the unit normal of a triangle, on its counter-clockwise side.
func (t *Tree) Normal(triangle int) r3.Vec {
	p := func(k int) r3.Vec {
		i := 3 * t.indices[3*triangle+k]
		return r3.Vec{X: float64(t.positions[i]), Y: float64(t.positions[i+1]), Z: float64(t.positions[i+2])}
	}
	n := r3.Cross(r3.Sub(p(1), p(0)), r3.Sub(p(2), p(0)))
	if l := r3.Norm(n); l > 0 {
		return r3.Scale(1/l, n)
	}
	return r3.Vec{Y: 1}
}

// Ray returns the ray after m, with its direction not made unit, so that
// distances along it stay the same.
func (m *Mat4) Ray(r Ray) Ray { return Ray{m.Point(r.From), m.Dir(r.Dir)} }
