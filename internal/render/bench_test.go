package render

import (
	"context"
	"image"
	"path/filepath"
	"testing"
	"time"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/demo"

	"github.com/stretchr/testify/require"
)

// painted are frames that are there already.
type painted []*image.RGBA

func (p painted) Frame(n int, img *image.RGBA) error {
	copy(img.Pix, p[n].Pix)
	return nil
}
func (p painted) Size() (width, height int) { return p[0].Rect.Dx(), p[0].Rect.Dy() }

// BenchmarkOverlap measures a delivery of 48 frames of the demonstration against the
// larger of painting them and encoding them alone: 1 is when one wholly hides the other.
// They share the processors, so that with few of them it is more.
func BenchmarkOverlap(b *testing.B) {
	doc := demo.Scene()
	for _, quality := range []scene.Quality{scene.Rough, scene.Check, scene.Fine} {
		b.Run(string(quality), func(b *testing.B) {
			r := scene.Recipe{Name: "bench", Pack: scene.H264, Quality: quality}
			items, err := turnover.Plan(doc, turnover.Order{Each: true, Shots: []string{"050"}, Size: [2]int{640, 360}}, &r)
			require.NoError(b, err)
			film, err := turnover.NewFilm(doc, picture.Files{}, items[0], r, turnover.Facts{}, 1)
			require.NoError(b, err)
			all := timing.Range{Out: 48}
			form := Form{r.Pack, quality, doc.Settings.Rate}
			var frames painted
			seconds := func(run func()) float64 {
				start := time.Now()
				run()
				return time.Since(start).Seconds()
			}
			var painting, encoding, both float64
			for range b.N {
				frames = nil
				painting += seconds(func() {
					for n := range all.Count() {
						img := image.NewRGBA(image.Rect(0, 0, 640, 360))
						require.NoError(b, film.Frame(n, img))
						frames = append(frames, img)
					}
				})
				dir := b.TempDir()
				encoding += seconds(func() {
					require.NoError(b, Encode(context.Background(), frames, all, form, filepath.Join(dir, "a.mp4"), nil))
				})
				both += seconds(func() {
					require.NoError(b, Encode(context.Background(), film, all, form, filepath.Join(dir, "b.mp4"), nil))
				})
			}
			b.ReportMetric(both/max(painting, encoding), "times")
			b.ReportMetric(float64(b.N*all.Count())/both, "frames/s")
		})
	}
}
