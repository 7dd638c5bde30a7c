package raster

import (
	"image"
	"image/color"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMixAndTintAreStraightBlends(t *testing.T) {
	one := func(v uint8) *image.RGBA {
		im := image.NewRGBA(image.Rect(0, 0, 1, 1))
		im.SetRGBA(0, 0, color.RGBA{v, v / 2, 255 - v, 255})
		return im
	}
	for _, share := range []float64{0, 0.25, 0.5, 0.875, 1} {
		a := one(200)
		Mix(a, one(40), share)
		assert.InDelta(t, 200+(40-200)*share, float64(a.Pix[0]), 0.51, "%v", share)
		assert.InDelta(t, 55+(215-55)*share, float64(a.Pix[2]), 0.51)
		assert.Equal(t, uint8(255), a.Pix[3])
		b := one(200)
		Tint(b, color.RGBA{0, 255, 0, 255}, share)
		assert.InDelta(t, 200*(1-share), float64(b.Pix[0]), 0.51)
		assert.InDelta(t, 100+155*share, float64(b.Pix[1]), 0.51)
		assert.Equal(t, uint8(255), b.Pix[3])
	}
}
