package scene

import (
	"fmt"
	"slices"

	"proscen/core/timing"
)

// Quality trades speed for picture.
type Quality string

// The qualities: rough has one sample of a pixel and coarse shadows, check is what the
// viewport shows, fine takes sixteen samples of a pixel, which lie on the lens and in the
// time that the shutter is open where the scene shows that.
const (
	Rough Quality = "rough"
	Check Quality = "check"
	Fine  Quality = "fine"
)

// Pack is how the pictures of an output are packed: a codec in its container, or a
// numbered picture for each frame.
type Pack string

// The packs.
const (
	H264   Pack = "h264"   // mp4
	VP9    Pack = "vp9"    // webm
	ProRes Pack = "prores" // mov
	FFV1   Pack = "ffv1"   // mkv, lossless
	PNG    Pack = "png"
	JPEG   Pack = "jpeg"
	EXR    Pack = "exr" // half-float, in linear light
)

// Packs lists all packs.
var Packs = []Pack{H264, VP9, ProRes, FFV1, PNG, JPEG, EXR}

// Ending returns the ending of a pack's file names.
func (p Pack) Ending() string {
	switch p {
	case VP9:
		return "webm"
	case ProRes:
		return "mov"
	case FFV1:
		return "mkv"
	case PNG:
		return "png"
	case JPEG:
		return "jpg"
	case EXR:
		return "exr"
	default:
		return "mp4"
	}
}

// Numbered tells whether each frame is a picture of its own.
func (p Pack) Numbered() bool { return p == PNG || p == JPEG || p == EXR }

// Pass is what an output tells of its frames besides their picture.
type Pass string

// The passes: metres along the view; directions of surfaces in the world and as the
// camera sees them; places in the world; and how much of each pixel a thing has, by
// things or by what stands at the top of their groups.
const (
	PassDepth    Pass = "depth"
	PassNormal   Pass = "normal"
	PassFacing   Pass = "facing"
	PassPosition Pass = "position"
	PassMatte    Pass = "matte"
	PassGroups   Pass = "groups"
)

// Passes lists all passes.
var Passes = []Pass{PassDepth, PassNormal, PassFacing, PassPosition, PassMatte, PassGroups}

// Spoken is where the lines of an output go.
type Spoken string

// The places of lines: nowhere (""), in the picture, or in a file beside it (SubRip).
const (
	InPicture Spoken = "picture"
	Beside    Spoken = "file"
)

// Says is what a burn-in or a piece of a name tells.
type Says string

// What burn-ins and names tell.
const (
	SaysText       Says = "text"
	SaysProduction Says = "production"
	SaysScene      Says = "scene"
	SaysAssembly   Says = "assembly"
	SaysShot       Says = "shot"
	SaysCamera     Says = "camera"
	SaysFormat     Says = "format"
	SaysVersion    Says = "version"
	SaysDate       Says = "date"
	SaysLens       Says = "lens"
	SaysStory      Says = "story"  // time code
	SaysScreen     Says = "screen" // time code
	SaysFrame      Says = "frame"  // of the file, from the recipe's first number
)

// BurnSays lists what burn-ins tell, NameSays what names do.
var (
	BurnSays = []Says{SaysShot, SaysCamera, SaysLens, SaysStory, SaysScreen, SaysFrame, SaysVersion, SaysDate, SaysScene, SaysProduction, SaysAssembly, SaysFormat, SaysText}
	NameSays = []Says{SaysProduction, SaysScene, SaysAssembly, SaysShot, SaysCamera, SaysFormat, SaysVersion, SaysDate, SaysText}
)

