package questions

import (
	"math"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Corner returns the corner of a mesh that is seen nearest to a ray at the evaluated
// frame. It is away from the ray by no more than spread metres, which of rays that part
// from an eye are for each metre of the distance. People, who bend, have none.
func (s *Scene) Corner(r geom.Ray, spread float64, parallel bool) (corner r3.Vec, ok bool) {
	st := s.now()
	r.Dir = r3.Unit(r.Dir)
	away := func(p r3.Vec) (off, depth float64) {
		d := r3.Sub(p, r.From)
		depth = r3.Dot(d, r.Dir)
		off = r3.Norm(r3.Sub(d, r3.Scale(depth, r.Dir)))
		if !parallel {
			off /= max(depth, 1e-9)
		}
		return off, depth
	}
	best := spread
	tried := map[int]bool{}
	for _, near := range around(r, 0.8*spread, parallel) {
		hit, struck := s.Motion.Strike(near, st, 1e5, nil)
		if !struck || tried[hit.Instance] || s.Motion.Instances[hit.Instance].Skin >= 0 {
			continue
		}
		tried[hit.Instance] = true
		positions := s.Motion.Meshes[s.Motion.Instances[hit.Instance].Mesh].Mesh.Positions
		for i := 0; i+2 < len(positions); i += 3 {
			p := st.Instances[hit.Instance].Point(r3.Vec{X: float64(positions[i]), Y: float64(positions[i+1]), Z: float64(positions[i+2])})
			if off, depth := away(p); depth > 0 && off < best && s.seen(r, p, parallel) {
				best, corner, ok = off, p, true
			}
		}
	}
	return corner, ok
}

// around returns a ray and eight about it, which are a spread away from it.
func around(r geom.Ray, spread float64, parallel bool) []geom.Ray {
	side := r3.Vec{Y: 1}
	if math.Abs(r.Dir.Y) > 0.9 {
		side = r3.Vec{X: 1}
	}
	u := r3.Unit(r3.Cross(r.Dir, side))
	v := r3.Cross(u, r.Dir)
	out := []geom.Ray{r}
	for i := range 8 {
		sin, cos := math.Sincos(float64(i) * math.Pi / 4)
		by := r3.Add(r3.Scale(spread*cos, u), r3.Scale(spread*sin, v))
		other := r
		if parallel {
			other.From = r3.Add(r.From, by)
		} else {
			other.Dir = r3.Unit(r3.Add(r.Dir, by))
		}
		out = append(out, other)
	}
	return out
}

// seen tells whether nothing is before a place that is looked at like along a ray.
func (s *Scene) seen(r geom.Ray, p r3.Vec, parallel bool) bool {
	from := r.From
	if parallel {
		from = r3.Sub(p, r3.Scale(r3.Dot(r3.Sub(p, r.From), r.Dir), r.Dir))
	}
	way := r3.Sub(p, from)
	far := r3.Norm(way)
	_, hidden := s.Motion.Strike(geom.Ray{From: from, Dir: r3.Scale(1/far, way)}, s.now(), far-0.01-1e-3*far, nil)
	return !hidden
}
