package raster

import (
	"math"
	"math/bits"
	"slices"
)

// A tile is seen as blocks of 8x8 pixels. A block that one triangle covers whole holds
// just its number; only where edges run is there a depth and an owner for each sample.
// Every block knows how far away its farthest sample is, so that what lies behind is
// left out without looking at samples.
const (
	tile       = 32 // pixels on a side
	side       = 8  // of a block
	tileBlocks = tile / side
	pixels     = side * side // of a block
	most       = 4           // samples of a pixel
)

// grid says where the samples of a pixel are, in fixed point.
type grid struct {
	n          int // 1 or 4
	x, y       [most]int32
	px, py     [most]float32 // the same in pixels
	unit       int           // all samples lie on whole multiples of this power of two,
	first, gap int32         // on lines: the first of these, their distance
	shift      int           // and its power of two
}

func newGrid(n, unit int, x, y [most]int32) grid {
	g := grid{n: n, x: x, y: y, unit: unit, first: 1 << unit, gap: 2 << unit, shift: unit + 1}
	for s := range n {
		g.px[s], g.py[s] = float32(x[s])/sub, float32(y[s])/sub
	}
	return g
}

var (
	// One sample in the middle.
	grid1 = newGrid(1, 7, [most]int32{128}, [most]int32{128})
	// Four samples, on the usual turned square.
	grid4 = newGrid(4, 5, [most]int32{96, 224, 32, 160}, [most]int32{32, 96, 160, 224})
)

// between tells whether no line of samples is in a stretch.
func (g *grid) between(from, to int32) bool {
	return (to-g.first)>>g.shift < (from-g.first+g.gap-1)>>g.shift
}

// lesser and greater are min and max of what are numbers for sure, which is quicker.
func lesser(a, b float32) float32 {
	if b < a {
		return b
	}
	return a
}

func greater(a, b float32) float32 {
	if b > a {
		return b
	}
	return a
}

// bits32 are those of a number that is not negative: as whole numbers they have the same
// order, and can be chosen from without a branch.
type bits32 = int32

func bitsOf(v float32) bits32 { return bits32(math.Float32bits(v)) }

// block is what is in front in 8x8 pixels.
type block struct {
	x, y      int32   // its first pixel
	whole     uint32  // the owner of all samples, or several
	far, near float32 // no sample has less, or more, 1/w
	// The samples that were covered since far was found last, by bits in the order of
	// depth, and the least 1/w that covered them: when all are, nothing in the block is
	// farther.
	layer   float32
	covered [most]uint64
	depth   [pixels * most]bits32 // of 1/w
	owner   [pixels * most]uint32
}

// tileScratch is the working memory of one thread for one tile.
type tileScratch struct {
	builder
	blocks [tileBlocks * tileBlocks]block
	pairs  [pairSlots]pair // of owners that were asked for last
	sides  sides           // of the triangle at hand
	faces  [faceSlots]face
	veils  []veil
	lamps  []*lamp         // that may reach into the block at hand
	firsts *[pixels]uint32 // owners of the first sample of its pixels,
	first  [pixels]uint32  // which are here if there are more
	colors [pixels]uint32  // its picture
	stakes stakes          // in its pixels that several share
}

const infinite = 1e30 // nearer than anything

func (t *tileScratch) clear(ox, oy int32) {
	for i := range t.blocks {
		b := &t.blocks[i]
		b.x, b.y = ox+int32(i%tileBlocks)*side, oy+int32(i/tileBlocks)*side
		b.whole, b.far, b.near = nobody, 0, 0
	}
}

// see finds what is in front in a tile.
func (r *Renderer) see(t *tileScratch, index int) {
	ox, oy := int32(index%r.tilesX*tile), int32(index/r.tilesX*tile)
	t.clear(ox, oy)
	for c := range r.chunks {
		t.show(r.chunks[c].bins[index], ox, oy, func(tr *triangle, id uint32, in window) { t.triangle(tr, id, ox, oy, in) })
	}
	t.cutOuts(index, ox, oy)
}

// sides are those of a triangle as functions over the picture, ≥ 0 inside. Steps are for
// a pixel; offsets are what each sample adds, of which lo and hi are the least and most.
type sides struct {
	at             [3]int64 // at the tile's first pixel corner
	dx, dy         [3]int64
	spanLo, spanHi [3]int64 // what the samples of a block add to its first pixel corner
	lo, hi         [3]int64
	offset         [3][most]int64
}

