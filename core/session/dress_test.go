package session

import (
	"math"
	"strings"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/kit"
	"proscen/core/patch"
	"proscen/core/questions"
	"proscen/core/scene"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"
)

func (s *Session) world(node string, frame float64) geom.Mat4 {
	return s.Evaluate(frame).Worlds[s.Motion.Index(node)]
}

// same fails unless two matrices agree within 1e-9.
func same(t require.TestingT, want, got geom.Mat4, about string) {
	for i := range want {
		if math.Abs(want[i]-got[i]) > 1e-9 {
			require.Failf(t, "moved", "%s: entry %d is %v, was %v", about, i, got[i], want[i])
		}
	}
}

func stage(t *testing.T) *Session {
	t.Helper()
	s := open()
	for id, at := range map[string]scene.Vec{"p": {1, 0, 2}, "q": {4, 0, -3}, "r": {-2, 0, 5}} {
		do(t, s, "stockPlace", m{"kind": "prop", "stock": "crate", "name": "Crate", "position": at, "id": id})
	}
	return s
}

func TestAttachAndDetachKeepThePlace(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := open()
		f := func(n string, lo, hi float64) float64 { return rapid.Float64Range(lo, hi).Draw(t, n) }
		turned := func() scene.Vec { return scene.Vec{f("pan", -180, 180), f("tilt", -80, 80), f("roll", -170, 170)} }
		s.Doc.Nodes["p"] = scene.Node{Kind: scene.KindProp, Name: "p", Position: scene.Vec{f("x", -9, 9), f("y", -9, 9), f("z", -9, 9)}, Turn: turned(), Scale: f("scale", 0.2, 3), Piece: &scene.Piece{Stock: "crate"}}
		s.Doc.Nodes["g"] = scene.Node{Kind: scene.KindGroup, Name: "g", Position: scene.Vec{f("gx", -9, 9), 1, 2}, Turn: turned(), Scale: f("gs", 0.3, 2)}
		s = Open(s.Doc, counter())
		frame := f("frame", 0, 240)
		joint := rapid.SampledFrom([]string{"", "head", "hand.left"}).Draw(t, "joint")
		was := s.world("p", frame)
		for _, step := range []m{
			{"op": "attach", "to": "walker", "joint": joint}, {"op": "attach", "to": "g"}, {"op": "detach"},
		} {
			op := step["op"].(string)
			delete(step, "op")
			step["ids"], step["frame"] = []string{"p"}, frame
			r, err := s.Run(op, scene.Canonical(step))
			require.NoError(t, err)
			require.NotEmpty(t, r.Patch)
			same(t, was, s.world("p", frame), op)
		}
	})
}

func TestGroupsKeepPlacesAndMoveTogether(t *testing.T) {
	s := stage(t)
	p, q := s.world("p", 0), s.world("q", 0)
	do(t, s, "group", m{"ids": []string{"p", "q"}, "name": "Stack", "id": "g"})
	same(t, p, s.world("p", 0), "grouped")
	do(t, s, "move", m{"ids": []string{"g", "p"}, "by": []float64{2, 0, 0}})
	moved := s.world("q", 0)
	assert.InDelta(t, q[3]+2, moved[3], 1e-9)
	moved = s.world("p", 0)
	assert.InDelta(t, p[3]+2, moved[3], 1e-9, "what hangs on a moved group is moved once")
	do(t, s, "set", m{"collection": "nodes", "id": "g", "merge": m{"locked": true}})
	refused(t, s, "move", m{"ids": []string{"p"}, "by": []float64{1, 0, 0}}, "Stack is locked")
	do(t, s, "set", m{"collection": "nodes", "id": "g", "merge": m{"locked": nil}})
	do(t, s, "ungroup", m{"id": "g"})
	same(t, moved, s.world("p", 0), "ungrouped")
	assert.Empty(t, s.Doc.Nodes["p"].Parent)
	refused(t, s, "ungroup", m{"id": "p"}, "is not a group")
}

func TestMovingTurningAndScalingByHand(t *testing.T) {
	s := stage(t)
	// A quarter turn to the left about (1, 0, 0) takes (1, 0, 2), which lies at +Z,
	// to +X: (3, 0, 0).
	do(t, s, "move", m{"ids": []string{"p"}, "axis": []int{0, 1, 0}, "angle": 90, "pivot": []float64{1, 0, 0}})
	at := s.Doc.Nodes["p"]
	assert.Equal(t, scene.Vec{3, 0, 0}, at.Position)
	assert.InDelta(t, 90, at.Turn[0], 1e-9)
	do(t, s, "move", m{"ids": []string{"p", "q"}, "scale": 2, "pivot": []float64{0, 0, 0}})
	assert.Equal(t, scene.Vec{6, 0, 0}, s.Doc.Nodes["p"].Position)
	assert.Equal(t, scene.Vec{8, 0, -6}, s.Doc.Nodes["q"].Position)
	assert.InDelta(t, 2, s.Doc.Nodes["q"].Scale, 1e-9)
	refused(t, s, "move", m{"ids": []string{"p"}, "scale": -1}, "must be more than 0")
	refused(t, s, "move", m{"ids": []string{"p"}, "angle": 5}, "needs an axis")
	refused(t, s, "move", m{"ids": []string{}}, "nothing is selected")
	// An animated value is shifted whole.
	do(t, s, "value", m{"node": "r", "channel": "position.x", "frame": 0, "value": -2, "key": true})
	do(t, s, "value", m{"node": "r", "channel": "position.x", "frame": 24, "value": 3, "key": true})
	do(t, s, "move", m{"ids": []string{"r"}, "by": []float64{1, 0, 0}, "frame": 24})
	w := s.world("r", 0)
	assert.InDelta(t, -1, w[3], 1e-9)
}

