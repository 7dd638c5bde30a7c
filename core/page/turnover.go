package page

import (
	"slices"
	"time"

	"proscen/core/scene"
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

// planned tells what a delivery would make.
func (p *Page) planned(a delivering) (Planned, error) {
	doc := p.session.Doc
	items, err := turnover.Plan(doc, a.Order, &a.Recipe)
	if err != nil {
		return Planned{}, err
	}
	out := Planned{Files: []PlannedFile{}, Count: len(items)}
	for i := range items {
		it := &items[i]
		n := it.Frames(&a.Recipe)
		out.Frames += n
		out.Pixels += float64(n) * float64(it.Width) * float64(it.Height)
		if i >= fewFiles {
			continue
		}
		path := turnover.Path(doc, it, &a.Recipe, turnover.Facts{Version: 1, Date: time.Now()})
		if !a.Recipe.Pack.Numbered() || it.What == turnover.Still {
			path += "." + a.Recipe.Pack.Ending()
		}
		out.Files = append(out.Files, PlannedFile{path, n, it.Width, it.Height})
	}
	return out, nil
}

// doubts lists what would disappoint in a delivery. Lost are the blobs of files that
// are not there.
func (p *Page) doubts(a struct {
	delivering
	Lost []string `json:"lost"`
}) ([]turnover.Doubt, error) {
	items, err := turnover.Plan(p.session.Doc, a.Order, &a.Recipe)
	if err != nil {
		return nil, err
	}
	return turnover.Doubts(p.session, items, func(blob string) bool { return slices.Contains(a.Lost, blob) }), nil
}

// pulls is the pull list of assemblies.
func (p *Page) pulls(a struct {
	Assemblies []string `json:"assemblies"`
	Head       int      `json:"head"`
	Tail       int      `json:"tail"`
}) []turnover.Needs {
	return turnover.Pull(p.session.Doc, a.Assemblies, a.Head, a.Tail)
}

// usualRecipes are those that every production has.
func (p *Page) usualRecipes(none) []scene.Recipe { return turnover.Usual() }

// burnTexts returns what burn-ins of a recipe say at the first frame of the first item
// of an order.
func (p *Page) burnTexts(a delivering) ([]string, error) {
	items, err := turnover.Plan(p.session.Doc, a.Order, &a.Recipe)
	if err != nil {
		return nil, err
	}
	return turnover.BurnTexts(p.session, &items[0], &a.Recipe, turnover.Facts{Version: 1, Date: time.Now()}), nil
}
