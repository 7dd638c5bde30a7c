package kit

import "strconv"

// Screen is the stand-in that shows a picture or a video.
const Screen = "screen"

// picturePlane is a board that shows its front to −Z, as what looks somewhere does: without
// a picture, four fields of grey.
func picturePlane(b *builder, p params) {
	board(b, p)
	w, h := p.get("width")/2, p.get("height")
	at := vec(0, h/2, 0)
	c := b.color
	lower, upper := [2]float64{w, 0}, [2]float64{w, h}
	for i, side := range [4][2][2]float64{{lower, {-w, 0}}, {{-w, 0}, {-w, h}}, {{-w, h}, upper}, {upper, lower}} {
		b.tinted(c.shade(1-0.35*float32(i%2)), func() {
			b.face(vec(side[0][0], side[0][1], 0), vec(side[1][0], side[1][1], 0), at)
		})
	}
}

// board is the back and the edges of a picture plane.
func board(b *builder, p params) {
	w, h := p.get("width")/2, p.get("height")
	z := min(0.04, 0.2*min(2*w, h))
	b.tinted(iron, func() {
		b.face(vec(-w, 0, z), vec(w, 0, z), vec(w, h, z), vec(-w, h, z))
		b.face(vec(w, 0, z), vec(w, 0, 0), vec(w, h, 0), vec(w, h, z))
		b.face(vec(-w, 0, 0), vec(-w, 0, z), vec(-w, h, z), vec(-w, h, 0))
		b.face(vec(-w, h, z), vec(w, h, z), vec(w, h, 0), vec(-w, h, 0))
		b.face(vec(-w, 0, 0), vec(w, 0, 0), vec(w, 0, z), vec(-w, 0, z))
	})
}

// Board builds a picture plane without its front, which is a Surface.
func Board(values map[string]float64) *Mesh {
	s, _ := Find(Screen)
	b := newBuilder(iron)
	board(b, s.params(values, nil))
	return &b.mesh
}

// BoardKey names what a board is built from.
func BoardKey(values map[string]float64) string { return "board " + Key(Screen, values, "") }

// Surface builds the front of a picture plane, whose texture is given to it. It shines
// where the picture does.
func Surface(values map[string]float64, glow bool) *Mesh {
	s, _ := Find(Screen)
	p := s.params(values, nil)
	w, h := p.get("width")/2, p.get("height")
	c := Color{1, 1, 1, 0}
	if glow { // as bright as its middle tones are at the usual exposure, after the tone curve
		c = Color{0.5, 0.5, 0.5, 1}
	}
	b := newBuilder(c)
	b.face(vec(w, 0, 0), vec(-w, 0, 0), vec(-w, h, 0), vec(w, h, 0))
	m := &b.mesh
	m.UVs = []float32{0, 1, 1, 1, 1, 0, 0, 0}
	return m
}

// SurfaceKey names what a surface is built from.
func SurfaceKey(values map[string]float64, glow bool) string {
	return "surface " + strconv.FormatBool(glow) + Key(Screen, values, "")
}
