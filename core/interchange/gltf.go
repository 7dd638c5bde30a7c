package interchange

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"proscen/core/geom"
	"proscen/core/kit"
)

// The parts of glTF 2.0 that are read (Khronos Group, ISO/IEC 12113:2022).
type gltf struct {
	Asset struct {
		Version string `json:"version"`
	} `json:"asset"`
	ExtensionsRequired []string         `json:"extensionsRequired"`
	Scene              *int             `json:"scene"`
	Scenes             []gltfScene      `json:"scenes"`
	Nodes              []gltfNode       `json:"nodes"`
	Meshes             []gltfMesh       `json:"meshes"`
	Accessors          []gltfAccessor   `json:"accessors"`
	BufferViews        []gltfBufferView `json:"bufferViews"`
	Buffers            []gltfBuffer     `json:"buffers"`
	Materials          []gltfMaterial   `json:"materials"`
	Textures           []gltfTexture    `json:"textures"`
	Images             []gltfImage      `json:"images"`
	Skins              []gltfSkin       `json:"skins"`
	Animations         []gltfAnimation  `json:"animations"`
	Cameras            []gltfCamera     `json:"cameras"`
	Extensions         struct {
		Lights struct {
			Lights []gltfLight `json:"lights"`
		} `json:"KHR_lights_punctual"`
	} `json:"extensions"`
}
type gltfScene struct {
	Nodes []int `json:"nodes"`
}
type gltfNode struct {
	Name        string       `json:"name"`
	Camera      *int         `json:"camera"`
	Children    []int        `json:"children"`
	Mesh        *int         `json:"mesh"`
	Skin        *int         `json:"skin"`
	Matrix      *[16]float64 `json:"matrix"`
	Translation *[3]float64  `json:"translation"`
	Rotation    *[4]float64  `json:"rotation"`
	Scale       *[3]float64  `json:"scale"`
	Extensions  struct {
		Light *struct {
			Light int `json:"light"`
		} `json:"KHR_lights_punctual"`
	} `json:"extensions"`
}
type gltfMesh struct {
	Primitives []gltfPrimitive `json:"primitives"`
}
type gltfPrimitive struct {
	Attributes map[string]int `json:"attributes"`
	Indices    *int           `json:"indices"`
	Material   *int           `json:"material"`
	Mode       *int           `json:"mode"`
}
type gltfAccessor struct {
	BufferView    *int   `json:"bufferView"`
	ByteOffset    int    `json:"byteOffset"`
	ComponentType int    `json:"componentType"`
	Normalized    bool   `json:"normalized"`
	Count         int    `json:"count"`
	Type          string `json:"type"`
	Sparse        *struct {
		Count   int `json:"count"`
		Indices struct {
			BufferView    int `json:"bufferView"`
			ByteOffset    int `json:"byteOffset"`
			ComponentType int `json:"componentType"`
		} `json:"indices"`
		Values struct {
			BufferView int `json:"bufferView"`
			ByteOffset int `json:"byteOffset"`
		} `json:"values"`
	} `json:"sparse"`
}
type gltfBufferView struct {
	Buffer     int `json:"buffer"`
	ByteOffset int `json:"byteOffset"`
	ByteLength int `json:"byteLength"`
	ByteStride int `json:"byteStride"`
}
type gltfBuffer struct {
	URI        string `json:"uri"`
	ByteLength int    `json:"byteLength"`
}
type gltfMaterial struct {
	PBR struct {
		BaseColorFactor  *[4]float64      `json:"baseColorFactor"`
		BaseColorTexture *gltfTextureInfo `json:"baseColorTexture"`
	} `json:"pbrMetallicRoughness"`
	EmissiveFactor  [3]float64       `json:"emissiveFactor"`
	EmissiveTexture *gltfTextureInfo `json:"emissiveTexture"`
	AlphaMode       string           `json:"alphaMode"`
	AlphaCutoff     *float64         `json:"alphaCutoff"`
	DoubleSided     bool             `json:"doubleSided"`
}
type gltfTextureInfo struct {
	Index      int `json:"index"`
	TexCoord   int `json:"texCoord"`
	Extensions struct {
		Transform *gltfTransform `json:"KHR_texture_transform"`
	} `json:"extensions"`
}

// gltfTransform is how a picture lies on its coordinates (KHR_texture_transform).
type gltfTransform struct {
	Offset   [2]float64  `json:"offset"`
	Rotation float64     `json:"rotation"` // radians, counter-clockwise
	Scale    *[2]float64 `json:"scale"`
	TexCoord *int        `json:"texCoord"`
}
type gltfTexture struct {
	Source     *int `json:"source"`
	Extensions struct {
		WebP *struct {
			Source *int `json:"source"`
		} `json:"EXT_texture_webp"`
	} `json:"extensions"`
}

