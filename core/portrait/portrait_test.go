package portrait

import (
	"image"
	"testing"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/raster"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// extent returns the box of pixels that differ from the picture's corner.
func extent(im *image.RGBA) image.Rectangle {
	out := image.Rectangle{Min: im.Rect.Max, Max: im.Rect.Min}
	ground := im.RGBAAt(0, im.Rect.Dy()-1)
	sky := im.RGBAAt(0, 0)
	for y := range im.Rect.Dy() {
		// The background runs in rows: what differs from its own row's left edge is
		// the thing.
		left := im.RGBAAt(0, y)
		for x := range im.Rect.Dx() {
			if c := im.RGBAAt(x, y); c != left && c != ground && c != sky {
				out = out.Union(image.Rect(x, y, x+1, y+1))
				out.Min.X, out.Min.Y = min(out.Min.X, x), min(out.Min.Y, y)
			}
		}
	}
	return out
}

func TestThingsFillTheirPictures(t *testing.T) {
	for _, s := range kit.Shelf {
		im, err := Stock(s.ID, 132, 88)
		require.NoError(t, err)
		box := extent(im)
		assert.False(t, box.Empty(), s.ID)
		assert.True(t, box.Dx() > 60 || box.Dy() > 44, "%s is only %v large", s.ID, box)
		assert.True(t, box.In(im.Rect), s.ID)
	}
}

// TestPeopleAreDrawnAtOneScale, so that they can be told apart.
func TestPeopleAreDrawnAtOneScale(t *testing.T) {
	nobody, err := within(tall, nil, 132, 88)
	require.NoError(t, err)
	tall := func(build string) float64 {
		im, err := Person(kit.Figure{Height: kit.UsualHeight(build), Build: build, Coat: "#5c7a8a", Legs: "#39424e"}, 132, 88)
		require.NoError(t, err)
		top, bottom := 88, 0
		for i := 0; i < len(im.Pix); i += 4 {
			if y := i / 4 / 132; [4]byte(im.Pix[i:i+4]) != [4]byte(nobody.Pix[i:i+4]) {
				top, bottom = min(top, y), max(bottom, y)
			}
		}
		assert.True(t, top > 0 && bottom < 87, build)
		return float64(bottom - top + 1)
	}
	average := tall("average")
	assert.Greater(t, average, 60.0)
	for _, build := range kit.Builds {
		assert.InDelta(t, kit.UsualHeight(build)/1.74, tall(build)/average, 0.06, build)
	}
}

func TestEqualThingsHaveEqualPictures(t *testing.T) {
	a, err := Stock("boat", 96, 64)
	require.NoError(t, err)
	b, err := Stock("boat", 96, 64)
	require.NoError(t, err)
	assert.Equal(t, a.Pix, b.Pix)
	// Larger or farther away, the same thing looks the same.
	crate := kit.Build("crate", nil, "", nil)
	small, err := Of([]raster.Draw{{Mesh: crate, World: geom.Identity}}, 96, 64)
	require.NoError(t, err)
	large, err := Of([]raster.Draw{{Mesh: crate, World: geom.Identity.Scaled(40)}}, 96, 64)
	require.NoError(t, err)
	differ := 0
	for i := range small.Pix {
		if d := int(small.Pix[i]) - int(large.Pix[i]); d > 6 || d < -6 {
			differ++
		}
	}
	assert.Less(t, differ, len(small.Pix)/50)
}

func TestPicturesHaveASize(t *testing.T) {
	_, err := Stock("boat", 0, 64)
	assert.ErrorIs(t, err, raster.ErrSize)
	im, err := Of(nil, 20, 10)
	require.NoError(t, err, "nothing is an empty picture")
	assert.Equal(t, 20, im.Rect.Dx())
}
