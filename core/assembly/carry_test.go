package assembly_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
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

// marked has shots [0,10) [10,20) [20,30) [40,50), a marker at frames 0, 5, 12, 20
// and 44, a sound over [22,28), and what is tied to the story or to another cut.
func marked() *scene.Document {
	d := scenetest.Cut([2]int{0, 10}, [2]int{10, 20}, [2]int{20, 30}, [2]int{40, 50})
	for _, f := range []int{0, 5, 12, 20, 44} {
		d.Markers[fmt.Sprintf("m%02d", f)] = scene.Marker{Clock: scene.ScreenClock, Assembly: "cut", Frame: f, Color: "#ffffff"}
	}
	d.Assemblies["other"] = scene.Assembly{Name: "other"}
	d.Lanes["others"] = scene.Lane{Assembly: "other", Main: true, Name: "main"}
	d.Markers["other"] = scene.Marker{Clock: scene.ScreenClock, Assembly: "other", Frame: 25, Color: "#ffffff"}
	d.Markers["story"] = scene.Marker{Clock: scene.StoryClock, Frame: 25, Color: "#ffffff"}
	d.Tracks["music"] = scene.Track{Clock: scene.ScreenClock, Assembly: "cut", Name: "music"}
	d.Tracks["room"] = scene.Track{Clock: scene.StoryClock, Name: "room"}
	for id, track := range map[string]string{"hit": "music", "steps": "room"} {
		d.Sounds[id] = scene.Sound{Track: track, Name: id, Blob: strings.Repeat("ab", 32), Seconds: 1, In: 22, Out: 28}
	}
	return d
}

// places tells where the markers and the sound of the sequence are.
func places(d *scene.Document) string {
	out := ""
	for _, id := range []string{"m00", "m05", "m12", "m20", "m44"} {
		out += fmt.Sprint(d.Markers[id].Frame, " ")
	}
	return out + fmt.Sprintf("[%d,%d)", d.Sounds["hit"].In, d.Sounds["hit"].Out)
}

