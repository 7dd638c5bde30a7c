package questions

import (
	"math"
	"slices"

	"proscen/core/daylight"
	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// HandleNow is a build parameter that can be dragged, in the world at the
// evaluated frame. The parameter changes by Gain for each metre along Axis.
type HandleNow struct {
	Param string    `json:"param"`
	Title string    `json:"title"`
	At    scene.Vec `json:"at"`
	Axis  scene.Vec `json:"axis"` // unit
	Gain  float64   `json:"gain"`
	Value float64   `json:"value"`
	Min   float64   `json:"min"`
	Max   float64   `json:"max"`
}

// Handles returns the build parameters of a node that can be dragged.
func (s *Scene) Handles(node string) []HandleNow {
	n := s.Doc.Nodes[node]
	i := s.Motion.Index(node)
	if n.Piece == nil || i < 0 || n.Piece.Along != "" {
		return nil
	}
	stock, ok := kit.Find(n.Piece.Stock)
	if !ok {
		return nil
	}
	w := &s.now().Worlds[i]
	var out []HandleNow
	for _, h := range kit.Handles(n.Piece.Stock, n.Piece.Params) {
		axis := w.Dir(h.Axis)
		size := r3.Norm(axis)
		k := slices.IndexFunc(stock.Params, func(p kit.Param) bool { return p.Name == h.Param })
		if k < 0 || size == 0 {
			continue
		}
		p := stock.Params[k]
		value, given := n.Piece.Params[p.Name]
		if !given {
			value = p.Default
		}
		out = append(out, HandleNow{p.Name, p.Title, scene.FromR3(w.Point(h.At)), scene.FromR3(r3.Scale(1/size, axis)), h.Gain / size, value, p.Min, p.Max})
	}
	return out
}

// Strike returns what a ray meets first at the evaluated frame, leaving out
// nodes and what hangs on them.
func (s *Scene) Strike(r geom.Ray, leave []string) (motion.Struck, bool) {
	left := s.Motion.Among(leave)
	return s.Motion.Strike(r, s.now(), 1e5, func(i int) bool { return left[i] })
}

// Ground returns the height in metres of what one walks on at a place of the plan
// at the evaluated frame, leaving out a node. Those who stand about are not walked
// on, nor are roofs and cables.
func (s *Scene) Ground(x, z float64, leave string) (y float64, ok bool) {
	hit, ok := s.Motion.Strike(geom.Ray{From: r3.Vec{X: x, Y: 1e4, Z: z}, Dir: r3.Vec{Y: -1}}, s.now(), 1e5, func(i int) bool {
		e := &s.Motion.Nodes[i].Entity
		return e.Kind != scene.KindSet || e.Piece != nil && kit.Overhead(e.Piece.Stock) || s.Motion.Nodes[i].ID == leave || s.Motion.Within(i, []string{leave})
	})
	return hit.At.Y, ok
}

// Extent returns the box in the world of nodes and what hangs on them at the
// evaluated frame.
func (s *Scene) Extent(nodes []string) geom.Box {
	out := geom.EmptyBox()
	for _, id := range nodes {
		if i := s.Motion.Index(id); i >= 0 {
			b := s.spread.of(s.Motion, i, s.now(), s.changes)
			out = out.Add(b.Min).Add(b.Max)
		}
	}
	return out
}

// Hint says what a snap lines up with: a line across an axis (0 X, 1 Y, 2 Z) at
// a value in metres, and the node it belongs to, "" for the grid.
type Hint struct {
	Axis  int     `json:"axis"`
	Value float64 `json:"value"`
	Node  string  `json:"node"`
}

// snapReach is how far away in metres a thing may be to be lined up with.
const snapReach = 25

// Snap changes a way in metres, by which nodes are to be moved, so that their
// ends or middles along X and Z meet those of what stands nearby, where that
// takes less than tolerance metres; otherwise their origin meets a grid of a
// size in metres, 0 for none. Axes along which they do not move are left alone.
func (s *Scene) Snap(nodes []string, by r3.Vec, tolerance, grid float64) (r3.Vec, []Hint) {
	box := s.Extent(nodes)
	if box.Empty() {
		return by, nil
	}
	lo, hi := [3]float64{box.Min.X, box.Min.Y, box.Min.Z}, [3]float64{box.Max.X, box.Max.Y, box.Max.Z}
	way := [3]float64{by.X, by.Y, by.Z}
	var best [3]float64
	var hints [3]*Hint
	s.boxes = s.Motion.Boxes(&s.State, s.boxes)
	for i := range s.Motion.Nodes {
		n, b := &s.Motion.Nodes[i], s.boxes[i]
		if b.Empty() || slices.Contains(nodes, n.ID) || s.Motion.Within(i, nodes) {
			continue
		}
		d := r3.Sub(b.Max, b.Min)
		if max(d.X, d.Z) > 60 || !near(b, box, by) {
			continue
		}
		olo, ohi := [3]float64{b.Min.X, b.Min.Y, b.Min.Z}, [3]float64{b.Max.X, b.Max.Y, b.Max.Z}
		for axis := 0; axis < 3; axis += 2 {
			if way[axis] == 0 {
				continue
			}
			for _, own := range [3]float64{lo[axis], (lo[axis] + hi[axis]) / 2, hi[axis]} {
				for _, other := range [3]float64{olo[axis], (olo[axis] + ohi[axis]) / 2, ohi[axis]} {
					off := other - (own + way[axis])
					if math.Abs(off) < tolerance && (hints[axis] == nil || math.Abs(off) < math.Abs(best[axis])) {
						best[axis] = off
						hints[axis] = &Hint{axis, other, n.ID}
					}
				}
			}
		}
	}
	var out []Hint
	origin := s.State.Worlds[s.Motion.Index(nodes[0])].Origin()
	at := [3]float64{origin.X, origin.Y, origin.Z}
	for axis := range way {
		switch {
		case hints[axis] != nil:
			way[axis] += best[axis]
			out = append(out, *hints[axis])
		case grid > 0 && way[axis] != 0:
			goal := math.Round((at[axis]+way[axis])/grid) * grid
			way[axis] = goal - at[axis]
		}
	}
	return r3.Vec{X: way[0], Y: way[1], Z: way[2]}, out
}

// near tells whether two boxes lie within reach of each other after the second
// has moved.
func near(a, b geom.Box, by r3.Vec) bool {
	gap := func(lo1, hi1, lo2, hi2 float64) bool { return lo1-snapReach < hi2 && hi1+snapReach > lo2 }
	return gap(a.Min.X, a.Max.X, b.Min.X+by.X, b.Max.X+by.X) && gap(a.Min.Z, a.Max.Z, b.Min.Z+by.Z, b.Max.Z+by.Z)
}

// Way is how far, how long and how fast somebody or something goes.
type Way struct {
	Length  float64 `json:"length"`  // metres
	Seconds float64 `json:"seconds"` // of story time
	Speed   float64 `json:"speed"`   // m/s, the mean
}

// ActionWay returns the way of a walk or run.
func (s *Scene) ActionWay(id string) Way {
	a, ok := s.Doc.Actions[id]
	p := s.Motion.PathByID(a.Path)
	if !ok || p == nil {
		return Way{}
	}
	return s.way(motion.Stretch(p, a).Length(), float64(a.Out-a.In))
}

// TravelWay returns the way of a node on its own path, from its first to its
// last key.
func (s *Scene) TravelWay(node string) Way {
	length := edit.TravelLength(s.Doc, node)
	if _, c := s.Doc.CurveOf(node, scene.Travel); len(c.Keys) > 1 {
		return s.way(length, c.Keys[len(c.Keys)-1].Frame-c.Keys[0].Frame)
	}
	return Way{Length: length}
}

func (s *Scene) way(length, frames float64) Way {
	sec := s.Doc.Settings.Rate.Seconds(frames)
	w := Way{Length: length, Seconds: sec}
	if sec > 0 {
		w.Speed = length / sec
	}
	return w
}

// SunAt returns where the sun stands by a clock: its heading and height in
// degrees.
func SunAt(c scene.SunClock) (heading, height float64) {
	return daylight.Sun(c.Latitude, c.Day, c.Hour)
}
