package edit

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// span returns the first and last frame of a node's keys.
func span(doc *scene.Document, node string) (from, to float64, ok bool) {
	from, to = math.Inf(1), math.Inf(-1)
	for _, id := range doc.CurvesOf(node) {
		k := doc.Curves[id].Keys
		from, to, ok = min(from, k[0].Frame), max(to, k[len(k)-1].Frame), true
	}
	return from, to, ok
}

type pathFromKeysArgs struct {
	ID string `json:"id"`
}

// pathFromKeys makes a path of a camera's keyed places: it runs through them,
// the travel is keyed at the same frames, and the keys of place go.
func pathFromKeys(d *Draft, a pathFromKeysArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.ID]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	if n.Path != "" || n.Parent != "" {
		return "", fmt.Errorf("%s is carried by something already", n.Name)
	}
	frames := map[float64]curve.Ease{}
	for _, ch := range places {
		_, c := d.Doc.CurveOf(a.ID, ch)
		for _, k := range c.Keys {
			frames[k.Frame] = k.Ease
		}
	}
	if len(frames) < 2 {
		return "", fmt.Errorf("%s has no two keys of its place to make a path of", n.Name)
	}
	var left []scene.LeftPosition
	for _, f := range slices.Sorted(maps.Keys(frames)) {
		p := scene.LeftPosition{Frame: f}
		for i, ch := range places {
			p.Position[i] = n.Position[i]
			if _, c := d.Doc.CurveOf(a.ID, ch); len(c.Keys) > 0 {
				p.Position[i] = at(c, f)
			}
		}
		left = append(left, p)
	}
	path, shares, err := pathThrough(left)
	if err != nil {
		return "", err
	}
	if shares == nil {
		return "", fmt.Errorf("the keys of %s are all in one place", n.Name)
	}
	path.Name = n.Name + " path"
	n.Path, n.Position = d.NewID(), scene.Vec{}
	if n.Camera != nil {
		k := *n.Camera
		if k.Support == scene.Sticks {
			k.Support = scene.Dolly
		}
		n.Camera = &k
	}
	d.SetPath(n.Path, path)
	d.SetNode(a.ID, n)
	removeCurves(d, a.ID, append([]scene.Channel{scene.Travel}, places...))
	for i, p := range left {
		ease := frames[p.Frame]
		if ease == curve.Shaped {
			ease = curve.Soft
		}
		putKey(d, a.ID, scene.Travel, p.Frame, shares[i], ease)
	}
	return "make a path of the keys of " + n.Name, nil
}

// TravelLength returns how far a node goes on its path from its first to its last key of
// travel, in metres; without keys, how long the path is.
func TravelLength(doc *scene.Document, node string) float64 {
	p, err := compiled(doc.Paths[doc.Nodes[node].Path])
	if err != nil {
		return 0
	}
	_, c := doc.CurveOf(node, scene.Travel)
	if len(c.Keys) < 2 {
		return p.Length()
	}
	shares := 0.0
	for i := 1; i < len(c.Keys); i++ {
		shares += math.Abs(c.Keys[i].Value - c.Keys[i-1].Value)
	}
	return shares * p.Length()
}

type moveShapeArgs struct {
	ID      string  `json:"id"`
	By      float64 `json:"by,omitempty"`      // frames to shift it
	Scale   float64 `json:"scale,omitempty"`   // of its duration, from its first key; 0 for 1
	Lasts   float64 `json:"lasts,omitempty"`   // seconds, instead of a scale
	Speed   float64 `json:"speed,omitempty"`   // mean m/s along its path, instead of a scale
	Reverse bool    `json:"reverse,omitempty"` // in time
	Mirror  bool    `json:"mirror,omitempty"`  // left to right, about where it begins
}

