package render

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"runtime"
	"time"

	"proscen/core/timing"
	"proscen/internal/ffmpeg"
	"proscen/internal/scratch"
	"proscen/internal/store"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
)

// An output is made in parts by the job that it belongs to and by helping jobs. Each takes
// the next part that nobody is at. When all are taken, the output's own job does not wait
// for those that are not there yet: it makes them itself, the last one first, and
// whichever is ready first is used; they are the same to the bit.

// Maker names the version of the program and of its encoder, so that parts are made by
// one of them alone.
func Maker(ctx context.Context) (string, error) {
	hash := sha256.New()
	file, err := os.Executable()
	if err != nil {
		return "", err
	}
	f, err := os.Open(file)
	if err != nil {
		return "", err
	}
	defer func() { _ = f.Close() }()
	if _, err := io.Copy(hash, f); err != nil {
		return "", err
	}
	// Without an encoder that answers there are no videos that could differ.
	ctx, cancel := context.WithTimeout(ctx, 3*time.Second)
	defer cancel()
	said, _ := ffmpeg.Version(ctx)
	_, _ = fmt.Fprintf(hash, "%s %s %s", runtime.GOOS, runtime.GOARCH, said)
	return hex.EncodeToString(hash.Sum(nil))[:16], nil
}

// pieces cuts a range into parts of so many frames, the last one of what is left.
func pieces(all timing.Range, each int) (out []timing.Range) {
	for in := all.In; in < all.Out; in += each {
		out = append(out, timing.Range{In: in, Out: min(all.Out, in+each)})
	}
	return out
}

func (m *making) row(frames timing.Range) store.Part {
	return store.Part{OutputID: m.o.ID, First: frames.In, Frames: frames.Count(), Maker: m.Maker, JobID: m.o.JobID}
}

// all makes parts until all are there or the job's turn is over (more).
func (m *making) all(ctx context.Context) (more bool, err error) {
	defer func() {
		if err != nil {
			m.leave(ctx)
		}
	}()
	began := time.Now()
	m.parts = pieces(timing.Range{Out: m.film.Frames()}, partFrames(&m.film.Item, &m.film.Recipe))
	there, err := m.Bucket.Keys(ctx, m.folder())
	if err != nil {
		return false, err
	}
	known, err := m.Store.PartsOf(ctx, m.o.ID, m.Maker, m.Timing.Silent)
	if err != nil {
		return false, err
	}
	for _, p := range m.parts {
		if known[p.In].Done && !there[m.last(p)] {
			if err := m.Store.PartGone(ctx, m.o.ID, p.In); err != nil {
				return false, err
			}
		}
	}
	for n := 0; ; n++ {
		if known, err = m.Store.PartsOf(ctx, m.o.ID, m.Maker, m.Timing.Silent); err != nil {
			return false, err
		}
		var left []timing.Range
		m.made = 0
		for _, p := range m.parts {
			if there[m.last(p)] || known[p.In].Done {
				m.made += p.Count()
			} else {
				left = append(left, p)
			}
		}
		if len(left) == 0 {
			return false, nil
		}
		if n > 0 && time.Since(began) > m.Timing.Turn {
			return true, nil
		}
		if n == 0 {
			m.call(ctx, m.seat, len(left))
		}
		next, free, err := m.next(ctx, left, known)
		if err != nil {
			return false, err
		}
		if m.helps && !free {
			return false, nil
		}
		if err := m.part(ctx, next); err != nil {
			return false, err
		}
		there[m.last(next)] = true // also when it is another one's still
	}
}

// next takes the first part that nobody is at; when there is none, it is the last one,
// of somebody else.
func (m *making) next(ctx context.Context, left []timing.Range, known map[int]store.Part) (p timing.Range, free bool, err error) {
	for _, p := range left {
		if k, taken := known[p.In]; taken && k.JobID != m.o.JobID {
			continue
		}
		if mine, err := m.Store.ClaimPart(ctx, m.row(p), m.Timing.Silent); err != nil || mine {
			return p, mine, err
		}
	}
	return left[len(left)-1], false, nil
}

// helpArgs is a job that helps to make an output. Seats are numbered, so that no more
// are taken than there are parts: who takes seat n offers 2n+1 and 2n+2.
type helpArgs struct {
	Output string `json:"output" river:"unique"`
	Seat   int    `json:"seat" river:"unique"`
}

// Kind names the job in the queue.
func (helpArgs) Kind() string { return "render_help" }

// InsertOpts implements river.JobArgsWithInsertOpts: one job for each seat, after all
// that is not help.
func (helpArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Priority: store.HelpPriority, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
		rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning, rivertype.JobStateScheduled,
	}}}
}

// call offers the seats below one, as far as there are parts for them. Without help the
// output is made too, so nothing is lost when that fails.
func (m *making) call(ctx context.Context, seat, parts int) {
	client, err := river.ClientFromContextSafely[pgx.Tx](ctx)
	if err != nil {
		return
	}
	for _, below := range []int{2*seat + 1, 2*seat + 2} {
		if below >= parts {
			return
		}
		if _, err := client.Insert(ctx, helpArgs{m.o.ID, below}, nil); err != nil && ctx.Err() == nil {
			m.Log.Warn("no help could be called", "output", m.o.ID, "error", err)
		}
	}
}

// helper makes parts of outputs of other jobs.
type helper struct {
	river.WorkerDefaults[helpArgs]
	w *Worker
}

// Timeout implements river.Worker: none, as a job says that it lives.
func (h *helper) Timeout(*river.Job[helpArgs]) time.Duration { return -1 }

// Work helps for a turn. What goes wrong is said by the output's own job, when it comes
// to that part.
func (h *helper) Work(ctx context.Context, job *river.Job[helpArgs]) error {
	wanted, err := h.w.Store.Helped(ctx, job.Args.Output, h.w.Maker, job.ID)
	if err != nil || !wanted {
		return err
	}
	o, err := h.w.Store.Output(ctx, job.Args.Output)
	if err != nil || !o.Film() {
		return err
	}
	o.JobID = job.ID
	working, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	go h.w.beat(working, stop, func() (bool, error) { return h.w.Store.Helped(working, o.ID, h.w.Maker, job.ID) })
	d, err := h.w.delivery(working, o.DeliveryID)
	if err != nil {
		return err
	}
	more, err := h.help(working, &o, d, job.Args.Seat)
	if err != nil && context.Cause(working) == nil {
		h.w.Log.Warn("helping with an output failed", "output", o.ID, "error", err)
	}
	if more && ctx.Err() == nil {
		return river.JobSnooze(0)
	}
	return nil
}

func (h *helper) help(ctx context.Context, o *store.Output, d *prepared, seat int) (more bool, err error) {
	dir, err := scratch.Folder("render")
	if err != nil {
		return false, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	files, end := d.files.Open(ctx)
	defer end()
	film, err := h.w.film(o, d, files)
	if err != nil {
		return false, err
	}
	m := making{Worker: h.w, o: o, d: d, film: film, dir: dir, form: formOf(film), helps: true, seat: seat}
	m.seconds = func() float64 { return 0 }
	return m.all(ctx)
}
