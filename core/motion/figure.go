package motion

import (
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// Figure is a person as framing sees one, in the world at an evaluated state.
type Figure struct {
	Node    int
	Name    string
	Feet    r3.Vec  // between them, on the floor
	Eyes    r3.Vec  // what cameras aim at
	Top     r3.Vec  // of the head
	Front   r3.Vec  // unit, level: the way the head looks
	Stature float64 // metres when standing straight
}

// Figure returns a cast member as framing sees them, and whether the node is
// one.
func (s *Scene) Figure(i int, st *State) (Figure, bool) {
	if i < 0 || s.Nodes[i].Entity.Cast == nil {
		return Figure{}, false
	}
	n := &s.Nodes[i]
	w := &st.Worlds[i]
	f := Figure{Node: i, Name: n.Entity.Name, Feet: w.Origin(), Eyes: st.eyes[i], Stature: n.center.Y / eyes}
	head := s.jointWorld(st, i, int(kit.Head))
	f.Front = head.Dir(r3.Vec{Z: -1})
	f.Front.Y = 0
	if r3.Norm(f.Front) < 1e-6 {
		pan, _, _ := w.Angles()
		m := geom.RotateY(pan)
		f.Front = m.Dir(r3.Vec{Z: -1})
	}
	f.Front = r3.Unit(f.Front)
	f.Top = r3.Add(f.Eyes, r3.Vec{Y: (1 - eyes) * f.Stature})
	return f, true
}

// Chest returns a point in the middle of the chest.
func (f Figure) Chest() r3.Vec { return r3.Sub(f.Eyes, r3.Vec{Y: 0.18 * f.Stature}) }

// Figures returns all people that are not hidden, in the order of nodes.
func (s *Scene) Figures(st *State, buf []Figure) []Figure {
	buf = buf[:0]
	for i := range s.Nodes {
		if n := &s.Nodes[i]; n.Entity.Kind == scene.KindCast && !n.Hidden {
			if f, ok := s.Figure(i, st); ok {
				buf = append(buf, f)
			}
		}
	}
	return buf
}
