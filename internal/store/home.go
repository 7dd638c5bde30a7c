package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"proscen/core/scene"
)

// BinDays is how long a scene lies in the bin before it is removed.
const BinDays = 30

// ErrInUse says that a production has scenes.
var ErrInUse = errors.New("the production still has scenes, perhaps in the bin; move or remove them first")

// ProductionInfo names a production and counts its scenes that are not in the bin.
type ProductionInfo struct {
	ID, Name string
	Scenes   int
	Library  string // the document of what they share; "" as long as nobody has asked for it
}

// Productions lists all productions by name.
func (s *Store) Productions(ctx context.Context) ([]ProductionInfo, error) {
	var out []ProductionInfo
	err := s.db.WithContext(ctx).Table("productions").
		Select("productions.id, productions.name, " +
			"count(scenes.id) filter (where scenes.binned_at is null and not scenes.emptied and not scenes.library) as scenes, " +
			"coalesce(max(scenes.id) filter (where scenes.library), '') as library").
		Joins("left join scenes on scenes.production_id = productions.id").
		Group("productions.id").Order("productions.name").Scan(&out).Error
	return out, err
}

// ErrNameTaken says that there is a production of a name.
var ErrNameTaken = errors.New("there is a production of this name already; choose another name")

// CreateProduction makes a production without scenes.
func (s *Store) CreateProduction(ctx context.Context, name string) (ProductionInfo, error) {
	p := production{NewID(), name}
	err := s.db.WithContext(ctx).Create(&p).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ProductionInfo{}, ErrNameTaken
	}
	return ProductionInfo{ID: p.ID, Name: p.Name}, err
}

// RemoveProduction removes a production that has no scenes.
func (s *Store) RemoveProduction(ctx context.Context, id string) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var p production
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&p, "id = ?", id).Error; err != nil {
			return missing(err, "production")
		}
		var scenes int64
		if err := tx.Model(&sceneRow{}).Where("production_id = ? and not library", id).Count(&scenes).Error; err != nil {
			return err
		}
		if scenes > 0 {
			return ErrInUse
		}
		if err := tx.Delete(&sceneRow{}, "production_id = ? and library", id).Error; err != nil {
			return err
		}
		return tx.Delete(&p).Error
	})
}

// ProductionName returns the name of a production.
func (s *Store) ProductionName(ctx context.Context, id string) (string, error) {
	var p production
	err := s.db.WithContext(ctx).Take(&p, "id = ?", id).Error
	return p.Name, missing(err, "production")
}

// SceneInfo returns what is shown of a scene without reading it.
func (s *Store) SceneInfo(ctx context.Context, id string) (SceneInfo, error) {
	var out SceneInfo
	err := s.infos(ctx).Where("scenes.id = ?", id).Take(&out).Error
	return out, missing(err, "scene")
}

// Archive puts a scene away, or takes it out again.
func (s *Store) Archive(ctx context.Context, id string, away bool) error {
	return s.change(ctx, id, map[string]any{"archived": away})
}

// Bin puts a scene into the bin. It stays as it is until Sweep; one that is there
// already does not stay longer.
func (s *Store) Bin(ctx context.Context, id string) error {
	return s.change(ctx, id, map[string]any{"binned_at": gorm.Expr("coalesce(binned_at, ?)", time.Now().UTC())})
}

// Unbin takes a scene out of the bin. ErrTaken says that its title is in use.
func (s *Store) Unbin(ctx context.Context, id string) error {
	err := s.change(ctx, id, map[string]any{"binned_at": nil})
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrTaken
	}
	return err
}

func (s *Store) change(ctx context.Context, id string, to map[string]any) error {
	r := s.db.WithContext(ctx).Model(&sceneRow{}).Where("id = ? and not emptied and not library", id).Updates(to)
	if r.Error == nil && r.RowsAffected == 0 {
		return missing(gorm.ErrRecordNotFound, "scene")
	}
	return r.Error
}

