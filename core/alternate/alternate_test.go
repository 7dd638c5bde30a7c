package alternate_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand"
	"slices"
	"testing"

	"proscen/core/alternate"
	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type m = map[string]any

// many is a scene in which several alternates are worked in.
type many struct {
	t *testing.T
	*session.Sides
	n int
}

func begin(t *testing.T, parents map[string]string) *many {
	doc := scenetest.Rich()
	clear(doc.Alternates)
	clear(doc.Differences)
	for name, parent := range parents {
		doc.Alternates[name] = scene.Alternate{Name: name, Parent: parent}
	}
	require.Empty(t, doc.Validate())
	w := &many{t: t}
	w.Sides = session.NewSides(session.Open(doc, w.id))
	return w
}

func (w *many) id() string { w.n++; return fmt.Sprint("e", w.n) }

func (w *many) try(in, name string, args m) (patch.Patch, error) {
	body, err := json.Marshal(args)
	require.NoError(w.t, err)
	r, err := w.Run(in, name, body, w.id)
	return r.Patch, err
}

func (w *many) run(in, name string, args m) patch.Patch {
	w.t.Helper()
	p, err := w.try(in, name, args)
	require.NoError(w.t, err)
	return p
}

func (w *many) doc(in string) *scene.Document {
	w.t.Helper()
	s, err := w.At(in)
	require.NoError(w.t, err)
	return s.Doc
}

// resolved is an alternate made anew from the scene alone.
func (w *many) resolved(in string) *scene.Document {
	w.t.Helper()
	d, _, err := alternate.Resolve(w.doc(""), in)
	require.NoError(w.t, err)
	return d
}

func (w *many) differences(in string) []string { return alternate.Of(w.doc(""), in) }

func place(id string, x float64) m {
	return m{"id": id, "frame": 0, "position": []float64{x, 0, 0}}
}

func rename(id, name string) m {
	return m{"collection": "nodes", "id": id, "merge": m{"name": name}, "label": "rename"}
}

func TestAnAlternateHasOnlyItsDifferences(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "rain": "night"})
	before := string(w.doc("").Encode())
	w.run("night", "place", place("box", 3))
	assert.Equal(t, scene.Vec{0, 0, -10}, w.doc("").Nodes["box"].Position)
	assert.Equal(t, scene.Vec{3, 0, 0}, w.doc("night").Nodes["box"].Position)
	assert.Equal(t, scene.Vec{3, 0, 0}, w.doc("rain").Nodes["box"].Position, "what hangs on it has it, too")
	require.Len(t, w.doc("").Differences, 1)
	for _, d := range w.doc("").Differences {
		assert.Equal(t, scene.Fields{"position": []any{3.0, 0.0, 0.0}}, d.Fields)
		assert.Equal(t, scene.Fields{"position": []any{0.0, 0.0, -10.0}}, d.Was)
	}

	// As it was: no difference is left.
	w.run("night", "place", m{"id": "box", "frame": 0, "position": []float64{0, 0, -10}})
	assert.Equal(t, before, string(w.doc("").Encode()))

	// Added, changed and removed again.
	w.run("night", "cameraAdd", m{"position": []float64{1, 2, 3}})
	assert.Len(t, w.doc("").Nodes, len(w.doc("night").Nodes)-1)
	added := w.doc("").Differences[w.differences("night")[0]].Thing
	w.run("night", "set", rename(added, "Eye"))
	assert.Equal(t, "Eye", w.doc("rain").Nodes[added].Name)
	w.run("rain", "remove", m{"collection": "nodes", "ids": []string{added}})
	assert.NotContains(t, w.doc("rain").Nodes, added)
	assert.Contains(t, w.doc("night").Nodes, added)
	w.run("night", "remove", m{"collection": "nodes", "ids": []string{added}})
	assert.Empty(t, w.differences("night"))
	assert.Len(t, w.differences("rain"), 1, "what it had removed is not there any more: that has no effect")

	// What alternates share is the scene's.
	w.run("night", "formatPut", m{"name": "square", "width": 640, "height": 640, "id": "square"})
	assert.Contains(t, w.doc("").Formats, "square")
	_, err := w.try("night", "rateChange", m{"rate": "25", "keep": "frames"})
	assert.ErrorContains(t, err, "an alternate has the rate of its scene")
	_, err = w.try("night", "set", m{"collection": "settings", "id": "settings", "merge": m{"title": "Late"}, "label": "name it"})
	assert.ErrorContains(t, err, "an alternate has the title of its scene")
}

