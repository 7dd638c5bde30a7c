package turnover

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"hash"
	"math"
	"proscen/core/ambient"
	"slices"

	"proscen/core/geom"
	"proscen/core/motion"
	"proscen/core/program"
	"proscen/core/raster"
	"proscen/core/scene"
)

// printVersion changes when the pictures of the same scene do.
const printVersion = "3"

// Print returns a text that is the same for two films exactly when all that their
// frames, sound and lines are made of is the same, whatever else has changed in the
// scene. What is out of sight of the camera and casts no shadow into its picture does
// not count, nor do dates and versions that are written into the picture. Goes returns
// false to end it early, with "".
func (f *Film) Print(goes func() bool) string {
	h := sha256.New()
	add := func(v any) { h.Write(scene.Canonical(v)) }
	r := f.Recipe
	r.Name, r.Names = "", nil // what it is called
	add(printVersion)
	add(r)
	add(f.Item.Pass)
	if f.Item.Pass == scene.PassMatte || f.Item.Pass == scene.PassGroups {
		add(f.matteNames())
	}
	add([]int{f.Frames(), f.Item.Head, f.Item.Tail, f.Item.Width, f.Item.Height})
	add(f.doc.Settings.Rate)
	add(f.Item.Pace)
	switch r.Quality {
	case scene.Rough:
		add("one sample") // there were four
	case scene.Fine:
		add(f.doc.Settings.Shutter)
	}
	if r.Slate > 0 {
		c := f.slate()
		c.Text = f.doc.Settings.Production
		add(c)
	}
	p := printer{to: h}
	s := f.session
	s.Motion.SetAspect(float64(f.Item.Width) / float64(f.Item.Height))
	center, half := s.Crowded()
	p.near = ambient.Reach * 2 * half / ambient.Wide
	p.floats(center.X, center.Y, center.Z, half)
	var air program.Air
	// While the shutter is open, the end of that time is looked at, too.
	moments := []float64{0}
	if r.Quality == scene.Fine && f.doc.Settings.Shutter > 0 {
		moments = append(moments, f.doc.Settings.Shutter/360*f.Item.pace())
	}
	slate := slateOf(&f.Item, &f.Recipe)
	for k := range (f.Frames() - slate) * len(moments) {
		if !goes() {
			return ""
		}
		n := slate + k/len(moments)
		screen, _ := f.screenOf(n)
		f.cut.At(screen+moments[k%len(moments)], &air)
		add(air.Dip)
		for k := range air.Playing {
			on := &air.Playing[k]
			p.floats(on.Weight)
			if on.Still != nil {
				add(on.Still)
				add(f.doc.Cards[on.Still.Card])
				continue
			}
			in := s.In(on.Shot)
			view := in.View(on)
			if view == nil {
				continue
			}
			if in != s { // how crowded places are is looked at elsewhere
				center, half := in.Crowded()
				p.floats(center.X, center.Y, center.Z, half)
			}
			in.Shown(view, on.Shot, &p.input)
			p.frame(in.Motion, on.Shot, in.State.Frame)
		}
		for _, b := range r.Burns {
			if b.Says != scene.SaysDate && b.Says != scene.SaysVersion {
				add(BurnText(f.doc, &f.Item, b, f.Facts, f.nowOf(n, screen, &air)))
			}
		}
		if line := f.spoken(screen); line != "" {
			add(line)
		}
	}
	if r.Sound {
		for _, c := range f.Clips() {
			add(f.doc.Sounds[c.Sound].Blob)
			c.Sound = ""
			add(c)
		}
	}
	if r.Lines == scene.Beside {
		for _, l := range f.Said() {
			add(f.doc.Lines[l.Line])
			add([2]float64{l.In, l.Out})
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Versioned tells whether a version or a date is written into the pictures, which a print
// leaves out.
func (f *Film) Versioned() bool {
	return f.Recipe.Slate > 0 || slices.ContainsFunc(f.Recipe.Burns, func(b scene.Burn) bool { return b.Says == scene.SaysDate || b.Says == scene.SaysVersion })
}

// printer writes what a renderer is given.
type printer struct {
	to    hash.Hash
	input raster.Input
	bytes []byte
	near  float64 // metres at which things darken each other
}

func (p *printer) floats(all ...float64) {
	p.bytes = p.bytes[:0]
	for _, v := range all {
		p.bytes = binary.LittleEndian.AppendUint64(p.bytes, math.Float64bits(v))
	}
	p.to.Write(p.bytes)
}

func (p *printer) matrix(m *geom.Mat4) { p.floats(m[:]...) }

// shades tells whether what is in a box may stand in the light of a lamp that casts shadows.
func (p *printer) shades(b geom.Box) bool {
	return slices.ContainsFunc(p.input.Lamps, func(l raster.Lamp) bool {
		return l.Shadow > 0 && b.Distance(l.At) <= l.Reach
	})
}

// shadowReach is how far in metres a shadow may fall.
const shadowReach = 400

// frame writes the input of one frame, at a frame of story time.
func (p *printer) frame(m *motion.Scene, shot string, story float64) {
	v, l := &p.input.View, &p.input.Look
	p.matrix(&v.World)
	p.floats(v.HFov, v.VFov, v.Shift[0], v.Shift[1], v.Lens.Spread, v.Lens.Focus)
	p.floats(l.Sun[:]...)
	p.floats(l.SunDir.X, l.SunDir.Y, l.SunDir.Z)
	for _, c := range [][3]float64{l.Zenith, l.Horizon, l.Ground} {
		p.floats(c[:]...)
	}
	p.floats(l.Gain[:]...)
	p.floats(l.Haze, l.HazeRise, l.HazeBase, float64(l.ShadowPx))
	p.matrix(&l.Shadow)
	for _, k := range p.input.Lamps {
		p.floats(k.At.X, k.At.Y, k.At.Z, k.Dir.X, k.Dir.Y, k.Dir.Z, k.Color[0], k.Color[1], k.Color[2], k.Reach, k.Outer, k.Inner)
		if k.Shadow > 0 {
			p.floats(float64(k.Shadow))
		}
	}
	margin := 0.1
	if v.Lens.Spread > 0 {
		margin = 0.6
	}
	sees := v.Sight(margin)
	k := 0
	for i := range m.Instances {
		in := &m.Instances[i]
		if !m.Nodes[in.Node].Shows(shot) {
			continue
		}
		d := &p.input.Draws[k]
		k++
		own := d.Mesh.Bounds.Transform(&d.World).Grown(p.near)
		box := own
		if l.ShadowPx > 0 && !d.NoShadow {
			box = raster.Swept(box, l.SunDir, shadowReach)
		}
		if (!d.Bent || in.Dye >= 0) && !sees(box) && (d.NoShadow || !p.shades(own)) {
			continue
		}
		p.to.Write([]byte(m.Meshes[in.Mesh].Key))
		p.matrix(&d.World)
		if d.NoShadow {
			p.floats(1)
		}
		if in.Surface {
			blob, frame := m.Shown(in.Node, story)
			p.to.Write([]byte(blob))
			p.floats(float64(frame))
		}
		if d.Bent {
			p.bytes = p.bytes[:0]
			changing := d.Mesh.Positions
			if in.Dye >= 0 {
				changing = d.Mesh.Colors
			}
			for _, x := range changing {
				p.bytes = binary.LittleEndian.AppendUint32(p.bytes, math.Float32bits(x))
			}
			p.to.Write(p.bytes)
		}
	}
}

// Brief returns a text that differs when the print of two films may: it is found without
// looking at any frame. Seen is SeenOf of the film's document.
func (f *Film) Brief(seen string) string {
	h := sha256.New()
	add := func(v any) { h.Write(scene.Canonical(v)) }
	add(seen)
	add(f.Item)
	add(f.Recipe)
	shots := f.cut.Shots()
	for i := range shots {
		s := &shots[i]
		if s.ScreenOut < f.screen.In || s.ScreenIn > f.screen.Out { // neighbours count, for their joins
			continue
		}
		add(s)
		add(f.doc.Cards[s.Card])
		add(f.doc.Footage[s.Footage])
		for _, b := range f.doc.BoardsOf(s.ID) {
			add(f.doc.Boards[b])
		}
	}
	if f.Recipe.Lines != "" {
		add(f.doc.Lines)
	}
	if f.Recipe.Sound {
		add(f.doc.Tracks)
		add(f.doc.Sounds)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// SeenOf returns a text that differs when what cameras of two documents see may, and
// what their names are: everything but the cut and what is heard.
func SeenOf(doc *scene.Document) string {
	h := sha256.New()
	for _, t := range doc.Tables() {
		if name := t.Name(); !motion.Unseen(name) && name != "kits" {
			for _, id := range t.IDs() {
				h.Write([]byte(id))
				h.Write(t.Get(id))
			}
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}
