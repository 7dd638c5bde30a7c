package session

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/motion"
	"proscen/core/patch"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func counter() func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("new-%03d", n) }
}

func open() *Session { return Open(scenetest.Small(), counter()) }

type m = map[string]any

// do runs an operation that must succeed.
func do(t *testing.T, s *Session, name string, args m) edit.Result {
	t.Helper()
	body, err := json.Marshal(args)
	require.NoError(t, err)
	r, err := s.Run(name, body)
	require.NoError(t, err, name)
	return r
}

func refused(t *testing.T, s *Session, name string, args m, says string) {
	t.Helper()
	before := string(s.Doc.Encode())
	body, err := json.Marshal(args)
	require.NoError(t, err)
	_, err = s.Run(name, body)
	assert.ErrorContains(t, err, says)
	assert.Equal(t, before, string(s.Doc.Encode()), "a refused operation changes nothing")
}

// lane writes the main lane as number:camera[in,out)@story.
func lane(s *Session) string {
	out := ""
	for _, e := range program.Shots(s.Doc, "main") {
		out += fmt.Sprintf("%s:%s[%d,%d)@%g ", e.Number, e.Camera, e.ScreenIn, e.ScreenOut, e.StoryIn)
	}
	return out
}

const start = "010:a[0,48)@0 020:b[48,96)@40 030:a[96,144)@80 "

