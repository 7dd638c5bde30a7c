package demo

import (
	"fmt"
	"image"
	"testing"

	"proscen/core/raster"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
)

func TestSceneIsTheSameEveryTime(t *testing.T) {
	assert.Equal(t, string(Scene().Encode()), string(Scene().Encode()))
	assert.Empty(t, Scene().Validate())
	assert.Empty(t, Empty().Validate())
	for _, start := range []Start{StartEmpty, StartRoom, StartStreet, StartHillside} {
		d, err := Begin(start, "")
		assert.NoError(t, err)
		assert.Empty(t, d.Validate(), start)
		assert.Equal(t, start == StartEmpty, len(d.Nodes) == 1, start)
		assert.Empty(t, d.Kits)
	}
}

// Walls stand around the room's floor, the road runs along the houses, the footpath up
// the slope: x0, x1, z0, z1 in metres.
func TestStartsStandTogether(t *testing.T) {
	for start, want := range map[Start]map[string][4]float64{
		StartRoom: {
			"room-floor": {-3, 3, -2.5, 2.5}, "wall-back": {-3, 3, -2.5, -2.5}, "wall-left": {-3, -3, -2.5, 2.5}, "wall-right": {3, 3, -2.5, 2.5},
		},
		StartStreet:   {"road": {-40, 40, -3.25, 3.25}},
		StartHillside: {"footpath": {0, 0, -8, 8}},
	} {
		d, err := Begin(start, "")
		assert.NoError(t, err)
		s := session.Open(d, nil)
		for id, w := range want {
			e := s.Stage().Extent(id, 0)
			for i, v := range [4]float64{e.Min.X, e.Max.X, e.Min.Z, e.Max.Z} {
				assert.InDelta(t, w[i], v, 0.9, "%s %s", start, id) // a door that stands open, kerbs, the width of a path
			}
		}
	}
}

// TestDemonstrationHoldsWhatItPromises counts what the first scene must show.
func TestDemonstrationHoldsWhatItPromises(t *testing.T) {
	d := Scene()
	s := session.Open(d, nil)
	assert.GreaterOrEqual(t, len(s.Motion.Cameras), 5)
	assert.GreaterOrEqual(t, len(s.Program().Shots()), 6)
	assert.GreaterOrEqual(t, len(d.Markers), 4)
	assert.Len(t, d.Lines, 4)
	shots := s.Program().Shots()
	for i := 1; i < len(shots); i++ {
		assert.Equal(t, shots[i-1].ScreenOut, shots[i].ScreenIn, "the cut has no gap")
	}
}

func BenchmarkRenderDemo720(b *testing.B) {
	s := session.Open(Scene(), nil)
	for _, c := range []struct {
		threads int
		blur    bool
	}{{1, false}, {2, false}, {1, true}} {
		b.Run(fmt.Sprintf("threads=%d,blur=%t", c.threads, c.blur), func(b *testing.B) {
			s.Doc.Settings.Blur = c.blur
			r, _ := raster.New(1280, 720, c.threads)
			img := image.NewRGBA(image.Rect(0, 0, 1280, 720))
			var in raster.Input
			i := 0
			for b.Loop() {
				on := &s.OnAir(float64(i * 37 % s.Program().Length())).Playing[0]
				s.Draws(s.View(on), on.Shot, &in)
				_ = r.Render(&in, img)
				i++
			}
			b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "frames/s")
		})
	}
}
