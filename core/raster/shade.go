package raster

import (
	"image"
	"math"

	"proscen/core/geom"
)

// shader holds a frame's light in the form that pixels need. All colours are
// linear; docs/shading.md says what is computed, and the viewport's GLSL does
// the same.
type shader struct {
	eye              [3]float32
	ray0, rayX, rayY [3]float32 // view ray at pixel (0, 0) and its steps, depth 1
	sun, sunDir      [3]float32
	zenith, horizon  [3]float32
	ground           [3]float32
	haze             float32 // 1/metres
	rise             float32 // 1/metres
	base             float32 // metres
	lamps            []lamp
	shadow           *shadowMap
	toShadow         [12]float32
	bias             float32 // metres along the normal
}

type lamp struct {
	at, color, dir [3]float32
	reach2         float32 // 1/reach²
	outer, sharp   float32 // cosine at the edge of the cone; 1/(inner − outer)
	spot           bool
}

// Constants of the shading model.
const (
	exposure  = 1.4  // tone(x) = 1 − e^(−exposure·x)
	glowGain  = 1.6  // how bright a glowing surface is
	haloPower = 16   // sharpness of the glow around the sun
	haloGain  = 0.35 // its strength
)

const toneSteps = 16384
const toneRange = 4

// tone maps linear light to sRGB bytes through the tone curve.
var tone = func() (t [toneSteps]uint8) {
	for i := range t {
		x := (float64(i) + 0.5) * toneRange / toneSteps
		v := 1 - math.Exp(-exposure*x)
		if v <= 0.0031308 {
			v *= 12.92
		} else {
			v = 1.055*math.Pow(v, 1/2.4) - 0.055
		}
		t[i] = uint8(v*255 + 0.5)
	}
	t[0] = 0 // black stays black
	return t
}()

func toned(x float32) uint8 {
	i := int(x * (toneSteps / toneRange))
	if uint(i) >= toneSteps {
		if i < 0 {
			return tone[0]
		}
		return tone[toneSteps-1]
	}
	return tone[i]
}

func f3(c [3]float64) [3]float32 {
	return [3]float32{float32(c[0]), float32(c[1]), float32(c[2])}
}

func newShader(in *Input, width, height int) *shader {
	s := &shader{
		sun: f3(in.Look.Sun), zenith: f3(in.Look.Zenith), horizon: f3(in.Look.Horizon), ground: f3(in.Look.Ground),
		sunDir: f3([3]float64{in.Look.SunDir.X, in.Look.SunDir.Y, in.Look.SunDir.Z}),
	}
	w := &in.View.World
	s.eye = f3([3]float64{w[3], w[7], w[11]})
	tx, ty := math.Tan(geom.Radians(in.View.HFov/2)), math.Tan(geom.Radians(in.View.VFov/2))
	for i := range 3 {
		right, up, back := w[i*4], w[i*4+1], w[i*4+2]
		s.ray0[i] = float32((in.View.Shift[0]-tx)*right + (in.View.Shift[1]+ty)*up - back)
		s.rayX[i] = float32(2 * tx / float64(width) * right)
		s.rayY[i] = float32(-2 * ty / float64(height) * up)
	}
	if in.Look.Haze > 0 {
		s.haze = float32(1 / in.Look.Haze)
		if in.Look.HazeRise > 0 {
			s.rise, s.base = float32(1/in.Look.HazeRise), float32(in.Look.HazeBase)
		}
	}
	for _, l := range in.Lamps {
		if l.Color == [3]float64{} || l.Reach <= 0 {
			continue
		}
		s.lamps = append(s.lamps, lamp{
			at: f3([3]float64{l.At.X, l.At.Y, l.At.Z}), color: f3(l.Color), dir: f3([3]float64{l.Dir.X, l.Dir.Y, l.Dir.Z}),
			reach2: float32(1 / (l.Reach * l.Reach)), outer: float32(l.Outer), sharp: float32(1 / max(1e-4, l.Inner-l.Outer)), spot: l.Inner > l.Outer,
		})
	}
	for i := range 12 {
		s.toShadow[i] = float32(in.Look.Shadow[i])
	}
	if in.Look.ShadowPx > 0 && in.Look.Shadow[0] != 0 {
		// One and a half shadow pixels, in metres.
		scale := math.Sqrt(in.Look.Shadow[0]*in.Look.Shadow[0] + in.Look.Shadow[1]*in.Look.Shadow[1] + in.Look.Shadow[2]*in.Look.Shadow[2])
		s.bias = float32(1.5 * 2 / float64(in.Look.ShadowPx) / scale)
	}
	return s
}

// face is what is the same for all pixels of one triangle; of neighbouring
// pixels most show the same one.
type face struct {
	owner uint32
	t     *triangle
	ch    *chunk
	near  float32 // smallest 1/w of its corners
	flat  flatLight
}

// flatLight is the light of a normal that does not depend on the place.
type flatLight struct {
	n, base [3]float32
	glow    float32
	hemi    [3]float32
	sunward float32
}

