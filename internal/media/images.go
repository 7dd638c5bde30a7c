package media

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // boards come as PNG too
	"time"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"
	"golang.org/x/image/draw"
)

// Bounds of an uploaded picture.
const (
	MaxImageBytes  = 16 << 20
	MaxPanelBytes  = 128 << 20 // of a PDF of panels
	maxPanels      = 300       // pages
	maxPanelTime   = 2 * time.Minute
	maxImagePixels = 50 << 20
	keptSide       = 1920 // longer sides are made this long
)

// ErrImage says that an upload is not a picture that can be taken in.
var ErrImage = errors.New("the picture cannot be read")

// ErrNoImage says that a picture is not among the files.
var ErrNoImage = errors.New("this picture is not here any more")

// Image is what a scene keeps of a picture: the SHA-256 of its bytes, and its
// size in pixels.
type Image struct {
	Blob   string `json:"blob"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// KeepImage reads a PNG or JPEG, writes it anew as a JPEG of a sensible size and
// stores that. Nothing is stored on error.
func KeepImage(ctx context.Context, bucket *blob.Bucket, data []byte) (Image, error) {
	if len(data) > MaxImageBytes {
		return Image{}, fmt.Errorf("%w: it has more than %d MB", ErrImage, MaxImageBytes>>20)
	}
	c, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Image{}, fmt.Errorf("%w: it is neither PNG nor JPEG", ErrImage)
	}
	if c.Width < 1 || c.Height < 1 || c.Width*c.Height > maxImagePixels {
		return Image{}, fmt.Errorf("%w: it is %d x %d pixels, more than %d million", ErrImage, c.Width, c.Height, maxImagePixels/1_000_000)
	}
	im, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return Image{}, fmt.Errorf("%w: it is damaged", ErrImage)
	}
	w, h := c.Width, c.Height
	if side := max(w, h); side > keptSide {
		w, h = max(1, w*keptSide/side), max(1, h*keptSide/side)
	}
	flat := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(flat, flat.Bounds(), image.White, image.Point{}, draw.Src)
	draw.CatmullRom.Scale(flat, flat.Bounds(), im, im.Bounds(), draw.Over, nil)
	var out bytes.Buffer
	if err := jpeg.Encode(&out, flat, &jpeg.Options{Quality: 88}); err != nil {
		return Image{}, err
	}
	sum := sha256.Sum256(out.Bytes())
	kept := Image{hex.EncodeToString(sum[:]), w, h}
	return kept, bucket.WriteAll(ctx, imageKey(kept.Blob), out.Bytes(), nil)
}

func imageKey(name string) string { return "images/" + name + ".jpg" }

// ImageBytes returns the JPEG of a picture.
func ImageBytes(ctx context.Context, bucket *blob.Bucket, name string) ([]byte, error) {
	if !blobForm.MatchString(name) {
		return nil, ErrNoImage
	}
	body, err := bucket.ReadAll(ctx, imageKey(name))
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrNoImage
	}
	return body, err
}

// Picture decodes a stored picture.
func Picture(ctx context.Context, bucket *blob.Bucket, name string) (image.Image, error) {
	body, err := ImageBytes(ctx, bucket, name)
	if err != nil {
		return nil, err
	}
	im, err := jpeg.Decode(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("a stored picture is damaged: %w", err)
	}
	return im, nil
}
