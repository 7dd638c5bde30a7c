package turnover

import "proscen/core/scene"

// Plans are what has been planned of one document. The zero value has none.
type Plans struct {
	made  map[string]map[string]Item // by alternate, assembly, format and recipe, then by subject
	sides *Documents
}

// As returns the document of an alternate of the scene.
func (p *Plans) As(doc *scene.Document, id string) (*scene.Document, error) {
	if p.sides == nil || p.sides.doc != doc {
		p.sides, p.made = DocumentsOf(doc), nil
	}
	return p.sides.As(id)
}

// Again returns what an item is now, and whether it is there still.
func (p *Plans) Again(doc *scene.Document, was Item, r scene.Recipe) (Item, bool, error) {
	doc, err := p.As(doc, was.Alternate)
	if err != nil { // there is no such alternate any more
		return was, false, nil
	}
	if was.What == Camera || was.What == Still && was.Shot == "" {
		return was, doc.Nodes[was.Camera].Camera != nil, nil
	}
	if _, there := doc.Assemblies[was.Assembly]; !there {
		return was, false, nil
	}
	if _, there := doc.Formats[was.Format]; !there {
		return was, false, nil
	}
	key := string(scene.Canonical([]any{was.Alternate, was.Assembly, was.Format, r}))
	plan, made := p.made[key]
	if !made {
		plan = map[string]Item{}
		if p.made == nil {
			p.made = map[string]map[string]Item{}
		}
		p.made[key] = plan
		items, err := Plan(doc, Order{
			Alternates: []string{was.Alternate}, Assemblies: []string{was.Assembly}, Formats: []string{was.Format}, Each: true, Whole: true, Marked: true, Stills: []Moment{First, Middle, Last},
		}, &r)
		if err != nil { // there are no shots any more
			return was, false, nil
		}
		for _, i := range items {
			plan[i.Subject()] = i
		}
	}
	now, there := plan[was.Subject()]
	if was.What == Still && was.Moment == "" && was.Marker == "" { // at a frame of its shot
		if now, there = plan[(&Item{What: Shot, Alternate: was.Alternate, Assembly: was.Assembly, Shot: was.Shot, Format: was.Format}).Subject()]; there {
			now.What, now.Pass, now.Head, now.Tail, now.Offset = Still, was.Pass, 0, 0, was.Offset
			now.In += was.Offset
			now.Out, there = now.In+1, now.In < now.Out
		}
	}
	if was.Fixed {
		now.Width, now.Height, now.Fixed = was.Width, was.Height, true
	}
	return now, there, nil
}
