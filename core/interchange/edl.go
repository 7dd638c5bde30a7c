package interchange

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"proscen/core/assembly"
	"proscen/core/curve"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/timing"
)

// EDLStart is the hour at which record times of edit lists begin, if the scene
// does not say where its screen time begins.
const EDLStart = 1

// WriteEDL writes the main lane of an assembly as a CMX 3600 edit list: source
// times are those of a delivered file, counted from 0, or else story time; record times screen time from one o'clock on. A dissolve
// begins where its first frame is, as edit lists count them. What the format has
// no events for stands in comments, which reading takes up again.
func WriteEDL(doc *scene.Document, id string, deliveries map[string]Delivered) Written {
	rate := doc.Settings.Rate
	drop := doc.Settings.Drop && rate.CanDrop()
	var said notes
	var b strings.Builder
	fmt.Fprintf(&b, "TITLE: %s\r\n", edlText(doc.Settings.Title+" - "+doc.Assemblies[id].Name, 70))
	mode := "NON-DROP FRAME"
	if drop {
		mode = "DROP FRAME"
	}
	fmt.Fprintf(&b, "FCM: %s\r\n", mode)
	zero := doc.Settings.ScreenStart
	if zero == 0 {
		zero = recordStart(rate, drop)
	}
	tc := func(f float64) string { return rate.Timecode(int(math.Round(f)), drop) }
	shots := shotsOf(doc, id)
	if len(shots) > 999 {
		said.add("The list has %d events; some readers stop at 999.", len(shots))
	}
	// The record times of an event: a dissolve takes from the shot before what
	// comes before its seam. After a gap there is none.
	follows := func(i int) bool { return i > 0 && i < len(shots) && shots[i-1].ScreenOut == shots[i].ScreenIn }
	dissolves := func(i int) bool {
		return follows(i) && shots[i].Join != nil && shots[i].Join.Kind == scene.Dissolve
	}
	in := func(i int) int {
		if dissolves(i) {
			return shots[i].ScreenIn - shots[i].Join.Before
		}
		return shots[i].ScreenIn
	}
	out := func(i int) int {
		if follows(i + 1) {
			return in(i + 1)
		}
		return shots[i].ScreenOut
	}
	day, _ := rate.ParseTimecode(clock(24, drop))
	for i, s := range shots {
		a, z := in(i), out(i)
		event := func(reel, kind string, from program.Entry, a, z int) {
			src, speed := from.StoryAt(float64(a)), edlSpeed(from.Speed)
			if file, ok := deliveries[from.ID]; ok {
				src, speed = float64(file.Head+a-from.ScreenIn), 1
				if src < 0 {
					said.add("The file of shot %s has fewer frames before it than the dissolve into it takes.", from.Number)
					src = 0
				}
			}
			if src < 0 {
				src += float64(day) // times of the evening before: edit lists have none below 0
			}
			fmt.Fprintf(&b, "%03d  %-8s V     %-9s %s %s %s %s\r\n", i+1, reel, kind,
				tc(src), tc(src+float64(z-a)*speed), tc(float64(zero+a)), tc(float64(zero+z)))
		}
		file, delivered := deliveries[s.ID]
		if dissolves(i) {
			event(reel(doc, shots[i-1].Shot), "C", shots[i-1], a, a)
			event(reel(doc, s.Shot), fmt.Sprintf("D    %03d", s.Join.Frames()), s, a, z)
		} else {
			event(reel(doc, s.Shot), "C", s, a, z)
		}
		if s.Speed != 1 && !delivered {
			fmt.Fprintf(&b, "M2   %-8s %05.1f                %s\r\n", reel(doc, s.Shot), s.Speed*rate.PerSecond(), tc(s.StoryAt(float64(a))))
		}
		fmt.Fprintf(&b, "* FROM CLIP NAME: %s\r\n", edlText(strings.TrimSpace(s.Number+" "+s.Name), 60))
		if delivered {
			fmt.Fprintf(&b, "* SOURCE FILE: %s\r\n", edlText(file.File, 200))
		}
		fmt.Fprintf(&b, "* SHOWS: %s\r\n", edlText(shows(doc, s.Shot), 60))
		fmt.Fprintf(&b, "* HANDLES: %d %d\r\n", s.Head, s.Tail)
		if !whole(s.StoryIn) || s.Speed != 1 || delivered || s.StoryAt(float64(a)) < 0 {
			fmt.Fprintf(&b, "* STORY: %s SPEED %s\r\n", number(s.StoryIn), number(s.Speed))
			if !delivered && (!whole(s.StoryIn) || !whole(s.StoryOut())) {
				said.add("Source times are whole frames; shots that begin between two are exact in a comment only.")
			}
		}
		if j := s.Join; j != nil {
			fmt.Fprintf(&b, "* JOIN: %s %d %d %s%s", j.Kind, j.Before, j.After, j.Color, j.Ease)
			if j.Rest > 0 {
				fmt.Fprintf(&b, " %d", j.Rest)
			}
			b.WriteString("\r\n")
			if j.Kind != scene.Dissolve {
				said.add("Joins of the kind %s are cuts in the list; a comment keeps them.", j.Kind)
			}
		}
		if s.Plays != scene.PlaysCamera {
			said.add("Shots that play a %s are events of a reel of that name.", s.Plays)
		}
		if s.Speed == 0 && !delivered {
			said.add("Held frames have a speed of 0; some readers want them as stills.")
		}
	}
	markers := 0
	for _, m := range doc.Markers {
		if m.Clock == scene.ScreenClock && m.Assembly == id {
			markers++
		}
	}
	said.count(markers, "The marker is not in the list.", "The %d markers are not in the list.")
	spares := 0
	for _, l := range program.SpareLanes(doc, id) {
		spares += len(program.Shots(doc, l))
	}
	said.count(spares, "The shot of the spare lane is not in the list.", "The %d shots of spare lanes are not in the list.")
	said.count(len(doc.Sounds), "The sound is not in the list.", "The %d sounds are not in the list.")
	said.count(len(doc.Lines), "The line of dialogue is not in the list.", "The %d lines of dialogue are not in the list.")
	return Written{[]byte(b.String()), said}
}

