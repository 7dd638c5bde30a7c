// Package demo builds the demonstration scene "Last Car Down" from code: dusk
// at Hollin Pass, a cable-car station on a mountain. Ida, the station keeper,
// waits; the cabin comes up and docks; Tomas, a courier, steps out with a case,
// four lines are spoken, and the cabin leaves.
package demo

import (
	"fmt"
	"math"
	"math/rand/v2"

	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/scene"
	"proscen/core/timing"
)

// Story frames of the events.
const (
	docks     = 300
	stepsOut  = 344
	meets     = 430
	handsOver = 712
	goesBack  = 770
	boards    = goesBack + 84
	leaves    = 936
	carries   = 900 // Ida turns away with the case
	lays      = 972
	opens     = 1080
	ends      = 1200
)

const (
	deck  = 1.2         // height of the platform in metres
	cable = deck + 4.46 // height of the cable at the dock, so that the cabin's floor is level with the deck
)

// Production is the name of the production that the demonstration belongs to.
const Production = "Hollin Pass"

type builder struct{ doc *scene.Document }

// Scene returns the demonstration document. It is valid and the same every
// time.
func Scene() *scene.Document {
	b := &builder{scene.New()}
	b.settings()
	b.kits()
	b.station()
	b.dressing()
	b.mountain()
	b.people()
	b.cameras()
	b.cut()
	b.alternates()
	return b.doc
}

func (b *builder) settings() {
	b.doc.Settings = scene.Settings{
		Production: Production, Title: "Last Car Down",
		Rate: timing.Film24, Story: timing.Range{In: 0, Out: ends}, Format: "wide",
		Sun:  scene.Sun{Heading: 248, Height: 13, Strength: 2.3, Color: "#ffb679"},
		Sky:  scene.Sky{Zenith: "#54719b", Horizon: "#d9b49c", Ground: "#4f5358", Strength: 1.1},
		Haze: scene.Haze{Distance: 330, Rise: 34, Base: -52},
	}
	for id, f := range map[string]scene.Format{
		"wide": {Name: "wide 16:9", Width: 1280, Height: 720}, "scope": {Name: "scope 2.39:1", Width: 1280, Height: 536},
		"square": {Name: "square 1:1", Width: 720, Height: 720}, "tall": {Name: "tall 9:16", Width: 720, Height: 1280},
	} {
		b.doc.Formats[id] = f
	}
}

// kits are the lenses that the production has.
func (b *builder) kits() {
	b.doc.Kits["primes"] = scene.Kit{Name: "Station primes", Primes: []float64{16, 18, 21, 25, 27, 29, 32, 35, 40, 50, 60, 75, 100, 135}}
	b.doc.Kits["zooms"] = scene.Kit{Name: "Two zooms", Zooms: [][2]float64{{19, 90}, {70, 210}}}
	b.doc.Kits["wide-squeeze"] = scene.Kit{Name: "Squeezed primes", Primes: []float64{28, 35, 40, 50, 75, 100, 135}, Squeeze: 2}
}

type values = map[string]float64

func (b *builder) piece(id, name, stock string, at scene.Vec, pan float64, v values) {
	b.doc.Nodes[id] = scene.Node{Kind: scene.KindSet, Name: name, Position: at, Turn: scene.Vec{pan, 0, 0}, Piece: &scene.Piece{Stock: stock, Params: v}}
}

func (b *builder) colored(id, color string) {
	n := b.doc.Nodes[id]
	p := *n.Piece
	p.Color = color
	n.Piece = &p
	b.doc.Nodes[id] = n
}

func (b *builder) path(id, name string, form curve.Form, pts ...scene.Vec) {
	b.doc.Paths[id] = scene.Path{Name: name, Form: form, Points: pts}
}

func (b *builder) keys(node string, ch scene.Channel, keys ...curve.Key) {
	b.doc.Curves[fmt.Sprintf("%s.%s", node, ch)] = scene.Curve{Node: node, Channel: ch, Keys: keys}
}

