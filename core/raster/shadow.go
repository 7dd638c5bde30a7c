package raster

import (
	"math"

	"proscen/core/geom"
)

// shadowMap is the depth of the scene seen from the sun: 0 at the near side of
// the shadow box, 1 at its far side and where nothing is. Seen from a lamp it is 0 where
// things begin to cast a shadow, and 1 endlessly far away.
//
// What stands still is drawn once into still and copied from there. The map holds the
// least depth of all draws, in whatever order, so this changes no picture: what comes to
// rest is drawn over what is there, and where something begins to move, only the bands
// that it lay in are drawn anew.
type shadowMap struct {
	size   int
	back   bool    // only what is turned away from the sun casts shadow
	near   float64 // metres from a lamp within which nothing casts any, 0 for the sun
	reach  float64 // and those that its light reaches
	depth  []float32
	still  []float32
	toMap  geom.Mat4
	moment int            // when it was drawn, 0 for never
	fixed  []bool         // for each draw, whether still holds it
	wait   []int          // and for how many frames more it must stand before it does
	stale  []bool         // for each band, whether still is drawn anew there
	held   []int          // the draws that are in still,
	joined []int          // those of them that have just come to rest,
	free   []int          // and those that are drawn in each frame
	corner [][][3]float32 // for each draw to be drawn, its vertices in map pixels, or the corners
	loose  []bool         // of its triangles, if some had to be clipped
	rows   [][2]int       // for each draw, the rows that it may touch
	cols   [][2]int       // and the columns

	// The map in cells: the least and the greatest depth of each, whether what moves has
	// been drawn there, and whether that is or was so in the frame before.
	cells            int // on a side
	lo, hi           []float32
	moving, changing []bool
}

// shadows draws the maps of all that casts shadows in the picture.
func (r *Renderer) shadows(in *Input, s *shader) {
	sun := in.Look.ShadowPx > 0 && in.Look.Sun != [3]float64{}
	var casting []*lamp
	for i := range s.lamps {
		if l := &s.lamps[i]; l.of.Shadow > 0 && in.View.reaches(l.of) {
			casting = append(casting, l)
		}
	}
	if !sun && len(casting) == 0 {
		return
	}
	r.compare(in.Draws)
	if sun {
		half := float64(in.Look.ShadowPx) / 2
		toMap := geom.Mat4{half, 0, 0, half, 0, -half, 0, half, 0, 0, 1, 0, 0, 0, 0, 1}
		toMap = toMap.Mul(&in.Look.Shadow)
		r.shadow.render(r, in.Draws, &toMap, in.Look.ShadowPx, in.Look.ShadowBack)
		s.shadowed(&in.Look, &r.shadow)
	}
	for len(r.shades) < len(casting) {
		r.shades = append(r.shades, &shade{})
	}
	for i, l := range casting {
		r.shades[i].render(r, in, l.of)
		l.shade, l.slot = r.shades[i], i
	}
}

// bandRows is what the threads of the shadow stage take at a time, a whole number of
// cells; cell is the side of those in pixels.
const (
	bandRows = 64
	cell     = 4
)

// render draws the map of a light: toMap takes the world to its pixels and depths.
func (m *shadowMap) render(r *Renderer, draws []Draw, toMap *geom.Mat4, size int, back bool) {
	if m.size != size || m.back != back {
		m.back = back
		m.size, m.depth, m.still = size, make([]float32, size*size), make([]float32, size*size)
		m.cells = (size + cell - 1) / cell
		n := m.cells * m.cells
		m.lo, m.hi, m.moving, m.changing = make([]float32, n), make([]float32, n), make([]bool, n), make([]bool, n)
		m.moment = 0
	}
	for len(m.corner) < len(draws) {
		m.corner, m.loose = append(m.corner, nil), append(m.loose, false)
		m.rows, m.cols = append(m.rows, [2]int{}), append(m.cols, [2]int{})
	}
	m.settle(r, toMap)
	r.parallel(len(m.free), func(w, i int) { m.project(m.free[i], &draws[m.free[i]], &r.scratch[w].clipper) })
	r.parallel(len(m.stale), func(w, band int) {
		clip := &r.scratch[w].clipper
		y0, y1 := band*bandRows, min(size, (band+1)*bandRows)
		anew := m.stale[band]
		if anew {
			fillDepth(m.still[y0*size:y1*size], 1)
			m.band(m.still, draws, m.held, y0, y1, clip)
			copy(m.depth[y0*size:y1*size], m.still[y0*size:y1*size])
		} else {
			m.band(m.still, draws, m.joined, y0, y1, clip)
		}
		for cy := y0 / cell; cy*cell < y1; cy++ {
			m.restore(cy, anew)
		}
		m.mark(y0, y1)
		m.band(m.depth, draws, m.free, y0, y1, clip)
		for cy := y0 / cell; cy*cell < y1; cy++ {
			m.sum(cy)
		}
	})
}

