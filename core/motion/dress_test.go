package motion_test

import (
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/daylight"
	"proscen/core/geom"
	"proscen/core/interchange"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"context"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

func key(frame, value float64) curve.Key {
	return curve.Key{Frame: frame, Value: value, Ease: curve.Even}
}

func TestLightFollowsTheClockAndItsKeys(t *testing.T) {
	d := scenetest.Small()
	d.Settings.Sun.Strength, d.Settings.Sky.Strength = 2, 0.5
	d.Settings.Sun.Clock = &scene.SunClock{Latitude: 40, Day: 172, Hour: 8, Light: true}
	_, st := at(d, 0)
	heading, height := daylight.Sun(40, 172, 8)
	turn := geom.PanTiltRoll(-heading, height, 0)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(turn.Dir(r3.Vec{Z: -1}), st.Look.SunDir)), 1e-9, "north is −Z")
	l := daylight.At(height)
	assert.InDelta(t, 2*l.Sun[1], st.Look.Sun[1], 1e-9, "the strength multiplies")
	assert.InDelta(t, 0.5*l.Zenith[2], st.Look.Zenith[2], 1e-9)

	light := func(ch scene.Channel, keys ...curve.Key) {
		d.Curves["light."+string(ch)] = scene.Curve{Node: scene.SettingsID, Channel: ch, Keys: keys}
	}
	light(scene.SunHour, key(0, 12), key(100, 23))
	light(scene.HazeReach, key(0, 100), key(100, 300))
	light(scene.SkyPower, key(0, 1), key(100, 3))
	require.Empty(t, d.Validate())
	s, st := at(d, 0)
	assert.InDelta(t, 73.5, geom.Degrees(math.Asin(st.Look.SunDir.Y)), 0.3)
	assert.Positive(t, st.Look.ShadowPx)
	s.Evaluate(50, st)
	assert.InDelta(t, 200, st.Look.Haze, 1e-9)
	s.Evaluate(100, st)
	assert.Zero(t, st.Look.Sun, "at eleven at night there is no sun")
	assert.Zero(t, st.Look.ShadowPx)
	night := daylight.At(-90)
	_, low := daylight.Sun(40, 172, 23)
	assert.Greater(t, st.Look.Zenith[2], 0.0)
	assert.GreaterOrEqual(t, st.Look.Zenith[2], 3*night.Zenith[2]-1e-9)
	assert.Less(t, low, 0.0)
	assert.Zero(t, testing.AllocsPerRun(20, func() { s.Evaluate(30, st) }))
}

func TestColoursOfLampAndSunHaveKeys(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["spot"] = scene.Node{Kind: scene.KindLamp, Name: "Spot", Position: scene.Vec{0, 3, 0}, Turn: scene.Vec{0, -90, 0}, Lamp: &scene.Lamp{Color: "#ffffff", Strength: 2, Reach: 9, Spot: 60, Soft: 0.5}}
	d.Curves["r"] = scene.Curve{Node: "spot", Channel: scene.Red, Keys: []curve.Key{key(0, 1), key(10, 0)}}
	d.Curves["g"] = scene.Curve{Node: scene.SettingsID, Channel: scene.Green, Keys: []curve.Key{key(0, 0.25)}}
	_, st := at(d, 5)
	l := st.Lamps[0]
	assert.InDelta(t, 1, l.Color[0], 1e-9, "half of white, times two")
	assert.InDelta(t, 2, l.Color[1], 1e-9)
	assert.InDelta(t, -1, l.Dir.Y, 1e-9, "it looks down")
	assert.InDelta(t, math.Cos(math.Pi/6), l.Outer, 1e-9)
	assert.InDelta(t, math.Cos(math.Pi/12), l.Inner, 1e-3, "half of the cone is its soft edge")
	assert.InDelta(t, 0.25, st.Look.Sun[1], 1e-9)
	assert.False(t, l.Shadow)
	d.Nodes["spot"].Lamp.Spot, d.Nodes["spot"].Lamp.Shadow = 0, true
	_, st = at(d, 5)
	assert.True(t, st.Lamps[0].Shadow)
	assert.LessOrEqual(t, st.Lamps[0].Inner, st.Lamps[0].Outer, "without a cone it shines all around")
	d.Nodes["large"] = scene.Node{Kind: scene.KindGroup, Name: "Large", Scale: 3}
	spot := d.Nodes["spot"]
	spot.Parent = "large"
	d.Nodes["spot"] = spot
	_, st = at(d, 5)
	assert.InDelta(t, 9, st.Lamps[0].At.Y, 1e-9, "three times as high")
	assert.InDelta(t, -1, st.Lamps[0].Dir.Y, 1e-9, "what it hangs on may be scaled")
}

