// Package live carries events from the database to open browsers.
package live

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"proscen/internal/store"
)

// Hub hands the events of each scene to its listeners.
type Hub struct {
	mu        sync.Mutex
	listeners map[string]map[chan store.Event]bool
}

// NewHub returns a hub without listeners.
func NewHub() *Hub { return &Hub{listeners: map[string]map[chan store.Event]bool{}} }

// Run hears the database's events until ctx ends, and connects again when the
// connection breaks.
func (h *Hub) Run(ctx context.Context, st *store.Store, log *slog.Logger) {
	for ctx.Err() == nil {
		if err := st.Listen(ctx, h.tell); err != nil && ctx.Err() == nil {
			log.Warn("events are not heard, trying again", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func (h *Hub) tell(e store.Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners[e.Scene] {
		select {
		case c <- e:
		default: // a browser that does not keep up asks again when it reconnects
		}
	}
}

// Listen returns a channel with the events of a scene and the way to end it.
func (h *Hub) Listen(scene string) (<-chan store.Event, func()) {
	c := make(chan store.Event, 64)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.listeners[scene] == nil {
		h.listeners[scene] = map[chan store.Event]bool{}
	}
	h.listeners[scene][c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.listeners[scene], c)
		if len(h.listeners[scene]) == 0 {
			delete(h.listeners, scene)
		}
	}
}