func recordStart(rate timing.Rate, drop bool) int {
	f, _ := rate.ParseTimecode(clock(EDLStart, drop)) // it exists at every rate
	return f
}

// clock is a whole hour as timecode.
func clock(hour int, drop bool) string {
	if drop {
		return fmt.Sprintf("%02d:00:00;00", hour)
	}
	return fmt.Sprintf("%02d:00:00:00", hour)
}

// edlSpeed is how far the source of an event runs in a frame; of a held frame
// one frame is given.
func edlSpeed(speed float64) float64 {
	if speed == 0 {
		return 1
	}
	return speed
}

func number(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }

// edlText makes text that fits a line of an edit list.
func edlText(s string, most int) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' {
			return ' '
		}
		return r
	}, s)
	if r := []rune(s); len(r) > most {
		s = string(r[:most])
	}
	return strings.TrimSpace(s)
}

// edlEvent is an event: number, reel (which may have spaces), channels, kind, frames, times of
// the source and of the record.
var edlEvent = regexp.MustCompile(`(?i)^(\d{1,6})\s+(.+?)\s+([ABVN][A-Z0-9/]*)\s+(C|D|W\d*|K\S*)\s+(?:B\s+|O\s+)?(?:(\d{1,4})\s+)?(\S+)\s+(\S+)\s+` + edlTime + `\s+` + edlTime + `(?:\s.*)?$`)

const edlTime = `(-?\d{2}[:;.]\d{2}[:;.]\d{2}[:;.,]\d{2})`

// edlRead is an event while it is read.
type edlRead struct {
	line          int
	reel          string
	hour          int  // of the record
	drop          bool // it is counted in drop-frame
	fromBlack     bool // it comes up from a picture of no length that is black
	dissolve      int  // frames, 0 for a cut
	srcIn         float64
	recIn, recOut int
	clipName      string
	shows         string
	speed         *float64
	story         *float64
	head, tail    int
	join          *scene.Join
}

