//go:build js && wasm

// Command corewasm is the browser's host of the core: it turns calls and typed
// arrays of JavaScript into calls of the session, and holds no rule of its own.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"runtime/debug"
	"syscall/js"

	"proscen/core/local"
	"proscen/core/motion"
	"proscen/core/scene"
	"proscen/core/session"

	"github.com/oklog/ulid/v2"
)

// host holds the open scene and the buffers that JavaScript reads.
type host struct {
	session *session.Session // what is seen: the scene, or a state of its history
	copy    *local.Copy      // the scene, as it is kept together with others
	live    *session.Session // the scene while a state of its history is seen, else nil
	opened  int              // counts sessions, so that what is laid out in one is told from the next
	floats  map[string][]float32
	past    []motion.CameraState
	moved   []string // shots that previewed has named last
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
		"open": h.open, "newID": h.newID, "stock": h.stock, "sharpZone": h.sharpZone, "curve": h.curve, "aimAngles": h.aimAngles,
		"picture": h.picture, "modelPicture": h.modelPicture, "sunAt": h.sunAt, "trade": h.trade, "cardPicture": h.cardPicture, "formats": h.formats,
	}, false)
	expose(map[string]func([]js.Value) any{
		"join": h.join, "run": h.run, "turn": h.turn, "next": h.next, "synced": h.stands, "receive": h.receive, "refused": h.refused, "pending": h.pending, "fetched": h.fetched, "guest": h.guest, "held": h.held,
		"look": h.look, "back": h.back, "restore": h.restore, "compare": h.compare,
		"preview": h.preview, "warm": h.warm, "cancel": h.cancel, "document": h.document,
		"structure": h.structure, "mesh": h.mesh, "evaluate": h.evaluate, "onAir": h.onAir, "screenAt": h.screenAt,
		"path": h.path, "trail": h.trail, "handles": h.handles, "strike": h.strike, "ground": h.ground, "extent": h.extent, "missing": h.missing, "provide": h.provide, "texture": h.texture, "bent": h.bent, "snap": h.snap, "way": h.way,
		"compose": h.compose, "suggest": h.suggest, "framing": h.framing, "ribbon": h.ribbon, "numbers": h.numbers, "overshoots": h.overshoots,
		"timecode": h.timecode, "offered": h.offered, "atRate": h.atRate, "clip": h.clip, "unused": h.unused, "parseTimecode": h.parseTimecode,
		"cut": h.cut, "choose": h.choose, "airOf": h.airOf, "between": h.between, "rhythm": h.rhythm, "differences": h.differences,
		"joinLack": h.joinLack, "schedule": h.schedule, "lines": h.lines, "uses": h.uses, "keysOf": h.keysOf, "entrances": h.entrances, "shotAt": h.shotAt,
		"writeCut": h.writeCut, "readCut": h.readCut,
	}, true)
	js.Global().Set("proscenCore", api)
	js.Global().Call("proscenCoreReady")
	select {}
}

func newID() string { return ulid.Make().String() }

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
	h.session, h.live = session.Open(doc, newID), nil
	h.copy = local.Join(h.session, 0, "", "", nil, newID)
	h.opened++
	return reply(map[string]any{"assembly": h.session.Assembly()})
}
