package interchange

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/assembly"
	"proscen/core/curve"
	"proscen/core/program"
	"proscen/core/scene"
)

// The parts of OpenTimelineIO that are written and read (Academy Software
// Foundation; schemas Timeline.1, Stack.1, Track.1, Clip.2, Gap.1, Transition.1,
// Marker.2, LinearTimeWarp.1, FreezeFrame.1, ExternalReference.1,
// MissingReference.1). Whatever they have no place for lies in metadata under
// "proscen".
type otioTime struct {
	Schema string  `json:"OTIO_SCHEMA"`
	Rate   float64 `json:"rate"`
	Value  float64 `json:"value"`
}

type otioRange struct {
	Schema   string   `json:"OTIO_SCHEMA"`
	Start    otioTime `json:"start_time"`
	Duration otioTime `json:"duration"`
}

// otioObject holds any of the schemas; members that a schema does not have stay
// empty.
type otioObject struct {
	Schema   string                     `json:"OTIO_SCHEMA"`
	Name     string                     `json:"name"`
	Metadata map[string]json.RawMessage `json:"metadata,omitempty"`
	Enabled  *bool                      `json:"enabled,omitempty"` // left out for yes

	Tracks      *otioObject `json:"tracks,omitempty"`
	GlobalStart *otioTime   `json:"global_start_time,omitempty"`

	Children    []*otioObject `json:"children,omitzero"` // an empty list is written too
	Kind        string        `json:"kind,omitempty"`
	SourceRange *otioRange    `json:"source_range,omitempty"`
	Effects     []*otioObject `json:"effects,omitempty"`
	Markers     []*otioObject `json:"markers,omitempty"`

	MediaReferences map[string]*otioObject `json:"media_references,omitempty"`
	ActiveReference string                 `json:"active_media_reference_key,omitempty"`
	MediaReference  *otioObject            `json:"media_reference,omitempty"` // of Clip.1
	TargetURL       string                 `json:"target_url,omitempty"`
	AvailableRange  *otioRange             `json:"available_range,omitempty"`

	TransitionType string    `json:"transition_type,omitempty"`
	InOffset       *otioTime `json:"in_offset,omitempty"`
	OutOffset      *otioTime `json:"out_offset,omitempty"`

	EffectName  string     `json:"effect_name,omitempty"`
	TimeScalar  *float64   `json:"time_scalar,omitempty"`
	MarkedRange *otioRange `json:"marked_range,omitempty"`
	Color       string     `json:"color,omitempty"`
	Comment     string     `json:"comment,omitempty"`
}

const ours = "proscen"

// ourShot is what a clip keeps of a shot in its metadata.
type ourShot struct {
	scene.Shot
	CameraNumber int           `json:"cameraNumber,omitempty"`
	CameraName   string        `json:"cameraName,omitempty"`
	Focal        float64       `json:"focal,omitempty"`
	Boards       []scene.Board `json:"boards,omitempty"`
	// MediaStart is where the shot begins in its file when source times are those of a
	// delivered file and not of the story.
	MediaStart *int `json:"mediaStart,omitempty"`
}

// ourTimeline is what the timeline keeps in its metadata.
type ourTimeline struct {
	Schema     string                   `json:"schema"`
	Rate       string                   `json:"rate"`
	Production string                   `json:"production"`
	Title      string                   `json:"title"`
	Assembly   scene.Assembly           `json:"assembly"`
	Markers    []scene.Marker           `json:"storyMarkers,omitempty"`
	Tracks     []assembly.IncomingTrack `json:"storyTracks,omitempty"`
	Lines      []scene.Line             `json:"lines,omitempty"`
}

func under(v any) map[string]json.RawMessage {
	return map[string]json.RawMessage{ours: scene.Canonical(v)}
}

