package edit_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// desk runs operations on the small scene.
type desk struct {
	t   *testing.T
	doc *scene.Document
	n   int
}

func at(t *testing.T) *desk { return &desk{t: t, doc: scenetest.Small()} }

func (d *desk) do(name, args string) edit.Result {
	d.t.Helper()
	r, err := edit.Core().Run(d.doc, name, json.RawMessage(args), edit.Tools{NewID: func() string { d.n++; return fmt.Sprintf("id%d", d.n) }})
	require.NoError(d.t, err)
	return r
}

func (d *desk) refused(says, name, args string) {
	d.t.Helper()
	before := string(d.doc.Encode())
	_, err := edit.Core().Run(d.doc, name, json.RawMessage(args), edit.Tools{NewID: func() string { return "x" }})
	assert.ErrorContains(d.t, err, says)
	assert.Equal(d.t, before, string(d.doc.Encode()))
}

// TestSetFollowsMergePatch checks the rules of RFC 7386 that documents use.
func TestSetFollowsMergePatch(t *testing.T) {
	d := at(t)
	d.do("set", `{"collection":"nodes","id":"box","merge":{"name":"Crate","piece":{"params":{"width":2}}}}`)
	box := d.doc.Nodes["box"]
	assert.Equal(t, "Crate", box.Name)
	assert.Equal(t, "box", box.Piece.Stock, "members that are not named stay")
	assert.Equal(t, 2.0, box.Piece.Params["width"])
	d.do("set", `{"collection":"nodes","id":"box","merge":{"piece":{"params":{"height":3}}}}`)
	assert.Len(t, d.doc.Nodes["box"].Piece.Params, 2, "objects are merged")
	d.do("set", `{"collection":"nodes","id":"box","merge":{"piece":{"params":{"width":null}},"position":[1,2,3]}}`)
	assert.Len(t, d.doc.Nodes["box"].Piece.Params, 1, "null removes")
	assert.Equal(t, scene.Vec{1, 2, 3}, d.doc.Nodes["box"].Position, "lists are replaced")
	r := d.do("set", `{"collection":"settings","id":"settings","merge":{"haze":{"distance":50}},"label":"thicker air"}`)
	assert.Equal(t, "thicker air", r.Label)
	assert.Equal(t, 50.0, d.doc.Settings.Haze.Distance)
	assert.Empty(t, d.do("set", `{"collection":"nodes","id":"box","merge":{"name":"Crate"}}`).Patch, "no change, no patch")
	d.refused("any more", "set", `{"collection":"nodes","id":"gone","merge":{}}`)
	d.refused("not a collection", "set", `{"collection":"nods","id":"box","merge":{}}`)
}

func TestStockIsPlacedUnderAFreeName(t *testing.T) {
	d := at(t)
	for range 3 {
		d.do("stockPlace", `{"kind":"set","stock":"rock","name":"Rock","position":[1,0,1]}`)
	}
	names := map[string]bool{}
	for _, n := range d.doc.Nodes {
		names[n.Name] = true
	}
	assert.True(t, names["Rock"] && names["Rock 2"] && names["Rock 3"])
	d.do("stockPlace", `{"kind":"cast","name":"Somebody","position":[0,0,0],"id":"new-cast"}`)
	assert.InDelta(t, 1.74, d.doc.Nodes["new-cast"].Cast.Height, 1e-9)
	d.do("stockPlace", `{"kind":"lamp","name":"Lamp","position":[0,3,0],"id":"new-lamp"}`)
	assert.NotNil(t, d.doc.Nodes["new-lamp"].Lamp)
	d.do("stockPlace", `{"kind":"aim","name":"Door","position":[0,3,0]}`)
	d.refused("no kind of node", "stockPlace", `{"kind":"cloud","name":"Cloud","position":[0,0,0]}`)
}

func TestMarkersCountOnTheirClock(t *testing.T) {
	d := at(t)
	d.do("markerAdd", `{"clock":"screen","assembly":"cut","frame":10,"id":"p"}`)
	d.do("markerAdd", `{"clock":"screen","assembly":"cut","frame":20,"id":"q"}`)
	d.do("markerAdd", `{"clock":"story","assembly":"cut","frame":20,"id":"r","name":"bell","color":"#112233"}`)
	assert.Equal(t, "Marker 1", d.doc.Markers["p"].Name)
	assert.Equal(t, "Marker 2", d.doc.Markers["q"].Name)
	assert.Equal(t, scene.Marker{Clock: scene.StoryClock, Frame: 20, Name: "bell", Color: "#112233"}, d.doc.Markers["r"], "story markers belong to no assembly")
	d.refused("no such assembly", "markerAdd", `{"clock":"screen","frame":5}`)
}