// The rules of docs/alternates.md.
func TestWhatMeetsInAnAlternateAndBelowIt(t *testing.T) {
	t.Run("the scene changes what the alternate has changed: the alternate wins, and it is told", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		w.run("night", "place", place("box", 3))
		w.run("", "place", place("box", 7))
		assert.Equal(t, scene.Vec{3, 0, 0}, w.doc("night").Nodes["box"].Position)
		list, err := alternate.List(w.doc(""), "night")
		require.NoError(t, err)
		require.Len(t, list, 1)
		assert.Equal(t, []alternate.Field{{Name: "position", Before: []any{7.0, 0.0, 0.0}, After: []any{3.0, 0.0, 0.0}, Moved: true}}, list[0].Fields)
		w.run("night", "set", rename("box", "Crate")) // another field does not hide it
		list, _ = alternate.List(w.doc(""), "night")
		require.Len(t, list[0].Fields, 2)
		assert.Equal(t, []bool{false, true}, []bool{list[0].Fields[0].Moved, list[0].Fields[1].Moved})
		w.run("night", "place", place("box", 4)) // changed again, it is up to date
		list, _ = alternate.List(w.doc(""), "night")
		assert.False(t, list[0].Fields[1].Moved)
	})
	t.Run("another field of the same thing comes through", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		w.run("night", "place", place("box", 3))
		w.run("", "set", rename("box", "Crate"))
		assert.Equal(t, "Crate", w.doc("night").Nodes["box"].Name)
		assert.Equal(t, scene.Vec{3, 0, 0}, w.doc("night").Nodes["box"].Position)
	})
	t.Run("the scene removes what the alternate has changed: the difference rests, and comes back with it", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		w.run("night", "set", rename("case", "Bag"))
		p := w.run("", "remove", m{"collection": "nodes", "ids": []string{"case"}})
		assert.NotContains(t, w.doc("night").Nodes, "case")
		require.Len(t, w.Rests("night"), 1)
		assert.Equal(t, "what it changes is not there any more", w.Rests("night")[0].Why)
		require.NoError(t, w.Apply(p.Inverse()))
		assert.Equal(t, "Bag", w.doc("night").Nodes["case"].Name)
		assert.Empty(t, w.Rests("night"))
	})
	t.Run("the scene uses what the alternate has removed: it is there again", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		w.run("night", "remove", m{"collection": "nodes", "ids": []string{"group"}})
		assert.NotContains(t, w.doc("night").Nodes, "group")
		w.run("", "attach", m{"ids": []string{"other"}, "to": "group", "frame": 0})
		assert.Contains(t, w.doc("night").Nodes, "group")
		assert.Empty(t, w.doc("night").Validate())
		require.Len(t, w.Rests("night"), 1)
	})
	t.Run("what the alternate has hung on something that the scene removes rests", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		w.run("night", "attach", m{"ids": []string{"other"}, "to": "group", "frame": 0})
		w.run("", "remove", m{"collection": "nodes", "ids": []string{"group"}})
		assert.Empty(t, w.doc("night").Validate())
		assert.Empty(t, w.doc("night").Nodes["other"].Parent)
		assert.NotEmpty(t, w.Rests("night"))
	})
	t.Run("two alternates of one parent know nothing of each other", func(t *testing.T) {
		w := begin(t, map[string]string{"night": "", "day": ""})
		w.run("night", "place", place("box", 3))
		day := string(w.doc("day").Encode())
		w.run("night", "place", place("box", 4))
		w.run("night", "set", rename("case", "Bag"))
		assert.Equal(t, w.doc("").Nodes["case"], w.doc("day").Nodes["case"])
		w.run("day", "place", place("box", 9))
		assert.Equal(t, scene.Vec{4, 0, 0}, w.doc("night").Nodes["box"].Position)
		assert.NotEqual(t, day, string(w.doc("day").Encode()))
	})
	t.Run("the middle one is removed: its differences go down, or away", func(t *testing.T) {
		for _, keep := range []bool{true, false} {
			w := begin(t, map[string]string{"night": "", "rain": "night"})
			w.run("night", "place", place("box", 3))
			w.run("night", "set", rename("case", "Bag"))
			w.run("rain", "set", rename("box", "Wet box"))
			before := w.doc("rain").Nodes
			w.run("", "alternateRemove", m{"id": "night", "keep": keep})
			after := w.doc("rain").Nodes
			assert.Empty(t, w.doc("").Alternates["rain"].Parent)
			assert.Equal(t, "Wet box", after["box"].Name)
			if keep {
				assert.Equal(t, before, after)
			} else {
				assert.Equal(t, scene.Vec{0, 0, -10}, after["box"].Position)
				assert.NotEqual(t, "Bag", after["case"].Name)
			}
			_, err := w.At("night")
			assert.ErrorContains(t, err, "no such alternate")
		}
	})
	t.Run("a curve is one value", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		key := func(in string, frame, v float64) {
			w.run(in, "value", m{"node": "a", "channel": "lens.focal", "frame": frame, "value": v, "key": true})
		}
		key("", 0, 20)
		key("night", 10, 30)
		key("", 40, 80)
		of := func(in string) (frames []float64) {
			for _, c := range w.doc(in).Curves {
				if c.Node == "a" && c.Channel == scene.Focal {
					for _, k := range c.Keys {
						frames = append(frames, k.Frame)
					}
				}
			}
			return frames
		}
		assert.Equal(t, []float64{0, 40}, of(""))
		assert.Equal(t, []float64{0, 10}, of("night"))
		list, err := alternate.List(w.doc(""), "night")
		require.NoError(t, err)
		assert.True(t, list[0].Fields[0].Moved)
	})
	t.Run("a shot that the scene inserts finds room where the alternate has trimmed its neighbour", func(t *testing.T) {
		w := begin(t, map[string]string{"night": ""})
		w.run("night", "shotTrim", m{"id": "s1", "edge": "out", "by": 12, "ripple": true})
		cut := func(in string) (out []string) {
			for _, s := range w.doc(in).ShotsInOrder() {
				if s.Lane == "main" {
					out = append(out, fmt.Sprintf("%s %d-%d", s.ID, s.ScreenIn, s.ScreenOut))
				}
			}
			return out
		}
		scene, night := cut(""), cut("night")
		require.Equal(t, []string{"s1 0-48", "s2 48-96"}, scene[:2])
		require.Equal(t, []string{"s1 0-60", "s2 60-108"}, night[:2])
		w.run("", "shotInsert", m{"assembly": "cut", "camera": "a", "at": 48, "frames": 10})
		now := cut("night")
		assert.Len(t, now, len(night)+1)
		assert.Equal(t, "s1 0-60", now[0], "as long as the alternate has it")
		assert.Empty(t, w.doc("night").Validate())
		assert.Empty(t, w.Rests("night"))
	})
}

