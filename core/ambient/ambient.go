// Package ambient knows how crowded each place around the action is, so that less light
// of the sky gets to where things meet. Renderer and views look it up in the same bytes.
package ambient

import (
	"encoding/binary"
	"maps"
	"math"
	"sync/atomic"

	"proscen/core/geom"
	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

// A field has Wide cells to each side and High of them upward.
const (
	Wide = 144
	High = 40
)

const (
	brick  = 4   // cells that are known together to be free
	layer  = 20  // bits of a surface that goes through the middle of a cell
	margin = 5   // cells toward the sides over which it fades
	spread = 1.0 // cells between places of a surface that are counted, at most
)

// The light of the sky that a surface has is looked for Step cells along its normal. What
// lies there up to Free layers is what an even surface, or a thin board, puts there
// itself; from there on it darkens by Gain for each layer, at most by Most.
const (
	Layers = 2.0 // that the greatest byte stands for

	Step = 1.25
	Free = 0.17
	Gain = 1.5
	Most = 0.62
)

// Reach is how many cells from a surface light is taken away from others.
const Reach = Step + 2.5

// Thing is a mesh that stands somewhere; without a mesh it is not there.
type Thing struct {
	Mesh  *kit.Mesh
	World geom.Mat4
}

// Field counts the surface near each cell of a box. The zero Field is empty.
type Field struct {
	From  r3.Vec  // the box's least corner
	Cell  float64 // metres
	Bytes []uint8 // for each cell, x first, then y: 255 for Layers
	// Version changes with Bytes; no two fields have the same, but for empty ones with 0.
	Version int
	sums    []int32
	things  []Thing
	gone    []Thing // buffers of change
	come    []Thing
	loud    []bool // for each brick: whether something in or beside it is over Free
	places  map[*kit.Mesh][]place
	first   [3]int // the cells that have changed
	last    [3]int
}

// versions counts those of all fields.
var versions atomic.Int64

// place stands for a piece of a mesh's surface.
type place struct {
	at   r3.Vec
	area float32 // square metres
}

const cells = Wide * High * Wide

// Set brings the field to things as they stand around a place, up to half metres to each
// side. Only what has moved is counted anew; the counts are whole numbers, so that they
// do not depend on what was there before.
func (f *Field) Set(middle r3.Vec, half float64, things []Thing) {
	if half <= 0 {
		return
	}
	cell := 2 * half / Wide
	from := r3.Sub(middle, r3.Vec{X: half, Y: 0.3 * High * cell, Z: half})
	if f.sums == nil || from != f.From || cell != f.Cell {
		f.begin(from, cell)
	}
	f.first, f.last = [3]int{Wide, High, Wide}, [3]int{-1, -1, -1}
	f.change(things)
	f.things = append(f.things[:0], things...)
	f.settle()
	f.forget()
}

// spare is of how many meshes that are not there any more the places are kept at most.
const spare = 64

// forget drops the places of meshes that are gone: while a shape is dragged each preview
// has a mesh of its own.
func (f *Field) forget() {
	if len(f.places) <= len(f.things)+spare {
		return
	}
	there := make(map[*kit.Mesh]bool, len(f.things))
	for i := range f.things {
		there[f.things[i].Mesh] = true
	}
	maps.DeleteFunc(f.places, func(m *kit.Mesh, _ []place) bool { return !there[m] })
}

// begin empties the field for another box.
func (f *Field) begin(from r3.Vec, cell float64) {
	if f.Version > 0 { // what was known of another box is wrong
		f.Version = int(versions.Add(1))
	}
	if f.sums == nil {
		f.sums, f.Bytes, f.loud = make([]int32, cells), make([]uint8, cells), make([]bool, cells/brick/brick/brick)
	}
	clear(f.sums)
	clear(f.Bytes)
	clear(f.loud)
	if cell != f.Cell { // places lie a cell apart
		f.places = map[*kit.Mesh][]place{}
	}
	f.From, f.Cell, f.things = from, cell, f.things[:0]
}

// change takes what is gone out of the counts, and counts what has come.
func (f *Field) change(things []Thing) {
	f.gone, f.come = f.gone[:0], f.come[:0]
	for i := range max(len(things), len(f.things)) {
		switch {
		case i >= len(things):
			f.gone = append(f.gone, f.things[i])
		case i >= len(f.things):
			f.come = append(f.come, things[i])
		case f.things[i] != things[i]:
			f.gone, f.come = append(f.gone, f.things[i]), append(f.come, things[i])
		}
	}
	// Most may have changed their places in the list alone.
	var there map[Thing]int
	if len(f.things) != len(things) {
		there = make(map[Thing]int, len(f.gone))
		for i := range f.gone {
			there[f.gone[i]]++
		}
	}
	for i := range f.come {
		if n := there[f.come[i]]; n > 0 {
			there[f.come[i]] = n - 1
			continue
		}
		f.count(&f.come[i], 1)
	}
	for i := range f.gone {
		if there != nil {
			if there[f.gone[i]] == 0 {
				continue
			}
			there[f.gone[i]]--
		}
		f.count(&f.gone[i], -1)
	}
}

// count adds or takes away what a thing puts into the field.
func (f *Field) count(t *Thing, sign int32) {
	if t.Mesh == nil {
		return
	}
	box := t.Mesh.Bounds.Transform(&t.World)
	reach := 2 * f.Cell
	top := r3.Add(f.From, r3.Scale(f.Cell, r3.Vec{X: Wide, Y: High, Z: Wide}))
	if box.Empty() || box.Max.X < f.From.X-reach || box.Max.Y < f.From.Y-reach || box.Max.Z < f.From.Z-reach ||
		box.Min.X > top.X+reach || box.Min.Y > top.Y+reach || box.Min.Z > top.Z+reach {
		return
	}
	if d := r3.Sub(box.Max, box.Min); max(d.X, d.Y, d.Z) > 0.6*Wide*f.Cell {
		f.large(t, sign)
		return
	}
	places, ok := f.places[t.Mesh]
	if !ok {
		places = placesOf(t.Mesh, spread*f.Cell)
		f.places[t.Mesh] = places
	}
	size := r3.Norm(t.World.Dir(r3.Vec{X: 1}))
	for i := range places {
		f.splat(t.World.Point(places[i].at), places[i].area*float32(size*size), sign)
	}
}

// large counts a thing that is about as large as the box, or larger: what of it lies in the box.
func (f *Field) large(t *Thing, sign int32) {
	top := r3.Add(f.From, r3.Scale(f.Cell, r3.Vec{X: Wide, Y: High, Z: Wide}))
	box := geom.Box{Min: f.From, Max: top}
	var near [2][]r3.Vec
	m := t.Mesh
	for i := 0; i+2 < len(m.Indices); i += 3 {
		p := append(near[0][:0], t.World.Point(vertex(m, i)), t.World.Point(vertex(m, i+1)), t.World.Point(vertex(m, i+2)))
		near[0] = p
		p = within(p, near[1][:0], &box)
		for k := 2; k < len(p); k++ {
			each(p[0], p[k-1], p[k], spread*f.Cell, func(at r3.Vec, area float64) { f.splat(at, float32(area), sign) })
		}
	}
}

func vertex(m *kit.Mesh, i int) r3.Vec {
	k := 3 * m.Indices[i]
	return r3.Vec{X: float64(m.Positions[k]), Y: float64(m.Positions[k+1]), Z: float64(m.Positions[k+2])}
}

// within cuts a polygon off at the sides of a box (Sutherland and Hodgman, 1974).
func within(p, spare []r3.Vec, box *geom.Box) []r3.Vec {
	for side := range 6 {
		inside := func(v r3.Vec) float64 {
			switch side {
			case 0:
				return v.X - box.Min.X
			case 1:
				return box.Max.X - v.X
			case 2:
				return v.Y - box.Min.Y
			case 3:
				return box.Max.Y - v.Y
			case 4:
				return v.Z - box.Min.Z
			}
			return box.Max.Z - v.Z
		}
		out := spare[:0]
		for i, v := range p {
			before := p[(i+len(p)-1)%len(p)]
			a, b := inside(before), inside(v)
			if (a < 0) != (b < 0) {
				out = append(out, r3.Add(before, r3.Scale(a/(a-b), r3.Sub(v, before))))
			}
			if b >= 0 {
				out = append(out, v)
			}
		}
		p, spare = out, p
	}
	return p
}

// mostPlaces bounds how many places stand for a mesh; more are set wider apart.
const mostPlaces = 200_000

// placesOf spreads places over a mesh, not farther apart than a distance.
func placesOf(m *kit.Mesh, apart float64) (out []place) {
	area := 0.0
	for i := 0; i+2 < len(m.Indices); i += 3 {
		a, b, c := vertex(m, i), vertex(m, i+1), vertex(m, i+2)
		area += r3.Norm(r3.Cross(r3.Sub(b, a), r3.Sub(c, a))) / 2
	}
	apart = max(apart, math.Sqrt(area/mostPlaces))
	// Small triangles together are one place, as far as they go.
	var sum r3.Vec
	gathered := 0.0
	for i := 0; i+2 < len(m.Indices); i += 3 {
		a, b, c := vertex(m, i), vertex(m, i+1), vertex(m, i+2)
		each(a, b, c, apart, func(at r3.Vec, area float64) {
			if gathered > 0 && (gathered+area > apart*apart || r3.Norm(r3.Sub(at, r3.Scale(1/gathered, sum))) > apart/2) {
				out = append(out, place{r3.Scale(1/gathered, sum), float32(gathered)})
				sum, gathered = r3.Vec{}, 0
			}
			sum, gathered = r3.Add(sum, r3.Scale(area, at)), gathered+area
		})
	}
	if gathered > 0 {
		out = append(out, place{r3.Scale(1/gathered, sum), float32(gathered)})
	}
	return out
}

// each spreads places over a triangle in rows along its longest side.
func each(a, b, c r3.Vec, apart float64, do func(at r3.Vec, area float64)) {
	if l := r3.Norm2(r3.Sub(c, b)); l > r3.Norm2(r3.Sub(b, a)) && l >= r3.Norm2(r3.Sub(a, c)) {
		a, b, c = b, c, a
	} else if r3.Norm2(r3.Sub(a, c)) > r3.Norm2(r3.Sub(b, a)) {
		a, b, c = c, a, b
	}
	long := r3.Norm(r3.Sub(b, a))
	area := r3.Norm(r3.Cross(r3.Sub(b, a), r3.Sub(c, a))) / 2
	if !(area > 0) || math.IsInf(area, 0) {
		return
	}
	rows := math.Min(4096, math.Ceil(2*area/long/apart))
	for j := range int(rows) {
		t0, t1 := float64(j)/rows, float64(j+1)/rows
		wide := (t1 - t0) - (t1*t1-t0*t0)/2                   // a row's share of half the triangle
		t := ((t1*t1-t0*t0)/2 - (t1*t1*t1-t0*t0*t0)/3) / wide // where its middle is
		from, to := r3.Add(a, r3.Scale(t, r3.Sub(c, a))), r3.Add(b, r3.Scale(t, r3.Sub(c, b)))
		count := math.Min(4096, math.Max(1, math.Ceil(long*(1-t)/apart)))
		part := area * 2 * wide / count
		for k := range int(count) {
			do(r3.Add(from, r3.Scale((float64(k)+0.5)/count, r3.Sub(to, from))), part)
		}
	}
}

// splat counts a place in the 27 cells around it, by a quadratic spline.
func (f *Field) splat(at r3.Vec, area float32, sign int32) {
	d := r3.Scale(1/f.Cell, r3.Sub(at, f.From))
	if !(d.X >= 1 && d.Y >= 1 && d.Z >= 1 && d.X < Wide-1 && d.Y < High-1 && d.Z < Wide-1) {
		return
	}
	var w [3][3]int32
	var i [3]int
	for k, v := range [3]float64{d.X, d.Y, d.Z} {
		i[k] = int(v)
		t := v - float64(i[k]) - 0.5 // from the middle of the cell
		w[k] = [3]int32{int32(128 * (0.5 - t) * (0.5 - t)), 0, int32(128 * (0.5 + t) * (0.5 + t))}
		w[k][1] = 256 - w[k][0] - w[k][2]
		f.first[k], f.last[k] = min(f.first[k], i[k]-1), max(f.last[k], i[k]+1)
	}
	much := sign * int32(float64(area)/(f.Cell*f.Cell)*(1<<(layer-8)))
	for z, wz := range w[2] {
		for y, wy := range w[1] {
			row := f.sums[((i[2]+z-1)*High+i[1]+y-1)*Wide+i[0]-1:][:3]
			k := wz * wy >> 8
			row[0] += k * w[0][0] >> 8 * much
			row[1] += k * w[0][1] >> 8 * much
			row[2] += k * w[0][2] >> 8 * much
		}
	}
}

// settle makes bytes of the counts that have changed, and finds the bricks that are free.
func (f *Field) settle() {
	if f.last[0] < 0 {
		return
	}
	f.Version = int(versions.Add(1))
	for z := f.first[2]; z <= f.last[2]; z++ {
		for y := f.first[1]; y <= f.last[1]; y++ {
			row := (z*High + y) * Wide
			edge := min(z, Wide-1-z, y, High-1-y)
			for x := f.first[0]; x <= f.last[0]; x++ {
				v := int64(f.sums[row+x]) * 255 / int64(Layers*(1<<layer))
				if e := min(edge, x, Wide-1-x); e < margin {
					v = v * int64(e) / margin
				}
				f.Bytes[row+x] = uint8(max(0, min(255, v)))
			}
		}
	}
	const quiet = uint8(255 * 17 / 200) // Free, rounded down
	var lo, hi [3]int
	for k, n := range [3]int{Wide, High, Wide} {
		lo[k], hi[k] = max(0, f.first[k]-1)/brick, min(n-1, f.last[k]+1)/brick
	}
	for bz := lo[2]; bz <= hi[2]; bz++ {
		for by := lo[1]; by <= hi[1]; by++ {
			for bx := lo[0]; bx <= hi[0]; bx++ {
				f.loud[(bz*(High/brick)+by)*(Wide/brick)+bx] = f.over(bx*brick-1, by*brick-1, bz*brick-1, quiet)
			}
		}
	}
}

// over tells whether a brick, with a cell to each side of it, has more than a byte.
func (f *Field) over(x0, y0, z0 int, limit uint8) bool {
	for z := max(0, z0); z < min(Wide, z0+brick+2); z++ {
		for y := max(0, y0); y < min(High, y0+brick+2); y++ {
			row := (z*High + y) * Wide
			for _, v := range f.Bytes[row+max(0, x0) : row+min(Wide, x0+brick+2)] {
				if v > limit {
					return true
				}
			}
		}
	}
	return false
}

// Quiet tells that nothing is darkened anywhere between two corners, in cells.
func (f *Field) Quiet(lo, hi [3]float32) bool {
	var a, b [3]int
	size := 1
	for k, n := range [3]int{Wide, High, Wide} {
		if !(lo[k] < float32(n) && hi[k] > 0) { // beside the box
			return true
		}
		a[k], b[k] = int(max(0, lo[k]))/brick, int(min(float32(n-1), hi[k]))/brick
		size *= b[k] - a[k] + 1
	}
	if size > 64 {
		return false
	}
	for z := a[2]; z <= b[2]; z++ {
		for y := a[1]; y <= b[1]; y++ {
			row := (z*(High/brick) + y) * (Wide / brick)
			for _, loud := range f.loud[row+a[0] : row+b[0]+1] {
				if loud {
					return false
				}
			}
		}
	}
	return true
}

// Sky returns the share of the sky's light that gets to a place given in cells, already
// moved along its normal.
func (f *Field) Sky(x, y, z float32) float32 {
	x, y, z = x-0.5, y-0.5, z-0.5
	if !(x >= 0 && y >= 0 && z >= 0 && x < Wide-1 && y < High-1 && z < Wide-1) {
		return 1
	}
	i, j, k := int(x), int(y), int(z)
	u, v, w := x-float32(i), y-float32(j), z-float32(k)
	c := f.Corners((k*High+j)*Wide + i)
	row := func(c uint16) float32 {
		first := float32(c & 255)
		return first + (float32(c>>8)-first)*u
	}
	near, far := row(c[0]), row(c[2])
	p, q := near+(row(c[1])-near)*v, far+(row(c[3])-far)*v
	d := ((p+(q-p)*w)*(Layers/255) - Free) * Gain
	return 1 - Most*max(0, min(1, d))
}

// Corners returns the bytes of a cell, and of the one after it along x as the upper half;
// then those over them, and both of these again a cell further along z.
func (f *Field) Corners(at int) [4]uint16 {
	b := f.Bytes[at : at+(High+1)*Wide+2]
	return [4]uint16{
		binary.LittleEndian.Uint16(b), binary.LittleEndian.Uint16(b[Wide:]),
		binary.LittleEndian.Uint16(b[High*Wide:]), binary.LittleEndian.Uint16(b[(High+1)*Wide:]),
	}
}
