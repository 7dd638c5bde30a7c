// Package program says what an assembly comes to: what is on air at a screen frame,
// what is heard, what is used of the story, how long it is. The operations that
// change it are next door, in assembly.
package program

import (
	"cmp"
	"iter"
	"maps"
	"slices"
	"sort"
	"strings"

	"proscen/core/scene"
)

// Entry is a shot with its id.
type Entry = scene.ShotEntry

// MainLane returns the id of the lane that plays in an assembly, "" if there is
// no such assembly.
func MainLane(doc *scene.Document, assembly string) string {
	for _, id := range slices.Sorted(maps.Keys(doc.Lanes)) {
		if l := doc.Lanes[id]; l.Assembly == assembly && l.Main {
			return id
		}
	}
	return ""
}

// SpareLanes lists the ids of an assembly's spare lanes in order.
func SpareLanes(doc *scene.Document, assembly string) (out []string) {
	for _, id := range slices.Sorted(maps.Keys(doc.Lanes)) {
		if l := doc.Lanes[id]; l.Assembly == assembly && !l.Main {
			out = append(out, id)
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return doc.Lanes[a].Order - doc.Lanes[b].Order })
	return out
}

// Shots returns the shots of a lane in order of screen time.
func Shots(doc *scene.Document, lane string) []Entry {
	return AppendShots(nil, doc, lane)
}

// AppendShots adds the shots of a lane to a list, in order of screen time.
func AppendShots(to []Entry, doc *scene.Document, lane string) []Entry {
	list := doc.ShotsInOrder()
	for i := range list {
		if list[i].Lane == lane {
			if to == nil {
				to = make([]Entry, 0, len(list)-i)
			}
			to = append(to, list[i])
		}
	}
	return to
}

// Assemblies lists the ids of a scene's assemblies in order.
func Assemblies(doc *scene.Document) []string {
	return slices.SortedFunc(maps.Keys(doc.Assemblies), func(a, b string) int {
		return cmp.Or(doc.Assemblies[a].Order-doc.Assemblies[b].Order, strings.Compare(a, b))
	})
}

// Find returns the id of an assembly by id or name. An empty name finds the
// first assembly.
func Find(doc *scene.Document, name string) (string, bool) {
	if _, ok := doc.Assemblies[name]; ok {
		return name, true
	}
	for _, id := range Assemblies(doc) {
		if name == "" || doc.Assemblies[id].Name == name {
			return id, true
		}
	}
	return "", false
}

// Still says which picture among the files or which card stands for a camera.
type Still struct {
	Blob  string  `json:"blob,omitempty"`  // a board's picture
	Card  string  `json:"card,omitempty"`  // id of a card
	Video string  `json:"video,omitempty"` // the blob of footage
	Frame float64 `json:"frame,omitempty"` // of the footage's file
	Rate  float64 `json:"rate,omitempty"`  // frames a second of the file, when it is not the scene's
	Say   string  `json:"say,omitempty"`   // what to say where there is no picture
}

// Between is a camera on its way from one shot's camera to the next one's.
type Between struct {
	From  View    `json:"from"`
	To    View    `json:"to"`
	Share float64 `json:"share"` // 0 at the first, 1 at the second
}

// View is what a shot is seen through: a camera at a story frame, framed as usual in
// the format that is worked in or, with Reframe, as the shot has it.
type View struct {
	Camera  string         `json:"camera"` // "" when something else stands for it
	Story   float64        `json:"story"`  // story frame
	Reframe *scene.Reframe `json:"reframe,omitempty"`
}

// Playing is one shot on air with its share of the picture.
type Playing struct {
	Shot string `json:"shot"` // id
	View
	Weight  float64  `json:"weight"`          // 0..1
	Still   *Still   `json:"still,omitempty"` // what stands for the camera
	Between *Between `json:"between,omitempty"`
}

