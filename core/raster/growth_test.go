package raster

import (
	"fmt"
	"image"
	"math"
	"testing"

	"proscen/core/geom"

	"gonum.org/v1/gonum/spatial/r3"
)

// field has so many balls of about so many triangles together, in a cube before the camera
// that fills the picture, and sunlight with a shadow map.
func field(objects, triangles int) *Input {
	mesh := ball(0.5, max(4, int(math.Sqrt(float64(triangles)/float64(objects)))))
	in := litScene()
	in.View = View{World: geom.Identity.At(r3.Vec{Z: 12}), HFov: 60, VFov: 36}
	in.Draws = in.Draws[:0]
	n := int(math.Ceil(math.Cbrt(float64(objects))))
	for i := range objects {
		at := r3.Vec{X: float64(i%n) - float64(n)/2, Y: float64(i/n%n) - float64(n)/2, Z: float64(i/n/n) - float64(n)/2}
		w := geom.Translate(r3.Scale(12/float64(n), at))
		for k := range 3 {
			for c := range 3 {
				w[4*k+c] *= 12 / float64(n)
			}
		}
		in.Draws = append(in.Draws, Draw{Mesh: mesh, World: w})
	}
	return in
}

// BenchmarkGrowth tells how the time of a frame grows with what is in it; docs/performance.md
// has the exponents.
func BenchmarkGrowth(b *testing.B) {
	frame := func(name string, in *Input, w, h, threads int) {
		b.Run(name, func(b *testing.B) {
			r, _ := New(w, h, threads)
			img := image.NewRGBA(image.Rect(0, 0, w, h))
			for range 2 { // what stands still is kept from the second frame on
				_ = r.Render(in, img)
			}
			for b.Loop() {
				if err := r.Render(in, img); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(in.triangles()), "triangles")
		})
	}
	for _, n := range []int{10_000, 100_000, 1_000_000, 3_000_000} {
		frame(fmt.Sprintf("triangles=%d", n), field(100, n), 1280, 720, 2)
	}
	for _, n := range []int{100, 1000, 5000, 20_000} {
		frame(fmt.Sprintf("objects=%d", n), field(n, 300_000), 1280, 720, 2)
	}
	for _, h := range []int{360, 720, 1080, 2160} {
		frame(fmt.Sprintf("pixels=%d", h*h*16/9), field(100, 100_000), h*16/9, h, 2)
	}
	for _, n := range []int{1, 2, 4, 8} {
		frame(fmt.Sprintf("threads=%d", n), field(100, 100_000), 1280, 720, n)
	}
	for _, behind := range []int{0, 1_000_000} {
		in := field(100, 100_000)
		if behind > 0 {
			for _, d := range field(1000, behind).Draws {
				d.World[11] += 60
				in.Draws = append(in.Draws, d)
			}
		}
		frame(fmt.Sprintf("outside=%d", behind), in, 1280, 720, 2)
	}
}

func (in *Input) triangles() (n int) {
	for i := range in.Draws {
		n += len(in.Draws[i].Mesh.Indices) / 3
	}
	return n
}