func TestEditingOperationsByHand(t *testing.T) {
	for _, c := range []struct {
		name string
		op   string
		args m
		want string
	}{
		{"append goes on where the cut ends", "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 24}, start + "040:b[144,168)@128 "},
		{"append with its own story", "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 24, "storyIn": 7}, start + "040:b[144,168)@7 "},
		{"insert between shots pushes", "shotInsert", m{"assembly": "cut", "camera": "b", "at": 48, "frames": 10}, "010:a[0,48)@0 015:b[48,58)@48 020:b[58,106)@40 030:a[106,154)@80 "},
		{"insert inside a shot splits it", "shotInsert", m{"assembly": "cut", "camera": "b", "at": 20, "frames": 10}, "010:a[0,20)@0 012:b[20,30)@20 015:a[30,58)@20 020:b[58,106)@40 030:a[106,154)@80 "},
		{"split keeps the story going", "shotSplit", m{"assembly": "cut", "at": 60}, "010:a[0,48)@0 020:b[48,60)@40 025:b[60,96)@52 030:a[96,144)@80 "},
		{"trim out stops at the neighbour", "shotTrim", m{"id": "s1", "edge": "out", "by": 10}, start},
		{"trim out leaves a gap", "shotTrim", m{"id": "s1", "edge": "out", "by": -10}, "010:a[0,38)@0 020:b[48,96)@40 030:a[96,144)@80 "},
		{"trim in keeps the picture in place", "shotTrim", m{"id": "s2", "edge": "in", "by": 8}, "010:a[0,48)@0 020:b[56,96)@48 030:a[96,144)@80 "},
		{"trim leaves one frame", "shotTrim", m{"id": "s2", "edge": "in", "by": 500}, "010:a[0,48)@0 020:b[95,96)@87 030:a[96,144)@80 "},
		{"ripple trim out moves what follows", "shotTrim", m{"id": "s1", "edge": "out", "by": 10, "ripple": true}, "010:a[0,58)@0 020:b[58,106)@40 030:a[106,154)@80 "},
		{"ripple trim in keeps its start", "shotTrim", m{"id": "s2", "edge": "in", "by": 8, "ripple": true}, "010:a[0,48)@0 020:b[48,88)@48 030:a[88,136)@80 "},
		{"move to free room", "shotMove", m{"ids": []string{"s3"}, "by": 104}, "010:a[0,48)@0 020:b[48,96)@40 030:a[200,248)@80 "},
		{"move onto others reorders", "shotMove", m{"ids": []string{"s3"}, "by": -86, "how": "reorder"}, "030:a[0,48)@80 010:a[48,96)@0 020:b[96,144)@40 "},
		{"move later reorders", "shotMove", m{"ids": []string{"s1"}, "by": 60, "how": "reorder"}, "020:b[0,48)@40 010:a[48,96)@0 030:a[96,144)@80 "},
		{"a small move changes nothing", "shotMove", m{"ids": []string{"s2"}, "by": 4, "how": "reorder"}, start},
		{"remove leaves a gap", "shotRemove", m{"ids": []string{"s2"}}, "010:a[0,48)@0 030:a[96,144)@80 "},
		{"remove and close", "shotRemove", m{"ids": []string{"s1", "s2"}, "close": true}, "030:a[0,48)@80 "},
		{"cut inside a shot", "cutTo", m{"assembly": "cut", "at": 20, "camera": "b"}, "010:a[0,20)@0 015:b[20,48)@20 020:b[48,96)@40 030:a[96,144)@80 "},
		{"cut on its first frame", "cutTo", m{"assembly": "cut", "at": 48, "camera": "a"}, "010:a[0,48)@0 020:a[48,96)@40 030:a[96,144)@80 "},
		{"cut after the end: what was on air lasts, and the new shot runs to the end of the story", "cutTo", m{"assembly": "cut", "at": 150, "camera": "b"}, strings.Replace(start, "144", "150", 1) + "040:b[150,256)@134 "},
	} {
		s := open()
		r := do(t, s, c.op, c.args)
		assert.Equal(t, c.want, lane(s), c.name)
		require.NoError(t, s.Apply(r.Patch.Inverse()), c.name)
		assert.Equal(t, start, lane(s), c.name)
	}
}

func TestOperationsRefuse(t *testing.T) {
	s := open()
	refused(t, s, "cutTo", m{"assembly": "cut", "at": 5, "camera": "a"}, "on air here already")
	refused(t, s, "shotSplit", m{"assembly": "cut", "at": 48}, "no shot to split")
	refused(t, s, "shotAppend", m{"assembly": "cut", "camera": "a", "frames": 0}, "at least one frame")
	refused(t, s, "shotAppend", m{"assembly": "none", "camera": "a", "frames": 5}, "no assembly")
	refused(t, s, "shotAppend", m{"assembly": "cut", "camera": "box", "frames": 5}, "choose a camera")
	refused(t, s, "shotTrim", m{"id": "gone", "edge": "in", "by": 5}, "not there any more")
	refused(t, s, "remove", m{"collection": "nodes", "ids": []string{"a"}}, "used by shot 010, 030")
	refused(t, s, "remove", m{"collection": "shots", "ids": []string{"s1"}}, "cannot be removed this way")
	refused(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"camera": m{"focal": -3}}}, "nodes/a/camera/focal")
	refused(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"colour": 1}}, "unknown field")
	refused(t, s, "set", m{"collection": "nodes", "id": "box", "merge": m{"parent": "box"}}, "circle")
	refused(t, s, "value", m{"node": "a", "channel": "travel", "frame": 0, "value": 1}, "no path to travel on")
	refused(t, s, "keyRemove", m{"node": "b", "channel": "travel", "frames": []int{7}}, "no key")
	refused(t, s, "pathPoint", m{"id": "track", "index": 9, "to": []int{0, 0, 0}}, "no such point")
	refused(t, s, "fly", m{}, "no operation")
	_, err := s.Run("cutTo", json.RawMessage(`{"at":"soon"}`))
	assert.ErrorContains(t, err, "arguments do not fit")
}

