package render

import (
	"bytes"
	"context"
	"image"
	"image/png"

	"proscen/core/scene"
	"proscen/core/turnover"
	"proscen/internal/blobs"
)

// Frame returns the first frame of an output as a delivery would make it, as a PNG.
func Frame(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document, item turnover.Item, r scene.Recipe, threads int) ([]byte, error) {
	all, err := FilesOf(ctx, bucket, doc)
	if err != nil {
		return nil, err
	}
	files, end := all.Open(ctx)
	defer end()
	film, err := turnover.NewFilm(doc, files, item, r, turnover.Facts{}, threads)
	if err != nil {
		return nil, err
	}
	width, height := film.Size()
	img := image.NewRGBA(image.Rect(0, 0, width, height))
	if err := film.Frame(0, img); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	quick := png.Encoder{CompressionLevel: png.BestSpeed}
	err = quick.Encode(&out, img)
	return out.Bytes(), err
}
