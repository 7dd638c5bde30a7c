package session

import (
	"math"
	"strings"
	"testing"

	"proscen/core/geom"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// pictured returns a match of 4:3 in whose picture the corners of the box are as camera A
// sees them from a place: what a photo taken there shows.
func pictured(t *testing.T, s *Session, at scene.Vec, turn scene.Vec, focal float64) *scene.Match {
	t.Helper()
	m := &scene.Match{Blob: strings.Repeat("a", 64), Width: 1200, Height: 900, Free: true}
	photo := s.camera("a", 0)
	photo.World = geom.PanTiltRoll(turn[0], turn[1], turn[2]).At(at.R3())
	photo.HFov, photo.VFov = photo.Gate.FieldOfView(focal, 1)
	for i := range photo.Shift { // it is as many mm
		photo.Shift[i] *= photo.Focal / focal
	}
	by := m.Fitted(s.Motion.Aspect())
	assert.InDelta(t, 0.75, by[0], 1e-12, "4:3 covers three quarters of the width of 16:9")
	box := s.Extent([]string{"box"})
	for i := range 8 {
		p := box.Corner(i)
		x, y, depth := photo.Project(p)
		require.Positive(t, depth)
		m.Points = append(m.Points, scene.MatchPoint{At: scene.FromR3(p), In: [2]float64{x / by[0], y / by[1]}})
	}
	return m
}

func TestACameraIsMatchedToAPicture(t *testing.T) {
	s := open()
	photo := pictured(t, s, scene.Vec{1.5, 2, -7}, scene.Vec{25, -25, 3}, 24)
	before := *s.Doc.Nodes["a"].Camera

	few := *photo
	few.Points = photo.Points[:3]
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": few})
	assert.Equal(t, scene.Vec{0, 1.5, 0}, s.Doc.Nodes["a"].Position, "three points find no camera")
	seen, ok := s.Matched("a", 0)
	require.True(t, ok)
	assert.Contains(t, seen.Trouble, "4 points")

	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": photo})
	n := s.Doc.Nodes["a"]
	assert.Less(t, r3.Norm(r3.Sub(n.Position.R3(), r3.Vec{X: 1.5, Y: 2, Z: -7})), 0.005)
	assert.InDeltaSlice(t, []float64{25, -25, 3}, n.Turn[:], 0.05)
	assert.InDelta(t, 24, n.Camera.Focal, 0.05)
	seen, _ = s.Matched("a", 0)
	assert.Empty(t, seen.Trouble)
	assert.Less(t, seen.Error, 0.5, "pixels")
	assert.Len(t, seen.Points, 8)

	// A point that is dragged away is off by what the others hold against it.
	dragged := *n.Camera.Match
	dragged.Points = append([]scene.MatchPoint{}, dragged.Points...)
	dragged.Points[0].In[0] += 0.1 // 60 pixels
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": dragged})
	seen, _ = s.Matched("a", 0)
	assert.Greater(t, seen.Points[0].Off, 5.0)
	assert.Greater(t, seen.Error, 3.0)

	// Points that are not the same ones are said to be so.
	wrong := *photo
	wrong.Points = append([]scene.MatchPoint{}, photo.Points...)
	for i := range wrong.Points {
		wrong.Points[i].In = photo.Points[(i*3+5)%8].In
	}
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": wrong})
	seen, _ = s.Matched("a", 0)
	assert.Contains(t, seen.Trouble, "same point")

	do(t, s, "cameraMatch", m{"id": "a", "frame": 0})
	_, ok = s.Matched("a", 0)
	assert.False(t, ok)
	assert.Equal(t, before.Sensor, s.Doc.Nodes["a"].Camera.Sensor)
}

func TestAMatchTakesALensThatThereIs(t *testing.T) {
	s := open()
	s.Doc.Kits["kit"] = scene.Kit{Name: "Kit", Primes: []float64{18, 25, 35}}
	n := s.Doc.Nodes["a"]
	k := *n.Camera
	k.Kit, k.Focal = "kit", 18
	n.Camera = &k
	s.Doc.Nodes["a"] = n
	s = Open(s.Doc, counter())
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": pictured(t, s, scene.Vec{1.5, 2, -7}, scene.Vec{25, -25, 0}, 24)})
	assert.Equal(t, 25.0, s.Doc.Nodes["a"].Camera.Focal)
	seen, _ := s.Matched("a", 0)
	assert.Less(t, seen.Error, 12.0, "from a little further back it is nearly the same picture")
}

// TestAMatchKnowsAShiftedLens, also where the shift has keys.
func TestAMatchKnowsAShiftedLens(t *testing.T) {
	s := open()
	for frame, v := range map[int]float64{0: 2, 50: -3} {
		do(t, s, "value", m{"node": "a", "channel": "lens.shiftX", "frame": frame, "value": v, "key": true})
	}
	require.InDelta(t, 2.0/18, s.camera("a", 0).Shift[0], 1e-9)
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": pictured(t, s, scene.Vec{1.5, 2, -7}, scene.Vec{25, -25, 0}, 24)})
	assert.Less(t, r3.Norm(r3.Sub(s.Doc.Nodes["a"].Position.R3(), r3.Vec{X: 1.5, Y: 2, Z: -7})), 0.005)
	seen, _ := s.Matched("a", 0)
	assert.Less(t, seen.Error, 0.5)
}

func TestAMatchCanBeAKey(t *testing.T) {
	s := open()
	do(t, s, "cameraMatch", m{"id": "a", "frame": 20, "key": true, "match": pictured(t, s, scene.Vec{1.5, 2, -7}, scene.Vec{25, -25, 0}, 24)})
	do(t, s, "cameraMatch", m{"id": "a", "frame": 60, "key": true, "match": pictured(t, s, scene.Vec{-1.5, 1, -7}, scene.Vec{-25, -10, 0}, 24)})
	for frame, x := range map[float64]float64{20: 1.5, 60: -1.5} {
		c := s.camera("a", frame)
		assert.InDelta(t, x, c.World.Origin().X, 0.01)
	}
	_, x := s.Doc.CurveOf("a", scene.PositionX)
	assert.Len(t, x.Keys, 3, "and one that keeps where it stood at the beginning")
}

func TestFilesOfMatchesAreFiles(t *testing.T) {
	s := open()
	photo := pictured(t, s, scene.Vec{1.5, 2, -7}, scene.Vec{25, -25, 0}, 24)
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": photo})
	assert.Equal(t, []scene.FileUse{{Blob: photo.Blob, Kind: "images", Users: []scene.Thing{{Collection: "nodes", ID: "a"}}}}, s.Doc.Files())
	other := strings.Repeat("b", 64)
	do(t, s, "fileReplace", m{"kind": "images", "blob": photo.Blob, "with": m{"blob": other, "width": 2400, "height": 1800}})
	got := s.Doc.Nodes["a"].Camera.Match
	assert.Equal(t, other, got.Blob)
	assert.Len(t, got.Points, 8)
	assert.Empty(t, s.Doc.Validate())
}

// A press near a corner is the corner, from an eye and along parallels; behind something
// there is none.
func TestCornersUnderThePointer(t *testing.T) {
	s := open()
	s.Evaluate(0)
	box := s.Extent([]string{"box"})
	corner := r3.Vec{X: box.Max.X, Y: box.Max.Y, Z: box.Max.Z}
	eye := r3.Vec{X: 2, Y: 3, Z: -6}
	toward := func(p r3.Vec) geom.Ray { return geom.Ray{From: eye, Dir: r3.Unit(r3.Sub(p, eye))} }
	for _, off := range []r3.Vec{{}, {X: 0.02}, {Y: 0.02, X: 0.01}, {X: -0.02}} {
		got, ok := s.Corner(toward(r3.Add(corner, off)), 0.01, false)
		require.True(t, ok, "%v", off)
		assert.Less(t, r3.Norm(r3.Sub(got, corner)), 1e-5)
	}
	_, ok := s.Corner(toward(box.Center()), 0.01, false)
	assert.False(t, ok, "in the middle of a face there is none")
	_, ok = s.Corner(toward(r3.Vec{X: box.Min.X, Y: box.Min.Y, Z: box.Min.Z}), 0.01, false)
	assert.False(t, ok, "behind the box")
	got, ok := s.Corner(geom.Ray{From: r3.Vec{X: corner.X + 0.05, Y: 50, Z: corner.Z - 0.05}, Dir: r3.Vec{Y: -1}}, 0.1, true)
	require.True(t, ok)
	assert.Less(t, r3.Norm(r3.Sub(got, corner)), 1e-5)
	assert.False(t, math.IsNaN(got.X))
}

// TestAPlaneTakesTheShapeOfItsPicture, as wide as it is; and what it shows goes with the
// scene's files and its rate.
func TestAPlaneTakesTheShapeOfItsPicture(t *testing.T) {
	s := open()
	do(t, s, "stockPlace", m{"kind": "set", "stock": "screen", "name": "Backdrop", "position": scene.Vec{0, 0, -20}})
	var id string
	for k, n := range s.Doc.Nodes {
		if n.Name == "Backdrop" {
			id = k
		}
	}
	assert.Equal(t, 180.0, s.Doc.Nodes[id].Turn[0], "it is turned to where scout looks from")
	photo, film := strings.Repeat("a", 64), strings.Repeat("b", 64)
	do(t, s, "screenShow", m{"id": id, "screen": m{"name": "sky", "blob": photo, "width": 2000, "height": 500}})
	size := func() [2]float64 {
		b := s.Extent([]string{id})
		return [2]float64{b.Max.X - b.Min.X, b.Max.Y - b.Min.Y}
	}
	assert.InDelta(t, 3.2, size()[0], 1e-6)
	assert.InDelta(t, 0.8, size()[1], 1e-6)
	do(t, s, "set", m{"collection": "nodes", "id": id, "merge": m{"piece": m{"params": m{"width": 8.0}}}})
	do(t, s, "screenShow", m{"id": id, "screen": m{"name": "sky", "blob": photo, "width": 2000, "height": 500, "glow": true}})
	assert.InDelta(t, 0.8, size()[1], 1e-6, "another light leaves its shape")
	do(t, s, "screenShow", m{"id": id, "screen": m{"from": 48, "film": m{"name": "clouds", "blob": film, "width": 1920, "height": 1080, "frames": 240}}})
	assert.InDelta(t, 4.5, size()[1], 1e-6)
	assert.Equal(t, "footage", s.Doc.Files()[0].Kind)

	s.Evaluate(60)
	now := s.Surfaces()
	require.Len(t, now, 1)
	assert.Equal(t, 12, now[0].Frame)
	// At 48 frames a second with seconds kept, it is the same picture at the same second.
	do(t, s, "rateChange", m{"rate": "48", "keep": "seconds", "drop": false})
	f := s.Doc.Nodes[id].Screen
	assert.Equal(t, 96, f.From)
	assert.Equal(t, 480, f.Film.Frames)
	s.Evaluate(120)
	now = s.Surfaces()
	assert.Equal(t, 12, now[0].Frame)
	assert.Equal(t, 24.0, now[0].Rate)

	// Another file for what has been lost.
	again := strings.Repeat("c", 64)
	do(t, s, "fileReplace", m{"kind": "footage", "blob": film, "with": m{"blob": again, "width": 960, "height": 540, "frames": 100}})
	assert.Equal(t, scene.Footage{Name: "clouds", Blob: again, Width: 960, Height: 540, Frames: 100}, *s.Doc.Nodes[id].Screen.Film)
	assert.Empty(t, s.Doc.Validate())

	for sentence, args := range map[string]m{
		"place one from the stock first": {"id": "box", "screen": m{"blob": photo, "width": 2, "height": 1}},
		"has no size":                    {"id": id, "screen": m{"blob": photo}},
	} {
		refused(t, s, "screenShow", args, sentence)
	}
}

// TestAMatchIsOfTheWholeGate: where a camera makes its picture by itself in the format that is
// worked in, a match is refused; in another format it goes on. A camera that keeps the horizon
// level gives that up for a picture that does not.
func TestAMatchIsOfTheWholeGate(t *testing.T) {
	s := open()
	photo := pictured(t, s, scene.Vec{1.5, 2, -7}, scene.Vec{25, -25, 6}, 24)
	n := s.Doc.Nodes["a"]
	k := *n.Camera
	k.Level = true
	n.Camera = &k
	s.Doc.Nodes["a"] = n
	s = Open(s.Doc, counter())
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": photo})
	seen, _ := s.Matched("a", 0)
	assert.Less(t, seen.Error, 0.5, "pixels")
	assert.False(t, s.Doc.Nodes["a"].Camera.Level)

	s.Doc.Formats["tall"] = scene.Format{Name: "tall", Width: 720, Height: 1280}
	n = s.Doc.Nodes["a"]
	k = *n.Camera
	k.Formats = map[string]scene.Reframe{"wide": {Shift: [2]float64{0.2, 0}}}
	n.Camera = &k
	s.Doc.Nodes["a"] = n
	s = Open(s.Doc, counter())
	refused(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": photo}, "makes its picture of wide by itself")
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0}) // it can still be taken away
	do(t, s, "set", m{"collection": "settings", "id": "settings", "merge": m{"format": "tall"}})
	do(t, s, "cameraMatch", m{"id": "a", "frame": 0, "match": photo})
	seen, _ = s.Matched("a", 0)
	assert.Less(t, seen.Error, 0.5, "the same picture in another format")
}
