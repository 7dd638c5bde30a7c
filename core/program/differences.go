package program

import (
	"fmt"
	"slices"
	"strings"

	"proscen/core/scene"
)

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
