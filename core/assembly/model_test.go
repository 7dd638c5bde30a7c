package assembly_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"proscen/core/assembly"
	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/require"
)

// cell is what the main lane shows at one screen frame; the zero value is a gap.
// The operations are defined a second time on rows of cells, frame by frame.
type cell struct {
	camera string
	story  float64
}

func shows(s scene.Shot, frame int) cell { return cell{s.Camera, s.StoryAt(float64(frame))} }

func row(s scene.Shot, in, out int) (list []cell) {
	for f := in; f < out; f++ {
		list = append(list, shows(s, f))
	}
	return list
}

func cells(shots []program.Entry) (list []cell) {
	for _, s := range shots {
		list = put(list, s.ScreenIn, row(s.Shot, s.ScreenIn, s.ScreenOut))
	}
	return list
}

// put lays a row over another from a frame on.
func put(list []cell, at int, what []cell) []cell {
	for len(list) < at+len(what) {
		list = append(list, cell{})
	}
	list = slices.Clone(list)
	copy(list[at:], what)
	return list
}

func without(list []cell, in, out int) []cell {
	in, out = min(in, len(list)), min(out, len(list))
	return slices.Concat(list[:in], list[out:])
}

func with(list []cell, at int, what []cell) []cell {
	for len(list) < at {
		list = append(list, cell{})
	}
	return slices.Concat(list[:at], what, list[at:])
}

func lifted(list []cell, in, out int) []cell {
	list = slices.Clone(list)
	for f := in; f < min(out, len(list)); f++ {
		list[f] = cell{}
	}
	return list
}

// ended drops gaps at the end.
func ended(list []cell) []cell {
	for len(list) > 0 && list[len(list)-1] == (cell{}) {
		list = list[:len(list)-1]
	}
	return list
}

func free(list []cell, f int) bool { return f >= 0 && (f >= len(list) || list[f] == cell{}) }

// plan is one random operation with what the row must be after it.
type plan struct {
	op   string
	args m
	want []cell
}

