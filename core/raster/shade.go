package raster

import (
	"encoding/binary"
	"image"
	"math"
	"math/bits"

	"proscen/core/ambient"
	"proscen/core/kit"
)

// plane is a value over the picture: at + x·px + y·py, in pixels.
type plane struct{ at, x, y float32 }

func (p *plane) of(px, py float32) float32 { return p.at + p.x*px + p.y*py }

// face is what is the same for all pixels of one triangle; neighbouring pixels mostly
// show the same few.
type face struct {
	owner uint32
	t     *triangle
	flat  bool          // one normal and one colour
	even  bool          // nothing but the sun's shadow, haze and lamps depends on the place
	tones [2][3]float32 // then: its light in the sun and in its shadow, without lamps and haze
	done  [2]uint32     // and these, finished, where there is no haze
	light surfaceLight
	moved [3]float32 // what the normal moves a place by in the shadow map
	// In the block that was looked at last: whether all of it lies in the sun (1), in its
	// shadow (0), or nobody knows (less); whether one light does, and which, finished and
	// not: haze comes on top of it.
	block int32
	sunny float32
	ready bool
	free  bool // nothing is near that takes light of the sky away
	// The share of lamps' light that reaches all of it, by their slots, or less.
	reached [mostQuick]float32
	color   uint32
	tone    *[3]float32
	// Where the corners differ: values over w, which are planes over the picture.
	normal  [3]plane
	colored bool
	tint    [4]plane
	w       plane
	u, v    plane
	texture *kit.Texture
}

// faceSlots is how many faces each thread keeps.
const faceSlots = 64

// slotOf is where a face is kept: those of one batch in slots of their own.
func slotOf(owner uint32) uint32 { return (owner + owner>>batchShift*37) % faceSlots }

// surfaceLight is the colour of a surface and the light of a normal that does not
// depend on the place.
type surfaceLight struct {
	n, base [3]float32
	glow    float32
	hemi    [3]float32
	sunward float32
}

func (l *surfaceLight) turn(s *shader, n [3]float32) {
	l.n = n
	k := 0.5 + 0.5*n[1]
	l.hemi[0] = s.ground[0] + s.upward[0]*k
	l.hemi[1] = s.ground[1] + s.upward[1]*k
	l.hemi[2] = s.ground[2] + s.upward[2]*k
	l.sunward = n[0]*s.sunDir[0] + n[1]*s.sunDir[1] + n[2]*s.sunDir[2]
}

func (l *surfaceLight) paint(c [4]float32) {
	l.base, l.glow = [3]float32{c[0], c[1], c[2]}, c[3]
}

// face returns what is known of a triangle.
func (t *tileScratch) face(s *shader, owner uint32) *face {
	f := &t.faces[slotOf(owner)]
	if f.owner != owner {
		f.begin(s, t.r, owner)
	}
	return f
}

// enter returns a face as it is in a block.
func (t *tileScratch) enter(s *shader, owner uint32, b *block) *face {
	f := t.face(s, owner)
	if n := b.number(); f.block != n {
		f.block = n
		f.look(t, s, b)
	}
	return f
}

// look finds out what all places of the face in a block have in common.
func (f *face) look(t *tileScratch, s *shader, b *block) {
	f.sunny, f.ready = -1, false
	f.free = s.around == nil || f.pixelsIn(b) >= worthLooking && f.alone(s, b)
	plain := f.even && len(t.lamps) == 0
	f.heldOff(t, s, b)
	switch {
	case s.shadow == nil, f.flat && f.light.sunward <= 0:
		f.sunny = 1 // as far as there is sun
	case f.pixelsIn(b) >= worthLooking: // for a few it is quicker to look at each
		f.sunny = f.lies(s, b)
	}
	if plain && f.free && f.sunny >= 0 {
		f.ready, f.color, f.tone = true, f.done[1-int(f.sunny)], &f.tones[1-int(f.sunny)]
	}
}

