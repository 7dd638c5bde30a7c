package page

import (
	"math"
	"proscen/core/edit"
	"slices"

	"proscen/core/assembly"
	"proscen/core/clip"
	"proscen/core/compose"
	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/optics"
	"proscen/core/questions"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/timing"

	"gonum.org/v1/gonum/spatial/r3"
)

// PathLine is a path as views draw it: x, y and z in metres, one after another.
type PathLine struct {
	Points []float64 `json:"points"`
	Ticks  []float64 `json:"ticks"` // where what travels on it is every half second
	Length float64   `json:"length"`
}

// path samples points as a path; with the id of a path of the scene it has ticks.
func (p *Page) path(a struct {
	Form   curve.Form  `json:"form" jsonschema:"enum=straight,enum=arc,enum=curve,enum=rise"`
	Points []scene.Vec `json:"points"`
	Closed bool        `json:"closed,omitempty"`
	ID     string      `json:"id,omitempty"`
}) (PathLine, error) {
	line, err := p.session.SamplePath(a.Form, a.Points, a.Closed, a.ID)
	if err != nil {
		return PathLine{}, err
	}
	flat := func(in []r3.Vec) []float64 {
		out := make([]float64, 0, len(in)*3)
		for _, v := range in {
			out = append(out, v.X, v.Y, v.Z)
		}
		return out
	}
	return PathLine{flat(line.Points), flat(line.Ticks), line.Length}, nil
}

// Trail returns x, z and pan of a camera at moments before a frame of story time, the
// latest first; a step is so many frames.
func (p *Page) Trail(camera string, frame, step float64, count int) []float32 {
	p.past = p.session.Trail(camera, frame, step, count, p.past)
	out := make([]float32, 0, 3*len(p.past))
	for i := range p.past {
		c := &p.past[i]
		out = append(out, float32(c.World[3]), float32(c.World[11]), float32(c.Pan))
	}
	return out
}

func (p *Page) timecode(a onClock) string {
	return p.session.Doc.Settings.Timecode(a.Clock, int(math.Floor(a.Frame)))
}

// AtFrame is a frame of one of the clocks.
type AtFrame struct {
	Frame int `json:"frame"`
}

func (p *Page) parseTimecode(a struct {
	Clock scene.Clock `json:"clock" jsonschema:"enum=story,enum=screen"`
	Text  string      `json:"text"`
}) (AtFrame, error) {
	f, err := p.session.Doc.Settings.ParseTimecode(a.Clock, a.Text)
	return AtFrame{f}, err
}

// Offered is the frame rates and picture shapes that a scene is offered.
type Offered struct {
	Rates  []string       `json:"rates"`
	Shapes []scene.Format `json:"shapes"`
}

func (p *Page) offered(none) Offered {
	out := Offered{Shapes: scene.Shapes}
	for _, r := range timing.Usual {
		out.Rates = append(out.Rates, r.String())
	}
	return out
}

// RateRead is a rate as it is typed, and what the scene would be with it.
type RateRead struct {
	Rate   string `json:"rate"`
	Drops  bool   `json:"drops"`  // it has drop-frame timecode
	Frames int    `json:"frames"` // of the story, with seconds kept
}

func (p *Page) atRate(a struct {
	Text string `json:"text"`
}) (RateRead, error) {
	to, err := timing.ReadRate(a.Text)
	if err != nil {
		return RateRead{}, err
	}
	return RateRead{to.String(), to.CanDrop(), assembly.StoryAtRate(&p.session.Doc.Settings, to).Count()}, nil
}

// Clipped is what has been copied, for the operation paste in any scene.
type Clipped struct {
	Clip *scene.Document `json:"clip"`
}

// clip copies a selection as it looks at a frame of story time.
func (p *Page) clip(a struct {
	Selection clip.Selection `json:"selection"`
	Frame     float64        `json:"frame"`
}) (Clipped, error) {
	doc, err := p.session.Clip(a.Selection, a.Frame)
	return Clipped{doc}, err
}

// NamedThing is an entity with what it is called.
type NamedThing struct {
	scene.Thing
	Name string `json:"name"`
}

// unused lists what nothing in the scene uses.
func (p *Page) unused(none) []NamedThing {
	out := []NamedThing{}
	for _, t := range p.session.Doc.Unused() {
		out = append(out, NamedThing{t, p.session.Doc.Called(t.Collection, t.ID)})
	}
	return out
}

