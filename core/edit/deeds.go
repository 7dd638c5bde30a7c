package edit

import (
	"fmt"
	"math"
	"slices"

	"proscen/core/scene"
)

// walkSpeed and runSpeed are usual speeds in m/s.
const (
	walkSpeed = 1.4
	runSpeed  = 3.4
)

type actionAddArgs struct {
	scene.Action
	Speed float64 `json:"speed,omitempty"` // walk, run: m/s; when given, Out follows from the length
	ID    string  `json:"id,omitempty"`
}

// actionAdd gives a subject something to do. A deed of the whole body makes room
// for itself: others that it runs into are shortened, moved up or removed.
// Gestures lie over them and make no room.
func actionAdd(d *Draft, a actionAddArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.Cast]
	if !ok {
		return "", fmt.Errorf("choose who does it")
	}
	if a.Do.Goes() {
		if a.Path == "" {
			a.Path = lastWay(d.Doc, a.Cast)
		}
		if a.Path == "" {
			return "", fmt.Errorf("to %s, %s needs a path; draw one on the plan", a.Do, n.Name)
		}
		if a.Out <= a.In && a.Speed == 0 {
			a.Speed = walkSpeed
			if a.Do == scene.Run {
				a.Speed = runSpeed
			}
		}
		if a.Speed > 0 {
			length, err := d.wayLength(a.Action)
			if err != nil {
				return "", err
			}
			a.Out = a.In + max(1, int(math.Round(length/a.Speed*d.Doc.Settings.Rate.PerSecond())))
		}
	}
	if a.Out <= a.In {
		a.Out = a.In + int(2*d.Doc.Settings.Rate.PerSecond())
	}
	id := pick(d, a.ID)
	if !a.Do.Gesture() {
		clearDeeds(d, a.Cast, a.In, a.Out, id)
	}
	d.SetAction(id, a.Action)
	return fmt.Sprintf("let %s %s", n.Name, deedName(a.Do)), nil
}

// lastWay returns the path that a subject went along last, or else one that was drawn
// for it and carries its name; "" for none.
func lastWay(doc *scene.Document, cast string) (path string) {
	until := math.MinInt
	for _, id := range ids(doc.Actions) {
		if a := doc.Actions[id]; a.Cast == cast && a.Do.Goes() && a.Out > until {
			path, until = a.Path, a.Out
		}
	}
	if path != "" {
		return path
	}
	for _, id := range ids(doc.Paths) {
		if doc.Paths[id].Name == pathName(doc.Nodes[cast]) {
			path = id
		}
	}
	return path
}

// pathName is what a path is called that is drawn for a node.
func pathName(n scene.Node) string { return n.Name + " path" }

func deedName(do scene.Deed) string {
	switch do {
	case scene.Take:
		return "pick something up"
	case scene.Give:
		return "hand something over"
	case scene.Put:
		return "put something down"
	case scene.PlayClip:
		return "play a clip"
	}
	return string(do)
}

// wayLength returns the metres that a walk or run covers.
func (d *Draft) wayLength(a scene.Action) (float64, error) {
	p, err := compiled(d.Doc.Paths[a.Path])
	if err != nil {
		return 0, fmt.Errorf("the path is not there any more")
	}
	end := p.Length()
	if a.End > 0 {
		end = min(end, a.End)
	}
	return max(0.01, end-min(a.Start, end)), nil
}

// clearDeeds makes room in [in, out) for a deed of the whole body: what reaches
// into it from before ends at in, what reaches out of it begins at out, and what
// lies inside is removed. Walks keep their times: only they and what holds a
// longer block are cut like the rest.
func clearDeeds(d *Draft, cast string, in, out int, except string) {
	for _, id := range ids(d.Doc.Actions) {
		a := d.Doc.Actions[id]
		if id == except || a.Cast != cast || a.Do.Gesture() || a.Out <= in || a.In >= out {
			continue
		}
		switch {
		case a.In < in && a.Out > out && !a.Do.Goes():
			rest := a
			a.Out, rest.In = in, out
			d.SetAction(id, a)
			d.SetAction(d.NewID(), rest)
		case a.In < in:
			a.Out = in
			d.SetAction(id, a)
		case a.Out > out:
			a.In = out
			d.SetAction(id, a)
		default:
			d.Delete("actions", id)
		}
	}
}

type actionTimeArgs struct {
	IDs  []string `json:"ids"`
	Edge string   `json:"edge,omitempty"` // in, out, or empty for the whole block
	By   int      `json:"by,omitempty"`   // frames

	Lasts float64 `json:"lasts,omitempty"` // seconds: moves the end of one so that it lasts so long
	Speed float64 `json:"speed,omitempty"` // m/s: moves the end of one walk or run so that it is so fast
}

