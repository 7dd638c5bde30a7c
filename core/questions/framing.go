package questions

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"proscen/core/compose"
	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/optics"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// ComposeWish asks for a picture of one or two people, or of a thing.
type ComposeWish struct {
	Camera   string        `json:"camera"`         // whose sensor, kit and squeeze; "" for those of a new camera
	Subjects []string      `json:"subjects"`       // one, or two
	Over     string        `json:"over,omitempty"` // over whose shoulder
	Size     string        `json:"size"`
	Angle    compose.Angle `json:"angle"`
	Side     compose.Side  `json:"side,omitempty"`     // of the subject; "" for what is clear and shows the face
	Focal    float64       `json:"focal"`              // mm
	Around   *float64      `json:"around,omitempty"`   // degrees from in front of the subject to its right; nil for what is clear and shows the face
	X        *float64      `json:"x,omitempty"`        // where the face sits, −1 to 1; nil for looking room
	Headroom *float64      `json:"headroom,omitempty"` // share of the picture's height, nil for the size's own
	Room     *float64      `json:"room,omitempty"`     // looking room as a share of half the picture's width, nil for the rule
	Frame    float64       `json:"frame"`              // story time
}

// Composed is a place for a camera and what its picture is.
type Composed struct {
	Position scene.Vec `json:"position"`
	Turn     scene.Vec `json:"turn"`
	Focal    float64   `json:"focal"`
	Focus    float64   `json:"focus"` // metres to the subject's plane
	Around   float64   `json:"around"`
	Angle    string    `json:"angle"`
	Words    string    `json:"words"`

	Framing [2]float64 `json:"framing"` // where its first subject's point that is aimed at is, −1 to 1
	HFov    float64    `json:"hfov"`    // of its picture, degrees
	VFov    float64    `json:"vfov"`
	Shift   [2]float64 `json:"shift"` // tangents
}

// Rules of framing that can be changed for each picture.
const (
	lookingRoom = 0.34 // of half the picture's width, to the side that a face looks to
	overRoom    = 0.3  // where the face sits opposite a shoulder
)

// Compose returns where a camera stands for a picture: outside walls, and with
// the face and, but for close pictures, the chest in sight.
func (s *Scene) Compose(w ComposeWish) (Composed, error) {
	wish, err := s.wish(w)
	if err != nil {
		return Composed{}, err
	}
	tries := w.Side.Arounds()
	if w.Around != nil {
		tries = slices.SortedFunc(slices.Values(append([]float64{*w.Around}, tries...)), func(a, b float64) int {
			return cmpAbs(a-*w.Around, b-*w.Around)
		})
	}
	blocked := ""
	for _, around := range tries {
		wish.Around = around
		if w.X == nil {
			wish.X = s.faceAt(w, around)
		}
		p, err := compose.Place(wish)
		if err != nil {
			return Composed{}, err
		}
		if what := s.blocks(w, wish, p); what != "" {
			if blocked == "" {
				blocked = what
			}
			if w.Angle == compose.Over || w.Angle == compose.Overhead {
				break // there is but one place
			}
			continue
		}
		return s.composed(w, wish, p), nil
	}
	return Composed{}, fmt.Errorf("%s is in the way of this picture of %s; choose another angle, size or lens", blocked, wish.Subjects[0].Name)
}