// A van is white until its red goes out: two of the same, of which one has keys, share
// nothing; what moves and what opens of it goes along.
func TestColoursOfPiecesHaveKeys(t *testing.T) {
	d := scenetest.Small()
	for _, id := range []string{"one", "two"} {
		d.Nodes[id] = scene.Node{Kind: scene.KindProp, Name: id, Piece: &scene.Piece{Stock: "van", Color: "#ffffff"}}
	}
	s, st := at(d, 0)
	same := len(s.Meshes)
	assert.Empty(t, st.Dyed)
	touched := []scene.Touched{{Collection: "curves", ID: "r"}}
	d.Curves["r"] = scene.Curve{Node: "one", Channel: scene.Red, Keys: []curve.Key{key(0, 1), key(10, 0)}}
	s.Update(d, touched)
	colors := func(node string, frame float64) (out []float32) {
		s.Evaluate(frame, st)
		for _, in := range s.Instances {
			if s.Nodes[in.Node].ID != node {
				continue
			}
			m := s.Meshes[in.Mesh].Mesh
			if in.Dye >= 0 {
				assert.Equal(t, m.Bounds, st.Dyed[in.Dye].Bounds)
				m = st.Dyed[in.Dye]
			}
			out = append(out, m.Colors...)
		}
		return out
	}
	assert.Len(t, s.Meshes, same+3, "its body and two doors")
	assert.InDeltaSlice(t, colors("two", 0), colors("one", 0), 2e-6)
	two, one := colors("two", 5), colors("one", 5)
	changed := 0
	for i := 0; i < len(one); i += 4 {
		if one[i] < two[i]-1e-3 {
			changed++
		}
		assert.InDelta(t, two[i+1], one[i+1], 2e-6, "green stays")
		assert.InDelta(t, two[i+3], one[i+3], 2e-6, "so does what shines")
	}
	assert.Greater(t, changed, 100)
	assert.Equal(t, kit.Build("van", nil, "#00ffff", nil).Colors, colors("one", 10)[:len(kit.Build("van", nil, "", nil).Colors)])
	assert.Zero(t, testing.AllocsPerRun(20, func() { s.Evaluate(7, st) }))

	was := d.Curves["r"]
	delete(d.Curves, "r")
	s.Update(d, []scene.Touched{{Collection: "curves", ID: "r", Before: was}})
	s.Evaluate(5, st)
	assert.Empty(t, st.Dyed)
	assert.Len(t, s.Meshes, same)
}

func TestShootingLimitsWhatShotsSee(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["g"] = scene.Node{Kind: scene.KindGroup, Name: "Rig", Shooting: &scene.Shooting{Hidden: true}}
	n := d.Nodes["box"]
	n.Parent = "g"
	d.Nodes["box"] = n
	n = d.Nodes["walker"]
	n.Shooting = &scene.Shooting{Only: []string{"s2"}}
	d.Nodes["walker"] = n
	s := motion.Compile(d)
	box, walker := &s.Nodes[s.Index("box")], &s.Nodes[s.Index("walker")]
	assert.False(t, box.Shows("s1"), "what hangs on a hidden rig is hidden with it")
	assert.True(t, walker.Shows("s2"))
	assert.False(t, walker.Shows("s1"))
	assert.False(t, walker.Shows(""))
	assert.True(t, s.Nodes[s.Index("a")].Shows("s1"))
	assert.Len(t, s.Instances, 1+int(kit.Joints), "the free views still draw them")
}