// Sweep removes the scenes that have been in the bin since before a time, and
// returns how many. What has been delivered of them stays, with the snapshots that
// it was made of.
func (s *Store) Sweep(ctx context.Context, before time.Time) (int, error) {
	n := 0
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var rows []sceneRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("binned_at < ? and not emptied", before).Find(&rows).Error; err != nil {
			return err
		}
		for _, row := range rows {
			var delivered int64
			if err := tx.Model(&Delivery{}).Where("scene_id = ?", row.ID).Count(&delivered).Error; err != nil {
				return err
			}
			if delivered == 0 {
				if err := tx.Delete(&sceneRow{}, "id = ?", row.ID).Error; err != nil {
					return err
				}
				continue
			}
			for _, of := range []any{&entity{}, &editRow{}, &versionRow{}, &cover{}} {
				if err := tx.Delete(of, "scene_id = ?", row.ID).Error; err != nil {
					return err
				}
			}
			if err := tx.Model(&sceneRow{}).Where("id = ?", row.ID).Update("emptied", true).Error; err != nil {
				return err
			}
		}
		n = len(rows)
		s.mu.Lock()
		for _, row := range rows {
			delete(s.open, row.ID)
		}
		s.mu.Unlock()
		return nil
	})
	return n, err
}

// Cover returns the small picture of a scene and the revision it was made of;
// ErrNotFound when there is none yet.
func (s *Store) Cover(ctx context.Context, id string) ([]byte, int, error) {
	var c cover
	err := s.db.WithContext(ctx).Take(&c, "scene_id = ?", id).Error
	return c.Picture, c.Revision, missing(err, "picture of the scene")
}

// KeepCover stores the small picture of a scene, unless there is a newer one.
func (s *Store) KeepCover(ctx context.Context, id string, revision int, picture []byte) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{
		Columns:   []clause.Column{{Name: "scene_id"}},
		Where:     clause.Where{Exprs: []clause.Expression{clause.Expr{SQL: "covers.revision <= excluded.revision"}}},
		DoUpdates: clause.AssignmentColumns([]string{"revision", "picture"}),
	}).Create(&cover{id, revision, picture}).Error
}

// RenameProduction gives a production another name. Its scenes say it themselves.
func (s *Store) RenameProduction(ctx context.Context, id, name string) error {
	r := s.db.WithContext(ctx).Model(&production{}).Where("id = ?", id).Update("name", name)
	switch {
	case errors.Is(r.Error, gorm.ErrDuplicatedKey):
		return ErrNameTaken
	case r.Error == nil && r.RowsAffected == 0:
		return missing(gorm.ErrRecordNotFound, "production")
	}
	return r.Error
}

// Misnamed is a scene whose document names its production as it was called before.
type Misnamed struct{ Scene, Name string }

// Misnamed lists the scenes that do not say the name of their production: of one
// production, of all ("") or one scene.
func (s *Store) Misnamed(ctx context.Context, production, scene string) (out []Misnamed, err error) {
	q := s.db.WithContext(ctx).Table("scenes").Select("scenes.id as scene, productions.name as name").
		Joins("join productions on productions.id = scenes.production_id").
		Joins("join entities on entities.scene_id = scenes.id and entities.layer = '' and entities.collection = 'settings'").
		Where("not scenes.emptied and entities.body->>'production' is distinct from productions.name").Order("scenes.id")
	if production != "" {
		q = q.Where("productions.id = ?", production)
	}
	if scene != "" {
		q = q.Where("scenes.id = ?", scene)
	}
	err = q.Scan(&out).Error
	return out, err
}

// FreeTitle returns a title that no scene of a production has: the one asked for, or
// with a number behind it.
func (s *Store) FreeTitle(ctx context.Context, production, title string) (string, error) {
	var titles []string
	err := s.db.WithContext(ctx).Table("scenes").Joins("join productions on productions.id = scenes.production_id").
		Where("productions.name = ? and scenes.binned_at is null and not scenes.emptied and not scenes.library", production).Pluck("scenes.title", &titles).Error
	out := title
	for n := 2; slices.Contains(titles, out); n++ {
		out = fmt.Sprintf("%s %d", title, n)
	}
	return out, err
}

// TakeIn stores a document as a new scene, under a title that is free.
func (s *Store) TakeIn(ctx context.Context, doc *scene.Document) (info SceneInfo, err error) {
	title := doc.Settings.Title
	for range 5 {
		if doc.Settings.Title, err = s.FreeTitle(ctx, doc.Settings.Production, title); err != nil {
			return info, err
		}
		if info, err = s.CreateScene(ctx, doc); !errors.Is(err, ErrTaken) {
			return info, err
		}
	}
	return info, err
}
