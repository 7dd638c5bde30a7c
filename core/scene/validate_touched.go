package scene

import (
	"maps"
	"slices"
)

// Touched is an entity that an edit has touched, as it was before.
type Touched struct {
	Collection, ID string
	Before         any // nil when there was none
}

// ValidateTouched returns what changes of some shots and of other entities have
// made wrong in a document that was valid before: it looks at what was touched, at
// what refers to it, and at what must be unique. It finds something exactly when
// Validate does.
func (d *Document) ValidateTouched(shots []ShotChange, others []Touched) Problems {
	c := &checker{doc: d}
	gone := map[reference]bool{}
	c.touchedShots(shots, gone)
	t := touchedParts{checker: c, gone: gone}
	for _, o := range others {
		t.check(o)
	}
	t.together()
	if len(gone) > 0 {
		c.left(gone)
	}
	return c.problems
}

func (c *checker) touchedShots(shots []ShotChange, gone map[reference]bool) {
	lanes := map[string]bool{}
	lane := ""
	for i := range shots {
		s := &shots[i]
		if !s.Is {
			if s.Was {
				gone[reference{"shots", s.ID}] = true
			}
			continue
		}
		if s.After.Lane != lane {
			lane = s.After.Lane
			lanes[lane] = true
		}
		if s.Moved && s.After.placed() {
			continue
		}
		c.place("shots", s.ID)
		c.shot(s.After)
	}
	if len(shots) > 0 {
		c.few("shots", len(c.doc.Shots))
		c.apart(lanes)
	}
}

// touchedParts gathers, from entities that were touched, what has to be looked at
// together.
type touchedParts struct {
	*checker
	gone     map[reference]bool // what is not there any more, or has become something else
	cameras  map[string]bool
	lamps    bool
	curves   map[string]bool
	mains    map[string]bool
	circling []string // nodes that may have closed a circle
}

func note(in *map[string]bool, id string) {
	if *in == nil {
		*in = map[string]bool{}
	}
	(*in)[id] = true
}

// checkOne checks an entity of a collection that may be gone.
func checkOne[T any](t *touchedParts, o Touched, entities map[string]T, check func(e T)) {
	t.few(o.Collection, len(entities))
	e, ok := entities[o.ID]
	if !ok {
		if o.Before != nil {
			t.gone[reference{o.Collection, o.ID}] = true
		}
		return
	}
	t.place(o.Collection, o.ID)
	check(e)
}

func (t *touchedParts) check(o Touched) {
	d := t.doc
	switch o.Collection {
	case "settings":
		t.settings()
	case "nodes":
		checkOne(t, o, d.Nodes, t.node)
		t.touchedNode(o)
	case "paths":
		checkOne(t, o, d.Paths, t.path)
	case "curves":
		checkOne(t, o, d.Curves, t.curve)
		if v, ok := d.Curves[o.ID]; ok {
			note(&t.curves, o.ID)
			t.circling = append(t.circling, v.Node)
		}
	case "actions":
		checkOne(t, o, d.Actions, t.action)
		if a, ok := d.Actions[o.ID]; ok {
			t.circling = append(t.circling, a.Cast, a.On)
		}
	case "boards":
		checkOne(t, o, d.Boards, t.board)
	case "cards":
		checkOne(t, o, d.Cards, t.card)
	case "footage":
		checkOne(t, o, d.Footage, t.footage)
	case "tracks":
		checkOne(t, o, d.Tracks, t.track)
	case "sounds":
		checkOne(t, o, d.Sounds, t.sound)
	case "kits":
		checkOne(t, o, d.Kits, t.kit)
	case "recipes":
		checkOne(t, o, d.Recipes, t.recipe)
	case "alternates":
		checkOne(t, o, d.Alternates, t.alternate)
	case "differences":
		checkOne(t, o, d.Differences, t.difference)
	case "models":
		checkOne(t, o, d.Models, t.model)
	case "assemblies":
		checkOne(t, o, d.Assemblies, t.assembly)
		note(&t.mains, o.ID)
	case "markers":
		checkOne(t, o, d.Markers, t.marker)
	case "lanes":
		checkOne(t, o, d.Lanes, t.lane)
		note(&t.mains, d.Lanes[o.ID].Assembly)
		if was, ok := o.Before.(Lane); ok {
			note(&t.mains, was.Assembly)
		}
	case "lines":
		checkOne(t, o, d.Lines, t.line)
	case "formats":
		checkOne(t, o, d.Formats, t.format)
	}
}

