package assembly

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"sort"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

// ErrOccupied says that shots lie where others are to be put.
var ErrOccupied = errors.New("there are shots here already; choose to insert, to overwrite or to keep on a spare lane")

// How says what becomes of shots that lie where others are put.
type How string

// What can become of them.
const (
	Refuse    How = ""          // they stay: ErrOccupied
	Insert    How = "insert"    // they make room; one that runs across is split
	Overwrite How = "overwrite" // they are trimmed, split or removed
	Reorder   How = "reorder"   // they make room at the nearest seam
	Spare     How = "spare"     // they stay, and what is moved goes to a spare lane
)

type moveArgs struct {
	IDs  []string `json:"ids"`
	By   int      `json:"by"`             // screen frames
	Lane string   `json:"lane,omitempty"` // "" for the lane that each is on
	How  How      `json:"how,omitempty"`
}

// moveShots moves shots in screen time, and to another lane if wanted; their
// story ranges stay. Where nothing lies they are simply put.
func moveShots(d *edit.Draft, a moveArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	names := c.numbersOf(ids)
	to, _ := c.find(ids[0])
	if a.Lane != "" {
		if to = c.lanes[a.Lane]; to == nil {
			return "", errors.New("the lane does not belong to this assembly")
		}
	}
	// Without a lane, shots that lie on several move along, each on its own.
	along, several := func(id string) *lane {
		if a.Lane != "" {
			return to
		}
		l, _ := c.find(id)
		return l
	}, false
	by := max(a.By, -d.Doc.Shots[ids[0]].ScreenIn)
	free := true
	moving := setOf(ids)
	for _, id := range ids {
		s, l := d.Doc.Shots[id], along(id)
		several = several || l != to
		for o := range l.meeting(s.ScreenIn+by, s.ScreenOut+by) {
			free = free && moving[o.ID]
		}
	}
	switch {
	case several && !free && a.How != Refuse && a.How != Overwrite:
		return "", errors.New("the shots lie on several lanes; choose the lane that they go to")
	case free:
	case a.How == Refuse:
		return "", ErrOccupied
	case a.How == Spare:
		first, last := d.Doc.Shots[ids[0]], d.Doc.Shots[ids[len(ids)-1]]
		to = c.spareFor(first.ScreenIn+by, last.ScreenOut+by)
	case a.How == Insert, a.How == Reorder:
		return c.moveInto(ids, names, to, by, a.How)
	case a.How != Overwrite:
		return "", fmt.Errorf("there is no way %q to move a shot", a.How)
	}
	targets := make([]*lane, len(ids))
	for i, id := range ids {
		if targets[i] = along(id); a.How == Spare && !free {
			targets[i] = to
		}
	}
	for i, e := range c.takeAll(ids, nil) {
		e.ScreenIn += by
		e.ScreenOut += by
		if !free && a.How == Overwrite {
			targets[i].clear(e.ScreenIn, e.ScreenOut)
		}
		targets[i].put(e.ID, e.Shot)
	}
	if to.main || several {
		return c.done("move shot %s by %+df", names, by)
	}
	return c.done("move shot %s to lane %s", names, d.Doc.Lanes[to.id].Name)
}

// takeAll takes shots off their lanes; on those that are closing, if any, what is
// later closes up.
func (c *cut) takeAll(ids []string, closing func(l *lane) bool) []program.Entry {
	out := make([]program.Entry, len(ids))
	place := make(map[string]int, len(ids))
	for i, id := range ids {
		place[id] = i
	}
	for _, lane := range slices.Sorted(maps.Keys(c.lanes)) {
		l := c.lanes[lane]
		l.rework(closing != nil && closing(l), func(e program.Entry) (scene.Shot, bool) {
			i, taken := place[e.ID]
			if taken {
				out[i] = e
			}
			return e.Shot, !taken
		})
	}
	return out
}

