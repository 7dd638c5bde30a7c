package turnover_test

import (
	"encoding/json"
	"image"
	"image/color"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/timing"
	"proscen/core/turnover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var plain = scene.Recipe{Name: "plain", Pack: scene.H264, Quality: scene.Check}

func plan(t *testing.T, doc *scene.Document, o turnover.Order, r scene.Recipe) []turnover.Item {
	t.Helper()
	items, err := turnover.Plan(doc, o, &r)
	require.NoError(t, err)
	return items
}

func TestPlanListsWhatIsAskedFor(t *testing.T) {
	doc := scenetest.Small()
	doc.Formats["tall"] = scene.Format{Name: "tall", Width: 721, Height: 1280}
	r := plain
	r.Head, r.Tail, r.Slate, r.Scale = 8, 4, 24, 0.5
	items := plan(t, doc, turnover.Order{Shots: []string{"020", "s3"}, Each: true, Whole: true, Formats: []string{"wide", "tall"}}, r)
	require.Len(t, items, 6)
	assert.Equal(t, turnover.Item{
		What: turnover.Shot, Assembly: "cut", Shot: "s2", Number: "020", Camera: "b", CameraNumber: 2, CameraName: "B", Format: "wide",
		Width: 640, Height: 360, In: 48, Out: 96, Head: 8, Tail: 4,
	}, items[0])
	assert.Equal(t, 24+8+48+4, items[0].Frames(&r))
	assert.Equal(t, [2]int{360, 640}, [2]int{items[3].Width, items[3].Height}, "sides are even")
	assert.Equal(t, turnover.Item{What: turnover.Whole, Assembly: "cut", Format: "wide", Width: 640, Height: 360, Out: 144}, items[2])
	assert.Equal(t, 24+144, items[2].Frames(&r))

	stills := plan(t, doc, turnover.Order{Shots: []string{"010"}, Stills: []turnover.Moment{turnover.First, turnover.Middle, turnover.Last}}, r)
	require.Len(t, stills, 3)
	for i, in := range []int{0, 24, 47} {
		assert.Equal(t, []int{in, in + 1, 1}, []int{stills[i].In, stills[i].Out, stills[i].Frames(&r)})
	}
	throughout := plan(t, doc, turnover.Order{Cameras: []string{"a"}, Stretch: &timing.Range{In: 0, Out: 240}}, r)
	assert.Equal(t, []int{0, 240, 8, 4}, []int{throughout[0].In, throughout[0].Out, throughout[0].Head, throughout[0].Tail})
	needed := plan(t, doc, turnover.Order{Assemblies: []string{"cut"}, Cameras: []string{"a"}}, r)
	require.Len(t, needed, 2, "what the cut uses of it, in two ranges")
	assert.Equal(t, []int{-8, 52, 72, 132}, []int{needed[0].In, needed[0].Out, needed[1].In, needed[1].Out})

	subjects := map[string]bool{}
	for _, i := range slices.Concat(items, stills, throughout) {
		subjects[i.Subject()] = true
	}
	assert.Len(t, subjects, len(items)+len(stills)+len(throughout), "no two have the same versions")
}

func TestStillsFollowCamerasMarkersAndChosenFrames(t *testing.T) {
	doc := scenetest.Rich()
	doc.Markers["late"] = scene.Marker{Clock: scene.ScreenClock, Assembly: "cut", Frame: 5000, Name: "late", Color: "#ffffff"}
	third := *doc.Nodes["b"].Camera
	third.Number, third.Aim, third.AimAt = 3, scene.AimFree, ""
	doc.Nodes["c"] = scene.Node{Kind: scene.KindCamera, Name: "C", Camera: &third}
	items := plan(t, doc, turnover.Order{
		Assemblies: []string{"cut"}, Portraits: true, Marked: true, Spots: []turnover.Spot{{Frame: 50}, {Camera: "a", Frame: 33}},
	}, plain)
	type got struct {
		path          string
		shot, camera  string
		in, out, many int
	}
	var all []got
	for _, i := range items {
		all = append(all, got{turnover.Path(doc, &i, &plain, turnover.Facts{Version: 1}), i.Shot, i.Camera, i.In, i.Out, i.Frames(&plain)})
	}
	assert.Equal(t, []got{
		{"cut/020/small_020-3_cam02_wide_v001", "s2", "b", 50, 51, 1},
		{"cut/010/small_010-cue_cam01_wide_v001", "s1", "a", 30, 31, 1}, // the late one is after the end
		{"cameras/cam01/small_cam01-33_cam01_wide_v001", "", "a", 33, 34, 1},
		{"cameras/cam01/small_cam01-0_cam01_wide_v001", "", "a", 0, 1, 1},
		{"cameras/cam02/small_cam02-40_cam02_wide_v001", "", "b", 40, 41, 1}, // where the cut sees it first
		{"cameras/cam03/small_cam03-0_cam03_wide_v001", "", "c", 0, 1, 1},
	}, all)
	// A still of the cut is the cut's frame; one of a camera is what it shows then.
	whole := plan(t, doc, turnover.Order{Whole: true}, plain)[0]
	assert.Equal(t, frames(t, doc, whole, plain, 50)[0].Pix, frames(t, doc, items[0], plain, 0)[0].Pix)
	assert.Equal(t, through(t, doc, "a", 33).Pix, frames(t, doc, items[2], plain, 0)[0].Pix)
}

func TestPlanSaysWhatIsWrong(t *testing.T) {
	doc := scenetest.Small()
	for says, o := range map[string]turnover.Order{
		"nothing is chosen":       {},
		"no shot 999":             {Each: true, Shots: []string{"020", "999"}},
		"no such format":          {Each: true, Formats: []string{"square"}},
		"no such assembly":        {Each: true, Assemblies: []string{"other"}},
		"not there any more":      {Cameras: []string{"box"}},
		"no moment of a shot":     {Stills: []turnover.Moment{"then"}},
		"has no frames":           {Cameras: []string{"a"}, Stretch: &timing.Range{In: 5, Out: 5}},
		"calm: there is nothing":  {Each: true, Assemblies: []string{"cut", "calm"}},
		"choose fewer":            {Marked: true, Formats: slices.Repeat([]string{"wide"}, 101)},
		"no shot plays there":     {Spots: []turnover.Spot{{Frame: 5000}}},
		"none of the chosen came": {Cameras: []string{"c"}},
	} {
		d := doc
		if says == "calm: there is nothing" {
			d = doc.Clone()
			d.Assemblies["calm"] = scene.Assembly{Name: "calm", Order: 1}
			d.Lanes["calm-main"] = scene.Lane{Assembly: "calm", Main: true, Name: "main"}
		}
		if says == "none of the chosen came" {
			d = doc.Clone()
			d.Nodes["c"] = scene.Node{Kind: scene.KindCamera, Name: "C", Camera: &scene.Camera{Number: 3}}
		}
		_, err := turnover.Plan(d, o, &plain)
		assert.ErrorContains(t, err, says)
	}
	bad := plain
	bad.Head = -1
	_, err := turnover.Plan(doc, turnover.Order{Each: true}, &bad)
	assert.ErrorContains(t, err, "recipe/head is -1")
	_, err = turnover.Plan(scene.New(), turnover.Order{Each: true}, &plain)
	assert.Error(t, err)
}

func frames(t *testing.T, doc *scene.Document, i turnover.Item, r scene.Recipe, which ...int) []*image.RGBA {
	t.Helper()
	i.Width, i.Height = 96, 54
	f, err := turnover.NewFilm(doc, picture.Files{}, i, r, turnover.Facts{Version: 3, Date: time.Date(2031, 5, 6, 0, 0, 0, 0, time.UTC)}, 2)
	require.NoError(t, err)
	var out []*image.RGBA
	for _, n := range which {
		img := image.NewRGBA(image.Rect(0, 0, 96, 54))
		require.NoError(t, f.Frame(n, img))
		out = append(out, img)
	}
	return out
}

// through is what a camera shows at a frame of the story, painted without any cut.
func through(t *testing.T, doc *scene.Document, camera string, story float64) *image.RGBA {
	t.Helper()
	d := doc.Clone()
	d.Shots = map[string]scene.Shot{"only": {Lane: "main", Number: "1", Camera: camera, ScreenIn: 0, ScreenOut: 1, StoryIn: story, Speed: 1}}
	d.ForgetOrder()
	p, err := picture.NewPainter(d, picture.Files{}, "cut", picture.Form{Width: 96, Height: 54, Quality: picture.Check}, 1)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 96, 54))
	require.NoError(t, p.Frame(0, img))
	return img
}

