package alternate

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"proscen/core/patch"
	"proscen/core/scene"
)

// A layer is named by its alternate, "" for the scene; that of one shot by the shot, too,
// behind an @.

// InShot names the layer of a shot in an alternate.
func InShot(alternate, shot string) string {
	if shot == "" {
		return alternate
	}
	return alternate + "@" + shot
}

// Parts are the alternate and the shot, "" for none, of a layer.
func Parts(layer string) (alternate, shot string) {
	alternate, shot, _ = strings.Cut(layer, "@")
	return alternate, shot
}

// below is what a layer lies on: an alternate on another one, that of a shot on its alternate.
func below(doc *scene.Document, layer string) string {
	if alternate, shot := Parts(layer); shot != "" {
		return alternate
	}
	return doc.Alternates[layer].Parent
}

// there tells whether a layer can be written into.
func there(doc *scene.Document, layer string) bool {
	alternate, shot := Parts(layer)
	if _, ok := doc.Alternates[alternate]; !ok && alternate != "" {
		return false
	}
	return shot != "" || alternate != ""
}

// Called is what people call a layer.
func Called(doc *scene.Document, layer string) string {
	alternate, shot := Parts(layer)
	name := doc.Alternates[alternate].Name
	switch {
	case shot == "":
		return name
	case name == "":
		return "shot " + doc.Shots[shot].Number
	}
	return "shot " + doc.Shots[shot].Number + " in " + name
}

// shotLayers lists what a shot has for itself in an alternate with a chain: of the scene, of
// each of the chain, each only where there is something.
func shotLayers(doc *scene.Document, chain []string, shot string) (out []string) {
	used := Used(doc)
	for _, alternate := range append([]string{""}, chain...) {
		if l := InShot(alternate, shot); used[l] > 0 {
			out = append(out, l)
		}
	}
	return out
}

// Used tells how many differences each layer has that has any.
func Used(doc *scene.Document) map[string]int {
	out := map[string]int{}
	for _, d := range doc.Differences {
		out[d.Alternate]++
	}
	return out
}

// Layers lists all layers that have differences, each behind those that it lies on.
func Layers(doc *scene.Document) (out []string) {
	used := Used(doc)
	tree := append([]string{""}, InTree(doc)...)
	of := map[string][]string{}
	for _, l := range slices.Sorted(maps.Keys(used)) {
		if alternate, shot := Parts(l); shot != "" {
			of[alternate] = append(of[alternate], l)
		}
	}
	for _, id := range tree {
		if used[id] > 0 {
			out = append(out, id)
		}
	}
	for _, id := range tree {
		out = append(out, of[id]...)
	}
	return out
}

// Apart returns a document, of the scene or an alternate, as one of its shots has it; nil
// when that is no other.
func Apart(doc *scene.Document, shot string) (*scene.Document, error) {
	chain, err := Chain(doc, doc.As)
	if err != nil || shot == "" {
		return nil, err
	}
	layers := shotLayers(doc, chain, shot)
	if len(layers) == 0 {
		return nil, nil
	}
	s, err := open(doc, InShot(doc.As, shot), layers)
	if err != nil {
		return nil, err
	}
	return s.Doc, nil
}

// pictured are the collections in which a shot can differ, and the fields of settings.
var (
	pictured = []string{"nodes", "curves", "actions", "paths"}
	lighted  = []string{"sun", "sky", "haze", "exposure", "tint"}
)

// inShot tells why a difference cannot be one of a single shot; nil when it can.
func inShot(d *scene.Difference) error {
	if slices.Contains(pictured, d.Collection) {
		return nil
	}
	if d.Collection == "settings" {
		for name := range d.Fields {
			if !slices.Contains(lighted, name) {
				return errors.New("in one shot only, the light is all of the settings that can differ; work in the scene to change the others")
			}
		}
		return nil
	}
	return fmt.Errorf("in one shot only, what is seen can differ, and not %s; work in the scene or in an alternate to change that", collectionWords(d.Collection))
}

func collectionWords(collection string) string {
	switch collection {
	case "shots", "lanes", "boards":
		return "the cut"
	case "lines", "sounds", "tracks":
		return "what is heard"
	}
	return "the " + collection
}

// LetGo removes what shots have for themselves that a draft removes: with the scene's shot all
// of it, with that of an alternate what it has there.
func LetGo(d *patch.Draft) {
	gone := map[string]bool{}
	for _, c := range d.Shots() {
		if _, is := d.Doc.Shots[c.ID]; c.Was && !is {
			gone[c.ID] = true
		}
	}
	if len(gone) == 0 {
		return
	}
	for id, v := range d.Doc.Differences {
		if of, shot := Parts(v.Alternate); gone[shot] && (d.Doc.As == "" || of == d.Doc.As) {
			d.Delete("differences", id)
		}
	}
}

// Handed are a shot and one that is made from it.
type Handed struct{ From, To string }

// Hand gives shots what those have for themselves that they are made from.
func Hand(d *patch.Draft, all []Handed) {
	layers := map[string][]string{} // by shot, those that lie lower first
	if len(all) > 0 {
		layers = ofShots(d.Doc)
	}
	for _, h := range all {
		for _, l := range layers[h.From] {
			of, _ := Parts(l)
			if d.Doc.As != "" {
				of = d.Doc.As // where it is made
			}
			for _, id := range Of(d.Doc, l) {
				over(d, InShot(of, h.To), d.Doc.Differences[id])
			}
		}
	}
}

// ofShots are the layers of all shots that have something for themselves: in the scene those
// of all alternates, in an alternate those that are in effect there.
func ofShots(doc *scene.Document) map[string][]string {
	out := map[string][]string{}
	chain, _ := Chain(doc, doc.As)
	for _, l := range slices.Sorted(maps.Keys(Used(doc))) {
		if of, shot := Parts(l); shot != "" && (doc.As == "" || of == "" || slices.Contains(chain, of)) {
			out[shot] = append(out[shot], l)
		}
	}
	for _, layers := range out {
		slices.SortStableFunc(layers, func(a, b string) int {
			x, _ := Parts(a)
			y, _ := Parts(b)
			return slices.Index(chain, x) - slices.Index(chain, y)
		})
	}
	return out
}