func TestWhatIsWrongWithAlternatesIsSaidAndTheSceneOpens(t *testing.T) {
	doc := scenetest.Rich()
	put := func(d scene.Difference) {
		doc.Differences[scene.DifferenceID(d.Alternate, d.Collection, d.Thing)] = d
	}
	doc.Alternates["a"] = scene.Alternate{Name: "a", Parent: "b"}
	doc.Alternates["b"] = scene.Alternate{Name: "b", Parent: "a"}
	doc.Alternates["c"] = scene.Alternate{Name: "c", Parent: "gone"}
	doc.Alternates["d"] = scene.Alternate{Name: "dusk"}
	doc.Alternates["e"] = scene.Alternate{Name: "e", Format: "gone"}
	put(scene.Difference{Alternate: "e", Collection: "nodes", Thing: "nothing", What: scene.Changed, Fields: scene.Fields{"name": "x"}})
	put(scene.Difference{Alternate: "e", Collection: "wings", Thing: "w", What: scene.Added, Fields: scene.Fields{"name": "x"}})
	put(scene.Difference{Alternate: "e", Collection: "nodes", Thing: "box", What: scene.Changed, Fields: scene.Fields{"wings": 2.0}})
	put(scene.Difference{Alternate: "e", Collection: "nodes", Thing: "case", What: scene.Changed, Fields: scene.Fields{"name": "Bag"}})
	again, err := scene.Decode(doc.Encode())
	require.NoError(t, err)
	assert.Equal(t, map[string]string{
		"a":    "a hangs on itself in a circle; hang one of the circle on the scene",
		"b":    "b hangs on itself in a circle; hang one of the circle on the scene",
		"c":    "c hangs on an alternate that is not there; hang it on the scene or on another one",
		"dusk": "another alternate is called dusk, too; give it another name",
		"e":    "e is bound to a format that is not there any more; bind it to another one, or to none",
	}, alternate.Faults(again))
	_, _, err = alternate.Resolve(again, "a")
	assert.ErrorContains(t, err, "in a circle")
	d, rests, err := alternate.Resolve(again, "e")
	require.NoError(t, err)
	assert.Equal(t, "Bag", d.Nodes["case"].Name, "what can be done is done")
	assert.Equal(t, doc.Nodes["box"], d.Nodes["box"])
	assert.Len(t, rests, 3)
	_, err = alternate.Find(again, "dusk")
	require.NoError(t, err, "by its id")
	_, err = alternate.Find(again, "noon")
	assert.ErrorContains(t, err, `there is no alternate called "noon"; there are a, b, c, dusk, dusk, e`)

	// A difference of what is shared is none, and does not hide what the scene does to it.
	shared := begin(t, map[string]string{"night": ""})
	bogus := scene.Difference{Alternate: "night", Collection: "formats", Thing: "wide", What: scene.Removed}
	shared.doc("").Differences[scene.DifferenceID("night", "formats", "wide")] = bogus
	assert.Contains(t, shared.doc("night").Formats, "wide")
	shared.run("", "formatPut", m{"id": "wide", "name": "wider", "width": 640, "height": 320})
	assert.Equal(t, "wider", shared.doc("night").Formats["wide"].Name)
	assert.Len(t, shared.Rests("night"), 1)

	w := begin(t, map[string]string{"night": "", "rain": "night"})
	for args, says := range map[string]string{
		`{"name":"Night"}`:                                 "there is an alternate called night already",
		`{"name":" "}`:                                     "needs a name",
		`{"name":"x","parent":"gone"}`:                     "hangs on an alternate that is not there",
		`{"name":"x","format":"gone"}`:                     "format that it is to be bound to",
		`{"id":"night","name":"night"}`:                    "such an alternate already",
		`{"name":"x","assembly":"gone"}`:                   "assembly that it is to be bound to",
		`{"name":"x","parent":"rain","known":"x","y":"z"}`: "do not fit",
	} {
		_, err := w.Run("", "alternateAdd", json.RawMessage(args), w.id)
		assert.ErrorContains(t, err, says, args)
	}
	_, err = w.try("", "alternateChange", m{"id": "night", "name": "night", "parent": "rain"})
	assert.ErrorContains(t, err, "in a circle")
}

