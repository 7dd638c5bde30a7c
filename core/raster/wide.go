//go:build goexperiment.simd && amd64

package raster

import (
	"image"
	"math/bits"
	"simd/archsimd"
)

// wide says that samples are looked at eight at a time, where the processor can. All that
// is done so gives the same bytes as one by one: whole numbers are whole, and sums and
// products of single precision are taken in the same order.
var wide = archsimd.X86.AVX2()

// lanes are eight samples that follow each other in a block: those of two pixels, or of a
// row of pixels that have one.
type lanes struct {
	x, y   [8]int32      // where they are from the first pixel corner, in the grid's units
	px, py [8]float32    // and from the corner of their pixel, in pixels
	pixel  [4][8]float32 // x of their pixels, for each eight of a row
	row    int32         // eights in a row
	right  int32         // power of two of the pixels from one eight to the next
	unit   int           // of the grid
}

var lanesOf = [most + 1]*lanes{1: newLanes(&grid1), 4: newLanes(&grid4)}

func newLanes(g *grid) *lanes {
	l := &lanes{row: int32(g.n), right: int32(bits.TrailingZeros(uint(side / g.n))), unit: g.unit}
	for i := range 8 {
		s, px := i%g.n, int32(i/g.n)
		l.x[i], l.y[i] = (px*sub+g.x[s])>>g.unit, g.y[s]>>g.unit
		l.px[i], l.py[i] = g.px[s], g.py[s]
		for k := range l.pixel {
			l.pixel[k][i] = float32(int32(k)<<l.right + px)
		}
	}
	return l
}

// slopes are what the depth of each lane differs by from that of its pixel's corner.
func (l *lanes) slopes(tr *triangle) archsimd.Float32x8 {
	zx, zy := archsimd.BroadcastFloat32x8(tr.zx), archsimd.BroadcastFloat32x8(tr.zy)
	return zx.Mul(archsimd.LoadFloat32x8(&l.px)).Add(zy.Mul(archsimd.LoadFloat32x8(&l.py)))
}

// units returns a side of a part at the corner of one of its pixels, its steps to the next
// lanes and to the next row, and how far it runs, all in units of the grid.
func (p *part) units(i, unit int, right, k, y int32) (e, step, row, dx, dy int32) {
	dx, dy = int32(p.dy[i]>>subBits), int32(-p.dx[i]>>subBits)
	step, row = -dy<<(subBits-unit)<<right, dx<<(subBits-unit)
	return int32(p.at[i]>>unit) + step*k + row*y, step, row, dx, dy
}

// edge returns a side of a part at its first eight, and its steps to the next eight and to
// the next row, in units rounded down: samples only add whole units.
func (l *lanes) edge(p *part, i int, k0 int32) (at, across, down archsimd.Int32x8) {
	if p.at[i] == insideAll {
		return
	}
	e, step, row, dx, dy := p.units(i, l.unit, l.right, k0, p.y0)
	xs, ys := archsimd.LoadInt32x8(&l.x), archsimd.LoadInt32x8(&l.y)
	at = archsimd.BroadcastInt32x8(e).Add(archsimd.BroadcastInt32x8(dx).Mul(ys)).Sub(archsimd.BroadcastInt32x8(dy).Mul(xs))
	return at, archsimd.BroadcastInt32x8(step), archsimd.BroadcastInt32x8(row)
}

// partLanes draws what a triangle covers of a block, with as many lanes as there are.
func (t *tileScratch) partLanes(b *block, p *part) {
	switch {
	case !t.r.sixteens:
		t.partWide(b, p)
	case t.r.grid.n == 1:
		t.rowsSixteen(b, p)
	default:
		t.partSixteen(b, p)
	}
}

