package media

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"image/jpeg"
	"os"
	"path/filepath"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/internal/ffmpeg"
)

// Kind is a kind of file that documents name.
type Kind string

// The kinds.
const (
	Model     Kind = "models"
	Still     Kind = "images"
	SoundFile Kind = "sounds"
	VideoFile Kind = "footage"
)

const maxBundle = 512 << 20

// File is a file that a document names, by the SHA-256 of its bytes.
type File struct {
	Kind Kind
	Blob string
	For  string // what names it, for people
}

// Path returns where the file lies in a store, with its ending.
func (f File) Path() string {
	end := map[Kind]string{Model: ".bundle", Still: ".jpg", SoundFile: ".flac", VideoFile: ".mp4"}[f.Kind]
	return string(f.Kind) + "/" + f.Blob + end
}

// Most returns how many bytes the file may have at most.
func (f File) Most() int64 {
	switch f.Kind {
	case Model:
		return maxBundle
	case SoundFile:
		return 2 * MaxSoundBytes
	case VideoFile:
		return 2 * MaxFootageBytes
	}
	return MaxImageBytes
}

// FilesOf lists the files that a document names, each once, in order.
func FilesOf(doc *scene.Document) []File {
	var out []File
	for _, f := range doc.Files() {
		if blobForm.MatchString(f.Blob) {
			out = append(out, File{Kind(f.Kind), f.Blob, doc.Called(f.Users[0].Collection, f.Users[0].ID)})
		}
	}
	return out
}

// SizeOf returns how many bytes a file of a store has, −1 when it is not there.
func SizeOf(ctx context.Context, bucket *blob.Bucket, f File) (int64, error) {
	a, err := bucket.Attributes(ctx, f.Path())
	switch {
	case gcerrors.Code(err) == gcerrors.NotFound:
		return -1, nil
	case err != nil:
		return 0, err
	}
	return a.Size, nil
}

// Open opens a file of a store; nil when it is not there.
func Open(ctx context.Context, bucket *blob.Bucket, f File) (*blob.Reader, error) {
	r, err := bucket.NewReader(ctx, f.Path(), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, nil
	}
	return r, err
}

// Keep puts a file that comes from elsewhere into a store, with what is made of it,
// if it is what its name says and can be used. One that is there already is left.
func Keep(ctx context.Context, bucket *blob.Bucket, f File, data []byte) error {
	if !blobForm.MatchString(f.Blob) {
		return fmt.Errorf("%s has a name that is no SHA-256", f.For)
	}
	if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != f.Blob {
		return fmt.Errorf("the file of %s is damaged: its bytes are not those that its name stands for", f.For)
	}
	if there, err := bucket.Exists(ctx, f.Path()); err != nil || there {
		return err
	}
	more := map[string][]byte{}
	var err error
	switch f.Kind {
	case Model:
		_, err = kit.DecodeBundle(data)
	case Still:
		var c image.Config
		if c, err = jpeg.DecodeConfig(bytes.NewReader(data)); err == nil && c.Width*c.Height > maxImagePixels {
			err = fmt.Errorf("it is %d x %d pixels, more than %d million", c.Width, c.Height, maxImagePixels/1_000_000)
		}
	case SoundFile:
		err = inFolder(data, func(dir, file string) error {
			raw := filepath.Join(dir, "raw.pcm")
			if err := ffmpeg.Run(ctx, append(ffmpeg.Foreign(ffmpeg.SoundFormats, file), "-map", "0:a:0", "-vn", "-t", fmt.Sprint(maxSoundTime+1),
				"-ac", "2", "-ar", fmt.Sprint(SoundRate), "-f", "s16le", raw)...); err != nil {
				return err
			}
			samples, err := os.ReadFile(raw)
			more[peaksKey(f.Blob)] = Peaks(samples)
			return err
		})
	case VideoFile:
		err = inFolder(data, func(dir, file string) error {
			small := filepath.Join(dir, "small.jpg")
			if err := ffmpeg.Run(ctx, append(ffmpeg.Foreign(ffmpeg.VideoFormats, file), "-map", "0:v:0", "-an", "-frames:v", "1", "-vf", "scale=256:-2", "-c:v", "mjpeg", "-f", "image2", small)...); err != nil {
				return err
			}
			body, err := os.ReadFile(small)
			more[footageKey(f.Blob, ".jpg")] = body
			return err
		})
	default:
		return fmt.Errorf("%q is no kind of file", f.Kind)
	}
	if err != nil {
		return fmt.Errorf("the file of %s cannot be used: %w", f.For, err)
	}
	for key, body := range more {
		if err := bucket.WriteAll(ctx, key, body, nil); err != nil {
			return err
		}
	}
	return bucket.WriteAll(ctx, f.Path(), data, nil)
}
