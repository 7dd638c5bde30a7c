// Package portrait draws small pictures of single things, for lists to choose
// from.
package portrait

import (
	"image"
	"math"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/raster"

	"gonum.org/v1/gonum/spatial/r3"
)

// light is an even light from the front left, on a dark ground.
var light = raster.Look{
	Sun: [3]float64{1.25, 1.15, 1}, SunDir: r3.Unit(r3.Vec{X: -0.55, Y: 0.8, Z: -0.45}),
	Zenith: [3]float64{0.34, 0.4, 0.48}, Horizon: [3]float64{0.014, 0.022, 0.026}, Ground: [3]float64{0.014, 0.022, 0.026},
}

// Of draws things from the front and above so that they fill a picture of a size
// in pixels.
func Of(draws []raster.Draw, width, height int) (*image.RGBA, error) {
	box := geom.EmptyBox()
	for _, d := range draws {
		b := d.Mesh.Bounds.Transform(&d.World)
		box = box.Add(b.Min).Add(b.Max)
	}
	return within(box, draws, width, height)
}

// within draws things as Of does, but so that a box fills the picture.
func within(box geom.Box, draws []raster.Draw, width, height int) (*image.RGBA, error) {
	r, err := raster.New(width, height, 1)
	if err != nil {
		return nil, err
	}
	look := light
	look.Ground = [3]float64{0.045, 0.05, 0.052}
	in := raster.Input{Draws: draws, Look: look}
	const fov = 24
	turn := geom.PanTiltRoll(214, -20, 0)
	in.View = raster.View{VFov: fov, HFov: 2 * geom.Degrees(math.Atan(math.Tan(geom.Radians(fov/2))*float64(width)/float64(height)))}
	in.View.World = turn.At(eye(box, &turn, fov, float64(width)/float64(height)))
	out := image.NewRGBA(image.Rect(0, 0, width, height))
	return out, r.Render(&in, out)
}

// eye steps back until all corners of a box are inside the picture.
func eye(b geom.Box, turn *geom.Mat4, fov, aspect float64) r3.Vec {
	if b.Empty() {
		return r3.Vec{Z: 1}
	}
	back := turn.Inverse()
	t := math.Tan(geom.Radians(fov / 2))
	c, away := b.Center(), 0.0
	for i := range 8 {
		q := back.Dir(r3.Sub(b.Corner(i), c))
		away = max(away, q.Z+math.Abs(q.Y)/t, q.Z+math.Abs(q.X)/t/aspect)
	}
	return r3.Add(c, turn.Dir(r3.Vec{Z: away*1.04 + 0.01}))
}

// Stock draws a stand-in with its own parameters.
func Stock(id string, width, height int) (*image.RGBA, error) {
	draws := []raster.Draw{{Mesh: kit.Build(id, nil, "", nil), World: geom.Identity}}
	for _, w := range kit.Wheels(id, nil) {
		draws = append(draws, raster.Draw{Mesh: kit.WheelMesh(w), World: geom.Translate(w.At)})
	}
	open, _ := kit.Opened(id, nil)
	for _, l := range kit.Leaves(id, nil, "") {
		draws = append(draws, raster.Draw{Mesh: l.Mesh(), World: l.Opened(open)})
	}
	return Of(draws, width, height)
}

// tall is what people are drawn in, so that they can be compared: as tall as a tall one.
var tall = geom.Box{Min: r3.Vec{X: -0.3, Z: -0.15}, Max: r3.Vec{X: 0.3, Y: 1.86, Z: 0.15}}

// Person draws a mannequin at ease, at the same scale as all others.
func Person(f kit.Figure, width, height int) (*image.RGBA, error) {
	return within(tall, standing(f, r3.Vec{}), width, height)
}

// standing is a mannequin at ease somewhere.
func standing(f kit.Figure, at r3.Vec) (draws []raster.Draw) {
	var joints [kit.Joints]geom.Mat4
	s := kit.Stance{Height: f.Height, Ground: at}
	s.Skull, s.Stoop = kit.Carriage(f.Build)
	kit.Pose(&s, &joints)
	for j := range kit.Joints {
		draws = append(draws, raster.Draw{Mesh: kit.Part(j, f), World: joints[j]})
	}
	return draws
}

// Model draws an imported model at rest, with a person beside it if wanted.
func Model(b *kit.Bundle, person bool, width, height int) (*image.RGBA, error) {
	var pose kit.BundlePose
	b.Pose(&pose, -1, 0)
	var draws []raster.Draw
	for i, m := range b.Meshes() {
		d := raster.Draw{Mesh: m, World: geom.Identity}
		if s := &b.Shapes[i]; s.Skin < 0 {
			d.World = pose.Worlds[s.Node]
		}
		draws = append(draws, d)
	}
	if person {
		f := kit.Figure{Height: 1.74, Coat: "#5c7a8a", Legs: "#39424e"}
		draws = append(draws, standing(f, r3.Vec{X: b.Size().Max.X + 0.6})...)
	}
	return Of(draws, width, height)
}