// partWide draws what a triangle covers of a block.
func (t *tileScratch) partWide(b *block, p *part) {
	l := lanesOf[t.r.grid.n]
	k0, k1 := p.x0>>l.right, p.x1>>l.right
	r0, across0, down0 := l.edge(p, 0, k0)
	r1, across1, down1 := l.edge(p, 1, k0)
	r2, across2, down2 := l.edge(p, 2, k0)
	zx, dz := archsimd.BroadcastFloat32x8(p.tr.zx), l.slopes(p.tr)
	id := archsimd.BroadcastUint32x8(p.id)
	var zero archsimd.Int32x8
	for y := p.y0; y <= p.y1; y++ {
		zr := archsimd.BroadcastFloat32x8(p.z + p.tr.zy*float32(y))
		e0, e1, e2 := r0, r1, r2
		r0, r1, r2 = r0.Add(down0), r1.Add(down1), r2.Add(down2)
		for k := k0; k <= k1; k++ {
			outside := zero.Greater(e0.Or(e1).Or(e2))
			e0, e1, e2 = e0.Add(across0), e1.Add(across1), e2.Add(across2)
			in := ^outside.ToBits()
			if in == 0 {
				continue
			}
			at := (y*l.row + k) * 8 & (pixels*most - 8)
			depth, owner := (*[8]int32)(b.depth[at:]), (*[8]uint32)(b.owner[at:])
			b.covered[at>>6] |= uint64(in) << (at & 63)
			d := archsimd.LoadInt32x8(depth)
			zp := zr.Add(zx.Mul(archsimd.LoadFloat32x8(&l.pixel[k&3]))).Add(dz)
			v := zp.AsInt32x8().Or(outside.ToInt32x8()) // outside is farther than everything
			front := v.Greater(d)
			v.Merge(d, front).Store(depth)
			id.Merge(archsimd.LoadUint32x8(owner), front).Store(owner)
			for same := v.Equal(d).ToBits(); same != 0; same &= same - 1 {
				i := bits.TrailingZeros8(same)
				t.tie(depth[i], &depth[i], &owner[i], p.id)
			}
		}
	}
	archsimd.ClearAVXUpperBits()
}

// amongWide is among, a row of blocks at a time.
func (d *sides) amongWide(columns uint16, y0, y1 int32) (touched uint16, cut [3]uint16) {
	hi0, span0, down0 := d.row(0, y0)
	hi1, span1, down1 := d.row(1, y0)
	hi2, span2, down2 := d.row(2, y0)
	var zero archsimd.Int64x4
	for y := y0; y <= y1; y++ {
		touched |= (columns &^ uint16(zero.Greater(hi0.Or(hi1).Or(hi2)).ToBits())) << (y * tileBlocks)
		cut[0] |= uint16(zero.Greater(hi0.Sub(span0)).ToBits()) << (y * tileBlocks)
		cut[1] |= uint16(zero.Greater(hi1.Sub(span1)).ToBits()) << (y * tileBlocks)
		cut[2] |= uint16(zero.Greater(hi2.Sub(span2)).ToBits()) << (y * tileBlocks)
		hi0, hi1, hi2 = hi0.Add(down0), hi1.Add(down1), hi2.Add(down2)
	}
	archsimd.ClearAVXUpperBits()
	return touched, cut
}

// row returns the most that a side is anywhere in each block of a row, by how much more
// that is than the least, and the step to the next row.
func (d *sides) row(i int, y int32) (hi, span, down archsimd.Int64x4) {
	first, right := d.at[i]+d.spanHi[i]+d.dy[i]*int64(y*side), d.dx[i]*side
	each := [4]int64{first, first + right, first + 2*right, first + 3*right}
	return archsimd.LoadInt64x4(&each), archsimd.BroadcastInt64x4(d.spanHi[i] - d.spanLo[i]), archsimd.BroadcastInt64x4(d.dy[i] * side)
}

// writeWide is write for a whole block.
func (t *tileScratch) writeWide(b *block, out *image.RGBA) {
	o := out.PixOffset(int(b.x)+out.Rect.Min.X, int(b.y)+out.Rect.Min.Y)
	for y := range side {
		v := archsimd.LoadUint32x8((*[8]uint32)(t.colors[y*side:]))
		v.AsUint8x32().Store((*[4 * side]uint8)(out.Pix[o:]))
		o += out.Stride
	}
	archsimd.ClearAVXUpperBits()
}

// plainWide gives a whole block one colour.
func (b *block) plainWide(c uint32, out *image.RGBA) {
	o := out.PixOffset(int(b.x)+out.Rect.Min.X, int(b.y)+out.Rect.Min.Y)
	v := archsimd.BroadcastUint32x8(c).AsUint8x32()
	for range side {
		v.Store((*[4 * side]uint8)(out.Pix[o:]))
		o += out.Stride
	}
	archsimd.ClearAVXUpperBits()
}

