package store_test

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"testing"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/internal/demo"
	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func open(t *testing.T, url string) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// change runs an operation on a copy of the stored document and returns its
// patch.
func change(t *testing.T, body []byte, name, args string) patch.Patch {
	t.Helper()
	doc, err := scene.Decode(body)
	require.NoError(t, err)
	r, err := session.Open(doc, store.NewID).Run(name, json.RawMessage(args))
	require.NoError(t, err)
	return r.Patch
}

func TestSceneSurvivesARestartByteForByte(t *testing.T) {
	ctx, url := context.Background(), pgtest.Database(t)
	s := open(t, url)
	info, err := s.CreateScene(ctx, demo.Scene())
	require.NoError(t, err)
	_, err = s.CreateScene(ctx, demo.Scene())
	assert.ErrorIs(t, err, store.ErrTaken)
	_, err = s.CreateScene(ctx, demo.Scene())
	assert.ErrorIs(t, err, store.ErrTaken, "and again, with the production there")

	first, revision, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Zero(t, revision)
	assert.Equal(t, string(demo.Scene().Encode()), string(first))

	patch := change(t, first, "shotTrim", `{"id":"shot-020","edge":"out","by":-10,"ripple":true}`)
	e, err := s.Apply(ctx, info.ID, 0, store.Edit{Kind: "do", Label: "trim", Author: "t", Patch: patch})
	require.NoError(t, err)
	assert.Equal(t, 1, e.Revision)
	trimmed, _, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)

	again := open(t, url) // as after a restart: nothing in memory
	body, revision, err := again.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, revision)
	assert.Equal(t, string(trimmed), string(body))

	history, err := again.Edits(ctx, info.ID, 10)
	require.NoError(t, err)
	require.Len(t, history, 1)
	one, err := again.Edit(ctx, info.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, history[0], one)
	_, err = again.Edit(ctx, info.ID, 2)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = again.Apply(ctx, info.ID, 1, store.Edit{Kind: "undo", Label: "undo", Author: "t", Patch: history[0].Patch.Inverse()})
	require.NoError(t, err)
	body, _, err = again.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Equal(t, string(first), string(body), "undone from the stored history")

	// The first server notices that another one has gone on.
	body, revision, err = s.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, revision)
	assert.Equal(t, string(first), string(body))
	list, err := s.Scenes(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, store.SceneInfo{ID: info.ID, Production: "Hollin Pass", Title: "Last Car Down", Revision: 2}, list[0])
}

func TestRefusedEditsLeaveNothing(t *testing.T) {
	ctx := context.Background()
	s := open(t, pgtest.Database(t))
	info, err := s.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	body, _, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	good := change(t, body, "cutTo", `{"assembly":"cut","at":20,"camera":"b"}`)

	apply := func(base int, p patch.Patch) error {
		_, err := s.Apply(ctx, info.ID, base, store.Edit{Kind: "do", Label: "x", Patch: p})
		return err
	}
	var stale store.StaleError
	require.ErrorAs(t, apply(7, good), &stale)
	assert.Equal(t, 0, stale.Current)
	var problems scene.Problems
	assert.ErrorAs(t, apply(0, patch.Patch{{Collection: "shots", ID: "new", After: json.RawMessage(`{"lane":"main"}`)}}), &problems)
	assert.ErrorAs(t, apply(0, patch.Patch{{Collection: "nonsense", ID: "x"}}), &problems)
	assert.ErrorAs(t, apply(0, nil), &problems)
	assert.ErrorAs(t, apply(0, append(good, good...)), &problems)
	assert.ErrorIs(t, apply(0, patch.Patch{{Collection: "shots", ID: "s1", Before: json.RawMessage(`null`), After: good[0].After}}), patch.ErrMismatch)
	_, err = s.Apply(ctx, "no-such", 0, store.Edit{Kind: "do", Patch: good})
	assert.ErrorIs(t, err, store.ErrNotFound)

	after, revision, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Zero(t, revision)
	assert.Equal(t, string(body), string(after))
	assert.NoError(t, apply(0, good), "and the scene still takes a good edit")
}

func TestOfTwoEditsAtOnceOneWins(t *testing.T) {
	ctx, url := context.Background(), pgtest.Database(t)
	servers := []*store.Store{open(t, url), open(t, url)}
	info, err := servers[0].CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	body, _, err := servers[0].Scene(ctx, info.ID)
	require.NoError(t, err)
	const tries = 12
	var wins, stales int
	var mu sync.Mutex
	var group sync.WaitGroup
	for i := range tries {
		patch := change(t, body, "markerAdd", `{"clock":"story","frame":5}`)
		group.Go(func() {
			_, err := servers[i%2].Apply(ctx, info.ID, 0, store.Edit{Kind: "do", Label: "marker", Patch: patch})
			mu.Lock()
			defer mu.Unlock()
			var stale store.StaleError
			switch {
			case err == nil:
				wins++
			case errors.As(err, &stale):
				stales++
			default:
				t.Error(err)
			}
		})
	}
	group.Wait()
	assert.Equal(t, 1, wins)
	assert.Equal(t, tries-1, stales)
}

func TestSlug(t *testing.T) {
	for in, want := range map[string]string{"Last Car Down": "last-car-down", "../../etc": "etc", "  ": "unnamed", "Zürich 2": "z-rich-2", "ABC": "abc"} {
		assert.Equal(t, want, store.Slug(in))
	}
	assert.LessOrEqual(t, len(store.Slug(string(make([]byte, 500))+"aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa")), 61)
}

// The patches of many large edits are not read with the history; each is there
// for itself.
func TestALargeHistoryIsReadWithoutItsOldPatches(t *testing.T) {
	ctx := context.Background()
	s := open(t, pgtest.Database(t))
	doc := demo.Scene()
	first := doc.Shots["shot-010"]
	for i := range 1500 {
		k := first
		k.Lane, k.Number = "main", fmt.Sprint(5000+i)
		k.ScreenIn, k.ScreenOut = 100_000+i*10, 100_010+i*10
		k.Name = fmt.Sprintf("%x", sha256.Sum256([]byte(k.Number))) // what does not compress
		doc.PutShot(fmt.Sprintf("long-%04d", i), k)
	}
	info, err := s.CreateScene(ctx, doc)
	require.NoError(t, err)
	for revision := range 5 {
		body, _, err := s.Scene(ctx, info.ID)
		require.NoError(t, err)
		patch := change(t, body, "shotTrim", `{"id":"shot-020","edge":"out","by":-1,"ripple":true}`)
		_, err = s.Apply(ctx, info.ID, revision, store.Edit{Kind: "do", Label: "trim", Author: "t", Patch: patch})
		require.NoError(t, err)
	}
	history, err := s.Edits(ctx, info.ID, 300)
	require.NoError(t, err)
	require.Len(t, history, 5)
	assert.Greater(t, len(history[0].Patch), 1500, "the newest has its patch, however large")
	assert.Nil(t, history[4].Patch)
	assert.Equal(t, []int{5, 4, 3, 2, 1}, []int{history[0].Revision, history[1].Revision, history[2].Revision, history[3].Revision, history[4].Revision})
	oldest, err := s.Edit(ctx, info.ID, 1)
	require.NoError(t, err)
	assert.Greater(t, len(oldest.Patch), 1500)
	few, err := s.Edits(ctx, info.ID, 2)
	require.NoError(t, err)
	assert.Len(t, few, 2)
}
