package session

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"proscen/core/compose"
	"proscen/core/curve"
	"proscen/core/motion"
	"proscen/core/questions"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func (s *Session) camera(id string, frame float64) motion.CameraState {
	s.Evaluate(frame)
	return s.State.Cameras[s.CameraIndex(id)]
}

// rays returns where the lens is and the directions of its picture's corners in
// the world.
func rays(c motion.CameraState) (out [5]r3.Vec) {
	out[0] = c.World.Origin()
	for i, k := range [4][2]float64{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
		out[i+1] = r3.Unit(c.World.Dir(c.Ray(k[0], k[1])))
	}
	return out
}

func samePicture(t require.TestingT, want, got motion.CameraState, about string) {
	a, b := rays(want), rays(got)
	for i := range a {
		if off := r3.Norm(r3.Sub(a[i], b[i])); off > 1e-6 || math.IsNaN(off) {
			require.Failf(t, "the picture changed", "%s: ray %d is off by %v", about, i, off)
		}
	}
}

func try(s *Session, op string, args m) error {
	_, err := s.Run(op, scene.Canonical(args))
	return err
}

// TestChangingSupportAndAimKeepsThePicture goes through the supports and aims
// from any state of a camera.
func TestChangingSupportAndAimKeepsThePicture(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		s := open()
		n := s.Doc.Nodes["a"]
		k := *n.Camera
		n.Position, n.Turn = scene.Vec{f("x", -8, 8), f("y", 0.5, 4), f("z", 2, 14)}, scene.Vec{f("pan", -60, 60), f("tilt", -50, 40), f("roll", -30, 30)}
		k.Focal, k.Shift, k.Lag = f("focal", 14, 100), [2]float64{f("sx", -6, 6), f("sy", -4, 4)}, rapid.SampledFrom([]float64{0, 0.4}).Draw(t, "lag")
		n.Camera = &k
		s.Doc.Nodes["a"] = n
		s.Doc.Curves["pan"] = scene.Curve{Node: "a", Channel: scene.Pan, Keys: []curve.Key{{Frame: 10, Value: n.Turn[0], Ease: curve.Soft}, {Frame: 90, Value: n.Turn[0] + f("by", -40, 40), Ease: curve.Soft}}}
		s.Doc.Curves["x"] = scene.Curve{Node: "a", Channel: scene.PositionX, Keys: []curve.Key{{Frame: 0, Value: n.Position[0], Ease: curve.Soft}, {Frame: 60, Value: n.Position[0] + 1, Ease: curve.Soft}}}
		s = Open(s.Doc, counter())
		frame := f("frame", 0, 120)
		steps := []m{
			{"op": "cameraSupport", "support": "handheld"}, {"op": "cameraSupport", "support": "dolly"}, {"op": "cameraSupport", "support": "dolly", "path": "walk"},
			{"op": "cameraSupport", "support": "mounted", "on": "walker", "joint": "head"}, {"op": "cameraSupport", "support": "mounted", "on": "box"}, {"op": "cameraSupport", "support": "sticks"},
			{"op": "cameraAim", "aim": "at", "at": "walker"}, {"op": "cameraAim", "aim": "free"}, {"op": "cameraAim", "aim": "along"}, {"op": "cameraAim", "aim": "at", "at": "box"},
		}
		for i := range 8 {
			step := rapid.SampledFrom(steps).Draw(t, fmt.Sprintf("step %d", i))
			frame += f("later", 0, 9)
			was := s.camera("a", frame)
			args := m{"id": "a", "frame": frame}
			for k, v := range step {
				if k != "op" {
					args[k] = v
				}
			}
			subject := s.Motion.Index(fmt.Sprint(step["at"]))
			outside := false
			if subject >= 0 { // who is not in the picture comes to its middle
				x, y, depth := was.Project(motion.Late(frame, k.Lag*24, func(f float64) r3.Vec {
					s.Evaluate(f)
					return s.Motion.Subject(subject, &s.State)
				}))
				outside = depth <= 0 || math.Abs(x) > 1 || math.Abs(y) > 1
			}
			if err := try(s, step["op"].(string), args); err != nil {
				continue // along without a path, or aimed so already
			}
			now := s.camera("a", frame)
			if outside {
				p := s.Doc.Nodes["a"].Camera
				if p.Lag == 0 {
					x, y, _ := now.Project(s.Motion.Subject(s.Motion.Index(fmt.Sprint(step["at"])), &s.State))
					require.InDelta(t, 0, math.Hypot(x-p.Framing[0], y-p.Framing[1]), 1e-6)
				}
				continue
			}
			samePicture(t, was, now, fmt.Sprint(step))
		}
	})
}

func TestSupportsAreRefusedWithAReason(t *testing.T) {
	s := open()
	refused(t, s, "cameraSupport", m{"id": "a", "support": "mounted"}, "choose the subject")
	refused(t, s, "cameraSupport", m{"id": "a", "support": "balloon"}, "sticks, dolly, handheld or mounted")
	refused(t, s, "cameraSupport", m{"id": "box", "support": "sticks"}, "not there")
	refused(t, s, "cameraSupport", m{"id": "a", "support": "mounted", "on": "nobody"}, "not there")
	refused(t, s, "cameraAim", m{"id": "a", "aim": "along"}, "no path")
	refused(t, s, "cameraAim", m{"id": "a", "aim": "free"}, "already")
	do(t, s, "cameraSupport", m{"id": "a", "support": "dolly", "frame": 0})
	p := s.Doc.Paths[s.Doc.Nodes["a"].Path]
	assert.Equal(t, []scene.Vec{{0, 1.5, 0}, {0, 1.5, -2}}, p.Points, "two metres of track the way it looks")
}

func TestCamerasAreNumberedCopiedOrderedAndArchived(t *testing.T) {
	s := open()
	do(t, s, "cameraAdd", m{"position": []float64{1, 2, 3}, "focal": 50, "id": "c"})
	c := s.Doc.Nodes["c"].Camera
	assert.Equal(t, []any{3, [2]float64{36, 24}, 50.0}, []any{c.Number, c.Sensor, c.Focal}, "like the last camera")
	do(t, s, "cameraNumber", m{"id": "c", "number": 1})
	assert.Equal(t, 3, s.Doc.Nodes["a"].Camera.Number, "they swap")
	do(t, s, "cameraNumber", m{"id": "c", "number": 12})
	assert.Equal(t, 12, s.Doc.Nodes["c"].Camera.Number)
	refused(t, s, "cameraNumber", m{"id": "c", "number": 0}, "from 1 to 9999")

	do(t, s, "cameraCopy", m{"id": "b", "frame": 48, "as": "still"})
	samePicture(t, s.camera("b", 48), s.camera("still", 100), "a still copy shows what was there")
	do(t, s, "cameraCopy", m{"id": "b", "keys": true, "as": "moving"})
	assert.NotEqual(t, s.Doc.Nodes["b"].Path, s.Doc.Nodes["moving"].Path, "with a path of its own")
	samePicture(t, s.camera("b", 31), s.camera("moving", 31), "and the same move")

	refused(t, s, "remove", m{"collection": "nodes", "ids": []string{"a"}}, "is used by shot 010, 030; archive it instead")
	r := do(t, s, "cameraArchive", m{"id": "a", "archive": true})
	assert.Contains(t, r.Label, "shot 010, 030 goes on using")
	assert.True(t, s.Doc.Nodes["a"].Camera.Archived)
	do(t, s, "cameraOrder", m{"ids": []string{"moving", "b", "c"}})
	assert.Equal(t, 2, s.Doc.Nodes["b"].Camera.Order)

	r = do(t, s, "cameraFolder", m{"ids": []string{"b", "c"}, "folder": " Night "})
	assert.Equal(t, "put 2 cameras into Night", r.Label)
	assert.Equal(t, []string{"Night", "Night", ""}, []string{s.Doc.Nodes["b"].Camera.Folder, s.Doc.Nodes["c"].Camera.Folder, s.Doc.Nodes["a"].Camera.Folder})
	do(t, s, "cameraFolder", m{"ids": []string{"b"}, "folder": ""})
	assert.Empty(t, s.Doc.Nodes["b"].Camera.Folder)
	refused(t, s, "cameraFolder", m{"folder": "Day"}, "choose the cameras")
	refused(t, s, "cameraFolder", m{"ids": []string{"b"}, "folder": strings.Repeat("x", 1<<16)}, "is longer than")
}

