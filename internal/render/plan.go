// Package render makes videos of shots: it plans what to render, paints frames
// through the core, and encodes them with ffmpeg.
package render

import (
	"context"
	"fmt"
	"image"
	"slices"
	"strings"

	"gocloud.dev/blob"

	"proscen/core/picture"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/timing"
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

// FilesOf returns the files of a document in a store. End frees what reading
// footage holds.
func FilesOf(ctx context.Context, bucket *blob.Bucket, doc *scene.Document) (files picture.Files, end func(), err error) {
	models, err := media.Models(ctx, bucket, doc)
	if err != nil {
		return picture.Files{}, nil, err
	}
	own := map[string]timing.Rate{}
	for _, f := range doc.Footage {
		if f.Rate.Valid() {
			own[f.Blob] = f.Rate
		}
	}
	frames := media.NewFrames(bucket, doc.Settings.Rate, own)
	return picture.Files{
		Models:  models,
		Picture: func(blob string) (image.Image, error) { return media.Picture(ctx, bucket, blob) },
		Footage: func(blob string, frame int) (image.Image, error) { return frames.Frame(ctx, blob, frame) },
	}, frames.End, nil
}