func TestArrangingByHand(t *testing.T) {
	s := stage(t) // crates of 0.8 × 0.6 × 0.6 and 0.015 of slats at 1, 4 and −2 along X
	all := []string{"p", "q", "r"}
	do(t, s, "distribute", m{"ids": all, "axis": 2})
	assert.InDelta(t, 1, s.Doc.Nodes["p"].Position[2], 1e-9, "half way between −3 and 5")
	do(t, s, "align", m{"ids": all, "axis": 0, "to": "least"})
	for _, id := range all {
		assert.InDelta(t, -2, s.Doc.Nodes[id].Position[0], 1e-9)
	}
	do(t, s, "align", m{"ids": all, "axis": 2, "to": "middle"})
	assert.InDelta(t, 1, s.Doc.Nodes["q"].Position[2], 1e-9)
	refused(t, s, "align", m{"ids": []string{"p"}, "axis": 0}, "at least two")
	refused(t, s, "distribute", m{"ids": []string{"p", "q"}, "axis": 0}, "at least three")

	do(t, s, "set", m{"collection": "nodes", "id": "q", "merge": m{"position": []float64{3, 0, 4}, "turn": []float64{30, 0, 0}}})
	do(t, s, "mirror", m{"ids": []string{"q"}, "axis": 0, "about": 1})
	q := s.Doc.Nodes["q"]
	assert.InDelta(t, -1, q.Position[0], 1e-9)
	assert.InDelta(t, -30, q.Turn[0], 1e-9)
	do(t, s, "mirror", m{"ids": []string{"q"}, "axis": 2, "about": 0})
	w := s.world("q", 0)
	front := w.Dir(r3.Vec{Z: -1})
	assert.InDelta(t, math.Cos(math.Pi/6), front.Z, 1e-9, "it looks the other way along Z")
	refused(t, s, "mirror", m{"ids": []string{"q"}, "axis": 1}, "across X or Z")

	// A crate over the other one is let down onto it: 0.6 m and nothing more.
	do(t, s, "set", m{"collection": "nodes", "id": "p", "merge": m{"position": []float64{20, 5, 20}}})
	do(t, s, "set", m{"collection": "nodes", "id": "r", "merge": m{"position": []float64{20, 0, 20}}})
	do(t, s, "dropDown", m{"ids": []string{"p"}})
	assert.InDelta(t, 0.6, s.Doc.Nodes["p"].Position[1], 1e-6)
}

func TestDuplicateAndScatter(t *testing.T) {
	s := stage(t)
	do(t, s, "attach", m{"ids": []string{"q"}, "to": "p"})
	do(t, s, "duplicate", m{"ids": []string{"p", "q"}, "count": 3, "by": []float64{0, 0, -2}, "pan": 10})
	crates := map[float64]int{}
	for _, n := range s.Doc.Nodes {
		if n.Piece != nil && n.Piece.Stock == "crate" && n.Parent == "" {
			crates[math.Round(n.Position[2])]++
		}
	}
	assert.Equal(t, map[float64]int{2: 1, 0: 1, -2: 1, -4: 1, 5: 1}, crates, "each copy two metres on from the one before")
	do(t, s, "duplicate", m{"ids": []string{"a"}, "as": []string{"a2"}})
	assert.Equal(t, 3, s.Doc.Nodes["a2"].Camera.Number, "a copied camera has its own number")

	area := m{"stock": "conifer", "name": "Tree", "count": 40, "seed": 9, "corner": [][]float64{{-30, 0, -30}, {30, 0, 30}}, "apart": 2, "vary": 0.3}
	do(t, s, "scatter", area)
	again := open()
	do(t, again, "scatter", area)
	places := func(s *Session) (out []scene.Vec) {
		for _, id := range sortedNodes(s) {
			if n := s.Doc.Nodes[id]; n.Piece != nil && n.Piece.Stock == "conifer" {
				out = append(out, n.Position)
			}
		}
		return out
	}
	a, b := places(s), places(again)
	require.Len(t, a, 40)
	assert.ElementsMatch(t, a, b, "the same seed gives the same places")
	for i, p := range a {
		for _, q := range a[:i] {
			assert.GreaterOrEqual(t, math.Hypot(p[0]-q[0], p[2]-q[2]), 1.99)
		}
	}
	area["apart"], area["count"] = 20.0, 100
	refused(t, s, "scatter", area, "find room")
	area["count"] = 1000
	refused(t, s, "scatter", area, "from 1 to 500")
}

