package geom

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// soup draws triangles with corners on a coarse grid, so that many touch.
func soup(t *rapid.T) ([]float32, []uint32) {
	n := rapid.IntRange(1, 60).Draw(t, "triangles")
	var pos []float32
	var idx []uint32
	for i := range 3 * n {
		for range 3 {
			pos = append(pos, float32(rapid.IntRange(-8, 8).Draw(t, "c"))/2)
		}
		idx = append(idx, uint32(i))
	}
	return pos, idx
}

func TestTreeFindsWhatTryingAllFinds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		pos, idx := soup(t)
		tree := NewTree(pos, idx)
		f := func(n string) float64 { return rapid.Float64Range(-6, 6).Draw(t, n) }
		r := Ray{r3.Vec{X: f("x"), Y: f("y"), Z: f("z")}, r3.Vec{X: f("dx"), Y: f("dy"), Z: f("dz")}}
		best, found := 50.0, false
		for k := range len(idx) / 3 {
			if d, ok := tree.meets(int32(k), r); ok && d < best {
				best, found = d, true
			}
		}
		d, _, ok := tree.Hit(r, 50)
		if ok != found || ok && math.Abs(d-best) > 1e-9 {
			t.Fatalf("tree says %v at %v, trying all says %v at %v", ok, d, found, best)
		}
	})
}

func TestTreeByHand(t *testing.T) {
	// A square of two metres at height 3, seen from below and from above.
	pos := []float32{-1, 3, -1, 1, 3, -1, 1, 3, 1, -1, 3, 1}
	tree := NewTree(pos, []uint32{0, 2, 1, 0, 3, 2})
	d, tri, ok := tree.Hit(Ray{r3.Vec{X: 0.5, Z: 0.2}, r3.Vec{Y: 1}}, 10)
	assert.True(t, ok)
	assert.InDelta(t, 3, d, 1e-9)
	assert.Equal(t, r3.Vec{Y: 1}, tree.Normal(tri))
	_, _, ok = tree.Hit(Ray{r3.Vec{X: 0.5, Y: 9}, r3.Vec{Y: -1}}, 5.9)
	assert.False(t, ok, "it lies beyond the limit")
	_, _, ok = tree.Hit(Ray{r3.Vec{X: 1.5}, r3.Vec{Y: 1}}, 10)
	assert.False(t, ok, "it passes beside")
	_, _, ok = NewTree(nil, nil).Hit(Ray{Dir: r3.Vec{Y: 1}}, 10)
	assert.False(t, ok)
}

func BenchmarkTreeHit(b *testing.B) {
	const side = 100
	var pos []float32
	var idx []uint32
	for z := range side + 1 {
		for x := range side + 1 {
			pos = append(pos, float32(x), float32(math.Sin(float64(x*7+z*3))), float32(z))
		}
	}
	for z := range uint32(side) {
		for x := range uint32(side) {
			k := z*(side+1) + x
			idx = append(idx, k, k+side+1, k+1, k+1, k+side+1, k+side+2)
		}
	}
	tree := NewTree(pos, idx)
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		tree.Hit(Ray{r3.Vec{X: float64(i%97) + 0.3, Y: 5, Z: float64(i%89) + 0.6}, r3.Vec{Y: -1}}, 10)
	}
}
