package raster

import (
	"fmt"
	"image"
	"math"
	"runtime"
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

// heap is how many bytes are held.
func heap() uint64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapAlloc
}

// BenchmarkGrowth tells how the time of a frame, and what a renderer holds, grow with what is
// in the picture; docs/performance.md has the exponents.
func BenchmarkGrowth(b *testing.B) {
	frame := func(name string, in *Input, w, h, threads int) {
		b.Run(name, func(b *testing.B) {
			img := image.NewRGBA(image.Rect(0, 0, w, h))
			_ = picture(b, in, 16, 9, 1) // what a mesh is found to consist of is kept with it
			before := heap()
			r, _ := New(w, h, threads)
			for range 2 { // what stands still is kept from the second frame on
				_ = r.Render(in, img)
			}
			for b.Loop() {
				if err := r.Render(in, img); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(in.triangles()), "triangles")
			b.ReportMetric(float64(heap()-before)/1e6, "MB")
			runtime.KeepAlive(r)
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
	for _, n := range []int{0, 1, 2, 4, 8} {
		in := field(100, 100_000)
		for i := range n {
			lamp := bulb(r3.Vec{X: float64(i%4)*3 - 4, Y: 3, Z: float64(i/4) * 4}, r3.Vec{Y: -1}, 0)
			lamp.Reach = 12
			in.Lamps = append(in.Lamps, lamp)
		}
		frame(fmt.Sprintf("lamps=%d", n), in, 1280, 720, 2)
		frame(fmt.Sprintf("lamps=%d/without-shadows", n), without(in), 1280, 720, 2)
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
