package edit

import (
	"fmt"
	"math"

	"proscen/core/curve"
	"proscen/core/kit"
	"proscen/core/scene"
)

// inAir is how high in metres over the floor a path lies that was drawn for what flies: a
// camera on a lower one is as high as the eyes of who walks there.
const inAir = 2.0

// Paces of what goes along a path, in m/s.
const (
	WalkingPace = walkSpeed
	DrivingPace = 8.3 // 30 km/h
)

type cameraOnPathArgs struct {
	Path   string   `json:"path"`
	Frame  float64  `json:"frame"`            // story time at which it sets off
	Speed  float64  `json:"speed,omitempty"`  // m/s, 0 for the pace of walking
	Height *float64 `json:"height,omitempty"` // metres of the lens above what is under the path; nil for the usual one
	At     string   `json:"at,omitempty"`     // the subject that it aims at, "" for along the path
	Like   string   `json:"like,omitempty"`   // a camera whose sensor, kit and stop it has
	ID     string   `json:"id,omitempty"`
}

// cameraOnPath leaves a new camera on a path, which it goes along from its start to its end
// at an even pace. The move is fitted into the story: it begins earlier where it would end
// after it, and goes faster where the story is too short for it.
func cameraOnPath(d *Draft, a cameraOnPathArgs) (string, error) {
	p, ok := d.Doc.Paths[a.Path]
	if !ok {
		return "", fmt.Errorf("the path is not there any more")
	}
	c, err := compiled(p)
	if err != nil {
		return "", err
	}
	if a.At != "" {
		if _, ok := d.Doc.Nodes[a.At]; !ok {
			return "", fmt.Errorf("the subject that the camera is to aim at is not there")
		}
	}
	if a.Speed < 0 || math.IsNaN(a.Speed) {
		return "", fmt.Errorf("a camera goes along a path with more than 0 m/s, not %g; reverse the path to go the other way", a.Speed)
	}
	if a.Speed == 0 {
		a.Speed = WalkingPace
	}
	over := overFloor(d.Stage, c, a.Frame)
	height := usualHeight(over)
	if a.Height != nil {
		height = *a.Height
	}
	id := pick(d, a.ID)
	number := NextCamera(d.Doc)
	args := cameraAddArgs{Name: fmt.Sprintf("Camera %d on %s", number, p.Name), Position: scene.Vec{0, height - over, 0}, Like: a.Like, ID: id}
	if _, err := cameraAdd(d, args); err != nil {
		return "", err
	}
	n, err := editCamera(d, id, func(n *scene.Node, k *scene.Camera) error {
		n.Path, k.Support, k.Aim = a.Path, scene.Dolly, scene.AimAlong
		if a.At != "" {
			k.Aim, k.AimAt, k.FocusOn = scene.AimAt, a.At, a.At
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	story := d.Doc.Settings.Story
	first, last := float64(story.In), float64(story.Out-1)
	lasts := max(1, math.Round(d.Doc.Settings.Rate.Frames(c.Length()/a.Speed)))
	in := max(first, min(math.Round(a.Frame), last-lasts))
	out := max(in+1, min(in+lasts, last))
	putKey(d, id, scene.Travel, in, 0, curve.Even)
	putKey(d, id, scene.Travel, out, 1, curve.Even)
	return fmt.Sprintf("put camera %d on %s", n.Camera.Number, p.Name), nil
}

// overFloor returns how high in metres a path begins over what is under it.
func overFloor(stage Stage, path *curve.Path, frame float64) float64 {
	begin := path.At(0)
	y, _ := stage.Below(frame, nil)(begin)
	return begin.Y - y
}

func usualHeight(over float64) float64 {
	if over < inAir {
		return kit.EyeHeight
	}
	return over
}

// UsualHeight returns how high in metres over what is under it a camera is put on a path when
// nothing else is said; 0 for a path that is not there.
func UsualHeight(doc *scene.Document, stage Stage, path string, frame float64) float64 {
	c, err := compiled(doc.Paths[path])
	if err != nil {
		return 0
	}
	return usualHeight(overFloor(stage, c, frame))
}