// side returns a side of the triangle as a value at the corner of a pixel, and how far it
// runs right and down. E(x, y) = dx·(y−ay) − dy·(x−ax), positive inside; pixels on an edge
// belong to the triangle of which it is a top or left edge.
func (t *triangle) side(i int, px, py int32) (e, dx, dy int64) {
	k := i + 1
	if k == 3 {
		k = 0
	}
	ax, ay := int64(t.x[i]), int64(t.y[i])
	dx, dy = int64(t.x[k])-ax, int64(t.y[k])-ay
	e = dx*(int64(py)*sub-ay) - dy*(int64(px)*sub-ax)
	if !(dy < 0 || dy == 0 && dx > 0) {
		e--
	}
	return e, dx, dy
}

// begin prepares the sides for a tile and some pixels of it, and tells whether the
// triangle can cover any of them.
func (d *sides) begin(tr *triangle, g *grid, ox, oy, x0, x1, y0, y1 int32) bool {
	for i := range 3 {
		e, dx, dy := tr.side(i, ox, oy)
		lo, hi := int64(1<<62), int64(-1<<62)
		for s := range g.n {
			o := dx*int64(g.y[s]) - dy*int64(g.x[s])
			d.offset[i][s] = o
			lo, hi = min(lo, o), max(hi, o)
		}
		sx, sy := -dy*sub, dx*sub
		if e+hi+max(sx*int64(x0), sx*int64(x1))+max(sy*int64(y0), sy*int64(y1)) < 0 {
			return false
		}
		d.at[i], d.dx[i], d.dy[i] = e, sx, sy
		d.lo[i], d.hi[i] = lo, hi
		d.spanLo[i] = lo + min(0, sx*(side-1)) + min(0, sy*(side-1))
		d.spanHi[i] = hi + max(0, sx*(side-1)) + max(0, sy*(side-1))
	}
	return true
}

// part is what a triangle covers of one block.
type part struct {
	tr             *triangle
	id             uint32
	z              float32  // 1/w at the block's first pixel corner
	x0, x1, y0, y1 int32    // pixels that it may touch
	at, dx, dy     [3]int64 // its sides at the block's first pixel corner
}

// triangle draws one triangle into the tile.
func (t *tileScratch) triangle(tr *triangle, id uint32, ox, oy int32, in window) {
	x0, x1, y0, y1 := int32(in.x0), int32(in.x1), int32(in.y0), int32(in.y1)
	if tr.small {
		if t.r.eights {
			t.smallWide(tr, id, ox, oy, x0, x1, y0, y1)
			return
		}
		t.small(tr, id, ox, oy, x0, x1, y0, y1)
		return
	}
	d := &t.sides
	if !d.begin(tr, &t.r.grid, ox, oy, x0, x1, y0, y1) {
		return
	}
	p := part{tr: tr, id: id}
	touched, cut := d.among(t.r.eights, x0/side, x1/side, y0/side, y1/side)
	// How 1/w may differ over a block.
	above, below := side*(max(0, tr.zx)+max(0, tr.zy)), side*(min(0, tr.zx)+min(0, tr.zy))
	for ; touched != 0; touched &= touched - 1 {
		n := int32(bits.TrailingZeros16(touched)) & (tileBlocks*tileBlocks - 1)
		b := &t.blocks[n]
		p.z = tr.at(b.x, b.y)
		near, far := lesser(p.z+above, tr.near), greater(p.z+below, tr.far)
		if near < b.far {
			continue
		}
		if (cut[0]|cut[1]|cut[2])>>n&1 == 0 {
			t.cover(b, tr, id, p.z, near, far)
			continue
		}
		x, y := n%tileBlocks*side, n/tileBlocks*side
		// The pixels of the block that the triangle may touch.
		p.x0, p.x1 = max(x0-x, 0), min(x1-x, side-1)
		p.y0, p.y1 = max(y0-y, 0), min(y1-y, side-1)
		for i := range 3 {
			if cut[i]>>n&1 == 0 {
				p.at[i], p.dx[i], p.dy[i] = insideAll, 0, 0
			} else {
				p.at[i], p.dx[i], p.dy[i] = d.at[i]+d.dx[i]*int64(x)+d.dy[i]*int64(y), d.dx[i], d.dy[i]
			}
		}
		t.open(b)
		switch {
		case t.r.eights:
			t.partLanes(b, &p)
		case t.r.grid.n == 1:
			t.part1(b, &p)
		default:
			t.part4(b, &p)
		}
		b.near, b.layer = greater(b.near, near), lesser(b.layer, far)
		b.settle(t.r.grid.n)
	}
}