func TestLockedThingsStay(t *testing.T) {
	d := at(t)
	d.do("set", `{"collection":"nodes","id":"box","merge":{"locked":true}}`)
	d.refused("Box is locked", "place", `{"id":"box","frame":0,"position":[1,1,1]}`)
	d.do("set", `{"collection":"nodes","id":"box","merge":{"locked":null}}`)
	d.do("place", `{"id":"box","frame":0,"position":[1,1,1],"turn":[90,0,0]}`)
	assert.Equal(t, scene.Vec{90, 0, 0}, d.doc.Nodes["box"].Turn)
}

func keysOf(d *desk, id string) (frames []float64) {
	for _, k := range d.doc.Curves[id].Keys {
		frames = append(frames, k.Frame)
	}
	return frames
}

func TestKeysKeepTheirOrderAndEase(t *testing.T) {
	d := at(t)
	d.do("value", `{"node":"b","channel":"travel","frame":50,"value":0.7,"key":true}`)
	d.do("value", `{"node":"b","channel":"travel","frame":20,"value":0.1,"key":true}`)
	assert.Equal(t, []float64{0, 20, 50, 96}, keysOf(d, "b-travel"))
	d.do("value", `{"node":"b","channel":"travel","frame":0,"value":7,"key":true}`)
	assert.Equal(t, 1.0, d.doc.Curves["b-travel"].Keys[0].Value, "travel is held to the path")
	assert.Equal(t, curve.Even, d.doc.Curves["b-travel"].Keys[0].Ease, "a key that is there keeps its ease")
	assert.Equal(t, curve.Soft, d.doc.Curves["b-travel"].Keys[1].Ease)

	d.do("keyEase", `{"node":"b","channel":"travel","frames":[0,20,96],"ease":"shaped"}`)
	k := d.doc.Curves["b-travel"].Keys
	assert.Nil(t, k[0].In, "nothing comes before the first key")
	assert.Equal(t, &curve.Handle{Frames: 20.0 / 3}, k[0].Out, "flat, a third of the gap")
	assert.Equal(t, &curve.Handle{Frames: 10}, k[1].Out)
	assert.Nil(t, k[3].Out)
	d.do("keyEase", `{"node":"b","channel":"travel","frames":[20],"ease":"hold"}`)
	assert.Nil(t, d.doc.Curves["b-travel"].Keys[1].In, "handles go with the shape")

	d.do("keyMove", `{"node":"b","channel":"travel","frames":[20,50],"by":-100}`)
	assert.Equal(t, []float64{1, 31, 96}, keysOf(d, "b-travel")[1:], "keys that move together keep their distance")
	d.do("keyMove", `{"node":"b","channel":"travel","frames":[96],"by":12}`)
	assert.Equal(t, 108.0, keysOf(d, "b-travel")[3])
	d.do("keyRemove", `{"node":"b","channel":"travel","frames":[1,31]}`)
	assert.Equal(t, []float64{0, 108}, keysOf(d, "b-travel"))
	d.do("keyRemove", `{"node":"b","channel":"travel","frames":[0,108]}`)
	assert.Empty(t, d.doc.Curves)
	d.refused("has no lamp.strength", "value", `{"node":"a","channel":"lamp.strength","frame":0,"value":1}`)
	d.refused("not there any more", "value", `{"node":"gone","channel":"lens.focal","frame":0,"value":1}`)
}

func TestPathPoints(t *testing.T) {
	d := at(t)
	d.do("pathPoint", `{"id":"track","index":1,"to":[4,2,3],"insert":true}`)
	assert.Equal(t, []scene.Vec{{0, 2, 0}, {4, 2, 3}, {8, 2, 0}}, d.doc.Paths["track"].Points)
	d.do("pathPoint", `{"id":"track","index":3,"to":[9,2,9],"insert":true}`)
	assert.Len(t, d.doc.Paths["track"].Points, 4, "after the last")
	d.do("pathPoint", `{"id":"track","index":0,"to":[-1,2,0]}`)
	assert.Equal(t, scene.Vec{-1, 2, 0}, d.doc.Paths["track"].Points[0])
	d.do("pathPoint", `{"id":"track","index":1}`)
	d.do("pathPoint", `{"id":"track","index":1}`)
	assert.Len(t, d.doc.Paths["track"].Points, 2)
	d.refused("needs its 2 points", "pathPoint", `{"id":"track","index":1}`)
	d.refused("do not make a path", "pathPoint", `{"id":"track","index":1,"to":[-1,2,0]}`)
	d.refused("no such point", "pathPoint", `{"id":"track","index":2,"to":[0,0,0]}`)
}

