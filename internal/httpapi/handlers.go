package httpapi

import (
	"context"
	"errors"

	"proscen/core/naming"
	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/internal/demo"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
	"proscen/internal/production"
	"proscen/internal/render"
	"proscen/internal/sheets"
	"proscen/internal/store"
)

var _ StrictServerInterface = (*API)(nil)

// GetHealth tells whether the server can work.
func (a *API) GetHealth(ctx context.Context, _ GetHealthRequestObject) (GetHealthResponseObject, error) {
	h := Health{Status: "ok", Database: "ok", Ffmpeg: "ok"}
	if err := a.Store.Ping(ctx); err != nil {
		h.Status, h.Database = "failing", "does not answer"
	}
	if _, err := ffmpeg.Path(); err != nil {
		h.Ffmpeg = err.Error()
	}
	if h.Status != "ok" {
		return GetHealth503JSONResponse(h), nil
	}
	return GetHealth200JSONResponse(h), nil
}

func sceneInfo(i store.SceneInfo) SceneInfo {
	return SceneInfo{
		Id: i.ID, Production: i.Production, Title: i.Title, Revision: i.Revision, Shots: i.Shots, Frames: i.Frames, Rate: i.Rate,
		Cast: i.CastCount, Cameras: i.Cameras, EditedAt: i.EditedAt, EditedBy: i.EditedBy, Archived: i.Archived,
		BinnedAt: i.BinnedAt, Pictured: i.Pictured,
	}
}

// ListScenes lists all scenes.
func (a *API) ListScenes(ctx context.Context, _ ListScenesRequestObject) (ListScenesResponseObject, error) {
	all, err := a.Store.Scenes(ctx)
	if err != nil {
		return nil, err
	}
	out := make(ListScenes200JSONResponse, len(all))
	for i, s := range all {
		out[i] = sceneInfo(s)
	}
	return out, nil
}

// CreateScene stores a document, or an empty scene, under a production and a
// title.
func (a *API) CreateScene(ctx context.Context, r CreateSceneRequestObject) (CreateSceneResponseObject, error) {
	doc, err := a.begin(ctx, r.Body)
	if err != nil {
		return nil, err
	}
	info, err := a.Store.CreateScene(ctx, doc)
	if err != nil {
		return nil, err
	}
	return CreateScene201JSONResponse(sceneInfo(info)), nil
}

// begin returns what a new scene begins with: its document, or a start at a rate with
// what its production has for it.
func (a *API) begin(ctx context.Context, b *NewScene) (doc *scene.Document, err error) {
	named := func() error {
		doc.Settings.Production, doc.Settings.Title = b.Production, b.Title
		if p := doc.Validate(); len(p) > 0 {
			return p
		}
		return nil
	}
	if len(b.Document) > 0 {
		doc, err = scene.Decode(b.Document)
		var problems scene.Problems
		switch {
		case errors.As(err, &problems):
			return nil, problems
		case err != nil:
			return nil, badInput(err)
		}
		return doc, named()
	}
	if b.Like != nil {
		if doc, _, err = a.Store.Document(ctx, *b.Like); err != nil {
			return nil, err
		}
		return doc, named()
	}
	start, rate := demo.StartEmpty, given(b.Rate)
	if b.Start != nil {
		start = demo.Start(*b.Start)
	}
	// Once without the production: it is made only for what can be made.
	if doc, err = demo.Begin(start, rate); err != nil {
		return nil, badInput(err)
	}
	if err := named(); err != nil {
		return nil, err
	}
	if start == demo.StartDemo {
		// Its kits are shared in the production that it comes from, and its own in others.
		if b.Production == demo.Production {
			if err := production.Share(ctx, a.Store, doc); err != nil {
				return nil, err
			}
		}
		return doc, demo.Files(ctx, a.Bucket, doc)
	}
	if rate == "" {
		if rate, err = production.Rate(ctx, a.Store, b.Production); err != nil {
			return nil, err
		}
		if doc, err = demo.Begin(start, rate); err != nil {
			return nil, err
		}
	}
	if err := named(); err != nil {
		return nil, err
	}
	return doc, production.Begin(ctx, a.Store, doc)
}