func TestAShotIsCleanOfItsNeighbours(t *testing.T) {
	doc := scenetest.Small()
	s2 := doc.Shots["s2"]
	s2.Join, s2.Speed = &scene.Join{Kind: scene.Dissolve, Before: 4, After: 4}, 0.5
	doc.PutShot("s2", s2)
	r := plain
	r.Head, r.Tail = 6, 3
	i := plan(t, doc, turnover.Order{Each: true, Shots: []string{"s2"}}, r)[0]
	got := frames(t, doc, i, r, 0, 6, 7, 56)
	for k, n := range []int{0, 6, 7, 56} {
		story := 40 + 0.5*float64(n-6)
		assert.Equal(t, through(t, doc, "b", story).Pix, got[k].Pix, "frame %d is of the story's frame %v", n, story)
	}
	r.Joined = true
	mixed := frames(t, doc, i, r, 6)[0]
	assert.NotEqual(t, got[1].Pix, mixed.Pix, "with its joins it begins in the middle of one")
	whole := frames(t, doc, plan(t, doc, turnover.Order{Whole: true}, plain)[0], plain, 48)[0]
	assert.Equal(t, whole.Pix, mixed.Pix, "which is what the whole cut shows")
}

func TestABoardHoldsAsLongWithHandles(t *testing.T) {
	doc := scenetest.Rich()
	s := doc.Shots["s2"]
	s.Plays = scene.PlaysBoard
	doc.PutShot("s2", s)
	second := doc.Boards["board"]
	second.At, second.Blob = 10, strings.Repeat("cd", 32)
	doc.Boards["second"] = second
	r := plain
	r.Head = 5
	i := plan(t, doc, turnover.Order{Each: true, Shots: []string{"s2"}}, r)[0]
	i.Width, i.Height = 64, 36
	asked := ""
	f, err := turnover.NewFilm(doc, picture.Files{Picture: func(blob string) (image.Image, error) {
		asked = blob
		return nil, nil
	}}, i, r, turnover.Facts{}, 1)
	require.NoError(t, err)
	img := image.NewRGBA(image.Rect(0, 0, 64, 36))
	for n, want := range map[int]string{0: "ab", 14: "ab", 15: "cd", 52: "cd"} {
		require.NoError(t, f.Frame(n, img))
		assert.Equal(t, want, asked[:2], "at frame %d", n)
	}
}

