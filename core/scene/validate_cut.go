package scene

import (
	"maps"
	"slices"

	"proscen/core/curve"
	"proscen/core/timing"
)

func (c *checker) picture(blob string, width, height int) {
	if !blobForm.MatchString(blob) {
		c.fail("blob", "is not the SHA-256 of a file")
	}
	c.number("width", float64(width), 1, 20_000)
	c.number("height", float64(height), 1, 20_000)
}

func (c *checker) board(b Board) {
	_, ok := c.doc.Shots[b.Shot]
	c.refers("shot", b.Shot, ok, "shot")
	c.text("name", b.Name, false)
	c.picture(b.Blob, b.Width, b.Height)
	c.number("at", float64(b.At), 0, MaxFrame)
}

func (c *checker) card(k Card) {
	c.text("name", k.Name, true)
	c.text("title", k.Title, false)
	c.text("text", k.Text, false)
	c.color("color", k.Color)
	c.color("ink", k.Ink)
	if k.Blob != "" {
		c.picture(k.Blob, k.Width, k.Height)
	}
}

func (c *checker) footage(f Footage) {
	c.text("name", f.Name, true)
	c.picture(f.Blob, f.Width, f.Height)
	c.number("frames", float64(f.Frames), 1, MaxFrame)
	if f.Pace != 0 {
		c.number("pace", f.Pace, 0.001, 1000)
	}
	if f.Rate != (timing.Rate{}) && !f.Rate.Valid() {
		c.fail("rate", "is not a frame rate")
	}
}

func (c *checker) track(t Track) {
	c.text("name", t.Name, true)
	c.onClock(t.Clock, t.Assembly)
	c.number("gain", t.Gain, -90, 24)
	c.number("order", float64(t.Order), 0, maxCount)
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

func (c *checker) assembly(a Assembly) {
	c.text("name", a.Name, true)
	c.number("target", float64(a.Target), 0, MaxFrame)
	c.number("shotTarget", float64(a.ShotTarget), 0, MaxFrame)
	c.number("order", float64(a.Order), 0, maxCount)
	if a.Cues != "" && a.Cues != StoryClock && a.Cues != ScreenClock {
		c.fail("cues", "is %q; it must be story or screen", clip(string(a.Cues)))
	}
}

func (c *checker) lane(l Lane) {
	_, ok := c.doc.Assemblies[l.Assembly]
	c.refers("assembly", l.Assembly, ok, "assembly")
	c.text("name", l.Name, false)
	c.number("order", float64(l.Order), 0, maxCount)
}

// mainLanes checks that assemblies have one main lane each: some of them, or, with
// nil, all.
func (c *checker) mainLanes(of map[string]bool) {
	mains := map[string]int{}
	for _, l := range c.doc.Lanes {
		if l.Main {
			mains[l.Assembly]++
		}
	}
	for _, id := range slices.Sorted(maps.Keys(c.doc.Assemblies)) {
		if (of == nil || of[id]) && mains[id] != 1 {
			c.at = "assemblies/" + clip(id)
			c.fail("", "has %d main lanes; it must have exactly one", mains[id])
		}
	}
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
	c.bound("formats", len(s.Framed()))
	for format, f := range s.Framed() {
		field := "formats/" + clip(format)
		if f.Camera != "" {
			c.refersNode(field+"/camera", f.Camera, KindCamera)
		}
		c.reframe(field, f.Reframe)
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
	c.light(s.Exposure, s.Tint)
	c.number("haze", s.Haze, 0, MaxMetres)
	c.number("hour", s.Hour, 0, 24)
	c.number("head", float64(s.Head), 0, 10_000)
	c.number("tail", float64(s.Tail), 0, 10_000)
	if s.ScreenOut <= s.ScreenIn {
		c.fail("screenOut", "is %d and not after screenIn (%d): a shot lasts at least one frame", s.ScreenOut, s.ScreenIn)
	}
	if j := s.Join; j != nil {
		c.number("join/before", float64(j.Before), 0, 10_000)
		c.number("join/after", float64(j.After), 0, 10_000)
		c.number("join/rest", float64(j.Rest), 0, 10_000)
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