// draw draws something that is done in an alternate; it may be refused.
func draw(r *rand.Rand, d *scene.Document) (string, m) {
	of := func(collection string) string {
		ids := d.Table(collection).IDs()
		if len(ids) == 0 {
			return "gone"
		}
		return ids[r.Intn(len(ids))]
	}
	at, by := r.Intn(200), r.Intn(40)-20
	switch r.Intn(9) {
	case 0:
		return "shotTrim", m{"id": of("shots"), "edge": "out", "by": by, "ripple": r.Intn(2) == 0}
	case 1:
		return "shotInsert", m{"assembly": "cut", "camera": "a", "at": at, "frames": 1 + r.Intn(30)}
	case 2:
		return "shotRemove", m{"ids": []string{of("shots")}, "close": true}
	case 3:
		return "remove", m{"collection": "nodes", "ids": []string{of("nodes")}}
	case 4:
		return "value", m{"node": []string{"a", "b"}[r.Intn(2)], "channel": "lens.focal", "frame": at, "value": 20 + r.Intn(60), "key": true}
	case 5:
		return "set", rename(of("nodes"), fmt.Sprint("n", at))
	case 6:
		return "attach", m{"ids": []string{of("nodes")}, "to": of("nodes"), "frame": 0}
	case 7:
		return "set", m{"collection": "settings", "id": "settings", "merge": m{"sun": m{"height": at % 90}}}
	}
	return "place", place(of("nodes"), float64(by))
}

