// Package geom holds the transforms, boxes and rays that gonum's spatial/r3
// does not. Space is right-handed with Y up, in metres; angles are degrees.
package geom

import (
	"math"

	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r3"
)

// Radians converts degrees.
func Radians(deg float64) float64 { return deg * math.Pi / 180 }

// Degrees converts radians.
func Degrees(rad float64) float64 { return rad * 180 / math.Pi }

// Mat4 is a 4x4 matrix in row-major order that transforms column vectors:
// m[row*4+column]; the translation is m[3], m[7], m[11].
type Mat4 [16]float64

// Identity is the matrix that changes nothing.
var Identity = Mat4{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}

// Mul returns m·n: n is applied first.
func (m *Mat4) Mul(n *Mat4) (r Mat4) {
	for i := 0; i < 16; i += 4 {
		a, b, c, d := m[i], m[i+1], m[i+2], m[i+3]
		r[i] = a*n[0] + b*n[4] + c*n[8] + d*n[12]
		r[i+1] = a*n[1] + b*n[5] + c*n[9] + d*n[13]
		r[i+2] = a*n[2] + b*n[6] + c*n[10] + d*n[14]
		r[i+3] = a*n[3] + b*n[7] + c*n[11] + d*n[15]
	}
	return r
}

// Point transforms a position.
func (m *Mat4) Point(v r3.Vec) r3.Vec {
	return r3.Vec{
		X: m[0]*v.X + m[1]*v.Y + m[2]*v.Z + m[3],
		Y: m[4]*v.X + m[5]*v.Y + m[6]*v.Z + m[7],
		Z: m[8]*v.X + m[9]*v.Y + m[10]*v.Z + m[11],
	}
}

// Dir transforms a direction: no translation.
func (m *Mat4) Dir(v r3.Vec) r3.Vec {
	return r3.Vec{
		X: m[0]*v.X + m[1]*v.Y + m[2]*v.Z,
		Y: m[4]*v.X + m[5]*v.Y + m[6]*v.Z,
		Z: m[8]*v.X + m[9]*v.Y + m[10]*v.Z,
	}
}

// Origin returns the translation.
func (m *Mat4) Origin() r3.Vec { return r3.Vec{X: m[3], Y: m[7], Z: m[11]} }

// Inverse returns the inverse of a matrix whose last row is 0 0 0 1 and whose
// upper 3x3 part is not singular.
func (m *Mat4) Inverse() Mat4 {
	a, b, c := m[0], m[1], m[2]
	d, e, f := m[4], m[5], m[6]
	g, h, i := m[8], m[9], m[10]
	A, B, C := e*i-f*h, f*g-d*i, d*h-e*g
	det := 1 / (a*A + b*B + c*C)
	r := Mat4{
		A * det, (c*h - b*i) * det, (b*f - c*e) * det, 0,
		B * det, (a*i - c*g) * det, (c*d - a*f) * det, 0,
		C * det, (b*g - a*h) * det, (a*e - b*d) * det, 0,
		0, 0, 0, 1,
	}
	t := r.Dir(m.Origin())
	r[3], r[7], r[11] = -t.X, -t.Y, -t.Z
	return r
}

// Translate returns a pure translation.
func Translate(v r3.Vec) Mat4 {
	return Mat4{1, 0, 0, v.X, 0, 1, 0, v.Y, 0, 0, 1, v.Z, 0, 0, 0, 1}
}

// RotateX, RotateY and RotateZ turn counter-clockwise about an axis, seen from
// its positive end.
func RotateX(deg float64) Mat4 {
	s, c := math.Sincos(Radians(deg))
	return Mat4{1, 0, 0, 0, 0, c, -s, 0, 0, s, c, 0, 0, 0, 0, 1}
}

// RotateY turns about the vertical axis; see RotateX.
func RotateY(deg float64) Mat4 {
	s, c := math.Sincos(Radians(deg))
	return Mat4{c, 0, s, 0, 0, 1, 0, 0, -s, 0, c, 0, 0, 0, 0, 1}
}

// RotateZ turns about the depth axis; see RotateX.
func RotateZ(deg float64) Mat4 {
	s, c := math.Sincos(Radians(deg))
	return Mat4{c, -s, 0, 0, s, c, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}
}

// PanTiltRoll returns the rotation of something at rest looking along −Z that
// is panned about Y (positive to the left seen from above), then tilted about
// its own X (positive up), then rolled about its view axis (positive turns the
// horizon clockwise in the picture, so the camera turns counter-clockwise as it
// looks): Ry(pan)·Rx(tilt)·Rz(roll).
func PanTiltRoll(pan, tilt, roll float64) Mat4 {
	sp, cp := math.Sincos(Radians(pan))
	st, ct := math.Sincos(Radians(tilt))
	sr, cr := math.Sincos(Radians(roll))
	return Mat4{
		cp*cr + sp*st*sr, -cp*sr + sp*st*cr, sp * ct, 0,
		ct * sr, ct * cr, -st, 0,
		-sp*cr + cp*st*sr, sp*sr + cp*st*cr, cp * ct, 0,
		0, 0, 0, 1,
	}
}

