package program

import (
	"slices"

	"proscen/core/scene"
)

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
	Total   int     `json:"total"` // running time: frames of shots
	Gaps    int     `json:"gaps"`  // frames in which nothing plays, counted apart
	Over    int     `json:"over"`  // running time beyond the target, negative below; 0 without one
}

// far is how many times longer than the target a shot may be before it is marked.
const far = 1.5

// Measure returns the rhythm of a program against an assembly's targets.
func Measure(p *Program, target scene.Assembly) Rhythm {
	r := Rhythm{Beats: []Beat{}}
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
	r.Gaps = p.Length() - r.Total
	if target.Target > 0 {
		r.Over = r.Total - target.Target
	}
	return r
}
