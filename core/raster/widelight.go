//go:build goexperiment.simd && amd64

package raster

import (
	"math/bits"
	"simd/archsimd"

	"proscen/core/ambient"
)

type f8 = archsimd.Float32x8

func all(v float32) f8 { return archsimd.BroadcastFloat32x8(v) }

// eights are numbers of the pixels in a block's row, while each is looked up by itself.
type eights = [side]float32

var rowSteps = eights{0, 1, 2, 3, 4, 5, 6, 7}

// ofWide is of for a row of pixels.
func (p *plane) ofWide(x, y f8) f8 { return all(p.at).Add(all(p.x).Mul(x)).Add(all(p.y).Mul(y)) }

// rayWide returns one axis of the rays through a row of pixels, of depth 1.
func (r *rays) rayWide(k int, x, y f8) f8 {
	return all(r.ray0[k]).Add(all(r.rayX[k]).Mul(x)).Add(all(r.rayY[k]).Mul(y))
}

// atWide returns one axis of the places at a depth along them.
func (r *rays) atWide(k int, x, y, depth f8) f8 {
	return all(r.eye[k]).Add(r.rayWide(k, x, y).Mul(depth))
}

// pixelsWide is at for the middles of some pixels of a block.
func (f *face) pixelsWide(t *tileScratch, s *shader, b *block, some uint64) {
	left, top := float32(b.x)+0.5, float32(b.y)+0.5
	for y := range side {
		const row = 1<<side - 1
		if some>>(y*side)&row == row {
			some &^= row << (y * side)
			f.atWide(t, s, all(left).Add(archsimd.LoadFloat32x8(&rowSteps)), all(top+float32(y)), row, (*[side]uint32)(t.colors[y*side:]))
		}
	}
	var x, y eights
	var which [side]int32
	var colors [side]uint32
	for some != 0 {
		n := 0
		for ; some != 0 && n < side; some &= some - 1 {
			i := int32(bits.TrailingZeros64(some)) & (pixels - 1)
			which[n], x[n], y[n] = i, left+float32(i%side), top+float32(i/side)
			n++
		}
		f.atWide(t, s, archsimd.LoadFloat32x8(&x), archsimd.LoadFloat32x8(&y), uint8(1<<n-1), &colors)
		for k, i := range which[:n] {
			t.colors[i&(pixels-1)] = colors[k]
		}
	}
}

// placesWide is at for the places of at most eight stakes.
func (f *face) placesWide(t *tileScratch, s *shader, stakes []*stake, colors *[side]uint32) {
	var x, y eights
	for i, k := range stakes {
		x[i&(side-1)], y[i&(side-1)] = k.x, k.y
	}
	f.atWide(t, s, archsimd.LoadFloat32x8(&x), archsimd.LoadFloat32x8(&y), uint8(1<<len(stakes)-1), colors)
}

