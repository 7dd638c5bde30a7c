package kit

import (
	"bytes"
	"compress/flate"
	"encoding/gob"
	"errors"
	"fmt"
	"io"
	"math"

	"proscen/core/geom"

	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r3"
)

// Bundle is an imported model in the form that viewport and renderer load:
// meshes with base colours and textures, a hierarchy of nodes, skins and clips.
// Lengths are metres, Y is up, the model looks to −Z.
type Bundle struct {
	Nodes    []BundleNode
	Shapes   []Shape
	Skins    []Skin
	Clips    []Clip
	Textures []TextureData
	// Root is applied after everything: unit, axis and place.
	Root geom.Mat4

	textures []*Texture
}

// BundleNode is a place in the hierarchy; parents come before their children.
type BundleNode struct {
	Parent int // −1 for none
	Move   [3]float32
	Turn   [4]float32 // quaternion x, y, z, w
	Scale  [3]float32
}

// Shape is one mesh: three positions and normals for each vertex, four numbers
// of linear colour and glow, and, where it has them, two texture coordinates
// from the top left and four joints of its skin with their weights.
type Shape struct {
	Node      int
	Skin      int // −1 for none
	Texture   int // −1 for none
	Positions []float32
	Normals   []float32
	Colors    []float32
	UVs       []float32
	Sheer     Sheer
	Joints    []uint16
	Weights   []float32
	Indices   []uint32
}

// Skin binds shapes to nodes.
type Skin struct {
	Joints  []int
	Inverse []geom.Mat4 // from the shape's space to each joint's at rest
}

// Clip is one animation.
type Clip struct {
	Name    string
	Seconds float64
	Tracks  []ClipTrack
}

// ClipTrack moves one figure of a node: what is "move", "turn" or "scale".
type ClipTrack struct {
	Node   int
	What   string
	Step   bool // holds each value until the next
	Times  []float32
	Values []float32 // three or four for each time
}

// TextureData is a texture as stored.
type TextureData struct {
	Width, Height int
	Pixels        []uint8
}

// Bounds of a bundle.
const (
	MaxBundleNodes  = 10_000
	MaxBundleDepth  = 64
	MaxTriangles    = 500_000
	MaxBundleBytes  = 256 << 20
	maxBundleFloats = 40_000_000
	bundleMagic     = "proscen-bundle/1\n"
)

// ErrBundle says that bytes are not a bundle.
var ErrBundle = errors.New("these bytes are not a mesh bundle")

