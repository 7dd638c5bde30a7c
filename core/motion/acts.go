package motion

import (
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// act is one compiled action.
type act struct {
	do       scene.Deed
	in, out  float64
	track    kit.Track
	gait     *kit.Gait
	ease     [2]float64 // frames
	face     int        // node index or −1
	previous int        // index of the walk that decides the place, or −1
	seat     float64    // metres
	turn     float64    // degrees
	hand     int        // 0 left, 1 right
	on, with int        // node indices or −1
	at       r3.Vec     // a place in the world
	placed   bool       // at is given
	met      r3.Vec     // where the hand takes, gives or puts; see settle
	from     float64    // the body's pan when it begins; see settle
	first    float64    // the pan toward what it faces when it begins
	faces    bool       // that there is such a pan
	clip     int        // of an imported model, or −1
	seed     float64
}

// Times in seconds.
const (
	turnTime  = 0.6  // a turn from one deed to the next
	settleIn  = 0.7  // from one posture to the next
	gestureIn = 0.35 // into and out of a gesture
	lookAgain = 0.9  // how often somebody who stands turns after what they face
)

// easeFrames is how long somebody takes to set off and to stop, unless said.
const easeFrames = 12

// deeds compiles the actions and spoken gestures of people, nil for all.
func (s *Scene) deeds(doc *scene.Document, people map[string]bool) {
	of := map[int][]act{}
	wanted := func(id string) (int, bool) {
		i, ok := s.index[id]
		return i, ok && s.Nodes[i].Entity.Cast != nil && (people == nil || people[id])
	}
	for i := range s.Nodes {
		if people == nil || people[s.Nodes[i].ID] {
			s.Nodes[i].acts, s.Nodes[i].gestures, s.Nodes[i].speech = nil, nil, nil
		}
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Actions)) {
		a := doc.Actions[id]
		if i, ok := wanted(a.Cast); ok {
			x := s.act(id, a, s.Nodes[i].Entity.Cast.Height)
			x.clip = clipFor(s.Nodes[i].model, a)
			of[i] = append(of[i], x)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Lines)) {
		l := doc.Lines[id]
		i, ok := wanted(l.Cast)
		if !ok {
			continue
		}
		s.Nodes[i].speech = append(s.Nodes[i].speech, newSpeech(l))
		if l.Gesture {
			of[i] = append(of[i], act{do: scene.Talk, in: float64(l.In), out: float64(l.Out), face: -1, on: -1, with: -1, seed: chance(id)})
		}
	}
	for i, list := range of {
		n := &s.Nodes[i]
		sort.SliceStable(list, func(a, b int) bool { return list[a].in < list[b].in })
		last := -1
		for _, x := range list {
			switch {
			case x.do.Gesture():
				n.gestures = append(n.gestures, x)
				continue
			case x.do.Goes():
				if x.gait == nil {
					continue
				}
				last = len(n.acts)
			case x.do == scene.Ride:
				last = -1
			}
			x.previous = last
			n.acts = append(n.acts, x)
		}
	}
}

// clipFor returns the clip of an imported model that an action plays: the one it
// names, or one that is called like the deed, or −1.
func clipFor(b *kit.Bundle, a scene.Action) int {
	if b == nil {
		return -1
	}
	for i, c := range b.Clips {
		if a.Do == scene.PlayClip && c.Name == a.Clip || a.Do != scene.PlayClip && strings.EqualFold(c.Name, string(a.Do)) {
			return i
		}
	}
	return -1
}

