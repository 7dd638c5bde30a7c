package scene

import (
	"slices"
	"strings"
	"sync"
)

// shotOrder remembers the shots in order. Storing a shot changes its place in the
// list at once; whether the list is still in order is looked at when it is asked
// for: in every frame of a drag few shots change, and they hardly change the order.
type shotOrder struct {
	sync.Mutex
	list    []ShotEntry
	index   map[string]int // where shots are in the list
	stored  []int          // places in the list at which shots were stored since
	next    int            // the place after the one at which a shot was stored last
	known   bool           // whether the list has all shots, in their lanes
	version int            // counts the changes of ids, order and lanes
}

// ShotEntry is a shot with its id.
type ShotEntry struct {
	ID string
	Shot
}

// PutShot stores a shot. Whoever writes to Shots without it calls ForgetOrder, or
// Validate, which does.
func (d *Document) PutShot(id string, s Shot) {
	d.Shots[id] = s
	d.order.put(id, &s)
}

// shotStored takes over a shot that was stored or deleted.
func (d *Document) shotStored(id string) {
	if s, ok := d.Shots[id]; ok {
		d.order.put(id, &s)
	} else {
		d.ForgetOrder()
	}
}

func (o *shotOrder) put(id string, s *Shot) {
	o.Lock()
	defer o.Unlock()
	if !o.known {
		return
	}
	i, ok := o.next, true // many are stored one after the other
	if i >= len(o.list) || o.list[i].ID != id {
		i, ok = o.index[id]
	}
	if !ok || o.list[i].Lane != s.Lane || len(o.stored) > 4*len(o.list) {
		o.known = false
		return
	}
	o.next = i + 1
	o.list[i].Shot = *s
	o.stored = append(o.stored, i)
}

// ForgetOrder lets the order of shots be found anew.
func (d *Document) ForgetOrder() {
	d.order.Lock()
	d.order.known = false
	d.order.Unlock()
}

// OrderOfShots returns a number that changes whenever shots come, go, or change
// their order or their lane.
func (d *Document) OrderOfShots() int {
	d.ShotsInOrder()
	d.order.Lock()
	defer d.order.Unlock()
	return d.order.version
}

// ShotsInOrder lists all shots in order of their first frames and ids. The list
// holds until shots change, and the caller does not change it.
func (d *Document) ShotsInOrder() []ShotEntry {
	o := d.order
	o.Lock()
	defer o.Unlock()
	if !o.known || len(o.list) != len(d.Shots) || !o.ordered() {
		o.find(d.Shots)
	}
	o.stored = o.stored[:0]
	return o.list
}

func byPlace(a, b *ShotEntry) int {
	if a.ScreenIn != b.ScreenIn {
		return a.ScreenIn - b.ScreenIn
	}
	return strings.Compare(a.ID, b.ID)
}

// ordered reports whether the shots that were stored are still in order.
func (o *shotOrder) ordered() bool {
	for _, i := range o.stored {
		if i > 0 && byPlace(&o.list[i-1], &o.list[i]) > 0 || i+1 < len(o.list) && byPlace(&o.list[i], &o.list[i+1]) > 0 {
			return false
		}
	}
	return true
}

// find lists the shots anew, beginning with the order they had: what is nearly
// in order is soon sorted.
func (o *shotOrder) find(shots map[string]Shot) {
	was := o.list
	list := make([]ShotEntry, 0, len(shots))
	for i := range was {
		if s, ok := shots[was[i].ID]; ok {
			list = append(list, ShotEntry{was[i].ID, s})
		}
	}
	if len(list) != len(shots) { // some are new
		list = list[:0]
		for id, s := range shots {
			list = append(list, ShotEntry{id, s})
		}
	}
	slices.SortFunc(list, func(a, b ShotEntry) int { return byPlace(&a, &b) })
	o.list, o.known = list, true
	if same := func(a, b ShotEntry) bool { return a.ID == b.ID && a.Lane == b.Lane }; o.index != nil && slices.EqualFunc(was, list, same) {
		return
	}
	o.version++
	o.index = make(map[string]int, len(list))
	for i := range list {
		o.index[list[i].ID] = i
	}
}
