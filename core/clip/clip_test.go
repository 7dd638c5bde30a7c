package clip_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"
	"pgregory.net/rapid"

	"proscen/core/clip"
	"proscen/core/edit"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/timing"
)

type m = map[string]any

func open(doc *scene.Document, stem string) *session.Session {
	n := 0
	return session.Open(doc, func() string { n++; return fmt.Sprintf("%s-%03d", stem, n) })
}

// other returns another scene: at 25 frames a second, with a camera of its own and two
// shots of 50 frames.
func other() *session.Session {
	doc := scenetest.Small()
	doc.Settings.Title, doc.Settings.Rate = "Other", timing.Rate{Num: 25, Den: 1}
	doc.Nodes = map[string]scene.Node{"a": doc.Nodes["a"]}
	doc.Paths, doc.Curves, doc.Actions = map[string]scene.Path{}, map[string]scene.Curve{}, map[string]scene.Action{}
	doc.Shots = map[string]scene.Shot{}
	for i, number := range []string{"010", "020"} {
		doc.Shots["t"+number] = scene.Shot{Lane: "main", Number: number, Camera: "a", ScreenIn: 50 * i, ScreenOut: 50 * (i + 1), Speed: 1}
	}
	return open(doc, "new")
}

func take(t require.TestingT, s *session.Session, sel clip.Selection, frame float64) json.RawMessage {
	before := string(s.Doc.Encode())
	c, err := s.Clip(sel, frame)
	require.NoError(t, err)
	assert.Equal(t, before, string(s.Doc.Encode()), "copying changes nothing")
	return c.Encode()
}

func paste(t require.TestingT, s *session.Session, c json.RawMessage, at int) edit.Result {
	r, err := s.Run("paste", scene.Canonical(m{"clip": c, "assembly": s.Assembly(), "at": at}))
	require.NoError(t, err)
	return r
}

// called finds a node by its name.
func called(t require.TestingT, doc *scene.Document, name string) string {
	for id, n := range doc.Nodes {
		if n.Name == name {
			return id
		}
	}
	require.Fail(t, "nothing is called "+name)
	return ""
}

func TestSomebodyIsPastedWithWhatTheyDo(t *testing.T) {
	from, to := open(scenetest.Small(), "x"), other()
	c := take(t, from, clip.Selection{Nodes: []string{"walker", "box"}}, 0)
	r := paste(t, to, c, 0)
	assert.Equal(t, "paste 2 things from Small", r.Label)
	walker := called(t, to.Doc, "Walker")
	// At every second they are where they were, at another rate.
	for second := range 11 {
		was := from.Stage().World("walker", float64(24*second))
		is := to.Stage().World(walker, float64(25*second))
		assert.InDelta(t, 0, r3.Norm(r3.Sub(was.Origin(), is.Origin())), 0.02, "second %d: a footfall is on a whole frame", second)
	}
	require.Len(t, to.Doc.Actions, 1)
	for _, a := range to.Doc.Actions {
		assert.Equal(t, []int{0, 250}, []int{a.In, a.Out}, "10 seconds")
		assert.Contains(t, to.Doc.Paths, a.Path)
	}
	// Once more: with names of their own.
	paste(t, to, c, 0)
	called(t, to.Doc, "Walker 2")
	assert.Len(t, to.Doc.Nodes, 5)
}