// WriteOTIO writes an assembly as OpenTimelineIO. Clips of shots that have been
// delivered refer to their files, and their source times are frames of those; all others
// are of the story.
func WriteOTIO(doc *scene.Document, id string, deliveries map[string]Delivered) Written {
	w := otioWriter{doc: doc, rate: doc.Settings.Rate.PerSecond(), boards: doc.BoardsByShot()}
	a := doc.Assemblies[id]
	lanes := append([]string{program.MainLane(doc, id)}, program.SpareLanes(doc, id)...)
	stack := &otioObject{Schema: "Stack.1", Children: []*otioObject{}, Name: "tracks"}
	for i, lane := range lanes {
		t := &otioObject{Schema: "Track.1", Children: []*otioObject{}, Kind: "Video", Name: doc.Lanes[lane].Name}
		shots := program.Shots(doc, lane)
		if i == 0 {
			shots = shotsOf(doc, id)
		}
		w.lane(t, shots, deliveries)
		stack.Children = append(stack.Children, t)
	}
	meta := ourTimeline{Schema: scene.Schema, Rate: doc.Settings.Rate.String(), Production: doc.Settings.Production, Title: doc.Settings.Title, Assembly: a}
	for _, k := range slices.Sorted(maps.Keys(doc.Tracks)) {
		t := doc.Tracks[k]
		if t.Clock == scene.ScreenClock && t.Assembly != id {
			continue
		}
		in := assembly.IncomingTrack{Track: t}
		for _, s := range slices.Sorted(maps.Keys(doc.Sounds)) {
			if doc.Sounds[s].Track == k {
				in.Sounds = append(in.Sounds, doc.Sounds[s])
			}
		}
		slices.SortStableFunc(in.Sounds, func(x, y scene.Sound) int { return x.In - y.In })
		if t.Clock == scene.StoryClock {
			meta.Tracks = append(meta.Tracks, in)
			continue
		}
		stack.Children = append(stack.Children, w.track(in))
	}
	w.notes.count(len(meta.Tracks), "One track is tied to story time; other programs do not see it.", "%d tracks are tied to story time; other programs do not see them.")
	for _, k := range slices.Sorted(maps.Keys(doc.Markers)) {
		m := doc.Markers[k]
		switch {
		case m.Clock == scene.StoryClock:
			meta.Markers = append(meta.Markers, m)
		case m.Assembly == id:
			stack.Markers = append(stack.Markers, w.marker(m))
		}
	}
	slices.SortStableFunc(stack.Markers, func(x, y *otioObject) int {
		return int(x.MarkedRange.Start.Value - y.MarkedRange.Start.Value)
	})
	w.notes.count(len(meta.Markers), "One marker lies on the story clock; other programs do not see it.", "%d markers lie on the story clock; other programs do not see them.")
	for _, k := range slices.Sorted(maps.Keys(doc.Lines)) {
		meta.Lines = append(meta.Lines, doc.Lines[k])
	}
	w.notes.count(len(meta.Lines), "The line of dialogue is in the metadata only; SubRip or WebVTT carries it.", "The %d lines of dialogue are in the metadata only; SubRip or WebVTT carries them.")
	out := otioObject{
		Schema: "Timeline.1", Name: a.Name, Metadata: under(meta), Tracks: stack,
		GlobalStart: &otioTime{"RationalTime.1", w.rate, float64(doc.Settings.ScreenStart)},
	}
	data, _ := json.MarshalIndent(&out, "", "  ") // numbers of a valid document are finite
	return Written{append(data, '\n'), w.notes}
}

type otioWriter struct {
	doc    *scene.Document
	rate   float64
	boards map[string][]string // ids by shot
	notes  notes
}

func (w *otioWriter) time(frames float64) otioTime {
	return otioTime{"RationalTime.1", w.rate, frames}
}

func (w *otioWriter) span(start, frames float64) *otioRange {
	return &otioRange{"TimeRange.1", w.time(start), w.time(frames)}
}

