package assembly

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/timing"
)

// IncomingShot is a shot from elsewhere, with its boards, or with a card that it shows.
type IncomingShot struct {
	Shot   scene.Shot    `json:"shot"`
	Boards []scene.Board `json:"boards,omitempty"`
	Card   *scene.Card   `json:"card,omitempty"`
}

// IncomingLane is a lane from elsewhere.
type IncomingLane struct {
	Name  string         `json:"name"`
	Shots []IncomingShot `json:"shots"`
}

// IncomingTrack is a track from elsewhere, with its sounds.
type IncomingTrack struct {
	Track  scene.Track   `json:"track"`
	Sounds []scene.Sound `json:"sounds,omitempty"`
}

// Incoming is an assembly that a format brings. Its first lane plays.
type Incoming struct {
	Assembly scene.Assembly  `json:"assembly"`
	Lanes    []IncomingLane  `json:"lanes"`
	Markers  []scene.Marker  `json:"markers,omitempty"`
	Tracks   []IncomingTrack `json:"tracks,omitempty"`
	ID       string          `json:"id,omitempty"`
}

// bringIn makes a new assembly of what a format brings. Markers and tracks of
// the story that the scene has already are left out.
func bringIn(d *edit.Draft, a Incoming) (string, error) {
	if len(a.Lanes) == 0 {
		return "", errors.New("there is nothing in it that could be cut")
	}
	name := a.Assembly.Name
	if name == "" {
		name = "assembly"
	}
	main := newAssembly(d, a.ID, name)
	c := main.cut
	v, made := a.Assembly, d.Doc.Assemblies[c.assembly]
	v.Name, v.Order = made.Name, made.Order
	d.SetAssembly(c.assembly, v)
	c.take(a.Lanes)
	count, again, met := 0, 0, map[string]bool{}
	for i, in := range a.Lanes {
		l := main
		if i > 0 {
			l = c.newSpare(in.Name)
		}
		for _, e := range in.Shots {
			s := e.Shot
			if s.ScreenIn < l.end() {
				return "", fmt.Errorf("shot %q begins at frame %d, where the one before it still runs", s.Number+" "+s.Name, s.ScreenIn)
			}
			if met[s.Number] { // files are named by it
				s.Number = ""
				again++
			}
			if s.Number == "" {
				s.Number = l.number(len(l.shots))
			}
			met[s.Number] = true
			if e.Card != nil {
				s.Card = cardLike(d, *e.Card)
			}
			id := d.NewID()
			l.insert(len(l.shots), id, s)
			for _, b := range e.Boards {
				b.Shot = id
				d.SetBoard(d.NewID(), b)
			}
			count++
		}
	}
	for _, m := range a.Markers {
		if m.Clock == scene.ScreenClock {
			m.Assembly = c.assembly
		} else if hasMarker(d.Doc, m) {
			continue
		}
		d.SetMarker(d.NewID(), m)
	}
	for _, in := range a.Tracks {
		t := in.Track
		if t.Clock == scene.ScreenClock {
			t.Assembly = c.assembly
		} else if hasTrack(d.Doc, t) {
			continue
		}
		id := d.NewID()
		d.SetTrack(id, t)
		for _, s := range in.Sounds {
			s.Track = id
			d.SetSound(d.NewID(), s)
		}
	}
	if again > 0 {
		c.notes = append(c.notes, fmt.Sprintf("renumber %d that had the number of another", again))
	}
	return c.done("bring in assembly %s with %d shots", v.Name, count)
}

// take counts the numbers of what comes in as in use, so that none that is made is that of a
// shot further on.
func (c *cut) take(lanes []IncomingLane) {
	taken := c.numbers()
	for _, l := range lanes {
		for _, e := range l.Shots {
			taken[e.Shot.Number]++
		}
	}
}

// cardLike returns the id of a card that is equal to one, which is made if there is none.
func cardLike(d *edit.Draft, c scene.Card) string {
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Cards)) {
		if d.Doc.Cards[id] == c {
			return id
		}
	}
	id := d.NewID()
	d.SetCard(id, c)
	return id
}

func hasMarker(doc *scene.Document, m scene.Marker) bool {
	for _, o := range doc.Markers {
		if o.Clock == m.Clock && o.Frame == m.Frame && o.Name == m.Name {
			return true
		}
	}
	return false
}

func hasTrack(doc *scene.Document, t scene.Track) bool {
	for _, o := range doc.Tracks {
		if o.Clock == t.Clock && o.Name == t.Name {
			return true
		}
	}
	return false
}

type linesArgs struct {
	Lines []scene.Line `json:"lines"`
}

// bringLines adds lines of dialogue.
func bringLines(d *edit.Draft, a linesArgs) (string, error) {
	if len(a.Lines) == 0 {
		return "", errors.New("there are no lines in it")
	}
	for _, l := range a.Lines {
		d.SetLine(d.NewID(), l)
	}
	return fmt.Sprintf("bring in %d lines", len(a.Lines)), nil
}

// PutIn puts shots, which follow one another from frame 0 on, into the main lane of an
// assembly at a screen frame; a shot that runs there is split, and everything later
// moves. Numbers that are in use, or would be out of order, are made anew. It returns the shots' ids.
func PutIn(d *edit.Draft, assembly string, at int, shots []IncomingShot) ([]string, error) {
	c, err := open(d, assembly)
	if err != nil || len(shots) == 0 {
		return nil, err
	}
	l := c.main()
	next := l.openAt(max(0, at), shots[len(shots)-1].Shot.ScreenOut)
	var ids []string
	for i, in := range shots {
		s := in.Shot
		s.ScreenIn, s.ScreenOut = s.ScreenIn+at, s.ScreenOut+at
		if c.numbers()[s.Number] > 0 || !l.fits(next+i, s.Number) {
			s.Number = l.number(next + i)
		}
		id := d.NewID()
		l.insert(next+i, id, s)
		for _, b := range in.Boards {
			b.Shot = id
			d.SetBoard(d.NewID(), b)
		}
		ids = append(ids, id)
	}
	_, err = c.done("")
	return ids, err
}

// AtRate brings a whole document to another rate, with seconds kept.
func AtRate(doc *scene.Document, to timing.Rate) error {
	if doc.Settings.Rate == to {
		return nil
	}
	_, err := changeRate(&edit.Draft{Draft: patch.NewDraft(doc)}, rateArgs{Rate: to.String(), Keep: "seconds"})
	return err
}
