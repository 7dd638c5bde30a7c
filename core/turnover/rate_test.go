package turnover_test

import (
	"testing"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"
	"proscen/core/turnover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFilesOfAnotherRateLastAsLong delivers a scene of 24 frames a second at others: the
// frames lie in between, the clocks agree, and every frame is that of its moment.
func TestFilesOfAnotherRateLastAsLong(t *testing.T) {
	doc := scenetest.Rich()
	for _, c := range []struct {
		rate               timing.Rate
		frames, head, tail int // of shot 010: 48 frames, 12 before and 6 after
	}{
		{timing.Rate{Num: 24, Den: 1}, 66, 12, 6},
		{timing.Rate{Num: 48, Den: 1}, 132, 24, 12},
		{timing.Rate{Num: 12, Den: 1}, 33, 6, 3},
		{timing.Rate{Num: 30000, Den: 1001}, 83, 15, 8}, // 82.4, 15 and 59.9 begun frames
	} {
		r := plain
		r.Head, r.Tail, r.Slate, r.Rate, r.Scale = 12, 6, 10, &c.rate, 0.1
		items := plan(t, doc, turnover.Order{Shots: []string{"010"}, Each: true, Stills: []turnover.Moment{turnover.Last}}, r)
		require.Len(t, items, 2)
		i := items[0]
		assert.Equal(t, []int{10 + c.frames, 10 + c.head, c.tail}, []int{i.Frames(&r), i.HeadFrames(&r), i.TailFrames(&r)}, "%v", c.rate)
		assert.Equal(t, 1, items[1].Frames(&r), "a still is one picture")
		f, err := turnover.NewFilm(doc, picture.Files{}, i, r, turnover.Facts{Version: 1}, 2)
		require.NoError(t, err)
		assert.Equal(t, c.rate, f.Rate())
		// Seconds from the beginning of the shot are the same in every rate.
		for _, said := range f.Said() {
			plainFilm := film(t, doc, plan(t, doc, turnover.Order{Shots: []string{"010"}, Each: true}, plain)[0], plain)
			was := plainFilm.Said()[0]
			assert.InDelta(t, timing.Film24.Seconds(was.In+12), c.rate.Seconds(said.In-10), 1e-9)
			break
		}
	}
	// At twice the rate every other frame is one of the scene's, and those between are
	// between: the camera of shot 020 travels evenly.
	twice := timing.Rate{Num: 48, Den: 1}
	r := plain
	r.Scale = 0.1
	one := plan(t, doc, turnover.Order{Shots: []string{"020"}, Each: true}, r)[0]
	slow := frames(t, doc, one, r, 3, 4)
	r.Rate = &twice
	two := plan(t, doc, turnover.Order{Shots: []string{"020"}, Each: true}, r)[0]
	fast := frames(t, doc, two, r, 6, 7, 8)
	assert.Equal(t, slow[0].Pix, fast[0].Pix)
	assert.Equal(t, slow[1].Pix, fast[2].Pix)
	assert.NotEqual(t, slow[0].Pix, fast[1].Pix)
	assert.NotEqual(t, slow[1].Pix, fast[1].Pix)
	// Another rate is another film, and the same one is not.
	assert.NotEqual(t, film(t, doc, one, plain).Print(always), film(t, doc, two, r).Print(always))
	assert.Equal(t, film(t, doc, two, r).Print(always), film(t, doc, two, r).Print(always))

	none := scene.Recipe{Name: "no rate", Pack: scene.H264, Quality: scene.Check, Rate: &timing.Rate{}}
	assert.ErrorContains(t, scene.CheckRecipe(none), "is not a frame rate")
}
