//go:build js && wasm

package main

import (
	"encoding/json"
	"errors"
	"image"
	"strings"
	"syscall/js"

	"proscen/core/card"
	"proscen/core/curve"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/portrait"
	"proscen/core/program"
	"proscen/core/scene"
)

// seen returns the numbers of the camera through which a shot on air is seen.
func (h *host) seen(args []js.Value) any {
	var p program.Playing
	if err := json.Unmarshal([]byte(args[0].String()), &p); err != nil {
		return failed(err)
	}
	return numbers(h.Session().View(&p))
}

// inFormat returns the numbers of a camera as it makes the picture of a format:
// arguments are the format, the shot or "", the camera and the frame.
func (h *host) inFormat(args []js.Value) any {
	return numbers(h.Session().InFormat(args[0].String(), args[1].String(), args[2].String(), args[3].Float()))
}

func numbers(view *motion.CameraState) any {
	if view == nil {
		return failed(errors.New("the camera is not there any more"))
	}
	out := make([]float32, cameraFloats)
	flatten(view, out)
	return typed("Float32Array", out)
}

// trail returns x, z and pan of a camera at moments before a frame.
func (h *host) trail(args []js.Value) any {
	return typed("Float32Array", h.Trail(args[0].String(), args[1].Float(), args[2].Float(), args[3].Int()))
}

// ribbon returns the states of subjects in a camera's picture over story time:
// arguments are the camera, the subjects, the first frame, the step and a count. Without a
// camera they are those of the cut over screen time.
func (h *host) ribbon(args []js.Value) any {
	subjects, from, step, count := names(args[1]), args[2].Float(), args[3].Float(), args[4].Int()
	var b []byte
	if camera := args[0].String(); camera != "" {
		b = h.Session().Ribbon(camera, subjects, from, step, count)
	} else {
		b = h.Session().AirRibbon(subjects, from, step, count)
	}
	out := js.Global().Get("Uint8Array").New(len(b))
	js.CopyBytesToJS(out, b)
	return out
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

// picture returns the pixels of a portrait as RGBA: of a stand-in, or of a
// mannequin for "cast " and a build.
func (h *host) picture(args []js.Value) any {
	id, width, height := args[0].String(), args[1].Int(), args[2].Int()
	var im *image.RGBA
	var err error
	if build, cast := strings.CutPrefix(id, "cast "); cast {
		im, err = portrait.Person(kit.Figure{Height: kit.UsualHeight(build), Build: build, Coat: "#5c7a8a", Legs: "#39424e"}, width, height)
	} else {
		im, err = portrait.Stock(id, width, height)
	}
	if err != nil {
		return failed(err)
	}
	return pixels(im)
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

func names(v js.Value) (out []string) {
	_ = json.Unmarshal([]byte(v.String()), &out)
	return out
}
