// Package alternate makes one scene of many: the scene with layers of differences on it.
// docs/alternates.md has the rules for what meets in a layer and below it.
package alternate

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"proscen/core/scene"
)

// Shared tells collections of which all alternates have the same: what is brought in from
// outside to be used, which cuts there are, and in which forms is delivered. Changes of
// them in an alternate are changes of the scene.
func Shared(collection string) bool {
	switch collection {
	case "alternates", "differences", "models", "kits", "cards", "footage", "formats", "recipes", "assemblies":
		return true
	}
	return false
}

// differs tells why nothing of a collection can differ in alternates; nil when it can.
func differs(doc *scene.Document, collection string) error {
	if doc.Table(collection) == nil || Shared(collection) {
		return fmt.Errorf("%q is nothing in which alternates differ", collection)
	}
	return nil
}

// Find returns the id of an alternate by id or name; "" and the word scene stand for the
// scene itself.
func Find(doc *scene.Document, name string) (string, error) {
	if name == "" {
		return "", nil
	}
	if _, ok := doc.Alternates[name]; ok {
		return name, nil
	}
	var found []string
	for _, id := range Sorted(doc) {
		if doc.Alternates[id].Name == name {
			found = append(found, id)
		}
	}
	switch {
	case len(found) == 1:
		return found[0], nil
	case len(found) > 1:
		return "", fmt.Errorf("%d alternates are called %q; give one of them another name", len(found), name)
	case strings.EqualFold(name, "scene"):
		return "", nil
	case len(doc.Alternates) == 0:
		return "", fmt.Errorf("there is no alternate called %q: the scene has none", name)
	}
	var names []string
	for _, id := range Sorted(doc) {
		names = append(names, doc.Alternates[id].Name)
	}
	return "", fmt.Errorf("there is no alternate called %q; there are %s", name, strings.Join(names, ", "))
}

// Sorted lists the alternates of a scene by name.
func Sorted(doc *scene.Document) []string {
	return slices.SortedFunc(maps.Keys(doc.Alternates), func(a, b string) int {
		return cmp.Or(strings.Compare(doc.Alternates[a].Name, doc.Alternates[b].Name), strings.Compare(a, b))
	})
}

// Chain lists the layers that make an alternate, from the one on the scene to its own; none
// for "". It says why an alternate cannot be made.
//
// For a layer of one shot these are its alternate's, and then what the shot has for itself
// in the scene and in each of them.
func Chain(doc *scene.Document, layer string) ([]string, error) {
	id, shot := Parts(layer)
	if shot != "" {
		out, err := Chain(doc, id)
		if err != nil {
			return nil, err
		}
		apart := shotLayers(doc, out, shot)
		if len(apart) == 0 || apart[len(apart)-1] != layer {
			apart = append(apart, layer) // there may be nothing in it yet
		}
		return append(out, apart...), nil
	}
	var out []string
	for at := id; at != ""; at = doc.Alternates[at].Parent {
		a, ok := doc.Alternates[at]
		switch {
		case !ok && at == id:
			return nil, fmt.Errorf("there is no such alternate any more")
		case !ok:
			return nil, fmt.Errorf("%s hangs on an alternate that is not there; hang it on the scene or on another one", doc.Alternates[out[len(out)-1]].Name)
		case slices.Contains(out, at):
			return nil, fmt.Errorf("%s hangs on itself in a circle; hang one of the circle on the scene", a.Name)
		}
		out = append(out, at)
	}
	slices.Reverse(out)
	return out, nil
}

// Children lists the alternates that hang on one, or on the scene for "".
func Children(doc *scene.Document, id string) (out []string) {
	for _, k := range Sorted(doc) {
		if doc.Alternates[k].Parent == id {
			out = append(out, k)
		}
	}
	return out
}

// Shut tells why an alternate cannot be worked in; nil when it can.
func Shut(doc *scene.Document, id string) error {
	chain, err := Chain(doc, id)
	if err == nil {
		err = tooLarge(doc, chain)
	}
	return err
}

// Faults says what is wrong with alternates, by their ids. The scene opens all the same.
func Faults(doc *scene.Document) map[string]string {
	out := map[string]string{}
	names := map[string]string{}
	for _, id := range Sorted(doc) {
		a := doc.Alternates[id]
		if err := Shut(doc, id); err != nil {
			out[id] = err.Error()
			continue
		}
		_, format := doc.Formats[a.Format]
		_, cut := doc.Assemblies[a.Assembly]
		switch {
		case names[a.Name] != "":
			out[id] = fmt.Sprintf("another alternate is called %s, too; give it another name", a.Name)
		case a.Format != "" && !format:
			out[id] = fmt.Sprintf("%s is bound to a format that is not there any more; bind it to another one, or to none", a.Name)
		case a.Assembly != "" && !cut:
			out[id] = fmt.Sprintf("%s is bound to an assembly that is not there any more; bind it to another one, or to none", a.Name)
		}
		names[a.Name] = id
	}
	return out
}

// Of lists the differences of an alternate by collection and thing.
func Of(doc *scene.Document, id string) (out []string) {
	for k, d := range doc.Differences {
		if d.Alternate == id {
			out = append(out, k)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		x, y := doc.Differences[a], doc.Differences[b]
		return cmp.Or(strings.Compare(x.Collection, y.Collection), strings.Compare(x.Thing, y.Thing))
	})
	return out
}
