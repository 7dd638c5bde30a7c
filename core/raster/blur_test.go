package raster

import (
	"image"
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// half is a picture whose left half is a glowing white wall at a distance in
// metres along −Z, and whose right half is a black wall at another.
func half(left, right float64, l Lens, threads int) *image.RGBA {
	wall := func(color string) *kit.Mesh {
		return kit.Build("box", map[string]float64{"width": 400, "height": 400, "depth": 0.01}, color, nil)
	}
	at := func(x, z float64) geom.Mat4 { return geom.Translate(r3.Vec{X: x, Y: -200, Z: -z}) }
	in := Input{
		Draws: []Draw{{Mesh: wall("#ffffff"), World: at(-200, left)}, {Mesh: wall("#000000"), World: at(200, right)}},
		View:  View{World: geom.Identity, HFov: 60, VFov: 2 * geom.Degrees(math.Atan(math.Tan(geom.Radians(30))*9/16)), Lens: l},
		Look:  Look{Zenith: [3]float64{0.5, 0.5, 0.5}, Horizon: [3]float64{0.5, 0.5, 0.5}, Ground: [3]float64{0.5, 0.5, 0.5}},
	}
	r, _ := New(640, 360, threads)
	out := image.NewRGBA(image.Rect(0, 0, 640, 360))
	if err := r.Render(&in, out); err != nil {
		panic(err)
	}
	return out
}

// squared returns the squared value at a column of the middle row, as a share of
// the wall's.
func squared(im *image.RGBA, x int) float64 {
	white := float64(im.RGBAAt(40, 180).G)
	v := float64(im.RGBAAt(x, 180).G)
	return v * v / (white * white)
}

func TestSharpWhereInFocus(t *testing.T) {
	plain := half(10, 10, Lens{}, 1)
	focused := half(10, 10, Lens{Spread: 0.03, Focus: 10}, 1)
	assert.Equal(t, plain.Pix, focused.Pix, "what is in focus is untouched")
	assert.Equal(t, 0.0, math.Round(squared(plain, 330)*1000)/1000)
}

// TestAnEdgeIsSpreadByTheDisc holds the blur of an edge against what a disc of
// the computed size does to one: the share of the disc's area on the other side.
func TestAnEdgeIsSpreadByTheDisc(t *testing.T) {
	// At twice the focus distance half the spread at infinity: 0.04·360/2/2 = 3.6 px.
	const radius = 3.6
	im := half(20, 20, Lens{Spread: 0.04, Focus: 10}, 1)
	for _, x := range []int{314, 316, 318, 320, 322, 324, 326} {
		d := (float64(x) + 0.5 - 320) / radius // from the edge, in radii
		want := 0.0
		if d <= -1 {
			want = 1
		} else if d < 1 {
			want = (math.Acos(d) - d*math.Sqrt(1-d*d)) / math.Pi
		}
		assert.InDelta(t, want, squared(im, x), 0.11, "at %d", x)
	}
	assert.InDelta(t, 1, squared(im, 310), 0.01)
	assert.InDelta(t, 0, squared(im, 330), 0.01)
}

func TestASharpForegroundKeepsItsEdge(t *testing.T) {
	// The black wall in front is in focus, the white one far behind it is not: the
	// white does not spread over the black.
	im := half(60, 5, Lens{Spread: 0.05, Focus: 5}, 1)
	black := 0
	for x := 0; x < 640; x++ {
		if im.RGBAAt(x, 180).G < 8 {
			black = x
			break
		}
	}
	require.NotZero(t, black)
	sharp := half(60, 5, Lens{}, 1)
	first := 0
	for x := 0; x < 640; x++ {
		if sharp.RGBAAt(x, 180).G < 8 {
			first = x
			break
		}
	}
	assert.InDelta(t, first, black, 2)
	// And a blurred foreground does spread over a sharp background.
	im = half(60, 3, Lens{Spread: 0.05, Focus: 60}, 1)
	assert.Less(t, squared(im, first-4), 0.97)
}

func TestBlurIsTheSameWithAnyNumberOfThreads(t *testing.T) {
	l := Lens{Spread: 0.05, Focus: 4}
	one := half(20, 7, l, 1)
	for _, n := range []int{2, 5} {
		assert.Equal(t, one.Pix, half(20, 7, l, n).Pix)
	}
}

func TestShiftMovesTheRenderedPicture(t *testing.T) {
	// The edge at x = 0 in the middle; seen half a half-width further to the right
	// it lies at a quarter of the width.
	edge := func(shift float64) int {
		in := Input{
			Draws: []Draw{{Mesh: kit.Build("box", map[string]float64{"width": 400, "height": 400, "depth": 0.01}, "#ffffff", nil), World: geom.Translate(r3.Vec{X: -200, Y: -200, Z: -10})}},
			View:  View{World: geom.Identity, HFov: 60, VFov: 36, Shift: [2]float64{shift, 0}},
			Look:  Look{Zenith: [3]float64{1, 1, 1}, Horizon: [3]float64{1, 1, 1}, Ground: [3]float64{1, 1, 1}},
		}
		in.Look.Zenith, in.Look.Horizon, in.Look.Ground = [3]float64{0.01, 0.01, 0.01}, [3]float64{0.01, 0.01, 0.01}, [3]float64{0.01, 0.01, 0.01}
		in.Lamps = []Lamp{{At: r3.Vec{Z: -5}, Color: [3]float64{90, 90, 90}, Reach: 60}}
		r, _ := New(640, 360, 1)
		out := image.NewRGBA(image.Rect(0, 0, 640, 360))
		if err := r.Render(&in, out); err != nil {
			panic(err)
		}
		for x := 639; x > 0; x-- {
			if out.RGBAAt(x, 180).G > out.RGBAAt(639, 180).G+20 {
				return x
			}
		}
		return 0
	}
	assert.InDelta(t, 319, edge(0), 1)
	assert.InDelta(t, 159, edge(math.Tan(geom.Radians(30))/2), 1)
}
