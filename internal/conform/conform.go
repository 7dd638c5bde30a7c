// Package conform is a small stand-in for an editor's program: it rebuilds a sequence
// from a cut list and the files that it names, knowing nothing of the scene, and tells
// how far that is from another file of the whole.
package conform

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"

	"proscen/core/raster"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"
)

// Event is a stretch of a file in the sequence: [In, Out) of the sequence shows frames of
// File from Source on.
type Event struct {
	File    string
	Source  int
	In, Out int
	Into    *Join // from the event before, which touches this one
}

// Join is how one event becomes the next: over Before frames ahead of the seam and After
// frames behind it.
type Join struct {
	Before, After int
	Kind          string // dissolve, dip or travel
	Color         string // of a dip, #rrggbb
}

// ErrList says that a cut list cannot be followed.
var ErrList = errors.New("the cut list cannot be followed")

// Read reads a cut list, OpenTimelineIO or an edit list by its ending, at a rate. Files
// are named from where the list lies.
func Read(list string, rate timing.Rate) ([]Event, error) {
	body, err := os.ReadFile(list)
	if err != nil {
		return nil, err
	}
	var events []Event
	if strings.HasSuffix(list, ".otio") {
		events, err = readOTIO(body)
	} else {
		events, err = readEDL(string(body), rate)
	}
	if err != nil {
		return nil, fmt.Errorf("%w: %s: %w", ErrList, filepath.Base(list), err)
	}
	for i := range events {
		if !filepath.IsLocal(events[i].File) {
			return nil, fmt.Errorf("%w: it names %q, which is not beside it", ErrList, events[i].File)
		}
		events[i].File = filepath.Join(filepath.Dir(list), filepath.FromSlash(events[i].File))
	}
	return events, nil
}

type otioTime struct{ Value float64 }

type otioItem struct {
	Schema   string `json:"OTIO_SCHEMA"`
	Kind     string
	Children []otioItem
	Source   *struct {
		Start    otioTime `json:"start_time"`
		Duration otioTime
	} `json:"source_range"`
	Media map[string]struct {
		URL string `json:"target_url"`
	} `json:"media_references"`
	Active   string   `json:"active_media_reference_key"`
	In       otioTime `json:"in_offset"`
	Out      otioTime `json:"out_offset"`
	Metadata struct {
		Ours struct{ Kind, Color string } `json:"proscen"`
	}
}

func readOTIO(body []byte) ([]Event, error) {
	var top struct{ Tracks otioItem }
	if err := json.Unmarshal(body, &top); err != nil {
		return nil, err
	}
	var events []Event
	for _, t := range top.Tracks.Children {
		if t.Kind != "Video" {
			continue
		}
		at := 0
		var into *Join
		for _, c := range t.Children {
			kind, _, _ := strings.Cut(c.Schema, ".")
			if kind == "Transition" {
				into = &Join{int(c.In.Value), int(c.Out.Value), c.Metadata.Ours.Kind, c.Metadata.Ours.Color}
				continue
			}
			if c.Source == nil {
				return nil, fmt.Errorf("an item at frame %d has no length", at)
			}
			n := int(c.Source.Duration.Value)
			if kind == "Clip" {
				file := c.Media[c.Active].URL
				if file == "" {
					return nil, fmt.Errorf("the clip at frame %d names no file", at)
				}
				events = append(events, Event{file, int(c.Source.Start.Value), at, at + n, into})
			}
			into = nil
			at += n
		}
		return events, nil // the first one plays
	}
	return nil, errors.New("it has no track of pictures")
}

var edlLine = regexp.MustCompile(`^\d+\s+\S+\s+V\s+(C|D)\s+(?:(\d+)\s+)?(\S+) (\S+) (\S+) (\S+)$`)