func TestNamesAreMadeOfPieces(t *testing.T) {
	doc := scenetest.Rich()
	facts := turnover.Facts{Version: 7, Date: time.Date(2031, 5, 6, 0, 0, 0, 0, time.UTC)}
	item := plan(t, doc, turnover.Order{Assemblies: []string{"cut"}, Each: true, Shots: []string{"s2"}}, plain)[0]
	r := plain
	assert.Equal(t, "cut/020/small_020_cam02_wide_v007", turnover.Path(doc, &item, &r, facts))
	r.Names = []scene.NamePart{{Says: scene.SaysDate}, {Says: scene.SaysText, Text: "For Ida / ../"}, {Says: scene.SaysAssembly}, {Says: scene.SaysCamera}}
	assert.Equal(t, "cut/020/20310506_for-ida_cut_cam02_v007", turnover.Path(doc, &item, &r, facts), "a version is always in it")
	r.Names = []scene.NamePart{{Says: scene.SaysVersion}, {Says: scene.SaysShot}}
	assert.Equal(t, "cut/020/v007_020", turnover.Path(doc, &item, &r, facts))
	card := plan(t, doc, turnover.Order{Each: true, Shots: []string{"s4"}}, plain)[0]
	assert.Equal(t, "cut/040/small_040_still_wide_v007", turnover.Path(doc, &card, &plain, facts))
	all := plan(t, doc, turnover.Order{Whole: true, Stills: []turnover.Moment{turnover.Last}, Shots: []string{"s1"}}, plain)
	assert.Equal(t, "cut/010/small_010-last_cam01_wide_v007", turnover.Path(doc, &all[0], &plain, facts))
	assert.Equal(t, "cut/cut/small_cut_wide_v007", turnover.Path(doc, &all[1], &plain, facts))
	own := plan(t, doc, turnover.Order{Cameras: []string{"b"}, Stretch: &timing.Range{In: -5, Out: 5}}, plain)[0]
	assert.Equal(t, "cameras/cam02-minus5/small_cam02-minus5_cam02_wide_v007", turnover.Path(doc, &own, &plain, facts))
}

