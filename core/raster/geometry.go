package raster

import (
	"math"
	"slices"

	"proscen/core/geom"
	"proscen/core/kit"
)

// corner is a transformed vertex: pixel position times depth, and depth.
type corner struct{ x, y, w float32 }

// point is a projected vertex: fixed-point pixel position and 1/depth.
type point struct {
	x, y int32
	iw   float32
}

// triangle is set up for rasterising. Depth is kept as 1/w, which is linear over the
// picture and larger in front.
type triangle struct {
	x, y       [3]int32 // fixed-point pixels
	z, zx, zy  float32  // 1/w at the first corner and its slopes per pixel
	near, far  float32  // largest and smallest 1/w of its corners
	minX, minY int16    // pixels that it may touch
	maxX, maxY int16
	draw       uint32 // of the frame's draws
	index      uint32 // of its first corner in the mesh's indices
}

// placed is a draw in front of the camera.
type placed struct {
	toPicture geom.Mat4 // from the mesh to (x·w, y·w, ·, w)
	none, all bool      // it is outside of the picture; nothing needs to be clipped
	nearest   float32   // least depth of its box
	corners   []corner  // its vertices, in the chunk that holds it
}

// binned is a triangle in a tile, with what tells that it is hidden there.
type binned struct {
	id             uint32  // in its chunk
	near           float32 // largest 1/w
	x0, x1, y0, y1 uint8   // pixels of the tile that it may touch
}

// chunk is a run of draws with its triangles and their tiles.
type chunk struct {
	corners   []corner
	points    []point // of the draw at hand
	codes     []uint8 // of the draw at hand, when it may have to be clipped
	triangles []triangle
	bins      [][]binned
	sheer     [][]binned // of what may let through what is behind it
	bin       [][]binned // of these two, those of the draw at hand
	poly      [2][]corner
	full      bool // it could not hold all triangles
}

// arrange places all draws in front of the camera and returns those that can be seen,
// the nearest first, so that what lies behind them is found hidden early.
func (r *Renderer) arrange(in *Input, project *geom.Mat4) []uint32 {
	r.placed = grown(r.placed, len(in.Draws))
	const run = 64
	r.parallel((len(in.Draws)+run-1)/run, func(_, at int) {
		for i := at * run; i < min(len(in.Draws), (at+1)*run); i++ {
			d, p := &in.Draws[i], &r.placed[i]
			p.toPicture = project.Mul(&d.World)
			p.classify(d.Mesh.Bounds, r.width, r.height)
		}
	})
	r.keys = r.keys[:0]
	for i := range r.placed {
		if p := &r.placed[i]; !p.none {
			r.keys = append(r.keys, uint64(math.Float32bits(max(0, p.nearest)))<<32|uint64(i))
		}
	}
	slices.Sort(r.keys)
	r.order = r.order[:0]
	for _, k := range r.keys {
		r.order = append(r.order, uint32(k))
	}
	return r.order
}

func (c *chunk) geometry(draws []Draw, order []uint32, r *Renderer) {
	c.corners, c.triangles, c.full = c.corners[:0], c.triangles[:0], false
	for i := range c.bins {
		c.bins[i], c.sheer[i] = c.bins[i][:0], c.sheer[i][:0]
	}
	vertices := 0
	for _, i := range order {
		vertices += len(draws[i].Mesh.Positions) / 3
	}
	// All at once, so that what has been placed stays where it is.
	c.corners = slices.Grow(c.corners, vertices)
	for _, i := range order {
		c.draw(draws[i].Mesh, i, &r.placed[i], r)
	}
}

func (c *chunk) draw(mesh *kit.Mesh, number uint32, p *placed, r *Renderer) {
	c.bin = c.bins
	if mesh.Clear() {
		c.bin = c.sheer
	}
	base := len(c.corners)
	c.transform(mesh, &p.toPicture)
	p.corners = c.corners[base:]
	c.points = grown(c.points, len(p.corners))
	for i := range p.corners {
		c.points[i] = project1(&p.corners[i])
	}
	idx, pts := mesh.Indices, c.points
	if p.all {
		for k := 0; k+2 < len(idx); k += 3 {
			c.setup(&pts[idx[k]], &pts[idx[k+1]], &pts[idx[k+2]], number, uint32(k), r)
		}
		return
	}
	c.codes = grown(c.codes, len(p.corners))
	w, h := float32(r.width), float32(r.height)
	for i := range p.corners {
		c.codes[i] = code(&p.corners[i], w, h)
	}
	for k := 0; k+2 < len(idx); k += 3 {
		a, b, e := idx[k], idx[k+1], idx[k+2]
		ca, cb, ce := c.codes[a], c.codes[b], c.codes[e]
		switch {
		case ca&cb&ce&^codeGuard != 0: // all beyond one side
		case (ca|cb|ce)&(codeNear|codeGuard) == 0:
			c.setup(&pts[a], &pts[b], &pts[e], number, uint32(k), r)
		default:
			c.clip(&p.corners[a], &p.corners[b], &p.corners[e], number, uint32(k), r)
		}
	}
}