// readEDL reads an edit list of ours. A dissolve begins where its event does; where the
// seam in it is does not matter for the picture.
func readEDL(text string, rate timing.Rate) ([]Event, error) {
	var events []Event
	dissolve, zero := 0, -1
	for n, line := range strings.Split(strings.ReplaceAll(text, "\r", ""), "\n") {
		if m := edlLine.FindStringSubmatch(line); m != nil {
			var t [4]int
			for i := range t {
				f, err := rate.ParseTimecode(m[3+i])
				if err != nil {
					return nil, fmt.Errorf("line %d: %w", n+1, err)
				}
				t[i] = f
			}
			if zero < 0 { // the whole hour before the first event
				hour, _, _ := strings.Cut(m[5], ":")
				f, err := rate.ParseTimecode(hour + ":00:00" + m[5][len(m[5])-3:len(m[5])-2] + "00")
				if err != nil {
					return nil, fmt.Errorf("line %d: %w", n+1, err)
				}
				zero = f
			}
			if t[2] == t[3] { // what a dissolve begins with
				continue
			}
			dissolve, _ = strconv.Atoi(m[2])
			e := Event{Source: t[0], In: t[2] - zero, Out: t[3] - zero}
			if dissolve > 0 {
				e.Into = &Join{0, dissolve, "dissolve", ""}
			}
			events = append(events, e)
			continue
		}
		said, ours := strings.CutPrefix(line, "* ")
		if !ours || len(events) == 0 {
			continue
		}
		last := &events[len(events)-1]
		if file, ok := strings.CutPrefix(said, "SOURCE FILE: "); ok {
			last.File = file
		}
		if f := strings.Fields(said); f[0] == "JOIN:" && len(f) > 3 && f[1] != "dissolve" {
			before, err1 := strconv.Atoi(f[2])
			after, err2 := strconv.Atoi(f[3])
			if err1 == nil && err2 == nil {
				last.Into = &Join{before, after, f[1], ""}
				if len(f) > 4 {
					last.Into.Color = f[4]
				}
			}
		}
	}
	if len(events) == 0 {
		return nil, errors.New("it has no events")
	}
	return events, nil
}

// Result is how far a rebuilt sequence is from another file.
type Result struct {
	Frames  int     // compared
	Differ  int     // of those
	Largest int     // difference of a value, of 255
	Mean    float64 // of the frame that differs most
	Worst   int     // that frame
	Beyond  int     // frames that no editor can rebuild: the camera travels from shot to shot
}

// Compare rebuilds a sequence of events and holds it against a file, frame by frame. So
// many frames at the head of the file, a slate, are passed over.
func Compare(ctx context.Context, events []Event, against string, head int) (r Result, err error) {
	whole, err := open(ctx, against, head)
	if err != nil {
		return r, err
	}
	defer whole.close()
	players := map[int]*player{} // by event
	defer func() {
		for _, p := range players {
			p.close()
		}
	}()
	// shows returns the picture of an event at a frame of the sequence, which may lie
	// before or after it, as far as its file goes.
	shows := func(i, at int) (*image.RGBA, error) {
		e := events[i]
		from := e.In
		if e.Into != nil {
			from -= e.Into.Before
		}
		p := players[i]
		if p == nil {
			if p, err = open(ctx, e.File, e.Source+from-e.In); err != nil {
				return nil, err
			}
			players[i] = p
		}
		img, err := p.frame(at - from)
		if err != nil {
			return nil, fmt.Errorf("%s at frame %d of the sequence: %w", filepath.Base(e.File), at, err)
		}
		return img, nil
	}
	now := 0
	for at := 0; ; at++ {
		want, err := whole.frame(at)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return r, err
		}
		for now < len(events) && events[now].Out <= at {
			now++
		}
		for i, p := range players { // those that are over
			if i < now-1 || i == now-1 && !joined(events, i, at) {
				p.close()
				delete(players, i)
			}
		}
		got := image.NewRGBA(want.Rect)
		beyond, err := build(events, now, at, shows, got)
		if err != nil {
			return r, err
		}
		if beyond {
			r.Beyond++
			continue
		}
		r.add(at, got, want)
	}
	return r, nil
}

// joined tells whether an event that has ended is still seen at a frame.
func joined(events []Event, i, at int) bool {
	return i+1 < len(events) && events[i+1].Into != nil && at < events[i+1].In+events[i+1].Into.After
}

