package curve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func TestSimplifyKeepsCornersAndEnds(t *testing.T) {
	line := []r3.Vec{{}, {X: 1}, {X: 2}, {X: 3}, {X: 3, Z: 1}, {X: 3, Z: 2}, {X: 3, Z: 3}}
	assert.Equal(t, []r3.Vec{{}, {X: 3}, {X: 3, Z: 3}}, Simplify(line, 0.1))
	assert.Equal(t, []r3.Vec{{}, {X: 3, Z: 3}}, Simplify(line, 5))
	assert.Len(t, Simplify(line[:2], 1), 2)
	closed := []r3.Vec{{}, {X: 2}, {X: 2, Z: 2}, {}}
	assert.Len(t, Simplify(closed, 0.5), 4, "a line back to its start keeps what lies between")
}

func TestSimplifiedLinesStayNear(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(3, 60).Draw(t, "points")
		line := make([]r3.Vec, n)
		for i := range line {
			line[i] = r3.Vec{X: rapid.Float64Range(-9, 9).Draw(t, "x"), Y: rapid.Float64Range(0, 2).Draw(t, "y"), Z: rapid.Float64Range(-9, 9).Draw(t, "z")}
		}
		tolerance := rapid.Float64Range(0.01, 3).Draw(t, "tolerance")
		kept := Simplify(line, tolerance)
		if kept[0] != line[0] || kept[len(kept)-1] != line[n-1] {
			t.Fatal("the ends have moved")
		}
		k := 0
		for _, p := range line {
			if k < len(kept)-1 && p == kept[k+1] {
				k++
			}
			near := fromLine(p, kept[k], kept[min(k+1, len(kept)-1)])
			if near > tolerance+1e-9 {
				t.Fatalf("a point lies %v away", near)
			}
		}
	})
}
