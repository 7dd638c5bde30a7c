package assembly_test

import (
	"encoding/json"
	"fmt"
	"sort"
	"testing"

	"proscen/core/assembly"
	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func run(t require.TestingT, d *scene.Document, name string, args map[string]any) {
	n := 0
	body, err := json.Marshal(args)
	require.NoError(t, err)
	_, err = assembly.Operations().Run(d, name, body, edit.Tools{NewID: func() string {
		for {
			n++
			id := fmt.Sprintf("new%d", n+len(d.Shots))
			taken := false
			for _, table := range d.Tables() {
				taken = taken || table.Get(id) != nil
			}
			if !taken {
				return id
			}
		}
	}})
	require.NoError(t, err)
}

func ranges(d *scene.Document) (out string) {
	for _, s := range program.Shots(d, "main") {
		out += fmt.Sprintf("%s[%d,%d) ", s.ID, s.ScreenIn, s.ScreenOut)
	}
	return out
}

type m = map[string]any

func TestOperationsInGaps(t *testing.T) {
	gapped := func() *scene.Document { return scenetest.Cut([2]int{10, 20}, [2]int{30, 40}, [2]int{40, 50}) }
	for _, c := range []struct {
		name, op string
		args     m
		want     string
	}{
		{"cut fills the gap before a shot, and what was on air lasts until then", "cutTo", m{"assembly": "cut", "at": 22, "camera": "b"}, "s1[10,22) new4[22,30) s2[30,40) s3[40,50) "},
		{"cut before everything", "cutTo", m{"assembly": "cut", "at": 0, "camera": "b"}, "new4[0,10) s1[10,20) s2[30,40) s3[40,50) "},
		{"insert in a gap pushes what is later", "shotInsert", m{"assembly": "cut", "at": 25, "camera": "b", "frames": 5}, "s1[10,20) new4[25,30) s2[35,45) s3[45,55) "},
		{"trim out into the gap", "shotTrim", m{"id": "s1", "edge": "out", "by": 50}, "s1[10,30) s2[30,40) s3[40,50) "},
		{"trim in into the gap", "shotTrim", m{"id": "s2", "edge": "in", "by": -50}, "s1[10,20) s2[20,40) s3[40,50) "},
		{"trim in stops at zero", "shotTrim", m{"id": "s1", "edge": "in", "by": -50}, "s1[0,20) s2[30,40) s3[40,50) "},
		{"remove and close keeps other gaps", "shotRemove", m{"ids": []string{"s2"}, "close": true}, "s1[10,20) s3[30,40) "},
		{"move into a gap that holds it", "shotMove", m{"ids": []string{"s3"}, "by": -20}, "s1[10,20) s3[20,30) s2[30,40) "},
		{"move before zero is held", "shotMove", m{"ids": []string{"s2"}, "by": -37}, "s2[0,10) s1[10,20) s3[40,50) "},
		{"append comes after the last", "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 3}, "s1[10,20) s2[30,40) s3[40,50) new4[50,53) "},
	} {
		d := gapped()
		run(t, d, c.op, c.args)
		assert.Equal(t, c.want, ranges(d), c.name)
		assert.Empty(t, d.Validate(), c.name)
	}
}

func TestStoryStaysWhenScreenMoves(t *testing.T) {
	d := scenetest.Cut([2]int{0, 10}, [2]int{10, 30}, [2]int{30, 40})
	story := func(id string) [2]float64 { return [2]float64{d.Shots[id].StoryIn, d.Shots[id].StoryOut()} }
	want := story("s2")
	run(t, d, "shotMove", m{"ids": []string{"s2"}, "by": 90})
	assert.Equal(t, want, story("s2"))
	run(t, d, "shotMove", m{"ids": []string{"s3"}, "by": -30, "how": "reorder"})
	assert.Equal(t, [2]float64{3000, 3010}, story("s3"))
	run(t, d, "shotInsert", m{"assembly": "cut", "at": 0, "camera": "b", "frames": 7})
	assert.Equal(t, want, story("s2"), "pushing does not change what a shot shows")
}

func TestTrimAtSpeedFollowsTheStory(t *testing.T) {
	d := scenetest.Cut([2]int{0, 40})
	s := d.Shots["s1"]
	s.Speed = 2
	d.Shots["s1"] = s
	run(t, d, "shotTrim", m{"id": "s1", "edge": "in", "by": 10})
	assert.Equal(t, 1020.0, d.Shots["s1"].StoryIn, "ten screen frames at double speed are twenty of the story")
	run(t, d, "shotSplit", m{"assembly": "cut", "at": 20})
	assert.Equal(t, 1040.0, d.Shots["new2"].StoryIn)
}

func TestNumbersFitBetweenTheirNeighbours(t *testing.T) {
	d := scenetest.Cut([2]int{0, 1000}, [2]int{1000, 2000})
	seen := map[string]bool{"010": true, "020": true}
	order := func() (out []string) {
		for _, s := range program.Shots(d, "main") {
			out = append(out, s.Number)
		}
		return out
	}
	for i := range 40 { // always split the same shot: the space runs out
		run(t, d, "shotSplit", m{"assembly": "cut", "at": 900 - i*20})
		numbers := order()
		assert.True(t, sort.StringsAreSorted(numbers[:2]), "%v", numbers)
		for _, n := range numbers {
			seen[n] = true
		}
		assert.Len(t, seen, len(numbers), "no number twice: %v", numbers)
	}
	d = scenetest.Cut([2]int{0, 10})
	run(t, d, "shotAppend", m{"assembly": "cut", "camera": "a", "frames": 5})
	assert.Equal(t, []string{"010", "020"}, order())
}

func TestFindAndMainLane(t *testing.T) {
	d := scenetest.Small()
	d.Assemblies["b-cut"] = scene.Assembly{Name: "second"}
	d.Lanes["x"] = scene.Lane{Assembly: "b-cut", Name: "spare"}
	d.Lanes["y"] = scene.Lane{Assembly: "b-cut", Name: "main", Main: true}
	id, ok := program.Find(d, "second")
	assert.True(t, ok)
	assert.Equal(t, "b-cut", id)
	assert.Equal(t, "y", program.MainLane(d, id))
	id, _ = program.Find(d, "")
	assert.Equal(t, "b-cut", id, "the first by id")
	_, ok = program.Find(d, "third")
	assert.False(t, ok)
	assert.Empty(t, program.MainLane(d, "third"))
	assert.Zero(t, program.Compile(d, "b-cut").Length())
	var air program.Air
	(&program.Program{}).At(3, &air)
	assert.Empty(t, air.Playing)
}

// TestAtAgreesWithASearchThroughAll holds the program against a plain loop.
func TestAtAgreesWithASearchThroughAll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at, list := 0, [][2]int{}
		for range rapid.IntRange(0, 12).Draw(t, "shots") {
			in := at + rapid.IntRange(0, 9).Draw(t, "gap")
			at = in + rapid.IntRange(1, 30).Draw(t, "length")
			list = append(list, [2]int{in, at})
		}
		d := scenetest.Cut(list...)
		p := program.Compile(d, "cut")
		for range 20 {
			screen := rapid.Float64Range(-5, 300).Draw(t, "screen")
			var want []program.Playing
			for id, s := range d.Shots {
				if screen >= float64(s.ScreenIn) && screen < float64(s.ScreenOut) {
					want = append(want, program.Playing{Shot: id, View: program.View{Camera: s.Camera, Story: s.StoryAt(screen)}, Weight: 1})
				}
			}
			var air program.Air
			p.At(screen, &air)
			got := air.Playing
			if len(got) != len(want) || len(got) == 1 && got[0] != want[0] {
				t.Fatalf("at %v: %v, want %v", screen, got, want)
			}
		}
	})
}

