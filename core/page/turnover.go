package page

import (
	"errors"
	"slices"
	"time"

	"proscen/core/alternate"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/turnover"
)

// Planned is what a delivery would make.
type Planned struct {
	Files  []PlannedFile `json:"files"` // the first ones, as examples
	Count  int           `json:"count"`
	Frames int           `json:"frames"` // of all
	Pixels float64       `json:"pixels"` // of all frames
}

// PlannedFile is a file, or a folder of numbered pictures, below the folder of its
// delivery, in its first version.
type PlannedFile struct {
	Path   string `json:"path"`
	Frames int    `json:"frames"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

type delivering struct {
	Order  turnover.Order `json:"order"`
	Recipe scene.Recipe   `json:"recipe"`
}

// fewFiles is how many are told.
const fewFiles = 12

// whole is what is delivered of what is worked in: a shot's own is in its pictures, and
// the alternate, or the scene, that it is of is what is delivered.
func (p *Page) whole() *session.Session {
	if of, shot := alternate.Parts(p.side); shot != "" && p.live == nil {
		if s, err := p.sides.At(of); err == nil {
			return s
		}
	}
	return p.session
}

// planned tells what a delivery would make.
func (p *Page) planned(a delivering) (Planned, error) {
	doc := p.whole().Doc // what is worked in, as long as no alternate is named
	if len(a.Order.Alternates) > 0 && p.live == nil {
		doc = p.sides.Scene().Doc
	}
	items, err := turnover.Plan(doc, a.Order, &a.Recipe)
	if err != nil {
		return Planned{}, err
	}
	sides := turnover.DocumentsOf(doc)
	out := Planned{Files: []PlannedFile{}, Count: len(items)}
	for i := range items {
		it := &items[i]
		n := it.Frames(&a.Recipe)
		out.Frames += n
		out.Pixels += float64(n) * float64(it.Width) * float64(it.Height)
		if i >= fewFiles {
			continue
		}
		side, err := sides.As(it.Alternate)
		if err != nil {
			return Planned{}, err
		}
		path := turnover.Path(side, it, &a.Recipe, turnover.Facts{Version: 1, Date: time.Now()})
		if pack := turnover.RecipeFor(it, a.Recipe).Pack; !pack.Numbered() || it.What == turnover.Still {
			path += "." + pack.Ending()
		}
		out.Files = append(out.Files, PlannedFile{path, n, it.Width, it.Height})
	}
	return out, nil
}

// DoubtsNow are the doubts that have been found so far. Left is how many shots have not
// been looked through yet.
type DoubtsNow struct {
	Doubts []turnover.Doubt `json:"doubts"`
	Left   int              `json:"left"`
}

// doubtTime is how long looking through cameras may take at once.
const doubtTime = 25 * time.Millisecond

type doubting struct {
	delivering
	Lost []string `json:"lost"`
}

// doubts begins to look for what would disappoint in a delivery. Lost are the blobs of
// files that are not there.
func (p *Page) doubts(a doubting) (DoubtsNow, error) {
	a.Order.Alternates = nil // what is worked in is looked through
	items, err := turnover.Plan(p.whole().Doc, a.Order, &a.Recipe)
	if err != nil {
		return DoubtsNow{}, err
	}
	p.doubter = turnover.NewDoubter(p.whole(), items, func(blob string) bool { return slices.Contains(a.Lost, blob) })
	p.doubting, p.doubted = a, p.whole().Changes()
	return p.goDoubting(), nil
}

// moreDoubts goes on with what doubts has begun; when the scene has changed since, from
// the beginning.
func (p *Page) moreDoubts(none) (DoubtsNow, error) {
	if p.doubter == nil || p.doubted != p.whole().Changes() {
		return p.doubts(p.doubting)
	}
	return p.goDoubting(), nil
}

func (p *Page) goDoubting() DoubtsNow {
	defer p.staying()()
	until := time.Now().Add(doubtTime)
	left := p.doubter.Go(func() bool { return time.Now().Before(until) })
	return DoubtsNow{p.doubter.Found, left}
}

// airNow returns what a delivered file would show at one of its frames if it were made
// now. Where it has no such frame any more, nothing plays.
func (p *Page) airNow(a struct {
	Item   turnover.Item `json:"item"`
	Recipe scene.Recipe  `json:"recipe"`
	Frame  int           `json:"frame"` // of the file
}) (program.Air, error) {
	out := program.Air{Playing: []program.Playing{}}
	seen := p.whole()
	if a.Item.Alternate != seen.Doc.As {
		return out, errors.New("this shows another alternate; work in that one to compare")
	}
	var plans turnover.Plans
	now, there, err := plans.Again(seen.Doc, a.Item, a.Recipe)
	if err != nil {
		return out, err
	}
	if !there {
		return out, errors.New("this is not in the cut any more")
	}
	f, err := turnover.Unpainted(seen, now, a.Recipe, turnover.Facts{})
	if err != nil || a.Frame < 0 || a.Frame >= f.Frames() {
		return out, err
	}
	f.At(a.Frame, &out)
	return out, nil
}

// staying returns what brings the scene back to the frame at which it is now.
func (p *Page) staying() func() {
	at := p.session.State.Frame
	return func() { p.session.Evaluate(at) }
}

type pulling struct {
	Assemblies []string `json:"assemblies"`
	Head       int      `json:"head"`
	Tail       int      `json:"tail"`
}

// pulls is the pull list of assemblies.
func (p *Page) pulls(a pulling) turnover.Pulled {
	return turnover.PullOf(p.session.Doc, a.Assemblies, a.Head, a.Tail)
}

// pullTable is the pull list as a table, CSV.
func (p *Page) pullTable(a pulling) string { return string(p.pulls(a).CSV(p.session.Doc)) }

// recipeWrong tells what is wrong with a recipe, "" when nothing is.
func (p *Page) recipeWrong(a struct {
	Recipe scene.Recipe `json:"recipe"`
}) string {
	if err := scene.CheckRecipe(a.Recipe); err != nil {
		return err.Error()
	}
	return ""
}

// usualRecipes are those that every production has.
func (p *Page) usualRecipes(none) []scene.Recipe { return turnover.Usual() }

// burnTexts returns what burn-ins of a recipe say at the first frame of the first item
// of an order.
func (p *Page) burnTexts(a delivering) ([]string, error) {
	a.Order.Alternates = nil // what is worked in says them
	items, err := turnover.Plan(p.whole().Doc, a.Order, &a.Recipe)
	if err != nil {
		return nil, err
	}
	defer p.staying()()
	return turnover.BurnTexts(p.whole(), &items[0], &a.Recipe, turnover.Facts{Version: 1, Date: time.Now()}), nil
}
