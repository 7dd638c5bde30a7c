package interchange

import (
	"context"
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// square is a document with one square of two metres, drawn in a mode over the
// corners in an order, with a material.
func square(mode int, order []uint16, material obj) *writer {
	w := &writer{}
	w.doc = obj{
		"asset":  obj{"version": "2.0"},
		"scenes": []obj{{"nodes": []int{0}}},
		"nodes":  []obj{{"mesh": 0}},
		"meshes": []obj{{"primitives": []obj{{
			"attributes": obj{"POSITION": w.list("VEC3", 5126, 4, []float32{-1, 0, 0, 1, 0, 0, 1, 2, 0, -1, 2, 0})},
			"indices":    w.list("SCALAR", 5123, len(order), order), "mode": mode, "material": 0,
		}}}},
		"materials": []obj{material},
	}
	return w
}

// area returns the area of a bundle's triangles that face its own front, less
// that of those that face back.
func area(b *kit.Bundle) float64 {
	sum := 0.0
	for _, s := range b.Shapes {
		for k := 0; k+2 < len(s.Indices); k += 3 {
			p := func(i int) r3.Vec {
				j := 3 * s.Indices[k+i]
				return r3.Vec{X: float64(s.Positions[j]), Y: float64(s.Positions[j+1]), Z: float64(s.Positions[j+2])}
			}
			sum += r3.Cross(r3.Sub(p(1), p(0)), r3.Sub(p(2), p(0))).Z / 2
		}
	}
	return sum
}

func TestStripsAndFansAreTriangles(t *testing.T) {
	for _, c := range []struct {
		name  string
		mode  int
		order []uint16
	}{
		{"triangles", 4, []uint16{0, 1, 2, 0, 2, 3}},
		{"a strip", 5, []uint16{0, 1, 3, 2}},
		{"a fan", 6, []uint16{0, 1, 2, 3}},
	} {
		b := read1(t, square(c.mode, c.order, obj{}).glb())
		assert.Equal(t, 2, b.Triangles(), c.name)
		assert.InDelta(t, 4, area(b), 1e-6, "%s: all face to the front", c.name)
		assert.Equal(t, []float32{0, 0, 1}, b.Shapes[0].Normals[:3], "normals are made where there are none")
	}
	_, err := Read(context.Background(), square(1, []uint16{0, 1}, obj{}).glb(), Options{Unit: 1})
	assert.ErrorContains(t, err, "no triangles", "lines alone are nothing to show")
}

func TestMaterialsColourGlowAndShowBothSides(t *testing.T) {
	order := []uint16{0, 1, 2, 0, 2, 3}
	b := read1(t, square(4, order, obj{"pbrMetallicRoughness": obj{"baseColorFactor": []float64{0.1, 0.2, 0.3, 1}}}).glb())
	assert.Equal(t, []float32{0.1, 0.2, 0.3, 0}, b.Shapes[0].Colors[:4], "linear already, as the standard says")
	b = read1(t, square(4, order, obj{"emissiveFactor": []float64{1, 0.5, 0}}).glb())
	assert.Equal(t, []float32{1, 0.5, 0, 1}, b.Shapes[0].Colors[:4])
	b = read1(t, square(4, order, obj{"doubleSided": true}).glb())
	assert.Equal(t, 4, b.Triangles())
	assert.InDelta(t, 0, area(b), 1e-6, "as much faces back as to the front")

	w := square(4, order, obj{"pbrMetallicRoughness": obj{"baseColorFactor": []float64{0.5, 1, 1, 1}}})
	attributes := w.doc["meshes"].([]obj)[0]["primitives"].([]obj)[0]["attributes"].(obj)
	attributes["COLOR_0"] = w.list("VEC4", 5121, 4, []uint8{255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 255, 255, 255, 255})
	w.lists[len(w.lists)-1]["normalized"] = true
	b = read1(t, w.glb())
	assert.Equal(t, []float32{0.5, 0, 0, 0, 0, 1, 0, 0}, b.Shapes[0].Colors[:8], "colours of vertices are multiplied")
}

func TestMatricesComeApartAndTogether(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		m := geom.PanTiltRoll(f("pan", -180, 180), f("tilt", -90, 90), f("roll", -180, 180))
		scale := [3]float64{f("sx", 0.1, 4), f("sy", 0.1, 4), f("sz", 0.1, 4)}
		if rapid.Bool().Draw(t, "mirrored") {
			scale[0] = -scale[0]
		}
		var columns [16]float64
		for c := range 3 {
			for r := range 3 {
				columns[4*c+r] = m[4*r+c] * scale[c]
			}
		}
		columns[12], columns[13], columns[14], columns[15] = f("x", -9, 9), f("y", -9, 9), f("z", -9, 9), 1
		n := decompose(&columns, kit.BundleNode{Parent: -1})
		b := kit.Bundle{Nodes: []kit.BundleNode{n}, Root: geom.Identity}
		var p kit.BundlePose
		b.Pose(&p, -1, 0)
		for r := range 3 {
			for c := range 4 {
				if d := p.Worlds[0][4*r+c] - columns[4*c+r]; math.Abs(d) > 1e-4 {
					t.Fatalf("row %d, column %d is off by %v", r, c, d)
				}
			}
		}
	})
}

