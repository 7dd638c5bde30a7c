// Package turnover says what is delivered: which frames through which camera, in
// which format, under which name, with what written over them, and what would
// disappoint. It makes no picture; whoever does asks it for the cut to play.
package turnover

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"proscen/core/alternate"
	"proscen/core/interchange"
	"proscen/core/program"
	"proscen/core/scene"
	"proscen/core/timing"
)

// What an output shows.
type What string

// What outputs show: one shot, the whole main lane, a camera over a stretch of the
// story whether it is on air or not, or one frame of a camera.
const (
	Shot   What = "shot"
	Whole  What = "cut"
	Camera What = "camera"
	Still  What = "still"
)

// Item is one output: In and Out are frames without handles, of screen time for shots
// and the whole cut, of story time for cameras and stills.
type Item struct {
	What         What   `json:"what"`
	Alternate    string `json:"alternate,omitempty"` // id, "" for the scene itself
	Otherwise    string `json:"otherwise,omitempty"` // what the alternate is called
	Assembly     string `json:"assembly,omitempty"`  // id
	Shot         string `json:"shot,omitempty"`      // id
	Number       string `json:"number,omitempty"`    // of the shot
	Camera       string `json:"camera,omitempty"`    // id, "" when something else stands for it
	CameraNumber int    `json:"cameraNumber,omitempty"`
	CameraName   string `json:"cameraName,omitempty"`
	Format       string `json:"format"` // id
	Width        int    `json:"width"`
	Height       int    `json:"height"`
	In           int    `json:"in"`
	Out          int    `json:"out"`
	Head         int    `json:"head,omitempty"` // frames before In and after Out, as far as there are any
	Tail         int    `json:"tail,omitempty"`
	Offset       int    `json:"offset,omitempty"` // frames from the beginning of its shot, of a still at any frame
	Fixed        bool   `json:"fixed,omitempty"`  // its size is not the format's
	Moment       Moment `json:"moment,omitempty"` // of a still of a shot
	Marker       string `json:"marker,omitempty"` // id, of a still at a marker

	Pass scene.Pass `json:"pass,omitempty"` // what it tells instead of showing the picture
	Pace float64    `json:"pace,omitempty"` // frames of the scene for each of the file; 0 stands for 1
}

// Subject names what an item shows, so that versions of it can be counted.
func (i *Item) Subject() string {
	s := i.picture()
	if i.Pass != "" {
		s += " " + string(i.Pass)
	}
	if i.Alternate != "" {
		s += " as " + i.Alternate
	}
	return s
}

func (i *Item) picture() string {
	switch i.What {
	case Whole:
		return fmt.Sprintf("cut %s %s", i.Assembly, i.Format)
	case Camera:
		return fmt.Sprintf("camera %s %s %d", i.Camera, i.Format, i.In)
	case Still:
		switch {
		case i.Shot == "": // of a camera
			return fmt.Sprintf("still camera %s %s %d", i.Camera, i.Format, i.In)
		case i.Marker != "":
			return fmt.Sprintf("still %s marker %s %s", i.Assembly, i.Marker, i.Format)
		case i.Moment == "":
			return fmt.Sprintf("still %s %s %s +%d", i.Assembly, i.Shot, i.Format, i.Offset)
		}
		return fmt.Sprintf("still %s %s %s %s", i.Assembly, i.Shot, i.Format, i.Moment)
	}
	return fmt.Sprintf("shot %s %s %s", i.Assembly, i.Shot, i.Format)
}

// Frames is how many frames a file of the item has, with its handles and a slate.
func (i *Item) Frames(r *scene.Recipe) int {
	return slateOf(i, r) + i.filed(i.Head+i.Out-i.In+i.Tail)
}

// HeadFrames and TailFrames are how many frames of a file come before and after those of
// the item itself, a slate among them.
func (i *Item) HeadFrames(r *scene.Recipe) int { return slateOf(i, r) + i.filed(i.Head) }

// TailFrames is what comes after; see HeadFrames.
func (i *Item) TailFrames(r *scene.Recipe) int {
	return i.Frames(r) - slateOf(i, r) - i.filed(i.Head+i.Out-i.In)
}

// filed is how many frames of the file so many of the scene are, begun ones among them.
func (i *Item) filed(frames int) int { return int(math.Ceil(float64(frames)/i.pace() - 1e-6)) }

