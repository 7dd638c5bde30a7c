package interchange

import (
	"bufio"
	"bytes"
	"context"
	"math"
	"strconv"
	"strings"

	"proscen/core/geom"
	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

// looksLikeOBJ tells whether text has the statements of an OBJ file.
func looksLikeOBJ(data []byte) bool {
	if bytes.IndexByte(data[:min(len(data), 4096)], 0) >= 0 {
		return false
	}
	return bytes.HasPrefix(data, []byte("v ")) || bytes.Contains(data, []byte("\nv "))
}

const maxLine = 1 << 16

// maxLibraries bounds the files of materials that a model names.
const maxLibraries = 64

// finish is what a material of an OBJ file says.
type finish struct {
	color   [3]float32
	glow    float32
	texture int
	sheer   kit.Sheer
}

// objReader gathers an OBJ file (Wavefront's appendix B1, 1995).
type objReader struct {
	at, normal [][3]float32
	tints      [][3]float32 // colours of the places, as far as there are any
	uv         [][2]float32
	files      files
	out        *kit.Bundle
	libraries  map[string]bool // of materials, that have been read
	finishes   map[string]finish
	shapes     map[string]*kit.Shape
	corners    map[string]map[[3]int]uint32
	order      []string
	material   string
	triangles  int
	line       int
	said       *notes
	ctx        context.Context
	pictures   map[string]int // textures by their files
}

func readOBJ(ctx context.Context, data []byte, near files, said *notes) (*kit.Bundle, error) {
	r := &objReader{
		said: said, ctx: ctx, pictures: map[string]int{}, files: near, out: &kit.Bundle{Root: geom.Identity, Nodes: []kit.BundleNode{{Parent: -1, Turn: [4]float32{0, 0, 0, 1}, Scale: [3]float32{1, 1, 1}}}},
		libraries: map[string]bool{}, finishes: map[string]finish{}, shapes: map[string]*kit.Shape{}, corners: map[string]map[[3]int]uint32{},
	}
	err := r.statements(data, func(word, rest string) error {
		if r.line%4096 == 0 && ctx.Err() != nil {
			return refuse("it takes too long to read")
		}
		return r.statement(word, rest)
	})
	if err != nil {
		return nil, err
	}
	for _, name := range r.order {
		s := r.shapes[name]
		if len(s.Normals) == 0 {
			normals(s)
		}
		r.out.Shapes = append(r.out.Shapes, *s)
	}
	return r.out, nil
}

// statements goes through the lines of a text: a word and what follows it after spaces or
// tabs. A line that ends with \ goes on in the next one.
func (r *objReader) statements(data []byte, do func(word, rest string) error) error {
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, maxLine)
	r.line = 0
	before := ""
	for lines.Scan() {
		r.line++
		text := before + lines.Text()
		if rest, goesOn := strings.CutSuffix(strings.TrimRight(text, " \t\r"), "\\"); goesOn {
			if before = rest + " "; len(before) > maxLine {
				break
			}
			continue
		}
		before = ""
		text = strings.TrimSpace(text)
		word, rest := text, ""
		if i := strings.IndexAny(text, " \t"); i >= 0 {
			word, rest = text[:i], strings.TrimSpace(text[i:])
		}
		if err := do(word, rest); err != nil {
			return err
		}
	}
	if lines.Err() != nil || before != "" && len(before) > maxLine {
		return refuse("line %d is longer than %d characters", r.line+1, maxLine)
	}
	return nil
}

func (r *objReader) statement(word, rest string) error {
	switch word {
	case "v":
		v, err := r.figures(rest, 3)
		if err != nil {
			return err
		}
		r.at = append(r.at, [3]float32{v[0], v[1], v[2]})
		if len(v) >= 6 { // x y z red green blue, as scanners write it
			for len(r.tints) < len(r.at)-1 {
				r.tints = append(r.tints, [3]float32{1, 1, 1})
			}
			var c [3]float32
			for i := range c {
				c[i] = float32(kit.Linear(uint8(255*max(0, min(1, v[3+i])) + 0.5)))
			}
			r.tints = append(r.tints, c)
		}
	case "vn":
		v, err := r.figures(rest, 3)
		if err != nil {
			return err
		}
		r.normal = append(r.normal, [3]float32{v[0], v[1], v[2]})
	case "vt":
		v, err := r.figures(rest, 1)
		if err != nil {
			return err
		}
		r.uv = append(r.uv, [2]float32{v[0], 1 - append(v, 0)[1]})
	case "f":
		return r.face(strings.Fields(rest))
	case "usemtl":
		r.material = rest
	case "mtllib":
		return r.library(rest)
	case "curv", "curv2", "surf":
		r.said.add("Curves and curved surfaces are left out; only faces are read.")
	}
	return nil
}

