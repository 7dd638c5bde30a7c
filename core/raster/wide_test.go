package raster

import (
	"bytes"
	"fmt"
	"image"
	"math"
	"testing"

	"proscen/core/ambient"
	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// everything is a scene with each way that pixels are shaded: flat and round, of one colour
// and of several, with a picture, in sun, shadow and lamplight, crowded and behind haze.
func everything(t require.TestingT) *Input {
	in := litScene()
	for i := range 30 {
		m := kit.Build("rock", map[string]float64{"seed": float64(i)}, "", nil)
		in.Draws = append(in.Draws, Draw{Mesh: m, World: geom.Translate(r3.Vec{X: float64(i%7)*1.3 - 4, Z: float64(i%5)*1.2 - 2})})
	}
	in.Draws = append(in.Draws, Draw{Mesh: ball(1.2, 24), World: geom.Translate(r3.Vec{X: -3, Y: 2, Z: 2})})
	colors := []kit.Color{{0.8, 0.1, 0.1, 0}, {0.1, 0.8, 0.1, 0.4}, {0.1, 0.1, 0.8, 0}}
	fan := flatMesh([][3]r3.Vec{{{X: -6, Y: 0, Z: -4}, {X: 6, Y: 0, Z: -4}, {Y: 7, Z: -5}}}, colors[:1])
	for i, c := range colors {
		copy(fan.Colors[4*i:], c[:])
	}
	poster := sheet(1, 0.5, 4, 3, 1, kit.Color{1, 1, 1, 0})
	img := image.NewRGBA(image.Rect(0, 0, 16, 8))
	for i := range img.Pix {
		img.Pix[i] = uint8(i*37) | 7
	}
	poster.Texture, _ = kit.NewTexture(16, 8, img.Pix)
	for i := range len(poster.Positions) / 3 {
		poster.UVs = append(poster.UVs, poster.Positions[3*i], poster.Positions[3*i+1])
	}
	in.Draws = append(in.Draws, Draw{Mesh: fan, World: geom.Identity}, Draw{Mesh: poster, World: geom.Identity})
	glass := sheer(ball(1, 12), kit.Sheer{Blend: true, Through: 0.4})
	in.Draws = append(in.Draws, Draw{Mesh: lattice(t, 1.5, 0, kit.Color{0.6, 0.5, 0.2, 0}, holes), World: geom.RotateY(30).At(r3.Vec{X: 2, Y: 1.5, Z: 3})},
		Draw{Mesh: lattice(t, 1.5, 0, kit.Color{0.6, 0.5, 0.2, 0.2}, kit.Sheer{Blend: true, Through: 0.2}), World: geom.RotateY(-20).At(r3.Vec{X: -1, Y: 1.5, Z: 3})},
		Draw{Mesh: glass, World: geom.Translate(r3.Vec{Y: 1.5, Z: 1})})
	in.Look.Zenith, in.Look.Horizon, in.Look.Ground = [3]float64{0.3, 0.4, 0.6}, [3]float64{0.5, 0.4, 0.3}, [3]float64{0.1, 0.1, 0.1}
	in.Look.SunDir = r3.Unit(r3.Vec{X: 0.3, Y: 1, Z: 0.2})
	return in
}

func TestEightAtOnceGiveTheBytesOfOneByOne(t *testing.T) {
	if !wide {
		t.Skip("this build or processor looks at samples one by one: there is nothing to compare")
	}
	var field ambient.Field
	in := everything(t)
	var things []ambient.Thing
	for _, d := range in.Draws {
		things = append(things, ambient.Thing{Mesh: d.Mesh, World: d.World})
	}
	field.Set(r3.Vec{}, 15, things)
	lamps := []Lamp{
		{At: r3.Vec{X: 2, Y: 2, Z: 3}, Color: [3]float64{3, 2, 1}, Reach: 8},
		{At: r3.Vec{X: -3, Y: 5, Z: 1}, Dir: r3.Vec{Y: -1}, Color: [3]float64{1, 2, 3}, Reach: 12, Outer: math.Cos(0.6), Inner: math.Cos(0.4)},
	}
	shades := map[string]func(in *Input){
		"sun":        func(*Input) {},
		"no shadow":  func(in *Input) { in.Look.ShadowPx = 0 },
		"sharp":      func(in *Input) { in.Look.ShadowSharp, in.Look.ShadowBias = true, 0.02 },
		"lamps":      func(in *Input) { in.Lamps = lamps },
		"crowded":    func(in *Input) { in.Around = &field },
		"haze":       func(in *Input) { in.Look.Haze = 30 },
		"everything": func(in *Input) { in.Lamps, in.Around, in.Look.Haze, in.Look.HazeRise = lamps, &field, 30, 4 },
		"lens":       func(in *Input) { in.View.Lens = Lens{Focus: 8, Spread: 0.02} },
	}
	for name, change := range shades {
		for _, samples := range []int{1, 4} {
			for _, size := range [][2]int{{333, 211}, {64, 36}} {
				in := *in
				change(&in)
				r, err := New(size[0], size[1], 2)
				require.NoError(t, err)
				require.NoError(t, r.Sample(samples))
				eights, single := image.NewRGBA(image.Rect(0, 0, size[0], size[1])), image.NewRGBA(image.Rect(0, 0, size[0], size[1]))
				if r.sixteens {
					most := image.NewRGBA(eights.Rect)
					require.NoError(t, r.Render(&in, most))
					r.sixteens = false
					require.NoError(t, r.Render(&in, eights))
					assert.True(t, bytes.Equal(most.Pix, eights.Pix), fmt.Sprintf("%s, %d samples, %d×%d, sixteen at a time", name, samples, size[0], size[1]))
				}
				require.NoError(t, r.Render(&in, eights))
				r.OneByOne()
				require.NoError(t, r.Render(&in, single))
				assert.True(t, bytes.Equal(eights.Pix, single.Pix), fmt.Sprintf("%s, %d samples, %d×%d", name, samples, size[0], size[1]))
			}
		}
	}
}
