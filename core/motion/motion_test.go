package motion_test

import (
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/internal/demo"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func at(d *scene.Document, frame float64) (*motion.Scene, *motion.State) {
	s := motion.Compile(d)
	st := &motion.State{}
	s.Evaluate(frame, st)
	return s, st
}

func TestCameraNumbersByHand(t *testing.T) {
	_, st := at(scenetest.Small(), 48)
	a, b := st.Cameras[0], st.Cameras[1]
	assert.InDelta(t, 90, a.HFov, 1e-9, "18 mm on 36 mm")
	assert.InDelta(t, 20.25, a.Gate.Height, 1e-9)
	assert.InDelta(t, 2*math.Atan(20.25/36)*180/math.Pi, a.VFov, 1e-9)
	// B is half way along its track at (4, 2, 0) and aims at the box's middle (0, ½, −10).
	assert.InDelta(t, 4, b.World[3], 1e-9)
	assert.InDelta(t, math.Atan2(4, 10)*180/math.Pi, b.Pan, 1e-9)
	assert.InDelta(t, -math.Atan2(1.5, math.Hypot(4, 10))*180/math.Pi, b.Tilt, 1e-9)
	assert.InDelta(t, 0, b.Roll, 1e-9)
}

func TestFramingPutsTheSubjectThere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		// Up to 60° up or down: nearer to the vertical no tilt may do it.
		turn := f("turn", 0, 360)
		around := geom.PanTiltRoll(turn, f("rise", -60, 60), 0)
		dir := around.Dir(r3.Vec{Z: -1})
		framing := [2]float64{f("right", -0.8, 0.8), f("up", -0.8, 0.8)}
		h, v, roll := f("h", 10, 60), f("v", 10, 40), f("roll", -15, 15)
		pan, tilt := motion.AimFramed(dir, framing, h, v, roll, [2]float64{})
		m := geom.PanTiltRoll(pan, tilt, roll)
		inv := m.Inverse()
		c := inv.Dir(dir)
		if c.Z >= 0 {
			t.Fatal("the subject is behind the camera")
		}
		x := c.X / -c.Z / math.Tan(geom.Radians(h/2))
		y := c.Y / -c.Z / math.Tan(geom.Radians(v/2))
		if math.Abs(x-framing[0]) > 1e-6 || math.Abs(y-framing[1]) > 1e-6 {
			t.Fatalf("subject at %v %v, want %v", x, y, framing)
		}
	})
}

func TestAttachedThingsKeepTheirPlace(t *testing.T) {
	d := scenetest.Small()
	n := d.Nodes["box"]
	n.Parent, n.Position = "walker", scene.Vec{1, 0, 0}
	d.Nodes["box"] = n
	d.Nodes["case"] = scene.Node{Kind: scene.KindProp, Name: "case", Parent: "walker", Joint: "hand.right", Piece: &scene.Piece{Stock: "case"}}
	s, st := at(d, 120)
	walker, box := st.Worlds[s.Index("walker")], st.Worlds[s.Index("box")]
	want := walker.Point(r3.Vec{X: 1})
	assert.InDelta(t, 0, r3.Norm(r3.Sub(want, box.Origin())), 1e-9)
	hand := st.Worlds[s.Index("case")].Origin()
	assert.InDelta(t, 0.8, hand.Y, 0.25, "the case hangs at hand height")
	assert.Less(t, r3.Norm(r3.Sub(hand, walker.Origin())), 1.2)
}

func TestWalkerIsOnThePathAndStaysAtItsEnd(t *testing.T) {
	d := scenetest.Small()
	s, st := at(d, 120)
	i := s.Index("walker")
	assert.InDelta(t, -5, st.Worlds[i][11], 1e-6, "half way at half time")
	s.Evaluate(5000, st)
	assert.InDelta(t, -10, st.Worlds[i][11], 1e-9)
	s.Evaluate(-5, st)
	assert.InDelta(t, 0, st.Worlds[i][11], 1e-9)
	// Speeds up and slows down, never backward.
	prev := 1.0
	for f := 0.0; f <= 240; f++ {
		s.Evaluate(f, st)
		z := st.Worlds[i][11]
		assert.LessOrEqual(t, z, prev+1e-9)
		prev = z
	}
}

