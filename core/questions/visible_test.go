package questions

import (
	"testing"

	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func boxOf(at scene.Vec, width, height, depth float64) scene.Node {
	return scene.Node{Kind: scene.KindSet, Name: "Box", Position: at, Piece: &scene.Piece{Stock: "box", Params: map[string]float64{"width": width, "height": height, "depth": depth}}}
}

// looking is a scene with a camera at the origin, 1 m up, that looks along −Z, and some
// boxes, and what Visible says of them.
func looking(t *testing.T, boxes map[string]scene.Node) (s *Scene, visible func(node string) float64) {
	t.Helper()
	doc := scenetest.Small()
	delete(doc.Nodes, "box")
	b := doc.Nodes["b"]
	b.Camera.Aim, b.Camera.AimAt = scene.AimFree, ""
	doc.Nodes["b"] = b
	for id, n := range boxes {
		doc.Nodes[id] = n
	}
	a := doc.Nodes["a"]
	a.Position, a.Turn = scene.Vec{0, 1, 0}, scene.Vec{}
	doc.Nodes["a"] = a
	w := doc.Nodes["walker"]
	w.Position, w.Hidden = scene.Vec{0, 0, 50}, true
	doc.Nodes["walker"] = w
	require.Empty(t, doc.Validate())
	made := New(doc)
	c := &made.Evaluate(0).Cameras[made.CameraIndex("a")]
	return &made, func(node string) float64 {
		share, framed := made.Visible(c, node)
		require.True(t, framed, node)
		return share
	}
}

func TestVisibleIsTheShareThatOthersLeave(t *testing.T) {
	// A face of 2 m by 2 m stands 10 m away; 5 m away a board begins at the left of the
	// picture and ends where it hides a share of the face.
	for _, hidden := range []float64{0, 0.2, 0.25, 0.5, 0.8, 1} {
		edge := 5 * (-1 + 2*hidden) / 10
		const wide = 4
		boxes := map[string]scene.Node{
			"face":   boxOf(scene.Vec{0, 0, -10.05}, 2, 2, 0.1),
			"board":  boxOf(scene.Vec{edge - wide/2, 0, -5.05}, wide, 3, 0.1),
			"beyond": boxOf(scene.Vec{0, 0, -12}, 6, 6, 0.1),
		}
		s, visible := looking(t, boxes)
		assert.InDelta(t, 1-hidden, visible("face"), 0.03, "%v hidden", hidden)
		assert.InDelta(t, 1, visible("board"), 1e-9, "nothing is before it")
		want := Seen
		switch {
		case hidden == 1:
			want = Hidden
		case hidden > 0.5:
			want = Behind
		}
		if hidden != 0.5 {
			assert.Equal(t, byte(want), s.Ribbon("a", []string{"face"}, 0, 1, 1)[0]&^InFocus, "%v hidden", hidden)
		}
		for id, n := range boxes { // what only some shots see, or nobody, hides nothing
			if id == "board" {
				n.Shooting = &scene.Shooting{Only: []string{"s1"}}
				boxes[id] = n
			}
		}
		_, visible = looking(t, boxes)
		assert.InDelta(t, 1, visible("face"), 1e-9)
	}
}

func TestWhatHangsOnASubjectIsOfItAndWhatCarriesItHidesNothing(t *testing.T) {
	front := boxOf(scene.Vec{0, 0, 5}, 4, 4, 0.1)
	front.Parent = "face"
	_, visible := looking(t, map[string]scene.Node{"face": boxOf(scene.Vec{0, 0, -10}, 2, 2, 0.1), "front": front})
	assert.InDelta(t, 1, visible("face"), 1e-9, "with what hangs on it")
	inside := boxOf(scene.Vec{}, 1, 1, 1)
	inside.Parent = "cabin"
	s, visible := looking(t, map[string]scene.Node{"cabin": boxOf(scene.Vec{0, 0, -10}, 2, 2, 2), "inside": inside})
	assert.InDelta(t, 1, visible("inside"), 1e-9, "a cabin has windows that are not built")
	for _, id := range []string{"nobody", "a", "walker"} {
		_, framed := s.Visible(&s.State.Cameras[s.CameraIndex("a")], id)
		assert.False(t, framed, id)
	}
}

func TestWhatIsSeenThroughHidesNothing(t *testing.T) {
	s, visible := looking(t, map[string]scene.Node{"face": boxOf(scene.Vec{0, 0, -10}, 2, 2, 0.1), "pane": boxOf(scene.Vec{0, 0, -5}, 4, 4, 0.1)})
	told := func() byte { return s.Ribbon("a", []string{"face"}, 0, 1, 1)[0] &^ InFocus }
	assert.InDelta(t, 0, visible("face"), 1e-9)
	assert.Equal(t, byte(Hidden), told())
	assert.Equal(t, Hidden, s.Framing("a", []string{"face"}).Subjects[0].Status)
	for _, x := range s.Motion.Instances {
		if m := s.Motion.Meshes[x.Mesh].Mesh; s.Motion.Nodes[x.Node].ID == "pane" {
			s.Motion.Meshes[x.Mesh].Mesh = &kit.Mesh{Positions: m.Positions, Normals: m.Normals, Colors: m.Colors, Indices: m.Indices, Bounds: m.Bounds, Sheer: kit.Sheer{Blend: true, Through: 0.5}}
		}
	}
	assert.InDelta(t, 1, visible("face"), 1e-9)
	assert.Equal(t, byte(Seen), told())
	assert.Equal(t, Seen, s.Framing("a", []string{"face"}).Subjects[0].Status)
}

// BenchmarkRibbon looks at a walker behind a fence of boxes.
func BenchmarkRibbon(b *testing.B) {
	doc := scenetest.Small()
	for i := range 200 {
		doc.Nodes[string(rune('A'+i/26))+string(rune('a'+i%26))] = boxOf(scene.Vec{float64(i%20) - 10, 0, -3 - float64(i/20)}, 0.3, 1.5, 0.3)
	}
	s := New(doc)
	b.ReportAllocs()
	for b.Loop() {
		s.Ribbon("a", []string{"walker"}, 200, 1, 1)
	}
}
