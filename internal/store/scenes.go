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
	"proscen/core/program"
	"proscen/core/scene"
)

// SceneInfo names a scene.
type SceneInfo struct {
	ID, Production, Title string
	Revision              int
	Facts                 `gorm:"embedded"`
	EditedAt              time.Time
	EditedBy              string // who made the last edit
	Archived              bool
	BinnedAt              *time.Time
	Pictured              int // the revision that its picture was made of, −1 for none
}

// Facts are shown of a scene without reading it.
type Facts struct {
	Shots     int    // of the first assembly's main lane
	Frames    int    // of that
	Rate      string // frames a second
	CastCount int
	Cameras   int
}

// facts counts what a scene has.
func facts(doc *scene.Document) (f Facts) {
	f.cut(doc)
	f.nodes(doc)
	return f
}

// after brings facts up to date with patches that have been applied.
func (f *Facts) after(doc *scene.Document, patches []patch.Patch) {
	f.cut(doc)
	for _, p := range patches {
		for _, c := range p {
			if c.Collection == "nodes" && (c.Before == nil || c.After == nil) {
				f.nodes(doc)
				return
			}
		}
	}
}

func (f *Facts) cut(doc *scene.Document) {
	f.Rate, f.Shots, f.Frames = doc.Settings.Rate.String(), 0, 0
	first, _ := program.Find(doc, "")
	lane := program.MainLane(doc, first)
	list := doc.ShotsInOrder()
	for i := range list {
		if list[i].Lane == lane {
			f.Shots++
			f.Frames = max(f.Frames, list[i].ScreenOut)
		}
	}
}

func (f *Facts) nodes(doc *scene.Document) {
	f.CastCount, f.Cameras = 0, 0
	for _, n := range doc.Nodes {
		switch n.Kind {
		case scene.KindCast:
			f.CastCount++
		case scene.KindCamera:
			f.Cameras++
		}
	}
}

// ErrTaken says that the production has a scene of that title.
var ErrTaken = errors.New("the production has a scene of this title already; choose another title")

// Scenes lists all scenes by production and title.
func (s *Store) Scenes(ctx context.Context) ([]SceneInfo, error) {
	var out []SceneInfo
	err := s.infos(ctx).Order("productions.name, scenes.title").Scan(&out).Error
	return out, err
}

// infos selects what is shown of scenes without reading them.
func (s *Store) infos(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Table("scenes").
		Select("scenes.*, productions.name as production, coalesce(covers.revision, -1) as pictured").
		Joins("join productions on productions.id = scenes.production_id").
		Joins("left join covers on covers.scene_id = scenes.id").
		Where("not scenes.emptied and not scenes.library")
}

// CreateScene stores a valid document as a new scene of the production that its
// settings name.
func (s *Store) CreateScene(ctx context.Context, doc *scene.Document) (SceneInfo, error) {
	info := SceneInfo{
		ID: NewID(), Production: doc.Settings.Production, Title: doc.Settings.Title,
		Facts: facts(doc), EditedAt: time.Now().UTC(), Pictured: -1,
	}
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		p, err := productionNamed(tx, info.Production)
		if err != nil {
			return err
		}
		return create(tx, sceneRow{ID: info.ID, ProductionID: p.ID, Title: info.Title, Facts: info.Facts, EditedAt: info.EditedAt, Taken: -1}, doc)
	})
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		err = ErrTaken
	}
	return info, err
}

// create stores a document under a new row.
func create(tx *gorm.DB, row sceneRow, doc *scene.Document) error {
	if err := tx.Create(&row).Error; err != nil {
		return err
	}
	var rows []entity
	for _, t := range doc.Tables() {
		for _, id := range t.IDs() {
			rows = append(rows, entity{row.ID, "", t.Name(), id, jsonb(t.Get(id))})
		}
	}
	return tx.CreateInBatches(rows, 500).Error
}

// productionNamed returns the production of a name, a new one if there is none.
func productionNamed(tx *gorm.DB, name string) (production, error) {
	if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&production{NewID(), name}).Error; err != nil {
		return production{}, err
	}
	var p production
	err := tx.Where("name = ?", name).Take(&p).Error
	return p, err
}

// Scene returns a scene's document in canonical JSON and its revision.
func (s *Store) Scene(ctx context.Context, id string) (json.RawMessage, int, error) {
	var row sceneRow
	if err := s.db.WithContext(ctx).Take(&row, "id = ? and not emptied", id).Error; err != nil {
		return nil, 0, missing(err, "scene")
	}
	o, release := s.hold(id)
	defer release()
	o.mu.Lock()
	defer o.mu.Unlock()
	// It may have gone on while waiting for its turn.
	if err := s.db.WithContext(ctx).Take(&row, "id = ? and not emptied", id).Error; err != nil {
		return nil, 0, missing(err, "scene")
	}
	if err := s.load(ctx, s.db, o, id, row.Revision); err != nil {
		return nil, 0, err
	}
	return o.doc.Encode(), o.revision, nil
}

// Document returns a scene as a document of its own, which may be changed.
func (s *Store) Document(ctx context.Context, id string) (*scene.Document, int, error) {
	body, revision, err := s.Scene(ctx, id)
	if err != nil {
		return nil, 0, err
	}
	doc, err := scene.Decode(body)
	return doc, revision, err
}

func missing(err error, what string) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("the %s cannot be found: %w", what, ErrNotFound)
	}
	return err
}

// idle is how long a scene stays in memory that nobody asks for.
const idle = 10 * time.Minute

// hold returns the place in memory of a scene that is in the database. Release puts
// it down; scenes that lie there for long are forgotten.
func (s *Store) hold(id string) (o *openScene, release func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if o = s.open[id]; o == nil {
		s.forget(time.Now().Add(-idle))
		o = &openScene{}
		s.open[id] = o
	}
	o.users++
	return o, func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		o.users--
		o.used = time.Now()
	}
}

func (s *Store) holds(id string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.open[id] != nil
}

// forget lets go of the scenes that nobody has had in hand since a time. The caller
// holds s.mu.
func (s *Store) forget(since time.Time) {
	for id, o := range s.open {
		if o.users == 0 && o.used.Before(since) {
			delete(s.open, id)
		}
	}
}

// Forget lets go of the scenes in memory that nobody has had in hand since a time.
func (s *Store) Forget(since time.Time) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.forget(since)
}

// Held counts the scenes in memory.
func (s *Store) Held() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.open)
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