func TestShotsArePastedWithTheirCameras(t *testing.T) {
	from, to := open(scenetest.Small(), "x"), other()
	// Shot 020 begins at story frame 40, with camera B that holds the box.
	was := from.Stage().Picture("b", 40)
	r := paste(t, to, take(t, from, clip.Selection{Shots: []string{"s3", "s2"}}, 7), 25)
	assert.Equal(t, "paste 2 things and 2 shots from Small", r.Label)
	var cut []string
	for _, e := range to.Doc.ShotsInOrder() {
		cut = append(cut, fmt.Sprintf("%s:%s[%d,%d)", e.Number, to.Doc.Nodes[e.Camera].Name, e.ScreenIn, e.ScreenOut))
	}
	// 48 frames at 24 are 50 at 25; the shot there was split, and its second half is 015.
	assert.Equal(t, []string{"010:A[0,25)", "012:B[25,75)", "013:A 2[75,125)", "015:A[125,150)", "020:A[150,200)"}, cut)
	b := called(t, to.Doc, "B")
	k := to.Doc.Nodes[b].Camera
	assert.Equal(t, scene.AimFree, k.Aim, "the box has stayed where it was")
	is := to.Stage().Picture(b, 42) // 40 at 24 is 41.67 at 25: the whole frame
	assert.InDelta(t, was.Pan, is.Pan, 1e-6)
	assert.InDelta(t, was.Tilt, is.Tilt, 1e-6)
	assert.InDelta(t, 0, r3.Norm(r3.Sub(was.World.Origin(), is.World.Origin())), 0.05, "a third of a frame on its path")
	assert.Equal(t, 2, k.Number, "its number is free here")
	assert.Equal(t, 3, to.Doc.Nodes[called(t, to.Doc, "A 2")].Camera.Number)
	assert.Len(t, to.Doc.Curves, 1, "with its keys")
	paste(t, to, take(t, from, clip.Selection{Shots: []string{"s3"}}, 0), 200)
	list := to.Doc.ShotsInOrder()
	assert.Equal(t, "030", list[len(list)-1].Number, "it is free, and in order")

	// With the box, it goes on holding it.
	both := other()
	paste(t, both, take(t, from, clip.Selection{Shots: []string{"s2"}, Nodes: []string{"box"}}, 0), 0)
	assert.Equal(t, called(t, both.Doc, "Box"), both.Doc.Nodes[called(t, both.Doc, "B")].Camera.AimAt)
}

// TestShotsArePastedAtHome: in their own scene shots go on being seen through their cameras,
// in the same assembly and in another one.
func TestShotsArePastedAtHome(t *testing.T) {
	doc := scenetest.Small()
	b := doc.Nodes["b"]
	b.Shooting = &scene.Shooting{Only: []string{"s1", "s2"}}
	doc.Nodes["b"] = b
	s := open(doc, "x")
	nodes, curves, paths := len(s.Doc.Nodes), len(s.Doc.Curves), len(s.Doc.Paths)
	c := take(t, s, clip.Selection{Shots: []string{"s2", "s3"}}, 0)
	assert.Equal(t, "paste 2 shots", paste(t, s, c, 144).Label)
	through := func() (out []string) {
		for _, e := range s.Program().Shots() {
			out = append(out, fmt.Sprintf("%s[%d,%d)", e.Camera, e.ScreenIn, e.ScreenOut))
		}
		return out
	}
	assert.Equal(t, []string{"a[0,48)", "b[48,96)", "a[96,144)", "b[144,192)", "a[192,240)"}, through())
	_, err := s.Run("assemblyAdd", scene.Canonical(m{"name": "Short"}))
	require.NoError(t, err)
	for id, a := range s.Doc.Assemblies {
		if a.Name == "Short" {
			require.NoError(t, s.ChooseAssembly(id))
		}
	}
	paste(t, s, c, 0)
	assert.Equal(t, []string{"b[0,48)", "a[48,96)"}, through())
	assert.Equal(t, []int{nodes, curves, paths}, []int{len(s.Doc.Nodes), len(s.Doc.Curves), len(s.Doc.Paths)}, "nothing in the set was doubled")
	assert.Equal(t, []string{"s1", "s2"}, s.Doc.Nodes["b"].Shooting.Only, "nor changed")

	// With something of the set, that is copied, and the cameras with it.
	paste(t, s, take(t, s, clip.Selection{Shots: []string{"s2"}, Nodes: []string{"box"}}, 0), 96)
	assert.Equal(t, nodes+2, len(s.Doc.Nodes))
}

