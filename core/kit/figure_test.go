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

func TestBuildsDiffer(t *testing.T) {
	width := func(j Joint, build string) float64 {
		b := Part(j, Figure{Height: 1.7, Build: build, Coat: "#808080", Legs: "#808080"}).Bounds
		return b.Max.X - b.Min.X
	}
	assert.Less(t, width(Chest, "slim"), width(Chest, ""))
	assert.Less(t, width(Chest, ""), width(Chest, "broad"))
	assert.Greater(t, width(Head, "child"), 1.2*width(Head, "average"), "a child's head is large")
	hair := Part(Head, Figure{Height: 1.7, Coat: "#808080", Legs: "#808080", Hair: "#ff0000"})
	red := false
	for i := 0; i < len(hair.Colors); i += 4 {
		red = red || hair.Colors[i] > 0.9 && hair.Colors[i+1] < 0.1
	}
	assert.True(t, red)
}

func TestHandsReachWhereTheyAreHeld(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		h := f("height", 1.1, 2)
		s := Stance{Height: h, Pan: f("pan", -180, 180), Ground: vec(f("x", -5, 5), 0, f("z", -5, 5))}
		side := rapid.IntRange(0, 1).Draw(t, "hand")
		body := geom.RotateY(s.Pan).At(s.Ground)
		// A place in front of the shoulder, within the arm's length.
		shoulder := vec(float64(2*side-1)*ShoulderAside*h, ShoulderHeight*h, 0)
		way := r3.Unit(vec(f("dx", -0.6, 0.6), f("dy", -0.9, 0.5), -1))
		to := body.Point(r3.Add(shoulder, r3.Scale(f("far", 0.45, 0.9)*ArmLength*h, way)))
		s.Arms[side] = Arm{Hold: 1, At: to}
		var out [Joints]geom.Mat4
		Pose(&s, &out)
		j := HandLeft + Joint(3*side)
		palm := out[j].Point(Palm(h))
		if d := r3.Norm(r3.Sub(palm, to)); d > 0.03*h {
			t.Fatalf("the palm is %.3f m away", d)
		}
		// The parts of the arm hang together.
		elbow := out[j-2].Point(vec(0, -upperArm*h, 0))
		if d := r3.Norm(r3.Sub(elbow, out[j-1].Origin())); d > 0.02*h {
			t.Fatalf("the elbow is torn by %.3f m", d)
		}
	})
}

func TestPosturesBlendByTheirNumbers(t *testing.T) {
	a := Posture{Sink: 0.2, Lean: 10, Arms: [2]Arm{{Raise: 40}, {Hold: 1, At: vec(1, 1, 1)}}}
	b := Posture{Sink: 0.4, LookPan: 30, Arms: [2]Arm{{Raise: 80, Hold: 1, At: vec(2, 0, 0)}, {}}}
	m := a.Mix(&b, 0.25)
	assert.InDelta(t, 0.25, m.Sink, 1e-12)
	assert.InDelta(t, 7.5, m.Lean, 1e-12)
	assert.InDelta(t, 7.5, m.LookPan, 1e-12)
	assert.InDelta(t, 50, m.Arms[0].Raise, 1e-12)
	assert.Equal(t, vec(2, 0, 0), m.Arms[0].At, "a hand goes to the only place it is held at")
	assert.Equal(t, vec(1, 1, 1), m.Arms[1].At)
	assert.InDelta(t, 0.75, m.Arms[1].Hold, 1e-12)
}

func TestSinkingBendsTheKneesAndKeepsTheFeet(t *testing.T) {
	var up, down [Joints]geom.Mat4
	Pose(&Stance{Height: 1.8}, &up)
	Pose(&Stance{Height: 1.8, Posture: Posture{Sink: 0.4, Back: 0.2, Lean: 20}}, &down)
	for _, j := range []Joint{FootLeft, FootRight} {
		assert.InDelta(t, 0, r3.Norm(r3.Sub(up[j].Origin(), down[j].Origin())), 1e-9)
	}
	assert.InDelta(t, 0.4, up[Pelvis].Origin().Y-down[Pelvis].Origin().Y, 1e-9)
	knee := down[ShinLeft].Origin()
	assert.Less(t, knee.Z, down[Pelvis].Origin().Z-0.1, "knees go forward")
	level := down[Head].Dir(vec(0, 1, 0))
	assert.InDelta(t, 1, level.Y, 0.02, "the head stays level")
}

