package httpapi_test

import (
	"context"
	"log/slog"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/internal/httpapi"
	"proscen/internal/media"
	"proscen/internal/production"
)

// document reads a scene or a library.
func (r *rig) document(id string) *scene.Document {
	r.t.Helper()
	var s httpapi.Scene
	require.Equal(r.t, 200, r.call("GET", "/scenes/"+id, nil, &s))
	doc, err := scene.Decode(s.Document)
	require.NoError(r.t, err)
	return doc
}

// eventually waits for the kit of a scene as the store has it, without opening it.
func (r *rig) eventually(id, kit string, primes ...float64) {
	r.t.Helper()
	assert.Eventually(r.t, func() bool {
		doc, _, err := r.store.Document(context.Background(), id)
		return err == nil && assert.ObjectsAreEqual(primes, doc.Kits[kit].Primes)
	}, 5*time.Second, 10*time.Millisecond)
}

func TestScenesTakeWhatTheirProductionShares(t *testing.T) {
	r := newRig(t, false)
	var p httpapi.Problem
	var pass, valley httpapi.ProductionInfo
	require.Equal(t, 201, r.call("POST", "/productions", m{"name": "Hollin Pass"}, &pass))
	require.Equal(t, 201, r.call("POST", "/productions", m{"name": "Valley"}, &valley))
	operate := func(id, name string, args m) {
		t.Helper()
		require.Equal(t, 204, r.call("POST", "/scenes/"+id+"/operations", m{"operation": name, "arguments": args, "author": "Mara"}, nil))
	}
	operate(pass.Library, "rateChange", m{"rate": "30000/1001", "keep": "seconds", "drop": true})
	operate(pass.Library, "formatPut", m{"id": "strip", "name": "strip", "width": 800, "height": 200})
	operate(pass.Library, "formatRemove", m{"id": "tall"})
	operate(pass.Library, "kitPut", m{"id": "k", "name": "Primes", "primes": []float64{18, 35}})

	var one, two, far httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "A"}, &one))
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "B", "start": "room", "rate": "25"}, &two))
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Valley", "title": "C"}, &far))
	assert.Equal(t, []string{"30000/1001", "25", "24"}, []string{one.Rate, two.Rate, far.Rate}, "the production's rate, unless another is wanted")
	for _, id := range []string{one.Id, two.Id} {
		doc := r.document(id)
		assert.Equal(t, scene.Kit{Name: "Primes", Primes: []float64{18, 35}, Shared: true}, doc.Kits["k"])
		assert.Equal(t, 800, doc.Formats["strip"].Width)
		assert.NotContains(t, doc.Formats, "tall")
	}
	assert.Empty(t, r.document(far.Id).Kits)
	assert.Len(t, r.home(), 3, "libraries are no scenes")

	// One scene keeps the kit as its own; who has the other one open hears of the change.
	operate(two.Id, "kitPut", m{"id": "k", "name": "Ours", "primes": []float64{21}})
	line := r.watch(one.Id, "tab-1")
	operate(pass.Library, "kitPut", m{"id": "k", "name": "Primes", "primes": []float64{18, 35, 75}})
	e := line.hear(httpapi.EventKindEdit)
	assert.Equal(t, "take the lens kits of the production", (*e.Edits)[0].Label)
	assert.Equal(t, "the production", (*e.Edits)[0].Author)
	r.eventually(one.Id, "k", 18, 35, 75)
	assert.Equal(t, []float64{21}, r.document(two.Id).Kits["k"].Primes)

	// Taking a change of the library back is one more that the scenes take.
	var log []httpapi.Edit
	r.call("GET", "/scenes/"+pass.Library+"/edits", nil, &log)
	last := log[0]
	back := m{"id": "back-1", "base": last.Revision, "kind": "undo", "of": last.Id, "label": "undo it", "patch": patch.Patch(*last.Patch).Inverse()}
	require.Equal(t, 200, r.call("POST", "/scenes/"+pass.Library+"/edits", back, nil))
	r.eventually(one.Id, "k", 18, 35)

	// Moved to another production, what it shared is its own.
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+one.Id, m{"production": "Valley"}, nil))
	doc := r.document(one.Id)
	assert.Equal(t, scene.Kit{Name: "Primes", Primes: []float64{18, 35}}, doc.Kits["k"])
	operate(valley.Library, "kitPut", m{"id": "v", "name": "Long", "primes": []float64{300}})
	r.eventually(one.Id, "v", 300)
	r.eventually(far.Id, "v", 300)

	assert.Equal(t, 422, r.call("POST", "/scenes/"+valley.Library+"/operations", m{"operation": "kitPut", "arguments": m{"name": "None"}}, &p))
	assert.Contains(t, p.Title, "at least one lens")
	assert.Equal(t, 422, r.call("POST", "/scenes/"+valley.Library+"/operations", m{"operation": "nonsense", "arguments": m{}}, &p))
	assert.Contains(t, p.Title, `no operation "nonsense"`)
	assert.Equal(t, 404, r.call("PATCH", "/scenes/"+valley.Library, m{"binned": true}, &p), "a library is not put away")
}