func cmpAbs(a, b float64) int {
	a, b = math.Abs(math.Remainder(a, 360)), math.Abs(math.Remainder(b, 360))
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// wish turns a wish into what compose places, at its frame.
func (s *Scene) wish(w ComposeWish) (out compose.Wish, err error) {
	(*where)(s).at(w.Frame)
	if len(w.Subjects) == 0 || len(w.Subjects) > 2 {
		return out, errors.New("choose one or two people for the picture")
	}
	for _, id := range w.Subjects {
		i := s.Motion.Index(id)
		f, ok := s.Motion.Figure(i, &s.where)
		if !ok {
			t, is := s.thing(i, &s.where)
			if !is {
				return out, errors.New("choose somebody, or something that has a shape, for the picture")
			}
			f, out.Thing = t.Figure(i, s.Motion.Nodes[i].Entity.Name), &t
		}
		out.Subjects = append(out.Subjects, f)
	}
	if out.Thing != nil && (len(w.Subjects) > 1 || w.Angle == compose.Over) {
		return out, errors.New("two in a picture, or one over the other's shoulder, are people; choose the thing alone")
	}
	if len(w.Side.Arounds()) == 0 {
		return out, fmt.Errorf("%q is no side; a subject has a front, three-quarter, side, rear three-quarter and rear", w.Side)
	}
	if w.Angle == compose.Over {
		f, ok := s.Motion.Figure(s.Motion.Index(w.Over), &s.where)
		if !ok || w.Over == w.Subjects[0] {
			return out, errors.New("choose over whose shoulder the picture looks")
		}
		out.Over, out.Subjects = &f, out.Subjects[:1]
	}
	if out.Size, err = compose.SizeByName(w.Size); err != nil {
		return out, err
	}
	if w.Headroom != nil {
		out.Size.Headroom = max(0, min(0.6, *w.Headroom))
	}
	if !slices.Contains(compose.Angles, w.Angle) {
		return out, fmt.Errorf("%q is no angle; a picture is taken from eye height, low, high, overhead or over a shoulder", w.Angle)
	}
	if !(w.Focal >= 1 && w.Focal <= 3000) {
		return out, fmt.Errorf("a focal length is from 1 to 3000 mm, not %g", w.Focal)
	}
	out.Angle = w.Angle
	focal := w.Focal
	if n := s.Doc.Nodes[w.Camera]; n.Camera != nil {
		if k, ok := s.Doc.Kits[n.Camera.Kit]; ok { // the lens that the kit has
			focal = k.Nearest(focal)
		}
	}
	out.Lens = s.lensOf(w.Camera, focal)
	if w.X != nil {
		out.X = max(-1, min(1, *w.X))
	}
	return out, nil
}

// thing returns what a node is that is no person, and whether it has a shape.
func (s *Scene) thing(i int, st *motion.State) (compose.Thing, bool) {
	if i < 0 {
		return compose.Thing{}, false
	}
	axes, box := s.Motion.Body(i, st)
	return compose.Thing{Axes: axes, Box: box}, !box.Empty()
}

// sizeOfThing returns the size of a camera's shot of what is no person, "" for what has no
// shape.
func (s *Scene) sizeOfThing(c *motion.CameraState, i int, st *motion.State) string {
	t, ok := s.thing(i, st)
	if !ok {
		return ""
	}
	return compose.SizeOf(max(1e-3, t.Statures(c))).Name
}

// lensOf returns the angles of a camera with a focal length.
func (s *Scene) lensOf(camera string, focal float64) compose.Lens {
	k := scene.Camera{Sensor: edit.DefaultSensor}
	if n := s.Doc.Nodes[camera]; n.Camera != nil {
		k = *n.Camera
	}
	return s.lens(k, focal)
}

// NewLens returns the angles of the camera that is left next with a focal length in mm.
func (s *Scene) NewLens(focal float64) compose.Lens {
	k := edit.NewCamera(s.Doc, "", focal)
	return s.lens(k, k.Focal)
}

func (s *Scene) lens(k scene.Camera, focal float64) compose.Lens {
	if k.Squeeze == 0 {
		k.Squeeze = 1
	}
	g := optics.CropGate(k.Sensor[0], k.Sensor[1], s.Motion.Aspect(), k.Squeeze)
	l := compose.Lens{Focal: focal, Shift: [2]float64{k.Shift[0] * k.Squeeze / focal, k.Shift[1] / focal}}
	l.HFov, l.VFov = g.FieldOfView(focal, k.Squeeze)
	return l
}

// faceAt returns where a face sits by the rule: with room to where it looks, or
// opposite a shoulder. Two share the middle.
func (s *Scene) faceAt(w ComposeWish, around float64) float64 {
	switch {
	case w.Angle == compose.Over:
		return overRoom
	case len(w.Subjects) == 2 || w.Angle == compose.Overhead:
		return 0
	}
	room := lookingRoom
	if w.Room != nil {
		room = max(0, min(0.8, *w.Room))
	}
	return compose.LookingRoom(around, room)
}

// blocks returns the name of what is in the way of a picture, or in which its
// camera would stand, "" for nothing.
func (s *Scene) blocks(w ComposeWish, wish compose.Wish, p compose.Pose) string {
	own := slices.Clone(w.Subjects)
	if w.Angle == compose.Over {
		own = append(own, w.Over)
	}
	st := &s.where
	skip := func(i int) bool {
		return slices.Contains(own, s.Motion.Nodes[i].ID) || s.Motion.Within(i, own) || s.heldBy(i, own, w.Frame)
	}
	for _, f := range wish.Subjects {
		seen := []r3.Vec{f.Eyes}
		if wish.Size.Cut > 0.25 {
			seen = append(seen, f.Chest())
		}
		for _, from := range seen {
			way := r3.Sub(p.At, from)
			// A hand's breadth further, so that the lens does not touch what is behind it.
			if hit, ok := s.Motion.Strike(geom.Ray{From: from, Dir: way}, st, 1+0.12/max(0.1, r3.Norm(way)), skip); ok {
				return s.Motion.Nodes[hit.Node].Entity.Name
			}
		}
	}
	for _, dir := range around8 {
		if hit, ok := s.Motion.Strike(geom.Ray{From: p.At, Dir: dir}, st, bodyRoom, nil); ok {
			return s.Motion.Nodes[hit.Node].Entity.Name
		}
	}
	return ""
}

// bodyRoom is how far in metres from anything a camera stands.
const bodyRoom = 0.15

var around8 = []r3.Vec{{X: 1}, {X: -1}, {Y: 1}, {Y: -1}, {Z: 1}, {Z: -1}, {X: 0.7, Z: 0.7}, {X: -0.7, Z: 0.7}, {X: 0.7, Z: -0.7}, {X: -0.7, Z: -0.7}}

// heldBy tells whether a node is carried by one of some others at a frame.
func (s *Scene) heldBy(i int, others []string, frame float64) bool {
	on := s.Motion.Carrier(i, frame)
	return on >= 0 && slices.Contains(others, s.Motion.Nodes[on].ID)
}

func (s *Scene) composed(w ComposeWish, wish compose.Wish, p compose.Pose) Composed {
	tidy := func(v float64) float64 { return math.Round(v*1e6) / 1e6 }
	m := geom.PanTiltRoll(p.Pan, p.Tilt, p.Roll)
	focus := r3.Dot(r3.Sub(wish.Subjects[0].Eyes, p.At), m.Dir(r3.Vec{Z: -1}))
	words := w.Size
	switch w.Angle {
	case compose.Eye:
	case compose.Over:
		words += ", over " + wish.Over.Name
	default:
		words += ", " + string(w.Angle)
	}
	if w.Angle != compose.Overhead && w.Angle != compose.Over && (w.Side != compose.AnySide || wish.Thing != nil) {
		words += ", " + string(compose.SideOf(wish.Around))
	}
	c := motion.CameraState{World: m.At(p.At), HFov: wish.Lens.HFov, VFov: wish.Lens.VFov, Shift: wish.Lens.Shift}
	x, y, _ := c.Project(s.Motion.Subject(wish.Subjects[0].Node, &s.where))
	return Composed{
		Position: scene.Vec{tidy(p.At.X), tidy(p.At.Y), tidy(p.At.Z)}, Turn: scene.Vec{tidy(p.Pan), tidy(p.Tilt), tidy(p.Roll)},
		Focal: wish.Lens.Focal, Focus: tidy(max(0.05, focus)), Around: wish.Around, Angle: string(w.Angle), Words: words,
		Framing: [2]float64{tidy(max(-1, min(1, x))), tidy(max(-1, min(1, y)))},
		HFov:    wish.Lens.HFov, VFov: wish.Lens.VFov, Shift: wish.Lens.Shift,
	}
}

// Suggest returns several places for a picture, the likeliest first: from both
// sides, with the face more or less turned, and from another height. What is
// blocked is left out.
func (s *Scene) Suggest(w ComposeWish, most int) ([]Composed, error) {
	wish, err := s.wish(w)
	if err != nil {
		return nil, err
	}
	var out []Composed
	var first error
	try := func(w ComposeWish, around float64, angle compose.Angle) {
		if len(out) >= most {
			return
		}
		wish.Around, wish.Angle, w.Angle = around, angle, angle
		if w.X == nil {
			wish.X = s.faceAt(w, around)
		} else {
			wish.X = *w.X
		}
		here := wish
		p, err := compose.Place(here)
		var lens *compose.ErrLens
		for range 3 { // take a lens that does
			if !errors.As(err, &lens) {
				break
			}
			here.Lens = s.lensOf(w.Camera, s.fittedUp(w.Camera, 1.03*lens.Needs))
			p, err = compose.Place(here)
		}
		if err != nil {
			if first == nil {
				first = err
			}
			return
		}
		if s.blocks(w, here, p) == "" {
			c := s.composed(w, here, p)
			if here.Lens.Focal != w.Focal {
				c.Words += fmt.Sprintf(", %g mm", here.Lens.Focal)
			}
			out = append(out, c)
		}
	}
	switch w.Angle {
	case compose.Over:
		for _, x := range []float64{overRoom, -overRoom} {
			v := w
			if w.X == nil {
				v.X = &x
			}
			try(v, 0, compose.Over)
		}
	case compose.Overhead:
		try(w, 0, compose.Overhead)
	default:
		other := map[compose.Angle]compose.Angle{compose.Eye: compose.Low, compose.Low: compose.Eye, compose.High: compose.Eye}[w.Angle]
		for i, around := range w.Side.Arounds() {
			try(w, around, w.Angle)
			if i == 3 {
				try(w, 30, other)
			}
		}
	}
	if len(out) == 0 {
		if first != nil {
			return nil, first
		}
		return nil, fmt.Errorf("everything around is in the way of this picture of %s; choose another size or lens", wish.Subjects[0].Name)
	}
	return out, nil
}

// fittedUp returns the shortest focal length of a camera's kit that is at least
// one, or that length itself.
func (s *Scene) fittedUp(camera string, focal float64) float64 {
	n := s.Doc.Nodes[camera]
	if n.Camera == nil {
		return math.Ceil(focal)
	}
	best := math.Inf(1)
	k := s.Doc.Kits[n.Camera.Kit]
	for _, f := range k.Primes {
		if f >= focal {
			best = min(best, f)
		}
	}
	for _, z := range k.Zooms {
		if z[1] >= focal {
			best = min(best, max(z[0], math.Ceil(focal)))
		}
	}
	if math.IsInf(best, 1) {
		return math.Ceil(focal)
	}
	return best
}

// Framed is how a camera shows a subject.
type Framed struct {
	Node   string     `json:"node"`
	Name   string     `json:"name"`
	Box    [4]float64 `json:"box"` // left, bottom, right, top in the picture, −1 to 1
	Depth  float64    `json:"depth"`
	Status Status     `json:"status"`
	Size   string     `json:"size,omitempty"` // of its shot; a thing without a shape has none
	Focus  bool       `json:"focus"`
}

// Status is how much of a subject is seen. The values are those of ribbons.
type Status uint8

// The states, from not seen at all to seen whole.
const (
	Outside Status = iota
	Hidden         // in the frame, behind something
	Cut            // the frame cuts the head, or most of a thing
	Small          // under a tenth of the picture's height
	Seen
	Behind // more than half of it is behind something; only ribbons tell
)

// InFocus is added to a status in a ribbon when the subject is in the sharp zone.
const InFocus = 8

const smallest = 0.1 // of the picture's height

// framed returns how a camera shows a node at an evaluated state. Whether it is hidden is
// told by its middle, of people by eyes and chest.
func (s *Scene) framed(c *motion.CameraState, i int, st *motion.State) Framed {
	out, look := s.inFrame(c, i, st)
	if out.Status == Outside {
		return out
	}
	eye := c.World.Origin()
	for k, p := range look {
		look[k] = r3.Sub(p, eye)
	}
	if s.Motion.Blocked(eye, look, st, 0.995, s.others(i)) == len(look) {
		out.Status = Hidden
	}
	return out
}

// inFrame is framed if nothing were in front, and where to look for what is.
func (s *Scene) inFrame(c *motion.CameraState, i int, st *motion.State) (out Framed, look []r3.Vec) {
	n := &s.Motion.Nodes[i]
	out = Framed{Node: n.ID, Name: n.Entity.Name}
	if f, ok := s.Motion.Figure(i, st); ok {
		look = []r3.Vec{f.Eyes, f.Chest()}
		s.frameFigure(c, f, &out)
	} else {
		box := s.Motion.Extent(i, st)
		if box.Empty() {
			p := s.Motion.Subject(i, st)
			box = geom.Box{Min: p, Max: p}
		}
		look = []r3.Vec{box.Center()}
		frameBox(c, box, &out)
	}
	if out.Status == Outside {
		return out, nil
	}
	zone := optics.DepthOfField(c.Focal, c.Stop, c.Focus, s.confusion(c.Node))
	out.Focus = out.Depth >= zone.Near && out.Depth <= zone.Far
	return out, look
}

// confusion returns the circle of confusion of a camera's sensor in mm.
func (s *Scene) confusion(node int) float64 {
	k := s.Motion.Nodes[node].Entity.Camera
	return optics.CircleOfConfusion(k.Sensor[0], k.Sensor[1])
}

func (s *Scene) frameFigure(c *motion.CameraState, f motion.Figure, out *Framed) {
	x, y, depth := c.Project(f.Eyes)
	out.Depth = depth
	if depth < 0.1 {
		return
	}
	_, top, _ := c.Project(f.Top)
	cx, cy, cd := c.Project(f.Chest())
	_, feet, fd := c.Project(f.Feet)
	if fd <= 0 {
		feet = -9
	}
	half := 0.13 * f.Stature / depth / math.Tan(geom.Radians(c.HFov/2))
	out.Box = [4]float64{x - half, min(feet, top), x + half, max(feet, top)}
	tall := 2 * math.Tan(geom.Radians(c.VFov/2)) * depth // of the picture at the person, in metres
	out.Size = compose.SizeOf(tall / f.Stature).Name
	head := half * 0.55
	eyesIn := math.Abs(x) <= 1 && math.Abs(y) <= 1
	chestIn := cd > 0.1 && math.Abs(cx) <= 1 && math.Abs(cy) <= 1
	switch {
	case !eyesIn && !chestIn:
		out.Status = Outside
	// Nearer than a close-up the forehead is cut on purpose.
	case !eyesIn || math.Abs(x)+head > 1 || top > 1 && tall/f.Stature > 0.16:
		out.Status = Cut
	case f.Stature/tall < smallest:
		out.Status = Small
	default:
		out.Status = Seen
	}
}

func frameBox(c *motion.CameraState, box geom.Box, out *Framed) {
	_, _, out.Depth = c.Project(box.Center())
	b := [4]float64{9, 9, -9, -9}
	for k := range 8 {
		x, y, depth := c.Project(box.Corner(k))
		if depth < 0.05 {
			continue
		}
		b = [4]float64{min(b[0], x), min(b[1], y), max(b[2], x), max(b[3], y)}
	}
	if out.Depth < 0.05 || b[0] > 1 || b[2] < -1 || b[1] > 1 || b[3] < -1 {
		return
	}
	out.Box = b
	inside := max(0, min(1, b[2])-max(-1, b[0])) * max(0, min(1, b[3])-max(-1, b[1]))
	whole := max(1e-9, (b[2]-b[0])*(b[3]-b[1]))
	switch {
	case inside/whole < 0.5 && inside < 1:
		out.Status = Cut
	case max((b[2]-b[0])*math.Tan(geom.Radians(c.HFov/2))/math.Tan(geom.Radians(c.VFov/2)), b[3]-b[1])/2 < smallest/2:
		out.Status = Small
	default:
		out.Status = Seen
	}
}

// Framing is what a camera's picture shows, in words and by subject.
type Framing struct {
	Label    string   `json:"label"`
	Subjects []Framed `json:"subjects"`
}

// Framing returns how a camera frames subjects at the evaluated frame, and the
// size of its shot in words, which is computed from the people in it.
func (s *Scene) Framing(camera string, subjects []string) Framing {
	out := Framing{Label: "", Subjects: []Framed{}}
	at := s.CameraIndex(camera)
	if at < 0 {
		return out
	}
	st := s.now()
	c := &st.Cameras[at]
	for _, id := range subjects {
		if i := s.Motion.Index(id); i >= 0 && i != c.Node {
			f := s.framed(c, i, st)
			if f.Size == "" && f.Status != Outside {
				f.Size = s.sizeOfThing(c, i, st)
			}
			out.Subjects = append(out.Subjects, f)
		}
	}
	s.figures = s.Motion.Figures(st, s.figures)
	var people []Framed
	for _, f := range s.figures {
		if p := s.framed(c, f.Node, st); p.Status >= Cut || p.partly() {
			people = append(people, p)
		}
	}
	out.Label = label(people)
	return out
}

// partly tells whether a part of somebody, perhaps only a shoulder, reaches into
// the picture.
func (p Framed) partly() bool {
	return p.Status == Outside && p.Depth > 0.1 && p.Box[0] < 0.95 && p.Box[2] > -0.95 && p.Box[1] < 0.95 && p.Box[3] > -0.95
}

// label says what kind of shot shows people. The one who stands nearest to the
// middle and is seen best gives it its size; somebody much nearer, at the side,
// is looked past.
func label(people []Framed) string {
	if !slices.ContainsFunc(people, func(p Framed) bool { return p.Status >= Cut }) {
		return "nobody in the picture"
	}
	weight := func(p Framed) float64 {
		x, y := (p.Box[0]+p.Box[2])/2, p.Box[3]
		w := math.Abs(x) + 0.3*max(0, y-0.9)
		if p.Status != Seen {
			w += 1
		}
		if p.Status == Outside {
			w += 9
		}
		return w
	}
	slices.SortStableFunc(people, func(a, b Framed) int {
		switch {
		case weight(a) < weight(b):
			return -1
		case weight(a) > weight(b):
			return 1
		}
		return 0
	})
	main := people[0]
	words := main.Size + " of " + main.Name
	for _, p := range people[1:] {
		ratio := main.Depth / p.Depth
		switch {
		case ratio > 1.5 && math.Abs(p.Box[0]+p.Box[2])/2 > 0.3:
			return words + ", over " + p.Name
		case ratio < 1.5 && ratio > 1/1.5 && p.Status == Seen:
			if len(people) > 2 {
				return main.Size + " of a group"
			}
			return main.Size + " of two, " + main.Name + " and " + p.Name
		}
	}
	return words
}

// hide notes which share of a subject is free.
func (f *Framed) hide(share float64) {
	switch {
	case share == 0:
		f.Status = Hidden
	case share < BehindUnder:
		f.Status = Behind
	}
}

// Ribbon returns how a camera shows subjects over story time: for each of count
// frames, step apart from a first one, a Status for each subject, with InFocus
// added. What is in front of them is asked for at some places all over them. It leaves
// State as it is.
func (s *Scene) Ribbon(camera string, subjects []string, from, step float64, count int) []byte {
	at := s.CameraIndex(camera)
	out := make([]byte, 0, count*len(subjects))
	if at < 0 {
		return out
	}
	for k := range count {
		s.Motion.Evaluate(from+float64(k)*step, &s.past)
		out = s.SeenBy(&s.past.Cameras[at], subjects, &s.past, out)
	}
	return out
}

// SeenBy appends how a camera shows subjects at an evaluated state, as a ribbon has it.
func (s *Scene) SeenBy(c *motion.CameraState, subjects []string, st *motion.State, out []byte) []byte {
	for _, id := range subjects {
		var b byte
		if i := s.Motion.Index(id); i >= 0 {
			f, _ := s.inFrame(c, i, st)
			if f.Status != Outside {
				f.hide(s.free(c, i, &f, st))
			}
			b = byte(f.Status)
			if f.Focus {
				b |= InFocus
			}
		}
		out = append(out, b)
	}
	return out
}
