package demo

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"slices"

	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/session"
)

// Boards draws a storyboard panel for each shot of a document, as an ink drawing
// of its middle, a little off from what the camera shows: boards are drawn
// before anybody has looked through a lens. Keep stores a PNG and returns its
// name and size.
func Boards(doc *scene.Document, keep func(png []byte) (blob string, width, height int, err error)) error {
	const width, height = 480, 270
	s := session.Open(doc, nil)
	r, err := raster.New(width, height, 2)
	if err != nil {
		return err
	}
	var in raster.Input
	im := image.NewRGBA(image.Rect(0, 0, width, height))
	shots := s.Program().Shots()
	for i, shot := range shots {
		s.Evaluate(math.Round((shot.StoryIn + shot.StoryOut()) / 2))
		s.Draws(&s.State.Cameras[s.CameraIndex(shot.Camera)], shot.ID, &in)
		in.View.Shift = [2]float64{0.04 * math.Sin(float64(i)*2.1), 0.03 * math.Cos(float64(i)*1.7)}
		if err := r.Render(&in, im); err != nil {
			return err
		}
		var b bytes.Buffer
		if err := png.Encode(&b, inked(im)); err != nil {
			return err
		}
		blob, w, h, err := keep(b.Bytes())
		if err != nil {
			return err
		}
		doc.Boards["board-"+shot.Number] = scene.Board{Shot: shot.ID, Name: fmt.Sprintf("Board %s", shot.Number), Blob: blob, Width: w, Height: h}
	}
	return nil
}

// inked turns a picture into strokes along its edges and two washes of grey.
func inked(im *image.RGBA) *image.Gray {
	b := im.Bounds()
	out := image.NewGray(b)
	tone := func(x, y int) float64 {
		x, y = max(0, min(b.Max.X-1, x)), max(0, min(b.Max.Y-1, y))
		c := im.RGBAAt(x, y)
		return 0.3*float64(c.R) + 0.55*float64(c.G) + 0.15*float64(c.B)
	}
	var all []float64
	for y := 0; y < b.Max.Y; y += 6 {
		for x := 0; x < b.Max.X; x += 6 {
			all = append(all, tone(x, y))
		}
	}
	slices.Sort(all)
	dark, mid := all[len(all)/5], all[len(all)/2]
	for y := range b.Max.Y {
		for x := range b.Max.X {
			gx := tone(x+1, y-1) + 2*tone(x+1, y) + tone(x+1, y+1) - tone(x-1, y-1) - 2*tone(x-1, y) - tone(x-1, y+1)
			gy := tone(x-1, y+1) + 2*tone(x, y+1) + tone(x+1, y+1) - tone(x-1, y-1) - 2*tone(x, y-1) - tone(x+1, y-1)
			v := 240.0
			switch t := tone(x, y); {
			case t < dark:
				v = 168
			case t < mid:
				v = 212
			}
			v -= min(200, max(0, math.Hypot(gx, gy)-40)*1.4)
			out.SetGray(x, y, color.Gray{Y: uint8(max(20, v))})
		}
	}
	return out
}