func TestNodesStandWhereTheirParentsPutThem(t *testing.T) {
	w := square(4, []uint16{0, 1, 2, 0, 2, 3}, obj{})
	w.doc["nodes"] = []obj{{"children": []int{1}, "scale": []float64{2, 2, 2}}, {"mesh": 0, "translation": []float64{0, 5, 0}}, {"mesh": 0}}
	w.doc["scenes"] = []obj{{"nodes": []int{0}}}
	b := read1(t, w.glb())
	assert.Equal(t, 2, b.Triangles(), "what is not in the scene is left out")
	d := b.Size()
	assert.InDelta(t, 4, d.Max.X-d.Min.X, 1e-6)
	assert.InDelta(t, 4, d.Max.Y, 1e-6, "and it is stood on the ground")
	w.doc["scenes"] = nil
	b = read1(t, w.glb())
	assert.Equal(t, 4, b.Triangles(), "without a scene, all that hangs on nothing is shown")
	w.doc["scene"] = 4
	w.doc["scenes"] = []obj{{"nodes": []int{0}}}
	_, err := Read(context.Background(), w.glb(), Options{Unit: 1})
	require.ErrorContains(t, err, "scene 4 is not there")
}

func TestOBJCountsBackAndKeepsPartsApart(t *testing.T) {
	b := read1(t, []byte("v 0 0 0\nv 1 0 0\nv 1 1 0\nvn 0 0 -1\nf 1//1 2//1 3//1\nv 0 1 0\nf -4 -2 -1\n"))
	require.Len(t, b.Shapes, 2, "with normals and without")
	assert.Equal(t, []float32{0, 0, -1}, b.Shapes[0].Normals[:3], "given normals are kept")
	assert.Equal(t, []float32{0, 0, 0, 1, 1, 0, 0, 1, 0}, b.Shapes[1].Positions)
	assert.Equal(t, []float32{0.5, 0.5, 0.5, 0}, b.Shapes[1].Colors[:4])
	for text, says := range map[string]string{
		"v 0 0 0\nv 1 0 0\nf 1 2\n":          "no triangles",
		"v 0 0 0\nv 1 0\nf 1 2 1\n":          "has 2 numbers and needs 3",
		"v 0 0 0\nv 1 0 0\nf a b c\n":        "where a corner should be",
		"v 0 0 0\nv 1 0 0\nf /1 /1 /1\n":     "which is not there",
		"v 0 0 inf\nv 1 0 0\nf 1 1 1\n":      "where a number should be",
		"v 0 0 0\nv 1 0 0\nf 1 2 -3\n":       "which is not there",
		"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 0": "which is not there",
	} {
		_, err := Read(context.Background(), []byte(text), Options{Unit: 1})
		assert.ErrorContains(t, err, says, text)
	}
}
