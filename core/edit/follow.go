package edit

import (
	"math"

	"proscen/core/patch"
	"proscen/core/scene"
)

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
