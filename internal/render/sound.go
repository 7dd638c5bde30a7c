package render

import (
	"bufio"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"proscen/core/program"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
	"proscen/internal/scratch"
)

// sound mixes what is heard of an output into a WAV file, "" when the recipe wants
// none or the scene has none. Where nothing is heard it is silent.
func (m *making) sound(ctx context.Context) (string, error) {
	if !m.film.Recipe.Sound || len(m.film.Document().Sounds) == 0 {
		return "", nil
	}
	files := map[string]*os.File{}
	defer func() {
		for _, f := range files {
			_ = f.Close()
		}
	}()
	for i, blob := range m.film.Blobs() {
		flac := filepath.Join(m.dir, fmt.Sprintf("sound%d.flac", i))
		if err := m.download(ctx, media.File{Kind: media.SoundFile, Blob: blob}.Path(), flac); err != nil {
			return "", err
		}
		raw := filepath.Join(m.dir, fmt.Sprintf("sound%d.pcm", i))
		err := ffmpeg.Run(ctx, "-i", flac, "-f", "s16le", "-ar", fmt.Sprint(media.SoundRate), "-ac", "2", raw)
		if err != nil {
			return "", err
		}
		f, err := os.Open(raw)
		if err != nil {
			return "", err
		}
		files[blob] = f
	}
	heard := m.film.Clips()
	voices := make([]voice, len(heard))
	for i, h := range heard {
		voices[i] = voice{h, files[m.film.Document().Sounds[h.Sound].Blob]}
	}
	name := filepath.Join(m.dir, "mixed.wav")
	out, err := os.Create(name)
	if err != nil {
		return "", scratch.Full(err)
	}
	err = Mix(ctx, out, voices, m.film.Frames(), m.form.Rate)
	return name, scratch.Full(errors.Join(err, out.Close()))
}

// voice is a piece that is heard, and the samples of its sound: stereo, 16 bits, at
// media.SoundRate.
type voice struct {
	program.Heard
	samples io.ReaderAt
}

// block is how many samples are mixed at once.
const block = 1 << 16

// Mix writes a WAV file (stereo, 16 bits) of what is heard over so many frames at a
// rate. Samples between those of a sound that runs at another speed lie on the line
// between their neighbours. What is too loud is cut off at full scale.
func Mix(ctx context.Context, to io.Writer, voices []voice, frames int, rate timing.Rate) error {
	total := int(rate.Seconds(float64(frames))*media.SoundRate + 0.5)
	w := bufio.NewWriterSize(to, 1<<20)
	if _, err := w.Write(wavHead(total)); err != nil {
		return err
	}
	perFrame := media.SoundRate * rate.Seconds(1)
	sum := make([]float32, 2*block)
	var bytes []byte
	for at := 0; at < total; at += block {
		if err := ctx.Err(); err != nil {
			return err
		}
		n := min(block, total-at)
		clear(sum)
		for _, v := range voices {
			if err := v.add(sum[:2*n], at, perFrame); err != nil {
				return err
			}
		}
		bytes = bytes[:0]
		for _, s := range sum[:2*n] {
			bytes = binary.LittleEndian.AppendUint16(bytes, uint16(int16(max(-32768, min(32767, int(s+32768.5)-32768)))))
		}
		if _, err := w.Write(bytes); err != nil {
			return err
		}
	}
	return w.Flush()
}

// add adds a voice to the samples from one on.
func (v voice) add(sum []float32, at int, perFrame float64) error {
	from, to := max(at, int(v.In*perFrame+0.5)), min(at+len(sum)/2, int(v.Out*perFrame+0.5))
	if from >= to {
		return nil
	}
	place := func(i int) float64 { // in samples of the sound
		return v.Offset*media.SoundRate + (float64(i)-v.In*perFrame)*v.Speed
	}
	first := max(0, int(place(from)))
	raw := make([]byte, 4*(int(place(to-1))-first+2))
	n, err := v.samples.ReadAt(raw, int64(4*first))
	if err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	raw = raw[:n-n%4]
	sample := func(i, channel int) float32 {
		if k := 4*(i-first) + 2*channel; k >= 0 && k+1 < len(raw) {
			return float32(int16(binary.LittleEndian.Uint16(raw[k:])))
		}
		return 0
	}
	for i := from; i < to; i++ {
		p := place(i)
		if p < 0 {
			continue
		}
		k := int(p)
		rest := float32(p - float64(k))
		gain := float32(v.GainAt(float64(i) / perFrame))
		for c := range 2 {
			s := sample(k, c)
			if rest > 0 {
				s += (sample(k+1, c) - s) * rest
			}
			sum[2*(i-at)+c] += gain * s
		}
	}
	return nil
}

// wavHead is the head of a WAV file of so many stereo samples of 16 bits.
func wavHead(samples int) []byte {
	size := uint32(4 * samples)
	b := append([]byte("RIFF"), 0, 0, 0, 0)
	binary.LittleEndian.PutUint32(b[4:], 36+size)
	b = append(b, "WAVEfmt "...)
	b = binary.LittleEndian.AppendUint32(b, 16)
	b = binary.LittleEndian.AppendUint16(b, 1) // PCM
	b = binary.LittleEndian.AppendUint16(b, 2)
	b = binary.LittleEndian.AppendUint32(b, media.SoundRate)
	b = binary.LittleEndian.AppendUint32(b, 4*media.SoundRate)
	b = binary.LittleEndian.AppendUint16(b, 4)
	b = binary.LittleEndian.AppendUint16(b, 16)
	b = append(b, "data"...)
	return binary.LittleEndian.AppendUint32(b, size)
}
