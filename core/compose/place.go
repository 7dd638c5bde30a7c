package compose

import (
	"errors"
	"fmt"
	"math"

	"proscen/core/geom"
	"proscen/core/motion"

	"gonum.org/v1/gonum/spatial/r3"
)

// Lens is what decides how large things are: the angles that the gate covers in
// degrees, the shift as tangents, and the focal length in mm.
type Lens struct {
	Focal float64    `json:"focal"`
	HFov  float64    `json:"hfov"`
	VFov  float64    `json:"vfov"`
	Shift [2]float64 `json:"shift"`
}

// Angle is from where a picture looks at a person.
type Angle string

// The angles.
const (
	Eye      Angle = "eye"
	Low      Angle = "low"
	High     Angle = "high"
	Overhead Angle = "overhead"
	Over     Angle = "over the shoulder"
)

// Angles lists the angles in the order in which they are offered.
var Angles = []Angle{Eye, Low, High, Overhead, Over}

// Heights of the camera by angle: degrees that the line from the face to the
// lens rises.
var rise = map[Angle]float64{Low: -20, High: 27}

// Wish is the picture that is asked for.
type Wish struct {
	Subjects []motion.Figure // one, or two for both in the picture
	Thing    *Thing          // what the one subject is when it is no person
	Over     *motion.Figure  // for over the shoulder: whose
	Size     Size
	Angle    Angle
	Around   float64 // degrees from straight in front of the subject, positive to its own right
	X        float64 // where the face sits, −1 to 1
	Lens     Lens
}

// Pose is where a camera stands and how it is turned, and what that gives.
type Pose struct {
	At              r3.Vec
	Pan, Tilt, Roll float64
	Distance        float64 // metres to the face
}

// ErrLens says that a picture needs another lens.
type ErrLens struct {
	Over  string  // who would be in front of the lens
	Needs float64 // the shortest focal length in mm that does
}

func (e *ErrLens) Error() string {
	return fmt.Sprintf("with this lens the camera would stand in front of %s; use at least %.0f mm, or a wider size", e.Over, math.Ceil(e.Needs))
}

// errNone says that no distance gives the picture.
var errNone = errors.New("there is no place for the camera that gives this size; choose another angle or lens")

const (
	nearest  = 0.05  // metres from the face
	farthest = 900.0 // metres
	clearOf  = 0.4   // metres behind a shoulder
	lowest   = 0.18  // metres above the floor that somebody stands on
)

// Place returns where a camera stands for a picture. The line from the top of
// the head straight down is aimed so that it meets the picture's headroom line,
// and the distance solved so that its cut line meets the lower edge: for every
// distance the first is exact (motion.AimFramed), and the second is found by
// halving, since a person only shrinks as the camera goes away.
func Place(w Wish) (Pose, error) {
	if len(w.Subjects) == 0 {
		return Pose{}, errors.New("choose whom the picture is of")
	}
	if w.Thing != nil {
		return placeThing(w)
	}
	f := pair(w.Subjects)
	if w.Angle == Overhead {
		return overhead(w, f), nil
	}
	top, cut := f.Top, f.Top
	top.Y -= w.Size.Top * f.Stature
	cut.Y -= w.Size.Cut * f.Stature
	headline := 1 - 2*w.Size.Headroom
	stand, least, err := standing(w, f)
	if err != nil {
		return Pose{}, err
	}
	pose := func(d float64) (Pose, float64) {
		at := stand(d)
		p, t := motion.AimFramed(r3.Sub(top, at), [2]float64{w.X, headline}, w.Lens.HFov, w.Lens.VFov, 0, w.Lens.Shift)
		c := motion.CameraState{World: geom.PanTiltRoll(p, t, 0).At(at), HFov: w.Lens.HFov, VFov: w.Lens.VFov, Shift: w.Lens.Shift}
		_, y, depth := c.Project(cut)
		if depth <= 0 {
			y = -1e6
		}
		return Pose{At: at, Pan: p, Tilt: t, Distance: r3.Norm(r3.Sub(f.Eyes, at))}, y + 1
	}
	lo, hi := nearest, farthest
	if _, off := pose(hi); off < 0 {
		return Pose{}, errNone
	}
	// From afar down to the first distance that is too near.
	for d := hi; d > lo; d *= 0.8 {
		if _, off := pose(d); off < 0 {
			lo = d
			break
		}
		hi = d
	}
	if _, off := pose(lo); off > 0 {
		return Pose{}, errNone
	}
	for range 60 {
		mid := (lo + hi) / 2
		if _, off := pose(mid); off < 0 {
			lo = mid
		} else {
			hi = mid
		}
	}
	out, _ := pose(hi)
	if len(w.Subjects) == 2 {
		hi = max(hi, bothWithin(w, f, pose, hi))
		out, _ = pose(hi)
	}
	if hi < least {
		return Pose{}, &ErrLens{w.Over.Name, w.Lens.Focal * least / hi}
	}
	return out, nil
}

