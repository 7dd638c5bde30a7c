package page

import (
	"encoding/json"
	"slices"
	"strings"

	"proscen/core/assembly"
	"proscen/core/interchange"
	"proscen/core/program"
	"proscen/core/scene"
)

type atScreen struct {
	Screen float64 `json:"screen"` // frame
}

// onAir returns what is on air at a screen frame.
func (p *Page) onAir(a atScreen) *program.Air { return p.session.OnAir(a.Screen) }

// airOf returns what any assembly shows at a screen frame.
func (p *Page) airOf(a struct {
	Assembly string  `json:"assembly"`
	Screen   float64 `json:"screen"`
}) program.Air {
	var air program.Air
	p.session.ProgramOf(a.Assembly).At(a.Screen, &air)
	return air
}

// choose selects the assembly that is edited and played.
func (p *Page) choose(a assemblyNamed) (done, error) {
	return done{}, p.session.ChooseAssembly(a.Assembly)
}

// screenAt returns the screen frame of an assembly that shows a story frame, preferring the
// shot at another screen frame, or −1 when none does.
func (p *Page) screenAt(a struct {
	Story    float64 `json:"story"`
	Near     float64 `json:"near"`
	Assembly string  `json:"assembly,omitempty"` // id, "" for the chosen one
}) float64 {
	cut := p.session.Program()
	if a.Assembly != "" {
		cut = p.session.ProgramOf(a.Assembly)
	}
	if at, ok := cut.ScreenAt(a.Story, a.Near); ok {
		return at
	}
	return -1
}

// CutShot is a shot of a lane.
type CutShot struct {
	ID string `json:"id"`
	// Cue is the shot that stands for a cue, which is not in the document.
	Cue *scene.Shot `json:"cue,omitempty"`
}

// SpareLane is a lane that does not play.
type SpareLane struct {
	ID    string    `json:"id"`
	Shots []CutShot `json:"shots"`
}

// CutNow is how long the cut is and, unless it is known, what plays in which order.
type CutNow struct {
	Version int  `json:"version"` // changes whenever shots come, go or change their order
	Length  int  `json:"length"`  // the frame after the last shot
	Cut     *Cut `json:"cut,omitempty"`
}

// Cut is what plays and the spare lanes, shots in order of screen time.
type Cut struct {
	Version  int         `json:"version"`
	Shots    []CutShot   `json:"shots"`
	Assembly string      `json:"assembly"`
	Lane     string      `json:"lane"` // the main one
	Spares   []SpareLane `json:"spares"`
}

// cut returns the cut; of an order that is known by its version, only the length.
func (p *Page) cut(a struct {
	Known int `json:"known"`
}) CutNow {
	s := p.session
	id := s.Assembly()
	out := CutNow{Version: s.Order(), Length: s.Program().Length()}
	if out.Version == a.Known {
		return out
	}
	list := func(shots []program.Entry, cues bool) []CutShot {
		out := make([]CutShot, 0, len(shots))
		for i := range shots {
			c := CutShot{ID: shots[i].ID}
			if cues {
				c.Cue = &shots[i].Shot
			}
			out = append(out, c)
		}
		return out
	}
	spares := []SpareLane{}
	for _, lane := range program.SpareLanes(s.Doc, id) {
		spares = append(spares, SpareLane{lane, list(program.Shots(s.Doc, lane), false)})
	}
	out.Cut = &Cut{out.Version, list(s.Program().Shots(), s.Doc.Assemblies[id].Cues != ""), id, program.MainLane(s.Doc, id), spares}
	return out
}

func (p *Page) rhythm(a assemblyNamed) program.Rhythm {
	return program.Measure(p.session.ProgramOf(a.Assembly), p.session.Doc.Assemblies[a.Assembly])
}

func (p *Page) differences(a struct {
	First  string `json:"first"`
	Second string `json:"second"`
}) []program.Difference {
	return program.Differences(p.session.Doc, a.First, a.Second)
}

// joinLack returns what a join into a shot lacks, or null where there is no seam.
func (p *Page) joinLack(a struct {
	Shot   string         `json:"shot"`
	Kind   scene.JoinKind `json:"kind" jsonschema:"enum=dissolve,enum=dip,enum=travel"`
	Frames int            `json:"frames"`
	Align  string         `json:"align"`
}) *assembly.Lack {
	if k, ok := assembly.JoinLack(p.session.Doc, a.Shot, a.Kind, a.Frames, a.Align); ok {
		return &k
	}
	return nil
}

