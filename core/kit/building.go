package kit

import (
	"math"
	"slices"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// wallWith builds a wall along X from 0 with an opening, and lets fill draw
// what stands in it between x = l and r, y = sill and top.
func wallWith(b *builder, p params, fill func(l, r, sill, top, half float64)) {
	wall(b, p)
	w, o, h := p.get("width"), p.get("openWidth"), p.get("height")
	l := max(0, min(w, p.get("openAt")-o/2))
	r := max(l, min(w, l+o))
	sill := min(p.get("sill"), h)
	top := min(h, sill+p.get("openHeight"))
	if r-l > 0.2 && top-sill > 0.2 {
		fill(l, r, sill, top, p.get("thick")/2)
	}
}

// doorWall is the wall alone; see Leaves.
func doorWall(b *builder, p params) {
	wallWith(b, p, func(l, r, sill, top, half float64) {})
}

// windowWall is the wall and the window's frame; see Leaves.
func windowWall(b *builder, p params) {
	wallWith(b, p, func(l, r, sill, top, half float64) {
		b.tinted(timber, func() { b.box(l-0.04, sill-0.05, -half-0.08, r+0.04, sill, half+0.08) })
	})
}

// ramp climbs toward −Z from the front edge at z = 0, as stairs do.
func ramp(b *builder, p params) {
	w, h, l := p.get("width")/2, p.get("rise"), p.get("run")
	b.prism([]r3.Vec{vec(w, 0, 0), vec(w, 0, -l), vec(w, h, -l)}, vec(-2*w, 0, 0))
}

// prism adds a solid between a polygon and the same moved by along; the polygon
// is counter-clockwise seen against along.
func (b *builder) prism(poly []r3.Vec, along r3.Vec) {
	b.face(poly...)
	n := len(poly)
	back := make([]r3.Vec, n)
	for i, v := range poly {
		back[n-1-i] = r3.Add(v, along)
	}
	b.face(back...)
	for i, v := range poly {
		q := poly[(i+1)%n]
		b.face(v, r3.Add(v, along), r3.Add(q, along), q)
	}
}

func column(b *builder, p params) {
	h, r := p.get("height"), p.get("thick")/2
	b.box(-r*1.35, 0, -r*1.35, r*1.35, r*0.5, r*1.35)
	b.turned(18, [2]float64{r * 1.2, r * 0.5}, [2]float64{r, r * 0.9}, [2]float64{r, r * 0.9}, [2]float64{r * 0.86, h - r*0.9}, [2]float64{r * 0.86, h - r*0.9}, [2]float64{r * 1.2, h - r*0.45})
	b.box(-r*1.35, h-r*0.45, -r*1.35, r*1.35, h, r*1.35)
}

// arch is a wall along X from 0 with a round-headed opening in its middle.
func arch(b *builder, p params) {
	w, h, t := p.get("width"), p.get("height"), p.get("thick")/2
	o := min(p.get("openWidth"), w-0.1)
	spring := max(0.05, min(p.get("openHeight")-o/2, h-o/2-0.05))
	l, r := (w-o)/2, (w+o)/2
	b.box(0, 0, -t, l, h, t)
	b.box(r, 0, -t, w, h, t)
	const parts = 12
	at := func(i int) (float64, float64) {
		s, c := math.Sincos(math.Pi * float64(i) / parts)
		return w/2 - c*o/2, spring + s*o/2
	}
	for i := range parts {
		x0, y0 := at(i)
		x1, y1 := at(i + 1)
		b.face(vec(x0, y0, t), vec(x1, y1, t), vec(x1, h, t), vec(x0, h, t))
		b.face(vec(x1, y1, -t), vec(x0, y0, -t), vec(x0, h, -t), vec(x1, h, -t))
		b.face(vec(x0, y0, t), vec(x0, y0, -t), vec(x1, y1, -t), vec(x1, y1, t))
	}
	b.face(vec(l, h, t), vec(r, h, t), vec(r, h, -t), vec(l, h, -t))
}

// roof spans a width and depth at y = 0 with its ridge along X.
func roof(b *builder, p params) {
	w, d, h, o := p.get("width")/2, p.get("depth")/2, p.get("height"), p.get("over")
	t, slope := 0.14, h/d
	x, e, low := w+o, d+o, -o*slope
	for _, s := range []float64{1, -1} {
		poly := []r3.Vec{vec(x, low, s*e), vec(x, h, 0), vec(x, h+t, 0), vec(x, low+t, s*e)}
		if s < 0 {
			slices.Reverse(poly)
		}
		b.prism(poly, vec(-2*x, 0, 0))
	}
	b.tinted(b.color.shade(1.5), func() {
		b.face(vec(w, 0, d), vec(w, 0, -d), vec(w, h, 0))
		b.face(vec(-w, 0, -d), vec(-w, 0, d), vec(-w, h, 0))
	})
}

// railing follows its path, or runs along X from 0.
func railing(b *builder, p params) {
	h := p.get("height")
	p.run(b, p.get("gap"), func(a, q r3.Vec, first bool) {
		up := func(v r3.Vec, y float64) r3.Vec { return r3.Add(v, vec(0, y, 0)) }
		if first {
			b.beam(up(a, h), a, 0.05)
		}
		b.beam(up(q, h), q, 0.05)
		b.beam(up(a, h), up(q, h), 0.06)
		for _, y := range []float64{0.2, 0.5, 0.78} {
			b.beam(up(a, h*y), up(q, h*y), 0.022)
		}
	})
}

// run cuts what a piece runs along (its path, or its length along X) into
// stretches of about gap metres.
func (p params) run(b *builder, gap float64, draw func(a, q r3.Vec, first bool)) {
	length, at := p.get("length"), func(d float64) r3.Vec { return vec(d, 0, 0) }
	if p.path != nil {
		length, at = p.path.Length(), p.path.At
	}
	parts := int(max(1, min(2000, math.Round(length/gap))))
	a := at(0)
	for i := 1; i <= parts; i++ {
		q := at(length * float64(i) / float64(parts))
		if r3.Norm(r3.Sub(a, q)) > 1e-6 {
			draw(a, q, i == 1)
		}
		a = q
	}
}

func ladder(b *builder, p params) {
	h, w := p.get("height"), p.get("width")/2
	lean := h * math.Tan(geom.Radians(p.get("lean")))
	for _, x := range []float64{-w, w} {
		b.beam(vec(x, h, -lean), vec(x, 0, 0), 0.055)
	}
	for y := 0.3; y < h-0.1; y += 0.3 {
		z := -lean * y / h
		b.beam(vec(-w, y, z), vec(w, y, z), 0.035)
	}
}
