package store_test

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	gosync "sync"
	"sync/atomic"
	"testing"
	"time"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/sync"
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

// apply stores a patch that was made from a revision as an edit of its own.
func apply(s *store.Store, scene string, base int, kind sync.Kind, p patch.Patch) (store.Edit, error) {
	e, _, err := s.Accept(context.Background(), scene, store.Edit{Author: "t", Edit: sync.Edit{ID: store.NewID(), Base: base, Kind: kind, Label: "x", Patch: p}})
	return e, err
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

	trim := change(t, first, "shotTrim", `{"id":"shot-020","edge":"out","by":-10,"ripple":true}`)
	e, err := apply(s, info.ID, 0, sync.Do, trim)
	require.NoError(t, err)
	assert.Equal(t, 1, e.Revision)
	trimmed, _, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)

	again := open(t, url) // as after a restart: nothing in memory
	body, revision, err := again.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, revision)
	assert.Equal(t, string(trimmed), string(body))

	history, err := again.Edits(ctx, info.ID, store.Slice{Limit: 10})
	require.NoError(t, err)
	require.Len(t, history, 1)
	one, err := again.Edit(ctx, info.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, history[0], one)
	_, err = again.Edit(ctx, info.ID, 2)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = apply(again, info.ID, 1, sync.Undo, history[0].Patch.Inverse())
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
	got := list[0]
	assert.WithinDuration(t, time.Now(), got.EditedAt, time.Minute)
	got.EditedAt = time.Time{}
	assert.Equal(t, store.SceneInfo{
		ID: info.ID, Production: "Hollin Pass", Title: "Last Car Down", Revision: 2, EditedBy: "t", Pictured: -1,
		Facts: store.Facts{Shots: 11, Frames: 1008, Rate: "24", CastCount: 2, Cameras: 11},
	}, got)
}

func TestRefusedEditsLeaveNothing(t *testing.T) {
	ctx := context.Background()
	s := open(t, pgtest.Database(t))
	info, err := s.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	body, _, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	good := change(t, body, "cutTo", `{"assembly":"cut","at":20,"camera":"b"}`)

	store1 := func(base int, p patch.Patch) error {
		_, err := apply(s, info.ID, base, sync.Do, p)
		return err
	}
	var clash sync.ClashError
	require.ErrorAs(t, store1(7, good), &clash, "an edit from the future")
	assert.Equal(t, 0, clash.Current)
	var problems scene.Problems
	assert.ErrorAs(t, store1(0, patch.Patch{{Collection: "shots", ID: "new", After: json.RawMessage(`{"lane":"main"}`)}}), &problems)
	assert.ErrorAs(t, store1(0, patch.Patch{{Collection: "nonsense", ID: "x"}}), &problems)
	assert.ErrorAs(t, store1(0, nil), &problems)
	assert.ErrorAs(t, store1(0, append(good, good...)), &problems)
	assert.ErrorAs(t, store1(0, patch.Patch{{Layer: "night", Collection: "markers", ID: "m"}}), &problems)
	nul := patch.Patch{{Collection: "lines", ID: "l", After: json.RawMessage(`{"cast":"walker","text":"a\u0000b","in":0,"out":1}`)}}
	assert.ErrorContains(t, store1(0, nul), "NUL")
	half := patch.Patch{{Collection: "lines", ID: "l", After: json.RawMessage(`{"cast":"walker","text":"\ud800","in":0,"out":1}`)}}
	assert.ErrorContains(t, store1(0, half), "surrogate")
	assert.ErrorIs(t, store1(0, patch.Patch{{Collection: "shots", ID: "s1", Before: json.RawMessage(`null`), After: good[0].After}}), patch.ErrMismatch)
	_, err = apply(s, "no-such", 0, sync.Do, good)
	assert.ErrorIs(t, err, store.ErrNotFound)

	after, revision, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Zero(t, revision)
	assert.Equal(t, string(body), string(after))
	assert.NoError(t, store1(0, good), "and the scene still takes a good edit")
}