// atWide is at for some of eight places, whose bits are set. No face is the sky.
func (f *face) atWide(t *tileScratch, s *shader, x, py f8, some uint8, out *[side]uint32) {
	if f == nil {
		s.skyWide(x, py, some, out)
		return
	}
	l := &f.light
	var zero f8
	one := all(1)

	var depth f8
	if s.haze > 0 || len(t.lamps) > 0 || !f.free || f.sunny < 0 {
		tr := f.t
		iw := all(tr.z).Add(all(tr.zx).Mul(x.Sub(all(float32(tr.x[0]) / sub)))).Add(all(tr.zy).Mul(py.Sub(all(float32(tr.y[0]) / sub))))
		far := all(tr.far)
		depth = one.Div(far.Merge(iw, far.Greater(iw)))
	}

	var red, green, blue f8
	switch {
	case f.ready:
		red, green, blue = all(f.tone[0]), all(f.tone[1]), all(f.tone[2])
	case f.even && f.free && len(t.lamps) == 0:
		d := f.sunWide(s, x, py, depth, zero, zero, zero, zero, some)
		full, none := d.Equal(one), d.Equal(zero)
		mix := func(k int) f8 {
			in, out := all(f.tones[0][k]), all(f.tones[1][k])
			return out.Merge(in.Merge(out.Add(in.Sub(out).Mul(d)), full), none)
		}
		red, green, blue = mix(0), mix(1), mix(2)
	default:
		nx, ny, nz := all(l.n[0]), all(l.n[1]), all(l.n[2])
		sunward := all(l.sunward)
		red, green, blue = all(l.hemi[0]), all(l.hemi[1]), all(l.hemi[2])
		if !f.flat {
			nx, ny, nz = f.normal[0].ofWide(x, py), f.normal[1].ofWide(x, py), f.normal[2].ofWide(x, py)
			short := one.Div(nx.Mul(nx).Add(ny.Mul(ny)).Add(nz.Mul(nz)).Add(all(1e-20)).Sqrt())
			nx, ny, nz = nx.Mul(short), ny.Mul(short), nz.Mul(short)
			k := all(0.5).Add(all(0.5).Mul(ny))
			red, green, blue = all(s.ground[0]).Add(all(s.upward[0]).Mul(k)), all(s.ground[1]).Add(all(s.upward[1]).Mul(k)), all(s.ground[2]).Add(all(s.upward[2]).Mul(k))
			sunward = nx.Mul(all(s.sunDir[0])).Add(ny.Mul(all(s.sunDir[1]))).Add(nz.Mul(all(s.sunDir[2])))
		}
		if !f.free {
			open := f.openWide(s, x, py, depth, nx, ny, nz, some)
			red, green, blue = red.Mul(open), green.Mul(open), blue.Mul(open)
		}
		if toward := sunward.Greater(zero); toward.ToBits() != 0 {
			d := sunward.Masked(toward)
			if s.shadow != nil {
				d = d.Mul(f.sunWide(s, x, py, depth, nx, ny, nz, sunward, some))
			}
			red, green, blue = red.Add(all(s.sun[0]).Mul(d)), green.Add(all(s.sun[1]).Mul(d)), blue.Add(all(s.sun[2]).Mul(d))
		}
		if len(t.lamps) > 0 {
			red, green, blue = f.lampsWide(t, s, x, py, depth, nx, ny, nz, red, green, blue, some)
		}
		baseR, baseG, baseB, glow := all(l.base[0]), all(l.base[1]), all(l.base[2]), all(l.glow)
		if f.colored {
			baseR, baseG, baseB, glow = f.paintWide(x, py, some)
		}
		dull := one.Sub(glow)
		red = baseR.Mul(red.Mul(dull).Add(glow.Mul(all(s.shine[0]))))
		green = baseG.Mul(green.Mul(dull).Add(glow.Mul(all(s.shine[1]))))
		blue = baseB.Mul(blue.Mul(dull).Add(glow.Mul(all(s.shine[2]))))
	}
	if s.haze > 0 {
		k := s.hazeWide(x, py, depth, some)
		red = red.Add(all(s.horizon[0]).Sub(red).Mul(k))
		green = green.Add(all(s.horizon[1]).Sub(green).Mul(k))
		blue = blue.Add(all(s.horizon[2]).Sub(blue).Mul(k))
	}

	s.curve.finishWide(red, green, blue, some, out)
}

// skyWide is background for some of eight places.
func (s *shader) skyWide(x, y f8, some uint8, out *[side]uint32) {
	var zero f8
	one := all(1)
	dx, dy, dz := s.rayWide(0, x, y), s.rayWide(1, x, y), s.rayWide(2, x, y)
	short := one.Div(dx.Mul(dx).Add(dy.Mul(dy)).Add(dz.Mul(dz)).Add(all(1e-20)).Sqrt())
	dx, dy, dz = dx.Mul(short), dy.Mul(short), dz.Mul(short)
	above := dy.GreaterEqual(zero)
	up, down := dy.Masked(above).Sqrt(), all(-4).Mul(dy).Min(one)
	h := dx.Mul(all(s.sunDir[0])).Add(dy.Mul(all(s.sunDir[1]))).Add(dz.Mul(all(s.sunDir[2])))
	h = h.Masked(h.Greater(zero))
	for k := 1; k < haloPower; k *= 2 {
		h = h.Mul(h)
	}
	color := func(k int) f8 {
		horizon := all(s.horizon[k])
		high := horizon.Add(all(s.zenith[k] - s.horizon[k]).Mul(up))
		low := horizon.Add(all(s.ground[k] - s.horizon[k]).Mul(down))
		return high.Merge(low, above).Add(all(s.sun[k]).Mul(h).Mul(all(haloGain)))
	}
	s.curve.finishWide(color(0), color(1), color(2), some, out)
}

