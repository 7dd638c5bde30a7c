package assembly

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"proscen/core/edit"
	"proscen/core/program"
	"proscen/core/scene"
)

type cueArgs struct {
	Assembly string      `json:"assembly"`
	Clock    scene.Clock `json:"clock"`
}

// shotsFromCues makes shots of cues. What is on the main lane goes to a spare
// lane of its own.
func shotsFromCues(d *edit.Draft, a cueArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	shots := program.FromCues(d.Doc, a.Assembly, a.Clock)
	if len(shots) == 0 {
		return "", fmt.Errorf("no marker on the %s clock names a camera; give some a camera first", a.Clock)
	}
	c.setAside("before cues")
	l := c.main()
	for _, e := range shots {
		e.Number = l.number(len(l.shots))
		l.insert(len(l.shots), "", e.Shot)
	}
	v := d.Doc.Assemblies[a.Assembly]
	v.Cues = ""
	d.SetAssembly(a.Assembly, v)
	return c.done("make %d shots from cues", len(shots))
}

// setCue puts a camera on air in an assembly that follows cues: by the cue that stands
// at the screen frame, or by a new one.
func setCue(d *edit.Draft, assembly string, clock scene.Clock, at int, camera string) (string, error) {
	frame, number := at, d.Doc.Nodes[camera].Camera.Number
	cues := program.Cues(d.Doc, assembly, clock)
	switch {
	case clock == scene.StoryClock && len(cues) == 0: // the action runs uncut until now
		frame += d.Doc.Settings.Story.In
	case clock == scene.StoryClock:
		var air program.Air
		program.Compile(d.Doc, assembly).At(float64(at), &air)
		if len(air.Playing) == 0 {
			return "", errors.New("the cues have come to their end here; lengthen the story, or go back")
		}
		frame = int(math.Round(air.Playing[0].Story))
	}
	for _, id := range cues {
		m := d.Doc.Markers[id]
		if m.Frame != frame {
			continue
		}
		if m.Camera == camera {
			return "", fmt.Errorf("camera %d is on air here already", number)
		}
		m.Camera, m.Color = camera, d.Doc.Nodes[camera].Camera.Color
		d.SetMarker(id, m)
		return fmt.Sprintf("cue camera %d", number), nil
	}
	m := scene.Marker{Clock: clock, Frame: frame, Name: "cue", Color: d.Doc.Nodes[camera].Camera.Color, Camera: camera}
	if clock == scene.ScreenClock {
		m.Assembly = assembly
	}
	d.SetMarker(d.NewID(), m)
	return fmt.Sprintf("cue camera %d", number), nil
}

// setAside moves everything on the main lane to a new spare lane.
func (c *cut) setAside(name string) {
	l := c.main()
	if len(l.shots) == 0 {
		return
	}
	to := c.newSpare(name)
	all := l.shots
	l.shots = nil
	for _, e := range all {
		e.Join = nil
		to.insert(len(to.shots), e.ID, e.Shot)
	}
}

// cuesFromShots sets a cue at the head of each shot; cues that were there on
// that clock go.
func cuesFromShots(d *edit.Draft, a cueArgs) (string, error) {
	c, err := open(d, a.Assembly)
	if err != nil {
		return "", err
	}
	shots := c.main().shots
	if len(shots) == 0 {
		return "", errors.New("there are no shots to make cues of")
	}
	for _, id := range program.Cues(d.Doc, a.Assembly, a.Clock) {
		d.Delete("markers", id)
	}
	count := 0
	taken := map[int]bool{}
	for _, s := range shots {
		m := scene.Marker{Clock: a.Clock, Frame: s.ScreenIn, Name: strings.TrimSpace(s.Number + " " + s.Name), Camera: s.Camera, Color: "#e2b45a"}
		if a.Clock == scene.StoryClock {
			m.Frame = int(s.StoryIn)
		} else {
			m.Assembly = a.Assembly
		}
		if s.Camera == "" || taken[m.Frame] {
			continue
		}
		if n := d.Doc.Nodes[s.Camera]; n.Camera != nil {
			m.Color = n.Camera.Color
		}
		taken[m.Frame] = true
		d.SetMarker(d.NewID(), m)
		count++
	}
	return c.done("make %d cues from shots", count)
}

type stillsArgs struct {
	Story float64 `json:"story"`
	Name  string  `json:"name,omitempty"`
	ID    string  `json:"id,omitempty"`
}

// oneFrameEach makes an assembly with one frame of each camera of the wall at a
// story frame.
func oneFrameEach(d *edit.Draft, a stillsArgs) (string, error) {
	var cameras []string
	for _, id := range slices.Sorted(maps.Keys(d.Doc.Nodes)) {
		if n := d.Doc.Nodes[id]; n.Camera != nil && !n.Camera.Archived {
			cameras = append(cameras, id)
		}
	}
	if len(cameras) == 0 {
		return "", errors.New("there is no camera yet; leave one in the scout view first")
	}
	slices.SortStableFunc(cameras, func(x, y string) int {
		return d.Doc.Nodes[x].Camera.Number - d.Doc.Nodes[y].Camera.Number
	})
	if a.Name == "" {
		a.Name = fmt.Sprintf("stills at %.0f", a.Story)
	}
	l := newAssembly(d, a.ID, a.Name)
	for i, id := range cameras {
		l.insert(i, "", scene.Shot{
			Number: fmt.Sprintf("%03d", 10*(i+1)), Name: d.Doc.Nodes[id].Name, Camera: id, Speed: 1,
			ScreenIn: i, ScreenOut: i + 1, StoryIn: a.Story,
		})
	}
	return l.cut.done("one frame of each of %d cameras", len(cameras))
}