// pixelsIn is how many pixels of a block the face may touch.
func (f *face) pixelsIn(b *block) int32 {
	t := f.t
	wide := min(b.x+side, int32(t.maxX)+1) - max(b.x, int32(t.minX))
	high := min(b.y+side, int32(t.maxY)+1) - max(b.y, int32(t.minY))
	return wide * high
}

// worthLooking is how many pixels make it pay to look at them together.
const worthLooking = 24

func (t *tileScratch) forget() {
	for i := range t.faces {
		t.faces[i].owner = nobody
	}
	for i := range t.pairs {
		t.pairs[i] = pair{nobody, nobody, false}
	}
	t.made.forget()
	t.spanned.forget()
}

func (f *face) begin(s *shader, r *Renderer, owner uint32) {
	t := r.triangleOf(owner)
	m, p := s.draws[t.draw].Mesh, &r.placed[t.draw]
	idx := m.Indices[t.index : t.index+3]
	var n [3][3]float32
	var c [3][4]float32
	for i, k := range idx {
		n[i] = [3]float32(m.Normals[3*k : 3*k+3])
		c[i] = [4]float32(m.Colors[4*k : 4*k+4])
	}
	f.owner, f.t = owner, t
	f.block, f.sunny = -1, -1
	f.texture = nil
	if len(m.UVs)/2 == len(m.Positions)/3 {
		f.texture = m.Texture
	}
	f.colored = f.texture != nil || c[0] != c[1] || c[0] != c[2]
	f.flat = !f.colored && n[0] == n[1] && n[0] == n[2]
	f.light.paint(c[0])
	if f.flat {
		f.light.turn(s, p.normal(&n[0]))
		f.settle(s)
		return
	}
	f.even = false
	for i := range n {
		n[i] = p.normal(&n[i])
	}
	corners := p.corners(m, t.index)
	shares := cornerShares(&corners)
	over := func(a, b, e float32) plane {
		return plane{
			shares[0].at*a + shares[1].at*b + shares[2].at*e,
			shares[0].x*a + shares[1].x*b + shares[2].x*e,
			shares[0].y*a + shares[1].y*b + shares[2].y*e,
		}
	}
	for i := range f.normal {
		f.normal[i] = over(n[0][i], n[1][i], n[2][i])
	}
	if !f.colored {
		return
	}
	f.w = over(1, 1, 1)
	for i := range f.tint {
		f.tint[i] = over(c[0][i], c[1][i], c[2][i])
	}
	if f.texture == nil {
		return
	}
	var u, v [3]float32
	for i, k := range idx {
		u[i], v[i] = m.UVs[2*k], m.UVs[2*k+1]
	}
	f.u, f.v = over(u[0], u[1], u[2]), over(v[0], v[1], v[2])
}

// cornerShares returns the share of each corner over w as planes over the picture (Olano
// and Greer, "Triangle scan conversion using 2D homogeneous coordinates", 1997). They
// hold for triangles that are cut by the near plane as well.
func cornerShares(corners *[3]corner) (out [3]plane) {
	a, b, c := &corners[0], &corners[1], &corners[2]
	cross := func(p, q *corner) [3]float64 {
		px, py, pw, qx, qy, qw := float64(p.x), float64(p.y), float64(p.w), float64(q.x), float64(q.y), float64(q.w)
		return [3]float64{py*qw - pw*qy, pw*qx - px*qw, px*qy - py*qx}
	}
	rows := [3][3]float64{cross(b, c), cross(c, a), cross(a, b)}
	det := float64(a.x)*rows[0][0] + float64(a.y)*rows[0][1] + float64(a.w)*rows[0][2]
	if det == 0 || det-det != 0 {
		return [3]plane{{at: 1}}
	}
	inv := 1 / det
	for i, r := range rows {
		out[i] = plane{float32(r[2] * inv), float32(r[0] * inv), float32(r[1] * inv)}
	}
	return out
}

