package picturebench

import (
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"time"

	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/internal/render"
)

// Options say what is measured.
type Options struct {
	Frames  int // spread over the whole move; 0 for all
	Samples int // in a pixel: 1 or 4
	Shadow  int // side of the shadow map, 0 for none
	Threads int
	Video   string // encoded into this file as well, "" for no video
	PNG     string // a folder for pictures of single frames, "" for none
	Shown   []int  // which frames these are
}

// Result is what was measured. Times hold rendering into memory alone but for Video.
type Result struct {
	Width, Height, Samples, Shadow, Threads int
	Triangles, Draws                        int
	Frames                                  int
	Seconds, FPS                            float64
	MedianMS, SlowestMS                     float64
	MemoryMB                                float64      // taken from the system for all of it
	Video                                   *VideoResult `json:",omitempty"`
}

// VideoResult is the time of rendering and encoding together.
type VideoResult struct{ Seconds, FPS float64 }

// film renders the camera move.
type film struct {
	cameras  *Cameras
	renderer *raster.Renderer
	input    raster.Input
	frames   int
}

func (f *film) Size() (width, height int) { return f.cameras.Width, f.cameras.Height }

// Frame renders the nth of the frames that are measured.
func (f *film) Frame(n int, img *image.RGBA) error {
	total := len(f.cameras.Frames)
	at := n % total
	if f.frames < total {
		at = n * total / f.frames
	}
	return f.render(at, img)
}

func (f *film) render(at int, img *image.RGBA) error {
	f.input.View = f.cameras.View(at)
	return f.renderer.Render(&f.input, img)
}

// Run measures.
func Run(ctx context.Context, draws []raster.Draw, cameras *Cameras, o Options) (*Result, error) {
	if o.Frames <= 0 {
		o.Frames = len(cameras.Frames)
	}
	r, err := raster.New(cameras.Width, cameras.Height, o.Threads)
	if err != nil {
		return nil, err
	}
	if err := r.Sample(o.Samples); err != nil {
		return nil, err
	}
	f := &film{cameras: cameras, renderer: r, frames: o.Frames}
	f.input.Draws, f.input.Look = draws, cameras.Look(o.Shadow)
	out := &Result{
		Width: cameras.Width, Height: cameras.Height, Samples: o.Samples, Shadow: o.Shadow, Threads: r.Threads(),
		Draws: len(draws), Frames: o.Frames,
	}
	for _, d := range draws {
		out.Triangles += len(d.Mesh.Indices) / 3
	}
	img := image.NewRGBA(image.Rect(0, 0, cameras.Width, cameras.Height))
	for n := range min(3, o.Frames) { // buffers grow, the shadow of what stands still is kept
		if err := f.Frame(n, img); err != nil {
			return nil, err
		}
	}
	if err := f.pictures(o, img); err != nil {
		return nil, err
	}
	var each []float64
	begun := time.Now()
	for n := range o.Frames {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		one := time.Now()
		if err := f.Frame(n, img); err != nil {
			return nil, err
		}
		each = append(each, time.Since(one).Seconds()*1000)
	}
	out.Seconds = time.Since(begun).Seconds()
	out.FPS = float64(o.Frames) / out.Seconds
	slices.Sort(each)
	out.MedianMS, out.SlowestMS = each[len(each)/2], each[len(each)-1]
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	out.MemoryMB = float64(m.Sys) / 1e6
	if o.Video == "" {
		return out, nil
	}
	begun = time.Now()
	form := render.Form{Pack: scene.H264, Quality: scene.Check, Rate: timing.Rate{Num: 24, Den: 1}}
	if err := render.Encode(ctx, f, timing.Range{Out: o.Frames}, form, o.Video, nil); err != nil {
		return nil, err
	}
	took := time.Since(begun).Seconds()
	out.Video = &VideoResult{took, float64(o.Frames) / took}
	return out, nil
}

// pictures writes single frames of the move.
func (f *film) pictures(o Options, img *image.RGBA) error {
	if o.PNG == "" {
		return nil
	}
	if err := os.MkdirAll(o.PNG, 0o755); err != nil {
		return err
	}
	for _, at := range o.Shown {
		if at < 0 || at >= len(f.cameras.Frames) {
			return fmt.Errorf("the camera move has no frame %d; its frames are 0 to %d", at, len(f.cameras.Frames)-1)
		}
		if err := f.render(at, img); err != nil {
			return err
		}
		if err := writePNG(filepath.Join(o.PNG, fmt.Sprintf("%03d.png", at)), img); err != nil {
			return err
		}
	}
	return nil
}

func writePNG(file string, img image.Image) error {
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	return errors.Join(png.Encode(f, img), f.Close())
}
