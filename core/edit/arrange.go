package edit

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"proscen/core/geom"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

var errNothing = errors.New("nothing is selected")

func unlocked(n scene.Node) error {
	if n.Locked {
		return fmt.Errorf("%s is locked; unlock it first", n.Name)
	}
	return nil
}

// free returns the nodes named, or an error when one is gone or locked by
// itself or by a group that holds it.
func (d *Draft) free(ids []string) error {
	if len(ids) == 0 {
		return errNothing
	}
	for _, id := range ids {
		n, ok := d.Doc.Nodes[id]
		if !ok {
			return fmt.Errorf("it is not there any more")
		}
		for at := n; ; {
			if err := unlocked(at); err != nil {
				return err
			}
			up, ok := d.Doc.Nodes[at.Parent]
			if !ok || up.Kind != scene.KindGroup {
				break
			}
			at = up
		}
	}
	return nil
}

// tops leaves out nodes that hang on others of the list: those move them along.
func (d *Draft) tops(ids []string) []string {
	var out []string
	chosen, taken := among(ids), make(map[string]bool, len(ids))
	for _, id := range ids {
		inside := false
		for at := d.Doc.Nodes[id].Parent; at != "" && !inside; at = d.Doc.Nodes[at].Parent {
			inside = chosen[at]
		}
		if !inside && !taken[id] {
			taken[id] = true
			out = append(out, id)
		}
	}
	return out
}

// several names nodes for a label.
func (d *Draft) several(verb string, ids []string) string {
	if len(ids) == 1 {
		return verb + " " + d.Doc.Nodes[ids[0]].Name
	}
	return fmt.Sprintf("%s %d things", verb, len(ids))
}

type moveArgs struct {
	IDs   []string   `json:"ids"`
	Frame float64    `json:"frame,omitempty"`
	By    scene.Vec  `json:"by,omitempty"`    // metres in the world
	Axis  scene.Vec  `json:"axis,omitempty"`  // of a turn, in the world
	Angle float64    `json:"angle,omitempty"` // degrees, counter-clockwise seen against the axis
	Scale float64    `json:"scale,omitempty"` // 0 for 1
	Pivot *scene.Vec `json:"pivot,omitempty"` // of turn and scale; each node's own origin when not given
	Key   bool       `json:"key,omitempty"`
}

// move moves, turns and scales nodes in the world; see write for what happens
// to keys. Points of a path that carries a node stay: the node keeps an offset.
func move(d *Draft, a moveArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	if a.Scale == 0 {
		a.Scale = 1
	}
	if a.Scale < 0 {
		return "", fmt.Errorf("the scale is %g; it must be more than 0", a.Scale)
	}
	turn := geom.Identity
	if a.Angle != 0 {
		if r3.Norm2(a.Axis.R3()) < 1e-12 {
			return "", fmt.Errorf("a turn needs an axis")
		}
		turn = geom.AxisTurn(a.Angle, a.Axis.R3())
	}
	top := d.tops(a.IDs)
	for _, id := range top {
		w := d.Stage.World(id, a.Frame)
		at := w.Origin()
		to := at
		if a.Pivot != nil {
			p := a.Pivot.R3()
			to = r3.Add(p, turn.Dir(r3.Scale(a.Scale, r3.Sub(at, p))))
		}
		to = r3.Add(to, a.By.R3())
		if err := d.shift(id, a.Frame, r3.Sub(to, at), a.Key); err != nil {
			return "", err
		}
		if a.Angle != 0 {
			if err := d.turn(id, a.Frame, &w, &turn, a.Key); err != nil {
				return "", err
			}
		}
		if n := d.Doc.Nodes[id]; a.Scale != 1 && n.Camera == nil && n.Lamp == nil {
			scaled(d, id, a.Scale)
		}
	}
	verb := "move"
	switch {
	case a.Angle != 0:
		verb = "turn"
	case a.Scale != 1:
		verb = "scale"
	}
	return d.several(verb, top), nil
}

func scaled(d *Draft, id string, by float64) {
	n := d.Doc.Nodes[id]
	if n.Cast != nil {
		c := *n.Cast
		c.Height = max(0.3, min(4, c.Height*by))
		n.Cast = &c
	} else {
		if n.Scale == 0 {
			n.Scale = 1
		}
		n.Scale = max(1e-3, min(1e3, n.Scale*by))
	}
	d.SetNode(id, n)
}

