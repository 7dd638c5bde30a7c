package raster

import (
	"math"
	"sync"

	"proscen/core/ambient"
	"proscen/core/geom"
)

// shader holds a frame's light in the form that pixels need. All colours are
// linear; docs/shading.md says what is computed, and the viewport's GLSL does
// the same.
type shader struct {
	rays
	draws           []Draw
	eights          bool // pixels are shaded eight at a time
	sun, sunDir     [3]float32
	zenith, horizon [3]float32
	shine           [3]float32 // of what glows
	ground, upward  [3]float32 // and what the zenith has more
	haze            float32    // 1/metres
	rise            float32    // 1/metres
	base            float32    // metres
	lamps           []lamp
	curve           *toneCurve
	backdrop        *uint32 // a finished colour instead of the sky
	shadow          *shadowMap
	cast            mapping
	around          *ambient.Field
	among           rays // in its cells
}

// rays are view rays in some space: where they begin, that of pixel (0, 0), and its steps,
// all of depth 1.
type rays struct{ eye, ray0, rayX, rayY [3]float32 }

// at returns the place at a depth along the ray through a place in the picture.
func (r *rays) at(px, py, depth float32) (out [3]float32) {
	for k := range out {
		out[k] = r.eye[k] + (r.ray0[k]+r.rayX[k]*px+r.rayY[k]*py)*depth
	}
	return out
}

// mapping turns places into those of the shadow map: x and y in its pixels, from the
// middle of the first one, and depth, less what is forgiven.
type mapping struct {
	rays                       // the same as the shader's
	bias         [3][3]float32 // what a normal moves a place by, for each unit of
	least, slope float32       // the least, and what comes on top where the sun only grazes
	sharp        bool
}

type lamp struct {
	at, color, dir [3]float32
	reach2         float32 // 1/reach²
	outer, sharp   float32 // cosine at the edge of the cone; 1/(inner − outer)
	spot           bool
	of             *Lamp
	shade          *shade // what holds its light off, or nil,
	slot           int    // and its number among those that have something
}

// Constants of the shading model.
const (
	exposure  = 1.4  // of the filmic curve
	glowGain  = 1.6  // how bright a glowing surface is
	haloPower = 16   // sharpness of the glow around the sun
	haloGain  = 0.35 // its strength
)

// toneCurve maps linear light to sRGB bytes.
type toneCurve struct {
	steps float32 // for each unit of light
	to    [toneSteps]uint8
}

const toneSteps = 16384

func newCurve(reach float64, tone func(float64) float64) *toneCurve {
	c := &toneCurve{steps: float32(toneSteps / reach)}
	for i := range c.to {
		v := tone((float64(i) + 0.5) * reach / toneSteps)
		if v <= 0.0031308 {
			v *= 12.92
		} else {
			v = 1.055*math.Pow(v, 1/2.4) - 0.055
		}
		c.to[i] = uint8(v*255 + 0.5)
	}
	c.to[0] = 0 // black stays black
	return c
}

// filmic is the tone curve of docs/shading.md, plain is none.
var (
	filmic = sync.OnceValue(func() *toneCurve { return newCurve(4, func(x float64) float64 { return 1 - math.Exp(-exposure*x) }) })
	plain  = sync.OnceValue(func() *toneCurve { return newCurve(1, func(x float64) float64 { return x }) })
)

func (c *toneCurve) toned(x float32) uint32 {
	i := int(x * c.steps)
	if uint(i) >= toneSteps {
		i = toneSteps - 1
		if !(x >= 0) {
			i = 0
		}
	}
	return uint32(c.to[i])
}

// finish returns light as a picture's red, green, blue and opaque bytes, red the lowest.
func (c *toneCurve) finish(r, g, b float32) uint32 {
	return c.toned(r) | c.toned(g)<<8 | c.toned(b)<<16 | 255<<24
}

func f3(c [3]float64) [3]float32 {
	return [3]float32{float32(c[0]), float32(c[1]), float32(c[2])}
}

