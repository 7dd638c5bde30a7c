package raster

import (
	"sync"
	"sync/atomic"
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

// parallel runs work(worker, item) for all items, each once. A worker has items that follow
// each other, as what is close in the picture shows the same things; one that has none left
// takes the last of another.
func (r *Renderer) parallel(items int, work func(worker, item int)) {
	workers := min(r.threads, items)
	if workers < 2 {
		for i := range items {
			work(0, i)
		}
		return
	}
	portions := r.portions[:workers]
	for w := range portions {
		portions[w].set(items*w/workers, items*(w+1)/workers)
	}
	run := func(w int) {
		for k := range portions {
			for s := &portions[(w+k)%workers]; ; {
				item, ok := s.take(k > 0)
				if !ok {
					break
				}
				work(w, item)
			}
		}
	}
	var group sync.WaitGroup
	for w := 1; w < workers; w++ {
		group.Go(func() { run(w) })
	}
	run(0)
	group.Wait()
}
