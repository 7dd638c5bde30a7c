package interchange

import (
	"bytes"
	"context"
	"encoding/binary"
	"image"
	"image/color"
	"math"
	"os"
	"path/filepath"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/tiff"
	"gonum.org/v1/gonum/spatial/r3"
)

func foreign(t testing.TB, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("testdata", "foreign", name))
	require.NoError(t, err)
	return data
}

// facing is the front of a shape's first triangle in the model's space, and its first normal there.
func facing(b *kit.Bundle, shape int) (front, normal r3.Vec) {
	var pose kit.BundlePose
	b.Pose(&pose, -1, 0)
	s := &b.Shapes[shape]
	w := &pose.Worlds[s.Node]
	at := func(v []float32, i uint32) r3.Vec {
		return r3.Vec{X: float64(v[3*i]), Y: float64(v[3*i+1]), Z: float64(v[3*i+2])}
	}
	p := func(i int) r3.Vec { return w.Point(at(s.Positions, s.Indices[i])) }
	return r3.Unit(r3.Cross(r3.Sub(p(1), p(0)), r3.Sub(p(2), p(0)))), r3.Unit(w.Dir(at(s.Normals, 0)))
}

func TestGLTFOfOthers(t *testing.T) {
	m, err := Read(context.Background(), foreign(t, "crate.gltf"), Options{Unit: 1, Shoot: &Shoot{Rate: 24, In: 10, Aspect: 16.0 / 9}})
	require.NoError(t, err)
	assert.Equal(t, []string{
		"The format has no focus and no stop, and one lens for each camera; they are as new cameras have them.",
		"The light “Noon” comes from one direction, as the sun does; it is left out, set the sun in the scene's light.",
		"Lights have the strength of new lamps.",
	}, m.Notes)
	require.Len(t, m.Shapes, 3)
	// All of it is turned by half, to look to −Z: what faced +z faces −z.
	near := func(want, got r3.Vec, what string) {
		assert.InDelta(t, 0, r3.Norm(r3.Sub(want, got)), 0.01, "%s: %v", what, got)
	}
	front, normal := facing(m.Bundle, 0)
	near(r3.Vec{Z: -1}, front, "a mirrored part faces where it did")
	near(r3.Vec{X: 0.6, Y: 0.8}, normal, "its normal is mirrored too")
	front, normal = facing(m.Bundle, 1)
	near(r3.Vec{Z: -1}, front, "a stretched part")
	near(r3.Unit(r3.Vec{X: -0.6, Y: 0.2}), normal, "the normal of what is stretched leans the other way")
	front, _ = facing(m.Bundle, 2)
	near(r3.Vec{Z: -1}, front, "a part that is mirrored and swings")
	var pose kit.BundlePose
	for clip := range m.Clips {
		m.Pose(&pose, clip, 0.4)
		for i := range m.Shapes {
			even, mirrored := proportions(&pose.Worlds[m.Shapes[i].Node])
			assert.True(t, even && !mirrored, "shape %d in clip %d", i, clip)
		}
	}
	assert.InDeltaSlice(t, []float32{0, 0, 0, -2, 0, 0, 0, 1, 0}, m.Shapes[2].Positions, 1e-6, "two of three places are told, the first is zero")
	assert.InDeltaSlice(t, []float32{0.2, 0.4, 0.6, 0}, m.Shapes[0].Colors[:4], 1e-6, "what emits by a black picture does not")
	assert.InDeltaSlice(t, []float32{0.25, 0.5, 0.75, 0.5, 0.25, 1}, m.Shapes[0].UVs, 1e-6)
	require.Len(t, m.Textures, 1)
	assert.Equal(t, []uint8{255, 0, 0, 255}, m.Textures[0].Pixels)

	require.Len(t, m.Cameras, 1)
	require.Len(t, m.Lamps, 1)
	c, l := m.Cameras[0], m.Lamps[0]
	assert.Equal(t, "Crane camera", c.Name)
	require.Len(t, c.Frames, 25, "a second")
	assert.Equal(t, []float64{10, 34}, []float64{c.Frames[0].Frame, c.Frames[24].Frame})
	assert.InDelta(t, 36, c.Frames[0].Focal, 1e-4, "2·atan(1/3) high, half as wide again, on 36 mm")
	near(r3.Vec{Y: -1, Z: -8}, r3.Sub(c.Frames[0].Position.R3(), l.Position.R3()), "from lamp to camera")
	assert.InDelta(t, 2, c.Frames[24].Position[1]-c.Frames[0].Position[1], 1e-4)
	assert.InDelta(t, 180, abs(c.Frames[0].Turn[0]), 1e-4)
	assert.InDelta(t, -90, l.Turn[1], 1e-3)
	assert.InDelta(t, 45.84, l.Spot, 0.01)
	assert.InDelta(t, 0.5, l.Soft, 1e-6)
	assert.Equal(t, "#ffbc00", l.Color)
	assert.InDelta(t, 6, l.Reach, 1e-6)

	// In centimetres all of it, where cameras and lamps stand too, is a hundredth as large.
	small, err := Read(context.Background(), foreign(t, "crate.gltf"), Options{Unit: 0.01, Shoot: &Shoot{Rate: 24, Aspect: 1}})
	require.NoError(t, err)
	near(r3.Scale(0.01, r3.Sub(c.Frames[0].Position.R3(), l.Position.R3())), r3.Sub(small.Cameras[0].Frames[0].Position.R3(), small.Lamps[0].Position.R3()), "in centimetres")
	assert.InDelta(t, 0.06, small.Lamps[0].Reach, 0.05)
	none, err := Read(context.Background(), foreign(t, "crate.gltf"), Options{Unit: 1})
	require.NoError(t, err)
	assert.Empty(t, none.Cameras)
}

