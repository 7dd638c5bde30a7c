package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"image/jpeg"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/scene"
	"proscen/internal/httpapi"
	"proscen/internal/production"
	"proscen/internal/store"
)

func (r *rig) home() map[string]httpapi.SceneInfo {
	r.t.Helper()
	var all []httpapi.SceneInfo
	require.Equal(r.t, 200, r.call("GET", "/scenes", nil, &all))
	out := map[string]httpapi.SceneInfo{}
	for _, s := range all {
		out[s.Id] = s
	}
	return out
}

func TestScenesAreRenamedMovedCopiedAndPutAway(t *testing.T) {
	r := newRig(t, false)
	var p httpapi.Problem
	var one, two, three httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "Dock", "start": "street", "rate": "30000/1001"}, &one))
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "Ridge", "start": "hillside", "rate": "25"}, &two))
	assert.Equal(t, "30000/1001", one.Rate)
	assert.Equal(t, 422, r.call("POST", "/scenes", m{"production": "P", "title": "x", "rate": "1/2"}, &p))
	assert.Contains(t, p.Title, "from 1 to 1000")
	assert.Equal(t, 422, r.call("POST", "/scenes", m{"production": "P", "title": "x", "start": "moon"}, &p))
	assert.Contains(t, p.Title, "hillside")
	var rates []string
	require.Equal(t, 200, r.call("GET", "/rates", nil, &rates))
	assert.Subset(t, rates, []string{"24", "25", "30000/1001"})
	var held httpapi.Scene
	r.call("GET", "/scenes/"+one.Id, nil, &held)
	doc, err := scene.Decode(held.Document)
	require.NoError(t, err)
	assert.Equal(t, 599, doc.Settings.Story.Out, "20 s are 599.4 frames")
	assert.True(t, doc.Settings.Drop)
	assert.Empty(t, doc.Kits, "no kits of the demonstration")
	assert.Equal(t, scene.KindVehicle, doc.Nodes["car"].Kind)

	// A rename is an edit that everybody who has the scene open hears of.
	var now httpapi.SceneInfo
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+one.Id, m{"title": "The dock", "author": "Mara"}, &now))
	assert.Equal(t, "The dock", now.Title)
	assert.Equal(t, 1, now.Revision)
	assert.Equal(t, "Mara", now.EditedBy)
	assert.Equal(t, 409, r.call("PATCH", "/scenes/"+one.Id, m{"title": "Ridge"}, &p))
	assert.Contains(t, p.Title, "choose another title")
	assert.Equal(t, 422, r.call("PATCH", "/scenes/"+one.Id, m{"title": " "}, &p))
	assert.Equal(t, "The dock", r.home()[one.Id].Title)

	require.Equal(t, 201, r.call("POST", "/scenes/"+one.Id+"/copies", nil, &three))
	assert.Equal(t, "The dock 2", three.Title)
	var copied httpapi.Scene
	r.call("GET", "/scenes/"+one.Id, nil, &held)
	r.call("GET", "/scenes/"+three.Id, nil, &copied)
	a, _ := scene.Decode(held.Document)
	b, _ := scene.Decode(copied.Document)
	a.Settings.Title = b.Settings.Title
	assert.Equal(t, string(a.Encode()), string(b.Encode()))

	require.Equal(t, 200, r.call("PATCH", "/scenes/"+three.Id, m{"production": "Another one", "archived": true}, &now))
	assert.Equal(t, "Another one", now.Production)
	assert.True(t, now.Archived)

	// In the bin, its title is free; out again, it gets another.
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+one.Id, m{"binned": true}, &now))
	require.NotNil(t, now.BinnedAt)
	since := *now.BinnedAt
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+one.Id, m{"binned": true}, &now))
	assert.Equal(t, since, *now.BinnedAt, "it does not stay longer for being thrown away twice")
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+two.Id, m{"title": "The dock"}, &now))
	now = httpapi.SceneInfo{}
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+one.Id, m{"binned": false}, &now))
	assert.Nil(t, now.BinnedAt)
	assert.Equal(t, "The dock 2", now.Title)
	assert.Equal(t, 404, r.call("PATCH", "/scenes/none", m{"binned": true}, &p))
	assert.Equal(t, 404, r.call("POST", "/scenes/none/copies", nil, &p))
}

