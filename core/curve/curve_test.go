package curve

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func TestEasesByHand(t *testing.T) {
	// From 0 at frame 0 to 8 at frame 8.
	for _, c := range []struct {
		ease  Ease
		frame float64
		want  float64
	}{
		{Even, 2, 2}, {Even, 7.5, 7.5},
		{Hold, 7.99, 0}, {Hold, 8, 8},
		{Soft, 4, 4},                 // the middle of smoothstep
		{Soft, 2, 1.25},              // 8·(3·¼² − 2·¼³)
		{Soft, -5, 0}, {Soft, 99, 8}, // values hold outside
	} {
		ch := NewChannel([]Key{{Frame: 0, Value: 0, Ease: c.ease}, {Frame: 8, Value: 8, Ease: c.ease}})
		assert.InDelta(t, c.want, ch.At(c.frame), 1e-9, "%s at %v", c.ease, c.frame)
	}
	// Handles of full length on both sides: x = ½ at t = ½ by symmetry.
	ch := NewChannel([]Key{
		{Frame: 0, Value: 0, Ease: Shaped, Out: &Handle{10, 0}},
		{Frame: 10, Value: 6, Ease: Shaped, In: &Handle{10, 0}},
	})
	assert.InDelta(t, 3, ch.At(5), 1e-9)
	assert.Zero(t, (&Channel{}).At(3))
	later := NewChannel([]Key{{Frame: 3, Value: 1, Ease: Even}, {Frame: 3, Value: 2, Ease: Even}})
	assert.Equal(t, 2.0, later.At(3))
	assert.Equal(t, 1, later.Len())
}

func TestSoftNeverPassesAKey(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 8).Draw(t, "n")
		keys := make([]Key, n)
		at := 0.0
		for i := range keys {
			at += rapid.Float64Range(0.5, 50).Draw(t, "gap")
			keys[i] = Key{Frame: at, Value: rapid.Float64Range(-100, 100).Draw(t, "v"), Ease: rapid.SampledFrom([]Ease{Soft, Soft, Even, Hold}).Draw(t, "e")}
		}
		c := NewChannel(keys)
		for i := 1; i < n; i++ {
			a, b := keys[i-1], keys[i]
			prev := a.Value
			for s := 0; s <= 40; s++ {
				v := c.At(a.Frame + (b.Frame-a.Frame)*float64(s)/40)
				if (v-prev)*(b.Value-a.Value) < -1e-9 {
					t.Fatalf("runs back between keys %d and %d: %v after %v", i-1, i, v, prev)
				}
				prev = v
			}
		}
		if c.Overshoots() != nil {
			t.Fatal("overshoot reported")
		}
	})
}

func TestShapedHandlesCannotTurnTimeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := func(n string) *Handle {
			return &Handle{rapid.Float64Range(-100, 100).Draw(t, n), rapid.Float64Range(-50, 50).Draw(t, n+"v")}
		}
		c := NewChannel([]Key{{Frame: 0, Ease: Shaped, Out: h("out")}, {Frame: 20, Value: 5, Ease: Shaped, In: h("in")}})
		s := &c.segs[0]
		for f := 0.25; f < 20; f += 0.25 {
			p := s.parameter(f)
			u := 1 - p
			x := 3*u*u*p*s.a + 3*u*p*p*(20-s.b) + p*p*p*20
			if math.Abs(x-f) > 1e-6 {
				t.Fatalf("frame %v solved as %v", f, x)
			}
			if q := s.parameter(f - 0.25); q > p+1e-9 {
				t.Fatalf("parameter runs back at %v", f)
			}
		}
	})
}

func TestOvershootIsMeasured(t *testing.T) {
	// Control values 0, 6, 0, 0: the cubic 18·u²·t peaks at t = ⅓ with 8/3.
	c := NewChannel([]Key{{Frame: 0, Ease: Shaped, Out: &Handle{10, 6}}, {Frame: 30, Ease: Soft}})
	o := c.Overshoots()
	require.Len(t, o, 1)
	assert.InDelta(t, 8.0/3, o[0].By, 0.01)
	assert.Equal(t, [2]float64{0, 30}, [2]float64{o[0].From, o[0].To})
}

func TestSpeedAndMarksByHand(t *testing.T) {
	c := NewChannel([]Key{{Frame: 0, Ease: Even}, {Frame: 20, Value: 10, Ease: Even}})
	assert.InDelta(t, 0.5, c.Speed(7), 1e-9)
	p, err := NewPath(Straight, []r3.Vec{{}, {X: 3}, {X: 3, Z: 4}}, false)
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{0, 3, 7}, p.Marks(), 1e-9)
	assert.InDelta(t, 5, p.Nearest(r3.Vec{X: 9, Z: 2}), 1e-6)
	assert.InDelta(t, 0, p.Nearest(r3.Vec{X: -9, Z: -2}), 1e-6)
}

