// Package scenetest builds small documents for tests of the core.
package scenetest

import (
	"fmt"

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