func soft(frame, value float64) curve.Key {
	return curve.Key{Frame: frame, Value: value, Ease: curve.Soft}
}

func even(frame, value float64) curve.Key {
	return curve.Key{Frame: frame, Value: value, Ease: curve.Even}
}

func (b *builder) station() {
	b.piece("platform", "Platform", "platform", scene.Vec{-4.15, 0, 0}, 0, values{"width": 5.8, "depth": 8, "height": deck})
	b.piece("stairs", "Stairs", "stairs", scene.Vec{-8.9, 0, 1.4}, -90, values{"width": 1.8, "rise": deck, "run": 1.85, "steps": 7})
	b.piece("house", "Keeper's house", "house", scene.Vec{-12.5, 0, -5.5}, 24, values{"width": 6.4, "depth": 4.6})
	b.piece("lamp", "Platform lamp", "lamp", scene.Vec{-4.1, deck, -2.2}, 0, values{"height": 3})
	b.doc.Nodes["lamp-light"] = scene.Node{Kind: scene.KindLamp, Name: "Lamp light", Parent: "lamp", Position: scene.Vec{0.45, 2.5, 0}, Lamp: &scene.Lamp{Color: "#ffc98a", Strength: 4.4, Reach: 9, Shadow: true}}
	b.piece("lamp-2", "Stair lamp", "lamp", scene.Vec{-7.4, 0, 3.4}, 90, values{"height": 3.4})
	b.doc.Nodes["lamp-2-light"] = scene.Node{Kind: scene.KindLamp, Name: "Stair light", Parent: "lamp-2", Position: scene.Vec{0.45, 2.9, 0}, Lamp: &scene.Lamp{Color: "#ffc98a", Strength: 1.8, Reach: 8, Shadow: true}}
	b.piece("bench", "Bench", "bench", scene.Vec{-5.9, deck, -3.2}, 180, nil)
	b.piece("fence-back", "Back rail", "fence", scene.Vec{-7, deck, -3.92}, 0, values{"length": 5.6, "gap": 1.4})
	b.piece("fence-side", "Side rail", "fence", scene.Vec{-7, deck, -3.9}, 90, values{"length": 0, "gap": 1.2})
	b.path("rail", "rail", curve.Straight, scene.Vec{-7, deck, 3.9}, scene.Vec{-1.6, deck, 3.9})
	b.piece("fence-front", "Front rail", "fence", scene.Vec{}, 0, nil)
	b.along("fence-front", "rail")
	b.path("rail-side", "side rail", curve.Straight, scene.Vec{-7, deck, -3.9}, scene.Vec{-7, deck, 0.3})
	b.along("fence-side", "rail-side")
	for i, at := range []scene.Vec{{-6.7, deck, -3.6}, {-3.2, deck, -3.6}, {-6.7, deck, -1.3}, {-3.2, deck, -1.3}} {
		b.piece(fmt.Sprintf("shelter-post-%d", i+1), fmt.Sprintf("Shelter post %d", i+1), "post", at, 0, values{"height": 2.7})
	}
	b.doc.Nodes["shelter-roof"] = scene.Node{Kind: scene.KindSet, Name: "Shelter roof", Position: scene.Vec{-4.95, deck + 2.95, -2.45}, Turn: scene.Vec{0, 5, 0}, Piece: &scene.Piece{Stock: "floor", Params: values{"width": 4.3, "depth": 3.2, "thick": 0.12}, Color: "#4a3d3a"}}

	// The cable runs from the valley over the dock to the wheel house.
	slope := (cable + 36) / 130.0
	low := scene.Vec{0, -36, 130}
	b.path("line", "cabin line", curve.Straight, low, scene.Vec{0, cable, 0})
	b.path("wire", "cable", curve.Straight, low, scene.Vec{0, cable + 7*slope, -7})
	b.piece("wire-piece", "Cable", "cable", scene.Vec{}, 0, nil)
	b.along("wire-piece", "wire")
	b.piece("pylon", "Head pylon", "pylon", scene.Vec{0, 0, -7}, 0, values{"height": cable + 7*slope, "arm": 1.6})
	b.piece("pylon-2", "Valley pylon", "pylon", scene.Vec{0, -22, 64}, 0, values{"height": cable + 22 - 64*slope - 0.3, "arm": 1.6})
	b.piece("wheel-house", "Wheel house", "house", scene.Vec{4.6, 0, -9}, -12, values{"width": 5, "depth": 4, "height": 3.4, "roof": 1.4, "lit": 0})
	b.colored("wheel-house", "#6d7377")

	b.doc.Nodes["cabin"] = scene.Node{Kind: scene.KindVehicle, Name: "Cabin", Path: "line", AlongYaw: true, Piece: &scene.Piece{Stock: "cabin", Params: values{"swing": 0.3}}}
	b.keys("cabin", scene.Travel, soft(0, 0.25), soft(docks, 1), soft(leaves, 1), soft(ends, 0.3))
	b.keys("cabin", scene.Swing, soft(docks, 0), soft(docks+16, 0.5), soft(leaves-18, 0.5), soft(leaves-2, 0))
	b.keys("case", scene.Swing, soft(opens, 0), soft(opens+34, 105))
}