func TestPeopleFaceEachOther(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["other"] = scene.Node{Kind: scene.KindCast, Name: "Other", Position: scene.Vec{3, 0, -10}, Cast: d.Nodes["walker"].Cast}
	d.Actions["talk"] = scene.Action{Cast: "walker", Do: scene.Stand, In: 240, Out: 300, Face: "other"}
	d.Actions["listen"] = scene.Action{Cast: "other", Do: scene.Stand, In: 0, Out: 300, Face: "walker"}
	s, st := at(d, 290)
	front := st.Worlds[s.Index("walker")].Dir(r3.Vec{Z: -1})
	assert.InDelta(t, 1, front.X, 1e-6, "the walker has turned to the right")
	front = st.Worlds[s.Index("other")].Dir(r3.Vec{Z: -1})
	assert.InDelta(t, -1, front.X, 0.02, "within a step of ten degrees; the head does the rest")
}

func TestAlongTurnsWithThePath(t *testing.T) {
	d := scenetest.Small()
	n := d.Nodes["b"]
	k := *n.Camera
	k.Aim, k.AimAt = scene.AimAlong, ""
	n.Camera = &k
	d.Nodes["b"] = n
	_, st := at(d, 10)
	assert.InDelta(t, -90, st.Cameras[1].Pan, 1e-9, "the track runs to +X, on the right")
	d.Curves["pan"] = scene.Curve{Node: "b", Channel: scene.Pan, Keys: []curve.Key{{Frame: 0, Value: 30, Ease: curve.Soft}}}
	_, st = at(d, 10)
	assert.InDelta(t, -60, st.Cameras[1].Pan, 1e-9, "keys are an offset from the heading")
}

// lookOf returns the light of a document whose settings have changed.
func lookOf(d *scene.Document, s *motion.Scene) motion.Look {
	s.Update(d, []scene.Touched{{Collection: "settings", ID: scene.SettingsID}})
	var st motion.State
	s.Evaluate(0, &st)
	return st.Look
}

func TestSunAndShadowMap(t *testing.T) {
	d := scenetest.Small()
	s := motion.Compile(d)
	l := lookOf(d, s)
	want := r3.Vec{X: math.Sqrt2 / 2, Y: math.Sqrt2 / 2}
	assert.InDelta(t, 0, r3.Norm(r3.Sub(want, l.SunDir)), 1e-9, "heading 90 is +X, height 45")
	// What stands in the set is inside the map; what is nearer to the sun has less depth.
	p := l.Shadow.Point(r3.Vec{Z: -10})
	q := l.Shadow.Point(r3.Add(r3.Vec{Z: -10}, want))
	assert.Less(t, math.Abs(p.X), 1.0)
	assert.Less(t, math.Abs(p.Y), 1.0)
	assert.Less(t, q.Z, p.Z)
	assert.InDelta(t, p.X, q.X, 1e-9)
	d.Settings.Sun.Height = -5
	assert.Zero(t, lookOf(d, s).ShadowPx, "a sun below the horizon casts nothing")
}

func TestEvaluateAllocatesNothing(t *testing.T) {
	d := demo.Scene()
	s := motion.Compile(d)
	var st motion.State
	s.Evaluate(0, &st)
	f := 0.0
	assert.Zero(t, testing.AllocsPerRun(100, func() {
		f += 7.3
		s.Evaluate(f, &st)
	}))
}

func TestDemonstrationStandsOnItsFeet(t *testing.T) {
	d := demo.Scene()
	assert.Empty(t, d.Validate())
	s, st := at(d, 0)
	for frame := 0.0; frame <= 1200; frame += 7 {
		s.Evaluate(frame, st)
		for i, m := range st.Worlds {
			for _, v := range m {
				assert.False(t, math.IsNaN(v) || math.IsInf(v, 0), "%s at %v", s.Nodes[i].ID, frame)
			}
		}
	}
	// While he rides, Tomas stands on the cabin's floor.
	for _, frame := range []float64{100, 300, 900, 1100} {
		s.Evaluate(frame, st)
		cabin := st.Worlds[s.Index("cabin")].Inverse()
		tomas := cabin.Point(st.Worlds[s.Index("tomas")].Origin())
		assert.InDelta(t, -4.46, tomas.Y, 0.06, "frame %v", frame)
	}
}

func BenchmarkEvaluateDemo(b *testing.B) {
	d := demo.Scene()
	s := motion.Compile(d)
	var st motion.State
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		s.Evaluate(float64(i%1200), &st)
	}
}

func BenchmarkCompileDemo(b *testing.B) {
	d := demo.Scene()
	s := motion.Compile(d)
	for b.Loop() {
		s.Update(d, nil)
		motion.Compile(d)
	}
}
