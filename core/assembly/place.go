package assembly

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

type placeArgs struct {
	Assembly string      `json:"assembly"`
	Lane     string      `json:"lane,omitempty"` // "" for the main lane
	Camera   string      `json:"camera,omitempty"`
	Plays    scene.Plays `json:"plays,omitempty"`
	Card     string      `json:"card,omitempty"`
	Footage  string      `json:"footage,omitempty"`
	At       int         `json:"at,omitempty"` // screen frame, for insert and overwrite
	Frames   int         `json:"frames"`
	StoryIn  *float64    `json:"storyIn,omitempty"` // nil continues the shot before
	Name     string      `json:"name,omitempty"`
	ID       string      `json:"id,omitempty"`
}

// place opens the lane that a new shot is put on.
func place(d *edit.Draft, a placeArgs) (*cut, *lane, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return nil, nil, err
	}
	if a.Lane == "" {
		return c, c.main(), nil
	}
	l := c.lanes[a.Lane]
	if l == nil {
		return nil, nil, errors.New("the lane does not belong to this assembly")
	}
	return c, l, nil
}

func (l *lane) newShot(i, at int, a placeArgs) (scene.Shot, error) {
	if a.Frames < 1 {
		return scene.Shot{}, errors.New("a shot lasts at least one frame")
	}
	if a.At < 0 {
		return scene.Shot{}, errors.New("a shot cannot begin before the first frame")
	}
	if n, ok := l.cut.draft.Doc.Nodes[a.Camera]; a.Plays == scene.PlaysCamera && (!ok || n.Camera == nil) {
		return scene.Shot{}, errors.New("choose a camera for the shot first")
	}
	s := scene.Shot{
		Lane: l.id, Number: l.number(i), Name: a.Name, Camera: a.Camera, Plays: a.Plays, Card: a.Card, Footage: a.Footage,
		ScreenIn: at, ScreenOut: at + a.Frames, Speed: 1, Head: 8, Tail: 8,
	}
	if a.StoryIn != nil {
		s.StoryIn = *a.StoryIn
	} else {
		s.StoryIn = l.continues(i, at)
	}
	return s, nil
}

// appendShot adds a shot after the last one.
func appendShot(d *edit.Draft, a placeArgs) (string, error) {
	c, l, err := place(d, a)
	if err != nil {
		return "", err
	}
	i := len(l.shots)
	s, err := l.newShot(i, l.end(), a)
	if err != nil {
		return "", err
	}
	l.insert(i, a.ID, s)
	return c.done("append shot %s", s.Number)
}

// insertShot puts a shot at a screen frame; a shot that runs there is split,
// and everything later moves to make room.
func insertShot(d *edit.Draft, a placeArgs) (string, error) {
	c, l, err := place(d, a)
	if err != nil {
		return "", err
	}
	next := l.openAt(a.At, a.Frames)
	s, err := l.newShot(next, a.At, a)
	if err != nil {
		return "", err
	}
	l.insert(next, a.ID, s)
	return c.done("insert shot %s", s.Number)
}

type fromMoveArgs struct {
	Assembly string `json:"assembly"`
	Camera   string `json:"camera"`
	ID       string `json:"id,omitempty"`
}

// shotFromMove adds a shot after the last one that shows just the move of a camera,
// from its first key to its last.
func shotFromMove(d *edit.Draft, a fromMoveArgs) (string, error) {
	n := d.Doc.Nodes[a.Camera]
	if n.Camera == nil {
		return "", errors.New("choose a camera for the shot first")
	}
	first, last := math.Inf(1), math.Inf(-1)
	for _, id := range d.Doc.CurvesOf(a.Camera) {
		if v := d.Doc.Curves[id]; len(v.Keys) > 0 {
			first, last = min(first, v.Keys[0].Frame), max(last, v.Keys[len(v.Keys)-1].Frame)
		}
	}
	if !(last > first) {
		return "", fmt.Errorf("camera %d does not move: it has no two keys; add positions or set keys first", n.Camera.Number)
	}
	story := math.Floor(first)
	// The last key is shown too: it is the last frame.
	return appendShot(d, placeArgs{
		Assembly: a.Assembly, Camera: a.Camera, Frames: int(math.Ceil(last)-story) + 1, StoryIn: &story, Name: n.Name, ID: a.ID,
	})
}