// choose draws an operation for a lane, with the row that must come of it.
func choose(r *rand.Rand, doc *scene.Document, shots []program.Entry) plan {
	now := cells(shots)
	any := func() (int, program.Entry) { i := r.IntN(len(shots)); return i, shots[i] }
	camera := []string{"a", "b"}[r.IntN(2)]
	frames := 1 + r.IntN(12)
	at := r.IntN(len(now) + 5)
	fresh := scene.Shot{Camera: camera, ScreenIn: at, StoryIn: float64(r.IntN(200)), Speed: 1}
	placed := m{"assembly": "cut", "camera": camera, "at": at, "frames": frames, "storyIn": fresh.StoryIn}
	new := row(fresh, at, at+frames)
	if len(shots) < 3 {
		fresh.ScreenIn = len(now)
		return plan{"shotAppend", placed, slices.Concat(now, row(fresh, len(now), len(now)+frames))}
	}
	i, s := any()
	in, out := s.ScreenIn, s.ScreenOut
	block := row(s.Shot, in, out)
	by := r.IntN(17) - 8
	crowded := len(shots) > 24
	switch kind := r.IntN(24); {
	case crowded || kind == 0:
		return plan{"shotRemove", m{"ids": []string{s.ID}, "close": true}, without(now, in, out)}
	case kind == 1:
		return plan{"shotRemove", m{"ids": []string{s.ID}}, lifted(now, in, out)}
	case kind == 2:
		return plan{"shotInsert", placed, with(now, at, new)}
	case kind == 3:
		return plan{"shotOverwrite", placed, put(now, at, new)}
	case kind == 4:
		return plan{"shotSplit", m{"assembly": "cut", "at": at}, now}
	case kind == 5:
		return plan{"rangeClear", m{"assembly": "cut", "in": at, "out": at + frames, "close": true}, without(now, at, at+frames)}
	case kind == 6:
		return plan{"rangeClear", m{"assembly": "cut", "in": at, "out": at + frames}, lifted(now, at, at+frames)}
	case kind == 7: // ripple trim of the tail
		left := max(1, len(block)+by)
		return plan{"shotTrim", m{"id": s.ID, "edge": "out", "by": by, "ripple": true}, slices.Concat(now[:in], row(s.Shot, in, in+left), now[out:])}
	case kind == 8: // and of the head
		first := min(in+by, out-1)
		return plan{"shotTrim", m{"id": s.ID, "edge": "in", "by": by, "ripple": true}, slices.Concat(now[:in], row(s.Shot, first, out), now[out:])}
	case kind == 9: // trim frame by frame, as far as there is room
		want := slices.Clone(now)
		for n := 0; n < by && free(want, out+n); n++ {
			want = put(want, out+n, []cell{shows(s.Shot, out+n)})
		}
		for n := 0; n > by && out+n-1 > in; n-- {
			want[out+n-1] = cell{}
		}
		return plan{"shotTrim", m{"id": s.ID, "edge": "out", "by": by}, want}
	case kind == 10:
		want := slices.Clone(now)
		for n := 0; n > by && free(want, in+n-1); n-- {
			want[in+n-1] = shows(s.Shot, in+n-1)
		}
		for n := 0; n < by && in+n+1 < out; n++ {
			want[in+n] = cell{}
		}
		return plan{"shotTrim", m{"id": s.ID, "edge": "in", "by": by}, want}
	case kind == 11 && i > 0 && shots[i-1].ScreenOut == in: // roll the seam frame by frame
		before := shots[i-1]
		want := slices.Clone(now)
		for n := 0; n < by && in+n < out-1; n++ {
			want[in+n] = shows(before.Shot, in+n)
		}
		for n := 0; n > by && in+n-1 > before.ScreenIn; n-- {
			want[in+n-1] = shows(s.Shot, in+n-1)
		}
		return plan{"shotRoll", m{"id": s.ID, "by": by}, want}
	case kind == 12:
		moved := s.Shot
		moved.StoryIn += float64(by) * s.Speed
		if s.Speed == 0 {
			moved.StoryIn += float64(by)
		}
		return plan{"shotSlip", m{"ids": []string{s.ID}, "by": by}, put(now, in, row(moved, in, out))}
	case kind == 13: // slide, one frame at a time
		want := slices.Clone(now)
		lo, hi := in, out
		left := i > 0 && shots[i-1].ScreenOut == in
		right := i+1 < len(shots) && shots[i+1].ScreenIn == out
		for n := 0; n < by; n++ {
			if right && hi+1 >= shots[i+1].ScreenOut || !right && !free(want, hi) {
				break
			}
			want = put(want, lo, []cell{{}})
			if left {
				want[lo] = shows(shots[i-1].Shot, lo)
			}
			lo, hi = lo+1, hi+1
			want = put(want, lo, block)
		}
		for n := 0; n > by; n-- {
			if left && lo-1 <= shots[i-1].ScreenIn || !left && !free(want, lo-1) {
				break
			}
			want[hi-1] = cell{}
			if right {
				want[hi-1] = shows(shots[i+1].Shot, hi-1)
			}
			lo, hi = lo-1, hi-1
			want = put(want, lo, block)
		}
		return plan{"shotSlide", m{"id": s.ID, "by": by}, want}
	case kind == 14:
		j, o := any()
		if j == i {
			return plan{"shotSplit", m{"assembly": "cut", "at": at}, now}
		}
		a, b := s, o
		if j < i {
			a, b = o, s
		}
		return plan{"shotSwap", m{"a": s.ID, "b": o.ID}, slices.Concat(now[:a.ScreenIn], now[b.ScreenIn:b.ScreenOut], now[a.ScreenOut:b.ScreenIn], now[a.ScreenIn:a.ScreenOut], now[b.ScreenOut:])}
	case kind == 15:
		return plan{"shotDuplicate", m{"ids": []string{s.ID}}, with(now, out, block)}
	case kind == 16:
		return plan{"gapClose", m{"assembly": "cut", "all": true}, slices.DeleteFunc(slices.Clone(now), func(c cell) bool { return c == cell{} })}
	case kind == 17 && at < len(now) && now[at] != cell{}:
		return plan{"shotFreeze", m{"assembly": "cut", "at": at, "frames": frames}, with(now, at, slices.Repeat([]cell{now[at]}, frames))}
	case kind == 18:
		speed := []float64{0, 0.5, 1, 2}[r.IntN(4)]
		changed := s.Shot
		changed.Speed = speed
		return plan{"shotSpeed", m{"ids": []string{s.ID}, "speed": speed}, put(now, in, row(changed, in, out))}
	case kind == 19 && s.Speed != 0:
		speed := []float64{0.5, 1, 2}[r.IntN(3)]
		changed := s.Shot
		changed.Speed = speed
		left := max(1, int(math.Round(float64(len(block))*s.Speed/speed)))
		return plan{"shotSpeed", m{"ids": []string{s.ID}, "speed": speed, "story": true}, slices.Concat(now[:in], row(changed, in, in+left), now[out:])}
	case kind == 20:
		by = max(by*3, -in)
		want := put(lifted(now, in, out), in+by, block)
		return plan{"shotMove", m{"ids": []string{s.ID}, "by": by, "how": "overwrite"}, want}
	case kind == 21:
		by = max(by*3, -in)
		rest := lifted(now, in, out)
		fits := true
		for f := in + by; f < out+by; f++ {
			fits = fits && free(rest, f)
		}
		if fits {
			return plan{"shotMove", m{"ids": []string{s.ID}, "by": by, "how": "insert"}, put(rest, in+by, block)}
		}
		target := in + by
		if by > 0 {
			target -= min(by, len(block))
		}
		return plan{"shotMove", m{"ids": []string{s.ID}, "by": by, "how": "insert"}, with(without(now, in, out), target, block)}
	case kind == 22 && at < len(now) && now[at] != cell{} && now[at].camera != camera:
		want := slices.Clone(now)
		for _, o := range shots {
			for f := max(at, o.ScreenIn); o.Screen().Contains(at) && f < o.ScreenOut; f++ {
				want[f].camera = camera
			}
		}
		return plan{"cutTo", m{"assembly": "cut", "at": at, "camera": camera}, want}
	case kind == 23 && i > 0:
		kinds := []string{"dissolve", "dip", "travel", ""}
		return plan{"shotJoin", m{"id": s.ID, "kind": kinds[r.IntN(4)], "frames": frames, "align": []string{"centre", "before", "after"}[r.IntN(3)], "give": r.IntN(2) == 0}, now}
	}
	return plan{"shotSet", m{"ids": []string{s.ID}, "change": m{"head": r.IntN(12), "tail": r.IntN(12)}}, now}
}

