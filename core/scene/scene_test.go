package scene_test

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestDocumentReadsBackByteForByte(t *testing.T) {
	d := scenetest.Small()
	require.Empty(t, d.Validate())
	body := d.Encode()
	back, err := scene.Decode(body)
	require.NoError(t, err)
	assert.Equal(t, string(body), string(back.Encode()))
	for _, table := range d.Tables() {
		for _, id := range table.IDs() {
			assert.NotNil(t, table.Get(id), "%s/%s", table.Name(), id)
		}
	}
	assert.Nil(t, d.Table("no such"))
}

// TestDamageIsLocated damages one thing at a time and expects a problem at its
// place.
func TestDamageIsLocated(t *testing.T) {
	for _, c := range []struct {
		path, says string
		damage     func(d *scene.Document)
	}{
		{"shots/s1/camera", `"gone"`, func(d *scene.Document) { s := d.Shots["s1"]; s.Camera = "gone"; d.Shots["s1"] = s }},
		{"shots/s1/camera", "and not a camera", func(d *scene.Document) { s := d.Shots["s1"]; s.Camera = "box"; d.Shots["s1"] = s }},
		{"shots/s2/screenOut", "at least one frame", func(d *scene.Document) { s := d.Shots["s2"]; s.ScreenOut = s.ScreenIn; d.Shots["s2"] = s }},
		{"shots/s2/screenIn", "runs until 60", func(d *scene.Document) { s := d.Shots["s1"]; s.ScreenOut = 60; d.Shots["s1"] = s }},
		{"shots/s1/speed", "0.01", func(d *scene.Document) { s := d.Shots["s1"]; s.Speed = -1; d.Shots["s1"] = s }},
		{"nodes/box/position", "NaN", func(d *scene.Document) { n := d.Nodes["box"]; n.Position[1] = math.NaN(); d.Nodes["box"] = n }},
		{"nodes/a/camera/focal", "from 1", func(d *scene.Document) {
			n := d.Nodes["a"]
			k := *n.Camera
			k.Focal = -35
			n.Camera = &k
			d.Nodes["a"] = n
		}},
		{"nodes/b/camera/number", "has already", func(d *scene.Document) {
			n := d.Nodes["b"]
			k := *n.Camera
			k.Number = 1
			n.Camera = &k
			d.Nodes["b"] = n
		}},
		{"nodes/a/camera/support", "dolly without a path", func(d *scene.Document) {
			n := d.Nodes["a"]
			k := *n.Camera
			k.Support = scene.Dolly
			n.Camera = &k
			d.Nodes["a"] = n
		}},
		{"nodes/walker/parent", "closes a circle", func(d *scene.Document) {
			n := d.Nodes["box"]
			n.Parent = "walker"
			d.Nodes["box"] = n
			n = d.Nodes["walker"]
			n.Parent = "box"
			d.Nodes["walker"] = n
		}},
		{"paths/walk/points", "do not make a path", func(d *scene.Document) { p := d.Paths["walk"]; p.Points = p.Points[:1]; d.Paths["walk"] = p }},
		{"curves/b-travel/keys/1/frame", "not after", func(d *scene.Document) {
			c := d.Curves["b-travel"]
			c.Keys = []curve.Key{{Frame: 5, Ease: curve.Even}, {Frame: 5, Ease: curve.Even}}
			d.Curves["b-travel"] = c
		}},
		{"curves/x/channel", "no channel", func(d *scene.Document) {
			d.Curves["x"] = scene.Curve{Node: "a", Channel: "wobble", Keys: []curve.Key{{Ease: curve.Soft}}}
		}},
		{"actions/walking/path", "no such path", func(d *scene.Document) { a := d.Actions["walking"]; a.Path = "?"; d.Actions["walking"] = a }},
		{"assemblies/cut", "exactly one", func(d *scene.Document) { d.Lanes["two"] = scene.Lane{Assembly: "cut", Main: true, Name: "two"} }},
		{"markers/m/color", "#rrggbb", func(d *scene.Document) { m := d.Markers["m"]; m.Color = "red"; d.Markers["m"] = m }},
		{"settings/format", "no such format", func(d *scene.Document) { d.Settings.Format = "?" }},
		{"settings/rate", "frame rate", func(d *scene.Document) { d.Settings.Rate.Den = 0 }},
		{"formats/wide/width", "from 16", func(d *scene.Document) { d.Formats["wide"] = scene.Format{Name: "w", Width: -5, Height: 720} }},
		{"lines/l/cast", "and not a cast", func(d *scene.Document) { d.Lines["l"] = scene.Line{Cast: "box", Text: "?", In: 0, Out: 5} }},
	} {
		d := scenetest.Small()
		c.damage(d)
		problems := d.Validate()
		found := false
		for _, p := range problems {
			found = found || p.Path == c.path && strings.Contains(p.Message, c.says)
		}
		assert.True(t, found, "want %s … %s, got %v", c.path, c.says, problems)
	}
}

