package interchange

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"strings"
	"testing"

	"proscen/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

type obj = map[string]any

// writer puts a glTF document together: numbers into one buffer, a view and an
// accessor for each list.
type writer struct {
	doc    obj
	buffer bytes.Buffer
	views  []obj
	lists  []obj
}

func (w *writer) bytes(data []byte) int {
	for w.buffer.Len()%4 != 0 {
		w.buffer.WriteByte(0)
	}
	w.views = append(w.views, obj{"buffer": 0, "byteOffset": w.buffer.Len(), "byteLength": len(data)})
	w.buffer.Write(data)
	return len(w.views) - 1
}

func (w *writer) list(kind string, component int, count int, v any) int {
	var b bytes.Buffer
	_ = binary.Write(&b, binary.LittleEndian, v)
	w.lists = append(w.lists, obj{"bufferView": w.bytes(b.Bytes()), "componentType": component, "count": count, "type": kind})
	return len(w.lists) - 1
}

func (w *writer) text() []byte {
	w.doc["bufferViews"], w.doc["accessors"] = w.views, w.lists
	if w.doc["buffers"] == nil {
		w.doc["buffers"] = []obj{{"byteLength": w.buffer.Len()}}
	}
	out, _ := json.Marshal(w.doc)
	return out
}

func (w *writer) glb() []byte {
	text := w.text()
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	buf := w.buffer.Bytes()
	for len(buf)%4 != 0 {
		buf = append(buf, 0)
	}
	var b bytes.Buffer
	u := func(v ...uint32) { _ = binary.Write(&b, binary.LittleEndian, v) }
	b.WriteString("glTF")
	u(2, uint32(12+8+len(text)+8+len(buf)), uint32(len(text)), 0x4E4F534A)
	b.Write(text)
	u(uint32(len(buf)), 0x004E4942)
	b.Write(buf)
	return b.Bytes()
}

func checkers(t testing.TB) []byte {
	t.Helper()
	im := image.NewRGBA(image.Rect(0, 0, 2, 2))
	im.Set(0, 0, color.RGBA{255, 0, 0, 255})
	im.Set(1, 0, color.RGBA{0, 255, 0, 255})
	im.Set(0, 1, color.RGBA{0, 0, 255, 255})
	im.Set(1, 1, color.RGBA{255, 255, 255, 255})
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, im))
	return b.Bytes()
}

// flag is an upright square of two metres with its corners at (±1, 0..2, 0), a
// texture, and a skin of two joints: the lower edge hangs on the root, the upper
// edge on a joint one metre up, which an animation of one second turns by 90°
// about Z.
func flag(t testing.TB) *writer {
	w := &writer{}
	half := float32(math.Sqrt2 / 2)
	w.doc = obj{
		"asset":  obj{"version": "2.0"},
		"scenes": []obj{{"nodes": []int{0, 1}}},
		"nodes": []obj{
			{"mesh": 0, "skin": 0},
			{"children": []int{2}},
			{"translation": []float64{0, 1, 0}},
		},
		"meshes": []obj{{"primitives": []obj{{
			"attributes": obj{
				"POSITION":   w.list("VEC3", 5126, 4, []float32{-1, 0, 0, 1, 0, 0, 1, 2, 0, -1, 2, 0}),
				"TEXCOORD_0": w.list("VEC2", 5126, 4, []float32{0, 1, 1, 1, 1, 0, 0, 0}),
				"JOINTS_0":   w.list("VEC4", 5121, 4, []uint8{0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0}),
				"WEIGHTS_0":  w.list("VEC4", 5126, 4, []float32{1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0}),
			},
			"indices": w.list("SCALAR", 5123, 6, []uint16{0, 1, 2, 0, 2, 3}), "material": 0,
		}}}},
		"materials": []obj{{"pbrMetallicRoughness": obj{"baseColorFactor": []float64{1, 0.5, 1, 1}, "baseColorTexture": obj{"index": 0}}, "doubleSided": true}},
		"textures":  []obj{{"source": 0}},
		"images":    []obj{{"bufferView": w.bytes(checkers(t)), "mimeType": "image/png"}},
		"skins": []obj{{"joints": []int{1, 2}, "inverseBindMatrices": w.list("MAT4", 5126, 2, []float32{
			1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1,
			1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -1, 0, 1})}},
		"animations": []obj{{
			"name":     "bow",
			"channels": []obj{{"sampler": 0, "target": obj{"node": 2, "path": "rotation"}}},
			"samplers": []obj{{"input": w.list("SCALAR", 5126, 2, []float32{0, 1}), "output": w.list("VEC4", 5126, 2, []float32{0, 0, 0, 1, 0, 0, half, half})}},
		}},
	}
	return w
}

