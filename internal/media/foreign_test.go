package media

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"proscen/core/timing"
)

// Files as other programs write them, made by the encoder or by hand.

// corners is a picture whose left half is red and whose top right is blue, bottom right green.
func corners(w, h int) *image.NRGBA {
	im := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := color.NRGBA{200, 0, 0, 255}
			if x >= w/2 {
				c = color.NRGBA{0, 0, 200, 255}
				if y >= h/2 {
					c = color.NRGBA{0, 200, 0, 255}
				}
			}
			im.SetNRGBA(x, y, c)
		}
	}
	return im
}

// named tells the colours of a picture's four corners by letters.
func named(im image.Image) string {
	out := ""
	b := im.Bounds()
	for _, p := range [][2]int{{1, 1}, {3, 1}, {1, 3}, {3, 3}} {
		r, g, bl, _ := im.At(b.Min.X+p[0]*b.Dx()/4, b.Min.Y+p[1]*b.Dy()/4).RGBA()
		switch {
		case r > 0x8000 && r > 2*g && r > 2*bl:
			out += "r"
		case g > 0x8000 && g > 2*r && g > 2*bl:
			out += "g"
		case bl > 0x8000 && bl > 2*r && bl > 2*g:
			out += "b"
		case g > 0x8000 && bl > 0x8000 && r < 0x4000:
			out += "c"
		case max(r, g, bl) < 0x2800:
			out += "."
		case min(r, g, bl) > 0xd000:
			out += "w"
		default:
			out += "?"
		}
	}
	return out
}

func keptPicture(t *testing.T, data []byte) (Image, image.Image) {
	t.Helper()
	ctx, b := context.Background(), bucket(t)
	kept, err := KeepImage(ctx, b, up(t, data))
	require.NoError(t, err)
	im, err := Picture(ctx, b, kept.Blob)
	require.NoError(t, err)
	return kept, im
}

func TestPicturesOfOtherPrograms(t *testing.T) {
	var source bytes.Buffer
	require.NoError(t, png.Encode(&source, corners(64, 48)))
	in := t.TempDir() + "/in.png"
	writeFile(t, in, source.Bytes())
	for name, args := range map[string][]string{
		"sixteen.png": {"-pix_fmt", "rgb48be"}, "palette.png": {"-vf", "split[a][b];[a]palettegen[p];[b][p]paletteuse"},
		"a.webp": {"-c:v", "libwebp", "-quality", "95"}, "lossless.webp": {"-c:v", "libwebp", "-lossless", "1", "-pix_fmt", "bgra"},
		"a.tiff": {"-pix_fmt", "rgb24"}, "packed.tiff": {"-compression_algo", "lzw"}, "deep.tiff": {"-pix_fmt", "rgb48le", "-compression_algo", "deflate"},
		"a.jpg": {"-pix_fmt", "yuvj444p", "-q:v", "2"},
	} {
		kept, im := keptPicture(t, made(t, name, append([]string{"-i", in}, args...)...))
		assert.Equal(t, []int{64, 48}, []int{kept.Width, kept.Height}, name)
		assert.Equal(t, "rbrg", named(im), name)
	}
	clear := image.NewNRGBA(image.Rect(0, 0, 8, 8))
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, clear))
	_, im := keptPicture(t, b.Bytes())
	assert.Equal(t, "wwww", named(im), "what is clear lies on white paper")
	kept, im := keptPicture(t, cyan())
	assert.Equal(t, []int{8, 8}, []int{kept.Width, kept.Height})
	assert.Equal(t, "cccc", named(im), "a JPEG of four inks")
}

