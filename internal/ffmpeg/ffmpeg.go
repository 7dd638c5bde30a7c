// Package ffmpeg finds the encoder, and runs it on files from outside: with
// fixed arguments, no shell, local files only, bounded in time, and only for
// formats that hold their own data, so that no file makes it read another.
package ffmpeg

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os/exec"
	"strings"
	"time"
)

// ErrMissing says that the encoder is not installed.
var ErrMissing = errors.New("ffmpeg is not installed, so no video and no sound can be worked on; install it (apt-get install ffmpeg) and try again")

// Path returns where the encoder is, or ErrMissing.
func Path() (string, error) { return find("ffmpeg") }

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

// Foreign returns the arguments that come before a file from outside.
func Foreign(formats, file string) []string {
	return []string{"-protocol_whitelist", "file,pipe", "-format_whitelist", formats, "-i", file}
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
	cmd := exec.CommandContext(ctx, path, args...)
	cmd.WaitDelay = 5 * time.Second
	var out, said bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &said
	if err := cmd.Run(); err != nil {
		if ctx.Err() != nil {
			return nil, errors.New("it took too long")
		}
		text := strings.TrimSpace(said.String())
		if i := strings.LastIndexByte(text, '\n'); i >= 0 {
			text = text[i+1:]
		}
		return nil, fmt.Errorf("%s", text)
	}
	return out.Bytes(), nil
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