func TestProductions(t *testing.T) {
	r := newRig(t, false)
	var p httpapi.Problem
	var made, other httpapi.ProductionInfo
	require.Equal(t, 201, r.call("POST", "/productions", m{"name": " Hollin Pass "}, &made))
	assert.Equal(t, "Hollin Pass", made.Name)
	assert.Equal(t, 409, r.call("POST", "/productions", m{"name": "Hollin Pass"}, &p))
	assert.Equal(t, 422, r.call("POST", "/productions", m{"name": "  "}, &p))
	assert.Equal(t, 422, r.call("POST", "/productions", `{"name":"a\u0000b"}`, &p))
	require.Equal(t, 201, r.call("POST", "/productions", m{"name": "Valley"}, &other))
	var one, two httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "A"}, &one))
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "Hollin Pass", "title": "B"}, &two))
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+two.Id, m{"binned": true}, nil))

	assert.Equal(t, 409, r.call("PATCH", "/productions/"+made.Id, m{"name": "Valley"}, &p))
	require.Equal(t, 200, r.call("PATCH", "/productions/"+made.Id, m{"name": "Hollin Ridge"}, nil))
	for _, id := range []string{one.Id, two.Id} {
		assert.Equal(t, "Hollin Ridge", r.home()[id].Production)
		var s httpapi.Scene
		r.call("GET", "/scenes/"+id, nil, &s)
		assert.Contains(t, string(s.Document), `"production":"Hollin Ridge"`)
	}
	var all []httpapi.ProductionInfo
	r.call("GET", "/productions", nil, &all)
	assert.Equal(t, []httpapi.ProductionInfo{
		{Id: made.Id, Name: "Hollin Ridge", Scenes: 1, Library: made.Library}, {Id: other.Id, Name: "Valley", Library: other.Library},
	}, all)
	assert.Contains(t, string(r.document(made.Library).Encode()), `"production":"Hollin Ridge"`)

	// A failure between leaves scenes with the name before: one says the new one when it
	// is opened, all when the server starts.
	require.NoError(t, r.store.RenameProduction(t.Context(), made.Id, "Hollin Gap"))
	var s httpapi.Scene
	require.Equal(t, 200, r.call("GET", "/scenes/"+one.Id, nil, &s))
	assert.Contains(t, string(s.Document), `"production":"Hollin Gap"`)
	left, err := r.store.Misnamed(t.Context(), made.Id, "")
	require.NoError(t, err)
	assert.ElementsMatch(t, []store.Misnamed{{Scene: two.Id, Name: "Hollin Gap"}, {Scene: made.Library, Name: "Hollin Gap"}}, left)
	require.NoError(t, production.Say(t.Context(), r.store, "", ""))
	assert.Contains(t, string(r.document(two.Id).Encode()), `"production":"Hollin Gap"`)
	left, err = r.store.Misnamed(t.Context(), "", "")
	require.NoError(t, err)
	assert.Empty(t, left)

	assert.Equal(t, 409, r.call("DELETE", "/productions/"+made.Id, nil, &p))
	assert.Contains(t, p.Title, "still has scenes")
	assert.Equal(t, 204, r.call("DELETE", "/productions/"+other.Id, nil, nil))
	assert.Equal(t, 404, r.call("DELETE", "/productions/"+other.Id, nil, &p))
}

func TestTheBinIsEmptiedAndWhatIsDeliveredStays(t *testing.T) {
	r := newRig(t, false)
	plain, used, kept := r.scene(short()), httpapi.SceneInfo{}, httpapi.SceneInfo{}
	require.Equal(t, 201, r.call("POST", "/scenes/"+plain.Id+"/copies", nil, &used))
	require.Equal(t, 201, r.call("POST", "/scenes/"+plain.Id+"/copies", nil, &kept))
	var d httpapi.Delivery
	require.Equal(t, 201, r.call("POST", "/scenes/"+used.Id+"/deliveries", m{"assembly": "cut", "width": 64, "height": 36}, &d))
	for _, id := range []string{plain.Id, used.Id} {
		require.Equal(t, 200, r.call("PATCH", "/scenes/"+id, m{"binned": true}, nil))
	}
	n, err := r.store.Sweep(context.Background(), time.Now().AddDate(0, 0, -30))
	require.NoError(t, err)
	assert.Zero(t, n, "they have been there for a moment only")
	n, err = r.store.Sweep(context.Background(), time.Now().Add(time.Minute))
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	home := r.home()
	assert.Len(t, home, 1)
	assert.Contains(t, home, kept.Id)
	for _, id := range []string{plain.Id, used.Id} {
		assert.Equal(t, 404, r.call("GET", "/scenes/"+id, nil, &httpapi.Problem{}))
		assert.Equal(t, 404, r.call("PATCH", "/scenes/"+id, m{"binned": false}, &httpapi.Problem{}))
		assert.Equal(t, 404, r.call("POST", "/scenes/"+id+"/copies", nil, &httpapi.Problem{}))
	}
	var manifest httpapi.Manifest
	assert.Equal(t, 200, r.call("GET", "/deliveries/"+d.Id+"/manifest", nil, &manifest), "what was delivered is still there")
	n, err = r.store.Sweep(context.Background(), time.Now().Add(time.Hour))
	require.NoError(t, err)
	assert.Zero(t, n)
}

