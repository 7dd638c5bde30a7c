package program

import (
	"cmp"
	"maps"
	"slices"
	"sort"
	"strings"

	"proscen/core/scene"
)

// Said is a line as a shot lets it be heard, over [In, Out) of screen time.
type Said struct {
	Shot  string  `json:"shot"` // id
	Line  string  `json:"line"` // id
	In    float64 `json:"in"`
	Out   float64 `json:"out"`
	Speed float64 `json:"speed"`         // of the shot
	Cut   bool    `json:"cut,omitempty"` // the shot lets only a part of it be heard
}

// Lines lists the lines that a cut lets be heard, shot by shot and in order of
// the story within a shot. Only what meets [from, to) of screen time and lasts at
// least a number of frames is listed.
func Lines(doc *scene.Document, p *Program, from, to, least float64) []Said {
	ids := slices.SortedFunc(maps.Keys(doc.Lines), func(a, b string) int {
		return cmp.Or(doc.Lines[a].In-doc.Lines[b].In, strings.Compare(a, b))
	})
	longest := 0
	for _, l := range doc.Lines {
		longest = max(longest, l.Out-l.In)
	}
	out := []Said{}
	for s := range p.between(from, to) {
		if s.Speed == 0 || float64(longest)/s.Speed < least {
			continue
		}
		// Lines that begin earlier than this have ended before the shot.
		first := sort.Search(len(ids), func(i int) bool { return float64(doc.Lines[ids[i]].In+longest) > s.StoryIn })
		for _, id := range ids[first:] {
			l := doc.Lines[id]
			if float64(l.In) >= s.StoryOut() {
				break
			}
			a, b := max(float64(l.In), s.StoryIn), min(float64(l.Out), s.StoryOut())
			k := Said{s.ID, id, s.ScreenAt(a), s.ScreenAt(b), s.Speed, a > float64(l.In) || b < float64(l.Out)}
			if a < b && k.Out > from && k.In < to && k.Out-k.In >= least {
				out = append(out, k)
			}
		}
	}
	return out
}

// Use says how often a cut shows a stretch [In, Out) of the story.
type Use struct {
	In    float64 `json:"in"`
	Out   float64 `json:"out"`
	Times int     `json:"times"`
}

// Uses lists the stretches of the story that the cut shows, in order. A held
// frame is shown for one frame.
func (p *Program) Uses() []Use {
	type end struct {
		at float64
		by int
	}
	ends := make([]end, 0, 2*len(p.shots))
	for i := range p.shots {
		s := &p.shots[i]
		out := s.StoryOut()
		if s.Speed == 0 {
			out = s.StoryIn + 1
		}
		ends = append(ends, end{s.StoryIn, 1}, end{out, -1})
	}
	slices.SortFunc(ends, func(a, b end) int { return cmp.Compare(a.at, b.at) })
	list := []Use{}
	times := 0
	for i, e := range ends {
		times += e.by
		if times > 0 && ends[i+1].at > e.at {
			list = append(list, Use{e.at, ends[i+1].at, times})
		}
	}
	return list
}
