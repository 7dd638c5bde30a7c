package curve

import (
	"errors"
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r3"
)

// Form says how a path runs through its points.
type Form string

// The forms of a path: straight lines from point to point, the circular arc
// through exactly three points, a smooth curve through all points, or a
// vertical rise from the first point to the height of the second.
const (
	Straight   Form = "straight"
	Arc        Form = "arc"
	Smooth     Form = "curve"
	RiseUp     Form = "rise"
	stepsEach       = 64    // table steps in each piece
	MaxPathPts      = 2_000 // points accepted in one path
)

// Forms lists the forms in the order in which they are offered.
var Forms = []Form{Smooth, Straight, Arc, RiseUp}

// ErrPoints says that a form cannot be built from the points given.
var ErrPoints = errors.New("a path needs at least two different points, an arc exactly three that are not in line")

// piece is one smooth part of a path over u in [0, 1].
type piece struct {
	// Bézier control points of a line or curve piece.
	b [4]r3.Vec
	// Arc: centre, two perpendicular radii, and the whole angle.
	arc          bool
	c, rx, ry    r3.Vec
	radius, turn float64
}

// Path is a compiled path with a table from length to parameter. Positions are
// metres.
type Path struct {
	pieces []piece
	table  []float64 // length at step i of stepsEach per piece
	length float64
}

// NewPath compiles a path. Closed joins the last point of a straight or smooth
// path to the first.
func NewPath(form Form, points []r3.Vec, closed bool) (*Path, error) {
	p, err := build(form, points, closed)
	if err != nil {
		return nil, err
	}
	p.measure()
	return p, nil
}

// Check tells whether points make a path of a form, without measuring it.
func Check(form Form, points []r3.Vec, closed bool) error {
	_, err := build(form, points, closed)
	return err
}

// build makes the pieces of a path.
func build(form Form, points []r3.Vec, closed bool) (*Path, error) {
	pts := make([]r3.Vec, 0, len(points)+1)
	for _, p := range points {
		if n := len(pts); n == 0 || r3.Norm(r3.Sub(p, pts[n-1])) > 1e-9 {
			pts = append(pts, p)
		}
	}
	if form == RiseUp && len(pts) >= 2 {
		pts = []r3.Vec{pts[0], {X: pts[0].X, Y: pts[len(pts)-1].Y, Z: pts[0].Z}}
		if math.Abs(pts[0].Y-pts[1].Y) < 1e-9 {
			return nil, ErrPoints
		}
	}
	if len(pts) < 2 || form == Arc && len(points) != 3 {
		return nil, ErrPoints
	}
	p := &Path{}
	switch {
	case form == Arc:
		a, ok := arcThrough(pts)
		if !ok {
			return nil, ErrPoints
		}
		p.pieces = []piece{a}
	case form == Smooth && len(pts) > 2:
		p.pieces = smoothPieces(pts, closed)
	default:
		if closed && len(pts) > 2 {
			pts = append(pts, pts[0])
		}
		for i := 1; i < len(pts); i++ {
			a, d := pts[i-1], r3.Sub(pts[i], pts[i-1])
			p.pieces = append(p.pieces, piece{b: [4]r3.Vec{a, r3.Add(a, r3.Scale(1.0/3, d)), r3.Add(a, r3.Scale(2.0/3, d)), pts[i]}})
		}
	}
	return p, nil
}

