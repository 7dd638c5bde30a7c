package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"proscen/core/patch"
	"proscen/core/scene"
)

// SceneInfo names a scene.
type SceneInfo struct {
	ID, Production, Title string
	Revision              int
}

// Edit is one entry of a scene's history.
type Edit struct {
	Revision            int
	Kind, Label, Author string
	At                  time.Time
	Patch               patch.Patch
}

// StaleError says that an edit was made from a revision that is not the newest.
type StaleError struct{ Current int }

func (e StaleError) Error() string {
	return fmt.Sprintf("the scene has gone on to edit %d since; load it again and repeat the change", e.Current)
}

// ErrTaken says that the production has a scene of that title.
var ErrTaken = errors.New("the production has a scene of this title already; choose another title")

// Scenes lists all scenes by production and title.
func (s *Store) Scenes(ctx context.Context) ([]SceneInfo, error) {
	var out []SceneInfo
	err := s.db.WithContext(ctx).Table("scenes").
		Select("scenes.id, productions.name as production, scenes.title, scenes.revision").
		Joins("join productions on productions.id = scenes.production_id").
		Order("productions.name, scenes.title").Scan(&out).Error
	return out, err
}

// CreateScene stores a valid document as a new scene of the production that its
// settings name.
func (s *Store) CreateScene(ctx context.Context, doc *scene.Document) (SceneInfo, error) {
	info := SceneInfo{ID: NewID(), Production: doc.Settings.Production, Title: doc.Settings.Title}
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&production{NewID(), info.Production}).Error; err != nil {
			return err
		}
		var p production
		if err := tx.Where("name = ?", info.Production).Take(&p).Error; err != nil {
			return err
		}
		if err := tx.Create(&sceneRow{ID: info.ID, ProductionID: p.ID, Title: info.Title}).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrTaken
			}
			return err
		}
		var rows []entity
		for _, t := range doc.Tables() {
			for _, id := range t.IDs() {
				rows = append(rows, entity{info.ID, t.Name(), id, jsonb(t.Get(id))})
			}
		}
		return tx.CreateInBatches(rows, 500).Error
	})
	return info, err
}

// Scene returns a scene's document in canonical JSON and its revision.
func (s *Store) Scene(ctx context.Context, id string) (json.RawMessage, int, error) {
	o := s.hold(id)
	o.mu.Lock()
	defer o.mu.Unlock()
	var row sceneRow
	if err := s.db.WithContext(ctx).Take(&row, "id = ?", id).Error; err != nil {
		return nil, 0, missing(err, "scene")
	}
	if err := s.load(ctx, s.db, o, id, row.Revision); err != nil {
		return nil, 0, err
	}
	return o.doc.Encode(), o.revision, nil
}

func missing(err error, what string) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("the %s cannot be found: %w", what, ErrNotFound)
	}
	return err
}

func (s *Store) hold(id string) *openScene {
	s.mu.Lock()
	defer s.mu.Unlock()
	o := s.open[id]
	if o == nil {
		o = &openScene{}
		s.open[id] = o
	}
	return o
}

// load brings the held document to a revision, reading rows unless it is there
// already. The caller holds o.mu.
func (s *Store) load(ctx context.Context, db *gorm.DB, o *openScene, id string, revision int) error {
	if o.doc != nil && o.revision == revision {
		return nil
	}
	var rows []entity
	if err := db.WithContext(ctx).Where("scene_id = ?", id).Find(&rows).Error; err != nil {
		return err
	}
	doc := scene.New()
	tables := map[string]scene.Table{}
	for _, t := range doc.Tables() {
		tables[t.Name()] = t
	}
	for _, r := range rows {
		t := tables[r.Collection]
		if t == nil {
			return fmt.Errorf("the scene is stored with an unknown collection %q", r.Collection)
		}
		if err := t.Set(r.ID, json.RawMessage(r.Body)); err != nil {
			return fmt.Errorf("the scene is stored with a broken entity %s/%s: %w", r.Collection, r.ID, err)
		}
	}
	o.doc, o.revision = doc, revision
	return nil
}

