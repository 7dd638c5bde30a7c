package questions

import (
	"math"

	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/raster"

	"gonum.org/v1/gonum/spatial/r3"
)

// seenSide is how many pixels on a side the part of the picture that a subject takes is
// looked at with, each of four samples.
const seenSide = 32

// Below these shares of it a subject is hidden, or behind something.
const (
	hiddenUnder = 0.02
	BehindUnder = 0.5
)

// visibility is the working memory of Visible.
type visibility struct {
	renderer *raster.Renderer
	layers   *raster.Layers
	in       raster.Input
}

// Visible returns which share of a node others leave to be seen by a camera at the frame
// that was evaluated last, 0 to 1: of the samples that it would have in the picture if it
// were there alone, with what hangs on it, those that it has. What carries it hides
// nothing. It is 1 where nothing is found before it at some places all over it. False
// stands for what is not in the picture, or is not there.
func (s *Scene) Visible(c *motion.CameraState, node string) (share float64, framed bool) {
	i := s.Motion.Index(node)
	if i < 0 || i == c.Node {
		return 0, false
	}
	st := s.now()
	f, _ := s.inFrame(c, i, st)
	return s.visible(c, i, &f, st), f.Status != Outside
}

func (s *Scene) visible(c *motion.CameraState, subject int, f *Framed, st *motion.State) float64 {
	b := [4]float64{max(-1, f.Box[0]), max(-1, f.Box[1]), min(1, f.Box[2]), min(1, f.Box[3])}
	if f.Status == Outside || b[0] >= b[2] || b[1] >= b[3] || s.free(c, subject, f, st) {
		return 1
	}
	v := &s.visibility
	if v.renderer == nil {
		r, err := raster.New(seenSide, seenSide, 1)
		if err != nil {
			return 1 // the size is one that can be rendered
		}
		v.renderer, v.layers = r, raster.NewLayers(seenSide, seenSide, false, false, false, true)
	}
	// The picture of the part that the subject takes.
	tx, ty := math.Tan(geom.Radians(c.HFov/2)), math.Tan(geom.Radians(c.VFov/2))
	v.in.View = raster.View{
		World: c.World,
		HFov:  geom.Degrees(2 * math.Atan(tx*(b[2]-b[0])/2)), VFov: geom.Degrees(2 * math.Atan(ty*(b[3]-b[1])/2)),
		Shift: [2]float64{c.Shift[0] + tx*(b[0]+b[2])/2, c.Shift[1] + ty*(b[1]+b[3])/2},
	}
	sight := v.in.View.Sight(0)
	own := []string{s.Motion.Nodes[subject].ID}
	v.in.Draws = v.in.Draws[:0]
	var others []raster.Draw
	for k, x := range s.Motion.Instances {
		n := &s.Motion.Nodes[x.Node]
		if !n.Shows("") || x.Node != subject && s.Motion.Within(subject, []string{n.ID}) {
			continue
		}
		d := raster.Draw{Mesh: s.Motion.Meshes[x.Mesh].Mesh, World: st.Instances[k]}
		if x.Skin >= 0 {
			d.Mesh, d.Bent = st.Bent[x.Skin], true
		}
		if !sight(d.Mesh.Bounds.Transform(&d.World)) {
			continue
		}
		if x.Node == subject || s.Motion.Within(x.Node, own) {
			d.Object = 1
			v.in.Draws = append(v.in.Draws, d)
		} else {
			others = append(others, d)
		}
	}
	alone := v.samples()
	if alone == 0 || len(others) == 0 {
		return 1
	}
	v.in.Draws = append(v.in.Draws, others...)
	return float64(v.samples()) / float64(alone)
}

// free tells that nothing is before a subject at some places all over it, as is most often
// so: then not half of it can be hidden, and nothing has to be counted.
func (s *Scene) free(c *motion.CameraState, subject int, f *Framed, st *motion.State) bool {
	tx, ty := math.Tan(geom.Radians(c.HFov/2)), math.Tan(geom.Radians(c.VFov/2))
	blocks := s.others(subject)
	for y := range 5 {
		for x := range 3 {
			px := max(-1, f.Box[0])*(5-2*float64(x))/6 + min(1, f.Box[2])*(1+2*float64(x))/6
			py := max(-1, f.Box[1])*(9-2*float64(y))/10 + min(1, f.Box[3])*(1+2*float64(y))/10
			way := c.World.Dir(r3.Scale(f.Depth, r3.Vec{X: c.Shift[0] + px*tx, Y: c.Shift[1] + py*ty, Z: -1}))
			if _, blocked := s.Motion.Strike(geom.Ray{From: c.World.Origin(), Dir: way}, st, 0.97, blocks); blocked {
				return false
			}
		}
	}
	return true
}

// others returns a function that tells which nodes cannot hide a subject: itself, what
// hangs on it, and what carries it.
func (s *Scene) others(subject int) func(node int) bool {
	own := []string{s.Motion.Nodes[subject].ID}
	return func(k int) bool {
		return k == subject || s.Motion.Within(k, own) || s.Motion.Within(subject, []string{s.Motion.Nodes[k].ID})
	}
}

// samples counts those that the subject has.
func (v *visibility) samples() (n int) {
	if v.renderer.RenderLayers(&v.in, v.layers) != nil {
		return 0 // too crowded to be drawn
	}
	for _, p := range v.layers.Objects {
		for _, object := range p {
			n += int(object)
		}
	}
	return n
}
