package interchange

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/assembly"
	"proscen/core/program"
	"proscen/core/scene"
)

// listColumns are the columns of a shot list that are taken over, by the titles that they
// may have in small letters.
var listColumns = map[string]string{
	"shot": "shot", "shot no": "shot", "shot no.": "shot", "shot number": "shot", "number": "shot", "no": "shot", "no.": "shot",
	"name": "name", "title": "name", "shot name": "name",
	"frames": "frames", "length": "frames", "duration": "frames", "frame count": "frames",
	"status": "status", "state": "status",
	"notes": "notes", "note": "notes", "comment": "notes", "comments": "notes", "remarks": "notes",
}

// headRows is among how many rows of a table its titles are looked for.
const headRows = 20

// listHead returns which column of a row of titles is what, or nil.
func listHead(row []string) map[string]int {
	out := map[string]int{}
	for i, title := range row {
		if c := listColumns[strings.ToLower(strings.TrimSpace(title))]; c != "" {
			if _, twice := out[c]; !twice {
				out[c] = i
			}
		}
	}
	if _, ok := out["shot"]; !ok || len(out) < 2 {
		return nil
	}
	return out
}

// listBegins tells whether text has the titles of a shot list among its first rows, and
// what its cells are parted by.
func listBegins(text string) (comma rune, ok bool) {
	n := 0
	for row := range strings.Lines(text) {
		for _, comma := range []rune{',', ';', '\t'} {
			cells := strings.Split(strings.TrimSpace(row), string(comma))
			for i := range cells {
				cells[i] = strings.Trim(cells[i], "\" ")
			}
			if listHead(cells) != nil {
				return comma, true
			}
		}
		if n++; n >= headRows {
			break
		}
	}
	return 0, false
}

// ReadShotList reads a list of shots as WriteCSV and people write it: columns by their
// titles in any order, parted by commas, semicolons or tabs. Shots of an assembly are found
// by their number; it returns what the list says otherwise than the cut, of lengths, names,
// states and notes, and the changes in words.
func ReadShotList(doc *scene.Document, id string, data []byte) (assembly.ListedArgs, []Change, []string, error) {
	var out assembly.ListedArgs
	if len(data) > MaxCutBytes {
		return out, nil, nil, fmt.Errorf("%w: it has more than %d MB", ErrCut, MaxCutBytes>>20)
	}
	text := plain(data)
	comma, _ := listBegins(text)
	if comma == 0 {
		return out, nil, nil, fmt.Errorf("%w as a shot list: it has no columns “Shot” and “Frames”, “Name”, “Status” or “Notes”", ErrCut)
	}
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.ReuseRecord = comma, true, -1, true
	l := listReader{doc: doc, found: shotsByNumber(doc, id), listed: map[string]int{}, before: map[string][]any{}}
	for _, row := range ShotList(doc, id) {
		l.before[row.ID] = row.Cells()
	}
	for n := 0; ; n++ {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return out, nil, nil, fmt.Errorf("%w as a shot list: %w", ErrCut, err)
		}
		if n > maxEvents {
			return out, nil, nil, fmt.Errorf("%w as a shot list: it has more than %d rows", ErrCut, maxEvents)
		}
		at, _ := r.FieldPos(0)
		if l.columns == nil {
			l.head(row)
		} else {
			l.row(at, row)
		}
	}
	l.told()
	if len(l.out) == 0 {
		what := "nothing in it differs from the cut"
		if len(l.said) > 0 {
			what += ". " + strings.Join(l.said, " ")
		}
		return out, nil, nil, fmt.Errorf("this shot list changes nothing: %s", what)
	}
	out.Shots = l.out
	return out, l.changes(id), l.said, nil
}

