package media

import (
	"bufio"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/scratch"
	"proscen/internal/turns"
)

// Bounds of an uploaded sound.
const (
	MaxSoundBytes = 256 << 20
	maxSoundTime  = 30 * 60 // seconds; what is longer is refused
	SoundRate     = 48_000
	// PeakRate is how many pairs of peaks there are in a second.
	PeakRate = 50
)

// ffmpegRoom is about how many bytes a run of the encoder takes.
const ffmpegRoom = 100 << 20

// ErrSound says that an upload is not a sound that can be taken in.
var ErrSound = errors.New("the sound cannot be read")

// ErrNoSound says that a sound is not among the files.
var ErrNoSound = errors.New("this sound is not here any more")

// Sound is what a scene keeps of a sound: the SHA-256 of its decoded bytes, and
// its length; and what of it is otherwise than in its file.
type Sound struct {
	Blob    string   `json:"blob"`
	Seconds float64  `json:"seconds"`
	Notes   []string `json:"notes,omitempty"`
}

// KeepSound decodes a sound file (WAV, FLAC, MP3, Ogg, M4A and more), or the
// sound of a video, and stores it as FLAC with its peaks. Nothing is stored on
// error.
func KeepSound(ctx context.Context, bucket *blobs.Bucket, u *Upload) (kept Sound, err error) {
	if u.Size > MaxSoundBytes {
		return Sound{}, fmt.Errorf("%w: it has more than %d MB", ErrSound, MaxSoundBytes>>20)
	}
	done, err := turns.Take(ctx, ffmpegRoom)
	if err != nil {
		return Sound{}, err
	}
	defer done()
	// Raw samples first: their count is the exact length.
	raw, err := samples(ctx, u)
	if err != nil {
		if ffmpeg.OfFile(err) {
			err = fmt.Errorf("%w: it is no WAV, FLAC, MP3, Ogg or M4A file with sound in it", ErrSound)
		}
		return Sound{}, err
	}
	if n := channels(ctx, u); n > 2 {
		kept.Notes = append(kept.Notes, fmt.Sprintf("It has %d channels, which are mixed down to two.", n))
	}
	peaks, frames, err := peaksOf(u)
	if err != nil {
		return Sound{}, err
	}
	kept.Seconds = float64(frames) / SoundRate
	switch {
	case frames == 0:
		return Sound{}, fmt.Errorf("%w: it holds no sound", ErrSound)
	case kept.Seconds > maxSoundTime:
		return Sound{}, fmt.Errorf("%w: it is longer than %d minutes; cut it first", ErrSound, maxSoundTime/60)
	}
	flac := u.beside("kept.flac")
	if err := ffmpeg.Run(ctx, "-f", "s16le", "-ar", fmt.Sprint(SoundRate), "-ac", "2", "-i", raw, "-c:a", "flac", "-bitexact", flac); err != nil {
		return Sound{}, err
	}
	if kept.Blob, err = hashFile(flac); err != nil {
		return Sound{}, err
	}
	return kept, store(ctx, bucket,
		product{File{Kind: PeaksFile, Blob: kept.Blob}.Path(), forms[PeaksFile].media, peaks},
		product{File{Kind: SoundFile, Blob: kept.Blob}.Path(), forms[SoundFile].media, flac})
}

// channels is how many channels the sound of an upload has, 0 where that is not known.
func channels(ctx context.Context, u *Upload) int {
	said, err := ffmpeg.Probe(ctx, ffmpeg.SoundFormats, u.file(), "-select_streams", "a:0", "-show_entries", "stream=channels")
	var probed struct {
		Streams []struct {
			Channels int `json:"channels"`
		} `json:"streams"`
	}
	if err != nil || json.Unmarshal(said, &probed) != nil || len(probed.Streams) == 0 {
		return 0
	}
	return probed.Streams[0].Channels
}

// samples decodes the sound of an upload to a file of stereo 16-bit samples beside it.
func samples(ctx context.Context, u *Upload) (file string, err error) {
	file = u.beside("raw.pcm")
	return file, ffmpeg.Run(ctx, append(ffmpeg.Foreign(ffmpeg.SoundFormats, u.file()), "-map", "0:a:0", "-vn", "-t", fmt.Sprint(maxSoundTime+1),
		"-ac", "2", "-ar", fmt.Sprint(SoundRate), "-f", "s16le", file)...)
}

// peaksOf writes the peaks of the samples of an upload beside them, and counts these.
func peaksOf(u *Upload) (file string, frames int64, err error) {
	from, err := os.Open(u.beside("raw.pcm"))
	if err != nil {
		return "", 0, err
	}
	defer func() { _ = from.Close() }()
	info, err := from.Stat()
	if err != nil {
		return "", 0, err
	}
	peaks, err := Peaks(from)
	if err != nil {
		return "", 0, err
	}
	file = u.beside("peaks")
	return file, info.Size() / 4, scratch.Full(os.WriteFile(file, peaks, 0o600))
}

// Peaks returns, for every fiftieth of a second of stereo 16-bit samples, the
// lowest and the highest value as two signed bytes.
func Peaks(samples io.Reader) ([]byte, error) {
	const window = SoundRate / PeakRate * 4 // bytes of both channels
	var out []byte
	part := make([]byte, window)
	from := bufio.NewReaderSize(samples, 1<<20)
	for {
		n, err := io.ReadFull(from, part)
		if n >= 2 {
			lo, hi := int16(0), int16(0)
			for i := 0; i+1 < n; i += 2 {
				v := int16(binary.LittleEndian.Uint16(part[i:]))
				lo, hi = min(lo, v), max(hi, v)
			}
			out = append(out, byte(lo>>8), byte(hi>>8))
		}
		switch {
		case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
			return out, nil
		case err != nil:
			return nil, err
		}
	}
}
