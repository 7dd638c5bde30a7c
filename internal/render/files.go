package render

import (
	"context"
	"image"

	"proscen/core/kit"
	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/timing"
	"proscen/internal/blobs"
	"proscen/internal/media"
)

// Files are the files of a document in a store: its models in memory, the others
// where they lie.
type Files struct {
	bucket *blobs.Bucket
	models map[string]*kit.Bundle
	rate   timing.Rate
	own    map[string]timing.Rate // of footage, by blob
}

// FilesOf reads the models of a document, which takes a while.
func FilesOf(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document) (Files, error) {
	f := Files{bucket: bucket, rate: doc.Settings.Rate, own: map[string]timing.Rate{}}
	for _, v := range doc.Footage {
		if v.Rate.Valid() {
			f.own[v.Blob] = v.Rate
		}
	}
	for _, n := range doc.Nodes {
		if s := n.Screen; s != nil && s.Film != nil && s.Film.Rate.Valid() {
			f.own[s.Film.Blob] = s.Film.Rate
		}
	}
	var err error
	f.models, err = media.Models(ctx, bucket, doc)
	return f, err
}

// Open returns the files as a painter reads them, for as long as ctx lives. End frees
// what reading footage holds.
func (f Files) Open(ctx context.Context) (files picture.Files, end func()) {
	frames := media.NewFrames(f.bucket, f.rate, f.own)
	return picture.Files{
		Models:  f.models,
		Picture: func(blob string) (image.Image, error) { return media.Picture(ctx, f.bucket, blob) },
		Footage: func(blob string, frame int) (image.Image, error) { return frames.Frame(ctx, blob, frame) },
	}, frames.End
}

// Into gives a scene its models.
func (f Files) Into(s *session.Session) {
	for blob, b := range f.models {
		s.Provide(blob, b)
	}
}