func (b *builder) along(id, path string) {
	n := b.doc.Nodes[id]
	p := *n.Piece
	p.Along = path
	n.Piece = &p
	b.doc.Nodes[id] = n
}

func (b *builder) mountain() {
	b.piece("shelf", "Station ground", "ground", scene.Vec{-6, -0.02, -14}, 0, values{"width": 64, "depth": 58, "relief": 7, "scale": 13, "flat": 17, "seed": 4})
	n := func(id, name string, at scene.Vec, turn scene.Vec, v values, color string) {
		b.doc.Nodes[id] = scene.Node{Kind: scene.KindSet, Name: name, Position: at, Turn: turn, Piece: &scene.Piece{Stock: "ground", Params: v, Color: color}}
	}
	n("slope", "Valley slope", scene.Vec{0, -23, 72}, scene.Vec{0, 17.5, 0}, values{"width": 260, "depth": 140, "relief": 9, "scale": 22, "flat": 0, "seed": 9}, "#4d5645")
	n("valley", "Valley floor", scene.Vec{0, -60, 260}, scene.Vec{}, values{"width": 900, "depth": 420, "relief": 14, "scale": 70, "flat": 0, "seed": 12}, "#4a5748")
	for i, r := range []struct {
		at                 scene.Vec
		pan, w, d, h, seed float64
	}{
		{scene.Vec{20, -4, -130}, 6, 420, 150, 120, 3},
		{scene.Vec{-160, -20, -40}, 70, 380, 140, 100, 5},
		{scene.Vec{190, -30, 20}, -74, 420, 150, 110, 8},
		{scene.Vec{-60, -70, 520}, 0, 1100, 240, 210, 11},
		{scene.Vec{-420, -70, 260}, 80, 800, 200, 170, 14},
	} {
		b.piece(fmt.Sprintf("ridge-%d", i+1), fmt.Sprintf("Ridge %d", i+1), "ridge", r.at, r.pan, values{"width": r.w, "depth": r.d, "height": r.h, "seed": r.seed})
	}
	rng := rand.New(rand.NewPCG(2, 7))
	place := func(id, name, stock string, at scene.Vec, v values) {
		b.piece(id, name, stock, at, math.Round(rng.Float64()*360), v)
	}
	trees := 0
	for trees < 30 {
		x, z := -34+rng.Float64()*62, -36+rng.Float64()*44
		nearStation := x > -19 && x < 9 && z > -13
		if nearStation || math.Abs(x) < 4 && z > -16 {
			continue
		}
		trees++
		h := 4.5 + rng.Float64()*5
		place(fmt.Sprintf("tree-%02d", trees), fmt.Sprintf("Conifer %d", trees), "conifer", scene.Vec{round(x), -0.4, round(z)}, values{"height": round(h), "width": round(h * 0.38), "seed": float64(trees)})
	}
	for i := 1; i <= 26; i++ { // on the slope below
		x, z := -70+rng.Float64()*140, 24+rng.Float64()*80
		if math.Abs(x) < 6 {
			x += 12
		}
		if math.Abs(x-(2.5+(z-15.5)*0.51)) < 7 && z < 48 { // free of the crane's way
			x += 15
		}
		h := 6 + rng.Float64()*5
		y := -23 - (z-72)*math.Tan(17.5*math.Pi/180) - 1
		place(fmt.Sprintf("low-tree-%02d", i), fmt.Sprintf("Slope conifer %d", i), "conifer", scene.Vec{round(x), round(y), round(z)}, values{"height": round(h), "width": round(h * 0.4), "seed": float64(i + 50)})
	}
	for i, r := range [][4]float64{ // along the edge of the shelf: x, z, size, height
		{-13, 9.5, 3.4, 1.8}, {-9.2, 11, 2.6, 2.2}, {-4, 12, 4, 2.4}, {1.5, 11.5, 3, 1.6}, {5, 9, 4.4, 3}, {8, 5, 3, 2.2},
		{7.5, 0.5, 2, 1.2}, {-18, 7, 4.2, 2.6}, {10.5, -4, 5, 3.6}, {3, 5.6, 1.4, 0.9}, {-20, -2, 2.2, 1.4}, {-1, -12, 1.6, 1},
	} {
		place(fmt.Sprintf("rock-%02d", i+1), fmt.Sprintf("Rock %d", i+1), "rock", scene.Vec{r[0], -0.3, r[1]}, values{"size": r[2], "height": r[3], "seed": float64(i)})
	}
}

