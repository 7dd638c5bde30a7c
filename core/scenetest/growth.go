package scenetest

import (
	"fmt"
	"math"
	"testing"
	"time"
)

// Sizes are the sizes at which growth is measured, in things and shots.
var Sizes = []int{500, 1000, 2000, 4000}

// exponent returns the power of the size with which times grow: 1 is linear. It is the
// slope of the line through the logarithms (least squares).
func exponent(seconds []float64) float64 {
	var x, y, xx, xy float64
	for i, s := range seconds {
		lx, ly := math.Log(float64(Sizes[i])), math.Log(s)
		x, y, xx, xy = x+lx, y+ly, xx+lx*lx, xy+lx*ly
	}
	n := float64(len(seconds))
	return (n*xy - x*y) / (n*xx - x*x)
}

// best is the shortest of some runs, in seconds.
func best(run func()) float64 {
	shortest := math.Inf(1)
	for began, n := time.Now(), 0; n < 3 || n < 20 && time.Since(began) < 300*time.Millisecond; n++ {
		start := time.Now()
		run()
		shortest = min(shortest, time.Since(start).Seconds())
	}
	return shortest
}

// Growth measures something at each size, as the milliseconds of the best of some runs,
// and how that grows. Prepare makes it ready for a size.
func Growth(b *testing.B, prepare func(size int) (run func())) {
	b.Helper()
	var seconds []float64
	for _, n := range Sizes {
		seconds = append(seconds, best(prepare(n)))
	}
	for i, n := range Sizes {
		b.ReportMetric(1000*seconds[i], fmt.Sprintf("ms/%d", n))
	}
	b.ReportMetric(exponent(seconds), "exponent")
	b.ReportMetric(0, "ns/op")
}