func read1(t *testing.T, data []byte) *kit.Bundle {
	t.Helper()
	b, err := Read(context.Background(), data, Options{Unit: 1})
	require.NoError(t, err)
	return b.Bundle
}

func TestAModelWithTextureAndSkin(t *testing.T) {
	b := read1(t, flag(t).glb())
	assert.Equal(t, 4, b.Triangles(), "two triangles, seen from both sides")
	d := b.Size()
	assert.InDelta(t, 2, d.Max.X-d.Min.X, 1e-6)
	assert.InDelta(t, 2, d.Max.Y, 1e-6)
	assert.InDelta(t, 0, d.Min.Y, 1e-6, "it stands on the ground")
	require.Len(t, b.Clips, 1)
	assert.Equal(t, "bow", b.Clips[0].Name)
	assert.InDelta(t, 1, b.Clips[0].Seconds, 1e-6)
	require.Len(t, b.Textures, 1)

	m := b.Meshes()[0]
	require.NotNil(t, m.Texture)
	assert.Equal(t, [3]float32{1, 0, 0}, m.Texture.At(0.25, 0.25, 0.1), "the upper left texel is red")
	assert.Equal(t, [3]float32{0, 0, 1}, m.Texture.At(0.25, 0.75, 0.1))
	assert.InDelta(t, 0.5, m.Colors[1], 1e-6, "the factor is kept as the base colour")

	// At the end of the bow, the upper corners (±1, 2) have turned by 90° about
	// (0, 1): (1, 2) → (−1, 2), (−1, 2) → (−1, 0). Seen from its front, which looks
	// to −Z here and to +Z in the file, X is the other way round.
	var pose kit.BundlePose
	b.Pose(&pose, 0, 0.99999)
	b.Bend(0, &pose, m)
	corner := func(i int) r3.Vec {
		return r3.Vec{X: float64(m.Positions[3*i]), Y: float64(m.Positions[3*i+1]), Z: float64(m.Positions[3*i+2])}
	}
	assert.InDelta(t, 0, r3.Norm(r3.Sub(corner(2), r3.Vec{X: 1, Y: 2})), 1e-3)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(corner(3), r3.Vec{X: 1, Y: 0})), 1e-3)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(corner(0), r3.Vec{X: 1})), 1e-6, "the lower edge stays")

	body, err := b.Encode()
	require.NoError(t, err)
	again, err := kit.DecodeBundle(body)
	require.NoError(t, err)
	assert.Equal(t, b.Size(), again.Size())
	second, err := again.Encode()
	require.NoError(t, err)
	assert.Equal(t, body, second, "a bundle has one form")
	_, err = kit.DecodeBundle(body[:len(body)/2])
	assert.ErrorIs(t, err, kit.ErrBundle)
}

func TestUnitsAndAxes(t *testing.T) {
	b, err := Read(context.Background(), flag(t).glb(), Options{Unit: 0.01, ZUp: true})
	require.NoError(t, err)
	d := b.Size()
	assert.InDelta(t, 0.02, d.Max.Z-d.Min.Z, 1e-7, "what ran along Y lies along Z, in centimetres")
	assert.InDelta(t, 0, d.Max.Y-d.Min.Y, 1e-7)
}