// Random work in a tree of alternates: what is followed is what is made anew; an edit in
// one changes no other that does not hang on it; undo restores each byte for byte.
func TestRandomWorkInManyAlternates(t *testing.T) {
	done := 0
	for seed := range int64(40) {
		r := rand.New(rand.NewSource(seed))
		w := begin(t, map[string]string{"night": "", "rain": "night", "snow": "night", "tall": ""})
		all := []string{"", "night", "rain", "snow", "tall", "@s1", "rain@s1", "tall@s2"}
		above := map[string][]string{"": all, "night": {"night", "rain", "snow", "rain@s1"}, "rain": {"rain", "rain@s1"}, "tall": {"tall", "tall@s2"}, "@s1": {"@s1", "rain@s1"}}
		type state map[string]string
		now := func() state {
			s := state{}
			for _, in := range all {
				if of, shot := alternate.Parts(in); shot != "" && !has(w.doc(of), shot) {
					s[in] = "gone"
					continue
				}
				d := w.resolved(in)
				s[in] = string(d.Encode())
				require.Empty(t, d.Validate(), "seed %d: %s", seed, in)
				require.Empty(t, patch.Between(d, w.doc(in)), "seed %d: %s", seed, in)
			}
			return s
		}
		var edits []patch.Patch
		var states []state
		last := now()
		for range 15 {
			in := all[r.Intn(len(all))]
			if last[in] == "gone" {
				continue
			}
			name, args := draw(r, w.doc(in))
			p, err := w.try(in, name, args)
			next := now()
			if err != nil {
				require.Equal(t, last, next, "seed %d: a refused %s changes nothing", seed, name)
				continue
			}
			hang := above[in]
			if hang == nil {
				hang = []string{in}
			}
			for _, other := range all {
				if !slices.Contains(hang, other) && last[other] != "gone" {
					a, b := content(t, last[other]), content(t, next[other])
					require.Equal(t, a, b, "seed %d: %s %v in %q changes %q", seed, name, args, in, other)
				}
			}
			edits, states = append(edits, p), append(states, last)
			last = next
			done++
		}
		for i, p := range slices.Backward(edits) {
			require.NoError(t, w.Apply(p.Inverse()))
			require.Equal(t, states[i], now(), "seed %d: undone", seed)
		}
	}
	t.Logf("%d edits", done)
	assert.Greater(t, done, 300)
}

func has(d *scene.Document, shot string) bool {
	_, ok := d.Shots[shot]
	return ok
}

// content is a document without what it says of alternates.
func content(t *testing.T, body string) string {
	t.Helper()
	d, err := scene.Decode([]byte(body))
	require.NoError(t, err)
	clear(d.Alternates)
	clear(d.Differences)
	return string(d.Encode())
}

