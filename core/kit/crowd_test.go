package kit

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestCrowdsAreSimplePeople: a person of a crowd has the outline of a mannequin with a
// fraction of its triangles, and is of the place and variant only.
func TestCrowdsAreSimplePeople(t *testing.T) {
	mannequin := 0
	for j := range Joints {
		mannequin += len(Part(j, Figure{Height: 1}).Indices) / 3
	}
	for _, k := range []bystander{{"average", "short", false, 0}, {"elder", "long", false, 1}, {"child", "tied", true, 3}} {
		m := k.mesh()
		checkMesh(t, k.build, m)
		assert.Less(t, len(m.Indices)/3, mannequin/4, k.build)
		top := 1.0
		if k.sits {
			top = 1 - HipHeight + bystanderSeat + 0.055
		}
		assert.InDelta(t, top, m.Bounds.Max.Y, 0.07, k.build)
		assert.InDelta(t, 0, m.Bounds.Min.Y, 0.03, k.build)
	}
	params := func(people, seed float64) map[string]float64 {
		return map[string]float64{"people": people, "seed": seed, "width": 8, "depth": 4, "children": 0}
	}
	few, many := Build("standing", params(10, 1), "", nil), Build("standing", params(40, 1), "", nil)
	assert.InDelta(t, 4, float64(len(many.Indices))/float64(len(few.Indices)), 0.6)
	assert.Equal(t, few.Positions, Build("standing", params(10, 1), "", nil).Positions)
	assert.NotEqual(t, few.Positions, Build("standing", params(10, 2), "", nil).Positions)
	for _, m := range []*Mesh{few, many} {
		assert.Less(t, m.Bounds.Max.X, 4.6)
		assert.Greater(t, m.Bounds.Min.Z, -2.6)
		assert.InDelta(t, 1.7, m.Bounds.Max.Y, 0.2)
	}
	// Children are shorter; all of them are at 1.
	all := params(10, 1)
	all["children"] = 1
	assert.Less(t, Build("standing", all, "", nil).Bounds.Max.Y, 1.35)
}

func BenchmarkStandingCrowd(b *testing.B) {
	for b.Loop() {
		Build("standing", map[string]float64{"people": 100, "width": 20, "depth": 10}, "", nil)
	}
}
