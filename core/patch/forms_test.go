package patch_test

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func raw(s string) json.RawMessage { return json.RawMessage(s) }

func TestNegativeZeroIsZero(t *testing.T) {
	for in, want := range map[string]string{
		`[-0,-0.5,-0.0]`:      `[0,-0.5,0]`,
		`{"a":-0,"b":"-0,"}`:  `{"a":0,"b":"-0,"}`,
		`["\"-0]",-0]`:        `["\"-0]",0]`,
		`-0`:                  `0`,
		`[-10,-0.001,1e-07]`:  `[-10,-0.001,1e-7]`,
		`{"-0":[{"c":-0.0}]}`: `{"-0":[{"c":0}]}`,
	} {
		var v any
		require.NoError(t, json.Unmarshal(raw(in), &v))
		assert.JSONEq(t, want, string(scene.Canonical(v)), in)
		assert.NotContains(t, strings.ReplaceAll(string(scene.Canonical(v)), `"`, ` `), ":-0,", in)
	}
	p, err := patch.Canonical(patch.Patch{{Collection: "paths", ID: "p", After: raw(`{"name":"","form":"straight","points":[[-0,0,0],[1,-0.0,0]]}`)}})
	require.NoError(t, err)
	assert.Contains(t, string(p[0].After), `"points":[[0,0,0],[1,0,0]]`)

	// An operation that comes to −0 leaves 0 in memory too: else two copies would
	// evaluate differently, and the database's answer would never fit again.
	d := scenetest.Small()
	ops := edit.Catalog{"zero": edit.Op(func(d *edit.Draft, _ struct{}) (string, error) {
		n := d.Doc.Nodes["box"]
		n.Position = scene.Vec{math.Copysign(0, -1), 1, 2}
		d.SetNode("box", n)
		return "zero", nil
	})}
	r, err := ops.Run(d, "zero", raw(`{}`), edit.Tools{})
	require.NoError(t, err)
	assert.Contains(t, string(r.Patch[0].After), `"position":[0,1,2]`)
	assert.False(t, math.Signbit(d.Nodes["box"].Position[0]))
}

func TestTextThatCannotBeKeptIsRefused(t *testing.T) {
	line := func(text string) patch.Patch {
		return patch.Patch{{Collection: "lines", ID: "l", After: raw(`{"cast":"walker","text":"` + text + `","in":0,"out":1}`)}}
	}
	for text, says := range map[string]string{
		`a\u0000b`:       "NUL",
		`\ud83d`:         "surrogate",
		`\udc00\ud83d`:   "surrogate",
		`\ud83d\u0041`:   "surrogate",
		"bad \xff bytes": "UTF-8",
	} {
		_, err := patch.Canonical(line(text))
		assert.ErrorContains(t, err, says, "%q", text)
	}
	for _, text := range []string{`plain`, `\ud83d\ude00`, `\\u0000`, `Zürich ▷ 🎬`, `\"\\`} {
		_, err := patch.Canonical(line(text))
		assert.NoError(t, err, "%q", text)
	}
	// What an operation makes of its own is looked at as well.
	d := scenetest.Small()
	before := string(d.Encode())
	ops := edit.Catalog{"name": edit.Op(func(d *edit.Draft, _ struct{}) (string, error) {
		d.SetLine("l", scene.Line{Cast: "walker", Text: "from a caption\x00", In: 0, Out: 9})
		return "", nil
	})}
	_, err := ops.Run(d, "name", raw(`{}`), edit.Tools{})
	require.ErrorContains(t, err, "lines/l holds the character NUL")
	assert.Equal(t, before, string(d.Encode()))
	_, err = scene.Decode([]byte(strings.Replace(before, `"Walker"`, `"W\u0000"`, 1)))
	assert.ErrorContains(t, err, "NUL")
}

func TestASceneDoesNotGrowPastWhatIsRead(t *testing.T) {
	d := scenetest.Small()
	assert.InDelta(t, len(d.Encode()), d.Weight().Bytes, 32)
	add := func(id string, size int) error {
		return patch.Apply(d, patch.Patch{{Collection: "markers", ID: id, After: scene.Canonical(scene.Marker{Clock: scene.StoryClock, Name: strings.Repeat("n", size), Color: "#ffffff"})}})
	}
	require.NoError(t, add("x", 1000))
	assert.InDelta(t, len(d.Encode()), d.Weight().Bytes, 40, "the size is counted along")
	d.Grow(scene.Weight{Bytes: scene.MaxBytes - d.Weight().Bytes - 1500}) // as if it were nearly full
	before := string(d.Encode())
	require.NoError(t, add("y", 1000))
	assert.ErrorContains(t, add("z", 1000), "would become larger than the 64 MB")
	require.NoError(t, patch.Apply(d, patch.Patch{{Collection: "markers", ID: "y", Before: d.Table("markers").Get("y")}}), "less is always possible")
	assert.Equal(t, before, string(d.Encode()))

	d.Grow(scene.Weight{Bytes: -scene.MaxBytes / 2, Entities: scene.MaxEntities - d.Weight().Entities - 1})
	require.NoError(t, add("y", 1))
	assert.ErrorContains(t, add("z", 1), "larger than the 150000 things")
}

func TestLayersAreNamedAndNotThereYet(t *testing.T) {
	d := scenetest.Small()
	c := patch.Change{Layer: "night", Collection: "markers", ID: "m", Before: d.Table("markers").Get("m")}
	assert.ErrorContains(t, patch.Apply(d, patch.Patch{c}), `no alternate "night"`)
	assert.Equal(t, "night:markers/m", c.Key().String())
	other := c
	other.Layer = ""
	merged := patch.Merge(patch.Patch{c}, patch.Patch{other})
	assert.Len(t, merged, 2, "one entity in two layers is two things")
	assert.Equal(t, "night", merged.Inverse()[1].Layer)
}

