// Package card draws what stands for a camera in a shot: titles, and pictures
// fitted into the frame. The browser and the renderer show the same pixels.
package card

import (
	"image"
	"image/color"
	"strconv"
	"strings"
	"sync"

	"proscen/core/scene"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gomedium"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// Paper is the ground under boards.
const Paper = "#e8e4da"

// Color reads a colour written #rrggbb; anything else is black.
func Color(s string) color.RGBA {
	v, err := strconv.ParseUint(strings.TrimPrefix(s, "#"), 16, 32)
	if err != nil {
		v = 0
	}
	return color.RGBA{uint8(v >> 16), uint8(v >> 8), uint8(v), 255}
}

// Fill paints a picture in one colour.
func Fill(to *image.RGBA, c color.RGBA) {
	draw.Draw(to, to.Rect, image.NewUniform(c), image.Point{}, draw.Src)
}

// Fit draws a picture as large as it goes into another, in its middle.
func Fit(to *image.RGBA, picture image.Image) {
	b := picture.Bounds()
	w, h := to.Rect.Dx(), to.Rect.Dy()
	if b.Empty() {
		return
	}
	if w*b.Dy() > h*b.Dx() {
		w = h * b.Dx() / b.Dy()
	} else {
		h = w * b.Dy() / b.Dx()
	}
	at := image.Pt((to.Rect.Dx()-w)/2, (to.Rect.Dy()-h)/2)
	draw.CatmullRom.Scale(to, image.Rectangle{at, at.Add(image.Pt(w, h))}, picture, b, draw.Over, nil)
}

// Sizes as shares of the picture's height, and its margin as a share of its
// width.
const (
	titleSize = 0.11
	textSize  = 0.055
	margin    = 0.08
)

// Draw paints a card: its ground, its picture if there is one, and over them its
// title and text on the middle.
func Draw(to *image.RGBA, c scene.Card, picture image.Image) error {
	Fill(to, Color(c.Color))
	if picture != nil {
		Fit(to, picture)
	}
	height := float64(to.Rect.Dy())
	room := int(float64(to.Rect.Dx()) * (1 - 2*margin))
	var lines []line
	for _, part := range []struct {
		text string
		font *opentype.Font
		size float64
	}{{c.Title, medium(), titleSize * height}, {c.Text, regular(), textSize * height}} {
		if strings.TrimSpace(part.text) == "" {
			continue
		}
		face, err := opentype.NewFace(part.font, &opentype.FaceOptions{Size: part.size, DPI: 72, Hinting: font.HintingNone})
		if err != nil {
			return err
		}
		for _, s := range wrap(face, part.text, room) {
			lines = append(lines, line{s, face, int(part.size * 1.3)})
		}
	}
	total := 0
	for _, l := range lines {
		total += l.height
	}
	y := (to.Rect.Dy() - total) / 2
	for _, l := range lines {
		ascent := l.face.Metrics().Ascent.Round()
		d := font.Drawer{Dst: to, Src: image.NewUniform(Color(c.Ink)), Face: l.face}
		d.Dot = fixed.P((to.Rect.Dx()-d.MeasureString(l.text).Round())/2, y+ascent)
		d.DrawString(l.text)
		y += l.height
	}
	return nil
}

type line struct {
	text   string
	face   font.Face
	height int
}

// wrap breaks text into lines that fit a width in pixels, at most 12.
func wrap(face font.Face, text string, width int) (out []string) {
	for _, paragraph := range strings.Split(text, "\n") {
		now := ""
		for _, word := range strings.Fields(paragraph) {
			longer := strings.TrimSpace(now + " " + word)
			if now != "" && font.MeasureString(face, longer).Round() > width {
				out = append(out, now)
				longer = word
			}
			now = longer
		}
		out = append(out, now)
	}
	return out[:min(len(out), 12)]
}

var (
	regular = sync.OnceValue(func() *opentype.Font { return parse(goregular.TTF) })
	medium  = sync.OnceValue(func() *opentype.Font { return parse(gomedium.TTF) })
)

// parse reads a font that comes with the program, so that it cannot fail.
func parse(ttf []byte) *opentype.Font {
	f, err := opentype.Parse(ttf)
	if err != nil {
		panic("card: a built-in font is damaged: " + err.Error())
	}
	return f
}

// Missing is the card that stands where there is no picture.
func Missing(what string) scene.Card {
	return scene.Card{Name: "missing", Text: what, Color: "#2d4047", Ink: "#9fb0b0"}
}