// shotsByNumber finds the shots of an assembly by their numbers, those of the main lane
// before others; without the zeros in front too, which spreadsheets leave out, where that
// is one shot's.
func shotsByNumber(doc *scene.Document, id string) map[string]string {
	out := map[string]string{}
	main := program.MainLane(doc, id)
	for _, wanted := range []bool{true, false} {
		for _, e := range doc.ShotsInOrder() {
			if (e.Lane == main) != wanted || doc.Lanes[e.Lane].Assembly != id || e.Number == "" {
				continue
			}
			if _, ok := out[e.Number]; !ok {
				out[e.Number] = e.ID
			}
			short := "=" + strings.TrimLeft(e.Number, "0")
			if other, ok := out[short]; ok && other != e.ID {
				out[short] = "" // two of them
			} else {
				out[short] = e.ID
			}
		}
	}
	return out
}

// listReader is what has been read of a shot list so far.
type listReader struct {
	doc     *scene.Document
	found   map[string]string // shots by number
	columns map[string]int
	others  map[int]int // columns that are not taken over, and which of ShotColumns they are
	before  map[string][]any
	listed  map[string]int // shots of the list, and their rows
	out     []assembly.Listed
	gone    []string // numbers that are not in the cut
	locked  int
	differ  []string // columns that say something else and are not taken over
	said    notes
}

func (l *listReader) head(row []string) {
	if l.columns = listHead(row); l.columns == nil {
		return
	}
	l.others = map[int]int{}
	for i, title := range row {
		switch k := slices.IndexFunc(ShotColumns, func(c string) bool { return strings.EqualFold(c, strings.TrimSpace(title)) }); {
		case k < 0 || listColumns[strings.ToLower(ShotColumns[k])] != "":
		case strings.HasPrefix(ShotColumns[k], "Time"), ShotColumns[k] == "Screen in", ShotColumns[k] == "Story last": // they follow
		default:
			l.others[i] = k
		}
	}
}

func (l *listReader) row(at int, row []string) {
	cell := func(column string) (string, bool) {
		i, ok := l.columns[column]
		if !ok || i >= len(row) {
			return "", false
		}
		return strings.TrimSpace(strings.TrimPrefix(row[i], "'")), true
	}
	number, _ := cell("shot")
	if number == "" {
		if strings.TrimSpace(strings.Join(row, "")) != "" {
			l.said.add("Row %d names no shot and is left out.", at)
		}
		return
	}
	id := l.found[number]
	if id == "" {
		id = l.found["="+strings.TrimLeft(number, "0")]
	}
	if id == "" {
		l.gone = append(l.gone, number)
		return
	}
	if first, twice := l.listed[id]; twice {
		l.said.add("Row %d names shot %s again; what row %d says stands.", at, clip(number), first)
		return
	}
	l.listed[id] = at
	shot := l.doc.Shots[id]
	k := assembly.Listed{ID: id}
	differs := func(column, is string, to **string) {
		if v, ok := cell(column); ok && v != strings.TrimSpace(is) {
			*to = &v
		}
	}
	differs("name", shot.Name, &k.Name)
	differs("notes", strings.ReplaceAll(shot.Notes, "\r\n", "\n"), &k.Notes)
	var status *string
	if differs("status", string(shot.Status), &status); status != nil {
		s := scene.ShotStatus(strings.ToLower(*status))
		switch {
		case s == shot.Status:
		case s == "" || slices.Contains([]scene.ShotStatus{scene.StatusIdea, scene.StatusBlocked, scene.StatusAgreed}, s):
			k.Status = &s
		default:
			l.said.add("Row %d: “%s” is no status; it is idea, blocked or agreed. It stays as it is.", at, clip(*status))
		}
	}
	if v, ok := cell("frames"); ok && v != "" {
		switch n, ok := l.frames(v); {
		case !ok:
			l.said.add("Row %d: “%s” is no length; write frames, seconds with “s”, or a timecode. It stays as it is.", at, clip(v))
		case n != shot.Screen().Count():
			k.Frames = &n
		}
	}
	if was := l.before[id]; was != nil {
		for i, column := range l.others {
			if i < len(row) && !sameCell(row[i], was[column]) && !slices.Contains(l.differ, ShotColumns[column]) {
				l.differ = append(l.differ, ShotColumns[column])
			}
		}
	}
	switch {
	case k == assembly.Listed{ID: id}:
	case shot.Locked || l.doc.Lanes[shot.Lane].Locked:
		l.locked++
	default:
		l.out = append(l.out, k)
	}
}

