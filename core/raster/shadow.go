package raster

import (
	"math"

	"proscen/core/geom"
)

// shadowMap is the depth of the scene seen from the sun: 0 at the near side of
// the shadow box, 1 at its far side and where nothing is.
//
// What has not moved since the last frame is drawn once into still and copied
// from there. The map holds the least depth of all draws, in whatever order, so
// this changes no picture.
type shadowMap struct {
	size   int
	depth  []float32
	still  []float32
	toMap  geom.Mat4
	last   []Draw         // the draws of the last frame
	fixed  []bool         // for each draw, whether still holds it
	corner [][][3]float32 // for each draw to be drawn, its vertices in map pixels
	rows   [][2]int       // for each draw, the rows that it may touch
}

// bandRows is what the threads of the shadow stage take at a time.
const bandRows = 64

func (m *shadowMap) render(r *Renderer, in *Input) {
	size := in.Look.ShadowPx
	half := float64(size) / 2
	toMap := geom.Mat4{half, 0, 0, half, 0, -half, 0, half, 0, 0, 1, 0, 0, 0, 0, 1}
	toMap = toMap.Mul(&in.Look.Shadow)
	if m.size != size {
		m.size, m.depth, m.still = size, make([]float32, size*size), make([]float32, size*size)
		m.last = nil
	}
	for len(m.corner) < len(in.Draws) {
		m.corner = append(m.corner, nil)
		m.rows = append(m.rows, [2]int{})
	}
	m.settle(r, in.Draws, &toMap)
	r.parallel(len(in.Draws), func(_, i int) {
		if !m.fixed[i] {
			m.project(i, &in.Draws[i], &toMap)
		}
	})
	r.parallel((size+bandRows-1)/bandRows, func(_, band int) {
		y0, y1 := band*bandRows, min(size, (band+1)*bandRows)
		copy(m.depth[y0*size:y1*size], m.still[y0*size:y1*size])
		m.band(m.depth, in.Draws, y0, y1, false)
	})
}

// settle finds out what stands still and keeps the still map right.
func (m *shadowMap) settle(r *Renderer, draws []Draw, toMap *geom.Mat4) {
	same := m.toMap == *toMap && len(m.last) == len(draws)
	fresh := !same
	if same {
		moved := false
		for i := range draws {
			if m.fixed[i] && !draws[i].stays(m.last[i]) {
				moved = true
			}
			// Worth a new still map only when much more stands still than before.
			fresh = fresh || !m.fixed[i] && draws[i].stays(m.last[i]) && len(draws[i].Mesh.Indices) > 300
		}
		fresh = fresh || moved
	}
	if fresh {
		m.fixed = append(m.fixed[:0], make([]bool, len(draws))...)
		for i := range draws {
			m.fixed[i] = same && draws[i].stays(m.last[i])
		}
		r.parallel(len(draws), func(_, i int) {
			if m.fixed[i] {
				m.project(i, &draws[i], toMap)
			}
		})
		r.parallel((m.size+bandRows-1)/bandRows, func(_, band int) {
			y0, y1 := band*bandRows, min(m.size, (band+1)*bandRows)
			row := m.still[y0*m.size : y1*m.size]
			for i := range row {
				row[i] = 1
			}
			m.band(m.still, draws, y0, y1, true)
		})
	}
	m.toMap = *toMap
	m.last = append(m.last[:0], draws...)
}

// band draws into some rows of a map: the draws that are fixed, or the others.
func (m *shadowMap) band(depth []float32, draws []Draw, y0, y1 int, fixed bool) {
	for i := range draws {
		c := m.corner[i]
		if m.fixed[i] != fixed || len(c) == 0 || m.rows[i][0] >= y1 || m.rows[i][1] < y0 {
			continue
		}
		idx := draws[i].Mesh.Indices
		for k := 0; k+2 < len(idx); k += 3 {
			m.triangle(depth, &c[idx[k]], &c[idx[k+1]], &c[idx[k+2]], y0, y1)
		}
	}
}

// project transforms the vertices of a draw into map pixels, or none when the
// draw lies outside the map.
func (m *shadowMap) project(i int, d *Draw, toMap *geom.Mat4) {
	w := toMap.Mul(&d.World)
	c := m.corner[i][:0]
	b := d.Mesh.Bounds.Transform(&w)
	size := float64(m.size)
	if d.NoShadow || b.Max.X < 0 || b.Max.Y < 0 || b.Min.X > size || b.Min.Y > size || b.Min.Z > 1 || b.Max.Z < 0 {
		m.corner[i] = c
		return
	}
	m.rows[i] = [2]int{int(b.Min.Y) - 1, int(b.Max.Y) + 1}
	var f [12]float32
	for k := range f {
		f[k] = float32(w[k])
	}
	pos := d.Mesh.Positions
	for k := 0; k+2 < len(pos); k += 3 {
		x, y, z := pos[k], pos[k+1], pos[k+2]
		c = append(c, [3]float32{
			f[0]*x + f[1]*y + f[2]*z + f[3],
			f[4]*x + f[5]*y + f[6]*z + f[7],
			f[8]*x + f[9]*y + f[10]*z + f[11],
		})
	}
	m.corner[i] = c
}

