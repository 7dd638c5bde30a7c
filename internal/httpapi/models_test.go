package httpapi_test

import (
	"bytes"
	"image"
	"image/png"
	"strings"
	"testing"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/internal/httpapi"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestModelsAreConvertedAndServed(t *testing.T) {
	r := newRig(t, false)
	const tower = "v 0 0 0\nv 200 0 0\nv 200 500 0\nf 1 2 3\n"
	var m httpapi.ModelInfo
	require.Equal(t, 200, r.call("POST", "/models?unit=0.01", tower, &m))
	assert.InDeltaSlice(t, []float64{2, 5, 0}, m.Size, 1e-6)
	assert.Equal(t, 1, m.Triangles)
	assert.Equal(t, 200, r.call("GET", "/models/"+m.Blob, nil, nil))

	var p httpapi.Problem
	for _, c := range []struct {
		path, body, says string
		status           int
	}{
		{"/models", "hello", "neither glTF", 422},
		{"/models?unit=much", tower, `the parameter "unit" is of another form (Metres of one unit`, 400},
		{"/models?unit=-1", tower, "out of range", 422},
		{"/models?unit=1000", tower, "choose another unit", 422},
	} {
		assert.Equal(t, c.status, r.call("POST", c.path, c.body, &p), c.path)
		assert.Contains(t, p.Title, c.says)
	}
	assert.Equal(t, 404, r.call("GET", "/models/"+strings.Repeat("a", 64), nil, &p))
	assert.Equal(t, 404, r.call("GET", "/models/..%2f..%2fetc", nil, &p))

	// A scene that uses it is stored and comes back with it.
	d := scenetest.Small()
	d.Models["tower"] = scene.Model{Name: "Tower", Blob: m.Blob, Size: scene.Vec{2, 5, 0}, Triangles: 1}
	d.Nodes["t"] = scene.Node{Kind: scene.KindProp, Name: "Tower", Model: "tower"}
	info := r.scene(d)
	var back httpapi.Scene
	require.Equal(t, 200, r.call("GET", "/scenes/"+info.Id, nil, &back))
	got, err := scene.Decode(back.Document)
	require.NoError(t, err)
	assert.Equal(t, d.Models, got.Models)
}

// smallPNG is a black picture of 40 x 30 pixels.
func smallPNG() string {
	var b bytes.Buffer
	_ = png.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30))) // a buffer takes everything
	return b.String()
}

func TestPicturesAreKeptAndServed(t *testing.T) {
	r := newRig(t, false)
	var kept httpapi.ImageInfo
	require.Equal(t, 200, r.call("POST", "/images", smallPNG(), &kept))
	assert.Equal(t, 40, kept.Width)
	assert.Equal(t, 200, r.call("GET", "/images/"+kept.Blob, nil, nil))
	var p httpapi.Problem
	assert.Equal(t, 422, r.call("POST", "/images", "hello", &p))
	assert.Contains(t, p.Title, "neither PNG, JPEG, WebP nor TIFF")
	assert.Equal(t, 404, r.call("GET", "/images/"+strings.Repeat("b", 64), nil, &p))
	assert.Contains(t, p.Title, "not here any more")
}
