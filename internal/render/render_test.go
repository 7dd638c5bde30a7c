package render

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"log/slog"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"proscen/core/curve"
	"proscen/core/raster"
	"proscen/core/scene"
	"proscen/core/scenetest"
	"proscen/core/session"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"
	"proscen/internal/pgtest"
	"proscen/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gocloud.dev/blob/fileblob"
	"gorm.io/gorm"
)

var small = Picture{Width: 96, Height: 54, Quality: Check}

func painter(t *testing.T, doc *scene.Document, p Picture, threads int) *Painter {
	t.Helper()
	out, err := NewPainter(doc, Files{}, "cut", p, threads)
	require.NoError(t, err)
	return out
}

func TestPainterShowsWhatTheSessionSays(t *testing.T) {
	doc := scenetest.Small()
	img, want := image.NewRGBA(image.Rect(0, 0, 96, 54)), image.NewRGBA(image.Rect(0, 0, 96, 54))
	p := painter(t, doc, small, 2)
	s := session.Open(doc, nil)
	r, err := raster.New(96, 54, 1)
	require.NoError(t, err)
	var in raster.Input
	for _, frame := range []int{0, 47, 48, 100} {
		require.NoError(t, p.Frame(frame, img))
		on := &s.OnAir(float64(frame)).Playing[0]
		s.Draws(s.View(on), on.Shot, &in)
		require.NoError(t, r.Render(&in, want))
		assert.True(t, bytes.Equal(want.Pix, img.Pix), "frame %d", frame)
	}
	require.NoError(t, p.Frame(9999, img))
	assert.Equal(t, []byte{0, 0, 0, 255}, img.Pix[:4], "nothing on air is black")
	fine := painter(t, doc, Picture{96, 54, Fine}, 2)
	require.NoError(t, fine.Frame(0, img))
	assert.False(t, bytes.Equal(want.Pix, img.Pix))
}

// TestJoinsAreWhatTheirShotsShow holds the frames of joins against the frames of
// their shots, mixed by hand.
func TestJoinsAreWhatTheirShotsShow(t *testing.T) {
	doc := scenetest.Small()
	for id, s := range doc.Shots {
		s.Head, s.Tail = 24, 24
		doc.PutShot(id, s)
	}
	join := func(j *scene.Join) *Painter {
		s := doc.Shots["s2"]
		s.Join = j
		doc.PutShot("s2", s)
		return painter(t, doc, small, 2)
	}
	frame := func(p *Painter, at int) *image.RGBA {
		im := image.NewRGBA(image.Rect(0, 0, 96, 54))
		require.NoError(t, p.Frame(at, im))
		return im
	}
	// What each shot shows beyond its end, from cuts that let it.
	alone := func(shot string, at int) *image.RGBA {
		only := doc.Clone()
		s := only.Shots[shot]
		s.StoryIn, s.ScreenIn, s.ScreenOut, s.Join = s.StoryAt(float64(at)), at, at+1, nil
		only.Shots = map[string]scene.Shot{shot: s}
		return frame(painter(t, only, small, 1), at)
	}
	mixed := func(a, b *image.RGBA, share float64) (off int) {
		p := frame(join(doc.Shots["s2"].Join), 50)
		for i := range p.Pix {
			want := float64(a.Pix[i])*(1-share) + float64(b.Pix[i])*share
			off = max(off, int(math.Abs(want-float64(p.Pix[i]))+0.5))
		}
		return off
	}
	join(&scene.Join{Kind: scene.Dissolve, Before: 4, After: 8})
	// Frame 50 is the seventh of twelve: 6.5/12 of the way.
	assert.LessOrEqual(t, mixed(alone("s1", 50), alone("s2", 50), 6.5/12), 1)
	white := image.NewRGBA(image.Rect(0, 0, 96, 54))
	for i := range white.Pix {
		white.Pix[i] = 255
	}
	join(&scene.Join{Kind: scene.Dip, Before: 4, After: 8, Color: "#ffffff"})
	assert.LessOrEqual(t, mixed(white, alone("s2", 50), 2.5/8), 1)

	p := join(&scene.Join{Kind: scene.Travels, Before: 4, After: 8, Ease: curve.Even})
	s := session.Open(doc, nil)
	on := &s.OnAir(50).Playing[0]
	require.NotNil(t, on.Between)
	r, err := raster.New(96, 54, 1)
	require.NoError(t, err)
	var in raster.Input
	want := image.NewRGBA(image.Rect(0, 0, 96, 54))
	s.Draws(s.View(on), on.Shot, &in)
	require.NoError(t, r.Render(&in, want))
	travelled := frame(p, 50)
	assert.True(t, bytes.Equal(want.Pix, travelled.Pix))
	assert.False(t, bytes.Equal(alone("s2", 50).Pix, travelled.Pix), "the camera is on its way")
}

