package edit

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

type stockPlaceArgs struct {
	Kind     scene.Kind `json:"kind,omitempty"`
	Stock    string     `json:"stock,omitempty"`
	Model    string     `json:"model,omitempty"` // an imported model instead of a stand-in
	Build    string     `json:"build,omitempty"` // of a cast member
	Name     string     `json:"name,omitempty"`
	Position scene.Vec  `json:"position,omitempty"`
	Turn     scene.Vec  `json:"turn,omitempty"`
	Parent   string     `json:"parent,omitempty"`
	ID       string     `json:"id,omitempty"`
}

// coats are the colours that cast members are given in turn: coat and legs.
var coats = [][2]string{
	{"#5c7a8a", "#39424e"}, {"#8a5a4a", "#3d3a36"}, {"#6f7d4e", "#44423a"}, {"#7a6490", "#38343f"},
	{"#a08a4f", "#4a4238"}, {"#4f7d74", "#333f3d"}, {"#93606f", "#41373b"}, {"#6b6f78", "#2f3338"},
}

// stockPlace puts a stand-in, cast member, lamp or aim point into the scene,
// with the lamps that belong to it.
func stockPlace(d *Draft, a stockPlaceArgs) (string, error) {
	n := scene.Node{Kind: a.Kind, Name: freeName(d.Doc, a.Name), Position: a.Position, Turn: a.Turn, Parent: a.Parent, Model: a.Model}
	switch a.Kind {
	case scene.KindCast:
		count := 0
		for _, o := range d.Doc.Nodes {
			if o.Cast != nil {
				count++
			}
		}
		c := coats[count%len(coats)]
		n.Cast = &scene.Cast{Height: kit.UsualHeight(a.Build), Coat: c[0], Legs: c[1], Build: a.Build}
	case scene.KindLamp:
		n.Lamp = &scene.Lamp{Color: "#ffd9a0", Strength: 4, Reach: 12}
		if a.Stock == "spot" {
			n.Lamp.Spot, n.Lamp.Soft, n.Lamp.Reach, n.Lamp.Strength = 50, 0.4, 20, 12
			n.Turn[1] = -50
		}
	case scene.KindAim, scene.KindGroup:
	default:
		if a.Model == "" {
			n.Piece = &scene.Piece{Stock: a.Stock}
			if a.Stock == kit.Screen && a.Turn == (scene.Vec{}) {
				n.Turn[0] = 180 // its picture is turned to where scout looks from
			}
		}
	}
	id := pick(d, a.ID)
	d.SetNode(id, n)
	if n.Piece != nil {
		for _, p := range kit.Practicals(a.Stock, nil) {
			d.SetNode(d.NewID(), scene.Node{
				Kind: scene.KindLamp, Name: n.Name + " light", Parent: id, Position: scene.FromR3(p.At),
				Lamp: &scene.Lamp{Color: p.Color, Strength: p.Strength, Reach: p.Reach},
			})
		}
	}
	return "place " + n.Name, nil
}

type scatterArgs struct {
	Stock  string       `json:"stock"`
	Name   string       `json:"name"`
	Count  int          `json:"count"`
	Seed   uint64       `json:"seed"`
	Corner [2]scene.Vec `json:"corner,omitzero"` // two corners of an area
	Path   string       `json:"path,omitempty"`  // or a path to scatter along
	Width  float64      `json:"width"`           // metres to both sides of the path
	Vary   float64      `json:"vary"`            // how much sizes differ, 0 to 1
	Apart  float64      `json:"apart"`           // least distance in metres
	Frame  float64      `json:"frame"`
	Group  string       `json:"group,omitempty"` // id of the group
}

// MaxScatter bounds how many pieces are scattered at once.
const MaxScatter = 500

