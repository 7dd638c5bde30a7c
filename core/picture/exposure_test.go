package picture

import (
	"image"
	"math"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
)

// seen returns where a view sees a point, in pixels from the middle of its picture.
func seen(v *raster.View, p r3.Vec, width, height int) (x, y float64) {
	back := v.World.Inverse()
	q := back.Point(p)
	fx := float64(width) / 2 / math.Tan(geom.Radians(v.HFov/2))
	fy := float64(height) / 2 / math.Tan(geom.Radians(v.VFov/2))
	return fx * (q.X/-q.Z - v.Shift[0]), -fy * (q.Y/-q.Z - v.Shift[1])
}

func TestExposuresThroughTheLensBlurByTheFormula(t *testing.T) {
	const w, h = 640, 360
	lens := raster.Lens{Spread: 0.12, Focus: 4}
	turn := geom.PanTiltRoll(30, -10, 0)
	base := raster.View{World: turn.At(r3.Vec{X: 1, Y: 2, Z: 3}), HFov: 60, VFov: 36, Shift: [2]float64{0.1, -0.05}, Lens: lens}
	for _, depth := range []float64{2, 4, 9, 1e6} {
		at := base.World.Point(r3.Vec{X: 0.2 * depth, Y: -0.1 * depth, Z: -depth})
		var places [][2]float64
		x0, y0 := seen(&base, at, w, h)
		for _, e := range pattern {
			v := base
			through(&v, exposure{0.5, 0.5, 0, e.lensX, e.lensY}, w, h)
			x, y := seen(&v, at, w, h)
			places = append(places, [2]float64{x - x0, y - y0})
			// Its own part of the pixel comes on top of that.
			moved := base
			through(&moved, e, w, h)
			mx, my := seen(&moved, at, w, h)
			require.InDelta(t, e.x-0.5, mx-x, 1e-6)
			require.InDelta(t, e.y-0.5, my-y, 1e-6)
		}
		// The disc has the diameter Spread·|1 − s/d| of the picture's height, and its
		// points lie evenly in it: by Vogel's spiral the mean square is half of the radius'.
		radius := lens.Spread * math.Abs(1-lens.Focus/depth) * h / 2
		sum := 0.0
		for _, p := range places {
			r2 := p[0]*p[0] + p[1]*p[1]
			require.LessOrEqual(t, math.Sqrt(r2), radius+1e-6)
			sum += r2
		}
		assert.InDelta(t, radius*radius/2, sum/exposures, 1e-6+radius*radius*1e-3, "at %v m", depth)
	}
}

// moving is a scene whose camera looks square at a bright wall's edge that moves by two
// metres in a frame.
func moving() *scene.Document {
	doc := scenetest.Small()
	delete(doc.Actions, "walking")
	delete(doc.Nodes, "walker")
	doc.Settings.Sun.Strength, doc.Settings.Haze = 0, scene.Haze{}
	box := doc.Nodes["box"]
	box.Path, box.Position = "across", scene.Vec{}
	box.Piece = &scene.Piece{Stock: "box", Params: map[string]float64{"width": 3, "height": 3, "depth": 1}}
	doc.Nodes["box"] = box
	doc.Paths["across"] = scene.Path{Name: "across", Form: curve.Straight, Points: []scene.Vec{{-20, 0, -10}, {20, 0, -10}}}
	doc.Curves["move"] = scene.Curve{Node: "box", Channel: scene.Travel, Keys: []curve.Key{{Frame: 0, Value: 0, Ease: curve.Even}, {Frame: 20, Value: 1, Ease: curve.Even}}}
	return doc
}

// blurred counts the pixels of a row between the wall and what is behind it.
func blurred(t *testing.T, doc *scene.Document, q Quality) int {
	t.Helper()
	const w, h = 640, 360
	p, err := NewPainter(doc, Files{}, "cut", Form{w, h, q}, 2)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	require.NoError(t, p.Frame(10, img))
	row := img.Pix[(h/2)*img.Stride : (h/2)*img.Stride+4*w]
	wall, far := row[4*(w/2)], row[4*(w-20)]
	n := 0
	for x := w / 2; x < w-20; x++ {
		if v := row[4*x]; v != wall && v != far {
			n++
		}
	}
	return n
}

func TestTheShutterBlursWhatMovesByItsAngle(t *testing.T) {
	doc := moving()
	assert.LessOrEqual(t, blurred(t, doc, Fine), 2, "sharp without a shutter")
	// The front of the wall is at 9.5 m, two metres in a frame: at 18 mm on 36 mm a metre
	// there is 640/(2·9.5) pixels.
	metre := 640 / (2 * 9.5)
	for _, angle := range []float64{90, 180, 240} {
		doc.Settings.Shutter = angle
		assert.InDelta(t, 2*metre*angle/360, float64(blurred(t, doc, Fine)), 0.1*2*metre*angle/360+2, "%v degrees", angle)
	}
	assert.LessOrEqual(t, blurred(t, doc, Check), 2, "only fine pictures are exposed")
}

func TestRoughPicturesHaveOneSampleOfAPixel(t *testing.T) {
	doc := moving()
	smooth := 0
	for i := range 4 { // the edge is at another part of its pixel in each
		doc.Paths["across"].Points[0][0] = -20 + 0.02*float64(i)
		assert.Zero(t, blurred(t, doc, Rough), "%d", i)
		smooth += blurred(t, doc, Check)
	}
	assert.Positive(t, smooth)
}

func TestRoughPicturesHaveCoarseShadows(t *testing.T) {
	doc := scenetest.Small()
	for name, shadow := range map[string]bool{"one": true, "two": false} {
		doc.Nodes[name] = scene.Node{Kind: scene.KindLamp, Name: name, Position: scene.Vec{0, 3, -2}, Lamp: &scene.Lamp{Color: "#ffffff", Strength: 3, Reach: 9, Shadow: shadow}}
	}
	p, err := NewPainter(doc, Files{}, "cut", Form{160, 90, Rough}, 2)
	require.NoError(t, err)
	img, bare := image.NewRGBA(image.Rect(0, 0, 160, 90)), image.NewRGBA(image.Rect(0, 0, 160, 90))
	require.NoError(t, p.Frame(10, img))
	assert.Equal(t, roughShadow, p.input.Look.ShadowPx)
	require.Len(t, p.input.Lamps, 2)
	assert.Equal(t, roughLamp, p.input.Lamps[0].Shadow+p.input.Lamps[1].Shadow, "of the one that casts")
	p.input.Look.ShadowPx = 0
	require.NoError(t, p.renderer.Render(&p.input, bare))
	assert.NotEqual(t, bare.Pix, img.Pix)
}

func TestExposedFramesAreTheSameWithAnyThreads(t *testing.T) {
	doc := moving()
	doc.Settings.Shutter, doc.Settings.Blur = 180, true
	var first []byte
	for _, threads := range []int{1, 3} {
		p, err := NewPainter(doc, Files{}, "cut", Form{96, 54, Fine}, threads)
		require.NoError(t, err)
		img := image.NewRGBA(image.Rect(0, 0, 96, 54))
		for _, f := range []int{30, 10} { // what was painted before does not matter
			require.NoError(t, p.Frame(f, img))
		}
		if first == nil {
			first = append(first, img.Pix...)
		}
		assert.Equal(t, first, []byte(img.Pix))
	}
}
