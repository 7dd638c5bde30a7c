package edit

import (
	"errors"
	"fmt"

	"proscen/core/scene"
)

type formatPutArgs struct {
	ID      string `json:"id,omitempty"` // of the format that is replaced; a new one's may be left out
	Name    string `json:"name"`
	Width   int    `json:"width"` // pixels
	Height  int    `json:"height"`
	Deliver bool   `json:"deliver,omitempty"`
}

// formatPut adds a format or replaces one.
func formatPut(d *Draft, a formatPutArgs) (string, error) {
	// Videos carry colour for squares of two pixels.
	if a.Width%2 != 0 || a.Height%2 != 0 {
		return "", fmt.Errorf("a format has even numbers of pixels, not %d x %d", a.Width, a.Height)
	}
	label := "add the format " + a.Name
	if _, ok := d.Doc.Formats[a.ID]; ok {
		label = "change the format " + a.Name
	}
	d.SetFormat(pick(d, a.ID), scene.Format{Name: a.Name, Width: a.Width, Height: a.Height, Deliver: a.Deliver})
	return label, nil
}

type formatRemoveArgs struct {
	ID string `json:"id"`
}

func formatRemove(d *Draft, a formatRemoveArgs) (string, error) {
	f, ok := d.Doc.Formats[a.ID]
	switch {
	case !ok:
		return "", errors.New("the format is not there any more")
	case d.Doc.Settings.Format == a.ID:
		return "", fmt.Errorf("%s is the format that is worked in; choose another one first", f.Name)
	}
	d.Delete("formats", a.ID)
	for id, n := range d.Doc.Nodes {
		if n.Camera != nil {
			if _, ok := n.Camera.Formats[a.ID]; ok {
				d.SetNode(id, framedNode(n, a.ID, scene.Reframe{}))
			}
		}
	}
	for id, s := range d.Doc.Shots {
		if _, ok := s.Framed()[a.ID]; ok {
			d.SetShot(id, framedShot(s, a.ID, scene.ShotFrame{}))
		}
	}
	return "remove the format " + f.Name, nil
}
