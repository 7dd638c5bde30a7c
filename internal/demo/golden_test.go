package demo

import (
	"bytes"
	"flag"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"proscen/core/picture"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var refresh = flag.Bool("golden", false, "take the pictures as they are now, and show what has changed")

// golden are small frames of the demonstration, which change only on purpose.
func golden() (out []goldenFrame) {
	for i := range 18 { // all over the cut
		out = append(out, goldenFrame{frame: 7 + i*56, quality: picture.Check})
	}
	for i := range 2 {
		out = append(out, goldenFrame{frame: 100 + 500*i, quality: picture.Rough}, goldenFrame{frame: 120 + 500*i, quality: picture.Fine})
		out = append(out, goldenFrame{frame: 140 + 500*i, quality: picture.Fine, exposed: true})
	}
	return out
}

type goldenFrame struct {
	frame   int
	quality picture.Quality
	exposed bool // the lens blurs, and the shutter is open
}

func (g goldenFrame) String() string {
	name := fmt.Sprintf("%04d-%s", g.frame, g.quality)
	if g.exposed {
		name += "-exposed"
	}
	return name
}

func (g goldenFrame) paint(t *testing.T, threads int) *image.RGBA {
	t.Helper()
	doc := Scene()
	if g.exposed {
		doc.Settings.Blur, doc.Settings.Shutter = true, 180
	}
	p, err := picture.NewPainter(doc, picture.Files{}, "first-cut", picture.Form{Width: 160, Height: 90, Quality: g.quality}, threads)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 160, 90))
	require.NoError(t, p.Frame(g.frame, img))
	return img
}

// TestPicturesAreAsTheyWere compares frames byte by byte with those that are kept. When
// they are to change, ‘make golden’ takes the new ones and shows both.
func TestPicturesAreAsTheyWere(t *testing.T) {
	all := golden()
	require.Len(t, all, 24)
	shown := filepath.Join(os.TempDir(), "proscen-golden")
	changed := 0
	for i, g := range all {
		got := g.paint(t, 1+i%3)
		file := filepath.Join("testdata", "golden", g.String()+".png")
		want := kept(file)
		if want != nil && bytes.Equal(want.Pix, got.Pix) {
			continue
		}
		changed++
		require.NoError(t, os.MkdirAll(shown, 0o755))
		write(t, filepath.Join(shown, g.String()+".png"), beside(want, got))
		if *refresh {
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			write(t, file, got)
		}
	}
	if *refresh {
		t.Logf("%d of %d pictures have changed; before, now and the difference in %s", changed, len(all), shown)
		return
	}
	assert.Zero(t, changed, "pictures have changed; before, now and the difference lie in %s; ‘make golden’ takes them as they are", shown)
}

// kept reads a picture; nil when there is none.
func kept(file string) *image.RGBA {
	data, err := os.ReadFile(file)
	if err != nil {
		return nil
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil
	}
	out := image.NewRGBA(img.Bounds())
	for y := range out.Rect.Dy() {
		for x := range out.Rect.Dx() {
			out.Set(x, y, img.At(x, y))
		}
	}
	return out
}

// beside puts two pictures and eight times their difference next to each other.
func beside(want, got *image.RGBA) *image.RGBA {
	w, h := got.Rect.Dx(), got.Rect.Dy()
	out := image.NewRGBA(image.Rect(0, 0, 3*w, h))
	for y := range h {
		for x := range w {
			now := got.RGBAAt(x, y)
			out.SetRGBA(w+x, y, now)
			if want == nil {
				continue
			}
			was, d := want.RGBAAt(x, y), now
			out.SetRGBA(x, y, was)
			far := func(a, b uint8) uint8 { return uint8(min(255, 8*max(int(a)-int(b), int(b)-int(a)))) }
			d.R, d.G, d.B = far(was.R, now.R), far(was.G, now.G), far(was.B, now.B)
			out.SetRGBA(2*w+x, y, d)
		}
	}
	return out
}

func write(t *testing.T, file string, img image.Image) {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o644))
}