// Encode returns the bundle's bytes; equal bundles give equal bytes.
func (b *Bundle) Encode() ([]byte, error) {
	var out bytes.Buffer
	out.WriteString(bundleMagic)
	w, err := flate.NewWriter(&out, flate.BestSpeed)
	if err != nil {
		return nil, err
	}
	if err := gob.NewEncoder(w).Encode(b); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// DecodeBundle reads and checks a bundle.
func DecodeBundle(data []byte) (*Bundle, error) {
	rest, ok := bytes.CutPrefix(data, []byte(bundleMagic))
	if !ok {
		return nil, ErrBundle
	}
	var b Bundle
	r := io.LimitReader(flate.NewReader(bytes.NewReader(rest)), MaxBundleBytes)
	if err := gob.NewDecoder(r).Decode(&b); err != nil {
		return nil, fmt.Errorf("%w: %s", ErrBundle, err)
	}
	if err := b.Check(); err != nil {
		return nil, err
	}
	return &b, nil
}

// Check tells what is wrong with a bundle, if anything, and makes its textures
// ready.
func (b *Bundle) Check() error {
	bad := func(format string, args ...any) error {
		return fmt.Errorf("%w: %s", ErrBundle, fmt.Sprintf(format, args...))
	}
	if len(b.Nodes) > MaxBundleNodes {
		return bad("it has %d nodes, more than %d", len(b.Nodes), MaxBundleNodes)
	}
	for i, n := range b.Nodes {
		if n.Parent >= i || n.Parent < -1 {
			return bad("node %d comes before its parent", i)
		}
		if !finite(n.Move[:]) || !finite(n.Turn[:]) || !finite(n.Scale[:]) {
			return bad("node %d is not at a place", i)
		}
	}
	for _, s := range b.Skins {
		if len(s.Joints) == 0 || len(s.Joints) != len(s.Inverse) {
			return bad("a skin has %d joints and %d rest places", len(s.Joints), len(s.Inverse))
		}
		for _, j := range s.Joints {
			if j < 0 || j >= len(b.Nodes) {
				return bad("a skin names joint %d", j)
			}
		}
	}
	triangles, floats := 0, 0
	for i := range b.Shapes {
		s := &b.Shapes[i]
		n := len(s.Positions) / 3
		triangles += len(s.Indices) / 3
		floats += len(s.Positions) + len(s.Colors)
		switch {
		case s.Node < 0 || s.Node >= len(b.Nodes), s.Skin < -1, s.Skin >= len(b.Skins), s.Texture < -1, s.Texture >= len(b.Textures):
			return bad("shape %d names what is not there", i)
		case len(s.Positions) != 3*n, len(s.Normals) != 3*n, len(s.Colors) != 4*n, len(s.Indices)%3 != 0:
			return bad("shape %d has lengths that do not fit", i)
		case s.UVs != nil && len(s.UVs) != 2*n, s.Texture >= 0 && s.UVs == nil:
			return bad("shape %d has texture coordinates that do not fit", i)
		case !(s.Sheer.Through >= 0 && s.Sheer.Through <= 1 && s.Sheer.Cut >= 0), s.Sheer.Blend && s.Sheer.Cut > 0:
			return bad("shape %d is not as opaque as something can be", i)
		case s.Skin >= 0 && (len(s.Joints) != 4*n || len(s.Weights) != 4*n):
			return bad("shape %d has joints that do not fit", i)
		case !finite(s.Positions), !finite(s.Normals), !finite(s.Colors), !finite(s.UVs), !finite(s.Weights):
			return bad("shape %d has a number that is not finite", i)
		}
		for _, k := range s.Indices {
			if int(k) >= n {
				return bad("shape %d names vertex %d of %d", i, k, n)
			}
		}
		if s.Skin >= 0 {
			for _, j := range s.Joints {
				if int(j) >= len(b.Skins[s.Skin].Joints) {
					return bad("shape %d names joint %d", i, j)
				}
			}
		}
	}
	if triangles > MaxTriangles || floats > maxBundleFloats {
		return bad("it has %d triangles, more than %d", triangles, MaxTriangles)
	}
	for _, c := range b.Clips {
		if !(c.Seconds >= 0) || math.IsInf(c.Seconds, 0) {
			return bad("a clip lasts %v seconds", c.Seconds)
		}
		for _, t := range c.Tracks {
			size, ok := map[string]int{"move": 3, "turn": 4, "scale": 3}[t.What]
			if !ok || t.Node < 0 || t.Node >= len(b.Nodes) || len(t.Times) == 0 || len(t.Values) != size*len(t.Times) || !finite(t.Times) || !finite(t.Values) {
				return bad("clip %q has a track that does not fit", c.Name)
			}
			for i := 1; i < len(t.Times); i++ {
				if t.Times[i] < t.Times[i-1] {
					return bad("clip %q runs backward", c.Name)
				}
			}
		}
	}
	b.textures = nil
	for _, t := range b.Textures {
		made, err := NewTexture(t.Width, t.Height, t.Pixels)
		if err != nil {
			return err
		}
		b.textures = append(b.textures, made)
	}
	return nil
}

func finite(v []float32) bool {
	for _, x := range v {
		if x-x != 0 {
			return false
		}
	}
	return true
}

// Meshes returns the shapes as meshes: at rest, in their own node's space, or,
// for skinned ones, in the model's.
func (b *Bundle) Meshes() []*Mesh {
	var pose BundlePose
	b.Pose(&pose, -1, 0)
	out := make([]*Mesh, len(b.Shapes))
	for i := range b.Shapes {
		s := &b.Shapes[i]
		m := &Mesh{Positions: s.Positions, Normals: s.Normals, Colors: s.Colors, Indices: s.Indices, UVs: s.UVs, Sheer: s.Sheer}
		if s.Texture >= 0 {
			m.Texture = b.textures[s.Texture]
		}
		if s.Skin >= 0 {
			m.Positions, m.Normals = make([]float32, len(s.Positions)), make([]float32, len(s.Normals))
			b.Bend(i, &pose, m)
		} else {
			m.Measure()
		}
		out[i] = m
	}
	return out
}

// Measure sets the mesh's bounds from its positions.
func (m *Mesh) Measure() {
	m.Bounds = geom.EmptyBox()
	for i := 0; i+2 < len(m.Positions); i += 3 {
		m.Bounds = m.Bounds.Add(vec(float64(m.Positions[i]), float64(m.Positions[i+1]), float64(m.Positions[i+2])))
	}
}

// BundlePose is where a bundle's nodes are.
type BundlePose struct {
	Worlds []geom.Mat4 // in the model's space, with its root
	local  []BundleNode
	skin   []geom.Mat4
}

// Pose fills a pose from a clip at a time in seconds, which repeats; clip −1 is
// the rest. It allocates nothing once the pose has been used.
func (b *Bundle) Pose(p *BundlePose, clip int, seconds float64) {
	n := len(b.Nodes)
	if cap(p.Worlds) < n {
		p.Worlds, p.local = make([]geom.Mat4, n), make([]BundleNode, n)
	}
	p.Worlds, p.local = p.Worlds[:n], p.local[:n]
	copy(p.local, b.Nodes)
	if clip >= 0 && clip < len(b.Clips) {
		c := &b.Clips[clip]
		t := 0.0
		if c.Seconds > 0 {
			t = math.Mod(seconds, c.Seconds)
			if t < 0 {
				t += c.Seconds
			}
		}
		for i := range c.Tracks {
			c.Tracks[i].apply(float32(t), p.local)
		}
	}
	for i := range p.local {
		m := p.local[i].matrix()
		if k := p.local[i].Parent; k >= 0 {
			m = p.Worlds[k].Mul(&m)
		} else {
			m = b.Root.Mul(&m)
		}
		p.Worlds[i] = m
	}
}

func (t *ClipTrack) apply(at float32, nodes []BundleNode) {
	k := 0
	for lo, hi := 0, len(t.Times); lo < hi; { // the last key at or before the time
		mid := (lo + hi) / 2
		if t.Times[mid] <= at {
			k, lo = mid, mid+1
		} else {
			hi = mid
		}
	}
	next := min(k+1, len(t.Times)-1)
	f := float32(0)
	if d := t.Times[next] - t.Times[k]; d > 0 && !t.Step {
		f = max(0, min(1, (at-t.Times[k])/d))
	}
	n := &nodes[t.Node]
	if t.What == "turn" {
		n.Turn = slerp([4]float32(t.Values[4*k:4*k+4]), [4]float32(t.Values[4*next:4*next+4]), f)
		return
	}
	to := &n.Move
	if t.What == "scale" {
		to = &n.Scale
	}
	for c := range 3 {
		a, b := t.Values[3*k+c], t.Values[3*next+c]
		to[c] = a + (b-a)*f
	}
}

// slerp goes the short way from one unit quaternion to another (K. Shoemake,
// 1985).
func slerp(a, b [4]float32, t float32) [4]float32 {
	d := a[0]*b[0] + a[1]*b[1] + a[2]*b[2] + a[3]*b[3]
	sign := float32(1)
	if d < 0 {
		d, sign = -d, -1
	}
	wa, wb := 1-t, t
	if d < 0.9995 {
		angle := math.Acos(float64(d))
		s := math.Sin(angle)
		wa, wb = float32(math.Sin(float64(1-t)*angle)/s), float32(math.Sin(float64(t)*angle)/s)
	}
	var out [4]float32
	for i := range out {
		out[i] = wa*a[i] + wb*sign*b[i]
	}
	return out
}

func (n *BundleNode) matrix() geom.Mat4 {
	q := quat.Number{Imag: float64(n.Turn[0]), Jmag: float64(n.Turn[1]), Kmag: float64(n.Turn[2]), Real: float64(n.Turn[3])}
	l := quat.Abs(q)
	if l < 1e-9 {
		q, l = quat.Number{Real: 1}, 1
	}
	turn := geom.Turned(quat.Scale(1/l, q))
	placed := turn.At(vec(float64(n.Move[0]), float64(n.Move[1]), float64(n.Move[2])))
	for i := range 12 {
		if k := i % 4; k < 3 {
			placed[i] *= float64(n.Scale[k])
		}
	}
	return placed
}

// Bend fills positions, normals and bounds of a skinned shape's mesh for a pose,
// by linear blending of its joints.
func (b *Bundle) Bend(shape int, p *BundlePose, m *Mesh) {
	s := &b.Shapes[shape]
	k := &b.Skins[s.Skin]
	if cap(p.skin) < len(k.Joints) {
		p.skin = make([]geom.Mat4, len(k.Joints))
	}
	p.skin = p.skin[:len(k.Joints)]
	for i, j := range k.Joints {
		p.skin[i] = p.Worlds[j].Mul(&k.Inverse[i])
	}
	m.Bounds = geom.EmptyBox()
	for v := range len(s.Positions) / 3 {
		at := vertex(s.Positions, uint32(v))
		nrm := vec(float64(s.Normals[3*v]), float64(s.Normals[3*v+1]), float64(s.Normals[3*v+2]))
		var pos, dir r3.Vec
		for c := range 4 {
			w := float64(s.Weights[4*v+c])
			if w == 0 {
				continue
			}
			j := &p.skin[s.Joints[4*v+c]]
			pos = r3.Add(pos, r3.Scale(w, j.Point(at)))
			dir = r3.Add(dir, r3.Scale(w, j.Dir(nrm)))
		}
		if l := r3.Norm(dir); l > 0 {
			dir = r3.Scale(1/l, dir)
		}
		m.Positions[3*v], m.Positions[3*v+1], m.Positions[3*v+2] = float32(pos.X), float32(pos.Y), float32(pos.Z)
		m.Normals[3*v], m.Normals[3*v+1], m.Normals[3*v+2] = float32(dir.X), float32(dir.Y), float32(dir.Z)
		m.Bounds = m.Bounds.Add(pos)
	}
}

// Size returns the model's extent at rest in metres.
func (b *Bundle) Size() geom.Box {
	var pose BundlePose
	b.Pose(&pose, -1, 0)
	out := geom.EmptyBox()
	for i, m := range b.Meshes() {
		box := m.Bounds
		if b.Shapes[i].Skin < 0 {
			box = box.Transform(&pose.Worlds[b.Shapes[i].Node])
		}
		if !box.Empty() {
			out = out.Add(box.Min).Add(box.Max)
		}
	}
	return out
}

// Triangles counts the model's triangles.
func (b *Bundle) Triangles() int {
	n := 0
	for i := range b.Shapes {
		n += len(b.Shapes[i].Indices) / 3
	}
	return n
}