func TestASceneTakesWhatItsProductionShares(t *testing.T) {
	s := open()
	kits := func(names ...string) m {
		out := m{}
		for _, n := range names {
			out[n] = m{"name": n, "primes": []float64{float64(10 + len(n))}}
		}
		return m{"kits": out}
	}
	s.Doc.Kits = map[string]scene.Kit{"own": {Name: "Own", Primes: []float64{50}}}
	do(t, s, "libraryTake", kits("wide", "tele"))
	assert.Equal(t, scene.Kit{Name: "wide", Primes: []float64{14}, Shared: true}, s.Doc.Kits["wide"])
	assert.Equal(t, scene.Kit{Name: "Own", Primes: []float64{50}}, s.Doc.Kits["own"])
	r, err := s.Run("libraryTake", scene.Canonical(kits("wide", "tele")))
	require.NoError(t, err)
	assert.Empty(t, r.Patch, "it has it already")
	refused(t, s, "remove", m{"collection": "kits", "ids": []string{"wide"}}, "kit of the production")

	do(t, s, "kitPut", m{"id": "wide", "name": "Ours", "primes": []float64{21}})
	do(t, s, "libraryTake", kits("wide"))
	assert.Equal(t, scene.Kit{Name: "Ours", Primes: []float64{21}}, s.Doc.Kits["wide"], "kept as its own")
	assert.False(t, s.Doc.Kits["tele"].Shared, "what the production has no more is the scene's")
	assert.Equal(t, []float64{14}, s.Doc.Kits["tele"].Primes)
	do(t, s, "remove", m{"collection": "kits", "ids": []string{"tele"}})
}

func TestKitsHoldTheFocalLength(t *testing.T) {
	s := open()
	do(t, s, "kitPut", m{"id": "k", "name": "Primes", "primes": []float64{18, 25, 35, 50, 85}, "zooms": [][]float64{{100, 200}}})
	do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"camera": m{"kit": "k"}}})
	for asked, got := range map[float64]float64{30: 35, 29: 25, 41: 35, 70: 85, 130: 130, 400: 200, 3: 18} {
		do(t, s, "value", m{"node": "a", "channel": "lens.focal", "value": asked})
		assert.Equal(t, got, s.Doc.Nodes["a"].Camera.Focal, "asked for %v", asked)
	}
	for _, id := range []string{"a", "b"} {
		delete(s.Doc.Nodes, id)
	}
	first := Open(s.Doc, counter())
	first.Doc.Shots = map[string]scene.Shot{}
	first.Doc.Curves = map[string]scene.Curve{}
	do(t, first, "cameraAdd", m{"focal": 28, "id": "one"})
	assert.Equal(t, "k", first.Doc.Nodes["one"].Camera.Kit, "the first camera takes its lenses from the first kit")
	assert.Equal(t, 25.0, first.Doc.Nodes["one"].Camera.Focal)
	s = open()
	do(t, s, "kitPut", m{"id": "k", "name": "Primes", "primes": []float64{18, 25}})
	do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"camera": m{"kit": "k"}}})
	refused(t, s, "kitPut", m{"name": "None"}, "at least one lens")
	do(t, s, "recipePut", m{"id": "r", "name": "Ours", "pack": "h264", "quality": "check"})
	do(t, s, "recipePut", m{"id": "r", "name": "Ours", "pack": "png", "quality": "check"})
	refused(t, s, "recipePut", m{"name": "Ours", "pack": "h264", "quality": "check"}, "already; call this one otherwise")
	refused(t, s, "recipePut", m{"name": "Odd", "pack": "h264", "quality": "check", "head": -1}, "must be from 0")
	refused(t, s, "kitPut", m{"name": "Odd", "zooms": [][]float64{{70, 24}}}, "must be longer")
	do(t, s, "remove", m{"collection": "kits", "ids": []string{"k"}})
	assert.Empty(t, s.Doc.Nodes["a"].Camera.Kit, "a kit that goes frees its lenses")
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "value": 41})
	assert.Equal(t, 41.0, s.Doc.Nodes["a"].Camera.Focal)
}

// heightOf returns how large half a metre about a subject's eyes is in the
// picture.
func (s *Session) heightOf(camera, subject string, frame float64) float64 {
	c := s.camera(camera, frame)
	f, _ := s.Motion.Figure(s.Motion.Index(subject), &s.State)
	_, a, _ := c.Project(r3.Add(f.Eyes, r3.Vec{Y: 0.25}))
	_, b, _ := c.Project(r3.Sub(f.Eyes, r3.Vec{Y: 0.25}))
	return a - b
}

func TestChangingTheLensKeepsSizeOrPlace(t *testing.T) {
	s := open()
	do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"position": []float64{2, 1.6, 6}, "camera": m{"aim": "at", "aimAt": "walker", "framing": []float64{0.3, 0.2}}}})
	was, before := s.heightOf("a", "walker", 60), s.camera("a", 60)
	do(t, s, "lensChoose", m{"id": "a", "focal": 65, "keep": "size", "frame": 60})
	assert.InEpsilon(t, was, s.heightOf("a", "walker", 60), 0.01)
	now := s.camera("a", 60)
	assert.Equal(t, 65.0, now.Focal)
	assert.Greater(t, r3.Norm(r3.Sub(before.World.Origin(), now.World.Origin())), 5.0, "the camera went back")
	assert.InDelta(t, before.Pan, now.Pan, 1e-6, "along its view axis")
	do(t, s, "lensChoose", m{"id": "a", "focal": 18, "keep": "place", "frame": 60})
	then := s.camera("a", 60)
	assert.Equal(t, now.World.Origin(), then.World.Origin())
	refused(t, s, "lensChoose", m{"id": "a", "focal": 0, "keep": "place"}, "at least 1 mm")
	do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"turn": []float64{180, 0, 0}, "camera": m{"aim": "free", "aimAt": nil}}})
	refused(t, s, "lensChoose", m{"id": "a", "focal": 50, "keep": "size", "subject": "walker", "frame": 0}, "not in front")
}

