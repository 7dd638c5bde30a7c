package raster

import (
	"image"
	"image/color"
	"math"
	"testing"

	"proscen/core/ambient"
	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// from is a camera at a place that looks at another.
func from(at, to r3.Vec, fov float64) View {
	return View{World: looking(at, to), HFov: fov, VFov: fov}
}

func looking(at, to r3.Vec) geom.Mat4 {
	pan, tilt := geom.Toward(r3.Sub(to, at))
	m := geom.PanTiltRoll(pan, tilt, 0)
	return m.At(at)
}

func TestGainMultipliesAllThatShines(t *testing.T) {
	// A sheet half lit and half glowing, with a lamp, before a sky with haze: twice the
	// gain is twice the light, everywhere.
	in := &Input{
		Draws: []Draw{
			{Mesh: sheet(-9, -9, 0, 3, -6, kit.Color{0.3, 0.2, 0.1, 0}), World: geom.Identity},
			{Mesh: sheet(0, -9, 9, 3, -6, kit.Color{0.1, 0.2, 0.05, 0.5}), World: geom.Identity},
		},
		View:  view(90, 90),
		Lamps: []Lamp{{At: r3.Vec{Z: -4}, Color: [3]float64{0.4, 0.3, 0.2}, Reach: 20}},
		Look: Look{
			Sun: [3]float64{0.2, 0.2, 0.1}, SunDir: r3.Unit(r3.Vec{Y: 1, Z: 1}), Plain: true, Haze: 60,
			Zenith: [3]float64{0.1, 0.1, 0.2}, Horizon: [3]float64{0.2, 0.15, 0.1}, Ground: [3]float64{0.05, 0.05, 0.05},
		},
	}
	once := picture(t, in, 64, 64, 1)
	gained := *in
	gained.Look.Gain = [3]float64{2, 1, 0.5}
	twice := picture(t, &gained, 64, 64, 1)
	lin := func(v uint8) float64 { return float64(kit.Hex("#" + hex2(v) + "0000")[0]) }
	for y := 1; y < 64; y += 7 {
		for x := 1; x < 64; x += 7 {
			a, b := once.RGBAAt(x, y), twice.RGBAAt(x, y)
			assert.InDelta(t, min(1, 2*lin(a.R)), lin(b.R), 0.012, "%d %d", x, y)
			assert.Equal(t, a.G, b.G)
			assert.InDelta(t, lin(a.B)/2, lin(b.B), 0.006)
		}
	}
}

func hex2(v uint8) string {
	const digits = "0123456789abcdef"
	return string([]byte{digits[v>>4], digits[v&15]})
}

// room is a floor with a wall on it, seen from before the wall.
func room() *Input {
	board := func(w, h, d float64) *kit.Mesh {
		return kit.Build("box", map[string]float64{"width": w, "height": h, "depth": d}, "#808080", nil)
	}
	return &Input{
		Draws: []Draw{{Mesh: board(30, 0.2, 30), World: geom.Translate(r3.Vec{Y: -0.2})}, {Mesh: board(10, 4, 0.3), World: geom.Translate(r3.Vec{Z: -3})}},
		View:  from(r3.Vec{Y: 3, Z: 4}, r3.Vec{Z: -1.5}, 50),
		Look:  Look{Zenith: [3]float64{0.5, 0.5, 0.5}, Horizon: [3]float64{0.5, 0.5, 0.5}, Ground: [3]float64{0.5, 0.5, 0.5}},
	}
}

func TestSkyIsTakenAwayAsTheFieldSays(t *testing.T) {
	in := room()
	open := picture(t, in, 200, 200, 1)
	var f ambient.Field
	var things []ambient.Thing
	for _, d := range in.Draws {
		things = append(things, ambient.Thing{Mesh: d.Mesh, World: d.World})
	}
	f.Set(r3.Vec{}, 15, things)
	in.Around = &f
	near := picture(t, in, 200, 200, 1)
	assert.Equal(t, near.Pix, picture(t, in, 200, 200, 3).Pix)

	// Against what the field says for the places themselves, by rays of our own.
	v := &in.View
	tan := math.Tan(geom.Radians(25))
	darker := 0
	for y := 3; y < 200; y += 4 {
		for x := 3; x < 200; x += 4 {
			a, b := open.RGBAAt(x, y), near.RGBAAt(x, y)
			d := v.World.Dir(r3.Vec{X: (2*(float64(x)+0.5)/200 - 1) * tan, Y: (1 - 2*(float64(y)+0.5)/200) * tan, Z: -1})
			eye := v.World.Origin()
			k := -eye.Y / d.Y // meets the floor
			p := r3.Add(eye, r3.Scale(k, d))
			if d.Y >= 0 || p.Z < -2.8 || math.Abs(p.X) > 14 {
				continue
			}
			q := r3.Add(r3.Scale(1/f.Cell, r3.Sub(p, f.From)), r3.Vec{Y: ambient.Step})
			share := f.Sky(float32(q.X), float32(q.Y), float32(q.Z))
			base := kit.Hex("#808080")[0] * 0.5
			assert.InDelta(t, bright(float64(base)), float64(a.R), 1.5)
			assert.InDelta(t, bright(float64(base*share)), float64(b.R), 1.5, "%d %d", x, y)
			if b.R < a.R {
				darker++
			}
		}
	}
	assert.Greater(t, darker, 20, "along the wall")
}

func TestShadowOfABoxLiesWhereTheSunSays(t *testing.T) {
	// A box of 2 x 2 x 2 m, the sun from the left at 45°: its shadow on the floor goes
	// from the box 2 m to the right, as deep as the box.
	board := func(w, h, d float64) *kit.Mesh {
		return kit.Build("box", map[string]float64{"width": w, "height": h, "depth": d}, "#ffffff", nil)
	}
	sun := r3.Unit(r3.Vec{X: -1, Y: 1})
	in := &Input{
		Draws: []Draw{{Mesh: board(40, 0.1, 40), World: geom.Translate(r3.Vec{Y: -0.1})}, {Mesh: board(2, 2, 2), World: geom.Identity}},
		View:  from(r3.Vec{X: 2, Y: 30, Z: 0.001}, r3.Vec{X: 2}, 24),
		Look:  Look{Sun: [3]float64{0.6, 0.6, 0.6}, SunDir: sun, ShadowPx: 2048, Zenith: [3]float64{0.1, 0.1, 0.1}},
	}
	eye := looking(r3.Scale(20, sun), r3.Vec{})
	look := eye.Inverse()
	scale := geom.Mat4{1.0 / 12, 0, 0, 0, 0, 1.0 / 12, 0, 0, 0, 0, -1.0 / 40, 0, 0, 0, 0, 1}
	in.Look.Shadow = scale.Mul(&look)
	const side = 400
	img := picture(t, in, side, side, 1)
	half := 30 * math.Tan(geom.Radians(12)) // metres of the floor to each side
	at := func(x, z float64) uint8 {
		return img.RGBAAt(int((x-2+half)/(2*half)*side), int((z+half)/(2*half)*side)).R
	}
	lit, dark := at(-4, 0), at(2, 0)
	require.Greater(t, int(lit), int(dark)+60)
	for _, c := range []struct {
		x, z   float64
		shadow bool
	}{
		{2.85, 0, true}, {3.15, 0, false}, {2, 0.88, true}, {2, 1.12, false}, {2, -0.88, true}, {2, -1.12, false}, {1.3, 0.88, true}, {-1.6, 0, false}, {5, 3, false},
	} {
		want := lit
		if c.shadow {
			want = dark
		}
		assert.InDelta(t, want, at(c.x, c.z), 3, "at %v, %v", c.x, c.z)
	}
	// Its area, counted: 2 m by 2 m.
	n := 0
	for y := range side {
		for x := range side {
			if img.RGBAAt(x, y).R < lit/2+dark/2 {
				n++
			}
		}
	}
	assert.InDelta(t, 4, float64(n)*math.Pow(2*half/side, 2), 0.25)
}

// striped is a square sheet of a size with black and white stripes from side to side.
func striped(t *testing.T, from, to r3.Vec, stripes int) *kit.Mesh {
	src := image.NewNRGBA(image.Rect(0, 0, 256, 256))
	for y := range 256 {
		for x := range 256 {
			v := uint8(255 * (y * stripes / 128 % 2))
			src.Set(x, y, color.NRGBA{v, v, v, 255})
		}
	}
	a, b, c, d := from, r3.Vec{X: to.X, Y: from.Y, Z: from.Z}, to, r3.Vec{X: from.X, Y: to.Y, Z: to.Z}
	white := kit.Color{1, 1, 1, 0}
	m := flatMesh([][3]r3.Vec{{a, b, c}, {a, c, d}}, []kit.Color{white, white})
	m.UVs = []float32{0, 0, 1, 0, 1, 1, 0, 0, 1, 1, 0, 1}
	texture, err := kit.NewTexture(256, 256, src.Pix)
	require.NoError(t, err)
	m.Texture = texture
	return m
}

func TestTexturesAreAsFineAsEachPlaceIsSeen(t *testing.T) {
	// 64 stripes from 2 m to 66 m away on one floor: half a metre for black, half for white.
	// A row of pixels at the depth d shows a stretch of d²/(f·h) metres of it, h above it,
	// so that the near ones tell them apart, and the far ones show the mean of both.
	const w, h, high, fov = 200, 400, 1.5, 60
	in := &Input{Draws: []Draw{{Mesh: striped(t, r3.Vec{X: -8, Y: -high, Z: -2}, r3.Vec{X: 8, Y: -high, Z: -66}, 64), World: geom.Identity}}}
	in.View = View{World: geom.Identity, HFov: 30, VFov: fov}
	in.Look = Look{Zenith: [3]float64{1, 1, 1}, Horizon: [3]float64{1, 1, 1}, Ground: [3]float64{1, 1, 1}, Plain: true}
	img := picture(t, in, w, h, 1)
	f := h / 2 / math.Tan(geom.Radians(fov/2))
	near, far := [2]uint8{255, 0}, [2]uint8{255, 0}
	for y := h/2 + 1; y < h; y++ {
		depth := high * f / (float64(y) + 0.5 - h/2)
		v := img.RGBAAt(w/2, y).R
		stretch := depth * depth / (f * high)
		switch {
		case depth < 2.2 || depth > 60:
		case stretch < 0.05:
			near[0], near[1] = min(near[0], v), max(near[1], v)
		case stretch > 2:
			far[0], far[1] = min(far[0], v), max(far[1], v)
		}
	}
	assert.Less(t, near[0], uint8(3))
	assert.Greater(t, near[1], uint8(252))
	for _, v := range far { // 188 is half of the light
		assert.InDelta(t, 188, float64(v), 12)
	}
}

func TestSmallTexturesAreTheirMean(t *testing.T) {
	// A picture of fine stripes and noise on a sheet that is seen very small: a box filter
	// over the texels under a pixel is what is left, and that is their mean.
	const n = 256
	src := image.NewNRGBA(image.Rect(0, 0, n, n))
	sum, state := 0.0, uint32(7)
	for y := range n {
		for x := range n {
			state = state*1664525 + 1013904223
			v := uint8(state >> 24)
			if x%2 == 0 {
				v = 255
			}
			src.Set(x, y, color.NRGBA{v, v, v, 255})
			sum += float64(kit.Hex("#" + hex2(v) + "0000")[0])
		}
	}
	m := *sheet(-2, -2, 2, 2, -40, kit.Color{1, 1, 1, 0})
	for i := range len(m.Positions) / 3 {
		m.UVs = append(m.UVs, (m.Positions[3*i]+2)/4, (2-m.Positions[3*i+1])/4)
	}
	texture, err := kit.NewTexture(n, n, src.Pix)
	require.NoError(t, err)
	m.Texture = texture
	in := &Input{Draws: []Draw{{Mesh: &m, World: geom.Identity}}, View: view(20, 20)}
	in.Look = Look{Zenith: [3]float64{1, 1, 1}, Ground: [3]float64{1, 1, 1}, Plain: true}
	img := picture(t, in, 64, 64, 1)
	want := sum / n / n
	seen := 0
	for y := 26; y < 38; y++ {
		for x := 26; x < 38; x++ {
			v := float64(kit.Hex("#" + hex2(img.RGBAAt(x, y).R) + "0000")[0])
			assert.InDelta(t, want, v, 0.06*want, "%d %d", x, y)
			seen++
		}
	}
	assert.Equal(t, 144, seen)
}
