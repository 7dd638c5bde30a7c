// Package blobs keeps files by their keys, in a folder or in a bucket. What is put
// there is whole or not there at all, and lies on the disk before it is told to be
// there.
package blobs

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"gocloud.dev/blob"
	_ "gocloud.dev/blob/fileblob" // file:// folders
	_ "gocloud.dev/blob/s3blob"   // s3:// buckets
	"gocloud.dev/gcerrors"

	"proscen/internal/scratch"
)

// ErrFull says that there is no room for a file.
var ErrFull = errors.New("the disk for files is full; make room there and do it again, nothing that was there is lost")

// Bucket is a store of files. Reading, listing and deleting are those of gocloud.
type Bucket struct {
	*blob.Bucket
	folder string // "" when it is no folder of this machine
}

// Of returns a store in any bucket.
func Of(b *blob.Bucket) *Bucket { return &Bucket{Bucket: b} }

// Open opens a store: the address of a bucket (s3://…), or a folder, which is made
// when it is missing.
func Open(ctx context.Context, address string) (*Bucket, error) {
	folder := ""
	if !hasScheme(address) {
		abs, err := filepath.Abs(address)
		if err != nil {
			return nil, err
		}
		if err := os.MkdirAll(abs, 0o755); err != nil {
			return nil, fmt.Errorf("the folder for videos cannot be made: %w", err)
		}
		folder = abs
		address = "file://" + filepath.ToSlash(abs) + "?metadata=skip&no_tmp_dir=true"
	}
	b, err := blob.OpenBucket(ctx, address)
	if err != nil {
		return nil, fmt.Errorf("the blob store %q cannot be opened: %w", address, err)
	}
	return &Bucket{b, folder}, nil
}

func hasScheme(s string) bool {
	i := strings.Index(s, "://")
	return i > 0 && !strings.ContainsAny(s[:i], `/\`)
}

// Put stores a file in place of one that has the key already.
func (b *Bucket) Put(ctx context.Context, key, kind string, from io.Reader) error {
	return b.put(ctx, key, kind, from, false)
}

// PutNew stores a file unless there is one of the key, which stays as it is.
func (b *Bucket) PutNew(ctx context.Context, key, kind string, from io.Reader) error {
	return b.put(ctx, key, kind, from, true)
}

// PutBytes is PutNew of what is in memory.
func (b *Bucket) PutBytes(ctx context.Context, key, kind string, body []byte) error {
	return b.PutNew(ctx, key, kind, bytes.NewReader(body))
}

// PutFile is PutNew of a file of this machine.
func (b *Bucket) PutFile(ctx context.Context, key, kind, file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	return b.PutNew(ctx, key, kind, f)
}

func (b *Bucket) put(ctx context.Context, key, kind string, from io.Reader, isNew bool) error {
	var err error
	if b.folder != "" {
		err = b.toFolder(ctx, key, from, isNew)
	} else {
		err = b.toBucket(ctx, key, kind, from, isNew)
	}
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) {
		return ErrFull
	}
	return err
}

func (b *Bucket) toBucket(ctx context.Context, key, kind string, from io.Reader, isNew bool) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	to, err := b.NewWriter(ctx, key, &blob.WriterOptions{ContentType: kind, IfNotExist: isNew})
	if err != nil {
		return err
	}
	if _, err := io.Copy(to, from); err != nil {
		stop() // so that Close discards what was written
		_ = to.Close()
		return err
	}
	if err := to.Close(); gcerrors.Code(err) != gcerrors.FailedPrecondition || !isNew {
		return err
	}
	return nil
}

// incoming is the folder of what is not whole yet.
const incoming = ".incoming"

// toFolder writes beside the files, brings that to the disk, and gives it its name
// then: whatever happens, a name stands for a whole file.
func (b *Bucket) toFolder(ctx context.Context, key string, from io.Reader, isNew bool) error {
	if !filepath.IsLocal(key) {
		return fmt.Errorf("%q is no key of a file", key)
	}
	name := filepath.Join(b.folder, filepath.FromSlash(key))
	if isNew {
		if _, err := os.Stat(name); err == nil {
			return nil
		}
	}
	waiting := filepath.Join(b.folder, incoming)
	if err := os.MkdirAll(waiting, 0o755); err != nil {
		return err
	}
	f, err := os.CreateTemp(waiting, "*")
	if err != nil {
		return err
	}
	defer func() { _ = f.Close(); _ = os.Remove(f.Name()) }()
	if err := scratch.Hold(f); err != nil { // see Tidy
		return err
	}
	if _, err := io.Copy(f, reader{ctx, from}); err != nil {
		return err
	}
	if err := errors.Join(f.Chmod(0o644), f.Sync()); err != nil {
		return err
	}
	made, err := b.folders(filepath.Dir(name))
	if err != nil {
		return err
	}
	if isNew {
		err = os.Link(f.Name(), name)
		if errors.Is(err, fs.ErrExist) {
			return nil
		}
	} else {
		err = os.Rename(f.Name(), name)
	}
	if err != nil {
		return err
	}
	for _, dir := range append(made, filepath.Dir(name)) {
		if err := syncFolder(dir); err != nil {
			return err
		}
	}
	return nil
}

// reader stops reading when ctx ends.
type reader struct {
	ctx  context.Context
	from io.Reader
}

func (r reader) Read(p []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	return r.from.Read(p)
}

// folders makes a folder and those above it, and returns the ones that got a new
// folder in them.
func (b *Bucket) folders(dir string) (above []string, err error) {
	for d := dir; d != b.folder; d = filepath.Dir(d) {
		if _, err := os.Stat(d); err == nil {
			break
		}
		above = append(above, filepath.Dir(d))
	}
	return above, os.MkdirAll(dir, 0o755)
}

func syncFolder(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// DeleteAll removes all files whose keys begin with a folder's name and a slash,
// and the folder.
func (b *Bucket) DeleteAll(ctx context.Context, folder string) error {
	if b.folder != "" && filepath.IsLocal(folder) {
		return os.RemoveAll(filepath.Join(b.folder, filepath.FromSlash(folder)))
	}
	keys, err := b.Keys(ctx, folder)
	if err != nil {
		return err
	}
	for key := range keys {
		if err := b.Delete(ctx, key); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
			return err
		}
	}
	return nil
}

// Keys returns the keys that begin with a folder's name and a slash.
func (b *Bucket) Keys(ctx context.Context, folder string) (map[string]bool, error) {
	keys := map[string]bool{}
	all := b.List(&blob.ListOptions{Prefix: folder + "/"})
	for {
		o, err := all.Next(ctx)
		if errors.Is(err, io.EOF) {
			return keys, nil
		}
		if err != nil {
			return nil, err
		}
		keys[o.Key] = true
	}
}

// Folders returns the names of the folders in a folder.
func (b *Bucket) Folders(ctx context.Context, folder string) (names []string, err error) {
	all := b.List(&blob.ListOptions{Prefix: folder + "/", Delimiter: "/"})
	for {
		o, err := all.Next(ctx)
		if errors.Is(err, io.EOF) {
			return names, nil
		}
		if err != nil {
			return nil, err
		}
		if o.IsDir {
			names = append(names, path.Base(o.Key))
		}
	}
}

// Tidy removes what programs that were killed have left half-written.
func (b *Bucket) Tidy() error {
	if b.folder == "" {
		return nil // a bucket keeps nothing of what is not whole
	}
	return scratch.Abandoned(filepath.Join(b.folder, incoming), 10*time.Second, func(f *os.File) error { return os.Remove(f.Name()) })
}
