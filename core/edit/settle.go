package edit

import (
	"fmt"
	"math"
	"slices"

	"proscen/core/curve"
	"proscen/core/scene"
)

type moveSettleArgs struct {
	ID  string   `json:"id"`
	In  *float64 `json:"in,omitempty"`  // seconds in which the move gets going, 0 for at once; nil leaves it
	Out *float64 `json:"out,omitempty"` // seconds in which it comes to rest
}

// moveSettle makes a whole move as soft as is asked for, in all that moves alike: so many
// seconds long are the flat levers of the first keys and of the last ones. A lever is no
// longer than the way to the next key.
func moveSettle(d *Draft, a moveSettleArgs) (string, error) {
	n := d.Doc.Nodes[a.ID]
	rate := d.Doc.Settings.Rate.PerSecond()
	for _, s := range []*float64{a.In, a.Out} {
		if s != nil && !(*s >= 0 && *s <= 3600) {
			return "", fmt.Errorf("a move gets going and comes to rest in 0 to 3600 seconds, not %g", *s)
		}
	}
	moves := false
	for _, id := range d.Doc.CurvesOf(a.ID) {
		c := d.Doc.Curves[id]
		last := len(c.Keys) - 1
		if last < 1 {
			continue
		}
		moves = true
		c.Keys = slices.Clone(c.Keys)
		soften(&c.Keys[0], a.In, rate, func(k *curve.Key) **curve.Handle { return &k.Out })
		soften(&c.Keys[last], a.Out, rate, func(k *curve.Key) **curve.Handle { return &k.In })
		d.SetCurve(id, c)
	}
	if !moves {
		return "", fmt.Errorf("%s does not move: it has no two keys of anything", n.Name)
	}
	return "soften the move of " + n.Name, nil
}

func soften(k *curve.Key, seconds *float64, rate float64, lever func(k *curve.Key) **curve.Handle) {
	switch {
	case seconds == nil:
		return
	case *seconds == 0:
		k.Ease, k.In, k.Out = curve.Even, nil, nil
	default:
		k.Ease = curve.Shaped
		*lever(k) = &curve.Handle{Frames: math.Round(*seconds*rate*1000) / 1000}
	}
}

// Settles returns in how many seconds a node's move gets going and comes to rest: the longest
// levers of its first and last keys.
func Settles(doc *scene.Document, node string) (in, out float64) {
	rate := doc.Settings.Rate.PerSecond()
	lever := func(k curve.Key, h *curve.Handle, way float64) float64 {
		switch {
		case k.Ease == curve.Even:
			return 0
		case k.Ease == curve.Shaped && h != nil:
			return min(h.Frames, way) / rate
		}
		return way / 3 / rate // of a soft key; see curve.Channel
	}
	for _, id := range doc.CurvesOf(node) {
		k := doc.Curves[id].Keys
		last := len(k) - 1
		if last < 1 {
			continue
		}
		in = max(in, lever(k[0], k[0].Out, k[1].Frame-k[0].Frame))
		out = max(out, lever(k[last], k[last].In, k[last].Frame-k[last-1].Frame))
	}
	return in, out
}
