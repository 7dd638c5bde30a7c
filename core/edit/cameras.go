package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"proscen/core/scene"
)

// CameraColors are the twelve colours that cameras are given in turn; each is
// always shown with the camera's number.
var CameraColors = []string{
	"#6fa8dc", "#e0a458", "#7fbf7b", "#c58ac9", "#d8c95b", "#5fb7b2",
	"#e58b88", "#9a93e0", "#b0c46a", "#d79ab8", "#8fb3c9", "#c9a27e",
}

// DefaultSensor is the width and height in mm of a Super 35 sensor.
var DefaultSensor = [2]float64{24.89, 18.66}

type cameraAddArgs struct {
	Position scene.Vec `json:"position"`
	Turn     scene.Vec `json:"turn"`
	Name     string    `json:"name,omitempty"`
	Focal    float64   `json:"focal"`
	Focus    float64   `json:"focus,omitempty"`   // metres
	FocusOn  string    `json:"focusOn,omitempty"` // the subject that focus follows
	Like     string    `json:"like,omitempty"`    // a camera whose sensor, kit and stop it has
	ID       string    `json:"id,omitempty"`

	Hold    Hold       `json:"hold,omitempty"` // how its picture goes on from the frame; see cameraTake
	On      string     `json:"on,omitempty"`   // the subject that is held
	Frame   float64    `json:"frame,omitempty"`
	Framing [2]float64 `json:"framing,omitempty"`
}

// cameraAdd leaves a camera with the next free number, the next colour and a
// name. Without Like it is like the camera with the highest number; the first
// one takes its lenses from the first kit.
func cameraAdd(d *Draft, a cameraAddArgs) (string, error) {
	k := NewCamera(d.Doc, a.Like, a.Focal)
	number := k.Number
	if a.Name == "" {
		a.Name = "Camera " + strconv.Itoa(number)
	}
	if a.Focus > 0 {
		k.Focus = a.Focus
	}
	k.FocusOn = a.FocusOn
	id := pick(d, a.ID)
	n := scene.Node{Kind: scene.KindCamera, Name: a.Name, Position: a.Position, Turn: a.Turn, Camera: &k}
	d.SetNode(id, n)
	label := fmt.Sprintf("add camera %d", number)
	if a.Hold == HoldStill {
		return label, nil
	}
	_, err := hold(d, cameraTakeArgs{ID: id, Frame: a.Frame, Position: a.Position, Turn: a.Turn, Focal: k.Focal, Focus: k.Focus, Hold: a.Hold, On: a.On, Framing: a.Framing}, n)
	return label, err
}

// NewCamera returns the camera that is left next: with the next free number and colour, and
// what else it has from the camera that it is like, else from the one with the highest
// number; the first one takes its lenses from the first kit. A focal length of 0 keeps theirs.
func NewCamera(doc *scene.Document, like string, focal float64) scene.Camera {
	number := NextCamera(doc)
	k := scene.Camera{Sensor: DefaultSensor, Focal: 35, Stop: 2.8, Focus: 4}
	if kits := ids(doc.Kits); number == 1 && len(kits) > 0 {
		k.Kit, k.Squeeze = kits[0], doc.Kits[kits[0]].Squeeze
	}
	for id, n := range doc.Nodes {
		if n.Camera != nil && (id == like || like == "" && n.Camera.Number == number-1) {
			k = scene.Camera{Sensor: n.Camera.Sensor, Kit: n.Camera.Kit, Squeeze: n.Camera.Squeeze, Focal: n.Camera.Focal, Stop: n.Camera.Stop, Focus: 4}
		}
	}
	k.Number, k.Color, k.Support, k.Aim = number, CameraColors[(number-1)%len(CameraColors)], scene.Sticks, scene.AimFree
	if focal > 0 {
		k.Focal = focal
	}
	k.Focal = fitted(doc, k.Kit, k.Focal)
	return k
}

// NextCamera returns the number after the highest that a camera has.
func NextCamera(doc *scene.Document) int {
	number := 1
	for _, n := range doc.Nodes {
		if n.Camera != nil {
			number = max(number, n.Camera.Number+1)
		}
	}
	return number
}

// camera returns a camera node with a camera of its own, that can be changed and
// stored.
func (d *Draft) camera(id string) (scene.Node, error) {
	n, ok := d.Doc.Nodes[id]
	if !ok || n.Camera == nil {
		return n, fmt.Errorf("the camera is not there any more")
	}
	k := *n.Camera
	n.Camera = &k
	return n, nil
}

// freeCamera is camera for one that is not locked.
func (d *Draft) freeCamera(id string) (scene.Node, error) {
	n, err := d.camera(id)
	if err != nil {
		return n, err
	}
	return n, unlocked(n)
}

// editCamera hands a copy of a camera to a function that changes it, and stores
// it.
func editCamera(d *Draft, id string, change func(n *scene.Node, k *scene.Camera) error) (scene.Node, error) {
	n, err := d.camera(id)
	if err != nil {
		return n, err
	}
	if err := change(&n, n.Camera); err != nil {
		return n, err
	}
	d.SetNode(id, n)
	return n, nil
}

type cameraCopyArgs struct {
	ID    string  `json:"id"`
	Keys  bool    `json:"keys"`         // with all that is animated; else as it is at the frame, on sticks
	Frame float64 `json:"frame"`        // story time
	As    string  `json:"as,omitempty"` // id of the copy
}

