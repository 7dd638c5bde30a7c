package raster

import (
	"bytes"
	"fmt"
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

// flatMesh makes a mesh of triangles that glow in colours of their own, so that
// the picture shows which one is in front.
func flatMesh(tris [][3]r3.Vec, colors []kit.Color) *kit.Mesh {
	m := &kit.Mesh{Bounds: geom.EmptyBox()}
	for i, t := range tris {
		n := r3.Unit(r3.Cross(r3.Sub(t[1], t[0]), r3.Sub(t[2], t[0])))
		for _, p := range t {
			m.Positions = append(m.Positions, float32(p.X), float32(p.Y), float32(p.Z))
			m.Normals = append(m.Normals, float32(n.X), float32(n.Y), float32(n.Z))
			m.Colors = append(m.Colors, colors[i][:]...)
			m.Indices = append(m.Indices, uint32(len(m.Indices)))
			m.Bounds = m.Bounds.Add(p)
		}
	}
	return m
}

func glow(r, g, b float32) kit.Color { return kit.Color{r, g, b, 1} }

func picture(t require.TestingT, in *Input, w, h, threads int) *image.RGBA {
	r, err := New(w, h, threads)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	require.NoError(t, r.Render(in, img))
	return img
}

func view(h, v float64) View { return View{World: geom.Identity, HFov: h, VFov: v} }

func TestSquareCoversItsPixels(t *testing.T) {
	// At 90° a square of half size 2 at distance 4 covers the middle half of a
	// square picture: pixels 8 to 23 of 32.
	a, b, c, d := r3.Vec{X: -2, Y: -2, Z: -4}, r3.Vec{X: 2, Y: -2, Z: -4}, r3.Vec{X: 2, Y: 2, Z: -4}, r3.Vec{X: -2, Y: 2, Z: -4}
	mesh := flatMesh([][3]r3.Vec{{a, b, c}, {a, c, d}}, []kit.Color{glow(1, 0, 0), glow(1, 0, 0)})
	img := picture(t, &Input{Draws: []Draw{{Mesh: mesh, World: geom.Identity}}, View: view(90, 90)}, 32, 32, 1)
	full := toned(1.6)
	for y := range 32 {
		for x := range 32 {
			want := uint8(0)
			if x >= 8 && x < 24 && y >= 8 && y < 24 {
				want = full
			}
			require.Equal(t, want, img.RGBAAt(x, y).R, "pixel %d %d", x, y)
		}
	}
	// Turned away it is not seen.
	turned := geom.RotateY(180).At(r3.Vec{Z: -8})
	img = picture(t, &Input{Draws: []Draw{{Mesh: mesh, World: turned}}, View: view(90, 90)}, 32, 32, 1)
	assert.Zero(t, img.RGBAAt(16, 16).R)
}

// TestAgainstRaysOnePixelAtATime holds the picture of random triangles against a
// second method: for each sample a ray that is cut with every triangle.
func TestAgainstRaysOnePixelAtATime(t *testing.T) {
	const w, h = 40, 30
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		var tris [][3]r3.Vec
		var colors []kit.Color
		for i := range rapid.IntRange(1, 5).Draw(t, "n") {
			var tri [3]r3.Vec
			for k := range tri {
				tri[k] = r3.Vec{X: f("x", -6, 6), Y: f("y", -5, 5), Z: f("z", -12, 3)} // some behind the camera
			}
			if r3.Norm(r3.Cross(r3.Sub(tri[1], tri[0]), r3.Sub(tri[2], tri[0]))) < 0.5 {
				continue
			}
			tris = append(tris, tri)
			colors = append(colors, glow(float32(i+1)*0.15, 0, 0))
		}
		if len(tris) == 0 {
			t.Skip("slivers")
		}
		img := picture(t, &Input{Draws: []Draw{{Mesh: flatMesh(tris, colors), World: geom.Identity}}, View: view(70, 55)}, w, h, 1)
		tx, ty := math.Tan(geom.Radians(35)), math.Tan(geom.Radians(27.5))
		wrong := 0
		for y := range h {
			for x := range w {
				sum := 0.0
				for s := range most {
					sx, sy := float64(x)+float64(grid4.x[s])/sub, float64(y)+float64(grid4.y[s])/sub
					ray := r3.Vec{X: (sx/w*2 - 1) * tx, Y: (1 - sy/h*2) * ty, Z: -1}
					best, color := math.Inf(1), float32(0)
					for i, tri := range tris {
						if d, ok := cut(ray, tri); ok && d > nearClip && d < best {
							best, color = d, colors[i][0]
						}
					}
					sum += float64(toned(color * glowGain))
				}
				if math.Abs(sum/4-float64(img.RGBAAt(x, y).R)) > 2 {
					wrong++
				}
			}
		}
		// Corners are rounded to 1/256 of a pixel, so edges may differ
		// here and there, and nothing else.
		if wrong > (w+h)*len(tris)/3 {
			t.Fatalf("%d of %d pixels differ", wrong, w*h)
		}
	})
}