// overwriteShot puts a shot over whatever is there; nothing moves.
func overwriteShot(d *edit.Draft, a placeArgs) (string, error) {
	c, l, err := place(d, a)
	if err != nil {
		return "", err
	}
	if a.StoryIn == nil {
		story := l.continuesAt(a.At)
		a.StoryIn = &story
	}
	if a.Frames > 0 {
		l.clear(a.At, a.At+a.Frames)
	}
	_, next := l.at(a.At)
	s, err := l.newShot(next, a.At, a)
	if err != nil {
		return "", err
	}
	l.insert(next, a.ID, s)
	return c.done("overwrite with shot %s", s.Number)
}

// continuesAt returns the story frame that runs at a screen frame, or that goes
// on from the shot before it.
func (l *lane) continuesAt(screen int) float64 {
	i, next := l.at(screen)
	if i >= 0 {
		next = i + 1
	}
	return l.continues(next, screen)
}

type cutToArgs struct {
	Assembly string `json:"assembly"`
	At       int    `json:"at"`
	Camera   string `json:"camera"`
	Before   string `json:"before,omitempty"` // in an empty assembly: the camera through which the action was seen until then
}

// cutTo puts a camera on air from a screen frame on, until the end of the shot
// that runs there. At the first frame of a shot it replaces its camera. Where nothing
// runs, the shot before lasts up to the frame, and the new one until the next shot,
// or else until the end of the story.
func cutTo(d *edit.Draft, a cutToArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	l := c.main()
	n, ok := d.Doc.Nodes[a.Camera]
	if !ok || n.Camera == nil {
		return "", errors.New("choose a camera to cut to")
	}
	at := max(0, a.At)
	if clock := d.Doc.Assemblies[a.Assembly].Cues; clock != "" {
		return setCue(d, a.Assembly, clock, at, a.Camera)
	}
	i, next := l.at(at)
	if i >= 0 {
		s := l.shots[i].Shot
		if s.Camera == a.Camera && s.Plays == scene.PlaysCamera {
			return "", fmt.Errorf("camera %d is on air here already", n.Camera.Number)
		}
		if at > s.ScreenIn {
			l.split(i, at)
			if c.err != nil {
				return "", c.err
			}
			i++
			s = l.shots[i].Shot
		}
		s.Camera, s.Plays, s.Card, s.Footage, s.FootageIn, s.Name = a.Camera, scene.PlaysCamera, "", "", 0, ""
		l.set(i, s)
		return c.done("cut to camera %d", n.Camera.Number)
	}
	story := d.Doc.Settings.Story
	switch {
	case next > 0: // what was on air lasts
		before := l.shots[next-1].Shot
		if before.ScreenOut < at && !before.Locked {
			before.ScreenOut = at
			l.set(next-1, before)
		}
	case at > 0 && a.Before != a.Camera && d.Doc.Nodes[a.Before].Camera != nil:
		s, err := l.newShot(0, 0, placeArgs{Camera: a.Before, Frames: at})
		if err != nil {
			return "", err
		}
		l.insert(0, "", s)
		next++
	default: // nothing was on air before: it opens the cut
		at = 0
	}
	s, err := l.newShot(next, at, placeArgs{Camera: a.Camera, Frames: 1})
	if err != nil {
		return "", err
	}
	if next < len(l.shots) {
		s.ScreenOut = l.shots[next].ScreenIn
	} else if left := story.Out - int(math.Floor(s.StoryIn)); left > 0 {
		s.ScreenOut = at + left
	} else {
		s.ScreenOut = at + int(math.Round(d.Doc.Settings.Rate.Frames(2)))
	}
	l.insert(next, "", s)
	return c.done("cut to camera %d", n.Camera.Number)
}

type idsArgs struct {
	IDs   []string `json:"ids"`
	Close bool     `json:"close,omitempty"` // what is later closes up
	Spare bool     `json:"spare,omitempty"`
}

// openShots prepares the assembly of shots, which must all be of one, and puts
// the ids into order of screen time.
func openShots(d *edit.Draft, ids []string) (*cut, []string, error) {
	if len(ids) == 0 {
		return nil, nil, errors.New("no shot is selected; select one first")
	}
	c, _, _, err := openShot(d, ids[0])
	if err != nil {
		return nil, nil, err
	}
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	for _, id := range ids {
		if l, _ := c.find(id); l == nil {
			return nil, nil, errGone
		}
	}
	slices.SortStableFunc(ids, func(a, b string) int { return d.Doc.Shots[a].ScreenIn - d.Doc.Shots[b].ScreenIn })
	return c, ids, nil
}

