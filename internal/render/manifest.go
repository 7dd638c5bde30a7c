package render

import (
	"encoding/json"
	"strings"

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
		out := ManifestOutput{o.ShotNumber, o.CameraName, below(o.File), o.Frames, d.Rate, d.Width, d.Height, o.Sha256, 0, 0, nil}
		var i turnover.Item
		if json.Unmarshal(o.Item, &i) == nil && i.What != "" {
			out.Width, out.Height, out.Head, out.Tail = i.Width, i.Height, i.Frames(&recipe)-(i.Out-i.In)-i.Tail, i.Tail
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
