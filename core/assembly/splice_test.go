package assembly_test

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"proscen/core/assembly"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// shown writes what an assembly's main lane shows: camera[in,out)@story.
func shown(d *scene.Document, id string) string {
	var out []string
	for _, s := range program.Compile(d, id).Shots() {
		out = append(out, fmt.Sprintf("%s[%d,%d)@%g", s.Camera, s.ScreenIn, s.ScreenOut, s.StoryIn))
	}
	return strings.Join(out, " ")
}

func named(t *testing.T, d *scene.Document, name string) string {
	t.Helper()
	id, ok := program.Find(d, name)
	require.True(t, ok, name)
	return id
}

func cue(clock scene.Clock, frame int, camera string) scene.Marker {
	m := scene.Marker{Clock: clock, Frame: frame, Name: "cue", Color: "#ffffff", Camera: camera}
	if clock == scene.ScreenClock {
		m.Assembly = "cut"
	}
	return m
}

func TestSwitchingFollowsCues(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40})
	d.Markers = map[string]scene.Marker{"x": cue(scene.StoryClock, 20, "a"), "y": cue(scene.StoryClock, 60, "b"), "z": cue(scene.StoryClock, 100, "a"), "plain": {Clock: scene.StoryClock, Frame: 70, Name: "n", Color: "#000000"}}
	run(t, d, "assemblySet", m{"id": "cut", "cues": "story"})
	assert.Equal(t, "a[0,40)@20 b[40,80)@60 a[80,220)@100", shown(d, "cut"), "the story of Small ends at 240")
	d.Markers["y"] = cue(scene.StoryClock, 50, "b")
	assert.Equal(t, "a[0,30)@20 b[30,80)@50 a[80,220)@100", shown(d, "cut"), "a cue that moves takes the cut along")
	run(t, d, "shotsFromCues", m{"assembly": "cut", "clock": "story"})
	assert.Empty(t, d.Assemblies["cut"].Cues)
	assert.Equal(t, "a[0,30)@20 b[30,80)@50 a[80,220)@100", shown(d, "cut"))
	aside := program.SpareLanes(d, "cut")
	require.Len(t, aside, 1)
	assert.Len(t, program.Shots(d, aside[0]), 1, "what was there is kept aside")
	run(t, d, "cuesFromShots", m{"assembly": "cut", "clock": "screen"})
	run(t, d, "assemblySet", m{"id": "cut", "cues": "screen"})
	assert.Equal(t, "a[0,30)@0 b[30,80)@30 a[80,240)@80", shown(d, "cut"), "on the screen clock the story runs along")
	refused(t, scenetest.Cut(), "no marker on the screen clock names a camera", "shotsFromCues", m{"assembly": "cut", "clock": "screen"})
	refused(t, scenetest.Cut(), "no shots to make cues of", "cuesFromShots", m{"assembly": "cut", "clock": "screen"})
}

func TestPuttingOnAirSetsCuesWhereCuesAreFollowed(t *testing.T) {
	for clock, want := range map[scene.Clock]string{"story": "a[0,30)@20 b[30,50)@50 a[50,220)@70", "screen": "a[0,30)@0 b[30,50)@30 a[50,240)@50"} {
		d := scenetest.Cut([2]int{0, 40})
		first := 20
		if clock == scene.ScreenClock {
			first = 0
		}
		d.Markers = map[string]scene.Marker{"x": cue(clock, first, "b")}
		run(t, d, "assemblySet", m{"id": "cut", "cues": clock})
		before := d.Shots["s1"]
		run(t, d, "cutTo", m{"assembly": "cut", "at": 0, "camera": "a"}) // where a cue stands
		run(t, d, "cutTo", m{"assembly": "cut", "at": 30, "camera": "b"})
		run(t, d, "cutTo", m{"assembly": "cut", "at": 50, "camera": "a"})
		assert.Equal(t, want, shown(d, "cut"), clock)
		assert.Equal(t, before, d.Shots["s1"], "the shots beside are left alone")
		refused(t, d, "already", "cutTo", m{"assembly": "cut", "at": 50, "camera": "a"})
	}
}