func TestScenesHavePictures(t *testing.T) {
	r := newRig(t, true)
	var empty httpapi.SceneInfo
	require.Equal(t, 201, r.call("POST", "/scenes", m{"production": "P", "title": "Empty", "start": "room"}, &empty))
	cut := r.scene(short())
	assert.Equal(t, 404, r.call("GET", "/scenes/"+cut.Id+"/picture", nil, nil))
	assert.Equal(t, 404, r.call("POST", "/scenes/none/picture", nil, nil))
	pictures := map[string][]byte{}
	for _, s := range []httpapi.SceneInfo{empty, cut} {
		assert.Equal(t, -1, s.Pictured)
		for range 3 { // it waits once, however often it is asked for
			require.Equal(t, 202, r.call("POST", "/scenes/"+s.Id+"/picture", nil, nil))
		}
		require.Eventually(t, func() bool { return r.home()[s.Id].Pictured == 0 }, 30*time.Second, 100*time.Millisecond)
		res, err := http.Get(r.server.URL + "/api/scenes/" + s.Id + "/picture")
		require.NoError(t, err)
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		_ = res.Body.Close()
		img, err := jpeg.Decode(bytes.NewReader(body))
		require.NoError(t, err)
		assert.InDelta(t, 320, max(img.Bounds().Dx(), img.Bounds().Dy()), 64)
		pictures[s.Id] = body
	}
	assert.NotEqual(t, pictures[empty.Id], pictures[cut.Id])
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+cut.Id, m{"title": "Other"}, nil))
	assert.Equal(t, 0, r.home()[cut.Id].Pictured, "made of an older revision")
	require.Equal(t, 202, r.call("POST", "/scenes/"+cut.Id+"/picture", nil, nil))
	require.Eventually(t, func() bool { return r.home()[cut.Id].Pictured == 1 }, 30*time.Second, 100*time.Millisecond)
}

func TestADeliveryHasTheFormatAskedFor(t *testing.T) {
	r := newRig(t, false)
	d := short()
	d.Formats["tall"] = scene.Format{Name: "tall", Width: 90, Height: 160, Deliver: true}
	info := r.scene(d)
	var made httpapi.Delivery
	require.Equal(t, 201, r.call("POST", "/scenes/"+info.Id+"/deliveries", m{"assembly": "cut", "format": "tall"}, &made))
	assert.Equal(t, [2]int{90, 160}, [2]int{made.Width, made.Height})
	held, err := r.store.Delivery(context.Background(), made.Id)
	require.NoError(t, err)
	var doc struct{ Settings struct{ Format string } }
	require.NoError(t, json.Unmarshal(held.Document, &doc))
	assert.Equal(t, "tall", doc.Settings.Format, "it is rendered so, whatever becomes of the scene")
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/scenes/"+info.Id+"/deliveries", m{"assembly": "cut", "format": "gone"}, &p))
	assert.Contains(t, p.Title, "no such format")
}

func TestASceneIsPackedAndTakenIn(t *testing.T) {
	r := newRig(t, false)
	d := short()
	d.Boards["b"] = scene.Board{Shot: firstShot(d), Name: "lost panel", Blob: strings.Repeat("ab", 32), Width: 16, Height: 9}
	info := r.scene(d)
	res, err := http.Get(r.server.URL + "/api/scenes/" + info.Id + "/parcel")
	require.NoError(t, err)
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, "application/zip", res.Header.Get("Content-Type"))
	assert.Contains(t, res.Header.Get("Content-Disposition"), "p_t.zip")
	assert.Equal(t, 404, r.call("GET", "/scenes/none/parcel", nil, &httpapi.Problem{}))

	var in httpapi.Unpacked
	require.Equal(t, 201, r.call("POST", "/parcels", string(body), &in))
	assert.Equal(t, "T 2", in.Scene.Title, "the title is in use")
	assert.Equal(t, []string{"board of shot 010"}, in.Missing)
	require.Equal(t, 200, r.call("PATCH", "/scenes/"+info.Id, m{"binned": true}, nil))
	require.Equal(t, 201, r.call("POST", "/parcels", string(body), &in))
	assert.Equal(t, "T", in.Scene.Title)
	var a, b httpapi.Scene
	r.call("GET", "/scenes/"+info.Id, nil, &a)
	r.call("GET", "/scenes/"+in.Scene.Id, nil, &b)
	assert.Equal(t, string(a.Document), string(b.Document))

	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/parcels", "hello", &p))
	assert.Contains(t, p.Title, "no packed scene")
	assert.Len(t, r.home(), 3)
}

func firstShot(d *scene.Document) string { return d.ShotsInOrder()[0].ID }
