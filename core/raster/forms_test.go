package raster

import (
	"encoding/binary"
	"image"
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// ball is a sphere around the origin in so many slices.
func ball(radius float64, slices int) *kit.Mesh {
	m := &kit.Mesh{Bounds: geom.EmptyBox()}
	rings := slices / 2
	for ring := range rings + 1 {
		for s := range slices + 1 {
			sr, cr := math.Sincos(math.Pi * float64(ring) / float64(rings))
			ss, cs := math.Sincos(2 * math.Pi * float64(s) / float64(slices))
			n := r3.Vec{X: sr * cs, Y: cr, Z: sr * ss}
			p := r3.Scale(radius, n)
			m.Positions = append(m.Positions, float32(p.X), float32(p.Y), float32(p.Z))
			m.Normals = append(m.Normals, float32(n.X), float32(n.Y), float32(n.Z))
			m.Colors = append(m.Colors, 1, 0, 0, 1)
			m.Bounds = m.Bounds.Add(p)
		}
	}
	for ring := range rings {
		for s := range slices {
			a := uint32(ring*(slices+1) + s)
			b := a + uint32(slices) + 1
			m.Indices = append(m.Indices, a, a+1, b, b, a+1, b+1)
		}
	}
	return m
}

// covered is how many pixels' worth of area is red in a picture of glowing red things
// without a sky.
func covered(img *image.RGBA) float64 {
	full := float64(toned(glowGain))
	sum := 0.0
	for i := 0; i < len(img.Pix); i += 4 {
		sum += float64(img.Pix[i]) / full
	}
	return sum
}

func TestASphereIsSeenAsItsCircle(t *testing.T) {
	const w, h = 300, 300
	for _, distance := range []float64{2.5, 4, 12} {
		in := &Input{View: view(50, 50), Draws: []Draw{{Mesh: ball(1, 128), World: geom.Translate(r3.Vec{Z: -distance})}}}
		// The cone that touches it has the tangent r/√(d² − r²).
		radius := w / 2 / math.Tan(geom.Radians(25)) / math.Sqrt(distance*distance-1)
		assert.InEpsilon(t, math.Pi*radius*radius, covered(picture(t, in, w, h, 2)), 4e-3, "at %v m", distance)
	}
}

func TestAThinLineCoversItsArea(t *testing.T) {
	const w, h = 400, 300
	// A strip of a width in pixels across the picture, at angles: with four samples in
	// each pixel its area comes out over its length, however thin it is.
	for _, width := range []float64{0.25, 0.5, 1, 3} {
		for _, deg := range []float64{11, 37, 62, 81} {
			scale := 2 * math.Tan(geom.Radians(25)) * 10 / h // metres of a pixel at ten metres
			half := r3.Vec{X: 120 * scale, Y: width / 2 * scale}
			corner := func(x, y float64) r3.Vec { return r3.Vec{X: x * half.X, Y: y * half.Y} }
			a, b, c, d := corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)
			strip := flatMesh([][3]r3.Vec{{a, b, c}, {a, c, d}}, []kit.Color{glow(1, 0, 0), glow(1, 0, 0)})
			turn := geom.RotateZ(deg)
			in := &Input{Draws: []Draw{{Mesh: strip, World: turn.At(r3.Vec{X: 0.013, Y: 0.007, Z: -10})}}}
			in.View = view(2*geom.Degrees(math.Atan(math.Tan(geom.Radians(25))*w/h)), 50)
			assert.InEpsilon(t, 240*width, covered(picture(t, in, w, h, 1)), 0.09, "%v pixels at %v degrees", width, deg)
		}
	}
}