func (w *otioWriter) lane(t *otioObject, shots []program.Entry, deliveries map[string]Delivered) {
	at := 0
	for _, e := range shots {
		s := e.Shot
		if s.ScreenIn > at {
			t.Children = append(t.Children, &otioObject{Schema: "Gap.1", SourceRange: w.span(0, float64(s.ScreenIn-at))})
		}
		if j := s.Join; j != nil && s.ScreenIn == at {
			t.Children = append(t.Children, w.transition(*j))
		}
		at = s.ScreenOut
		t.Children = append(t.Children, w.clip(e, deliveries[e.ID]))
	}
}

func (w *otioWriter) transition(j scene.Join) *otioObject {
	in, out := w.time(float64(j.Before)), w.time(float64(j.After))
	o := &otioObject{Schema: "Transition.1", Name: string(j.Kind), TransitionType: "SMPTE_Dissolve", InOffset: &in, OutOffset: &out, Metadata: under(j)}
	if j.Kind != scene.Dissolve {
		o.TransitionType = "Custom_Transition"
		w.notes.add("Joins of the kind %s are custom transitions; other programs may show a cut or a dissolve.", j.Kind)
	}
	return o
}

func (w *otioWriter) clip(e program.Entry, delivered Delivered) *otioObject {
	s := e.Shot
	frames := float64(s.Screen().Count())
	o := &otioObject{Schema: "Clip.2", Name: strings.TrimSpace(s.Number + " " + s.Name), SourceRange: w.span(s.StoryIn, frames), ActiveReference: "DEFAULT_MEDIA"}
	meta := ourShot{Shot: s}
	if n := w.doc.Nodes[s.Camera]; n.Camera != nil {
		meta.CameraNumber, meta.CameraName, meta.Focal = n.Camera.Number, n.Name, n.Camera.Focal
	}
	for _, b := range w.boards[e.ID] {
		meta.Boards = append(meta.Boards, w.doc.Boards[b])
	}
	ref := &otioObject{Schema: "MissingReference.1", Name: shows(w.doc, s)}
	speed := s.Speed
	if delivered.File != "" { // which runs at its own speed
		ref.Schema, ref.TargetURL, ref.AvailableRange = "ExternalReference.1", delivered.File, w.span(0, float64(delivered.Frames))
		o.SourceRange = w.span(float64(delivered.Head), frames)
		meta.MediaStart, speed = &delivered.Head, 1
	}
	o.Metadata = under(meta)
	o.MediaReferences = map[string]*otioObject{"DEFAULT_MEDIA": ref}
	switch {
	case speed == 0:
		o.Effects = []*otioObject{{Schema: "FreezeFrame.1", EffectName: "FreezeFrame", TimeScalar: &speed}}
	case speed != 1:
		o.Effects = []*otioObject{{Schema: "LinearTimeWarp.1", EffectName: "LinearTimeWarp", TimeScalar: &speed}}
	}
	return o
}

func (w *otioWriter) marker(m scene.Marker) *otioObject {
	return &otioObject{Schema: "Marker.2", Name: m.Name, Comment: m.Note, Color: colorName(m.Color), MarkedRange: w.span(float64(m.Frame), float64(m.Frames)), Metadata: under(m)}
}

func (w *otioWriter) track(in assembly.IncomingTrack) *otioObject {
	t := &otioObject{Schema: "Track.1", Children: []*otioObject{}, Kind: "Audio", Name: in.Track.Name, Metadata: under(in.Track)}
	at := 0
	for _, s := range in.Sounds {
		if s.In > at {
			t.Children = append(t.Children, &otioObject{Schema: "Gap.1", SourceRange: w.span(0, float64(s.In-at))})
		}
		if s.In < at {
			w.notes.add("Sounds of track %s lie over each other; other programs see them one after the other.", in.Track.Name)
		}
		at = s.Out
		t.Children = append(t.Children, &otioObject{
			Schema: "Clip.2", Name: s.Name, SourceRange: w.span(w.doc.Settings.Rate.Frames(s.From), float64(s.Out-s.In)), Metadata: under(s), ActiveReference: "DEFAULT_MEDIA",
			MediaReferences: map[string]*otioObject{"DEFAULT_MEDIA": {Schema: "ExternalReference.1", Name: s.Name, TargetURL: "sounds/" + s.Blob + ".flac", AvailableRange: w.span(0, w.doc.Settings.Rate.Frames(s.Seconds))}},
		})
	}
	return t
}

