package render

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"image"
	"image/png"
	"strings"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/sheets"
)

// Frame returns the first frame of an output as a delivery would make it, as a PNG.
func Frame(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document, item turnover.Item, r scene.Recipe, threads int) ([]byte, error) {
	all, err := FilesOf(ctx, bucket, doc)
	if err != nil {
		return nil, err
	}
	files, end := all.Open(ctx)
	defer end()
	img, err := frame(doc, files, item, r, threads)
	if err != nil {
		return nil, err
	}
	return encoded(img)
}

func encoded(img *image.RGBA) ([]byte, error) {
	var out bytes.Buffer
	quick := png.Encoder{CompressionLevel: png.BestSpeed}
	err := quick.Encode(&out, img)
	return out.Bytes(), err
}

// frame makes the first frame of an output.
func frame(doc *scene.Document, files picture.Files, item turnover.Item, r scene.Recipe, threads int) (*image.RGBA, error) {
	film, err := turnover.NewFilm(doc, files, item, r, turnover.Facts{}, threads)
	if err != nil {
		return nil, err
	}
	width, height := film.Size()
	img := image.NewRGBA(image.Rect(0, 0, width, height))
	return img, film.Frame(0, img)
}

// Beside returns the first frames of outputs side by side with what they are, as a PNG or as
// pages to print (PDF), and its media type. What is asked for twice is made once.
func Beside(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document, items []turnover.Item, r scene.Recipe, printed bool, threads int) ([]byte, string, error) {
	known, err := FilesOf(ctx, bucket, doc)
	if err != nil {
		return nil, "", err
	}
	files, end := known.Open(ctx)
	defer end()
	var all []sheets.Picture
	made := map[turnover.Item]*image.RGBA{}
	for _, i := range items {
		if err := ctx.Err(); err != nil {
			return nil, "", err
		}
		img := made[i]
		if img == nil {
			if img, err = frame(doc, files, i, r, threads); err != nil {
				return nil, "", err
			}
			made[i] = img
		}
		all = append(all, sheets.Picture{Image: img, Title: cmp.Or(i.Otherwise, doc.Settings.Title), Note: saidOf(doc, &i)})
	}
	if printed {
		sheet, err := sheets.ContactOf(doc.Settings.Title+" – side by side", all)
		return sheet, "application/pdf", err
	}
	grid, err := sheets.Grid(all)
	if err != nil {
		return nil, "", err
	}
	sheet, err := encoded(grid)
	return sheet, "image/png", err
}

// saidOf says of a frame what it shows, besides its alternate.
func saidOf(doc *scene.Document, i *turnover.Item) string {
	var says []string
	clock := scene.ScreenClock
	if i.Shot != "" {
		says = append(says, doc.Assemblies[i.Assembly].Name, "shot "+i.Number)
	} else {
		clock = scene.StoryClock
	}
	if i.CameraNumber > 0 {
		says = append(says, fmt.Sprintf("camera %d", i.CameraNumber))
	}
	return strings.Join(append(says, doc.Formats[i.Format].Name, doc.Settings.Timecode(clock, i.In)), " · ")
}
