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
	seen := func(subjects []string, screen int) []byte {
		b := s.Ribbon(e.Camera, subjects, e.StoryAt(float64(screen)), 1, 1)
		for i := range b {
			b[i] &^= InFocus
		}
		return b
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
			if (now[i] != 0) == (was[i] != 0) {
				continue
			}
			lo, hi := from, next
			for hi-lo > 1 {
				if mid := (lo + hi) / 2; (seen(subjects[i:i+1], mid)[0] != 0) == (was[i] != 0) {
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
