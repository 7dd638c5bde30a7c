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

// bright returns the byte of a linear value after tone, as docs/shading.md says.
func bright(x float64) float64 {
	v := 1 - math.Exp(-1.4*x)
	if v <= 0.0031308 {
		return 255 * 12.92 * v
	}
	return 255 * (1.055*math.Pow(v, 1/2.4) - 0.055)
}

func TestSpotShinesInsideItsCone(t *testing.T) {
	// A lamp two metres in front of a white sheet at z = −4, looking at it with a
	// cone whose edge fades from 20° to 30° off its axis.
	lamp := Lamp{At: r3.Vec{Z: -2}, Dir: r3.Vec{Z: -1}, Color: [3]float64{4, 4, 4}, Reach: 50, Inner: math.Cos(geom.Radians(20)), Outer: math.Cos(geom.Radians(30))}
	in := &Input{Draws: []Draw{{Mesh: sheet(-9, -9, 9, 9, -4, kit.Color{1, 1, 1, 0}), World: geom.Identity}}, View: view(90, 90), Lamps: []Lamp{lamp}}
	img := picture(t, in, 200, 200, 1)
	all := *in
	all.Lamps = []Lamp{lamp}
	all.Lamps[0].Inner = 0
	round := picture(t, &all, 200, 200, 1)
	for _, degrees := range []float64{0, 15, 24, 27, 33, 60} {
		x := 2 * math.Tan(geom.Radians(degrees)) // metres beside the axis
		px := 100 + int(x/4*100)
		if px > 199 {
			continue
		}
		on := (float64(px) + 0.5 - 100) / 100 * 4 // where the pixel's middle is
		d2 := on*on + 4
		w := 1 - d2/2500
		k := w * w / (0.2 + 0.8*d2) * 2 / math.Sqrt(d2)
		cos := 2 / math.Sqrt(d2)
		e := max(0, min(1, (cos-lamp.Outer)/(lamp.Inner-lamp.Outer)))
		assert.InDelta(t, bright(4*k*e*e*(3-2*e)), float64(img.RGBAAt(px, 100).R), 2.5, "%v° off the axis", degrees)
		assert.InDelta(t, bright(4*k), float64(round.RGBAAt(px, 100).R), 2.5, "without a cone")
	}
}

func TestHazeLiesOnTheGround(t *testing.T) {
	// A black sheet 20 m away; haze of 30 m that thins every 5 m above the ground.
	black := []Draw{{Mesh: sheet(-30, -30, 30, 30, -20, kit.Color{}), World: geom.Identity}}
	for _, height := range []float64{0, 4, 15} {
		in := &Input{Draws: black, View: view(60, 60), Look: Look{Horizon: [3]float64{0.5, 0.5, 0.5}, Haze: 30, HazeRise: 5}}
		in.View.World = geom.Translate(r3.Vec{Y: height})
		img := picture(t, in, 101, 101, 1)
		// Level view: the same density all the way, e^(−height/5).
		want := 0.5 * (1 - math.Exp(-20.0/30*math.Exp(-height/5)))
		assert.InDelta(t, bright(want), float64(img.RGBAAt(50, 50).R), 2, "from %v m", height)
	}
	// A slanted ray, against the integral by small steps.
	in := &Input{Draws: black, View: view(60, 60), Look: Look{Horizon: [3]float64{0.5, 0.5, 0.5}, Haze: 30, HazeRise: 5, HazeBase: 1}}
	in.View.World = geom.Translate(r3.Vec{Y: 6})
	img := picture(t, in, 101, 101, 1)
	row := 90
	down := (float64(row) + 0.5 - 50.5) / 50.5 * math.Tan(geom.Radians(30)) * 20
	length := math.Hypot(20, down)
	thick := 0.0
	const n = 20000
	for i := range n {
		y := 6 - down*(float64(i)+0.5)/n
		thick += length / n / 30 * math.Exp(-(y-1)/5)
	}
	assert.InDelta(t, bright(0.5*(1-math.Exp(-thick))), float64(img.RGBAAt(50, row).R), 2)
}