// arcThrough builds the arc from the first to the third point by way of the
// second: the circumscribed circle of the triangle.
func arcThrough(p []r3.Vec) (piece, bool) {
	if len(p) != 3 {
		return piece{}, false
	}
	ab, ac := r3.Sub(p[1], p[0]), r3.Sub(p[2], p[0])
	n := r3.Cross(ab, ac)
	nn := r3.Norm2(n)
	if nn < 1e-12*r3.Norm2(ab)*r3.Norm2(ac) || nn == 0 {
		return piece{}, false
	}
	// Circumcentre relative to p0: (|ac|²·(n×… )) — the standard vector form.
	to := r3.Scale(1/(2*nn), r3.Add(r3.Scale(r3.Norm2(ac), r3.Cross(n, ab)), r3.Scale(r3.Norm2(ab), r3.Cross(ac, n))))
	c := r3.Add(p[0], to)
	rx := r3.Sub(p[0], c)
	radius := r3.Norm(rx)
	ry := r3.Scale(1/math.Sqrt(nn), r3.Cross(n, rx))
	end := r3.Sub(p[2], c)
	turn := math.Atan2(r3.Dot(end, ry), r3.Dot(end, rx))
	if turn <= 0 {
		turn += 2 * math.Pi
	}
	return piece{arc: true, c: c, rx: rx, ry: ry, radius: radius, turn: turn}, true
}

// smoothPieces builds a centripetal Catmull-Rom curve through the points as
// Bézier pieces: no loops and no cusps between near points (C. Yuksel et al.,
// 2011).
func smoothPieces(pts []r3.Vec, closed bool) []piece {
	n := len(pts)
	count := n - 1
	if closed {
		count = n
	}
	at := func(i int) r3.Vec {
		if closed {
			return pts[((i%n)+n)%n]
		}
		if i < 0 {
			return r3.Sub(r3.Scale(2, pts[0]), pts[1])
		}
		if i >= n {
			return r3.Sub(r3.Scale(2, pts[n-1]), pts[n-2])
		}
		return pts[i]
	}
	out := make([]piece, count)
	for i := range out {
		p0, p1, p2, p3 := at(i-1), at(i), at(i+1), at(i+2)
		d1, d2, d3 := root(p0, p1), root(p1, p2), root(p2, p3)
		m1 := tangent(p0, p1, p2, d1, d2)
		m2 := tangent(p1, p2, p3, d2, d3)
		out[i].b = [4]r3.Vec{p1, r3.Add(p1, r3.Scale(d2/3, m1)), r3.Sub(p2, r3.Scale(d2/3, m2)), p2}
	}
	return out
}

func root(a, b r3.Vec) float64 { return max(math.Sqrt(r3.Norm(r3.Sub(a, b))), 1e-6) }

// tangent is the derivative at b of the non-uniform Catmull-Rom spline with
// knot distances da (a→b) and db (b→c).
func tangent(a, b, c r3.Vec, da, db float64) r3.Vec {
	l, r := r3.Scale(1/da, r3.Sub(b, a)), r3.Scale(1/db, r3.Sub(c, b))
	w := r3.Scale(1/(da+db), r3.Sub(c, a))
	return r3.Add(l, r3.Sub(r, w))
}

func (p *piece) point(u float64) r3.Vec {
	if p.arc {
		s, c := math.Sincos(u * p.turn)
		return r3.Add(p.c, r3.Add(r3.Scale(c, p.rx), r3.Scale(s, p.ry)))
	}
	v := 1 - u
	return r3.Add(
		r3.Add(r3.Scale(v*v*v, p.b[0]), r3.Scale(3*v*v*u, p.b[1])),
		r3.Add(r3.Scale(3*v*u*u, p.b[2]), r3.Scale(u*u*u, p.b[3])))
}

func (p *piece) velocity(u float64) r3.Vec {
	if p.arc {
		s, c := math.Sincos(u * p.turn)
		return r3.Scale(p.turn, r3.Sub(r3.Scale(c, p.ry), r3.Scale(s, p.rx)))
	}
	v := 1 - u
	return r3.Scale(3, r3.Add(
		r3.Scale(v*v, r3.Sub(p.b[1], p.b[0])),
		r3.Add(r3.Scale(2*v*u, r3.Sub(p.b[2], p.b[1])), r3.Scale(u*u, r3.Sub(p.b[3], p.b[2])))))
}

// Five-point Gauss–Legendre nodes and weights on [−1, 1].
var (
	gaussX = [5]float64{-0.906179845938664, -0.538469310105683, 0, 0.538469310105683, 0.906179845938664}
	gaussW = [5]float64{0.236926885056189, 0.478628670499366, 0.568888888888889, 0.478628670499366, 0.236926885056189}
)

