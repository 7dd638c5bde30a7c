// Package store keeps productions, scenes, edits and deliveries in PostgreSQL.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/oklog/ulid/v2"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"proscen/core/scene"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the database. It is safe for use by several goroutines.
type Store struct {
	Pool *pgxpool.Pool
	db   *gorm.DB
	sql  *sql.DB

	mu   sync.Mutex
	open map[string]*openScene // see hold

	origin string      // names this server among those of the database
	told   func(Event) // hears what this server has stored, in order; may be nil
}

// openScene is a document held in memory with the revision it is at.
type openScene struct {
	mu       sync.Mutex
	revision int
	doc      *scene.Document

	users int       // who has it in hand now
	used  time.Time // when the last one put it down

	waiting struct {
		sync.Mutex
		edits []*arrival
	}
}

// ErrNotFound says that there is no such scene, delivery or output.
var ErrNotFound = errors.New("it does not exist, or no longer does")

// Open connects to PostgreSQL and brings the schema up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("PostgreSQL does not answer; start it with ‘make start’ or check --database: %w", err)
	}
	db := stdlib.OpenDBFromPool(pool)
	g, err := gorm.Open(postgres.New(postgres.Config{Conn: db}), &gorm.Config{Logger: logger.Discard, TranslateError: true})
	if err != nil {
		pool.Close()
		return nil, err
	}
	s := &Store{Pool: pool, db: g, sql: db, open: map[string]*openScene{}, origin: NewID()}
	if err := s.migrate(ctx); err != nil {
		s.Close()
		return nil, fmt.Errorf("bringing the database up to date: %w", err)
	}
	return s, nil
}

// Close ends all connections.
func (s *Store) Close() {
	_ = s.sql.Close()
	s.Pool.Close()
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.Pool.Ping(ctx) }

func (s *Store) migrate(ctx context.Context) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.sql, files)
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil {
		return err
	}
	m, err := rivermigrate.New(riverpgxv5.New(s.Pool), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return err
	}
	_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	return err
}

// NewID makes a ULID.
func NewID() string { return ulid.Make().String() }

// Rows, as GORM sees them.
type (
	production struct {
		ID   string
		Name string
	}
	sceneRow struct {
		ID           string
		ProductionID string
		Title        string
		Revision     int
		Facts        `gorm:"embedded"`
		EditedAt     time.Time
		EditedBy     string
		Archived     bool
		BinnedAt     *time.Time
		Emptied      bool
		Library      bool // it is no scene, but what those of its production share
		Taken        int  // the revision of the library that the scene has taken, −1 for none
	}
	cover struct {
		SceneID  string `gorm:"primaryKey"`
		Revision int
		Picture  []byte
	}
	entity struct {
		SceneID    string `gorm:"primaryKey"`
		Layer      string `gorm:"primaryKey"`
		Collection string `gorm:"primaryKey"`
		ID         string `gorm:"primaryKey"`
		Body       jsonb
	}
	editRow struct {
		SceneID   string
		Revision  int
		EditID    string
		Base      int
		Kind      string
		OfEdit    string
		Label     string
		Operation string
		Arguments jsonb
		Alternate string
		Tab       string
		Person    string
		Author    string
		At        time.Time
		Patch     jsonb
	}
	versionRow struct {
		ID       string
		SceneID  string
		Revision int
		Name     string
		Author   string
		At       time.Time
		Document jsonb
	}
)

func (production) TableName() string { return "productions" }
func (cover) TableName() string      { return "covers" }
func (sceneRow) TableName() string   { return "scenes" }
func (entity) TableName() string     { return "entities" }
func (editRow) TableName() string    { return "edits" }
func (versionRow) TableName() string { return "versions" }

// jsonb carries JSON text to and from a jsonb column.
type jsonb []byte

// Value implements driver.Valuer.
func (j jsonb) Value() (driver.Value, error) {
	if j == nil {
		return nil, nil
	}
	return string(j), nil
}

// Scan implements sql.Scanner.
func (j *jsonb) Scan(v any) error {
	switch b := v.(type) {
	case nil:
		*j = nil
	case []byte:
		*j = append((*j)[:0:0], b...)
	case string:
		*j = jsonb(b)
	default:
		return fmt.Errorf("a JSON column holds %T", v)
	}
	return nil
}

// GormDataType implements GORM's schema naming.
func (jsonb) GormDataType() string { return "jsonb" }