// cut returns the depth at which a ray of depth 1 from the origin meets the
// front of a triangle (T. Möller and B. Trumbore, 1997).
func cut(ray r3.Vec, t [3]r3.Vec) (float64, bool) {
	e1, e2 := r3.Sub(t[1], t[0]), r3.Sub(t[2], t[0])
	p := r3.Cross(ray, e2)
	det := r3.Dot(e1, p)
	if det < 1e-12 {
		return 0, false
	}
	o := r3.Scale(-1, t[0])
	u := r3.Dot(o, p) / det
	q := r3.Cross(o, e1)
	v := r3.Dot(ray, q) / det
	return r3.Dot(e2, q) / det, u >= 0 && v >= 0 && u+v <= 1
}

func TestColourIsPerspectiveCorrect(t *testing.T) {
	// A floor strip from depth 2 to 10 whose colour runs evenly with depth.
	mesh := &kit.Mesh{Bounds: geom.EmptyBox(), Indices: []uint32{0, 1, 2, 0, 2, 3}}
	for _, c := range [][3]float64{{-50, -1, -2}, {50, -1, -2}, {50, -1, -10}, {-50, -1, -10}} {
		mesh.Positions = append(mesh.Positions, float32(c[0]), float32(c[1]), float32(c[2]))
		mesh.Normals = append(mesh.Normals, 0, 1, 0)
		mesh.Colors = append(mesh.Colors, float32((-c[2]-2)/8)*0.5, 0, 0, 1)
		mesh.Bounds = mesh.Bounds.Add(r3.Vec{X: c[0], Y: c[1], Z: c[2]})
	}
	const h = 400
	img := picture(t, &Input{Draws: []Draw{{Mesh: mesh, World: geom.Identity}}, View: view(60, 60)}, 64, h, 1)
	checked := 0
	for y := h/2 + 1; y < h; y++ {
		slope := (float64(y) + 0.5 - h/2) / (h / 2) * math.Tan(geom.Radians(30)) // down for each metre of depth
		depth := 1 / slope
		if depth < 2.05 || depth > 9.5 {
			continue
		}
		checked++
		want := toned(float32((depth-2)/8*0.5) * glowGain)
		assert.InDelta(t, float64(want), float64(img.RGBAAt(32, y).R), 2, "depth %.2f", depth)
	}
	assert.Greater(t, checked, 60)
}

func TestNeighboursLeaveNoGapAndShareNoSample(t *testing.T) {
	// A fan around a point with sky behind: any gap would show the sky's blue.
	var tris [][3]r3.Vec
	var colors []kit.Color
	c := r3.Vec{X: 0.1, Y: -0.07, Z: -3}
	const n = 37
	for i := range n {
		p := func(k int) r3.Vec {
			s, co := math.Sincos(2 * math.Pi * float64(k) / n)
			return r3.Vec{X: 9 * co, Y: 9 * s, Z: -3 - 0.3*float64(k%3)}
		}
		tris = append(tris, [3]r3.Vec{c, p(i), p((i + 1) % n)})
		colors = append(colors, glow(0.4, 0, 0))
	}
	in := &Input{Draws: []Draw{{Mesh: flatMesh(tris, colors), World: geom.Identity}}, View: view(60, 45)}
	in.Look.Zenith, in.Look.Horizon, in.Look.Ground = [3]float64{0, 0, 1}, [3]float64{0, 0, 1}, [3]float64{0, 0, 1}
	img := picture(t, in, 160, 120, 1)
	for i := 0; i < len(img.Pix); i += 4 {
		require.Zero(t, img.Pix[i+2], "sky at pixel %d", i/4)
	}
}

func TestLampFallsOffByTheFormula(t *testing.T) {
	a, b, c, d := r3.Vec{X: -9, Y: -9, Z: -3}, r3.Vec{X: 9, Y: -9, Z: -3}, r3.Vec{X: 9, Y: 9, Z: -3}, r3.Vec{X: -9, Y: 9, Z: -3}
	white := kit.Color{1, 1, 1, 0}
	in := &Input{Draws: []Draw{{Mesh: flatMesh([][3]r3.Vec{{a, b, c}, {a, c, d}}, []kit.Color{white, white}), World: geom.Identity}}, View: view(20, 20)}
	in.Lamps = []Lamp{{At: r3.Vec{Z: -1}, Color: [3]float64{0.5, 0.5, 0.5}, Reach: 8}}
	img := picture(t, in, 21, 21, 1)
	w := 1 - 4.0/64
	want := toned(float32(0.5 * w * w / (0.2 + 0.8*4)))
	assert.InDelta(t, float64(want), float64(img.RGBAAt(10, 10).R), 1, "two metres in front of the lamp")
}

