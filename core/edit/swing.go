package edit

import (
	"fmt"
	"maps"

	"proscen/core/curve"
	"proscen/core/kit"
	"proscen/core/scene"
)

// writeSwing opens a door by so many degrees; see write.
func writeSwing(d *Draft, node string, n scene.Node, frame, v float64, key bool) error {
	if n.Piece == nil || kit.Opens[n.Piece.Stock] == "" {
		return fmt.Errorf("%s has no door that opens", n.Name)
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
		p.Params[kit.Opens[p.Stock]] = v
		n.Piece = &p
		d.SetNode(node, n)
	}
	return nil
}