func TestTheFirstCueIsSetFromNothing(t *testing.T) {
	for clock, want := range map[scene.Clock]string{"story": "b[0,210)@30", "screen": "b[30,240)@30"} {
		d := scenetest.Cut()
		d.Markers = map[string]scene.Marker{}
		run(t, d, "assemblySet", m{"id": "cut", "cues": clock})
		run(t, d, "cutTo", m{"assembly": "cut", "at": 30, "camera": "b"})
		assert.Equal(t, want, shown(d, "cut"), clock)
	}
}

func TestOneFrameOfEachCamera(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40})
	run(t, d, "oneFrameEach", m{"story": 77})
	assert.Equal(t, "a[0,1)@77 b[1,2)@77", shown(d, named(t, d, "stills at 77")))
}

func TestATakeBecomesShots(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80})
	// Recorded over 20 to 60: a, at 30 b, at 45 and at once again a, at 50 a once more.
	run(t, d, "takeRecord", m{"assembly": "cut", "in": 20, "out": 60, "storyIn": 120, "switches": []m{
		{"at": 20, "camera": "a"}, {"at": 30, "camera": "b"}, {"at": 45, "camera": "b"}, {"at": 45, "camera": "a"}, {"at": 50, "camera": "a"},
	}})
	assert.Equal(t, "a[0,20)@1000 a[20,30)@120 b[30,45)@130 a[45,60)@145 a[60,80)@2020", shown(d, "cut"))
	run(t, d, "shotRoll", m{"id": program.Shots(d, "main")[2].ID, "by": -3})
	assert.Equal(t, "a[0,20)@1000 a[20,27)@120 b[27,45)@127 a[45,60)@145 a[60,80)@2020", shown(d, "cut"), "a cut of a take is nudged like any other")
	// A retake over a part of it changes that part only.
	run(t, d, "takeRecord", m{"assembly": "cut", "in": 40, "out": 50, "storyIn": 140, "switches": []m{{"at": 43, "camera": "b"}}})
	assert.Equal(t, "a[0,20)@1000 a[20,27)@120 b[27,40)@127 b[40,50)@140 a[50,60)@150 a[60,80)@2020", shown(d, "cut"))
	// The camera on air stays until the first switch, however soon that comes.
	for at, want := range map[int]string{0: "b[0,40)@5 a[40,80)@2000", 1: "a[0,1)@5 b[1,40)@6 a[40,80)@2000", 13: "a[0,13)@5 b[13,40)@18 a[40,80)@2000"} {
		d = scenetest.Cut([2]int{0, 40}, [2]int{40, 80})
		run(t, d, "takeRecord", m{"assembly": "cut", "in": 0, "out": 40, "storyIn": 5, "opening": "a", "switches": []m{{"at": at, "camera": "b"}}})
		assert.Equal(t, want, shown(d, "cut"))
	}
	d = scenetest.Cut([2]int{0, 10}, [2]int{10, 20}, [2]int{20, 30})
	run(t, d, "takeRecord", m{"assembly": "cut", "in": 0, "out": 25, "switches": []m{{"at": 0, "camera": "a"}, {"at": 9, "camera": "b"}}})
	var numbers []string
	for _, s := range program.Shots(d, "main") {
		numbers = append(numbers, s.Number)
	}
	assert.Equal(t, []string{"020", "030", "040"}, numbers, "numbers of what is gone are free")
	refused(t, d, "no camera was put on air", "takeRecord", m{"assembly": "cut", "in": 0, "out": 9})
	refused(t, d, "no frames", "takeRecord", m{"assembly": "cut", "in": 9, "out": 9, "switches": []m{{"at": 1, "camera": "a"}}})
}

