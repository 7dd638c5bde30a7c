package render

import (
	"path"

	"proscen/internal/store"
)

// Manifest lists finished outputs.
type Manifest struct {
	Outputs []ManifestOutput `json:"outputs"`
}

// ManifestOutput is one finished output: the shot's number, the camera's name,
// the file's name beside the manifest, and the SHA-256 of its bytes in hex.
type ManifestOutput struct {
	Shot   string `json:"shot"`
	Camera string `json:"camera"`
	File   string `json:"file"`
	Frames int    `json:"frames"`
	Rate   string `json:"rate"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Sha256 string `json:"sha256"`
}

// ManifestOf lists what is finished of a delivery.
func ManifestOf(d store.Delivery) Manifest {
	m := Manifest{Outputs: []ManifestOutput{}}
	for _, o := range d.Outputs {
		if o.State == store.Done {
			m.Outputs = append(m.Outputs, ManifestOutput{o.ShotNumber, o.CameraName, path.Base(o.File), o.Frames, d.Rate, d.Width, d.Height, o.Sha256})
		}
	}
	return m
}
