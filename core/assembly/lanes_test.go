package assembly_test

import (
	"testing"

	"proscen/core/assembly"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
)

// lanesScene has three shots on the main lane and two spare lanes with one each.
func lanesScene() *scene.Document {
	d := scenetest.Cut([2]int{0, 40}, [2]int{40, 80}, [2]int{80, 120})
	for i, id := range []string{"low", "high"} {
		d.Lanes[id] = scene.Lane{Assembly: "cut", Name: "try " + id, Order: i + 1}
		d.PutShot("x"+id, scene.Shot{Lane: id, Number: "9" + id, Camera: "a", ScreenIn: 60, ScreenOut: 90, StoryIn: 0, Speed: 1})
	}
	return d
}

func TestALockedLaneStaysAsItIs(t *testing.T) {
	d := lanesScene()
	run(t, d, "laneSet", m{"id": "low", "locked": true})
	place := func(id string) [2]int { s := d.Shots[id]; return [2]int{s.ScreenIn, s.ScreenOut} }
	for op, args := range map[string]m{
		"shotTrim":   {"id": "xlow", "edge": "out", "by": -5},
		"shotRemove": {"ids": []string{"xlow"}},
		"shotSet":    {"ids": []string{"xlow"}, "change": m{"name": "other"}},
		"shotMove":   {"ids": []string{"s1"}, "by": 200, "lane": "low"},
		"laneRemove": {"id": "low"},
	} {
		refused(t, d, "lane try low is locked; unlock it first", op, args)
	}
	// What is later on the main lane moves; the open lane goes along and the locked one stays.
	run(t, d, "shotTrim", m{"id": "s1", "edge": "out", "by": 10, "ripple": true})
	assert.Equal(t, [2]int{60, 90}, place("xlow"))
	assert.Equal(t, [2]int{70, 100}, place("xhigh"))
	// What makes way goes to a lane that takes it.
	run(t, d, "shotMove", m{"ids": []string{"s3"}, "by": -85, "how": "spare"})
	assert.Equal(t, "high", d.Shots["s3"].Lane)
	run(t, d, "laneSet", m{"id": "low", "locked": false})
	run(t, d, "shotTrim", m{"id": "xlow", "edge": "out", "by": -5})
	assert.Equal(t, [2]int{60, 85}, place("xlow"))

	// The main lane can be locked too; then nothing that plays changes.
	run(t, d, "laneSet", m{"id": "main", "locked": true})
	refused(t, d, "lane main is locked", "shotTrim", m{"id": "s1", "edge": "in", "by": 3})
	refused(t, d, "lane main is locked", "shotAppend", m{"assembly": "cut", "camera": "b", "frames": 9})
	run(t, d, "shotMove", m{"ids": []string{"xhigh"}, "by": 40})
	assert.Empty(t, d.Validate())
}

func TestLanesAreNamedAndMoved(t *testing.T) {
	d := lanesScene()
	run(t, d, "laneAdd", m{"assembly": "cut"})
	third := program.SpareLanes(d, "cut")[2]
	run(t, d, "laneMove", m{"id": third, "by": -2})
	assert.Equal(t, []string{third, "low", "high"}, program.SpareLanes(d, "cut"))
	run(t, d, "laneMove", m{"id": "low", "by": 9})
	assert.Equal(t, []string{third, "high", "low"}, program.SpareLanes(d, "cut"))
	run(t, d, "laneSet", m{"id": "low", "name": "  night tries "})
	assert.Equal(t, "night tries", d.Lanes["low"].Name)
	refused(t, d, "needs a name", "laneSet", m{"id": "low", "name": " "})
	refused(t, d, "stays below", "laneMove", m{"id": "main", "by": 1})
	refused(t, d, "not there any more", "laneMove", m{"id": "gone", "by": 1})
	refused(t, d, "not there any more", "laneSet", m{"id": "gone"})
}

// TestShotsOfSeveralLanesMoveTogether, each on its own lane.
func TestShotsOfSeveralLanesMoveTogether(t *testing.T) {
	d := lanesScene()
	run(t, d, "shotMove", m{"ids": []string{"xlow", "s3", "xhigh"}, "by": 30})
	for id, want := range map[string][2]int{"s3": {110, 150}, "xlow": {90, 120}, "xhigh": {90, 120}} {
		s := d.Shots[id]
		assert.Equal(t, want, [2]int{s.ScreenIn, s.ScreenOut}, id)
	}
	assert.Equal(t, []string{"main", "low", "high"}, []string{d.Shots["s3"].Lane, d.Shots["xlow"].Lane, d.Shots["xhigh"].Lane})
	// Back over the second shot there is something in the way, on one of the lanes.
	args := m{"ids": []string{"xlow", "s3"}, "by": -60}
	refused(t, d, assembly.ErrOccupied.Error(), "shotMove", args)
	args["how"] = "insert"
	refused(t, d, "several lanes", "shotMove", args)
	args["how"] = "overwrite"
	run(t, d, "shotMove", args)
	assert.Equal(t, 50, d.Shots["s3"].ScreenIn)
	assert.Equal(t, 30, d.Shots["xlow"].ScreenIn)
	assert.Equal(t, 50, d.Shots["s2"].ScreenOut, "trimmed by what came to lie on it")
	assert.Empty(t, d.Validate())
}
