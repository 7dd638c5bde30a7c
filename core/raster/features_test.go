package raster

import (
	"bytes"
	"image"
	"math"
	"math/rand/v2"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// sheet is a glowing rectangle between two corners at a depth.
func sheet(x0, y0, x1, y1, z float64, c kit.Color) *kit.Mesh {
	a, b, e, d := r3.Vec{X: x0, Y: y0, Z: z}, r3.Vec{X: x1, Y: y0, Z: z}, r3.Vec{X: x1, Y: y1, Z: z}, r3.Vec{X: x0, Y: y1, Z: z}
	return flatMesh([][3]r3.Vec{{a, b, e}, {a, e, d}}, []kit.Color{c, c})
}

func TestEdgesAreSmoothedByFourSamples(t *testing.T) {
	// A sheet that ends at a share of a pixel covers that share of its samples.
	full := float64(toned(1.6))
	for _, c := range []struct {
		edge float64 // pixels into pixel 16
		want float64 // samples of four
	}{{0, 0}, {0.25, 1}, {0.5, 2}, {0.75, 3}, {1, 4}} {
		x := (16 + c.edge - 16) / 16 * 4 // at 90° and distance 4, half the picture is 4 m
		mesh := sheet(-9, -9, x, 9, -4, glow(1, 1, 1))
		img := picture(t, &Input{Draws: []Draw{{Mesh: mesh, World: geom.Identity}}, View: view(90, 90)}, 32, 32, 1)
		assert.InDelta(t, full*c.want/4, float64(img.RGBAAt(16, 10).R), 1, "edge at %v", c.edge)
		assert.InDelta(t, full, float64(img.RGBAAt(15, 10).R), 1)
	}
}

func TestNearerThingsHideFartherOnes(t *testing.T) {
	near, far := sheet(-1, -1, 1, 1, -2, glow(0.1, 0, 0)), sheet(-9, -9, 9, 9, -5, glow(0, 0.1, 0))
	for _, order := range [][]*kit.Mesh{{near, far}, {far, near}} {
		var in Input
		in.View = view(90, 90)
		for _, m := range order {
			in.Draws = append(in.Draws, Draw{Mesh: m, World: geom.Identity})
		}
		img := picture(t, &in, 64, 64, 1)
		assert.Equal(t, toned(0.16), img.RGBAAt(32, 32).R)
		assert.Zero(t, img.RGBAAt(32, 32).G)
		assert.Equal(t, toned(0.16), img.RGBAAt(3, 3).G)
	}
}

func TestFloorRunsUnderTheCameraAndToTheHorizon(t *testing.T) {
	// A floor of a kilometre, whose corners lie behind the camera and far
	// outside of the picture, fills everything below the horizon.
	floor := kit.Build("floor", map[string]float64{"width": 500, "depth": 500}, "#808080", nil)
	in := &Input{Draws: []Draw{{Mesh: floor, World: geom.Identity}}, View: View{World: geom.Translate(r3.Vec{Y: 1.6}), HFov: 80, VFov: 60}}
	in.Look.Zenith = [3]float64{1, 1, 1}
	img := picture(t, in, 160, 120, 2)
	for y := 62; y < 120; y++ {
		for x := range 160 {
			require.InDelta(t, 127, float64(img.RGBAAt(x, y).R), 60, "pixel %d %d", x, y)
			require.NotZero(t, img.RGBAAt(x, y).R)
		}
	}
	assert.Equal(t, img.RGBAAt(149, 40), img.RGBAAt(10, 40), "above is sky, the same on both sides")
}

func TestHazeFadesByTheFormula(t *testing.T) {
	in := &Input{Draws: []Draw{{Mesh: sheet(-50, -50, 50, 50, -20, glow(0, 0, 0)), World: geom.Identity}}, View: view(20, 20)}
	in.Look.Horizon = [3]float64{0.5, 0.25, 0}
	for _, haze := range []float64{5, 20, 200} {
		in.Look.Haze = haze
		img := picture(t, in, 31, 31, 1)
		f := 1 - math.Exp(-20/haze)
		assert.InDelta(t, float64(toned(float32(0.5*f))), float64(img.RGBAAt(15, 15).R), 1, "haze %v", haze)
		assert.InDelta(t, float64(toned(float32(0.25*f))), float64(img.RGBAAt(15, 15).G), 1)
	}
	in.Look.Haze = 0
	assert.Zero(t, picture(t, in, 31, 31, 1).RGBAAt(15, 15).R)
}

func TestSkyRunsFromHorizonToZenith(t *testing.T) {
	in := &Input{View: View{World: geom.PanTiltRoll(0, 90, 0), HFov: 20, VFov: 20}}
	in.Look.Zenith, in.Look.Horizon, in.Look.Ground = [3]float64{0, 0, 0.4}, [3]float64{0.4, 0, 0}, [3]float64{0, 0.4, 0}
	img := picture(t, in, 21, 21, 1)
	assert.Equal(t, toned(0.4), img.RGBAAt(10, 10).B, "straight up is the zenith")
	in.View.World = geom.PanTiltRoll(0, -90, 0)
	img = picture(t, in, 21, 21, 1)
	assert.Equal(t, toned(0.4), img.RGBAAt(10, 10).G, "straight down is the ground")
	in.View.World = geom.PanTiltRoll(0, 30, 0)
	img = picture(t, in, 21, 21, 1)
	assert.InDelta(t, float64(toned(float32(0.4*math.Sqrt(0.5)))), float64(img.RGBAAt(10, 10).B), 2, "half way up by height: the root of a half")
	in.Look.Sun, in.Look.SunDir = [3]float64{1, 1, 1}, in.View.World.Dir(r3.Vec{Z: -1})
	assert.Greater(t, picture(t, in, 21, 21, 1).RGBAAt(10, 10).R, img.RGBAAt(10, 10).R+40, "the sun has a halo")
}

func TestSkyLightFollowsTheNormal(t *testing.T) {
	white := kit.Color{1, 1, 1, 0}
	in := &Input{View: view(40, 40)}
	in.Look.Zenith, in.Look.Ground = [3]float64{0.6, 0.6, 0.6}, [3]float64{0.2, 0.2, 0.2}
	for tilt, want := range map[float64]float32{0: 0.4, 45: 0.4 + 0.2*float32(math.Sqrt2)/2, -45: 0.4 - 0.2*float32(math.Sqrt2)/2} {
		m := sheet(-9, -9, 9, 9, 0, white)
		turned := geom.RotateX(-tilt).At(r3.Vec{Z: -5})
		in.Draws = []Draw{{Mesh: m, World: turned}}
		assert.InDelta(t, float64(toned(want)), float64(picture(t, in, 21, 21, 1).RGBAAt(10, 10).R), 1, "tilted by %v", tilt)
	}
}

func TestScaledMeshesKeepUnitNormals(t *testing.T) {
	in := &Input{View: view(40, 40)}
	in.Look.Sun, in.Look.SunDir = [3]float64{0.5, 0.5, 0.5}, r3.Vec{Z: 1}
	var want uint8
	for i, s := range []float64{1, 0.2, 30} {
		in.Draws = []Draw{{Mesh: sheet(-9, -9, 9, 9, 0, kit.Color{1, 1, 1, 0}), World: geom.Identity.Scaled(s).At(r3.Vec{Z: -3})}}
		got := picture(t, in, 11, 11, 1).RGBAAt(5, 5).R
		if i == 0 {
			want = got
		}
		assert.Equal(t, want, got, "scale %v", s)
	}
	assert.Equal(t, toned(0.5), want)
}

// TestStillShadowsChangeNoPicture moves one thing through a scene and holds
// each frame of a renderer that remembers what stands still against a fresh
// renderer's.
func TestStillShadowsChangeNoPicture(t *testing.T) {
	in := litScene()
	in.Lamps = casting()
	for i := range 12 {
		m := kit.Build("conifer", map[string]float64{"seed": float64(i), "height": 3}, "", nil)
		in.Draws = append(in.Draws, Draw{Mesh: m, World: geom.Translate(r3.Vec{X: float64(i) - 6, Z: -3})})
	}
	kept, err := New(160, 120, 2)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 160, 120))
	for frame := range 8 {
		in.Draws[1].World = geom.Translate(r3.Vec{X: math.Max(0, float64(frame)-3), Y: 3})
		if frame == 4 { // a lamp is moved, and the other is off for a frame
			in.Lamps = in.Lamps[1:]
			in.Lamps[0].At.X++
		} else if frame == 5 {
			in.Lamps = append(casting()[:1], in.Lamps...)
		}
		if frame == 5 { // something still begins to move
			in.Draws[4].World = geom.Translate(r3.Vec{X: 2, Z: 2})
		}
		if frame == 6 { // something goes away
			in.Draws = in.Draws[:len(in.Draws)-1]
		}
		require.NoError(t, kept.Render(in, img))
		assert.True(t, bytes.Equal(img.Pix, picture(t, in, 160, 120, 1).Pix), "frame %d", frame)
	}
}

