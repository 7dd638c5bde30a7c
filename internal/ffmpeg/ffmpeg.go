// Package ffmpeg finds the encoder, and runs it on files from outside: with
// fixed arguments, no shell, local files only, bounded in time, and only for
// formats that hold their own data, so that no file makes it read another.
package ffmpeg

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
	"time"

	"proscen/internal/scratch"
)

// ErrMissing says that the encoder is not installed.
var ErrMissing = errors.New("ffmpeg is not installed, so no video and no sound can be worked on; install it (apt-get install ffmpeg) and try again")

// ErrLong says that working on a file took too long.
var ErrLong = errors.New("it took too long")

// ErrKilled says that the encoder was ended from outside, and nothing of the file.
var ErrKilled = errors.New("the encoder was stopped from outside; do it again")

// OfFile tells an error that a file is the reason of from one that the machine is.
func OfFile(err error) bool {
	for _, other := range []error{ErrMissing, ErrKilled, scratch.ErrFull, context.Canceled} {
		if errors.Is(err, other) {
			return false
		}
	}
	return true
}

// Path returns where the encoder is, or ErrMissing.
func Path() (string, error) { return find("ffmpeg") }

// Version returns what the encoder says of itself in its first line.
func Version(ctx context.Context) (string, error) {
	path, err := Path()
	if err != nil {
		return "", err
	}
	out, err := exec.CommandContext(ctx, path, "-version").Output()
	line, _, _ := strings.Cut(string(out), "\n")
	return line, err
}

func find(name string) (string, error) {
	path, err := exec.LookPath(name)
	if err != nil {
		return "", ErrMissing
	}
	return path, nil
}

// Formats are the containers that are read: none of them names other files.
const (
	SoundFormats = "wav,w64,aiff,flac,mp3,ogg,mov,aac,matroska"
	VideoFormats = "mov,matroska,avi,mpegts"
)

// longest bounds one run.
const longest = 5 * time.Minute

// mostPixels bounds a picture in a file from outside: 8192 x 4320.
const mostPixels = 8192 * 4320

// Foreign returns the arguments that come before a file from outside.
func Foreign(formats, file string) []string {
	return []string{"-protocol_whitelist", "file,pipe", "-max_pixels", strconv.Itoa(mostPixels), "-format_whitelist", formats, "-i", file}
}

// Command prepares a program that ends with ctx, and with this program, however that ends.
func Command(ctx context.Context, path string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, path, args...)
	cmd.WaitDelay = 5 * time.Second
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	return cmd
}

// Full tells whether what a program says is that there is no room on the disk.
func Full(said string) bool {
	return strings.Contains(said, "No space left") || strings.Contains(said, "Disk quota exceeded")
}

// Run runs the encoder. What it says last becomes the error.
func Run(ctx context.Context, args ...string) error {
	_, err := Output(ctx, args...)
	return err
}

// Output runs the encoder and returns what it writes to its standard output.
func Output(ctx context.Context, args ...string) ([]byte, error) {
	path, err := Path()
	if err != nil {
		return nil, err
	}
	return run(ctx, path, append([]string{"-hide_banner", "-loglevel", "error", "-nostdin"}, args...))
}

func run(ctx context.Context, path string, args []string) ([]byte, error) {
	ctx, stop := context.WithTimeout(ctx, longest)
	defer stop()
	cmd := Command(ctx, path, args...)
	var out, said bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &said
	if err := cmd.Run(); err != nil {
		switch {
		case errors.Is(ctx.Err(), context.DeadlineExceeded):
			return nil, ErrLong
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case Full(said.String()):
			return nil, scratch.ErrFull
		}
		if cmd.ProcessState == nil || !cmd.ProcessState.Exited() {
			return nil, fmt.Errorf("%w: %w", ErrKilled, err)
		}
		text := strings.TrimSpace(said.String())
		if i := strings.LastIndexByte(text, '\n'); i >= 0 {
			text = text[i+1:]
		}
		return nil, fmt.Errorf("%s", text)
	}
	if Full(said.String()) { // it may end well all the same
		return nil, scratch.ErrFull
	}
	return out.Bytes(), nil
}

// Frames counts the frames of a video of our own.
func Frames(ctx context.Context, file string) (int, error) {
	said, err := Probe(ctx, VideoFormats, file, "-select_streams", "v:0", "-count_packets", "-show_entries", "stream=nb_read_packets")
	if err != nil {
		return 0, err
	}
	var probed struct {
		Streams []struct {
			Packets string `json:"nb_read_packets"`
		} `json:"streams"`
	}
	if err := json.Unmarshal(said, &probed); err != nil || len(probed.Streams) != 1 {
		return 0, errors.New("it has no frames")
	}
	return strconv.Atoi(probed.Streams[0].Packets)
}

// Probe asks ffprobe about a file from outside; the answer is JSON.
func Probe(ctx context.Context, formats, file string, show ...string) ([]byte, error) {
	path, err := find("ffprobe")
	if err != nil {
		return nil, err
	}
	args := append([]string{"-v", "error"}, Foreign(formats, file)...)
	args = append(args, "-of", "json")
	return run(ctx, path, append(args, show...))
}
