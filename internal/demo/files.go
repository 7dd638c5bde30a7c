package demo

import (
	"context"
	"errors"

	"gocloud.dev/blob"

	"proscen/core/scene"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
)

// Files puts the boards and sounds of the demonstration into a store and its
// document. Without ffmpeg the scene is silent.
func Files(ctx context.Context, bucket *blob.Bucket, doc *scene.Document) error {
	err := Boards(doc, func(png []byte) (string, int, int, error) {
		kept, err := media.KeepImage(ctx, bucket, png)
		return kept.Blob, kept.Width, kept.Height, err
	})
	if err != nil {
		return err
	}
	err = Sounds(doc, func(wav []byte) (string, float64, error) {
		kept, err := media.KeepSound(ctx, bucket, wav)
		return kept.Blob, kept.Seconds, err
	})
	if errors.Is(err, ffmpeg.ErrMissing) {
		return nil
	}
	return err
}
