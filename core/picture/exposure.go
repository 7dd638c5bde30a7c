package picture

import (
	"image"
	"math"

	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/raster"

	"gonum.org/v1/gonum/spatial/r3"
)

// exposures is how many times a frame is seen whose lens or motion blurs: each through
// another point of the lens, at another moment while the shutter is open, and at another
// place in its pixels.
const exposures = 16

// exposure is one of them, in shares from 0 to 1 of the pixel and of the time, and from
// −1 to 1 of the lens.
type exposure struct{ x, y, at, lensX, lensY float64 }

// pattern spreads the exposures evenly: pixel and time by the additive recurrence of
// Roberts ("The unreasonable effectiveness of quasirandom sequences", 2018) in three
// dimensions, the lens by Vogel's spiral (1979).
var pattern = func() (out [exposures]exposure) {
	const root = 1.2207440846057596 // of x⁴ = x + 1
	turn := math.Pi * (3 - math.Sqrt(5))
	part := func(i, power int) float64 {
		_, f := math.Modf(0.5 + float64(i)/math.Pow(root, float64(power)))
		return f
	}
	for i := range out {
		s, c := math.Sincos(float64(i) * turn)
		r := math.Sqrt((float64(i) + 0.5) / exposures)
		out[i] = exposure{part(i, 1), part(i, 2), part(i, 3), r * c, r * s}
	}
	return out
}()

// exposed tells whether a frame is to be exposed rather than rendered at once.
func (p *Painter) exposed() bool {
	s := &p.session.Doc.Settings
	return p.form.Quality == Fine && (s.Blur || s.Shutter > 0)
}

// expose renders what is on air at a frame while the shutter is open, and returns the
// camera at its beginning. Playing finds what is on air at a later moment of screen time.
func (p *Painter) expose(screen float64, on *program.Playing, playing func(at float64) *program.Playing, img *image.RGBA) (*motion.CameraState, error) {
	if p.sample == nil {
		r, err := raster.New(p.form.Width, p.form.Height, p.threads)
		if err != nil {
			return nil, err
		}
		if err := r.Sample(1); err != nil {
			return nil, err
		}
		p.sample, p.light = r, make([]uint32, len(img.Pix))
	}
	clear(p.light)
	open := p.session.Doc.Settings.Shutter / 360 // frames
	if p.Pace > 0 {
		open *= p.Pace
	}
	for _, e := range pattern {
		now := on
		if open > 0 {
			if later := playing(screen + e.at*open); later != nil {
				now = later
			}
		}
		in := p.session.In(now.Shot)
		view := in.View(now)
		in.Draws(view, now.Shot, &p.input)
		if err := p.failed(); err != nil {
			return nil, err
		}
		through(&p.input.View, e, p.form.Width, p.form.Height)
		if err := p.sample.Render(&p.input, img); err != nil {
			return nil, err
		}
		for i, v := range img.Pix {
			p.light[i] += uint32(v) * uint32(v) // a rough linear light, as in the blur of lenses
		}
	}
	for i, v := range p.light {
		img.Pix[i] = uint8(math.Sqrt(float64(v)/exposures) + 0.5)
	}
	return p.session.In(on.Shot).View(on), nil
}

// through moves a view to a point of its lens, so that what is in focus stays where it is,
// and by a part of a pixel. What is left of the lens's blur is that of the part of it that
// the point stands for.
func through(v *raster.View, e exposure, width, height int) {
	tx, ty := math.Tan(geom.Radians(v.HFov/2)), math.Tan(geom.Radians(v.VFov/2))
	v.Shift[0] -= (e.x - 0.5) * 2 * tx / float64(width)
	v.Shift[1] += (e.y - 0.5) * 2 * ty / float64(height)
	if v.Lens.Spread <= 0 || v.Lens.Focus <= 0 {
		return
	}
	// A point at an infinite distance moves by o/s in the picture for a step of o.
	radius := v.Lens.Spread * v.Lens.Focus * ty
	x, y := e.lensX*radius, e.lensY*radius
	v.Shift[0] -= x / v.Lens.Focus
	v.Shift[1] -= y / v.Lens.Focus
	side := v.World.Dir(r3.Vec{X: x, Y: y})
	v.World = v.World.At(r3.Add(v.World.Origin(), side))
	v.Lens.Spread /= math.Sqrt(exposures)
}
