package raster

import (
	"math"

	"proscen/core/geom"
	"proscen/core/kit"
)

// vertex is a transformed vertex: pixel position times depth, depth, normal in
// the world, colour, texture coordinates.
type vertex struct {
	x, y, w float32
	n       [3]float32
	c       [4]float32
	u, v    float32
}

// triangle is set up for rasterising. Pixel positions are fixed-point. Depth is
// kept as 1/w, which is linear over the picture and larger in front.
type triangle struct {
	x, y           [3]int32
	iw             [3]float32
	z0, zx, zy     float32 // 1/w at pixel (0, 0) and its slopes per pixel
	v              [3]uint32
	minX, minY     int16 // tiles
	maxX, maxY     int16
	flat           bool // one normal and one colour
	inverseOfTwice float32
	texture        *kit.Texture
	texels         float32 // on a side, that a pixel covers
}

// chunk is a run of draws with its triangles and their tiles.
type chunk struct {
	vertices  []vertex
	texture   *kit.Texture // of the draw at hand
	triangles []triangle
	bins      [][]uint32
	poly      [2][]vertex
	full      bool // it could not hold all triangles
}

func (c *chunk) geometry(draws []Draw, project *geom.Mat4, r *Renderer) {
	c.vertices, c.triangles, c.full = c.vertices[:0], c.triangles[:0], false
	for i := range c.bins {
		c.bins[i] = c.bins[i][:0]
	}
	for i := range draws {
		c.draw(&draws[i], project, r)
	}
}

func (c *chunk) draw(d *Draw, project *geom.Mat4, r *Renderer) {
	m := project.Mul(&d.World)
	all, none := classify(d.Mesh.Bounds, &m, r.width, r.height)
	if none {
		return
	}
	base := uint32(len(c.vertices))
	c.transform(d.Mesh, &m, &d.World)
	c.texture = nil
	if len(d.Mesh.UVs)/2 == len(d.Mesh.Positions)/3 {
		c.texture = d.Mesh.Texture
		for i := range d.Mesh.UVs {
			if v := &c.vertices[base+uint32(i/2)]; i%2 == 0 {
				v.u = d.Mesh.UVs[i]
			} else {
				v.v = d.Mesh.UVs[i]
			}
		}
	}
	idx := d.Mesh.Indices
	for k := 0; k+2 < len(idx); k += 3 {
		a, b, e := base+idx[k], base+idx[k+1], base+idx[k+2]
		if all {
			c.setup(a, b, e, r)
		} else {
			c.clip(a, b, e, r)
		}
	}
}

// classify tells whether a box is wholly in front of the near plane and inside
// the guard band (all), or outside the picture (none).
func classify(b geom.Box, m *geom.Mat4, width, height int) (all, none bool) {
	var outside [5]int
	all = true
	gx, gy := float64(width)*guard/2, float64(height)*guard/2
	for i := range 8 {
		p := b.Corner(i)
		x := m[0]*p.X + m[1]*p.Y + m[2]*p.Z + m[3]
		y := m[4]*p.X + m[5]*p.Y + m[6]*p.Z + m[7]
		w := m[12]*p.X + m[13]*p.Y + m[14]*p.Z + m[15]
		for k, out := range [5]bool{w < nearClip, x < 0, x > float64(width)*w, y < 0, y > float64(height)*w} {
			if out {
				outside[k]++
			}
		}
		all = all && w >= nearClip && x > -gx*w && x < (gx+float64(width))*w && y > -gy*w && y < (gy+float64(height))*w
	}
	for _, n := range outside {
		none = none || n == 8
	}
	return all, none
}

func (c *chunk) transform(mesh *kit.Mesh, m, world *geom.Mat4) {
	var f [12]float32
	for i := range 4 {
		f[i], f[4+i], f[8+i] = float32(m[i]), float32(m[4+i]), float32(m[12+i])
	}
	// Normals turn with the world matrix; uniform scale leaves their direction.
	s := 1 / math.Sqrt(world[0]*world[0]+world[4]*world[4]+world[8]*world[8])
	var g [9]float32
	for row := range 3 {
		for col := range 3 {
			g[row*3+col] = float32(world[row*4+col] * s)
		}
	}
	pos, nrm, col := mesh.Positions, mesh.Normals, mesh.Colors
	for i, k := 0, 0; i+2 < len(pos); i, k = i+3, k+4 {
		x, y, z := pos[i], pos[i+1], pos[i+2]
		nx, ny, nz := nrm[i], nrm[i+1], nrm[i+2]
		c.vertices = append(c.vertices, vertex{
			x: f[0]*x + f[1]*y + f[2]*z + f[3],
			y: f[4]*x + f[5]*y + f[6]*z + f[7],
			w: f[8]*x + f[9]*y + f[10]*z + f[11],
			n: [3]float32{g[0]*nx + g[1]*ny + g[2]*nz, g[3]*nx + g[4]*ny + g[5]*nz, g[6]*nx + g[7]*ny + g[8]*nz},
			c: [4]float32{col[k], col[k+1], col[k+2], col[k+3]},
		})
	}
}

// The planes that triangles are clipped by, as distances inside.
const clipPlanes = 5