// shift moves a node by a way in the world.
func (d *Draft) shift(id string, frame float64, by r3.Vec, key bool) error {
	if by == (r3.Vec{}) {
		return nil
	}
	base := d.Stage.Base(id, frame)
	back := base.Inverse()
	by = back.Dir(by)
	for i, ch := range []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ} {
		if v := [3]float64{by.X, by.Y, by.Z}[i]; math.Abs(v) > 1e-12 {
			if err := d.add(id, ch, frame, v, key); err != nil {
				return err
			}
		}
	}
	return nil
}

// add changes a channel's value at a frame by an amount.
func (d *Draft) add(id string, ch scene.Channel, frame, by float64, key bool) error {
	n := d.Doc.Nodes[id]
	now := *static(&n, ch)
	if _, c := d.Doc.CurveOf(id, ch); len(c.Keys) > 0 {
		now = at(c, frame)
	}
	return write(d, id, ch, frame, tidy(now+by), key)
}

// tidy takes the dust of binary fractions off a figure.
func tidy(v float64) float64 { return math.Round(v*1e9) / 1e9 }

// turn turns a node whose world matrix is w by a turn in the world. A camera
// that aims at something keeps doing so.
func (d *Draft) turn(id string, frame float64, w, turn *geom.Mat4, key bool) error {
	n := d.Doc.Nodes[id]
	if n.Camera != nil && n.Camera.Aim != scene.AimFree {
		return nil
	}
	base := d.Stage.Base(id, frame)
	back := base.Inverse()
	before := back.Mul(w)
	after := turn.Mul(w)
	after = back.Mul(&after)
	p0, t0, r0 := rigid(&before)
	p1, t1, r1 := rigid(&after)
	for i, ch := range []scene.Channel{scene.Pan, scene.Tilt, scene.Roll} {
		by := math.Remainder([3]float64{p1 - p0, t1 - t0, r1 - r0}[i], 360)
		if math.Abs(by) > 1e-9 {
			if err := d.add(id, ch, frame, by, key); err != nil {
				return err
			}
		}
	}
	return nil
}

// rigid returns the angles of a matrix with its scale taken out.
func rigid(m *geom.Mat4) (pan, tilt, roll float64) {
	s := math.Sqrt(m[0]*m[0] + m[4]*m[4] + m[8]*m[8])
	if s < 1e-12 {
		return 0, 0, 0
	}
	u := m.Scaled(1 / s)
	return u.Angles()
}

type arrangeArgs struct {
	IDs   []string `json:"ids"`
	Frame float64  `json:"frame"`
	Axis  int      `json:"axis,omitempty"` // 0 X, 1 Y, 2 Z
	To    string   `json:"to,omitempty"`   // align: least, middle or most
	Key   bool     `json:"key,omitempty"`
}

func along(v r3.Vec, axis int) float64 { return [3]float64{v.X, v.Y, v.Z}[axis] }

func step(axis int, by float64) r3.Vec {
	var v scene.Vec
	v[axis] = by
	return v.R3()
}

// align moves nodes along an axis so that the least, middle or most of their
// extents fall together: those of all of them, or, for the middle, the mean.
func align(d *Draft, a arrangeArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	top := d.tops(a.IDs)
	if len(top) < 2 {
		return "", fmt.Errorf("select at least two things to align")
	}
	if a.Axis < 0 || a.Axis > 2 {
		return "", fmt.Errorf("there is no such axis")
	}
	value := func(b geom.Box) float64 {
		switch a.To {
		case "least":
			return along(b.Min, a.Axis)
		case "most":
			return along(b.Max, a.Axis)
		}
		return along(b.Center(), a.Axis)
	}
	goal, sum := math.NaN(), 0.0
	for _, id := range top {
		v := value(d.Stage.Extent(id, a.Frame))
		sum += v
		if math.IsNaN(goal) || a.To == "least" && v < goal || a.To == "most" && v > goal {
			goal = v
		}
	}
	if a.To != "least" && a.To != "most" {
		goal = sum / float64(len(top))
	}
	for _, id := range top {
		if err := d.shift(id, a.Frame, step(a.Axis, goal-value(d.Stage.Extent(id, a.Frame))), a.Key); err != nil {
			return "", err
		}
	}
	return d.several("align", top), nil
}