func TestWhatAStopHasLeftIsTakenLater(t *testing.T) {
	r := newRig(t, false)
	ctx := context.Background()
	doc := scenetest.Small()
	var made []string
	for _, title := range []string{"A", "B"} {
		doc.Settings.Production, doc.Settings.Title = "Hollin Pass", title
		info, err := r.store.CreateScene(ctx, doc)
		require.NoError(t, err)
		made = append(made, info.ID)
	}
	id, err := r.store.ProductionID(ctx, "Hollin Pass")
	require.NoError(t, err)
	library, err := production.Library(ctx, r.store, id)
	require.NoError(t, err)
	again, err := production.Library(ctx, r.store, id)
	require.NoError(t, err)
	assert.Equal(t, library, again)
	// The library goes on, and the server stops before the scenes have heard of it.
	require.NoError(t, production.Do(ctx, r.store, library, production.Who{}, "kitPut", m{"id": "k", "name": "Primes", "primes": []float64{18}}))
	behind, err := r.store.Behind(ctx, "", "")
	require.NoError(t, err)
	assert.Len(t, behind, 2)
	assert.Contains(t, r.document(made[0]).Kits, "k", "one is opened")
	production.Spread(ctx, r.store, slog.Default(), "")
	stored, _, err := r.store.Document(ctx, made[1])
	require.NoError(t, err)
	assert.Contains(t, stored.Kits, "k")
	behind, err = r.store.Behind(ctx, "", "")
	require.NoError(t, err)
	assert.Empty(t, behind)
}

func TestFactsSayWhichFilesAreMissing(t *testing.T) {
	r := newRig(t, false)
	var info httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "P", "title": "D", "start": "demonstration"}, &info))
	for _, k := range r.document(info.Id).Kits {
		assert.False(t, k.Shared, "%s: nothing of the demonstration is put into another production", k.Name)
	}
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "D", "start": "demonstration"}, &info))
	var facts httpapi.Facts
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/facts", nil, &facts))
	require.NotEmpty(t, facts.Files)
	doc := r.document(info.Id)
	assert.InDelta(t, len(doc.Encode()), facts.Bytes, 30)
	for _, f := range facts.Files {
		assert.Positive(t, f.Bytes, f.For)
	}
	lost := facts.Files[0]
	require.NoError(t, r.bucket.Delete(context.Background(), media.File{Kind: media.Kind(lost.Kind), Blob: lost.Blob}.Path()))
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id+"/facts", nil, &facts))
	assert.Equal(t, int64(-1), facts.Files[0].Bytes)
	assert.Positive(t, facts.Files[1].Bytes)
	// Another one takes what the production has by now, and sets nothing back.
	var all []httpapi.ProductionInfo
	r.call("GET", "/productions", nil, &all)
	library := all[0].Library
	require.Equal(t, "Hollin Pass", all[0].Name)
	args := m{"operation": "kitPut", "arguments": m{"id": "primes", "name": "Ours", "primes": []float64{33}}}
	require.Equal(t, 204, r.call("POST", "/scenes/"+library+"/operations", args, nil))
	var second httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "D 2", "start": "demonstration"}, &second))
	for _, id := range []string{library, info.Id, second.Id} {
		assert.Equal(t, []float64{33}, r.document(id).Kits["primes"].Primes)
	}
	// The production has the kits of the demonstration, and its scene takes them from it.
	for _, k := range doc.Kits {
		assert.True(t, k.Shared, k.Name)
	}
}
