package media

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	_ "image/png" // boards come as PNG too
	"slices"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/tiff" // and as others
	_ "golang.org/x/image/webp"

	"proscen/internal/blobs"
	"proscen/internal/turns"
)

// Bounds of an uploaded picture.
const (
	MaxImageBytes  = 16 << 20
	maxImagePixels = 50_000_000
	maxImageSide   = 16_384
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

// KeepImage reads a PNG, JPEG, WebP or TIFF, writes it anew as a JPEG of a sensible size and
// stores that. Nothing is stored on error.
func KeepImage(ctx context.Context, bucket *blobs.Bucket, u *Upload) (Image, error) {
	if u.Size > MaxImageBytes {
		return Image{}, fmt.Errorf("%w: it has more than %d MB", ErrImage, MaxImageBytes>>20)
	}
	data, err := u.Bytes()
	if err != nil {
		return Image{}, err
	}
	return KeepPicture(ctx, bucket, data)
}

// KeepPicture is KeepImage of what is in memory.
func KeepPicture(ctx context.Context, bucket *blobs.Bucket, data []byte) (Image, error) {
	c, form, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil || !slices.Contains([]string{"png", "jpeg", "webp", "tiff"}, form) { // a library of ours reads others as well
		return Image{}, fmt.Errorf("%w: it is neither PNG, JPEG, WebP nor TIFF", ErrImage)
	}
	if err := bounded(image.Pt(c.Width, c.Height)); err != nil {
		return Image{}, fmt.Errorf("%w: %w", ErrImage, err)
	}
	need := int64(c.Width) * int64(c.Height) * pixelBytes(c.ColorModel, form, data)
	if need > turns.Room {
		return Image{}, fmt.Errorf("%w: its %d x %d pixels need %d MB to be read, more than %d MB; save it smaller", ErrImage, c.Width, c.Height, need>>20, turns.Room>>20)
	}
	done, err := turns.Take(ctx, need+64<<20)
	if err != nil {
		return Image{}, err
	}
	defer done()
	im, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return Image{}, fmt.Errorf("%w: it is damaged", ErrImage)
	}
	var out bytes.Buffer
	small := scaled(im, keptSide)
	if form == "jpeg" {
		small = upright(small, orientation(data))
	}
	if err := jpeg.Encode(&out, small, &jpeg.Options{Quality: 88}); err != nil {
		return Image{}, err
	}
	sum := sha256.Sum256(out.Bytes())
	kept := Image{hex.EncodeToString(sum[:]), small.Rect.Dx(), small.Rect.Dy()}
	return kept, bucket.PutBytes(ctx, File{Kind: Still, Blob: kept.Blob}.Path(), forms[Still].media, out.Bytes())
}

// bounded refuses pictures of too many pixels.
func bounded(size image.Point) error {
	switch w, h := int64(size.X), int64(size.Y); {
	case w < 1 || h < 1 || w*h > maxImagePixels:
		return fmt.Errorf("it is %d x %d pixels, more than %d million", w, h, maxImagePixels/1_000_000)
	case max(w, h) > maxImageSide:
		return fmt.Errorf("it is %d x %d pixels, and a side may have %d at most", w, h, maxImageSide)
	}
	return nil
}

// pixelBytes returns how many bytes a pixel takes while a picture is decoded.
func pixelBytes(m color.Model, form string, data []byte) int64 {
	switch {
	case form == "jpeg" && progressive(data):
		return 15 // the coefficients of three channels are kept besides
	case form == "jpeg":
		return 4
	case m == color.GrayModel:
		return 1
	case m == color.Gray16Model:
		return 2
	case m == color.RGBA64Model, m == color.NRGBA64Model:
		return 8
	}
	return 4
}

// progressive looks for the frame header of a progressive JPEG (ITU-T T.81, B.1.1.3).
func progressive(data []byte) bool {
	for at := 2; at+4 <= len(data) && data[at] == 0xff; {
		marker := data[at+1]
		switch {
		case marker == 0xc2:
			return true
		case marker == 0xff:
			at++ // fill
			continue
		case marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc, marker == 0xda:
			return false
		}
		at += 2 + int(data[at+2])<<8 + int(data[at+3])
	}
	return true // the worse of both
}

// scaled lays a picture on white, its longer side at most so long. It works in
// strips, across and then down, so that it takes little memory.
func scaled(im image.Image, most int) *image.RGBA {
	const strip = 64
	size := im.Bounds().Size()
	w, h := size.X, size.Y
	if side := max(w, h); side > most {
		w, h = max(1, w*most/side), max(1, h*most/side)
	}
	narrow := image.NewRGBA(image.Rect(0, 0, w, size.Y))
	draw.Draw(narrow, narrow.Rect, image.White, image.Point{}, draw.Src)
	for y := 0; y < size.Y; y += strip {
		part := image.Rect(0, y, size.X, min(size.Y, y+strip))
		to := image.Rect(0, part.Min.Y, w, part.Max.Y)
		draw.CatmullRom.Scale(narrow, to, im, part.Add(im.Bounds().Min), draw.Over, nil)
	}
	if h == size.Y {
		return narrow
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	for x := 0; x < w; x += strip {
		part := image.Rect(x, 0, min(w, x+strip), size.Y)
		draw.CatmullRom.Scale(out, image.Rect(part.Min.X, 0, part.Max.X, h), narrow, part, draw.Src, nil)
	}
	return out
}

// Picture decodes a stored picture.
func Picture(ctx context.Context, bucket *blobs.Bucket, name string) (image.Image, error) {
	body, err := read(ctx, bucket, File{Kind: Still, Blob: name})
	if err != nil {
		return nil, err
	}
	im, err := jpeg.Decode(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("a stored picture is damaged: %w", err)
	}
	return im, nil
}
