package edit

import (
	"fmt"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// gentle is the speed in m/s at which a move runs to a position that is left
// without saying when, and quickest the shortest time in seconds that it takes.
const (
	gentle   = 0.9
	quickest = 1.5
)

type positionArgs struct {
	ID       string    `json:"id"`
	Index    int       `json:"index,omitempty"`
	Frame    float64   `json:"frame,omitempty"` // story time
	Position scene.Vec `json:"position,omitzero"`
	Turn     scene.Vec `json:"turn,omitzero"`
	Focal    float64   `json:"focal,omitempty"` // mm, 0 for the camera's own
}

// leftPositions changes the left positions of a camera and runs the move
// through them.
func leftPositions(d *Draft, id string, change func(k *scene.Camera) error) (scene.Node, error) {
	if n, ok := d.Doc.Nodes[id]; ok {
		if err := unlocked(n); err != nil {
			return n, err
		}
		if n.Camera != nil && n.Parent != "" {
			return n, fmt.Errorf("camera %d is mounted and goes where its mount goes; put it on sticks first", n.Camera.Number)
		}
	}
	n, err := editCamera(d, id, func(_ *scene.Node, k *scene.Camera) error {
		k.Left = slices.Clone(k.Left)
		return change(k)
	})
	if err != nil {
		return n, err
	}
	return n, runThrough(d, id)
}

// at finds a position, as an error when there is none.
func positionAt(k *scene.Camera, i int) (*scene.LeftPosition, error) {
	if i < 0 || i >= len(k.Left) {
		return nil, fmt.Errorf("camera %d has no position %d", k.Number, i+1)
	}
	return &k.Left[i], nil
}

// positionLeave leaves a position at a frame. A frame at or before the last
// position means: after it, at a gentle pace. Where a camera that stands still is
// left elsewhere, its own place is the first position, where the move opens.
func positionLeave(d *Draft, a positionArgs) (string, error) {
	own := ownPlace(d, a)
	n, err := leftPositions(d, a.ID, func(k *scene.Camera) error {
		if own != nil {
			k.Left = append(k.Left, *own)
		}
		p := scene.LeftPosition{Frame: math.Round(a.Frame), Position: a.Position, Turn: a.Turn, Focal: fitted(d.Doc, k.Kit, a.Focal)}
		if p.Focal <= 0 {
			p.Focal = k.Focal
		}
		if i := len(k.Left) - 1; i >= 0 {
			last := k.Left[i]
			if p.Frame <= last.Frame {
				way := r3.Norm(r3.Sub(p.Position.R3(), last.Position.R3()))
				p.Frame = last.Frame + math.Round(d.Doc.Settings.Rate.Frames(max(quickest, way/gentle)))
			}
			p.Turn[0] = curve.Unwrap(last.Turn[0], p.Turn[0])
		}
		k.Left = append(k.Left, p)
		return nil
	})
	return fmt.Sprintf("add position %d of %s", leftCount(n), n.Name), err
}

// ownPlace returns where a camera stands still that is about to be left somewhere
// else for the first time; nil for any other.
func ownPlace(d *Draft, a positionArgs) *scene.LeftPosition {
	n := d.Doc.Nodes[a.ID]
	if n.Camera == nil || len(n.Camera.Left) > 0 || n.Path != "" || n.Parent != "" {
		return nil
	}
	for _, id := range d.Doc.CurvesOf(a.ID) {
		if ch := d.Doc.Curves[id].Channel; slices.Contains(places, ch) || slices.Contains(turns, ch) {
			return nil
		}
	}
	turned := n.Camera.Aim != scene.AimAt && (math.Abs(n.Turn[0]-a.Turn[0]) > 0.1 || math.Abs(n.Turn[1]-a.Turn[1]) > 0.1)
	if r3.Norm(r3.Sub(n.Position.R3(), a.Position.R3())) < 0.01 && !turned {
		return nil
	}
	return &scene.LeftPosition{Frame: opening(d, a.ID, math.Round(a.Frame)), Position: n.Position, Turn: n.Turn, Focal: n.Camera.Focal}
}

// positionRetake takes a position anew and keeps its time.
func positionRetake(d *Draft, a positionArgs) (string, error) {
	n, err := leftPositions(d, a.ID, func(k *scene.Camera) error {
		p, err := positionAt(k, a.Index)
		if err != nil {
			return err
		}
		p.Position, p.Turn = a.Position, a.Turn
		if a.Focal > 0 {
			p.Focal = fitted(d.Doc, k.Kit, a.Focal)
		}
		return nil
	})
	return fmt.Sprintf("retake position %d of %s", a.Index+1, n.Name), err
}

// positionRemove takes a position out of the move.
func positionRemove(d *Draft, a positionArgs) (string, error) {
	n, err := leftPositions(d, a.ID, func(k *scene.Camera) error {
		if _, err := positionAt(k, a.Index); err != nil {
			return err
		}
		k.Left = slices.Delete(k.Left, a.Index, a.Index+1)
		return nil
	})
	return fmt.Sprintf("remove position %d of %s", a.Index+1, n.Name), err
}

type positionOrderArgs struct {
	ID   string `json:"id"`
	From int    `json:"from"`
	To   int    `json:"to"`
}

// positionOrder moves a position to another place in the order. The times stay
// where they are; who stands at them changes.
func positionOrder(d *Draft, a positionOrderArgs) (string, error) {
	n, err := leftPositions(d, a.ID, func(k *scene.Camera) error {
		p, err := positionAt(k, a.From)
		if err != nil {
			return err
		}
		if _, err := positionAt(k, a.To); err != nil {
			return err
		}
		moved := *p
		frames := make([]float64, len(k.Left))
		for i, p := range k.Left {
			frames[i] = p.Frame
		}
		k.Left = slices.Insert(slices.Delete(k.Left, a.From, a.From+1), a.To, moved)
		for i := range k.Left {
			k.Left[i].Frame = frames[i]
		}
		return nil
	})
	return "reorder the positions of " + n.Name, err
}

// positionTime moves a position in time, up to its neighbours.
func positionTime(d *Draft, a positionArgs) (string, error) {
	n, err := leftPositions(d, a.ID, func(k *scene.Camera) error {
		p, err := positionAt(k, a.Index)
		if err != nil {
			return err
		}
		f := math.Round(a.Frame)
		if a.Index > 0 {
			f = max(f, k.Left[a.Index-1].Frame+1)
		}
		if a.Index < len(k.Left)-1 {
			f = min(f, k.Left[a.Index+1].Frame-1)
		}
		p.Frame = f
		return nil
	})
	return fmt.Sprintf("move position %d of %s in time", a.Index+1, n.Name), err
}

type positionSpaceArgs struct {
	ID  string  `json:"id"`
	In  float64 `json:"in,omitempty"`  // story frames; both 0 keep first and last
	Out float64 `json:"out,omitempty"` // frame of the last position
}

// positionSpace spreads the positions over a range so that the camera runs at
// one speed through all of them.
func positionSpace(d *Draft, a positionSpaceArgs) (string, error) {
	n, err := leftPositions(d, a.ID, func(k *scene.Camera) error {
		last := len(k.Left) - 1
		if last < 1 {
			return fmt.Errorf("add at least two positions before spacing them")
		}
		if a.In == 0 && a.Out == 0 {
			a.In, a.Out = k.Left[0].Frame, k.Left[last].Frame
		}
		if a.Out-a.In < float64(last) {
			return fmt.Errorf("%d positions need at least %d frames", last+1, last+1)
		}
		_, shares, err := pathThrough(k.Left)
		if err != nil {
			return err
		}
		if shares == nil { // it stays in one place: evenly in time
			shares = make([]float64, last+1)
			for i := range shares {
				shares[i] = float64(i) / float64(last)
			}
		}
		for i := range k.Left {
			f := math.Round(a.In + shares[i]*(a.Out-a.In))
			if i > 0 {
				f = max(f, k.Left[i-1].Frame+1)
			}
			k.Left[i].Frame = min(f, a.Out-float64(last-i))
		}
		return nil
	})
	return "space the positions of " + n.Name + " evenly", err
}

// pathThrough returns the path through left positions and for each the share of
// its length at which it is passed. Positions that are all in one place make
// none.
func pathThrough(left []scene.LeftPosition) (path scene.Path, shares []float64, err error) {
	path.Form = curve.Smooth
	which := make([]int, len(left))
	for i, p := range left {
		n := len(path.Points)
		if n == 0 || r3.Norm(r3.Sub(p.Position.R3(), path.Points[n-1].R3())) > 1e-6 {
			path.Points = append(path.Points, p.Position)
		}
		which[i] = len(path.Points) - 1
	}
	if len(path.Points) < 2 {
		return path, nil, nil
	}
	if len(path.Points) == 2 {
		path.Form = curve.Straight
	}
	c, err := compiled(path)
	if err != nil {
		return path, nil, err
	}
	marks := c.Marks()
	for _, k := range which {
		shares = append(shares, marks[k]/c.Length())
	}
	return path, shares, nil
}

// runThrough makes the move of a camera from its left positions: a path with
// travel, turn and focal length keyed at each. Ends are even at first, and keep
// the ease and the flat levers that they have been given; in between the move is smooth.
func runThrough(d *Draft, id string) error {
	n := d.Doc.Nodes[id]
	left := n.Camera.Left
	k := *n.Camera
	n.Camera = &k
	ends := [2]curve.Key{{Ease: curve.Even}, {Ease: curve.Even}}
	for _, ch := range []scene.Channel{scene.Travel, scene.Pan} {
		if _, c := d.Doc.CurveOf(id, ch); len(c.Keys) > 1 {
			ends = [2]curve.Key{c.Keys[0], c.Keys[len(c.Keys)-1]}
			break
		}
	}
	removeCurves(d, id, append(append([]scene.Channel{scene.Travel, scene.Focal}, places...), turns...))
	if len(left) == 0 {
		return nil
	}
	path, shares, err := pathThrough(left)
	if err != nil {
		return err
	}
	if shares == nil {
		n.Path, n.Position = "", left[0].Position
		if k.Support == scene.Dolly {
			k.Support = scene.Sticks
		}
		if k.Aim == scene.AimAlong {
			k.Aim = scene.AimFree
		}
	} else {
		if n.Path == "" || sharedPath(d.Doc, n.Path) {
			n.Path = d.NewID()
		}
		path.Name = n.Name + " path"
		d.SetPath(n.Path, path)
		n.Position = scene.Vec{}
		if k.Support == scene.Sticks {
			k.Support = scene.Dolly
		}
	}
	n.Turn, k.Focal = left[0].Turn, left[0].Focal
	d.SetNode(id, n)
	if len(left) < 2 {
		return nil
	}
	set := func(ch scene.Channel, value func(i int) float64) {
		varies := false
		keys := make([]curve.Key, len(left))
		for i := range left {
			keys[i] = curve.Key{Frame: left[i].Frame, Value: value(i), Ease: curve.Soft}
			if i > 0 && angular(ch) {
				keys[i].Value = curve.Unwrap(keys[i-1].Value, keys[i].Value)
			}
			varies = varies || keys[i].Value != keys[0].Value
		}
		first, last := &keys[0], &keys[len(keys)-1]
		first.Ease, first.Out = ends[0].Ease, flat(ends[0].Out)
		last.Ease, last.In = ends[1].Ease, flat(ends[1].In)
		if varies {
			d.SetCurve(d.NewID(), scene.Curve{Node: id, Channel: ch, Keys: keys})
		}
	}
	if shares != nil {
		set(scene.Travel, func(i int) float64 { return shares[i] })
	}
	if k.Aim == scene.AimFree {
		for x, ch := range turns {
			set(ch, func(i int) float64 { return left[i].Turn[x] })
		}
	}
	set(scene.Focal, func(i int) float64 { return left[i].Focal })
	return nil
}

// flat returns a lever that keeps a value, nil for any other: what that changes is not the
// same where the values are others.
func flat(h *curve.Handle) *curve.Handle {
	if h == nil || h.Value != 0 {
		return nil
	}
	return h
}

// sharedPath tells whether several things use a path.
func sharedPath(doc *scene.Document, path string) bool {
	users := 0
	for _, n := range doc.Nodes {
		if n.Path == path || n.Piece != nil && n.Piece.Along == path {
			users++
		}
	}
	for _, a := range doc.Actions {
		if a.Path == path {
			users++
		}
	}
	return users > 1
}

func leftCount(n scene.Node) int {
	if n.Camera == nil {
		return 0
	}
	return len(n.Camera.Left)
}
