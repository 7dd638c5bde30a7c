package render

import (
	"encoding/json"
	"strings"

	"proscen/core/scene"
	"proscen/core/turnover"
	"proscen/internal/store"
)

// Manifest lists finished outputs.
type Manifest struct {
	Outputs []ManifestOutput `json:"outputs"`
}

// Encode returns the text of a manifest.
func (m Manifest) Encode() ([]byte, error) {
	body, err := json.MarshalIndent(m, "", "  ")
	return append(body, '\n'), err
}

// ManifestOutput is one finished output: the shot's number, the camera's name, the
// file's name below the manifest's folder, and the SHA-256 of its bytes in hex. Of
// numbered pictures File is their folder, and Sha256 that of the list of their hashes as
// sha256sum writes it.
type ManifestOutput struct {
	What   turnover.What   `json:"what,omitempty"`
	Pass   scene.Pass      `json:"pass,omitempty"`
	As     string          `json:"alternate,omitempty"` // name of the alternate that it is of
	Shot   string          `json:"shot"`
	Camera string          `json:"camera"`
	File   string          `json:"file"`
	Frames int             `json:"frames"`
	Rate   string          `json:"rate"`
	Width  int             `json:"width"`
	Height int             `json:"height"`
	Sha256 string          `json:"sha256"`
	Head   int             `json:"head,omitempty"` // frames before the shot's first one, a slate among them
	Tail   int             `json:"tail,omitempty"`
	Pace   float64         `json:"pace,omitempty"` // frames of the cut for each of the file, when they are not the same
	Beside []ManifestExtra `json:"beside,omitempty"`
}

// ManifestExtra is a file that belongs to an output.
type ManifestExtra struct {
	File   string `json:"file"`
	Sha256 string `json:"sha256"`
}

// ManifestOf lists what is finished of a delivery.
func ManifestOf(d store.Delivery) Manifest {
	m := Manifest{Outputs: []ManifestOutput{}}
	below := func(file string) string { return strings.TrimPrefix(file, d.Folder+"/") }
	recipe, _ := recipeOf(&d)
	for _, o := range d.Outputs {
		if o.State != store.Done {
			continue
		}
		out := ManifestOutput{"", "", "", o.ShotNumber, o.CameraName, below(o.File), o.Frames, d.Rate, d.Width, d.Height, o.Sha256, 0, 0, 0, nil}
		var i turnover.Item
		if json.Unmarshal(o.Item, &i) == nil && i.What != "" {
			out.What, out.Pass, out.As, out.Width, out.Height, out.Head, out.Tail, out.Pace = i.What, i.Pass, i.Otherwise, i.Width, i.Height, i.HeadFrames(&recipe), i.TailFrames(&recipe), i.Pace
		}
		var beside []store.Extra
		_ = json.Unmarshal(o.Beside, &beside) // our own
		for _, e := range beside {
			out.Beside = append(out.Beside, ManifestExtra{below(e.File), e.Sha256})
		}
		m.Outputs = append(m.Outputs, out)
	}
	return m
}

// Papers returns what goes with the files of a delivery: its manifest, and what an editor
// needs besides.
func Papers(d store.Delivery) ([]turnover.Paper, error) {
	m := ManifestOf(d)
	body, err := m.Encode()
	if err != nil {
		return nil, err
	}
	papers, err := papersOf(d, m)
	return append([]turnover.Paper{{Name: "manifest.json", Data: body}}, papers...), err
}

// papersOf returns what an editor needs besides the files in the manifest of a delivery.
func papersOf(d store.Delivery, m Manifest) ([]turnover.Paper, error) {
	doc, err := scene.Decode(d.Document)
	if err != nil {
		return nil, err
	}
	recipe, err := recipeOf(&d)
	if err != nil {
		return nil, err
	}
	var made []turnover.Made
	k := 0
	for _, o := range d.Outputs {
		if o.State != store.Done {
			continue
		}
		e := m.Outputs[k]
		k++
		x := turnover.Made{File: e.File, Frames: e.Frames, Sha256: e.Sha256}
		_ = json.Unmarshal(o.Item, &x.Item) // our own
		for _, b := range e.Beside {
			x.Beside = append(x.Beside, turnover.Extra(b))
		}
		made = append(made, x)
	}
	return turnover.Papers(doc, made, &recipe), nil
}
