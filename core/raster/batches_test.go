package raster

import (
	"image"
	"math"
	"sync/atomic"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func TestExtentsHoldAllThatABoxShows(t *testing.T) {
	const w, h = 320, 180
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		away := math.Pow(10, f("far from the origin", 0, 4))
		v := View{World: geom.PanTiltRoll(f("pan", -180, 180), f("tilt", -80, 80), f("roll", -20, 20)).At(r3.Vec{X: away, Y: f("y", -5, 5), Z: -away}), HFov: 50, VFov: 30}
		project := projection(&v, w, h)
		in := v.World.Point(r3.Vec{X: f("right", -6, 6), Y: f("up", -4, 4), Z: f("ahead", -30, 4)})
		world := geom.PanTiltRoll(f("turn", -180, 180), 0, 0).At(in)
		size := r3.Vec{X: f("wide", 0, 5), Y: f("high", 0, 5), Z: f("deep", 0, 5)}
		box := geom.Box{Min: r3.Scale(-0.5, size), Max: r3.Scale(0.5, size)}
		var p placed
		p.set(&world, &project)
		e := p.extent(box, w, h)
		for range 40 {
			at := p.at(float32(f("x", -0.5, 0.5)*size.X), float32(f("y", -0.5, 0.5)*size.Y), float32(f("z", -0.5, 0.5)*size.Z))
			if e.all {
				require.Greater(t, at.w, float32(nearClip*0.99))
			}
			if at.w < nearClip {
				continue
			}
			x, y := float64(at.x/at.w), float64(at.y/at.w)
			if x < 0 || y < 0 || x >= w || y >= h {
				continue
			}
			require.False(t, e.none, "a place at %v, %v shows", x, y)
			require.LessOrEqual(t, 1/at.w, e.near)
			require.True(t, int32(x) >= e.x0 && int32(x) <= e.x1 && int32(y) >= e.y0 && int32(y) <= e.y1, "%v, %v lies beside %v", x, y, e)
		}
	})
}

func TestSpansReachIntoWhatTheyOverlap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) (x0, y0, x1, y1 int32) {
			n := rapid.Int32Range(0, MaxSide-1)
			x0, y0 = n.Draw(t, name), n.Draw(t, name)
			return x0, y0, min(MaxSide-1, x0+rapid.Int32Range(0, 99).Draw(t, name)), min(MaxSide-1, y0+n.Draw(t, name))
		}
		ax0, ay0, ax1, ay1 := draw("one")
		bx0, by0, bx1, by1 := draw("other")
		want := ax0 <= bx1 && bx0 <= ax1 && ay0 <= by1 && by0 <= ay1
		require.Equal(t, want, spanOf(ax0, ay0, ax1, ay1).into(reaching(bx0, by0, bx1, by1)))
	})
}

// ready counts the batches of the last frame that were set up.
func (r *Renderer) readyBatches() (n int) {
	for i := range r.batches {
		if r.batches[i].ready.Load() {
			n++
		}
	}
	return n
}

func TestWhatIsHiddenIsNotSetUp(t *testing.T) {
	wall := sheet(-9, -9, 9, 9, -2, glow(0.1, 0, 0))
	in := &Input{View: view(60, 45), Draws: []Draw{{Mesh: wall, World: geom.Identity}}}
	for i := range 20 {
		in.Draws = append(in.Draws, Draw{Mesh: ball(0.5, 24), World: geom.Translate(r3.Vec{X: float64(i%5) - 2, Y: float64(i/5) - 2, Z: -6})})
	}
	img := image.NewRGBA(image.Rect(0, 0, 320, 240))
	r, err := New(320, 240, 2)
	require.NoError(t, err)
	require.NoError(t, r.Render(in, img))
	all := 1 + 20*len(in.Draws[1].Mesh.Clusters())
	assert.Len(t, r.batches, all, "all of them may be seen by their places")
	assert.Equal(t, 1, r.readyBatches(), "but the wall is before them")
	in.Draws[0].World = geom.Translate(r3.Vec{X: 100})
	require.NoError(t, r.Render(in, img))
	assert.Equal(t, all-1, r.readyBatches(), "without it they are seen")
}

