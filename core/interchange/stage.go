package interchange

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/timing"
)

// Stage is a scene worked out frame by frame over [First, First+Count) of screen time:
// what stands in it and its cameras.
type Stage struct {
	Title        string
	Rate         timing.Rate
	First, Count int
	Things       []StageThing
	Cameras      []StageCamera
}

// StageThing is a mesh with where it is: one matrix when it never moves, or one for each
// frame of the stage.
type StageThing struct {
	Name   string
	Key    string // the same for the same mesh
	Mesh   *kit.Mesh
	Worlds []geom.Mat4
}

// StageCamera is a camera with what it is at each of its frames, the first of which is a
// frame of screen time.
type StageCamera struct {
	Name   string
	Shot   string // number; "" of the one that performs them all
	First  int
	Frames []StageLens
}

// StageLens is a camera at a frame. Story is the frame of the story, Focal, Width and
// Height of the part of the sensor that is used are in mm as for a lens without squeeze,
// Shift is that part's middle off the axis in mm, Focus in metres.
type StageLens struct {
	World           geom.Mat4
	Story           float64
	Pan, Tilt, Roll float64
	Focal           float64
	Width, Height   float64
	Shift           [2]float64
	Focus, Stop     float64
}

// StageFormats are the open formats for stages, as those for cuts.
var StageFormats = []CutFormat{
	{ID: "usda", Title: "Set and cameras as USD", Ending: ".usda", Media: "text/plain", Stage: true},
	{ID: "gltf", Title: "Set and cameras as glTF", Ending: ".gltf", Media: "model/gltf+json", Stage: true},
	{ID: "moves", Title: "Cameras frame by frame as CSV", Ending: ".csv", Media: "text/csv", Reads: true, Stage: true},
}

// StageFormat finds a format of stages by its id.
func StageFormat(id string) (CutFormat, bool) {
	i := slices.IndexFunc(StageFormats, func(f CutFormat) bool { return f.ID == id })
	if i < 0 {
		return CutFormat{}, false
	}
	return StageFormats[i], true
}

// WriteStage writes a stage in a format.
func WriteStage(s *Stage, format string, timecode func(screen int) string) (Written, error) {
	switch format {
	case "usda":
		return s.usd(), nil
	case "gltf":
		return s.gltf(), nil
	case "moves":
		return s.moves(timecode), nil
	}
	return Written{}, fmt.Errorf("the format %q is not written; choose usda, gltf or moves", clip(format))
}

// moves writes a line for each frame of each camera.
func (s *Stage) moves(timecode func(int) string) Written {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{
		"camera", "shot", "frame", "timecode", "story frame", "x", "y", "z", "pan", "tilt", "roll",
		"focal length", "aperture width", "aperture height", "shift x", "shift y", "focus", "stop",
	})
	for _, c := range s.Cameras {
		for i, f := range c.Frames {
			at := f.World.Origin()
			line := []string{Harmless(c.Name), Harmless(c.Shot), strconv.Itoa(c.First + i), timecode(c.First + i)}
			for _, v := range []float64{f.Story, at.X, at.Y, at.Z, f.Pan, f.Tilt, f.Roll, f.Focal, f.Width, f.Height, f.Shift[0], f.Shift[1], f.Focus, f.Stop} {
				line = append(line, round(v))
			}
			_ = w.Write(line)
		}
	}
	w.Flush()
	return Written{b.Bytes(), []string{"Metres, degrees (pan to the left, tilt up, the horizon clockwise) and millimetres; squeeze is taken out of the apertures."}}
}

// round writes a number with six digits behind the point at most.
func round(v float64) string {
	r := math.Round(v*1e6) / 1e6
	if r == 0 {
		r = 0 // no −0
	}
	return strconv.FormatFloat(r, 'f', -1, 64)
}

// identifiers makes names that USD takes, each once.
type identifiers map[string]bool

func (n identifiers) of(name string) string {
	id := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' {
			return r
		}
		return '_'
	}, name)
	if id == "" || id[0] >= '0' && id[0] <= '9' {
		id = "_" + id
	}
	free := id
	for i := 2; n[free]; i++ {
		free = fmt.Sprintf("%s_%d", id, i)
	}
	n[free] = true
	return free
}

