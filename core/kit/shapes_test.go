package kit

import (
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func TestHexIsLinearLight(t *testing.T) {
	assert.Equal(t, Color{0, 0, 0, 0}, Hex("#000000"))
	assert.Equal(t, Color{1, 1, 1, 0}, Hex("#ffffff"))
	c := Hex("#808080") // sRGB 128 is 21.6 % of the light
	assert.InDelta(t, 0.2159, c[0], 0.0001)
	assert.InDelta(t, 0.0003, Hex("#010000")[0], 0.0001, "the straight part near black")
	for _, bad := range []string{"", "red", "#12", "#gggggg", "#1234567"} {
		assert.Equal(t, Color{0.2, 0.2, 0.2, 0}, Hex(bad), bad)
	}
}

func TestNoiseIsSmoothBoundedAndTheSameAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x, z := rapid.Float64Range(-1e4, 1e4).Draw(t, "x"), rapid.Float64Range(-1e4, 1e4).Draw(t, "z")
		seed := rapid.IntRange(0, 999).Draw(t, "seed")
		v := Noise(x, z, seed)
		if v < -1 || v > 1 || v != Noise(x, z, seed) {
			t.Fatalf("%v", v)
		}
		if d := math.Abs(Noise(x+1e-4, z, seed) - v); d > 1e-3 {
			t.Fatalf("jumps by %v", d)
		}
	})
	assert.NotEqual(t, Noise(3.3, 4.4, 1), Noise(3.3, 4.4, 2), "variants differ")
	assert.Equal(t, lattice(5, -3, 2), Noise(5, -3, 2), "whole places take the lattice's value")
}

func TestGroundIsLevelInItsMiddle(t *testing.T) {
	for _, d := range []float64{0, 3, 7.9} {
		assert.Zero(t, GroundHeight(d, 0, 5, 10, 8, 3))
	}
	highest := 0.0
	for x := -60.0; x < 60; x += 1.7 {
		h := GroundHeight(x, 40, 5, 10, 8, 3)
		highest = max(highest, math.Abs(h))
	}
	assert.Greater(t, highest, 0.5)
	assert.LessOrEqual(t, highest, 5.0)
}

func TestKeysTellBuildsApart(t *testing.T) {
	a := Key("box", map[string]float64{"width": 1, "height": 2}, "#112233")
	assert.Equal(t, a, Key("box", map[string]float64{"height": 2, "width": 1}, "#112233"))
	for _, other := range []string{
		Key("box", map[string]float64{"width": 1, "height": 3}, "#112233"),
		Key("floor", map[string]float64{"width": 1, "height": 2}, "#112233"),
		Key("box", map[string]float64{"width": 1, "height": 2}, ""),
		Key("box", map[string]float64{"width": 1}, "#112233"),
	} {
		assert.NotEqual(t, a, other)
	}
}

// volume is what a closed mesh encloses, by the divergence theorem; a hole or a
// face turned inside out spoils it.
func volume(m *Mesh) (v float64) {
	p := func(i uint32) r3.Vec {
		return vec(float64(m.Positions[3*i]), float64(m.Positions[3*i+1]), float64(m.Positions[3*i+2]))
	}
	for k := 0; k < len(m.Indices); k += 3 {
		a, b, c := p(m.Indices[k]), p(m.Indices[k+1]), p(m.Indices[k+2])
		v += r3.Dot(a, r3.Cross(b, c)) / 6
	}
	return v
}

func TestSolidsEncloseTheirVolume(t *testing.T) {
	b := newBuilder(Color{})
	b.box(1, 2, 3, 2, 4, 6)
	assert.InDelta(t, 6, volume(&b.mesh), 1e-5)
	b = newBuilder(Color{})
	b.cylinder(1, 1, 0, 2, 96)
	assert.InDelta(t, 2*math.Pi, volume(&b.mesh), 0.02)
	b = newBuilder(Color{})
	b.cylinder(1, 0.0001, 0, 3, 96)
	assert.InDelta(t, math.Pi, volume(&b.mesh), 0.02, "a cone")
	b = newBuilder(Color{})
	b.ball(vec(5, 5, 5), 1, 2, 3, 64)
	assert.InDelta(t, 8*math.Pi, volume(&b.mesh), 0.15)
	b = newBuilder(Color{})
	b.beam(vec(0, 0, 0), vec(3, 4, 0), 0.2)
	assert.InDelta(t, 5*0.04, volume(&b.mesh), 1e-5)
	// A wall loses exactly its opening.
	full := volume(Build("wall", map[string]float64{"width": 5, "height": 3, "thick": 0.2, "openWidth": 0}, "", nil))
	assert.InDelta(t, 3, full, 1e-4)
	for _, id := range []string{"floor", "box", "bench", "case", "stairs"} {
		assert.Positive(t, volume(Build(id, nil, "", nil)), id)
	}
}