// frames reads a length: frames, seconds, or a timecode.
func (l *listReader) frames(v string) (int, bool) {
	low := strings.ToLower(v)
	rate := l.doc.Settings.Rate
	if strings.ContainsAny(v, ":;") {
		n, err := rate.ParseTimecode(v)
		return n, err == nil && n >= 1 && n <= scene.MaxFrame
	}
	number, seconds := low, false
	for _, unit := range []string{"frames", "f", "seconds", "sec", "s"} {
		if rest, ok := strings.CutSuffix(low, unit); ok {
			number, seconds = strings.TrimSpace(rest), unit[0] == 's'
			break
		}
	}
	x, err := strconv.ParseFloat(strings.Replace(number, ",", ".", 1), 64)
	if err != nil {
		return 0, false
	}
	if seconds {
		x = math.Round(rate.Frames(x))
	}
	return int(x), x == math.Trunc(x) && x >= 1 && x <= scene.MaxFrame
}

// sameCell tells whether a cell says what was written; numbers are compared as such.
func sameCell(cell string, was any) bool {
	a, b := strings.TrimSpace(strings.TrimPrefix(cell, "'")), strings.TrimSpace(fmt.Sprint(was))
	if a == b || a == "" {
		return true
	}
	x, errX := strconv.ParseFloat(strings.Replace(a, ",", ".", 1), 64)
	y, errY := strconv.ParseFloat(b, 64)
	return errX == nil && errY == nil && math.Abs(x-y) < 0.006
}

// told adds what is left out.
func (l *listReader) told() {
	if n := len(l.gone); n > 0 {
		some := l.gone[:min(n, 6)]
		more := ""
		if n > len(some) {
			more = fmt.Sprintf(" and %d more", n-len(some))
		}
		l.said.add("Not in this cut, and left out: %s%s.", clip(strings.Join(some, ", ")), more)
	}
	l.said.count(l.locked, "One shot that the list would change is locked and stays as it is.", "%d shots that the list would change are locked and stay as they are.")
	if len(l.differ) > 0 {
		slices.Sort(l.differ)
		l.said.add("What the list says otherwise under %s is not taken over.", strings.Join(l.differ, ", "))
	}
}

// changes tells what becomes of which shot, and of the length of the whole.
func (l *listReader) changes(id string) (out []Change) {
	longer := 0
	for _, k := range l.out {
		shot := l.doc.Shots[k.ID]
		add := func(what, was, is string) {
			out = append(out, Change{What: "Shot " + shot.Number + ", " + what, Was: was, Is: is})
		}
		if k.Frames != nil {
			was := shot.Screen().Count()
			add("length", fmt.Sprintf("%d f", was), fmt.Sprintf("%d f", *k.Frames))
			if l.doc.Lanes[shot.Lane].Main {
				longer += *k.Frames - was
			}
		}
		for _, t := range []struct {
			what, was string
			is        *string
		}{{"name", shot.Name, k.Name}, {"status", string(shot.Status), (*string)(k.Status)}, {"notes", shot.Notes, k.Notes}} {
			if t.is != nil {
				add(t.what, t.was, *t.is)
			}
		}
	}
	if longer != 0 {
		end := program.Compile(l.doc, id).Length()
		out = append(out, Change{"The whole", l.doc.Settings.Rate.Timecode(end, l.doc.Settings.Drop), l.doc.Settings.Rate.Timecode(end+longer, l.doc.Settings.Drop)})
	}
	return out
}
