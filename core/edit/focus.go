package edit

import (
	"fmt"
	"slices"

	"proscen/core/curve"
	"proscen/core/scene"
)

type focusFollowArgs struct {
	ID string `json:"id"`
	On string `json:"on"` // the subject that stays in focus, "" for none
}

// focusFollow keeps a subject in focus all the time, or lets go of it. Keys of
// the focus go.
func focusFollow(d *Draft, a focusFollowArgs) (string, error) {
	n, err := editCamera(d, a.ID, func(_ *scene.Node, k *scene.Camera) error {
		k.FocusOn = a.On
		return nil
	})
	if err != nil {
		return "", err
	}
	removeCurves(d, a.ID, []scene.Channel{scene.Focus})
	if a.On == "" {
		return fmt.Sprintf("let go of the focus of camera %d", n.Camera.Number), nil
	}
	return fmt.Sprintf("keep %s in focus of camera %d", d.Doc.Nodes[a.On].Name, n.Camera.Number), nil
}

type focusPullArgs struct {
	ID    string  `json:"id"`
	Frame float64 `json:"frame"` // the frame at which it is in focus
	On    string  `json:"on"`    // a subject, or
	Focus float64 `json:"focus"` // a distance in metres
}

// focusPull keys the focus: at the frame it is on a subject, which it follows,
// or at a distance. A pull begins at the key before; without one, what was in
// focus is left one second before.
func focusPull(d *Draft, a focusPullArgs) (string, error) {
	n, err := d.camera(a.ID)
	if err != nil {
		return "", err
	}
	if a.On == "" && a.Focus < 0.05 {
		return "", fmt.Errorf("focus is at least 0.05 m away, not %g", a.Focus)
	}
	id, c := curveOf(d.Doc, a.ID, scene.Focus)
	if id == "" {
		id = d.NewID()
	}
	keys := slices.Clone(c.Keys)
	put := func(k curve.Key) {
		keys = slices.DeleteFunc(keys, func(o curve.Key) bool { return o.Frame == k.Frame })
		keys = append(keys, k)
		slices.SortFunc(keys, func(a, b curve.Key) int {
			if a.Frame < b.Frame {
				return -1
			}
			return 1
		})
	}
	if on := n.Camera.FocusOn; on != "" && on != a.On {
		put(curve.Key{Frame: a.Frame - d.Doc.Settings.Rate.Frames(1), Value: d.Stage.Picture(a.ID, a.Frame).Focus, Ease: curve.Soft, On: on})
	}
	k := curve.Key{Frame: a.Frame, Value: a.Focus, Ease: curve.Soft, On: a.On}
	what := fmt.Sprintf("%.2f m", a.Focus)
	if a.On != "" {
		pic := d.Stage.Picture(a.ID, a.Frame)
		_, _, depth := pic.Project(d.Stage.Subject(a.On, a.Frame))
		if depth <= 0.05 {
			return "", fmt.Errorf("%s is behind camera %d at this frame", d.Doc.Nodes[a.On].Name, n.Camera.Number)
		}
		k.Value, what = depth, d.Doc.Nodes[a.On].Name
	}
	put(k)
	c.Keys = keys
	d.SetCurve(id, c)
	if n.Camera.FocusOn != "" {
		if _, err := editCamera(d, a.ID, func(_ *scene.Node, k *scene.Camera) error {
			k.FocusOn = ""
			return nil
		}); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("pull focus of camera %d to %s", n.Camera.Number, what), nil
}

// looseFocus lets the keys of focuses that follow a node go on at the distance
// that they had.
func looseFocus(d *Draft, node string) {
	for _, id := range ids(d.Doc.Curves) {
		c := d.Doc.Curves[id]
		if c.Channel != scene.Focus || !slices.ContainsFunc(c.Keys, func(k curve.Key) bool { return k.On == node }) {
			continue
		}
		c.Keys = slices.Clone(c.Keys)
		for i := range c.Keys {
			if c.Keys[i].On == node {
				c.Keys[i].On = ""
			}
		}
		d.SetCurve(id, c)
	}
}
