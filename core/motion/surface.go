package motion

import (
	"math"
	"slices"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// solid is a piece of the set that does not move, on which people walk.
type solid struct {
	node    int
	mesh    *kit.Mesh
	world   geom.Mat4
	inverse geom.Mat4
	box     geom.Box
}

// stepHeight is how far in metres the ground may lie above or below a path that
// somebody walks on.
const stepHeight = 0.6

// solidify finds the pieces of the set that stand still, and returns the people
// whose walks pass near one that has moved.
func (s *Scene) solidify() []int {
	before := s.solids
	s.solids = make([]solid, 0, len(before))
	still := s.still()
	for i := range s.Instances {
		in := &s.Instances[i]
		n := &s.Nodes[in.Node]
		if n.Entity.Kind != scene.KindSet || still[in.Node] == nil {
			continue
		}
		m := *still[in.Node]
		mesh := s.Meshes[in.Mesh].Mesh
		s.solids = append(s.solids, solid{in.Node, mesh, m, m.Inverse(), mesh.Bounds.Transform(&m)})
	}
	var moved []geom.Box
	for i := range max(len(before), len(s.solids)) {
		if i < len(before) && i < len(s.solids) && before[i].world == s.solids[i].world && before[i].mesh == s.solids[i].mesh {
			continue
		}
		if i < len(before) {
			moved = append(moved, before[i].box)
		}
		if i < len(s.solids) {
			moved = append(moved, s.solids[i].box)
		}
	}
	var people []int
	for i := range s.Nodes {
		if s.walksNear(&s.Nodes[i], moved) {
			people = append(people, i)
		}
	}
	return people
}

func (s *Scene) walksNear(n *Node, boxes []geom.Box) bool {
	if len(boxes) == 0 {
		return false
	}
	for k := range n.acts {
		if n.acts[k].gait == nil {
			continue
		}
		way := geom.EmptyBox()
		for _, p := range n.acts[k].track.Path.Sample(4) {
			way = way.Add(p)
		}
		for _, b := range boxes {
			if way.Min.X-1 < b.Max.X && way.Max.X+1 > b.Min.X && way.Min.Z-1 < b.Max.Z && way.Max.Z+1 > b.Min.Z {
				return true
			}
		}
	}
	return false
}

// still tells where nodes are that never move, nor what they hang on; nil for others.
func (s *Scene) still() []*geom.Mat4 {
	s.stillAt, s.stillIs = resize(s.stillAt, len(s.Nodes)), resize(s.stillIs, len(s.Nodes))
	for i := range s.Nodes { // what others hang on comes first
		n := &s.Nodes[i]
		s.stillIs[i] = nil
		if !n.stays() || n.parent >= 0 && s.stillIs[n.parent] == nil {
			continue
		}
		m, _, _ := s.local(n, 0)
		if n.parent >= 0 {
			m = s.stillAt[n.parent].Mul(&m)
		}
		s.stillAt[i] = m
		s.stillIs[i] = &s.stillAt[i]
	}
	return s.stillIs
}

// stays tells whether a node never moves on what it hangs on.
func (n *Node) stays() bool {
	if n.path != nil || len(n.rides) > 0 || n.Entity.Cast != nil || n.joint >= 0 {
		return false
	}
	for c := posX; c <= roll; c++ {
		if n.channels[c].Len() > 0 {
			return false
		}
	}
	return true
}

// floor returns the height of the set under a place, not more than a step above
// or below it, or the place's own.
func (s *Scene) floor(at r3.Vec) float64 {
	from := r3.Vec{X: at.X, Y: at.Y + stepHeight, Z: at.Z}
	best := 2 * stepHeight
	found := false
	for i := range s.solids {
		b := &s.solids[i]
		if at.X < b.box.Min.X || at.X > b.box.Max.X || at.Z < b.box.Min.Z || at.Z > b.box.Max.Z || b.box.Min.Y > from.Y || b.box.Max.Y < from.Y-best {
			continue
		}
		ray := b.inverse.Ray(geom.Ray{From: from, Dir: r3.Vec{Y: -1}})
		if d, _, ok := b.mesh.Tree().Hit(ray, best); ok {
			best, found = d, true
		}
	}
	if !found {
		return at.Y
	}
	return from.Y - best
}

// Struck is where a ray meets the scene.
type Struck struct {
	Node     int
	Instance int
	Distance float64
	At       r3.Vec
	Normal   r3.Vec // unit, on the side that the ray comes from
}

// Strike returns what a ray meets first at an evaluated state, within a
// distance in units of its direction. Skip leaves nodes out; it may be nil.
func (s *Scene) Strike(r geom.Ray, st *State, limit float64, skip func(node int) bool) (Struck, bool) {
	out := Struck{Node: -1, Distance: limit}
	inv := r3.Vec{X: 1 / r.Dir.X, Y: 1 / r.Dir.Y, Z: 1 / r.Dir.Z}
	for i := range s.Instances {
		in := &s.Instances[i]
		if skip != nil && skip(in.Node) {
			continue
		}
		box := s.Meshes[in.Mesh].Mesh.Bounds.Transform(&st.Instances[i])
		if entered(box, r.From, inv, out.Distance) {
			s.hit(i, r, st, &out)
		}
	}
	return out, out.Node >= 0
}

// Blocked counts the ways from a place, as far as a limit in their lengths, that something
// is in which is not seen through; skip leaves out nodes, and may be nil.
func (s *Scene) Blocked(from r3.Vec, ways []r3.Vec, st *State, limit float64, skip func(node int) bool) (n int) {
	open := make([]geom.Ray, len(ways))
	for i, way := range ways {
		open[i] = geom.Ray{From: from, Dir: way}
	}
	for i := range s.Instances {
		in := &s.Instances[i]
		if skip != nil && skip(in.Node) {
			continue
		}
		mesh := s.Meshes[in.Mesh].Mesh
		if mesh.Sheer.Blend && mesh.Clear() {
			continue
		}
		box := mesh.Bounds.Transform(&st.Instances[i])
		open = slices.DeleteFunc(open, func(r geom.Ray) bool {
			out := Struck{Node: -1, Distance: limit}
			if entered(box, from, r3.Vec{X: 1 / r.Dir.X, Y: 1 / r.Dir.Y, Z: 1 / r.Dir.Z}, limit) {
				s.hit(i, r, st, &out)
			}
			return out.Node >= 0
		})
	}
	return len(ways) - len(open)
}

// hit takes what a ray meets of an instance, if that is nearer than what it met before.
func (s *Scene) hit(i int, r geom.Ray, st *State, out *Struck) {
	in := &s.Instances[i]
	mesh := s.Meshes[in.Mesh].Mesh
	world := &st.Instances[i]
	inverse := world.Inverse()
	d, tri, ok := mesh.Tree().Hit(inverse.Ray(r), out.Distance)
	if !ok {
		return
	}
	n := world.Dir(mesh.Tree().Normal(tri))
	n = r3.Scale(1/max(1e-12, r3.Norm(n)), n)
	if r3.Dot(n, r.Dir) > 0 {
		n = r3.Scale(-1, n)
	}
	*out = Struck{in.Node, i, d, r.At(d), n}
}

// entered tells whether a ray with the inverse inv of its direction enters a box
// before a distance.
func entered(b geom.Box, from, inv r3.Vec, limit float64) bool {
	t0, t1 := 0.0, limit
	for _, c := range [3][4]float64{{b.Min.X, b.Max.X, from.X, inv.X}, {b.Min.Y, b.Max.Y, from.Y, inv.Y}, {b.Min.Z, b.Max.Z, from.Z, inv.Z}} {
		p, q := (c[0]-c[2])*c[3], (c[1]-c[2])*c[3]
		if p > q {
			p, q = q, p
		}
		if p > t0 {
			t0 = p
		}
		if q < t1 {
			t1 = q
		}
	}
	return t0 <= t1 || math.IsNaN(t0) || math.IsNaN(t1)
}

// BaseOf returns the world matrix of what a node hangs on or is carried by at
// an evaluated state.
func (s *Scene) BaseOf(i int, st *State) geom.Mat4 {
	n := &s.Nodes[i]
	if r := n.riding(st.Frame); r != nil {
		if st.Frame >= r.out {
			return geom.Identity
		}
		if r.joint >= 0 {
			return s.jointWorld(st, r.on, r.joint)
		}
		return st.Worlds[r.on]
	}
	return s.hung(n, geom.Identity, st)
}

// JointOf returns the world matrix of a joint of a cast member at an evaluated
// state.
func (s *Scene) JointOf(i int, j kit.Joint, st *State) geom.Mat4 { return s.jointWorld(st, i, int(j)) }

// Carrier returns the node that carries another at a frame by what it does, or
// −1.
func (s *Scene) Carrier(i int, frame float64) int {
	if r := s.Nodes[i].riding(frame); r != nil && frame < r.out {
		return r.on
	}
	return -1
}

// Within tells whether a node hangs on one of others.
func (s *Scene) Within(i int, others []string) bool {
	for i = s.Nodes[i].parent; i >= 0; i = s.Nodes[i].parent {
		if slices.Contains(others, s.Nodes[i].ID) {
			return true
		}
	}
	return false
}

// Among tells for each node whether it is one of some, or hangs on one.
func (s *Scene) Among(some []string) []bool {
	out := make([]bool, len(s.Nodes))
	for _, id := range some {
		if i := s.Index(id); i >= 0 {
			out[i] = true
		}
	}
	for i := range s.Nodes { // parents come first
		if p := s.Nodes[i].parent; p >= 0 && out[p] {
			out[i] = true
		}
	}
	return out
}

// Body returns the axes of a node, rigid and in the world, and the box in them of its shape
// and of all that hangs on it at an evaluated state, empty when there is none.
func (s *Scene) Body(node int, st *State) (axes geom.Mat4, box geom.Box) {
	box = geom.EmptyBox()
	axes = rigid(st.Worlds[node])
	back := axes.Inverse()
	of := []string{s.Nodes[node].ID}
	for i := range s.Instances {
		if n := s.Instances[i].Node; n == node || s.Within(n, of) {
			m := back.Mul(&st.Instances[i])
			b := s.Meshes[s.Instances[i].Mesh].Mesh.Bounds.Transform(&m)
			box = box.Add(b.Min).Add(b.Max)
		}
	}
	return axes, box
}

// Extents returns for each node the box in the world of its shape and of all that
// hangs on it at an evaluated state, empty when there is none, in buf if it is large
// enough.
func (s *Scene) Extents(st *State, buf []geom.Box) []geom.Box {
	buf = s.Boxes(st, buf)
	for i, b := range slices.Backward(buf) {
		if p := s.Nodes[i].parent; p >= 0 && !b.Empty() {
			buf[p] = buf[p].Add(b.Min).Add(b.Max)
		}
	}
	return buf
}

// Boxes returns for each node the box in the world of its own shape at an
// evaluated state, empty for what has none, in buf if it is large enough.
func (s *Scene) Boxes(st *State, buf []geom.Box) []geom.Box {
	buf = resize(buf, len(s.Nodes))
	for i := range buf {
		buf[i] = geom.EmptyBox()
	}
	for i := range s.Instances {
		in := &s.Instances[i]
		w := s.Meshes[in.Mesh].Mesh.Bounds.Transform(&st.Instances[i])
		buf[in.Node] = buf[in.Node].Add(w.Min).Add(w.Max)
	}
	return buf
}

// Extent returns the box in the world of a node and all that hangs on it at an
// evaluated state; what has no shape is a point.
func (s *Scene) Extent(node int, st *State) geom.Box {
	out := geom.EmptyBox()
	if node < 0 {
		return out
	}
	of := []string{s.Nodes[node].ID}
	for i := range s.Instances {
		if n := s.Instances[i].Node; n == node || s.Within(n, of) {
			w := s.Meshes[s.Instances[i].Mesh].Mesh.Bounds.Transform(&st.Instances[i])
			out = out.Add(w.Min).Add(w.Max)
		}
	}
	if out.Empty() {
		out = out.Add(st.Worlds[node].Origin())
	}
	return out
}
