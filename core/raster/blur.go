package raster

import (
	"image"
	"math"
)

// Lens says how a lens blurs what is out of focus: Spread is the diameter of
// the blur at an infinite distance as a share of the picture's height, Focus
// the distance in metres along the view axis that is sharp. The zero Lens is
// sharp everywhere.
type Lens struct {
	Spread, Focus float64
}

// The blur gathers around each pixel along a spiral of blurTaps places that
// reaches blurLimit of the picture's height; docs/shading.md says why the
// places are denser in the middle. The view in the browser does the same.
const (
	blurTaps  = 40
	blurLimit = 1.0 / 40
	goldenTau = 2.399963229728653 // the golden angle
)

// tap is one place of the spiral: its offset in pixels, how far away it is, and
// the area that it stands for.
type tap struct {
	dx, dy  int
	r, area float32
}

func spiral(limit float64) (out [blurTaps]tap) {
	step := limit / blurTaps
	for i := range out {
		r := (float64(i) + 0.5) * step
		s, c := math.Sincos(float64(i) * goldenTau)
		out[i] = tap{int(math.Floor(r*c + 0.5)), int(math.Floor(r*s + 0.5)), float32(r), float32(2 * math.Pi * r * step)}
	}
	return out
}

// sharpest is the radius in pixels under which nothing is blurred.
const sharpest = 0.6

// blur spreads what is out of focus in out. r.near holds 1/depth of each pixel,
// 0 for the sky.
func (r *Renderer) blur(l Lens, out *image.RGBA) {
	limit := float32(blurLimit * float64(r.height))
	half := float32(l.Spread * float64(r.height) / 2)
	focus := float32(l.Focus)
	radius := func(near float32) float32 {
		v := half * (1 - focus*near)
		if v < 0 {
			v = -v
		}
		return min(limit, v)
	}
	r.radii = grown(r.radii, r.width*r.height)
	worst := make([]float32, r.tilesX*r.tilesY)
	each := func(index int, do func(at int)) {
		ox, oy := index%r.tilesX*tile, index/r.tilesX*tile
		for y := oy; y < min(oy+tile, r.height); y++ {
			for x := ox; x < min(ox+tile, r.width); x++ {
				do(y*r.width + x)
			}
		}
	}
	r.parallel(len(worst), func(_, i int) {
		each(i, func(at int) {
			r.radii[at] = radius(r.near[at])
			worst[i] = max(worst[i], r.radii[at])
		})
	})
	r.source = grown(r.source, len(out.Pix))
	copy(r.source, out.Pix)
	taps := spiral(float64(limit))
	r.parallel(len(worst), func(_, i int) {
		// Blur reaches from the neighbours, for it is never wider than a tile.
		most := float32(0)
		for dy := -1; dy <= 1; dy++ {
			for dx := -1; dx <= 1; dx++ {
				if x, y := i%r.tilesX+dx, i/r.tilesX+dy; x >= 0 && y >= 0 && x < r.tilesX && y < r.tilesY {
					most = max(most, worst[y*r.tilesX+x])
				}
			}
		}
		if most < sharpest {
			return
		}
		each(i, func(at int) { r.gather(&taps, at, most, out) })
	})
}

// gather sets one pixel to what its surroundings spread over it: each place
// gives its colour, in squared values as a rough linear light, over the disc of
// its own blur; what lies behind the pixel spreads no further over it than the
// pixel itself is blurred.
func (r *Renderer) gather(taps *[blurTaps]tap, at int, most float32, out *image.RGBA) {
	x, y := at%r.width, at/r.width
	own, near := r.radii[at], r.near[at]
	sum := [3]float32{}
	weight := float32(0)
	add := func(k int, w float32) {
		for c := range sum {
			v := float32(r.source[k*4+c])
			sum[c] += w * v * v
		}
		weight += w
	}
	wide := max(own, 0.5)
	add(at, math.Pi/4/(wide*wide))
	for i := range taps {
		t := &taps[i]
		if t.r > most+0.5 {
			break
		}
		px, py := x+t.dx, y+t.dy
		if px < 0 || py < 0 || px >= r.width || py >= r.height {
			continue
		}
		k := py*r.width + px
		reach := r.radii[k]
		if r.near[k] < near {
			reach = min(reach, own)
		}
		over := reach - t.r + 0.5
		if over <= 0 {
			continue
		}
		reach = max(reach, 0.5)
		add(k, min(1, over)*t.area/(reach*reach))
	}
	for c := range sum {
		out.Pix[at*4+c] = uint8(float32(math.Sqrt(float64(sum[c]/weight))) + 0.5)
	}
}

func grown[T any](b []T, n int) []T {
	if cap(b) >= n {
		return b[:n]
	}
	return make([]T, n)
}
