package edit

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"math"

	"proscen/core/optics"
	"proscen/core/scene"
)

type reframeArgs struct {
	ID     string      `json:"id"` // of a camera, for all shots, or of a shot
	Format string      `json:"format"`
	Clear  bool        `json:"clear,omitempty"` // begins with what there is without a framing
	Shift  *[2]float64 `json:"shift,omitempty"` // as in scene.Reframe, what is left out stays
	Scale  *float64    `json:"scale,omitempty"`
	Lens   *float64    `json:"lens,omitempty"` // mm through which it is seen at Frame; keys go along in proportion
	Frame  float64     `json:"frame,omitempty"`
	Move   *scene.Vec  `json:"move,omitempty"`
	Camera *string     `json:"camera,omitempty"` // of a shot: another one, "" for its own
	Within bool        `json:"within,omitempty"` // what would lie beyond the sensor stops at its edge
}

// reframe says how a camera, or one shot, makes its picture in a format.
func reframe(d *Draft, a reframeArgs) (string, error) {
	f, ok := d.Doc.Formats[a.Format]
	if !ok {
		return "", errors.New("the format is not there any more")
	}
	s, isShot := d.Doc.Shots[a.ID]
	if isShot && s.Locked {
		return "", fmt.Errorf("shot %s is locked", s.Number)
	}
	if !isShot && a.Camera != nil {
		return "", errors.New("only a shot is given another camera in a format")
	}
	to := s.Framed()[a.Format]
	if n := d.Doc.Nodes[a.ID]; !isShot && n.Camera != nil {
		to.Reframe = n.Camera.Formats[a.Format]
	}
	if a.Clear {
		to = scene.ShotFrame{}
	}
	if a.Camera != nil {
		if to.Camera = *a.Camera; to.Camera == s.Camera {
			to.Camera = ""
		}
	}
	camera := a.ID
	if isShot {
		camera = cmp.Or(to.Camera, s.Camera)
	}
	n, ok := d.Doc.Nodes[camera]
	if !ok || n.Camera == nil {
		return "", errors.New("there is no such camera or shot")
	}
	if err := a.change(d, camera, n.Camera, &to.Reframe); err != nil {
		return "", err
	}
	var err error
	if to.Shift, err = OnSensor(n.Camera, f, to.Reframe, a.Within); err != nil {
		return "", err
	}
	said := a.Shift != nil || a.Scale != nil || a.Lens != nil || a.Move != nil
	switch {
	case isShot && said && to.Reframe == (scene.Reframe{}): // not as its camera is framed for all shots
		to.Scale = 1
	case !isShot && to.Scale == 1:
		to.Scale = 0
	}
	if isShot {
		d.SetShot(a.ID, framedShot(s, a.Format, to))
		return fmt.Sprintf("frame shot %s in %s", s.Number, f.Name), nil
	}
	d.SetNode(a.ID, framedNode(n, a.Format, to.Reframe))
	return fmt.Sprintf("frame camera %d in %s", n.Camera.Number, f.Name), nil
}

// leastPart is how much of what fits on the sensor a picture has at least.
const leastPart = 0.05

// change takes over what is said.
func (a *reframeArgs) change(d *Draft, id string, k *scene.Camera, to *scene.Reframe) error {
	if a.Shift != nil {
		to.Shift = *a.Shift
	}
	if a.Move != nil {
		to.Move = *a.Move
	}
	if a.Scale != nil {
		if !(*a.Scale >= leastPart && *a.Scale <= 1) {
			return fmt.Errorf("a picture has from %.0f to 100 %% of what fits on the sensor, not %.4g %%", 100*leastPart, 100**a.Scale)
		}
		to.Scale = *a.Scale
	}
	if a.Lens != nil {
		if !(*a.Lens >= 1 && *a.Lens <= 3000) {
			return fmt.Errorf("a lens has from 1 to 3000 mm, not %.4g mm", *a.Lens)
		}
		seen := k.Focal
		for _, c := range d.Doc.CurvesOf(id) {
			if c := d.Doc.Curves[c]; c.Channel == scene.Focal && len(c.Keys) > 0 {
				seen = max(1, at(c, a.Frame))
			}
		}
		to.Focal = k.Focal * *a.Lens / seen
	}
	return nil
}

// OnSensor returns the shift with which a picture stays on the sensor. Beyond its edge
// it is refused, or with within held there.
func OnSensor(k *scene.Camera, f scene.Format, r scene.Reframe, within bool) ([2]float64, error) {
	squeeze, scale := k.Squeeze, r.Scale
	if squeeze == 0 {
		squeeze = 1
	}
	if scale == 0 {
		scale = 1
	}
	gate := optics.CropGate(k.Sensor[0], k.Sensor[1], f.Aspect(), squeeze)
	for i, size := range [2]float64{gate.Width, gate.Height} {
		room := (k.Sensor[i]/(size*scale) - 1) / 2
		if over := math.Abs(r.Shift[i]) - room; over <= 1e-9 {
			continue
		}
		if !within {
			return r.Shift, fmt.Errorf("the picture would reach beyond the sensor: in %s at this scale it can be shifted by %.0f %% %s",
				f.Name, math.Floor(room*100), [2]string{"to the sides", "up or down"}[i])
		}
		r.Shift[i] = math.Copysign(room, r.Shift[i])
	}
	return r.Shift, nil
}

// framedNode returns a camera that is framed so in a format.
func framedNode(n scene.Node, format string, r scene.Reframe) scene.Node {
	k := *n.Camera
	k.Formats = framed(k.Formats, format, r)
	n.Camera = &k
	return n
}

func framedShot(s scene.Shot, format string, f scene.ShotFrame) scene.Shot {
	s.Frame(framed(s.Framed(), format, f))
	return s
}

// framed returns entries by format with another one, nil without any.
func framed[F comparable, M ~map[string]F](of M, format string, f F) M {
	out := maps.Clone(of)
	var nothing F
	if f == nothing {
		delete(out, format)
	} else if out == nil {
		out = M{format: f}
	} else {
		out[format] = f
	}
	if len(out) == 0 {
		return nil
	}
	return out
}
