package kit

import (
	"math"
	"testing"

	"proscen/core/geom"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// hinge is a bundle of two nodes, the second one metre above the first, and one
// triangle on each; a clip of two seconds lifts the second node to three metres
// and back, and turns it by 180° about Y in steps.
func hinge() *Bundle {
	still := [4]float32{0, 0, 0, 1}
	one := [3]float32{1, 1, 1}
	tri := func(node int) Shape {
		return Shape{
			Node: node, Skin: -1, Texture: -1,
			Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Normals: []float32{0, 0, 1, 0, 0, 1, 0, 0, 1},
			Colors: []float32{1, 1, 1, 0, 1, 1, 1, 0, 1, 1, 1, 0}, Indices: []uint32{0, 1, 2},
		}
	}
	return &Bundle{
		Root:   geom.Identity,
		Nodes:  []BundleNode{{Parent: -1, Turn: still, Scale: one}, {Parent: 0, Move: [3]float32{0, 1, 0}, Turn: still, Scale: one}},
		Shapes: []Shape{tri(0), tri(1)},
		Clips: []Clip{{Name: "lift", Seconds: 2, Tracks: []ClipTrack{
			{Node: 1, What: "move", Times: []float32{0, 1, 2}, Values: []float32{0, 1, 0, 0, 3, 0, 0, 1, 0}},
			{Node: 1, What: "turn", Step: true, Times: []float32{0, 1}, Values: []float32{0, 0, 0, 1, 0, 1, 0, 0}},
		}}},
	}
}

func TestClipsMoveNodesByHand(t *testing.T) {
	b := hinge()
	require.NoError(t, b.Check())
	var p BundlePose
	at := func(clip int, seconds float64) r3.Vec {
		b.Pose(&p, clip, seconds)
		return p.Worlds[1].Origin()
	}
	assert.Equal(t, r3.Vec{Y: 1}, at(-1, 0.7), "at rest")
	assert.InDelta(t, 2, at(0, 0.5).Y, 1e-6, "half way up")
	front := p.Worlds[1].Dir(r3.Vec{Z: -1})
	assert.InDelta(t, -1, front.Z, 1e-6, "the step has not come")
	assert.InDelta(t, 2, at(0, 1.5).Y, 1e-6, "half way down")
	front = p.Worlds[1].Dir(r3.Vec{Z: -1})
	assert.InDelta(t, 1, front.Z, 1e-6, "turned at once")
	assert.InDelta(t, 2, at(0, 4.5).Y, 1e-6, "it repeats")
	assert.InDelta(t, 2, at(0, -1.5).Y, 1e-6, "backward too")
	b.Nodes[0].Scale = [3]float32{2, 2, 2}
	assert.InDelta(t, 4, at(0, 0.5).Y, 1e-6, "children scale with their parents")
	assert.Zero(t, testing.AllocsPerRun(50, func() { b.Pose(&p, 0, 0.3) }))
}

func TestTurnsGoTheShortWay(t *testing.T) {
	half := float32(math.Sqrt2 / 2)
	quarter := [4]float32{0, half, 0, half}
	for _, to := range [][4]float32{quarter, {0, -half, 0, -half}} { // the same turn, written in two ways
		q := slerp([4]float32{0, 0, 0, 1}, to, 0.5)
		n := BundleNode{Turn: q, Scale: [3]float32{1, 1, 1}}
		m := n.matrix()
		d := m.Dir(r3.Vec{Z: -1})
		assert.InDelta(t, -math.Sqrt2/2, d.X, 1e-6, "an eighth turn to the left")
		assert.InDelta(t, -math.Sqrt2/2, d.Z, 1e-6)
	}
}

func TestBundlesAreCheckedWhole(t *testing.T) {
	nan := float32(math.NaN())
	for name, spoil := range map[string]func(b *Bundle){
		"comes before its parent": func(b *Bundle) { b.Nodes[0].Parent = 1 },
		"is not at a place":       func(b *Bundle) { b.Nodes[1].Move[2] = nan },
		"names what is not there": func(b *Bundle) { b.Shapes[0].Node = 7 },
		"lengths that do not fit": func(b *Bundle) { b.Shapes[0].Normals = b.Shapes[0].Normals[:6] },
		"coordinates that do not": func(b *Bundle) { b.Shapes[0].UVs = []float32{0, 0} },
		"not finite":              func(b *Bundle) { b.Shapes[1].Positions[4] = nan },
		"names vertex":            func(b *Bundle) { b.Shapes[1].Indices[2] = 3 },
		"a skin has":              func(b *Bundle) { b.Skins = []Skin{{Joints: []int{0}}} },
		"a skin names":            func(b *Bundle) { b.Skins = []Skin{{Joints: []int{5}, Inverse: []geom.Mat4{geom.Identity}}} },
		"joints that do not fit": func(b *Bundle) {
			b.Skins = []Skin{{Joints: []int{0}, Inverse: []geom.Mat4{geom.Identity}}}
			b.Shapes[0].Skin = 0
		},
		"names joint": func(b *Bundle) {
			b.Skins = []Skin{{Joints: []int{0}, Inverse: []geom.Mat4{geom.Identity}}}
			b.Shapes[0].Skin, b.Shapes[0].Joints, b.Shapes[0].Weights = 0, []uint16{0, 0, 0, 0, 0, 0, 0, 0, 9, 0, 0, 0}, make([]float32, 12)
		},
		"a clip lasts":         func(b *Bundle) { b.Clips[0].Seconds = math.Inf(1) },
		"track that does not":  func(b *Bundle) { b.Clips[0].Tracks[0].Values = b.Clips[0].Tracks[0].Values[:3] },
		"runs backward":        func(b *Bundle) { b.Clips[0].Tracks[0].Times[2] = 0.5 },
		"as opaque as":         func(b *Bundle) { b.Shapes[0].Sheer.Through = 1.5 },
		"is not as opaque":     func(b *Bundle) { b.Shapes[1].Sheer = Sheer{Blend: true, Cut: 0.5} },
		"something can be":     func(b *Bundle) { b.Shapes[1].Sheer.Cut = nan },
		"size is out of range": func(b *Bundle) { b.Textures = []TextureData{{Width: 2, Height: 2, Pixels: make([]byte, 15)}} },
	} {
		b := hinge()
		spoil(b)
		assert.ErrorContains(t, b.Check(), name)
	}
}

func TestBendingBlendsJoints(t *testing.T) {
	// One vertex hangs half on a joint at rest and half on one that is lifted by a
	// metre: it is lifted by half a metre.
	b := hinge()
	s := &b.Shapes[0]
	b.Skins = []Skin{{Joints: []int{0, 1}, Inverse: []geom.Mat4{geom.Identity, geom.Translate(r3.Vec{Y: -1})}}}
	s.Skin, s.Joints = 0, []uint16{0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0}
	s.Weights = []float32{0.5, 0.5, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0}
	require.NoError(t, b.Check())
	m := b.Meshes()[0]
	assert.InDeltaSlice(t, s.Positions, m.Positions, 1e-6, "at rest nothing bends")
	var p BundlePose
	b.Pose(&p, 0, 0.5) // lifted from one metre to two
	b.Bend(0, &p, m)
	assert.InDeltaSlice(t, []float32{0, 0.5, 0, 1, 0, 0, 0, 2, 0}, m.Positions, 1e-6)
	assert.InDelta(t, 2, m.Bounds.Max.Y, 1e-6, "its bounds go along")
}

func TestTexturesByHand(t *testing.T) {
	// Left half black, right half white, 4×2.
	var pix []uint8
	for range 2 {
		pix = append(pix, 0, 0, 0, 255, 0, 0, 0, 255, 255, 255, 255, 255, 255, 255, 255, 255)
	}
	x, err := NewTexture(4, 2, pix)
	require.NoError(t, err)
	assert.Equal(t, float32(0), x.At(0.2, 0.5, 0.1)[0])
	assert.Equal(t, float32(1), x.At(0.8, 0.5, 0.1)[0])
	assert.InDelta(t, 0.5, x.At(0.5, 0.5, 0.1)[0], 1e-6, "between two texels, in linear light")
	assert.InDelta(t, 0.5, x.At(1, 0.5, 0.1)[0], 1e-6, "and across the seam, where it repeats")
	assert.Equal(t, x.At(0.2, 0.3, 0.1), x.At(-2.8, 5.3, 0.1))
	assert.InDelta(t, 0.5, x.At(0.1, 0.1, 4)[0], 0.01, "from far away it is grey: the mean of its light")
	assert.Equal(t, x.At(0, 0.5, 0.1), x.At(float32(math.NaN()), 0.5, 0.1))
	_, err = NewTexture(0, 2, nil)
	assert.ErrorIs(t, err, ErrTexture)
	_, err = NewTexture(MaxTextureSide+1, 1, make([]uint8, 4*(MaxTextureSide+1)))
	assert.ErrorIs(t, err, ErrTexture)
}

func TestTexturesAreAsOpaqueAsTheirTexels(t *testing.T) {
	// Two by two texels: opaque, clear; a fifth, three fifths.
	pix := make([]uint8, 16)
	pix[3], pix[7], pix[11], pix[15] = 255, 0, 51, 153
	x, err := NewTexture(2, 2, pix)
	require.NoError(t, err)
	m := &Mesh{Texture: x, Sheer: Sheer{Cut: 0.5}}
	assert.True(t, m.Clear())
	assert.InDelta(t, 1, m.Opacity(0.25, 0.25, 1), 1e-6)
	assert.InDelta(t, 0.6, m.Opacity(0.75, 0.75, 1), 1e-6)
	assert.InDelta(t, 0.5, m.Opacity(0.5, 0.25, 1), 1e-6, "half way between two")
	assert.InDelta(t, 0.45, m.Opacity(0.3, 0.4, 2), 1e-2, "seen small it is their mean")
	assert.InDelta(t, 0.6+0.5*(0.45-0.6), m.Opacity(0.75, 0.75, float32(math.Sqrt2)), 1e-2, "and between those")
	m.Sheer = Sheer{Blend: true, Through: 0.5}
	assert.InDelta(t, 0.3, m.Opacity(0.75, 0.75, 1), 1e-6)

	for i := 3; i < 16; i += 4 {
		pix[i] = 255
	}
	whole, err := NewTexture(2, 2, pix)
	require.NoError(t, err)
	for _, c := range []struct {
		m    *Mesh
		want bool
	}{
		{&Mesh{Texture: x}, false}, {&Mesh{Texture: whole, Sheer: Sheer{Cut: 0.5}}, false}, {&Mesh{Sheer: Sheer{Blend: true}}, false},
		{&Mesh{Sheer: Sheer{Blend: true, Through: 0.1}}, true}, {&Mesh{Texture: x, Sheer: Sheer{Blend: true}}, true}, {&Mesh{Sheer: Sheer{Cut: 1.5}}, true},
	} {
		assert.Equal(t, c.want, c.m.Clear(), "%+v", c.m.Sheer)
	}
}

func TestTexturesGetCoarserWithoutSteps(t *testing.T) {
	// Stripes of 8 texels: as long as a pixel covers one, they are as they are; from 16 on
	// they are grey, and in between no small step of the size is a large one of the colour.
	pix := make([]uint8, 4*64*64)
	for i := range pix {
		pix[i] = uint8(255 * (i / 4 % 64 / 8 % 2))
	}
	x, err := NewTexture(64, 64, pix)
	require.NoError(t, err)
	const u = 12. / 64 // the middle of a white one
	assert.Equal(t, [3]float32{1, 1, 1}, x.At(u, 0.5, 1))
	before := x.At(u, 0.5, 0.5)[0]
	for size := float32(0.5); size < 200; size *= 1.01 {
		now := x.At(u, 0.5, size)[0]
		assert.InDelta(t, before, now, 0.02, "%v texels", size)
		assert.LessOrEqual(t, now, before+0.001)
		before = now
		if size > 16.1 {
			assert.InDelta(t, 0.5, now, 0.01, "%v texels", size)
		}
	}
	// Halfway between two halvings it is halfway between their colours.
	four, eight := x.At(u, 0.5, 4)[0], x.At(u, 0.5, 8)[0]
	assert.InDelta(t, (four+eight)/2, x.At(u, 0.5, 4*math.Sqrt2)[0], 1e-6)
}

// TestTexturesEndOrGoOn: at its left edge one that repeats is between both ends, and one
// that ends is not.
func TestTexturesEndOrGoOn(t *testing.T) {
	pix := []byte{0, 0, 0, 255, 255, 255, 255, 255}
	goesOn, err := NewTexture(2, 1, pix)
	require.NoError(t, err)
	ends, err := NewTexture(2, 1, pix)
	require.NoError(t, err)
	ends.End()
	assert.InDelta(t, 0.5, goesOn.At(0, 0.5, 1)[0], 1e-6)
	for u, want := range map[float32]float32{-0.2: 0, 0: 0, 0.25: 0, 0.5: 0.5, 0.75: 1, 1: 1, 1.3: 1} {
		assert.InDelta(t, want, ends.At(u, 0.5, 1)[0], 1e-6, "at %v", u)
	}
}