// actionTime moves actions in story time, or one of their edges. Deeds of the
// whole body stop at their neighbours; an edge leaves at least one frame.
func actionTime(d *Draft, a actionTimeArgs) (string, error) {
	if len(a.IDs) == 0 {
		return "", errNothing
	}
	if a.Speed != 0 || a.Lasts != 0 {
		x, ok := d.Doc.Actions[a.IDs[0]]
		if !ok {
			return "", fmt.Errorf("the action is not there any more")
		}
		if len(a.IDs) > 1 {
			return "", fmt.Errorf("speed and duration are set for one action at a time; choose one")
		}
		seconds, err := a.seconds(d.Doc, x)
		if err != nil {
			return "", err
		}
		a.Edge, a.By = "out", x.In+max(1, int(math.Round(seconds*d.Doc.Settings.Rate.PerSecond())))-x.Out
	}
	by := a.By
	for _, id := range a.IDs {
		x, ok := d.Doc.Actions[id]
		if !ok {
			return "", fmt.Errorf("the action is not there any more")
		}
		least, most := -scene.MaxFrame, scene.MaxFrame
		if !x.Do.Gesture() {
			least, most = d.room(id, x, a.IDs)
		}
		switch a.Edge {
		case "in":
			by = max(least-x.In, min(by, x.Out-1-x.In))
		case "out":
			by = min(most-x.Out, max(by, x.In+1-x.Out))
		default:
			by = max(least-x.In, min(by, most-x.Out))
		}
	}
	for _, id := range a.IDs {
		x := d.Doc.Actions[id]
		if a.Edge != "out" {
			x.In += by
		}
		if a.Edge != "in" {
			x.Out += by
		}
		d.SetAction(id, x)
	}
	verb := "move"
	if a.Edge != "" {
		verb = "trim"
	}
	return fmt.Sprintf("%s %s by %+df", verb, deedName(d.Doc.Actions[a.IDs[0]].Do), by), nil
}

// seconds returns how long an action is to last.
func (a actionTimeArgs) seconds(doc *scene.Document, x scene.Action) (float64, error) {
	if a.Lasts != 0 {
		if !(a.Lasts > 0) {
			return 0, fmt.Errorf("something lasts more than 0 seconds, not %g", a.Lasts)
		}
		return a.Lasts, nil
	}
	if !(a.Speed > 0) {
		return 0, fmt.Errorf("the speed is %g m/s; it must be more than 0: to go the other way, turn the way round", a.Speed)
	}
	p, err := compiled(doc.Paths[x.Path])
	if err != nil {
		return 0, fmt.Errorf("it goes along no path")
	}
	from, to := x.Stretch(p.Length())
	return math.Abs(to-from) / a.Speed, nil
}

// room returns how far back and on a deed can go before it meets others of the
// same subject that do not move with it.
func (d *Draft) room(id string, x scene.Action, moving []string) (least, most int) {
	least, most = -scene.MaxFrame, scene.MaxFrame
	for k, o := range d.Doc.Actions {
		if k == id || o.Cast != x.Cast || o.Do.Gesture() || slices.Contains(moving, k) {
			continue
		}
		if o.Out <= x.In {
			least = max(least, o.Out)
		}
		if o.In >= x.Out {
			most = min(most, o.In)
		}
	}
	return least, most
}

type handOverArgs struct {
	From  string `json:"from"`
	To    string `json:"to"`
	Thing string `json:"thing"`
	In    int    `json:"in"`
	Out   int    `json:"out"`
}

// handOver lets one person give a thing to another, who takes it: both reach,
// and half way through the thing changes hands.
func handOver(d *Draft, a handOverArgs) (string, error) {
	giver, ok1 := d.Doc.Nodes[a.From]
	taker, ok2 := d.Doc.Nodes[a.To]
	thing, ok3 := d.Doc.Nodes[a.Thing]
	if !ok1 || !ok2 || !ok3 {
		return "", fmt.Errorf("choose who gives, who takes and what changes hands")
	}
	if a.Out <= a.In {
		a.Out = a.In + int(2*d.Doc.Settings.Rate.PerSecond())
	}
	d.SetAction(d.NewID(), scene.Action{Cast: a.From, Do: scene.Give, With: a.To, On: a.Thing, In: a.In, Out: a.Out})
	d.SetAction(d.NewID(), scene.Action{Cast: a.To, Do: scene.Take, With: a.From, On: a.Thing, In: a.In, Out: a.Out})
	return fmt.Sprintf("let %s hand %s to %s", giver.Name, thing.Name, taker.Name), nil
}

type lineAddArgs struct {
	scene.Line
	ID string `json:"id,omitempty"`
}

// secondsForWords is how long a line is spoken: a pause and a rate of words
// per second.
func secondsForWords(text string) float64 {
	words := 1
	for _, r := range text {
		if r == ' ' {
			words++
		}
	}
	return 0.5 + float64(words)/2.7
}

// lineAdd gives somebody a line to speak. Without an out it lasts as long as its
// words take.
func lineAdd(d *Draft, a lineAddArgs) (string, error) {
	n, ok := d.Doc.Nodes[a.Cast]
	if !ok {
		return "", fmt.Errorf("choose who speaks")
	}
	if a.Out <= a.In {
		a.Out = a.In + int(math.Ceil(secondsForWords(a.Text)*d.Doc.Settings.Rate.PerSecond()))
	}
	d.SetLine(pick(d, a.ID), a.Line)
	return "give " + n.Name + " a line", nil
}