func TestOfTheSameDepthTheFirstOfAMeshIsSeen(t *testing.T) {
	// Sheets in one plane, in one mesh of more than a cluster: wherever the camera stands,
	// and in whatever order clusters come, the red ones are first and are seen.
	var tris [][3]r3.Vec
	var colors []kit.Color
	for _, c := range []kit.Color{glow(0.3, 0, 0), glow(0, 0.3, 0)} {
		for i := range 100 {
			x := float64(i%10) - 5
			y := float64(i/10) - 5
			a, b, e, d := r3.Vec{X: x, Y: y, Z: -8}, r3.Vec{X: x + 1, Y: y, Z: -8}, r3.Vec{X: x + 1, Y: y + 1, Z: -8}, r3.Vec{X: x, Y: y + 1, Z: -8}
			tris, colors = append(tris, [3]r3.Vec{a, b, e}, [3]r3.Vec{a, e, d}), append(colors, c, c)
		}
	}
	mesh := flatMesh(tris, colors)
	require.Greater(t, len(mesh.Clusters()), 4)
	for _, x := range []float64{-3, 0, 3} {
		v := view(60, 45)
		v.World = geom.Translate(r3.Vec{X: x})
		img := picture(t, &Input{View: v, Draws: []Draw{{Mesh: mesh, World: geom.Identity}}}, 160, 120, 2)
		assert.Equal(t, toned(0.48), img.RGBAAt(80, 60).R)
		for i := 0; i < len(img.Pix); i += 4 {
			require.Zero(t, img.Pix[i+1], "pixel %d from %v", i/4, x)
		}
	}
}

func TestHugeTrianglesAtACornerOfThePicture(t *testing.T) {
	// A triangle that is larger than the picture, by so much that one of its sides, which is far
	// away, does not fit into 32 bits, and of which only the last seven pixels at a
	// corner are in the picture.
	const side = 1024
	at := func(px, py float64) r3.Vec { // at 90° and depth 4, half the picture is 4 m
		return r3.Vec{X: (px - side/2) / (side / 2) * 4, Y: (side/2 - py) / (side / 2) * 4, Z: -4}
	}
	mesh := flatMesh([][3]r3.Vec{{at(side-7, side-7), at(side-7, side-7+1254), at(side-7+1254, side-7)}}, []kit.Color{glow(1, 1, 1)})
	img := picture(t, &Input{View: view(90, 90), Draws: []Draw{{Mesh: mesh, World: geom.Identity}}}, side, side, 1)
	for y := side - 20; y < side; y++ {
		for x := side - 20; x < side; x++ {
			want := uint8(0)
			if x >= side-7 && y >= side-7 {
				want = toned(1.6)
			}
			require.Equal(t, want, img.RGBAAt(x, y).R, "pixel %d %d", x, y)
		}
	}
}

func TestTooManyBatchesAreRefused(t *testing.T) {
	in := litScene()
	r, err := New(64, 64, 2)
	require.NoError(t, err)
	r.most = 1
	err = r.Render(in, image.NewRGBA(image.Rect(0, 0, 64, 64)))
	require.ErrorIs(t, err, ErrCrowded)
	assert.ErrorContains(t, err, "hide something")
	r.most = mostBatches
	require.NoError(t, r.Render(in, image.NewRGBA(image.Rect(0, 0, 64, 64))), "and may be tried again")
}

func TestAllItemsAreDoneOnce(t *testing.T) {
	for _, threads := range []int{1, 2, 3, 16} {
		r, err := New(16, 16, threads)
		require.NoError(t, err)
		r.crew = newCrew(threads)
		for _, items := range []int{0, 1, 2, 7, 1000} {
			done, wrong := make([]atomic.Int32, items), atomic.Int32{}
			r.parallel(items, func(worker, item int) {
				if worker < 0 || worker >= threads {
					wrong.Add(1)
				}
				done[item].Add(1)
			})
			for i := range done {
				require.EqualValues(t, 1, done[i].Load(), "item %d of %d with %d threads", i, items, threads)
			}
			require.Zero(t, wrong.Load())
		}
		r.crew.over.Store(true)
	}
}

func TestRoomsStayWhereTheyAre(t *testing.T) {
	var s store[int]
	var first []int
	for k := range 3 * roomSize / 100 {
		room := append(s.room(100), k, k)
		s.keep(2)
		if k == 0 {
			first = room
		}
		require.Equal(t, []int{0, 0}, first)
	}
	s.forget()
	require.Same(t, &first[0], &append(s.room(1), 5)[0], "what is forgotten is used again")
}
