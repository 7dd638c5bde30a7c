package scene

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"

	"proscen/core/curve"

	"gonum.org/v1/gonum/spatial/r3"
)

// Bounds of what a document may hold.
const (
	MaxFrame   = 10_000_000 // either clock, both signs
	MaxMetres  = 1_000_000
	maxCount   = 1_000_000 // triangles of a model, places in an order
	MaxLamps   = 64        // lamps that are on at once
	MaxCasting = 8         // and those of them that cast shadows
	maxText    = 2_000
)

// Problem is one thing wrong in a document, with its place.
type Problem struct {
	Path    string `json:"path"` // collection/id/field
	Message string `json:"message"`
}

// Problems lists what is wrong; it is an error when not empty.
type Problems []Problem

func (p *Problems) add(path, message string) { *p = append(*p, Problem{path, message}) }

// Error writes the first problems, one sentence each.
func (p Problems) Error() string {
	const most = 5
	var b strings.Builder
	for i, x := range p {
		if i == most {
			fmt.Fprintf(&b, "; and %d more", len(p)-most)
			break
		}
		if i > 0 {
			b.WriteString("; ")
		}
		b.WriteString(x.Path + " " + x.Message)
	}
	return b.String()
}

var (
	colorForm = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)
	blobForm  = regexp.MustCompile(`^[0-9a-f]{64}$`)
)

// isID tells whether text can be an id; it is asked thousands of times in a drag.
func isID(s string) bool {
	for i := range len(s) {
		switch c := s[i]; {
		case c >= '0' && c <= '9', c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == '.', c == '_', c == '-':
		default:
			return false
		}
	}
	return len(s) >= 1 && len(s) <= 64
}

// checker collects problems at a place.
type checker struct {
	doc      *Document
	problems Problems
	at       string
}

func (c *checker) fail(field, format string, args ...any) {
	path := c.at
	if field != "" {
		path += "/" + field
	}
	c.problems.add(path, fmt.Sprintf(format, args...))
}

func (c *checker) number(field string, v, lo, hi float64) {
	if math.IsNaN(v) || v < lo || v > hi {
		c.fail(field, "is %v; it must be from %v to %v", v, lo, hi)
	}
}

func (c *checker) vec(field string, v Vec) {
	for i := range v {
		c.number(field, v[i], -MaxMetres, MaxMetres)
	}
}

func (c *checker) frames(in, out int) {
	c.number("in", float64(in), -MaxFrame, MaxFrame)
	c.number("out", float64(out), -MaxFrame, MaxFrame)
	if out <= in {
		c.fail("out", "is %d and not after in (%d): it must last at least one frame", out, in)
	}
}

// IsColor tells whether a colour is written #rrggbb.
func IsColor(v string) bool { return colorForm.MatchString(v) }

func (c *checker) color(field, v string) {
	if !IsColor(v) {
		c.fail(field, "is %q; a colour is written #rrggbb", clip(v))
	}
}

func (c *checker) text(field, v string, needed bool) {
	if len(v) > maxText {
		c.fail(field, "is longer than %d characters", maxText)
	}
	if needed && strings.TrimSpace(v) == "" {
		c.fail(field, "must not be empty")
	}
}

// refers checks a reference into a collection; kinds narrows it for nodes.
func (c *checker) refers(field, id string, exists bool, what string) {
	if !exists {
		c.fail(field, "refers to %q, and there is no such %s", clip(id), what)
	}
}

func (c *checker) refersNode(field, id string, kinds ...Kind) {
	n, ok := c.doc.Nodes[id]
	if !ok {
		c.refers(field, id, false, "node")
		return
	}
	if len(kinds) > 0 && !slices.Contains(kinds, n.Kind) {
		c.fail(field, "refers to %q, which is a %s and not a %s", n.Name, n.Kind, kinds[0])
	}
}

func (c *checker) refersPath(field, id string) {
	_, ok := c.doc.Paths[id]
	c.refers(field, id, ok, "path")
}

func each[T any](c *checker, collection string, entities map[string]T, check func(e T)) {
	if !c.few(collection, len(entities)) {
		return
	}
	for _, id := range slices.Sorted(maps.Keys(entities)) {
		c.place(collection, id)
		check(entities[id])
	}
}

