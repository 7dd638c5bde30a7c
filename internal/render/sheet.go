package render

import (
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"path/filepath"
	"time"

	"proscen/core/picture"
	"proscen/internal/scratch"
	"proscen/internal/sheets"
	"proscen/internal/store"
)

// sheet makes a sheet of the shots of an assembly.
func (w *Worker) sheet(ctx context.Context, o *store.Output) error {
	d, err := w.prepare(ctx, o.DeliveryID)
	if err != nil {
		return err
	}
	files, end := d.files.Open(ctx)
	defer end()
	form := picture.Form{Width: d.Width, Height: d.Height, Quality: picture.Quality(d.Quality)}
	painter, err := picture.NewPainter(d.doc, files, d.Assembly, form, w.Threads)
	if err != nil {
		return err
	}
	began, shown := time.Now(), time.Now()
	o.FramesDone = 0
	data, err := sheets.Make(ctx, d.doc, d.Assembly, sheets.Kind(o.Kind), func(frame int) (*image.RGBA, error) {
		img := image.NewRGBA(image.Rect(0, 0, form.Width, form.Height))
		if err := painter.Frame(frame, img); err != nil {
			return nil, err
		}
		o.FramesDone++
		o.Seconds = time.Since(began).Seconds()
		if time.Since(shown) >= showEvery {
			shown = time.Now()
			if !w.show(ctx, o, img) {
				return nil, errUnwanted
			}
		}
		return img, nil
	})
	switch {
	case errors.Is(err, sheets.ErrShots):
		return fmt.Errorf("%w: %w", errInput, err)
	case err != nil:
		return err
	}
	dir, err := scratch.Folder("sheet")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	file := filepath.Join(dir, "sheet")
	if err := scratch.Full(os.WriteFile(file, data, 0o600)); err != nil {
		return err
	}
	return w.done(ctx, o, sheets.Kind(o.Kind).Media(), file)
}
