package alternate

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"proscen/core/patch"
	"proscen/core/scene"
)

// Rest is a difference that has no effect, and why.
type Rest struct {
	Difference string `json:"difference"` // id
	Why        string `json:"why"`
}

// Stack is the scene as an alternate has it, and follows the scene. It is not safe for use
// by several goroutines at once.
type Stack struct {
	Alternate string          // id
	Doc       *scene.Document // resolved; valid whenever the scene is
	chain     []string
	on        map[thing][]string // ids of differences, in the order of the chain
	rests     map[string]string
	pushed    map[string]bool // lanes whose shots make room for each other
	made      map[thing]bool  // shots that have made room
}

// Moved is what has changed in an alternate: as a patch, and as it was before.
type Moved struct {
	Patch   patch.Patch
	Touched []scene.Touched // one shot stands for all
}

// thing names an entity.
type thing struct{ collection, id string }

// Open resolves an alternate or the layer of a shot, "" for the scene itself. Documents of
// others are left alone.
func Open(doc *scene.Document, layer string) (*Stack, error) {
	chain, err := Chain(doc, layer)
	if err != nil {
		return nil, err
	}
	return open(doc, layer, chain)
}

// open lays the layers of a chain on a document.
func open(doc *scene.Document, as string, chain []string) (*Stack, error) {
	if err := tooLarge(doc, chain); err != nil {
		return nil, err
	}
	s := &Stack{Alternate: as, Doc: doc.Clone(), chain: chain}
	s.Doc.As = as
	s.gather(doc)
	if _, err := s.settle(doc, s.things()); err != nil {
		return nil, err
	}
	return s, s.shown()
}

// tooLarge tells which layer of a chain has more than is laid.
func tooLarge(doc *scene.Document, chain []string) error {
	if len(doc.Differences) <= mostLaid {
		return nil
	}
	count := map[string]int{}
	for _, d := range doc.Differences {
		count[d.Alternate]++
	}
	for _, l := range chain {
		if n := count[l]; n > mostLaid {
			return fmt.Errorf("%s has %d differences, and more than %d are not laid on a scene; remove it, or bring it in as a scene of its own", Called(doc, l), n, mostLaid)
		}
	}
	return nil
}

// shown tells why a shot that is not there has no layer.
func (s *Stack) shown() error {
	_, shot := Parts(s.Alternate)
	if _, ok := s.Doc.Shots[shot]; shot != "" && !ok {
		return errors.New("the shot is not there any more")
	}
	return nil
}

// Resolve returns the document of an alternate, "" for the scene as it is, and what has no
// effect in it.
func Resolve(doc *scene.Document, id string) (*scene.Document, []Rest, error) {
	if id == "" {
		return doc, nil, nil
	}
	s, err := Open(doc, id)
	if err != nil {
		return nil, nil, err
	}
	return s.Doc, s.Rests(), nil
}

// Rests lists what has no effect, by id.
func (s *Stack) Rests() (out []Rest) {
	for _, id := range slices.Sorted(maps.Keys(s.rests)) {
		out = append(out, Rest{id, s.rests[id]})
	}
	return out
}

// gather finds the differences of the chain.
func (s *Stack) gather(doc *scene.Document) {
	at := map[string]int{}
	for i, id := range s.chain {
		at[id] = i
	}
	s.on = map[thing][]string{}
	for id, d := range doc.Differences {
		if _, ok := at[d.Alternate]; ok {
			k := thing{d.Collection, d.Thing}
			s.on[k] = append(s.on[k], id)
		}
	}
	for _, id := range s.chain {
		if k := (thing{"settings", scene.SettingsID}); doc.Alternates[id].Format != "" && s.on[k] == nil {
			s.on[k] = []string{} // what it is bound to makes a difference of its own
		}
	}
	for _, ids := range s.on {
		slices.SortFunc(ids, func(a, b string) int {
			return at[doc.Differences[a].Alternate] - at[doc.Differences[b].Alternate]
		})
	}
}

func (s *Stack) things() map[thing]bool {
	out := make(map[thing]bool, len(s.on))
	for k := range s.on {
		out[k] = true
	}
	return out
}