// Build is one of the builds of people, with the colour of hair that nobody has chosen.
type Build struct {
	Name string `json:"name"`
	Hair string `json:"hair"`
}

// Stock is what is offered for a set, and what people can do.
type Stock struct {
	Pieces     []kit.Stock            `json:"pieces"`
	Opens      map[string]kit.Opening `json:"opens"` // of pieces with a door or lid
	Also       map[string]string      `json:"also"`  // other words by which some pieces are looked for
	Deeds      []scene.Deed           `json:"deeds"`
	Gestures   []scene.Deed           `json:"gestures"` // those deeds that are laid over what the body does
	Builds     []Build                `json:"builds"`
	HairStyles []string               `json:"hairStyles"`
	Skin       string                 `json:"skin"` // that nobody has chosen
}

func (p *Page) stock(none) Stock {
	gestures := slices.DeleteFunc(slices.Clone(scene.Deeds), func(d scene.Deed) bool { return !d.Gesture() })
	builds := make([]Build, len(kit.Builds))
	for i, b := range kit.Builds {
		builds[i] = Build{b, kit.UsualHair(b)}
	}
	return Stock{kit.Shelf, kit.Opens, kit.Also, scene.Deeds, gestures, builds, kit.HairStyles, kit.UsualSkin}
}

// sunAt returns where the sun stands by a clock, as heading and height in degrees.
func (p *Page) sunAt(a struct {
	Clock scene.SunClock `json:"clock"`
}) [2]float64 {
	heading, height := questions.SunAt(a.Clock)
	return [2]float64{heading, height}
}

func (p *Page) handles(a nodeNamed) []questions.HandleNow { return p.session.Handles(a.Node) }

// Struck is what a ray meets: the node, where, and the surface's direction there.
type Struck struct {
	Node     string    `json:"node"`
	At       scene.Vec `json:"at"`
	Normal   scene.Vec `json:"normal"`
	Distance float64   `json:"distance"`
}

// strike returns what a ray meets at the evaluated frame, or null.
func (p *Page) strike(a struct {
	From      scene.Vec `json:"from"`
	Direction scene.Vec `json:"direction"`
	Leave     []string  `json:"leave"` // nodes that it passes through
}) *Struck {
	hit, ok := p.session.Strike(geom.Ray{From: a.From.R3(), Dir: a.Direction.R3()}, a.Leave)
	if !ok {
		return nil
	}
	return &Struck{p.session.Motion.Nodes[hit.Node].ID, scene.FromR3(hit.At), scene.FromR3(hit.Normal), hit.Distance}
}

// corner returns the corner of a thing that is seen nearest to a ray, within spread metres
// for each metre of the distance, or, among parallel rays, within spread metres; or null.
func (p *Page) corner(a struct {
	From      scene.Vec `json:"from"`
	Direction scene.Vec `json:"direction"`
	Spread    float64   `json:"spread"`
	Parallel  bool      `json:"parallel"`
}) *scene.Vec {
	if at, ok := p.session.Corner(geom.Ray{From: a.From.R3(), Dir: a.Direction.R3()}, a.Spread, a.Parallel); ok {
		v := scene.FromR3(at)
		return &v
	}
	return nil
}

// surfaces tells what the picture planes show at the evaluated frame.
func (p *Page) surfaces(none) []questions.SurfaceNow { return p.session.Surfaces() }

// ground returns the height of what one walks on at a place of the plan, or null.
func (p *Page) ground(a struct {
	X     float64 `json:"x"`
	Z     float64 `json:"z"`
	Leave string  `json:"leave,omitempty"`
}) *float64 {
	if y, ok := p.session.Ground(a.X, a.Z, a.Leave); ok {
		return &y
	}
	return nil
}

// Extent is a box in the world.
type Extent struct {
	Min scene.Vec `json:"min"`
	Max scene.Vec `json:"max"`
}

// aimPoint returns where cameras aim that aim at a node, at the evaluated frame.
func (p *Page) aimPoint(a struct {
	Node  string  `json:"node"`
	Frame float64 `json:"frame"`
}) scene.Vec {
	return scene.FromR3(p.session.Stage().Subject(a.Node, a.Frame))
}

