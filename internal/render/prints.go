package render

import (
	"bytes"
	"context"
	"encoding/json"
	"sync"
	"time"

	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/store"
)

// Prints tells which outputs would no longer be the same. It remembers what it has
// looked at, so that an edit costs no more than what it may touch.
type Prints struct {
	bucket *blobs.Bucket
	mu     sync.Mutex
	known  map[string]string // prints by briefs
	open   opened
}

// opened is the scene that was looked at last.
type opened struct {
	scene    string
	revision int
	session  *session.Session
	seen     string
}

// NewPrints returns one that reads models from a bucket.
func NewPrints(bucket *blobs.Bucket) *Prints {
	return &Prints{bucket: bucket, known: map[string]string{}}
}

// mostKnown bounds what is remembered.
const mostKnown = 50_000

// Looked is what is known of the newest outputs of a scene.
type Looked struct {
	Outdated []string // ids of outputs whose frames would be others
	Gone     []string // what they show is not in the cut any more
	Waiting  int      // how many have not been looked at yet
}

// Look tells which of the newest outputs of a scene, given in their deliveries, are out
// of date. It takes no more than about so long; what it has not come to is waiting.
func (p *Prints) Look(ctx context.Context, id string, doc *scene.Document, revision int, all []store.Delivery, most time.Duration) (out Looked, err error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	out = Looked{Outdated: []string{}, Gone: []string{}}
	until := time.Now().Add(most)
	plans := map[string]map[string]turnover.Item{}
	for i := range all {
		d := &all[i]
		r, err := recipeOf(d)
		if err != nil {
			return out, err
		}
		for k := range d.Outputs {
			o := &d.Outputs[k]
			var was turnover.Item
			if o.State != store.Done || o.Print == "" || json.Unmarshal(o.Item, &was) != nil {
				continue
			}
			now, there, err := again(doc, plans, was, r)
			if err != nil {
				return out, err
			}
			if !there {
				out.Gone = append(out.Gone, o.ID)
				continue
			}
			print, err := p.of(ctx, id, doc, revision, now, r, until)
			switch {
			case err != nil:
				return out, err
			case print == "":
				out.Waiting++
			case print != o.Print:
				out.Outdated = append(out.Outdated, o.ID)
			}
		}
	}
	return out, nil
}

// again returns what an item is in a document of now, if it is there. Plans are those
// that have been made, by recipe and format.
func again(doc *scene.Document, plans map[string]map[string]turnover.Item, was turnover.Item, r scene.Recipe) (turnover.Item, bool, error) {
	if was.What == turnover.Camera || was.What == turnover.Still && was.Shot == "" {
		return was, doc.Nodes[was.Camera].Camera != nil, nil
	}
	if _, there := doc.Assemblies[was.Assembly]; !there {
		return was, false, nil
	}
	if _, there := doc.Formats[was.Format]; !there {
		return was, false, nil
	}
	key := string(scene.Canonical([]any{was.Assembly, was.Format, r}))
	plan, made := plans[key]
	if !made {
		plan = map[string]turnover.Item{}
		plans[key] = plan
		items, err := turnover.Plan(doc, turnover.Order{
			Assemblies: []string{was.Assembly}, Formats: []string{was.Format}, Each: true, Whole: true, Marked: true, Stills: []turnover.Moment{turnover.First, turnover.Middle, turnover.Last},
		}, &r)
		if err != nil { // there are no shots any more
			return was, false, nil
		}
		for _, i := range items {
			plan[i.Subject()] = i
		}
	}
	now, there := plan[was.Subject()]
	if was.What == turnover.Still && was.Moment == "" && was.Marker == "" { // at a frame of its shot
		if now, there = plan[(&turnover.Item{What: turnover.Shot, Assembly: was.Assembly, Shot: was.Shot, Format: was.Format}).Subject()]; there {
			now.What, now.Head, now.Tail, now.Offset = turnover.Still, 0, 0, was.Offset
			now.In += was.Offset
			now.Out, there = now.In+1, now.In < now.Out
		}
	}
	if was.Fixed {
		now.Width, now.Height, now.Fixed = was.Width, was.Height, true
	}
	return now, there, nil
}

// of returns the print of an item as it would be made now, "" when there is no time.
func (p *Prints) of(ctx context.Context, id string, doc *scene.Document, revision int, i turnover.Item, r scene.Recipe, until time.Time) (string, error) {
	if p.open.scene != id || p.open.revision != revision {
		s := session.Open(doc, nil)
		files, err := FilesOf(ctx, p.bucket, doc)
		if err != nil {
			return "", err
		}
		files.Into(s)
		p.open = opened{id, revision, s, turnover.SeenOf(doc)}
	}
	film, err := turnover.Unpainted(p.open.session, i, r, turnover.Facts{})
	if err != nil {
		return "", err
	}
	brief := film.Brief(p.open.seen)
	print, known := p.known[brief]
	if !known {
		if print = film.Print(func() bool { return time.Now().Before(until) && ctx.Err() == nil }); print == "" {
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
