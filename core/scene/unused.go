package scene

import (
	"cmp"
	"maps"
	"slices"
)

// Thing names an entity of a document.
type Thing struct {
	Collection string `json:"collection"`
	ID         string `json:"id"`
}

// Unused lists what nothing in the document uses, in order: models without a node,
// kits of the scene's own without a camera, paths that nothing goes along, cards and
// footage without a shot, empty tracks.
func (d *Document) Unused() []Thing {
	used := map[Thing]bool{}
	use := func(collection, id string) { used[Thing{collection, id}] = true }
	for _, n := range d.Nodes {
		use("models", n.Model)
		use("paths", n.Path)
		if n.Piece != nil {
			use("paths", n.Piece.Along)
		}
		if n.Camera != nil {
			use("kits", n.Camera.Kit)
		}
	}
	for id, k := range d.Kits {
		if k.Shared {
			use("kits", id)
		}
	}
	for _, a := range d.Actions {
		use("paths", a.Path)
	}
	for _, s := range d.Shots {
		use("cards", s.Card)
		use("footage", s.Footage)
	}
	for _, s := range d.Sounds {
		use("tracks", s.Track)
	}
	var out []Thing
	for _, name := range []string{"models", "kits", "paths", "cards", "footage", "tracks"} {
		for _, id := range d.Table(name).IDs() {
			if t := (Thing{name, id}); !used[t] {
				out = append(out, t)
			}
		}
	}
	return out
}

// FileUse is a file of a document with what names it.
type FileUse struct {
	Blob  string  `json:"blob"`
	Kind  string  `json:"kind"` // models, images, sounds, footage
	Users []Thing `json:"users"`
}

// Files lists the files that a document names, each once with its users, in order.
func (d *Document) Files() []FileUse {
	by := map[[2]string]*FileUse{}
	add := func(kind, blob, collection, id string) {
		if blob == "" {
			return
		}
		f := by[[2]string{kind, blob}]
		if f == nil {
			f = &FileUse{Blob: blob, Kind: kind}
			by[[2]string{kind, blob}] = f
		}
		f.Users = append(f.Users, Thing{collection, id})
	}
	for id, m := range d.Models {
		add("models", m.Blob, "models", id)
	}
	for id, n := range d.Nodes {
		if s := n.Screen; s != nil && s.Film != nil {
			add("footage", s.Film.Blob, "nodes", id)
		} else if s != nil {
			add("images", s.Blob, "nodes", id)
		}
		if n.Camera != nil && n.Camera.Match != nil {
			add("images", n.Camera.Match.Blob, "nodes", id)
		}
	}
	for id, b := range d.Boards {
		add("images", b.Blob, "boards", id)
	}
	for id, c := range d.Cards {
		add("images", c.Blob, "cards", id)
	}
	for id, s := range d.Sounds {
		add("sounds", s.Blob, "sounds", id)
	}
	for id, f := range d.Footage {
		add("footage", f.Blob, "footage", id)
	}
	out := make([]FileUse, 0, len(by))
	for _, key := range slices.SortedFunc(maps.Keys(by), func(a, b [2]string) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) }) {
		f := by[key]
		slices.SortFunc(f.Users, func(a, b Thing) int { return cmp.Or(cmp.Compare(a.Collection, b.Collection), cmp.Compare(a.ID, b.ID)) })
		out = append(out, *f)
	}
	return out
}