// picture is the picture that a texture shows, or nil.
func (t *gltfTexture) picture() *int {
	if t.Source == nil && t.Extensions.WebP != nil {
		return t.Extensions.WebP.Source
	}
	return t.Source
}

type gltfImage struct {
	URI        string `json:"uri"`
	BufferView *int   `json:"bufferView"`
}
type gltfSkin struct {
	InverseBindMatrices *int  `json:"inverseBindMatrices"`
	Joints              []int `json:"joints"`
}
type gltfAnimation struct {
	Name     string `json:"name"`
	Channels []struct {
		Sampler int `json:"sampler"`
		Target  struct {
			Node *int   `json:"node"`
			Path string `json:"path"`
		} `json:"target"`
	} `json:"channels"`
	Samplers []struct {
		Input         int    `json:"input"`
		Output        int    `json:"output"`
		Interpolation string `json:"interpolation"`
	} `json:"samplers"`
}

const maxJSONBytes = 24 << 20

// readGLB reads the binary container.
func readGLB(ctx context.Context, data []byte, said *notes) (source, error) {
	text, buffer, err := glbChunks(data)
	if err != nil {
		return source{}, err
	}
	return readGLTF(ctx, text, buffer, files{}, said)
}

// glbChunks splits the binary container into its JSON and its buffer.
func glbChunks(data []byte) (text, buffer []byte, err error) {
	if len(data) < 20 {
		return nil, nil, refuse("the .glb file ends after %d bytes", len(data))
	}
	if v := binary.LittleEndian.Uint32(data[4:]); v != 2 {
		return nil, nil, refuse("it is glTF version %d; version 2 is read", v)
	}
	if n := binary.LittleEndian.Uint32(data[8:]); int64(n) != int64(len(data)) {
		return nil, nil, refuse("it says that it has %d bytes and has %d", n, len(data))
	}
	for rest := data[12:]; len(rest) >= 8; {
		n, kind := int64(binary.LittleEndian.Uint32(rest)), binary.LittleEndian.Uint32(rest[4:])
		if n > int64(len(rest)-8) {
			return nil, nil, refuse("a chunk of %d bytes goes beyond the end of the file", n)
		}
		body := rest[8 : 8+n]
		switch {
		case kind == 0x4E4F534A && text == nil:
			text = body
		case kind == 0x004E4942 && buffer == nil:
			buffer = body
		}
		rest = rest[8+n:]
	}
	if text == nil {
		return nil, nil, refuse("it has no JSON chunk")
	}
	return text, buffer, nil
}

// reader holds a glTF document while it is turned into a bundle.
type reader struct {
	ctx     context.Context
	doc     gltf
	buffers [][]byte
	files   files
	out     *kit.Bundle
	node    []int              // for each glTF node its number in the bundle, or −1
	images  map[int]int        // textures by their pictures, −1 for those that cannot be read
	shines  map[int][3]float64 // what pictures emit on average
	floats  int                // read so far
	said    *notes
}

// newReader begins to read a document.
func newReader(ctx context.Context, text []byte, near files, said *notes) (*reader, error) {
	if len(text) > maxJSONBytes {
		return nil, refuse("its JSON has %d MB, more than %d", len(text)>>20, maxJSONBytes>>20)
	}
	r := &reader{ctx: ctx, files: near, out: &kit.Bundle{}, images: map[int]int{}, shines: map[int][3]float64{}, said: said}
	if err := json.Unmarshal(bytes.TrimRight(text, "\x00 \n\r\t"), &r.doc); err != nil {
		return nil, refuse("its JSON is damaged (%s)", clip(err.Error()))
	}
	if !strings.HasPrefix(r.doc.Asset.Version, "2") {
		return nil, refuse("it is glTF version %q; version 2 is read", clip(r.doc.Asset.Version))
	}
	for _, need := range r.doc.ExtensionsRequired {
		if how, ok := packed[need]; ok {
			return nil, refuse("%s (it needs the extension %s)", how, need)
		}
		if !readable[need] && !strings.HasPrefix(need, "KHR_materials_") { // how materials shade beyond their colour is not shown
			return nil, refuse("it needs the extension %q, which is not read; export it without that extension", clip(need))
		}
	}
	return r, nil
}

