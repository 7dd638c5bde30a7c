package raster

import (
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
	small      bool   // it is not wider or higher than a block
	draw       uint32 // of the frame's draws
	index      uint32 // of its first corner in the mesh's indices
}

// placed is a draw in front of the camera.
type placed struct {
	toPicture geom.Mat4   // from the mesh to (x·w, y·w, ·, w)
	rows      [12]float32 // the same for x·w, y·w and w
	turn      [9]float32  // what the world matrix does to directions
}

func (p *placed) set(world, project *geom.Mat4) {
	p.toPicture = project.Mul(world)
	m := &p.toPicture
	for i := range 3 {
		p.turn[i], p.turn[3+i], p.turn[6+i] = float32(world[i]), float32(world[4+i]), float32(world[8+i])
	}
	for i := range 4 {
		p.rows[i], p.rows[4+i], p.rows[8+i] = float32(m[i]), float32(m[4+i]), float32(m[12+i])
	}
}

// corner returns a vertex of the draw's mesh.
func (p *placed) corner(m *kit.Mesh, v uint32) corner {
	at := m.Positions[3*v : 3*v+3 : 3*v+3]
	return p.at(at[0], at[1], at[2])
}

// at returns a place on the mesh.
func (p *placed) at(x, y, z float32) corner {
	f := &p.rows
	return corner{
		f[0]*x + f[1]*y + f[2]*z + f[3],
		f[4]*x + f[5]*y + f[6]*z + f[7],
		f[8]*x + f[9]*y + f[10]*z + f[11],
	}
}

// normal turns a normal into the world; uniform scale leaves its direction.
func (p *placed) normal(n *[3]float32) [3]float32 {
	w := &p.turn
	return unit([3]float32{w[0]*n[0] + w[1]*n[1] + w[2]*n[2], w[3]*n[0] + w[4]*n[1] + w[5]*n[2], w[6]*n[0] + w[7]*n[1] + w[8]*n[2]})
}

// corners returns those of a triangle, of which one number says where its indices begin.
func (p *placed) corners(m *kit.Mesh, first uint32) (out [3]corner) {
	for i, v := range m.Indices[first : first+3] {
		out[i] = p.corner(m, v)
	}
	return out
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
	if !(v.w < endless) {
		return codeGuard
	}
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
			if !(inside(v, plane, nearClip, w, h) >= 0) {
				return out | codeGuard
			}
		}
	}
	return out
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

func inside(v *corner, plane int, near, width, height float32) float32 {
	gx, gy := width*guard/2, height*guard/2
	switch plane {
	case 0:
		return v.w - near
	case 1:
		return v.x + gx*v.w
	case 2:
		return (gx+width)*v.w - v.x
	case 3:
		return v.y + gy*v.w
	}
	return (gy+height)*v.w - v.y
}

// clipper cuts triangles by the near plane and the guard band (Sutherland and Hodgman, 1974).
type clipper struct{ poly [2][]corner }

// cut returns what is left of a triangle, as the corners of a polygon; fewer than three
// are nothing. They are good until the next cut.
func (c *clipper) cut(corners *[3]corner, near, width, height float32) []corner {
	poly := append(c.poly[0][:0], corners[:]...)
	other := c.poly[1][:0]
	for plane := range clipPlanes {
		other = other[:0]
		for i := range poly {
			p, q := &poly[i], &poly[(i+1)%len(poly)]
			dp, dq := inside(p, plane, near, width, height), inside(q, plane, near, width, height)
			if dp >= 0 {
				other = append(other, *p)
			}
			if (dp >= 0) != (dq >= 0) {
				t := dp / (dp - dq)
				other = append(other, corner{p.x + (q.x-p.x)*t, p.y + (q.y-p.y)*t, max(near, p.w+(q.w-p.w)*t)})
			}
		}
		poly, other = other, poly
		if len(poly) < 3 {
			break
		}
	}
	c.poly[0], c.poly[1] = poly[:0], other[:0]
	return poly
}

// clip sets up what is left of a triangle that has to be cut, as a fan.
func (c *builder) clip(corners [3]corner, draw, index uint32) {
	r := c.r
	poly := c.cut(&corners, nearClip, float32(r.width), float32(r.height))
	for i := 2; i < len(poly); i++ {
		if v := poly[0].x + poly[0].y + poly[i-1].x + poly[i-1].y + poly[i].x + poly[i].y; v-v != 0 {
			continue // not a number
		}
		c.setup(r.guarded(&poly[0]), r.guarded(&poly[i-1]), r.guarded(&poly[i]), draw, index)
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

// setup drops a triangle when it is turned away or covers no sample.
func (c *builder) setup(a, b, e point, draw, index uint32) {
	area := int64(b.x-a.x)*int64(e.y-a.y) - int64(e.x-a.x)*int64(b.y-a.y)
	// In a picture with y down, what is counter-clockwise in space has a
	// negative area: swap it to run positive, drop what is turned away.
	if area >= 0 {
		return
	}
	minX, maxX := min(a.x, b.x, e.x), max(a.x, b.x, e.x)
	minY, maxY := min(a.y, b.y, e.y), max(a.y, b.y, e.y)
	// Samples lie on lines; between two of them nothing shows.
	g := &c.r.grid
	if g.between(minX, maxX) || g.between(minY, maxY) {
		return
	}
	x0, x1, y0, y1 := minX>>subBits, maxX>>subBits, minY>>subBits, maxY>>subBits
	if x1 < 0 || y1 < 0 || x0 >= int32(c.r.width) || y0 >= int32(c.r.height) {
		return
	}
	area = -area
	b, e = e, b
	c.triangles = append(c.triangles, triangle{
		x: [3]int32{a.x, b.x, e.x}, y: [3]int32{a.y, b.y, e.y},
		z: a.iw, near: greater(greater(a.iw, b.iw), e.iw), far: lesser(lesser(a.iw, b.iw), e.iw),
		minX: int16(max(0, x0)), maxX: int16(min(int32(c.r.width)-1, x1)),
		minY: int16(max(0, y0)), maxY: int16(min(int32(c.r.height)-1, y1)),
		small: maxX-minX < side*sub && maxY-minY < side*sub,
		draw:  draw, index: index,
	})
	t := &c.triangles[len(c.triangles)-1]
	// The plane of 1/w over the picture, in float64: slivers have steep slopes.
	inv := sub / float64(area)
	dx1, dy1, dz1 := float64(b.x-a.x), float64(b.y-a.y), float64(b.iw)-float64(a.iw)
	dx2, dy2, dz2 := float64(e.x-a.x), float64(e.y-a.y), float64(e.iw)-float64(a.iw)
	t.zx, t.zy = float32((dz1*dy2-dz2*dy1)*inv), float32((dz2*dx1-dz1*dx2)*inv)
	c.spans = append(c.spans, spanOf(int32(t.minX), int32(t.minY), int32(t.maxX), int32(t.maxY)))
}
