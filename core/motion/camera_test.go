package motion_test

import (
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/motion"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
)

// camera returns camera A of the small scene, changed, at a frame.
func camera(change func(d *scene.Document, n *scene.Node, k *scene.Camera), frames ...float64) []motion.CameraState {
	d := scenetest.Small()
	n := d.Nodes["a"]
	k := *n.Camera
	n.Camera = &k
	change(d, &n, &k)
	d.Nodes["a"] = n
	if p := d.Validate(); p != nil {
		panic(p)
	}
	s := motion.Compile(d)
	var st motion.State
	var out []motion.CameraState
	for _, f := range frames {
		s.Evaluate(f, &st)
		out = append(out, st.Cameras[0])
	}
	return out
}

func TestHandheldIsSeededAndStillWhereItBegan(t *testing.T) {
	handheld := func(seed int) func(*scene.Document, *scene.Node, *scene.Camera) {
		return func(_ *scene.Document, _ *scene.Node, k *scene.Camera) {
			k.Support, k.Unrest = scene.Handheld, &scene.Unrest{Amount: 1, Rate: 0.8, Seed: seed, From: 30}
		}
	}
	frames := []float64{30}
	for f := 0.0; f < 240; f += 0.5 {
		frames = append(frames, f)
	}
	a, b, other := camera(handheld(3), frames...), camera(handheld(3), frames...), camera(handheld(4), frames...)
	assert.Equal(t, a, b, "the same seed, the same unrest")
	assert.NotEqual(t, a[50], other[50])
	assert.InDelta(t, 0, r3.Norm(r3.Sub(a[0].World.Origin(), r3.Vec{Y: 1.5})), 1e-12)
	assert.InDelta(t, 0, a[0].Pan, 1e-12)
	most, step := 0.0, 0.0
	for i := 2; i < len(a); i++ {
		most = max(most, math.Abs(a[i].Pan))
		step = max(step, math.Abs(a[i].Pan-a[i-1].Pan))
	}
	assert.Greater(t, most, 0.1, "it moves")
	assert.Less(t, most, 0.8, "twice the reach at most, as it starts anywhere within it")
	assert.Less(t, step, 0.06, "and never jumps")
	// The value itself is held, so that a change of machine or compiler shows;
	// the browser's core is held to the same figure.
	assert.InDelta(t, -0.044141, a[100].Pan, 1e-6)
}

func TestLaggingOperatorAimsWhereTheSubjectWas(t *testing.T) {
	aim := func(lag float64) func(*scene.Document, *scene.Node, *scene.Camera) {
		return func(_ *scene.Document, n *scene.Node, k *scene.Camera) {
			n.Position = scene.Vec{10, 1.62, -5}
			k.Aim, k.AimAt, k.Lag = scene.AimAt, "walker", lag
		}
	}
	// The walker goes ten metres along −Z in ten seconds, evenly but for its ends.
	// Half a second late at frame 120, half a metre behind.
	now := camera(aim(0), 120)[0]
	late := camera(aim(0.5), 120)[0]
	before := camera(aim(0), 108)[0]
	assert.InDelta(t, before.Pan, late.Pan, 0.15)
	assert.Greater(t, math.Abs(now.Pan-late.Pan), 2.0)
	assert.InDelta(t, now.Tilt, late.Tilt, 0.2)
}

func TestLevelKeepsTheHorizonWhateverCarriesTheCamera(t *testing.T) {
	for _, level := range []bool{false, true} {
		c := camera(func(d *scene.Document, n *scene.Node, k *scene.Camera) {
			d.Nodes["boat"] = scene.Node{Kind: scene.KindVehicle, Name: "Boat", Turn: scene.Vec{20, 5, 14}, Scale: 2, Piece: &scene.Piece{Stock: "box"}}
			n.Parent, k.Support, k.Level = "boat", scene.Mounted, level
		}, 10)[0]
		w := c.World
		assert.InDelta(t, 1, r3.Norm(w.Dir(r3.Vec{X: 1})), 1e-12, "a camera has no scale")
		if level {
			assert.InDelta(t, 0, w[4], 1e-12, "its right has no height")
		} else {
			assert.Greater(t, math.Abs(w[4]), 0.1)
		}
		assert.InDelta(t, 5, c.Tilt, 1e-9)
	}
}

