// Package exr writes pictures in the OpenEXR file layout (version 2, scan lines, ZIP
// compression), with any number of channels of half-float values.
package exr

import (
	"bytes"
	"cmp"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"

	"github.com/x448/float16"
)

// Channel is one value for each pixel, by rows from the top. Row fills a row of them.
type Channel struct {
	Name string // in ASCII; dots make groups
	Row  func(y int, to []float32)
}

// ErrPicture says that a picture cannot be written; the message says why.
var ErrPicture = errors.New("the picture cannot be written as EXR")

// Bounds of pictures.
const (
	maxSide     = 1 << 14
	maxChannels = 4096
	maxName     = 255 // bytes, as the format has it
)

const (
	magic        = 20000630
	version      = 2
	longNames    = 1 << 10 // a flag: names may be longer than 31 bytes
	shortName    = 31
	typeHalf     = 1
	zip          = 3  // compression of zipRows rows together
	zipRows      = 16 //
	increasing   = 0  // order of rows
	chunkHeader  = 8
	bytesOfHalf  = 2
	offsetOfEach = 8
)

// Write writes a picture. Values beyond the greatest half-float, 65504, are that.
func Write(to io.Writer, width, height int, channels []Channel) error {
	if width < 1 || height < 1 || width > maxSide || height > maxSide {
		return fmt.Errorf("%w: it has %d×%d pixels; sides are from 1 to %d", ErrPicture, width, height, maxSide)
	}
	if len(channels) == 0 || len(channels) > maxChannels {
		return fmt.Errorf("%w: it has %d channels; there are from 1 to %d", ErrPicture, len(channels), maxChannels)
	}
	channels = slices.Clone(channels)
	slices.SortFunc(channels, func(a, b Channel) int { return cmp.Compare(a.Name, b.Name) }) // as the format wants it
	for i, c := range channels {
		if c.Name == "" || len(c.Name) > maxName || i > 0 && channels[i-1].Name == c.Name {
			return fmt.Errorf("%w: channels need names of up to %d bytes, each once, not %q", ErrPicture, maxName, c.Name)
		}
		for _, b := range []byte(c.Name) {
			if b < ' ' || b > '~' {
				return fmt.Errorf("%w: the channel %q has letters that are not ASCII", ErrPicture, c.Name)
			}
		}
	}
	head := header(width, height, channels)
	chunks := make([][]byte, 0, (height+zipRows-1)/zipRows)
	p := packer{row: make([]float32, width)}
	for y := 0; y < height; y += zipRows {
		chunk, err := p.pack(y, min(zipRows, height-y), channels)
		if err != nil {
			return err
		}
		chunks = append(chunks, chunk)
	}
	at := uint64(len(head) + offsetOfEach*len(chunks))
	for i, c := range chunks {
		head = binary.LittleEndian.AppendUint64(head, at)
		at += uint64(chunkHeader + len(c))
		chunks[i] = c
	}
	if _, err := to.Write(head); err != nil {
		return err
	}
	for i, c := range chunks {
		lead := binary.LittleEndian.AppendUint32(nil, uint32(i*zipRows))
		lead = binary.LittleEndian.AppendUint32(lead, uint32(len(c)))
		if _, err := to.Write(append(lead, c...)); err != nil {
			return err
		}
	}
	return nil
}

// header writes everything before the offsets of the chunks.
func header(width, height int, channels []Channel) []byte {
	le := binary.LittleEndian
	flags := uint32(version)
	var list []byte
	for _, c := range channels {
		if len(c.Name) > shortName {
			flags |= longNames
		}
		list = append(append(list, c.Name...), 0)
		list = le.AppendUint32(list, typeHalf)
		list = le.AppendUint32(list, 0) // not logarithmic; three bytes are reserved
		list = le.AppendUint32(list, 1) // sampled at each pixel
		list = le.AppendUint32(list, 1)
	}
	list = append(list, 0)
	out := le.AppendUint32(le.AppendUint32(nil, magic), flags)
	attribute := func(name, kind string, value []byte) {
		out = append(append(append(append(out, name...), 0), kind...), 0)
		out = append(le.AppendUint32(out, uint32(len(value))), value...)
	}
	float := func(v float32) []byte { return le.AppendUint32(nil, math.Float32bits(v)) }
	window := make([]byte, 8, 16)
	window = le.AppendUint32(le.AppendUint32(window, uint32(width-1)), uint32(height-1))
	attribute("channels", "chlist", list)
	attribute("compression", "compression", []byte{zip})
	attribute("dataWindow", "box2i", window)
	attribute("displayWindow", "box2i", window)
	attribute("lineOrder", "lineOrder", []byte{increasing})
	attribute("pixelAspectRatio", "float", float(1))
	attribute("screenWindowCenter", "v2f", make([]byte, 8))
	attribute("screenWindowWidth", "float", float(1))
	return append(out, 0)
}

// packer packs rows.
type packer struct {
	row       []float32
	raw, even []byte
}

// pack compresses some rows: row by row, channel by channel; first the low bytes of all
// values, then the high ones; each as its difference from the one before.
func (p *packer) pack(y, rows int, channels []Channel) ([]byte, error) {
	p.raw = p.raw[:0]
	for k := range rows {
		for _, c := range channels {
			c.Row(y+k, p.row)
			for _, v := range p.row {
				p.raw = binary.LittleEndian.AppendUint16(p.raw, uint16(half(v)))
			}
		}
	}
	n := len(p.raw)
	p.even = slices.Grow(p.even[:0], n)[:n]
	for i := range n / bytesOfHalf {
		p.even[i], p.even[n/bytesOfHalf+i] = p.raw[2*i], p.raw[2*i+1]
	}
	for i := n - 1; i > 0; i-- {
		p.even[i] -= p.even[i-1] + 128
	}
	var b bytes.Buffer
	z := zlib.NewWriter(&b)
	if _, err := z.Write(p.even); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	if b.Len() >= n { // then the rows are stored as they are
		return slices.Clone(p.raw), nil
	}
	return b.Bytes(), nil
}

// half rounds to the nearest half-float; what is too great is the greatest.
func half(v float32) float16.Float16 {
	const greatest = 65504
	return float16.Fromfloat32(max(-greatest, min(greatest, v)))
}
