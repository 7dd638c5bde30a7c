package scene

import (
	"maps"
	"slices"

	"proscen/core/curve"
)

// media checks what a cut plays besides cameras: boards, cards, footage, sound.
func (c *checker) media() {
	d := c.doc
	picture := func(blob string, width, height int) {
		if !blobForm.MatchString(blob) {
			c.fail("blob", "is not the SHA-256 of a file")
		}
		c.number("width", float64(width), 1, 20_000)
		c.number("height", float64(height), 1, 20_000)
	}
	each(c, "boards", d.Boards, func(_ string, b Board) {
		_, ok := d.Shots[b.Shot]
		c.refers("shot", b.Shot, ok, "shot")
		c.text("name", b.Name, false)
		picture(b.Blob, b.Width, b.Height)
		c.number("at", float64(b.At), 0, MaxFrame)
	})
	each(c, "cards", d.Cards, func(_ string, k Card) {
		c.text("name", k.Name, true)
		c.text("title", k.Title, false)
		c.text("text", k.Text, false)
		c.color("color", k.Color)
		c.color("ink", k.Ink)
		if k.Blob != "" {
			picture(k.Blob, k.Width, k.Height)
		}
	})
	each(c, "footage", d.Footage, func(_ string, f Footage) {
		c.text("name", f.Name, true)
		picture(f.Blob, f.Width, f.Height)
		c.number("frames", float64(f.Frames), 1, MaxFrame)
	})
	each(c, "tracks", d.Tracks, func(_ string, t Track) {
		c.text("name", t.Name, true)
		c.onClock(t.Clock, t.Assembly)
		c.number("gain", t.Gain, -90, 24)
		c.number("order", float64(t.Order), 0, MaxEntities)
	})
	each(c, "sounds", d.Sounds, func(_ string, s Sound) { c.sound(s) })
}

func (c *checker) sound(s Sound) {
	_, ok := c.doc.Tracks[s.Track]
	c.refers("track", s.Track, ok, "track")
	c.text("name", s.Name, true)
	if !blobForm.MatchString(s.Blob) {
		c.fail("blob", "is not the SHA-256 of a file")
	}
	c.number("seconds", s.Seconds, 0, 86_400)
	c.frames(s.In, s.Out)
	c.number("from", s.From, 0, 86_400)
	c.number("gain", s.Gain, -90, 24)
	c.number("fadeIn", float64(s.FadeIn), 0, MaxFrame)
	c.number("fadeOut", float64(s.FadeOut), 0, MaxFrame)
}

// onClock checks a clock, and on the screen clock the assembly it belongs to.
func (c *checker) onClock(clock Clock, assembly string) {
	switch clock {
	case ScreenClock:
		_, ok := c.doc.Assemblies[assembly]
		c.refers("assembly", assembly, ok, "assembly")
	case StoryClock:
	default:
		c.fail("clock", "is %q; it must be story or screen", clip(string(clock)))
	}
}

// assembly checks assemblies, lanes, shots, joins and markers.
func (c *checker) assembly() {
	d := c.doc
	each(c, "assemblies", d.Assemblies, func(_ string, a Assembly) {
		c.text("name", a.Name, true)
		c.number("target", float64(a.Target), 0, MaxFrame)
		c.number("shotTarget", float64(a.ShotTarget), 0, MaxFrame)
		c.number("order", float64(a.Order), 0, MaxEntities)
		if a.Cues != "" && a.Cues != StoryClock && a.Cues != ScreenClock {
			c.fail("cues", "is %q; it must be story or screen", clip(string(a.Cues)))
		}
	})
	each(c, "markers", d.Markers, func(_ string, m Marker) { c.marker(m) })
	mains := map[string]int{}
	each(c, "lanes", d.Lanes, func(_ string, l Lane) {
		_, ok := d.Assemblies[l.Assembly]
		c.refers("assembly", l.Assembly, ok, "assembly")
		c.number("order", float64(l.Order), 0, MaxEntities)
		if l.Main {
			mains[l.Assembly]++
		}
	})
	for _, id := range slices.Sorted(maps.Keys(d.Assemblies)) {
		if mains[id] != 1 {
			c.at = "assemblies/" + clip(id)
			c.fail("", "has %d main lanes; it must have exactly one", mains[id])
		}
	}
	each(c, "shots", d.Shots, func(_ string, s Shot) { c.shot(s) })
	c.apart(nil)
}

func (c *checker) marker(m Marker) {
	c.number("frame", float64(m.Frame), -MaxFrame, MaxFrame)
	c.number("frames", float64(m.Frames), 0, MaxFrame)
	c.color("color", m.Color)
	c.text("name", m.Name, false)
	c.text("note", m.Note, false)
	c.onClock(m.Clock, m.Assembly)
	if m.Camera != "" {
		c.refersNode("camera", m.Camera, KindCamera)
	}
}

