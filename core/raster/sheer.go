package raster

import (
	"encoding/binary"
	"image"
	"math"
	"math/bits"
	"slices"

	"proscen/core/kit"
)

// What lets through what is behind it is looked at after all that does not. Of what has
// holes, each pixel is there or not, and is seen like everything else then. What blends is
// laid over the finished tile, the farthest first, and is not in layers.

// opacity is how opaque a triangle is over the picture: the place in its texture, over w.
type opacity struct {
	mesh    *kit.Mesh
	u, v, w plane
}

// newOpacity returns that of the triangle of a mesh whose indices begin at one of them, and
// whose corners are at places over the picture.
func newOpacity(m *kit.Mesh, index uint32, corners *[3]corner) opacity {
	o := opacity{mesh: m}
	if m.Texture == nil {
		return o
	}
	for k, share := range cornerShares(corners) {
		at := m.Indices[int(index)+k]
		o.u.add(&share, m.UVs[2*at])
		o.v.add(&share, m.UVs[2*at+1])
		o.w.add(&share, 1)
	}
	return o
}

func (p *plane) add(share *plane, by float32) {
	p.at += share.at * by
	p.x += share.x * by
	p.y += share.y * by
}

func (r *Renderer) opacityOf(tr *triangle) opacity {
	m := r.draws[tr.draw].Mesh
	c := r.placed[tr.draw].corners(m, tr.index)
	return newOpacity(m, tr.index, &c)
}

// at is how opaque it is at a place in the picture.
func (o *opacity) at(px, py float32) float32 {
	if o.mesh.Texture == nil {
		return o.mesh.Opacity(0, 0, 0)
	}
	depth := 1 / o.w.of(px, py)
	u, v := o.u.of(px, py)*depth, o.v.of(px, py)*depth
	return o.mesh.Opacity(u, v, texelsIn(o.mesh.Texture, u, v, depth, &o.u, &o.v, &o.w))
}

// touch is a pixel of a block that a triangle touches.
type touch struct {
	i       int     // which, by rows
	px, py  float32 // its corner in the picture
	samples uint32  // inside, as bits
	z       float32 // 1/w at its corner
}

// touches opens the blocks of the tile in which a triangle may be in front, and calls each
// for the pixels that it touches there, after entered for their block.
func (t *tileScratch) touches(tr *triangle, ox, oy int32, in window, entered func(b *block), each func(b *block, p *touch)) {
	g := &t.r.grid
	for n := range t.blocks {
		b := &t.blocks[n]
		x, y := b.x-ox, b.y-oy
		x0, x1 := max(int32(in.x0)-x, 0), min(int32(in.x1)-x, side-1)
		y0, y1 := max(int32(in.y0)-y, 0), min(int32(in.y1)-y, side-1)
		if x0 > x1 || y0 > y1 || tr.near < b.far {
			continue
		}
		t.open(b)
		entered(b)
		z := tr.at(b.x, b.y)
		var at, dx, dy [3]int64
		for i := range 3 {
			at[i], dx[i], dy[i] = tr.side(i, b.x, b.y)
		}
		for y := y0; y <= y1; y++ {
			for x := x0; x <= x1; x++ {
				p := touch{i: int(y*side + x), px: float32(b.x + x), py: float32(b.y + y), z: z + tr.zy*float32(y) + tr.zx*float32(x)}
				for s := range g.n {
					right, down := int64(x)*sub+int64(g.x[s]), int64(y)*sub+int64(g.y[s])
					if (at[0]+dx[0]*down-dy[0]*right)|(at[1]+dx[1]*down-dy[1]*right)|(at[2]+dx[2]*down-dy[2]*right) >= 0 {
						p.samples |= 1 << s
					}
				}
				if p.samples != 0 {
					each(b, &p)
				}
			}
		}
		b.settle(g.n)
	}
}

