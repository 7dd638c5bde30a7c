package assembly

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/edit"
	"proscen/core/scene"
)

// Operations returns the editing operations by name. All work on the main lane
// and are exact to the frame; shots on it never overlap afterwards.
func Operations() edit.Catalog {
	return edit.Catalog{
		"shotAppend": edit.Op(appendShot),
		"shotInsert": edit.Op(insertShot),
		"shotMove":   edit.Op(moveShot),
		"shotTrim":   edit.Op(trimShot),
		"shotSplit":  edit.Op(splitShot),
		"shotRemove": edit.Op(removeShots),
		"cutTo":      edit.Op(cutTo),
	}
}

// lane is the working copy of the main lane during an operation.
type lane struct {
	draft *edit.Draft
	id    string
	shots []Entry
}

func open(d *edit.Draft, assembly string) (*lane, error) {
	id := MainLane(d.Doc, assembly)
	if id == "" {
		return nil, fmt.Errorf("there is no assembly to edit; choose one first")
	}
	return &lane{d, id, Shots(d.Doc, id)}, nil
}

func openShot(d *edit.Draft, shot string) (*lane, int, error) {
	s, ok := d.Doc.Shots[shot]
	if !ok {
		return nil, 0, fmt.Errorf("the shot is not there any more")
	}
	l := &lane{d, s.Lane, Shots(d.Doc, s.Lane)}
	return l, slices.IndexFunc(l.shots, func(e Entry) bool { return e.ID == shot }), nil
}

func (l *lane) end() int {
	if n := len(l.shots); n > 0 {
		return l.shots[n-1].ScreenOut
	}
	return 0
}

// at returns the index of the shot that holds a screen frame, or −1 and the
// index of the next shot.
func (l *lane) at(screen int) (index, next int) {
	for i := range l.shots {
		if l.shots[i].Screen().Contains(screen) {
			return i, i + 1
		}
		if l.shots[i].ScreenIn > screen {
			return -1, i
		}
	}
	return -1, len(l.shots)
}

func (l *lane) set(i int, s scene.Shot) {
	l.shots[i].Shot = s
	l.draft.SetShot(l.shots[i].ID, s)
}

func (l *lane) insert(i int, id string, s scene.Shot) {
	if id == "" {
		id = l.draft.NewID()
	}
	l.shots = slices.Insert(l.shots, i, Entry{id, s})
	l.draft.SetShot(id, s)
}

// shift moves the shots from index i on in screen time; story time stays.
func (l *lane) shift(i, by int) {
	if by == 0 {
		return
	}
	for ; i < len(l.shots); i++ {
		s := l.shots[i].Shot
		s.ScreenIn += by
		s.ScreenOut += by
		l.set(i, s)
	}
}

// number makes a shot number that sorts between its neighbours: the middle of
// 010 and 020 is 015; where no whole number is left, letters are added.
func (l *lane) number(i int) string {
	taken := map[string]bool{}
	for _, s := range l.shots {
		taken[s.Number] = true
	}
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
	if n > before && !taken[base] {
		return base
	}
	base = fmt.Sprintf("%03d", before)
	for k := 0; ; k++ {
		if s := base + suffix(k); !taken[s] {
			return s
		}
	}
}

// suffix counts a, b, … z, za, zb …
func suffix(k int) string { return strings.Repeat("z", k/26) + string(rune('a'+k%26)) }

// continues returns the story frame that goes on where the shot before index i
// leaves off.
func (l *lane) continues(i, screen int) float64 {
	if i > 0 {
		return l.shots[i-1].StoryAt(float64(screen))
	}
	return float64(l.draft.Doc.Settings.Story.In)
}

type placeArgs struct {
	Assembly string   `json:"assembly"`
	Camera   string   `json:"camera"`
	At       int      `json:"at"` // screen frame, for insert
	Frames   int      `json:"frames"`
	StoryIn  *float64 `json:"storyIn"` // nil continues the shot before
	Name     string   `json:"name"`
	ID       string   `json:"id"`
}

