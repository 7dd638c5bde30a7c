package session

import (
	"math"
	"testing"

	"proscen/core/compose"
	"proscen/core/curve"
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
	assert.Equal(t, "walker", s.Doc.Nodes["a"].Camera.FocusOn, "who walks away from the first picture stays sharp")
	// How softly it comes to rest is kept when the move goes through another picture.
	do(t, s, "moveSettle", m{"id": "a", "in": 0.5, "out": 2})
	wish.Size, wish.Frame = "medium", 110
	taken(t, s, wish, "move")
	n, _ := s.Numbers("a")
	assert.Equal(t, []float64{0.5, 30.0 / 24}, []float64{n.SetsOff, n.Settles}, "no longer than the way from the picture before")
	// Another one at the same frame takes its place.
	wish.Size = "cowboy"
	taken(t, s, wish, "move")
	assert.Len(t, s.Doc.Nodes["a"].Camera.Left, 4)
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
