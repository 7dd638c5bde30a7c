package demo

import (
	"encoding/json"
	"fmt"

	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/timing"
)

// Start names a set that a new scene can begin with.
type Start string

// The starts.
const (
	StartEmpty    Start = "empty"
	StartRoom     Start = "room"
	StartStreet   Start = "street"
	StartHillside Start = "hillside"
	StartDemo     Start = "demonstration" // its boards and sounds are made by Files
)

// Begin returns a new scene with a start, at a rate if one is given, or an error that
// says what there is. It is valid but for its names, which the caller gives. The
// demonstration has a rate of its own.
func Begin(start Start, rate string) (*scene.Document, error) {
	if start == StartDemo {
		return Scene(), nil
	}
	b := &builder{Empty()}
	switch start {
	case StartEmpty, "":
	case StartRoom:
		b.room()
	case StartStreet:
		b.street()
	case StartHillside:
		b.hillside()
	default:
		return nil, fmt.Errorf("there is no start %q; choose empty, room, street or hillside", start)
	}
	for id, n := range b.doc.Nodes {
		if n.Piece == nil {
			continue
		}
		if s, ok := kit.Find(n.Piece.Stock); ok {
			n.Kind = scene.Kind(s.Kind)
			b.doc.Nodes[id] = n
		}
	}
	if rate == "" {
		return b.doc, nil
	}
	to, err := timing.ParseRate(rate)
	if err != nil || to == b.doc.Settings.Rate {
		return b.doc, err
	}
	args, err := json.Marshal(map[string]any{"rate": rate, "keep": "seconds", "drop": true})
	if err == nil {
		_, err = session.Open(b.doc, nil).Run("rateChange", args)
	}
	return b.doc, err
}

// plain begins a document with a clock, a light and the delivery formats.
func plain() *builder {
	b := &builder{scene.New()}
	b.settings()
	s := &b.doc.Settings
	s.Production, s.Title, s.Story = "Production", "Untitled", timing.Range{In: 0, Out: 480}
	s.Sun = scene.Sun{Heading: 140, Height: 42, Strength: 1.4, Color: "#fff1dc"}
	s.Sky = scene.Sky{Zenith: "#6f95c4", Horizon: "#cfdbe6", Ground: "#6d6a63", Strength: 0.7}
	s.Haze = scene.Haze{Distance: 900}
	return b
}

// Library returns what a production shares as long as nothing is in it: the rate and
// the formats that new scenes begin with.
func Library(production string) *scene.Document {
	doc := plain().doc
	doc.Settings.Production, doc.Settings.Title = production, "Library"
	return doc
}

// Empty returns a valid scene with a floor, a clock, a light, the delivery
// formats and an assembly without shots.
func Empty() *scene.Document {
	b := plain()
	b.piece("ground", "Ground", "floor", scene.Vec{}, 0, values{"width": 60, "depth": 60})
	b.doc.Assemblies["first-cut"] = scene.Assembly{Name: "first cut"}
	b.doc.Lanes["main"] = scene.Lane{Assembly: "first-cut", Main: true, Name: "main"}
	return b.doc
}

// room is six metres by five with a door, windows and what a kitchen has. The wall
// towards the scout is left out.
func (b *builder) room() {
	b.piece("room-floor", "Room floor", "floor", scene.Vec{0, 0.02, 0}, 0, values{"width": 6, "depth": 5})
	b.colored("room-floor", "#7a644b")
	b.piece("wall-back", "Back wall", "windowWall", scene.Vec{-3, 0, -2.5}, 0, values{"width": 6})
	b.piece("wall-left", "Left wall", "doorWall", scene.Vec{-3, 0, 2.5}, 90, values{"width": 5})
	b.piece("wall-right", "Right wall", "windowWall", scene.Vec{3, 0, 2.5}, 90, values{"width": 5})
	b.piece("table", "Table", "table", scene.Vec{0.3, 0.02, -0.2}, 0, nil)
	b.piece("chair-1", "Chair", "chair", scene.Vec{0.3, 0.02, 0.6}, 0, nil)
	b.piece("chair-2", "Chair by the window", "chair", scene.Vec{0.1, 0.02, -1}, 180, nil)
	b.piece("stove", "Stove", "stove", scene.Vec{2.4, 0.02, -1.9}, 0, nil)
	b.piece("shelf", "Shelf", "shelf", scene.Vec{-2.7, 0.02, -1.7}, 90, nil)
	b.piece("cupboard", "Cupboard", "cupboard", scene.Vec{-1.3, 0.02, -2.2}, 0, nil)
	b.piece("lantern", "Lantern", "lantern", scene.Vec{0.6, 0.76, -0.2}, 0, nil)
	b.lampOn("lantern", "Lantern light", scene.Vec{0, 0.3, 0}, 0.9, 5)
}

