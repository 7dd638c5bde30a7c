package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"proscen/core/scene"
)

// SceneInfo names a scene.
type SceneInfo struct {
	ID, Production, Title string
	Revision              int
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
				rows = append(rows, entity{info.ID, "", t.Name(), id, jsonb(t.Get(id))})
			}
		}
		return tx.CreateInBatches(rows, 500).Error
	})
	return info, err
}

// Scene returns a scene's document in canonical JSON and its revision.
func (s *Store) Scene(ctx context.Context, id string) (json.RawMessage, int, error) {
	var row sceneRow
	if err := s.db.WithContext(ctx).Take(&row, "id = ?", id).Error; err != nil {
		return nil, 0, missing(err, "scene")
	}
	o := s.hold(id)
	o.mu.Lock()
	defer o.mu.Unlock()
	// It may have gone on while waiting for its turn.
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
	if err := db.WithContext(ctx).Where("scene_id = ? and layer = ''", id).Find(&rows).Error; err != nil {
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
