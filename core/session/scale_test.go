package session

import (
	"encoding/json"
	"fmt"
	"testing"

	"proscen/core/curve"
	"proscen/core/geom"
	"proscen/core/scene"
	"proscen/core/scenetest"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/spatial/r3"
)

// crowded is a set of 500 pieces of eight kinds, some of which share a shape,
// with 30 people: ten walk, ten talk, ten watch somebody who walks.
func crowded() *Session {
	d := scenetest.Small()
	kinds := []string{"crate", "conifer", "rock", "fence", "chair", "barrel", "bush", "windowWall"}
	for i := range 500 {
		at := scene.Vec{float64(i%25)*3 - 36, 0, float64(i/25)*3 - 60}
		params := map[string]float64{}
		if kinds[i%8] == "rock" {
			params["seed"] = float64(i % 5)
		}
		d.Nodes[fmt.Sprintf("piece-%03d", i)] = scene.Node{Kind: scene.KindSet, Name: "Piece", Position: at, Turn: scene.Vec{float64(i * 17)}, Piece: &scene.Piece{Stock: kinds[i%8], Params: params}}
	}
	for i := range 30 {
		id := fmt.Sprintf("person-%02d", i)
		d.Nodes[id] = scene.Node{Kind: scene.KindCast, Name: id, Position: scene.Vec{float64(i) * 2, 0, 10}, Cast: &scene.Cast{Height: 1.7, Coat: "#804040", Legs: "#404080"}}
		a := scene.Action{Cast: id, In: 0, Out: 240}
		switch i % 3 {
		case 0:
			way := fmt.Sprintf("way-%02d", i)
			d.Paths[way] = scene.Path{Name: way, Form: curve.Smooth, Points: []scene.Vec{{float64(i) * 2, 0, 10}, {float64(i)*2 + 3, 0, 16}, {float64(i) * 2, 0, 22}}}
			a.Do, a.Path = scene.Walk, way
		case 1:
			a.Do = scene.Talk
		case 2:
			a.Do, a.Face = scene.Stand, fmt.Sprintf("person-%02d", i-2)
		}
		d.Actions["act-"+id] = a
	}
	return Open(d, counter())
}

func TestACrowdedSceneSharesShapesAndAllocatesNothing(t *testing.T) {
	s := crowded()
	assert.Empty(t, s.Doc.Validate())
	shapes := map[int]int{}
	for _, in := range s.Motion.Instances {
		shapes[in.Mesh]++
	}
	assert.Greater(t, len(s.Motion.Instances), 900)
	assert.Less(t, len(shapes), 54, "equal pieces and parts are one shape, drawn at once")
	f := 0.0
	assert.Zero(t, testing.AllocsPerRun(20, func() {
		f += 7.1
		s.Evaluate(f)
	}))
}

func BenchmarkCrowdedEvaluate(b *testing.B) {
	s := crowded()
	s.Evaluate(0)
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		s.Evaluate(float64(i % 240))
	}
}

func BenchmarkCrowdedDragPreview(b *testing.B) {
	s := crowded()
	s.Evaluate(0)
	for i := 0; b.Loop(); i++ {
		by, _ := s.Snap([]string{"piece-250"}, r3.Vec{X: float64(i%100) / 50, Z: 0.3}, 0.1, 0.1)
		args, _ := json.Marshal(m{"ids": []string{"piece-250"}, "by": scene.FromR3(by)})
		if err := s.Preview("move", args); err != nil {
			b.Fatal(err)
		}
		s.Evaluate(0)
	}
}

func BenchmarkCrowdedPlacePreview(b *testing.B) {
	s := crowded()
	for i := 0; b.Loop(); i++ {
		args, _ := json.Marshal(m{"kind": "set", "stock": "rock", "name": "Rock", "position": []float64{float64(i % 50), 0, 30}})
		if err := s.Preview("stockPlace", args); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkCrowdedPick(b *testing.B) {
	s := crowded()
	s.Evaluate(120)
	for i := 0; b.Loop(); i++ {
		s.Strike(geom.Ray{From: r3.Vec{X: float64(i%70) - 35, Y: 40, Z: float64(i%55) - 58}, Dir: r3.Vec{X: 0.1, Y: -1, Z: 0.05}}, nil)
	}
}

// longCut is a cut of 2,000 shots of 100 frames.
func longCut() *Session {
	d := scenetest.Small()
	first := d.Shots["s1"]
	d.Shots = map[string]scene.Shot{}
	for i := range 2000 {
		s := first
		s.Number, s.ScreenIn, s.ScreenOut = fmt.Sprintf("%04d", i), i*100, i*100+100
		d.Shots[fmt.Sprintf("shot-%04d", i)] = s
	}
	return Open(d, counter())
}

// benchmarkTrim measures what a frame of a drag asks: the preview, the order and
// the cut.
func benchmarkTrim(b *testing.B, ripple bool) {
	s := longCut()
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		args, _ := json.Marshal(m{"id": "shot-1000", "edge": "out", "by": -1 - i%50, "ripple": ripple})
		if err := s.Preview("shotTrim", args); err != nil {
			b.Fatal(err)
		}
		s.Order()
		s.Program().Length()
	}
}

func BenchmarkTrimPreviewIn2000Shots(b *testing.B)   { benchmarkTrim(b, false) }
func BenchmarkRipplePreviewIn2000Shots(b *testing.B) { benchmarkTrim(b, true) }

// BenchmarkHalfOf2000Shots measures operations on a thousand shots at once, as
// they are previewed.
func BenchmarkHalfOf2000Shots(b *testing.B) {
	var ids []string
	for i := 0; i < 2000; i += 2 {
		ids = append(ids, fmt.Sprintf("shot-%04d", i))
	}
	for _, op := range []struct {
		what, name string
		args       m
	}{
		{"Extract", "shotRemove", m{"ids": ids, "close": true}},
		{"Speed", "shotSpeed", m{"ids": ids, "speed": 2, "story": true}},
		{"Duplicate", "shotDuplicate", m{"ids": ids}},
		{"Refuse", "shotMove", m{"ids": ids, "by": 50}},
		{"Overwrite", "shotMove", m{"ids": ids, "by": 50, "how": "overwrite"}},
		{"Reorder", "shotMove", m{"ids": ids, "by": 350, "how": "reorder"}},
	} {
		b.Run(op.what, func(b *testing.B) {
			s := longCut()
			args, _ := json.Marshal(op.args)
			for b.Loop() {
				if err := s.Preview(op.name, args); err != nil && op.what != "Refuse" {
					b.Fatal(err)
				}
			}
		})
	}
}
