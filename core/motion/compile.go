// Package motion evaluates a scene: from the document and a frame of story time
// to where everything is, what every camera sees and how it is lit.
package motion

import (
	"fmt"
	"hash/fnv"
	"maps"
	"math"
	"reflect"
	"slices"
	"sort"
	"strings"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// Instance is one drawn mesh: a piece, one part of a mannequin, or a wheel.
type Instance struct {
	Node  int // index into Scene.Nodes
	Mesh  int // index into Scene.Meshes
	Joint kit.Joint
	part  bool
	wheel float64 // radius in metres, 0 for what does not roll
	leaf  *kit.Leaf
	// Surface is what shows the picture of a picture plane.
	Surface bool
	axle    r3.Vec   // in the node's space
	dye     *kit.Dye // of what keys change the colour of
	model   *kit.Bundle
	shape   int // of the model
	// Skin is the index into State.Bent of a mesh that bends, or −1.
	Skin int
	// Dye is the index into State.Dyed of a mesh whose colour has keys, or −1.
	Dye int
}

// Surface is the mesh on which a picture plane shows its picture: its own, whose texture
// is set by whoever draws it.
type Surface struct {
	Node int // index into Scene.Nodes
	Mesh *kit.Mesh
}

// Shown returns which file a picture plane shows at a frame of story time, and which frame
// of it; −1 stands for a picture.
func (s *Scene) Shown(node int, story float64) (blob string, frame int) {
	screen := s.Nodes[node].Entity.Screen
	if screen.Film == nil {
		return screen.Blob, -1
	}
	return screen.Film.Blob, int(screen.FileFrame(story))
}

// MeshEntry is a mesh with the key that names what it was built from.
type MeshEntry struct {
	Key  string
	Mesh *kit.Mesh
}

// Node is a compiled node.
type Node struct {
	ID       string
	Entity   scene.Node
	Hidden   bool            // by itself or by something that it hangs on
	Shooting *scene.Shooting // its own, or that of what it hangs on
	parent   int
	joint    int
	path     *curve.Path
	channels [channelCount]curve.Channel
	acts     []act // of the whole body, in order
	gestures []act
	rides    []ride
	own      own
	model    *kit.Bundle // stands for it, or nil
	pose     int         // index into State.poses
	aimAt    int
	focusOn  int
	pulls    []pull     // keys of the focus that follow subjects, with those between
	needs    []int      // of a camera: it and what it depends on, in order
	lagging  []int      // what the aimed subject's place depends on, in order, when the operator lags
	center   r3.Vec     // the point that a camera aims at, in the node's own space
	opened   float64    // how far its leaves are, where nothing is keyed
	color    [3]float32 // of a piece whose colour has keys, where a channel has none
	grip     r3.Vec     // where a hand carries it, in the node's own space
	first    int        // first instance, for cast
	camera   int        // index into State.Cameras or −1
	lamp     int
	fixed    bool // it never moves: world is where it is
	world    geom.Mat4
	seed     float64 // tells nodes apart where they move by chance, 0 to 1
	skull    float64 // the size of a head against the average
	stoop    float64 // degrees
	speech   []speech
}

const channelCount = 24

// channelIndex gives each channel a place in Node.channels.
var channelIndex = func() map[scene.Channel]int {
	out := map[scene.Channel]int{}
	for i, c := range scene.Channels {
		out[c] = i
	}
	return out
}()

// Indices of channels in the order of scene.Channels.
const (
	posX = iota
	posY
	posZ
	pan
	tilt
	roll
	travel
	focal
	stop
	focus
	strength
	red
	green
	blue
	sunPower
	sunHour
	skyPower
	hazeReach
	restless
	shiftX
	shiftY
	framingX
	framingY
	swing
)

// Scene is a compiled document.
type Scene struct {
	Nodes     []Node
	Instances []Instance
	Meshes    []MeshEntry
	Cameras   []int // node indices of cameras, by number
	Lamps     []int
	Surfaces  []Surface // of picture planes
	index     map[string]int
	aspect    float64
	format    string
	rate      float64
	meshes    map[string]*kit.Mesh // cache over recompilations
	paths     map[string]*curve.Path
	bundles   map[string]*kit.Bundle // imported models by their blob
	bundled   map[string][]*kit.Mesh
	poses     int // models whose parts move
	bent      []bentMesh
	dyed      []*kit.Mesh         // whose colours have keys
	dyes      map[string]*kit.Dye // cache over recompilations, as for meshes
	settings  scene.Settings
	light     [channelCount]curve.Channel
	solids    []solid
	stillAt   []geom.Mat4 // see still
	stillIs   []*geom.Mat4
	stage     stage
	scratch   State // for what is worked out beforehand
	// Structure counts how often nodes, instances or meshes were laid out anew.
	Structure int
}

// Compile prepares a valid document for evaluation.
func Compile(doc *scene.Document) *Scene {
	s := &Scene{meshes: map[string]*kit.Mesh{}, dyes: map[string]*kit.Dye{}, bundles: map[string]*kit.Bundle{}, bundled: map[string][]*kit.Mesh{}}
	s.compile(doc)
	return s
}

// Like prepares another version of a scene, with the meshes and models that this one has:
// but for those of a single thing, which are changed while it is evaluated or drawn.
func (s *Scene) Like(doc *scene.Document) *Scene {
	out := &Scene{meshes: map[string]*kit.Mesh{}, dyes: map[string]*kit.Dye{}, bundles: maps.Clone(s.bundles), bundled: maps.Clone(s.bundled)}
	for key, m := range s.meshes {
		if !strings.Contains(key, ofOne) && !strings.HasPrefix(key, "model ") {
			out.meshes[key] = m
		}
	}
	out.compile(doc)
	return out
}

// ofOne stands in the keys of meshes that a single thing has.
const ofOne = " of "

// Provide hands over the bundle of an imported model, by its blob, and lays the
// scene out anew. Until then a box of its size stands for it.
func (s *Scene) Provide(doc *scene.Document, blob string, b *kit.Bundle) {
	s.bundles[blob], s.bundled[blob] = b, b.Meshes()
	s.compile(doc)
}

// Missing lists the blobs of models that nodes use and that have not been
// provided.
func (s *Scene) Missing(doc *scene.Document) []string {
	var out []string
	for i := range s.Nodes {
		m, ok := doc.Models[s.Nodes[i].Entity.Model]
		if ok && s.bundles[m.Blob] == nil && !slices.Contains(out, m.Blob) {
			out = append(out, m.Blob)
		}
	}
	return out
}

// SetAspect makes the cameras' gates those of a picture with another aspect
// (width / height) than the document's format, until the next full compile.
func (s *Scene) SetAspect(aspect float64) { s.aspect = aspect }

// Aspect returns the width of the picture divided by its height.
func (s *Scene) Aspect() float64 { return s.aspect }

// Index returns the index of a node in Nodes, or −1.
func (s *Scene) Index(id string) int {
	if i, ok := s.index[id]; ok {
		return i
	}
	return -1
}

// Update brings the compiled scene in line with a document in which something was
// touched, that is given as it was before. Changes of keys refresh only the channels they touch; nodes that
// only moved or changed their figures are replaced in place; deeds and lines
// lay out only what their people do; changes of the cut touch nothing; others
// lay out nodes anew and keep the meshes.
func (s *Scene) Update(doc *scene.Document, p []scene.Touched) {
	if !slices.ContainsFunc(p, func(c scene.Touched) bool { return !Unseen(c.Collection) }) {
		return
	}
	var curves []scene.Touched
	people := map[string]bool{}
	moved := false
	for _, c := range p {
		if Unseen(c.Collection) {
			continue
		}
		switch c.Collection {
		case "curves":
			// It may change what must be placed first, or which meshes there are.
			if follows(c.Before) || follows(doc.Curves[c.ID]) || s.recolors(doc, c) {
				s.compile(doc)
				return
			}
			curves = append(curves, c)
		case "settings":
			if !sameClock(&s.settings, &doc.Settings) {
				s.compile(doc)
				return
			}
		case "lines", "actions":
			if !onlyGoing(doc, c, people) {
				s.compile(doc)
				return
			}
		case "nodes":
			e, there := doc.Nodes[c.ID]
			i, known := s.index[c.ID]
			if !there || !known || !sameLayout(&s.Nodes[i].Entity, &e) {
				s.compile(doc)
				return
			}
			moved = true
		default:
			s.compile(doc)
			return
		}
	}
	s.settings = doc.Settings
	for _, c := range p {
		if c.Collection == "nodes" {
			s.Nodes[s.index[c.ID]].Entity = doc.Nodes[c.ID]
		}
	}
	s.updateCurves(doc, curves)
	if moved || len(curves) > 0 {
		s.fix()
		for _, i := range s.solidify() {
			people[s.Nodes[i].ID] = true
		}
	}
	if len(people) > 0 {
		s.deeds(doc, people)
	}
	s.settle()
}

func (s *Scene) updateCurves(doc *scene.Document, curves []scene.Touched) {
	// A deleted curve no longer says whose it was, so all channels of the nodes
	// that have curves are gathered again when one is gone.
	for _, c := range curves {
		v, ok := doc.Curves[c.ID]
		if was, had := c.Before.(scene.Curve); !ok || had && (was.Node != v.Node || was.Channel != v.Channel) {
			s.channels(doc)
			return
		}
		s.setChannel(v)
	}
}

func (s *Scene) setChannel(v scene.Curve) {
	if i, ok := s.index[v.Node]; ok && v.Channel == scene.Focus {
		s.Nodes[i].pulls = s.pullsOf(v)
	}
	if v.Node == scene.SettingsID {
		s.light[channelIndex[v.Channel]] = curve.NewChannel(v.Keys)
	} else if i, ok := s.index[v.Node]; ok {
		s.Nodes[i].channels[channelIndex[v.Channel]] = curve.NewChannel(v.Keys)
	}
}

// sameClock tells whether settings differ in nothing but the light.
func sameClock(a, b *scene.Settings) bool {
	return a.Rate == b.Rate && a.Format == b.Format && a.Story == b.Story
}

// onlyGoing tells whether a change of an action or line leaves alone what
// carries what, and notes the people whose deeds it touches.
func onlyGoing(doc *scene.Document, c scene.Touched, people map[string]bool) bool {
	for _, side := range []any{c.Before, doc.Table(c.Collection).Value(c.ID)} {
		switch v := side.(type) {
		case scene.Line:
			people[v.Cast] = true
		case scene.Action:
			switch v.Do {
			case scene.Ride, scene.Take, scene.Give, scene.Put, scene.PlayClip:
				return false
			}
			people[v.Cast] = true
		}
	}
	return true
}

// sameLayout tells whether a node can be replaced by another value of it without
// laying out anything anew: only its place and figures differ.
func sameLayout(a, b *scene.Node) bool {
	if a.Kind != b.Kind || a.Parent != b.Parent || a.Joint != b.Joint || a.Path != b.Path || a.Hidden != b.Hidden || a.Model != b.Model ||
		(a.Lamp == nil) != (b.Lamp == nil) || (a.Camera == nil) != (b.Camera == nil) {
		return false
	}
	if !reflect.DeepEqual(a.Piece, b.Piece) || !reflect.DeepEqual(a.Cast, b.Cast) || !reflect.DeepEqual(a.Shooting, b.Shooting) || !reflect.DeepEqual(a.Screen, b.Screen) {
		return false
	}
	if a.Camera == nil {
		return true
	}
	k, l := a.Camera, b.Camera
	return k.Number == l.Number && k.Aim == l.Aim && k.AimAt == l.AimAt && k.FocusOn == l.FocusOn && (k.Lag > 0) == (l.Lag > 0)
}

func (s *Scene) channels(doc *scene.Document) {
	for i := range s.Nodes {
		s.Nodes[i].channels, s.Nodes[i].pulls = [channelCount]curve.Channel{}, nil
	}
	s.light = [channelCount]curve.Channel{}
	for _, v := range doc.Curves {
		s.setChannel(v)
	}
}

func (s *Scene) compile(doc *scene.Document) {
	s.Structure++
	s.settings = doc.Settings
	s.rate = doc.Settings.Rate.PerSecond()
	s.format = doc.Settings.Format
	s.aspect = doc.Formats[s.format].Aspect()
	order := s.order(doc)
	s.index = make(map[string]int, len(order))
	for i, id := range order {
		s.index[id] = i
	}
	s.paths = make(map[string]*curve.Path, len(doc.Paths))
	for id, p := range doc.Paths {
		pts := make([]r3.Vec, len(p.Points))
		for i, v := range p.Points {
			pts[i] = v.R3()
		}
		if c, err := curve.NewPath(p.Form, pts, p.Closed); err == nil {
			s.paths[id] = c
		}
	}
	s.Nodes = make([]Node, len(order))
	s.Instances, s.Meshes, s.Cameras, s.Lamps, s.Surfaces = nil, nil, nil, nil, nil
	s.bent, s.dyed, s.poses = nil, nil, 0
	dyes := keyedColors(doc)
	used := map[string]int{}
	for i, id := range order {
		e := doc.Nodes[id]
		n := Node{ID: id, Entity: e, Hidden: e.Hidden, Shooting: e.Shooting, parent: -1, joint: -1, aimAt: -1, focusOn: -1, camera: -1, lamp: -1, path: s.paths[e.Path], seed: chance(id)}
		if e.Parent != "" {
			n.parent = s.index[e.Parent]
			n.Hidden = n.Hidden || s.Nodes[n.parent].Hidden
			if n.Shooting == nil {
				n.Shooting = s.Nodes[n.parent].Shooting
			}
			if j, ok := kit.JointByName(e.Joint); ok && s.Nodes[n.parent].Entity.Kind == scene.KindCast {
				n.joint = int(j)
			}
		}
		if k := e.Camera; k != nil {
			if k.Aim == scene.AimAt {
				n.aimAt = s.index[k.AimAt]
			}
			if k.FocusOn != "" {
				n.focusOn = s.index[k.FocusOn]
			}
			s.Cameras = append(s.Cameras, i)
		}
		if e.Lamp != nil && !n.Hidden {
			n.lamp = len(s.Lamps)
			s.Lamps = append(s.Lamps, i)
		}
		n.first = len(s.Instances)
		s.shape(doc, &n, i, used, dyes[id])
		s.Nodes[i] = n
	}
	sort.SliceStable(s.Cameras, func(a, b int) bool {
		return s.Nodes[s.Cameras[a]].Entity.Camera.Number < s.Nodes[s.Cameras[b]].Entity.Camera.Number
	})
	for c, i := range s.Cameras {
		s.Nodes[i].camera = c
	}
	s.channels(doc)
	s.compileNeeds(doc)
	s.solids = nil
	s.solidify()
	s.compileRides(doc)
	s.fix()
	s.deeds(doc, nil)
	s.settle()
	for key := range s.meshes { // forget what nothing uses any more
		if _, ok := used[key]; !ok && len(s.meshes) > 2*len(used)+64 {
			delete(s.meshes, key)
			delete(s.dyes, key)
		}
	}
}

// colors are the channels of a colour.
var colors = []scene.Channel{scene.Red, scene.Green, scene.Blue}

// keyedColors returns the nodes whose colour has keys.
func keyedColors(doc *scene.Document) map[string]bool {
	out := map[string]bool{}
	for _, c := range doc.Curves {
		if slices.Contains(colors, c.Channel) {
			out[c.Node] = true
		}
	}
	return out
}

// recolors tells whether a change of a curve begins or ends that keys colour a piece.
func (s *Scene) recolors(doc *scene.Document, c scene.Touched) bool {
	dyes := func(v any) string {
		if k, ok := v.(scene.Curve); ok && slices.Contains(colors, k.Channel) {
			if i := s.Index(k.Node); i >= 0 && s.Nodes[i].Entity.Piece != nil {
				return k.Node
			}
		}
		return ""
	}
	now := ""
	if v, ok := doc.Curves[c.ID]; ok {
		now = dyes(v)
	}
	return dyes(c.Before) != now
}

// dye returns the dye of a mesh.
func (s *Scene) dye(key string, find func() kit.Dye) *kit.Dye {
	d := s.dyes[key]
	if d == nil {
		found := find()
		d = &found
		s.dyes[key] = d
	}
	return d
}

// fix finds the nodes that never move, and where they are. Parents come before
// what hangs on them.
func (s *Scene) fix() {
	for i := range s.Nodes {
		n := &s.Nodes[i]
		n.fixed = n.Entity.Cast == nil && n.Entity.Camera == nil && n.lamp < 0 && n.own == (own{}) &&
			(n.parent < 0 || s.Nodes[n.parent].fixed) && n.stays()
		if !n.fixed {
			continue
		}
		n.world, _, _ = s.local(n, 0)
		if n.parent >= 0 {
			n.world = s.Nodes[n.parent].world.Mul(&n.world)
		}
	}
}

// chance returns a number from 0 to 1 for an id, the same everywhere.
func chance(id string) float64 {
	h := fnv.New32a()
	_, _ = h.Write([]byte(id))
	return float64(h.Sum32()) / math.MaxUint32
}

// shape adds the instances of a node, its centre and its grip; dyed tells that keys change
// its colour.
func (s *Scene) shape(doc *scene.Document, n *Node, i int, used map[string]int, dyed bool) {
	add := func(key string, build func() *kit.Mesh, in Instance) *kit.Mesh {
		m := s.meshes[key]
		if m == nil {
			m = build()
			s.meshes[key] = m
		}
		at, ok := used[key]
		if !ok {
			at = len(s.Meshes)
			used[key] = at
			s.Meshes = append(s.Meshes, MeshEntry{key, m})
		}
		in.Node, in.Mesh = i, at
		in.Dye = -1
		if in.model == nil {
			in.Skin = -1
		}
		if in.dye != nil && !n.Hidden {
			in.Dye = len(s.dyed)
			s.dyed = append(s.dyed, m)
		}
		if !n.Hidden {
			s.Instances = append(s.Instances, in)
		}
		return m
	}
	if p := n.Entity.Piece; p != nil {
		key := kit.Key(p.Stock, p.Params, p.Color)
		if p.Along != "" {
			key += " along " + string(scene.Canonical(doc.Paths[p.Along]))
		}
		build := func() *kit.Mesh { return kit.Build(p.Stock, p.Params, p.Color, s.paths[p.Along]) }
		screen := n.Entity.Screen
		if p.Stock != kit.Screen {
			screen = nil
		}
		var dye *kit.Dye
		own := "" // what keys colour is shared with nothing
		if dyed && screen == nil {
			own = ofOne + n.ID
			dye = s.dye(key+own, func() kit.Dye { return kit.DyeOf(p.Stock, p.Params, s.paths[p.Along]) })
			n.color = kit.Dyed(p.Stock, p.Color)
		}
		if screen != nil {
			key, build = kit.BoardKey(p.Params), func() *kit.Mesh { return kit.Board(p.Params) }
		}
		m := add(key+own, build, Instance{dye: dye})
		n.center, n.grip = m.Bounds.Center(), kit.Grip(p.Stock, p.Params, m.Bounds)
		for _, w := range kit.Wheels(p.Stock, p.Params) {
			key := fmt.Sprintf("wheel %g %g %t", w.Radius, w.Width, w.Spokes)
			add(key, func() *kit.Mesh { return kit.WheelMesh(w) }, Instance{wheel: w.Radius, axle: w.At})
		}
		n.opened, _ = kit.Opened(p.Stock, p.Params)
		for k, l := range kit.Leaves(p.Stock, p.Params, p.Color) {
			in := Instance{leaf: &l}
			if dye != nil {
				in.dye = s.dye(l.Key()+own, func() kit.Dye { return kit.DyeOfLeaf(p.Stock, p.Params, k) })
			}
			add(l.Key()+own, l.Mesh, in)
		}
		n.own = ownMotion(p)
		if screen != nil && !n.Hidden {
			// Each has its own, since its texture is its own.
			key := kit.SurfaceKey(p.Params, screen.Glow) + ofOne + n.ID
			front := add(key, func() *kit.Mesh { return kit.Surface(p.Params, screen.Glow) }, Instance{Surface: true})
			s.Surfaces = append(s.Surfaces, Surface{i, front})
		}
	}
	if n.Entity.Model != "" {
		s.imported(doc, n, add)
		return
	}
	if c := n.Entity.Cast; c != nil {
		f := kit.Figure{Height: c.Height, Build: c.Build, HairStyle: c.HairStyle, Coat: c.Coat, Legs: c.Legs, Hair: c.Hair, Skin: c.Skin}
		for j := range kit.Joints {
			key := fmt.Sprintf("part %d %g %s %s %s %s %s %s", j, c.Height, c.Build, c.HairStyle, c.Coat, c.Legs, c.Hair, c.Skin)
			add(key, func() *kit.Mesh { return kit.Part(j, f) }, Instance{Joint: j, part: true})
		}
		n.center = r3.Vec{Y: eyes * c.Height}
		n.skull, n.stoop = kit.Carriage(c.Build)
	}
}

// bentMesh is a mesh that bends with its model's pose.
type bentMesh struct {
	model *kit.Bundle
	shape int
	mesh  *kit.Mesh // at rest
}

// imported adds the instances of a node that an imported model stands for, or a
// box of its size when the model is not at hand.
func (s *Scene) imported(doc *scene.Document, n *Node, add func(string, func() *kit.Mesh, Instance) *kit.Mesh) {
	m := doc.Models[n.Entity.Model]
	n.center = r3.Vec{Y: m.Size[1] / 2}
	n.grip = r3.Vec{Y: m.Size[1]}
	if n.Entity.Cast != nil {
		n.center.Y = eyes * m.Size[1]
	}
	b := s.bundles[m.Blob]
	if b == nil {
		size := map[string]float64{"width": m.Size[0], "height": m.Size[1], "depth": m.Size[2]}
		add(kit.Key("box", size, ""), func() *kit.Mesh { return kit.Build("box", size, "", nil) }, Instance{})
		return
	}
	n.model, n.pose = b, s.poses
	s.poses++
	for k, mesh := range s.bundled[m.Blob] {
		in := Instance{model: b, shape: k, Skin: -1}
		if b.Shapes[k].Skin >= 0 {
			in.Skin = len(s.bent)
			if !n.Hidden {
				s.bent = append(s.bent, bentMesh{b, k, mesh})
			}
		}
		key := fmt.Sprintf("model %s %d", m.Blob, k)
		if in.Skin >= 0 { // each bends for itself
			key += " " + n.ID
		}
		add(key, func() *kit.Mesh { return mesh }, in)
	}
}

// eyes is the height of the eyes as a share of the body's.
const eyes = 0.9

// order sorts nodes so that each comes after what it depends on; by id where
// nothing else decides.
func (s *Scene) order(doc *scene.Document) []string {
	out := make([]string, 0, len(doc.Nodes))
	depends := doc.Dependencies()
	seen := make(map[string]bool, len(doc.Nodes))
	// Depth is bounded by the number of nodes and there are no cycles in a
	// valid document.
	var visit func(id string)
	visit = func(id string) {
		if seen[id] {
			return
		}
		seen[id] = true
		for _, on := range depends[id] {
			visit(on)
		}
		out = append(out, id)
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Nodes)) {
		visit(id)
	}
	return out
}

