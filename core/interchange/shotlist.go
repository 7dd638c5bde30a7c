package interchange

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"proscen/core/scene"
)

// ShotRow is a shot as lists for people show it.
type ShotRow struct {
	ID       string
	Number   string
	Name     string
	Camera   string // its number, "" when something else stands for it
	Shows    string
	Lens     string // mm
	ScreenIn int
	Frames   int
	TimeIn   string
	TimeOut  string // of the frame after the last
	StoryIn  float64
	StoryOut float64 // the last frame shown
	Speed    float64
	Join     string
	Head     int
	Tail     int
	Status   string
	Notes    string
	Lines    []string
}

// ShotList returns the rows of an assembly's main lane.
func ShotList(doc *scene.Document, id string) []ShotRow {
	set := &doc.Settings
	lines := slices.SortedFunc(maps.Values(doc.Lines), func(a, b scene.Line) int {
		return cmp.Or(a.In-b.In, strings.Compare(a.Text, b.Text))
	})
	var out []ShotRow
	for _, e := range shotsOf(doc, id) {
		s := e.Shot
		r := ShotRow{
			ID: e.ID, Number: s.Number, Name: s.Name, Shows: shows(doc, s), ScreenIn: s.ScreenIn, Frames: s.Screen().Count(),
			TimeIn: set.Timecode(scene.ScreenClock, s.ScreenIn), TimeOut: set.Timecode(scene.ScreenClock, s.ScreenOut),
			StoryIn: s.StoryIn, StoryOut: s.StoryAt(float64(s.ScreenOut - 1)), Speed: s.Speed, Join: "cut", Head: s.Head, Tail: s.Tail,
			Status: string(s.Status), Notes: s.Notes,
		}
		if n := doc.Nodes[s.Camera]; s.Plays == scene.PlaysCamera && n.Camera != nil {
			r.Camera, r.Lens = strconv.Itoa(n.Camera.Number), strconv.FormatFloat(n.Camera.Focal, 'f', -1, 64)
		}
		if s.Join != nil {
			r.Join = fmt.Sprintf("%s %d f", s.Join.Kind, s.Join.Frames())
		}
		for _, l := range lines {
			if float64(l.In) < s.StoryOut() && float64(l.Out) > s.StoryIn {
				r.Lines = append(r.Lines, doc.Nodes[l.Cast].Name+": "+l.Text)
			}
		}
		out = append(out, r)
	}
	return out
}

// ShotColumns are the titles of a shot list's columns.
var ShotColumns = []string{
	"Shot", "Name", "Camera", "Shows", "Lens mm", "Screen in", "Frames", "Time in", "Time out", "Story in", "Story last", "Speed", "Begins with", "Head", "Tail", "Status", "Notes",
}

// Cells returns a row's values in the order of ShotColumns.
func (r ShotRow) Cells() []any {
	return []any{
		r.Number, r.Name, r.Camera, r.Shows, r.Lens, r.ScreenIn, r.Frames, r.TimeIn, r.TimeOut, r.StoryIn, r.StoryOut, r.Speed, r.Join, r.Head, r.Tail, r.Status, r.Notes,
	}
}

// WriteCSV writes a shot list as comma-separated values (RFC 4180). Text that a
// spreadsheet would take for a formula is quoted.
func WriteCSV(doc *scene.Document, id string) Written {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	_ = w.Write(ShotColumns) // a buffer takes everything
	for _, r := range ShotList(doc, id) {
		var row []string
		for _, c := range r.Cells() {
			switch v := c.(type) {
			case string:
				row = append(row, Harmless(v))
			default:
				row = append(row, fmt.Sprint(v))
			}
		}
		_ = w.Write(row)
	}
	w.Flush()
	var said notes
	said.add("A list carries the main lane only, without markers, boards and sound.")
	return Written{b.Bytes(), said}
}

// Harmless returns text that no spreadsheet takes for a formula.
func Harmless(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
