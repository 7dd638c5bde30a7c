package assembly_test

import (
	"encoding/json"
	"testing"

	"proscen/core/assembly"
	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func refused(t *testing.T, d *scene.Document, says, name string, args m) {
	t.Helper()
	before := string(d.Encode())
	body, err := json.Marshal(args)
	require.NoError(t, err)
	_, err = assembly.Operations().Run(d, name, body, edit.Tools{NewID: func() string { return "x" }})
	assert.ErrorContains(t, err, says)
	assert.Equal(t, before, string(d.Encode()), "a refusal changes nothing")
}

func label(t *testing.T, d *scene.Document, name string, args m) string {
	t.Helper()
	body, err := json.Marshal(args)
	require.NoError(t, err)
	r, err := assembly.Operations().Run(d, name, body, edit.Tools{NewID: func() string { return "made" }})
	require.NoError(t, err)
	return r.Label
}

func air(d *scene.Document, screen float64) program.Air {
	var a program.Air
	program.Compile(d, "cut").At(screen, &a)
	return a
}

// handles gives the shots of a document head and tail frames.
func handles(d *scene.Document, frames int) *scene.Document {
	for id, s := range d.Shots {
		s.Head, s.Tail = frames, frames
		d.Shots[id] = s
	}
	return d
}

func TestMissingHandlesAreNamedAndGiven(t *testing.T) {
	d := handles(scenetest.Cut([2]int{0, 40}, [2]int{40, 80}), 5)
	args := m{"id": "s2", "kind": "dissolve", "frames": 16}
	refused(t, d, "shot 010 lacks 3 tail frames and shot 020 lacks 3 head frames for a dissolve of 16 f", "shotJoin", args)
	k, ok := assembly.JoinLack(d, "s2", scene.Dissolve, 16, "after")
	require.True(t, ok)
	assert.Equal(t, assembly.Lack{Out: "010", In: "020", Tail: 11, MostBefore: 40, MostAfter: 40}, k)
	args["give"] = true
	run(t, d, "shotJoin", args)
	assert.Equal(t, 8, d.Shots["s1"].Tail)
	assert.Equal(t, 8, d.Shots["s2"].Head)
	assert.Equal(t, 5, d.Shots["s1"].Head, "what is not needed stays")
	assert.Equal(t, &scene.Join{Kind: scene.Dissolve, Before: 8, After: 8}, d.Shots["s2"].Join)
	refused(t, d, "needs 8 head frames", "shotSet", m{"ids": []string{"s2"}, "change": m{"head": 7}})
	refused(t, d, "needs 8 tail frames", "shotSet", m{"ids": []string{"s1"}, "change": m{"tail": 0}})
	refused(t, d, "does not fit between", "shotJoin", m{"id": "s2", "kind": "dip", "frames": 82})
	refused(t, d, "no seam", "shotJoin", m{"id": "s1", "kind": "dip", "frames": 8})
	run(t, d, "shotJoin", m{"id": "s2", "kind": ""})
	assert.Nil(t, d.Shots["s2"].Join)
}

func TestHandlesOfFastShotsAreStoryFrames(t *testing.T) {
	d := handles(scenetest.Cut([2]int{0, 40}, [2]int{40, 80}), 8)
	run(t, d, "shotSpeed", m{"ids": []string{"s1"}, "speed": 3})
	k, _ := assembly.JoinLack(d, "s2", scene.Dissolve, 8, "centre")
	assert.Equal(t, 4, k.Tail, "four screen frames at triple speed are twelve of the story")
	run(t, d, "shotSpeed", m{"ids": []string{"s1"}, "speed": 0})
	k, _ = assembly.JoinLack(d, "s2", scene.Dissolve, 30, "after")
	assert.Zero(t, k.Tail, "a frozen frame needs none")
}

func TestOperationsKeepJoinsWhole(t *testing.T) {
	d := handles(scenetest.Cut([2]int{0, 40}, [2]int{40, 80}, [2]int{80, 120}), 12)
	run(t, d, "shotJoin", m{"id": "s2", "kind": "dissolve", "frames": 20})
	run(t, d, "shotJoin", m{"id": "s3", "kind": "dissolve", "frames": 20})
	// Ten frames are left of s2: the first join keeps its ten after the seam, the
	// second has no room before its own.
	assert.Equal(t, "ripple trim out of shot 020 by -30f; the dissolve into shot 030 now has 10 f", label(t, d, "shotTrim", m{"id": "s2", "edge": "out", "by": -30, "ripple": true}))
	assert.Equal(t, &scene.Join{Kind: scene.Dissolve, After: 10}, d.Shots["s3"].Join)
	assert.Equal(t, "lift shot 020; shot 030 now begins with a cut", label(t, d, "shotRemove", m{"ids": []string{"s2"}}))
	assert.Nil(t, d.Shots["s3"].Join)
}

func TestWhatIsOnAirInAJoin(t *testing.T) {
	d := handles(scenetest.Cut([2]int{0, 40}, [2]int{40, 80}), 12)
	run(t, d, "shotJoin", m{"id": "s2", "kind": "dissolve", "frames": 4})
	// Frames 38 to 41 pass 1/8, 3/8, 5/8 and 7/8 of the way.
	for frame, weight := range map[float64]float64{38: 0.125, 39: 0.375, 40: 0.625, 41: 0.875} {
		a := air(d, frame)
		require.Len(t, a.Playing, 2, "%v", frame)
		first, second := a.Playing[0], a.Playing[1]
		if first.Shot == "s1" {
			first, second = second, first
		}
		assert.Equal(t, "s2", first.Shot)
		assert.InDelta(t, weight, first.Weight, 1e-12)
		assert.InDelta(t, 1-weight, second.Weight, 1e-12)
		assert.InDelta(t, 1000+frame, second.Story, 1e-12, "the outgoing shot runs on into its tail")
		assert.InDelta(t, 2000+frame-40, first.Story, 1e-12, "the incoming one begins in its head")
	}
	assert.Len(t, air(d, 37).Playing, 1)
	assert.Len(t, air(d, 42).Playing, 1)

	run(t, d, "shotJoin", m{"id": "s2", "kind": "dip", "frames": 8, "color": "#ffffff"})
	for frame, weight := range map[float64]float64{36: 0.875, 39: 0.125, 40: 0.125, 43: 0.875} {
		a := air(d, frame)
		require.Len(t, a.Playing, 1)
		assert.Equal(t, "#ffffff", a.Dip)
		assert.InDelta(t, weight, a.Playing[0].Weight, 1e-12, "frame %v", frame)
	}
	run(t, d, "shotSet", m{"ids": []string{"s2"}, "change": m{"camera": "b"}})
	run(t, d, "shotJoin", m{"id": "s2", "kind": "travel", "frames": 8})
	a := air(d, 41)
	require.Len(t, a.Playing, 1)
	require.NotNil(t, a.Playing[0].Between)
	b := *a.Playing[0].Between
	// (41 − 36 + ½)/8 = 0.6875 of the time; soft: 3s² − 2s³.
	assert.InDelta(t, 3*0.6875*0.6875-2*0.6875*0.6875*0.6875, b.Share, 1e-12)
	assert.Equal(t, [2]string{"a", "b"}, [2]string{b.From.Camera, b.To.Camera})
	assert.InDelta(t, 1041, b.From.Story, 1e-12)
	assert.InDelta(t, 2001, b.To.Story, 1e-12)
}

// TestATravelRestsHalfWay: of 20 frames it rests for 10, so that each half of the way takes 5.
func TestATravelRestsHalfWay(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80})
	run(t, d, "shotSet", m{"ids": []string{"s2"}, "change": m{"camera": "b"}})
	run(t, d, "shotJoin", m{"id": "s2", "kind": "travel", "frames": 20, "rest": 10, "ease": "soft", "give": true})
	share := func(frame float64) float64 {
		a := air(d, frame)
		require.Len(t, a.Playing, 1)
		require.NotNil(t, a.Playing[0].Between, "frame %v", frame)
		return a.Playing[0].Between.Share
	}
	assert.InDelta(t, 0.25, share(32), 1e-12, "half of the first half, 2½ frames in")
	for frame := 35.0; frame <= 44; frame++ {
		assert.InDelta(t, 0.5, share(frame), 1e-12, "frame %v", frame)
	}
	assert.InDelta(t, 0.75, share(47), 1e-12)
	// The first frame: a tenth of five frames, soft 3·0.01 − 2·0.001 = 0.028, of the half 0.014.
	assert.InDelta(t, 0.014, share(30), 1e-12)
	assert.InDelta(t, 1-0.014, share(49), 1e-12)

	refused(t, d, "only a travel rests", "shotJoin", m{"id": "s2", "kind": "dissolve", "frames": 20, "rest": 10})
	refused(t, d, "18 f at most", "shotJoin", m{"id": "s2", "kind": "travel", "frames": 20, "rest": 19})

	// A join that is made shorter by what is around it still goes all of its way.
	run(t, d, "shotTrim", m{"id": "s1", "edge": "in", "by": 34})
	last := -1.0
	j := d.Shots["s2"].Join
	require.NotNil(t, j)
	for k := range j.Frames() {
		w := j.Way((float64(k) + 0.5) / float64(j.Frames()))
		assert.GreaterOrEqual(t, w, last)
		last = w
	}
	assert.Greater(t, last, 0.9)
	assert.Equal(t, [2]float64{0, 1}, [2]float64{j.Way(0), j.Way(1)})
}

