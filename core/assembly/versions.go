package assembly

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"proscen/core/edit"
	"proscen/core/scene"
)

// newAssembly makes an assembly with an empty main lane, under a name that no
// other has.
func newAssembly(d *edit.Draft, id, name string) *lane {
	taken, order := map[string]bool{}, 0
	for _, a := range d.Doc.Assemblies {
		taken[a.Name] = true
		order = max(order, a.Order+1)
	}
	base := name
	for n := 2; taken[name]; n++ {
		name = fmt.Sprintf("%s %d", base, n)
	}
	if id == "" {
		id = d.NewID()
	}
	d.SetAssembly(id, scene.Assembly{Name: name, Order: order})
	main := d.NewID()
	d.SetLane(main, scene.Lane{Assembly: id, Main: true, Name: "main"})
	c := &cut{draft: d, assembly: id, lanes: map[string]*lane{}}
	c.lanes[main] = &lane{cut: c, id: main, main: true}
	return c.lanes[main]
}

type assemblyArgs struct {
	ID   string `json:"id"` // of the assembly worked on; for assemblyAdd, of the new one
	Name string `json:"name"`
	New  string `json:"new"` // id of a copy
}

// addAssembly makes an empty assembly.
func addAssembly(d *edit.Draft, a assemblyArgs) (string, error) {
	if a.Name == "" {
		a.Name = "assembly"
	}
	l := newAssembly(d, a.ID, a.Name)
	return l.cut.done("add assembly %s", d.Doc.Assemblies[l.cut.assembly].Name)
}

// duplicateAssembly copies an assembly with its lanes, shots, boards, markers
// and sounds.
func duplicateAssembly(d *edit.Draft, a assemblyArgs) (string, error) {
	from, err := open(d, a.ID)
	if err != nil {
		return "", err
	}
	old := d.Doc.Assemblies[a.ID]
	if a.Name == "" {
		a.Name = old.Name
	}
	main := newAssembly(d, a.New, a.Name)
	to := main.cut
	v, made := old, d.Doc.Assemblies[to.assembly]
	v.Name, v.Order = made.Name, made.Order
	d.SetAssembly(to.assembly, v)
	boards := d.Doc.BoardsByShot()
	copyLane := func(l, into *lane) {
		for _, e := range l.shots {
			id := d.NewID()
			into.insert(len(into.shots), id, e.Shot)
			for _, b := range boards[e.ID] {
				board := d.Doc.Boards[b]
				board.Shot = id
				d.SetBoard(d.NewID(), board)
			}
		}
	}
	copyLane(from.main(), main)
	for _, id := range from.spares() {
		copyLane(from.lanes[id], to.newSpare(d.Doc.Lanes[id].Name))
	}
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Markers)) {
		if m := d.Doc.Markers[id]; m.Assembly == a.ID {
			m.Assembly = to.assembly
			d.SetMarker(d.NewID(), m)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Tracks)) {
		t := d.Doc.Tracks[id]
		if t.Assembly != a.ID {
			continue
		}
		t.Assembly = to.assembly
		copied := d.NewID()
		d.SetTrack(copied, t)
		for _, k := range slices.Sorted(maps.Keys(d.Doc.Sounds)) {
			if s := d.Doc.Sounds[k]; s.Track == id {
				s.Track = copied
				d.SetSound(d.NewID(), s)
			}
		}
	}
	return to.done("duplicate assembly %s", old.Name)
}

// removeAssembly removes an assembly with all that belongs to it. The last one
// stays.
func removeAssembly(d *edit.Draft, a assemblyArgs) (string, error) {
	c, err := open(d, a.ID)
	if err != nil {
		return "", err
	}
	if len(d.Doc.Assemblies) < 2 {
		return "", errors.New("a scene keeps at least one assembly; make another first")
	}
	name := d.Doc.Assemblies[a.ID].Name
	for id, l := range c.lanes {
		for i := len(l.shots) - 1; i >= 0; i-- {
			l.remove(i)
			if c.err != nil {
				return "", c.err
			}
		}
		d.Delete("lanes", id)
	}
	c.lanes = nil
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Markers)) {
		if d.Doc.Markers[id].Assembly == a.ID {
			d.Delete("markers", id)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Tracks)) {
		if d.Doc.Tracks[id].Assembly == a.ID {
			removeTrack(d, id)
		}
	}
	d.Delete("assemblies", a.ID)
	return c.done("remove assembly %s", name)
}

type assemblySetArgs struct {
	ID         string       `json:"id"`
	Name       *string      `json:"name"`
	Target     *int         `json:"target"`
	ShotTarget *int         `json:"shotTarget"`
	Cues       *scene.Clock `json:"cues"`
	Fixed      *bool        `json:"fixed"`
}

// setAssembly changes the name, the targets, or what an assembly follows.
func setAssembly(d *edit.Draft, a assemblySetArgs) (string, error) {
	v, ok := d.Doc.Assemblies[a.ID]
	if !ok {
		return "", errors.New("the assembly is not there any more")
	}
	assign(&v.Name, a.Name)
	assign(&v.Target, a.Target)
	assign(&v.ShotTarget, a.ShotTarget)
	assign(&v.Cues, a.Cues)
	assign(&v.Fixed, a.Fixed)
	for id, o := range d.Doc.Assemblies {
		if a.Name != nil && id != a.ID && o.Name == v.Name {
			return "", fmt.Errorf("another assembly is called %q already; choose another name", v.Name)
		}
	}
	d.SetAssembly(a.ID, v)
	return "change assembly " + v.Name, nil
}

