package media

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/timing"
)

// made runs the encoder to make a file of a kind, and returns its bytes.
func made(t *testing.T, name string, args ...string) []byte {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	out, err := exec.Command("ffmpeg", append(append([]string{"-loglevel", "error"}, args...), file)...).CombinedOutput()
	require.NoError(t, err, string(out))
	body, err := os.ReadFile(file)
	require.NoError(t, err)
	return body
}

func TestSoundsOfEveryKindAreDecoded(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	for _, name := range []string{"a.wav", "a.flac", "a.mp3", "a.ogg", "a.m4a"} {
		body := made(t, name, "-f", "lavfi", "-i", "sine=frequency=440:duration=1.5:sample_rate=44100")
		kept, err := KeepSound(ctx, b, up(t, body))
		require.NoError(t, err, name)
		assert.InDelta(t, 1.5, kept.Seconds, 0.06, "%s: coders add a little at the ends", name)
		flac, err := read(ctx, b, File{Kind: SoundFile, Blob: kept.Blob})
		require.NoError(t, err)
		assert.Equal(t, "fLaC", string(flac[:4]))
		peaks, err := read(ctx, b, File{Kind: PeaksFile, Blob: kept.Blob})
		require.NoError(t, err)
		assert.InDelta(t, 150, len(peaks), 8, "fifty pairs in a second")
		again, err := KeepSound(ctx, b, up(t, body))
		require.NoError(t, err)
		assert.Equal(t, kept, again, "the same sound has the same name")
	}
	kept, err := KeepSound(ctx, b, up(t, made(t, "b.wav", "-f", "lavfi", "-i", "sine=frequency=100:duration=2:sample_rate=48000")))
	require.NoError(t, err)
	assert.Equal(t, 2.0, kept.Seconds, "without a coder the length is exact")
}

func TestPeaksAreTheLowestAndHighest(t *testing.T) {
	// Two fiftieths: a ramp up to a quarter, then a dip to minus a half.
	n := SoundRate / PeakRate
	samples := make([]byte, 0, 8*n)
	add := func(v float64) {
		for range 2 {
			samples = binary.LittleEndian.AppendUint16(samples, uint16(int16(math.Round(v*32767))))
		}
	}
	for i := range n {
		add(0.25 * float64(i) / float64(n-1))
	}
	for i := range n {
		add(-0.5 * math.Sin(math.Pi*float64(i)/float64(n)))
	}
	p, err := Peaks(bytes.NewReader(samples))
	require.NoError(t, err)
	require.Len(t, p, 4)
	got := []int{int(int8(p[0])), int(int8(p[1])), int(int8(p[2])), int(int8(p[3]))}
	assert.Equal(t, []int{0, 32, -64, 0}, got)
	p, err = Peaks(bytes.NewReader(nil))
	require.NoError(t, err)
	assert.Empty(t, p)
}

func TestWhatIsNoSoundIsRefused(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	secret := filepath.Join(t.TempDir(), "secret.wav")
	require.NoError(t, os.WriteFile(secret, made(t, "s.wav", "-f", "lavfi", "-i", "sine=duration=1"), 0o600))
	for what, body := range map[string][]byte{
		"text":       []byte("this is a text"),
		"nothing":    {},
		"a playlist": []byte("#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n" + secret + "\n#EXT-X-ENDLIST\n"),
		"a list":     []byte("ffconcat version 1.0\nfile '" + secret + "'\n"),
		"a picture":  picture(t, 8, 8),
		"half a WAV": made(t, "s.wav", "-f", "lavfi", "-i", "sine=duration=1")[:40],
	} {
		_, err := KeepSound(ctx, b, up(t, body))
		assert.ErrorIs(t, err, ErrSound, what)
		_, err = KeepFootage(ctx, b, up(t, body), timing.Film24)
		assert.ErrorIs(t, err, ErrFootage, what)
	}
	assert.Zero(t, stored(t, b), "nothing is stored")
	_, err := read(ctx, b, File{Kind: SoundFile, Blob: "../../etc/passwd"})
	assert.ErrorIs(t, err, ErrNoSound)
}