// TestTheSubjectKeepsItsSizeWhileTheLensMoves looks at every frame of such a
// move, on a still subject and on one that walks away, free and held.
func TestTheSubjectKeepsItsSizeWhileTheLensMoves(t *testing.T) {
	for _, c := range []struct {
		subject string
		aim     m
	}{
		{"still", m{"aim": "free"}}, {"still", m{"aim": "at", "aimAt": "still", "framing": []float64{-0.3, 0.1}}},
		{"walker", m{"aim": "free"}}, {"walker", m{"aim": "at", "aimAt": "walker", "framing": []float64{0.2, 0.3}}},
	} {
		s := open()
		s.Doc.Nodes["still"] = scene.Node{Kind: scene.KindCast, Name: "Still", Position: scene.Vec{0.4, 0, -8}, Cast: &scene.Cast{Height: 1.7, Coat: "#804040", Legs: "#404080"}}
		s = Open(s.Doc, counter())
		do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"position": []float64{1, 1.5, 3}, "turn": []float64{8, 0, 0}, "camera": c.aim}})
		do(t, s, "lensMove", m{"id": "a", "in": 40, "out": 130, "focal": 50, "subject": c.subject})
		was := s.heightOf("a", c.subject, 40)
		for f := 40.0; f <= 130; f += 0.5 {
			require.InEpsilon(t, was, s.heightOf("a", c.subject, f), 0.01, "%v at %v", c, f)
		}
		first, last := s.camera("a", 40), s.camera("a", 130)
		assert.Equal(t, []float64{18, 50}, []float64{first.Focal, last.Focal})
		assert.Greater(t, r3.Norm(r3.Sub(first.World.Origin(), last.World.Origin())), 3.0)
		assert.Equal(t, c.subject == "still", s.Doc.Nodes["a"].Path != "", "a still subject gives one straight track")
	}
	s := open()
	refused(t, s, "lensMove", m{"id": "b", "in": 0, "out": 48, "focal": 50}, "on sticks first")
	refused(t, s, "lensMove", m{"id": "a", "in": 0, "out": 48, "focal": 18}, "choose another")
	refused(t, s, "lensMove", m{"id": "a", "in": 48, "out": 48, "focal": 50}, "at least one frame")
}

func TestTheFirstPictureOfAMoveIsKept(t *testing.T) {
	origin := func(s *Session, frame float64) r3.Vec {
		c := s.camera("a", frame)
		return c.World.Origin()
	}
	// Keyed by a drag at another frame: what was there stays where the move opens.
	s := open()
	was := s.camera("a", 0)
	do(t, s, "place", m{"id": "a", "frame": 95, "position": []float64{3, 2, 1}, "turn": []float64{200, 5, 0}, "key": true})
	assert.Equal(t, was.World, s.camera("a", 0).World, "the opening picture")
	assert.Equal(t, r3.Vec{X: 3, Y: 2, Z: 1}, origin(s, 95))
	assert.InDelta(t, -160, s.camera("a", 95).Pan, 1e-9, "it turns the short way")
	// A second thing that is keyed opens where the first does.
	s = open()
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": 20, "value": 30, "key": true})
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": 60, "value": 30, "key": true})
	do(t, s, "value", m{"node": "a", "channel": "position.x", "frame": 60, "value": 4, "key": true})
	for _, c := range s.Doc.Curves {
		if c.Node == "a" {
			assert.Equal(t, 0.0, c.Keys[0].Frame, "shot 010 begins the story")
		}
	}
	// In a shot that begins later, the move opens with the shot.
	s = open()
	do(t, s, "value", m{"node": "a", "channel": "position.x", "frame": 100, "value": 4, "key": true})
	for _, c := range s.Doc.Curves {
		if c.Node == "a" {
			assert.Equal(t, []float64{80, 100}, []float64{c.Keys[0].Frame, c.Keys[1].Frame}, "shot 030 begins at story frame 80")
		}
	}
	// At the opening itself there is one key.
	s = open()
	do(t, s, "value", m{"node": "a", "channel": "position.x", "frame": 0, "value": 4, "key": true})
	for _, c := range s.Doc.Curves {
		if c.Node == "a" {
			assert.Len(t, c.Keys, 1)
		}
	}
	// A camera that was put somewhere is at its first position there.
	s = open()
	do(t, s, "positionLeave", m{"id": "a", "frame": 0, "position": []float64{0, 1.5, 9}, "turn": []float64{30, 0, 0}, "focal": 25})
	left := s.Doc.Nodes["a"].Camera.Left
	require.Len(t, left, 2)
	assert.Equal(t, scene.Vec{0, 1.5, 0}, left[0].Position)
	assert.Equal(t, []float64{0, math.Round(9 / 0.9 * 24)}, []float64{left[0].Frame, left[1].Frame}, "nine metres at a gentle pace")
	// The light opens the same way.
	do(t, s, "value", m{"node": "settings", "channel": "sun.strength", "frame": 48, "value": 3, "key": true})
	for _, c := range s.Doc.Curves {
		if c.Node == scene.SettingsID {
			assert.Equal(t, []float64{0, 1, 48, 3}, []float64{c.Keys[0].Frame, c.Keys[0].Value, c.Keys[1].Frame, c.Keys[1].Value})
		}
	}
}