// All differences put down and the alternate removed, the scene is what the alternate was;
// layers laid one by one or as one give the same.
func TestDifferencesPutDownLeaveWhatWasSeen(t *testing.T) {
	put := 0
	for seed := range int64(60) {
		r := rand.New(rand.NewSource(seed))
		w := begin(t, map[string]string{"night": "", "rain": "night"})
		for range 12 {
			in := []string{"night", "rain"}[r.Intn(2)]
			name, args := draw(r, w.doc(in))
			_, _ = w.try(in, name, args)
		}
		if len(w.differences("rain")) == 0 || len(w.differences("night")) == 0 || len(w.Rests("rain")) > 0 {
			continue
		}
		seen := content(t, string(w.resolved("rain").Encode()))
		merged := w.run("", "alternateRemove", m{"id": "night", "keep": true}) // both layers are one now
		assert.Equal(t, seen, content(t, string(w.resolved("rain").Encode())), "seed %d", seed)
		require.NoError(t, w.Apply(merged.Inverse()))
		w.run("", "differencesDown", m{"ids": w.differences("rain")})
		assert.Equal(t, seen, content(t, string(w.resolved("rain").Encode())), "seed %d: in night", seed)
		_, err := w.try("", "differencesDown", m{"ids": w.differences("night")})
		require.NoError(t, err, "seed %d", seed)
		w.run("", "alternateRemove", m{"id": "rain"})
		w.run("", "alternateRemove", m{"id": "night"})
		assert.Equal(t, seen, string(w.doc("").Encode()), "seed %d: in the scene", seed)
		put++
	}
	assert.Greater(t, put, 25)
}

func TestWhatIsBoundToAFormatIsInIt(t *testing.T) {
	w := begin(t, map[string]string{"tall": "", "near": "tall"})
	w.run("", "formatPut", m{"name": "high", "width": 360, "height": 640, "id": "high"})
	w.run("", "alternateChange", m{"id": "tall", "name": "tall", "format": "high"})
	assert.Equal(t, []string{"wide", "high", "high"}, []string{w.doc("").Settings.Format, w.doc("tall").Settings.Format, w.doc("near").Settings.Format})
	assert.Empty(t, w.differences("tall"))
	w.run("tall", "set", m{"collection": "settings", "id": "settings", "merge": m{"sun": m{"height": 20}}, "label": "lower"})
	d := w.doc("").Differences[w.differences("tall")[0]]
	assert.Equal(t, []string{"sun.height"}, alternate.Names(d.Fields), "the format is no difference")
	w.run("", "formatRemove", m{"id": "high"})
	assert.Equal(t, "wide", w.doc("near").Settings.Format, "what it was bound to is gone")
	assert.Equal(t, 20.0, w.doc("near").Settings.Sun.Height)
}

func TestSingleFieldsAreTakenBackAndCopied(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "day": ""})
	w.run("night", "set", m{"collection": "nodes", "id": "a", "merge": m{"name": "Eye", "camera": m{"focal": 50, "stop": 8}}, "label": "x"})
	id := w.differences("night")[0]
	w.run("", "differencesCopy", m{"ids": []string{id}, "fields": []string{"camera.focal"}, "to": "day"})
	assert.Equal(t, []float64{50, 2.8}, []float64{w.doc("day").Nodes["a"].Camera.Focal, w.doc("day").Nodes["a"].Camera.Stop})
	w.run("", "differencesBack", m{"ids": []string{id}, "fields": []string{"camera.focal"}})
	night := w.doc("night").Nodes["a"]
	assert.Equal(t, []any{"Eye", 18.0, 8.0}, []any{night.Name, night.Camera.Focal, night.Camera.Stop})
	w.run("", "differencesDown", m{"ids": []string{id}, "fields": []string{"name"}})
	assert.Equal(t, "Eye", w.doc("").Nodes["a"].Name)
	assert.Equal(t, []string{"camera.stop"}, alternate.Names(w.doc("").Differences[id].Fields))
	w.run("", "differencesBack", m{"ids": []string{id}})
	assert.Empty(t, w.differences("night"))
	_, err := w.try("", "differencesBack", m{"ids": []string{id}})
	assert.ErrorContains(t, err, "not there any more")
	_, err = w.try("", "differencesCopy", m{"ids": []string{}, "to": "day"})
	assert.ErrorContains(t, err, "no difference is chosen")
}

