package session

import (
	"math"
	"strings"
	"testing"

	"proscen/core/compose"
	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/questions"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// moving opens a scene with somebody who walks, somebody who turns round, and a van with
// somebody in it that drives round a bend.
func moving() *Session {
	s := open()
	d := s.Doc
	d.Nodes["turner"] = scene.Node{Kind: scene.KindCast, Name: "Turner", Position: scene.Vec{60, 0, 0}, Cast: &scene.Cast{Height: 1.7, Coat: "#804040", Legs: "#404080"}}
	d.Curves["round"] = scene.Curve{Node: "turner", Channel: scene.Pan, Keys: []curve.Key{{Frame: 0, Value: 0, Ease: curve.Soft}, {Frame: 120, Value: 150, Ease: curve.Soft}}}
	d.Paths["road"] = scene.Path{Name: "Road", Form: curve.Smooth, Points: []scene.Vec{{100, 0, 0}, {100, 0, -20}, {112, 0, -30}}}
	d.Nodes["van"] = scene.Node{Kind: scene.KindVehicle, Name: "Van", Path: "road", Piece: &scene.Piece{Stock: "van"}}
	d.Curves["drive"] = scene.Curve{Node: "van", Channel: scene.Travel, Keys: []curve.Key{{Frame: 0, Value: 0, Ease: curve.Soft}, {Frame: 200, Value: 1, Ease: curve.Soft}}}
	d.Nodes["rider"] = scene.Node{Kind: scene.KindCast, Name: "Rider", Parent: "van", Position: scene.Vec{0, 2.2, 0}, Cast: &scene.Cast{Height: 1.8, Coat: "#804040", Legs: "#404080"}}
	return Open(d, counter())
}

// taken composes a picture and has a camera take it, held in a way.
func taken(t *testing.T, s *Session, w questions.ComposeWish, hold string) questions.Composed {
	t.Helper()
	c, err := s.Compose(w)
	require.NoError(t, err)
	do(t, s, "cameraTake", m{"id": w.Camera, "frame": w.Frame, "position": c.Position, "turn": c.Turn, "focal": c.Focal, "focus": c.Focus,
		"hold": hold, "on": w.Subjects[0], "framing": c.Framing})
	return c
}

// TestHeldPicturesKeepHeadAndCutLine: with the camera carried along, both stay within two
// parts in a hundred of the picture's height, whether somebody walks, turns or rides.
func TestHeldPicturesKeepHeadAndCutLine(t *testing.T) {
	for _, who := range []string{"walker", "turner", "rider"} {
		s := moving()
		medium, err := compose.SizeByName("medium")
		require.NoError(t, err)
		lines := func(frame float64) (head, cut float64) {
			c := s.camera("a", frame)
			f, ok := s.Motion.Figure(s.Motion.Index(who), &s.State)
			require.True(t, ok)
			low := f.Top
			low.Y -= medium.Cut * f.Stature
			_, head, _ = c.Project(f.Top)
			_, cut, _ = c.Project(low)
			return head, cut
		}
		wish := questions.ComposeWish{Camera: "a", Subjects: []string{who}, Size: "medium", Angle: compose.Eye, Focal: 35, Frame: 10}
		taken(t, s, wish, "along")
		h0, c0 := lines(10)
		assert.InDelta(t, 1-2*medium.Headroom, h0, 0.01, who)
		assert.InDelta(t, -1, c0, 0.02, who)
		for f := 10.0; f <= 200; f += 5 {
			h, c := lines(f)
			assert.InDelta(t, h0, h, 2*0.02, "%s's head at %v", who, f)
			assert.InDelta(t, c0, c, 2*0.02, "%s's cut line at %v", who, f)
		}
		p := s.Lasting("a", who, 10)
		assert.Equal(t, questions.Lasting{Size: "medium", Until: p.To, To: p.To}, p, "the promise is kept")

		// Turning with them from one place keeps the face where it is, and says when the size is another.
		s = moving()
		c := taken(t, s, wish, "turn")
		at := s.camera("a", 10)
		eyes := func(frame float64) (x, y float64) {
			cam := s.camera("a", frame)
			assert.InDelta(t, 0, r3.Norm(r3.Sub(cam.World.Origin(), at.World.Origin())), 1e-9, "it stays in its place")
			x, y, _ = cam.Project(s.Motion.Subject(s.Motion.Index(who), &s.State))
			return x, y
		}
		for f := 10.0; f <= 120; f += 10 {
			x, y := eyes(f)
			assert.InDelta(t, 0, math.Hypot(x-c.Framing[0], y-c.Framing[1]), 1e-5, "%s at %v", who, f)
		}
		assert.Equal(t, who, s.Doc.Nodes["a"].Camera.FocusOn)
	}
}

func TestAMoveFromPictureToPicture(t *testing.T) {
	s := moving()
	wish := questions.ComposeWish{Camera: "a", Subjects: []string{"walker"}, Size: "full", Angle: compose.Eye, Focal: 35, Frame: 20}
	from := taken(t, s, wish, "move")
	wish.Size, wish.Frame = "close-up", 140
	to := taken(t, s, wish, "move")
	wish.Size, wish.Frame, wish.Side = "medium", 80, compose.Profile
	between := taken(t, s, wish, "move")
	assert.Equal(t, "medium, side", between.Words)
	left := s.Doc.Nodes["a"].Camera.Left
	require.Len(t, left, 3)
	for i, c := range []questions.Composed{from, between, to} {
		assert.Equal(t, []float64{20, 80, 140}[i], left[i].Frame)
		cam := s.camera("a", left[i].Frame)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(cam.World.Origin(), c.Position.R3())), 1e-6, c.Words)
		f := s.Framing("a", []string{"walker"}).Subjects[0]
		assert.Equal(t, []string{"full", "medium", "close-up"}[i], f.Size)
	}
	// Another one at the same frame takes its place.
	wish.Size = "cowboy"
	taken(t, s, wish, "move")
	assert.Len(t, s.Doc.Nodes["a"].Camera.Left, 3)
	// A new camera can hold from the start.
	do(t, s, "cameraAdd", m{"id": "fresh", "position": to.Position, "turn": to.Turn, "focal": to.Focal, "frame": 140, "hold": "along", "on": "walker", "framing": to.Framing})
	assert.Equal(t, "walker", s.Doc.Nodes["fresh"].Parent)
	refused(t, s, "cameraAdd", m{"position": to.Position, "turn": to.Turn, "focal": 35, "hold": "turn", "on": "gone"}, "choose the subject")
	refused(t, s, "cameraTake", m{"id": "a", "hold": "along", "on": "gone", "focal": 35}, "choose the subject")
	refused(t, s, "cameraTake", m{"id": "a", "hold": "glued", "on": "walker", "focal": 35}, "still, turn, along or move")
	// A promise that ends says where, to the frame, and what comes then.
	s = moving()
	wish = questions.ComposeWish{Camera: "b", Subjects: []string{"walker"}, Size: "medium", Angle: compose.Eye, Focal: 35, Frame: 40}
	taken(t, s, wish, "")
	p := s.Lasting("b", "walker", 40)
	assert.Equal(t, 88.0, p.To, "shot 020 shows the story from 40 to 88")
	require.Less(t, p.Until, p.To)
	s.Evaluate(p.Until - 1)
	assert.Equal(t, "medium", s.Framing("b", []string{"walker"}).Subjects[0].Size)
	assert.NotEqual(t, "medium", p.Then)
}

