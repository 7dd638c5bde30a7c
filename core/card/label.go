package card

import (
	"image"
	"image/color"
	"strings"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// Label writes text over a picture on a dark ground that lets some of it through. X
// and y are the shares of the free width and height that lie left of it and above it,
// size is the height of its letters as a share of the picture's height. Text that is
// too wide is broken into lines.
func Label(to *image.RGBA, text string, x, y, size float64) error {
	if strings.TrimSpace(text) == "" {
		return nil
	}
	px := max(6, size*float64(to.Rect.Dy()))
	face, err := opentype.NewFace(medium(), &opentype.FaceOptions{Size: px, DPI: 72, Hinting: font.HintingNone})
	if err != nil {
		return err
	}
	defer func() { _ = face.Close() }()
	inside := int(px*0.3 + 0.5)
	around := int(px*0.6 + 0.5)
	lines := wrap(face, text, max(1, to.Rect.Dx()-2*around-2*inside))
	height, wide := int(px*1.25+0.5), 0
	for _, l := range lines {
		wide = max(wide, font.MeasureString(face, l).Ceil())
	}
	box := image.Rect(0, 0, wide+2*inside, len(lines)*height+inside)
	free := to.Rect.Inset(around).Size().Sub(box.Size())
	box = box.Add(to.Rect.Min).Add(image.Pt(around+int(float64(free.X)*x+0.5), around+int(float64(free.Y)*y+0.5)))
	draw.Draw(to, box, image.NewUniform(color.RGBA{0, 0, 0, 140}), image.Point{}, draw.Over)
	d := font.Drawer{Dst: to, Src: image.NewUniform(color.RGBA{238, 236, 228, 255}), Face: face}
	for i, l := range lines {
		d.Dot = fixed.P(box.Min.X+inside+(wide-font.MeasureString(face, l).Ceil())/2, box.Min.Y+i*height+face.Metrics().Ascent.Ceil())
		d.DrawString(l)
	}
	return nil
}

// Caption writes a title and, dimmer, a note behind it into the height of a picture; what
// does not fit is cut off.
func Caption(to *image.RGBA, title, note string) error {
	face, err := opentype.NewFace(medium(), &opentype.FaceOptions{Size: 0.55 * float64(to.Rect.Dy()), DPI: 72, Hinting: font.HintingNone})
	if err != nil {
		return err
	}
	defer func() { _ = face.Close() }()
	d := font.Drawer{Dst: to, Src: image.NewUniform(color.RGBA{239, 233, 220, 255}), Face: face}
	d.Dot = fixed.P(to.Rect.Min.X, to.Rect.Min.Y+int(0.7*float64(to.Rect.Dy())))
	d.DrawString(title)
	d.Src = image.NewUniform(color.RGBA{159, 176, 176, 255})
	d.DrawString("  " + note)
	return nil
}
