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
	"runtime/debug"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"golang.org/x/image/draw"
	"gorm.io/gorm"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
	"proscen/internal/scratch"
	"proscen/internal/store"
)

// A job works for a while, puts itself back into the queue, and goes on where
// it stopped, so that every delivery has its turn. While it works it says that it
// lives; when it no longer does, the output is given to another job (see Keep).
const (
	partPixels    = 24 * 1280 * 720  // pixels in one part, so that each takes seconds
	mostFrames    = 24               // frames in one part
	fewFrames     = 12               // at least: each part begins with a key frame, which is large
	stalledTime   = 10 * time.Minute // no single frame takes this long
	showEvery     = 400 * time.Millisecond
	elsewhereTime = 5 * time.Second // how long an output that another version makes is left alone
	maxAttempts   = 8               // how often an output is tried when something outside fails
)

// OutputArgs is the job that renders one output.
type OutputArgs struct {
	Output string `json:"output"`
}

// Kind names the job in the queue.
func (OutputArgs) Kind() string { return "render_output" }

// sheetQueue is a queue of its own, so that sheets do not wait for videos.
const sheetQueue = "sheets"

// InsertOpts implements river.JobArgsWithInsertOpts.
func (OutputArgs) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: maxAttempts} }

// partFrames returns how many frames one part of an output has: fewer of large
// pictures. A finished part is never rendered again.
func partFrames(i *turnover.Item, r *scene.Recipe) int {
	pixels := i.Width * i.Height
	if r.Quality == picture.Fine {
		pixels *= 4
	}
	return max(fewFrames, min(mostFrames, partPixels/max(1, pixels)))
}

// Queue puts outputs into the queue and takes them out.
type Queue struct {
	insert *river.Client[*sql.Tx]
	client *river.Client[pgx.Tx]
}

// Timing is how a lost worker is noticed; tests shorten it.
type Timing struct {
	Beat   time.Duration // how often a worker says that it lives
	Silent time.Duration // who has not for so long is lost
	Look   time.Duration // how often that is looked for, and what a stop left is mended
	Turn   time.Duration // a job begins no second part after this
}

// DefaultTiming is what servers use: a lost worker is noticed within 15 seconds.
var DefaultTiming = Timing{Beat: 3 * time.Second, Silent: 10 * time.Second, Look: 4 * time.Second, Turn: 20 * time.Second}

// NewQueue connects to the queue. With a worker it also works in it once
// started.
func NewQueue(st *store.Store, w *Worker, log *slog.Logger) (*Queue, error) {
	return newQueue(st, w, log, false)
}

// newQueue is NewQueue; one that polls does without a connection of its own on which it
// hears of new jobs.
func newQueue(st *store.Store, w *Worker, log *slog.Logger, polls bool) (*Queue, error) {
	insert, err := river.NewClient(riverdatabasesql.New(nil), &river.Config{Logger: log})
	if err != nil {
		return nil, err
	}
	// The queue's own rescue is for the small pictures of scenes: outputs have no time
	// limit, and it leaves those alone. See Keep.
	cfg := &river.Config{Logger: log, RescueStuckJobsAfter: coverTime + 15*time.Second, SoftStopTimeout: time.Second, FetchPollInterval: 500 * time.Millisecond, PollOnly: polls}
	if w != nil {
		workers := river.NewWorkers()
		if err := river.AddWorkerSafely(workers, w); err != nil {
			return nil, err
		}
		if err := river.AddWorkerSafely(workers, &helper{w: w}); err != nil {
			return nil, err
		}
		if err := river.AddWorkerSafely(workers, &coverWorker{store: w.Store, bucket: w.Bucket, threads: w.Threads}); err != nil {
			return nil, err
		}
		cfg.Workers = workers
		cfg.Queues = map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 1}, coverQueue: {MaxWorkers: 1}, sheetQueue: {MaxWorkers: 1}}
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

// Enqueue adds outputs to the queue; it is a store.Enqueue.
func (q *Queue) Enqueue(tx *gorm.DB, outputs []store.Output) ([]int64, error) {
	t, ok := tx.Statement.ConnPool.(*sql.Tx)
	if !ok {
		return nil, errors.New("a job is queued outside of a transaction")
	}
	many := make([]river.InsertManyParams, len(outputs))
	for i, o := range outputs {
		many[i].Args = OutputArgs{o.ID}
		many[i].InsertOpts = &river.InsertOpts{Priority: store.UsualPriority}
		if o.First {
			many[i].InsertOpts.Priority = store.FirstPriority
		}
		if !o.Film() {
			many[i].InsertOpts.Queue = sheetQueue
		}
	}
	done, err := q.insert.InsertManyTx(tx.Statement.Context, t, many)
	if err != nil {
		return nil, err
	}
	jobs := make([]int64, len(done))
	for i, r := range done {
		jobs[i] = r.Job.ID
	}
	return jobs, nil
}

