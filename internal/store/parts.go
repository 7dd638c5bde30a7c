package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Several workers make one output: the job that it belongs to, which joins the parts in
// the end, and others that help. Each part is one worker's as long as that lives. All
// parts are made by one version of the program, so that they fit each other to the bit.

// Part is a part of an output that is being made, or has been.
type Part struct {
	OutputID string
	First    int // frame
	Frames   int
	Maker    string // the version of the program
	JobID    int64
	BeatAt   time.Time
	Done     bool
}

// anotherVersion is for how long an output is left to the version that was last at it.
const anotherVersion = time.Minute

// Elsewhere tells whether another version of the program is at an output.
func (s *Store) Elsewhere(ctx context.Context, id, maker string) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&Output{}).
		Where("id = ? and maker not in ('', ?) and maker_at > now() - make_interval(secs => ?)", id, maker, anotherVersion.Seconds()).Count(&n).Error
	return n > 0, err
}

// Helped reports whether a version of the program can help to make an output, and says
// that the parts of a helping job are being made still.
func (s *Store) Helped(ctx context.Context, id, maker string, job int64) (bool, error) {
	if err := s.beatParts(ctx, id, job); err != nil {
		return false, err
	}
	var n int64
	err := s.db.WithContext(ctx).Model(&Output{}).Where("id = ? and state = ? and maker = ?", id, Rendering, maker).Count(&n).Error
	return n > 0, err
}

func (s *Store) beatParts(ctx context.Context, id string, job int64) error {
	return s.db.WithContext(ctx).Model(&Part{}).Where("output_id = ? and job_id = ? and not done", id, job).Update("beat_at", gorm.Expr("now()")).Error
}

// PartsOf lists the parts of an output that a version of the program makes or has made:
// those that are done, and those whose worker lives.
func (s *Store) PartsOf(ctx context.Context, id, maker string, silent time.Duration) (map[int]Part, error) {
	var rows []Part
	err := s.db.WithContext(ctx).Where("output_id = ? and maker = ? and (done or beat_at > now() - make_interval(secs => ?))", id, maker, silent.Seconds()).Find(&rows).Error
	out := make(map[int]Part, len(rows))
	for _, p := range rows {
		out[p.First] = p
	}
	return out, err
}

// ClaimPart gives a part to a job, unless another one that lives has it or has made it.
func (s *Store) ClaimPart(ctx context.Context, p Part, silent time.Duration) (bool, error) {
	r := s.db.WithContext(ctx).Exec(`insert into parts as p (output_id, first, frames, maker, job_id, beat_at) values (?, ?, ?, ?, ?, now())
		on conflict (output_id, first) do update set frames = excluded.frames, maker = excluded.maker, job_id = excluded.job_id, beat_at = now(), done = false
		where p.maker <> excluded.maker or not p.done and (p.job_id = excluded.job_id or p.beat_at < now() - make_interval(secs => ?))`,
		p.OutputID, p.First, p.Frames, p.Maker, p.JobID, silent.Seconds())
	return r.RowsAffected > 0, r.Error
}

// PartDone notes that a job's part lies in the store, and reports whether its output is
// finished already, by those who did not wait for it.
func (s *Store) PartDone(ctx context.Context, p Part) (late bool, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Model(&Part{}).Where("output_id = ? and first = ? and maker = ? and job_id = ?", p.OutputID, p.First, p.Maker, p.JobID).Update("done", true).Error; err != nil {
			return err
		}
		r := tx.Model(&Output{}).Where("id = ? and state = ?", p.OutputID, Rendering).Updates(map[string]any{"losses": 0, "parts": true})
		if r.Error != nil || r.RowsAffected > 0 {
			return r.Error
		}
		var n int64
		err := tx.Model(&Output{}).Where("id = ? and state = ?", p.OutputID, Done).Count(&n).Error
		late = n > 0
		return err
	})
	return late, err
}

// PartGone notes that a part that was done does not lie in the store.
func (s *Store) PartGone(ctx context.Context, id string, first int) error {
	return s.db.WithContext(ctx).Where("output_id = ? and first = ? and done", id, first).Delete(&Part{}).Error
}
