package alternate

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
)

// Operations are what is done to alternates themselves. All of them change the scene,
// whichever alternate is worked in.
func Operations() edit.Catalog {
	return edit.Catalog{
		"alternateAdd":    edit.Op(alternateAdd),
		"alternateChange": edit.Op(alternateChange),
		"alternateRemove": edit.Op(alternateRemove),
		"differencesBack": edit.Op(differencesBack),
		"differencesDown": edit.Op(differencesDown),
		"differencesCopy": edit.Op(differencesCopy),
	}
}

// Bounds of alternates.
const (
	most     = 2_000
	mostDeep = 32
	mostLaid = 50_000 // differences of one layer
)

type alternateArgs struct {
	ID       string `json:"id,omitempty"`
	Name     string `json:"name"`
	Parent   string `json:"parent,omitempty"`   // id, "" for the scene
	Format   string `json:"format,omitempty"`   // id that it is bound to
	Assembly string `json:"assembly,omitempty"` // id that it is bound to
	Known    string `json:"known,omitempty"`    // what the scenes of the production call it
}

func (a alternateArgs) alternate(d *edit.Draft, id string) (scene.Alternate, error) {
	out := scene.Alternate{Name: strings.TrimSpace(a.Name), Parent: a.Parent, Format: a.Format, Assembly: a.Assembly, Known: strings.TrimSpace(a.Known)}
	_, format := d.Doc.Formats[a.Format]
	_, cut := d.Doc.Assemblies[a.Assembly]
	switch {
	case out.Name == "" || strings.EqualFold(out.Name, "scene"):
		return out, errors.New("an alternate needs a name of its own, such as night")
	case a.Format != "" && !format:
		return out, errors.New("the format that it is to be bound to is not there any more")
	case a.Assembly != "" && !cut:
		return out, errors.New("the assembly that it is to be bound to is not there any more")
	}
	for k, other := range d.Doc.Alternates {
		switch {
		case k == id:
		case strings.EqualFold(other.Name, out.Name):
			return out, fmt.Errorf("there is an alternate called %s already", other.Name)
		case a.Format != "" && other.Format == a.Format:
			return out, fmt.Errorf("%s is bound to this format already", other.Name)
		case a.Assembly != "" && other.Assembly == a.Assembly:
			return out, fmt.Errorf("%s is bound to this assembly already", other.Name)
		}
	}
	d.SetAlternate(id, out)
	chain, err := Chain(d.Doc, id)
	if err == nil && len(chain) > mostDeep {
		err = fmt.Errorf("alternates hang on each other more than %d deep; hang it further down", mostDeep)
	}
	return out, err
}

func alternateAdd(d *edit.Draft, a alternateArgs) (string, error) {
	if len(d.Doc.Alternates) >= most {
		return "", fmt.Errorf("the scene has %d alternates, and more than that are not kept; remove some first", most)
	}
	id := a.ID
	if id == "" {
		id = d.NewID()
	}
	if _, ok := d.Doc.Alternates[id]; ok {
		return "", errors.New("there is such an alternate already")
	}
	out, err := a.alternate(d, id)
	return "add the alternate " + out.Name, err
}

func alternateChange(d *edit.Draft, a alternateArgs) (string, error) {
	if _, ok := d.Doc.Alternates[a.ID]; !ok {
		return "", errors.New("the alternate is not there any more")
	}
	out, err := a.alternate(d, a.ID)
	return "change the alternate " + out.Name, err
}

type alternateRemoveArgs struct {
	ID   string `json:"id"`
	Keep bool   `json:"keep,omitempty"` // those that hang on it take its differences over
}

