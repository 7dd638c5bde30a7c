package blobs

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gocloud.dev/gcerrors"
)

var ctx = context.Background()

// buckets are stores of each sort: a folder, and a bucket on a stand-in for S3.
func buckets(t *testing.T) map[string]*Bucket {
	t.Helper()
	folder, err := Open(ctx, filepath.Join(t.TempDir(), "new", "folder"))
	require.NoError(t, err)
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("shots"))
	server := httptest.NewServer(gofakes3.New(backend).Server())
	t.Cleanup(server.Close)
	t.Setenv("AWS_ACCESS_KEY_ID", "nobody")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "nothing")
	s3, err := Open(ctx, "s3://shots?region=us-east-1&use_path_style=true&disable_https=true&endpoint="+server.URL)
	require.NoError(t, err)
	all := map[string]*Bucket{"folder": folder, "s3": s3}
	for _, b := range all {
		t.Cleanup(func() { _ = b.Close() })
	}
	return all
}

func content(t *testing.T, b *Bucket, key string) string {
	t.Helper()
	body, err := b.ReadAll(ctx, key)
	require.NoError(t, err)
	return string(body)
}

// broken gives some bytes and then an error.
type broken struct {
	io.Reader
	err error
}

func (b broken) Read(p []byte) (int, error) {
	n, err := b.Reader.Read(p)
	if errors.Is(err, io.EOF) {
		err = b.err
	}
	return n, err
}

func TestWhatIsPutIsWholeOrNotThere(t *testing.T) {
	for name, b := range buckets(t) {
		t.Run(name, func(t *testing.T) {
			require.NoError(t, b.PutBytes(ctx, "a/b/one.txt", "text/plain", []byte("first")))
			require.NoError(t, b.PutBytes(ctx, "a/b/one.txt", "text/plain", []byte("second")))
			assert.Equal(t, "first", content(t, b, "a/b/one.txt"), "what is there stays")
			require.NoError(t, b.Put(ctx, "a/b/one.txt", "text/plain", strings.NewReader("third")))
			assert.Equal(t, "third", content(t, b, "a/b/one.txt"), "unless it is to be replaced")

			half := broken{bytes.NewReader(make([]byte, 3<<20)), errors.New("the line broke")}
			assert.ErrorContains(t, b.PutNew(ctx, "a/two.txt", "text/plain", half), "the line broke")
			assert.Error(t, b.Put(ctx, "a/b/one.txt", "text/plain", half))
			assert.Equal(t, "third", content(t, b, "a/b/one.txt"))
			there, err := b.Exists(ctx, "a/two.txt")
			require.NoError(t, err)
			assert.False(t, there)
			ended, cancel := context.WithCancel(ctx)
			cancel()
			assert.Error(t, b.PutBytes(ended, "a/two.txt", "text/plain", []byte("x")))

			require.NoError(t, b.PutBytes(ctx, "a/c.txt", "text/plain", []byte("c")))
			require.NoError(t, b.PutBytes(ctx, "ab/d.txt", "text/plain", []byte("d")))
			keys, err := b.Keys(ctx, "a")
			require.NoError(t, err)
			assert.Equal(t, map[string]bool{"a/b/one.txt": true, "a/c.txt": true}, keys)
			folders, err := b.Folders(ctx, "a")
			require.NoError(t, err)
			assert.Equal(t, []string{"b"}, folders)
			folders, err = b.Folders(ctx, "none")
			require.NoError(t, err)
			assert.Empty(t, folders)
			require.NoError(t, b.DeleteAll(ctx, "a"))
			require.NoError(t, b.DeleteAll(ctx, "a"), "what is not there is gone already")
			keys, err = b.Keys(ctx, "a")
			require.NoError(t, err)
			assert.Empty(t, keys)
			assert.Equal(t, "d", content(t, b, "ab/d.txt"))
			_, err = b.ReadAll(ctx, "a/c.txt")
			assert.Equal(t, gcerrors.NotFound, gcerrors.Code(err))
			require.NoError(t, b.Tidy())
		})
	}
}

func TestKeysStayInTheFolder(t *testing.T) {
	dir := t.TempDir()
	b, err := Open(ctx, filepath.Join(dir, "in"))
	require.NoError(t, err)
	for _, key := range []string{"../out.txt", "/etc/out.txt", "a/../../out.txt"} {
		assert.Error(t, b.PutBytes(ctx, key, "text/plain", []byte("x")), key)
	}
	assert.NoFileExists(t, filepath.Join(dir, "out.txt"))
	_, err = Open(ctx, "gs3://nothing")
	assert.ErrorContains(t, err, "cannot be opened")
	_, err = Open(ctx, "/proc/no/such")
	assert.ErrorContains(t, err, "cannot be made")
}

// TestWriterProcess is not a test of its own: it is a program that is killed while it
// writes, by the next test.
func TestWriterProcess(t *testing.T) {
	folder := os.Getenv("PROSCEN_TEST_FOLDER")
	if folder == "" {
		t.Skip("only as a helper process")
	}
	b, err := Open(ctx, folder)
	require.NoError(t, err)
	never, _ := io.Pipe()
	_ = b.PutNew(ctx, "a/file.bin", "", io.MultiReader(bytes.NewReader(make([]byte, 1<<20)), never))
}

func TestWhatAKilledProgramWasWritingIsRemovedAndNothingElse(t *testing.T) {
	folder := t.TempDir()
	b, err := Open(ctx, folder)
	require.NoError(t, err)
	victim := exec.Command(os.Args[0], "-test.run=^TestWriterProcess$")
	victim.Env = append(os.Environ(), "PROSCEN_TEST_FOLDER="+folder)
	require.NoError(t, victim.Start())
	waiting := func() []os.DirEntry {
		list, _ := os.ReadDir(filepath.Join(folder, incoming))
		return list
	}
	require.Eventually(t, func() bool {
		if l := waiting(); len(l) == 1 {
			i, err := l[0].Info()
			return err == nil && i.Size() == 1<<20
		}
		return false
	}, 10*time.Second, 5*time.Millisecond)
	long := time.Now().Add(-time.Hour)
	require.NoError(t, os.Chtimes(filepath.Join(folder, incoming, waiting()[0].Name()), long, long))
	require.NoError(t, b.Tidy())
	assert.Len(t, waiting(), 1, "who lives goes on")
	require.NoError(t, victim.Process.Signal(syscall.SIGKILL))
	_ = victim.Wait()
	require.NoError(t, b.Tidy())
	assert.Empty(t, waiting())
	assert.NoFileExists(t, filepath.Join(folder, "a/file.bin"))
}

// small mounts a disk of a megabyte, where that may be done.
func small(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=1m"); err != nil {
		t.Skip("no disk may be mounted here: ", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	return dir
}

func TestAFullDiskIsSaidAndLosesNothing(t *testing.T) {
	dir := small(t)
	b, err := Open(ctx, dir)
	require.NoError(t, err)
	require.NoError(t, b.PutBytes(ctx, "a.bin", "", make([]byte, 200<<10)))
	assert.ErrorIs(t, b.PutBytes(ctx, "b.bin", "", make([]byte, 2<<20)), ErrFull)
	assert.ErrorIs(t, b.Put(ctx, "a.bin", "", bytes.NewReader(make([]byte, 2<<20))), ErrFull)
	assert.Len(t, content(t, b, "a.bin"), 200<<10)
	require.NoError(t, b.PutBytes(ctx, "b.bin", "", make([]byte, 200<<10)), "what did not fit takes no room")
}
