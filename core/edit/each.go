package edit

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"proscen/core/scene"
)

// each does something to many nodes or other entities, in the order of their ids, and says
// the last one's label of one, or how many there were.
func each[V any](of map[string]V, do func(id string, v V) (string, error)) (string, error) {
	if len(of) == 0 {
		return "", fmt.Errorf("nothing is selected to be changed")
	}
	label := ""
	for _, id := range slices.Sorted(maps.Keys(of)) {
		l, err := do(id, of[id])
		if err != nil {
			return "", err
		}
		label = l
	}
	if len(of) > 1 {
		return fmt.Sprintf("change %d things", len(of)), nil
	}
	return label, nil
}

type setEachArgs struct {
	Collection string                                `json:"collection"`
	Merges     map[string]map[string]json.RawMessage `json:"merges"` // by id
	Label      string                                `json:"label,omitempty"`
}

// setEach merges fields into several entities, others into each.
func setEach(d *Draft, a setEachArgs) (string, error) {
	label, err := each(a.Merges, func(id string, merge map[string]json.RawMessage) (string, error) {
		return set(d, setArgs{Collection: a.Collection, ID: id, Merge: merge})
	})
	if a.Label != "" {
		label = a.Label
	}
	return label, err
}

type axesOf struct {
	Position axes `json:"position,omitempty"` // in the parent's space
	Turn     axes `json:"turn,omitempty"`
}

type placeEachArgs struct {
	Places map[string]axesOf `json:"places"` // by node
	Frame  float64           `json:"frame"`
	Key    bool              `json:"key,omitempty"`
}

// placeEach places several nodes, each elsewhere; see place.
func placeEach(d *Draft, a placeEachArgs) (string, error) {
	return each(a.Places, func(id string, to axesOf) (string, error) {
		return place(d, placeArgs{ID: id, Frame: a.Frame, Position: to.Position, Turn: to.Turn, Key: a.Key})
	})
}

type valueEachArgs struct {
	Channel scene.Channel      `json:"channel"`
	Values  map[string]float64 `json:"values"` // by node
	Frame   float64            `json:"frame"`
	Key     bool               `json:"key"`
}

// valueEach gives a channel of several nodes a value, each its own; see value.
func valueEach(d *Draft, a valueEachArgs) (string, error) {
	return each(a.Values, func(id string, v float64) (string, error) {
		return value(d, valueArgs{Node: id, Channel: a.Channel, Frame: a.Frame, Value: v, Key: a.Key})
	})
}