// finishWide is finish for some of eight lights.
func (c *toneCurve) finishWide(red, green, blue f8, some uint8, out *[side]uint32) {
	var r, g, b [side]int32
	c.stepsWide(red).Store(&r)
	c.stepsWide(green).Store(&g)
	c.stepsWide(blue).Store(&b)
	archsimd.ClearAVXUpperBits()
	for m := some; m != 0; m &= m - 1 {
		k := bits.TrailingZeros8(m) & (side - 1)
		out[k] = uint32(c.to[r[k]&(toneSteps-1)]) | uint32(c.to[g[k]&(toneSteps-1)])<<8 | uint32(c.to[b[k]&(toneSteps-1)])<<16 | 255<<24
	}
}

// stepsWide returns which steps of the curve light is on.
func (c *toneCurve) stepsWide(light f8) archsimd.Int32x8 {
	var zero f8
	i := light.Mul(all(c.steps))
	return i.Masked(light.GreaterEqual(zero)).Min(all(toneSteps - 1)).ConvertToInt32()
}

// sunWide is sun for a row of pixels; where the face is not flat, it is moved by the
// normals. What is turned away from the sun is not looked at.
func (f *face) sunWide(s *shader, x, y, depth, nx, ny, nz, sunward f8, some uint8) f8 {
	if f.sunny >= 0 {
		return all(f.sunny)
	}
	c := &s.cast
	mx, my, mz := all(f.moved[0]), all(f.moved[1]), all(f.moved[2])
	asked := some
	if !f.flat {
		var zero f8
		by := all(c.least)
		if c.slope > 0 {
			sine2 := all(1).Sub(sunward.Mul(sunward))
			by = by.Add(all(c.slope).Mul(sine2.Masked(sine2.Greater(zero)).Sqrt()))
		}
		move := func(k int) f8 {
			return all(c.bias[k][0]).Mul(nx).Add(all(c.bias[k][1]).Mul(ny)).Add(all(c.bias[k][2]).Mul(nz)).Mul(by)
		}
		mx, my, mz = move(0), move(1), move(2)
		asked &= sunward.Greater(zero).ToBits()
	}
	var px, py, pz, share eights
	c.atWide(0, x, y, depth).Add(mx).Store(&px)
	c.atWide(1, x, y, depth).Add(my).Store(&py)
	c.atWide(2, x, y, depth).Add(mz).Store(&pz)
	for ; asked != 0; asked &= asked - 1 {
		k := bits.TrailingZeros8(asked) & (side - 1)
		share[k] = s.shadow.reachesWide(px[k], py[k], pz[k], c.sharp)
	}
	return archsimd.LoadFloat32x8(&share)
}

// reachesWide is reaches, with a row of the map compared at once.
func (m *shadowMap) reachesWide(x, y, z float32, sharp bool) float32 {
	if sharp || m.beside(x, y, z) {
		return m.reaches(x, y, z, sharp)
	}
	ix, iy := int(x), int(y)
	at := (iy-1)*m.size + ix - 1
	deep := archsimd.BroadcastFloat32x4(z)
	lit := func(at int) uint32 {
		return uint32(archsimd.LoadFloat32x4((*[4]float32)(m.depth[at:])).Greater(deep).ToBits())
	}
	rows := lit(at) | lit(at+m.size)<<4 | lit(at+2*m.size)<<8 | lit(at+3*m.size)<<12
	const asked = 0x9669 // the middle and the corners
	switch rows & asked {
	case asked:
		return 1
	case 0:
		return 0
	}
	u, v := x-float32(ix), y-float32(iy)
	across := func(row uint32) float32 {
		return float32(row&1)*(1-u) + float32(row>>1&1) + float32(row>>2&1) + float32(row>>3&1)*u
	}
	return (across(rows)*(1-v) + across(rows>>4) + across(rows>>8) + across(rows>>12)*v) / 9
}

