package interchange

import (
	"fmt"
	"math"
	"strings"

	"proscen/core/scene"
)

// Timelines nest tracks and stacks in each other; a lane is flat. What a nested list shows is
// laid out where it plays: of a track one item after the other, of a stack at each moment the
// uppermost layer that has something there.

// otioPiece is a stretch of a clip where it is seen, in frames of what is laid out.
type otioPiece struct {
	from, to float64
	clip     *otioObject
	start    float64     // of the clip, in its source
	at       float64     // where that is
	pace     float64     // how fast the lists around it run, as a factor
	join     *otioObject // the transition into it
	after    *otioObject // the clip from which that comes
}

// otioPlace is where a list's time lies in what is laid out, and what of it is seen.
type otioPlace struct {
	zero, pace float64 // frame v of the list lies at zero + v/pace
	lo, hi     float64 // nothing is seen outside
	depth      int
}

// deepest is how far lists may be nested.
const deepest = 64

// place lays out an item whose first frame lies at a frame of a list; frames is how much of the
// list's time it takes, and ok is false for what has no length.
func (r *otioReader) place(c *otioObject, at float64, p otioPlace) (pieces []otioPiece, frames float64, ok bool, err error) {
	if err := r.count(); err != nil {
		return nil, 0, false, err
	}
	if p.depth > deepest {
		return nil, 0, false, fmt.Errorf("%w as OpenTimelineIO: its lists are nested more than %d deep", ErrCut, deepest)
	}
	kind, _, _ := strings.Cut(c.Schema, ".")
	start, frames, ok := r.extent(c)
	in := p
	in.depth++
	in.zero += (at - start) / p.pace
	if ok { // a range says what of it is seen
		in.lo, in.hi = max(p.lo, p.zero+at/p.pace), min(p.hi, p.zero+(at+frames)/p.pace)
	}
	switched := c.Enabled != nil && !*c.Enabled
	switch kind {
	case "Track", "Stack":
		if !ok && len(c.Children) == 0 {
			return nil, 0, false, nil
		}
		in = r.paced(c, in, start, p.zero+at/p.pace)
		var length float64
		if kind == "Track" {
			pieces, length, err = r.sequence(c.Children, in)
		} else {
			pieces, length, err = r.layers(c.Children, in)
		}
		if err != nil {
			return nil, 0, false, err
		}
		if !ok {
			frames = length
		}
		if switched {
			r.notes.add("“%s” is switched off; a gap stands in its place.", clip(c.Name))
			pieces = nil
		}
	case "Clip":
		if switched {
			r.notes.add("“%s” is switched off; a gap stands in its place.", clip(c.Name))
		} else if ok && in.hi > in.lo {
			pieces = []otioPiece{{from: in.lo, to: in.hi, clip: c, start: start, at: p.zero + at/p.pace, pace: p.pace}}
		}
	case "Gap":
	default:
		r.notes.add("A nested %s, “%s”, was left out; a gap stands in its place.", clip(kind), clip(c.Name))
	}
	list := kind == "Track" || kind == "Stack"
	for _, m := range r.markers(c.Markers) { // they count from the beginning of the source
		if v := in.zero + float64(m.Frame)/in.pace; (ok || list) && v >= in.lo && v <= in.hi {
			m.Frame = frameAt(v)
			m.Frames = int(math.Round(float64(m.Frames) / in.pace))
			r.marks = append(r.marks, m)
		}
	}
	return pieces, frames, ok || list, nil
}

// paced returns the place of what a nested list holds, when the list runs faster or slower as
// a whole: its frame start stays where it is.
func (r *otioReader) paced(c *otioObject, in otioPlace, start, at float64) otioPlace {
	for _, f := range c.Effects {
		if f == nil {
			continue
		}
		v := f.TimeScalar
		if !strings.HasPrefix(f.Schema, "LinearTimeWarp.") || v == nil || !(*v >= 0.01 && *v <= 100) {
			r.notes.add("An effect on “%s” as a whole, %s, was left out.", clip(c.Name), clip(f.Schema))
			continue
		}
		in.pace *= *v
	}
	in.zero = at - start/in.pace
	return in
}

// sequence lays out one item after the other.
func (r *otioReader) sequence(list []*otioObject, p otioPlace) (out []otioPiece, at float64, err error) {
	var join *otioObject
	for _, c := range list {
		if c == nil {
			continue
		}
		if strings.HasPrefix(c.Schema, "Transition.") {
			if err := r.count(); err != nil {
				return nil, 0, err
			}
			join = c
			continue
		}
		pieces, frames, ok, err := r.place(c, at, p)
		if err != nil {
			return nil, 0, err
		}
		if !ok {
			r.lengthless(c)
			continue
		}
		if join != nil && len(pieces) > 0 && len(out) > 0 && pieces[0].from == out[len(out)-1].to {
			pieces[0].join, pieces[0].after = join, out[len(out)-1].clip
		}
		join = nil
		out = append(out, pieces...)
		at += frames
		if p.zero+at/p.pace > scene.MaxFrame {
			return nil, 0, fmt.Errorf("%w as OpenTimelineIO: it is longer than %d frames", ErrCut, scene.MaxFrame)
		}
	}
	return out, at, nil
}

func (r *otioReader) lengthless(c *otioObject) {
	r.notes.add("“%s” has no length and was left out.", clip(c.Name))
}

// layers lays out a stack: the last one lies on top.
func (r *otioReader) layers(list []*otioObject, p otioPlace) (out []otioPiece, frames float64, err error) {
	if len(list) > 1 { // by halves, so that many layers are not looked through for each one
		below, a, err := r.layers(list[:len(list)/2], p)
		if err != nil {
			return nil, 0, err
		}
		above, b, err := r.layers(list[len(list)/2:], p)
		return laidOver(below, above), max(a, b), err
	}
	for _, c := range list {
		switch {
		case c == nil:
		case c.Kind == "Audio":
			r.notes.add("Sound in nested lists was left out.")
		default:
			var ok bool
			if out, frames, ok, err = r.place(c, 0, p); !ok && err == nil {
				r.lengthless(c)
			}
		}
	}
	return out, frames, err
}

// laidOver returns what is seen of pieces under others; both are in order, and so is the result.
func laidOver(below, above []otioPiece) []otioPiece {
	if len(above) == 0 {
		return below
	}
	out := make([]otioPiece, 0, len(below)+len(above))
	k := 0
	for _, b := range below {
		for ; k < len(above) && above[k].to <= b.from; k++ {
			out = append(out, above[k])
		}
		for ; k < len(above) && above[k].from < b.to; k++ {
			a := above[k]
			if a.from > b.from {
				seen := b
				seen.to = a.from
				out = append(out, seen)
			}
			b.from, b.join = a.to, nil
			if a.to > b.to {
				break // it covers the next ones, too
			}
			out = append(out, a)
		}
		if b.from < b.to {
			out = append(out, b)
		}
	}
	return append(out, above[k:]...)
}

// extent returns where an item begins in its source, and how long it is, if that is said.
func (r *otioReader) extent(c *otioObject) (start, frames float64, ok bool) {
	span := c.SourceRange
	if span == nil {
		for _, ref := range []*otioObject{c.MediaReference, c.MediaReferences[c.ActiveReference]} {
			if ref != nil && ref.AvailableRange != nil {
				span = ref.AvailableRange
			}
		}
	}
	if span == nil {
		return 0, 0, false
	}
	start, ok1 := r.frames(span.Start)
	frames, ok2 := r.frames(span.Duration)
	return start, frames, ok1 && ok2 && frames >= 0
}
