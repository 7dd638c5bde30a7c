package store_test

import (
	"context"
	"fmt"
	"testing"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/sync"
	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/require"
)

// long is the small scene with so many things and shots.
func long(n int) *scene.Document {
	d := scenetest.Small()
	d.Settings.Title = fmt.Sprint("Long ", n)
	first := d.Shots["s1"]
	for i := range n {
		s := first
		s.Number, s.ScreenIn, s.ScreenOut = fmt.Sprintf("%04d", i), 200+48*i, 248+48*i
		d.PutShot(fmt.Sprintf("shot-%05d", i), s)
		d.Nodes[fmt.Sprintf("thing-%05d", i)] = scene.Node{Kind: scene.KindProp, Name: "Thing", Position: scene.Vec{float64(i)}, Piece: &scene.Piece{Stock: "crate"}}
	}
	return d
}

// BenchmarkStoreGrowth measures what is done with scenes of 500 to 4,000 things and
// shots, and how that grows.
func BenchmarkStoreGrowth(b *testing.B) {
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.Database(b))
	require.NoError(b, err)
	b.Cleanup(st.Close)
	infos, docs := map[int]store.SceneInfo{}, map[int]*scene.Document{}
	for _, n := range scenetest.Sizes {
		docs[n] = long(n)
		infos[n], err = st.CreateScene(ctx, docs[n])
		require.NoError(b, err)
	}
	f := &fixture{}
	deliver := func(n int) *store.Delivery {
		d := &store.Delivery{SceneID: infos[n].ID, Assembly: "cut", Width: 64, Height: 36, Quality: "rough", Rate: "24", Document: docs[n].Encode()}
		for i := range n {
			d.Outputs = append(d.Outputs, store.Output{Kind: store.Video, ShotID: fmt.Sprintf("shot-%05d", i), Subject: fmt.Sprintf("shot-%05d", i), Path: stem(fmt.Sprintf("s_%05d", i)), Ending: "mp4", Frames: 48})
		}
		return d
	}
	edits := 0
	for _, c := range []struct {
		what    string
		prepare func(n int) func() error
	}{
		{"Open", func(n int) func() error {
			return func() error { _, _, err := st.Scene(ctx, infos[n].ID); return err }
		}},
		{"SaveOne", func(n int) func() error {
			return func() error {
				edits++
				id := fmt.Sprint("edit-", edits)
				_, _, err := st.Accept(ctx, infos[n].ID, store.Edit{Edit: sync.Edit{ID: id, Kind: sync.Do, Label: "mark", Patch: patch.Patch{{Collection: "markers", ID: id, After: scene.Canonical(scene.Marker{Clock: scene.StoryClock, Frame: edits, Name: "m", Color: "#ffffff"})}}}})
				return err
			}
		}},
		{"SaveAll", func(n int) func() error {
			up := true
			return func() error {
				edits++
				var p patch.Patch
				for i := range n {
					id := fmt.Sprintf("thing-%05d", i)
					after := docs[n].Nodes[id]
					after.Hidden = up
					before := after
					before.Hidden = !up
					p = append(p, patch.Change{Collection: "nodes", ID: id, Before: scene.Canonical(before), After: scene.Canonical(after)})
				}
				up = !up
				_, now, err := st.Scene(ctx, infos[n].ID)
				if err != nil {
					return err
				}
				_, _, err = st.Accept(ctx, infos[n].ID, store.Edit{Edit: sync.Edit{ID: fmt.Sprint("edit-", edits), Base: now, Kind: sync.Do, Label: "hide", Patch: p}})
				return err
			}
		}},
		{"Deliver", func(n int) func() error {
			return func() error { return st.CreateDelivery(ctx, deliver(n), infos[n], f.enqueue) }
		}},
		{"ListDeliveries", func(n int) func() error {
			return func() error { _, err := st.Deliveries(ctx, infos[n].ID, 0, 3); return err }
		}},
		{"ListNewest", func(n int) func() error {
			return func() error { _, err := st.Newest(ctx, infos[n].ID); return err }
		}},
	} {
		b.Run(c.what, func(b *testing.B) {
			scenetest.Growth(b, func(n int) func() {
				run := c.prepare(n)
				return func() { require.NoError(b, run()) }
			})
		})
	}
}
