package scene_test

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestWhatACutMayNotBe breaks one thing at a time, and looks for its sentence.
func TestWhatACutMayNotBe(t *testing.T) {
	blob := strings.Repeat("ab", 32)
	shot := func(change func(s *scene.Shot)) func(*scene.Document) {
		return func(d *scene.Document) {
			s := d.Shots["s2"]
			change(&s)
			d.Shots["s2"] = s
		}
	}
	for says, breaks := range map[string]func(*scene.Document){
		"shots/s2/plays is \"film\"":                             shot(func(s *scene.Shot) { s.Plays = "film" }),
		"shots/s2/card refers to \"gone\"":                       shot(func(s *scene.Shot) { s.Plays, s.Card = scene.PlaysCard, "gone" }),
		"shots/s2/footage refers to \"gone\"":                    shot(func(s *scene.Shot) { s.Plays, s.Footage = scene.PlaysFootage, "gone" }),
		"shots/s2/camera refers to \"\"":                         shot(func(s *scene.Shot) { s.Camera = "" }),
		"shots/s2/speed is 0.001":                                shot(func(s *scene.Shot) { s.Speed = 0.001 }),
		"shots/s2/status is \"done\"":                            shot(func(s *scene.Shot) { s.Status = "done" }),
		"shots/s2/join lasts no frame":                           shot(func(s *scene.Shot) { s.Join = &scene.Join{Kind: scene.Dissolve} }),
		"shots/s2/join/kind is \"wipe\"":                         shot(func(s *scene.Shot) { s.Join = &scene.Join{Kind: "wipe", After: 3} }),
		"shots/s2/join/color is \"\"":                            shot(func(s *scene.Shot) { s.Join = &scene.Join{Kind: scene.Dip, After: 3} }),
		"shots/s2/join/ease is \"hold\"":                         shot(func(s *scene.Shot) { s.Join = &scene.Join{Kind: scene.Travels, After: 3, Ease: curve.Hold} }),
		"shots/s2/join/before is -1":                             shot(func(s *scene.Shot) { s.Join = &scene.Join{Kind: scene.Dissolve, Before: -1, After: 3} }),
		"shots/s2/screenIn is 40, but shot 010 on the same lane": shot(func(s *scene.Shot) { s.ScreenIn = 40 }),
		"cards/c/color is \"blue\"":                              func(d *scene.Document) { d.Cards["c"] = scene.Card{Name: "c", Color: "blue", Ink: "#ffffff"} },
		"cards/c/blob is not the SHA-256": func(d *scene.Document) {
			d.Cards["c"] = scene.Card{Name: "c", Color: "#000000", Ink: "#ffffff", Blob: "x", Width: 1, Height: 1}
		},
		"footage/f/frames is 0":            func(d *scene.Document) { d.Footage["f"] = scene.Footage{Name: "f", Blob: blob, Width: 1, Height: 1} },
		"boards/b/shot refers to \"gone\"": func(d *scene.Document) { d.Boards["b"] = scene.Board{Shot: "gone", Blob: blob, Width: 1, Height: 1} },
		"boards/b/at is -1": func(d *scene.Document) {
			d.Boards["b"] = scene.Board{Shot: "s1", Blob: blob, Width: 1, Height: 1, At: -1}
		},
		"tracks/t/clock is \"wall\"": func(d *scene.Document) { d.Tracks["t"] = scene.Track{Name: "t", Clock: "wall"} },
		"tracks/t/assembly refers to \"gone\"": func(d *scene.Document) {
			d.Tracks["t"] = scene.Track{Name: "t", Clock: scene.ScreenClock, Assembly: "gone"}
		},
		"tracks/t/gain is 90": func(d *scene.Document) { d.Tracks["t"] = scene.Track{Name: "t", Clock: scene.StoryClock, Gain: 90} },
		"sounds/n/track refers to \"gone\"": func(d *scene.Document) {
			d.Sounds["n"] = scene.Sound{Track: "gone", Name: "n", Blob: blob, Seconds: 1, Out: 5}
		},
		"assemblies/cut/cues is \"wall\"": func(d *scene.Document) { d.Assemblies["cut"] = scene.Assembly{Name: "cut", Cues: "wall"} },
		"markers/m/frames is -1": func(d *scene.Document) {
			d.Markers["m"] = scene.Marker{Clock: scene.StoryClock, Name: "m", Color: "#ffffff", Frames: -1}
		},
	} {
		d := scenetest.Small()
		breaks(d)
		assert.Contains(t, d.Validate().Error(), says)
	}
	d := scenetest.Small()
	s := d.Shots["s2"]
	s.Speed, s.Plays, s.Camera = 0, scene.PlaysBoard, ""
	d.Shots["s2"] = s
	assert.Empty(t, d.Validate(), "a held board needs no camera")
	assert.Equal(t, 48.0, s.ScreenAt(40), "a held frame is shown from its start on")
	assert.Greater(t, s.ScreenAt(41), 1e300, "and no other")
}