// among returns which of some blocks of a tile a triangle may touch, and which of them
// each side may cut, as bits by rows.
func (d *sides) among(eights bool, x0, x1, y0, y1 int32) (touched uint16, cut [3]uint16) {
	columns := uint16(2<<x1 - 1<<x0)
	if eights {
		return d.amongWide(columns, y0, y1)
	}
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			bit := uint16(1) << (y*tileBlocks + x)
			out := false
			for i := range 3 {
				v := d.at[i] + d.dx[i]*int64(x*side) + d.dy[i]*int64(y*side)
				out = out || v+d.spanHi[i] < 0
				if v+d.spanLo[i] < 0 {
					cut[i] |= bit
				}
			}
			if !out {
				touched |= bit
			}
		}
	}
	return touched, cut
}

// small draws a triangle that is not wider or higher than a block: each of its pixels is
// looked at, of those between x0, y0 and x1, y1 in the tile.
func (t *tileScratch) small(tr *triangle, id uint32, ox, oy, x0, x1, y0, y1 int32) {
	g := &t.r.grid
	var at, dx, dy [3]int64 // the sides at the first pixel corner, steps per pixel
	var offset [3][most]int64
	for i := range 3 {
		e, ex, ey := tr.side(i, ox+x0, oy+y0)
		at[i], dx[i], dy[i] = e, -ey*sub, ex*sub
		for s := range g.n {
			offset[i][s] = ex*int64(g.y[s]) - ey*int64(g.x[s])
		}
	}
	dz := t.slopes(tr)
	for by := y0 / side; by <= y1/side; by++ {
		for bx := x0 / side; bx <= x1/side; bx++ {
			b := &t.blocks[by*tileBlocks+bx]
			if tr.near < b.far {
				continue
			}
			t.open(b)
			z := tr.at(b.x, b.y)
			for y := max(y0, by*side); y <= min(y1, by*side+side-1); y++ {
				from := max(x0, bx*side)
				right, down := int64(from-x0), int64(y-y0)
				e0, e1, e2 := at[0]+dx[0]*right+dy[0]*down, at[1]+dx[1]*right+dy[1]*down, at[2]+dx[2]*right+dy[2]*down
				zr := z + tr.zy*float32(y-by*side)
				for x := from; x <= min(x1, bx*side+side-1); x++ {
					i := int((y%side)*side+x%side) & (pixels - 1)
					zp := zr + tr.zx*float32(x-bx*side)
					o0 := ((e0 + offset[0][0]) | (e1 + offset[1][0]) | (e2 + offset[2][0])) >> 63
					if g.n == 1 {
						b.covered[0] |= uint64(1+o0) << i
						if v := bitsOf(zp + dz[0]); o0 == 0 && v >= b.depth[i] {
							if v == b.depth[i] {
								t.tie(v, &b.depth[i], &b.owner[i], id)
							} else {
								b.depth[i], b.owner[i] = v, id
							}
						}
					} else {
						o1 := ((e0 + offset[0][1]) | (e1 + offset[1][1]) | (e2 + offset[2][1])) >> 63
						o2 := ((e0 + offset[0][2]) | (e1 + offset[1][2]) | (e2 + offset[2][2])) >> 63
						o3 := ((e0 + offset[0][3]) | (e1 + offset[1][3]) | (e2 + offset[2][3])) >> 63
						if o0&o1&o2&o3 == 0 {
							b.covered[i>>4] |= insides(o0, o1, o2, o3) << (4 * (i & 15))
							t.put(b, i, id, bitsOf(zp+dz[0])|bits32(o0), bitsOf(zp+dz[1])|bits32(o1), bitsOf(zp+dz[2])|bits32(o2), bitsOf(zp+dz[3])|bits32(o3))
						}
					}
					e0 += dx[0]
					e1 += dx[1]
					e2 += dx[2]
				}
			}
			b.near, b.layer = greater(b.near, tr.near), lesser(b.layer, tr.far)
			b.settle(g.n)
		}
	}
}

