package kit

import (
	"strings"

	"gonum.org/v1/gonum/spatial/r3"
)

// Handle is a build parameter that can be dragged in the views: it stands at a
// point and is pulled along a unit axis, both in the piece's space. The
// parameter changes by Gain for each metre.
type Handle struct {
	Param string
	At    r3.Vec
	Axis  r3.Vec
	Gain  float64
}

// Handles returns the handles of a piece with build parameters.
func Handles(id string, values map[string]float64) []Handle {
	s, ok := Find(id)
	if !ok {
		return nil
	}
	p := s.params(values, nil)
	x, y, z := vec(1, 0, 0), vec(0, 1, 0), vec(0, 0, 1)
	fromEnd := strings.HasSuffix(id, "all") && id != "stoneWall" || id == "wall" || id == "arch" // runs along X from 0
	var out []Handle
	add := func(name string, at, axis r3.Vec, gain float64) {
		if _, has := p.v[name]; has {
			out = append(out, Handle{name, at, axis, gain})
		}
	}
	tall := p.v["height"]
	if fromEnd {
		w := p.get("width")
		add("width", vec(w, tall/2, 0), x, 1)
		add("height", vec(w/2, tall, 0), y, 1)
		if id != "arch" {
			o := max(0, min(w, p.get("openAt")))
			top := min(tall, p.get("sill")+p.get("openHeight"))
			add("openAt", vec(o, (p.get("sill")+top)/2, 0), x, 1)
			add("openWidth", vec(min(w, o+p.get("openWidth")/2), (p.get("sill")+top)/2, 0), x, 2)
			add("openHeight", vec(o, top, 0), y, 1)
		}
		return out
	}
	add("width", vec(p.v["width"]/2, tall/2, 0), x, 2)
	if id == "bed" || id == "car" || id == "van" || id == "cart" || id == "boat" {
		add("length", vec(0, tall/2, p.v["length"]/2), z, 2)
	} else {
		add("length", vec(p.v["length"], tall/2, 0), x, 1)
	}
	add("depth", vec(0, tall/2, p.v["depth"]/2), z, 2)
	add("size", vec(p.v["size"]/2, tall/2, 0), x, 2)
	add("run", vec(0, p.v["rise"], -p.v["run"]), r3.Scale(-1, z), 1)
	add("rise", vec(0, p.v["rise"], -p.v["run"]/2), y, 1)
	if id != "cabin" && id != "ridge" {
		add("height", vec(0, tall, 0), y, 1)
	}
	return out
}