func TestBurnInsTellWhatIsThere(t *testing.T) {
	doc := scenetest.Small()
	doc.Settings.ScreenStart = 24 * 3600
	first := 1001
	r := plain
	r.First = &first
	for _, says := range scene.BurnSays {
		r.Burns = append(r.Burns, scene.Burn{Says: says, Text: "Ask Ida"})
	}
	item := plan(t, doc, turnover.Order{Each: true, Shots: []string{"s2"}}, r)[0]
	said := turnover.BurnTexts(session.Open(doc, nil), &item, &r, turnover.Facts{Version: 3, Date: time.Date(2031, 5, 6, 0, 0, 0, 0, time.UTC)})
	assert.Equal(t, []string{"020", "2 B", "18 mm", "00:00:01:16", "01:00:02:00", "1001", "v003", "2031-05-06", "Small", "Test", "cut", "wide", "Ask Ida"}, said)

	// They cover only their corner, and something is written there.
	r.Burns = []scene.Burn{{Says: scene.SaysText, Text: "X", X: 1, Y: 0, Size: 0.2}}
	with, without := frames(t, doc, item, r, 0)[0], frames(t, doc, item, plain, 0)[0]
	changed := image.Rectangle{}
	for y := range 54 {
		for x := range 96 {
			if with.RGBAAt(x, y) != without.RGBAAt(x, y) {
				changed = changed.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	assert.False(t, changed.Empty())
	assert.True(t, changed.In(image.Rect(60, 0, 96, 27)), "%v", changed)

	// A mask lies under them, and not over the slate.
	r.Mask, r.Slate = &scene.Mask{Aspect: 96. / 27, Dark: 1}, 1
	item = plan(t, doc, turnover.Order{Each: true, Shots: []string{"s2"}}, r)[0]
	masked := frames(t, doc, item, r, 0, 1)
	assert.NotZero(t, masked[0].RGBAAt(0, 0).R)
	assert.Equal(t, color.RGBA{A: 255}, masked[1].RGBAAt(48, 12))
	assert.Equal(t, with.RGBAAt(20, 26), masked[1].RGBAAt(20, 26))
	written := 0
	for i := range 13 * 96 { // above the free part
		written += int(masked[1].RGBAAt(i%96, i/96).R)
	}
	assert.Positive(t, written)
	r.Mask.Dark = 2
	assert.ErrorContains(t, scene.CheckRecipe(r), "mask/dark")
	r.Mask = &scene.Mask{Aspect: 0, Dark: 1}
	assert.ErrorContains(t, scene.CheckRecipe(r), "mask/aspect")

	// A slate comes first, lines are written below.
	r = plain
	r.Slate = 2
	item = plan(t, doc, turnover.Order{Each: true, Shots: []string{"s2"}}, r)[0]
	got := frames(t, doc, item, r, 0, 1, 2)
	assert.Equal(t, got[0].Pix, got[1].Pix)
	assert.Equal(t, without.Pix, got[2].Pix)
	doc.Lines["l"] = scene.Line{Cast: "walker", Text: "Here.", In: 40, Out: 50}
	r.Lines = scene.InPicture
	assert.NotEqual(t, without.Pix, frames(t, doc, item, r, 2)[0].Pix)
	assert.Equal(t, frames(t, doc, item, plain, 12)[0].Pix, frames(t, doc, item, r, 14)[0].Pix, "after the line")
	r.ByStory = true
	f, err := turnover.Unpainted(session.Open(doc, nil), item, r, turnover.Facts{})
	require.NoError(t, err)
	assert.Equal(t, 45, f.Number(7), "seven frames of which two are the slate")
}

// A framing for one format is seen in that format alone: as a lens that is shifted by as
// many millimetres, and only its files are out of date.
func TestFramingsAreOfOneFormat(t *testing.T) {
	doc := scenetest.Small()
	doc.Formats["tall"] = scene.Format{Name: "tall", Width: 1080, Height: 1920}
	film := func(doc *scene.Document, format string) (print string, pix []byte) {
		item := plan(t, doc, turnover.Order{Each: true, Shots: []string{"s1"}, Formats: []string{format}}, plain)[0]
		item.Width, item.Height = item.Width/30, item.Height/30
		f, err := turnover.NewFilm(doc, picture.Files{}, item, plain, turnover.Facts{}, 1)
		require.NoError(t, err)
		img := image.NewRGBA(image.Rect(0, 0, item.Width, item.Height))
		require.NoError(t, f.Frame(20, img))
		return f.Print(func() bool { return true }), img.Pix
	}
	s := session.Open(doc.Clone(), nil)
	_, err := s.Run("reframe", json.RawMessage(`{"id":"a","format":"tall","shift":[0.5,0]}`))
	require.NoError(t, err)
	wide, widePix := film(doc, "wide")
	tall, tallPix := film(doc, "tall")
	nowWide, nowWidePix := film(s.Doc, "wide")
	nowTall, nowTallPix := film(s.Doc, "tall")
	_, err = s.Run("reframe", json.RawMessage(`{"id":"s3","format":"tall","camera":"b"}`))
	require.NoError(t, err)
	cameras := func(format string) (out []string) {
		for _, i := range plan(t, s.Doc, turnover.Order{Each: true, Formats: []string{format}}, plain) {
			out = append(out, i.CameraName)
		}
		return out
	}
	assert.Equal(t, []string{"A", "B", "A"}, cameras("wide"))
	assert.Equal(t, []string{"A", "B", "B"}, cameras("tall"), "as names and burn-ins tell it")
	pulls := turnover.Pull(s.Doc, []string{"cut"}, 0, 0)
	assert.Equal(t, []timing.Range{{In: 40, Out: 128}}, pulls[1].Ranges, "camera B is needed for what it shows in one format, too")
	assert.Equal(t, wide, nowWide)
	assert.Equal(t, widePix, nowWidePix)
	assert.NotEqual(t, tall, nowTall)
	assert.NotEqual(t, tallPix, nowTallPix)
	n := doc.Nodes["a"]
	k := *n.Camera
	k.Shift[0] = 0.5 * 13.5 // of 24 x 9/16 mm
	n.Camera = &k
	doc.Nodes["a"] = n
	_, want := film(doc, "tall")
	assert.Equal(t, want, nowTallPix)
}

// What is printed is the same only when every frame is, whatever has been changed.
func TestPrintsTellWhetherFramesAreTheSame(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 7))
	base := scenetest.Rich()
	base.Nodes["behind"] = scene.Node{Kind: scene.KindSet, Name: "Behind", Position: scene.Vec{0, 1, 8}, Piece: &scene.Piece{Stock: "crate"}}
	for _, id := range []string{"s1", "s2", "s3"} {
		s := base.Shots[id]
		s.ScreenOut = s.ScreenIn + 3
		base.PutShot(id, s)
	}
	recipe := plain
	film := func(doc *scene.Document, shot string) (string, []byte) {
		i := plan(t, doc, turnover.Order{Each: true, Shots: []string{shot}}, recipe)[0]
		i.Width, i.Height = 32, 18
		f, err := turnover.NewFilm(doc, picture.Files{}, i, recipe, turnover.Facts{}, 1)
		require.NoError(t, err)
		var pix []byte
		img := image.NewRGBA(image.Rect(0, 0, 32, 18))
		for n := range f.Frames() {
			require.NoError(t, f.Frame(n, img))
			pix = append(pix, img.Pix...)
		}
		return f.Print(func() bool { return true }), pix
	}
	was := map[string][2]string{}
	for _, id := range []string{"s1", "s2", "s4"} {
		print, pix := film(base, id)
		was[id] = [2]string{print, string(pix)}
	}
	place := func(d *scene.Document, id string, by float64) {
		n := d.Nodes[id]
		n.Position = scene.Vec{n.Position[0] + by, n.Position[1], n.Position[2] - by}
		d.Nodes[id] = n
	}
	edits := []func(d *scene.Document, by float64){
		func(d *scene.Document, by float64) { place(d, "box", by) },
		func(d *scene.Document, by float64) { place(d, "behind", by) },
		func(d *scene.Document, by float64) { place(d, "a", by/10) },
		func(d *scene.Document, by float64) { place(d, "case", by) },
		func(d *scene.Document, by float64) { place(d, "lamp", by) },
		func(d *scene.Document, by float64) { d.Settings.Sun.Height += by },
		func(d *scene.Document, by float64) { d.Settings.Title += "!" },
		func(d *scene.Document, by float64) { delete(d.Markers, "m") },
		func(d *scene.Document, by float64) {
			s := d.Shots["s3"]
			s.StoryIn += by
			d.PutShot("s3", s)
		},
		func(d *scene.Document, by float64) {
			c := d.Cards["card"]
			c.Title += "!"
			d.Cards["card"] = c
		},
		func(d *scene.Document, by float64) {
			c := d.Curves["b-travel"]
			c.Keys = slices.Clone(c.Keys)
			c.Keys[1].Value -= by / 20
			d.Curves["b-travel"] = c
		},
		func(d *scene.Document, by float64) {
			a := d.Actions["walking"]
			a.In, a.Out = a.In+int(by), a.Out+int(by)
			d.Actions["walking"] = a
		},
	}
	same, other := 0, 0
	for range 60 {
		d := base.Clone()
		edits[random.IntN(len(edits))](d, 0.5+4*random.Float64())
		for _, id := range []string{"s1", "s2", "s4"} {
			print, pix := film(d, id)
			if print == was[id][0] {
				assert.Equal(t, was[id][1], string(pix), "a print of %s that is the same", id)
				same++
			} else if was[id][1] != string(pix) {
				other++
			}
		}
	}
	assert.Greater(t, same, 50)
	assert.Greater(t, other, 15)

	// What matters for sound and for what is written matters when it is delivered.
	first := was["s1"][0]
	recipe.Sound = true
	sounding, _ := film(base, "s1")
	assert.NotEqual(t, first, sounding)
	d := base.Clone()
	g := d.Sounds["gust"]
	g.Gain = -6
	d.Sounds["gust"] = g
	quieter, _ := film(d, "s1")
	assert.NotEqual(t, sounding, quieter)
	recipe = plain
	silent, _ := film(d, "s1")
	assert.Equal(t, first, silent)
	// A shot that has only moved along the cut is the same.
	d = base.Clone()
	s := d.Shots["s2"]
	s.ScreenIn, s.ScreenOut = s.ScreenIn+20, s.ScreenOut+20
	d.PutShot("s2", s)
	moved, _ := film(d, "s2")
	assert.Equal(t, was["s2"][0], moved)
	// What nobody sees matters where it stands in the light of a lamp that casts shadows.
	for _, shadow := range []bool{false, true} {
		d = base.Clone()
		d.Settings.Sun.Strength = 0
		d.Nodes["torch"] = scene.Node{Kind: scene.KindLamp, Name: "Torch", Position: scene.Vec{0, 2, 11}, Lamp: &scene.Lamp{Color: "#ffffff", Strength: 60, Reach: 90, Shadow: shadow}}
		d.Nodes["behind"] = scene.Node{Kind: scene.KindSet, Name: "Behind", Position: scene.Vec{-1, 0, 8}, Piece: &scene.Piece{Stock: "box", Params: map[string]float64{"width": 2, "height": 3}}}
		print, pix := film(d, "s1")
		place(d, "behind", 2)
		after, there := film(d, "s1")
		assert.Equal(t, shadow, print != after)
		assert.Equal(t, shadow, !slices.Equal(pix, there))
	}
}

func TestThePullListMergesWhatIsNeeded(t *testing.T) {
	doc := scenetest.Small()
	doc.Assemblies["other"] = scene.Assembly{Name: "other", Order: 1}
	doc.Lanes["other-main"] = scene.Lane{Assembly: "other", Main: true, Name: "main"}
	doc.PutShot("o1", scene.Shot{Lane: "other-main", Number: "010", Camera: "a", ScreenIn: 0, ScreenOut: 20, StoryIn: 40.5, Speed: 0.5})
	// A: [0, 48) and [80, 128) of the first, from 40.5 to 50 of the second; B: [40, 88).
	assert.Equal(t, []turnover.Needs{
		{Camera: "a", Number: 1, Name: "A", Ranges: []timing.Range{{In: 0, Out: 51}, {In: 80, Out: 128}}, Frames: 99},
		{Camera: "b", Number: 2, Name: "B", Ranges: []timing.Range{{In: 40, Out: 88}}, Frames: 48},
	}, turnover.Pull(doc, []string{"cut", "other"}, 0, 0))
	with := turnover.Pull(doc, []string{"cut"}, 20, 12)
	assert.Equal(t, []timing.Range{{In: -20, Out: 140}}, with[0].Ranges, "handles make two into one")
	assert.Equal(t, 160, with[0].Frames)
}

func TestThePullListSaysWhatItSaves(t *testing.T) {
	doc := scenetest.Small()
	n := doc.Nodes["b"]
	n.Name = "=B"
	doc.Nodes["b"] = n
	p := turnover.PullOf(doc, []string{"cut"}, 0, 0)
	assert.Equal(t, []int{96 + 48, 2 * 240}, []int{p.Frames, p.Throughout})
	assert.Equal(t, "camera,name,story in,story out,frames,from,to\r\n1,A,0,48,48,00:00:00:00,00:00:02:00\r\n1,A,80,128,48,00:00:03:08,00:00:05:08\r\n2,'=B,40,88,48,00:00:01:16,00:00:03:16\r\n", string(p.CSV(doc)))
}

func TestDoubtsLookThroughEveryFormat(t *testing.T) {
	doc := scenetest.Small()
	doc.Formats["tall"] = scene.Format{Name: "tall 9:16", Width: 720, Height: 1280}
	n := doc.Nodes["a"]
	k := *n.Camera
	// The box lies at the right edge of the wide picture, and beside the tall one.
	k.FocusOn = "box"
	k.Formats = map[string]scene.Reframe{"tall": {Shift: [2]float64{0.4, 0}}}
	n.Camera, n.Turn = &k, scene.Vec{30, 0, 0}
	doc.Nodes["a"] = n
	said := func() string {
		var all []string
		items := plan(t, doc, turnover.Order{Shots: []string{"010"}, Each: true, Formats: []string{"wide", "tall"}}, plain)
		for _, d := range turnover.Doubts(session.Open(doc, nil), items, nil) {
			all = append(all, d.Text)
		}
		return strings.Join(all, "\n")
	}
	text := said()
	assert.NotContains(t, text, "in focus.")
	assert.NotContains(t, text, "beyond the sensor")
	k.Formats = map[string]scene.Reframe{"tall": {Shift: [2]float64{-0.4, 0}}}
	assert.Contains(t, said(), "Shot 010 never shows Box, whom its camera has in focus, in tall 9:16.")
	k.Sensor = [2]float64{14, 24}
	assert.Contains(t, said(), "Shot 010 is framed beyond the sensor of its camera in tall 9:16, which has become smaller since.")
}

func TestDoubtsTellWhatIsInFrontOfASubject(t *testing.T) {
	doc := scenetest.Small()
	n := doc.Nodes["a"]
	k := *n.Camera
	k.FocusOn = "box"
	n.Camera = &k
	doc.Nodes["a"] = n
	said := func() string {
		var all []string
		for _, d := range turnover.Doubts(session.Open(doc, nil), plan(t, doc, turnover.Order{Shots: []string{"010"}, Each: true}, plain), nil) {
			if strings.HasPrefix(d.Text, "Shot 010") {
				assert.Equal(t, 0, d.Screen)
				all = append(all, d.Text)
			}
		}
		return strings.Join(all, "\n")
	}
	delete(doc.Actions, "walking") // who walks right before the lens
	doc.Nodes["walker"] = scene.Node{Kind: scene.KindCast, Name: "Walker", Position: scene.Vec{0, 0, 20}, Cast: doc.Nodes["walker"].Cast}
	assert.Empty(t, said())
	board := func(x float64) {
		doc.Nodes["board"] = scene.Node{Kind: scene.KindSet, Name: "Board", Position: scene.Vec{x, 0, -5}, Piece: &scene.Piece{Stock: "box", Params: map[string]float64{"width": 2, "height": 3, "depth": 0.1}}}
	}
	// Half way to the box, which is one metre wide: an edge 0.1 m beside the axis hides half
	// of it less 0.19 m, or more.
	board(-1.1)
	assert.Empty(t, said(), "less than half is hidden")
	board(-0.9)
	assert.Equal(t, "Shot 010 has something in front of Box, more than half of which is hidden at 8 of 8 moments.", said())
}

func TestDoubtsNameWhatWouldDisappoint(t *testing.T) {
	doc := scenetest.Rich()
	s := session.Open(doc, nil)
	r := plain
	r.Head = 12
	said := func() string {
		var all []string
		for _, d := range turnover.Doubts(s, plan(t, doc, turnover.Order{Assemblies: []string{"cut"}, Each: true}, r), func(blob string) bool { return true }) {
			all = append(all, d.Text)
		}
		return strings.Join(all, "\n")
	}
	text := said()
	assert.Contains(t, text, "Shot 010 begins at the start of the story: 12 of its frames before are from before it.")
	assert.Contains(t, text, "Shot 050 plays footage that is not there any more.")
	assert.NotContains(t, text, "020")
	assert.NotContains(t, text, "is in no shot")

	doc = scenetest.Rich()
	in := doc.Shots["s4"]
	in.ScreenIn, in.Plays, in.Card = in.ScreenIn+10, scene.PlaysBoard, ""
	doc.PutShot("s4", in)
	n := doc.Nodes["b"]
	k := *n.Camera
	k.Aim, k.AimAt, k.FocusOn = scene.AimFree, "", "box"
	n.Camera, n.Turn = &k, scene.Vec{180, 0, 0}
	doc.Nodes["b"] = n
	a := doc.Nodes["a"]
	a.Position = scene.Vec{0, 1, -9.97}
	box := doc.Nodes["box"]
	box.Position = scene.Vec{0, 0, -11.05} // its front is 0.05 m before the lens
	box.Piece = &scene.Piece{Stock: "box", Params: map[string]float64{"width": 2, "height": 2, "depth": 2}}
	doc.Nodes["a"], doc.Nodes["box"] = a, box
	number := *doc.Nodes["a"].Camera
	number.Number = 3
	doc.Nodes["c"] = scene.Node{Kind: scene.KindCamera, Name: "C", Camera: &number}
	s = session.Open(doc, nil)
	text = said()
	for _, says := range []string{
		"For 10 frames before shot 040 nothing plays",
		"Shot 040 has no board yet.",
		"Shot 020 never shows Box, whom its camera has in focus.",
		"Shot 010 has its camera inside something, or right before it.",
		"Camera 3, C, is in no shot.",
	} {
		assert.Contains(t, text, says)
	}
}
