package edit

import (
	"fmt"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/scene"
)

// Hold is how a composed picture goes on when its subject moves.
type Hold string

// The ways of holding.
const (
	HoldStill Hold = ""      // the camera stays as it is
	HoldTurn  Hold = "turn"  // it stays in its place and turns with the subject
	HoldAlong Hold = "along" // it is carried along by the subject, as far from it and from the same side
	HoldMove  Hold = "move"  // the picture is one that a move goes through
)

type cameraTakeArgs struct {
	ID       string    `json:"id"`
	Frame    float64   `json:"frame"`
	Position scene.Vec `json:"position"`
	Turn     scene.Vec `json:"turn"`
	Focal    float64   `json:"focal"` // mm
	Focus    float64   `json:"focus"` // metres
	Key      bool      `json:"key"`
	Hold     Hold      `json:"hold,omitempty"` // how it goes on; not with Key
	On       string    `json:"on,omitempty"`   // the subject that is held

	Framing [2]float64 `json:"framing,omitempty"` // where what is aimed at of it is in the picture, −1 to 1 to the right and up
}

// cameraTake puts a camera where a picture is taken from. With Key it is there at the frame,
// by keys; without, it stands there on sticks, or holds its subject, and its move goes. A
// move from picture to picture goes through positions that are left (positionLeave).
func cameraTake(d *Draft, a cameraTakeArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	if a.Hold == HoldStill || a.Key {
		if a.Key && (n.Path != "" || n.Parent != "") {
			return "", fmt.Errorf("camera %d is carried by something and cannot be keyed in the open; put it on sticks, or switch auto-key off", n.Camera.Number)
		}
		return fmt.Sprintf("put camera %d where the picture is", n.Camera.Number), takeStill(d, a, n)
	}
	return hold(d, a, n)
}

// hold puts a camera where a picture is taken from, in a way that goes on.
func hold(d *Draft, a cameraTakeArgs, n scene.Node) (string, error) {
	switch a.Hold {
	case HoldMove:
		return fmt.Sprintf("move camera %d to the picture", n.Camera.Number), takeInMove(d, a, n)
	case HoldTurn, HoldAlong:
		return takeHolding(d, a, n)
	}
	return "", fmt.Errorf("%q is no way to hold a picture; it is still, turn, along or move", a.Hold)
}

// takeHolding puts a camera where a picture is taken from and lets it hold its subject, with
// the focus on it.
func takeHolding(d *Draft, a cameraTakeArgs, n scene.Node) (string, error) {
	held, ok := d.Doc.Nodes[a.On]
	if !ok || a.On == a.ID {
		return "", fmt.Errorf("choose the subject that camera %d is to hold", n.Camera.Number)
	}
	if err := takeStill(d, a, n); err != nil {
		return "", err
	}
	n = d.Doc.Nodes[a.ID]
	k := *n.Camera
	n.Camera = &k
	k.Aim, k.AimAt, k.Framing = scene.AimAt, a.On, a.Framing
	focusOnHeld(d, a, &k)
	if a.Hold == HoldTurn {
		d.SetNode(a.ID, n)
		return fmt.Sprintf("turn camera %d with %s", k.Number, held.Name), nil
	}
	k.Support, n.Parent = scene.Mounted, a.On
	d.SetNode(a.ID, n)
	return fmt.Sprintf("take camera %d along with %s", k.Number, held.Name),
		standAt(d, a.ID, a.Frame, a.Position.R3(), d.Stage.Joint(a.On, "", a.Frame))
}

// focusOnHeld lets the focus follow who is held, unless it has keys of its own.
func focusOnHeld(d *Draft, a cameraTakeArgs, k *scene.Camera) {
	if _, c := d.Doc.CurveOf(a.ID, scene.Focus); a.On != "" && len(c.Keys) == 0 {
		k.FocusOn = a.On
	}
}