// colorName returns the nearest of the colours that markers have in
// OpenTimelineIO.
func colorName(hex string) string {
	names := []struct {
		name    string
		r, g, b float64
	}{
		{"PINK", 255, 192, 203}, {"RED", 255, 0, 0}, {"ORANGE", 255, 165, 0}, {"YELLOW", 255, 255, 0}, {"GREEN", 0, 160, 0}, {"CYAN", 0, 255, 255},
		{"BLUE", 0, 0, 255}, {"PURPLE", 128, 0, 128}, {"MAGENTA", 255, 0, 255}, {"BLACK", 0, 0, 0}, {"WHITE", 255, 255, 255},
	}
	v, _ := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 24) // what is no colour is black
	best, off := "", math.Inf(1)
	for _, n := range names {
		d := math.Hypot(math.Hypot(n.r-float64(v>>16), n.g-float64(v>>8&255)), n.b-float64(v&255))
		if d < off {
			best, off = n.name, d
		}
	}
	return best
}

var colorHex = map[string]string{
	"PINK": "#ffc0cb", "RED": "#e5573a", "ORANGE": "#ffa500", "YELLOW": "#e8c15a", "GREEN": "#7cc68d", "CYAN": "#5ad1e8",
	"BLUE": "#6fa8dc", "PURPLE": "#8a6fdc", "MAGENTA": "#dc6fb8", "BLACK": "#202020", "WHITE": "#ffffff",
}

// ReadOTIO reads a cut from OpenTimelineIO for a scene. The first video track
// plays, others become spare lanes. What is not taken over is said.
func ReadOTIO(doc *scene.Document, data []byte) (assembly.Incoming, []string, error) {
	var out assembly.Incoming
	if len(data) > MaxCutBytes {
		return out, nil, fmt.Errorf("%w: it has more than %d MB", ErrCut, MaxCutBytes>>20)
	}
	var top otioObject
	if err := json.Unmarshal(data, &top); err != nil {
		return out, nil, fmt.Errorf("%w as OpenTimelineIO: it is no JSON of that form", ErrCut)
	}
	r := otioReader{doc: doc, rate: doc.Settings.Rate.PerSecond()}
	stack := top.Tracks
	switch {
	case strings.HasPrefix(top.Schema, "Stack.") || strings.HasPrefix(top.Schema, "Track."):
		stack = &top
	case !strings.HasPrefix(top.Schema, "Timeline.") || stack == nil:
		return out, nil, fmt.Errorf("%w as OpenTimelineIO: it holds %q and not a timeline", ErrCut, clip(top.Schema))
	}
	if strings.HasPrefix(stack.Schema, "Track.") {
		stack = &otioObject{Schema: "Stack.1", Children: []*otioObject{stack}}
	}
	var meta ourTimeline
	known := mine(top.Metadata, &meta)
	if known {
		out.Assembly = meta.Assembly
		out.Markers = meta.Markers
		out.Tracks = meta.Tracks
		if len(meta.Lines) > 0 && len(doc.Lines) == 0 {
			r.notes.count(len(meta.Lines), "One line of dialogue is in the file and was left; bring lines in from SubRip or WebVTT.", "%d lines of dialogue are in the file and were left; bring lines in from SubRip or WebVTT.")
		}
	}
	out.Assembly.Name = top.Name
	for _, t := range stack.Children {
		if t == nil {
			continue
		}
		if kind, _, _ := strings.Cut(t.Schema, "."); kind != "Track" && kind != "Stack" && kind != "Clip" {
			r.notes.add("A %s beside the tracks was left out.", clip(t.Schema))
			continue
		}
		if t.Kind == "Audio" {
			out.Tracks = append(out.Tracks, r.sounds(t)...)
			continue
		}
		if t.Enabled != nil && !*t.Enabled {
			r.notes.add("The track “%s” is switched off and was left out.", clip(t.Name))
			continue
		}
		if !strings.HasPrefix(t.Schema, "Track.") {
			t = &otioObject{Schema: "Track.1", Name: t.Name, Children: []*otioObject{t}}
		}
		lane, marks, err := r.shots(t)
		if err != nil {
			return out, nil, err
		}
		out.Lanes = append(out.Lanes, lane)
		if !known { // our own markers lie in the metadata as a whole
			out.Markers = append(out.Markers, marks...)
		}
		out.Markers = append(out.Markers, r.markers(t.Markers)...)
	}
	out.Markers = append(out.Markers, r.markers(stack.Markers)...)
	if len(out.Lanes) == 0 {
		return out, nil, fmt.Errorf("%w as OpenTimelineIO: it has no video track", ErrCut)
	}
	if len(out.Lanes) > 1 && !known {
		r.notes.add("The first video track plays; the others are spare lanes.")
	}
	return out, r.notes, nil
}

