package exr

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"io"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/x448/float16"
)

func ramp(by float32) func(int, []float32) {
	return func(y int, to []float32) {
		for x := range to {
			to[x] = by*float32(x) + float32(y)
		}
	}
}

// TestLayoutByTheStandard takes a file apart by the published layout, by hand.
func TestLayoutByTheStandard(t *testing.T) {
	const w, h = 5, 19 // two chunks, the second of three rows
	var b bytes.Buffer
	require.NoError(t, Write(&b, w, h, []Channel{{"Z", ramp(0.25)}, {"A", ramp(-1)}}))
	le := binary.LittleEndian
	d := b.Bytes()
	require.Equal(t, []byte{0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0}, d[:8])
	found := map[string][]byte{}
	at := 8
	for d[at] != 0 {
		name, rest, _ := bytes.Cut(d[at:], []byte{0})
		kind, rest, _ := bytes.Cut(rest, []byte{0})
		size := int(le.Uint32(rest))
		found[string(name)+" "+string(kind)] = rest[4 : 4+size]
		at += len(name) + len(kind) + 2 + 4 + size
	}
	at++
	assert.Equal(t, "A\x00\x01\x00\x00\x00\x00\x00\x00\x00\x01\x00\x00\x00\x01\x00\x00\x00Z\x00\x01\x00\x00\x00\x00\x00\x00\x00\x01\x00\x00\x00\x01\x00\x00\x00\x00", string(found["channels chlist"]))
	assert.Equal(t, []byte{3}, found["compression compression"])
	assert.Equal(t, []byte{0, 0, 0, 0, 0, 0, 0, 0, 4, 0, 0, 0, 18, 0, 0, 0}, found["dataWindow box2i"])
	assert.Equal(t, found["dataWindow box2i"], found["displayWindow box2i"])
	require.Len(t, found, 8)
	for chunk := range 2 {
		from := int(le.Uint64(d[at+8*chunk:]))
		y, size := int(le.Uint32(d[from:])), int(le.Uint32(d[from+4:]))
		assert.Equal(t, 16*chunk, y)
		rows := min(16, h-y)
		raw := d[from+8 : from+8+size]
		if size < 2*2*w*rows {
			z, err := zlib.NewReader(bytes.NewReader(raw))
			require.NoError(t, err)
			raw, err = io.ReadAll(z)
			require.NoError(t, err)
			for i := 1; i < len(raw); i++ {
				raw[i] += raw[i-1] - 128
			}
			n := len(raw) / 2
			mixed := make([]byte, 0, 2*n)
			for i := range n {
				mixed = append(mixed, raw[i], raw[n+i])
			}
			raw = mixed
		}
		require.Len(t, raw, 2*2*w*rows)
		for k := range rows {
			for c, by := range []float32{-1, 0.25} {
				for x := range w {
					got := float16.Frombits(le.Uint16(raw[2*((k*2+c)*w+x):])).Float32()
					require.Equal(t, by*float32(x)+float32(y+k), got)
				}
			}
		}
		if chunk == 1 {
			assert.Len(t, d, from+8+size)
		}
	}
}

func TestValuesBeyondHalfAreTheGreatest(t *testing.T) {
	assert.Equal(t, uint16(0x7bff), uint16(half(1e9)))
	assert.Equal(t, uint16(0xfbff), uint16(half(float32(math.Inf(-1)))))
	assert.Equal(t, uint16(0x3c00), uint16(half(1)))
}

func TestWhatCannotBeWrittenIsRefused(t *testing.T) {
	one := []Channel{{"Y", ramp(1)}}
	for want, err := range map[string]error{
		"0×4 pixels": Write(io.Discard, 0, 4, one),
		"0 channels": Write(io.Discard, 4, 4, nil),
		"each once":  Write(io.Discard, 4, 4, append(one, one...)),
		"not ASCII":  Write(io.Discard, 4, 4, []Channel{{"größe", ramp(1)}}),
		"up to 255":  Write(io.Discard, 4, 4, []Channel{{strings.Repeat("n", 300), ramp(1)}}),
	} {
		require.ErrorIs(t, err, ErrPicture)
		assert.ErrorContains(t, err, want)
	}
	var b bytes.Buffer
	require.NoError(t, Write(&b, 2, 2, []Channel{{strings.Repeat("n", 40), ramp(1)}}))
	assert.Equal(t, byte(4), b.Bytes()[5], "long names are told")
}