func TestFootageIsReadFrameByFrame(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	// Each frame is a grey of its own: 8 more than the one before.
	body := made(t, "f.mp4", "-f", "lavfi", "-i", "nullsrc=s=64x36:r=12:d=2,geq=lum='16+8*N':cb=128:cr=128", "-c:v", "libx264", "-qp", "0", "-pix_fmt", "yuv420p")
	kept, err := KeepFootage(ctx, b, up(t, body), timing.Film24)
	require.NoError(t, err)
	assert.Equal(t, Footage{kept.Blob, 64, 36, 48, nil}, kept, "twelve frames a second become twenty-four")
	frames := NewFrames(b, timing.Film24, nil)
	defer frames.End()
	grey := func(frame int) float64 {
		im, err := frames.Frame(ctx, kept.Blob, frame)
		require.NoError(t, err)
		r, _, _, _ := im.At(20, 20).RGBA()
		return float64(r >> 8)
	}
	for _, frame := range []int{0, 1, 2, 3, 20, 40, 7, 7, 47, 0} {
		want := float64(8*(frame/2)) * 255 / 219 // each frame of the source stands for two
		assert.InDelta(t, want, grey(frame), 4.6, "frame %d: less than half a step", frame)
	}
	_, err = frames.Frame(ctx, kept.Blob, 99)
	assert.ErrorContains(t, err, "ends before")

	// Two picture planes, or both sides of a dissolve, ask at two places in turn, and a third now
	// and then: each is read on from where it is.
	turns := NewFrames(b, timing.Film24, nil)
	defer turns.End()
	frames = turns
	for k := range 20 {
		for _, frame := range []int{k, k + 10, 24 + k} {
			assert.InDelta(t, float64(8*(frame/2))*255/219, grey(frame), 4.6, "frame %d in turn", frame)
		}
	}
	assert.LessOrEqual(t, turns.begun, atOnce)
	small, err := read(ctx, b, File{Kind: FirstFrame, Blob: kept.Blob})
	require.NoError(t, err)
	assert.Equal(t, []byte{0xff, 0xd8}, small[:2])
}

func TestPagesOfAPDFBecomePictures(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	pages, err := Panels(ctx, b, up(t, pdf(2)))
	require.NoError(t, err)
	require.Len(t, pages, 2)
	assert.Equal(t, []int{1600, 800}, []int{pages[0].Width, pages[0].Height}, "the longer side is 1600")
	assert.NotEqual(t, pages[0].Blob, pages[1].Blob)
	_, err = Panels(ctx, b, up(t, []byte("%PDF-1.4\nnothing")))
	assert.ErrorIs(t, err, ErrImage)
	_, err = Panels(ctx, b, up(t, []byte("hello")))
	assert.ErrorContains(t, err, "no PDF")
}

// pdf is a document of pages of 200 x 100 points, the n-th with a black bar of
// 20 n points.
func pdf(pages int) []byte {
	out := "%PDF-1.4\n"
	var at []int
	object := func(body string) {
		at = append(at, len(out))
		out += itoa(len(at)) + " 0 obj\n" + body + "\nendobj\n"
	}
	kids := ""
	for i := range pages {
		kids += itoa(3+2*i) + " 0 R "
	}
	object("<< /Type /Catalog /Pages 2 0 R >>")
	object("<< /Type /Pages /Kids [" + kids + "] /Count " + itoa(pages) + " >>")
	for i := range pages {
		draw := "0 0 " + itoa(20*(i+1)) + " 50 re f"
		object("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 100] /Contents " + itoa(4+2*i) + " 0 R >>")
		object("<< /Length " + itoa(len(draw)) + " >>\nstream\n" + draw + "\nendstream")
	}
	start := len(out)
	out += "xref\n0 " + itoa(len(at)+1) + "\n0000000000 65535 f \n"
	for _, a := range at {
		out += pad(a) + " 00000 n \n"
	}
	return []byte(out + "trailer << /Size " + itoa(len(at)+1) + " /Root 1 0 R >>\nstartxref\n" + itoa(start) + "\n%%EOF\n")
}

func itoa(n int) string { return strconv.Itoa(n) }
func pad(n int) string  { return fmt.Sprintf("%010d", n) }
