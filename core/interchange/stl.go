package interchange

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"strconv"

	"proscen/core/geom"
	"proscen/core/kit"
)

// grey is what has no colour of its own.
const grey = 0.5

// oneShape is a bundle of a single shape that stands where its file has it.
func oneShape() (*kit.Bundle, *kit.Shape) {
	b := &kit.Bundle{Root: geom.Identity, Nodes: []kit.BundleNode{{Parent: -1, Turn: [4]float32{0, 0, 0, 1}, Scale: [3]float32{1, 1, 1}}}, Shapes: []kit.Shape{{Skin: -1, Texture: -1}}}
	return b, &b.Shapes[0]
}

const (
	stlHead  = 84 // bytes before the first facet: a title and how many there are
	stlFacet = 50
)

// stlBinary tells how many facets the binary form of STL has, and whether it is that.
func stlBinary(data []byte) (n int, ok bool) {
	if len(data) < stlHead {
		return 0, false
	}
	count := binary.LittleEndian.Uint32(data[stlHead-4:])
	return int(count), uint64(len(data)) >= stlHead+stlFacet*uint64(count) && uint64(len(data)) < stlHead+stlFacet*uint64(count)+stlFacet
}

func stlBegins(data []byte) bool {
	start := bytes.TrimLeft(data[:min(len(data), 1024)], " \t\r\n")
	if bytes.HasPrefix(bytes.ToLower(start), []byte("solid")) && bytes.Contains(bytes.ToLower(data[:min(len(data), 4096)]), []byte("facet")) {
		return true
	}
	n, ok := stlBinary(data)
	return ok && n > 0
}

// readSTL reads both forms of STL (3D Systems, 1989): facets without colours. Their normals
// are found from their corners, since those in files are often missing.
func readSTL(ctx context.Context, data []byte) (*kit.Bundle, error) {
	b, s := oneShape()
	corner := func(v [3]float32) error {
		for _, x := range v {
			if math.IsNaN(float64(x)) || math.IsInf(float64(x), 0) {
				return refuse("facet %d has a number that is not finite", len(s.Positions)/9+1)
			}
		}
		if len(s.Positions)/9 >= kit.MaxTriangles {
			return refuse("it has more than %d triangles; make it simpler first", kit.MaxTriangles)
		}
		s.Indices = append(s.Indices, uint32(len(s.Positions)/3))
		s.Positions = append(s.Positions, v[:]...)
		s.Colors = append(s.Colors, grey, grey, grey, 0)
		return nil
	}
	n, ok := stlBinary(data)
	if ok {
		for i := range n {
			if i%4096 == 0 && ctx.Err() != nil {
				return nil, refuse("it takes too long to read")
			}
			facet := data[stlHead+stlFacet*i:]
			for c := range 3 {
				var v [3]float32
				for k := range v {
					v[k] = math.Float32frombits(binary.LittleEndian.Uint32(facet[12+12*c+4*k:]))
				}
				if err := corner(v); err != nil {
					return nil, err
				}
			}
		}
	} else {
		words := bufio.NewScanner(bytes.NewReader(data))
		words.Split(bufio.ScanWords)
		for i := 0; words.Scan(); i++ {
			if i%4096 == 0 && ctx.Err() != nil {
				return nil, refuse("it takes too long to read")
			}
			if !bytes.EqualFold(words.Bytes(), []byte("vertex")) {
				continue
			}
			var v [3]float32
			for k := range v {
				if !words.Scan() {
					return nil, refuse("it ends in the middle of facet %d", len(s.Positions)/9+1)
				}
				x, err := strconv.ParseFloat(words.Text(), 32)
				if err != nil {
					return nil, refuse("facet %d has %q where a number should be", len(s.Positions)/9+1, clip(words.Text()))
				}
				v[k] = float32(x)
			}
			if err := corner(v); err != nil {
				return nil, err
			}
		}
		if words.Err() != nil || len(s.Positions)%9 != 0 {
			return nil, refuse("it ends in the middle of facet %d", len(s.Positions)/9+1)
		}
	}
	normals(s)
	return b, nil
}