func TestStillsStandForCameras(t *testing.T) {
	doc := scenetest.Small()
	doc.Cards["c"] = scene.Card{Name: "c", Title: "Title", Color: "#203040", Ink: "#ffffff"}
	blob := strings.Repeat("ab", 32)
	doc.Boards["b"] = scene.Board{Shot: "s2", Blob: blob, Width: 2, Height: 2}
	doc.Footage["f"] = scene.Footage{Name: "f", Blob: blob, Width: 4, Height: 2, Frames: 9}
	set := func(id string, change func(s *scene.Shot)) {
		s := doc.Shots[id]
		change(&s)
		doc.PutShot(id, s)
	}
	set("s1", func(s *scene.Shot) { s.Plays, s.Card = scene.PlaysCard, "c" })
	set("s2", func(s *scene.Shot) { s.Plays = scene.PlaysBoard })
	set("s3", func(s *scene.Shot) { s.Plays, s.Footage = scene.PlaysFootage, "f" })
	asked := []int{}
	p, err := NewPainter(doc, Files{
		Picture: func(name string) (image.Image, error) {
			assert.Equal(t, blob, name)
			return square(color.RGBA{200, 10, 10, 255}), nil
		},
		Footage: func(_ string, frame int) (image.Image, error) {
			asked = append(asked, frame)
			return square(color.RGBA{10, 200, 10, 255}), nil
		},
	}, "cut", small, 1)
	require.NoError(t, err)
	im := image.NewRGBA(image.Rect(0, 0, 96, 54))
	require.NoError(t, p.Frame(0, im))
	assert.Equal(t, color.RGBA{0x20, 0x30, 0x40, 255}, im.RGBAAt(2, 2), "the card's ground")
	letters := 0
	for i := 0; i < len(im.Pix); i += 4 {
		if im.Pix[i] > 0x50 {
			letters++
		}
	}
	assert.Greater(t, letters, 20, "and its title")
	require.NoError(t, p.Frame(50, im))
	assert.Equal(t, color.RGBA{200, 10, 10, 255}, im.RGBAAt(48, 27), "a square board in the middle")
	assert.Equal(t, color.RGBA{0xe8, 0xe4, 0xda, 255}, im.RGBAAt(5, 27), "on paper")
	require.NoError(t, p.Frame(100, im))
	require.NoError(t, p.Frame(140, im))
	assert.Equal(t, []int{4, 8}, asked, "footage holds its last frame")
	// Without files, cards say what is missing.
	bare := painter(t, doc, small, 1)
	for _, at := range []int{50, 100} {
		require.NoError(t, bare.Frame(at, im))
		assert.Equal(t, color.RGBA{0x2d, 0x40, 0x47, 255}, im.RGBAAt(2, 2))
	}
}