// Shows tells whether a shot sees a node; "" is a camera that no shot looks
// through.
func (n *Node) Shows(shot string) bool {
	return n.Shooting == nil || !n.Shooting.Hidden && (len(n.Shooting.Only) == 0 || slices.Contains(n.Shooting.Only, shot))
}

// Path returns the compiled path that a node travels on, or nil.
func (s *Scene) Path(node string) *curve.Path {
	if i := s.Index(node); i >= 0 {
		return s.Nodes[i].path
	}
	return nil
}

// PathByID returns a compiled path of the document, or nil.
func (s *Scene) PathByID(id string) *curve.Path { return s.paths[id] }

// Walked returns where a cast member is on the path of an action at a frame, in
// metres from the start of the path, and whether the action goes along one.
func (s *Scene) Walked(a scene.Action, frame float64) (float64, bool) {
	p := s.paths[a.Path]
	if !a.Do.Goes() || p == nil {
		return 0, false
	}
	w := act{in: float64(a.In), out: float64(a.Out), track: Stretch(p, a), ease: [2]float64{easeFrames, easeFrames}}
	if a.Ease != nil {
		w.ease = *a.Ease
	}
	d := walked(&w, frame)
	if w.track.From > w.track.To {
		d = -d
	}
	return w.track.From + d, true
}

// Bounds returns the box in the world of everything that casts a shadow worth
// having, at a state: all instances whose own size is under limit metres.
func (s *Scene) Bounds(st *State, limit float64) geom.Box {
	out := geom.EmptyBox()
	for i, in := range s.Instances {
		b := s.Meshes[in.Mesh].Mesh.Bounds
		d := r3.Sub(b.Max, b.Min)
		if max(d.X, d.Y, d.Z) > limit {
			continue
		}
		w := b.Transform(&st.Instances[i])
		out = out.Add(w.Min).Add(w.Max)
	}
	return out
}

// Unseen tells collections that say what is cut and heard, and nothing of what
// stands or moves in the scene.
func Unseen(collection string) bool {
	switch collection {
	case "shots", "lanes", "assemblies", "markers", "boards", "cards", "footage", "tracks", "sounds", "recipes", "alternates", "differences":
		return true
	}
	return false
}
