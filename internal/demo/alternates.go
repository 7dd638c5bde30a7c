package demo

import (
	"encoding/json"
	"fmt"

	"proscen/core/scene"
	"proscen/core/session"
)

// The alternates of the demonstration.
const (
	Night = "night"
	Tall  = "tall"
)

// Cheated is the layer of the one shot that has something for itself.
const Cheated = "@shot-060"

// alternates makes the same scene by night, with the last light in the wheel house, and
// for a tall frame, in which the bench stands elsewhere, the step-out is seen from nearer
// and two shots last longer. One shot has something for itself.
func (b *builder) alternates() {
	sides := session.NewSides(session.Open(b.doc, nil))
	made := 0
	run := func(in, name string, args map[string]any) {
		body, err := json.Marshal(args)
		if err == nil {
			_, err = sides.Run(in, name, body, func() string { made++; return fmt.Sprintf("otherwise-%d", made) })
		}
		if err != nil {
			panic(fmt.Sprintf("the demonstration cannot be made: %s in %s: %v", name, in, err)) // all of it is our own
		}
	}
	set := func(in, collection, id string, merge map[string]any) {
		run(in, "set", map[string]any{"collection": collection, "id": id, "merge": merge})
	}
	type m = map[string]any

	run("", "alternateAdd", m{"id": Night, "name": "night"})
	set(Night, "settings", scene.SettingsID, m{
		"sun":  m{"heading": 320, "height": 34, "strength": 0.5, "color": "#8fa9dc"},
		"sky":  m{"zenith": "#101a33", "horizon": "#27345a", "ground": "#141a24", "strength": 0.8},
		"haze": m{"distance": 210},
	})
	set(Night, "nodes", "lamp-light", m{"lamp": m{"strength": 7}})
	set(Night, "nodes", "lamp-2-light", m{"lamp": m{"strength": 4}})
	set(Night, "nodes", "wheel-house", m{"piece": m{"params": m{"lit": 1}}})
	run(Night, "stockPlace", m{"kind": "lamp", "id": "window-light", "name": "Light from the window", "position": []float64{3.4, 1.9, -6.4}})

	run("", "alternateAdd", m{"id": Tall, "name": "tall", "format": "tall"})
	run(Tall, "place", m{"id": "bench", "frame": 0, "position": []float64{-4.6, deck, -3.2}})
	run(Tall, "value", m{"node": "camera-4", "channel": "lens.focal", "frame": 346, "value": 28})
	run(Tall, "shotTrim", m{"id": "shot-040", "edge": "out", "by": 12, "ripple": true})
	run(Tall, "shotTrim", m{"id": "shot-070", "edge": "in", "by": -6, "ripple": true})

	// Over his shoulder the lamp is turned up for her face, and the barrel gives way.
	set(Cheated, "nodes", "lamp-light", m{"lamp": m{"strength": 7.5}})
	run(Cheated, "place", m{"id": "barrel-1", "frame": 0, "position": []float64{-6.9, deck, -1.7}})
}
