package turnover

import (
	"fmt"

	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/questions"
	"proscen/core/scene"
	"proscen/core/session"

	"gonum.org/v1/gonum/spatial/r3"
)

// Doubt is something that would disappoint in what is to be delivered, and where.
type Doubt struct {
	Text     string `json:"text"`
	Assembly string `json:"assembly,omitempty"` // id
	Shot     string `json:"shot,omitempty"`     // id
	Camera   string `json:"camera,omitempty"`   // id
	Screen   int    `json:"screen"`             // frame to go to, of an assembly
}

// mostDoubts bounds how many are told.
const mostDoubts = 200

// near is what stands too close before a lens, in metres.
const near = 0.12

// Doubts lists what would disappoint in some items: holes in the cut, shots that show
// nothing, heads that begin before the story does, cameras that stand in something or
// never see whom they are aimed at, and cameras that no shot uses. Missing says of a
// file, by its blob, that it is not there; it may be nil.
func Doubts(s *session.Session, items []Item, missing func(blob string) bool) []Doubt {
	d := NewDoubter(s, items, missing)
	d.Go(func() bool { return true })
	return d.Found
}

// Doubter looks for doubts. What takes long, looking through the cameras, it does shot by
// shot.
type Doubter struct {
	Found   []Doubt
	s       *session.Session
	missing func(string) bool
	views   []viewed
}

// viewed is a shot that is to be looked at through its camera.
type viewed struct {
	assembly, format string
	scene.ShotEntry
}

// NewDoubter finds what is found at once.
func NewDoubter(s *session.Session, items []Item, missing func(blob string) bool) *Doubter {
	d := &Doubter{s: s, Found: []Doubt{}, missing: missing}
	seen := map[[3]string]bool{}
	byID := map[string]map[string]*program.Entry{} // shots by assembly
	of := func(assembly string) map[string]*program.Entry {
		m, known := byID[assembly]
		if !known {
			shots := s.ProgramOf(assembly).Shots()
			m = make(map[string]*program.Entry, len(shots))
			for i := range shots {
				m[shots[i].ID] = &shots[i]
			}
			byID[assembly] = m
			d.gaps(assembly)
		}
		return m
	}
	look := func(assembly, format string, shot *program.Entry, head int) {
		if key := [3]string{assembly, shot.ID}; !seen[key] {
			seen[key] = true
			d.shot(assembly, shot, head)
		}
		if key := [3]string{assembly, shot.ID, format}; !seen[key] {
			seen[key] = true
			d.through(assembly, format, shot)
		}
	}
	for i := range items {
		it := &items[i]
		if it.Pass != "" { // its picture has been looked at
			continue
		}
		if it.Assembly == "" {
			continue
		}
		shots := of(it.Assembly)
		if shot := shots[it.Shot]; shot != nil {
			look(it.Assembly, it.Format, shot, it.Head)
		}
		if it.What == Whole {
			all := s.ProgramOf(it.Assembly).Shots()
			for k := range all {
				look(it.Assembly, it.Format, &all[k], 0)
			}
		}
	}
	used := map[string]bool{}
	for a := range s.Doc.Assemblies {
		for _, shot := range s.ProgramOf(a).Shots() {
			for id := range shot.Cameras {
				used[id] = true
			}
		}
	}
	for _, i := range s.Motion.Cameras {
		n := &s.Motion.Nodes[i]
		if k := n.Entity.Camera; !k.Archived && !used[n.ID] {
			d.add(Doubt{Text: fmt.Sprintf("Camera %d, %s, is in no shot.", k.Number, n.Entity.Name), Camera: n.ID})
		}
	}
	return d
}

// Go looks through cameras, one shot at least, as long as goes says so, and tells how
// many shots are left.
func (d *Doubter) Go(goes func() bool) (left int) {
	for len(d.views) > 0 {
		v := d.views[0]
		d.views = d.views[1:]
		d.view(&v)
		if !goes() {
			break
		}
	}
	return len(d.views)
}

func (d *Doubter) add(x Doubt) {
	if len(d.Found) < mostDoubts {
		d.Found = append(d.Found, x)
	}
}

// gaps tells where nothing plays between shots, and before the first.
func (d *Doubter) gaps(assembly string) {
	at := 0
	for _, s := range d.s.ProgramOf(assembly).Shots() {
		if n := s.ScreenIn - at; n > 0 {
			d.add(Doubt{Text: fmt.Sprintf("For %d frames before shot %s nothing plays; the picture is black there.", n, s.Number), Assembly: assembly, Shot: s.ID, Screen: at})
		}
		at = s.ScreenOut
	}
}

// saying returns a function that tells something of a shot.
func (d *Doubter) saying(assembly string, s *scene.ShotEntry) func(screen int, format string, args ...any) {
	return func(screen int, format string, args ...any) {
		d.add(Doubt{Text: fmt.Sprintf("Shot %s ", s.Number) + fmt.Sprintf(format, args...), Assembly: assembly, Shot: s.ID, Screen: screen})
	}
}

