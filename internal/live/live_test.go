package live

import (
	"context"
	"log/slog"
	"testing"
	"time"

	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEachSceneHearsItsOwnEvents(t *testing.T) {
	h := NewHub()
	a, endA := h.Listen("a")
	b, endB := h.Listen("b")
	a2, endA2 := h.Listen("a")
	h.tell(store.Event{Scene: "a", Kind: "edit", Revision: 1})
	assert.Equal(t, 1, (<-a).Revision)
	assert.Equal(t, 1, (<-a2).Revision)
	assert.Empty(t, b)
	endA()
	h.tell(store.Event{Scene: "a", Kind: "edit", Revision: 2})
	assert.Empty(t, a, "who has gone hears no more")
	assert.Equal(t, 2, (<-a2).Revision)
	endA2()
	endB()
	assert.Empty(t, h.listeners, "nothing is kept of scenes that nobody watches")
}

func TestAListenerThatDoesNotKeepUpHoldsNobodyUp(t *testing.T) {
	h := NewHub()
	slow, end := h.Listen("a")
	defer end()
	for i := range 1000 {
		h.tell(store.Event{Scene: "a", Revision: i})
	}
	assert.Equal(t, 0, (<-slow).Revision)
	assert.LessOrEqual(t, len(slow), 64)
}

func TestHubHearsTheDatabaseAndConnectsAgain(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	st, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	defer st.Close()
	h := NewHub()
	ended := make(chan struct{})
	go func() { h.Run(ctx, st, slog.New(slog.DiscardHandler)); close(ended) }()
	events, end := h.Listen("s")
	defer end()
	hear := func(what string) {
		t.Helper()
		require.Eventually(t, func() bool {
			require.NoError(t, st.Notify(ctx, store.Event{Scene: "s", Kind: "edit", Revision: 3}))
			select {
			case e := <-events:
				return e.Revision == 3
			case <-time.After(50 * time.Millisecond):
				return false
			}
		}, 20*time.Second, time.Millisecond, what)
	}
	hear("the first event")
	_, err = st.Pool.Exec(ctx, "select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen%' and pid <> pg_backend_pid()")
	require.NoError(t, err)
	for len(events) > 0 {
		<-events
	}
	hear("an event after the line was cut")
	cancel()
	<-ended
}