// distribute spaces nodes evenly along an axis between the first and the last.
func distribute(d *Draft, a arrangeArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	top := d.tops(a.IDs)
	if len(top) < 3 {
		return "", fmt.Errorf("select at least three things to distribute")
	}
	if a.Axis < 0 || a.Axis > 2 {
		return "", fmt.Errorf("there is no such axis")
	}
	middle := func(id string) float64 { return along(d.Stage.Extent(id, a.Frame).Center(), a.Axis) }
	slices.SortStableFunc(top, func(p, q string) int {
		switch v := middle(p) - middle(q); {
		case v < 0:
			return -1
		case v > 0:
			return 1
		}
		return 0
	})
	first, last := middle(top[0]), middle(top[len(top)-1])
	for i, id := range top {
		goal := first + (last-first)*float64(i)/float64(len(top)-1)
		if err := d.shift(id, a.Frame, step(a.Axis, goal-middle(id)), a.Key); err != nil {
			return "", err
		}
	}
	return d.several("distribute", top), nil
}

type mirrorArgs struct {
	IDs   []string `json:"ids"`
	Frame float64  `json:"frame"`
	Axis  int      `json:"axis,omitempty"`  // 0 X, 2 Z
	About *float64 `json:"about,omitempty"` // metres; the middle of all when not given
}

// mirror moves nodes to the other side of an upright plane across X or Z and
// turns them accordingly. Shapes themselves are not mirrored.
func mirror(d *Draft, a mirrorArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	if a.Axis != 0 && a.Axis != 2 {
		return "", fmt.Errorf("things are mirrored across X or Z")
	}
	top := d.tops(a.IDs)
	all := geom.EmptyBox()
	for _, id := range top {
		b := d.Stage.Extent(id, a.Frame)
		all = all.Add(b.Min).Add(b.Max)
	}
	about := along(all.Center(), a.Axis)
	if a.About != nil {
		about = *a.About
	}
	for _, id := range top {
		w := d.Stage.World(id, a.Frame)
		if err := d.shift(id, a.Frame, step(a.Axis, 2*(about-along(w.Origin(), a.Axis))), false); err != nil {
			return "", err
		}
		// A front (−sin p, −cos p) becomes (sin p, −cos p) across X, so pan −p;
		// across Z it becomes 180 − p.
		p, _, _ := rigid(&w)
		to := -p
		if a.Axis == 2 {
			to = 180 - p
		}
		turn := geom.RotateY(math.Remainder(to-p, 360))
		if err := d.turn(id, a.Frame, &w, &turn, false); err != nil {
			return "", err
		}
	}
	return d.several("mirror", top), nil
}

// dropDown lets nodes down, or lifts them, onto what lies under them.
func dropDown(d *Draft, a arrangeArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	top := d.tops(a.IDs)
	below := d.Stage.Below(a.Frame, top)
	for _, id := range top {
		b := d.Stage.Extent(id, a.Frame)
		c := b.Center()
		c.Y = b.Max.Y + 0.01
		y, ok := below(c)
		if !ok {
			y = 0
		}
		if err := d.shift(id, a.Frame, r3.Vec{Y: y - b.Min.Y}, a.Key); err != nil {
			return "", err
		}
	}
	return d.several("drop", top), nil
}

type attachArgs struct {
	IDs   []string `json:"ids"`
	To    string   `json:"to,omitempty"`
	Joint string   `json:"joint,omitempty"`
	Frame float64  `json:"frame"`
}

// attach hangs nodes on another, or on a joint of a cast member. They keep their
// place in the world at the frame.
func attach(d *Draft, a attachArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	on, ok := d.Doc.Nodes[a.To]
	if !ok {
		return "", fmt.Errorf("choose what to attach to")
	}
	top := d.tops(a.IDs)
	for _, id := range top {
		if id == a.To {
			return "", fmt.Errorf("%s cannot be attached to itself", on.Name)
		}
		if err := hang(d, id, a.To, a.Joint, a.Frame); err != nil {
			return "", err
		}
	}
	return d.several("attach", top) + " to " + on.Name, nil
}

// detach frees nodes from what they hang on. They keep their place in the world
// at the frame.
func detach(d *Draft, a attachArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	loose := 0
	for _, id := range a.IDs {
		if d.Doc.Nodes[id].Parent == "" {
			continue
		}
		loose++
		if err := hang(d, id, "", "", a.Frame); err != nil {
			return "", err
		}
	}
	if loose == 0 {
		return "", fmt.Errorf("it is not attached to anything")
	}
	return d.several("detach", a.IDs), nil
}

