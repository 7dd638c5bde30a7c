package program_test

import (
	"fmt"
	"math"
	"testing"

	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestLinesAreHeardWhereTheirFramesAreShown(t *testing.T) {
	d := scenetest.Cut([2]int{0, 20}, [2]int{20, 30}, [2]int{40, 60})
	place := func(id string, story, speed float64) {
		s := d.Shots[id]
		s.StoryIn, s.Speed = story, speed
		d.PutShot(id, s)
	}
	place("s1", 100, 1)
	place("s2", 110, 1) // shows ten frames once more
	place("s3", 120, 0.5)
	d.Lines = map[string]scene.Line{
		"hello": {Cast: "walker", In: 104, Out: 112, Text: "Hello."},
		"bye":   {Cast: "walker", In: 118, Out: 124, Text: "Bye."},
	}
	p := program.Compile(d, "cut")
	said := func(from, to, least float64) (out []string) {
		for _, s := range program.Lines(d, p, from, to, least) {
			out = append(out, fmt.Sprint(s.Shot, " ", s.Line, " ", s.In, "-", s.Out, " ", s.Cut))
		}
		return out
	}
	assert.Equal(t, []string{
		"s1 hello 4-12 false", "s1 bye 18-20 true", // 100–119
		"s2 hello 20-22 true", "s2 bye 28-30 true", // 110–119
		"s3 bye 40-48 true", // 120–129, half as fast
	}, said(0, math.Inf(1), 0))
	assert.Equal(t, []string{"s1 bye 18-20 true", "s2 hello 20-22 true"}, said(12, 28, 0))
	assert.Equal(t, []string{"s1 hello 4-12 false", "s3 bye 40-48 true"}, said(0, math.Inf(1), 3))
	place("s3", 120, 0)
	assert.Empty(t, program.Lines(d, program.Compile(d, "cut"), 40, 60, 0), "a held frame says nothing")
}

// TestLinesAndUsesAgainstCounting holds both against going through all shots,
// lines and frames.
func TestLinesAndUsesAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := scenetest.Cut()
		at := 0
		for i := range rapid.IntRange(1, 8).Draw(t, "shots") {
			in := at + rapid.IntRange(0, 5).Draw(t, "gap")
			at = in + rapid.IntRange(1, 20).Draw(t, "length")
			d.Shots[fmt.Sprint("s", i)] = scene.Shot{
				Lane: "main", Number: fmt.Sprint(i), Camera: "a", ScreenIn: in, ScreenOut: at,
				StoryIn: float64(rapid.IntRange(0, 60).Draw(t, "story")), Speed: rapid.SampledFrom([]float64{0, 1, 1, 2}).Draw(t, "speed"),
			}
		}
		d.Lines = map[string]scene.Line{}
		for i := range rapid.IntRange(0, 6).Draw(t, "lines") {
			in := rapid.IntRange(0, 80).Draw(t, "line")
			d.Lines[fmt.Sprint("l", i)] = scene.Line{Cast: "walker", In: in, Out: in + rapid.IntRange(1, 30).Draw(t, "for"), Text: "x"}
		}
		p := program.Compile(d, "cut")
		heard := map[string]bool{}
		for _, s := range program.Lines(d, p, 0, math.Inf(1), 0) {
			heard[s.Shot+" "+s.Line] = true
		}
		for k, s := range d.Shots {
			for id, l := range d.Lines {
				meets := s.Speed > 0 && float64(l.In) < s.StoryOut() && float64(l.Out) > s.StoryIn
				if heard[k+" "+id] != meets {
					t.Fatalf("%s of %s: listed %v, shown %v", id, k, heard[k+" "+id], meets)
				}
			}
		}
		uses := p.Uses()
		for f := 0; f < 160; f++ {
			want := 0
			for _, s := range d.Shots {
				out := s.StoryOut()
				if s.Speed == 0 {
					out = s.StoryIn + 1
				}
				if float64(f) >= s.StoryIn && float64(f) < out {
					want++
				}
			}
			got := 0
			for _, u := range uses {
				if float64(f) >= u.In && float64(f) < u.Out {
					got += u.Times
				}
			}
			if got != want {
				t.Fatalf("story frame %d is shown %d times, counted as %d", f, want, got)
			}
		}
	})
}

func TestShortPiecesOfASoundAreGathered(t *testing.T) {
	// Seven shots of the story's frames 0 to 99 from their beginning, the fourth
	// long, the last far away.
	d := scenetest.Cut([2]int{0, 4}, [2]int{6, 10}, [2]int{10, 14}, [2]int{20, 60}, [2]int{60, 64}, [2]int{64, 68}, [2]int{90, 94})
	for id, s := range d.Shots {
		s.StoryIn = 0
		d.PutShot(id, s)
	}
	d.Tracks = map[string]scene.Track{"wind": {Name: "wind", Clock: scene.StoryClock}, "bell": {Name: "bell", Clock: scene.ScreenClock, Assembly: "cut"}}
	d.Sounds = map[string]scene.Sound{
		"w": {Track: "wind", Name: "w", Blob: "w", Seconds: 10, In: 0, Out: 100},
		"b": {Track: "bell", Name: "b", Blob: "b", Seconds: 1, In: 5, Out: 8},
	}
	heard := func(least float64) (out []string) {
		for _, p := range program.Schedule(d, "cut", program.Compile(d, "cut"), scene.ScreenClock, 0, 1e6, least) {
			out = append(out, fmt.Sprint(p.Sound, " ", p.In, "-", p.Out, " ", p.Gathered))
		}
		return out
	}
	assert.Equal(t, []string{"w 0-14 true", "b 5-8 false", "w 20-60 false", "w 60-68 true", "w 90-94 false"}, heard(10))
	assert.Len(t, heard(0), 8, "nothing is shorter than nothing")
}