func TestDecodeRefusesWithASentence(t *testing.T) {
	good := string(scenetest.Small().Encode())
	for in, want := range map[string]string{
		"":                             "not a scene document",
		"{":                            "line 1, column 1",
		"[]":                           "not a scene document",
		`{"schema":"x/9"}`:             `says it is "x/9"`,
		`{"a":1}`:                      "names no schema",
		strings.Repeat("junk ", 2<<20): "line 1, column 1",
		strings.Replace(good, `"nodes":{`, `"nodes":{"z":{"kind":"set","naem":"x"},`, 1):                                             `nodes/z unknown field "naem"`,
		strings.Replace(good, `"storyIn":40`, `"storyIn":"soon"`, 1):                                                                 "shots/s2 storyIn cannot be string",
		strings.Replace(good, `"storyIn":40`, `"storyIn":1e999`, 1):                                                                  "shots/s2",
		strings.Replace(good, `"markers":{`, `"extras":{},"markers":{`, 1):                                                           "extras is not a collection",
		strings.Replace(good, `"shots":{`, `"shots":{"s9":null,`, 1):                                                                 "shots/s9 is null",
		strings.Replace(good, `"settings":`, `"Settings":`, 1):                                                                       "settings is missing",
		"{\n\"schema\": \"proscen.scene/1\",\n\"settings\" 5}":                                                                       "line 3",
		strings.Replace(good, `"rate":"24"`, `"rate":"fast"`, 1):                                                                     "frames per second",
		strings.Replace(good, `"nodes":{`, `"nodes":{"../../etc":{"kind":"group","name":"x","position":[0,0,0],"turn":[0,0,0]},`, 1): "has an id that is not",
	} {
		_, err := scene.Decode([]byte(in))
		require.Error(t, err)
		assert.Contains(t, err.Error(), want)
		assert.Less(t, len(err.Error()), 1500, "errors stay readable")
	}
	_, err := scene.Decode(make([]byte, scene.MaxBytes+1))
	assert.ErrorContains(t, err, "more than the 64 MB")
}

func TestCloneSharesNoCollection(t *testing.T) {
	d := scenetest.Small()
	before := string(d.Encode())
	c := d.Clone()
	delete(c.Nodes, "box")
	c.Shots["s1"] = scene.Shot{}
	assert.Equal(t, before, string(d.Encode()))
}

func TestShotClocksInvertEachOther(t *testing.T) {
	s := scene.Shot{ScreenIn: 100, ScreenOut: 150, StoryIn: 30, Speed: 0.5}
	assert.Equal(t, 40.0, s.StoryAt(120))
	assert.Equal(t, 120.0, s.ScreenAt(40))
	assert.Equal(t, 55.0, s.StoryOut())
}

func FuzzDecode(f *testing.F) {
	f.Add([]byte(scenetest.Small().Encode()))
	f.Add([]byte(`{"schema":"proscen.scene/1","settings":{},"nodes":{"a":{"kind":"set","parent":"a"}}}`))
	f.Add([]byte(`{"schema":"proscen.scene/1","shots":[]}`))
	f.Fuzz(func(t *testing.T, in []byte) {
		d, err := scene.Decode(in)
		if (d == nil) == (err == nil) {
			t.Fatal("neither a document nor an error, or both")
		}
		if err != nil {
			return
		}
		again, err := scene.Decode(d.Encode())
		if err != nil {
			t.Fatalf("a valid document does not read back: %v", err)
		}
		if string(again.Encode()) != string(d.Encode()) {
			t.Fatal("the canonical form is not stable")
		}
		if !json.Valid(d.Encode()) {
			t.Fatal("not JSON")
		}
		// What is written is read strictly, too.
		if _, err := scene.Read(d.Encode(), func(string) bool { return true }); err != nil {
			t.Fatalf("what we have written is refused: %v", err)
		}
		if strict, err := scene.Read(in, func(string) bool { return true }); err == nil && string(strict.Encode()) != string(d.Encode()) {
			t.Fatal("strictly read it is another document")
		}
	})
}

func TestManySmallThingsAreRefusedBeforeTheyAreBuilt(t *testing.T) {
	empty := strings.Repeat(`"x":{},`, 10)
	_, err := scene.Decode([]byte(`{"schema":"` + scene.Schema + `","nodes":{` + strings.Repeat(empty, scene.MaxThings/10) + `"y":{}}}`))
	assert.ErrorContains(t, err, "larger than the 2000000 keys")
	var many strings.Builder
	for i := range scene.MaxEntities + 1 {
		fmt.Fprintf(&many, `"n%d":{},`, i)
	}
	_, err = scene.Decode([]byte(`{"schema":"` + scene.Schema + `","nodes":{` + many.String() + `"y":{}}}`))
	assert.ErrorContains(t, err, "larger than the 150000 things")
	assert.Equal(t, scene.Weight{Bytes: 27, Things: 3}, scene.Weigh([]byte(`{"a":[1,{"b\"{[":"}"}],"c":2`)[:27]))
	assert.Zero(t, scene.Weigh([]byte(`"{[\\"`)).Things)
}
