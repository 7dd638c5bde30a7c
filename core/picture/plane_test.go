package picture_test

import (
	"errors"
	"image"
	"image/color"
	"strings"
	"testing"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const planePhoto, planeFilm = "aa", "bb"

// planes is the small document with two picture planes before camera A, which looks along
// −Z from the origin at 1.5 m: a photo to the left and a video to the right. Both shine.
func planes() *scene.Document {
	d := scenetest.Small()
	box := d.Nodes["box"] // out of the way, behind the camera
	box.Position = scene.Vec{0, 0, 40}
	d.Nodes["box"] = box
	plane := func(x float64, s scene.Screen) scene.Node {
		s.Glow = true
		return scene.Node{Kind: scene.KindSet, Name: "plane", Position: scene.Vec{x, 0.5, -6}, Turn: scene.Vec{180, 0, 0}, Screen: &s,
			Piece: &scene.Piece{Stock: "screen", Params: map[string]float64{"width": 4, "height": 2}}}
	}
	d.Nodes["photo"] = plane(-2.2, scene.Screen{Blob: strings.Repeat(planePhoto, 32), Width: 8, Height: 4})
	d.Nodes["film"] = plane(2.2, scene.Screen{From: 10, Film: &scene.Footage{Name: "film", Blob: strings.Repeat(planeFilm, 32), Width: 8, Height: 4, Frames: 20}})
	delete(d.Nodes, "walker")
	clear(d.Actions)
	return d
}

// quarters is a picture whose top left is red, top right green, bottom left blue and
// bottom right white.
func quarters() image.Image {
	im := image.NewRGBA(image.Rect(0, 0, 64, 32))
	for y := range 32 {
		for x := range 64 {
			im.Set(x, y, []color.RGBA{{255, 0, 0, 255}, {0, 255, 0, 255}, {0, 0, 255, 255}, {255, 255, 255, 255}}[y/16*2+x/32])
		}
	}
	return im
}

// grey is a frame of the video: as bright as its number times ten.
func grey(frame int) image.Image {
	im := image.NewRGBA(image.Rect(0, 0, 8, 4))
	for i := range im.Pix {
		im.Pix[i] = uint8(10 * frame)
	}
	for i := 3; i < len(im.Pix); i += 4 {
		im.Pix[i] = 255
	}
	return im
}

func planePainter(t *testing.T, d *scene.Document, asked *[]int) *picture.Painter {
	t.Helper()
	require.Empty(t, d.Validate())
	p, err := picture.NewPainter(d, picture.Files{
		Picture: func(blob string) (image.Image, error) {
			assert.Equal(t, strings.Repeat(planePhoto, 32), blob)
			return quarters(), nil
		},
		Footage: func(blob string, frame int) (image.Image, error) {
			*asked = append(*asked, frame)
			return grey(frame), nil
		},
	}, "cut", small, 2)
	require.NoError(t, err)
	return p
}

// at returns the colour of what a camera of 36 mm × 20.25 mm at 18 mm sees of a place.
func planeAt(img *image.RGBA, x, y, z float64) color.RGBA {
	px := (x/-z + 1) / 2 * 96
	py := (1 - (y-1.5)/-z/(20.25/36)) / 2 * 54
	return img.RGBAAt(int(px), int(py))
}

func TestAPlaneShowsItsPictureTheRightWayRound(t *testing.T) {
	var asked []int
	p := planePainter(t, planes(), &asked)
	img := image.NewRGBA(image.Rect(0, 0, 96, 54))
	require.NoError(t, p.Frame(0, img))
	is := func(name string, c color.RGBA, r, g, b bool) {
		t.Helper()
		for i, on := range []bool{r, g, b} {
			v := []uint8{c.R, c.G, c.B}[i]
			assert.Equal(t, on, v > 128, "%s is %v", name, c)
		}
	}
	is("top left", planeAt(img, -3.2, 2, -6), true, false, false)
	is("top right", planeAt(img, -1.2, 2, -6), false, true, false)
	is("bottom left", planeAt(img, -3.2, 1, -6), false, false, true)
	is("bottom right", planeAt(img, -1.2, 1, -6), true, true, true)
}

// TestAPlaneHasTheBrightnessOfItsPicture: middle grey of one that shines is within a few
// steps of it, whatever light there is.
func TestAPlaneHasTheBrightnessOfItsPicture(t *testing.T) {
	for _, sun := range []float64{0, 3} {
		d := planes()
		d.Settings.Sun.Strength = sun
		n := d.Nodes["film"]
		s := *n.Screen
		s.From = -12 // frame 12 of the video at the start: 120
		n.Screen = &s
		d.Nodes["film"] = n
		var asked []int
		img := image.NewRGBA(image.Rect(0, 0, 96, 54))
		require.NoError(t, planePainter(t, d, &asked).Frame(0, img))
		c := planeAt(img, 2.2, 1.5, -6)
		assert.InDelta(t, 120, float64(c.G), 14, "sun %v: %v", sun, c)
	}
}

func TestAPlanePlaysItsVideoInStoryTime(t *testing.T) {
	d := planes()
	s := d.Shots["s1"]
	s.ScreenOut, s.StoryIn, s.Speed = 48, 0, 1
	d.PutShot("s1", s)
	var asked []int
	p := planePainter(t, d, &asked)
	img := image.NewRGBA(image.Rect(0, 0, 96, 54))
	grey := map[int]uint8{}
	for _, frame := range []int{0, 5, 10, 13, 25, 29, 40} {
		require.NoError(t, p.Frame(frame, img))
		grey[frame] = planeAt(img, 2.2, 1.5, -6).G
	}
	assert.Equal(t, []int{0, 3, 15, 19}, asked, "before it begins its first frame is held, after its end its last")
	assert.Equal(t, grey[0], grey[10])
	assert.Less(t, grey[10], grey[13])
	assert.Less(t, grey[13], grey[25])
	assert.Equal(t, grey[29], grey[40])

	// Again and again, at another rate of its file and another pace of the shot.
	n := d.Nodes["film"]
	again := *n.Screen
	again.Loop = true
	again.Film.Pace = 0.5
	n.Screen = &again
	d.Nodes["film"] = n
	s.Speed = 2
	d.PutShot("s1", s)
	asked = nil
	p = planePainter(t, d, &asked)
	for _, frame := range []int{0, 5, 8, 15, 20} { // story 0, 10, 16, 30, 40
		require.NoError(t, p.Frame(frame, img))
	}
	// Story 0 is 10 before its beginning, 10 of 20 frames: the file's fifth. 10 and 30 are its
	// first, which is remembered the second time.
	assert.Equal(t, []int{5, 0, 3, 5}, asked)
}

func TestAPlaneWhoseFileCannotBeReadFails(t *testing.T) {
	broken := errors.New("the video is damaged")
	p, err := picture.NewPainter(planes(), picture.Files{
		Footage: func(string, int) (image.Image, error) { return nil, broken },
	}, "cut", small, 1)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 96, 54))
	assert.ErrorIs(t, p.Frame(0, img), broken)
	// Without files there is just the plane.
	require.NoError(t, painter(t, planes(), small, 1).Frame(0, img))
}