func TestATakeIsWhatTheMonitorShowed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := scenetest.Cut([2]int{0, 30}, [2]int{30, 70})
		in := rapid.IntRange(0, 60).Draw(t, "in")
		out := in + rapid.IntRange(1, 60).Draw(t, "frames")
		cameras := rapid.SampledFrom([]string{"a", "b"})
		opening := rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "opening")
		var switches []assembly.Switch
		for range rapid.IntRange(1, 8).Draw(t, "presses") {
			switches = append(switches, assembly.Switch{At: rapid.IntRange(in-5, out+5).Draw(t, "at"), Camera: cameras.Draw(t, "camera")})
		}
		slices.SortStableFunc(switches, func(x, y assembly.Switch) int { return x.At - y.At }) // as they are pressed
		monitor := func(frame int) string {
			shows := opening
			if shows == "" {
				shows = switches[0].Camera
			}
			for _, w := range switches {
				if w.At <= frame {
					shows = w.Camera
				}
			}
			return shows
		}
		run(t, d, "takeRecord", m{"assembly": "cut", "in": in, "out": out, "storyIn": 500, "opening": opening, "switches": switches})
		p := program.Compile(d, "cut")
		var air program.Air
		for f := in; f < out; f++ {
			p.At(float64(f), &air)
			require.Len(t, air.Playing, 1, "frame %d", f)
			require.Equal(t, monitor(f), air.Playing[0].Camera, "frame %d", f)
			require.InDelta(t, float64(500+f-in), air.Playing[0].Story, 1e-9)
		}
	})
}

func TestShotsFollowOnAndComeFromMoves(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80}, [2]int{80, 90})
	run(t, d, "shotFollowOn", m{"ids": []string{"s2", "s3"}})
	assert.Equal(t, "a[0,40)@1000 a[40,80)@1040 a[80,90)@1080", shown(d, "cut"))
	refused(t, d, "already", "shotFollowOn", m{"ids": []string{"s2"}})
	refused(t, d, "none before", "shotFollowOn", m{"ids": []string{"s1"}})
	// Camera B runs along its path from frame 0 to 96.
	run(t, d, "shotFromMove", m{"assembly": "cut", "camera": "b"})
	assert.Equal(t, "a[0,40)@1000 a[40,80)@1040 a[80,90)@1080 b[90,187)@0", shown(d, "cut"), "97 frames: both keys are shown")
	refused(t, d, "does not move", "shotFromMove", m{"assembly": "cut", "camera": "a"})
}

func TestARippleTakesTheStoryAlong(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80}, [2]int{80, 90}, [2]int{90, 99})
	run(t, d, "shotFollowOn", m{"ids": []string{"s2", "s3"}})
	run(t, d, "shotTrim", m{"id": "s1", "edge": "out", "by": -10, "ripple": true, "along": true})
	assert.Equal(t, "a[0,30)@1000 a[30,70)@1030 a[70,80)@1070 a[80,89)@4000", shown(d, "cut"), "those that follow on go along, the last one has a start of its own")
	run(t, d, "shotTrim", m{"id": "s1", "edge": "out", "by": 10, "ripple": true})
	assert.Equal(t, "a[0,40)@1000 a[40,80)@1030 a[80,90)@1070 a[90,99)@4000", shown(d, "cut"), "unless it is chosen, the story stays")
}

func TestCutsPastTheEndLeaveNoGap(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40})
	s := d.Shots["s1"]
	s.StoryIn = 0
	d.PutShot("s1", s)
	cut := func(at int, camera string) {
		t.Helper()
		run(t, d, "cutTo", m{"assembly": "cut", "at": at, "camera": camera})
	}
	cut(60, "b")
	assert.Equal(t, "a[0,60)@0 b[60,240)@60", shown(d, "cut"), "what was on air lasts, the new one runs to the end of the story")
	for i, at := range []int{300, 310, 400, 500} {
		cut(at, []string{"a", "b"}[i%2])
	}
	end := 0
	for _, e := range program.Shots(d, "main") {
		assert.Equal(t, end, e.ScreenIn, "no gap")
		end = e.ScreenOut
	}
	// From nothing, with what was seen until then, and without.
	d = scenetest.Cut()
	run(t, d, "cutTo", m{"assembly": "cut", "at": 48, "camera": "b", "before": "a"})
	assert.Equal(t, "a[0,48)@0 b[48,240)@48", shown(d, "cut"))
	d = scenetest.Cut()
	run(t, d, "cutTo", m{"assembly": "cut", "at": 48, "camera": "b"})
	assert.Equal(t, "b[0,240)@0", shown(d, "cut"))
}

