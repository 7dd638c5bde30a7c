package resection_test

import (
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/optics"
	"proscen/core/resection"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// shown is what a camera of the evaluation shows of points: the other side of what is tested.
func shown(at r3.Vec, pan, tilt, roll, focal float64, points []r3.Vec) ([]resection.Pair, resection.Lens, bool) {
	g := optics.CropGate(24.89, 18.66, 16.0/9, 1)
	c := motion.CameraState{World: geom.PanTiltRoll(pan, tilt, roll).At(at), Shift: [2]float64{1.2 / focal, -0.7 / focal}}
	c.HFov, c.VFov = g.FieldOfView(focal, 1)
	lens := resection.Lens{Half: [2]float64{g.Width / 2, g.Height / 2}, Shift: [2]float64{1.2, -0.7}, Focal: focal, Least: 4, Most: 1200}
	out := make([]resection.Pair, len(points))
	for i, p := range points {
		x, y, depth := c.Project(p)
		if depth < 0.3 || math.Abs(x) > 1 || math.Abs(y) > 1 {
			return nil, lens, false
		}
		out[i] = resection.Pair{World: p, X: x, Y: y}
	}
	return out, lens, true
}

// somewhere draws a camera that sees all of some points of a room.
func somewhere(t *rapid.T, points []r3.Vec) (world geom.Mat4, focal float64, pairs []resection.Pair, lens resection.Lens) {
	for {
		at := r3.Vec{X: rapid.Float64Range(-9, 9).Draw(t, "x"), Y: rapid.Float64Range(0.3, 4).Draw(t, "y"), Z: rapid.Float64Range(3, 14).Draw(t, "z")}
		focal = rapid.Float64Range(14, 60).Draw(t, "focal")
		pan, tilt := geom.Toward(r3.Sub(r3.Vec{X: 0.3, Y: 0.9, Z: -0.5}, at))
		pan += rapid.Float64Range(-6, 6).Draw(t, "pan")
		roll := rapid.Float64Range(-8, 8).Draw(t, "roll")
		var ok bool
		if pairs, lens, ok = shown(at, pan, tilt, roll, focal, points); ok {
			return geom.PanTiltRoll(pan, tilt, roll).At(at), focal, pairs, lens
		}
	}
}

var (
	floor = []r3.Vec{{X: -2, Z: -1.5}, {X: 2, Z: -1.5}, {X: 2, Z: 1.5}, {X: -2, Z: 1.5}, {X: 0.4, Z: -0.6}}
	box   = []r3.Vec{{X: -2, Z: -1.5}, {X: 2, Z: -1.5}, {X: 2, Z: 1.5}, {X: -2, Z: 1.5}, {X: -2, Y: 2, Z: -1.5}, {X: 2, Y: 2, Z: -1.5}, {X: 2, Y: 2, Z: 1.5}}
)

// elsewhere is a camera that has nothing to do with the points.
var elsewhere = geom.PanTiltRoll(130, 10, 0).At(r3.Vec{X: 40, Y: 3, Z: -25})

func TestTheCameraIsFoundWithinAPixel(t *testing.T) {
	for name, points := range map[string][]r3.Vec{"a floor": floor, "a box": box} {
		for _, free := range []bool{false, true} {
			rapid.Check(t, func(t *rapid.T) {
				world, focal, pairs, lens := somewhere(t, points)
				if lens.Free = free; free {
					lens.Focal = rapid.Float64Range(14, 60).Draw(t, "another focal length")
				}
				found, err := resection.Solve(pairs, lens, elsewhere)
				if err != nil {
					t.Fatalf("%s: %v", name, err)
				}
				const pixel = 1.0 / 540
				if found.Error > pixel {
					t.Fatalf("%s: points are off by %.3f pixels", name, found.Error/pixel)
				}
				if free && name == "a floor" {
					return // a floor seen straight on has many cameras that show it alike
				}
				if off := r3.Norm(r3.Sub(found.World.Origin(), world.Origin())); off > 0.01 {
					t.Fatalf("%s: it stands %.3f m away", name, off)
				}
				if math.Abs(found.Focal/focal-1) > 1e-3 {
					t.Fatalf("%s: focal length %.2f, not %.2f", name, found.Focal, focal)
				}
			})
		}
	}
}

// With every point off by up to a pixel the camera still shows all of them within two, and
// stands near where it stood.
func TestPressesAreNeverExact(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		world, _, pairs, lens := somewhere(t, box)
		const pixel = 1.0 / 540
		for i := range pairs {
			pairs[i].X += rapid.Float64Range(-1, 1).Draw(t, "dx") * pixel * 9 / 16
			pairs[i].Y += rapid.Float64Range(-1, 1).Draw(t, "dy") * pixel
		}
		found, err := resection.Solve(pairs, lens, elsewhere)
		if err != nil {
			t.Fatal(err)
		}
		if found.Error > 1.5*pixel {
			t.Fatalf("off by %.2f pixels", found.Error/pixel)
		}
		away := r3.Norm(world.Origin())
		if off := r3.Norm(r3.Sub(found.World.Origin(), world.Origin())); off > 0.03*away {
			t.Fatalf("it stands %.3f m from where it stood, at %.1f m", off, away)
		}
	})
}

