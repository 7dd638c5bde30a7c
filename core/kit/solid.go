package kit

import (
	"math"
	"slices"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// solid tells how far a place is from a surface, in any unit that is about a length
// near it: less than 0 inside, more outside.
type solid func(p r3.Vec) float64

// drop is a ball that goes over into another: a limb, a finger, a neck (after
// I. Quilez's round cone).
func drop(a, b r3.Vec, ra, rb float64) solid {
	ab := r3.Sub(b, a)
	l := r3.Norm(ab)
	u := r3.Scale(1/l, ab)
	s := (ra - rb) / l // the sine by which the sides are slanted
	c := math.Sqrt(max(0, 1-s*s))
	return func(p r3.Vec) float64 {
		d := r3.Sub(p, a)
		y := r3.Dot(d, u)
		x := math.Sqrt(geom.Greater(0, r3.Norm2(d)-y*y))
		k := y*c - x*s // along the slanted side
		switch {
		case k < 0:
			return math.Hypot(x, y) - ra
		case k > l*c:
			return math.Hypot(x, y-l) - rb
		}
		return x*c + y*s - ra
	}
}

// egg is an ellipsoid; what it tells is exact on it and good near it.
func egg(c r3.Vec, rx, ry, rz float64) solid {
	return func(p r3.Vec) float64 {
		x, y, z := (p.X-c.X)/rx, (p.Y-c.Y)/ry, (p.Z-c.Z)/rz
		k0 := math.Sqrt(x*x + y*y + z*z)
		k1 := math.Sqrt(x*x/rx/rx + y*y/ry/ry + z*z/rz/rz)
		if k1 == 0 {
			return -min(rx, ry, rz)
		}
		return k0 * (k0 - 1) / k1
	}
}

// flattened presses a solid together from front to back.
func (f solid) flattened(by float64) solid {
	return func(p r3.Vec) float64 { return f(vec(p.X, p.Y, p.Z/by)) * by }
}

// and joins solids with a fillet about as large as k.
func (f solid) and(k float64, others ...solid) solid {
	for _, g := range others {
		a := f
		f = func(p r3.Vec) float64 {
			x, y := a(p), g(p)
			h := geom.Greater(0, k-math.Abs(x-y)) / k
			return geom.Lesser(x, y) - h*h*k/4
		}
	}
	return f
}

// without takes a solid away, with an edge as round as k.
func (f solid) without(k float64, g solid) solid {
	return func(p r3.Vec) float64 {
		x, y := f(p), -g(p)
		h := geom.Greater(0, k-math.Abs(x-y)) / k
		return geom.Greater(x, y) + h*h*k/4
	}
}

// both makes a solid that is on the right hand side on the left one, too.
func both(f solid) solid {
	return func(p r3.Vec) float64 { p.X = math.Abs(p.X); return f(p) }
}

// under is what lies under a height.
func under(y float64) solid { return func(p r3.Vec) float64 { return p.Y - y } }

// front returns the foremost place of a solid at x and y, looking from −Z.
func (f solid) front(x, y float64) r3.Vec {
	p := vec(x, y, -0.2)
	for range 64 {
		d := f(p)
		if d < 1e-5 {
			break
		}
		p.Z += d * 0.7
	}
	return p
}

// slope is the direction in which a solid falls away, from four places around one.
func (f solid) slope(p r3.Vec) r3.Vec {
	const e = 1e-4
	var sum r3.Vec
	for _, d := range [4]r3.Vec{{X: 1, Y: -1, Z: -1}, {X: -1, Y: -1, Z: 1}, {X: -1, Y: 1, Z: -1}, {X: 1, Y: 1, Z: 1}} {
		sum = r3.Add(sum, r3.Scale(f(r3.Add(p, r3.Scale(e, d))), d))
	}
	return r3.Scale(1/(4*e), sum)
}

// carve adds the surface of a solid inside a box, found in cells of a size: one vertex
// in each cell that the surface passes (naive surface nets, S. Gibson, "Constrained
// elastic surface nets", 1998), brought onto it, with its slope for the normal. What
// lies well inside one of the covers is left out, for it is never seen.
func (b *builder) carve(f solid, box geom.Box, cell float64, covers ...solid) {
	size := r3.Sub(box.Max, box.Min)
	nx, ny, nz := int(math.Ceil(size.X/cell))+1, int(math.Ceil(size.Y/cell))+1, int(math.Ceil(size.Z/cell))+1
	at := func(i, j, k int) r3.Vec {
		return r3.Add(box.Min, vec(float64(i)*cell, float64(j)*cell, float64(k)*cell))
	}
	index := func(i, j, k int) int { return (k*ny+j)*nx + i }
	values := make([]float64, nx*ny*nz)
	// tell finds the values of a block of nodes. Where the surface is far away the one in
	// their middle tells for all; elsewhere halves of them are asked, and then each.
	var tell func(i0, j0, k0, block int)
	tell = func(i0, j0, k0, block int) {
		i1, j1, k1 := min(nx, i0+block), min(ny, j0+block), min(nz, k0+block)
		if i0 >= i1 || j0 >= j1 || k0 >= k1 {
			return
		}
		half := cell * float64(block) / 2
		middle := f(r3.Add(at(i0, j0, k0), vec(half, half, half)))
		far := math.Abs(middle) > 3*half
		if !far && block == wholeBlock {
			for n := range 8 {
				tell(i0+n&1*block/2, j0+n>>1&1*block/2, k0+n>>2*block/2, block/2)
			}
			return
		}
		for k := k0; k < k1; k++ {
			for j := j0; j < j1; j++ {
				for i := i0; i < i1; i++ {
					if values[index(i, j, k)] = middle; !far {
						values[index(i, j, k)] = f(at(i, j, k))
					}
				}
			}
		}
	}
	for k := 0; k < nz; k += wholeBlock {
		for j := 0; j < ny; j += wholeBlock {
			for i := 0; i < nx; i += wholeBlock {
				tell(i, j, k, wholeBlock)
			}
		}
	}
	vertices := make([]int32, nx*ny*nz)
	first := len(b.mesh.Positions) / 3
	var hidden []bool // for each vertex from the first
	for k := range nz - 1 {
		for j := range ny - 1 {
			for i := range nx - 1 {
				n := index(i, j, k)
				vertices[n] = -1
				var sum r3.Vec
				crossed := 0
				for _, e := range cellEdges {
					a, c := e[0], e[1]
					va := values[index(i+a&1, j+a>>1&1, k+a>>2)]
					vc := values[index(i+c&1, j+c>>1&1, k+c>>2)]
					if (va < 0) == (vc < 0) {
						continue
					}
					pa, pc := at(i+a&1, j+a>>1&1, k+a>>2), at(i+c&1, j+c>>1&1, k+c>>2)
					sum = r3.Add(sum, r3.Add(pa, r3.Scale(va/(va-vc), r3.Sub(pc, pa))))
					crossed++
				}
				if crossed == 0 {
					continue
				}
				p := settled(f, r3.Scale(1/float64(crossed), sum), cell)
				vertices[n] = int32(b.vertex(p, f.slope(p)))
				hidden = append(hidden, slices.ContainsFunc(covers, func(c solid) bool { return c(p) < -cell/2 }))
			}
		}
	}
	// A side between four cells for each edge that the surface crosses.
	for k := 1; k < nz-1; k++ {
		for j := 1; j < ny-1; j++ {
			for i := 1; i < nx-1; i++ {
				v := values[index(i, j, k)]
				for axis, step := range [3][3]int{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}} {
					w := values[index(i+step[0], j+step[1], k+step[2])]
					if (v < 0) == (w < 0) {
						continue
					}
					u, t := cellAround[axis][0], cellAround[axis][1]
					q := [4]int32{
						vertices[index(i-u[0]-t[0], j-u[1]-t[1], k-u[2]-t[2])], vertices[index(i-t[0], j-t[1], k-t[2])],
						vertices[index(i, j, k)], vertices[index(i-u[0], j-u[1], k-u[2])],
					}
					if v >= 0 {
						q[1], q[3] = q[3], q[1]
					}
					if !slices.ContainsFunc(q[:], func(v int32) bool { return !hidden[int(v)-first] }) {
						continue
					}
					b.patch(q)
				}
			}
		}
	}
}

