package edit

import (
	"fmt"

	"proscen/core/optics"
	"proscen/core/resection"
	"proscen/core/scene"
)

type cameraMatchArgs struct {
	ID    string       `json:"id"`
	Frame float64      `json:"frame"`           // story time
	Key   bool         `json:"key,omitempty"`   // it is there by keys at the frame; else it stands there, on sticks
	Match *scene.Match `json:"match,omitempty"` // nothing takes the picture away, and leaves the camera
}

// cameraMatch matches a camera to a picture: it is put where the picture shows points of
// the set as it does, as nearly as can be. With too few points, or such that no camera sees
// so, the picture and its points are kept and the camera stays; questions.Matched says so.
func cameraMatch(d *Draft, a cameraMatchArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	label := fmt.Sprintf("match camera %d to a picture", n.Camera.Number)
	k := *n.Camera
	n.Camera = &k
	if k.Match = a.Match; a.Match == nil {
		label = fmt.Sprintf("take the matched picture from camera %d", n.Camera.Number)
	}
	d.SetNode(a.ID, n)
	if a.Match == nil || len(a.Match.Points) < resection.Least {
		return label, nil
	}
	if a.Match.Width < 1 || a.Match.Height < 1 {
		return "", fmt.Errorf("the picture that camera %d is to be matched to has no size", k.Number)
	}
	now := d.Stage.Picture(a.ID, a.Frame)
	seen := Seen(d.Doc, &k, now.Focal)
	pairs := MatchPairs(a.Match, d.Doc.Formats[d.Doc.Settings.Format].Aspect())
	found, err := resection.Solve(pairs, seen, now.World)
	if err != nil {
		return label, nil // the picture says what is wrong with its points
	}
	if f := fitted(d.Doc, k.Kit, found.Focal); f != found.Focal {
		// Of the lenses that there are it is the nearest one, and its place is that lens's.
		seen.Free, seen.Focal = false, f
		if found, err = resection.Solve(pairs, seen, found.World); err != nil {
			return label, nil
		}
	}
	return label, putAsFound(d, a, found)
}

// putAsFound puts a camera where a resection has found it.
func putAsFound(d *Draft, a cameraMatchArgs, found resection.Pose) error {
	at := found.World.Origin()
	pan, tilt, roll := found.World.Angles()
	take := cameraTakeArgs{ID: a.ID, Frame: a.Frame, Position: scene.FromR3(at), Turn: scene.Vec{pan, tilt, roll}, Focal: found.Focal, Key: a.Key}
	for i := range take.Position {
		take.Position[i], take.Turn[i] = tidy(take.Position[i]), tidy(take.Turn[i])
	}
	_, err := cameraTake(d, take)
	return err
}

// MatchPairs returns the points of a match as a frame of an aspect shows them.
func MatchPairs(m *scene.Match, aspect float64) []resection.Pair {
	by := m.Fitted(aspect)
	out := make([]resection.Pair, len(m.Points))
	for i, p := range m.Points {
		out[i] = resection.Pair{World: p.At.R3(), X: p.In[0] * by[0], Y: p.In[1] * by[1]}
	}
	return out
}

// Seen returns what decides where a camera sees things at a focal length in mm, which is
// found too when the camera's match says so.
func Seen(doc *scene.Document, k *scene.Camera, focal float64) resection.Lens {
	squeeze := k.Squeeze
	if squeeze == 0 {
		squeeze = 1
	}
	g := optics.CropGate(k.Sensor[0], k.Sensor[1], doc.Formats[doc.Settings.Format].Aspect(), squeeze)
	return resection.Lens{
		Half: [2]float64{g.Width * squeeze / 2, g.Height / 2}, Shift: [2]float64{k.Shift[0] * squeeze, k.Shift[1]},
		Focal: focal, Free: k.Match != nil && k.Match.Free, Least: 4, Most: 1200,
	}
}
