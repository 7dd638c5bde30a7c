package alternate_test

import (
	"fmt"
	"testing"

	"proscen/core/alternate"
	"proscen/core/scene"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func where(d *scene.Document, node string) float64 { return d.Nodes[node].Position[0] }

func TestAShotHasSomethingForItself(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "rain": "night"})
	w.run("@s1", "place", place("box", 1))
	w.run("night@s1", "place", place("case", 2))
	for in, want := range map[string][2]float64{
		"": {0, 0}, "night": {0, 0}, "@s1": {1, 0}, "@s2": {0, 0}, "night@s1": {1, 2}, "rain@s1": {1, 2}, "rain@s2": {0, 0},
	} {
		assert.Equal(t, want, [2]float64{where(w.doc(in), "box"), where(w.doc(in), "case")}, in)
		assert.Equal(t, want, [2]float64{where(w.resolved(in), "box"), where(w.resolved(in), "case")}, in)
	}
	// Pictures of a shot are made from its layer, of another shot from what is worked in.
	for _, c := range []struct {
		in, shot, seen string
	}{{"", "s1", "@s1"}, {"", "s2", ""}, {"rain", "s1", "rain@s1"}, {"night@s1", "s2", "night"}, {"night@s1", "s1", "night@s1"}, {"@s2", "s1", "@s1"}} {
		assert.Equal(t, c.seen, w.Layer(c.in, c.shot), "%v", c)
		s, err := w.At(c.in)
		require.NoError(t, err)
		seen, err := w.At(c.seen)
		require.NoError(t, err)
		assert.Same(t, seen, s.In(c.shot), "%v", c)
		// The same from the document alone, as deliveries have it.
		if _, shot := alternate.Parts(c.in); shot == "" {
			alone := session.Open(w.resolved(c.in), nil).In(c.shot)
			assert.Equal(t, where(seen.Doc, "box"), where(alone.Doc, "box"), "%v", c)
			assert.Equal(t, where(seen.Doc, "case"), where(alone.Doc, "case"), "%v", c)
		}
	}
	// While the scene is dragged in, the shot shows that, too.
	s := w.Scene()
	require.NoError(t, s.Preview("place", []byte(`{"id":"case","frame":0,"position":[7,0,0]}`)))
	assert.Equal(t, [2]float64{1, 7}, [2]float64{where(s.In("s1").Doc, "box"), where(s.In("s1").Doc, "case")})
	s.Cancel()
	assert.Equal(t, 0.0, where(s.In("s1").Doc, "case"))

	list, err := alternate.List(w.doc(""), "night@s1")
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Case", list[0].Name)
	assert.Equal(t, "shot 010 in night", alternate.Called(w.doc(""), "night@s1"))

	// Taken back there is nothing left of it; put down it is in all shots.
	w.run("", "differencesDown", m{"ids": w.differences("night@s1")})
	assert.Equal(t, 2.0, where(w.doc("night"), "case"))
	assert.Equal(t, "@s1", w.Layer("", "s1"))
	w.run("", "differencesCopy", m{"ids": w.differences("@s1"), "to": "rain@s2"})
	assert.Equal(t, 1.0, where(w.doc("rain@s2"), "box"))
	w.run("", "differencesBack", m{"ids": w.differences("@s1")})
	assert.Equal(t, "", w.Layer("", "s1"))
	assert.Equal(t, 0.0, where(w.Scene().In("s1").Doc, "box"))
}

func TestWhatAShotCannotHaveForItself(t *testing.T) {
	w := begin(t, map[string]string{"night": ""})
	for name, c := range map[string]struct {
		args m
		says string
	}{
		"shotTrim":  {m{"id": "s1", "edge": "out", "by": 4, "ripple": true}, "not the cut"},
		"lineAdd":   {m{"cast": "walker", "text": "Now.", "in": 10, "out": 20}, "not what is heard"},
		"markerAdd": {m{"clock": "story", "frame": 3}, "not the markers"},
		"set":       {m{"collection": "settings", "id": "settings", "merge": m{"shutter": 90}, "label": "shutter"}, "the light is all of the settings"},
	} {
		before := string(w.doc("").Encode())
		_, err := w.try("@s1", name, c.args)
		assert.ErrorContains(t, err, c.says, name)
		assert.Equal(t, before, string(w.doc("").Encode()), name)
	}
	w.run("@s1", "set", m{"collection": "settings", "id": "settings", "merge": m{"sun": m{"height": 5}}, "label": "sun"})
	assert.Equal(t, 5.0, w.doc("@s1").Settings.Sun.Height)
	assert.NotEqual(t, 5.0, w.doc("").Settings.Sun.Height)
	_, err := w.At("@gone")
	assert.ErrorContains(t, err, "the shot is not there any more")
	// Trims put into a shot by a file rest, and say why.
	w.run("night", "shotTrim", m{"id": "s1", "edge": "out", "by": 4, "ripple": true})
	_, err = w.try("", "differencesCopy", m{"ids": w.differences("night"), "to": "@s1"})
	assert.ErrorContains(t, err, "not the cut")
	d := w.doc("").Differences[w.differences("night")[0]]
	d.Alternate = "@s1"
	doc := w.doc("").Clone()
	doc.Differences[scene.DifferenceID("@s1", d.Collection, d.Thing)] = d
	require.Empty(t, doc.Validate())
	_, rests, err := alternate.Resolve(doc, "@s1")
	require.NoError(t, err)
	require.Len(t, rests, 1)
	assert.Contains(t, rests[0].Why, "not the cut")
}

