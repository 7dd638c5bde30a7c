//go:build js && wasm

// Command corewasm is the browser's host of the core: it hands JSON and typed arrays
// of JavaScript to the page of the core and back, and holds no rule of its own.
package main

import (
	"fmt"
	"runtime/debug"
	"syscall/js"

	"proscen/core/page"

	"github.com/oklog/ulid/v2"
)

// host holds the page and the buffers that JavaScript reads.
type host struct {
	*page.Page
	floats map[string][]float32
}

func main() {
	// There is one thread here: collecting less often keeps frames even.
	debug.SetGCPercent(300)
	h := &host{page.New(func() string { return ulid.Make().String() }), map[string][]float32{}}
	api := js.Global().Get("Object").New()
	for name, f := range map[string]func([]js.Value) any{
		"ask": h.ask,
		// Documents and files, which are too large to be looked through twice.
		"open": h.open, "look": h.look, "restore": h.restore, "compare": h.compare, "readCut": h.readCut, "provide": h.provide,
		// Numbers and pixels.
		"mesh": h.mesh, "texture": h.texture, "bent": h.bent, "dyed": h.dyed, "around": h.around, "lampFaces": h.lampFaces, "lightIn": h.lightIn, "crowding": h.crowding, "evaluate": h.evaluate, "seen": h.seen, "inFormat": h.inFormat,
		"trail": h.trail, "ribbon": h.ribbon, "curve": h.curve,
		"picture": h.picture, "modelPicture": h.modelPicture, "cardPicture": h.cardPicture,
	} {
		api.Set(name, js.FuncOf(func(_ js.Value, args []js.Value) any { return guarded(f, args) }))
	}
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

// reply returns an answer as JSON, or the error that came instead.
func reply(v any, err error) any {
	if err != nil {
		return failed(err)
	}
	return string(page.Reply(v))
}

func failed(err error) any { return string(page.Failed(err)) }

// ask performs a call of the page by its name, with arguments and answer as JSON.
func (h *host) ask(args []js.Value) any {
	return string(h.Answer(args[0].String(), []byte(args[1].String())))
}

func (h *host) open(args []js.Value) any { return reply(h.Open(bytesOf(args[0]))) }
func (h *host) look(args []js.Value) any { return reply(struct{}{}, h.Look(bytesOf(args[0]))) }
func (h *host) restore(args []js.Value) any {
	return reply(h.Restore(bytesOf(args[0]), args[1].String()))
}
func (h *host) readCut(args []js.Value) any { return reply(h.ReadCut(bytesOf(args[0]))) }

func (h *host) compare(args []js.Value) any {
	var second []byte
	if len(args) > 1 && args[1].Truthy() {
		second = bytesOf(args[1])
	}
	return reply(h.Compare(bytesOf(args[0]), second))
}