// Angles returns pan, tilt and roll in degrees of a rigid transform, the
// inverse of PanTiltRoll, with tilt in [−90, 90]. Looking straight up or down,
// roll is taken as 0.
func (m *Mat4) Angles() (pan, tilt, roll float64) {
	tilt = math.Asin(max(-1, min(1, -m[6])))
	if math.Abs(m[6]) > 1-1e-12 {
		return Degrees(math.Atan2(-m[8], m[0])), Degrees(tilt), 0
	}
	return Degrees(math.Atan2(m[2], m[10])), Degrees(tilt), Degrees(math.Atan2(m[4], m[5]))
}

// Toward returns the pan and tilt in degrees that look along a direction. A
// zero direction gives zeros.
func Toward(dir r3.Vec) (pan, tilt float64) {
	flat := math.Hypot(dir.X, dir.Z)
	if flat == 0 && dir.Y == 0 {
		return 0, 0
	}
	if flat > 0 {
		pan = Degrees(math.Atan2(-dir.X, -dir.Z))
	}
	return pan, Degrees(math.Atan2(dir.Y, flat))
}

// Scaled returns m with its axes multiplied by s.
func (m Mat4) Scaled(s float64) Mat4 {
	for i := 0; i < 12; i++ {
		if i%4 != 3 {
			m[i] *= s
		}
	}
	return m
}

// At returns m with its translation replaced.
func (m Mat4) At(v r3.Vec) Mat4 {
	m[3], m[7], m[11] = v.X, v.Y, v.Z
	return m
}

// AxisTurn returns the rotation by an angle in degrees about any axis.
func AxisTurn(deg float64, axis r3.Vec) Mat4 {
	q := quat.Number(r3.NewRotation(Radians(deg), axis))
	w, x, y, z := q.Real, q.Imag, q.Jmag, q.Kmag
	return Mat4{
		1 - 2*(y*y+z*z), 2 * (x*y - z*w), 2 * (x*z + y*w), 0,
		2 * (x*y + z*w), 1 - 2*(x*x+z*z), 2 * (y*z - x*w), 0,
		2 * (x*z - y*w), 2 * (y*z + x*w), 1 - 2*(x*x+y*y), 0,
		0, 0, 0, 1,
	}
}

// Between returns the rotation-translation that maps the segment from the
// origin down −Y onto a→b, with its −Z side turned toward a front direction.
// Lengths are not changed.
func Between(a, b, front r3.Vec) Mat4 {
	y := r3.Unit(r3.Sub(a, b))
	x := r3.Cross(front, y)
	if r3.Norm2(x) < 1e-12 {
		x = r3.Cross(r3.Vec{X: 0.01, Y: 0.1, Z: 1}, y)
	}
	x = r3.Unit(x)
	z := r3.Cross(x, y)
	// front×y points to x when front is −z: y × z = x and −z × y = x.
	return Mat4{x.X, y.X, z.X, a.X, x.Y, y.Y, z.Y, a.Y, x.Z, y.Z, z.Z, a.Z, 0, 0, 0, 1}
}

// Box is an axis-aligned box. Use EmptyBox as the start of a union.
type Box struct{ Min, Max r3.Vec }

// EmptyBox holds no point.
func EmptyBox() Box {
	inf := math.Inf(1)
	return Box{r3.Vec{X: inf, Y: inf, Z: inf}, r3.Vec{X: -inf, Y: -inf, Z: -inf}}
}

// Empty reports whether the box holds no point.
func (b Box) Empty() bool { return b.Min.X > b.Max.X }

// Add returns the box grown to hold a point.
func (b Box) Add(p r3.Vec) Box {
	return Box{
		r3.Vec{X: Lesser(b.Min.X, p.X), Y: Lesser(b.Min.Y, p.Y), Z: Lesser(b.Min.Z, p.Z)},
		r3.Vec{X: Greater(b.Max.X, p.X), Y: Greater(b.Max.Y, p.Y), Z: Greater(b.Max.Z, p.Z)},
	}
}

// Lesser and Greater are min and max where nothing is NaN. In WebAssembly those are calls,
// which took a sixth of the time in which a scene was opened for the first time.
func Lesser(a, b float64) float64 {
	if b < a {
		return b
	}
	return a
}

// Greater is the greater of two numbers; see Lesser.
func Greater(a, b float64) float64 {
	if b > a {
		return b
	}
	return a
}

// Grown returns the box with a margin on all sides.
func (b Box) Grown(by float64) Box {
	d := r3.Vec{X: by, Y: by, Z: by}
	return Box{r3.Sub(b.Min, d), r3.Add(b.Max, d)}
}

// Distance returns how far a point is from the box, 0 inside; infinite from an empty one.
func (b Box) Distance(p r3.Vec) float64 {
	beside := func(lo, hi, v float64) float64 { return Greater(0, Greater(lo-v, v-hi)) }
	return r3.Norm(r3.Vec{X: beside(b.Min.X, b.Max.X, p.X), Y: beside(b.Min.Y, b.Max.Y, p.Y), Z: beside(b.Min.Z, b.Max.Z, p.Z)})
}