// library reads a file of materials, or several that are named in one line. Without its
// materials a model is grey, and still a model.
func (r *objReader) library(names string) error {
	const ending = ".mtl"
	for i := 0; ; { // names may have spaces in them; each ends with .mtl
		k := strings.Index(strings.ToLower(names[i:]), ending)
		if i += k + len(ending); k < 0 || i >= len(names) {
			break
		}
		if names[i] != ' ' && names[i] != '\t' {
			continue
		}
		if err := r.library(names[:i]); err != nil {
			return err
		}
		return r.library(strings.TrimSpace(names[i:]))
	}
	if r.libraries[names] {
		return nil // it has been read
	}
	if r.libraries[names] = true; len(r.libraries) > maxLibraries {
		return refuse("it names more than %d files of materials", maxLibraries)
	}
	data, err := r.files.open(names)
	if err != nil {
		r.said.add("The file of materials “%s” is not there; what it colours is grey. Put the model and its files into one zip.", clip(names))
		return nil
	}
	line := r.line
	defer func() { r.line = line }()
	return r.materials(data)
}

// figures reads the numbers of a line, of which it needs so many.
func (r *objReader) figures(text string, n int) ([]float32, error) {
	words := strings.Fields(text)
	if len(words) < n {
		return nil, refuse("line %d has %d numbers and needs %d", r.line, len(words), n)
	}
	out := make([]float32, min(len(words), 8))
	for i := range out {
		v, err := strconv.ParseFloat(words[i], 32)
		if i >= n && err != nil { // a remark
			return out[:i], nil
		}
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, refuse("line %d has %q where a number should be", r.line, clip(words[i]))
		}
		out[i] = float32(v)
	}
	return out, nil
}

// corner reads v, v/vt, v//vn or v/vt/vn, as indices from 0 or −1 for none.
func (r *objReader) corner(word string) ([3]int, error) {
	out := [3]int{-1, -1, -1}
	counts := [3]int{len(r.at), len(r.uv), len(r.normal)}
	for i, part := range strings.SplitN(word, "/", 3) {
		if part == "" {
			continue
		}
		k, err := strconv.Atoi(part)
		if err != nil {
			return out, refuse("line %d has %q where a corner should be", r.line, clip(word))
		}
		if k < 0 {
			k += counts[i] + 1
		}
		if k < 1 || k > counts[i] {
			return out, refuse("line %d names corner %q, which is not there", r.line, clip(word))
		}
		out[i] = k - 1
	}
	if out[0] < 0 {
		return out, refuse("line %d has a corner without a place", r.line)
	}
	return out, nil
}

func (r *objReader) face(words []string) error {
	if len(words) < 3 {
		r.said.add("Faces with fewer than three corners are left out.")
		return nil
	}
	var corners [][3]int
	for _, w := range words {
		c, err := r.corner(w)
		if err != nil {
			return err
		}
		corners = append(corners, c)
	}
	if r.triangles += len(corners) - 2; r.triangles > kit.MaxTriangles {
		return refuse("it has more than %d triangles; make it simpler first", kit.MaxTriangles)
	}
	// Parts that lack normals or coordinates are kept apart from those that do not.
	key := r.material + "\x00" + strconv.FormatBool(corners[0][1] >= 0) + strconv.FormatBool(corners[0][2] >= 0)
	s := r.shapes[key]
	f, known := r.finishes[r.material]
	if !known {
		f = finish{color: [3]float32{0.5, 0.5, 0.5}, texture: -1}
	}
	if s == nil {
		if len(r.order) >= maxShapes {
			return refuse("it has more than %d parts", maxShapes)
		}
		s = &kit.Shape{Skin: -1, Texture: -1}
		if f.texture >= 0 && corners[0][1] >= 0 {
			s.Texture = f.texture
		}
		if s.Sheer = f.sheer; s.Sheer.Blend {
			s.Sheer.Cut = 0
		}
		r.shapes[key], r.corners[key] = s, map[[3]int]uint32{}
		r.order = append(r.order, key)
	}
	var idx []uint32
	var places []r3.Vec
	for _, c := range corners {
		c[1], c[2] = orNone(c[1], corners[0][1]), orNone(c[2], corners[0][2])
		k, ok := r.corners[key][c]
		if !ok {
			k = uint32(len(s.Positions) / 3)
			r.corners[key][c] = k
			s.Positions = append(s.Positions, r.at[c[0]][:]...)
			if c[2] >= 0 {
				s.Normals = append(s.Normals, r.normal[c[2]][:]...)
			}
			if s.Texture >= 0 {
				s.UVs = append(s.UVs, r.uv[c[1]][:]...)
			}
			color := f.color
			if c[0] < len(r.tints) {
				if !known {
					color = [3]float32{1, 1, 1}
				}
				for i, t := range r.tints[c[0]] {
					color[i] *= t
				}
			}
			s.Colors = append(s.Colors, color[0], color[1], color[2], f.glow)
		}
		idx = append(idx, k)
		v := r.at[c[0]]
		places = append(places, r3.Vec{X: float64(v[0]), Y: float64(v[1]), Z: float64(v[2])})
	}
	for _, t := range triangulated(places) {
		s.Indices = append(s.Indices, idx[t[0]], idx[t[1]], idx[t[2]])
	}
	return nil
}