// TestSpareShotsGoAlongWithLaterShots has spare shots over [0,8) [12,20) [20,30) and
// [44,48), beside main ones over [0,10) [10,20) [20,30) and [40,50).
func TestSpareShotsGoAlongWithLaterShots(t *testing.T) {
	spared := func() *scene.Document {
		d := marked()
		d.Lanes["spare"] = scene.Lane{Assembly: "cut", Name: "spare 1"}
		d.Lanes["aside"] = scene.Lane{Assembly: "other", Name: "of another cut"}
		for i, r := range [][2]int{{0, 8}, {12, 20}, {20, 30}, {44, 48}} {
			s := d.Shots["s1"]
			s.Lane, s.Number, s.ScreenIn, s.ScreenOut = "spare", fmt.Sprintf("%d", 900+i), r[0], r[1]
			d.PutShot(fmt.Sprintf("x%d", i+1), s)
			s.Lane = "aside"
			d.PutShot(fmt.Sprintf("y%d", i+1), s)
		}
		return d
	}
	where := func(d *scene.Document, lane string) (out string) {
		for _, e := range program.Shots(d, lane) {
			out += fmt.Sprintf("%s[%d,%d) ", e.ID, e.ScreenIn, e.ScreenOut)
		}
		return strings.TrimSpace(out)
	}
	was := "x1[0,8) x2[12,20) x3[20,30) x4[44,48)"
	require.Equal(t, was, where(spared(), "spare"))
	for _, c := range []struct {
		what, op string
		args     m
		want     string
	}{
		{"a longer tail", "shotTrim", m{"id": "s1", "edge": "out", "by": 4, "ripple": true}, "x1[0,8) x2[16,24) x3[24,34) x4[48,52)"},
		{"a shorter one", "shotTrim", m{"id": "s1", "edge": "out", "by": -2, "ripple": true}, "x1[0,8) x2[10,18) x3[18,28) x4[42,46)"},
		{"so short that the next finds no room until a gap", "shotTrim", m{"id": "s1", "edge": "out", "by": -6, "ripple": true}, "x1[0,8) x2[8,16) x3[16,26) x4[38,42)"},
		{"an insert", "shotInsert", m{"assembly": "cut", "camera": "b", "at": 20, "frames": 5}, "x1[0,8) x2[12,20) x3[25,35) x4[49,53)"},
		{"extracting: what lay over it stays there, and the next comes after it", "shotRemove", m{"ids": []string{"s2"}, "close": true}, "x1[0,8) x2[10,18) x3[18,28) x4[34,38)"},
		{"lifting", "shotRemove", m{"ids": []string{"s2"}}, was},
		{"closing the gap", "gapClose", m{"assembly": "cut", "all": true}, "x1[0,8) x2[12,20) x3[20,30) x4[34,38)"},
		{"a swap", "shotSwap", m{"a": "s2", "b": "s3"}, "x1[0,8) x3[10,20) x2[22,30) x4[44,48)"},
		{"another order", "shotMove", m{"ids": []string{"s1"}, "by": 14, "how": "reorder"}, "x2[2,10) x1[10,18) x3[20,30) x4[44,48)"},
		{"half as fast", "shotSpeed", m{"ids": []string{"s2"}, "speed": 0.5, "story": true}, "x1[0,8) x2[12,20) x3[30,40) x4[54,58)"},
		{"a spare one put between others leaves its gap", "shotMove", m{"ids": []string{"x2"}, "by": -2, "lane": "main", "how": "insert"}, "x1[0,8) x3[28,38) x4[52,56)"},
		{"a main one put between spare ones", "shotMove", m{"ids": []string{"s1"}, "by": 20, "lane": "spare", "how": "insert"}, "x1[0,8) x2[8,10) s1[10,20) new13[20,26) x3[26,36) x4[44,48)"},
		{"a trim on the spare lane", "shotTrim", m{"id": "x1", "edge": "out", "by": 2, "ripple": true}, "x1[0,10) x2[14,22) x3[22,32) x4[46,50)"},
	} {
		d := spared()
		before := string(d.Encode())
		run(t, d, c.op, c.args)
		assert.Equal(t, c.want, where(d, "spare"), c.what)
		assert.Equal(t, strings.ReplaceAll(was, "x", "y"), where(d, "aside"), c.what)
		require.NotEqual(t, before, string(d.Encode()), c.what)
		if _, lane := c.args["lane"]; lane || strings.HasPrefix(fmt.Sprint(c.args["id"]), "x") {
			continue
		}
		d = spared()
		run(t, d, "assemblySet", m{"id": "cut", "fixed": true})
		run(t, d, c.op, c.args)
		assert.Equal(t, was, where(d, "spare"), "%s, but they stay", c.what)
	}
}

