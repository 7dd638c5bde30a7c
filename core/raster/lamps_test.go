package raster

import (
	"bytes"
	"image"
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

var paper = kit.Color{1, 1, 1, 0}

// bulb is a lamp that shines all around, or into a cone of some degrees to each side.
func bulb(at, dir r3.Vec, cone float64) Lamp {
	l := Lamp{At: at, Dir: r3.Unit(dir), Color: [3]float64{30, 30, 30}, Reach: 60, Shadow: LampShadow}
	if cone > 0 {
		l.Outer = math.Cos(geom.Radians(cone))
		l.Inner = l.Outer + 1e-4
	}
	return l
}

// casting are two lamps over the middle of a scene, one of which has a cone.
func casting() []Lamp {
	a, b := bulb(r3.Vec{X: 1, Y: 5, Z: 1}, r3.Vec{Y: -1}, 0), bulb(r3.Vec{X: -4, Y: 4, Z: 3}, r3.Vec{X: 1, Y: -0.8, Z: -1}, 40)
	a.Shadow, b.Shadow = 64, 64
	return []Lamp{a, b}
}

func without(in *Input) *Input {
	out := *in
	out.Lamps = nil
	for _, l := range in.Lamps {
		l.Shadow = 0
		out.Lamps = append(out.Lamps, l)
	}
	return &out
}

func TestALampsShadowFallsWhereItsRaysSay(t *testing.T) {
	// A lamp at (4, 0, 0), a plate at z = −4 from x = −0.5 to 1.5 and y = −1 to 1, a wall at
	// z = −8, all seen from the origin: rays through the plate meet the wall at twice its x
	// less 4 and twice its y. The plate itself hides x from −1 to 3 there.
	wall, plate := sheet(-20, -20, 20, 20, -8, paper), sheet(-0.5, -1, 1.5, 1, -4, paper)
	// An edge is three pixels of the map wide, and moved by two at most: those of a cone are
	// 0.02 m on the wall, of the other maps twice that.
	for name, c := range map[string]struct{ cone, edge float64 }{"all around": {0, 0.18}, "a cone": {42, 0.09}, "a wide one": {75, 0.18}} {
		t.Run(name, func(t *testing.T) {
			lamp := bulb(r3.Vec{X: 4}, r3.Vec{X: -0.6, Z: -1}, c.cone)
			in := &Input{Draws: []Draw{{Mesh: wall, World: geom.Identity}, {Mesh: plate, World: geom.Identity}}, View: view(90, 90), Lamps: []Lamp{lamp}}
			img, lit := picture(t, in, 320, 320, 2), picture(t, without(in), 320, 320, 2)
			// A pixel of the picture is 0.05 m on the wall.
			dark := 0
			for y := range 320 {
				for x := range 320 {
					wx, wy := (float64(x)+0.5-160)/20, (160-float64(y)-0.5)/20
					if wx > -1.2 && wx < 3.2 && math.Abs(wy) < 2.2 {
						continue // the plate, and what it hides
					}
					got := img.RGBAAt(x, y).R
					beside := max(-5-wx, wx+1, math.Abs(wy)-2) // metres outside of the shadow
					switch {
					case beside > c.edge:
						require.Equal(t, lit.RGBAAt(x, y), img.RGBAAt(x, y), "at %v, %v", wx, wy)
					case beside < -c.edge:
						require.Zero(t, got, "at %v, %v", wx, wy)
						dark++
					}
				}
			}
			assert.Greater(t, dark, 4000, "shadow seen")
		})
	}
}

// TestNothingShadesItself holds what stands alone in the light of lamps against the same
// without shadows, wherever it is and however it lies.
func TestNothingShadesItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := func(lo, hi float64, what string) float64 { return rapid.Float64Range(lo, hi).Draw(t, what) }
		turn := geom.PanTiltRoll(number(-180, 180, "pan"), number(-90, 90, "tilt"), number(-180, 180, "roll"))
		at := r3.Vec{X: number(-30, 30, "x"), Y: number(-4, 8, "y"), Z: number(-20, -2, "z")}
		lamp := bulb(r3.Vec{X: number(-9, 9, "lamp x"), Y: number(0, 9, "lamp y"), Z: number(-9, 3, "lamp z")}, r3.Vec{X: number(-1, 1, "dir x"), Y: -1, Z: number(-1, 1, "dir z")}, rapid.SampledFrom([]float64{0, 20, 50, 80}).Draw(t, "cone"))
		size := number(0.5, 400, "size")
		in := &Input{Draws: []Draw{{Mesh: sheet(-size, -size, size, size, 0, paper), World: turn.At(at)}}, View: view(80, 60), Lamps: []Lamp{lamp}}
		if !bytes.Equal(picture(t, in, 64, 48, 1).Pix, picture(t, without(in), 64, 48, 1).Pix) {
			t.Fatal("it has a shadow on itself")
		}
	})
}

