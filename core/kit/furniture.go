package kit

import (
	"math"

	"proscen/core/geom"
)

// legs adds four legs inside a footprint.
func (b *builder) legs(w, d, h, thick float64) {
	for _, x := range []float64{-w, w - thick} {
		for _, z := range []float64{-d, d - thick} {
			b.box(x, 0, z, x+thick, h, z+thick)
		}
	}
}

// chair faces −Z.
func chair(b *builder, p params) {
	w, seat, back := p.get("width")/2, p.get("seat"), p.get("back")
	d := w * 0.98
	b.box(-w, seat-0.04, -d, w, seat, d)
	b.tinted(b.color.shade(0.8), func() {
		b.legs(w, d, seat-0.04, 0.045)
		for _, x := range []float64{-w, w - 0.045} {
			b.box(x, seat, d-0.045, x+0.045, back, d)
		}
		b.box(-w, back-0.14, d-0.04, w, back, d-0.01)
		b.box(-w, seat+0.18, d-0.035, w, seat+0.26, d-0.015)
	})
}

func table(b *builder, p params) {
	w, d, h := p.get("width")/2, p.get("depth")/2, p.get("height")
	b.box(-w, h-0.04, -d, w, h, d)
	b.tinted(b.color.shade(0.78), func() {
		b.legs(w-0.06, d-0.06, h-0.04, 0.07)
		b.box(-w+0.08, h-0.13, -d+0.08, w-0.08, h-0.04, -d+0.1)
		b.box(-w+0.08, h-0.13, d-0.1, w-0.08, h-0.04, d-0.08)
	})
}

func shelf(b *builder, p params) {
	w, h, d, n := p.get("width")/2, p.get("height"), p.get("depth")/2, p.int("boards")
	b.box(-w, 0, -d, -w+0.03, h, d)
	b.box(w-0.03, 0, -d, w, h, d)
	b.box(-w, 0, d-0.015, w, h, d)
	for i := range n + 1 {
		y := 0.06 + (h-0.1)*float64(i)/float64(n)
		b.box(-w+0.03, y, -d, w-0.03, y+0.03, d-0.015)
		if i == n || p.get("full") < 0.5 {
			continue
		}
		x := -w + 0.06
		for k := 0; x < w-0.2; k++ {
			bw, bh := 0.05+0.05*math.Abs(lattice(k, i, 3)), min((h-0.1)/float64(n)-0.06, 0.2+0.08*lattice(k, i, 5))
			b.tinted([]Color{Hex("#6e3b33"), Hex("#3c4c57"), Hex("#857248"), Hex("#4a5a43")}[(k*7+i*3)%4], func() {
				b.box(x, y+0.03, -d*0.6, x+bw, y+0.03+bh, d*0.8)
			})
			x += bw + 0.01
			if lattice(k, i, 9) > 0.55 {
				x += 0.22
			}
		}
	}
}

func bed(b *builder, p params) {
	w, l := p.get("width")/2, p.get("length")/2
	b.tinted(timber, func() {
		b.box(-w, 0.12, -l, w, 0.32, l)
		b.legs(w, l, 0.12, 0.08)
		b.box(-w, 0.12, l-0.05, w, 0.95, l)
		b.box(-w, 0.12, -l, w, 0.6, -l+0.05)
	})
	b.tinted(Hex("#d8d2c4"), func() {
		b.box(-w+0.03, 0.32, -l+0.06, w-0.03, 0.5, l-0.06)
		b.box(-w*0.7, 0.5, l-0.55, w*0.7, 0.6, l-0.12)
	})
	b.box(-w-0.01, 0.36, -l+0.05, w+0.01, 0.53, l*0.4)
}

// cupboard faces −Z; its doors are leaves.
func cupboard(b *builder, p params) {
	w, h, d := p.get("width")/2, p.get("height"), p.get("depth")/2
	b.hollow(-w, 0.06, -d, w, h, d, 0.025)
	b.tinted(b.color.shade(0.7), func() {
		b.box(-w+0.04, 0, -d+0.04, w-0.04, 0.06, d)
		b.box(-w-0.02, h, -d-0.02, w+0.02, h+0.04, d)
		for _, y := range []float64{0.34, 0.64} {
			b.box(-w+0.025, h*y, -d+0.03, w-0.025, h*y+0.02, d-0.025)
		}
	})
}

// stove faces −Z with a fire and a flue; its door is a leaf.
func stove(b *builder, p params) {
	h := p.get("height")
	b.box(-0.28, 0.12, -0.24, 0.28, h, 0.24)
	b.box(-0.32, h, -0.28, 0.32, h+0.04, 0.28)
	b.tinted(b.color.shade(0.7), func() {
		b.legs(0.26, 0.22, 0.12, 0.05)
		b.with(geom.Translate(vec(0, 0, 0.12)), nil, func() { b.cylinder(0.06, 0.06, h+0.04, p.get("flue"), 10) })
	})
	b.tinted(stoveGlow(p), func() { b.box(-0.15, 0.29, -0.244, 0.15, 0.49, -0.24) })
}

