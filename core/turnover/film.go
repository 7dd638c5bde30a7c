package turnover

import (
	"fmt"
	"image"
	"maps"
	"slices"
	"strings"
	"time"

	"proscen/core/card"
	"proscen/core/picture"
	"proscen/core/program"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/timing"
)

// Film makes the finished frames of an output: slate, pictures, what is written over
// them. It is not safe for use by several goroutines at once.
type Film struct {
	Item    Item
	Recipe  scene.Recipe
	Facts   Facts
	doc     *scene.Document
	cut     *program.Program
	screen  timing.Range
	session *session.Session
	painter *picture.Painter // nil when no picture is made
	said    []program.Said

	// Of a pass.
	layers   *raster.Layers
	tops     []uint32          // by objects, the top of their groups
	mattesOf map[string]string // channels by nodes
}

// NewFilm prepares the frames of an output for so many threads.
func NewFilm(doc *scene.Document, files picture.Files, i Item, r scene.Recipe, f Facts, threads int) (*Film, error) {
	doc, err := DocumentsOf(doc).As(i.Alternate)
	if err != nil {
		return nil, err
	}
	if doc.Settings.Format != i.Format {
		if _, ok := doc.Formats[i.Format]; !ok {
			return nil, fmt.Errorf("its format is not in the scene")
		}
		doc = doc.Clone()
		doc.Settings.Format = i.Format
	}
	form := picture.Form{Width: i.Width, Height: i.Height, Quality: r.Quality}
	painter, err := picture.NewPainter(doc, files, i.Assembly, form, threads)
	if err != nil {
		return nil, err
	}
	out, err := Unpainted(painter.Session(), i, r, f)
	if err != nil {
		return nil, err
	}
	out.painter = painter
	painter.Pace = i.pace()
	return out, nil
}

// RecipeFor returns how an item is made by a recipe: a still is a picture, PNG when the
// recipe is for videos; a pass is EXR pictures with nothing else.
func RecipeFor(i *Item, r scene.Recipe) scene.Recipe {
	if i.Pass != "" {
		r.Pack, r.Burns, r.Mask, r.Sound, r.Lines = scene.EXR, nil, nil, false, ""
	}
	if i.What == Still && !r.Pack.Numbered() {
		r.Pack = scene.PNG
	}
	return r
}

// Unpainted is a film of an open scene that only tells what it is made of.
func Unpainted(s *session.Session, i Item, r scene.Recipe, f Facts) (*Film, error) {
	r = RecipeFor(&i, r)
	cut, screen, err := reel(s.Doc, s.ProgramOf, &i, &r)
	if err != nil {
		return nil, err
	}
	out := &Film{Item: i, Recipe: r, Facts: f, doc: s.Doc, cut: cut, screen: screen, session: s}
	if r.Lines == scene.InPicture {
		out.said = program.Lines(s.Doc, cut, float64(screen.In), float64(screen.Out), 0)
	}
	return out, nil
}

// Frames is how many frames the output has.
func (f *Film) Frames() int { return f.Item.Frames(&f.Recipe) }

// Size is the size of its pictures in pixels.
func (f *Film) Size() (width, height int) { return f.Item.Width, f.Item.Height }

// screenOf returns the frame of screen time at a frame of the output, and whether it
// is one of the slate.
func (f *Film) screenOf(n int) (screen float64, slate bool) {
	n -= slateOf(&f.Item, &f.Recipe)
	return float64(f.screen.In) + float64(n)*f.Item.pace(), n < 0
}

// frameOf returns where a frame of screen time lies among the frames of the output.
func (f *Film) frameOf(screen float64) float64 {
	return float64(slateOf(&f.Item, &f.Recipe)) + (screen-float64(f.screen.In))/f.Item.pace()
}

// Rate is that of the output's frames.
func (f *Film) Rate() timing.Rate { return RateOf(f.doc, &f.Recipe) }

// Number is what a frame of the output is called among numbered pictures.
func (f *Film) Number(n int) int {
	screen, _ := f.screenOf(n)
	story := screen
	if i := f.cut.Index(screen); i >= 0 {
		story = f.cut.Shots()[i].StoryAt(screen)
	}
	if f.Item.Pass != "" { // it has no slate, but the numbers of its picture
		n += f.Recipe.Slate
	}
	return NumberOf(&f.Recipe, n, story)
}

// Frame renders a frame of the output, counted from 0, into a picture of its size.
func (f *Film) Frame(n int, img *image.RGBA) error {
	screen, slate := f.screenOf(n)
	if slate {
		return card.Draw(img, f.slate(), nil)
	}
	seen, err := f.painter.Play(f.cut, screen, img)
	if err != nil {
		return err
	}
	if m := f.Recipe.Mask; m != nil {
		card.Mask(img, m.Aspect, m.Dark)
	}
	if line := f.spoken(screen); line != "" {
		if err := card.Label(img, line, 0.5, 0.96, lineSize); err != nil {
			return err
		}
	}
	if len(f.Recipe.Burns) == 0 {
		return nil
	}
	now := f.nowOf(n, screen, seen.Air)
	if seen.View != nil {
		now.Focal = seen.View.Focal
	}
	for _, b := range f.Recipe.Burns {
		size := b.Size
		if size == 0 {
			size = burnSize
		}
		if err := card.Label(img, BurnText(f.doc, &f.Item, b, f.Facts, now), b.X, b.Y, size); err != nil {
			return err
		}
	}
	return nil
}

