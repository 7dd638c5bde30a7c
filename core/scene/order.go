package scene

import (
	"cmp"
	"slices"
	"strings"
	"sync"
)

// shotOrder remembers the order in which shots were found last: it hardly
// changes from one edit to the next, and what is nearly in order is soon sorted.
type shotOrder struct {
	sync.Mutex
	list    []ShotPlace
	version int // counts the changes of ids, order and lanes
}

// ShotPlace is where a shot lies.
type ShotPlace struct {
	ID, Lane string
	In, Out  int
}

// OrderOfShots returns a number that changes whenever shots come, go, or change
// their order or their lane.
func (d *Document) OrderOfShots() int {
	d.ShotsInOrder()
	d.order.Lock()
	defer d.order.Unlock()
	return d.order.version
}

// ShotsInOrder lists all shots in order of their first frames and ids. The caller
// does not change the list.
func (d *Document) ShotsInOrder() []ShotPlace {
	known := d.order
	known.Lock()
	defer known.Unlock()
	was := known.list
	out := make([]ShotPlace, 0, len(d.Shots))
	add := func(id string, s *Shot) { out = append(out, ShotPlace{id, s.Lane, s.ScreenIn, s.ScreenOut}) }
	for i := range was {
		if s, ok := d.Shots[was[i].ID]; ok {
			add(was[i].ID, &s)
		}
	}
	if len(out) != len(d.Shots) { // some are new
		out = out[:0]
		for id, s := range d.Shots {
			add(id, &s)
		}
	}
	slices.SortFunc(out, func(a, b ShotPlace) int { return cmp.Or(a.In-b.In, strings.Compare(a.ID, b.ID)) })
	if !slices.EqualFunc(was, out, func(a, b ShotPlace) bool { return a.ID == b.ID && a.Lane == b.Lane }) {
		known.version++
	}
	known.list = out
	return out
}