// hidden tells whether all blocks that a triangle may touch are nearer than all of it.
func (t *tileScratch) hidden(in window) bool {
	for y := in.y0 / side; y <= in.y1/side; y++ {
		for x := in.x0 / side; x <= in.x1/side; x++ {
			if in.near >= t.blocks[(y*tileBlocks+x)%(tileBlocks*tileBlocks)].far {
				return false
			}
		}
	}
	return true
}

// insideAll stands for a side that a block lies so far inside of that no offset
// matters.
const insideAll = 1 << 60

// settle finds a nearer end of the block when all samples have been covered.
func (b *block) settle(n int) {
	all := b.covered[0]
	for s := 1; s < n; s++ {
		all &= b.covered[s]
	}
	if all != ^uint64(0) {
		return
	}
	b.far = greater(b.far, b.layer)
	b.layer, b.covered = infinite, [most]uint64{}
}

// at is 1/w of the triangle's plane at the corner of a pixel.
func (t *triangle) at(x, y int32) float32 {
	return t.z + t.zx*(float32(x)-float32(t.x[0])/sub) + t.zy*(float32(y)-float32(t.y[0])/sub)
}

// triangleOf returns an owner that is neither nobody nor several.
func (r *Renderer) triangleOf(id uint32) *triangle {
	return &r.batches[id>>batchShift].triangles[id&(1<<batchShift-1)]
}

// wins tells which of two owners at the same depth is seen: the one that comes first
// in the frame's draws, or in their mesh, wherever the camera is.
func (t *tileScratch) wins(id, over uint32) bool {
	if over == nobody {
		return true
	}
	a, b := t.r.triangleOf(id), t.r.triangleOf(over)
	return a.draw < b.draw || a.draw == b.draw && a.index < b.index
}

// cover draws a triangle that covers a block whole.
func (t *tileScratch) cover(b *block, tr *triangle, id uint32, z, near, far float32) {
	if b.whole == nobody || far > b.near {
		b.whole, b.far, b.near = id, far, near
		return
	}
	t.open(b)
	n := t.r.grid.n
	dz := t.slopes(tr)
	took := 0
	for y := range side {
		zr := z + tr.zy*float32(y)
		for x := range side {
			at := (y*side + x) * n
			zp := zr + tr.zx*float32(x)
			depth, owner := b.depth[at:at+n], b.owner[at:at+n]
			for s := range depth {
				v := bitsOf(zp + dz[s])
				if v > depth[s] || v == depth[s] && t.wins(id, owner[s]) {
					depth[s], owner[s] = v, id
					took++
				}
			}
		}
	}
	if took == pixels*n {
		b.whole, b.far, b.near = id, far, near
		return
	}
	b.far, b.near = greater(b.far, far), greater(b.near, near)
}

// slopes are what the depth of each sample of a pixel differs by.
func (t *tileScratch) slopes(tr *triangle) (dz [most]float32) {
	g := &t.r.grid
	for s := range g.n {
		dz[s] = tr.zx*g.px[s] + tr.zy*g.py[s]
	}
	return dz
}

// open gives the samples of a block depths and owners of their own.
func (t *tileScratch) open(b *block) {
	id := b.whole
	if id == several {
		return
	}
	n := t.r.grid.n
	b.whole = several
	b.layer, b.covered = infinite, [most]uint64{}
	if t.r.eights {
		t.fillWide(b, id)
		return
	}
	depth, owner := b.depth[:pixels*n], b.owner[:pixels*n]
	for i := range owner {
		owner[i] = id
	}
	if id == nobody {
		clear(depth)
		return
	}
	tr := t.r.triangleOf(id)
	z := tr.at(b.x, b.y)
	dz := t.slopes(tr)
	at := 0
	for y := range side {
		zr := z + tr.zy*float32(y)
		for x := range side {
			zp := zr + tr.zx*float32(x)
			for s := range n {
				depth[at] = bitsOf(zp + dz[s])
				at++
			}
		}
	}
}

// tie settles a sample that two triangles share at the same depth.
func (t *tileScratch) tie(v bits32, depth *bits32, owner *uint32, id uint32) {
	if v == *depth && *owner != id && t.wins(id, *owner) {
		*owner = id
	}
}