// settle finds what is the same all over a flat face.
func (f *face) settle(s *shader) {
	l := &f.light
	f.moved = s.cast.moves(&l.n, l.sunward)
	f.even = true
	d := max(0, l.sunward)
	f.tones[0] = l.reflected(s, l.hemi[0]+s.sun[0]*d, l.hemi[1]+s.sun[1]*d, l.hemi[2]+s.sun[2]*d)
	f.tones[1] = l.reflected(s, l.hemi[0], l.hemi[1], l.hemi[2])
	for i, c := range f.tones {
		f.done[i] = s.curve.finish(c[0], c[1], c[2])
	}
}

// reflected is what a surface sends back of light, and its own.
func (l *surfaceLight) reflected(s *shader, r, g, b float32) [3]float32 {
	lit := 1 - l.glow
	return [3]float32{l.base[0] * (r*lit + l.glow*s.shine[0]), l.base[1] * (g*lit + l.glow*s.shine[1]), l.base[2] * (b*lit + l.glow*s.shine[2])}
}

// shade turns what is in front in a tile into pixels.
func (t *tileScratch) shade(s *shader, out *image.RGBA) {
	for i := range t.blocks {
		b := &t.blocks[i]
		w, h := min(side, int32(t.r.width)-b.x), min(side, int32(t.r.height)-b.y)
		if w <= 0 || h <= 0 {
			continue
		}
		t.reach(s, b)
		switch {
		case b.whole == several:
			t.details(s, b, w, h, out)
		case b.whole == nobody:
			t.emptiness(s, b, w, h, out)
		default:
			t.single(s, b, w, h, out)
		}
	}
}

// reach finds the lamps that may shine on something in a block: they are not farther from
// the box that holds it than they reach.
func (t *tileScratch) reach(s *shader, b *block) {
	t.lamps = t.lamps[:0]
	if len(s.lamps) == 0 || b.whole == nobody {
		return
	}
	near, far := b.near, b.far
	if b.whole == several && far == 0 {
		// There is sky in it, or it was never covered whole: look at what is there.
		least := bitsOf(infinite)
		for _, d := range b.depth[:pixels*t.r.grid.n] {
			if d > 0 && d < least {
				least = d
			}
		}
		far = math.Float32frombits(uint32(least))
	}
	lo, hi := [3]float32{infinite, infinite, infinite}, [3]float32{-infinite, -infinite, -infinite}
	for i := range 8 {
		x, y, depth := float32(b.x+int32(i&1)*side), float32(b.y+int32(i>>1&1)*side), 1/far
		if i>>2 == 1 {
			depth = 1 / near
		}
		for k, v := range s.at(x, y, depth) {
			lo[k], hi[k] = lesser(lo[k], v), greater(hi[k], v)
		}
	}
	for i := range s.lamps {
		l := &s.lamps[i]
		d2 := float32(0)
		for k, at := range l.at {
			if over := greater(greater(lo[k]-at, at-hi[k]), 0); over > 0 {
				d2 += over * over
			}
		}
		if d2*l.reach2 < 1 {
			t.lamps = append(t.lamps, l)
		}
	}
}

// emptiness shades a block that shows nothing but the sky.
func (t *tileScratch) emptiness(s *shader, b *block, w, h int32, out *image.RGBA) {
	if s.backdrop != nil {
		s.fill(*s.backdrop, b, w, h, out)
		return
	}
	if s.eights {
		(*face)(nil).pixelsWide(t, s, b, within(w, h))
		t.write(b, w, h, out)
		return
	}
	for y := range h {
		row := rowOf(out, b, y, w)
		for x := range w {
			binary.LittleEndian.PutUint32(row[4*x:], s.background(float32(b.x+x)+0.5, float32(b.y+y)+0.5))
		}
	}
}

// single shades a block that one triangle covers.
func (t *tileScratch) single(s *shader, b *block, w, h int32, out *image.RGBA) {
	f := t.enter(s, b.whole, b)
	switch {
	case f.ready && s.haze == 0:
		s.fill(f.color, b, w, h, out)
		return
	case f.ready:
		if veil, ok := f.veil(s, b); ok {
			t.veiled(s, f.tone, &veil, b, w, h, out)
			return
		}
	}
	t.spread(s, b, b.whole, within(w, h))
	t.write(b, w, h, out)
}