// moveShape changes a whole move: it is shifted or scaled in time, runs
// backwards, or is mirrored across the upright plane in which the camera looks
// at its beginning.
func moveShape(d *Draft, a moveShapeArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.ID]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	from, to, ok := span(d.Doc, a.ID)
	if !ok {
		return "", fmt.Errorf("%s does not move: it has no keys", n.Name)
	}
	if a.Speed != 0 {
		length := TravelLength(d.Doc, a.ID)
		if !(a.Speed > 0) || length == 0 {
			return "", fmt.Errorf("%s cannot be %g m/s fast: give it a path, and a speed of more than 0", n.Name, a.Speed)
		}
		a.Lasts = length / a.Speed
	}
	if a.Lasts != 0 {
		if !(a.Lasts > 0) || to == from {
			return "", fmt.Errorf("the move of %s cannot last %g seconds: it needs two keys, and more than 0 seconds", n.Name, a.Lasts)
		}
		a.Scale = a.Lasts * d.Doc.Settings.Rate.PerSecond() / (to - from)
	}
	if a.Scale == 0 {
		a.Scale = 1
	}
	if !(a.Scale > 0) {
		return "", fmt.Errorf("a move is scaled by more than 0, not by %g; to run it backwards, reverse it", a.Scale)
	}
	if a.Mirror {
		if err := mirrorMove(d, a.ID, from); err != nil {
			return "", err
		}
		n = d.Doc.Nodes[a.ID]
	}
	when := func(f float64) float64 {
		if a.Reverse {
			f = from + to - f
		}
		return from + (f-from)*a.Scale + a.By
	}
	whole := func(f float64) float64 { return math.Round(when(f)) }
	for _, id := range d.Doc.CurvesOf(a.ID) {
		c := d.Doc.Curves[id]
		c.Keys = slices.Clone(c.Keys)
		at := when // on whole frames, unless two keys would meet there
		if apart(c.Keys, func(k curve.Key) float64 { return k.Frame }, whole) {
			at = whole
		}
		for i := range c.Keys {
			k := &c.Keys[i]
			k.Frame = at(k.Frame)
			k.In, k.Out = scaledHandle(k.In, a.Scale, 1), scaledHandle(k.Out, a.Scale, 1)
			if a.Reverse {
				k.In, k.Out = k.Out, k.In
			}
		}
		if a.Reverse {
			slices.Reverse(c.Keys)
		}
		d.SetCurve(id, c)
	}
	if n.Camera != nil && len(n.Camera.Left) > 0 {
		k := *n.Camera
		k.Left = slices.Clone(k.Left)
		at := when
		if apart(k.Left, func(p scene.LeftPosition) float64 { return p.Frame }, whole) {
			at = whole
		}
		for i := range k.Left {
			k.Left[i].Frame = at(k.Left[i].Frame)
		}
		if a.Reverse {
			slices.Reverse(k.Left)
		}
		n.Camera = &k
		d.SetNode(a.ID, n)
		if a.Reverse { // the path too, so that it runs through them in order
			return "reverse the move of " + n.Name, runThrough(d, a.ID)
		}
	}
	switch {
	case a.Mirror:
		return "mirror the move of " + n.Name, nil
	case a.Reverse:
		return "reverse the move of " + n.Name, nil
	case a.Scale != 1:
		return fmt.Sprintf("make the move of %s last %.3g times as long", n.Name, a.Scale), nil
	}
	return fmt.Sprintf("shift the move of %s by %+gf", n.Name, a.By), nil
}

func scaledHandle(h *curve.Handle, frames, value float64) *curve.Handle {
	if h == nil {
		return nil
	}
	return &curve.Handle{Frames: h.Frames * frames, Value: h.Value * value}
}