func TestGaitsFollowTheirPace(t *testing.T) {
	p, err := curve.NewPath(curve.Straight, []r3.Vec{{}, {Z: -24}}, false)
	require.NoError(t, err)
	track := Track{Path: p, To: 24}
	slow, usual, fast := NewGait(track, Walking, 1.75, 40, nil), NewGait(track, Walking, 1.75, 17, nil), NewGait(track, Running, 1.75, 7, nil)
	assert.Less(t, slow.step, usual.step)
	assert.Less(t, usual.step, fast.step)
	air := 0
	for i := range 1000 {
		d := 24 * float64(i) / 1000
		l, r := fast.foot(d, 0), fast.foot(d, 1)
		if l.lift > 0.01 && r.lift > 0.01 {
			air++
		}
		l, r = usual.foot(d, 0), usual.foot(d, 1)
		assert.False(t, l.lift > 0.01 && r.lift > 0.01, "a walker has a foot on the ground at %v", d)
	}
	assert.Greater(t, air, 100, "a runner flies at times")

	back := Track{Path: p, From: 10, To: 4}
	at, dir := back.Heading(2)
	assert.InDelta(t, -8, at.Z, 1e-9)
	assert.InDelta(t, 1, dir.Z, 1e-9, "backward on the path is toward +Z")
	assert.InDelta(t, 6, back.Length(), 1e-12)
}

func TestMarksLieOnTheGround(t *testing.T) {
	p, err := curve.NewPath(curve.Straight, []r3.Vec{{}, {X: 10}}, false)
	require.NoError(t, err)
	slope := func(at r3.Vec) float64 { return 0.3 * at.X }
	g := NewGait(Track{Path: p, To: 10}, Walking, 1.7, 8, slope)
	for side := range g.marks {
		for _, m := range g.marks[side] {
			assert.InDelta(t, 0.3*m.at.X, m.at.Y, 1e-12)
		}
	}
	assert.InDelta(t, 1.5, g.Floor(5), 0.02)
	assert.InDelta(t, 3, g.Floor(99), 1e-9, "held to the end")
	g.StartFacing(vec(0, 0, -1))
	l, r := g.marks[0][0].at, g.marks[1][0].at
	assert.InDelta(t, 2*hipHalf*1.7, r.X-l.X, 1e-9, "before setting off the feet stand as the body does")
}

func TestWheelsStandOnTheGround(t *testing.T) {
	for _, id := range []string{"car", "van", "cart", "bicycle"} {
		wheels := Wheels(id, nil)
		require.NotEmpty(t, wheels, id)
		for _, w := range wheels {
			assert.InDelta(t, w.Radius, w.At.Y, 1e-9, id)
			m := WheelMesh(w)
			checkMesh(t, id+" wheel", m)
			assert.InDelta(t, 2*w.Radius, m.Bounds.Max.Y-m.Bounds.Min.Y, 0.03*w.Radius, id)
			assert.Greater(t, facing(m), 0.999, id)
		}
	}
	assert.Empty(t, Wheels("bench", nil))
	assert.InDelta(t, 0.7, Wheels("cart", map[string]float64{"wheel": 0.7})[0].Radius, 1e-12)
}

func TestHandlesPullTheirParameter(t *testing.T) {
	// Moving a handle's parameter by its gain for a metre moves the handle a metre.
	for _, s := range Shelf {
		for _, h := range Handles(s.ID, nil) {
			p := s.params(nil, nil)
			i := 0
			for k := range s.Params {
				if s.Params[k].Name == h.Param {
					i = k
				}
			}
			const by = 0.05
			v := p.v[h.Param] + by*h.Gain
			if v > s.Params[i].Max {
				continue
			}
			for _, moved := range Handles(s.ID, map[string]float64{h.Param: v}) {
				if moved.Param == h.Param {
					way := r3.Sub(moved.At, h.At)
					assert.InDelta(t, by, r3.Dot(way, h.Axis), 1e-6, "%s %s", s.ID, h.Param)
				}
			}
			assert.InDelta(t, 1, r3.Norm(h.Axis), 1e-9)
		}
	}
}

func TestTheStockIsLargeAndWellProportioned(t *testing.T) {
	assert.GreaterOrEqual(t, len(Shelf), 40)
	seen := map[string]bool{}
	for _, s := range Shelf {
		assert.False(t, seen[s.ID], "%s is there twice", s.ID)
		seen[s.ID] = true
	}
	size := func(id string) r3.Vec {
		b := Build(id, nil, "", nil).Bounds
		return r3.Sub(b.Max, b.Min)
	}
	assert.InDelta(t, 0.9, size("chair").Y, 0.02)
	assert.InDelta(t, 0.74, size("table").Y, 0.01)
	assert.InDelta(t, 4.2, size("car").Z, 0.1)
	assert.InDelta(t, 2, size("bed").Z, 0.05)
	assert.InDelta(t, 1.05, size("railing").Y, 0.05)
	assert.Equal(t, []Practical(nil), Practicals("bench", nil))
	assert.InDelta(t, 3.5, Practicals("lamp", map[string]float64{"height": 4})[0].At.Y, 1e-9)
	grip := Grip("case", nil, geom.Box{})
	assert.InDelta(t, 0.36, grip.Y, 1e-9, "a case is carried by its handle")
	box := Build("crate", nil, "", nil).Bounds
	assert.InDelta(t, box.Max.Y, Grip("crate", nil, box).Y, 1e-9)
	assert.False(t, math.IsNaN(size("crowd").X))
}
