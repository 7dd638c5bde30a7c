package interchange

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/timing"
)

// caption is a line of dialogue at seconds of a clock.
type caption struct {
	from, to float64
	speaker  string
	text     string
}

// captions lists the lines of a scene on a clock: on the story clock all as they
// are, on the screen clock what an assembly lets be heard.
func captions(doc *scene.Document, id string, clock scene.Clock) (out []caption, said notes) {
	rate := doc.Settings.Rate
	ids := slices.Sorted(maps.Keys(doc.Lines))
	add := func(l scene.Line, from, to float64) {
		out = append(out, caption{rate.Seconds(from), rate.Seconds(to), doc.Nodes[l.Cast].Name, l.Text})
	}
	if clock == scene.StoryClock {
		for _, k := range ids {
			add(doc.Lines[k], float64(doc.Lines[k].In), float64(doc.Lines[k].Out))
		}
	} else {
		cut, silent := 0, map[string]bool{}
		for _, k := range ids {
			silent[k] = true
		}
		for _, h := range program.Lines(doc, program.Compile(doc, id), 0, math.Inf(1), 0) {
			if h.Cut {
				cut++
			}
			delete(silent, h.Line)
			add(doc.Lines[h.Line], h.In, h.Out)
		}
		said.count(cut, "One line is cut into by a seam and is given for the part that is heard.", "%d times a seam cuts into a line; it is given for the part that is heard.")
		said.count(len(silent), "One line is not heard in the cut and is left out.", "%d lines are not heard in the cut and are left out.")
	}
	inOrder(out)
	return out, said
}

func inOrder(list []caption) {
	slices.SortStableFunc(list, func(a, b caption) int { return cmp.Compare(a.from, b.from) })
}

// clockTime writes seconds as hours, minutes, seconds and thousandths.
func clockTime(seconds float64, point string) string {
	ms := max(0, int(math.Round(seconds*1000)))
	return fmt.Sprintf("%02d:%02d:%02d%s%03d", ms/3_600_000, ms/60_000%60, ms/1000%60, point, ms%1000)
}

// WriteSRT writes lines as SubRip; the speaker stands before the text.
func WriteSRT(doc *scene.Document, id string, clock scene.Clock) Written {
	list, said := captions(doc, id, clock)
	return Written{subRip(list), said}
}

// SubRip writes lines as they are heard over frames of a file at a rate.
func SubRip(doc *scene.Document, rate timing.Rate, heard []program.Said) []byte {
	var list []caption
	for _, h := range heard {
		l := doc.Lines[h.Line]
		list = append(list, caption{rate.Seconds(h.In), rate.Seconds(h.Out), doc.Nodes[l.Cast].Name, l.Text})
	}
	inOrder(list)
	return subRip(list)
}

func subRip(list []caption) []byte {
	var b strings.Builder
	for i, c := range list {
		fmt.Fprintf(&b, "%d\r\n%s --> %s\r\n%s: %s\r\n\r\n", i+1, clockTime(c.from, ","), clockTime(c.to, ","), c.speaker, oneLine(c.text))
	}
	return []byte(b.String())
}