// alternateRemove removes an alternate. What hangs on it hangs on its parent then, with its
// differences or without.
func alternateRemove(d *edit.Draft, a alternateRemoveArgs) (string, error) {
	gone, ok := d.Doc.Alternates[a.ID]
	if !ok {
		return "", errors.New("the alternate is not there any more")
	}
	children := Children(d.Doc, a.ID)
	for _, layer := range slices.Sorted(maps.Keys(Used(d.Doc))) { // its own, and those of its shots
		of, shot := Parts(layer)
		if of != a.ID {
			continue
		}
		for _, id := range Of(d.Doc, layer) {
			if a.Keep {
				for _, child := range children {
					under(d.Draft, InShot(child, shot), d.Doc.Differences[id])
				}
			}
			d.Delete("differences", id)
		}
	}
	for _, child := range children {
		c := d.Doc.Alternates[child]
		c.Parent = gone.Parent
		if _, there := d.Doc.Alternates[gone.Parent]; !there {
			c.Parent = ""
		}
		d.SetAlternate(child, c)
	}
	d.Delete("alternates", a.ID)
	return "remove the alternate " + gone.Name, nil
}

// under lays a difference below what an alternate has of its own for the same thing.
func under(d *patch.Draft, alternate string, below scene.Difference) {
	id := scene.DifferenceID(alternate, below.Collection, below.Thing)
	own, has := d.Doc.Differences[id]
	put(d, alternate, id, below, own, has)
}

// over lays a difference above what an alternate has of its own for the same thing.
func over(d *patch.Draft, alternate string, above scene.Difference) {
	id := scene.DifferenceID(alternate, above.Collection, above.Thing)
	if own, has := d.Doc.Differences[id]; has {
		put(d, alternate, id, own, above, true)
	} else {
		put(d, alternate, id, above, scene.Difference{}, false)
	}
}

// put stores two differences of a thing as one.
func put(d *patch.Draft, alternate, id string, below, above scene.Difference, both bool) {
	out := below
	if both {
		out = joined(below, above)
	}
	out.Alternate = alternate
	if both && below.What == scene.Added && above.What == scene.Removed {
		d.Delete("differences", id)
		return
	}
	d.SetDifference(id, out)
}

// joined is what two differences of a thing are together.
func joined(below, above scene.Difference) scene.Difference {
	switch {
	case above.What == scene.Removed:
		return above
	case below.What == scene.Removed: // removed, and there again
		above.What = scene.Added
		return above
	case above.What == scene.Added || above.Collection == "curves":
		above.What, above.Was = below.What, below.Was
		return above
	}
	out := below
	out.Fields = inOne(below.Fields, above.Fields, below.What == scene.Added)
	if out.Was != nil {
		out.Was = scene.Fields(inOne(above.Was, below.Was, false))
	}
	return out
}

// inOne is one merge patch that does what two in a row do; whole is a thing and no patch.
func inOne(first, second map[string]any, whole bool) map[string]any {
	if whole {
		return scene.Fields(first).With(second)
	}
	out := scene.Fields{}
	for name, v := range first {
		out[name] = v
	}
	for name, v := range second {
		a, nested := out[name].(map[string]any)
		b, both := v.(map[string]any)
		if nested && both {
			out[name] = inOne(a, b, false)
		} else {
			out[name] = v
		}
	}
	return out
}

// chosen are differences of one alternate, or single fields of them.
type chosen struct {
	IDs    []string `json:"ids"`
	Fields []string `json:"fields,omitempty"` // names with dots between; none stands for all
}

var (
	errNone = errors.New("no difference is chosen")
	errGone = errors.New("one of the differences is not there any more")
)

// take goes through the chosen differences of one alternate, and leaves of each what is not
// chosen. Part is what is.
func (a chosen) take(d *edit.Draft, each func(part scene.Difference) error) (label string, err error) {
	if len(a.IDs) == 0 {
		return "", errNone
	}
	of := ""
	for _, id := range a.IDs {
		v, ok := d.Doc.Differences[id]
		switch {
		case !ok:
			return "", errGone
		case of != "" && v.Alternate != of:
			return "", errors.New("these are differences of several alternates; choose those of one")
		}
		of = v.Alternate
		part, rest := a.part(v)
		switch {
		case part == nil:
			continue
		case rest == nil:
			d.Delete("differences", id)
		default:
			d.SetDifference(id, *rest)
		}
		if each != nil {
			if err := each(*part); err != nil {
				return "", err
			}
		}
	}
	if len(a.IDs) == 1 {
		return "a difference", nil
	}
	return fmt.Sprintf("%d differences", len(a.IDs)), nil
}