// Burn is a line of text in the picture. X and Y are the shares of the free width and
// height that lie left of it and above it. Size is its height as a share of the
// picture's, 0 for the usual one.
type Burn struct {
	Says Says    `json:"says"`
	Text string  `json:"text,omitempty"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	Size float64 `json:"size,omitempty"`
}

// Mask lays black over what lies outside of another shape in the middle of the picture.
// Aspect is that shape's width divided by its height, Dark how much the black covers.
type Mask struct {
	Aspect float64 `json:"aspect"`
	Dark   float64 `json:"dark"`
}

// NamePart is a piece of a file's name.
type NamePart struct {
	Says Says   `json:"says"`
	Text string `json:"text,omitempty"`
}

// Recipe is how the outputs of a delivery are made.
type Recipe struct {
	Name    string  `json:"name"`
	Pack    Pack    `json:"pack" jsonschema:"enum=h264,enum=vp9,enum=prores,enum=ffv1,enum=png,enum=jpeg,enum=exr"`
	Quality Quality `json:"quality" jsonschema:"enum=rough,enum=check,enum=fine"`
	Scale   float64 `json:"scale,omitempty"` // of the format's size; 0 stands for 1
	// Rate is that of the files; none stands for the scene's. Files of another rate last as
	// long: their frames are evaluated in between.
	Rate   *timing.Rate `json:"rate,omitempty"`
	Head   int          `json:"head,omitempty"` // frames of the scene before and after a shot
	Tail   int          `json:"tail,omitempty"`
	Joined bool         `json:"joined,omitempty"` // a shot has its joins in it; else its own camera runs on through them
	Sound  bool         `json:"sound,omitempty"`
	Lines  Spoken       `json:"lines,omitempty" jsonschema:"enum=picture,enum=file"`
	Slate  int          `json:"slate,omitempty"` // frames of a card before everything, which says what follows
	Burns  []Burn       `json:"burns,omitempty"`
	Mask   *Mask        `json:"mask,omitempty"`
	Passes []Pass       `json:"passes,omitempty" jsonschema:"enum=depth,enum=normal,enum=facing,enum=position,enum=matte,enum=groups"` // each as EXR pictures of its own
	// Names are the pieces of file names in order; none stands for the usual ones.
	Names   []NamePart `json:"names,omitempty"`
	First   *int       `json:"first,omitempty"`   // number of the first frame, 1 when left out
	ByStory bool       `json:"byStory,omitempty"` // numbered pictures carry the number of the story's frame
}

// Bounds of recipes.
const (
	MaxHandle = 2400 // frames
	maxSlate  = 2400
	maxBurns  = 24
)

// ReadRecipe reads a recipe. What it does not know, or finds wrong, it refuses.
func ReadRecipe(body []byte) (r Recipe, err error) {
	if err = Strict(body, &r); err == nil {
		err = CheckRecipe(r)
	}
	return r, err
}

// CheckRecipe tells what is wrong with a recipe; nil when nothing is.
func CheckRecipe(r Recipe) error {
	c := &checker{at: "recipe"}
	c.recipe(r)
	if len(c.problems) > 0 {
		return c.problems
	}
	return nil
}

func (c *checker) recipe(r Recipe) {
	c.text("name", r.Name, true)
	if !slices.Contains(Packs, r.Pack) {
		c.fail("pack", "is %q; it must be one of %v", clip(string(r.Pack)), Packs)
	}
	if r.Quality != Rough && r.Quality != Check && r.Quality != Fine {
		c.fail("quality", "is %q; it must be rough, check or fine", clip(string(r.Quality)))
	}
	if r.Scale != 0 {
		c.number("scale", r.Scale, 0.1, 4)
	}
	if r.Rate != nil && !r.Rate.Valid() {
		c.fail("rate", "is not a frame rate")
	}
	c.whole("head", r.Head, MaxHandle)
	c.whole("tail", r.Tail, MaxHandle)
	c.whole("slate", r.Slate, maxSlate)
	if r.Lines != "" && r.Lines != InPicture && r.Lines != Beside {
		c.fail("lines", "are in %q; they go into the picture, into a file, or nowhere", clip(string(r.Lines)))
	}
	if r.Mask != nil {
		c.number("mask/aspect", r.Mask.Aspect, 0.2, 5)
		c.number("mask/dark", r.Mask.Dark, 0, 1)
	}
	for i, p := range r.Passes {
		if !slices.Contains(Passes, p) || slices.Contains(r.Passes[:i], p) {
			c.fail("passes", "have %q; each of %v can be there once", clip(string(p)), Passes)
		}
	}
	if r.First != nil {
		c.whole("first", *r.First, MaxFrame)
	}
	if len(r.Burns) > maxBurns || len(r.Names) > maxBurns {
		c.fail("burns", "and names have more than %d pieces", maxBurns)
		return
	}
	for i, b := range r.Burns {
		at := fmt.Sprintf("burns/%d", i)
		if !slices.Contains(BurnSays, b.Says) {
			c.fail(at+"/says", "is %q, which no burn-in tells", clip(string(b.Says)))
		}
		c.text(at+"/text", b.Text, b.Says == SaysText)
		c.number(at+"/x", b.X, 0, 1)
		c.number(at+"/y", b.Y, 0, 1)
		if b.Size != 0 {
			c.number(at+"/size", b.Size, 0.01, 0.2)
		}
	}
	for i, n := range r.Names {
		at := fmt.Sprintf("names/%d", i)
		if !slices.Contains(NameSays, n.Says) {
			c.fail(at+"/says", "is %q, which no name tells", clip(string(n.Says)))
		}
		c.text(at+"/text", n.Text, n.Says == SaysText)
	}
}

// whole checks a count of frames.
func (c *checker) whole(field string, n, most int) {
	if n < 0 || n > most {
		c.fail(field, "is %d; it must be from 0 to %d frames", n, most)
	}
}
