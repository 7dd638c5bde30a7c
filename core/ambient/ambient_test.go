package ambient

import (
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func board(w, h, d float64) *kit.Mesh {
	return kit.Build("box", map[string]float64{"width": w, "height": h, "depth": d}, "", nil)
}

func at(x, y, z float64) geom.Mat4 { return geom.Translate(r3.Vec{X: x, Y: y, Z: z}) }

// sky is what a place of the world with a normal has of the sky.
func sky(f *Field, p, n r3.Vec) float64 {
	q := r3.Add(r3.Scale(1/f.Cell, r3.Sub(p, f.From)), r3.Scale(Step, n))
	return float64(f.Sky(float32(q.X), float32(q.Y), float32(q.Z)))
}

var up = r3.Vec{Y: 1}

func TestWhereThingsMeetThereIsLessSky(t *testing.T) {
	var f Field
	floor := Thing{board(30, 0.2, 30), at(0, -0.2, 0)}
	f.Set(r3.Vec{}, 16, []Thing{floor})
	require.InDelta(t, 32.0/Wide, f.Cell, 1e-12)
	for _, p := range []r3.Vec{{}, {X: 3.3, Z: 0.07}, {X: -7.21, Z: 5.5}} {
		assert.InDelta(t, 1, sky(&f, p, up), 1e-6, "an open floor")
	}
	wall := Thing{board(10, 4, 0.1), at(0, 0, 2)}
	f.Set(r3.Vec{}, 16, []Thing{floor, wall})
	last := 0.0
	for i, d := range []float64{0.03, 0.12, 0.25} { // before the wall
		v := sky(&f, r3.Vec{Z: 1.95 - d}, up)
		assert.Greater(t, v, last, "more of it farther from the wall")
		if last = v; i == 0 {
			assert.Less(t, v, 0.75)
			assert.InDelta(t, v, sky(&f, r3.Vec{Y: d, Z: 1.95}, r3.Vec{Z: -1}), 0.2, "about as dark on the wall as on the floor")
		}
	}
	assert.Equal(t, 1.0, sky(&f, r3.Vec{Z: 1.1}, up), "a metre away nothing is missing")
	assert.InDelta(t, 1, sky(&f, r3.Vec{Y: 2, Z: 1.95}, r3.Vec{Z: -1}), 0.02, "high up on a thin wall")
	assert.Equal(t, 1.0, sky(&f, r3.Vec{X: 99}, up), "outside of the box nothing is known")
}

// TestCountsForgetWhatWasThere moves things about and compares with a field that only
// knows how they stand in the end.
func TestCountsForgetWhatWasThere(t *testing.T) {
	shapes := []*kit.Mesh{board(1, 1, 1), board(40, 0.1, 40), kit.Build("conifer", nil, "", nil), board(300, 1, 300)}
	rapid.Check(t, func(t *rapid.T) {
		thing := rapid.Custom(func(t *rapid.T) Thing {
			if rapid.IntRange(0, 5).Draw(t, "gone") == 0 {
				return Thing{}
			}
			c := func(name string) float64 { return rapid.Float64Range(-14, 14).Draw(t, name) }
			m := geom.PanTiltRoll(c("pan")*20, c("tilt"), 0)
			return Thing{rapid.SampledFrom(shapes).Draw(t, "shape"), m.At(r3.Vec{X: c("x"), Y: c("y") / 4, Z: c("z")})}
		})
		var moved, fresh Field
		var things []Thing
		for range rapid.IntRange(1, 4).Draw(t, "changes") {
			things = rapid.SliceOfN(thing, 0, 4).Draw(t, "things")
			moved.Set(r3.Vec{}, 15, things)
		}
		fresh.Set(r3.Vec{}, 15, things)
		if string(moved.Bytes) != string(fresh.Bytes) {
			t.Fatalf("not the same bytes")
		}
		for i, v := range fresh.loud {
			if v != moved.loud[i] {
				t.Fatalf("brick %d: %v, fresh %v", i, moved.loud[i], v)
			}
		}
		// What is said to be quiet is not darkened anywhere.
		for range 20 {
			var lo, hi, p [3]float32
			for k, n := range [3]float32{Wide, High, Wide} {
				lo[k] = rapid.Float32Range(-3, n).Draw(t, "from")
				hi[k] = lo[k] + rapid.Float32Range(0, 7).Draw(t, "size")
				p[k] = lo[k] + (hi[k]-lo[k])*rapid.Float32Range(0, 1).Draw(t, "at")
			}
			if s := fresh.Sky(p[0], p[1], p[2]); fresh.Quiet(lo, hi) && s < 1 {
				t.Fatalf("%v is quiet and has %v", p, s)
			}
		}
	})
}

func TestVersionsTellWhenSomethingHasChanged(t *testing.T) {
	var f, other Field
	things := []Thing{{board(1, 1, 1), at(0, 0, 0)}, {board(1, 1, 1), at(4, 0, 0)}}
	last := 0
	changed := func() bool {
		was := last
		last = f.Version
		return last != was
	}
	f.Set(r3.Vec{}, 15, things)
	assert.True(t, changed())
	f.Set(r3.Vec{}, 15, things)
	assert.False(t, changed())
	other.Set(r3.Vec{}, 15, things)
	assert.NotEqual(t, f.Version, other.Version, "who knows one does not know the other")
	f.Set(r3.Vec{}, 15, append([]Thing{}, Thing{board(1, 1, 1), at(500, 0, 0)}, things[1]))
	assert.True(t, changed(), "one is gone")
	f.Set(r3.Vec{X: 2}, 15, things)
	assert.True(t, changed(), "the box is another one")
	f.Set(r3.Vec{X: 300}, 15, things)
	assert.True(t, changed(), "and another one with nothing in it")
	f.Set(r3.Vec{}, 0, things)
	assert.False(t, changed(), "there is no box")
	f.Set(r3.Vec{X: 2}, 15, nil)
	for _, b := range f.Bytes {
		require.Zero(t, b)
	}
}

func TestPlacesStandForAllOfASurface(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := func() r3.Vec {
			c := func() float64 { return rapid.Float64Range(-3, 3).Draw(t, "c") }
			return r3.Vec{X: c(), Y: c(), Z: c()}
		}
		a, b, c := p(), p(), p()
		want := r3.Norm(r3.Cross(r3.Sub(b, a), r3.Sub(c, a))) / 2
		sum, middle, n := 0.0, r3.Vec{}, 0
		each(a, b, c, 0.3, func(at r3.Vec, area float64) {
			sum += area
			middle = r3.Add(middle, r3.Scale(area, at))
			n++
		})
		if want < 1e-6 {
			return
		}
		if math.Abs(sum-want) > 1e-9*want {
			t.Fatalf("area %v, want %v", sum, want)
		}
		centre := r3.Scale(1.0/3, r3.Add(a, r3.Add(b, c)))
		if d := r3.Norm(r3.Sub(r3.Scale(1/sum, middle), centre)); d > 0.5 {
			t.Fatalf("the middle is %v aside", d)
		}
		if n > 40+int(want/0.02) {
			t.Fatalf("%d places for %v m²", n, want)
		}
	})
	// Cut to a box, a triangle larger than it covers the box's middle plane whole.
	box := geom.Box{Min: r3.Vec{X: -1, Y: -1, Z: -1}, Max: r3.Vec{X: 1, Y: 1, Z: 1}}
	poly := within([]r3.Vec{{X: -100, Z: -100}, {X: 100, Z: -100}, {Z: 200}}, nil, &box)
	area := 0.0
	for k := 2; k < len(poly); k++ {
		area += r3.Norm(r3.Cross(r3.Sub(poly[k-1], poly[0]), r3.Sub(poly[k], poly[0]))) / 2
	}
	assert.InDelta(t, 4, area, 1e-9)
	assert.Empty(t, within([]r3.Vec{{X: 5}, {X: 6}, {X: 5, Y: 1}}, nil, &box))
}