// ReadEDL reads a CMX 3600 edit list for a scene, also in small letters, with any ends of
// lines and its events in any order. Record times begin at the whole hour before the first
// event; what lies shortly before the hour at which another begins, as a slate does, is left
// out. Drop-frame is what a line FCM says, from there on, or a semicolon in a time. What is not
// taken over is said.
func ReadEDL(doc *scene.Document, data []byte) (assembly.Incoming, []string, error) {
	out := assembly.Incoming{Assembly: scene.Assembly{Name: "edit list"}}
	if len(data) > MaxCutBytes {
		return out, nil, fmt.Errorf("%w: it has more than %d MB", ErrCut, MaxCutBytes>>20)
	}
	var said notes
	rate := doc.Settings.Rate
	drop := false
	events := []*edlRead{}
	rows, err := rowsOf(data)
	if err != nil {
		return out, nil, err
	}
	last := map[string]*edlRead{} // of each reel, in capitals
	black := -1                   // where a picture of no length is black that what follows comes up from
	for i, text := range rows {
		n := i + 1
		upper := strings.ToUpper(text)
		var now *edlRead
		if len(events) > 0 {
			now = events[len(events)-1]
		}
		switch {
		case text == "":
		case strings.HasPrefix(upper, "TITLE:"):
			if name := strings.TrimSpace(text[6:]); name != "" {
				out.Assembly.Name = name
			}
		case strings.HasPrefix(upper, "FCM:"):
			if drop = strings.Contains(upper, "DROP") && !strings.Contains(upper, "NON"); drop && !rate.CanDrop() {
				return out, nil, fmt.Errorf("%w as an edit list: line %d says drop-frame, which does not exist at the scene's %s frames per second", ErrCut, n, rate)
			}
		case strings.HasPrefix(upper, "M2"):
			if of, v, ok := edlMotion(upper, last); ok {
				v /= rate.PerSecond()
				of.speed = &v
			} else {
				said.add("Line %d: a speed that belongs to no event was left out.", n)
			}
		case strings.HasPrefix(text, "*"):
			if now != nil {
				comment(now, strings.TrimSpace(text[1:]))
			}
		case text[0] >= '0' && text[0] <= '9':
			e, kind, err := readEvent(text, rate, drop, &said)
			if err != nil {
				return out, nil, fmt.Errorf("%w as an edit list: line %d, %w", ErrCut, n, err)
			}
			e.line = n
			switch {
			case kind.sound:
				said.add("Events of sound were left out.")
			case kind.key:
				said.add("Line %d: a key over another picture was left out.", n)
			default:
				if kind.wipe {
					said.add("A wipe became a dissolve.")
				}
				if len(events) >= maxEvents {
					return out, nil, fmt.Errorf("%w as an edit list: it has more than %d events", ErrCut, maxEvents)
				}
				isBlack := strings.EqualFold(e.reel, edlBlack)
				e.fromBlack = !isBlack && e.dissolve > 0 && e.recIn == black
				black = -1
				if isBlack && e.recIn == e.recOut {
					black = e.recIn
				}
				events = append(events, e)
				last[strings.ToUpper(e.reel)] = e
			}
		default:
			said.add("Line %d was not understood and was left out.", n)
		}
	}
	lane, err := edlLane(doc, &said, events)
	if err != nil {
		return out, nil, err
	}
	out.Lanes = []assembly.IncomingLane{lane}
	return out, said, nil
}

func at(f []string, i int) string {
	if i < len(f) {
		return f[i]
	}
	return ""
}

// edlBlack is the reel of black.
const edlBlack = "BL"

// reelWords is how many words a reel in a line M2 may have.
const reelWords = 8

// edlMotion finds the event that a line M2 gives a speed, the last one of its reel, and the
// speed in frames per second.
func edlMotion(line string, last map[string]*edlRead) (of *edlRead, speed float64, ok bool) {
	f := strings.Fields(line)
	for i := 2; i < len(f) && i <= reelWords+1; i++ {
		v, err := strconv.ParseFloat(f[i], 64)
		if of = last[strings.Join(f[1:i], " ")]; err == nil && of != nil {
			return of, v, true
		}
	}
	return nil, 0, false
}

type edlKind struct{ sound, wipe, key bool }

func readEvent(text string, rate timing.Rate, drop bool, said *notes) (*edlRead, edlKind, error) {
	var k edlKind
	m := edlEvent.FindStringSubmatch(text)
	if m == nil {
		return nil, k, fmt.Errorf("is no event: “%s”", clip(text))
	}
	m[3], m[4] = strings.ToUpper(m[3]), strings.ToUpper(m[4])
	// B is picture and sound, AA/V, A2/V or VA1A2 are both as well; A, A2, AA and NONE are not.
	k.sound = m[3] != "B" && !strings.Contains(m[3], "V")
	k.wipe = strings.HasPrefix(m[4], "W")
	k.key = strings.HasPrefix(m[4], "K")
	e := &edlRead{reel: m[2], head: -1, tail: -1}
	if m[4] != "C" {
		e.dissolve, _ = strconv.Atoi(m[5])
	}
	read := func(text string) (frame int, dropped bool, err error) {
		dropped = drop || strings.Contains(text, ";")
		if dropped && !rate.CanDrop() {
			said.add("Times are written as drop-frame, which does not exist at %s frames per second; they were taken as they are counted.", rate)
			dropped = false
		}
		t := strings.NewReplacer(";", ":", ".", ":", ",", ":").Replace(text)
		if i := strings.LastIndex(t, ":"); dropped && i >= 0 {
			t = t[:i] + ";" + t[i+1:]
		}
		frame, err = rate.ParseTimecode(t)
		return frame, dropped, err
	}
	src, _, err := read(m[6])
	if e.srcIn = float64(src); err != nil {
		said.add("The source time %s of reel %s is of another kind; its shots show the story from their own place on.", clip(m[6]), clip(e.reel))
		e.srcIn = math.NaN()
	}
	if e.recIn, e.drop, err = read(m[8]); err != nil {
		return nil, k, err
	}
	if e.recOut, _, err = read(m[9]); err != nil {
		return nil, k, err
	}
	if e.recOut < e.recIn {
		return nil, k, fmt.Errorf("the event ends before it begins")
	}
	e.hour, _ = strconv.Atoi(m[8][:2])
	return e, k, nil
}

