package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/labstack/echo/v5"

	"proscen/core/scene"
	"proscen/internal/live"
	"proscen/internal/store"
)

// eventsPath is the address of a scene's line.
const eventsPath = "/api/scenes/:scene/events"

// Bounds of what goes over a scene's line.
const (
	hereBytes = 64 << 10 // what a browser says of itself
	sentBytes = 64 << 10 // patches that are sent with the news of an edit; larger ones are asked for
)

// events lets a browser into the room of a scene, over a WebSocket: it hears what
// happens until it leaves, and says what it does itself.
func (a *API) events(c *echo.Context) error {
	id := c.Param("scene")
	if _, err := a.Store.Revision(c.Request().Context(), id); err != nil {
		return err
	}
	if !c.IsWebSocket() {
		c.Response().Header().Set("Upgrade", "websocket")
		return echo.NewHTTPError(http.StatusUpgradeRequired, "this address is for a WebSocket")
	}
	conn, err := websocket.Accept(c.Response(), c.Request(), &websocket.AcceptOptions{OriginPatterns: []string{"*"}}) // admitted has looked at it
	if err != nil {
		return nil // Accept has answered
	}
	defer func() { _ = conn.CloseNow() }()
	conn.SetReadLimit(hereBytes)
	ctx, cancel := context.WithCancel(c.Request().Context())
	defer cancel()
	member := a.Hub.Enter(id, c.QueryParam("tab"))
	defer member.Leave()
	go func() {
		defer cancel()
		for hear(ctx, conn, member) == nil {
		}
	}()
	hello := Event{Kind: EventKindHello, People: new([]Presence{})}
	for _, m := range member.Others() {
		*hello.People = append(*hello.People, presence(m))
	}
	if a.say(ctx, conn, id, hello) != nil {
		return nil
	}
	look := time.NewTicker(a.Pace.Look)
	defer look.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-a.Stopping:
			_ = conn.Close(websocket.StatusGoingAway, "the server stops")
			return nil
		case <-look.C:
			if err = a.answers(ctx, conn); err == nil {
				err = a.say(ctx, conn, id, Event{Kind: EventKindNow})
			}
		case m, open := <-member.Messages():
			if !open { // it did not keep up, and comes in again
				return nil
			}
			err = a.pass(ctx, conn, id, m)
		}
		if err != nil {
			return nil
		}
	}
}

// answers asks a browser whether it is still there.
func (a *API) answers(ctx context.Context, conn *websocket.Conn) error {
	ctx, cancel := context.WithTimeout(ctx, a.Pace.Say)
	defer cancel()
	return conn.Ping(ctx)
}

// hear takes what a browser says of itself and lets the others know.
func hear(ctx context.Context, conn *websocket.Conn, member *live.Member) error {
	var p Presence
	if err := wsjson.Read(ctx, conn, &p); err != nil {
		return err
	}
	p.Tab = member.Tab
	if p.Drag != nil && scene.Plain(p.Drag.Arguments) != nil {
		return errors.New("no text")
	}
	body, err := json.Marshal(p)
	if err != nil {
		return err
	}
	member.Say(body)
	return nil
}

func presence(m live.Message) (p Presence) {
	_ = json.Unmarshal(m.Here, &p) // hear has written it
	return p
}

// say sends an event with the scene's newest revision. A scene that cannot be asked
// about now is asked about again later.
func (a *API) say(ctx context.Context, conn *websocket.Conn, id string, e Event) error {
	if now, err := a.Store.Revision(ctx, id); err == nil {
		e.Revision = &now
	} else if errors.Is(err, store.ErrNotFound) {
		return err
	}
	return a.write(ctx, conn, e)
}

func (a *API) pass(ctx context.Context, conn *websocket.Conn, id string, m live.Message) error {
	switch {
	case m.Look:
		return a.say(ctx, conn, id, Event{Kind: EventKindNow})
	case m.Gone:
		return a.write(ctx, conn, Event{Kind: EventKindGone, Tab: &m.Tab})
	case m.Here != nil:
		return a.write(ctx, conn, Event{Kind: EventKindHere, Here: new(presence(m))})
	}
	ctx, cancel := context.WithTimeout(ctx, a.Pace.Say)
	defer cancel()
	return conn.Write(ctx, websocket.MessageText, m.Text)
}

// Encode writes an event of the store as browsers hear it.
func Encode(e store.Event) []byte {
	out := Event{Kind: EventKind(e.Kind), Delivery: optional(e.Delivery)}
	if e.Revision > 0 {
		out.Revision = &e.Revision
	}
	if e.Output != nil {
		out.Output = new(output(*e.Output))
	}
	if len(e.Edits) > 0 && small(e.Edits) {
		out.Edits = new(apiEdits(e.Edits))
	}
	body, err := json.Marshal(out)
	if err != nil {
		return []byte(`{"kind":"now"}`) // whoever hears it looks for what is new
	}
	return body
}

func small(edits []store.Edit) bool {
	bytes := 0
	for _, e := range edits {
		for _, c := range e.Patch {
			bytes += len(c.Before) + len(c.After)
		}
	}
	return bytes <= sentBytes
}

func (a *API) write(ctx context.Context, conn *websocket.Conn, e Event) error {
	ctx, cancel := context.WithTimeout(ctx, a.Pace.Say)
	defer cancel()
	return wsjson.Write(ctx, conn, e)
}