type otioReader struct {
	doc    *scene.Document
	rate   float64
	notes  notes
	events int
	marks  []scene.Marker // on what is laid out
}

// mine reads our own metadata, if it is there and whole.
func mine(metadata map[string]json.RawMessage, into any) bool {
	body, ok := metadata[ours]
	return ok && json.Unmarshal(body, into) == nil
}

// frames converts a time to frames of the scene; ok is false for what is no
// time.
func (r *otioReader) frames(t otioTime) (float64, bool) {
	if !(t.Rate > 0) || math.IsInf(t.Rate, 0) || math.IsNaN(t.Value) || math.Abs(t.Value/t.Rate*r.rate) > scene.MaxFrame {
		return 0, false
	}
	from := exactRate(t.Rate)
	if math.Abs(from-r.rate) < 1e-6 {
		return t.Value, true
	}
	v := t.Value / from * r.rate
	if !whole(v) {
		r.notes.add("Times at %g frames per second were brought to the nearest frames of the scene's %s.", t.Rate, r.doc.Settings.Rate)
	} else {
		v = math.Round(v)
	}
	return v, true
}

// exactRate returns the rate that is meant by one with few decimals: 23.976 is 24000/1001.
func exactRate(v float64) float64 {
	if exact := math.Round(v) * 1000 / 1001; math.Abs(v-exact) < 0.006 {
		return exact
	}
	return v
}

func (r *otioReader) count() error {
	if r.events++; r.events > maxEvents {
		return fmt.Errorf("%w as OpenTimelineIO: it holds more than %d clips", ErrCut, maxEvents)
	}
	return nil
}

// shots reads a video track, and the markers on its items. Places are kept exactly, so that
// lengths that are no whole frames of the scene do not add up to more or less than they are. Of a
// track with a range of its own only that is taken.
func (r *otioReader) shots(t *otioObject) (assembly.IncomingLane, []scene.Marker, error) {
	lane := assembly.IncomingLane{Name: t.Name, Shots: []assembly.IncomingShot{}}
	own := *t
	own.Markers = nil // those of the track itself are read elsewhere
	r.marks = nil
	pieces, _, _, err := r.place(&own, 0, otioPlace{pace: 1, lo: 0, hi: math.Inf(1)})
	if err != nil {
		return lane, nil, err
	}
	var last *otioObject
	for _, p := range pieces {
		in, out := frameAt(p.from), frameAt(p.to)
		if out <= in {
			continue
		}
		e := r.shot(p.clip, p.start)
		if speed := e.Shot.Speed * p.pace; speed == 0 || speed >= 0.01 && speed <= 100 {
			e.Shot.Speed = speed
		} else {
			r.notes.add("“%s” runs at a speed that cannot be taken over (%g); it runs normally.", clip(p.clip.Name), speed)
			e.Shot.Speed = 1
		}
		e.Shot.StoryIn += (p.from - p.at) * e.Shot.Speed // what is cut off, or covered, of it
		e.Shot.ScreenIn, e.Shot.ScreenOut, e.Shot.Join = in, out, nil
		if n := len(lane.Shots); p.join != nil && p.after == last && lane.Shots[n-1].Shot.ScreenOut == in {
			if join := r.join(p.join); join != nil {
				e.Shot.Join = r.fit(join, &lane.Shots[n-1].Shot, &e)
			}
		}
		last = p.clip
		lane.Shots = append(lane.Shots, e)
	}
	return lane, r.marks, nil
}