func TestAMoveThroughLeftPositions(t *testing.T) {
	s := open()
	leave := func(frame, x, z, pan float64) {
		do(t, s, "positionLeave", m{"id": "a", "frame": frame, "position": []float64{x, 1.5, z}, "turn": []float64{pan, 0, 0}, "focal": 25})
	}
	do(t, s, "place", m{"id": "a", "position": []float64{0, 1.5, 6}, "turn": []float64{170, 0, 0}})
	leave(10, 0, 6, 170)
	assert.Equal(t, scene.Sticks, s.Doc.Nodes["a"].Camera.Support, "one position is a place")
	samePlace := s.camera("a", 200)
	assert.Equal(t, r3.Vec{Y: 1.5, Z: 6}, samePlace.World.Origin())
	leave(58, 4, 6, -170)
	leave(58, 4, 2, -150) // the playhead stands at the last position: a gentle pace on
	left := s.Doc.Nodes["a"].Camera.Left
	require.Len(t, left, 3)
	assert.Equal(t, 58+math.Round(4/0.9*24), left[2].Frame)
	assert.Equal(t, 190.0, left[1].Turn[0], "it turns the short way")
	n := s.Doc.Nodes["a"]
	assert.Equal(t, scene.Dolly, n.Camera.Support)
	for i, p := range left {
		c := s.camera("a", p.Frame)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(c.World.Origin(), p.Position.R3())), 1e-6, "it passes position %d", i)
		assert.InDelta(t, 0, math.Remainder(c.Pan-p.Turn[0], 360), 1e-6)
	}
	// Spaced evenly it runs at one speed from end to end.
	do(t, s, "positionSpace", m{"id": "a", "in": 0, "out": 96})
	length := s.Motion.Path("a").Length()
	var speeds []float64
	for f := 0.5; f < 96; f++ {
		a, b := s.camera("a", f-0.5), s.camera("a", f+0.5)
		speeds = append(speeds, r3.Norm(r3.Sub(b.World.Origin(), a.World.Origin())))
	}
	for _, v := range speeds {
		assert.InEpsilon(t, length/96, v, 0.03, "times are whole frames, so that the speed differs by a little")
	}
	do(t, s, "moveEase", m{"id": "a", "easeIn": "soft", "easeOut": "soft"})
	slow, mid := s.camera("a", 1), s.camera("a", 0)
	assert.Less(t, r3.Norm(r3.Sub(slow.World.Origin(), mid.World.Origin())), length/96/4)
	// What was eased stays eased when a position is taken anew or moved in time.
	do(t, s, "positionRetake", m{"id": "a", "index": 1, "position": []float64{5, 1.5, 5}, "turn": []float64{0, 0, 0}, "focal": 35})
	do(t, s, "positionTime", m{"id": "a", "index": 1, "frame": 500})
	left = s.Doc.Nodes["a"].Camera.Left
	assert.Equal(t, 95.0, left[1].Frame, "up to its neighbour")
	_, k := travel(s, "a")
	assert.Equal(t, curve.Soft, k[0].Ease)
	do(t, s, "positionOrder", m{"id": "a", "from": 2, "to": 0})
	left = s.Doc.Nodes["a"].Camera.Left
	assert.Equal(t, []float64{0, 95, 96}, []float64{left[0].Frame, left[1].Frame, left[2].Frame})
	assert.Equal(t, scene.Vec{4, 1.5, 2}, left[0].Position)
	do(t, s, "positionRemove", m{"id": "a", "index": 1})
	do(t, s, "positionRemove", m{"id": "a", "index": 1})
	assert.Len(t, s.Doc.Nodes["a"].Camera.Left, 1)
	refused(t, s, "positionRetake", m{"id": "a", "index": 4}, "no position 5")
	refused(t, s, "positionSpace", m{"id": "a"}, "at least two positions")
	do(t, s, "cameraSupport", m{"id": "a", "support": "mounted", "on": "box"})
	refused(t, s, "positionLeave", m{"id": "a", "frame": 0}, "is mounted")
}

func travel(s *Session, node string) (string, []curve.Key) {
	for id, c := range s.Doc.Curves {
		if c.Node == node && c.Channel == scene.Travel {
			return id, c.Keys
		}
	}
	return "", nil
}

func TestWholeMovesByHand(t *testing.T) {
	s := open()
	for _, k := range []m{{"channel": "position.x", "frame": 0, "value": 0}, {"channel": "position.x", "frame": 48, "value": 4}, {"channel": "position.z", "frame": 48, "value": 3}, {"channel": "turn.pan", "frame": 0, "value": 0}, {"channel": "turn.pan", "frame": 48, "value": 40}} {
		k["node"], k["key"] = "a", true
		do(t, s, "value", k)
	}
	do(t, s, "pathFromKeys", m{"id": "a"})
	assert.Equal(t, []scene.Vec{{0, 1.5, 0}, {4, 1.5, 3}}, s.Doc.Paths[s.Doc.Nodes["a"].Path].Points, "z begins where it was at the first key of x")
	refused(t, s, "pathFromKeys", m{"id": "a"}, "carried by something already")
	at := func(f float64) (x, pan float64) {
		c := s.camera("a", f)
		return c.World.Origin().X, c.Pan
	}
	near := func(x, pan, f float64, about string) {
		t.Helper()
		gx, gp := at(f)
		assert.InDelta(t, x, gx, 1e-6, about)
		assert.InDelta(t, pan, gp, 1e-6, about)
	}
	do(t, s, "moveShape", m{"id": "a", "by": 12, "scale": 2})
	near(4, 40, 108, "shifted by 12 and twice as long: it ends at 12 + 96")
	near(2, 20, 60, "half way at half time")
	do(t, s, "moveShape", m{"id": "a", "reverse": true})
	near(4, 40, 12, "it begins where it ended")
	near(0, 0, 108, "and ends where it began")
	do(t, s, "moveShape", m{"id": "a", "reverse": true})
	do(t, s, "moveAmount", m{"id": "a", "amount": 0.5})
	near(4, 40, 108, "the end stays")
	near(2, 20, 12, "half the move")
	do(t, s, "moveAmount", m{"id": "a", "amount": 2})
	near(4, 40, 108, "the end stays")
	near(0, 0, 12, "and back")
	do(t, s, "moveAmount", m{"id": "a", "amount": 0.5, "about": "start"})
	near(0, 0, 12, "the start stays")
	near(2, 20, 108, "half")
	// Mirrored across the plane in which it looks at first: along −Z through x = 0.
	do(t, s, "moveShape", m{"id": "a", "mirror": true})
	near(0, 0, 12, "it begins as it did")
	near(-2, -20, 108, "and goes and turns to the other side")
	refused(t, s, "moveShape", m{"id": "box", "by": 3}, "does not move")
	refused(t, s, "moveAmount", m{"id": "a", "amount": -1}, "from 0 to 4")
	refused(t, s, "moveShape", m{"id": "a", "scale": -2}, "reverse it")
}

