package store

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"proscen/core/naming"
)

// State is how far an output is.
type State string

// The states of an output.
const (
	Waiting   State = "waiting"
	Rendering State = "rendering"
	Done      State = "done"
	Failed    State = "failed"
	Cancelled State = "cancelled"
)

// States are all states of an output.
var States = []State{Waiting, Rendering, Done, Failed, Cancelled}

// Delivery is a batch of outputs made from one revision of a scene.
type Delivery struct {
	ID            string
	SceneID       string
	Number        int
	Revision      int
	Assembly      string
	Width, Height int
	Quality       string
	Rate          string
	Folder        string // where its outputs are, in the blob store
	Document      jsonb
	Recipe        jsonb // null for sheets
	Manifest      bool  // it lies in the store
	Paused        bool  // it was stopped, to go on some time
	At            time.Time
	Outputs       []Output `gorm:"-"`
}

// Kinds of outputs whose frames are those of an item. The other kinds are those of
// sheets, which show all shots of an assembly: a picture each counts as a frame.
const (
	Video    = "video"
	Picture  = "picture"  // one
	Pictures = "pictures" // a folder of numbered ones
)

// Film tells whether an output shows the frames of an item.
func (o *Output) Film() bool { return o.Kind == Video || o.Kind == Picture || o.Kind == Pictures }

// Output is one file of a delivery, or a folder of numbered pictures.
type Output struct {
	ID           string
	DeliveryID   string
	Position     int
	Kind         string
	Path         func(version int) string `gorm:"-" json:"-"` // below the delivery's folder, without ending
	Ending       string                   `gorm:"-"`          // "" for a folder
	Subject      string                   // what its versions are counted of
	Item         jsonb
	Print        string
	Same         string // id of the one of its delivery whose frames it has, "" when it was made for itself
	Beside       jsonb  // a list of Extra
	ShotID       string
	ShotNumber   string
	CameraNumber int
	CameraName   string
	Version      int
	File         string
	State        State
	Error        string
	Frames       int
	FramesDone   int
	Seconds      float64
	Sha256       string
	Bytes        int64
	Picture      []byte
	JobID        int64
	BeatAt       *time.Time // when its worker last said that it lives; nil when nobody is at it
	Losses       int        // how often in a row its worker was lost
	Parts        bool       // parts of it may lie in the store
	First        bool       // before those that are not
	Maker        string     // the version of the program that makes it
}

// Extra is a file besides the one that an output is called by: where it lies, and what
// it holds.
type Extra struct {
	File   string `json:"file"`
	Sha256 string `json:"sha256"`
	Bytes  int64  `json:"bytes"`
}

// fields of an output without its picture.
var outputFields = []string{
	"id", "delivery_id", "position", "kind", "shot_id", "shot_number", "camera_number", "camera_name", "version", "file", "state",
	"error", "frames", "frames_done", "seconds", "sha256", "bytes", "job_id", "beat_at", "losses", "parts",
	"subject", "item", "print", "same", "beside", "first", "maker",
}

// TableName implements GORM's schema naming.
func (Delivery) TableName() string { return "deliveries" }

// TableName implements GORM's schema naming.
func (Output) TableName() string { return "outputs" }

// Enqueue puts outputs into the queue inside a transaction and returns their jobs.
type Enqueue func(tx *gorm.DB, outputs []Output) (jobs []int64, err error)

// CreateDelivery stores a delivery with its outputs. It gives the delivery its
// id, number and folder and the outputs their ids, versions and files. Enqueue
// is called once, inside the same transaction.
func (s *Store) CreateDelivery(ctx context.Context, d *Delivery, info SceneInfo, enqueue Enqueue) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row sceneRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&row, "id = ?", d.SceneID).Error; err != nil {
			return missing(err, "scene")
		}
		if err := tx.Model(&Delivery{}).Where("scene_id = ?", d.SceneID).Select("coalesce(max(number), 0) + 1").Scan(&d.Number).Error; err != nil {
			return err
		}
		d.ID, d.At = NewID(), time.Now().UTC().Truncate(time.Microsecond)
		if d.Recipe == nil {
			d.Recipe = jsonb("null")
		}
		d.Folder = naming.Folder(info.Production, info.Title, d.SceneID, d.Number)
		if err := tx.Create(d).Error; err != nil {
			return err
		}
		versions, err := lastVersions(tx, d)
		if err != nil {
			return err
		}
		names := naming.Names{}
		for i := range d.Outputs {
			o := &d.Outputs[i]
			o.ID, o.DeliveryID, o.Position, o.State, o.Version, o.Parts = NewID(), d.ID, i, Waiting, versions[o.Subject]+1, true
			o.File = d.Folder + "/" + names.Free(o.Path(o.Version), o.Ending)
			if o.Item == nil {
				o.Item = jsonb("null")
			}
			o.Beside = jsonb("[]")
		}
		jobs, err := enqueue(tx, d.Outputs)
		if err != nil {
			return err
		}
		for i := range d.Outputs {
			d.Outputs[i].JobID = jobs[i]
		}
		if err := tx.CreateInBatches(d.Outputs, 500).Error; err != nil {
			return err
		}
		return s.announce(tx, Event{Scene: d.SceneID, Kind: DeliveryEvent, Delivery: d.ID})
	})
}

