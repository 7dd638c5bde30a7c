package scene

import (
	"slices"
	"sync"
)

// owners remember which entities of a collection belong to whom: the curves of each
// node, the boards of each shot. Storing an entity keeps that true; whoever writes to
// the collection without it is noticed when they are asked for, if the number of
// entities or an owner is another one, and Validate looks anew.
type owners struct {
	sync.Mutex
	known bool
	of    map[string][]string // ids by owner, in order
	owner map[string]string   // owners by id
}

// owned lists the ids of what somebody has, in order. The list holds until the
// collection changes, and the caller does not change it.
func owned[T any](o *owners, entities map[string]T, who string, ownerOf func(T) string) []string {
	o.Lock()
	defer o.Unlock()
	if !o.known || len(o.owner) != len(entities) || slices.ContainsFunc(o.of[who], func(id string) bool { return ownerOf(entities[id]) != who }) {
		o.of, o.owner, o.known = map[string][]string{}, make(map[string]string, len(entities)), true
		for id, e := range entities {
			o.owner[id] = ownerOf(e)
			o.of[o.owner[id]] = append(o.of[o.owner[id]], id)
		}
		for _, ids := range o.of {
			slices.Sort(ids)
		}
	}
	return o.of[who]
}

// stored takes over an entity that was stored, or deleted when it is not there.
func (o *owners) stored(id, owner string, there bool) {
	o.Lock()
	defer o.Unlock()
	was, had := o.owner[id]
	if !o.known || had && there && was == owner {
		return
	}
	if had {
		delete(o.owner, id)
		// Somebody may be going through the list: it is replaced, not changed.
		left := slices.DeleteFunc(slices.Clone(o.of[was]), func(x string) bool { return x == id })
		if o.of[was] = left; len(left) == 0 {
			delete(o.of, was)
		}
	}
	if there {
		list := slices.Clone(o.of[owner])
		at, _ := slices.BinarySearch(list, id)
		o.of[owner] = slices.Insert(list, at, id)
		o.owner[id] = owner
	}
}

func (o *owners) forget() {
	o.Lock()
	o.known = false
	o.Unlock()
}

// CurvesOf lists the ids of a node's curves in order. The list holds until curves
// change, and the caller does not change it.
func (d *Document) CurvesOf(node string) []string {
	return owned(d.curvesOf, d.Curves, node, func(c Curve) string { return c.Node })
}

// CurveOf returns the id and value of a node's curve on a channel, or an empty id.
func (d *Document) CurveOf(node string, ch Channel) (string, Curve) {
	for _, id := range d.CurvesOf(node) {
		if c := d.Curves[id]; c.Channel == ch {
			return id, c
		}
	}
	return "", Curve{Node: node, Channel: ch}
}

// PutCurve stores a curve.
func (d *Document) PutCurve(id string, c Curve) {
	d.Curves[id] = c
	d.curvesOf.stored(id, c.Node, true)
}

func (d *Document) curveStored(id string) {
	c, ok := d.Curves[id]
	d.curvesOf.stored(id, c.Node, ok)
}

// BoardsOf lists the ids of a shot's boards in the order in which they are held.
func (d *Document) BoardsOf(shot string) []string {
	out := slices.Clone(owned(d.boardsOf, d.Boards, shot, func(b Board) string { return b.Shot }))
	d.SortBoards(out)
	return out
}

// PutBoard stores a board.
func (d *Document) PutBoard(id string, b Board) {
	d.Boards[id] = b
	d.boardsOf.stored(id, b.Shot, true)
}

func (d *Document) boardStored(id string) {
	b, ok := d.Boards[id]
	d.boardsOf.stored(id, b.Shot, ok)
}
