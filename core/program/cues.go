package program

import (
	"fmt"
	"maps"
	"slices"

	"proscen/core/scene"
)

// CuePrefix begins the ids of shots that stand for cues.
const CuePrefix = "cue."

// Cues lists the ids of the cues of an assembly on a clock, in order; of several
// at one frame the first by id counts.
func Cues(doc *scene.Document, assembly string, clock scene.Clock) (out []string) {
	for _, id := range slices.Sorted(maps.Keys(doc.Markers)) {
		m := doc.Markers[id]
		if m.Camera != "" && m.Clock == clock && (clock == scene.StoryClock || m.Assembly == assembly) {
			out = append(out, id)
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return doc.Markers[a].Frame - doc.Markers[b].Frame })
	return slices.CompactFunc(out, func(a, b string) bool { return doc.Markers[a].Frame == doc.Markers[b].Frame })
}

// FromCues returns the shots that cues say: from each on, its camera is on air
// until the next. On the story clock screen time begins at the first cue and
// runs to the end of the story; on the screen clock the story runs along with
// screen time from its start. The ids are the cues' after CuePrefix.
func FromCues(doc *scene.Document, assembly string, clock scene.Clock) (out []Entry) {
	ids := Cues(doc, assembly, clock)
	story := doc.Settings.Story
	for i, id := range ids {
		m := doc.Markers[id]
		s := scene.Shot{
			Number: fmt.Sprintf("%03d", 10*(i+1)), Name: m.Name, Camera: m.Camera, Speed: 1, Head: 8, Tail: 8,
			ScreenIn: m.Frame, ScreenOut: story.Count(),
		}
		if clock == scene.StoryClock {
			first := doc.Markers[ids[0]].Frame
			s.ScreenIn, s.ScreenOut = m.Frame-first, story.Out-first
		}
		if i+1 < len(ids) {
			s.ScreenOut = s.ScreenIn + doc.Markers[ids[i+1]].Frame - m.Frame
		}
		s.StoryIn = float64(story.In + s.ScreenIn)
		if clock == scene.StoryClock {
			s.StoryIn = float64(m.Frame)
		}
		if s.ScreenIn >= 0 && s.ScreenOut > s.ScreenIn {
			out = append(out, Entry{ID: CuePrefix + id, Shot: s})
		}
	}
	return out
}