func inside(v *vertex, plane int, width, height float32) float32 {
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
func (c *chunk) clip(a, b, e uint32, r *Renderer) {
	w, h := float32(r.width), float32(r.height)
	poly := append(c.poly[0][:0], c.vertices[a], c.vertices[b], c.vertices[e])
	other := c.poly[1][:0]
	cut := false
	for plane := range clipPlanes {
		other = other[:0]
		clipped := false
		for i := range poly {
			p, q := &poly[i], &poly[(i+1)%len(poly)]
			dp, dq := inside(p, plane, w, h), inside(q, plane, w, h)
			if dp >= 0 {
				other = append(other, *p)
			} else {
				clipped = true
			}
			if (dp >= 0) != (dq >= 0) {
				other = append(other, between(p, q, dp/(dp-dq)))
			}
		}
		if clipped {
			cut = true
			poly, other = other, poly
			if len(poly) < 3 {
				break
			}
		}
	}
	c.poly[0], c.poly[1] = poly[:0], other[:0]
	if !cut {
		c.setup(a, b, e, r)
		return
	}
	if len(poly) < 3 {
		return
	}
	base := uint32(len(c.vertices))
	c.vertices = append(c.vertices, poly...)
	for i := uint32(2); i < uint32(len(poly)); i++ {
		c.setup(base, base+i-1, base+i, r)
	}
}

func between(p, q *vertex, t float32) vertex {
	mix := func(a, b float32) float32 { return a + (b-a)*t }
	v := vertex{x: mix(p.x, q.x), y: mix(p.y, q.y), w: max(nearClip, mix(p.w, q.w))}
	for i := range v.n {
		v.n[i] = mix(p.n[i], q.n[i])
	}
	for i := range v.c {
		v.c[i] = mix(p.c[i], q.c[i])
	}
	v.u, v.v = mix(p.u, q.u), mix(p.v, q.v)
	return v
}

// setup projects a triangle, drops it when it is turned away or covers no
// sample's tile, and sorts it into the tiles that it may touch.
func (c *chunk) setup(a, b, e uint32, r *Renderer) {
	t := triangle{v: [3]uint32{a, b, e}}
	var fx, fy [3]float32
	for i, k := range t.v {
		v := &c.vertices[k]
		t.iw[i] = 1 / v.w
		fx[i], fy[i] = v.x*t.iw[i], v.y*t.iw[i]
		t.x[i], t.y[i] = int32(math.Floor(float64(fx[i]*sub+0.5))), int32(math.Floor(float64(fy[i]*sub+0.5)))
	}
	area := int64(t.x[1]-t.x[0])*int64(t.y[2]-t.y[0]) - int64(t.x[2]-t.x[0])*int64(t.y[1]-t.y[0])
	// In a picture with y down, what is counter-clockwise in space has a
	// negative area: swap it to run positive, drop what is turned away.
	if area >= 0 {
		return
	}
	area = -area
	t.v[1], t.v[2] = t.v[2], t.v[1]
	t.x[1], t.x[2] = t.x[2], t.x[1]
	t.y[1], t.y[2] = t.y[2], t.y[1]
	t.iw[1], t.iw[2] = t.iw[2], t.iw[1]

	x0, x1 := min(t.x[0], t.x[1], t.x[2])>>subBits, max(t.x[0], t.x[1], t.x[2])>>subBits
	y0, y1 := min(t.y[0], t.y[1], t.y[2])>>subBits, max(t.y[0], t.y[1], t.y[2])>>subBits
	if x1 < 0 || y1 < 0 || x0 >= int32(r.width) || y0 >= int32(r.height) {
		return
	}
	t.minX, t.maxX = int16(max(0, x0)), int16(min(int32(r.width)-1, x1))
	t.minY, t.maxY = int16(max(0, y0)), int16(min(int32(r.height)-1, y1))

	// The plane of 1/w over the picture, in float64: slivers have steep slopes.
	inv := 1 / float64(area)
	t.inverseOfTwice = float32(inv)
	dx1, dy1 := float64(t.x[1]-t.x[0]), float64(t.y[1]-t.y[0])
	dx2, dy2 := float64(t.x[2]-t.x[0]), float64(t.y[2]-t.y[0])
	dz1, dz2 := float64(t.iw[1]-t.iw[0]), float64(t.iw[2]-t.iw[0])
	zx := (dz1*dy2 - dz2*dy1) * inv * sub
	zy := (dz2*dx1 - dz1*dx2) * inv * sub
	t.zx, t.zy = float32(zx), float32(zy)
	t.z0 = float32(float64(t.iw[0]) - zx*float64(t.x[0])/sub - zy*float64(t.y[0])/sub)

	p, q, s := &c.vertices[t.v[0]], &c.vertices[t.v[1]], &c.vertices[t.v[2]]
	t.flat = p.n == q.n && p.n == s.n && p.c == q.c && p.c == s.c
	if t.texture = c.texture; t.texture != nil {
		t.flat = false
		// The root of the ratio of areas: on the texture against in the picture.
		on := float64((q.u-p.u)*(s.v-p.v)-(s.u-p.u)*(q.v-p.v)) * float64(t.texture.Width) * float64(t.texture.Height)
		t.texels = float32(math.Sqrt(math.Abs(on) * inv * sub * sub))
	}

	if len(c.triangles) == r.mostTriangles {
		c.full = true
		return
	}
	id := uint32(len(c.triangles))
	c.triangles = append(c.triangles, t)
	tx0, tx1 := int(t.minX)/tile, int(t.maxX)/tile
	for ty := int(t.minY) / tile; ty <= int(t.maxY)/tile; ty++ {
		for tx := tx0; tx <= tx1; tx++ {
			bin := ty*r.tilesX + tx
			c.bins[bin] = append(c.bins[bin], id)
		}
	}
}
