package questions

import "proscen/core/kit"

// Textures gives a picture by its file, Still for a picture or the frame of a video's
// file; nil where it is not at hand.
type Textures func(blob string, frame int) *kit.Texture

// Still stands for the frame of what is no video.
const Still = -1

// SurfaceNow is what a picture plane shows at a moment.
type SurfaceNow struct {
	Node  string  `json:"node"`
	Blob  string  `json:"blob"`
	Frame int     `json:"frame"` // of the video's file, −1 for a picture
	Rate  float64 `json:"rate"`  // frames a second of the video's file
}

// Surfaces tells what the picture planes show at the evaluated frame, in the order of
// motion.Scene.Surfaces.
func (s *Scene) Surfaces() []SurfaceNow {
	out := make([]SurfaceNow, 0, len(s.Motion.Surfaces))
	for _, f := range s.Motion.Surfaces {
		blob, frame := s.Motion.Shown(f.Node, s.State.Frame)
		now := SurfaceNow{Node: s.Motion.Nodes[f.Node].ID, Blob: blob, Frame: frame, Rate: s.Doc.Settings.Rate.PerSecond()}
		if film := s.Motion.Nodes[f.Node].Entity.Screen.Film; film != nil && film.Rate.Valid() {
			now.Rate = film.Rate.PerSecond()
		}
		out = append(out, now)
	}
	return out
}

// dressSurfaces gives the picture planes what they show at the evaluated frame.
func (s *Scene) dressSurfaces() {
	if s.Textures == nil {
		return
	}
	for _, f := range s.Motion.Surfaces {
		f.Mesh.Texture = s.Textures(s.Motion.Shown(f.Node, s.State.Frame))
	}
}