func sortedNodes(s *Session) []string { return s.Doc.Table("nodes").IDs() }

func TestLengthSpeedAndDurationByHand(t *testing.T) {
	s := stage(t)
	do(t, s, "pathDraw", m{"form": "straight", "points": [][]float64{{0, 0, 0}, {12, 0, 0}}, "id": "way"})
	do(t, s, "travel", m{"node": "p", "path": "way", "in": 10, "speed": 1.5, "easeIn": false, "easeOut": false, "heading": true})
	k := travelKeys(s, "p")
	assert.InDelta(t, 10+192, k[1].Frame, 1e-9, "12 m at 1.5 m/s are 8 s of 24 frames")
	w := s.world("p", 10+48)
	assert.InDelta(t, 3, w[3], 1e-9, "a quarter, evenly")
	do(t, s, "travel", m{"node": "p", "in": 10, "out": 106, "reverse": true})
	w = s.world("p", 10)
	assert.InDelta(t, 12, w[3], 1e-9, "it begins at the end")
	refused(t, s, "travel", m{"node": "q", "in": 0, "out": 10}, "has no path")
	refused(t, s, "travel", m{"node": "p", "in": 0, "speed": -1}, "must be more than 0")

	// A walk of 12 m at 1.2 m/s takes 10 s; from its third metre, 7.5 s.
	do(t, s, "actionAdd", m{"cast": "walker", "do": "walk", "path": "way", "in": 300, "speed": 1.2, "id": "w1"})
	assert.Equal(t, 540, s.Doc.Actions["w1"].Out)
	do(t, s, "actionAdd", m{"cast": "walker", "do": "walk", "path": "way", "in": 600, "speed": 1.2, "start": 3, "id": "w2"})
	assert.Equal(t, 780, s.Doc.Actions["w2"].Out)
	w = s.world("walker", 600)
	assert.InDelta(t, 3, w[3], 1e-6)
}

func TestDeedsMakeRoomAndStopAtNeighbours(t *testing.T) {
	s := open() // walking 0..240
	do(t, s, "actionAdd", m{"cast": "walker", "do": "stand", "in": 240, "out": 400, "id": "wait"})
	do(t, s, "actionAdd", m{"cast": "walker", "do": "sit", "in": 300, "out": 340, "id": "sit"})
	wait := s.Doc.Actions["wait"]
	assert.Equal(t, [2]int{240, 300}, [2]int{wait.In, wait.Out}, "the longer block is parted")
	assert.Len(t, s.Doc.Actions, 4)
	do(t, s, "actionAdd", m{"cast": "walker", "do": "talk", "in": 250, "out": 330})
	assert.Len(t, s.Doc.Actions, 5, "a gesture lies over deeds")
	do(t, s, "actionTime", m{"ids": []string{"sit"}, "by": 500})
	sit := s.Doc.Actions["sit"]
	assert.Equal(t, [2]int{300, 340}, [2]int{sit.In, sit.Out}, "it stops at its neighbours")
	do(t, s, "actionTime", m{"ids": []string{"sit"}, "edge": "out", "by": -500})
	assert.Equal(t, 301, s.Doc.Actions["sit"].Out, "one frame is left")
	refused(t, s, "actionAdd", m{"cast": "box", "do": "sit", "in": 0}, "which is a set and not a cast")
	refused(t, s, "actionAdd", m{"cast": "walker", "do": "point", "in": 0}, "choose what to point at")
	do(t, s, "lineAdd", m{"cast": "walker", "text": "one two three four five", "in": 10, "gesture": true, "id": "l"})
	assert.Equal(t, 10+int(math.Ceil((0.5+5/2.7)*24)), s.Doc.Lines["l"].Out)
}

// footprints returns where the feet of a cast member are at a frame: the middle
// of the ankles.
func footprints(s *Session, node string, frame float64) (out [2]r3.Vec) {
	s.Evaluate(frame)
	i := s.Motion.Index(node)
	for k, j := range []kit.Joint{kit.FootLeft, kit.FootRight} {
		m := s.Motion.JointOf(i, j, &s.State)
		out[k] = m.Origin()
	}
	return out
}

// slide returns how far planted feet move between frames at most, where a foot
// counts as planted while its ankle is within 2 mm of its lowest height, and the
// share of moments at which a foot is planted.
func slide(s *Session, node string, from, to, ankle float64) (most, planted float64) {
	count := 0
	before := footprints(s, node, from)
	for f := from + 0.25; f <= to; f += 0.25 {
		now := footprints(s, node, f)
		for k := range now {
			if now[k].Y < ankle+0.002 && before[k].Y < ankle+0.002 {
				count++
				most = max(most, math.Hypot(now[k].X-before[k].X, now[k].Z-before[k].Z))
			}
		}
		before = now
	}
	return most, float64(count) / (2 * 4 * (to - from))
}

