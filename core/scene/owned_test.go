package scene_test

import (
	"fmt"
	"slices"
	"testing"

	"proscen/core/curve"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// TestOwnersAreAlwaysTrue changes curves and boards in every way there is, and compares
// what is remembered with what is found by looking at all.
func TestOwnersAreAlwaysTrue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := scene.New()
		some := func(what string) string { return fmt.Sprint(what, rapid.IntRange(0, 4).Draw(t, what)) }
		for step := range rapid.IntRange(1, 60).Draw(t, "steps") {
			id := some("c")
			v := scene.Curve{Node: some("n"), Channel: scene.Channels[rapid.IntRange(0, 3).Draw(t, "channel")], Keys: []curve.Key{{Ease: curve.Even}}}
			b := scene.Board{Shot: some("s"), At: rapid.IntRange(0, 9).Draw(t, "at")}
			switch rapid.IntRange(0, 6).Draw(t, "how") {
			case 0:
				d.PutCurve(id, v)
				d.PutBoard(id, b)
			case 1:
				d.Table("curves").Delete(id)
				d.Table("boards").Delete(id)
			case 2:
				_ = d.Table("curves").Set(id, scene.Canonical(v))
				_ = d.Table("boards").Set(id, scene.Canonical(b))
			case 3:
				d.Table("curves").Put(id, v)
				d.Table("boards").Put(id, nil)
			case 4:
				d.Curves[fmt.Sprint("direct-", step)] = v // without a word: their number tells
			case 5:
				d.Curves["twice-"+id] = v
				d.Validate()
			case 6:
				d = d.Clone()
			}
			for n := range 5 {
				node, shot := fmt.Sprint("n", n), fmt.Sprint("s", n)
				var curves, boards []string
				for id, c := range d.Curves {
					if c.Node == node {
						curves = append(curves, id)
					}
				}
				for id, b := range d.Boards {
					if b.Shot == shot {
						boards = append(boards, id)
					}
				}
				slices.Sort(curves)
				d.SortBoards(boards)
				assert.Equal(t, curves, slices.Clone(d.CurvesOf(node)))
				assert.Equal(t, boards, d.BoardsOf(shot))
			}
		}
	})
}
