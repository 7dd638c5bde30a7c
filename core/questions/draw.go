package questions

import (
	"proscen/core/motion"
	"proscen/core/raster"
)

// Draws fills a renderer's input with the evaluated state, seen through a camera
// in a shot, "" for none. It reuses what in holds. Objects are nodes, counted from 1.
func (s *Scene) Draws(c *motion.CameraState, shot string, in *raster.Input) {
	in.Draws = in.Draws[:0]
	for i, x := range s.Motion.Instances {
		if !s.Motion.Nodes[x.Node].Shows(shot) {
			continue
		}
		d := raster.Draw{Mesh: s.Motion.Meshes[x.Mesh].Mesh, World: s.State.Instances[i], Object: uint32(x.Node) + 1}
		if x.Skin >= 0 {
			d.Mesh, d.Bent = s.State.Bent[x.Skin], true
		}
		// What only some shots see casts no shadow, as in the views.
		if k := s.Motion.Nodes[x.Node].Shooting; k != nil {
			d.NoShadow = len(k.Only) > 0
		}
		in.Draws = append(in.Draws, d)
	}
	in.View = raster.View{World: c.World, HFov: c.HFov, VFov: c.VFov, Shift: c.Shift}
	if s.Doc.Settings.Blur {
		in.View.Lens = raster.Lens{Spread: c.Spread(), Focus: c.Focus}
	}
	l := s.State.Look
	in.Look = raster.Look{
		Sun: l.Sun, SunDir: l.SunDir, Zenith: l.Zenith, Horizon: l.Horizon, Ground: l.Ground,
		Haze: l.Haze, HazeRise: l.HazeRise, HazeBase: l.HazeBase, Shadow: l.Shadow, ShadowPx: l.ShadowPx,
	}
	in.Lamps = in.Lamps[:0]
	for i, l := range s.State.Lamps {
		if !s.Motion.Nodes[s.Motion.Lamps[i]].Shows(shot) {
			continue
		}
		in.Lamps = append(in.Lamps, raster.Lamp{At: l.At, Dir: l.Dir, Color: l.Color, Reach: l.Reach, Outer: l.Outer, Inner: l.Inner})
	}
}

// CameraIndex returns the index in State.Cameras of a camera node, or −1.
func (s *Scene) CameraIndex(node string) int {
	for i, n := range s.Motion.Cameras {
		if s.Motion.Nodes[n].ID == node {
			return i
		}
	}
	return -1
}

// Evaluate fills State with the scene at a frame of story time.
func (s *Scene) Evaluate(story float64) *motion.State {
	s.Motion.Evaluate(story, &s.State)
	s.evaluated = s.changes
	return &s.State
}

// now returns the state at the frame that was evaluated last, brought up to date
// when the document has changed since.
func (s *Scene) now() *motion.State {
	if s.evaluated != s.changes {
		s.Evaluate(s.State.Frame)
	}
	return &s.State
}
