// Package curve holds what moves things: channels of keys over frames, and
// paths in space measured by their length.
package curve

import (
	"math"
	"sort"
)

// Ease says how a value leaves and reaches a key.
type Ease string

// The four eases. Hold keeps the value until the next key. Even goes straight
// to the neighbouring key. Soft has no slope at the ends of a move and never
// passes a key's value in between. Shaped follows its handles.
const (
	Hold   Ease = "hold"
	Even   Ease = "even"
	Soft   Ease = "soft"
	Shaped Ease = "shaped"
)

// Eases lists the eases in the order in which they are offered.
var Eases = []Ease{Soft, Even, Hold, Shaped}

// Blend returns how far a move with an ease at both ends has come when a share
// of its time, from 0 to 1, has passed: even goes straight, all others as soft
// keys do, 3s² − 2s³.
func Blend(ease Ease, share float64) float64 {
	share = clamp(share, 0, 1)
	if ease == Even {
		return share
	}
	return share * share * (3 - 2*share)
}

// Handle is the lever of a shaped key: frames away from the key (positive on
// both sides) and the change of value at its end.
type Handle struct {
	Frames float64 `json:"frames"`
	Value  float64 `json:"value"`
}

// Key is a value at a frame.
type Key struct {
	Frame float64 `json:"frame"`
	Value float64 `json:"value"`
	Ease  Ease    `json:"ease"`
	In    *Handle `json:"in,omitempty"`
	Out   *Handle `json:"out,omitempty"`
	// On, for the focus of a camera, is a node: the value is then the distance to
	// it at every frame, and Value what it was when the key was set.
	On string `json:"on,omitempty"`
}

// segment is one cubic between two keys: Bézier control values y0..y3 over
// control frames x0, x0+a, x3−b, x3.
type segment struct {
	x0, x3, a, b   float64
	y0, y1, y2, y3 float64
	hold, linear   bool // linear: frame grows evenly with the parameter
}

// Channel is a compiled list of keys. The zero value has no keys and evaluates
// to 0.
type Channel struct {
	keys []Key
	segs []segment
}

// NewChannel compiles keys, in any order, into a channel. Of two keys at the
// same frame the later in the list counts.
func NewChannel(keys []Key) Channel {
	sorted := make([]Key, len(keys))
	copy(sorted, keys)
	sort.SliceStable(sorted, func(i, j int) bool { return sorted[i].Frame < sorted[j].Frame })
	out := sorted[:0]
	for _, k := range sorted {
		if n := len(out); n > 0 && out[n-1].Frame == k.Frame {
			out[n-1] = k
			continue
		}
		out = append(out, k)
	}
	c := Channel{keys: out}
	if len(out) > 1 {
		c.segs = make([]segment, len(out)-1)
		for i := range c.segs {
			c.segs[i] = c.cubic(i)
		}
	}
	return c
}

// Keys returns the compiled keys in order of frame. The caller does not change
// them.
func (c *Channel) Keys() []Key { return c.keys }

// Len returns the number of keys.
func (c *Channel) Len() int { return len(c.keys) }

// cubic builds the segment after key i. Handles are held to the length of the
// segment: with both control frames inside [x0, x3] the frame never runs back,
// since its derivative is then at least (1−2t)²·(x3−x0) ≥ 0.
func (c *Channel) cubic(i int) segment {
	k, n := c.keys[i], c.keys[i+1]
	l := n.Frame - k.Frame
	s := segment{x0: k.Frame, x3: n.Frame, a: l / 3, b: l / 3, y0: k.Value, y1: k.Value, y2: n.Value, y3: n.Value}
	if k.Ease == Hold {
		s.hold = true
		return s
	}
	secant := (n.Value - k.Value) / l
	if k.Ease == Shaped && k.Out != nil {
		s.a = clamp(k.Out.Frames, 0, l)
		s.y1 = k.Value + k.Out.Value
	} else {
		s.y1 = k.Value + c.slope(i, k.Ease, secant)*l/3
	}
	if n.Ease == Shaped && n.In != nil {
		s.b = clamp(n.In.Frames, 0, l)
		s.y2 = n.Value + n.In.Value
	} else {
		s.y2 = n.Value - c.slope(i+1, n.Ease, secant)*l/3
	}
	s.linear = s.a == l/3 && s.b == l/3
	return s
}

