package render

import (
	"context"
	"crypto/sha256"
	"log/slog"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"proscen/core/scenetest"
	"proscen/core/timing"
	"proscen/internal/blobs"
	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// farm is a database and a folder of files with one delivery of one output.
type farm struct {
	t        *testing.T
	url, dir string
	st       *store.Store
	output   string
	frames   int
}

func newFarm(t *testing.T, frames int) farm {
	ctx := context.Background()
	f := farm{t: t, url: pgtest.Database(t), dir: t.TempDir(), frames: frames}
	st, err := store.Open(ctx, f.url)
	require.NoError(t, err)
	t.Cleanup(st.Close)
	f.st = st
	doc := scenetest.Cut([2]int{0, frames})
	info, err := st.CreateScene(ctx, doc)
	require.NoError(t, err)
	queue, err := NewQueue(st, nil, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	d := store.Delivery{SceneID: info.ID, Assembly: "cut", Width: 320, Height: 180, Quality: "fine", Rate: "24", Document: []byte(doc.Encode())}
	d.Outputs = []store.Output{{Kind: store.Video, Subject: "s1", Path: func(int) string { return "small_v001" }, Ending: "mp4", ShotID: "s1", ShotNumber: "010", CameraNumber: 1, CameraName: "A", Frames: frames}}
	require.NoError(t, st.CreateDelivery(ctx, &d, info, queue.Enqueue))
	f.output = d.Outputs[0].ID
	return f
}

// made waits until the output is finished, and returns its bytes and how many jobs made
// parts of it.
func (f *farm) made() (body []byte, jobs int) {
	f.t.Helper()
	var o store.Output
	require.Eventually(f.t, func() bool {
		var n int
		if f.st.Pool.QueryRow(context.Background(), "select count(distinct job_id) from parts where done").Scan(&n) == nil {
			jobs = max(jobs, n)
		}
		var err error
		o, err = f.st.Output(context.Background(), f.output)
		return err == nil && o.State == store.Done
	}, 2*time.Minute, 5*time.Millisecond, "the output is finished")
	assert.Equal(f.t, f.frames, o.FramesDone)
	body, err := os.ReadFile(filepath.Join(f.dir, o.File))
	require.NoError(f.t, err)
	return body, jobs
}

func (f *farm) work(ctx context.Context, maker string) *Queue {
	st, q := workAs(f.t, ctx, f.url, f.dir, maker)
	f.t.Cleanup(func() { q.Wait(); st.Close() })
	return q
}

// TestSeveralWorkersMakeOneOutput makes an output by one worker and by three: they share
// its parts, and it is the same to the bit.
func TestSeveralWorkersMakeOneOutput(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	alone := newFarm(t, 144)
	alone.work(ctx, "test")
	want, _ := alone.made()
	together := newFarm(t, 144)
	for range 3 {
		together.work(ctx, "test")
	}
	got, jobs := together.made()
	assert.Greater(t, jobs, 1, "jobs that made parts")
	assert.Equal(t, sha256.Sum256(want), sha256.Sum256(got))
	var left int
	require.Eventually(t, func() bool {
		return together.st.Pool.QueryRow(ctx, "select count(*) from parts").Scan(&left) == nil && left == 0
	}, 10*time.Second, 20*time.Millisecond, "nothing is left of the parts")
	cancel()
}

// TestASlowWorkerIsOvertaken lets somebody hold a part for ever who lives: the output is
// finished nevertheless.
func TestASlowWorkerIsOvertaken(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	f := newFarm(t, 144)
	held, err := f.st.ClaimPart(ctx, store.Part{OutputID: f.output, First: 24, Frames: 24, Maker: "test", JobID: 99}, time.Minute)
	require.NoError(t, err)
	require.True(t, held)
	var lives atomic.Bool
	lives.Store(true)
	go func() {
		for ctx.Err() == nil && lives.Load() {
			_, _ = f.st.Helped(ctx, f.output, "test", 99)
			time.Sleep(swift.Beat)
		}
	}()
	f.work(ctx, "test")
	body, _ := f.made()
	assert.NotEmpty(t, body)
	// Now it is ready, and is killed before it can say so: what it has stored does not stay.
	late := filepath.Join(f.dir, "parts", f.output, "test", "000024-24.mp4")
	require.NoError(t, os.MkdirAll(filepath.Dir(late), 0o700))
	require.NoError(t, os.WriteFile(late, []byte("late"), 0o600))
	lives.Store(false)
	require.Eventually(t, func() bool {
		_, err := os.Stat(late)
		var left int
		return os.IsNotExist(err) && f.st.Pool.QueryRow(ctx, "select count(*) from parts").Scan(&left) == nil && left == 0
	}, 15*time.Second, 20*time.Millisecond)
	cancel()
}

// TestVersionsAreNotMixed begins an output by one version of the program, of which a part
// is left: another version waits until nobody of that is at it, and makes all of it.
func TestVersionsAreNotMixed(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	f := newFarm(t, 144)
	bucket, err := blobs.Open(ctx, f.dir)
	require.NoError(t, err)
	key := partsOf(f.output) + "/old/000000-24.mp4"
	require.NoError(t, bucket.PutBytes(ctx, key, MediaType(key), []byte("of another version")))
	o, err := f.st.Output(ctx, f.output)
	require.NoError(t, err)
	_, err = f.st.Begin(ctx, f.output, o.JobID, "old")
	require.NoError(t, err)
	require.NoError(t, f.st.Yield(ctx, f.output, o.JobID, ""))
	f.work(ctx, "test")
	time.Sleep(2 * time.Second)
	o, err = f.st.Output(ctx, f.output)
	require.NoError(t, err)
	assert.Equal(t, "old", o.Maker, "it is left alone")
	assert.Zero(t, o.FramesDone)
	_, err = f.st.Pool.Exec(ctx, "update outputs set maker_at = now() - interval '2 minutes'")
	require.NoError(t, err)
	body, _ := f.made()
	assert.NotContains(t, string(body), "of another version")
	cancel()
}

func TestTheMakerIsThisProgram(t *testing.T) {
	a, err := Maker(context.Background())
	require.NoError(t, err)
	b, err := Maker(context.Background())
	require.NoError(t, err)
	assert.Equal(t, a, b)
	assert.Len(t, a, 16)
}

// TestAWorkerThatStoodStillLeavesNothing lets a worker go on for an output that others
// have finished meanwhile, and another one be killed before it could tidy up.
func TestAWorkerThatStoodStillLeavesNothing(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	f, unfinished := newFarm(t, 48), newFarm(t, 48)
	f.work(ctx, "test")
	f.made()
	bucketOf := func(dir string) *blobs.Bucket {
		t.Helper()
		b, err := blobs.Open(ctx, dir)
		require.NoError(t, err)
		return b
	}
	stores := func(dir, output string) string {
		t.Helper()
		key := partsOf(output) + "/test/000000.png"
		require.NoError(t, bucketOf(dir).PutBytes(ctx, key, "image/png", []byte("late")))
		return filepath.Join(dir, filepath.FromSlash(key))
	}
	gone := func(file string) func() bool {
		return func() bool {
			_, err := os.Stat(filepath.Dir(filepath.Dir(file)))
			return os.IsNotExist(err)
		}
	}

	o, err := f.st.Output(ctx, f.output)
	require.NoError(t, err)
	working, stop := context.WithCancelCause(ctx)
	w := &Worker{Store: f.st, Bucket: bucketOf(f.dir), Threads: 1, Timing: swift, Maker: "test", Log: slog.New(slog.DiscardHandler)}
	d, err := w.delivery(ctx, o.DeliveryID)
	require.NoError(t, err)
	var stored string
	w.craft.part = func(ctx context.Context, m *making, _ timing.Range) error {
		stored = stores(f.dir, m.o.ID)
		stop(errUnwanted) // as its next beat does
		return ctx.Err()
	}
	files, end := d.files.Open(ctx)
	defer end()
	film, err := w.film(&o, d, files)
	require.NoError(t, err)
	m := making{Worker: w, o: &o, d: d, film: film, dir: t.TempDir(), form: formOf(film), seconds: func() float64 { return 0 }}
	_, err = m.all(working)
	require.ErrorIs(t, err, errUnwanted)
	require.NotEmpty(t, stored)
	assert.True(t, gone(stored)(), "what it has stored does not stay")

	left, kept := stores(f.dir, f.output), stores(unfinished.dir, unfinished.output)
	f.work(ctx, "test") // the next program that starts
	require.Eventually(t, gone(left), 10*time.Second, 20*time.Millisecond)
	require.NoError(t, sweep(ctx, unfinished.st, bucketOf(unfinished.dir)))
	assert.False(t, gone(kept)(), "what is not finished needs its parts")
	cancel()
}