func (l *lane) newShot(i, at int, a placeArgs) (scene.Shot, error) {
	if a.Frames < 1 {
		return scene.Shot{}, fmt.Errorf("a shot lasts at least one frame")
	}
	if _, ok := l.draft.Doc.Nodes[a.Camera]; !ok {
		return scene.Shot{}, fmt.Errorf("choose a camera for the shot first")
	}
	s := scene.Shot{Lane: l.id, Number: l.number(i), Name: a.Name, Camera: a.Camera, ScreenIn: at, ScreenOut: at + a.Frames, Speed: 1, Head: 8, Tail: 8}
	if a.StoryIn != nil {
		s.StoryIn = *a.StoryIn
	} else {
		s.StoryIn = l.continues(i, at)
	}
	return s, nil
}

// appendShot adds a shot after the last one.
func appendShot(d *edit.Draft, a placeArgs) (string, error) {
	l, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	i := len(l.shots)
	s, err := l.newShot(i, l.end(), a)
	if err != nil {
		return "", err
	}
	l.insert(i, a.ID, s)
	return "append shot " + s.Number, nil
}

// insertShot puts a shot at a screen frame; a shot that runs there is split,
// and everything later moves to make room.
func insertShot(d *edit.Draft, a placeArgs) (string, error) {
	l, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	i, next := l.at(a.At)
	if i >= 0 && a.At > l.shots[i].ScreenIn {
		l.split(i, a.At)
		next = i + 1
	} else if i >= 0 {
		next = i
	}
	s, err := l.newShot(next, a.At, a)
	if err != nil {
		return "", err
	}
	l.shift(next, a.Frames)
	l.insert(next, a.ID, s)
	return "insert shot " + s.Number, nil
}

// split cuts the shot at index i in two at a screen frame inside it. The right
// part is new.
func (l *lane) split(i, at int) {
	left := l.shots[i].Shot
	right := left
	right.Number, right.StoryIn, right.ScreenIn = l.number(i+1), left.StoryAt(float64(at)), at
	left.ScreenOut = at
	l.set(i, left)
	l.insert(i+1, "", right)
}

type splitArgs struct {
	Assembly string `json:"assembly"`
	At       int    `json:"at"`
}

// splitShot cuts the shot that runs at a screen frame in two.
func splitShot(d *edit.Draft, a splitArgs) (string, error) {
	l, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	i, _ := l.at(a.At)
	if i < 0 || l.shots[i].ScreenIn == a.At {
		return "", fmt.Errorf("there is no shot to split at frame %d; move the playhead inside one", a.At)
	}
	l.split(i, a.At)
	return "split shot " + l.shots[i].Number, nil
}

type moveArgs struct {
	ID string `json:"id"`
	To int    `json:"to"` // screen frame of its first frame
}

// moveShot moves a shot in screen time; its story range stays. Onto a gap that
// holds it, it is put there and leaves a gap. Onto other shots, it changes its
// place in the order: the gap it leaves is closed, and the shots from its new
// place on make room. The landing place is the nearest seam.
func moveShot(d *edit.Draft, a moveArgs) (string, error) {
	l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	moved := l.shots[i]
	length := moved.Screen().Count()
	to := max(0, a.To)
	l.shots = slices.Delete(l.shots, i, i+1)
	if l.free(to, to+length) {
		_, next := l.at(to)
		l.shots = slices.Insert(l.shots, next, moved)
		l.place(next, to)
		return fmt.Sprintf("move shot %s to %d", moved.Number, to), nil
	}
	// Close the gap it leaves, then open one at the seam nearest to the middle
	// of where it was dropped.
	l.shift(i, -length)
	middle := float64(to)
	if to > moved.ScreenIn {
		middle = float64(to + length)
	}
	next := 0
	for next < len(l.shots) {
		s := l.shots[next]
		at := float64(s.ScreenIn+s.ScreenOut) / 2
		if next >= i {
			at += float64(length) // as it was seen while dragging
		}
		if at > middle {
			break
		}
		next++
	}
	at := 0
	if next > 0 {
		at = l.shots[next-1].ScreenOut
	} else if len(l.shots) > 0 {
		at = min(to, l.shots[0].ScreenIn)
	}
	l.shift(next, length)
	l.shots = slices.Insert(l.shots, next, moved)
	l.place(next, at)
	return "reorder shot " + moved.Number, nil
}

func (l *lane) place(i, at int) {
	s := l.shots[i].Shot
	s.ScreenOut = at + s.Screen().Count()
	s.ScreenIn = at
	l.set(i, s)
}

