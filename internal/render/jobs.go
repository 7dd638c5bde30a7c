package render

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"
	"golang.org/x/image/draw"
	"gorm.io/gorm"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
	"proscen/internal/store"
)

// A job works for a while, puts itself back into the queue, and goes on where
// it stopped. So every attempt is short, and a job whose worker has died is
// told from one that is busy by its age alone.
const (
	partPixels  = 24 * 1280 * 720  // pixels in one part, so that each takes seconds
	mostFrames  = 24               // frames in one part
	attemptTime = 20 * time.Second // a job begins no new part after this
	jobTimeout  = 3 * time.Minute  // no single part takes this long
	rescueAfter = jobTimeout + 15*time.Second
	showEvery   = 400 * time.Millisecond
)

// OutputArgs is the job that renders one output.
type OutputArgs struct {
	Output string `json:"output"`
}

// Kind names the job in the queue.
func (OutputArgs) Kind() string { return "render_output" }

// maxAttempts bounds how often an output is tried when something outside fails.
const maxAttempts = 8

// InsertOpts implements river.JobArgsWithInsertOpts.
func (OutputArgs) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: maxAttempts} }

// partFrames returns how many frames one part of a delivery has: fewer of large
// pictures. A finished part is never rendered again.
func partFrames(d *store.Delivery) int {
	pixels := d.Width * d.Height
	if picture.Quality(d.Quality) == picture.Fine {
		pixels *= 4
	}
	return max(1, min(mostFrames, partPixels/max(1, pixels)))
}

// Queue puts outputs into the queue and takes them out.
type Queue struct {
	insert *river.Client[*sql.Tx]
	client *river.Client[pgx.Tx]
}

// Timing is when jobs that died are picked up again; tests shorten it.
type Timing struct{ JobTimeout, RescueAfter time.Duration }

// DefaultTiming is what servers use.
var DefaultTiming = Timing{jobTimeout, rescueAfter}

// NewQueue connects to the queue. With a worker it also works in it once
// started.
func NewQueue(st *store.Store, w *Worker, t Timing, log *slog.Logger) (*Queue, error) {
	insert, err := river.NewClient(riverdatabasesql.New(nil), &river.Config{Logger: log})
	if err != nil {
		return nil, err
	}
	cfg := &river.Config{Logger: log, JobTimeout: t.JobTimeout, RescueStuckJobsAfter: t.RescueAfter, SoftStopTimeout: time.Second, FetchPollInterval: 500 * time.Millisecond}
	if w != nil {
		workers := river.NewWorkers()
		if err := river.AddWorkerSafely(workers, w); err != nil {
			return nil, err
		}
		if err := river.AddWorkerSafely(workers, &coverWorker{store: w.Store, bucket: w.Bucket, threads: w.Threads}); err != nil {
			return nil, err
		}
		cfg.Workers = workers
		cfg.Queues = map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 1}, coverQueue: {MaxWorkers: 1}}
	}
	client, err := river.NewClient(riverpgxv5.New(st.Pool), cfg)
	if err != nil {
		return nil, err
	}
	return &Queue{insert, client}, nil
}

// Start begins to work until ctx ends; Wait waits for the end.
func (q *Queue) Start(ctx context.Context) error { return q.client.Start(ctx) }

// Wait returns when a started queue has stopped.
func (q *Queue) Wait() { <-q.client.Stopped() }

// Enqueue adds an output to the queue inside a GORM transaction.
func (q *Queue) Enqueue(tx *gorm.DB, output string) (int64, error) {
	t, ok := tx.Statement.ConnPool.(*sql.Tx)
	if !ok {
		return 0, errors.New("a job is queued outside of a transaction")
	}
	r, err := q.insert.InsertTx(tx.Statement.Context, t, OutputArgs{output}, nil)
	if err != nil {
		return 0, err
	}
	return r.Job.ID, nil
}

// Cancel stops the jobs of outputs, running or not.
func (q *Queue) Cancel(ctx context.Context, outputs []store.Output) error {
	for _, o := range outputs {
		if _, err := q.client.JobCancel(ctx, o.JobID); err != nil && !errors.Is(err, river.ErrNotFound) {
			return err
		}
	}
	return nil
}

// Worker renders outputs.
type Worker struct {
	river.WorkerDefaults[OutputArgs]
	Store   *store.Store
	Bucket  *blob.Bucket
	Threads int
	Log     *slog.Logger

	delivery store.Delivery // the one worked on last
	doc      *scene.Document
}

