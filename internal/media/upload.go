package media

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"os"
	"path/filepath"

	"proscen/internal/blobs"
	"proscen/internal/scratch"
)

// Upload is a file that comes from outside. It lies in a folder of its own, where
// what is made of it can be put beside it.
type Upload struct {
	Size int64
	dir  string
}

// Receive writes what comes from outside to a file, at most so many bytes and one:
// what takes it in says what is too much of it. The caller ends it.
func Receive(from io.Reader, most int64) (u *Upload, err error) {
	dir, err := scratch.Folder("upload")
	if err != nil {
		return nil, err
	}
	u = &Upload{dir: dir}
	defer func() {
		if err != nil {
			u.End()
		}
	}()
	f, err := os.OpenFile(u.file(), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, scratch.Full(err)
	}
	u.Size, err = io.Copy(f, io.LimitReader(from, most+1))
	if closed := f.Close(); err == nil {
		err = closed
	}
	return u, scratch.Full(err)
}

// End removes the file and what was made of it.
func (u *Upload) End() { _ = os.RemoveAll(u.dir) }

func (u *Upload) file() string              { return filepath.Join(u.dir, "upload") }
func (u *Upload) beside(name string) string { return filepath.Join(u.dir, name) }

// Bytes reads the file into memory.
func (u *Upload) Bytes() ([]byte, error) { return os.ReadFile(u.file()) }

// hashFile returns the SHA-256 of a file in hex.
func hashFile(file string) (string, error) {
	f, err := os.Open(file)
	if err != nil {
		return "", err
	}
	defer func() { _ = f.Close() }()
	sum := sha256.New()
	if _, err := io.Copy(sum, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}

// product is a file that was made of an upload, and the key it gets.
type product struct{ key, kind, file string }

// store stores what was made of an upload, the file that is asked for by its name last.
func store(ctx context.Context, bucket *blobs.Bucket, all ...product) error {
	for _, m := range all {
		if err := bucket.PutFile(ctx, m.key, m.kind, m.file); err != nil {
			return err
		}
	}
	return nil
}
