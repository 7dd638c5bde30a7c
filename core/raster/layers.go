package raster

import (
	"fmt"
	"image"
	"math"
	"math/bits"
)

// Layers are what a frame tells besides its picture: a value for each pixel, by rows. Of
// a pixel with several things in it depth, normal and position are those of the one with
// the most samples, at the middle of these, and never a mixture; those of the sky when it
// has more than half. What is nil is not made.
type Layers struct {
	Depth    []float32    // metres along the view, +Inf where nothing is
	Position [][3]float32 // metres in the world, 0 where nothing is
	Normal   [][3]float32 // of length 1 in the world, 0 where nothing is
	Objects  [][4]uint32  // the object of each of the four samples, 0 for nothing
}

// NewLayers makes room for the layers that are wanted of a picture's size.
func NewLayers(width, height int, depth, position, normal, objects bool) *Layers {
	l, n := &Layers{}, width*height
	if depth {
		l.Depth = make([]float32, n)
	}
	if position {
		l.Position = make([][3]float32, n)
	}
	if normal {
		l.Normal = make([][3]float32, n)
	}
	if objects {
		l.Objects = make([][4]uint32, n)
	}
	return l
}

// RenderLayers fills the layers of the input, which must have the renderer's size.
func (r *Renderer) RenderLayers(in *Input, l *Layers) error {
	n := r.width * r.height
	for _, have := range []int{len(l.Depth), len(l.Position), len(l.Normal), len(l.Objects)} {
		if have != 0 && have != n {
			return fmt.Errorf("%w: a layer has %d pixels, the renderer makes %d", ErrSize, have, n)
		}
	}
	r.crew = newCrew(r.threads)
	defer r.crew.over.Store(true)
	// The light is not looked at; the rays and the faces are the picture's.
	dark := *in
	dark.Look, dark.Lamps = Look{Haze: 1}, nil
	s := newShader(&dark, r.width, r.height)
	return r.draw(&dark, func(t *tileScratch) { t.layers(s, l) })
}

// layers tells what is in front in a tile.
func (t *tileScratch) layers(s *shader, l *Layers) {
	n := t.r.grid.n
	for i := range t.blocks {
		b := &t.blocks[i]
		for y := range min(side, int32(t.r.height)-b.y) {
			for x := range min(side, int32(t.r.width)-b.x) {
				owners := [most]uint32{b.whole, b.whole, b.whole, b.whole}
				if b.whole == several {
					at := b.owner[int(y*side+x)*n:]
					for k := range owners {
						owners[k] = at[k%n]
					}
				}
				l.set(t, s, int(b.y+y)*t.r.width+int(b.x+x), &owners, float32(b.x+x), float32(b.y+y))
			}
		}
	}
}

// set fills one pixel, whose top left corner is at px, py.
func (l *Layers) set(t *tileScratch, s *shader, at int, owners *[most]uint32, px, py float32) {
	if l.Objects != nil {
		for k, o := range owners {
			l.Objects[at][k] = 0
			if o != nobody {
				l.Objects[at][k] = s.draws[t.r.triangleOf(o).draw].Object
			}
		}
	}
	if l.Depth == nil && l.Position == nil && l.Normal == nil {
		return
	}
	best, samples := nobody, uint32(0)
	for left := uint32(1<<most - 1); left != 0; {
		o, same := owners[bits.TrailingZeros32(left)], uint32(0)
		for k, v := range owners {
			if v == o {
				same |= 1 << k
			}
		}
		left &^= same
		n := bits.OnesCount32(same)
		switch { // things that share most of a pixel are there, however many they are
		case o == nobody && n > most/2:
			best, samples = nobody, 1<<most-1
		case o != nobody && n > bits.OnesCount32(samples):
			best, samples = o, same
		}
	}
	depth, place, normal := float32(math.Inf(1)), [3]float32{}, [3]float32{}
	if best != nobody {
		m := &middles[samples]
		x, y := px+m.x, py+m.y
		f := t.face(s, best)
		depth = f.depth(x, y)
		for k := range place {
			place[k] = s.eye[k] + (s.ray0[k]+s.rayX[k]*x+s.rayY[k]*y)*depth
		}
		if l.Normal != nil {
			if !f.flat {
				f.smooth(s, x, y)
			}
			normal = f.light.n
		}
	}
	if l.Depth != nil {
		l.Depth[at] = depth
	}
	if l.Position != nil {
		l.Position[at] = place
	}
	if l.Normal != nil {
		l.Normal[at] = normal
	}
}

// Shown draws a layer so that people can look at it: depth the nearer the brighter,
// positions by their fractions of ten metres, normals as directions, objects in colours
// of their own.
func (l *Layers) Shown(out *image.RGBA) {
	for at := range len(out.Pix) / 4 {
		var c [3]float32
		switch {
		case l.Depth != nil:
			v := 1 / (1 + l.Depth[at]/10)
			c = [3]float32{v, v, v}
		case l.Normal != nil:
			for k, v := range l.Normal[at] {
				c[k] = 0.5 + v/2
			}
		case l.Position != nil:
			for k, v := range l.Position[at] {
				_, part := math.Modf(float64(v) / 10)
				c[k] = float32(math.Abs(part))
			}
		case l.Objects != nil:
			for _, o := range l.Objects[at] {
				h := o * 2654435761 // Knuth's multiplicative hash
				for k := range c {
					if o != 0 {
						c[k] += (0.2 + 0.8*float32(h>>(8*k+3)&0xff)/255) / most
					}
				}
			}
		}
		for k, v := range c {
			out.Pix[4*at+k] = uint8(max(0, min(1, v))*255 + 0.5)
		}
		out.Pix[4*at+3] = 255
	}
}
