package patch_test

import (
	"encoding/json"
	"testing"

	"proscen/core/patch"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCanonicalReadsMeaningNotSpelling(t *testing.T) {
	d := scenetest.Small()
	spaced := patch.Patch{{
		Collection: "markers", ID: "m",
		Before: json.RawMessage(` {"name":"m", "clock":"story", "color":"#ffffff", "frame":12.0e0} `),
		After:  json.RawMessage(`null`),
	}}
	assert.ErrorIs(t, patch.Apply(d, spaced), patch.ErrMismatch)
	p, err := patch.Canonical(spaced)
	if err != nil {
		// 12.0e0 is not a whole number's spelling for Go: say so rather than guess.
		assert.ErrorContains(t, err, "markers/m frame cannot be number")
		spaced[0].Before = json.RawMessage(`{"name":"m", "clock":"story", "color":"#ffffff", "frame":12}`)
		p, err = patch.Canonical(spaced)
	}
	require.NoError(t, err)
	require.NoError(t, patch.Apply(d, p))
	assert.Empty(t, d.Markers)
	require.NoError(t, patch.Apply(d, p.Inverse()))
	assert.Equal(t, string(scenetest.Small().Encode()), string(d.Encode()))
}

func TestPatchThatMakesAnInvalidSceneIsTakenBack(t *testing.T) {
	d := scenetest.Small()
	before := string(d.Encode())
	p := patch.Patch{
		{Collection: "markers", ID: "m", Before: d.Table("markers").Get("m")},
		{Collection: "nodes", ID: "walker", Before: d.Table("nodes").Get("walker")}, // its action is left behind
	}
	assert.ErrorContains(t, patch.Apply(d, p), "actions/walking/cast")
	assert.Equal(t, before, string(d.Encode()))
	p[1] = patch.Change{Collection: "nodes", ID: "z", After: json.RawMessage(`{"kind":7}`)}
	assert.ErrorContains(t, patch.Apply(d, p), "nodes/z")
	assert.Equal(t, before, string(d.Encode()))
	assert.ErrorContains(t, patch.Apply(d, make(patch.Patch, patch.MaxChanges+1)), "more than")
	m := patch.Change{Collection: "markers", ID: "m", Before: d.Table("markers").Get("m")}
	assert.ErrorContains(t, patch.Apply(d, patch.Patch{m, m}), "twice")
	settings := patch.Change{Collection: "settings", ID: "settings", Before: d.Table("settings").Get("settings")}
	assert.ErrorContains(t, patch.Apply(d, patch.Patch{settings}), "cannot be deleted")
	assert.Equal(t, before, string(d.Encode()))
}

func FuzzPatch(f *testing.F) {
	f.Add([]byte(`[{"collection":"markers","id":"m","before":null,"after":{"clock":"story","frame":3,"name":"x","color":"#000000"}}]`))
	f.Add([]byte(`[{"collection":"settings","id":"settings"}]`))
	f.Add([]byte(`[{"collection":"nodes","id":"box","after":{"parent":"box"}}]`))
	f.Fuzz(func(t *testing.T, in []byte) {
		var p patch.Patch
		if json.Unmarshal(in, &p) != nil {
			return
		}
		d := scenetest.Small()
		before := string(d.Encode())
		p, err := patch.Canonical(p)
		if err != nil {
			return
		}
		if err := patch.Apply(d, p); err != nil {
			if string(d.Encode()) != before {
				t.Fatal("a refused patch changed the document")
			}
			return
		}
		if problems := d.Validate(); len(problems) > 0 {
			t.Fatalf("an accepted patch left problems: %v", problems)
		}
		if err := patch.Apply(d, p.Inverse()); err != nil || string(d.Encode()) != before {
			t.Fatalf("an accepted patch cannot be taken back: %v", err)
		}
	})
}
