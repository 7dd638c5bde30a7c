package clip

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"proscen/core/assembly"
	"proscen/core/edit"
	"proscen/core/scene"
)

// Operations returns the operation paste.
func Operations() edit.Catalog { return edit.Catalog{"paste": edit.Op(paste)} }

type pasteArgs struct {
	Clip     json.RawMessage `json:"clip"`               // a document that Take has made
	Assembly string          `json:"assembly,omitempty"` // shots: the assembly that they are put into
	At       int             `json:"at,omitempty"`       // shots: the screen frame from which on
	Onto     string          `json:"onto,omitempty"`     // boards without their shots: the shot that gets them, "" for a new one
	From     int             `json:"from,omitempty"`     // boards: frames after that shot's first
}

// paste puts what was copied into a scene, at its place in the world and in story
// time; seconds stay when the scene has another rate. What the scene has already of
// models, kits, cards and footage is used again, and so are the cameras of copied shots in
// the scene that they come from: a shot there is seen through its camera, not a copy.
func paste(d *edit.Draft, a pasteArgs) (string, error) {
	if len(a.Clip) > MaxBytes {
		return "", fmt.Errorf("what was copied has more than %d MB; copy it in parts", MaxBytes>>20)
	}
	src, err := scene.Decode(a.Clip)
	if err != nil {
		return "", fmt.Errorf("what was copied cannot be pasted: %w", err)
	}
	if err := assembly.AtRate(src, d.Doc.Settings.Rate); err != nil {
		return "", fmt.Errorf("what was copied cannot be brought to %s f/s: %w", d.Doc.Settings.Rate, err)
	}
	p := pasting{Draft: d, src: src, ids: map[string]string{}}
	if !p.home() {
		p.things()
	}
	put := p.shots
	if _, alone := src.Shots[boardShot]; alone && a.Onto != "" {
		put = p.boards
	}
	if err := put(a); err != nil {
		return "", err
	}
	if len(p.label) == 0 {
		return "", errors.New("there is nothing in what was copied")
	}
	if src.Settings.Title == d.Doc.Settings.Title {
		return "paste " + strings.Join(p.label, " and "), nil
	}
	return fmt.Sprintf("paste %s from %s", strings.Join(p.label, " and "), src.Settings.Title), nil
}

// pasting is the work of pasting.
type pasting struct {
	*edit.Draft
	src   *scene.Document
	ids   map[string]string // what an entity of the clip is here, by collection/id
	label []string
}

// to returns what an entity of the clip is here, "" for none.
func (p *pasting) to(collection, id string) string { return p.ids[collection+"/"+id] }

// known notes that an entity of the clip is one that is here already.
func (p *pasting) known(collection, id, here string) { p.ids[collection+"/"+id] = here }

// fresh gives an entity of the clip an id here.
func (p *pasting) fresh(collection, id string) string {
	made := p.NewID()
	p.known(collection, id, made)
	return made
}

// tell adds how many of something were pasted.
func (p *pasting) tell(n int, one, many string) {
	switch {
	case n == 1:
		p.label = append(p.label, one)
	case n > 1:
		p.label = append(p.label, fmt.Sprintf("%d %s", n, many))
	}
}

// used makes sure that things which may be used by several are here once: one that is
// the same here stands for the clip's.
func used[T any](p *pasting, collection string, of, here map[string]T, same func(a, b T) bool, set func(id string, v T)) {
	for _, id := range slices.Sorted(maps.Keys(of)) {
		found := ""
		for _, k := range slices.Sorted(maps.Keys(here)) {
			if same(of[id], here[k]) {
				found = k
				break
			}
		}
		if found != "" {
			p.known(collection, id, found)
			continue
		}
		set(p.fresh(collection, id), of[id])
	}
}

// home tells whether shots were copied in this scene, and nothing but them, so that the
// cameras that they are seen through are here, and notes that they are.
func (p *pasting) home() bool {
	from, here := p.src.Settings, p.Doc.Settings
	if len(p.src.Shots) == 0 || len(p.src.Nodes) == 0 || from.Title != here.Title || from.Production != here.Production {
		return false
	}
	for id, n := range p.src.Nodes {
		if n.Camera == nil || p.Doc.Nodes[id].Camera == nil {
			return false
		}
	}
	for id := range p.src.Nodes {
		p.known("nodes", id, id)
	}
	clear(p.src.Nodes) // none of them is made, nor changed
	return true
}

