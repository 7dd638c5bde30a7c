package media

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"

	"proscen/core/timing"
	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/scratch"
	"proscen/internal/turns"
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

// Footage is what a scene keeps of a video, and what of it is otherwise than in its file.
type Footage struct {
	Blob   string   `json:"blob"`
	Width  int      `json:"width"`
	Height int      `json:"height"`
	Frames int      `json:"frames"`
	Notes  []string `json:"notes,omitempty"`
}

// foreign is what a video from elsewhere is like, as far as it matters.
type foreign struct {
	Alpha, HDR bool
}

// videoOf looks at a video; what cannot be told is not.
func videoOf(ctx context.Context, u *Upload) (f foreign) {
	said, err := ffmpeg.Probe(ctx, ffmpeg.VideoFormats, u.file(), "-select_streams", "v:0", "-show_entries", "stream=pix_fmt,color_transfer")
	var probed struct {
		Streams []struct {
			Pixels   string `json:"pix_fmt"`
			Transfer string `json:"color_transfer"`
		} `json:"streams"`
	}
	if err != nil || json.Unmarshal(said, &probed) != nil || len(probed.Streams) == 0 {
		return f
	}
	s := probed.Streams[0]
	f.HDR = s.Transfer == "smpte2084" || s.Transfer == "arib-std-b67"
	for _, begins := range []string{"yuva", "gbrap", "rgba", "bgra", "argb", "abgr", "ya8", "ya16", "pal8"} {
		f.Alpha = f.Alpha || strings.HasPrefix(s.Pixels, begins)
	}
	return f
}

// shown is the size in which footage is kept: with square pixels, both sides even, at most
// 1920 wide.
const shown = "w='max(2,trunc(min(1920,iw*sar)/2)*2)':h='max(2,trunc(ow*ih/(iw*sar)/2+0.5)*2)'"

// KeepFootage converts a video to the scene's rate and to a form in which every
// frame is found at once, and stores it with its first picture. Nothing is
// stored on error.
func KeepFootage(ctx context.Context, bucket *blobs.Bucket, u *Upload, rate timing.Rate) (kept Footage, err error) {
	if u.Size > MaxFootageBytes {
		return Footage{}, fmt.Errorf("%w: it has more than %d MB", ErrFootage, MaxFootageBytes>>20)
	}
	done, err := turns.Take(ctx, 2*ffmpegRoom)
	if err != nil {
		return Footage{}, err
	}
	defer done()
	out := u.beside("kept.mp4")
	of := videoOf(ctx, u)
	clear := ""
	if of.Alpha {
		clear = "format=gbrap,premultiply=inplace=1,"
		kept.Notes = append(kept.Notes, "What is clear in it is black.")
	}
	if of.HDR {
		kept.Notes = append(kept.Notes, "It has a high dynamic range; its colours look pale. Export it with standard colours (Rec. 709).")
	}
	args := append(ffmpeg.Foreign(ffmpeg.VideoFormats, u.file()), "-map", "0:v:0", "-an", "-frames:v", strconv.Itoa(maxFootageFrames+1),
		"-vf", fmt.Sprintf("fps=%s,%sscale=%s:out_color_matrix=bt709:out_range=tv,setsar=1", rate, clear, shown),
		"-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-g", "8", "-bf", "0", "-pix_fmt", "yuv420p",
		"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709",
		"-movflags", "+faststart", "-map_metadata", "-1", "-f", "mp4", out)
	if err := ffmpeg.Run(ctx, args...); err != nil {
		if ffmpeg.OfFile(err) {
			err = fmt.Errorf("%w: it is no MP4, MOV, MKV, WebM, AVI or TS file with pictures in it", ErrFootage)
		}
		return Footage{}, err
	}
	said, err := ffmpeg.Probe(ctx, ffmpeg.VideoFormats, out, "-count_packets", "-show_entries", "stream=width,height,nb_read_packets")
	if err != nil {
		return Footage{}, err
	}
	var probed struct {
		Streams []struct {
			Width   int    `json:"width"`
			Height  int    `json:"height"`
			Packets string `json:"nb_read_packets"`
		} `json:"streams"`
	}
	if err := json.Unmarshal(said, &probed); err != nil || len(probed.Streams) != 1 {
		return Footage{}, fmt.Errorf("%w: it has no frames", ErrFootage)
	}
	s := probed.Streams[0]
	kept.Width, kept.Height = s.Width, s.Height
	kept.Frames, _ = strconv.Atoi(s.Packets)
	switch {
	case kept.Frames == 0:
		return Footage{}, fmt.Errorf("%w: it has no frames", ErrFootage)
	case kept.Frames > maxFootageFrames:
		return Footage{}, fmt.Errorf("%w: it is longer than %d frames; cut it first", ErrFootage, maxFootageFrames)
	}
	if kept.Blob, err = hashFile(out); err != nil {
		return Footage{}, err
	}
	small, err := firstFrame(ctx, []string{"-i", out}, u)
	if err != nil {
		return Footage{}, err
	}
	return kept, store(ctx, bucket,
		product{File{Kind: FirstFrame, Blob: kept.Blob}.Path(), forms[FirstFrame].media, small},
		product{File{Kind: VideoFile, Blob: kept.Blob}.Path(), forms[VideoFile].media, out})
}

