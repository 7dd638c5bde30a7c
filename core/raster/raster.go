// Package raster is the software renderer: meshes, a camera and lights in, a
// picture out. It needs no GPU, and gives the same bytes with any number of
// threads.
//
// A frame goes through three stages. The first finds which clusters of the draws'
// triangles may be seen, and in which tiles. The shadow stage draws the sun's depth
// map. The tile stage transforms, clips and sets up those clusters that are not
// hidden by what a tile has shown before, and finds, for one or four samples in each pixel,
// the triangle in front, block by block, and shades each triangle once in each
// pixel where it shows. Tiles do not touch each other, and triangles keep their order, so the
// number of threads cannot change the picture.
package raster

import (
	"errors"
	"fmt"
	"image"
	"math"

	"proscen/core/ambient"
	"proscen/core/geom"
	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

// Draw is one mesh in the world.
type Draw struct {
	Mesh     *kit.Mesh
	World    geom.Mat4
	NoShadow bool   // it casts none
	Object   uint32 // what Layers tell of it; 0 stands for nothing
	Bent     bool   // the mesh itself, or its colours, change from frame to frame
}

// stays tells whether a draw is as it was in the frame before.
func (d Draw) stays(before Draw) bool { return d == before && !d.Bent }

// View is the camera: its world matrix (looking along −Z), its horizontal and
// vertical angles in degrees, and how far off its axis the middle of the
// picture is, as tangents to the right and up.
type View struct {
	World      geom.Mat4
	HFov, VFov float64
	Shift      [2]float64
	Lens       Lens
}

// Lamp is a light at a point; its colour is linear and includes the strength.
// It shines fully where the cosine of the angle to Dir is over Inner, and not
// at all under Outer; where Inner is not greater, it shines all around. Shadow is the side
// in pixels of each of the six maps around it that hold its light off, 0 for none; the only one
// of a cone has twice that.
type Lamp struct {
	At, Dir      r3.Vec
	Color        [3]float64
	Reach        float64
	Outer, Inner float64
	Shadow       int
}

// Look is the light of a frame; see docs/shading.md. Colours are linear.
type Look struct {
	Sun      [3]float64 // colour times strength
	SunDir   r3.Vec     // unit vector toward the sun
	Zenith   [3]float64 // sky colours times strength
	Horizon  [3]float64
	Ground   [3]float64
	Haze     float64    // metres, 0 for clear air
	HazeRise float64    // metres over which it thins to 37 %, 0 for even haze
	HazeBase float64    // height in metres where it has its full density
	Gain     [3]float64 // what all light is multiplied by; 0 for 1
	Shadow   geom.Mat4  // world to the shadow map: x, y in −1..1, z in 0..1 growing away from the sun
	ShadowPx int        // side of the shadow map, 0 for none

	ShadowBias  float64     // metres along the normal by which lit points are moved, 0 for what fits the map and the slope
	ShadowSlack float64     // depth in the map by which a lit point may lie behind, 0 for the usual
	ShadowSharp bool        // edges are one pixel of the map wide instead of three
	ShadowBack  bool        // only what is turned away from the sun casts shadow
	Backdrop    *[3]float64 // one colour instead of the sky
	Plain       bool        // light is shown as it is, up to 1, without a tone curve
}

// Input is everything that a frame shows.
type Input struct {
	Draws  []Draw
	View   View
	Look   Look
	Lamps  []Lamp
	Around *ambient.Field // how crowded places are, or nil
}

const (
	subBits  = 8 // fixed-point bits below a pixel
	sub      = 1 << subBits
	nearClip = 0.05 // metres
	endless  = 1e30 // metres from which on single precision cannot hold where pixels are
	guard    = 6    // how far beyond the picture triangles may reach, in half pictures
)

// Renderer renders frames of one size and keeps its buffers between them. It is
// not safe for use by several goroutines at once.
type Renderer struct {
	width, height  int
	tilesX, tilesY int
	threads        int
	grid           grid
	eights         bool     // samples are looked at eight at a time
	sixteens       bool     // and those of parts of blocks sixteen at a time
	most           int      // batches
	draws          []Draw   // of the frame
	placed         []placed // the same
	runs           [][]found
	batches        []batch  // of the frame, those that may be seen
	keys           []uint64 // their numbers, from near to far
	chunks         []chunk
	crew           *crew // of the frame
	scratch        []tileScratch
	before         []Draw // when shadows were drawn the last time,
	stays          []bool // and which of them are still so
	moment         int    // counts those times
	shadow         shadowMap
	shades         []*shade  // the lamps' light is held off by these, for each that casts
	near, radii    []float32 // 1/depth and radius of blur of each pixel, for lenses that blur
	source         []uint8
}

// MaxThreads is how many threads a renderer uses at most.
const MaxThreads = 256

// ErrCrowded says that there is more in a picture than can be drawn.
var ErrCrowded = errors.New("the picture is too crowded")

// MaxSide bounds the width and height of a picture.
const MaxSide = 8192

// ErrSize says that a picture cannot be rendered in the size asked for.
var ErrSize = errors.New("the picture size is out of range")

// New returns a renderer for pictures of a size in pixels with at least one
// thread.
func New(width, height, threads int) (*Renderer, error) {
	if width < 2 || height < 2 || width > MaxSide || height > MaxSide {
		return nil, fmt.Errorf("%w: %dx%d; both sides must be from 2 to %d", ErrSize, width, height, MaxSide)
	}
	threads = max(1, min(threads, MaxThreads))
	r := &Renderer{width: width, height: height, threads: threads, most: mostBatches, grid: grid4, eights: wide, sixteens: wide && sixteen}
	r.tilesX, r.tilesY = (width+tile-1)/tile, (height+tile-1)/tile
	r.chunks = make([]chunk, threads)
	r.scratch = make([]tileScratch, threads)
	for i := range r.chunks {
		r.scratch[i].r = r
		r.chunks[i].bins, r.chunks[i].sheer = make([][]uint32, r.tilesX*r.tilesY), make([][]uint32, r.tilesX*r.tilesY)
	}
	return r, nil
}

// Sample sets how many samples a pixel has: 1 or 4, which is what a new renderer has.
func (r *Renderer) Sample(n int) error {
	switch n {
	case 1:
		r.grid = grid1
	case 4:
		r.grid = grid4
	default:
		return fmt.Errorf("%w: a pixel has 1 or 4 samples, not %d", ErrSize, n)
	}
	return nil
}

// OneByOne makes the renderer look at samples one by one, as it does where the processor
// cannot look at eight at once. Pictures are the same.
func (r *Renderer) OneByOne() { r.eights = false }

// Threads is how many threads the renderer uses.
func (r *Renderer) Threads() int { return r.threads }

// Render draws the input into out, which must have the renderer's size.
func (r *Renderer) Render(in *Input, out *image.RGBA) error {
	if out.Rect.Dx() != r.width || out.Rect.Dy() != r.height {
		return fmt.Errorf("%w: the picture is %v, the renderer makes %dx%d", ErrSize, out.Rect, r.width, r.height)
	}
	r.crew = newCrew(r.threads)
	defer r.crew.over.Store(true)
	s := newShader(in, r.width, r.height)
	s.eights = r.eights
	r.shadows(in, s)
	blurred := in.View.Lens.Spread*float64(r.height)/2 >= sharpest
	if blurred {
		r.near = grown(r.near, r.width*r.height)
	}
	err := r.draw(in, func(t *tileScratch) {
		t.shade(s, out)
		if blurred {
			t.nearness(r.near)
		}
		t.blend(s, out)
	})
	if err == nil && blurred {
		r.blur(in.View.Lens, out)
	}
	return err
}

// draw finds what is in front in all tiles, and lets each be finished.
func (r *Renderer) draw(in *Input, finish func(*tileScratch)) error {
	project := projection(&in.View, r.width, r.height)
	r.draws = in.Draws
	if err := r.arrange(in, &project); err != nil {
		return err
	}
	for i := range r.scratch {
		r.scratch[i].forget()
	}
	r.parallel(r.tilesX*r.tilesY, func(w, i int) {
		t := &r.scratch[w]
		r.see(t, i)
		finish(t)
	})
	return nil
}

// projection returns the matrix from the world to (x·w, y·w, ·, w) with x to
// the right and y down in pixels, w the depth in metres along the view.
func projection(v *View, width, height int) geom.Mat4 {
	view := v.World.Inverse()
	fx := float64(width) / 2 / math.Tan(geom.Radians(v.HFov/2))
	fy := float64(height) / 2 / math.Tan(geom.Radians(v.VFov/2))
	p := geom.Mat4{
		fx, 0, v.Shift[0]*fx - float64(width)/2, 0,
		0, -fy, -v.Shift[1]*fy - float64(height)/2, 0,
		0, 0, 0, 1,
		0, 0, -1, 0,
	}
	return p.Mul(&view)
}
