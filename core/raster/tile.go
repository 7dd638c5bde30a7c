package raster

import "image"

// tileScratch is the working memory of one thread for one tile: for each
// sample the nearest 1/w and the triangle it belongs to.
type tileScratch struct {
	depth [tile * tile * samples]float32
	owner [tile * tile * samples]uint32
}

// nobody marks a sample that shows the sky. Owners are the chunk's number in
// the top 8 bits and the triangle's in the rest.
const (
	nobody     = ^uint32(0)
	ownerShift = 24 // an owner is a chunk and a triangle of it; the last of all is nobody
)

// edge is one side of a triangle as a function over the tile, ≥ 0 inside.
type edge struct {
	at, dx, dy int32          // value at the tile's first pixel corner; steps per pixel
	offset     [samples]int32 // added for each sample
	lo, hi     int32          // smallest and largest offset
}

func (r *Renderer) tile(t *tileScratch, s *shader, index int, out *image.RGBA) {
	ox, oy := int32(index%r.tilesX*tile), int32(index/r.tilesX*tile)
	w, h := min(int32(tile), int32(r.width)-ox), min(int32(tile), int32(r.height)-oy)
	for i := range t.owner {
		t.owner[i] = nobody
	}
	clear(t.depth[:])
	for c := range r.chunks {
		ch := &r.chunks[c]
		for _, id := range ch.bins[index] {
			t.triangle(&ch.triangles[id], uint32(c)<<ownerShift|id, ox, oy, w, h)
		}
	}
	r.shade(t, s, ox, oy, w, h, out)
	if len(r.near) == 0 {
		return
	}
	for y := range h {
		for x := range w {
			d := t.depth[(y*tile+x)*samples:]
			r.near[int(oy+y)*r.width+int(ox+x)] = max(d[0], d[1], d[2], d[3])
		}
	}
}

// triangle draws one triangle into the tile's depth and owner.
func (t *tileScratch) triangle(tr *triangle, id uint32, ox, oy, w, h int32) {
	x0, x1 := max(0, int32(tr.minX)-ox), min(w-1, int32(tr.maxX)-ox)
	y0, y1 := max(0, int32(tr.minY)-oy), min(h-1, int32(tr.maxY)-oy)
	if x0 > x1 || y0 > y1 {
		return
	}
	var edges [3]edge
	n := 0
	for i := range 3 {
		k := (i + 1) % 3
		ax, ay := int64(tr.x[i]), int64(tr.y[i])
		dx, dy := int64(tr.x[k])-ax, int64(tr.y[k])-ay
		// E(x, y) = dx·(y−ay) − dy·(x−ax), positive inside; pixels on an edge
		// belong to the triangle of which it is a top or left edge.
		e := dx*(int64(oy)*sub-ay) - dy*(int64(ox)*sub-ax)
		if !(dy < 0 || dy == 0 && dx > 0) {
			e--
		}
		stepX, stepY := -dy*sub, dx*sub
		// Over the pixels in question, is this edge all inside or all outside?
		first := e + stepX*int64(x0) + stepY*int64(y0)
		spanX, spanY := stepX*int64(x1-x0+1), stepY*int64(y1-y0+1)
		lo, hi := first+min(0, spanX)+min(0, spanY), first+max(0, spanX)+max(0, spanY)
		if hi < 0 {
			return
		}
		if lo >= 0 {
			continue
		}
		g := &edges[n]
		n++
		// The edge crosses the tile, so its values there fit 32 bits.
		g.at, g.dx, g.dy = int32(first), int32(stepX), int32(stepY)
		for s := range samples {
			o := int32(dx)*sampleY[s] - int32(dy)*sampleX[s]
			g.offset[s] = o
			if s == 0 || o < g.lo {
				g.lo = o
			}
			if s == 0 || o > g.hi {
				g.hi = o
			}
		}
	}
	var dz [samples]float32
	for s := range samples {
		dz[s] = tr.zx*float32(sampleX[s])/sub + tr.zy*float32(sampleY[s])/sub
	}
	zRow := tr.z0 + tr.zx*float32(ox+x0) + tr.zy*float32(oy+y0)
	if n == 0 {
		t.fill(tr, id, x0, y0, x1, y1, zRow, &dz)
		return
	}
	for y := y0; y <= y1; y++ {
		z := zRow
		at := (y*tile + x0) * samples
		e0, e1, e2 := edges[0].at, edges[1].at, edges[2].at
		for x := x0; x <= x1; x++ {
			outside := (e0 + edges[0].hi) | (e1 + edges[1].hi) | (e2 + edges[2].hi)
			if outside >= 0 {
				depth := (*[samples]float32)(t.depth[at : at+samples])
				owner := (*[samples]uint32)(t.owner[at : at+samples])
				if (e0+edges[0].lo)|(e1+edges[1].lo)|(e2+edges[2].lo) >= 0 {
					cover(depth, owner, z, &dz, id)
				} else {
					for s := range samples {
						if (e0+edges[0].offset[s])|(e1+edges[1].offset[s])|(e2+edges[2].offset[s]) >= 0 {
							if v := z + dz[s]; v > depth[s] {
								depth[s], owner[s] = v, id
							}
						}
					}
				}
			}
			e0 += edges[0].dx
			e1 += edges[1].dx
			e2 += edges[2].dx
			z += tr.zx
			at += samples
		}
		edges[0].at += edges[0].dy
		edges[1].at += edges[1].dy
		edges[2].at += edges[2].dy
		zRow += tr.zy
	}
}

// cover sets all samples of a pixel that the triangle is in front of.
func cover(depth *[samples]float32, owner *[samples]uint32, z float32, dz *[samples]float32, id uint32) {
	if v := z + dz[0]; v > depth[0] {
		depth[0], owner[0] = v, id
	}
	if v := z + dz[1]; v > depth[1] {
		depth[1], owner[1] = v, id
	}
	if v := z + dz[2]; v > depth[2] {
		depth[2], owner[2] = v, id
	}
	if v := z + dz[3]; v > depth[3] {
		depth[3], owner[3] = v, id
	}
}

// fill is triangle for a part of the tile that lies wholly inside.
func (t *tileScratch) fill(tr *triangle, id uint32, x0, y0, x1, y1 int32, zRow float32, dz *[samples]float32) {
	for y := y0; y <= y1; y++ {
		z := zRow
		at := (y*tile + x0) * samples
		for range x1 - x0 + 1 {
			cover((*[samples]float32)(t.depth[at:at+samples]), (*[samples]uint32)(t.owner[at:at+samples]), z, dz, id)
			z += tr.zx
			at += samples
		}
		zRow += tr.zy
	}
}