// triangle draws depth between two rows. Both sides of a triangle cast a
// shadow.
func (m *shadowMap) triangle(depth []float32, a, b, c *[3]float32, rowLo, rowHi int) {
	minY, maxY := min(a[1], b[1], c[1]), max(a[1], b[1], c[1])
	if maxY < float32(rowLo) || minY > float32(rowHi) {
		return
	}
	minX, maxX := min(a[0], b[0], c[0]), max(a[0], b[0], c[0])
	if maxX < 0 || minX > float32(m.size) {
		return
	}
	area := (b[0]-a[0])*(c[1]-a[1]) - (c[0]-a[0])*(b[1]-a[1])
	if area == 0 {
		return
	}
	if area < 0 {
		b, c, area = c, b, -area
	}
	inv := 1 / area
	zx := ((b[2]-a[2])*(c[1]-a[1]) - (c[2]-a[2])*(b[1]-a[1])) * inv
	zy := ((c[2]-a[2])*(b[0]-a[0]) - (b[2]-a[2])*(c[0]-a[0])) * inv
	y0, y1 := max(rowLo, int(math.Ceil(float64(minY)-0.5))), min(rowHi-1, int(math.Floor(float64(maxY)-0.5)))
	for y := y0; y <= y1; y++ {
		py := float32(y) + 0.5
		// The part of the row inside all three edges.
		lo, hi := minX, maxX
		for _, e := range [3][2]*[3]float32{{a, b}, {b, c}, {c, a}} {
			p, q := e[0], e[1]
			dx, dy := q[0]-p[0], q[1]-p[1]
			// inside: dx·(y−py) − dy·(x−px) ≥ 0
			k := dx * (py - p[1])
			switch {
			case dy > 0:
				hi = min(hi, p[0]+k/dy)
			case dy < 0:
				lo = max(lo, p[0]+k/dy)
			case k < 0:
				hi = lo - 1
			}
		}
		x0, x1 := max(0, int(math.Ceil(float64(lo)-0.5))), min(m.size-1, int(math.Floor(float64(hi)-0.5)))
		if x0 > x1 {
			continue
		}
		z := a[2] + zx*(float32(x0)+0.5-a[0]) + zy*(py-a[1])
		row := depth[y*m.size+x0 : y*m.size+x1+1]
		for i := range row {
			if z < row[i] {
				row[i] = max(0, z)
			}
			z += zx
		}
	}
}

// lit returns the share of the sun that reaches a point, which the caller has
// moved along its normal by the bias: 2x2 comparisons, weighted by nearness.
// Outside the map everything is lit.
func (s *shader) lit(x0, y0, z0 float32) float32 {
	m := s.shadow
	f := &s.toShadow
	half := float32(m.size) / 2
	x := (f[0]*x0+f[1]*y0+f[2]*z0+f[3])*half + half - 0.5
	y := half - (f[4]*x0+f[5]*y0+f[6]*z0+f[7])*half - 0.5
	z := f[8]*x0 + f[9]*y0 + f[10]*z0 + f[11]
	if x < 0 || y < 0 || z > 1 || int(x) >= m.size-1 || int(y) >= m.size-1 {
		return 1
	}
	ix, iy := int(x), int(y)
	z -= shadowSlack
	at := iy*m.size + ix
	top, bottom := m.depth[at:at+2:at+2], m.depth[at+m.size:at+m.size+2:at+m.size+2]
	a, b, c, d := top[0] > z, top[1] > z, bottom[0] > z, bottom[1] > z
	if a == b && a == c && a == d {
		if a {
			return 1
		}
		return 0
	}
	u, v := x-float32(ix), y-float32(iy)
	return (share(a)*(1-u)+share(b)*u)*(1-v) + (share(c)*(1-u)+share(d)*u)*v
}

func share(lit bool) float32 {
	if lit {
		return 1
	}
	return 0
}

// shadowSlack is the depth by which a surface may lie behind the map and still
// be lit, as a share of the depth of the shadow box.
const shadowSlack = 0.0006
