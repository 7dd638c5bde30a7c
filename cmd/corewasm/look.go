//go:build js && wasm

package main

import (
	"encoding/json"
	"image"
	"math"
	"slices"
	"strings"
	"syscall/js"

	"proscen/core/assembly"
	"proscen/core/clip"
	"proscen/core/compose"
	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/optics"
	"proscen/core/portrait"
	"proscen/core/questions"
	"proscen/core/scene"
	"proscen/core/timing"

	"gonum.org/v1/gonum/spatial/r3"
)

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
	return h.session.Doc.Settings.Timecode(scene.Clock(args[0].String()), int(math.Floor(args[1].Float())))
}

// offered returns the rates and the picture shapes that a scene is offered.
func (h *host) offered([]js.Value) any {
	var rates []string
	for _, r := range timing.Usual {
		rates = append(rates, r.String())
	}
	return reply(map[string]any{"rates": rates, "shapes": scene.Shapes})
}

// atRate reads a rate as it is typed, and says what the scene would be with it: whether
// it has drop-frame, and how many frames its story would have with seconds kept.
func (h *host) atRate(args []js.Value) any {
	to, err := timing.ReadRate(args[0].String())
	if err != nil {
		return failed(err)
	}
	s := &h.session.Doc.Settings
	return reply(map[string]any{"rate": to.String(), "drops": to.CanDrop(), "frames": assembly.StoryAtRate(s, to).Count()})
}

// clip copies a selection as it looks at a frame of story time.
func (h *host) clip(args []js.Value) any {
	var sel clip.Selection
	if err := json.Unmarshal([]byte(args[0].String()), &sel); err != nil {
		return failed(err)
	}
	doc, err := h.session.Clip(sel, args[1].Float())
	if err != nil {
		return failed(err)
	}
	return reply(map[string]any{"clip": doc})
}

// unused lists what nothing uses, with what it is called.
func (h *host) unused([]js.Value) any {
	type named struct {
		scene.Thing
		Name string `json:"name"`
	}
	out := []named{}
	for _, t := range h.session.Doc.Unused() {
		out = append(out, named{t, h.session.Doc.Called(t.Collection, t.ID)})
	}
	return reply(out)
}

func (h *host) parseTimecode(args []js.Value) any {
	f, err := h.session.Doc.Settings.ParseTimecode(scene.Clock(args[0].String()), args[1].String())
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
	heading, height := questions.SunAt(c)
	return reply([2]float64{heading, height})
}

func (h *host) handles(args []js.Value) any {
	out := h.session.Handles(args[0].String())
	if out == nil {
		out = []questions.HandleNow{}
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
		hints = []questions.Hint{}
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
	var w questions.ComposeWish
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
	var w questions.ComposeWish
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