// fill gives a block one colour.
func (s *shader) fill(c uint32, b *block, w, h int32, out *image.RGBA) {
	if s.eights && w == side && h == side {
		b.plainWide(c, out)
		return
	}
	for y := range h {
		for row := rowOf(out, b, y, w); len(row) >= 4; row = row[4:] {
			binary.LittleEndian.PutUint32(row, c)
		}
	}
}

// veil returns how much haze lies before the middles of the corner pixels of a block, and
// whether that may be taken for even between them.
func (f *face) veil(s *shader, b *block) (out [4]float32, ok bool) {
	const even = 0.06
	lo, hi := float32(1), float32(0)
	for i := range out {
		px, py := float32(b.x)+0.5+float32(i&1)*(side-1), float32(b.y)+0.5+float32(i>>1)*(side-1)
		depth := f.depth(px, py)
		ray := s.ray(px, py)
		out[i] = s.hazed(&ray, depth)
		lo, hi = lesser(lo, out[i]), greater(hi, out[i])
	}
	return out, hi-lo < even
}

// veiled shades a block of one light behind even haze.
func (t *tileScratch) veiled(s *shader, tone *[3]float32, veil *[4]float32, b *block, w, h int32, out *image.RGBA) {
	more := [3]float32{s.horizon[0] - tone[0], s.horizon[1] - tone[1], s.horizon[2] - tone[2]}
	for y := range h {
		row := rowOf(out, b, y, w)
		v := float32(y) / (side - 1)
		k := veil[0] + (veil[2]-veil[0])*v
		step := (veil[1] + (veil[3]-veil[1])*v - k) / (side - 1)
		for ; len(row) >= 4; row = row[4:] {
			binary.LittleEndian.PutUint32(row, s.curve.finish(tone[0]+more[0]*k, tone[1]+more[1]*k, tone[2]+more[2]*k))
			k += step
		}
	}
}

func rowOf(out *image.RGBA, b *block, y, w int32) []uint8 {
	o := out.PixOffset(int(b.x)+out.Rect.Min.X, int(b.y+y)+out.Rect.Min.Y)
	return out.Pix[o : o+int(w)*4 : o+int(w)*4]
}

// write puts the colours of a block into the picture.
func (t *tileScratch) write(b *block, w, h int32, out *image.RGBA) {
	if t.r.eights && w == side && h == side {
		t.writeWide(b, out)
		return
	}
	for y := range h {
		row := rowOf(out, b, y, w)
		for x, c := range t.colors[y*side : y*side+w] {
			binary.LittleEndian.PutUint32(row[4*x:], c)
		}
	}
}

// within are the pixels of a block in its first columns and rows, as bits by rows.
func within(w, h int32) uint64 {
	return 0x0101010101010101 * (1<<w - 1) & (^uint64(0) >> (pixels - side*h))
}

// details shades a block whose samples have owners of their own: each owner in all pixels
// that it has alone, and then the pixels that several share.
func (t *tileScratch) details(s *shader, b *block, w, h int32, out *image.RGBA) {
	all := within(w, h)
	alone := all
	t.firsts = (*[pixels]uint32)(b.owner[:])
	if t.r.grid.n > 1 {
		t.firsts = &t.first
		alone &= b.alone(s.eights, &t.first)
	}
	for left := alone; left != 0; {
		owner := t.firsts[bits.TrailingZeros64(left)&(pixels-1)]
		mine := t.firstIn(owner, left)
		left &^= mine
		t.spread(s, b, owner, mine)
	}
	if alone != all {
		t.mixed(s, b, all&^alone)
	}
	t.write(b, w, h, out)
}