func TestCamerasPathsAndKeys(t *testing.T) {
	s := open()
	do(t, s, "cameraAdd", m{"position": []float64{1, 2, 3}, "turn": []float64{10, 0, 0}, "id": "c"})
	c := s.Doc.Nodes["c"]
	assert.Equal(t, 3, c.Camera.Number, "the next free number")
	assert.Equal(t, edit.CameraColors[2], c.Camera.Color)
	assert.Equal(t, "Camera 3", c.Name)

	do(t, s, "pathDraw", m{"form": "straight", "points": [][]float64{{0, 2, 0}, {6, 2, 0}}, "for": "c", "in": 24, "out": 72})
	assert.Equal(t, scene.Dolly, s.Doc.Nodes["c"].Camera.Support)
	st := s.Evaluate(48)
	at := st.Cameras[s.CameraIndex("c")].World.Origin()
	assert.InDelta(t, 3, at.X, 1e-9, "half way at half time")

	do(t, s, "keyEase", m{"node": "c", "channel": "travel", "frames": []int{24, 72}, "ease": "even"})
	at = s.Evaluate(36).Cameras[s.CameraIndex("c")].World.Origin()
	assert.InDelta(t, 1.5, at.X, 1e-9, "a quarter, evenly")
	do(t, s, "keyMove", m{"node": "c", "channel": "travel", "frames": []int{72}, "by": -100})
	assert.Equal(t, 25.0, travelKeys(s, "c")[1].Frame, "a key stops one frame short of its neighbour")
	do(t, s, "value", m{"node": "c", "channel": "travel", "frame": 60, "value": 0.5})
	assert.Len(t, travelKeys(s, "c"), 3)

	do(t, s, "pathShift", m{"id": s.Doc.Nodes["c"].Path, "by": []float64{0, 0, 5}})
	at = s.Evaluate(24).Cameras[s.CameraIndex("c")].World.Origin()
	assert.InDelta(t, 5, at.Z, 1e-9, "what travels on a path follows it")
	do(t, s, "remove", m{"collection": "paths", "ids": []string{s.Doc.Nodes["c"].Path}})
	assert.Equal(t, scene.Sticks, s.Doc.Nodes["c"].Camera.Support)
	assert.Empty(t, travelKeys(s, "c"))
}

func travelKeys(s *Session, node string) []curve.Key {
	for _, c := range s.Doc.Curves {
		if c.Node == node && c.Channel == scene.Travel {
			return c.Keys
		}
	}
	return nil
}

func TestAnimatedValuesShiftWholeWithoutAutoKey(t *testing.T) {
	s := open()
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": 0, "value": 20, "key": true})
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": 10, "value": 40, "key": true})
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": 10, "value": 50})
	focal := func(f float64) float64 { return s.Evaluate(f).Cameras[s.CameraIndex("a")].Focal }
	assert.InDelta(t, 30, focal(0), 1e-9, "the whole move has gone up by ten")
	assert.InDelta(t, 50, focal(10), 1e-9)
	do(t, s, "keyRemove", m{"node": "a", "channel": "lens.focal", "frames": []int{0, 10}})
	assert.InDelta(t, 30, focal(99), 1e-9, "the first value stays when the last key goes")
	assert.Equal(t, 30.0, s.Doc.Nodes["a"].Camera.Focal)

	do(t, s, "place", m{"id": "a", "frame": 0, "turn": []float64{170, 0, 0}, "key": true})
	do(t, s, "place", m{"id": "a", "frame": 24, "turn": []float64{-170, 0, 0}, "key": true})
	c := s.Evaluate(12).Cameras[s.CameraIndex("a")]
	assert.InDelta(t, 180, math.Abs(c.Pan), 1e-6, "pan goes the short way round")
}

func TestRemovingANodeTakesWhatNeedsItAlong(t *testing.T) {
	s := open()
	do(t, s, "remove", m{"collection": "nodes", "ids": []string{"walker"}})
	assert.Empty(t, s.Doc.Actions)
	do(t, s, "remove", m{"collection": "nodes", "ids": []string{"box"}})
	assert.Equal(t, scene.AimFree, s.Doc.Nodes["b"].Camera.Aim, "who aimed at it aims freely")
}

func TestPreviewLeavesNothingBehind(t *testing.T) {
	s := open()
	before := string(s.Doc.Encode())
	for _, x := range []float64{1, 2, 3} {
		err := s.Preview("place", json.RawMessage(fmt.Sprintf(`{"id":"a","frame":0,"position":[%g,0,0]}`, x)))
		require.NoError(t, err)
		assert.InDelta(t, x, s.Evaluate(0).Cameras[s.CameraIndex("a")].World.Origin().X, 1e-12)
	}
	assert.NotNil(t, s.Previewing())
	assert.True(t, s.Cancel())
	assert.False(t, s.Cancel())
	assert.Equal(t, before, string(s.Doc.Encode()))
	err := s.Preview("place", json.RawMessage(`{"id":"a","frame":0,"position":[9,0,0]}`))
	require.NoError(t, err)
	r := do(t, s, "place", m{"id": "a", "frame": 0, "position": []float64{4, 0, 0}})
	require.NoError(t, s.Apply(r.Patch.Inverse()))
	assert.Equal(t, before, string(s.Doc.Encode()), "a preview is not part of the edit after it")
}

