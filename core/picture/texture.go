package picture

import (
	"image"

	"proscen/core/kit"
	"proscen/core/questions"

	"golang.org/x/image/draw"
)

// Sides in pixels that textures of picture planes are brought to when they have more.
const (
	stillSide = kit.MaxTextureSide
	filmSide  = 1280 // it is made anew for every frame
)

// textures makes pictures and frames of videos into textures, and keeps the two of each
// file that were asked for last: while a shutter is open, both may be asked for in turn.
// The first error is kept too.
type textures struct {
	files Files
	kept  map[string][]texture
	err   error
}

type texture struct {
	frame int
	made  *kit.Texture
}

// Textures returns what gives the picture planes of a scene their pictures from files, and
// what says whether one could not be read.
func (f Files) Textures() (get questions.Textures, failed func() error) {
	t := &textures{files: f, kept: map[string][]texture{}}
	return t.get, func() error { return t.err }
}

// get returns nil where the file is not at hand: the plane stays without a picture.
func (t *textures) get(blob string, frame int) *kit.Texture {
	kept := t.kept[blob]
	for _, k := range kept {
		if k.frame == frame {
			return k.made
		}
	}
	var im image.Image
	var err error
	side := stillSide
	switch {
	case frame == questions.Still && t.files.Picture != nil:
		im, err = t.files.Picture(blob)
	case frame != questions.Still && t.files.Footage != nil:
		side = filmSide
		im, err = t.files.Footage(blob, frame)
	}
	var made *kit.Texture
	if im != nil && err == nil {
		made, err = textureOf(im, side)
	}
	if err != nil && t.err == nil {
		t.err = err
	}
	t.kept[blob] = append([]texture{{frame, made}}, kept[:min(1, len(kept))]...)
	return made
}

// textureOf makes a picture a texture that is opaque and has no side longer than most.
func textureOf(im image.Image, most int) (*kit.Texture, error) {
	b := im.Bounds()
	w, h := b.Dx(), b.Dy()
	if longest := max(w, h); longest > most {
		w, h = max(1, w*most/longest), max(1, h*most/longest)
	}
	to := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(to, to.Rect, image.Black, image.Point{}, draw.Src)
	if w == b.Dx() && h == b.Dy() {
		draw.Draw(to, to.Rect, im, b.Min, draw.Over)
	} else {
		draw.BiLinear.Scale(to, to.Rect, im, b, draw.Over, nil)
	}
	t, err := kit.NewTexture(w, h, to.Pix)
	if err == nil {
		t.End()
	}
	return t, err
}
