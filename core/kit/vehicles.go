package kit

import (
	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Wheel is a part of a vehicle that rolls: a mesh around its own X axis, where
// its axle is in the vehicle's space, and its radius in metres.
type Wheel struct {
	At     r3.Vec
	Radius float64
	Width  float64
	Spokes bool
}

// wheel builds the mesh of a wheel with its axle along X.
func wheel(w Wheel) *Mesh {
	b := newBuilder(iron)
	r, t := w.Radius, w.Width/2
	lie := geom.RotateZ(90)
	b.with(lie, nil, func() {
		if !w.Spokes {
			b.cylinder(r, r, -t, t, 20)
			b.tinted(Hex("#8d9296"), func() {
				for _, s := range []float64{-1, 1} {
					b.box(-r*0.5, min(s*t, s*(t+0.01)), -r*0.12, r*0.5, max(s*t, s*(t+0.01)), r*0.12)
					b.box(-r*0.12, min(s*t, s*(t+0.01)), -r*0.5, r*0.12, max(s*t, s*(t+0.01)), r*0.5)
				}
			})
			return
		}
		b.turned(22, [2]float64{r * 0.9, -t}, [2]float64{r, -t}, [2]float64{r, -t}, [2]float64{r, t}, [2]float64{r, t}, [2]float64{r * 0.9, t}, [2]float64{r * 0.9, t}, [2]float64{r * 0.9, -t})
		b.tinted(timber, func() {
			b.cylinder(r*0.14, r*0.14, -t*1.3, t*1.3, 10)
			for i := range 8 {
				turn := geom.RotateY(45 * float64(i))
				b.with(turn, nil, func() { b.box(0, -t*0.4, -r*0.03, r*0.92, t*0.4, r*0.03) })
			}
		})
	})
	return &b.mesh
}

// Vehicles look to −Z.

func carWheels(p params) []Wheel {
	w, l := p.get("width")/2-0.1, p.get("length")
	return fourWheels(w, l*0.3, 0.31, 0.2)
}

func fourWheels(x, z, radius, width float64) []Wheel {
	var out []Wheel
	for _, s := range [][2]float64{{-1, -1}, {1, -1}, {-1, 1}, {1, 1}} {
		out = append(out, Wheel{At: vec(s[0]*x, radius, s[1]*z), Radius: radius, Width: width})
	}
	return out
}

// bodyShell is a car body from a side outline (z, y), pulled in toward the top.
func bodyShell(b *builder, half float64, outline [][2]float64, waist float64) {
	n := len(outline)
	at := func(i int, s float64) r3.Vec {
		z, y := outline[i%n][0], outline[i%n][1]
		w := half
		if y > waist {
			w = half - (y-waist)*0.26
		}
		return vec(s*w, y, z)
	}
	for i := range n {
		b.face(at(i, -1), at(i, 1), at(i+1, 1), at(i+1, -1))
	}
	// The sides as a fan of quads from below to the outline above it.
	left, right := make([]r3.Vec, n), make([]r3.Vec, n)
	for i := range n {
		right[n-1-i], left[i] = at(i, 1), at(i, -1)
	}
	b.polygon(right)
	b.polygon(left)
}

// polygon adds a plane or nearly plane outline that need not be convex, cut at
// its ears; it is counter-clockwise seen from outside.
func (b *builder) polygon(p []r3.Vec) {
	var nrm r3.Vec
	for i := range p {
		nrm = r3.Add(nrm, r3.Cross(p[i], p[(i+1)%len(p)]))
	}
	left := append([]r3.Vec(nil), p...)
	for len(left) > 3 {
		n := len(left)
		cut := -1
		for i := range n {
			a, c, d := left[(i+n-1)%n], left[i], left[(i+1)%n]
			if r3.Dot(r3.Cross(r3.Sub(c, a), r3.Sub(d, a)), nrm) <= 0 {
				continue
			}
			inside := false
			for k := range n {
				if k == i || k == (i+1)%n || k == (i+n-1)%n {
					continue
				}
				q := left[k]
				inside = inside || r3.Dot(r3.Cross(r3.Sub(c, a), r3.Sub(q, a)), nrm) >= 0 &&
					r3.Dot(r3.Cross(r3.Sub(d, c), r3.Sub(q, c)), nrm) >= 0 && r3.Dot(r3.Cross(r3.Sub(a, d), r3.Sub(q, d)), nrm) >= 0
			}
			if !inside {
				cut = i
				break
			}
		}
		if cut < 0 {
			break
		}
		b.face(left[(cut+n-1)%n], left[cut], left[(cut+1)%n])
		left = append(left[:cut], left[cut+1:]...)
	}
	b.face(left...)
}

func car(b *builder, p params) {
	w, l, h := p.get("width")/2, p.get("length")/2, p.get("height")
	waist := h * 0.58
	bodyShell(b, w, [][2]float64{
		{-l, 0.28}, {l, 0.28}, {l, waist * 0.95}, {l * 0.86, waist * 1.02}, {l * 0.58, h}, {-l * 0.16, h}, {-l * 0.42, waist * 1.03}, {-l * 0.96, waist * 0.9},
	}, waist)
	in := func(y float64) float64 { return w - (y-waist)*0.26 + 0.006 }
	b.tinted(glass, func() {
		y0, y1 := waist+0.05, h-0.07
		for _, s := range []float64{-1, 1} {
			side := []r3.Vec{vec(s*in(y0), y0, l*0.74), vec(s*in(y0), y0, -l*0.34), vec(s*in(y1), y1, -l*0.14), vec(s*in(y1), y1, l*0.54)}
			if s < 0 {
				side[1], side[3] = side[3], side[1]
			}
			b.face(side...)
		}
		b.face(vec(-in(y0)+0.08, y0, -l*0.415), vec(-in(y1)+0.08, y1, -l*0.195), vec(in(y1)-0.08, y1, -l*0.195), vec(in(y0)-0.08, y0, -l*0.415))
		b.face(vec(in(y0)-0.08, y0, l*0.845), vec(in(y1)-0.08, y1, l*0.63), vec(-in(y1)+0.08, y1, l*0.63), vec(-in(y0)+0.08, y0, l*0.845))
	})
	lamps(b, w, l, waist*0.72, p.get("lights"))
	b.tinted(inside, func() {
		for _, s := range []float64{-1, 1} {
			b.box(min(s*w, s*(w+0.004)), 0.38, -l*0.28, max(s*w, s*(w+0.004)), waist-0.02, l*0.18)
		}
	})
	b.tinted(iron, func() {
		b.box(-w*0.98, 0.24, -l-0.04, w*0.98, 0.4, -l)
		b.box(-w*0.98, 0.24, l, w*0.98, 0.4, l+0.04)
	})
}

// lamps adds the head and tail lamps of a car.
func lamps(b *builder, w, l, y, on float64) {
	front, back := Hex("#d9dde0"), Hex("#7a2a24")
	if on > 0.5 {
		front, back = Hex("#fff3d0").glow(1), Hex("#e0453a").glow(0.8)
	}
	for _, x := range []float64{-w * 0.72, w * 0.72} {
		b.tinted(front, func() { b.box(x-0.13, y-0.06, -l-0.02, x+0.13, y+0.07, -l+0.06) })
		b.tinted(back, func() { b.box(x-0.12, y-0.05, l-0.06, x+0.12, y+0.08, l+0.02) })
	}
}

func van(b *builder, p params) {
	w, l, h := p.get("width")/2, p.get("length")/2, p.get("height")
	bodyShell(b, w, [][2]float64{
		{-l, 0.3}, {l, 0.3}, {l, h * 0.95}, {l * 0.95, h}, {-l * 0.52, h}, {-l * 0.82, h * 0.55}, {-l * 0.98, h * 0.48},
	}, h*0.55)
	b.tinted(glass, func() {
		s := w - (h*0.85-h*0.55)*0.26
		b.face(vec(-w*0.9, h*0.58, -l*0.815), vec(-s*0.9, h*0.9, -l*0.6), vec(s*0.9, h*0.9, -l*0.6), vec(w*0.9, h*0.58, -l*0.815))
		for _, k := range []float64{-1, 1} {
			pane := []r3.Vec{vec(k*(w+0.008), h*0.56, -l*0.34), vec(k*(w+0.008), h*0.56, -l*0.72), vec(k*(s+0.02), h*0.84, -l*0.56), vec(k*(s+0.02), h*0.84, -l*0.34)}
			if k < 0 {
				pane[1], pane[3] = pane[3], pane[1]
			}
			b.face(pane...)
		}
	})
	lamps(b, w, l, h*0.36, p.get("lights"))
	b.tinted(b.color.shade(0.6), func() {
		b.box(-w-0.01, h*0.28, -l*0.3, w+0.01, h*0.3, l*0.96)
	})
	b.tinted(inside, func() { b.box(-w*0.56, 0.44, l, w*0.56, h*0.91, l+0.008) })
}

func vanWheels(p params) []Wheel {
	return fourWheels(p.get("width")/2-0.12, p.get("length")*0.31, 0.34, 0.22)
}

// cart is drawn by its shafts to −Z.
func cart(b *builder, p params) {
	w, l, r := p.get("width")/2, p.get("length")/2, p.get("wheel")
	y := r + 0.06
	b.box(-w, y, -l, w, y+0.06, l)
	b.tinted(b.color.shade(0.8), func() {
		for _, x := range []float64{-w, w - 0.04} {
			b.box(x, y+0.06, -l, x+0.04, y+0.4, l)
		}
		b.box(-w, y+0.06, l-0.04, w, y+0.4, l)
		b.box(-w, y+0.06, -l, w, y+0.3, -l+0.04)
		for _, x := range []float64{-w * 0.7, w * 0.7} {
			b.beam(vec(x, y*0.8, -l-1.5), vec(x, y, -l+0.2), 0.06)
		}
	})
	b.tinted(iron, func() { b.beam(vec(-w-0.1, r, 0), vec(w+0.1, r, 0), 0.06) })
}

func cartWheels(p params) []Wheel {
	w, r := p.get("width")/2+0.1, p.get("wheel")
	return []Wheel{{vec(-w, r, 0), r, 0.07, true}, {vec(w, r, 0), r, 0.07, true}}
}

func boat(b *builder, p params) {
	l, w, h := p.get("length")/2, p.get("width")/2, p.get("height")
	const parts = 14
	rib := func(i int) (z, half, keel float64) {
		t := float64(i)/parts*2 - 1 // −1 bow .. 1 stern
		z = t * l
		half = w * (1 - max(0, -t)*max(0, -t)*max(0, -t)*0.98) * (1 - 0.22*max(0, t)*max(0, t))
		return z, half, h * 0.55 * max(0, -t) * max(0, -t) * max(0, -t)
	}
	top := func(i int) float64 {
		t := float64(i)/parts*2 - 1
		return h * (1 + 0.28*max(0, -t)*max(0, -t))
	}
	for i := range parts {
		z0, w0, k0 := rib(i)
		z1, w1, k1 := rib(i + 1)
		y0, y1 := top(i), top(i+1)
		for _, s := range []float64{-1, 1} {
			quad := func(a, c, d, e r3.Vec) {
				if s > 0 {
					b.face(a, c, d, e)
				} else {
					b.face(e, d, c, a)
				}
			}
			quad(vec(s*w0*0.62, k0, z0), vec(s*w0, y0, z0), vec(s*w1, y1, z1), vec(s*w1*0.62, k1, z1))
			b.tinted(b.color.shade(0.7), func() { // inside
				quad(vec(s*(w1*0.62-0.03), k1+0.05, z1), vec(s*(w1-0.03), y1, z1), vec(s*(w0-0.03), y0, z0), vec(s*(w0*0.62-0.03), k0+0.05, z0))
			})
			b.tinted(timber.shade(1.3), func() {
				quad(vec(s*(w0+0.02), y0+0.02, z0), vec(s*(w0-0.06), y0+0.02, z0), vec(s*(w1-0.06), y1+0.02, z1), vec(s*(w1+0.02), y1+0.02, z1))
			})
		}
		b.face(vec(-w0*0.62, k0, z0), vec(w0*0.62, k0, z0), vec(w1*0.62, k1, z1), vec(-w1*0.62, k1, z1))
		b.tinted(timber, func() {
			b.face(vec(-w1*0.62, k1+0.06, z1), vec(w1*0.62, k1+0.06, z1), vec(w0*0.62, k0+0.06, z0), vec(-w0*0.62, k0+0.06, z0))
		})
	}
	z, half, k := rib(parts)
	b.tinted(timber, func() {
		b.face(vec(-half*0.62, k, z), vec(half*0.62, k, z), vec(half, top(parts), z), vec(-half, top(parts), z))
		b.face(vec(-half, top(parts), z-0.04), vec(half, top(parts), z-0.04), vec(half*0.62, k, z-0.04), vec(-half*0.62, k, z-0.04))
		for _, t := range []float64{-0.25, 0.4} {
			b.box(-w*0.93, h*0.62, t*l-0.12, w*0.93, h*0.67, t*l+0.12)
		}
	})
}

func bicycle(b *builder, p params) {
	r := p.get("wheel")
	base := r * 3.1
	f, k := vec(0, r, -base/2), vec(0, r, base/2)
	crank, seat, bar := vec(0, r*0.92, base*0.08), vec(0, r*2.5, base*0.24), vec(0, r*2.55, -base*0.33)
	for _, s := range [][2]r3.Vec{{k, crank}, {crank, seat}, {seat, bar}, {crank, bar}, {k, seat}, {f, bar}} {
		b.beam(s[0], s[1], 0.032)
	}
	b.tinted(iron, func() {
		up := r3.Add(bar, vec(0, 0.14, 0.02))
		b.beam(bar, up, 0.03)
		b.beam(r3.Add(up, vec(-0.27, 0, 0.1)), r3.Add(up, vec(0.27, 0, 0.1)), 0.028)
		b.box(-0.07, seat.Y+0.03, seat.Z-0.12, 0.07, seat.Y+0.08, seat.Z+0.14)
		b.beam(r3.Add(crank, vec(-0.12, -0.14, 0)), r3.Add(crank, vec(0.12, 0.14, 0)), 0.03)
	})
}

func bicycleWheels(p params) []Wheel {
	r := p.get("wheel")
	base := r * 3.1
	return []Wheel{{vec(0, r, -base/2), r, 0.045, true}, {vec(0, r, base/2), r, 0.045, true}}
}

// aircraft is a light one with its wings on top.
func aircraft(b *builder, p params) {
	l, span := p.get("length"), p.get("span")/2
	r := 0.085 * l
	wheel := 0.28 * r / 0.6
	y := 2*wheel + 1.05*r // of the fuselage's axis
	lie := geom.RotateX(-90)
	b.with(lie.At(vec(0, y, 0)), nil, func() {
		b.turned(18, [2]float64{0.02 * r, -l / 2}, [2]float64{0.22 * r, -0.49 * l}, [2]float64{0.6 * r, -0.15 * l}, [2]float64{r, 0.1 * l},
			[2]float64{r, 0.3 * l}, [2]float64{0.72 * r, 0.44 * l}, [2]float64{0.25 * r, l / 2}, [2]float64{0.02 * r, 0.505 * l})
	})
	b.tinted(glass, func() { b.ball(vec(0, y+0.62*r, -0.16*l), 0.82*r, 0.62*r, 0.15*l, 16) })
	wing := b.color.shade(1.12)
	b.tinted(wing, func() {
		b.box(-span, y+1.12*r, -0.24*l, span, y+1.26*r, -0.04*l)
		b.box(-0.36*span, y+0.12*r, 0.38*l, 0.36*span, y+0.22*r, 0.5*l)
		b.box(-0.06*r, y, 0.36*l, 0.06*r, y+0.17*l, 0.5*l)
	})
	b.tinted(iron, func() {
		for _, s := range []float64{-1, 1} {
			b.beam(vec(s*0.6*r, y-0.6*r, -0.1*l), vec(s*0.5*span, y+1.12*r, -0.14*l), 0.09*r)
			b.beam(vec(s*0.5*r, y-0.7*r, -0.08*l), vec(s*1.3*r, wheel, -0.08*l), 0.12*r)
		}
		b.beam(vec(0, y-0.5*r, -0.36*l), vec(0, wheel, -0.36*l), 0.1*r)
		b.box(-1.7*r, y-0.09*r, -0.525*l, 1.7*r, y+0.09*r, -0.512*l)
		axle := geom.RotateZ(90)
		for _, at := range []r3.Vec{vec(-1.3*r, wheel, -0.08*l), vec(1.3*r, wheel, -0.08*l), vec(0, wheel, -0.36*l)} {
			b.with(axle.At(at), nil, func() { b.cylinder(wheel, wheel, -0.16*r, 0.16*r, 14) })
		}
	})
}