func TestStalePatchIsRefusedWhole(t *testing.T) {
	s := open()
	r := do(t, s, "shotTrim", m{"id": "s1", "edge": "out", "by": -10, "ripple": true})
	do(t, s, "shotSet", m{"ids": []string{"s3"}, "change": m{"name": "new"}})
	before := string(s.Doc.Encode())
	err := s.Apply(r.Patch.Inverse())
	assert.ErrorIs(t, err, patch.ErrMismatch)
	assert.Equal(t, before, string(s.Doc.Encode()))
}

// randomOperation draws an operation with arguments that are often wrong.
func randomOperation(t *rapid.T, s *Session) (string, m) {
	shots := []string{"gone"}
	for _, e := range program.Shots(s.Doc, "main") {
		shots = append(shots, e.ID)
	}
	shot := rapid.SampledFrom(shots).Draw(t, "shot")
	camera := rapid.SampledFrom([]string{"a", "b", "box"}).Draw(t, "camera")
	at := rapid.IntRange(-10, 260).Draw(t, "at")
	by := rapid.IntRange(-80, 80).Draw(t, "by")
	flag := rapid.Bool().Draw(t, "flag")
	frame := rapid.IntRange(0, 96).Draw(t, "frame")
	switch rapid.IntRange(0, 13).Draw(t, "op") {
	case 0:
		return "shotAppend", m{"assembly": "cut", "camera": camera, "frames": by}
	case 1:
		return "shotInsert", m{"assembly": "cut", "camera": camera, "at": at, "frames": by}
	case 2:
		return "shotMove", m{"id": shot, "to": at}
	case 3:
		return "shotTrim", m{"id": shot, "edge": rapid.SampledFrom([]string{"in", "out"}).Draw(t, "edge"), "by": by, "ripple": flag}
	case 4:
		return "shotSplit", m{"assembly": "cut", "at": at}
	case 5:
		return "shotRemove", m{"ids": []string{shot}, "close": flag}
	case 6:
		return "cutTo", m{"assembly": "cut", "at": at, "camera": camera}
	case 7:
		return "place", m{"id": camera, "frame": frame, "position": []int{at, by, frame}, "key": flag}
	case 8:
		return "value", m{"node": camera, "channel": rapid.SampledFrom([]string{"lens.focal", "travel", "turn.pan"}).Draw(t, "channel"), "frame": frame, "value": by, "key": flag}
	case 9:
		return "keyMove", m{"node": "b", "channel": "travel", "frames": []int{0, 96}, "by": by}
	case 10:
		return "pathDraw", m{"form": "curve", "points": [][]int{{0, 1, 0}, {at, 1, by}, {5, 1, 5}}, "for": camera, "in": frame, "out": at}
	case 11:
		return "remove", m{"collection": rapid.SampledFrom([]string{"nodes", "paths", "markers"}).Draw(t, "c"), "ids": []string{rapid.SampledFrom([]string{"walker", "box", "track", "walk", "m"}).Draw(t, "id")}}
	case 12:
		return "cameraAdd", m{"position": []int{at, by, 0}}
	}
	return "markerAdd", m{"clock": rapid.SampledFrom([]string{"story", "screen"}).Draw(t, "clock"), "assembly": "cut", "frame": at}
}

