package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"proscen/core/naming"
	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/turnover"
	"proscen/internal/ffmpeg"
	"proscen/internal/render"
	"proscen/internal/sheets"
	"proscen/internal/store"
)

func output(o store.Output) Output {
	out := Output{
		Id: o.ID, Kind: OutputKind(o.Kind), Shot: o.ShotID, Number: o.ShotNumber, Camera: o.CameraNumber, CameraName: o.CameraName, Version: o.Version,
		File: o.File, State: OutputState(o.State), Frames: o.Frames, FramesDone: o.FramesDone, Seconds: new(float32(o.Seconds)),
	}
	out.Subject, out.Same = &o.Subject, optional(o.Same)
	if string(o.Item) != "null" {
		out.Item = json.RawMessage(o.Item)
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
		Rate: d.Rate, Quality: Quality(d.Quality), Folder: d.Folder, Paused: d.Paused, At: d.At, Outputs: make([]Output, len(d.Outputs)),
	}
	if string(d.Recipe) != "null" {
		out.Recipe = json.RawMessage(d.Recipe)
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
		if doc, err = turnover.DocumentsOf(doc).As(given(r.Body.Alternate)); err == nil {
			err = sheet(&d, doc, sheets.Kind(*r.Body.Sheet))
		}
	} else {
		err = films(&d, doc, r.Body)
	}
	if err == nil && r.Body.Changed != nil && *r.Body.Changed && r.Body.Sheet == nil {
		err = a.unchanged(ctx, &d, doc)
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

// films plans the outputs that are asked for.
func films(d *store.Delivery, doc *scene.Document, b *NewDelivery) error {
	if _, err := ffmpeg.Path(); err != nil {
		return err
	}
	r, err := recipe(b)
	if err != nil {
		return err
	}
	order, err := order(b)
	if err != nil {
		return err
	}
	items, err := turnover.Plan(doc, order, &r)
	if err != nil {
		return err
	}
	sides := turnover.DocumentsOf(doc)
	d.Width, d.Height, d.Quality = items[0].Width, items[0].Height, string(r.Quality)
	d.Recipe, d.Rate = []byte(scene.Canonical(r)), turnover.RateOf(doc, &r).String()
	for _, i := range items {
		if err := (picture.Form{Width: i.Width, Height: i.Height}).Validate(); err != nil {
			return err
		}
		side, err := sides.As(i.Alternate)
		if err != nil {
			return err
		}
		pack := turnover.RecipeFor(&i, r).Pack
		o := store.Output{
			Kind: store.Video, Ending: pack.Ending(), Subject: i.Subject(), Item: []byte(scene.Canonical(i)),
			ShotID: i.Shot, ShotNumber: i.Number, CameraNumber: i.CameraNumber, CameraName: i.CameraName, Frames: i.Frames(&r),
		}
		o.Path = func(version int) string {
			return turnover.Path(side, &i, &r, turnover.Facts{Version: version, Date: time.Now()})
		}
		switch {
		case i.What == turnover.Still:
			o.Kind = store.Picture
		case pack.Numbered():
			o.Kind, o.Ending = store.Pictures, ""
		}
		d.Outputs = append(d.Outputs, o)
	}
	return nil
}

// recipe reads how a delivery is to be made.
func recipe(b *NewDelivery) (r scene.Recipe, err error) {
	if b.Recipe != nil {
		if r, err = scene.ReadRecipe(b.Recipe); err != nil {
			err = fmt.Errorf("the recipe cannot be taken: %w", err)
		}
		return r, err
	}
	r = scene.Recipe{Name: "check", Pack: scene.H264, Joined: true}
	quality := ""
	if b.Quality != nil {
		quality = string(*b.Quality)
	}
	r.Quality, err = picture.ParseQuality(quality)
	return r, err
}

// order reads what is to be delivered; without more, each shot of an assembly.
func order(b *NewDelivery) (o turnover.Order, err error) {
	if b.Order != nil {
		if err := scene.Strict(b.Order, &o); err != nil {
			return o, fmt.Errorf("what is to be delivered cannot be read: %w", err)
		}
	}
	if len(o.Assemblies) == 0 {
		o.Assemblies = []string{b.Assembly}
	}
	if b.Order == nil {
		o.Each = true
	}
	if b.Width != nil && b.Height != nil {
		o.Size = [2]int{*b.Width, *b.Height}
	}
	if b.Shots != nil {
		if o.Shots = *b.Shots; len(o.Shots) == 0 {
			return o, errors.New("no shot is chosen; choose at least one to deliver")
		}
	}
	return o, nil
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
		Kind: string(kind), Subject: strings.TrimSpace(string(kind) + " " + d.Assembly + " " + doc.As), Ending: kind.Ending(), Frames: n,
		Path: func(version int) string {
			return naming.Versioned(naming.Sheet(turnover.Titled(doc), assembly.Name, string(kind)), version)
		},
	}}
	return nil
}

// lookTime is how long a request looks at what is out of date.
const lookTime = time.Second

