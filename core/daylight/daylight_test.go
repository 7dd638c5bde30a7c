package daylight

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Altitudes and azimuths are those of the ASHRAE Handbook's tables of solar
// position (to 0.1 degrees; azimuths there are from south), and, at noon on the
// solstices, 90 − |latitude ∓ 23.44|.
func TestSunStandsWhereTablesSay(t *testing.T) {
	const june21, december21 = 172, 355
	for _, c := range []struct {
		latitude float64
		day      int
		hour     float64
		azimuth  float64
		height   float64
	}{
		{40, june21, 6, 180 - 108.4, 14.8},
		{40, june21, 8, 180 - 90.7, 37.4},
		{40, june21, 10, 180 - 65.8, 59.8},
		{40, june21, 16, 180 + 90.7, 37.4},
		{40, december21, 10, 180 - 29.4, 20.7},
		{40, december21, 12, 180, 26.6},
		{51.5, june21, 12, 180, 61.94},
		{51.5, december21, 12, 180, 15.06},
		{-33.9, december21, 12, 0, 79.54},
		{-33.9, june21, 12, 0, 32.66},
	} {
		azimuth, height := Sun(c.latitude, c.day, c.hour)
		assert.InDelta(t, c.height, height, 0.15, "height at %v on day %d, %v h", c.latitude, c.day, c.hour)
		d := azimuth - c.azimuth
		for d > 180 {
			d -= 360
		}
		assert.InDelta(t, 0, d, 0.3, "azimuth at %v on day %d, %v h", c.latitude, c.day, c.hour)
	}
}

func TestLightGoesFromNightToNoonWithoutSteps(t *testing.T) {
	before := At(-30)
	assert.Zero(t, before.Sun)
	for h := -30.0; h <= 95; h += 0.25 {
		l := At(h)
		for i := range l.Sun {
			assert.InDelta(t, before.Sun[i], l.Sun[i], 0.08, "sun at %v", h)
			assert.InDelta(t, before.Horizon[i], l.Horizon[i], 0.03, "horizon at %v", h)
		}
		before = l
	}
	noon, dusk := At(60), At(1)
	assert.Greater(t, dusk.Sun[0]/dusk.Sun[2], 2*noon.Sun[0]/noon.Sun[2], "a low sun is redder")
}
