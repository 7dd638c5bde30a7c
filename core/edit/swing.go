package edit

import (
	"fmt"
	"maps"

	"proscen/core/curve"
	"proscen/core/kit"
	"proscen/core/scene"
)

// writeSwing opens a door or lid so far; see write.
func writeSwing(d *Draft, node string, n scene.Node, frame, v float64, key bool) error {
	if !opens(n) {
		return fmt.Errorf("%s has no door or lid that opens", n.Name)
	}
	id, c := d.Doc.CurveOf(node, scene.Swing)
	still, _ := kit.Opened(n.Piece.Stock, n.Piece.Params)
	switch {
	case key:
		if id == "" {
			v = keepOpening(d, node, scene.Swing, frame, still, v)
		}
		putKey(d, node, scene.Swing, frame, v, "")
	case id != "":
		compiled := curve.NewChannel(c.Keys)
		shiftKeys(d, id, c, v-compiled.At(frame))
	default:
		p := *n.Piece
		p.Params = maps.Clone(p.Params)
		if p.Params == nil {
			p.Params = map[string]float64{}
		}
		p.Params[kit.Opens[p.Stock].Param] = v
		n.Piece = &p
		d.SetNode(node, n)
	}
	return nil
}

// opens tells whether a node has something that opens.
func opens(n scene.Node) bool {
	if n.Piece == nil {
		return false
	}
	_, can := kit.Opens[n.Piece.Stock]
	return can
}