// frameAt returns the frame that is nearest to a place.
func frameAt(v float64) int { return int(math.Round(v)) }

func (r *otioReader) shot(c *otioObject, start float64) assembly.IncomingShot {
	var meta ourShot
	s := scene.Shot{}
	var boards []scene.Board
	if mine(c.Metadata, &meta) {
		s, boards = meta.Shot, meta.Boards
		s.Lane = ""
		if n := r.doc.Nodes[s.Camera]; n.Camera == nil && s.Camera != "" {
			s.Camera = cameraFor(r.doc, meta.CameraName, fmt.Sprintf("CAM%02d", meta.CameraNumber))
			if s.Camera == "" && s.Plays == scene.PlaysCamera {
				s.Plays = scene.PlaysBoard
				r.notes.add("The scene has no camera %d “%s”; shots of it stand without one.", meta.CameraNumber, meta.CameraName)
			}
		}
		if _, ok := r.doc.Cards[s.Card]; s.Plays == scene.PlaysCard && !ok {
			s.Plays, s.Card = scene.PlaysBoard, ""
			r.notes.add("A card of shot %s is not in the scene; the shot stands without it.", s.Number)
		}
		if _, ok := r.doc.Footage[s.Footage]; s.Plays == scene.PlaysFootage && !ok {
			s.Plays, s.Footage = scene.PlaysBoard, ""
			r.notes.add("The footage of shot %s is not in the scene; the shot stands without it.", s.Number)
		}
	} else {
		number, name := numbered(c.Name)
		refs := []string{name, c.Name}
		for _, ref := range []*otioObject{c.MediaReference, c.MediaReferences[c.ActiveReference]} {
			if ref != nil {
				refs = append(refs, ref.Name)
			}
		}
		s = shotFrom(r.doc, &r.notes, name, refs...)
		s.Number = number
	}
	if meta.MediaStart == nil {
		s.StoryIn = start
	} else { // trimmed since, perhaps
		s.StoryIn += (start - float64(*meta.MediaStart)) * s.Speed
	}
	speeds := 0
	if meta.MediaStart == nil {
		s.Speed = 1
	}
	for _, f := range c.Effects {
		if f == nil {
			continue
		}
		switch kind, _, _ := strings.Cut(f.Schema, "."); kind {
		case "LinearTimeWarp":
			if f.TimeScalar != nil {
				if meta.MediaStart == nil {
					s.Speed = 1
				}
				s.Speed *= *f.TimeScalar
				speeds++
			}
		case "FreezeFrame":
			s.Speed = 0
			speeds++
		default:
			r.notes.add("Effects such as %s were left out.", clip(f.Schema))
		}
	}
	if math.IsNaN(s.Speed) || s.Speed != 0 && (s.Speed < 0.01 || s.Speed > 100) || speeds > 1 {
		r.notes.add("“%s” runs at a speed that cannot be taken over (%g); it runs normally.", clip(c.Name), s.Speed)
		s.Speed = 1
	}
	return assembly.IncomingShot{Shot: s, Boards: boards}
}

// numbered takes a shot number off the beginning of a name.
func numbered(name string) (number, rest string) {
	first, rest, _ := strings.Cut(strings.TrimSpace(name), " ")
	if first != "" && len(first) <= 8 && first[0] >= '0' && first[0] <= '9' {
		return first, rest
	}
	return "", strings.TrimSpace(name)
}