func TestFeetDoNotSlide(t *testing.T) {
	s := open()
	do(t, s, "stockPlace", m{"kind": "set", "stock": "floor", "name": "Floor", "position": []float64{0, 0, 0}, "id": "floor"})
	do(t, s, "set", m{"collection": "nodes", "id": "floor", "merge": m{"piece": m{"params": m{"width": 60, "depth": 60}}}})
	do(t, s, "pathDraw", m{"form": "curve", "points": [][]float64{{0, 0, -10}, {4, 0, -12}, {9, 0, -6}, {3, 0, 2}}, "id": "round"})
	do(t, s, "actionAdd", m{"cast": "walker", "do": "run", "path": "round", "in": 260, "id": "run"})
	run := s.Doc.Actions["run"].Out
	do(t, s, "actionAdd", m{"cast": "walker", "do": "stand", "face": "b", "in": run, "out": run + 96})
	do(t, s, "actionAdd", m{"cast": "walker", "do": "turn", "turn": 120, "in": run + 96, "out": run + 140})
	ankle := 0.045 * 1.8
	for _, part := range [][2]float64{{0, 240}, {260, float64(run)}, {float64(run), float64(run) + 140}} {
		most, planted := slide(s, "walker", part[0], part[1], ankle)
		assert.Less(t, most, 0.01, "between %v and %v a planted foot moves", part[0], part[1])
		assert.Greater(t, planted, 0.25, "feet are on the ground")
	}
}

func TestWalkersClimbStairs(t *testing.T) {
	s := open()
	// Nine steps of 0.2 m up toward −Z, 0.3 m deep, from z = −2.
	s.Doc.Nodes["stairs"] = scene.Node{Kind: scene.KindSet, Name: "Stairs", Position: scene.Vec{0, 0, -2}, Piece: &scene.Piece{Stock: "stairs", Params: map[string]float64{"rise": 1.8, "run": 2.7, "steps": 9}}}
	s.Doc.Paths["walk"] = scene.Path{Name: "up", Form: curve.Straight, Points: []scene.Vec{{0, 0, 0}, {0, 0, -2}, {0, 1.8, -4.5}}}
	s = Open(s.Doc, counter())
	heights := map[float64]bool{}
	for f := 0.0; f <= 240; f++ {
		for _, p := range footprints(s, "walker", f) {
			level := (p.Y - 0.045*1.8) / 0.2
			assert.Greater(t, level, -0.01)
			if r := math.Round(level); math.Abs(level-r) < 1e-6 {
				heights[r] = true
			}
		}
	}
	assert.GreaterOrEqual(t, len(heights), 5, "feet stand on the steps: %v", heights)
	assert.True(t, heights[9], "and reach the top")
}

func TestThingsChangeHands(t *testing.T) {
	s := open()
	cast := func(id string, at scene.Vec, pan float64) {
		s.Doc.Nodes[id] = scene.Node{Kind: scene.KindCast, Name: id, Position: at, Turn: scene.Vec{pan, 0, 0}, Cast: &scene.Cast{Height: 1.7, Coat: "#804040", Legs: "#404080"}}
	}
	cast("ann", scene.Vec{-0.5, 0, 20}, -90)
	cast("ben", scene.Vec{0.5, 0, 20}, 90)
	s.Doc.Nodes["case"] = scene.Node{Kind: scene.KindProp, Name: "Case", Position: scene.Vec{-0.5, 0, 19.6}, Piece: &scene.Piece{Stock: "case"}}
	s = Open(s.Doc, counter())
	do(t, s, "actionAdd", m{"cast": "ann", "do": "take", "on": "case", "in": 20, "out": 60})
	do(t, s, "handOver", m{"from": "ann", "to": "ben", "thing": "case", "in": 100, "out": 140})
	do(t, s, "actionAdd", m{"cast": "ben", "do": "put", "on": "case", "at": []float64{0.9, 0.7, 20.1}, "in": 200, "out": 240})

	hand := func(who string, frame float64) float64 {
		s.Evaluate(frame)
		palm := s.Motion.JointOf(s.Motion.Index(who), kit.HandRight, &s.State)
		at := palm.Point(kit.Palm(1.7))
		w := s.State.Worlds[s.Motion.Index("case")]
		grip := w.Point(r3.Vec{Y: 0.36})
		return r3.Norm(r3.Sub(at, grip))
	}
	w := s.world("case", 39)
	assert.InDelta(t, 19.6, w[11], 1e-9, "it stands until it is taken")
	assert.Less(t, hand("ann", 39.99), 0.06, "the hand is at the handle when it takes")
	for _, f := range []float64{40, 70, 119} {
		assert.InDelta(t, 0, hand("ann", f), 1e-9, "Ann carries it at %v", f)
	}
	assert.Less(t, hand("ben", 119.99), 0.06, "Ben's hand is there when it changes")
	for _, f := range []float64{120, 170, 219} {
		assert.InDelta(t, 0, hand("ben", f), 1e-9, "Ben carries it at %v", f)
	}
	w = s.world("case", 300)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(w.Origin(), r3.Vec{X: 0.9, Y: 0.7, Z: 20.1})), 1e-9, "it lies where it was put")
	assert.Less(t, hand("ben", 219.99), 0.12, "and was brought there by the hand")
	refused(t, s, "handOver", m{"from": "ann", "to": "ann", "thing": "case"}, "same person")
	refused(t, s, "actionAdd", m{"cast": "case", "do": "ride", "on": "ann", "in": 0, "out": 5, "joint": "head", "id": "x", "speed": 1, "hand": "third"}, "left or right")
	refused(t, s, "attach", m{"ids": []string{"ann"}, "to": "case"}, "circle")
}

