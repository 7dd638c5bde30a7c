// Package interchange reads open formats of models into mesh bundles. Bytes come
// from strangers: everything is bounded and checked before it is used.
package interchange

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"io"
	"maps"
	"math"
	"path"
	"slices"
	"strings"

	"proscen/core/edit"
	"proscen/core/geom"
	"proscen/core/kit"

	"gonum.org/v1/gonum/spatial/r3"
)

// Options say how a model's numbers are meant.
type Options struct {
	Unit float64 // metres of one unit of the file
	ZUp  bool    // Z is up in the file, not Y
	// Shoot tells for which clock the cameras in the file are read; nil for none.
	Shoot *Shoot
}

// Shoot is the clock and the picture for which cameras are read.
type Shoot struct {
	Rate   float64 // frames a second
	In     int     // frame of the story at which their animation begins
	Aspect float64 // of pictures of which a camera does not tell it
}

// Model is what has been read: its bundle, with what of the file is left out or otherwise,
// and the cameras and lamps that are in it, as they are about the bundle's own place.
type Model struct {
	*kit.Bundle
	Notes   []string
	Cameras []edit.BroughtCamera
	Lamps   []edit.BroughtLamp
}

// Bounds of what is read.
const (
	MaxFileBytes     = 64 << 20  // an uploaded file
	maxUnpacked      = 192 << 20 // all files of an archive together
	maxFiles         = 256       // in an archive
	maxTexturePixels = 16 << 20  // of one texture before it is made smaller
	maxTextures      = 32
	maxTextureSide   = 1024 // larger ones are made smaller
	maxShapes        = 4096
)

// ErrModel says that a file is no model that can be read; the message says why.
var ErrModel = errors.New("the model cannot be read")

func refuse(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrModel, fmt.Sprintf(format, args...))
}

// files finds what a model's own file refers to.
type files map[string][]byte

func (f files) open(name string) ([]byte, error) {
	clean := path.Clean(strings.ReplaceAll(name, "\\", "/"))
	if data, ok := f[clean]; ok {
		return data, nil
	}
	// Written on another machine: with its folders, or with large letters for small ones.
	for _, other := range slices.Sorted(maps.Keys(f)) {
		if strings.EqualFold(other, clean) || strings.EqualFold(path.Base(other), path.Base(clean)) {
			return f[other], nil
		}
	}
	return nil, refuse("it refers to the file %q, which is not in the archive; put the model and its files into one zip", clip(name))
}

func clip(s string) string {
	const most = 80
	if len(s) > most {
		return strings.ToValidUTF8(s[:most], "") + "…"
	}
	return s
}

// Read reads a model: a .glb, a .gltf or .obj, or a zip that holds one of the
// latter with its files. What it is, is seen from the bytes. It stops when ctx
// ends.
func Read(ctx context.Context, data []byte, o Options) (Model, error) {
	var none Model
	if len(data) > MaxFileBytes {
		return none, refuse("it has %d MB, more than the %d MB that are read", len(data)>>20, MaxFileBytes>>20)
	}
	if !(o.Unit > 0 && o.Unit <= 1e6) {
		return none, refuse("a unit of %v metres is out of range", o.Unit)
	}
	var said notes
	source, err := read(ctx, data, &said)
	if err != nil {
		return none, err
	}
	b := source.bundle
	scaled := geom.Identity.Scaled(o.Unit)
	b.Root = scaled.Mul(&b.Root)
	if o.ZUp {
		up := geom.RotateX(-90)
		b.Root = up.Mul(&b.Root)
	}
	if err := b.Check(); err != nil {
		return none, fmt.Errorf("%w: %w", ErrModel, err)
	}
	if err := stand(b); err != nil {
		return none, err
	}
	out := Model{Bundle: b}
	if r := source.gltf; r != nil && o.Shoot != nil {
		if out.Cameras, err = r.cameras(*o.Shoot, &said); err != nil {
			return none, fmt.Errorf("%w: %w", ErrModel, err)
		}
		out.Lamps = r.lamps(&said)
	}
	out.Notes = said
	return out, nil
}

