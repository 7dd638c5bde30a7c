package page_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"proscen/core/page"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// desk is a page with the small scene open.
type desk struct {
	t *testing.T
	*page.Page
}

func open(t *testing.T) desk {
	n := 0
	p := page.New(func() string { n++; return fmt.Sprintf("id%d", n) })
	o, err := p.Open(scenetest.Small().Encode())
	require.NoError(t, err)
	assert.Equal(t, "cut", o.Assembly)
	return desk{t, p}
}

// ask returns the answer to a call as JSON.
func (d desk) ask(name, args string) string { return string(d.Answer(name, []byte(args))) }

// TestEveryCallAnswersWithoutItsArguments lets every call run on an open scene with
// arguments that say nothing (but for a lens), and on a page without one: each has an answer or a
// sentence, and none ends the core.
func TestEveryCallAnswersWithoutItsArguments(t *testing.T) {
	closed := page.New(func() string { return "x" })
	apart := 0
	for name, c := range page.Calls() {
		d := open(t)
		args := `{}`
		if name == "sharpZone" { // a lens of no length has none
			args = `{"focal":50,"stop":4,"focus":2,"sensor":[36,24]}`
		}
		got := d.ask(name, args)
		require.True(t, json.Valid([]byte(got)), name)
		assert.NotContains(t, got, "could not do this", name)
		if !c.Fails && name != "preview" { // which says in its answer what is wrong
			assert.NotRegexp(t, `^{"error"`, got, name)
		}
		if !strings.Contains(string(closed.Answer(name, []byte(`{}`))), "no scene is open") {
			apart++
		}
		assert.Contains(t, d.ask(name, `[]`), "do not fit the call", name)
	}
	assert.Equal(t, 11, apart, "ids, formats, gains, optics, angles, trade, rates, recipes and what is wrong with them, stock and sun need no scene")
}

func TestWhatIsMissingIsSaid(t *testing.T) {
	d := open(t)
	assert.Contains(t, d.ask("nonsense", `{}`), "reload the page")
	_, err := d.Open([]byte(`{`))
	require.Error(t, err)
	assert.Contains(t, d.ask("document", `{}`), `"s1"`, "what was open stays open")

	broken := scenetest.Small()
	s := broken.Shots["s2"]
	s.Camera = "gone"
	broken.Shots["s2"] = s
	_, err = d.Open(broken.Encode())
	require.Error(t, err)
	var said page.Refusal
	require.NoError(t, json.Unmarshal(page.Failed(err), &said))
	assert.NotEmpty(t, said.Problems, "where the problem is, is told along")
}

// TestAListOfNothingIsAList checks what a front end counts on.
func TestAListOfNothingIsAList(t *testing.T) {
	d := open(t)
	for _, name := range []string{"pending", "keysOf", "entrances", "handles", "missing", "overshoots", "unused", "differences"} {
		assert.Equal(t, byte('['), d.ask(name, `{}`)[0], name)
	}
	for _, name := range []string{"next", "numbers", "strike", "shotAt", "joinLack"} {
		assert.Equal(t, "null", d.ask(name, `{"camera":"nobody"}`), name)
	}
	assert.Equal(t, "null", d.ask("structure", fmt.Sprintf(`{"known":%d}`, structure(t, d).Version)))
}

func structure(t *testing.T, d desk) (s page.Structure) {
	require.NoError(t, json.Unmarshal([]byte(d.ask("structure", `{"known":-1}`)), &s))
	return s
}

// TestAStateOfTheHistoryIsLookedAt goes to a state, which cannot be changed, back to
// the scene, and makes the scene what the state was, which can be undone.
func TestAStateOfTheHistoryIsLookedAt(t *testing.T) {
	d := open(t)
	before := d.ask("document", `{}`)
	d.ask("run", `{"name":"sceneRename","args":{"title":"now"}}`)
	now := d.ask("document", `{}`)
	first := structure(t, d).Version

	require.NoError(t, d.Look([]byte(before)))
	assert.JSONEq(t, before, d.ask("document", `{}`))
	assert.NotEqual(t, first, structure(t, d).Version, "it is laid out anew")
	assert.Contains(t, d.ask("run", `{"name":"sceneRename","args":{"title":"x"}}`), "state of the history")
	differs, err := d.Compare([]byte(before), nil)
	require.NoError(t, err)
	require.Len(t, differs, 1)
	assert.Equal(t, []string{"title"}, differs[0].Fields)
	d.Back()
	assert.JSONEq(t, now, d.ask("document", `{}`))

	o, err := d.Restore([]byte(before), "restore the first state")
	require.NoError(t, err)
	assert.Equal(t, "restore the first state", o.Edit.Label)
	assert.JSONEq(t, before, d.ask("document", `{}`))
	d.ask("turn", `{"kind":"undo"}`)
	assert.JSONEq(t, now, d.ask("document", `{}`))
}