// apart checks that shots of a lane do not overlap, on some lanes or, with nil,
// on all.
func (c *checker) apart(lanes map[string]bool) {
	list := c.doc.ShotsInOrder()
	last := map[string]*ShotEntry{}
	var a *ShotEntry // the last one on the lane
	lane, wanted := "", lanes == nil
	for i := range list {
		b := &list[i]
		if b.Lane != lane || i == 0 {
			last[lane] = a
			lane, a = b.Lane, last[b.Lane]
			wanted = lanes == nil || lanes[lane]
		}
		if wanted && a != nil && a.ScreenOut > b.ScreenIn {
			c.at = "shots/" + clip(b.ID)
			c.fail("screenIn", "is %d, but shot %s on the same lane runs until %d", b.ScreenIn, clip(a.Number), a.ScreenOut)
		}
		a = b
	}
}

// ShotChange is a shot before and after changes.
type ShotChange struct {
	ID            string
	Before, After Shot
	Was, Is       bool // whether there was one, and is
	Moved         bool // nothing but its place on the screen clock has changed
}

// Settle finds out whether the shot has only moved.
func (c *ShotChange) Settle() {
	moved := c.Before
	moved.ScreenIn, moved.ScreenOut = c.After.ScreenIn, c.After.ScreenOut
	c.Moved = c.Was && c.Is && moved == c.After
}

// placed tells whether its place on the screen clock can be one.
func (s *Shot) placed() bool {
	return s.ScreenIn >= 0 && s.ScreenIn < s.ScreenOut && s.ScreenOut <= MaxFrame
}

// ValidateCut returns what changes of some shots, and of markers and sounds given
// by their collections and ids, have made wrong in a document that was valid
// before. It looks at no more than it must; changes of anything else are looked at
// by Validate.
func (d *Document) ValidateCut(shots []ShotChange, others [][2]string) Problems {
	c := &checker{doc: d}
	lanes := map[string]bool{}
	gone := map[string]bool{}
	lane := ""
	for i := range shots {
		s := &shots[i]
		if !s.Is {
			gone[s.ID] = true
			continue
		}
		if s.After.Lane != lane {
			lane = s.After.Lane
			lanes[lane] = true
		}
		if s.Moved && s.After.placed() {
			continue
		}
		if !isID(s.ID) {
			return d.Validate()
		}
		c.at = "shots/" + s.ID
		c.shot(s.After)
	}
	for _, key := range others {
		id := key[1]
		if !isID(id) {
			return d.Validate()
		}
		c.at = key[0] + "/" + id
		switch key[0] {
		case "markers":
			if m, ok := d.Markers[id]; ok {
				c.marker(m)
			}
		case "sounds":
			if s, ok := d.Sounds[id]; ok {
				c.sound(s)
			}
		default:
			return d.Validate()
		}
	}
	if len(gone) > 0 {
		for _, b := range d.Boards {
			if gone[b.Shot] {
				return d.Validate()
			}
		}
	}
	c.apart(lanes)
	return c.problems
}

func (c *checker) shot(s Shot) {
	d := c.doc
	_, ok := d.Lanes[s.Lane]
	c.refers("lane", s.Lane, ok, "lane")
	switch s.Plays {
	case PlaysCamera, PlaysBoard:
	case PlaysCard:
		_, ok := d.Cards[s.Card]
		c.refers("card", s.Card, ok, "card")
	case PlaysFootage:
		_, ok := d.Footage[s.Footage]
		c.refers("footage", s.Footage, ok, "footage")
	default:
		c.fail("plays", "is %q; it must be board, card or footage, or be left out for the camera", clip(string(s.Plays)))
	}
	if s.Camera != "" || s.Plays == PlaysCamera {
		c.refersNode("camera", s.Camera, KindCamera)
	}
	c.text("number", s.Number, true)
	c.text("name", s.Name, false)
	c.text("notes", s.Notes, false)
	switch s.Status {
	case "", StatusIdea, StatusBlocked, StatusAgreed:
	default:
		c.fail("status", "is %q; it must be idea, blocked or agreed", clip(string(s.Status)))
	}
	c.number("screenIn", float64(s.ScreenIn), 0, MaxFrame)
	c.number("screenOut", float64(s.ScreenOut), 0, MaxFrame)
	c.number("storyIn", s.StoryIn, -MaxFrame, MaxFrame)
	c.number("footageIn", s.FootageIn, -MaxFrame, MaxFrame)
	if s.Speed != 0 {
		c.number("speed", s.Speed, 0.01, 100)
	}
	c.number("head", float64(s.Head), 0, 10_000)
	c.number("tail", float64(s.Tail), 0, 10_000)
	if s.ScreenOut <= s.ScreenIn {
		c.fail("screenOut", "is %d and not after screenIn (%d): a shot lasts at least one frame", s.ScreenOut, s.ScreenIn)
	}
	if j := s.Join; j != nil {
		c.number("join/before", float64(j.Before), 0, 10_000)
		c.number("join/after", float64(j.After), 0, 10_000)
		if j.Frames() < 1 {
			c.fail("join", "lasts no frame; leave it out for a cut")
		}
		switch j.Kind {
		case Dissolve:
		case Dip:
			c.color("join/color", j.Color)
		case Travels:
			if j.Ease != curve.Even && j.Ease != curve.Soft {
				c.fail("join/ease", "is %q; it must be even or soft", clip(string(j.Ease)))
			}
		default:
			c.fail("join/kind", "is %q; it must be dissolve, dip or travel", clip(string(j.Kind)))
		}
	}
}