// usd writes a stage as text of Universal Scene Description: metres, Y up. Lengths of
// lenses and sensors are tenths of a unit there (UsdGeomCamera), so of a metre.
func (s *Stage) usd() Written {
	var b bytes.Buffer
	p := func(format string, args ...any) { _, _ = fmt.Fprintf(&b, format, args...) }
	fps := round(s.Rate.PerSecond())
	p("#usda 1.0\n(\n    defaultPrim = \"World\"\n    metersPerUnit = 1\n    upAxis = \"Y\"\n    startTimeCode = %d\n    endTimeCode = %d\n    timeCodesPerSecond = %s\n    framesPerSecond = %s\n    doc = %s\n)\n\n",
		s.First, s.First+max(1, s.Count)-1, fps, fps, quoted(s.Title))
	names := identifiers{}
	shapes := map[string]string{}
	p("def Scope \"Shapes\" (\n    active = true\n)\n{\n    token visibility = \"invisible\"\n")
	for _, t := range s.Things {
		if shapes[t.Key] != "" {
			continue
		}
		id := names.of("shape_" + strconv.Itoa(len(shapes)+1))
		shapes[t.Key] = id
		m := t.Mesh
		p("    def Mesh \"%s\"\n    {\n        uniform token subdivisionScheme = \"none\"\n        uniform bool doubleSided = 1\n        int[] faceVertexCounts = [", id)
		for i := range len(m.Indices) / 3 {
			comma(&b, i)
			p("3")
		}
		p("]\n        int[] faceVertexIndices = [")
		for i, v := range m.Indices {
			comma(&b, i)
			p("%d", v)
		}
		p("]\n        point3f[] points = [")
		triples(&b, m.Positions, 3)
		p("]\n        normal3f[] normals = [")
		triples(&b, m.Normals, 3)
		p("] (\n            interpolation = \"vertex\"\n        )\n        color3f[] primvars:displayColor = [")
		triples(&b, m.Colors, colours(m))
		p("] (\n            interpolation = \"vertex\"\n        )\n    }\n")
	}
	p("}\n\ndef Xform \"World\"\n{\n")
	for _, t := range s.Things {
		p("    def Mesh \"%s\" (\n        prepend references = </Shapes/%s>\n    )\n    {\n        token visibility = \"inherited\"\n", names.of(t.Name), shapes[t.Key])
		s.transform(&b, s.First, t.Worlds)
		p("    }\n")
	}
	for _, c := range s.Cameras {
		p("    def Camera \"%s\"\n    {\n", names.of(c.Name))
		worlds := make([]geom.Mat4, len(c.Frames))
		samples := func(name string, of func(f *StageLens) float64) {
			p("        float %s.timeSamples = {\n", name)
			last := math.NaN()
			for i := range c.Frames {
				v := of(&c.Frames[i])
				if v != last || i == len(c.Frames)-1 {
					if i > 0 && v != last { // what it was until here
						p("            %d: %s,\n", c.First+i-1, round(last))
					}
					p("            %d: %s,\n", c.First+i, round(v))
				}
				last = v
			}
			p("        }\n")
		}
		for i := range c.Frames {
			worlds[i] = c.Frames[i].World
		}
		p("        float2 clippingRange = (0.05, 10000)\n")
		samples("focalLength", func(f *StageLens) float64 { return f.Focal / 100 })
		samples("horizontalAperture", func(f *StageLens) float64 { return f.Width / 100 })
		samples("verticalAperture", func(f *StageLens) float64 { return f.Height / 100 })
		samples("horizontalApertureOffset", func(f *StageLens) float64 { return f.Shift[0] / 100 })
		samples("verticalApertureOffset", func(f *StageLens) float64 { return f.Shift[1] / 100 })
		samples("focusDistance", func(f *StageLens) float64 { return f.Focus })
		samples("fStop", func(f *StageLens) float64 { return f.Stop })
		s.transform(&b, c.First, worlds)
		p("    }\n")
	}
	p("}\n")
	return Written{b.Bytes(), s.notes(true)}
}

// transform writes where something is: rows are columns in USD.
func (s *Stage) transform(b *bytes.Buffer, first int, worlds []geom.Mat4) {
	matrix := func(m *geom.Mat4) string {
		var rows [4]string
		for c := range 4 {
			rows[c] = fmt.Sprintf("(%s, %s, %s, %s)", round(m[c]), round(m[4+c]), round(m[8+c]), round(m[12+c]))
		}
		return "( " + strings.Join(rows[:], ", ") + " )"
	}
	if len(worlds) == 1 {
		_, _ = fmt.Fprintf(b, "        matrix4d xformOp:transform = %s\n", matrix(&worlds[0]))
	} else {
		_, _ = fmt.Fprintf(b, "        matrix4d xformOp:transform.timeSamples = {\n")
		for i := range worlds {
			_, _ = fmt.Fprintf(b, "            %d: %s,\n", first+i, matrix(&worlds[i]))
		}
		_, _ = fmt.Fprintf(b, "        }\n")
	}
	_, _ = fmt.Fprintf(b, "        uniform token[] xformOpOrder = [\"xformOp:transform\"]\n")
}

