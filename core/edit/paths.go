package edit

import (
	"fmt"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

type pathDrawArgs struct {
	Form   curve.Form  `json:"form"`
	Points []scene.Vec `json:"points"`
	For    string      `json:"for,omitempty"` // node that is to travel on it
	In     float64     `json:"in,omitempty"`  // story frames of the travel
	Out    float64     `json:"out,omitempty"`
	Paced  bool        `json:"paced,omitempty"` // Out follows from the length, at a pace that suits what travels
	Loose  float64     `json:"loose,omitempty"` // drawn by hand: metres by which the path may leave the points
	ID     string      `json:"id,omitempty"`
}

// What is carried along a new path goes gently: at so many m/s, and for some seconds at
// least.
const (
	gentleSpeed = 1.5
	gentlest    = 2.0
)

// pathDraw makes a path. Given a node, the node is carried along it from the
// frame In to the frame Out with soft keys; a camera's support becomes a dolly.
func pathDraw(d *Draft, a pathDrawArgs) (string, error) {
	if len(a.Points) < 2 {
		return "", fmt.Errorf("a path needs at least two points")
	}
	if a.Loose > 0 {
		a.Points = simplified(a.Points, a.Loose)
	}
	id := pick(d, a.ID)
	p := scene.Path{Name: "path", Form: a.Form, Points: a.Points}
	if a.For == "" {
		d.SetPath(id, p)
		return "draw a path", nil
	}
	n, ok := d.Doc.Nodes[a.For]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	if err := unlocked(n); err != nil {
		return "", err
	}
	p.Name = pathName(n)
	d.SetPath(id, p)
	if n.Cast != nil {
		return "draw a walk for " + n.Name, walkOn(d, a, id)
	}
	n.Path = id
	n.Position = scene.Vec{}
	if n.Camera != nil {
		c := *n.Camera
		c.Support = scene.Dolly
		n.Camera = &c
	} else {
		n.AlongYaw = true
	}
	d.SetNode(a.For, n)
	removeCurves(d, a.For, []scene.Channel{scene.Travel, scene.PositionX, scene.PositionY, scene.PositionZ})
	if a.Paced {
		c, err := compiled(p)
		if err != nil {
			return "", fmt.Errorf("the points do not make a path: %w", err)
		}
		a.Out = a.In + math.Round(max(gentlest, c.Length()/gentleSpeed)*d.Doc.Settings.Rate.PerSecond())
	}
	if a.Out > a.In {
		putKey(d, a.For, scene.Travel, a.In, 0, curve.Soft)
		putKey(d, a.For, scene.Travel, a.Out, 1, curve.Soft)
	}
	return "draw a path for " + n.Name, nil
}

func simplified(points []scene.Vec, tolerance float64) []scene.Vec {
	line := make([]r3.Vec, len(points))
	for i, p := range points {
		line[i] = p.R3()
	}
	line = curve.Simplify(line, tolerance)
	out := make([]scene.Vec, len(line))
	for i, p := range line {
		out[i] = scene.FromR3(p)
	}
	return out
}

type pathPointArgs struct {
	ID     string     `json:"id"`
	Index  int        `json:"index"`
	To     *scene.Vec `json:"to,omitempty"`     // nil removes the point
	Insert bool       `json:"insert,omitempty"` // insert before Index instead of moving
}

// pathPoint moves, inserts or removes one point of a path.
func pathPoint(d *Draft, a pathPointArgs) (string, error) {
	p, ok := d.Doc.Paths[a.ID]
	if !ok || a.Index < 0 || a.Index > len(p.Points) || !a.Insert && a.Index == len(p.Points) {
		return "", fmt.Errorf("the path has no such point")
	}
	pts := slices.Clone(p.Points)
	label := "move a point of "
	switch {
	case a.To == nil:
		if len(pts) <= 2 || p.Form == curve.Arc {
			return "", fmt.Errorf("a path of this form needs its %d points", len(pts))
		}
		pts = slices.Delete(pts, a.Index, a.Index+1)
		label = "remove a point of "
	case a.Insert:
		pts = slices.Insert(pts, a.Index, *a.To)
		label = "add a point to "
	default:
		pts[a.Index] = *a.To
	}
	p.Points = pts
	d.SetPath(a.ID, p)
	return label + p.Name, nil
}

type pathShiftArgs struct {
	ID string    `json:"id"`
	By scene.Vec `json:"by"`
}

// pathShift moves a whole path; everything on it follows.
func pathShift(d *Draft, a pathShiftArgs) (string, error) {
	p, ok := d.Doc.Paths[a.ID]
	if !ok {
		return "", fmt.Errorf("the path is not there any more")
	}
	pts := slices.Clone(p.Points)
	for i := range pts {
		for k := range pts[i] {
			pts[i][k] += a.By[k]
		}
	}
	p.Points = pts
	d.SetPath(a.ID, p)
	return "move " + p.Name, nil
}

// walkOn makes a walk along a path for the frames from In to Out. Deeds of the
// whole body that it runs into end where it begins, or begin where it ends.
func walkOn(d *Draft, a pathDrawArgs, path string) error {
	in, out := int(math.Round(a.In)), int(math.Round(a.Out))
	if a.Paced || out <= in {
		c, err := compiled(d.Doc.Paths[path])
		if err != nil {
			return err
		}
		out = in + max(1, int(math.Round(c.Length()/walkSpeed*d.Doc.Settings.Rate.PerSecond())))
	}
	clearDeeds(d, a.For, in, out, "")
	d.SetAction(d.NewID(), scene.Action{Cast: a.For, Do: scene.Walk, In: in, Out: out, Path: path})
	return nil
}

func compiled(p scene.Path) (*curve.Path, error) {
	pts := make([]r3.Vec, len(p.Points))
	for i, v := range p.Points {
		pts[i] = v.R3()
	}
	return curve.NewPath(p.Form, pts, p.Closed)
}

type pathShapeArgs struct {
	ID      string     `json:"id"`
	Form    curve.Form `json:"form,omitempty"`    // another form, or "" to keep it
	Closed  *bool      `json:"closed,omitempty"`  // join the ends, or open them
	Reverse bool       `json:"reverse,omitempty"` // swap start and end
	Height  *float64   `json:"height,omitempty"`  // metres, for all points
}

// pathShape changes a whole path: its form, whether it is closed, its direction
// or its height.
func pathShape(d *Draft, a pathShapeArgs) (string, error) {
	p, ok := d.Doc.Paths[a.ID]
	if !ok {
		return "", fmt.Errorf("the path is not there any more")
	}
	p.Points = slices.Clone(p.Points)
	label := "change " + p.Name
	if a.Form != "" {
		switch n := len(p.Points); {
		case a.Form == curve.Arc && n > 3:
			p.Points = []scene.Vec{p.Points[0], p.Points[n/2], p.Points[n-1]}
		case a.Form == curve.Arc && n < 3:
			q, w := p.Points[0], p.Points[1]
			side := scene.Vec{(q[0]+w[0])/2 + (w[2]-q[2])/4, (q[1] + w[1]) / 2, (q[2]+w[2])/2 - (w[0]-q[0])/4}
			p.Points = []scene.Vec{q, side, w}
		case a.Form == curve.RiseUp:
			q, w := p.Points[0], p.Points[n-1]
			if math.Abs(q[1]-w[1]) < 0.01 {
				w[1] = q[1] + 2
			}
			p.Points = []scene.Vec{q, {q[0], w[1], q[2]}}
		}
		p.Form, label = a.Form, fmt.Sprintf("make %s a %s path", p.Name, a.Form)
	}
	if a.Closed != nil {
		p.Closed = *a.Closed
		label = "open " + p.Name
		if p.Closed {
			label = "close " + p.Name
		}
	}
	if a.Reverse {
		slices.Reverse(p.Points)
		label = "reverse " + p.Name
	}
	if a.Height != nil {
		for i := range p.Points {
			p.Points[i][1] = *a.Height
		}
		label = "set the height of " + p.Name
	}
	d.SetPath(a.ID, p)
	return label, nil
}

type travelArgs struct {
	Node    string  `json:"node"`
	Path    string  `json:"path,omitempty"` // another path, or "" to keep the node's
	In      float64 `json:"in"`
	Out     float64 `json:"out"`
	Speed   float64 `json:"speed,omitempty"`   // m/s; when given, Out follows from the length
	EaseIn  *bool   `json:"easeIn,omitempty"`  // set off softly; as it was when not given
	EaseOut *bool   `json:"easeOut,omitempty"` // stop softly
	Reverse *bool   `json:"reverse,omitempty"` // from the end to the start
	Heading *bool   `json:"heading,omitempty"` // turn with the path
}

// travelSet carries a node along its path from a frame to a frame. It replaces
// the keys of its travel by two.
func travelSet(d *Draft, a travelArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.Node]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	if err := unlocked(n); err != nil {
		return "", err
	}
	if a.Path != "" && a.Path != n.Path {
		n.Path, n.Position = a.Path, scene.Vec{}
	}
	if n.Path == "" {
		return "", fmt.Errorf("%s has no path to travel on; draw one first", n.Name)
	}
	if a.Heading != nil {
		n.AlongYaw = *a.Heading
	}
	p, err := compiled(d.Doc.Paths[n.Path])
	if err != nil {
		return "", err
	}
	if a.Speed < 0 {
		return "", fmt.Errorf("the speed is %g m/s; it must be more than 0: to go the other way, reverse the travel", a.Speed)
	}
	if a.Speed > 0 {
		a.Out = a.In + max(1, p.Length()/a.Speed*d.Doc.Settings.Rate.PerSecond())
	}
	if a.Out <= a.In {
		return "", fmt.Errorf("the travel must last at least one frame")
	}
	_, old := d.Doc.CurveOf(a.Node, scene.Travel)
	from, to := curve.Key{Frame: a.In, Ease: curve.Soft}, curve.Key{Frame: a.Out, Value: 1, Ease: curve.Soft}
	if k := old.Keys; len(k) > 0 {
		from.Ease, to.Ease = k[0].Ease, k[len(k)-1].Ease
		from.Value, to.Value = k[0].Value, k[len(k)-1].Value
	}
	ease := func(soft *bool, k *curve.Key) {
		if soft == nil {
			return
		}
		k.Ease = curve.Even
		if *soft {
			k.Ease = curve.Soft
		}
	}
	ease(a.EaseIn, &from)
	ease(a.EaseOut, &to)
	if a.Reverse != nil && *a.Reverse != (from.Value > to.Value) {
		from.Value, to.Value = to.Value, from.Value
	}
	d.SetNode(a.Node, n)
	removeCurves(d, a.Node, []scene.Channel{scene.Travel})
	if from.Value == to.Value {
		from.Value, to.Value = 0, 1
	}
	d.SetCurve(d.NewID(), scene.Curve{Node: a.Node, Channel: scene.Travel, Keys: []curve.Key{from, to}})
	return "set the travel of " + n.Name, nil
}
