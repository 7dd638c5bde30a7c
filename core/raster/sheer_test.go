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
)

// lattice is a sheet with a texture of 8 by 8 white squares, of which every other one is
// clear, as on a chess board that begins with an opaque one at the top left.
func lattice(t require.TestingT, half, z float64, c kit.Color, sheer kit.Sheer) *kit.Mesh {
	const n, square = 64, 8
	pix := make([]uint8, 4*n*n)
	for i := range pix {
		if pix[i] = 255; i%4 == 3 {
			pix[i] = uint8(255 * (1 - (i/4%n/square+i/4/n/square)%2))
		}
	}
	m := sheet(-half, -half, half, half, z, c)
	for i := range len(m.Positions) / 3 {
		m.UVs = append(m.UVs, (m.Positions[3*i]/float32(half)+1)/2, (1-m.Positions[3*i+1]/float32(half))/2)
	}
	var err error
	m.Texture, err = kit.NewTexture(n, n, pix)
	require.NoError(t, err)
	m.Sheer = sheer
	return m
}

var holes = kit.Sheer{Cut: 0.5}

func TestWhatIsLessOpaqueThanTheCutIsNotThere(t *testing.T) {
	// At 90° a sheet of half size 4 at distance 4 fills the picture: 8 squares of 16 pixels.
	front, back := lattice(t, 4, -4, glow(0.5, 0, 0), holes), sheet(-9, -9, 9, 9, -6, glow(0, 0.5, 0))
	opaque := lattice(t, 4, -4, glow(0.5, 0, 0), kit.Sheer{})
	for _, samples := range []int{1, 4} {
		r, err := New(128, 128, 2)
		require.NoError(t, err)
		require.NoError(t, r.Sample(samples))
		show := func(draws ...*kit.Mesh) *image.RGBA {
			in := &Input{View: view(90, 90)}
			for _, m := range draws {
				in.Draws = append(in.Draws, Draw{Mesh: m, World: geom.Identity})
			}
			img := image.NewRGBA(image.Rect(0, 0, 128, 128))
			require.NoError(t, r.Render(in, img))
			return img
		}
		img := show(front, back)
		for y := range 128 {
			for x := range 128 {
				if x%16 == 0 || x%16 == 15 || y%16 == 0 || y%16 == 15 {
					continue // where the squares meet
				}
				c := img.RGBAAt(x, y)
				if (x/16+y/16)%2 == 0 {
					require.Equal(t, toned(0.8), c.R, "%d %d", x, y)
					require.Zero(t, c.G)
				} else {
					require.Equal(t, toned(0.8), c.G, "%d %d", x, y)
					require.Zero(t, c.R)
				}
			}
		}
		assert.True(t, bytes.Equal(img.Pix, show(back, front).Pix), "in whatever order")
		assert.Equal(t, toned(0.8), show(opaque, back).RGBAAt(24, 8).R, "without a cut nothing is missing")

		// A thing in front hides it, one behind is seen through it, and what is told besides
		// the picture has its holes as well.
		near := sheet(-0.5, -0.5, 0.5, 0.5, -2, glow(0, 0, 0.5))
		assert.Equal(t, toned(0.8), show(front, near, back).RGBAAt(64, 64).B)
		layers := NewLayers(128, 128, true, false, false, true)
		in := &Input{View: view(90, 90), Draws: []Draw{{Mesh: front, World: geom.Identity, Object: 7}, {Mesh: back, World: geom.Identity, Object: 9}}}
		require.NoError(t, r.RenderLayers(in, layers))
		assert.InDelta(t, 4, layers.Depth[8*128+8], 1e-4)
		assert.InDelta(t, 6, layers.Depth[8*128+24], 1e-4)
		assert.Equal(t, [2]uint32{7, 9}, [2]uint32{layers.Objects[8*128+8][0], layers.Objects[8*128+24][0]})
	}
}