func abs(v float64) float64 { return max(v, -v) }

func TestOBJOfOthers(t *testing.T) {
	var brick bytes.Buffer
	im := image.NewRGBA(image.Rect(0, 0, 2, 2))
	im.Set(0, 0, color.White)
	require.NoError(t, tiff.Encode(&brick, im, nil))
	archive := zipped(t, map[string][]byte{
		"House/concave.obj": foreign(t, "concave.obj"), "House/colours of the house.mtl": foreign(t, "colours of the house.mtl"), "House/second.mtl": foreign(t, "second.mtl"),
		"House/tex/old brick.png":      brick.Bytes(), // a TIFF by its bytes, in other letters
		"__MACOSX/House/._concave.obj": []byte("\x00\x05\x16\x07"), "House/._second.mtl": {0}, "House/.DS_Store": {0},
	})
	m, err := Read(context.Background(), archive, Options{Unit: 1})
	require.NoError(t, err)
	assert.Equal(t, []string{
		"A picture is left out, what “C:\\tex\\missing.tga” covers has its plain colour: it refers to the file \"C:\\\\tex\\\\missing.tga\", which is not in the archive; put the model and its files into one zip.",
		"Faces with fewer than three corners are left out.",
	}, m.Notes)
	require.Len(t, m.Shapes, 2)
	area := 0.0
	s := m.Shapes[0]
	for i := 0; i < len(s.Indices); i += 3 {
		p := func(k int) r3.Vec {
			j := 3 * s.Indices[i+k]
			return r3.Vec{X: float64(s.Positions[j]), Y: float64(s.Positions[j+1]), Z: float64(s.Positions[j+2])}
		}
		n := r3.Cross(r3.Sub(p(1), p(0)), r3.Sub(p(2), p(0)))
		assert.Greater(t, n.Y, 0.0, "each triangle faces up")
		area += n.Y / 2
	}
	assert.InDelta(t, 10, area, 1e-9, "a square of 16 without a notch of 6: nothing lies outside")
	assert.Len(t, s.Indices, 9)
	assert.Equal(t, []float32{1, 0, 0, 0, 0, 1, 0, 0}, append(append([]float32{}, m.Shapes[1].Colors[8:12]...), m.Shapes[1].Colors[4:8]...), "corners have their own colours")

	alone, err := Read(context.Background(), foreign(t, "concave.obj"), Options{Unit: 1})
	require.NoError(t, err)
	assert.Contains(t, alone.Notes, "The file of materials “second.mtl” is not there; what it colours is grey. Put the model and its files into one zip.")
	assert.Equal(t, []float32{0.5, 0.5, 0.5, 0}, alone.Shapes[0].Colors[:4])
}

func TestPolygonsAreCutIntoTheirTriangles(t *testing.T) {
	// A comb of five teeth, seen from the front and from behind.
	var comb []r3.Vec
	for i := range 5 {
		x := float64(2 * i)
		comb = append(comb, r3.Vec{X: x, Y: 5}, r3.Vec{X: x, Y: 1}, r3.Vec{X: x + 1, Y: 1}, r3.Vec{X: x + 1, Y: 5})
	}
	comb = append(comb, r3.Vec{X: 10, Y: 5}, r3.Vec{X: 10}, r3.Vec{}) // its back
	for _, way := range []float64{1, -1} {
		area := 0.0
		list := triangulated(comb)
		for _, c := range list {
			z := r3.Cross(r3.Sub(comb[c[1]], comb[c[0]]), r3.Sub(comb[c[2]], comb[c[0]])).Z * way
			assert.LessOrEqual(t, z, 1e-12)
			area -= z / 2
		}
		assert.Len(t, list, len(comb)-2)
		assert.InDelta(t, polygonArea(comb), area, 1e-9)
		for i, j := 0, len(comb)-1; i < j; i, j = i+1, j-1 {
			comb[i], comb[j] = comb[j], comb[i]
		}
	}
	crossed := []r3.Vec{{}, {X: 1, Y: 1}, {X: 1}, {Y: 1}}
	assert.Len(t, triangulated(crossed), 2, "what cuts itself comes to an end")
}