// cyan is a JPEG of 8 by 8 pixels in four inks, written by hand after ITU-T T.81: full cyan.
// Inks are inverted, as the marker of Adobe says (their technical note 5116).
func cyan() []byte {
	out := []byte{0xff, 0xd8}
	segment := func(marker byte, body ...byte) {
		out = append(out, 0xff, marker, byte((len(body)+2)>>8), byte(len(body)+2))
		out = append(out, body...)
	}
	segment(0xee, append([]byte("Adobe"), 0, 100, 0, 0, 0, 0, 0)...)
	table := make([]byte, 65)
	for i := 1; i < 65; i++ {
		table[i] = 8
	}
	segment(0xdb, table...)
	segment(0xc0, 8, 0, 8, 0, 8, 4, 1, 0x11, 0, 2, 0x11, 0, 3, 0x11, 0, 4, 0x11, 0)
	segment(0xc4, append([]byte{0x00, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}, 7, 8)...) // 00: seven bits follow, 01: eight
	segment(0xc4, append([]byte{0x10, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}, 0)...)    // 0: the end of the block
	segment(0xda, 4, 1, 0, 2, 0, 3, 0, 4, 0, 0, 63, 0)
	// Cyan is −128: 01, then −128 + 255 in eight bits; the others are 127: 00, then seven ones.
	bits := "01" + "01111111" + "0"
	for range 3 {
		bits += "00" + "1111111" + "0"
	}
	for len(bits)%8 != 0 {
		bits += "1"
	}
	for i := 0; i < len(bits); i += 8 {
		var v byte
		for _, bit := range bits[i : i+8] {
			v = v<<1 | byte(bit-'0')
		}
		if out = append(out, v); v == 0xff {
			out = append(out, 0)
		}
	}
	return append(out, 0xff, 0xd9)
}

// TestPhotosStandUpright: Exif tells where the first row and column are to be seen.
func TestPhotosStandUpright(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, corners(64, 32), &jpeg.Options{Quality: 95}))
	plain := b.Bytes()
	exif := func(order binary.AppendByteOrder, mark string, how uint16) []byte {
		body := append([]byte("Exif\x00\x00"), mark...)
		body = order.AppendUint16(body, 42)
		body = order.AppendUint32(body, 8)
		body = order.AppendUint16(body, 2)
		for _, e := range [][4]uint16{{0x0110, 2, 1, 0x4100}, {0x0112, 3, 1, how}} {
			body = order.AppendUint16(order.AppendUint16(body, e[0]), e[1])
			body = order.AppendUint16(order.AppendUint16(order.AppendUint32(body, uint32(e[2])), e[3]), 0)
		}
		out := append([]byte{0xff, 0xd8, 0xff, 0xe1, 0, byte(len(body) + 2)}, body...)
		return append(out, plain[2:]...)
	}
	for how, want := range map[uint16]string{
		1: "rbrg", 2: "brgr", 3: "grbr", 4: "rgrb", 5: "rrbg", 6: "rrgb", 7: "gbrr", 8: "bgrr", 9: "rbrg",
	} {
		for mark, order := range map[string]binary.AppendByteOrder{"II": binary.LittleEndian, "MM": binary.BigEndian} {
			kept, im := keptPicture(t, exif(order, mark, how))
			size := []int{64, 32}
			if how >= 5 && how <= 8 {
				size = []int{32, 64}
			}
			assert.Equal(t, size, []int{kept.Width, kept.Height}, "%d %s", how, mark)
			assert.Equal(t, want, named(im), "%d %s", how, mark)
		}
	}
	whole := exif(binary.LittleEndian, "II", 6)
	for n := range 60 { // cut off or damaged, it is read as it lies
		assert.Contains(t, []int{1, 6}, orientation(whole[:n]))
		assert.NotPanics(t, func() { orientation(append(bytes.Repeat([]byte{0xff}, n), whole[n:]...)) })
	}
}

