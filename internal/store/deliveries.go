package store

import (
	"context"
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
	At            time.Time
	Outputs       []Output `gorm:"-"`
}

// Output is one video of a delivery.
type Output struct {
	ID           string
	DeliveryID   string
	Position     int
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
}

// fields of an output without its picture.
var outputFields = []string{
	"id", "delivery_id", "position", "shot_id", "shot_number", "camera_number", "camera_name", "version", "file", "state",
	"error", "frames", "frames_done", "seconds", "sha256", "bytes", "job_id",
}

// TableName implements GORM's schema naming.
func (Delivery) TableName() string { return "deliveries" }

// TableName implements GORM's schema naming.
func (Output) TableName() string { return "outputs" }

// CreateDelivery stores a delivery with its outputs. It gives the delivery its
// id, number and folder and the outputs their ids, versions and files. Enqueue
// is called for each output inside the same transaction and returns the job.
func (s *Store) CreateDelivery(ctx context.Context, d *Delivery, info SceneInfo, enqueue func(tx *gorm.DB, output string) (int64, error)) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row sceneRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&row, "id = ?", d.SceneID).Error; err != nil {
			return missing(err, "scene")
		}
		if err := tx.Model(&Delivery{}).Where("scene_id = ?", d.SceneID).Select("coalesce(max(number), 0) + 1").Scan(&d.Number).Error; err != nil {
			return err
		}
		d.ID, d.At = NewID(), time.Now().UTC()
		d.Folder = naming.Folder(info.Production, info.Title, d.SceneID, d.Number)
		if err := tx.Create(d).Error; err != nil {
			return err
		}
		for i := range d.Outputs {
			o := &d.Outputs[i]
			o.ID, o.DeliveryID, o.Position, o.State = NewID(), d.ID, i, Waiting
			err := tx.Table("outputs").Joins("join deliveries on deliveries.id = outputs.delivery_id").
				Where("deliveries.scene_id = ? and outputs.shot_id = ?", d.SceneID, o.ShotID).
				Select("coalesce(max(outputs.version), 0) + 1").Scan(&o.Version).Error
			if err != nil {
				return err
			}
			o.File = d.Folder + "/" + naming.Versioned(naming.Shot(info.Title, o.ShotNumber, o.CameraNumber), o.Version, "mp4")
			if o.JobID, err = enqueue(tx, o.ID); err != nil {
				return err
			}
			if err := tx.Create(o).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// Deliveries lists the deliveries of a scene with their outputs, newest first,
// without documents.
func (s *Store) Deliveries(ctx context.Context, sceneID string) ([]Delivery, error) {
	var out []Delivery
	err := s.db.WithContext(ctx).Omit("document").Where("scene_id = ?", sceneID).Order("number desc").Limit(200).Find(&out).Error
	if err != nil || len(out) == 0 {
		return out, err
	}
	ids := make([]string, len(out))
	at := map[string]*Delivery{}
	for i := range out {
		ids[i] = out[i].ID
		at[out[i].ID] = &out[i]
	}
	var rows []Output
	err = s.db.WithContext(ctx).Select(outputFields).Where("delivery_id in ?", ids).Order("delivery_id, position").Find(&rows).Error
	for _, r := range rows {
		d := at[r.DeliveryID]
		d.Outputs = append(d.Outputs, r)
	}
	return out, err
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

// Begin marks an output as being rendered, unless it is finished or cancelled,
// and reports whether it is to be rendered.
func (s *Store) Begin(ctx context.Context, id string) (bool, error) {
	r := s.db.WithContext(ctx).Model(&Output{}).Where("id = ? and state in ?", id, []State{Waiting, Rendering}).
		Updates(map[string]any{"state": Rendering, "error": ""})
	return r.RowsAffected > 0, r.Error
}

// Progress notes how far a rendering output is and its newest picture (nil
// keeps the last), and reports whether it is still wanted.
func (s *Store) Progress(ctx context.Context, id string, done int, seconds float64, picture []byte) (bool, error) {
	change := map[string]any{"frames_done": done, "seconds": seconds}
	if picture != nil {
		change["picture"] = picture
	}
	r := s.db.WithContext(ctx).Model(&Output{}).Where("id = ? and state = ?", id, Rendering).Updates(change)
	return r.RowsAffected > 0, r.Error
}

// Finish stores the end of an output: Done with hash and size, or Failed with a
// sentence. An output that was cancelled meanwhile stays cancelled; Finish then
// reports false.
func (s *Store) Finish(ctx context.Context, o Output) (bool, error) {
	r := s.db.WithContext(ctx).Model(&Output{}).Where("id = ? and state in ?", o.ID, []State{Waiting, Rendering}).
		Updates(map[string]any{"state": o.State, "error": o.Error, "sha256": o.Sha256, "bytes": o.Bytes, "frames_done": o.FramesDone, "seconds": o.Seconds})
	return r.RowsAffected > 0, r.Error
}

// Cancel marks everything of a delivery that is not finished as cancelled and
// returns the outputs it changed.
func (s *Store) Cancel(ctx context.Context, delivery string) ([]Output, error) {
	var rows []Output
	err := s.db.WithContext(ctx).Model(&rows).Clauses(clause.Returning{}).Where("delivery_id = ? and state in ?", delivery, []State{Waiting, Rendering}).
		Update("state", Cancelled).Error
	return rows, err
}

// Resume queues what was cancelled or failed of a delivery again.
func (s *Store) Resume(ctx context.Context, delivery string, enqueue func(tx *gorm.DB, output string) (int64, error)) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var rows []Output
		err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Select(outputFields).
			Where("delivery_id = ? and state in ?", delivery, []State{Cancelled, Failed}).Order("position").Find(&rows).Error
		if err != nil {
			return err
		}
		for _, o := range rows {
			job, err := enqueue(tx, o.ID)
			if err != nil {
				return err
			}
			if err := tx.Model(&Output{}).Where("id = ?", o.ID).Updates(map[string]any{"state": Waiting, "error": "", "job_id": job}).Error; err != nil {
				return err
			}
		}
		return nil
	})
}
