package motion

import (
	"cmp"
	"maps"
	"slices"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// ride is a stretch of story time in which one node is carried by another.
type ride struct {
	in, out float64
	on      int
	joint   int       // kit.Joint or −1
	keep    bool      // it keeps the place relative to its carrier that it has at in
	hang    bool      // it hangs upright from a hand by its grip
	offset  geom.Mat4 // in the carrier's space
	palm    r3.Vec    // in the hand's space
	rest    geom.Mat4 // where it is left at out
	lay     *r3.Vec   // where it is put down
	needs   []int     // the nodes to evaluate before the carrier, in order
}

// carried returns the world matrix of what rides on a base: the carrier or its
// joint. What hangs from a hand hangs straight down, turned as the body (pan, in
// degrees) is.
func (r *ride) carried(base *geom.Mat4, pan float64) geom.Mat4 {
	if !r.hang {
		return base.Mul(&r.offset)
	}
	m := geom.RotateY(pan).At(base.Point(r.palm))
	return m.Mul(&r.offset)
}

// riding returns the ride that decides where a node is at a frame: the one that
// runs or the last that ended, nil before the first.
func (n *Node) riding(frame float64) *ride {
	for k := len(n.rides) - 1; k >= 0; k-- {
		if n.rides[k].in <= frame {
			return &n.rides[k]
		}
	}
	return nil
}

// compileRides gathers what carries what, from rides and from hands that take,
// give and put.
func (s *Scene) compileRides(doc *scene.Document) {
	type moment struct {
		at float64
		id string
		a  scene.Action
	}
	held := map[int][]moment{}
	for _, id := range slices.Sorted(maps.Keys(doc.Actions)) {
		a := doc.Actions[id]
		switch {
		case a.Do == scene.Ride && a.On != "":
			i := s.index[a.Cast]
			r := ride{in: float64(a.In), out: float64(a.Out), on: s.index[a.On], joint: -1, keep: true}
			if j, ok := kit.JointByName(a.Joint); ok && s.Nodes[r.on].Entity.Cast != nil {
				r.joint = int(j)
			}
			s.Nodes[i].rides = append(s.Nodes[i].rides, r)
		case a.Do == scene.Take || a.Do == scene.Give || a.Do == scene.Put:
			held[s.index[a.On]] = append(held[s.index[a.On]], moment{a.Contact(), id, a})
		}
	}
	for i, moments := range held {
		slices.SortStableFunc(moments, func(a, b moment) int { return cmp.Compare(a.at, b.at) })
		for k, m := range moments {
			holder := m.a.Cast
			switch m.a.Do {
			case scene.Put:
				continue
			case scene.Give:
				holder = m.a.With
			}
			r := ride{in: m.at, out: scene.MaxFrame, on: s.index[holder], joint: int(kit.HandRight), hang: true}
			// The hand of the one who takes may be named by their own deed at the
			// same time.
			left := m.a.Do == scene.Take && m.a.Hand == "left"
			for _, o := range moments {
				left = left || o.at == m.at && o.a.Cast == holder && o.a.Hand == "left"
			}
			if left {
				r.joint = int(kit.HandLeft)
			}
			if k+1 < len(moments) {
				r.out = moments[k+1].at
				if next := moments[k+1].a; next.Do == scene.Put && next.At != nil {
					at := next.At.R3()
					r.lay = &at
				}
			}
			if r.out <= r.in {
				continue
			}
			n := &s.Nodes[i]
			r.palm = kit.Palm(s.Nodes[r.on].Entity.Cast.Height)
			turn := geom.RotateY(90)
			r.offset = turn.At(r3.Scale(-1, turn.Dir(n.grip)))
			n.rides = append(n.rides, r)
		}
	}
	depends := doc.Dependencies()
	for i := range s.Nodes {
		n := &s.Nodes[i]
		slices.SortStableFunc(n.rides, func(a, b ride) int { return cmp.Compare(a.in, b.in) })
		for k := range n.rides {
			n.rides[k].needs = s.needs(depends, i)
			if k > 0 { // a later ride ends the one before it
				n.rides[k-1].out = min(n.rides[k-1].out, n.rides[k].in)
			}
		}
	}
}

// needs returns a node and all that decides where it is, in order.
func (s *Scene) needs(depends map[string][]string, node int) []int {
	seen := map[int]bool{node: true}
	queue := []int{node}
	for len(queue) > 0 {
		i := queue[0]
		queue = queue[1:]
		for _, id := range depends[s.Nodes[i].ID] {
			if j, ok := s.index[id]; ok && !seen[j] {
				seen[j] = true
				queue = append(queue, j)
			}
		}
	}
	return slices.Sorted(maps.Keys(seen))
}

// settle works out beforehand, in the order of time, what stays fixed while the
// story runs: where things are left, where hands meet, where feet stand before
// a walk, and where shadows are drawn.
func (s *Scene) settle() {
	type event struct {
		at   float64
		kind int // 0 a hand's goal, 1 a ride begins, 2 it ends
		node int
		k    int
	}
	var events []event
	for i := range s.Nodes {
		n := &s.Nodes[i]
		for k := range n.rides {
			events = append(events, event{n.rides[k].in, 1, i, k}, event{n.rides[k].out, 2, i, k})
		}
		for k := range n.gestures {
			if a := &n.gestures[k]; a.on >= 0 {
				events = append(events, event{(a.in + a.out) / 2, 0, i, k})
			}
		}
	}
	s.beginnings()
	slices.SortStableFunc(events, func(a, b event) int {
		if c := cmp.Compare(a.at, b.at); c != 0 {
			return c
		}
		return a.kind - b.kind
	})
	for _, e := range events {
		n := &s.Nodes[e.node]
		if e.kind == 0 {
			s.meet(n, &n.gestures[e.k], e.at-1e-3) // before anything changes hands
			continue
		}
		r := &n.rides[e.k]
		if e.kind == 1 && r.keep {
			before := s.worldAt(e.node, r, e.k-1, e.at)
			if n.Entity.Cast != nil { // from where their feet are, which deeds have moved
				before = s.bodily(e.node, e.at-1e-3, before)
			}
			base := s.base(r)
			inverse := base.Inverse()
			r.offset = inverse.Mul(&before)
		}
		if e.kind == 2 && r.out < scene.MaxFrame {
			r.rest = s.worldAt(e.node, r, e.k, e.at)
			if r.lay != nil {
				p, _, _ := r.rest.Angles()
				r.rest = geom.RotateY(p).At(*r.lay)
			}
		}
	}
	if len(events) > 0 { // what is carried may have come to lie elsewhere
		s.beginnings()
	}
	s.findStage()
}

// base returns where the carrier of a ride is in the scratch state.
func (s *Scene) base(r *ride) geom.Mat4 {
	if r.joint >= 0 {
		return s.jointWorld(&s.scratch, r.on, r.joint)
	}
	return s.scratch.Worlds[r.on]
}

// worldAt evaluates a node and its carriers at a frame into the scratch state
// and returns where the node is by its ride k, or by itself for k < 0.
func (s *Scene) worldAt(node int, r *ride, k int, frame float64) geom.Mat4 {
	s.ready(&s.scratch)
	for _, i := range r.needs {
		if i != node {
			s.node(i, frame, &s.scratch)
		}
	}
	n := &s.Nodes[node]
	if k >= 0 {
		r := &n.rides[k]
		if r.out < frame {
			return r.rest
		}
		base := s.base(r)
		pan, _, _ := s.scratch.Worlds[r.on].Angles()
		return r.carried(&base, pan)
	}
	m, _, _ := s.local(n, frame)
	return s.hung(n, m, &s.scratch)
}

// meet finds where a hand goes to take, give or put a thing: between two people
// who hand it over, at its own grip, or where it is to lie.
func (s *Scene) meet(n *Node, a *act, frame float64) {
	thing := &s.Nodes[a.on]
	switch {
	case a.with >= 0:
		p, q := s.lookPoint(s.index[n.ID], frame), s.lookPoint(a.with, frame)
		a.met = r3.Scale(0.5, r3.Add(p, q))
		height := (n.Entity.Cast.Height + s.Nodes[a.with].Entity.Cast.Height) / 2
		a.met.Y += (0.58 - eyes) * height
	case a.do == scene.Put && a.placed:
		a.met = r3.Add(a.at, r3.Vec{Y: thing.grip.Y})
	case a.do == scene.Put:
		m := s.plainly(s.index[n.ID], frame)
		m = s.bodily(s.index[n.ID], frame, m)
		a.met = m.Point(r3.Vec{X: 0.12, Y: 0.3, Z: -0.35 * n.Entity.Cast.Height})
	default:
		m := s.plainly(a.on, frame)
		a.met = m.Point(thing.grip)
	}
}