// value is an entity with the layers of the chain on it, without the last ones of a number:
// 0 for all, 1 for what an alternate's own layer lies on. It notes what cannot be laid.
func (s *Stack) value(doc *scene.Document, k thing, without int) json.RawMessage {
	t := doc.Table(k.collection)
	if t == nil {
		return nil
	}
	body := t.Get(k.id)
	on := s.on[k]
	for i, layer := range s.chain {
		if k.collection == "settings" {
			body = inFormat(doc, body, doc.Alternates[layer].Format)
		}
		if i == len(s.chain)-without {
			break
		}
		for len(on) > 0 && doc.Differences[on[0]].Alternate == layer {
			if s.rests[on[0]] == "" {
				laid, err := changed(body, doc.Differences[on[0]])
				if err != nil {
					s.rest(on[0], err.Error())
				}
				body = laid
			}
			on = on[1:]
		}
	}
	return body
}

// inFormat are the settings with the format that an alternate is bound to, "" for none.
func inFormat(doc *scene.Document, body json.RawMessage, format string) json.RawMessage {
	if _, there := doc.Formats[format]; !there {
		return body
	}
	return scene.Canonical(scene.FieldsOf(body).With(scene.Fields{"format": format}))
}

// changed is an entity, nil for none, with a difference on it.
func changed(body json.RawMessage, d scene.Difference) (json.RawMessage, error) {
	switch {
	case d.What == scene.Removed:
		return nil, nil
	case d.What == scene.Added:
		return scene.Canonical(d.Fields), nil
	case body == nil:
		return nil, errors.New("what it changes is not there any more")
	case d.Collection == "curves": // one value
		return scene.Canonical(d.Fields), nil
	}
	return scene.Canonical(scene.FieldsOf(body).With(d.Fields)), nil
}

func (s *Stack) rest(id, why string) {
	if s.rests == nil {
		s.rests = map[string]string{}
	}
	s.rests[id] = why
}

func note[K comparable](in *map[K]bool, k K) {
	if *in == nil {
		*in = map[K]bool{}
	}
	(*in)[k] = true
}

// Follow brings the alternate in line with the scene after a patch, and returns what has
// changed in it by that.
func (s *Stack) Follow(doc *scene.Document, p patch.Patch) (Moved, error) {
	todo := s.things()
	maps.Copy(todo, s.made)
	layers := false
	for _, c := range p {
		todo[thing{c.Collection, c.ID}] = true
		layers = layers || c.Collection == "differences" || c.Collection == "alternates"
	}
	if layers {
		chain, err := Chain(doc, s.Alternate)
		if err != nil {
			return Moved{}, err
		}
		s.chain = chain
		s.gather(doc)
		for k := range s.on {
			todo[k] = true
		}
	}
	m, err := s.settle(doc, todo)
	if err == nil {
		err = s.shown()
	}
	return m, err
}

// settle lays everything anew that may be otherwise. Where the outcome would not be a valid
// scene, shots make room, and then differences rest: those that what is wrong speaks of,
// then those of its kind, then all.
func (s *Stack) settle(doc *scene.Document, todo map[thing]bool) (out Moved, err error) {
	s.rests, s.pushed, s.made = nil, nil, nil
	for k, ids := range s.on {
		err := differs(doc, k.collection)
		for _, id := range ids {
			d := doc.Differences[id]
			if _, shot := Parts(d.Alternate); err != nil {
				s.rest(id, err.Error())
			} else if shot != "" {
				if err := inShot(&d); err != nil {
					s.rest(id, err.Error())
				}
			}
		}
		if doc.Table(k.collection) == nil {
			delete(todo, k)
		}
	}
	for {
		d := patch.NewDraft(s.Doc)
		s.lay(d, doc, todo)
		for _, lane := range slices.Sorted(maps.Keys(s.pushed)) {
			for _, id := range makeRoom(d, lane) {
				note(&s.made, thing{"shots", id})
			}
		}
		problems := d.Problems()
		if len(problems) == 0 {
			out.Touched = slices.Clone(d.Others())
			if shots := d.Shots(); len(shots) > 0 {
				out.Touched = append(out.Touched, scene.Touched{Collection: "shots", ID: shots[0].ID})
			}
			out.Patch, err = d.Keep()
			return out, err
		}
		d.Rollback()
		if !s.yield(doc, problems) {
			return out, fmt.Errorf("the alternate cannot be shown: %w", problems)
		}
	}
}