// lastVersions returns the newest version of each subject of a delivery that was
// delivered before.
func lastVersions(tx *gorm.DB, d *Delivery) (map[string]int, error) {
	subjects := make([]string, len(d.Outputs))
	for i, o := range d.Outputs {
		subjects[i] = o.Subject
	}
	var rows []struct {
		Subject string
		Version int
	}
	err := tx.Table("outputs").Joins("join deliveries on deliveries.id = outputs.delivery_id").
		Where("deliveries.scene_id = ? and outputs.subject in ?", d.SceneID, subjects).
		Select("outputs.subject, max(outputs.version) as version").Group("outputs.subject").Scan(&rows).Error
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.Subject] = r.Version
	}
	return out, err
}

// Deliveries lists deliveries of a scene with their outputs, newest first, without
// documents: so many, and only those before a number unless that is 0.
func (s *Store) Deliveries(ctx context.Context, sceneID string, before, limit int) ([]Delivery, error) {
	var out []Delivery
	query := s.db.WithContext(ctx).Omit("document").Where("scene_id = ?", sceneID).Order("number desc").Limit(limit)
	if before > 0 {
		query = query.Where("number < ?", before)
	}
	if err := query.Find(&out).Error; err != nil || len(out) == 0 {
		return out, err
	}
	ids := make([]string, len(out))
	for i := range out {
		ids[i] = out[i].ID
	}
	var rows []Output
	err := s.db.WithContext(ctx).Select(outputFields).Where("delivery_id in ?", ids).Order("delivery_id, position").Find(&rows).Error
	putInto(out, rows)
	return out, err
}

// Newest lists the deliveries of a scene, newest first, each with only those outputs
// that are the newest of what they show.
func (s *Store) Newest(ctx context.Context, sceneID string) ([]Delivery, error) {
	var rows []Output
	err := s.db.WithContext(ctx).Raw(`select distinct on (o.subject) `+strings.Join(prefixed("o.", outputFields), ", ")+`
		from outputs o join deliveries d on d.id = o.delivery_id where d.scene_id = ? and o.kind in ?
		order by o.subject, d.number desc, o.position`, sceneID, []string{Video, Picture, Pictures}).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	in := map[string]bool{}
	for _, r := range rows {
		in[r.DeliveryID] = true
	}
	var out []Delivery
	err = s.db.WithContext(ctx).Omit("document").Where("id in ?", slices.Collect(maps.Keys(in))).Order("number desc").Find(&out).Error
	putInto(out, rows)
	return out, err
}

// putInto puts outputs into their deliveries.
func putInto(list []Delivery, rows []Output) {
	at := map[string]*Delivery{}
	for i := range list {
		at[list[i].ID] = &list[i]
	}
	for _, r := range rows {
		if d := at[r.DeliveryID]; d != nil {
			d.Outputs = append(d.Outputs, r)
		}
	}
}

// Delivery returns one delivery with its document and outputs.
func (s *Store) Delivery(ctx context.Context, id string) (Delivery, error) {
	var d Delivery
	if err := s.db.WithContext(ctx).Take(&d, "id = ?", id).Error; err != nil {
		return d, missing(err, "delivery")
	}
	err := s.db.WithContext(ctx).Select(outputFields).Where("delivery_id = ?", id).Order("position").Find(&d.Outputs).Error
	return d, err
}

// Output returns one output with its picture.
func (s *Store) Output(ctx context.Context, id string) (Output, error) {
	var o Output
	return o, missing(s.db.WithContext(ctx).Take(&o, "id = ?", id).Error, "output")
}