// things pastes nodes with what is theirs, and paths.
func (p *pasting) things() {
	src := p.src
	used(p, "models", src.Models, p.Doc.Models, func(a, b scene.Model) bool { return a.Blob == b.Blob }, p.SetModel)
	for id, k := range src.Kits {
		k.Shared = false // the kit of another production, unless it is here too
		src.Kits[id] = k
	}
	used(p, "kits", src.Kits, p.Doc.Kits, func(a, b scene.Kit) bool {
		b.Shared = false
		return string(scene.Canonical(a)) == string(scene.Canonical(b))
	}, p.SetKit)
	for _, id := range slices.Sorted(maps.Keys(src.Paths)) {
		p.SetPath(p.fresh("paths", id), src.Paths[id])
	}
	nodes := slices.Sorted(maps.Keys(src.Nodes))
	for _, id := range nodes {
		p.fresh("nodes", id)
	}
	names, next := edit.Names(p.Doc), max(edit.NextCamera(p.Doc), edit.NextCamera(src))
	numbers := map[int]bool{}
	for _, n := range p.Doc.Nodes {
		if n.Camera != nil {
			numbers[n.Camera.Number] = true
		}
	}
	top := 0
	for _, id := range nodes {
		n := p.node(src.Nodes[id])
		if n.Parent == "" {
			top++
		}
		n.Name = names(n.Name)
		if k := n.Camera; k != nil && numbers[k.Number] {
			k.Number, k.Color = next, edit.CameraColors[(next-1)%len(edit.CameraColors)]
			next++
		}
		p.SetNode(p.to("nodes", id), n)
	}
	for _, id := range slices.Sorted(maps.Keys(src.Curves)) {
		c := src.Curves[id]
		c.Node = p.to("nodes", c.Node)
		c.Keys = slices.Clone(c.Keys)
		for i := range c.Keys {
			c.Keys[i].On = p.to("nodes", c.Keys[i].On)
		}
		if c.Node != "" { // else of the light of the scene that it comes from
			p.SetCurve(p.NewID(), c)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(src.Actions)) {
		a := src.Actions[id]
		for _, ref := range []*string{&a.Cast, &a.Face, &a.On, &a.With} {
			*ref = p.to("nodes", *ref)
		}
		a.Path = p.to("paths", a.Path)
		p.SetAction(p.NewID(), a)
	}
	for _, id := range slices.Sorted(maps.Keys(src.Lines)) {
		l := src.Lines[id]
		l.Cast = p.to("nodes", l.Cast)
		p.SetLine(p.NewID(), l)
	}
	p.tell(top, "a thing", "things")
	if top == 0 {
		p.tell(len(src.Paths), "a path", "paths")
	}
}

// node returns a node of the clip as it refers to things here.
func (p *pasting) node(n scene.Node) scene.Node {
	n.Parent, n.Path, n.Model = p.to("nodes", n.Parent), p.to("paths", n.Path), p.to("models", n.Model)
	if n.Piece != nil && n.Piece.Along != "" {
		piece := *n.Piece
		piece.Along = p.to("paths", piece.Along)
		n.Piece = &piece
	}
	if n.Camera != nil {
		k := *n.Camera
		k.AimAt, k.FocusOn, k.Kit = p.to("nodes", k.AimAt), p.to("nodes", k.FocusOn), p.to("kits", k.Kit)
		k.Order = 0
		n.Camera = &k
	}
	return n
}

// shots pastes the shots of the clip, if it has any.
func (p *pasting) shots(a pasteArgs) error {
	src := p.src
	order := src.ShotsInOrder()
	if len(order) == 0 {
		return nil
	}
	used(p, "cards", src.Cards, p.Doc.Cards, func(a, b scene.Card) bool { return a == b }, p.SetCard)
	used(p, "footage", src.Footage, p.Doc.Footage, func(a, b scene.Footage) bool { return a == b }, p.SetFootage)
	boards := src.BoardsByShot()
	var in []assembly.IncomingShot
	for _, e := range order {
		s := e.Shot
		s.Camera, s.Card, s.Footage = p.to("nodes", s.Camera), p.to("cards", s.Card), p.to("footage", s.Footage)
		framed := maps.Clone(s.Framed())
		for format, f := range framed {
			f.Camera = p.to("nodes", f.Camera)
			framed[format] = f
		}
		s.Frame(framed)
		one := assembly.IncomingShot{Shot: s}
		for _, b := range boards[e.ID] {
			one.Boards = append(one.Boards, src.Boards[b])
		}
		in = append(in, one)
	}
	made, err := assembly.PutIn(p.Draft, a.Assembly, a.At, in)
	if err != nil {
		return err
	}
	for i, e := range order {
		p.known("shots", e.ID, made[i])
	}
	for _, id := range slices.Sorted(maps.Keys(src.Nodes)) {
		n := src.Nodes[id]
		if n.Shooting == nil || len(n.Shooting.Only) == 0 {
			continue
		}
		here := p.Doc.Nodes[p.to("nodes", id)]
		s := scene.Shooting{Hidden: n.Shooting.Hidden}
		for _, shot := range n.Shooting.Only {
			s.Only = append(s.Only, p.to("shots", shot))
		}
		here.Shooting = &s
		p.SetNode(p.to("nodes", id), here)
	}
	p.tell(len(in), "a shot", "shots")
	return nil
}

// boards gives boards to a shot that is here, as far as they begin within it.
func (p *pasting) boards(a pasteArgs) error {
	n := 0
	list := p.src.BoardsOf(boardShot)
	for _, id := range list {
		b := p.src.Boards[id]
		s, ok := p.Doc.Shots[a.Onto]
		if !ok {
			return errors.New("the shot that was to get the boards is not there any more")
		}
		if at := a.From + b.At; at >= 0 && at < s.Screen().Count() {
			if err := assembly.PutBoard(p.Draft, a.Onto, assembly.Panel{Name: b.Name, Blob: b.Blob, Width: b.Width, Height: b.Height}, at, ""); err != nil {
				return err
			}
			n++
		}
	}
	if n == 0 {
		return errors.New("the shot is too short for the boards at this frame; go to its beginning")
	}
	p.tell(n, "a board", "boards")
	return nil
}