// source is a model with the document that it was read from, if that is glTF.
type source struct {
	bundle *kit.Bundle
	gltf   *reader
}

func read(ctx context.Context, data []byte, said *notes) (source, error) {
	switch {
	case bytes.HasPrefix(data, []byte("glTF")):
		return readGLB(ctx, data, said)
	case bytes.HasPrefix(data, []byte("PK\x03\x04")):
		return readZip(ctx, data, said)
	case bytes.HasPrefix(bytes.TrimSpace(data[:min(len(data), 4096)]), []byte("{")):
		return readGLTF(ctx, data, nil, files{}, said)
	case plyBegins(data):
		return plain3D(readPLY(ctx, data, said))
	case looksLikeOBJ(data):
		return plain3D(readOBJ(ctx, data, files{}, said))
	case stlBegins(data):
		return plain3D(readSTL(ctx, data))
	}
	return source{}, refuse("it is neither glTF (.glb, or .gltf with its files in a zip), OBJ, STL nor PLY")
}

func plain3D(b *kit.Bundle, err error) (source, error) { return source{bundle: b}, err }

// readZip unpacks an archive, bounded whatever it claims, and reads the one
// model in it.
func readZip(ctx context.Context, data []byte, said *notes) (source, error) {
	none := source{}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return none, refuse("the zip archive is damaged")
	}
	if len(z.File) > maxFiles {
		return none, refuse("the archive holds %d files, more than %d", len(z.File), maxFiles)
	}
	found := files{}
	var models []string
	left := int64(maxUnpacked)
	for _, f := range z.File {
		if err := ctx.Err(); err != nil {
			return none, refuse("it takes too long to read")
		}
		name := path.Clean(strings.ReplaceAll(f.Name, "\\", "/"))
		if f.FileInfo().IsDir() || besides(name) {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return none, refuse("%q in the archive cannot be unpacked", clip(f.Name))
		}
		body, err := io.ReadAll(io.LimitReader(r, left+1))
		_ = r.Close()
		if err != nil {
			return none, refuse("%q in the archive is damaged", clip(f.Name))
		}
		if left -= int64(len(body)); left < 0 {
			return none, refuse("the archive unpacks to more than %d MB", maxUnpacked>>20)
		}
		found[name] = body
		switch strings.ToLower(path.Ext(name)) {
		case ".gltf", ".glb", ".obj", ".stl", ".ply":
			models = append(models, name)
		}
	}
	if len(models) != 1 {
		return none, refuse("the archive holds %d models; it must hold exactly one .gltf, .glb, .obj, .stl or .ply", len(models))
	}
	body, dir := found[models[0]], path.Dir(models[0])
	near := files{}
	for name, data := range found {
		if rest, ok := strings.CutPrefix(name, dir+"/"); ok && dir != "." {
			near[rest] = data
		} else {
			near[name] = data
		}
	}
	switch strings.ToLower(path.Ext(models[0])) {
	case ".gltf":
		return readGLTF(ctx, body, nil, near, said)
	case ".obj":
		return plain3D(readOBJ(ctx, body, near, said))
	}
	if bytes.HasPrefix(body, []byte("PK")) {
		return none, refuse("%q in the archive is an archive itself", clip(models[0]))
	}
	return read(ctx, body, said)
}

// besides tells whether a file of an archive is one that systems put there for themselves:
// resource forks and views of folders.
func besides(name string) bool {
	return strings.HasPrefix(name, "__MACOSX/") || strings.HasPrefix(path.Base(name), "._") || path.Base(name) == ".DS_Store"
}

// stand moves a model so that it stands on the ground in the middle of its
// place, and refuses one without a size.
func stand(b *kit.Bundle) error {
	if b.Triangles() == 0 {
		return refuse("it has no triangles")
	}
	box := b.Size()
	d := r3.Sub(box.Max, box.Min)
	if most := max(d.X, d.Y, d.Z); !(most > 1e-4 && most < 20_000) {
		return refuse("it is %.4g m large; choose another unit", most)
	}
	c := box.Center()
	move := geom.Translate(r3.Vec{X: -c.X, Y: -box.Min.Y, Z: -c.Z})
	b.Root = move.Mul(&b.Root)
	return nil
}