// Air is what is on air at a frame. The weights add up to 1, but in a dip, where
// its colour has the rest.
type Air struct {
	Playing []Playing `json:"playing"`
	Dip     string    `json:"dip,omitempty"`
}

// Program is the compiled main lane of an assembly, or its cues. The zero value
// plays nothing.
type Program struct {
	shots   []Entry
	boards  map[string][]scene.Board
	footage map[string]scene.Footage
	format  string
}

// Compile prepares an assembly for At: its main lane, or what its cues say when
// it follows them.
func Compile(doc *scene.Document, assembly string) *Program {
	p := &Program{}
	doc.ForgetOrder()
	p.Recompile(doc, assembly)
	return p
}

// Recompile turns p into what Compile returns, in the memory that it has, trusting
// the order of shots that the document remembers. What Shots has returned before
// does not hold any more.
func (p *Program) Recompile(doc *scene.Document, assembly string) {
	p.format = doc.Settings.Format
	p.boards, p.footage = map[string][]scene.Board{}, doc.Footage
	if clock := doc.Assemblies[assembly].Cues; clock != "" {
		p.shots = FromCues(doc, assembly, clock)
		return
	}
	p.shots = AppendShots(p.shots[:0], doc, MainLane(doc, assembly))
	for shot, ids := range doc.BoardsByShot() {
		if doc.Shots[shot].Plays != scene.PlaysBoard {
			continue
		}
		for _, id := range ids {
			p.boards[shot] = append(p.boards[shot], doc.Boards[id])
		}
	}
}

// Shots lists the shots in order of screen time. The caller does not change
// them.
func (p *Program) Shots() []Entry { return p.shots }

// between goes through the shots that meet [from, to) of screen time.
func (p *Program) between(from, to float64) iter.Seq[*Entry] {
	return func(yield func(*Entry) bool) {
		first := sort.Search(len(p.shots), func(i int) bool { return float64(p.shots[i].ScreenOut) > from })
		for i := first; i < len(p.shots) && float64(p.shots[i].ScreenIn) < to && yield(&p.shots[i]); i++ {
		}
	}
}

// Length returns the screen frame after the last shot.
func (p *Program) Length() int {
	if n := len(p.shots); n > 0 {
		return p.shots[n-1].ScreenOut
	}
	return 0
}

// Index returns the index of the shot that holds a screen frame, or −1.
func (p *Program) Index(screen float64) int {
	i := sort.Search(len(p.shots), func(i int) bool { return float64(p.shots[i].ScreenOut) > screen })
	if i < len(p.shots) && float64(p.shots[i].ScreenIn) <= screen {
		return i
	}
	return -1
}

// joined returns the join into the shot at i, if it has a seam.
func (p *Program) joined(i int) *scene.Join {
	if i < 1 || i >= len(p.shots) || p.shots[i-1].ScreenOut != p.shots[i].ScreenIn {
		return nil
	}
	return p.shots[i].Join
}

// At fills air with what is on air at a screen frame, which may lie between two
// whole frames; its first entry is the shot that holds the frame. In a gap
// between shots nothing is.
func (p *Program) At(screen float64, air *Air) {
	if air.Playing == nil {
		air.Playing = []Playing{}
	}
	air.Playing, air.Dip = air.Playing[:0], ""
	i := p.Index(screen)
	if i < 0 {
		return
	}
	air.Playing = append(air.Playing, p.Show(&p.shots[i], screen))
	if j := p.joined(i + 1); j != nil && screen >= float64(p.shots[i+1].ScreenIn-j.Before) {
		p.join(air, i+1, *j, screen)
	} else if j := p.joined(i); j != nil && screen < float64(p.shots[i].ScreenIn+j.After) {
		p.join(air, i, *j, screen)
	}
}

// ViewOf returns what a shot is seen through in a format at a screen frame.
func ViewOf(s *scene.Shot, format string, screen float64) View {
	out := View{Camera: s.Camera, Story: s.StoryAt(screen)}
	f, ok := s.Framed()[format]
	if !ok {
		return out
	}
	if f.Camera != "" {
		out.Camera = f.Camera
	}
	if f.Reframe != (scene.Reframe{}) {
		out.Reframe = &f.Reframe
	}
	return out
}

