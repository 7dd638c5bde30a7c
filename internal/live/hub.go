// Package live carries what happens in a scene to open browsers: edits and
// deliveries from the database, and who is here and what they are dragging from one
// browser to the others.
package live

import (
	"context"
	"encoding/json"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"time"

	"proscen/internal/store"
)

// backlog is how many messages wait for a browser that does not keep up.
const backlog = 256

// Hub holds the open browsers of each scene.
type Hub struct {
	mu     sync.Mutex
	rooms  map[string]map[*Member]bool
	encode func(store.Event) []byte
}

// NewHub returns a hub without members. Encode writes an event as browsers hear it,
// once for all of them.
func NewHub(encode func(store.Event) []byte) *Hub {
	return &Hub{rooms: map[string]map[*Member]bool{}, encode: encode}
}

// Message is one of: an event of the database, somebody who is here, somebody who
// has gone, or a call to look whether something was missed.
type Message struct {
	Text []byte          // an event, as it is sent
	Here json.RawMessage // what a browser says of itself
	Tab  string          // the browser that says it, or has gone
	Gone bool
	Look bool
}

// Member is one open browser in the room of a scene.
type Member struct {
	Tab  string
	room string
	hub  *Hub
	out  chan Message
	here json.RawMessage // what it has said last
	late bool            // it did not keep up: it is shown the door and comes in again
}

// Enter lets a browser into the room of a scene.
func (h *Hub) Enter(scene, tab string) *Member {
	m := &Member{Tab: tab, room: scene, hub: h, out: make(chan Message, backlog)}
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.rooms[scene] == nil {
		h.rooms[scene] = map[*Member]bool{}
	}
	h.rooms[scene][m] = true
	return m
}

// Messages are what the member hears. The channel is closed when the member did not
// keep up.
func (m *Member) Messages() <-chan Message { return m.out }

// Leave ends the membership, and the others hear of it.
func (m *Member) Leave() {
	m.hub.mu.Lock()
	defer m.hub.mu.Unlock()
	m.hub.remove(m)
}

func (h *Hub) remove(m *Member) {
	room := h.rooms[m.room]
	if !room[m] {
		return
	}
	delete(room, m)
	if len(room) == 0 {
		delete(h.rooms, m.room)
	}
	if m.here != nil && !slices.ContainsFunc(h.others(m), func(o *Member) bool { return o.Tab == m.Tab }) { // it may have come in again already
		h.pass(m, Message{Tab: m.Tab, Gone: true})
	}
}

// Say tells the others what a browser says of itself, and keeps it for those who
// come later.
func (m *Member) Say(here json.RawMessage) {
	m.hub.mu.Lock()
	defer m.hub.mu.Unlock()
	m.here = here
	m.hub.pass(m, Message{Tab: m.Tab, Here: here})
}

// Others lists what the other browsers of the room have said last, by tab.
func (m *Member) Others() (out []Message) {
	m.hub.mu.Lock()
	defer m.hub.mu.Unlock()
	for _, o := range m.hub.others(m) {
		if o.here != nil && o.Tab != m.Tab {
			out = append(out, Message{Tab: o.Tab, Here: o.here})
		}
	}
	slices.SortFunc(out, func(a, b Message) int { return strings.Compare(a.Tab, b.Tab) })
	return out
}

func (h *Hub) others(m *Member) (out []*Member) {
	for o := range h.rooms[m.room] {
		if o != m {
			out = append(out, o)
		}
	}
	return out
}

// pass hands a message to the others of a member's room.
func (h *Hub) pass(from *Member, msg Message) {
	for _, o := range h.others(from) {
		if o.Tab != from.Tab {
			h.hand(o, msg)
		}
	}
}

// hand gives a member a message. Whoever does not keep up is let go: they come in
// again, and ask for what they have missed.
func (h *Hub) hand(m *Member, msg Message) {
	if m.late {
		return
	}
	select {
	case m.out <- msg:
	default:
		m.late = true
		close(m.out)
	}
}

// Tell hands an event to everybody in the room of its scene.
func (h *Hub) Tell(e store.Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	room := h.rooms[e.Scene]
	if len(room) == 0 {
		return
	}
	msg := Message{Text: h.encode(e)}
	for m := range room {
		h.hand(m, msg)
	}
}

// look asks everybody to look whether they have missed something.
func (h *Hub) look() {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, room := range h.rooms {
		for m := range room {
			h.hand(m, Message{Look: true})
		}
	}
}

// Count counts the open browsers.
func (h *Hub) Count() (n int) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, room := range h.rooms {
		n += len(room)
	}
	return n
}

// Run hears the database's events until ctx ends, and connects again when the
// connection breaks; then something may have been missed.
func (h *Hub) Run(ctx context.Context, st *store.Store, log *slog.Logger) {
	for ctx.Err() == nil {
		if err := st.Listen(ctx, h.look, h.Tell); err != nil && ctx.Err() == nil {
			log.Warn("events are not heard, trying again", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}