func (s *Stack) lay(d *patch.Draft, doc *scene.Document, todo map[thing]bool) {
	for _, k := range slices.SortedFunc(maps.Keys(todo), func(a, b thing) int {
		return strings.Compare(a.collection+"/"+a.id, b.collection+"/"+b.id)
	}) {
		for {
			want, is := s.value(doc, k, 0), d.Table(k.collection).Get(k.id)
			if bytes.Equal(want, is) {
				break
			}
			if want == nil {
				d.Delete(k.collection, k.id)
				break
			}
			err := d.SetJSON(k.collection, k.id, want)
			if err == nil {
				break
			}
			if !s.last(doc, k, err.Error()) {
				break
			}
		}
	}
}

// last lets the uppermost difference of a thing rest that does not, and tells whether
// there is one.
func (s *Stack) last(doc *scene.Document, k thing, why string) bool {
	for _, id := range slices.Backward(s.on[k]) {
		if s.rests[id] == "" {
			s.rest(id, why)
			return true
		}
	}
	return false
}

// makeRoom moves shots of a lane later that another one runs into.
func makeRoom(d *patch.Draft, lane string) (moved []string) {
	var shots []string
	for id, shot := range d.Doc.Shots {
		if shot.Lane == lane {
			shots = append(shots, id)
		}
	}
	slices.SortFunc(shots, func(a, b string) int {
		return cmp.Or(cmp.Compare(d.Doc.Shots[a].ScreenIn, d.Doc.Shots[b].ScreenIn), strings.Compare(a, b))
	})
	end := 0
	for i, id := range shots {
		shot := d.Doc.Shots[id]
		if i > 0 && shot.ScreenIn < end {
			shot.ScreenIn, shot.ScreenOut = end, end+shot.ScreenOut-shot.ScreenIn
			d.SetShot(id, shot)
			moved = append(moved, id)
		}
		end = shot.ScreenOut
	}
	return moved
}

// yield takes back what makes a scene wrong, and tells whether there was anything.
func (s *Stack) yield(doc *scene.Document, problems scene.Problems) bool {
	given := false
	rest := func(k thing, why string) {
		for s.last(doc, k, why) {
			given = true
		}
	}
	for _, p := range problems {
		k, said := thingOf(p), p.Message
		lane := ""
		if k.collection == "shots" {
			lane = s.laneOf(doc, k)
		}
		if lane != "" && !s.pushed[lane] {
			note(&s.pushed, lane)
			given = true
			continue
		}
		rest(k, said)
	}
	if given {
		return true
	}
	for _, p := range problems { // something of the scene misses what the alternate has taken away
		body := s.value(doc, thingOf(p), 0)
		for k := range s.on {
			if bytes.Contains(body, []byte(`"`+k.id+`"`)) {
				rest(k, p.Path+" "+p.Message)
			}
		}
	}
	if given {
		return true
	}
	for _, p := range problems {
		for k := range s.on {
			if k.collection == thingOf(p).collection {
				rest(k, p.Path+" "+p.Message)
			}
		}
	}
	if given {
		return true
	}
	for k := range s.on {
		rest(k, problems.Error())
	}
	return given
}

func (s *Stack) laneOf(doc *scene.Document, k thing) string {
	lane, _ := scene.FieldsOf(s.value(doc, k, 0))["lane"].(string)
	return lane
}

// thingOf reads which entity a problem is of.
func thingOf(p scene.Problem) thing {
	parts := strings.SplitN(p.Path, "/", 3)
	if len(parts) < 2 {
		return thing{collection: parts[0], id: scene.SettingsID}
	}
	return thing{parts[0], parts[1]}
}

