package media

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"proscen/internal/ffmpeg"
)

// Bounds of an uploaded sound.
const (
	MaxSoundBytes = 256 << 20
	maxSoundTime  = 30 * 60 // seconds; what is longer is refused
	SoundRate     = 48_000
	// PeakRate is how many pairs of peaks there are in a second.
	PeakRate = 50
)

// ErrSound says that an upload is not a sound that can be taken in.
var ErrSound = errors.New("the sound cannot be read")

// ErrNoSound says that a sound is not among the files.
var ErrNoSound = errors.New("this sound is not here any more")

// Sound is what a scene keeps of a sound: the SHA-256 of its decoded bytes, and
// its length.
type Sound struct {
	Blob    string  `json:"blob"`
	Seconds float64 `json:"seconds"`
}

// inFolder runs work with an upload as a file in a folder of its own.
func inFolder(data []byte, work func(dir, file string) error) error {
	dir, err := os.MkdirTemp("", "proscen-media-*")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	file := filepath.Join(dir, "upload")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		return err
	}
	return work(dir, file)
}

// KeepSound decodes a sound file (WAV, FLAC, MP3, Ogg, M4A and more), or the
// sound of a video, and stores it as FLAC with its peaks. Nothing is stored on
// error.
func KeepSound(ctx context.Context, bucket *blob.Bucket, data []byte) (Sound, error) {
	if len(data) > MaxSoundBytes {
		return Sound{}, fmt.Errorf("%w: it has more than %d MB", ErrSound, MaxSoundBytes>>20)
	}
	var kept Sound
	err := inFolder(data, func(dir, file string) error {
		// Raw samples first: their count is the exact length.
		raw := filepath.Join(dir, "raw.pcm")
		args := append(ffmpeg.Foreign(ffmpeg.SoundFormats, file), "-map", "0:a:0", "-vn", "-t", fmt.Sprint(maxSoundTime+1),
			"-ac", "2", "-ar", fmt.Sprint(SoundRate), "-f", "s16le", raw)
		if err := ffmpeg.Run(ctx, args...); err != nil {
			if errors.Is(err, ffmpeg.ErrMissing) {
				return err
			}
			return fmt.Errorf("%w: it is no WAV, FLAC, MP3, Ogg or M4A file with sound in it", ErrSound)
		}
		samples, err := os.ReadFile(raw)
		if err != nil {
			return err
		}
		kept.Seconds = float64(len(samples)/4) / SoundRate
		switch {
		case kept.Seconds == 0:
			return fmt.Errorf("%w: it holds no sound", ErrSound)
		case kept.Seconds > maxSoundTime:
			return fmt.Errorf("%w: it is longer than %d minutes; cut it first", ErrSound, maxSoundTime/60)
		}
		flac := filepath.Join(dir, "kept.flac")
		if err := ffmpeg.Run(ctx, "-f", "s16le", "-ar", fmt.Sprint(SoundRate), "-ac", "2", "-i", raw, "-c:a", "flac", "-bitexact", flac); err != nil {
			return err
		}
		body, err := os.ReadFile(flac)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(body)
		kept.Blob = hex.EncodeToString(sum[:])
		if err := bucket.WriteAll(ctx, peaksKey(kept.Blob), Peaks(samples), nil); err != nil {
			return err
		}
		return bucket.WriteAll(ctx, soundKey(kept.Blob), body, nil)
	})
	return kept, err
}

func soundKey(name string) string { return "sounds/" + name + ".flac" }
func peaksKey(name string) string { return "sounds/" + name + ".peaks" }

// Peaks returns, for every fiftieth of a second of stereo 16-bit samples, the
// lowest and the highest value as two signed bytes.
func Peaks(samples []byte) []byte {
	const window = SoundRate / PeakRate * 2 // both channels
	n := len(samples) / 2
	out := make([]byte, 0, 2*(n/window+1))
	for at := 0; at < n; at += window {
		lo, hi := int16(0), int16(0)
		for i := at; i < min(at+window, n); i++ {
			v := int16(binary.LittleEndian.Uint16(samples[2*i:]))
			lo, hi = min(lo, v), max(hi, v)
		}
		out = append(out, byte(lo>>8), byte(hi>>8))
	}
	return out
}

// SoundBytes returns the FLAC of a sound, or its peaks.
func SoundBytes(ctx context.Context, bucket *blob.Bucket, name string, peaks bool) ([]byte, error) {
	if !blobForm.MatchString(name) {
		return nil, ErrNoSound
	}
	key := soundKey(name)
	if peaks {
		key = peaksKey(name)
	}
	body, err := bucket.ReadAll(ctx, key)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrNoSound
	}
	return body, err
}
