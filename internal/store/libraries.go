package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"

	"proscen/core/scene"
)

// LibraryTitle is the title of the document that the scenes of a production share.
const LibraryTitle = "Library"

// Library returns the id of what the scenes of a production share, a document under
// the same log as scenes. The first who asks has it made.
func (s *Store) Library(ctx context.Context, production string, empty func(name string) *scene.Document) (string, error) {
	for range 3 {
		var p struct{ Name, Library string }
		err := s.db.WithContext(ctx).Table("productions").Select("productions.name, coalesce(scenes.id, '') as library").
			Joins("left join scenes on scenes.production_id = productions.id and scenes.library").
			Where("productions.id = ?", production).Take(&p).Error
		if err != nil || p.Library != "" {
			return p.Library, missing(err, "production")
		}
		doc := empty(p.Name)
		row := sceneRow{ID: NewID(), ProductionID: production, Title: LibraryTitle, Facts: facts(doc), EditedAt: time.Now().UTC(), Library: true, Taken: -1}
		err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return create(tx, row, doc) })
		if err == nil {
			return row.ID, nil
		}
		if !errors.Is(err, gorm.ErrDuplicatedKey) { // else somebody was quicker
			return "", err
		}
	}
	return "", errors.New("the library of the production cannot be made just now; try again")
}

// ProductionID returns the id of the production of a name, a new one if there is none.
func (s *Store) ProductionID(ctx context.Context, name string) (string, error) {
	p, err := productionNamed(s.db.WithContext(ctx), name)
	return p.ID, err
}

// Behind is a scene that has not taken the newest revision of its library.
type Behind struct {
	Scene, Library string
	Revision       int // of the library
}

// Behind lists the scenes that are behind their library, library by library: all, those
// of one library, or one scene.
func (s *Store) Behind(ctx context.Context, library, scene string) (out []Behind, err error) {
	q := s.db.WithContext(ctx).Table("scenes").Select("scenes.id as scene, libraries.id as library, libraries.revision as revision").
		Joins("join scenes as libraries on libraries.production_id = scenes.production_id and libraries.library").
		Where("not scenes.library and not scenes.emptied and scenes.taken <> libraries.revision").Order("libraries.id, scenes.edited_at desc")
	if library != "" {
		q = q.Where("libraries.id = ?", library)
	}
	if scene != "" {
		q = q.Where("scenes.id = ?", scene)
	}
	err = q.Scan(&out).Error
	return out, err
}

// Take notes that a scene has taken a revision of its library.
func (s *Store) Take(ctx context.Context, b Behind) error {
	// Not if it has been moved away meanwhile.
	return s.db.WithContext(ctx).Model(&sceneRow{}).Where("id = ? and production_id = (select production_id from scenes where id = ?)", b.Scene, b.Library).
		Update("taken", b.Revision).Error
}
