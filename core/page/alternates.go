package page

import (
	"maps"
	"slices"
	"strings"

	"proscen/core/alternate"
	"proscen/core/kit"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/session"
)

// Worked is the answer to choosing an alternate.
type Worked struct {
	Assembly  string `json:"assembly"`  // the chosen one
	Alternate string `json:"alternate"` // id, "" for the scene itself
}

// workIn works in another alternate from now on, "" for the scene itself. What is seen is
// another document then.
func (p *Page) workIn(a struct {
	Alternate string `json:"alternate"`
}) (Worked, error) {
	if p.live != nil {
		return Worked{}, errPast
	}
	s, err := p.sides.At(a.Alternate)
	if err != nil {
		return Worked{}, err
	}
	if s != p.session {
		p.session.Cancel()
		p.side = a.Alternate
		p.see(s)
		if p.side != "" {
			p.last = p.side
		}
		_, _ = p.sides.Moved(p.side) // all of it is new
		p.keep()
	}
	return Worked{p.session.Assembly(), p.side}, nil
}

// keep leaves open what is gone back to at once: people go to and fro.
func (p *Page) keep() { p.sides.Keep(append([]string{p.last, p.side}, p.compared...)...) }

// BesideNow is what is asked instead of what is worked in.
type BesideNow struct {
	Layer string `json:"layer"`
	Here  bool   `json:"here"` // it is what is worked in
}

// beside lets everything be asked about another alternate, as it has a shot if one is
// named, until homeward is called. Nothing is changed between.
func (p *Page) beside(a struct {
	Alternate string `json:"alternate"` // "" for the scene itself
	Shot      string `json:"shot,omitempty"`
	// Without leaves out differences, by their ids.
	Without []string `json:"without,omitempty"`
}) (BesideNow, error) {
	if p.live != nil {
		return BesideNow{}, errPast
	}
	p.homeward(none{})
	here, _ := alternate.Parts(p.side)
	s := p.session
	if len(a.Without) > 0 {
		var err error
		if s, err = p.without(p.sides.Layer(a.Alternate, a.Shot), a.Without); err != nil {
			return BesideNow{}, err
		}
	} else if a.Alternate == here {
		s = s.In(a.Shot) // with what is being dragged
	} else {
		var err error
		if s, err = p.sides.At(p.sides.Layer(a.Alternate, a.Shot)); err != nil {
			return BesideNow{}, err
		}
	}
	if s == p.session {
		return BesideNow{s.Doc.As, true}, nil
	}
	p.home, p.session = p.session, s
	return BesideNow{s.Doc.As, false}, nil
}

// lacking is a layer without some differences, as it was asked for last.
type lacking struct {
	of      string
	changes int
	session *session.Session
}

func (p *Page) without(layer string, ids []string) (*session.Session, error) {
	of, changes := layer+" "+strings.Join(ids, " "), p.sides.Scene().Changes()
	if p.lacking.session == nil || p.lacking.of != of || p.lacking.changes != changes {
		s, err := p.sides.Without(layer, ids)
		if err != nil {
			return nil, err
		}
		p.lacking = lacking{of, changes, s}
	}
	return p.lacking.session, nil
}

// homeward asks about what is worked in again.
func (p *Page) homeward(none) done {
	if p.home != nil {
		p.session, p.home = p.home, nil
	}
	return done{}
}

// ComparedSide is an alternate that is looked at beside what is worked in.
type ComparedSide struct {
	Format string `json:"format"`          // id, of the one that is worked in there
	Fault  string `json:"fault,omitempty"` // why it cannot be looked at
}

// comparing says which alternates are looked at beside what is worked in.
func (p *Page) comparing(a struct {
	Alternates []string `json:"alternates"`
}) map[string]ComparedSide {
	out := map[string]ComparedSide{}
	p.compared = a.Alternates
	for _, id := range a.Alternates {
		if s, err := p.sides.At(id); err != nil {
			out[id] = ComparedSide{Fault: err.Error()}
		} else {
			out[id] = ComparedSide{Format: s.Doc.Settings.Format}
		}
	}
	p.keep()
	return out
}