// readable are extensions that are read; packed are those that pack what is read otherwise,
// and how to export without.
var (
	readable = map[string]bool{"KHR_mesh_quantization": true, "KHR_texture_transform": true, "KHR_lights_punctual": true, "EXT_texture_webp": true}
	packed   = map[string]string{
		"KHR_draco_mesh_compression": "its meshes are compressed with Draco; export it again with mesh compression switched off",
		"EXT_meshopt_compression":    "its buffers are compressed with meshopt; export or pack it again without compression, quantisation alone is read",
		"KHR_meshopt_compression":    "its buffers are compressed with meshopt; export or pack it again without compression, quantisation alone is read",
		"KHR_texture_basisu":         "its pictures are compressed for graphics cards (KTX2); export it again with PNG, JPEG or WebP pictures",
	}
)

// readGLTF reads a document. Its assets look to +Z (section 3.4), ours to −Z.
func readGLTF(ctx context.Context, text, binaryChunk []byte, near files, said *notes) (source, error) {
	none := source{}
	r, err := newReader(ctx, text, near, said)
	if err != nil {
		return none, err
	}
	r.out.Root = geom.RotateY(180)
	for _, step := range []func(binary []byte) error{r.loadBuffers, r.loadNodes, r.loadShapes, r.loadSkins, r.loadClips} {
		if r.ctx.Err() != nil {
			return none, refuse("it takes too long to read")
		}
		if err := step(binaryChunk); err != nil {
			return none, err
		}
	}
	if straighten(r.out) {
		said.add("Parts that are stretched one way by what an animation moves are lit a little otherwise than they should be.")
	}
	return source{r.out, r}, nil
}

// resource returns the bytes that a URI names: embedded ones, or a file of the
// archive. Nothing is fetched.
func (r *reader) resource(uri string) ([]byte, error) {
	if rest, ok := strings.CutPrefix(uri, "data:"); ok {
		_, body, ok := strings.Cut(rest, ";base64,")
		if !ok {
			return nil, refuse("an embedded file is not base64")
		}
		data, err := base64.StdEncoding.DecodeString(body)
		if err != nil {
			return nil, refuse("an embedded file is damaged")
		}
		return data, nil
	}
	if strings.Contains(uri, "://") || strings.HasPrefix(uri, "/") || strings.Contains(uri, "..") {
		return nil, refuse("it refers to %q outside itself; only files beside it in the zip are read", clip(uri))
	}
	name, err := unescaped(uri)
	if err != nil {
		return nil, refuse("it refers to a file by a damaged name")
	}
	return r.files.open(name)
}

// unescaped replaces %XX by their bytes. The package for addresses would make the core
// that browsers load larger by all it knows of them.
func unescaped(uri string) (string, error) {
	parts := strings.Split(uri, "%")
	for i, p := range parts[1:] {
		if len(p) < 2 {
			return "", hex.ErrLength
		}
		b, err := hex.DecodeString(p[:2])
		if err != nil {
			return "", err
		}
		parts[i+1] = string(b) + p[2:]
	}
	return strings.Join(parts, ""), nil
}

func (r *reader) loadBuffers(binaryChunk []byte) error {
	if len(r.doc.Buffers) > maxFiles {
		return refuse("it has %d buffers, more than %d", len(r.doc.Buffers), maxFiles)
	}
	for i, b := range r.doc.Buffers {
		data := binaryChunk
		if b.URI != "" {
			var err error
			if data, err = r.resource(b.URI); err != nil {
				return err
			}
		} else if i > 0 || binaryChunk == nil {
			return refuse("buffer %d is missing", i)
		}
		if b.ByteLength < 0 || len(data) < b.ByteLength {
			return refuse("buffer %d has %d bytes and says that it has %d", i, len(data), b.ByteLength)
		}
		r.buffers = append(r.buffers, data[:b.ByteLength])
	}
	return nil
}

func (r *reader) view(i int) ([]byte, int, error) {
	if i < 0 || i >= len(r.doc.BufferViews) {
		return nil, 0, refuse("it refers to buffer view %d, which is not there", i)
	}
	v := r.doc.BufferViews[i]
	if v.Buffer < 0 || v.Buffer >= len(r.buffers) || v.ByteOffset < 0 || v.ByteLength < 0 || v.ByteOffset > len(r.buffers[v.Buffer])-v.ByteLength {
		return nil, 0, refuse("buffer view %d goes beyond its buffer", i)
	}
	return r.buffers[v.Buffer][v.ByteOffset : v.ByteOffset+v.ByteLength], v.ByteStride, nil
}