// Usual sizes of letters as shares of the picture's height.
const (
	burnSize = 0.03
	lineSize = 0.045
)

// At fills air with what the output shows at one of its frames; false for a slate.
func (f *Film) At(n int, air *program.Air) bool {
	screen, slate := f.screenOf(n)
	if !slate {
		f.cut.At(screen, air)
	}
	return !slate
}

// nowOf is what burn-ins tell of a frame but for its lens.
func (f *Film) nowOf(n int, screen float64, air *program.Air) Now {
	now := Now{Screen: floor(screen), Number: NumberOf(&f.Recipe, n, screen)}
	if len(air.Playing) == 0 {
		return now
	}
	on := air.Playing[0]
	now.Story, now.Number = on.Story, NumberOf(&f.Recipe, n, on.Story)
	now.Shot = f.number(on.Shot)
	if k := f.doc.Nodes[on.Camera]; k.Camera != nil {
		now.Camera = fmt.Sprintf("%d %s", k.Camera.Number, k.Name)
	}
	return now
}

// BurnTexts returns what the burn-ins of a recipe say at the first frame of an item.
func BurnTexts(s *session.Session, i *Item, r *scene.Recipe, facts Facts) []string {
	f, err := Unpainted(s, *i, *r, facts)
	if err != nil {
		return nil
	}
	var air program.Air
	f.cut.At(float64(f.screen.In), &air)
	now := f.nowOf(slateOf(i, &f.Recipe), float64(f.screen.In), &air)
	if len(air.Playing) > 0 && air.Playing[0].Still == nil {
		if view := s.In(air.Playing[0].Shot).View(&air.Playing[0]); view != nil {
			now.Focal = view.Focal
		}
	}
	out := []string{}
	for _, b := range r.Burns {
		out = append(out, BurnText(s.Doc, i, b, facts, now))
	}
	return out
}

// number returns the number of a shot of the cut.
func (f *Film) number(shot string) string {
	if s, ok := f.doc.Shots[shot]; ok {
		return s.Number
	}
	return f.Item.Number
}

// spoken returns the lines that are heard at a frame of screen time.
func (f *Film) spoken(screen float64) string {
	var out []string
	for _, s := range f.said {
		if s.In <= screen && screen < s.Out {
			out = append(out, f.doc.Lines[s.Line].Text)
		}
	}
	return strings.Join(out, "\n")
}

// slate is the card before everything, which says what follows.
func (f *Film) slate() scene.Card {
	title := f.doc.Settings.Title
	text := []string{f.doc.Settings.Production}
	switch f.Item.What {
	case Whole:
		text = append(text, told(f.doc, &f.Item, scene.SaysAssembly, ""))
	case Camera:
		text = append(text, fmt.Sprintf("camera %d · %s", f.Item.CameraNumber, f.Item.CameraName))
	default:
		title += " · " + f.Item.Number
		through := f.Item.CameraName
		if f.Item.CameraNumber > 0 {
			through = fmt.Sprintf("camera %d · %s", f.Item.CameraNumber, through)
		}
		text = append(text, told(f.doc, &f.Item, scene.SaysAssembly, "")+" · "+through)
	}
	text = append(text, stretched(&f.Item, &f.Recipe, f.Rate()), fmt.Sprintf("v%03d · %s", f.Facts.Version, f.Facts.Date.UTC().Format(time.DateOnly)))
	return scene.Card{Name: "slate", Title: title, Text: strings.Join(text, "\n"), Color: "#1d2b31", Ink: "#e8e4da"}
}

// Clips lists what is heard of the output, over frames of the output.
func (f *Film) Clips() []program.Heard {
	out := program.Schedule(f.doc, f.Item.Assembly, f.cut, scene.ScreenClock, float64(f.screen.In), float64(f.screen.Out), 0)
	for i := range out {
		out[i].In, out[i].Out = f.frameOf(out[i].In), f.frameOf(out[i].Out)
		for k := range out[i].Levels {
			out[i].Levels[k].At = f.frameOf(out[i].Levels[k].At)
		}
	}
	return slices.DeleteFunc(out, func(h program.Heard) bool { return h.Muted })
}

// Document is the scene that the output is made of, in the output's format.
func (f *Film) Document() *scene.Document { return f.doc }

// Said lists the lines that are heard, over frames of the output.
func (f *Film) Said() []program.Said {
	out := program.Lines(f.doc, f.cut, float64(f.screen.In), float64(f.screen.Out), 0)
	for i := range out {
		out[i].In, out[i].Out = f.frameOf(out[i].In), f.frameOf(out[i].Out)
	}
	return out
}

// Blobs lists the sounds that are heard, by their ids, each once.
func (f *Film) Blobs() []string {
	all := map[string]bool{}
	for _, h := range f.Clips() {
		all[f.doc.Sounds[h.Sound].Blob] = true
	}
	return slices.Sorted(maps.Keys(all))
}