func TestFocalLengthByHand(t *testing.T) {
	// A square of 2 m that fills half the height of the gate at 10 m: f = 10 m · (14.0006 mm / 4) / 1 m = 35.0014 mm.
	g := optics.CropGate(24.89, 18.66, 16.0/9, 1)
	lens := resection.Lens{Half: [2]float64{g.Width / 2, g.Height / 2}, Focal: 35, Least: 4, Most: 1200}
	h, w := 0.5, 0.5*9/16
	var pairs []resection.Pair
	for _, s := range [][2]float64{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
		pairs = append(pairs, resection.Pair{World: r3.Vec{X: s[0], Y: s[1]}, X: s[0] * w, Y: s[1] * h})
	}
	found, err := resection.Solve(pairs, lens, elsewhere)
	require.NoError(t, err)
	assert.InDelta(t, 35/35.0014*10, found.World.Origin().Z, 1e-3)
	assert.InDelta(t, 0, found.World.Origin().X, 1e-4)
	pan, tilt, roll := found.World.Angles()
	assert.InDeltaSlice(t, []float64{0, 0, 0}, []float64{pan, tilt, roll}, 1e-3)
}

func TestWhatIsThereIsLeftWhenItIsAsGood(t *testing.T) {
	at := geom.PanTiltRoll(0, -12, 0).At(r3.Vec{Y: 3, Z: 10})
	pairs, lens, ok := shown(at.Origin(), 0, -12, 0, 24, box)
	require.True(t, ok)
	found, err := resection.Solve(pairs, lens, at)
	require.NoError(t, err)
	origin := found.World.Origin()
	assert.InDelta(t, 0, r3.Norm(r3.Sub(origin, at.Origin())), 1e-6)
}

func TestWhatCannotBeFoundIsSaid(t *testing.T) {
	lens := resection.Lens{Half: [2]float64{12, 7}, Focal: 35, Least: 4, Most: 1200}
	_, err := resection.Solve(make([]resection.Pair, 3), lens, elsewhere)
	assert.ErrorIs(t, err, resection.ErrFew)
	line := make([]resection.Pair, 5)
	for i := range line {
		line[i] = resection.Pair{World: r3.Vec{X: float64(i), Y: 2 * float64(i)}, X: float64(i) / 10}
	}
	_, err = resection.Solve(line, lens, elsewhere)
	assert.ErrorIs(t, err, resection.ErrInLine)
	_, err = resection.Solve(make([]resection.Pair, 6), lens, elsewhere)
	assert.ErrorIs(t, err, resection.ErrInLine, "all in one place")
}

// Whatever is given, it ends, and what it gives is a camera.
func FuzzSolve(f *testing.F) {
	f.Add(1.0, 2.0, 3.0, -4.0, 0.3, -0.2, true)
	f.Add(0.0, 0.0, 1e9, 1e-9, 1.0, 1.0, false)
	f.Fuzz(func(t *testing.T, a, b, c, d, e, g float64, free bool) {
		for _, v := range []float64{a, b, c, d, e, g} {
			if math.IsNaN(v) || math.Abs(v) > 1e5 {
				t.Skip()
			}
		}
		pairs := []resection.Pair{
			{World: r3.Vec{X: a, Y: b, Z: c}, X: e, Y: g}, {World: r3.Vec{X: d, Y: a, Z: b}, X: g, Y: -e},
			{World: r3.Vec{X: c, Y: d, Z: a}, X: -e, Y: g}, {World: r3.Vec{X: b, Y: c, Z: d}, X: -g, Y: -e},
		}
		found, err := resection.Solve(pairs, resection.Lens{Half: [2]float64{12, 7}, Focal: 35, Free: free, Least: 4, Most: 1200}, elsewhere)
		if err != nil {
			return
		}
		for _, v := range append(found.World[:], found.Focal, found.Error) {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				t.Fatalf("found %+v", found)
			}
		}
	})
}

func BenchmarkSolveFromElsewhere(b *testing.B) {
	pairs, lens, _ := shown(r3.Vec{X: 1, Y: 2, Z: 7}, 8, -8, 2, 28, box)
	lens.Free, lens.Focal = true, 50
	for b.Loop() {
		if _, err := resection.Solve(pairs, lens, elsewhere); err != nil {
			b.Fatal(err)
		}
	}
}
