// Package media takes in what artists upload: it converts models into mesh
// bundles and keeps them among the files, named by the SHA-256 of their bytes.
package media

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"time"

	"gonum.org/v1/gonum/spatial/r3"

	"proscen/core/edit"
	"proscen/core/interchange"
	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/internal/blobs"
	"proscen/internal/turns"
)

// ConvertTime bounds how long a conversion may take.
const ConvertTime = 30 * time.Second

// ErrNoModel says that a bundle is not among the files.
var ErrNoModel = errors.New("this model is not here any more")

// Converted is a model that has been taken in: what a scene keeps of it, without a name, what
// of its file is left out, and the cameras and lamps in it.
type Converted struct {
	scene.Model
	Notes   []string             `json:"notes,omitempty"`
	Cameras []edit.BroughtCamera `json:"cameras,omitempty"`
	Lamps   []edit.BroughtLamp   `json:"lamps,omitempty"`
}

// Convert reads a model and stores its bundle. Nothing is stored on error.
func Convert(ctx context.Context, bucket *blobs.Bucket, u *Upload, o interchange.Options) (Converted, error) {
	if u.Size > interchange.MaxFileBytes {
		return Converted{}, fmt.Errorf("%w: it has more than %d MB", interchange.ErrModel, interchange.MaxFileBytes>>20)
	}
	done, err := turns.Take(ctx, 100<<20+4*u.Size)
	if err != nil {
		return Converted{}, err
	}
	defer done()
	data, err := u.Bytes()
	if err != nil {
		return Converted{}, err
	}
	within, cancel := context.WithTimeout(ctx, ConvertTime)
	defer cancel()
	b, err := interchange.Read(within, data, o)
	if err != nil {
		return Converted{}, err
	}
	body, err := b.Encode()
	if err != nil {
		return Converted{}, err
	}
	sum := sha256.Sum256(body)
	box := b.Size()
	m := Converted{Notes: b.Notes, Cameras: b.Cameras, Lamps: b.Lamps}
	m.Model = scene.Model{Blob: hex.EncodeToString(sum[:]), Size: scene.FromR3(r3.Sub(box.Max, box.Min)), Triangles: b.Triangles()}
	for _, c := range b.Clips {
		m.Clips = append(m.Clips, scene.Clip{Name: c.Name, Seconds: c.Seconds})
	}
	return m, bucket.PutBytes(ctx, File{Kind: Model, Blob: m.Blob}.Path(), forms[Model].media, body)
}

var blobForm = regexp.MustCompile(`^[0-9a-f]{64}$`)

// Models returns the bundles of all models of a document, by their blobs.
func Models(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document) (map[string]*kit.Bundle, error) {
	out := map[string]*kit.Bundle{}
	for _, m := range doc.Models {
		if out[m.Blob] != nil {
			continue
		}
		body, err := read(ctx, bucket, File{Kind: Model, Blob: m.Blob})
		if err != nil {
			return nil, fmt.Errorf("%s: %w", m.Name, err)
		}
		b, err := kit.DecodeBundle(body)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", m.Name, err)
		}
		out[m.Blob] = b
	}
	return out, nil
}
