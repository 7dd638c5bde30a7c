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
}

func readOBJ(ctx context.Context, data []byte, near files) (*kit.Bundle, error) {
	r := &objReader{
		files: near, out: &kit.Bundle{Root: geom.Identity, Nodes: []kit.BundleNode{{Parent: -1, Turn: [4]float32{0, 0, 0, 1}, Scale: [3]float32{1, 1, 1}}}},
		libraries: map[string]bool{}, finishes: map[string]finish{}, shapes: map[string]*kit.Shape{}, corners: map[string]map[[3]int]uint32{},
	}
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, maxLine)
	for lines.Scan() {
		if r.line++; r.line%4096 == 0 && ctx.Err() != nil {
			return nil, refuse("it takes too long to read")
		}
		if err := r.statement(lines.Text()); err != nil {
			return nil, err
		}
	}
	if err := lines.Err(); err != nil {
		return nil, refuse("line %d is longer than %d characters", r.line+1, maxLine)
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

func (r *objReader) statement(text string) error {
	word, rest, _ := strings.Cut(strings.TrimSpace(text), " ")
	rest = strings.TrimSpace(rest)
	switch word {
	case "v", "vn":
		v, err := r.figures(rest, 3)
		if err != nil {
			return err
		}
		list := &r.at
		if word == "vn" {
			list = &r.normal
		}
		*list = append(*list, [3]float32{v[0], v[1], v[2]})
	case "vt":
		v, err := r.figures(rest, 2)
		if err != nil {
			return err
		}
		r.uv = append(r.uv, [2]float32{v[0], 1 - v[1]})
	case "f":
		return r.face(strings.Fields(rest))
	case "usemtl":
		r.material = rest
	case "mtllib":
		if r.libraries[rest] {
			return nil // it has been read
		}
		if r.libraries[rest] = true; len(r.libraries) > maxLibraries {
			return refuse("it names more than %d files of materials", maxLibraries)
		}
		data, err := r.files.open(rest)
		if err != nil {
			return nil // without its materials a model is grey, and still a model
		}
		return r.materials(data)
	}
	return nil
}

func (r *objReader) figures(text string, n int) ([]float32, error) {
	words := strings.Fields(text)
	if len(words) < n {
		return nil, refuse("line %d has %d numbers and needs %d", r.line, len(words), n)
	}
	out := make([]float32, n)
	for i := range out {
		v, err := strconv.ParseFloat(words[i], 32)
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
		return refuse("line %d has a face with %d corners", r.line, len(words))
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
			s.Colors = append(s.Colors, f.color[0], f.color[1], f.color[2], f.glow)
		}
		idx = append(idx, k)
	}
	for i := 2; i < len(idx); i++ {
		s.Indices = append(s.Indices, idx[0], idx[i-1], idx[i])
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
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, maxLine)
	for lines.Scan() {
		word, rest, _ := strings.Cut(strings.TrimSpace(lines.Text()), " ")
		rest = strings.TrimSpace(rest)
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
			continue
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
				continue
			}
			through := max(0, min(1, v[0]))
			if word == "d" {
				through = 1 - through
			}
			f.sheer.Blend, f.sheer.Through = through > 0, through
		case "map_d":
			f.sheer.Cut = 0.5 // in practice the picture of map_Kd, whose own opacity is taken
		case "map_Kd":
			words := strings.Fields(rest)
			if len(words) == 0 {
				continue
			}
			if len(r.out.Textures) >= maxTextures {
				return refuse("it has more than %d textures", maxTextures)
			}
			body, err := r.files.open(words[len(words)-1])
			if err != nil {
				return err
			}
			t, err := texture(body)
			if err != nil {
				return err
			}
			f.texture, f.color = len(r.out.Textures), [3]float32{1, 1, 1}
			r.out.Textures = append(r.out.Textures, t)
		default:
			continue
		}
		if name != "" {
			r.finishes[name] = f
		}
	}
	return nil
}
