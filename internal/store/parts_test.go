package store_test

import (
	"context"
	"testing"
	"time"

	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAPartIsOneWorkers lets jobs of two versions of the program ask for the same parts.
func TestAPartIsOneWorkers(t *testing.T) {
	ctx, f := context.Background(), deliveries(t)
	d := f.deliver("s1")
	id := d.Outputs[0].ID
	begun, err := f.s.Begin(ctx, id, 1, "one")
	require.NoError(t, err)
	require.True(t, begun)
	claims := func(first int, job int64, maker string) bool {
		t.Helper()
		mine, err := f.s.ClaimPart(ctx, store.Part{OutputID: id, First: first, Frames: 12, Maker: maker, JobID: job}, time.Minute)
		require.NoError(t, err)
		return mine
	}
	assert.True(t, claims(0, 1, "one"))
	assert.False(t, claims(0, 2, "one"), "the first has it and lives")
	assert.True(t, claims(0, 1, "one"), "and may ask again")
	assert.True(t, claims(12, 2, "one"))
	done := func(first int, job int64, maker string) (late bool) {
		t.Helper()
		late, err := f.s.PartDone(ctx, store.Part{OutputID: id, First: first, Maker: maker, JobID: job})
		require.NoError(t, err)
		return late
	}
	assert.False(t, done(12, 2, "one"))
	assert.False(t, claims(12, 1, "one"), "it is made")

	// Who is silent has lost it; who beats has not.
	old := func(job int64) {
		_, err := f.s.Pool.Exec(ctx, "update parts set beat_at = now() - interval '2 minutes' where job_id = $1", job)
		require.NoError(t, err)
	}
	assert.True(t, claims(24, 2, "one"))
	old(1)
	old(2)
	wanted, err := f.s.Helped(ctx, id, "one", 2)
	require.NoError(t, err)
	assert.True(t, wanted)
	assert.False(t, claims(24, 3, "one"))
	parts, err := f.s.PartsOf(ctx, id, "one", time.Minute)
	require.NoError(t, err)
	assert.NotContains(t, parts, 0, "its worker is silent")
	assert.True(t, parts[12].Done, "what is made stays")
	assert.Equal(t, int64(2), parts[24].JobID)
	assert.True(t, claims(0, 3, "one"))
	_, err = f.s.Beat(ctx, id, 1)
	require.NoError(t, err)
	assert.False(t, claims(0, 1, "one"), "who comes back has lost it")

	// What one version has made is nothing to another.
	elsewhere := func(maker string) bool {
		yes, err := f.s.Elsewhere(ctx, id, maker)
		require.NoError(t, err)
		return yes
	}
	assert.False(t, elsewhere("one"))
	assert.True(t, elsewhere("two"))
	wanted, err = f.s.Helped(ctx, id, "two", 9)
	require.NoError(t, err)
	assert.False(t, wanted)
	_, err = f.s.Pool.Exec(ctx, "update outputs set maker_at = now() - interval '2 minutes' where id = $1", id)
	require.NoError(t, err)
	assert.False(t, elsewhere("two"), "nobody of that version is left")
	_, err = f.s.Begin(ctx, id, 1, "two")
	require.NoError(t, err)
	parts, err = f.s.PartsOf(ctx, id, "two", time.Minute)
	require.NoError(t, err)
	assert.Empty(t, parts)
	assert.True(t, claims(12, 1, "two"), "it makes all parts anew")

	assert.False(t, done(12, 1, "two"))
	require.NoError(t, f.s.PartGone(ctx, id, 12))
	assert.True(t, claims(12, 4, "two"), "its file is lost")
	o, err := f.s.Output(ctx, id)
	require.NoError(t, err)
	o.State = store.Done
	kept, err := f.s.Finish(ctx, &o)
	require.NoError(t, err)
	require.True(t, kept)
	wanted, err = f.s.Helped(ctx, id, "two", 4)
	require.NoError(t, err)
	assert.False(t, wanted, "it is finished")
	// Job 4 is at a part that is not waited for: until it says so, or is silent, something
	// may come.
	parted := func() []string {
		t.Helper()
		require.NoError(t, f.s.Discarded(ctx, id, time.Minute))
		ids, err := f.s.Parted(ctx)
		require.NoError(t, err)
		return ids
	}
	old(2)
	old(3)
	assert.Equal(t, []string{id}, parted())
	assert.True(t, done(12, 4, "two"), "too late")
	assert.Empty(t, parted())
	assert.True(t, claims(0, 5, "two"))
	assert.Equal(t, []string{id}, parted())
	old(5)
	assert.Empty(t, parted())
	parts, err = f.s.PartsOf(ctx, id, "two", time.Minute)
	require.NoError(t, err)
	assert.Empty(t, parts)
}
