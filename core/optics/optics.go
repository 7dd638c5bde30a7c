// Package optics computes what a lens and a sensor show: the gate that a
// format uses, the field of view, and the depth of field. Lengths of sensor,
// gate and lens are millimetres; distances in front of the lens are metres;
// angles are degrees.
package optics

import "math"

// Gate is the part of the sensor that a delivered format uses, in millimetres.
type Gate struct {
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// CropGate returns the largest centred part of a sensor (width x height, mm)
// that has the delivered aspect (width / height of the picture) after the lens
// squeeze is undone. A picture wider than the sensor crops its height, a taller
// one its width. Squeeze is the anamorphic factor of the lens, 1 for spherical.
func CropGate(width, height, aspect, squeeze float64) Gate {
	if aspect >= width*squeeze/height {
		return Gate{width, width * squeeze / aspect}
	}
	return Gate{height * aspect / squeeze, height}
}

// FieldOfView returns the horizontal and vertical angles in degrees that a gate
// covers at a focal length in mm: 2·atan(size / 2f), the width multiplied by
// the squeeze.
func (g Gate) FieldOfView(focal, squeeze float64) (horizontal, vertical float64) {
	return angle(g.Width*squeeze, focal), angle(g.Height, focal)
}

func angle(size, focal float64) float64 { return 2 * math.Atan(size/(2*focal)) * 180 / math.Pi }

// FocalFor returns the focal length in mm at which a size in mm on the gate
// covers an angle in degrees; the inverse of FieldOfView.
func FocalFor(size, degrees float64) float64 { return size / (2 * math.Tan(degrees*math.Pi/360)) }

// CircleOfConfusion returns the usual tolerance for a sensor in mm: its
// diagonal divided by 1500.
func CircleOfConfusion(width, height float64) float64 { return math.Hypot(width, height) / 1500 }

// Depth is the zone that looks sharp, in metres in front of the lens. Far is
// +Inf when the zone has no end.
type Depth struct {
	Near, Far, Hyperfocal float64
}

// DepthOfField returns the sharp zone for a focal length (mm), stop (f-number),
// focus distance (m) and circle of confusion (mm), by the thin-lens formulas:
//
//	H    = f²/(N·c) + f
//	near = s·(H−f) / (H + s − 2f)
//	far  = s·(H−f) / (H − s)
func DepthOfField(focal, stop, focus, coc float64) Depth {
	s := focus * 1000
	h := focal*focal/(stop*coc) + focal
	d := Depth{Near: s * (h - focal) / (h + s - 2*focal) / 1000, Far: math.Inf(1), Hyperfocal: h / 1000}
	if s < h {
		d.Far = s * (h - focal) / (h - s) / 1000
	}
	return d
}

// Blur returns the diameter in mm on the sensor of a point at a distance (m)
// when the lens is focused at focus (m): f²/N · |d−s| / (d·(s−f)).
func Blur(focal, stop, focus, distance float64) float64 {
	s, d := focus*1000, distance*1000
	return focal * focal / stop * math.Abs(d-s) / (d * (s - focal))
}

// Spread returns the diameter of the blur of a point at infinity as a share of
// the gate's height (mm), for a focal length (mm), stop and focus distance (m):
// f²/(N·(s−f)) over the height. A point at the distance d is blurred by
// Spread·|1 − s/d|, which is Blur over the height.
func Spread(focal, stop, focus, gateHeight float64) float64 {
	return focal * focal / (stop * max(1, focus*1000-focal)) / gateHeight
}

// Sensor is a common sensor or film frame, in mm.
type Sensor struct {
	Name   string  `json:"name"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// Sensors lists common sizes from small to large.
var Sensors = []Sensor{
	{"16 mm", 10.26, 7.49},
	{"Super 16", 12.52, 7.41},
	{"one inch", 13.2, 8.8},
	{"four thirds", 17.3, 13},
	{"35 mm Academy", 21.95, 16},
	{"Super 35, three perforations", 24.89, 14},
	{"Super 35", 24.89, 18.66},
	{"full frame", 36, 24},
	{"large format", 43.8, 32.9},
	{"65 mm", 52.63, 23.01},
}

// Squeezes lists the anamorphic factors of common lenses, 1 for spherical ones.
var Squeezes = []float64{1, 1.33, 1.8, 2}

// Stops lists the full stops that lenses are marked with.
var Stops = []float64{1.4, 2, 2.8, 4, 5.6, 8, 11, 16}