func TestKeysOfSeveralRows(t *testing.T) {
	s := open()
	for ch, v := range map[string][2]float64{"turn.pan": {0, 30}, "turn.tilt": {0, -10}} {
		do(t, s, "value", m{"node": "a", "channel": ch, "frame": 10, "value": v[0], "key": true})
		do(t, s, "value", m{"node": "a", "channel": ch, "frame": 34, "value": v[1], "key": true})
	}
	keys := func(ch scene.Channel) (out []curve.Key) {
		for _, c := range s.Doc.Curves {
			if c.Node == "a" && c.Channel == ch {
				return c.Keys
			}
		}
		return nil
	}
	both := m{"turn.pan": []float64{10, 34}, "turn.tilt": []float64{10, 34}}
	do(t, s, "keyMove", m{"node": "a", "rows": both, "by": 6})
	assert.Equal(t, []float64{16, 40}, []float64{keys(scene.Tilt)[0].Frame, keys(scene.Pan)[1].Frame})
	both = m{"turn.pan": []float64{16, 40}, "turn.tilt": []float64{16, 40}}
	do(t, s, "keyScale", m{"node": "a", "rows": both, "time": 2, "value": 0.5})
	assert.Equal(t, []float64{16, 64}, []float64{keys(scene.Pan)[0].Frame, keys(scene.Pan)[1].Frame})
	assert.Equal(t, []float64{15, 30}, []float64{keys(scene.Pan)[0].Value, keys(scene.Pan)[1].Value}, "about the last one's value")
	copied := m{"turn.pan": keys(scene.Pan), "turn.tilt": keys(scene.Tilt)}
	do(t, s, "keyPaste", m{"node": "a", "rows": copied, "frame": 100, "reverse": true})
	require.Len(t, keys(scene.Pan), 4)
	assert.Equal(t, []float64{100, 30, 148, 15}, []float64{keys(scene.Pan)[2].Frame, keys(scene.Pan)[2].Value, keys(scene.Pan)[3].Frame, keys(scene.Pan)[3].Value})
	do(t, s, "keyPaste", m{"node": "b", "rows": m{"lens.focal": []curve.Key{{Frame: 3, Value: 40, Ease: curve.Soft}}}, "frame": 9})
	assert.Equal(t, 40.0, s.camera("b", 50).Focal)
	refused(t, s, "keyPaste", m{"node": "box", "rows": m{"lens.focal": []curve.Key{{Frame: 3, Value: 40, Ease: curve.Soft}}}}, "none of the channels")
	refused(t, s, "keyPaste", m{"node": "a", "rows": m{}}, "no keys have been copied")
	do(t, s, "keyEase", m{"node": "a", "rows": m{"turn.pan": []float64{64}, "turn.tilt": []float64{16, 64}}, "ease": "shaped"})
	assert.Equal(t, curve.Shaped, keys(scene.Tilt)[0].Ease)

	do(t, s, "keyHandle", m{"node": "a", "channel": "turn.pan", "frame": 64, "side": "out", "frames": 12, "value": 9})
	k := keys(scene.Pan)[1]
	assert.Equal(t, curve.Handle{Frames: 12}, *k.Out, "held flat")
	do(t, s, "keyHandle", m{"node": "a", "channel": "turn.pan", "frame": 64, "side": "out", "frames": 12, "value": 9, "free": true})
	k = keys(scene.Pan)[1]
	assert.Equal(t, curve.Handle{Frames: 12, Value: 9}, *k.Out)
	assert.InDelta(t, -9.0/12*k.In.Frames, k.In.Value, 1e-9, "the other side stays in line")
	refused(t, s, "keyHandle", m{"node": "a", "channel": "turn.pan", "frame": 16, "side": "in", "frames": 3}, "no key on that side")
	refused(t, s, "keyScale", m{"node": "a", "rows": m{"turn.pan": []float64{16, 64}}, "time": 3}, "meet or pass")

	do(t, s, "keySet", m{"node": "a", "frame": 80})
	assert.Len(t, keys(scene.Pan), 5)
	assert.Len(t, keys(scene.PositionY), 1, "all of a camera's place and turn")
	do(t, s, "keySet", m{"node": "b", "frame": 48})
	_, tk := travel(s, "b")
	assert.Len(t, tk, 3)
	assert.InDelta(t, 0.5, tk[1].Value, 1e-9, "what was there is keyed")
}

func TestFocusIsPulledFromOneToTheOther(t *testing.T) {
	s := open()
	do(t, s, "focusFollow", m{"id": "a", "on": "walker"})
	do(t, s, "focusPull", m{"id": "a", "frame": 120, "on": "box"})
	assert.Empty(t, s.Doc.Nodes["a"].Camera.FocusOn)
	assert.InDelta(t, 10, s.camera("a", 120).Focus, 1e-9)
	follows := func(f float64) float64 {
		s.Evaluate(f)
		return -s.Motion.Subject(s.Motion.Index("walker"), &s.State).Z
	}
	assert.InDelta(t, follows(96), s.camera("a", 96).Focus, 1e-9, "it leaves one second before")
	assert.InDelta(t, follows(50), s.camera("a", 50).Focus, 1e-9)
	do(t, s, "focusPull", m{"id": "a", "frame": 160, "focus": 3})
	assert.InDelta(t, 3, s.camera("a", 200).Focus, 1e-9)
	refused(t, s, "focusPull", m{"id": "a", "frame": 160, "focus": 0}, "at least 0.05 m")
	do(t, s, "set", m{"collection": "nodes", "id": "a", "merge": m{"turn": []float64{180, 0, 0}}})
	refused(t, s, "focusPull", m{"id": "a", "frame": 100, "on": "walker"}, "behind camera 1")
	do(t, s, "remove", m{"collection": "nodes", "ids": []string{"walker"}})
	for _, c := range s.Doc.Curves {
		for _, k := range c.Keys {
			assert.NotEqual(t, "walker", k.On)
		}
	}
	do(t, s, "focusFollow", m{"id": "a", "on": ""})
	assert.Equal(t, 3.0, s.Doc.Nodes["a"].Camera.Focus)
}

func TestNumbersOfACrewByHand(t *testing.T) {
	s := open()
	do(t, s, "stockPlace", m{"kind": "set", "stock": "floor", "name": "Floor", "position": []float64{0, 0, 0}, "id": "floor"})
	do(t, s, "set", m{"collection": "nodes", "id": "floor", "merge": m{"piece": m{"params": m{"width": 60, "depth": 60}}}})
	s.Evaluate(48) // B runs 8 m along X from frame 0 to 96, aiming at the box
	n, ok := s.Numbers("b")
	require.True(t, ok)
	require.NotNil(t, n.Height)
	assert.InDelta(t, 2, *n.Height, 1e-6)
	assert.Equal(t, "Box", n.Subject)
	assert.InDelta(t, 2, n.Speed, 1e-6, "eight metres in four seconds")
	assert.InDelta(t, 2, n.Greatest, 1e-6)
	assert.InDelta(t, 8, n.Travel, 1e-6)
	assert.Equal(t, []float64{0, 96}, []float64{n.From, n.To})
	// The line of the track passes the box's middle at h = √(10² + 1.5²); at x along
	// it, the view turns with v·h/(x² + h²), the most at the start.
	h2 := 102.25
	assert.InDelta(t, 2*math.Sqrt(h2)/(16+h2)*180/math.Pi, n.PanRate, 0.005, "half way, at x = 4")
	assert.InDelta(t, 2*math.Sqrt(h2)/h2*180/math.Pi, n.Pan, 0.005)
	assert.InDelta(t, 360-math.Atan(0.4)*180/math.Pi, n.Heading, 0.01, "to the left of −Z")
	assert.InDelta(t, 90.0/7, n.FastestPan, 1e-9, "an eighteen millimetre lens covers 90° in seven seconds")
	still, ok := s.Numbers("a")
	require.True(t, ok)
	assert.False(t, still.Moves)
	_, err := json.Marshal(still)
	assert.NoError(t, err, "no number of a still camera is endless")
	assert.Equal(t, "Walker", still.Subject, "who is in front of it")
	_, ok = s.Numbers("box")
	assert.False(t, ok)
}

