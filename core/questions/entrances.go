package questions

import (
	"math"
	"slices"

	"proscen/core/scene"
)

// KeysOf lists the screen frames at which a shot's camera has keys, in order; they
// may lie beyond the ends of the shot.
func (s *Scene) KeysOf(e scene.Shot) (out []int) {
	if e.Speed <= 0 || e.Plays != scene.PlaysCamera {
		return nil
	}
	for _, c := range s.Doc.Curves {
		if c.Node != e.Camera {
			continue
		}
		for _, k := range c.Keys {
			out = append(out, int(math.Round(e.ScreenAt(k.Frame))))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// searchStep is how far apart in screen frames Entrances looks first; somebody
// who is in the picture for less than that may be missed.
const searchStep = 4

// Entrances lists the screen frames of a shot at which one of some subjects
// comes into its camera's picture or is no longer in it, in order, looking at
// its frames from and to and those between. It leaves State as it is.
func (s *Scene) Entrances(e scene.Shot, subjects []string, from, to int) (out []int) {
	if e.Plays != scene.PlaysCamera || e.Speed == 0 || s.Doc.Nodes[e.Camera].Camera == nil {
		return nil
	}
	at := s.CameraIndex(e.Camera)
	if at < 0 {
		return nil
	}
	seen := func(subjects []string, screen int) []bool {
		s.Motion.Evaluate(e.StoryAt(float64(screen)), &s.past)
		out := make([]bool, len(subjects))
		for k, id := range subjects {
			if i := s.Motion.Index(id); i >= 0 {
				f, _ := s.inFrame(&s.past.Cameras[at], i, &s.past)
				out[k] = f.Status != Outside
			}
		}
		return out
	}
	from, to = max(from, e.ScreenIn), min(to, e.ScreenOut-1)
	if from >= to {
		return nil
	}
	was := seen(subjects, from)
	for ; from < to && len(was) > 0; from += searchStep {
		next := min(from+searchStep, to)
		now := seen(subjects, next)
		for i := range now {
			if now[i] == was[i] {
				continue
			}
			lo, hi := from, next
			for hi-lo > 1 {
				if mid := (lo + hi) / 2; seen(subjects[i:i+1], mid)[0] == was[i] {
					lo = mid
				} else {
					hi = mid
				}
			}
			out = append(out, hi)
		}
		was = now
	}
	slices.Sort(out)
	return slices.Compact(out)
}
