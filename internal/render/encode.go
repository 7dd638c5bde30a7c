package render

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"
	"proscen/internal/scratch"
)

// Frames are pictures of one size in pixels, by their numbers.
type Frames interface {
	Frame(n int, img *image.RGBA) error
	Size() (width, height int)
}

// Form is how frames are packed into a file.
type Form struct {
	Pack    scene.Pack
	Quality scene.Quality
	Rate    timing.Rate
}

// step chooses by quality.
func (f Form) step(rough, check, fine string) string {
	switch f.Quality {
	case picture.Rough:
		return rough
	case picture.Fine:
		return fine
	}
	return check
}

// television are the colours of videos that hold differences of colour.
var television = []string{
	"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709",
}

// codec returns the fixed arguments of an encoder. Parts of a video can be joined
// without encoding them again: each begins with a key frame, and no frame is predicted
// from later ones. The number of threads is fixed where the bytes follow from it.
func (f Form) codec() []string {
	out := []string{"-an"}
	tv := append([]string{"-vf", "scale=out_color_matrix=bt709:out_range=tv"}, television...)
	switch f.Pack {
	case scene.VP9:
		out = append(out, tv...)
		return append(out, "-c:v", "libvpx-vp9", "-pix_fmt", "yuv420p", "-b:v", "0", "-crf", f.step("40", "31", "20"), "-deadline", "good", "-cpu-used", f.step("8", "6", "3"), "-lag-in-frames", "0", "-auto-alt-ref", "0", "-threads", "2", "-f", "webm")
	case scene.ProRes:
		out = append(out, tv...)
		out = append(out, "-c:v", "prores_ks", "-profile:v", f.step("0", "2", "3"), "-pix_fmt", "yuv422p10le", "-threads", "2")
		return append(append(out, f.ticks()...), "-f", "mov")
	case scene.FFV1:
		return append(out, "-c:v", "ffv1", "-level", "3", "-g", "1", "-slices", "4", "-slicecrc", "1", "-pix_fmt", "bgr0", "-threads", "2", "-f", "matroska")
	}
	out = append(out, tv...)
	out = append(out, "-c:v", "libx264", "-preset", f.step("ultrafast", "veryfast", "medium"), "-crf", f.step("26", "20", "16"), "-bf", "0", "-pix_fmt", "yuv420p", "-threads", "3")
	return append(append(out, f.ticks()...), "-movflags", "+faststart", "-f", "mp4")
}

// ticks let the times of MP4 and MOV be whole frames: parts and what they are joined into
// count alike.
func (f Form) ticks() []string { return []string{"-video_track_timescale", strconv.Itoa(f.Rate.Num)} }

// joined are the arguments of the file that parts are joined into.
func (f Form) joined() []string {
	switch f.Pack {
	case scene.VP9:
		return []string{"-c:a", "libopus", "-b:a", "160k", "-f", "webm"}
	case scene.ProRes:
		return append([]string{"-c:a", "pcm_s16le", "-f", "mov"}, f.ticks()...)
	case scene.FFV1:
		return []string{"-c:a", "flac", "-f", "matroska"}
	}
	return append([]string{"-c:a", "aac", "-b:a", "192k", "-movflags", "+faststart", "-f", "mp4"}, f.ticks()...)
}

// Encode packs frames into a file that must not exist yet. After each frame it calls
// progress, unless nil, with the picture. On any error, and when ctx ends, no file is
// left.
func Encode(ctx context.Context, from Frames, frames timing.Range, form Form, file string, progress func(done int, img *image.RGBA)) (err error) {
	program, err := ffmpeg.Path()
	if err != nil {
		return err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	width, height := from.Size()
	args := []string{
		"-hide_banner", "-loglevel", "error", "-nostdin", "-protocol_whitelist", "file,pipe", "-n",
		"-f", "rawvideo", "-pix_fmt", "rgba", "-s", fmt.Sprintf("%dx%d", width, height), "-r", form.Rate.String(), "-i", "pipe:0",
		"-r", form.Rate.String(), "-fflags", "+bitexact", "-flags:v", "+bitexact",
	}
	args = append(append(args, form.codec()...), file)
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
	err = paint(ctx, from, frames, func(_ int, img *image.RGBA) error {
		_, err := in.Write(img.Pix)
		return err
	}, func() { _ = in.Close() }, progress)
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

// paint renders frames one ahead of those who take them. Free lets one go who takes
// and waits.
func paint(ctx context.Context, from Frames, frames timing.Range, take func(n int, img *image.RGBA) error, free func(), progress func(int, *image.RGBA)) error {
	width, height := from.Size()
	type painted struct {
		n   int
		img *image.RGBA
	}
	empty := make(chan *image.RGBA, 2)
	full := make(chan painted, 1)
	for range cap(empty) {
		empty <- image.NewRGBA(image.Rect(0, 0, width, height))
	}
	written := make(chan error, 1)
	go func() {
		for p := range full {
			if err := take(p.n, p.img); err != nil {
				written <- err
				return
			}
			empty <- p.img
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
			free()
			return fail(context.Cause(ctx))
		case err := <-written:
			return err
		case img = <-empty:
		}
		if err := from.Frame(f, img); err != nil {
			return fail(err)
		}
		if progress != nil {
			progress(f-frames.In+1, img)
		}
		select {
		case full <- painted{f, img}:
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

// Join puts finished parts of so many frames in all one after the other into a file
// without encoding them again, with a sound (a WAV file) unless that is "".
func Join(ctx context.Context, parts []string, sound string, frames int, form Form, file string) error {
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
	args := []string{"-hide_banner", "-loglevel", "error", "-nostdin", "-protocol_whitelist", "file,pipe", "-n", "-f", "concat", "-i", list}
	if sound != "" {
		args = append(args, "-i", sound, "-map", "0:v:0", "-map", "1:a:0")
	}
	// Parts are put one after the other by their lengths in microseconds or less; so each frame
	// gets its time anew from its number.
	again := fmt.Sprintf("setts=ts=round(N*%d/(%d*TB))", form.Rate.Den, form.Rate.Num)
	args = append(args, "-c:v", "copy", "-bsf:v", again, "-fflags", "+bitexact", "-flags:a", "+bitexact")
	cmd := ffmpeg.Command(ctx, program, append(append(args, form.joined()...), file)...)
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