func newShader(in *Input, width, height int) *shader {
	s := &shader{
		draws: in.Draws,
		sun:   f3(in.Look.Sun), zenith: f3(in.Look.Zenith), horizon: f3(in.Look.Horizon), ground: f3(in.Look.Ground),
		sunDir: f3([3]float64{in.Look.SunDir.X, in.Look.SunDir.Y, in.Look.SunDir.Z}),
	}
	gain := [3]float32{1, 1, 1}
	if in.Look.Gain != [3]float64{} {
		gain = f3(in.Look.Gain)
	}
	for i, k := range gain { // all that shines is in proportion to what is seen
		s.sun[i] *= k
		s.zenith[i] *= k
		s.horizon[i] *= k
		s.ground[i] *= k
		s.shine[i] = glowGain * k
	}
	for i := range s.upward {
		s.upward[i] = s.zenith[i] - s.ground[i]
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
	if f := in.Around; f != nil && f.Version > 0 {
		s.around = f
		k := float32(1 / f.Cell)
		for i, from := range [3]float64{f.From.X, f.From.Y, f.From.Z} {
			s.among.eye[i] = float32((w[4*i+3] - from) / f.Cell)
			s.among.ray0[i], s.among.rayX[i], s.among.rayY[i] = s.ray0[i]*k, s.rayX[i]*k, s.rayY[i]*k
		}
	}
	for i := range in.Lamps {
		l := &in.Lamps[i]
		if l.Color == [3]float64{} || l.Reach <= 0 {
			continue
		}
		s.lamps = append(s.lamps, lamp{
			at: f3([3]float64{l.At.X, l.At.Y, l.At.Z}), color: [3]float32{float32(l.Color[0]) * gain[0], float32(l.Color[1]) * gain[1], float32(l.Color[2]) * gain[2]}, dir: f3([3]float64{l.Dir.X, l.Dir.Y, l.Dir.Z}),
			reach2: float32(1 / (l.Reach * l.Reach)), outer: float32(l.Outer), sharp: float32(1 / max(1e-4, l.Inner-l.Outer)), spot: l.Inner > l.Outer, of: l,
		})
	}
	if in.Look.Plain {
		s.curve = plain()
	} else {
		s.curve = filmic()
	}
	if b := in.Look.Backdrop; b != nil {
		c := f3(*b)
		v := s.curve.finish(c[0], c[1], c[2])
		s.backdrop = &v
	}
	return s
}

// shadowed says that the sun is held off by a map, which must have been drawn.
func (s *shader) shadowed(l *Look, m *shadowMap) {
	s.shadow = m
	half := float64(m.size) / 2
	slack := shadowSlack
	if l.ShadowSlack > 0 {
		slack = l.ShadowSlack
	}
	t := &l.Shadow
	rows := [3][4]float64{}
	for c := range 4 {
		rows[0][c], rows[1][c], rows[2][c] = t[c]*half, -t[4+c]*half, t[8+c]
	}
	rows[0][3] += half - 0.5
	rows[1][3] += half - 0.5
	rows[2][3] -= slack
	// In pixels of the map: what is looked at lies up to two of them aside.
	bias := 1 / math.Sqrt(rows[0][0]*rows[0][0]+rows[0][1]*rows[0][1]+rows[0][2]*rows[0][2])
	s.cast.least, s.cast.slope = shadowLeast, shadowSlope
	if l.ShadowBias > 0 {
		bias, s.cast.least, s.cast.slope = l.ShadowBias, 1, 0
	}
	s.cast.sharp = l.ShadowSharp
	for i, row := range rows {
		dir := func(v [3]float32) float32 {
			return float32(row[0]*float64(v[0]) + row[1]*float64(v[1]) + row[2]*float64(v[2]))
		}
		s.cast.eye[i] = dir(s.eye) + float32(row[3])
		s.cast.ray0[i], s.cast.rayX[i], s.cast.rayY[i] = dir(s.ray0), dir(s.rayX), dir(s.rayY)
		for c := range 3 {
			s.cast.bias[i][c] = float32(row[c] * bias)
		}
	}
}

// moves returns what a normal moves a place by in the map.
func (c *mapping) moves(n *[3]float32, sunward float32) [3]float32 {
	by := c.least
	if c.slope > 0 {
		by += c.slope * sqrt(greater(0, 1-sunward*sunward))
	}
	return [3]float32{dot(c.bias[0], *n) * by, dot(c.bias[1], *n) * by, dot(c.bias[2], *n) * by}
}

// ray is the view ray at a place in the picture, of depth 1.
func (s *shader) ray(px, py float32) [3]float32 {
	return [3]float32{
		s.ray0[0] + s.rayX[0]*px + s.rayY[0]*py,
		s.ray0[1] + s.rayX[1]*px + s.rayY[1]*py,
		s.ray0[2] + s.rayX[2]*px + s.rayY[2]*py,
	}
}

// hazed is the share of the horizon's colour before a place along a view ray.
func (s *shader) hazed(ray *[3]float32, depth float32) float32 {
	return 1 - fade(s.thickness(depth*sqrt(ray[0]*ray[0]+ray[1]*ray[1]+ray[2]*ray[2]), s.eye[1]+ray[1]*depth))
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

func sqrt(x float32) float32 { return float32(math.Sqrt(float64(x))) }

func length(v [3]float32) float32 { return sqrt(dot(v, v)) }

func unit(v [3]float32) [3]float32 {
	l := 1 / sqrt(v[0]*v[0]+v[1]*v[1]+v[2]*v[2]+1e-20)
	return [3]float32{v[0] * l, v[1] * l, v[2] * l}
}

func dot(a, b [3]float32) float32 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// fadeTable holds e^−x for x from 0 to fadeReach; see fade.
var fadeTable = func() (t [fadeReach*fadeSteps + 2]float32) {
	for i := range t {
		t[i] = float32(math.Exp(-float64(i) / fadeSteps))
	}
	return t
}()

const (
	fadeReach = 8
	fadeSteps = 128 // for each 1
)

// fade returns e^−x for x ≥ 0 by linear interpolation, within 1e-5.
func fade(x float32) float32 {
	x *= fadeSteps
	if x >= fadeReach*fadeSteps {
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
