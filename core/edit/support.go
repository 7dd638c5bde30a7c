package edit

import (
	"fmt"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

var (
	places = []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ}
	turns  = []scene.Channel{scene.Pan, scene.Tilt, scene.Roll}
)

// newTrack is how long in metres a track is that is laid for a camera without a
// path.
const newTrack = 2

type cameraSupportArgs struct {
	ID      string        `json:"id"`
	Support scene.Support `json:"support"`
	Path    string        `json:"path,omitempty"`  // dolly: the path to ride on, "" for its own or a new track
	On      string        `json:"on,omitempty"`    // mounted: the subject that carries it
	Joint   string        `json:"joint,omitempty"` // mounted: the joint of a cast member
	Frame   float64       `json:"frame"`           // story time
}

// cameraSupport carries a camera another way. Its picture at the frame stays as
// it is. Keys of a place that no longer means the same go.
func cameraSupport(d *Draft, a cameraSupportArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	pic := d.Stage.Picture(a.ID, a.Frame)
	k := n.Camera
	base := geom.Identity
	hung := n.Parent != ""
	k.Support = a.Support
	n.Parent, n.Joint = "", ""
	if a.Support != scene.Handheld {
		k.Unrest = nil
	} else {
		u := scene.Unrest{Amount: 1, Rate: 0.8, Seed: k.Number}
		if k.Unrest != nil {
			u = *k.Unrest
		}
		u.From = a.Frame // here the picture is as it was
		k.Unrest = &u
	}
	var gone []scene.Channel
	switch a.Support {
	case scene.Sticks:
		n.Path = ""
		gone = append(append(gone, places...), scene.Travel)
	case scene.Handheld:
		if n.Path == "" && !hung {
			break // its keys of place go on
		}
		n.Path = ""
		gone = append(append(gone, places...), scene.Travel)
	case scene.Dolly:
		if err := rideOn(d, a, &n, pic); err != nil {
			return "", err
		}
		gone = append(gone, places...)
	case scene.Mounted:
		if a.On == "" {
			return "", fmt.Errorf("choose the subject that carries camera %d", k.Number)
		}
		if _, ok := d.Doc.Nodes[a.On]; !ok || a.On == a.ID {
			return "", fmt.Errorf("the subject that is to carry camera %d is not there", k.Number)
		}
		n.Path, n.Parent, n.Joint = "", a.On, a.Joint
		base = d.Stage.Joint(a.On, a.Joint, a.Frame)
		gone = append(append(append(gone, places...), turns...), scene.Travel)
	default:
		return "", fmt.Errorf("%q is no support; it is sticks, dolly, handheld or mounted", a.Support)
	}
	if hung {
		gone = append(append(gone, places...), turns...)
	}
	if a.Support != scene.Dolly {
		k.Left = nil
	}
	if k.Aim == scene.AimAlong && n.Path == "" {
		k.Aim = scene.AimFree
	}
	d.SetNode(a.ID, n)
	removeCurves(d, a.ID, gone)
	if err := standAt(d, a.ID, a.Frame, pic.World.Origin(), base); err != nil {
		return "", err
	}
	if err := keepPicture(d, a.ID, a.Frame, pic, base); err != nil {
		return "", err
	}
	return fmt.Sprintf("put camera %d on %s", k.Number, supportName(a.Support)), nil
}

func supportName(s scene.Support) string {
	switch s {
	case scene.Dolly:
		return "a dolly"
	case scene.Handheld:
		return "a shoulder"
	case scene.Mounted:
		return "a mount"
	}
	return "sticks"
}

// rideOn puts a camera on a path: the one asked for, its own, or a new straight
// track the way it looks. It gets on where the path is nearest.
func rideOn(d *Draft, a cameraSupportArgs, n *scene.Node, pic Picture) error {
	if a.Path == "" && n.Path != "" {
		return nil
	}
	at := pic.World.Origin()
	if a.Path == "" {
		way := pic.World.Dir(r3.Vec{Z: -1})
		way.Y = 0
		if r3.Norm(way) < 1e-6 {
			way = r3.Vec{Z: -1}
		}
		a.Path = d.NewID()
		end := r3.Add(at, r3.Scale(newTrack, r3.Unit(way)))
		d.SetPath(a.Path, scene.Path{Name: n.Name + " path", Form: curve.Straight, Points: []scene.Vec{scene.FromR3(at), scene.FromR3(end)}})
	}
	if a.Path == n.Path {
		return nil
	}
	p, ok := d.Doc.Paths[a.Path]
	if !ok {
		return fmt.Errorf("the path is not there any more")
	}
	c, err := compiled(p)
	if err != nil {
		return err
	}
	n.Path = a.Path
	removeCurves(d, a.ID, []scene.Channel{scene.Travel})
	putKey(d, a.ID, scene.Travel, a.Frame, c.Nearest(at)/c.Length(), curve.Soft)
	return nil
}