func (l *lane) free(in, out int) bool {
	for _, s := range l.shots {
		if s.ScreenIn < out && s.ScreenOut > in {
			return false
		}
	}
	return true
}

type trimArgs struct {
	ID     string `json:"id"`
	Edge   string `json:"edge"` // in or out
	By     int    `json:"by"`   // frames; positive is later
	Ripple bool   `json:"ripple"`
}

// trimShot moves one edge of a shot. Its picture stays where it is in story
// time. Without ripple the edge stops at the neighbour; with ripple later shots
// follow. At least one frame is left.
func trimShot(d *edit.Draft, a trimArgs) (string, error) {
	l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	s := l.shots[i].Shot
	length := s.Screen().Count()
	by := a.By
	switch a.Edge {
	case "in":
		by = min(by, length-1)
		if a.Ripple {
			s.StoryIn = s.StoryAt(float64(s.ScreenIn + by))
			s.ScreenOut -= by
			l.set(i, s)
			l.shift(i+1, -by)
			break
		}
		limit := 0
		if i > 0 {
			limit = l.shots[i-1].ScreenOut
		}
		by = max(by, limit-s.ScreenIn)
		s.StoryIn = s.StoryAt(float64(s.ScreenIn + by))
		s.ScreenIn += by
		l.set(i, s)
	case "out":
		by = max(by, 1-length)
		if !a.Ripple && i+1 < len(l.shots) {
			by = min(by, l.shots[i+1].ScreenIn-s.ScreenOut)
		}
		s.ScreenOut += by
		l.set(i, s)
		if a.Ripple {
			l.shift(i+1, by)
		}
	default:
		return "", fmt.Errorf("an edge is in or out, not %q", a.Edge)
	}
	return fmt.Sprintf("trim %s of shot %s by %+df", a.Edge, s.Number, by), nil
}

type removeArgs struct {
	IDs   []string `json:"ids"`
	Close bool     `json:"close"`
}

// removeShots deletes shots and leaves gaps, or closes them.
func removeShots(d *edit.Draft, a removeArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", fmt.Errorf("no shot is selected to be removed")
	}
	var numbers []string
	for _, id := range a.IDs {
		l, i, err := openShot(d, id)
		if err != nil {
			return "", err
		}
		gone := l.shots[i]
		numbers = append(numbers, gone.Number)
		d.Delete("shots", id)
		for _, b := range d.Doc.BoardsOf(id) { // a board belongs to its shot
			d.Delete("boards", b)
		}
		if a.Close {
			l.shots = slices.Delete(l.shots, i, i+1)
			l.shift(i, -gone.Screen().Count())
		}
	}
	label := "remove shot "
	if a.Close {
		label = "remove and close shot "
	}
	return label + strings.Join(numbers, ", "), nil
}

type cutToArgs struct {
	Assembly string `json:"assembly"`
	At       int    `json:"at"`
	Camera   string `json:"camera"`
}

// cutTo puts a camera on air from a screen frame on, until the end of the shot
// that runs there. At the first frame of a shot it replaces its camera. In a
// gap it fills up to the next shot; after the end it adds two seconds.
func cutTo(d *edit.Draft, a cutToArgs) (string, error) {
	l, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	n, ok := d.Doc.Nodes[a.Camera]
	if !ok || n.Camera == nil {
		return "", fmt.Errorf("choose a camera to cut to")
	}
	label := fmt.Sprintf("cut to camera %d", n.Camera.Number)
	at := max(0, a.At)
	i, next := l.at(at)
	if i >= 0 {
		s := l.shots[i].Shot
		if s.Camera == a.Camera {
			return "", fmt.Errorf("camera %d is on air here already", n.Camera.Number)
		}
		if at > s.ScreenIn {
			l.split(i, at)
			i++
			s = l.shots[i].Shot
		}
		s.Camera, s.Name = a.Camera, ""
		l.set(i, s)
		return label, nil
	}
	frames := int(math.Round(d.Doc.Settings.Rate.Frames(2)))
	if next < len(l.shots) {
		frames = l.shots[next].ScreenIn - at
	}
	s, err := l.newShot(next, at, placeArgs{Camera: a.Camera, Frames: frames})
	if err != nil {
		return "", err
	}
	l.insert(next, "", s)
	return label, nil
}