func TestPicturesOfThings(t *testing.T) {
	s := moving()
	c := taken(t, s, questions.ComposeWish{Camera: "a", Subjects: []string{"van"}, Size: "full", Angle: compose.Low, Side: compose.Quarter, Focal: 40}, "along")
	assert.Equal(t, "full, low, three-quarter", c.Words)
	assert.Less(t, c.Position[1], 1.0)
	for _, f := range []float64{0, 90, 199} {
		s.Evaluate(f)
		van := s.Framing("a", []string{"van"}).Subjects[0]
		assert.Equal(t, "full", van.Size, "at %v", f)
		assert.Equal(t, questions.Seen, van.Status)
		cam := s.camera("a", f)
		w := s.world("van", f)
		back := w.Inverse()
		from := back.Point(cam.World.Origin())
		assert.InDelta(t, 40, math.Abs(math.Atan2(from.X, -from.Z)*180/math.Pi), 12, "in front of it, to its side")
	}
	_, err := s.Compose(questions.ComposeWish{Camera: "a", Subjects: []string{"van"}, Size: "full", Angle: compose.Eye, Side: "inside", Focal: 40})
	assert.ErrorContains(t, err, "is no side")
	_, err = s.Compose(questions.ComposeWish{Camera: "a", Subjects: []string{"van", "walker"}, Size: "full", Angle: compose.Eye, Focal: 40})
	assert.ErrorContains(t, err, "choose the thing alone")
}