// polygonArea is found by the trapezia under its edges (C. F. Gauss).
func polygonArea(p []r3.Vec) float64 {
	sum := 0.0
	for i, a := range p {
		b := p[(i+1)%len(p)]
		sum += (a.X - b.X) * (a.Y + b.Y) / 2
	}
	return abs(sum)
}

func TestSTLAndPLYOfOthers(t *testing.T) {
	text, err := Read(context.Background(), foreign(t, "wedge.stl"), Options{Unit: 0.001})
	require.NoError(t, err)
	assert.Equal(t, 2, text.Triangles())
	assert.InDelta(t, 0.005, text.Size().Max.Z-text.Size().Min.Z, 1e-6, "millimetres")
	var b bytes.Buffer
	b.Write(append([]byte("solid in its title and still binary"), make([]byte, 45)...))
	for _, v := range []any{uint32(1), [12]float32{0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0}, uint16(0)} {
		require.NoError(t, binary.Write(&b, binary.LittleEndian, v))
	}
	packed, err := Read(context.Background(), b.Bytes(), Options{Unit: 1})
	require.NoError(t, err)
	assert.Equal(t, []float32{0, 0, 1}, packed.Shapes[0].Normals[:3])

	tile, err := Read(context.Background(), foreign(t, "tile.ply"), Options{Unit: 1})
	require.NoError(t, err)
	assert.Equal(t, 3, tile.Triangles())
	assert.Equal(t, []float32{1, 0, 0, 0}, tile.Shapes[0].Colors[:4])
	assert.Equal(t, []float32{0, 0, 1, 0}, tile.Shapes[0].Colors[16:20])
	whole := []byte("ply\nformat binary_big_endian 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty double z\nelement face 1\nproperty list uint8 ushort vertex_indices\nend_header\n")
	for _, v := range []float64{0, 0, 0, 2, 0, 0, 0, 2, 0} {
		whole = binary.BigEndian.AppendUint64(whole, math.Float64bits(v))
	}
	whole = append(whole, 3, 0, 0, 0, 1, 0, 2)
	read, err := Read(context.Background(), whole, Options{Unit: 1})
	require.NoError(t, err)
	assert.InDelta(t, 2, read.Size().Max.Y, 1e-9)

	for text, says := range map[string]string{
		"ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n1 1 1\n": "a cloud of points",
		"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n0\n":                                                "no x, y and z",
		string(whole[:len(whole)-2]):          "ends too early",
		"ply\nformat rot13 1.0\nend_header\n": "its form \"rot13\"",
		"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0\n3 0 1 2\n": "names point 1 of 1",
		"solid x\nfacet\nvertex 0 0 0\nvertex 1 O 0\n": "has \"O\" where a number should be",
		"solid x\nfacet\nvertex 0 0 0\n":               "it ends in the middle",
	} {
		_, err := Read(context.Background(), []byte(text), Options{Unit: 1})
		assert.ErrorContains(t, err, says, text)
	}
}

func TestWhatAnAnimationStretchesIsSaid(t *testing.T) {
	b := &kit.Bundle{Root: geom.Identity, Nodes: []kit.BundleNode{
		{Parent: -1, Turn: [4]float32{0, 0, 0, 1}, Scale: [3]float32{1, 3, 1}}, {Parent: 0, Turn: [4]float32{0, 0, 0.38, 0.92}, Scale: [3]float32{1, 1, -1}},
	}, Clips: []kit.Clip{{Tracks: []kit.ClipTrack{{Node: 0, What: "move", Times: []float32{0}, Values: []float32{0, 0, 0}}}}}}
	b.Shapes = []kit.Shape{{Node: 1, Skin: -1, Texture: -1, Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Normals: []float32{0, 0, 1, 0, 0, 1, 0, 0, 1}, Colors: make([]float32, 12), Indices: []uint32{0, 1, 2}}}
	before, _ := facing(b, 0)
	assert.True(t, straighten(b))
	require.NoError(t, b.Check())
	after, _ := facing(b, 0)
	assert.InDelta(t, 0, r3.Norm(r3.Add(before, after)), 1e-6, "what was seen from behind is seen from the front")
}
