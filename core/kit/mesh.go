// Package kit makes the stand-ins: parametric meshes of set pieces, props and
// vehicles, and the jointed mannequin with its walk.
package kit

import (
	"math"
	"slices"
	"strconv"
	"sync"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Mesh is a triangle mesh in metres. Positions and normals hold three numbers
// for each vertex; colours hold four: linear red, green, blue and glow (0 lit
// by the scene, 1 shining by itself). Triangles are counter-clockwise seen from
// outside.
type Mesh struct {
	Positions []float32
	Normals   []float32
	Colors    []float32
	Indices   []uint32
	Bounds    geom.Box
	UVs       []float32 // two for each vertex from the texture's top left, or none
	Texture   *Texture  // multiplies the colours, or nil
	Sheer     Sheer
	Form      *Mesh // what it has its triangles from, if it is a copy that bends or is dyed

	once      sync.Once
	tree      *geom.Tree
	clustered sync.Once
	clusters  []Cluster
}

// Sheer is how a mesh lets what is behind it be seen. It is as opaque at a place as its
// texture is there, times what Through leaves.
type Sheer struct {
	Cut     float32 // what is less opaque is not there; 0 for all of it is, as where it blends
	Blend   bool    // what is behind shows by what is missing of the opacity
	Through float32 // 0 to 1
}

// Casts is how opaque a place has to be to cast a shadow.
func (s *Sheer) Casts() float32 {
	if s.Blend {
		return 0.5
	}
	return s.Cut
}

// Clear tells whether a mesh is anywhere not opaque.
func (m *Mesh) Clear() bool {
	s := &m.Sheer
	return (s.Blend || s.Cut > 0) && (s.Through > 0 || s.Cut > 1 || m.Texture != nil && m.Texture.clear)
}

// Opacity is how opaque the mesh is, 0 to 1, at a place of its texture that is seen so that
// a pixel covers size texels.
func (m *Mesh) Opacity(u, v, size float32) float32 {
	o := 1 - m.Sheer.Through
	if m.Texture != nil {
		o *= m.Texture.opacity(u, v, size)
	}
	return o
}

// Tree returns what finds rays that meet the mesh; it is built at first use.
func (m *Mesh) Tree() *geom.Tree {
	m.once.Do(func() { m.tree = geom.NewTree(m.Positions, m.Indices) })
	return m.tree
}

// Color is linear red, green, blue and glow.
type Color [4]float32

// Hex reads #rrggbb (sRGB, IEC 61966-2-1) as a linear colour without glow;
// anything else is middle grey.
func Hex(s string) Color {
	if len(s) == 7 && s[0] == '#' {
		if v, err := strconv.ParseUint(s[1:], 16, 32); err == nil {
			return Color{linear(v >> 16 & 255), linear(v >> 8 & 255), linear(v & 255), 0}
		}
	}
	return Color{0.2, 0.2, 0.2, 0}
}

func linear(v uint64) float32 { return float32(Linear(uint8(v))) }

// linearOf is the light of each byte of sRGB (IEC 61966-2-1).
var linearOf = func() (out [256]float64) {
	for i := range out {
		c := float64(i) / 255
		if c <= 0.04045 {
			out[i] = c / 12.92
		} else {
			out[i] = math.Pow((c+0.055)/1.055, 2.4)
		}
	}
	return out
}()

// Linear is the light of a byte of sRGB (IEC 61966-2-1), 0 to 1.
func Linear(v uint8) float64 { return linearOf[v] }

func (c Color) shade(f float32) Color { return Color{c[0] * f, c[1] * f, c[2] * f, c[3]} }

func (c Color) glow(g float32) Color { c[3] = g; return c }

// builder adds shapes to a mesh under a current transform and colour.
type builder struct {
	mesh  Mesh
	at    geom.Mat4
	color Color
}

func newBuilder(c Color) *builder {
	return &builder{at: geom.Identity, color: c, mesh: Mesh{Bounds: geom.EmptyBox()}}
}

func (b *builder) vertex(p, n r3.Vec) uint32 {
	p, n = b.at.Point(p), b.at.Dir(n)
	if l := r3.Norm(n); l > 0 {
		n = r3.Scale(1/l, n)
	}
	m := &b.mesh
	m.Positions = append(m.Positions, float32(p.X), float32(p.Y), float32(p.Z))
	m.Normals = append(m.Normals, float32(n.X), float32(n.Y), float32(n.Z))
	m.Colors = append(m.Colors, b.color[:]...)
	m.Bounds = m.Bounds.Add(p)
	return uint32(len(m.Positions)/3 - 1)
}

// with runs draw under a further transform and, unless nil, another colour.
func (b *builder) with(m geom.Mat4, c *Color, draw func()) {
	at, color := b.at, b.color
	b.at = at.Mul(&m)
	if c != nil {
		b.color = *c
	}
	draw()
	b.at, b.color = at, color
}

// tinted runs draw under another colour.
func (b *builder) tinted(c Color, draw func()) {
	color := b.color
	b.color = c
	draw()
	b.color = color
}

// face adds a flat polygon, counter-clockwise from outside.
func (b *builder) face(p ...r3.Vec) {
	n := r3.Cross(r3.Sub(p[1], p[0]), r3.Sub(p[2], p[0]))
	first := b.vertex(p[0], n)
	prev := b.vertex(p[1], n)
	for _, q := range p[2:] {
		next := b.vertex(q, n)
		b.mesh.Indices = append(b.mesh.Indices, first, prev, next)
		prev = next
	}
}

func vec(x, y, z float64) r3.Vec { return r3.Vec{X: x, Y: y, Z: z} }

// box adds a box between two corners.
func (b *builder) box(x0, y0, z0, x1, y1, z1 float64) {
	p := func(i int) r3.Vec {
		v := vec(x0, y0, z0)
		if i&1 != 0 {
			v.X = x1
		}
		if i&2 != 0 {
			v.Y = y1
		}
		if i&4 != 0 {
			v.Z = z1
		}
		return v
	}
	for _, f := range [6][4]int{{4, 5, 7, 6}, {1, 0, 2, 3}, {5, 1, 3, 7}, {0, 4, 6, 2}, {6, 7, 3, 2}, {0, 1, 5, 4}} {
		b.face(p(f[0]), p(f[1]), p(f[2]), p(f[3]))
	}
}

// beam adds a square bar from a to q with a thickness.
func (b *builder) beam(a, q r3.Vec, thick float64) {
	l := r3.Norm(r3.Sub(q, a))
	b.with(geom.Between(a, q, vec(0, 0.01, -1)), nil, func() {
		h := thick / 2
		b.box(-h, -l, -h, h, 0, h)
	})
}

// turned adds a solid of revolution about Y through (radius, height) points
// from bottom to top, with smooth sides; creases stay where a point is given
// twice.
func (b *builder) turned(sides int, profile ...[2]float64) {
	for i := 1; i < len(profile); i++ {
		lo, hi := profile[i-1], profile[i]
		dr, dh := hi[0]-lo[0], hi[1]-lo[1]
		if dr == 0 && dh == 0 {
			continue
		}
		slope := func(j int) (float64, float64) { // normal (radial, up) at profile point j
			r, h := 0.0, 0.0
			for _, k := range [2]int{j - 1, j} {
				if k < 0 || k+1 >= len(profile) {
					continue
				}
				a, c := profile[k], profile[k+1]
				if a == c { // a crease: only this piece counts
					return dh, -dr
				}
				r, h = r+c[1]-a[1], h-(c[0]-a[0])
			}
			return r, h
		}
		r0, h0 := slope(i - 1)
		r1, h1 := slope(i)
		base := uint32(len(b.mesh.Positions) / 3)
		for s := 0; s <= sides; s++ {
			sin, cos := math.Sincos(2 * math.Pi * float64(s) / float64(sides))
			b.vertex(vec(lo[0]*cos, lo[1], -lo[0]*sin), vec(r0*cos, h0, -r0*sin))
			b.vertex(vec(hi[0]*cos, hi[1], -hi[0]*sin), vec(r1*cos, h1, -r1*sin))
		}
		for s := range uint32(sides) {
			k := base + 2*s
			if lo[0] > 0 {
				b.mesh.Indices = append(b.mesh.Indices, k, k+2, k+1)
			}
			if hi[0] > 0 {
				b.mesh.Indices = append(b.mesh.Indices, k+2, k+3, k+1)
			}
		}
	}
}

// cylinder adds an upright, closed, tapering cylinder with sharp rims.
func (b *builder) cylinder(r0, r1, y0, y1 float64, sides int) {
	b.turned(sides, [2]float64{0, y0}, [2]float64{r0, y0}, [2]float64{r0, y0}, [2]float64{r1, y1}, [2]float64{r1, y1}, [2]float64{0, y1})
}

// ball adds an ellipsoid.
func (b *builder) ball(c r3.Vec, rx, ry, rz float64, sides int) {
	n := sides / 2
	base := uint32(len(b.mesh.Positions) / 3)
	for i := 0; i <= n; i++ {
		sv, cv := math.Sincos(math.Pi * float64(i) / float64(n))
		for s := 0; s <= sides; s++ {
			su, cu := math.Sincos(2 * math.Pi * float64(s) / float64(sides))
			d := vec(sv*cu, -cv, -sv*su)
			b.vertex(r3.Add(c, vec(d.X*rx, d.Y*ry, d.Z*rz)), vec(d.X/rx, d.Y/ry, d.Z/rz))
		}
	}
	row := uint32(sides + 1)
	for i := range uint32(n) {
		for s := range uint32(sides) {
			k := base + i*row + s
			if i > 0 {
				b.mesh.Indices = append(b.mesh.Indices, k, k+1, k+row)
			}
			if i < uint32(n)-1 {
				b.mesh.Indices = append(b.mesh.Indices, k+1, k+row+1, k+row)
			}
		}
	}
}

// grid adds a surface over x and z in flat-shaded facets, with a height and a
// colour for each place.
func (b *builder) grid(x0, z0, x1, z1 float64, nx, nz int, height func(x, z float64) float64, color func(p, n r3.Vec) Color) {
	row := func(k int, out []r3.Vec) []r3.Vec {
		z := z0 + (z1-z0)*float64(k)/float64(nz)
		for i := range nx + 1 {
			x := x0 + (x1-x0)*float64(i)/float64(nx)
			out = append(out, vec(x, height(x, z), z))
		}
		return out
	}
	m, corners := &b.mesh, 6*nx*nz
	m.Positions, m.Normals = slices.Grow(m.Positions, 3*corners), slices.Grow(m.Normals, 3*corners)
	m.Colors, m.Indices = slices.Grow(m.Colors, 4*corners), slices.Grow(m.Indices, corners)
	near := row(0, make([]r3.Vec, 0, nx+1))
	far := make([]r3.Vec, 0, nx+1)
	for k := range nz {
		far = row(k+1, far[:0])
		for i := range nx {
			a, c, d, e := near[i], near[i+1], far[i+1], far[i]
			for _, t := range [2][3]r3.Vec{{a, e, d}, {a, d, c}} {
				n := r3.Unit(r3.Cross(r3.Sub(t[1], t[0]), r3.Sub(t[2], t[0])))
				b.tinted(color(r3.Scale(1.0/3, r3.Add(t[0], r3.Add(t[1], t[2]))), n), func() { b.face(t[0], t[1], t[2]) })
			}
		}
		near, far = far, near
	}
}

// Noise is smooth value noise in [−1, 1] over the plane, the same on every
// machine.
func Noise(x, z float64, seed int) float64 {
	fx, fz := math.Floor(x), math.Floor(z)
	u, v := x-fx, z-fz
	u, v = u*u*(3-2*u), v*v*(3-2*v)
	i, k := int(fx), int(fz)
	a, b := lattice(i, k, seed), lattice(i+1, k, seed)
	c, d := lattice(i, k+1, seed), lattice(i+1, k+1, seed)
	return a + (b-a)*u + (c-a)*v + (a-b-c+d)*u*v
}

func lattice(i, k, seed int) float64 {
	h := uint32(i)*0x9e3779b1 ^ uint32(k)*0x85ebca77 ^ uint32(seed)*0xc2b2ae3d
	h ^= h >> 15
	h *= 0x2c1b3c6d
	h ^= h >> 12
	h *= 0x297a2d39
	h ^= h >> 15
	return float64(h)/float64(math.MaxUint32)*2 - 1
}

// hills is four octaves of noise.
func hills(x, z float64, seed int) float64 {
	sum, amp := 0.0, 0.5
	for o := range 4 {
		sum += amp * Noise(x, z, seed+o)
		x, z, amp = x*2.03+17, z*2.03-9, amp/2
	}
	return sum
}

func formatFloat(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
