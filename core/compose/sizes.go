// Package compose knows pictures of people: what the sizes of shots mean, where
// a camera stands so that its picture has one, and which one a picture has.
// Lengths are metres, angles degrees, places in the picture −1 to 1 of half its
// width to the right and half its height up.
package compose

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Size is how large a person is in the picture. Shares are of the standing
// height, measured down from the top of the head.
type Size struct {
	Name     string  `json:"name"`
	Top      float64 `json:"top"`      // where the picture's upper edge lies when there is no headroom
	Cut      float64 `json:"cut"`      // where its lower edge lies: the cut line
	Headroom float64 `json:"headroom"` // share of the picture's height above Top
}

// Sizes lists the sizes from the nearest to the widest. Cut lines are those that
// handbooks of the trade agree on: chin, collar, chest, waist, mid-thigh, feet;
// wide pictures are measured by how much of their height a person takes.
var Sizes = []Size{
	{"extreme close-up", 0.03, 0.12, 0},
	{"close-up", 0, 0.19, 0.07},
	{"medium close-up", 0, 0.3, 0.08},
	{"medium", 0, 0.47, 0.09},
	{"cowboy", 0, 0.66, 0.09},
	{"full", 0, 1.04, 0.09},
	{"wide", 0, 1.5, 0.28},
	{"extreme wide", 0, 3.3, 0.45},
}

// SizeByName finds a size. The error lists the sizes there are.
func SizeByName(name string) (Size, error) {
	for _, s := range Sizes {
		if s.Name == name {
			return s, nil
		}
	}
	names := make([]string, len(Sizes))
	for i, s := range Sizes {
		names[i] = s.Name
	}
	return Size{}, fmt.Errorf("%q is no size of a shot; sizes are %s", name, strings.Join(names, ", "))
}

// Statures returns how many standing heights the picture's height covers at the
// person.
func (s Size) Statures() float64 { return (s.Cut - s.Top) / (1 - s.Headroom) }

// SizeOf returns the size whose picture covers about as many standing heights
// as one does: the nearest by ratio.
func SizeOf(statures float64) Size {
	return slices.MinFunc(Sizes, func(a, b Size) int {
		da, db := math.Abs(math.Log(a.Statures()/statures)), math.Abs(math.Log(b.Statures()/statures))
		switch {
		case da < db:
			return -1
		case da > db:
			return 1
		}
		return 0
	})
}

// Comfortable returns for how many seconds at least a shot of a size wants to be
// looked at: a hand rule, the wider the longer, since there is more to find.
func Comfortable(s Size) float64 {
	return math.Round(2*(1.5+1.6*math.Log1p(s.Statures()))) / 2
}

// FastestPan returns the rate in degrees a second over which a pan strobes, by
// the seven-second rule: with the usual shutter of half a frame, a thing should
// take seven seconds to cross the picture at 24 frames a second, and less in
// proportion at higher rates.
func FastestPan(hfov, rate float64) float64 { return hfov / 7 * rate / 24 }
