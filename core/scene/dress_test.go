package scene_test

import (
	"fmt"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// problemsOf returns what is wrong with the small scene after a change, in one
// text.
func problemsOf(change func(d *scene.Document)) string {
	d := scenetest.Small()
	change(d)
	return d.Validate().Error()
}

func TestDeedsAreChecked(t *testing.T) {
	deed := func(a scene.Action) func(*scene.Document) {
		return func(d *scene.Document) { d.Actions["x"] = a }
	}
	with := func(a scene.Action, change func(*scene.Action)) scene.Action {
		change(&a)
		return a
	}
	plain := scene.Action{Cast: "walker", Do: scene.Stand, In: 0, Out: 10}
	far := scene.Vec{2e9, 0, 0}
	for _, c := range []struct {
		a    scene.Action
		says string
	}{
		{with(plain, func(a *scene.Action) { a.Do = "fly" }), "which is no deed"},
		{with(plain, func(a *scene.Action) { a.Cast = "box" }), "which is a set and not a cast"},
		{with(plain, func(a *scene.Action) { a.Out = 0 }), "must last at least one frame"},
		{with(plain, func(a *scene.Action) { a.Do = scene.Run }), "there is no such path"},
		{with(plain, func(a *scene.Action) { a.Do, a.Path, a.Start, a.End = scene.Walk, "walk", 5, 3 }), "not after start"},
		{with(plain, func(a *scene.Action) { a.Ease = &[2]float64{-1, 0} }), "ease is -1"},
		{with(plain, func(a *scene.Action) { a.Face = "nobody" }), "there is no such node"},
		{with(plain, func(a *scene.Action) { a.Do = scene.Take }), "on refers to"},
		{with(plain, func(a *scene.Action) { a.Do, a.On = scene.Give, "box" }), "with refers to"},
		{with(plain, func(a *scene.Action) { a.Do, a.On, a.With = scene.Give, "box", "walker" }), "is the same person"},
		{with(plain, func(a *scene.Action) { a.Do = scene.Look }), "choose what to look at"},
		{with(plain, func(a *scene.Action) { a.Do = scene.Reach }), "choose what to reach for"},
		{with(plain, func(a *scene.Action) { a.Do = scene.PlayClip }), "clip must not be empty"},
		{with(plain, func(a *scene.Action) { a.Do, a.At = scene.Point, &far }), "must be from"},
		{with(plain, func(a *scene.Action) { a.Hand = "third" }), "must be left or right"},
		{with(plain, func(a *scene.Action) { a.Seat = 9 }), "seat is 9"},
		{scene.Action{Cast: "box", Do: scene.Ride, On: "box", In: 0, Out: 5}, "closes a circle"},
	} {
		assert.Contains(t, problemsOf(deed(c.a)), c.says)
	}
	assert.Empty(t, problemsOf(deed(scene.Action{Cast: "box", Do: scene.Ride, On: "walker", In: 0, Out: 5})), "any node can ride")
	assert.Contains(t, problemsOf(func(d *scene.Document) {
		d.Actions["x"] = scene.Action{Cast: "box", Do: scene.Ride, On: "walker", In: 0, Out: 5}
		n := d.Nodes["walker"]
		n.Parent = "box"
		d.Nodes["walker"] = n
	}), "carried by", "a carrier must not hang on what it carries")
}

func TestNodesModelsAndLightAreChecked(t *testing.T) {
	node := func(id string, change func(n *scene.Node)) func(*scene.Document) {
		return func(d *scene.Document) {
			n := d.Nodes[id]
			change(&n)
			d.Nodes[id] = n
		}
	}
	blob := strings.Repeat("0a", 32)
	for _, c := range []struct {
		change func(d *scene.Document)
		says   string
	}{
		{node("box", func(n *scene.Node) { n.Tint = "blue" }), "#rrggbb"},
		{node("box", func(n *scene.Node) { n.Model = "crane" }), "no such imported model"},
		{node("box", func(n *scene.Node) { n.Piece = nil }), "without the part that describes it"},
		{node("box", func(n *scene.Node) { n.Shooting = &scene.Shooting{Only: []string{"../x"}} }), "which is no id"},
		{node("walker", func(n *scene.Node) { n.Cast = &scene.Cast{Height: 1, Coat: "#000000", Legs: "#000000", Build: "giant"} }), "average, slim, broad, child or elder"},
		{node("walker", func(n *scene.Node) { n.Cast = &scene.Cast{Height: 1, Coat: "#000000", Legs: "#000000", Hair: "red"} }), "#rrggbb"},
		{func(d *scene.Document) { d.Models["m"] = scene.Model{Name: "M", Blob: "../../etc"} }, "SHA-256"},
		{func(d *scene.Document) { d.Models["m"] = scene.Model{Blob: blob} }, "name must not be empty"},
		{func(d *scene.Document) {
			d.Models["m"] = scene.Model{Name: "M", Blob: blob, Clips: []scene.Clip{{Name: "a", Seconds: -1}}}
		}, "clips is -1"},
		{func(d *scene.Document) { d.Settings.Sun.Clock = &scene.SunClock{Latitude: 91, Day: 1} }, "latitude is 91"},
		{func(d *scene.Document) { d.Settings.Sun.Clock = &scene.SunClock{Day: 400} }, "day is 400"},
		{func(d *scene.Document) { d.Settings.Sun.Clock = &scene.SunClock{Day: 1, Hour: 25} }, "hour is 25"},
		{func(d *scene.Document) { d.Settings.Haze.Rise = -1 }, "haze/rise is -1"},
		{func(d *scene.Document) {
			d.Curves["c"] = scene.Curve{Node: scene.SettingsID, Channel: scene.Focal, Keys: []curve.Key{{Ease: curve.Even}}}
		}, "not a channel of the scene's light"},
		{func(d *scene.Document) {
			for i := range scene.MaxLamps + 1 {
				d.Nodes[fmt.Sprintf("lamp-%d", i)] = scene.Node{Kind: scene.KindLamp, Name: "L", Lamp: &scene.Lamp{Color: "#ffffff", Reach: 1}}
			}
		}, "at most 64"},
		{func(d *scene.Document) {
			for i := range scene.MaxCasting + 1 {
				d.Nodes[fmt.Sprintf("lamp-%d", i)] = scene.Node{Kind: scene.KindLamp, Name: "L", Lamp: &scene.Lamp{Color: "#ffffff", Reach: 1, Shadow: true}}
			}
		}, "9 lamps that are on and cast shadows; a scene has at most 8"},
		{func(d *scene.Document) {
			d.Nodes["l"] = scene.Node{Kind: scene.KindLamp, Name: "L", Lamp: &scene.Lamp{Color: "#ffffff", Reach: 1, Spot: 200}}
		}, "lamp/spot is 200"},
	} {
		assert.Contains(t, problemsOf(c.change), c.says)
	}
	assert.Empty(t, problemsOf(func(d *scene.Document) {
		d.Models["m"] = scene.Model{Name: "M", Blob: blob, Size: scene.Vec{1, 1, 1}}
		d.Nodes["crane"] = scene.Node{Kind: scene.KindProp, Name: "Crane", Model: "m", Shooting: &scene.Shooting{Only: []string{"gone"}}}
	}), "a model can stand for a piece, and a shot that is gone may come back")
}

func TestOldDocumentsAreReadWithoutModels(t *testing.T) {
	d := scenetest.Small()
	text := strings.Replace(string(d.Encode()), `,"models":{}`, "", 1)
	require.NotContains(t, text, "models")
	got, err := scene.Decode([]byte(text))
	require.NoError(t, err)
	assert.NotNil(t, got.Models)
	assert.Equal(t, string(d.Encode()), string(got.Encode()))
	assert.InDelta(t, 30, scene.Action{In: 20, Out: 40}.Contact(), 1e-9)
	assert.True(t, scene.Take.Gesture())
	assert.False(t, scene.Sit.Gesture())
	assert.True(t, scene.Run.Goes())
}
