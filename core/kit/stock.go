package kit

import (
	"maps"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// Param is one build parameter of a stand-in with its limits.
type Param struct {
	Name    string  `json:"name"`
	Title   string  `json:"title"`
	Unit    string  `json:"unit"` // m, °, or empty for counts
	Default float64 `json:"default"`
	Min     float64 `json:"min"`
	Max     float64 `json:"max"`
}

// Stock is one stand-in that can be placed.
type Stock struct {
	ID     string  `json:"id"`
	Title  string  `json:"title"`
	Group  string  `json:"group"`
	Kind   string  `json:"kind"` // set, prop or vehicle
	Color  string  `json:"color"`
	Params []Param `json:"params"`
	build  func(b *builder, p params)
}

// Also lists other words by which some stand-ins are looked for.
var Also = map[string]string{
	"aircraft": "plane airplane aeroplane flight", "car": "automobile vehicle drive", "van": "truck lorry bus delivery", "bicycle": "bike cycle",
	"boat": "ship dinghy rowing", "cabin": "gondola cable car lift", "cart": "wagon trolley barrow", "conifer": "tree fir pine spruce forest wood",
	"broadTree": "tree oak leaf forest wood", "bush": "shrub hedge plant", "rock": "stone boulder", "ridge": "mountain hill range", "ground": "terrain earth grass field hills",
	"water": "lake river sea pond", "road": "street asphalt lane", "footpath": "trail way track", "floor": "slab deck", "wall": "partition room",
	"doorWall": "door entrance gate", "windowWall": "window glass", "stairs": "steps staircase", "house": "building hut home", "column": "pillar", "post": "pole stake",
	"railing": "banister balustrade guard", "chair": "seat stool", "bench": "seat sofa", "table": "desk counter", "shelf": "rack bookcase", "cupboard": "wardrobe cabinet closet",
	"stove": "oven fire heater", "lamp": "light street lantern", "lantern": "light candle", "case": "suitcase luggage bag", "crate": "box chest", "barrel": "drum keg",
	"papers": "letter document sheet", "sign": "board arrow", "pylon": "mast tower", "cable": "wire rope line", "box": "cube block volume", "screen": "screen backdrop monitor photo video image", "fence": "paling",
	"crowd": "people audience extras spectators", "standing": "people bystanders extras onlookers mob group queue", "stoneWall": "wall",
}

// params gives the values of a stand-in's parameters, inside their limits.
type params struct {
	v    map[string]float64
	path *curve.Path
}

func (p params) get(name string) float64 { return p.v[name] }
func (p params) int(name string) int     { return int(math.Round(p.v[name])) }

func m(name, title string, def, lo, hi float64) Param { return Param{name, title, "m", def, lo, hi} }
func n(name, title string, def, lo, hi float64) Param { return Param{name, title, "", def, lo, hi} }
func angle(name, title string, def, lo, hi float64) Param {
	return Param{name, title, "°", def, lo, hi}
}

// Overhead tells the stock whose top nobody walks on.
func Overhead(stock string) bool {
	switch stock {
	case "roof", "cable", "house", "pylon":
		return true
	}
	return false
}

// Shelf lists the stock in the order in which it is offered.
var Shelf = []Stock{
	{"floor", "Floor", "Architecture", "set", "#6b6a66", []Param{m("width", "Width", 6, 0.1, 500), m("depth", "Depth", 6, 0.1, 500), m("thick", "Thickness", 0.1, 0.01, 5)}, floor},
	{"wall", "Wall with opening", "Architecture", "set", "#a79c8a", opening(1, 2.1, 0), wall},
	{"doorWall", "Wall with door", "Architecture", "set", "#a79c8a", append(opening(1, 2.1, 0), angle("swing", "Door open", 70, -120, 120)), doorWall},
	{"windowWall", "Wall with window", "Architecture", "set", "#a79c8a", append(opening(1.3, 1.2, 0.9), n("lit", "Lit", 0, 0, 1), angle("swing", "Window open", 0, -120, 120)), windowWall},
	{"arch", "Arch", "Architecture", "set", "#9a8f7f", []Param{m("width", "Length", 3, 0.4, 60), m("height", "Height", 3, 0.6, 40), m("thick", "Thickness", 0.5, 0.05, 5), m("openWidth", "Opening width", 1.8, 0.2, 50), m("openHeight", "Opening height", 2.4, 0.4, 40)}, arch},
	{"stairs", "Stairs", "Architecture", "set", "#7d7a74", []Param{m("width", "Width", 1.6, 0.3, 40), m("rise", "Height", 1.6, 0.1, 60), m("run", "Length", 2.6, 0.1, 90), n("steps", "Steps", 9, 1, 200)}, stairs},
	{"ramp", "Ramp", "Architecture", "set", "#7d7a74", []Param{m("width", "Width", 1.6, 0.3, 60), m("rise", "Height", 0.8, 0.02, 60), m("run", "Length", 4, 0.1, 200)}, ramp},
	{"platform", "Platform", "Architecture", "set", "#7b6a55", []Param{m("width", "Width", 6, 0.3, 200), m("depth", "Depth", 4, 0.3, 200), m("height", "Height", 1.2, 0.05, 40)}, platform},
	{"column", "Column", "Architecture", "set", "#b3aa9a", []Param{m("height", "Height", 3.4, 0.3, 60), m("thick", "Thickness", 0.5, 0.05, 8)}, column},
	{"post", "Post", "Architecture", "set", "#6a5a48", []Param{m("height", "Height", 3, 0.1, 60), m("thick", "Thickness", 0.16, 0.02, 5)}, post},
	{"roof", "Roof", "Architecture", "set", "#4a3d3a", []Param{m("width", "Width", 6, 0.5, 100), m("depth", "Depth", 4.5, 0.5, 100), m("height", "Height", 1.8, 0.05, 40), m("over", "Overhang", 0.4, 0, 5)}, roof},
	{"railing", "Railing", "Architecture", "set", "#4b4a48", []Param{m("length", "Length", 3, 0.3, 500), m("height", "Height", 1.05, 0.2, 4), m("gap", "Post distance", 1.2, 0.3, 10)}, railing},
	{"ladder", "Ladder", "Architecture", "set", "#7a6247", []Param{m("height", "Height", 3, 0.5, 30), m("width", "Width", 0.45, 0.2, 2), {"lean", "Lean", "°", 12, 0, 40}}, ladder},
	{"house", "House", "Architecture", "set", "#8c7b66", []Param{m("width", "Width", 6, 1, 100), m("depth", "Depth", 4.5, 1, 100), m("height", "Wall height", 2.8, 1, 40), m("roof", "Roof height", 1.8, 0.1, 30), n("lit", "Lit windows", 1, 0, 1), angle("door", "Door open", 0, 0, 120)}, house},
	{"box", "Box", "Architecture", "set", "#8a8478", []Param{m("width", "Width", 1, 0.01, 500), m("height", "Height", 1, 0.01, 500), m("depth", "Depth", 1, 0.01, 500)}, box},
	{"ground", "Ground", "Outdoors", "set", "#59604e", []Param{m("width", "Width", 60, 1, 4000), m("depth", "Depth", 60, 1, 4000), m("relief", "Relief", 1.5, 0, 600), m("scale", "Hill size", 18, 1, 2000), m("flat", "Level middle", 8, 0, 500), n("seed", "Variant", 1, 0, 999)}, ground},
	{"ridge", "Mountain ridge", "Outdoors", "set", "#4d5a66", []Param{m("width", "Width", 240, 5, 6000), m("depth", "Depth", 90, 5, 3000), m("height", "Height", 80, 1, 3000), n("seed", "Variant", 1, 0, 999)}, ridge},
	{"rock", "Rock", "Outdoors", "set", "#6f7173", []Param{m("size", "Size", 1.4, 0.05, 100), m("height", "Height", 1, 0.05, 100), n("seed", "Variant", 1, 0, 999)}, rock},
	{"conifer", "Conifer", "Outdoors", "set", "#2f4a3c", []Param{m("height", "Height", 7, 0.4, 60), m("width", "Width", 2.6, 0.2, 30), n("seed", "Variant", 1, 0, 999)}, conifer},
	{"broadTree", "Broad tree", "Outdoors", "set", "#4c6238", []Param{m("height", "Height", 7, 0.6, 50), m("width", "Width", 5.5, 0.4, 40), n("seed", "Variant", 1, 0, 999)}, broadTree},
	{"bush", "Bush", "Outdoors", "set", "#46563a", []Param{m("width", "Width", 1.4, 0.2, 12), m("height", "Height", 1, 0.1, 8), n("seed", "Variant", 1, 0, 999)}, bush},
	{"footpath", "Footpath", "Outdoors", "set", "#7c705e", []Param{m("length", "Length", 8, 0.5, 2000), m("width", "Width", 1.4, 0.2, 20)}, footpath},
	{"road", "Road", "Outdoors", "set", "#4a4b4c", []Param{m("length", "Length", 20, 1, 4000), m("width", "Width", 6, 1, 40)}, road},
	{"water", "Water", "Outdoors", "set", "#3d5a66", []Param{m("width", "Width", 20, 0.5, 4000), m("depth", "Depth", 20, 0.5, 4000), m("wave", "Wave height", 0.06, 0, 3), n("seed", "Variant", 1, 0, 999)}, water},
	{"fence", "Fence", "Outdoors", "set", "#6d5c49", []Param{m("length", "Length", 6, 0.5, 500), m("height", "Height", 1.05, 0.2, 6), m("gap", "Post distance", 1.5, 0.3, 20)}, fence},
	{"stoneWall", "Dry stone wall", "Outdoors", "set", "#77746c", []Param{m("length", "Length", 5, 0.5, 500), m("height", "Height", 0.9, 0.2, 6), m("thick", "Thickness", 0.45, 0.1, 3), n("seed", "Variant", 1, 0, 999)}, stoneWall},
	{Screen, "Picture plane", "Furniture", "set", "#8f8a80", []Param{m("width", "Width", 3.2, 0.05, 400), m("height", "Height", 1.8, 0.05, 400)}, picturePlane},
	{"sign", "Signpost", "Outdoors", "set", "#b9a06a", []Param{m("height", "Height", 2.3, 0.5, 8), m("width", "Board length", 0.8, 0.2, 4)}, signPost},
	{"pylon", "Pylon", "Outdoors", "set", "#4b5358", []Param{m("height", "Height", 12, 1, 120), m("arm", "Arm", 2.4, 0.2, 20)}, pylon},
	{"cable", "Cable", "Outdoors", "set", "#23282b", []Param{m("thick", "Thickness", 0.06, 0.01, 1), m("sag", "Sag", 0, 0, 50)}, cable},
	{"chair", "Chair", "Furniture", "prop", "#6b4d35", []Param{m("width", "Width", 0.44, 0.2, 2), m("seat", "Seat height", 0.45, 0.2, 1.5), m("back", "Height", 0.9, 0.4, 2.5)}, chair},
	{"bench", "Bench", "Furniture", "prop", "#75593d", []Param{m("width", "Width", 1.6, 0.3, 10)}, bench},
	{"table", "Table", "Furniture", "prop", "#7a5c40", []Param{m("width", "Width", 1.4, 0.3, 10), m("depth", "Depth", 0.8, 0.3, 5), m("height", "Height", 0.74, 0.2, 2)}, table},
	{"shelf", "Shelf", "Furniture", "prop", "#6f5339", []Param{m("width", "Width", 1, 0.3, 8), m("height", "Height", 1.9, 0.3, 5), m("depth", "Depth", 0.3, 0.1, 2), n("boards", "Boards", 5, 1, 20), n("full", "Filled", 1, 0, 1)}, shelf},
	{"cupboard", "Cupboard", "Furniture", "prop", "#5f4a38", []Param{m("width", "Width", 1.1, 0.3, 6), m("height", "Height", 1.8, 0.3, 4), m("depth", "Depth", 0.5, 0.2, 2), angle("door", "Doors open", 0, 0, 170)}, cupboard},
	{"bed", "Bed", "Furniture", "prop", "#7b3f3a", []Param{m("width", "Width", 0.95, 0.5, 3), m("length", "Length", 2, 1, 4)}, bed},
	{"stove", "Stove", "Furniture", "prop", "#3a3c3e", []Param{m("height", "Height", 0.9, 0.4, 2), m("flue", "Flue height", 2.6, 0.5, 12), n("lit", "Lit", 1, 0, 1), angle("door", "Door open", 0, 0, 170)}, stove},
	{"lamp", "Lamp post", "Props", "set", "#2d3236", []Param{m("height", "Height", 3.2, 0.3, 20), n("glow", "Glow", 1, 0, 1)}, lampPost},
	{"lantern", "Lantern", "Props", "prop", "#3a352c", []Param{m("height", "Height", 0.34, 0.1, 2), n("lit", "Lit", 1, 0, 1)}, lantern},
	{"case", "Case", "Props", "prop", "#5b3a2a", []Param{m("width", "Width", 0.46, 0.05, 3), m("height", "Height", 0.32, 0.05, 3), m("depth", "Depth", 0.14, 0.02, 3), angle("lid", "Lid open", 0, 0, 180)}, suitcase},
	{"crate", "Crate", "Props", "prop", "#86694a", []Param{m("width", "Width", 0.8, 0.1, 8), m("height", "Height", 0.6, 0.1, 8), m("depth", "Depth", 0.6, 0.1, 8), angle("lid", "Lid open", 0, 0, 200)}, crate},
	{"barrel", "Barrel", "Props", "prop", "#75573b", []Param{m("height", "Height", 0.9, 0.1, 5), m("thick", "Thickness", 0.6, 0.1, 4)}, barrel},
	{"bell", "Bell", "Props", "prop", "#a8873f", []Param{m("size", "Size", 0.35, 0.05, 5)}, bell},
	{"papers", "Papers", "Props", "prop", "#d9d3c3", []Param{m("width", "Width", 0.21, 0.05, 2), n("sheets", "Sheets", 3, 1, 60)}, papers},
	{"cabin", "Cable-car cabin", "Vehicles", "vehicle", "#c79a3e", []Param{m("width", "Width", 2.1, 0.5, 10), m("height", "Height", 2.3, 0.5, 10), m("length", "Length", 2.8, 0.5, 15), m("hanger", "Hanger", 2.2, 0.1, 20), n("swing", "Swing", 1, 0, 4), m("door", "Doors open", 0.5, 0, 0.5)}, cabin},
	{"car", "Car", "Vehicles", "vehicle", "#7c3b36", []Param{m("width", "Width", 1.75, 1, 3), m("height", "Height", 1.45, 0.9, 3), m("length", "Length", 4.2, 2, 9), n("lights", "Lights", 0, 0, 1), angle("door", "Door open", 0, -75, 75)}, car},
	{"van", "Van", "Vehicles", "vehicle", "#5d7480", []Param{m("width", "Width", 1.95, 1, 3), m("height", "Height", 2.2, 1.4, 4), m("length", "Length", 5.1, 3, 12), n("lights", "Lights", 0, 0, 1), angle("door", "Rear doors open", 0, 0, 180)}, van},
	{"cart", "Cart", "Vehicles", "vehicle", "#7b6145", []Param{m("width", "Width", 1.1, 0.4, 4), m("length", "Length", 2, 0.6, 8), m("wheel", "Wheel radius", 0.5, 0.1, 1.5)}, cart},
	{"bicycle", "Bicycle", "Vehicles", "vehicle", "#3f5f57", []Param{m("wheel", "Wheel radius", 0.34, 0.15, 0.8)}, bicycle},
	{"aircraft", "Aircraft", "Vehicles", "vehicle", "#b9bdb6", []Param{m("length", "Length", 7.6, 3, 40), m("span", "Wing span", 10.6, 3, 60)}, aircraft},
	{"boat", "Boat", "Vehicles", "vehicle", "#5c6f7a", []Param{m("width", "Width", 1.5, 0.5, 8), m("length", "Length", 4.2, 1, 30), m("height", "Height", 0.7, 0.3, 5), n("bob", "Bob", 1, 0, 5)}, boat},
	{"crowd", "Seated crowd", "People", "set", "#6b6460", []Param{n("across", "Across", 6, 1, 60), n("rows", "Rows", 3, 1, 60), m("gap", "Distance", 0.75, 0.5, 4), n("empty", "Empty seats", 0.15, 0, 0.9), n("seed", "Variant", 1, 0, 999)}, crowd},
	{"standing", "Standing crowd", "People", "set", "#6b6460", []Param{n("people", "People", 14, 1, 400), m("width", "Width", 6, 1, 100), m("depth", "Depth", 3, 0.6, 100), angle("turned", "Turned by up to", 35, 0, 180), n("children", "Children", 0.1, 0, 1), n("seed", "Variant", 1, 0, 999)}, standingCrowd},
}

// opening lists the parameters of a wall whose opening has a size and sill.
func opening(width, height, sill float64) []Param {
	return []Param{
		m("width", "Length", 4, 0.2, 200), m("height", "Height", 2.8, 0.2, 60), m("thick", "Thickness", 0.2, 0.02, 3),
		m("openAt", "Opening at", 2, 0, 200), m("openWidth", "Opening width", width, 0, 60), m("openHeight", "Opening height", height, 0, 60), m("sill", "Sill", sill, 0, 30)}
}

// Wheels returns the rolling parts of a vehicle with build parameters, none for
// other pieces.
func Wheels(id string, values map[string]float64) []Wheel {
	of := map[string]func(params) []Wheel{"car": carWheels, "van": vanWheels, "cart": cartWheels, "bicycle": bicycleWheels}[id]
	if of == nil {
		return nil
	}
	s, _ := Find(id)
	return of(s.params(values, nil))
}

// WheelMesh builds the mesh of a wheel; its axle lies along X.
func WheelMesh(w Wheel) *Mesh { return wheel(w) }

// Practical is a lamp that belongs to a piece.
type Practical struct {
	At       r3.Vec // in the piece's space
	Color    string
	Strength float64
	Reach    float64
}

// Practicals returns the lamps that a piece with build parameters brings along.
func Practicals(id string, values map[string]float64) []Practical {
	s, ok := Find(id)
	if !ok {
		return nil
	}
	p := s.params(values, nil)
	switch id {
	case "lamp":
		return []Practical{{vec(0.45, p.get("height")-0.5, 0), "#ffd9a0", 5, 14}} // under its globe
	case "lantern":
		return []Practical{{vec(0, p.get("height")*1.05, 0), "#ffc27a", 1.2, 7}}
	case "stove":
		return []Practical{{vec(0, 0.4, -0.5), "#ff8f45", 1.4, 5}}
	}
	return nil
}

// Grip returns the point of a piece by which a hand carries it: its handle, or
// the middle of its top.
func Grip(id string, values map[string]float64, bounds geom.Box) r3.Vec {
	if s, ok := Find(id); ok && id == "case" {
		return vec(0, s.params(values, nil).get("height")+0.04, 0)
	}
	c := bounds.Center()
	c.Y = bounds.Max.Y
	return c
}

// Find returns a stand-in of the stock.
func Find(id string) (Stock, bool) {
	i := slices.IndexFunc(Shelf, func(s Stock) bool { return s.ID == id })
	if i < 0 {
		return Stock{}, false
	}
	return Shelf[i], true
}

// Known tells whether there is such a stand-in.
func Known(id string) bool {
	_, ok := Find(id)
	return ok
}

// Build makes the mesh of a stand-in. Values outside a parameter's limits are
// held to them, unknown ones are ignored; color "" takes the stock's own. Path
// is what a cable or fence follows, in the piece's space, or nil. An unknown
// stand-in is built as a box, so that a scene from elsewhere still shows.
func Build(id string, values map[string]float64, color string, path *curve.Path) *Mesh {
	s, ok := Find(id)
	if !ok {
		s, _ = Find("box")
	}
	p := s.params(values, path)
	if color == "" {
		color = s.Color
	}
	b := newBuilder(Hex(color))
	s.build(b, p)
	return &b.mesh
}

// params returns values held to their limits, with defaults where none is given.
func (s Stock) params(values map[string]float64, path *curve.Path) params {
	p := params{v: map[string]float64{}, path: path}
	for _, q := range s.Params {
		v, given := values[q.Name]
		if !given {
			v = q.Default
		}
		p.v[q.Name] = max(q.Min, min(q.Max, v))
	}
	return p
}

// Value returns a build parameter of a stand-in, held to its limits.
func Value(id string, values map[string]float64, name string) float64 {
	s, _ := Find(id)
	return s.params(values, nil).get(name)
}

// Key names what a mesh is built from, without its leaves; equal keys build equal meshes.
func Key(id string, values map[string]float64, color string) string {
	key := id + " " + color
	for _, name := range slices.Sorted(maps.Keys(values)) {
		if name == Opens[id].Param {
			continue // its leaves are meshes of their own
		}
		key += " " + name + "=" + formatFloat(values[name])
	}
	return key
}

var (
	iron   = Hex("#2b3033")
	timber = Hex("#6a5440")
	glass  = Hex("#1d2a33")
	snow   = Hex("#c9d3dc")
	warm   = Hex("#ffca7a").glow(1)
)

func floor(b *builder, p params) {
	w, d := p.get("width")/2, p.get("depth")/2
	b.box(-w, -p.get("thick"), -d, w, 0, d)
}

func box(b *builder, p params) {
	w, d := p.get("width")/2, p.get("depth")/2
	b.box(-w, 0, -d, w, p.get("height"), d)
}

// wall runs along X from 0; the opening is a door, or a window with a sill.
func wall(b *builder, p params) {
	w, h, t := p.get("width"), p.get("height"), p.get("thick")/2
	o := p.get("openWidth")
	l := max(0, min(w, p.get("openAt")-o/2))
	r := max(l, min(w, l+o))
	sill := min(p.get("sill"), h)
	top := min(h, sill+p.get("openHeight"))
	if r-l < 0.01 || top-sill < 0.01 {
		b.box(0, 0, -t, w, h, t)
		return
	}
	if l > 0 {
		b.box(0, 0, -t, l, h, t)
	}
	if r < w {
		b.box(r, 0, -t, w, h, t)
	}
	if top < h {
		b.box(l, top, -t, r, h, t)
	}
	if sill > 0 {
		b.box(l, 0, -t, r, sill, t)
	}
	b.tinted(timber, func() {
		f := 0.06
		b.box(l, sill, -t-0.02, l+f, top, t+0.02)
		b.box(r-f, sill, -t-0.02, r, top, t+0.02)
		b.box(l, top-f, -t-0.02, r, top, t+0.02)
	})
}

// stairs climb toward −Z from the front edge at z = 0.
func stairs(b *builder, p params) {
	steps := p.int("steps")
	w, rise, run := p.get("width")/2, p.get("rise")/float64(steps), p.get("run")/float64(steps)
	for i := range steps {
		b.tinted(b.color.shade(1-0.04*float32(i%2)), func() {
			b.box(-w, 0, -float64(i+1)*run, w, float64(i+1)*rise, -float64(i)*run)
		})
	}
}

func platform(b *builder, p params) {
	w, d, h := p.get("width")/2, p.get("depth")/2, p.get("height")
	planks := int(max(1, math.Round(p.get("width")/0.3)))
	for i := range planks {
		x := -w + 2*w*float64(i)/float64(planks)
		b.tinted(b.color.shade(0.9+0.12*float32(lattice(i, 3, 7))), func() {
			b.box(x, h-0.06, -d, x+2*w/float64(planks)-0.012, h, d)
		})
	}
	b.tinted(b.color.shade(0.6), func() {
		b.box(-w+0.04, h-0.3, -d+0.04, w-0.04, h-0.06, d-0.04)
		for _, x := range []float64{-w + 0.15, 0, w - 0.15} {
			for _, z := range []float64{-d + 0.15, d - 0.15} {
				b.box(x-0.1, 0, z-0.1, x+0.1, h-0.3, z+0.1)
			}
		}
	})
}

func post(b *builder, p params) {
	t := p.get("thick") / 2
	b.box(-t, 0, -t, t, p.get("height"), t)
	b.box(-t*1.4, p.get("height"), -t*1.4, t*1.4, p.get("height")+t*0.6, t*1.4)
}

func house(b *builder, p params) {
	w, d, h, r := p.get("width")/2, p.get("depth")/2, p.get("height"), p.get("roof")
	b.box(-w, 0, -d, w, h, d)
	b.face(vec(w, h, d), vec(w, h, -d), vec(w, h+r, 0))
	b.face(vec(-w, h, -d), vec(-w, h, d), vec(-w, h+r, 0))
	over, t := 0.45, 0.14
	roof := Hex("#3b3436")
	b.tinted(roof, func() {
		for _, s := range []float64{1, -1} {
			slope := r / d
			e, low := d+over, h-over*slope
			x := w + over
			a := []r3.Vec{vec(-x, low, s*e), vec(x, low, s*e), vec(x, h+r, 0), vec(-x, h+r, 0)}
			up := []r3.Vec{}
			for _, v := range a {
				up = append(up, r3.Add(v, vec(0, t, 0)))
			}
			if s < 0 {
				slices.Reverse(a)
				slices.Reverse(up)
			}
			b.face(up...)
			slices.Reverse(a)
			b.face(a...)
			slices.Reverse(a)
			for i := range a {
				k := (i + 1) % 4
				b.face(a[i], a[k], up[k], up[i])
			}
		}
	})
	pane := glass
	if p.get("lit") > 0.5 {
		pane = warm
	}
	b.tinted(inside, func() { b.box(-0.46, 0.02, d, 0.46, 2.06, d+0.008) })
	b.tinted(timber, func() {
		b.box(-0.5, 0, d, -0.46, 2.1, d+0.05)
		b.box(0.46, 0, d, 0.5, 2.1, d+0.05)
		b.box(-0.46, 2.06, d, 0.46, 2.1, d+0.05)
	})
	for _, x := range []float64{-w * 0.62, w * 0.62} {
		b.tinted(timber, func() { b.box(x-0.5, h*0.36, d, x+0.5, h*0.78, d+0.05) })
		b.tinted(pane, func() { b.box(x-0.43, h*0.4, d+0.01, x+0.43, h*0.74, d+0.06) })
		b.tinted(timber, func() {
			b.box(x-0.025, h*0.4, d+0.05, x+0.025, h*0.74, d+0.08)
			b.box(x-0.43, h*0.56, d+0.05, x+0.43, h*0.58, d+0.08)
		})
	}
	for _, s := range []float64{-1, 1} {
		b.tinted(pane, func() { b.box(min(s*w, s*(w+0.04)), h*0.4, -0.45, max(s*w, s*(w+0.04)), h*0.74, 0.45) })
	}
}

func lampPost(b *builder, p params) {
	h := p.get("height")
	b.cylinder(0.12, 0.1, 0, 0.25, 12)
	b.cylinder(0.045, 0.035, 0.25, h-0.3, 10)
	b.beam(vec(0, h-0.35, 0), vec(0.45, h-0.05, 0), 0.04)
	b.with(geom.Translate(vec(0.45, h-0.32, 0)), nil, func() {
		b.turned(14, [2]float64{0.2, 0.16}, [2]float64{0.06, 0.28}, [2]float64{0, 0.3})
		b.turned(14, [2]float64{0, 0.15}, [2]float64{0.2, 0.16})
	})
	globe := glass
	if p.get("glow") > 0.5 {
		globe = warm
	}
	b.tinted(globe, func() { b.ball(vec(0.45, h-0.26, 0), 0.12, 0.12, 0.12, 12) })
}

func fence(b *builder, p params) {
	h := p.get("height")
	at := func(d float64) r3.Vec { return vec(d, 0, 0) }
	length := p.get("length")
	if p.path != nil {
		length, at = p.path.Length(), p.path.At
	}
	posts := int(max(1, math.Round(length/p.get("gap"))))
	for i := 0; i <= posts; i++ {
		a := at(length * float64(i) / float64(posts))
		b.box(a.X-0.05, a.Y, a.Z-0.05, a.X+0.05, a.Y+h, a.Z+0.05)
		if i == 0 {
			continue
		}
		q := at(length * float64(i-1) / float64(posts))
		for _, y := range []float64{h * 0.92, h * 0.5} {
			b.beam(r3.Add(q, vec(0, y, 0)), r3.Add(a, vec(0, y, 0)), 0.06)
		}
	}
}

func rock(b *builder, p params) {
	size, height, seed := p.get("size")/2, p.get("height"), p.int("seed")
	const rows, cols = 7, 11
	at := func(i, k int) r3.Vec {
		k %= cols
		s, c := math.Sincos(math.Pi * float64(i) / rows)
		su, cu := math.Sincos(2*math.Pi*float64(k)/cols + 0.4*float64(i%2))
		r := 1 + 0.3*lattice(i, k*7, seed)
		if i == 0 || i == rows {
			r = 1
		}
		return vec(s*cu*r*size, (0.5-c*0.5*r)*height-0.12*height, s*su*r*size*0.85)
	}
	for i := range rows {
		for k := range cols {
			b.tinted(b.color.shade(1+0.16*float32(lattice(i, k, seed+5))), func() {
				a, c, d, e := at(i, k), at(i, k+1), at(i+1, k+1), at(i+1, k)
				if i > 0 {
					b.face(a, d, c)
				}
				if i < rows-1 {
					b.face(a, e, d)
				}
			})
		}
	}
}

func conifer(b *builder, p params) {
	h, w, seed := p.get("height"), p.get("width")/2, p.int("seed")
	b.tinted(timber.shade(0.6), func() { b.cylinder(h*0.022, h*0.012, 0, h*0.3, 7) })
	const tiers, sides = 5, 9
	for t := range tiers {
		f := float64(t) / tiers
		y0 := h * (0.1 + 0.8*f)
		y1 := min(h, y0+h*(0.36-0.12*f))
		r := w * (1 - f) * (1 + 0.1*lattice(t, 1, seed))
		turn := lattice(t, 2, seed)
		for s := range sides {
			ring := func(k int) r3.Vec {
				k %= sides
				sin, cos := math.Sincos(2*math.Pi*float64(k)/sides + turn)
				q := r * (1 + 0.18*lattice(t, k+9, seed))
				return vec(q*cos, y0-0.06*h*float64(k%2)*(1-f), -q*sin)
			}
			b.tinted(b.color.shade(0.85+0.3*float32(f)+0.12*float32(lattice(t*sides+s, 3, seed))), func() {
				b.face(ring(s), ring(s+1), vec(0, y1, 0))
			})
			b.tinted(b.color.shade(0.5), func() { b.face(ring(s+1), ring(s), vec(0, y0+h*0.04, 0)) })
		}
	}
}

// GroundHeight returns the height in metres of the ground stand-in at a place
// in its own space, with the relief fading to nothing in the level middle.
func GroundHeight(x, z, relief, scale, flat float64, seed int) float64 {
	d := math.Hypot(x, z)
	k := 1.0
	if flat > 0 {
		k = max(0, min(1, (d-flat)/max(flat, 1)))
		k = k * k * (3 - 2*k)
	}
	return relief * k * hills(x/scale, z/scale, seed)
}

func ground(b *builder, p params) {
	w, d, seed := p.get("width")/2, p.get("depth")/2, p.int("seed")
	cell := max(p.get("scale")/5, max(w, d)/48)
	nx, nz := int(max(2, math.Ceil(2*w/cell))), int(max(2, math.Ceil(2*d/cell)))
	base, dry, rock := b.color, Hex("#7d7660"), Hex("#5f5d5a")
	relief, scale, flat := p.get("relief"), p.get("scale"), p.get("flat")
	b.grid(-w, -d, w, d, nx, nz, func(x, z float64) float64 {
		return GroundHeight(x, z, relief, scale, flat, seed)
	}, func(q, nrm r3.Vec) Color {
		t := float32(0.5 + 0.5*hills(q.X/7, q.Z/7, seed+40))
		c := mix(base, dry, t*0.7)
		return mix(c, rock, float32(max(0, min(1, (1-nrm.Y)*4))))
	})
}

func ridge(b *builder, p params) {
	w, d, h, seed := p.get("width")/2, p.get("depth")/2, p.get("height"), p.int("seed")
	base := b.color
	height := func(x, z float64) float64 {
		u := 1 - math.Abs(z)/d
		edge := max(0, 1-math.Pow(math.Abs(x)/w, 4))
		peak := 0.62 + 0.5*hills(x/h*0.9, 0.3, seed)
		rough := 0.16 * hills(x/h*3, z/h*3, seed+9)
		return h * max(0, u*edge*(peak+rough*u))
	}
	b.grid(-w, -d, w, d, int(max(12, min(96, p.get("width")/h*12))), 14, height, func(q, nrm r3.Vec) Color {
		k := float32(max(0, min(1, (q.Y/h-0.42)*5))) * float32(max(0, min(1, (nrm.Y-0.25)*3)))
		return mix(base.shade(1+0.1*float32(lattice(int(q.X), int(q.Z), seed))), snow, k)
	})
}

func mix(a, c Color, t float32) Color {
	for i := range a {
		a[i] += (c[i] - a[i]) * t
	}
	return a
}

func pylon(b *builder, p params) {
	h, arm := p.get("height"), p.get("arm")
	foot := h * 0.11
	leg := func(sx, sz, f float64) r3.Vec { return vec(sx*foot*(1-f*0.82), h*f, sz*foot*(1-f*0.82)) }
	corners := [4][2]float64{{1, 1}, {1, -1}, {-1, -1}, {-1, 1}}
	t := max(0.05, h*0.012)
	for i, c := range corners {
		q := corners[(i+1)%4]
		b.beam(leg(c[0], c[1], 1), leg(c[0], c[1], 0), t*1.5)
		const bays = 5
		for k := range bays {
			f0, f1 := float64(k)/bays, float64(k+1)/bays
			b.beam(leg(c[0], c[1], f0), leg(q[0], q[1], f1), t)
			b.beam(leg(c[0], c[1], f1), leg(q[0], q[1], f1), t)
		}
	}
	b.box(-arm, h-0.15, -0.18, arm, h+0.15, 0.18)
	for _, x := range []float64{-arm, arm} {
		b.box(x-0.12, h-0.45, -0.7, x+0.12, h-0.15, 0.7)
	}
}

// cable follows its path; without one it is ten metres long along −Z. It sags
// like a parabola between the ends.
func cable(b *builder, p params) {
	at := func(d float64) r3.Vec { return vec(0, 0, -d) }
	length := 10.0
	if p.path != nil {
		length, at = p.path.Length(), p.path.At
	}
	parts := int(max(2, min(120, length/1.5)))
	sag := p.get("sag")
	point := func(i int) r3.Vec {
		f := float64(i) / float64(parts)
		return r3.Sub(at(length*f), vec(0, sag*4*f*(1-f), 0))
	}
	for i := range parts {
		b.beam(point(i), point(i+1), p.get("thick"))
	}
}

func bench(b *builder, p params) {
	w := p.get("width") / 2
	for i := range 3 {
		z := -0.2 + 0.14*float64(i)
		b.box(-w, 0.42, z, w, 0.46, z+0.12)
	}
	for _, y := range []float64{0.6, 0.76} {
		b.box(-w, y, 0.22, w, y+0.12, 0.26)
	}
	b.tinted(iron, func() {
		for _, x := range []float64{-w + 0.12, w - 0.18} {
			b.box(x, 0, -0.18, x+0.06, 0.42, -0.12)
			b.box(x, 0, 0.2, x+0.06, 0.9, 0.26)
			b.box(x, 0.36, -0.18, x+0.06, 0.42, 0.26)
		}
	})
}

// suitcase stands upright; its lid is a leaf.
func suitcase(b *builder, p params) {
	w, h, d := p.get("width")/2, p.get("height"), p.get("depth")/2
	split := caseSplit * d
	b.hollow(-w, 0, split, w, h, d, 0.012)
	b.tinted(b.color.shade(0.5), func() {
		b.box(-w-0.005, h*0.48, d, w+0.005, h*0.53, d+0.005)
		b.box(-0.08, h+0.03, -0.015, 0.08, h+0.055, 0.015)
		b.box(-0.08, h, -0.015, -0.06, h+0.04, 0.015)
		b.box(0.06, h, -0.015, 0.08, h+0.04, 0.015)
	})
}

// cabin hangs below its origin, which runs on the cable; the door side is −X.
func cabin(b *builder, p params) {
	w, h, l, hang := p.get("width")/2, p.get("height"), p.get("length")/2, p.get("hanger")
	b.tinted(iron, func() {
		b.box(-0.07, -hang, -0.07, 0.07, 0.1, 0.07)
		b.box(-0.12, -0.1, -0.8, 0.12, 0.14, 0.8)
		for _, z := range []float64{-0.65, -0.22, 0.22, 0.65} {
			b.with(geom.RotateZ(90).At(vec(0.06, 0.1, z)), nil, func() { b.cylinder(0.14, 0.14, 0, 0.12, 12) })
		}
		b.box(-0.5, -hang-0.08, -0.5, 0.5, -hang, 0.5)
	})
	top, bottom := -hang-0.08, -hang-0.08-h
	cream := Hex("#d9cdb4")
	sill, head := bottom+h*0.42, top-h*0.13
	b.box(-w, bottom, -l, w, bottom+0.12, l) // floor
	b.tinted(cream, func() { b.box(-w-0.03, top-0.1, -l-0.03, w+0.03, top, l+0.03) })
	// Sides below and above the windows; the door side stays open in the middle.
	for _, s := range []float64{-1, 1} {
		t := 0.06
		b.box(-w, bottom, s*l-t/2, w, sill, s*l+t/2)
		b.tinted(cream, func() { b.box(-w, head, s*l-t/2, w, top-0.1, s*l+t/2) })
		for _, x := range []float64{-w, w} {
			b.tinted(cream, func() { b.box(x-t, bottom, s*l-t, x+t, top-0.1, s*l+t) })
		}
		b.tinted(iron, func() { b.box(-0.03, sill, s*l-0.02, 0.03, head, s*l+0.02) })
	}
	b.box(w-0.03, bottom, -l, w+0.03, sill, l)
	b.tinted(cream, func() { b.box(w-0.03, head, -l, w+0.03, top-0.1, l) })
	for _, z := range [][2]float64{{-l, -0.55}, {0.55, l}} {
		b.box(-w-0.03, bottom, z[0], -w+0.03, sill, z[1])
		b.tinted(cream, func() { b.box(-w-0.03, head, z[0], -w+0.03, top-0.1, z[1]) })
	}
	b.tinted(cream, func() {
		b.box(-w-0.04, bottom, -0.6, -w+0.04, top-0.1, -0.52)
		b.box(-w-0.04, bottom, 0.52, -w+0.04, top-0.1, 0.6)
		b.box(w-0.04, sill, -0.04, w+0.04, head, 0.04)
	})
	b.tinted(warm, func() { b.box(-0.3, top-0.14, -0.12, 0.3, top-0.1, 0.12) })
}
