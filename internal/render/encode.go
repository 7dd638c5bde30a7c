package render

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"proscen/core/picture"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"
	"proscen/internal/scratch"
)

// codec returns the fixed H.264 arguments of a quality. Frames without
// bidirectional prediction let finished parts be joined without encoding again.
func codec(q picture.Quality) []string {
	preset, crf := "veryfast", "20"
	switch q {
	case picture.Rough:
		preset, crf = "ultrafast", "26"
	case picture.Fine:
		preset, crf = "medium", "16"
	}
	return []string{
		"-an", "-vf", "scale=out_color_matrix=bt709:out_range=tv", "-c:v", "libx264", "-preset", preset, "-crf", crf, "-bf", "0",
		"-pix_fmt", "yuv420p", "-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709",
	}
}

// Encode renders a range of screen frames into an mp4 file that must not exist
// yet. After each frame it calls progress, unless nil, with the picture. On any
// error, and when ctx ends, no file is left.
func Encode(ctx context.Context, p *picture.Painter, frames timing.Range, rate timing.Rate, file string, progress func(done int, img *image.RGBA)) (err error) {
	program, err := ffmpeg.Path()
	if err != nil {
		return err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	args := []string{
		"-hide_banner", "-loglevel", "error", "-nostdin", "-protocol_whitelist", "file,pipe", "-n",
		"-f", "rawvideo", "-pix_fmt", "rgba", "-s", fmt.Sprintf("%dx%d", p.Form().Width, p.Form().Height), "-r", rate.String(), "-i", "pipe:0",
	}
	args = append(args, codec(p.Form().Quality)...)
	args = append(args, "-r", rate.String(), "-movflags", "+faststart", "-f", "mp4", file)
	cmd := ffmpeg.Command(ctx, program, args...)
	var said bytes.Buffer
	cmd.Stderr = &said
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return explain(err, "")
	}
	defer func() {
		if err != nil {
			_ = os.Remove(file)
		}
	}()
	err = paint(ctx, p, frames, in, progress)
	closeErr := in.Close()
	if err != nil {
		stop()
	}
	waitErr := cmd.Wait()
	switch {
	case err != nil && ctx.Err() == nil, waitErr != nil && err == nil:
		return explain(errors.Join(err, waitErr), said.String())
	case err != nil:
		if ffmpeg.Full(said.String()) {
			return scratch.ErrFull
		}
		if errors.Is(err, syscall.EPIPE) {
			return explain(err, said.String())
		}
		return err
	case closeErr != nil && !errors.Is(closeErr, os.ErrClosed):
		return explain(closeErr, said.String())
	}
	return whole(ctx, file, frames.Count(), said.String())
}

// whole tells whether an encoder that ended well has written what it should: when the
// disk is full at the very end, it does not say so with its exit code.
func whole(ctx context.Context, file string, frames int, said string) error {
	if said = strings.TrimSpace(said); said != "" {
		return explain(errors.New("it is not whole"), said)
	}
	n, err := ffmpeg.Frames(ctx, file)
	if err == nil && n != frames {
		err = fmt.Errorf("it has %d frames instead of %d", n, frames)
	}
	if err != nil {
		return explain(err, "")
	}
	return nil
}

// paint renders frames one ahead of the encoder.
func paint(ctx context.Context, p *picture.Painter, frames timing.Range, to io.Writer, progress func(int, *image.RGBA)) error {
	free := make(chan *image.RGBA, 2)
	full := make(chan *image.RGBA, 1)
	for range cap(free) {
		free <- image.NewRGBA(image.Rect(0, 0, p.Form().Width, p.Form().Height))
	}
	written := make(chan error, 1)
	go func() {
		for img := range full {
			if _, err := to.Write(img.Pix); err != nil {
				written <- err
				return
			}
			free <- img
		}
		written <- nil
	}()
	fail := func(err error) error {
		close(full)
		<-written
		return err
	}
	for f := frames.In; f < frames.Out; f++ {
		var img *image.RGBA
		select {
		case <-ctx.Done():
			if c, ok := to.(io.Closer); ok {
				_ = c.Close() // a writer that waits for the encoder is freed
			}
			return fail(context.Cause(ctx))
		case err := <-written:
			return err
		case img = <-free:
		}
		if err := p.Frame(f, img); err != nil {
			return fail(err)
		}
		if progress != nil {
			progress(f-frames.In+1, img)
		}
		select {
		case full <- img:
		case err := <-written:
			return err
		}
	}
	close(full)
	return <-written
}

// explain turns what ffmpeg or the system says into a sentence.
func explain(err error, said string) error {
	if full := scratch.Full(err); ffmpeg.Full(said) || errors.Is(full, scratch.ErrFull) {
		return scratch.ErrFull
	}
	said = strings.TrimSpace(said)
	if i := strings.LastIndexByte(said, '\n'); i >= 0 {
		said = said[i+1:]
	}
	if said == "" {
		return fmt.Errorf("the video could not be encoded: %w", err)
	}
	return fmt.Errorf("the video could not be encoded: %s", said)
}

// Join puts finished parts of so many frames in all one after the other into an mp4
// file without encoding them again.
func Join(ctx context.Context, parts []string, frames int, rate timing.Rate, file string) error {
	program, err := ffmpeg.Path()
	if err != nil {
		return err
	}
	list := filepath.Join(filepath.Dir(file), "parts.txt")
	var b strings.Builder
	for _, p := range parts {
		// The names are our own: digits and dots.
		fmt.Fprintf(&b, "file '%s'\n", filepath.Base(p))
	}
	if err := os.WriteFile(list, []byte(b.String()), 0o600); err != nil {
		return explain(err, "")
	}
	cmd := ffmpeg.Command(ctx, program, "-hide_banner", "-loglevel", "error", "-nostdin", "-protocol_whitelist", "file,pipe", "-n",
		"-f", "concat", "-i", list, "-c", "copy", "-video_track_timescale", strconv.Itoa(rate.Num), "-movflags", "+faststart", "-f", "mp4", file)
	var said bytes.Buffer
	cmd.Stderr = &said
	if err := cmd.Run(); err != nil {
		_ = os.Remove(file)
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
		return explain(err, said.String())
	}
	if err := whole(ctx, file, frames, said.String()); err != nil {
		_ = os.Remove(file)
		return err
	}
	return nil
}