func TestThingsRideForAWhile(t *testing.T) {
	s := stage(t)
	was := s.world("p", 60)
	do(t, s, "actionAdd", m{"cast": "p", "do": "ride", "on": "walker", "in": 60, "out": 120})
	same(t, was, s.world("p", 60), "it keeps its place when the ride begins")
	walker := s.world("walker", 60)
	later := s.world("walker", 119)
	w := s.world("p", 119)
	assert.InDelta(t, later[11]-walker[11], w[11]-was[11], 1e-9, "it goes along")
	end := s.world("p", 120)
	same(t, end, s.world("p", 239), "it stays where it is left")
	w = s.world("p", 30)
	assert.InDelta(t, 2, w[11], 1e-9, "before, it stands where it stood")
	refused(t, s, "actionAdd", m{"cast": "p", "do": "ride", "on": "p", "in": 0, "out": 5}, "circle")
}

func TestQuestionsSeeTheSceneAsItIsNow(t *testing.T) {
	s := stage(t)
	s.Evaluate(0)
	down := geom.Ray{From: r3.Vec{X: 30, Y: 50, Z: 30}, Dir: r3.Vec{Y: -1}}
	_, ok := s.Strike(down, nil)
	assert.False(t, ok)
	place := m{"kind": "prop", "stock": "crate", "name": "Crate", "position": []float64{30, 0, 30}}
	err := s.Preview("stockPlace", scene.Canonical(place))
	require.NoError(t, err)
	hit, ok := s.Strike(down, nil)
	require.True(t, ok, "without evaluating again, the previewed crate is there")
	assert.InDelta(t, 0.6, hit.At.Y, 1e-6)
	assert.InDelta(t, 1, hit.Normal.Y, 1e-9)
	s.Cancel()
	_, ok = s.Strike(down, nil)
	assert.False(t, ok, "and gone when the preview is taken back")
	hit, ok = s.Strike(geom.Ray{From: r3.Vec{X: 1, Y: 50, Z: 2}, Dir: r3.Vec{Y: -1}}, []string{"p"})
	assert.False(t, ok, "left out: %v", hit)
}

func TestSnapLinesUpByHand(t *testing.T) {
	s := stage(t) // crates are 0.83 wide with their slats: ends at ±0.415
	s.Evaluate(0)
	// From x = 1, a way of 2.2 brings the right end to 3.615; q's left end is at 3.585.
	by, hints := s.Snap([]string{"p"}, r3.Vec{X: 2.2}, 0.1, 0)
	require.Len(t, hints, 1)
	assert.Equal(t, questions.Hint{Axis: 0, Value: 3.585, Node: "q"}, questions.Hint{Axis: hints[0].Axis, Value: math.Round(hints[0].Value*1000) / 1000, Node: hints[0].Node})
	assert.InDelta(t, 2.17, by.X, 1e-6)
	by, hints = s.Snap([]string{"p"}, r3.Vec{X: 1.43, Y: 0.26}, 0.01, 0.5)
	assert.Empty(t, hints)
	assert.Equal(t, r3.Vec{X: 1.5, Y: 0.5}, by, "otherwise the grid; axes without a way stay")
}

func TestHandlesStandOnThePieceAndPullIt(t *testing.T) {
	s := open()
	do(t, s, "stockPlace", m{"kind": "set", "stock": "doorWall", "name": "Wall", "position": []float64{10, 0, 0}, "turn": []float64{90, 0, 0}, "id": "w"})
	do(t, s, "set", m{"collection": "nodes", "id": "w", "merge": m{"scale": 2}})
	found := map[string]questions.HandleNow{}
	for _, h := range s.Handles("w") {
		found[h.Param] = h
	}
	// Turned to the left, its own X runs to −Z; twice as large, four metres are eight.
	assert.InDelta(t, -8, found["width"].At[2], 1e-9)
	assert.InDelta(t, -1, found["width"].Axis[2], 1e-9)
	assert.InDelta(t, 0.5, found["width"].Gain, 1e-9, "a metre in the world is half a metre of the wall")
	assert.Equal(t, 2.0, found["openAt"].Value)
	assert.Contains(t, found, "openHeight")
	assert.Nil(t, s.Handles("walker"))
}

func TestWaysAreLengthTimeAndSpeed(t *testing.T) {
	s := open()
	w := s.ActionWay("walking") // 10 m in 240 frames
	assert.InDeltaSlice(t, []float64{10, 10, 1}, []float64{w.Length, w.Seconds, w.Speed}, 1e-9)
	w = s.TravelWay("b") // 8 m in 96 frames
	assert.InDeltaSlice(t, []float64{8, 4, 2}, []float64{w.Length, w.Seconds, w.Speed}, 1e-9)
	assert.Zero(t, s.ActionWay("nothing"))
	heading, height := questions.SunAt(scene.SunClock{Latitude: 40, Day: 172, Hour: 12})
	assert.InDelta(t, 180, heading, 0.5)
	assert.InDelta(t, 73.5, height, 0.2)
}

