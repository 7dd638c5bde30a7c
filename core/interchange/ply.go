package interchange

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

func plyBegins(data []byte) bool {
	return bytes.HasPrefix(data, []byte("ply\n")) || bytes.HasPrefix(data, []byte("ply\r"))
}

// plyBytes are the sizes of PLY's numbers.
var plyBytes = map[string]int{
	"char": 1, "int8": 1, "uchar": 1, "uint8": 1, "short": 2, "int16": 2, "ushort": 2, "uint16": 2,
	"int": 4, "int32": 4, "uint": 4, "uint32": 4, "float": 4, "float32": 4, "double": 8, "float64": 8,
}

type plyProperty struct{ name, kind, counts string } // counts is the kind of a list's length

type plyElement struct {
	name  string
	count int
	has   []plyProperty
}

// plyReader reads a PLY file (G. Turk, 1994): points with colours, and faces.
type plyReader struct {
	from  *bufio.Reader
	order binary.ByteOrder // nil for text
	all   []plyElement
	words []string // left of a row of text
}

// maxPolygon is how many corners a face may have.
const maxPolygon = 4096

func (r *plyReader) line() (string, error) {
	text, err := r.from.ReadString('\n')
	if err != nil && text == "" {
		return "", refuse("it ends too early")
	}
	if len(text) > maxLine {
		return "", refuse("a line is longer than %d characters", maxLine)
	}
	return strings.TrimSpace(text), nil
}

func (r *plyReader) head() error {
	for {
		text, err := r.line()
		if err != nil {
			return err
		}
		words := strings.Fields(text)
		switch {
		case len(words) == 0, words[0] == "ply", words[0] == "comment", words[0] == "obj_info":
		case words[0] == "end_header":
			return nil
		case words[0] == "format" && len(words) > 1:
			switch words[1] {
			case "ascii":
			case "binary_little_endian":
				r.order = binary.LittleEndian
			case "binary_big_endian":
				r.order = binary.BigEndian
			default:
				return refuse("its form %q is not known", clip(words[1]))
			}
		case words[0] == "element" && len(words) > 2:
			n, err := strconv.Atoi(words[2])
			if err != nil || n < 0 || n > maxNumbers {
				return refuse("it has %q elements of the kind %q", clip(words[2]), clip(words[1]))
			}
			if len(r.all) > 64 {
				return refuse("its head has too many kinds of elements")
			}
			r.all = append(r.all, plyElement{name: words[1], count: n})
		case words[0] == "property" && len(words) > 2 && len(r.all) > 0:
			p := plyProperty{name: words[len(words)-1], kind: words[1]}
			if words[1] == "list" && len(words) > 4 {
				p.counts, p.kind = words[2], words[3]
			}
			if plyBytes[p.kind] == 0 || p.counts != "" && plyBytes[p.counts] == 0 {
				return refuse("its head has numbers of the unknown kind %q", clip(text))
			}
			e := &r.all[len(r.all)-1]
			if e.has = append(e.has, p); len(e.has) > 64 {
				return refuse("its head has too many properties")
			}
		default:
			return refuse("its head has the line %q", clip(text))
		}
	}
}

func (r *plyReader) number(kind string) (float64, error) {
	if r.order == nil {
		for len(r.words) == 0 {
			text, err := r.line()
			if err != nil {
				return 0, err
			}
			r.words = strings.Fields(text)
		}
		word := r.words[0]
		r.words = r.words[1:]
		v, err := strconv.ParseFloat(word, 64)
		if err != nil {
			return 0, refuse("it has %q where a number should be", clip(word))
		}
		return v, nil
	}
	var buf [8]byte
	d := buf[:plyBytes[kind]]
	if _, err := io.ReadFull(r.from, d); err != nil {
		return 0, refuse("it ends too early")
	}
	switch kind {
	case "char", "int8":
		return float64(int8(d[0])), nil
	case "uchar", "uint8":
		return float64(d[0]), nil
	case "short", "int16":
		return float64(int16(r.order.Uint16(d))), nil
	case "ushort", "uint16":
		return float64(r.order.Uint16(d)), nil
	case "int", "int32":
		return float64(int32(r.order.Uint32(d))), nil
	case "uint", "uint32":
		return float64(r.order.Uint32(d)), nil
	case "float", "float32":
		return float64(math.Float32frombits(r.order.Uint32(d))), nil
	}
	return math.Float64frombits(r.order.Uint64(d)), nil
}