// Many at once, over two servers of one database: of those that change the same
// thing one wins, those that change different things all get in, and what is sent
// twice is there once.
func TestManyEditsAtOnce(t *testing.T) {
	ctx, url := context.Background(), pgtest.Database(t)
	servers := []*store.Store{open(t, url), open(t, url)}
	info, err := servers[0].CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	body, _, err := servers[0].Scene(ctx, info.ID)
	require.NoError(t, err)
	const tries = 24
	rename := change(t, body, "shotSet", `{"ids":["s1"],"change":{"name":"mine"}}`)
	var wins, clashes, repeated int
	var mu gosync.Mutex
	var group gosync.WaitGroup
	count := func(again bool, err error, win *int) {
		mu.Lock()
		defer mu.Unlock()
		var clash sync.ClashError
		switch {
		case errors.As(err, &clash):
			clashes++
		case err != nil:
			t.Error(err)
		case again:
			repeated++
		default:
			*win++
		}
	}
	markers := 0
	for i := range tries {
		marker := change(t, body, "markerAdd", `{"clock":"story","frame":5}`)
		group.Go(func() {
			_, _, err := servers[i%2].Accept(ctx, info.ID, store.Edit{Edit: sync.Edit{ID: fmt.Sprint("r", i), Kind: sync.Do, Label: "rename", Patch: rename}})
			count(false, err, &wins)
		})
		for range 2 {
			group.Go(func() {
				e, again, err := servers[i/2%2].Accept(ctx, info.ID, store.Edit{Edit: sync.Edit{ID: fmt.Sprint("m", i), Kind: sync.Do, Label: "marker", Patch: marker}})
				if err == nil && again {
					assert.NotEmpty(t, e.Patch, "a repeated answer says what was stored")
				}
				count(again, err, &markers)
			})
		}
	}
	group.Wait()
	assert.Equal(t, 1, wins)
	assert.Equal(t, tries-1, clashes)
	assert.Equal(t, tries, markers)
	assert.Equal(t, tries, repeated)
	edits, revision, err := servers[0].Since(ctx, info.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, tries+1, revision)
	require.Len(t, edits, tries+1)
	doc, err := scene.Decode(body)
	require.NoError(t, err)
	for i, e := range edits {
		assert.Equal(t, i+1, e.Revision)
		require.NoError(t, patch.Apply(doc, e.Patch))
	}
	for _, s := range servers {
		now, _, err := s.Scene(ctx, info.ID)
		require.NoError(t, err)
		assert.Equal(t, string(doc.Encode()), string(now), "the log leads to what both servers have")
	}
	known, err := servers[1].Known(ctx, info.ID, []string{"m3", "never"})
	require.NoError(t, err)
	assert.Equal(t, []string{"m3"}, known)
}

// Of edits that arrive together, one that gives a title that is taken is refused, and
// the others are stored.
func TestOneBadEditDoesNotTakeTheOthersAlong(t *testing.T) {
	ctx := context.Background()
	s := open(t, pgtest.Database(t))
	info, err := s.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	other := scenetest.Small()
	other.Settings.Title = "Other"
	_, err = s.CreateScene(ctx, other)
	require.NoError(t, err)
	body, _, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	taken := change(t, body, "set", `{"collection":"settings","id":"settings","merge":{"title":"Other"},"label":"rename"}`)
	var group gosync.WaitGroup
	var refused atomic.Int64
	for i := range 20 {
		group.Go(func() {
			p, name := change(t, body, "markerAdd", `{"clock":"story","frame":5}`), fmt.Sprint("m", i)
			if i == 7 {
				p, name = taken, "taken"
			}
			_, _, err := s.Accept(ctx, info.ID, store.Edit{Edit: sync.Edit{ID: name, Kind: sync.Do, Label: "x", Patch: p}})
			if errors.Is(err, store.ErrTaken) {
				refused.Add(1)
			} else if err != nil {
				t.Error(err)
			}
		})
	}
	group.Wait()
	assert.EqualValues(t, 1, refused.Load())
	body, revision, err := s.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Equal(t, 19, revision)
	doc, err := scene.Decode(body)
	require.NoError(t, err)
	assert.Len(t, doc.Markers, 20)
	assert.Equal(t, "Small", doc.Settings.Title)
}