func textured(t *testing.T) *kit.Mesh {
	t.Helper()
	m := sheet(-4, -4, 4, 4, -4, kit.Color{1, 1, 1, 1})
	pix := []uint8{255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 255, 255, 255, 255}
	x, err := kit.NewTexture(2, 2, pix)
	require.NoError(t, err)
	m.Texture = x
	for i := 0; i < len(m.Positions); i += 3 {
		m.UVs = append(m.UVs, (m.Positions[i]+4)/8, (4-m.Positions[i+1])/8)
	}
	return m
}

func TestTextureLiesWhereItsCoordinatesSay(t *testing.T) {
	in := &Input{Draws: []Draw{{Mesh: textured(t), World: geom.Identity}}, View: view(90, 90)}
	img := picture(t, in, 64, 64, 1)
	full := uint8(math.Round(bright(1.6)))
	corner := func(x, y int) [3]bool {
		c := img.RGBAAt(x, y)
		return [3]bool{c.R+3 > full, c.G+3 > full, c.B+3 > full}
	}
	assert.Equal(t, [3]bool{true, false, false}, corner(16, 16), "red above on the left")
	assert.Equal(t, [3]bool{false, true, false}, corner(48, 16))
	assert.Equal(t, [3]bool{false, false, true}, corner(16, 48))
	assert.Equal(t, [3]bool{true, true, true}, corner(48, 48))

	// Tilted away, the middle of the texture still lies in the middle of the sheet:
	// coordinates are perspective-correct.
	tilt := geom.RotateX(-60).At(r3.Vec{Z: -6})
	center := geom.Translate(r3.Vec{Z: 4})
	in.Draws[0].World = tilt.Mul(&center)
	img = picture(t, in, 256, 256, 1)
	seam := 0
	for y := 110; y < 150; y++ {
		if c := img.RGBAAt(60, y); c.B > c.R && seam == 0 {
			seam = y
		}
	}
	assert.InDelta(t, 128, seam, 3, "where red above meets blue below")
}

func TestTexturedFramesAreTheSameWithAnyThreads(t *testing.T) {
	in := &Input{Draws: []Draw{{Mesh: textured(t), World: geom.RotateY(30)}, {Mesh: textured(t), World: geom.Translate(r3.Vec{X: 1, Z: -3})}}, View: view(70, 50)}
	var first *image.RGBA
	for _, threads := range []int{1, 2, 5} {
		img := picture(t, in, 160, 120, threads)
		if first == nil {
			first = img
		}
		assert.Equal(t, first.Pix, img.Pix)
	}
}

func TestWhatBendsCastsItsShadowAnew(t *testing.T) {
	// A floor lit from above, and a plate over it that is moved by changing its
	// mesh: its shadow follows although the draw is the same.
	floor := &kit.Mesh{}
	*floor = *kit.Build("floor", map[string]float64{"width": 20, "depth": 20}, "#ffffff", nil)
	plate := kit.Build("box", map[string]float64{"width": 2, "height": 0.1, "depth": 2}, "#ffffff", nil)
	down := geom.Mat4{0.1, 0, 0, 0, 0, 0, -0.1, 0, 0, -0.05, 0, 0.5, 0, 0, 0, 1}
	in := &Input{
		Draws: []Draw{{Mesh: floor, World: geom.Identity}, {Mesh: plate, World: geom.Translate(r3.Vec{Y: 4}), Bent: true}},
		Look:  Look{Sun: [3]float64{1, 1, 1}, SunDir: r3.Vec{Y: 1}, Shadow: down, ShadowPx: 256},
	}
	in.View = view(90, 90)
	in.View.World = geom.RotateX(-90).At(r3.Vec{Y: 3})
	r, err := New(64, 64, 1)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 64, 64))
	for range 3 {
		require.NoError(t, r.Render(in, img))
	}
	assert.Less(t, img.RGBAAt(32, 32).R, uint8(20), "in the shadow")
	assert.Greater(t, img.RGBAAt(60, 32).R, uint8(200))
	for i := 0; i < len(plate.Positions); i += 3 {
		plate.Positions[i] += 2.6
	}
	plate.Measure()
	require.NoError(t, r.Render(in, img))
	assert.Greater(t, img.RGBAAt(32, 32).R, uint8(200), "the shadow has gone")
	assert.Less(t, img.RGBAAt(60, 32).R, uint8(20), "to where the plate is now")
	in.Draws[1].NoShadow = true
	require.NoError(t, r.Render(in, img))
	assert.Greater(t, img.RGBAAt(60, 32).R, uint8(200))
}