func round(v float64) float64 { return math.Round(v*100) / 100 }

// dressing is what makes the station a place where somebody works.
func (b *builder) dressing() {
	prop := func(id, name, stock string, at scene.Vec, pan float64, v values) {
		b.doc.Nodes[id] = scene.Node{Kind: scene.KindProp, Name: name, Position: at, Turn: scene.Vec{pan, 0, 0}, Piece: &scene.Piece{Stock: stock, Params: v}}
	}
	light := func(parent string, at scene.Vec, l scene.Lamp) {
		b.doc.Nodes[parent+"-light"] = scene.Node{Kind: scene.KindLamp, Name: b.doc.Nodes[parent].Name + " light", Parent: parent, Position: at, Lamp: &l}
	}
	prop("crate-1", "Freight crate", "crate", scene.Vec{-5.5, deck, 2.5}, 12, nil)
	prop("crate-2", "Small crate", "crate", scene.Vec{-6.35, deck, 3.1}, -20, values{"width": 0.6, "height": 0.45, "depth": 0.5})
	prop("crate-3", "Crate under the roof", "crate", scene.Vec{-3.7, deck, -3.3}, 4, values{"width": 0.9, "height": 0.7})
	prop("barrel-1", "Water barrel", "barrel", scene.Vec{-6.55, deck, -0.9}, 0, nil)
	prop("lantern", "Lantern", "lantern", scene.Vec{-3.55, deck + 0.7, -3.25}, 30, nil)
	light("lantern", scene.Vec{0, 0.36, 0}, scene.Lamp{Color: "#ffc27a", Strength: 0.9, Reach: 5})
	prop("bell", "Departure bell", "bell", scene.Vec{-3.2, deck + 1.65, -1.2}, 180, values{"size": 0.26})
	prop("papers", "Waybills", "papers", scene.Vec{-3.95, deck + 0.7, -3.3}, 15, nil)
	b.piece("sign", "Signpost", "sign", scene.Vec{-9.9, 0, 2.9}, 35, nil)
	prop("cart", "Hand cart", "cart", scene.Vec{-11.2, 0, 4.3}, 118, nil)
	b.doc.Nodes["cart"] = scene.Node{Kind: scene.KindVehicle, Name: "Hand cart", Position: scene.Vec{-11.6, 0, 3.9}, Turn: scene.Vec{118, 0, 0}, Piece: &scene.Piece{Stock: "cart"}}
	b.piece("ladder", "Ladder", "ladder", scene.Vec{2.5, 0, -6.6}, 8, values{"height": 3.2})
	b.piece("wood-1", "Stacked wood", "stoneWall", scene.Vec{-9.9, 0, -6.4}, 114, values{"length": 2.6, "height": 1, "thick": 0.5, "seed": 6})
	b.colored("wood-1", "#6e5236")
	b.path("way", "way to the house", curve.Smooth, scene.Vec{-8.9, 0.02, 1.4}, scene.Vec{-10.6, 0.02, 1.1}, scene.Vec{-11.3, 0.02, -1.2}, scene.Vec{-11.5, 0.02, -3.3})
	b.piece("way-piece", "Footpath", "footpath", scene.Vec{}, 0, values{"width": 1.2})
	b.along("way-piece", "way")
	b.path("edge", "edge of the shelf", curve.Smooth, scene.Vec{-16, 0, 6.6}, scene.Vec{-11, 0, 8.2}, scene.Vec{-5.5, 0, 8}, scene.Vec{-2.2, 0, 6.9})
	b.piece("edge-wall", "Stone wall", "stoneWall", scene.Vec{}, 0, values{"height": 0.85, "seed": 3})
	b.along("edge-wall", "edge")
	for i, at := range [][4]float64{{-8.3, -2.6, 1.3, 1}, {-7.9, -3.6, 1, 0.8}, {-14.9, 1.6, 1.6, 1.1}, {-8.5, 5.2, 1.2, 0.8}, {2.2, -5.4, 1.2, 0.9}, {7.2, -6.6, 1.6, 1.2}, {-16.2, -1.5, 1.5, 1.2}} {
		b.piece(fmt.Sprintf("bush-%d", i+1), fmt.Sprintf("Bush %d", i+1), "bush", scene.Vec{at[0], -0.1, at[1]}, float64(i*50), values{"width": at[2], "height": at[3], "seed": float64(i + 1)})
	}
	b.piece("tree-old", "Old tree", "broadTree", scene.Vec{-16.4, -0.2, 2.4}, 40, values{"height": 7.5, "width": 6, "seed": 5})
	b.piece("tarn", "Tarn", "water", scene.Vec{-46, -55.4, 190}, 20, values{"width": 120, "depth": 70, "wave": 0.2})
}