func TestMergeDoesWhatPatchesInARowDo(t *testing.T) {
	a := patch.Patch{{Collection: "x", ID: "1", Before: raw(`1`), After: raw(`2`)}, {Collection: "x", ID: "2", After: raw(`5`)}}
	b := patch.Patch{{Collection: "x", ID: "1", Before: raw(`2`), After: raw(`3`)}, {Collection: "x", ID: "2", Before: raw(`5`)}, {Collection: "a", ID: "9", Before: raw(`7`)}}
	assert.Equal(t, patch.Patch{{Collection: "a", ID: "9", Before: raw(`7`)}, {Collection: "x", ID: "1", Before: raw(`1`), After: raw(`3`)}}, patch.Merge(a, b))
	assert.Empty(t, patch.Merge(a, a.Inverse()))
	assert.True(t, a.Equal(a.Inverse().Inverse()))
	assert.False(t, a.Equal(b))
}

// What others have changed since stays, and what they have left alone is changed.
func TestRebaseChangesWhatIsAsItWas(t *testing.T) {
	d := scenetest.Rich()
	table := d.Table("nodes")
	change := func(id string, to func(n *scene.Node)) patch.Change {
		n := d.Nodes[id]
		to(&n)
		return patch.Change{Collection: "nodes", ID: id, Before: table.Get(id), After: scene.Canonical(n)}
	}
	p := patch.Patch{
		change("box", func(n *scene.Node) { n.Name = "Crate"; n.Position = scene.Vec{1, 1, 1} }),
		change("lamp", func(n *scene.Node) { l := *n.Lamp; l.Strength = 9; l.Reach = 8; n.Lamp = &l }),
		change("case", func(n *scene.Node) { n.Name = "Bag" }),
		{Collection: "nodes", ID: "aim", Before: table.Get("aim")},
		{Collection: "curves", ID: "focus", Before: d.Table("curves").Get("focus"), After: raw(`{"node":"b","channel":"lens.focus","keys":[{"frame":9,"value":1,"ease":"soft"}]}`)},
		{Collection: "markers", ID: "cue", Before: d.Table("markers").Get("cue")},
	}
	// Others: the box moved, the lamp's strength, the case gone, the aim renamed, the curve keyed.
	box, lamp, aim := d.Nodes["box"], d.Nodes["lamp"], d.Nodes["aim"]
	box.Position = scene.Vec{5, 0, 0}
	l := *lamp.Lamp
	l.Strength = 3
	lamp.Lamp, aim.Name = &l, "Aim here"
	d.Nodes["box"], d.Nodes["lamp"], d.Nodes["aim"] = box, lamp, aim
	delete(d.Nodes, "case")
	focus := d.Curves["focus"]
	focus.Keys = append(focus.Keys, focus.Keys[0])
	focus.Keys[1].Frame = 50
	d.Curves["focus"] = focus

	out, whole := patch.Rebase(d, p)
	assert.False(t, whole)
	require.NoError(t, patch.Lay(d, out))
	assert.Equal(t, "Crate", d.Nodes["box"].Name, "mine")
	assert.Equal(t, scene.Vec{5, 0, 0}, d.Nodes["box"].Position, "theirs")
	assert.Equal(t, 3.0, d.Nodes["lamp"].Lamp.Strength, "theirs")
	assert.Equal(t, 8.0, d.Nodes["lamp"].Lamp.Reach, "mine")
	assert.NotContains(t, d.Nodes, "case")
	assert.Equal(t, "Aim here", d.Nodes["aim"].Name, "what others have built on is not removed")
	assert.Len(t, d.Curves["focus"].Keys, 2, "a curve is one value")
	assert.NotContains(t, d.Markers, "cue")

	again, whole := patch.Rebase(d, patch.Patch{{Collection: "markers", ID: "cue", Before: p[5].Before}})
	assert.Empty(t, again, "it is so already")
	assert.True(t, whole)
}

func TestDifferencesAreNamedThingByThing(t *testing.T) {
	from, to := scenetest.Rich(), scenetest.Rich()
	n := to.Nodes["b"]
	k := *n.Camera
	k.Focal, k.Stop = 50, 4
	n.Camera, n.Name = &k, "Low"
	to.Nodes["b"] = n
	delete(to.Lines, "line")
	to.Markers["new"] = scene.Marker{Clock: scene.StoryClock, Name: "here", Color: "#ffffff"}
	assert.Equal(t, []patch.Compared{
		{Collection: "lines", ID: "line", Name: "line of Walker: Here.", What: "removed"},
		{Collection: "markers", ID: "new", Name: "marker here", What: "added"},
		{Collection: "nodes", ID: "b", Name: "camera 2 (Low)", What: "changed", Fields: []string{"camera.focal", "camera.stop", "name"}},
	}, patch.Differences(from, to))
	assert.Empty(t, patch.Differences(to, to))
	require.NoError(t, patch.Apply(from, patch.Between(from, to)))
	assert.Equal(t, string(to.Encode()), string(from.Encode()))
	assert.Equal(t, "lens.focus of Low", to.Called("curves", "focus"))
	assert.Equal(t, "board of shot 020", to.Called("boards", "board"))
	assert.Equal(t, "lane aside of cut", to.Called("lanes", "aside"))
	assert.Equal(t, "Walker: give", to.Called("actions", "give"))
	assert.Equal(t, "shots gone", to.Called("shots", "gone"))
}
