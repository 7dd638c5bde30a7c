package store

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"
)

// channel is the PostgreSQL notification channel of all servers and workers.
const channel = "proscen"

// The kinds of events.
const (
	EditEvent     = "edit"
	DeliveryEvent = "delivery"
)

// Event tells browsers about a change of a scene.
type Event struct {
	Scene    string  `json:"scene"`
	Kind     string  `json:"kind"` // edit or delivery
	Revision int     `json:"revision,omitempty"`
	Delivery string  `json:"delivery,omitempty"`
	Output   *Output `json:"output,omitempty"`
	Origin   string  `json:"origin,omitempty"` // the server that has stored edits
	Edits    []Edit  `json:"-"`                // what this server itself has stored
}

// Told sets who hears what this server stores, in its order. It is called once,
// before the store is used.
func (s *Store) Told(hear func(Event)) { s.told = hear }

// Notify tells all servers about an event.
func (s *Store) Notify(ctx context.Context, e Event) error {
	return s.announce(s.db.WithContext(ctx), e)
}

func (s *Store) announce(tx *gorm.DB, e Event) error {
	body, err := json.Marshal(e)
	if err != nil {
		return err
	}
	return tx.Exec("select pg_notify(?, ?)", channel, string(body)).Error
}

// Listen calls hear for every event until ctx ends or the connection breaks, after
// begin as soon as nothing is missed any more.
func (s *Store) Listen(ctx context.Context, begin func(), hear func(Event)) error {
	conn, err := s.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer func() {
		// The connection listens; it does not go back into the pool.
		_ = conn.Hijack().Close(context.WithoutCancel(ctx))
	}()
	if _, err := conn.Exec(ctx, "listen "+channel); err != nil {
		return err
	}
	begin()
	for {
		n, err := conn.Conn().WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var e Event
		if json.Unmarshal([]byte(n.Payload), &e) == nil && (e.Origin == "" || e.Origin != s.origin) { // its own it has told already
			hear(e)
		}
	}
}

// Revision returns the newest revision of a scene.
func (s *Store) Revision(ctx context.Context, id string) (int, error) {
	var row sceneRow
	err := s.db.WithContext(ctx).Take(&row, "id = ?", id).Error
	return row.Revision, missing(err, "scene")
}
