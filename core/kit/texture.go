package kit

import (
	"errors"
	"fmt"
	"math"
)

// Texture is a base-colour picture: sRGB bytes in rows from the top, red, green,
// blue and how opaque it is, with its halvings for small sizes. It repeats in both
// directions, if it has not been told to end at its edges.
type Texture struct {
	Width, Height int
	levels        []texels
	clear         bool // it is not opaque everywhere
	ends          bool // beyond its edges they go on
}

// End lets the texture end at its edges.
func (t *Texture) End() {
	t.ends = true
	for i := range t.levels {
		t.levels[i].ends = true
	}
}

// place brings coordinates into the texture.
func (t *Texture) place(u, v float32) (float32, float32) {
	if t.ends {
		return max(0, min(1, u)), max(0, min(1, v))
	}
	return wrap(u), wrap(v)
}

type texels struct {
	w, h int
	pix  []uint8
	ends bool
}

// MaxTextureSide bounds the sides of a texture.
const MaxTextureSide = 2048

// ErrTexture says that a picture cannot be a texture.
var ErrTexture = errors.New("the texture's size is out of range")

// NewTexture makes a texture of RGBA rows; pix must hold 4·width·height bytes.
func NewTexture(width, height int, pix []uint8) (*Texture, error) {
	if width < 1 || height < 1 || width > MaxTextureSide || height > MaxTextureSide || len(pix) != 4*width*height {
		return nil, fmt.Errorf("%w: %dx%d with %d bytes; sides may have up to %d", ErrTexture, width, height, len(pix), MaxTextureSide)
	}
	t := &Texture{Width: width, Height: height, levels: []texels{{w: width, h: height, pix: pix}}}
	for i := 3; i < len(pix) && !t.clear; i += 4 {
		t.clear = pix[i] < 255
	}
	for l := t.levels[0]; l.w > 1 || l.h > 1; {
		l = l.half()
		t.levels = append(t.levels, l)
	}
	return t, nil
}

// Pixels returns the texture's own rows.
func (t *Texture) Pixels() []uint8 { return t.levels[0].pix }

// half averages blocks of two by two, in linear light.
func (l texels) half() texels {
	out := texels{w: max(1, l.w/2), h: max(1, l.h/2)}
	out.pix = make([]uint8, 4*out.w*out.h)
	for y := range out.h {
		for x := range out.w {
			for c := range 3 {
				sum := float32(0)
				for k := range 4 {
					sx, sy := min(l.w-1, 2*x+k&1), min(l.h-1, 2*y+k>>1)
					sum += toLinear[l.pix[4*(sy*l.w+sx)+c]]
				}
				out.pix[4*(y*out.w+x)+c] = toSRGB(sum / 4)
			}
			opaque := 0
			for k := range 4 {
				sx, sy := min(l.w-1, 2*x+k&1), min(l.h-1, 2*y+k>>1)
				opaque += int(l.pix[4*(sy*l.w+sx)+3])
			}
			out.pix[4*(y*out.w+x)+3] = uint8((opaque + 2) / 4)
		}
	}
	return out
}

var toLinear = func() (t [256]float32) {
	for i := range t {
		t[i] = linear(uint64(i))
	}
	return t
}()

func toSRGB(v float32) uint8 {
	f := float64(v)
	if f <= 0.0031308 {
		f *= 12.92
	} else {
		f = 1.055*math.Pow(f, 1/2.4) - 0.055
	}
	return uint8(max(0, min(255, f*255+0.5)))
}

// At returns the linear colour at a place (0 to 1 from the left and from the
// top), seen so that one pixel of the picture covers size texels on a side: that of the two
// halvings around it, each between four texels (Williams, "Pyramidal parametrics", 1983).
func (t *Texture) At(u, v, size float32) [3]float32 {
	u, v = t.place(u, v)
	fine, coarse, rest := t.around(size)
	out := fine.between(u, v)
	if coarse != nil {
		next := coarse.between(u, v)
		for k := range out {
			out[k] += (next[k] - out[k]) * rest
		}
	}
	return out
}

// opacity is At for how opaque it is, 0 to 1.
func (t *Texture) opacity(u, v, size float32) float32 {
	u, v = t.place(u, v)
	fine, coarse, rest := t.around(size)
	out := fine.opaque(u, v)
	if coarse != nil {
		out += (coarse.opaque(u, v) - out) * rest
	}
	return out
}

// around returns the halvings around a size, and how far it is from the finer one to the
// coarser one, which is nil where the finer one is all.
func (t *Texture) around(size float32) (fine, coarse *texels, rest float32) {
	if !(size > 1) {
		return &t.levels[0], nil, 0
	}
	whole, part := math.Modf(math.Log2(float64(size)))
	last := len(t.levels) - 1
	if whole >= float64(last) {
		return &t.levels[last], nil, 0
	}
	return &t.levels[int(whole)], &t.levels[int(whole)+1], float32(part)
}

// four returns the texels around a place, and where it is between them.
func (l *texels) four(u, v float32) (a, b, c, d []uint8, fx, fy float32) {
	x, y := u*float32(l.w)-0.5, v*float32(l.h)-0.5
	if l.ends {
		x, y = max(0, min(float32(l.w-1), x)), max(0, min(float32(l.h-1), y))
	}
	fx, fy = float32(math.Floor(float64(x))), float32(math.Floor(float64(y)))
	x0, y0 := int(fx), int(fy)
	return l.at(x0, y0), l.at(x0+1, y0), l.at(x0, y0+1), l.at(x0+1, y0+1), x - fx, y - fy
}

// opaque returns how opaque it is between four texels.
func (l *texels) opaque(u, v float32) float32 {
	a, b, c, d, fx, fy := l.four(u, v)
	top := float32(a[3]) + (float32(b[3])-float32(a[3]))*fx
	low := float32(c[3]) + (float32(d[3])-float32(c[3]))*fx
	return (top + (low-top)*fy) / 255
}

// between returns the colour between four texels.
func (l *texels) between(u, v float32) (out [3]float32) {
	a, b, c, d, fx, fy := l.four(u, v)
	for k := range out {
		top := toLinear[a[k]] + (toLinear[b[k]]-toLinear[a[k]])*fx
		low := toLinear[c[k]] + (toLinear[d[k]]-toLinear[c[k]])*fx
		out[k] = top + (low-top)*fy
	}
	return out
}

// wrap returns the fraction of a coordinate; what is not finite is 0.
func wrap(v float32) float32 {
	v -= float32(math.Floor(float64(v)))
	if !(v >= 0 && v <= 1) {
		return 0
	}
	return v
}

func (l *texels) at(x, y int) []uint8 {
	x, y = (x%l.w+l.w)%l.w, (y%l.h+l.h)%l.h
	return l.pix[4*(y*l.w+x):]
}

// InHex writes a linear colour, 0 to 1, as #rrggbb; see Hex.
func InHex(c [3]float64) string {
	return fmt.Sprintf("#%02x%02x%02x", toSRGB(float32(c[0])), toSRGB(float32(c[1])), toSRGB(float32(c[2])))
}