// mirrorMove mirrors path, places and turns across the upright plane through
// the camera at the frame, along its heading.
func mirrorMove(d *Draft, id string, frame float64) error {
	n := d.Doc.Nodes[id]
	if n.Parent != "" {
		return fmt.Errorf("%s hangs on something; only moves in the open are mirrored", n.Name)
	}
	w := d.Stage.World(id, frame)
	pan, _, _ := rigid(&w)
	about := w.Origin()
	turn := geom.RotateY(pan)
	right := turn.Dir(r3.Vec{X: 1})
	flip := func(v scene.Vec, from r3.Vec) scene.Vec {
		p := v.R3()
		return scene.FromR3(r3.Sub(p, r3.Scale(2*r3.Dot(r3.Sub(p, from), right), right)))
	}
	if p, ok := d.Doc.Paths[n.Path]; ok {
		if sharedPath(d.Doc, n.Path) {
			n.Path = d.NewID()
		}
		p.Points = slices.Clone(p.Points)
		for i := range p.Points {
			p.Points[i] = flip(p.Points[i], about)
		}
		d.SetPath(n.Path, p)
		n.Position = flip(n.Position, r3.Vec{})
	} else {
		if err := mirrorPlaces(d, id, flip, about); err != nil {
			return err
		}
		n.Position = d.Doc.Nodes[id].Position
	}
	along := n.Camera != nil && n.Camera.Aim == scene.AimAlong
	for i, ch := range []scene.Channel{scene.Pan, scene.Roll, scene.FramingX, scene.ShiftX} {
		shift := 0.0
		if i == 0 && !along {
			shift = 2 * pan
		}
		if cid, c := d.Doc.CurveOf(id, ch); cid != "" {
			c.Keys = slices.Clone(c.Keys)
			for j := range c.Keys {
				c.Keys[j].Value = shift - c.Keys[j].Value
				c.Keys[j].In, c.Keys[j].Out = scaledHandle(c.Keys[j].In, 1, -1), scaledHandle(c.Keys[j].Out, 1, -1)
			}
			d.SetCurve(cid, c)
		} else if i == 0 {
			n.Turn[0] = shift - n.Turn[0]
		} else if i == 1 {
			n.Turn[2] = -n.Turn[2]
		}
	}
	if n.Camera != nil {
		k := *n.Camera
		k.Framing[0], k.Shift[0] = -k.Framing[0], -k.Shift[0]
		k.Left = slices.Clone(k.Left)
		for i := range k.Left {
			p := &k.Left[i]
			p.Position = flip(p.Position, about)
			p.Turn[0], p.Turn[2] = 2*pan-p.Turn[0], -p.Turn[2]
		}
		n.Camera = &k
	}
	d.SetNode(id, n)
	return nil
}

// mirrorPlaces mirrors keyed places: all three channels are keyed at all their
// frames first, since a mirrored X is made of X and Z.
func mirrorPlaces(d *Draft, id string, flip func(scene.Vec, r3.Vec) scene.Vec, about r3.Vec) error {
	n := d.Doc.Nodes[id]
	frames := map[float64]curve.Ease{}
	var was [3]scene.Curve
	for i, ch := range places {
		_, was[i] = d.Doc.CurveOf(id, ch)
		for _, k := range was[i].Keys {
			frames[k.Frame] = k.Ease
		}
	}
	n.Position = flip(n.Position, about)
	d.SetNode(id, n)
	for _, f := range slices.Sorted(maps.Keys(frames)) {
		var v scene.Vec
		for i := range places {
			v[i] = d.Doc.Nodes[id].Position[i]
			if len(was[i].Keys) > 0 {
				v[i] = at(was[i], f)
			}
		}
		v = flip(v, about)
		for i, ch := range places {
			putKey(d, id, ch, f, v[i], frames[f])
		}
	}
	return nil
}

type moveAmountArgs struct {
	ID     string  `json:"id"`
	Amount float64 `json:"amount"`          // 1 leaves it, 0.5 is half the move
	About  string  `json:"about,omitempty"` // "end" (also for ""), "start" or "middle": what stays
}