// Work renders an output for some time; see attemptTime.
func (w *Worker) Work(ctx context.Context, job *river.Job[OutputArgs]) error {
	wanted, err := w.Store.Begin(ctx, job.Args.Output)
	if err != nil {
		return err
	}
	if !wanted {
		return river.JobCancel(errors.New("the output is finished or cancelled"))
	}
	o, err := w.Store.Output(ctx, job.Args.Output)
	if err != nil {
		return err
	}
	more, err := w.render(ctx, &o)
	switch {
	case err == nil && more:
		return river.JobSnooze(0)
	case err == nil:
		return nil
	case errors.Is(err, errUnwanted), errors.Is(context.Cause(ctx), river.ErrJobCancelledRemotely):
		// Finished parts are kept for a resume.
		return river.JobCancel(errUnwanted)
	case errors.Is(ctx.Err(), context.Canceled):
		return river.JobSnooze(0) // the worker is stopping: the next one goes on
	case job.Attempt < maxAttempts && !lasting(err):
		return err
	}
	w.Log.Error("rendering failed", "output", o.ID, "file", o.File, "error", err)
	o.State, o.Error = store.Failed, err.Error()
	if _, ferr := w.Store.Finish(ctx, o); ferr != nil {
		return errors.Join(err, ferr)
	}
	w.tell(ctx, &o)
	return river.JobCancel(err)
}

// lasting tells errors that trying again soon does not mend.
func lasting(err error) bool {
	return errors.Is(err, ffmpeg.ErrMissing) || errors.Is(err, ErrDiskFull) || errors.Is(err, errInput)
}

// errInput marks a delivery that cannot be rendered as it is.
var errInput = errors.New("the delivery cannot be rendered")

var errUnwanted = errors.New("the output was cancelled")

// prepare loads the delivery's document, unless it is the last one's.
func (w *Worker) prepare(ctx context.Context, id string) error {
	if w.delivery.ID == id {
		return nil
	}
	d, err := w.Store.Delivery(ctx, id)
	if err != nil {
		return err
	}
	doc, err := scene.Decode(d.Document)
	if err != nil {
		return err
	}
	w.delivery, w.doc = d, doc
	return nil
}

func (w *Worker) partKey(o *store.Output, part int) string {
	return fmt.Sprintf("parts/%s/%05d.mp4", o.ID, part)
}

// render works on the parts of an output until it is finished or the attempt's
// time is over (more).
func (w *Worker) render(ctx context.Context, o *store.Output) (more bool, err error) {
	if err := w.prepare(ctx, o.DeliveryID); err != nil {
		return false, err
	}
	d := &w.delivery
	items, err := Plan(w.doc, d.Assembly, []string{o.ShotID})
	if err != nil {
		return false, fmt.Errorf("%w: %w", errInput, err)
	}
	rate, err := timing.ParseRate(d.Rate)
	if err != nil {
		return false, fmt.Errorf("%w: %w", errInput, err)
	}
	dir, err := os.MkdirTemp("", "proscen-render-*")
	if err != nil {
		return false, explain(err, "")
	}
	defer func() { _ = os.RemoveAll(dir) }()

	files, end, err := FilesOf(ctx, w.Bucket, w.doc)
	if errors.Is(err, media.ErrNoModel) {
		return false, fmt.Errorf("%w: %w", errInput, err)
	}
	if err != nil {
		return false, err
	}
	defer end()
	painter, err := picture.NewPainter(w.doc, files, d.Assembly, picture.Form{Width: d.Width, Height: d.Height, Quality: picture.Quality(d.Quality)}, w.Threads)
	if err != nil {
		return false, err
	}
	screen := items[0].Screen
	start, spent := time.Now(), o.Seconds
	each := partFrames(d)
	parts := (screen.Count() + each - 1) / each
	for part := range parts {
		frames := timing.Range{In: screen.In + part*each, Out: min(screen.Out, screen.In+(part+1)*each)}
		there, err := w.Bucket.Exists(ctx, w.partKey(o, part))
		if err != nil {
			return false, explain(err, "")
		}
		if there {
			continue
		}
		if part > 0 && time.Since(start) > attemptTime {
			return true, nil
		}
		if err := w.part(ctx, o, painter, frames, part, rate, dir, func() float64 { return spent + time.Since(start).Seconds() }); err != nil {
			return false, err
		}
	}
	o.Seconds = spent + time.Since(start).Seconds()
	return false, w.finish(ctx, o, parts, rate, dir)
}

// part renders one part and stores it whole.
func (w *Worker) part(ctx context.Context, o *store.Output, p *picture.Painter, frames timing.Range, part int, rate timing.Rate, dir string, seconds func() float64) error {
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	before := part * partFrames(&w.delivery)
	shown := time.Now().Add(-showEvery)
	file := filepath.Join(dir, fmt.Sprintf("%05d.mp4", part))
	err := Encode(ctx, p, frames, rate, file, func(done int, img *image.RGBA) {
		if time.Since(shown) < showEvery && done < frames.Count() {
			return
		}
		shown = time.Now()
		o.FramesDone, o.Seconds = before+done, seconds()
		wanted, err := w.Store.Progress(ctx, o.ID, o.FramesDone, o.Seconds, thumbnail(img))
		if err == nil && !wanted {
			stop(errUnwanted)
		}
		w.tell(ctx, o)
	})
	if err != nil {
		if cause := context.Cause(ctx); errors.Is(cause, errUnwanted) {
			return cause
		}
		return err
	}
	return w.upload(ctx, w.partKey(o, part), file)
}

