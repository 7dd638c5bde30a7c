package live

import (
	"context"
	"fmt"
	"log/slog"
	"testing"
	"time"

	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func hub() *Hub {
	return NewHub(func(e store.Event) []byte { return []byte(fmt.Sprint(e.Kind, e.Revision)) })
}

func text(t *testing.T, m *Member) string {
	t.Helper()
	select {
	case msg := <-m.Messages():
		return string(msg.Text)
	case <-time.After(5 * time.Second):
		t.Fatal("nothing is heard")
		return ""
	}
}

func TestEachSceneHearsItsOwnEvents(t *testing.T) {
	h := hub()
	a, b, a2 := h.Enter("a", "1"), h.Enter("b", "2"), h.Enter("a", "3")
	h.Tell(store.Event{Scene: "a", Kind: "edit", Revision: 1})
	assert.Equal(t, "edit1", text(t, a))
	assert.Equal(t, "edit1", text(t, a2))
	assert.Empty(t, b.Messages())
	a.Leave()
	h.Tell(store.Event{Scene: "a", Kind: "edit", Revision: 2})
	assert.Empty(t, a.Messages(), "who has gone hears no more")
	assert.Equal(t, "edit2", text(t, a2))
	a2.Leave()
	a2.Leave()
	b.Leave()
	assert.Empty(t, h.rooms, "nothing is kept of scenes that nobody watches")
}

func TestPeopleSeeEachOtherComeAndGo(t *testing.T) {
	h := hub()
	ida := h.Enter("a", "ida")
	ida.Say([]byte("1"))
	ida.Say([]byte("2"))
	tomas := h.Enter("a", "tomas")
	require.Len(t, tomas.Others(), 1)
	assert.Equal(t, "2", string(tomas.Others()[0].Here), "what was said last")
	tomas.Say([]byte("3"))
	assert.Equal(t, Message{Tab: "tomas", Here: []byte("3")}, <-ida.Messages())
	again := h.Enter("a", "tomas") // the same tab, over a new line before the old one is noticed
	again.Say([]byte("4"))
	assert.Equal(t, "4", string((<-ida.Messages()).Here))
	tomas.Leave()
	assert.Empty(t, ida.Messages(), "it is still here")
	again.Leave()
	assert.Equal(t, Message{Tab: "tomas", Gone: true}, <-ida.Messages())
}

func TestAMemberThatDoesNotKeepUpHoldsNobodyUp(t *testing.T) {
	h := hub()
	slow := h.Enter("a", "slow")
	for i := range 1000 {
		h.Tell(store.Event{Scene: "a", Kind: "edit", Revision: i})
	}
	heard := 0
	for range slow.Messages() {
		heard++
	}
	assert.Equal(t, backlog, heard, "then the line is closed, so that it asks for the rest")
	slow.Leave()
}

func TestHubHearsTheDatabaseAndConnectsAgain(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	st, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	defer st.Close()
	h := hub()
	ended := make(chan struct{})
	m := h.Enter("s", "1")
	go func() { h.Run(ctx, st, slog.New(slog.DiscardHandler)); close(ended) }()
	assert.True(t, (<-m.Messages()).Look, "from now on nothing is missed")
	require.NoError(t, st.Notify(ctx, store.Event{Scene: "s", Kind: "edit", Revision: 3}))
	assert.Equal(t, "edit3", text(t, m))
	_, err = st.Pool.Exec(ctx, "select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen%' and pid <> pg_backend_pid()")
	require.NoError(t, err)
	assert.True(t, (<-m.Messages()).Look, "something may have been missed while the line was cut")
	require.NoError(t, st.Notify(ctx, store.Event{Scene: "s", Kind: "edit", Revision: 4}))
	assert.Equal(t, "edit4", text(t, m))
	cancel()
	<-ended
}