// alongside adds to what a patch of the scene names what has changed by it in the alternate
// that is worked in; when that cannot be any more, the scene itself is worked in.
func (p *Page) alongside(by patch.Patch, o *Outcome) patch.Patch {
	if p.side == "" {
		return by
	}
	keys, err := p.sides.Moved(p.side)
	if err != nil {
		o.Left = "The alternate that was worked in is not there any more; this is the scene itself."
		if _, there := p.sides.Scene().Doc.Alternates[p.side]; there {
			o.Left = "This is the scene itself now: " + err.Error() + "."
		}
		p.side = ""
		if p.live != nil {
			p.live = p.sides.Scene()
		} else {
			p.see(p.sides.Scene())
		}
		return by
	}
	by = by[:len(by):len(by)]
	for _, k := range keys {
		by = append(by, patch.Change{Collection: k.Collection, ID: k.ID})
	}
	return by
}

// Provide hands over the bundle of an imported model by its blob.
func (p *Page) Provide(blob string, b *kit.Bundle) {
	p.sides.Provide(blob, b)
	if p.live != nil {
		p.session.Provide(blob, b)
	}
}

// AlternateNow is an alternate with what is to be told of it.
type AlternateNow struct {
	ID    string `json:"id"`
	Count int    `json:"count"` // of its own differences
	Depth int    `json:"depth"` // how many others it hangs on
	Fault string `json:"fault,omitempty"`
	Shut  bool   `json:"shut,omitempty"` // it cannot be worked in
}

// ShotLayerNow is what one shot has for itself, in the scene or in an alternate.
type ShotLayerNow struct {
	Layer     string `json:"layer"`
	Alternate string `json:"alternate"` // "" for the scene itself
	Shot      string `json:"shot"`
	Count     int    `json:"count"`
	Here      bool   `json:"here"` // it is so where is worked, too
}

// LayersNow are the alternates of the scene, each after what it hangs on, and what is
// otherwise in single shots.
type LayersNow struct {
	Alternates []AlternateNow `json:"alternates"`
	Shots      []ShotLayerNow `json:"shots"`
}

// alternates lists all layers of the scene.
func (p *Page) alternates(none) LayersNow {
	doc := p.sides.Scene().Doc
	faults := alternate.Faults(doc)
	counts := alternate.Used(doc)
	out := LayersNow{Alternates: []AlternateNow{}, Shots: []ShotLayerNow{}}
	for _, id := range alternate.InTree(doc) {
		chain, _ := alternate.Chain(doc, id)
		out.Alternates = append(out.Alternates, AlternateNow{id, counts[id], max(0, len(chain)-1), faults[id], alternate.Shut(doc, id) != nil})
	}
	here, _ := alternate.Parts(p.side)
	chain, _ := alternate.Chain(doc, here)
	for _, layer := range slices.Sorted(maps.Keys(counts)) {
		if of, shot := alternate.Parts(layer); shot != "" {
			out.Shots = append(out.Shots, ShotLayerNow{layer, of, shot, counts[layer], of == "" || slices.Contains(chain, of)})
		}
	}
	return out
}

// differing lists what differs in an alternate from what it hangs on.
func (p *Page) differing(a struct {
	Alternate string `json:"alternate"`
}) ([]alternate.Told, error) {
	return alternate.List(p.sides.Scene().Doc, a.Alternate)
}

// compareSides lists what differs in an alternate, or a shot of it, from another one.
func (p *Page) compareSides(a struct {
	Here  string `json:"here"` // ids, "" for the scene itself
	There string `json:"there"`
}) ([]alternate.Told, error) {
	here, err := p.sides.At(a.Here)
	if err != nil {
		return nil, err
	}
	there, err := p.sides.At(a.There)
	if err != nil {
		return nil, err
	}
	return alternate.Compared(here.Doc, there.Doc), nil
}

// fieldsThatDiffer lists the fields of things that differ in the alternate that is worked
// in, as collection/id and names; of what is added or a curve there is the empty name.
func (p *Page) fieldsThatDiffer(none) map[string][]string {
	out := map[string][]string{}
	doc := p.sides.Scene().Doc
	for _, id := range alternate.Of(doc, p.side) {
		d := doc.Differences[id]
		key := d.Collection + "/" + d.Thing
		if d.What != scene.Changed || d.Collection == "curves" {
			out[key] = []string{""}
			continue
		}
		out[key] = alternate.Names(d.Fields)
	}
	return out
}