func TestDrawnPathsCarryOthersToo(t *testing.T) {
	d := at(t)
	r := d.do("pathDraw", `{"form":"straight","points":[[0,0,0],[0,0,-5]],"for":"box","in":10,"out":34}`)
	assert.Equal(t, "draw a path for Box", r.Label)
	box := d.doc.Nodes["box"]
	assert.True(t, box.AlongYaw, "what is not a camera turns with its path")
	assert.Equal(t, scene.Vec{}, box.Position)
	d.do("pathDraw", `{"form":"arc","points":[[0,0,0],[1,0,1],[2,0,0]]}`)
	assert.Len(t, d.doc.Paths, 4, "a path may be nobody's")
	d.refused("at least two points", "pathDraw", `{"form":"curve","points":[[0,0,0]]}`)
	d.refused("not there any more", "pathDraw", `{"form":"curve","points":[[0,0,0],[1,1,1]],"for":"gone"}`)
	d.refused("do not make a path", "pathDraw", `{"form":"arc","points":[[0,0,0],[1,0,0],[2,0,0]]}`)
	old := box.Path
	d.do("pathDraw", fmt.Sprintf(`{"form":"straight","points":[[3,0,0],[3,0,-5]],"for":"box","in":0,"out":0,"id":"%s2"}`, old))
	assert.Equal(t, old+"2", d.doc.Nodes["box"].Path)
	for _, c := range d.doc.Curves {
		assert.NotEqual(t, "box", c.Node, "the keys of the old travel are gone")
	}
}

func TestRemovingAPathLetsGoOfIt(t *testing.T) {
	d := at(t)
	n := d.doc.Nodes["box"]
	n.Piece = &scene.Piece{Stock: "cable", Along: "track"}
	d.doc.Nodes["box"] = n
	d.do("remove", `{"collection":"paths","ids":["track","walk"]}`)
	assert.Empty(t, d.doc.Nodes["box"].Piece.Along)
	assert.Empty(t, d.doc.Actions, "nobody walks on a path that is gone")
	b := d.doc.Nodes["b"]
	assert.Equal(t, scene.Vec{0, 2, 0}, b.Position, "the camera stays where the path began")
	assert.Equal(t, scene.Sticks, b.Camera.Support)
}

func TestChildrenStayWhenTheirParentGoes(t *testing.T) {
	d := at(t)
	d.doc.Nodes["group"] = scene.Node{Kind: scene.KindGroup, Name: "Group"}
	d.doc.Nodes["cart"] = scene.Node{Kind: scene.KindVehicle, Name: "Cart", Parent: "group", Piece: &scene.Piece{Stock: "cart"}}
	n := d.doc.Nodes["box"]
	n.Parent = "cart"
	d.doc.Nodes["box"] = n
	r := d.do("remove", `{"collection":"nodes","ids":["cart"]}`)
	assert.Equal(t, "group", d.doc.Nodes["box"].Parent)
	require.NoError(t, patch.Apply(d.doc, r.Patch.Inverse()))
	assert.Equal(t, "cart", d.doc.Nodes["box"].Parent)
	d.do("remove", `{"collection":"nodes","ids":["group"]}`)
	assert.NotContains(t, d.doc.Nodes, "box", "a group goes with all that it holds")
	d.refused("nothing is selected", "remove", `{"collection":"nodes","ids":[]}`)
	d.refused("not there any more", "remove", `{"collection":"markers","ids":["nope"]}`)
}

func TestSceneRename(t *testing.T) {
	d := at(t)
	d.do("sceneRename", `{"production":"P","title":"T"}`)
	assert.Equal(t, "T", d.doc.Settings.Title)
	d.refused("must not be empty", "sceneRename", `{"production":"P","title":" "}`)
}

