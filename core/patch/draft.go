package patch

import (
	"bytes"
	"encoding/json"
	"fmt"

	"proscen/core/scene"
)

// shotsName is the name of the collection that drafts keep in a way of its own.
const shotsName = "shots"

// Draft collects what is changed in a document, so that it can become a patch or
// be taken back.
type Draft struct {
	Doc    *scene.Document
	tables tables
	seen   map[Key]bool
	others []scene.Touched // entities but shots as they were, in the order in which they were touched
	shots  *touchedShots   // nil as long as none is touched
}

// NewDraft begins to change a document.
func NewDraft(doc *scene.Document) *Draft {
	return &Draft{Doc: doc, tables: tablesOf(doc), seen: map[Key]bool{}}
}

func (d *Draft) touch(collection, id string) {
	if collection == shotsName {
		d.touchShot(id)
		return
	}
	key := Key{"", collection, id}
	if !d.seen[key] {
		d.seen[key] = true
		d.others = append(d.others, scene.Touched{Collection: collection, ID: id, Before: d.tables[collection].Value(id)})
	}
}

// Table returns a collection by name, or nil.
func (d *Draft) Table(name string) scene.Table {
	if t, ok := d.tables[name]; ok {
		return t
	}
	return nil
}

// Touched tells whether an entity, but a shot, was touched.
func (d *Draft) Touched(collection, id string) bool { return d.seen[Key{"", collection, id}] }

// put makes a change whose collection there is.
func (d *Draft) put(c Change) error {
	if none(c.After) == nil {
		d.Delete(c.Collection, c.ID)
		return nil
	}
	if err := d.SetJSON(c.Collection, c.ID, c.After); err != nil {
		return fmt.Errorf("%s %w", c.Key(), err)
	}
	return nil
}

// Delete removes an entity.
func (d *Draft) Delete(collection, id string) {
	d.touch(collection, id)
	d.tables[collection].Delete(id)
	d.settle(collection, id)
}

// SetJSON replaces an entity by its JSON form.
func (d *Draft) SetJSON(collection, id string, body json.RawMessage) error {
	d.touch(collection, id)
	err := d.tables[collection].Set(id, body)
	d.settle(collection, id)
	return err
}

// SetNode stores a node.
func (d *Draft) SetNode(id string, v scene.Node) { d.touch("nodes", id); d.Doc.Nodes[id] = v }

// SetPath stores a path.
func (d *Draft) SetPath(id string, v scene.Path) { d.touch("paths", id); d.Doc.Paths[id] = v }

// SetCurve stores a curve.
func (d *Draft) SetCurve(id string, v scene.Curve) { d.touch("curves", id); d.Doc.PutCurve(id, v) }

// SetAction stores an action.
func (d *Draft) SetAction(id string, v scene.Action) { d.touch("actions", id); d.Doc.Actions[id] = v }

// SetShot stores a shot.
func (d *Draft) SetShot(id string, v scene.Shot) {
	c := d.touchShot(id)
	c.After, c.Is = v, true
	d.Doc.PutShot(id, v)
}

// SetModel stores an imported model.
func (d *Draft) SetModel(id string, v scene.Model) { d.touch("models", id); d.Doc.Models[id] = v }

// SetAlternate stores an alternate.
func (d *Draft) SetAlternate(id string, v scene.Alternate) {
	d.touch("alternates", id)
	d.Doc.Alternates[id] = v
}

// SetDifference stores a difference of an alternate.
func (d *Draft) SetDifference(id string, v scene.Difference) {
	d.touch("differences", id)
	d.Doc.Differences[id] = v
}

// SetRecipe stores a recipe.
func (d *Draft) SetRecipe(id string, v scene.Recipe) { d.touch("recipes", id); d.Doc.Recipes[id] = v }

// SetKit stores a lens kit.
func (d *Draft) SetKit(id string, v scene.Kit) { d.touch("kits", id); d.Doc.Kits[id] = v }

// SetFormat stores a format.
func (d *Draft) SetFormat(id string, v scene.Format) { d.touch("formats", id); d.Doc.Formats[id] = v }

// SetBoard stores a board.
func (d *Draft) SetBoard(id string, v scene.Board) { d.touch("boards", id); d.Doc.PutBoard(id, v) }

// SetCard stores a card.
func (d *Draft) SetCard(id string, v scene.Card) { d.touch("cards", id); d.Doc.Cards[id] = v }