// texture decodes a picture, bounded, and makes it small enough.
func texture(data []byte) (kit.TextureData, error) {
	var none kit.TextureData
	c, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return none, refuse("it is neither PNG, JPEG, WebP, TIFF nor BMP")
	}
	if c.Width < 1 || c.Height < 1 || c.Width > math.MaxInt32/c.Height || c.Width*c.Height > maxTexturePixels {
		return none, refuse("it has %d×%d pixels, more than %d million", c.Width, c.Height, maxTexturePixels>>20)
	}
	im, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return none, refuse("a %s picture is damaged", kind)
	}
	rgba := image.NewNRGBA(image.Rect(0, 0, c.Width, c.Height))
	draw.Draw(rgba, rgba.Rect, im, im.Bounds().Min, draw.Src)
	for rgba.Rect.Dx() > maxTextureSide || rgba.Rect.Dy() > maxTextureSide {
		rgba = halved(rgba)
	}
	return kit.TextureData{Width: rgba.Rect.Dx(), Height: rgba.Rect.Dy(), Pixels: rgba.Pix}, nil
}

func halved(im *image.NRGBA) *image.NRGBA {
	w, h := max(1, im.Rect.Dx()/2), max(1, im.Rect.Dy()/2)
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			var sum [4]int
			for k := range 4 {
				p := im.NRGBAAt(min(im.Rect.Dx()-1, 2*x+k&1), min(im.Rect.Dy()-1, 2*y+k>>1))
				sum[0], sum[1], sum[2], sum[3] = sum[0]+int(p.R), sum[1]+int(p.G), sum[2]+int(p.B), sum[3]+int(p.A)
			}
			out.SetNRGBA(x, y, color.NRGBA{uint8(sum[0] / 4), uint8(sum[1] / 4), uint8(sum[2] / 4), uint8(sum[3] / 4)})
		}
	}
	return out
}

// normals computes smooth normals weighted by area for a shape without any.
func normals(s *kit.Shape) {
	s.Normals = make([]float32, len(s.Positions))
	for k := 0; k+2 < len(s.Indices); k += 3 {
		p := func(i int) r3.Vec {
			j := 3 * s.Indices[k+i]
			return r3.Vec{X: float64(s.Positions[j]), Y: float64(s.Positions[j+1]), Z: float64(s.Positions[j+2])}
		}
		n := r3.Cross(r3.Sub(p(1), p(0)), r3.Sub(p(2), p(0)))
		for i := range 3 {
			j := 3 * s.Indices[k+i]
			s.Normals[j] += float32(n.X)
			s.Normals[j+1] += float32(n.Y)
			s.Normals[j+2] += float32(n.Z)
		}
	}
	for j := 0; j+2 < len(s.Normals); j += 3 {
		x, y, z := float64(s.Normals[j]), float64(s.Normals[j+1]), float64(s.Normals[j+2])
		l := math.Sqrt(x*x + y*y + z*z)
		if !(l > 0) || math.IsInf(l, 0) {
			s.Normals[j], s.Normals[j+1], s.Normals[j+2] = 0, 1, 0
			continue
		}
		s.Normals[j], s.Normals[j+1], s.Normals[j+2] = float32(x/l), float32(y/l), float32(z/l)
	}
}

// bothSides adds the triangles of a shape turned around, with their own normals.
func bothSides(s *kit.Shape) {
	n := uint32(len(s.Positions) / 3)
	count := len(s.Indices)
	s.Positions = append(s.Positions, s.Positions...)
	for _, v := range s.Normals[:3*n] {
		s.Normals = append(s.Normals, -v)
	}
	s.Colors = append(s.Colors, s.Colors...)
	s.UVs = append(s.UVs, s.UVs...)
	s.Joints = append(s.Joints, s.Joints...)
	s.Weights = append(s.Weights, s.Weights...)
	for k := 0; k+2 < count; k += 3 {
		s.Indices = append(s.Indices, n+s.Indices[k], n+s.Indices[k+2], n+s.Indices[k+1])
	}
}