// moveAmount makes a move smaller or larger about its end, its start or its
// middle: all that is keyed comes nearer to its value there, or goes further
// away from it. Times stay.
func moveAmount(d *Draft, a moveAmountArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.ID]
	if !ok {
		return "", fmt.Errorf("the node is not there any more")
	}
	if a.Amount < 0 || a.Amount > 4 || math.IsNaN(a.Amount) {
		return "", fmt.Errorf("a move's amount goes from 0 to 4 times what it is, not %g", a.Amount)
	}
	from, to, ok := span(d.Doc, a.ID)
	if !ok {
		return "", fmt.Errorf("%s does not move: it has no keys", n.Name)
	}
	still := map[string]float64{"": to, "end": to, "start": from, "middle": (from + to) / 2}
	frame, known := still[a.About]
	if !known {
		return "", fmt.Errorf("a move is scaled about its end, start or middle, not its %q", a.About)
	}
	label := fmt.Sprintf("scale the move of %s to %.0f %%", n.Name, a.Amount*100)
	if n.Camera != nil && len(n.Camera.Left) > 1 {
		return label, amountOfLeft(d, a.ID, frame, a.Amount)
	}
	if p, ok := d.Doc.Paths[n.Path]; ok && a.Amount > 1 {
		// A path has ends: a larger move needs a larger path.
		if err := growPath(d, a.ID, p, frame, a.Amount); err != nil {
			return "", err
		}
	}
	for _, id := range d.Doc.CurvesOf(a.ID) {
		c := d.Doc.Curves[id]
		if c.Channel == scene.Travel && a.Amount > 1 || c.Channel == scene.Focus {
			continue
		}
		middle := at(c, frame)
		c.Keys = slices.Clone(c.Keys)
		for i := range c.Keys {
			k := &c.Keys[i]
			k.Value = middle + (k.Value-middle)*a.Amount
			k.In, k.Out = scaledHandle(k.In, 1, a.Amount), scaledHandle(k.Out, 1, a.Amount)
		}
		d.SetCurve(id, c)
	}
	return label, nil
}

// growPath scales a path about the place on it where its rider is at a frame.
func growPath(d *Draft, id string, p scene.Path, frame, by float64) error {
	c, err := compiled(p)
	if err != nil {
		return err
	}
	about := c.At(travelAt(d, id, frame) * c.Length())
	n := d.Doc.Nodes[id]
	if sharedPath(d.Doc, n.Path) {
		n.Path = d.NewID()
		d.SetNode(id, n)
	}
	p.Points = slices.Clone(p.Points)
	for i, v := range p.Points {
		p.Points[i] = scene.FromR3(r3.Add(about, r3.Scale(by, r3.Sub(v.R3(), about))))
	}
	d.SetPath(n.Path, p)
	return nil
}

// amountOfLeft scales left positions about where the camera is at a frame.
func amountOfLeft(d *Draft, id string, frame, amount float64) error {
	p := d.Stage.Picture(id, frame)
	about := p.World.Origin()
	_, err := editCamera(d, id, func(_ *scene.Node, k *scene.Camera) error {
		k.Left = slices.Clone(k.Left)
		for i := range k.Left {
			l := &k.Left[i]
			l.Position = scene.FromR3(r3.Add(about, r3.Scale(amount, r3.Sub(l.Position.R3(), about))))
			for x, v := range [3]float64{p.Pan, p.Tilt, p.Roll} {
				l.Turn[x] = curve.Unwrap(l.Turn[x], v) + (l.Turn[x]-curve.Unwrap(l.Turn[x], v))*amount
			}
			l.Focal = p.Focal + (l.Focal-p.Focal)*amount
		}
		return nil
	})
	if err != nil {
		return err
	}
	return runThrough(d, id)
}

type moveEaseArgs struct {
	ID      string     `json:"id"`
	EaseIn  curve.Ease `json:"easeIn"`  // of the first keys, "" leaves them
	EaseOut curve.Ease `json:"easeOut"` // of the last keys
}

// moveEase gives the first and the last keys of a whole move an ease; what lies
// between runs smoothly.
func moveEase(d *Draft, a moveEaseArgs) (string, error) {
	n := d.Doc.Nodes[a.ID]
	all := d.Doc.CurvesOf(a.ID)
	if len(all) == 0 {
		return "", fmt.Errorf("%s does not move: it has no keys", n.Name)
	}
	for _, id := range all {
		c := d.Doc.Curves[id]
		c.Keys = slices.Clone(c.Keys)
		last := len(c.Keys) - 1
		for i, e := range map[int]curve.Ease{0: a.EaseIn, last: a.EaseOut} {
			if e != "" {
				c.Keys[i].Ease, c.Keys[i].In, c.Keys[i].Out = e, nil, nil
			}
		}
		d.SetCurve(id, c)
	}
	return "ease the move of " + n.Name, nil
}

// apart tells whether frames that differ stay so.
func apart[T any](list []T, frame func(T) float64, at func(frame float64) float64) bool {
	seen := map[float64]bool{}
	for _, v := range list {
		seen[at(frame(v))] = true
	}
	return len(seen) == len(list)
}