func TestHolesLetTheSunThrough(t *testing.T) {
	// A sheet of 8 squares of 1 m lies 2 m above a floor, the sun stands straight over it.
	over := lattice(t, 4, 0, kit.Color{1, 1, 1, 0}, holes)
	flat := geom.Mat4{1, 0, 0, 0, 0, 0, 1, 2, 0, -1, 0, 0, 0, 0, 0, 1} // its front looks up
	floor := kit.Build("floor", map[string]float64{"width": 30, "depth": 30}, "#ffffff", nil)
	light := func(m *kit.Mesh) func(x, z float64) float64 {
		in := &Input{Draws: []Draw{{Mesh: m, World: flat}, {Mesh: floor, World: geom.Identity}}}
		in.Look = Look{Sun: [3]float64{0.5, 0.5, 0.5}, SunDir: r3.Vec{Y: 1}, Plain: true, ShadowPx: 1024, ShadowSharp: true}
		in.Look.Shadow = geom.Mat4{1. / 8, 0, 0, 0, 0, 0, -1. / 8, 0, 0, -1. / 10, 0, 0.5, 0, 0, 0, 1}
		// Under the sheet, which is not seen from there, along the floor.
		in.View = View{World: geom.Translate(r3.Vec{Y: 1.9, Z: 14}), HFov: 50, VFov: 50}
		img := picture(t, in, 400, 400, 2)
		project := projection(&in.View, 400, 400)
		return func(x, z float64) float64 {
			w := project[14]*z + project[12]*x + project[15]
			return float64(img.RGBAAt(int((project[0]*x+project[2]*z+project[3])/w), int((project[4]*x+project[6]*z+project[7])/w)).R)
		}
	}
	full := math.Round(255 * (1.055*math.Pow(0.5, 1/2.4) - 0.055))
	holed, whole := light(over), light(lattice(t, 4, 0, kit.Color{1, 1, 1, 0}, kit.Sheer{}))
	for _, c := range []struct {
		x, z float64
		lit  bool
	}{{-0.5, 0.5, true}, {-1.5, 1.5, true}, {-1.5, 2.5, false}, {0.5, 0.5, false}, {1.5, 0.5, true}, {1.5, 2.5, true}, {1.5, 3.5, false}, {6, 0, true}} {
		want := 0.0
		if c.lit {
			want = full
		}
		assert.InDelta(t, want, holed(c.x, c.z), 2, "%v, %v", c.x, c.z)
	}
	assert.InDelta(t, 0, whole(1.5, 0.5), 2)
	assert.InDelta(t, full, light(sheer(over, kit.Sheer{Blend: true, Through: 0.6}))(0.5, 0.5), 2, "what lets more than half of it through casts none")
	assert.InDelta(t, 0, light(sheer(over, kit.Sheer{Blend: true, Through: 0.4}))(0.5, 0.5), 2)
}

// sheer is a mesh that lets through otherwise.
func sheer(m *kit.Mesh, s kit.Sheer) *kit.Mesh {
	return &kit.Mesh{Positions: m.Positions, Normals: m.Normals, Colors: m.Colors, Indices: m.Indices, UVs: m.UVs, Texture: m.Texture, Bounds: m.Bounds, Sheer: s}
}

func TestWhatBlendsIsLaidOverInOrder(t *testing.T) {
	pane := func(z float64, c kit.Color, through float32) Draw {
		return Draw{Mesh: sheer(sheet(-1, -1, 1, 1, z, c), kit.Sheer{Blend: true, Through: through}), World: geom.Identity}
	}
	solid := func(z float64, c kit.Color) Draw {
		return Draw{Mesh: sheet(-9, -9, 9, 9, z, c), World: geom.Identity}
	}
	red, blue, wall := pane(-3, glow(0.5, 0, 0), 0.25), pane(-5, glow(0, 0, 0.5), 0.5), solid(-8, glow(0, 0.5, 0))
	behind := pane(-9, glow(0.5, 0.5, 0.5), 0.5)
	v := float64(toned(0.8))
	// Over the wall the blue one half, over that the red one by three quarters.
	half := math.Round(v / 2)
	want := [3]float64{math.Round(v * 0.75), math.Round(half - half*0.75), math.Round(half - half*0.75)}
	for _, order := range [][]Draw{{red, blue, wall, behind}, {wall, behind, blue, red}, {blue, behind, red, wall}} {
		for _, samples := range []int{1, 4} {
			r, err := New(64, 64, 2)
			require.NoError(t, err)
			require.NoError(t, r.Sample(samples))
			img := image.NewRGBA(image.Rect(0, 0, 64, 64))
			require.NoError(t, r.Render(&Input{Draws: order, View: view(60, 60)}, img))
			c := img.RGBAAt(32, 30)
			assert.Equal(t, want, [3]float64{float64(c.R), float64(c.G), float64(c.B)})
			assert.Equal(t, [3]uint8{0, toned(0.8), 0}, [3]uint8(img.Pix[:3]), "beside the panes")
			assert.Equal(t, uint8(255), c.A)
		}
	}
	// At its edge it counts by the samples that see it: the sheet ends in the middle of pixel 48.
	edge := sheer(sheet(-9, -9, 16.5/32*4, 9, -4, glow(0.5, 0, 0)), kit.Sheer{Blend: true, Through: 0.5})
	img := picture(t, &Input{Draws: []Draw{{Mesh: edge, World: geom.Identity}}, View: view(90, 90)}, 64, 64, 1)
	assert.Equal(t, half, float64(img.RGBAAt(47, 20).R))
	assert.InDelta(t, v/4, float64(img.RGBAAt(48, 20).R), 1)
	assert.Zero(t, img.RGBAAt(49, 20).R)
}
