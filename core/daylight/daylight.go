// Package daylight says where the sun stands and how it and the sky are
// coloured.
package daylight

import (
	"math"

	"proscen/core/geom"
)

// Sun returns where the sun stands in degrees: its azimuth clockwise from north
// and its height above the horizon, at a latitude (degrees north) on a day of
// the year (from 1) at an hour of solar time (12 when it stands highest).
// Declination is J. W. Spencer's Fourier series (1971), within 0.035 degrees;
// refraction is left out.
func Sun(latitude float64, day int, hour float64) (azimuth, height float64) {
	g := 2 * math.Pi * (float64(day) - 1 + (hour-12)/24) / 365
	decl := 0.006918 - 0.399912*math.Cos(g) + 0.070257*math.Sin(g) - 0.006758*math.Cos(2*g) +
		0.000907*math.Sin(2*g) - 0.002697*math.Cos(3*g) + 0.00148*math.Sin(3*g)
	lat, turn := geom.Radians(latitude), geom.Radians(15*(hour-12))
	sd, cd := math.Sincos(decl)
	sl, cl := math.Sincos(lat)
	st, ct := math.Sincos(turn)
	// Components of the direction toward the sun: east, north, up.
	east, north, up := -cd*st, sd*cl-cd*sl*ct, sd*sl+cd*cl*ct
	azimuth = math.Mod(geom.Degrees(math.Atan2(east, north))+360, 360)
	return azimuth, geom.Degrees(math.Asin(max(-1, min(1, up))))
}

// Light is the light of sun and sky, linear.
type Light struct {
	Sun, Zenith, Horizon, Ground [3]float64
}

// stop is the light at one height of the sun.
type stop struct {
	height float64
	light  Light
}

// stops is our own table of the light from deep night to high noon. The sun
// fades below the horizon and reddens near it; the sky goes from blue through a
// warm horizon to night.
var stops = []stop{
	{-18, Light{[3]float64{0, 0, 0}, [3]float64{0.012, 0.018, 0.04}, [3]float64{0.018, 0.024, 0.045}, [3]float64{0.01, 0.012, 0.018}}},
	{-8, Light{[3]float64{0, 0, 0}, [3]float64{0.04, 0.065, 0.16}, [3]float64{0.12, 0.12, 0.2}, [3]float64{0.025, 0.027, 0.04}}},
	{-2, Light{[3]float64{0.12, 0.03, 0.01}, [3]float64{0.085, 0.13, 0.3}, [3]float64{0.55, 0.3, 0.22}, [3]float64{0.06, 0.055, 0.06}}},
	{3, Light{[3]float64{1.1, 0.42, 0.14}, [3]float64{0.13, 0.21, 0.42}, [3]float64{0.75, 0.5, 0.33}, [3]float64{0.1, 0.085, 0.075}}},
	{12, Light{[3]float64{1.5, 1.0, 0.6}, [3]float64{0.17, 0.3, 0.56}, [3]float64{0.62, 0.62, 0.6}, [3]float64{0.14, 0.13, 0.11}}},
	{35, Light{[3]float64{1.7, 1.5, 1.25}, [3]float64{0.17, 0.32, 0.62}, [3]float64{0.6, 0.7, 0.8}, [3]float64{0.16, 0.15, 0.13}}},
	{90, Light{[3]float64{1.8, 1.7, 1.5}, [3]float64{0.16, 0.32, 0.66}, [3]float64{0.58, 0.7, 0.84}, [3]float64{0.17, 0.16, 0.14}}},
}

// At returns the light when the sun stands at a height in degrees.
func At(height float64) Light {
	if height <= stops[0].height {
		return stops[0].light
	}
	for i := 1; i < len(stops); i++ {
		a, b := &stops[i-1], &stops[i]
		if height > b.height {
			continue
		}
		t := (height - a.height) / (b.height - a.height)
		mix := func(p, q [3]float64) (out [3]float64) {
			for k := range out {
				out[k] = p[k] + (q[k]-p[k])*t
			}
			return out
		}
		return Light{mix(a.light.Sun, b.light.Sun), mix(a.light.Zenith, b.light.Zenith), mix(a.light.Horizon, b.light.Horizon), mix(a.light.Ground, b.light.Ground)}
	}
	return stops[len(stops)-1].light
}