func (s *Scene) act(id string, a scene.Action, height float64) act {
	node := func(id string) int {
		if i, ok := s.index[id]; ok && id != "" {
			return i
		}
		return -1
	}
	x := act{
		do: a.Do, in: float64(a.In), out: float64(a.Out), face: node(a.Face), on: node(a.On), with: node(a.With),
		seat: a.Seat, turn: a.Turn, hand: 1, seed: chance(id), ease: [2]float64{easeFrames, easeFrames},
	}
	if a.Hand == "left" {
		x.hand = 0
	}
	if a.At != nil {
		x.at, x.placed = a.At.R3(), true
	}
	if a.Ease != nil {
		x.ease = *a.Ease
	}
	if p := s.paths[a.Path]; a.Do.Goes() && p != nil {
		x.track = Stretch(p, a)
		pace := kit.Walking
		if a.Do == scene.Run {
			pace = kit.Running
		}
		x.gait = kit.NewGait(x.track, pace, height, (x.out-x.in)/s.rate, s.floor)
	}
	return x
}

// Stretch returns the part of its path that a walk or run covers.
func Stretch(p *curve.Path, a scene.Action) kit.Track {
	from, to := a.Stretch(p.Length())
	return kit.Track{Path: p, From: from, To: to}
}

// stand is where a cast member is before its body is turned.
type stand struct {
	ground   r3.Vec
	pan      float64
	gait     *kit.Gait
	distance float64
}

// acting returns the index of the action that runs at a frame or was the last
// to run, −1 before the first.
func (n *Node) acting(frame float64) int {
	for k := range n.acts {
		if n.acts[k].in > frame {
			return k - 1
		}
	}
	return len(n.acts) - 1
}

// standing returns where a cast member is at a frame of its action k: on a
// walk, where the last walk ended, or where its node carries it (m).
func (n *Node) standing(k int, frame float64, m *geom.Mat4) stand {
	if k < 0 || n.acts[k].previous < 0 {
		p, _, _ := m.Angles()
		return stand{ground: m.Origin(), pan: p}
	}
	w := &n.acts[n.acts[k].previous]
	d := walked(w, frame)
	at, dir := w.track.Heading(d)
	at.Y = w.gait.Floor(d)
	p, _ := geom.Toward(r3.Vec{X: dir.X, Z: dir.Z})
	return stand{at, p, w.gait, d}
}

// walked returns the metres gone of a walk or run: an even speed, reached and
// left with even acceleration over the frames of its ease.
func walked(w *act, frame float64) float64 {
	t := (frame - w.in) / (w.out - w.in)
	if t <= 0 {
		return 0
	}
	if t >= 1 {
		return w.track.Length()
	}
	a, b := w.ease[0]/(w.out-w.in), w.ease[1]/(w.out-w.in) // shares of the time
	if a+b > 1 {
		a, b = a/(a+b), b/(a+b)
	}
	v := 1 / (1 - (a+b)/2)
	switch {
	case t < a:
		t = v * t * t / (2 * a)
	case t > 1-b:
		u := 1 - t
		t = 1 - v*u*u/(2*b)
	default:
		t = v * (t - a/2)
	}
	return t * w.track.Length()
}

func smooth(t float64) float64 {
	t = max(0, min(1, t))
	return t * t * (3 - 2*t)
}

// turning is a body's turn from one pan to another and how far it is, 0 to 1.
type turning struct{ from, to, t float64 }

func (t turning) pan() float64 { return t.from + (t.to-t.from)*smooth(t.t) }

// turning returns how a body turns in its action k at a frame.
func (s *Scene) turning(n *Node, k int, frame float64, m *geom.Mat4) turning {
	if k < 0 {
		return turning{to: n.standing(k, frame, m).pan, t: 1}.still()
	}
	a := &n.acts[k]
	into := func(to, seconds float64) turning {
		return turning{a.from, curve.Unwrap(a.from, to), (frame - a.in) / (seconds * s.rate)}
	}
	switch {
	case a.do == scene.Ride:
		return turning{to: n.standing(k, frame, m).pan, t: 1}.still()
	case a.do.Goes():
		return into(n.standing(k, frame, m).pan, turnTime)
	case a.do == scene.Turn:
		return into(a.turn, max(0.1, (a.out-a.in)/s.rate))
	case a.do == scene.Stand && a.faces:
		return s.following(n, k, frame, m)
	}
	return turning{to: a.from, t: 1}.still()
}