func TestAnySequenceUndoesByteForByte(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := open()
		var patches []patch.Patch
		var states []string
		for range rapid.IntRange(1, 12).Draw(t, "steps") {
			name, args := randomOperation(t, s)
			body, _ := json.Marshal(args)
			before := string(s.Doc.Encode())
			r, err := s.Run(name, body)
			if err != nil {
				if string(s.Doc.Encode()) != before {
					t.Fatalf("refused %s changed the document", name)
				}
				continue
			}
			if p := s.Doc.Validate(); len(p) > 0 {
				t.Fatalf("%s left an invalid document: %v", name, p)
			}
			lane := program.Shots(s.Doc, "main")
			for i := 1; i < len(lane); i++ {
				if lane[i-1].Screen().Overlaps(lane[i].Screen()) {
					t.Fatalf("%s left shots that overlap", name)
				}
			}
			states, patches = append(states, before), append(patches, r.Patch)
		}
		end := string(s.Doc.Encode())
		for i := len(patches) - 1; i >= 0; i-- {
			if err := s.Apply(patches[i].Inverse()); err != nil {
				t.Fatal(err)
			}
			if got := string(s.Doc.Encode()); got != states[i] {
				t.Fatalf("undo %d differs", i)
			}
		}
		for _, p := range patches {
			if err := s.Apply(p); err != nil {
				t.Fatal(err)
			}
		}
		if string(s.Doc.Encode()) != end {
			t.Fatal("redo differs")
		}
	})
}

// TestUpdateEqualsCompile holds what a patched scene evaluates to against a
// fresh compile of the same document.
func TestUpdateEqualsCompile(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := open()
		for range rapid.IntRange(1, 8).Draw(t, "steps") {
			name, args := randomOperation(t, s)
			body, _ := json.Marshal(args)
			_, _ = s.Run(name, body)
		}
		fresh := motion.Compile(s.Doc)
		frame := rapid.Float64Range(-10, 260).Draw(t, "frame")
		var want motion.State
		fresh.Evaluate(frame, &want)
		got := s.Evaluate(frame)
		if len(got.Worlds) != len(want.Worlds) || len(got.Instances) != len(want.Instances) {
			t.Fatal("another layout")
		}
		for i := range want.Worlds {
			if got.Worlds[i] != want.Worlds[i] {
				t.Fatalf("node %s is elsewhere", fresh.Nodes[i].ID)
			}
		}
		for i := range want.Cameras {
			if got.Cameras[i] != want.Cameras[i] {
				t.Fatalf("camera %d differs", i)
			}
		}
	})
}

func TestMovingThingsLaysNothingOutAnew(t *testing.T) {
	s := open()
	before := s.Motion.Structure
	do(t, s, "place", m{"id": "a", "frame": 0, "position": []int{1, 2, 3}})
	do(t, s, "place", m{"id": "box", "frame": 0, "turn": []int{30, 0, 0}})
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": 0, "value": 60})
	do(t, s, "shotTrim", m{"id": "s1", "edge": "out", "by": -4})
	assert.Equal(t, before, s.Motion.Structure)
	assert.Equal(t, 60.0, s.Evaluate(0).Cameras[0].Focal)
	do(t, s, "set", m{"collection": "nodes", "id": "box", "merge": m{"piece": m{"params": m{"width": 3}}}})
	assert.Greater(t, s.Motion.Structure, before, "another mesh is another layout")
}

func BenchmarkPreviewPlace(b *testing.B) {
	s := Open(demoLike(), counter())
	for i := 0; b.Loop(); i++ {
		_ = s.Preview("place", json.RawMessage(fmt.Sprintf(`{"id":"a","frame":0,"position":[%d,1,1]}`, i%50)))
	}
}

// demoLike is the small scene with a few hundred pieces.
func demoLike() *scene.Document {
	d := scenetest.Small()
	for i := range 400 {
		d.Nodes[fmt.Sprintf("rock-%d", i)] = scene.Node{Kind: scene.KindSet, Name: fmt.Sprint("Rock ", i), Position: scene.Vec{float64(i % 20), 0, float64(i / 20)}, Piece: &scene.Piece{Stock: "rock"}}
	}
	return d
}

