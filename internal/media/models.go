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

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"
	"gonum.org/v1/gonum/spatial/r3"

	"proscen/core/interchange"
	"proscen/core/kit"
	"proscen/core/scene"
)

// ConvertTime bounds how long a conversion may take.
const ConvertTime = 30 * time.Second

// ErrNoModel says that a bundle is not among the files.
var ErrNoModel = errors.New("this model is not here any more")

// converting keeps conversions few, for they take memory.
var converting = make(chan struct{}, 2)

// Convert reads a model, stores its bundle and returns what a scene keeps of it,
// without a name. Nothing is stored on error.
func Convert(ctx context.Context, bucket *blob.Bucket, data []byte, o interchange.Options) (scene.Model, error) {
	ctx, cancel := context.WithTimeout(ctx, ConvertTime)
	defer cancel()
	select {
	case converting <- struct{}{}:
		defer func() { <-converting }()
	case <-ctx.Done():
		return scene.Model{}, fmt.Errorf("%w: the server is busy with other models; try again in a moment", interchange.ErrModel)
	}
	b, err := interchange.Read(ctx, data, o)
	if err != nil {
		return scene.Model{}, err
	}
	body, err := b.Encode()
	if err != nil {
		return scene.Model{}, err
	}
	sum := sha256.Sum256(body)
	box := b.Size()
	m := scene.Model{Blob: hex.EncodeToString(sum[:]), Size: scene.FromR3(r3.Sub(box.Max, box.Min)), Triangles: b.Triangles()}
	for _, c := range b.Clips {
		m.Clips = append(m.Clips, scene.Clip{Name: c.Name, Seconds: c.Seconds})
	}
	if there, err := bucket.Exists(ctx, key(m.Blob)); err != nil || there {
		return m, err
	}
	return m, bucket.WriteAll(ctx, key(m.Blob), body, nil)
}

var blobForm = regexp.MustCompile(`^[0-9a-f]{64}$`)

func key(name string) string { return "models/" + name + ".bundle" }

// Bytes returns the bytes of a bundle.
func Bytes(ctx context.Context, bucket *blob.Bucket, name string) ([]byte, error) {
	if !blobForm.MatchString(name) {
		return nil, ErrNoModel
	}
	body, err := bucket.ReadAll(ctx, key(name))
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrNoModel
	}
	return body, err
}

// Models returns the bundles of all models of a document, by their blobs.
func Models(ctx context.Context, bucket *blob.Bucket, doc *scene.Document) (map[string]*kit.Bundle, error) {
	out := map[string]*kit.Bundle{}
	for _, m := range doc.Models {
		if out[m.Blob] != nil {
			continue
		}
		body, err := Bytes(ctx, bucket, m.Blob)
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
