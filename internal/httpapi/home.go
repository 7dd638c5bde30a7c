package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/sync"
	"proscen/core/timing"
	"proscen/internal/store"
)

// homeTab is the tab that edits from Home are made in: no open copy of a scene.
const homeTab = "home"

// do performs an operation on a scene as its next edit, so that everybody who has it
// open sees it, and it is in the history.
func (a *API) do(ctx context.Context, id, author, person, operation string, args any) error {
	given, err := json.Marshal(args)
	if err != nil {
		return err
	}
	if author == "" {
		author = "Home"
	}
	for range 8 {
		doc, revision, err := a.Store.Document(ctx, id)
		if err != nil {
			return err
		}
		r, err := session.Open(doc, store.NewID).Run(operation, given)
		if err != nil {
			var problems scene.Problems
			if errors.As(err, &problems) {
				return problems
			}
			return badInput(err)
		}
		if len(r.Patch) == 0 {
			return nil
		}
		_, _, err = a.Store.Accept(ctx, id, store.Edit{Author: author, Edit: sync.Edit{
			ID: store.NewID(), Base: revision, Kind: sync.Do, Label: r.Label, Operation: operation, Arguments: given,
			Tab: homeTab, Person: person, Patch: r.Patch,
		}})
		var clash sync.ClashError
		if !errors.As(err, &clash) {
			return err
		}
	}
	return badInput(errors.New("others are changing the same just now; try again in a moment"))
}

// ChangeScene renames, moves, archives or bins a scene.
func (a *API) ChangeScene(ctx context.Context, r ChangeSceneRequestObject) (ChangeSceneResponseObject, error) {
	info, err := a.Store.SceneInfo(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	b := r.Body
	// Out of the bin first, so that nothing else is done to a scene that has to stay there.
	if b.Binned != nil && !*b.Binned && info.BinnedAt != nil {
		if err := a.unbin(ctx, info, given(b.Author), given(b.Person)); err != nil {
			return nil, err
		}
	}
	if b.Title != nil || b.Production != nil {
		to := struct {
			Production string `json:"production"`
			Title      string `json:"title"`
		}{info.Production, info.Title}
		if b.Title != nil {
			to.Title = strings.TrimSpace(*b.Title)
		}
		if b.Production != nil {
			to.Production = strings.TrimSpace(*b.Production)
		}
		if err := a.do(ctx, r.Scene, given(b.Author), given(b.Person), "sceneRename", to); err != nil {
			return nil, err
		}
	}
	if b.Archived != nil {
		if err := a.Store.Archive(ctx, r.Scene, *b.Archived); err != nil {
			return nil, err
		}
	}
	if b.Binned != nil && *b.Binned {
		if err := a.Store.Bin(ctx, r.Scene); err != nil {
			return nil, err
		}
	}
	if info, err = a.Store.SceneInfo(ctx, r.Scene); err != nil {
		return nil, err
	}
	return ChangeScene200JSONResponse(sceneInfo(info)), nil
}

// unbin takes a scene out of the bin, under another title when its own is in use.
func (a *API) unbin(ctx context.Context, info store.SceneInfo, author, person string) error {
	err := a.Store.Unbin(ctx, info.ID)
	if !errors.Is(err, store.ErrTaken) {
		return err
	}
	title, err := a.Store.FreeTitle(ctx, info.Production, info.Title)
	if err != nil {
		return err
	}
	if err := a.do(ctx, info.ID, author, person, "sceneRename", map[string]string{"production": info.Production, "title": title}); err != nil {
		return err
	}
	return a.Store.Unbin(ctx, info.ID)
}

// CopyScene makes another scene like one.
func (a *API) CopyScene(ctx context.Context, r CopySceneRequestObject) (CopySceneResponseObject, error) {
	doc, _, err := a.Store.Document(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	info, err := a.Store.TakeIn(ctx, doc)
	if err != nil {
		return nil, err
	}
	return CopyScene201JSONResponse(sceneInfo(info)), nil
}

// WantScenePicture asks for the picture of a scene.
func (a *API) WantScenePicture(ctx context.Context, r WantScenePictureRequestObject) (WantScenePictureResponseObject, error) {
	info, err := a.Store.SceneInfo(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	if err := a.Queue.Cover(ctx, r.Scene, info.Revision); err != nil {
		return nil, err
	}
	return WantScenePicture202Response{}, nil
}

// scenePicture sends the picture of a scene. Its address names the revision, so a
// browser may keep it.
func (a *API) scenePicture(c *echo.Context) error {
	picture, _, err := a.Store.Cover(c.Request().Context(), c.Param("scene"))
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=604800")
	return c.Blob(http.StatusOK, "image/jpeg", picture)
}

// ListRates lists the rates that are offered.
func (a *API) ListRates(context.Context, ListRatesRequestObject) (ListRatesResponseObject, error) {
	var out ListRates200JSONResponse
	for _, r := range timing.Usual {
		out = append(out, r.String())
	}
	return out, nil
}

func productionInfo(p store.ProductionInfo) ProductionInfo {
	return ProductionInfo{Id: p.ID, Name: p.Name, Scenes: p.Scenes}
}

// productionName returns a name without spaces around it.
func productionName(b *ProductionName) (string, error) {
	name := strings.TrimSpace(b.Name)
	if name == "" {
		return "", badInput(errors.New("a production needs a name"))
	}
	if text, err := json.Marshal(name); err != nil || scene.Plain(text) != nil {
		return "", badInput(errors.New("the name has characters that are no text; type it again"))
	}
	return name, nil
}

// ListProductions lists all productions.
func (a *API) ListProductions(ctx context.Context, _ ListProductionsRequestObject) (ListProductionsResponseObject, error) {
	all, err := a.Store.Productions(ctx)
	if err != nil {
		return nil, err
	}
	out := make(ListProductions200JSONResponse, len(all))
	for i, p := range all {
		out[i] = productionInfo(p)
	}
	return out, nil
}

// CreateProduction makes an empty production.
func (a *API) CreateProduction(ctx context.Context, r CreateProductionRequestObject) (CreateProductionResponseObject, error) {
	name, err := productionName(r.Body)
	if err != nil {
		return nil, err
	}
	p, err := a.Store.CreateProduction(ctx, name)
	if err != nil {
		return nil, err
	}
	return CreateProduction201JSONResponse(productionInfo(p)), nil
}

// RenameProduction gives a production another name, in its scenes too.
func (a *API) RenameProduction(ctx context.Context, r RenameProductionRequestObject) (RenameProductionResponseObject, error) {
	name, err := productionName(r.Body)
	if err != nil {
		return nil, err
	}
	if err := a.Store.RenameProduction(ctx, r.Production, name); err != nil {
		return nil, err
	}
	scenes, err := a.Store.ScenesOf(ctx, r.Production)
	if err != nil {
		return nil, err
	}
	for _, id := range scenes {
		info, err := a.Store.SceneInfo(ctx, id)
		if err != nil {
			return nil, err
		}
		if err := a.do(ctx, id, "", "", "sceneRename", map[string]string{"production": name, "title": info.Title}); err != nil {
			return nil, err
		}
	}
	return RenameProduction200JSONResponse{Id: r.Production, Name: name, Scenes: len(scenes)}, nil
}

// RemoveProduction removes a production without scenes.
func (a *API) RemoveProduction(ctx context.Context, r RemoveProductionRequestObject) (RemoveProductionResponseObject, error) {
	if err := a.Store.RemoveProduction(ctx, r.Production); err != nil {
		return nil, err
	}
	return RemoveProduction204Response{}, nil
}