func TestWhatACameraThatIsLeftWillSeeIsKnownBefore(t *testing.T) {
	s := moving()
	l := s.NewLens(28)
	do(t, s, "cameraAdd", m{"id": "left", "position": []float64{0, 2, 0}, "turn": []float64{0, 0, 0}, "focal": 28})
	c := s.camera("left", 0)
	assert.Equal(t, []float64{c.Focal, c.HFov, c.VFov}, []float64{l.Focal, l.HFov, l.VFov})
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

// TestADoorOpensDuringTheStory: its leaf turns about the hinge by what is keyed, and the wall
// stays. The hinge is 6 cm inside the opening.
func TestADoorOpensDuringTheStory(t *testing.T) {
	s := moving()
	do(t, s, "stockPlace", m{"kind": "set", "stock": "doorWall", "name": "Door", "position": []float64{0, 0, 40}, "id": "door"})
	leaf := func(frame float64) (hinge, handle r3.Vec) {
		s.Evaluate(frame)
		for i, in := range s.Motion.Instances {
			if s.Motion.Nodes[in.Node].ID == "door" && strings.HasPrefix(s.Motion.Meshes[in.Mesh].Key, "leaf") {
				w := s.State.Instances[i]
				b := s.Motion.Meshes[in.Mesh].Mesh.Bounds
				return w.Origin(), w.Point(r3.Vec{X: b.Max.X})
			}
		}
		t.Fatal("there is no leaf")
		return
	}
	angle := func(frame float64) float64 {
		hinge, handle := leaf(frame)
		d := r3.Sub(handle, hinge)
		return math.Atan2(-d.Z, d.X) * 180 / math.Pi
	}
	assert.InDelta(t, 70, angle(0), 1e-6, "as it comes from the stock")
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 0, "value": 0})
	assert.InDelta(t, 0, angle(0), 1e-6)
	assert.Equal(t, 0.0, s.Doc.Nodes["door"].Piece.Params["swing"])
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 24, "value": 0, "key": true})
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 48, "value": 90, "key": true})
	hinge, _ := leaf(24)
	for frame, want := range map[float64]float64{0: 0, 24: 0, 36: 45, 48: 90, 200: 90} {
		assert.InDelta(t, want, angle(frame), 1e-6, "at %v", frame)
		at, _ := leaf(frame)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(at, hinge)), 1e-9, "the hinge stays")
	}
	// Without a key all of it is shifted, as with any other channel.
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 48, "value": 80})
	assert.InDelta(t, -10, angle(24), 1e-6)
	// What is in the way is told by the leaf where it is.
	ray := geom.Ray{From: r3.Sub(hinge, r3.Vec{X: -0.4, Y: -1, Z: 3}), Dir: r3.Vec{Z: 6}}
	s.Evaluate(200)
	_, blocked := s.Motion.Strike(ray, &s.State, 1, nil)
	assert.False(t, blocked, "through the open door")
	refused(t, s, "value", m{"node": "van", "channel": "piece.swing", "frame": 0, "value": 10}, "no door that opens")
	refused(t, s, "value", m{"node": "walker", "channel": "piece.swing", "frame": 0, "value": 10, "key": true}, "no door that opens")
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
