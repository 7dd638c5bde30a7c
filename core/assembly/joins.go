package assembly

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"proscen/core/curve"
	"proscen/core/edit"
	"proscen/core/patch"
	"proscen/core/scene"
)

// handle returns how many handle frames of the story a number of screen frames
// beyond a shot's end takes. Frozen frames, boards and cards take none.
func handle(screen int, s scene.Shot) int {
	if s.Plays == scene.PlaysBoard || s.Plays == scene.PlaysCard {
		return 0
	}
	return int(math.Ceil(float64(screen)*s.Speed - 1e-9))
}

// covers returns the most screen frames that handle frames are enough for.
func covers(frames int, s scene.Shot) int {
	if s.Plays == scene.PlaysBoard || s.Plays == scene.PlaysCard || s.Speed == 0 {
		return endless
	}
	return int(math.Floor(float64(frames)/s.Speed + 1e-9))
}

// Lack says which handle frames a join needs and does not have.
type Lack struct {
	Out  string `json:"out"`  // number of the shot before
	In   string `json:"in"`   // number of the shot after
	Tail int    `json:"tail"` // frames that lack at the tail of the shot before
	Head int    `json:"head"` // frames that lack at the head of the shot after
	// MostBefore and MostAfter are how long the join can be on either side of the
	// seam, whatever handles there are: shots are only so long, and footage ends.
	MostBefore int `json:"mostBefore"`
	MostAfter  int `json:"mostAfter"`
}

// lack returns what a join into the shot at i needs.
func (l *lane) lack(i int, j scene.Join) Lack {
	a, b := l.shots[i-1].Shot, l.shots[i].Shot
	out := Lack{Out: a.Number, In: b.Number, MostBefore: a.Screen().Count(), MostAfter: b.Screen().Count()}
	if a.Join != nil {
		out.MostBefore -= a.Join.After
	}
	if l.follows(i + 1) {
		if next := l.shots[i+1].Join; next != nil {
			out.MostAfter -= next.Before
		}
	}
	if j.Kind == scene.Dip {
		return out
	}
	_, later := l.room(i - 1)
	earlier, _ := l.room(i)
	out.MostBefore, out.MostAfter = min(out.MostBefore, earlier), min(out.MostAfter, later)
	out.Tail = max(0, handle(j.After, a)-a.Tail)
	out.Head = max(0, handle(j.Before, b)-b.Head)
	return out
}

// Where a join lies on its seam.
const (
	alignCentre = "centre"
	alignBefore = "before" // it ends at the seam
	alignAfter  = "after"  // it begins at the seam
)

type joinArgs struct {
	ID     string         `json:"id"`             // the shot that it leads into
	Kind   scene.JoinKind `json:"kind,omitempty"` // "" for a cut
	Frames int            `json:"frames,omitempty"`
	Align  string         `json:"align,omitempty"`
	Color  string         `json:"color,omitempty"`
	Ease   curve.Ease     `json:"ease,omitempty"`
	Rest   int            `json:"rest,omitempty"` // of a travel: frames for which it stays half way
	Give   bool           `json:"give,omitempty"` // lacking handles are given
}

func (a joinArgs) join() (scene.Join, error) {
	j := scene.Join{Kind: a.Kind, Color: a.Color, Ease: a.Ease}
	if a.Frames < 1 {
		return j, errors.New("a join lasts at least one frame; choose a cut for none")
	}
	switch a.Align {
	case alignCentre, "":
		j.Before = a.Frames / 2
	case alignBefore:
		j.Before = a.Frames
	case alignAfter:
	default:
		return j, fmt.Errorf("a join lies before, after or on the centre of the seam, not %q", a.Align)
	}
	j.After = a.Frames - j.Before
	if a.Rest != 0 {
		switch {
		case a.Kind != scene.Travels:
			return j, errors.New("only a travel rests on its way; choose travel, or no rest")
		case a.Rest < 0 || a.Rest > a.Frames-2:
			return j, fmt.Errorf("a travel of %d f can rest for %d f at most; make it longer", a.Frames, max(0, a.Frames-2))
		}
		j.Rest = a.Rest
	}
	switch {
	case a.Kind == scene.Dip && j.Color == "":
		j.Color = "#000000"
	case a.Kind == scene.Travels && j.Ease == "":
		j.Ease = curve.Soft
	}
	return j, nil
}