func TestSoundsOfOtherPrograms(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	tone := func(rate int, layout string) []string {
		return []string{"-f", "lavfi", "-i", fmt.Sprintf("sine=frequency=440:duration=1:sample_rate=%d,volume=4,aformat=channel_layouts=%s", rate, layout)}
	}
	for _, c := range []struct {
		name string
		args []string
		said string
	}{
		{"a.wav", append(tone(48000, "mono"), "-c:a", "pcm_s24le"), ""},
		{"b.wav", append(tone(96000, "stereo"), "-c:a", "pcm_f32le"), ""},
		{"c.wav", append(tone(11025, "mono"), "-c:a", "pcm_u8"), ""},
		{"d.wav", []string{"-f", "lavfi", "-i", "sine=frequency=440:duration=1:sample_rate=48000,volume=4,pan=5.1|FL=c0|FR=c0|FC=c0|LFE=c0|BL=c0|BR=c0", "-c:a", "pcm_s24le"}, "It has 6 channels, which are mixed down to two."},
		{"g.ogg", append(tone(48000, "stereo"), "-c:a", "libopus"), ""},
	} {
		kept, err := KeepSound(ctx, b, up(t, made(t, c.name, c.args...)))
		require.NoError(t, err, c.name)
		assert.InDelta(t, 1, kept.Seconds, 0.08, c.name)
		if c.said == "" {
			assert.Empty(t, kept.Notes, c.name)
		} else {
			assert.Equal(t, []string{c.said}, kept.Notes, c.name)
		}
		flac, err := read(ctx, b, File{Kind: SoundFile, Blob: kept.Blob})
		require.NoError(t, err)
		in := t.TempDir() + "/kept.flac"
		writeFile(t, in, flac)
		pcm := made(t, "out.s16", "-i", in, "-f", "s16le")
		var sum [2]float64
		n := len(pcm) / 4
		for i := range n {
			for side := range 2 {
				v := float64(int16(binary.LittleEndian.Uint16(pcm[4*i+2*side:]))) / 32768
				sum[side] += v * v / float64(n)
			}
		}
		// The encoder's sine is an eighth high, here a half: 1/√8 of it on average. Mono and 5.1
		// must be as loud on both sides as each other.
		left, right := math.Sqrt(sum[0]), math.Sqrt(sum[1])
		assert.InDelta(t, left, right, 0.01, c.name)
		assert.Greater(t, left, 0.2, c.name)
		if c.name != "d.wav" {
			assert.InDelta(t, 0.5/math.Sqrt2, left, 0.12, "%s is as loud as it was", c.name)
		}
	}
	silent := made(t, "v.mp4", "-f", "lavfi", "-i", "testsrc=s=64x36:d=1")
	_, err := KeepSound(ctx, b, up(t, silent))
	assert.ErrorContains(t, err, "with sound in it")
}