// crate is open above; its lid is a leaf.
func crate(b *builder, p params) {
	w, h, d := p.get("width")/2, p.get("height"), p.get("depth")/2
	t, top := crateBoard, h-crateBoard
	b.box(-w, 0, -d, w, t, d)
	b.box(-w, t, -d, -w+t, top, d)
	b.box(w-t, t, -d, w, top, d)
	b.box(-w+t, t, -d, w-t, top, -d+t)
	b.box(-w+t, t, d-t, w-t, top, d)
	b.tinted(b.color.shade(0.72), func() {
		e, t := 0.015, 0.07
		for _, y := range []float64{0, h - t} {
			b.box(-w-e, y, -d-e, w+e, y+t, -d)
			b.box(-w-e, y, d, w+e, y+t, d+e)
			b.box(-w-e, y, -d, -w, y+t, d)
			b.box(w, y, -d, w+e, y+t, d)
		}
		for _, x := range []float64{-w - e, w + e - t} {
			b.box(x, 0, -d-e, x+t, h, -d)
			b.box(x, 0, d, x+t, h, d+e)
		}
	})
}

func barrel(b *builder, p params) {
	h, r := p.get("height"), p.get("thick")/2
	b.turned(16, [2]float64{0, 0}, [2]float64{r * 0.84, 0}, [2]float64{r * 0.84, 0}, [2]float64{r, h * 0.5}, [2]float64{r * 0.84, h}, [2]float64{r * 0.84, h}, [2]float64{r * 0.78, h}, [2]float64{r * 0.78, h}, [2]float64{0, h - 0.02})
	b.tinted(iron, func() {
		for _, y := range []float64{0.12, 0.32, 0.68, 0.88} {
			k := r * (1.008 - 0.6*(y-0.5)*(y-0.5)) * 1.004
			b.turned(16, [2]float64{k, h*y - 0.02}, [2]float64{k, h*y + 0.02})
		}
	})
}

// lantern stands on its foot and can hang by its ring.
func lantern(b *builder, p params) {
	h := p.get("height")
	r := h * 0.24
	b.cylinder(r, r*0.9, 0, h*0.1, 10)
	glow := glass
	if p.get("lit") > 0.5 {
		glow = warm
	}
	b.tinted(glow, func() { b.cylinder(r*0.62, r*0.62, h*0.1, h*0.6, 10) })
	for i := range 4 {
		s, c := math.Sincos(math.Pi / 2 * float64(i))
		b.beam(vec(c*r*0.85, h*0.62, s*r*0.85), vec(c*r*0.85, h*0.08, s*r*0.85), h*0.03)
	}
	b.cylinder(r, r*0.25, h*0.6, h*0.8, 10)
	b.beam(vec(-r*0.5, h, 0), vec(-r*0.5, h*0.72, 0), h*0.025)
	b.beam(vec(r*0.5, h, 0), vec(r*0.5, h*0.72, 0), h*0.025)
	b.beam(vec(-r*0.5, h, 0), vec(r*0.5, h, 0), h*0.03)
}

// bell hangs from a bracket on a wall at z = 0 and looks to −Z.
func bell(b *builder, p params) {
	s := p.get("size")
	b.tinted(iron, func() {
		b.box(-0.04, s*0.6, -0.02, 0.04, s*1.6, 0)
		b.beam(vec(0, s*1.5, -s*0.9), vec(0, s*1.5, 0), 0.04)
	})
	b.with(geom.Translate(vec(0, 0, -s*0.85)), nil, func() {
		b.turned(14, [2]float64{s * 0.48, 0.3 * s}, [2]float64{s * 0.36, 0.5 * s}, [2]float64{s * 0.26, 1.05 * s}, [2]float64{s * 0.18, 1.25 * s}, [2]float64{0, 1.32 * s})
		b.turned(14, [2]float64{0, 1.2 * s}, [2]float64{s * 0.2, 1.05 * s}, [2]float64{s * 0.48, 0.3 * s})
		b.tinted(iron, func() { b.ball(vec(0, 0.3*s, 0), s*0.1, s*0.1, s*0.1, 8) })
	})
}

func papers(b *builder, p params) {
	w, d := p.get("width")/2, p.get("width")*0.7
	for i := range p.int("sheets") {
		b.with(geom.RotateY(14*lattice(i, 2, 5)).At(vec(0.03*lattice(i, 1, 3), 0.004*float64(i), 0.02*lattice(i, 6, 3))), nil, func() {
			b.box(-w, 0, -d, w, 0.003, d)
		})
	}
}
