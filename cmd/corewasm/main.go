//go:build js && wasm

// Command corewasm is the browser's host of the core: it turns calls and typed
// arrays of JavaScript into calls of the session, and holds no rule of its own.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"math"
	"runtime/debug"
	"slices"
	"strings"
	"syscall/js"
	"unsafe"

	"github.com/oklog/ulid/v2"

	"proscen/core/compose"
	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/optics"
	"proscen/core/portrait"
	"proscen/core/scene"
	"proscen/core/session"

	"gonum.org/v1/gonum/spatial/r3"
)

// host holds the open scene and the buffers that JavaScript reads.
type host struct {
	session *session.Session
	floats  map[string][]float32
	past    []motion.CameraState
}

func main() {
	// There is one thread here: collecting less often keeps frames even.
	debug.SetGCPercent(300)
	h := &host{floats: map[string][]float32{}}
	api := js.Global().Get("Object").New()
	expose := func(calls map[string]func([]js.Value) any, needsScene bool) {
		for name, f := range calls {
			api.Set(name, js.FuncOf(func(_ js.Value, args []js.Value) any {
				if needsScene && h.session == nil {
					return failed(errors.New("no scene is open"))
				}
				return guarded(f, args)
			}))
		}
	}
	expose(map[string]func([]js.Value) any{
		"open": h.open, "stacks": h.stacks, "stock": h.stock, "sharpZone": h.sharpZone, "curve": h.curve, "aimAngles": h.aimAngles,
		"picture": h.picture, "modelPicture": h.modelPicture, "sunAt": h.sunAt, "trade": h.trade, "cardPicture": h.cardPicture, "formats": h.formats,
	}, false)
	expose(map[string]func([]js.Value) any{
		"run": h.run, "preview": h.preview, "cancel": h.cancel, "apply": h.apply, "revert": h.revert, "document": h.document,
		"structure": h.structure, "mesh": h.mesh, "evaluate": h.evaluate, "onAir": h.onAir, "screenAt": h.screenAt,
		"path": h.path, "trail": h.trail, "handles": h.handles, "strike": h.strike, "ground": h.ground, "extent": h.extent, "missing": h.missing, "provide": h.provide, "texture": h.texture, "bent": h.bent, "snap": h.snap, "way": h.way,
		"compose": h.compose, "suggest": h.suggest, "framing": h.framing, "ribbon": h.ribbon, "numbers": h.numbers, "overshoots": h.overshoots,
		"timecode": h.timecode, "parseTimecode": h.parseTimecode,
		"cut": h.cut, "choose": h.choose, "airOf": h.airOf, "between": h.between, "rhythm": h.rhythm, "differences": h.differences,
		"joinLack": h.joinLack, "schedule": h.schedule, "lines": h.lines, "uses": h.uses, "moments": h.moments, "shotAt": h.shotAt,
		"writeCut": h.writeCut, "readCut": h.readCut,
	}, true)
	js.Global().Set("proscenCore", api)
	js.Global().Call("proscenCoreReady")
	select {}
}

// guarded runs a call so that a fault in it ends the call and not the core.
func guarded(f func([]js.Value) any, args []js.Value) (out any) {
	defer func() {
		if fault := recover(); fault != nil {
			out = failed(fmt.Errorf("the core could not do this (%v); reload the page", fault))
		}
	}()
	return f(args)
}

// reply is what calls that may fail return, as JSON.
func reply(v any) any {
	b, err := json.Marshal(v)
	if err != nil {
		return failed(err)
	}
	return string(b)
}

func failed(err error) any {
	out := map[string]any{"error": err.Error()}
	var problems scene.Problems
	if errors.As(err, &problems) {
		out["problems"] = problems
	}
	b, _ := json.Marshal(out)
	return string(b)
}

func (h *host) open(args []js.Value) any {
	doc, err := scene.Decode(bytesOf(args[0]))
	if err != nil {
		return failed(err)
	}
	h.session = session.Open(doc, func() string { return ulid.Make().String() })
	return reply(map[string]any{"assembly": h.session.Assembly()})
}

// entityNow is an entity after a change; a null value means that it is gone.
type entityNow struct {
	Collection string          `json:"collection"`
	ID         string          `json:"id"`
	Value      json.RawMessage `json:"value"`
}