// comment reads what we write in comments, and the clip names that others do.
func comment(e *edlRead, text string) {
	name, rest, _ := strings.Cut(text, ":")
	rest = strings.TrimSpace(rest)
	f := strings.Fields(rest)
	switch strings.ToUpper(strings.TrimSpace(name)) {
	case "FROM CLIP NAME", "TO CLIP NAME":
		e.clipName = rest
	case "SHOWS":
		e.shows = rest
	case "HANDLES":
		head, err1 := strconv.Atoi(at(f, 0))
		tail, err2 := strconv.Atoi(at(f, 1))
		if err1 == nil && err2 == nil && head >= 0 && tail >= 0 && head <= 10_000 && tail <= 10_000 {
			e.head, e.tail = head, tail
		}
	case "STORY":
		in, err1 := strconv.ParseFloat(at(f, 0), 64)
		speed, err2 := strconv.ParseFloat(at(f, 2), 64)
		if err1 == nil && err2 == nil {
			e.story, e.speed = &in, &speed
		}
	case "JOIN":
		before, err1 := strconv.Atoi(at(f, 1))
		after, err2 := strconv.Atoi(at(f, 2))
		if err1 != nil || err2 != nil || before < 0 || after < 0 || before+after < 1 || before+after > 10_000 {
			return
		}
		j := scene.Join{Kind: scene.JoinKind(at(f, 0)), Before: before, After: after}
		switch j.Kind {
		case scene.Dip:
			if j.Color = at(f, 3); len(j.Color) != 7 {
				j.Color = "#000000"
			}
		case scene.Travels:
			if j.Ease = curve.Ease(at(f, 3)); j.Ease != curve.Even {
				j.Ease = curve.Soft
			}
			if rest, err := strconv.Atoi(at(f, 4)); err == nil && rest > 0 && rest <= 10_000 {
				j.Rest = rest
			}
		case scene.Dissolve:
		default:
			return
		}
		e.join = &j
	}
}

