package media

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func picture(t *testing.T, width, height int) []byte {
	t.Helper()
	im := image.NewNRGBA(image.Rect(0, 0, width, height))
	for y := range height {
		for x := range width {
			im.SetNRGBA(x, y, color.NRGBA{R: uint8(x), G: uint8(y), A: uint8(255 * (x % 2))})
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, im))
	return b.Bytes()
}

func TestPicturesAreKeptAsJPEG(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	kept, err := KeepImage(ctx, b, up(t, picture(t, 320, 180)))
	require.NoError(t, err)
	assert.Equal(t, []int{320, 180}, []int{kept.Width, kept.Height})
	again, err := KeepImage(ctx, b, up(t, picture(t, 320, 180)))
	require.NoError(t, err)
	assert.Equal(t, kept, again, "the same picture has the same name")
	assert.Equal(t, 1, stored(t, b))
	body, err := read(ctx, b, File{Kind: Still, Blob: kept.Blob})
	require.NoError(t, err)
	im, err := jpeg.Decode(bytes.NewReader(body))
	require.NoError(t, err)
	assert.Equal(t, image.Pt(320, 180), im.Bounds().Size())
	r, _, _, _ := im.At(2, 2).RGBA()
	assert.Greater(t, r, uint32(0x6000), "what is clear in it lies on white paper")

	wide, err := KeepImage(ctx, b, up(t, picture(t, 4000, 100)))
	require.NoError(t, err)
	assert.Equal(t, []int{1920, 48}, []int{wide.Width, wide.Height})
}

func TestOtherThingsAreNotTakenForPictures(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	whole := picture(t, 64, 64)
	// A header that promises a picture of more pixels than are taken in.
	huge := bytes.Clone(whole)
	copy(huge[16:24], []byte{0, 1, 0, 0, 0, 1, 0, 0})
	for says, data := range map[string][]byte{
		"neither PNG, JPEG, WebP nor TIFF": []byte("<svg/>"), "damaged": whole[:len(whole)/2], "more than": make([]byte, MaxImageBytes+1), "": huge,
	} {
		_, err := KeepImage(ctx, b, up(t, data))
		require.ErrorIs(t, err, ErrImage)
		assert.ErrorContains(t, err, says)
	}
	assert.Zero(t, stored(t, b), "nothing is kept")
	for _, name := range []string{"", "../../etc/passwd", "zz"} {
		_, err := read(ctx, b, File{Kind: Still, Blob: name})
		assert.ErrorIs(t, err, ErrNoImage)
	}
}

func FuzzKeepImage(f *testing.F) {
	var b bytes.Buffer
	_ = png.Encode(&b, image.NewGray(image.Rect(0, 0, 9, 7)))
	f.Add(b.Bytes())
	b.Reset()
	_ = jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 9, 7)), nil)
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		k, err := KeepPicture(context.Background(), bucket(t), data)
		if err == nil && (k.Width < 1 || k.Height < 1 || max(k.Width, k.Height) > keptSide) {
			t.Fatalf("kept as %d x %d", k.Width, k.Height)
		}
	})
}
