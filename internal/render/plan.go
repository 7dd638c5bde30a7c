// Package render makes videos of shots: it plans what to render, paints frames
// through the core, and encodes them with ffmpeg.
package render

import (
	"context"
	"fmt"
	"image"
	"slices"
	"strings"

	"proscen/core/kit"
	"proscen/core/picture"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/internal/blobs"
	"proscen/internal/media"
)

// Item is one output to make: a shot of the main lane.
type Item struct {
	Shot       string // id
	Number     string
	Camera     int // 0 when something else stands for it
	CameraName string
	Screen     timing.Range
}

// Plan lists the outputs of an assembly in order. Shots selects by id or
// number; empty means all.
func Plan(doc *scene.Document, assemblyID string, shots []string) ([]Item, error) {
	var out []Item
	found := map[string]bool{}
	for _, s := range program.Compile(doc, assemblyID).Shots() {
		if len(shots) > 0 {
			byID, byNumber := slices.Contains(shots, s.ID), slices.Contains(shots, s.Number)
			if !byID && !byNumber {
				continue
			}
			found[s.ID], found[s.Number] = true, true
		}
		item := Item{Shot: s.ID, Number: s.Number, CameraName: string(s.Plays), Screen: s.Screen()}
		if n := doc.Nodes[s.Camera]; s.Plays == scene.PlaysCamera && n.Camera != nil {
			item.Camera, item.CameraName = n.Camera.Number, n.Name
		}
		out = append(out, item)
	}
	var unknown []string
	for _, s := range shots {
		if !found[s] {
			unknown = append(unknown, s)
		}
	}
	if len(unknown) > 0 {
		return nil, fmt.Errorf("the assembly has no shot %s", strings.Join(unknown, ", "))
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("there is nothing to deliver: the assembly has no shots; add one on the time strip first")
	}
	return out, nil
}

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
