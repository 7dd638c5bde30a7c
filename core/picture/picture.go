// Package picture makes the finished picture of a frame of the cut: cameras, what
// stands for them, and how one becomes the other. Deliveries, stills and sheets come
// through here, and the browser shows the same.
package picture

import (
	"fmt"
	"image"

	"proscen/core/card"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/session"
)

// Quality trades speed for picture.
type Quality = scene.Quality

// The qualities.
const (
	Rough = scene.Rough
	Check = scene.Check
	Fine  = scene.Fine
)

// roughShadow is the side of a rough picture's shadow map in pixels, roughLamp that of those
// around a lamp.
const (
	roughShadow = 1024
	roughLamp   = 256
)

// ParseQuality reads a quality; "" is check.
func ParseQuality(s string) (Quality, error) {
	switch q := Quality(s); q {
	case "":
		return Check, nil
	case Rough, Check, Fine:
		return q, nil
	}
	return "", fmt.Errorf("quality %q is not known; choose rough, check or fine", s)
}

// Form is the size of the pictures to make, in pixels, and their quality.
type Form struct {
	Width, Height int
	Quality       Quality
}

// Validate refuses sizes that the video format cannot hold.
func (f Form) Validate() error {
	if f.Width < 16 || f.Height < 16 || f.Width > 4096 || f.Height > 4096 || f.Width%2 != 0 || f.Height%2 != 0 {
		return fmt.Errorf("the picture size %dx%d cannot be delivered; both sides must be even and from 16 to 4096", f.Width, f.Height)
	}
	return nil
}

// Painter renders frames of a scene's cut. It is not safe for use by several
// goroutines at once.
type Painter struct {
	session  *session.Session
	renderer *raster.Renderer
	input    raster.Input
	large    *image.RGBA // for fine
	second   *image.RGBA // for what is mixed in
	layers   *raster.Renderer
	sample   *raster.Renderer // for exposures
	light    []uint32         // that they have gathered
	threads  int
	files    Files
	failed   func() error // what the picture planes show could not be read
	form     Form
	air      program.Air
	later    program.Air
	Pace     float64 // frames of the scene for each that is painted, 0 for 1
}

// Files gives what lies outside of a document. Models holds the bundles of
// imported models by their blobs; a box of its size stands for one that is
// missing. Picture and Footage may be nil: a card says so in their place.
type Files struct {
	Models  map[string]*kit.Bundle
	Picture func(blob string) (image.Image, error)
	Footage func(blob string, frame int) (image.Image, error)
}

// NewPainter prepares rendering of an assembly with a number of threads.
func NewPainter(doc *scene.Document, files Files, assemblyID string, f Form, threads int) (*Painter, error) {
	if err := f.Validate(); err != nil {
		return nil, err
	}
	s := session.Open(doc, nil)
	if err := s.ChooseAssembly(assemblyID); err != nil {
		return nil, err
	}
	for blob, b := range files.Models {
		s.Provide(blob, b)
	}
	textures, failed := files.Textures()
	s.Textures = textures
	s.Motion.SetAspect(float64(f.Width) / float64(f.Height))
	w, h := f.Width, f.Height
	out := &Painter{session: s, form: f, files: files, threads: threads, failed: failed}
	if f.Quality == Fine {
		w, h = 2*w, 2*h
		out.large = image.NewRGBA(image.Rect(0, 0, w, h))
	}
	r, err := raster.New(w, h, threads)
	if err != nil {
		return nil, err
	}
	out.renderer = r
	if f.Quality == Rough {
		err = r.Sample(1)
	}
	return out, err
}

// Form returns what the painter was made for.
func (p *Painter) Form() Form { return p.form }

// Size is the size of the pictures in pixels.
func (p *Painter) Size() (width, height int) { return p.form.Width, p.form.Height }

// Session is the scene that the painter paints.
func (p *Painter) Session() *session.Session { return p.session }

// Frame renders a screen frame of the assembly into img, which has the picture's
// size. Where nothing is on air the picture is black.
func (p *Painter) Frame(screen int, img *image.RGBA) error {
	_, err := p.Play(p.session.Program(), float64(screen), img)
	return err
}

// Seen is what a painted frame shows, for what is written over it. It holds until the
// next one is painted.
type Seen struct {
	*program.Air
	View *motion.CameraState // of the first shot on air; nil when there is no camera
}

// Play renders a frame of another cut of the scene, as Frame does.
func (p *Painter) Play(cut *program.Program, screen float64, img *image.RGBA) (Seen, error) {
	cut.At(screen, &p.air)
	seen := Seen{Air: &p.air}
	err := p.mixed(cut, screen, &seen, img)
	return seen, err
}

func (p *Painter) mixed(cut *program.Program, screen float64, seen *Seen, img *image.RGBA) error {
	air := seen.Air
	if len(air.Playing) == 0 {
		card.Fill(img, card.Color(black))
		return nil
	}
	view, err := p.layer(cut, screen, 0, img)
	if err != nil {
		return err
	}
	if view != nil {
		first := *view // the second layer is seen through another one
		seen.View = &first
	}
	first := air.Playing[0].Weight
	if air.Dip != "" {
		raster.Tint(img, card.Color(air.Dip), 1-first)
		return nil
	}
	if len(air.Playing) < 2 {
		return nil
	}
	if p.second == nil {
		p.second = image.NewRGBA(img.Rect)
	}
	if _, err := p.layer(cut, screen, 1, p.second); err != nil {
		return err
	}
	raster.Mix(img, p.second, 1-first)
	return nil
}