// Show returns a shot of the program's document at a screen frame, which may lie
// in its handles, as if it played alone.
func (p *Program) Show(s *Entry, screen float64) Playing {
	out := Playing{Shot: s.ID, View: ViewOf(&s.Shot, p.format, screen), Weight: 1}
	switch s.Plays {
	case scene.PlaysBoard:
		out.Camera, out.Still = "", &Still{Say: "This shot has no board yet."}
		for k, b := range p.boards[s.ID] {
			if k == 0 || float64(s.ScreenIn+b.At) <= screen {
				out.Still = &Still{Blob: b.Blob}
			}
		}
	case scene.PlaysCard:
		out.Camera, out.Still = "", &Still{Card: s.Card}
	case scene.PlaysFootage:
		f := p.footage[s.Footage]
		out.Camera, out.Still = "", &Still{Video: f.Blob, Frame: f.FileFrame(max(0, min(s.FootageAt(screen), float64(f.Frames-1))))}
		if f.Rate.Valid() {
			out.Still.Rate = f.Rate.PerSecond()
		}
	}
	return out
}

// join adds to what is on air what the join into the shot at i does with it. The
// join of n frames passes (k + ½)/n of its way at its frame k, so that no frame
// of it is wholly one of the shots.
func (p *Program) join(air *Air, i int, j scene.Join, screen float64) {
	now := &air.Playing[0]
	seam := float64(p.shots[i].ScreenIn)
	share := (screen - seam + float64(j.Before) + 0.5) / float64(j.Frames())
	share = max(0, min(1, share))
	incoming := now.Shot == p.shots[i].ID
	other := i
	if incoming {
		other = i - 1
	}
	switch j.Kind {
	case scene.Dissolve:
		second := p.Show(&p.shots[other], screen)
		if incoming {
			now.Weight, second.Weight = share, 1-share
		} else {
			now.Weight, second.Weight = 1-share, share
		}
		air.Playing = append(air.Playing, second)
	case scene.Dip:
		air.Dip = j.Color
		if incoming {
			now.Weight = min(1, (screen-seam+0.5)/float64(j.After))
		} else {
			now.Weight = min(1, (seam-screen-0.5)/float64(j.Before))
		}
		now.Weight = max(0, now.Weight)
	case scene.Travels:
		from, to := p.Show(&p.shots[i-1], screen), p.Show(&p.shots[i], screen)
		if from.Still != nil || to.Still != nil {
			return
		}
		now.Between = &Between{from.View, to.View, j.Way(share)}
	}
}

// ScreenAt returns the screen frame at which the cut shows a story frame. When
// several shots show it, the one on air at near counts, else the first; ok is
// false when none does.
func (p *Program) ScreenAt(story, near float64) (screen float64, ok bool) {
	for i := range p.shots {
		s := &p.shots[i]
		at := s.ScreenAt(story)
		if at < float64(s.ScreenIn) || at >= float64(s.ScreenOut) {
			continue
		}
		if near >= float64(s.ScreenIn) && near < float64(s.ScreenOut) {
			return at, true
		}
		if !ok {
			screen, ok = at, true
		}
	}
	return screen, ok
}

// Of returns a cut of one shot, which need not be in the document. Its boards come so
// many frames later than they say: the shot begins earlier than its own does.
func Of(doc *scene.Document, s Entry, later int) *Program {
	p := &Program{shots: []Entry{s}, boards: map[string][]scene.Board{}, footage: doc.Footage}
	if s.Plays == scene.PlaysBoard {
		for _, id := range doc.BoardsByShot()[s.ID] {
			b := doc.Boards[id]
			b.At += later
			p.boards[s.ID] = append(p.boards[s.ID], b)
		}
	}
	return p
}
