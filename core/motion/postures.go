package motion

import (
	"math"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// defaultSeat is the height of a seat in metres.
const defaultSeat = 0.46

// posture returns how action k of a cast member holds the body.
func (s *Scene) posture(n *Node, k int, frame float64) (p kit.Posture) {
	if k < 0 {
		return p
	}
	a, h := &n.acts[k], n.Entity.Cast.Height
	sec := frame / s.rate
	switch a.do {
	case scene.Sit:
		seat := a.seat
		if seat == 0 {
			seat = defaultSeat
		}
		p.Sink = kit.HipHeight*h - seat - 0.055*h
		p.Back = 0.2 * h
		p.Lean = 2
		for i := range p.Arms {
			p.Arms[i] = kit.Arm{Raise: 28, Bend: 42, Turn: 14}
		}
	case scene.Crouch:
		p.Sink, p.Lean, p.Back = 0.24*h, 26, 0.05*h
		for i := range p.Arms {
			p.Arms[i] = kit.Arm{Raise: 38, Bend: 62, Spread: 4}
		}
	case scene.Idle:
		wander := func(speed float64, lane int) float64 { return kit.Noise(sec*speed+40*a.seed, float64(lane)*7.3, 3) }
		p.Aside = 0.022 * h * wander(0.35, 1)
		p.Lean = 1.5 + 2*wander(0.3, 2)
		p.LookPan, p.LookTilt = 42*wander(0.45, 3), 10*wander(0.4, 4)-2
		for i := range p.Arms {
			p.Arms[i] = kit.Arm{Raise: 8 * max(0, wander(0.3, 5+i)), Bend: 14 * max(0, wander(0.3, 7+i))}
		}
	}
	return p
}

// gesture lays a gesture over a pose.
func (s *Scene) gesture(n *Node, a *act, frame float64, p *kit.Stance) {
	in, out := (frame-a.in)/(gestureIn*s.rate), (a.out-frame)/(gestureIn*s.rate)
	weight := smooth(min(in, out, (frame-a.in)/(a.out-a.in)*2, (a.out-frame)/(a.out-a.in)*2))
	q := p.Posture
	arm := &q.Arms[a.hand]
	shoulder := r3.Add(p.Ground, r3.Vec{Y: kit.ShoulderHeight*p.Height - q.Sink})
	switch a.do {
	case scene.Talk:
		s.talk(a, frame, &q)
	case scene.Wave:
		*arm = kit.Arm{Raise: 150, Spread: -30 + 17*math.Sin(2*math.Pi*1.7*(frame-a.in)/s.rate), Bend: 18}
	case scene.Look:
		s.lookAt(p, &q, s.goal(a, frame))
	case scene.Point:
		to := s.goal(a, frame)
		s.lookAt(p, &q, to)
		d := r3.Sub(to, shoulder)
		if l := r3.Norm(d); l > 1e-6 {
			// A little to the arm's own side, where the shoulder is.
			side := geom.RotateY(p.Pan)
			off := side.Dir(r3.Vec{X: 0.1 * p.Height * float64(2*a.hand-1)})
			arm.Hold, arm.At = 1, r3.Add(r3.Add(shoulder, off), r3.Scale(kit.ArmLength*p.Height/l, d))
		}
	case scene.Reach, scene.Take, scene.Give, scene.Put:
		to := s.goal(a, frame)
		if a.do != scene.Reach {
			half := (a.out - a.in) / 2
			weight = smooth(1 - math.Abs(frame-a.in-half)/half)
		}
		s.lookAt(p, &q, to)
		s.reach(p, &q, a.hand, to)
		arm = &q.Arms[a.hand]
		arm.Hold, arm.At = 1, to
	}
	p.Posture = p.Mix(&q, weight)
}

// goal returns the place that a gesture is directed to.
func (s *Scene) goal(a *act, frame float64) r3.Vec {
	switch {
	case a.on >= 0:
		return a.met
	case a.face >= 0:
		return s.lookPoint(a.face, frame)
	}
	return a.at
}

// reach bends knees and back, and turns the chest, as far as a hand needs to
// come to a place.
func (s *Scene) reach(p *kit.Stance, q *kit.Posture, hand int, to r3.Vec) {
	h := p.Height
	body := geom.RotateY(p.Pan)
	back := body.Inverse()
	d := back.Dir(r3.Sub(to, p.Ground)) // in the body's space
	if far := math.Hypot(d.X, d.Z); far > 0.08*h {
		pan, _ := geom.Toward(r3.Vec{X: d.X, Z: d.Z})
		q.Twist = max(-65, min(65, pan))
	}
	for range 12 {
		chest := geom.PanTiltRoll(q.Twist, -q.Lean, 0).At(r3.Vec{Y: (kit.HipHeight+kit.WaistHeight)*h - q.Sink, Z: q.Back})
		shoulder := chest.Point(r3.Vec{X: float64(2*hand-1) * kit.ShoulderAside * h, Y: kit.ShoulderAbove * h})
		way := r3.Sub(d, shoulder)
		missing := r3.Norm(way) - 0.94*kit.ArmLength*h
		if missing <= 0 {
			return
		}
		if -way.Y > math.Hypot(way.X, way.Z) {
			q.Sink = min(0.3*h, q.Sink+0.6*missing)
		}
		q.Lean = min(75, q.Lean+60*missing/h)
	}
}

// talk moves the hands in beats, now one, now the other, and nods.
func (s *Scene) talk(a *act, frame float64, q *kit.Posture) {
	sec := frame/s.rate + 30*a.seed
	beat := func(speed float64, lane int) float64 { return kit.Noise(sec*speed, float64(lane)*11.7, 5) }
	for i := range q.Arms {
		up := smooth(0.5 + 1.4*beat(0.8, i))
		arm := &q.Arms[i]
		if arm.Hold > 0.2 {
			continue
		}
		arm.Raise += up * (20 + 12*beat(2.1, 2+i))
		arm.Bend += up * (58 + 22*beat(2.6, 4+i))
		arm.Spread += up * (5 + 6*beat(1.7, 6+i))
		arm.Turn += up * (-18 + 20*beat(1.9, 8+i))
	}
	q.LookTilt += 3.5 * beat(1.6, 10)
	q.LookPan += 5 * beat(0.9, 11)
	q.Lean += 1.5 * beat(0.8, 12)
}