func TestMarkersAndSoundsGoAlongWithLaterShots(t *testing.T) {
	was := places(marked())
	assert.Equal(t, "0 5 12 20 44 [22,28)", was)
	for _, c := range []struct {
		what, op string
		args     m
		want     string
	}{
		{"a longer tail", "shotTrim", m{"id": "s2", "edge": "out", "by": 4, "ripple": true}, "0 5 12 24 48 [26,32)"},
		{"a shorter tail takes what lay on it to the new end", "shotTrim", m{"id": "s2", "edge": "out", "by": -9, "ripple": true}, "0 5 11 11 35 [13,19)"},
		{"a longer head pushes what lay on the shot", "shotTrim", m{"id": "s2", "edge": "in", "by": -4, "ripple": true}, "0 5 16 24 48 [26,32)"},
		{"a shorter head", "shotTrim", m{"id": "s2", "edge": "in", "by": 4, "ripple": true}, "0 5 10 16 40 [18,24)"},
		{"of the last shot", "shotTrim", m{"id": "s4", "edge": "out", "by": 30, "ripple": true}, was},
		{"an insert in the middle of a shot", "shotInsert", m{"assembly": "cut", "camera": "b", "at": 15, "frames": 7}, "0 5 12 27 51 [29,35)"},
		{"extracting the first", "shotRemove", m{"ids": []string{"s1"}, "close": true}, "0 0 2 10 34 [12,18)"},
		{"extracting two", "shotRemove", m{"ids": []string{"s1", "s3"}, "close": true}, "0 0 2 10 24 [10,16)"},
		{"extracting a range", "rangeClear", m{"assembly": "cut", "in": 8, "out": 21, "close": true}, "0 5 8 8 31 [9,15)"},
		{"closing a gap", "gapClose", m{"assembly": "cut", "at": 35}, "0 5 12 20 34 [22,28)"},
		{"half as fast", "shotSpeed", m{"ids": []string{"s1"}, "speed": 0.5, "story": true}, "0 5 22 30 54 [32,38)"},
		{"a held frame", "shotFreeze", m{"assembly": "cut", "at": 12, "frames": 5}, "0 5 17 25 49 [27,33)"},
		{"another order", "shotMove", m{"ids": []string{"s3"}, "by": -15, "how": "reorder"}, "0 5 22 10 44 [12,18)"},
		{"swapping", "shotSwap", m{"a": "s1", "b": "s3"}, "20 25 12 0 44 [2,8)"},
		{"lifting", "shotRemove", m{"ids": []string{"s1"}}, was},
		{"overwriting", "shotOverwrite", m{"assembly": "cut", "camera": "b", "at": 5, "frames": 20}, was},
		{"rolling", "shotRoll", m{"id": "s2", "by": 3}, was},
		{"sliding", "shotSlide", m{"id": "s2", "by": 3}, was},
		{"a trim that leaves a gap", "shotTrim", m{"id": "s2", "edge": "out", "by": -3}, was},
	} {
		for _, fixed := range []bool{false, true} {
			d := marked()
			a := d.Assemblies["cut"]
			a.Fixed = fixed
			d.Assemblies["cut"] = a
			require.Empty(t, d.Validate())
			before := string(d.Encode())
			args, _ := json.Marshal(c.args)
			ids := 0
			r, err := assembly.Operations().Run(d, c.op, args, edit.Tools{NewID: func() string { ids++; return fmt.Sprint("n", ids) }})
			require.NoError(t, err, c.what)
			want := c.want
			if fixed {
				want = was
			}
			assert.Equal(t, want, places(d), "%s, fixed: %v", c.what, fixed)
			assert.Equal(t, 25, d.Markers["other"].Frame)
			assert.Equal(t, 25, d.Markers["story"].Frame)
			assert.Equal(t, 22, d.Sounds["steps"].In)
			require.NoError(t, patch.Apply(d, r.Patch.Inverse()))
			assert.Equal(t, before, string(d.Encode()), "undo of %s", c.what)
		}
	}
}

// What is done with several shots at once is what is done with one after the
// other, the last one first, with all that is tied to them.
func TestSeveralShotsAreChangedLikeOneAfterTheOther(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := marked()
		at := 0
		d.Shots = map[string]scene.Shot{}
		for i := range 8 {
			at += rapid.SampledFrom([]int{0, 0, 3}).Draw(t, "gap")
			length := rapid.IntRange(1, 12).Draw(t, "length")
			id := fmt.Sprintf("s%d", i)
			d.Shots[id] = scene.Shot{Lane: "main", Number: fmt.Sprint(10 * (i + 1)), Camera: "a", ScreenIn: at, ScreenOut: at + length, StoryIn: float64(100 * i), Speed: 1}
			d.Boards["b"+id] = scene.Board{Shot: id, Blob: strings.Repeat("ab", 32), Width: 1, Height: 1}
			at += length
		}
		for f := range at + 4 {
			d.Markers[fmt.Sprintf("at%d", f)] = scene.Marker{Clock: scene.ScreenClock, Assembly: "cut", Frame: f, Color: "#ffffff"}
		}
		ids := rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"s0", "s1", "s2", "s3", "s4", "s5", "s6", "s7"}), 1, 8, rapid.ID[string]).Draw(t, "ids")
		op := rapid.SampledFrom([]string{"shotRemove", "shotSpeed"}).Draw(t, "op")
		args := func(ids ...string) m {
			if op == "shotRemove" {
				return m{"ids": ids, "close": true}
			}
			return m{"ids": ids, "speed": 2.5, "story": true}
		}
		one := d.Clone()
		run(t, d, op, args(ids...))
		slices.SortFunc(ids, func(a, b string) int { return strings.Compare(b, a) })
		for _, id := range ids {
			run(t, one, op, args(id))
		}
		require.Equal(t, string(one.Encode()), string(d.Encode()))
	})
}