// wholeBlock is how many nodes on a side are looked at together.
const wholeBlock = 6

var (
	cellEdges  = [12][2]int{{0, 1}, {2, 3}, {4, 5}, {6, 7}, {0, 2}, {1, 3}, {4, 6}, {5, 7}, {0, 4}, {1, 5}, {2, 6}, {3, 7}}
	cellAround = [3][2][3]int{{{0, 1, 0}, {0, 0, 1}}, {{0, 0, 1}, {1, 0, 0}}, {{1, 0, 0}, {0, 1, 0}}}
)

// settled brings a place in a cell onto a solid.
func settled(f solid, p r3.Vec, cell float64) r3.Vec {
	from := p
	for range 2 { // Newton's steps
		off := f(p)
		if math.Abs(off) < 1e-7 {
			break
		}
		g := f.slope(p)
		if l := r3.Norm2(g); l > 1e-6 {
			p = r3.Sub(p, r3.Scale(off/l, g))
		}
	}
	if d := r3.Sub(p, from); r3.Norm(d) > cell*0.75 { // a crease: it stays in its cell
		p = r3.Add(from, r3.Scale(cell*0.75/r3.Norm(d), d))
	}
	return p
}

// patch adds a side of four vertices, cut along the diagonal that keeps both halves closer
// to their normals.
func (b *builder) patch(q [4]int32) {
	turned := [4]int32{q[1], q[2], q[3], q[0]}
	if b.agreement(turned) > b.agreement(q) {
		q = turned
	}
	b.mesh.Indices = append(b.mesh.Indices, uint32(q[0]), uint32(q[1]), uint32(q[2]), uint32(q[0]), uint32(q[2]), uint32(q[3]))
}

// agreement is the least cosine between the halves of a side, cut from its first to its
// third vertex, and their normals.
func (b *builder) agreement(q [4]int32) float64 {
	at := func(of []float32, i int32) r3.Vec {
		return vec(float64(of[3*i]), float64(of[3*i+1]), float64(of[3*i+2]))
	}
	least := 1.0
	for _, t := range [2][3]int32{{q[0], q[1], q[2]}, {q[0], q[2], q[3]}} {
		p := at(b.mesh.Positions, t[0])
		n := r3.Cross(r3.Sub(at(b.mesh.Positions, t[1]), p), r3.Sub(at(b.mesh.Positions, t[2]), p))
		if l := r3.Norm(n); l > 0 {
			for _, v := range t {
				least = min(least, r3.Dot(n, at(b.mesh.Normals, v))/l)
			}
		}
	}
	return least
}
