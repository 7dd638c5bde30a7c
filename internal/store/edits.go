package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/sync"
)

// Edit is one entry of a scene's log.
type Edit struct {
	sync.Edit
	Author string
	At     time.Time
}

// arrival is an edit that waits for its turn, and then its outcome.
type arrival struct {
	edit Edit
	err  error
	done bool
	was  bool // it was in the log before
}

// mostAtOnce bounds the edits that are stored in one transaction.
const mostAtOnce = 64

// Accept makes an edit the next one of a scene, by the rules of sync.Accept. An
// edit whose id is in the log already is answered as it is there, with again. Edits
// that arrive while another one is being stored are stored together. Errors are
// sync.ClashError, scene.Problems, ErrNotFound, ErrTaken, or of the database; then
// nothing has been stored of the edit.
func (s *Store) Accept(ctx context.Context, id string, e Edit) (stored Edit, again bool, err error) {
	if err := e.Check(); err != nil {
		return Edit{}, false, scene.Problems{{Path: "edit", Message: err.Error()}}
	}
	if !s.holds(id) { // what is not there takes no place in memory
		if _, err := s.Revision(ctx, id); err != nil {
			return Edit{}, false, err
		}
	}
	o, release := s.hold(id)
	defer release()
	a := &arrival{edit: e}
	o.waiting.Lock()
	o.waiting.edits = append(o.waiting.edits, a)
	o.waiting.Unlock()
	o.mu.Lock()
	defer o.mu.Unlock()
	for !a.done { // those that came before may have taken it along
		o.waiting.Lock()
		n := min(mostAtOnce, len(o.waiting.edits))
		batch := o.waiting.edits[:n:n]
		o.waiting.edits = o.waiting.edits[n:]
		o.waiting.Unlock()
		// The transaction is not only of the one who waits for it.
		s.store(context.WithoutCancel(ctx), o, id, batch)
	}
	return a.edit, a.was, a.err
}

// store makes edits the next ones of a scene, together or, when one of them is why
// that is refused, one by one. The caller holds o.mu.
func (s *Store) store(ctx context.Context, o *openScene, id string, batch []*arrival) {
	err := s.commit(ctx, o, id, batch)
	if errors.Is(err, ErrTaken) && len(batch) > 1 { // one of them gives a title that is taken
		for _, a := range batch {
			a.err, a.was = nil, false
			s.store(ctx, o, id, []*arrival{a})
		}
		return
	}
	for _, a := range batch {
		if err != nil {
			a.err = err
		}
		a.done = true
	}
}

// commit stores those edits of a batch that may be, in one transaction: rows,
// revision and log, or nothing. An edit that may not gets its own error.
func (s *Store) commit(ctx context.Context, o *openScene, id string, batch []*arrival) error {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	var fresh []Edit
	ahead := false // the held document is ahead of the database
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row sceneRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&row, "id = ? and not emptied", id).Error; err != nil {
			return missing(err, "scene")
		}
		if err := s.load(ctx, tx, o, id, row.Revision); err != nil {
			return err
		}
		known, err := logged(tx, id, batch)
		if err != nil {
			return err
		}
		now := time.Now().UTC()
		for _, a := range batch {
			if was, ok := known[a.edit.ID]; ok {
				a.edit, a.was = was, true
				continue
			}
			revision := row.Revision + len(fresh)
			if a.err = accept(o.doc, revision, a.edit.Edit); a.err != nil {
				continue
			}
			ahead = true
			a.edit.Revision, a.edit.At = revision+1, now
			fresh = append(fresh, a.edit)
			known[a.edit.ID] = a.edit
		}
		if len(fresh) == 0 {
			return nil
		}
		return s.persist(tx, row, fresh, o.doc)
	})
	switch {
	case err != nil && ahead:
		o.doc = nil
	case err == nil && len(fresh) > 0:
		o.revision = fresh[len(fresh)-1].Revision
		if s.told != nil {
			s.told(Event{Scene: id, Kind: EditEvent, Revision: o.revision, Edits: fresh})
		}
	}
	return err
}

