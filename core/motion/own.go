package motion

import (
	"math"

	"proscen/core/scene"
)

// own says how a vehicle moves by itself while it is carried: how strongly a
// hanging cabin swings, on a hanger of a length in metres, and how strongly a
// boat bobs.
type own struct{ swing, hanger, bob float64 }

func ownMotion(p *scene.Piece) own {
	value := func(name string, or float64) float64 {
		if v, ok := p.Params[name]; ok {
			return v
		}
		return or
	}
	switch p.Stock {
	case "cabin":
		return own{swing: value("swing", 1), hanger: value("hanger", 2.2) + value("height", 2.3)/2}
	case "boat":
		return own{bob: value("bob", 1)}
	}
	return own{}
}

// ownMotion returns how far a vehicle tilts and rolls in degrees and rises in
// metres by itself.
func (s *Scene) ownMotion(n *Node, frame float64) (tilt, roll, rise float64) {
	if b := n.own.bob; b > 0 {
		t := frame/s.rate + 40*n.seed
		tilt = b * (1.1*math.Sin(t*1.31) + 0.5*math.Sin(t*2.17+1))
		roll = b * (2.2*math.Sin(t*1.07+2) + 0.8*math.Sin(t*1.93))
		rise = b * (0.035*math.Sin(t*1.19+0.5) + 0.015*math.Sin(t*2.41))
	}
	if n.own.swing > 0 && n.path != nil && n.channels[travel].Len() > 0 {
		tilt = n.own.swing * s.pendulum(n, frame)
	}
	return tilt, roll, rise
}

const gravity = 9.81 // m/s²

// pendulum returns the angle in degrees of what hangs under a carriage that
// moves along its path: a damped pendulum driven by the carriage's acceleration
// a, so θ(t) = −1/L · ∫ a(t−τ)·h(τ) dτ with h(τ) = e^(−cτ)·sin(ωτ)/ω, ω² = g/L,
// over the last seconds T. Integrated by parts twice, with y(τ) the way from now
// back to then, the integral is y′(T)·h(T) − y(T)·h′(T) + ∫ y·h″, which needs
// only places and so is smooth. A positive angle lifts the front: it runs ahead
// when the carriage stops.
func (s *Scene) pendulum(n *Node, frame float64) float64 {
	const (
		step    = 0.125 // seconds
		steps   = 72
		damping = 0.16
	)
	omega := math.Sqrt(gravity / n.own.hanger)
	c := damping * omega
	ch, length := &n.channels[travel], n.path.Length()
	keys := ch.Keys()
	if frame > keys[len(keys)-1].Frame+(steps*step+1)*s.rate || frame < keys[0].Frame {
		return 0
	}
	now := ch.At(frame)
	back := func(t float64) float64 { return (ch.At(frame-t*s.rate) - now) * length }
	sum := 0.0
	for i := 1; i <= steps; i++ {
		t := step * float64(i)
		sin, cos := math.Sincos(omega * t)
		weight := step
		if i == steps {
			weight = step / 2
		}
		sum += weight * back(t) * math.Exp(-c*t) * ((c*c-omega*omega)*sin/omega - 2*c*cos)
	}
	const end = steps * step
	sin, cos := math.Sincos(omega * end)
	fade := math.Exp(-c * end)
	slope := (back(end+step) - back(end-step)) / (2 * step)
	sum += slope*fade*sin/omega - back(end)*fade*(cos-c*sin/omega)
	return max(-35, min(35, -sum/n.own.hanger*180/math.Pi))
}

// rolled returns how many metres a node has gone along its path.
func (s *Scene) rolled(n *Node, frame float64) float64 {
	if n.path == nil {
		return 0
	}
	return n.animated(travel, frame, 0) * n.path.Length()
}
