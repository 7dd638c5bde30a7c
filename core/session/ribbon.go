package session

import (
	"proscen/core/motion"
	"proscen/core/program"
)

// AirRibbon returns how the cut shows subjects over screen time: for each of count frames,
// step apart from a first one, a state for each subject as Ribbon has it. Where no camera is
// on air nobody is seen; of two in a dissolve it is the shot that holds the frame, and on a
// travel the one that is left or come to. It leaves State as it is.
func (s *Session) AirRibbon(subjects []string, from, step float64, count int) []byte {
	out := make([]byte, 0, count*len(subjects))
	var air program.Air
	for k := range count {
		s.Program().At(from+float64(k)*step, &air)
		var c *motion.CameraState
		if len(air.Playing) > 0 {
			if v := air.Playing[0].View; v.Camera != "" {
				s.Motion.Evaluate(v.Story, &s.aired[0])
				c = s.through(v, &s.aired[1])
			}
		}
		if c == nil {
			out = append(out, make([]byte, len(subjects))...)
			continue
		}
		out = s.SeenBy(c, subjects, &s.aired[0], out)
	}
	return out
}