// TestMovedShotsAreNamedOnce ripples the first shot: the answer names the shots that
// have moved with their frames, and does not name them again while they are the same.
func TestMovedShotsAreNamedOnce(t *testing.T) {
	d := open(t)
	preview := func(by int) (p page.Previewed) {
		args := fmt.Sprintf(`{"name":"shotTrim","args":{"id":"s1","edge":"out","by":%d,"ripple":true}}`, by)
		require.NoError(t, json.Unmarshal([]byte(d.ask("preview", args)), &p))
		return p
	}
	doc := func() (out scene.Document) {
		require.NoError(t, json.Unmarshal([]byte(d.ask("document", `{}`)), &out))
		return out
	}
	was := doc().Shots
	p := preview(-4)
	assert.Equal(t, []string{"s1", "s2", "s3"}, p.Moved, "only where they stand on the screen clock has changed")
	assert.Equal(t, []int{0, was["s1"].ScreenOut - 4, was["s2"].ScreenIn - 4, was["s2"].ScreenOut - 4, was["s3"].ScreenIn - 4, was["s3"].ScreenOut - 4}, p.Frames)
	assert.Empty(t, p.Changed)
	p = preview(-6)
	assert.True(t, p.Again)
	assert.Empty(t, p.Moved)
	assert.Equal(t, was["s3"].ScreenOut-6, p.Frames[5])
	require.NoError(t, json.Unmarshal([]byte(d.ask("cancel", `{}`)), &p))
	assert.Equal(t, was["s3"].ScreenOut, p.Frames[5])
	assert.Equal(t, was, doc().Shots)
	assert.Contains(t, d.ask("preview", `{"name":"shotTrim","args":{"id":"gone","edge":"out","by":1}}`), "error")
}

// TestDoubtsBeginAgainWhenTheSceneChanges asks for more doubts after an edit: they are
// those of the scene as it is now, and none is lost.
func TestDoubtsBeginAgainWhenTheSceneChanges(t *testing.T) {
	d := open(t)
	order := `{"order":{"each":true},"recipe":{"name":"a","pack":"h264","quality":"check"},"lost":[]}`
	doubts := func(call, args string) (texts []string) {
		var now page.DoubtsNow
		said := d.ask(call, args)
		require.NotContains(t, said, "error")
		require.NoError(t, json.Unmarshal([]byte(said), &now))
		for now.Left > 0 {
			left := now.Left
			require.NoError(t, json.Unmarshal([]byte(d.ask("moreDoubts", `{}`)), &now))
			require.Less(t, now.Left, left)
		}
		for _, x := range now.Doubts {
			texts = append(texts, x.Text)
		}
		return texts
	}
	before := doubts("doubts", order)
	d.ask("run", `{"name":"shotTrim","args":{"id":"s1","edge":"out","by":-5}}`)
	gap := "For 5 frames before shot 020 nothing plays; the picture is black there."
	assert.NotContains(t, before, gap)
	after := doubts("moreDoubts", `{}`)
	assert.Contains(t, after, gap)
	assert.GreaterOrEqual(t, len(after), len(before))
}

// TestWhatIsDeliveredIsShownAsItWouldBeNow asks for a frame of a shot's file before and
// after an edit, in its handles, and beyond what there is.
func TestWhatIsDeliveredIsShownAsItWouldBeNow(t *testing.T) {
	d := open(t)
	now := func(item, recipe string, frame int) (out program.Air) {
		require.NoError(t, json.Unmarshal([]byte(d.ask("airNow", fmt.Sprintf(`{"item":%s,"recipe":%s,"frame":%d}`, item, recipe, frame))), &out))
		return out
	}
	item := `{"what":"shot","assembly":"cut","shot":"s2","format":"wide","width":96,"height":54,"in":48,"out":96}`
	recipe := `{"name":"a","pack":"h264","quality":"check","slate":2}`
	assert.Empty(t, now(item, recipe, 1).Playing, "the slate")
	first := now(item, recipe, 2)
	require.Len(t, first.Playing, 1)
	assert.Equal(t, "b", first.Playing[0].Camera)
	assert.Equal(t, 40.0, first.Playing[0].Story)
	assert.Empty(t, now(item, recipe, 2+48).Playing, "beyond its end")
	d.ask("run", `{"name":"shotSet","args":{"ids":["s2"],"change":{"camera":"a"}}}`)
	assert.Equal(t, "a", now(item, recipe, 2).Playing[0].Camera)
	d.ask("run", `{"name":"shotTrim","args":{"id":"s2","edge":"out","by":4,"ripple":true}}`)
	assert.NotEmpty(t, now(item, recipe, 2+48).Playing, "it is longer now")
	gone := fmt.Sprintf(`{"item":%s,"recipe":%s,"frame":2}`, strings.ReplaceAll(item, "s2", "gone"), recipe)
	assert.Contains(t, d.ask("airNow", gone), "not in the cut any more")
}

