package kit

import (
	"slices"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// ClusterSize is how many triangles a cluster has at most.
const ClusterSize = 64

// Cluster is some triangles of a mesh that lie close together.
type Cluster struct {
	Triangles []ClusterTriangle
	Vertices  []uint32     // of the mesh, each once
	Places    [3][]float32 // x, y and z of the vertices where they were when the clusters were found, and 0 up to a whole number of PlaceRun
	Box       geom.Box     // that holds them there
}

// PlaceRun is how many places of a cluster can be read at once.
const PlaceRun = 8

// ClusterTriangle is a triangle of a cluster: where its indices begin in the mesh, and its
// corners by their numbers in the cluster.
type ClusterTriangle struct {
	First   uint32
	Corners [3]uint8
}

// Bounds returns the box that holds a cluster where the vertices of its mesh are now.
func (c *Cluster) Bounds(positions []float32) geom.Box {
	b := geom.EmptyBox()
	for _, v := range c.Vertices {
		b = b.Add(vertex(positions, v))
	}
	return b
}

// Where puts the places of the vertices of a mesh into rows of x, y and z.
func (c *Cluster) Where(positions []float32, to *[3][]float32) {
	x, y, z := to[0], to[1], to[2]
	for i, v := range c.Vertices {
		p := positions[3*v : 3*v+3 : 3*v+3]
		x[i], y[i], z[i] = p[0], p[1], p[2]
	}
}

// vertex returns where a vertex of a mesh is.
func vertex(positions []float32, v uint32) r3.Vec {
	p := positions[3*v : 3*v+3]
	return vec(float64(p[0]), float64(p[1]), float64(p[2]))
}

// Clusters returns the triangles of the mesh in clusters, but for those of which a corner is
// nowhere. They are found once: afterwards vertices may move, but no others may make the
// triangles. Copies have those of their form.
func (m *Mesh) Clusters() []Cluster {
	if m.Form != nil {
		return m.Form.Clusters()
	}
	m.clustered.Do(func() {
		order := m.order()
		n := len(order)
		count := (n + ClusterSize - 1) / ClusterSize
		m.clusters = make([]Cluster, count)
		local := make([]int32, len(m.Positions)/3) // the number of a vertex in the cluster at hand, and 1
		for k := range m.clusters {
			m.clusters[k] = m.cluster(order[n*k/count:n*(k+1)/count], local)
		}
	})
	return m.clusters
}

// cluster makes a cluster of some triangles.
func (m *Mesh) cluster(order []uint64, local []int32) (c Cluster) {
	c.Triangles = make([]ClusterTriangle, len(order))
	for i, o := range order {
		t := &c.Triangles[i]
		t.First = 3 * uint32(o)
		for k := range t.Corners {
			v := m.Indices[int(t.First)+k]
			if local[v] == 0 {
				c.Vertices = append(c.Vertices, v)
				local[v] = int32(len(c.Vertices))
			}
			t.Corners[k] = uint8(local[v] - 1)
		}
	}
	for _, v := range c.Vertices {
		local[v] = 0
	}
	c.Vertices = slices.Clip(c.Vertices)
	c.Box = c.Bounds(m.Positions)
	for axis := range c.Places {
		c.Places[axis] = make([]float32, (len(c.Vertices)+PlaceRun-1)/PlaceRun*PlaceRun)
	}
	c.Where(m.Positions, &c.Places)
	return c
}

// order returns the triangles so that what is close mostly follows each other: the lower
// half of each number says which, the upper half where its middle is on a curve that fills
// space, which are bits of the three axes in turns (G. M. Morton, 1966). What fits into one
// cluster stays as it is.
func (m *Mesh) order() []uint64 {
	const bits = 10
	box := geom.EmptyBox()
	order, middles := make([]uint64, 0, len(m.Indices)/3), make([]r3.Vec, 0, len(m.Indices)/3)
	for i := range len(m.Indices) / 3 {
		var sum r3.Vec
		for _, v := range m.Indices[3*i : 3*i+3] {
			sum = r3.Add(sum, vertex(m.Positions, v))
		}
		if all := sum.X + sum.Y + sum.Z; all-all != 0 { // not a number, or endless
			continue
		}
		order, middles = append(order, uint64(i)), append(middles, sum)
		box = box.Add(sum)
	}
	if len(order) <= ClusterSize {
		return order
	}
	size := r3.Sub(box.Max, box.Min)
	scale := (1<<bits - 1) / max(size.X, size.Y, size.Z, 1e-30)
	for i, middle := range middles {
		at := r3.Scale(scale, r3.Sub(middle, box.Min))
		for axis, v := range [3]float64{at.X, at.Y, at.Z} {
			for b := range bits {
				order[i] |= uint64(v) >> b & 1 << (32 + 3*b + axis)
			}
		}
	}
	slices.Sort(order)
	return order
}
