package assembly

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"proscen/core/alternate"
	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/timing"
)

type rateArgs struct {
	Rate string `json:"rate"`
	Keep string `json:"keep"` // seconds or frames
	Drop bool   `json:"drop"` // count timecode in drop-frame, where the rate has it
}

// changeRate gives the scene another rate, and its alternates with it.
func changeRate(d *edit.Draft, a rateArgs) (string, error) {
	alternates := map[string]*scene.Document{}
	layers := alternate.Layers(d.Doc)
	for _, id := range layers {
		if doc, _, err := alternate.Resolve(d.Doc, id); err == nil {
			alternates[id] = doc
		}
	}
	label, err := atRate(d, a)
	if err != nil {
		return "", err
	}
	for _, id := range layers {
		doc, ok := alternates[id]
		if !ok {
			continue
		}
		other := patch.NewDraft(doc)
		if _, err := atRate(&edit.Draft{Draft: other, Tools: d.Tools}, a); err != nil {
			return "", fmt.Errorf("%s: %w", alternate.Called(d.Doc, id), err)
		}
		other.Release()
		if err := alternate.Renew(d.Draft, id, doc); err != nil {
			return "", err
		}
	}
	return label, nil
}

// atRate gives a scene another rate. With frames kept, every number of a
// frame stays and everything plays faster or slower. With seconds kept, whole
// frames go to the nearest whole frame, so that nothing is off by more than half a
// frame of the new rate but what would not last a frame; what lies between frames
// is kept exactly. The timecodes that the clocks begin with read as before.
func atRate(d *edit.Draft, a rateArgs) (string, error) {
	to, err := timing.ParseRate(a.Rate)
	if err != nil {
		return "", err
	}
	s := d.Doc.Settings
	from := s.Rate
	drop := a.Drop && to.CanDrop()
	switch a.Keep {
	case "frames", "seconds":
	default:
		return "", fmt.Errorf("what is kept is seconds or frames, not %q", a.Keep)
	}
	if to == from && drop == s.Drop {
		return "", fmt.Errorf("the scene has %s frames a second already", to)
	}
	for _, start := range []*int{&s.StoryStart, &s.ScreenStart} {
		*start = from.Recount(*start, s.Drop, to, drop)
	}
	s.Rate, s.Drop = to, drop
	c := clocks{Draft: d, pace: to.PerSecond() / from.PerSecond()}
	keep := a.Keep == "seconds"
	if keep {
		s.Story = StoryAtRate(&d.Doc.Settings, to)
	}
	if err := d.SetJSON("settings", scene.SettingsID, scene.Canonical(s)); err != nil {
		return "", err
	}
	if to == from {
		if drop {
			return "count in drop-frame", nil
		}
		return "count without drop-frame", nil
	}
	c.files(from, to)
	if keep {
		c.cut()
		c.action()
		c.cameras()
		c.films(func(s *scene.Screen) { *s.Film, s.From = paced(*s.Film, c.pace), c.frame(s.From) })
		for _, id := range slices.Sorted(maps.Keys(d.Doc.Assemblies)) {
			cut, err := open(d, id)
			if err != nil {
				return "", err
			}
			if _, err := cut.done(""); err != nil { // joins fit what they are between
				return "", err
			}
		}
	}
	return fmt.Sprintf("change the rate to %s f/s, %s kept", to, a.Keep), nil
}

// StoryAtRate returns the story range of a scene as it would be at another rate with
// seconds kept.
func StoryAtRate(s *scene.Settings, to timing.Rate) timing.Range {
	c := clocks{pace: to.PerSecond() / s.Rate.PerSecond()}
	in, out := c.lasting(s.Story.In, s.Story.Out)
	return timing.Range{In: in, Out: out}
}

// clocks brings both clocks of a scene to another number of frames a second.
type clocks struct {
	*edit.Draft
	pace float64 // new frames for each old one
}

// frame returns the whole frame for a whole one. It never changes the order.
func (c clocks) frame(f int) int { return int(math.Round(float64(f) * c.pace)) }

