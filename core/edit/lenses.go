package edit

import (
	"fmt"
	"math"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// fitted returns the focal length of a kit that is nearest to one asked for; it
// is the one asked for when the lens is free.
func fitted(doc *scene.Document, kit string, focal float64) float64 {
	if k, ok := doc.Kits[kit]; ok && focal > 0 {
		return k.Nearest(focal)
	}
	return focal
}

type kitPutArgs struct {
	scene.Kit
	ID string `json:"id,omitempty"`
}

// kitPut adds a lens kit or replaces one. Without Shared, one of the production
// becomes a kit of the scene's own.
func kitPut(d *Draft, a kitPutArgs) (string, error) {
	d.SetKit(pick(d, a.ID), a.Kit)
	return "put together the lens kit " + a.Name, nil
}

type libraryTakeArgs struct {
	Kits map[string]scene.Kit `json:"kits"` // all that the production has
}

// libraryTake brings what a scene shares with its production up to date: kits of the
// production are put in, but for those that the scene keeps as its own. Shared ones
// that the production has no more become the scene's own.
func libraryTake(d *Draft, a libraryTakeArgs) (string, error) {
	for _, id := range ids(d.Doc.Kits) {
		k := d.Doc.Kits[id]
		if _, there := a.Kits[id]; k.Shared && !there {
			k.Shared = false
			d.SetKit(id, k)
		}
	}
	for _, id := range ids(a.Kits) {
		k := a.Kits[id]
		k.Shared = true
		if own, ok := d.Doc.Kits[id]; !ok || own.Shared {
			d.SetKit(id, k)
		}
	}
	return "take the lens kits of the production", nil
}

// freeKit frees the lenses of all cameras that use a kit.
func freeKit(d *Draft, kit string) {
	for _, id := range ids(d.Doc.Nodes) {
		if n := d.Doc.Nodes[id]; n.Camera != nil && n.Camera.Kit == kit {
			k := *n.Camera
			k.Kit = ""
			n.Camera = &k
			d.SetNode(id, n)
		}
	}
}

type lensChooseArgs struct {
	ID      string  `json:"id"`
	Focal   float64 `json:"focal"`             // mm
	Keep    string  `json:"keep"`              // "place" or "size"
	Subject string  `json:"subject,omitempty"` // size: whose, "" for what is held or in focus
	Frame   float64 `json:"frame"`             // story time
	Key     bool    `json:"key"`
}

// lensChoose changes the lens of a camera. Keeping the place, what it shows
// grows or shrinks. Keeping the size, the camera moves along its view axis so
// that the plane of the subject stays in the picture exactly as it is: what is
// u off the axis at the depth d shows at f·u/d, which stays when d grows like f.
func lensChoose(d *Draft, a lensChooseArgs) (string, error) {
	n, err := d.camera(a.ID)
	if err != nil {
		return "", err
	}
	if !(a.Focal >= 1) {
		return "", fmt.Errorf("a focal length is at least 1 mm, not %g", a.Focal)
	}
	a.Focal = fitted(d.Doc, n.Camera.Kit, a.Focal)
	pic := d.Stage.Picture(a.ID, a.Frame)
	if a.Keep == "size" {
		depth, err := subjectDepth(d, a.ID, a.Subject, a.Frame, pic)
		if err != nil {
			return "", err
		}
		by := r3.Scale(depth*(1-a.Focal/pic.Focal), pic.World.Dir(r3.Vec{Z: -1}))
		if err := d.shift(a.ID, a.Frame, by, a.Key); err != nil {
			return "", err
		}
	}
	if err := write(d, a.ID, scene.Focal, a.Frame, a.Focal, a.Key); err != nil {
		return "", err
	}
	return fmt.Sprintf("put %g mm on camera %d, keeping the %s", a.Focal, n.Camera.Number, a.Keep), nil
}

// heldBy returns a subject, or without one what a camera keeps in focus, or
// aims at, "" for none.
func heldBy(k *scene.Camera, subject string) string {
	switch {
	case subject != "":
		return subject
	case k.FocusOn != "":
		return k.FocusOn
	case k.Aim == scene.AimAt:
		return k.AimAt
	}
	return ""
}

// subjectDepth returns how far in metres in front of a camera a subject is, or
// what it holds, or what is in focus.
func subjectDepth(d *Draft, id, subject string, frame float64, pic Picture) (float64, error) {
	k := d.Doc.Nodes[id].Camera
	subject = heldBy(k, subject)
	if subject == "" {
		return pic.Focus, nil
	}
	_, _, depth := pic.Project(d.Stage.Subject(subject, frame))
	if depth <= 0.05 {
		return 0, fmt.Errorf("%s is not in front of camera %d at this frame", d.Doc.Nodes[subject].Name, k.Number)
	}
	return depth, nil
}

type lensMoveArgs struct {
	ID      string  `json:"id"`
	In      float64 `json:"in"` // story frames of the move
	Out     float64 `json:"out"`
	Focal   float64 `json:"focal"`             // mm at the end
	Subject string  `json:"subject,omitempty"` // whose size stays, "" for what is held or in focus
}

// lensMove changes lens and distance together, so that the subject keeps its
// size. The camera runs along its view axis: with one ease on both, focal length
// and depth stay in one ratio throughout, but for a subject off the axis of a
// tilted camera, whose height at both ends is made the same. For a subject that
// itself moves, keys every few frames hold it.
func lensMove(d *Draft, a lensMoveArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	number := n.Camera.Number
	switch {
	case a.Out-a.In < 1:
		return "", fmt.Errorf("the move needs at least one frame")
	case !(a.Focal >= 1 && a.Focal <= 3000):
		return "", fmt.Errorf("a focal length is from 1 to 3000 mm, not %g", a.Focal)
	case n.Path != "" || n.Parent != "":
		return "", fmt.Errorf("camera %d is carried already; put it on sticks first", number)
	}
	pic := d.Stage.Picture(a.ID, a.In)
	if math.Abs(a.Focal-pic.Focal) < 0.01 {
		return "", fmt.Errorf("camera %d has this focal length at the beginning; choose another for the end", number)
	}
	depth, err := subjectDepth(d, a.ID, a.Subject, a.In, pic)
	if err != nil {
		return "", err
	}
	subject := heldBy(n.Camera, a.Subject)
	axis := pic.World.Dir(r3.Vec{Z: -1})
	start := pic.World.Origin()
	// How far along the axis the camera is when the lens has a focal length. What
	// is upright at a tangent of v above the axis shows its height times
	// cos(tilt) − v·sin(tilt), and v shrinks like 1/f.
	up := upOf(d, subject, a.In, pic)
	seen := func(focal float64) float64 {
		s, c := math.Sincos(geom.Radians(pic.Tilt))
		return c - up*pic.Focal/focal*s
	}
	along := func(focal float64) r3.Vec {
		return r3.Scale(depth*(1-focal/pic.Focal*seen(focal)/seen(pic.Focal)), axis)
	}
	end := r3.Add(start, along(a.Focal))
	k := n.Camera
	if subject != "" && k.FocusOn == "" {
		k.FocusOn = subject
	}
	k.Kit, k.Left = "", nil // a lens that zooms freely
	d.SetNode(a.ID, n)
	removeCurves(d, a.ID, append(append([]scene.Channel{scene.Focal}, places...), turnsUnless(k.Aim == scene.AimAt)...))
	putKey(d, a.ID, scene.Focal, a.In, pic.Focal, curve.Soft)
	putKey(d, a.ID, scene.Focal, a.Out, a.Focal, curve.Soft)
	label := fmt.Sprintf("move lens and distance of camera %d from %.4g to %.4g mm", number, pic.Focal, a.Focal)
	if way, moves := subjectWay(d, subject, a.In, a.Out); moves {
		_, focal := d.Doc.CurveOf(a.ID, scene.Focal)
		c := curve.NewChannel(focal.Keys)
		for i, s := range way {
			frame := min(a.Out, a.In+float64(i)*subjectStep)
			// The subject's plane stays f(t)/f(0) of its first depth away. One that
			// is held is followed sideways too.
			drift := r3.Sub(s, way[0])
			if k.Aim != scene.AimAt {
				drift = r3.Scale(r3.Dot(drift, axis), axis)
			}
			at := r3.Add(r3.Add(start, drift), along(c.At(frame)))
			for x, v := range [3]float64{at.X, at.Y, at.Z} {
				putKey(d, a.ID, places[x], frame, v, curve.Soft)
			}
		}
		return label, nil
	}
	for x, v := range [3][2]float64{{start.X, end.X}, {start.Y, end.Y}, {start.Z, end.Z}} {
		putKey(d, a.ID, places[x], a.In, v[0], curve.Soft)
		putKey(d, a.ID, places[x], a.Out, v[1], curve.Soft)
	}
	return label, pathOfKeys(d, a.ID)
}

// upOf returns how far above the view axis a subject is seen, as a tangent.
func upOf(d *Draft, subject string, frame float64, pic Picture) float64 {
	if subject == "" {
		return 0
	}
	back := pic.World.Inverse()
	p := back.Point(d.Stage.Subject(subject, frame))
	return p.Y / -p.Z
}

func turnsUnless(held bool) []scene.Channel {
	if held {
		return nil
	}
	return turns
}

// subjectStep is how many frames apart a moving subject is looked at.
const subjectStep = 2

// subjectWay returns where a subject is every few frames of a range and at its
// end, and whether it moves.
func subjectWay(d *Draft, subject string, in, out float64) (way []r3.Vec, moves bool) {
	if subject == "" {
		return nil, false
	}
	for f := in; ; f += subjectStep {
		p := d.Stage.Subject(subject, min(f, out))
		way = append(way, p)
		moves = moves || r3.Norm(r3.Sub(p, way[0])) > 0.01
		if f >= out {
			return way, moves
		}
	}
}

// pathOfKeys turns the keyed places of a camera into a path with its travel, and
// puts it on a dolly. It is what pathFromKeys does.
func pathOfKeys(d *Draft, id string) error {
	_, err := pathFromKeys(d, pathFromKeysArgs{ID: id})
	return err
}
