package raster

import (
	"runtime"
	"sync/atomic"
	"time"
)

// portion is a run of items that nobody has taken yet: where it begins in the upper half, and
// where it ends in the lower.
type portion struct {
	left atomic.Uint64
	_    [56]byte // no other portion is on its line of the cache
}

func (s *portion) set(from, to int) { s.left.Store(uint64(from)<<32 | uint64(to)) }

// take takes the first item, or the last.
func (s *portion) take(last bool) (item int, ok bool) {
	for {
		left := s.left.Load()
		from, to := left>>32, left&(1<<32-1)
		if from >= to {
			return 0, false
		}
		if last {
			to--
			item = int(to)
		} else {
			item = int(from)
			from++
		}
		if s.left.CompareAndSwap(left, from<<32|to) {
			return item, true
		}
	}
}

// crew are the threads that render a frame. Between what they do together they wait awake,
// since waking them would take as long as that lasts; who is not awake yet is not waited for.
// Where that takes longer, as when a thread has to wait for its processor, they doze, so that
// they are not in the way of what they wait for.
type crew struct {
	portions []portion
	work     func(worker, item int)
	open     atomic.Bool  // there is work
	inside   atomic.Int32 // how many are at it, but for the first
	over     atomic.Bool
}

func newCrew(threads int) *crew {
	c := &crew{portions: make([]portion, threads)}
	for w := 1; w < threads; w++ {
		go c.follow(w)
	}
	return c
}

// follow works until the frame is over.
func (c *crew) follow(w int) {
	for idle := 0; !c.over.Load(); idle++ {
		if c.open.Load() {
			c.inside.Add(1)
			if c.open.Load() && c.run(w) { // the work may just have been closed
				idle = 0
			}
			c.inside.Add(-1)
		}
		wait(idle)
	}
}

// wait lets other threads go on, and sleeps where it has been asked often.
func wait(times int) {
	const awake = 5000 // times, longer than what one thread does alone between two things
	if times < awake {
		runtime.Gosched()
	} else {
		time.Sleep(50 * time.Microsecond)
	}
}

// run does items until none is left, and tells whether there were any. A worker has items
// that follow each other, as what is close in the picture shows the same things; one that has
// none left takes the last of another.
func (c *crew) run(w int) (some bool) {
	n := len(c.portions)
	for k := range n {
		for p := &c.portions[(w+k)%n]; ; {
			item, ok := p.take(k > 0)
			if !ok {
				break
			}
			c.work(w, item)
			some = true
		}
	}
	return some
}

// parallel runs work(worker, item) for all items, each once.
func (r *Renderer) parallel(items int, work func(worker, item int)) {
	c := r.crew
	n := len(c.portions)
	for w := range n {
		c.portions[w].set(items*w/n, items*(w+1)/n)
	}
	c.work = work
	c.open.Store(true)
	c.run(0)
	c.open.Store(false)
	for times := 0; c.inside.Load() > 0; times++ {
		wait(times)
	}
}
