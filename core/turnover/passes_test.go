package turnover_test

import (
	"image"
	"math"
	"slices"
	"testing"

	"proscen/core/exr"
	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/turnover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func film(t *testing.T, doc *scene.Document, i turnover.Item, r scene.Recipe) *turnover.Film {
	t.Helper()
	f, err := turnover.NewFilm(doc, picture.Files{}, i, r, turnover.Facts{Version: 1}, 2)
	require.NoError(t, err)
	return f
}

func TestPassesStandBesideTheirPicture(t *testing.T) {
	doc := scenetest.Small()
	r := plain
	r.Slate, r.Head, r.Passes = 24, 8, []scene.Pass{scene.PassDepth, scene.PassMatte}
	r.Burns = []scene.Burn{{Says: scene.SaysShot}}
	items := plan(t, doc, turnover.Order{Shots: []string{"020"}, Each: true}, r)
	require.Len(t, items, 3)
	assert.Equal(t, []scene.Pass{"", scene.PassDepth, scene.PassMatte}, []scene.Pass{items[0].Pass, items[1].Pass, items[2].Pass})
	subjects := map[string]bool{}
	for i := range items {
		subjects[items[i].Subject()] = true
	}
	assert.Len(t, subjects, 3)
	path := func(i int) string { return turnover.Path(doc, &items[i], &r, turnover.Facts{Version: 3}) }
	assert.Equal(t, path(0)+"_depth", path(1))
	// A pass has the picture's frames without its slate, and the numbers that they have there.
	assert.Equal(t, 24, items[0].Frames(&r)-items[1].Frames(&r))
	whole, pass := film(t, doc, items[0], r), film(t, doc, items[1], r)
	assert.Equal(t, whole.Number(24), pass.Number(0))
	made := turnover.RecipeFor(&items[1], r)
	assert.Equal(t, scene.EXR, made.Pack)
	assert.Empty(t, made.Burns)
	assert.NotEqual(t, pass.Print(always), film(t, doc, items[2], r).Print(always))

	r.Passes = append(r.Passes, scene.PassDepth)
	_, err := turnover.Plan(doc, turnover.Order{Each: true}, &r)
	assert.ErrorContains(t, err, "once")
}

func always() bool { return true }

// rows reads channels of a picture.
func rows(channels []exr.Channel, w, h int) map[string][]float32 {
	out := map[string][]float32{}
	for _, c := range channels {
		all := make([]float32, w*h)
		for y := range h {
			c.Row(y, all[y*w:(y+1)*w])
		}
		out[c.Name] = all
	}
	return out
}

func TestPassesAgreeWithEachOther(t *testing.T) {
	doc := scenetest.Small()
	delete(doc.Actions, "walking")
	doc.Nodes["group"] = scene.Node{Kind: scene.KindGroup, Name: "The group"}
	for id, at := range map[string]scene.Vec{"box": {0.9, 0, -9}, "walker": {-0.5, 0, -8}} {
		n := doc.Nodes[id]
		n.Parent, n.Position, n.Name, n.Path = "group", at, "A thing", ""
		doc.Nodes[id] = n
	}
	r := plain
	r.Scale = 0.1
	r.Passes = scene.Passes
	items := plan(t, doc, turnover.Order{Shots: []string{"010"}, Each: true}, r)
	w, h := items[0].Width, items[0].Height
	shown := image.NewRGBA(image.Rect(0, 0, w, h))
	got := map[scene.Pass]map[string][]float32{}
	for _, i := range items[1:] {
		channels, err := film(t, doc, i, r).Pass(5, shown)
		require.NoError(t, err)
		got[i.Pass] = rows(channels, w, h)
		low, high := slices.Min(shown.Pix), slices.Max(shown.Pix)
		assert.Less(t, low, high, "%s shows something", i.Pass)
	}
	require.Len(t, got, len(scene.Passes))
	assert.Equal(t, []string{"Z"}, keys(got[scene.PassDepth]))
	assert.Equal(t, []string{"X", "Y", "Z"}, keys(got[scene.PassPosition]))
	hit := 0
	for at, z := range got[scene.PassDepth]["Z"] {
		sum, grouped := float32(0), float32(0)
		for _, c := range got[scene.PassMatte] {
			sum += c[at]
		}
		for _, c := range got[scene.PassGroups] {
			grouped += c[at]
		}
		require.Equal(t, sum, grouped, "groups cover what their things do")
		require.LessOrEqual(t, sum, float32(1))
		if math.IsInf(float64(z), 1) {
			require.Less(t, sum, float32(0.5), "where most is sky")
			continue
		}
		hit++
		require.GreaterOrEqual(t, sum, float32(0.5))
		for _, p := range []scene.Pass{scene.PassNormal, scene.PassFacing} {
			n := got[p]
			require.InDelta(t, 1, n["X"][at]*n["X"][at]+n["Y"][at]*n["Y"][at]+n["Z"][at]*n["Z"][at], 1e-4)
		}
	}
	assert.Greater(t, hit, 100)
	assert.Equal(t, []string{"a-thing", "a-thing-2"}, keys(got[scene.PassMatte]), "things of one name are told apart")
	assert.Equal(t, []string{"the-group"}, keys(got[scene.PassGroups]))
}

func keys(m map[string][]float32) (out []string) {
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
