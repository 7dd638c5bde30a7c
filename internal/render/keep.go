package render

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"time"

	"proscen/core/turnover"
	"proscen/internal/blobs"
	"proscen/internal/scratch"
	"proscen/internal/store"
)

// Keep mends what stops and losses have left, at once and then again and again until
// ctx ends: outputs whose worker is lost are given to another, manifests are written,
// parts and temporary files removed. Any number of programs may do so at once.
func (q *Queue) Keep(ctx context.Context, st *store.Store, bucket *blobs.Bucket, t Timing, log *slog.Logger) {
	every := time.NewTicker(t.Look)
	defer every.Stop()
	swept := false
	for {
		if !swept {
			err := sweep(ctx, st, bucket)
			if swept = err == nil; !swept && ctx.Err() == nil {
				log.Warn("what programs before have left could not be looked for, trying again", "error", err)
			}
		}
		if err := q.mend(ctx, st, bucket, t, log); err != nil && ctx.Err() == nil {
			log.Warn("what a stop has left could not be mended, trying again", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-every.C:
		}
	}
}

func (q *Queue) mend(ctx context.Context, st *store.Store, bucket *blobs.Bucket, t Timing, log *slog.Logger) error {
	lost, err := st.Lost(ctx, t.Silent, q.Enqueue)
	if lost > 0 {
		log.Warn("outputs had lost their worker", "outputs", lost)
	}
	err = errors.Join(err, scratch.Tidy(), bucket.Tidy())
	unlisted, failed := st.Unlisted(ctx)
	err = errors.Join(err, failed)
	for _, id := range unlisted {
		err = errors.Join(err, list(ctx, st, bucket, id))
	}
	parted, failed := st.Parted(ctx)
	err = errors.Join(err, failed)
	for _, id := range parted {
		err = errors.Join(err, discard(ctx, st, bucket, id, t))
	}
	return err
}

// discard removes the parts of a finished output.
func discard(ctx context.Context, st *store.Store, bucket *blobs.Bucket, output string, t Timing) error {
	if err := bucket.DeleteAll(ctx, partsOf(output)); err != nil {
		return err
	}
	return st.Discarded(ctx, output, t.Silent)
}

// sweep removes the parts that workers have left who were killed just when they came to
// know that others had finished their output.
func sweep(ctx context.Context, st *store.Store, bucket *blobs.Bucket) error {
	outputs, err := bucket.Folders(ctx, partsFolder)
	if err != nil {
		return err
	}
	return discardAny(ctx, st, bucket, outputs)
}

// discardAny removes the parts of those of some outputs that are finished.
func discardAny(ctx context.Context, st *store.Store, bucket *blobs.Bucket, outputs []string) error {
	done, err := st.DoneOf(ctx, outputs)
	for _, id := range done {
		err = errors.Join(err, bucket.DeleteAll(ctx, partsOf(id)))
	}
	return err
}

// list writes the manifest of a delivery, unless something of it is not finished.
func list(ctx context.Context, st *store.Store, bucket *blobs.Bucket, delivery string) error {
	d, err := st.Delivery(ctx, delivery)
	if err != nil {
		return err
	}
	m := ManifestOf(d)
	if len(m.Outputs) < len(d.Outputs) || len(d.Outputs) == 0 {
		return nil
	}
	if !d.Outputs[0].Film() { // a sheet is a list itself
		return st.Listed(ctx, delivery)
	}
	body, err := m.Encode()
	if err != nil {
		return err
	}
	papers, err := papersOf(d, m)
	if err != nil {
		return err
	}
	switch sheet, err := Contact(ctx, bucket, &d); {
	case err == nil:
		papers = append(papers, turnover.Paper{Name: ContactSheet, Data: sheet})
	case !errors.Is(err, ErrStills):
		return err
	}
	for _, p := range append(papers, turnover.Paper{Name: "manifest.json", Data: body}) {
		if err := bucket.Put(ctx, d.Folder+"/"+p.Name, MediaType(p.Name), bytes.NewReader(p.Data)); err != nil {
			return err
		}
	}
	return st.Listed(ctx, delivery)
}
