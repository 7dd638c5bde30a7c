package store_test

import (
	"context"
	"path"
	"testing"
	"time"

	"proscen/core/naming"
	"proscen/core/patch"
	"proscen/core/scenetest"
	"proscen/core/sync"
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

func (f *fixture) enqueue(_ *gorm.DB, outputs []store.Output) (jobs []int64, err error) {
	for _, o := range outputs {
		f.queue = append(f.queue, o.ID)
		f.jobs++
		jobs = append(jobs, f.jobs)
	}
	return jobs, nil
}

// stem names files without anything else.
func stem(name string) func(int) string {
	return func(version int) string { return naming.Versioned(name, version) }
}

func (f *fixture) deliver(shots ...string) store.Delivery {
	f.t.Helper()
	d := store.Delivery{SceneID: f.info.ID, Assembly: "cut", Width: 64, Height: 36, Quality: "check", Rate: "24", Document: []byte(scenetest.Small().Encode())}
	for _, s := range shots {
		d.Outputs = append(d.Outputs, store.Output{Kind: store.Video, Path: stem("small_0" + s[1:] + "0"), Ending: "mp4", Subject: s, ShotID: s, ShotNumber: "0" + s[1:] + "0", CameraNumber: 2, CameraName: "B", Frames: 48})
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
	d := store.Delivery{SceneID: f.info.ID, Outputs: []store.Output{{Path: stem("x"), ShotID: "s1", ShotNumber: "010"}}, Document: []byte("{}")}
	err := f.s.CreateDelivery(context.Background(), &d, f.info, func(*gorm.DB, []store.Output) ([]int64, error) { return nil, assert.AnError })
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
		return &store.Output{ID: id, DeliveryID: d.ID, JobID: 1, FramesDone: done, Seconds: seconds}
	}
	wanted, err := f.s.Progress(ctx, far(5, 1), nil)
	require.NoError(t, err)
	assert.False(t, wanted, "nothing that has not begun makes progress")
	begun, err := f.s.Begin(ctx, id, 1, "one")
	require.NoError(t, err)
	assert.True(t, begun)
	wanted, err = f.s.Progress(ctx, far(12, 1.5), []byte("jpeg"))
	require.NoError(t, err)
	assert.True(t, wanted)
	_, err = f.s.Progress(ctx, far(24, 3), nil)
	require.NoError(t, err)
	o := state(id)
	assert.Equal(t, []any{store.Rendering, 24, 3.0, "jpeg"}, []any{o.State, o.FramesDone, o.Seconds, string(o.Picture)}, "no new picture keeps the last")
	begun, _ = f.s.Begin(ctx, id, 1, "one")
	assert.True(t, begun, "picked up again after its worker died")

	o.State, o.Sha256, o.Bytes, o.FramesDone = store.Done, "abc", 77, 48
	kept, err := f.s.Finish(ctx, &o)
	require.NoError(t, err)
	assert.True(t, kept)
	begun, _ = f.s.Begin(ctx, id, 1, "one")
	assert.False(t, begun, "what is finished is not begun again")

	// One fails, one is cancelled; the finished one stays finished.
	failed := d.Outputs[1]
	_, _ = f.s.Begin(ctx, failed.ID, 2, "one")
	failed.State, failed.Error = store.Failed, "the disk is full"
	_, err = f.s.Finish(ctx, &failed)
	require.NoError(t, err)
	require.NoError(t, f.s.Cancel(ctx, d.ID, false))
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

func TestAnOutputBelongsToOneJob(t *testing.T) {
	ctx, f := context.Background(), deliveries(t)
	d := f.deliver("s1")
	id := d.Outputs[0].ID
	begun, err := f.s.Begin(ctx, id, 1, "one")
	require.NoError(t, err)
	require.True(t, begun)
	begun, err = f.s.Begin(ctx, id, 99, "one")
	require.NoError(t, err)
	assert.False(t, begun, "another job does not get it")

	n, err := f.s.Lost(ctx, time.Minute, f.enqueue)
	require.NoError(t, err)
	// The queue knows no job of this test, so what is not finished counts as lost.
	assert.Equal(t, 1, n)
	alive, err := f.s.Beat(ctx, id, 1)
	require.NoError(t, err)
	assert.False(t, alive, "who was taken for lost hears so when it comes back")
	begun, err = f.s.Begin(ctx, id, 2, "one")
	require.NoError(t, err)
	assert.True(t, begun)
	late := store.Output{ID: id, JobID: 1, State: store.Done}
	kept, err := f.s.Finish(ctx, &late)
	require.NoError(t, err)
	assert.False(t, kept, "and cannot finish it")
	removed := false
	require.NoError(t, f.s.Unwanted(ctx, id, func() error { removed = true; return nil }))
	assert.False(t, removed, "nor take away what the other one makes")
	require.NoError(t, f.s.Cancel(ctx, d.ID, false))
	require.NoError(t, f.s.Unwanted(ctx, id, func() error { removed = true; return nil }))
	assert.True(t, removed)
}

func TestWhatIsLostAgainAndAgainFailsAndCanBeResumed(t *testing.T) {
	ctx, f := context.Background(), deliveries(t)
	d := f.deliver("s1")
	id, job := d.Outputs[0].ID, int64(1)
	lose := func() store.Output {
		t.Helper()
		_, err := f.s.Begin(ctx, id, job, "one")
		require.NoError(t, err)
		_, err = f.s.Lost(ctx, time.Minute, f.enqueue)
		require.NoError(t, err)
		o, err := f.s.Output(ctx, id)
		require.NoError(t, err)
		job = o.JobID
		return o
	}
	for range store.MostLosses - 1 {
		assert.Equal(t, store.Waiting, lose().State)
	}
	_, err := f.s.Begin(ctx, id, job, "one")
	require.NoError(t, err)
	_, err = f.s.PartDone(ctx, store.Part{OutputID: id, JobID: job, Maker: "one"})
	require.NoError(t, err)
	for range store.MostLosses - 1 {
		assert.Equal(t, store.Waiting, lose().State, "a part was finished: it begins to count anew")
	}
	o := lose()
	assert.Equal(t, store.Failed, o.State)
	assert.Contains(t, o.Error, "ended 8 times at the same place")
	require.NoError(t, f.s.Resume(ctx, d.ID, f.enqueue))
	o, err = f.s.Output(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, store.Waiting, o.State)
	assert.Zero(t, o.Losses)
}

func TestManyDeliveriesAreListedPageByPage(t *testing.T) {
	ctx, f := context.Background(), deliveries(t)
	f.deliver("s1", "s2", "s3")
	for range 6 {
		f.deliver("s2")
	}
	numbers := func(before, limit int) (out []int) {
		all, err := f.s.Deliveries(ctx, f.info.ID, before, limit)
		require.NoError(t, err)
		for _, d := range all {
			out = append(out, d.Number)
		}
		return out
	}
	assert.Equal(t, []int{7, 6, 5}, numbers(0, 3))
	assert.Equal(t, []int{4, 3, 2}, numbers(5, 3))
	assert.Equal(t, []int{1}, numbers(2, 3))
	newest, err := f.s.Newest(ctx, f.info.ID)
	require.NoError(t, err)
	require.Len(t, newest, 2)
	assert.Equal(t, []any{7, 1, "s2"}, []any{newest[0].Number, len(newest[0].Outputs), newest[0].Outputs[0].ShotID})
	assert.Equal(t, []any{1, 2}, []any{newest[1].Number, len(newest[1].Outputs)}, "shots of long ago are not forgotten")
}

func TestShotsWithOneNameGetFilesOfTheirOwn(t *testing.T) {
	f := deliveries(t)
	d := store.Delivery{SceneID: f.info.ID, Document: []byte("{}")}
	for _, s := range []string{"s1", "s2", "s3"} {
		d.Outputs = append(d.Outputs, store.Output{Kind: store.Video, ShotID: s, Path: stem("small_unnamed_cam01"), Ending: "mp4", Subject: s})
	}
	require.NoError(t, f.s.CreateDelivery(context.Background(), &d, f.info, f.enqueue))
	assert.Equal(t, []string{"small_unnamed_cam01_v001.mp4", "small_unnamed_cam01_v001-2.mp4", "small_unnamed_cam01_v001-3.mp4"},
		[]string{path.Base(d.Outputs[0].File), path.Base(d.Outputs[1].File), path.Base(d.Outputs[2].File)})
}

func TestScenesThatNobodyAsksForLeaveMemory(t *testing.T) {
	ctx := context.Background()
	s := open(t, pgtest.Database(t))
	for range 3 {
		_, _, err := s.Accept(ctx, store.NewID(), store.Edit{Edit: sync.Edit{ID: store.NewID(), Kind: sync.Do, Patch: patch.Patch{{Collection: "markers", ID: "m", After: []byte(`{}`)}}}})
		require.Error(t, err)
	}
	assert.Zero(t, s.Held(), "what does not exist takes no place")
	info, err := s.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	_, _, err = s.Scene(ctx, info.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, s.Held())
	s.Forget(time.Now().Add(time.Minute))
	assert.Zero(t, s.Held())
	_, _, err = s.Scene(ctx, info.ID)
	require.NoError(t, err, "it is read again")
}