func spoken(lines ...scene.Line) *scene.Document {
	d := scenetest.Cut()
	d.Nodes["other"] = d.Nodes["walker"]
	c := d.Nodes["a"]
	k := *c.Camera
	k.Number, c.Camera, c.Name = 9, &k, "W"
	d.Nodes["w"] = c
	d.Lines = map[string]scene.Line{}
	for i, l := range lines {
		l.Text = "…"
		d.Lines[fmt.Sprintf("l%d", i)] = l
	}
	return d
}

func TestRoughCutFollowsWhoSpeaks(t *testing.T) {
	d := spoken(scene.Line{Cast: "walker", In: 50, Out: 80}, scene.Line{Cast: "other", In: 90, Out: 120}, scene.Line{Cast: "walker", In: 180, Out: 200})
	args := m{"from": 0, "to": 240, "speakers": map[string]string{"walker": "a", "other": "b"}, "wide": "w", "lead": 6, "lag": 8, "minimum": 20, "opening": 30, "closing": 24}
	// The wide holds until 50−6; a to 90−6 (the lead of the next line wins over the
	// lag); b to 120+8; a pause of 46 shows the wide; a from 174 to 200+8; then the
	// wide, which begins later than the last 24.
	args["name"] = "first"
	run(t, d, "roughCut", args)
	assert.Equal(t, "w[0,44)@0 a[44,84)@44 b[84,128)@84 w[128,174)@128 a[174,208)@174 w[208,240)@208", shown(d, named(t, d, "first")))
	args["minimum"], args["name"] = 60, "calm"
	run(t, d, "roughCut", args)
	// Nothing under 60: the wide takes 16 from a, a what it lacks from b, and so on.
	for _, s := range program.Compile(d, named(t, d, "calm")).Shots() {
		assert.GreaterOrEqual(t, s.Screen().Count(), 60, "%s", shown(d, named(t, d, "calm")))
	}
	args["opening"], args["closing"], args["minimum"], args["name"] = 0, 0, 10, "no wide"
	run(t, d, "roughCut", args)
	assert.Equal(t, "w[0,44)@0 a[44,84)@44 b[84,128)@84 w[128,174)@128 a[174,208)@174 w[208,240)@208", shown(d, named(t, d, "no wide")), "before the first line there is nobody to show")
	args["opening"], args["closing"] = 200, 100
	refused(t, d, "longer than the range", "roughCut", args)
	delete(args, "wide")
	refused(t, d, "choose a camera for the wide", "roughCut", args)
}

func TestRoughCutAlwaysCoversTheRange(t *testing.T) {
	for seed := range 300 {
		var lines []scene.Line
		at := seed % 37
		for i := range seed % 9 {
			at += (seed*7 + i*13) % 40
			length := 1 + (seed*3+i*11)%45
			lines = append(lines, scene.Line{Cast: []string{"walker", "other"}[i%2], In: at, Out: at + length})
			at += length - (seed+i)%9 // some overlap
		}
		d := spoken(lines...)
		run(t, d, "roughCut", m{"from": 0, "to": 300, "speakers": map[string]string{"walker": "a", "other": "b"}, "wide": "w", "lead": seed % 11, "lag": seed % 17, "minimum": 12, "opening": seed % 40, "closing": seed % 31, "name": "r"})
		at = 0
		list := program.Compile(d, named(t, d, "r")).Shots()
		for i, s := range list {
			require.Equal(t, at, s.ScreenIn, "%d: %s", seed, shown(d, named(t, d, "r")))
			require.Equal(t, float64(at), s.StoryIn)
			require.True(t, s.Screen().Count() >= 12 || len(list) == 1, "%d: %s", seed, shown(d, named(t, d, "r")))
			require.True(t, i == 0 || list[i-1].Camera != s.Camera, "%d", seed)
			at = s.ScreenOut
		}
		require.Equal(t, 300, at, "%d", seed)
	}
}