// build puts the frame of a sequence together; beyond says that it cannot be.
func build(events []Event, i, at int, shows func(int, int) (*image.RGBA, error), to *image.RGBA) (beyond bool, err error) {
	black := func() {
		for k := 3; k < len(to.Pix); k += 4 {
			to.Pix[k] = 255
		}
	}
	if i >= len(events) || events[i].In > at {
		black()
		return false, nil
	}
	seam := i // the event whose join is on, if any
	if i+1 < len(events) && events[i+1].Into != nil && events[i+1].In == events[i].Out && at >= events[i+1].In-events[i+1].Into.Before {
		seam = i + 1
	}
	j := events[seam].Into
	if j == nil || seam == 0 || at >= events[seam].In+j.After {
		img, err := shows(i, at)
		if err == nil {
			copy(to.Pix, img.Pix)
		}
		return false, err
	}
	switch j.Kind {
	case "travel":
		return true, nil
	case "dip":
		img, err := shows(i, at)
		if err != nil {
			return false, err
		}
		copy(to.Pix, img.Pix)
		weight := (float64(events[seam].In-at) - 0.5) / float64(j.Before)
		if i == seam {
			weight = (float64(at-events[seam].In) + 0.5) / float64(j.After)
		}
		raster.Tint(to, rgb(j.Color), 1-max(0, min(1, weight)))
		return false, nil
	}
	out, err := shows(seam-1, at)
	if err != nil {
		return false, err
	}
	in, err := shows(seam, at)
	if err != nil {
		return false, err
	}
	share := (float64(at-events[seam].In+j.Before) + 0.5) / float64(j.Before+j.After)
	if i == seam { // mixed from the one that holds the frame, as the renderer does
		copy(to.Pix, in.Pix)
		raster.Mix(to, out, 1-share)
	} else {
		copy(to.Pix, out.Pix)
		raster.Mix(to, in, share)
	}
	return false, nil
}

func rgb(s string) color.RGBA {
	v, _ := strconv.ParseUint(strings.TrimPrefix(s, "#"), 16, 32)
	return color.RGBA{uint8(v >> 16), uint8(v >> 8), uint8(v), 255}
}

// add compares one frame.
func (r *Result) add(at int, got, want *image.RGBA) {
	r.Frames++
	sum, differs := 0, false
	for i := range got.Pix {
		d := int(got.Pix[i]) - int(want.Pix[i])
		if d < 0 {
			d = -d
		}
		if d > 0 {
			differs = true
			sum += d
			r.Largest = max(r.Largest, d)
		}
	}
	if differs {
		r.Differ++
	}
	if mean := float64(sum) / float64(len(got.Pix)*3/4); mean > r.Mean {
		r.Mean, r.Worst = mean, at
	}
}

// player reads the frames of a file in order.
type player struct {
	cmd   *exec.Cmd
	from  io.ReadCloser
	stop  context.CancelFunc
	next  int // frame of the file that comes next
	first int // frame of the file that is asked for as 0
	img   *image.RGBA
}

func open(ctx context.Context, file string, first int) (*player, error) {
	if first < 0 {
		return nil, fmt.Errorf("%w: %s begins %d frames too late", ErrList, filepath.Base(file), -first)
	}
	said, err := ffmpeg.Probe(ctx, ffmpeg.VideoFormats, file, "-select_streams", "v:0", "-show_entries", "stream=width,height")
	if err != nil {
		return nil, fmt.Errorf("%s: %w", filepath.Base(file), err)
	}
	var probed struct {
		Streams []struct{ Width, Height int }
	}
	if err := json.Unmarshal(said, &probed); err != nil || len(probed.Streams) != 1 {
		return nil, fmt.Errorf("%s has no pictures", filepath.Base(file))
	}
	path, err := ffmpeg.Path()
	if err != nil {
		return nil, err
	}
	ctx, stop := context.WithCancel(ctx)
	p := &player{first: first, stop: stop, img: image.NewRGBA(image.Rect(0, 0, probed.Streams[0].Width, probed.Streams[0].Height))}
	args := append([]string{"-v", "error", "-nostdin"}, ffmpeg.Foreign(ffmpeg.VideoFormats, file)...)
	p.cmd = ffmpeg.Command(ctx, path, append(args, "-map", "0:v:0", "-f", "rawvideo", "-pix_fmt", "rgba", "-")...)
	if p.from, err = p.cmd.StdoutPipe(); err != nil {
		stop()
		return nil, err
	}
	if err := p.cmd.Start(); err != nil {
		stop()
		return nil, err
	}
	return p, nil
}

// frame returns a frame counted from the first, io.EOF after the last. Frames are asked
// for in order, the same one again perhaps.
func (p *player) frame(n int) (*image.RGBA, error) {
	n += p.first
	if n < p.next-1 {
		return nil, fmt.Errorf("frame %d is behind", n)
	}
	for p.next <= n {
		if _, err := io.ReadFull(p.from, p.img.Pix); err != nil {
			return nil, io.EOF
		}
		p.next++
	}
	return p.img, nil
}

func (p *player) close() {
	p.stop()
	_ = p.from.Close()
	_ = p.cmd.Wait()
}