// Difference is one way in which two assemblies differ.
type Difference struct {
	Number string `json:"number"` // of the shot
	What   string `json:"what"`   // only in the first, only in the second, camera, …
	First  string `json:"first"`
	Second string `json:"second"`
	A      string `json:"a"` // id of the shot in the first assembly, "" if it is not there
	B      string `json:"b"`
	At     int    `json:"at"` // screen frame, in the first when it is there
}

// What a difference can be.
const (
	onlyFirst  = "only in the first"
	onlySecond = "only in the second"
)

// Differences lists how the main lanes of two assemblies differ, shots told by
// their numbers, in order of screen time.
func Differences(doc *scene.Document, first, second string) []Difference {
	a, b := Shots(doc, MainLane(doc, first)), Shots(doc, MainLane(doc, second))
	theirs := map[string]int{}
	for i, s := range b {
		if _, twice := theirs[s.Number]; !twice {
			theirs[s.Number] = i
		}
	}
	out := []Difference{}
	shared := map[string]bool{}
	var order [][2]int // indices of shots that both have
	for i, s := range a {
		j, ok := theirs[s.Number]
		if !ok || shared[s.Number] {
			out = append(out, Difference{Number: s.Number, What: onlyFirst, First: span(s), A: s.ID, At: s.ScreenIn})
			continue
		}
		shared[s.Number] = true
		order = append(order, [2]int{i, j})
		out = append(out, between(doc, s, b[j])...)
	}
	seen := map[string]bool{}
	for _, s := range b {
		if !shared[s.Number] || seen[s.Number] {
			out = append(out, Difference{Number: s.Number, What: onlySecond, Second: span(s), B: s.ID, At: s.ScreenIn})
		}
		seen[s.Number] = true
	}
	// A shot stands elsewhere when another pair follows the other way round.
	for k := 1; k < len(order); k++ {
		if order[k][1] < order[k-1][1] {
			s, o := a[order[k][0]], b[order[k][1]]
			out = append(out, Difference{s.Number, "order", fmt.Sprintf("after %s", a[order[k-1][0]].Number), fmt.Sprintf("before %s", a[order[k-1][0]].Number), s.ID, o.ID, s.ScreenIn})
		}
	}
	slices.SortStableFunc(out, func(x, y Difference) int { return x.At - y.At })
	return out
}

func span(s Entry) string { return fmt.Sprintf("%d f at %d", s.Screen().Count(), s.ScreenIn) }

func between(doc *scene.Document, s, o Entry) (out []Difference) {
	say := func(what, first, second string) {
		if first != second {
			out = append(out, Difference{s.Number, what, first, second, s.ID, o.ID, s.ScreenIn})
		}
	}
	picture := func(s Entry) string {
		switch s.Plays {
		case scene.PlaysCamera:
			return doc.Nodes[s.Camera].Name
		case scene.PlaysCard:
			return "card " + doc.Cards[s.Card].Name
		case scene.PlaysFootage:
			return "footage " + doc.Footage[s.Footage].Name
		}
		return string(s.Plays)
	}
	join := func(j *scene.Join) string {
		if j == nil {
			return "cut"
		}
		return strings.TrimSpace(fmt.Sprintf("%s of %d f %s", j.Kind, j.Frames(), j.Color))
	}
	say("picture", picture(s), picture(o))
	say("length", fmt.Sprintf("%d f", s.Screen().Count()), fmt.Sprintf("%d f", o.Screen().Count()))
	say("story", fmt.Sprintf("from %.4g", s.StoryIn), fmt.Sprintf("from %.4g", o.StoryIn))
	say("speed", fmt.Sprintf("%g×", s.Speed), fmt.Sprintf("%g×", o.Speed))
	say("join", join(s.Join), join(o.Join))
	say("handles", fmt.Sprintf("%d + %d f", s.Head, s.Tail), fmt.Sprintf("%d + %d f", o.Head, o.Tail))
	return out
}

// Beat is the length of a shot against what is aimed at.
type Beat struct {
	Shot   string  `json:"shot"`
	Number string  `json:"number"`
	Frames int     `json:"frames"`
	Off    float64 `json:"off"` // times the target, as a share above or below it; 0 without a target
	Far    bool    `json:"far"` // more than half as long again, or less than two thirds
}

// Rhythm is how long the shots of a cut are.
type Rhythm struct {
	Beats   []Beat  `json:"beats"`
	Average float64 `json:"average"` // frames
	Median  float64 `json:"median"`
	Total   int     `json:"total"`  // frames of shots, without gaps
	Length  int     `json:"length"` // running time
	Over    int     `json:"over"`   // running time beyond the target, negative below; 0 without one
}

// far is how many times longer than the target a shot may be before it is marked.
const far = 1.5

// Measure returns the rhythm of a program against an assembly's targets.
func Measure(p *Program, target scene.Assembly) Rhythm {
	r := Rhythm{Beats: []Beat{}, Length: p.Length()}
	var lengths []int
	for _, s := range p.shots {
		b := Beat{Shot: s.ID, Number: s.Number, Frames: s.Screen().Count()}
		if t := float64(target.ShotTarget); t > 0 {
			b.Off = float64(b.Frames)/t - 1
			b.Far = float64(b.Frames) > t*far || float64(b.Frames) < t/far
		}
		r.Beats = append(r.Beats, b)
		r.Total += b.Frames
		lengths = append(lengths, b.Frames)
	}
	if n := len(lengths); n > 0 {
		slices.Sort(lengths)
		r.Average = float64(r.Total) / float64(n)
		r.Median = float64(lengths[n/2]+lengths[(n-1)/2]) / 2
	}
	if target.Target > 0 {
		r.Over = r.Length - target.Target
	}
	return r
}