func TestWhatAShotHasForItselfGoesWithIt(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "rain": "night"})
	w.run("@s1", "place", place("box", 1))
	w.run("night@s1", "place", place("box", 2))
	shots := func(in string) map[string]bool {
		out := map[string]bool{}
		for id := range w.doc(in).Shots {
			out[id] = true
		}
		return out
	}
	made := func(in string, before map[string]bool) string {
		for id := range w.doc(in).Shots {
			if !before[id] {
				return id
			}
		}
		t.Fatal("no shot was made")
		return ""
	}
	before, was := shots(""), string(w.doc("").Encode())
	split := w.run("", "shotSplit", m{"assembly": "cut", "at": 20})
	part := made("", before)
	assert.Equal(t, 1.0, where(w.doc("@"+part), "box"))
	assert.Equal(t, 2.0, where(w.doc("night@"+part), "box"))
	require.NoError(t, w.Apply(split.Inverse()))
	assert.Equal(t, was, string(w.doc("").Encode()))

	// In an alternate the new shot is that alternate's, and so is what it has.
	before = shots("rain")
	w.run("rain", "shotDuplicate", m{"ids": []string{"s1"}})
	copied := made("rain", before)
	assert.Equal(t, 2.0, where(w.doc("rain@"+copied), "box"))
	assert.Empty(t, w.differences("@"+copied))

	// Removed in an alternate, the scene's keeps what it has; removed there, all goes.
	w.run("rain@s1", "place", place("case", 3))
	gone := w.run("rain", "shotRemove", m{"ids": []string{"s1"}, "close": true})
	assert.Empty(t, w.differences("rain@s1"))
	assert.NotEmpty(t, w.differences("@s1"))
	require.NoError(t, w.Apply(gone.Inverse()))
	assert.Equal(t, 3.0, where(w.doc("rain@s1"), "case"))
	w.run("", "shotRemove", m{"ids": []string{"s1"}, "close": true})
	for _, layer := range []string{"@s1", "night@s1", "rain@s1"} {
		assert.Empty(t, w.differences(layer), layer)
	}

	// An alternate that is removed hands it up, or lets it go.
	w.run("night@s2", "place", place("case", 4))
	kept := w.run("", "alternateRemove", m{"id": "night", "keep": true})
	assert.Equal(t, 4.0, where(w.doc("rain@s2"), "case"))
	require.NoError(t, w.Apply(kept.Inverse()))
	w.run("", "alternateRemove", m{"id": "night"})
	assert.Equal(t, 0.0, where(w.doc("rain@s2"), "case"))
}

func TestAShotTakesTheRateOfItsScene(t *testing.T) {
	w := begin(t, map[string]string{"night": ""})
	w.run("night@s1", "value", m{"node": "a", "channel": "lens.focal", "frame": 24, "value": 30, "key": true})
	w.run("", "rateChange", m{"rate": "48", "keep": "seconds"})
	for _, c := range w.doc("night@s1").Curves {
		if c.Channel == scene.Focal && c.Node == "a" {
			assert.Contains(t, framesOf(c), 48.0)
			return
		}
	}
	t.Fatal("there is no such curve")
}

// A layer beyond all measure is not laid; the scene, its other alternates and their shots are
// seen all the same.
func TestALayerThatIsTooLargeIsNotLaid(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "rain": "night", "tall": ""})
	w.run("tall@s1", "place", place("box", 1))
	doc := w.doc("").Clone()
	for i := range 50_001 {
		d := scene.Difference{Alternate: "night", Collection: "markers", Thing: fmt.Sprint("m", i), What: scene.Removed}
		doc.Differences[scene.DifferenceID(d.Alternate, d.Collection, d.Thing)] = d
	}
	sides := session.NewSides(session.Open(doc, w.id))
	for _, in := range []string{"night", "rain", "night@s1"} {
		_, err := sides.At(in)
		assert.ErrorContains(t, err, "night has 50001 differences", in)
	}
	assert.Contains(t, alternate.Faults(doc)["rain"], "more than 50000 are not laid")
	for _, in := range []string{"", "tall", "tall@s1"} {
		_, err := sides.At(in)
		assert.NoError(t, err, in)
	}
	assert.Equal(t, 0.0, where(sides.Scene().In("s1").Doc, "box"), "that of tall is not the scene's")
}