func TestWhatHangsOnThingsAndWhatTheyHangOn(t *testing.T) {
	doc := scenetest.Small()
	doc.Nodes["group"] = scene.Node{Kind: scene.KindGroup, Name: "Group", Position: scene.Vec{5, 0, 0}}
	doc.Nodes["in"] = scene.Node{Kind: scene.KindSet, Name: "In", Parent: "group", Position: scene.Vec{1, 0, 0}, Piece: &scene.Piece{Stock: "box"}}
	doc.Nodes["on"] = scene.Node{Kind: scene.KindSet, Name: "On", Parent: "in", Position: scene.Vec{0, 1, 0}, Piece: &scene.Piece{Stock: "box"}}
	n := doc.Nodes["a"]
	n.Parent, n.Position = "in", scene.Vec{0, 2, 0}
	doc.Nodes["a"] = n
	doc.Kits["k"] = scene.Kit{Name: "Primes", Primes: []float64{18}, Shared: true}
	k := *doc.Nodes["a"].Camera
	k.Kit = "k"
	n.Camera = &k
	doc.Nodes["a"] = n
	from := open(doc, "x")

	loose, err := scene.Decode(take(t, from, clip.Selection{Nodes: []string{"on"}}, 0))
	require.NoError(t, err)
	assert.Equal(t, []string{"on"}, slices.Sorted(maps.Keys(loose.Nodes)))
	assert.Equal(t, scene.Vec{6, 1, 0}, loose.Nodes["on"].Position, "where it stood in the world")

	whole := take(t, from, clip.Selection{Nodes: []string{"group"}}, 0)
	to := other()
	paste(t, to, whole, 0)
	assert.Equal(t, scene.Vec{1, 0, 0}, to.Doc.Nodes[called(t, to.Doc, "In")].Position)
	assert.Equal(t, called(t, to.Doc, "In"), to.Doc.Nodes[called(t, to.Doc, "On")].Parent)
	camera := to.Doc.Nodes[called(t, to.Doc, "A 2")].Camera
	assert.Equal(t, scene.Kit{Name: "Primes", Primes: []float64{18}}, to.Doc.Kits[camera.Kit], "a kit of this scene's own")
	paste(t, to, whole, 0)
	assert.Len(t, to.Doc.Kits, 1, "what is the same is there once")

	// What carries a camera comes along, without what else it carries.
	mounted, err := scene.Decode(take(t, from, clip.Selection{Shots: []string{"s1"}}, 0))
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "group", "in"}, slices.Sorted(maps.Keys(mounted.Nodes)))

	_, err = from.Clip(clip.Selection{Nodes: []string{"gone"}}, 0)
	assert.ErrorContains(t, err, "nothing is selected")
	for _, bad := range []string{`{}`, `{"schema":"proscen.scene/9"}`, `[1]`} {
		_, err := to.Run("paste", scene.Canonical(m{"clip": json.RawMessage(bad), "assembly": to.Assembly()}))
		assert.ErrorContains(t, err, "cannot be pasted")
	}
}

func TestBoardsArePastedOntoAShotOrAsOne(t *testing.T) {
	doc := scenetest.Small()
	for i, at := range []int{0, 12, 30} {
		doc.Boards[fmt.Sprintf("b%d", i)] = scene.Board{Shot: "s1", Name: fmt.Sprintf("board %d", i), Blob: strings.Repeat("ab", 32), Width: 16, Height: 9, At: at}
	}
	from, to := open(doc, "x"), other()
	c := take(t, from, clip.Selection{Boards: []string{"b2", "b1"}}, 0)
	assert.Equal(t, "paste a shot from Small", paste(t, to, c, 100).Label)
	made := to.Doc.ShotsInOrder()[2]
	assert.Equal(t, scene.PlaysBoard, made.Plays)
	assert.Equal(t, 38, made.Screen().Count(), "12 to 48 at 24 are 37.5 at 25")
	held := func(shot string) (out []string) {
		for _, id := range to.Doc.BoardsOf(shot) {
			out = append(out, fmt.Sprintf("%s@%d", to.Doc.Boards[id].Name, to.Doc.Boards[id].At))
		}
		return out
	}
	assert.Equal(t, []string{"board 1@0", "board 2@19"}, held(made.ID))
	r, err := to.Run("paste", scene.Canonical(m{"clip": c, "onto": "t010", "from": 10}))
	require.NoError(t, err)
	assert.Equal(t, "paste 2 boards from Small", r.Label)
	assert.Equal(t, []string{"board 1@10", "board 2@29"}, held("t010"))
	_, err = to.Run("paste", scene.Canonical(m{"clip": c, "onto": "t010", "from": 90}))
	assert.ErrorContains(t, err, "too short")
}