// spread shades pixels of a block that have one owner.
func (t *tileScratch) spread(s *shader, b *block, owner uint32, mine uint64) {
	wide := s.eights && bits.OnesCount64(mine) >= worthWide
	if owner == nobody {
		if wide && s.backdrop == nil {
			(*face)(nil).pixelsWide(t, s, b, mine)
			return
		}
		for m := mine; m != 0; m &= m - 1 {
			i := bits.TrailingZeros64(m) & (pixels - 1)
			t.colors[i] = s.background(float32(b.x+int32(i)%side)+0.5, float32(b.y+int32(i)/side)+0.5)
		}
		return
	}
	f := t.enter(s, owner, b)
	if f.ready && s.haze == 0 {
		for m := mine; m != 0; m &= m - 1 {
			t.colors[bits.TrailingZeros64(m)&(pixels-1)] = f.color
		}
		return
	}
	if wide {
		f.pixelsWide(t, s, b, mine)
		return
	}
	for m := mine; m != 0; m &= m - 1 {
		i := int32(bits.TrailingZeros64(m)) & (pixels - 1)
		t.colors[i] = f.at(t, s, float32(b.x+i%side)+0.5, float32(b.y+i/side)+0.5)
	}
}

// alone returns the pixels of a block of which all four samples have the same owner, as bits
// by rows, and the owner of the first sample of each pixel.
func (b *block) alone(eights bool, first *[pixels]uint32) (out uint64) {
	if eights {
		return b.aloneWide(first)
	}
	for i := range first {
		o := (*[most]uint32)(b.owner[i*most:])
		first[i] = o[0]
		if o[0] == o[1] && o[0] == o[2] && o[0] == o[3] {
			out |= 1 << i
		}
	}
	return out
}

// firstIn returns those of some pixels whose first sample an owner has.
func (t *tileScratch) firstIn(owner uint32, among uint64) (out uint64) {
	if t.r.eights {
		return among & firstsWide(t.firsts, owner)
	}
	for m := among; m != 0; m &= m - 1 {
		i := bits.TrailingZeros64(m) & (pixels - 1)
		if t.firsts[i] == owner {
			out |= 1 << i
		}
	}
	return out
}

// worthWide is for how many pixels it pays to shade eight at a time.
const worthWide = 3

// stake is what an owner has of a pixel: some of its samples, at whose middle it is shaded.
type stake struct {
	owner uint32
	n     uint32 // samples
	pixel int32
	next  int32 // of the same slot, less than 0 for none
	x, y  float32
}

// stakes are those of all pixels of a block, by the slots that faces are kept in.
type stakes struct {
	all   [pixels * most]stake
	n     int32
	first [faceSlots]int32
	slots uint64      // that are not empty
	sum   [pixels]sum // of what is finished
}

// sum adds up red and blue, and green, with room for four.
type sum struct{ even, odd uint32 }

// mixed shades pixels that several owners share: each owner of a pixel once, at the middle
// of its samples. What they give is averaged by the number of samples. Triangles over which
// one surface goes on count as one owner. The average is taken of finished bytes, as a
// display's multisampling does, so that bright edges stay smooth.
func (t *tileScratch) mixed(s *shader, b *block, which uint64) {
	k := &t.stakes
	k.n, k.slots = 0, 0
	for m := which; m != 0; m &= m - 1 {
		i := int32(bits.TrailingZeros64(m)) & (pixels - 1)
		k.sum[i] = sum{2 | 2<<16, 2}
		t.claim(s, i, (*[most]uint32)(b.owner[i*most:]), float32(b.x+i%side), float32(b.y+i/side))
	}
	for slots := k.slots; slots != 0; slots &= slots - 1 {
		for left := k.first[bits.TrailingZeros64(slots)&(faceSlots-1)]; left >= 0; {
			left = t.finish(s, b, left)
		}
	}
	for m := which; m != 0; m &= m - 1 {
		i := bits.TrailingZeros64(m) & (pixels - 1)
		t.colors[i] = k.sum[i].even>>2&0xff00ff | k.sum[i].odd>>2<<8 | 255<<24
	}
}