// openWide is how much of the sky some of eight places see, as ambient.Field.Sky tells it.
func (f *face) openWide(s *shader, x, y, depth, nx, ny, nz f8, some uint8) f8 {
	var zero f8
	one, half, step := all(1), all(0.5), all(ambient.Step)
	px := s.among.atWide(0, x, y, depth).Add(nx.Mul(step)).Sub(half)
	py := s.among.atWide(1, x, y, depth).Add(ny.Mul(step)).Sub(half)
	pz := s.among.atWide(2, x, y, depth).Add(nz.Mul(step)).Sub(half)
	inside := px.GreaterEqual(zero).And(py.GreaterEqual(zero)).And(pz.GreaterEqual(zero)).
		And(px.Less(all(ambient.Wide - 1))).And(py.Less(all(ambient.High - 1))).And(pz.Less(all(ambient.Wide - 1)))
	asked := inside.ToBits() & some
	if asked == 0 {
		return one
	}
	i, j, k := px.ConvertToInt32(), py.ConvertToInt32(), pz.ConvertToInt32()
	u, v, w := px.Sub(i.ConvertToFloat32()), py.Sub(j.ConvertToFloat32()), pz.Sub(k.ConvertToFloat32())
	var at [side]int32
	k.Mul(archsimd.BroadcastInt32x8(ambient.High)).Add(j).Mul(archsimd.BroadcastInt32x8(ambient.Wide)).Add(i).Store(&at)
	var corners [4][side]int32
	for ; asked != 0; asked &= asked - 1 {
		n := bits.TrailingZeros8(asked) & (side - 1)
		for c, v := range s.around.Corners(int(at[n])) {
			corners[c][n] = int32(v)
		}
	}
	row := func(c int) f8 {
		both := archsimd.LoadInt32x8(&corners[c])
		first := both.And(archsimd.BroadcastInt32x8(255)).ConvertToFloat32()
		return first.Add(both.ShiftAllRight(8).ConvertToFloat32().Sub(first).Mul(u))
	}
	near, far := row(0), row(2)
	p, q := near.Add(row(1).Sub(near).Mul(v)), far.Add(row(3).Sub(far).Mul(v))
	d := p.Add(q.Sub(p).Mul(w)).Mul(all(ambient.Layers / 255)).Sub(all(ambient.Free)).Mul(all(ambient.Gain))
	return one.Sub(all(ambient.Most).Mul(d.Min(one).Max(zero))).Merge(one, inside)
}

// lampsWide adds the light of lamps.
func (f *face) lampsWide(t *tileScratch, s *shader, x, y, depth, nx, ny, nz, red, green, blue f8, some uint8) (r, g, b f8) {
	ax, ay, az := s.rays.atWide(0, x, y, depth), s.rays.atWide(1, x, y, depth), s.rays.atWide(2, x, y, depth)
	for _, l := range t.lamps {
		known := f.known(l)
		if known == 0 {
			continue
		}
		v := l.shineWide(nx, ny, nz, ax, ay, az, known, some)
		red, green, blue = red.Add(all(l.color[0]).Mul(v)), green.Add(all(l.color[1]).Mul(v)), blue.Add(all(l.color[2]).Mul(v))
	}
	return red, green, blue
}

// shineWide is shine at some of eight places, where it is not known that no light reaches them.
func (l *lamp) shineWide(nx, ny, nz, ax, ay, az f8, known float32, some uint8) f8 {
	var zero f8
	one := all(1)
	tx, ty, tz := all(l.at[0]).Sub(ax), all(l.at[1]).Sub(ay), all(l.at[2]).Sub(az)
	d2 := tx.Mul(tx).Add(ty.Mul(ty)).Add(tz.Mul(tz))
	w := one.Sub(d2.Mul(all(l.reach2)))
	d := nx.Mul(tx).Add(ny.Mul(ty)).Add(nz.Mul(tz))
	dark := w.LessEqual(zero).Or(d.LessEqual(zero))
	if dark.ToBits() == 255 {
		return zero
	}
	away := one.Div(d2.Add(all(1e-12)).Sqrt())
	k := w.Mul(w).Div(all(0.2).Add(all(0.8).Mul(d2))).Mul(d).Mul(away)
	if l.spot {
		c := zero.Sub(all(l.dir[0]).Mul(tx).Add(all(l.dir[1]).Mul(ty)).Add(all(l.dir[2]).Mul(tz))).Mul(away)
		e := c.Sub(all(l.outer)).Mul(all(l.sharp)).Min(one).Max(zero)
		k = k.Mul(e.Mul(e).Mul(all(3).Sub(all(2).Mul(e))))
	}
	k = zero.Merge(k, dark)
	if asked := k.Greater(zero).ToBits() & some; known < 0 && asked != 0 {
		k = k.Mul(l.shade.reachesWide(nx, ny, nz, tx, ty, tz, asked))
	}
	return k
}

