package demo

import (
	"bytes"
	"context"
	"errors"

	"proscen/core/scene"
	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
)

// Files puts the boards and sounds of the demonstration into a store and its
// document. Without ffmpeg the scene is silent.
func Files(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document) error {
	err := Boards(doc, func(png []byte) (string, int, int, error) {
		kept, err := media.KeepPicture(ctx, bucket, png)
		return kept.Blob, kept.Width, kept.Height, err
	})
	if err != nil {
		return err
	}
	err = Sounds(doc, func(wav []byte) (string, float64, error) {
		u, err := media.Receive(bytes.NewReader(wav), media.MaxSoundBytes)
		if err != nil {
			return "", 0, err
		}
		defer u.End()
		kept, err := media.KeepSound(ctx, bucket, u)
		return kept.Blob, kept.Seconds, err
	})
	if errors.Is(err, ffmpeg.ErrMissing) {
		return nil
	}
	return err
}