// outcome is what a change of the document gives back.
type outcome struct {
	Label   string      `json:"label,omitempty"`
	Patch   edit.Patch  `json:"patch,omitempty"`
	Changed []entityNow `json:"changed"`
}

// changed lists the entities of patches and of what a preview had touched, as
// they are now.
func (h *host) changed(before *edit.Trial, p edit.Patch) []entityNow {
	out := []entityNow{}
	seen := map[[2]string]bool{}
	add := func(key [2]string) {
		if !seen[key] {
			seen[key] = true
			out = append(out, entityNow{key[0], key[1], h.session.Doc.Table(key[0]).Get(key[1])})
		}
	}
	if before != nil {
		for _, key := range before.Touched() {
			add(key)
		}
	}
	for _, c := range p {
		add([2]string{c.Collection, c.ID})
	}
	return out
}

func (h *host) run(args []js.Value) any {
	before := h.session.Previewing()
	r, err := h.session.Run(args[0].String(), json.RawMessage(args[1].String()))
	return h.outcome(r, err, before)
}

func (h *host) outcome(r edit.Result, err error, before *edit.Trial) any {
	if err != nil {
		b, _ := json.Marshal(struct {
			Error   string      `json:"error"`
			Changed []entityNow `json:"changed"`
		}{err.Error(), h.changed(before, nil)})
		return string(b)
	}
	return reply(outcome{r.Label, r.Patch, h.changed(before, r.Patch)})
}

// previewed is what a preview, or taking one back, gives. Of shots that have only
// been moved in screen time, of which there may be thousands, there are the ids,
// and their first frames and the frames after their last.
type previewed struct {
	Error   string      `json:"error,omitempty"`
	Changed []entityNow `json:"changed"`
	Moved   []string    `json:"moved,omitempty"`
	Frames  []int       `json:"frames,omitempty"`
}

func (h *host) preview(args []js.Value) any {
	earlier := h.shifts(h.session.Previewing())
	err := h.session.Preview(args[0].String(), json.RawMessage(args[1].String()))
	return h.previewed(err, earlier)
}

func (h *host) cancel([]js.Value) any {
	earlier := h.shifts(h.session.Previewing())
	h.session.Cancel()
	return h.previewed(nil, earlier)
}

// shift is something that a preview has touched; only is set for a shot of which
// nothing but its place in screen time has changed.
type shift struct {
	key  [2]string
	only bool
}

func (h *host) shifts(t *edit.Trial) []shift {
	if t == nil {
		return nil
	}
	out := make([]shift, 0, len(t.Touched()))
	for _, key := range t.Touched() {
		s := shift{key: key}
		if was, ok := t.Before(key[0], key[1]).(scene.Shot); ok {
			now, there := h.session.Doc.Shots[key[1]]
			was.ScreenIn, was.ScreenOut = now.ScreenIn, now.ScreenOut
			s.only = there && was == now
		}
		out = append(out, s)
	}
	return out
}

// previewed tells what the preview in effect has changed, and what one before it
// had changed and was taken back.
func (h *host) previewed(err error, earlier []shift) any {
	out := previewed{Changed: []entityNow{}}
	if err != nil {
		out.Error = err.Error()
	}
	trial := h.session.Previewing()
	now := h.shifts(trial)
	whole := map[[2]string]bool{}
	for _, s := range slices.Concat(now, earlier) {
		if !s.only {
			whole[s.key] = true
		}
	}
	tell := func(key [2]string) {
		if whole[key] {
			out.Changed = append(out.Changed, entityNow{key[0], key[1], h.session.Doc.Table(key[0]).Get(key[1])})
			return
		}
		shot := h.session.Doc.Shots[key[1]]
		out.Moved = append(out.Moved, key[1])
		out.Frames = append(out.Frames, shot.ScreenIn, shot.ScreenOut)
	}
	for _, s := range now {
		tell(s.key)
	}
	for _, s := range earlier {
		if !trial.Touches(s.key) {
			tell(s.key)
		}
	}
	return reply(out)
}

func (h *host) patched(args []js.Value, turn func(edit.Patch) edit.Patch) any {
	var p edit.Patch
	if err := json.Unmarshal([]byte(args[0].String()), &p); err != nil {
		return failed(err)
	}
	p = turn(p)
	before := h.session.Previewing()
	err := h.session.Apply(p)
	return h.outcome(edit.Result{Patch: p}, err, before)
}

