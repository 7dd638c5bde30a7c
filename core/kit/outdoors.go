package kit

import (
	"math"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

func broadTree(b *builder, p params) {
	h, w, seed := p.get("height"), p.get("width")/2, p.int("seed")
	trunk := h * 0.34
	b.tinted(timber.shade(0.55), func() {
		b.cylinder(h*0.032, h*0.02, 0, trunk*1.25, 8)
		for i := range 4 {
			s, c := math.Sincos(float64(i)*1.57 + lattice(i, 4, seed))
			b.beam(vec(c*w*0.5, trunk*1.65, s*w*0.5), vec(0, trunk*0.85, 0), h*0.018)
		}
	})
	clumps := 7
	for i := range clumps {
		a := 2 * math.Pi * float64(i) / float64(clumps-1)
		s, c := math.Sincos(a + 0.4*lattice(i, 1, seed))
		d := 0.5 * w
		y := trunk + (h-trunk)*(0.4+0.14*lattice(i, 2, seed))
		r := w * (0.52 + 0.1*lattice(i, 3, seed))
		if i == clumps-1 {
			d, y, r = 0, h-0.36*(h-trunk), w*0.66
		}
		b.tinted(b.color.shade(0.9+0.2*float32(lattice(i, 5, seed))), func() {
			b.lump(vec(c*d, y, s*d), r, min(r, (h-trunk)*0.38), seed+i*7)
		})
	}
}

// lump adds a faceted, uneven ball.
func (b *builder) lump(at r3.Vec, r, tall float64, seed int) {
	const rows, cols = 5, 8
	point := func(i, k int) r3.Vec {
		k %= cols
		s, c := math.Sincos(math.Pi * float64(i) / rows)
		su, cu := math.Sincos(2*math.Pi*float64(k)/cols + 0.4*float64(i%2))
		q := 1 + 0.16*lattice(i, k*5, seed)
		if i == 0 || i == rows {
			q = 1
		}
		return r3.Add(at, vec(s*cu*r*q, -c*tall*q, s*su*r*q))
	}
	for i := range rows {
		for k := range cols {
			b.tinted(b.color.shade(0.8+0.09*float32(i)+0.1*float32(lattice(i, k, seed+3))), func() {
				a, c, d, e := point(i, k), point(i, k+1), point(i+1, k+1), point(i+1, k)
				if i > 0 {
					b.face(a, d, c)
				}
				if i < rows-1 {
					b.face(a, e, d)
				}
			})
		}
	}
}

func bush(b *builder, p params) {
	w, h, seed := p.get("width")/2, p.get("height"), p.int("seed")
	for i := range 4 {
		s, c := math.Sincos(1.57*float64(i) + lattice(i, 2, seed))
		b.tinted(b.color.shade(0.9+0.16*float32(lattice(i, 4, seed))), func() {
			b.lump(vec(c*w*0.45, h*0.42, s*w*0.45), w*0.58, h*0.5, seed+i)
		})
	}
}

// ribbon lays a flat strip along the piece's path, or along X, with a height
// above it.
func ribbon(b *builder, p params, half, height, from, to float64) {
	p.run(b, 0.9, func(a, q r3.Vec, _ bool) {
		d := r3.Sub(q, a)
		side := vec(-d.Z, 0, d.X)
		if r3.Norm2(side) < 1e-12 {
			return
		}
		side = r3.Unit(side)
		at := func(v r3.Vec, s float64) r3.Vec { return r3.Add(v, r3.Add(r3.Scale(s, side), vec(0, height, 0))) }
		// A little overlap closes the wedge on the outside of a bend.
		more := r3.Scale(min(0.2, half*0.12), r3.Unit(d))
		q = r3.Add(q, more)
		b.face(at(a, from), at(a, to), at(q, to), at(q, from))
	})
}

func footpath(b *builder, p params) {
	w := p.get("width") / 2
	ribbon(b, p, w, 0.02, -w, w)
	b.tinted(b.color.shade(0.75), func() {
		ribbon(b, p, w, 0.012, -w-0.12, -w)
		ribbon(b, p, w, 0.012, w, w+0.12)
	})
}

func road(b *builder, p params) {
	w := p.get("width") / 2
	ribbon(b, p, w, 0.02, -w, w)
	b.tinted(Hex("#c9c4b4"), func() {
		for _, s := range []float64{-w + 0.25, w - 0.37} {
			ribbon(b, p, 0.1, 0.026, s, s+0.12)
		}
		i := 0
		p.run(b, 1.5, func(a, q r3.Vec, _ bool) {
			if i++; i%3 == 0 {
				lift := vec(0, 0.03, 0)
				d := r3.Unit(r3.Sub(q, a))
				side := r3.Scale(0.06, vec(-d.Z, 0, d.X))
				a, q := r3.Add(a, lift), r3.Add(q, lift)
				b.face(r3.Sub(a, side), r3.Add(a, side), r3.Add(q, side), r3.Sub(q, side))
			}
		})
	})
	b.tinted(Hex("#6d675c"), func() {
		ribbon(b, p, w, 0.008, -w-0.6, -w)
		ribbon(b, p, w, 0.008, w, w+0.6)
	})
}

func water(b *builder, p params) {
	w, d, seed := p.get("width")/2, p.get("depth")/2, p.int("seed")
	wave := p.get("wave")
	n := int(max(4, min(60, max(w, d)/1.5)))
	b.grid(-w, -d, w, d, n, n, func(x, z float64) float64 { return wave * hills(x/3.1, z/3.1, seed) }, func(q, nrm r3.Vec) Color {
		return b.color.shade(0.85 + 0.4*float32(hills(q.X/5, q.Z/2.5, seed+8)))
	})
}

func signPost(b *builder, p params) {
	h, w := p.get("height"), p.get("width")
	b.tinted(timber.shade(0.8), func() { b.box(-0.05, 0, -0.05, 0.05, h, 0.05) })
	for i, s := range []float64{1, -1} {
		y := h - 0.12 - 0.3*float64(i)
		b.prism([]r3.Vec{vec(0, y-0.1, 0.075), vec(s*w*0.82, y-0.1, 0.075), vec(s*w, y, 0.075), vec(s*w*0.82, y+0.1, 0.075), vec(0, y+0.1, 0.075)}[:], vec(0, 0, -0.025))
	}
}

// stoneWall is a dry wall of uneven blocks along the path, or along X.
func stoneWall(b *builder, p params) {
	h, t, seed := p.get("height"), p.get("thick")/2, p.int("seed")
	i := 0
	p.run(b, 0.7, func(a, q r3.Vec, _ bool) {
		l := r3.Norm(r3.Sub(q, a))
		pan, tilt := geom.Toward(r3.Sub(q, a))
		b.with(geom.PanTiltRoll(pan, tilt, 0).At(a), nil, func() {
			rows := int(max(1, math.Round(h/0.28)))
			for k := range rows {
				y0, y1 := h*float64(k)/float64(rows), h*float64(k+1)/float64(rows)
				split := l * (0.35 + 0.3*math.Abs(lattice(i, k, seed)))
				for s, z := range [][2]float64{{0, split}, {split, l}} {
					in := 0.03 * lattice(i*2+s, k, seed+1)
					b.tinted(b.color.shade(1+0.2*float32(lattice(i*2+s, k, seed+2))), func() {
						b.box(-t+in, y0+0.006, -z[1]+0.005, t+in, y1-0.006+0.03*math.Abs(lattice(k, i, seed)), -z[0]-0.005)
					})
				}
			}
		})
		i++
	})
}
