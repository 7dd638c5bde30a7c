package patch

import (
	"sync"

	"proscen/core/scene"
)

// touchedShots remembers the shots that an operation touches. A drag may move
// thousands of them in every frame, so they are kept as they are and not as
// entities of any kind, in memory that is used again.
type touchedShots struct {
	list  []scene.ShotChange
	index map[string]int // their places in the list
}

var touchedMemory = sync.Pool{New: func() any { return &touchedShots{index: map[string]int{}} }}

// touchShot returns what is known of a shot's change; it holds until the next one
// is touched.
func (d *Draft) touchShot(id string) *scene.ShotChange {
	if d.shots == nil {
		d.shots = touchedMemory.Get().(*touchedShots)
	}
	t := d.shots
	i, ok := t.index[id]
	if !ok {
		i = len(t.list)
		t.index[id] = i
		c := scene.ShotChange{ID: id}
		c.Before, c.Was = d.Doc.Shots[id]
		t.list = append(t.list, c)
	}
	return &t.list[i]
}

// settle notes what has become of a touched entity, if it is a shot.
func (d *Draft) settle(collection, id string) {
	if collection == shotsName {
		c := d.touchShot(id)
		c.After, c.Is = d.Doc.Shots[id]
	}
}

// Release gives memory back; the draft is not used any more.
func (d *Draft) Release() {
	if t := d.shots; t != nil {
		d.shots = nil
		t.list = t.list[:0]
		clear(t.index)
		touchedMemory.Put(t)
	}
}
