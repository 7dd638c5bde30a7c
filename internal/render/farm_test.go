package render

import (
	"context"
	"flag"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/demo"
	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var farmFlag = flag.Bool("farm", false, "measure how well workers share a delivery")

// frameTime is how long a frame takes in the simulation: a second for a part.
const frameTime = time.Second / 24

// TestFarm gives deliveries to 1 to 100 workers that sleep instead of rendering; queue,
// database, files and all that shares the work are the real ones. Each delivery has shots
// of 1 to 10 seconds, for each worker twelve parts’ worth of them; one worker of ten is
// half as fast. Efficiency is the time that was slept over the time that workers had.
func TestFarm(t *testing.T) {
	if !*farmFlag {
		t.Skip("only with -farm")
	}
	fmt.Printf("%8s %8s %8s %10s %12s %14s\n", "workers", "outputs", "parts", "wall (s)", "efficiency", "made in vain")
	for _, workers := range []int{1, 3, 10, 30, 100} {
		t.Run(fmt.Sprint(workers), func(t *testing.T) { simulate(t, workers) })
	}
}

func simulate(t *testing.T, workers int) {
	ctx, cancel := context.WithCancel(context.Background())
	random := rand.New(rand.NewPCG(9, uint64(workers)))
	st, err := store.Open(ctx, pgtest.Database(t)+"&pool_max_conns=60")
	require.NoError(t, err)
	defer st.Close()
	dir := t.TempDir()
	bucket, err := blobs.Open(ctx, dir)
	require.NoError(t, err)
	quiet := slog.New(slog.DiscardHandler)

	// The delivery.
	var ranges [][2]int
	frames, at := 0, 0
	for frames < workers*12*mostFrames {
		n := 24 + random.IntN(217)
		ranges = append(ranges, [2]int{at, at + n})
		frames, at = frames+n, at+n
	}
	doc := scenetest.Cut(ranges...)
	doc.Settings.Story.Out = scene.MaxFrame
	info, err := st.CreateScene(ctx, doc)
	require.NoError(t, err)
	d := store.Delivery{SceneID: info.ID, Assembly: "cut", Width: 320, Height: 180, Quality: "check", Rate: "24", Document: []byte(doc.Encode())}
	parts := 0
	for i, r := range ranges {
		n := r[1] - r[0]
		parts += (n + mostFrames - 1) / mostFrames
		id := fmt.Sprintf("s%d", i+1)
		d.Outputs = append(d.Outputs, store.Output{Kind: store.Video, Subject: id, Path: func(int) string { return id }, Ending: "mp4", ShotID: id, ShotNumber: doc.Shots[id].Number, CameraNumber: 1, CameraName: "A", Frames: n})
	}
	queue, err := NewQueue(st, nil, quiet)
	require.NoError(t, err)
	require.NoError(t, st.CreateDelivery(ctx, &d, info, queue.Enqueue))

	var slept, made atomic.Int64
	sleeping := func(speed float64) craft {
		return craft{
			part: func(ctx context.Context, m *making, frames timing.Range) error {
				took := time.Duration(float64(frames.Count()) * float64(frameTime) / speed)
				select {
				case <-time.After(took):
				case <-ctx.Done():
					return ctx.Err()
				}
				slept.Add(int64(took))
				made.Add(1)
				return m.Bucket.PutBytes(ctx, m.key(frames), "video/mp4", fmt.Appendf(nil, "%d-%d ", frames.In, frames.Out))
			},
			join: func(ctx context.Context, m *making) error {
				var all []byte
				for _, p := range m.parts {
					file := filepath.Join(m.dir, "part")
					if err := m.download(ctx, m.key(p), file); err != nil {
						return err
					}
					body, err := os.ReadFile(file)
					if err != nil {
						return err
					}
					all = append(all, body...)
				}
				file := filepath.Join(m.dir, "all")
				if err := os.WriteFile(file, all, 0o600); err != nil {
					return err
				}
				return m.done(ctx, m.o, "video/mp4", file)
			},
		}
	}
	began := time.Now()
	var queues []*Queue
	for i := range workers {
		speed := 1.0
		if i%10 == 9 {
			speed = 0.5
		}
		w := &Worker{Store: st, Bucket: bucket, Threads: 1, Timing: DefaultTiming, Maker: "farm", Log: quiet, craft: sleeping(speed)}
		q, err := newQueue(st, w, quiet, true)
		require.NoError(t, err)
		require.NoError(t, q.Start(ctx))
		queues = append(queues, q)
	}
	require.Eventually(t, func() bool {
		n, err := st.OutputCounts(ctx)
		return err == nil && n[store.Done] == len(ranges)
	}, 5*time.Minute, 50*time.Millisecond, "all outputs are finished")
	wall := time.Since(began)
	fmt.Printf("%8d %8d %8d %10.1f %11.0f%% %14d\n", workers, len(ranges), parts, wall.Seconds(),
		100*time.Duration(slept.Load()).Seconds()/(wall.Seconds()*float64(workers)), int(made.Load())-parts)
	for i, r := range ranges {
		o, err := st.Output(ctx, d.Outputs[i].ID)
		require.NoError(t, err)
		body, err := os.ReadFile(filepath.Join(dir, o.File))
		require.NoError(t, err)
		want := ""
		for _, p := range pieces(timing.Range{Out: r[1] - r[0]}, mostFrames) {
			want += fmt.Sprintf("%d-%d ", p.In, p.Out)
		}
		assert.Equal(t, want, string(body))
	}
	cancel()
	for _, q := range queues {
		q.Wait()
	}
}

// TestTwoAgainstOne renders shots of the demonstration for real, with one thread for each
// worker, by one and by two: all of one shot, and all of twelve.
func TestTwoAgainstOne(t *testing.T) {
	if !*farmFlag {
		t.Skip("only with -farm")
	}
	doc := demo.Scene()
	for _, shots := range [][]string{{"080"}, nil} {
		recipe := scene.Recipe{Name: "farm", Pack: scene.H264, Quality: scene.Check}
		items, err := turnover.Plan(doc, turnover.Order{Each: true, Shots: shots, Size: [2]int{640, 360}}, &recipe)
		require.NoError(t, err)
		took := func(workers int) (seconds float64) {
			ctx, cancel := context.WithCancel(context.Background())
			url, dir := pgtest.Database(t), t.TempDir()
			st, err := store.Open(ctx, url)
			require.NoError(t, err)
			defer st.Close()
			info, err := st.CreateScene(ctx, doc)
			require.NoError(t, err)
			quiet := slog.New(slog.DiscardHandler)
			queue, err := NewQueue(st, nil, quiet)
			require.NoError(t, err)
			d := store.Delivery{SceneID: info.ID, Assembly: items[0].Assembly, Width: 640, Height: 360, Quality: "check", Rate: doc.Settings.Rate.String(), Document: []byte(doc.Encode())}
			for i := range items {
				it := &items[i]
				d.Outputs = append(d.Outputs, store.Output{Kind: store.Video, Subject: it.Shot, Path: func(int) string { return it.Shot }, Ending: "mp4", ShotID: it.Shot, ShotNumber: it.Number, Frames: it.Frames(&recipe)})
			}
			require.NoError(t, st.CreateDelivery(ctx, &d, info, queue.Enqueue))
			bucket, err := blobs.Open(ctx, dir)
			require.NoError(t, err)
			began := time.Now()
			var queues []*Queue
			for range workers {
				q, err := NewQueue(st, &Worker{Store: st, Bucket: bucket, Threads: 1, Timing: DefaultTiming, Maker: "farm", Log: quiet}, quiet)
				require.NoError(t, err)
				require.NoError(t, q.Start(ctx))
				queues = append(queues, q)
			}
			require.Eventually(t, func() bool {
				n, err := st.OutputCounts(ctx)
				return err == nil && n[store.Done] == len(items)
			}, 10*time.Minute, 20*time.Millisecond)
			seconds = time.Since(began).Seconds()
			cancel()
			for _, q := range queues {
				q.Wait()
			}
			return seconds
		}
		one, two := took(1), took(2)
		fmt.Printf("%d outputs: one worker %.1f s, two %.1f s: %.2f times\n", len(items), one, two, one/two)
	}
}
