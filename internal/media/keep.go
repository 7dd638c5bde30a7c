package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/jpeg"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/turns"
)

// Kind is a kind of file that is kept.
type Kind string

// The kinds that documents name, and what is made of a sound and of a video.
const (
	Model      Kind = "models"
	Still      Kind = "images"
	SoundFile  Kind = "sounds"
	VideoFile  Kind = "footage"
	PeaksFile  Kind = "peaks"
	FirstFrame Kind = "first frames"
)

const maxBundle = 512 << 20

// form is how files of a kind are kept: where, with which ending, as what, of how
// many bytes at most, and the error that says that one is not there.
type form struct {
	folder, ending, media string
	most                  int64
	missing               error
}

var forms = map[Kind]form{
	Model:      {"models", ".bundle", "application/octet-stream", maxBundle, ErrNoModel},
	Still:      {"images", ".jpg", "image/jpeg", MaxImageBytes, ErrNoImage},
	SoundFile:  {"sounds", ".flac", "audio/flac", 2 * MaxSoundBytes, ErrNoSound},
	VideoFile:  {"footage", ".mp4", "video/mp4", 2 * MaxFootageBytes, ErrNoFootage},
	PeaksFile:  {"sounds", ".peaks", "application/octet-stream", MaxSoundBytes, ErrNoSound},
	FirstFrame: {"footage", ".jpg", "image/jpeg", MaxImageBytes, ErrNoFootage},
}

// File is a file that is kept under the SHA-256 of its bytes, or of those it is made of.
type File struct {
	Kind Kind
	Blob string
	For  string // what names it, for people
}

// Path returns where the file lies in a store, with its ending.
func (f File) Path() string { return forms[f.Kind].folder + "/" + f.Blob + forms[f.Kind].ending }

// Most returns how many bytes the file may have at most.
func (f File) Most() int64 { return forms[f.Kind].most }

// Media returns the media type of the file.
func (f File) Media() string { return forms[f.Kind].media }

// FilesOf lists the files that a document names, each once, in order.
func FilesOf(doc *scene.Document) []File {
	var out []File
	for _, f := range doc.Files() {
		if blobForm.MatchString(f.Blob) {
			out = append(out, File{Kind(f.Kind), f.Blob, doc.Called(f.Users[0].Collection, f.Users[0].ID)})
		}
	}
	return out
}

// SizeOf returns how many bytes a file of a store has, −1 when it is not there.
func SizeOf(ctx context.Context, bucket *blobs.Bucket, f File) (int64, error) {
	a, err := bucket.Attributes(ctx, f.Path())
	switch {
	case gcerrors.Code(err) == gcerrors.NotFound:
		return -1, nil
	case err != nil:
		return 0, err
	}
	return a.Size, nil
}

// Open opens a file of a store. When it is not there the error is that of its kind.
func Open(ctx context.Context, bucket *blobs.Bucket, f File) (*blob.Reader, error) {
	if !blobForm.MatchString(f.Blob) {
		return nil, forms[f.Kind].missing
	}
	r, err := bucket.NewReader(ctx, f.Path(), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, forms[f.Kind].missing
	}
	return r, err
}

// IsMissing tells the errors that say that a file is not there.
func IsMissing(err error) bool {
	for _, f := range forms {
		if errors.Is(err, f.missing) {
			return true
		}
	}
	return false
}

// read reads a file of a store into memory.
func read(ctx context.Context, bucket *blobs.Bucket, f File) ([]byte, error) {
	if !blobForm.MatchString(f.Blob) {
		return nil, forms[f.Kind].missing
	}
	body, err := bucket.ReadAll(ctx, f.Path())
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, forms[f.Kind].missing
	}
	return body, err
}

// Keep puts a file that comes from elsewhere into a store, with what is made of it,
// if it is what its name says and can be used. One that is there already is left.
func Keep(ctx context.Context, bucket *blobs.Bucket, f File, u *Upload) error {
	if !blobForm.MatchString(f.Blob) {
		return fmt.Errorf("%s has a name that is no SHA-256", f.For)
	}
	sum, err := hashFile(u.file())
	if err != nil {
		return err
	}
	if sum != f.Blob {
		return fmt.Errorf("the file of %s is damaged: its bytes are not those that its name stands for", f.For)
	}
	if there, err := bucket.Exists(ctx, f.Path()); err != nil || there {
		return err
	}
	more, err := f.try(ctx, u)
	if err != nil {
		return fmt.Errorf("the file of %s cannot be used: %w", f.For, err)
	}
	return store(ctx, bucket, append(more, product{f.Path(), f.Media(), u.file()})...)
}

// try tells whether a file can be used, and makes what belongs to it.
func (f File) try(ctx context.Context, u *Upload) ([]product, error) {
	done, err := turns.Take(ctx, map[Kind]int64{Model: 4 * u.Size, Still: 2 * u.Size}[f.Kind]+ffmpegRoom)
	if err != nil {
		return nil, err
	}
	defer done()
	switch f.Kind {
	case Model, Still:
		data, err := u.Bytes()
		if err != nil {
			return nil, err
		}
		if f.Kind == Model {
			_, err = kit.DecodeBundle(data)
			return nil, err
		}
		c, err := jpeg.DecodeConfig(bytes.NewReader(data))
		if err != nil {
			return nil, err
		}
		return nil, bounded(image.Pt(c.Width, c.Height))
	case SoundFile:
		if _, err = samples(ctx, u); err != nil {
			return nil, err
		}
		peaks, _, err := peaksOf(u)
		return []product{{File{Kind: PeaksFile, Blob: f.Blob}.Path(), forms[PeaksFile].media, peaks}}, err
	case VideoFile:
		small, err := firstFrame(ctx, ffmpeg.Foreign(ffmpeg.VideoFormats, u.file()), u)
		return []product{{File{Kind: FirstFrame, Blob: f.Blob}.Path(), forms[FirstFrame].media, small}}, err
	}
	return nil, fmt.Errorf("%q is no kind of file", f.Kind)
}
