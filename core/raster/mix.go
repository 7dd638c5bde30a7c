package raster

import (
	"image"
	"image/color"
)

// Mix blends a picture into another of the same size: the second has a share
// from 0 to 1. Values are mixed as they are displayed, as the trade's dissolves
// are.
func Mix(to, second *image.RGBA, share float64) {
	k := weight(share)
	for i, v := range second.Pix {
		to.Pix[i] = blend(to.Pix[i], v, k)
	}
}

// Tint blends one colour into a picture.
func Tint(to *image.RGBA, c color.RGBA, share float64) {
	k := weight(share)
	for i := 0; i+3 < len(to.Pix); i += 4 {
		to.Pix[i] = blend(to.Pix[i], c.R, k)
		to.Pix[i+1] = blend(to.Pix[i+1], c.G, k)
		to.Pix[i+2] = blend(to.Pix[i+2], c.B, k)
	}
}

// weight returns a share in 65536ths.
func weight(share float64) uint32 { return uint32(max(0, min(1, share))*65536 + 0.5) }

func blend(a, b uint8, k uint32) uint8 {
	return uint8((uint32(a)*(65536-k) + uint32(b)*k + 32768) >> 16)
}