// takeStill puts a camera, which the draft may not have yet, where a picture is taken from:
// by keys at the frame, or on sticks.
func takeStill(d *Draft, a cameraTakeArgs, n scene.Node) error {
	k := n.Camera
	k.Aim, k.AimAt, k.Framing, k.Lag = scene.AimFree, "", [2]float64{}, 0
	if !a.Key {
		k.Support, k.Unrest, k.Left = scene.Sticks, nil, nil
		n.Path, n.Parent, n.Joint = "", "", ""
	}
	d.SetNode(a.ID, n)
	gone := []scene.Channel{scene.FramingX, scene.FramingY}
	if !a.Key {
		gone = append(append(append(gone, places...), turns...), scene.Travel, scene.Focal)
	}
	removeCurves(d, a.ID, gone)
	if err := d.writeVec(a.ID, places, a.Frame, a.Position.R3(), a.Key); err != nil {
		return err
	}
	if err := d.writeVec(a.ID, turns, a.Frame, a.Turn.R3(), a.Key); err != nil {
		return err
	}
	if err := write(d, a.ID, scene.Focal, a.Frame, fitted(d.Doc, k.Kit, a.Focal), a.Key); err != nil {
		return err
	}
	if _, c := d.Doc.CurveOf(a.ID, scene.Focus); a.Focus > 0 && k.FocusOn == "" && len(c.Keys) == 0 {
		return write(d, a.ID, scene.Focus, a.Frame, a.Focus, a.Key)
	}
	return nil
}

// takeInMove makes a picture one that the camera's move goes through at the frame: the first
// one ends whatever move there was, one at the same frame takes the place of what was there.
func takeInMove(d *Draft, a cameraTakeArgs, n scene.Node) error {
	left := slices.Clone(n.Camera.Left)
	p := scene.LeftPosition{Frame: math.Round(a.Frame), Position: a.Position, Turn: a.Turn, Focal: fitted(d.Doc, n.Camera.Kit, a.Focal)}
	if len(left) == 0 || n.Parent != "" {
		left = nil
		if err := takeStill(d, a, n); err != nil {
			return err
		}
		n = d.Doc.Nodes[a.ID]
	}
	k := *n.Camera
	n.Camera = &k
	k.Aim, k.AimAt, k.Framing, k.Lag = scene.AimFree, "", [2]float64{}, 0
	at, same := slices.BinarySearchFunc(left, p.Frame, func(q scene.LeftPosition, f float64) int { return int(math.Round(q.Frame) - f) })
	if at > 0 {
		p.Turn[0] = curve.Unwrap(left[at-1].Turn[0], p.Turn[0])
	}
	if same {
		left[at] = p
	} else {
		left = slices.Insert(left, at, p)
	}
	k.Left = left
	focusOnHeld(d, a, &k)
	d.SetNode(a.ID, n)
	removeCurves(d, a.ID, []scene.Channel{scene.FramingX, scene.FramingY})
	return runThrough(d, a.ID)
}

type cameraLikeArgs struct {
	ID    string  `json:"id"`
	From  string  `json:"from"`  // another camera
	Frame float64 `json:"frame"` // story time
	What  string  `json:"what" jsonschema:"enum=picture,enum=place,enum=lens"`
	As    string  `json:"as" jsonschema:"enum=still,enum=key,enum=position"`
}

// cameraLike gives a camera what another one has at a frame: its whole picture, its place or
// its focal length. It is so from now on, by a key at the frame, or as a position that its
// move goes through there.
func cameraLike(d *Draft, a cameraLikeArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	other, err := d.camera(a.From)
	if err != nil || a.From == a.ID {
		return "", fmt.Errorf("choose another camera than %d", n.Camera.Number)
	}
	p, its := d.Stage.Picture(a.ID, a.Frame), d.Stage.Picture(a.From, a.Frame)
	switch a.What {
	case "picture":
		p = its
	case "place":
		p.World = its.World
	case "lens":
		p.Focal = its.Focal
	default:
		return "", fmt.Errorf("a camera takes the picture, place or lens of another, not its %q", a.What)
	}
	label := fmt.Sprintf("give camera %d the %s of camera %d", n.Camera.Number, a.What, other.Camera.Number)
	if a.As != "position" && a.What == "lens" {
		return label, write(d, a.ID, scene.Focal, a.Frame, fitted(d.Doc, n.Camera.Kit, p.Focal), a.As == "key")
	}
	args := cameraTakeArgs{ID: a.ID, Frame: a.Frame, Position: scene.FromR3(p.World.Origin()), Turn: scene.Vec{p.Pan, p.Tilt, p.Roll}, Focal: p.Focal, Focus: p.Focus}
	for i := range args.Position {
		args.Position[i], args.Turn[i] = tidy(args.Position[i]), tidy(args.Turn[i])
	}
	switch a.As {
	case "still":
	case "key":
		args.Key = true
	case "position":
		args.Hold = HoldMove
	default:
		return "", fmt.Errorf("a camera takes it as it stands still, as a key or as a position of its move, not as %q", a.As)
	}
	_, err = cameraTake(d, args)
	return label, err
}