func TestFramingIsNamedAndRibbonsShowIt(t *testing.T) {
	s := open()
	person := func(id string, at scene.Vec, pan float64) {
		s.Doc.Nodes[id] = scene.Node{Kind: scene.KindCast, Name: id, Position: at, Turn: scene.Vec{pan, 0, 0}, Cast: &scene.Cast{Height: 1.75, Coat: "#804040", Legs: "#404080"}}
	}
	person("Ann", scene.Vec{20, 0, -6}, 180)
	person("Ben", scene.Vec{20.2, 0, -4.6}, 0)
	s = Open(s.Doc, counter())
	c, err := s.Compose(questions.ComposeWish{Camera: "a", Subjects: []string{"Ann"}, Size: "medium", Angle: compose.Eye, Focal: 35, Frame: 0})
	require.NoError(t, err)
	do(t, s, "place", m{"id": "a", "position": c.Position, "turn": c.Turn})
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "value": 35})
	s.Evaluate(0)
	f := s.Framing("a", []string{"Ann", "Ben", "box"})
	assert.Equal(t, "medium of Ann", f.Label)
	assert.Equal(t, []questions.Status{questions.Seen, questions.Outside, questions.Outside}, []questions.Status{f.Subjects[0].Status, f.Subjects[1].Status, f.Subjects[2].Status})
	over, err := s.Compose(questions.ComposeWish{Camera: "a", Subjects: []string{"Ann"}, Over: "Ben", Size: "medium close-up", Angle: compose.Over, Focal: 85})
	require.NoError(t, err)
	do(t, s, "place", m{"id": "a", "position": over.Position, "turn": over.Turn})
	do(t, s, "value", m{"node": "a", "channel": "lens.focal", "value": 85})
	s.Evaluate(0)
	assert.Equal(t, "medium close-up of Ann, over Ben", s.Framing("a", nil).Label)
	_, err = s.Compose(questions.ComposeWish{Camera: "a", Subjects: []string{"Ann"}, Over: "Ben", Size: "close-up", Angle: compose.Over, Focal: 18})
	var lens *compose.ErrLens
	require.ErrorAs(t, err, &lens)
	assert.ErrorContains(t, err, "in front of Ben; use at least")
	two, err := s.Suggest(questions.ComposeWish{Camera: "a", Subjects: []string{"Ann"}, Over: "Ben", Size: "close-up", Angle: compose.Over, Focal: 18}, 6)
	require.NoError(t, err)
	assert.Len(t, two, 2, "over both shoulders, with a lens that does")
	assert.GreaterOrEqual(t, two[0].Focal, lens.Needs)
	for _, bad := range []struct {
		w    questions.ComposeWish
		says string
	}{
		{questions.ComposeWish{}, "one or two people"}, {questions.ComposeWish{Subjects: []string{"gone"}}, "something that has a shape"},
		{questions.ComposeWish{Subjects: []string{"Ann"}, Size: "huge", Angle: compose.Eye, Focal: 35}, "sizes are extreme close-up"},
		{questions.ComposeWish{Subjects: []string{"Ann"}, Size: "full", Angle: "askew", Focal: 35}, "is no angle"},
		{questions.ComposeWish{Subjects: []string{"Ann"}, Size: "full", Angle: compose.Eye}, "from 1 to 3000"},
		{questions.ComposeWish{Subjects: []string{"Ann"}, Over: "Ann", Size: "full", Angle: compose.Over, Focal: 35}, "over whose shoulder"},
	} {
		_, err := s.Compose(bad.w)
		assert.ErrorContains(t, err, bad.says)
	}
	// A wall between them hides Ann, and sends the camera elsewhere.
	do(t, s, "stockPlace", m{"kind": "set", "stock": "stoneWall", "name": "Wall", "position": []float64{20, 0, -4}, "id": "wall"})
	do(t, s, "set", m{"collection": "nodes", "id": "wall", "merge": m{"piece": m{"params": m{"height": 3}}}})
	s.Evaluate(0)
	assert.Equal(t, questions.Hidden, s.Framing("a", []string{"Ann"}).Subjects[0].Status)
	straight := 0.0
	c, err = s.Compose(questions.ComposeWish{Camera: "a", Subjects: []string{"Ann"}, Size: "full", Angle: compose.Eye, Focal: 35, Around: &straight})
	require.NoError(t, err)
	assert.NotZero(t, c.Around, "straight in front is the wall")
	// The walker walks away from camera A, which is turned to them: whole, then small.
	s2 := open()
	do(t, s2, "focusFollow", m{"id": "a", "on": "walker"})
	do(t, s2, "set", m{"collection": "nodes", "id": "a", "merge": m{"position": []float64{0, 1.5, 5}}})
	do(t, s2, "set", m{"collection": "nodes", "id": "box", "merge": m{"hidden": true}})
	r := s2.Ribbon("a", []string{"walker", "box"}, 0, 60, 4)
	assert.Equal(t, []byte{byte(questions.Seen) | questions.InFocus, byte(questions.Seen) | questions.InFocus, byte(questions.Seen) | questions.InFocus, byte(questions.Seen) | questions.InFocus}, []byte{r[0], r[2], r[4], r[6]})
	do(t, s2, "value", m{"node": "a", "channel": "lens.focal", "value": 8})
	r = s2.Ribbon("a", []string{"walker"}, 0, 239, 2)
	assert.Equal(t, []byte{byte(questions.Seen), byte(questions.Small)}, []byte{r[0] &^ questions.InFocus, r[1] &^ questions.InFocus})
}

func TestPathsDrawnByHandKeepWhatMatters(t *testing.T) {
	s := open()
	var line [][]float64 // a quarter circle of four metres radius, drawn in many small steps, with a tremble
	for i := range 120 {
		a := float64(i) / 119 * math.Pi / 2
		r := 4 + 0.02*math.Sin(float64(i)*2.3)
		line = append(line, []float64{r * math.Sin(a), 1.5, -r * math.Cos(a)})
	}
	do(t, s, "pathDraw", m{"form": "curve", "points": line, "loose": 0.1, "for": "a", "in": 0, "out": 48, "id": "hand"})
	p := s.Doc.Paths["hand"]
	assert.Less(t, len(p.Points), 12)
	assert.Greater(t, len(p.Points), 3)
	assert.InDelta(t, math.Pi/2*4, s.Motion.Path("a").Length(), 0.15)
	assert.Equal(t, scene.Vec{line[0][0], 1.5, line[0][2]}, p.Points[0])
}