// standAt puts a camera at a place in the world at a frame, by its figures or,
// on a path, by its offset from it. base is the world matrix of what it hangs
// on.
func standAt(d *Draft, id string, frame float64, at r3.Vec, base geom.Mat4) error {
	back := base.Inverse()
	here := back.Point(at)
	if path, ok := d.Doc.Paths[d.Doc.Nodes[id].Path]; ok {
		p, err := compiled(path)
		if err != nil {
			return err
		}
		here = r3.Sub(here, p.At(travelAt(d, id, frame)*p.Length()))
	}
	return d.writeVec(id, places, frame, here, false)
}

// travelAt returns how far along its path a node is at a frame, from 0 to 1.
func travelAt(d *Draft, node string, frame float64) float64 {
	_, c := d.Doc.CurveOf(node, scene.Travel)
	return at(c, frame)
}

// writeVec writes three channels at once; see write.
func (d *Draft) writeVec(node string, channels []scene.Channel, frame float64, v r3.Vec, key bool) error {
	for i, x := range [3]float64{v.X, v.Y, v.Z} {
		if err := write(d, node, channels[i], frame, x, key); err != nil {
			return err
		}
	}
	return nil
}

// keepPicture turns a camera, wherever it is carried now, so that it shows at
// the frame what it showed in a picture. base is the world matrix of what it
// hangs on. A subject that it holds and that is in the picture stays held, at
// the place where it is.
func keepPicture(d *Draft, id string, frame float64, pic Picture, base geom.Mat4) error {
	n := d.Doc.Nodes[id]
	k := *n.Camera
	n.Camera = &k
	if k.Level && math.Abs(pic.Roll) > 1e-9 {
		k.Level = false
	}
	if k.Aim == scene.AimAt {
		x, y, depth := pic.Project(pic.Aimed)
		if depth <= 0 || math.Abs(x) > 1 || math.Abs(y) > 1 {
			k.Aim, k.AimAt = scene.AimFree, ""
		} else {
			d.SetNode(id, n)
			if err := write(d, id, scene.FramingX, frame, x, false); err != nil {
				return err
			}
			if err := write(d, id, scene.FramingY, frame, y, false); err != nil {
				return err
			}
			return write(d, id, scene.Roll, frame, pic.Roll, false)
		}
	}
	d.SetNode(id, n)
	turn, err := turnFor(d, id, frame, pic.World, base)
	if err != nil {
		return err
	}
	return d.writeVec(id, turns, frame, turn, false)
}

// turnFor returns the pan, tilt and roll in degrees that a camera must have, by
// its aim and what it hangs on, to be turned like a world matrix.
func turnFor(d *Draft, id string, frame float64, world, base geom.Mat4) (r3.Vec, error) {
	n := d.Doc.Nodes[id]
	b := base.Inverse()
	m := b.Mul(&world)
	if n.Camera.Aim == scene.AimAlong && n.Path != "" {
		p, err := compiled(d.Doc.Paths[n.Path])
		if err != nil {
			return r3.Vec{}, err
		}
		_, dir := p.Heading(travelAt(d, id, frame) * p.Length())
		yaw, pitch := geom.Toward(dir)
		along := geom.PanTiltRoll(yaw, pitch, 0)
		back := along.Inverse()
		m = b.Mul(&back)
		m = m.Mul(&world)
	}
	p, t, r := rigid(&m)
	return r3.Vec{X: p, Y: t, Z: r}, nil
}

type cameraAimArgs struct {
	ID    string    `json:"id"`
	Aim   scene.Aim `json:"aim"`
	At    string    `json:"at,omitempty"` // the subject to aim at
	Frame float64   `json:"frame"`        // story time
}

