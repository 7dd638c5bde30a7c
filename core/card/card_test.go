package card_test

import (
	"bytes"
	"image"
	"image/color"
	"strings"
	"testing"

	"proscen/core/card"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// inked returns the box of all pixels that are not of the ground.
func inked(im *image.RGBA, ground color.RGBA) (box image.Rectangle) {
	for y := range im.Rect.Dy() {
		for x := range im.Rect.Dx() {
			if im.RGBAAt(x, y) != ground {
				box = box.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return box
}

func drawn(t *testing.T, c scene.Card, w, h int) *image.RGBA {
	t.Helper()
	im := image.NewRGBA(image.Rect(0, 0, w, h))
	require.NoError(t, card.Draw(im, c, nil))
	return im
}

func TestTitlesStandInTheMiddle(t *testing.T) {
	ground := color.RGBA{0x20, 0x30, 0x40, 255}
	c := scene.Card{Title: "Last Car Down", Color: "#203040", Ink: "#ffffff"}
	for _, size := range [][2]int{{640, 360}, {320, 180}, {360, 640}} {
		im := drawn(t, c, size[0], size[1])
		box := inked(im, ground)
		assert.InDelta(t, size[0], box.Min.X+box.Max.X, 6, "%v", size)
		assert.InDelta(t, size[1], box.Min.Y+box.Max.Y, float64(size[1])/10, "%v", size)
		assert.Less(t, box.Dx(), size[0]*84/100+1, "inside the margins")
	}
	again := drawn(t, c, 640, 360)
	assert.True(t, bytes.Equal(drawn(t, c, 640, 360).Pix, again.Pix), "the same card is the same picture")
	assert.True(t, inked(drawn(t, scene.Card{Color: "#203040", Ink: "#ffffff"}, 64, 36), ground).Empty())
}

func TestLongTextIsBrokenIntoLines(t *testing.T) {
	ground := color.RGBA{0, 0, 0, 255}
	one := inked(drawn(t, scene.Card{Text: "short", Color: "#000000", Ink: "#ffffff"}, 640, 360), ground)
	many := inked(drawn(t, scene.Card{Text: strings.Repeat("words that go on ", 12), Color: "#000000", Ink: "#ffffff"}, 640, 360), ground)
	assert.Greater(t, many.Dy(), 3*one.Dy())
	assert.LessOrEqual(t, many.Dx(), 640*84/100+1)
	broken := inked(drawn(t, scene.Card{Text: "short\nshort", Color: "#000000", Ink: "#ffffff"}, 640, 360), ground)
	assert.InDelta(t, one.Dx(), broken.Dx(), 2)
	assert.Greater(t, broken.Dy(), one.Dy())
	// However much there is, it ends.
	drawn(t, scene.Card{Text: strings.Repeat("x ", 900), Color: "#000000", Ink: "#ffffff"}, 64, 36)
}

func TestPicturesAreFitted(t *testing.T) {
	red := color.RGBA{200, 0, 0, 255}
	square := image.NewRGBA(image.Rect(0, 0, 10, 10))
	card.Fill(square, red)
	im := image.NewRGBA(image.Rect(0, 0, 160, 90))
	card.Fill(im, card.Color(card.Paper))
	card.Fit(im, square)
	assert.Equal(t, image.Rect(35, 0, 125, 90), inked(im, card.Color(card.Paper)), "as high as the frame, in its middle")
	assert.Equal(t, red, im.RGBAAt(80, 45))
	tall := image.NewRGBA(image.Rect(0, 0, 90, 160))
	card.Fill(tall, card.Color(card.Paper))
	card.Fit(tall, square)
	assert.Equal(t, image.Rect(0, 35, 90, 125), inked(tall, card.Color(card.Paper)))
	card.Fit(im, image.NewRGBA(image.Rectangle{})) // nothing to draw
	assert.Equal(t, color.RGBA{0x12, 0xab, 0xef, 255}, card.Color("#12abef"))
	assert.Equal(t, color.RGBA{0, 0, 0, 255}, card.Color("nonsense"))
}