// moment returns a frame that may lie between whole ones: whole ones stay whole.
func (c clocks) moment(f float64) float64 {
	if f == math.Trunc(f) {
		return math.Round(f * c.pace)
	}
	return f * c.pace
}

// lasting returns a range, which lasts a frame at least.
func (c clocks) lasting(in, out int) (int, int) {
	i := c.frame(in)
	return i, max(c.frame(out), i+1)
}

// row returns ranges that follow one another, in order, so that they still do: one
// that would last no frame pushes those behind it.
func (c clocks) row(list []timing.Range) []timing.Range {
	out := slices.Clone(list)
	for i, r := range list {
		out[i].In, out[i].Out = c.lasting(r.In, r.Out)
		if i > 0 && list[i-1].Out <= r.In && out[i-1].Out > out[i].In {
			out[i].In = out[i-1].Out
			out[i].Out = max(out[i].Out, out[i].In+1)
		}
	}
	return out
}

// rows groups things by what they are a row of, and gives each its new range.
func rows[T any](c clocks, of map[string]T, row func(T) string, at func(T) timing.Range) map[string]timing.Range {
	by := map[string][]string{}
	for id, v := range of {
		by[row(v)] = append(by[row(v)], id)
	}
	out := make(map[string]timing.Range, len(of))
	for _, ids := range by {
		slices.SortFunc(ids, func(a, b string) int {
			return cmp.Or(at(of[a]).In-at(of[b]).In, at(of[a]).Out-at(of[b]).Out, cmp.Compare(a, b))
		})
		list := make([]timing.Range, len(ids))
		for i, id := range ids {
			list[i] = at(of[id])
		}
		for i, r := range c.row(list) {
			out[ids[i]] = r
		}
	}
	return out
}

// files lets footage remember the rate of its file.
func (c clocks) files(from, to timing.Rate) {
	for _, id := range slices.Sorted(maps.Keys(c.Doc.Footage)) {
		c.SetFootage(id, filed(c.Doc.Footage[id], from, to))
	}
	c.films(func(s *scene.Screen) { *s.Film = filed(*s.Film, from, to) })
}

// films changes what the picture planes show that play a video.
func (c clocks) films(change func(s *scene.Screen)) {
	for _, id := range slices.Sorted(maps.Keys(c.Doc.Nodes)) {
		n := c.Doc.Nodes[id]
		if n.Screen == nil || n.Screen.Film == nil {
			continue
		}
		s, f := *n.Screen, *n.Screen.Film
		s.Film = &f
		change(&s)
		n.Screen = &s
		c.SetNode(id, n)
	}
}

// filed returns footage of a scene at one rate as one at another has it: its file
// keeps its own.
func filed(f scene.Footage, from, to timing.Rate) scene.Footage {
	switch f.Rate {
	case timing.Rate{}:
		f.Rate = from
	case to:
		f.Rate = timing.Rate{}
	}
	return f
}

// paced returns footage whose frames are counted at another pace, with seconds kept.
func paced(f scene.Footage, pace float64) scene.Footage {
	f.Frames = max(1, int(math.Floor(float64(f.Frames)*pace+1e-9)))
	f.Pace = f.FileFrame(1) / pace
	if math.Abs(f.Pace-1) < 1e-9 {
		f.Pace = 0
	}
	return f
}