func TestFormats(t *testing.T) {
	d := at(t)
	d.do("formatPut", `{"name":"tall 9:16","width":1080,"height":1920,"deliver":true}`)
	assert.Equal(t, scene.Format{Name: "tall 9:16", Width: 1080, Height: 1920, Deliver: true}, d.doc.Formats["id1"])
	d.refused("even numbers", "formatPut", `{"name":"odd","width":1081,"height":1920}`)
	d.refused("width", "formatPut", `{"name":"small","width":2,"height":1920}`)
	d.refused("worked in", "formatRemove", `{"id":"wide"}`)
	d.do("set", `{"collection":"settings","id":"settings","merge":{"format":"id1"}}`)
	d.do("formatRemove", `{"id":"wide"}`)
	assert.Len(t, d.doc.Formats, 1)
	d.refused("not there", "formatRemove", `{"id":"wide"}`)
}

func TestStoryRangeFollowsTheAction(t *testing.T) {
	d := at(t)
	out := func() int { return d.doc.Settings.Story.Out }
	d.do("set", `{"collection":"settings","id":"settings","merge":{"follow":true,"story":{"in":0,"out":2000}}}`)
	shorter := out()
	assert.Less(t, shorter, 2000, "it ends with what happens from now on")
	r := d.do("actionAdd", `{"id":"later","cast":"walker","do":"stand","in":400,"out":531}`)
	assert.Equal(t, 531, out())
	d.do("keySet", `{"node":"a","channels":["turn.pan"],"frame":600}`)
	assert.Equal(t, 601, out(), "the frame of the key is still in it")
	d.do("keyRemove", `{"node":"a","channel":"turn.pan","frames":[600]}`)
	assert.Equal(t, 531, out())
	require.NoError(t, patch.Apply(d.doc, r.Patch.Inverse()))
	assert.Equal(t, shorter, out(), "taken back with the deed")
	d.do("set", `{"collection":"settings","id":"settings","merge":{"follow":false,"story":{"in":0,"out":90}}}`)
	d.do("actionAdd", `{"id":"later","cast":"walker","do":"stand","in":400,"out":531}`)
	assert.Equal(t, 90, out(), "fixed")
}

func TestWhatNothingUsesIsCleared(t *testing.T) {
	doc := scenetest.Rich()
	assert.Equal(t, []scene.Thing{}, append([]scene.Thing{}, doc.Unused()...), "all of it is in use")
	doc.Models["spare"] = scene.Model{Name: "spare", Blob: strings.Repeat("cd", 32), Size: scene.Vec{1, 1, 1}, Triangles: 1}
	doc.Kits["own"] = scene.Kit{Name: "Own", Primes: []float64{50}}
	doc.Kits["shared"] = scene.Kit{Name: "Shared", Primes: []float64{50}, Shared: true}
	doc.Paths["idle"] = doc.Paths["walk"]
	doc.Cards["old"] = doc.Cards["card"]
	doc.Footage["old"] = doc.Footage["film"]
	doc.Tracks["silent"] = scene.Track{Name: "silent", Clock: scene.StoryClock}
	want := []scene.Thing{{Collection: "models", ID: "spare"}, {Collection: "kits", ID: "own"}, {Collection: "paths", ID: "idle"}, {Collection: "cards", ID: "old"}, {Collection: "footage", ID: "old"}, {Collection: "tracks", ID: "silent"}}
	require.Equal(t, want, doc.Unused())
	// One came into use meanwhile.
	n := doc.Nodes["case"]
	n.Piece, n.Model = nil, "spare"
	doc.Nodes["case"] = n
	r, err := edit.Core().Run(doc, "clearUnused", scene.Canonical(map[string]any{"things": want}), edit.Tools{})
	require.NoError(t, err)
	assert.Equal(t, "clear 5 things that nothing used", r.Label)
	assert.Empty(t, doc.Unused())
	assert.Contains(t, doc.Models, "spare")
	_, err = edit.Core().Run(doc, "clearUnused", scene.Canonical(map[string]any{"things": want}), edit.Tools{})
	assert.ErrorContains(t, err, "in use")
}

