package raster

import (
	"math"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Shadows of lamps. A lamp that shines into a cone has one map that looks along its axis;
// one that shines all around, or into a wide cone, has six that look along the axes of the
// world. Maps hold 1 − near/depth, which is linear over them.
const (
	// LampNear is how close to a lamp things cast no shadow, in metres: they are its glass
	// and its shade.
	LampNear = 0.3
	// LampShadow is the side in pixels of each of the six maps around a lamp. The only one
	// of a cone has twice that.
	LampShadow = 512

	lampMargin = 8     // pixels of a map on each side beyond what it is for
	lampSlack  = 0.004 // how far behind the map what is lit may lie, as a share of its depth
	widestCone = 0.5   // the cosine of half the widest cone that one map looks into
)

// Face is where a map of a lamp looks: unit vectors to its right, up, and along its way; the
// tangent of half its angle; and its side in pixels.
type Face struct {
	Right, Up, Way r3.Vec
	Tan            float64
	Px             int
}

// Faces returns the maps of a lamp that casts shadows: one, or six of which two look along
// each axis, first to where it grows.
func (l *Lamp) Faces() []Face {
	if l.Shadow <= 0 {
		return nil
	}
	beyond := func(px int) float64 { return float64(px) / float64(px-2*lampMargin) }
	if l.Inner > l.Outer && l.Outer >= widestCone {
		px := 2 * l.Shadow
		aside := r3.Vec{Y: 1}
		if math.Abs(l.Dir.Y) > 0.9 {
			aside = r3.Vec{X: 1}
		}
		right := r3.Unit(r3.Cross(l.Dir, aside))
		tan := math.Sqrt(1-l.Outer*l.Outer) / l.Outer
		return []Face{{right, r3.Cross(right, l.Dir), l.Dir, tan * beyond(px), px}}
	}
	axes := [3]r3.Vec{{X: 1}, {Y: 1}, {Z: 1}}
	out := make([]Face, 6)
	for i := range out {
		way := axes[i/2]
		if i%2 == 1 {
			way = r3.Scale(-1, way)
		}
		out[i] = Face{axes[(i/2+1)%3], axes[(i/2+2)%3], way, beyond(l.Shadow), l.Shadow}
	}
	return out
}

// Matrix takes the world, seen from a place, to (x·w, y·w, w − LampNear, w) with x and y
// from −1 to 1 over the map and w the depth along its way.
func (f *Face) Matrix(from r3.Vec) geom.Mat4 {
	row := func(v r3.Vec, by float64) [4]float64 {
		v = r3.Scale(by, v)
		return [4]float64{v.X, v.Y, v.Z, -r3.Dot(v, from)}
	}
	x, y, w := row(f.Right, 1/f.Tan), row(f.Up, 1/f.Tan), row(f.Way, 1)
	return geom.Mat4{x[0], x[1], x[2], x[3], y[0], y[1], y[2], y[3], w[0], w[1], w[2], w[3] - LampNear, w[0], w[1], w[2], w[3]}
}

// looksInto tells whether a map of a lamp may hold light off something in a view of which the
// sides are known: not all of the pyramid that it looks into, and a little more, is beyond one.
func (f *Face) looksInto(sides func(r3.Vec) [5]float64, l *Lamp) bool {
	const more = 1.02
	tip := r3.Add(l.At, r3.Scale(-0.1, f.Way))
	pyramid := [5]r3.Vec{tip}
	for k, aside := range [4][2]float64{{-1, -1}, {1, -1}, {-1, 1}, {1, 1}} {
		out := r3.Add(r3.Scale(aside[0]*f.Tan*more, f.Right), r3.Scale(aside[1]*f.Tan*more, f.Up))
		pyramid[k+1] = r3.Add(tip, r3.Scale(l.Reach*more+0.1, r3.Add(f.Way, out)))
	}
	return !beyondOne(sides, pyramid[:])
}

// shade is what holds a lamp's light off.
type shade struct {
	maps  []shadowMap
	faces []facing // of them
}

// facing is a Face as pixels need it.
type facing struct {
	right, up, way [3]float32
	scale          float32 // pixels for each unit of the tangent
	pixel          float32 // and the metres of one at a depth of one
	middle         float32 // of the map, in pixels from the middle of the first one
}

// render draws the maps that look at something in sight.
func (h *shade) render(r *Renderer, in *Input, l *Lamp) {
	faces := l.Faces()
	if len(h.maps) != len(faces) {
		h.maps, h.faces = make([]shadowMap, len(faces)), make([]facing, len(faces))
	}
	sides := in.View.sides(0)
	for i := range faces {
		f, m := &faces[i], &h.maps[i]
		half := float64(f.Px) / 2
		v3 := func(v r3.Vec) [3]float32 { return f3([3]float64{v.X, v.Y, v.Z}) }
		h.faces[i] = facing{v3(f.Right), v3(f.Up), v3(f.Way), float32(half / f.Tan), float32(f.Tan / half), float32(half - 0.5)}
		if !f.looksInto(sides, l) {
			continue
		}
		m.near, m.reach = LampNear, l.Reach
		toPixels := geom.Mat4{half, 0, 0, half, 0, half, 0, half, 0, 0, 1, 0, 0, 0, 0, 1}
		view := f.Matrix(l.At)
		toMap := toPixels.Mul(&view)
		m.render(r, in.Draws, &toMap, f.Px, false)
	}
}

// beyond tells with bits which sides of a lamp's map a place is beyond, the near one too; what
// is no number is beyond all.
func (m *shadowMap) beyond(x, y, w float64) uint8 {
	size := float64(m.size)
	return one(!(w >= m.near)) | one(!(x >= 0))<<1 | one(!(x <= size*w))<<2 | one(!(y >= 0))<<3 | one(!(y <= size*w))<<4
}

// guarded tells whether a place need not be cut.
func (m *shadowMap) guarded(x, y, w float64) bool {
	aside := float64(m.size) * guard / 2
	return w >= m.near && x >= -aside*w && y >= -aside*w && x <= (aside+float64(m.size))*w && y <= (aside+float64(m.size))*w
}

// seen is project for the map of a lamp.
func (m *shadowMap) seen(i int, d *Draw, p *placed, clip *clipper) {
	least, out, whole := math.Inf(1), ^uint8(0), true
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	t := &p.toPicture
	for k := range 8 {
		at := d.Mesh.Bounds.Corner(k)
		x, y, w := t[0]*at.X+t[1]*at.Y+t[2]*at.Z+t[3], t[4]*at.X+t[5]*at.Y+t[6]*at.Z+t[7], t[12]*at.X+t[13]*at.Y+t[14]*at.Z+t[15]
		least = min(least, w)
		out &= m.beyond(x, y, w)
		whole = whole && m.guarded(x, y, w)
		lo[0], hi[0], lo[1], hi[1] = min(lo[0], x/w), max(hi[0], x/w), min(lo[1], y/w), max(hi[1], y/w)
	}
	if out != 0 || least > m.reach {
		return
	}
	mesh, c := d.Mesh, m.corner[i]
	if whole {
		m.rows[i], m.cols[i] = [2]int{int(lo[1]) - 1, int(hi[1]) + 1}, [2]int{int(lo[0]) - 1, int(hi[0]) + 1}
		for k := 0; k+2 < len(mesh.Positions); k += 3 {
			v := p.at(mesh.Positions[k], mesh.Positions[k+1], mesh.Positions[k+2])
			c = append(c, m.onMap(&v))
		}
	} else {
		m.loose[i] = true
		for k := uint32(0); int(k)+2 < len(mesh.Indices); k += 3 {
			on := p.corners(mesh, k)
			m.cut(&on, clip, func(a, b, e [3]float32) { c = append(c, a, b, e) })
		}
		x0, y0, x1, y1 := float32(infinite), float32(infinite), float32(-infinite), float32(-infinite)
		for k := range c {
			x0, x1, y0, y1 = lesser(x0, c[k][0]), greater(x1, c[k][0]), lesser(y0, c[k][1]), greater(y1, c[k][1])
		}
		if len(c) > 0 {
			m.rows[i], m.cols[i] = [2]int{int(y0) - 1, int(y1) + 1}, [2]int{int(x0) - 1, int(x1) + 1}
		}
	}
	m.corner[i] = c
}

// cut calls each for what is left of a triangle on the map of a lamp.
func (m *shadowMap) cut(corners *[3]corner, clip *clipper, each func(a, b, c [3]float32)) {
	out, whole := ^uint8(0), true
	for i := range corners {
		x, y, w := float64(corners[i].x), float64(corners[i].y), float64(corners[i].w)
		out &= m.beyond(x, y, w)
		whole = whole && m.guarded(x, y, w)
	}
	if out != 0 {
		return
	}
	poly := corners[:]
	if !whole {
		poly = clip.cut(corners, float32(m.near), float32(m.size), float32(m.size))
	}
	for i := 2; i < len(poly); i++ {
		each(m.onMap(&poly[0]), m.onMap(&poly[i-1]), m.onMap(&poly[i]))
	}
}

// onMap returns where something lies on the map of a lamp, and how deep.
func (m *shadowMap) onMap(v *corner) [3]float32 {
	inverse := 1 / v.w
	return [3]float32{v.x * inverse, v.y * inverse, 1 - float32(m.near)*inverse}
}

// place returns where a place lies on the maps of a lamp, of which a surface with a normal is
// seen: which one, and where on it, moved as docs/shading.md says. What is too near to a lamp
// for shadows lies on none.
func (h *shade) place(n, toLamp *[3]float32) (m *shadowMap, x, y, z float32) {
	d := [3]float32{-toLamp[0], -toLamp[1], -toLamp[2]}
	i, at := h.toward(&d)
	f := &h.faces[i]
	way := f.turn(i, n, len(h.maps) > 1)
	by := at[2] * f.pixel * (shadowLeast + shadowSlope*sqrt(greater(0, 1-way[2]*way[2])))
	deep := at[2] + way[2]*by
	if !(deep > LampNear) {
		return nil, 0, 0, 0
	}
	k := f.scale / deep
	return &h.maps[i], (at[0]+way[0]*by)*k + f.middle, (at[1]+way[1]*by)*k + f.middle, 1 - LampNear/(deep*(1-lampSlack))
}

// toward returns the map that looks to where a direction goes, and the direction there: to
// the right, up and along its way.
func (h *shade) toward(d *[3]float32) (i int, at [3]float32) {
	if len(h.maps) > 1 {
		i = axisOf(d)
	}
	return i, h.faces[i].turn(i, d, len(h.maps) > 1)
}

// turn returns a direction in a face, of which it has the number: to the right, up and along
// its way, which for one of six are axes of the world.
func (f *facing) turn(i int, d *[3]float32, six bool) [3]float32 {
	if !six {
		return [3]float32{dot(*d, f.right), dot(*d, f.up), dot(*d, f.way)}
	}
	k := i / 2
	way := d[k]
	if i%2 == 1 {
		way = -way
	}
	return [3]float32{d[(k+1)%3], d[(k+2)%3], way}
}

// axisOf returns which of six ways a direction goes mostly.
func axisOf(d *[3]float32) int {
	x, y, z := greater(d[0], -d[0]), greater(d[1], -d[1]), greater(d[2], -d[2])
	k := 2
	if x >= y && x >= z {
		k = 0
	} else if y >= z {
		k = 1
	}
	if d[k] < 0 {
		return 2*k + 1
	}
	return 2 * k
}

// lie tells whether a lamp reaches all of what a block shows of a face (1), none of it (0), or
// less when that cannot be told quickly; corners are those of the block, from the lamp.
func (h *shade) lie(corners *[4][3]float32) float32 {
	lo, hi := [3]float32{infinite, infinite, infinite}, [3]float32{-infinite, -infinite, -infinite}
	i, _ := h.toward(&corners[0])
	f := &h.faces[i]
	for k := range corners {
		own, at := h.toward(&corners[k])
		if own != i {
			return -1
		}
		for c, v := range at {
			lo[c], hi[c] = lesser(lo[c], v), greater(hi[c], v)
		}
	}
	// A normal may have any direction.
	by := hi[2] * f.pixel * (shadowLeast + shadowSlope)
	near, far := lo[2]-by, hi[2]+by
	if !(near > LampNear) {
		return -1
	}
	// Where something lies before it is moved and seen: the nearer, the farther out.
	out := func(v float32) float32 {
		if v > 0 {
			return v*f.scale/near + f.middle
		}
		return v*f.scale/far + f.middle
	}
	in := func(v float32) float32 {
		if v > 0 {
			return v*f.scale/far + f.middle
		}
		return v*f.scale/near + f.middle
	}
	deep := func(w float32) float32 { return 1 - LampNear/(w*(1-lampSlack)) }
	return h.maps[i].lie(in(lo[0]-by), out(hi[0]+by), in(lo[1]-by), out(hi[1]+by), deep(near), deep(far))
}

// mostQuick is how many lamps are asked whether they reach all of a block.
const mostQuick = 8

// heldOff finds out which lamps reach all or none of what a block may show of a face.
func (f *face) heldOff(t *tileScratch, s *shader, b *block) {
	var corners [4][3]float32
	asked, ok := false, false
	for _, l := range t.lamps {
		if l.shade == nil || l.slot >= mostQuick {
			continue
		}
		f.reached[l.slot] = -1
		if !asked {
			asked, ok = true, f.pixelsIn(b) >= worthLooking && f.cornersOf(s, b, &corners)
		}
		if !ok {
			continue
		}
		from, away := corners, f.flat
		for i := range from {
			for k := range 3 {
				from[i][k] -= l.at[k]
			}
			away = away && dot(f.light.n, from[i]) >= 0
		}
		if away {
			f.reached[l.slot] = 0
		} else {
			f.reached[l.slot] = l.shade.lie(&from)
		}
	}
}

// cornersOf finds the places that the corners of a block show of a face's plane.
func (f *face) cornersOf(s *shader, b *block, out *[4][3]float32) bool {
	for i := range out {
		x, y := b.x+int32(i&1)*side, b.y+int32(i>>1)*side
		iw := f.t.at(x, y)
		if !(iw > 0) {
			return false
		}
		out[i] = s.at(float32(x), float32(y), 1/iw)
	}
	return true
}

// known returns the share of a lamp's light that reaches the face all over the block that was
// looked at last, or less if that differs.
func (f *face) known(l *lamp) float32 {
	switch {
	case l.shade == nil:
		return 1
	case l.slot < mostQuick:
		return f.reached[l.slot]
	}
	return -1
}

// reaches returns the share of a lamp's light that reaches a place on a surface.
func (h *shade) reaches(n, toLamp *[3]float32) float32 {
	m, x, y, z := h.place(n, toLamp)
	if m == nil {
		return 1
	}
	return m.reaches(x, y, z, false)
}