func TestNoLightLeaksThroughWhatIsVast(t *testing.T) {
	// A floor of a kilometre between a lamp and a wall that hangs under it, seen from there.
	floor := kit.Build("floor", map[string]float64{"width": 1000, "depth": 1000}, "#ffffff", nil)
	in := &Input{Draws: []Draw{{Mesh: floor, World: geom.Identity}, {Mesh: sheet(-40, -30, 40, -0.5, -12, paper), World: geom.Identity}}, View: view(90, 70), Lamps: []Lamp{bulb(r3.Vec{X: 2, Y: 0.7, Z: -6}, r3.Vec{Y: -1}, 0)}}
	in.View.World = geom.Translate(r3.Vec{Y: -9})
	for _, b := range picture(t, without(in), 96, 64, 1).Pix[:4] {
		require.NotZero(t, b, "without shadows it shines through")
	}
	img := picture(t, in, 96, 64, 1)
	for i := 0; i < len(img.Pix); i += 4 {
		require.Zero(t, img.Pix[i], "pixel %d", i/4)
	}
}

func TestWhatIsCloseToALampCastsNoShadow(t *testing.T) {
	globe := kit.Build("box", map[string]float64{"width": 0.5, "height": 0.5, "depth": 0.5}, "#ffffff", nil)
	b := globe.Bounds
	in := &Input{Draws: []Draw{{Mesh: sheet(-20, -20, 20, 20, -8, paper), World: geom.Identity}}, View: view(90, 90), Lamps: []Lamp{bulb(r3.Vec{Z: 3}, r3.Vec{Z: -1}, 0)}}
	alone := picture(t, in, 64, 64, 1)
	in.Draws = append(in.Draws, Draw{Mesh: globe, World: geom.Translate(r3.Sub(r3.Vec{Z: 3}, b.Center()))})
	assert.Equal(t, alone.Pix, picture(t, in, 64, 64, 1).Pix, "a lamp's globe")
	in.Draws[1].World = geom.Translate(r3.Sub(r3.Vec{Z: 1}, b.Center()))
	assert.Zero(t, picture(t, in, 64, 64, 1).RGBAAt(32, 32).R, "two metres in front of it")
	in.Draws[1].NoShadow = true
	assert.Equal(t, alone.Pix, picture(t, in, 64, 64, 1).Pix)
}

// TestLampsShineThroughHoles has a lattice so large and near that it must be cut to be drawn
// into the map.
func TestLampsShineThroughHoles(t *testing.T) {
	for _, half := range []float64{4, 64} {
		in := &Input{Draws: []Draw{{Mesh: lattice(t, half, -4, paper, holes), World: geom.Identity}, {Mesh: sheet(-90, -90, 90, 90, -8, paper), World: geom.Identity}}, View: view(90, 90), Lamps: []Lamp{bulb(r3.Vec{}, r3.Vec{Z: -1}, 0)}}
		in.View.World = geom.Translate(r3.Vec{Z: -4.1})
		in.Draws[0].NoShadow = false
		img := picture(t, in, 160, 160, 1)
		// Squares of a quarter of half on the lattice are twice that on the wall, of which
		// the picture shows 3.9 m to each side.
		asked := 0
		for y := range 160 {
			for x := range 160 {
				wx, wy := (float64(x)+0.5-80)/80*3.9, (80-float64(y)-0.5)/80*3.9
				u, v := (wx/2/half+1)*4, (1-wy/2/half)*4 // in squares
				edge := max(math.Abs(u-math.Round(u)), 0) * half / 2
				if edge = min(edge, math.Abs(v-math.Round(v))*half/2); edge < 0.15 {
					continue
				}
				asked++
				opaque := (int(u)+int(v))%2 == 0
				require.Equal(t, opaque, img.RGBAAt(x, y).R == 0, "at %v, %v of %v", wx, wy, half)
			}
		}
		assert.Greater(t, asked, 10000)
	}
}