// TestSomethingBesideIsAskedAbout asks about alternates and shots beside what is worked in,
// which stays as it is.
func TestSomethingBesideIsAskedAbout(t *testing.T) {
	d := open(t)
	require.NotContains(t, d.ask("run", `{"name":"alternateAdd","args":{"id":"night","name":"night"}}`), `"error"`)
	names := func() string {
		doc, err := scene.Decode([]byte(d.ask("document", `{}`)))
		require.NoError(t, err)
		return doc.Nodes["a"].Name
	}
	rename := func(layer, name string) {
		require.NotContains(t, d.ask("workIn", `{"alternate":"`+layer+`"}`), "error")
		require.NotContains(t, d.ask("run", `{"name":"set","args":{"collection":"nodes","id":"a","merge":{"name":"`+name+`"},"label":"rename"}}`), `"error"`)
	}
	rename("night", "Night")
	rename("@s1", "Shot")
	rename("night@s2", "Both")
	d.ask("workIn", `{"alternate":""}`)
	plain := names()
	here := structure(t, d).Version
	assert.JSONEq(t, `{"night":{"format":"wide"},"gone":{"format":"","fault":"there is no such alternate any more"}}`, d.ask("comparing", `{"alternates":["night","gone"]}`))
	for _, c := range [][4]string{{"night", "", "night", "Night"}, {"night", "s1", "night@s1", "Shot"}, {"night", "s2", "night@s2", "Both"}, {"", "s1", "@s1", "Shot"}, {"", "s2", "", plain}, {"", "", "", plain}} {
		assert.JSONEq(t, fmt.Sprintf(`{"layer":%q,"here":%v}`, c[2], c[2] == ""), d.ask("beside", `{"alternate":"`+c[0]+`","shot":"`+c[1]+`"}`))
		assert.Equal(t, c[3], names(), c)
		assert.Equal(t, c[2] == "", structure(t, d).Version == here, "%v is laid out for itself", c)
	}
	d.ask("beside", `{"alternate":"night"}`)
	assert.Contains(t, d.ask("beside", `{"alternate":"gone"}`), "no such alternate")
	assert.Equal(t, plain, names(), "what cannot be asked leaves what is worked in")
	d.ask("beside", `{"alternate":"night"}`)
	d.ask("homeward", `{}`)
	assert.Equal(t, plain, names())
	assert.Equal(t, here, structure(t, d).Version)
	// Without a difference it is as below; two alternates are told by things.
	var list []struct{ ID, Name, Thing, What string }
	require.NoError(t, json.Unmarshal([]byte(d.ask("differing", `{"alternate":"night@s2"}`)), &list))
	require.Len(t, list, 1)
	d.ask("beside", `{"alternate":"night","shot":"s2","without":["`+list[0].ID+`"]}`)
	assert.Equal(t, "Night", names())
	d.ask("homeward", `{}`)
	require.NoError(t, json.Unmarshal([]byte(d.ask("compareSides", `{"here":"night","there":"@s1"}`)), &list))
	require.Len(t, list, 1)
	assert.Equal(t, [3]string{"camera 1 (Night)", "a", "changed"}, [3]string{list[0].Name, list[0].Thing, list[0].What})
	assert.Contains(t, d.ask("compareSides", `{"here":"night","there":"@s1"}`), `"before":"Shot","after":"Night"`)
	assert.Contains(t, d.ask("compareSides", `{"here":"night","there":"gone"}`), "no such alternate")
	// What is delivered while a shot is worked in is the whole.
	d.ask("workIn", `{"alternate":"night@s2"}`)
	assert.Contains(t, d.ask("planned", `{"order":{"assemblies":["cut"],"each":true},"recipe":{"name":"r","pack":"h264","quality":"rough"}}`), "night")
}
