package turnover

import (
	"bytes"
	"image"
	"testing"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a shot has for itself is in its pictures, prints and stages, and in no other shot's.
func TestAShotIsDeliveredAsItIs(t *testing.T) {
	doc := scenetest.Rich()
	sides := session.NewSides(session.Open(doc, func() string { return "made" }))
	r := scene.Recipe{Name: "r", Pack: scene.H264, Quality: scene.Rough}
	items, err := Plan(doc, Order{Assemblies: []string{"cut"}, Shots: []string{"s1", "s2"}, Alternates: []string{"", "dusk"}, Each: true}, &r)
	require.NoError(t, err)
	require.Len(t, items, 4)
	look := func() (pixels [][]byte, prints []string) {
		for _, i := range items {
			i.Width, i.Height = 64, 36
			f, err := NewFilm(doc, picture.Files{}, i, r, Facts{}, 1)
			require.NoError(t, err)
			img := image.NewRGBA(image.Rect(0, 0, 64, 36))
			require.NoError(t, f.Frame(10, img))
			pixels = append(pixels, bytes.Clone(img.Pix))
			prints = append(prints, f.Print(func() bool { return true }))
		}
		return pixels, prints
	}
	stage := func() []float64 {
		s, err := Bake(session.Open(doc, nil), "cut")
		require.NoError(t, err)
		for _, thing := range s.Things {
			if thing.Name == doc.Nodes["box"].Name {
				out := []float64{}
				for _, at := range []int{10, doc.Shots["s2"].ScreenIn + 10} {
					out = append(out, thing.Worlds[min(at, len(thing.Worlds)-1)].Origin().X)
				}
				return out
			}
		}
		t.Fatal("the box is not in the stage")
		return nil
	}
	pixels, prints := look()
	stood := stage()
	camera := doc.Shots["s1"].Camera
	for name, args := range map[string]string{
		"place": `{"id":"box","frame":0,"position":[0.4,0.2,-3]}`,
		"set":   `{"collection":"settings","id":"settings","merge":{"sun":{"height":8}},"label":"sun"}`,
		"value": `{"node":"` + camera + `","channel":"lens.focal","value":18}`,
	} {
		_, err := sides.Run("@s1", name, []byte(args), nil)
		require.NoError(t, err, name)
	}
	now, printed := look()
	for i := range items {
		same := items[i].Shot != "s1"
		assert.Equal(t, same, bytes.Equal(pixels[i], now[i]), "pixels of %s in %q", items[i].Shot, items[i].Alternate)
		assert.Equal(t, same, prints[i] == printed[i], "print of %s in %q", items[i].Shot, items[i].Alternate)
	}
	assert.Equal(t, []float64{0.4, stood[1]}, stage())
	in := session.Open(doc, nil)
	seen := in.In("s1").View(&in.OnAir(10).Playing[0])
	assert.InDelta(t, 18, seen.Focal, 1e-9)

	// What only the shot has is no object of the scene: mattes number the things of all shots alike.
	_, err = sides.Run("@s1", "stockPlace", []byte(`{"kind":"prop","name":"Crate","stock":"crate","position":[0,0,-4]}`), func() string { return "aaa" })
	require.NoError(t, err)
	matte := func(shot int) map[string]bool {
		i := items[shot]
		i.Width, i.Height, i.Pass = 64, 36, scene.PassMatte
		f, err := NewFilm(doc, picture.Files{}, i, r, Facts{}, 1)
		require.NoError(t, err)
		channels, err := f.Pass(10, image.NewRGBA(image.Rect(0, 0, 64, 36)))
		require.NoError(t, err)
		out := map[string]bool{}
		for _, c := range channels {
			out[c.Name] = true
		}
		return out
	}
	assert.Equal(t, map[string]bool{"other": true, "walker": true}, matte(0))
}