func zipped(t testing.TB, entries map[string][]byte) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, body := range entries {
		f, err := z.Create(name)
		require.NoError(t, err)
		_, err = f.Write(body)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestAZipWithItsFiles(t *testing.T) {
	w := flag(t)
	w.doc["images"] = []obj{{"uri": "pictures/a%20b.png"}}
	w.doc["buffers"] = []obj{{"byteLength": w.buffer.Len(), "uri": "flag.bin"}}
	b := read1(t, zipped(t, map[string][]byte{"m/flag.gltf": w.text(), "m/flag.bin": w.buffer.Bytes(), "m/pictures/a b.png": checkers(t)}))
	assert.Equal(t, 4, b.Triangles())
	w.doc["buffers"] = []obj{{"byteLength": w.buffer.Len(), "uri": "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString(w.buffer.Bytes())}}
	w.doc["images"] = []obj{{"uri": "data:image/png;base64," + base64.StdEncoding.EncodeToString(checkers(t))}}
	assert.Equal(t, 4, read1(t, w.text()).Triangles())
}

func TestNamesOfFilesAreUnescaped(t *testing.T) {
	for name, want := range map[string]string{"a.png": "a.png", "a%20b%2Fc%c3%A9.png": "a b/cé.png", "%25%41": "%A", "": ""} {
		got, err := unescaped(name)
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	for _, bad := range []string{"%", "a%2", "a%g0b", "%%20"} {
		_, err := unescaped(bad)
		assert.Error(t, err, bad)
	}
}

const house = `# a wall of 3 by 2 metres and a roof
mtllib house.mtl
v 0 0 0
v 3 0 0
v 3 2 0
v 0 2 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl wall
f 1/1 2/2 3/3 4/4
usemtl roof
f -4 -3 -2
`

func TestOBJWithMaterials(t *testing.T) {
	mtl := "newmtl wall\nKd 1 1 1\nmap_Kd bricks.png\nnewmtl roof\nKd 0.25 0.5 0.75\nKe 0 0 0\n"
	b := read1(t, zipped(t, map[string][]byte{"house.obj": []byte(house), "house.mtl": []byte(mtl), "bricks.png": checkers(t)}))
	require.Len(t, b.Shapes, 2)
	assert.Equal(t, 3, b.Triangles())
	assert.Equal(t, []float32{0, 1, 1, 1, 1, 0, 0, 0}, b.Shapes[0].UVs, "OBJ counts from below")
	assert.Equal(t, []float32{0.25, 0.5, 0.75, 0}, b.Shapes[1].Colors[:4])
	assert.Equal(t, []float32{0, 0, 1}, b.Shapes[1].Normals[:3], "normals are made where there are none")
	bare := read1(t, []byte(house))
	assert.Equal(t, -1, bare.Shapes[0].Texture, "without its materials it is grey")
}

func TestWhatModelsLetThrough(t *testing.T) {
	paint := func(fields obj, factor float64) kit.Sheer {
		t.Helper()
		w := flag(t)
		m := w.doc["materials"].([]obj)[0]
		m["pbrMetallicRoughness"].(obj)["baseColorFactor"] = []float64{1, 1, 1, factor}
		for k, v := range fields {
			m[k] = v
		}
		b := read1(t, w.glb())
		stored, err := b.Encode()
		require.NoError(t, err)
		again, err := kit.DecodeBundle(stored)
		require.NoError(t, err)
		assert.Equal(t, b.Shapes[0].Sheer, again.Shapes[0].Sheer)
		return again.Meshes()[0].Sheer
	}
	quarter := float32(0.75)
	assert.Equal(t, kit.Sheer{}, paint(nil, 0.25), "opaque, whatever its alpha")
	assert.Equal(t, kit.Sheer{}, paint(obj{"alphaMode": "OPAQUE", "alphaCutoff": 0.3}, 0.25))
	assert.Equal(t, kit.Sheer{Cut: 0.5}, paint(obj{"alphaMode": "MASK"}, 1), "half, if it is not said")
	assert.Equal(t, kit.Sheer{Cut: 0.25, Through: quarter}, paint(obj{"alphaMode": "MASK", "alphaCutoff": 0.25}, 0.25))
	assert.Equal(t, kit.Sheer{}, paint(obj{"alphaMode": "MASK", "alphaCutoff": -1}, 1))
	assert.Equal(t, kit.Sheer{Blend: true, Through: quarter}, paint(obj{"alphaMode": "BLEND"}, 0.25))

	library := func(lines string) []kit.Shape {
		t.Helper()
		return read1(t, zipped(t, map[string][]byte{"house.obj": []byte(house), "house.mtl": []byte(lines), "bricks.png": checkers(t)})).Shapes
	}
	s := library("newmtl wall\nmap_Kd bricks.png\nmap_d bricks.png\nnewmtl roof\nd 0.25\n")
	assert.Equal(t, kit.Sheer{Cut: 0.5}, s[0].Sheer)
	assert.Equal(t, kit.Sheer{Blend: true, Through: quarter}, s[1].Sheer)
	s = library("newmtl wall\nTr 0.75\nmap_d bricks.png\nnewmtl roof\nd -halo 1\n")
	assert.Equal(t, kit.Sheer{Blend: true, Through: quarter}, s[0].Sheer)
	assert.Equal(t, kit.Sheer{}, s[1].Sheer)
	assert.Equal(t, kit.Sheer{}, library("newmtl wall\nd much\n")[0].Sheer, "what cannot be read is left out")
}

func TestModelsAreRefusedWithTheReason(t *testing.T) {
	change := func(do func(w *writer)) []byte {
		w := flag(t)
		do(w)
		return w.glb()
	}
	accessor := func(w *writer, i int, field string, v any) { w.lists[i][field] = v }
	truncated := flag(t).glb()
	nan := flag(t)
	nan.list("VEC3", 5126, 4, []float32{float32(math.NaN()), 0, 0, 1, 0, 0, 1, 2, 0, -1, 2, 0})
	nan.doc["meshes"].([]obj)[0]["primitives"].([]obj)[0]["attributes"].(obj)["POSITION"] = len(nan.lists) - 1
	deep := flag(t)
	nodes := []obj{{"mesh": 0}}
	for i := range 100 {
		nodes = append(nodes, obj{"children": []int{i}})
	}
	deep.doc["nodes"], deep.doc["scenes"], deep.doc["skins"], deep.doc["animations"] = nodes, []obj{{"nodes": []int{100}}}, nil, nil
	huge := bytes.Repeat([]byte{0}, 210<<20)
	for _, c := range []struct {
		name, says string
		data       []byte
	}{
		{"nothing", "neither glTF", nil},
		{"meshopt", "compressed with meshopt; export or pack it again", change(func(w *writer) {
			w.doc["extensionsRequired"] = []string{"KHR_mesh_quantization", "EXT_meshopt_compression"}
		})},
		{"a text", "neither glTF", []byte("hello")},
		{"cut off", "says that it has", truncated[:len(truncated)-40]},
		{"version 1", "version 1", append([]byte("glTF\x01\x00\x00\x00"), truncated[8:]...)},
		{"damaged JSON", "damaged", bytes.Replace(truncated, []byte(`"asset"`), []byte(`"asset:`), 1)},
		{"an address elsewhere", "outside itself", change(func(w *writer) { w.doc["buffers"] = []obj{{"uri": "https://example.invalid/a.bin", "byteLength": 4}} })},
		{"a path upward", "outside itself", change(func(w *writer) { w.doc["buffers"] = []obj{{"uri": "../../etc/passwd", "byteLength": 4}} })},
		{"a missing file", "not in the archive", change(func(w *writer) { w.doc["buffers"] = []obj{{"uri": "skin.bin", "byteLength": 4}} })},
		{"a missing buffer", "buffer 1 is missing", change(func(w *writer) { w.doc["buffers"] = []obj{{"byteLength": 4}, {"byteLength": 4}} })},
		{"a short buffer", "says that it has", change(func(w *writer) { w.doc["buffers"] = []obj{{"byteLength": 1 << 30}} })},
		{"a huge count", "elements", change(func(w *writer) { accessor(w, 0, "count", 1<<40) })},
		{"a count too many", "data ends before", change(func(w *writer) { accessor(w, 0, "count", 400) })},
		{"a wrong kind", "should have 3", change(func(w *writer) { accessor(w, 0, "type", "VEC2") })},
		{"lengths that differ", "of 4 vertices", change(func(w *writer) { accessor(w, 1, "count", 3) })},
		{"an index too high", "names vertex", change(func(w *writer) {
			accessor(w, 0, "count", 2)
			accessor(w, 1, "count", 2)
			accessor(w, 2, "count", 2)
			accessor(w, 3, "count", 2)
		})},
		{"a needed extension", "needs the extension \"EXT_of_others\"", change(func(w *writer) { w.doc["extensionsRequired"] = []string{"EXT_of_others"} })},
		{"Draco", "with Draco; export it again with mesh compression switched off", change(func(w *writer) { w.doc["extensionsRequired"] = []string{"KHR_draco_mesh_compression"} })},
		{"not a number", "not finite", nan.glb()},
		{"a deep chain", "more than 64 deep", deep.glb()},
		{"a circle", "two places", change(func(w *writer) { w.doc["nodes"].([]obj)[2]["children"] = []int{1} })},
		{"no triangles", "no triangles", change(func(w *writer) { w.doc["nodes"].([]obj)[0] = obj{} })},
		{"two models", "2 models", zipped(t, map[string][]byte{"a.obj": []byte(house), "b.obj": []byte(house)})},
		{"a bomb", "unpacks to more than", zipped(t, map[string][]byte{"a.obj": huge})},
		{"a bad corner", "line 3 names corner", []byte("v 0 0 0\nv 1 0 0\nf 1 2 9\n")},
		{"a bad number", "line 1 has \"x\"", []byte("v 0 0 x\nf 1 1 1\n")},
		{"a point", "is 0 m large", []byte("v 0 0 0\nv 0 0 0\nv 0 0 0\nf 1 2 3\n")},
		{"a long line", "longer than", []byte("v 0 0 0\n" + strings.Repeat("a", 1<<17))},
	} {
		_, err := Read(context.Background(), c.data, Options{Unit: 1})
		assert.ErrorIs(t, err, ErrModel, c.name)
		assert.ErrorContains(t, err, c.says, c.name)
	}
	_, err := Read(context.Background(), flag(t).glb(), Options{})
	assert.ErrorContains(t, err, "out of range")
	ended, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = Read(ended, flag(t).glb(), Options{Unit: 1})
	assert.ErrorContains(t, err, "too long")
}

func FuzzRead(f *testing.F) {
	f.Add(flag(f).glb())
	f.Add(flag(f).text())
	f.Add([]byte(house))
	f.Add(zipped(f, map[string][]byte{"house.obj": []byte(house), "house.mtl": []byte("newmtl wall\nKd 1 0 0\n")}))
	for _, name := range []string{"crate.gltf", "concave.obj", "wedge.stl", "tile.ply"} {
		f.Add(foreign(f, name))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := Read(context.Background(), data, Options{Unit: 1, Shoot: &Shoot{Rate: 24, Aspect: 1.5}})
		if err != nil {
			return
		}
		if err := b.Check(); err != nil {
			t.Fatalf("read, and not sound: %s", err)
		}
		if len(b.Meshes()) == 0 {
			t.Fatal("read, and nothing to show")
		}
	})
}

func FuzzDecodeBundle(f *testing.F) {
	b, err := Read(context.Background(), flag(f).glb(), Options{Unit: 1})
	require.NoError(f, err)
	body, err := b.Encode()
	require.NoError(f, err)
	f.Add(body)
	f.Fuzz(func(t *testing.T, data []byte) {
		if b, err := kit.DecodeBundle(data); err == nil {
			_ = b.Meshes()
		}
	})
}

func BenchmarkReadLargeOBJ(b *testing.B) {
	var s strings.Builder
	const side = 200
	for z := range side + 1 {
		for x := range side + 1 {
			fmt.Fprintf(&s, "v %d %.3f %d\n", x, math.Sin(float64(x*z)), z)
		}
	}
	for z := range side {
		for x := range side {
			k := z*(side+1) + x + 1
			fmt.Fprintf(&s, "f %d %d %d %d\n", k, k+side+1, k+side+2, k+1)
		}
	}
	data := []byte(s.String())
	for b.Loop() {
		if _, err := Read(context.Background(), data, Options{Unit: 1}); err != nil {
			b.Fatal(err)
		}
	}
}