// sound checks what must hold of a lane whatever was done to it.
func sound(t require.TestingT, shots []program.Entry) {
	numbers := map[string]bool{}
	for i, s := range shots {
		require.False(t, numbers[s.Number], "two shots have the number %s", s.Number)
		numbers[s.Number] = true
		require.Greater(t, s.ScreenOut, s.ScreenIn)
		if i > 0 {
			require.LessOrEqual(t, shots[i-1].ScreenOut, s.ScreenIn, "shots %s and %s overlap", shots[i-1].Number, s.Number)
		}
		j := s.Join
		if j == nil {
			continue
		}
		require.Positive(t, i)
		before := shots[i-1]
		require.Equal(t, before.ScreenOut, s.ScreenIn, "a join without a seam")
		taken := 0
		if before.Join != nil {
			taken = before.Join.After
		}
		require.LessOrEqual(t, taken+j.Before, before.ScreenOut-before.ScreenIn)
		require.LessOrEqual(t, j.After, s.ScreenOut-s.ScreenIn)
		if j.Kind != scene.Dip {
			require.LessOrEqual(t, float64(j.After)*before.Speed, float64(before.Tail), "the tail of %s", before.Number)
			require.LessOrEqual(t, float64(j.Before)*s.Speed, float64(s.Head), "the head of %s", s.Number)
		}
	}
}

// TestOperationsAgainstTheModel runs random operations. After each one the lane
// shows what the model says, frame by frame; nothing overlaps, joins are covered,
// and undo restores the document byte for byte.
func TestOperationsAgainstTheModel(t *testing.T) {
	r := rand.New(rand.NewPCG(2026, 11))
	doc := scenetest.Small()
	doc.Lanes["spare"] = scene.Lane{Assembly: "cut", Name: "spare"}
	for i := range 6 {
		doc.Shots[fmt.Sprintf("spare%d", i)] = scene.Shot{Lane: "spare", Number: fmt.Sprint("s", i), Camera: "a", ScreenIn: 12 * i, ScreenOut: 12*i + 9, Speed: 1}
	}
	ids := 0
	tools := edit.Tools{NewID: func() string { ids++; return fmt.Sprintf("n%06d", ids) }}
	catalog := assembly.Operations()
	done := map[string]int{}
	before := doc.Encode()
	for range 10_000 {
		shots := program.Shots(doc, "main")
		p := choose(r, doc, shots)
		args, err := json.Marshal(p.args)
		require.NoError(t, err)
		result, err := catalog.Run(doc, p.op, args, tools)
		if err != nil {
			var problems scene.Problems
			require.False(t, errors.As(err, &problems), "%s %s leads to an invalid document: %v", p.op, args, err)
			require.Equal(t, string(before), string(doc.Encode()), "%s %s was refused and changed something", p.op, args)
			done["refused "+p.op]++
			continue
		}
		done[p.op]++
		now := program.Shots(doc, "main")
		sound(t, now)
		aside := program.Shots(doc, "spare")
		sound(t, aside)
		require.Len(t, aside, 6)
		require.Equal(t, ended(p.want), cells(now), "%s %s on %s", p.op, args, spans(shots))
		after := doc.Encode()
		require.NoError(t, patch.Apply(doc, result.Patch.Inverse()), "%s %s", p.op, args)
		require.Equal(t, string(before), string(doc.Encode()), "undo of %s %s", p.op, args)
		require.NoError(t, patch.Apply(doc, result.Patch))
		require.Equal(t, string(after), string(doc.Encode()), "redo of %s %s", p.op, args)
		before = after
	}
	for _, op := range []string{"shotInsert", "shotOverwrite", "shotTrim", "shotRoll", "shotSlip", "shotSlide", "shotSwap", "shotMove", "shotJoin", "shotFreeze", "shotSpeed"} {
		require.Greater(t, done[op], 100, "%s was hardly tried: %v", op, done)
	}
	require.Positive(t, done["refused shotJoin"])
	t.Log(done)
}

func spans(shots []program.Entry) (out string) {
	for _, s := range shots {
		out += fmt.Sprintf("%s[%d,%d)%s@%g×%g ", s.ID, s.ScreenIn, s.ScreenOut, s.Camera, s.StoryIn, s.Speed)
	}
	return out
}