// few checks how many entities a collection has.
func (c *checker) few(collection string, n int) bool {
	if n > MaxEntities {
		c.problems.add(collection, fmt.Sprintf("holds %d entities, more than %d", n, MaxEntities))
	}
	return n <= MaxEntities
}

// place notes which entity is checked, and checks its id.
func (c *checker) place(collection, id string) {
	c.at = collection + "/" + clip(id)
	if !isID(id) {
		c.fail("", "has an id that is not 1 to 64 letters, digits, dots, dashes or underscores")
	}
}

// Validate returns everything that is wrong with the document, nil when
// nothing is. It never panics, whatever the document holds.
func (d *Document) Validate() Problems {
	d.ForgetOrder()
	d.curvesOf.forget()
	d.boardsOf.forget()
	c := &checker{doc: d}
	c.settings()
	c.lamps()
	each(c, "nodes", d.Nodes, c.node)
	c.cameraNumbers(nil)
	c.circles(slices.Sorted(maps.Keys(d.Nodes)))
	each(c, "paths", d.Paths, c.path)
	each(c, "curves", d.Curves, c.curve)
	c.owners(nil)
	each(c, "actions", d.Actions, c.action)
	each(c, "boards", d.Boards, c.board)
	each(c, "cards", d.Cards, c.card)
	each(c, "footage", d.Footage, c.footage)
	each(c, "tracks", d.Tracks, c.track)
	each(c, "sounds", d.Sounds, c.sound)
	each(c, "kits", d.Kits, c.kit)
	each(c, "recipes", d.Recipes, c.recipe)
	each(c, "models", d.Models, c.model)
	each(c, "alternates", d.Alternates, c.alternate)
	each(c, "differences", d.Differences, c.difference)
	each(c, "assemblies", d.Assemblies, c.assembly)
	each(c, "markers", d.Markers, c.marker)
	each(c, "lanes", d.Lanes, c.lane)
	c.mainLanes(nil)
	each(c, "shots", d.Shots, c.shot)
	c.apart(nil)
	each(c, "lines", d.Lines, c.line)
	each(c, "formats", d.Formats, c.format)
	return c.problems
}

// cameraNumbers checks that no two cameras have one number: of some cameras, or,
// with nil, of all.
func (c *checker) cameraNumbers(of map[string]bool) {
	numbers := map[int]string{}
	for _, id := range c.cameras() {
		n := c.doc.Nodes[id].Camera.Number
		other, taken := numbers[n]
		if !taken {
			numbers[n] = id
			continue
		}
		if of == nil || of[id] || of[other] {
			c.at = "nodes/" + clip(id)
			c.fail("camera/number", "is %d, which camera %q has already", n, c.doc.Nodes[other].Name)
		}
	}
}