func (i *Item) pace() float64 {
	if i.Pace == 0 {
		return 1
	}
	return i.Pace
}

// RateOf is the rate of the files of a recipe.
func RateOf(doc *scene.Document, r *scene.Recipe) timing.Rate {
	if r.Rate != nil {
		return *r.Rate
	}
	return doc.Settings.Rate
}

// paceOf is how many frames of the scene there are for each of a recipe's files; 0 when
// they have the same rate.
func paceOf(doc *scene.Document, r *scene.Recipe) float64 {
	s, f := doc.Settings.Rate, RateOf(doc, r)
	if s == f {
		return 0
	}
	return float64(s.Num*f.Den) / float64(s.Den*f.Num)
}

// slateOf is how many frames of a slate come before an item: a single picture has none,
// nor has a pass.
func slateOf(i *Item, r *scene.Recipe) int {
	if i.What == Still || i.Pass != "" {
		return 0
	}
	return r.Slate
}

// Order is what is asked for. Shots and cameras are ids, or numbers; formats are ids.
type Order struct {
	Assemblies []string      `json:"assemblies,omitempty"` // ids
	Shots      []string      `json:"shots,omitempty"`      // none stands for all of the main lane
	Formats    []string      `json:"formats,omitempty"`    // none stands for the one that is worked in
	Alternates []string      `json:"alternates,omitempty"` // ids, "" for the scene itself, which none stands for, too
	Each       bool          `json:"each,omitempty"`       // a file for each shot
	Whole      bool          `json:"whole,omitempty"`      // a file of the whole main lane
	Cameras    []string      `json:"cameras,omitempty"`    // a file of each over a stretch of the story
	Stretch    *timing.Range `json:"stretch,omitempty"`    // of the story; none stands for what the cut uses of each camera
	Stills     []Moment      `json:"stills,omitempty"`     // pictures of each shot
	Portraits  bool          `json:"portraits,omitempty"`  // a picture of each camera that is not archived, where the cut sees it first
	Marked     bool          `json:"marked,omitempty"`     // a picture at each marker of screen time
	Spots      []Spot        `json:"spots,omitempty"`      // pictures of chosen frames
	Size       [2]int        `json:"size,omitempty"`       // in pixels, instead of the format's
}

// Spot is a frame of the cut on screen time, or of a camera (its id) on story time.
type Spot struct {
	Camera string `json:"camera,omitempty"`
	Frame  int    `json:"frame"`
}

// Moment is a frame of a shot.
type Moment string

// The moments of a shot.
const (
	First  Moment = "first"
	Middle Moment = "middle"
	Last   Moment = "last"
)

// Bounds of a delivery: its outputs, and the assemblies and formats that it is made of.
const (
	MaxItems  = 20_000
	maxChoice = 100
)

// Plan lists the outputs that an order asks for: alternate by alternate, assembly by
// assembly, format by format, shots in order of screen time.
func Plan(doc *scene.Document, o Order, r *scene.Recipe) (out []Item, err error) {
	if len(o.Alternates) == 0 {
		o.Alternates = []string{doc.As}
	}
	if len(o.Alternates) > maxChoice {
		return nil, fmt.Errorf("these are more than %d alternates; choose fewer", maxChoice)
	}
	sides := DocumentsOf(doc)
	for _, id := range once(o.Alternates) {
		side, err := sides.As(id)
		if err != nil {
			return nil, err
		}
		items, err := plan(side, o, r)
		if err != nil && len(o.Alternates) > 1 && id != "" {
			err = fmt.Errorf("%s: %w", doc.Alternates[id].Name, err)
		}
		if err != nil {
			return nil, err
		}
		for i := range items {
			items[i].Alternate, items[i].Otherwise = id, doc.Alternates[id].Name
		}
		if out = append(out, items...); len(out) > MaxItems {
			return nil, fmt.Errorf("these are more than %d files; choose fewer", MaxItems)
		}
	}
	return out, nil
}

// Documents are a scene and its alternates, each made when it is asked for first.
type Documents struct {
	doc  *scene.Document
	made map[string]*scene.Document
}