func TestFenceAndCableFollowTheirPath(t *testing.T) {
	path, err := curve.NewPath(curve.Arc, []r3.Vec{vec(10, 0, 0), vec(0, 0, 10), vec(-10, 0, 0)}, false)
	require.NoError(t, err)
	for _, id := range []string{"fence", "cable"} {
		m := Build(id, nil, "", path)
		for i := 0; i < len(m.Positions); i += 3 {
			d := math.Hypot(float64(m.Positions[i]), float64(m.Positions[i+2]))
			require.InDelta(t, 10, d, 0.25, "%s leaves its path", id)
		}
		assert.Greater(t, m.Bounds.Max.Z, 9.5)
	}
}

func TestGaitFitsAnyLengthInWholeSteps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		length := rapid.Float64Range(0.05, 60).Draw(t, "length")
		height := rapid.Float64Range(0.9, 2.1).Draw(t, "height")
		p, err := curve.NewPath(curve.Straight, []r3.Vec{{}, {Z: -length}}, false)
		if err != nil {
			t.Skip()
		}
		g := NewGait(Track{Path: p, To: p.Length()}, Walking, height, length/(0.8*height), nil)
		if math.Abs(float64(g.steps)*g.step-length) > 1e-9 || g.step > 0.62*height {
			t.Fatalf("%d steps of %v in %v", g.steps, g.step, length)
		}
		planted := 0
		parts := 7 * g.steps // seven of each step, wherever steps begin
		for i := 0; i <= parts; i++ {
			d := length * float64(i) / float64(parts)
			l, r := g.foot(d, 0), g.foot(d, 1)
			if l.lift > 0.001 && r.lift > 0.001 {
				t.Fatalf("both feet are in the air at %v of %v", d, length)
			}
			if l.lift == 0 && r.lift == 0 {
				planted++
			}
			for _, f := range []foot{l, r} {
				if ahead := -f.at.Z; ahead < -1e-9 || ahead > length+1e-9 || math.Abs(ahead-d) > 1.3*g.step+1e-9 {
					t.Fatalf("a foot is at %v when the body is at %v of %v", ahead, d, length)
				}
			}
		}
		if planted < 2 {
			t.Fatal("never stands on both feet")
		}
	})
}

func TestKneesBendForwardOnly(t *testing.T) {
	p, g := walk(t)
	for i := 0; i <= 200; i++ {
		d := p.Length() * float64(i) / 200
		out := pose(p, g, d)
		_, dir := p.Heading(d)
		for _, j := range []Joint{ThighLeft, ThighRight} {
			hip, knee, ankle := out[j].Origin(), out[j+1].Origin(), out[j+2].Origin()
			middle := r3.Scale(0.5, r3.Add(hip, ankle))
			forward := r3.Dot(r3.Sub(knee, middle), r3.Unit(vec(dir.X, 0, dir.Z)))
			assert.Greater(t, forward, -0.06, "at %v", d)
		}
	}
}

func TestPoseIsTheSameAgainAndMovesSmoothly(t *testing.T) {
	p, g := walk(t)
	var prev [Joints]geom.Mat4
	const n = 3000
	for i := 0; i <= n; i++ {
		d := p.Length() * float64(i) / n
		out := pose(p, g, d)
		assert.Equal(t, out, pose(p, g, d))
		if i > 0 {
			for j := range out {
				step := r3.Norm(r3.Sub(out[j].Origin(), prev[j].Origin()))
				require.Less(t, step, 0.05, "joint %d jumps at %v", j, d)
			}
		}
		prev = out
	}
}
