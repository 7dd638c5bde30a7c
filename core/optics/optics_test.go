package optics

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestGateCropsWideHeightAndTallWidth(t *testing.T) {
	full := [2]float64{36, 24}
	for _, c := range []struct {
		name            string
		aspect, squeeze float64
		want            Gate
	}{
		{"wide crops height", 16.0 / 9, 1, Gate{36, 20.25}},
		{"tall crops width", 9.0 / 16, 1, Gate{13.5, 24}},
		{"square", 1, 1, Gate{24, 24}},
		{"own shape uses all", 1.5, 1, Gate{36, 24}},
		{"2x squeeze at 2.4 crops width", 2.4, 2, Gate{28.8, 24}},
	} {
		got := CropGate(full[0], full[1], c.aspect, c.squeeze)
		assert.InDelta(t, c.want.Width, got.Width, 1e-12, c.name)
		assert.InDelta(t, c.want.Height, got.Height, 1e-12, c.name)
	}
}

func TestFieldOfViewOfKnownLenses(t *testing.T) {
	// 36 mm wide: 50 mm covers 39.60°, 18 mm covers exactly 90°.
	h, v := Gate{36, 24}.FieldOfView(50, 1)
	assert.InDelta(t, 39.598, h, 0.001)
	assert.InDelta(t, 26.991, v, 0.001)
	h, _ = Gate{36, 24}.FieldOfView(18, 1)
	assert.InDelta(t, 90, h, 1e-9)
	h, _ = Gate{18, 24}.FieldOfView(18, 2)
	assert.InDelta(t, 90, h, 1e-9, "squeeze widens only the width")
	assert.InDelta(t, 50, FocalFor(36, 39.597752), 1e-5)
}

func TestDepthOfFieldByHand(t *testing.T) {
	// 50 mm, f/2, 3 m, c 0.03 mm: H = 2500/0.06 + 50 = 41716.67 mm.
	// near = 3000·41666.67/44616.67 = 2801.64; far = 3000·41666.67/38716.67 = 3228.58.
	d := DepthOfField(50, 2, 3, 0.03)
	assert.InDelta(t, 41.71667, d.Hyperfocal, 1e-5)
	assert.InDelta(t, 2.80164, d.Near, 1e-5)
	assert.InDelta(t, 3.22859, d.Far, 1e-5)
	assert.True(t, math.IsInf(DepthOfField(18, 8, 5, 0.03).Far, 1), "past the hyperfocal distance there is no end")
}

func TestBlurEqualsTheCircleAtTheLimits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		focal := rapid.Float64Range(12, 200).Draw(t, "focal")
		stop := rapid.Float64Range(1, 22).Draw(t, "stop")
		focus := rapid.Float64Range(0.6, 60).Draw(t, "focus")
		coc := CircleOfConfusion(36, 24)
		d := DepthOfField(focal, stop, focus, coc)
		if b := Blur(focal, stop, focus, d.Near); math.Abs(b-coc) > coc*1e-6 {
			t.Fatalf("near limit blurs %v, want %v", b, coc)
		}
		if !math.IsInf(d.Far, 1) && d.Far < 1e6 {
			if b := Blur(focal, stop, focus, d.Far); math.Abs(b-coc) > coc*1e-6 {
				t.Fatalf("far limit blurs %v, want %v", b, coc)
			}
		}
		if Blur(focal, stop, focus, focus) != 0 {
			t.Fatal("the focused distance is not sharp")
		}
	})
}

// TestFieldsOfViewOfTenCombinations has figures worked out apart from this code:
// gate from sensor, aspect and squeeze, then 2·atan(size/2f) with a calculator.
func TestFieldsOfViewOfTenCombinations(t *testing.T) {
	for _, c := range []struct{ width, height, aspect, squeeze, focal, gateW, gateH, h, v float64 }{
		{24.89, 18.66, 16.0 / 9, 1, 35, 24.89, 14.0006, 39.1479, 22.6208},
		{24.89, 18.66, 2.39, 1, 50, 24.89, 10.4142, 27.9538, 11.8910},
		{24.89, 18.66, 2.39, 2, 75, 22.2987, 18.66, 33.1161, 14.1823},
		{36, 24, 16.0 / 9, 1, 24, 36, 20.25, 73.7398, 45.7473},
		{36, 24, 1, 1, 85, 24, 24, 16.0714, 16.0714},
		{36, 24, 9.0 / 16, 1, 50, 13.5, 24, 15.3769, 26.9915},
		{10.26, 7.49, 16.0 / 9, 1, 16, 10.26, 5.7713, 35.5543, 20.4470},
		{12.52, 7.41, 16.0 / 9, 1, 25, 12.52, 7.0425, 28.1156, 16.0347},
		{43.8, 32.9, 16.0 / 9, 1, 65, 43.8, 24.6375, 37.2397, 21.4628},
		{24.89, 18.66, 2.39, 1.33, 40, 24.89, 13.8509, 44.9592, 19.6452},
	} {
		g := CropGate(c.width, c.height, c.aspect, c.squeeze)
		assert.InDelta(t, c.gateW, g.Width, 1e-4)
		assert.InDelta(t, c.gateH, g.Height, 1e-4)
		h, v := g.FieldOfView(c.focal, c.squeeze)
		assert.InDelta(t, c.h, h, 1e-4, "%v", c)
		assert.InDelta(t, c.v, v, 1e-4, "%v", c)
	}
}

// TestDepthOfFieldTables has figures by the form that printed tables use, with
// H = f²/(N·c): near = H·s/(H + s − f), far = H·s/(H − (s − f)).
func TestDepthOfFieldTables(t *testing.T) {
	for _, c := range []struct{ focal, stop, focus, width, height, near, far, hyper float64 }{
		{50, 2.8, 3, 24.89, 18.66, 2.80762, 3.22068, 43.10277},
		{35, 4, 5, 36, 24, 3.40685, 9.39201, 10.65231},
		{85, 1.4, 2, 36, 24, 1.97882, 2.02164, 179.00058},
		{18, 8, 2, 24.89, 18.66, 0.9926, math.Inf(1), 1.97087},
		{135, 5.6, 10, 36, 24, 9.19596, 10.95811, 112.96325},
	} {
		d := DepthOfField(c.focal, c.stop, c.focus, CircleOfConfusion(c.width, c.height))
		assert.InDelta(t, c.near, d.Near, 1e-5)
		assert.InDelta(t, c.hyper, d.Hyperfocal, 1e-5)
		if math.IsInf(c.far, 1) {
			assert.True(t, math.IsInf(d.Far, 1))
		} else {
			assert.InDelta(t, c.far, d.Far, 1e-5)
		}
	}
}

func TestSpreadIsBlurOverTheHeight(t *testing.T) {
	for _, d := range []float64{0.7, 2, 3, 40} {
		got := Spread(50, 2, 3, 14) * math.Abs(1-3/d)
		assert.InDelta(t, Blur(50, 2, 3, d)/14, got, 1e-12)
	}
	// 2500 / (2·2950) = 0.42373 mm on 14 mm.
	assert.InDelta(t, 0.030266, Spread(50, 2, 3, 14), 1e-6)
}
