// Package resection finds where a camera stood from points of the world and where its
// picture shows them (resection, as surveyors call it): its place, its turn and, when it
// is asked for, its focal length. The sum of the squared errors in the picture is made
// least by the method of Levenberg and Marquardt (D. W. Marquardt, "An Algorithm for
// Least-Squares Estimation of Nonlinear Parameters", 1963).
package resection

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Pair is a point of the world in metres and where the picture shows it, from −1 to 1 of
// half its width and height, to the right and up.
type Pair struct {
	World r3.Vec
	X, Y  float64
}

// Lens is what decides where a direction is in the picture.
type Lens struct {
	Half        [2]float64 // mm: half the width and height that the gate covers, the squeeze undone
	Shift       [2]float64 // mm by which the picture sees further right and up
	Focal       float64    // mm
	Free        bool       // the focal length is found too
	Least, Most float64    // mm between which it is
}

// Pose is a camera that was found.
type Pose struct {
	World geom.Mat4
	Focal float64 // mm
	Error float64 // root of the mean square, in half heights of the picture
}

// Least is how many pairs are needed.
const Least = 4

// Errors that say what is missing.
var (
	ErrFew    = fmt.Errorf("a camera is found from %d points or more", Least)
	ErrInLine = errors.New("the points lie in one line; take one that is beside it")
	ErrNone   = errors.New("no camera sees these points so; look whether each is the same point in the picture and in the set")
)

// good is the error in half heights at which the camera that is there already is not
// doubted: one pixel of a picture of 1080 lines.
const good = 1 / 540.0

// enough is how many steps a descent may take: mostly it takes ten, but valleys can be long.
const enough = 400

// Solve finds the camera that shows the points where the picture has them, looking about
// a camera that is there already, and, unless that is as good as can be, from all around
// the points.
func Solve(pairs []Pair, lens Lens, from geom.Mat4) (Pose, error) {
	if err := Check(pairs); err != nil {
		return Pose{}, err
	}
	best, found := descend(pairs, lens, camera{from, lens.Focal}, enough)
	if found && best.Error < good {
		return best, nil
	}
	for _, p := range around(pairs, lens) {
		// What is there is only left for something clearly better.
		if p, ok := descend(pairs, lens, camera{p.World, p.Focal}, enough); ok && (!found || p.Error < 0.9*best.Error) {
			best, found = p, true
		}
	}
	if !found {
		return Pose{}, ErrNone
	}
	return best, nil
}

// Check says what is missing for a camera to be found, if anything.
func Check(pairs []Pair) error {
	if len(pairs) < Least {
		return ErrFew
	}
	if inLine(pairs) {
		return ErrInLine
	}
	return nil
}

// inLine tells whether points are all near one line, by what they are away from the one
// between the two that are farthest from each other.
func inLine(pairs []Pair) bool {
	a, b, far := r3.Vec{}, r3.Vec{}, 0.0
	for i := range pairs {
		for j := range i {
			if d := r3.Norm(r3.Sub(pairs[i].World, pairs[j].World)); d > far {
				a, b, far = pairs[j].World, pairs[i].World, d
			}
		}
	}
	if far < 1e-6 {
		return true
	}
	line := r3.Unit(r3.Sub(b, a))
	return !slices.ContainsFunc(pairs, func(p Pair) bool {
		return r3.Norm(r3.Cross(line, r3.Sub(p.World, a))) > 1e-3*far
	})
}

// camera is one that is tried.
type camera struct {
	World geom.Mat4
	Focal float64
}

// around returns the best few of cameras all around the points, each as far away as the
// points are large in the picture.
func around(pairs []Pair, lens Lens) []Pose {
	var middle r3.Vec
	for _, p := range pairs {
		middle = r3.Add(middle, r3.Scale(1/float64(len(pairs)), p.World))
	}
	size, seen, mx, my := 0.0, 0.0, 0.0, 0.0
	for _, p := range pairs {
		mx, my = mx+p.X/float64(len(pairs)), my+p.Y/float64(len(pairs))
	}
	for _, p := range pairs {
		size += r3.Norm2(r3.Sub(p.World, middle))
		seen += square((p.X-mx)*lens.Half[0]) + square((p.Y-my)*lens.Half[1])
	}
	focals := []float64{lens.Focal}
	if lens.Free {
		focals = []float64{lens.Half[0], 2 * lens.Half[0], 4.5 * lens.Half[0]} // wide, usual and long for the gate
	}
	var tried []Pose
	for _, f := range focals {
		away := f * math.Sqrt(size/max(seen, 1e-9))
		for _, tilt := range []float64{20, -8, -30, -60, -85} {
			for pan := 0.0; pan < 360; pan += 30 {
				m := geom.PanTiltRoll(pan, tilt, 0)
				at := r3.Add(middle, m.Dir(r3.Vec{Z: away}))
				if p, ok := descend(pairs, lens, camera{m.At(at), f}, 6); ok {
					tried = append(tried, p)
				}
			}
		}
	}
	slices.SortStableFunc(tried, func(a, b Pose) int {
		switch {
		case a.Error < b.Error:
			return -1
		case a.Error > b.Error:
			return 1
		}
		return 0
	})
	return tried[:min(len(tried), 6)]
}