// claim notes the stakes in a pixel.
func (t *tileScratch) claim(s *shader, pixel int32, owner *[most]uint32, px, py float32) {
	k := &t.stakes
	for left := uint32(1<<most - 1); left != 0; {
		o := owner[bits.TrailingZeros32(left)&(most-1)]
		same := uint32(0)
		for i, v := range owner {
			if v == o {
				same |= 1 << i
			}
		}
		left &^= same
		m := &middles[same&(1<<most-1)]
		n := m.n
		if left != 0 && o != nobody {
			same = t.joined(s, o, owner, left)
			left &^= same
			n += uint32(bits.OnesCount32(same))
		}
		slot, next := slotOf(o), int32(-1)
		if k.slots>>slot&1 == 1 {
			next = k.first[slot]
		}
		k.slots |= 1 << slot
		k.first[slot] = k.n
		k.all[k.n&(pixels*most-1)] = stake{o, n, pixel, next, px + m.x, py + m.y}
		k.n++
	}
}

// finish shades all stakes of the owner of the first one in a row, and returns the row of
// those that are left.
func (t *tileScratch) finish(s *shader, b *block, row int32) (left int32) {
	k := &t.stakes
	owner := k.all[row].owner
	var f *face
	if owner != nobody {
		f = t.enter(s, owner, b)
	}
	left = -1
	var mine [side]*stake
	n := 0
	for at := row; at >= 0; {
		c := &k.all[at&(pixels*most-1)]
		next := c.next
		if c.owner != owner {
			c.next, left = left, at
		} else {
			mine[n] = c
			if n++; n == side {
				t.share(s, f, mine[:])
				n = 0
			}
		}
		at = next
	}
	t.share(s, f, mine[:n])
	return left
}

// share adds what a face, or the sky, gives to some pixels, which are at most eight.
func (t *tileScratch) share(s *shader, f *face, stakes []*stake) {
	var colors [side]uint32
	wide := s.eights && len(stakes) >= worthWide
	switch {
	case f == nil && (!wide || s.backdrop != nil):
		for i, k := range stakes {
			colors[i] = s.background(k.x, k.y)
		}
	case f != nil && f.ready && s.haze == 0:
		for i := range stakes {
			colors[i] = f.color
		}
	case wide:
		f.placesWide(t, s, stakes, &colors)
	default:
		for i, k := range stakes {
			colors[i] = f.at(t, s, k.x, k.y)
		}
	}
	for i, k := range stakes {
		at := &t.stakes.sum[k.pixel&(pixels-1)]
		at.even += k.n * (colors[i] & 0xff00ff)
		at.odd += k.n * (colors[i] >> 8 & 0xff)
	}
}

// joined returns which of some samples belong to triangles that share a vertex with
// another one: the surface goes on over them with the same normals and colours.
func (t *tileScratch) joined(s *shader, owner uint32, owners *[most]uint32, among uint32) (out uint32) {
	for ; among != 0; among &= among - 1 {
		k := bits.TrailingZeros32(among) & (most - 1)
		o := owners[k]
		if o == nobody {
			continue
		}
		// Along an edge the same two are asked for again and again.
		p := &t.pairs[(owner*31^o)%pairSlots]
		if p.a != owner || p.b != o {
			*p = pair{owner, o, s.touch(t.r.triangleOf(owner), t.r.triangleOf(o))}
		}
		if p.touch {
			out |= 1 << k
		}
	}
	return out
}

// pair is two owners, and whether they share a vertex.
type pair struct {
	a, b  uint32
	touch bool
}

const pairSlots = 64

// touch tells whether two triangles share a vertex of one draw.
func (s *shader) touch(a, b *triangle) bool {
	if a.draw != b.draw {
		return false
	}
	idx := s.draws[a.draw].Mesh.Indices
	p, q := (*[3]uint32)(idx[a.index:]), (*[3]uint32)(idx[b.index:])
	for _, v := range q {
		if v == p[0] || v == p[1] || v == p[2] {
			return true
		}
	}
	return false
}

// middles are the number of samples of each choice of them and where their middle is in
// the pixel.
var middles = func() (out [1 << most]struct {
	n    uint32
	x, y float32
}) {
	for choice := 1; choice < len(out); choice++ {
		m := &out[choice]
		for k := range most {
			if choice>>k&1 == 1 {
				m.n++
				m.x += grid4.px[k]
				m.y += grid4.py[k]
			}
		}
		m.x /= float32(m.n)
		m.y /= float32(m.n)
	}
	return out
}()