func TestUnwrapGoesTheShortWay(t *testing.T) {
	assert.Equal(t, 190.0, Unwrap(170, -170))
	assert.Equal(t, -10.0, Unwrap(0, 350))
	assert.Equal(t, 730.0, Unwrap(725, 10))
}

func v(x, y, z float64) r3.Vec { return r3.Vec{X: x, Y: y, Z: z} }

func TestPathLengthsByHand(t *testing.T) {
	for _, c := range []struct {
		form   Form
		pts    []r3.Vec
		closed bool
		want   float64
	}{
		{Straight, []r3.Vec{v(0, 0, 0), v(3, 4, 0)}, false, 5},
		{Straight, []r3.Vec{v(0, 0, 0), v(3, 4, 0), v(3, 0, 0)}, true, 12},
		{Arc, []r3.Vec{v(2, 0, 0), v(0, 0, 2), v(-2, 0, 0)}, false, 2 * math.Pi},   // half circle, radius 2
		{Arc, []r3.Vec{v(1, 5, 0), v(0, 5, 1), v(0, 5, -1)}, false, 1.5 * math.Pi}, // three quarters
		{RiseUp, []r3.Vec{v(1, 2, 3), v(9, 7, 9)}, false, 5},
		{Smooth, []r3.Vec{v(0, 0, 0), v(1, 0, 0), v(2, 0, 0), v(9, 0, 0)}, false, 9}, // in line: no detour
	} {
		p, err := NewPath(c.form, c.pts, c.closed)
		require.NoError(t, err)
		assert.InDelta(t, c.want, p.Length(), 1e-6, "%s", c.form)
	}
}

func TestArcPassesItsThreePoints(t *testing.T) {
	pts := []r3.Vec{v(1, 2, 3), v(4, 2, 1), v(2, 5, -2)}
	p, err := NewPath(Arc, pts, false)
	require.NoError(t, err)
	for _, want := range pts {
		best := math.Inf(1)
		for d := 0.0; d <= p.Length(); d += p.Length() / 5000 {
			best = min(best, r3.Norm(r3.Sub(p.At(d), want)))
		}
		assert.Less(t, best, 0.002)
	}
}

func TestPathSpeedIsEven(t *testing.T) {
	// Property of the whole package: equal distances along the path are equal
	// chords in the limit, within 0.1 %.
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(3, 7).Draw(t, "n")
		pts := make([]r3.Vec, n)
		for i := range pts {
			f := func(s string) float64 { return rapid.Float64Range(-20, 20).Draw(t, s) }
			pts[i] = v(float64(i)*3+f("x")*0.2, f("y"), f("z"))
		}
		p, err := NewPath(Smooth, pts, false)
		if err != nil {
			t.Skip("points fell together")
		}
		const steps = 20000
		d := p.Length() / steps
		total := 0.0
		prev := p.At(0)
		for i := 1; i <= steps; i++ {
			at := p.At(float64(i) * d)
			chord := r3.Norm(r3.Sub(at, prev))
			// A chord is shorter than its arc only where the path bends hard.
			if chord > d*1.001 {
				t.Fatalf("step %d is %v long, want %v", i, chord, d)
			}
			total += chord
			prev = at
		}
		if math.Abs(total-p.Length()) > p.Length()*0.001 {
			t.Fatalf("chords add up to %v, length is %v", total, p.Length())
		}
	})
}

func TestHeadingFollowsTheCurve(t *testing.T) {
	p, err := NewPath(Arc, []r3.Vec{v(2, 0, 0), v(0, 0, 2), v(-2, 0, 0)}, false)
	require.NoError(t, err)
	at, dir := p.Heading(math.Pi) // a quarter turn of radius 2
	assert.InDelta(t, 0, r3.Norm(r3.Sub(at, v(0, 0, 2))), 1e-9)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(dir, v(-1, 0, 0))), 1e-9)
	assert.Len(t, p.Sample(10), 11)
}

func TestPathRefusesWhatItCannotBuild(t *testing.T) {
	for i, c := range []struct {
		form Form
		pts  []r3.Vec
	}{
		{Straight, nil},
		{Smooth, []r3.Vec{v(1, 1, 1), v(1, 1, 1)}},
		{Arc, []r3.Vec{v(0, 0, 0), v(1, 0, 0)}},
		{Arc, []r3.Vec{v(0, 0, 0), v(1, 0, 0), v(2, 0, 0)}},
		{RiseUp, []r3.Vec{v(0, 1, 0), v(4, 1, 0)}},
	} {
		_, err := NewPath(c.form, c.pts, false)
		assert.ErrorIs(t, err, ErrPoints, fmt.Sprint(i))
	}
}