var components = map[string]int{"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
var componentBytes = map[int]int{5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}

// maxNumbers bounds how many numbers are read from all accessors together.
const maxNumbers = 12_000_000

// numbers reads an accessor whose elements have a number of components, as
// glTF's section 3.6 lays them out.
func (r *reader) numbers(i, size int, what string) ([]float64, error) {
	if i < 0 || i >= len(r.doc.Accessors) {
		return nil, refuse("%s refers to accessor %d, which is not there", what, i)
	}
	a := r.doc.Accessors[i]
	if components[a.Type] != size {
		return nil, refuse("%s is a %s accessor and should have %d numbers each", what, clip(a.Type), size)
	}
	if a.Count < 0 || a.Count > maxNumbers/size {
		return nil, refuse("%s has %d elements", what, a.Count)
	}
	if r.floats += a.Count * size; r.floats > maxNumbers {
		return nil, refuse("it has more than %d million numbers", maxNumbers/1_000_000)
	}
	var out []float64
	switch {
	case a.BufferView != nil:
		var err error
		if out, err = r.elements(*a.BufferView, a.ByteOffset, a.ComponentType, a.Count, size, a.Normalized, what); err != nil {
			return nil, err
		}
	case a.Sparse == nil:
		return nil, refuse("%s has no data", what)
	default: // zeros, but for those that are told
		out = make([]float64, a.Count*size)
	}
	if s := a.Sparse; s != nil {
		if s.Count < 0 || s.Count > a.Count {
			return nil, refuse("%s replaces %d of %d elements", what, s.Count, a.Count)
		}
		places, err := r.elements(s.Indices.BufferView, s.Indices.ByteOffset, s.Indices.ComponentType, s.Count, 1, false, what)
		if err != nil {
			return nil, err
		}
		values, err := r.elements(s.Values.BufferView, s.Values.ByteOffset, a.ComponentType, s.Count, size, a.Normalized, what)
		if err != nil {
			return nil, err
		}
		for k, p := range places {
			if !(p >= 0 && p < float64(a.Count)) {
				return nil, refuse("%s replaces element %v of %d", what, p, a.Count)
			}
			copy(out[int(p)*size:], values[k*size:(k+1)*size])
		}
	}
	for _, v := range out {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, refuse("%s has a number that is not finite", what)
		}
	}
	return out, nil
}

// elements reads the numbers of elements that lie in a buffer view.
func (r *reader) elements(view, offset, kind, count, size int, normalized bool, what string) ([]float64, error) {
	width := componentBytes[kind]
	if width == 0 {
		return nil, refuse("%s has numbers of the unknown type %d", what, kind)
	}
	data, stride, err := r.view(view)
	if err != nil {
		return nil, err
	}
	if stride == 0 {
		stride = width * size
	}
	if stride < width*size || stride > 252 && stride != width*size || offset < 0 {
		return nil, refuse("%s has a stride of %d bytes", what, stride)
	}
	if count > 0 && (offset > len(data) || (count-1)*stride+width*size > len(data)-offset) {
		return nil, refuse("%s has %d elements and its data ends before them", what, count)
	}
	out := make([]float64, 0, count*size)
	for e := range count {
		at := offset + e*stride
		for c := range size {
			out = append(out, component(data[at+c*width:], kind, normalized))
		}
	}
	return out, nil
}

func component(d []byte, kind int, normalized bool) float64 {
	var v, most float64
	switch kind {
	case 5120:
		v, most = float64(int8(d[0])), 127
	case 5121:
		v, most = float64(d[0]), 255
	case 5122:
		v, most = float64(int16(binary.LittleEndian.Uint16(d))), 32767
	case 5123:
		v, most = float64(binary.LittleEndian.Uint16(d)), 65535
	case 5125:
		v, most = float64(binary.LittleEndian.Uint32(d)), math.MaxUint32
	default:
		return float64(math.Float32frombits(binary.LittleEndian.Uint32(d)))
	}
	if normalized {
		return max(-1, v/most)
	}
	return v
}