func TestVehiclesMoveByThemselves(t *testing.T) {
	d := scenetest.Small()
	d.Paths["road"] = scene.Path{Name: "road", Form: curve.Straight, Points: []scene.Vec{{0, 0, 5}, {0, 0, -35}}}
	vehicle := func(id, stock, path string, params map[string]float64) {
		d.Nodes[id] = scene.Node{Kind: scene.KindVehicle, Name: id, Path: path, AlongYaw: true, Piece: &scene.Piece{Stock: stock, Params: params}}
		d.Curves[id] = scene.Curve{Node: id, Channel: scene.Travel, Keys: []curve.Key{{Frame: 0, Ease: curve.Soft}, {Frame: 96, Value: 1, Ease: curve.Soft}}}
	}
	vehicle("cart", "cart", "road", map[string]float64{"wheel": 0.5})
	vehicle("cabin", "cabin", "road", nil)
	d.Nodes["boat"] = scene.Node{Kind: scene.KindVehicle, Name: "boat", Position: scene.Vec{20, 0, 0}, Piece: &scene.Piece{Stock: "boat"}}
	require.Empty(t, d.Validate())
	s, st := at(d, 48)

	// Half way, 20 m on wheels of half a metre: 40 radians.
	wheel := -1
	for i, in := range s.Instances {
		if s.Nodes[in.Node].ID == "cart" && len(s.Meshes[in.Mesh].Key) > 5 && s.Meshes[in.Mesh].Key[:5] == "wheel" {
			wheel = i
		}
	}
	require.GreaterOrEqual(t, wheel, 0)
	spoke := st.Instances[wheel].Dir(r3.Vec{Y: 1})
	assert.InDelta(t, math.Cos(40), spoke.Y, 1e-6)
	assert.InDelta(t, -math.Sin(40), spoke.Z, 1e-6, "rolling to −Z, the top goes to −Z")
	assert.InDelta(t, 0.5, st.Instances[wheel].Origin().Y, 1e-9)

	// The cabin lags when it sets off, runs ahead when it stops, and hangs still
	// long after.
	tilt := func(frame float64) float64 {
		s.Evaluate(frame, st)
		_, tilt, _ := st.Worlds[s.Index("cabin")].Angles()
		return tilt
	}
	assert.Less(t, tilt(18), -0.5, "what hangs below swings back: the front dips")
	assert.Greater(t, tilt(92), 0.5)
	assert.InDelta(t, 0, tilt(2000), 1e-9)
	assert.InDelta(t, 0, tilt(-50), 1e-9)
	most := 0.0
	before := tilt(0)
	for f := 0.25; f < 300; f += 0.25 {
		now := tilt(f)
		most = max(most, math.Abs(now-before))
		before = now
	}
	assert.Less(t, most, 1.6, "it swings without jumps: 80° · 1.7/s is 1.4° in a quarter of a frame")

	low, high := math.Inf(1), math.Inf(-1)
	for f := 0.0; f < 400; f += 5 {
		s.Evaluate(f, st)
		y := st.Worlds[s.Index("boat")].Origin().Y
		low, high = min(low, y), max(high, y)
	}
	assert.InDelta(t, 0.07, high-low, 0.04, "the boat bobs by a few centimetres")
}

func TestStandingFollowsInStepsAndTheHeadDoesTheRest(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["guard"] = scene.Node{Kind: scene.KindCast, Name: "Guard", Position: scene.Vec{4, 0, -5}, Cast: d.Nodes["walker"].Cast}
	d.Actions["watch"] = scene.Action{Cast: "guard", Do: scene.Stand, In: 0, Out: 240, Face: "walker"}
	s, st := at(d, 0)
	guard, walker := s.Index("guard"), s.Index("walker")
	pans := map[float64]bool{}
	for f := 20.0; f < 240; f++ {
		s.Evaluate(f, st)
		pan, _, _ := st.Worlds[guard].Angles()
		to := r3.Sub(st.Worlds[walker].Origin(), st.Worlds[guard].Origin())
		want, _ := geom.Toward(to)
		assert.Less(t, math.Abs(math.Remainder(pan-want, 360)), 26.0, "at %v", f)
		head := s.JointOf(guard, kit.Head, st)
		eyes := head.Dir(r3.Vec{Z: -1})
		look, _ := geom.Toward(eyes)
		if f > 30 {
			assert.Less(t, math.Abs(math.Remainder(look-want, 360)), 9.0, "the eyes stay on the walker at %v", f)
		}
		pans[math.Round(pan*1e6)/1e6] = true
	}
	assert.Less(t, len(pans), 140, "most of the time the body stands still")
}

