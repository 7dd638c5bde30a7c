package turnover_test

import (
	"errors"
	"image"
	"strings"
	"testing"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/turnover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestPrintsKnowWhatPlanesShow: another picture, another video or another beginning of it
// makes frames out of date, and what the camera does not see does not. No file is read for it.
func TestPrintsKnowWhatPlanesShow(t *testing.T) {
	doc := scenetest.Small()
	put := func(z float64, s scene.Screen) {
		doc.Nodes["plane"] = scene.Node{Kind: scene.KindSet, Name: "plane", Position: scene.Vec{0, 0, z}, Turn: scene.Vec{180, 0, 0}, Screen: &s,
			Piece: &scene.Piece{Stock: "screen"}}
	}
	printed := func() string {
		one := plan(t, doc, turnover.Order{Shots: []string{"010"}, Each: true}, plain)[0]
		f, err := turnover.NewFilm(doc, picture.Files{
			Picture: func(string) (image.Image, error) { return nil, errors.New("read") },
			Footage: func(string, int) (image.Image, error) { return nil, errors.New("read") },
		}, one, plain, turnover.Facts{}, 1)
		require.NoError(t, err)
		return f.Print(func() bool { return true })
	}
	film := func(from int, loop bool) scene.Screen {
		return scene.Screen{From: from, Loop: loop, Film: &scene.Footage{Name: "f", Blob: strings.Repeat("a", 64), Width: 16, Height: 9, Frames: 10}}
	}
	put(-5, film(0, false))
	first := printed()
	assert.Equal(t, first, printed())
	put(-5, film(0, true))
	again := printed()
	assert.NotEqual(t, first, again)
	put(-5, film(10, true))
	assert.Equal(t, again, printed(), "it begins again every ten frames")
	put(-5, film(3, true))
	assert.NotEqual(t, again, printed())
	put(-5, scene.Screen{Blob: strings.Repeat("a", 64), Width: 16, Height: 9})
	still := printed()
	put(-5, scene.Screen{Blob: strings.Repeat("b", 64), Width: 16, Height: 9})
	assert.NotEqual(t, still, printed())

	doc.Settings.Sun.Strength, doc.Settings.Sky.Strength = 0, 1
	put(60, film(0, true))
	behind := printed()
	put(60, film(3, true))
	assert.Equal(t, behind, printed(), "behind the camera")
}