// masks returns the pixels of a block that a part touches, and those that it covers
// whole, as bits by rows. It may err by a hair: touched may hold more, covered less.
func (t *tileScratch) masks(p *part) (touched, covered uint64) {
	d := &t.sides
	if (p.x1-p.x0+1)*(p.y1-p.y0+1) > fewPixels {
		touched, covered = ^uint64(0), ^uint64(0)
		for i := range 3 {
			if p.at[i] != insideAll {
				m, n := d.masks(i, p.at[i])
				touched &= m
				covered &= n
			}
		}
		return touched, covered
	}
	lo0, lo1, lo2 := d.lo[0]-d.hi[0], d.lo[1]-d.hi[1], d.lo[2]-d.hi[2]
	first := func(i int) int64 { return p.at[i] + p.dx[i]*int64(p.x0) + p.dy[i]*int64(p.y0) + d.hi[i] }
	r0, r1, r2 := first(0), first(1), first(2)
	for y := p.y0; y <= p.y1; y++ {
		e0, e1, e2 := r0, r1, r2
		bit := uint64(1) << ((y*side + p.x0) & 63)
		for x := p.x0; x <= p.x1; x++ {
			touched |= bit &^ uint64((e0|e1|e2)>>63)
			covered |= bit &^ uint64(((e0+lo0)|(e1+lo1)|(e2+lo2))>>63)
			bit <<= 1
			e0 += p.dx[0]
			e1 += p.dx[1]
			e2 += p.dx[2]
		}
		r0 += p.dy[0]
		r1 += p.dy[1]
		r2 += p.dy[2]
	}
	return touched, covered
}

// fewPixels are looked at one by one.
const fewPixels = 16

// masks returns the pixels of a block that are inside of a side with some, or with all
// samples; e is the side at the block's first pixel corner. It finds where the side cuts
// each row, in 65536ths of a pixel.
func (d *sides) masks(i int, e int64) (touched, covered uint64) {
	dx, dy := d.dx[i], d.dy[i]
	if dx == 0 {
		some, all := e+d.hi[i], e+d.lo[i]
		for y := range side {
			row := uint64(0xff) << (y * side)
			touched |= row &^ uint64(some>>63)
			covered |= row &^ uint64(all>>63)
			some += dy
			all += dy
		}
		return touched, covered
	}
	const one, hair = 1 << 16, 1 << 6
	inv := float64(one) / float64(dx)
	from, step := int64(float64(-e)*inv), int64(float64(-dy)*inv)
	less, more := int64(float64(d.hi[i])*inv), int64(float64(d.lo[i])*inv)
	if dx > 0 {
		// Inside is right of the cut.
		some, all := from-less+one-1-hair, from-more+one-1+hair
		for y := range side {
			touched |= uint64(0xff<<max(0, min(side, some>>16))&0xff) << (y * side)
			covered |= uint64(0xff<<max(0, min(side, all>>16))&0xff) << (y * side)
			some += step
			all += step
		}
		return touched, covered
	}
	some, all := from-less+one+hair, from-more+one-hair
	for y := range side {
		touched |= uint64(0xff>>(side-max(0, min(side, some>>16)))) << (y * side)
		covered |= uint64(0xff>>(side-max(0, min(side, all>>16)))) << (y * side)
		some += step
		all += step
	}
	return touched, covered
}

func (t *tileScratch) part1(b *block, p *part) {
	tr, id := p.tr, p.id
	dz := t.slopes(tr)[0]
	d := &t.sides
	touched, covered := t.masks(p)
	for m := touched &^ covered; m != 0; m &= m - 1 {
		i := bits.TrailingZeros64(m)
		right, down := int64(i&7), int64(i>>3)
		out := int64(0)
		for k := range 3 {
			out |= p.at[k] + p.dx[k]*right + p.dy[k]*down + d.offset[k][0]
		}
		covered |= 1 << i &^ uint64(out>>63)
	}
	b.covered[0] |= covered
	for m := covered; m != 0; m &= m - 1 {
		i := bits.TrailingZeros64(m) & (pixels - 1)
		v := bitsOf(p.z + tr.zy*float32(i>>3) + tr.zx*float32(i&7) + dz)
		was, o := b.depth[i], b.owner[i]
		now := was
		if v > was {
			now, o = v, id
		}
		b.depth[i], b.owner[i] = now, o
		if v == was {
			t.tie(v, &b.depth[i], &b.owner[i], id)
		}
	}
}