// part divides a difference into what is chosen of it and what is not; nil for nothing.
func (a chosen) part(v scene.Difference) (part, rest *scene.Difference) {
	if len(a.Fields) == 0 || v.What != scene.Changed || v.Collection == "curves" {
		return &v, nil
	}
	some, others := v, v
	some.Fields, others.Fields = split(v.Fields, a.Fields)
	some.Was, others.Was = split(v.Was, a.Fields)
	if len(some.Fields) > 0 {
		part = &some
	}
	if len(others.Fields) > 0 {
		rest = &others
	}
	return part, rest
}

// split divides fields into those of some names and the others.
func split(f scene.Fields, names []string) (some, others scene.Fields) {
	some, others = scene.Fields{}, scene.Fields{}
	for name, v := range f {
		if slices.Contains(names, name) {
			some[name] = v
			continue
		}
		var within []string
		for _, n := range names {
			if rest, ok := strings.CutPrefix(n, name+"."); ok {
				within = append(within, rest)
			}
		}
		in, nested := v.(map[string]any)
		if !nested || len(within) == 0 {
			others[name] = v
			continue
		}
		a, b := split(in, within)
		if len(a) > 0 {
			some[name] = map[string]any(a)
		}
		if len(b) > 0 {
			others[name] = map[string]any(b)
		}
	}
	return some, others
}

// differencesBack takes differences back: there it is as it is below.
func differencesBack(d *edit.Draft, a chosen) (string, error) {
	what, err := a.take(d, nil)
	return "take back " + what, err
}

// differencesDown puts differences into what the alternate hangs on.
func differencesDown(d *edit.Draft, a chosen) (string, error) {
	lanes := map[string]bool{}
	what, err := a.take(d, func(part scene.Difference) error {
		parent := below(d.Doc, part.Alternate)
		if parent != "" && !there(d.Doc, parent) {
			return errors.New("what the alternate hangs on is not there any more; hang it on the scene or on another one first")
		}
		if parent != "" {
			over(d.Draft, parent, part)
			return nil
		}
		if err := intoScene(d.Draft, part); err != nil {
			return err
		}
		if part.Collection == "shots" {
			lanes[d.Doc.Shots[part.Thing].Lane] = true
		}
		return nil
	})
	for _, lane := range slices.Sorted(maps.Keys(lanes)) {
		makeRoom(d.Draft, lane) // as in the alternate
	}
	return "put down " + what, err
}

func intoScene(d *patch.Draft, v scene.Difference) error {
	if err := differs(d.Doc, v.Collection); err != nil {
		return err
	}
	body, err := changed(d.Table(v.Collection).Get(v.Thing), v)
	if err != nil {
		return fmt.Errorf("%w; take it back instead", err)
	}
	if body == nil {
		d.Delete(v.Collection, v.Thing)
		return nil
	}
	if err := d.SetJSON(v.Collection, v.Thing, body); err != nil {
		return fmt.Errorf("%s/%s %w", v.Collection, v.Thing, err)
	}
	return nil
}

type copyArgs struct {
	chosen
	To string `json:"to"` // id of an alternate, or the layer of a shot
}

// differencesCopy lays differences into another alternate, too.
func differencesCopy(d *edit.Draft, a copyArgs) (string, error) {
	if !there(d.Doc, a.To) {
		return "", errors.New("the alternate that they are to be copied to is not there any more")
	}
	_, shot := Parts(a.To)
	if len(a.IDs) == 0 {
		return "", errNone
	}
	for _, id := range a.IDs {
		v, ok := d.Doc.Differences[id]
		if !ok {
			return "", errGone
		}
		if shot != "" {
			if err := inShot(&v); err != nil {
				return "", err
			}
		}
		if part, _ := a.part(v); part != nil {
			over(d.Draft, a.To, *part)
		}
	}
	return fmt.Sprintf("copy %d differences to %s", len(a.IDs), Called(d.Doc, a.To)), nil
}
