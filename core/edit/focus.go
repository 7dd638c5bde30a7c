package edit

import (
	"fmt"
	"math"
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
	id, c := d.Doc.CurveOf(a.ID, scene.Focus)
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

type focusPickArgs struct {
	ID    string     `json:"id"`
	Frame float64    `json:"frame"`
	Node  string     `json:"node"`         // what is under the pointer, "" for nothing
	At    *scene.Vec `json:"at,omitempty"` // the place in the world (m), nil for nothing
	Pull  bool       `json:"pull"`         // keys the focus at the frame
	Key   bool       `json:"key"`          // what is not a pull sets a key too
}

// farFocus is where a lens is focused that looks at nothing, in metres.
const farFocus = 1000

// focusPick focuses on what was picked in the picture: on people and things that
// are handled by following them, on all else by its distance.
func focusPick(d *Draft, a focusPickArgs) (string, error) {
	n, err := d.camera(a.ID)
	if err != nil {
		return "", err
	}
	on, depth := "", float64(farFocus)
	switch d.Doc.Nodes[a.Node].Kind {
	case scene.KindCast, scene.KindProp, scene.KindVehicle, scene.KindAim:
		on = a.Node
	}
	if a.At != nil {
		_, _, depth = d.Stage.Picture(a.ID, a.Frame).Project(a.At.R3())
		depth = math.Round(depth*1000) / 1000
	}
	if a.Pull {
		return focusPull(d, focusPullArgs{ID: a.ID, Frame: math.Round(a.Frame), On: on, Focus: depth})
	}
	if on != "" {
		return focusFollow(d, focusFollowArgs{a.ID, on})
	}
	if n.Camera.FocusOn != "" {
		if _, err := focusFollow(d, focusFollowArgs{ID: a.ID}); err != nil {
			return "", err
		}
	}
	return value(d, valueArgs{Node: a.ID, Channel: scene.Focus, Frame: a.Frame, Value: depth, Key: a.Key})
}

// looseFocus lets the keys of focuses that follow a node, which are on some curves,
// go on at the distance that they had.
func looseFocus(d *Draft, node string, curves []string) {
	for _, id := range curves {
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
