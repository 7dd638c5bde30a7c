package edit

import (
	"fmt"

	"proscen/core/resection"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
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
	k := *n.Camera
	n.Camera = &k
	k.Match = a.Match
	d.SetNode(a.ID, n)
	if a.Match == nil {
		return fmt.Sprintf("take the matched picture from camera %d", k.Number), nil
	}
	label := fmt.Sprintf("match camera %d to a picture", k.Number)
	working := d.Doc.Settings.Format
	format := d.Doc.Formats[working]
	switch {
	case k.Formats[working] != scene.Reframe{}:
		return "", fmt.Errorf("camera %d makes its picture of %s by itself; match it in another format, or take that away under all shapes", k.Number, format.Name)
	case len(a.Match.Points) < resection.Least:
		return label, nil
	case a.Match.Width < 1 || a.Match.Height < 1:
		return "", fmt.Errorf("the picture that camera %d is to be matched to has no size", k.Number)
	}
	now := d.Stage.Picture(a.ID, a.Frame)
	lens := lensOf(now)
	lens.Free = a.Match.Free
	pairs := MatchPairs(a.Match, format.Aspect())
	found, err := resection.Solve(pairs, lens, now.World)
	if err != nil {
		return label, nil // the picture says what is wrong with its points
	}
	if f := fitted(d.Doc, k.Kit, found.Focal); f != found.Focal {
		// Of the lenses that there are it is the nearest one, and its place is that lens's.
		lens.Free, lens.Focal = false, f
		if found, err = resection.Solve(pairs, lens, found.World); err != nil {
			return label, nil
		}
	}
	return label, putAsFound(d, a, found)
}

// putAsFound puts a camera where a resection has found it. One that keeps the horizon level
// gives that up for a picture that does not.
func putAsFound(d *Draft, a cameraMatchArgs, found resection.Pose) error {
	pan, tilt, roll := found.World.Angles()
	take := cameraTakeArgs{ID: a.ID, Frame: a.Frame, Position: scene.FromR3(found.World.Origin()), Turn: scene.Vec{pan, tilt, roll}, Focal: found.Focal, Key: a.Key}
	for i := range take.Position {
		take.Position[i], take.Turn[i] = tidy(take.Position[i]), tidy(take.Turn[i])
	}
	if _, err := editCamera(d, a.ID, func(_ *scene.Node, k *scene.Camera) error {
		k.Level = k.Level && take.Turn[2] == 0
		return nil
	}); err != nil {
		return err
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

// lensOf returns what decides where a picture shows things: its half width and height and
// its shift in mm at its focal length, from where it shows three points that lie ahead.
func lensOf(p Picture) resection.Lens {
	w, from := &p.World, p.World.Origin()
	ahead := func(x, y float64) r3.Vec { return r3.Add(from, w.Dir(r3.Vec{X: x, Y: y, Z: -1})) }
	x0, y0, _ := p.Project(ahead(0, 0))
	x1, _, _ := p.Project(ahead(1, 0))
	_, y1, _ := p.Project(ahead(0, 1))
	half := [2]float64{p.Focal / (x1 - x0), p.Focal / (y1 - y0)}
	return resection.Lens{Half: half, Shift: [2]float64{-x0 * half[0], -y0 * half[1]}, Focal: p.Focal, Least: shortest, Most: longest}
}

// Focal lengths in mm between which one is found.
const shortest, longest = 4, 1200
