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

// tilted is a large plane through a point, turned about X by degrees from facing the
// camera.
func tilted(at r3.Vec, deg float64, object uint32) (Draw, r3.Vec) {
	turn := geom.RotateX(deg)
	square := func(x, y float64) r3.Vec { return r3.Vec{X: 40 * x, Y: 40 * y} }
	a, b, c, d := square(-1, -1), square(1, -1), square(1, 1), square(-1, 1)
	mesh := flatMesh([][3]r3.Vec{{a, b, c}, {a, c, d}}, []kit.Color{glow(1, 1, 1), glow(1, 1, 1)})
	return Draw{Mesh: mesh, World: turn.At(at), Object: object}, turn.Dir(r3.Vec{Z: 1})
}

func TestLayersOfATiltedPlaneAreItsGeometry(t *testing.T) {
	const w, h = 60, 40
	at := r3.Vec{Y: -0.5, Z: -9}
	plane, n := tilted(at, -35, 7)
	for _, samples := range []int{1, 4} {
		r, err := New(w, h, 2)
		require.NoError(t, err)
		require.NoError(t, r.Sample(samples))
		l := NewLayers(w, h, true, true, true, true)
		require.NoError(t, r.RenderLayers(&Input{Draws: []Draw{plane}, View: view(60, 42)}, l))
		tx, ty := math.Tan(geom.Radians(30)), math.Tan(geom.Radians(21))
		for y := range h {
			for x := range w {
				k := y*w + x
				ray := r3.Vec{X: ((float64(x)+0.5)/w*2 - 1) * tx, Y: (1 - (float64(y)+0.5)/h*2) * ty, Z: -1}
				depth := r3.Dot(n, at) / r3.Dot(n, ray) // where the ray meets the plane
				near := 2e-4
				if samples == 4 {
					near = 4e-3 // where the two triangles meet, the middle is that of the larger part
				}
				require.InEpsilon(t, depth, float64(l.Depth[k]), near, "depth at %d %d", x, y)
				p := l.Position[k]
				place := r3.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])}
				require.InDelta(t, 0, r3.Dot(n, r3.Sub(place, at)), 1e-4, "it lies in the plane")
				require.Less(t, r3.Norm(r3.Sub(place, r3.Scale(depth, ray))), 20*near*depth)
				for i, v := range [3]float64{n.X, n.Y, n.Z} {
					require.InDelta(t, v, float64(l.Normal[k][i]), 1e-6)
				}
				require.Equal(t, [4]uint32{7, 7, 7, 7}, l.Objects[k])
			}
		}
	}
}

func TestLayersTellTheNearerObjectAndTheSky(t *testing.T) {
	square := func(half, x, z float64) *kit.Mesh {
		a, b, c, d := r3.Vec{X: x - half, Y: -half, Z: z}, r3.Vec{X: x + half, Y: -half, Z: z}, r3.Vec{X: x + half, Y: half, Z: z}, r3.Vec{X: x - half, Y: half, Z: z}
		return flatMesh([][3]r3.Vec{{a, b, c}, {a, c, d}}, []kit.Color{glow(1, 0, 0), glow(1, 0, 0)})
	}
	// At 90° in 40 pixels, one metre at a depth of 4 is 5 pixels: the near square covers
	// columns 12.5 to 22.5.
	const w, h = 40, 40
	r, err := New(w, h, 1)
	require.NoError(t, err)
	in := &Input{View: view(90, 90), Draws: []Draw{
		{Mesh: square(2, 0, -8), World: geom.Identity, Object: 3},
		{Mesh: square(1, -0.5, -4), World: geom.Identity, Object: 9},
	}}
	l := NewLayers(w, h, true, true, true, true)
	require.NoError(t, r.RenderLayers(in, l))
	row := 20 * w
	assert.Equal(t, [4]uint32{9, 9, 9, 9}, l.Objects[row+15])
	assert.InDelta(t, 4, l.Depth[row+15], 1e-5)
	assert.InDelta(t, 8, l.Depth[row+24], 1e-5)
	assert.Equal(t, [4]uint32{3, 3, 3, 3}, l.Objects[row+24])
	assert.Equal(t, [4]uint32{}, l.Objects[row+2])
	assert.True(t, math.IsInf(float64(l.Depth[row+2]), 1))
	assert.Zero(t, l.Position[row+2])
	assert.Zero(t, l.Normal[row+2])
	nine := 0
	for _, o := range l.Objects[row+12] {
		if o == 9 {
			nine++
		}
	}
	assert.Equal(t, 2, nine, "half of the pixel's samples")
	// What is drawn to look at tells them apart, and the light does not change layers.
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	(&Layers{Objects: l.Objects}).Shown(img)
	assert.NotEqual(t, img.RGBAAt(15, 20), img.RGBAAt(24, 20))
	assert.Equal(t, uint8(0), img.RGBAAt(2, 20).R)
	(&Layers{Depth: l.Depth}).Shown(img)
	assert.Greater(t, img.RGBAAt(15, 20).G, img.RGBAAt(24, 20).G)
	assert.ErrorIs(t, r.RenderLayers(in, &Layers{Depth: make([]float32, 3)}), ErrSize)
}
