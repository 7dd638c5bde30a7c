package scene

import "fmt"

// Called returns what people call an entity: "camera 3 (Crane)", "shot 040",
// "pan of Ida". Of what is not there it returns the collection and the id.
func (d *Document) Called(collection, id string) string {
	name := func(id string) string {
		if id == SettingsID {
			return "the light"
		}
		if n, ok := d.Nodes[id]; ok {
			return n.Name
		}
		return id
	}
	named := func(what, name string) string {
		if name == "" {
			return what
		}
		return what + " " + name
	}
	switch collection {
	case "settings":
		return "settings of the scene"
	case "nodes":
		if n, ok := d.Nodes[id]; ok && n.Camera != nil {
			return fmt.Sprintf("camera %d (%s)", n.Camera.Number, n.Name)
		} else if ok {
			return n.Name
		}
	case "paths":
		if p, ok := d.Paths[id]; ok {
			return named("path", p.Name)
		}
	case "curves":
		if v, ok := d.Curves[id]; ok {
			return fmt.Sprintf("%s of %s", v.Channel, name(v.Node))
		}
	case "actions":
		if a, ok := d.Actions[id]; ok {
			return fmt.Sprintf("%s: %s", name(a.Cast), a.Do)
		}
	case "assemblies":
		if a, ok := d.Assemblies[id]; ok {
			return "assembly " + a.Name
		}
	case "lanes":
		if l, ok := d.Lanes[id]; ok {
			return fmt.Sprintf("lane %s of %s", l.Name, d.Assemblies[l.Assembly].Name)
		}
	case "shots":
		if s, ok := d.Shots[id]; ok {
			return named("shot "+s.Number, s.Name)
		}
	case "boards":
		if b, ok := d.Boards[id]; ok {
			return "board of shot " + d.Shots[b.Shot].Number
		}
	case "markers":
		if m, ok := d.Markers[id]; ok {
			return named("marker", m.Name)
		}
	case "lines":
		if l, ok := d.Lines[id]; ok {
			return fmt.Sprintf("line of %s: %s", name(l.Cast), clip(l.Text))
		}
	case "formats":
		if f, ok := d.Formats[id]; ok {
			return "format " + f.Name
		}
	case "models":
		if m, ok := d.Models[id]; ok {
			return "imported model " + m.Name
		}
	case "kits":
		if k, ok := d.Kits[id]; ok {
			return "lens kit " + k.Name
		}
	case "recipes":
		if r, ok := d.Recipes[id]; ok {
			return "recipe " + r.Name
		}
	case "cards":
		if k, ok := d.Cards[id]; ok {
			return "card " + k.Name
		}
	case "footage":
		if f, ok := d.Footage[id]; ok {
			return "footage " + f.Name
		}
	case "tracks":
		if t, ok := d.Tracks[id]; ok {
			return "track " + t.Name
		}
	case "alternates":
		if a, ok := d.Alternates[id]; ok {
			return "alternate " + a.Name
		}
	case "differences":
		if _, ok := d.Differences[id]; ok {
			return d.calledDifference(id)
		}
	case "sounds":
		if s, ok := d.Sounds[id]; ok {
			return "sound " + s.Name
		}
	}
	return collection + " " + clip(id)
}
