package edit

import (
	"errors"
	"fmt"
	"slices"

	"proscen/core/scene"
	"proscen/core/timing"
)

type clearUnusedArgs struct {
	Things []scene.Thing `json:"things"`
}

// clearUnused removes things that nothing uses; what has come into use meanwhile stays.
func clearUnused(d *Draft, a clearUnusedArgs) (string, error) {
	unused, n := d.Doc.Unused(), 0
	for _, t := range a.Things {
		if slices.Contains(unused, t) {
			d.Delete(t.Collection, t.ID)
			n++
		}
	}
	if n == 0 {
		return "", errors.New("all of this is in use, or has been cleared already")
	}
	return fmt.Sprintf("clear %d things that nothing used", n), nil
}

type fileReplaceArgs struct {
	Kind string `json:"kind"` // models, images, sounds, footage
	Blob string `json:"blob"` // the file that is named now
	With struct {
		Blob      string       `json:"blob"`
		Width     int          `json:"width,omitempty"`
		Height    int          `json:"height,omitempty"`
		Frames    int          `json:"frames,omitempty"` // footage: at the scene's rate
		Seconds   float64      `json:"seconds,omitempty"`
		Size      scene.Vec    `json:"size,omitzero"`
		Triangles int          `json:"triangles,omitempty"`
		Clips     []scene.Clip `json:"clips,omitempty"`
	} `json:"with"`
}

// fileReplace lets everything that names a file name another one, which may be the same
// given again.
func fileReplace(d *Draft, a fileReplaceArgs) (string, error) {
	w := a.With
	files := d.Doc.Files()
	i := slices.IndexFunc(files, func(f scene.FileUse) bool { return f.Kind == a.Kind && f.Blob == a.Blob })
	if i < 0 {
		return "", errors.New("nothing in the scene names this file any more")
	}
	for _, t := range files[i].Users {
		switch t.Collection {
		case "models":
			m := d.Doc.Models[t.ID]
			m.Blob, m.Size, m.Triangles, m.Clips = w.Blob, w.Size, w.Triangles, w.Clips
			d.SetModel(t.ID, m)
		case "nodes":
			n := d.Doc.Nodes[t.ID]
			if k := n.Camera; k != nil && k.Match != nil && k.Match.Blob == a.Blob {
				camera, m := *k, *k.Match
				m.Blob, m.Width, m.Height = w.Blob, w.Width, w.Height
				camera.Match, n.Camera = &m, &camera
			}
			if n.Screen != nil {
				s := *n.Screen
				switch {
				case s.Film == nil && s.Blob == a.Blob:
					s.Blob, s.Width, s.Height = w.Blob, w.Width, w.Height
				case s.Film != nil && s.Film.Blob == a.Blob: // it was made at the scene's rate
					s.Film = &scene.Footage{Name: s.Film.Name, Blob: w.Blob, Width: w.Width, Height: w.Height, Frames: w.Frames}
				}
				n.Screen = &s
			}
			d.SetNode(t.ID, n)
		case "boards":
			b := d.Doc.Boards[t.ID]
			b.Blob, b.Width, b.Height = w.Blob, w.Width, w.Height
			d.SetBoard(t.ID, b)
		case "cards":
			c := d.Doc.Cards[t.ID]
			c.Blob, c.Width, c.Height = w.Blob, w.Width, w.Height
			d.SetCard(t.ID, c)
		case "sounds":
			s := d.Doc.Sounds[t.ID]
			s.Blob, s.Seconds = w.Blob, w.Seconds
			d.SetSound(t.ID, s)
		case "footage":
			f := d.Doc.Footage[t.ID]
			f.Blob, f.Width, f.Height, f.Frames = w.Blob, w.Width, w.Height, w.Frames
			f.Pace, f.Rate = 0, timing.Rate{} // it was made at the scene's
			d.SetFootage(t.ID, f)
		}
	}
	return "give the file of " + d.Doc.Called(files[i].Users[0].Collection, files[i].Users[0].ID), nil
}
