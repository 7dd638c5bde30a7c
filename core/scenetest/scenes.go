// Package scenetest builds small documents for tests of the core.
package scenetest

import (
	"fmt"
	"strings"

	"proscen/core/curve"
	"proscen/core/scene"
	"proscen/core/timing"
)

// Small returns a valid document at 24 frames per second with a box, a walker
// on a straight path of ten metres along −Z (frames 0 to 240), two cameras (A
// at the origin on sticks, B on a dolly of eight metres along X, aiming at the
// box), and an assembly with three shots of 48 frames that leave no gap.
func Small() *scene.Document {
	d := scene.New()
	d.Settings = scene.Settings{
		Production: "Test", Title: "Small", Rate: timing.Film24, Story: timing.Range{In: 0, Out: 240}, Format: "wide",
		Sun: scene.Sun{Heading: 90, Height: 45, Strength: 1, Color: "#ffffff"},
		Sky: scene.Sky{Zenith: "#8090a0", Horizon: "#c0c0c0", Ground: "#404040", Strength: 1},
	}
	d.Formats["wide"] = scene.Format{Name: "wide", Width: 1280, Height: 720}
	d.Nodes["box"] = scene.Node{Kind: scene.KindSet, Name: "Box", Position: scene.Vec{0, 0, -10}, Piece: &scene.Piece{Stock: "box"}}
	d.Nodes["walker"] = scene.Node{Kind: scene.KindCast, Name: "Walker", Cast: &scene.Cast{Height: 1.8, Coat: "#804040", Legs: "#404080"}}
	d.Paths["walk"] = scene.Path{Name: "walk", Form: curve.Straight, Points: []scene.Vec{{0, 0, 0}, {0, 0, -10}}}
	d.Actions["walking"] = scene.Action{Cast: "walker", Do: scene.Walk, In: 0, Out: 240, Path: "walk"}
	camera := func(number int) *scene.Camera {
		return &scene.Camera{Number: number, Color: "#6fa8dc", Support: scene.Sticks, Aim: scene.AimFree, Sensor: [2]float64{36, 24}, Focal: 18, Stop: 2.8, Focus: 3}
	}
	d.Nodes["a"] = scene.Node{Kind: scene.KindCamera, Name: "A", Position: scene.Vec{0, 1.5, 0}, Camera: camera(1)}
	b := scene.Node{Kind: scene.KindCamera, Name: "B", Path: "track", Camera: camera(2)}
	b.Camera.Support, b.Camera.Aim, b.Camera.AimAt = scene.Dolly, scene.AimAt, "box"
	d.Nodes["b"] = b
	d.Paths["track"] = scene.Path{Name: "track", Form: curve.Straight, Points: []scene.Vec{{0, 2, 0}, {8, 2, 0}}}
	d.Curves["b-travel"] = scene.Curve{Node: "b", Channel: scene.Travel, Keys: []curve.Key{{Frame: 0, Value: 0, Ease: curve.Even}, {Frame: 96, Value: 1, Ease: curve.Even}}}
	d.Assemblies["cut"] = scene.Assembly{Name: "cut"}
	d.Lanes["main"] = scene.Lane{Assembly: "cut", Main: true, Name: "main"}
	for i, camera := range []string{"a", "b", "a"} {
		d.Shots[fmt.Sprintf("s%d", i+1)] = scene.Shot{
			Lane: "main", Number: fmt.Sprintf("%03d", 10*(i+1)), Camera: camera,
			ScreenIn: 48 * i, ScreenOut: 48 * (i + 1), StoryIn: float64(40 * i), Speed: 1,
		}
	}
	d.Markers["m"] = scene.Marker{Clock: scene.StoryClock, Frame: 12, Name: "m", Color: "#ffffff"}
	return d
}

// Cut returns the small document with shots of camera A at the ranges of screen
// time given, of which each begins at another thousand of story time.
func Cut(ranges ...[2]int) *scene.Document {
	d := Small()
	d.Shots = map[string]scene.Shot{}
	for i, r := range ranges {
		d.Shots[fmt.Sprintf("s%d", i+1)] = scene.Shot{Lane: "main", Number: fmt.Sprintf("%03d", 10*(i+1)), Camera: "a", ScreenIn: r[0], ScreenOut: r[1], StoryIn: float64(1000 * (i + 1)), Speed: 1}
	}
	return d
}

