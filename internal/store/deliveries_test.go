package store_test

import (
	"context"
	"testing"

	"proscen/core/scenetest"
	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
)

// fixture is a store with a scene and a way to deliver shots of it.
type fixture struct {
	t     *testing.T
	s     *store.Store
	info  store.SceneInfo
	queue []string
	jobs  int64
}

func deliveries(t *testing.T) *fixture {
	t.Helper()
	s := open(t, pgtest.Database(t))
	info, err := s.CreateScene(context.Background(), scenetest.Small())
	require.NoError(t, err)
	return &fixture{t: t, s: s, info: info}
}

func (f *fixture) enqueue(_ *gorm.DB, outputs []string) (jobs []int64, err error) {
	for _, o := range outputs {
		f.queue = append(f.queue, o)
		f.jobs++
		jobs = append(jobs, f.jobs)
	}
	return jobs, nil
}

func (f *fixture) deliver(shots ...string) store.Delivery {
	f.t.Helper()
	d := store.Delivery{SceneID: f.info.ID, Assembly: "cut", Width: 64, Height: 36, Quality: "check", Rate: "24", Document: []byte(scenetest.Small().Encode())}
	for _, s := range shots {
		d.Outputs = append(d.Outputs, store.Output{ShotID: s, ShotNumber: "0" + s[1:] + "0", CameraNumber: 2, CameraName: "B", Frames: 48})
	}
	require.NoError(f.t, f.s.CreateDelivery(context.Background(), &d, f.info, f.enqueue))
	return d
}

func TestDeliveriesAreNumberedAndNeverShareAFile(t *testing.T) {
	f := deliveries(t)
	first, second, third := f.deliver("s1", "s2"), f.deliver("s2"), f.deliver("s2", "s3")
	assert.Equal(t, []int{1, 2, 3}, []int{first.Number, second.Number, third.Number})
	assert.Equal(t, []int{1, 1, 2, 3, 1}, []int{first.Outputs[0].Version, first.Outputs[1].Version, second.Outputs[0].Version, third.Outputs[0].Version, third.Outputs[1].Version})
	files := map[string]bool{}
	for _, d := range []store.Delivery{first, second, third} {
		assert.Contains(t, d.Folder, "outputs/test/small-")
		for _, o := range d.Outputs {
			assert.Contains(t, o.File, d.Folder+"/small_0")
			assert.False(t, files[o.File], o.File)
			files[o.File] = true
		}
	}
	assert.Len(t, f.queue, 5, "each output was queued once")
	all, err := f.s.Deliveries(context.Background(), f.info.ID, 0, 50)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.Equal(t, 3, all[0].Number, "newest first")
	assert.Equal(t, []string{"s2", "s3"}, []string{all[0].Outputs[0].ShotID, all[0].Outputs[1].ShotID}, "outputs in order")
	assert.Empty(t, all[0].Document, "lists come without documents")
	none, err := f.s.Deliveries(context.Background(), "nobody", 0, 50)
	assert.NoError(t, err)
	assert.Empty(t, none)
}

func TestAFailedQueueLeavesNoDelivery(t *testing.T) {
	f := deliveries(t)
	d := store.Delivery{SceneID: f.info.ID, Outputs: []store.Output{{ShotID: "s1", ShotNumber: "010"}}, Document: []byte("{}")}
	err := f.s.CreateDelivery(context.Background(), &d, f.info, func(*gorm.DB, []string) ([]int64, error) { return nil, assert.AnError })
	assert.ErrorIs(t, err, assert.AnError)
	all, err := f.s.Deliveries(context.Background(), f.info.ID, 0, 50)
	require.NoError(t, err)
	assert.Empty(t, all)
	d.SceneID = "nobody"
	assert.ErrorIs(t, f.s.CreateDelivery(context.Background(), &d, f.info, f.enqueue), store.ErrNotFound)
}

func TestAnOutputGoesThroughItsStates(t *testing.T) {
	ctx, f := context.Background(), deliveries(t)
	d := f.deliver("s1", "s2", "s3")
	id := d.Outputs[0].ID
	state := func(id string) store.Output {
		t.Helper()
		o, err := f.s.Output(ctx, id)
		require.NoError(t, err)
		return o
	}
	far := func(done int, seconds float64) *store.Output {
		return &store.Output{ID: id, JobID: 1, FramesDone: done, Seconds: seconds}
	}
	wanted, err := f.s.Progress(ctx, far(5, 1), nil)
	require.NoError(t, err)
	assert.False(t, wanted, "nothing that has not begun makes progress")
	begun, err := f.s.Begin(ctx, id, 1)
	require.NoError(t, err)
	assert.True(t, begun)
	wanted, err = f.s.Progress(ctx, far(12, 1.5), []byte("jpeg"))
	require.NoError(t, err)
	assert.True(t, wanted)
	_, err = f.s.Progress(ctx, far(24, 3), nil)
	require.NoError(t, err)
	o := state(id)
	assert.Equal(t, []any{store.Rendering, 24, 3.0, "jpeg"}, []any{o.State, o.FramesDone, o.Seconds, string(o.Picture)}, "no new picture keeps the last")
	begun, _ = f.s.Begin(ctx, id, 1)
	assert.True(t, begun, "picked up again after its worker died")

	o.State, o.Sha256, o.Bytes, o.FramesDone = store.Done, "abc", 77, 48
	kept, err := f.s.Finish(ctx, &o)
	require.NoError(t, err)
	assert.True(t, kept)
	begun, _ = f.s.Begin(ctx, id, 1)
	assert.False(t, begun, "what is finished is not begun again")

	// One fails, one is cancelled; the finished one stays finished.
	failed := d.Outputs[1]
	_, _ = f.s.Begin(ctx, failed.ID, 2)
	failed.State, failed.Error = store.Failed, "the disk is full"
	_, err = f.s.Finish(ctx, &failed)
	require.NoError(t, err)
	require.NoError(t, f.s.Cancel(ctx, d.ID))
	assert.Equal(t, []store.State{store.Done, store.Failed, store.Cancelled}, []store.State{state(id).State, state(failed.ID).State, state(d.Outputs[2].ID).State})
	late := d.Outputs[2]
	late.State = store.Done
	kept, err = f.s.Finish(ctx, &late)
	require.NoError(t, err)
	assert.False(t, kept, "a cancelled output stays cancelled")

	f.queue = nil
	require.NoError(t, f.s.Resume(ctx, d.ID, f.enqueue))
	assert.Equal(t, []string{d.Outputs[1].ID, d.Outputs[2].ID}, f.queue)
	now, err := f.s.Delivery(ctx, d.ID)
	require.NoError(t, err)
	assert.Equal(t, []store.State{store.Done, store.Waiting, store.Waiting}, []store.State{now.Outputs[0].State, now.Outputs[1].State, now.Outputs[2].State})
	assert.Empty(t, now.Outputs[1].Error)
	assert.JSONEq(t, string(scenetest.Small().Encode()), string(now.Document), "the document is kept as it was")
	_, err = f.s.Delivery(ctx, "nobody")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.s.Output(ctx, "nobody")
	assert.ErrorIs(t, err, store.ErrNotFound)
}