// square is a picture of one colour.
func square(c color.RGBA) image.Image {
	im := image.NewRGBA(image.Rect(0, 0, 8, 8))
	for i := range 64 {
		im.SetRGBA(i%8, i/8, c)
	}
	return im
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
			require.NoError(t, Encode(context.Background(), p, r, rate, file, nil))
			parts = append(parts, file)
		}
		joined := filepath.Join(dir, "joined"+strings.ReplaceAll(rate.String(), "/", "-")+".mp4")
		require.NoError(t, Join(context.Background(), parts, rate, joined))
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
		return file, Encode(ctx, p, timing.Range{In: 0, Out: 48}, timing.Film24, file, nil)
	}
	gone := func(file string) {
		t.Helper()
		_, err := os.Stat(file)
		assert.ErrorIs(t, err, os.ErrNotExist)
	}
	t.Run("disk full", func(t *testing.T) {
		fakeFFmpeg(t, `for f; do :; done; echo half > "$f"; head -c 20000 >/dev/null; echo "av_interleaved_write_frame(): No space left on device" >&2; exit 1`)
		file, err := run(context.Background())
		assert.ErrorIs(t, err, ErrDiskFull)
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

func TestPlanSelectsShots(t *testing.T) {
	doc := scenetest.Small()
	all, err := Plan(doc, "cut", nil)
	require.NoError(t, err)
	assert.Len(t, all, 3)
	some, err := Plan(doc, "cut", []string{"020", "s3"})
	require.NoError(t, err)
	assert.Equal(t, []Item{{"s2", "020", 2, "B", timing.Range{In: 48, Out: 96}}, {"s3", "030", 1, "A", timing.Range{In: 96, Out: 144}}}, some)
	_, err = Plan(doc, "cut", []string{"020", "999"})
	assert.ErrorContains(t, err, "no shot 999")
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

func work(t *testing.T, ctx context.Context, url, dir string) (*store.Store, *Queue) {
	t.Helper()
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	bucket, err := fileblob.OpenBucket(dir, &fileblob.Options{NoTempDir: true, Metadata: fileblob.MetadataDontWrite})
	require.NoError(t, err)
	quiet := slog.New(slog.DiscardHandler)
	q, err := NewQueue(st, &Worker{Store: st, Bucket: bucket, Threads: 2, Log: quiet}, Timing{8 * time.Second, 9 * time.Second}, quiet)
	require.NoError(t, err)
	require.NoError(t, q.Start(ctx))
	return st, q
}

func TestKilledWorkerIsPickedUpAgain(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	url, dir := pgtest.Database(t), t.TempDir()
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	defer st.Close()
	doc := scenetest.Small()
	info, err := st.CreateScene(ctx, doc)
	require.NoError(t, err)
	queue, err := NewQueue(st, nil, DefaultTiming, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	d := store.Delivery{SceneID: info.ID, Assembly: "cut", Width: 320, Height: 180, Quality: "fine", Rate: "24", Document: []byte(doc.Encode())}
	d.Outputs = []store.Output{{ShotID: "s1", ShotNumber: "010", CameraNumber: 1, CameraName: "A", Frames: 48}}
	require.NoError(t, st.CreateDelivery(ctx, &d, info, func(tx *gorm.DB, o string) (int64, error) { return queue.Enqueue(tx, o) }))

	first := filepath.Join(dir, "parts", d.Outputs[0].ID, "00000.mp4")
	victim := exec.Command(os.Args[0], "-test.run=^TestWorkerProcess$")
	victim.Env = append(os.Environ(), "PROSCEN_TEST_WORKER="+url, "PROSCEN_TEST_BLOBS="+dir)
	require.NoError(t, victim.Start())
	require.Eventually(t, func() bool { _, err := os.Stat(first); return err == nil }, time.Minute, 5*time.Millisecond, "the first part")
	require.NoError(t, victim.Process.Signal(syscall.SIGKILL))
	_ = victim.Wait()
	kept, err := os.Stat(first)
	require.NoError(t, err, "killed after the first part and before the end")
	o, err := st.Output(ctx, d.Outputs[0].ID)
	require.NoError(t, err)
	require.Equal(t, store.Rendering, o.State)

	st2, q := work(t, ctx, url, dir)
	defer st2.Close()
	var renewed bool
	require.Eventually(t, func() bool {
		if now, err := os.Stat(first); err == nil && !now.ModTime().Equal(kept.ModTime()) {
			renewed = true
		}
		o, err = st.Output(ctx, d.Outputs[0].ID)
		return err == nil && o.State == store.Done
	}, 2*time.Minute, 50*time.Millisecond, "another worker finishes it")
	assert.False(t, renewed, "the finished part was not rendered again")
	assert.Equal(t, "320,180,24/1,48", probe(t, filepath.Join(dir, o.File)))
	cancel()
	q.Wait()
}