func fillDepth(row []float32, v float32) {
	for i := range row {
		row[i] = v
	}
}

// restore takes what moved in the last frame out of a row of cells.
func (m *shadowMap) restore(cy int, anew bool) {
	moving, changing := m.moving[cy*m.cells:(cy+1)*m.cells], m.changing[cy*m.cells:(cy+1)*m.cells]
	for cx, moved := range moving {
		changing[cx] = moved || anew
		if !moved || anew {
			continue
		}
		for y := cy * cell; y < min(m.size, (cy+1)*cell); y++ {
			from, to := y*m.size+cx*cell, y*m.size+min(m.size, (cx+1)*cell)
			copy(m.depth[from:to], m.still[from:to])
		}
	}
	clear(moving)
}

// mark notes the cells between two rows of pixels in which something moves.
func (m *shadowMap) mark(y0, y1 int) {
	for _, i := range m.free {
		if !m.within(i, y0, y1) {
			continue
		}
		for cy := max(y0, m.rows[i][0]) / cell; cy <= min(y1-1, m.rows[i][1])/cell; cy++ {
			for cx := max(0, m.cols[i][0]/cell); cx <= min(m.cells-1, m.cols[i][1]/cell); cx++ {
				m.moving[cy*m.cells+cx], m.changing[cy*m.cells+cx] = true, true
			}
		}
	}
}

// sum finds the least and greatest depths in a row of cells, where they may have changed.
func (m *shadowMap) sum(cy int) {
	for cx := range m.cells {
		at := cy*m.cells + cx
		if !m.changing[at] {
			continue
		}
		lo, hi := float32(1), float32(0)
		for y := cy * cell; y < min(m.size, (cy+1)*cell); y++ {
			for _, d := range m.depth[y*m.size+cx*cell : y*m.size+min(m.size, (cx+1)*cell)] {
				lo, hi = min(lo, d), max(hi, d)
			}
		}
		m.lo[at], m.hi[at] = lo, hi
	}
}

// lie tells what a box of the map's pixels and depths is in, if it can be told quickly:
// 1 the sun, 0 its shadow, less if that is not so everywhere.
func (m *shadowMap) lie(x0, x1, y0, y1, z0, z1 float32) float32 {
	const widest = 24
	if !(x0 >= 1 && y0 >= 1 && x1 < float32(m.size-2) && y1 < float32(m.size-2) && z1 <= 1 && x1-x0 < widest && y1-y0 < widest) {
		return -1
	}
	lit, dark := true, true
	for cy := (int(y0) - 1) / cell; cy <= (int(y1)+2)/cell; cy++ {
		for cx := (int(x0) - 1) / cell; cx <= (int(x1)+2)/cell; cx++ {
			lit = lit && m.lo[cy*m.cells+cx] > z1
			dark = dark && m.hi[cy*m.cells+cx] <= z0
		}
		if !lit && !dark {
			return -1
		}
	}
	return share(lit)
}

// patience is for how many frames what has moved must stand before it counts as still:
// what stops and goes on again costs more than what is drawn in each frame.
const patience = 12

// compare finds out which draws are as they were when shadows were drawn the last time.
func (r *Renderer) compare(draws []Draw) {
	same := len(r.before) == len(draws)
	r.stays = grown(r.stays, len(draws))
	for i := range draws {
		r.stays[i] = same && draws[i].stays(r.before[i])
	}
	r.before = append(r.before[:0], draws...)
	r.moment++
}

// settle finds out what stands still, and where still is not what it was.
func (m *shadowMap) settle(r *Renderer, toMap *geom.Mat4) {
	same := m.moment > 0 && m.moment == r.moment-1 && m.toMap == *toMap && len(m.fixed) == len(r.stays) && m.mostly(r.stays)
	m.stale = grown(m.stale, (m.size+bandRows-1)/bandRows)
	for band := range m.stale {
		m.stale[band] = !same
	}
	if !same {
		m.fixed, m.wait = grown(m.fixed, len(r.stays)), grown(m.wait, len(r.stays))
		clear(m.fixed)
		clear(m.wait)
	}
	m.held, m.joined, m.free = m.held[:0], m.joined[:0], m.free[:0]
	for i, stays := range r.stays {
		switch stays = stays && same; {
		case stays && !m.fixed[i] && m.wait[i] > 0:
			m.wait[i]--
		case stays && !m.fixed[i]:
			m.fixed[i] = true // where it is in the map is known from the last frame
			m.joined = append(m.joined, i)
		case same && !stays:
			m.leave(i)
		}
		if m.fixed[i] {
			m.held = append(m.held, i)
		} else {
			m.free = append(m.free, i)
		}
	}
	m.toMap, m.moment = *toMap, r.moment
}