func TestFootageOfOtherPrograms(t *testing.T) {
	ctx, b := context.Background(), bucket(t)
	in := t.TempDir() + "/in.png"
	var source bytes.Buffer
	require.NoError(t, png.Encode(&source, corners(64, 32)))
	writeFile(t, in, source.Bytes())
	picture := func(filter string, args ...string) []string {
		return append([]string{"-loop", "1", "-r", "24", "-t", "1", "-i", in, "-vf", filter}, args...)
	}
	for _, c := range []struct {
		name, file string
		args       []string
		rate       timing.Rate
		want       Footage
		corners    string
	}{
		{"twelve and a half", "b.mov", picture("fps=25/2,format=yuv420p"), timing.Video25, Footage{Width: 64, Height: 32, Frames: 25}, "rbrg"},
		{"23.976 for 29.97", "c.mkv", picture("fps=24000/1001,format=yuv420p"), timing.Video299, Footage{Width: 64, Height: 32, Frames: 30}, "rbrg"},
		{"rotated, fifty a second", "rotated.mp4", picture("fps=50,format=yuv420p"), timing.Film24, Footage{Width: 32, Height: 64, Frames: 24}, "rrgb"},
		{"wide pixels", "e.mkv", picture("setsar=2,format=yuv420p"), timing.Film24, Footage{Width: 128, Height: 32, Frames: 24}, "rbrg"},
		{"odd sides, ten bits", "f.mkv", picture("scale=63:31,format=yuv444p10le", "-c:v", "ffv1"), timing.Film24, Footage{Width: 62, Height: 30, Frames: 24}, "rbrg"},
		{"full range", "h.mkv", picture("format=yuvj420p", "-c:v", "mjpeg", "-q:v", "2"), timing.Film24, Footage{Width: 64, Height: 32, Frames: 24}, "rbrg"},
		{"clear on the left", "i.mov", picture("format=rgba,geq=r='r(X,Y)':g='g(X,Y)':b='b(X,Y)':a='if(lt(X,32),0,255)'", "-c:v", "qtrle", "-pix_fmt", "argb"), timing.Film24,
			Footage{Width: 64, Height: 32, Frames: 24, Notes: []string{"What is clear in it is black."}}, ".b.g"},
		{"a high range", "j.mkv", picture("format=yuv420p10le", "-c:v", "ffv1", "-color_trc", "smpte2084"), timing.Film24,
			Footage{Width: 64, Height: 32, Frames: 24, Notes: []string{"It has a high dynamic range; its colours look pale. Export it with standard colours (Rec. 709)."}}, ""},
	} {
		body := made(t, c.file, c.args...)
		if c.file == "rotated.mp4" { // a quarter clockwise, as telephones write it (ISO/IEC 14496-12, 8.3.2: the track's matrix)
			at := bytes.Index(body, []byte("tkhd")) + 44
			for i, v := range []uint32{0, 1 << 16, 0, 0xffff0000, 0, 0, 32 << 16, 0} {
				binary.BigEndian.PutUint32(body[at+4*i:], v)
			}
		}
		kept, err := KeepFootage(ctx, b, up(t, body), c.rate)
		require.NoError(t, err, c.name)
		c.want.Blob = kept.Blob
		assert.InDelta(t, c.want.Frames, kept.Frames, 1, "%s: a frame more or less than a second", c.name)
		c.want.Frames = kept.Frames
		assert.Equal(t, c.want, kept, c.name)
		frames := NewFrames(b, c.rate, nil)
		im, err := frames.Frame(ctx, kept.Blob, 10)
		require.NoError(t, err, c.name)
		if c.corners != "" {
			assert.Equal(t, c.corners, named(im), c.name)
		}
		frames.End()
	}
	t.Run("at a rate that varies", func(t *testing.T) {
		// Twelve frames in half a second, then six in a second: each a grey of its own.
		body := made(t, "v.mkv", "-f", "lavfi", "-i", "nullsrc=s=64x36:r=24,geq=lum='16+8*N':cb=128:cr=128", "-frames:v", "18",
			"-vf", "settb=1/1000,setpts='if(lt(N,12),N*1000/24,500+(N-12)*1000/6)'", "-vsync", "vfr", "-c:v", "libx264", "-qp", "0", "-pix_fmt", "yuv420p")
		kept, err := KeepFootage(ctx, b, up(t, body), timing.Film24)
		require.NoError(t, err)
		frames := NewFrames(b, timing.Film24, nil)
		defer frames.End()
		for frame, n := range map[int]int{3: 3, 11: 11, 13: 12, 17: 13, 25: 15, 29: 16} {
			im, err := frames.Frame(ctx, kept.Blob, frame)
			require.NoError(t, err)
			r, _, _, _ := im.At(20, 20).RGBA()
			assert.InDelta(t, float64(8*n)*255/219, float64(r>>8), 4.6, "frame %d shows picture %d", frame, n)
		}
	})
	_, err := KeepFootage(ctx, b, up(t, made(t, "a.wav", "-f", "lavfi", "-i", "sine=duration=1")), timing.Film24)
	assert.ErrorContains(t, err, "with pictures in it")
}

func writeFile(t *testing.T, file string, data []byte) {
	t.Helper()
	require.NoError(t, os.WriteFile(file, data, 0o600))
}