// element reads the values of one element; list is that of its list of corners.
func (r *plyReader) element(e *plyElement, values []float64, list []int) ([]int, error) {
	list = list[:0]
	for i, p := range e.has {
		if p.counts == "" {
			v, err := r.number(p.kind)
			if err != nil {
				return nil, err
			}
			values[i] = v
			continue
		}
		n, err := r.number(p.counts)
		if err != nil {
			return nil, err
		}
		if !(n >= 0 && n <= maxPolygon) {
			return nil, refuse("a list has %v members, more than %d", n, maxPolygon)
		}
		corners := p.name == "vertex_indices" || p.name == "vertex_index"
		for range int(n) {
			v, err := r.number(p.kind)
			if err != nil {
				return nil, err
			}
			if corners {
				list = append(list, int(v))
			}
		}
	}
	return list, nil
}

func readPLY(ctx context.Context, data []byte, said *notes) (*kit.Bundle, error) {
	r := &plyReader{from: bufio.NewReader(bytes.NewReader(data))}
	if err := r.head(); err != nil {
		return nil, err
	}
	b, s := oneShape()
	pictured := false
	values := make([]float64, 64)
	var list []int
	for k := range r.all {
		e := &r.all[k]
		column := func(names ...string) int {
			return slices.IndexFunc(e.has, func(p plyProperty) bool { return p.counts == "" && slices.Contains(names, p.name) })
		}
		at := [3]int{column("x"), column("y"), column("z")}
		normal := [3]int{column("nx"), column("ny"), column("nz")}
		color := [3]int{column("red", "diffuse_red", "r"), column("green", "diffuse_green", "g"), column("blue", "diffuse_blue", "b")}
		if e.name == "vertex" && slices.Contains(at[:], -1) {
			return nil, refuse("its points have no x, y and z")
		}
		pictured = pictured || column("s", "u", "texture_u") >= 0 || slices.ContainsFunc(e.has, func(p plyProperty) bool { return p.name == "texcoord" })
		for n := range e.count {
			if n%4096 == 0 && ctx.Err() != nil {
				return nil, refuse("it takes too long to read")
			}
			var err error
			if list, err = r.element(e, values, list); err != nil {
				return nil, err
			}
			switch e.name {
			case "vertex":
				if len(s.Positions)/3 >= 3*kit.MaxTriangles {
					return nil, refuse("it has more than %d points; make it simpler first", 3*kit.MaxTriangles)
				}
				for _, i := range at {
					if math.IsNaN(values[i]) || math.Abs(values[i]) > math.MaxFloat32 {
						return nil, refuse("point %d is at no place", n)
					}
					s.Positions = append(s.Positions, float32(values[i]))
				}
				if !slices.Contains(normal[:], -1) {
					v := r3.Vec{X: values[normal[0]], Y: values[normal[1]], Z: values[normal[2]]}
					if l := r3.Norm(v); l > 0 && !math.IsInf(l, 0) {
						v = r3.Scale(1/l, v)
					} else {
						v = r3.Vec{Y: 1}
					}
					s.Normals = append(s.Normals, float32(v.X), float32(v.Y), float32(v.Z))
				}
				for _, i := range color {
					c := grey
					if i >= 0 {
						c = values[i]
						if plyBytes[e.has[i].kind] == 1 {
							c /= 255
						}
						c = kit.Linear(uint8(255*max(0, min(1, c)) + 0.5))
					}
					s.Colors = append(s.Colors, float32(c))
				}
				s.Colors = append(s.Colors, 0)
			case "face":
				if err := face(s, list); err != nil {
					return nil, err
				}
			}
		}
	}
	if len(s.Indices) == 0 && len(s.Positions) > 0 {
		return nil, refuse("it is a cloud of points without faces; make a mesh of it first")
	}
	if pictured {
		said.add("Pictures are not read from PLY; its own colours are.")
	}
	if len(s.Normals) == 0 {
		normals(s)
	}
	return b, nil
}

// face adds a face of a shape's corners.
func face(s *kit.Shape, corners []int) error {
	places := make([]r3.Vec, len(corners))
	for i, c := range corners {
		if c < 0 || c >= len(s.Positions)/3 {
			return refuse("a face names point %d of %d", c, len(s.Positions)/3)
		}
		places[i] = r3.Vec{X: float64(s.Positions[3*c]), Y: float64(s.Positions[3*c+1]), Z: float64(s.Positions[3*c+2])}
	}
	if len(corners) < 3 {
		return nil // a point, or a line
	}
	if len(s.Indices)/3+len(corners)-2 > kit.MaxTriangles {
		return refuse("it has more than %d triangles; make it simpler first", kit.MaxTriangles)
	}
	for _, t := range triangulated(places) {
		s.Indices = append(s.Indices, uint32(corners[t[0]]), uint32(corners[t[1]]), uint32(corners[t[2]]))
	}
	return nil
}