// scatter places many pieces of one stand-in by chance over an area or along a
// path, each on what lies under it, turned and sized by chance, in a group. The
// same seed gives the same places.
func scatter(d *Draft, a scatterArgs) (string, error) {
	s, ok := kit.Find(a.Stock)
	if !ok {
		return "", fmt.Errorf("there is no %q in the stock", a.Stock)
	}
	if a.Count < 1 || a.Count > MaxScatter {
		return "", fmt.Errorf("scatter from 1 to %d pieces at once", MaxScatter)
	}
	rng := rand.New(rand.NewPCG(a.Seed, 0x9e3779b97f4a7c15))
	spot := func() r3.Vec {
		p, q := a.Corner[0].R3(), a.Corner[1].R3()
		return r3.Vec{X: p.X + (q.X-p.X)*rng.Float64(), Z: p.Z + (q.Z-p.Z)*rng.Float64()}
	}
	if a.Path != "" {
		p, err := compiled(d.Doc.Paths[a.Path])
		if err != nil {
			return "", fmt.Errorf("the path is not there any more")
		}
		spot = func() r3.Vec {
			at, dir := p.Heading(p.Length() * rng.Float64())
			return r3.Add(at, r3.Scale(a.Width*(2*rng.Float64()-1), r3.Vec{X: -dir.Z, Z: dir.X}))
		}
	}
	group := pick(d, a.Group)
	g := scene.Node{Kind: scene.KindGroup, Name: freeName(d.Doc, a.Name)}
	d.SetNode(group, g)
	below := d.Stage.Below(a.Frame, nil)
	var placed []r3.Vec
	for tries := 0; len(placed) < a.Count && tries < 30*a.Count; tries++ {
		at := spot()
		if slices.ContainsFunc(placed, func(o r3.Vec) bool { return math.Hypot(at.X-o.X, at.Z-o.Z) < a.Apart }) {
			continue
		}
		if y, ok := below(r3.Vec{X: at.X, Y: at.Y + 500, Z: at.Z}); ok {
			at.Y = y
		}
		placed = append(placed, at)
		piece := &scene.Piece{Stock: a.Stock}
		for _, p := range s.Params {
			if p.Name == "seed" {
				piece.Params = map[string]float64{"seed": float64(1 + rng.IntN(8))}
			}
		}
		n := scene.Node{
			Kind: scene.Kind(s.Kind), Name: fmt.Sprintf("%s %d", a.Name, len(placed)), Parent: group, Piece: piece,
			Position: scene.Vec{round(at.X), round(at.Y), round(at.Z)}, Turn: scene.Vec{math.Round(360 * rng.Float64())},
			Scale: round(1 + min(0.9, max(0, a.Vary))*(2*rng.Float64()-1)),
		}
		d.SetNode(d.NewID(), n)
	}
	if len(placed) < a.Count {
		return "", fmt.Errorf("only %d of %d find room %g m apart; make the area larger or the distance smaller", len(placed), a.Count, a.Apart)
	}
	return fmt.Sprintf("scatter %d of %s", a.Count, s.Title), nil
}

func round(v float64) float64 { return math.Round(v*1000) / 1000 }

type duplicateArgs struct {
	IDs   []string  `json:"ids"`
	Count int       `json:"count,omitempty"` // copies of each, 0 for one
	By    scene.Vec `json:"by,omitempty"`    // metres from each copy to the next, in the world
	Pan   float64   `json:"pan,omitempty"`   // degrees from each copy to the next
	Frame float64   `json:"frame"`
	As    []string  `json:"as,omitempty"` // ids for the first copies, in the order of IDs
}

// duplicate copies nodes with their keys, their deeds and what hangs on them.
func duplicate(d *Draft, a duplicateArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", errNothing
	}
	for _, id := range a.IDs {
		if _, ok := d.Doc.Nodes[id]; !ok {
			return "", fmt.Errorf("it is not there any more")
		}
	}
	top := d.tops(a.IDs)
	a.Count = max(1, a.Count)
	if a.Count*len(top) > MaxScatter {
		return "", fmt.Errorf("make up to %d copies at once", MaxScatter)
	}
	from := copiesOf(d)
	for i, id := range top {
		base := d.Stage.Base(id, a.Frame)
		back := base.Inverse()
		by := back.Dir(a.By.R3())
		for c := 1; c <= a.Count; c++ {
			as := ""
			if c == 1 && i < len(a.As) {
				as = a.As[i]
			}
			copied := from.copyNode(id, d.Doc.Nodes[id].Parent, as)
			for k, ch := range []scene.Channel{scene.PositionX, scene.PositionY, scene.PositionZ, scene.Pan} {
				v := float64(c) * [4]float64{by.X, by.Y, by.Z, a.Pan}[k]
				if v == 0 {
					continue
				}
				if err := d.add(copied, ch, a.Frame, v, false); err != nil {
					return "", err
				}
			}
		}
	}
	return d.several("duplicate", top), nil
}

