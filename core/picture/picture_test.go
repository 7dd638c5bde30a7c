package picture_test

import (
	"bytes"
	"image"
	"image/color"
	"math"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/picture"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var small = picture.Form{Width: 96, Height: 54, Quality: picture.Check}

func painter(t *testing.T, doc *scene.Document, p picture.Form, threads int) *picture.Painter {
	t.Helper()
	out, err := picture.NewPainter(doc, picture.Files{}, "cut", p, threads)
	require.NoError(t, err)
	return out
}

func TestPainterShowsWhatTheSessionSays(t *testing.T) {
	doc := scenetest.Small()
	img, want := image.NewRGBA(image.Rect(0, 0, 96, 54)), image.NewRGBA(image.Rect(0, 0, 96, 54))
	p := painter(t, doc, small, 2)
	s := session.Open(doc, nil)
	r, err := raster.New(96, 54, 1)
	require.NoError(t, err)
	var in raster.Input
	for _, frame := range []int{0, 47, 48, 100} {
		require.NoError(t, p.Frame(frame, img))
		on := &s.OnAir(float64(frame)).Playing[0]
		s.Draws(s.View(on), on.Shot, &in)
		require.NoError(t, r.Render(&in, want))
		assert.True(t, bytes.Equal(want.Pix, img.Pix), "frame %d", frame)
	}
	require.NoError(t, p.Frame(9999, img))
	assert.Equal(t, []byte{0, 0, 0, 255}, img.Pix[:4], "nothing on air is black")
	fine := painter(t, doc, picture.Form{Width: 96, Height: 54, Quality: picture.Fine}, 2)
	require.NoError(t, fine.Frame(0, img))
	assert.False(t, bytes.Equal(want.Pix, img.Pix))
}

// TestJoinsAreWhatTheirShotsShow holds the frames of joins against the frames of
// their shots, mixed by hand.
func TestJoinsAreWhatTheirShotsShow(t *testing.T) {
	doc := scenetest.Small()
	for id, s := range doc.Shots {
		s.Head, s.Tail = 24, 24
		doc.PutShot(id, s)
	}
	join := func(j *scene.Join) *picture.Painter {
		s := doc.Shots["s2"]
		s.Join = j
		doc.PutShot("s2", s)
		return painter(t, doc, small, 2)
	}
	frame := func(p *picture.Painter, at int) *image.RGBA {
		im := image.NewRGBA(image.Rect(0, 0, 96, 54))
		require.NoError(t, p.Frame(at, im))
		return im
	}
	// What each shot shows beyond its end, from cuts that let it.
	alone := func(shot string, at int) *image.RGBA {
		only := doc.Clone()
		s := only.Shots[shot]
		s.StoryIn, s.ScreenIn, s.ScreenOut, s.Join = s.StoryAt(float64(at)), at, at+1, nil
		only.Shots = map[string]scene.Shot{shot: s}
		return frame(painter(t, only, small, 1), at)
	}
	mixed := func(a, b *image.RGBA, share float64) (off int) {
		p := frame(join(doc.Shots["s2"].Join), 50)
		for i := range p.Pix {
			want := float64(a.Pix[i])*(1-share) + float64(b.Pix[i])*share
			off = max(off, int(math.Abs(want-float64(p.Pix[i]))+0.5))
		}
		return off
	}
	join(&scene.Join{Kind: scene.Dissolve, Before: 4, After: 8})
	// Frame 50 is the seventh of twelve: 6.5/12 of the way.
	assert.LessOrEqual(t, mixed(alone("s1", 50), alone("s2", 50), 6.5/12), 1)
	white := image.NewRGBA(image.Rect(0, 0, 96, 54))
	for i := range white.Pix {
		white.Pix[i] = 255
	}
	join(&scene.Join{Kind: scene.Dip, Before: 4, After: 8, Color: "#ffffff"})
	assert.LessOrEqual(t, mixed(white, alone("s2", 50), 2.5/8), 1)

	p := join(&scene.Join{Kind: scene.Travels, Before: 4, After: 8, Ease: curve.Even})
	s := session.Open(doc, nil)
	on := &s.OnAir(50).Playing[0]
	require.NotNil(t, on.Between)
	r, err := raster.New(96, 54, 1)
	require.NoError(t, err)
	var in raster.Input
	want := image.NewRGBA(image.Rect(0, 0, 96, 54))
	s.Draws(s.View(on), on.Shot, &in)
	require.NoError(t, r.Render(&in, want))
	travelled := frame(p, 50)
	assert.True(t, bytes.Equal(want.Pix, travelled.Pix))
	assert.False(t, bytes.Equal(alone("s2", 50).Pix, travelled.Pix), "the camera is on its way")
}

func TestStillsStandForCameras(t *testing.T) {
	doc := scenetest.Small()
	doc.Cards["c"] = scene.Card{Name: "c", Title: "Title", Color: "#203040", Ink: "#ffffff"}
	blob := strings.Repeat("ab", 32)
	doc.Boards["b"] = scene.Board{Shot: "s2", Blob: blob, Width: 2, Height: 2}
	doc.Footage["f"] = scene.Footage{Name: "f", Blob: blob, Width: 4, Height: 2, Frames: 9}
	set := func(id string, change func(s *scene.Shot)) {
		s := doc.Shots[id]
		change(&s)
		doc.PutShot(id, s)
	}
	set("s1", func(s *scene.Shot) { s.Plays, s.Card = scene.PlaysCard, "c" })
	set("s2", func(s *scene.Shot) { s.Plays = scene.PlaysBoard })
	set("s3", func(s *scene.Shot) { s.Plays, s.Footage = scene.PlaysFootage, "f" })
	asked := []int{}
	p, err := picture.NewPainter(doc, picture.Files{
		Picture: func(name string) (image.Image, error) {
			assert.Equal(t, blob, name)
			return square(color.RGBA{200, 10, 10, 255}), nil
		},
		Footage: func(_ string, frame int) (image.Image, error) {
			asked = append(asked, frame)
			return square(color.RGBA{10, 200, 10, 255}), nil
		},
	}, "cut", small, 1)
	require.NoError(t, err)
	im := image.NewRGBA(image.Rect(0, 0, 96, 54))
	require.NoError(t, p.Frame(0, im))
	assert.Equal(t, color.RGBA{0x20, 0x30, 0x40, 255}, im.RGBAAt(2, 2), "the card's ground")
	letters := 0
	for i := 0; i < len(im.Pix); i += 4 {
		if im.Pix[i] > 0x50 {
			letters++
		}
	}
	assert.Greater(t, letters, 20, "and its title")
	require.NoError(t, p.Frame(50, im))
	assert.Equal(t, color.RGBA{200, 10, 10, 255}, im.RGBAAt(48, 27), "a square board in the middle")
	assert.Equal(t, color.RGBA{0xe8, 0xe4, 0xda, 255}, im.RGBAAt(5, 27), "on paper")
	require.NoError(t, p.Frame(100, im))
	require.NoError(t, p.Frame(140, im))
	assert.Equal(t, []int{4, 8}, asked, "footage holds its last frame")
	// Without files, cards say what is missing.
	bare := painter(t, doc, small, 1)
	for _, at := range []int{50, 100} {
		require.NoError(t, bare.Frame(at, im))
		assert.Equal(t, color.RGBA{0x2d, 0x40, 0x47, 255}, im.RGBAAt(2, 2))
	}
}

// square is a picture of one colour.
func square(c color.RGBA) image.Image {
	im := image.NewRGBA(image.Rect(0, 0, 8, 8))
	for i := range 64 {
		im.SetRGBA(i%8, i/8, c)
	}
	return im
}