// cutOuts finds what is in front of what has holes.
func (t *tileScratch) cutOuts(index int, ox, oy int32) {
	n := t.r.grid.n
	for c := range t.r.chunks {
		t.show(t.r.chunks[c].sheer[index], ox, oy, func(tr *triangle, id uint32, in window) {
			m := t.r.draws[tr.draw].Mesh
			if m.Sheer.Blend {
				return
			}
			o, dz := t.r.opacityOf(tr), t.slopes(tr)
			t.touches(tr, ox, oy, in, func(b *block) {
				b.near, b.layer = greater(b.near, tr.near), lesser(b.layer, tr.far)
			}, func(b *block, p *touch) {
				if !(o.at(p.px+0.5, p.py+0.5) >= m.Sheer.Cut) {
					return
				}
				for left := p.samples; left != 0; left &= left - 1 {
					s := bits.TrailingZeros32(left)
					at := p.i*n + s
					b.covered[at>>6] |= 1 << (at & 63)
					v := bitsOf(p.z + dz[s])
					if v > b.depth[at] {
						b.depth[at], b.owner[at] = v, id
					} else {
						t.tie(v, &b.depth[at], &b.owner[at], id)
					}
				}
			})
		})
	}
}

// veil is a triangle that blends.
type veil struct {
	in   window
	tr   *triangle
	id   uint32
	near float32 // 1/w of its middle
}

// blend lays what blends over the finished picture of a tile. What several samples of a
// pixel see is averaged in finished bytes, as at edges.
func (t *tileScratch) blend(s *shader, out *image.RGBA) {
	ox, oy := t.blocks[0].x, t.blocks[0].y
	index := int(oy)/tile*t.r.tilesX + int(ox)/tile
	t.veils = t.veils[:0]
	for c := range t.r.chunks {
		t.show(t.r.chunks[c].sheer[index], ox, oy, func(tr *triangle, id uint32, in window) {
			if t.r.draws[tr.draw].Mesh.Sheer.Blend {
				x, y := tr.middle()
				t.veils = append(t.veils, veil{in, tr, id, tr.z + tr.zx*x + tr.zy*y})
			}
		})
	}
	if len(t.veils) == 0 {
		return
	}
	slices.SortStableFunc(t.veils, func(a, b veil) int {
		switch {
		case a.near < b.near:
			return -1
		case a.near > b.near:
			return 1
		case a.tr.draw != b.tr.draw:
			return int(a.tr.draw) - int(b.tr.draw)
		}
		return int(a.tr.index) - int(b.tr.index)
	})
	t.lamps = t.lamps[:0]
	for i := range s.lamps {
		t.lamps = append(t.lamps, &s.lamps[i])
	}
	for i := range t.veils {
		t.lay(s, &t.veils[i], ox, oy, out)
	}
}

// middle is where the middle of a triangle is, in pixels from its first corner.
func (t *triangle) middle() (x, y float32) {
	return float32(int64(t.x[1])+int64(t.x[2])-2*int64(t.x[0])) / (3 * sub), float32(int64(t.y[1])+int64(t.y[2])-2*int64(t.y[0])) / (3 * sub)
}

// lay blends a triangle over the picture, where nothing is in front of it.
func (t *tileScratch) lay(s *shader, v *veil, ox, oy int32, out *image.RGBA) {
	n := t.r.grid.n
	o, dz := t.r.opacityOf(v.tr), t.slopes(v.tr)
	var f *face
	t.touches(v.tr, ox, oy, v.in, func(b *block) { f = t.enter(s, v.id, b) }, func(b *block, p *touch) {
		x, y := int(p.px), int(p.py)
		if x >= t.r.width || y >= t.r.height {
			return
		}
		var seen uint32
		for left := p.samples; left != 0; left &= left - 1 {
			k := bits.TrailingZeros32(left)
			if bitsOf(p.z+dz[k]) > b.depth[p.i*n+k] {
				seen |= 1 << k
			}
		}
		if seen == 0 {
			return
		}
		mx, my := float32(0.5), float32(0.5)
		if n == most {
			mx, my = middles[seen].x, middles[seen].y
		}
		share := o.at(p.px+0.5, p.py+0.5) * float32(bits.OnesCount32(seen)) / float32(n)
		pix := out.Pix[out.PixOffset(x+out.Rect.Min.X, y+out.Rect.Min.Y):]
		binary.LittleEndian.PutUint32(pix, over(binary.LittleEndian.Uint32(pix), f.at(t, s, p.px+mx, p.py+my), share))
	})
}

// over lays a share of a colour over another one, in finished bytes.
func over(below, above uint32, share float32) (out uint32) {
	for shift := 0; shift < 24; shift += 8 {
		a, b := float32(below>>shift&255), float32(above>>shift&255)
		out |= uint32(math.Round(float64(a+(b-a)*share))) << shift
	}
	return out | 255<<24
}
