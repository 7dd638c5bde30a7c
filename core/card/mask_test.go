package card

import (
	"image"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMaskDarkensWhatLiesOutsideOfAShape(t *testing.T) {
	for name, c := range map[string]struct {
		aspect, dark float64
		inside       image.Rectangle
		outside      uint8
	}{
		"flatter":    {2, 1, image.Rect(0, 25, 200, 125), 0},
		"taller":     {0.5, 0.25, image.Rect(62, 0, 137, 150), 150},
		"as it is":   {200. / 150, 1, image.Rect(0, 0, 200, 150), 0},
		"not at all": {1, 0, image.Rect(0, 0, 200, 150), 0},
	} {
		t.Run(name, func(t *testing.T) {
			// A picture that does not begin at the corner, as parts of others do.
			img := image.NewRGBA(image.Rect(-10, 7, 190, 157))
			for i := range img.Pix {
				img.Pix[i] = 200
			}
			Mask(img, c.aspect, c.dark)
			for y := range 150 {
				for x := range 200 {
					want := uint8(200)
					if !(image.Point{x, y}).In(c.inside) {
						want = c.outside
					}
					at := img.PixOffset(x-10, y+7)
					if !assert.Equal(t, []uint8{want, want, want, 200}, img.Pix[at:at+4], "%d %d", x, y) {
						return
					}
				}
			}
		})
	}
}