// cameraCopy duplicates a camera: whole, with a path and keys of its own, or as
// a still camera with the same picture at the frame.
func cameraCopy(d *Draft, a cameraCopyArgs) (string, error) {
	n, err := d.camera(a.ID)
	if err != nil {
		return "", err
	}
	if !a.Keys {
		p := d.Stage.Picture(a.ID, a.Frame)
		k := *n.Camera
		k.Number = NextCamera(d.Doc)
		k.Color = CameraColors[(k.Number-1)%len(CameraColors)]
		k.Support, k.Unrest, k.Aim, k.AimAt, k.Left, k.Level, k.Lag, k.Archived, k.Order = scene.Sticks, nil, scene.AimFree, "", nil, false, 0, false, 0
		k.Focal, k.Focus = p.Focal, p.Focus
		at := p.World.Origin()
		d.SetNode(pick(d, a.As), scene.Node{Kind: scene.KindCamera, Name: freeName(d.Doc, n.Name), Position: scene.FromR3(at), Turn: scene.Vec{p.Pan, p.Tilt, p.Roll}, Camera: &k})
		return "duplicate " + n.Name, nil
	}
	copiesOf(d).copyNode(a.ID, n.Parent, a.As)
	return "duplicate " + n.Name + " with its move", nil
}

type cameraNumberArgs struct {
	ID     string `json:"id"`
	Number int    `json:"number"`
}

// cameraNumber gives a camera another number. One that has it already takes the
// camera's old number.
func cameraNumber(d *Draft, a cameraNumberArgs) (string, error) {
	if a.Number < 1 || a.Number > 9999 {
		return "", fmt.Errorf("a camera's number is from 1 to 9999, not %d", a.Number)
	}
	old := 0
	if _, err := editCamera(d, a.ID, func(_ *scene.Node, k *scene.Camera) error {
		old, k.Number = k.Number, a.Number
		return nil
	}); err != nil {
		return "", err
	}
	label := fmt.Sprintf("renumber camera %d as %d", old, a.Number)
	for _, id := range ids(d.Doc.Nodes) {
		if n := d.Doc.Nodes[id]; id != a.ID && n.Camera != nil && n.Camera.Number == a.Number {
			label = fmt.Sprintf("swap the numbers of cameras %d and %d", old, a.Number)
			_, err := editCamera(d, id, func(_ *scene.Node, k *scene.Camera) error {
				k.Number = old
				return nil
			})
			return label, err
		}
	}
	return label, nil
}

type cameraOrderArgs struct {
	IDs []string `json:"ids"` // all cameras, as they are to stand on the wall
}

// cameraOrder puts the cameras of the wall in an order.
func cameraOrder(d *Draft, a cameraOrderArgs) (string, error) {
	for i, id := range a.IDs {
		if _, err := editCamera(d, id, func(_ *scene.Node, k *scene.Camera) error {
			k.Order = i + 1
			return nil
		}); err != nil {
			return "", err
		}
	}
	return "reorder the wall", nil
}

type cameraFolderArgs struct {
	IDs    []string `json:"ids"`
	Folder string   `json:"folder"` // "" for none
}

// cameraFolder puts cameras into a folder of the wall, which is there as long as a camera
// is in it.
func cameraFolder(d *Draft, a cameraFolderArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", fmt.Errorf("choose the cameras that go into the folder")
	}
	a.Folder = strings.TrimSpace(a.Folder)
	for _, id := range a.IDs {
		if _, err := editCamera(d, id, func(_ *scene.Node, k *scene.Camera) error {
			k.Folder = a.Folder
			return nil
		}); err != nil {
			return "", err
		}
	}
	what := "a camera"
	if len(a.IDs) > 1 {
		what = fmt.Sprintf("%d cameras", len(a.IDs))
	}
	if a.Folder == "" {
		return fmt.Sprintf("take %s out of the folder", what), nil
	}
	return fmt.Sprintf("put %s into %s", what, a.Folder), nil
}

type cameraArchiveArgs struct {
	ID      string `json:"id"`
	Archive bool   `json:"archive"`
}

// cameraArchive takes a camera off the wall, or puts it back. Shots that use it
// go on doing so; the label names them.
func cameraArchive(d *Draft, a cameraArchiveArgs) (string, error) {
	n, err := editCamera(d, a.ID, func(_ *scene.Node, k *scene.Camera) error {
		k.Archived = a.Archive
		return nil
	})
	if err != nil {
		return "", err
	}
	if !a.Archive {
		return "put " + n.Name + " back on the wall", nil
	}
	if used := shotsOf(d.Doc, a.ID); len(used) > 0 {
		return fmt.Sprintf("archive %s, which %s goes on using", n.Name, shotList(used)), nil
	}
	return "archive " + n.Name, nil
}

// shotsOf lists the numbers of the shots that use a camera.
func shotNumbers(doc *scene.Document, shots []string) (numbers []string) {
	for _, id := range shots {
		numbers = append(numbers, doc.Shots[id].Number)
	}
	slices.Sort(numbers)
	return numbers
}

func shotsOf(doc *scene.Document, camera string) []string {
	var used []string
	for _, s := range doc.Shots {
		for id := range s.Cameras {
			if id == camera {
				used = append(used, s.Number)
			}
		}
	}
	slices.Sort(used)
	return used
}

func shotList(numbers []string) string { return "shot " + strings.Join(numbers, ", ") }