func TestAssembliesAreCopiedComparedAndRemoved(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80}, [2]int{80, 120})
	d.Lanes["aside"] = scene.Lane{Assembly: "cut", Name: "spare 1", Order: 1}
	d.Boards["b1"] = scene.Board{Shot: "s1", Blob: strings.Repeat("ab", 32), Width: 4, Height: 3}
	d.Markers["on"] = cue(scene.ScreenClock, 5, "a")
	d.Tracks["t"] = scene.Track{Name: "t", Clock: scene.ScreenClock, Assembly: "cut"}
	d.Sounds["n"] = scene.Sound{Track: "t", Name: "n", Blob: strings.Repeat("cd", 32), Seconds: 2, In: 0, Out: 48}
	run(t, d, "assemblyDuplicate", m{"id": "cut", "name": "second"})
	id := named(t, d, "second")
	assert.Equal(t, shown(d, "cut"), shown(d, id))
	assert.Empty(t, program.Differences(d, "cut", id))
	assert.Len(t, d.Boards, 2)
	assert.Len(t, d.Sounds, 2)
	assert.Len(t, program.SpareLanes(d, id), 1)
	run(t, d, "shotTrim", m{"id": "s1", "edge": "out", "by": 7, "ripple": true})
	run(t, d, "shotSet", m{"ids": []string{"s2"}, "change": m{"camera": "b"}})
	run(t, d, "shotSlip", m{"ids": []string{"s3"}, "by": 4})
	run(t, d, "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 9})
	var said []string
	for _, x := range program.Differences(d, "cut", id) {
		said = append(said, strings.TrimSpace(fmt.Sprintf("%s %s: %s → %s", x.Number, x.What, x.First, x.Second)))
	}
	assert.Equal(t, []string{"010 length: 47 f → 40 f", "020 picture: B → A", "030 story: from 3004 → from 3000", "040 only in the first: 9 f at 127 →"}, said)
	run(t, d, "shotSwap", m{"a": "s1", "b": "s2"})
	said = nil
	for _, x := range program.Differences(d, "cut", id) {
		said = append(said, x.Number+" "+x.What)
	}
	assert.Equal(t, []string{"020 picture", "010 length", "010 order", "030 story", "040 only in the first"}, said)
	run(t, d, "assemblyRemove", m{"id": id})
	assert.Len(t, d.Boards, 1)
	assert.Len(t, d.Tracks, 1)
	refused(t, d, "keeps at least one", "assemblyRemove", m{"id": "cut"})
	run(t, d, "assemblyAdd", m{"name": "cut"})
	refused(t, d, "is called", "assemblySet", m{"id": named(t, d, "cut 2"), "name": "cut"})
}

func TestRhythmMarksWhatIsFarOff(t *testing.T) {
	d := scenetest.Cut([2]int{0, 24}, [2]int{24, 60}, [2]int{70, 118})
	r := program.Measure(program.Compile(d, "cut"), scene.Assembly{Target: 100, ShotTarget: 30})
	assert.InDelta(t, 36, r.Average, 1e-12)
	assert.InDelta(t, 36, r.Median, 1e-12)
	assert.Equal(t, [3]int{108, 10, 8}, [3]int{r.Total, r.Gaps, r.Over}, "a gap is no running time")
	assert.Equal(t, []bool{false, false, true}, []bool{r.Beats[0].Far, r.Beats[1].Far, r.Beats[2].Far})
	assert.InDelta(t, -0.2, r.Beats[0].Off, 1e-12)
}