func square(x float64) float64 { return x * x }

// unknowns is how many values are found: three of the turn, three of the place, and the
// logarithm of the focal length.
const unknowns = 7

// descend goes from a camera down to the nearest one with the least error.
func descend(pairs []Pair, lens Lens, c camera, steps int) (Pose, bool) {
	n := unknowns
	if !lens.Free {
		n--
		c.Focal = lens.Focal
	}
	damping := 1e-3
	var a [unknowns][unknowns]float64
	var g, step [unknowns]float64
	now := linear(pairs, lens, c, &a, &g)
	if math.IsInf(now, 1) {
		return Pose{}, false
	}
	for range steps {
		if !solve(&a, &g, damping, n, &step) {
			damping *= 10
			continue
		}
		next := c.moved(&step, lens)
		if e := linear(pairs, lens, next, nil, nil); e < now {
			done := now-e <= 1e-14+1e-10*now
			c = next
			now = linear(pairs, lens, c, &a, &g)
			damping = max(1e-12, damping*0.2)
			if done {
				break
			}
		} else if damping *= 8; damping > 1e12 {
			break
		}
	}
	return Pose{c.World, c.Focal, math.Sqrt(now / float64(len(pairs)))}, true
}

// moved returns the camera turned and moved by a step in its own directions.
func (c camera) moved(step *[unknowns]float64, lens Lens) camera {
	turn := r3.Vec{X: step[0], Y: step[1], Z: step[2]}
	at := r3.Add(c.World.Origin(), c.World.Dir(r3.Vec{X: step[3], Y: step[4], Z: step[5]}))
	if angle := r3.Norm(turn); angle > 0 {
		by := geom.AxisTurn(geom.Degrees(angle), r3.Unit(turn))
		c.World = c.World.Mul(&by)
	}
	c.World = c.World.At(at)
	if lens.Free {
		c.Focal = min(max(c.Focal*math.Exp(min(max(step[6], -1), 1)), lens.Least), lens.Most)
	}
	return c
}

// linear returns the sum of the squared errors of a camera in half heights, and adds up
// the normal equations of what small changes do to it: a·step = −g. It is infinite when
// a point is behind the lens.
func linear(pairs []Pair, lens Lens, c camera, a *[unknowns][unknowns]float64, g *[unknowns]float64) (sum float64) {
	if a != nil {
		*a, *g = [unknowns][unknowns]float64{}, [unknowns]float64{}
	}
	w, from := &c.World, c.World.Origin()
	f := c.Focal / lens.Half[1] // of both directions, so that errors are as long to the side as up
	shift := [2]float64{lens.Shift[0] / lens.Half[1], lens.Shift[1] / lens.Half[1]}
	aspect := lens.Half[0] / lens.Half[1]
	for _, p := range pairs {
		d := r3.Sub(p.World, from)
		x, y, z := w[0]*d.X+w[4]*d.Y+w[8]*d.Z, w[1]*d.X+w[5]*d.Y+w[9]*d.Z, -(w[2]*d.X + w[6]*d.Y + w[10]*d.Z)
		if z < 1e-3 {
			return math.Inf(1)
		}
		u, v := f*x/z, f*y/z
		off := [2]float64{u - shift[0] - p.X*aspect, v - shift[1] - p.Y}
		sum += off[0]*off[0] + off[1]*off[1]
		if a == nil {
			continue
		}
		// The camera's turn by (i, j, k) and move by m changes a point q in its own directions,
		// which looks along −Z, by −(i, j, k)×q − m.
		rows := [2][unknowns]float64{
			{-f * x * y / (z * z), f * (1 + x*x/(z*z)), f * y / z, -f / z, 0, -f * x / (z * z), u},
			{-f * (1 + y*y/(z*z)), f * x * y / (z * z), -f * x / z, 0, -f / z, -f * y / (z * z), v},
		}
		for r, row := range rows {
			for i := range unknowns {
				g[i] += row[i] * off[r]
				for j := range i + 1 {
					a[i][j] += row[i] * row[j]
				}
			}
		}
	}
	return sum
}

// solve finds the step of the damped normal equations by Cholesky's decomposition of
// their lower half.
func solve(a *[unknowns][unknowns]float64, g *[unknowns]float64, damping float64, n int, step *[unknowns]float64) bool {
	var l [unknowns][unknowns]float64
	for i := range n {
		for j := range i + 1 {
			s := a[i][j]
			if i == j {
				s += damping * max(s, 1e-9)
			}
			for k := range j {
				s -= l[i][k] * l[j][k]
			}
			if i != j {
				l[i][j] = s / l[j][j]
				continue
			}
			if s <= 0 {
				return false
			}
			l[i][i] = math.Sqrt(s)
		}
	}
	for i := range n {
		s := -g[i]
		for k := range i {
			s -= l[i][k] * step[k]
		}
		step[i] = s / l[i][i]
	}
	for i := n - 1; i >= 0; i-- {
		s := step[i]
		for k := i + 1; k < n; k++ {
			s -= l[k][i] * step[k]
		}
		step[i] = s / l[i][i]
	}
	return true
}