// hang gives a node another parent without moving it in the world at a frame.
func hang(d *Draft, id, parent, joint string, frame float64) error {
	n := d.Doc.Nodes[id]
	if n.Parent == parent && n.Joint == joint {
		return nil
	}
	base := geom.Identity
	if parent != "" && d.Stage != nil {
		base = d.Stage.Joint(parent, joint, frame)
	}
	return d.rehang(id, parent, joint, frame, base)
}

// rehang gives a node another parent, whose world matrix is base. The node's
// figures and keys are shifted so that it keeps its place in the world at the
// frame; without a stage they stay as they are.
func (d *Draft) rehang(id, parent, joint string, frame float64, base geom.Mat4) error {
	n := d.Doc.Nodes[id]
	n.Parent, n.Joint = parent, joint
	if d.Stage == nil {
		d.SetNode(id, n)
		return nil
	}
	before := d.Stage.Base(id, frame)
	back := base.Inverse()
	change := back.Mul(&before) // from the old parent's space to the new one's
	local := d.local(id, frame)
	moved := change.Mul(&local)
	d.SetNode(id, n)
	if k := math.Sqrt(change[0]*change[0] + change[4]*change[4] + change[8]*change[8]); math.Abs(k-1) > 1e-9 && n.Camera == nil && n.Lamp == nil {
		scaled(d, id, k)
	}
	p, t, r := rigid(&moved)
	to := moved.Origin()
	for i, ch := range []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ, scene.Pan, scene.Tilt, scene.Roll} {
		if err := write(d, id, ch, frame, [6]float64{to.X, to.Y, to.Z, p, t, r}[i], false); err != nil {
			return err
		}
	}
	return nil
}

// local returns a node's matrix in its parent's space by its own figures and
// keys, leaving out its path.
func (d *Draft) local(id string, frame float64) geom.Mat4 {
	n := d.Doc.Nodes[id]
	value := func(ch scene.Channel) float64 {
		if _, c := d.Doc.CurveOf(id, ch); len(c.Keys) > 0 {
			return at(c, frame)
		}
		return *static(&n, ch)
	}
	m := geom.PanTiltRoll(value(scene.Pan), value(scene.Tilt), value(scene.Roll))
	if n.Scale != 0 {
		m = m.Scaled(n.Scale)
	}
	return m.At(r3.Vec{X: value(scene.PositionX), Y: value(scene.PositionY), Z: value(scene.PositionZ)})
}

type groupArgs struct {
	IDs   []string `json:"ids,omitempty"`
	Name  string   `json:"name,omitempty"`
	Frame float64  `json:"frame,omitempty"`
	ID    string   `json:"id,omitempty"`
}

// group puts nodes into a new group that stands in their middle, on their
// lowest point.
func group(d *Draft, a groupArgs) (string, error) {
	if err := d.free(a.IDs); err != nil {
		return "", err
	}
	top := d.tops(a.IDs)
	box := geom.EmptyBox()
	for _, id := range top {
		b := d.Stage.Extent(id, a.Frame)
		box = box.Add(b.Min).Add(b.Max)
	}
	c := box.Center()
	if a.Name == "" {
		a.Name = "Group"
	}
	id := pick(d, a.ID)
	g := scene.Node{Kind: scene.KindGroup, Name: freeName(d.Doc, a.Name), Position: scene.Vec{tidy(c.X), tidy(box.Min.Y), tidy(c.Z)}}
	d.SetNode(id, g)
	for _, k := range top {
		if err := d.rehang(k, id, "", a.Frame, geom.Translate(g.Position.R3())); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("group %d things", len(top)), nil
}

// ungroup frees what a group holds and removes the group.
func ungroup(d *Draft, a groupArgs) (string, error) {
	if err := d.free([]string{a.ID}); err != nil {
		return "", err
	}
	g := d.Doc.Nodes[a.ID]
	if g.Kind != scene.KindGroup {
		return "", fmt.Errorf("%s is not a group", g.Name)
	}
	for _, id := range ids(d.Doc.Nodes) {
		if d.Doc.Nodes[id].Parent == a.ID {
			if err := hang(d, id, g.Parent, "", a.Frame); err != nil {
				return "", err
			}
		}
	}
	removeCurves(d, a.ID, nil)
	d.Delete("nodes", a.ID)
	return "ungroup " + g.Name, nil
}
