package edit

import (
	"errors"
	"fmt"
	"maps"
	"math"

	"proscen/core/kit"
	"proscen/core/scene"
)

type planLayArgs struct {
	Picture scene.Screen `json:"picture"`
	Metres  float64      `json:"metres"` // how wide all of the picture is
	ID      string       `json:"id,omitempty"`
}

// planLift is how far in metres a ground plan lies above the ground, so as to be seen.
const planLift = 0.02

// planLay lays a picture of a ground plan on the ground, to scale, its top to −Z and its
// middle in the middle of the set. No camera sees it, and it is locked, so that what is built
// on it is chosen and not it.
func planLay(d *Draft, a planLayArgs) (string, error) {
	aspect := a.Picture.Aspect()
	if !(aspect > 0) || math.IsInf(aspect, 0) || a.Picture.Blob == "" {
		return "", errors.New("choose the picture of a plan first")
	}
	height := a.Metres / aspect
	const least, most = 0.05, 400 // of a picture plane
	if !(min(a.Metres, height) >= least && max(a.Metres, height) <= most) {
		return "", fmt.Errorf("the plan would be %.4g by %.4g m; it is from %g to %d m on a side. Check the length between the two points", a.Metres, height, least, most)
	}
	name := a.Picture.Name
	if name == "" {
		name = "Ground plan"
	}
	d.SetNode(pick(d, a.ID), scene.Node{
		Kind: scene.KindSet, Name: freeName(d.Doc, name), Locked: true, Shooting: &scene.Shooting{Hidden: true},
		Position: scene.Vec{0, planLift, tidy(height / 2)}, Turn: scene.Vec{180, 90, 0}, Screen: &a.Picture,
		Piece: &scene.Piece{Stock: kit.Screen, Params: map[string]float64{"width": tidy(a.Metres), "height": tidy(height)}},
	})
	return "lay the ground plan " + name, nil
}

type screenShowArgs struct {
	ID     string        `json:"id"`
	Screen *scene.Screen `json:"screen,omitempty"` // nothing leaves the plane without a picture
}

// screenShow shows a picture or a video on a picture plane. Another one than before gives
// the plane its shape: it stays as wide as it is.
func screenShow(d *Draft, a screenShowArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.ID]
	if !ok || n.Piece == nil || n.Piece.Stock != kit.Screen {
		return "", errors.New("a picture is shown on a picture plane; place one from the stock first")
	}
	if err := unlocked(n); err != nil {
		return "", err
	}
	before := n.Screen
	if n.Screen = a.Screen; a.Screen == nil {
		d.SetNode(a.ID, n)
		return "take the picture from " + n.Name, nil
	}
	aspect := a.Screen.Aspect()
	if !(aspect > 0) || math.IsInf(aspect, 0) {
		return "", errors.New("the picture for the plane has no size")
	}
	if before == nil || before.Aspect() != aspect {
		p := *n.Piece
		p.Params = maps.Clone(p.Params)
		if p.Params == nil {
			p.Params = map[string]float64{}
		}
		p.Params["height"] = tidy(kit.Value(p.Stock, p.Params, "width") / aspect)
		n.Piece = &p
	}
	d.SetNode(a.ID, n)
	what := "a picture"
	if f := a.Screen.Film; f != nil {
		what = f.Name
	} else if a.Screen.Name != "" {
		what = a.Screen.Name
	}
	return fmt.Sprintf("show %s on %s", what, n.Name), nil
}