// What a vertex is beyond. A triangle with all corners beyond one side is not seen; of
// the guard there is one bit for all sides. What is no number is beyond all.
const (
	codeNear  = 1 << iota // nearer than what can be shown
	codeLeft              // left of the picture, and so on
	codeRight             //
	codeAbove             //
	codeBelow             //
	codeGuard = 1 << 7    // so far beside the picture that its pixels cannot be counted
)

func code(v *corner, w, h float32) (out uint8) {
	if !(v.w >= nearClip) {
		out |= codeNear
	}
	if !(v.x >= 0) {
		out |= codeLeft
	}
	if !(v.x <= w*v.w) {
		out |= codeRight
	}
	if !(v.y >= 0) {
		out |= codeAbove
	}
	if !(v.y <= h*v.w) {
		out |= codeBelow
	}
	if out != 0 {
		for plane := 1; plane < clipPlanes; plane++ {
			if !(inside(v, plane, w, h) >= 0) {
				return out | codeGuard
			}
		}
	}
	return out
}

// classify tells whether a box is wholly in front of the near plane and inside
// the guard band (all), or outside the picture (none), and how near it is.
func (p *placed) classify(b geom.Box, width, height int) {
	m := &p.toPicture
	var outside [5]int
	p.all, p.none = true, false
	nearest := math.Inf(1)
	w0, h0 := float64(width), float64(height)
	gx, gy := w0*guard/2, h0*guard/2
	for i := range 8 {
		c := b.Corner(i)
		x := m[0]*c.X + m[1]*c.Y + m[2]*c.Z + m[3]
		y := m[4]*c.X + m[5]*c.Y + m[6]*c.Z + m[7]
		w := m[12]*c.X + m[13]*c.Y + m[14]*c.Z + m[15]
		nearest = min(nearest, w)
		for k, out := range [5]bool{w < nearClip, x < 0, x > w0*w, y < 0, y > h0*w} {
			if out {
				outside[k]++
			}
		}
		p.all = p.all && w >= nearClip && x > -gx*w && x < (gx+w0)*w && y > -gy*w && y < (gy+h0)*w
	}
	p.nearest = float32(nearest)
	for _, n := range outside {
		p.none = p.none || n == 8
	}
}

func (c *chunk) transform(mesh *kit.Mesh, m *geom.Mat4) {
	var f [12]float32
	for i := range 4 {
		f[i], f[4+i], f[8+i] = float32(m[i]), float32(m[4+i]), float32(m[12+i])
	}
	for pos := mesh.Positions; len(pos) >= 3; pos = pos[3:] {
		x, y, z := pos[0], pos[1], pos[2]
		c.corners = append(c.corners, corner{
			f[0]*x + f[1]*y + f[2]*z + f[3],
			f[4]*x + f[5]*y + f[6]*z + f[7],
			f[8]*x + f[9]*y + f[10]*z + f[11],
		})
	}
}

// project1 rounds a vertex to fixed-point pixels; what is behind the camera or beyond
// the guard gives what may not be used.
func project1(v *corner) point {
	iw := 1 / v.w
	// The offset makes it positive, where truncating is rounding down.
	const offset = 1 << 24
	return point{
		int32(float64(v.x*iw)*sub+(offset+0.5)) - offset,
		int32(float64(v.y*iw)*sub+(offset+0.5)) - offset,
		iw,
	}
}

// The planes that triangles are clipped by, as distances inside.
const clipPlanes = 5

func inside(v *corner, plane int, width, height float32) float32 {
	gx, gy := width*guard/2, height*guard/2
	switch plane {
	case 0:
		return v.w - nearClip
	case 1:
		return v.x + gx*v.w
	case 2:
		return (gx+width)*v.w - v.x
	case 3:
		return v.y + gy*v.w
	}
	return (gy+height)*v.w - v.y
}

