// Package assembly holds the cut: which shot is on air at a screen frame, and
// the editing operations on lanes of shots.
package assembly

import (
	"maps"
	"slices"
	"sort"

	"proscen/core/scene"
)

// Entry is a shot with its id.
type Entry struct {
	ID string
	scene.Shot
}

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

// Shots returns the shots of a lane in order of screen time.
func Shots(doc *scene.Document, lane string) []Entry {
	var out []Entry
	for id, s := range doc.Shots {
		if s.Lane == lane {
			out = append(out, Entry{id, s})
		}
	}
	sort.Slice(out, func(i, j int) bool {
		if out[i].ScreenIn != out[j].ScreenIn {
			return out[i].ScreenIn < out[j].ScreenIn
		}
		return out[i].ID < out[j].ID
	})
	return out
}

// Find returns the id of an assembly by id or name. An empty name finds the
// first assembly.
func Find(doc *scene.Document, name string) (string, bool) {
	if _, ok := doc.Assemblies[name]; ok {
		return name, true
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Assemblies)) {
		if name == "" || doc.Assemblies[id].Name == name {
			return id, true
		}
	}
	return "", false
}

// Playing is one shot on air with its share of the picture.
type Playing struct {
	Shot   string  // id
	Camera string  // id
	Story  float64 // story frame
	Weight float64 // 0..1; the weights of what is on air add up to 1
}

// Program is the compiled main lane of an assembly. The zero value plays
// nothing.
type Program struct {
	shots []Entry
}

// Compile prepares the main lane of an assembly for At.
func Compile(doc *scene.Document, assembly string) *Program {
	return &Program{Shots(doc, MainLane(doc, assembly))}
}

// Shots lists the shots in order of screen time. The caller does not change
// them.
func (p *Program) Shots() []Entry { return p.shots }

// Length returns the screen frame after the last shot.
func (p *Program) Length() int {
	if n := len(p.shots); n > 0 {
		return p.shots[n-1].ScreenOut
	}
	return 0
}

// At returns what is on air at a screen frame, which may lie between two whole
// frames, appended to buf[:0]. In a gap between shots nothing is.
func (p *Program) At(screen float64, buf []Playing) []Playing {
	buf = buf[:0]
	i := sort.Search(len(p.shots), func(i int) bool { return float64(p.shots[i].ScreenOut) > screen })
	if i < len(p.shots) && float64(p.shots[i].ScreenIn) <= screen {
		s := &p.shots[i]
		buf = append(buf, Playing{s.ID, s.Camera, s.StoryAt(screen), 1})
	}
	return buf
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
