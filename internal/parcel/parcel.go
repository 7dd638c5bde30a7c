// Package parcel writes a scene with all its files as one zip, and reads one in
// again. The document is JSON, pictures are JPEG, sounds FLAC, footage MP4; only
// imported models are in a form of our own, described in docs/models.md.
package parcel

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	"proscen/core/scene"
	"proscen/internal/blobs"
	"proscen/internal/media"
)

const (
	sceneName = "scene.json"
	notesName = "README.txt"
	mediaName = "media/"

	maxFiles = 20_000
	maxTotal = 8 << 30 // bytes of all files that are read
)

// MaxBytes bounds a parcel that is taken in.
const MaxBytes = 4 << 30

// ErrParcel says that a file is no parcel that can be read.
var ErrParcel = errors.New("this is no packed scene")

// Pack writes a scene and its files. The same scene always gives the same bytes. It
// returns what is missing: files that the document names and the store does not have.
func Pack(ctx context.Context, w io.Writer, bucket *blobs.Bucket, doc *scene.Document) (missing []media.File, err error) {
	z := zip.NewWriter(w)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestCompression) })
	put := func(name string, method uint16, from io.Reader) error {
		part, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		if err == nil {
			_, err = io.Copy(part, from)
		}
		return err
	}
	var body bytes.Buffer
	if err := json.Indent(&body, doc.Encode(), "", "  "); err != nil {
		return nil, err
	}
	body.WriteByte('\n')
	if err := put(sceneName, zip.Deflate, &body); err != nil {
		return nil, err
	}
	files := media.FilesOf(doc)
	for _, f := range files {
		from, err := media.Open(ctx, bucket, f)
		if media.IsMissing(err) {
			missing = append(missing, f)
			continue
		}
		if err != nil {
			return missing, err
		}
		err = put(mediaName+f.Path(), zip.Store, from)
		if err = errors.Join(err, from.Close()); err != nil {
			return missing, err
		}
	}
	if err := put(notesName, zip.Deflate, notes(doc, files, missing)); err != nil {
		return missing, err
	}
	return missing, z.Close()
}

func notes(doc *scene.Document, files, missing []media.File) io.Reader {
	var b bytes.Buffer
	fmt.Fprintf(&b, "%s: %s\n\nA scene of Proscen with its files.\n\n", doc.Settings.Production, doc.Settings.Title)
	fmt.Fprintf(&b, "%s  the scene, schema %s\n", sceneName, scene.Schema)
	fmt.Fprintf(&b, "%s      its files, named by the SHA-256 of their bytes:\n            images are JPEG, sounds FLAC, footage MP4, models a mesh bundle\n\n", mediaName)
	fmt.Fprintf(&b, "Take it in from the home page (Take in a packed scene), or with\n  proscen unpack FILE.zip\n\n")
	for _, f := range files {
		there := ""
		if slices.Contains(missing, f) {
			there = "  (missing)"
		}
		fmt.Fprintf(&b, "%s  %s%s\n", f.Path(), f.For, there)
	}
	return &b
}

// unpacking keeps what is held in memory to one parcel.
var unpacking = make(chan struct{}, 1)

// Unpack reads a parcel, puts its files into a store and returns its scene. Files
// that it does not bring, and the store does not have, are returned as missing.
// Nothing but files is stored on error.
func Unpack(ctx context.Context, from io.ReaderAt, size int64, bucket *blobs.Bucket) (doc *scene.Document, missing []media.File, err error) {
	select {
	case unpacking <- struct{}{}:
		defer func() { <-unpacking }()
	case <-ctx.Done():
		return nil, nil, ctx.Err()
	}
	z, err := zip.NewReader(from, size)
	if err != nil {
		return nil, nil, fmt.Errorf("%w: it is no zip file", ErrParcel)
	}
	if len(z.File) > maxFiles {
		return nil, nil, fmt.Errorf("%w: it holds %d files, more than %d", ErrParcel, len(z.File), maxFiles)
	}
	parts := map[string]*zip.File{}
	for _, f := range z.File {
		if parts[f.Name] != nil {
			return nil, nil, fmt.Errorf("%w: it holds %q twice", ErrParcel, clip(f.Name))
		}
		parts[f.Name] = f
	}
	if parts[sceneName] == nil {
		return nil, nil, fmt.Errorf("%w: it holds no %s", ErrParcel, sceneName)
	}
	body, err := read(parts[sceneName], scene.MaxBytes)
	if err != nil {
		return nil, nil, err
	}
	if doc, err = scene.Decode(body); err != nil {
		return nil, nil, fmt.Errorf("%w: %w", ErrParcel, err)
	}
	total := int64(0)
	for _, f := range media.FilesOf(doc) {
		part := parts[mediaName+f.Path()]
		if part == nil {
			there, err := bucket.Exists(ctx, f.Path())
			if err != nil {
				return nil, nil, err
			}
			if !there {
				missing = append(missing, f)
			}
			continue
		}
		size, err := keep(ctx, bucket, f, part)
		if err != nil {
			return nil, nil, err
		}
		if total += size; total > maxTotal {
			return nil, nil, fmt.Errorf("%w: its files have more than %d GB", ErrParcel, maxTotal>>30)
		}
	}
	return doc, missing, nil
}

// keep puts a part of a zip into a store, whatever its header says of its size.
func keep(ctx context.Context, bucket *blobs.Bucket, f media.File, part *zip.File) (size int64, err error) {
	err = open(part, func(r io.Reader) error {
		u, err := media.Receive(r, f.Most())
		if err != nil {
			return err
		}
		defer u.End()
		if size = u.Size; size > f.Most() {
			return tooLarge(part, f.Most())
		}
		if err := media.Keep(ctx, bucket, f, u); err != nil {
			return fmt.Errorf("%w: %w", ErrParcel, err)
		}
		return nil
	})
	return size, err
}

// read reads a part of a zip into memory.
func read(part *zip.File, most int64) (data []byte, err error) {
	err = open(part, func(r io.Reader) error {
		if data, err = io.ReadAll(io.LimitReader(r, most+1)); err == nil && int64(len(data)) > most {
			err = tooLarge(part, most)
		}
		return err
	})
	return data, err
}

func tooLarge(part *zip.File, most int64) error {
	return fmt.Errorf("%w: %q is larger than %d MB", ErrParcel, clip(part.Name), most>>20)
}

// open calls use with what a part of a zip holds, and tells when that is damaged.
func open(part *zip.File, use func(io.Reader) error) error {
	r, err := part.Open()
	if err != nil {
		return fmt.Errorf("%w: %q cannot be read", ErrParcel, clip(part.Name))
	}
	defer func() { _ = r.Close() }()
	err = use(r)
	if errors.Is(err, zip.ErrChecksum) || errors.Is(err, zip.ErrFormat) || errors.Is(err, io.ErrUnexpectedEOF) || errors.As(err, new(flate.CorruptInputError)) {
		return fmt.Errorf("%w: %q is damaged", ErrParcel, clip(part.Name))
	}
	return err
}

func clip(s string) string {
	if len(s) > 80 {
		return s[:80] + "…"
	}
	return s
}