func (t *tileScratch) part4(b *block, p *part) {
	tr, id := p.tr, p.id
	dz := t.slopes(tr)
	touched, covered := t.masks(p)
	for m := covered; m != 0; m &= m - 1 {
		i := bits.TrailingZeros64(m) & (pixels - 1)
		z := p.z + tr.zy*float32(i>>3) + tr.zx*float32(i&7)
		b.covered[i>>4] |= 15 << (4 * (i & 15))
		t.put(b, i, id, bitsOf(z+dz[0]), bitsOf(z+dz[1]), bitsOf(z+dz[2]), bitsOf(z+dz[3]))
	}
	d := &t.sides
	for m := touched &^ covered; m != 0; m &= m - 1 {
		i := bits.TrailingZeros64(m) & (pixels - 1)
		z := p.z + tr.zy*float32(i>>3) + tr.zx*float32(i&7)
		right, down := int64(i&7), int64(i>>3)
		e0, e1, e2 := p.at[0]+p.dx[0]*right+p.dy[0]*down, p.at[1]+p.dx[1]*right+p.dy[1]*down, p.at[2]+p.dx[2]*right+p.dy[2]*down
		o0 := ((e0 + d.offset[0][0]) | (e1 + d.offset[1][0]) | (e2 + d.offset[2][0])) >> 63
		o1 := ((e0 + d.offset[0][1]) | (e1 + d.offset[1][1]) | (e2 + d.offset[2][1])) >> 63
		o2 := ((e0 + d.offset[0][2]) | (e1 + d.offset[1][2]) | (e2 + d.offset[2][2])) >> 63
		o3 := ((e0 + d.offset[0][3]) | (e1 + d.offset[1][3]) | (e2 + d.offset[2][3])) >> 63
		b.covered[i>>4] |= insides(o0, o1, o2, o3) << (4 * (i & 15))
		// What is outside is −1, farther than everything.
		t.put(b, i, id, bitsOf(z+dz[0])|bits32(o0), bitsOf(z+dz[1])|bits32(o1), bitsOf(z+dz[2])|bits32(o2), bitsOf(z+dz[3])|bits32(o3))
	}
}

// insides are bits for the samples of a pixel that are not outside, of which each value is
// −1 or 0.
func insides(o0, o1, o2, o3 int64) uint64 {
	return uint64(15 + (o0 + 2*o1 + 4*o2 + 8*o3))
}

// put lets a triangle have the samples of a pixel that it is in front of.
func (t *tileScratch) put(b *block, i int, id uint32, v0, v1, v2, v3 bits32) {
	depth := (*[most]bits32)(b.depth[i*most:])
	owner := (*[most]uint32)(b.owner[i*most:])
	d0, d1, d2, d3 := depth[0], depth[1], depth[2], depth[3]
	o0, o1, o2, o3 := owner[0], owner[1], owner[2], owner[3]
	if v0 == d0 || v1 == d1 || v2 == d2 || v3 == d3 {
		for s, v := range [most]bits32{v0, v1, v2, v3} {
			t.tie(v, &depth[s], &owner[s], id)
		}
		o0, o1, o2, o3 = owner[0], owner[1], owner[2], owner[3]
	}
	if v0 > d0 {
		d0, o0 = v0, id
	}
	if v1 > d1 {
		d1, o1 = v1, id
	}
	if v2 > d2 {
		d2, o2 = v2, id
	}
	if v3 > d3 {
		d3, o3 = v3, id
	}
	depth[0], depth[1], depth[2], depth[3] = d0, d1, d2, d3
	owner[0], owner[1], owner[2], owner[3] = o0, o1, o2, o3
}

// nearness stores 1/depth of the nearest sample of each pixel, 0 for the sky.
func (t *tileScratch) nearness(near []float32) {
	n := t.r.grid.n
	for i := range t.blocks {
		b := &t.blocks[i]
		var tr *triangle
		if b.whole != several && b.whole != nobody {
			tr = t.r.triangleOf(b.whole)
		}
		for y := range min(side, int32(t.r.height)-b.y) {
			row := near[int(b.y+y)*t.r.width:]
			for x := range min(side, int32(t.r.width)-b.x) {
				v := float32(0)
				switch {
				case tr != nil:
					v = tr.at(b.x+x, b.y+y) + (tr.zx+tr.zy)/2
				case b.whole == several:
					v = math.Float32frombits(uint32(slices.Max(b.depth[int(y*side+x)*n:][:n])))
				}
				row[b.x+x] = v
			}
		}
	}
}
