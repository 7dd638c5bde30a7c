package program_test

import (
	"testing"

	"proscen/core/program"

	"github.com/stretchr/testify/assert"
)

// TestGainGoesStraightBetweenLevels checks a fade in over ten frames and a fade out
// over five by hand.
func TestGainGoesStraightBetweenLevels(t *testing.T) {
	h := program.Heard{Levels: []program.Level{{At: 10, Gain: 0}, {At: 20, Gain: 0.8}, {At: 30, Gain: 0.8}, {At: 35, Gain: 0}}}
	for frame, want := range map[float64]float64{0: 0, 10: 0, 15: 0.4, 20: 0.8, 25: 0.8, 31: 0.64, 34: 0.16, 35: 0, 90: 0} {
		assert.InDelta(t, want, h.GainAt(frame), 1e-12, frame)
	}
	assert.Equal(t, 0.5, program.Heard{Levels: []program.Level{{At: 3, Gain: 0.5}}}.GainAt(-1))
	assert.Equal(t, 1.0, program.Heard{}.GainAt(7))
}
