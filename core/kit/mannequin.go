package kit

import (
	"math"
	"slices"
	"sync"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Joint indexes the parts of the mannequin. Each part is a rigid mesh that
// hangs from its joint; arms and legs run down −Y from it, the front is −Z and
// the right hand side +X. Parts that meet share a ball around their joint, so
// that no way of bending it can tear the surface.
type Joint int

// The joints.
const (
	Pelvis Joint = iota
	Chest
	Head
	UpperArmLeft
	ForearmLeft
	HandLeft
	UpperArmRight
	ForearmRight
	HandRight
	ThighLeft
	ShinLeft
	FootLeft
	ThighRight
	ShinRight
	FootRight
	EyeLeft
	EyeRight
	Mouth
	Joints // the number of joints
)

var jointNames = map[string]Joint{
	"pelvis": Pelvis, "chest": Chest, "head": Head, "hand.left": HandLeft, "hand.right": HandRight,
}

// JointByName returns a joint that things can hang on: pelvis, chest, head,
// hand.left or hand.right.
func JointByName(name string) (Joint, bool) {
	j, ok := jointNames[name]
	return j, ok
}

// Proportions of the body as shares of its height.
const (
	hipHeight = 0.505
	hipHalf   = 0.052
	ankle     = 0.045
	thigh     = 0.235
	shin      = 0.235
	waist     = 0.1 // pelvis to the chest joint
	shoulder  = 0.215
	shoulderX = 0.118
	neck      = 0.27 // chest joint to head joint
	upperArm  = 0.165
	forearm   = 0.145
	palm      = 0.05 // wrist to the middle of the hand
)

// Figure is what the parts of a mannequin are built from: its height in metres,
// its build, and colours as #rrggbb. Hair and skin may be empty.
type Figure struct {
	Height     float64
	Build      string // one of Builds, or empty for average
	HairStyle  string // one of HairStyles, or empty for short
	Coat, Legs string
	Hair, Skin string
}

// Builds lists the builds of a mannequin.
var Builds = []string{"average", "slim", "broad", "child", "elder"}

// HairStyles lists how hair can be worn.
var HairStyles = []string{"short", "long", "tied", "bald"}

// Carriage returns how large the head of a build is against the average, and by how
// many degrees it stoops, for Stance.
func Carriage(build string) (skull, stoop float64) {
	f := frameOf(build)
	return f.head, f.stoop
}

// frame is how a build differs from the average.
type frame struct{ body, waist, head, stoop float64 } // the last in degrees

func frameOf(build string) frame {
	switch build {
	case "slim":
		return frame{0.88, 0.86, 0.97, 0}
	case "broad":
		return frame{1.15, 1.26, 1.02, 0}
	case "child":
		return frame{1, 1, 1.3, 0}
	case "elder":
		return frame{0.94, 1.14, 1, 10}
	}
	return frame{1, 1, 1, 0}
}

// UsualHeight is how tall somebody of a build usually is, in metres.
func UsualHeight(build string) float64 {
	switch build {
	case "slim":
		return 1.68
	case "broad":
		return 1.82
	case "child":
		return 1.22
	case "elder":
		return 1.7
	}
	return 1.74
}

// UsualSkin is the colour of skin that nobody has chosen.
const UsualSkin = "#c99f82"

// UsualHair is the colour of hair that nobody has chosen.
func UsualHair(build string) string {
	if build == "elder" {
		return "#a8a49c"
	}
	return "#3a2d28"
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// What the parts of a body share: the balls around its joints, as shares of its height.
const (
	deltoid  = 0.036
	elbow    = 0.0265
	wrist    = 0.02
	hipBall  = 0.05
	kneeBall = 0.035
	calf     = 0.025
	throat   = 0.029
)

// tone is one of the colours of a figure.
type tone int

const (
	coatTone tone = iota
	trimTone
	legsTone
	skinTone
	lidTone
	lipTone
	mouthTone
	hairTone
	whiteTone
	irisTone
	pupilTone
	soleTone
	tones
)

// mark stands for the tone in a mesh whose colours are not known yet.
func (t tone) mark() Color { return Color{float32(t)} }

func (f *Figure) palette() (p [tones]Color) {
	p[coatTone], p[legsTone] = Hex(f.Coat), Hex(f.Legs)
	p[trimTone] = p[coatTone].shade(0.8)
	p[skinTone], p[hairTone] = Hex(orElse(f.Skin, UsualSkin)), Hex(orElse(f.Hair, UsualHair(f.Build)))
	p[lidTone] = p[skinTone].shade(0.95)
	p[lipTone] = blend(p[skinTone], Hex("#8c3b36"), 0.4)
	p[mouthTone], p[whiteTone], p[pupilTone], p[soleTone] = Hex("#2a1413"), Hex("#e6e1d8"), Hex("#0c0c0d"), Hex("#24211f")
	p[irisTone] = blend(p[hairTone], Hex("#4f6a78"), 0.55).shade(0.8)
	return p
}

// shapes keeps the parts of bodies a metre tall with marks for colours: there are few.
var shapes sync.Map // from shapeKey to *Mesh

type shapeKey struct {
	j            Joint
	build, style string
}

// part returns the shape of a part of a figure, and how large it is in metres of a body.
func (f *Figure) part(j Joint) (key shapeKey, size float64) {
	key, size = shapeKey{j: j}, f.Height
	switch j {
	case HandLeft, HandRight, FootLeft, FootRight: // the same for all
	case Head:
		key.style = f.HairStyle
		fallthrough
	case EyeLeft, EyeRight, Mouth: // the same but for the size
		size *= frameOf(f.Build).head
	default:
		key.build = f.Build
	}
	return key, size
}

// Part returns the mesh of one part of a mannequin.
func Part(j Joint, f Figure) *Mesh {
	key, size := f.part(j)
	m := key.shape()
	out := &Mesh{Normals: m.Normals, Indices: m.Indices, Positions: make([]float32, len(m.Positions)), Colors: make([]float32, 0, len(m.Colors))}
	for i, x := range m.Positions {
		out.Positions[i] = x * float32(size)
	}
	out.Bounds = geom.Box{Min: r3.Scale(size, m.Bounds.Min), Max: r3.Scale(size, m.Bounds.Max)}
	p := f.palette()
	for i := 0; i < len(m.Colors); i += 4 {
		out.Colors = append(out.Colors, p[int(m.Colors[i])][:]...)
	}
	return out
}

// shape returns a part of a body a metre tall.
func (k shapeKey) shape() *Mesh {
	v, ok := shapes.Load(k)
	if !ok {
		v, _ = shapes.LoadOrStore(k, k.carved())
	}
	return v.(*Mesh)
}

// carved makes a part of a body a metre tall.
func (k shapeKey) carved() *Mesh {
	of := frameOf(k.build)
	b := newBuilder(coatTone.mark())
	switch k.j {
	case HandLeft, FootLeft:
		right := shapeKey{k.j + HandRight - HandLeft, k.build, k.style}
		return right.shape().mirrored()
	case Pelvis:
		b.tinted(legsTone.mark(), func() {
			b.carve(hips(of), around(vec(0, 0.01, 0), 0.14, 0.1, 0.12), 0.024)
		})
	case Chest:
		b.chest(of)
	case Head:
		b.head(k.style)
	case EyeLeft, EyeRight:
		b.eye()
	case Mouth:
		b.tinted(lipTone.mark(), func() { b.ball(vec(0, 0, 0), 0.0155, 0.014, 0.005, 10) })
		b.tinted(mouthTone.mark(), func() { b.ball(vec(0, 0, -0.0028), 0.0125, 0.0065, 0.0036, 10) })
	case UpperArmLeft, UpperArmRight:
		b.limb(upperArm, of.body, [2]float64{0, deltoid}, [2]float64{0.3, 0.031}, [2]float64{1, elbow})
	case ForearmLeft, ForearmRight:
		b.limb(forearm, of.body, [2]float64{0, elbow}, [2]float64{0.25, 0.0275}, [2]float64{1, wrist})
	case HandRight:
		b.tinted(skinTone.mark(), func() {
			b.carve(hand(), around(vec(-0.008, -0.052, -0.008), 0.045, 0.075, 0.046), 0.0068)
		})
	case ThighLeft, ThighRight:
		b.tinted(legsTone.mark(), func() {
			b.limb(thigh, of.body, [2]float64{0, hipBall}, [2]float64{0.35, 0.047}, [2]float64{1, kneeBall})
		})
	case ShinLeft, ShinRight:
		b.tinted(legsTone.mark(), func() {
			b.limb(shin, of.body, [2]float64{0, kneeBall}, [2]float64{0.3, 0.034}, [2]float64{1, calf})
		})
	case FootRight:
		shoe := drop(vec(0, -0.022, 0.018), vec(0.003, -0.033, -0.082), 0.023, 0.018).
			and(0.03, drop(vec(0, 0, 0), vec(0, -0.02, -0.01), calf*0.96, 0.024), egg(vec(0.002, -0.036, -0.06), 0.024, 0.016, 0.034)).
			without(0.006, under(-ankle))
		b.tinted(soleTone.mark(), func() { b.carve(shoe, around(vec(0, -0.02, -0.035), 0.04, 0.05, 0.085), 0.0145) })
	}
	return &b.mesh
}

// mirrored is the left one of a right hand.
func (m *Mesh) mirrored() *Mesh {
	out := &Mesh{Positions: slices.Clone(m.Positions), Normals: slices.Clone(m.Normals), Colors: m.Colors, Indices: slices.Clone(m.Indices), Bounds: m.Bounds}
	for i := 0; i < len(out.Positions); i += 3 {
		out.Positions[i], out.Normals[i] = -out.Positions[i], -out.Normals[i]
	}
	for i := 0; i < len(out.Indices); i += 3 {
		out.Indices[i+1], out.Indices[i+2] = out.Indices[i+2], out.Indices[i+1]
	}
	out.Bounds.Min.X, out.Bounds.Max.X = -m.Bounds.Max.X, -m.Bounds.Min.X
	return out
}

func around(c r3.Vec, x, y, z float64) geom.Box {
	return geom.Box{Min: r3.Sub(c, vec(x, y, z)), Max: r3.Add(c, vec(x, y, z))}
}

func blend(a, b Color, t float32) Color {
	for i := range a {
		a[i] += (b[i] - a[i]) * t
	}
	return a
}

// limb adds a part of an arm or leg that begins and ends as a ball: its radii at shares
// of its length.
func (b *builder) limb(length, girth float64, radii ...[2]float64) {
	var outline [][2]float64
	r0, r1 := radii[0][1]*girth, radii[len(radii)-1][1]*girth
	for _, a := range [3]float64{-90, -60, -25} {
		s, c := math.Sincos(geom.Radians(a))
		outline = append(outline, [2]float64{max(0, r1*c), -length + r1*s})
	}
	outline[0][0] = 0
	for i := len(radii) - 1; i >= 0; i-- {
		outline = append(outline, [2]float64{radii[i][1] * girth, -radii[i][0] * length})
	}
	for _, a := range [3]float64{30, 62, 90} {
		s, c := math.Sincos(geom.Radians(a))
		outline = append(outline, [2]float64{r0 * c, r0 * s})
	}
	outline[len(outline)-1][0] = 0
	b.turned(12, outline...)
}

func hips(of frame) solid {
	w := of.waist
	return both(egg(vec(hipHalf*0.98, 0, 0.004), hipBall*of.body*1.03, hipBall*1.02, hipBall*of.body*1.06)).
		and(0.05, egg(vec(0, 0.045, 0), 0.07*w, 0.05, 0.05*w))
}

// coat is the chest with shoulders and a hem over the hips, in the chest's space.
func coat(of frame) solid {
	g, w := of.body, of.waist
	const flat = 0.7
	trunk := drop(vec(0, -0.095, 0.003), vec(0, 0.03, 0.003), 0.106*w, 0.08*w).flattened(flat).
		and(0.05, drop(vec(0, 0.05, 0.002), vec(0, 0.15, 0.004), 0.079*g, 0.09*g).flattened(flat*0.97))
	top := shoulder - 0.01
	yoke := both(drop(vec(0.02, top+0.006, 0.006), vec(shoulderX, top, 0), 0.034*g, 0.955*deltoid*g).
		and(0.03, drop(vec(0.012, top+0.018, 0.01), vec(0.075, top+0.008, 0.006), 0.026*g, 0.026*g)))
	return trunk.and(0.035, yoke).without(0.026, under(-0.083))
}

func (b *builder) chest(of frame) {
	f := coat(of)
	b.carve(f, around(vec(0, 0.075, 0), 0.2, 0.19, 0.125), 0.026)
	b.tinted(trimTone.mark(), func() {
		for _, y := range []float64{0.17, 0.125, 0.08, 0.035, -0.01, -0.055} { // buttons mark the front
			b.ball(f.front(0, y), 0.0062, 0.0062, 0.004, 8)
		}
		// The collar stands around the neck.
		b.with(geom.RotateX(9).At(vec(0, 0.228+0.07*(of.body-1), 0.006)), nil, func() { // thicker shoulders, higher collar
			b.turned(20, [2]float64{0.043, -0.012}, [2]float64{0.0442, 0}, [2]float64{0.0415, 0.022}, [2]float64{0.0385, 0.0235}, [2]float64{0.0355, 0.02}, [2]float64{0.034, -0.01})
		})
	})
	b.tinted(skinTone.mark(), func() {
		b.carve(drop(vec(0, 0.2, 0.008), vec(0, neck, 0), 0.032, throat*0.95), around(vec(0, 0.24, 0.004), 0.045, 0.07, 0.045), 0.014, f)
	})
}

// Where the face has what, in the head's space.
var (
	eyeAt   = vec(0.0182, 0.0655, -0.0405)
	mouthAt = vec(0, 0.0265, -0.0492)
)

const eyeBall = 0.0092

func skull() solid { return egg(vec(0, 0.08, 0.006), 0.0455, 0.0485, 0.0555) }

// face is the head without hair.
func face() solid {
	jaw := egg(vec(0, 0.044, -0.011), 0.0345, 0.044, 0.0375)
	chin := egg(vec(0, 0.0085, -0.034), 0.0145, 0.0125, 0.0125)
	neckUp := drop(vec(0, 0, 0), vec(0, 0.05, 0.012), throat, 0.03)
	f := skull().and(0.025, jaw).and(0.02, chin).and(0.016, neckUp)
	f = f.and(0.012,
		both(egg(vec(0.0235, 0.05, -0.033), 0.012, 0.011, 0.0115)), // cheeks
		both(drop(vec(0.007, 0.0785, -0.0475), vec(0.031, 0.077, -0.037), 0.0065, 0.006)))
	f = f.without(0.012, both(egg(vec(0.0185, 0.0645, -0.0545), 0.0115, 0.0072, 0.0095)))
	nose := drop(vec(0, 0.0735, -0.0475), vec(0, 0.0475, -0.0605), 0.0048, 0.0072).
		and(0.006, both(egg(vec(0.0068, 0.0452, -0.0545), 0.0056, 0.0048, 0.007)))
	f = f.and(0.008, nose)
	f = f.and(0.008, egg(vec(0, mouthAt.Y-0.001, -0.045), 0.0175, 0.0125, 0.0085)) // around the mouth
	return f.and(0.005, both(egg(vec(0.0465, 0.058, 0.01), 0.0055, 0.0155, 0.0105)))
}

// mane is the hair, a shell over the skull that leaves the face free; nil when there is
// none.
func mane(style string) solid {
	if style == "bald" {
		return nil
	}
	f := egg(vec(0, 0.0845, 0.0105), 0.0505, 0.0505, 0.0585).
		and(0.02, egg(vec(0.006, 0.119, -0.022), 0.034, 0.016, 0.026), egg(vec(0, 0.05, 0.036), 0.036, 0.03, 0.021))
	if style == "long" {
		f = f.and(0.02, drop(vec(0, 0.07, 0.014), vec(0, -0.012, 0.03), 0.0515, 0.046))
	}
	f = f.without(0.006, egg(vec(0, 0.042, -0.066), 0.0425, 0.0645, 0.05))
	if style == "long" {
		return f.without(0.012, drop(vec(0, 0.035, -0.03), vec(0, -0.1, -0.04), 0.038, 0.06)).without(0.015, under(-0.035))
	}
	f = f.without(0.006, both(egg(vec(0.053, 0.047, 0.004), 0.018, 0.026, 0.02))).without(0.01, under(0.028))
	if style == "tied" {
		return f.and(0.01, egg(vec(0, 0.098, 0.078), 0.021, 0.021, 0.019))
	}
	return f
}

func (b *builder) head(style string) {
	skin, hair := skinTone.mark(), hairTone.mark()
	f := face()
	box := around(vec(0, 0.055, -0.004), 0.06, 0.09, 0.075)
	if m := mane(style); m != nil {
		b.tinted(skin, func() { b.carve(f, box, 0.0076, m) })
		b.tinted(hair, func() { b.carve(m, around(vec(0, 0.05, 0.018), 0.065, 0.1, 0.09), 0.011, skull()) })
	} else {
		b.tinted(skin, func() { b.carve(f, box, 0.0076) })
	}
	for _, side := range []float64{-1, 1} {
		at := vec(side*eyeAt.X, eyeAt.Y, eyeAt.Z)
		lid := func(tilt float64, c Color) { // half a ball, whose rim runs over the eye's corners
			var outline [][2]float64
			for a := 0.0; a <= 90; a += 18 {
				s, co := math.Sincos(geom.Radians(a))
				outline = append(outline, [2]float64{eyeBall * 1.06 * co, eyeBall * 1.06 * s})
			}
			outline[len(outline)-1][0] = 0
			b.with(geom.RotateX(tilt).At(at), &c, func() { b.turned(12, outline...) })
		}
		lid(15, lidTone.mark())
		lid(180-25, skin)
		brow := f.front(side*0.0195, 0.0805)
		turn := geom.PanTiltRoll(-side*22, 0, side*4).At(r3.Add(brow, vec(0, 0, 0.0012)))
		b.with(turn, &hair, func() { b.ball(vec(0, 0, 0), 0.0125, 0.0026, 0.0035, 10) })
	}
}

// eye adds an eye that looks along −Z from its middle.
func (b *builder) eye() {
	b.tinted(whiteTone.mark(), func() { b.ball(vec(0, 0, 0), eyeBall, eyeBall, eyeBall, 10) })
	b.tinted(irisTone.mark(), func() { b.ball(vec(0, 0, -eyeBall*0.62), 0.0046, 0.0046, 0.004, 8) })
	b.tinted(pupilTone.mark(), func() { b.ball(vec(0, 0, -eyeBall*0.95), 0.0026, 0.0026, 0.0022, 6) })
}

// hand is a right hand at ease, its palm toward the body.
func hand() solid {
	palm := egg(vec(0, -0.03, -0.001), 0.0105, 0.031, 0.0235).and(0.012, drop(vec(0, 0, 0), vec(0, -0.02, 0), wrist*0.86, 0.016))
	f := palm
	for i, length := range []float64{0.047, 0.052, 0.048, 0.038} {
		z := -0.0175 + 0.0115*float64(i)
		root := vec(0, -0.054+0.0012*math.Abs(float64(i)-1.2), z)
		bent := vec(-0.004, root.Y-length*0.5, z*1.05)
		tip := vec(-0.0135, root.Y-length*0.93, z*1.02)
		f = f.and(0.009, drop(root, bent, 0.0066, 0.006), drop(bent, tip, 0.006, 0.0048))
	}
	return f.and(0.008, drop(vec(-0.005, -0.02, -0.019), vec(-0.011, -0.044, -0.033), 0.0085, 0.0068), drop(vec(-0.011, -0.044, -0.033), vec(-0.0145, -0.061, -0.0335), 0.0068, 0.0054))
}

// EyeHeight is how high in metres above the floor the eyes of somebody who stands usually are.
const EyeHeight = 1.6