func TestWhateverIsCopiedIsWholeAndIsTakenBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		doc := scenetest.Rich()
		some := func(name string, ids []string) []string {
			slices.Sort(ids)
			return rapid.SliceOfNDistinct(rapid.SampledFrom(ids), 0, len(ids), rapid.ID[string]).Draw(t, name)
		}
		sel := clip.Selection{
			Nodes: some("nodes", slices.Collect(maps.Keys(doc.Nodes))), Paths: some("paths", slices.Collect(maps.Keys(doc.Paths))),
			Shots: some("shots", slices.Collect(maps.Keys(doc.Shots))), Boards: some("boards", slices.Collect(maps.Keys(doc.Boards))),
		}
		if len(sel.Nodes)+len(sel.Paths)+len(sel.Shots)+len(sel.Boards) == 0 {
			t.Skip("nothing is selected")
		}
		from := open(doc, "x")
		c := take(t, from, sel, rapid.Float64Range(0, 300).Draw(t, "frame"))
		_, err := scene.Decode(c)
		require.NoError(t, err, "it is whole by itself")
		to := from
		if rapid.Bool().Draw(t, "elsewhere") {
			to = other()
		}
		before := string(to.Doc.Encode())
		r := paste(t, to, c, rapid.IntRange(0, 200).Draw(t, "at"))
		require.Empty(t, to.Doc.Validate())
		require.NoError(t, to.Apply(r.Patch.Inverse()))
		assert.Equal(t, before, string(to.Doc.Encode()))
	})
}

func BenchmarkCopyAndPaste500(b *testing.B) {
	doc := scenetest.Small()
	var ids []string
	for i := range 500 {
		id := fmt.Sprintf("n%03d", i)
		ids = append(ids, id)
		doc.Nodes[id] = scene.Node{Kind: scene.KindSet, Name: fmt.Sprintf("Box %d", i+2), Piece: &scene.Piece{Stock: "box"}}
	}
	from := open(doc, "x")
	for b.Loop() {
		c, err := from.Clip(clip.Selection{Nodes: ids}, 0)
		require.NoError(b, err)
		paste(b, other(), c.Encode(), 0)
	}
}

// TestShotsArePastedWithTheCamerasOfTheirFormats takes a shot that has another camera in
// one format.
func TestShotsArePastedWithTheCamerasOfTheirFormats(t *testing.T) {
	from, to := open(scenetest.Small(), "x"), other()
	_, err := from.Run("reframe", json.RawMessage(`{"id":"s1","format":"wide","camera":"b","scale":0.5}`))
	require.NoError(t, err)
	c := take(t, from, clip.Selection{Shots: []string{"s1"}}, 0)
	before := len(to.Doc.Shots)
	paste(t, to, c, 100)
	require.Len(t, to.Doc.Shots, before+1)
	for _, e := range to.Doc.ShotsInOrder() {
		if f, ok := e.Framed()["wide"]; ok {
			assert.Equal(t, called(t, to.Doc, "B"), f.Camera)
			assert.NotEqual(t, "b", f.Camera)
			assert.Equal(t, 0.5, f.Scale)
			assert.NotEqual(t, f.Camera, e.Camera)
			return
		}
	}
	t.Fatal("the pasted shot has lost its framing")
}