// ListOutdated tells which of the newest outputs would have other frames now.
func (a *API) ListOutdated(ctx context.Context, r ListOutdatedRequestObject) (ListOutdatedResponseObject, error) {
	doc, revision, err := a.Store.Document(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	all, err := a.Store.Newest(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	l, err := a.prints.Look(ctx, r.Scene, doc, revision, all, lookTime)
	if err != nil {
		return nil, err
	}
	return ListOutdated200JSONResponse{Revision: revision, Outdated: l.Outdated, Gone: l.Gone, Waiting: l.Waiting}, nil
}

// unchanged leaves out what has been delivered the same way and would be the same.
func (a *API) unchanged(ctx context.Context, d *store.Delivery, doc *scene.Document) error {
	all, err := a.Store.Newest(ctx, d.SceneID)
	if err != nil {
		return err
	}
	var like []store.Delivery
	type kind struct {
		subject       string
		width, height int
	}
	of := func(o *store.Output) kind {
		var i turnover.Item
		_ = json.Unmarshal(o.Item, &i) // our own; of another kind it is like no other
		return kind{o.Subject, i.Width, i.Height}
	}
	same := map[kind]string{} // ids of outputs
	for _, old := range all {
		if !render.SameRecipe(&old, d) {
			continue
		}
		like = append(like, old)
		for _, o := range old.Outputs {
			if o.State == store.Done && o.Print != "" {
				same[of(&o)] = o.ID
			}
		}
	}
	l, err := a.prints.Look(ctx, d.SceneID, doc, d.Revision, like, 5*lookTime)
	if err != nil {
		return err
	}
	if l.Waiting > 0 {
		return errors.New("the scene is too large to see at once what has changed; choose the shots yourself")
	}
	d.Outputs = slices.DeleteFunc(d.Outputs, func(o store.Output) bool {
		id := same[of(&o)]
		return id != "" && !slices.Contains(l.Outdated, id)
	})
	if len(d.Outputs) == 0 {
		return errors.New("all of it has been delivered like this, and nothing has changed since")
	}
	return nil
}

// changed returns a delivery as it is after a change, unless that failed.
func (a *API) changed(ctx context.Context, id string, err error) (Delivery, error) {
	if err != nil {
		return Delivery{}, err
	}
	d, err := a.Store.Delivery(ctx, id)
	return delivery(d), err
}

// CancelDelivery stops everything of a delivery that is not finished.
func (a *API) CancelDelivery(ctx context.Context, r CancelDeliveryRequestObject) (CancelDeliveryResponseObject, error) {
	d, err := a.changed(ctx, r.Delivery, a.Store.Cancel(ctx, r.Delivery, false))
	return CancelDelivery200JSONResponse(d), err
}

// PauseDelivery stops a delivery for a while.
func (a *API) PauseDelivery(ctx context.Context, r PauseDeliveryRequestObject) (PauseDeliveryResponseObject, error) {
	d, err := a.changed(ctx, r.Delivery, a.Store.Cancel(ctx, r.Delivery, true))
	return PauseDelivery200JSONResponse(d), err
}

// ResumeDelivery queues what was cancelled or failed again.
func (a *API) ResumeDelivery(ctx context.Context, r ResumeDeliveryRequestObject) (ResumeDeliveryResponseObject, error) {
	d, err := a.changed(ctx, r.Delivery, a.Store.Resume(ctx, r.Delivery, a.Queue.Enqueue))
	return ResumeDelivery200JSONResponse(d), err
}

// FirstDelivery lets what is still to be made of a delivery be made before others.
func (a *API) FirstDelivery(ctx context.Context, r FirstDeliveryRequestObject) (FirstDeliveryResponseObject, error) {
	d, err := a.changed(ctx, r.Delivery, a.Store.First(ctx, r.Delivery))
	return FirstDelivery200JSONResponse(d), err
}

// GetManifest lists what is finished of a delivery.
func (a *API) GetManifest(ctx context.Context, r GetManifestRequestObject) (GetManifestResponseObject, error) {
	d, err := a.Store.Delivery(ctx, r.Delivery)
	if err != nil {
		return nil, err
	}
	m := Manifest{Outputs: []ManifestOutput{}}
	for _, o := range render.ManifestOf(d).Outputs {
		m.Outputs = append(m.Outputs, manifestOutput(o))
	}
	return GetManifest200JSONResponse(m), nil
}

func manifestOutput(o render.ManifestOutput) ManifestOutput {
	out := ManifestOutput{Pass: optional(string(o.Pass)), Alternate: optional(o.As), Shot: o.Shot, Camera: o.Camera, File: o.File, Frames: o.Frames, Rate: o.Rate, Width: o.Width, Height: o.Height, Sha256: o.Sha256}
	if o.Head > 0 {
		out.Head = &o.Head
	}
	if o.Tail > 0 {
		out.Tail = &o.Tail
	}
	if o.What != "" {
		out.What = (*string)(&o.What)
	}
	for _, e := range o.Beside {
		out.Beside = append(out.Beside, ManifestExtra{File: e.File, Sha256: e.Sha256})
	}
	return out
}
