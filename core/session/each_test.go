package session

import (
	"testing"

	"proscen/core/curve"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
)

// keysOf returns the keys of a channel.
func (s *Session) keysOf(node string, ch scene.Channel) []curve.Key {
	_, c := s.Doc.CurveOf(node, ch)
	return c.Keys
}

func TestKeysAreGivenAValue(t *testing.T) {
	s := moving()
	for _, k := range [][2]float64{{0, 10}, {48, 30}, {96, 20}} {
		frame, v := k[0], k[1]
		do(t, s, "value", m{"node": "a", "channel": "turn.pan", "frame": frame, "value": v, "key": true})
		do(t, s, "value", m{"node": "a", "channel": "lens.focal", "frame": frame, "value": 20 + v, "key": true})
	}
	before := len(s.Doc.Curves)
	do(t, s, "keyValue", m{"node": "a", "channel": "turn.pan", "frames": []int{0, 96}, "value": -400})
	for i, want := range []float64{-400, 30, -400} {
		assert.Equal(t, want, s.keysOf("a", scene.Pan)[i].Value, "turns may go round more than once")
	}
	assert.Len(t, s.Doc.Curves, before)
	refused(t, s, "keyValue", m{"node": "a", "channel": "lens.focal", "frames": []int{0}, "value": -5}, "focal lies between 1 and 3000")
	refused(t, s, "keyValue", m{"node": "a", "rows": m{"turn.pan": []int{0}, "lens.focal": []int{0}}, "value": 5}, "choose those of one")
	refused(t, s, "keyValue", m{"node": "a", "channel": "turn.pan", "frames": []int{7}, "value": 5}, "no key of pan")
	// A travel ends with its path, and a door opens as far as it does.
	do(t, s, "keyValue", m{"node": "van", "channel": "travel", "frames": []int{200}, "value": 3})
	assert.Equal(t, 1.0, s.keysOf("van", scene.Travel)[1].Value)
	do(t, s, "value", m{"node": "van", "channel": "piece.swing", "frame": 50, "value": 40, "key": true})
	do(t, s, "keyValue", m{"node": "van", "channel": "piece.swing", "frames": []int{50}, "value": 900})
	assert.Equal(t, 180.0, s.keysOf("van", scene.Swing)[1].Value, "the first one keeps it shut where the story begins")
	// A focus that follows somebody stands still when it is given a distance.
	do(t, s, "focusPull", m{"id": "a", "frame": 120, "on": "turner"})
	k := s.keysOf("a", scene.Focus)
	assert.Equal(t, "turner", k[len(k)-1].On)
	do(t, s, "keyValue", m{"node": "a", "channel": "lens.focus", "frames": []int{120}, "value": 4})
	k = s.keysOf("a", scene.Focus)
	assert.Equal(t, curve.Key{Frame: 120, Value: 4, Ease: k[len(k)-1].Ease}, k[len(k)-1])
}

func TestSeveralAreChangedInOneStep(t *testing.T) {
	s := moving()
	for _, id := range []string{"p", "q"} {
		do(t, s, "stockPlace", m{"kind": "prop", "stock": "crate", "name": id, "id": id})
	}
	do(t, s, "placeEach", m{"places": m{"p": m{"position": []any{1, nil, nil}}, "q": m{"position": []any{nil, 2, nil}, "turn": []any{30, nil, nil}}}, "frame": 0})
	assert.Equal(t, []scene.Vec{{1, 0, 0}, {0, 2, 0}}, []scene.Vec{s.Doc.Nodes["p"].Position, s.Doc.Nodes["q"].Position})
	assert.Equal(t, 30.0, s.Doc.Nodes["q"].Turn[0])
	do(t, s, "setEach", m{"collection": "nodes", "merges": m{"p": m{"piece": m{"params": m{"width": 2}}}, "q": m{"hidden": true}}})
	assert.Equal(t, 2.0, s.Doc.Nodes["p"].Piece.Params["width"])
	assert.True(t, s.Doc.Nodes["q"].Hidden)
	do(t, s, "valueEach", m{"channel": "piece.swing", "values": m{"p": 30, "q": 60}, "frame": 24, "key": true})
	assert.Equal(t, 30.0, s.keysOf("p", scene.Swing)[1].Value)
	assert.Equal(t, 60.0, s.keysOf("q", scene.Swing)[1].Value)
	// When one cannot be changed, none is.
	do(t, s, "setEach", m{"collection": "nodes", "merges": m{"q": m{"locked": true}}})
	was := s.Doc.Nodes["p"].Position
	refused(t, s, "placeEach", m{"places": m{"p": m{"position": []any{9, nil, nil}}, "q": m{"position": []any{9, nil, nil}}}, "frame": 0}, "q is locked")
	assert.Equal(t, was, s.Doc.Nodes["p"].Position)
	refused(t, s, "valueEach", m{"channel": "piece.swing", "values": m{"p": 30, "walker": 60}, "frame": 24, "key": true}, "no door or lid")
	assert.Equal(t, 30.0, s.keysOf("p", scene.Swing)[1].Value)
	refused(t, s, "setEach", m{"collection": "nodes", "merges": m{}}, "nothing is selected")
}
