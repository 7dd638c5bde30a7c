package httpapi

import (
	"context"
	"errors"

	"proscen/core/kit"
	"proscen/core/scene"
	"proscen/internal/demo"
	"proscen/internal/ffmpeg"
	"proscen/internal/media"
	"proscen/internal/production"
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
		doc, err = scene.Read(b.Document, kit.Known)
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
