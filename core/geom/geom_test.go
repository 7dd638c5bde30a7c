package geom

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func vec(x, y, z float64) r3.Vec { return r3.Vec{X: x, Y: y, Z: z} }

func near(t *testing.T, want, got r3.Vec, msg string) {
	t.Helper()
	assert.InDelta(t, 0, r3.Norm(r3.Sub(want, got)), 1e-9, "%s: want %v got %v", msg, want, got)
}

func TestPanTiltRollSigns(t *testing.T) {
	ahead := vec(0, 0, -1)
	pan := PanTiltRoll(90, 0, 0)
	near(t, vec(-1, 0, 0), pan.Dir(ahead), "panned left")
	tilt := PanTiltRoll(0, 30, 0)
	near(t, vec(0, 0.5, -math.Sqrt(3)/2), tilt.Dir(ahead), "tilted up")
	roll := PanTiltRoll(0, 0, 90)
	// The camera's top turns to −X (counter-clockwise as it looks), so that the
	// horizon appears turned clockwise.
	near(t, vec(-1, 0, 0), roll.Dir(vec(0, 1, 0)), "rolled")

	// Second method: the product of the three single rotations.
	y, x, z := RotateY(40), RotateX(-25), RotateZ(10)
	yx := y.Mul(&x)
	want := yx.Mul(&z)
	got := PanTiltRoll(40, -25, 10)
	for i := range want {
		assert.InDelta(t, want[i], got[i], 1e-12)
	}
}

func TestAnglesInvertPanTiltRoll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := rapid.Float64Range(-179, 179).Draw(t, "pan")
		i := rapid.Float64Range(-89, 89).Draw(t, "tilt")
		r := rapid.Float64Range(-179, 179).Draw(t, "roll")
		m := PanTiltRoll(p, i, r)
		p2, i2, r2 := m.Angles()
		if math.Abs(p-p2)+math.Abs(i-i2)+math.Abs(r-r2) > 1e-6 {
			t.Fatalf("%v %v %v came back as %v %v %v", p, i, r, p2, i2, r2)
		}
		pan, tilt := Toward(m.Dir(r3.Vec{Z: -1}))
		if math.Abs(p-pan)+math.Abs(i-tilt) > 1e-6 {
			t.Fatalf("looking along the view axis gives %v %v", pan, tilt)
		}
	})
	m := PanTiltRoll(35, 90, 0)
	pan, tilt, roll := m.Angles()
	assert.InDelta(t, 35, pan, 1e-6)
	assert.InDelta(t, 90, tilt, 1e-6)
	assert.Zero(t, roll)
}

func TestInverseUndoes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := func(n string) float64 { return rapid.Float64Range(-50, 50).Draw(t, n) }
		m := PanTiltRoll(f("p"), f("t"), f("r")).Scaled(rapid.Float64Range(0.1, 8).Draw(t, "s")).At(vec(f("x"), f("y"), f("z")))
		inv := m.Inverse()
		p := vec(f("a"), f("b"), f("c"))
		if d := r3.Norm(r3.Sub(p, inv.Point(m.Point(p)))); d > 1e-8 {
			t.Fatalf("off by %v", d)
		}
	})
}

func TestBetweenPlacesALimb(t *testing.T) {
	m := Between(vec(1, 2, 3), vec(1, 1, 3), vec(0, 0, -1))
	near(t, vec(1, 2, 3), m.Point(vec(0, 0, 0)), "top")
	near(t, vec(1, 1, 3), m.Point(vec(0, -1, 0)), "bottom")
	near(t, vec(0, 0, -1), m.Dir(vec(0, 0, -1)), "front")
	near(t, vec(1, 0, 0), m.Dir(vec(1, 0, 0)), "not mirrored")
}

func TestAxisTurnAgreesWithRotateY(t *testing.T) {
	a, b := AxisTurn(33, vec(0, 1, 0)), RotateY(33)
	for i := range a {
		assert.InDelta(t, b[i], a[i], 1e-12)
	}
}

func TestBoxGrowsAndTransforms(t *testing.T) {
	assert.True(t, EmptyBox().Empty())
	b := EmptyBox().Add(vec(-1, 0, 2)).Add(vec(3, 4, -2))
	near(t, vec(1, 2, 0), b.Center(), "centre")
	assert.Zero(t, b.Distance(vec(0, 1, 1)))
	assert.InDelta(t, 5, b.Distance(vec(6, 2, 6)), 1e-12, "3 beside and 4 in front")
	assert.InDelta(t, 2, b.Distance(vec(0, -2, 0)), 1e-12)
	assert.Positive(t, EmptyBox().Distance(vec(0, 0, 0)))
	m := RotateY(90)
	r := b.Transform(&m)
	near(t, vec(-2, 0, -3), r.Min, "turned min")
	near(t, vec(2, 4, 1), r.Max, "turned max")
}

// TestRigidGoesTheShortWay holds placings between two against what must be true
// of them, and against turning about one axis.
func TestRigidGoesTheShortWay(t *testing.T) {
	a, b := PanTiltRoll(10, 0, 0).At(r3.Vec{X: 1}), PanTiltRoll(50, 0, 0).At(r3.Vec{X: 5, Y: 2})
	half := Rigid(&a, &b, 0.5)
	pan, tilt, roll := half.Angles()
	assert.InDelta(t, 30, pan, 1e-9)
	assert.InDelta(t, 0, tilt, 1e-9)
	assert.InDelta(t, 0, roll, 1e-9)
	assert.Equal(t, r3.Vec{X: 3, Y: 1}, half.Origin())
	// From 170 to −170 it is twenty degrees by way of 180.
	a, b = PanTiltRoll(170, 0, 0), PanTiltRoll(-170, 0, 0)
	half = Rigid(&a, &b, 0.5)
	pan, _, _ = half.Angles()
	assert.InDelta(t, 180, math.Abs(pan), 1e-9)
	rapid.Check(t, func(t *rapid.T) {
		angle := func(name string) float64 { return rapid.Float64Range(-180, 180).Draw(t, name) }
		a := PanTiltRoll(angle("a"), angle("b")/2, angle("c"))
		b := PanTiltRoll(angle("d"), angle("e")/2, angle("f"))
		share := rapid.Float64Range(0, 1).Draw(t, "share")
		m := Rigid(&a, &b, share)
		x, y := m.Dir(r3.Vec{X: 1}), m.Dir(r3.Vec{Y: 1})
		if math.Abs(r3.Norm(x)-1) > 1e-9 || math.Abs(r3.Dot(x, y)) > 1e-9 || r3.Norm(r3.Sub(r3.Cross(x, y), m.Dir(r3.Vec{Z: 1}))) > 1e-9 {
			t.Fatalf("%v is no turn", m)
		}
		for _, end := range []struct {
			share float64
			want  *Mat4
		}{{0, &a}, {1, &b}} {
			got := Rigid(&a, &b, end.share)
			for i := range got {
				if math.Abs(got[i]-end.want[i]) > 1e-7 {
					t.Fatalf("at %v: %v, want %v", end.share, got, *end.want)
				}
			}
		}
	})
}
