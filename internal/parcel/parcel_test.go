package parcel

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"image"
	"image/jpeg"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gocloud.dev/blob/memblob"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/internal/blobs"
	"proscen/internal/demo"
)

var ctx = context.Background()

func memory() *blobs.Bucket { return blobs.Of(memblob.OpenBucket(nil)) }

func unpack(b []byte, into *blobs.Bucket) (*scene.Document, int, error) {
	doc, missing, err := Unpack(ctx, bytes.NewReader(b), int64(len(b)), into)
	return doc, len(missing), err
}

func TestADemonstrationComesBackByteForByte(t *testing.T) {
	here, there := memory(), memory()
	doc := demo.Scene()
	require.NoError(t, demo.Files(ctx, here, doc))
	var first, second bytes.Buffer
	missing, err := Pack(ctx, &first, here, doc)
	require.NoError(t, err)
	assert.Empty(t, missing)
	back, lost, err := unpack(first.Bytes(), there)
	require.NoError(t, err)
	assert.Zero(t, lost)
	assert.Equal(t, string(doc.Encode()), string(back.Encode()))
	_, err = Pack(ctx, &second, there, back)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(first.Bytes(), second.Bytes()), "%d and %d bytes", first.Len(), second.Len())

	// What is made of files is there too: the peaks of sounds are the same.
	for _, s := range doc.Sounds {
		for _, key := range []string{"sounds/" + s.Blob + ".flac", "sounds/" + s.Blob + ".peaks"} {
			a, err := here.ReadAll(ctx, key)
			require.NoError(t, err)
			b, err := there.ReadAll(ctx, key)
			require.NoError(t, err)
			assert.Equal(t, a, b, key)
		}
	}
}

// made writes a zip as another program would.
func made(t *testing.T, files map[string][]byte) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, body := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(body)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func withBoard(t *testing.T) (*scene.Document, string, []byte) {
	var pic bytes.Buffer
	require.NoError(t, jpeg.Encode(&pic, image.NewGray(image.Rect(0, 0, 32, 18)), nil))
	sum := sha256.Sum256(pic.Bytes())
	name := hex.EncodeToString(sum[:])
	doc := scenetest.Small()
	doc.Boards["b"] = scene.Board{Shot: "s1", Name: "panel", Blob: name, Width: 32, Height: 18}
	require.Empty(t, doc.Validate())
	return doc, name, pic.Bytes()
}

func TestAParcelMadeByHand(t *testing.T) {
	doc, name, pic := withBoard(t)
	b := memory()
	back, lost, err := unpack(made(t, map[string][]byte{
		"scene.json": doc.Encode(), "media/images/" + name + ".jpg": pic, "notes/../../etc/passwd": []byte("not looked at"), "media/": nil,
	}), b)
	require.NoError(t, err)
	assert.Zero(t, lost)
	assert.Equal(t, string(doc.Encode()), string(back.Encode()))
	list, err := b.ReadAll(ctx, "images/"+name+".jpg")
	require.NoError(t, err)
	assert.Equal(t, pic, list)

	_, lost, err = unpack(made(t, map[string][]byte{"scene.json": doc.Encode()}), memory())
	require.NoError(t, err)
	assert.Equal(t, 1, lost, "a file that is not there is named, and the scene is taken in")
	_, lost, err = unpack(made(t, map[string][]byte{"scene.json": doc.Encode()}), b)
	require.NoError(t, err)
	assert.Zero(t, lost, "it is in the store already")
}

func TestWhatIsNoParcelIsRefused(t *testing.T) {
	doc, name, pic := withBoard(t)
	good := made(t, map[string][]byte{"scene.json": doc.Encode()})
	key := "media/images/" + name + ".jpg"
	damaged := append([]byte{}, pic...)
	damaged[len(damaged)/2] ^= 1
	text := []byte("no picture at all")
	sum := sha256.Sum256(text)
	other := scenetest.Small()
	other.Boards["b"] = scene.Board{Shot: "s1", Name: "panel", Blob: hex.EncodeToString(sum[:]), Width: 32, Height: 18}
	bomb := made(t, map[string][]byte{"scene.json": bytes.Repeat([]byte(" "), scene.MaxBytes+10)})
	for says, body := range map[string][]byte{
		"no zip file":                             []byte("hello"),
		"is no packed scene: it is no zip":        good[:len(good)-30],
		"holds no scene.json":                     made(t, map[string][]byte{"other.json": doc.Encode()}),
		"this is not a scene document":            made(t, map[string][]byte{"scene.json": []byte("{")}),
		"is damaged: its bytes are not":           made(t, map[string][]byte{"scene.json": doc.Encode(), key: damaged}),
		"the file of board of shot 010 cannot be": made(t, map[string][]byte{"scene.json": other.Encode(), "media/images/" + hex.EncodeToString(sum[:]) + ".jpg": text}),
		"larger than 64 MB":                       bomb,
	} {
		b := memory()
		_, _, err := unpack(body, b)
		require.ErrorIs(t, err, ErrParcel, says)
		assert.ErrorContains(t, err, says)
		left, err := b.List(nil).Next(ctx)
		assert.Nil(t, left, "%s: nothing is stored", says)
		assert.Error(t, err)
	}
	assert.Less(t, len(bomb), 1<<20)
}

func FuzzUnpack(f *testing.F) {
	var b bytes.Buffer
	_, err := Pack(ctx, &b, memory(), scenetest.Small())
	require.NoError(f, err)
	f.Add(b.Bytes())
	f.Add([]byte("PK\x05\x06"))
	f.Fuzz(func(t *testing.T, body []byte) {
		doc, _, err := unpack(body, memory())
		if err == nil {
			assert.Empty(t, doc.Validate())
		}
	})
}