// FuzzMeshes renders meshes of any numbers: nothing breaks, and neither threads nor looking
// at eight samples at once change anything.
func FuzzMeshes(f *testing.F) {
	bytesOf := func(v ...float32) (out []byte) {
		for _, x := range v {
			out = binary.LittleEndian.AppendUint32(out, math.Float32bits(x))
		}
		return out
	}
	nan, inf := float32(math.NaN()), float32(math.Inf(1))
	f.Add(bytesOf(0, 0, -2, 1, 0, -2, 0, 1, -2), byte(0))
	f.Add(bytesOf(nan, 0, -2, 1, 0, -2, 0, 1, -2, 0, 0, -2, 1, inf, -2, 0, 1, -2), byte(1))
	f.Add(bytesOf(0, 0, 5, 1e30, 0, -2, -1e30, 1, -2, 0, 0, 0, 0, 0, 0, 0, 0, 0), byte(2))
	f.Add(bytesOf(-1e6, -1, -1e6, 1e6, -1, -1e6, 0, -1, 1e6, 3e38, -3e38, 3e38, 1, 2, 3, -1, -1, -1), byte(3))
	f.Add(bytesOf(-2, -1, -3, 2, -1, -3, 0, 1, -4, nan, 0, -2, 1, inf, -2, 0, 1, -2), byte(4))
	f.Add(bytesOf(-2, -1, -3, 2, -1, -3, 0, 1, 4, -1e6, -1, -1e6, 1e6, -1, -1e6, 0, -1, 1e6), byte(12))
	f.Add(bytesOf(0, 0, -1.95, 1, 0, -3.396e38, 0, 1, -2), byte(0)) // too far for single precision
	f.Fuzz(func(t *testing.T, data []byte, how byte) {
		m := &kit.Mesh{Bounds: geom.EmptyBox()}
		for ; len(data) >= 12 && len(m.Positions) < 300; data = data[12:] {
			p := [3]float32{}
			for k := range p {
				p[k] = math.Float32frombits(binary.LittleEndian.Uint32(data[4*k:]))
			}
			m.Positions = append(m.Positions, p[:]...)
			m.Normals = append(m.Normals, p[1], p[2], p[0])
			m.Colors = append(m.Colors, 0.5, 0.5, 0.5, float32(how&1))
			m.Bounds = m.Bounds.Add(r3.Vec{X: float64(p[0]), Y: float64(p[1]), Z: float64(p[2])})
			m.Indices = append(m.Indices, uint32(len(m.Indices)))
		}
		if how&2 != 0 && len(m.Indices) > 3 { // shared corners
			for i := range m.Indices {
				m.Indices[i] = m.Indices[i] / 2
			}
		}
		if how&4 != 0 { // it lets through what is behind it
			m.Texture, _ = kit.NewTexture(2, 2, []uint8{1, 2, 3, 255, 4, 5, 6, 100, 7, 8, 9, 0, 9, 8, 7, 50})
			for k := range len(m.Positions) / 3 {
				m.UVs = append(m.UVs, m.Positions[3*k], m.Positions[3*k+2])
			}
			m.Sheer = kit.Sheer{Cut: 0.3}
			if how&8 != 0 {
				m.Sheer = kit.Sheer{Blend: true, Through: 0.3}
			}
		}
		in := &Input{Draws: []Draw{{Mesh: m, World: geom.Identity, Object: 1}, {Mesh: ball(1, 8), World: geom.Translate(r3.Vec{Z: -4})}}, View: view(60, 45)}
		in.Look.Sun, in.Look.SunDir, in.Look.ShadowPx, in.Look.Haze = [3]float64{1, 1, 1}, r3.Vec{Y: 1}, 64, 50
		in.Look.Shadow = geom.Mat4{0.1, 0, 0, 0, 0, 0, 0.1, 0, 0, -0.05, 0, 0.5, 0, 0, 0, 1}
		in.Lamps = append(casting(), Lamp{At: r3.Vec{Y: 2}, Color: [3]float64{1, 1, 1}, Reach: 9})
		var first []byte
		for _, threads := range []int{1, 3} {
			for _, samples := range []int{1, 4} {
				r, err := New(64, 48, threads)
				require.NoError(t, err)
				require.NoError(t, r.Sample(samples))
				img := image.NewRGBA(image.Rect(0, 0, 64, 48))
				require.NoError(t, r.Render(in, img))
				require.NoError(t, r.RenderLayers(in, NewLayers(64, 48, true, true, true, true)))
				if samples == 4 {
					if first == nil {
						first = img.Pix
					}
					require.Equal(t, first, img.Pix)
				}
				r.OneByOne()
				single := image.NewRGBA(img.Rect)
				require.NoError(t, r.Render(in, single))
				require.Equal(t, img.Pix, single.Pix, "one by one")
			}
		}
	})
}