// TestValidateTouchedSaysWhatValidateSays changes shots of a valid document and
// holds the short check against the whole one.
func TestValidateTouchedSaysWhatValidateSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := scenetest.Small()
		d.Lanes["aside"] = scene.Lane{Assembly: "cut", Name: "aside"}
		d.Boards["b"] = scene.Board{Shot: "s3", Blob: strings.Repeat("ab", 32), Width: 1, Height: 1}
		require.Empty(t, d.Validate())
		ids := rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"s1", "s2", "s3", "new"}), 1, 3, rapid.ID[string]).Draw(t, "ids")
		var shots []scene.ShotChange
		for _, id := range ids {
			before, was := d.Shots[id]
			shots = append(shots, scene.ShotChange{ID: id, Before: before, Was: was})
			if rapid.IntRange(0, 4).Draw(t, "gone") == 0 {
				delete(d.Shots, id)
				continue
			}
			in := rapid.IntRange(-2, 120).Draw(t, "in")
			if was && rapid.Bool().Draw(t, "moved") {
				before.ScreenIn, before.ScreenOut = in, in+rapid.IntRange(0, 60).Draw(t, "length")
				d.Shots[id] = before
				continue
			}
			d.Shots[id] = scene.Shot{
				Lane: rapid.SampledFrom([]string{"main", "aside", "gone"}).Draw(t, "lane"), Number: "1", Camera: rapid.SampledFrom([]string{"a", "b", "box", ""}).Draw(t, "camera"),
				ScreenIn: in, ScreenOut: in + rapid.IntRange(0, 60).Draw(t, "length"), Speed: rapid.SampledFrom([]float64{0, 1, -1}).Draw(t, "speed"),
			}
		}
		for i := range shots {
			shots[i].After, shots[i].Is = d.Shots[shots[i].ID]
			shots[i].Settle()
		}
		var changed []scene.Touched
		if rapid.Bool().Draw(t, "marker") {
			d.Markers["m"] = scene.Marker{Clock: scene.ScreenClock, Assembly: rapid.SampledFrom([]string{"cut", "gone"}).Draw(t, "assembly"), Frame: rapid.SampledFrom([]int{3, 1e9}).Draw(t, "frame"), Color: "#ffffff"}
			changed = append(changed, scene.Touched{Collection: "markers", ID: "m"})
		}
		if rapid.Bool().Draw(t, "sound") {
			d.Sounds["x"] = scene.Sound{Track: "gone", Name: "x", Blob: strings.Repeat("ab", 32), In: 5, Out: rapid.IntRange(4, 7).Draw(t, "out")}
			changed = append(changed, scene.Touched{Collection: "sounds", ID: "x"})
		}
		whole, short := d.Validate(), d.ValidateTouched(shots, changed)
		say := func(p scene.Problems) map[string]bool {
			out := map[string]bool{}
			for _, x := range p {
				out[fmt.Sprint(x)] = true
			}
			return out
		}
		if fmt.Sprint(say(whole)) != fmt.Sprint(say(short)) {
			t.Fatalf("whole: %v\nshort: %v", whole, short)
		}
	})
}

func TestTheOrderOfShotsIsCounted(t *testing.T) {
	d := scenetest.Small()
	order := func() (out string) {
		for _, p := range d.ShotsInOrder() {
			out += p.ID + " "
		}
		return out
	}
	assert.Equal(t, "s1 s2 s3 ", order())
	first := d.OrderOfShots()
	set := func(id string, change func(s *scene.Shot)) {
		s := d.Shots[id]
		change(&s)
		d.PutShot(id, s)
	}
	set("s3", func(s *scene.Shot) { s.ScreenIn, s.ScreenOut = 500, 510 })
	assert.Equal(t, first, d.OrderOfShots(), "moving without passing another is the same order")
	set("s3", func(s *scene.Shot) { s.ScreenIn, s.ScreenOut = 10, 20 })
	assert.Equal(t, "s1 s3 s2 ", order())
	second := d.OrderOfShots()
	assert.NotEqual(t, first, second)
	set("s3", func(s *scene.Shot) { s.Lane = "elsewhere" })
	third := d.OrderOfShots()
	assert.NotEqual(t, second, third, "changing lanes is another order")
	d.Table("shots").Delete("s1")
	assert.Equal(t, "s3 s2 ", order())
	assert.NotEqual(t, third, d.OrderOfShots())
	c := d.Clone()
	d.Shots["s9"] = scene.Shot{ScreenIn: 1, ScreenOut: 2}
	assert.Len(t, c.ShotsInOrder(), 2, "a copy has an order of its own")
}

// Whatever is stored in whatever way, the list is what sorting all shots gives.
func TestTheOrderOfShotsFollowsEveryChange(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := scene.New()
		id := rapid.SampledFrom([]string{"a", "b", "c", "d", "e", "f"})
		version, before := d.OrderOfShots(), ""
		for range rapid.IntRange(1, 40).Draw(t, "steps") {
			k := id.Draw(t, "id")
			s := scene.Shot{Lane: rapid.SampledFrom([]string{"main", "aside"}).Draw(t, "lane"), ScreenIn: rapid.IntRange(0, 9).Draw(t, "in")}
			switch rapid.IntRange(0, 4).Draw(t, "how") {
			case 0:
				d.Table("shots").Delete(k)
			case 1:
				d.Table("shots").Put(k, s)
			case 2:
				require.NoError(t, d.Table("shots").Set(k, scene.Canonical(s)))
			default:
				d.PutShot(k, s)
			}
			if rapid.Bool().Draw(t, "look") {
				continue
			}
			var want []scene.ShotEntry
			for id, s := range d.Shots {
				want = append(want, scene.ShotEntry{ID: id, Shot: s})
			}
			slices.SortFunc(want, func(a, b scene.ShotEntry) int {
				return cmp.Or(a.ScreenIn-b.ScreenIn, cmp.Compare(a.ID, b.ID))
			})
			require.Equal(t, want, append([]scene.ShotEntry(nil), d.ShotsInOrder()...))
			now := ""
			for _, e := range want {
				now += e.ID + e.Lane + " "
			}
			if v := d.OrderOfShots(); (v != version) != (now != before) {
				t.Fatalf("order %q, then %q: version %d, then %d", before, now, version, v)
			}
			version, before = d.OrderOfShots(), now
		}
	})
}