// Every state of the history can be had again, also after a restart, and states
// with a name are kept whole.
func TestStatesOfTheHistory(t *testing.T) {
	ctx, url := context.Background(), pgtest.Database(t)
	s := open(t, url)
	info, err := s.CreateScene(ctx, scenetest.Rich())
	require.NoError(t, err)
	var states []string
	for i, op := range []struct{ name, args string }{
		{"markerAdd", `{"clock":"story","frame":5}`},
		{"shotRemove", `{"ids":["s2"],"close":true}`},
		{"remove", `{"collection":"nodes","ids":["other"]}`},
		{"shotAppend", `{"assembly":"cut","camera":"b","frames":9}`},
		{"set", `{"collection":"settings","id":"settings","merge":{"title":"Renamed"},"label":"rename"}`},
	} {
		body, revision, err := s.Scene(ctx, info.ID)
		require.NoError(t, err)
		require.Equal(t, i, revision)
		states = append(states, string(body))
		_, err = apply(s, info.ID, revision, sync.Do, change(t, body, op.name, op.args))
		require.NoError(t, err)
	}
	kept, err := s.KeepVersion(ctx, info.ID, 2, "before the cut", "Ida")
	require.NoError(t, err)
	_, err = s.KeepVersion(ctx, info.ID, 3, "before the cut", "Ida")
	require.ErrorIs(t, err, store.ErrVersionTaken)
	again := open(t, url)
	for revision, want := range states {
		got, err := again.At(ctx, info.ID, revision)
		require.NoError(t, err)
		assert.Equal(t, want, string(got), "revision %d", revision)
	}
	_, err = again.At(ctx, info.ID, 6)
	require.ErrorIs(t, err, store.ErrNotFound)
	v, body, err := again.Version(ctx, info.ID, kept.ID)
	require.NoError(t, err)
	assert.Equal(t, states[2], string(body))
	assert.Equal(t, "before the cut", v.Name)
	list, err := again.Versions(ctx, info.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.NoError(t, again.RemoveVersion(ctx, info.ID, kept.ID))
	require.ErrorIs(t, again.RemoveVersion(ctx, info.ID, kept.ID), store.ErrNotFound)
	other, err := again.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	_, _, err = again.Version(ctx, other.ID, kept.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A browser that has missed more than can be sent reads the scene anew.
func TestSinceSendsNothingWhenItIsTooMuch(t *testing.T) {
	ctx := context.Background()
	s := open(t, pgtest.Database(t))
	info, err := s.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, `insert into edits (scene_id, revision, edit_id, kind, label, author, patch)
		select $1, n, 'e' || n, 'do', 'x', 't', '[]' from generate_series(1, 2500) n`, info.ID)
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, `update scenes set revision = 2500 where id = $1`, info.ID)
	require.NoError(t, err)
	for after, want := range map[int]int{0: 0, 499: 0, 500: 2000, 2499: 1, 2500: 0, 2600: 0} {
		edits, revision, err := s.Since(ctx, info.ID, after)
		require.NoError(t, err)
		assert.Equal(t, 2500, revision)
		assert.Len(t, edits, want, "after %d", after)
	}
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
		_, err = apply(s, info.ID, revision, sync.Do, change(t, body, "shotTrim", `{"id":"shot-020","edge":"out","by":-1,"ripple":true}`))
		require.NoError(t, err)
	}
	history, err := s.Edits(ctx, info.ID, store.Slice{Limit: 300})
	require.NoError(t, err)
	require.Len(t, history, 5)
	assert.Greater(t, len(history[0].Patch), 1500, "the newest has its patch, however large")
	assert.Nil(t, history[4].Patch)
	assert.Equal(t, []int{5, 4, 3, 2, 1}, []int{history[0].Revision, history[1].Revision, history[2].Revision, history[3].Revision, history[4].Revision})
	oldest, err := s.Edit(ctx, info.ID, 1)
	require.NoError(t, err)
	assert.Greater(t, len(oldest.Patch), 1500)
	few, err := s.Edits(ctx, info.ID, store.Slice{Limit: 2})
	require.NoError(t, err)
	assert.Len(t, few, 2)
}
