package questions

import (
	"math"

	"proscen/core/edit"
	"proscen/core/resection"
	"proscen/core/scene"
)

// Matched is how well a camera shows the points of the picture that it is matched to.
type Matched struct {
	Points  []MatchedPoint `json:"points"`
	Error   float64        `json:"error"`   // root of the mean square, in pixels of the picture
	Trouble string         `json:"trouble"` // what keeps a camera from being found, if anything
}

// MatchedPoint is where a camera sees a point of its match, from −1 to 1 of the matched
// picture's half width and height, and how many of its pixels that is off. What is behind
// the camera is nowhere.
type MatchedPoint struct {
	In     [2]float64 `json:"in"`
	Off    float64    `json:"off"`
	Behind bool       `json:"behind,omitempty"`
}

// Matched returns how well a camera shows the points that it is matched by at a frame of
// story time; ok is false when it is matched to no picture.
func (s *Scene) Matched(camera string, frame float64) (out Matched, ok bool) {
	n := s.Doc.Nodes[camera]
	if n.Camera == nil || n.Camera.Match == nil {
		return out, false
	}
	m := n.Camera.Match
	aspect := s.Motion.Aspect()
	by := m.Fitted(aspect)
	now := s.Stage().Picture(camera, frame)
	out.Points = make([]MatchedPoint, len(m.Points))
	sum := 0.0
	for i, p := range m.Points {
		x, y, depth := now.Project(p.At.R3())
		if depth <= 0 {
			out.Points[i].Behind = true
			sum = math.Inf(1)
			continue
		}
		q := MatchedPoint{In: [2]float64{x / by[0], y / by[1]}}
		q.Off = math.Hypot((q.In[0]-p.In[0])*float64(m.Width), (q.In[1]-p.In[1])*float64(m.Height)) / 2
		sum += q.Off * q.Off
		out.Points[i] = q
	}
	if len(m.Points) > 0 && !math.IsInf(sum, 1) {
		out.Error = math.Sqrt(sum / float64(len(m.Points)))
	}
	if err := resection.Check(edit.MatchPairs(m, aspect)); err != nil {
		out.Trouble = err.Error()
	} else if math.IsInf(sum, 1) || out.Error > far*spread(m) {
		out.Trouble = "the camera does not see these points so; look whether each is the same point in the picture and in the set, and whether the camera has been moved since"
	}
	return out, true
}

// far is the share of their spread by which points are off that are not the same ones.
const far = 0.12

// spread returns how far the points of a match are from their middle, as the root of the
// mean square in pixels.
func spread(m *scene.Match) float64 {
	var sum, of [2]float64
	for _, p := range m.Points {
		for i, half := range [2]float64{float64(m.Width) / 2, float64(m.Height) / 2} {
			sum[i] += p.In[i] * half
			of[i] += p.In[i] * half * p.In[i] * half
		}
	}
	n := float64(len(m.Points))
	return math.Sqrt(max(0, (of[0]+of[1])/n-(sum[0]*sum[0]+sum[1]*sum[1])/(n*n)))
}
