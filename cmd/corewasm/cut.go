//go:build js && wasm

package main

import (
	"encoding/json"
	"errors"
	"image"
	"syscall/js"

	"proscen/core/assembly"
	"proscen/core/card"
	"proscen/core/interchange"
	"proscen/core/program"
	"proscen/core/scene"
)

// onAir returns what is on air at a screen frame.
func (h *host) onAir(args []js.Value) any { return reply(h.session.OnAir(args[0].Float())) }

// airOf returns what another assembly shows at a screen frame.
func (h *host) airOf(args []js.Value) any {
	var a program.Air
	h.session.ProgramOf(args[0].String()).At(args[1].Float(), &a)
	return reply(&a)
}

// choose selects the assembly that is edited and played.
func (h *host) choose(args []js.Value) any {
	if err := h.session.ChooseAssembly(args[0].String()); err != nil {
		return failed(err)
	}
	return reply(map[string]any{})
}

// screenAt returns the screen frame that shows a story frame, or −1.
func (h *host) screenAt(args []js.Value) any {
	if at, ok := h.session.Program().ScreenAt(args[0].Float(), args[1].Float()); ok {
		return at
	}
	return -1
}

type cutShot struct {
	ID string `json:"id"`
	// Cue is the shot that stands for a cue, which is not in the document.
	Cue *scene.Shot `json:"cue,omitempty"`
}

type cutLane struct {
	ID    string    `json:"id"`
	Shots []cutShot `json:"shots"`
}

// cut returns what plays and the spare lanes, shots in order of screen time. Of
// an order that the caller knows by its version, only the length is told again.
func (h *host) cut(args []js.Value) any {
	s := h.session
	id := s.Assembly()
	version := s.Order()
	if version == args[0].Int() {
		return reply(map[string]any{"version": version, "length": s.Program().Length()})
	}
	list := func(shots []program.Entry, cues bool) []cutShot {
		out := make([]cutShot, 0, len(shots))
		for i := range shots {
			c := cutShot{ID: shots[i].ID}
			if cues {
				c.Cue = &shots[i].Shot
			}
			out = append(out, c)
		}
		return out
	}
	spares := []cutLane{}
	for _, lane := range program.SpareLanes(s.Doc, id) {
		spares = append(spares, cutLane{lane, list(program.Shots(s.Doc, lane), false)})
	}
	return reply(map[string]any{
		"version": version, "shots": list(s.Program().Shots(), s.Doc.Assemblies[id].Cues != ""), "length": s.Program().Length(), "assembly": id,
		"lane": program.MainLane(s.Doc, id), "spares": spares,
	})
}

// between returns the numbers of a camera on its way between two others.
func (h *host) between(args []js.Value) any {
	var b program.Between
	if err := json.Unmarshal([]byte(args[0].String()), &b); err != nil {
		return failed(err)
	}
	view := h.session.Between(b)
	if view == nil {
		return failed(errors.New("a camera of the travel is not there any more"))
	}
	out := make([]float32, cameraFloats)
	flatten(view, out)
	return typed("Float32Array", out)
}

func (h *host) rhythm(args []js.Value) any {
	id := args[0].String()
	return reply(program.Measure(h.session.ProgramOf(id), h.session.Doc.Assemblies[id]))
}

func (h *host) differences(args []js.Value) any {
	return reply(program.Differences(h.session.Doc, args[0].String(), args[1].String()))
}

// joinLack returns what a join into a shot lacks, or null where there is no seam.
func (h *host) joinLack(args []js.Value) any {
	k, ok := assembly.JoinLack(h.session.Doc, args[0].String(), scene.JoinKind(args[1].String()), args[2].Int(), args[3].String())
	if !ok {
		return "null"
	}
	return reply(k)
}

// schedule lists what is heard of a range while a clock plays; pieces shorter
// than a number of frames are gathered.
func (h *host) schedule(args []js.Value) any {
	s := h.session
	return reply(program.Schedule(s.Doc, s.Assembly(), s.Program(), scene.Clock(args[0].String()), args[1].Float(), args[2].Float(), args[3].Float()))
}

// lines lists the lines that the cut lets be heard in a range, and for at least
// a number of frames.
func (h *host) lines(args []js.Value) any {
	s := h.session
	return reply(program.Lines(s.Doc, s.Program(), args[0].Float(), args[1].Float(), args[2].Float()))
}

// uses lists the stretches of the story that the cut shows.
func (h *host) uses([]js.Value) any { return reply(h.session.Program().Uses()) }

// keysOf lists the screen frames at which the camera of a shot has keys.
func (h *host) keysOf(args []js.Value) any {
	var e scene.Shot
	if err := json.Unmarshal([]byte(args[0].String()), &e); err != nil {
		return failed(err)
	}
	return reply(append([]int{}, h.session.KeysOf(e)...))
}

// entrances lists the screen frames of a shot at which subjects come into its
// picture or go, between two of its frames.
func (h *host) entrances(args []js.Value) any {
	var e scene.Shot
	if err := json.Unmarshal([]byte(args[0].String()), &e); err != nil {
		return failed(err)
	}
	return reply(append([]int{}, h.session.Entrances(e, names(args[1]), args[2].Int(), args[3].Int())...))
}

// shotAt returns what a shot shows at a screen frame, or null.
func (h *host) shotAt(args []js.Value) any {
	p, ok := h.session.ShotAt(args[0].String(), args[1].Float())
	if !ok {
		return "null"
	}
	return reply(p)
}

// cardPicture returns the pixels of a card in a size, or of what is said where a
// picture is missing; a picture inside a card comes as its pixels, width and
// height.
func (h *host) cardPicture(args []js.Value) any {
	var of struct {
		scene.Card
		Say string `json:"say"`
	}
	if err := json.Unmarshal([]byte(args[0].String()), &of); err != nil {
		return failed(err)
	}
	c := of.Card
	if of.Say != "" {
		c = card.Missing(of.Say)
	}
	to := image.NewRGBA(image.Rect(0, 0, args[1].Int(), args[2].Int()))
	var inside image.Image
	if len(args) > 5 {
		inside = &image.NRGBA{Pix: bytesOf(args[3]), Stride: 4 * args[4].Int(), Rect: image.Rect(0, 0, args[4].Int(), args[5].Int())}
	}
	if err := card.Draw(to, c, inside); err != nil {
		return failed(err)
	}
	return pixels(to)
}

// formats lists the open formats for cuts and lines.
func (h *host) formats([]js.Value) any { return reply(interchange.CutFormats) }

// writeCut writes an assembly: arguments are its id, the format, a clock for
// lines and the addresses of deliveries by shot.
func (h *host) writeCut(args []js.Value) any {
	var deliveries map[string]string
	if err := json.Unmarshal([]byte(args[3].String()), &deliveries); err != nil {
		return failed(err)
	}
	w, err := interchange.WriteCut(h.session.Doc, args[0].String(), args[1].String(), scene.Clock(args[2].String()), deliveries)
	if err != nil {
		return failed(err)
	}
	return reply(map[string]any{"text": string(w.Data), "notes": append([]string{}, w.Notes...)})
}

// readCut reads a file that brings a cut or lines, as an operation.
func (h *host) readCut(args []js.Value) any {
	b, err := interchange.ReadCut(h.session.Doc, bytesOf(args[0]))
	if err != nil {
		return failed(err)
	}
	b.Notes = append([]string{}, b.Notes...)
	return reply(b)
}
