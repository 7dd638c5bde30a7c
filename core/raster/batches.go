package raster

import (
	"fmt"
	"math"
	"slices"
	"sync"
	"sync/atomic"

	"proscen/core/geom"
	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

// batch is a cluster of a draw's triangles. Each tile looks at batches from near to far, and
// leaves out those that lie behind what is there, by their boxes alone: the vertices of a
// batch are not placed, and its triangles not set up, until a tile asks for it.
type batch struct {
	found
	lock  sync.Mutex
	ready atomic.Bool
	// What it comes to, once it is ready.
	triangles []triangle
	spans     []span // of the triangles
}

// found is a cluster of a draw that may be seen.
type found struct {
	extent
	draw    uint32 // of the frame's draws
	cluster *kit.Cluster
}

// extent is where a box may be seen.
type extent struct {
	none   bool    // nowhere
	all    bool    // all of it is in front of the camera: nothing needs to be clipped
	middle float32 // depth of its middle, 0 for what is behind the camera too
	near   float32 // no place in it has a larger 1/w
	x0, y0 int32   // pixels that it may touch
	x1, y1 int32
}

// rounding bounds what single precision takes from or adds to a sum of four products, as a
// share of the sum of their sizes.
const rounding = 1. / (1 << 21)

// extent tells where a box of the draw's mesh may be seen in a picture.
func (p *placed) extent(b geom.Box, width, height int) (e extent) {
	// x·w, y·w and w at the box's first corner, what each of its sides adds to them, and by
	// how much vertices may miss them.
	var at, right, up, back, slack [3]float64
	size := r3.Sub(b.Max, b.Min)
	wide, high, deep := max(math.Abs(b.Min.X), math.Abs(b.Max.X)), max(math.Abs(b.Min.Y), math.Abs(b.Max.Y)), max(math.Abs(b.Min.Z), math.Abs(b.Max.Z))
	for k := range at {
		m := (*[4]float64)(p.toPicture[[3]int{0, 4, 12}[k]:])
		at[k] = m[0]*b.Min.X + m[1]*b.Min.Y + m[2]*b.Min.Z + m[3]
		right[k], up[k], back[k] = m[0]*size.X, m[1]*size.Y, m[2]*size.Z
		slack[k] = rounding * (math.Abs(m[0])*wide + math.Abs(m[1])*high + math.Abs(m[2])*deep + math.Abs(m[3]))
	}
	w0, h0 := float64(width), float64(height)
	gx, gy := w0*guard/2, h0*guard/2
	beside, above := slack[0]+w0*slack[2], slack[1]+h0*slack[2]
	var beyond uint8 = 1<<5 - 1 // the sides that all corners are beyond
	least := math.Inf(1)
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	e.all = true
	for i := range 8 {
		x, y, w := at[0], at[1], at[2]
		if i&1 != 0 {
			x, y, w = x+right[0], y+right[1], w+right[2]
		}
		if i&2 != 0 {
			x, y, w = x+up[0], y+up[1], w+up[2]
		}
		if i&4 != 0 {
			x, y, w = x+back[0], y+back[1], w+back[2]
		}
		out := one(w < nearClip-slack[2]) | one(x < -slack[0])<<1 | one(x > w0*w+beside)<<2 | one(y < -slack[1])<<3 | one(y > h0*w+above)<<4
		beyond &= out
		e.all = e.all && w >= nearClip && w < endless && x > -gx*w && x < (gx+w0)*w && y > -gy*w && y < (gy+h0)*w
		least = geom.Lesser(least, w)
		inv := 1 / w
		px, py := x*inv, y*inv
		lo[0], hi[0], lo[1], hi[1] = geom.Lesser(lo[0], px), geom.Greater(hi[0], px), geom.Lesser(lo[1], py), geom.Greater(hi[1], py)
	}
	e.none = beyond != 0
	e.middle = float32(max(0, at[2]+(right[2]+up[2]+back[2])/2))
	if !(least-slack[2] > nearClip/2) {
		e.near, e.x1, e.y1 = infinite, int32(width)-1, int32(height)-1
		return e
	}
	e.near = float32((1 + 1e-6) / (least - slack[2]))
	var first, last [2]int32
	for k, side := range [2]float64{w0, h0} {
		more := 1 + (slack[k]+max(math.Abs(lo[k]), math.Abs(hi[k]))*slack[2])/least
		from, to := 0., side-1 // for what is no number as well
		if v := lo[k] - more; v > 0 {
			from = min(v, side-1)
		}
		if v := hi[k] + more; v < to {
			to = max(v, 0)
		}
		first[k], last[k] = int32(from), int32(to)
	}
	e.x0, e.y0, e.x1, e.y1 = first[0], first[1], last[0], last[1]
	return e
}

func one(is bool) uint8 {
	if is {
		return 1
	}
	return 0
}

// span is a rectangle of pixels, as four numbers of 15 bits: where it begins, and how far
// before spanEnd it ends.
type span uint64

const (
	spanEnd  = 1 << 14 // beyond all pixels
	spanTops = 0x8000800080008000
)

func spanOf(x0, y0, x1, y1 int32) span {
	return span(x0) | span(y0)<<16 | span(spanEnd-x1)<<32 | span(spanEnd-y1)<<48
}

// reaching returns what spans are asked with whether they reach into a rectangle.
func reaching(x0, y0, x1, y1 int32) span { return spanOf(x1, y1, x0, y0) | spanTops }

// into tells whether a span reaches into the rectangle that was asked with.
func (s span) into(asked span) bool { return (asked-s)&spanTops == spanTops }

// chunk is a run of batches, and which of them each tile may show.
type chunk struct {
	bins  [][]uint32
	sheer [][]uint32 // of what may let through what is behind it
}

// Owners of samples are the number of a batch, and of a triangle in it.
const (
	nobody     = ^uint32(0)     // a sample that shows the sky
	several    = ^uint32(0) - 1 // a block whose samples have owners of their own
	batchShift = 9
	// What clipping makes of a triangle has at most one corner more for each plane.
	mostOfBatch = kit.ClusterSize * (clipPlanes + 1)
	mostBatches = 1<<(32-batchShift) - 1
)

// arrange finds the batches that may be seen, and which tiles may show them, those
// whose middle is the nearest first.
func (r *Renderer) arrange(in *Input, project *geom.Mat4) error {
	r.placed = grown(r.placed, len(in.Draws))
	const run = 8
	runs := (len(in.Draws) + run - 1) / run
	for len(r.runs) < runs {
		r.runs = append(r.runs, nil)
	}
	r.parallel(runs, func(_, at int) {
		r.runs[at] = r.runs[at][:0]
		for i := at * run; i < min(len(in.Draws), (at+1)*run); i++ {
			d, p := &in.Draws[i], &r.placed[i]
			p.set(&d.World, project)
			if whole := p.extent(d.Mesh.Bounds, r.width, r.height); !whole.none {
				r.runs[at] = p.divide(d, uint32(i), &whole, r, r.runs[at])
			}
		}
	})
	n := 0
	for _, found := range r.runs[:runs] {
		n += len(found)
	}
	if n > r.most {
		return fmt.Errorf("%w: it would have more than %d parts; hide something that is far away or small", ErrCrowded, r.most)
	}
	if cap(r.batches) < n {
		r.batches = make([]batch, n+n/4) // as the camera moves there may be a few more
	}
	r.batches, r.keys = r.batches[:n], r.keys[:0]
	for _, found := range r.runs[:runs] {
		for i := range found {
			at := len(r.keys)
			u := &r.batches[at]
			u.found = found[i]
			u.ready.Store(false)
			r.keys = append(r.keys, uint64(math.Float32bits(u.middle))<<32|uint64(at))
		}
	}
	slices.Sort(r.keys)
	r.parallel(len(r.chunks), func(_, i int) {
		c := &r.chunks[i]
		for k := range c.bins {
			c.bins[k], c.sheer[k] = c.bins[k][:0], c.sheer[k][:0]
		}
		for _, key := range r.keys[n*i/len(r.chunks) : n*(i+1)/len(r.chunks)] {
			c.sort(uint32(key), r)
		}
	})
	return nil
}

// divide appends the clusters of a draw that may be seen.
func (p *placed) divide(d *Draw, number uint32, whole *extent, r *Renderer, to []found) []found {
	clusters := d.Mesh.Clusters()
	if len(clusters) == 1 {
		return append(to, found{*whole, number, &clusters[0]})
	}
	for k := range clusters {
		c := &clusters[k]
		box := c.Box
		if d.Bent {
			box = c.Bounds(d.Mesh.Positions)
		}
		if e := p.extent(box, r.width, r.height); !e.none {
			to = append(to, found{e, number, c})
		}
	}
	return to
}

// sort gives a batch to the tiles that may show it.
func (c *chunk) sort(n uint32, r *Renderer) {
	u := &r.batches[n]
	bins := c.bins
	if r.draws[u.draw].Mesh.Clear() {
		bins = c.sheer
	}
	for ty := u.y0 / tile; ty <= u.y1/tile; ty++ {
		for tx := u.x0 / tile; tx <= u.x1/tile; tx++ {
			bin := &bins[int(ty)*r.tilesX+int(tx)]
			*bin = append(*bin, n)
		}
	}
}

// builder is where a thread sets up batches. What it makes stays where it is until the next
// frame.
type builder struct {
	r     *Renderer
	bent  [3][mostVertices]float32 // where the vertices of a mesh are that bends
	x, y  [mostVertices]float32    // and those of the batch at hand: pixels times depth,
	w     [mostVertices]float32    // depth,
	px    [mostVertices]int32      // fixed-point pixels,
	py    [mostVertices]int32      //
	iw    [mostVertices]float32    // 1/depth,
	codes [mostVertices]uint8      // and what they are beyond, when they may have to be clipped
	clipper

	triangles []triangle // of the batch at hand
	spans     []span
	made      store[triangle]
	spanned   store[span]
}

// mostVertices is as many as a batch may have, and as a byte can tell.
const mostVertices = 256

// store hands out room, which stays where it is.
type store[T any] struct {
	rooms [][]T
	at    int // the room at hand
}

const roomSize = 16 * mostOfBatch

// room returns an empty slice with room for n.
func (s *store[T]) room(n int) []T {
	if s.at < len(s.rooms) && cap(s.rooms[s.at])-len(s.rooms[s.at]) < n {
		s.at++
	}
	if s.at == len(s.rooms) {
		s.rooms = append(s.rooms, make([]T, 0, roomSize))
	}
	room := s.rooms[s.at]
	return room[len(room):len(room):cap(room)]
}

// keep takes n of the room that was handed out last.
func (s *store[T]) keep(n int) { s.rooms[s.at] = s.rooms[s.at][:len(s.rooms[s.at])+n] }

// forget takes all back.
func (s *store[T]) forget() {
	s.at = 0
	for i := range s.rooms {
		s.rooms[i] = s.rooms[i][:0]
	}
}

// build sets up a batch, if no other thread has.
func (c *builder) build(u *batch) {
	u.lock.Lock()
	defer u.lock.Unlock()
	if u.ready.Load() {
		return
	}
	most := mostOfBatch
	if u.all {
		most = kit.ClusterSize
	}
	c.triangles, c.spans = c.made.room(most), c.spanned.room(most)
	c.place(u)
	c.made.keep(len(c.triangles))
	c.spanned.keep(len(c.spans))
	u.triangles, u.spans = slices.Clip(c.triangles), slices.Clip(c.spans)
	u.ready.Store(true)
}

// place sets up the triangles of a batch.
func (c *builder) place(u *batch) {
	d, p := &c.r.draws[u.draw], &c.r.placed[u.draw]
	n := len(u.cluster.Vertices)
	places := &u.cluster.Places
	if d.Bent {
		places = &[3][]float32{c.bent[0][:], c.bent[1][:], c.bent[2][:]}
		u.cluster.Where(d.Mesh.Positions, places)
	}
	if c.r.eights {
		c.projectWide(p, n, places)
	} else {
		c.project(p, n, places)
	}
	if u.all {
		for _, t := range u.cluster.Triangles {
			c.setup(c.point(t.Corners[0]), c.point(t.Corners[1]), c.point(t.Corners[2]), u.draw, t.First)
		}
		return
	}
	w, h := float32(c.r.width), float32(c.r.height)
	for i := range n {
		v := c.corner(uint8(i))
		c.codes[uint8(i)] = code(&v, w, h)
	}
	for _, t := range u.cluster.Triangles {
		i, j, k := t.Corners[0], t.Corners[1], t.Corners[2]
		ci, cj, ck := c.codes[i], c.codes[j], c.codes[k]
		switch {
		case ci&cj&ck&^codeGuard != 0: // all beyond one side
		case (ci|cj|ck)&(codeNear|codeGuard) == 0:
			c.setup(c.point(i), c.point(j), c.point(k), u.draw, t.First)
		default:
			c.clip([3]corner{c.corner(i), c.corner(j), c.corner(k)}, u.draw, t.First)
		}
	}
}

func (c *builder) corner(i uint8) corner { return corner{c.x[i], c.y[i], c.w[i]} }

func (c *builder) point(i uint8) point { return point{c.px[i], c.py[i], c.iw[i]} }

// project places the vertices of a batch in the picture.
func (c *builder) project(p *placed, n int, places *[3][]float32) {
	for i := range n {
		v := p.at(places[0][i], places[1][i], places[2][i])
		q := project1(&v)
		c.x[i], c.y[i], c.w[i], c.px[i], c.py[i], c.iw[i] = v.x, v.y, v.w, q.x, q.y, q.iw
	}
}

// window is what a triangle, or a batch, may touch of a tile, and the largest 1/w that it
// may have there.
type window struct {
	near           float32
	x0, x1, y0, y1 uint8 // pixels of the tile
}

func windowOf(near float32, x0, y0, x1, y1, ox, oy int32) window {
	return window{
		near: near,
		x0:   uint8(max(0, x0-ox)), x1: uint8(min(tile-1, x1-ox)),
		y0: uint8(max(0, y0-oy)), y1: uint8(min(tile-1, y1-oy)),
	}
}

// show calls do for the triangles of some batches that may be seen in a tile.
func (t *tileScratch) show(batches []uint32, ox, oy int32, do func(tr *triangle, id uint32, in window)) {
	here := reaching(ox, oy, ox+tile-1, oy+tile-1)
	for _, n := range batches {
		u := &t.r.batches[n]
		if in := windowOf(u.near, u.x0, u.y0, u.x1, u.y1, ox, oy); t.hidden(in) {
			continue
		}
		if !u.ready.Load() {
			t.build(u)
		}
		for k, s := range u.spans {
			if !s.into(here) {
				continue
			}
			tr := &u.triangles[k]
			in := windowOf(tr.near, int32(tr.minX), int32(tr.minY), int32(tr.maxX), int32(tr.maxY), ox, oy)
			if !t.hidden(in) {
				do(tr, n<<batchShift|uint32(k), in)
			}
		}
	}
}