// upload stores a file as a blob, whole or not at all. A blob that an earlier
// attempt has finished stays as it is.
func (w *Worker) upload(ctx context.Context, key, file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	to, err := w.Bucket.NewWriter(ctx, key, &blob.WriterOptions{ContentType: "video/mp4", IfNotExist: true})
	if err != nil {
		return explain(err, "")
	}
	if _, err := io.Copy(to, f); err != nil {
		stop() // so that Close discards what was written
		_ = to.Close()
		return explain(err, "")
	}
	err = to.Close()
	if gcerrors.Code(err) == gcerrors.FailedPrecondition {
		return nil
	}
	if err != nil {
		return explain(err, "")
	}
	return nil
}

// finish joins the parts under the final name, and writes the manifest when the
// whole delivery is finished.
func (w *Worker) finish(ctx context.Context, o *store.Output, parts int, rate timing.Rate, dir string) error {
	var files []string
	for i := range parts {
		file := filepath.Join(dir, fmt.Sprintf("%05d.mp4", i))
		if _, err := os.Stat(file); err != nil {
			if err := w.download(ctx, w.partKey(o, i), file); err != nil {
				return err
			}
		}
		files = append(files, file)
	}
	joined := filepath.Join(dir, "joined.mp4")
	if err := Join(ctx, files, rate, joined); err != nil {
		return err
	}
	if err := w.upload(ctx, o.File, joined); err != nil {
		return err
	}
	hash := sha256.New()
	size, err := w.hash(ctx, o.File, hash)
	if err != nil {
		return err
	}
	o.State, o.Sha256, o.Bytes, o.FramesDone = store.Done, hex.EncodeToString(hash.Sum(nil)), size, o.Frames
	kept, err := w.Store.Finish(ctx, *o)
	if err != nil {
		return err
	}
	if !kept { // cancelled in the last moment
		_ = w.Bucket.Delete(ctx, o.File)
		return errUnwanted
	}
	w.discard(ctx, o)
	w.tell(ctx, o)
	return w.manifest(ctx, o.DeliveryID)
}

// hash reads a stored blob back, so that the manifest tells what is there.
func (w *Worker) hash(ctx context.Context, key string, to io.Writer) (int64, error) {
	r, err := w.Bucket.NewReader(ctx, key, nil)
	if err != nil {
		return 0, err
	}
	defer func() { _ = r.Close() }()
	return io.Copy(to, r)
}

func (w *Worker) download(ctx context.Context, key, file string) error {
	f, err := os.Create(file)
	if err != nil {
		return explain(err, "")
	}
	if err := w.Bucket.Download(ctx, key, f, nil); err != nil {
		_ = f.Close()
		return explain(err, "")
	}
	return f.Close()
}

// discard removes the parts of an output.
func (w *Worker) discard(ctx context.Context, o *store.Output) {
	each := partFrames(&w.delivery)
	for i := range (o.Frames + each - 1) / each {
		if err := w.Bucket.Delete(ctx, w.partKey(o, i)); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
			w.Log.Warn("a finished part could not be removed", "output", o.ID, "error", err)
			return
		}
	}
}

func (w *Worker) manifest(ctx context.Context, delivery string) error {
	d, err := w.Store.Delivery(ctx, delivery)
	if err != nil {
		return err
	}
	m := ManifestOf(d)
	if len(m.Outputs) < len(d.Outputs) {
		return nil
	}
	body, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return err
	}
	return w.Bucket.WriteAll(ctx, d.Folder+"/manifest.json", append(body, '\n'), &blob.WriterOptions{ContentType: "application/json"})
}

func (w *Worker) tell(ctx context.Context, o *store.Output) {
	said := *o
	said.Picture = nil
	if err := w.Store.Notify(ctx, store.Event{Scene: w.delivery.SceneID, Kind: store.DeliveryEvent, Delivery: o.DeliveryID, Output: &said}); err != nil && ctx.Err() == nil {
		w.Log.Warn("progress could not be told", "error", err)
	}
}

// thumbnail returns a small JPEG of a frame, at most 320 pixels on a side.
func thumbnail(img *image.RGBA) []byte {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	scale := max(1, float64(max(w, h))/320)
	small := image.NewRGBA(image.Rect(0, 0, max(1, int(float64(w)/scale)), max(1, int(float64(h)/scale))))
	draw.ApproxBiLinear.Scale(small, small.Rect, img, img.Rect, draw.Src, nil)
	var b bytes.Buffer
	if jpeg.Encode(&b, small, &jpeg.Options{Quality: 80}) != nil {
		return nil
	}
	return b.Bytes()
}
