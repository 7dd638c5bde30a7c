package kit

import (
	"math"
	"sync"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Crowds are one static piece: people of all builds, simpler than mannequins.

var (
	coats = []string{"#7d5a4f", "#4f6472", "#6f6a4c", "#5b4b66", "#8a7a63", "#43574d", "#8c4f45", "#38424d"}
	legs  = []string{"#3b3f4c", "#4a4238", "#2f3437", "#5a5248"}
	hairs = []string{"#3a2d28", "#211c1a", "#6b4a2c", "#8d7f70", "#a9814a"}
	skins = []string{UsualSkin, "#dd9f77", "#8d5f43", "#5f3f2e", "#b98a68"}
)

// one picks one of a list by a place and a variant.
func one[T any](of []T, x, z, seed int) T {
	return of[min(len(of)-1, int((lattice(x, z, seed)+1)/2*float64(len(of))))]
}

// share returns a number from 0 to 1 by a place and a variant.
func share(x, z, seed int) float64 { return (lattice(x, z, seed) + 1) / 2 }

// crowd is people who sit in rows and face −Z.
func crowd(b *builder, p params) {
	cols, rows, gap, seed := p.int("across"), p.int("rows"), p.get("gap"), p.int("seed")
	for r := range rows {
		for c := range cols {
			if share(c, r, seed) < p.get("empty") {
				continue
			}
			x := (float64(c) - float64(cols-1)/2) * gap
			at := geom.RotateY(16 * lattice(c, r, seed+2)).At(vec(x, 0, float64(r)*gap*1.35))
			b.with(at, nil, func() {
				h := b.somebody(c, r, seed, 0, true)
				seat := bystanderSeat * h
				b.tinted(timber, func() {
					b.box(-0.2, seat-0.04, -0.12, 0.2, seat, 0.24)
					b.with(geom.Translate(vec(0, 0, 0.06)), nil, func() { b.legs(0.19, 0.17, seat-0.04, 0.04) })
				})
			})
		}
	}
}

// standingCrowd is people who stand about in a field and face −Z, more or less.
func standingCrowd(b *builder, p params) {
	count, w, d, seed := p.int("people"), p.get("width"), p.get("depth"), p.int("seed")
	cols := max(1, int(math.Round(math.Sqrt(float64(count)*w/d))))
	rows := (count + cols - 1) / cols
	for i := range count {
		c, r := i%cols, i/cols
		in := min(cols, count-r*cols) // the last row has fewer
		x := (float64(c) + 0.5 + 0.28*lattice(c, r, seed)) / float64(in) * w
		z := (float64(r) + 0.5 + 0.28*lattice(c, r, seed+1)) / float64(rows) * d
		at := geom.RotateY(p.get("turned") * lattice(c, r, seed+2)).At(vec(x-w/2, 0, z-d/2))
		b.with(at, nil, func() { b.somebody(c, r, seed, p.get("children"), false) })
	}
}

// somebody adds a person by a place and a variant, and returns how tall.
func (b *builder) somebody(x, z, seed int, children float64, sits bool) float64 {
	f := Figure{
		Height: 1.69 + 0.11*lattice(x, z, seed+11), Build: one([]string{"average", "slim", "broad", "average", "elder"}, x, z, seed+12),
		HairStyle: one([]string{"short", "long", "short", "tied", "bald"}, x, z, seed+13),
		Coat:      one(coats, x, z, seed+14), Legs: one(legs, x, z, seed+15), Skin: one(skins, x, z, seed+16),
	}
	if f.Build != "elder" {
		f.Hair = one(hairs, x, z, seed+17)
	}
	if share(x, z, seed+18) < children {
		f.Build, f.Height = "child", 1.12+0.16*lattice(x, z, seed+11)
		if f.HairStyle == "bald" {
			f.HairStyle = "short"
		}
	}
	m := bystander{f.Build, f.HairStyle, sits, int(share(x, z, seed+19) * bystanderPoses)}.mesh()
	p := f.palette()
	b.with(geom.Identity.Scaled(f.Height), nil, func() {
		from := uint32(len(b.mesh.Positions) / 3)
		at := func(of []float32, i int) r3.Vec { return vec(float64(of[i]), float64(of[i+1]), float64(of[i+2])) }
		for i := 0; i < len(m.Positions); i += 3 {
			b.color = p[int(m.Colors[i/3*4])]
			b.vertex(at(m.Positions, i), at(m.Normals, i))
		}
		for _, i := range m.Indices {
			b.mesh.Indices = append(b.mesh.Indices, from+i)
		}
	})
	return f.Height
}

const (
	bystanderPoses = 4
	bystanderSeat  = 0.265 // height of the seat as a share of the body's
)

// bystander is a kind of simple person.
type bystander struct {
	build, hair string
	sits        bool
	pose        int
}

// bystanders keeps those that have been made: there are few.
var bystanders sync.Map // from bystander to *Mesh

// mesh returns a simple person a metre tall, with marks for colours.
func (k bystander) mesh() *Mesh {
	v, ok := bystanders.Load(k)
	if !ok {
		v, _ = bystanders.LoadOrStore(k, k.made())
	}
	return v.(*Mesh)
}

// made poses a mannequin and makes it simple.
func (k bystander) made() *Mesh {
	s := Stance{Height: 1, FootPan: [2]float64{14, -14}}
	s.Skull, s.Stoop = Carriage(k.build)
	tilt := float64(k.pose)/(bystanderPoses-1)*2 - 1
	s.LookPan, s.LookTilt, s.Aside = 22*tilt, -2, 0.02*tilt
	switch arm := &s.Arms; {
	case k.sits:
		s.Sink, s.Back, s.Lean = HipHeight-bystanderSeat-0.055, 0.2, 2+4*math.Abs(tilt)
		for i := range arm {
			arm[i] = Arm{Raise: 28 + 6*tilt, Bend: 42, Turn: 14}
		}
	case k.pose == 1: // hands before the body
		arm[0], arm[1] = Arm{Raise: 12, Bend: 62, Turn: 34}, Arm{Raise: 12, Bend: 66, Turn: 34}
	case k.pose == 2: // one arm bent
		arm[1] = Arm{Raise: 22, Bend: 88, Turn: 20}
	default:
		arm[0], arm[1] = Arm{Raise: 4, Bend: 12, Spread: 3}, Arm{Raise: -3, Bend: 10, Spread: 3}
	}
	var joints [Joints]geom.Mat4
	Pose(&s, &joints)
	b, f := newBuilder(Color{}), Figure{Height: 1, Build: k.build, HairStyle: k.hair}
	for j := range Joints {
		cell := 0.036
		switch j {
		case Mouth:
			continue
		case EyeLeft, EyeRight:
			cell = 0.009
		case Head:
			cell = 0.017
		case HandLeft, HandRight, FootLeft, FootRight:
			cell = 0.03
		}
		key, size := f.part(j)
		b.simple(key.shape(), joints[j].Scaled(size), cell)
	}
	return &b.mesh
}

// simple adds a mesh with what of each colour lies in one cell of a size drawn together to
// one vertex (J. Rossignac and P. Borrel, "Multi-resolution 3D approximations for rendering
// complex scenes", 1993).
func (b *builder) simple(m *Mesh, at geom.Mat4, cell float64) {
	type place struct{ x, y, z, mark int }
	type sum struct {
		p, n  r3.Vec
		count float64
		index uint32
	}
	cells, of := map[place]*sum{}, make([]*sum, len(m.Positions)/3)
	var order []*sum
	marks := make([]Color, 0, 64)
	for i := range of {
		p := vertex(m.Positions, uint32(i))
		n := vec(float64(m.Normals[3*i]), float64(m.Normals[3*i+1]), float64(m.Normals[3*i+2]))
		mark := m.Colors[4*i]
		key := place{int(math.Floor(p.X / cell)), int(math.Floor(p.Y / cell)), int(math.Floor(p.Z / cell)), int(mark)}
		c := cells[key]
		if c == nil {
			c = &sum{}
			cells[key] = c
			order, marks = append(order, c), append(marks, Color{mark})
		}
		c.p, c.n, c.count = r3.Add(c.p, p), r3.Add(c.n, n), c.count+1
		of[i] = c
	}
	for _, c := range order {
		c.p, c.n = r3.Scale(1/c.count, c.p), r3.Unit(c.n)
	}
	b.with(at, nil, func() {
		for i, c := range order {
			b.color = marks[i]
			c.index = b.vertex(c.p, c.n)
		}
		for i := 0; i+2 < len(m.Indices); i += 3 {
			u, v, w := of[m.Indices[i]], of[m.Indices[i+1]], of[m.Indices[i+2]]
			n := r3.Cross(r3.Sub(v.p, u.p), r3.Sub(w.p, u.p))
			// What has been folded over lies behind what has not, and is left out.
			if min(r3.Dot(n, u.n), r3.Dot(n, v.n), r3.Dot(n, w.n)) > 0 {
				b.mesh.Indices = append(b.mesh.Indices, u.index, v.index, w.index)
			}
		}
	})
}