// Center returns the middle of the box.
func (b Box) Center() r3.Vec { return r3.Scale(0.5, r3.Add(b.Min, b.Max)) }

// Corner returns one of the eight corners, counted from 0: the first bit of its number
// says whether X is the larger one, the second Y, the third Z.
func (b Box) Corner(i int) r3.Vec {
	p := b.Min
	if i&1 != 0 {
		p.X = b.Max.X
	}
	if i&2 != 0 {
		p.Y = b.Max.Y
	}
	if i&4 != 0 {
		p.Z = b.Max.Z
	}
	return p
}

// Transform returns the box around b's corners after m.
func (b Box) Transform(m *Mat4) Box {
	if b.Empty() {
		return b
	}
	out := EmptyBox()
	for i := range 8 {
		out = out.Add(m.Point(b.Corner(i)))
	}
	return out
}

// Rigid returns the placing a share of the way from a to b: along a straight
// line, and by the shortest turn (spherical linear interpolation of the unit
// quaternions; Shoemake, "Animating rotation with quaternion curves", 1985).
// Neither may scale.
func Rigid(a, b *Mat4, share float64) Mat4 {
	p, q := rotation(a), rotation(b)
	dot := p.Real*q.Real + p.Imag*q.Imag + p.Jmag*q.Jmag + p.Kmag*q.Kmag
	if dot < 0 {
		q, dot = quat.Scale(-1, q), -dot
	}
	u, v := 1-share, share
	if angle := math.Acos(min(1, dot)); angle > 1e-6 {
		u, v = math.Sin(u*angle)/math.Sin(angle), math.Sin(v*angle)/math.Sin(angle)
	}
	r := quat.Add(quat.Scale(u, p), quat.Scale(v, q))
	turn := Turned(quat.Scale(1/quat.Abs(r), r))
	from, to := a.Origin(), b.Origin()
	return turn.At(r3.Add(from, r3.Scale(share, r3.Sub(to, from))))
}

// Turned returns the rotation of a unit quaternion.
func Turned(q quat.Number) Mat4 {
	w, x, y, z := q.Real, q.Imag, q.Jmag, q.Kmag
	return Mat4{
		1 - 2*(y*y+z*z), 2 * (x*y - z*w), 2 * (x*z + y*w), 0,
		2 * (x*y + z*w), 1 - 2*(x*x+z*z), 2 * (y*z - x*w), 0,
		2 * (x*z - y*w), 2 * (y*z + x*w), 1 - 2*(x*x+y*y), 0,
		0, 0, 0, 1,
	}
}

// rotation returns the unit quaternion of a rotation matrix, from its largest
// component so that nothing small is divided by.
func rotation(m *Mat4) quat.Number {
	xx, yy, zz := m[0], m[5], m[10]
	half := func(v float64) float64 { return math.Sqrt(max(0, 1+v)) / 2 }
	q := quat.Number{Real: half(xx + yy + zz), Imag: half(xx - yy - zz), Jmag: half(yy - xx - zz), Kmag: half(zz - xx - yy)}
	switch largest := max(q.Real, q.Imag, q.Jmag, q.Kmag); {
	case largest == q.Real:
		k := 4 * q.Real
		q.Imag, q.Jmag, q.Kmag = (m[9]-m[6])/k, (m[2]-m[8])/k, (m[4]-m[1])/k
	case largest == q.Imag:
		k := 4 * q.Imag
		q.Real, q.Jmag, q.Kmag = (m[9]-m[6])/k, (m[1]+m[4])/k, (m[2]+m[8])/k
	case largest == q.Jmag:
		k := 4 * q.Jmag
		q.Real, q.Imag, q.Kmag = (m[2]-m[8])/k, (m[1]+m[4])/k, (m[6]+m[9])/k
	default:
		k := 4 * q.Kmag
		q.Real, q.Imag, q.Jmag = (m[4]-m[1])/k, (m[2]+m[8])/k, (m[6]+m[9])/k
	}
	return q
}

// Placing takes a matrix apart: where it moves to, its turn as a unit quaternion (x, y,
// z, w), and its scale along the axes that it turns. Shear is left out.
func Placing(m *Mat4) (at r3.Vec, turn [4]float64, scale r3.Vec) {
	column := func(i int) r3.Vec { return r3.Vec{X: m[i], Y: m[4+i], Z: m[8+i]} }
	x, y, z := column(0), column(1), column(2)
	scale = r3.Vec{X: r3.Norm(x), Y: r3.Norm(y), Z: r3.Norm(z)}
	if r3.Dot(r3.Cross(x, y), z) < 0 { // mirrored
		scale.X = -scale.X
	}
	unit := *m
	for i, s := range [3]float64{scale.X, scale.Y, scale.Z} {
		if s != 0 {
			unit[i], unit[4+i], unit[8+i] = m[i]/s, m[4+i]/s, m[8+i]/s
		}
	}
	q := rotation(&unit)
	if n := quat.Abs(q); n > 0 {
		q = quat.Scale(1/n, q)
	}
	return m.Origin(), [4]float64{q.Imag, q.Jmag, q.Kmag, q.Real}, scale
}
