package kit

import (
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// checkMesh holds what every mesh of the kit must keep.
func checkMesh(t *testing.T, name string, m *Mesh) {
	t.Helper()
	n := len(m.Positions) / 3
	require.NotEmpty(t, m.Indices, name)
	require.Len(t, m.Normals, n*3, name)
	require.Len(t, m.Colors, n*4, name)
	for _, i := range m.Indices {
		require.Less(t, int(i), n, name)
	}
	for _, v := range m.Positions {
		require.False(t, math.IsNaN(float64(v)) || math.IsInf(float64(v), 0), name)
	}
	for i := 0; i < len(m.Normals); i += 3 {
		l := math.Sqrt(float64(m.Normals[i]*m.Normals[i] + m.Normals[i+1]*m.Normals[i+1] + m.Normals[i+2]*m.Normals[i+2]))
		require.InDelta(t, 1, l, 1e-4, "%s: normal %d", name, i/3)
	}
}

// facing returns the share of triangles whose winding agrees with their
// normals.
func facing(m *Mesh) float64 {
	p := func(i uint32) r3.Vec {
		return vec(float64(m.Positions[3*i]), float64(m.Positions[3*i+1]), float64(m.Positions[3*i+2]))
	}
	good, all := 0, 0
	for k := 0; k < len(m.Indices); k += 3 {
		a, b, c := m.Indices[k], m.Indices[k+1], m.Indices[k+2]
		n := r3.Cross(r3.Sub(p(b), p(a)), r3.Sub(p(c), p(a)))
		if r3.Norm(n) < 1e-12 {
			continue
		}
		all++
		if r3.Dot(n, vec(float64(m.Normals[3*a]), float64(m.Normals[3*a+1]), float64(m.Normals[3*a+2]))) > 0 {
			good++
		}
	}
	return float64(good) / float64(all)
}

func TestEveryStandInIsASoundMesh(t *testing.T) {
	for _, s := range Shelf {
		checkMesh(t, s.ID, Build(s.ID, nil, "", nil))
		small, large := map[string]float64{}, map[string]float64{}
		for _, p := range s.Params {
			assert.True(t, p.Min <= p.Default && p.Default <= p.Max, "%s %s", s.ID, p.Name)
			small[p.Name], large[p.Name] = -1e9, math.Min(p.Max, 40)
		}
		checkMesh(t, s.ID+" smallest", Build(s.ID, small, "", nil))
		checkMesh(t, s.ID+" large", Build(s.ID, large, "", nil))
		assert.InDelta(t, 1, facing(Build(s.ID, nil, "", nil)), 0.001, "%s: triangles must face outside", s.ID)
	}
	for j := range Joints {
		m := Part(j, Figure{Height: 1.7, Coat: "#5c7a8a", Legs: "#39424e"})
		checkMesh(t, "mannequin", m)
		least := 0.999
		if j == HandLeft || j == HandRight { // but for a sliver in the creases between fingers
			least = 0.995
		}
		assert.Greater(t, facing(m), least, "joint %d", j)
	}
	checkMesh(t, "unknown", Build("no such thing", nil, "", nil))
}

func TestDimensionsAreMetres(t *testing.T) {
	b := Build("box", map[string]float64{"width": 2, "height": 3, "depth": 4}, "", nil).Bounds
	assert.Equal(t, vec(-1, 0, -2), b.Min)
	assert.Equal(t, vec(1, 3, 2), b.Max)
	s := Build("stairs", map[string]float64{"width": 2, "rise": 1.5, "run": 3, "steps": 6}, "", nil).Bounds
	assert.InDelta(t, 1.5, s.Max.Y, 1e-9)
	assert.InDelta(t, -3, s.Min.Z, 1e-9)
	path, err := curve.NewPath(curve.Straight, []r3.Vec{vec(0, 5, 0), vec(0, 5, -30)}, false)
	require.NoError(t, err)
	c := Build("cable", map[string]float64{"sag": 2}, "", path).Bounds
	assert.InDelta(t, -30, c.Min.Z, 0.1)
	assert.InDelta(t, 3, c.Min.Y, 0.1, "a sag of two metres")
}

func TestWallOpeningIsOpen(t *testing.T) {
	m := Build("wall", map[string]float64{"width": 4, "height": 3, "openAt": 2, "openWidth": 1, "openHeight": 2}, "", nil)
	for k := 0; k < len(m.Indices); k += 3 {
		var c r3.Vec
		for _, i := range m.Indices[k : k+3] {
			c = r3.Add(c, vec(float64(m.Positions[3*i])/3, float64(m.Positions[3*i+1])/3, float64(m.Positions[3*i+2])/3))
		}
		inside := c.X > 1.6 && c.X < 2.4 && c.Y > 0.1 && c.Y < 1.9
		assert.False(t, inside, "a triangle fills the door at %v", c)
	}
}

func walk(t *testing.T) (*curve.Path, *Gait) {
	t.Helper()
	p, err := curve.NewPath(curve.Smooth, []r3.Vec{vec(0, 0, 0), vec(2, 0.3, -2), vec(5, 0, -2), vec(7, 1, -5)}, false)
	require.NoError(t, err)
	return p, NewGait(Track{Path: p, To: p.Length()}, Walking, 1.75, p.Length()/1.4, nil)
}

func pose(p *curve.Path, g *Gait, d float64) (out [Joints]geom.Mat4) {
	at, dir := p.Heading(d)
	pan, _ := geom.Toward(dir)
	Pose(&Stance{Ground: at, Pan: pan, Height: 1.75, Gait: g, Distance: d}, &out)
	return out
}

func TestPlantedFeetDoNotSlide(t *testing.T) {
	p, g := walk(t)
	const n = 4000
	moved, planted := 0.0, 0
	var prev [2]foot
	for i := 0; i <= n; i++ {
		d := p.Length() * float64(i) / n
		for k := range prev {
			f := g.foot(d, k)
			if i > 0 && f.lift == 0 && prev[k].lift == 0 {
				planted++
				moved = max(moved, r3.Norm(r3.Sub(f.at, prev[k].at)))
			}
			assert.Less(t, r3.Norm(r3.Sub(f.at, prev[k].at)), 0.03+10*b2f(i == 0), "a foot jumps at %v", d)
			prev[k] = f
		}
	}
	assert.Zero(t, moved)
	assert.Greater(t, planted, n, "more than half of all foot moments are planted")
	for _, d := range []float64{0, p.Length()} {
		l, r := g.foot(d, 0), g.foot(d, 1)
		assert.InDelta(t, 2*hipHalf*1.75, r3.Norm(r3.Sub(l.at, r.at)), 1e-6, "feet stand together at the ends")
	}
}

func b2f(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func TestPoseKeepsTheBodyTogether(t *testing.T) {
	p, g := walk(t)
	h := 1.75
	for i := 0; i <= 400; i++ {
		d := p.Length() * float64(i) / 400
		out := pose(p, g, d)
		for k, side := range [2]float64{-1, 1} {
			j := ThighLeft + Joint(3*k)
			hip := out[Pelvis].Point(vec(side*hipHalf*h, 0, 0))
			assert.InDelta(t, 0, r3.Norm(r3.Sub(hip, out[j].Origin())), 1e-9, "thigh hangs on the hip")
			kneeAt := out[j].Point(vec(0, -thigh*h, 0))
			assert.Less(t, r3.Norm(r3.Sub(kneeAt, out[j+1].Origin())), 0.02, "knee at %v", d)
			ankleAt := out[j+1].Point(vec(0, -shin*h, 0))
			assert.Less(t, r3.Norm(r3.Sub(ankleAt, out[j+2].Origin())), 0.035, "ankle at %v", d)
		}
		head := out[Head].Origin()
		at := p.At(d)
		assert.InDelta(t, 0.85*h, head.Y-at.Y, 0.1*h, "head height at %v", d)
	}
}

func TestMannequinFacesMinusZ(t *testing.T) {
	var out [Joints]geom.Mat4
	Pose(&Stance{Height: 1.8, Pan: 90}, &out)
	nose := out[Head].Dir(vec(0, 0, -1))
	assert.InDelta(t, -1, nose.X, 0.02, "panned left it faces −X")
	assert.Less(t, out[HandRight].Origin().Z, -0.1, "the right hand is on the right")
	Pose(&Stance{Height: 1.8, Posture: Posture{LookPan: 40}}, &out)
	nose = out[Head].Dir(vec(0, 0, -1))
	assert.Less(t, nose.X, -0.6, "the head looks left")
	_, ok := JointByName("hand.right")
	assert.True(t, ok)
}

func BenchmarkPose(b *testing.B) {
	p, _ := curve.NewPath(curve.Straight, []r3.Vec{vec(0, 0, 0), vec(0, 0, -20)}, false)
	g := NewGait(Track{Path: p, To: p.Length()}, Walking, 1.75, 14, nil)
	var out [Joints]geom.Mat4
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		Pose(&Stance{Ground: p.At(5), Height: 1.75, Gait: g, Distance: float64(i%2000) / 100}, &out)
	}
}

func TestOtherWordsAreForStock(t *testing.T) {
	for id := range Also {
		_, ok := Find(id)
		assert.True(t, ok, id)
	}
}