// SetFootage stores footage.
func (d *Draft) SetFootage(id string, v scene.Footage) { d.touch("footage", id); d.Doc.Footage[id] = v }

// SetTrack stores a track.
func (d *Draft) SetTrack(id string, v scene.Track) { d.touch("tracks", id); d.Doc.Tracks[id] = v }

// SetSound stores a sound.
func (d *Draft) SetSound(id string, v scene.Sound) { d.touch("sounds", id); d.Doc.Sounds[id] = v }

// SetAssembly stores an assembly.
func (d *Draft) SetAssembly(id string, v scene.Assembly) {
	d.touch("assemblies", id)
	d.Doc.Assemblies[id] = v
}

// SetLane stores a lane.
func (d *Draft) SetLane(id string, v scene.Lane) { d.touch("lanes", id); d.Doc.Lanes[id] = v }

// SetLine stores a line.
func (d *Draft) SetLine(id string, v scene.Line) { d.touch("lines", id); d.Doc.Lines[id] = v }

// SetMarker stores a marker.
func (d *Draft) SetMarker(id string, v scene.Marker) { d.touch("markers", id); d.Doc.Markers[id] = v }

// Patch returns what the draft has changed.
func (d *Draft) Patch() Patch {
	var p Patch
	add := func(collection, id string, was any) {
		after := d.tables[collection].Get(id)
		var before json.RawMessage
		if was != nil {
			before = scene.Canonical(was)
		}
		if !bytes.Equal(before, after) {
			p = append(p, Change{Collection: collection, ID: id, Before: before, After: after})
		}
	}
	for _, o := range d.others {
		add(o.Collection, o.ID, o.Before)
	}
	for _, c := range d.Shots() {
		if c.Was {
			add(shotsName, c.ID, c.Before)
		} else {
			add(shotsName, c.ID, nil)
		}
	}
	p.sort()
	return p
}

// Keep returns the patch of a draft that stays, and takes what the patch says
// over into the document, so that there is nothing in memory that is not in
// JSON: −0 is 0 then. On error everything is as it was.
func (d *Draft) Keep() (Patch, error) {
	p := d.Patch()
	for _, c := range p {
		if c.After == nil {
			continue
		}
		if err := d.tables[c.Collection].Set(c.ID, c.After); err != nil {
			d.Rollback()
			return nil, fmt.Errorf("%s %w", c.Key(), err)
		}
	}
	by, err := bound(d.Doc, p)
	if err != nil {
		d.Rollback()
		return nil, err
	}
	d.Doc.Grow(by)
	d.Release()
	return p, nil
}

// Rollback restores what was before; the draft is not used any more.
func (d *Draft) Rollback() {
	for _, o := range d.others {
		d.tables[o.Collection].Put(o.ID, o.Before)
	}
	for _, c := range d.Shots() {
		if c.Was {
			d.Doc.PutShot(c.ID, c.Before)
		} else {
			d.tables[shotsName].Delete(c.ID)
		}
	}
	d.Release()
}

// Problems returns what the changes have made wrong in a document that was valid
// before them.
func (d *Draft) Problems() scene.Problems {
	for i := range d.Shots() {
		d.shots.list[i].Settle()
	}
	return d.Doc.ValidateTouched(d.Shots(), d.others)
}

// Shots lists the shots that were touched. The list holds until Rollback or
// Release.
func (d *Draft) Shots() []scene.ShotChange {
	if d.shots == nil {
		return nil
	}
	return d.shots.list
}

// Others lists what was touched besides shots.
func (d *Draft) Others() []scene.Touched { return d.others }

// Touches tells whether a shot was touched.
func (d *Draft) Touches(shot string) bool {
	if d.shots == nil {
		return false
	}
	_, ok := d.shots.index[shot]
	return ok
}

// Claim is what a draft has touched, and outlives it. The empty one holds nothing.
type Claim struct {
	seen  map[Key]bool
	shots map[string]bool
}

// Claim returns what the draft has touched.
func (d *Draft) Claim() Claim {
	c := Claim{seen: d.seen, shots: make(map[string]bool, len(d.Shots()))}
	for _, s := range d.Shots() {
		c.shots[s.ID] = true
	}
	return c
}

// Meets tells whether a draft has touched something that is claimed.
func (c Claim) Meets(d *Draft) bool {
	for _, t := range d.others {
		if c.seen[Key{"", t.Collection, t.ID}] {
			return true
		}
	}
	for _, s := range d.Shots() {
		if c.shots[s.ID] {
			return true
		}
	}
	return false
}