func (b *builder) people() {
	b.doc.Nodes["ida"] = scene.Node{Kind: scene.KindCast, Name: "Ida", Position: scene.Vec{-5.9, deck, -2.84}, Turn: scene.Vec{180, 0, 0}, Cast: &scene.Cast{Height: 1.68, Coat: "#a8524a", Legs: "#3b3f4c", Build: "slim", Hair: "#5a3422", HairStyle: "tied", Skin: "#dd9f77"}}
	// Tomas stands on the cabin's floor where the cabin is when the story begins.
	floor := -4.46
	t := 0.25
	b.doc.Nodes["tomas"] = scene.Node{Kind: scene.KindCast, Name: "Tomas", Position: scene.Vec{0.15, round(-36 + t*(cable+36) + floor), round(130 - t*130 + 0.1)}, Turn: scene.Vec{90, 0, 0}, Cast: &scene.Cast{Height: 1.8, Coat: "#3f6b74", Legs: "#4a4238", Build: "broad"}}
	b.doc.Nodes["case"] = scene.Node{Kind: scene.KindProp, Name: "Sealed case", Position: scene.Vec{0.5, round(-36 + t*(cable+36) + floor), round(130 - t*130 + 0.4)}, Turn: scene.Vec{90, 0, 0}, Piece: &scene.Piece{Stock: "case"}}
	b.doc.Nodes["case-light"] = scene.Node{Kind: scene.KindLamp, Name: "Light in the case", Parent: "case", Position: scene.Vec{0, 0.42, 0}, Lamp: &scene.Lamp{Color: "#ffe2a8", Strength: 0, Reach: 4}}
	b.keys("case-light", scene.Strength, soft(opens, 0), soft(opens+30, 1.1))

	b.path("tomas-out", "Tomas steps out", curve.Smooth, scene.Vec{0.15, deck, 0.1}, scene.Vec{-1.6, deck, 0.1}, scene.Vec{-3.12, deck, 0.5})
	b.path("tomas-back", "Tomas goes back", curve.Smooth, scene.Vec{-3.12, deck, 0.5}, scene.Vec{-1.6, deck, 0.1}, scene.Vec{0.15, deck, 0.1})
	b.path("ida-rises", "Ida comes out of the shelter", curve.Smooth, scene.Vec{-5.9, deck, -2.84}, scene.Vec{-5.5, deck, -1.9}, scene.Vec{-4.6, deck, -0.9})
	b.path("ida-meets", "Ida comes forward", curve.Smooth, scene.Vec{-4.6, deck, -0.9}, scene.Vec{-4.9, deck, 0.1}, scene.Vec{-4.2, deck, 0.8})
	b.path("ida-lays", "Ida carries the case", curve.Smooth, scene.Vec{-4.2, deck, 0.8}, scene.Vec{-4.3, deck, 1.6}, scene.Vec{-4.75, deck, 2.35})
	act := func(id string, a scene.Action) { b.doc.Actions[id] = a }
	act("ida-1", scene.Action{Cast: "ida", Do: scene.Sit, In: 0, Out: 132, Seat: 0.46})
	act("ida-2", scene.Action{Cast: "ida", Do: scene.Walk, In: 156, Out: 222, Path: "ida-rises", Face: "cabin"})
	act("ida-3", scene.Action{Cast: "ida", Do: scene.Stand, In: 222, Out: 352, Face: "cabin"})
	act("ida-4", scene.Action{Cast: "ida", Do: scene.Walk, In: 352, Out: meets, Path: "ida-meets", Face: "tomas"})
	act("ida-5", scene.Action{Cast: "ida", Do: scene.Stand, In: meets, Out: boards, Face: "tomas"})
	act("ida-6", scene.Action{Cast: "ida", Do: scene.Stand, In: boards, Out: carries, Face: "cabin"})
	act("ida-7", scene.Action{Cast: "ida", Do: scene.Walk, In: carries, Out: lays, Path: "ida-lays"})
	act("ida-8", scene.Action{Cast: "ida", Do: scene.Turn, In: lays, Out: lays + 20, Turn: 95})
	act("ida-9", scene.Action{Cast: "ida", Do: scene.Crouch, In: opens - 34, Out: ends, Face: "case"})
	act("ida-look-1", scene.Action{Cast: "ida", Do: scene.Look, In: 40, Out: 126, Face: "cabin"})
	act("ida-wave", scene.Action{Cast: "ida", Do: scene.Wave, In: 236, Out: 282})
	act("ida-takes", scene.Action{Cast: "ida", Do: scene.Take, In: handsOver, Out: handsOver + 44, On: "case", With: "tomas"})
	act("ida-puts", scene.Action{Cast: "ida", Do: scene.Put, In: lays + 22, Out: lays + 62, On: "case", At: &scene.Vec{-5.6, deck + 0.6, 2.42}})
	act("ida-look-2", scene.Action{Cast: "ida", Do: scene.Look, In: lays + 52, Out: opens - 30, Face: "cabin"})
	act("ida-opens", scene.Action{Cast: "ida", Do: scene.Reach, In: opens - 16, Out: opens + 60, Face: "case"})
	act("tomas-1", scene.Action{Cast: "tomas", Do: scene.Ride, In: -60, Out: stepsOut, On: "cabin"})
	act("tomas-2", scene.Action{Cast: "tomas", Do: scene.Walk, In: stepsOut, Out: meets, Path: "tomas-out", Face: "ida"})
	act("tomas-3", scene.Action{Cast: "tomas", Do: scene.Stand, In: meets, Out: goesBack, Face: "ida"})
	act("tomas-4", scene.Action{Cast: "tomas", Do: scene.Walk, In: goesBack, Out: boards, Path: "tomas-back"})
	act("tomas-5", scene.Action{Cast: "tomas", Do: scene.Ride, In: boards, Out: ends, On: "cabin"})
	act("tomas-takes", scene.Action{Cast: "tomas", Do: scene.Take, In: -50, Out: -20, On: "case"})
	act("tomas-gives", scene.Action{Cast: "tomas", Do: scene.Give, In: handsOver, Out: handsOver + 44, On: "case", With: "ida"})
	act("tomas-points", scene.Action{Cast: "tomas", Do: scene.Point, In: 672, Out: 704, Face: "cabin", Hand: "left"})
	for i, l := range []scene.Line{
		{Cast: "ida", Text: "You're the last one up tonight.", In: 446, Out: 502, Gesture: true},
		{Cast: "tomas", Text: "Then I'm the last one down.", In: 516, Out: 566},
		{Cast: "ida", Text: "Does it have to be opened here?", In: 588, Out: 640, Gesture: true},
		{Cast: "tomas", Text: "Only after I'm gone.", In: 660, Out: 706},
	} {
		b.doc.Lines[fmt.Sprintf("line-%d", i+1)] = l
	}
}