// DocumentsOf begins with a scene, or with a document that is an alternate already and stands
// for itself alone.
func DocumentsOf(doc *scene.Document) *Documents {
	return &Documents{doc: doc, made: map[string]*scene.Document{doc.As: doc}}
}

// As returns the document of an alternate.
func (s *Documents) As(id string) (*scene.Document, error) {
	if d := s.made[id]; d != nil {
		return d, nil
	}
	if s.doc.As != "" {
		return nil, errors.New("this is an alternate already; another one is made of the scene itself")
	}
	d, _, err := alternate.Resolve(s.doc, id)
	if err == nil {
		s.made[id] = d
	}
	return d, err
}

// Titled is the title of a scene, with what the document is of it otherwise.
func Titled(doc *scene.Document) string {
	return strings.TrimSpace(doc.Settings.Title + " " + doc.Alternates[doc.As].Name)
}

func plan(doc *scene.Document, o Order, r *scene.Recipe) ([]Item, error) {
	if err := scene.CheckRecipe(*r); err != nil {
		return nil, err
	}
	if !o.ofCut() && !o.ofCameras() {
		return nil, errors.New("nothing is chosen to be delivered: shots, the whole cut, cameras or stills")
	}
	if len(o.Assemblies) == 0 {
		o.Assemblies = program.Assemblies(doc)[:min(1, len(doc.Assemblies))]
	}
	if len(o.Formats) == 0 {
		o.Formats = []string{doc.Settings.Format}
	}
	if len(o.Assemblies) > maxChoice || len(o.Formats) > maxChoice || max(len(o.Shots), len(o.Cameras), len(o.Spots)) > MaxItems {
		return nil, fmt.Errorf("these are more than %d assemblies or formats, or than %d files; choose fewer", maxChoice, MaxItems)
	}
	o.Assemblies, o.Formats = once(o.Assemblies), once(o.Formats)
	var out []Item
	for _, format := range o.Formats {
		base := Item{Format: format, Head: r.Head, Tail: r.Tail}
		f, ok := doc.Formats[format]
		if !ok {
			return nil, errors.New("the scene has no such format any more; choose another one")
		}
		base.Width, base.Height = sized(f, r.Scale)
		if o.Size != [2]int{} {
			base.Width, base.Height, base.Fixed = o.Size[0], o.Size[1], true
		}
		for _, a := range o.Assemblies {
			if _, ok := doc.Assemblies[a]; !ok {
				return nil, errors.New("there is no such assembly in the scene")
			}
			base.Assembly = a
			items, err := cutItems(doc, o, base)
			if err != nil && len(o.Assemblies) > 1 {
				err = fmt.Errorf("%s: %w", doc.Assemblies[a].Name, err)
			}
			if err != nil {
				return nil, err
			}
			out = append(out, items...)
		}
		items, err := cameraItems(doc, o, base)
		if err != nil {
			return nil, err
		}
		if out = append(out, items...); len(out) > MaxItems {
			return nil, fmt.Errorf("these are more than %d files; choose fewer", MaxItems)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("nothing of what is chosen is there: no shot plays there, or nothing is marked")
	}
	if pace := paceOf(doc, r); pace != 0 {
		for i := range out {
			if out[i].What != Still {
				out[i].Pace = pace
			}
		}
	}
	return withPasses(out, r.Passes)
}

// withPasses puts the passes of each item after it.
func withPasses(items []Item, passes []scene.Pass) ([]Item, error) {
	if len(passes) == 0 {
		return items, nil
	}
	if len(items)*(1+len(passes)) > MaxItems {
		return nil, fmt.Errorf("with their passes these are more than %d files; choose fewer", MaxItems)
	}
	var out []Item
	for _, i := range items {
		out = append(out, i)
		for _, p := range passes {
			i.Pass = p
			out = append(out, i)
		}
	}
	return out, nil
}

// once leaves out what has been there before.
func once(list []string) (out []string) {
	seen := make(map[string]bool, len(list))
	for _, v := range list {
		if !seen[v] {
			seen[v] = true
			out = append(out, v)
		}
	}
	return out
}

// sized returns the even size of a format at a scale, 0 for 1.
func sized(f scene.Format, scale float64) (w, h int) {
	if scale == 0 {
		return f.Width, f.Height
	}
	even := func(n int) int { return max(16, 2*int(float64(n)*scale/2+0.5)) }
	return even(f.Width), even(f.Height)
}

// cutItems lists the outputs of the main lane of one assembly.
func cutItems(doc *scene.Document, o Order, base Item) ([]Item, error) {
	if !o.ofCut() {
		return nil, nil
	}
	p := program.Compile(doc, base.Assembly)
	var out []Item
	left := make(map[string]bool, len(o.Shots)) // chosen, and not found yet
	for _, s := range o.Shots {
		left[s] = true
	}
	for _, s := range p.Shots() {
		if len(o.Shots) > 0 {
			_, byID := left[s.ID]
			_, byNumber := left[s.Number]
			if !byID && !byNumber {
				continue
			}
			if byID {
				left[s.ID] = false
			}
			if byNumber {
				left[s.Number] = false
			}
		}
		item := shotItem(doc, base, &s)
		if o.Each {
			out = append(out, item)
		}
		for _, m := range o.Stills {
			still := item
			still.What, still.Moment, still.Head, still.Tail = Still, m, 0, 0
			switch m {
			case First:
			case Middle:
				still.In += (s.ScreenOut - s.ScreenIn) / 2
			case Last:
				still.In = s.ScreenOut - 1
			default:
				return nil, fmt.Errorf("%q is no moment of a shot; choose first, middle or last", m)
			}
			still.Out = still.In + 1
			out = append(out, still)
		}
	}
	var unknown []string
	for _, s := range o.Shots {
		if left[s] {
			unknown = append(unknown, s)
		}
	}
	switch {
	case len(unknown) > 0 && len(o.Assemblies) < 2 && len(o.Alternates) < 2:
		return nil, fmt.Errorf("the assembly has no shot %s", strings.Join(unknown, ", "))
	case p.Length() == 0:
		return nil, errors.New("there is nothing to deliver: the assembly has no shots; add one on the time strip first")
	}
	spots := append([]Spot{}, o.Spots...)
	marked := len(spots)
	var markers []string
	if o.Marked {
		markers = markersOf(doc, base.Assembly)
		for _, id := range markers {
			spots = append(spots, Spot{Frame: doc.Markers[id].Frame})
		}
	}
	for n, spot := range spots {
		at := p.Index(float64(spot.Frame))
		if spot.Camera != "" || at < 0 {
			continue
		}
		s := p.Shots()[at]
		item := shotItem(doc, base, &s)
		item.What, item.Head, item.Tail, item.In, item.Out, item.Offset = Still, 0, 0, spot.Frame, spot.Frame+1, spot.Frame-s.ScreenIn
		if n >= marked {
			item.Marker = markers[n-marked]
		}
		out = append(out, item)
	}
	if o.Whole {
		whole := base
		whole.What, whole.Out, whole.Head, whole.Tail = Whole, p.Length(), 0, 0
		out = append(out, whole)
	}
	return out, nil
}

// ofCut tells whether something of the cut is asked for, ofCameras whether something of
// cameras whether they are on air or not.
func (o *Order) ofCut() bool {
	return o.Each || o.Whole || o.Marked || len(o.Stills) > 0 || slices.ContainsFunc(o.Spots, func(s Spot) bool { return s.Camera == "" })
}

func (o *Order) ofCameras() bool {
	return len(o.Cameras) > 0 || o.Portraits || slices.ContainsFunc(o.Spots, func(s Spot) bool { return s.Camera != "" })
}

// shotItem is a shot as an item.
func shotItem(doc *scene.Document, base Item, s *program.Entry) Item {
	base.What, base.Shot, base.Number, base.CameraName, base.In, base.Out = Shot, s.ID, s.Number, string(s.Plays), s.ScreenIn, s.ScreenOut
	camera := program.ViewOf(&s.Shot, base.Format, 0).Camera
	if n := doc.Nodes[camera]; s.Plays == scene.PlaysCamera && n.Camera != nil {
		base.Camera, base.CameraNumber, base.CameraName = camera, n.Camera.Number, n.Name
	}
	return base
}

// markersOf lists the markers of screen time of an assembly in order.
func markersOf(doc *scene.Document, assembly string) (out []string) {
	for id, m := range doc.Markers {
		if m.Clock == scene.ScreenClock && m.Assembly == assembly {
			out = append(out, id)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		return cmp.Or(doc.Markers[a].Frame-doc.Markers[b].Frame, strings.Compare(a, b))
	})
	return out
}

// cameraItems lists the outputs of cameras over stretches of the story.
func cameraItems(doc *scene.Document, o Order, base Item) (out []Item, err error) {
	if !o.ofCameras() {
		return nil, nil
	}
	base.Assembly = ""
	pulls := Pull(doc, o.Assemblies, base.Head, base.Tail)
	of := func(id string) (item Item, err error) {
		n := doc.Nodes[id]
		if n.Camera == nil {
			return item, errors.New("a camera that is to be delivered is not there any more")
		}
		item = base
		item.What, item.Camera, item.CameraNumber, item.CameraName = Camera, id, n.Camera.Number, n.Name
		return item, nil
	}
	still := func(id string, frame int) error {
		item, err := of(id)
		item.What, item.Head, item.Tail, item.In, item.Out = Still, 0, 0, frame, frame+1
		out = append(out, item)
		return err
	}
	for _, s := range o.Spots {
		if s.Camera != "" {
			if err := still(s.Camera, s.Frame); err != nil {
				return nil, err
			}
		}
	}
	if o.Portraits {
		first := seenFirst(doc, o.Assemblies)
		for _, id := range slices.Sorted(maps.Keys(doc.Nodes)) {
			if k := doc.Nodes[id].Camera; k == nil || k.Archived {
				continue
			}
			at, seen := first[id]
			if !seen {
				at = doc.Settings.Story.In
			}
			if err := still(id, at); err != nil {
				return nil, err
			}
		}
	}
	if len(o.Cameras) == 0 {
		return out, nil
	}
	for _, id := range o.Cameras {
		item, err := of(id)
		if err != nil {
			return nil, err
		}
		stretches := []timing.Range{}
		if o.Stretch != nil {
			stretches = append(stretches, *o.Stretch)
		} else {
			item.Head, item.Tail = 0, 0 // they are in the ranges
			for _, p := range pulls {
				if p.Camera == id {
					stretches = p.Ranges
				}
			}
		}
		for _, s := range stretches {
			if s.Empty() || s.In < -scene.MaxFrame || s.Out > scene.MaxFrame {
				return nil, errors.New("the stretch of the story that is to be delivered has no frames")
			}
			item.In, item.Out = s.In, s.Out
			out = append(out, item)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("the cut uses none of the chosen cameras; say which stretch of the story is to be delivered")
	}
	return out, nil
}

// seenFirst returns the frames of the story at which the cut sees cameras first.
func seenFirst(doc *scene.Document, assemblies []string) map[string]int {
	out := map[string]int{}
	for _, a := range assemblies {
		for _, s := range program.Compile(doc, a).Shots() {
			if _, seen := out[s.Camera]; !seen && s.Plays == scene.PlaysCamera {
				out[s.Camera] = floor(s.StoryIn)
			}
		}
	}
	return out
}

// reel returns the cut that plays an item, and the frames of its screen time that the
// file shows, handles included and a slate not. A shot that is clean of its neighbours
// is a cut of its own, in which its camera runs on.
func reel(doc *scene.Document, cutOf func(assembly string) *program.Program, i *Item, r *scene.Recipe) (*program.Program, timing.Range, error) {
	all := timing.Range{In: i.In - i.Head, Out: i.Out + i.Tail}
	if i.What == Camera || i.What == Still && i.Shot == "" {
		shot := scene.ShotEntry{ID: "", Shot: scene.Shot{
			Number: i.Number, Camera: i.Camera, ScreenIn: all.In, ScreenOut: all.Out, StoryIn: float64(all.In), Speed: 1,
		}}
		if doc.Nodes[i.Camera].Camera == nil {
			return nil, all, errors.New("its camera is not there")
		}
		return program.Of(doc, shot, 0), all, nil
	}
	p := cutOf(i.Assembly)
	if i.What == Whole {
		return p, all, nil
	}
	shots := p.Shots()
	at := slices.IndexFunc(shots, func(s program.Entry) bool { return s.ID == i.Shot })
	if at < 0 {
		return nil, all, fmt.Errorf("the assembly has no shot %s", i.Number)
	}
	if r.Joined && i.What == Shot || i.What == Still {
		// Beyond its ends the cut goes on, which is what an editor expects of it.
		return p, all, nil
	}
	s := shots[at]
	s.Join = nil
	s.StoryIn, s.FootageIn = s.StoryAt(float64(all.In)), s.FootageAt(float64(all.In))
	moved := s.ScreenIn - all.In
	s.ScreenIn, s.ScreenOut = all.In, all.Out
	return program.Of(doc, s, moved), all, nil
}

// Needs is what the deliveries use of a camera: ranges of the story in order, and how
// many frames they are together.
type Needs struct {
	Camera string         `json:"camera"` // id
	Number int            `json:"number"`
	Name   string         `json:"name"`
	Ranges []timing.Range `json:"ranges"`
	Frames int            `json:"frames"`
}

// Pulled is a pull list: Frames is how many frames it has, Throughout how many every
// camera that is not archived would have over the whole story.
type Pulled struct {
	Rate       timing.Rate `json:"rate"`
	Cameras    []Needs     `json:"cameras"`
	Frames     int         `json:"frames"`
	Throughout int         `json:"throughout"`
}

// PullOf returns the pull list of assemblies with what it saves.
func PullOf(doc *scene.Document, assemblies []string, head, tail int) Pulled {
	out := Pulled{Rate: doc.Settings.Rate, Cameras: Pull(doc, assemblies, head, tail)}
	for _, n := range out.Cameras {
		out.Frames += n.Frames
	}
	for _, n := range doc.Nodes {
		if n.Camera != nil && !n.Camera.Archived {
			out.Throughout += doc.Settings.Story.Count()
		}
	}
	return out
}

// CSV writes a pull list as a table.
func (p Pulled) CSV(doc *scene.Document) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	_ = w.Write([]string{"camera", "name", "story in", "story out", "frames", "from", "to"})
	code := func(f int) string { return doc.Settings.Timecode(scene.StoryClock, f) }
	for _, n := range p.Cameras {
		for _, r := range n.Ranges {
			_ = w.Write([]string{strconv.Itoa(n.Number), interchange.Harmless(n.Name), strconv.Itoa(r.In), strconv.Itoa(r.Out), strconv.Itoa(r.Count()), code(r.In), code(r.Out)})
		}
	}
	w.Flush()
	return b.Bytes()
}

// Pull returns the pull list of assemblies: for each camera that they use the ranges of
// the story with handles, merged, by camera number.
func Pull(doc *scene.Document, assemblies []string, head, tail int) []Needs {
	by := map[string][]timing.Range{}
	for _, a := range assemblies {
		for _, s := range program.Compile(doc, a).Shots() {
			if s.Plays != scene.PlaysCamera || doc.Nodes[s.Camera].Camera == nil {
				continue
			}
			for id := range s.Cameras {
				by[id] = append(by[id], used(&s, head, tail))
			}
		}
	}
	out := []Needs{}
	for _, id := range slices.Sorted(maps.Keys(by)) {
		n := doc.Nodes[id]
		need := Needs{Camera: id, Number: n.Camera.Number, Name: n.Name, Ranges: merged(by[id])}
		for _, r := range need.Ranges {
			need.Frames += r.Count()
		}
		out = append(out, need)
	}
	slices.SortStableFunc(out, func(a, b Needs) int { return a.Number - b.Number })
	return out
}

func floor(v float64) int { return int(math.Floor(v)) }
func ceil(v float64) int  { return int(math.Ceil(v)) }

// used is what a shot uses of the story, in whole frames and with handles of screen
// time.
func used(s *scene.ShotEntry, head, tail int) timing.Range {
	in := s.StoryAt(float64(s.ScreenIn - head))
	last := s.StoryAt(float64(s.ScreenOut + tail - 1))
	return timing.Range{In: floor(in), Out: ceil(last) + 1}
}

// merged returns ranges in order, those that touch as one.
func merged(all []timing.Range) []timing.Range {
	slices.SortFunc(all, func(a, b timing.Range) int { return a.In - b.In })
	out := all[:0:0]
	for _, r := range all {
		if n := len(out); n > 0 && r.In <= out[n-1].Out {
			out[n-1].Out = max(out[n-1].Out, r.Out)
		} else {
			out = append(out, r)
		}
	}
	return out
}