func TestColourKeysOfLampAndSun(t *testing.T) {
	s := open()
	do(t, s, "stockPlace", m{"kind": "lamp", "stock": "spot", "name": "Spot", "position": []float64{0, 4, 0}, "id": "spot"})
	assert.InDelta(t, 50, s.Doc.Nodes["spot"].Lamp.Spot, 1e-9)
	do(t, s, "colorKey", m{"nodes": []string{"spot"}, "frame": 0, "color": "#ff8000"})
	do(t, s, "colorKey", m{"nodes": []string{"spot"}, "frame": 48, "color": "#0080ff"})
	st := s.Evaluate(48)
	l := st.Lamps[0]
	assert.InDelta(t, 0, l.Color[0], 1e-9)
	assert.InDelta(t, 12, l.Color[2], 1e-6, "full blue, times the lamp's strength")
	assert.InDelta(t, 12*math.Pow((128/255.0+0.055)/1.055, 2.4), l.Color[1], 1e-5, "half a byte is a fifth of the light")
	st = s.Evaluate(24)
	assert.InDelta(t, 6, st.Lamps[0].Color[0], 1e-6, "half way between the keys")
	assert.InDelta(t, 6, st.Lamps[0].Color[2], 1e-6)
	do(t, s, "colorKey", m{"nodes": []string{"settings"}, "frame": 10, "color": "#808080"})
	st = s.Evaluate(10)
	assert.InDelta(t, math.Pow((128/255.0+0.055)/1.055, 2.4), st.Look.Sun[1], 1e-6)
	refused(t, s, "colorKey", m{"nodes": []string{"anna"}, "frame": 0, "color": "#ffffff"}, "choose one of them")
	refused(t, s, "colorKey", m{"frame": 0, "color": "#ffffff"}, "choose a lamp or a piece")
	refused(t, s, "colorKey", m{"nodes": []string{"spot"}, "frame": 0, "color": "red"}, "#rrggbb")
	do(t, s, "value", m{"node": "settings", "channel": "haze.distance", "frame": 0, "value": 120})
	assert.InDelta(t, 120, s.Doc.Settings.Haze.Distance, 1e-9)
	refused(t, s, "value", m{"node": "settings", "channel": "sun.hour", "frame": 0, "value": 9}, "switch that on first")
	refused(t, s, "value", m{"node": "settings", "channel": "lens.focal", "frame": 0, "value": 9, "key": true}, "not a channel of the scene's light")
}

func TestPathsAreReshapedWhole(t *testing.T) {
	s := open()
	path := func() scene.Path { return s.Doc.Paths["track"] } // from (0, 2, 0) to (8, 2, 0)
	do(t, s, "pathShape", m{"id": "track", "form": "arc"})
	assert.Len(t, path().Points, 3)
	do(t, s, "pathShape", m{"id": "track", "form": "curve"})
	do(t, s, "pathPoint", m{"id": "track", "index": 1, "to": []float64{4, 2, 4}, "insert": true})
	assert.Len(t, path().Points, 4)
	do(t, s, "pathPoint", m{"id": "track", "index": 1, "to": nil})
	do(t, s, "pathShape", m{"id": "track", "reverse": true})
	assert.Equal(t, scene.Vec{8, 2, 0}, path().Points[0])
	do(t, s, "pathShape", m{"id": "track", "height": 5})
	assert.InDelta(t, 5, path().Points[1][1], 1e-9)
	do(t, s, "pathShape", m{"id": "track", "closed": true})
	assert.True(t, path().Closed)
	do(t, s, "pathShape", m{"id": "track", "form": "rise"})
	rise := path().Points
	assert.Equal(t, rise[0][0], rise[1][0])
	assert.Greater(t, rise[1][1], rise[0][1])
	refused(t, s, "pathShape", m{"id": "gone", "reverse": true}, "not there any more")
	// A path drawn for a person is a walk from the playhead on.
	do(t, s, "pathDraw", m{"form": "straight", "points": [][]float64{{0, 0, -10}, {0, 0, -17}}, "for": "walker", "in": 260, "out": 260})
	found := false
	for _, a := range s.Doc.Actions {
		found = found || a.In == 260 && a.Out == 260+120 && a.Do == scene.Walk // 7 m at 1.4 m/s
	}
	assert.True(t, found)
}