func TestBrokenMeshesCountForNothing(t *testing.T) {
	nan := float32(math.NaN())
	m := &kit.Mesh{Positions: []float32{nan, 0, 0, 1, nan, 0, 0, 1, 1, 0, 0, 0, 0, 0, 0, 1, 1, 1}, Indices: []uint32{0, 1, 2, 3, 4, 5}}
	m.Bounds = geom.Box{Min: r3.Vec{}, Max: r3.Vec{X: 1, Y: 1, Z: 1}}
	var f Field
	f.Set(r3.Vec{}, 15, []Thing{{m, at(0, 0, 0)}, {m, geom.Mat4{}}})
	for _, b := range f.Bytes {
		require.Zero(t, b)
	}
}

func TestShapesThatAreGoneAreForgotten(t *testing.T) {
	var f Field
	for i := range 400 { // a shape is dragged: each preview has a mesh of its own
		m := *board(1, 1, 1)
		f.Set(r3.Vec{}, 15, []Thing{{&m, at(float64(i%3), 0, 0)}})
		require.LessOrEqual(t, len(f.places), 1+spare)
	}
}

func BenchmarkMoving(b *testing.B) {
	var f Field
	things := []Thing{{board(30, 0.2, 30), at(0, -0.2, 0)}, {kit.Build("conifer", nil, "", nil), at(3, 0, 0)}, {board(1, 2, 1), at(0, 0, 0)}}
	for i := 0; b.Loop(); i++ {
		things[2].World = at(float64(i%50)/10, 0, 0)
		f.Set(r3.Vec{}, 15, things)
	}
}
