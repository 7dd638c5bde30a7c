package kit

import (
	"slices"
	"testing"

	"proscen/core/geom"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// leafBounds are around the leaves of a stand-in that is open so far.
func leafBounds(id string, by float64) geom.Box {
	out := geom.EmptyBox()
	for _, l := range Leaves(id, nil, "") {
		world, b := l.Opened(by), l.Mesh().Bounds
		for i := range 8 {
			out = out.Add(world.Point(b.Corner(i)))
		}
	}
	return out
}

func TestLeavesCloseWhatTheyStandBefore(t *testing.T) {
	for id, o := range Opens {
		s, ok := Find(id)
		require.True(t, ok, id)
		i := slices.IndexFunc(s.Params, func(p Param) bool { return p.Name == o.Param })
		require.GreaterOrEqual(t, i, 0, id)
		assert.Equal(t, o.Wide, o.Held(id, o.Wide), "%s opens as far as it says", id)
		leaves := Leaves(id, nil, "#336699")
		require.NotEmpty(t, leaves, id)
		for _, l := range leaves {
			checkMesh(t, id, l.Mesh())
			assert.Greater(t, facing(l.Mesh()), 0.999, id)
		}
		// Closed, they stand out of it by no more than a board and a handle.
		whole, shut := Build(id, nil, "", nil).Bounds, leafBounds(id, 0)
		for _, way := range []r3.Vec{vec(1, 0, 0), vec(0, 1, 0), vec(0, 0, 1)} {
			assert.LessOrEqual(t, r3.Dot(way, shut.Max), r3.Dot(way, whole.Max)+0.09, id)
			assert.GreaterOrEqual(t, r3.Dot(way, shut.Min), r3.Dot(way, whole.Min)-0.09, id)
		}
		// Opened, they reach further, and their hinges stay.
		wide := leafBounds(id, o.Wide)
		assert.Greater(t, r3.Norm(r3.Sub(wide.Max, shut.Max))+r3.Norm(r3.Sub(wide.Min, shut.Min)), 0.1, id)
		for _, l := range leaves {
			if l.Slide == (r3.Vec{}) {
				assert.Equal(t, l.At, new(l.Opened(o.Wide)).Point(r3.Vec{}), id)
			}
		}
		// How far something is open is no matter of the mesh that stays.
		assert.Equal(t, Key(id, nil, ""), Key(id, map[string]float64{o.Param: o.Wide}, ""), id)
	}
}

// TestWhichWayLeavesOpen, each seen from the front of its stand-in.
func TestWhichWayLeavesOpen(t *testing.T) {
	corner := func(id string, leaf int, by float64, at r3.Vec) r3.Vec {
		l := Leaves(id, nil, "")[leaf]
		m := l.Opened(by)
		return m.Point(at)
	}
	near := func(want, got r3.Vec, what string) { assert.InDelta(t, 0, r3.Norm(r3.Sub(want, got)), 1e-9, what) }
	// A cupboard of 1.1 by 0.5 m: hinges 3 cm inside its edges, both doors swing to −Z.
	near(vec(-0.52, 0, -0.75), corner("cupboard", 0, 90, vec(0.5, 0, 0)), "left")
	near(vec(0.52, 0, -0.75), corner("cupboard", 1, 90, vec(-0.5, 0, 0)), "right")
	// A crate of 0.6 by 0.6 m: the front edge of the lid goes straight up over the back one.
	near(vec(0, 0.575+0.6, 0.3), corner("crate", 0, 90, vec(0, 0, -0.6)), "lid")
	// A case that stands: the lid comes down to the front.
	near(vec(0, 0, -0.15*0.07-0.32), corner("case", 0, 90, vec(0, 0.32, 0)), "case")
	// A cabin of 2.1 m: both slide, away from each other.
	near(vec(-1.1, 0, -0.3), corner("cabin", 0, 0.3, r3.Vec{}), "to the front")
	near(vec(-1.1, 0, 0.3), corner("cabin", 1, 0.3, r3.Vec{}), "to the back")
	// A car: above 0 the left door, to −X, below the right one.
	assert.Less(t, corner("car", 0, 60, vec(0, 0, 1)).X, -1.5)
	assert.InDelta(t, 0.875, corner("car", 1, 60, vec(0, 0, 1)).X, 1e-9)
	assert.Greater(t, corner("car", 1, -60, vec(0, 0, 1)).X, 1.5)
	assert.InDelta(t, -0.875, corner("car", 0, -60, vec(0, 0, 1)).X, 1e-9)
	// A van's rear doors swing out behind it.
	for leaf, s := range []float64{1, -1} {
		assert.Greater(t, corner("van", leaf, 90, vec(s*0.5, 0, 0)).Z, 5.1/2+0.4)
	}
	assert.Equal(t, 170.0, Opens["cupboard"].Held("cupboard", 400))
	assert.Zero(t, Opens["cupboard"].Held("cupboard", -20))
	_, can := Opened("bench", nil)
	assert.False(t, can)
	assert.Nil(t, Leaves("bench", nil, ""))
}
