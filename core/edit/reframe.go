package edit

import (
	"errors"
	"fmt"
	"maps"
	"math"

	"proscen/core/optics"
	"proscen/core/scene"
)

type reframeArgs struct {
	ID     string `json:"id"` // of a camera, for all shots, or of a shot
	Format string `json:"format"`
	scene.ShotFrame
	Within bool `json:"within,omitempty"` // what would lie beyond the sensor stops at its edge
}

// reframe says how a camera, or one shot, makes its picture in a format; without
// anything said, as the camera does by itself.
func reframe(d *Draft, a reframeArgs) (string, error) {
	f, ok := d.Doc.Formats[a.Format]
	if !ok {
		return "", errors.New("the format is not there any more")
	}
	s, isShot := d.Doc.Shots[a.ID]
	camera := a.ID
	if isShot {
		if s.Locked {
			return "", fmt.Errorf("shot %s is locked", s.Number)
		}
		if camera = a.Camera; camera == "" {
			camera = s.Camera
		}
	} else if a.Camera != "" {
		return "", errors.New("only a shot is given another camera in a format")
	}
	n, ok := d.Doc.Nodes[camera]
	if !ok || n.Camera == nil {
		return "", errors.New("there is no such camera or shot")
	}
	shift, err := onSensor(n.Camera, f, a.Reframe, a.Within)
	if err != nil {
		return "", err
	}
	a.Shift = shift
	if isShot {
		d.SetShot(a.ID, framedShot(s, a.Format, a.ShotFrame))
		return fmt.Sprintf("frame shot %s in %s", s.Number, f.Name), nil
	}
	d.SetNode(a.ID, framedNode(n, a.Format, a.Reframe))
	return fmt.Sprintf("frame camera %d in %s", n.Camera.Number, f.Name), nil
}

// onSensor returns the shift with which a picture stays on the sensor. Beyond its edge
// it is refused, or with within held there.
func onSensor(k *scene.Camera, f scene.Format, r scene.Reframe, within bool) ([2]float64, error) {
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