// An output belongs to the job that its row names: whatever another one has to say of
// it, because it was taken for lost and has come back, is not heard.

// unfinished are the states of what is still to be made.
var unfinished = []State{Waiting, Rendering}

// own selects an output that is still to be made, for the job that it belongs to.
func (s *Store) own(ctx context.Context, id string, job int64, states ...State) *gorm.DB {
	return own(s.db.WithContext(ctx), id, job, states)
}

func own(tx *gorm.DB, id string, job int64, states []State) *gorm.DB {
	return tx.Model(&Output{}).Where("id = ? and job_id = ? and state in ?", id, job, states)
}

// Begin marks an output as being rendered by a job of a version of the program, and
// reports whether that is to render it: not when it is finished, cancelled or another
// one's.
func (s *Store) Begin(ctx context.Context, id string, job int64, maker string) (bool, error) {
	r := s.own(ctx, id, job, unfinished...).Updates(map[string]any{"state": Rendering, "error": "", "beat_at": gorm.Expr("now()"), "maker": maker, "maker_at": gorm.Expr("now()")})
	return r.RowsAffected > 0, r.Error
}

// Beat says that the job of an output lives, and reports whether the output is still
// wanted of it.
func (s *Store) Beat(ctx context.Context, id string, job int64) (bool, error) {
	if err := s.beatParts(ctx, id, job); err != nil {
		return false, err
	}
	r := s.own(ctx, id, job, Rendering).Updates(map[string]any{"beat_at": gorm.Expr("now()"), "maker_at": gorm.Expr("now()")})
	return r.RowsAffected > 0, r.Error
}

// changed changes an output and tells browsers of it, in one step: what is told comes
// in the order in which it happened. It reports whether the output was the job's.
func (s *Store) changed(ctx context.Context, o *Output, states []State, to map[string]any) (was bool, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		r := own(tx, o.ID, o.JobID, states).Updates(to)
		if was = r.RowsAffected > 0; r.Error != nil || !was {
			return r.Error
		}
		var d Delivery
		if err := tx.Select("id", "scene_id").Take(&d, "id = ?", o.DeliveryID).Error; err != nil {
			return missing(err, "delivery")
		}
		said := *o
		said.Picture = nil
		return s.announce(tx, Event{Scene: d.SceneID, Kind: DeliveryEvent, Delivery: d.ID, Output: &said})
	})
	return was, err
}

// Progress notes how far a rendering output is and its newest picture (nil
// keeps the last), and reports whether it is still wanted.
func (s *Store) Progress(ctx context.Context, o *Output, picture []byte) (bool, error) {
	change := map[string]any{"frames_done": o.FramesDone, "seconds": o.Seconds, "beat_at": gorm.Expr("now()")}
	if picture != nil {
		change["picture"] = picture
	}
	return s.changed(ctx, o, []State{Rendering}, change)
}

// Yield says that the job of an output stops for now: it, or another attempt of it,
// goes on later. Why is a sentence, "" when only its turn is over.
func (s *Store) Yield(ctx context.Context, id string, job int64, why string) error {
	change := map[string]any{"beat_at": nil}
	if why != "" {
		change["state"], change["error"] = Waiting, why
	}
	return s.own(ctx, id, job, unfinished...).Updates(change).Error
}

// Finish stores the end of an output: Done with hash and size, or Failed with a
// sentence. An output that was cancelled meanwhile, or was given to another job,
// stays as it is; Finish then reports false.
func (s *Store) Finish(ctx context.Context, o *Output) (bool, error) {
	return s.changed(ctx, o, unfinished, map[string]any{
		"state": o.State, "error": o.Error, "sha256": o.Sha256, "bytes": o.Bytes, "print": o.Print, "same": o.Same, "beside": o.besides(), "frames_done": o.FramesDone, "seconds": o.Seconds, "beat_at": nil,
	})
}

// Alike notes the print of an output that is begun, and returns a video of the same delivery
// with the same one: finished, or one that comes first and is being made by the same version
// of the program, whose worker was heard of within a time or has only let others have a turn. It returns nil when there is none.
func (s *Store) Alike(ctx context.Context, o *Output, silent time.Duration) (*Output, error) {
	if _, err := s.changed(ctx, o, []State{Rendering}, map[string]any{"print": o.Print}); err != nil {
		return nil, err
	}
	var all []Output
	err := s.db.WithContext(ctx).Where("delivery_id = ? and id <> ? and kind = ? and print = ? and print <> ''", o.DeliveryID, o.ID, Video, o.Print).
		Where("(state = ? or state = ? and position < ? and maker = ? and (beat_at is null or beat_at > now() - make_interval(secs => ?)))", Done, Rendering, o.Position, o.Maker, silent.Seconds()).
		Order("position").Limit(1).Find(&all).Error
	if err != nil || len(all) == 0 {
		return nil, err
	}
	return &all[0], nil
}

