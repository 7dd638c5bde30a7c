package edit

import (
	"proscen/core/scene"
)

// bonds are what refers to each node, by id and in order: what an operation on many
// nodes asks for each of them.
type bonds struct {
	children, aims, actions, focuses, lines, markers, shots map[string][]string
}

// bondsOf finds the bonds of a document.
func bondsOf(doc *scene.Document) *bonds {
	b := &bonds{}
	by := func(list *map[string][]string) func(node, id string) {
		*list = map[string][]string{}
		return func(node, id string) {
			if l := (*list)[node]; node != "" && (len(l) == 0 || l[len(l)-1] != id) {
				(*list)[node] = append(l, id)
			}
		}
	}
	children, aims := by(&b.children), by(&b.aims)
	for _, k := range ids(doc.Nodes) {
		n := doc.Nodes[k]
		children(n.Parent, k)
		if n.Camera != nil {
			aims(n.Camera.AimAt, k)
			aims(n.Camera.FocusOn, k)
		}
	}
	actions := by(&b.actions)
	for _, k := range ids(doc.Actions) {
		v := doc.Actions[k]
		for _, node := range []string{v.Cast, v.On, v.With, v.Face} {
			actions(node, k)
		}
	}
	focuses := by(&b.focuses)
	for _, k := range ids(doc.Curves) {
		for _, key := range doc.Curves[k].Keys {
			focuses(key.On, k)
		}
	}
	lines := by(&b.lines)
	for _, k := range ids(doc.Lines) {
		lines(doc.Lines[k].Cast, k)
	}
	markers := by(&b.markers)
	for _, k := range ids(doc.Markers) {
		markers(doc.Markers[k].Camera, k)
	}
	shots := by(&b.shots)
	list := doc.ShotsInOrder()
	for i := range list {
		for camera := range list[i].Cameras {
			shots(camera, list[i].ID)
		}
	}
	return b
}

// among turns a list of ids into a set.
func among(list []string) map[string]bool {
	out := make(map[string]bool, len(list))
	for _, id := range list {
		out[id] = true
	}
	return out
}