func comma(b *bytes.Buffer, i int) {
	if i > 0 {
		b.WriteString(", ")
	}
}

// triples writes the first three of each so many numbers.
func triples(b *bytes.Buffer, v []float32, each int) {
	for i := 0; i+2 < len(v); i += each {
		comma(b, i)
		_, _ = fmt.Fprintf(b, "(%s, %s, %s)", round(float64(v[i])), round(float64(v[i+1])), round(float64(v[i+2])))
	}
}

// colours is how many numbers a vertex's colour has.
func colours(m *kit.Mesh) int { return max(3, 3*len(m.Colors)/max(1, len(m.Positions))) }

func quoted(s string) string { return strconv.Quote(edlText(s, 200)) }

// notes says what the formats do not carry.
func (s *Stage) notes(lenses bool) []string {
	var said notes
	said.add("Light, haze, textures, keys of colours and what bends with a skeleton are left out; colours are those of the vertices.")
	if lenses {
		return said
	}
	for _, c := range s.Cameras {
		for i := range c.Frames {
			if c.Frames[i].Focal != c.Frames[0].Focal {
				said.add("glTF has one angle for a camera; where a lens zooms or changes, that of its first frame stands.")
			}
		}
		if len(c.Frames) > 0 && c.Frames[0].Shift != [2]float64{} {
			said.add("Shifted pictures are in the middle in glTF.")
		}
	}
	said.add("Focus and stop are not in glTF.")
	return said
}

// gltf writes a stage as glTF 2.0 with everything in one text. Times are seconds of
// screen time from the stage's first frame.
func (s *Stage) gltf() Written {
	w := gltfWriter{out: map[string]any{"asset": map[string]any{"version": "2.0", "generator": "Proscen"}, "scene": 0}}
	var nodes, meshes, cameras, channels, samplers []any
	var roots []int
	known := map[string]int{}
	animate := func(node int, first int, worlds []geom.Mat4, scales bool) {
		var times, at, turn, scale []float32
		for i := range worlds {
			p, q, k := geom.Placing(&worlds[i])
			times = append(times, float32(s.Rate.Seconds(float64(first+i-s.First))))
			at = append(at, float32(p.X), float32(p.Y), float32(p.Z))
			if n := len(turn); n > 0 && float64(turn[n-4])*q[0]+float64(turn[n-3])*q[1]+float64(turn[n-2])*q[2]+float64(turn[n-1])*q[3] < 0 {
				q = [4]float64{-q[0], -q[1], -q[2], -q[3]} // the shorter way
			}
			turn = append(turn, float32(q[0]), float32(q[1]), float32(q[2]), float32(q[3]))
			scale = append(scale, float32(k.X), float32(k.Y), float32(k.Z))
		}
		input := w.floats(times, 1, 0, true)
		track := func(path string, v []float32, each int) {
			channels = append(channels, map[string]any{"sampler": len(samplers), "target": map[string]any{"node": node, "path": path}})
			samplers = append(samplers, map[string]any{"input": input, "output": w.floats(v, each, 0, false), "interpolation": "LINEAR"})
		}
		track("translation", at, 3)
		track("rotation", turn, 4)
		if scales {
			track("scale", scale, 3)
		}
	}
	add := func(n map[string]any) int {
		nodes = append(nodes, n)
		roots = append(roots, len(nodes)-1)
		return len(nodes) - 1
	}
	for _, t := range s.Things {
		if len(t.Mesh.Indices) == 0 {
			continue
		}
		mesh, ok := known[t.Key]
		if !ok {
			mesh = len(meshes)
			known[t.Key] = mesh
			var colors []float32
			for i := 0; i+2 < len(t.Mesh.Colors); i += colours(t.Mesh) {
				colors = append(colors, t.Mesh.Colors[i:i+3]...)
			}
			attributes := map[string]any{"POSITION": w.floats(t.Mesh.Positions, 3, 34962, true), "NORMAL": w.floats(t.Mesh.Normals, 3, 34962, false)}
			if len(colors) == len(t.Mesh.Positions) {
				attributes["COLOR_0"] = w.floats(colors, 3, 34962, false)
			}
			meshes = append(meshes, map[string]any{"primitives": []any{map[string]any{"attributes": attributes, "indices": w.indices(t.Mesh.Indices), "material": 0}}})
		}
		n := map[string]any{"name": t.Name, "mesh": mesh}
		if len(t.Worlds) == 1 {
			m := &t.Worlds[0]
			var columns [16]float64
			for r := range 4 {
				for c := range 4 {
					columns[4*c+r] = m[4*r+c]
				}
			}
			if *m != geom.Identity {
				n["matrix"] = columns
			}
			add(n)
			continue
		}
		animate(add(n), s.First, t.Worlds, true)
	}
	for _, c := range s.Cameras {
		if len(c.Frames) == 0 {
			continue
		}
		f := c.Frames[0]
		cameras = append(cameras, map[string]any{"type": "perspective", "name": c.Name, "perspective": map[string]any{
			"yfov": 2 * math.Atan(f.Height/2/f.Focal), "aspectRatio": f.Width / f.Height, "znear": 0.05,
		}})
		worlds := make([]geom.Mat4, len(c.Frames))
		for i := range c.Frames {
			worlds[i] = c.Frames[i].World
		}
		p, q, _ := geom.Placing(&worlds[0])
		node := add(map[string]any{"name": c.Name, "camera": len(cameras) - 1, "translation": [3]float64{p.X, p.Y, p.Z}, "rotation": q})
		if len(worlds) > 1 {
			animate(node, c.First, worlds, false)
		}
	}
	put := func(name string, list []any) {
		if len(list) > 0 {
			w.out[name] = list
		}
	}
	put("nodes", nodes)
	put("meshes", meshes)
	put("cameras", cameras)
	if len(meshes) > 0 {
		w.out["materials"] = []any{map[string]any{"name": "painted", "doubleSided": true, "pbrMetallicRoughness": map[string]any{"metallicFactor": 0, "roughnessFactor": 1}}}
	}
	if len(channels) > 0 {
		w.out["animations"] = []any{map[string]any{"name": "cut", "channels": channels, "samplers": samplers}}
	}
	list := map[string]any{"name": s.Title}
	if len(roots) > 0 {
		list["nodes"] = roots
	}
	w.out["scenes"] = []any{list}
	return Written{w.done(), s.notes(false)}
}

