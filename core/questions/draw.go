package questions

import (
	"math"

	"proscen/core/ambient"
	"proscen/core/motion"
	"proscen/core/raster"

	"gonum.org/v1/gonum/spatial/r3"
)

// Draws fills a renderer's input with the evaluated state, seen through a camera
// in a shot, "" for none. It reuses what in holds. Objects are nodes, counted from 1.
func (s *Scene) Draws(c *motion.CameraState, shot string, in *raster.Input) {
	s.Shown(c, shot, in)
	s.dressSurfaces()
	in.Around = s.Around()
}

// Shown is Draws without how crowded places are, which takes longer, and without what
// picture planes show.
func (s *Scene) Shown(c *motion.CameraState, shot string, in *raster.Input) {
	in.Draws = in.Draws[:0]
	for i, x := range s.Motion.Instances {
		if !s.Motion.Nodes[x.Node].Shows(shot) {
			continue
		}
		d := s.drawn(i, &s.State)
		d.Object = uint32(x.Node) + 1
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
	l := s.LookIn(shot)
	in.Look = raster.Look{
		Sun: l.Sun, SunDir: l.SunDir, Zenith: l.Zenith, Horizon: l.Horizon, Ground: l.Ground,
		Gain: l.Gain, Haze: l.Haze, HazeRise: l.HazeRise, HazeBase: l.HazeBase, Shadow: l.Shadow, ShadowPx: l.ShadowPx,
	}
	in.Lamps = in.Lamps[:0]
	for i, l := range s.State.Lamps {
		if !s.Motion.Nodes[s.Motion.Lamps[i]].Shows(shot) {
			continue
		}
		in.Lamps = append(in.Lamps, Lamp(&l))
	}
}

// Lamp is an evaluated lamp as a renderer takes it.
func Lamp(l *motion.LampState) raster.Lamp {
	out := raster.Lamp{At: l.At, Dir: l.Dir, Color: l.Color, Reach: l.Reach, Outer: l.Outer, Inner: l.Inner}
	if l.Shadow {
		out.Shadow = raster.LampShadow
	}
	return out
}

// drawn is what is drawn of an instance at an evaluated state.
func (s *Scene) drawn(i int, st *motion.State) raster.Draw {
	x := &s.Motion.Instances[i]
	if x.Skin >= 0 {
		return raster.Draw{Mesh: st.Bent[x.Skin], World: st.Instances[i], Bent: true}
	}
	if x.Dye >= 0 {
		return raster.Draw{Mesh: st.Dyed[x.Dye], World: st.Instances[i], Bent: true}
	}
	return raster.Draw{Mesh: s.Motion.Meshes[x.Mesh].Mesh, World: st.Instances[i]}
}

// LookIn is the light of the evaluated state as a shot has it, "" for none.
func (s *Scene) LookIn(shot string) motion.Look {
	if x, ok := s.Doc.Shots[shot]; ok && x.Lit() {
		return s.Motion.LookIn(s.State.Frame, &x)
	}
	return s.State.Look
}

// mostAround is half the side of what is looked at for how crowded places are, in metres.
const mostAround = 20

// Around returns how crowded each place is at the evaluated state. What no camera sees, or
// only some shots see, crowds nothing, and neither does what bends.
func (s *Scene) Around() *ambient.Field {
	s.crowd = s.crowd[:0]
	for i, x := range s.Motion.Instances {
		k := s.Motion.Nodes[x.Node].Shooting
		if x.Skin >= 0 || k != nil && (k.Hidden || len(k.Only) > 0) {
			s.crowd = append(s.crowd, ambient.Thing{})
			continue
		}
		s.crowd = append(s.crowd, ambient.Thing{Mesh: s.Motion.Meshes[x.Mesh].Mesh, World: s.State.Instances[i]})
	}
	center, half := s.Crowded()
	s.around.Set(center, half, s.crowd)
	return &s.around
}

// Crowded returns where it is known how crowded places are: the middle, and how far to each
// side in metres. Both go in steps, so that the place stays while somebody is moved.
func (s *Scene) Crowded() (center r3.Vec, half float64) {
	center, half = s.Motion.Stage()
	step := func(v, by float64) float64 { return math.Round(v/by) * by }
	center = r3.Vec{X: step(center.X, 4), Y: step(center.Y, 2), Z: step(center.Z, 4)}
	return center, min(math.Ceil(half/4)*4, mostAround)
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
