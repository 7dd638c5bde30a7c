package assembly_test

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"proscen/core/curve"
	"proscen/core/patch"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/timing"
)

func changeRate(t require.TestingT, d *scene.Document, rate, keep string) patch.Patch {
	r, err := session.Open(d, func() string { return "fresh" }).Run("rateChange", json.RawMessage(fmt.Sprintf(`{"rate":%q,"keep":%q,"drop":true}`, rate, keep)))
	require.NoError(t, err)
	return r.Patch
}

// By hand: 24 to 25 frames a second with seconds kept is every frame times 25/24.
func TestRateKeepsSeconds(t *testing.T) {
	d := scenetest.Rich()
	d.Settings.StoryStart = 24 * 3600 // 01:00:00:00
	d.PutShot("s1", func() scene.Shot { s := d.Shots["s1"]; s.Head, s.Tail = 12, 13; return s }())
	d.Assemblies["cut"] = scene.Assembly{Name: "first", Target: 240, ShotTarget: 25}
	before := string(d.Encode())
	was := *scenetest.Rich()
	p := changeRate(t, d, "25", "seconds")
	require.Empty(t, d.Validate())

	s := d.Shots["s1"]
	assert.Equal(t, [2]int{13, 14}, [2]int{s.Head, s.Tail}, "12.5 and 13.54")
	assert.Equal(t, 250, d.Assemblies["cut"].Target)
	assert.Equal(t, 26, d.Assemblies["cut"].ShotTarget)
	assert.Equal(t, "01:00:00:00", d.Settings.Timecode(scene.StoryClock, 0))
	assert.Equal(t, timing.Range{In: 0, Out: int(math.Round(float64(was.Settings.Story.Out) * 25 / 24))}, d.Settings.Story)
	for id, a := range was.Shots {
		b := d.Shots[id]
		for what, pair := range map[string][2]float64{
			"in": {float64(a.ScreenIn), float64(b.ScreenIn)}, "out": {float64(a.ScreenOut), float64(b.ScreenOut)},
			"story": {a.StoryIn, b.StoryIn},
		} {
			assert.InDelta(t, pair[0]/24, pair[1]/25, 0.5/25+1e-9, "%s of %s", what, id)
		}
		assert.Equal(t, a.Speed, b.Speed)
	}
	for id, a := range was.Sounds {
		assert.Equal(t, a.Seconds, d.Sounds[id].Seconds)
	}

	require.NoError(t, patch.Apply(d, p.Inverse()))
	assert.Equal(t, before, string(d.Encode()), "undone byte for byte")
}

func TestRateKeepsFrames(t *testing.T) {
	d := scenetest.Rich()
	d.Settings.ScreenStart = 24 * 60
	want := d.Settings
	want.Rate, want.Drop, want.ScreenStart = timing.Video299, true, 30*60
	p := changeRate(t, d, "30000/1001", "frames")
	assert.Equal(t, want, d.Settings)
	require.Len(t, p, 1+len(d.Footage), "nothing but the settings, and of what rate files are")
	assert.Equal(t, "00:01:00;02", d.Settings.Timecode(scene.ScreenClock, 0), "the number after 00:00:59;29")

	// Only the counting: the clock goes on beginning at what it says.
	d.Footage["plate"] = scene.Footage{Name: "plate", Blob: fmt.Sprintf("%064d", 1), Width: 320, Height: 180, Frames: 97}
	d.Settings.ScreenStart = 107892 // 01:00:00;00
	r, err := session.Open(d, nil).Run("rateChange", json.RawMessage(`{"rate":"30000/1001","keep":"frames"}`))
	require.NoError(t, err)
	assert.Equal(t, "count without drop-frame", r.Label)
	assert.Equal(t, "01:00:00:00", d.Settings.Timecode(scene.ScreenClock, 0))
	assert.Zero(t, d.Footage["plate"].Rate, "its file has the scene's rate still")

	for args, says := range map[string]string{
		`{"rate":"0.5","keep":"frames"}`:        "not a frame rate",
		`{"rate":"1/2","keep":"frames"}`:        "not a frame rate",
		`{"rate":"25","keep":"the change"}`:     "seconds or frames",
		`{"rate":"30000/1001","keep":"frames"}`: "already",
	} {
		_, err := session.Open(d, nil).Run("rateChange", json.RawMessage(args))
		assert.ErrorContains(t, err, says)
	}
}

