package compose

import (
	"math"
	"testing"

	"proscen/core/geom"
	"proscen/core/motion"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// van is two metres wide, two high and five long, on the floor at a place.
func van(x, z, pan float64) Thing {
	turn := geom.RotateY(pan)
	return Thing{Axes: turn.At(r3.Vec{X: x, Z: z}), Box: geom.Box{Min: r3.Vec{X: -1, Z: -2.5}, Max: r3.Vec{X: 1, Y: 2, Z: 2.5}}}
}

func wishOf(t Thing, s Size, a Angle, around float64, l Lens) Wish {
	return Wish{Subjects: []motion.Figure{t.Figure(0, "Van")}, Thing: &t, Size: s, Angle: a, Around: around, Lens: l}
}

func TestAFullShotOfAVanByHand(t *testing.T) {
	// From the side with 50 mm on 36 x 20.25 mm. Five metres are wider in 16:9 than two are
	// high: a share of 0.91/1.04 of the width. Its near face, a metre before its middle, takes
	// 5 / (36/50·d) of the picture at d: d = 5·1.04/0.91/0.72 = 7.9365 m; the camera at 1.6 m
	// looks down to its middle at 1 m, so that the near upper edge is a little nearer.
	v := van(3, -4, 0)
	p, err := Place(wishOf(v, size(t, "full"), Eye, 90, lens(50)))
	require.NoError(t, err)
	assert.InDelta(t, 1+7.9365, p.At.X-3, 0.12, "its own right is +X")
	assert.InDelta(t, -4, p.At.Z, 1e-9)
	assert.InDelta(t, 1.6, p.At.Y, 1e-9, "at the height of somebody's eyes")
	assert.InDelta(t, 90, p.Pan, 1e-6)
	// A case of half a metre is looked at from its own height.
	small := Thing{Axes: geom.Identity, Box: geom.Box{Min: r3.Vec{X: -0.3, Z: -0.2}, Max: r3.Vec{X: 0.3, Y: 0.5, Z: 0.2}}}
	p, err = Place(wishOf(small, size(t, "full"), Eye, 0, lens(50)))
	require.NoError(t, err)
	assert.InDelta(t, 0.25, p.At.Y, 1e-9)
	// From above: 5 m along the height of the picture, 20.25/50 of the distance to its roof.
	p, err = Place(wishOf(v, size(t, "full"), Overhead, 0, lens(50)))
	require.NoError(t, err)
	assert.InDelta(t, 2+5*1.04/0.91/(20.25/50), p.At.Y, 1e-9)
	assert.InDelta(t, 0, math.Hypot(p.At.X-3, p.At.Z+4), 1e-9)
}

func TestAThingHasTheSizeThatWasAskedFor(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := van(rapid.Float64Range(-9, 9).Draw(t, "x"), 0, rapid.Float64Range(-180, 180).Draw(t, "pan"))
		s := rapid.SampledFrom(Sizes[2:]).Draw(t, "size")
		l := lens(rapid.Float64Range(18, 100).Draw(t, "focal"))
		around := rapid.Float64Range(-180, 180).Draw(t, "around")
		w := wishOf(v, s, rapid.SampledFrom([]Angle{Eye, Low, High}).Draw(t, "angle"), around, l)
		p, err := Place(w)
		require.NoError(t, err)
		c := view(p, l)
		require.InEpsilon(t, s.Statures(), v.Statures(&c), 1e-3, s.Name)
		x, y, depth := c.Project(v.Axes.Point(v.Box.Center()))
		require.Positive(t, depth)
		require.InDelta(t, 0, math.Hypot(x, y), 1e-6, "its middle is in the middle")
		if s.Statures() >= 1/fullShare {
			ex, ey := v.extent(&c)
			require.InDelta(t, 1/s.Statures(), max(ex, ey), 1e-6)
		}
		require.GreaterOrEqual(t, p.At.Y, lowest-1e-9, "over the floor")
		// The side is the subject's own.
		way := v.Axes.Inverse()
		from := way.Point(p.At)
		require.InDelta(t, 0, math.Remainder(geom.Degrees(math.Atan2(from.X, -from.Z))-around, 360), 1e-6)
	})
}

func TestSidesAreTheSubjectsOwn(t *testing.T) {
	for _, s := range Sides {
		arounds := s.Arounds()
		require.NotEmpty(t, arounds, s)
		for _, a := range arounds {
			assert.Equal(t, s, SideOf(a), "%v° is %s", a, s)
			assert.Equal(t, s, SideOf(a+720))
		}
		assert.Contains(t, arounds, -arounds[1], "from both hands")
	}
	assert.Empty(t, Side("back to front").Arounds())
	for _, a := range AnySide.Arounds() {
		assert.NotEmpty(t, SideOf(a))
	}
}

func TestAThingLeadsIntoItsPictureAndStaysInIt(t *testing.T) {
	v := van(0, 0, 0)
	w := wishOf(v, size(t, "wide"), Eye, 90, lens(35))
	w.X = LookingRoom(90, 0.34)
	p, err := Place(w)
	require.NoError(t, err)
	c := view(p, w.Lens)
	x, _, _ := c.Project(v.middle())
	assert.InDelta(t, -0.34, x, 1e-6, "from its right it looks to the right: it is to the left")
	w.Size = size(t, "full")
	p, err = Place(w)
	require.NoError(t, err)
	c = view(p, w.Lens)
	for k := range 8 {
		x, _, _ := c.Project(v.corner(k))
		assert.Less(t, math.Abs(x), 1.0, "there is no room for so much")
	}
}
