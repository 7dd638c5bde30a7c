package interchange

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math"

	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"
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
	r, err := newReader(context.Background(), text, files{})
	if err != nil {
		return out, nil, err
	}
	r.out.Root = geom.Identity
	for _, step := range []func([]byte) error{r.loadBuffers, r.loadNodes, r.loadClips} {
		if err := step(buffer); err != nil {
			return out, nil, err
		}
	}
	type found struct{ node, of int }
	var cameras []found
	for i, n := range r.doc.Nodes {
		if n.Camera == nil || r.node[i] < 0 {
			continue
		}
		if *n.Camera < 0 || *n.Camera >= len(r.doc.Cameras) {
			return out, nil, refuse("it refers to camera %d, which is not there", *n.Camera)
		}
		k := &r.doc.Cameras[*n.Camera]
		name := n.Name
		if name == "" {
			name = k.Name
		}
		if name == "" {
			name = fmt.Sprintf("camera %d", len(cameras)+1)
		}
		if p := k.Perspective; k.Type != "perspective" || p == nil || !(p.Yfov > 0.001 && p.Yfov < math.Pi-0.001) || !(p.AspectRatio >= 0 && p.AspectRatio < 100) {
			said.add("The camera “%s” has no perspective; it is left out.", clip(name))
			continue
		}
		if len(cameras) == maxMoveCameras {
			return out, nil, fmt.Errorf("%w: it has more than %d cameras", ErrCut, maxMoveCameras)
		}
		cameras = append(cameras, found{r.node[i], *n.Camera})
		out.Cameras = append(out.Cameras, edit.BroughtCamera{Name: clip(name), Width: gltfWidth, Stop: 2.8})
	}
	if len(cameras) == 0 {
		return out, nil, fmt.Errorf("%w: it has no camera with a perspective", ErrCut)
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
	rate := doc.Settings.Rate.PerSecond()
	frames := 1
	if play >= 0 {
		frames = int(math.Round(seconds*rate)) + 1
	}
	if frames*len(cameras) > maxMoveRows {
		return out, nil, fmt.Errorf("%w: its cameras have more than %d frames", ErrCut, maxMoveRows)
	}
	var pose kit.BundlePose
	for n := range frames {
		r.out.Pose(&pose, play, min(float64(n)/rate, seconds*(1-1e-6)))
		for i, c := range cameras {
			k := r.doc.Cameras[c.of].Perspective
			aspect := k.AspectRatio
			if aspect == 0 {
				aspect = doc.Formats[doc.Settings.Format].Aspect()
			}
			m := pose.Worlds[c.node]
			at := m.Origin()
			size := math.Hypot(math.Hypot(m[0], m[4]), m[8]) // of what carries it
			if !(size > 1e-9) || math.IsNaN(at.X+at.Y+at.Z) || math.Max(math.Abs(at.X), math.Max(math.Abs(at.Y), math.Abs(at.Z))) > scene.MaxMetres {
				return out, nil, fmt.Errorf("%w: the camera “%s” is at no place", ErrCut, out.Cameras[i].Name)
			}
			turn := m.Scaled(1 / size)
			pan, tilt, roll := turn.Angles()
			out.Cameras[i].Frames = append(out.Cameras[i].Frames, edit.BroughtFrame{
				Frame: float64(doc.Settings.Story.In + n), Position: scene.Vec{at.X, at.Y, at.Z}, Turn: scene.Vec{pan, tilt, roll},
				Focal: max(1, min(3000, gltfWidth/2/(math.Tan(k.Yfov/2)*aspect))), Focus: 4,
			})
		}
	}
	said.add("The format has no focus and no stop, and one lens for each camera; they are as new cameras have them.")
	return out, said, nil
}

func anyTrack(tracks []kit.ClipTrack, of map[int]bool) bool {
	for _, t := range tracks {
		if of[t.Node] {
			return true
		}
	}
	return false
}
