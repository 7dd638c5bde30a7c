package motion

import (
	"math"

	"proscen/core/geom"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// How far a calm operator wanders at most: metres along X, Y and Z, degrees of
// pan, tilt and roll.
var unrestReach = [6]float64{0.012, 0.009, 0.006, 0.4, 0.32, 0.16}

// unrest returns how a handheld camera has moved by itself at a frame, in its
// own space: the identity at the frame u.From. Only sums, products and integer
// hashes make it, so that it is the same on every machine.
func unrest(u scene.Unrest, amount, frame, rate float64) geom.Mat4 {
	var v [6]float64
	for i := range v {
		now := wander(uint32(u.Seed), uint32(i), frame/rate*u.Rate)
		still := wander(uint32(u.Seed), uint32(i), u.From/rate*u.Rate)
		v[i] = amount * unrestReach[i] * (now - still)
	}
	return geom.PanTiltRoll(v[3], v[4], v[5]).At(r3.Vec{X: v[0], Y: v[1], Z: v[2]})
}

// wander is smooth noise from −1 to 1: two layers of values at whole numbers,
// the second one quicker and smaller, joined by quintic steps.
func wander(seed, axis uint32, t float64) float64 {
	return 0.72*valueNoise(seed, axis, t) + 0.28*valueNoise(seed, axis+16, t*2.7)
}

func valueNoise(seed, axis uint32, t float64) float64 {
	floor := math.Floor(t)
	f := t - floor
	i := int32(floor)
	a, b := lattice(seed, axis, i), lattice(seed, axis, i+1)
	return a + (b-a)*f*f*f*(f*(f*6-15)+10)
}

// lattice is a value from −1 to 1 at a whole number, by an integer hash with
// good avalanche (C. Wellons' lowbias32).
func lattice(seed, axis uint32, i int32) float64 {
	x := seed*0x9e3779b9 ^ axis*0x85ebca6b ^ uint32(i)*0xc2b2ae35
	x ^= x >> 16
	x *= 0x7feb352d
	x ^= x >> 15
	x *= 0x846ca68b
	x ^= x >> 16
	return float64(x)/(math.MaxUint32/2) - 1
}