// pair returns the person that a picture is made for: of two, one between them
// who is as tall as the taller.
func pair(s []motion.Figure) motion.Figure {
	f := s[0]
	if len(s) < 2 {
		return f
	}
	g := s[1]
	f.Eyes = r3.Scale(0.5, r3.Add(f.Eyes, g.Eyes))
	f.Top = r3.Scale(0.5, r3.Add(f.Top, g.Top))
	f.Top.Y = max(s[0].Top.Y, g.Top.Y)
	f.Feet = r3.Scale(0.5, r3.Add(f.Feet, g.Feet))
	f.Stature = max(f.Stature, g.Stature)
	// Two are looked at from the side: across the line between them.
	across := r3.Cross(r3.Sub(g.Eyes, s[0].Eyes), r3.Vec{Y: 1})
	if r3.Norm(across) > 1e-6 {
		f.Front = r3.Unit(across)
	}
	return f
}

// standing returns where the camera is at a distance from the face along the
// ground, and the least distance that is allowed.
func standing(w Wish, f motion.Figure) (func(d float64) r3.Vec, float64, error) {
	floor := f.Feet.Y + lowest
	if w.Angle == Over {
		if w.Over == nil {
			return nil, 0, errors.New("choose over whose shoulder the picture looks")
		}
		away := r3.Sub(w.Over.Eyes, f.Eyes)
		away.Y = 0
		if r3.Norm(away) < 0.3 {
			return nil, 0, fmt.Errorf("%s and %s stand too close for a picture over the shoulder", f.Name, w.Over.Name)
		}
		away = r3.Unit(away)
		right := r3.Cross(r3.Vec{Y: 1}, away)
		side := 1.0
		if w.X < 0 { // the subject to the left: past the left shoulder
			side = -1
		}
		shoulder := r3.Add(w.Over.Eyes, r3.Scale(side*0.2*w.Over.Stature, right))
		line := r3.Sub(shoulder, f.Eyes)
		line.Y = 0
		least := r3.Norm(line) + clearOf
		line = r3.Unit(line)
		height := max(floor, w.Over.Eyes.Y+0.02*w.Over.Stature)
		return func(d float64) r3.Vec {
			at := r3.Add(f.Eyes, r3.Scale(d, line))
			at.Y = height
			return at
		}, least, nil
	}
	turn := geom.RotateY(-w.Around)
	way := turn.Dir(f.Front)
	up := geom.Radians(rise[w.Angle])
	return func(d float64) r3.Vec {
		at := r3.Add(f.Eyes, r3.Scale(d*math.Cos(up), way))
		at.Y = max(floor, f.Eyes.Y+d*math.Sin(up))
		return at
	}, 0, nil
}

// bothWithin returns the distance from which two people stand within the picture
// with some room at its sides.
func bothWithin(w Wish, f motion.Figure, pose func(float64) (Pose, float64), from float64) float64 {
	fits := func(d float64) bool {
		p, _ := pose(d)
		c := motion.CameraState{World: geom.PanTiltRoll(p.Pan, p.Tilt, 0).At(p.At), HFov: w.Lens.HFov, VFov: w.Lens.VFov, Shift: w.Lens.Shift}
		for _, s := range w.Subjects {
			x, _, depth := c.Project(s.Eyes)
			room := 0.13 * f.Stature / max(0.1, depth) / math.Tan(geom.Radians(w.Lens.HFov/2))
			if depth <= 0 || math.Abs(x)+room > 0.95 {
				return false
			}
		}
		return true
	}
	d := from
	for !fits(d) && d < farthest {
		d *= 1.04
	}
	return d
}

// overhead looks straight down at a person; up in the picture is where they
// look to.
func overhead(w Wish, f motion.Figure) Pose {
	ty, tx := math.Tan(geom.Radians(w.Lens.VFov/2)), math.Tan(geom.Radians(w.Lens.HFov/2))
	d := w.Size.Statures() * f.Stature / (2 * ty)
	pan, _ := geom.Toward(f.Front)
	m := geom.PanTiltRoll(pan, -90, 0)
	at := f.Top
	at.Y += d
	at = r3.Add(at, m.Dir(r3.Vec{X: -d * (w.X*tx + w.Lens.Shift[0]), Y: -d * w.Lens.Shift[1]}))
	return Pose{At: at, Pan: pan, Tilt: -90, Distance: r3.Norm(r3.Sub(f.Eyes, at))}
}

// LookingRoom returns where a face sits so that there is room in the direction
// that it looks to: against the side to which its look points in a picture
// taken from an angle around it. Amount is the share of half the picture's
// width, 0 for the middle.
func LookingRoom(around, amount float64) float64 {
	return -amount * math.Sin(geom.Radians(around))
}