// litScene has a floor, a box above it, and the sun straight overhead.
func litScene() *Input {
	floor := kit.Build("floor", map[string]float64{"width": 20, "depth": 20}, "#808080", nil)
	box := kit.Build("box", map[string]float64{"width": 2, "height": 1, "depth": 2}, "#808080", nil)
	in := &Input{
		Draws: []Draw{{Mesh: floor, World: geom.Identity}, {Mesh: box, World: geom.Translate(r3.Vec{Y: 3})}},
		View:  View{World: geom.PanTiltRoll(0, -35, 0).At(r3.Vec{Y: 6, Z: 9}), HFov: 60, VFov: 60},
	}
	in.Look = Look{Sun: [3]float64{1, 1, 1}, SunDir: r3.Vec{Y: 1}, ShadowPx: 512}
	sun := geom.PanTiltRoll(0, -90, 0).At(r3.Vec{Y: 20})
	sunView := sun.Inverse()
	scale := geom.Mat4{1. / 12, 0, 0, 0, 0, 1. / 12, 0, 0, 0, 0, -1. / 40, 0, 0, 0, 0, 1}
	in.Look.Shadow = scale.Mul(&sunView)
	return in
}

func TestShadowLiesUnderTheBox(t *testing.T) {
	in := litScene()
	img := picture(t, in, 200, 200, 2)
	at := func(p r3.Vec) uint8 {
		m := projection(&in.View, 200, 200)
		w := m[12]*p.X + m[13]*p.Y + m[14]*p.Z + m[15]
		q := m.Point(p)
		return img.RGBAAt(int(q.X/w), int(q.Y/w)).R
	}
	assert.Greater(t, at(r3.Vec{X: 4, Z: 1}), uint8(60), "the floor beside is lit")
	assert.Less(t, at(r3.Vec{X: 0, Z: 0.8}), uint8(5), "below the box is its shadow")
	assert.Greater(t, at(r3.Vec{X: 0, Y: 4, Z: 0}), uint8(60), "its top does not shade itself")
	in.Look.ShadowPx = 0
	img = picture(t, in, 200, 200, 1)
	assert.Greater(t, at(r3.Vec{X: 0, Z: 0.8}), uint8(60), "without a map nothing is shaded")
}

func TestThreadsDoNotChangeThePicture(t *testing.T) {
	in := litScene()
	for i := range 40 { // more draws than threads, overlapping
		m := kit.Build("rock", map[string]float64{"seed": float64(i)}, "", nil)
		in.Draws = append(in.Draws, Draw{Mesh: m, World: geom.Translate(r3.Vec{X: float64(i%7) - 3, Z: float64(i%5) - 2})})
	}
	one := picture(t, in, 333, 211, 1)
	for _, n := range []int{2, 3, 8, 64} {
		assert.True(t, bytes.Equal(one.Pix, picture(t, in, 333, 211, n).Pix), "%d threads", n)
	}
	r, err := New(333, 211, 2)
	require.NoError(t, err)
	again := image.NewRGBA(image.Rect(0, 0, 333, 211))
	for range 2 { // buffers used again leave no trace
		require.NoError(t, r.Render(in, again))
	}
	assert.True(t, bytes.Equal(one.Pix, again.Pix))
}

func TestRenderRefusesWrongSizes(t *testing.T) {
	_, err := New(0, 10, 1)
	assert.ErrorIs(t, err, ErrSize)
	_, err = New(10, 99999, 1)
	assert.ErrorIs(t, err, ErrSize)
	r, err := New(16, 16, 0)
	require.NoError(t, err)
	assert.ErrorIs(t, r.Render(&Input{}, image.NewRGBA(image.Rect(0, 0, 8, 8))), ErrSize)
}

func BenchmarkShadowAndTiles(b *testing.B) {
	in := litScene()
	for _, threads := range []int{1, 2} {
		b.Run(fmt.Sprintf("threads=%d", threads), func(b *testing.B) {
			r, _ := New(1280, 720, threads)
			img := image.NewRGBA(image.Rect(0, 0, 1280, 720))
			for b.Loop() {
				_ = r.Render(in, img)
			}
		})
	}
}
