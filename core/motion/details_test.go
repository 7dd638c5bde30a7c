package motion_test

import (
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
)

func TestFocusFollowsItsSubjectAlongTheViewAxis(t *testing.T) {
	d := scenetest.Small()
	n := d.Nodes["a"]
	k := *n.Camera
	k.FocusOn = "walker"
	n.Camera = &k
	d.Nodes["a"] = n
	_, st := at(d, 120)
	assert.InDelta(t, 5, st.Cameras[0].Focus, 1e-9, "half way down the path")
	_, st = at(d, 240)
	assert.InDelta(t, 10, st.Cameras[0].Focus, 1e-9)
	n.Turn = scene.Vec{60, 0, 0} // looking aside, the plane of focus is nearer
	d.Nodes["a"] = n
	_, st = at(d, 240)
	assert.InDelta(t, 5, st.Cameras[0].Focus, 1e-9, "10·cos 60°")
	n.Turn = scene.Vec{180, 0, 0}
	d.Nodes["a"] = n
	_, st = at(d, 240)
	assert.InDelta(t, 0.05, st.Cameras[0].Focus, 1e-9, "a subject behind the camera leaves the nearest focus")
}

func TestLampsShineWithTheirKeys(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["post"] = scene.Node{Kind: scene.KindSet, Name: "post", Position: scene.Vec{2, 0, 0}, Turn: scene.Vec{90, 0, 0}, Piece: &scene.Piece{Stock: "post"}}
	d.Nodes["lamp"] = scene.Node{Kind: scene.KindLamp, Name: "lamp", Parent: "post", Position: scene.Vec{0, 3, -1}, Lamp: &scene.Lamp{Color: "#ffffff", Strength: 4, Reach: 9}}
	d.Curves["glow"] = scene.Curve{Node: "lamp", Channel: scene.Strength, Keys: []curve.Key{{Frame: 0, Value: 0, Ease: curve.Even}, {Frame: 10, Value: 2, Ease: curve.Even}}}
	_, st := at(d, 5)
	assert.InDelta(t, 1, st.Lamps[0].Color[1], 1e-6)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(r3.Vec{X: 1, Y: 3}, st.Lamps[0].At)), 1e-9, "ahead of the turned post is −X")
	assert.Equal(t, 9.0, st.Lamps[0].Reach)
	n := d.Nodes["lamp"]
	n.Hidden = true
	d.Nodes["lamp"] = n
	_, st = at(d, 5)
	assert.Empty(t, st.Lamps, "a hidden lamp gives no light")
}

func TestHiddenThingsAreEvaluatedAndNotDrawn(t *testing.T) {
	d := scenetest.Small()
	whole, _ := at(d, 0)
	for _, id := range []string{"box", "walker"} {
		n := d.Nodes[id]
		n.Hidden = true
		d.Nodes[id] = n
	}
	d.Nodes["case"] = scene.Node{Kind: scene.KindProp, Name: "case", Parent: "walker", Joint: "hand.right", Piece: &scene.Piece{Stock: "case"}}
	s, st := at(d, 120)
	assert.Len(t, s.Instances, len(whole.Instances)-1-int(kit.Joints), "what hangs on a hidden thing is hidden too")
	assert.InDelta(t, -5, st.Worlds[s.Index("walker")][11], 1e-6, "a hidden walker still walks")
	assert.InDelta(t, -5, st.Worlds[s.Index("case")][11], 1e-6, "and what hangs on him goes along")
}

func TestScaleAndParentsMultiply(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["cart"] = scene.Node{Kind: scene.KindGroup, Name: "cart", Position: scene.Vec{1, 0, 0}, Turn: scene.Vec{90, 0, 0}, Scale: 2}
	n := d.Nodes["box"]
	n.Parent, n.Position, n.Scale = "cart", scene.Vec{0, 1, -3}, 0.5
	d.Nodes["box"] = n
	s, st := at(d, 0)
	w := st.Worlds[s.Index("box")]
	assert.InDelta(t, 0, r3.Norm(r3.Sub(r3.Vec{X: -5, Y: 2}, w.Origin())), 1e-9, "three ahead of a cart that faces −X, doubled")
	assert.InDelta(t, 1, r3.Norm(w.Dir(r3.Vec{X: 1})), 1e-9, "twice a half")
}