// extent returns the box of nodes in the world, or null.
func (p *Page) extent(a struct {
	Nodes []string `json:"nodes"`
}) *Extent {
	if b := p.session.Extent(a.Nodes); !b.Empty() {
		return &Extent{scene.FromR3(b.Min), scene.FromR3(b.Max)}
	}
	return nil
}

// Snapped is a way changed to line up with what stands near.
type Snapped struct {
	By    scene.Vec        `json:"by"`
	Hints []questions.Hint `json:"hints"`
}

func (p *Page) snap(a struct {
	Nodes     []string  `json:"nodes"`
	By        scene.Vec `json:"by"`
	Tolerance float64   `json:"tolerance"`
	Grid      float64   `json:"grid"`
}) Snapped {
	by, hints := p.session.Snap(a.Nodes, a.By.R3(), a.Tolerance, a.Grid)
	return Snapped{scene.FromR3(by), append([]questions.Hint{}, hints...)}
}

// way returns length, seconds and mean speed of an action, or of a node's travel.
func (p *Page) way(a struct {
	Collection string `json:"collection" jsonschema:"enum=actions,enum=nodes"`
	ID         string `json:"id"`
}) questions.Way {
	if a.Collection == "actions" {
		return p.session.ActionWay(a.ID)
	}
	return p.session.TravelWay(a.ID)
}

// Trade is what the trade offers.
type Trade struct {
	Sensors  []optics.Sensor `json:"sensors"`
	Squeezes []float64       `json:"squeezes"`
	Stops    []float64       `json:"stops"`
	Sizes    []compose.Size  `json:"sizes"`
	Angles   []compose.Angle `json:"angles"`
	Sides    []compose.Side  `json:"sides"`
	Walking  float64         `json:"walking"` // m/s
	Driving  float64         `json:"driving"`
}

func (p *Page) trade(none) Trade {
	return Trade{optics.Sensors, optics.Squeezes, optics.Stops, compose.Sizes, compose.Angles, compose.Sides, edit.WalkingPace, edit.DrivingPace}
}

// compose returns where a camera stands for a picture.
func (p *Page) compose(a questions.ComposeWish) (questions.Composed, error) {
	return p.session.Compose(a)
}

// suggest returns several places for a picture.
func (p *Page) suggest(a struct {
	Wish questions.ComposeWish `json:"wish"`
	Most int                   `json:"most"`
}) (Suggested, error) {
	all, err := p.session.Suggest(a.Wish, a.Most)
	return Suggested{all}, err
}

// Suggested is several places for a picture.
type Suggested struct {
	All []questions.Composed `json:"all"`
}

// newLens returns the angles in degrees that a camera left next has with a focal length.
func (p *Page) newLens(a struct {
	Focal float64 `json:"focal"` // mm
}) compose.Lens {
	return p.session.NewLens(a.Focal)
}

// usualHeight returns how high in metres over the ground a camera is put on a path when
// nothing else is said.
func (p *Page) usualHeight(a struct {
	Path  string  `json:"path"`
	Frame float64 `json:"frame"` // story time
}) float64 {
	return edit.UsualHeight(p.session.Doc, p.session.Stage(), a.Path, a.Frame)
}

// lasting returns how long from a frame on a camera shows a subject as it does there, up to
// the end of the shot in which it does, or of the story.
func (p *Page) lasting(a struct {
	Camera  string  `json:"camera"`
	Subject string  `json:"subject"`
	Frame   float64 `json:"frame"` // story time
}) questions.Lasting {
	return p.session.Lasting(a.Camera, a.Subject, a.Frame)
}

// matched returns how well a camera shows the points of the picture that it is matched to,
// or null when it is matched to none.
func (p *Page) matched(a struct {
	Camera string  `json:"camera"`
	Frame  float64 `json:"frame"` // story time
}) *questions.Matched {
	if m, ok := p.session.Matched(a.Camera, a.Frame); ok {
		return &m
	}
	return nil
}

// framing returns how a camera frames subjects at the evaluated frame.
func (p *Page) framing(a cameraSubjects) questions.Framing {
	return p.session.Framing(a.Camera, a.Subjects)
}

// numbers returns what a crew asks about a camera, or null.
func (p *Page) numbers(a struct {
	Camera string `json:"camera"`
}) *questions.Numbers {
	if n, ok := p.session.Numbers(a.Camera); ok {
		return &n
	}
	return nil
}

// overshoots lists where the channels of a node pass beyond their keys.
func (p *Page) overshoots(a nodeNamed) []questions.KeyOvershoot { return p.session.Overshoots(a.Node) }

