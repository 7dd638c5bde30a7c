// Package picturebench measures the renderer on a model file and a camera move, so
// that it can be compared with other renderers of the same picture.
package picturebench

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"proscen/core/geom"
	"proscen/core/interchange"
	"proscen/core/kit"
	"proscen/core/raster"

	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r3"
)

// Cameras is a camera move with its light. Colours are linear; positions in metres,
// Y up; a camera looks along −Z; angles in degrees.
type Cameras struct {
	Width, Height int
	Aspect        float64
	Sun           struct {
		Direction [3]float64 // the way the light travels
		Color     [3]float64
	}
	Hemi       struct{ Sky, Ground [3]float64 }
	Background [3]float64
	Shadow     struct{ HalfExtent, Distance, Near, Far, Bias, NormalBias float64 } // looks at the origin
	Frames     []struct {
		Position   [3]float64
		Quaternion [4]float64 // x, y, z, w
		Fov        float64    // vertical
	}
}

// ReadCameras reads a camera move and refuses what cannot be rendered.
func ReadCameras(data []byte) (*Cameras, error) {
	c := &Cameras{}
	if err := json.Unmarshal(data, c); err != nil {
		return nil, fmt.Errorf("the camera move is not JSON as expected: %w", err)
	}
	if c.Width < 2 || c.Height < 2 || c.Width > raster.MaxSide || c.Height > raster.MaxSide {
		return nil, fmt.Errorf("the camera move asks for a picture of %dx%d; both sides must be from 2 to %d", c.Width, c.Height, raster.MaxSide)
	}
	if len(c.Frames) == 0 {
		return nil, fmt.Errorf("the camera move has no frames")
	}
	if c.Aspect <= 0 {
		c.Aspect = float64(c.Width) / float64(c.Height)
	}
	for i, f := range c.Frames {
		if !(f.Fov > 0 && f.Fov < 180) || f.Quaternion == [4]float64{} {
			return nil, fmt.Errorf("frame %d of the camera move needs a fov between 0 and 180 and a quaternion that is not zero", i)
		}
	}
	return c, nil
}

// ReadModel reads a model file in metres as draws where the file has them.
func ReadModel(ctx context.Context, data []byte) ([]raster.Draw, error) {
	m, err := interchange.Read(ctx, data, interchange.Options{Unit: 1})
	if err != nil {
		return nil, err
	}
	return draws(m.Bundle), nil
}

// draws returns a model at rest, where its file has it.
func draws(b *kit.Bundle) (out []raster.Draw) {
	b.Root = geom.Identity
	var pose kit.BundlePose
	b.Pose(&pose, -1, 0)
	for i, m := range b.Meshes() {
		d := raster.Draw{Mesh: m, World: geom.Identity}
		if s := &b.Shapes[i]; s.Skin < 0 {
			d.World = pose.Worlds[s.Node]
		}
		out = append(out, d)
	}
	return out
}

// Look returns the light, with a shadow map of a side in pixels or none.
func (c *Cameras) Look(shadow int) raster.Look {
	toSun := r3.Scale(-1, r3.Unit(vec(c.Sun.Direction)))
	l := raster.Look{
		Sun: c.Sun.Color, SunDir: toSun, Zenith: c.Hemi.Sky, Ground: c.Hemi.Ground,
		Backdrop: &c.Background, Plain: true,
	}
	if s := c.Shadow; shadow > 0 && s.HalfExtent > 0 && s.Far > s.Near {
		right := r3.Unit(r3.Cross(r3.Vec{Y: 1}, toSun))
		up := r3.Cross(toSun, right)
		e, deep := 1/s.HalfExtent, 1/(s.Far-s.Near)
		l.ShadowPx = shadow
		l.ShadowBias, l.ShadowSlack = s.NormalBias, s.Bias
		l.ShadowBack, l.ShadowSharp = true, true
		l.Shadow = geom.Mat4{
			e * right.X, e * right.Y, e * right.Z, 0,
			e * up.X, e * up.Y, e * up.Z, 0,
			-deep * toSun.X, -deep * toSun.Y, -deep * toSun.Z, (s.Distance - s.Near) * deep,
			0, 0, 0, 1,
		}
	}
	return l
}

// View returns the camera of a frame.
func (c *Cameras) View(frame int) raster.View {
	f := &c.Frames[frame]
	half := math.Tan(geom.Radians(f.Fov) / 2)
	q := f.Quaternion
	turn := quat.Number{Imag: q[0], Jmag: q[1], Kmag: q[2], Real: q[3]}
	placed := geom.Turned(quat.Scale(1/quat.Abs(turn), turn))
	return raster.View{
		World: placed.At(vec(f.Position)),
		VFov:  f.Fov, HFov: 2 * geom.Degrees(math.Atan(half*c.Aspect)),
	}
}

func vec(v [3]float64) r3.Vec { return r3.Vec{X: v[0], Y: v[1], Z: v[2]} }
