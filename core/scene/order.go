package scene

import (
	"slices"
	"strings"
	"sync"
)

// shotOrder remembers the order in which shots were found last, and which shots
// have been stored since: in every frame of a drag there are few of them, and
// they hardly change the order.
type shotOrder struct {
	sync.Mutex
	list    []ShotEntry
	index   map[string]int // where shots are in the list
	stored  []string       // ids of shots that were stored or deleted since
	changed []int          // memory for where they are in the list
	known   bool
	version int // counts the changes of ids, order and lanes
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
	d.shotStored(id)
}

func (d *Document) shotStored(id string) {
	d.order.Lock()
	if d.order.known {
		d.order.stored = append(d.order.stored, id)
	}
	d.order.Unlock()
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
	if !o.known || len(o.list) != len(d.Shots) || !o.update(d.Shots) {
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

// update takes over the shots that were stored and reports whether the order is
// still the same.
func (o *shotOrder) update(shots map[string]Shot) bool {
	changed := o.changed[:0]
	for _, id := range o.stored {
		i, known := o.index[id]
		s, there := shots[id]
		if !known || !there || s.Lane != o.list[i].Lane {
			return false
		}
		o.list[i].Shot = s
		changed = append(changed, i)
	}
	o.changed = changed
	for _, i := range changed {
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