func TestBoardsBeforeAnyCamera(t *testing.T) {
	d := scenetest.Cut()
	blob := func(c string) string { return strings.Repeat(c, 32) }
	run(t, d, "boardsDeal", m{"assembly": "cut", "frames": 30, "panels": []m{{"name": "one", "blob": blob("01"), "width": 16, "height": 9}, {"name": "two", "blob": blob("02"), "width": 16, "height": 9}}})
	shots := program.Shots(d, "main")
	require.Len(t, shots, 2)
	assert.Equal(t, blob("02"), air(d, 30).Playing[0].Still.Blob)
	assert.Equal(t, "two", shots[1].Name)
	run(t, d, "boardAdd", m{"shot": shots[0].ID, "name": "one b", "blob": blob("03"), "width": 16, "height": 9, "at": 12})
	assert.Equal(t, blob("01"), air(d, 11).Playing[0].Still.Blob)
	assert.Equal(t, blob("03"), air(d, 12).Playing[0].Still.Blob)
	// Cut in two at 20, each part goes on with the board that is held there.
	run(t, d, "shotSplit", m{"assembly": "cut", "at": 20})
	assert.Equal(t, blob("03"), air(d, 19).Playing[0].Still.Blob)
	assert.Equal(t, blob("03"), air(d, 20).Playing[0].Still.Blob)
	run(t, d, "shotSet", m{"ids": []string{shots[1].ID}, "change": m{"camera": "b"}})
	on := air(d, 40).Playing[0]
	assert.Equal(t, "b", on.Camera, "the camera takes the board's place")
	assert.Nil(t, on.Still)
	run(t, d, "cardAdd", m{"id": "title", "title": "Last Car Down"})
	run(t, d, "shotInsert", m{"assembly": "cut", "plays": "card", "card": "title", "at": 0, "frames": 12})
	assert.Equal(t, "title", air(d, 3).Playing[0].Still.Card)
	refused(t, d, "begins from 0 to 19", "boardAdd", m{"shot": shots[0].ID, "blob": blob("04"), "width": 1, "height": 1, "at": 20})
	refused(t, d, "no panels", "boardsDeal", m{"assembly": "cut", "frames": 30})
}

func TestFootageEndsWhereItEnds(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40})
	d.Footage["f"] = scene.Footage{Name: "f", Blob: strings.Repeat("ef", 32), Width: 16, Height: 9, Frames: 50}
	run(t, d, "shotAppend", m{"assembly": "cut", "plays": "footage", "footage": "f", "frames": 30})
	s := program.Shots(d, "main")[1]
	run(t, d, "shotTrim", m{"id": s.ID, "edge": "in", "by": 5})
	assert.Equal(t, 5.0, d.Shots[s.ID].FootageIn)
	run(t, d, "shotTrim", m{"id": s.ID, "edge": "out", "by": 100})
	assert.Equal(t, 90, d.Shots[s.ID].ScreenOut, "45 frames are left of it")
	run(t, d, "shotSlip", m{"ids": []string{s.ID}, "by": 3})
	assert.Equal(t, 5.0, d.Shots[s.ID].FootageIn, "there is nothing later to show")
	run(t, d, "shotSlip", m{"ids": []string{s.ID}, "by": -9})
	assert.Equal(t, 0.0, d.Shots[s.ID].FootageIn)
	a := air(d, 50).Playing[0]
	assert.Equal(t, 5.0, a.Still.Frame)
}

