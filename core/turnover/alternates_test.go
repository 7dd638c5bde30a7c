package turnover

import (
	"bytes"
	"image"
	"slices"
	"testing"
	"time"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// otherwise is the small scene with a dusk whose first shot is longer and whose box stands
// elsewhere, and with a night that differs in nothing.
func otherwise(t *testing.T) *scene.Document {
	doc := scenetest.Rich()
	doc.Alternates["night"] = scene.Alternate{Name: "Deep night"}
	sides := session.NewSides(session.Open(doc, func() string { return "made" }))
	for name, args := range map[string]string{
		"shotTrim": `{"id":"s1","edge":"out","by":12,"ripple":true}`,
		"place":    `{"id":"box","frame":0,"position":[0.4,0.2,-3]}`,
	} {
		_, err := sides.Run("dusk", name, []byte(args), nil)
		require.NoError(t, err)
	}
	return doc
}

func TestAlternatesAreDeliveredBesideEachOther(t *testing.T) {
	doc := otherwise(t)
	r := scene.Recipe{Name: "r", Pack: scene.H264, Quality: scene.Rough, Joined: true}
	o := Order{Assemblies: []string{"cut"}, Shots: []string{"s1", "s2"}, Alternates: []string{"", "dusk", "night", "dusk"}, Each: true}
	items, err := Plan(doc, o, &r)
	require.NoError(t, err)
	require.Len(t, items, 6, "each once")
	var is []string
	sides := DocumentsOf(doc)
	for i := range items {
		side, err := sides.As(items[i].Alternate)
		require.NoError(t, err)
		is = append(is, Path(side, &items[i], &r, Facts{Version: 1, Date: time.Now()}))
	}
	assert.Equal(t, []string{
		"cut/010/small_010_cam01_wide_v001", "cut/020/small_020_cam02_wide_v001",
		"cut/010/small_010_cam01_wide_dusk_v001", "cut/020/small_020_cam02_wide_dusk_v001",
		"cut/010/small_010_cam01_wide_deep-night_v001", "cut/020/small_020_cam02_wide_deep-night_v001",
	}, is)
	assert.Equal(t, []int{48, 48, 60, 48, 48, 48}, []int{items[0].Frames(&r), items[1].Frames(&r), items[2].Frames(&r), items[3].Frames(&r), items[4].Frames(&r), items[5].Frames(&r)})
	subjects := map[string]bool{}
	for i := range items {
		subjects[items[i].Subject()] = true
	}
	assert.Len(t, subjects, 6)

	frame := func(i Item) []byte {
		i.Width, i.Height = 64, 36
		f, err := NewFilm(doc, picture.Files{}, i, r, Facts{}, 1)
		require.NoError(t, err)
		img := image.NewRGBA(image.Rect(0, 0, 64, 36))
		require.NoError(t, f.Frame(10, img))
		return img.Pix
	}
	assert.False(t, bytes.Equal(frame(items[1]), frame(items[3])), "the box that its camera holds stands elsewhere")
	assert.True(t, bytes.Equal(frame(items[1]), frame(items[5])), "nothing differs")

	// What an edit in one makes out of date are its own outputs.
	prints := func() (out []string) {
		sides := DocumentsOf(doc)
		for _, i := range items {
			side, err := sides.As(i.Alternate)
			require.NoError(t, err)
			f, err := Unpainted(session.Open(side, nil), i, r, Facts{})
			require.NoError(t, err)
			out = append(out, f.Print(func() bool { return true }))
		}
		return out
	}
	before := prints()
	assert.Equal(t, before[1], before[5], "the same is the same")
	_, err = session.NewSides(session.Open(doc, nil)).Run("dusk", "place", []byte(`{"id":"box","frame":0,"position":[-0.4,0.2,-3]}`), nil)
	require.NoError(t, err)
	after := prints()
	for i := range items {
		assert.Equal(t, items[i].Alternate == "dusk", before[i] != after[i], is[i])
	}
	var plans Plans
	now, there, err := plans.Again(doc, items[2], r)
	require.NoError(t, err)
	assert.True(t, there)
	assert.Equal(t, items[2], now)
	delete(doc.Alternates, "night")
	_, there, err = plans.Again(doc.Clone(), items[4], r)
	require.NoError(t, err)
	assert.False(t, there)

	_, err = Plan(doc, Order{Assemblies: []string{"cut"}, Each: true, Alternates: []string{"gone"}}, &r)
	assert.ErrorContains(t, err, "no such alternate")
	side, err := DocumentsOf(doc).As("dusk")
	require.NoError(t, err)
	_, err = Plan(side, Order{Assemblies: []string{"cut"}, Each: true, Alternates: []string{""}}, &r)
	assert.ErrorContains(t, err, "an alternate already")
	own, err := Plan(side, Order{Assemblies: []string{"cut"}, Each: true}, &r)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(own, func(i Item) bool { return i.Alternate == "dusk" }))
}
