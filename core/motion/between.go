package motion

import (
	"math"

	"proscen/core/geom"
	"proscen/core/optics"
)

// Between returns a camera a share of the way from one to another: it moves on
// a straight line and turns the short way; focal length, stop and the picture's
// width change by equal ratios, and the focus evenly in dioptres.
func Between(a, b *CameraState, share float64) CameraState {
	line := func(x, y float64) float64 { return x + (y-x)*share }
	ratio := func(x, y float64) float64 { return x * math.Pow(y/x, share) }
	angle := func(x, y float64) float64 {
		return 2 * geom.Degrees(math.Atan(ratio(math.Tan(geom.Radians(x)/2), math.Tan(geom.Radians(y)/2))))
	}
	out := CameraState{
		Node: a.Node, World: geom.Rigid(&a.World, &b.World, share),
		Focal: ratio(a.Focal, b.Focal), Squeeze: ratio(a.Squeeze, b.Squeeze), Stop: ratio(a.Stop, b.Stop),
		Focus: 1 / line(1/a.Focus, 1/b.Focus),
		Gate:  optics.Gate{Width: line(a.Gate.Width, b.Gate.Width), Height: line(a.Gate.Height, b.Gate.Height)},
		HFov:  angle(a.HFov, b.HFov), VFov: angle(a.VFov, b.VFov),
		Shift: [2]float64{line(a.Shift[0], b.Shift[0]), line(a.Shift[1], b.Shift[1])},
	}
	out.Pan, out.Tilt, out.Roll = out.World.Angles()
	return out
}