// mostly tells whether more than half of what stands still still does: otherwise the draws
// are other ones.
func (m *shadowMap) mostly(stays []bool) bool {
	gone := 0
	for _, i := range m.held {
		if !stays[i] {
			gone++
		}
	}
	return 2*gone <= len(m.held)
}

// leave notes that a draw moves, and takes it out of still.
func (m *shadowMap) leave(i int) {
	m.wait[i] = patience
	if !m.fixed[i] {
		return
	}
	m.fixed[i] = false
	for band := range m.stale {
		m.stale[band] = m.stale[band] || m.within(i, band*bandRows, (band+1)*bandRows)
	}
}

// within tells whether a draw may touch some rows.
func (m *shadowMap) within(i, y0, y1 int) bool {
	return len(m.corner[i]) > 0 && m.rows[i][0] < y1 && m.rows[i][1] >= y0
}

// band draws some draws into some rows of a map.
func (m *shadowMap) band(depth []float32, draws []Draw, which []int, y0, y1 int, clip *clipper) {
	for _, i := range which {
		if !m.within(i, y0, y1) {
			continue
		}
		c, mesh := m.corner[i], draws[i].Mesh
		idx := mesh.Indices
		switch {
		case mesh.Clear():
			m.holed(depth, &draws[i], y0, y1, clip)
		case m.loose[i]:
			for k := 0; k+2 < len(c); k += 3 {
				m.triangle(depth, &c[k], &c[k+1], &c[k+2], y0, y1, nil)
			}
		default:
			for k := 0; k+2 < len(idx); k += 3 {
				m.triangle(depth, &c[idx[k]], &c[idx[k+1]], &c[idx[k+2]], y0, y1, nil)
			}
		}
	}
}

// holed draws a mesh that is not opaque everywhere into some rows: what is not there casts
// no shadow, and neither does what lets more than half of the light through.
func (m *shadowMap) holed(depth []float32, d *Draw, y0, y1 int, clip *clipper) {
	var p placed
	p.set(&d.World, &m.toMap)
	deep := p.depths()
	least := d.Mesh.Sheer.Casts()
	for k := uint32(0); int(k)+2 < len(d.Mesh.Indices); k += 3 {
		c := p.corners(d.Mesh, k)
		o := newOpacity(d.Mesh, k, &c)
		there := func(x, y float32) bool { return o.at(x, y) >= least }
		if m.near > 0 {
			m.cut(&c, clip, func(a, b, c [3]float32) { m.triangle(depth, &a, &b, &c, y0, y1, there) })
			continue
		}
		var on [3][3]float32
		for i, v := range d.Mesh.Indices[k : k+3] {
			on[i] = [3]float32{c[i].x, c[i].y, deep.at(d.Mesh.Positions[3*v : 3*v+3])}
		}
		m.triangle(depth, &on[0], &on[1], &on[2], y0, y1, there)
	}
}

// project transforms the vertices of a draw into map pixels, or none when the
// draw lies outside the map.
func (m *shadowMap) project(i int, d *Draw, clip *clipper) {
	var p placed
	p.set(&d.World, &m.toMap)
	m.corner[i], m.loose[i] = m.corner[i][:0], false
	if d.NoShadow {
		return
	}
	if m.near > 0 {
		m.seen(i, d, &p, clip)
		return
	}
	b := d.Mesh.Bounds.Transform(&p.toPicture)
	size := float64(m.size)
	if b.Max.X < 0 || b.Max.Y < 0 || b.Min.X > size || b.Min.Y > size || b.Min.Z > 1 || b.Max.Z < 0 {
		return
	}
	m.rows[i] = [2]int{int(b.Min.Y) - 1, int(b.Max.Y) + 1}
	m.cols[i] = [2]int{int(b.Min.X) - 1, int(b.Max.X) + 1}
	pos, c, deep := d.Mesh.Positions, m.corner[i], p.depths()
	for k := 0; k+2 < len(pos); k += 3 {
		v := p.at(pos[k], pos[k+1], pos[k+2])
		c = append(c, [3]float32{v.x, v.y, deep.at(pos[k : k+3])})
	}
	m.corner[i] = c
}

