package edit

import (
	"errors"
	"fmt"
	"math"

	"proscen/core/patch"
	"proscen/core/scene"
)

type formatPutArgs struct {
	ID      string `json:"id"` // of the format that is replaced; a new one's may be left out
	Name    string `json:"name"`
	Width   int    `json:"width"` // pixels
	Height  int    `json:"height"`
	Deliver bool   `json:"deliver"`
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
	return "remove the format " + f.Name, nil
}

// followAction lets the story range end where the action does, if the scene wants
// that and the draft has touched what happens: deeds, lines and keys. A second
// stays in any case.
func followAction(d *patch.Draft) error {
	s := d.Doc.Settings
	if !s.Follow || !touchesAction(d) {
		return nil
	}
	end := s.Story.In + int(math.Ceil(s.Rate.PerSecond()))
	for _, a := range d.Doc.Actions {
		end = max(end, a.Out)
	}
	for _, l := range d.Doc.Lines {
		end = max(end, l.Out)
	}
	for _, c := range d.Doc.Curves {
		if n := len(c.Keys); n > 0 {
			end = max(end, int(math.Ceil(c.Keys[n-1].Frame))+1)
		}
	}
	if s.Story.Out == end {
		return nil
	}
	s.Story.Out = end
	return d.SetJSON("settings", scene.SettingsID, scene.Canonical(s))
}

func touchesAction(d *patch.Draft) bool {
	for _, o := range d.Others() {
		switch o.Collection {
		case "actions", "lines", "curves", "settings":
			return true
		}
	}
	return false
}
