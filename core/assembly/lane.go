package assembly

import (
	"errors"
	"fmt"
	"iter"
	"maps"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"proscen/core/alternate"
	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

// lane is the working copy of one lane during an operation: its shots in order
// of screen time.
type lane struct {
	cut   *cut
	id    string
	main  bool
	shots []program.Entry
}

// cut is the working copy of an assembly during an operation. Errors are kept
// until done, so that the steps of an operation read straight on.
type cut struct {
	draft    *edit.Draft
	assembly string
	lanes    map[string]*lane
	taken    map[string]int // how often shot numbers are in use, once they have been asked for
	letters  map[string]int // for numbers with letters, how many of them are in use
	alone    bool           // nothing goes along with shots of the main lane for now
	err      error
	notes    []string // what else has changed, for the label
	handed   []alternate.Handed
}

var errGone = errors.New("the shot is not there any more")

// open prepares an assembly for editing; "" is an error.
func open(d *edit.Draft, assembly string) (*cut, error) {
	if program.MainLane(d.Doc, assembly) == "" {
		return nil, errors.New("there is no assembly to edit; choose one first")
	}
	c := &cut{draft: d, assembly: assembly, lanes: map[string]*lane{}}
	for id, l := range d.Doc.Lanes {
		if l.Assembly == assembly {
			c.lanes[id] = &lane{cut: c, id: id, main: l.Main}
		}
	}
	for id, shots := range lanesOf(d.Doc, func(lane string) bool { return c.lanes[lane] != nil }) {
		c.lanes[id].shots = shots
	}
	return c, nil
}

// openShot prepares the assembly of a shot and returns where the shot is.
func openShot(d *edit.Draft, shot string) (*cut, *lane, int, error) {
	s, ok := d.Doc.Shots[shot]
	if !ok {
		return nil, nil, 0, errGone
	}
	c, err := open(d, d.Doc.Lanes[s.Lane].Assembly)
	if err != nil {
		return nil, nil, 0, err
	}
	l, i := c.find(shot)
	return c, l, i, nil
}

func (c *cut) main() *lane {
	for _, l := range c.lanes {
		if l.main {
			return l
		}
	}
	return nil // open has seen to it that there is one
}

// spares lists the ids of the spare lanes in order.
func (c *cut) spares() []string { return program.SpareLanes(c.draft.Doc, c.assembly) }

// newSpare makes a further spare lane.
func (c *cut) newSpare(name string) *lane {
	n := len(c.spares()) + 1
	if name == "" {
		name = fmt.Sprintf("spare %d", n)
	}
	id := c.draft.NewID()
	c.draft.SetLane(id, scene.Lane{Assembly: c.assembly, Name: name, Order: n})
	l := &lane{cut: c, id: id}
	c.lanes[id] = l
	return l
}

// spareFor returns a spare lane that is free over a range, a new one if need be.
func (c *cut) spareFor(in, out int) *lane {
	for _, id := range c.spares() {
		if !c.locked(id) && c.lanes[id].free(in, out) {
			return c.lanes[id]
		}
	}
	return c.newSpare("")
}

func (c *cut) find(shot string) (*lane, int) {
	l := c.lanes[c.draft.Doc.Shots[shot].Lane]
	if l == nil {
		return nil, -1
	}
	return l, l.index(shot)
}

// fail keeps the first error.
func (c *cut) fail(format string, args ...any) {
	if c.err == nil {
		c.err = fmt.Errorf(format, args...)
	}
}

// hand notes that a shot is made from another one, and has for itself what that has.
func (c *cut) hand(from, to string) {
	c.handed = append(c.handed, alternate.Handed{From: from, To: to})
}

// done ends an operation: joins are made to fit what is around them now, what shots
// have for themselves goes with them, and the label is returned with what else has changed.
// Lanes have no shots any more.
func (c *cut) done(format string, args ...any) (string, error) {
	alternate.Hand(c.draft.Draft, c.handed)
	alternate.LetGo(c.draft.Draft)
	for _, id := range slices.Sorted(maps.Keys(c.lanes)) {
		c.lanes[id].fitJoins()
	}
	for _, l := range c.lanes {
		release(l.shots)
		l.shots = nil
	}
	c.keepLocked()
	if c.err != nil {
		return "", c.err
	}
	label := fmt.Sprintf(format, args...)
	if len(c.notes) > 0 {
		label += "; " + strings.Join(c.notes, ", ")
	}
	return label, nil
}

// locked tells whether the shots of a lane stay as they are.
func (c *cut) locked(lane string) bool { return c.draft.Doc.Lanes[lane].Locked }

// keepLocked refuses what has changed shots of a locked lane.
func (c *cut) keepLocked() {
	doc := c.draft.Doc
	any := false
	for id := range c.lanes {
		any = any || c.locked(id)
	}
	if !any {
		return
	}
	for _, change := range c.draft.Shots() {
		now, is := doc.Shots[change.ID]
		if change.Was == is && change.Before == now {
			continue
		}
		for _, lane := range []string{change.Before.Lane, now.Lane} {
			if c.locked(lane) {
				c.fail("lane %s is locked; unlock it first", laneName(doc.Lanes[lane]))
				return
			}
		}
	}
}

func laneName(l scene.Lane) string {
	if l.Main {
		return "main"
	}
	return l.Name
}

// numbers counts the shot numbers in use in the assembly, also those of shots
// that are being moved.
func (c *cut) numbers() map[string]int {
	if c.taken == nil {
		c.taken, c.letters = map[string]int{}, map[string]int{}
		for _, s := range c.draft.Doc.Shots {
			if c.lanes[s.Lane] != nil {
				c.taken[s.Number]++
			}
		}
	}
	return c.taken
}

// tally counts a shot number as in use so many times more.
func (c *cut) tally(number string, more int) {
	if c.taken != nil {
		c.taken[number] += more
	}
}

// entries is memory of lanes that have been done with: a long one is copied for
// every frame of a drag.
var entries sync.Pool

func memory() []program.Entry {
	if m, ok := entries.Get().(*[]program.Entry); ok {
		return (*m)[:0]
	}
	return nil
}

func release(shots []program.Entry) {
	if cap(shots) > 0 {
		entries.Put(&shots)
	}
}

// lanesOf returns the shots of some lanes in order of screen time.
func lanesOf(doc *scene.Document, wanted func(lane string) bool) map[string][]program.Entry {
	out := map[string][]program.Entry{}
	list := doc.ShotsInOrder()
	for i := range list {
		e := &list[i]
		if !wanted(e.Lane) {
			continue
		}
		lane := out[e.Lane]
		if lane == nil {
			lane = slices.Grow(memory(), len(list)-i)
		}
		out[e.Lane] = append(lane, *e)
	}
	return out
}

func (l *lane) index(shot string) int {
	in := l.cut.draft.Doc.Shots[shot].ScreenIn
	if i := l.from(in); i < len(l.shots) && l.shots[i].ID == shot {
		return i
	}
	return slices.IndexFunc(l.shots, func(e program.Entry) bool { return e.ID == shot })
}

// from returns the index of the first shot that begins at a screen frame or later.
func (l *lane) from(screen int) int {
	return sort.Search(len(l.shots), func(i int) bool { return l.shots[i].ScreenIn >= screen })
}

// meeting goes through the shots that meet [in, out) of screen time.
func (l *lane) meeting(in, out int) iter.Seq[*program.Entry] {
	return func(yield func(*program.Entry) bool) {
		i := sort.Search(len(l.shots), func(i int) bool { return l.shots[i].ScreenOut > in })
		for ; i < len(l.shots) && l.shots[i].ScreenIn < out && yield(&l.shots[i]); i++ {
		}
	}
}

func (l *lane) end() int {
	if n := len(l.shots); n > 0 {
		return l.shots[n-1].ScreenOut
	}
	return 0
}

// at returns the index of the shot that holds a screen frame, or −1; next is the
// index of the first shot after the frame.
func (l *lane) at(screen int) (index, next int) {
	next = l.from(screen + 1)
	if next > 0 && l.shots[next-1].ScreenOut > screen {
		return next - 1, next
	}
	return -1, next
}

func (l *lane) free(in, out int) bool {
	for range l.meeting(in, out) {
		return false
	}
	return true
}

// follows tells whether the shot at i begins where the one before it ends.
func (l *lane) follows(i int) bool {
	return i > 0 && i < len(l.shots) && l.shots[i-1].ScreenOut == l.shots[i].ScreenIn
}

// set stores a shot. Of a locked one only its place on the screen clock and its
// lock may change.
func (l *lane) set(i int, s scene.Shot) {
	old := l.shots[i].Shot
	if old.Locked && s.Locked {
		was := old
		was.Lane, was.ScreenIn, was.ScreenOut, was.Join = s.Lane, s.ScreenIn, s.ScreenOut, s.Join
		if old.Screen().Count() != s.Screen().Count() || was != s {
			l.refuse(i)
			return
		}
	}
	l.shots[i].Shot = s
	l.cut.draft.SetShot(l.shots[i].ID, s)
	l.cut.tally(s.Number, 1)
	l.cut.tally(old.Number, -1)
}

func (l *lane) refuse(i int) { l.cut.refuse(l.shots[i].Shot) }

func (c *cut) refuse(s scene.Shot) { c.fail("shot %s is locked; unlock it first", s.Number) }

// insert puts a shot at an index. With an id it is stored as that entity.
func (l *lane) insert(i int, id string, s scene.Shot) {
	if id == "" {
		id = l.cut.draft.NewID()
	}
	s.Lane = l.id
	l.shots = slices.Insert(l.shots, i, program.Entry{ID: id, Shot: s})
	l.cut.draft.SetShot(id, s)
	l.cut.tally(s.Number, 1)
}

// put inserts a shot where its screen frame says.
func (l *lane) put(id string, s scene.Shot) {
	_, next := l.at(s.ScreenIn)
	l.insert(next, id, s)
}

// take removes the shot at an index from the lane, but not from the document.
func (l *lane) take(i int) program.Entry {
	e := l.shots[i]
	l.shots = slices.Delete(l.shots, i, i+1)
	return e
}

// remove deletes the shot at an index, and its boards.
func (l *lane) remove(i int) {
	if l.shots[i].Locked {
		l.refuse(i)
		return
	}
	l.drop(l.take(i))
}

// drop deletes a shot that has been taken from the lane, and its boards.
func (l *lane) drop(e program.Entry) {
	l.cut.tally(e.Number, -1)
	d := l.cut.draft
	d.Delete("shots", e.ID)
	for _, b := range d.Doc.BoardsOf(e.ID) {
		d.Delete("boards", b)
	}
}

// removeAll deletes the shots that are chosen, and their boards; when one is locked,
// none.
func (l *lane) removeAll(chosen func(s *program.Entry) bool) {
	for i := len(l.shots) - 1; i >= 0; i-- {
		if e := &l.shots[i]; e.Locked && chosen(e) {
			l.refuse(i)
			return
		}
	}
	left := l.shots[:0]
	for _, e := range l.shots {
		if chosen(&e) {
			l.drop(e)
		} else {
			left = append(left, e)
		}
	}
	l.shots = left
}

// shift moves the shots from index i on in screen time; story time stays. What
// goes along with the main lane does so from a screen frame on; with a negative by,
// the frames before that one are those that are taken out.
func (l *lane) shift(i, at, by int) {
	if by == 0 {
		return
	}
	if l.main {
		l.cut.along(shifts{{at, by, by}}.move)
	}
	for ; i < len(l.shots); i++ {
		s := l.shots[i].Shot
		s.ScreenIn += by
		s.ScreenOut += by
		l.set(i, s)
	}
}

// rework goes through the shots of a lane: change says how each shall be, or that
// it is taken out. What is later follows when the end of one changes and, with
// closing, comes to where one has been taken out.
func (l *lane) rework(closing bool, change func(e program.Entry) (s scene.Shot, stays bool)) {
	kept := l.shots[:0]
	var later shifts
	for _, e := range l.shots {
		s, stays := change(e)
		if !stays {
			if closing {
				later.add(e.ScreenOut, e.ScreenIn-e.ScreenOut)
			}
			continue
		}
		kept = append(kept, e)
		moved, at := s.ScreenOut-e.ScreenOut, e.ScreenOut
		if s.ScreenIn != e.ScreenIn {
			at = e.ScreenIn
		}
		s.ScreenIn += later.sum()
		s.ScreenOut += later.sum()
		later.add(at, moved)
		if s != e.Shot {
			l.set(len(kept)-1, s)
		}
	}
	l.shots = kept
	if l.main && len(later) > 0 {
		l.cut.along(later.move)
	}
}

// trimHead moves the first frame of a shot, whose picture stays where it is on
// both clocks; its boards are counted from the new first frame.
func trimHead(s scene.Shot, by int) scene.Shot {
	at := float64(s.ScreenIn + by)
	s.StoryIn, s.FootageIn = s.StoryAt(at), footageAt(s, at)
	s.ScreenIn += by
	return s
}

func footageAt(s scene.Shot, screen float64) float64 {
	if s.Plays != scene.PlaysFootage {
		return s.FootageIn
	}
	return s.FootageAt(screen)
}

// split cuts the shot at index i in two at a screen frame inside it. The right
// part is new and gets the boards that are held from there on.
func (l *lane) split(i, at int) {
	left := l.shots[i].Shot
	if left.Locked {
		l.refuse(i)
		return
	}
	right := trimHead(left, at-left.ScreenIn)
	right.Number, right.Join = l.number(i+1), nil
	left.ScreenOut = at
	l.set(i, left)
	l.insert(i+1, "", right)
	l.cut.dealBoards(l.shots[i].ID, l.shots[i+1].ID, at-left.ScreenIn)
	l.cut.hand(l.shots[i].ID, l.shots[i+1].ID)
}

// dealBoards moves the boards of a shot that lie after a frame of it to another
// shot; the one that is held there is held in both.
func (c *cut) dealBoards(from, to string, at int) {
	d := c.draft
	all := d.Doc.BoardsOf(from)
	held := -1
	for i, id := range all {
		if d.Doc.Boards[id].At <= at {
			held = i
		}
	}
	for i, id := range all {
		b := d.Doc.Boards[id]
		switch {
		case i == held:
			b.Shot, b.At = to, 0
			d.SetBoard(d.NewID(), b)
		case i > held:
			b.Shot, b.At = to, b.At-at
			d.SetBoard(id, b)
		}
	}
}

// clear makes room over [in, out): shots there are trimmed, split or removed.
func (l *lane) clear(in, out int) {
	l.cutAt(in)
	l.cutAt(out)
	l.removeAll(func(s *program.Entry) bool { return s.ScreenIn >= in && s.ScreenOut <= out })
}

// cutAt splits the shot that runs across a frame, if there is one.
func (l *lane) cutAt(at int) {
	if i, _ := l.at(at); i >= 0 && l.shots[i].ScreenIn < at {
		l.split(i, at)
	}
}

// openAt makes room of a length at a frame: the shot there is split, what is
// later moves. It returns the index of what comes next.
func (l *lane) openAt(at, frames int) int {
	l.cutAt(at)
	_, next := l.at(at - 1)
	l.shift(next, at, frames)
	return next
}

// number makes a shot number that sorts between its neighbours: the middle of
// 010 and 020 is 015; where no whole number is left, letters are added.
func (l *lane) number(i int) string {
	taken := l.cut.numbers()
	value := func(i int) int {
		if i < 0 || i >= len(l.shots) {
			return -1
		}
		n, err := strconv.Atoi(strings.TrimRight(l.shots[i].Number, "abcdefghijklmnopqrstuvwxyz"))
		if err != nil {
			return -1
		}
		return n
	}
	before, after := max(0, value(i-1)), value(i)
	n := before/10*10 + 10
	if after >= 0 {
		n = (before + after) / 2
		if n > before && n-n%5 > before {
			n -= n % 5
		}
	}
	base := fmt.Sprintf("%03d", n)
	if n > before && taken[base] == 0 {
		return base
	}
	base = fmt.Sprintf("%03d", before)
	for ; ; l.cut.letters[base]++ {
		if s := base + suffix(l.cut.letters[base]); taken[s] == 0 {
			return s
		}
	}
}

// fits tells whether a number sorts between its neighbours at an index.
func (l *lane) fits(i int, number string) bool {
	return (i == 0 || l.shots[i-1].Number < number) && (i == len(l.shots) || number < l.shots[i].Number)
}

// suffix counts a, b, … z, za, zb …
func suffix(k int) string { return strings.Repeat("z", k/26) + string(rune('a'+k%26)) }

// continues returns the story frame that goes on where the shot before index i
// leaves off.
func (l *lane) continues(i, screen int) float64 {
	if i > 0 {
		return l.shots[i-1].StoryAt(float64(screen))
	}
	return float64(l.cut.draft.Doc.Settings.Story.In)
}
