package kit

import (
	"math"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Arm says how an arm is held, in degrees from hanging straight down: Raise
// forward, Spread to the outside, Turn about its own length (positive turns the
// inside of the elbow up when it is spread), Bend of the elbow. Hold brings the
// palm to a place At in the world, from 0 (not at all) to 1 (as far as the arm
// goes).
type Arm struct {
	Raise, Spread, Turn, Bend float64
	Hold                      float64
	At                        r3.Vec
}

// Posture is what a body does besides standing and going. Its numbers blend;
// the zero value is the body at ease.
type Posture struct {
	Arms     [2]Arm     // left, right
	Sink     float64    // metres by which the hips are lowered
	Back     float64    // metres by which they are moved back
	Aside    float64    // metres by which they are moved to the right
	Lean     float64    // degrees by which the chest leans forward
	Twist    float64    // degrees by which it turns to the left
	LookPan  float64    // degrees to the left of straight ahead, for the head
	LookTilt float64    // degrees up
	Eyes     [2]float64 // degrees to the left and up by which the eyes look aside of the head
}

// Mix returns the posture a share t of the way from p to q.
func (p *Posture) Mix(q *Posture, t float64) Posture {
	l := func(a, b float64) float64 { return a + (b-a)*t }
	out := Posture{
		Sink: l(p.Sink, q.Sink), Back: l(p.Back, q.Back), Aside: l(p.Aside, q.Aside), Lean: l(p.Lean, q.Lean), Twist: l(p.Twist, q.Twist),
		LookPan: l(p.LookPan, q.LookPan), LookTilt: l(p.LookTilt, q.LookTilt),
		Eyes: [2]float64{l(p.Eyes[0], q.Eyes[0]), l(p.Eyes[1], q.Eyes[1])},
	}
	for i := range out.Arms {
		a, b := &p.Arms[i], &q.Arms[i]
		o := Arm{Raise: l(a.Raise, b.Raise), Spread: l(a.Spread, b.Spread), Turn: l(a.Turn, b.Turn), Bend: l(a.Bend, b.Bend), Hold: l(a.Hold, b.Hold)}
		switch { // a place counts as far as it is held to
		case a.Hold == 0:
			o.At = b.At
		case b.Hold == 0:
			o.At = a.At
		default:
			o.At = r3.Add(r3.Scale(1-t, a.At), r3.Scale(t, b.At))
		}
		out.Arms[i] = o
	}
	return out
}

// Stance says how a mannequin stands for Pose: where its ground point is and
// where it faces. Gait is nil when it stands still; its feet then stand at
// FootPan, raised by FootLift metres.
type Stance struct {
	Ground   r3.Vec
	Pan      float64 // degrees, as PanTiltRoll
	Height   float64 // metres
	Gait     *Gait
	Distance float64 // metres gone along the gait's track
	FootPan  [2]float64
	FootLift [2]float64
	Seconds  float64 // for breathing
	Skull    float64 // the head's size, 1 for the average
	Stoop    float64 // degrees by which the chest always leans forward
	Mouth    float64 // how far it is open, from 0 to 1
	Posture
}

// Palm returns the middle of a hand in the space of its joint, for a body
// height in metres.
func Palm(height float64) r3.Vec { return vec(0, -palm*height, 0) }

// ShoulderHeight and ArmLength are shares of the body's height.
const (
	ShoulderHeight = hipHeight + waist + shoulder
	ArmLength      = upperArm + forearm + palm
	HipHeight      = hipHeight
	WaistHeight    = waist    // above the hips
	ShoulderAbove  = shoulder // above the waist
	ShoulderAside  = shoulderX
)

// Pose fills the world matrices of all joints. It allocates nothing.
func Pose(s *Stance, out *[Joints]geom.Mat4) {
	h := s.Height
	root := geom.RotateY(s.Pan).At(s.Ground)
	right, back := root.Dir(vec(1, 0, 0)), root.Dir(vec(0, 0, 1))

	var feet [2]foot
	swing, bob, lean, arms, bent := 0.0, 0.0, 0.0, 0.0, 0.0
	if g := s.Gait; g != nil {
		feet[0], feet[1] = g.foot(s.Distance, 0), g.foot(s.Distance, 1)
		body := s.Distance / g.step
		ends := min(1, min(body, float64(g.steps)-body))
		swing = math.Cos(math.Pi*(body+0.5)) * ends
		bob = -g.stride.bob * h * (1 - math.Cos(2*math.Pi*body)) * ends
		lean, arms = g.stride.lean*ends, g.stride.arms
		if g.stride == &strides[Running] {
			bent = 62 * ends
			bob -= 0.02 * h * ends
		}
	} else {
		for i := range feet {
			turn := geom.RotateY(s.FootPan[i])
			side := turn.Dir(vec(float64(2*i-1)*hipHalf*h, s.FootLift[i], 0))
			feet[i] = foot{at: r3.Add(s.Ground, side), heading: turn.Dir(vec(0, 0, -1))}
		}
	}
	breath := math.Sin(s.Seconds*1.7) * 0.5

	// The pelvis sinks as far as the legs must reach.
	middle := r3.Add(s.Ground, r3.Add(r3.Scale(s.Back, back), r3.Scale(s.Aside, right)))
	hip := hipHeight*h + bob - s.Sink
	reach := (thigh + shin) * h * 0.998
	for i, f := range feet {
		d := r3.Sub(f.at, r3.Add(middle, r3.Scale(float64(2*i-1)*hipHalf*h, right)))
		if v := reach*reach - d.X*d.X - d.Z*d.Z; v > 0 {
			hip = min(hip, d.Y+ankle*h+math.Sqrt(v))
		}
	}
	base := root.At(r3.Add(middle, vec(0, hip, 0)))
	turn := geom.RotateY(5 * swing)
	out[Pelvis] = base.Mul(&turn)
	chest := geom.PanTiltRoll(s.Twist-9*swing, -lean-s.Lean-s.Stoop+breath, 0).At(vec(0, waist*h, 0))
	out[Chest] = base.Mul(&chest)
	// The head stays level, however the chest leans.
	head := geom.PanTiltRoll(s.LookPan-s.Twist+9*swing, s.LookTilt+lean+s.Lean+s.Stoop-breath, 0).At(vec(0, neck*h, 0))
	out[Head] = out[Chest].Mul(&head)
	s.face(out)

	for i, side := range [2]float64{-1, 1} {
		f := feet[i]
		// Leg: hip joint to ankle with the knee bent forward.
		top := out[Pelvis].Point(vec(side*hipHalf*h, 0, 0))
		foot := geom.Between(vec(0, 0, 0), vec(0, -1, 0), f.heading)
		tip := geom.RotateX(-f.pitch)
		foot = foot.Mul(&tip).At(r3.Add(f.at, vec(0, ankle*h+f.lift*f.pitch*0.0008*h, 0)))
		ankleAt := foot.Origin()
		knee := bend(top, ankleAt, thigh*h, shin*h, f.heading)
		j := ThighLeft + Joint(3*i)
		out[j] = geom.Between(top, knee, f.heading)
		out[j+1] = geom.Between(knee, ankleAt, f.heading)
		out[j+2] = foot
		armPose(s, i, -side*arms*swing, bent, out)
	}
}

// face places what moves in the face.
func (s *Stance) face(out *[Joints]geom.Mat4) {
	size := s.Height * s.Skull
	look := geom.PanTiltRoll(s.Eyes[0], s.Eyes[1], 0)
	for i, side := range [2]float64{-1, 1} {
		eye := look.At(vec(side*eyeAt.X*size, eyeAt.Y*size, eyeAt.Z*size))
		out[EyeLeft+Joint(i)] = out[Head].Mul(&eye)
	}
	open := max(0, min(1, s.Mouth))
	lips := geom.Translate(r3.Scale(size, r3.Add(mouthAt, vec(0, -0.003*open, 0))))
	lips[5] = 0.18 + 0.8*open
	out[Mouth] = out[Head].Mul(&lips)
}

// armPose places one arm. It swings against the leg of its side, less the more
// it is held otherwise.
func armPose(s *Stance, i int, swing, bent float64, out *[Joints]geom.Mat4) {
	a, h, side := &s.Arms[i], s.Height, float64(2*i-1)
	free := max(0, 1-(math.Abs(a.Raise)+math.Abs(a.Spread)+math.Abs(a.Bend))/40)
	swing *= free
	m := geom.RotateZ(side * (7 + a.Spread))
	x, y := geom.RotateX(2+a.Raise+swing), geom.RotateY(side*a.Turn)
	m = m.Mul(&x)
	m = m.Mul(&y).At(vec(side*shoulderX*h, (shoulder-0.01)*h, 0))
	j := UpperArmLeft + Joint(3*i)
	out[j] = out[Chest].Mul(&m)
	fore := geom.RotateX(14 + a.Bend + bent*free + max(0, swing)*0.7).At(vec(0, -upperArm*h, 0))
	out[j+1] = out[j].Mul(&fore)
	hand := geom.Translate(vec(0, -forearm*h, 0))
	out[j+2] = out[j+1].Mul(&hand)
	if a.Hold <= 0 {
		return
	}
	// The palm is brought from where it hangs toward its place, the elbow
	// staying on its side of the arm.
	top, elbow := out[j].Origin(), out[j+1].Origin()
	from := out[j+2].Point(Palm(h))
	to := r3.Add(from, r3.Scale(min(1, a.Hold), r3.Sub(a.At, from)))
	d := r3.Sub(to, top)
	far := r3.Norm(d)
	if far < 1e-6 {
		return
	}
	d = r3.Scale(1/far, d)
	wrist := r3.Add(top, r3.Scale(max(0.05*h, min((upperArm+forearm)*h*0.995, far-palm*h)), d))
	pole := r3.Sub(elbow, r3.Scale(0.5, r3.Add(top, from)))
	outside := out[Chest].Dir(vec(side*0.5, -0.6, 0.4))
	pole = r3.Add(r3.Scale(1-0.8*a.Hold, pole), r3.Scale(0.1*h*a.Hold, outside))
	elbow = bend(top, wrist, upperArm*h, forearm*h, pole)
	out[j] = geom.Between(top, elbow, r3.Sub(wrist, top))
	out[j+1] = geom.Between(elbow, wrist, r3.Sub(wrist, top))
	out[j+2] = geom.Between(wrist, r3.Add(wrist, d), out[Chest].Dir(vec(0, 0.3, -1)))
}

// bend returns the middle joint of a two-part limb from a to c with lengths l1
// and l2, bent toward a direction; a limb too short is stretched straight.
func bend(a, c r3.Vec, l1, l2 float64, toward r3.Vec) r3.Vec {
	ac := r3.Sub(c, a)
	d := r3.Norm(ac)
	if d < 1e-9 {
		return r3.Add(a, vec(0, -l1, 0))
	}
	u := r3.Scale(1/d, ac)
	along := max(0, min(d, (d*d+l1*l1-l2*l2)/(2*d)))
	if d >= l1+l2 {
		return r3.Add(a, r3.Scale(d*l1/(l1+l2), u))
	}
	side := r3.Sub(toward, r3.Scale(r3.Dot(toward, u), u))
	if r3.Norm2(side) < 1e-12 {
		return r3.Add(a, r3.Scale(along, u))
	}
	return r3.Add(a, r3.Add(r3.Scale(along, u), r3.Scale(math.Sqrt(max(0, l1*l1-along*along)), r3.Unit(side))))
}