// besides is what the column holds.
func (o *Output) besides() jsonb {
	if o.Beside == nil {
		return jsonb("[]")
	}
	return o.Beside
}

// Unwanted calls remove while an output is cancelled, and sees to it that it stays so
// until remove is done. It does nothing for others.
func (s *Store) Unwanted(ctx context.Context, id string, remove func() error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var o Output
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Select(outputFields).Take(&o, "id = ?", id).Error; err != nil {
			return missing(err, "output")
		}
		if o.State != Cancelled {
			return nil
		}
		return remove()
	})
}

// Cancel marks everything of a delivery that is not finished as cancelled. Whoever
// renders it hears of it with the next beat.
func (s *Store) Cancel(ctx context.Context, delivery string, pause bool) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := paused(tx, delivery, pause); err != nil {
			return err
		}
		err := tx.Model(&Output{}).Where("delivery_id = ? and state in ?", delivery, unfinished).
			Updates(map[string]any{"state": Cancelled, "beat_at": nil}).Error
		if err != nil {
			return err
		}
		return s.tellOf(tx, delivery)
	})
}

// paused notes whether a delivery that is stopped is to go on some time.
func paused(tx *gorm.DB, delivery string, is bool) error {
	return tx.Model(&Delivery{}).Where("id = ?", delivery).Update("paused", is).Error
}

// Resume queues what was cancelled or failed of a delivery again.
func (s *Store) Resume(ctx context.Context, delivery string, enqueue Enqueue) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := paused(tx, delivery, false); err != nil {
			return err
		}
		var rows []Output
		err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Select(outputFields).
			Where("delivery_id = ? and state in ?", delivery, []State{Cancelled, Failed}).Order("position").Find(&rows).Error
		if err != nil {
			return err
		}
		for i := range rows {
			rows[i].Losses = 0
		}
		if err := again(tx, rows, enqueue); err != nil {
			return err
		}
		return s.tellOf(tx, delivery)
	})
}

// First lets what is still to be made of a delivery be made before others.
func (s *Store) First(ctx context.Context, delivery string) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		err := tx.Model(&Output{}).Where("delivery_id = ?", delivery).Update("first", true).Error
		if err != nil {
			return err
		}
		err = tx.Exec(`update river_job set priority = ? where finalized_at is null
			and id in (select job_id from outputs where delivery_id = ? and state in ?)`, FirstPriority, delivery, unfinished).Error
		if err != nil {
			return err
		}
		return s.tellOf(tx, delivery)
	})
}

// Priorities of jobs in the queue: lower numbers go first.
const (
	FirstPriority = 1
	UsualPriority = 2
	HelpPriority  = 4 // only what has nothing else to do
)