func (h *host) apply(args []js.Value) any {
	return h.patched(args, func(p edit.Patch) edit.Patch { return p })
}

func (h *host) revert(args []js.Value) any { return h.patched(args, edit.Patch.Inverse) }

func (h *host) stacks(args []js.Value) any {
	var entries []edit.Entry
	if err := json.Unmarshal([]byte(args[0].String()), &entries); err != nil {
		return failed(err)
	}
	undo, redo := edit.Stacks(entries)
	return reply(map[string]any{"undo": undo, "redo": redo})
}

func (h *host) document([]js.Value) any { return string(h.session.Doc.Encode()) }

func (h *host) structure([]js.Value) any {
	m := h.session.Motion
	type instance struct {
		Node int `json:"node"`
		Mesh int `json:"mesh"`
		Skin int `json:"skin"`
	}
	type shown struct {
		Node   int      `json:"node"`
		Hidden bool     `json:"hidden"`
		Only   []string `json:"only"`
	}
	out := struct {
		Version   int        `json:"version"`
		Nodes     []string   `json:"nodes"`
		Instances []instance `json:"instances"`
		Meshes    []string   `json:"meshes"`
		Cameras   []string   `json:"cameras"`
		Lamps     []string   `json:"lamps"`
		Aspect    float64    `json:"aspect"`
		Shooting  []shown    `json:"shooting"`
	}{Shooting: []shown{}, Version: m.Structure, Nodes: []string{}, Instances: []instance{}, Meshes: []string{}, Cameras: []string{}, Lamps: []string{}}
	out.Aspect = h.session.Doc.Formats[h.session.Doc.Settings.Format].Aspect()
	for i, n := range m.Nodes {
		out.Nodes = append(out.Nodes, n.ID)
		if k := n.Shooting; k != nil {
			out.Shooting = append(out.Shooting, shown{i, k.Hidden, append([]string{}, k.Only...)})
		}
	}
	for _, i := range m.Instances {
		out.Instances = append(out.Instances, instance{i.Node, i.Mesh, i.Skin})
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
	return reply(out)
}

// typed copies numbers into a new typed array of JavaScript.
func typed[T float32 | uint32](kind string, v []T) js.Value {
	bytes := js.Global().Get("Uint8Array").New(len(v) * 4)
	if len(v) > 0 {
		js.CopyBytesToJS(bytes, unsafe.Slice((*byte)(unsafe.Pointer(&v[0])), len(v)*4))
	}
	return js.Global().Get(kind).New(bytes.Get("buffer"))
}

func (h *host) mesh(args []js.Value) any {
	m := h.session.Motion.Meshes[args[0].Int()].Mesh
	out := js.Global().Get("Object").New()
	out.Set("positions", typed("Float32Array", m.Positions))
	out.Set("normals", typed("Float32Array", m.Normals))
	out.Set("colors", typed("Float32Array", m.Colors))
	out.Set("indices", typed("Uint32Array", m.Indices))
	out.Set("uvs", typed("Float32Array", m.UVs))
	if m.Texture != nil {
		out.Set("width", m.Texture.Width)
		out.Set("height", m.Texture.Height)
	}
	return out
}

// texture returns the pixels of a mesh's texture, row by row from the top.
func (h *host) texture(args []js.Value) any {
	pix := h.session.Motion.Meshes[args[0].Int()].Mesh.Texture.Pixels()
	out := js.Global().Get("Uint8Array").New(len(pix))
	js.CopyBytesToJS(out, pix)
	return out
}

// bent copies the positions and normals of a mesh that bends, at the evaluated
// frame, into two typed arrays.
func (h *host) bent(args []js.Value) any {
	m := h.session.State.Bent[args[0].Int()]
	copyTo(args[1], m.Positions)
	copyTo(args[2], m.Normals)
	return nil
}

// missing lists the blobs of imported models that have not been provided.
func (h *host) missing([]js.Value) any {
	return reply(append([]string{}, h.session.Motion.Missing(h.session.Doc)...))
}

// provide takes the bundle of an imported model: its blob and its bytes.
func (h *host) provide(args []js.Value) any {
	b, err := kit.DecodeBundle(bytesOf(args[1]))
	if err != nil {
		return failed(err)
	}
	h.session.Provide(args[0].String(), b)
	return reply(map[string]any{})
}

func bytesOf(v js.Value) []byte {
	out := make([]byte, v.Get("length").Int())
	js.CopyBytesToGo(out, v)
	return out
}

// modelPicture returns the pixels of a portrait of an imported model from its
// bundle's bytes; with a person beside it for its size.
func (h *host) modelPicture(args []js.Value) any {
	b, err := kit.DecodeBundle(bytesOf(args[0]))
	if err != nil {
		return failed(err)
	}
	im, err := portrait.Model(b, args[3].Bool(), args[1].Int(), args[2].Int())
	if err != nil {
		return failed(err)
	}
	return pixels(im)
}

func pixels(im *image.RGBA) js.Value {
	out := js.Global().Get("Uint8ClampedArray").New(len(im.Pix))
	js.CopyBytesToJS(out, im.Pix)
	return out
}

func columns(m *geom.Mat4) (out [16]float64) {
	for i := range 16 {
		out[i] = m[i%4*4+i/4]
	}
	return out
}

// Numbers for each camera after its matrix, and for each lamp.
const (
	cameraFloats = 16 + 14
	lampFloats   = 12
	lookFloats   = 3*5 + 3 + 16 + 1
)

// evaluate fills the typed arrays instances, nodes, cameras, lamps and look of
// its second argument with the scene at a story frame. Matrices are column by
// column.
func (h *host) evaluate(args []js.Value) any {
	s := h.session
	st := s.Evaluate(args[0].Float())
	matrices := func(name string, in []geom.Mat4) {
		b := h.buffer(name, len(in)*16)
		for i := range in {
			for k := range 16 {
				b[i*16+k] = float32(in[i][k%4*4+k/4])
			}
		}
		copyTo(args[1].Get(name), b)
	}
	matrices("instances", st.Instances)
	matrices("nodes", st.Worlds)
	b := h.buffer("cameras", len(st.Cameras)*cameraFloats)
	for i := range st.Cameras {
		flatten(&st.Cameras[i], b[i*cameraFloats:(i+1)*cameraFloats])
	}
	copyTo(args[1].Get("cameras"), b)
	b = h.buffer("lamps", len(st.Lamps)*lampFloats)
	for i, l := range st.Lamps {
		for k, v := range [...]float64{l.At.X, l.At.Y, l.At.Z, l.Color[0], l.Color[1], l.Color[2], l.Reach, l.Dir.X, l.Dir.Y, l.Dir.Z, l.Outer, l.Inner} {
			b[i*lampFloats+k] = float32(v)
		}
	}
	copyTo(args[1].Get("lamps"), b)
	l, shadow := &st.Look, columns(&st.Look.Shadow)
	b = h.buffer("look", lookFloats)[:0]
	for _, v := range [...][3]float64{l.Sun, {l.SunDir.X, l.SunDir.Y, l.SunDir.Z}, l.Zenith, l.Horizon, l.Ground, {l.Haze, l.HazeRise, l.HazeBase}} {
		b = append(b, float32(v[0]), float32(v[1]), float32(v[2]))
	}
	for _, v := range shadow {
		b = append(b, float32(v))
	}
	copyTo(args[1].Get("look"), append(b, float32(l.ShadowPx)))
	return nil
}

// flatten writes a camera as the numbers that the browser reads.
func flatten(c *motion.CameraState, to []float32) {
	for k := range 16 {
		to[k] = float32(c.World[k%4*4+k/4])
	}
	for k, v := range [...]float64{c.Pan, c.Tilt, c.Roll, c.Focal, c.Squeeze, c.Stop, c.Focus, c.Gate.Width, c.Gate.Height, c.HFov, c.VFov, c.Shift[0], c.Shift[1], c.Spread()} {
		to[16+k] = float32(v)
	}
}

func (h *host) buffer(name string, n int) []float32 {
	if cap(h.floats[name]) < n {
		h.floats[name] = make([]float32, n)
	}
	return h.floats[name][:n]
}

// copyTo copies numbers into a Uint8Array over the memory of a Float32Array.
func copyTo(bytes js.Value, v []float32) {
	if len(v) > 0 {
		js.CopyBytesToJS(bytes, unsafe.Slice((*byte)(unsafe.Pointer(&v[0])), len(v)*4))
	}
}

func (h *host) path(args []js.Value) any {
	var p scene.Path
	if err := json.Unmarshal([]byte(args[0].String()), &p); err != nil {
		return failed(err)
	}
	line, err := h.session.SamplePath(p.Form, p.Points, p.Closed, args[1].String())
	if err != nil {
		return failed(err)
	}
	flat := func(in []r3.Vec) []float64 {
		out := make([]float64, 0, len(in)*3)
		for _, v := range in {
			out = append(out, v.X, v.Y, v.Z)
		}
		return out
	}
	return reply(map[string]any{"points": flat(line.Points), "ticks": flat(line.Ticks), "length": line.Length})
}

// trail returns x, z and pan of a camera at moments before a frame.
func (h *host) trail(args []js.Value) any {
	h.past = h.session.Trail(args[0].String(), args[1].Float(), args[2].Float(), args[3].Int(), h.past)
	out := make([]float32, 0, 3*len(h.past))
	for i := range h.past {
		c := &h.past[i]
		out = append(out, float32(c.World[3]), float32(c.World[11]), float32(c.Pan))
	}
	return typed("Float32Array", out)
}

func (h *host) timecode(args []js.Value) any {
	return h.session.Doc.Settings.Rate.Timecode(int(math.Floor(args[0].Float())), false)
}

func (h *host) parseTimecode(args []js.Value) any {
	f, err := h.session.Doc.Settings.Rate.ParseTimecode(args[0].String())
	if err != nil {
		return failed(err)
	}
	return reply(map[string]any{"frame": f})
}

func (h *host) stock([]js.Value) any {
	gestures := slices.DeleteFunc(slices.Clone(scene.Deeds), func(d scene.Deed) bool { return !d.Gesture() })
	return reply(map[string]any{"pieces": kit.Shelf, "deeds": scene.Deeds, "gestures": gestures, "builds": kit.Builds})
}

// picture returns the pixels of a portrait as RGBA: of a stand-in, or of a
// mannequin for "cast " and a build.
func (h *host) picture(args []js.Value) any {
	id, width, height := args[0].String(), args[1].Int(), args[2].Int()
	var im *image.RGBA
	var err error
	if build, cast := strings.CutPrefix(id, "cast "); cast {
		im, err = portrait.Person(kit.Figure{Height: 1.74, Build: build, Coat: "#5c7a8a", Legs: "#39424e"}, width, height)
	} else {
		im, err = portrait.Stock(id, width, height)
	}
	if err != nil {
		return failed(err)
	}
	return pixels(im)
}

// sunAt returns where the sun stands by a clock, as heading and height.
func (h *host) sunAt(args []js.Value) any {
	var c scene.SunClock
	if err := json.Unmarshal([]byte(args[0].String()), &c); err != nil {
		return failed(err)
	}
	heading, height := session.SunAt(c)
	return reply([2]float64{heading, height})
}

func (h *host) handles(args []js.Value) any {
	out := h.session.Handles(args[0].String())
	if out == nil {
		out = []session.HandleNow{}
	}
	return reply(out)
}

func names(v js.Value) (out []string) {
	_ = json.Unmarshal([]byte(v.String()), &out)
	return out
}

func vec(v js.Value) (out r3.Vec) {
	return r3.Vec{X: v.Index(0).Float(), Y: v.Index(1).Float(), Z: v.Index(2).Float()}
}

// strike returns what a ray meets at the evaluated frame, or null: arguments are
// its start, its direction and the nodes to leave out.
func (h *host) strike(args []js.Value) any {
	hit, ok := h.session.Strike(geom.Ray{From: vec(args[0]), Dir: vec(args[1])}, names(args[2]))
	if !ok {
		return "null"
	}
	return reply(map[string]any{
		"node": h.session.Motion.Nodes[hit.Node].ID, "at": scene.FromR3(hit.At), "normal": scene.FromR3(hit.Normal), "distance": hit.Distance,
	})
}

// ground returns the height of what one walks on at a place of the plan, or null.
func (h *host) ground(args []js.Value) any {
	if y, ok := h.session.Ground(args[0].Float(), args[1].Float(), args[2].String()); ok {
		return y
	}
	return nil
}

// extent returns the box of nodes in the world, or null.
func (h *host) extent(args []js.Value) any {
	b := h.session.Extent(names(args[0]))
	if b.Empty() {
		return "null"
	}
	return reply(map[string]any{"min": scene.FromR3(b.Min), "max": scene.FromR3(b.Max)})
}

// snap returns a way changed to line up with what stands near, and the hints.
func (h *host) snap(args []js.Value) any {
	by, hints := h.session.Snap(names(args[0]), vec(args[1]), args[2].Float(), args[3].Float())
	if hints == nil {
		hints = []session.Hint{}
	}
	return reply(map[string]any{"by": scene.FromR3(by), "hints": hints})
}

// way returns length, seconds and mean speed of an action, or of a node's travel.
func (h *host) way(args []js.Value) any {
	if args[0].String() == "actions" {
		return reply(h.session.ActionWay(args[1].String()))
	}
	return reply(h.session.TravelWay(args[1].String()))
}

// trade returns what the trade offers: sensors, squeezes, stops, sizes of shots
// and angles.
func (h *host) trade([]js.Value) any {
	return reply(map[string]any{
		"sensors": optics.Sensors, "squeezes": optics.Squeezes, "stops": optics.Stops,
		"sizes": compose.Sizes, "angles": compose.Angles,
	})
}

// compose returns where a camera stands for a picture.
func (h *host) compose(args []js.Value) any {
	var w session.ComposeWish
	if err := json.Unmarshal([]byte(args[0].String()), &w); err != nil {
		return failed(err)
	}
	c, err := h.session.Compose(w)
	if err != nil {
		return failed(err)
	}
	return reply(c)
}

// suggest returns several places for a picture.
func (h *host) suggest(args []js.Value) any {
	var w session.ComposeWish
	if err := json.Unmarshal([]byte(args[0].String()), &w); err != nil {
		return failed(err)
	}
	all, err := h.session.Suggest(w, args[1].Int())
	if err != nil {
		return failed(err)
	}
	return reply(map[string]any{"all": all})
}

// framing returns how a camera frames subjects at the evaluated frame.
func (h *host) framing(args []js.Value) any {
	return reply(h.session.Framing(args[0].String(), names(args[1])))
}

// ribbon returns the states of subjects in a camera's picture over story time:
// arguments are the camera, the subjects, the first frame, the step and a count.
func (h *host) ribbon(args []js.Value) any {
	b := h.session.Ribbon(args[0].String(), names(args[1]), args[2].Float(), args[3].Float(), args[4].Int())
	out := js.Global().Get("Uint8Array").New(len(b))
	js.CopyBytesToJS(out, b)
	return out
}

// numbers returns what a crew asks about a camera, or null.
func (h *host) numbers(args []js.Value) any {
	n, ok := h.session.Numbers(args[0].String())
	if !ok {
		return "null"
	}
	return reply(n)
}

// overshoots lists where the channels of a node pass beyond their keys.
func (h *host) overshoots(args []js.Value) any {
	return reply(h.session.Overshoots(args[0].String()))
}

// sharpZone returns near, far and hyperfocal distance in metres for a focal
// length, stop, focus distance and sensor; far is −1 when it has no end.
func (h *host) sharpZone(args []js.Value) any {
	d := optics.DepthOfField(args[0].Float(), args[1].Float(), args[2].Float(), optics.CircleOfConfusion(args[3].Float(), args[4].Float()))
	if math.IsInf(d.Far, 1) {
		d.Far = -1
	}
	return reply(map[string]any{"near": d.Near, "far": d.Far, "hyperfocal": d.Hyperfocal})
}

// curve samples a channel for drawing: values at n+1 frames from a to b.
func (h *host) curve(args []js.Value) any {
	var keys []curve.Key
	if err := json.Unmarshal([]byte(args[0].String()), &keys); err != nil {
		return failed(err)
	}
	c := curve.NewChannel(keys)
	a, b, n := args[1].Float(), args[2].Float(), args[3].Int()
	out := make([]float32, n+1)
	for i := range out {
		out[i] = float32(c.At(a + (b-a)*float64(i)/float64(n)))
	}
	return typed("Float32Array", out)
}

// aimAngles returns pan and tilt in degrees that look along a direction.
func (h *host) aimAngles(args []js.Value) any {
	p, t := geom.Toward(r3.Vec{X: args[0].Float(), Y: args[1].Float(), Z: args[2].Float()})
	return reply([2]float64{p, t})
}
