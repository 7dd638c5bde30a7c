package render

import (
	"bytes"
	"context"
	"encoding/binary"
	"image"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"
	"proscen/core/turnover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// decoded reads a picture with ffmpeg as floats, plane by plane: green, blue, red.
func decoded(t *testing.T, file string, w, h int) (planes [3][]float32) {
	t.Helper()
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", file, "-f", "rawvideo", "-pix_fmt", "gbrpf32le", "-").Output()
	require.NoError(t, err)
	require.Len(t, out, 3*4*w*h)
	for i := range planes {
		for k := range w * h {
			planes[i] = append(planes[i], math.Float32frombits(binary.LittleEndian.Uint32(out[4*(i*w*h+k):])))
		}
	}
	return planes
}

// TestPicturesInLinearLightAreReadByOthers delivers the same frame as PNG and as EXR and
// compares them with what an independent reader finds.
func TestPicturesInLinearLightAreReadByOthers(t *testing.T) {
	doc := scenetest.Small()
	dir := t.TempDir()
	r := scene.Recipe{Name: "exr", Pack: scene.EXR, Quality: scene.Check, Scale: 0.1, Passes: []scene.Pass{scene.PassPosition}}
	items, err := turnover.Plan(doc, turnover.Order{Shots: []string{"010"}, Each: true}, &r)
	require.NoError(t, err)
	require.Len(t, items, 2)
	folders := map[scene.Pass]string{}
	for _, i := range items {
		film, err := turnover.NewFilm(doc, picture.Files{}, i, r, turnover.Facts{Version: 1}, 2)
		require.NoError(t, err)
		folders[i.Pass] = filepath.Join(dir, "made"+string(i.Pass))
		form := formOf(film)
		require.Equal(t, scene.EXR, form.Pack)
		require.NoError(t, EncodePictures(context.Background(), film, timing.Range{In: 4, Out: 6}, form, folders[i.Pass], "name", nil))
	}
	w, h := items[0].Width, items[0].Height
	film, err := turnover.NewFilm(doc, picture.Files{}, items[0], r, turnover.Facts{Version: 1}, 2)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, paint(context.Background(), film, timing.Range{In: 4, Out: 5}, func(_ int, img *image.RGBA) error { return png.Encode(&b, img) }, func() {}, nil))
	img, err := png.Decode(&b)
	require.NoError(t, err)
	planes := decoded(t, filepath.Join(folders[""], "name.0005.exr"), w, h)
	for k := range w * h {
		red, green, blue, _ := img.At(k%w, k/w).RGBA()
		for i, v := range [3]uint32{green, blue, red} {
			// The published curve of sRGB, and eleven bits of a half-float.
			e := float64(v>>8) / 255
			light := e / 12.92
			if e > 0.04045 {
				light = math.Pow((e+0.055)/1.055, 2.4)
			}
			require.InDelta(t, light, float64(planes[i][k]), 5e-4)
		}
	}
	// Of a pass the reader finds just what the film tells, rounded to half-floats.
	place := decoded(t, filepath.Join(folders[scene.PassPosition], "name.0006.exr"), w, h)
	told, err := turnover.NewFilm(doc, picture.Files{}, items[1], r, turnover.Facts{Version: 1}, 2)
	require.NoError(t, err)
	channels, err := told.Pass(5, image.NewRGBA(image.Rect(0, 0, w, h)))
	require.NoError(t, err)
	for _, c := range channels {
		found := false
		row := make([]float32, w)
		for i := range place {
			same := true
			for y := range h {
				c.Row(y, row)
				for x, v := range row {
					same = same && math.Abs(float64(v-place[i][y*w+x])) < 1e-3*(1+math.Abs(float64(v)))
				}
			}
			found = found || same
		}
		assert.True(t, found, "channel %s", c.Name)
	}
	all, err := os.ReadDir(folders[scene.PassPosition])
	require.NoError(t, err)
	assert.Len(t, all, 2)
}