func TestLockedShotsOnlyMove(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80}, [2]int{80, 120})
	run(t, d, "shotSet", m{"ids": []string{"s2"}, "change": m{"locked": true}})
	for op, args := range map[string]m{
		"shotSlip":      {"ids": []string{"s2"}, "by": 3},
		"shotRoll":      {"id": "s3", "by": 3},
		"shotTrim":      {"id": "s2", "edge": "out", "by": -3},
		"shotSplit":     {"assembly": "cut", "at": 60},
		"shotRemove":    {"ids": []string{"s2"}},
		"shotOverwrite": {"assembly": "cut", "camera": "b", "at": 30, "frames": 20},
		"shotSpeed":     {"ids": []string{"s2"}, "speed": 2},
		"cutTo":         {"assembly": "cut", "at": 50, "camera": "b"},
		"shotSet":       {"ids": []string{"s2"}, "change": m{"name": "x"}},
	} {
		refused(t, d, "shot 020 is locked", op, args)
	}
	run(t, d, "shotTrim", m{"id": "s1", "edge": "out", "by": 10, "ripple": true})
	assert.Equal(t, 50, d.Shots["s2"].ScreenIn, "it is carried along")
	run(t, d, "shotSet", m{"ids": []string{"s2"}, "change": m{"locked": false, "name": "free"}})
	assert.Equal(t, "free", d.Shots["s2"].Name)
}