func TestHeadsTurnWithinReason(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["behind"] = scene.Node{Kind: scene.KindAim, Name: "behind", Position: scene.Vec{0.1, 1.6, 50}}
	a := d.Actions["walking"]
	a.Face = "behind"
	d.Actions["walking"] = a
	s, st := at(d, 120)
	var head geom.Mat4
	for i, in := range s.Instances {
		if s.Nodes[in.Node].ID == "walker" && in.Joint == kit.Head {
			head = st.Instances[i]
		}
	}
	nose := head.Dir(r3.Vec{Z: -1})
	pan, _ := geom.Toward(nose)
	assert.Greater(t, math.Abs(pan), 45.0, "he looks over his shoulder")
	assert.Less(t, math.Abs(pan), 85.0, "and does not wring his neck")
	body := st.Worlds[s.Index("walker")].Dir(r3.Vec{Z: -1})
	assert.InDelta(t, -1, body.Z, 1e-6, "his body keeps to the path")
}

func TestCameraMountedOnAWalkerKeepsItsOffset(t *testing.T) {
	d := scenetest.Small()
	n := d.Nodes["a"]
	n.Parent, n.Position = "walker", scene.Vec{0.5, 1.7, 1}
	k := *n.Camera
	k.Support = scene.Mounted
	n.Camera = &k
	d.Nodes["a"] = n
	s := motion.Compile(d)
	var st motion.State
	for frame := 0.0; frame <= 240; frame += 31 {
		s.Evaluate(frame, &st)
		w := st.Worlds[s.Index("walker")]
		inv := w.Inverse()
		off := inv.Point(st.Cameras[0].World.Origin())
		assert.InDelta(t, 0, r3.Norm(r3.Sub(r3.Vec{X: 0.5, Y: 1.7, Z: 1}, off)), 1e-9)
	}
}

func TestShadowsFollowTheActionNotTheTraveller(t *testing.T) {
	d := scenetest.Small()
	// Somebody stands at the origin nearly all the time; another comes from far away.
	d.Nodes["keeper"] = scene.Node{Kind: scene.KindCast, Name: "keeper", Position: scene.Vec{0, 0, -9}, Cast: d.Nodes["walker"].Cast}
	p := d.Paths["walk"]
	p.Points = []scene.Vec{{0, 0, 900}, {0, 0, -10}}
	d.Paths["walk"] = p
	a := d.Actions["walking"]
	a.Out = 60
	d.Actions["walking"] = a
	s := motion.Compile(d)
	l := lookOf(d, s)
	at := l.Shadow.Point(r3.Vec{Z: -9})
	assert.Less(t, math.Hypot(at.X, at.Y), 0.3, "the map's middle is where most of the action is")
	assert.NotZero(t, l.ShadowPx)
	empty := scenetest.Small()
	delete(empty.Nodes, "walker")
	delete(empty.Actions, "walking")
	s = motion.Compile(empty)
	at = motionLook(s, empty).Point(r3.Vec{Z: -10})
	assert.Less(t, math.Hypot(at.X, at.Y), 0.5, "without cast it is where the set is")
}

func motionLook(s *motion.Scene, d *scene.Document) *geom.Mat4 {
	l := lookOf(d, s)
	return &l.Shadow
}

func TestShotsHaveALightOfTheirOwn(t *testing.T) {
	d := scenetest.Small()
	d.Settings.Sun = scene.Sun{Heading: 100, Height: 30, Strength: 2, Color: "#ffffff", Clock: &scene.SunClock{Latitude: 46, Day: 172, Hour: 12}}
	d.Settings.Haze = scene.Haze{Distance: 300}
	s := motion.Compile(d)
	plain := s.LookIn(0, nil)
	assert.Equal(t, [3]float64{1, 1, 1}, plain.Gain)
	var shot scene.Shot
	assert.Equal(t, plain, s.LookIn(0, &shot), "a shot without is as the scene")
	assert.False(t, shot.Lit())

	d.Settings.Exposure, d.Settings.Tint = 1, "#ff8080"
	s = motion.Compile(d)
	half := math.Pow((128.0/255+0.055)/1.055, 2.4)
	g := s.LookIn(0, nil).Gain
	assert.InDelta(t, 2, g[0], 1e-9, "a stop is twice the light")
	assert.InDelta(t, 2*half, g[1], 1e-6)
	shot = scene.Shot{Exposure: -2, Tint: "#00ff00", Haze: 50, Hour: 17}
	assert.True(t, shot.Lit())
	own := s.LookIn(0, &shot)
	assert.InDelta(t, 0.5e-3, own.Gain[0], 1e-9, "filters lie on top of each other, and all leak a little")
	assert.InDelta(t, 0.5*half, own.Gain[1], 1e-6, "and so do stops")
	assert.Equal(t, 50.0, own.Haze)
	assert.Less(t, own.SunDir.Y, plain.SunDir.Y-0.3, "the sun stands lower at five")
	assert.NotEqual(t, plain.Shadow, own.Shadow)
	d.Settings.Tint = "#000000"
	assert.Equal(t, [3]float64{2, 2, 2}, motion.Compile(d).LookIn(0, nil).Gain, "a black filter is none")
}