func TestAFileIsGivenAgainToAllThatNameIt(t *testing.T) {
	doc := scenetest.Rich()
	old, fresh := strings.Repeat("ab", 32), strings.Repeat("ef", 32)
	doc.Boards["second"] = scene.Board{Shot: "s1", Blob: old, Width: 16, Height: 9}
	files := doc.Files()
	require.Len(t, files, 4, "one of each kind")
	assert.Equal(t, []scene.Thing{{Collection: "boards", ID: "board"}, {Collection: "boards", ID: "second"}}, files[1].Users)
	give := func(kind string, with map[string]any) {
		t.Helper()
		with["blob"] = fresh
		_, err := edit.Core().Run(doc, "fileReplace", scene.Canonical(map[string]any{"kind": kind, "blob": old, "with": with}), edit.Tools{})
		require.NoError(t, err)
	}
	give("images", map[string]any{"width": 32, "height": 18})
	give("sounds", map[string]any{"seconds": 7.5})
	give("footage", map[string]any{"width": 8, "height": 6, "frames": 50})
	give("models", map[string]any{"size": []float64{2, 2, 2}, "triangles": 99})
	assert.Equal(t, []any{fresh, 32, fresh, 18}, []any{doc.Boards["board"].Blob, doc.Boards["board"].Width, doc.Boards["second"].Blob, doc.Boards["second"].Height})
	assert.Equal(t, []any{7.5, 7.5}, []any{doc.Sounds["gust"].Seconds, doc.Sounds["ring"].Seconds})
	assert.Equal(t, []any{50, 99}, []any{doc.Footage["film"].Frames, doc.Models["model"].Triangles})
	for _, f := range doc.Files() {
		assert.Equal(t, fresh, f.Blob)
	}
	_, err := edit.Core().Run(doc, "fileReplace", scene.Canonical(map[string]any{"kind": "images", "blob": old, "with": map[string]any{}}), edit.Tools{})
	assert.ErrorContains(t, err, "any more")
}

// TestSpeedAndDurationFollowFromEachOther sets the speed of a move and of a walk, and
// how long they last; the way of both is 8 m in the small scene.
func TestSpeedAndDurationFollowFromEachOther(t *testing.T) {
	d := at(t)
	d.do("moveShape", `{"id":"b","speed":4}`)
	assert.Equal(t, []float64{0, 48}, keysOf(d, "b-travel"), "8 m at 4 m/s are 2 s")
	d.do("moveShape", `{"id":"b","lasts":3}`)
	assert.Equal(t, []float64{0, 72}, keysOf(d, "b-travel"))
	assert.InDelta(t, 8, edit.TravelLength(d.doc, "b"), 1e-9)
	d.refused("more than 0", "moveShape", `{"id":"b","speed":-1}`)
	d.refused("cannot last", "moveShape", `{"id":"b","lasts":-2}`)
	d.refused("does not move", "moveShape", `{"id":"a","speed":1}`)

	d.do("pathDraw", `{"form":"straight","points":[[0,0,0],[0,0,-6]],"for":"box","in":10,"paced":true,"id":"way"}`)
	assert.Equal(t, []float64{10, 106}, keysOf(d, curveFor(d, "box")), "6 m at 1.5 m/s are 4 s")
	d.do("pathDraw", `{"form":"straight","points":[[0,0,0],[0,0,-1]],"for":"box","in":10,"paced":true,"id":"short"}`)
	assert.Equal(t, []float64{10, 58}, keysOf(d, curveFor(d, "box")), "nothing takes less than 2 s")

	d.do("stockPlace", `{"kind":"cast","name":"Ida","position":[0,0,0],"id":"ida"}`)
	d.do("actionAdd", `{"cast":"ida","do":"walk","path":"way","in":20,"speed":1.5,"id":"w"}`)
	d.do("actionTime", `{"ids":["w"],"speed":2}`)
	assert.Equal(t, 20+72, d.doc.Actions["w"].Out)
	d.do("set", `{"collection":"actions","id":"w","merge":{"start":1,"end":4}}`)
	d.do("actionTime", `{"ids":["w"],"speed":1.5}`)
	assert.Equal(t, 20+48, d.doc.Actions["w"].Out, "3 m of the path")
	d.do("actionTime", `{"ids":["w"],"lasts":0.5}`)
	assert.Equal(t, 20+12, d.doc.Actions["w"].Out)
	d.refused("more than 0", "actionTime", `{"ids":["w"],"lasts":-1}`)
	d.refused("more than 0", "actionTime", `{"ids":["w"],"speed":-1}`)
	d.refused("one action at a time", "actionTime", `{"ids":["w","x"],"speed":1}`)
}

func curveFor(d *desk, node string) string {
	for id, c := range d.doc.Curves {
		if c.Node == node {
			return id
		}
	}
	return ""
}
