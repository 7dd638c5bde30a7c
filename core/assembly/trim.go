package assembly

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

type splitArgs struct {
	Assembly string `json:"assembly"`
	At       int    `json:"at"`
}

// splitShot cuts the shot that runs at a screen frame in two.
func splitShot(d *edit.Draft, a splitArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	l := c.main()
	i, _ := l.at(a.At)
	if i < 0 || l.shots[i].ScreenIn == a.At {
		return "", fmt.Errorf("there is no shot to split at frame %d; move the playhead inside one", a.At)
	}
	l.split(i, a.At)
	return c.done("split shot %s", l.shots[i].Number)
}

type trimArgs struct {
	ID     string `json:"id"`
	Edge   string `json:"edge"` // in or out
	By     int    `json:"by"`   // frames; positive is later
	Ripple bool   `json:"ripple,omitempty"`
	Along  bool   `json:"along,omitempty"` // ripple: what follows on in the story goes along there too
}

// trimShot moves one edge of a shot. Its picture stays where it is in story
// time. Without ripple the edge stops at the neighbour; with ripple later shots
// follow. At least one frame is left.
func trimShot(d *edit.Draft, a trimArgs) (string, error) {
	c, l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	s := l.shots[i].Shot
	length := s.Screen().Count()
	by := a.By
	lo, hi := l.room(i)
	switch a.Edge {
	case "in":
		by = min(max(by, -lo), length-1)
		if a.Ripple {
			s = trimHead(s, by)
			at := s.ScreenIn // of the first frame that stays, or of what the new ones push away
			if by < 0 {
				at -= by
			}
			s.ScreenIn -= by
			s.ScreenOut -= by
			l.set(i, s)
			l.shift(i+1, at, -by)
			break
		}
		limit := 0
		if i > 0 {
			limit = l.shots[i-1].ScreenOut
		}
		by = max(by, limit-s.ScreenIn)
		l.set(i, trimHead(s, by))
	case "out":
		by = max(min(by, hi), 1-length)
		if !a.Ripple && i+1 < len(l.shots) {
			by = min(by, l.shots[i+1].ScreenIn-s.ScreenOut)
		}
		end := s.ScreenOut
		row := 0
		if a.Ripple && a.Along {
			row = l.runsOn(i)
		}
		s.ScreenOut += by
		l.set(i, s)
		if a.Ripple {
			l.shift(i+1, end, by)
		}
		for k := i + 1; k <= i+row; k++ {
			next := l.shots[k].Shot
			next.StoryIn += float64(by) * s.Speed
			l.set(k, next)
		}
	default:
		return "", fmt.Errorf("an edge is in or out, not %q", a.Edge)
	}
	if a.Ripple {
		return c.done("ripple trim %s of shot %s by %+df", a.Edge, s.Number, by)
	}
	return c.done("trim %s of shot %s by %+df", a.Edge, s.Number, by)
}

// runsOn counts the shots behind the one at i that go along when it ends elsewhere in
// the story: the next one, if it joins on the screen, and those that follow on from it.
func (l *lane) runsOn(i int) (n int) {
	for k := i + 1; k < len(l.shots); k++ {
		before, s := l.shots[k-1].Shot, l.shots[k].Shot
		if s.ScreenIn != before.ScreenOut || s.Locked || k > i+1 && s.StoryIn != before.StoryOut() {
			break
		}
		n++
	}
	return n
}

// endless is the room of a shot whose picture goes on beyond its ends.
const endless = scene.MaxFrame

// room returns by how many screen frames the shot at i can be longer at its head
// and at its tail: cameras, boards and cards have no end, footage has.
func (l *lane) room(i int) (head, tail int) {
	s := l.shots[i].Shot
	if s.Plays != scene.PlaysFootage || s.Speed == 0 {
		return endless, endless
	}
	f := l.cut.draft.Doc.Footage[s.Footage]
	head = int(math.Floor(s.FootageIn/s.Speed + 1e-9))
	tail = int(math.Floor((float64(f.Frames)-s.FootageAt(float64(s.ScreenOut)))/s.Speed + 1e-9))
	return max(0, head), max(0, tail)
}

type byArgs struct {
	ID string `json:"id"`
	By int    `json:"by"` // frames; positive is later
}

// roll moves the seam at the head of a shot: the shot before it becomes longer
// by what this one becomes shorter. Both keep their pictures in story time, and
// the sequence keeps its length.
func roll(d *edit.Draft, a byArgs) (string, error) {
	c, l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	if !l.follows(i) {
		return "", errors.New("there is no seam to roll: no shot ends where this one begins")
	}
	before, s := l.shots[i-1].Shot, l.shots[i].Shot
	_, later := l.room(i - 1)
	earlier, _ := l.room(i)
	by := min(max(a.By, 1-before.Screen().Count(), -earlier), s.Screen().Count()-1, later)
	before.ScreenOut += by
	l.set(i-1, before)
	l.set(i, trimHead(s, by))
	return c.done("roll the seam of shots %s and %s by %+df", before.Number, s.Number, by)
}

type slipArgs struct {
	IDs []string `json:"ids"`
	By  int      `json:"by"` // frames; positive shows what is later
}

// slip changes what shots show and leaves them where they are: their story
// ranges move by a number of screen frames.
func slip(d *edit.Draft, a slipArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	for _, id := range ids {
		l, i := c.find(id)
		s := l.shots[i].Shot
		earlier, later := l.room(i)
		by := float64(min(max(a.By, -earlier), later))
		if s.Speed != 0 {
			by *= s.Speed
		}
		s.StoryIn += by
		if s.Plays == scene.PlaysFootage {
			s.FootageIn += by
		}
		l.set(i, s)
	}
	return c.done("slip shot %s by %+df", c.numbersOf(ids), a.By)
}