// again gives outputs to new jobs.
func again(tx *gorm.DB, rows []Output, enqueue Enqueue) error {
	if len(rows) == 0 {
		return nil
	}
	jobs, err := enqueue(tx, rows)
	if err != nil {
		return err
	}
	for i, o := range rows {
		err := tx.Model(&Output{}).Where("id = ?", o.ID).
			Updates(map[string]any{"state": Waiting, "error": "", "job_id": jobs[i], "losses": o.Losses, "beat_at": nil}).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// tellOf tells browsers that something of a delivery has changed.
func (s *Store) tellOf(tx *gorm.DB, delivery string) error {
	var d Delivery
	if err := tx.Select("id", "scene_id").Take(&d, "id = ?", delivery).Error; err != nil {
		return missing(err, "delivery")
	}
	return s.announce(tx, Event{Scene: d.SceneID, Kind: DeliveryEvent, Delivery: d.ID})
}

// MostLosses is how often in a row an output loses its worker before it is given up.
const MostLosses = 8

// Lost gives outputs whose job died to new ones: those whose worker has not said for
// a while that it lives, and those whose job the queue has given up. One that loses
// its worker again and again without a part being finished fails. It returns how many
// were lost.
func (s *Store) Lost(ctx context.Context, silent time.Duration, enqueue Enqueue) (int, error) {
	var rows []Output
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		after := gorm.Expr("now() - make_interval(secs => ?)", silent.Seconds())
		err := tx.Raw(`select `+strings.Join(prefixed("o.", outputFields), ", ")+` from outputs o left join river_job j on j.id = o.job_id
			where o.state in ('waiting', 'rendering') and (
				o.beat_at < ?
				or j.id is null or j.state in ('cancelled', 'discarded', 'completed')
				or o.beat_at is null and j.state = 'running' and j.attempted_at < ?)
			order by o.delivery_id, o.position limit 500 for update of o skip locked`, after, after).Scan(&rows).Error
		if err != nil {
			return err
		}
		var more []Output
		told := map[string]bool{}
		jobs := make([]int64, 0, len(rows))
		for _, o := range rows {
			told[o.DeliveryID] = true
			jobs = append(jobs, o.JobID)
			if o.Losses++; o.Losses < MostLosses {
				more = append(more, o)
				continue
			}
			err := tx.Model(&Output{}).Where("id = ?", o.ID).Updates(map[string]any{"state": Failed, "beat_at": nil, "losses": o.Losses, "error": fmt.Sprintf(
				"What rendered this ended %d times at the same place, perhaps for want of memory; its log may say more. Resume tries it again.", MostLosses)}).Error
			if err != nil {
				return err
			}
		}
		if err := again(tx, more, enqueue); err != nil {
			return err
		}
		if len(jobs) > 0 { // nobody ends them any more
			err := tx.Exec("update river_job set state = 'cancelled', finalized_at = now() where id in ? and finalized_at is null", jobs).Error
			if err != nil {
				return err
			}
		}
		for _, d := range slices.Sorted(maps.Keys(told)) {
			if err := s.tellOf(tx, d); err != nil {
				return err
			}
		}
		return nil
	})
	return len(rows), err
}

func prefixed(with string, names []string) []string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = with + n
	}
	return out
}

// Unlisted returns the deliveries of which everything is finished and whose manifest
// has not been written.
func (s *Store) Unlisted(ctx context.Context) ([]string, error) {
	var ids []string
	err := s.db.WithContext(ctx).Raw(`select d.id from deliveries d where not d.manifest
		and not exists (select 1 from outputs o where o.delivery_id = d.id and o.state <> 'done')`).Scan(&ids).Error
	return ids, err
}

// Listed notes that the manifest of a delivery lies in the store.
func (s *Store) Listed(ctx context.Context, delivery string) error {
	return s.db.WithContext(ctx).Model(&Delivery{}).Where("id = ?", delivery).Update("manifest", true).Error
}

// Parted returns finished outputs whose parts may still lie in the store.
func (s *Store) Parted(ctx context.Context) ([]string, error) {
	var ids []string
	err := s.db.WithContext(ctx).Model(&Output{}).Where("parts and state = ?", Done).Limit(500).Pluck("id", &ids).Error
	return ids, err
}

// DoneOf returns those of some outputs that are finished.
func (s *Store) DoneOf(ctx context.Context, ids []string) (done []string, err error) {
	for some := range slices.Chunk(ids, 1000) {
		var of []string
		err = s.db.WithContext(ctx).Model(&Output{}).Where("id in ? and state = ?", some, Done).Pluck("id", &of).Error
		if err != nil {
			return nil, err
		}
		done = append(done, of...)
	}
	return done, nil
}

// Discarded notes that the parts of a finished output have been removed. It stays among
// those of Parted as long as somebody lives who has not heard that it is finished, and
// may store a part still.
func (s *Store) Discarded(ctx context.Context, id string, silent time.Duration) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		err := tx.Where("output_id = ? and (done or beat_at < now() - make_interval(secs => ?))", id, silent.Seconds()).Delete(&Part{}).Error
		if err != nil {
			return err
		}
		return tx.Model(&Output{}).Where("id = ? and state = ?", id, Done).
			Update("parts", gorm.Expr("exists (select from parts where output_id = ?)", id)).Error
	})
}

// OutputCounts counts the outputs of all deliveries by state.
func (s *Store) OutputCounts(ctx context.Context) (map[State]int, error) {
	var rows []struct {
		State State
		N     int
	}
	err := s.db.WithContext(ctx).Model(&Output{}).Select("state, count(*) as n").Group("state").Scan(&rows).Error
	out := map[State]int{}
	for _, r := range rows {
		out[r.State] = r.N
	}
	return out, err
}