func TestASpareIsTriedAndPutBack(t *testing.T) {
	d := scenetest.Cut([2]int{0, 100})
	d.Lanes["aside"] = scene.Lane{Assembly: "cut", Name: "spare 1", Order: 1}
	d.Shots["alt"] = scene.Shot{Lane: "aside", Number: "015", Camera: "b", ScreenIn: 30, ScreenOut: 60, StoryIn: 7, Speed: 1}
	before := string(d.Encode())
	run(t, d, "shotTry", m{"id": "alt"})
	assert.Equal(t, "b", air(d, 30).Playing[0].Camera)
	assert.Equal(t, "a", air(d, 29).Playing[0].Camera)
	assert.Equal(t, "a", air(d, 60).Playing[0].Camera)
	assert.Equal(t, 100, program.Compile(d, "cut").Length())
	run(t, d, "shotTry", m{"id": "alt"})
	assert.Equal(t, before, string(d.Encode()), "what was cut for it is whole again")
	run(t, d, "shotMove", m{"ids": []string{"alt"}, "by": 80, "lane": "main"})
	assert.Equal(t, "main", d.Shots["alt"].Lane)
	refused(t, d, "choose to insert, to overwrite or to keep on a spare lane", "shotMove", m{"ids": []string{"alt"}, "by": -60})
	run(t, d, "shotMove", m{"ids": []string{"alt"}, "by": -60, "how": "spare"})
	assert.Equal(t, "aside", d.Shots["alt"].Lane)
	assert.Equal(t, 50, d.Shots["alt"].ScreenIn)
}
