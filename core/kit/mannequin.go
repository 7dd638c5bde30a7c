package kit

import (
	"proscen/core/geom"
)

// Joint indexes the parts of the mannequin. Each part is a rigid mesh that
// hangs from its joint; arms and legs run down −Y from it, the front is −Z and
// the right hand side +X.
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
	Build      string // average (or empty), slim, broad or child
	Coat, Legs string
	Hair, Skin string
}

// Builds lists the builds of a mannequin.
var Builds = []string{"average", "slim", "broad", "child"}

// girth returns how thick a build is, and how large its head, against average.
func girth(build string) (body, head float64) {
	switch build {
	case "slim":
		return 0.88, 0.97
	case "broad":
		return 1.17, 1.02
	case "child":
		return 1.02, 1.3
	}
	return 1, 1
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// Part returns the mesh of one part of a mannequin.
func Part(j Joint, f Figure) *Mesh {
	c, l := Hex(f.Coat), Hex(f.Legs)
	skin, hair, sole := Hex(orElse(f.Skin, "#c99f82")), Hex(orElse(f.Hair, "#3a2d28")), Hex("#24211f")
	body, skull := girth(f.Build)
	b := newBuilder(c)
	b.at = geom.Mat4{body * f.Height, 0, 0, 0, 0, f.Height, 0, 0, 0, 0, body * f.Height, 0, 0, 0, 0, 1}
	if j == Head {
		b.at = geom.Identity.Scaled(skull * f.Height)
	}
	limb := func(r0, r1, length float64, col Color) {
		b.tinted(col, func() {
			b.turned(10, [2]float64{0, -length - r1*0.6}, [2]float64{r1 * 0.8, -length - r1*0.3}, [2]float64{r1, -length}, [2]float64{r0, 0}, [2]float64{r0 * 0.8, r0 * 0.6}, [2]float64{0, r0 * 0.8})
		})
	}
	switch j {
	case Pelvis:
		b.tinted(c.shade(0.85), func() { b.ball(vec(0, 0.005, 0), 0.088, 0.07, 0.062, 12) })
	case Chest:
		b.turned(12, [2]float64{0, -0.08}, [2]float64{0.078, -0.075}, [2]float64{0.082, 0}, [2]float64{0.102, 0.11}, [2]float64{0.1, 0.18}, [2]float64{0.05, 0.225}, [2]float64{0, 0.23})
		for i := range b.mesh.Positions { // flatter front to back
			if i%3 == 2 {
				b.mesh.Positions[i] *= 0.68
			}
		}
		b.tinted(c.shade(0.8), func() {
			b.ball(vec(shoulderX*0.86, shoulder-0.015, 0), 0.04, 0.036, 0.04, 14)
			b.ball(vec(-shoulderX*0.86, shoulder-0.015, 0), 0.04, 0.036, 0.04, 14)
			b.box(-0.006, 0, -0.076, 0.006, 0.17, -0.066) // buttons mark the front
		})
		b.tinted(skin, func() { b.cylinder(0.03, 0.028, 0.2, 0.29, 10) })
	case Head:
		b.tinted(skin, func() {
			b.ball(vec(0, 0.062, 0), 0.05, 0.066, 0.058, 24)
			b.with(geom.RotateX(-14).At(vec(0, 0.058, -0.056)), nil, func() { b.ball(vec(0, 0, 0), 0.01, 0.018, 0.014, 8) }) // nose
		})
		b.tinted(hair, func() {
			b.ball(vec(0, 0.083, 0.012), 0.054, 0.052, 0.056, 24)
			for _, x := range []float64{-0.02, 0.02} {
				b.ball(vec(x, 0.07, -0.052), 0.006, 0.006, 0.005, 8) // eyes
				b.box(x-0.011, 0.083, -0.057, x+0.011, 0.087, -0.05)
			}
			b.box(-0.014, 0.026, -0.052, 0.014, 0.03, -0.046) // mouth
		})
	case UpperArmLeft, UpperArmRight:
		limb(0.034, 0.027, upperArm, c)
	case ForearmLeft, ForearmRight:
		limb(0.027, 0.02, forearm, c.shade(0.92))
	case HandLeft, HandRight:
		b.tinted(skin, func() { b.ball(vec(0, -0.04, -0.004), 0.016, 0.045, 0.024, 10) })
	case ThighLeft, ThighRight:
		limb(0.05, 0.036, thigh, l)
	case ShinLeft, ShinRight:
		limb(0.036, 0.026, shin, l.shade(0.92))
	case FootLeft, FootRight:
		b.tinted(sole, func() {
			b.ball(vec(0, -0.024, -0.04), 0.03, 0.021, 0.085, 10)
			b.ball(vec(0, -0.015, 0.015), 0.027, 0.03, 0.035, 10)
		})
	}
	return &b.mesh
}