// slide moves a shot in screen time between its neighbours, which become longer
// and shorter; it keeps its own length and story range, and the sequence keeps
// its length.
func slide(d *edit.Draft, a byArgs) (string, error) {
	c, l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	s := l.shots[i].Shot
	by := a.By
	before, after := l.follows(i), l.follows(i+1)
	switch { // how far it can go to the left
	case before:
		by = max(by, 1-l.shots[i-1].Screen().Count())
	case i > 0:
		by = max(by, l.shots[i-1].ScreenOut-s.ScreenIn)
	default:
		by = max(by, -s.ScreenIn)
	}
	switch { // and to the right
	case after:
		by = min(by, l.shots[i+1].Screen().Count()-1)
	case i+1 < len(l.shots):
		by = min(by, l.shots[i+1].ScreenIn-s.ScreenOut)
	}
	if before {
		_, later := l.room(i - 1)
		by = min(by, later)
	}
	if after {
		earlier, _ := l.room(i + 1)
		by = max(by, -earlier)
	}
	if before {
		p := l.shots[i-1].Shot
		p.ScreenOut += by
		l.set(i-1, p)
	}
	if after {
		l.set(i+1, trimHead(l.shots[i+1].Shot, by))
	}
	s.ScreenIn += by
	s.ScreenOut += by
	l.set(i, s)
	return c.done("slide shot %s by %+df", s.Number, by)
}

type reachArgs struct {
	ID     string `json:"id"`
	At     int    `json:"at"`
	Ripple bool   `json:"ripple"`
}

// reach lengthens a shot to a screen frame: its tail when the frame comes after
// it, its head when it comes before. Without ripple it stops at its neighbour.
func reach(d *edit.Draft, a reachArgs) (string, error) {
	s, ok := d.Doc.Shots[a.ID]
	if !ok {
		return "", errGone
	}
	switch {
	case a.At >= s.ScreenOut:
		return trimShot(d, trimArgs{a.ID, "out", a.At - s.ScreenOut, a.Ripple, false})
	case a.At < s.ScreenIn:
		return trimShot(d, trimArgs{a.ID, "in", a.At - s.ScreenIn, a.Ripple, false})
	}
	return "", fmt.Errorf("shot %s runs at the playhead already; move the playhead outside of it", s.Number)
}

type speedArgs struct {
	IDs   []string `json:"ids"`
	Speed float64  `json:"speed"` // 0 freezes the first frame
	Story bool     `json:"story"` // keeps the story range: the length changes, and what is later follows
}

// setSpeed changes how fast shots run. They keep their length, or, with Story,
// what they show.
func setSpeed(d *edit.Draft, a speedArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	if math.IsNaN(a.Speed) || a.Speed != 0 && (a.Speed < 0.01 || a.Speed > 100) {
		return "", fmt.Errorf("a speed of %v cannot be played; choose 0 to freeze, or from 0.01 to 100", a.Speed)
	}
	chosen := setOf(ids)
	for _, id := range ids {
		if s := d.Doc.Shots[id]; a.Story && (a.Speed == 0 || s.Speed == 0) {
			return "", fmt.Errorf("shot %s cannot keep its story range: a frozen frame has none", s.Number)
		}
	}
	for _, lane := range slices.Sorted(maps.Keys(c.lanes)) {
		c.lanes[lane].rework(true, func(e program.Entry) (scene.Shot, bool) {
			s := e.Shot
			if !chosen[e.ID] {
				return s, true
			}
			if a.Story {
				s.ScreenOut = s.ScreenIn + max(1, int(math.Round(float64(s.Screen().Count())*s.Speed/a.Speed)))
			}
			s.Speed = a.Speed
			return s, true
		})
	}
	if a.Speed == 0 {
		return c.done("freeze shot %s", c.numbersOf(ids))
	}
	return c.done("speed of shot %s to %v×", c.numbersOf(ids), a.Speed)
}

type freezeArgs struct {
	Assembly string `json:"assembly"`
	At       int    `json:"at"`
	Frames   int    `json:"frames"`
}

// freeze holds the frame at a screen frame for a number of frames; the rest of
// the shot goes on after it, and what is later makes room.
func freeze(d *edit.Draft, a freezeArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	if a.Frames < 1 {
		return "", errors.New("a frame is frozen for at least one frame")
	}
	l := c.main()
	i, _ := l.at(a.At)
	if i < 0 {
		return "", errors.New("there is no shot here to freeze a frame of; move the playhead onto one")
	}
	if a.At > l.shots[i].ScreenIn {
		l.split(i, a.At)
		if c.err != nil {
			return "", c.err
		}
		i++
	}
	held := l.shots[i].Shot
	held.Number, held.Join, held.Speed, held.ScreenOut, held.Locked = l.number(i), nil, 0, a.At+a.Frames, false
	l.shift(i, a.At, a.Frames)
	l.insert(i, "", held)
	return c.done("freeze frame %d for %d f", a.At, a.Frames)
}

// followOn lets shots begin where the shots before them end in the story, in order:
// a row of selected ones runs on without a jump.
func followOn(d *edit.Draft, a idsArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	n := 0
	for _, id := range ids {
		l, i := c.find(id)
		s := l.shots[i].Shot
		if i == 0 {
			continue
		}
		if s.Locked {
			l.refuse(i)
			continue
		}
		if story := l.continues(i, s.ScreenIn); story != s.StoryIn {
			s.StoryIn = story
			l.set(i, s)
			n++
		}
	}
	if n == 0 && c.err == nil {
		return "", errors.New("it begins where the shot before it ends already, or there is none before it")
	}
	return c.done("let shot %s follow on", c.numbersOf(ids))
}