// reachesWide is reaches at some of eight places.
func (h *shade) reachesWide(nx, ny, nz, tx, ty, tz f8, some uint8) f8 {
	var zero f8
	one := all(1)
	dx, dy, dz := zero.Sub(tx), zero.Sub(ty), zero.Sub(tz)
	f := &h.faces[0]
	var right, up, deep, nr, nu, nw f8
	var first, second, back uint8 // which of them lie along X, along Y, and along an axis backwards
	if len(h.maps) == 1 {
		along := func(v *[3]float32, x, y, z f8) f8 {
			return x.Mul(all(v[0])).Add(y.Mul(all(v[1]))).Add(z.Mul(all(v[2])))
		}
		right, up, deep = along(&f.right, dx, dy, dz), along(&f.up, dx, dy, dz), along(&f.way, dx, dy, dz)
		nr, nu, nw = along(&f.right, nx, ny, nz), along(&f.up, nx, ny, nz), along(&f.way, nx, ny, nz)
	} else {
		x, y, z := dx.Max(tx), dy.Max(ty), dz.Max(tz)
		isX := x.GreaterEqual(y).And(x.GreaterEqual(z))
		isY := y.GreaterEqual(z)
		pick := func(x, y, z f8) f8 { return x.Merge(y.Merge(z, isY), isX) }
		right, up, nr, nu = pick(dy, dz, dx), pick(dz, dx, dy), pick(ny, nz, nx), pick(nz, nx, ny)
		way, n := pick(dx, dy, dz), pick(nx, ny, nz)
		backward := way.Less(zero)
		deep, nw = zero.Sub(way).Merge(way, backward), zero.Sub(n).Merge(n, backward)
		first, back = isX.ToBits(), backward.ToBits()
		second = isY.ToBits() &^ first
	}
	sine2 := one.Sub(nw.Mul(nw))
	by := deep.Mul(all(f.pixel)).Mul(all(shadowLeast).Add(all(shadowSlope).Mul(sine2.Masked(sine2.Greater(zero)).Sqrt())))
	deep = deep.Add(nw.Mul(by))
	k := all(f.scale).Div(deep)
	var px, py, pz eights
	right.Add(nr.Mul(by)).Mul(k).Add(all(f.middle)).Store(&px)
	up.Add(nu.Mul(by)).Mul(k).Add(all(f.middle)).Store(&py)
	one.Sub(all(LampNear).Div(deep.Mul(all(1 - lampSlack)))).Store(&pz)
	asked := some & deep.Greater(all(LampNear)).ToBits()
	share := eights{1, 1, 1, 1, 1, 1, 1, 1}
	for ; asked != 0; asked &= asked - 1 {
		i := bits.TrailingZeros8(asked) & (side - 1)
		m := 0
		if len(h.maps) > 1 {
			m = 4 - 4*int(first>>i&1) - 2*int(second>>i&1) + int(back>>i&1)
		}
		share[i] = h.maps[m].reachesWide(px[i], py[i], pz[i], false)
	}
	return archsimd.LoadFloat32x8(&share)
}

// paintWide is the colour of a row of pixels whose corners differ.
func (f *face) paintWide(x, y f8, some uint8) (red, green, blue, glow f8) {
	depth := all(1).Div(f.w.ofWide(x, y))
	tint := func(k int) f8 { return f.tint[k].ofWide(x, y).Mul(depth) }
	red, green, blue, glow = tint(0), tint(1), tint(2), tint(3)
	if f.texture == nil {
		return red, green, blue, glow
	}
	var u, v, deep eights
	var on [3]eights
	depth.Store(&deep)
	f.u.ofWide(x, y).Mul(depth).Store(&u)
	f.v.ofWide(x, y).Mul(depth).Store(&v)
	for m := some; m != 0; m &= m - 1 {
		k := bits.TrailingZeros8(m) & (side - 1)
		for c, value := range f.pictured(u[k], v[k], deep[k]) {
			on[c][k] = value
		}
	}
	times := func(tint f8, k int) f8 { return tint.Mul(archsimd.LoadFloat32x8(&on[k])) }
	return times(red, 0), times(green, 1), times(blue, 2), glow
}

