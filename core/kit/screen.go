package kit

import "strconv"

// Screen is the stand-in that shows a picture or a video.
const Screen = "screen"

// picturePlane is a board that shows its front to −Z, as what looks somewhere does: without
// a picture, grey with a cross.
func picturePlane(b *builder, p params) {
	w, h := p.get("width")/2, p.get("height")
	deep := min(0.04, 0.2*min(2*w, h))
	b.tinted(iron, func() { b.box(-w, 0, 0, w, h, deep) })
	line := 0.012 * min(2*w, h)
	face := func(z float64, x0, y0, x1, y1 float64) {
		b.face(vec(x1, y0, z), vec(x0, y0, z), vec(x0, y1, z), vec(x1, y1, z))
	}
	face(-0.001, -w, 0, w, h)
	b.tinted(iron, func() {
		for _, s := range [2]float64{-1, 1} {
			b.face(vec(s*(w-line), 0, -0.0015), vec(s*w, 0, -0.0015), vec(-s*(w-line), h, -0.0015), vec(-s*w, h, -0.0015))
			b.face(vec(-s*w, h, -0.0015), vec(-s*(w-line), h, -0.0015), vec(s*w, 0, -0.0015), vec(s*(w-line), 0, -0.0015))
		}
	})
}

// Surface builds what a picture plane shows its picture on, before its board: its texture
// is given to it. It shines where the picture does.
func Surface(values map[string]float64, glow bool) *Mesh {
	s, _ := Find(Screen)
	p := s.params(values, nil)
	w, h := p.get("width")/2, p.get("height")
	c := Color{1, 1, 1, 0}
	if glow { // as bright as its middle tones are at the usual exposure, after the tone curve
		c = Color{0.5, 0.5, 0.5, 1}
	}
	b := newBuilder(c)
	b.face(vec(w, 0, -0.003), vec(-w, 0, -0.003), vec(-w, h, -0.003), vec(w, h, -0.003))
	m := &b.mesh
	m.UVs = []float32{0, 1, 1, 1, 1, 0, 0, 0}
	return m
}

// SurfaceKey names what a surface is built from.
func SurfaceKey(values map[string]float64, glow bool) string {
	return "surface " + strconv.FormatBool(glow) + Key(Screen, values, "")
}