func (c clocks) cut() {
	doc := c.Doc
	placed := rows(c, doc.Shots, func(s scene.Shot) string { return s.Lane }, scene.Shot.Screen)
	for _, id := range slices.Sorted(maps.Keys(doc.Shots)) {
		s := doc.Shots[id]
		s.ScreenIn, s.ScreenOut = placed[id].In, placed[id].Out
		s.StoryIn, s.FootageIn = c.moment(s.StoryIn), c.moment(s.FootageIn)
		s.Head, s.Tail = c.frame(s.Head), c.frame(s.Tail)
		if s.Join != nil {
			j := *s.Join
			j.Before, j.After, j.Rest = c.frame(j.Before), c.frame(j.After), c.frame(j.Rest)
			if j.Frames() == 0 && s.Join.Before >= s.Join.After {
				j.Before = 1
			} else if j.Frames() == 0 {
				j.After = 1
			}
			s.Join = &j
		}
		c.SetShot(id, s)
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Footage)) {
		c.SetFootage(id, paced(doc.Footage[id], c.pace))
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Boards)) {
		b := doc.Boards[id]
		b.At = c.frame(b.At)
		c.SetBoard(id, b)
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Assemblies)) {
		a := doc.Assemblies[id]
		a.Target, a.ShotTarget = c.frame(a.Target), c.frame(a.ShotTarget)
		c.SetAssembly(id, a)
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Markers)) {
		m := doc.Markers[id]
		if in := m.Frame; m.Frames > 0 {
			var out int
			m.Frame, out = c.lasting(in, in+m.Frames)
			m.Frames = out - m.Frame
		} else {
			m.Frame = c.frame(in)
		}
		c.SetMarker(id, m)
	}
	heard := rows(c, doc.Sounds, func(s scene.Sound) string { return s.Track }, func(s scene.Sound) timing.Range {
		return timing.Range{In: s.In, Out: s.Out}
	})
	for _, id := range slices.Sorted(maps.Keys(doc.Sounds)) {
		s := doc.Sounds[id]
		s.In, s.Out = heard[id].In, heard[id].Out
		s.FadeIn, s.FadeOut = c.frame(s.FadeIn), c.frame(s.FadeOut)
		c.SetSound(id, s)
	}
}

func (c clocks) action() {
	doc := c.Doc
	done := rows(c, doc.Actions, func(a scene.Action) string {
		if a.Do.Gesture() {
			return a.Cast + " by hand"
		}
		return a.Cast
	}, func(a scene.Action) timing.Range { return timing.Range{In: a.In, Out: a.Out} })
	for _, id := range slices.Sorted(maps.Keys(doc.Actions)) {
		a := doc.Actions[id]
		a.In, a.Out = done[id].In, done[id].Out
		if a.Ease != nil {
			a.Ease = &[2]float64{c.moment(a.Ease[0]), c.moment(a.Ease[1])}
		}
		c.SetAction(id, a)
	}
	said := rows(c, doc.Lines, func(l scene.Line) string { return l.Cast }, func(l scene.Line) timing.Range {
		return timing.Range{In: l.In, Out: l.Out}
	})
	for _, id := range slices.Sorted(maps.Keys(doc.Lines)) {
		l := doc.Lines[id]
		l.In, l.Out = said[id].In, said[id].Out
		c.SetLine(id, l)
	}
}

func (c clocks) cameras() {
	doc := c.Doc
	for _, id := range slices.Sorted(maps.Keys(doc.Curves)) {
		v := doc.Curves[id]
		v.Keys = slices.Clone(v.Keys)
		at := c.moments(len(v.Keys), func(i int) float64 { return v.Keys[i].Frame })
		for i := range v.Keys {
			k := &v.Keys[i]
			k.Frame, k.In, k.Out = at[i], c.handle(k.In), c.handle(k.Out)
		}
		c.SetCurve(id, v)
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Nodes)) {
		n := doc.Nodes[id]
		if n.Camera == nil || len(n.Camera.Left) == 0 && n.Camera.Unrest == nil {
			continue
		}
		k := *n.Camera
		k.Left = slices.Clone(k.Left)
		for i, f := range c.moments(len(k.Left), func(i int) float64 { return k.Left[i].Frame }) {
			k.Left[i].Frame = f
		}
		if k.Unrest != nil {
			u := *k.Unrest
			u.From = c.moment(u.From)
			k.Unrest = &u
		}
		n.Camera = &k
		c.SetNode(id, n)
	}
}

// moments returns frames in order, which stay apart: where whole frames would
// meet, none of them is rounded.
func (c clocks) moments(n int, at func(int) float64) []float64 {
	out := make([]float64, n)
	for i := range n {
		out[i] = c.moment(at(i))
		if i > 0 && out[i] <= out[i-1] {
			for k := range n {
				out[k] = at(k) * c.pace
			}
			return out
		}
	}
	return out
}

func (c clocks) handle(h *curve.Handle) *curve.Handle {
	if h == nil {
		return nil
	}
	return &curve.Handle{Frames: h.Frames * c.pace, Value: h.Value}
}