const black = "#000000"

// layer renders one shot of what is on air, and returns the camera that it is seen
// through.
func (p *Painter) layer(cut *program.Program, screen float64, which int, img *image.RGBA) (*motion.CameraState, error) {
	on := &p.air.Playing[which]
	if on.Still != nil {
		return nil, p.still(*on.Still, img)
	}
	if p.exposed() {
		return p.expose(screen, on, func(at float64) *program.Playing {
			cut.At(at, &p.later)
			for i := range p.later.Playing {
				if k := &p.later.Playing[i]; k.Shot == on.Shot && k.Still == nil {
					return k
				}
			}
			return nil
		}, img)
	}
	in := p.session.In(on.Shot)
	view := in.View(on)
	in.Draws(view, on.Shot, &p.input)
	if err := p.failed(); err != nil {
		return nil, err
	}
	switch p.form.Quality {
	case Rough:
		p.input.Look.ShadowPx = min(p.input.Look.ShadowPx, roughShadow)
		for i := range p.input.Lamps {
			l := &p.input.Lamps[i]
			l.Shadow = min(l.Shadow, roughLamp)
		}
	case Fine:
		if err := p.renderer.Render(&p.input, p.large); err != nil {
			return nil, err
		}
		halve(p.large, img)
		return view, nil
	}
	return view, p.renderer.Render(&p.input, img)
}

// Layers fills what a frame of a cut tells besides its picture, through the camera that
// has most of it, and returns that; where there is no camera nothing is told.
func (p *Painter) Layers(cut *program.Program, screen float64, l *raster.Layers) (view *motion.CameraState, err error) {
	if p.layers == nil {
		if p.layers, err = raster.New(p.form.Width, p.form.Height, p.threads); err != nil {
			return nil, err
		}
	}
	cut.At(screen, &p.air)
	var on *program.Playing
	for i := range p.air.Playing {
		if k := &p.air.Playing[i]; on == nil || k.Weight > on.Weight {
			on = k
		}
	}
	in := p.session
	if on != nil && on.Still == nil {
		in = p.session.In(on.Shot)
		view = in.View(on)
	}
	if view == nil {
		return nil, p.layers.RenderLayers(&raster.Input{View: raster.View{World: geom.Identity, HFov: 40, VFov: 30}}, l)
	}
	in.Draws(view, on.Shot, &p.input)
	err = p.layers.RenderLayers(&p.input, l)
	p.renumber(in, l)
	return view, err
}

// renumber gives the objects of a shot that differs the numbers that they have in the scene; what
// only the shot has is none.
func (p *Painter) renumber(in *session.Session, l *raster.Layers) {
	if in == p.session {
		return
	}
	to := make([]uint32, len(in.Motion.Nodes)+1)
	for i := range in.Motion.Nodes {
		to[i+1] = uint32(p.session.Motion.Index(in.Motion.Nodes[i].ID) + 1)
	}
	for i := range l.Objects {
		for k, o := range l.Objects[i] {
			l.Objects[i][k] = to[o]
		}
	}
}

// still paints what stands for a camera.
func (p *Painter) still(s program.Still, img *image.RGBA) error {
	missing := func(what string) error { return card.Draw(img, card.Missing(what), nil) }
	picture := func(blob string) (image.Image, error) {
		if p.files.Picture == nil {
			return nil, nil
		}
		return p.files.Picture(blob)
	}
	switch {
	case s.Card != "":
		c := p.session.Doc.Cards[s.Card]
		var inside image.Image
		if c.Blob != "" {
			var err error
			if inside, err = picture(c.Blob); err != nil {
				return err
			}
		}
		return card.Draw(img, c, inside)
	case s.Video != "":
		if p.files.Footage == nil {
			return missing("The footage is not at hand.")
		}
		im, err := p.files.Footage(s.Video, int(s.Frame))
		if err != nil {
			return err
		}
		card.Fill(img, card.Color(black))
		card.Fit(img, im)
		return nil
	case s.Say != "":
		return missing(s.Say)
	}
	im, err := picture(s.Blob)
	if err != nil {
		return err
	}
	if im == nil {
		return missing("The board is not at hand.")
	}
	card.Fill(img, card.Color(card.Paper))
	card.Fit(img, im)
	return nil
}

// halve averages each 2x2 block.
func halve(from, to *image.RGBA) {
	w, h := to.Rect.Dx(), to.Rect.Dy()
	for y := range h {
		a := from.Pix[2*y*from.Stride:]
		b := from.Pix[(2*y+1)*from.Stride:]
		o := to.Pix[y*to.Stride:]
		for x := range w {
			for c := range 4 {
				i := x*8 + c
				o[x*4+c] = uint8((int(a[i]) + int(a[i+4]) + int(b[i]) + int(b[i+4]) + 2) / 4)
			}
		}
	}
}