// edlLane makes a lane of events. The zero-length event that leads a dissolve is
// passed over; the seam of a dissolve is its middle, unless a comment says.
func edlLane(doc *scene.Document, said *notes, events []*edlRead) (assembly.IncomingLane, error) {
	lane := assembly.IncomingLane{Name: "main", Shots: []assembly.IncomingShot{}}
	kept := events[:0]
	for _, e := range events {
		if e.recOut > e.recIn {
			kept = append(kept, e)
		}
	}
	if len(kept) == 0 {
		return lane, fmt.Errorf("%w as an edit list: it has no events of picture", ErrCut)
	}
	inOrder := func(a, b *edlRead) int { return a.recIn - b.recIn }
	if !slices.IsSortedFunc(kept, inOrder) {
		said.add("The events do not stand in order; they were put in the order of their record times.")
		slices.SortStableFunc(kept, inOrder)
	}
	kept, zero := edlZero(doc, said, kept)
	end := math.MinInt
	for _, e := range kept {
		in, out := e.recIn-zero, e.recOut-zero
		if in < 0 || out > scene.MaxFrame {
			return lane, fmt.Errorf("%w as an edit list: line %d lies before the first event's hour or too far after it", ErrCut, e.line)
		}
		if in < end {
			return lane, fmt.Errorf("%w as an edit list: line %d begins while the event before it still runs", ErrCut, e.line)
		}
		end = out
		number, name := numbered(e.clipName)
		if e.clipName == "" {
			name = e.reel
		}
		s, found := standsIn(doc, e)
		var card *scene.Card
		if strings.EqualFold(e.reel, edlBlack) {
			card, s, found, name = blackCard(), scene.Shot{Speed: 1, Plays: scene.PlaysCard}, true, "black"
		}
		if math.IsNaN(e.srcIn) {
			e.srcIn = float64(in)
		}
		if s.Name = name; !found {
			s = shotFrom(doc, said, name, e.shows, e.reel, name)
		}
		s.Number, s.ScreenIn, s.ScreenOut, s.StoryIn = number, in, out, e.srcIn
		s.Head, s.Tail = max(0, e.head), max(0, e.tail)
		if e.speed != nil {
			s.Speed = *e.speed
		}
		if s.Speed != 0 && (math.IsNaN(s.Speed) || s.Speed < 0.01 || s.Speed > 100) {
			said.add("Line %d: a speed of %g cannot be taken over; the shot runs normally.", e.line, s.Speed)
			s.Speed = 1
		}
		j := e.join
		switch {
		case e.dissolve > 0 && j == nil && e.fromBlack:
			j = &scene.Join{Kind: scene.Dip, After: e.dissolve, Color: "#000000"}
			if n := len(lane.Shots); n == 0 || lane.Shots[n-1].Shot.ScreenOut != in {
				said.add("Line %d: nothing plays before it, so that its fade from black was left out.", e.line)
			}
		case e.dissolve > 0 && j == nil:
			j = &scene.Join{Kind: scene.Dissolve, Before: e.dissolve / 2, After: e.dissolve - e.dissolve/2}
		}
		if n := len(lane.Shots); j != nil && n > 0 && lane.Shots[n-1].Shot.ScreenOut == in {
			if j.Kind == scene.Dissolve {
				// The list lets it begin where we have its first frame.
				before := &lane.Shots[n-1].Shot
				if in+j.Before < out {
					before.ScreenOut += j.Before
					s.StoryIn = s.StoryAt(float64(in + j.Before))
					s.ScreenIn += j.Before
				} else {
					j.After += j.Before
					j.Before = 0
				}
				if e.head < 0 { // handles that nobody has named: as many as it takes
					s.Head = int(math.Ceil(float64(j.Before) * s.Speed))
					before.Tail = max(before.Tail, int(math.Ceil(float64(j.After)*before.Speed)))
				}
			}
			s.Join = j
		}
		if e.story != nil {
			s.StoryIn = *e.story
		}
		lane.Shots = append(lane.Shots, assembly.IncomingShot{Shot: s, Card: card})
	}
	return lane, nil
}

// blackCard is what stands for black.
func blackCard() *scene.Card { return &scene.Card{Name: "black", Color: "#000000", Ink: "#ffffff"} }

// slateBefore is how long before the hour a slate can begin, in seconds.
const slateBefore = 300

// edlZero returns the events in order without those before the hour at which the list begins,
// and the record frame of that hour.
func edlZero(doc *scene.Document, said *notes, events []*edlRead) ([]*edlRead, int) {
	rate := doc.Settings.Rate
	hour := func(e *edlRead, later int) int {
		if e.recIn < 0 {
			return 0
		}
		f, _ := rate.ParseTimecode(clock(e.hour+later, e.drop))
		return f
	}
	first := events[0]
	zero, next := hour(first, 0), hour(first, 1)
	at := slices.IndexFunc(events, func(e *edlRead) bool { return e.recIn == next })
	if own := doc.Settings.ScreenStart; own > zero && own <= first.recIn {
		return events, own
	}
	if at > 0 && next-first.recIn <= slateBefore*rate.Nominal() {
		said.count(at, "The event before the hour was left out.", "The %d events before the hour were left out.")
		return events[at:], next
	}
	return events, zero
}

// standsIn makes a shot of the card, the footage or the boards that an event
// shows instead of a camera.
func standsIn(doc *scene.Document, e *edlRead) (s scene.Shot, ok bool) {
	s = scene.Shot{Speed: 1}
	if e.shows == string(scene.PlaysBoard) {
		s.Plays = scene.PlaysBoard
		return s, true
	}
	name, isCard := strings.CutPrefix(e.shows, "card ")
	for id, c := range doc.Cards {
		if isCard && c.Name == name && (s.Card == "" || id < s.Card) {
			s.Plays, s.Card = scene.PlaysCard, id
		}
	}
	name, isFootage := strings.CutPrefix(e.shows, "footage ")
	for id, f := range doc.Footage {
		if isFootage && f.Name == name && (s.Footage == "" || id < s.Footage) {
			s.Plays, s.Footage = scene.PlaysFootage, id
		}
	}
	return s, s.Plays != scene.PlaysCamera
}