// Worker renders outputs.
type Worker struct {
	river.WorkerDefaults[OutputArgs]
	Store   *store.Store
	Bucket  *blobs.Bucket
	Threads int
	Timing  Timing
	Maker   string // the version of the program; only what one version has made is put together
	Log     *slog.Logger

	last  *prepared // whose videos were worked on last
	craft craft
}

// craft is how parts are made and put together; the zero value does both for real.
type craft struct {
	part func(ctx context.Context, m *making, frames timing.Range) error
	join func(ctx context.Context, m *making) error
}

// prepared is a delivery that is being worked on.
type prepared struct {
	store.Delivery
	doc    *scene.Document
	recipe scene.Recipe
	files  Files
}

// formOf is how an output is packed.
func formOf(f *turnover.Film) Form {
	return Form{f.Recipe.Pack, f.Recipe.Quality, f.Rate()}
}

// NextRetry implements river.Worker: soon at first, as what fails is most often
// over in a moment.
func (w *Worker) NextRetry(job *river.Job[OutputArgs]) time.Time {
	return time.Now().Add(min(time.Minute, time.Second<<(job.Attempt-1)))
}

// Timeout implements river.Worker: none, as a job says that it lives.
func (w *Worker) Timeout(*river.Job[OutputArgs]) time.Duration { return -1 }

// Work renders an output for its turn.
func (w *Worker) Work(ctx context.Context, job *river.Job[OutputArgs]) error {
	elsewhere, err := w.Store.Elsewhere(ctx, job.Args.Output, w.Maker)
	if err != nil {
		return err
	}
	if elsewhere { // what that version has made does not fit what this one makes
		return river.JobSnooze(elsewhereTime)
	}
	wanted, err := w.Store.Begin(ctx, job.Args.Output, job.ID, w.Maker)
	if err != nil {
		return err
	}
	if !wanted {
		return river.JobCancel(errUnwanted)
	}
	o, err := w.Store.Output(ctx, job.Args.Output)
	if err != nil {
		return err
	}
	o.JobID = job.ID
	working, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	go w.beat(working, stop, func() (bool, error) { return w.Store.Beat(working, job.Args.Output, job.ID) })
	more, err := w.make(working, &o)
	if cause := context.Cause(working); err != nil && errors.Is(cause, errUnwanted) || errors.Is(cause, errStalled) {
		err = cause
	}
	stop(nil)
	// What has to be said now is said also when the turn was ended from outside.
	saying, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	switch {
	case errors.Is(err, errUnwanted):
		// Finished parts are kept for a resume.
		return river.JobCancel(errUnwanted)
	case err == nil && !more:
		return nil
	case errors.Is(err, errComing):
		return errors.Join(w.Store.Yield(saying, o.ID, o.JobID, ""), river.JobSnooze(comingTime))
	case err == nil, ctx.Err() != nil: // its turn is over, or the worker stops: it goes on later
		return errors.Join(w.Store.Yield(saying, o.ID, o.JobID, ""), river.JobSnooze(0))
	case job.Attempt < maxAttempts && !lasting(err):
		return errors.Join(err, w.Store.Yield(saying, o.ID, o.JobID, err.Error()))
	}
	w.Log.Error("rendering failed", "output", o.ID, "file", o.File, "error", err)
	o.State, o.Error = store.Failed, err.Error()
	if _, ferr := w.Store.Finish(saying, &o); ferr != nil {
		return errors.Join(err, ferr)
	}
	return river.JobCancel(err)
}

// beat says until ctx ends that a job lives, and stops it when its output is no longer
// wanted of it. A database that does not answer is waited for.
func (w *Worker) beat(ctx context.Context, stop context.CancelCauseFunc, lives func() (wanted bool, err error)) {
	every := time.NewTicker(w.Timing.Beat)
	defer every.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-every.C:
			if wanted, err := lives(); err == nil && !wanted && ctx.Err() == nil {
				stop(errUnwanted)
			}
		}
	}
}