// SharpZone is the depth of field in metres.
type SharpZone struct {
	Near       float64 `json:"near"`
	Far        float64 `json:"far"` // −1 when it has no end
	Hyperfocal float64 `json:"hyperfocal"`
}

func (p *Page) sharpZone(a struct {
	Focal  float64    `json:"focal"` // mm
	Stop   float64    `json:"stop"`
	Focus  float64    `json:"focus"`  // metres
	Sensor [2]float64 `json:"sensor"` // mm
}) SharpZone {
	d := optics.DepthOfField(a.Focal, a.Stop, a.Focus, optics.CircleOfConfusion(a.Sensor[0], a.Sensor[1]))
	if math.IsInf(d.Far, 1) {
		d.Far = -1
	}
	return SharpZone{d.Near, d.Far, d.Hyperfocal}
}

// aimAngles returns pan and tilt in degrees that look along a direction.
func (p *Page) aimAngles(a struct {
	Direction scene.Vec `json:"direction"`
}) [2]float64 {
	pan, tilt := geom.Toward(a.Direction.R3())
	return [2]float64{pan, tilt}
}

// Structure is how the scene is laid out: what the arrays of an evaluated frame mean.
type Structure struct {
	Version   int          `json:"version"` // of this layout; another scene has others
	Nodes     []string     `json:"nodes"`
	Instances []Instance   `json:"instances"`
	Meshes    []string     `json:"meshes"`
	Cameras   []string     `json:"cameras"`
	Lamps     []string     `json:"lamps"`
	Aspect    float64      `json:"aspect"`
	Shooting  []ShownNodes `json:"shooting"`
}

// Instance is a mesh at a node.
type Instance struct {
	Node    int  `json:"node"`
	Mesh    int  `json:"mesh"`
	Skin    int  `json:"skin"`              // the number of a mesh that bends, or −1
	Dye     int  `json:"dye"`               // the number of a mesh whose colour has keys, or −1
	Surface bool `json:"surface,omitempty"` // it shows the picture of a picture plane
}

// ShownNodes is a node that cameras do not see, or that only some shots see.
type ShownNodes struct {
	Node   int      `json:"node"`
	Hidden bool     `json:"hidden"`
	Only   []string `json:"only"`
}

// laidOut tells one layout of one opened scene from every other.
func (p *Page) laidOut() int { return p.session.Serial()<<32 + p.session.Motion.Structure }

// structure tells how the scene is laid out, or null when the layout is the one that
// is known by its version: in every frame of a drag it mostly is.
func (p *Page) structure(a struct {
	Known int `json:"known"`
}) *Structure {
	if a.Known == p.laidOut() {
		return nil
	}
	m := p.session.Motion
	out := &Structure{Shooting: []ShownNodes{}, Version: p.laidOut(), Nodes: []string{}, Instances: []Instance{}, Meshes: []string{}, Cameras: []string{}, Lamps: []string{}}
	out.Aspect = p.session.Doc.Formats[p.session.Doc.Settings.Format].Aspect()
	for i, n := range m.Nodes {
		out.Nodes = append(out.Nodes, n.ID)
		if k := n.Shooting; k != nil {
			out.Shooting = append(out.Shooting, ShownNodes{i, k.Hidden, append([]string{}, k.Only...)})
		}
	}
	for _, i := range m.Instances {
		out.Instances = append(out.Instances, Instance{i.Node, i.Mesh, i.Skin, i.Dye, i.Surface})
	}
	for _, e := range m.Meshes {
		out.Meshes = append(out.Meshes, e.Key)
	}
	for _, i := range m.Cameras {
		out.Cameras = append(out.Cameras, m.Nodes[i].ID)
	}
	for _, i := range m.Lamps {
		out.Lamps = append(out.Lamps, m.Nodes[i].ID)
	}
	return out
}

// outlines tells where the pictures of other formats lie in a camera's picture.
func (p *Page) outlines(a struct {
	Camera  string   `json:"camera"`
	Frame   float64  `json:"frame"`
	Formats []string `json:"formats"`
}) []session.Outline {
	return p.session.Outlines(a.Camera, a.Frame, a.Formats)
}

// missing lists the blobs of imported models that are used and have not been provided.
func (p *Page) missing(none) []string { return p.session.Motion.Missing(p.session.Doc) }