// Apply applies a patch made from revision base in one transaction: rows,
// revision and history, or nothing. Errors are StaleError, patch.ErrMismatch,
// scene.Problems, ErrNotFound, or of the database.
func (s *Store) Apply(ctx context.Context, id string, base int, e Edit) (Edit, error) {
	p, err := patch.Canonical(e.Patch)
	if err != nil {
		return Edit{}, scene.Problems{{Path: "patch", Message: err.Error()}}
	}
	if len(p) == 0 {
		return Edit{}, scene.Problems{{Path: "patch", Message: "changes nothing"}}
	}
	e.Patch, e.At = p, time.Now().UTC()
	o := s.hold(id)
	o.mu.Lock()
	defer o.mu.Unlock()
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row sceneRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&row, "id = ?", id).Error; err != nil {
			return missing(err, "scene")
		}
		if row.Revision != base {
			return StaleError{row.Revision}
		}
		if err := s.load(ctx, tx, o, id, row.Revision); err != nil {
			return err
		}
		if err := patch.Apply(o.doc, p); err != nil {
			var problems scene.Problems
			if errors.Is(err, patch.ErrMismatch) || errors.As(err, &problems) {
				return err
			}
			return scene.Problems{{Path: "patch", Message: err.Error()}}
		}
		// From here on the held document is ahead of the database.
		o.revision = -1
		e.Revision = base + 1
		return persist(tx, id, e, o.doc)
	})
	if err != nil {
		if o.revision == -1 {
			o.doc = nil
		}
		return Edit{}, err
	}
	o.revision = e.Revision
	return e, nil
}

func persist(tx *gorm.DB, id string, e Edit, doc *scene.Document) error {
	var upsert []entity
	for _, c := range e.Patch {
		if c.After == nil {
			if err := tx.Delete(&entity{}, "scene_id = ? and collection = ? and id = ?", id, c.Collection, c.ID).Error; err != nil {
				return err
			}
			continue
		}
		upsert = append(upsert, entity{id, c.Collection, c.ID, jsonb(c.After)})
	}
	if len(upsert) > 0 {
		err := tx.Clauses(clause.OnConflict{
			Columns:   []clause.Column{{Name: "scene_id"}, {Name: "collection"}, {Name: "id"}},
			DoUpdates: clause.AssignmentColumns([]string{"body"}),
		}).CreateInBatches(upsert, 500).Error
		if err != nil {
			return err
		}
	}
	body, err := json.Marshal(e.Patch)
	if err != nil {
		return err
	}
	row := editRow{id, e.Revision, e.Kind, e.Label, e.Author, e.At, body}
	if err := tx.Create(&row).Error; err != nil {
		return err
	}
	err = tx.Model(&sceneRow{}).Where("id = ?", id).Updates(map[string]any{"revision": e.Revision, "title": doc.Settings.Title}).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrTaken
	}
	return err
}

// historyBytes is how much of the patches of a history is read with it, as they
// are stored: patches can be large, and most are never asked for.
const historyBytes = 256 << 10

// Edits returns the newest edits of a scene, newest first. The patches of older
// edits are left out when the newer ones are large; see Edit.
func (s *Store) Edits(ctx context.Context, id string, limit int) ([]Edit, error) {
	var rows []editRow
	newest := s.db.Model(&editRow{}).Where("scene_id = ?", id).Order("revision desc").Limit(limit)
	sized := s.db.Table("(?) as newest", newest).
		Select("*, sum(pg_column_size(patch)) over (order by revision desc) - pg_column_size(patch) as newer")
	err := s.db.WithContext(ctx).Table("(?) as sized", sized).
		Select("revision, kind, label, author, at, case when newer < ? then patch end as patch", historyBytes).
		Order("revision desc").Find(&rows).Error
	if err != nil {
		return nil, err
	}
	out := make([]Edit, len(rows))
	for i, r := range rows {
		if out[i], err = r.edit(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Edit returns an edit of a scene with its patch.
func (s *Store) Edit(ctx context.Context, id string, revision int) (Edit, error) {
	var r editRow
	if err := s.db.WithContext(ctx).Where("scene_id = ? and revision = ?", id, revision).Take(&r).Error; err != nil {
		return Edit{}, missing(err, "edit")
	}
	return r.edit()
}

func (r editRow) edit() (Edit, error) {
	e := Edit{Revision: r.Revision, Kind: r.Kind, Label: r.Label, Author: r.Author, At: r.At}
	if r.Patch == nil {
		return e, nil
	}
	if err := json.Unmarshal(r.Patch, &e.Patch); err != nil {
		return e, err
	}
	// jsonb keeps meaning, not spelling.
	var err error
	e.Patch, err = patch.Canonical(e.Patch)
	return e, err
}

// Slug turns a name into a part of a file name: lower-case letters, digits and
// single dashes, never empty, at most 60 characters.
func Slug(name string) string {
	var b strings.Builder
	dash := false
	for _, r := range strings.ToLower(name) {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			if dash && b.Len() > 0 {
				b.WriteByte('-')
			}
			dash = false
			b.WriteRune(r)
		} else {
			dash = true
		}
		if b.Len() >= 60 {
			break
		}
	}
	if b.Len() == 0 {
		return "unnamed"
	}
	return b.String()
}
