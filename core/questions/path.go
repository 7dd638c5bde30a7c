package questions

import (
	"fmt"

	"proscen/core/curve"
	"proscen/core/motion"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// PathLine is a path in the form that views draw: points in metres, and where
// what travels on it is every half second.
type PathLine struct {
	Points []r3.Vec
	Ticks  []r3.Vec
	Length float64
}

// SamplePath compiles points into a path and samples it. With the id of a path
// of the document, ticks mark every half second of what travels or walks on it.
func (s *Scene) SamplePath(form curve.Form, points []scene.Vec, closed bool, id string) (PathLine, error) {
	pts := make([]r3.Vec, len(points))
	for i, p := range points {
		pts[i] = p.R3()
	}
	p, err := curve.NewPath(form, pts, closed)
	if err != nil {
		return PathLine{}, fmt.Errorf("this is no path yet: %w", err)
	}
	out := PathLine{Points: p.Sample(16), Length: p.Length()}
	if id == "" {
		return out, nil
	}
	half := s.Doc.Settings.Rate.Frames(0.5)
	tick := func(from, to float64, at func(frame float64) float64) {
		for f := from; f <= to+1e-6 && len(out.Ticks) < maxTicks; f += half {
			out.Ticks = append(out.Ticks, p.At(at(f)))
		}
	}
	for _, c := range s.Doc.Curves {
		if c.Channel == scene.Travel && s.Doc.Nodes[c.Node].Path == id {
			ch := curve.NewChannel(c.Keys)
			keys := ch.Keys()
			tick(keys[0].Frame, keys[len(keys)-1].Frame, func(f float64) float64 { return ch.At(f) * p.Length() })
		}
	}
	for _, a := range s.Doc.Actions {
		if a.Path == id && a.Do.Goes() {
			tick(float64(a.In), float64(a.Out), func(f float64) float64 {
				d, _ := s.Motion.Walked(a, f)
				return d
			})
		}
	}
	return out, nil
}

// maxTicks bounds the half seconds that are marked on one path.
const maxTicks = 2000

// Trail returns a camera at moments before a story frame, step frames apart and
// the latest first, as far back as count, appended to buf[:0]. It leaves State
// as it is. An unknown camera has no trail.
func (s *Scene) Trail(camera string, frame, step float64, count int, buf []motion.CameraState) []motion.CameraState {
	buf = buf[:0]
	at := s.CameraIndex(camera)
	if at < 0 {
		return buf
	}
	for i := 1; i <= count; i++ {
		buf = append(buf, *s.Motion.EvaluateCamera(at, frame-step*float64(i), &s.past))
	}
	return buf
}

// KeyOvershoot is a stretch in which a channel of a node passes beyond its keys.
type KeyOvershoot struct {
	Channel scene.Channel `json:"channel"`
	curve.Overshoot
}

// Overshoots lists where the channels of a node pass beyond their keys, in the
// order of channels.
func (s *Scene) Overshoots(node string) []KeyOvershoot {
	out := []KeyOvershoot{}
	for _, ch := range scene.Channels {
		for _, v := range s.Doc.Curves {
			if v.Node != node || v.Channel != ch {
				continue
			}
			c := curve.NewChannel(v.Keys)
			for _, o := range c.Overshoots() {
				out = append(out, KeyOvershoot{ch, o})
			}
		}
	}
	return out
}
