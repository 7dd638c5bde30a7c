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

// Level is the gain of a heard piece at a screen frame, as a factor.
type Level struct {
	At   float64 `json:"at"`
	Gain float64 `json:"gain"`
}

// Heard is a piece of a sound that is heard over [In, Out) of the clock that
// plays. It begins Offset seconds into the file and runs at Speed; between
// levels the gain goes straight, and before the first and after the last it stays.
type Heard struct {
	Sound    string  `json:"sound"` // id
	In       float64 `json:"in"`
	Out      float64 `json:"out"`
	Offset   float64 `json:"offset"`
	Speed    float64 `json:"speed"`
	Levels   []Level `json:"levels"`
	Muted    bool    `json:"muted,omitempty"`    // its track is muted, or another one is solo
	Gathered bool    `json:"gathered,omitempty"` // it stands for several short pieces
}

// decibels returns the factor of a gain.
func decibels(db float64) float64 { return math.Pow(10, db/20) }

// gainAt returns the gain of a sound at a frame of its own clock.
func gainAt(s scene.Sound, gain, frame float64) float64 {
	g := 1.0
	if s.FadeIn > 0 {
		g = min(g, (frame-float64(s.In))/float64(s.FadeIn))
	}
	if s.FadeOut > 0 {
		g = min(g, (float64(s.Out)-frame)/float64(s.FadeOut))
	}
	return gain * max(0, g)
}

// Schedule lists what is heard while a clock plays, in order: on the screen
// clock what an assembly shows, where the sounds of the story jump with the cut
// and run with its shots' speeds, and its own tracks; on the story clock only
// the sounds of the story. Only pieces that meet [from, to) of the clock are
// listed.
//
// Pieces of one sound that are shorter than a number of frames and lie within it
// of each other are gathered, for a strip on which each would be too narrow to
// see. What is gathered has the level of its first piece.
func Schedule(doc *scene.Document, assembly string, p *Program, clock scene.Clock, from, to, least float64) []Heard {
	solo := false
	for _, t := range doc.Tracks {
		solo = solo || t.Solo && (t.Clock == scene.StoryClock || t.Assembly == assembly)
	}
	out := []Heard{}
	for _, id := range slices.Sorted(maps.Keys(doc.Sounds)) {
		s := doc.Sounds[id]
		t := doc.Tracks[s.Track]
		if t.Clock == scene.ScreenClock && (clock != scene.ScreenClock || t.Assembly != assembly) {
			continue
		}
		gain := decibels(t.Gain + s.Gain)
		in, end := float64(s.In), min(float64(s.Out), float64(s.In)+doc.Settings.Rate.Frames(s.Seconds-s.From))
		if end <= in {
			continue
		}
		short := -1 // the place of the piece that the next short one may join
		// piece adds what is heard of [a, b) of the sound's clock from a frame on.
		piece := func(a, b, at, speed float64) {
			a, b, at = max(a, in), min(b, end), at+(max(a, in)-a)/speed
			if b <= a || at >= to || at+(b-a)/speed <= from {
				return
			}
			if length := (b - a) / speed; length < least {
				if short >= 0 && at-out[short].Out < least {
					first := &out[short]
					first.Gathered, first.Levels = true, first.Levels[:1]
					first.Out = max(first.Out, at+length)
					return
				}
				short = len(out)
			}
			h := Heard{Sound: id, In: at, Out: at + (b-a)/speed, Offset: s.From + doc.Settings.Rate.Seconds(a-in), Speed: speed, Muted: t.Mute || solo && !t.Solo}
			for _, k := range []float64{a, in + float64(s.FadeIn), float64(s.Out - s.FadeOut), b} {
				if k >= a && k <= b && (len(h.Levels) == 0 || at+(k-a)/speed > h.Levels[len(h.Levels)-1].At) {
					h.Levels = append(h.Levels, Level{at + (k-a)/speed, gainAt(s, gain, k)})
				}
			}
			if !slices.ContainsFunc(h.Levels, func(l Level) bool { return l.Gain != h.Levels[0].Gain }) {
				h.Levels = h.Levels[:1]
			}
			out = append(out, h)
		}
		if t.Clock == clock {
			piece(in, end, in, 1)
			continue
		}
		for shot := range p.between(from, to) { // a sound of the story, heard through the cut
			if shot.Speed > 0 {
				piece(shot.StoryIn, shot.StoryOut(), float64(shot.ScreenIn), shot.Speed)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Heard) int {
		if a.In < b.In {
			return -1
		} else if a.In > b.In {
			return 1
		}
		return 0
	})
	return out
}

type trackArgs struct {
	scene.Track
	ID string `json:"id"`
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
	ID string `json:"id"`
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
	Track string `json:"track"` // "" for its own
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