// Record turns a patch of the resolved document into one of the scene: what alternates
// share is changed there, and of the rest it is noted how it differs.
func (s *Stack) Record(doc *scene.Document, p patch.Patch) (patch.Patch, error) {
	if s.Alternate == "" {
		return p, nil
	}
	var out patch.Patch
	for _, c := range p {
		if Shared(c.Collection) {
			out = append(out, c)
			continue
		}
		k := thing{c.Collection, c.ID}
		change, err := s.difference(doc, k, s.value(doc, k, 1), c.After)
		if err != nil {
			return nil, err
		}
		out = append(out, change)
	}
	return patch.Merge(out), nil // without what is as it was
}

// difference makes the change of a difference, when what lies below is base and the alternate is
// to have after.
func (s *Stack) difference(doc *scene.Document, k thing, base, after json.RawMessage) (patch.Change, error) {
	id := scene.DifferenceID(s.Alternate, k.collection, k.id)
	out := patch.Change{Collection: "differences", ID: id, Before: doc.Table("differences").Get(id)}
	d, err := between(k, base, after)
	if err != nil || d == nil {
		return out, err
	}
	d.Alternate = s.Alternate
	if _, shot := Parts(s.Alternate); shot != "" {
		if err := inShot(d); err != nil {
			return out, err
		}
	}
	if old, ok := doc.Differences[id]; ok && d.What == scene.Changed && old.What == scene.Changed {
		keepWas(d.Fields, d.Was, old.Fields, old.Was)
	}
	out.After = scene.Canonical(*d)
	return out, nil
}

// Renew makes the differences of an alternate those that lead to a document from what it
// hangs on, for the things that differ in it and have an effect.
func Renew(d *patch.Draft, id string, to *scene.Document) error {
	own, err := Open(d.Doc, id)
	if err != nil {
		return err
	}
	below, err := own.under(d.Doc)
	if err != nil {
		return err
	}
	for _, k := range Of(d.Doc, id) {
		was := d.Doc.Differences[k]
		if own.rests[k] != "" {
			continue
		}
		now, err := between(thing{was.Collection, was.Thing}, below.Doc.Table(was.Collection).Get(was.Thing), to.Table(was.Collection).Get(was.Thing))
		if err != nil {
			return err
		}
		if now == nil {
			d.Delete("differences", k)
			continue
		}
		now.Alternate = id
		d.SetDifference(k, *now)
	}
	return nil
}

// under is what the last layer lies on.
func (s *Stack) under(doc *scene.Document) (*Stack, error) {
	return open(doc, below(doc, s.Alternate), s.chain[:max(0, len(s.chain)-1)])
}

// between returns how a thing differs; nil when it does not.
func between(k thing, base, after json.RawMessage) (*scene.Difference, error) {
	d := scene.Difference{Collection: k.collection, Thing: k.id}
	switch {
	case bytes.Equal(base, after):
		return nil, nil
	case after == nil:
		d.What = scene.Removed
	case base == nil:
		d.What, d.Fields = scene.Added, scene.FieldsOf(after)
	case k.collection == "curves":
		d.What, d.Fields, d.Was = scene.Changed, scene.FieldsOf(after), scene.FieldsOf(base)
	default:
		d.What = scene.Changed
		d.Fields, d.Was = scene.FieldsOf(base).To(scene.FieldsOf(after))
	}
	for _, field := range []string{"rate", "title", "production"} {
		if k.collection == "settings" && d.Fields[field] != nil {
			return nil, fmt.Errorf("an alternate has the %s of its scene; change it in the scene itself", field)
		}
	}
	return &d, nil
}

// keepWas leaves what a field was said to be before as it is, where the field is not changed
// again: that the scene has moved on since is known from it.
func keepWas(fields, was, oldFields, oldWas map[string]any) {
	for name, v := range fields {
		old, ok := oldFields[name]
		if !ok {
			continue
		}
		a, nested := v.(map[string]any)
		b, both := old.(map[string]any)
		if nested && both {
			x, _ := was[name].(map[string]any)
			y, _ := oldWas[name].(map[string]any)
			if x != nil && y != nil {
				keepWas(a, x, b, y)
			}
			continue
		}
		if scene.Same(v, old) {
			was[name] = oldWas[name]
		}
	}
}
