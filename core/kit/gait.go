package kit

import (
	"math"

	"proscen/core/curve"

	"gonum.org/v1/gonum/spatial/r3"
)

// Pace says how somebody goes.
type Pace int

// The paces.
const (
	Walking Pace = iota
	Running
)

// stride is what differs between paces, in shares of the body's height and of a
// step.
type stride struct {
	step      float64 // length of a step at the usual speed, of the height
	usual     float64 // that speed in heights per second
	swingHalf float64 // half of a foot's swing, in steps: over ½ both feet are in the air at times
	lift      float64 // of the foot in mid swing
	bob, lean float64 // of the hips; degrees of the chest
	arms      float64 // degrees
}

var strides = [...]stride{
	Walking: {0.39, 0.8, 0.4, 0.055, 0.008, 3, 24},
	Running: {0.6, 1.9, 0.62, 0.12, 0.02, 11, 42},
}

// Track is a stretch of a path between two distances in metres, gone backward
// when From is greater than To.
type Track struct {
	Path     *curve.Path
	From, To float64
}

// Length returns the length of the stretch in metres.
func (t Track) Length() float64 { return math.Abs(t.To - t.From) }

// Heading returns place and unit direction of travel at a distance in metres
// from the start of the stretch.
func (t Track) Heading(distance float64) (at, dir r3.Vec) {
	if t.From <= t.To {
		return t.Path.Heading(t.From + distance)
	}
	at, dir = t.Path.Heading(t.From - distance)
	return at, r3.Scale(-1, dir)
}

// mark is where a foot is set down.
type mark struct{ at, dir r3.Vec }

// Gait is a walk or run along a track with the feet's marks worked out
// beforehand. The zero value is not a gait; see NewGait.
type Gait struct {
	track  Track
	steps  int
	step   float64 // metres
	height float64
	stride *stride
	marks  [2][]mark // left and right foot, for each step from 0 to steps
}

// NewGait plans the steps of somebody of a height in metres who goes along a
// track in a time in seconds. Whole steps fill its length, shorter ones at a
// lower speed, and both feet stand together at its ends. Floor gives the height
// of the ground at a place; nil takes the track's own.
func NewGait(track Track, pace Pace, height, seconds float64, floor func(at r3.Vec) float64) *Gait {
	s := &strides[pace]
	speed := track.Length() / max(seconds, 1e-3)
	// Step length grows with the root of the speed (walk ratio; N. Sekiya, 1997).
	length := s.step * height * max(0.55, min(1.35, math.Sqrt(speed/(s.usual*height))))
	g := &Gait{track: track, height: height, stride: s}
	g.steps = int(max(1, min(100_000, math.Round(track.Length()/length))))
	g.step = track.Length() / float64(g.steps)
	for side := range g.marks {
		g.marks[side] = make([]mark, g.steps+1)
		for i := range g.marks[side] {
			at, dir := track.Heading(float64(i) * g.step)
			g.marks[side][i] = g.mark(at, dir, side, floor)
		}
	}
	return g
}

func (g *Gait) mark(at, dir r3.Vec, side int, floor func(r3.Vec) float64) mark {
	dir.Y = 0
	if r3.Norm2(dir) < 1e-12 {
		dir = r3.Vec{Z: -1}
	}
	dir = r3.Unit(dir)
	at = r3.Add(at, r3.Scale(float64(2*side-1)*hipHalf*g.height, vec(-dir.Z, 0, dir.X)))
	if floor != nil {
		at.Y = floor(at)
	}
	return mark{at, dir}
}

// StartFacing turns the feet's first marks to where the walker faces (a unit
// direction) before setting off.
func (g *Gait) StartFacing(dir r3.Vec) {
	at, _ := g.track.Heading(0)
	for side := range g.marks {
		y := g.marks[side][0].at.Y
		g.marks[side][0] = g.mark(at, dir, side, func(r3.Vec) float64 { return y })
	}
}

// Floor returns the height of the ground under the body at a distance in metres.
func (g *Gait) Floor(distance float64) float64 {
	b := max(0, min(float64(g.steps), distance/g.step))
	i := min(int(b), g.steps-1)
	t := b - float64(i)
	y := func(i int) float64 { return (g.marks[0][i].at.Y + g.marks[1][i].at.Y) / 2 }
	return y(i) + (y(i+1)-y(i))*t
}

// foot is where a foot is: planted, or in the air by a share of its swing.
type foot struct {
	at      r3.Vec
	heading r3.Vec
	lift    float64 // 0 planted .. 1 highest
	pitch   float64 // degrees, toes down
}

// foot returns where a foot (0 left, 1 right) is when the body has gone a
// distance. Step m takes a foot from the mark (m−2) steps to the mark m steps
// from the start, as the body passes the mark m−1. Odd steps are the left
// foot's. A planted foot depends on its mark alone, so it cannot slide.
func (g *Gait) foot(distance float64, side int) foot {
	body := distance / g.step
	half := g.stride.swingHalf
	parity := 1 - side
	// The last step of this foot that has begun.
	m := min(int(math.Floor(body+1+half)), g.steps+1)
	if (m%2+2)%2 != parity {
		m--
	}
	hold := func(m int) int { return max(0, min(g.steps, m)) }
	from, to := g.marks[side][hold(m-2)], g.marks[side][hold(m)]
	begin, end := max(float64(m-1)-half, 0), min(float64(m-1)+half, float64(g.steps))
	if m <= 0 || body >= end || hold(m-2) == hold(m) {
		return foot{at: to.at, heading: to.dir}
	}
	t := max(0, min(1, (body-begin)/(end-begin)))
	s := smooth(t)
	h := r3.Add(r3.Scale(1-s, from.dir), r3.Scale(s, to.dir))
	if r3.Norm2(h) < 1e-9 {
		h = to.dir
	}
	arc := math.Sin(math.Pi * t)
	at := r3.Add(r3.Scale(1-s, from.at), r3.Scale(s, to.at))
	// Upward the foot rises early and downward late, so that it clears the edge
	// of a stair.
	rise := smooth(min(1, 1.6*t))
	if to.at.Y < from.at.Y {
		rise = smooth(max(0, 1.6*t-0.6))
	}
	at.Y = from.at.Y + (to.at.Y-from.at.Y)*rise + g.stride.lift*g.height*arc
	return foot{at: at, heading: r3.Unit(h), lift: arc, pitch: 38*arc*(1-t)*(1-t)*2 - 14*arc*t}
}

// smooth is the cubic 3t²−2t³.
func smooth(t float64) float64 { return t * t * (3 - 2*t) }