// accept sorts what sync.Accept refuses into errors that are answered to people.
func accept(doc *scene.Document, revision int, e sync.Edit) error {
	err := sync.Accept(doc, revision, e)
	var problems scene.Problems
	var clash sync.ClashError
	if err == nil || errors.As(err, &clash) || errors.As(err, &problems) {
		return err
	}
	return scene.Problems{{Path: "edit", Message: err.Error()}}
}

// logged finds the edits of a batch that are in the log already, by their ids.
func logged(tx *gorm.DB, scene string, batch []*arrival) (map[string]Edit, error) {
	ids := make([]string, len(batch))
	for i, a := range batch {
		ids[i] = a.edit.ID
	}
	var rows []editRow
	if err := tx.Where("scene_id = ? and edit_id in ?", scene, ids).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := map[string]Edit{}
	for _, r := range rows {
		e, err := r.edit()
		if err != nil {
			return nil, err
		}
		out[e.ID] = e
	}
	return out, nil
}

func (s *Store) persist(tx *gorm.DB, row sceneRow, fresh []Edit, doc *scene.Document) error {
	id := row.ID
	patches := make([]patch.Patch, len(fresh))
	rows := make([]editRow, len(fresh))
	for i, e := range fresh {
		patches[i] = e.Patch
		body, err := json.Marshal(e.Patch)
		if err != nil {
			return err
		}
		rows[i] = editRow{
			SceneID: id, Revision: e.Revision, EditID: e.ID, Base: e.Base, Kind: string(e.Kind), OfEdit: e.Of, Label: e.Label,
			Operation: e.Operation, Arguments: jsonb(e.Arguments), Alternate: e.Alternate, Tab: e.Tab, Person: e.Person, Author: e.Author, At: e.At, Patch: body,
		}
	}
	if err := writeEntities(tx, id, patch.Merge(patches...)); err != nil {
		return err
	}
	if err := tx.CreateInBatches(rows, 500).Error; err != nil {
		return err
	}
	last := fresh[len(fresh)-1]
	row.Revision, row.Title = last.Revision, doc.Settings.Title
	row.after(doc, patches)
	row.EditedAt, row.EditedBy = last.At, last.Author
	if moves(patches) {
		p, err := productionNamed(tx, doc.Settings.Production)
		if err != nil {
			return err
		}
		if p.ID != row.ProductionID {
			row.ProductionID, row.Taken = p.ID, -1
		}
	}
	err := tx.Select("*").Updates(&row).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrTaken
	}
	if err != nil {
		return err
	}
	return s.announce(tx, Event{Scene: id, Kind: EditEvent, Revision: last.Revision, Origin: s.origin})
}

// moves tells whether patches name another production.
func moves(all []patch.Patch) bool {
	for _, p := range all {
		for _, c := range p {
			if c.Collection != "settings" {
				continue
			}
			var was, is struct{ Production string }
			if json.Unmarshal(c.Before, &was) != nil || json.Unmarshal(c.After, &is) != nil || was != is {
				return true
			}
		}
	}
	return false
}

func writeEntities(tx *gorm.DB, id string, p patch.Patch) error {
	var upsert []entity
	for _, c := range p {
		if c.After == nil {
			if err := tx.Delete(&entity{}, "scene_id = ? and layer = ? and collection = ? and id = ?", id, c.Layer, c.Collection, c.ID).Error; err != nil {
				return err
			}
			continue
		}
		upsert = append(upsert, entity{id, c.Layer, c.Collection, c.ID, jsonb(c.After)})
	}
	if len(upsert) == 0 {
		return nil
	}
	return tx.Clauses(clause.OnConflict{
		Columns:   []clause.Column{{Name: "scene_id"}, {Name: "layer"}, {Name: "collection"}, {Name: "id"}},
		DoUpdates: clause.AssignmentColumns([]string{"body"}),
	}).CreateInBatches(upsert, 500).Error
}

// historyBytes is how much of the patches of a history is read with it, as they
// are stored: patches can be large, and most are never asked for.
const historyBytes = 256 << 10

// Slice says which edits of a log are wanted.
type Slice struct {
	Before int    // only those before this revision; 0 for all
	Person string // only those of a person; "" for all
	Limit  int
}

