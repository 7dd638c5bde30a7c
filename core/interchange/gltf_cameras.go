package interchange

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"

	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

type gltfCamera struct {
	Name        string `json:"name"`
	Type        string `json:"type"`
	Perspective *struct {
		AspectRatio float64 `json:"aspectRatio"`
		Yfov        float64 `json:"yfov"`
	} `json:"perspective"`
}

// gltfBegins tells whether bytes are a glTF 2.0 asset, binary or text.
func gltfBegins(data []byte) bool {
	if bytes.HasPrefix(data, []byte("glTF")) {
		return true
	}
	if !bytes.HasPrefix(bytes.TrimSpace(data), []byte("{")) || len(data) > MaxCutBytes {
		return false
	}
	var is struct {
		Asset struct {
			Version string `json:"version"`
		} `json:"asset"`
	}
	return json.Unmarshal(data, &is) == nil && is.Asset.Version != ""
}

// gltfWidth is the width in mm of the sensor for which focal lengths are worked out: the
// format tells angles only.
const gltfWidth = 36

// ReadGLTFCameras reads the perspective cameras of a glTF 2.0 file: where they are at each
// frame of the scene's rate in the first animation that moves any of them, from the
// beginning of the story on, or where they stand. Focal lengths are those of a sensor of
// 36 mm. Sizes are metres and cameras look along −Z, as the format has it (3.10).
func ReadGLTFCameras(doc *scene.Document, data []byte) (edit.CameraBring, []string, error) {
	var out edit.CameraBring
	var said notes
	if len(data) > MaxCutBytes {
		return out, nil, fmt.Errorf("%w: it has more than %d MB", ErrCut, MaxCutBytes>>20)
	}
	text, buffer := data, []byte(nil)
	if bytes.HasPrefix(data, []byte("glTF")) {
		var err error
		if text, buffer, err = glbChunks(data); err != nil {
			return out, nil, err
		}
	}
	r, err := newReader(context.Background(), text, files{}, &said)
	if err != nil {
		return out, nil, err
	}
	r.out.Root = geom.Identity
	for _, step := range []func([]byte) error{r.loadBuffers, r.loadNodes, r.loadClips} {
		if err := step(buffer); err != nil {
			return out, nil, err
		}
	}
	set := &doc.Settings
	out.Cameras, err = r.cameras(Shoot{set.Rate.PerSecond(), set.Story.In, doc.Formats[set.Format].Aspect()}, &said)
	if err == nil && len(out.Cameras) == 0 {
		err = fmt.Errorf("%w: it has no camera with a perspective", ErrCut)
	}
	return out, said, err
}

// cameras returns the cameras with a perspective.
func (r *reader) cameras(shoot Shoot, said *notes) (out []edit.BroughtCamera, err error) {
	type found struct{ node, of int }
	var cameras []found
	for i, n := range r.doc.Nodes {
		if n.Camera == nil || r.node[i] < 0 {
			continue
		}
		if *n.Camera < 0 || *n.Camera >= len(r.doc.Cameras) {
			return nil, refuse("it refers to camera %d, which is not there", *n.Camera)
		}
		k := &r.doc.Cameras[*n.Camera]
		name := cmp.Or(n.Name, k.Name, fmt.Sprintf("camera %d", len(cameras)+1))
		if p := k.Perspective; k.Type != "perspective" || p == nil || !(p.Yfov > 0.001 && p.Yfov < math.Pi-0.001) || !(p.AspectRatio >= 0 && p.AspectRatio < 100) {
			said.add("The camera “%s” has no perspective; it is left out.", clip(name))
			continue
		}
		if len(cameras) == maxMoveCameras {
			return nil, fmt.Errorf("%w: it has more than %d cameras", ErrCut, maxMoveCameras)
		}
		cameras = append(cameras, found{r.node[i], *n.Camera})
		out = append(out, edit.BroughtCamera{Name: clip(name), Width: gltfWidth, Stop: 2.8})
	}
	if len(cameras) == 0 {
		return nil, nil
	}
	moved := map[int]bool{} // nodes that carry cameras
	for _, c := range cameras {
		for n := c.node; n >= 0; n = r.out.Nodes[n].Parent {
			moved[n] = true
		}
	}
	play, seconds, others := -1, 0.0, 0
	for i, c := range r.out.Clips {
		switch {
		case !anyTrack(c.Tracks, moved):
		case play < 0:
			play, seconds = i, c.Seconds
		default:
			others++
		}
	}
	if others > 0 {
		said.add("Of %d animations that move cameras the first, “%s”, was taken.", others+1, clip(r.out.Clips[play].Name))
	}
	frames := 1
	if play >= 0 {
		frames = int(math.Round(seconds*shoot.Rate)) + 1
	}
	if frames*len(cameras) > maxMoveRows {
		return nil, fmt.Errorf("%w: its cameras have more than %d frames", ErrCut, maxMoveRows)
	}
	var pose kit.BundlePose
	for n := range frames {
		r.out.Pose(&pose, play, min(float64(n)/shoot.Rate, seconds*(1-1e-6)))
		for i, c := range cameras {
			k := r.doc.Cameras[c.of].Perspective
			at, turn, _, ok := stands(&pose.Worlds[c.node])
			if !ok {
				return nil, fmt.Errorf("%w: the camera “%s” is at no place", ErrCut, out[i].Name)
			}
			out[i].Frames = append(out[i].Frames, edit.BroughtFrame{
				Frame: float64(shoot.In + n), Position: at, Turn: turn,
				Focal: max(1, min(3000, gltfWidth/2/(math.Tan(k.Yfov/2)*cmp.Or(k.AspectRatio, shoot.Aspect)))), Focus: 4,
			})
		}
	}
	said.add("The format has no focus and no stop, and one lens for each camera; they are as new cameras have them.")
	return out, nil
}