// gltfWriter collects the numbers of a glTF file.
type gltfWriter struct {
	out       map[string]any
	bytes     []byte
	views     []any
	accessors []any
}

// floats adds numbers, so many for each element, and returns their accessor. Target is
// that of the buffer view, 0 for none.
func (w *gltfWriter) floats(v []float32, each, target int, bounds bool) int {
	start := len(w.bytes)
	for _, x := range v {
		w.bytes = binary.LittleEndian.AppendUint32(w.bytes, math.Float32bits(x))
	}
	a := map[string]any{"componentType": 5126, "count": len(v) / each, "type": []string{1: "SCALAR", 3: "VEC3", 4: "VEC4"}[each]}
	if bounds {
		lo, hi := make([]float32, each), make([]float32, each)
		for i, x := range v {
			if k := i % each; i < each {
				lo[k], hi[k] = x, x
			} else {
				lo[k], hi[k] = min(lo[k], x), max(hi[k], x)
			}
		}
		a["min"], a["max"] = lo, hi
	}
	return w.accessor(a, start, target)
}

func (w *gltfWriter) indices(v []uint32) int {
	start := len(w.bytes)
	for _, x := range v {
		w.bytes = binary.LittleEndian.AppendUint32(w.bytes, x)
	}
	return w.accessor(map[string]any{"componentType": 5125, "count": len(v), "type": "SCALAR"}, start, 34963)
}

func (w *gltfWriter) accessor(a map[string]any, start, target int) int {
	view := map[string]any{"buffer": 0, "byteOffset": start, "byteLength": len(w.bytes) - start}
	if target != 0 {
		view["target"] = target
	}
	a["bufferView"] = len(w.views)
	w.views = append(w.views, view)
	w.accessors = append(w.accessors, a)
	return len(w.accessors) - 1
}

func (w *gltfWriter) done() []byte {
	if len(w.bytes) > 0 {
		w.out["buffers"] = []any{map[string]any{"byteLength": len(w.bytes), "uri": "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString(w.bytes)}}
		w.out["bufferViews"], w.out["accessors"] = w.views, w.accessors
	}
	body, _ := json.Marshal(w.out) // numbers of a valid scene are finite
	return body
}