// stretch returns the length of a piece between two parameters.
func (p *piece) stretch(u0, u1 float64) float64 {
	h, m := (u1-u0)/2, (u0+u1)/2
	sum := 0.0
	for i, x := range gaussX {
		sum += gaussW[i] * r3.Norm(p.velocity(m+h*x))
	}
	return sum * h
}

func (p *Path) measure() {
	p.table = make([]float64, 1, len(p.pieces)*stepsEach+1)
	for i := range p.pieces {
		for s := range stepsEach {
			p.length += p.pieces[i].stretch(float64(s)/stepsEach, float64(s+1)/stepsEach)
			p.table = append(p.table, p.length)
		}
	}
}

// Length returns the length of the path in metres.
func (p *Path) Length() float64 { return p.length }

// locate finds the piece and its parameter at a distance in metres from the
// start; distances outside the path are held to its ends.
func (p *Path) locate(distance float64) (*piece, float64) {
	d := clamp(distance, 0, p.length)
	i := sort.SearchFloat64s(p.table, d)
	i = max(1, min(i, len(p.table)-1))
	step := i - 1
	pc := &p.pieces[step/stepsEach]
	u0 := float64(step%stepsEach) / stepsEach
	span := p.table[i] - p.table[step]
	if span <= 0 {
		return pc, u0
	}
	rest := d - p.table[step]
	u := u0 + rest/span/stepsEach
	for range 3 { // Newton on the length from the step's start
		speed := r3.Norm(pc.velocity(u))
		if speed < 1e-9 {
			break
		}
		u = clamp(u-(pc.stretch(u0, u)-rest)/speed, u0, u0+1.0/stepsEach)
	}
	return pc, u
}

// At returns the position at a distance in metres along the path.
func (p *Path) At(distance float64) r3.Vec {
	pc, u := p.locate(distance)
	return pc.point(u)
}

// Heading returns the position and the unit direction of travel at a distance
// in metres along the path.
func (p *Path) Heading(distance float64) (at, direction r3.Vec) {
	pc, u := p.locate(distance)
	v := pc.velocity(u)
	if r3.Norm2(v) < 1e-18 {
		v = r3.Sub(pc.point(min(1, u+1e-3)), pc.point(max(0, u-1e-3)))
	}
	if r3.Norm2(v) < 1e-18 {
		return pc.point(u), r3.Vec{Z: -1}
	}
	return pc.point(u), r3.Unit(v)
}

// Sample returns positions for drawing, evenly spaced in parameter: n to each
// piece, and the end.
func (p *Path) Sample(n int) []r3.Vec {
	out := make([]r3.Vec, 0, len(p.pieces)*n+1)
	for i := range p.pieces {
		for s := range n {
			out = append(out, p.pieces[i].point(float64(s)/float64(n)))
		}
	}
	return append(out, p.pieces[len(p.pieces)-1].point(1))
}

// Marks returns the lengths in metres at which the path passes the points that
// it was built through, repeated ones left out.
func (p *Path) Marks() []float64 {
	out := make([]float64, 0, len(p.pieces)+1)
	for i := 0; i < len(p.table); i += stepsEach {
		out = append(out, p.table[i])
	}
	return out
}

// Nearest returns the distance in metres from the start at which the path comes
// nearest to a point: the best of its table, refined by golden sections.
func (p *Path) Nearest(to r3.Vec) float64 {
	off := func(d float64) float64 { return r3.Norm2(r3.Sub(p.At(d), to)) }
	best, least := 0, math.Inf(1)
	for i, d := range p.table {
		if o := off(d); o < least {
			best, least = i, o
		}
	}
	lo, hi := p.table[max(0, best-1)], p.table[min(len(p.table)-1, best+1)]
	const golden = 0.6180339887498949
	for range 40 {
		a, b := hi-golden*(hi-lo), lo+golden*(hi-lo)
		if off(a) < off(b) {
			hi = b
		} else {
			lo = a
		}
	}
	return (lo + hi) / 2
}