func (b *builder) cameras() {
	add := func(number int, name string, at, turn scene.Vec, focal, stop, focus float64, change func(n *scene.Node)) {
		n := scene.Node{Kind: scene.KindCamera, Name: name, Position: at, Turn: turn, Camera: &scene.Camera{
			Number: number, Color: edit.CameraColors[number-1], Support: scene.Sticks, Aim: scene.AimFree,
			Sensor: edit.DefaultSensor, Kit: "primes", Focal: focal, Stop: stop, Focus: focus,
		}}
		if change != nil {
			change(&n)
		}
		b.doc.Nodes[fmt.Sprintf("camera-%d", number)] = n
	}
	hold := func(subject string, right, up float64) func(*scene.Node) {
		return func(n *scene.Node) {
			n.Camera.Aim, n.Camera.AimAt, n.Camera.Framing, n.Camera.FocusOn = scene.AimAt, subject, [2]float64{right, up}, subject
		}
	}
	b.doc.Nodes["station-aim"] = scene.Node{Kind: scene.KindAim, Name: "Station", Position: scene.Vec{-3, 3.4, -1}}
	b.doc.Nodes["hand-over"] = scene.Node{Kind: scene.KindAim, Name: "Hand-over", Position: scene.Vec{-3.66, deck + 1, 0.65}}

	b.path("crane", "crane", curve.Smooth, scene.Vec{15, -5.5, 40}, scene.Vec{13, 0.5, 31}, scene.Vec{9, 5.4, 22}, scene.Vec{2.5, 6.6, 15.5})
	add(1, "Valley crane", scene.Vec{}, scene.Vec{}, 25, 5.6, 30, func(n *scene.Node) {
		hold("station-aim", -0.1, -0.1)(n)
		n.Path, n.Camera.Support = "crane", scene.Dolly
	})
	b.keys("camera-1", scene.Travel, soft(48, 0), soft(232, 1))
	add(2, "Ida waits", scene.Vec{-2.9, deck + 1.35, 1.7}, scene.Vec{}, 50, 2.8, 3, hold("ida", 0.3, 0.32))
	add(3, "Docking side", scene.Vec{-8.6, deck + 1.5, 8.2}, scene.Vec{-45, 4, 0}, 29, 4, 11, nil)
	add(4, "Low step-out", scene.Vec{-4.9, deck + 0.3, 2.3}, scene.Vec{-66, 12, 0}, 21, 4, 4, nil)
	b.keys("camera-4", scene.Tilt, soft(384, 12), soft(426, 20))
	add(5, "Over Ida to Tomas", scene.Vec{-5.3, deck + 1.66, 1.55}, scene.Vec{}, 60, 2.8, 3, hold("tomas", 0.36, 0.24))
	add(6, "Over Tomas to Ida", scene.Vec{-1.45, deck + 1.78, 1.05}, scene.Vec{}, 60, 2.8, 3, hold("ida", -0.34, 0.22))
	add(7, "Overhead insert", scene.Vec{-3.5, deck + 4.2, 0.66}, scene.Vec{0, -88, 0}, 40, 4, 3, nil)
	add(9, "Hand-over, other side", scene.Vec{-3.95, deck + 1.25, -1.35}, scene.Vec{}, 40, 2.8, 2, hold("hand-over", 0, 0.05))
	add(10, "Case and cabin", scene.Vec{-6.1, deck + 1.12, 0.7}, scene.Vec{-161, -6, 0}, 27, 2, 1.9, nil)
	add(11, "Light on her face", scene.Vec{-6.6, deck + 1.1, 1.7}, scene.Vec{}, 50, 2, 1.5, hold("ida", 0.14, 0.3))
	b.keys("camera-10", scene.Focus, soft(1000, 1.9), soft(1032, 24))
	add(8, "Closing wide", scene.Vec{-13.5, 3.4, 12.5}, scene.Vec{-46, 3, 0}, 25, 5.6, 18, nil)
	b.keys("camera-8", scene.Pan, even(leaves, -44), even(1120, -58))
}

