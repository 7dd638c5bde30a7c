package scene

import (
	"slices"
	"sync"
)

// curveOwners remembers the curves of each node. Storing a curve keeps it true;
// whoever writes to Curves without that is noticed when they are asked for, if the
// number of curves or an owner is another one, and Validate looks anew.
type curveOwners struct {
	sync.Mutex
	known bool
	of    map[string][]string // ids by node, in order
	owner map[string]string   // nodes by id
}

// CurvesOf lists the ids of a node's curves in order. The list holds until curves
// change, and the caller does not change it.
func (d *Document) CurvesOf(node string) []string {
	o := d.owners
	o.Lock()
	defer o.Unlock()
	if !o.known || len(o.owner) != len(d.Curves) || slices.ContainsFunc(o.of[node], func(id string) bool { return d.Curves[id].Node != node }) {
		o.find(d.Curves)
	}
	return o.of[node]
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
	d.owners.put(id, c.Node)
}

// curveStored takes over a curve that was stored or deleted.
func (d *Document) curveStored(id string) {
	if c, ok := d.Curves[id]; ok {
		d.owners.put(id, c.Node)
	} else {
		d.owners.remove(id)
	}
}

func (d *Document) forgetOwners() {
	d.owners.Lock()
	d.owners.known = false
	d.owners.Unlock()
}

func (o *curveOwners) find(curves map[string]Curve) {
	o.of, o.owner, o.known = map[string][]string{}, make(map[string]string, len(curves)), true
	for id, c := range curves {
		o.owner[id] = c.Node
		o.of[c.Node] = append(o.of[c.Node], id)
	}
	for _, ids := range o.of {
		slices.Sort(ids)
	}
}

func (o *curveOwners) put(id, node string) {
	o.Lock()
	defer o.Unlock()
	if was, ok := o.owner[id]; !o.known || ok && was == node {
		return
	}
	o.drop(id)
	list := slices.Clone(o.of[node]) // somebody may be going through it
	at, _ := slices.BinarySearch(list, id)
	o.of[node] = slices.Insert(list, at, id)
	o.owner[id] = node
}

func (o *curveOwners) remove(id string) {
	o.Lock()
	defer o.Unlock()
	if o.known {
		o.drop(id)
	}
}

func (o *curveOwners) drop(id string) {
	node, ok := o.owner[id]
	if !ok {
		return
	}
	delete(o.owner, id)
	left := slices.DeleteFunc(slices.Clone(o.of[node]), func(x string) bool { return x == id })
	if len(left) == 0 {
		delete(o.of, node)
	} else {
		o.of[node] = left
	}
}
