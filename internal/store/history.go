package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"proscen/core/scene"
)

// At returns a scene's document as it was at a revision, in canonical JSON.
func (s *Store) At(ctx context.Context, id string, revision int) (json.RawMessage, error) {
	body, now, err := s.Scene(ctx, id)
	if err != nil || revision == now {
		return body, err
	}
	if revision < 0 || revision > now {
		return nil, fmt.Errorf("the scene has no edit %d: %w", revision, ErrNotFound)
	}
	doc, err := scene.Decode(body)
	if err != nil {
		return nil, err
	}
	// What changed since was before its first change what it was then.
	var rows []struct {
		Collection, ID string
		Before         jsonb
	}
	err = s.db.WithContext(ctx).Raw(`select distinct on (c->>'collection', c->>'id') c->>'collection' as collection, c->>'id' as id, c->'before' as before
		from edits, jsonb_array_elements(patch) c
		where scene_id = ? and revision > ? and revision <= ? and coalesce(c->>'layer', '') = ''
		order by c->>'collection', c->>'id', revision`, id, revision, now).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		t := doc.Table(r.Collection)
		switch {
		case t == nil:
			return nil, fmt.Errorf("the log has an unknown collection %q", r.Collection)
		case r.Before == nil || string(r.Before) == "null":
			t.Delete(r.ID)
		default:
			if err := t.Set(r.ID, json.RawMessage(r.Before)); err != nil {
				return nil, fmt.Errorf("the log has a broken entity %s/%s: %w", r.Collection, r.ID, err)
			}
		}
	}
	return doc.Encode(), nil
}

// Version is a state of a scene that has a name.
type Version struct {
	ID       string
	Revision int
	Name     string
	Author   string
	At       time.Time
}

// ErrVersionTaken says that the scene has a version of that name.
var ErrVersionTaken = errors.New("the scene has a version of this name already; choose another name")

// KeepVersion keeps a state of a scene whole, under a name.
func (s *Store) KeepVersion(ctx context.Context, id string, revision int, name, author string) (Version, error) {
	body, err := s.At(ctx, id, revision)
	if err != nil {
		return Version{}, err
	}
	row := versionRow{ID: NewID(), SceneID: id, Revision: revision, Name: name, Author: author, At: time.Now().UTC(), Document: jsonb(body)}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		if errors.Is(err, gorm.ErrDuplicatedKey) {
			return Version{}, ErrVersionTaken
		}
		return Version{}, err
	}
	return row.version(), nil
}

func (r versionRow) version() Version {
	return Version{r.ID, r.Revision, r.Name, r.Author, r.At}
}

// Versions lists the named versions of a scene, newest first.
func (s *Store) Versions(ctx context.Context, id string) ([]Version, error) {
	var rows []versionRow
	if err := s.db.WithContext(ctx).Omit("document").Where("scene_id = ?", id).Order("at desc, id desc").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]Version, len(rows))
	for i, r := range rows {
		out[i] = r.version()
	}
	return out, nil
}

// Version returns a named version with its document in canonical JSON.
func (s *Store) Version(ctx context.Context, id, version string) (Version, json.RawMessage, error) {
	var r versionRow
	if err := s.db.WithContext(ctx).Where("scene_id = ? and id = ?", id, version).Take(&r).Error; err != nil {
		return Version{}, nil, missing(err, "version")
	}
	doc, err := scene.Decode(r.Document)
	if err != nil {
		return Version{}, nil, err
	}
	return r.version(), doc.Encode(), nil
}

// RemoveVersion forgets the name of a state; the log keeps the state.
func (s *Store) RemoveVersion(ctx context.Context, id, version string) error {
	r := s.db.WithContext(ctx).Delete(&versionRow{}, "scene_id = ? and id = ?", id, version)
	if r.Error == nil && r.RowsAffected == 0 {
		return missing(gorm.ErrRecordNotFound, "version")
	}
	return r.Error
}