func (b *builder) cut() {
	d := b.doc
	d.Assemblies["first-cut"] = scene.Assembly{Name: "first cut"}
	d.Lanes["main"] = scene.Lane{Assembly: "first-cut", Main: true, Name: "main"}
	at := 0
	for i, s := range []struct {
		name    string
		camera  int
		in, out float64
	}{
		{"Up from the valley", 1, 56, 232}, {"Ida waits", 2, 228, 288}, {"The cabin docks", 3, 270, 350}, {"Tomas steps out", 4, 346, 430},
		{"Over Ida", 5, 430, 580}, {"Over Tomas", 6, 580, 704}, {"From above", 7, 704, 764},
		{"Once more", 9, 716, 784}, {"Case and cabin", 10, 976, 1050}, {"Light on her face", 11, 1064, 1126}, {"The last car down", 8, 1126, 1196},
	} {
		id := fmt.Sprintf("shot-%03d", (i+1)*10)
		length := int(s.out - s.in)
		d.Shots[id] = scene.Shot{Lane: "main", Number: fmt.Sprintf("%03d", (i+1)*10), Name: s.name, Camera: fmt.Sprintf("camera-%d", s.camera), ScreenIn: at, ScreenOut: at + length, StoryIn: s.in, Speed: 1, Head: 8, Tail: 8}
		at += length
	}
	// The crane dissolves into the waiting; at the end the camera itself goes from
	// her face out to the mountain.
	join := func(id string, j scene.Join) {
		s := d.Shots[id]
		s.Join = &j
		d.Shots[id] = s
	}
	join("shot-020", scene.Join{Kind: scene.Dissolve, Before: 8, After: 8})
	join("shot-110", scene.Join{Kind: scene.Travels, Before: 8, After: 8, Ease: curve.Soft})
	d.Assemblies["first-cut"] = scene.Assembly{Name: "first cut", Target: 48 * 24, ShotTarget: 90}
	marker := func(id string, clock scene.Clock, frame int, name, color string) {
		m := scene.Marker{Clock: clock, Frame: frame, Name: name, Color: color}
		if clock == scene.ScreenClock {
			m.Assembly = "first-cut"
		}
		d.Markers[id] = m
	}
	marker("docks", scene.StoryClock, docks, "cabin docks", "#6fa8dc")
	marker("steps-out", scene.StoryClock, stepsOut, "Tomas steps out", "#7fbf7b")
	marker("first-line", scene.StoryClock, 446, "first line", "#e2b45a")
	marker("leaves", scene.StoryClock, leaves, "cabin leaves", "#c58ac9")
	marker("bell", scene.ScreenClock, 260, "bell", "#e2b45a")
	marker("pause", scene.ScreenClock, 612, "hold the look", "#d8c95b")
}
