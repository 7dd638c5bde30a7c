package render

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/internal/blobs"
	"proscen/internal/store"
)

// coverQueue is a queue of its own, so that the small pictures of scenes do not
// wait for deliveries.
const coverQueue = "covers"

// coverWidth and coverHeight bound the small picture of a scene, in pixels.
const coverWidth, coverHeight = 384, 216

// CoverArgs is the job that makes the small picture of a scene.
type CoverArgs struct {
	Scene    string `json:"scene"`
	Revision int    `json:"revision"` // that is wanted; one being made may be of an older one
}

// Kind names the job in the queue.
func (CoverArgs) Kind() string { return "scene_cover" }

// InsertOpts implements river.JobArgsWithInsertOpts: a revision of a
// scene waits once.
func (CoverArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: coverQueue, MaxAttempts: 2, UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
		rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning, rivertype.JobStateScheduled,
	}}}
}

// Cover asks for the small picture of a scene at a revision, or a newer one.
func (q *Queue) Cover(ctx context.Context, scene string, revision int) error {
	_, err := q.client.Insert(ctx, CoverArgs{scene, revision}, nil)
	return err
}

// coverWorker makes the small pictures of scenes.
type coverWorker struct {
	river.WorkerDefaults[CoverArgs]
	store   *store.Store
	bucket  *blobs.Bucket
	threads int
}

// Work makes the picture of a scene as it is now.
func (w *coverWorker) Work(ctx context.Context, job *river.Job[CoverArgs]) error {
	doc, revision, err := w.store.Document(ctx, job.Args.Scene)
	if errors.Is(err, store.ErrNotFound) {
		return river.JobCancel(err)
	}
	if err != nil {
		return err
	}
	jpeg, err := Cover(ctx, w.bucket, doc, w.threads)
	if err != nil {
		return err
	}
	return w.store.KeepCover(ctx, job.Args.Scene, revision, jpeg)
}

// coverTime bounds the making of one picture.
const coverTime = time.Minute

// Timeout implements river.Worker.
func (w *coverWorker) Timeout(*river.Job[CoverArgs]) time.Duration { return coverTime }

// Cover returns a small JPEG of a scene: of its first shot, half a second in; of its
// first camera when there are no shots; and of all that stands there when there are
// no cameras. The document may be changed by it.
func Cover(ctx context.Context, bucket *blobs.Bucket, doc *scene.Document, threads int) ([]byte, error) {
	assembly, at, err := opening(doc)
	if err != nil {
		return nil, err
	}
	f := doc.Formats[doc.Settings.Format]
	scale := min(float64(coverWidth)/float64(f.Width), float64(coverHeight)/float64(f.Height))
	form := picture.Form{Width: even(float64(f.Width) * scale), Height: even(float64(f.Height) * scale), Quality: picture.Check}
	all, err := FilesOf(ctx, bucket, doc)
	if err != nil {
		return nil, err
	}
	files, end := all.Open(ctx)
	defer end()
	p, err := picture.NewPainter(doc, files, assembly, form, threads)
	if err != nil {
		return nil, err
	}
	img := image.NewRGBA(image.Rect(0, 0, form.Width, form.Height))
	if err := p.Frame(at, img); err != nil {
		return nil, err
	}
	return thumbnail(img), nil
}

func even(v float64) int { return max(16, int(v/2+0.5)*2) }

// opening returns an assembly and a screen frame that shows what a scene is; shots
// and cameras are added to the document where it has none.
func opening(doc *scene.Document) (assembly string, at int, err error) {
	n := 0
	s := session.Open(doc, func() string { n++; return fmt.Sprint("cover-", n) })
	if shots := s.Program().Shots(); len(shots) > 0 {
		first := shots[0]
		return s.Assembly(), first.ScreenIn + min(int(doc.Settings.Rate.PerSecond()/2), first.Screen().Count()/2), nil
	}
	do := func(name string, args map[string]any) {
		if err == nil {
			body, _ := json.Marshal(args)
			_, err = s.Run(name, body)
		}
	}
	camera, number := "", 0
	for id, node := range doc.Nodes {
		if node.Camera != nil && !node.Hidden && (camera == "" || node.Camera.Number < number) {
			camera, number = id, node.Camera.Number
		}
	}
	if camera == "" {
		camera = "cover-camera"
		do("cameraAdd", map[string]any{"id": camera, "position": [3]float64{-13, 6.5, 13}, "turn": [3]float64{-37.6, -14.7, 0}, "focal": 28})
	}
	do("assemblyAdd", map[string]any{"id": "cover-cut", "name": "cover"})
	do("shotAppend", map[string]any{"assembly": "cover-cut", "camera": camera, "frames": 1})
	return "cover-cut", 0, err
}
