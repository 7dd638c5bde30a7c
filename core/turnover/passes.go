package turnover

import (
	"cmp"
	"image"
	"maps"
	"math"
	"slices"

	"proscen/core/exr"
	"proscen/core/naming"
	"proscen/core/raster"
	"proscen/core/scene"

	"gonum.org/v1/gonum/spatial/r3"
)

// Pass renders a frame of a pass as channels of a picture, and draws it into shown, of
// the output's size, as people can look at it. The channels hold until the next frame.
// Depth is Z, the greatest value where nothing is; directions and places are X, Y and Z;
// of mattes each thing that is seen has a channel with its name.
func (f *Film) Pass(n int, shown *image.RGBA) ([]exr.Channel, error) {
	w, h := f.Size()
	what := f.Item.Pass
	matte := what == scene.PassMatte || what == scene.PassGroups
	if f.layers == nil {
		f.layers = raster.NewLayers(w, h, what == scene.PassDepth, what == scene.PassPosition, what == scene.PassNormal || what == scene.PassFacing, matte)
	}
	l := f.layers
	screen, _ := f.screenOf(n)
	view, err := f.painter.Layers(f.cut, screen, l)
	if err != nil {
		return nil, err
	}
	if what == scene.PassFacing && view != nil {
		back := view.World.Inverse()
		for i, v := range l.Normal {
			d := back.Dir(r3.Vec{X: float64(v[0]), Y: float64(v[1]), Z: float64(v[2])})
			l.Normal[i] = [3]float32{float32(d.X), float32(d.Y), float32(d.Z)}
		}
	}
	if what == scene.PassGroups {
		for i := range l.Objects {
			for k, o := range l.Objects[i] {
				l.Objects[i][k] = f.groupOf(o)
			}
		}
	}
	l.Shown(shown)
	switch {
	case matte:
		return f.mattes(), nil
	case what == scene.PassDepth:
		return []exr.Channel{{Name: "Z", Row: func(y int, to []float32) { copy(to, l.Depth[y*w:]) }}}, nil
	}
	values := l.Normal
	if what == scene.PassPosition {
		values = l.Position
	}
	var out []exr.Channel
	for k, name := range []string{"X", "Y", "Z"} {
		out = append(out, exr.Channel{Name: name, Row: func(y int, to []float32) {
			for x := range to {
				to[x] = values[y*w+x][k]
			}
		}})
	}
	return out, nil
}

// objectOf returns the node of an object of the renderer, "" for none.
func (f *Film) objectOf(object uint32) string {
	if nodes := f.session.Motion.Nodes; object > 0 && int(object) <= len(nodes) {
		return nodes[object-1].ID
	}
	return ""
}

// groupOf returns the object that stands at the top of the groups of another one.
func (f *Film) groupOf(object uint32) uint32 {
	if object == 0 {
		return 0
	}
	if f.tops == nil {
		f.tops = make([]uint32, len(f.session.Motion.Nodes)+1)
		index := make(map[string]uint32, len(f.tops))
		for i := range f.session.Motion.Nodes {
			index[f.session.Motion.Nodes[i].ID] = uint32(i) + 1
		}
		for id, at := range index {
			for f.doc.Nodes[id].Parent != "" {
				id = f.doc.Nodes[id].Parent
			}
			f.tops[at] = index[id]
		}
	}
	return f.tops[object]
}

// matteNames are the channels of all things, by their ids: each once, always the same.
func (f *Film) matteNames() map[string]string {
	if f.mattesOf != nil {
		return f.mattesOf
	}
	ids := slices.SortedFunc(maps.Keys(f.doc.Nodes), func(a, b string) int {
		return cmp.Or(cmp.Compare(naming.Slug(f.doc.Nodes[a].Name), naming.Slug(f.doc.Nodes[b].Name)), cmp.Compare(a, b))
	})
	f.mattesOf = make(map[string]string, len(ids))
	names := naming.Names{}
	for _, id := range ids {
		f.mattesOf[id] = names.Free(naming.Slug(f.doc.Nodes[id].Name), "")
	}
	return f.mattesOf
}

// mattes are the channels of the things that are seen: the share of each pixel's samples.
func (f *Film) mattes() []exr.Channel {
	w, h := f.Size()
	l := f.layers
	type rows struct{ first, last int }
	seen := map[uint32]rows{}
	for y := range h {
		before := uint32(0)
		for _, samples := range l.Objects[y*w : (y+1)*w] {
			for _, o := range samples {
				if o == before || o == 0 {
					continue
				}
				before = o
				r, ok := seen[o]
				if !ok {
					r.first = y
				}
				r.last = y
				seen[o] = r
			}
		}
	}
	names := f.matteNames()
	out := []exr.Channel{}
	for _, o := range slices.Sorted(maps.Keys(seen)) {
		r := seen[o]
		out = append(out, exr.Channel{Name: names[f.objectOf(o)], Row: func(y int, to []float32) {
			clear(to)
			if y < r.first || y > r.last {
				return
			}
			for x := range to {
				for _, v := range l.Objects[y*w+x] {
					if v == o {
						to[x] += 1. / 4
					}
				}
			}
		}})
	}
	if len(out) == 0 { // a picture needs one
		out = append(out, exr.Channel{Name: "nothing", Row: func(_ int, to []float32) { clear(to) }})
	}
	return out
}

// Linear returns the channels of a finished picture in linear light.
func Linear(img *image.RGBA) []exr.Channel {
	w := img.Rect.Dx()
	var out []exr.Channel
	for c, name := range []string{"R", "G", "B"} {
		out = append(out, exr.Channel{Name: name, Row: func(y int, to []float32) {
			for x := range w {
				to[x] = linear[img.Pix[y*img.Stride+4*x+c]]
			}
		}})
	}
	return out
}

// linear is the light of a displayed value (sRGB, IEC 61966-2-1).
var linear = func() (t [256]float32) {
	for i := range t {
		v := float64(i) / 255
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		t[i] = float32(v)
	}
	return t
}()