// TestEveryFrameOperationCanBeUndone runs operations at random and takes them
// back: the document is byte for byte what it was, also after refused ones.
func TestEveryFrameOperationCanBeUndone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := open()
		n := func(what string, lo, hi float64) float64 {
			return math.Round(rapid.Float64Range(lo, hi).Draw(t, what)*100) / 100
		}
		pick := func(what string, of ...string) string { return rapid.SampledFrom(of).Draw(t, what) }
		for range 12 {
			id := pick("camera", "a", "b")
			frame := math.Round(n("frame", 0, 200))
			pose := m{"id": id, "frame": frame, "position": []float64{n("x", -5, 5), n("y", 0.5, 3), n("z", -5, 5)}, "turn": []float64{n("pan", -180, 180), n("tilt", -40, 40), 0}, "focal": n("focal", 18, 90)}
			ops := []struct {
				op   string
				args m
			}{
				{"positionLeave", pose}, {"cameraTake", pose}, {"positionSpace", m{"id": id}}, {"positionRemove", m{"id": id, "index": 0}},
				{"cameraSupport", m{"id": id, "support": pick("support", "sticks", "dolly", "handheld", "mounted"), "on": "walker", "frame": frame}},
				{"cameraAim", m{"id": id, "aim": pick("aim", "free", "along", "at"), "at": "box", "frame": frame}},
				{"cameraOrbit", m{"id": id, "about": []float64{0, 1, -10}, "around": n("around", -60, 60), "over": n("over", -30, 30), "frame": frame}},
				{"cameraTurn", m{"id": id, "turn": []float64{n("turn", -90, 90), 3, 0}, "frame": frame, "key": true}},
				{"lensChoose", m{"id": id, "focal": n("lens", 18, 90), "keep": pick("keep", "place", "size"), "frame": frame}},
				{"lensMove", m{"id": id, "in": frame, "out": frame + 24, "focal": n("to", 18, 90)}},
				{"focusPull", m{"id": id, "frame": frame, "focus": n("focus", 1, 9)}}, {"focusFollow", m{"id": id, "on": "box"}},
				{"moveShape", m{"id": id, "by": math.Round(n("by", -20, 20)), "scale": n("scale", 0.5, 2), "reverse": rapid.Bool().Draw(t, "reverse"), "mirror": rapid.Bool().Draw(t, "mirror")}},
				{"moveAmount", m{"id": id, "amount": n("amount", 0, 2), "about": pick("about", "end", "start", "middle")}},
				{"moveEase", m{"id": id, "easeIn": "soft", "easeOut": "even"}}, {"pathFromKeys", m{"id": id}},
				{"keySet", m{"node": id, "frame": frame}}, {"cameraCopy", m{"id": id, "keys": rapid.Bool().Draw(t, "keys"), "frame": frame}},
				{"cameraNumber", m{"id": id, "number": math.Round(n("number", 1, 5))}}, {"cameraArchive", m{"id": id, "archive": true}},
			}
			o := rapid.SampledFrom(ops).Draw(t, "operation")
			before := string(s.Doc.Encode())
			r, err := s.Run(o.op, scene.Canonical(o.args))
			if err != nil {
				require.Equal(t, before, string(s.Doc.Encode()), "%s was refused and changed something: %v", o.op, err)
				continue
			}
			after := string(s.Doc.Encode())
			require.NoError(t, s.Apply(r.Patch.Inverse()), o.op)
			require.Equal(t, before, string(s.Doc.Encode()), o.op)
			require.NoError(t, s.Apply(r.Patch), o.op)
			require.Equal(t, after, string(s.Doc.Encode()), o.op)
			// And what was updated step by step is what a fresh start gives.
			fresh := Open(s.Doc.Clone(), counter())
			for _, f := range []float64{0, 37, 160} {
				s.Evaluate(f)
				fresh.Evaluate(f)
				require.Equal(t, fresh.State.Cameras, s.State.Cameras, "%s at %v", o.op, f)
			}
		}
	})
}

func TestFocusIsPickedInThePicture(t *testing.T) {
	s := open()
	pick := func(args m) {
		args["id"], args["frame"] = "a", 100.0
		do(t, s, "focusPick", args)
	}
	curves := func() (n int) {
		for _, c := range s.Doc.Curves {
			if c.Node == "a" && c.Channel == scene.Focus {
				n += len(c.Keys)
			}
		}
		return n
	}
	pick(m{"node": "walker", "at": []float64{0, 1, -5}})
	assert.Equal(t, "walker", s.Doc.Nodes["a"].Camera.FocusOn, "people are followed")
	pick(m{"node": "box", "at": []float64{1, 2, -7.25}})
	assert.Empty(t, s.Doc.Nodes["a"].Camera.FocusOn, "one edit lets go of what was followed")
	assert.InDelta(t, 7.25, s.camera("a", 100).Focus, 1e-9, "the depth, not the way to the place")
	pick(m{})
	assert.InDelta(t, 1000, s.camera("a", 100).Focus, 1e-9, "nothing there is far away")
	assert.Zero(t, curves())
	pick(m{"node": "box", "at": []float64{0, 0, -3}, "key": true})
	assert.Equal(t, 2, curves(), "the focus that the shot opened with is kept")
	pick(m{"node": "walker", "pull": true})
	assert.Equal(t, 2, curves(), "the pull takes the place of the key at its frame")
	refused(t, s, "focusPick", m{"id": "box", "frame": 1}, "the camera is not there")
}

func TestTheGroundIsWhatOneWalksOn(t *testing.T) {
	d := scenetest.Small()
	d.Nodes["stage"] = scene.Node{Kind: scene.KindSet, Name: "Stage", Position: scene.Vec{40}, Piece: &scene.Piece{Stock: "platform", Params: map[string]float64{"height": 1.5}}}
	d.Nodes["top"] = scene.Node{Kind: scene.KindSet, Name: "Top", Position: scene.Vec{40, 6}, Piece: &scene.Piece{Stock: "roof"}}
	s := Open(d, counter())
	y, ok := s.Ground(40, 0, "")
	assert.True(t, ok)
	assert.InDelta(t, 1.5, y, 1e-9, "not the roof above")
	_, ok = s.Ground(40, 0, "stage")
	assert.False(t, ok, "nothing else is there")
}

func TestAMoveThatIsStretchedStaysOnWholeFrames(t *testing.T) {
	s := open()
	do(t, s, "moveShape", m{"id": "b", "scale": 1.0 / 3.7})
	keys := func() (out []float64) {
		for _, c := range s.Doc.Curves {
			if c.Node == "b" {
				for _, k := range c.Keys {
					out = append(out, k.Frame)
				}
			}
		}
		return out
	}
	assert.Equal(t, []float64{0, 26}, keys(), "96 frames are 25.9")
	do(t, s, "moveShape", m{"id": "b", "scale": 0.01})
	assert.InDeltaSlice(t, []float64{0, 0.26}, keys(), 1e-9, "where they would meet they stay apart")
}

