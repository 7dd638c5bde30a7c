package kit

import (
	"fmt"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Opening says how a stand-in is opened: the parameter that says how far, in degrees about
// hinges or in metres, and what opens it wide.
type Opening struct {
	Param  string  `json:"param"`
	Wide   float64 `json:"wide"`
	leaves func(p params, color Color) []Leaf
}

// Opens lists the stand-ins that are opened.
var Opens = map[string]Opening{
	"doorWall":   {"swing", 70, doorLeaves},
	"windowWall": {"swing", 75, sashes},
	"house":      {"door", 90, houseDoor},
	"cupboard":   {"door", 100, cupboardDoors},
	"stove":      {"door", 90, stoveDoor},
	"case":       {"lid", 100, caseLid},
	"crate":      {"lid", 100, crateLid},
	"cabin":      {"door", 0.5, cabinDoors},
	"car":        {"door", 62, carDoors},
	"van":        {"door", 95, vanDoors},
}

// Held holds how far a stand-in is to be open to what it allows.
func (o Opening) Held(id string, by float64) float64 {
	return Value(id, map[string]float64{o.Param: by}, o.Param)
}

// Leaf is a part of a stand-in that is opened: a door, a lid, a sash.
type Leaf struct {
	At    r3.Vec  // a point of the hinge, in the piece's space; the mesh is built from there
	Turn  r3.Vec  // about which axis of the piece it turns, 1 or −1
	Slide r3.Vec  // which way it slides instead
	Side  float64 // 1 for one that is opened by figures above 0 only, −1 below
	key   string
	build func(b *builder)
	color Color
}

// Leaves returns what of a stand-in is opened; their meshes are built apart.
func Leaves(id string, values map[string]float64, color string) []Leaf {
	o, ok := Opens[id]
	if !ok {
		return nil
	}
	s, _ := Find(id)
	if color == "" {
		color = s.Color
	}
	leaves := o.leaves(s.params(values, nil), Hex(color))
	for i := range leaves {
		leaves[i].color = Hex(color)
		leaves[i].key = fmt.Sprintf("leaf %d of %s", i, Key(id, values, color))
	}
	return leaves
}

// Opened returns how far a stand-in is open, and whether it can be.
func Opened(id string, values map[string]float64) (by float64, ok bool) {
	o, ok := Opens[id]
	if !ok {
		return 0, false
	}
	return Value(id, values, o.Param), true
}

// Key names what the mesh of a leaf is built from.
func (l *Leaf) Key() string { return l.key }

// Mesh builds the mesh of a leaf, closed, from its hinge.
func (l *Leaf) Mesh() *Mesh {
	b := newBuilder(l.color)
	l.build(b)
	return &b.mesh
}

// Opened returns where a leaf that is open so far stands in the piece's space.
func (l *Leaf) Opened(by float64) geom.Mat4 {
	if by*l.Side < 0 {
		by = 0
	}
	x, y := geom.RotateX(by*l.Turn.X), geom.RotateY(by*l.Turn.Y)
	m := y.Mul(&x)
	return m.At(r3.Add(l.At, r3.Scale(by, l.Slide)))
}

var (
	about  = vec(0, 1, 0) // an upright hinge
	inside = Hex("#1a1816")
)

// doorLeaves hang the door of a wall.
func doorLeaves(p params, _ Color) (out []Leaf) {
	wallWith(newBuilder(timber), p, func(l, r, sill, top, half float64) {
		w := r - l - 0.12
		out = append(out, Leaf{At: vec(l+0.06, 0, 0), Turn: about, build: func(b *builder) {
			b.tinted(timber.shade(0.85), func() { b.panelled(0, w, sill, top-0.06, 0.025) })
			b.tinted(iron, func() { b.box(w-0.1, sill+1, -0.07, w-0.05, sill+1.04, 0.07) })
		}})
	})
	return out
}

// panelled is a door between x = l and r with two panels on either face.
func (b *builder) panelled(l, r, low, high, half float64) {
	b.box(l, low, -half, r, high, half)
	b.tinted(timber.shade(0.7), func() {
		for _, y := range []float64{0.12, 0.56} {
			b.box(l+(r-l)*0.14, low+(high-low)*y, -half-0.01, l+(r-l)*0.86, low+(high-low)*(y+0.32), half+0.01)
		}
	})
}

// sashes are the two wings of a window.
func sashes(p params, _ Color) (out []Leaf) {
	pane := glass
	if p.get("lit") > 0.5 {
		pane = warm.shade(0.8)
	}
	wallWith(newBuilder(timber), p, func(l, r, sill, top, half float64) {
		w := (r-l)/2 - 0.06
		for _, s := range []float64{1, -1} {
			hinge := l + 0.06
			if s < 0 {
				hinge = r - 0.06
			}
			out = append(out, Leaf{At: vec(hinge, 0, 0), Turn: r3.Scale(s, about), build: func(b *builder) {
				across := func(x0, y0, x1, y1, half float64) { b.box(min(s*x0, s*x1), y0, -half, max(s*x0, s*x1), y1, half) }
				b.tinted(pane, func() { across(0, sill, w, top-0.06, 0.012) })
				b.tinted(timber, func() {
					across(w-0.02, sill, w, top, 0.03)
					across(0, (sill+top)/2-0.02, w, (sill+top)/2+0.02, 0.03)
				})
			}})
		}
	})
	return out
}

// houseDoor stands in the front, which is +Z.
func houseDoor(p params, _ Color) []Leaf {
	return []Leaf{{At: vec(-0.46, 0, p.get("depth")/2+0.012), Turn: r3.Scale(-1, about), build: func(b *builder) {
		b.tinted(timber.shade(0.7), func() { b.box(0, 0.02, 0, 0.92, 2.06, 0.04) })
		b.tinted(iron, func() { b.box(0.82, 1, 0.04, 0.87, 1.04, 0.08) })
	}}}
}

// cupboardDoors are two, hinged at its edges; the front is −Z.
func cupboardDoors(p params, color Color) (out []Leaf) {
	w, h, d := p.get("width")/2, p.get("height"), p.get("depth")/2
	for _, s := range []float64{1, -1} {
		out = append(out, Leaf{At: vec(-s*(w-0.03), 0, -d), Turn: r3.Scale(s, about), build: func(b *builder) {
			reach := w - 0.04
			b.tinted(color.shade(1.15), func() { b.box(min(0, s*reach), 0.1, -0.02, max(0, s*reach), h-0.05, 0) })
			b.tinted(iron, func() {
				x := s * (w - 0.09)
				b.box(min(x, x+s*0.03), h*0.5, -0.05, max(x, x+s*0.03), h*0.5+0.1, -0.02)
			})
		}})
	}
	return out
}

// stoveDoor glows where there is fire behind it.
func stoveDoor(p params, _ Color) []Leaf {
	return []Leaf{{At: vec(-0.16, 0, -0.245), Turn: about, build: func(b *builder) {
		b.tinted(stoveGlow(p), func() { b.box(0, 0.28, -0.015, 0.32, 0.5, 0) })
		b.tinted(iron, func() {
			for _, x := range []float64{0.08, 0.16, 0.24} {
				b.box(x-0.012, 0.26, -0.03, x+0.012, 0.52, -0.015)
			}
		})
	}}}
}

func stoveGlow(p params) Color {
	if p.get("lit") > 0.5 {
		return Hex("#ff8a3c").glow(1)
	}
	return glass
}

// hollow is a box without its front at z = front: its back, sides, top and bottom.
func (b *builder) hollow(x0, y0, front, x1, y1, back, thick float64) {
	t := min(thick, (x1-x0)/3, (y1-y0)/3)
	in := thick
	if back < front {
		in = -thick
	}
	z := func(a, c float64) (float64, float64) { return min(a, c), max(a, c) }
	far0, far1 := z(back-in, back)
	side0, side1 := z(front, back-in)
	b.box(x0, y0, far0, x1, y1, far1)
	b.box(x0, y0, side0, x0+t, y1, side1)
	b.box(x1-t, y0, side0, x1, y1, side1)
	b.box(x0+t, y0, side0, x1-t, y0+t, side1)
	b.box(x0+t, y1-t, side0, x1-t, y1, side1)
}

// caseSplit is where, of half its depth, a case comes apart; the lid is its front, −Z.
const caseSplit = -0.15

// caseLid hangs below, so that a case on its back is opened upward.
func caseLid(p params, color Color) []Leaf {
	w, h, d := p.get("width")/2, p.get("height"), p.get("depth")/2
	return []Leaf{{At: vec(0, 0, caseSplit*d), Turn: vec(-1, 0, 0), build: func(b *builder) {
		deep := d + caseSplit*d
		b.hollow(-w, 0, 0, w, h, -deep, 0.012)
		b.tinted(color.shade(0.5), func() { b.box(-w-0.005, h*0.48, -deep-0.005, w+0.005, h*0.53, -deep) })
		b.tinted(Hex("#b59a55"), func() {
			for _, x := range []float64{-w * 0.6, w * 0.6} {
				b.box(x-0.02, h*0.42, -deep-0.012, x+0.02, h*0.6, -deep-0.005)
			}
		})
	}}}
}

// crateLid is hinged behind, at +Z.
func crateLid(p params, color Color) []Leaf {
	w, h, d := p.get("width")/2, p.get("height"), p.get("depth")/2
	return []Leaf{{At: vec(0, h-crateBoard, d), Turn: vec(1, 0, 0), build: func(b *builder) {
		b.box(-w, 0, -2*d, w, crateBoard, 0)
	}}}
}

// crateBoard is how thick a crate's boards are, in metres.
const crateBoard = 0.025

// cabinDoors slide apart before the side at −X.
func cabinDoors(p params, color Color) (out []Leaf) {
	w, h := p.get("width")/2, p.get("height")
	top := -p.get("hanger") - 0.08
	bottom := top - h
	sill, head := bottom+h*0.42, top-h*0.13
	for _, s := range []float64{-1, 1} {
		out = append(out, Leaf{At: vec(-w-0.05, 0, 0), Slide: vec(0, 0, s), build: func(b *builder) {
			half := func(z0, y0, z1, y1 float64) { b.box(-0.03, y0, min(s*z0, s*z1), 0, y1, max(s*z0, s*z1)) }
			half(0.005, bottom+0.05, 0.54, sill)
			b.tinted(Hex("#d9cdb4"), func() {
				half(0.005, head, 0.54, top-0.12)
				half(0.005, sill, 0.06, head)
				half(0.48, sill, 0.54, head)
			})
			b.tinted(iron, func() { half(0.08, bottom+1, 0.12, bottom+1.2) })
		}})
	}
	return out
}

// carDoors are the two in front; figures above 0 open the left one, −X, below 0 the right one.
func carDoors(p params, color Color) (out []Leaf) {
	w, l, h := p.get("width")/2, p.get("length")/2, p.get("height")
	waist := h * 0.58
	front, back := -l*0.3, l*0.2
	for _, s := range []float64{-1, 1} {
		// The left one's free end goes from +Z to −X, which turns against the hand.
		out = append(out, Leaf{At: vec(s*w, 0, front), Turn: r3.Scale(-1, about), Side: -s, build: func(b *builder) {
			long := back - front
			b.box(min(0, s*0.025), 0.34, 0, max(0, s*0.025), waist, long)
			b.tinted(color.shade(0.8), func() {
				high := h - 0.07
				in := func(y float64) float64 { return s * (0.012 - (y-waist)*0.26) }
				b.beam(vec(in(waist), waist, long), vec(in(high), high, long), 0.035)
				b.beam(vec(in(waist), waist, 0.04), vec(in(high), high, l*0.14), 0.035)
				b.beam(vec(in(high), high, l*0.14), vec(in(high), high, long), 0.035)
			})
			b.tinted(iron, func() {
				b.box(min(s*0.025, s*0.04), waist-0.12, long-0.22, max(s*0.025, s*0.04), waist-0.09, long-0.08)
			})
		}})
	}
	return out
}

// vanDoors are the two behind, +Z.
func vanDoors(p params, color Color) (out []Leaf) {
	w, l, h := p.get("width")/2, p.get("length")/2, p.get("height")
	wide := w * 0.58
	for _, s := range []float64{1, -1} {
		out = append(out, Leaf{At: vec(-s*wide, 0, l+0.012), Turn: r3.Scale(-s, about), build: func(b *builder) {
			x := s * (wide - 0.006)
			b.box(min(0, x), 0.42, 0, max(0, x), h*0.92, 0.03)
			b.tinted(glass, func() {
				b.box(min(s*0.08, x-s*0.08), h*0.62, 0.02, max(s*0.08, x-s*0.08), h*0.86, 0.034)
			})
			b.tinted(iron, func() { b.box(min(x-s*0.06, x-s*0.02), h*0.46, 0.03, max(x-s*0.06, x-s*0.02), h*0.52, 0.06) })
		}})
	}
	return out
}
