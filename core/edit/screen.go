package edit

import (
	"errors"
	"fmt"
	"maps"
	"math"

	"proscen/core/kit"
	"proscen/core/scene"
)

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
