//go:build js && wasm

package main

import (
	"image"
	"syscall/js"
	"unsafe"

	"proscen/core/ambient"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/motion"
	"proscen/core/portrait"
	"proscen/core/questions"

	"gonum.org/v1/gonum/spatial/r3"
)

// typed copies numbers into a new typed array of JavaScript.
func typed[T float32 | uint32](kind string, v []T) js.Value {
	bytes := js.Global().Get("Uint8Array").New(len(v) * 4)
	if len(v) > 0 {
		js.CopyBytesToJS(bytes, unsafe.Slice((*byte)(unsafe.Pointer(&v[0])), len(v)*4))
	}
	return js.Global().Get(kind).New(bytes.Get("buffer"))
}

func (h *host) mesh(args []js.Value) any {
	m := h.Session().Motion.Meshes[args[0].Int()].Mesh
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
	if m.Clear() {
		s := &m.Sheer
		out.Set("sheer", map[string]any{"cut": s.Cut, "blend": s.Blend, "through": s.Through, "casts": s.Casts()})
	}
	return out
}

// texture returns the pixels of a mesh's texture, row by row from the top.
func (h *host) texture(args []js.Value) any {
	pix := h.Session().Motion.Meshes[args[0].Int()].Mesh.Texture.Pixels()
	out := js.Global().Get("Uint8Array").New(len(pix))
	js.CopyBytesToJS(out, pix)
	return out
}

// bent copies the positions and normals of a mesh that bends, at the evaluated
// frame, into two typed arrays.
func (h *host) bent(args []js.Value) any {
	m := h.Session().State.Bent[args[0].Int()]
	copyTo(args[1], m.Positions)
	copyTo(args[2], m.Normals)
	return nil
}

// dyed copies the colours of a mesh whose colour has keys, at the evaluated frame, into a
// typed array.
func (h *host) dyed(args []js.Value) any {
	copyTo(args[1], h.Session().State.Dyed[args[0].Int()].Colors)
	return nil
}

// around tells how crowded places are at the evaluated frame: its version, the box's least
// corner and the size of a cell in metres. The bytes are copied into a typed array, one for
// each cell, when that has another version.
func (h *host) around(args []js.Value) any {
	f := h.Session().Around()
	if f.Version != args[0].Int() && len(f.Bytes) > 0 {
		js.CopyBytesToJS(args[1], f.Bytes)
	}
	out := js.Global().Get("Float64Array").New(5)
	for i, v := range [...]float64{float64(f.Version), f.From.X, f.From.Y, f.From.Z, f.Cell} {
		out.SetIndex(i, v)
	}
	return out
}

// crowding tells the numbers of cells and how a view is to look them up.
func (h *host) crowding([]js.Value) any {
	out := js.Global().Get("Object").New()
	out.Set("wide", ambient.Wide)
	out.Set("high", ambient.High)
	for name, v := range map[string]float64{"layers": ambient.Layers, "step": ambient.Step, "free": ambient.Free, "gain": ambient.Gain, "most": ambient.Most} {
		out.Set(name, v)
	}
	return out
}

// provide takes the bundle of an imported model: its blob and its bytes.
func (h *host) provide(args []js.Value) any {
	b, err := kit.DecodeBundle(bytesOf(args[1]))
	if err != nil {
		return failed(err)
	}
	h.Provide(args[0].String(), b)
	return reply(struct{}{}, nil)
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
	lampFloats   = 16
	lookFloats   = 3*5 + 3 + 16 + 1 + 3
)

// evaluate fills the typed arrays instances, nodes, cameras, lamps and look of
// its second argument with the scene at a story frame. Matrices are column by
// column.
func (h *host) evaluate(args []js.Value) any {
	s := h.Session()
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
		right, tan := r3.Vec{}, -1.
		if lamp := questions.Lamp(&l); lamp.Shadow > 0 {
			tan = 0
			if faces := lamp.Faces(); len(faces) == 1 {
				right, tan = faces[0].Right, faces[0].Tan
			}
		}
		for k, v := range [lampFloats]float64{l.At.X, l.At.Y, l.At.Z, l.Color[0], l.Color[1], l.Color[2], l.Reach, l.Dir.X, l.Dir.Y, l.Dir.Z, l.Outer, l.Inner, right.X, right.Y, right.Z, tan} {
			b[i*lampFloats+k] = float32(v)
		}
	}
	copyTo(args[1].Get("lamps"), b)
	copyTo(args[1].Get("look"), lookNumbers(&st.Look, h.buffer("look", lookFloats)))
	return nil
}

// lampFaces returns the matrices of a lamp's shadow maps at the evaluated frame, one or six of
// them, as raster.Face.Matrix makes them, column by column.
func (h *host) lampFaces(args []js.Value) any {
	lamp := questions.Lamp(&h.Session().State.Lamps[args[0].Int()])
	var b []float32
	for _, f := range lamp.Faces() {
		m := f.Matrix(lamp.At)
		for _, v := range columns(&m) {
			b = append(b, float32(v))
		}
	}
	return typed("Float32Array", b)
}

// lightIn returns the light of a shot that has one of its own at the evaluated frame, or
// null.
func (h *host) lightIn(args []js.Value) any {
	s, shot := h.Session(), args[0].String()
	if x, ok := s.Doc.Shots[shot]; !ok || !x.Lit() {
		return nil
	}
	l := s.LookIn(shot)
	return typed("Float32Array", lookNumbers(&l, make([]float32, lookFloats)))
}

// lookNumbers writes a light as the numbers that the browser reads.
func lookNumbers(l *motion.Look, b []float32) []float32 {
	shadow := columns(&l.Shadow)
	b = b[:0]
	for _, v := range [...][3]float64{l.Sun, {l.SunDir.X, l.SunDir.Y, l.SunDir.Z}, l.Zenith, l.Horizon, l.Ground, {l.Haze, l.HazeRise, l.HazeBase}} {
		b = append(b, float32(v[0]), float32(v[1]), float32(v[2]))
	}
	for _, v := range shadow {
		b = append(b, float32(v))
	}
	return append(b, float32(l.ShadowPx), float32(l.Gain[0]), float32(l.Gain[1]), float32(l.Gain[2]))
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