func TestShiftMovesThePictureAndKeepsTheHold(t *testing.T) {
	// 36 x 20.25 mm gate, 18 mm: 9 mm to the right is half of half the width.
	shifted := func(_ *scene.Document, n *scene.Node, k *scene.Camera) { k.Shift = [2]float64{9, -5.0625} }
	c := camera(shifted, 0)[0]
	x, y, depth := c.Project(r3.Vec{X: 0, Y: 1.5, Z: -10})
	assert.InDelta(t, -0.5, x, 1e-12)
	assert.InDelta(t, 0.5, y, 1e-12)
	assert.InDelta(t, 10, depth, 1e-12)
	r := c.Ray(-0.5, 0.5)
	assert.InDelta(t, 0, math.Hypot(r.X, r.Y), 1e-12, "the ray back goes straight ahead")
	held := camera(func(d *scene.Document, n *scene.Node, k *scene.Camera) {
		shifted(d, n, k)
		n.Turn = scene.Vec{0, 0, 12}
		k.Aim, k.AimAt, k.Framing = scene.AimAt, "walker", [2]float64{0.4, -0.3}
	}, 90)[0]
	s := motion.Compile(scenetest.Small())
	var st motion.State
	s.Evaluate(90, &st)
	x, y, _ = held.Project(s.Subject(s.Index("walker"), &st))
	assert.InDelta(t, 0.4, x, 1e-9)
	assert.InDelta(t, -0.3, y, 1e-9)
}

func TestFocusPullsFollowTheirSubjects(t *testing.T) {
	keys := []curve.Key{{Frame: 24, Value: 1, Ease: curve.Soft, On: "walker"}, {Frame: 72, Value: 10, Ease: curve.Soft, On: "box"}, {Frame: 96, Value: 4, Ease: curve.Even}}
	c := camera(func(d *scene.Document, _ *scene.Node, _ *scene.Camera) {
		d.Curves["f"] = scene.Curve{Node: "a", Channel: scene.Focus, Keys: keys}
	}, 0, 12, 24, 48, 72, 96, 200)
	s := motion.Compile(scenetest.Small())
	var st motion.State
	walker := func(f float64) float64 {
		s.Evaluate(f, &st)
		return max(0.05, -s.Subject(s.Index("walker"), &st).Z) // camera A looks along −Z from the origin
	}
	assert.InDelta(t, walker(12), c[1].Focus, 1e-9, "before the first key it follows its subject")
	assert.InDelta(t, walker(24), c[2].Focus, 1e-9)
	assert.InDelta(t, (walker(48)+10)/2, c[3].Focus, 1e-9, "half way at half time, and the walker walks on meanwhile")
	assert.InDelta(t, 10, c[4].Focus, 1e-9, "the box stands ten metres away")
	assert.InDelta(t, 4, c[5].Focus, 1e-9)
	assert.InDelta(t, 4, c[6].Focus, 1e-9)
}

func TestOneCameraAloneIsAsInTheWholeScene(t *testing.T) {
	s := motion.Compile(scenetest.Small())
	var whole, alone motion.State
	for _, f := range []float64{0, 33.5, 200} {
		s.Evaluate(f, &whole)
		for k := range whole.Cameras {
			assert.Equal(t, whole.Cameras[k], *s.EvaluateCamera(k, f, &alone))
		}
	}
	from, to, moves := s.Moves(1)
	assert.Equal(t, []any{0.0, 96.0, true}, []any{from, to, moves})
	_, _, moves = s.Moves(0)
	assert.False(t, moves)
}