func (t *touchedParts) touchedNode(o Touched) {
	n, is := t.doc.Nodes[o.ID]
	was, there := o.Before.(Node)
	if is && there && n.Kind != was.Kind {
		t.gone[reference{"nodes", o.ID}] = true
	}
	if n.Camera != nil {
		note(&t.cameras, o.ID)
	}
	t.lamps = t.lamps || n.Lamp != nil
	if is && len(n.Depends()) > 0 {
		t.circling = append(t.circling, o.ID)
	}
}

// together checks what entities have to do with each other.
func (t *touchedParts) together() {
	if t.cameras != nil {
		t.cameraNumbers(t.cameras)
	}
	if t.lamps {
		t.checker.lamps()
	}
	if t.curves != nil {
		t.owners(t.curves)
	}
	if t.mains != nil {
		t.mainLanes(t.mains)
	}
	if t.circling != nil {
		slices.Sort(t.circling)
		t.circles(slices.Compact(t.circling))
	}
}

// reference names an entity that another one refers to.
type reference struct{ collection, id string }

// left checks everything that refers to what is gone, or is no longer what it was.
func (c *checker) left(gone map[reference]bool) {
	collections := map[string]bool{}
	for r := range gone {
		collections[r.collection] = true
	}
	refers := func(refs ...reference) bool {
		return slices.ContainsFunc(refs, func(r reference) bool { return r.id != "" && gone[r] })
	}
	d := c.doc
	some := func(names ...string) bool {
		return slices.ContainsFunc(names, func(n string) bool { return collections[n] })
	}
	if refers(reference{"formats", d.Settings.Format}) {
		c.settings()
	}
	if some("nodes", "paths", "models", "kits") {
		again(c, "nodes", d.Nodes, func(n Node) bool { return refers(n.references()...) }, c.node)
	}
	if some("nodes") {
		again(c, "curves", d.Curves, func(v Curve) bool { return refers(v.references()...) }, c.curve)
		again(c, "lines", d.Lines, func(l Line) bool { return refers(reference{"nodes", l.Cast}) }, c.line)
	}
	if some("nodes", "paths") {
		again(c, "actions", d.Actions, func(a Action) bool { return refers(a.references()...) }, c.action)
	}
	if some("nodes", "lanes", "cards", "footage") {
		again(c, "shots", d.Shots, func(s Shot) bool {
			for camera := range s.Cameras {
				if refers(reference{"nodes", camera}) {
					return true
				}
			}
			return refers(reference{"lanes", s.Lane}, reference{"cards", s.Card}, reference{"footage", s.Footage})
		}, c.shot)
	}
	if some("nodes", "assemblies") {
		again(c, "markers", d.Markers, func(m Marker) bool {
			return refers(reference{"nodes", m.Camera}, reference{"assemblies", m.Assembly})
		}, c.marker)
	}
	if some("assemblies") {
		again(c, "lanes", d.Lanes, func(l Lane) bool { return refers(reference{"assemblies", l.Assembly}) }, c.lane)
		again(c, "tracks", d.Tracks, func(t Track) bool { return refers(reference{"assemblies", t.Assembly}) }, c.track)
	}
	if some("shots") {
		again(c, "boards", d.Boards, func(b Board) bool { return refers(reference{"shots", b.Shot}) }, c.board)
	}
	if some("tracks") {
		again(c, "sounds", d.Sounds, func(s Sound) bool { return refers(reference{"tracks", s.Track}) }, c.sound)
	}
}

func again[T any](c *checker, collection string, entities map[string]T, refers func(e T) bool, check func(e T)) {
	for _, id := range slices.Sorted(maps.Keys(entities)) {
		if e := entities[id]; refers(e) {
			c.place(collection, id)
			check(e)
		}
	}
}

func (n Node) references() []reference {
	out := []reference{{"nodes", n.Parent}, {"paths", n.Path}, {"models", n.Model}}
	if n.Piece != nil {
		out = append(out, reference{"paths", n.Piece.Along})
	}
	if k := n.Camera; k != nil {
		out = append(out, reference{"nodes", k.AimAt}, reference{"nodes", k.FocusOn}, reference{"kits", k.Kit})
	}
	return out
}

func (v Curve) references() []reference {
	out := []reference{{"nodes", v.Node}}
	for _, k := range v.Keys {
		if k.On != "" {
			out = append(out, reference{"nodes", k.On})
		}
	}
	return out
}

func (a Action) references() []reference {
	return []reference{{"nodes", a.Cast}, {"nodes", a.Face}, {"nodes", a.On}, {"nodes", a.With}, {"paths", a.Path}}
}