// schedule lists what is heard of a range while a clock plays; pieces of fewer frames
// than the least are gathered.
func (p *Page) schedule(a struct {
	Clock scene.Clock `json:"clock" jsonschema:"enum=story,enum=screen"`
	stretch
}) []program.Heard {
	s := p.session
	return program.Schedule(s.Doc, s.Assembly(), s.Program(), a.Clock, a.From, a.To, a.Least)
}

// gainAt returns the gain of what is heard between levels at a frame of its clock.
func (p *Page) gainAt(a struct {
	Levels []program.Level `json:"levels"`
	Frame  float64         `json:"frame"`
}) float64 {
	return program.Heard{Levels: a.Levels}.GainAt(a.Frame)
}

// lines lists the lines that the cut lets be heard in a range of screen time, and for
// at least a number of frames.
func (p *Page) lines(a stretch) []program.Said {
	return program.Lines(p.session.Doc, p.session.Program(), a.From, a.To, a.Least)
}

// uses lists the stretches of the story that the cut shows.
func (p *Page) uses(none) []program.Use { return p.session.Program().Uses() }

// keysOf lists the screen frames at which the camera of a shot has keys.
func (p *Page) keysOf(a struct {
	Shot scene.Shot `json:"shot"`
}) []int {
	return p.session.KeysOf(a.Shot)
}

// entrances lists the screen frames of a shot at which subjects come into its picture
// or go, between two of its frames.
func (p *Page) entrances(a struct {
	Shot     scene.Shot `json:"shot"`
	Subjects []string   `json:"subjects"`
	From     int        `json:"from"`
	To       int        `json:"to"`
}) []int {
	return p.session.Entrances(a.Shot, a.Subjects, a.From, a.To)
}

// shotAt returns what a shot shows at a screen frame as if it played alone, or null.
func (p *Page) shotAt(a struct {
	Shot   string  `json:"shot"`
	Screen float64 `json:"screen"`
}) *program.Playing {
	if out, ok := p.session.ShotAt(a.Shot, a.Screen); ok {
		return &out
	}
	return nil
}

// formats lists the open formats for cuts and lines, and those for the set and the
// cameras, which the server writes.
func (p *Page) formats(none) []interchange.CutFormat {
	return slices.Concat(interchange.CutFormats, interchange.StageFormats)
}

// WrittenCut is a cut in an open format, with what that does not carry.
type WrittenCut struct {
	Text  string   `json:"text"`
	Notes []string `json:"notes"`
}

// writeCut writes an assembly; the clock is that of lines, deliveries are addresses by
// shot.
func (p *Page) writeCut(a struct {
	Assembly   string                           `json:"assembly"`
	Format     string                           `json:"format"`
	Clock      scene.Clock                      `json:"clock" jsonschema:"enum=story,enum=screen"`
	Deliveries map[string]interchange.Delivered `json:"deliveries"`
}) (WrittenCut, error) {
	w, err := interchange.WriteCut(p.session.Doc, a.Assembly, a.Format, a.Clock, a.Deliveries)
	return WrittenCut{string(w.Data), append([]string{}, w.Notes...)}, err
}

// tried tries what a file brings, and notes what else it changes.
func (p *Page) tried(b *interchange.Brought) error {
	args, err := json.Marshal(b.Args)
	if err != nil {
		return err
	}
	label, err := p.session.Would(b.Operation, args)
	if _, also, ok := strings.Cut(label, "; "); ok {
		b.Notes = append(b.Notes, "Also: "+also+".")
	}
	return err
}

// ReadCut reads a file that brings a cut, lines, cameras or a shot list, as an operation. It
// is tried, so that what cannot be done is said before anybody agrees to it.
func (p *Page) ReadCut(file []byte) (interchange.Brought, error) {
	if p.session == nil {
		return interchange.Brought{}, errClosed
	}
	b, err := interchange.ReadCut(p.session.Doc, p.session.Assembly(), file)
	if err == nil {
		err = p.tried(&b)
	}
	b.Notes, b.Will = append([]string{}, b.Notes...), append([]interchange.Change{}, b.Will...)
	return b, err
}
