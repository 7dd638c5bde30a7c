package render

import (
	"context"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"
	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/pgtest"
	"proscen/internal/scratch"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var small = picture.Form{Width: 96, Height: 54, Quality: picture.Check}

func painter(t *testing.T, doc *scene.Document, p picture.Form, threads int) *picture.Painter {
	t.Helper()
	out, err := picture.NewPainter(doc, picture.Files{}, "cut", p, threads)
	require.NoError(t, err)
	return out
}

func probe(t *testing.T, file string) string {
	t.Helper()
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames,r_frame_rate,width,height", "-of", "csv=p=0", file).Output()
	require.NoError(t, err)
	return strings.TrimSpace(string(out))
}

func TestPartsJoinToTheExactCountAndRate(t *testing.T) {
	dir := t.TempDir()
	p := painter(t, scenetest.Small(), small, 2)
	for _, rate := range []timing.Rate{timing.Film24, timing.Film2397, timing.Video25} {
		var parts []string
		for i, r := range []timing.Range{{In: 0, Out: 24}, {In: 24, Out: 48}, {In: 48, Out: 59}} {
			file := filepath.Join(dir, rate.Timecode(i, false)[9:]+strings.ReplaceAll(rate.String(), "/", "-")+".mp4")
			require.NoError(t, Encode(context.Background(), p, r, Form{scene.H264, scene.Check, rate}, file, nil))
			parts = append(parts, file)
		}
		joined := filepath.Join(dir, "joined"+strings.ReplaceAll(rate.String(), "/", "-")+".mp4")
		require.NoError(t, Join(context.Background(), parts, "", 59, Form{scene.H264, scene.Check, rate}, joined))
		want := "96,54," + rate.String() + "/1,59"
		if rate.Den != 1 {
			want = "96,54," + rate.String() + ",59"
		}
		assert.Equal(t, want, probe(t, joined))
	}
}

// fakeFFmpeg puts a script before the real encoder.
func fakeFFmpeg(t *testing.T, script string) {
	t.Helper()
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ffmpeg"), []byte("#!/bin/sh\n"+script), 0o755))
	t.Setenv("PATH", dir+":"+os.Getenv("PATH"))
}

func TestEncoderFailuresAreSentencesAndLeaveNoFile(t *testing.T) {
	p := painter(t, scenetest.Small(), small, 1)
	run := func(ctx context.Context) (string, error) {
		file := filepath.Join(t.TempDir(), "x.mp4")
		return file, Encode(ctx, p, timing.Range{In: 0, Out: 48}, Form{scene.H264, scene.Check, timing.Film24}, file, nil)
	}
	gone := func(file string) {
		t.Helper()
		_, err := os.Stat(file)
		assert.ErrorIs(t, err, os.ErrNotExist)
	}
	t.Run("disk full", func(t *testing.T) {
		fakeFFmpeg(t, `for f; do :; done; echo half > "$f"; head -c 20000 >/dev/null; echo "av_interleaved_write_frame(): No space left on device" >&2; exit 1`)
		file, err := run(context.Background())
		assert.ErrorIs(t, err, scratch.ErrFull)
		gone(file)
	})
	t.Run("ends well and has written half", func(t *testing.T) {
		fakeFFmpeg(t, `for f; do :; done; cat >/dev/null; echo half > "$f"; echo "Error writing trailer: No space left on device" >&2`)
		file, err := run(context.Background())
		assert.ErrorIs(t, err, scratch.ErrFull)
		gone(file)
		fakeFFmpeg(t, `for f; do :; done; cat >/dev/null; echo half > "$f"`)
		file, err = run(context.Background())
		assert.ErrorContains(t, err, "could not be encoded")
		gone(file)
	})
	t.Run("broken", func(t *testing.T) {
		fakeFFmpeg(t, `echo "Unknown encoder 'libx264'" >&2; exit 1`)
		file, err := run(context.Background())
		assert.ErrorContains(t, err, "could not be encoded: Unknown encoder")
		gone(file)
	})
	t.Run("missing", func(t *testing.T) {
		t.Setenv("PATH", t.TempDir())
		_, err := run(context.Background())
		assert.ErrorIs(t, err, ffmpeg.ErrMissing)
	})
	t.Run("cancelled", func(t *testing.T) {
		fakeFFmpeg(t, `for f; do :; done; echo half > "$f"; exec sleep 60`)
		ctx, cancel := context.WithTimeout(context.Background(), 300*time.Millisecond)
		defer cancel()
		file, err := run(ctx)
		assert.Error(t, err)
		gone(file)
	})
}

// TestWorkerProcess is not a test of its own: it is the worker that
// TestKilledWorkerIsPickedUpAgain starts as a process and kills.
func TestWorkerProcess(t *testing.T) {
	url := os.Getenv("PROSCEN_TEST_WORKER")
	if url == "" {
		t.Skip("only as a helper process")
	}
	work(t, context.Background(), url, os.Getenv("PROSCEN_TEST_BLOBS"))
	select {}
}

// swift notices the loss of a worker sooner than servers do, and gives turns of one part.
var swift = Timing{Beat: 200 * time.Millisecond, Silent: time.Second, Look: 300 * time.Millisecond, Turn: time.Millisecond}

func work(t *testing.T, ctx context.Context, url, dir string) (*store.Store, *Queue) {
	t.Helper()
	return workAs(t, ctx, url, dir, "test")
}

// workAs works as a version of the program.
func workAs(t *testing.T, ctx context.Context, url, dir, maker string) (*store.Store, *Queue) {
	t.Helper()
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	bucket, err := blobs.Open(ctx, dir)
	require.NoError(t, err)
	quiet := slog.New(slog.DiscardHandler)
	q, err := NewQueue(st, &Worker{Store: st, Bucket: bucket, Threads: 2, Timing: swift, Maker: maker, Log: quiet}, quiet)
	require.NoError(t, err)
	require.NoError(t, q.Start(ctx))
	go q.Keep(ctx, st, bucket, swift, quiet)
	return st, q
}

func TestKilledWorkerIsPickedUpAgain(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	f := newFarm(t, 48)
	st, url, dir := f.st, f.url, f.dir
	first := filepath.Join(dir, "parts", f.output, "test", "000000-24.mp4")
	victim := exec.Command(os.Args[0], "-test.run=^TestWorkerProcess$")
	victim.Env = append(os.Environ(), "PROSCEN_TEST_WORKER="+url, "PROSCEN_TEST_BLOBS="+dir)
	require.NoError(t, victim.Start())
	t.Cleanup(func() { _ = victim.Process.Kill() })
	require.Eventually(t, func() bool { _, err := os.Stat(first); return err == nil }, time.Minute, 5*time.Millisecond, "the first part")
	require.NoError(t, victim.Process.Signal(syscall.SIGKILL))
	_ = victim.Wait()
	kept, err := os.Stat(first)
	require.NoError(t, err, "killed after the first part and before the end")
	o, err := st.Output(ctx, f.output)
	require.NoError(t, err)
	require.Equal(t, store.Rendering, o.State)

	st2, q := work(t, ctx, url, dir)
	defer st2.Close()
	var renewed bool
	require.Eventually(t, func() bool {
		if now, err := os.Stat(first); err == nil && !now.ModTime().Equal(kept.ModTime()) {
			renewed = true
		}
		o, err = st.Output(ctx, f.output)
		return err == nil && o.State == store.Done
	}, 2*time.Minute, 50*time.Millisecond, "another worker finishes it")
	assert.False(t, renewed, "the finished part was not rendered again")
	assert.Equal(t, "320,180,24/1,48", probe(t, filepath.Join(dir, o.File)))
	var running int
	require.Eventually(t, func() bool {
		return st.Pool.QueryRow(ctx, "select count(*) from river_job where kind = 'render_output' and finalized_at is null").Scan(&running) == nil && running == 0
	}, 10*time.Second, 50*time.Millisecond, "no job of a lost worker stays in the queue for ever")
	cancel()
	q.Wait()
}

// A picture whose worker was killed is made by the next one.
func TestTheSmallPictureOfASceneIsNotLost(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	url := pgtest.Database(t)
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	defer st.Close()
	info, err := st.CreateScene(ctx, scenetest.Small())
	require.NoError(t, err)
	queue, err := NewQueue(st, nil, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	require.NoError(t, queue.Cover(ctx, info.ID, 0))
	_, err = st.Pool.Exec(ctx, "update river_job set state = 'running', attempt = 1, attempted_at = now() - interval '2 minutes', attempted_by = '{gone}'")
	require.NoError(t, err)
	st2, q := work(t, ctx, url, t.TempDir())
	defer st2.Close()
	require.Eventually(t, func() bool { _, _, err := st.Cover(ctx, info.ID); return err == nil }, 90*time.Second, 100*time.Millisecond)
	cancel()
	q.Wait()
}
