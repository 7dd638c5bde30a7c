package questions

import "math"

// Lasting is how long a camera's picture of a subject stays what it is at a frame.
type Lasting struct {
	Size  string  `json:"size"`  // of its picture at the frame, or why there is none
	Until float64 `json:"until"` // the first frame at which it is something else; To when it stays
	To    float64 `json:"to"`    // how far was looked
	Then  string  `json:"then"`  // what it is then: a size, or in words why there is none; "" when it stays
}

// A picture is looked at every lastingStep frames first, and in so many moments at most.
const (
	lastingStep  = 4
	lastingLooks = 400
)

// Lasts returns how long from a frame on, up to another, a camera shows a subject in one size,
// whole in the picture. What is in front of the subject is not asked; ribbons tell that. What
// lasts for less than lastingStep frames may pass unnoticed, in a long story for longer. It
// leaves State as it is.
func (s *Scene) Lasts(camera, subject string, from, to float64) Lasting {
	at, i := s.CameraIndex(camera), s.Motion.Index(subject)
	out := Lasting{Until: to, To: to}
	if at < 0 || i < 0 {
		return out
	}
	out.Size = s.said(at, i, from)
	step := max(lastingStep, math.Ceil((to-from)/lastingLooks))
	last := from
	for f := from; f < to-1; {
		f = min(f+step, to-1)
		then := s.said(at, i, f)
		if then == out.Size {
			last = f
			continue
		}
		for last+1 < f { // to the frame
			mid := math.Round((last + f) / 2)
			if w := s.said(at, i, mid); w == out.Size {
				last = mid
			} else {
				f, then = mid, w
			}
		}
		out.Until, out.Then = f, then
		return out
	}
	return out
}

// said returns in words what a camera's picture of a subject is at a frame.
func (s *Scene) said(camera, i int, frame float64) string {
	s.Motion.Evaluate(frame, &s.past)
	c := &s.past.Cameras[camera]
	f, _ := s.inFrame(c, i, &s.past)
	switch f.Status {
	case Outside:
		return "not in the picture"
	case Cut:
		if _, person := s.Motion.Figure(i, &s.past); person {
			return "cut by the frame"
		}
	}
	if f.Size == "" {
		return s.sizeOfThing(c, i, &s.past)
	}
	return f.Size
}