func (s *shader) flatLight(n [3]float32, base [4]float32) (f flatLight) {
	f.n, f.glow = n, base[3]
	f.base = [3]float32{base[0], base[1], base[2]}
	k := 0.5 + 0.5*n[1]
	for i := range f.hemi {
		f.hemi[i] = s.ground[i] + (s.zenith[i]-s.ground[i])*k
	}
	f.sunward = dot(n, s.sunDir)
	return f
}

// shade turns the owners of a tile's samples into pixels.
func (r *Renderer) shade(t *tileScratch, s *shader, ox, oy, w, h int32, out *image.RGBA) {
	f := face{owner: nobody}
	for y := range h {
		o := out.PixOffset(int(ox)+out.Rect.Min.X, int(oy+y)+out.Rect.Min.Y)
		pix := out.Pix[o : o+int(w)*4]
		for x := range w {
			at := (y*tile + x) * samples
			owner := (*[samples]uint32)(t.owner[at : at+samples])
			px, py := float32(ox+x), float32(oy+y)
			var rgb [3]uint8
			if owner[0] == owner[1] && owner[0] == owner[2] && owner[0] == owner[3] {
				rgb = r.surface(s, &f, owner[0], px+0.5, py+0.5)
			} else {
				rgb = r.mixed(s, &f, owner, px, py)
			}
			p := pix[x*4 : x*4+4 : x*4+4]
			p[0], p[1], p[2], p[3] = rgb[0], rgb[1], rgb[2], 255
		}
	}
}

// mixed shades each owner of a pixel once, at the middle of its samples, and
// averages by the number of samples. The average is taken of finished bytes, as
// a display's multisampling does, so that bright edges stay smooth.
func (r *Renderer) mixed(s *shader, f *face, owner *[samples]uint32, px, py float32) [3]uint8 {
	var sum [3]uint32
	var done [samples]bool
	for i := range samples {
		if done[i] {
			continue
		}
		n, cx, cy := uint32(0), int32(0), int32(0)
		for k := i; k < samples; k++ {
			if owner[k] == owner[i] {
				done[k] = true
				n++
				cx += sampleX[k]
				cy += sampleY[k]
			}
		}
		c := r.surface(s, f, owner[i], px+float32(cx)/float32(n*sub), py+float32(cy)/float32(n*sub))
		for k := range sum {
			sum[k] += n * uint32(c[k])
		}
	}
	return [3]uint8{uint8((sum[0] + 2) / 4), uint8((sum[1] + 2) / 4), uint8((sum[2] + 2) / 4)}
}

// surface shades the owner of a sample at a place in the picture; f remembers
// the last one.
func (r *Renderer) surface(s *shader, f *face, owner uint32, px, py float32) [3]uint8 {
	ray := [3]float32{
		s.ray0[0] + s.rayX[0]*px + s.rayY[0]*py,
		s.ray0[1] + s.rayX[1]*px + s.rayY[1]*py,
		s.ray0[2] + s.rayX[2]*px + s.rayY[2]*py,
	}
	if owner == nobody {
		c := s.sky(ray)
		return [3]uint8{toned(c[0]), toned(c[1]), toned(c[2])}
	}
	if f.owner != owner {
		f.owner = owner
		f.ch = &r.chunks[owner>>ownerShift]
		f.t = &f.ch.triangles[owner&(1<<ownerShift-1)]
		f.near = min(f.t.iw[0], f.t.iw[1], f.t.iw[2])
		if f.t.flat {
			a := &f.ch.vertices[f.t.v[0]]
			f.flat = s.flatLight(a.n, a.c)
		}
	}
	t := f.t
	depth := 1 / max(t.z0+t.zx*px+t.zy*py, f.near)
	if !t.flat {
		f.flat = r.smooth(s, f, px, py, depth)
	}
	g := &f.flat
	px0, py0, pz0 := s.eye[0]+ray[0]*depth, s.eye[1]+ray[1]*depth, s.eye[2]+ray[2]*depth
	l0, l1, l2 := g.hemi[0], g.hemi[1], g.hemi[2]
	if d := g.sunward; d > 0 {
		if s.shadow != nil {
			d *= s.lit(px0+g.n[0]*s.bias, py0+g.n[1]*s.bias, pz0+g.n[2]*s.bias)
		}
		l0 += s.sun[0] * d
		l1 += s.sun[1] * d
		l2 += s.sun[2] * d
	}
	for i := range s.lamps {
		l := &s.lamps[i]
		tx, ty, tz := l.at[0]-px0, l.at[1]-py0, l.at[2]-pz0
		d2 := tx*tx + ty*ty + tz*tz
		w := 1 - d2*l.reach2
		if w <= 0 {
			continue
		}
		d := g.n[0]*tx + g.n[1]*ty + g.n[2]*tz
		if d <= 0 {
			continue
		}
		away := 1 / sqrt(d2+1e-12)
		k := w * w / (0.2 + 0.8*d2) * d * away
		if l.spot {
			c := -(l.dir[0]*tx + l.dir[1]*ty + l.dir[2]*tz) * away
			e := max(0, min(1, (c-l.outer)*l.sharp))
			k *= e * e * (3 - 2*e)
		}
		l0 += l.color[0] * k
		l1 += l.color[1] * k
		l2 += l.color[2] * k
	}
	lit, shine := 1-g.glow, g.glow*glowGain
	c0, c1, c2 := g.base[0]*(l0*lit+shine), g.base[1]*(l1*lit+shine), g.base[2]*(l2*lit+shine)
	if s.haze > 0 {
		k := 1 - fade(s.thickness(depth*sqrt(ray[0]*ray[0]+ray[1]*ray[1]+ray[2]*ray[2]), py0))
		c0 += (s.horizon[0] - c0) * k
		c1 += (s.horizon[1] - c1) * k
		c2 += (s.horizon[2] - c2) * k
	}
	return [3]uint8{toned(c0), toned(c1), toned(c2)}
}