func (r *otioReader) join(c *otioObject) *scene.Join {
	j := scene.Join{Kind: scene.Dissolve}
	var meta scene.Join
	if mine(c.Metadata, &meta) && slices.Contains([]scene.JoinKind{scene.Dissolve, scene.Dip, scene.Travels}, meta.Kind) {
		j.Kind, j.Color, j.Ease, j.Rest = meta.Kind, meta.Color, meta.Ease, max(0, min(meta.Rest, 10_000))
		if j.Kind == scene.Dip && len(j.Color) != 7 {
			j.Color = "#000000"
		}
		if j.Kind == scene.Travels && j.Ease != curve.Even {
			j.Ease = curve.Soft
		}
	} else if c.TransitionType != "SMPTE_Dissolve" {
		r.notes.add("A transition of the type %s became a dissolve.", clip(c.TransitionType))
	}
	for _, x := range []struct {
		t  *otioTime
		to *int
	}{{c.InOffset, &j.Before}, {c.OutOffset, &j.After}} {
		if x.t != nil {
			if v, ok := r.frames(*x.t); ok && v >= 0 && v < 10_000 {
				*x.to = int(math.Round(v))
			}
		}
	}
	if j.Frames() == 0 {
		return nil
	}
	return &j
}

// fit gives the two shots of a join the handles that it needs.
func (r *otioReader) fit(j *scene.Join, before *scene.Shot, e *assembly.IncomingShot) *scene.Join {
	if j.Kind != scene.Dip {
		before.Tail = max(before.Tail, int(math.Ceil(float64(j.After)*before.Speed)))
		e.Shot.Head = max(e.Shot.Head, int(math.Ceil(float64(j.Before)*e.Shot.Speed)))
	}
	return j
}

func (r *otioReader) markers(list []*otioObject) (out []scene.Marker) {
	for _, o := range list {
		if o == nil || o.MarkedRange == nil || len(out) >= maxEvents {
			continue
		}
		at, ok := r.frames(o.MarkedRange.Start)
		frames, ok2 := r.frames(o.MarkedRange.Duration)
		if !ok || !ok2 || frames < 0 {
			continue
		}
		m := scene.Marker{Clock: scene.ScreenClock, Frame: int(math.Round(at)), Frames: int(math.Round(frames)), Name: o.Name, Note: o.Comment, Color: colorHex[strings.ToUpper(o.Color)]}
		var meta scene.Marker
		if mine(o.Metadata, &meta) && len(meta.Color) == 7 {
			m.Color = meta.Color
			if r.doc.Nodes[meta.Camera].Camera != nil {
				m.Camera = meta.Camera
			}
		}
		if m.Color == "" {
			m.Color = colorHex["YELLOW"]
		}
		out = append(out, m)
	}
	return out
}

// sounds reads an audio track. Only sounds that are among the files of the scene
// are known by their names.
func (r *otioReader) sounds(t *otioObject) []assembly.IncomingTrack {
	in := assembly.IncomingTrack{Track: scene.Track{Name: t.Name, Clock: scene.ScreenClock}}
	var meta scene.Track
	if mine(t.Metadata, &meta) && meta.Clock == scene.ScreenClock {
		in.Track = meta
		in.Track.Assembly = ""
	}
	left := 0
	for _, c := range t.Children {
		var s scene.Sound
		if c == nil || !strings.HasPrefix(c.Schema, "Clip.") {
			continue
		}
		if !mine(c.Metadata, &s) || len(s.Blob) != 64 {
			left++
			continue
		}
		in.Sounds = append(in.Sounds, s)
	}
	r.notes.count(left, "One sound was left out: its file is elsewhere; add it as a sound file.", "%d sounds were left out: their files are elsewhere; add them as sound files.")
	if len(in.Sounds) == 0 {
		return nil
	}
	if in.Track.Name == "" {
		in.Track.Name = "sound"
	}
	return []assembly.IncomingTrack{in}
}
