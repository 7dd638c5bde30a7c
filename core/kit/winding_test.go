package kit

import (
	"testing"

	"proscen/core/curve"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// TestStockIsWoundOutward: triangles are wound counter-clockwise seen from where their normals
// point, as the viewport takes their outside, and that is away from what they enclose: what
// each encloses with the middle of the box adds up to no volume that is negative.
func TestStockIsWoundOutward(t *testing.T) {
	line, err := curve.NewPath(curve.Straight, []r3.Vec{{}, {X: 4}}, false)
	require.NoError(t, err)
	for _, s := range Shelf {
		m := Build(s.ID, nil, "#808080", line)
		if m == nil {
			continue
		}
		v := func(of []float32, i uint32) r3.Vec {
			return r3.Vec{X: float64(of[3*i]), Y: float64(of[3*i+1]), Z: float64(of[3*i+2])}
		}
		right, wrong, volume := 0.0, 0.0, 0.0
		middle := m.Bounds.Center()
		for i := 0; i+2 < len(m.Indices); i += 3 {
			a, b, c := m.Indices[i], m.Indices[i+1], m.Indices[i+2]
			out := r3.Cross(r3.Sub(v(m.Positions, b), v(m.Positions, a)), r3.Sub(v(m.Positions, c), v(m.Positions, a)))
			volume += r3.Dot(r3.Sub(v(m.Positions, a), middle), out) / 6
			n := r3.Add(v(m.Normals, a), r3.Add(v(m.Normals, b), v(m.Normals, c)))
			if r3.Dot(out, n) >= 0 {
				right += r3.Norm(out)
			} else {
				wrong += r3.Norm(out)
			}
		}
		size := r3.Sub(m.Bounds.Max, m.Bounds.Min)
		assert.Greater(t, volume, -0.02*size.X*size.Y*size.Z, s.ID) // strips on the ground enclose none
		assert.LessOrEqual(t, wrong, 0.001*(right+wrong), s.ID)
	}
}