// background returns the finished colour where nothing is.
func (s *shader) background(px, py float32) uint32 {
	if s.backdrop != nil {
		return *s.backdrop
	}
	c := s.sky(s.ray(px, py))
	return s.curve.finish(c[0], c[1], c[2])
}

// corners returns the box around what a block may show of a face, in the space of rays.
func (f *face) corners(s *shader, r *rays, b *block) (lo, hi [3]float32, ok bool) {
	if s.eights {
		return f.cornersWide(r, b)
	}
	lo, hi = [3]float32{infinite, infinite, infinite}, [3]float32{-infinite, -infinite, -infinite}
	for i := range 4 {
		x, y := b.x+int32(i&1)*side, b.y+int32(i>>1)*side
		iw := f.t.at(x, y)
		if iw <= 0 {
			return lo, hi, false
		}
		for k, v := range r.at(float32(x), float32(y), 1/iw) {
			lo[k], hi[k] = lesser(lo[k], v), greater(hi[k], v)
		}
	}
	return lo, hi, true
}

// lies tells whether what a block may show of a face lies in the sun (1), in its shadow
// (0), or in neither as far as can be told quickly.
func (f *face) lies(s *shader, b *block) float32 {
	c := &s.cast
	lo, hi, ok := f.corners(s, &c.rays, b)
	if !ok {
		return -1
	}
	for k := range lo {
		from, to := f.moved[k], f.moved[k]
		if !f.flat { // the normal may have any direction
			to = length(c.bias[k]) * (c.least + c.slope)
			from = -to
		}
		lo[k] += from
		hi[k] += to
	}
	return s.shadow.lie(lo[0], hi[0], lo[1], hi[1], lo[2], hi[2])
}

// alone tells whether what a block may show of a face has nothing near it.
func (f *face) alone(s *shader, b *block) bool {
	lo, hi, ok := f.corners(s, &s.among, b)
	if !ok {
		return false
	}
	for k, n := range f.light.n {
		from, to := n*ambient.Step, n*ambient.Step
		if !f.flat { // the normal may have any direction
			from, to = -ambient.Step, ambient.Step
		}
		lo[k] += from
		hi[k] += to
	}
	return s.around.Quiet(lo, hi)
}

// number tells a block from the others of the picture.
func (b *block) number() int32 { return b.y<<16 | b.x }

// depth is how far away a place on the face is along the view.
func (f *face) depth(px, py float32) float32 {
	t := f.t
	iw := t.z + t.zx*(px-float32(t.x[0])/sub) + t.zy*(py-float32(t.y[0])/sub)
	return 1 / greater(iw, t.far)
}

// sun is the share of the sun that reaches a place.
func (f *face) sun(s *shader, px, py float32) float32 {
	if f.sunny >= 0 {
		return f.sunny
	}
	return s.lit(f.depth(px, py), px, py, &f.moved)
}