func TestLampShadowsAreTheSameHoweverTheyAreMade(t *testing.T) {
	in := litScene()
	in.Lamps = casting()
	for i := range 8 {
		in.Draws = append(in.Draws, Draw{Mesh: kit.Build("conifer", map[string]float64{"seed": float64(i), "height": 3}, "", nil), World: geom.Translate(r3.Vec{X: float64(i) - 4, Z: -3})})
	}
	first := picture(t, in, 160, 120, 1)
	assert.NotEqual(t, first.Pix, picture(t, without(in), 160, 120, 1).Pix)
	for _, threads := range []int{2, 5} {
		assert.Equal(t, first.Pix, picture(t, in, 160, 120, threads).Pix)
	}
	r, err := New(160, 120, 2)
	require.NoError(t, err)
	r.OneByOne()
	img := image.NewRGBA(image.Rect(0, 0, 160, 120))
	require.NoError(t, r.Render(in, img))
	assert.Equal(t, first.Pix, img.Pix, "one by one")
}

// mapsInSight holds the maps that are drawn for a lamp against those that places in sight lie on.
func mapsInSight(t *rapid.T, in *Input) {
	lamp := &in.Lamps[0]
	faces := lamp.Faces()
	v := &in.View
	tx, ty := math.Tan(geom.Radians(v.HFov/2)), math.Tan(geom.Radians(v.VFov/2))
	for _, depth := range []float64{0.5, 3, 9, 20} {
		for i := range 25 {
			at := r3.Vec{X: (v.Shift[0] + tx*float64(i%5-2)/2) * depth, Y: (v.Shift[1] + ty*float64(i/5-2)/2) * depth, Z: -depth}
			d := r3.Sub(at, lamp.At)
			if r3.Norm(d) > lamp.Reach {
				continue
			}
			if k := axisOf(&[3]float32{float32(d.X), float32(d.Y), float32(d.Z)}); !faces[k].looksInto(v.sides(0), lamp) {
				t.Fatalf("map %d is not drawn, and %v in sight lies on it", k, at)
			}
		}
	}
}

func TestMapsThatLookAwayFromWhatIsSeenAreLeftOut(t *testing.T) {
	// At 60° the picture is 5.8 m wide where a lamp hangs beside it, three metres from its
	// side: its map toward it looks into the picture, the one away from it does not, and of
	// a lamp in the middle all six do.
	v := view(60, 60)
	asked := func(at r3.Vec) (out []bool) {
		l := bulb(at, r3.Vec{Y: -1}, 0)
		l.Reach = 5
		for _, f := range l.Faces() {
			out = append(out, f.looksInto(v.sides(0), &l))
		}
		return out
	}
	right, left := asked(r3.Vec{X: 6, Z: -5}), asked(r3.Vec{X: -6, Z: -5})
	assert.Equal(t, []bool{false, true}, right[:2])
	assert.Equal(t, []bool{true, false}, left[:2])
	assert.NotContains(t, asked(r3.Vec{Z: -5}), false)
	assert.NotContains(t, asked(r3.Vec{Z: 5.5}), true, "behind the eye, and out of reach")
}

// TestLampsThatLightNothingInSightAreLeftOut holds what says so against pictures.
func TestLampsThatLightNothingInSightAreLeftOut(t *testing.T) {
	seen, left := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		number := func(lo, hi float64, what string) float64 { return rapid.Float64Range(lo, hi).Draw(t, what) }
		lamp := bulb(r3.Vec{X: number(-20, 20, "x"), Y: number(-20, 20, "y"), Z: number(-20, 20, "z")}, r3.Vec{Y: -1}, 0)
		lamp.Reach = number(0.5, 12, "reach")
		in := &Input{Draws: []Draw{{Mesh: sheet(-60, -60, 60, 60, number(-20, -1, "deep"), paper), World: geom.Identity}}, View: view(number(10, 120, "angle"), number(10, 120, "high")), Lamps: []Lamp{lamp}}
		in.View.Shift = [2]float64{number(-0.5, 0.5, "shift"), number(-0.5, 0.5, "rise")}
		if in.View.reaches(&lamp) {
			seen++
			mapsInSight(t, in)
			return
		}
		left++
		for i, b := range picture(t, in, 48, 48, 1).Pix {
			if i%4 != 3 && b != 0 {
				t.Fatal("it lights something")
			}
		}
	})
	assert.Positive(t, seen)
	assert.Positive(t, left)
}