func TestSoundsOfTheStoryJumpWithTheCut(t *testing.T) {
	d := scenetest.Cut([2]int{0, 48}, [2]int{48, 96}, [2]int{96, 120})
	// Stories 0–48, 24–72 (again), 96–144 at double speed.
	for id, in := range map[string]float64{"s1": 0, "s2": 24, "s3": 96} {
		s := d.Shots[id]
		s.StoryIn = in
		d.Shots[id] = s
	}
	run(t, d, "shotSpeed", m{"ids": []string{"s3"}, "speed": 2})
	run(t, d, "trackAdd", m{"id": "wind", "name": "wind", "clock": "story", "gain": 0})
	run(t, d, "soundAdd", m{"id": "w", "track": "wind", "name": "w", "blob": strings.Repeat("ab", 32), "seconds": 5, "in": 12, "gain": -6, "fadeIn": 24})
	heard := program.Schedule(d, "cut", program.Compile(d, "cut"), scene.ScreenClock, 0, 1e6, 0)
	require.Len(t, heard, 3)
	half := math.Pow(10, -6.0/20)
	assert.Equal(t, [4]float64{12, 48, 0, 1}, [4]float64{heard[0].In, heard[0].Out, heard[0].Offset, heard[0].Speed})
	assert.InDeltaSlice(t, []float64{0, half, half}, levels(heard[0]), 1e-12, "fading in until story 36")
	assert.Equal(t, [4]float64{48, 96, 0.5, 1}, [4]float64{heard[1].In, heard[1].Out, heard[1].Offset, heard[1].Speed}, "story 24 is half a second into the file")
	assert.InDelta(t, half/2, heard[1].Levels[0].Gain, 1e-12, "half way through the fade")
	assert.Equal(t, [4]float64{96, 114, 3.5, 2}, [4]float64{heard[2].In, heard[2].Out, heard[2].Offset, heard[2].Speed}, "the file ends at story 132")
	// On its own clock it is one piece; a solo track silences it.
	assert.Len(t, program.Schedule(d, "cut", &program.Program{}, scene.StoryClock, 0, 1e6, 0), 1)
	run(t, d, "trackAdd", m{"id": "bell", "name": "bell", "clock": "screen", "assembly": "cut", "gain": 6, "solo": true})
	run(t, d, "soundAdd", m{"id": "b", "track": "bell", "name": "b", "blob": strings.Repeat("cd", 32), "seconds": 2, "in": 30, "gain": -6})
	heard = slices.DeleteFunc(program.Schedule(d, "cut", program.Compile(d, "cut"), scene.ScreenClock, 0, 1e6, 0), func(h program.Heard) bool { return h.Muted })
	require.Len(t, heard, 1)
	assert.Equal(t, [2]float64{30, 78}, [2]float64{heard[0].In, heard[0].Out})
	assert.InDelta(t, 1, heard[0].Levels[0].Gain, 1e-12, "+6 and −6 dB")
	run(t, d, "soundTrim", m{"id": "b", "edge": "in", "by": 6})
	run(t, d, "soundTrim", m{"id": "b", "edge": "out", "by": 900})
	assert.Equal(t, [2]int{36, 78}, [2]int{d.Sounds["b"].In, d.Sounds["b"].Out}, "it cannot be longer than its file")
	assert.InDelta(t, 0.25, d.Sounds["b"].From, 1e-12)
	run(t, d, "trackRemove", m{"id": "bell"})
	assert.Len(t, d.Sounds, 1)
	refused(t, d, "choose a track", "soundAdd", m{"track": "none", "name": "x", "seconds": 1})
}

func levels(h program.Heard) (out []float64) {
	for _, l := range h.Levels {
		out = append(out, l.Gain)
	}
	return out
}

func TestLinesMoveWithTheirGesturesOrApart(t *testing.T) {
	d := spoken(scene.Line{Cast: "walker", In: 50, Out: 80})
	d.Actions["wave"] = scene.Action{Cast: "walker", Do: scene.Wave, In: 60, Out: 70}
	run(t, d, "linesMove", m{"ids": []string{"l0"}, "by": 5})
	assert.Equal(t, [2]int{55, 60}, [2]int{d.Lines["l0"].In, d.Actions["wave"].In})
	run(t, d, "linesMove", m{"ids": []string{"l0"}, "by": 5, "with": true})
	assert.Equal(t, [2]int{60, 65}, [2]int{d.Lines["l0"].In, d.Actions["wave"].In})
	assert.Equal(t, 0, d.Actions["walking"].In, "what the body does stays")
}
