package render

import (
	"context"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // what stills are packed as
	_ "image/png"
	"path"
	"strings"

	"proscen/core/scene"
	"proscen/internal/blobs"
	"proscen/internal/sheets"
	"proscen/internal/store"

	"golang.org/x/image/draw"
)

// ContactSheet is the name of the sheet beside the stills of a delivery.
const ContactSheet = "contact-sheet.pdf"

// mostStills bounds the pictures of one contact sheet.
const mostStills = 600

// ErrStills says that there is nothing for a contact sheet.
var ErrStills = errors.New("the delivery has no finished stills")

func isStill(o *store.Output) bool {
	return o.Kind == store.Picture && o.State == store.Done && path.Ext(o.File) != ".exr"
}

// HasStills tells whether there is something for a contact sheet.
func HasStills(d *store.Delivery) bool {
	for i := range d.Outputs {
		if isStill(&d.Outputs[i]) {
			return true
		}
	}
	return false
}

// Contact makes a contact sheet of the finished stills of a delivery.
func Contact(ctx context.Context, bucket *blobs.Bucket, d *store.Delivery) ([]byte, error) {
	if !HasStills(d) {
		return nil, ErrStills
	}
	doc, err := scene.Decode(d.Document)
	if err != nil {
		return nil, err
	}
	var stills []sheets.Still
	all := 0
	for i := range d.Outputs {
		o := &d.Outputs[i]
		if !isStill(o) {
			continue
		}
		if all++; all > mostStills {
			continue
		}
		small, err := still(ctx, bucket, o.File)
		if err != nil {
			return nil, err
		}
		title := strings.TrimSpace(o.ShotNumber)
		if o.CameraNumber > 0 {
			title = strings.TrimSpace(fmt.Sprintf("%s  camera %d %s", title, o.CameraNumber, o.CameraName))
		}
		stills = append(stills, sheets.Still{JPEG: small, Title: title, Note: path.Base(o.File)})
	}
	title := fmt.Sprintf("%s · delivery %d", doc.Settings.Title, d.Number)
	if all > mostStills {
		title += fmt.Sprintf(" · the first %d of %d stills", mostStills, all)
	}
	return sheets.Contact(title, stills)
}

// still returns a small JPEG of a kept picture.
func still(ctx context.Context, bucket *blobs.Bucket, key string) ([]byte, error) {
	r, err := bucket.NewReader(ctx, key, nil)
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	from, _, err := image.Decode(r) // our own
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", key, err)
	}
	img := image.NewRGBA(image.Rectangle{Max: from.Bounds().Size()})
	draw.Draw(img, img.Rect, from, from.Bounds().Min, draw.Src)
	return shrunk(img, 640), nil
}