// shot looks at what a shot plays.
func (d *Doubter) shot(assembly string, s *scene.ShotEntry, head int) {
	say := d.saying(assembly, s)
	doc := d.s.Doc
	gone := func(blob string) bool { return blob != "" && d.missing != nil && d.missing(blob) }
	switch s.Plays {
	case scene.PlaysBoard:
		boards := doc.BoardsOf(s.ID)
		if len(boards) == 0 {
			say(s.ScreenIn, "has no board yet.")
		}
		for _, id := range boards {
			if gone(doc.Boards[id].Blob) {
				say(s.ScreenIn, "has a board whose picture is not there any more.")
			}
		}
		return
	case scene.PlaysCard:
		if gone(doc.Cards[s.Card].Blob) {
			say(s.ScreenIn, "has a card whose picture is not there any more.")
		}
		return
	case scene.PlaysFootage:
		f := doc.Footage[s.Footage]
		if gone(f.Blob) {
			say(s.ScreenIn, "plays footage that is not there any more.")
		}
		if last := s.FootageAt(float64(s.ScreenOut - 1)); last >= float64(f.Frames) {
			say(s.ScreenOut-1, "is longer than its footage; the last frame stands still.")
		}
		return
	}
	if d.s.CameraIndex(s.Camera) < 0 {
		say(s.ScreenIn, "has no camera.")
		return
	}
	for _, f := range d.s.Motion.Surfaces {
		n := &d.s.Motion.Nodes[f.Node]
		if blob, _ := d.s.Motion.Shown(f.Node, s.StoryIn); n.Shows(s.ID) && gone(blob) {
			say(s.ScreenIn, "has %s, whose picture is not there any more.", n.Entity.Name)
		}
	}
	if begins := s.StoryAt(float64(s.ScreenIn - head)); head > 0 && begins < float64(doc.Settings.Story.In) {
		say(s.ScreenIn, "begins at the start of the story: %d of its frames before are from before it.", int(float64(doc.Settings.Story.In)-begins+0.5))
	}
}

// through notes a shot that is to be looked at through its camera in a format.
func (d *Doubter) through(assembly, format string, s *scene.ShotEntry) {
	if s.Plays != scene.PlaysCamera || d.s.CameraIndex(s.Camera) < 0 {
		return
	}
	d.views = append(d.views, viewed{assembly, format, *s})
	v := program.ViewOf(&s.Shot, format, float64(s.ScreenIn))
	n, f := d.s.Doc.Nodes[v.Camera], d.s.Doc.Formats[format]
	if n.Camera == nil {
		return
	}
	framed := n.Camera.Formats[format]
	if v.Reframe != nil {
		framed = *v.Reframe
	}
	if _, err := edit.OnSensor(n.Camera, f, framed, false); err != nil {
		d.saying(assembly, s)(s.ScreenIn, "is framed beyond the sensor of its camera in %s, which has become smaller since.", f.Name)
	}
}

// step is how many frames lie between those that are looked at.
const step = 6

// view looks through the camera of a shot now and then.
func (d *Doubter) view(v *viewed) {
	s := &v.ShotEntry
	say := d.saying(v.assembly, s)
	seen := program.ViewOf(&s.Shot, v.format, float64(s.ScreenIn))
	in := d.s.In(s.ID)
	m, camera := in.Motion, in.CameraIndex(seen.Camera)
	if camera < 0 {
		return
	}
	var subject string
	aims := false
	if k := d.s.Doc.Nodes[seen.Camera].Camera; k.Aim == scene.AimAt {
		subject, aims = k.AimAt, true
	} else if k.FocusOn != "" {
		subject = k.FocusOn
	}
	if m.Index(subject) < 0 {
		subject = ""
	}
	inside, met := false, false
	looks, behind, first := 0, 0, 0 // at the subject in the picture; of these it is half hidden; where that is so first
	for f := s.ScreenIn; f < s.ScreenOut && (!inside || subject != ""); f += step {
		st := in.Evaluate(s.StoryAt(float64(f)))
		c := in.InFormat(v.format, s.ID, seen.Camera, float64(f))
		if c == nil {
			return
		}
		if !inside && d.within(m, st, c, seen.Camera) {
			inside = true
			say(f, "has its camera inside something, or right before it%s.", d.in(v.format))
		}
		if subject == "" {
			continue
		}
		share, framed := in.Visible(c, subject)
		if !framed {
			continue
		}
		met = true
		if looks++; share < questions.BehindUnder {
			if behind++; behind == 1 {
				first = f
			}
		}
	}
	if behind > 0 && 2*behind >= looks {
		say(first, "has something in front of %s, more than half of which is hidden at %d of %d moments%s.", d.s.Doc.Nodes[subject].Name, behind, looks, d.in(v.format))
	}
	if subject != "" && !met {
		how := "in focus"
		if aims {
			how = "aimed at"
		}
		say(s.ScreenIn, "never shows %s, whom its camera has %s%s.", d.s.Doc.Nodes[subject].Name, how, d.in(v.format))
	}
}

// in tells of which format something is, when it is not the one that is worked in.
func (d *Doubter) in(format string) string {
	if format == d.s.Doc.Settings.Format {
		return ""
	}
	return ", in " + d.s.Doc.Formats[format].Name
}

// within tells whether something is right before a camera in one of four directions.
// What a camera is mounted on does not count, as it may be that which carries it.
func (d *Doubter) within(m *motion.Scene, st *motion.State, c *motion.CameraState, camera string) bool {
	carrier := d.s.Doc.Nodes[camera].Parent
	from := c.World.Origin()
	for _, dir := range []r3.Vec{{Z: -1}, {X: 1}, {X: -1}, {Y: 1}} {
		_, struck := m.Strike(geom.Ray{From: from, Dir: c.World.Dir(dir)}, st, near, func(node int) bool {
			return carrier != "" && (m.Nodes[node].ID == carrier || m.Within(node, []string{carrier}))
		})
		if struck {
			return true
		}
	}
	return false
}