// loadNodes walks the scene's hierarchy, so that parents come first, and refuses
// what is too deep or not a tree.
func (r *reader) loadNodes([]byte) error {
	if len(r.doc.Nodes) > kit.MaxBundleNodes {
		return refuse("it has %d nodes, more than %d", len(r.doc.Nodes), kit.MaxBundleNodes)
	}
	r.node = make([]int, len(r.doc.Nodes))
	for i := range r.node {
		r.node[i] = -1
	}
	var roots []int
	if len(r.doc.Scenes) > 0 {
		k := 0
		if r.doc.Scene != nil {
			k = *r.doc.Scene
		}
		if k < 0 || k >= len(r.doc.Scenes) {
			return refuse("its scene %d is not there", k)
		}
		roots = r.doc.Scenes[k].Nodes
	} else {
		child := map[int]bool{}
		for _, n := range r.doc.Nodes {
			for _, c := range n.Children {
				child[c] = true
			}
		}
		for i := range r.doc.Nodes {
			if !child[i] {
				roots = append(roots, i)
			}
		}
	}
	var visit func(i, parent, depth int) error
	visit = func(i, parent, depth int) error {
		if i < 0 || i >= len(r.doc.Nodes) {
			return refuse("it refers to node %d, which is not there", i)
		}
		if r.node[i] >= 0 {
			return refuse("node %d hangs in two places", i)
		}
		if depth > kit.MaxBundleDepth {
			return refuse("its nodes hang more than %d deep", kit.MaxBundleDepth)
		}
		r.node[i] = len(r.out.Nodes)
		r.out.Nodes = append(r.out.Nodes, place(&r.doc.Nodes[i], parent))
		for _, c := range r.doc.Nodes[i].Children {
			if err := visit(c, r.node[i], depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	for _, i := range roots {
		if err := visit(i, -1, 1); err != nil {
			return err
		}
	}
	return nil
}

func place(n *gltfNode, parent int) kit.BundleNode {
	out := kit.BundleNode{Parent: parent, Turn: [4]float32{0, 0, 0, 1}, Scale: [3]float32{1, 1, 1}}
	if m := n.Matrix; m != nil {
		return decompose(m, out)
	}
	if v := n.Translation; v != nil {
		out.Move = [3]float32{float32(v[0]), float32(v[1]), float32(v[2])}
	}
	if v := n.Rotation; v != nil {
		out.Turn = [4]float32{float32(v[0]), float32(v[1]), float32(v[2]), float32(v[3])}
	}
	if v := n.Scale; v != nil {
		out.Scale = [3]float32{float32(v[0]), float32(v[1]), float32(v[2])}
	}
	return out
}

// decompose splits a column-major matrix into translation, rotation and scale;
// the quaternion is found by the largest of its components (S. Shepperd, 1978).
func decompose(m *[16]float64, out kit.BundleNode) kit.BundleNode {
	out.Move = [3]float32{float32(m[12]), float32(m[13]), float32(m[14])}
	var a [3][3]float64 // columns made unit
	for c := range 3 {
		l := math.Sqrt(m[4*c]*m[4*c] + m[4*c+1]*m[4*c+1] + m[4*c+2]*m[4*c+2])
		if c == 0 && determinant(m) < 0 {
			l = -l
		}
		out.Scale[c] = float32(l)
		for k := range 3 {
			if l != 0 {
				a[k][c] = m[4*c+k] / l
			}
		}
	}
	t := a[0][0] + a[1][1] + a[2][2]
	q := [4]float64{}
	best, big := 3, t
	for i := range 3 {
		if a[i][i] > big {
			best, big = i, a[i][i]
		}
	}
	if best == 3 {
		q = [4]float64{a[2][1] - a[1][2], a[0][2] - a[2][0], a[1][0] - a[0][1], 1 + t}
	} else {
		j, k := (best+1)%3, (best+2)%3
		q[best] = 1 + a[best][best] - a[j][j] - a[k][k]
		q[j], q[k] = a[best][j]+a[j][best], a[best][k]+a[k][best]
		q[3] = a[k][j] - a[j][k]
	}
	l := math.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
	if l > 0 {
		for i := range q {
			out.Turn[i] = float32(q[i] / l)
		}
	}
	return out
}

func determinant(m *[16]float64) float64 {
	return m[0]*(m[5]*m[10]-m[6]*m[9]) - m[4]*(m[1]*m[10]-m[2]*m[9]) + m[8]*(m[1]*m[6]-m[2]*m[5])
}

func (r *reader) loadShapes([]byte) error {
	triangles := 0
	for i := range r.doc.Nodes {
		n := &r.doc.Nodes[i]
		if n.Mesh == nil || r.node[i] < 0 {
			continue
		}
		if *n.Mesh < 0 || *n.Mesh >= len(r.doc.Meshes) {
			return refuse("node %d refers to mesh %d, which is not there", i, *n.Mesh)
		}
		for _, p := range r.doc.Meshes[*n.Mesh].Primitives {
			if r.ctx.Err() != nil {
				return refuse("it takes too long to read")
			}
			s, err := r.primitive(&p)
			if err != nil {
				return err
			}
			if s == nil {
				continue
			}
			s.Node, s.Skin = r.node[i], -1
			if n.Skin != nil && s.Joints != nil {
				s.Skin = *n.Skin
			} else {
				s.Joints, s.Weights = nil, nil
			}
			if triangles += len(s.Indices) / 3; triangles > kit.MaxTriangles {
				return refuse("it has more than %d triangles; make it simpler first", kit.MaxTriangles)
			}
			if r.out.Shapes = append(r.out.Shapes, *s); len(r.out.Shapes) > maxShapes {
				return refuse("it has more than %d parts", maxShapes)
			}
		}
	}
	return nil
}

func to32(v []float64) []float32 {
	out := make([]float32, len(v))
	for i := range v {
		out[i] = float32(v[i])
	}
	return out
}

// primitive reads one mesh part, nil for points and lines.
func (r *reader) primitive(p *gltfPrimitive) (*kit.Shape, error) {
	mode := 4
	if p.Mode != nil {
		mode = *p.Mode
	}
	if mode < 4 || mode > 6 {
		return nil, nil
	}
	at, ok := p.Attributes["POSITION"]
	if !ok {
		return nil, nil
	}
	pos, err := r.numbers(at, 3, "a position")
	if err != nil {
		return nil, err
	}
	n := len(pos) / 3
	s := &kit.Shape{Texture: -1, Positions: to32(pos)}
	optional := func(name string, size int, what string) ([]float64, error) {
		i, ok := p.Attributes[name]
		if !ok {
			return nil, nil
		}
		v, err := r.numbers(i, size, what)
		if err == nil && len(v) != size*n {
			err = refuse("%s is there for %d of %d vertices", what, len(v)/size, n)
		}
		return v, err
	}
	if s.Indices, err = r.triangles(p, mode, n); err != nil {
		return nil, err
	}
	nrm, err := optional("NORMAL", 3, "a normal")
	if err != nil {
		return nil, err
	}
	if s.Normals = to32(nrm); nrm == nil {
		normals(s)
	}
	joints, err := optional("JOINTS_0", 4, "a joint")
	if err != nil {
		return nil, err
	}
	weights, err := optional("WEIGHTS_0", 4, "a weight")
	if err != nil {
		return nil, err
	}
	if joints != nil && weights != nil {
		s.Weights = evened(weights)
		for _, j := range joints {
			if j < 0 || j > math.MaxUint16 {
				return nil, refuse("a vertex names joint %v", j)
			}
			s.Joints = append(s.Joints, uint16(j))
		}
	}
	return s, r.paint(p, s, n, optional)
}

// evened makes the four weights of each vertex add up to one.
func evened(w []float64) []float32 {
	out := to32(w)
	for i := 0; i+3 < len(out); i += 4 {
		sum := out[i] + out[i+1] + out[i+2] + out[i+3]
		if !(sum > 1e-6) {
			out[i], sum = 1, 1
		}
		for k := range 4 {
			out[i+k] /= sum
		}
	}
	return out
}

// triangles returns the indices of a part's triangles.
func (r *reader) triangles(p *gltfPrimitive, mode, n int) ([]uint32, error) {
	var list []uint32
	if p.Indices != nil {
		v, err := r.numbers(*p.Indices, 1, "an index")
		if err != nil {
			return nil, err
		}
		for _, x := range v {
			if x < 0 || int(x) >= n {
				return nil, refuse("a triangle names vertex %v of %d", x, n)
			}
			list = append(list, uint32(x))
		}
	} else {
		for i := range n {
			list = append(list, uint32(i))
		}
	}
	if mode == 4 {
		return list[:len(list)/3*3], nil
	}
	var out []uint32
	for i := 2; i < len(list); i++ {
		switch {
		case mode == 6:
			out = append(out, list[0], list[i-1], list[i])
		case i%2 == 0:
			out = append(out, list[i-2], list[i-1], list[i])
		default:
			out = append(out, list[i-1], list[i-2], list[i])
		}
	}
	return out, nil
}

// paint gives a part its colours and texture.
func (r *reader) paint(p *gltfPrimitive, s *kit.Shape, n int, optional func(string, int, string) ([]float64, error)) error {
	base, glow, double := [3]float64{1, 1, 1}, 0.0, false
	if p.Material != nil {
		if *p.Material < 0 || *p.Material >= len(r.doc.Materials) {
			return refuse("a part refers to material %d, which is not there", *p.Material)
		}
		m := r.doc.Materials[*p.Material]
		if f := m.PBR.BaseColorFactor; f != nil {
			base = [3]float64{f[0], f[1], f[2]}
		}
		if e := r.emits(&m); max(e[0], e[1], e[2]) >= least {
			glow = min(1, max(e[0], e[1], e[2]))
			base = e
		}
		double = m.DoubleSided
		s.Sheer = m.sheer()
		if err := r.covered(m.PBR.BaseColorTexture, s, optional); err != nil {
			return err
		}
	}
	tint, err := r.vertexColors(p, n)
	if err != nil {
		return err
	}
	s.Colors = make([]float32, 0, 4*n)
	for i := range n {
		for c := range 3 {
			v := base[c]
			if tint != nil {
				v *= tint[i][c]
			}
			s.Colors = append(s.Colors, float32(max(0, min(4, v))))
		}
		s.Colors = append(s.Colors, float32(glow))
	}
	if double {
		bothSides(s)
	}
	return nil
}

// least is how much a material has to emit to be taken for one that shines.
const least = 0.02

// emits is the linear light that a material sends out: where a picture tells it, on average.
func (r *reader) emits(m *gltfMaterial) [3]float64 {
	e := m.EmissiveFactor
	if e == [3]float64{} || m.EmissiveTexture == nil {
		return e
	}
	k, data, err := r.pictureOf(m.EmissiveTexture.Index)
	if err != nil {
		r.said.add("%s", lacking(err, "what shines by it does not"))
		return [3]float64{}
	}
	mean, known := r.shines[k]
	if !known && len(r.shines) < maxTextures { // others do not shine
		t, err := texture(data)
		if err != nil {
			r.said.add("%s", lacking(err, "what shines by it does not"))
		} else {
			mean = average(t)
		}
		r.shines[k] = mean
	}
	for c := range e {
		e[c] *= mean[c]
	}
	if max(e[0], e[1], e[2]) >= least {
		r.said.add("What shines by a picture does so evenly all over the part.")
	}
	return e
}

// average is the mean linear colour of a picture.
func average(t kit.TextureData) (mean [3]float64) {
	n := float64(len(t.Pixels) / 4)
	for i := 0; i+3 < len(t.Pixels); i += 4 {
		for c := range mean {
			mean[c] += kit.Linear(t.Pixels[i+c]) / n
		}
	}
	return mean
}

// covered lays a picture over a part. One that cannot be read is left out, and said.
func (r *reader) covered(t *gltfTextureInfo, s *kit.Shape, optional func(string, int, string) ([]float64, error)) error {
	if t == nil {
		return nil
	}
	set := t.TexCoord
	lies := t.Extensions.Transform
	if lies != nil && lies.TexCoord != nil {
		set = *lies.TexCoord
	}
	uv, err := optional(fmt.Sprintf("TEXCOORD_%d", set), 2, "a texture coordinate")
	if err != nil || uv == nil {
		return err
	}
	if s.Texture, err = r.texture(t.Index); err != nil || s.Texture < 0 {
		return err
	}
	if lies != nil {
		lies.apply(uv)
	}
	s.UVs = to32(uv)
	return nil
}

// apply moves coordinates: scaled first, then turned, then offset.
func (t *gltfTransform) apply(uv []float64) {
	k := [2]float64{1, 1}
	if t.Scale != nil {
		k = *t.Scale
	}
	sin, cos := math.Sincos(t.Rotation)
	for i := 0; i+1 < len(uv); i += 2 {
		u, v := uv[i]*k[0], uv[i+1]*k[1]
		uv[i], uv[i+1] = cos*u+sin*v+t.Offset[0], cos*v-sin*u+t.Offset[1]
	}
}

// lacking says what a picture that cannot be read means.
func lacking(err error, so string) string {
	return "A picture is left out, " + so + ": " + strings.TrimPrefix(err.Error(), ErrModel.Error()+": ") + "."
}

// sheer is how a material lets what is behind it be seen (glTF 2.0, section 3.9.4).
func (m *gltfMaterial) sheer() (s kit.Sheer) {
	switch m.AlphaMode {
	case "MASK":
		s.Cut = 0.5
		if m.AlphaCutoff != nil {
			s.Cut = float32(max(0, *m.AlphaCutoff))
		}
	case "BLEND":
		s.Blend = true
	default:
		return s
	}
	if f := m.PBR.BaseColorFactor; f != nil {
		s.Through = float32(1 - max(0, min(1, f[3])))
	}
	return s
}

func (r *reader) vertexColors(p *gltfPrimitive, n int) ([][3]float64, error) {
	i, ok := p.Attributes["COLOR_0"]
	if !ok || i < 0 || i >= len(r.doc.Accessors) {
		return nil, nil
	}
	size := components[r.doc.Accessors[i].Type]
	if size != 3 && size != 4 {
		return nil, refuse("a colour has %d numbers", size)
	}
	v, err := r.numbers(i, size, "a colour")
	if err != nil {
		return nil, err
	}
	if len(v) != n*size {
		return nil, refuse("a colour is there for %d of %d vertices", len(v)/size, n)
	}
	out := make([][3]float64, n)
	for k := range out {
		out[k] = [3]float64(v[k*size : k*size+3])
	}
	return out, nil
}

// pictureOf returns the number and the bytes of the picture of a texture.
func (r *reader) pictureOf(texture int) (int, []byte, error) {
	if texture < 0 || texture >= len(r.doc.Textures) || r.doc.Textures[texture].picture() == nil {
		return -1, nil, refuse("a material refers to texture %d, which is not there", texture)
	}
	k := *r.doc.Textures[texture].picture()
	if k < 0 || k >= len(r.doc.Images) {
		return -1, nil, refuse("a texture refers to picture %d, which is not there", k)
	}
	if v := r.doc.Images[k].BufferView; v != nil {
		data, _, err := r.view(*v)
		return k, data, err
	}
	data, err := r.resource(r.doc.Images[k].URI)
	return k, data, err
}

// texture returns the number in the bundle of a glTF texture, −1 for one that cannot be read.
func (r *reader) texture(i int) (int, error) {
	k, data, err := r.pictureOf(i)
	if at, ok := r.images[k]; ok && k >= 0 {
		return at, nil
	}
	if len(r.images) >= maxTextures {
		return -1, refuse("it has more than %d textures", maxTextures)
	}
	var t kit.TextureData
	if err == nil {
		t, err = texture(data)
	}
	if err != nil {
		r.said.add("%s", lacking(err, "what it covers has its plain colour"))
		r.images[k] = -1
		return -1, nil
	}
	r.images[k] = len(r.out.Textures)
	r.out.Textures = append(r.out.Textures, t)
	return r.images[k], nil
}

func (r *reader) loadSkins([]byte) error {
	for i, k := range r.doc.Skins {
		if len(k.Joints) == 0 || len(k.Joints) > 1024 {
			return refuse("skin %d has %d joints; from 1 to 1024 are read", i, len(k.Joints))
		}
		out := kit.Skin{}
		for _, j := range k.Joints {
			if j < 0 || j >= len(r.node) || r.node[j] < 0 {
				return refuse("skin %d names node %d, which is not in the scene", i, j)
			}
			out.Joints = append(out.Joints, r.node[j])
			out.Inverse = append(out.Inverse, geom.Identity)
		}
		if k.InverseBindMatrices != nil {
			v, err := r.numbers(*k.InverseBindMatrices, 16, "a rest place")
			if err != nil {
				return err
			}
			if len(v) < 16*len(out.Joints) {
				return refuse("skin %d has rest places for %d of %d joints", i, len(v)/16, len(out.Joints))
			}
			for j := range out.Inverse {
				for c := range 16 {
					out.Inverse[j][c] = v[16*j+c%4*4+c/4]
				}
			}
		}
		r.out.Skins = append(r.out.Skins, out)
	}
	for i := range r.out.Shapes {
		if s := &r.out.Shapes[i]; s.Skin >= len(r.out.Skins) {
			return refuse("a part refers to skin %d, which is not there", s.Skin)
		}
	}
	return nil
}

func (r *reader) loadClips([]byte) error {
	if len(r.doc.Animations) > 256 {
		return refuse("it has %d animations, more than 256", len(r.doc.Animations))
	}
	for i, a := range r.doc.Animations {
		clipOut := kit.Clip{Name: clip(a.Name)}
		if clipOut.Name == "" {
			clipOut.Name = "clip " + string(rune('A'+i%26))
		}
		for _, c := range a.Channels {
			what, size := "", 3
			switch c.Target.Path {
			case "translation":
				what = "move"
			case "rotation":
				what, size = "turn", 4
			case "scale":
				what = "scale"
			default: // morphing is not read
				continue
			}
			if c.Target.Node == nil || *c.Target.Node < 0 || *c.Target.Node >= len(r.node) || r.node[*c.Target.Node] < 0 {
				continue
			}
			if c.Sampler < 0 || c.Sampler >= len(a.Samplers) {
				return refuse("animation %q refers to sampler %d, which is not there", clip(a.Name), c.Sampler)
			}
			s := a.Samplers[c.Sampler]
			times, err := r.numbers(s.Input, 1, "an animation's time")
			if err != nil {
				return err
			}
			values, err := r.numbers(s.Output, size, "an animation's value")
			if err != nil {
				return err
			}
			if s.Interpolation == "CUBICSPLINE" { // the tangents are left out
				if len(values) != 3*size*len(times) {
					return refuse("animation %q has %d values for %d times", clip(a.Name), len(values)/size, len(times))
				}
				middle := values[:0:0]
				for k := range times {
					middle = append(middle, values[(3*k+1)*size:(3*k+2)*size]...)
				}
				values = middle
			}
			if len(times) == 0 || len(values) != size*len(times) {
				return refuse("animation %q has %d values for %d times", clip(a.Name), len(values)/size, len(times))
			}
			t := kit.ClipTrack{Node: r.node[*c.Target.Node], What: what, Step: s.Interpolation == "STEP", Times: to32(times), Values: to32(values)}
			clipOut.Tracks = append(clipOut.Tracks, t)
			clipOut.Seconds = max(clipOut.Seconds, times[len(times)-1])
		}
		if len(clipOut.Tracks) > 0 {
			r.out.Clips = append(r.out.Clips, clipOut)
		}
	}
	return nil
}
