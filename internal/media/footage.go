package media

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"proscen/core/timing"
	"proscen/internal/ffmpeg"
)

// Bounds of uploaded footage.
const (
	MaxFootageBytes  = 512 << 20
	maxFootageFrames = 20 * 60 * 60 // what is longer is refused
)

// ErrFootage says that an upload is not a video that can be taken in.
var ErrFootage = errors.New("the video cannot be read")

// ErrNoFootage says that footage is not among the files.
var ErrNoFootage = errors.New("this footage is not here any more")

// Footage is what a scene keeps of a video.
type Footage struct {
	Blob   string `json:"blob"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Frames int    `json:"frames"`
}

// KeepFootage converts a video to the scene's rate and to a form in which every
// frame is found at once, and stores it with its first picture. Nothing is
// stored on error.
func KeepFootage(ctx context.Context, bucket *blob.Bucket, data []byte, rate timing.Rate) (Footage, error) {
	if len(data) > MaxFootageBytes {
		return Footage{}, fmt.Errorf("%w: it has more than %d MB", ErrFootage, MaxFootageBytes>>20)
	}
	var kept Footage
	err := inFolder(data, func(dir, file string) error {
		out := filepath.Join(dir, "kept.mp4")
		args := append(ffmpeg.Foreign(ffmpeg.VideoFormats, file), "-map", "0:v:0", "-an", "-frames:v", strconv.Itoa(maxFootageFrames+1),
			"-vf", fmt.Sprintf("fps=%s,scale='min(1920,iw)':-2:out_color_matrix=bt709:out_range=tv,setsar=1", rate),
			"-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-g", "8", "-bf", "0", "-pix_fmt", "yuv420p",
			"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709",
			"-movflags", "+faststart", "-map_metadata", "-1", "-f", "mp4", out)
		if err := ffmpeg.Run(ctx, args...); err != nil {
			if errors.Is(err, ffmpeg.ErrMissing) {
				return err
			}
			return fmt.Errorf("%w: it is no MP4, MOV, MKV, WebM, AVI or TS file with pictures in it", ErrFootage)
		}
		said, err := ffmpeg.Probe(ctx, ffmpeg.VideoFormats, out, "-count_packets", "-show_entries", "stream=width,height,nb_read_packets")
		if err != nil {
			return err
		}
		var probed struct {
			Streams []struct {
				Width   int    `json:"width"`
				Height  int    `json:"height"`
				Packets string `json:"nb_read_packets"`
			} `json:"streams"`
		}
		if err := json.Unmarshal(said, &probed); err != nil || len(probed.Streams) != 1 {
			return fmt.Errorf("%w: it has no frames", ErrFootage)
		}
		s := probed.Streams[0]
		kept.Width, kept.Height = s.Width, s.Height
		kept.Frames, _ = strconv.Atoi(s.Packets)
		switch {
		case kept.Frames == 0:
			return fmt.Errorf("%w: it has no frames", ErrFootage)
		case kept.Frames > maxFootageFrames:
			return fmt.Errorf("%w: it is longer than %d frames; cut it first", ErrFootage, maxFootageFrames)
		}
		body, err := os.ReadFile(out)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(body)
		kept.Blob = hex.EncodeToString(sum[:])
		small, err := ffmpeg.Output(ctx, "-i", out, "-frames:v", "1", "-vf", "scale=256:-2", "-c:v", "mjpeg", "-f", "image2pipe", "pipe:1")
		if err != nil {
			return err
		}
		if err := bucket.WriteAll(ctx, footageKey(kept.Blob, ".jpg"), small, nil); err != nil {
			return err
		}
		return bucket.WriteAll(ctx, footageKey(kept.Blob, ".mp4"), body, nil)
	})
	return kept, err
}

func footageKey(name, ending string) string { return "footage/" + name + ending }

// OpenFootage opens a stored video, which seeks.
func OpenFootage(ctx context.Context, bucket *blob.Bucket, name string) (*blob.Reader, error) {
	if !blobForm.MatchString(name) {
		return nil, ErrNoFootage
	}
	r, err := bucket.NewReader(ctx, footageKey(name, ".mp4"), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrNoFootage
	}
	return r, err
}

// FootagePicture returns the first picture of footage as a small JPEG.
func FootagePicture(ctx context.Context, bucket *blob.Bucket, name string) ([]byte, error) {
	if !blobForm.MatchString(name) {
		return nil, ErrNoFootage
	}
	body, err := bucket.ReadAll(ctx, footageKey(name, ".jpg"))
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrNoFootage
	}
	return body, err
}

// Frames reads frames of footage one after the other; going back, or far ahead,
// begins anew there. It is not safe for use by several goroutines at once.
type Frames struct {
	bucket *blob.Bucket
	rate   timing.Rate
	own    map[string]timing.Rate
	dir    string
	open   map[string]*frameReader
}

type frameReader struct {
	file string
	stop context.CancelFunc
	cmd  *exec.Cmd
	from io.Reader
	next int
	last *image.RGBA
	w, h int
}

// NewFrames prepares reading footage. Its files have a rate, but for those that
// have one of their own, by blob. End frees what it holds.
func NewFrames(bucket *blob.Bucket, rate timing.Rate, own map[string]timing.Rate) *Frames {
	return &Frames{bucket: bucket, rate: rate, own: own, open: map[string]*frameReader{}}
}

// End stops all reading.
func (f *Frames) End() {
	for _, r := range f.open {
		r.end()
	}
	if f.dir != "" {
		_ = os.RemoveAll(f.dir)
	}
}

func (r *frameReader) end() {
	if r.cmd != nil {
		r.stop()
		_ = r.cmd.Wait()
		r.cmd = nil
	}
}

// far is how many frames ahead are read over rather than sought.
const far = 48

// Frame returns a frame of footage. It is valid until the next call.
func (f *Frames) Frame(ctx context.Context, name string, frame int) (image.Image, error) {
	r := f.open[name]
	if r == nil {
		var err error
		if r, err = f.fetch(ctx, name); err != nil {
			return nil, err
		}
		f.open[name] = r
	}
	if r.last != nil && frame == r.next-1 {
		return r.last, nil
	}
	if r.cmd == nil || frame < r.next || frame > r.next+far {
		rate := f.rate
		if own, ok := f.own[name]; ok {
			rate = own
		}
		if err := r.start(ctx, rate, frame); err != nil {
			return nil, err
		}
	}
	for r.next <= frame {
		if _, err := io.ReadFull(r.from, r.last.Pix); err != nil {
			r.end()
			return nil, fmt.Errorf("footage ends before its frame %d: %w", frame, err)
		}
		r.next++
	}
	return r.last, nil
}

// fetch brings a video to a file.
func (f *Frames) fetch(ctx context.Context, name string) (*frameReader, error) {
	from, err := OpenFootage(ctx, f.bucket, name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = from.Close() }()
	if f.dir == "" {
		if f.dir, err = os.MkdirTemp("", "proscen-footage-*"); err != nil {
			return nil, err
		}
	}
	r := &frameReader{file: filepath.Join(f.dir, name+".mp4")}
	to, err := os.Create(r.file)
	if err != nil {
		return nil, err
	}
	if _, err := io.Copy(to, from); err != nil {
		_ = to.Close()
		return nil, err
	}
	if err := to.Close(); err != nil {
		return nil, err
	}
	said, err := ffmpeg.Probe(ctx, ffmpeg.VideoFormats, r.file, "-show_entries", "stream=width,height")
	if err != nil {
		return nil, err
	}
	var probed struct {
		Streams []struct{ Width, Height int } `json:"streams"`
	}
	if err := json.Unmarshal(said, &probed); err != nil || len(probed.Streams) == 0 {
		return nil, ErrFootage
	}
	r.w, r.h = probed.Streams[0].Width, probed.Streams[0].Height
	r.last = image.NewRGBA(image.Rect(0, 0, r.w, r.h))
	return r, nil
}

// start begins to decode at a frame.
func (r *frameReader) start(ctx context.Context, rate timing.Rate, frame int) error {
	r.end()
	path, err := ffmpeg.Path()
	if err != nil {
		return err
	}
	run, stop := context.WithCancel(context.WithoutCancel(ctx))
	at := max(0, rate.Seconds(float64(frame)-0.5))
	cmd := exec.CommandContext(run, path, "-hide_banner", "-loglevel", "error", "-nostdin", "-protocol_whitelist", "file,pipe",
		"-ss", strconv.FormatFloat(at, 'f', 6, 64), "-i", r.file, "-vf", "scale=in_color_matrix=bt709:in_range=tv", "-f", "rawvideo", "-pix_fmt", "rgba", "pipe:1")
	out, err := cmd.StdoutPipe()
	if err != nil {
		stop()
		return err
	}
	if err := cmd.Start(); err != nil {
		stop()
		return err
	}
	r.stop, r.cmd, r.from, r.next = stop, cmd, out, frame
	return nil
}

// Panels turns the pages of a PDF into stored pictures, in order.
func Panels(ctx context.Context, bucket *blob.Bucket, data []byte) ([]Image, error) {
	if len(data) > MaxPanelBytes {
		return nil, fmt.Errorf("%w: the PDF has more than %d MB", ErrImage, MaxPanelBytes>>20)
	}
	if !bytes.HasPrefix(data, []byte("%PDF-")) {
		return nil, fmt.Errorf("%w: it is no PDF", ErrImage)
	}
	tool, err := exec.LookPath("pdftoppm")
	if err != nil {
		return nil, fmt.Errorf("%w: the reader of PDFs is not installed; install it (apt-get install poppler-utils), or take the pages in as pictures", ErrImage)
	}
	var out []Image
	err = inFolder(data, func(dir, file string) error {
		ctx, stop := context.WithTimeout(ctx, maxPanelTime)
		defer stop()
		cmd := exec.CommandContext(ctx, tool, "-png", "-scale-to", "1600", "-l", strconv.Itoa(maxPanels+1), file, filepath.Join(dir, "page"))
		if err := cmd.Run(); err != nil {
			return fmt.Errorf("%w: the PDF is damaged, locked or takes too long", ErrImage)
		}
		pages, err := filepath.Glob(filepath.Join(dir, "page-*.png")) // in order: the numbers have leading zeros
		if err != nil {
			return err
		}
		if len(pages) == 0 || len(pages) > maxPanels {
			return fmt.Errorf("%w: the PDF has %d pages; from 1 to %d are taken in", ErrImage, len(pages), maxPanels)
		}
		for _, page := range pages {
			body, err := os.ReadFile(page)
			if err != nil {
				return err
			}
			im, err := KeepImage(ctx, bucket, body)
			if err != nil {
				return err
			}
			out = append(out, im)
		}
		return nil
	})
	return out, err
}