// cameras lists the ids of cameras in order.
func (c *checker) cameras() (out []string) {
	for id, n := range c.doc.Nodes {
		if n.Kind == KindCamera && n.Camera != nil {
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}

// owners checks that no two curves are for one channel of a node: of some curves,
// or, with nil, of all.
func (c *checker) owners(of map[string]bool) {
	type owner struct {
		node    string
		channel Channel
	}
	wanted := map[owner]bool{}
	for id := range of {
		if v, ok := c.doc.Curves[id]; ok {
			wanted[owner{v.Node, v.Channel}] = true
		}
	}
	seen := make(map[owner]string, len(wanted))
	var twice []string
	for id, v := range c.doc.Curves {
		o := owner{v.Node, v.Channel}
		if of != nil && !wanted[o] {
			continue
		}
		if other, ok := seen[o]; ok {
			twice = append(twice, max(id, other))
		}
		seen[o] = id
	}
	slices.Sort(twice)
	for _, id := range slices.Compact(twice) {
		c.at = "curves/" + clip(id)
		c.fail("channel", "%s of this node has a curve already", clip(string(c.doc.Curves[id].Channel)))
	}
}

func (c *checker) curve(v Curve) {
	if v.Node == SettingsID {
		if !slices.Contains(lightChannels, v.Channel) {
			c.fail("channel", "is %q, which is not a channel of the scene's light", clip(string(v.Channel)))
		}
	} else {
		c.refersNode("node", v.Node)
	}
	if !slices.Contains(Channels, v.Channel) {
		c.fail("channel", "is %q, which is no channel", clip(string(v.Channel)))
	}
	c.keys(v.Keys)
	for i, k := range v.Keys {
		if k.On == "" {
			continue
		}
		if v.Channel != Focus {
			c.fail(fmt.Sprintf("keys/%d/on", i), "is only for keys of the focus")
		}
		c.refersNode(fmt.Sprintf("keys/%d/on", i), k.On)
	}
}

func (c *checker) line(l Line) {
	c.refersNode("cast", l.Cast, KindCast)
	c.frames(l.In, l.Out)
	c.text("text", l.Text, true)
}

func (c *checker) format(f Format) {
	c.text("name", f.Name, true)
	c.number("width", float64(f.Width), 16, 8192)
	c.number("height", float64(f.Height), 16, 8192)
}

func (c *checker) settings() {
	s := c.doc.Settings
	c.at = "settings"
	c.text("production", s.Production, true)
	c.text("title", s.Title, true)
	if !s.Rate.Valid() {
		c.fail("rate", "is not a frame rate")
	}
	c.frames(s.Story.In, s.Story.Out)
	c.number("storyStart", float64(s.StoryStart), 0, MaxFrame)
	c.number("screenStart", float64(s.ScreenStart), 0, MaxFrame)
	if s.Shutter != 0 {
		c.number("shutter", s.Shutter, 1, 360)
	}
	c.light(s.Exposure, s.Tint)
	if s.Lengths != Metres && s.Lengths != Feet {
		c.fail("lengths", "is %q; it must be feet, or be left out for metres", clip(string(s.Lengths)))
	}
	_, ok := c.doc.Formats[s.Format]
	c.refers("format", s.Format, ok, "format")
	c.number("sun/heading", s.Sun.Heading, -3600, 3600)
	c.number("sun/height", s.Sun.Height, -90, 90)
	c.number("sun/strength", s.Sun.Strength, 0, 100)
	c.color("sun/color", s.Sun.Color)
	c.number("sky/strength", s.Sky.Strength, 0, 100)
	c.color("sky/zenith", s.Sky.Zenith)
	c.color("sky/horizon", s.Sky.Horizon)
	c.color("sky/ground", s.Sky.Ground)
	c.number("haze/distance", s.Haze.Distance, 0, MaxMetres)
	c.number("haze/rise", s.Haze.Rise, 0, MaxMetres)
	c.number("haze/base", s.Haze.Base, -MaxMetres, MaxMetres)
	if k := s.Sun.Clock; k != nil {
		c.number("sun/clock/latitude", k.Latitude, -90, 90)
		c.number("sun/clock/day", float64(k.Day), 1, 366)
		c.number("sun/clock/hour", k.Hour, 0, 24)
	}
}

// light holds what brightens and colours pictures.
func (c *checker) light(exposure float64, tint string) {
	c.number("exposure", exposure, -MaxExposure, MaxExposure)
	if tint != "" {
		c.color("tint", tint)
	}
}

// lamps counts the lamps that are on.
func (c *checker) lamps() {
	lamps, casting := 0, 0
	for _, n := range c.doc.Nodes {
		if n.Lamp != nil && !n.Hidden {
			lamps++
			if n.Lamp.Shadow {
				casting++
			}
		}
	}
	if lamps > MaxLamps {
		c.problems.add("nodes", fmt.Sprintf("hold %d lamps that are on; a scene has at most %d: hide or remove some", lamps, MaxLamps))
	}
	if casting > MaxCasting {
		c.problems.add("nodes", fmt.Sprintf("hold %d lamps that are on and cast shadows; a scene has at most %d: let some cast none, or hide some", casting, MaxCasting))
	}
}

// lightChannels are the channels that the settings can have.
var lightChannels = []Channel{Red, Green, Blue, SunPower, SunHour, SkyPower, HazeReach}

func (c *checker) action(a Action) {
	if a.Do == Ride && a.On != "" {
		c.refersNode("cast", a.Cast)
		c.refersNode("on", a.On)
	} else {
		c.refersNode("cast", a.Cast, KindCast)
	}
	c.frames(a.In, a.Out)
	if !slices.Contains(Deeds, a.Do) {
		c.fail("do", "is %q, which is no deed", clip(string(a.Do)))
	}
	if a.Do.Goes() {
		c.refersPath("path", a.Path)
	}
	c.number("start", a.Start, 0, MaxMetres)
	c.number("end", a.End, 0, MaxMetres)
	if a.End != 0 && a.End <= a.Start {
		c.fail("end", "is %v and not after start (%v)", a.End, a.Start)
	}
	if a.Ease != nil {
		c.number("ease", a.Ease[0], 0, MaxFrame)
		c.number("ease", a.Ease[1], 0, MaxFrame)
	}
	if a.Face != "" {
		c.refersNode("face", a.Face)
	}
	switch a.Do {
	case Take, Give, Put:
		c.refersNode("on", a.On)
	case Point, Look:
		if a.Face == "" && a.At == nil {
			c.fail("face", "is missing; choose what to %s at", a.Do)
		}
	case Reach:
		if a.Face == "" && a.At == nil {
			c.fail("face", "is missing; choose what to reach for")
		}
	case PlayClip:
		c.text("clip", a.Clip, true)
	}
	if a.Do == Give {
		c.refersNode("with", a.With, KindCast)
	} else if a.With != "" {
		c.refersNode("with", a.With, KindCast)
	}
	if a.With != "" && a.With == a.Cast {
		c.fail("with", "is the same person")
	}
	if a.At != nil {
		c.vec("at", *a.At)
	}
	c.number("seat", a.Seat, 0, 3)
	c.number("turn", a.Turn, -36_000, 36_000)
	c.text("joint", a.Joint, false)
	if a.Hand != "" && a.Hand != "left" && a.Hand != "right" {
		c.fail("hand", "is %q; it must be left or right", clip(a.Hand))
	}
}

func (c *checker) model(m Model) {
	c.text("name", m.Name, true)
	if !blobForm.MatchString(m.Blob) {
		c.fail("blob", "is not a SHA-256 in hexadecimal")
	}
	c.vec("size", m.Size)
	c.number("triangles", float64(m.Triangles), 0, maxCount)
	if len(m.Clips) > 256 {
		c.fail("clips", "are more than 256")
	}
	for _, k := range m.Clips {
		c.text("clips", k.Name, false)
		c.number("clips", k.Seconds, 0, 36_000)
	}
}

func (c *checker) node(n Node) {
	c.text("name", n.Name, true)
	c.vec("position", n.Position)
	c.vec("turn", n.Turn)
	if n.Scale != 0 {
		c.number("scale", n.Scale, 1e-3, 1e3)
	}
	if n.Parent != "" {
		c.refersNode("parent", n.Parent)
	}
	c.text("joint", n.Joint, false)
	if n.Path != "" {
		c.refersPath("path", n.Path)
	}
	if !slices.Contains(Kinds, n.Kind) {
		c.fail("kind", "is %q, which is no kind of node", clip(string(n.Kind)))
	}
	if n.Model != "" {
		_, ok := c.doc.Models[n.Model]
		c.refers("model", n.Model, ok, "imported model")
	}
	if n.Tint != "" {
		c.color("tint", n.Tint)
	}
	if k := n.Shooting; k != nil {
		if len(k.Only) > 1000 {
			c.fail("shooting/only", "lists more than 1000 shots")
		}
		for _, id := range k.Only { // a shot that is gone sees nothing, and may come back by undo
			if !isID(id) {
				c.fail("shooting/only", "lists %q, which is no id", clip(id))
			}
		}
	}
	shape := n.Piece != nil || n.Model != ""
	needs := map[Kind]bool{KindSet: shape, KindProp: shape, KindVehicle: shape,
		KindCast: n.Cast != nil, KindCamera: n.Camera != nil, KindLamp: n.Lamp != nil}
	if has, need := needs[n.Kind]; need && !has {
		c.fail("", "is a %s without the part that describes it", n.Kind)
	}
	if p := n.Piece; p != nil {
		c.text("piece/stock", p.Stock, true)
		if p.Color != "" {
			c.color("piece/color", p.Color)
		}
		if len(p.Params) > 64 {
			c.fail("piece/params", "has more than 64 entries")
		}
		for _, name := range slices.Sorted(maps.Keys(p.Params)) {
			c.number("piece/params/"+clip(name), p.Params[name], -10_000, 10_000)
		}
		if p.Along != "" {
			c.refersPath("piece/along", p.Along)
		}
	}
	if s := n.Screen; s != nil {
		c.screen(s)
	}
	if p := n.Cast; p != nil {
		c.number("cast/height", p.Height, 0.3, 4)
		c.color("cast/coat", p.Coat)
		c.color("cast/legs", p.Legs)
		for _, v := range []string{p.Hair, p.Skin} {
			if v != "" {
				c.color("cast", v)
			}
		}
		if p.Build != "" && !slices.Contains([]string{"average", "slim", "broad", "child", "elder"}, p.Build) {
			c.fail("cast/build", "is %q; it must be average, slim, broad, child or elder", clip(p.Build))
		}
		if p.HairStyle != "" && !slices.Contains([]string{"short", "long", "tied", "bald"}, p.HairStyle) {
			c.fail("cast/hairStyle", "is %q; it must be short, long, tied or bald", clip(p.HairStyle))
		}
	}
	if l := n.Lamp; l != nil {
		c.color("lamp/color", l.Color)
		c.number("lamp/strength", l.Strength, 0, 10_000)
		c.number("lamp/reach", l.Reach, 0.01, 10_000)
		c.number("lamp/spot", l.Spot, 0, 179)
		c.number("lamp/soft", l.Soft, 0, 1)
	}
	if k := n.Camera; k != nil {
		c.camera(n, k)
	}
}

func (c *checker) screen(s *Screen) {
	c.text("screen/name", s.Name, false)
	c.number("screen/from", float64(s.From), -MaxFrame, MaxFrame)
	switch {
	case s.Film == nil:
		c.picture(s.Blob, s.Width, s.Height)
	case s.Blob != "":
		c.fail("screen", "shows a picture and a video; it shows one of them")
	default:
		c.footage(*s.Film)
	}
}

// bound refuses entries for more formats than there can be.
func (c *checker) bound(field string, n int) {
	if n > maxFormats {
		c.fail(field, "has entries for more than %d formats", maxFormats)
	}
}

// maxFormats is for how many formats a camera or a shot can be framed.
const maxFormats = 64

func (c *checker) reframe(field string, r Reframe) {
	c.number(field+"/shift", r.Shift[0], -20, 20)
	c.number(field+"/shift", r.Shift[1], -20, 20)
	if r.Scale != 0 {
		c.number(field+"/scale", r.Scale, 0.05, 1)
	}
	if r.Focal != 0 {
		c.number(field+"/focal", r.Focal, 1, 3000)
	}
	c.vec(field+"/move", r.Move)
}

func (c *checker) camera(n Node, k *Camera) {
	c.number("camera/number", float64(k.Number), 1, 9999)
	c.color("camera/color", k.Color)
	c.number("camera/sensor", k.Sensor[0], 1, 200)
	c.number("camera/sensor", k.Sensor[1], 1, 200)
	c.text("camera/folder", k.Folder, false)
	c.number("camera/focal", k.Focal, 1, 3000)
	c.number("camera/stop", k.Stop, 0.5, 128)
	c.number("camera/focus", k.Focus, 0.05, MaxMetres)
	c.number("camera/framing", k.Framing[0], -1, 1)
	c.number("camera/framing", k.Framing[1], -1, 1)
	if k.Squeeze != 0 {
		c.number("camera/squeeze", k.Squeeze, 0.5, 3)
	}
	switch k.Support {
	case Sticks, Handheld, Mounted:
	case Dolly:
		if n.Path == "" {
			c.fail("camera/support", "is a dolly without a path; choose a path or another support")
		}
	default:
		c.fail("camera/support", "is %q; it must be sticks, dolly, handheld or mounted", clip(string(k.Support)))
	}
	switch k.Aim {
	case AimFree, AimAlong:
	case AimAt:
		c.refersNode("camera/aimAt", k.AimAt)
	default:
		c.fail("camera/aim", "is %q; it must be free, along or at", clip(string(k.Aim)))
	}
	if k.FocusOn != "" {
		c.refersNode("camera/focusOn", k.FocusOn)
	}
	if k.Kit != "" {
		_, ok := c.doc.Kits[k.Kit]
		c.refers("camera/kit", k.Kit, ok, "lens kit")
	}
	c.number("camera/order", float64(k.Order), 0, maxCount)
	c.number("camera/lag", k.Lag, 0, 10)
	c.number("camera/shift", k.Shift[0], -100, 100)
	c.number("camera/shift", k.Shift[1], -100, 100)
	if u := k.Unrest; u != nil {
		c.number("camera/unrest/amount", u.Amount, 0, 20)
		c.number("camera/unrest/rate", u.Rate, 0.05, 12)
		c.number("camera/unrest/seed", float64(u.Seed), 0, 1e6)
		c.number("camera/unrest/from", u.From, -MaxFrame, MaxFrame)
	}
	c.bound("camera/formats", len(k.Formats))
	for format, r := range k.Formats {
		c.reframe("camera/formats/"+clip(format), r)
	}
	if m := k.Match; m != nil {
		c.match(m)
	}
	if len(k.Left) > maxLeft {
		c.fail("camera/left", "holds more than %d positions", maxLeft)
		return
	}
	for i, p := range k.Left {
		field := fmt.Sprintf("camera/left/%d", i)
		c.number(field+"/frame", p.Frame, -MaxFrame, MaxFrame)
		c.vec(field+"/position", p.Position)
		c.vec(field+"/turn", p.Turn)
		c.number(field+"/focal", p.Focal, 1, 3000)
		if i > 0 && k.Left[i-1].Frame >= p.Frame {
			c.fail(field+"/frame", "is %v and not after the position before it (%v)", p.Frame, k.Left[i-1].Frame)
		}
	}
}

func (c *checker) match(m *Match) {
	c.picture(m.Blob, m.Width, m.Height)
	if len(m.Points) > MaxMatched {
		c.fail("camera/match/points", "are more than %d", MaxMatched)
		return
	}
	for i, p := range m.Points {
		field := fmt.Sprintf("camera/match/points/%d", i)
		c.vec(field+"/at", p.At)
		c.number(field+"/in", p.In[0], -4, 4)
		c.number(field+"/in", p.In[1], -4, 4)
	}
}

// MaxMatched bounds the points by which a camera is matched to a picture.
const MaxMatched = 64

// maxLeft bounds the positions left for one move.
const maxLeft = 200

func (c *checker) kit(k Kit) {
	c.text("name", k.Name, true)
	if len(k.Primes)+len(k.Zooms) > 200 {
		c.fail("primes", "and zooms are more than 200 lenses")
		return
	}
	if len(k.Primes)+len(k.Zooms) == 0 {
		c.fail("primes", "are missing: a kit needs at least one lens")
	}
	for i, f := range k.Primes {
		c.number(fmt.Sprintf("primes/%d", i), f, 1, 3000)
	}
	for i, z := range k.Zooms {
		c.number(fmt.Sprintf("zooms/%d", i), z[0], 1, 3000)
		c.number(fmt.Sprintf("zooms/%d", i), z[1], 1, 3000)
		if z[0] >= z[1] {
			c.fail(fmt.Sprintf("zooms/%d", i), "runs from %v to %v mm; the second must be longer", z[0], z[1])
		}
	}
	if k.Squeeze != 0 {
		c.number("squeeze", k.Squeeze, 0.5, 3)
	}
}

func (c *checker) path(p Path) {
	c.text("name", p.Name, false)
	if !slices.Contains(curve.Forms, p.Form) {
		c.fail("form", "is %q; it must be straight, arc, curve or rise", clip(string(p.Form)))
		return
	}
	if len(p.Points) > curve.MaxPathPts {
		c.fail("points", "are more than %d", curve.MaxPathPts)
		return
	}
	before := len(c.problems)
	pts := make([]r3.Vec, len(p.Points))
	for i, v := range p.Points {
		c.vec(fmt.Sprintf("points/%d", i), v)
		pts[i] = v.R3()
	}
	if len(c.problems) > before {
		return
	}
	if err := curve.Check(p.Form, pts, p.Closed); err != nil {
		c.fail("points", "do not make a path: %s", err)
	}
}

// R3 returns the vector in gonum's form.
func (v Vec) R3() r3.Vec { return r3.Vec{X: v[0], Y: v[1], Z: v[2]} }

// FromR3 is the inverse of R3.
func FromR3(v r3.Vec) Vec { return Vec{v.X, v.Y, v.Z} }

func (c *checker) keys(keys []curve.Key) {
	if len(keys) == 0 {
		c.fail("keys", "are missing; a curve without keys must be deleted")
	}
	for i, k := range keys {
		field := fmt.Sprintf("keys/%d", i)
		c.number(field+"/frame", k.Frame, -MaxFrame, MaxFrame)
		c.number(field+"/value", k.Value, -MaxMetres, MaxMetres)
		if !slices.Contains(curve.Eases, k.Ease) {
			c.fail(field+"/ease", "is %q; it must be hold, even, soft or shaped", clip(string(k.Ease)))
		}
		for _, h := range []*curve.Handle{k.In, k.Out} {
			if h != nil {
				c.number(field, h.Frames, 0, MaxFrame)
				c.number(field, h.Value, -MaxMetres, MaxMetres)
			}
		}
		if i > 0 && keys[i-1].Frame >= k.Frame {
			c.fail(field+"/frame", "is %v and not after the key before it (%v)", k.Frame, keys[i-1].Frame)
		}
	}
}

// Depends lists the nodes that must be placed before a node can be: its parent
// and what its camera aims at or focuses on.
func (n Node) Depends() []string {
	var out []string
	if n.Parent != "" {
		out = append(out, n.Parent)
	}
	if n.Camera != nil && n.Camera.Aim == AimAt && n.Camera.AimAt != "" {
		out = append(out, n.Camera.AimAt)
	}
	if n.Camera != nil && n.Camera.FocusOn != "" {
		out = append(out, n.Camera.FocusOn)
	}
	return out
}

// Dependencies lists for every node what must be placed before it: see Depends,
// what its focus is keyed to, and what carries it at times by its actions.
func (d *Document) Dependencies() map[string][]string {
	out := make(map[string][]string, len(d.Nodes))
	for id, n := range d.Nodes {
		if on := n.Depends(); on != nil {
			out[id] = on
		}
	}
	for _, id := range slices.Sorted(maps.Keys(d.Curves)) {
		v := d.Curves[id]
		if v.Channel != Focus {
			continue
		}
		for _, k := range v.Keys {
			if k.On != "" {
				out[v.Node] = append(out[v.Node], k.On)
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(d.Actions)) {
		a := d.Actions[id]
		switch a.Do {
		case Ride:
			if a.On != "" {
				out[a.Cast] = append(out[a.Cast], a.On)
			}
		case Take, Put:
			out[a.On] = append(out[a.On], a.Cast)
		case Give:
			out[a.On] = append(out[a.On], a.Cast, a.With)
		}
	}
	return out
}

// circles reports nodes that are attached to, or aim at, themselves by way of
// others, beginning from some. It walks depth first without recursion, so that a
// long chain in hostile input costs no stack.
func (c *checker) circles(from []string) {
	const (
		fresh = iota
		open
		done
	)
	state := map[string]int{}
	depends := c.doc.Dependencies()
	type step struct {
		id   string
		next []string
	}
	for _, id := range from {
		if _, ok := c.doc.Nodes[id]; !ok || state[id] != fresh {
			continue
		}
		stack := []step{{id, depends[id]}}
		state[id] = open
		for len(stack) > 0 {
			top := &stack[len(stack)-1]
			if len(top.next) == 0 {
				state[top.id] = done
				stack = stack[:len(stack)-1]
				continue
			}
			on := top.next[0]
			top.next = top.next[1:]
			n, ok := c.doc.Nodes[on]
			switch {
			case !ok:
			case state[on] == open:
				c.at = "nodes/" + clip(top.id)
				c.fail("parent", "closes a circle: %q is attached to, carried by or aims at itself by way of %q", c.doc.Nodes[top.id].Name, n.Name)
			case state[on] == fresh:
				state[on] = open
				stack = append(stack, step{on, depends[on]})
			}
		}
	}
}