func TestModelsComeAndGo(t *testing.T) {
	s := open()
	blob := "00000000000000000000000000000000000000000000000000000000000000ab"
	model := m{"name": "Crane", "blob": blob, "size": []float64{1, 2, 3}, "triangles": 7, "id": "crane"}
	do(t, s, "modelAdd", model)
	model["id"] = "again"
	refused(t, s, "modelAdd", model, "is here already, as Crane")
	frame := func(at int, y float64) m {
		return m{"frame": at, "position": []float64{0, y, 5}, "turn": []float64{10, 0, 0}, "focal": 36, "focus": 4}
	}
	lamp := m{"name": "Key", "color": "#ffbc00", "position": []float64{0, 3, 0}, "turn": []float64{0, -90, 0}, "reach": 6, "spot": 40, "soft": 0.5}
	with := m{"name": "Yard", "blob": strings.Repeat("e", 64), "size": []float64{1, 1, 1}, "triangles": 1, "with": m{
		"kind": "prop", "cameras": []m{{"name": "Crane camera", "width": 36, "stop": 2.8, "frames": []m{frame(0, 1), frame(24, 3)}}}, "lamps": []m{lamp, lamp},
	}}
	nodes, curves := len(s.Doc.Nodes), len(s.Doc.Curves)
	do(t, s, "modelAdd", with)
	assert.Equal(t, nodes+4, len(s.Doc.Nodes), "the thing, its camera, two lamps")
	assert.Equal(t, curves+1, len(s.Doc.Curves), "the camera rises")
	with["blob"] = strings.Repeat("d", 64)
	with["with"].(m)["cameras"] = []m{{"name": "X", "stop": 2.8, "frames": []m{}}}
	refused(t, s, "modelAdd", with, "has no frames")
	refused(t, s, "modelAdd", m{"name": "X", "blob": "zz", "size": []float64{1, 1, 1}, "triangles": 1}, "SHA-256")
	do(t, s, "stockPlace", m{"kind": "prop", "model": "crane", "name": "Crane", "position": []float64{0, 0, 0}, "id": "c"})
	refused(t, s, "remove", m{"collection": "models", "ids": []string{"crane"}}, "Crane uses this model")
	do(t, s, "remove", m{"collection": "nodes", "ids": []string{"c"}})
	do(t, s, "remove", m{"collection": "models", "ids": []string{"crane"}})
	assert.NotContains(t, s.Doc.Models, "crane")
}

// A drawing of 1,000 by 500 pixels that is 40 m wide: its top lies to −Z, its left to −X.
func TestAGroundPlanLiesToScale(t *testing.T) {
	s := open()
	picture := m{"name": "Yard", "blob": strings.Repeat("d", 64), "width": 1000, "height": 500}
	do(t, s, "planLay", m{"picture": picture, "metres": 40, "id": "plan"})
	n := s.Doc.Nodes["plan"]
	assert.True(t, n.Locked)
	assert.True(t, n.Shooting.Hidden)
	assert.Equal(t, map[string]float64{"width": 40, "height": 20}, n.Piece.Params)
	w := s.Motion.Instances
	s.Evaluate(0)
	for i, in := range w {
		if !in.Surface {
			continue
		}
		mesh := s.Motion.Meshes[in.Mesh].Mesh
		for v := range len(mesh.Positions) / 3 {
			at := s.State.Instances[i].Point(r3.Vec{X: float64(mesh.Positions[3*v]), Y: float64(mesh.Positions[3*v+1]), Z: float64(mesh.Positions[3*v+2])})
			assert.InDelta(t, 40*(float64(mesh.UVs[2*v])-0.5), at.X, 1e-5, "from left to right")
			assert.InDelta(t, 20*(float64(mesh.UVs[2*v+1])-0.5), at.Z, 1e-5, "from top to bottom")
			assert.InDelta(t, 0.02, at.Y, 1e-5)
		}
		up := s.State.Instances[i].Dir(r3.Vec{Z: -1})
		assert.InDelta(t, 1, up.Y, 1e-9, "its front is up")
	}
	do(t, s, "planLay", m{"picture": picture, "metres": 40})
	refused(t, s, "planLay", m{"picture": picture, "metres": 4000}, "the plan would be 4000 by 2000 m")
	refused(t, s, "planLay", m{"picture": m{}, "metres": 4}, "choose the picture")
}

func TestEverythingCanBeUndone(t *testing.T) {
	s := stage(t)
	before := string(s.Doc.Encode())
	var done []patch.Patch
	run := func(op string, args m) { done = append(done, do(t, s, op, args).Patch) }
	run("stockPlace", m{"kind": "set", "stock": "lamp", "name": "Lamp post", "position": []float64{3, 0, 3}, "id": "post"})
	run("group", m{"ids": []string{"p", "q", "post"}, "id": "g"})
	run("attach", m{"ids": []string{"r"}, "to": "walker", "joint": "hand.left", "frame": 30})
	run("move", m{"ids": []string{"g"}, "axis": []int{0, 1, 0}, "angle": 33, "by": []float64{1, 2, 3}})
	run("duplicate", m{"ids": []string{"g"}, "by": []float64{5, 0, 0}})
	run("scatter", m{"stock": "bush", "name": "Bush", "count": 5, "seed": 3, "path": "walk", "width": 4})
	run("actionAdd", m{"cast": "walker", "do": "sit", "in": 100, "out": 130})
	run("travel", m{"node": "q", "path": "track", "in": 0, "speed": 2})
	run("setMany", m{"collection": "nodes", "ids": []string{"p", "q"}, "merge": m{"shooting": m{"only": []string{"s1"}}}})
	run("mirror", m{"ids": []string{"p"}, "axis": 2})
	run("detach", m{"ids": []string{"r"}, "frame": 60})
	run("remove", m{"collection": "nodes", "ids": []string{"g"}})
	after := string(s.Doc.Encode())
	for i := len(done) - 1; i >= 0; i-- {
		require.NoError(t, s.Apply(done[i].Inverse()))
	}
	assert.Equal(t, before, string(s.Doc.Encode()))
	for _, p := range done {
		require.NoError(t, s.Apply(p))
	}
	assert.Equal(t, after, string(s.Doc.Encode()))
}