// clip cuts a triangle by the near plane and the guard band (Sutherland and
// Hodgman, 1974) and sets up what is left as a fan.
func (c *chunk) clip(a, b, e *corner, draw, index uint32, r *Renderer) {
	w, h := float32(r.width), float32(r.height)
	poly := append(c.poly[0][:0], *a, *b, *e)
	other := c.poly[1][:0]
	for plane := range clipPlanes {
		other = other[:0]
		for i := range poly {
			p, q := &poly[i], &poly[(i+1)%len(poly)]
			dp, dq := inside(p, plane, w, h), inside(q, plane, w, h)
			if dp >= 0 {
				other = append(other, *p)
			}
			if (dp >= 0) != (dq >= 0) {
				t := dp / (dp - dq)
				other = append(other, corner{p.x + (q.x-p.x)*t, p.y + (q.y-p.y)*t, max(nearClip, p.w+(q.w-p.w)*t)})
			}
		}
		poly, other = other, poly
		if len(poly) < 3 {
			break
		}
	}
	c.poly[0], c.poly[1] = poly[:0], other[:0]
	for i := 2; i < len(poly); i++ {
		if v := poly[0].x + poly[0].y + poly[i-1].x + poly[i-1].y + poly[i].x + poly[i].y; v-v != 0 {
			continue // not a number
		}
		p, q, s := r.guarded(&poly[0]), r.guarded(&poly[i-1]), r.guarded(&poly[i])
		c.setup(&p, &q, &s, draw, index, r)
	}
}

// guarded projects a vertex that was cut to the guard band, which numbers of very
// different sizes miss.
func (r *Renderer) guarded(v *corner) point {
	p := project1(v)
	within := func(at int32, size int) int32 {
		return max(-int32(size*guard/2)*sub, min(int32(size*(guard/2+1))*sub, at))
	}
	p.x, p.y = within(p.x, r.width), within(p.y, r.height)
	return p
}

// setup drops a triangle when it is turned away or covers no sample, and sorts it into
// the tiles that it may touch.
func (c *chunk) setup(a, b, e *point, draw, index uint32, r *Renderer) {
	area := int64(b.x-a.x)*int64(e.y-a.y) - int64(e.x-a.x)*int64(b.y-a.y)
	// In a picture with y down, what is counter-clockwise in space has a
	// negative area: swap it to run positive, drop what is turned away.
	if area >= 0 {
		return
	}
	minX, maxX := min(a.x, b.x, e.x), max(a.x, b.x, e.x)
	minY, maxY := min(a.y, b.y, e.y), max(a.y, b.y, e.y)
	// Samples lie on lines; between two of them nothing shows.
	if r.grid.between(minX, maxX) || r.grid.between(minY, maxY) {
		return
	}
	x0, x1, y0, y1 := minX>>subBits, maxX>>subBits, minY>>subBits, maxY>>subBits
	if x1 < 0 || y1 < 0 || x0 >= int32(r.width) || y0 >= int32(r.height) {
		return
	}
	if len(c.triangles) == r.mostTriangles {
		c.full = true
		return
	}
	area = -area
	b, e = e, b
	id := uint32(len(c.triangles))
	c.triangles = append(c.triangles, triangle{
		x: [3]int32{a.x, b.x, e.x}, y: [3]int32{a.y, b.y, e.y},
		z: a.iw, near: greater(greater(a.iw, b.iw), e.iw), far: lesser(lesser(a.iw, b.iw), e.iw),
		minX: int16(max(0, x0)), maxX: int16(min(int32(r.width)-1, x1)),
		minY: int16(max(0, y0)), maxY: int16(min(int32(r.height)-1, y1)),
		draw: draw, index: index,
	})
	t := &c.triangles[id]
	// The plane of 1/w over the picture, in float64: slivers have steep slopes.
	inv := sub / float64(area)
	dx1, dy1, dz1 := float64(b.x-a.x), float64(b.y-a.y), float64(b.iw)-float64(a.iw)
	dx2, dy2, dz2 := float64(e.x-a.x), float64(e.y-a.y), float64(e.iw)-float64(a.iw)
	t.zx, t.zy = float32((dz1*dy2-dz2*dy1)*inv), float32((dz2*dx1-dz1*dx2)*inv)

	in := binned{id: id, near: t.near}
	for ty := t.minY / tile; ty <= t.maxY/tile; ty++ {
		in.y0, in.y1 = uint8(max(0, t.minY-ty*tile)), uint8(min(tile-1, t.maxY-ty*tile))
		for tx := t.minX / tile; tx <= t.maxX/tile; tx++ {
			in.x0, in.x1 = uint8(max(0, t.minX-tx*tile)), uint8(min(tile-1, t.maxX-tx*tile))
			bin := &c.bin[int(ty)*r.tilesX+int(tx)]
			*bin = append(*bin, in)
		}
	}
}
