package session

import (
	"math"
	"testing"

	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// shapes is the small scene with a tall and a square format; its sensors have 36 x 24 mm
// and its lenses 18 mm.
func shapes(t *testing.T) *Session {
	s := open()
	do(t, s, "formatPut", m{"id": "tall", "name": "tall 9:16", "width": 1080, "height": 1920, "deliver": true})
	do(t, s, "formatPut", m{"id": "square", "name": "square 1:1", "width": 1080, "height": 1080, "deliver": true})
	return s
}

func workIn(t *testing.T, s *Session, format string) {
	do(t, s, "set", m{"collection": "settings", "id": "settings", "merge": m{"format": format}})
}

// sees tells where in the picture of a format a camera sees a point.
func sees(s *Session, format, shot, camera string, at float64, p r3.Vec) (x, y float64) {
	view := s.InFormat(format, shot, camera, at)
	x, y, _ = view.Project(p)
	return x, y
}

// TestAFormatIsTakenFromAnotherPartOfTheSensor holds the picture of a camera at
// (0, 1.5, 0) that looks along −Z against lengths by hand: 10 m away, 1 mm on the
// sensor is 10/18 m.
func TestAFormatIsTakenFromAnotherPartOfTheSensor(t *testing.T) {
	s := shapes(t)
	point := func(mmX, mmY float64) r3.Vec { return r3.Vec{X: mmX * 10 / 18, Y: 1.5 + mmY*10/18, Z: -10} }
	at := func(format string, p r3.Vec, x, y float64) {
		t.Helper()
		gotX, gotY := sees(s, format, "", "a", 0, p)
		assert.InDelta(t, x, gotX, 1e-9)
		assert.InDelta(t, y, gotY, 1e-9)
	}
	at("tall", point(6.75, 12), 1, 1) // the tall picture takes 13.5 x 24 mm
	do(t, s, "reframe", m{"id": "a", "format": "tall", "shift": []float64{0.5, 0}})
	at("tall", point(6.75, 0), 0, 0) // half of its 13.5 mm further to the right
	at("square", point(0, 0), 0, 0)  // and the others stay
	at("wide", point(0, 0), 0, 0)
	do(t, s, "reframe", m{"id": "a", "format": "tall", "shift": []float64{0.5, -0.25}, "scale": 0.5})
	at("tall", point(3.375, -3), 0, 0) // of 6.75 x 12 mm
	at("tall", point(6.75, 3), 1, 1)
	do(t, s, "reframe", m{"id": "a", "format": "tall", "clear": true, "lens": 36})
	at("tall", point(3.375, 6), 1, 1) // twice as long a lens
	do(t, s, "reframe", m{"id": "a", "format": "tall", "clear": true, "move": []float64{2, 1, 5}})
	at("tall", r3.Vec{X: 2, Y: 2.5, Z: -1}, 0, 0)
	view := s.InFormat("tall", "", "a", 0)
	assert.Equal(t, r3.Vec{X: 2, Y: 2.5, Z: 5}, view.World.Origin())
	do(t, s, "reframe", m{"id": "a", "format": "tall", "clear": true})
	assert.Nil(t, s.Doc.Nodes["a"].Camera.Formats, "nothing said, nothing kept")
}

// TestWorkingInAFormatShowsItAsItIsFramed works in the tall format: the camera of the
// scene itself is then what InFormat says, also where it is keyed.
func TestWorkingInAFormatShowsItAsItIsFramed(t *testing.T) {
	s := shapes(t)
	do(t, s, "keySet", m{"node": "a", "channels": []string{"lens.focal"}, "frame": 0})
	do(t, s, "cameraTake", m{"id": "a", "frame": 40, "position": []float64{0, 1.5, 0}, "turn": []float64{0, 0, 0}, "focal": 36, "focus": 3, "key": true})
	do(t, s, "reframe", m{"id": "a", "format": "tall", "lens": 54, "frame": 40, "shift": []float64{0.2, 0}, "scale": 0.8})
	before := *s.Evaluate(40)
	wide := before.Cameras[s.CameraIndex("a")]
	then := s.InFormat("tall", "", "a", 40)
	want := *then
	workIn(t, s, "tall")
	got := s.Evaluate(40).Cameras[s.CameraIndex("a")]
	assert.Equal(t, want, got)
	assert.InDelta(t, wide.Focal*27/18, got.Focal, 1e-9, "a zoom keeps its course")
}

// TestAShiftDoesNotTurnTheCamera looks with a camera that aims at the box: the part of
// the sensor that is taken leaves its pan and tilt alone, another position does not.
func TestAShiftDoesNotTurnTheCamera(t *testing.T) {
	s := shapes(t)
	turn := func() (pan, tilt float64) {
		view := s.InFormat("square", "", "b", 30)
		return view.Pan, view.Tilt
	}
	pan, tilt := turn()
	do(t, s, "reframe", m{"id": "b", "format": "square", "shift": []float64{0.25, 0}, "scale": 0.7})
	p, q := turn()
	assert.Equal(t, [2]float64{pan, tilt}, [2]float64{p, q})
	do(t, s, "reframe", m{"id": "b", "format": "square", "clear": true, "move": []float64{-1, 0, 0}})
	p, _ = turn()
	assert.NotEqual(t, pan, p)
	x, y := sees(s, "square", "", "b", 30, s.Motion.Aimed(s.Motion.Cameras[s.CameraIndex("b")], s.Evaluate(30)))
	assert.InDelta(t, 0, math.Hypot(x, y), 1e-9, "from there it still aims at the box")
}

// TestWhatCarriesACameraIsAsItAlwaysIs mounts a camera on another one: moving its picture
// of a format moves it once.
func TestWhatCarriesACameraIsAsItAlwaysIs(t *testing.T) {
	s := shapes(t)
	n := s.Doc.Nodes["b"]
	k := *n.Camera
	k.Support, k.Aim, k.AimAt = scene.Sticks, scene.AimFree, ""
	n.Path, n.Parent, n.Position, n.Camera = "", "a", scene.Vec{0, 1, 0}, &k
	s.Doc.Nodes["b"] = n
	s = Open(s.Doc, counter())
	do(t, s, "reframe", m{"id": "b", "format": "tall", "move": []float64{2, 0, 0}})
	view := s.InFormat("tall", "", "b", 0)
	assert.Equal(t, r3.Vec{X: 2, Y: 2.5}, view.World.Origin())
}

// TestLightDoesNotCompileTheCut changes the sun, and then the format.
func TestLightDoesNotCompileTheCut(t *testing.T) {
	s := shapes(t)
	s.Program()
	do(t, s, "set", m{"collection": "settings", "id": "settings", "merge": m{"sun": m{"height": 20}}})
	assert.True(t, s.compiled)
	workIn(t, s, "tall")
	assert.False(t, s.compiled)
}

// TestAShotHasItsOwnFraming gives one of two shots of camera A another camera in the
// tall format, and then a framing of its own.
func TestAShotHasItsOwnFraming(t *testing.T) {
	s := shapes(t)
	do(t, s, "reframe", m{"id": "a", "format": "tall", "shift": []float64{0.3, 0}})
	r := do(t, s, "reframe", m{"id": "s1", "format": "tall", "camera": "b"})
	assert.Equal(t, "frame shot 010 in tall 9:16", r.Label)
	on := func(screen float64) program.Playing { return s.OnAir(screen).Playing[0] }
	assert.Equal(t, "a", on(10).Camera, "in the wide format it is as before")
	workIn(t, s, "tall")
	assert.Equal(t, "b", on(10).Camera)
	assert.Equal(t, "a", on(100).Camera)
	assert.Nil(t, on(10).Reframe)
	do(t, s, "reframe", m{"id": "s3", "format": "tall", "shift": []float64{-0.4, 0}})
	shown := func(screen float64) motion.CameraState {
		p := on(screen)
		return *s.View(&p)
	}
	// Of camera A’s 13.5 mm, by 18 mm of focal length: the shot’s framing is instead of the camera’s.
	assert.InDelta(t, -0.4*13.5/18, shown(100).Shift[0], 1e-12)
	assert.InDelta(t, 0.3*13.5/18, s.State.Cameras[s.CameraIndex("a")].Shift[0], 1e-12, "which stays")
	do(t, s, "reframe", m{"id": "s3", "format": "tall", "shift": []float64{0, 0}})
	assert.Zero(t, shown(100).Shift[0], "in the middle, not where its camera has it for all shots")
	do(t, s, "reframe", m{"id": "s3", "format": "tall", "clear": true})
	assert.InDelta(t, 0.3*13.5/18, shown(100).Shift[0], 1e-12)
	workIn(t, s, "wide")
	assert.Zero(t, shown(100).Shift[0])
	do(t, s, "reframe", m{"id": "s1", "format": "square", "camera": "b"})
	view := s.InFormat("tall", "s1", "", 10)
	assert.Equal(t, "b", s.Motion.Nodes[view.Node].ID)
	assert.InDelta(t, s.Evaluate(10).Cameras[s.CameraIndex("b")].World[3], view.World[3], 1e-12)

	refused(t, s, "remove", m{"collection": "nodes", "ids": []string{"b"}}, "shot 010")
	do(t, s, "shotSet", m{"ids": []string{"s2"}, "change": m{"camera": "a"}})
	refused(t, s, "remove", m{"collection": "nodes", "ids": []string{"b"}}, "is used by shot 010;")
	do(t, s, "formatRemove", m{"id": "tall"})
	assert.Equal(t, &scene.ShotFormats{"square": {Camera: "b"}}, s.Doc.Shots["s1"].Formats)
	do(t, s, "formatRemove", m{"id": "square"})
	assert.Nil(t, s.Doc.Shots["s1"].Formats)
	assert.Nil(t, s.Doc.Nodes["a"].Camera.Formats)
	do(t, s, "remove", m{"collection": "nodes", "ids": []string{"b"}})
}

// TestATravelGoesBetweenFramings joins two shots of which one is framed by itself.
func TestATravelGoesBetweenFramings(t *testing.T) {
	s := shapes(t)
	for id, shot := range s.Doc.Shots {
		shot.Head, shot.Tail = 24, 24
		s.Doc.PutShot(id, shot)
	}
	do(t, s, "shotJoin", m{"id": "s3", "kind": scene.Travels, "frames": 8})
	do(t, s, "reframe", m{"id": "s3", "format": "wide", "scale": 0.5})
	p := s.OnAir(96).Playing[0]
	require.NotNil(t, p.Between)
	require.NotNil(t, p.Between.To.Reframe)
	half, whole := p.Between, s.View(&p).HFov
	half.To.Reframe = nil
	assert.Less(t, whole, s.Between(*half).HFov-5)
}

func TestFramingsStayOnTheSensor(t *testing.T) {
	s := shapes(t)
	// 36 mm hold 13.5 mm with (36/13.5 − 1)/2 = 0.833 of it to each side.
	refused(t, s, "reframe", m{"id": "a", "format": "tall", "shift": []float64{0.84, 0}}, "by 83 % to the sides")
	refused(t, s, "reframe", m{"id": "a", "format": "tall", "shift": []float64{0, 0.1}}, "by 0 % up or down")
	do(t, s, "reframe", m{"id": "a", "format": "tall", "shift": []float64{-2, 0.5}, "scale": 0.8, "within": true})
	r := s.Doc.Nodes["a"].Camera.Formats["tall"]
	assert.InDelta(t, -(36/(13.5*0.8)-1)/2, r.Shift[0], 1e-12)
	assert.InDelta(t, 0.125, r.Shift[1], 1e-12)
	refused(t, s, "reframe", m{"id": "a", "format": "tall", "scale": 1.5}, "from 5 to 100 %")
	refused(t, s, "reframe", m{"id": "a", "format": "tall", "scale": 0}, "not 0 %")
	refused(t, s, "reframe", m{"id": "a", "format": "tall", "lens": 0}, "not 0 mm")
	refused(t, s, "reframe", m{"id": "a", "format": "gone"}, "format is not there")
	refused(t, s, "reframe", m{"id": "box", "format": "tall"}, "no such camera or shot")
	refused(t, s, "reframe", m{"id": "a", "format": "tall", "camera": "b"}, "only a shot")
	refused(t, s, "reframe", m{"id": "s1", "format": "tall", "camera": "box"}, "no such camera")
	do(t, s, "shotSet", m{"ids": []string{"s1"}, "change": m{"locked": true}})
	refused(t, s, "reframe", m{"id": "s1", "format": "tall", "scale": 0.5}, "locked")
}

// TestOutlinesLieWhereTheOtherPictureSees holds the corners of other pictures against
// lengths on the sensor: the wide one has 36 x 20.25 mm.
func TestOutlinesLieWhereTheOtherPictureSees(t *testing.T) {
	s := shapes(t)
	do(t, s, "reframe", m{"id": "a", "format": "square", "scale": 0.75, "shift": []float64{0.25, -0.1}})
	got := s.Outlines("a", 0, []string{"tall", "square"})
	require.Len(t, got, 2)
	// 13.5 x 24 mm in the middle; 18 x 18 mm, 4.5 to the right and 1.8 down.
	want := [][8]float64{{-13.5, -24, 13.5, -24, 13.5, 24, -13.5, 24}, {-18 + 9, -18 - 3.6, 18 + 9, -18 - 3.6, 18 + 9, 18 - 3.6, -18 + 9, 18 - 3.6}}
	for i, o := range got {
		for k := range 4 {
			assert.InDelta(t, want[i][2*k]/36, o.Whole[2*k], 1e-9)
			assert.InDelta(t, want[i][2*k+1]/20.25, o.Whole[2*k+1], 1e-9)
		}
	}
	assert.InDelta(t, -0.93*13.5/36, got[0].Action[0], 1e-9)
	assert.InDelta(t, 0.9*24/20.25, got[0].Title[5], 1e-9)
	// From another place it has none, from another direction it has.
	do(t, s, "reframe", m{"id": "a", "format": "square", "clear": true, "move": []float64{0.1, 0, 0}})
	assert.Len(t, s.Outlines("a", 0, []string{"tall", "square", "gone"}), 1)
	do(t, s, "set", m{"collection": "nodes", "id": "b", "merge": m{"camera": m{"framing": []float64{0.8, 0}}}})
	assert.Len(t, s.Outlines("b", 0, []string{"tall"}), 1)
	assert.Empty(t, s.Outlines("gone", 0, []string{"tall"}))
}
