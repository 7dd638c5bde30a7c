package motion

import (
	"math"
	"strings"
	"unicode"

	"proscen/core/scene"
)

// speech is a line as a mouth says it.
type speech struct {
	in, out float64
	beats   []float64 // how far each syllable opens the mouth; 0 where there is a pause
}

// vowels says how far the mouth opens for each.
var vowels = map[rune]float64{
	'a': 0.95, 'o': 0.8, 'e': 0.6, 'u': 0.5, 'i': 0.4, 'y': 0.4,
	'ä': 0.8, 'ö': 0.7, 'ü': 0.45, 'á': 0.95, 'é': 0.6, 'í': 0.4, 'ó': 0.8, 'ú': 0.5, 'è': 0.6, 'à': 0.95, 'å': 0.8, 'ø': 0.7,
}

// newSpeech takes each group of vowels of a line as a syllable, and stops as pauses. A
// script without vowels has a syllable for each two letters.
func newSpeech(l scene.Line) speech {
	s := speech{in: float64(l.In), out: float64(l.Out)}
	letters, before := 0, 0.0
	for _, r := range strings.ToLower(l.Text) {
		open := vowels[r]
		switch {
		case open > 0 && before > 0:
			s.beats[len(s.beats)-1] = max(before, open)
		case open > 0:
			s.beats = append(s.beats, open)
		case strings.ContainsRune(",;:.!?–—…", r) && len(s.beats) > 0:
			s.beats = append(s.beats, 0)
		}
		before = open
		if unicode.IsLetter(r) {
			letters++
		}
	}
	if len(s.beats) == 0 {
		for range (letters + 1) / 2 {
			s.beats = append(s.beats, 0.6)
		}
	}
	for len(s.beats) > 0 && s.beats[len(s.beats)-1] == 0 { // the stop at the end
		s.beats = s.beats[:len(s.beats)-1]
	}
	return s
}

// says returns how far the mouth of somebody is open at a frame, from 0 to 1.
func (n *Node) says(frame float64) float64 {
	open := 0.0
	for i := range n.speech {
		s := &n.speech[i]
		if frame < s.in || frame >= s.out || len(s.beats) == 0 {
			continue
		}
		at := (frame - s.in) / (s.out - s.in) * float64(len(s.beats))
		k := min(len(s.beats)-1, int(at))
		open = max(open, s.beats[k]*math.Sin(math.Pi*(at-float64(k))))
	}
	return open
}
