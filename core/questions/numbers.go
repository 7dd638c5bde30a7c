package questions

import (
	"math"

	"proscen/core/compose"
	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/optics"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// Numbers is what a crew asks about a camera at a frame, and about its move.
// Distances are metres, angles degrees, frames story time.
type Numbers struct {
	Height   *float64 `json:"height"`   // of the lens above what is under it; nil over nothing
	Subject  string   `json:"subject"`  // the name of what is held, or in focus, or nearest in the picture
	Distance float64  `json:"distance"` // to it, 0 for none
	Tilt     float64  `json:"tilt"`
	Heading  float64  `json:"heading"` // where it looks: 0 is −Z, 90 is +X
	Roll     float64  `json:"roll"`

	Near       float64 `json:"near"` // the sharp zone
	Far        float64 `json:"far"`  // −1 for no end
	Hyperfocal float64 `json:"hyperfocal"`

	Speed   float64 `json:"speed"`   // m/s at the frame
	PanRate float64 `json:"panRate"` // °/s at the frame

	Moves      bool    `json:"moves"`
	From       float64 `json:"from"` // of the move
	To         float64 `json:"to"`
	SetsOff    float64 `json:"setsOff"`  // seconds in which it gets going
	Settles    float64 `json:"settles"`  // and comes to rest
	Travel     float64 `json:"travel"`   // the way of the lens over the move
	Greatest   float64 `json:"greatest"` // speed in m/s over the move
	GreatestAt float64 `json:"greatestAt"`
	Pan        float64 `json:"pan"` // greatest rate in °/s over the move
	PanAt      float64 `json:"panAt"`

	Size        string  `json:"size"`        // of the shot, of the nearest person in the picture
	Comfortable float64 `json:"comfortable"` // seconds that such a shot wants to be looked at
	FastestPan  float64 `json:"fastestPan"`  // °/s before it strobes with this lens at this rate
}

// Numbers returns what a crew asks about a camera at the evaluated frame. Speeds
// over the move are taken from frame to frame.
func (s *Scene) Numbers(camera string) (Numbers, bool) {
	at := s.CameraIndex(camera)
	if at < 0 {
		return Numbers{}, false
	}
	st := s.now()
	c := st.Cameras[at]
	n := Numbers{Tilt: c.Tilt, Roll: c.Roll, Heading: math.Mod(360-c.Pan, 360)}
	if n.Heading < 0 {
		n.Heading += 360
	}
	eye := c.World.Origin()
	if hit, ok := s.Motion.Strike(geom.Ray{From: eye, Dir: r3.Vec{Y: -1}}, st, 1e4, func(i int) bool { return s.Motion.Nodes[i].Entity.Kind == scene.KindCast }); ok {
		n.Height = &hit.Distance
	}
	zone := optics.DepthOfField(c.Focal, c.Stop, c.Focus, s.confusion(c.Node))
	n.Near, n.Far, n.Hyperfocal = zone.Near, zone.Far, zone.Hyperfocal
	if math.IsInf(n.Far, 1) {
		n.Far = -1
	}
	s.nearestSubject(camera, at, &n)
	n.FastestPan = compose.FastestPan(c.HFov, s.Doc.Settings.Rate.PerSecond())
	n.Speed, n.PanRate = s.rates(at, st.Frame)
	n.From, n.To, n.Moves = s.Motion.Moves(at)
	if n.Moves {
		s.overMove(at, &n)
		n.SetsOff, n.Settles = edit.Settles(s.Doc, camera)
	}
	return n, true
}

// nearestSubject finds what the distance is to, and the size of the shot.
func (s *Scene) nearestSubject(camera string, at int, n *Numbers) {
	st := &s.State
	c := &st.Cameras[at]
	eye := c.World.Origin()
	k := s.Doc.Nodes[camera].Camera
	subject := k.AimAt
	if subject == "" || k.Aim != scene.AimAt {
		subject = k.FocusOn
	}
	best := math.Inf(1)
	s.figures = s.Motion.Figures(st, s.figures)
	for _, f := range s.figures {
		p := Framed{}
		s.frameFigure(c, f, &p)
		if p.Status < Cut || p.Depth > best {
			continue
		}
		best, n.Size = p.Depth, p.Size
		if subject == "" {
			n.Subject, n.Distance = f.Name, r3.Norm(r3.Sub(f.Eyes, eye))
		}
	}
	if size, err := compose.SizeByName(n.Size); err == nil {
		n.Comfortable = compose.Comfortable(size)
	}
	if i := s.Motion.Index(subject); i >= 0 {
		n.Subject = s.Motion.Nodes[i].Entity.Name
		n.Distance = r3.Norm(r3.Sub(s.Motion.Subject(i, st), eye))
	}
}

// rates returns the speed in m/s and the rate of turn in °/s of a camera at a
// frame, over half a frame to both sides.
func (s *Scene) rates(at int, frame float64) (speed, turn float64) {
	a := *s.Motion.EvaluateCamera(at, frame-0.5, &s.past)
	b := s.Motion.EvaluateCamera(at, frame+0.5, &s.past)
	rate := s.Doc.Settings.Rate.PerSecond()
	return r3.Norm(r3.Sub(b.World.Origin(), a.World.Origin())) * rate, turned(&a.World, &b.World) * rate
}

// turned returns the angle in degrees between the view axes of two matrices.
func turned(a, b *geom.Mat4) float64 {
	p, q := a.Dir(r3.Vec{Z: -1}), b.Dir(r3.Vec{Z: -1})
	return geom.Degrees(math.Atan2(r3.Norm(r3.Cross(p, q)), r3.Dot(p, q)))
}

// mostLooks bounds the frames of a move that are looked at.
const mostLooks = 600

func (s *Scene) overMove(at int, n *Numbers) {
	rate := s.Doc.Settings.Rate.PerSecond()
	step := max(1, math.Ceil((n.To-n.From)/mostLooks))
	before := *s.Motion.EvaluateCamera(at, n.From, &s.past)
	for f := n.From + step; f <= n.To+1e-9; f += step {
		now := s.Motion.EvaluateCamera(at, f, &s.past)
		way := r3.Norm(r3.Sub(now.World.Origin(), before.World.Origin()))
		n.Travel += way
		if v := way * rate / step; v > n.Greatest+1e-9 {
			n.Greatest, n.GreatestAt = v, f
		}
		if v := turned(&before.World, &now.World) * rate / step; v > n.Pan+1e-9 {
			n.Pan, n.PanAt = v, f
		}
		before = *now
	}
}