// depths tells how deep places on a mesh lie in the sun's map.
type depths [4]float32

func (p *placed) depths() depths {
	m := &p.toPicture
	return depths{float32(m[8]), float32(m[9]), float32(m[10]), float32(m[11])}
}

func (d *depths) at(v []float32) float32 { return d[0]*v[0] + d[1]*v[1] + d[2]*v[2] + d[3] }

// triangle draws depth between two rows. Both sides of a triangle cast a shadow, if not
// only those are wanted that are turned away from the sun; what is there says which of its
// pixels do, unless it is nil.
func (m *shadowMap) triangle(depth []float32, a, b, c *[3]float32, rowLo, rowHi int, there func(x, y float32) bool) {
	minY, maxY := min(a[1], b[1], c[1]), max(a[1], b[1], c[1])
	if maxY < float32(rowLo) || minY > float32(rowHi) {
		return
	}
	minX, maxX := min(a[0], b[0], c[0]), max(a[0], b[0], c[0])
	if maxX < 0 || minX > float32(m.size) {
		return
	}
	area := (b[0]-a[0])*(c[1]-a[1]) - (c[0]-a[0])*(b[1]-a[1])
	if area == 0 || area < 0 && m.back {
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
			if z < row[i] && (there == nil || there(float32(x0+i)+0.5, py)) {
				row[i] = max(0, z)
			}
			z += zx
		}
	}
}

// lit returns the share of the sun that reaches a place on a surface, which is seen at a
// depth in a pixel, and moved in the map by what its normal says.
func (s *shader) lit(depth, px, py float32, moved *[3]float32) float32 {
	c := &s.cast
	x := c.eye[0] + (c.ray0[0]+c.rayX[0]*px+c.rayY[0]*py)*depth + moved[0]
	y := c.eye[1] + (c.ray0[1]+c.rayX[1]*px+c.rayY[1]*py)*depth + moved[1]
	z := c.eye[2] + (c.ray0[2]+c.rayX[2]*px+c.rayY[2]*py)*depth + moved[2]
	return s.shadow.reaches(x, y, z, c.sharp)
}

// reaches returns the share of the sun that reaches a place of the map. Around it 4x4
// pixels of the map are compared, and weighted by how much of each lies within one and a
// half of the place, or 2x2 if edges are sharp; when the middle and the corners say the
// same, the others are not asked. Outside the map everything is lit.
func (m *shadowMap) reaches(x, y, z float32, sharp bool) float32 {
	if m.beside(x, y, z) {
		return 1
	}
	ix, iy := int(x), int(y)
	at := iy*m.size + ix
	u, v := x-float32(ix), y-float32(iy)
	row1, row2 := m.depth[at-1:at+3:at+3], m.depth[at+m.size-1:at+m.size+3:at+m.size+3]
	a, b, e, d := row1[1] > z, row1[2] > z, row2[1] > z, row2[2] > z
	same := a == b && a == e && a == d
	if sharp {
		if same {
			return share(a)
		}
		return (share(a)*(1-u)+share(b)*u)*(1-v) + (share(e)*(1-u)+share(d)*u)*v
	}
	row0, row3 := m.depth[at-m.size-1:at-m.size+3:at-m.size+3], m.depth[at+2*m.size-1:at+2*m.size+3:at+2*m.size+3]
	if same && row0[0] > z == a && row0[3] > z == a && row3[0] > z == a && row3[3] > z == a {
		return share(a)
	}
	across := func(row []float32) float32 {
		return share(row[0] > z)*(1-u) + share(row[1] > z) + share(row[2] > z) + share(row[3] > z)*u
	}
	return (across(row0)*(1-v) + across(row1) + across(row2) + across(row3)*v) / 9
}

// beside tells whether a place is outside of the map, or no place at all.
func (m *shadowMap) beside(x, y, z float32) bool {
	end := float32(m.size - 2)
	return !(x >= 1 && y >= 1 && z <= 1 && x < end && y < end)
}

func share(lit bool) float32 {
	if lit {
		return 1
	}
	return 0
}

// shadowSlack is the depth by which a surface may lie behind the map and still be lit, as a
// share of the depth of the shadow box; shadowLeast and shadowSlope are the pixels of the
// map by which it is moved along its normal where the sun meets it straight, and those on
// top, times the sine of the angle to the sun.
const (
	shadowSlack = 0.0003
	shadowLeast = 0.5
	shadowSlope = 2.2
)