func TestTurnCrouchAndSeatKeepTheFeetAndThePlace(t *testing.T) {
	d := scenetest.Small()
	delete(d.Actions, "walking")
	d.Actions["turn"] = scene.Action{Cast: "walker", Do: scene.Turn, In: 0, Out: 48, Turn: 90}
	d.Actions["sit"] = scene.Action{Cast: "walker", Do: scene.Sit, In: 60, Out: 120, Seat: 0.5}
	d.Actions["crouch"] = scene.Action{Cast: "walker", Do: scene.Crouch, In: 140, Out: 200}
	d.Actions["aim"] = scene.Action{Cast: "walker", Do: scene.Point, In: 210, Out: 238, Face: "box"}
	s, st := at(d, 48)
	i := s.Index("walker")
	joint := func(j kit.Joint, frame float64) r3.Vec {
		s.Evaluate(frame, st)
		m := s.JointOf(i, j, st)
		return m.Origin()
	}
	front := st.Worlds[i].Dir(r3.Vec{Z: -1})
	assert.InDelta(t, -1, front.X, 1e-9, "turned to the left")
	s.Evaluate(24, st)
	half, _, _ := st.Worlds[i].Angles()
	assert.InDelta(t, 45, half, 1e-9, "half way at half time")
	foot := joint(kit.FootLeft, 55)
	for _, f := range []float64{70, 100, 130, 160, 199, 230} {
		assert.InDelta(t, 0, r3.Norm(r3.Sub(foot, joint(kit.FootLeft, f))), 1e-6, "the foot stays at %v", f)
	}
	assert.InDelta(t, 0.5+0.055*1.8, joint(kit.Pelvis, 110).Y, 0.01, "the hips are on the seat")
	assert.InDelta(t, joint(kit.Pelvis, 110).Y, joint(kit.Pelvis, 135).Y, 1e-6, "and stay there until the next deed")
	assert.Less(t, joint(kit.Head, 190).Y, joint(kit.Head, 40).Y-0.4)
	// Cameras aim at the eyes wherever they are.
	s.Evaluate(190, st)
	eyes := s.Subject(i, st)
	head := joint(kit.Head, 190)
	assert.Less(t, r3.Norm(r3.Sub(eyes, head)), 0.25)
	// Pointing at the box, ten metres off along −Z: the arm lies along the way.
	shoulder, hand := joint(kit.UpperArmRight, 224), joint(kit.HandRight, 224)
	along := r3.Unit(r3.Sub(hand, shoulder))
	want := r3.Unit(r3.Sub(r3.Vec{Y: 0.5, Z: -10}, shoulder))
	assert.Greater(t, r3.Dot(along, want), 0.98)
}

