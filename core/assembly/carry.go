package assembly

import (
	"sort"

	"proscen/core/scene"
)

// Markers on the screen clock, and sounds of tracks tied to the sequence, belong
// to what is seen where they lie. When later shots of the main lane move to make
// room or to close up, they go along, unless the assembly is Fixed.

// tied is such a marker or sound, and where it began.
type tied struct {
	sound bool
	id    string
	frame int
}

// tied lists what begins in [from, to) of screen time and goes along with shots.
func (c *cut) tied(from, to int) (out []tied) {
	doc := c.draft.Doc
	if doc.Assemblies[c.assembly].Fixed {
		return nil
	}
	for id, m := range doc.Markers {
		if m.Clock == scene.ScreenClock && m.Assembly == c.assembly && m.Frame >= from && m.Frame < to {
			out = append(out, tied{false, id, m.Frame})
		}
	}
	for id, s := range doc.Sounds {
		t := doc.Tracks[s.Track]
		if t.Clock == scene.ScreenClock && t.Assembly == c.assembly && s.In >= from && s.In < to {
			out = append(out, tied{true, id, s.In})
		}
	}
	return out
}

// put moves markers and sounds to a number of frames from where they began.
func (c *cut) put(list []tied, by int) {
	for _, t := range list {
		c.putAt(t, t.frame+by)
	}
}

func (c *cut) putAt(t tied, frame int) {
	doc := c.draft.Doc
	if !t.sound {
		m := doc.Markers[t.id]
		m.Frame = frame
		c.draft.SetMarker(t.id, m)
		return
	}
	s := doc.Sounds[t.id]
	s.In, s.Out = frame, frame+s.Out-s.In
	c.draft.SetSound(t.id, s)
}

// shift lets what begins at a screen frame or later go along by a number of
// frames. If they are fewer than none, those before the frame are taken out, and
// what begins there goes to where they were.
type shift struct {
	at, by int
	all    int // the sum of by of this shift and of those before it
}

// from is the first frame that is moved.
func (s shift) from() int { return s.at + min(s.by, 0) }

// carry lets what is tied go along with a shift.
func (c *cut) carry(at, by int) { c.carryAll([]shift{{at, by, by}}) }

// carryAll lets what is tied go along with shifts, given in order and by the
// frames that were before all of them.
func (c *cut) carryAll(shifts []shift) {
	if len(shifts) == 0 {
		return
	}
	for _, t := range c.tied(shifts[0].from(), scene.MaxFrame+1) {
		last := shifts[sort.Search(len(shifts), func(i int) bool { return shifts[i].from() > t.frame })-1]
		c.putAt(t, max(t.frame, last.at)+last.all)
	}
}
