package session

import (
	"math"

	"proscen/core/motion"
	"proscen/core/program"

	"gonum.org/v1/gonum/spatial/r3"
)

// InFormat returns a camera as it makes the picture of any format of the scene, for a
// shot that is seen at a screen frame or, with "" for the shot, for all shots at a story
// frame; nil when it has none. It holds until the next call.
func (s *Session) InFormat(format, shot, camera string, at float64) *motion.CameraState {
	f, ok := s.Doc.Formats[format]
	if !ok {
		return nil
	}
	v := program.View{Camera: camera, Story: at}
	if e, ok := s.Doc.Shots[shot]; ok {
		v = program.ViewOf(&e, format, at)
	}
	i := s.CameraIndex(v.Camera)
	if i < 0 {
		return nil
	}
	as := motion.As{Aspect: f.Aspect(), Reframe: s.Doc.Nodes[v.Camera].Camera.Formats[format]}
	if v.Reframe != nil {
		as.Reframe = *v.Reframe
	}
	return s.Motion.EvaluateCameraAs(as, i, v.Story, &s.between[0])
}

// Outline is where the picture of another format lies in that of the format that is
// worked in.
type Outline struct {
	Format string `json:"format"` // id
	// Corners from the lower left against the clock, x and y from −1 to 1 of the half
	// picture to the right and up; of the whole, of its action safe area (93 %) and of its
	// title safe area (90 %).
	Whole  [8]float64 `json:"whole"`
	Action [8]float64 `json:"action"`
	Title  [8]float64 `json:"title"`
}

// Safe areas as shares of the picture, after SMPTE ST 2046-1.
const (
	actionSafe = 0.93
	titleSafe  = 0.9
)

// Outlines returns where formats lie in the picture of a camera at a story frame. Those
// that are seen from another place, or too far aside, have no outline in it.
func (s *Session) Outlines(camera string, frame float64, formats []string) []Outline {
	out := []Outline{}
	i := s.CameraIndex(camera)
	if i < 0 {
		return out
	}
	here := *s.Motion.EvaluateCamera(i, frame, &s.between[1])
	for _, f := range formats {
		view := s.InFormat(f, "", camera, frame)
		if view == nil || r3.Norm(r3.Sub(view.World.Origin(), here.World.Origin())) > 1e-6 {
			continue
		}
		o := Outline{Format: f}
		if corners(view, &here, 1, &o.Whole) && corners(view, &here, actionSafe, &o.Action) && corners(view, &here, titleSafe, &o.Title) {
			out = append(out, o)
		}
	}
	return out
}

// corners projects the corners of a share of a camera's picture into that of another one
// at the same place; false when one lies far aside or behind.
func corners(from, into *motion.CameraState, share float64, to *[8]float64) bool {
	for k, c := range [4][2]float64{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
		x, y, depth := into.Project(r3.Add(from.World.Origin(), from.World.Dir(from.Ray(c[0]*share, c[1]*share))))
		if depth < 0.02 || math.Abs(x) > 50 || math.Abs(y) > 50 {
			return false
		}
		to[2*k], to[2*k+1] = x, y
	}
	return true
}