// cameraAim turns a camera another way. Its picture at the frame stays as it is
// where it can: a subject outside it comes to its middle.
func cameraAim(d *Draft, a cameraAimArgs) (string, error) {
	pic := d.Stage.Picture(a.ID, a.Frame)
	before := d.Doc.Nodes[a.ID]
	if before.Camera != nil && before.Camera.Aim == a.Aim && before.Camera.AimAt == a.At {
		return "", fmt.Errorf("camera %d is aimed so already", before.Camera.Number)
	}
	base := d.Stage.Base(a.ID, a.Frame)
	n, err := editCamera(d, a.ID, func(n *scene.Node, k *scene.Camera) error {
		k.Aim, k.AimAt = a.Aim, ""
		switch a.Aim {
		case scene.AimAt:
			if _, ok := d.Doc.Nodes[a.At]; !ok {
				return fmt.Errorf("choose the subject that camera %d is to hold", k.Number)
			}
			k.AimAt, k.Framing = a.At, [2]float64{}
			pic.Aimed = d.Stage.Late(a.At, a.Frame, k.Lag)
		case scene.AimAlong:
			if n.Path == "" {
				return fmt.Errorf("%s has no path whose heading it could follow", n.Name)
			}
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	// Keys of another kind of aim no longer mean the same.
	gone := []scene.Channel{scene.FramingX, scene.FramingY}
	if before.Camera.Aim != a.Aim {
		gone = append(gone, turns...)
	}
	removeCurves(d, a.ID, gone)
	if u := n.Camera.Unrest; u != nil { // it begins anew, where the camera is now
		if _, err := editCamera(d, a.ID, func(_ *scene.Node, k *scene.Camera) error {
			v := *u
			v.From = a.Frame
			k.Unrest = &v
			return nil
		}); err != nil {
			return "", err
		}
		if err := standAt(d, a.ID, a.Frame, pic.World.Origin(), base); err != nil {
			return "", err
		}
	}
	if a.Aim == scene.AimAt {
		if x, y, depth := pic.Project(pic.Aimed); depth <= 0 || math.Abs(x) > 1 || math.Abs(y) > 1 {
			return fmt.Sprintf("aim camera %d at %s", n.Camera.Number, d.Doc.Nodes[a.At].Name), nil
		}
	}
	if err := keepPicture(d, a.ID, a.Frame, pic, base); err != nil {
		return "", err
	}
	return fmt.Sprintf("aim camera %d %s", n.Camera.Number, aimName(d, a)), nil
}

func aimName(d *Draft, a cameraAimArgs) string {
	if a.Aim == scene.AimAt {
		return "at " + d.Doc.Nodes[a.At].Name
	}
	if a.Aim == scene.AimAlong {
		return "along its path"
	}
	return "freely"
}

type cameraTurnArgs struct {
	ID    string    `json:"id"`
	Turn  scene.Vec `json:"turn"`  // pan, tilt and roll in the world
	Frame float64   `json:"frame"` // story time
	Key   bool      `json:"key"`

	Only scene.Channel `json:"only,omitempty"` // the one angle that is meant, "" for all
}

// cameraTurn turns a camera in the world, whatever carries it; see write for
// what happens to keys.
func cameraTurn(d *Draft, a cameraTurnArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	world := geom.PanTiltRoll(a.Turn[0], max(-90, min(90, a.Turn[1])), a.Turn[2])
	base := d.Stage.Base(a.ID, a.Frame)
	local, err := turnFor(d, a.ID, a.Frame, world, base)
	if err != nil {
		return "", err
	}
	label := fmt.Sprintf("turn camera %d", n.Camera.Number)
	// What carries it may be tilted: then one angle in the world is several of its own.
	_, tilt, roll := base.Angles()
	if i := slices.Index(turns, a.Only); i >= 0 && math.Abs(tilt) < 1e-9 && math.Abs(roll) < 1e-9 {
		return label, write(d, a.ID, a.Only, a.Frame, scene.FromR3(local)[i], a.Key)
	}
	return label, d.writeVec(a.ID, turns, a.Frame, local, a.Key)
}

type cameraFrameArgs struct {
	ID      string     `json:"id"`
	Framing [2]float64 `json:"framing"` // −1 to 1 to the right and up
	Frame   float64    `json:"frame"`
	Key     bool       `json:"key"`
}

// cameraFrame holds the subject of a camera at another place in the picture.
func cameraFrame(d *Draft, a cameraFrameArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.ID]
	if !ok || n.Camera == nil || n.Camera.Aim != scene.AimAt {
		return "", fmt.Errorf("only a camera that aims at a subject can hold it at a place in the picture")
	}
	for i, ch := range []scene.Channel{scene.FramingX, scene.FramingY} {
		if err := write(d, a.ID, ch, a.Frame, max(-1, min(1, a.Framing[i])), a.Key); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("hold the subject of camera %d elsewhere", n.Camera.Number), nil
}

type cameraOrbitArgs struct {
	ID     string    `json:"id"`
	About  scene.Vec `json:"about"`  // a place in the world
	Around float64   `json:"around"` // degrees about the vertical through it, counter-clockwise from above
	Over   float64   `json:"over"`   // degrees about the camera's own right, positive lowers it and looks up
	Frame  float64   `json:"frame"`
	Key    bool      `json:"key"`
}

// cameraOrbit carries a camera around a place and turns it along, unless it
// holds a subject anyway.
func cameraOrbit(d *Draft, a cameraOrbitArgs) (string, error) {
	n, err := d.freeCamera(a.ID)
	if err != nil {
		return "", err
	}
	w := d.Stage.World(a.ID, a.Frame)
	_, tilt, _ := w.Angles()
	over := max(-89-tilt, min(89-tilt, a.Over))
	about := geom.RotateY(a.Around)
	tip := geom.AxisTurn(over, w.Dir(r3.Vec{X: 1}))
	turn := about.Mul(&tip)
	at := w.Origin()
	to := r3.Add(a.About.R3(), turn.Dir(r3.Sub(at, a.About.R3())))
	if err := d.shift(a.ID, a.Frame, r3.Sub(to, at), a.Key); err != nil {
		return "", err
	}
	if n.Camera.Aim != scene.AimAt {
		turned := turn.Mul(&w)
		local, err := turnFor(d, a.ID, a.Frame, turned, d.Stage.Base(a.ID, a.Frame))
		if err != nil {
			return "", err
		}
		if err := d.writeVec(a.ID, turns, a.Frame, local, a.Key); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("orbit camera %d", n.Camera.Number), nil
}