func TestLabelsSayWhatWasDone(t *testing.T) {
	for want, c := range map[string]struct {
		op   string
		args m
	}{
		"trim out of shot 010 by +3f": {"shotTrim", m{"id": "s1", "edge": "out", "by": 3}},
		"cut to camera 2":             {"cutTo", m{"assembly": "cut", "at": 5, "camera": "b"}},
		"extract shot 010":            {"shotRemove", m{"ids": []string{"s1"}, "close": true}},
		"split shot 010":              {"shotSplit", m{"assembly": "cut", "at": 5}},
		"append shot 020":             {"shotAppend", m{"assembly": "cut", "camera": "b", "frames": 9}},
		"move shot 010 by +50f":       {"shotMove", m{"ids": []string{"s1"}, "by": 50}},
	} {
		body, _ := json.Marshal(c.args)
		r, err := assembly.Operations().Run(scenetest.Cut([2]int{0, 10}), c.op, body, edit.Tools{NewID: func() string { return "n" }})
		require.NoError(t, err)
		assert.Equal(t, want, r.Label)
		assert.NotEmpty(t, r.Patch)
		assert.IsType(t, patch.Patch{}, r.Patch)
	}
}

func BenchmarkAtIn2000Shots(b *testing.B) {
	var list [][2]int
	for i := range 2000 {
		list = append(list, [2]int{i * 100, i*100 + 100})
	}
	p := program.Compile(scenetest.Cut(list...), "cut")
	var air program.Air
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		p.At(float64(i*7919%200000), &air)
	}
}

func BenchmarkTrimIn2000Shots(b *testing.B) {
	var list [][2]int
	for i := range 2000 {
		list = append(list, [2]int{i * 100, i*100 + 100})
	}
	d := scenetest.Cut(list...)
	catalog := assembly.Operations()
	for i := 0; b.Loop(); i++ {
		by := 1 - 2*(i%2)
		_, _ = catalog.Run(d, "shotTrim", json.RawMessage(fmt.Sprintf(`{"id":"s1000","edge":"out","by":%d,"ripple":true}`, by)), edit.Tools{})
	}
}