// firstFrame writes the first picture of a video, as the arguments name it, beside an
// upload as a small JPEG.
func firstFrame(ctx context.Context, video []string, u *Upload) (file string, err error) {
	file = u.beside("small.jpg")
	return file, ffmpeg.Run(ctx, append(video, "-map", "0:v:0", "-an", "-frames:v", "1", "-vf", "scale=256:-2", "-c:v", "mjpeg", "-f", "image2", file)...)
}

// Frames reads frames of footage one after the other; going back, or far ahead,
// begins anew there. What is asked for at several places in turn is read at each of them.
// It is not safe for use by several goroutines at once.
type Frames struct {
	bucket *blobs.Bucket
	rate   timing.Rate
	own    map[string]timing.Rate
	dir    string
	open   map[string][]*frameReader // by file, the one that was asked last first
	begun  int                       // how often reading was begun
}

// atOnce is at how many places a file is read at once.
const atOnce = 3

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
func NewFrames(bucket *blobs.Bucket, rate timing.Rate, own map[string]timing.Rate) *Frames {
	return &Frames{bucket: bucket, rate: rate, own: own, open: map[string][]*frameReader{}}
}

// End stops all reading.
func (f *Frames) End() {
	for _, readers := range f.open {
		for _, r := range readers {
			r.end()
		}
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
	r, err := f.reader(ctx, name, frame)
	if err != nil {
		return nil, err
	}
	if r.has(frame) {
		return r.last, nil
	}
	if !r.comesTo(frame) {
		f.begun++
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

// has tells whether a reader has just read a frame.
func (r *frameReader) has(frame int) bool { return r.cmd != nil && frame == r.next-1 }

// comesTo tells whether a reader comes to a frame soon.
func (r *frameReader) comesTo(frame int) bool {
	return r.cmd != nil && frame >= r.next && frame <= r.next+far
}

// reader returns what reads a file at a frame: the one that is there or is nearest before
// it, else another one, else the one that has not been asked for longest.
func (f *Frames) reader(ctx context.Context, name string, frame int) (*frameReader, error) {
	all := f.open[name]
	best := -1
	for i, r := range all {
		if r.has(frame) || r.comesTo(frame) && (best < 0 || r.next > all[best].next) {
			best = i
		}
	}
	switch {
	case best >= 0:
	case len(all) == 0:
		r, err := f.fetch(ctx, name)
		if err != nil {
			return nil, err
		}
		all, best = []*frameReader{r}, 0
	case len(all) < atOnce && all[0].cmd != nil:
		first := all[0]
		all = append(all, &frameReader{file: first.file, w: first.w, h: first.h, last: image.NewRGBA(first.last.Rect)})
		best = len(all) - 1
	default:
		best = len(all) - 1
	}
	r := all[best]
	copy(all[1:best+1], all[:best])
	all[0] = r
	f.open[name] = all
	return r, nil
}

// fetch brings a video to a file.
func (f *Frames) fetch(ctx context.Context, name string) (*frameReader, error) {
	from, err := Open(ctx, f.bucket, File{Kind: VideoFile, Blob: name})
	if err != nil {
		return nil, err
	}
	defer func() { _ = from.Close() }()
	if f.dir == "" {
		if f.dir, err = scratch.Folder("footage"); err != nil {
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
		return nil, scratch.Full(err)
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
	cmd := ffmpeg.Command(run, path, "-hide_banner", "-loglevel", "error", "-nostdin", "-protocol_whitelist", "file,pipe",
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
