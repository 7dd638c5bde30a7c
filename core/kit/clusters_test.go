package kit

import (
	"math"
	"testing"

	"proscen/core/geom"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

// soup is a mesh of random triangles, some of which share vertices.
func soup(t *rapid.T) *Mesh {
	m := &Mesh{}
	vertices := rapid.IntRange(3, 400).Draw(t, "vertices")
	for range 3 * vertices {
		m.Positions = append(m.Positions, rapid.Float32Range(-50, 50).Draw(t, "at"))
	}
	for range 3 * rapid.IntRange(0, 500).Draw(t, "triangles") {
		m.Indices = append(m.Indices, uint32(rapid.IntRange(0, vertices-1).Draw(t, "corner")))
	}
	return m
}

func TestClustersHoldEachTriangleOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := soup(t)
		seen := map[uint32]bool{}
		for i := range m.Clusters() {
			c := &m.Clusters()[i]
			require.NotEmpty(t, c.Triangles)
			require.LessOrEqual(t, len(c.Triangles), ClusterSize)
			vertices := map[uint32]bool{}
			for k, v := range c.Vertices {
				require.False(t, vertices[v], "vertex %d is there twice", v)
				vertices[v] = true
				at := vertex(m.Positions, v)
				require.Equal(t, c.Box, c.Box.Add(at), "the box holds it")
				require.Equal(t, at, r3.Vec{X: float64(c.Places[0][k]), Y: float64(c.Places[1][k]), Z: float64(c.Places[2][k])})
			}
			require.Zero(t, len(c.Places[0])%PlaceRun)
			for _, tr := range c.Triangles {
				require.False(t, seen[tr.First])
				seen[tr.First] = true
				for corner, local := range tr.Corners {
					require.Equal(t, m.Indices[int(tr.First)+corner], c.Vertices[local])
				}
			}
		}
		require.Len(t, seen, len(m.Indices)/3)
	})
}

func TestClustersAreCompact(t *testing.T) {
	// A floor of 64 × 64 squares, row by row: runs of its own order would be strips two rows
	// high at most; clusters of 32 squares that follow the curve are about as deep as wide.
	m := &Mesh{}
	const n = 64
	for z := range n + 1 {
		for x := range n + 1 {
			m.Positions = append(m.Positions, float32(x), 0, float32(z))
		}
	}
	for z := range uint32(n) {
		for x := range uint32(n) {
			a := z*(n+1) + x
			m.Indices = append(m.Indices, a, a+n+1, a+1, a+1, a+n+1, a+n+2)
		}
	}
	clusters := m.Clusters()
	require.Len(t, clusters, n*n*2/ClusterSize)
	area := 0.0
	for _, c := range clusters {
		size := r3.Sub(c.Box.Max, c.Box.Min)
		area += size.X * size.Z
		assert.LessOrEqual(t, math.Max(size.X, size.Z), 16.0)
	}
	assert.Less(t, area, 1.5*n*n, "their boxes hardly overlap")
}

func TestClustersFollowVerticesThatMove(t *testing.T) {
	m := &Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Indices: []uint32{0, 1, 2}}
	c := &m.Clusters()[0]
	m.Positions[4] = -7
	assert.Equal(t, geom.Box{Min: r3.Vec{Y: -7}, Max: r3.Vec{X: 1, Y: 1}}, c.Bounds(m.Positions))
	assert.Equal(t, geom.Box{Max: r3.Vec{X: 1, Y: 1}}, c.Box)
	var rows [3][]float32
	for k := range rows {
		rows[k] = make([]float32, 3)
	}
	c.Where(m.Positions, &rows)
	assert.Equal(t, [3][]float32{{0, 1, 0}, {0, -7, 1}, {0, 0, 0}}, rows)
	bent := &Mesh{Positions: []float32{5, 0, 0, 6, 0, 0, 5, 1, 0}, Indices: m.Indices, Form: m}
	assert.Same(t, c, &bent.Clusters()[0], "a copy has the clusters of its form")
}

func TestTrianglesWithACornerNowhereAreInNoCluster(t *testing.T) {
	nan, inf := float32(math.NaN()), float32(math.Inf(1))
	m := &Mesh{Positions: []float32{nan, 0, 0, 1, -inf, inf, 0, 1, 0, 1, 1, 1, 2, 1, 0}}
	for range 100 {
		m.Indices = append(m.Indices, 0, 2, 3, 2, 3, 4, 1, 2, 4)
	}
	total := 0
	for _, c := range m.Clusters() {
		for _, tr := range c.Triangles {
			assert.EqualValues(t, 1, tr.First/3%3)
			total++
		}
		assert.Equal(t, geom.Box{Min: r3.Vec{Y: 1}, Max: r3.Vec{X: 2, Y: 1, Z: 1}}, c.Box)
	}
	assert.Equal(t, 100, total)
	assert.Empty(t, (&Mesh{}).Clusters())
	assert.Empty(t, (&Mesh{Positions: m.Positions, Indices: []uint32{0, 1, 2}}).Clusters())
}