func TestProgramAndTheTwoClocks(t *testing.T) {
	s := open()
	do(t, s, "shotTrim", m{"id": "s2", "edge": "out", "by": -8})
	do(t, s, "shotSpeed", m{"ids": []string{"s3"}, "speed": 0.5})
	on := s.OnAir(60).Playing
	require.Len(t, on, 1)
	assert.Equal(t, program.Playing{Shot: "s2", View: program.View{Camera: "b", Story: 52}, Weight: 1}, on[0])
	assert.Empty(t, s.OnAir(90).Playing, "nothing is on air in a gap")
	assert.Empty(t, s.OnAir(-1).Playing)
	assert.Empty(t, s.OnAir(144).Playing)
	assert.Equal(t, 144, s.Program().Length())
	assert.Equal(t, 85.25, s.OnAir(106.5).Playing[0].Story, "half speed, between frames")
	// Story 45 is seen in shot 1 (frame 45) and in shot 2 (frame 53).
	at, ok := s.Program().ScreenAt(45, 0)
	assert.True(t, ok)
	assert.Equal(t, 45.0, at)
	at, _ = s.Program().ScreenAt(45, 50)
	assert.Equal(t, 53.0, at, "the shot on air counts first")
	_, ok = s.Program().ScreenAt(5000, 0)
	assert.False(t, ok)
	rapid.Check(t, func(t *rapid.T) {
		screen := rapid.Float64Range(0, 143.9).Draw(t, "screen")
		for _, p := range s.OnAir(screen).Playing {
			if back := s.Doc.Shots[p.Shot].ScreenAt(p.Story); math.Abs(back-screen) > 1e-9 {
				t.Fatalf("%v came back as %v", screen, back)
			}
		}
	})
}

func TestSamplePathTicksEveryHalfSecond(t *testing.T) {
	s := open()
	p := s.Doc.Paths["track"]
	line, err := s.SamplePath(p.Form, p.Points, p.Closed, "track")
	require.NoError(t, err)
	assert.InDelta(t, 8, line.Length, 1e-9)
	require.Len(t, line.Ticks, 9, "four seconds and the start")
	for i, v := range line.Ticks {
		assert.InDelta(t, float64(i), v.X, 1e-9, "eight metres in four seconds")
	}
	_, err = s.SamplePath(curve.Arc, p.Points, false, "")
	assert.ErrorContains(t, err, "no path yet")
}

func TestTrailGoesBackInTimeAndLeavesTheFrame(t *testing.T) {
	s := open()
	s.Evaluate(96)
	trail := s.Trail("b", 96, 12, 3, nil)
	require.Len(t, trail, 3)
	for i, c := range trail {
		assert.InDelta(t, 8-float64(i+1), c.World[3], 1e-9, "a metre in each half second")
	}
	assert.InDelta(t, 8, s.State.Cameras[s.CameraIndex("b")].World[3], 1e-9, "the evaluated frame stays")
	assert.Empty(t, s.Trail("box", 96, 12, 3, trail))
}

// A figure that is typed for one axis leaves the keys of the others alone.
func TestOneAxisLeavesTheOthersAlone(t *testing.T) {
	s := open()
	for frame, y := range map[int]float64{0: 1, 48: 3} {
		do(t, s, "value", m{"node": "a", "channel": "position.y", "frame": frame, "value": y, "key": true})
		do(t, s, "value", m{"node": "a", "channel": "turn.tilt", "frame": frame, "value": 10 * y, "key": true})
	}
	keys := func(ch scene.Channel) (out []float64) {
		for _, c := range s.Doc.Curves {
			if c.Node == "a" && c.Channel == ch {
				for _, k := range c.Keys {
					out = append(out, k.Frame, k.Value)
				}
			}
		}
		return out
	}
	y, tilt := keys(scene.PositionY), keys(scene.Tilt)
	do(t, s, "place", m{"id": "a", "frame": 24, "position": []any{7, nil, nil}})
	do(t, s, "place", m{"id": "a", "frame": 24, "position": []any{nil, nil, 2}, "key": true})
	do(t, s, "cameraTurn", m{"id": "a", "frame": 24, "turn": []float64{15, 20, 0}, "only": "turn.pan", "key": true})
	assert.Equal(t, y, keys(scene.PositionY))
	assert.Equal(t, tilt, keys(scene.Tilt))
	assert.Equal(t, 7.0, s.Doc.Nodes["a"].Position[0])
	assert.Equal(t, []float64{0, 0, 24, 2}, keys(scene.PositionZ), "where it was is kept where the move opens")
	assert.InDeltaSlice(t, []float64{0, 0, 24, 15}, keys(scene.Pan), 1e-9)
	do(t, s, "place", m{"id": "a", "frame": 24, "position": []any{nil, 5, nil}})
	assert.Equal(t, []float64{0, 4, 48, 6}, keys(scene.PositionY), "without auto-key the whole move of this axis shifts")
}