// GetScene returns a scene with its document.
func (a *API) GetScene(ctx context.Context, r GetSceneRequestObject) (GetSceneResponseObject, error) {
	err := errors.Join(production.Say(ctx, a.Store, "", r.Scene), production.Bring(ctx, a.Store, r.Scene))
	if err != nil { // it can be worked on all the same
		a.Log.Warn("a scene could not take what its production shares", "scene", r.Scene, "error", err)
	}
	doc, revision, err := a.Store.Scene(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	return GetScene200JSONResponse{Id: r.Scene, Revision: revision, Document: doc}, nil
}

// GetFacts tells what is known of a scene besides its document.
func (a *API) GetFacts(ctx context.Context, r GetFactsRequestObject) (GetFactsResponseObject, error) {
	doc, _, err := a.Store.Document(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	out := GetFacts200JSONResponse{Bytes: int64(doc.Weight().Bytes), Files: []KnownFile{}}
	for _, f := range media.FilesOf(doc) {
		size, err := media.SizeOf(ctx, a.Bucket, f)
		if err != nil {
			return nil, err
		}
		out.Files = append(out.Files, KnownFile{Kind: string(f.Kind), Blob: f.Blob, Bytes: size, For: f.For})
	}
	return out, nil
}

func output(o store.Output) Output {
	out := Output{
		Id: o.ID, Kind: OutputKind(o.Kind), Shot: o.ShotID, Number: o.ShotNumber, Camera: o.CameraNumber, CameraName: o.CameraName, Version: o.Version,
		File: o.File, State: OutputState(o.State), Frames: o.Frames, FramesDone: o.FramesDone, Seconds: new(float32(o.Seconds)),
	}
	if o.Error != "" {
		out.Error = &o.Error
	}
	if o.Sha256 != "" {
		out.Sha256, out.Bytes = &o.Sha256, &o.Bytes
	}
	return out
}

func delivery(d store.Delivery) Delivery {
	out := Delivery{
		Id: d.ID, Scene: d.SceneID, Number: d.Number, Revision: d.Revision, Width: d.Width, Height: d.Height,
		Rate: d.Rate, Quality: Quality(d.Quality), At: d.At, Outputs: make([]Output, len(d.Outputs)),
	}
	for i, o := range d.Outputs {
		out.Outputs[i] = output(o)
	}
	return out
}

// ListDeliveries lists a scene's deliveries.
func (a *API) ListDeliveries(ctx context.Context, r ListDeliveriesRequestObject) (ListDeliveriesResponseObject, error) {
	before, limit := 0, 50
	if r.Params.Before != nil {
		before = *r.Params.Before
	}
	if r.Params.Limit != nil {
		limit = *r.Params.Limit
	}
	var all []store.Delivery
	var err error
	if r.Params.Newest != nil && *r.Params.Newest {
		all, err = a.Store.Newest(ctx, r.Scene)
	} else {
		all, err = a.Store.Deliveries(ctx, r.Scene, before, limit)
	}
	if err != nil {
		return nil, err
	}
	out := make(ListDeliveries200JSONResponse, len(all))
	for i, d := range all {
		out[i] = delivery(d)
	}
	return out, nil
}

// CreateDelivery queues the outputs of a delivery.
func (a *API) CreateDelivery(ctx context.Context, r CreateDeliveryRequestObject) (CreateDeliveryResponseObject, error) {
	doc, revision, err := a.Store.Document(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	if id := r.Body.Format; id != nil && *id != doc.Settings.Format {
		if _, ok := doc.Formats[*id]; !ok {
			return nil, badInput(errors.New("the scene has no such format any more; choose another one"))
		}
		doc.Settings.Format = *id
	}
	d := store.Delivery{SceneID: r.Scene, Revision: revision, Assembly: r.Body.Assembly, Rate: doc.Settings.Rate.String()}
	if r.Body.Sheet != nil {
		err = sheet(&d, doc, sheets.Kind(*r.Body.Sheet))
	} else {
		err = videos(&d, doc, r.Body)
	}
	if err != nil {
		return nil, badInput(err)
	}
	d.Document = doc.Encode()
	info := store.SceneInfo{ID: r.Scene, Production: doc.Settings.Production, Title: doc.Settings.Title}
	if err := a.Store.CreateDelivery(ctx, &d, info, a.Queue.Enqueue); err != nil {
		return nil, err
	}
	return CreateDelivery201JSONResponse(delivery(d)), nil
}

// videos plans a video of each shot that is asked for.
func videos(d *store.Delivery, doc *scene.Document, b *NewDelivery) error {
	if _, err := ffmpeg.Path(); err != nil {
		return err
	}
	format := doc.Formats[doc.Settings.Format]
	p := picture.Form{Width: format.Width, Height: format.Height}
	if b.Width != nil && b.Height != nil {
		p.Width, p.Height = *b.Width, *b.Height
	}
	quality := ""
	if b.Quality != nil {
		quality = string(*b.Quality)
	}
	var err error
	if p.Quality, err = picture.ParseQuality(quality); err != nil {
		return err
	}
	if err := p.Validate(); err != nil {
		return err
	}
	var shots []string
	if b.Shots != nil {
		if shots = *b.Shots; len(shots) == 0 {
			return errors.New("no shot is chosen; choose at least one to deliver")
		}
	}
	items, err := render.Plan(doc, d.Assembly, shots)
	if err != nil {
		return err
	}
	d.Width, d.Height, d.Quality = p.Width, p.Height, string(p.Quality)
	for _, i := range items {
		d.Outputs = append(d.Outputs, store.Output{
			Kind: store.Video, Stem: naming.Shot(doc.Settings.Title, i.Number, i.Camera), Ending: "mp4",
			ShotID: i.Shot, ShotNumber: i.Number, CameraNumber: i.Camera, CameraName: i.CameraName, Frames: i.Screen.Count(),
		})
	}
	return nil
}

// sheet plans a sheet of an assembly.
func sheet(d *store.Delivery, doc *scene.Document, kind sheets.Kind) error {
	if !kind.Valid() {
		return sheets.ErrKind
	}
	assembly, ok := doc.Assemblies[d.Assembly]
	if !ok {
		return errors.New("there is no such assembly in the scene")
	}
	n, err := sheets.Count(doc, d.Assembly)
	if err != nil {
		return err
	}
	p := sheets.Size(doc.Formats[doc.Settings.Format])
	d.Width, d.Height, d.Quality = p.Width, p.Height, string(p.Quality)
	d.Outputs = []store.Output{{
		Kind: string(kind), Stem: naming.Sheet(doc.Settings.Title, assembly.Name, string(kind)), Ending: kind.Ending(), Frames: n,
	}}
	return nil
}

// CancelDelivery stops everything of a delivery that is not finished.
func (a *API) CancelDelivery(ctx context.Context, r CancelDeliveryRequestObject) (CancelDeliveryResponseObject, error) {
	if err := a.Store.Cancel(ctx, r.Delivery); err != nil {
		return nil, err
	}
	d, err := a.Store.Delivery(ctx, r.Delivery)
	if err != nil {
		return nil, err
	}
	return CancelDelivery200JSONResponse(delivery(d)), nil
}

// ResumeDelivery queues what was cancelled or failed again.
func (a *API) ResumeDelivery(ctx context.Context, r ResumeDeliveryRequestObject) (ResumeDeliveryResponseObject, error) {
	if err := a.Store.Resume(ctx, r.Delivery, a.Queue.Enqueue); err != nil {
		return nil, err
	}
	d, err := a.Store.Delivery(ctx, r.Delivery)
	if err != nil {
		return nil, err
	}
	return ResumeDelivery200JSONResponse(delivery(d)), nil
}

// GetManifest lists what is finished of a delivery.
func (a *API) GetManifest(ctx context.Context, r GetManifestRequestObject) (GetManifestResponseObject, error) {
	d, err := a.Store.Delivery(ctx, r.Delivery)
	if err != nil {
		return nil, err
	}
	m := Manifest{Outputs: []ManifestOutput{}}
	for _, o := range render.ManifestOf(d).Outputs {
		m.Outputs = append(m.Outputs, ManifestOutput{Shot: o.Shot, Camera: o.Camera, File: o.File, Frames: o.Frames, Rate: o.Rate, Width: o.Width, Height: o.Height, Sha256: o.Sha256})
	}
	return GetManifest200JSONResponse(m), nil
}