// thickness returns how much haze lies between the eye and a point at a
// distance and height: the integral of e^(−(y−base)/rise)/haze along the ray.
func (s *shader) thickness(distance, y float32) float32 {
	t := distance * s.haze
	if s.rise == 0 {
		return t
	}
	a, b := (s.eye[1]-s.base)*s.rise, (y-s.base)*s.rise
	ea := power(a)
	d := b - a
	if d < 0.01 && d > -0.01 {
		return min(80, t*ea*(1-d/2))
	}
	return min(80, t*(ea-power(b))/d)
}

// power returns e^−x, for negative x too, up to e^20.
func power(x float32) float32 {
	if x >= 0 {
		return fade(x)
	}
	return 1 / max(2e-9, fade(min(20, -x)))
}

// smooth interpolates normal and colour inside a triangle whose corners differ.
func (r *Renderer) smooth(s *shader, f *face, px, py, depth float32) flatLight {
	t := f.t
	a, b, e := &f.ch.vertices[t.v[0]], &f.ch.vertices[t.v[1]], &f.ch.vertices[t.v[2]]
	l1, l2 := t.weights(px, py, depth)
	l0 := 1 - l1 - l2
	var n [3]float32
	var base [4]float32
	for i := range n {
		n[i] = l0*a.n[i] + l1*b.n[i] + l2*e.n[i]
	}
	for i := range base {
		base[i] = l0*a.c[i] + l1*b.c[i] + l2*e.c[i]
	}
	if t.texture != nil {
		c := t.texture.At(l0*a.u+l1*b.u+l2*e.u, l0*a.v+l1*b.v+l2*e.v, t.texels)
		for i := range c {
			base[i] *= c[i]
		}
	}
	return s.flatLight(unit(n), base)
}

// weights returns the perspective-correct shares of the second and third corner.
func (t *triangle) weights(px, py, depth float32) (l1, l2 float32) {
	x, y := px*sub-float32(t.x[0]), py*sub-float32(t.y[0])
	dx1, dy1 := float32(t.x[1]-t.x[0]), float32(t.y[1]-t.y[0])
	dx2, dy2 := float32(t.x[2]-t.x[0]), float32(t.y[2]-t.y[0])
	l1 = (x*dy2 - dx2*y) * t.inverseOfTwice * t.iw[1] * depth
	l2 = (dx1*y - x*dy1) * t.inverseOfTwice * t.iw[2] * depth
	l1, l2 = min(1, max(0, l1)), min(1, max(0, l2))
	if over := l1 + l2; over > 1 {
		l1, l2 = l1/over, l2/over
	}
	return l1, l2
}

func sqrt(x float32) float32 { return float32(math.Sqrt(float64(x))) }

func unit(v [3]float32) [3]float32 {
	l := 1 / sqrt(v[0]*v[0]+v[1]*v[1]+v[2]*v[2]+1e-20)
	return [3]float32{v[0] * l, v[1] * l, v[2] * l}
}

func dot(a, b [3]float32) float32 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// fadeTable holds e^−x for x from 0 to 8 in steps of 1/128; see fade.
var fadeTable = func() (t [8*128 + 2]float32) {
	for i := range t {
		t[i] = float32(math.Exp(-float64(i) / 128))
	}
	return t
}()

// fade returns e^−x for x ≥ 0 by linear interpolation, within 1e-5.
func fade(x float32) float32 {
	x *= 128
	if x >= 8*128 {
		return 0
	}
	i := int(x)
	f := x - float32(i)
	return fadeTable[i] + (fadeTable[i+1]-fadeTable[i])*f
}

// sky returns the background along a view ray of any length.
func (s *shader) sky(ray [3]float32) (c [3]float32) {
	d := unit(ray)
	if d[1] >= 0 {
		t := sqrt(d[1])
		for i := range c {
			c[i] = s.horizon[i] + (s.zenith[i]-s.horizon[i])*t
		}
	} else {
		t := min(1, -4*d[1])
		for i := range c {
			c[i] = s.horizon[i] + (s.ground[i]-s.horizon[i])*t
		}
	}
	if h := dot(d, s.sunDir); h > 0 {
		for k := 1; k < haloPower; k *= 2 {
			h *= h
		}
		for i := range c {
			c[i] += s.sun[i] * h * haloGain
		}
	}
	return c
}