// WriteVTT writes lines as WebVTT (W3C) with the speakers as voices.
func WriteVTT(doc *scene.Document, id string, clock scene.Clock) Written {
	list, said := captions(doc, id, clock)
	escape := strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")
	var b strings.Builder
	b.WriteString("WEBVTT\n\n")
	for i, c := range list {
		fmt.Fprintf(&b, "%d\n%s --> %s\n<v %s>%s\n\n", i+1, clockTime(c.from, "."), clockTime(c.to, "."), strings.NewReplacer("<", "", ">", "", "&", "&amp;").Replace(c.speaker), escape.Replace(oneLine(c.text)))
	}
	return Written{[]byte(b.String()), said}
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

var (
	captionTimes = regexp.MustCompile(`^(?:(\d{1,3}):)?(\d{1,2}):(\d{1,2})[,.](\d{1,3})\s*-->(?:\s*(?:(\d{1,3}):)?(\d{1,2}):(\d{1,2})[,.](\d{1,3}))?`)
	captionIndex = regexp.MustCompile(`^\d+$`)
	// What WebVTT says besides cues, in blocks of their own.
	aside   = regexp.MustCompile(`^(?:NOTE(?:\s|$)|STYLE$|REGION$)`)
	voice   = regexp.MustCompile(`^<v(?:\.[^\s>]*)?\s+([^>]*)>`)
	vttTags = regexp.MustCompile(`</?[^>]{0,80}>`)
	srtTags = regexp.MustCompile(`(?i)</?(?:b|i|u|font)(?:\s[^>]{0,80})?>|\{\\[^}]{0,80}\}`)
)

// ReadCaptions reads SubRip or WebVTT as lines of a scene's story. Speakers are
// told by their voice or by a name before a colon; a line of somebody whom the
// scene does not know goes to the first of its cast, and that is said.
func ReadCaptions(doc *scene.Document, data []byte) ([]scene.Line, []string, error) {
	if len(data) > MaxCutBytes {
		return nil, nil, fmt.Errorf("%w: it has more than %d MB", ErrCut, MaxCutBytes>>20)
	}
	var said notes
	cast := map[string]string{}
	first := ""
	for _, id := range slices.Backward(slices.Sorted(maps.Keys(doc.Nodes))) {
		if n := doc.Nodes[id]; n.Kind == scene.KindCast {
			cast[strings.ToLower(n.Name)] = id
			first = id
		}
	}
	if first == "" {
		return nil, nil, fmt.Errorf("%w into the scene: it has no cast to speak the lines; place somebody in Dress first", ErrCut)
	}
	rows, err := rowsOf(data)
	if err != nil {
		return nil, nil, err
	}
	vtt := len(rows) > 0 && strings.HasPrefix(rows[0], "WEBVTT")
	cues, err := cuesOf(rows, vtt, &said)
	if err != nil {
		return nil, nil, err
	}
	var out []scene.Line
	for i, c := range cues {
		if c.endless {
			c.to = c.from + unended
			if i+1 < len(cues) && cues[i+1].from > c.from {
				c.to = min(c.to, cues[i+1].from)
			}
			said.add("Cues without an end last until the next one, and no longer than %g seconds.", unended)
		}
		l, err := lineFrom(doc, &said, c.caption, strings.Join(c.rows, " "), vtt, cast, first)
		if err != nil {
			return nil, nil, err
		}
		if l.Text != "" {
			out = append(out, l)
		}
	}
	if len(out) == 0 {
		return nil, nil, fmt.Errorf("%w as SubRip or WebVTT: it holds no times such as 00:00:01,000 --> 00:00:02,500", ErrCut)
	}
	return out, said, nil
}

// unended is how long a cue lasts whose end is not said, in seconds.
const unended = 3.0

// cue is a caption as a file has it.
type cue struct {
	caption
	endless bool
	rows    []string
}

// cuesOf finds the cues among the rows of a file. What SubRip has after an empty row belongs to
// the cue before, since many have empty rows in their text; WebVTT ends a cue with it.
func cuesOf(rows []string, vtt bool, said *notes) (cues []cue, err error) {
	var now *cue
	ended := true // nothing that comes belongs to a cue of WebVTT
	for i := 0; i < len(rows); i++ {
		row := rows[i]
		next := ""
		if i+1 < len(rows) {
			next = rows[i+1]
		}
		m := captionTimes.FindStringSubmatch(row)
		switch {
		case m != nil:
			if len(cues) >= maxEvents {
				return nil, fmt.Errorf("%w: it holds more than %d lines", ErrCut, maxEvents)
			}
			cues = append(cues, cue{caption: caption{from: secondsOf(m[1:5]), to: secondsOf(m[5:9])}, endless: m[8] == ""})
			now, ended = &cues[len(cues)-1], false
		case row == "":
			ended = vtt
		case (captionIndex.MatchString(row) || vtt && ended) && captionTimes.MatchString(next):
			// the name or number of the next cue
		case vtt && ended && aside.MatchString(row):
			for i+1 < len(rows) && rows[i+1] != "" {
				i++
			}
		case now != nil && !ended:
			now.rows = append(now.rows, row)
		case now != nil:
			said.add("Row %d belongs to no cue and was left out.", i+1)
		}
	}
	return cues, nil
}

func secondsOf(m []string) float64 {
	n := func(s string) float64 { v, _ := strconv.Atoi(s); return float64(v) }
	return n(m[0])*3600 + n(m[1])*60 + n(m[2]) + n((m[3] + "000")[:3])/1000
}

func lineFrom(doc *scene.Document, said *notes, c caption, text string, vtt bool, cast map[string]string, first string) (scene.Line, error) {
	speaker, tags := "", srtTags
	if vtt {
		tags = vttTags
	}
	if m := voice.FindStringSubmatch(text); m != nil {
		speaker = m[1]
	}
	text = tags.ReplaceAllString(text, "")
	if vtt {
		text = strings.NewReplacer("&lt;", "<", "&gt;", ">", "&amp;", "&", "&nbsp;", " ").Replace(text)
	}
	if name, rest, ok := strings.Cut(text, ":"); speaker == "" && ok && len(name) <= 40 {
		if cast[strings.ToLower(strings.TrimSpace(name))] != "" {
			speaker, text = name, rest
		}
	}
	speaker = strings.ReplaceAll(strings.TrimSpace(speaker), "&amp;", "&")
	id := cast[strings.ToLower(speaker)]
	if id == "" {
		id = first
		if speaker == "" {
			speaker = "nobody"
		}
		said.add("Lines of %s went to %s.", clip(speaker), doc.Nodes[first].Name)
	}
	rate := doc.Settings.Rate
	l := scene.Line{Cast: id, Text: strings.TrimSpace(text), In: int(math.Round(rate.Frames(c.from))), Out: int(math.Round(rate.Frames(c.to)))}
	if r := []rune(l.Text); len(r) > 500 {
		l.Text = string(r[:500])
		said.add("A line was longer than 500 characters and was shortened.")
	}
	if l.Out <= l.In {
		l.Out = l.In + 1
	}
	if l.Out > scene.MaxFrame {
		return l, fmt.Errorf("%w: a line lies later than frame %d", ErrCut, scene.MaxFrame)
	}
	return l, nil
}