func (t turning) still() turning { t.from = t.to; return t }

// following turns somebody who stands after what they face. They turn in steps
// of twenty degrees and set their feet anew for each, so that feet never slide;
// the head does the rest.
func (s *Scene) following(n *Node, k int, frame float64, m *geom.Mat4) turning {
	const quantum = 20
	a := &n.acts[k]
	step := lookAgain * s.rate
	cell := math.Floor((frame - a.in) / step)
	first := curve.Unwrap(a.from, a.first)
	if cell <= 0 {
		return turning{a.from, first, (frame - a.in) / (turnTime * s.rate)}
	}
	held := func(cell float64) float64 {
		p, ok := s.toward(n, k, a.in+cell*step, m)
		if !ok || cell == 0 {
			return first
		}
		return first + quantum*math.Round((curve.Unwrap(first, p)-first)/quantum)
	}
	from := held(cell - 1)
	return turning{from, curve.Unwrap(from, held(cell)), (frame - a.in - cell*step) / (turnTime * s.rate)}
}

// toward returns the pan from where somebody stands in their action k to what it
// faces, at a frame.
func (s *Scene) toward(n *Node, k int, frame float64, m *geom.Mat4) (float64, bool) {
	d := r3.Sub(s.lookPoint(n.acts[k].face, frame), n.standing(k, frame, m).ground)
	if math.Hypot(d.X, d.Z) < 1e-6 {
		return 0, false
	}
	p, _ := geom.Toward(r3.Vec{X: d.X, Z: d.Z})
	return p, true
}

// beginnings works out how each deed finds the body turned, and turns the feet
// of a walk's first step accordingly.
func (s *Scene) beginnings() {
	for i := range s.Nodes {
		n := &s.Nodes[i]
		for k := range n.acts {
			a := &n.acts[k]
			m := s.plainly(i, a.in)
			a.from = s.turning(n, k-1, a.in, &m).pan()
			if a.face >= 0 {
				a.first, a.faces = s.toward(n, k, a.in, &m)
			}
			if a.gait != nil {
				p := geom.RotateY(a.from)
				a.gait.StartFacing(p.Dir(r3.Vec{Z: -1}))
			}
		}
	}
}

// cast poses a cast member whose node is at m.
func (s *Scene) cast(i int, frame float64, m geom.Mat4, st *State) {
	n := &s.Nodes[i]
	h := n.Entity.Cast.Height
	k := n.acting(frame)
	here := n.standing(k, frame, &m)
	turn := s.turning(n, k, frame, &m)
	pose := kit.Stance{Ground: here.ground, Pan: turn.pan(), Height: h, Skull: n.skull, Stoop: n.stoop, Mouth: n.says(frame), Seconds: frame/s.rate + 9*n.seed}
	if k >= 0 && n.acts[k].do.Goes() && frame < n.acts[k].out {
		pose.Gait, pose.Distance = here.gait, here.distance
	}
	s.feet(&pose, turn)
	st.Worlds[i] = geom.RotateY(pose.Pan).At(pose.Ground)
	st.eyes[i] = st.Worlds[i].Point(n.center)
	if n.Hidden || n.Entity.Model != "" {
		return
	}
	pose.Posture = s.posture(n, k, frame)
	if k >= 0 {
		if before := s.posture(n, k-1, frame); before != pose.Posture {
			pose.Posture = before.Mix(&pose.Posture, smooth((frame-n.acts[k].in)/(settleIn*s.rate)))
		}
		if a := &n.acts[k]; a.face >= 0 {
			look := pose.Posture
			s.lookAt(&pose, &look, s.lookPoint(a.face, frame))
			pose.Posture = pose.Mix(&look, smooth((frame-a.in)/(turnTime*s.rate)))
		}
	}
	for g := range n.gestures {
		a := &n.gestures[g]
		if a.in > frame {
			break
		}
		if frame < a.out {
			s.gesture(n, a, frame, &pose)
		}
	}
	st.eyes[i] = st.Worlds[i].Point(bowed(n.center, &pose))
	kit.Pose(&pose, &st.joints)
	copy(st.Instances[n.first:n.first+int(kit.Joints)], st.joints[:])
}

