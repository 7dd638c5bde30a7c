package session

import (
	"slices"

	"proscen/core/scene"
)

// searchStep is how far apart in screen frames Entrances looks first; somebody
// who is in the picture for less than that may be missed.
const searchStep = 4

// Entrances lists the screen frames of a shot at which one of some subjects
// comes into its camera's picture or is no longer in it, in order. It leaves
// State as it is.
func (s *Session) Entrances(shot string, subjects []string) (out []int) {
	e, ok := s.Doc.Shots[shot]
	if !ok || e.Plays != scene.PlaysCamera || e.Speed == 0 {
		return nil
	}
	for _, id := range subjects {
		seen := func(screen int) bool {
			b := s.Ribbon(e.Camera, []string{id}, e.StoryAt(float64(screen)), 1, 1)
			return len(b) > 0 && b[0]&^InFocus != 0
		}
		was := seen(e.ScreenIn)
		for from := e.ScreenIn; from < e.ScreenOut-1; from += searchStep {
			to := min(from+searchStep, e.ScreenOut-1)
			if seen(to) == was {
				continue
			}
			lo, hi := from, to
			for hi-lo > 1 {
				if mid := (lo + hi) / 2; seen(mid) == was {
					lo = mid
				} else {
					hi = mid
				}
			}
			out = append(out, hi)
			was = !was
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
