package assembly

import (
	"slices"
	"sort"

	"proscen/core/program"
	"proscen/core/scene"
)

// Markers on the screen clock, sounds of tracks tied to the sequence and the shots
// of spare lanes belong to what plays where they lie. When later shots of the main
// lane move to make room or to close up, they go along, unless the assembly is
// Fixed or their lane is locked.

// along lets what begins at a screen frame go to where move says.
func (c *cut) along(move func(frame int) int) {
	d, doc := c.draft, c.draft.Doc
	if c.alone || c.fixed() {
		return
	}
	for id, m := range doc.Markers {
		if to := move(m.Frame); m.Clock == scene.ScreenClock && m.Assembly == c.assembly && to != m.Frame {
			m.Frame = to
			d.SetMarker(id, m)
		}
	}
	for id, s := range doc.Sounds {
		t := doc.Tracks[s.Track]
		if to := move(s.In); t.Clock == scene.ScreenClock && t.Assembly == c.assembly && to != s.In {
			s.In, s.Out = to, to+s.Out-s.In
			d.SetSound(id, s)
		}
	}
	for _, l := range c.lanes {
		if !l.main && !c.locked(l.id) {
			l.follow(move)
		}
	}
}

// fixed tells whether nothing goes along with the main lane.
func (c *cut) fixed() bool { return c.draft.Doc.Assemblies[c.assembly].Fixed }

// follow lets the shots of a spare lane go along. One that finds no room comes
// after the one before it.
func (l *lane) follow(move func(frame int) int) {
	shots := slices.Clone(l.shots)
	for i := range shots {
		s := &shots[i]
		length := s.Screen().Count()
		s.ScreenIn = move(s.ScreenIn)
		s.ScreenOut = s.ScreenIn + length
	}
	slices.SortStableFunc(shots, func(a, b program.Entry) int { return a.ScreenIn - b.ScreenIn })
	end := 0
	for i := range shots {
		s := &shots[i]
		if late := end - s.ScreenIn; late > 0 {
			s.ScreenIn += late
			s.ScreenOut += late
		}
		end = s.ScreenOut
		if s.ScreenIn != l.cut.draft.Doc.Shots[s.ID].ScreenIn {
			l.cut.draft.SetShot(s.ID, s.Shot)
		}
	}
	l.shots = shots
}

// shift moves what begins at a screen frame or later by a number of frames. If
// they are fewer than none, those before the frame are taken out, and what begins
// there goes to where they were.
type shift struct {
	at, by int
	sum    int // of by of this shift and of those before it
}

// from is the first frame that is moved.
func (s shift) from() int { return s.at + min(s.by, 0) }

// shifts are given in order and by the frames that were before all of them.
type shifts []shift

func (s *shifts) add(at, by int) {
	if by != 0 {
		*s = append(*s, shift{at, by, s.sum() + by})
	}
}

func (s shifts) sum() int {
	if len(s) == 0 {
		return 0
	}
	return s[len(s)-1].sum
}

// move returns where a frame comes to lie.
func (s shifts) move(frame int) int {
	i := sort.Search(len(s), func(i int) bool { return s[i].from() > frame })
	if i == 0 {
		return frame
	}
	return max(frame, s[i-1].at) + s[i-1].sum
}
