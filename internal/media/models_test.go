package media

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gocloud.dev/blob/memblob"

	"proscen/core/interchange"
	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/internal/blobs"
)

const tower = "v 0 0 0\nv 2 0 0\nv 2 5 0\nv 0 5 0\nf 1 2 3 4\n"

func bucket(t *testing.T) *blobs.Bucket {
	t.Helper()
	b := blobs.Of(memblob.OpenBucket(nil))
	t.Cleanup(func() { _ = b.Close() })
	return b
}

// up is an upload of some bytes.
func up(t testing.TB, data []byte) *Upload {
	t.Helper()
	u, err := Receive(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	t.Cleanup(u.End)
	return u
}

func stored(t *testing.T, b *blobs.Bucket) int {
	t.Helper()
	n := 0
	list := b.List(nil)
	for {
		if _, err := list.Next(context.Background()); err != nil {
			return n
		}
		n++
	}
}

func TestConvertedModelsAreKeptOnce(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	m, err := Convert(ctx, b, up(t, []byte(tower)), interchange.Options{Unit: 1})
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{2, 5, 0}, m.Size[:], 1e-6)
	assert.Equal(t, 2, m.Triangles)
	again, err := Convert(ctx, b, up(t, []byte("# the same\n"+tower)), interchange.Options{Unit: 1})
	require.NoError(t, err)
	assert.Equal(t, m.Blob, again.Blob, "equal models have equal bundles")
	assert.Equal(t, 1, stored(t, b))
	small, err := Convert(ctx, b, up(t, []byte(tower)), interchange.Options{Unit: 0.01})
	require.NoError(t, err)
	assert.NotEqual(t, m.Blob, small.Blob)
	assert.Equal(t, 2, stored(t, b))

	body, err := read(ctx, b, File{Kind: Model, Blob: m.Blob})
	require.NoError(t, err)
	bundle, err := kit.DecodeBundle(body)
	require.NoError(t, err)
	assert.InDelta(t, 5, bundle.Size().Max.Y, 1e-6)

	doc := scene.New()
	m.Name = "Tower"
	doc.Models["tower"], doc.Models["copy"] = m.Model, m.Model
	found, err := Models(ctx, b, doc)
	require.NoError(t, err)
	assert.Len(t, found, 1)
}

func TestWhatIsRefusedIsNotKept(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	_, err := Convert(ctx, b, up(t, []byte("v 0 0 0\nf 1 2 3\n")), interchange.Options{Unit: 1})
	assert.ErrorIs(t, err, interchange.ErrModel)
	_, err = Convert(ctx, b, up(t, bytes.Repeat([]byte("v 0 0 0\n"), interchange.MaxFileBytes/8+1)), interchange.Options{Unit: 1})
	assert.ErrorContains(t, err, "more than 64 MB")
	ended, cancel := context.WithCancel(ctx)
	cancel()
	_, err = Convert(ended, b, up(t, []byte(strings.Repeat("v 0 0 0\n", 9000)+tower)), interchange.Options{Unit: 1})
	assert.Error(t, err)
	assert.Zero(t, stored(t, b))
}

func TestNamesReachNothingElse(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	require.NoError(t, b.WriteAll(ctx, "secret.bundle", []byte("x"), nil))
	for _, name := range []string{"", "../secret", "secret", strings.Repeat("a", 63), strings.Repeat("A", 64), strings.Repeat("a", 64)} {
		_, err := read(ctx, b, File{Kind: Model, Blob: name})
		assert.ErrorIs(t, err, ErrNoModel, "%q", name)
	}
	doc := scene.New()
	doc.Models["gone"] = scene.Model{Name: "Gone", Blob: strings.Repeat("b", 64)}
	_, err := Models(ctx, b, doc)
	assert.ErrorIs(t, err, ErrNoModel)
	assert.ErrorContains(t, err, "Gone")
	key := fmt.Sprintf("models/%s.bundle", strings.Repeat("b", 64))
	require.NoError(t, b.WriteAll(ctx, key, []byte("no bundle"), nil))
	_, err = Models(ctx, b, doc)
	assert.ErrorIs(t, err, kit.ErrBundle)
}