func TestWhoGoesWithoutAPathGoesTheirOwn(t *testing.T) {
	s := open()
	name := func(id, name string) {
		n := s.Doc.Nodes["walker"]
		n.Name = name
		s.Doc.Nodes[id] = n
	}
	name("ida", "Ida")
	name("idaho", "Idaho")
	for _, id := range []string{"ida", "idaho"} {
		s.Doc.Paths["of-"+id] = scene.Path{Name: s.Doc.Nodes[id].Name + " path", Form: curve.Straight, Points: []scene.Vec{{0, 0, 0}, {2, 0, 0}}}
	}
	s = Open(s.Doc, counter())
	went := func(id string) (path string) {
		r := do(t, s, "actionAdd", m{"id": "new-" + id, "cast": id, "do": "walk", "in": 300})
		require.NotEmpty(t, r.Patch)
		return s.Doc.Actions["new-"+id].Path
	}
	assert.Equal(t, "of-ida", went("ida"), "not the one of Idaho")
	assert.Equal(t, "walk", went("walker"), "where they went last")
	delete(s.Doc.Paths, "of-idaho")
	refused(t, s, "actionAdd", m{"cast": "idaho", "do": "walk", "in": 300}, "needs a path")
}

// TestEveryBuildAndHairStyleCanBeKept holds what is offered against what a document takes.
func TestEveryBuildAndHairStyleCanBeKept(t *testing.T) {
	s := open()
	for _, build := range kit.Builds {
		for _, style := range kit.HairStyles {
			do(t, s, "stockPlace", m{"kind": "cast", "name": "Somebody", "build": build, "id": build + style})
			do(t, s, "set", m{"collection": "nodes", "id": build + style, "merge": m{"cast": m{"hairStyle": style}}, "label": "hair"})
		}
	}
	assert.Empty(t, s.Doc.Validate())
}

// TestADoorOpensDuringTheStory: its leaf turns about the hinge by what is keyed, and the wall
// stays. The hinge is 6 cm inside the opening.
func TestADoorOpensDuringTheStory(t *testing.T) {
	s := moving()
	do(t, s, "stockPlace", m{"kind": "set", "stock": "doorWall", "name": "Door", "position": []float64{0, 0, 40}, "id": "door"})
	leaf := func(frame float64) (hinge, handle r3.Vec) {
		s.Evaluate(frame)
		for i, in := range s.Motion.Instances {
			if s.Motion.Nodes[in.Node].ID == "door" && strings.HasPrefix(s.Motion.Meshes[in.Mesh].Key, "leaf") {
				w := s.State.Instances[i]
				b := s.Motion.Meshes[in.Mesh].Mesh.Bounds
				return w.Origin(), w.Point(r3.Vec{X: b.Max.X})
			}
		}
		t.Fatal("there is no leaf")
		return
	}
	angle := func(frame float64) float64 {
		hinge, handle := leaf(frame)
		d := r3.Sub(handle, hinge)
		return math.Atan2(-d.Z, d.X) * 180 / math.Pi
	}
	assert.InDelta(t, 70, angle(0), 1e-6, "as it comes from the stock")
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 0, "value": 0})
	assert.InDelta(t, 0, angle(0), 1e-6)
	assert.Equal(t, 0.0, s.Doc.Nodes["door"].Piece.Params["swing"])
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 24, "value": 0, "key": true})
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 48, "value": 90, "key": true})
	hinge, _ := leaf(24)
	for frame, want := range map[float64]float64{0: 0, 24: 0, 36: 45, 48: 90, 200: 90} {
		assert.InDelta(t, want, angle(frame), 1e-6, "at %v", frame)
		at, _ := leaf(frame)
		assert.InDelta(t, 0, r3.Norm(r3.Sub(at, hinge)), 1e-9, "the hinge stays")
	}
	// Without a key all of it is shifted, as with any other channel.
	do(t, s, "value", m{"node": "door", "channel": "piece.swing", "frame": 48, "value": 80})
	assert.InDelta(t, -10, angle(24), 1e-6)
	// What is in the way is told by the leaf where it is.
	ray := geom.Ray{From: r3.Sub(hinge, r3.Vec{X: -0.4, Y: -1, Z: 3}), Dir: r3.Vec{Z: 6}}
	s.Evaluate(200)
	_, blocked := s.Motion.Strike(ray, &s.State, 1, nil)
	assert.False(t, blocked, "through the open door")
	do(t, s, "stockPlace", m{"kind": "prop", "stock": "bench", "name": "Bench", "id": "bench"})
	refused(t, s, "value", m{"node": "bench", "channel": "piece.swing", "frame": 0, "value": 10}, "no door or lid that opens")
	refused(t, s, "value", m{"node": "walker", "channel": "piece.swing", "frame": 0, "value": 10, "key": true}, "no door or lid that opens")
}
