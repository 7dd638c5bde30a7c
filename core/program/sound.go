package program

import (
	"maps"
	"math"
	"slices"

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

// GainAt returns the gain at a frame of the clock that plays.
func (h Heard) GainAt(frame float64) float64 {
	if len(h.Levels) == 0 {
		return 1
	}
	i := slices.IndexFunc(h.Levels, func(l Level) bool { return l.At > frame })
	switch i {
	case -1:
		return h.Levels[len(h.Levels)-1].Gain
	case 0:
		return h.Levels[0].Gain
	}
	a, b := h.Levels[i-1], h.Levels[i]
	return a.Gain + (b.Gain-a.Gain)*(frame-a.At)/(b.At-a.At)
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