func setOf(ids []string) map[string]bool {
	out := make(map[string]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out
}

// moveInto puts shots one after the other between others: the gaps that they
// leave on the main lane and on the one they go to are closed, and what is later
// than their new place makes room.
func (c *cut) moveInto(ids []string, names string, to *lane, by int, how How) (string, error) {
	doc := c.draft.Doc
	at := doc.Shots[ids[0]].ScreenIn + by
	total := 0
	for _, id := range ids {
		total += doc.Shots[id].Screen().Count()
	}
	if how == Reorder {
		at = nearestSeam(to.shots, setOf(ids), at, at+total, by > 0)
	}
	// What is taken away before the new place lets it come earlier.
	target := c.closing(ids, to).move(at)
	closing := c.closing(ids, c.main())
	c.alone = true
	moved := c.takeAll(ids, func(l *lane) bool { return l.main || l == to })
	if !to.main {
		c.alone = false
		c.along(closing.move)
		if !c.fixed() {
			target = closing.move(target)
		}
	}
	next := to.openAt(target, total)
	var with []stretch // of the lane, that goes along with what is moved
	end := target
	for i := range moved {
		e := &moved[i]
		length := e.Screen().Count()
		if e.Lane == to.id {
			with = append(with, stretch{e.ScreenIn, e.ScreenOut, end - e.ScreenIn})
		}
		e.Lane, e.ScreenIn, e.ScreenOut = to.id, end, end+length
		end += length
		c.draft.SetShot(e.ID, e.Shot)
	}
	to.shots = slices.Insert(to.shots, next, moved...)
	if to.main {
		c.alone = false
		c.along(func(frame int) int {
			i := sort.Search(len(with), func(i int) bool { return with[i].out > frame })
			if i < len(with) && with[i].in <= frame {
				return frame + with[i].by
			}
			if frame = closing.move(frame); frame >= target {
				frame += total
			}
			return frame
		})
	}
	if how == Reorder {
		return c.done("reorder shot %s", names)
	}
	return c.done("insert shot %s", names)
}

// stretch is a stretch of screen time, and by how many frames it is moved.
type stretch struct{ in, out, by int }

// closing returns how a lane closes up when shots are taken off it.
func (c *cut) closing(ids []string, l *lane) (out shifts) {
	for _, id := range ids {
		if s := c.draft.Doc.Shots[id]; s.Lane == l.id {
			out.add(s.ScreenOut, -s.Screen().Count())
		}
	}
	return out
}

// nearestSeam returns the seam of a lane that a range dropped at [in, out) goes
// to: what it covers by more than half makes room on the side it comes from.
func nearestSeam(shots []program.Entry, moving map[string]bool, in, out int, forward bool) int {
	edge := in
	if forward {
		edge = out
	}
	seam := -1
	for _, s := range shots {
		if moving[s.ID] {
			continue
		}
		if s.ScreenIn+s.ScreenOut > 2*edge {
			if seam < 0 {
				seam = min(in, s.ScreenIn)
			}
			break
		}
		seam = s.ScreenOut
	}
	return seam
}

type swapArgs struct {
	A string `json:"a"`
	B string `json:"b"`
}

// swap exchanges the places of two shots of a lane; what lies between them
// moves by the difference of their lengths.
func swap(d *edit.Draft, a swapArgs) (string, error) {
	c, ids, err := openShots(d, []string{a.A, a.B})
	if err != nil {
		return "", err
	}
	if len(ids) < 2 {
		return "", errors.New("choose two shots to swap")
	}
	l, i := c.find(ids[0])
	other, j := c.find(ids[1])
	if l != other {
		return "", errors.New("only shots of one lane can be swapped; move one of them first")
	}
	first, second := l.shots[i], l.shots[j]
	by := second.Screen().Count() - first.Screen().Count()
	if l.main {
		c.along(func(frame int) int {
			switch {
			case frame < first.ScreenIn || frame >= second.ScreenOut:
				return frame
			case frame < first.ScreenOut:
				return frame + second.ScreenOut - first.ScreenOut
			case frame < second.ScreenIn:
				return frame + by
			}
			return frame + first.ScreenIn - second.ScreenIn
		})
	}
	for k := i + 1; k < j; k++ {
		s := l.shots[k].Shot
		s.ScreenIn += by
		s.ScreenOut += by
		l.set(k, s)
	}
	at := first.ScreenIn
	first.ScreenIn, first.ScreenOut = second.ScreenOut-first.Screen().Count(), second.ScreenOut
	second.ScreenIn, second.ScreenOut = at, at+second.Screen().Count()
	l.shots[i], l.shots[j] = second, first
	d.SetShot(second.ID, second.Shot)
	d.SetShot(first.ID, first.Shot)
	return c.done("swap shots %s and %s", first.Number, second.Number)
}

type tryArgs struct {
	ID string `json:"id"`
}

// trySpare plays a spare shot in its place: what the main lane shows over its
// range changes lanes with it. The same again, for a shot of the main lane, puts
// things back.
func trySpare(d *edit.Draft, a tryArgs) (string, error) {
	c, l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	in, out := l.shots[i].ScreenIn, l.shots[i].ScreenOut
	number := l.shots[i].Number
	main, spare := c.main(), l
	if l.main {
		if spare = c.aside(in, out); spare == nil {
			return "", fmt.Errorf("no spare shot lies over shot %s; put one there first", number)
		}
		// The whole of what was put aside comes back.
		for _, s := range spare.shots {
			if s.ScreenIn < out && s.ScreenOut > in {
				in, out = min(in, s.ScreenIn), max(out, s.ScreenOut)
			}
		}
	}
	for _, x := range []*lane{main, spare} {
		x.cutAt(in)
		x.cutAt(out)
	}
	if c.err != nil {
		return "", c.err
	}
	inside := func(x *lane) (ids []string) {
		for _, s := range x.shots {
			if s.ScreenIn >= in && s.ScreenOut <= out {
				ids = append(ids, s.ID)
			}
		}
		return ids
	}
	fromMain, fromSpare := c.takeAll(inside(main), nil), c.takeAll(inside(spare), nil)
	for _, e := range fromSpare {
		main.put(e.ID, e.Shot)
	}
	for _, e := range fromMain {
		spare.put(e.ID, e.Shot)
	}
	main.heal(in)
	main.heal(out)
	if l.main {
		return c.done("put back shot %s", number)
	}
	return c.done("try spare shot %s", number)
}

// aside returns the spare lane that holds something over a range, or nil.
func (c *cut) aside(in, out int) *lane {
	for _, id := range c.spares() {
		if !c.lanes[id].free(in, out) {
			return c.lanes[id]
		}
	}
	return nil
}

// heal makes one shot of the two that meet at a frame, when the second only goes
// on with the first.
func (l *lane) heal(at int) {
	i, _ := l.at(at)
	if i < 0 || l.shots[i].ScreenIn != at || !l.follows(i) {
		return
	}
	a, b := l.shots[i-1].Shot, l.shots[i].Shot
	if a.Locked || b.Locked || b.Join != nil || a.Camera == "" {
		return
	}
	goesOn := a
	goesOn.ScreenIn, goesOn.ScreenOut, goesOn.StoryIn = b.ScreenIn, b.ScreenOut, a.StoryOut()
	goesOn.Number, goesOn.Join = b.Number, nil
	if goesOn != b || len(l.cut.draft.Doc.BoardsOf(l.shots[i].ID)) > 1 {
		return
	}
	l.remove(i)
	a.ScreenOut = b.ScreenOut
	l.set(i-1, a)
}

// shotChange is what can be set of shots; what is nil stays.
type shotChange struct {
	Number    *string           `json:"number,omitempty"`
	Name      *string           `json:"name,omitempty"`
	Camera    *string           `json:"camera,omitempty"`
	Plays     *scene.Plays      `json:"plays,omitempty" jsonschema:"enum="`
	Card      *string           `json:"card,omitempty"`
	Footage   *string           `json:"footage,omitempty"`
	FootageIn *float64          `json:"footageIn,omitempty"`
	StoryIn   *float64          `json:"storyIn,omitempty"`
	Head      *int              `json:"head,omitempty"`
	Tail      *int              `json:"tail,omitempty"`
	Locked    *bool             `json:"locked,omitempty"`
	Notes     *string           `json:"notes,omitempty"`
	Status    *scene.ShotStatus `json:"status,omitempty"`
	Exposure  *float64          `json:"exposure,omitempty"`
	Tint      *string           `json:"tint,omitempty"`
	Haze      *float64          `json:"haze,omitempty"`
	Hour      *float64          `json:"hour,omitempty"`
}

type setArgs struct {
	IDs    []string   `json:"ids"`
	Change shotChange `json:"change"`
	What   string     `json:"what,omitempty"` // for the label
}

func assign[T any](to *T, from *T) {
	if from != nil {
		*to = *from
	}
}

// setShots changes properties of shots that need no rule but the lock. A camera
// given to a shot that a board or card stands for takes its place.
func setShots(d *edit.Draft, a setArgs) (string, error) {
	c, ids, err := openShots(d, a.IDs)
	if err != nil {
		return "", err
	}
	k := a.Change
	for _, id := range ids {
		l, i := c.find(id)
		s := l.shots[i].Shot
		if k.Camera != nil && *k.Camera != "" && k.Plays == nil {
			s.Plays, s.Card, s.Footage, s.FootageIn = scene.PlaysCamera, "", "", 0
		}
		assign(&s.Number, k.Number)
		assign(&s.Name, k.Name)
		assign(&s.Camera, k.Camera)
		assign(&s.Plays, k.Plays)
		assign(&s.Card, k.Card)
		assign(&s.Footage, k.Footage)
		assign(&s.FootageIn, k.FootageIn)
		assign(&s.StoryIn, k.StoryIn)
		assign(&s.Head, k.Head)
		assign(&s.Tail, k.Tail)
		assign(&s.Locked, k.Locked)
		assign(&s.Notes, k.Notes)
		assign(&s.Status, k.Status)
		assign(&s.Exposure, k.Exposure)
		assign(&s.Tint, k.Tint)
		assign(&s.Haze, k.Haze)
		assign(&s.Hour, k.Hour)
		if j := s.Join; j != nil {
			if short := s.Head - handle(j.Before, s); short < 0 && j.Kind != scene.Dip && s.Plays == scene.PlaysCamera {
				return "", fmt.Errorf("the %s into shot %s needs %d head frames; shorten it first", j.Kind, s.Number, s.Head-short)
			}
		}
		if l.follows(i + 1) {
			if j := l.shots[i+1].Join; j != nil && j.Kind != scene.Dip && s.Plays == scene.PlaysCamera && s.Tail < handle(j.After, s) {
				return "", fmt.Errorf("the %s out of shot %s needs %d tail frames; shorten it first", j.Kind, s.Number, handle(j.After, s))
			}
		}
		l.set(i, s)
	}
	what := a.What
	if what == "" {
		what = "change"
	}
	return c.done("%s of shot %s", what, c.numbersOf(ids))
}