// smallWide draws a triangle that is not wider or higher than a block, of which it touches
// the pixels between x0, y0 and x1, y1 in the tile.
func (t *tileScratch) smallWide(tr *triangle, id uint32, ox, oy, x0, x1, y0, y1 int32) {
	p := part{tr: tr, id: id}
	for by := y0 / side; by <= y1/side; by++ {
		for bx := x0 / side; bx <= x1/side; bx++ {
			b := &t.blocks[by*tileBlocks+bx]
			if tr.near < b.far {
				continue
			}
			for i := range 3 {
				e, dx, dy := tr.side(i, b.x, b.y)
				p.at[i], p.dx[i], p.dy[i] = e, -dy*sub, dx*sub
			}
			p.x0, p.x1 = max(x0-bx*side, 0), min(x1-bx*side, side-1)
			p.y0, p.y1 = max(y0-by*side, 0), min(y1-by*side, side-1)
			p.z = tr.at(b.x, b.y)
			t.open(b)
			t.partLanes(b, &p)
			b.near, b.layer = greater(b.near, tr.near), lesser(b.layer, tr.far)
			b.settle(t.r.grid.n)
		}
	}
}

// fillWide gives all samples of a block to an owner, at the depth of its plane.
func (t *tileScratch) fillWide(b *block, id uint32) {
	l := lanesOf[t.r.grid.n]
	owner := archsimd.BroadcastUint32x8(id)
	samples := int(l.row) * pixels
	for at := 0; at < samples; at += 8 {
		owner.Store((*[8]uint32)(b.owner[at:]))
	}
	if id == nobody {
		archsimd.ClearAVXUpperBits()
		clear(b.depth[:samples])
		return
	}
	tr := t.r.triangleOf(id)
	z := tr.at(b.x, b.y)
	zx, dz := archsimd.BroadcastFloat32x8(tr.zx), l.slopes(tr)
	at := 0
	for y := range side {
		zr := archsimd.BroadcastFloat32x8(z + tr.zy*float32(y))
		for k := range l.row {
			v := zr.Add(zx.Mul(archsimd.LoadFloat32x8(&l.pixel[k&3]))).Add(dz)
			v.AsInt32x8().Store((*[8]int32)(b.depth[at:]))
			at += 8
		}
	}
	archsimd.ClearAVXUpperBits()
}

// aloneWide is alone, two pixels at a time.
func (b *block) aloneWide(first *[pixels]uint32) (out uint64) {
	for at := 0; at < pixels; at += 2 {
		v := archsimd.LoadUint32x8((*[8]uint32)(b.owner[at*most:]))
		same := v.Equal(v.PermuteScalarsGrouped(0, 0, 0, 0)).ToBits()
		out |= uint64(fourSame[same&15]|fourSame[same>>4]<<1) << at
		first[at], first[at+1] = b.owner[at*most], b.owner[at*most+most]
	}
	archsimd.ClearAVXUpperBits()
	return out
}

var fourSame = [16]uint8{15: 1}

// firstsWide is firstIn for all pixels of a block.
func firstsWide(first *[pixels]uint32, owner uint32) (out uint64) {
	o := archsimd.BroadcastUint32x8(owner)
	for at := 0; at < pixels; at += 8 {
		out |= uint64(archsimd.LoadUint32x8((*[8]uint32)(first[at:])).Equal(o).ToBits()) << at
	}
	archsimd.ClearAVXUpperBits()
	return out
}

// projectWide is project, eight vertices at a time.
func (c *builder) projectWide(p *placed, n int, places *[3][]float32) {
	f := &p.rows
	sum := func(k int, x, y, z f8) f8 {
		return all(f[k]).Mul(x).Add(all(f[k+1]).Mul(y)).Add(all(f[k+2]).Mul(z)).Add(all(f[k+3]))
	}
	// Rounded down from a half on, as project1 does.
	round := func(v f8) archsimd.Int32x8 {
		v = v.Mul(all(sub))
		down := v.Floor()
		return down.ConvertToInt32().Sub(v.Sub(down).GreaterEqual(all(0.5)).ToInt32x8())
	}
	for i := 0; i < n; i += 8 {
		vx, vy, vz := archsimd.LoadFloat32x8((*[8]float32)(places[0][i:])), archsimd.LoadFloat32x8((*[8]float32)(places[1][i:])), archsimd.LoadFloat32x8((*[8]float32)(places[2][i:]))
		x, y, w := sum(0, vx, vy, vz), sum(4, vx, vy, vz), sum(8, vx, vy, vz)
		iw := all(1).Div(w)
		x.Store((*[8]float32)(c.x[i:]))
		y.Store((*[8]float32)(c.y[i:]))
		w.Store((*[8]float32)(c.w[i:]))
		iw.Store((*[8]float32)(c.iw[i:]))
		round(x.Mul(iw)).Store((*[8]int32)(c.px[i:]))
		round(y.Mul(iw)).Store((*[8]int32)(c.py[i:]))
	}
	archsimd.ClearAVXUpperBits()
}