// Rich returns the small document with something in every collection: a lamp, a
// prop that is handed over, a group, an aim point that the second camera focuses
// on by a key, a spare lane, a board, a card, footage, sound on both clocks, lines, a recipe.
func Rich() *scene.Document {
	d := Small()
	blob := strings.Repeat("ab", 32)
	d.Formats["tall"] = scene.Format{Name: "tall", Width: 720, Height: 1280}
	d.Kits["kit"] = scene.Kit{Name: "primes", Primes: []float64{18, 35, 50}}
	d.Models["model"] = scene.Model{Name: "engine", Blob: blob, Size: scene.Vec{1, 1, 1}, Triangles: 12}
	d.Nodes["group"] = scene.Node{Kind: scene.KindGroup, Name: "Group"}
	d.Nodes["lamp"] = scene.Node{Kind: scene.KindLamp, Name: "Lamp", Parent: "group", Lamp: &scene.Lamp{Color: "#ffffff", Strength: 1, Reach: 5}}
	d.Nodes["engine"] = scene.Node{Kind: scene.KindVehicle, Name: "Engine", Model: "model", Path: "walk"}
	d.Nodes["case"] = scene.Node{Kind: scene.KindProp, Name: "Case", Piece: &scene.Piece{Stock: "box"}}
	d.Nodes["other"] = scene.Node{Kind: scene.KindCast, Name: "Other", Cast: &scene.Cast{Height: 1.7, Coat: "#804040", Legs: "#404080"}}
	d.Nodes["aim"] = scene.Node{Kind: scene.KindAim, Name: "Aim", Parent: "engine"}
	a := d.Nodes["a"]
	k := *a.Camera
	k.Kit, k.FocusOn = "kit", "aim"
	a.Camera = &k
	d.Nodes["a"] = a
	d.Curves["focus"] = scene.Curve{Node: "b", Channel: scene.Focus, Keys: []curve.Key{{Frame: 0, Value: 3, Ease: curve.Soft, On: "aim"}}}
	d.Actions["give"] = scene.Action{Cast: "walker", Do: scene.Give, With: "other", On: "case", In: 100, Out: 120}
	d.Actions["look"] = scene.Action{Cast: "other", Do: scene.Look, Face: "walker", In: 10, Out: 20}
	d.Lines["line"] = scene.Line{Cast: "walker", Text: "Here.", In: 20, Out: 40}
	d.Lanes["aside"] = scene.Lane{Assembly: "cut", Name: "aside", Order: 1}
	d.Assemblies["calm"] = scene.Assembly{Name: "calm", Order: 1}
	d.Lanes["calm-main"] = scene.Lane{Assembly: "calm", Main: true, Name: "main"}
	d.Alternates["dusk"] = scene.Alternate{Name: "dusk"}
	d.Differences[scene.DifferenceID("dusk", "nodes", "box")] = scene.Difference{
		Alternate: "dusk", Collection: "nodes", Thing: "box", What: scene.Changed,
		Fields: scene.Fields{"position": []any{2.0, 0.0, -10.0}}, Was: scene.Fields{"position": []any{0.0, 0.0, -10.0}},
	}
	d.Recipes["notes"] = scene.Recipe{Name: "notes", Pack: scene.H264, Quality: scene.Check, Burns: []scene.Burn{{Says: scene.SaysShot}}}
	d.Cards["card"] = scene.Card{Name: "title", Title: "Small", Color: "#000000", Ink: "#ffffff"}
	d.Footage["film"] = scene.Footage{Name: "film", Blob: blob, Width: 64, Height: 36, Frames: 100}
	put := func(id, lane, number string, in int, s scene.Shot) {
		s.Lane, s.Number, s.ScreenIn, s.ScreenOut, s.Speed = lane, number, in, in+24, 1
		d.PutShot(id, s)
	}
	put("s4", "main", "040", 144, scene.Shot{Plays: scene.PlaysCard, Card: "card"})
	put("s5", "main", "050", 168, scene.Shot{Plays: scene.PlaysFootage, Footage: "film"})
	put("s6", "aside", "060", 0, scene.Shot{Camera: "b"})
	d.Boards["board"] = scene.Board{Shot: "s2", Blob: blob, Width: 16, Height: 9}
	d.Tracks["wind"] = scene.Track{Name: "wind", Clock: scene.StoryClock}
	d.Tracks["bell"] = scene.Track{Name: "bell", Clock: scene.ScreenClock, Assembly: "cut"}
	d.Sounds["gust"] = scene.Sound{Track: "wind", Name: "gust", Blob: blob, Seconds: 10, In: 0, Out: 100}
	d.Sounds["ring"] = scene.Sound{Track: "bell", Name: "ring", Blob: blob, Seconds: 1, In: 50, Out: 74}
	d.Markers["cue"] = scene.Marker{Clock: scene.ScreenClock, Assembly: "cut", Frame: 30, Name: "cue", Color: "#ffffff", Camera: "b"}
	return d
}
