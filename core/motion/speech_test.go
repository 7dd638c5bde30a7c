package motion

import (
	"testing"

	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
)

func TestMouthsSayTheirLines(t *testing.T) {
	s := newSpeech(scene.Line{Text: "Only after I'm gone.", In: 100, Out: 160})
	assert.Equal(t, []float64{0.8, 0.4, 0.95, 0.6, 0.4, 0.8, 0.6}, s.beats, "o-y a-e i o-e")
	n := &Node{speech: []speech{s}}
	assert.Zero(t, n.says(99.9))
	assert.Zero(t, n.says(160))
	beat := 60.0 / 7
	assert.InDelta(t, 0.95, n.says(100+2.5*beat), 1e-9, "wide open in the middle of an a")
	assert.InDelta(t, 0, n.says(100+3*beat), 1e-9, "closed between syllables")

	assert.Equal(t, []float64{0.95, 0, 0.8}, newSpeech(scene.Line{Text: "Ah, oh!"}).beats, "a comma is a pause, the end is none")
	assert.Equal(t, []float64{0.8}, newSpeech(scene.Line{Text: "Gooood"}).beats, "vowels together are one syllable")
	assert.Len(t, newSpeech(scene.Line{Text: "山の上の駅"}).beats, 3, "without vowels one for two letters")
	assert.Empty(t, newSpeech(scene.Line{Text: "…"}).beats)
	silent := &Node{speech: []speech{newSpeech(scene.Line{Text: "!", In: 0, Out: 10})}}
	assert.Zero(t, silent.says(5))

	// Two lines at once: the wider one counts.
	two := &Node{speech: []speech{newSpeech(scene.Line{Text: "i", In: 0, Out: 10}), newSpeech(scene.Line{Text: "a", In: 0, Out: 10})}}
	assert.InDelta(t, 0.95, two.says(5), 1e-9)
}