// at returns the finished colour of the face at a place in the picture.
func (f *face) at(t *tileScratch, s *shader, px, py float32) uint32 {
	l := &f.light
	if !f.flat {
		f.smooth(s, px, py)
	}
	var c [3]float32
	var ray [3]float32
	var depth float32
	if s.haze > 0 || len(t.lamps) > 0 {
		ray, depth = s.ray(px, py), f.depth(px, py)
	}
	switch {
	case f.ready:
		c = *f.tone
	case f.even && f.free && len(t.lamps) == 0:
		switch d := f.sun(s, px, py); d {
		case 1:
			c = f.tones[0]
		case 0:
			c = f.tones[1]
		default:
			for i := range c {
				c[i] = f.tones[1][i] + (f.tones[0][i]-f.tones[1][i])*d
			}
		}
		if s.haze == 0 {
			return s.curve.finish(c[0], c[1], c[2])
		}
	default:
		r, g, b := l.hemi[0], l.hemi[1], l.hemi[2]
		if !f.free {
			q := s.among.at(px, py, f.depth(px, py))
			open := s.around.Sky(q[0]+l.n[0]*ambient.Step, q[1]+l.n[1]*ambient.Step, q[2]+l.n[2]*ambient.Step)
			r, g, b = r*open, g*open, b*open
		}
		if d := l.sunward; d > 0 {
			if s.shadow != nil {
				d *= f.sun(s, px, py)
			}
			r += s.sun[0] * d
			g += s.sun[1] * d
			b += s.sun[2] * d
		}
		if len(t.lamps) > 0 {
			at := [3]float32{s.eye[0] + ray[0]*depth, s.eye[1] + ray[1]*depth, s.eye[2] + ray[2]*depth}
			for _, k := range t.lamps {
				d := k.shine(&l.n, &at, f.known(k))
				r += k.color[0] * d
				g += k.color[1] * d
				b += k.color[2] * d
			}
		}
		c = l.reflected(s, r, g, b)
	}
	if s.haze > 0 {
		k := s.hazed(&ray, depth)
		for i := range c {
			c[i] += (s.horizon[i] - c[i]) * k
		}
	}
	return s.curve.finish(c[0], c[1], c[2])
}

// shine is the share of a lamp's light that a surface takes at a place. What share reaches it
// may be known, or is less.
func (l *lamp) shine(n, at *[3]float32, known float32) float32 {
	if known == 0 {
		return 0
	}
	tx, ty, tz := l.at[0]-at[0], l.at[1]-at[1], l.at[2]-at[2]
	d2 := tx*tx + ty*ty + tz*tz
	w := 1 - d2*l.reach2
	if w <= 0 {
		return 0
	}
	d := n[0]*tx + n[1]*ty + n[2]*tz
	if d <= 0 {
		return 0
	}
	away := 1 / sqrt(d2+1e-12)
	k := w * w / (0.2 + 0.8*d2) * d * away
	if l.spot {
		c := -(l.dir[0]*tx + l.dir[1]*ty + l.dir[2]*tz) * away
		e := max(0, min(1, (c-l.outer)*l.sharp))
		k *= e * e * (3 - 2*e)
	}
	if known < 0 && k > 0 {
		k *= l.shade.reaches(n, &[3]float32{tx, ty, tz})
	}
	return k
}

// smooth finds normal and colour inside a triangle whose corners differ.
func (f *face) smooth(s *shader, px, py float32) {
	l := &f.light
	l.turn(s, unit([3]float32{f.normal[0].of(px, py), f.normal[1].of(px, py), f.normal[2].of(px, py)}))
	if s.shadow != nil && f.sunny < 0 && l.sunward > 0 {
		f.moved = s.cast.moves(&l.n, l.sunward)
	}
	if !f.colored {
		return
	}
	depth := 1 / f.w.of(px, py)
	var c [4]float32
	for i := range c {
		c[i] = f.tint[i].of(px, py) * depth
	}
	if f.texture != nil {
		t := f.pictured(f.u.of(px, py)*depth, f.v.of(px, py)*depth, depth)
		for i := range t {
			c[i] *= t[i]
		}
	}
	l.paint(c)
}

// pictured returns the texture's colour at a place of it, seen at a depth. A pixel covers
// as many texels as the place moves by from it to the next one, to the right or down,
// whichever is more.
func (f *face) pictured(u, v, depth float32) [3]float32 {
	return f.texture.At(u, v, texelsIn(f.texture, u, v, depth, &f.u, &f.v, &f.w))
}

// texelsIn is how many texels on a side a pixel covers at a place of a texture, seen at a
// depth, of which the planes say how it lies over the picture.
func texelsIn(t *kit.Texture, u, v, depth float32, overU, overV, overW *plane) float32 {
	width, height := float32(t.Width)*depth, float32(t.Height)*depth
	ux, vx := (overU.x-u*overW.x)*width, (overV.x-v*overW.x)*height
	uy, vy := (overU.y-u*overW.y)*width, (overV.y-v*overW.y)*height
	return sqrt(greater(ux*ux+vx*vx, uy*uy+vy*vy))
}