// hazeWide is hazed for a row of pixels.
func (s *shader) hazeWide(x, y, depth f8, some uint8) f8 {
	rx, ry, rz := s.rayWide(0, x, y), s.rayWide(1, x, y), s.rayWide(2, x, y)
	away := depth.Mul(rx.Mul(rx).Add(ry.Mul(ry)).Add(rz.Mul(rz)).Sqrt())
	high := all(s.eye[1]).Add(ry.Mul(depth))
	return all(1).Sub(fadeWide(s.thicknessWide(away, high, some), some))
}

// thicknessWide is thickness for eight points.
func (s *shader) thicknessWide(distance, y f8, some uint8) f8 {
	t := distance.Mul(all(s.haze))
	if s.rise == 0 {
		return t
	}
	var zero f8
	one := all(1)
	a, b := (s.eye[1]-s.base)*s.rise, y.Sub(all(s.base)).Mul(all(s.rise))
	ea, d := all(power(a)), b.Sub(all(a))
	level := d.Less(all(0.01)).And(d.Greater(all(-0.01)))
	above := b.GreaterEqual(zero)
	f := fadeWide(b.Merge(zero.Sub(b).Min(all(20)), above), some)
	eb := f.Merge(one.Div(f.Max(all(2e-9))), above) // power
	return t.Mul(ea).Mul(one.Sub(d.Mul(all(0.5)))).Merge(t.Mul(ea.Sub(eb)).Div(d), level).Min(all(80))
}

// fadeWide is fade for some of eight numbers.
func fadeWide(x f8, some uint8) f8 {
	x = x.Mul(all(fadeSteps))
	within := x.Less(all(fadeReach * fadeSteps))
	x = x.Masked(within)
	step := x.ConvertToInt32()
	f := x.Sub(step.ConvertToFloat32())
	var at [side]int32
	var from, to eights
	step.Store(&at)
	for m := some; m != 0; m &= m - 1 {
		n := bits.TrailingZeros8(m) & (side - 1)
		i := at[n] & (fadeReach*fadeSteps - 1)
		from[n], to[n] = fadeTable[i], fadeTable[i+1]
	}
	lo := archsimd.LoadFloat32x8(&from)
	return lo.Add(archsimd.LoadFloat32x8(&to).Sub(lo).Mul(f)).Masked(within)
}

// cornersWide is corners, all four at once.
func (f *face) cornersWide(r *rays, b *block) (lo, hi [3]float32, ok bool) {
	tr := f.t
	x := archsimd.BroadcastFloat32x4(float32(b.x)).Add(archsimd.LoadFloat32x4(&cornerX))
	y := archsimd.BroadcastFloat32x4(float32(b.y)).Add(archsimd.LoadFloat32x4(&cornerY))
	right, down := x.Sub(archsimd.BroadcastFloat32x4(float32(tr.x[0])/sub)), y.Sub(archsimd.BroadcastFloat32x4(float32(tr.y[0])/sub))
	iw := archsimd.BroadcastFloat32x4(tr.z).Add(archsimd.BroadcastFloat32x4(tr.zx).Mul(right)).Add(archsimd.BroadcastFloat32x4(tr.zy).Mul(down))
	var zero archsimd.Float32x4
	if iw.Greater(zero).ToBits() != 15 {
		return lo, hi, false
	}
	depth := archsimd.BroadcastFloat32x4(1).Div(iw)
	for k := range lo {
		ray := archsimd.BroadcastFloat32x4(r.ray0[k]).Add(archsimd.BroadcastFloat32x4(r.rayX[k]).Mul(x)).Add(archsimd.BroadcastFloat32x4(r.rayY[k]).Mul(y))
		var v [4]float32
		archsimd.BroadcastFloat32x4(r.eye[k]).Add(ray.Mul(depth)).Store(&v)
		lo[k], hi[k] = lesser(lesser(v[0], v[1]), lesser(v[2], v[3])), greater(greater(v[0], v[1]), greater(v[2], v[3]))
	}
	return lo, hi, true
}

var (
	cornerX = [4]float32{0, side, 0, side}
	cornerY = [4]float32{0, 0, side, side}
)