func TestACameraOnAPath(t *testing.T) {
	s := moving()
	length := s.Motion.Path("van").Length()
	do(t, s, "pathDraw", m{"form": "straight", "points": [][]float64{{0, 0, 10}, {0, 0, 24}}, "id": "lane"})
	do(t, s, "cameraOnPath", m{"path": "lane", "frame": 0, "id": "walks", "like": "a"})
	n := s.Doc.Nodes["walks"]
	assert.Equal(t, scene.Vec{0, 1.6, 0}, n.Position, "at head height over what is there")
	assert.Equal(t, []any{scene.Dolly, scene.AimAlong, "Camera 3 on path"}, []any{n.Camera.Support, n.Camera.Aim, n.Name})
	_, keys := s.Doc.CurveOf("walks", scene.Travel)
	// Fourteen metres at 1.4 m/s are ten seconds, but the story has but 239 frames after the first.
	assert.Equal(t, []float64{0, float64(min(240, s.Doc.Settings.Story.Out-1))}, []float64{keys.Keys[0].Frame, keys.Keys[1].Frame})
	now := s.camera("walks", 120)
	assert.InDelta(t, 10+14*120/keys.Keys[1].Frame, now.World.Origin().Z, 1e-6)
	assert.InDelta(t, 180, math.Abs(now.Pan), 1e-6, "it looks where it goes")

	// A van's path, at its pace, aimed at somebody, lower; it begins earlier where it would end too late.
	do(t, s, "cameraOnPath", m{"path": "road", "frame": s.Doc.Settings.Story.Out - 10, "speed": 8.3, "height": 0.7, "at": "rider", "id": "drives"})
	_, keys = s.Doc.CurveOf("drives", scene.Travel)
	assert.Equal(t, float64(s.Doc.Settings.Story.Out-1), keys.Keys[1].Frame)
	assert.InDelta(t, length/8.3*24, keys.Keys[1].Frame-keys.Keys[0].Frame, 0.51)
	c := s.camera("drives", keys.Keys[0].Frame)
	x, y, depth := c.Project(s.Motion.Subject(s.Motion.Index("rider"), &s.State))
	assert.InDelta(t, 0, math.Hypot(x, y), 1e-6)
	assert.Positive(t, depth)
	assert.InDelta(t, 0.7, c.World.Origin().Y, 1e-9)
	// A path that was drawn in the air is one for the lens.
	do(t, s, "pathDraw", m{"form": "straight", "points": [][]float64{{0, 2.2, 10}, {0, 2.2, 24}}, "id": "wire"})
	do(t, s, "cameraOnPath", m{"path": "wire", "frame": 0, "id": "flies"})
	now = s.camera("flies", 0)
	assert.InDelta(t, 2.2, now.World.Origin().Y, 1e-9)
	refused(t, s, "cameraOnPath", m{"path": "gone", "frame": 0}, "not there any more")
	refused(t, s, "cameraOnPath", m{"path": "wire", "frame": 0, "at": "gone"}, "subject that the camera is to aim at")
	refused(t, s, "cameraOnPath", m{"path": "wire", "frame": 0, "speed": -2}, "reverse the path")
}

func TestAnotherCamerasPicture(t *testing.T) {
	s := moving()
	do(t, s, "place", m{"id": "b", "position": []float64{4, 2, 7}, "turn": []float64{30, -10, 5}})
	do(t, s, "value", m{"node": "b", "channel": "lens.focal", "value": 50})
	its := s.camera("b", 20)
	same := func(what string) {
		mine := s.camera("a", 20)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(mine.World.Origin(), its.World.Origin())), 1e-6, what)
		assert.InDelta(t, its.Pan, mine.Pan, 1e-6, what)
		assert.InDelta(t, its.Roll, mine.Roll, 1e-6, what)
		assert.InDelta(t, its.Focal, mine.Focal, 1e-6, what)
	}
	for _, as := range []string{"still", "key", "position"} {
		do(t, s, "cameraLike", m{"id": "a", "from": "b", "frame": 20, "what": "picture", "as": as})
		same(as)
	}
	assert.Len(t, s.Doc.Nodes["a"].Camera.Left, 1)
	// Its place alone leaves the rest, and its lens alone leaves a move.
	s = moving()
	do(t, s, "place", m{"id": "b", "position": []float64{4, 2, 7}, "turn": []float64{30, -10, 5}})
	do(t, s, "value", m{"node": "b", "channel": "lens.focal", "value": 50})
	was := s.camera("a", 20)
	do(t, s, "cameraLike", m{"id": "a", "from": "b", "frame": 20, "what": "place", "as": "still"})
	now := s.camera("a", 20)
	assert.InDelta(t, 7, now.World.Origin().Z, 1e-6)
	assert.InDelta(t, was.Pan, now.Pan, 1e-6)
	assert.InDelta(t, was.Focal, now.Focal, 1e-6)
	do(t, s, "value", m{"node": "a", "channel": "position.x", "frame": 60, "value": 9, "key": true})
	do(t, s, "cameraLike", m{"id": "a", "from": "b", "frame": 20, "what": "lens", "as": "still"})
	assert.Equal(t, 50.0, s.Doc.Nodes["a"].Camera.Focal)
	_, kept := s.Doc.CurveOf("a", scene.PositionX)
	assert.NotEmpty(t, kept.Keys)
	refused(t, s, "cameraLike", m{"id": "a", "from": "a", "frame": 20, "what": "lens", "as": "still"}, "another camera")
	refused(t, s, "cameraLike", m{"id": "a", "from": "b", "frame": 20, "what": "mood", "as": "still"}, "picture, place or lens")
	refused(t, s, "cameraLike", m{"id": "a", "from": "b", "frame": 20, "what": "place", "as": "wish"}, "as a key or as a position")
}

// TestAMoveSettlesAsLongAsIsAsked: with a flat lever of s at its end and none at its start, a
// move from 0 to 1 over l frames is the Bézier curve x = l·(t(1−t)² + 3t²(1−t)·(l−b)/l + t³),
// y = t(1−t)² + 3t²(1−t) + t³ with b = s: its speed at the end is 0, and the longer the lever
// the earlier it slows down.
func TestAMoveSettlesAsLongAsIsAsked(t *testing.T) {
	var slows []float64
	for _, seconds := range []float64{0, 0.5, 1, 2} {
		s := moving()
		for _, ch := range []string{"position.x", "turn.pan"} {
			do(t, s, "value", m{"node": "a", "channel": ch, "frame": 0, "value": 0, "key": true})
			do(t, s, "value", m{"node": "a", "channel": ch, "frame": 96, "value": 10, "key": true})
		}
		do(t, s, "moveSettle", m{"id": "a", "in": 0, "out": seconds})
		s.Evaluate(60)
		n, ok := s.Numbers("a")
		require.True(t, ok)
		assert.Equal(t, []float64{0, seconds}, []float64{n.SetsOff, n.Settles})
		at := func(f float64) float64 { c := s.camera("a", f); return c.World.Origin().X }
		first := at(1) - at(0)
		slow := 96.0
		for f := 95.0; f > 0 && at(f+1)-at(f) < 0.9*first; f-- {
			slow = f
		}
		slows = append(slows, 96-slow)
		if seconds > 0 {
			assert.Less(t, at(96)-at(95), 0.5*first, "it comes to rest")
			// A point of the curve by hand: at t = 1/2 the frame is 96·(1/8 + 3/8·(96−b)/96 + 1/8).
			b := seconds * 24
			frame := 96 * (1.0/8 + 3.0/8*(96-b)/96 + 1.0/8)
			assert.InDelta(t, 10*(1.0/8+3.0/8+1.0/8), at(frame), 1e-6)
		} else {
			assert.InDelta(t, first, at(96)-at(95), 1e-6, "even to the end")
		}
	}
	for i := 1; i < len(slows); i++ {
		assert.Greater(t, slows[i], slows[i-1])
	}
	s := moving()
	refused(t, s, "moveSettle", m{"id": "a", "out": 1}, "does not move")
	refused(t, s, "moveSettle", m{"id": "van", "out": -1}, "0 to 3600 seconds")
}

func TestWhatACameraThatIsLeftWillSeeIsKnownBefore(t *testing.T) {
	s := moving()
	l := s.NewLens(28)
	do(t, s, "cameraAdd", m{"id": "left", "position": []float64{0, 2, 0}, "turn": []float64{0, 0, 0}, "focal": 28})
	c := s.camera("left", 0)
	assert.Equal(t, []float64{c.Focal, c.HFov, c.VFov}, []float64{l.Focal, l.HFov, l.VFov})
}
