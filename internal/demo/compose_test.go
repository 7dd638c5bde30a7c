package demo

import (
	"errors"
	"math"
	"testing"

	"proscen/core/compose"
	"proscen/core/geom"
	"proscen/core/questions"
	"proscen/core/scene"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/spatial/r3"
)

// project sees a point through a lens by a 3 × 3 rotation of its own: the height
// in the picture from −1 to 1.
func project(c questions.Composed, vfov float64, p r3.Vec) float64 {
	sp, cp := math.Sincos(c.Turn[0] * math.Pi / 180)
	st, ct := math.Sincos(c.Turn[1] * math.Pi / 180)
	pan := mat.NewDense(3, 3, []float64{cp, 0, sp, 0, 1, 0, -sp, 0, cp})
	tilt := mat.NewDense(3, 3, []float64{1, 0, 0, 0, ct, -st, 0, st, ct})
	var turn mat.Dense
	turn.Mul(pan, tilt)
	var local mat.VecDense
	local.MulVec(turn.T(), mat.NewVecDense(3, []float64{p.X - c.Position[0], p.Y - c.Position[1], p.Z - c.Position[2]}))
	return local.AtVec(1) / -local.AtVec(2) / math.Tan(vfov*math.Pi/360)
}

// inside tells whether a place is inside a closed piece of the set: rays out of
// it in three directions meet its surface an odd number of times.
func inside(s *session.Session, at r3.Vec, node string) bool {
	odd := 0
	for _, dir := range []r3.Vec{{X: 0.31, Y: 0.9, Z: 0.17}, {X: -0.83, Y: 0.4, Z: 0.39}, {X: 0.12, Y: 0.21, Z: -0.97}} {
		crossings, from := 0, at
		for crossings < 100 {
			hit, ok := s.Motion.Strike(geom.Ray{From: from, Dir: dir}, &s.State, 1e4, func(i int) bool { return s.Motion.Nodes[i].ID != node })
			if !ok {
				break
			}
			crossings++
			from = r3.Add(hit.At, r3.Scale(1e-5, dir))
		}
		odd += crossings % 2
	}
	return odd >= 2
}

// TestComposedPicturesOfTheDemonstration asks for every size with every lens
// from several angles and at moments of the story, and looks at what comes back
// by other means: where head and cut line are in the picture, whether the eyes
// see the lens, and whether it stands in a wall.
func TestComposedPicturesOfTheDemonstration(t *testing.T) {
	s := session.Open(Scene(), nil)
	closed := []string{"house", "wheel-house", "platform", "stairs", "cabin"}
	found, refused := 0, 0
	for _, frame := range []float64{60, 500, 1100} {
		for _, who := range []string{"ida", "tomas"} {
			for _, size := range compose.Sizes {
				for _, focal := range []float64{18, 25, 35, 50, 75, 135} {
					for _, angle := range []compose.Angle{compose.Eye, compose.Low, compose.High} {
						c, err := s.Compose(questions.ComposeWish{Camera: "camera-2", Subjects: []string{who}, Size: size.Name, Angle: angle, Focal: focal, Frame: frame})
						if err != nil {
							assert.Regexp(t, "in the way|no place", err.Error())
							refused++
							continue
						}
						found++
						s.Evaluate(frame)
						f, ok := s.Motion.Figure(s.Motion.Index(who), &s.State)
						require.True(t, ok)
						assert.Equal(t, focal, c.Focal)
						vfov := 2 * math.Atan(24.89*9/16/2/focal) * 180 / math.Pi
						top, cut := f.Top, f.Top
						top.Y -= size.Top * f.Stature
						cut.Y -= size.Cut * f.Stature
						headline := 1 - 2*size.Headroom
						// Two per cent of the height are 0.04 of its half.
						assert.InDelta(t, headline, project(c, vfov, top), 0.04, "head: %s of %s with %g mm", size.Name, who, focal)
						assert.InDelta(t, -1, project(c, vfov, cut), 0.04, "cut: %s of %s with %g mm", size.Name, who, focal)
						at := scene.Vec(c.Position).R3()
						for _, node := range closed {
							assert.False(t, inside(s, at, node), "%s of %s with %g mm stands in the %s", size.Name, who, focal, node)
						}
					}
				}
			}
		}
	}
	t.Logf("%d pictures found, %d refused", found, refused)
	assert.Greater(t, found, 3*refused, "most are possible")
	assert.True(t, inside(s, r3.Vec{X: -4, Y: 0.5}, "platform"), "and the test knows inside from outside")
}

func TestOverTheShoulderPairsOfTheDemonstration(t *testing.T) {
	s := session.Open(Scene(), nil)
	for _, pair := range [][2]string{{"ida", "tomas"}, {"tomas", "ida"}} {
		all, err := s.Suggest(questions.ComposeWish{Camera: "camera-5", Subjects: pair[:1], Over: pair[1], Size: "medium close-up", Angle: compose.Over, Focal: 60, Frame: 500}, 6)
		require.NoError(t, err)
		require.NotEmpty(t, all)
		for _, c := range all {
			d := Scene()
			n := d.Nodes["camera-5"]
			k := *n.Camera
			k.Aim, k.AimAt, k.Focal = scene.AimFree, "", c.Focal
			n.Camera, n.Position, n.Turn = &k, c.Position, c.Turn
			d.Nodes["camera-5"] = n
			looked := session.Open(d, nil)
			looked.Evaluate(500)
			f := looked.Framing("camera-5", pair[:])
			assert.Equal(t, questions.Seen, f.Subjects[0].Status)
			assert.Contains(t, f.Label, ", over ", "%v", c)
			assert.Less(t, f.Subjects[1].Depth, f.Subjects[0].Depth)
		}
	}
	_, err := s.Compose(questions.ComposeWish{Camera: "camera-5", Subjects: []string{"ida"}, Over: "tomas", Size: "close-up", Angle: compose.Over, Focal: 18, Frame: 500})
	var lens *compose.ErrLens
	assert.True(t, errors.As(err, &lens))
}