// Edits returns the newest edits of a slice of a scene's log, newest first. The
// patches of older ones are left out when the newer ones are large; see Edit.
func (s *Store) Edits(ctx context.Context, id string, want Slice) ([]Edit, error) {
	var rows []editRow
	newest := s.db.Model(&editRow{}).Where("scene_id = ?", id).Order("revision desc").Limit(want.Limit)
	if want.Before > 0 {
		newest = newest.Where("revision < ?", want.Before)
	}
	if want.Person != "" {
		newest = newest.Where("person = ?", want.Person)
	}
	sized := s.db.Table("(?) as newest", newest).
		Select("*, sum(pg_column_size(patch)) over (order by revision desc) - pg_column_size(patch) as newer")
	err := s.db.WithContext(ctx).Table("(?) as sized", sized).
		Select("revision, edit_id, base, kind, of_edit, label, operation, tab, person, author, at, case when newer < ? then patch end as patch", historyBytes).
		Order("revision desc").Find(&rows).Error
	if err != nil {
		return nil, err
	}
	return editsOf(rows)
}

// Bounds of what Since returns at once: a copy that has missed more is better read
// anew.
const (
	sinceEdits = 2000
	sinceBytes = 4 << 20
)

// Since returns the edits of a scene after a revision, oldest first, and the newest
// revision. There are none when they are too many or too large to be sent.
func (s *Store) Since(ctx context.Context, id string, after int) (edits []Edit, revision int, err error) {
	var row sceneRow
	if err := s.db.WithContext(ctx).Take(&row, "id = ? and not emptied", id).Error; err != nil {
		return nil, 0, missing(err, "scene")
	}
	if row.Revision <= after || row.Revision-after > sinceEdits {
		return nil, row.Revision, nil
	}
	var bytes int64
	log := s.db.WithContext(ctx).Model(&editRow{}).Where("scene_id = ? and revision > ? and revision <= ?", id, after, row.Revision)
	if err := log.Session(&gorm.Session{}).Select("coalesce(sum(pg_column_size(patch)), 0)").Scan(&bytes).Error; err != nil || bytes > sinceBytes {
		return nil, row.Revision, err
	}
	var rows []editRow
	if err := log.Session(&gorm.Session{}).Omit("arguments").Order("revision").Find(&rows).Error; err != nil {
		return nil, 0, err
	}
	edits, err = editsOf(rows)
	return edits, row.Revision, err
}

// Known tells which ids of edits are in the log of a scene.
func (s *Store) Known(ctx context.Context, id string, ids []string) (known []string, err error) {
	if len(ids) == 0 {
		return nil, nil
	}
	err = s.db.WithContext(ctx).Model(&editRow{}).Where("scene_id = ? and edit_id in ?", id, ids).Pluck("edit_id", &known).Error
	return known, err
}

// Edit returns an edit of a scene with its patch.
func (s *Store) Edit(ctx context.Context, id string, revision int) (Edit, error) {
	var r editRow
	if err := s.db.WithContext(ctx).Where("scene_id = ? and revision = ?", id, revision).Take(&r).Error; err != nil {
		return Edit{}, missing(err, "edit")
	}
	return r.edit()
}

func editsOf(rows []editRow) ([]Edit, error) {
	out := make([]Edit, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.edit(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (r editRow) edit() (Edit, error) {
	e := Edit{Edit: sync.Edit{
		ID: r.EditID, Revision: r.Revision, Base: r.Base, Kind: sync.Kind(r.Kind), Of: r.OfEdit, Label: r.Label,
		Operation: r.Operation, Arguments: json.RawMessage(r.Arguments), Alternate: r.Alternate, Tab: r.Tab, Person: r.Person,
	}, Author: r.Author, At: r.At}
	if r.Patch == nil {
		return e, nil
	}
	if err := json.Unmarshal(r.Patch, &e.Patch); err != nil {
		return e, fmt.Errorf("edit %d is stored with a broken patch: %w", r.Revision, err)
	}
	// jsonb keeps meaning, not spelling.
	var err error
	e.Patch, err = patch.Canonical(e.Patch)
	return e, err
}
