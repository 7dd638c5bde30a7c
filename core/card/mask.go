package card

import "image"

// Mask lays black over what lies outside of a shape in the middle of a picture, of which
// it covers the share dark (0 to 1). Aspect is the shape's width divided by its height; it
// is as large as fits.
func Mask(to *image.RGBA, aspect, dark float64) {
	size := to.Rect.Size()
	wide, high := min(size.X, round(float64(size.Y)*aspect)), min(size.Y, round(float64(size.X)/aspect))
	inside := image.Rect(0, 0, wide, high).Add(to.Rect.Min).Add(image.Pt((size.X-wide)/2, (size.Y-high)/2))
	var shade [256]uint8
	for i := range shade {
		shade[i] = uint8(round(float64(i) * (1 - dark)))
	}
	for y := to.Rect.Min.Y; y < to.Rect.Max.Y; y++ {
		for x := to.Rect.Min.X; x < to.Rect.Max.X; x++ {
			if (image.Point{x, y}).In(inside) {
				x = inside.Max.X - 1 // on to what is right of it
				continue
			}
			at := to.PixOffset(x, y)
			for i := range to.Pix[at : at+3] {
				to.Pix[at+i] = shade[to.Pix[at+i]]
			}
		}
	}
}

func round(v float64) int { return int(v + 0.5) }
