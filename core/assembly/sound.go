package assembly

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"proscen/core/edit"
	"proscen/core/scene"
)

type trackArgs struct {
	scene.Track
	ID string `json:"id,omitempty"`
}

// addTrack adds a track for sounds.
func addTrack(d *edit.Draft, a trackArgs) (string, error) {
	t := a.Track
	if t.Clock == scene.StoryClock {
		t.Assembly = ""
	}
	t.Order = len(d.Doc.Tracks) + 1
	if t.Name == "" {
		t.Name = fmt.Sprintf("sound %d", t.Order)
	}
	if a.ID == "" {
		a.ID = d.NewID()
	}
	d.SetTrack(a.ID, t)
	return "add track " + t.Name, nil
}

type trackClockArgs struct {
	ID       string      `json:"id"`
	Clock    scene.Clock `json:"clock"`
	Assembly string      `json:"assembly"`
}

// tieTrack ties a track to the other clock. Its sounds keep their frames.
func tieTrack(d *edit.Draft, a trackClockArgs) (string, error) {
	t, ok := d.Doc.Tracks[a.ID]
	if !ok {
		return "", errors.New("the track is not there any more")
	}
	t.Clock, t.Assembly = a.Clock, a.Assembly
	if t.Clock == scene.StoryClock {
		t.Assembly = ""
	}
	d.SetTrack(a.ID, t)
	return fmt.Sprintf("tie track %s to %s time", t.Name, t.Clock), nil
}

type trackRemoveArgs struct {
	ID string `json:"id"`
}

func dropTrack(d *edit.Draft, a trackRemoveArgs) (string, error) {
	t, ok := d.Doc.Tracks[a.ID]
	if !ok {
		return "", errors.New("the track is not there any more")
	}
	removeTrack(d, a.ID)
	return "remove track " + t.Name, nil
}

// removeTrack removes a track with its sounds.
func removeTrack(d *edit.Draft, id string) {
	for _, k := range slices.Sorted(maps.Keys(d.Doc.Sounds)) {
		if d.Doc.Sounds[k].Track == id {
			d.Delete("sounds", k)
		}
	}
	d.Delete("tracks", id)
}

type soundArgs struct {
	scene.Sound
	ID string `json:"id,omitempty"`
}

// addSound puts a whole sound file on a track, from In on.
func addSound(d *edit.Draft, a soundArgs) (string, error) {
	s := a.Sound
	if _, ok := d.Doc.Tracks[s.Track]; !ok {
		return "", errors.New("choose a track for the sound first")
	}
	if s.Out <= s.In {
		s.Out = s.In + max(1, int(math.Round(d.Doc.Settings.Rate.Frames(s.Seconds-s.From))))
	}
	if a.ID == "" {
		a.ID = d.NewID()
	}
	d.SetSound(a.ID, s)
	return "add sound " + s.Name, nil
}

type soundMoveArgs struct {
	ID    string `json:"id"`
	By    int    `json:"by"`
	Track string `json:"track,omitempty"` // "" for its own
}

// moveSound moves a sound on its clock, and to another track if wanted.
func moveSound(d *edit.Draft, a soundMoveArgs) (string, error) {
	s, ok := d.Doc.Sounds[a.ID]
	if !ok {
		return "", errors.New("the sound is not there any more")
	}
	s.In += a.By
	s.Out += a.By
	if a.Track != "" {
		s.Track = a.Track
	}
	d.SetSound(a.ID, s)
	return fmt.Sprintf("move sound %s by %+df", s.Name, a.By), nil
}

type soundTrimArgs struct {
	ID   string `json:"id"`
	Edge string `json:"edge"`
	By   int    `json:"by"`
}

// trimSound moves one edge of a sound, which stays where it is on its clock; it
// ends where its file does.
func trimSound(d *edit.Draft, a soundTrimArgs) (string, error) {
	s, ok := d.Doc.Sounds[a.ID]
	if !ok {
		return "", errors.New("the sound is not there any more")
	}
	rate := d.Doc.Settings.Rate
	length := s.Out - s.In
	switch a.Edge {
	case "in":
		by := max(min(a.By, length-1), -int(math.Floor(rate.Frames(s.From)+1e-6)))
		s.In += by
		s.From = max(0, s.From+rate.Seconds(float64(by)))
	case "out":
		whole := int(math.Ceil(rate.Frames(s.Seconds-s.From) - 1e-6))
		s.Out = s.In + max(1, min(length+a.By, whole))
	default:
		return "", fmt.Errorf("an edge is in or out, not %q", a.Edge)
	}
	s.FadeIn, s.FadeOut = min(s.FadeIn, s.Out-s.In), min(s.FadeOut, s.Out-s.In)
	d.SetSound(a.ID, s)
	return fmt.Sprintf("trim %s of sound %s", a.Edge, s.Name), nil
}

type lineMoveArgs struct {
	IDs  []string `json:"ids"`
	By   int      `json:"by"`
	With bool     `json:"with"` // the speakers' gestures during the lines move along
}

// moveLines moves lines in story time, with what their speakers do with hands
// and face meanwhile, or apart from it.
func moveLines(d *edit.Draft, a lineMoveArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", errors.New("no line is selected; select one first")
	}
	moved := map[string]bool{}
	for _, id := range a.IDs {
		l, ok := d.Doc.Lines[id]
		if !ok {
			return "", errors.New("the line is not there any more")
		}
		if a.With {
			for _, k := range slices.Sorted(maps.Keys(d.Doc.Actions)) {
				v := d.Doc.Actions[k]
				if v.Cast == l.Cast && v.Do.Gesture() && v.In < l.Out && v.Out > l.In && !moved[k] {
					moved[k] = true
					v.In += a.By
					v.Out += a.By
					d.SetAction(k, v)
				}
			}
		}
		l.In += a.By
		l.Out += a.By
		d.SetLine(id, l)
	}
	if len(moved) > 0 {
		return fmt.Sprintf("move %d lines and %d gestures by %+df", len(a.IDs), len(moved), a.By), nil
	}
	return fmt.Sprintf("move %d lines by %+df", len(a.IDs), a.By), nil
}
