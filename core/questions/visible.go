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

// BehindUnder is the share of which less is to be seen of what is behind something.
const BehindUnder = 0.5

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
	if f.Status == Outside || b[0] >= b[2] || b[1] >= b[3] || s.free(c, subject, f, st) == 1 {
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
	own := s.Motion.Among([]string{s.Motion.Nodes[subject].ID})
	v.in.Draws = v.in.Draws[:0]
	var others []raster.Draw
	for k, x := range s.Motion.Instances {
		n := &s.Motion.Nodes[x.Node]
		if !n.Shows("") || s.Motion.Within(subject, []string{n.ID}) {
			continue
		}
		d := s.drawn(k, st)
		if !sight(d.Mesh.Bounds.Transform(&d.World)) {
			continue
		}
		if own[x.Node] {
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

// The places all over a subject that are asked for what is before them.
const askedColumns, askedRows = 3, 5

// free is the share of places all over a subject, as it lies in the picture, before which
// nothing is. It costs little, where Visible counts.
func (s *Scene) free(c *motion.CameraState, subject int, f *Framed, st *motion.State) float64 {
	tx, ty := math.Tan(geom.Radians(c.HFov/2)), math.Tan(geom.Radians(c.VFov/2))
	between := func(from, to float64, k, of int) float64 {
		at := (float64(k) + 0.5) / float64(of)
		return max(-1, from)*(1-at) + min(1, to)*at
	}
	var ways [askedColumns * askedRows]r3.Vec
	for k := range ways {
		x := between(f.Box[0], f.Box[2], k%askedColumns, askedColumns)
		y := between(f.Box[1], f.Box[3], k/askedColumns, askedRows)
		ways[k] = c.World.Dir(r3.Scale(f.Depth, r3.Vec{X: c.Shift[0] + x*tx, Y: c.Shift[1] + y*ty, Z: -1}))
	}
	return 1 - float64(s.Motion.Blocked(c.World.Origin(), ways[:], st, 0.97, s.others(subject)))/float64(len(ways))
}

// others returns a function that tells which nodes cannot hide a subject: itself, what
// hangs on it, and what carries it.
func (s *Scene) others(subject int) func(node int) bool {
	id := s.Motion.Nodes[subject].ID
	own := s.Motion.Among([]string{id})
	return func(k int) bool { return own[k] || s.Motion.Within(subject, []string{s.Motion.Nodes[k].ID}) }
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