// copies makes copies of nodes as they are when it is made, with names that nothing
// has.
type copies struct {
	*Draft
	*bonds
	free   func(name string) string
	number int // of the next camera
}

func copiesOf(d *Draft) *copies { return &copies{d, bondsOf(d.Doc), Names(d.Doc), NextCamera(d.Doc)} }

// copyNode copies a node and what hangs on it, and returns the copy's id.
func (d *copies) copyNode(id, parent, as string) string {
	n := d.Doc.Nodes[id]
	n.Parent = parent
	n.Locked = false
	if n.Camera != nil {
		c := *n.Camera
		c.Number = d.number
		d.number++
		c.Color = CameraColors[(c.Number-1)%len(CameraColors)]
		c.Order, c.Archived = 0, false
		n.Camera = &c
		if p, ok := d.Doc.Paths[n.Path]; ok { // so that moving one move leaves the other alone
			n.Path = d.NewID()
			d.SetPath(n.Path, p)
		}
	}
	n.Name = d.free(n.Name)
	made := pick(d.Draft, as)
	d.SetNode(made, n)
	for _, k := range d.Doc.CurvesOf(id) {
		c := d.Doc.Curves[k]
		c.Node = made
		d.SetCurve(d.NewID(), c)
	}
	for _, k := range d.actions[id] {
		if x := d.Doc.Actions[k]; x.Cast == id && x.On == "" {
			x.Cast = made
			d.SetAction(d.NewID(), x)
		}
	}
	for _, k := range d.children[id] {
		d.copyNode(k, made, "")
	}
	return made
}

type modelAddArgs struct {
	scene.Model
	ID string `json:"id,omitempty"`
	// With makes a thing of it in the middle of the set, with the cameras and lamps of its
	// file about it.
	With *BroughtAlong `json:"with,omitempty"`
}

// BroughtAlong is what comes with a model: cameras and lamps as they are about it.
type BroughtAlong struct {
	Kind    scene.Kind      `json:"kind"` // of the thing
	Cameras []BroughtCamera `json:"cameras,omitempty"`
	Lamps   []BroughtLamp   `json:"lamps,omitempty"`
}

// modelAdd puts an imported model on the shelf of the scene.
func modelAdd(d *Draft, a modelAddArgs) (string, error) {
	for id, m := range d.Doc.Models {
		if m.Blob == a.Blob && id != a.ID {
			return "", fmt.Errorf("this model is here already, as %s", m.Name)
		}
	}
	id := pick(d, a.ID)
	d.SetModel(id, a.Model)
	w := a.With
	if w == nil {
		return "import " + a.Name, nil
	}
	if _, err := stockPlace(d, stockPlaceArgs{Kind: w.Kind, Model: id, Name: a.Name}); err != nil {
		return "", err
	}
	if len(w.Cameras) > 0 {
		if _, err := cameraBring(d, CameraBring{w.Cameras}); err != nil {
			return "", err
		}
	}
	for _, l := range w.Lamps {
		d.SetNode(d.NewID(), scene.Node{
			Kind: scene.KindLamp, Name: freeName(d.Doc, l.Name), Position: l.Position, Turn: l.Turn,
			Lamp: &scene.Lamp{Color: l.Color, Strength: 4, Reach: l.Reach, Spot: l.Spot, Soft: l.Soft},
		})
	}
	return fmt.Sprintf("import %s with %d cameras and %d lamps", a.Name, len(w.Cameras), len(w.Lamps)), nil
}