// stands returns where a place is, how it is turned (pan, tilt, roll), and how large what
// hangs on it is; ok tells whether it is at any place.
func stands(m *geom.Mat4) (at, turn scene.Vec, size float64, ok bool) {
	p := m.Origin()
	size = r3.Norm(column(m, 0))
	if !(size > 1e-9) || math.IsNaN(p.X+p.Y+p.Z) || max(math.Abs(p.X), math.Abs(p.Y), math.Abs(p.Z)) > scene.MaxMetres {
		return at, turn, 0, false
	}
	turned := m.Scaled(1 / size)
	pan, tilt, roll := turned.Angles()
	return scene.FromR3(p), scene.Vec{pan, tilt, roll}, size, true
}

// gltfLight is a light (KHR_lights_punctual); it shines along −Z.
type gltfLight struct {
	Name  string      `json:"name"`
	Type  string      `json:"type"`
	Color *[3]float64 `json:"color"` // linear
	Range float64     `json:"range"` // metres, 0 for no end
	Spot  *struct {
		Inner float64  `json:"innerConeAngle"`
		Outer *float64 `json:"outerConeAngle"`
	} `json:"spot"`
}

// lamps returns the lights that have a place, where they are at rest. Their strengths are
// in candela, for another exposure than ours, and are those of new lamps instead.
func (r *reader) lamps(said *notes) (out []edit.BroughtLamp) {
	var pose kit.BundlePose
	r.out.Pose(&pose, -1, 0)
	lights := r.doc.Extensions.Lights.Lights
	for i, n := range r.doc.Nodes {
		x := n.Extensions.Light
		if x == nil || r.node[i] < 0 || x.Light < 0 || x.Light >= len(lights) {
			continue
		}
		l := &lights[x.Light]
		name := clip(cmp.Or(n.Name, l.Name, fmt.Sprintf("light %d", i+1)))
		at, turn, size, ok := stands(&pose.Worlds[r.node[i]])
		switch {
		case !ok:
			continue
		case l.Type == "directional":
			said.add("The light “%s” comes from one direction, as the sun does; it is left out, set the sun in the scene's light.", name)
			continue
		case len(out) == scene.MaxLamps:
			said.add("It has more lights than the %d that a scene has; the first are taken.", scene.MaxLamps)
			return out
		}
		lamp := edit.BroughtLamp{Name: name, Position: at, Turn: turn, Color: "#ffffff", Reach: 12}
		if c := l.Color; c != nil {
			lamp.Color = kit.InHex(*c)
		}
		if l.Range > 0 {
			lamp.Reach = max(0.1, min(1000, l.Range*size))
		}
		if l.Type == "spot" {
			inner, outer := 0.0, math.Pi/4
			if s := l.Spot; s != nil {
				inner = s.Inner
				if s.Outer != nil {
					outer = *s.Outer
				}
			}
			outer = max(0.01, min(math.Pi/2-0.01, outer))
			lamp.Spot, lamp.Soft = 2*outer*180/math.Pi, max(0, min(1, 1-inner/outer))
		}
		out = append(out, lamp)
	}
	if len(out) > 0 {
		said.add("Lights have the strength of new lamps.")
	}
	return out
}

func anyTrack(tracks []kit.ClipTrack, of map[int]bool) bool {
	for _, t := range tracks {
		if of[t.Node] {
			return true
		}
	}
	return false
}