// Only differences are kept and followed: what a thousand alternates of a large scene
// weigh, and what an edit in one of them touches.
func TestAThousandAlternatesWeighWhatTheyDiffer(t *testing.T) {
	w := begin(t, nil)
	doc := w.doc("")
	base := len(doc.Encode())
	for i := range 1000 {
		id := fmt.Sprintf("alternate-%d", i)
		doc.Alternates[id] = scene.Alternate{Name: id}
		d := scene.Difference{Alternate: id, Collection: "nodes", Thing: "box", What: scene.Changed, Fields: scene.Fields{"name": id}, Was: scene.Fields{"name": "Box"}}
		doc.Differences[scene.DifferenceID(id, "nodes", "box")] = d
	}
	require.Empty(t, doc.Validate())
	each := (len(doc.Encode()) - base) / 1000
	assert.Less(t, each, 400, "bytes of one with one difference")
	assert.Equal(t, "alternate-500", w.doc("alternate-500").Nodes["box"].Name)
	p := w.run("alternate-500", "place", place("box", 2))
	assert.Len(t, p, 1)
	assert.Len(t, slices.Collect(maps.Keys(w.doc("alternate-500").Nodes)), len(doc.Nodes))
}

// A scene with another rate has alternates with another rate: what was seen at a second is.
func TestAlternatesTakeTheRateOfTheirScene(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "rain": "night"})
	w.run("night", "value", m{"node": "a", "channel": "lens.focal", "frame": 24, "value": 30, "key": true})
	w.run("night", "shotTrim", m{"id": "s1", "edge": "out", "by": 12, "ripple": true})
	w.run("rain", "markerAdd", m{"clock": "story", "frame": 48})
	before := string(w.doc("").Encode())
	p := w.run("", "rateChange", m{"rate": "48", "keep": "seconds"})
	for _, in := range []string{"night", "rain"} {
		assert.Empty(t, w.doc(in).Validate())
		assert.Equal(t, 120, w.doc(in).Shots["s1"].ScreenOut)
		assert.Equal(t, w.doc("").Settings.Rate, w.doc(in).Settings.Rate)
		for _, c := range w.doc(in).Curves {
			if c.Channel == scene.Focal && c.Node == "a" {
				assert.Contains(t, framesOf(c), 48.0)
			}
		}
	}
	assert.Equal(t, 96, w.doc("").Shots["s1"].ScreenOut)
	frames := []int{}
	for _, k := range w.doc("rain").Markers {
		frames = append(frames, k.Frame)
	}
	assert.Contains(t, frames, 96)
	require.NoError(t, w.Apply(p.Inverse()))
	assert.Equal(t, before, string(w.doc("").Encode()))
}

func framesOf(c scene.Curve) (out []float64) {
	for _, k := range c.Keys {
		out = append(out, k.Frame)
	}
	return out
}

// An alternate whose parent is gone, as by two people at once, is left with its reason, and
// puts nothing down.
func TestAnAlternateWithoutItsParentIsShut(t *testing.T) {
	w := begin(t, map[string]string{"night": "", "rain": "night"})
	w.run("rain", "set", rename("box", "Wet box"))
	gone := patch.Patch{{Collection: "alternates", ID: "night", Before: w.doc("").Table("alternates").Get("night")}}
	require.NoError(t, w.Apply(gone))
	_, err := w.Moved("rain")
	assert.ErrorContains(t, err, "rain hangs on an alternate that is not there")
	_, err = w.At("rain")
	assert.Error(t, err)
	_, err = w.try("", "differencesDown", m{"ids": w.differences("rain")})
	assert.ErrorContains(t, err, "what the alternate hangs on is not there any more")
	require.NoError(t, w.Apply(gone.Inverse()))
	assert.Equal(t, "Wet box", w.doc("rain").Nodes["box"].Name)
	_, err = w.Moved("rain")
	assert.NoError(t, err, "it is open again")
}
