package kit

import (
	"math"
	"testing"

	"proscen/core/geom"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// carved is the surface of a solid around the origin.
func carved(f solid, reach, cell float64, covers ...solid) *Mesh {
	b := newBuilder(Color{})
	b.carve(f, around(vec(0, 0, 0), reach, reach, reach), cell, covers...)
	return &b.mesh
}

func TestCarvedSurfacesAreClosedAndLieOnTheirSolid(t *testing.T) {
	for name, f := range map[string]solid{
		"ball":     egg(vec(0.1, 0, 0), 0.7, 0.7, 0.7),
		"egg":      egg(vec(0, 0, 0), 0.9, 0.5, 0.4),
		"drop":     drop(vec(-0.4, 0, 0), vec(0.4, 0.3, 0), 0.4, 0.2),
		"joined":   both(egg(vec(0.5, 0, 0), 0.3, 0.3, 0.3)).and(0.2, egg(vec(0, 0, 0), 0.4, 0.3, 0.3)),
		"hollowed": egg(vec(0, 0, 0), 0.8, 0.8, 0.8).without(0.05, egg(vec(0, 0.8, 0), 0.4, 0.4, 0.4)),
		"pressed":  drop(vec(0, -0.4, 0), vec(0, 0.4, 0), 0.4, 0.4).flattened(0.6),
	} {
		m := carved(f, 1.2, 0.09)
		checkMesh(t, name, m)
		assert.Greater(t, facing(m), 0.999, name)
		// Closed: each edge is gone along once in each direction.
		edges := map[[2]uint32]int{}
		for i := 0; i < len(m.Indices); i += 3 {
			for k := range 3 {
				edges[[2]uint32{m.Indices[i+k], m.Indices[i+(k+1)%3]}]++
			}
		}
		for e, n := range edges {
			assert.Equal(t, 1, n, name)
			assert.Equal(t, 1, edges[[2]uint32{e[1], e[0]}], "%s has a hole", name)
		}
		for i := 0; i < len(m.Positions); i += 3 {
			p := vec(float64(m.Positions[i]), float64(m.Positions[i+1]), float64(m.Positions[i+2]))
			assert.InDelta(t, 0, f(p), 0.012, name)
		}
	}
	// A ball's area, against its closed form.
	m, area := carved(egg(vec(0, 0, 0), 0.7, 0.7, 0.7), 1.2, 0.09), 0.0
	at := func(i uint32) r3.Vec {
		return vec(float64(m.Positions[3*i]), float64(m.Positions[3*i+1]), float64(m.Positions[3*i+2]))
	}
	for i := 0; i < len(m.Indices); i += 3 {
		a := at(m.Indices[i])
		area += r3.Norm(r3.Cross(r3.Sub(at(m.Indices[i+1]), a), r3.Sub(at(m.Indices[i+2]), a))) / 2
	}
	assert.InEpsilon(t, 4*math.Pi*0.49, area, 0.01)
}

func TestDropsAreTheHullOfTwoBalls(t *testing.T) {
	a, b, ra, rb := vec(-0.3, 0.1, 0), vec(0.4, -0.2, 0.2), 0.3, 0.1
	f := drop(a, b, ra, rb)
	rapid.Check(t, func(t *rapid.T) {
		n := func(name string) float64 { return rapid.Float64Range(-1, 1).Draw(t, name) }
		p := vec(n("x"), n("y"), n("z"))
		// By a second way: the nearest of many balls between the two.
		least := math.Inf(1)
		for i := range 401 {
			s := float64(i) / 400
			c := r3.Add(a, r3.Scale(s, r3.Sub(b, a)))
			least = min(least, r3.Norm(r3.Sub(p, c))-(ra+(rb-ra)*s))
		}
		if d := f(p); math.Abs(d-least) > 2e-3 {
			t.Fatalf("%v: %v, by balls %v", p, d, least)
		}
	})
}

func TestCoveredSurfaceIsLeftOut(t *testing.T) {
	f := egg(vec(0, 0, 0), 0.7, 0.7, 0.7)
	whole, half := carved(f, 1.2, 0.09), carved(f, 1.2, 0.09, egg(vec(0, 0.7, 0), 0.8, 0.8, 0.8))
	assert.Less(t, len(half.Indices), len(whole.Indices)*4/5)
	for i := 0; i < len(half.Indices); i++ {
		y := half.Positions[3*half.Indices[i]+1]
		assert.Less(t, y, float32(0.62), "the top is covered")
	}
}

// TestPartsShareBallsAroundTheirJoints is why nothing tears: where two parts meet, each
// reaches as far from the joint as the other, whichever way it is turned.
func TestPartsShareBallsAroundTheirJoints(t *testing.T) {
	reach := func(j Joint, from r3.Vec, way r3.Vec, build string) float64 {
		m := Part(j, Figure{Height: 1, Build: build, Coat: "#808080", Legs: "#808080"})
		far := 0.0
		for i := 0; i < len(m.Positions); i += 3 {
			d := r3.Sub(vec(float64(m.Positions[i]), float64(m.Positions[i+1]), float64(m.Positions[i+2])), from)
			far = max(far, r3.Dot(d, way))
		}
		return far
	}
	down, up, back := vec(0, -1, 0), vec(0, 1, 0), vec(0, 0, 1)
	for _, build := range Builds {
		for _, c := range []struct {
			upper, lower Joint
			length       float64
		}{{UpperArmLeft, ForearmLeft, upperArm}, {ThighRight, ShinRight, thigh}} {
			end := vec(0, -c.length, 0)
			assert.InDelta(t, reach(c.upper, end, down, build), reach(c.lower, vec(0, 0, 0), up, build), 1e-6, "%s: %d", build, c.upper)
		}
		shoulderAt := vec(shoulderX, shoulder-0.01, 0)
		arm := reach(UpperArmRight, vec(0, 0, 0), vec(1, 0, 0), build)
		assert.InDelta(t, arm, reach(Chest, shoulderAt, vec(1, 0, 0), build), 0.2*arm, build)
		assert.GreaterOrEqual(t, arm, reach(Chest, shoulderAt, vec(1, 0, 0), build), "%s: the sleeve lies outside", build)
		assert.Greater(t, reach(Pelvis, vec(hipHalf, 0, 0), down, build), 0.85*reach(ThighRight, vec(0, 0, 0), back, build), build)
	}
}

func TestEyesAndMouthMoveInTheFace(t *testing.T) {
	s := Stance{Height: 1.8, Skull: 1}
	var still, moved [Joints]geom.Mat4
	Pose(&s, &still)
	s.Mouth, s.Eyes = 1, [2]float64{20, -10}
	Pose(&s, &moved)
	assert.Equal(t, still[Head], moved[Head])
	for _, eye := range []Joint{EyeLeft, EyeRight} {
		assert.InDelta(t, 0, r3.Norm(r3.Sub(still[eye].Origin(), moved[eye].Origin())), 1e-12, "eyes turn about their middle")
		local := moved[Head].Inverse()
		look := moved[eye].Dir(vec(0, 0, -1))
		look = local.Dir(look)
		assert.InDelta(t, -math.Sin(20*math.Pi/180)*math.Cos(10*math.Pi/180), look.X, 1e-9, "to the left")
		assert.InDelta(t, -math.Sin(10*math.Pi/180), look.Y, 1e-9, "down")
	}
	tall := func(m *geom.Mat4) float64 { return r3.Norm(m.Dir(vec(0, 1, 0))) }
	assert.Greater(t, tall(&moved[Mouth]), 4*tall(&still[Mouth]))
	// Both lie in the face: in front of the head's middle, the mouth under the eyes.
	head := still[Head].Inverse()
	mouth, eye := head.Point(still[Mouth].Origin()), head.Point(still[EyeLeft].Origin())
	assert.Less(t, mouth.Y, eye.Y-0.05)
	assert.Less(t, mouth.Z, -0.05)
	assert.Less(t, eye.X, 0.0)
	// The mouth lies on the face, not in front of it or inside.
	assert.InDelta(t, face().front(0, mouthAt.Y).Z, mouthAt.Z, 0.006)
	s.Skull = 1.3
	Pose(&s, &moved)
	wide := head.Point(moved[EyeLeft].Origin())
	assert.InDelta(t, 1.3*eye.X, wide.X, 1e-9, "a larger head has its eyes further apart")
}

func TestHairAndAgeChangeTheOutline(t *testing.T) {
	head := func(style string) geom.Box {
		return Part(Head, Figure{Height: 1, HairStyle: style, Coat: "#808080", Legs: "#808080"}).Bounds
	}
	lowest := func(style string) float64 { // hair
		m, low := Part(Head, Figure{Height: 1, HairStyle: style, Coat: "#808080", Legs: "#808080", Hair: "#00ff00"}), math.Inf(1)
		for i := range len(m.Positions) / 3 {
			if y := m.Positions[3*i+1]; m.Colors[4*i+1] == 1 && (y > 0.09 || y < 0.07) { // but for the brows
				low = min(low, float64(y))
			}
		}
		return low
	}
	assert.Less(t, lowest("long"), lowest("short")-0.04, "long hair reaches the shoulders")
	assert.True(t, math.IsInf(lowest("bald"), 1), "no hair")
	assert.Greater(t, head("tied").Max.Z, head("short").Max.Z+0.02, "a knot at the back")
	assert.Less(t, head("bald").Max.Y, head("short").Max.Y)
	skull, stoop := Carriage("elder")
	var straight, bent [Joints]geom.Mat4
	Pose(&Stance{Height: 1.7, Skull: 1}, &straight)
	Pose(&Stance{Height: 1.7, Skull: skull, Stoop: stoop}, &bent)
	assert.Less(t, bent[Head].Origin().Z, straight[Head].Origin().Z-0.05, "the head comes forward")
	level := bent[Head].Dir(vec(0, 1, 0))
	assert.InDelta(t, 1, level.Y, 0.02, "and stays level")
}

func TestPartsOfFiguresAreKept(t *testing.T) {
	a := Part(Chest, Figure{Height: 1.7, Coat: "#ff0000", Legs: "#808080"})
	b := Part(Chest, Figure{Height: 1.8, Coat: "#00ff00", Legs: "#808080"})
	assert.Equal(t, a.Indices, b.Indices)
	assert.InEpsilon(t, float64(b.Positions[1])/1.8, float64(a.Positions[1])/1.7, 1e-5)
	assert.NotEqual(t, a.Colors, b.Colors)
	left, right := Part(HandLeft, Figure{Height: 1, Coat: "#808080"}), Part(HandRight, Figure{Height: 1, Coat: "#808080"})
	assert.InDelta(t, -right.Bounds.Max.X, left.Bounds.Min.X, 1e-9, "hands mirror each other")
}

func BenchmarkCarveHead(b *testing.B) {
	for b.Loop() {
		shapeKey{j: Head}.carved()
	}
}