// lasting tells errors that trying again soon does not mend.
func lasting(err error) bool {
	return errors.Is(err, ffmpeg.ErrMissing) || errors.Is(err, blobs.ErrFull) || errors.Is(err, scratch.ErrFull) || errors.Is(err, errInput)
}

// comingTime is how long is waited for what another job makes for two.
const comingTime = time.Second

// errInput marks a delivery that cannot be rendered as it is.
var errInput = errors.New("the delivery cannot be rendered")

var (
	errUnwanted = errors.New("the output is finished, cancelled or given to another worker")
	errComing   = errors.New("another output that is being made will have the same frames")
	errStalled  = fmt.Errorf("no frame came for %d minutes", int(stalledTime.Minutes()))
)

// make makes an output, or some of it (more).
func (w *Worker) make(ctx context.Context, o *store.Output) (more bool, err error) {
	defer func() {
		if broken := recover(); broken != nil {
			w.Log.Error("the renderer broke", "output", o.ID, "why", broken, "at", string(debug.Stack()))
			err = fmt.Errorf("%w: the renderer broke on it, and the log says where", errInput)
		}
	}()
	if !o.Film() {
		return false, w.sheet(ctx, o)
	}
	d, err := w.delivery(ctx, o.DeliveryID)
	if err != nil {
		return false, err
	}
	return w.render(ctx, o, d)
}

// delivery is prepare, but for the one that was worked on last.
func (w *Worker) delivery(ctx context.Context, id string) (*prepared, error) {
	if w.last == nil || w.last.ID != id {
		w.last = nil
		d, err := w.prepare(ctx, id)
		if err != nil {
			return nil, err
		}
		w.last = d
	}
	return w.last, nil
}

// prepare reads a delivery with all it needs.
func (w *Worker) prepare(ctx context.Context, id string) (*prepared, error) {
	d, err := w.Store.Delivery(ctx, id)
	if err != nil {
		return nil, err
	}
	p := &prepared{Delivery: d}
	if p.doc, err = scene.Decode(d.Document); err != nil {
		return nil, fmt.Errorf("%w: %w", errInput, err)
	}
	if p.recipe, err = recipeOf(&d); err != nil {
		return nil, fmt.Errorf("%w: %w", errInput, err)
	}
	p.files, err = FilesOf(ctx, w.Bucket, p.doc)
	if errors.Is(err, media.ErrNoModel) {
		return nil, fmt.Errorf("%w: %w", errInput, err)
	}
	if err != nil {
		return nil, err
	}
	return p, nil
}

// partsFolder holds a folder for each output of which there are parts.
const partsFolder = "parts"

func partsOf(output string) string { return partsFolder + "/" + output }

// recipeOf returns how a delivery is made. Those of before there were recipes say it
// themselves.
func recipeOf(d *store.Delivery) (r scene.Recipe, err error) {
	if string(d.Recipe) == "null" || d.Recipe == nil {
		return scene.Recipe{Name: d.Quality, Pack: scene.H264, Quality: scene.Quality(d.Quality), Joined: true}, nil
	}
	err = json.Unmarshal(d.Recipe, &r)
	return r, err
}

// itemOf returns what an output shows.
func itemOf(o *store.Output, d *prepared) (i turnover.Item, err error) {
	if string(o.Item) != "null" {
		err = json.Unmarshal(o.Item, &i)
		return i, err
	}
	all, err := turnover.Plan(d.doc, turnover.Order{Assemblies: []string{d.Assembly}, Shots: []string{o.ShotID}, Each: true, Size: [2]int{d.Width, d.Height}}, &d.recipe)
	if err != nil {
		return i, err
	}
	return all[0], nil
}

// film prepares the frames of an output.
func (w *Worker) film(o *store.Output, d *prepared, files picture.Files) (*turnover.Film, error) {
	item, err := itemOf(o, d)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errInput, err)
	}
	f, err := turnover.NewFilm(d.doc, files, item, d.recipe, turnover.Facts{Version: o.Version, Date: d.At}, w.Threads)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errInput, err)
	}
	return f, nil
}

