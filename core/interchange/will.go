package interchange

import (
	"fmt"
	"slices"
	"strings"

	"proscen/core/assembly"
	"proscen/core/edit"
	"proscen/core/scene"
)

// Change says in words what something becomes; Was is empty for what is new.
type Change struct {
	What string `json:"what"`
	Was  string `json:"was,omitempty"`
	Is   string `json:"is"`
}

// maxChanges is how many changes are told.
const maxChanges = 400

func some(number int, one, many string) string {
	if number == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", number, many)
}

// willCut tells what becomes of an assembly that is brought in: all of it first, then its shots.
func willCut(doc *scene.Document, in assembly.Incoming) []Change {
	set := &doc.Settings
	shots, boards, cards, sounds, length := 0, 0, 0, 0, 0
	var each []Change
	for i, l := range in.Lanes {
		for k, s := range l.Shots {
			shots++
			boards += len(s.Boards)
			if s.Card != nil {
				cards++
			}
			if i == 0 {
				length = max(length, s.Shot.ScreenOut)
			}
			number := s.Shot.Number
			if number == "" { // it gets one when it is there
				number = fmt.Sprintf("%d of %d", k+1, len(l.Shots))
			}
			what := strings.TrimSpace("Shot " + number + " " + s.Shot.Name)
			if i > 0 {
				what += " (" + l.Name + ")"
			}
			each = append(each, Change{What: what, Is: fmt.Sprintf("%s · %d f from %s", seenIn(doc, &s), s.Shot.Screen().Count(), set.Timecode(scene.ScreenClock, s.Shot.ScreenIn))})
		}
	}
	for _, t := range in.Tracks {
		sounds += len(t.Sounds)
	}
	is := []string{some(shots, "shot", "shots")}
	if len(in.Lanes) > 1 {
		is = append(is, some(len(in.Lanes), "lane", "lanes"))
	}
	for _, c := range []struct {
		n         int
		one, many string
	}{{cards, "card", "cards"}, {boards, "board", "boards"}, {len(in.Markers), "marker", "markers"}, {sounds, "sound", "sounds"}} {
		if c.n > 0 {
			is = append(is, some(c.n, c.one, c.many))
		}
	}
	name := in.Assembly.Name
	if name == "" {
		name = "assembly"
	}
	out := []Change{{What: "New assembly “" + name + "”", Is: strings.Join(is, ", ") + " · " + set.Rate.Timecode(length, set.Drop)}}
	return append(out, each...)
}

// seenIn tells what a shot from elsewhere shows.
func seenIn(doc *scene.Document, s *assembly.IncomingShot) string {
	switch {
	case s.Card != nil:
		return "a new card"
	case s.Shot.Plays == scene.PlaysCamera:
		if n := doc.Nodes[s.Shot.Camera]; n.Camera != nil {
			return fmt.Sprintf("camera %d", n.Camera.Number)
		}
		return "no camera yet"
	}
	return shows(doc, s.Shot)
}

// willSay tells the lines that are brought in.
func willSay(doc *scene.Document, lines []scene.Line) []Change {
	out := make([]Change, 0, len(lines))
	for _, l := range lines {
		out = append(out, Change{What: doc.Nodes[l.Cast].Name + " says", Is: fmt.Sprintf("“%s” · %s to %s", clip(l.Text), doc.Settings.Timecode(scene.StoryClock, l.In), doc.Settings.Timecode(scene.StoryClock, l.Out))})
	}
	return out
}

// willShoot tells the cameras that are brought in.
func willShoot(doc *scene.Document, in edit.CameraBring) []Change {
	out := make([]Change, 0, len(in.Cameras))
	for _, c := range in.Cameras {
		if len(c.Frames) == 0 {
			continue
		}
		first, last := c.Frames[0], c.Frames[len(c.Frames)-1]
		focal := fmt.Sprintf("%.4g mm", first.Focal)
		if slices.ContainsFunc(c.Frames, func(f edit.BroughtFrame) bool { return f.Focal != first.Focal }) {
			focal = fmt.Sprintf("%.4g to %.4g mm", first.Focal, last.Focal)
		}
		move := "stands still"
		if len(c.Frames) > 1 {
			move = fmt.Sprintf("moves from %s to %s", doc.Settings.Timecode(scene.StoryClock, int(first.Frame)), doc.Settings.Timecode(scene.StoryClock, int(last.Frame)))
		}
		name := strings.TrimSpace(c.Name)
		if name == "" {
			name = "without a name"
		}
		out = append(out, Change{What: "New camera “" + clip(name) + "”", Is: focal + " · " + move})
	}
	return out
}

// told shortens a list of changes that nobody would read to its end.
func told(all []Change) []Change {
	if len(all) <= maxChanges {
		return all
	}
	return append(all[:maxChanges:maxChanges], Change{What: "and so on", Is: some(len(all)-maxChanges, "more", "more")})
}