// slope returns the slope in value per frame with which the segment meets key
// i. Soft slopes are zero at the ends of a move and at extremes, and the
// weighted harmonic mean of both secants in between, which keeps the cubic
// monotone (F. N. Fritsch and J. Butland, 1984).
func (c *Channel) slope(i int, ease Ease, secant float64) float64 {
	if ease == Even {
		return secant
	}
	if i == 0 || i == len(c.keys)-1 || c.keys[i-1].Ease == Hold || ease == Hold {
		return 0
	}
	p, k, n := c.keys[i-1], c.keys[i], c.keys[i+1]
	hl, hr := k.Frame-p.Frame, n.Frame-k.Frame
	dl, dr := (k.Value-p.Value)/hl, (n.Value-k.Value)/hr
	if dl*dr <= 0 {
		return 0
	}
	w1, w2 := 2*hr+hl, hr+2*hl
	return (w1 + w2) / (w1/dl + w2/dr)
}

// At returns the value at a frame; before the first and after the last key
// their values hold.
func (c *Channel) At(frame float64) float64 {
	n := len(c.keys)
	if n == 0 {
		return 0
	}
	if frame <= c.keys[0].Frame || n == 1 {
		return c.keys[0].Value
	}
	if frame >= c.keys[n-1].Frame {
		return c.keys[n-1].Value
	}
	lo, hi := 0, n-2
	for lo < hi {
		mid := (lo + hi + 1) / 2
		if c.keys[mid].Frame <= frame {
			lo = mid
		} else {
			hi = mid - 1
		}
	}
	s := &c.segs[lo]
	if s.hold {
		return s.y0
	}
	return s.value(s.parameter(frame))
}

func (s *segment) value(t float64) float64 {
	u := 1 - t
	return u*u*u*s.y0 + 3*u*u*t*s.y1 + 3*u*t*t*s.y2 + t*t*t*s.y3
}

// parameter finds t with x(t) = frame: Newton's method inside a bracket.
func (s *segment) parameter(frame float64) float64 {
	l := s.x3 - s.x0
	x := (frame - s.x0) / l
	if s.linear {
		return x
	}
	a, b := s.a/l, 1-s.b/l
	lo, hi, t := 0.0, 1.0, x
	for range 64 {
		u := 1 - t
		f := 3*u*u*t*a + 3*u*t*t*b + t*t*t - x
		if math.Abs(f) < 1e-12 {
			break
		}
		if f > 0 {
			hi = t
		} else {
			lo = t
		}
		d := 3 * (u*u*a + 2*u*t*(b-a) + t*t*(1-b))
		next := t - f/d
		if !(next > lo && next < hi) { // also when d is 0
			next = (lo + hi) / 2
		}
		t = next
	}
	return t
}

// Overshoot is a stretch between two keys in which the value passes beyond
// both of theirs, by at most By in the channel's unit.
type Overshoot struct {
	From float64 `json:"from"` // frames
	To   float64 `json:"to"`
	By   float64 `json:"by"`
}

// Overshoots lists the stretches in which the channel passes beyond its keys;
// only shaped keys can make it do so.
func (c *Channel) Overshoots() []Overshoot {
	var out []Overshoot
	for i := range c.segs {
		s := &c.segs[i]
		if s.hold {
			continue
		}
		lo, hi, worst := min(s.y0, s.y3), max(s.y0, s.y3), 0.0
		for n := 1; n < 64; n++ {
			v := s.value(float64(n) / 64)
			worst = max(worst, lo-v, v-hi)
		}
		if worst >= 1e-9 {
			out = append(out, Overshoot{s.x0, s.x3, worst})
		}
	}
	return out
}

// Speed returns how fast the value changes at a frame, in its unit for each
// frame: over a hundredth of a frame to both sides.
func (c *Channel) Speed(frame float64) float64 {
	const h = 0.01
	return (c.At(frame+h) - c.At(frame-h)) / (2 * h)
}

func clamp(v, lo, hi float64) float64 { return max(lo, min(hi, v)) }

// Unwrap returns the angle in degrees that equals next modulo 360 and lies
// within 180 of prev, so that a turn goes the short way.
func Unwrap(prev, next float64) float64 {
	return prev + math.Remainder(next-prev, 360)
}
