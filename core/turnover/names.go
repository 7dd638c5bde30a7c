package turnover

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"proscen/core/naming"
	"proscen/core/scene"
	"proscen/core/timing"
)

// Facts are what names and burn-ins tell of an output, besides its item.
type Facts struct {
	Version int       `json:"version"`
	Date    time.Time `json:"date"`
}

// usualNames are the pieces of a name when a recipe has none of its own.
var usualNames = []scene.NamePart{{Says: scene.SaysScene}, {Says: scene.SaysShot}, {Says: scene.SaysCamera}, {Says: scene.SaysFormat}, {Says: scene.SaysVersion}}

// Path returns the folder and the name of an output below the folder of its delivery,
// without an ending: made of lower-case letters, digits, dashes and underscores. Each
// shot of each assembly has a folder of its own. A version is always in the name.
func Path(doc *scene.Document, i *Item, r *scene.Recipe, f Facts) string {
	pieces := r.Names
	if len(pieces) == 0 {
		pieces = usualNames
	}
	var parts []string
	versioned := false
	for _, n := range pieces {
		said := ""
		switch n.Says {
		case scene.SaysVersion:
			said, versioned = fmt.Sprintf("v%03d", f.Version), true
		case scene.SaysDate:
			said = f.Date.UTC().Format("20060102")
		case scene.SaysCamera:
			switch {
			case i.CameraNumber > 0:
				said = fmt.Sprintf("cam%02d", i.CameraNumber)
			case i.What != Whole:
				said = "still"
			}
		case scene.SaysFormat:
			if len(doc.Formats) > 1 || len(r.Names) > 0 {
				said = naming.Slug(doc.Formats[i.Format].Name)
			}
		case scene.SaysShot:
			said = part(doc, i)
		default:
			if said = told(doc, i, n.Says, n.Text); said != "" {
				said = naming.Slug(said)
			}
		}
		if said != "" {
			parts = append(parts, said)
		}
	}
	if i.Otherwise != "" { // before the version, which comes last in most names
		at := len(parts)
		if versioned && pieces[len(pieces)-1].Says == scene.SaysVersion {
			at--
		}
		parts = slices.Insert(parts, at, naming.Slug(i.Otherwise))
	}
	if !versioned {
		parts = append(parts, fmt.Sprintf("v%03d", f.Version))
	}
	if i.Pass != "" {
		parts = append(parts, string(i.Pass))
	}
	folder := "cameras"
	if i.Assembly != "" {
		folder = naming.Slug(doc.Assemblies[i.Assembly].Name)
	}
	own := part(doc, i)
	switch {
	case i.What == Still && i.Shot == "":
		own = fmt.Sprintf("cam%02d", i.CameraNumber)
	case i.What == Still: // with the others of its shot
		own = naming.Slug(i.Number)
	}
	return folder + "/" + own + "/" + strings.Join(parts, "_")
}

// part names what of a cut an item is.
func part(doc *scene.Document, i *Item) string {
	switch i.What {
	case Whole:
		return "cut"
	case Still:
		switch {
		case i.Shot == "":
			return fmt.Sprintf("cam%02d-%s", i.CameraNumber, signless(i.In))
		case i.Marker != "":
			return naming.Slug(i.Number) + "-" + naming.Slug(doc.Markers[i.Marker].Name)
		case i.Moment == "":
			return fmt.Sprintf("%s-%d", naming.Slug(i.Number), i.Offset+1)
		}
		return naming.Slug(i.Number) + "-" + string(i.Moment)
	case Camera:
		return fmt.Sprintf("cam%02d-%s", i.CameraNumber, signless(i.In))
	default:
		return naming.Slug(i.Number)
	}
}

func signless(n int) string { return strings.Replace(strconv.Itoa(n), "-", "minus", 1) }

// told is what a burn-in or name says that does not change from frame to frame.
func told(doc *scene.Document, i *Item, says scene.Says, text string) string {
	switch says {
	case scene.SaysText:
		return text
	case scene.SaysProduction:
		return doc.Settings.Production
	case scene.SaysScene:
		return doc.Settings.Title
	case scene.SaysAssembly:
		return doc.Assemblies[i.Assembly].Name
	case scene.SaysFormat:
		return doc.Formats[i.Format].Name
	}
	return ""
}

// Now is what burn-ins tell of one frame.
type Now struct {
	Shot, Camera string  // number and name
	Focal        float64 // mm, 0 when there is no lens
	Story        float64 // frame
	Screen       int     // frame
	Number       int     // of the frame in its file
}

// BurnText returns what a burn-in says at a frame.
func BurnText(doc *scene.Document, i *Item, b scene.Burn, f Facts, now Now) string {
	switch b.Says {
	case scene.SaysShot:
		return now.Shot
	case scene.SaysCamera:
		return now.Camera
	case scene.SaysLens:
		if now.Focal == 0 {
			return ""
		}
		return strconv.FormatFloat(math.Round(now.Focal*10)/10, 'f', -1, 64) + " mm"
	case scene.SaysStory:
		return doc.Settings.Timecode(scene.StoryClock, floor(now.Story))
	case scene.SaysScreen:
		return doc.Settings.Timecode(scene.ScreenClock, now.Screen)
	case scene.SaysFrame:
		return strconv.Itoa(now.Number)
	case scene.SaysVersion:
		return fmt.Sprintf("v%03d", f.Version)
	case scene.SaysDate:
		return f.Date.UTC().Format(time.DateOnly)
	}
	return told(doc, i, b.Says, b.Text)
}

// NumberOf returns the number of a frame of an item's file, which is at a frame of
// screen time and of the story: that of the story when the recipe says so, else
// counted from the recipe's first.
func NumberOf(r *scene.Recipe, at int, story float64) int {
	if r.ByStory {
		return floor(story)
	}
	first := 1
	if r.First != nil {
		first = *r.First
	}
	return first + at
}

// Stretched tells the rate and length of an item in words for a slate.
func stretched(i *Item, r *scene.Recipe, rate timing.Rate) string {
	n := i.filed(i.Out - i.In)
	said := fmt.Sprintf("%d frames at %s", n, rate)
	if i.Head+i.Tail > 0 {
		said += fmt.Sprintf(", with %d before and %d after", i.filed(i.Head), i.TailFrames(r))
	}
	return said + fmt.Sprintf(" · %d × %d · %s", i.Width, i.Height, r.Quality)
}
