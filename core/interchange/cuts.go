package interchange

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/program"
	"proscen/core/scene"
)

// Bounds of the files that bring cuts and lines.
const (
	MaxCutBytes = 32 << 20
	maxEvents   = 50_000
	maxNotes    = 40
)

// ErrCut says that a file that should bring a cut, or lines, cannot be read.
var ErrCut = errors.New("this cannot be read")

// Written is a file with what it does not carry.
type Written struct {
	Data  []byte
	Notes []string
}

// Notes collects what is said of a reading or writing, each once.
type notes []string

func (n *notes) add(format string, args ...any) {
	s := fmt.Sprintf(format, args...)
	if len(*n) < maxNotes && !slices.Contains(*n, s) {
		*n = append(*n, s)
	}
}

// count says something of a number of things, nothing of none.
func (n *notes) count(number int, one, many string) {
	switch {
	case number == 1:
		n.add("%s", one)
	case number > 1:
		n.add(many, number)
	}
}

// cameraFor finds a camera by what a foreign file says: its id, its name, or a
// number in words such as "CAM03" or "camera 3".
func cameraFor(doc *scene.Document, words ...string) string {
	for _, w := range words {
		w = strings.TrimSpace(w)
		if w == "" {
			continue
		}
		if n := doc.Nodes[w]; n.Camera != nil {
			return w
		}
		number, isNumber := -1, false
		for _, before := range []string{"CAMERA", "CAM"} {
			if rest, ok := strings.CutPrefix(strings.ToUpper(w), before); ok {
				v, err := strconv.Atoi(strings.Trim(rest, " _-"))
				number, isNumber = v, err == nil
				break
			}
		}
		found := ""
		for id, n := range doc.Nodes {
			if n.Camera == nil {
				continue
			}
			if strings.EqualFold(n.Name, w) || isNumber && n.Camera.Number == number {
				if found == "" || id < found {
					found = id
				}
			}
		}
		if found != "" {
			return found
		}
	}
	return ""
}

// shotFrom makes a shot that a foreign file names: seen by a camera that the
// scene has, else standing for boards to come.
func shotFrom(doc *scene.Document, said *notes, name string, cameras ...string) scene.Shot {
	s := scene.Shot{Name: name, Speed: 1}
	if s.Camera = cameraFor(doc, cameras...); s.Camera == "" {
		s.Plays = scene.PlaysBoard
		said.add("The scene has no camera for “%s”; the shot stands without one.", name)
	}
	return s
}

// reel names a shot's camera as edit lists do.
func reel(doc *scene.Document, s scene.Shot) string {
	if n := doc.Nodes[s.Camera]; s.Plays == scene.PlaysCamera && n.Camera != nil {
		return fmt.Sprintf("CAM%02d", n.Camera.Number)
	}
	return strings.ToUpper(string(s.Plays))
}

// what a shot shows, in words.
func shows(doc *scene.Document, s scene.Shot) string {
	switch s.Plays {
	case scene.PlaysCard:
		return "card " + doc.Cards[s.Card].Name
	case scene.PlaysFootage:
		return "footage " + doc.Footage[s.Footage].Name
	case scene.PlaysBoard:
		return "board"
	}
	return doc.Nodes[s.Camera].Name
}

// whole tells whether a number is one of frames.
func whole(v float64) bool { return math.Abs(v-math.Round(v)) < 1e-6 }

// shotsOf returns the shots that an assembly plays, in order.
func shotsOf(doc *scene.Document, id string) []program.Entry {
	return program.Compile(doc, id).Shots()
}
