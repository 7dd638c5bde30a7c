package edit

import (
	"fmt"
	"strings"

	"proscen/core/curve"
	"proscen/core/scene"
)

// CameraBring are cameras from outside, frame by frame.
type CameraBring struct {
	Cameras []BroughtCamera `json:"cameras"`
}

// BroughtCamera is a camera from outside. Width is how much of the sensor its focal
// lengths are meant for, in mm, 0 for that of new cameras.
type BroughtCamera struct {
	Name   string         `json:"name"`
	Width  float64        `json:"width,omitempty"`
	Stop   float64        `json:"stop"`
	Frames []BroughtFrame `json:"frames"`
}

// BroughtLamp is a lamp from outside; Turn is pan, tilt and roll.
type BroughtLamp struct {
	Name     string    `json:"name"`
	Color    string    `json:"color"`
	Position scene.Vec `json:"position"`
	Turn     scene.Vec `json:"turn"`
	Reach    float64   `json:"reach"`
	Spot     float64   `json:"spot,omitempty"` // whole angle of the cone in degrees
	Soft     float64   `json:"soft,omitempty"`
}

// BroughtFrame is a camera at a frame of the story; Turn is pan, tilt and roll.
type BroughtFrame struct {
	Frame    float64   `json:"frame"`
	Position scene.Vec `json:"position"`
	Turn     scene.Vec `json:"turn"`
	Focal    float64   `json:"focal"`
	Focus    float64   `json:"focus"`
}

// cameraBring adds cameras from outside, with keys where they are needed: what lies on a
// straight line between two keys, but for a thousandth, has none.
func cameraBring(d *Draft, a CameraBring) (string, error) {
	if len(a.Cameras) == 0 {
		return "", fmt.Errorf("there is no camera to bring in")
	}
	for _, c := range a.Cameras {
		if len(c.Frames) == 0 {
			return "", fmt.Errorf("the camera %q has no frames", c.Name)
		}
		first := c.Frames[0]
		number := NextCamera(d.Doc)
		sensor := DefaultSensor
		if c.Width > 0 { // of the same shape, so that the picture's width is that wide
			sensor = [2]float64{c.Width, c.Width * DefaultSensor[1] / DefaultSensor[0]}
		}
		name := strings.TrimSpace(c.Name)
		if name == "" {
			name = fmt.Sprintf("Camera %d", number)
		}
		id := d.NewID()
		d.SetNode(id, scene.Node{Kind: scene.KindCamera, Name: freeName(d.Doc, name), Position: first.Position, Turn: first.Turn, Camera: &scene.Camera{
			Number: number, Color: CameraColors[(number-1)%len(CameraColors)], Support: scene.Sticks, Aim: scene.AimFree,
			Sensor: sensor, Focal: first.Focal, Stop: max(0.5, c.Stop), Focus: first.Focus,
		}})
		rows := []struct {
			channel scene.Channel
			of      func(f *BroughtFrame) float64
		}{
			{scene.PositionX, func(f *BroughtFrame) float64 { return f.Position[0] }},
			{scene.PositionY, func(f *BroughtFrame) float64 { return f.Position[1] }},
			{scene.PositionZ, func(f *BroughtFrame) float64 { return f.Position[2] }},
			{scene.Pan, func(f *BroughtFrame) float64 { return f.Turn[0] }},
			{scene.Tilt, func(f *BroughtFrame) float64 { return f.Turn[1] }},
			{scene.Roll, func(f *BroughtFrame) float64 { return f.Turn[2] }},
			{scene.Focal, func(f *BroughtFrame) float64 { return f.Focal }},
			{scene.Focus, func(f *BroughtFrame) float64 { return f.Focus }},
		}
		for _, r := range rows {
			keys := make([]curve.Key, 0, len(c.Frames))
			for i := range c.Frames {
				v := r.of(&c.Frames[i])
				if n := len(keys); n > 0 {
					if c.Frames[i].Frame <= keys[n-1].Frame {
						return "", fmt.Errorf("the frames of the camera %q do not only go forward", c.Name)
					}
					if angular(r.channel) {
						v = curve.Unwrap(keys[n-1].Value, v)
					}
				}
				keys = append(keys, curve.Key{Frame: c.Frames[i].Frame, Value: v, Ease: curve.Even})
			}
			if keys = curve.Thinned(keys, 0.001); len(keys) > 1 {
				d.SetCurve(d.NewID(), scene.Curve{Node: id, Channel: r.channel, Keys: keys})
			}
		}
	}
	if len(a.Cameras) == 1 {
		return "bring in the camera " + a.Cameras[0].Name, nil
	}
	return fmt.Sprintf("bring in %d cameras", len(a.Cameras)), nil
}