// bowed returns where the eyes are, in the body's space, of somebody whose eyes
// are at a point when they stand straight. It leaves the ups and downs of a walk
// out, so that a camera that aims at a walker does not nod.
func bowed(eyes r3.Vec, p *kit.Stance) r3.Vec {
	s, c := math.Sincos(geom.Radians(p.Lean))
	above := eyes.Y - (kit.HipHeight+kit.WaistHeight)*p.Height // of the waist
	return r3.Vec{X: eyes.X + p.Aside, Y: eyes.Y - p.Sink - above*(1-c), Z: eyes.Z + p.Back - above*s}
}

// feet sets the feet of somebody who stands: in a turn one is lifted and set
// down after the other.
func (s *Scene) feet(p *kit.Stance, t turning) {
	by := t.to - t.from
	for i := range p.FootPan {
		order := float64(i)
		if by < 0 {
			order = 1 - order // the foot on the side of the turn goes first
		}
		u := max(0, min(1, 2*t.t-order))
		p.FootPan[i] = t.from + by*smooth(u)
		if math.Abs(by) > 4 {
			p.FootLift[i] = 0.045 * p.Height * math.Sin(math.Pi*u)
		}
	}
}

// lookAt turns a head toward a point, and the chest after it when the head
// alone does not get there.
func (s *Scene) lookAt(p *kit.Stance, look *kit.Posture, at r3.Vec) {
	eye := r3.Add(p.Ground, r3.Vec{Y: eyes*p.Height - look.Sink})
	pan, up := geom.Toward(r3.Sub(at, eye))
	side := math.Remainder(pan-p.Pan, 360)
	look.LookPan = max(-80, min(80, side))
	look.Twist = max(-25, min(25, side-max(-60, min(60, side))))
	look.LookTilt = max(-40, min(40, up))
	look.Eyes = [2]float64{max(-28, min(28, side-look.LookPan)), max(-18, min(18, up-look.LookTilt))}
}

// lookPoint returns the point of a node that others look at, computed from the
// node's own motion, so that two people can face each other without a circle.
// Parents and carriers are followed; joints are not.
func (s *Scene) lookPoint(i int, frame float64) r3.Vec {
	m := s.plainly(i, frame)
	n := &s.Nodes[i]
	if n.Entity.Cast != nil {
		at := n.standing(n.acting(frame), frame, &m)
		return r3.Add(at.ground, n.center)
	}
	return m.Point(n.center)
}

// plainly returns where a node is by its own motion and that of what carries
// it, leaving joints out.
func (s *Scene) plainly(i int, frame float64) geom.Mat4 {
	n := &s.Nodes[i]
	if r := n.riding(frame); r != nil {
		if frame >= r.out {
			return r.rest
		}
		base := s.plainly(r.on, frame)
		base = s.bodily(r.on, frame, base)
		pan, _, _ := base.Angles()
		if r.hang { // about where a hand is
			base = base.At(base.Point(r3.Vec{X: 0.2, Y: 0.45 * s.Nodes[r.on].Entity.Cast.Height}))
		}
		return r.carried(&base, pan)
	}
	m, _, _ := s.local(n, frame)
	if n.parent < 0 {
		return m
	}
	base := s.plainly(n.parent, frame)
	base = s.bodily(n.parent, frame, base)
	return base.Mul(&m)
}

// bodily turns a cast member's node into where its body stands.
func (s *Scene) bodily(i int, frame float64, m geom.Mat4) geom.Mat4 {
	n := &s.Nodes[i]
	if n.Entity.Cast == nil {
		return m
	}
	at := n.standing(n.acting(frame), frame, &m)
	return geom.RotateY(at.pan).At(at.ground)
}