// TestWhatStopsAndGoesChangesNoPicture lets things start and stop by chance for long, so
// that they come to rest in the map, and leave it, in all orders.
func TestWhatStopsAndGoesChangesNoPicture(t *testing.T) {
	in := litScene()
	in.Lamps = casting()[1:]
	chance := rand.New(rand.NewPCG(3, 5))
	for i := range 9 {
		m := kit.Build("conifer", map[string]float64{"seed": float64(i), "height": 3}, "", nil)
		in.Draws = append(in.Draws, Draw{Mesh: m, World: geom.Translate(r3.Vec{X: float64(i) - 4, Z: -3})})
	}
	kept, err := New(64, 48, 2)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 64, 48))
	rests, goes := make([]int, len(in.Draws)), 0
	joined, stale := 0, 0
	for frame := range 150 {
		for i := range rests {
			if rests[i]--; rests[i] < -3 {
				rests[i] = chance.IntN(5 * patience)
			} else if rests[i] < 0 && i > 0 {
				in.Draws[i].World[3] += 0.4 - 0.1*float64(i%7)
				goes++
			}
		}
		if frame == 60 { // others, as many
			in.Draws = append(in.Draws[1:], in.Draws[0])
		}
		require.NoError(t, kept.Render(in, img))
		require.True(t, bytes.Equal(img.Pix, picture(t, in, 64, 48, 1).Pix), "frame %d", frame)
		joined += len(kept.shadow.joined)
		for _, anew := range kept.shadow.stale {
			stale += int(b2f(anew))
		}
	}
	assert.Greater(t, goes, 100)
	assert.Greater(t, joined, 3*len(rests), "some came to rest again")
	assert.Greater(t, stale, 10)
	assert.Less(t, stale, 75*len(kept.shadow.stale), "and mostly little was drawn anew")
}

func TestFadeTableIsTheExponential(t *testing.T) {
	for x := 0.0; x < 12; x += 0.0037 {
		want := math.Exp(-x)
		if x >= 8 {
			want = 0
		}
		require.InDelta(t, want, float64(fade(float32(x))), 1e-5+want*1e-4*b2f(x > 7.99), "x = %v", x)
	}
}

func b2f(b bool) float64 {
	if b {
		return 1
	}
	return 0
}
