//go:build goexperiment.simd && amd64

package raster

import (
	"math/bits"
	"simd/archsimd"
)

// sixteen says that the samples of parts of blocks are looked at sixteen at a time.
var sixteen = archsimd.X86.AVX512()

// sixteens are lanes for sixteen samples: those of four pixels, or of two rows of pixels
// that have one.
type sixteens struct {
	x, y   [16]int32         // where they are from the first pixel corner, in the grid's units
	px, py [16]float32       // and from the corner of their pixel, in pixels
	pixel  [2][16]float32    // x of their pixels, for each sixteen of a row
	down   [side][16]float32 // y of their pixels, for each row where they begin
	rows   int32             // that they run over
	row    int32             // sixteens in a row
	right  int32             // power of two of the pixels from one sixteen to the next
	unit   int               // of the grid
}

var sixteensOf = [most + 1]*sixteens{1: newSixteens(&grid1, 2, 1), 4: newSixteens(&grid4, 1, 2)}

func newSixteens(g *grid, rows, row int32) *sixteens {
	l := &sixteens{rows: rows, row: row, right: int32(bits.TrailingZeros(uint(side / row))), unit: g.unit}
	for i := range 16 {
		s, at := i%g.n, int32(i/g.n)
		px, py := at%(side/row), at/(side/row)
		l.x[i], l.y[i] = (px*sub+g.x[s])>>g.unit, (py*sub+g.y[s])>>g.unit
		l.px[i], l.py[i] = g.px[s], g.py[s]
		for y := range l.down {
			l.down[y][i] = float32(int32(y) + py)
		}
		for k := range l.pixel {
			l.pixel[k][i] = float32(int32(k)<<l.right + px)
		}
	}
	return l
}

// edge is that of lanes.
func (l *sixteens) edge(p *part, i int, k0, y0 int32) (at, across, down archsimd.Int32x16) {
	if p.at[i] == insideAll {
		return
	}
	e, step, row, dx, dy := p.units(i, l.unit, l.right, k0, y0)
	xs, ys := archsimd.LoadInt32x16(&l.x), archsimd.LoadInt32x16(&l.y)
	at = archsimd.BroadcastInt32x16(e).Add(archsimd.BroadcastInt32x16(dx).Mul(ys)).Sub(archsimd.BroadcastInt32x16(dy).Mul(xs))
	return at, archsimd.BroadcastInt32x16(step), archsimd.BroadcastInt32x16(row * l.rows)
}

// partSixteen is partWide with twice as many lanes, for four samples.
func (t *tileScratch) partSixteen(b *block, p *part) {
	l := sixteensOf[t.r.grid.n]
	k0, k1, y0 := p.x0>>l.right, p.x1>>l.right, p.y0&^(l.rows-1)
	r0, across0, down0 := l.edge(p, 0, k0, y0)
	r1, across1, down1 := l.edge(p, 1, k0, y0)
	r2, across2, down2 := l.edge(p, 2, k0, y0)
	z, zx, zy := archsimd.BroadcastFloat32x16(p.z), archsimd.BroadcastFloat32x16(p.tr.zx), archsimd.BroadcastFloat32x16(p.tr.zy)
	dz := zx.Mul(archsimd.LoadFloat32x16(&l.px)).Add(zy.Mul(archsimd.LoadFloat32x16(&l.py)))
	id := archsimd.BroadcastUint32x16(p.id)
	for y := y0; y <= p.y1; y += l.rows {
		zr := z.Add(zy.Mul(archsimd.LoadFloat32x16(&l.down[y&(side-1)])))
		e0, e1, e2 := r0, r1, r2
		r0, r1, r2 = r0.Add(down0), r1.Add(down1), r2.Add(down2)
		for k := k0; k <= k1; k++ {
			outside := e0.Or(e1).Or(e2).ShiftAllRight(31)
			e0, e1, e2 = e0.Add(across0), e1.Add(across1), e2.Add(across2)
			var zero archsimd.Int32x16
			in := outside.Equal(zero).ToBits()
			if in == 0 {
				continue
			}
			at := (y>>(l.rows>>1)*l.row + k) * 16 & (pixels*most - 16)
			depth, owner := (*[16]int32)(b.depth[at:]), (*[16]uint32)(b.owner[at:])
			b.covered[at>>6] |= uint64(in) << (at & 63)
			d := archsimd.LoadInt32x16(depth)
			zp := zr.Add(zx.Mul(archsimd.LoadFloat32x16(&l.pixel[k&1]))).Add(dz)
			v := zp.AsInt32x16().Or(outside) // outside is farther than everything
			front := v.Greater(d)
			v.Merge(d, front).Store(depth)
			id.Merge(archsimd.LoadUint32x16(owner), front).Store(owner)
			for same := v.Equal(d).ToBits(); same != 0; same &= same - 1 {
				i := bits.TrailingZeros16(same)
				t.tie(depth[i], &depth[i], &owner[i], p.id)
			}
		}
	}
	archsimd.ClearAVXUpperBits()
}

// rowsSixteen is partSixteen for one sample: two rows of pixels at a time.
func (t *tileScratch) rowsSixteen(b *block, p *part) {
	l := sixteensOf[1]
	y0 := p.y0 & (side - 2)
	e0, _, down0 := l.edge(p, 0, 0, y0)
	e1, _, down1 := l.edge(p, 1, 0, y0)
	e2, _, down2 := l.edge(p, 2, 0, y0)
	z, zx, zy := archsimd.BroadcastFloat32x16(p.z), archsimd.BroadcastFloat32x16(p.tr.zx), archsimd.BroadcastFloat32x16(p.tr.zy)
	dz := zx.Mul(archsimd.LoadFloat32x16(&l.px)).Add(zy.Mul(archsimd.LoadFloat32x16(&l.py)))
	across := zx.Mul(archsimd.LoadFloat32x16(&l.pixel[0]))
	id := archsimd.BroadcastUint32x16(p.id)
	var zero archsimd.Int32x16
	for y := y0; y <= p.y1; y += 2 {
		outside := e0.Or(e1).Or(e2).ShiftAllRight(31)
		e0, e1, e2 = e0.Add(down0), e1.Add(down1), e2.Add(down2)
		v := z.Add(zy.Mul(archsimd.LoadFloat32x16(&l.down[y&(side-1)]))).Add(across).Add(dz).AsInt32x16().Or(outside)
		at := int(y) * side & (pixels - 16)
		depth, owner := (*[16]int32)(b.depth[at:]), (*[16]uint32)(b.owner[at:])
		b.covered[0] |= uint64(outside.Equal(zero).ToBits()) << at
		d := archsimd.LoadInt32x16(depth)
		front := v.Greater(d)
		v.Merge(d, front).Store(depth)
		id.Merge(archsimd.LoadUint32x16(owner), front).Store(owner)
		for same := v.Equal(d).ToBits(); same != 0; same &= same - 1 {
			i := bits.TrailingZeros16(same)
			t.tie(depth[i], &depth[i], &owner[i], p.id)
		}
	}
	archsimd.ClearAVXUpperBits()
}