func (c *cut) numbersOf(ids []string) string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = c.draft.Doc.Shots[id].Number
	}
	if len(out) > 4 {
		return fmt.Sprintf("%s … %s (%d shots)", out[0], out[len(out)-1], len(out))
	}
	return strings.Join(out, ", ")
}

// removeShots lifts shots out and leaves gaps, or extracts them and closes up.
func removeShots(d *edit.Draft, a idsArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	names := c.numbersOf(ids)
	boards := d.Doc.BoardsByShot()
	for _, e := range c.takeAll(ids, func(*lane) bool { return a.Close }) {
		if e.Locked {
			c.refuse(e.Shot)
		}
		d.Delete("shots", e.ID)
		for _, b := range boards[e.ID] {
			d.Delete("boards", b)
		}
	}
	if a.Close {
		return c.done("extract shot %s", names)
	}
	return c.done("lift shot %s", names)
}

type rangeArgs struct {
	Assembly string `json:"assembly"`
	In       int    `json:"in"`
	Out      int    `json:"out"`
	Close    bool   `json:"close"`
}

// clearRange lifts a range of the main lane, or extracts it and closes up.
func clearRange(d *edit.Draft, a rangeArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	if a.Out <= a.In || a.In < 0 {
		return "", fmt.Errorf("the range %d to %d holds no frames; set its start and its end", a.In, a.Out)
	}
	l := c.main()
	if l.free(a.In, a.Out) && !a.Close {
		return "", errors.New("there is nothing in the range")
	}
	l.clear(a.In, a.Out)
	if a.Close {
		_, next := l.at(a.In)
		l.shift(next, a.Out, a.In-a.Out)
		return c.done("extract %d–%d", a.In, a.Out-1)
	}
	return c.done("lift %d–%d", a.In, a.Out-1)
}

type gapArgs struct {
	Assembly string `json:"assembly"`
	At       int    `json:"at"`
	All      bool   `json:"all,omitempty"`
}

// closeGap closes the gap at a screen frame, or all gaps of the main lane.
func closeGap(d *edit.Draft, a gapArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	closed, end := 0, 0
	c.main().rework(true, func(e program.Entry) (scene.Shot, bool) {
		gap := e.ScreenIn - end
		end = e.ScreenOut
		if gap > 0 && (a.All || e.ScreenIn-gap <= a.At && a.At < e.ScreenIn) {
			e.ScreenIn -= gap
			e.ScreenOut -= gap
			closed += gap
		}
		return e.Shot, true
	})
	if closed == 0 {
		return "", errors.New("there is no gap here; move the playhead into one")
	}
	return c.done("close a gap of %d f", closed)
}

// duplicate copies shots: after the last of them, where what is later makes
// room, or onto a spare lane in their own places.
func duplicate(d *edit.Draft, a idsArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	first, last := d.Doc.Shots[ids[0]], d.Doc.Shots[ids[len(ids)-1]]
	var to *lane
	at := last.ScreenOut
	if a.Spare {
		at = first.ScreenIn
		to = c.spareFor(first.ScreenIn, last.ScreenOut)
	} else {
		to, _ = c.find(ids[len(ids)-1])
		length := 0
		for _, id := range ids {
			length += d.Doc.Shots[id].Screen().Count()
		}
		to.openAt(at, length)
	}
	boards := d.Doc.BoardsByShot()
	for _, id := range ids {
		s := d.Doc.Shots[id]
		length := s.Screen().Count()
		if a.Spare {
			at = s.ScreenIn
		}
		s.ScreenIn, s.ScreenOut, s.Join, s.Locked = at, at+length, nil, false
		_, next := to.at(at)
		s.Number = to.number(next)
		copied := d.NewID()
		to.insert(next, copied, s)
		for _, b := range boards[id] {
			board := d.Doc.Boards[b]
			board.Shot = copied
			d.SetBoard(d.NewID(), board)
		}
		c.hand(id, copied)
		at += length
	}
	return c.done("duplicate shot %s", c.numbersOf(ids))
}