// street is a road between houses, with lamps along it. It runs across the view
// that scout begins with.
func (b *builder) street() {
	b.piece("ground", "Ground", "floor", scene.Vec{}, 0, values{"width": 140, "depth": 120})
	b.piece("road", "Road", "road", scene.Vec{-40, 0.01, 0}, 0, values{"length": 80, "width": 6.5})
	for i := range 4 {
		x := 24 - 16*float64(i)
		b.piece(fmt.Sprintf("house-back-%d", i+1), fmt.Sprintf("House %d", 2*i+1), "house", scene.Vec{x, 0, -10}, 0, values{"width": 8 + float64(i%2), "depth": 6, "height": 3 + 0.6*float64(i%3)})
		b.piece(fmt.Sprintf("house-front-%d", i+1), fmt.Sprintf("House %d", 2*i+2), "house", scene.Vec{x - 5, 0, 24}, 180, values{"width": 9 - float64(i%2), "depth": 6, "height": 3.6 - 0.5*float64(i%2)})
		id := fmt.Sprintf("lamp-%d", i+1)
		b.piece(id, fmt.Sprintf("Street lamp %d", i+1), "lamp", scene.Vec{x - 8, 0, -4.4}, -90, values{"height": 4.2})
		b.lampOn(id, fmt.Sprintf("Light %d", i+1), scene.Vec{0.45, 3.7, 0}, 1.6, 12)
	}
	b.piece("car", "Car", "car", scene.Vec{3, 0.02, 1.8}, 90, nil)
	b.piece("bench", "Bench", "bench", scene.Vec{-3, 0, -5.6}, 0, nil)
	b.doc.Settings.Sun = scene.Sun{Heading: 250, Height: 18, Strength: 1.5, Color: "#ffd9ae"}
	b.doc.Settings.Haze = scene.Haze{Distance: 420}
}

// hillside is rising ground with a footpath, rocks, trees and a ridge behind.
func (b *builder) hillside() {
	b.piece("ground", "Ground", "ground", scene.Vec{}, 0, values{"width": 160, "depth": 160, "relief": 5, "scale": 30, "flat": 9})
	b.piece("ridge", "Ridge", "ridge", scene.Vec{0, -2, -150}, 0, nil)
	b.piece("footpath", "Footpath", "footpath", scene.Vec{0, 0.03, 8}, 90, values{"length": 16})
	b.piece("sign", "Signpost", "sign", scene.Vec{1.6, 0, 3}, 20, nil)
	b.piece("fence", "Fence", "fence", scene.Vec{-6, 0, -4}, 0, values{"length": 9})
	for i, at := range []scene.Vec{{-11, 0, -9}, {-8, 0, -13}, {9, 0, -12}, {13, 0, -7}, {-15, 0, 2}, {15, 0, 4}, {4, 0, -16}} {
		b.piece(fmt.Sprintf("tree-%d", i+1), fmt.Sprintf("Conifer %d", i+1), "conifer", at, float64(50*i), values{"height": 6 + float64(i%4), "seed": float64(i + 1)})
	}
	for i, at := range []scene.Vec{{-3, 0, 5}, {5, 0, -4}, {7, 0, 2}} {
		b.piece(fmt.Sprintf("rock-%d", i+1), fmt.Sprintf("Rock %d", i+1), "rock", at, 0, values{"size": 1 + 0.4*float64(i), "seed": float64(i + 1)})
	}
	b.doc.Settings.Sun = scene.Sun{Heading: 230, Height: 30, Strength: 1.7, Color: "#ffe6c4"}
	b.doc.Settings.Haze = scene.Haze{Distance: 500, Rise: 40, Base: -10}
}

// lampOn hangs a light on a stand-in.
func (b *builder) lampOn(parent, name string, at scene.Vec, strength, reach float64) {
	b.doc.Nodes[parent+"-light"] = scene.Node{Kind: scene.KindLamp, Name: name, Parent: parent, Position: at, Lamp: &scene.Lamp{Color: "#ffc98a", Strength: strength, Reach: reach}}
}
