package assembly

import (
	"errors"
	"fmt"
	"slices"

	"proscen/core/edit"
	"proscen/core/scene"
)

// Switch is a camera that was put on air during a take, at a screen frame.
type Switch struct {
	At     int    `json:"at"`
	Camera string `json:"camera"`
}

type takeArgs struct {
	Assembly string   `json:"assembly"`
	In       int      `json:"in"` // screen frames over which the take was recorded
	Out      int      `json:"out"`
	StoryIn  float64  `json:"storyIn"` // the story frame at In
	Opening  string   `json:"opening"` // the camera that was on air there before
	Switches []Switch `json:"switches"`
}

// recordTake makes shots of what was put on air while the action played, over
// what the main lane held there: frame by frame what the monitor showed. It opens
// with the camera that was on air before; without one, the first switch counts from
// the start. Of several switches at one frame the last counts.
func recordTake(d *edit.Draft, a takeArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	if a.Out <= a.In || a.In < 0 {
		return "", errors.New("the take has no frames")
	}
	if len(a.Switches) == 0 {
		return "", errors.New("no camera was put on air during the take; press a camera of the wall or its digit")
	}
	list := slices.Clone(a.Switches)
	slices.SortStableFunc(list, func(x, y Switch) int { return x.At - y.At })
	opening := a.Opening
	if d.Doc.Nodes[opening].Camera == nil {
		opening = list[0].Camera
	}
	seen := []Switch{{At: a.In, Camera: opening}} // what was on air from which frame on
	for _, w := range list {
		if d.Doc.Nodes[w.Camera].Camera == nil {
			return "", errors.New("a camera of the take is not there any more")
		}
		if w.At >= a.Out {
			break
		}
		w.At = max(w.At, a.In)
		if last := len(seen) - 1; seen[last].At == w.At {
			seen = seen[:last]
		}
		if last := len(seen) - 1; last < 0 || seen[last].Camera != w.Camera {
			seen = append(seen, w)
		}
	}
	l := c.main()
	l.clear(a.In, a.Out)
	_, next := l.at(a.In)
	for i, w := range seen {
		end := a.Out
		if i+1 < len(seen) {
			end = seen[i+1].At
		}
		l.insert(next+i, "", scene.Shot{
			Number: l.number(next + i), Camera: w.Camera, Speed: 1, Head: 8, Tail: 8,
			ScreenIn: w.At, ScreenOut: end, StoryIn: a.StoryIn + float64(w.At-a.In),
		})
	}
	return c.done("record a take of %d shots", len(seen))
}

type roughArgs struct {
	From     int               `json:"from"` // story range
	To       int               `json:"to"`
	Speakers map[string]string `json:"speakers"` // cast id to camera id
	Wide     string            `json:"wide"`
	Lead     int               `json:"lead"`    // frames before a line at which its speaker's camera comes on air
	Lag      int               `json:"lag"`     // frames after it for which it stays
	Minimum  int               `json:"minimum"` // length of a shot
	Opening  int               `json:"opening"` // frames of the wide at the start, 0 for none
	Closing  int               `json:"closing"` // and at the end
	Name     string            `json:"name,omitempty"`
	ID       string            `json:"id,omitempty"`
}

// Stretch is a range of story time seen by a camera.
type Stretch struct {
	Camera  string
	In, Out int
}

// roughStretches follows who speaks: a line's camera comes on air some frames
// before the line and stays until some frames after it, or until the next
// speaker's comes. A pause that holds the shortest shot shows the wide; a
// shorter one stays with who spoke. Stretches shorter than the shortest take
// what they lack from the next.
func roughStretches(doc *scene.Document, a roughArgs) (out []Stretch) {
	add := func(camera string, in, out1 int) {
		if out1 <= in {
			return
		}
		if n := len(out); n > 0 && out[n-1].Camera == camera {
			out[n-1].Out = out1
			return
		}
		out = append(out, Stretch{camera, in, out1})
	}
	var lines []scene.Line
	for _, l := range doc.Lines {
		if l.Out > a.From && l.In < a.To {
			lines = append(lines, l)
		}
	}
	slices.SortFunc(lines, func(x, y scene.Line) int {
		if x.In != y.In {
			return x.In - y.In
		}
		return x.Out - y.Out
	})
	last := a.To - a.Closing
	at := a.From
	if a.Opening > 0 {
		at = min(last, a.From+a.Opening)
		add(a.Wide, a.From, at)
	}
	for i, l := range lines {
		camera := a.Speakers[l.Cast]
		if camera == "" {
			camera = a.Wide
		}
		start, end := max(at, l.In-a.Lead), l.Out+a.Lag
		if i+1 < len(lines) {
			end = min(end, lines[i+1].In-a.Lead)
		}
		if len(out) > 0 && start-at < a.Minimum && out[len(out)-1].Camera != a.Wide {
			add(out[len(out)-1].Camera, at, min(start, last)) // a short pause
		} else if start > at {
			add(a.Wide, at, min(start, last))
		}
		end = min(end, last)
		add(camera, min(start, last), end)
		at = max(at, end)
	}
	rest := a.Wide
	if a.Closing == 0 && len(out) > 0 && a.To-at < a.Minimum {
		rest = out[len(out)-1].Camera
	}
	add(rest, at, a.To)
	return lengthen(out, a.Minimum)
}

// lengthen gives stretches that are too short what they lack from the next; one
// that is left with nothing goes. The last takes from the one before.
func lengthen(list []Stretch, minimum int) (out []Stretch) {
	for _, s := range list {
		n := len(out)
		if n > 0 {
			before := &out[n-1]
			if before.Out-before.In < minimum {
				before.Out = min(s.Out, before.In+minimum)
			}
			s.In = before.Out
			if s.Out <= s.In {
				continue
			}
			if before.Camera == s.Camera {
				before.Out = s.Out
				continue
			}
		}
		out = append(out, s)
	}
	if n := len(out); n > 1 && out[n-1].Out-out[n-1].In < minimum {
		out[n-2].Out = out[n-1].Out
		out = out[:n-1]
	}
	return out
}

// roughCut makes an assembly whose shots follow who speaks.
func roughCut(d *edit.Draft, a roughArgs) (string, error) {
	if a.To <= a.From {
		return "", errors.New("the range of story time holds no frames")
	}
	if n := d.Doc.Nodes[a.Wide]; n.Camera == nil {
		return "", errors.New("choose a camera for the wide first")
	}
	for _, id := range a.Speakers {
		if n := d.Doc.Nodes[id]; id != "" && n.Camera == nil {
			return "", errors.New("a speaker's camera is not there any more; choose another")
		}
	}
	for _, v := range []int{a.Lead, a.Lag, a.Minimum, a.Opening, a.Closing} {
		if v < 0 || v > scene.MaxFrame {
			return "", errors.New("lead, lag and lengths are frames from 0 on")
		}
	}
	if a.Opening+a.Closing > a.To-a.From {
		return "", errors.New("opening and closing wide are longer than the range; shorten them")
	}
	list := roughStretches(d.Doc, a)
	if a.Name == "" {
		a.Name = "rough cut"
	}
	l := newAssembly(d, a.ID, a.Name)
	for i, s := range list {
		l.insert(i, "", scene.Shot{
			Number: fmt.Sprintf("%03d", 10*(i+1)), Name: d.Doc.Nodes[s.Camera].Name, Camera: s.Camera, Speed: 1, Head: 8, Tail: 8,
			ScreenIn: s.In - a.From, ScreenOut: s.Out - a.From, StoryIn: float64(s.In),
		})
	}
	return l.cut.done("rough cut of %d shots from the lines", len(list))
}
