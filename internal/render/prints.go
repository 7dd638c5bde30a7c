package render

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"time"

	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/store"
)

// Prints tells which outputs would no longer be the same. It remembers what it has
// looked at, so that an edit costs no more than what it may touch. Looking takes as long
// as it takes, beside the requests that ask for it.
type Prints struct {
	bucket *blobs.Bucket
	mu     sync.Mutex
	runs   map[string]*look // the last one of each scene

	work  sync.Mutex        // held by the one look that is at work
	known map[string]string // prints by briefs
	open  opened
}

// opened is the scene that was looked at last, or an alternate of it.
type opened struct {
	scene    string
	revision int
	as       string
	session  *session.Session
	seen     string
}

// look is a look at the outputs of one revision of a scene.
type look struct {
	of    string // what is looked at
	stop  context.CancelFunc
	done  chan struct{}
	mu    sync.Mutex
	found Looked
}

// NewPrints returns one that reads models from a bucket.
func NewPrints(bucket *blobs.Bucket) *Prints {
	return &Prints{bucket: bucket, runs: map[string]*look{}, known: map[string]string{}}
}

// Bounds of what is remembered.
const (
	mostKnown = 50_000
	mostRuns  = 100
)

// Looked is what is known of the newest outputs of a scene.
type Looked struct {
	Outdated []string // ids of outputs whose frames would be others
	Gone     []string // what they show is not in the cut any more
	Waiting  int      // how many have not been looked at yet
	err      error
}

// Look tells which of the newest outputs of a scene, given in their deliveries, are out
// of date. It waits no longer than it is told to; what is not known by then is waiting,
// and will be known some time later.
func (p *Prints) Look(ctx context.Context, id string, doc *scene.Document, revision int, all []store.Delivery, most time.Duration) (Looked, error) {
	of := fmt.Sprint(revision)
	n := 0
	for _, d := range all {
		for _, o := range d.Outputs {
			if o.State == store.Done && o.Print != "" {
				n++
				of += " " + o.ID
			}
		}
	}
	p.mu.Lock()
	r := p.runs[id]
	if r == nil || r.of != of {
		if r != nil {
			r.stop()
		}
		if len(p.runs) >= mostRuns {
			clear(p.runs)
		}
		going, stop := context.WithCancel(context.WithoutCancel(ctx))
		r = &look{of: of, stop: stop, done: make(chan struct{}), found: Looked{Outdated: []string{}, Gone: []string{}, Waiting: n}}
		p.runs[id] = r
		go func() {
			defer close(r.done)
			defer stop()
			p.look(going, r, id, doc, revision, all)
		}()
	}
	p.mu.Unlock()
	select {
	case <-r.done:
	case <-time.After(most):
	case <-ctx.Done():
		return Looked{}, ctx.Err()
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	out := r.found
	out.Outdated, out.Gone = slices.Clone(out.Outdated), slices.Clone(out.Gone)
	if out.err != nil { // it is tried again the next time
		p.mu.Lock()
		if p.runs[id] == r {
			delete(p.runs, id)
		}
		p.mu.Unlock()
	}
	return out, out.err
}

// look goes through outputs, one look at a time.
func (p *Prints) look(ctx context.Context, r *look, id string, doc *scene.Document, revision int, all []store.Delivery) {
	p.work.Lock()
	defer p.work.Unlock()
	tell := func(change func(l *Looked)) {
		r.mu.Lock()
		defer r.mu.Unlock()
		change(&r.found)
	}
	defer func() {
		if broken := recover(); broken != nil {
			tell(func(l *Looked) { l.err = fmt.Errorf("what is out of date cannot be told: %v", broken) })
		}
	}()
	var plans turnover.Plans
	for i := range all {
		d := &all[i]
		recipe, err := recipeOf(d)
		for k := range d.Outputs {
			o := &d.Outputs[k]
			if o.State != store.Done || o.Print == "" || ctx.Err() != nil {
				continue
			}
			var was turnover.Item
			if err == nil {
				err = json.Unmarshal(o.Item, &was)
			}
			now, there := was, false
			if err == nil {
				now, there, err = plans.Again(doc, was, recipe)
			}
			print := ""
			if err == nil && there {
				print, err = p.of(ctx, &plans, id, doc, revision, now, recipe)
			}
			switch {
			case ctx.Err() != nil: // a newer look has come
				return
			case err != nil:
				tell(func(l *Looked) { l.err = err })
				return
			}
			tell(func(l *Looked) {
				l.Waiting--
				switch {
				case !there:
					l.Gone = append(l.Gone, o.ID)
				case print != o.Print:
					l.Outdated = append(l.Outdated, o.ID)
				}
			})
		}
	}
}

// of returns the print of an item as it would be made now.
func (p *Prints) of(ctx context.Context, plans *turnover.Plans, id string, doc *scene.Document, revision int, i turnover.Item, r scene.Recipe) (string, error) {
	if p.open.scene != id || p.open.revision != revision || p.open.as != i.Alternate {
		doc, err := plans.As(doc, i.Alternate)
		if err != nil {
			return "", err
		}
		s := session.Open(doc, nil)
		files, err := FilesOf(ctx, p.bucket, doc)
		if err != nil {
			return "", err
		}
		files.Into(s)
		p.open = opened{id, revision, i.Alternate, s, turnover.SeenOf(doc)}
	}
	film, err := turnover.Unpainted(p.open.session, i, r, turnover.Facts{})
	if err != nil {
		return "", err
	}
	brief := film.Brief(p.open.seen)
	print, known := p.known[brief]
	if !known {
		if print = film.Print(func() bool { return ctx.Err() == nil }); print == "" {
			return "", ctx.Err()
		}
		if len(p.known) >= mostKnown {
			clear(p.known)
		}
		p.known[brief] = print
	}
	return print, nil
}

// SameRecipe tells whether outputs of two deliveries are made the same way.
func SameRecipe(a, b *store.Delivery) bool {
	x, err := recipeOf(a)
	y, err2 := recipeOf(b)
	x.Name, y.Name = "", ""
	return err == nil && err2 == nil && bytes.Equal(scene.Canonical(x), scene.Canonical(y))
}