// orNone makes a face's corners alike: all have what its first one has.
func orNone(v, first int) int {
	if first < 0 {
		return -1
	}
	if v < 0 {
		return first
	}
	return v
}

// materials reads the colours and textures of a material library.
func (r *objReader) materials(data []byte) error {
	name := ""
	return r.statements(data, func(word, rest string) error {
		f, known := r.finishes[name]
		if !known {
			f = finish{color: [3]float32{0.5, 0.5, 0.5}, texture: -1}
		}
		switch word {
		case "newmtl":
			name = rest
			if len(r.finishes) > maxShapes {
				return refuse("its materials are more than %d", maxShapes)
			}
			f = finish{color: [3]float32{0.5, 0.5, 0.5}, texture: -1}
		case "Kd", "Ke":
			v, err := r.figures(rest, 3)
			if err != nil {
				return err
			}
			c := [3]float32{v[0], v[1], v[2]}
			if word == "Kd" {
				f.color = c
			} else if glow := max(c[0], c[1], c[2]); glow > 0 {
				f.color, f.glow = c, min(1, glow)
			}
		case "d", "Tr": // how opaque it is, or how little
			v, err := r.figures(strings.TrimPrefix(rest, "-halo "), 1)
			if err != nil {
				return nil
			}
			through := max(0, min(1, v[0]))
			if word == "d" {
				through = 1 - through
			}
			f.sheer.Blend, f.sheer.Through = through > 0, through
		case "map_d":
			f.sheer.Cut = 0.5 // in practice the picture of map_Kd, whose own opacity is taken
		case "map_Kd":
			at, err := r.texture(mapFile(rest))
			if err != nil || at < 0 {
				return err
			}
			f.texture, f.color = at, [3]float32{1, 1, 1}
		default:
			return nil
		}
		if name != "" {
			r.finishes[name] = f
		}
		return nil
	})
}

// texture returns the number in the bundle of a picture, −1 for one that cannot be read. Each
// is read once.
func (r *objReader) texture(file string) (int, error) {
	if at, ok := r.pictures[file]; ok {
		return at, nil
	}
	switch {
	case len(r.pictures) >= maxTextures:
		return -1, refuse("it has more than %d textures", maxTextures)
	case r.ctx.Err() != nil:
		return -1, refuse("it takes too long to read")
	}
	var t kit.TextureData
	body, err := r.files.open(file)
	if err == nil {
		t, err = texture(body)
	}
	if err != nil {
		r.said.add("%s", lacking(err, "what “"+clip(file)+"” covers has its plain colour"))
		r.pictures[file] = -1
		return -1, nil
	}
	r.pictures[file] = len(r.out.Textures)
	r.out.Textures = append(r.out.Textures, t)
	return r.pictures[file], nil
}

// mapOptions are how many words follow an option before a picture's name; those with three
// may have fewer.
var mapOptions = map[string]int{
	"-blendu": 1, "-blendv": 1, "-bm": 1, "-boost": 1, "-cc": 1, "-clamp": 1, "-imfchan": 1, "-mm": 2, "-o": 3, "-s": 3, "-t": 3, "-texres": 1, "-type": 1,
}

// mapFile returns the name of the picture of a statement, which may have options before it
// and spaces in it.
func mapFile(rest string) string {
	for {
		word, after, _ := strings.Cut(rest, " ")
		n, ok := mapOptions[word]
		if !ok {
			return strings.TrimSpace(rest)
		}
		rest = strings.TrimSpace(after)
		for i := range n {
			word, after, _ := strings.Cut(rest, " ")
			if _, err := strconv.ParseFloat(word, 64); i > 0 && err != nil {
				break // it had fewer numbers
			}
			rest = strings.TrimSpace(after)
		}
	}
}