// render works on the parts of an output until it is finished or its turn is over
// (more).
func (w *Worker) render(ctx context.Context, o *store.Output, d *prepared) (more bool, err error) {
	dir, err := scratch.Folder("render")
	if err != nil {
		return false, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	files, end := d.files.Open(ctx)
	defer end()
	film, err := w.film(o, d, files)
	if err != nil {
		return false, err
	}
	m := making{Worker: w, o: o, d: d, film: film, dir: dir, form: formOf(film)}
	began, spent := time.Now(), o.Seconds
	m.seconds = func() float64 { return spent + time.Since(began).Seconds() }
	if same, err := m.same(ctx); err != nil || same {
		return false, err
	}
	if more, err := m.all(ctx); err != nil || more {
		return more, err
	}
	o.Seconds = m.seconds()
	if o.Print == "" {
		o.Print = film.Print(func() bool { return ctx.Err() == nil })
	}
	switch {
	case w.craft.join != nil:
		return false, w.craft.join(ctx, &m)
	case m.form.Pack.Numbered():
		return false, m.gather(ctx)
	}
	return false, m.join(ctx)
}

// show tells how far an output is, and reports whether it is still wanted.
func (w *Worker) show(ctx context.Context, o *store.Output, img *image.RGBA) bool {
	wanted, err := w.Store.Progress(ctx, o, thumbnail(img))
	return err != nil || wanted
}

// done puts a finished file under its final name, and tells that the output is.
func (w *Worker) done(ctx context.Context, o *store.Output, kind, file string) error {
	if err := w.Bucket.PutFile(ctx, o.File, kind, file); err != nil {
		return err
	}
	kept, err := w.extra(ctx, o.File)
	if err != nil {
		return err
	}
	o.Sha256, o.Bytes = kept.Sha256, kept.Bytes
	return w.finished(ctx, o)
}

// extra returns what lies in the store under a key: it is read back, so that the
// manifest tells what is there.
func (w *Worker) extra(ctx context.Context, key string) (store.Extra, error) {
	hash := sha256.New()
	size, err := w.hash(ctx, key, hash)
	return store.Extra{File: key, Sha256: hex.EncodeToString(hash.Sum(nil)), Bytes: size}, err
}

// finished tells that an output is, all of whose files lie in the store, and writes the
// manifest when the whole delivery is.
func (w *Worker) finished(ctx context.Context, o *store.Output) error {
	o.State, o.FramesDone = store.Done, o.Frames
	kept, err := w.Store.Finish(ctx, o)
	if err != nil {
		return err
	}
	if !kept { // cancelled in the last moment, or finished by another one meanwhile
		err := w.Store.Unwanted(ctx, o.ID, func() error { return w.remove(ctx, o) })
		if err != nil && ctx.Err() == nil {
			w.Log.Warn("the files of a cancelled output could not be removed", "file", o.File, "error", err)
		}
		return errUnwanted
	}
	// What does not succeed of this is done by Keep.
	if err := discard(ctx, w.Store, w.Bucket, o.ID, w.Timing); err != nil {
		w.Log.Warn("finished parts could not be removed, they will be later", "output", o.ID, "error", err)
	}
	if err := list(ctx, w.Store, w.Bucket, o.DeliveryID); err != nil {
		w.Log.Warn("the manifest could not be written, it will be later", "delivery", o.DeliveryID, "error", err)
	}
	return nil
}

// remove removes all files of an output.
func (w *Worker) remove(ctx context.Context, o *store.Output) error {
	if o.Kind == store.Pictures {
		return w.Bucket.DeleteAll(ctx, o.File)
	}
	var beside []store.Extra
	err := json.Unmarshal(o.Beside, &beside)
	for _, e := range beside {
		err = errors.Join(err, w.Bucket.Delete(ctx, e.File))
	}
	return errors.Join(err, w.Bucket.Delete(ctx, o.File))
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
		return scratch.Full(err)
	}
	if err := w.Bucket.Download(ctx, key, f, nil); err != nil {
		_ = f.Close()
		return scratch.Full(err)
	}
	return f.Close()
}

// thumbnail returns a small JPEG of a frame, at most 320 pixels on a side.
func thumbnail(img *image.RGBA) []byte { return shrunk(img, 320) }

// shrunk returns a JPEG of a picture with no side over so many pixels.
func shrunk(img *image.RGBA, most int) []byte {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	scale := max(1, float64(max(w, h))/float64(most))
	small := image.NewRGBA(image.Rect(0, 0, max(1, int(float64(w)/scale)), max(1, int(float64(h)/scale))))
	draw.ApproxBiLinear.Scale(small, small.Rect, img, img.Rect, draw.Src, nil)
	var b bytes.Buffer
	if jpeg.Encode(&b, small, &jpeg.Options{Quality: 80}) != nil {
		return nil
	}
	return b.Bytes()
}
