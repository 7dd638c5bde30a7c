package conform

import (
	"context"
	"image"
	"os"
	"path/filepath"
	"testing"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const slate = 3 // frames before each file

// delivered makes the files of a scene's shots and of its whole cut without loss, with
// handles, and the papers that go with them.
func delivered(t *testing.T, doc *scene.Document) (dir, whole string) {
	t.Helper()
	dir = t.TempDir()
	r := scene.Recipe{Name: "edit", Pack: scene.FFV1, Quality: scene.Rough, Head: 8, Tail: 8, Slate: slate}
	items, err := turnover.Plan(doc, turnover.Order{Each: true, Whole: true}, &r)
	require.NoError(t, err)
	var made []turnover.Made
	for _, i := range items {
		film, err := turnover.NewFilm(doc, picture.Files{}, i, r, turnover.Facts{Version: 1}, 2)
		require.NoError(t, err)
		m := turnover.Made{Item: i, File: turnover.Path(doc, &i, &r, turnover.Facts{Version: 1}) + ".mkv", Frames: film.Frames()}
		file := filepath.Join(dir, m.File)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		form := render.Form{Pack: r.Pack, Quality: r.Quality, Rate: doc.Settings.Rate}
		require.NoError(t, render.Encode(context.Background(), film, timing.Range{Out: film.Frames()}, form, file, func(int, *image.RGBA) {}))
		if made = append(made, m); i.What == turnover.Whole {
			whole = file
		}
	}
	for _, p := range turnover.Papers(doc, made, &r) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, p.Name), p.Data, 0o600))
	}
	return dir, whole
}

func TestASequenceIsRebuiltFromTheListAndTheFilesAlone(t *testing.T) {
	doc := scenetest.Small()
	doc.Formats["wide"] = scene.Format{Name: "wide", Width: 64, Height: 36}
	s := func(id string, change func(s *scene.Shot)) {
		e := doc.Shots[id]
		change(&e)
		doc.PutShot(id, e)
	}
	s("s2", func(s *scene.Shot) { s.Join, s.Speed = &scene.Join{Kind: scene.Dissolve, Before: 3, After: 5}, 0.5 })
	s("s3", func(s *scene.Shot) { s.Join = &scene.Join{Kind: scene.Dip, Before: 4, After: 4, Color: "#203040"} })
	doc.PutShot("s4", scene.Shot{Lane: "main", Number: "040", Camera: "b", ScreenIn: 154, ScreenOut: 180, StoryIn: 30.25, Speed: 1}) // after a gap of ten
	require.Empty(t, doc.Validate())
	dir, whole := delivered(t, doc)
	for list, most := range map[string]int{"cut/cut_wide.otio": 0, "cut/cut_wide.edl": 1} {
		events, err := Read(filepath.Join(dir, list), doc.Settings.Rate)
		require.NoError(t, err, list)
		require.Len(t, events, 4)
		r, err := Compare(t.Context(), events, whole, slate)
		require.NoError(t, err, list)
		assert.Equal(t, 180, r.Frames, list)
		assert.LessOrEqual(t, r.Largest, most, "%s: %+v", list, r)
		assert.Zero(t, r.Beyond)
	}

	// It can fail: a clip that is a frame late is noticed, and so is one without handles.
	events, err := Read(filepath.Join(dir, "cut/cut_wide.otio"), doc.Settings.Rate)
	require.NoError(t, err)
	events[1].Source++
	r, err := Compare(t.Context(), events, whole, slate)
	require.NoError(t, err)
	assert.Greater(t, r.Differ, 30)
	events[1].Source = 2
	_, err = Compare(t.Context(), events, whole, slate)
	assert.ErrorContains(t, err, "begins 1 frames too late")

	// A travel is between two cameras, where no file is.
	s("s3", func(s *scene.Shot) { s.Join = &scene.Join{Kind: scene.Travels, Before: 4, After: 4, Ease: "even"} })
	dir, whole = delivered(t, doc)
	events, err = Read(filepath.Join(dir, "cut/cut_wide.otio"), doc.Settings.Rate)
	require.NoError(t, err)
	r, err = Compare(t.Context(), events, whole, slate)
	require.NoError(t, err)
	assert.Equal(t, []int{172, 8, 0}, []int{r.Frames, r.Beyond, r.Differ})
}

func TestListsThatCannotBeFollowed(t *testing.T) {
	dir := t.TempDir()
	for name, c := range map[string]struct{ text, says string }{
		"a.otio": {`{`, "cannot be followed"},
		"b.otio": {`{"tracks":{"children":[]}}`, "no track of pictures"},
		"c.otio": {`{"tracks":{"children":[{"kind":"Video","children":[{"OTIO_SCHEMA":"Clip.2","source_range":{"start_time":{"value":0},"duration":{"value":5}},"active_media_reference_key":"x","media_references":{"x":{"target_url":"../../etc/passwd"}}}]}]}}`, "which is not beside it"},
		"d.otio": {`{"tracks":{"children":[{"kind":"Video","children":[{"OTIO_SCHEMA":"Clip.2","source_range":{"start_time":{"value":0},"duration":{"value":5}}}]}]}}`, "names no file"},
		"e.edl":  {"TITLE: x\n", "no events"},
	} {
		file := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(file, []byte(c.text), 0o600))
		_, err := Read(file, timing.Film24)
		assert.ErrorContains(t, err, c.says, name)
	}
}