// setJoin makes a join of the seam at the head of a shot. Handles that lack are
// named, or given.
func setJoin(d *edit.Draft, a joinArgs) (string, error) {
	c, l, i, err := openShot(d, a.ID)
	if err != nil {
		return "", err
	}
	if !l.follows(i) {
		return "", errors.New("there is no seam to join: no shot ends where this one begins")
	}
	before, s := l.shots[i-1].Shot, l.shots[i].Shot
	if a.Kind == "" {
		s.Join = nil
		l.set(i, s)
		return c.done("cut from shot %s to %s", before.Number, s.Number)
	}
	j, err := a.join()
	if err != nil {
		return "", err
	}
	if j.Kind == scene.Travels && (before.Plays != scene.PlaysCamera || s.Plays != scene.PlaysCamera) {
		return "", errors.New("a camera can only travel between two shots that have cameras")
	}
	k := l.lack(i, j)
	if j.Before > k.MostBefore || j.After > k.MostAfter {
		return "", fmt.Errorf("a %s of %d f does not fit between shots %s and %s: at most %d f lie before the seam and %d f after it", j.Kind, j.Frames(), before.Number, s.Number, k.MostBefore, k.MostAfter)
	}
	if k.Tail+k.Head > 0 {
		if !a.Give {
			return "", k.refusal(j)
		}
		before.Tail += k.Tail
		s.Head += k.Head
		l.set(i-1, before)
	}
	s.Join = &j
	l.set(i, s)
	return c.done("%s of %d f from shot %s to %s", j.Kind, j.Frames(), before.Number, s.Number)
}

// refusal names the frames that lack.
func (k Lack) refusal(j scene.Join) error {
	var parts []string
	if k.Tail > 0 {
		parts = append(parts, fmt.Sprintf("shot %s lacks %d tail frames", k.Out, k.Tail))
	}
	if k.Head > 0 {
		parts = append(parts, fmt.Sprintf("shot %s lacks %d head frames", k.In, k.Head))
	}
	return fmt.Errorf("%s for a %s of %d f; give them, or choose a shorter one", strings.Join(parts, " and "), j.Kind, j.Frames())
}

// JoinLack tells what a join into a shot would lack; ok is false when no shot
// ends where it begins, or the join is not one.
func JoinLack(doc *scene.Document, shot string, kind scene.JoinKind, frames int, align string) (k Lack, ok bool) {
	_, l, i, err := openShot(&edit.Draft{Draft: patch.NewDraft(doc)}, shot)
	if err != nil || !l.follows(i) {
		return Lack{}, false
	}
	j, err := joinArgs{Kind: kind, Frames: frames, Align: align}.join()
	if err != nil {
		return Lack{}, false
	}
	return l.lack(i, j), true
}

// fitJoins shortens joins to what is around them, and drops those without a
// seam. Handles cover what is left.
func (l *lane) fitJoins() {
	for i := range l.shots {
		s := l.shots[i].Shot
		if s.Join == nil {
			continue
		}
		j := *s.Join
		if !l.follows(i) {
			j.Before, j.After = 0, 0
		} else {
			before := l.shots[i-1].Shot
			if j.Kind == scene.Travels && (before.Plays != scene.PlaysCamera || s.Plays != scene.PlaysCamera) {
				j.Before, j.After = 0, 0
			}
			most := before.Screen().Count()
			if before.Join != nil {
				most -= before.Join.After
			}
			j.Before, j.After = min(j.Before, most), min(j.After, s.Screen().Count())
			if j.Kind != scene.Dip {
				_, later := l.room(i - 1)
				earlier, _ := l.room(i)
				j.Before = min(j.Before, covers(s.Head, s), earlier)
				j.After = min(j.After, covers(before.Tail, before), later)
			}
		}
		switch {
		case j == *s.Join:
			continue
		case j.Frames() == 0:
			s.Join = nil
			l.cut.notes = append(l.cut.notes, fmt.Sprintf("shot %s now begins with a cut", s.Number))
		default:
			s.Join = &j
			l.cut.notes = append(l.cut.notes, fmt.Sprintf("the %s into shot %s now has %d f", j.Kind, s.Number, j.Frames()))
		}
		l.shots[i].Shot = s
		l.cut.draft.SetShot(l.shots[i].ID, s)
	}
}