func TestChangesOfDeedsAndSetArePickedUpInPlace(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["floor"] = scene.Node{Kind: scene.KindSet, Name: "Floor", Piece: &scene.Piece{Stock: "floor", Params: map[string]float64{"width": 40, "depth": 40}}}
	s, st := at(d, 120)
	i := s.Index("walker")
	structure := s.Structure
	change := func(collection, id string, before any) {
		s.Update(d, []scene.Touched{{Collection: collection, ID: id, Before: before}})
	}
	was := d.Nodes["floor"]
	moved := was
	moved.Position[1] = 0.3
	d.Nodes["floor"] = moved
	change("nodes", "floor", was)
	s.Evaluate(120, st)
	assert.InDelta(t, 0.3, st.Worlds[i].Origin().Y, 1e-6, "the walker goes on the raised floor")
	walk := d.Actions["walking"]
	later := walk
	later.In, later.Out = 100, 340
	d.Actions["walking"] = later
	change("actions", "walking", walk)
	s.Evaluate(220, st)
	assert.InDelta(t, -5, st.Worlds[i].Origin().Z, 1e-6)
	d.Lines["l"] = scene.Line{Cast: "walker", Text: "Hello", In: 0, Out: 90, Gesture: true}
	change("lines", "l", nil)
	hands := func(frame float64) r3.Vec {
		s.Evaluate(frame, st)
		m := s.JointOf(i, kit.HandRight, st)
		return m.Origin()
	}
	most := 0.0
	for f := 10.0; f < 80; f++ {
		most = max(most, hands(f).Y-hands(95).Y)
	}
	assert.Greater(t, most, 0.08, "who speaks with the hands lifts them")
	assert.Equal(t, structure, s.Structure, "nothing was laid out anew")
}

func TestRaysMeetWhatIsInFront(t *testing.T) {
	d := scenetest.Small()
	s, st := at(d, 240) // the walker has come to the box, at z = −10
	ray := geom.Ray{From: r3.Vec{X: 0.1, Y: 0.4, Z: 10}, Dir: r3.Vec{Z: -1}}
	hit, ok := s.Strike(ray, st, 100, nil)
	require.True(t, ok)
	assert.Contains(t, []string{"walker", "box"}, s.Nodes[hit.Node].ID)
	hit, ok = s.Strike(ray, st, 100, func(n int) bool { return s.Nodes[n].ID == "walker" })
	require.True(t, ok)
	assert.Equal(t, "box", s.Nodes[hit.Node].ID)
	assert.InDelta(t, -9.5, hit.At.Z, 1e-6)
	assert.InDelta(t, 19.5, hit.Distance, 1e-6)
	assert.InDelta(t, 1, hit.Normal.Z, 1e-9)
	_, ok = s.Strike(ray, st, 15, nil)
	assert.False(t, ok, "too far")
	b := s.Extent(s.Index("box"), st)
	assert.InDelta(t, -10.5, b.Min.Z, 1e-6)
}

const flagpole = `{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],
"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"}],"bufferViews":[{"buffer":0,"byteLength":36}],
"buffers":[{"byteLength":36,"uri":"data:;base64,AACAvwAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAAEAAAAAA"}]}`

func TestImportedModelsStandInUntilTheyCome(t *testing.T) {
	b, err := interchange.Read(context.Background(), []byte(flagpole), interchange.Options{Unit: 1})
	require.NoError(t, err) // a triangle from (−1, 0) to (1, 0) to (0, 2)
	d := scenetest.Small()
	blob := "00000000000000000000000000000000000000000000000000000000000000aa"
	d.Models["m"] = scene.Model{Name: "Flag", Blob: blob, Size: scene.Vec{2, 2, 0.5}}
	d.Nodes["flag"] = scene.Node{Kind: scene.KindProp, Name: "Flag", Position: scene.Vec{5, 0, 0}, Model: "m"}
	d.Nodes["actor"] = scene.Node{Kind: scene.KindCast, Name: "Actor", Model: "m", Cast: d.Nodes["walker"].Cast}
	require.Empty(t, d.Validate())
	s, st := at(d, 0)
	assert.Equal(t, []string{blob}, s.Missing(d))
	box := s.Extent(s.Index("flag"), st)
	assert.InDelta(t, 2, box.Max.Y, 1e-6, "a box of its size")
	s.Provide(d, blob, b.Bundle)
	s.Evaluate(0, st)
	assert.Empty(t, s.Missing(d))
	box = s.Extent(s.Index("flag"), st)
	assert.InDelta(t, 4, box.Min.X, 1e-6)
	assert.InDelta(t, 6, box.Max.X, 1e-6)
	assert.InDelta(t, 0, box.Max.Z-box.Min.Z, 1e-6)
	count := 0
	for _, in := range s.Instances {
		if s.Nodes[in.Node].ID == "actor" {
			count++
		}
	}
	assert.Equal(t, 1, count, "the model stands for the mannequin")
}