// Footage keeps its file: at another rate the frames of the file go by at another pace.
func TestRateAndFootage(t *testing.T) {
	d := scenetest.Rich()
	d.Footage["plate"] = scene.Footage{Name: "plate", Blob: fmt.Sprintf("%064d", 1), Width: 320, Height: 180, Frames: 97}
	for id, s := range d.Shots {
		if s.Lane == "main" && s.ScreenIn == 0 {
			s.Plays, s.Footage, s.FootageIn, s.Join = scene.PlaysFootage, "plate", 24, nil
			d.PutShot(id, s)
		}
	}
	shown := func(seconds float64) float64 {
		p := program.Compile(d, "cut")
		var air program.Air
		p.At(math.Round(d.Settings.Rate.Frames(seconds)), &air)
		return air.Playing[0].Still.Frame
	}
	was := shown(1)
	assert.Equal(t, 48.0, was)
	changeRate(t, d, "30", "seconds")
	assert.Equal(t, 30.0, d.Shots[program.Shots(d, "main")[0].ID].FootageIn)
	assert.Equal(t, 121, d.Footage["plate"].Frames, "97 of 24 are 121.25 of 30")
	assert.InDelta(t, 48, shown(1), 0.5)
	assert.Equal(t, timing.Film24, d.Footage["plate"].Rate, "the file is as it was")
	changeRate(t, d, "24", "seconds")
	assert.Zero(t, d.Footage["plate"].Pace, "as it was")
	assert.Zero(t, d.Footage["plate"].Rate)
	assert.Equal(t, was, shown(1))
}

func TestRateProperties(t *testing.T) {
	rates := []string{"24", "25", "30", "30000/1001", "24000/1001", "60", "12", "48", "1"}
	rapid.Check(t, func(t *rapid.T) {
		d := scenetest.Rich()
		at := 0
		for i := range rapid.IntRange(1, 12).Draw(t, "shots") {
			length := rapid.IntRange(1, 60).Draw(t, "length")
			at += rapid.SampledFrom([]int{0, 0, 0, 1, 7}).Draw(t, "gap")
			s := scene.Shot{Lane: "aside", Number: fmt.Sprint(i), Camera: "a", ScreenIn: at + 1000, ScreenOut: at + 1000 + length,
				StoryIn: rapid.Float64Range(-50, 500).Draw(t, "story"), Speed: 1, Head: 24, Tail: 24}
			if i > 0 && rapid.Bool().Draw(t, "joined") {
				s.Join = &scene.Join{Kind: scene.Dissolve, Before: rapid.IntRange(0, 4).Draw(t, "before"), After: 1}
			}
			d.PutShot(fmt.Sprint("t", i), s)
			at += length
		}
		keys := rapid.SliceOfNDistinct(rapid.Float64Range(-100, 1000), 1, 10, rapid.ID[float64]).Draw(t, "keys")
		for i := range keys {
			if i%2 == 0 {
				keys[i] = math.Round(keys[i])
			}
		}
		slices.Sort(keys)
		c := scene.Curve{Node: "a", Channel: scene.Pan}
		for _, f := range slices.Compact(keys) {
			c.Keys = append(c.Keys, curve.Key{Frame: f, Ease: curve.Soft})
		}
		d.Curves["drawn"] = c
		if rapid.Bool().Draw(t, "deed") {
			in := rapid.IntRange(0, 200).Draw(t, "in")
			d.Lines["drawn"] = scene.Line{Cast: "walker", Text: "so", In: in, Out: in + rapid.IntRange(1, 50).Draw(t, "long")}
		}
		session.Open(d, nil) // forgets the order
		if len(d.Validate()) > 0 {
			t.Skip("two sets of deeds")
		}
		before := string(d.Encode())
		order := program.Shots(d, "aside")
		from := d.Settings.Rate
		rate := rapid.SampledFrom(rates).Draw(t, "rate")
		if rate == from.String() {
			return
		}
		p := changeRate(t, d, rate, "seconds")
		require.Empty(t, d.Validate(), "no overlap appears, keys stay apart")
		to := d.Settings.Rate
		next := program.Shots(d, "aside")
		for i, e := range order {
			assert.Equal(t, e.ID, next[i].ID, "order")
			if i > 0 && order[i-1].ScreenOut == e.ScreenIn {
				assert.Equal(t, next[i-1].ScreenOut, next[i].ScreenIn, "what met still meets")
			}
			if j := next[i].Join; j != nil {
				assert.LessOrEqual(t, j.After, next[i].Screen().Count())
				assert.LessOrEqual(t, j.Before, next[i-1].Screen().Count())
			}
		}
		for i, k := range d.Curves["drawn"].Keys {
			assert.LessOrEqual(t, math.Abs(from.Seconds(c.Keys[i].Frame)-to.Seconds(k.Frame)), to.Seconds(0.5)+1e-9)
		}
		// Back again, nothing is off by more than a frame of the coarser rate, but what
		// was too short for that one.
		if to.PerSecond() > from.PerSecond() {
			back := changeRate(t, d, from.String(), "seconds")
			for _, e := range program.Shots(d, "aside") {
				for _, o := range order {
					if o.ID == e.ID {
						assert.InDelta(t, o.ScreenIn, e.ScreenIn, 1)
						assert.InDelta(t, o.ScreenOut, e.ScreenOut, 1)
						assert.InDelta(t, o.StoryIn, e.StoryIn, 1)
					}
				}
			}
			for i, k := range d.Curves["drawn"].Keys {
				assert.InDelta(t, c.Keys[i].Frame, k.Frame, 1)
			}
			require.NoError(t, patch.Apply(d, back.Inverse()))
		}
		require.NoError(t, patch.Apply(d, p.Inverse()))
		assert.Equal(t, before, string(d.Encode()))
	})
}
