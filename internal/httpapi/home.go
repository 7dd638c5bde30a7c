package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"proscen/core/scene"
	"proscen/core/timing"
	"proscen/internal/production"
	"proscen/internal/store"
)

// ChangeScene renames, moves, archives or bins a scene.
func (a *API) ChangeScene(ctx context.Context, r ChangeSceneRequestObject) (ChangeSceneResponseObject, error) {
	info, err := a.Store.SceneInfo(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	b := r.Body
	who := production.Who{Author: given(b.Author), Person: given(b.Person)}
	// Out of the bin first, so that nothing else is done to a scene that has to stay there.
	if b.Binned != nil && !*b.Binned && info.BinnedAt != nil {
		if err := a.unbin(ctx, info, who); err != nil {
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
		if err := production.Do(ctx, a.Store, r.Scene, who, "sceneRename", to); err != nil {
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
func (a *API) unbin(ctx context.Context, info store.SceneInfo, who production.Who) error {
	err := a.Store.Unbin(ctx, info.ID)
	if !errors.Is(err, store.ErrTaken) {
		return err
	}
	title, err := a.Store.FreeTitle(ctx, info.Production, info.Title)
	if err != nil {
		return err
	}
	if err := production.Do(ctx, a.Store, info.ID, who, "sceneRename", map[string]string{"production": info.Production, "title": title}); err != nil {
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
	return ProductionInfo{Id: p.ID, Name: p.Name, Scenes: p.Scenes, Library: p.Library}
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
		if p.Library == "" {
			if p.Library, err = production.Library(ctx, a.Store, p.ID); err != nil {
				return nil, err
			}
		}
		out[i] = productionInfo(p)
	}
	return out, nil
}

// Operate performs an operation on a document that is not open where it is wanted, such
// as the library of the production of a scene.
func (a *API) Operate(ctx context.Context, r OperateRequestObject) (OperateResponseObject, error) {
	by, err := author(r.Body.Author)
	if err != nil {
		return nil, err
	}
	who := production.Who{Author: by, Person: given(r.Body.Person)}
	if err := production.Do(ctx, a.Store, r.Scene, who, r.Body.Operation, r.Body.Arguments); err != nil {
		return nil, err
	}
	a.spread(ctx, r.Scene)
	return Operate204Response{}, nil
}

// spread lets the scenes of a library take what has changed in it; other documents
// have none.
func (a *API) spread(ctx context.Context, library string) {
	go production.Spread(context.WithoutCancel(ctx), a.Store, a.Log, library)
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
	if p.Library, err = production.Library(ctx, a.Store, p.ID); err != nil {
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
	if err := production.Rename(ctx, a.Store, r.Production, name); err != nil {
		return nil, err
	}
	all, err := a.Store.Productions(ctx)
	i := slices.IndexFunc(all, func(p store.ProductionInfo) bool { return p.ID == r.Production })
	if err != nil || i < 0 {
		return nil, errors.Join(err, store.ErrNotFound)
	}
	return RenameProduction200JSONResponse(productionInfo(all[i])), nil
}

// RemoveProduction removes a production without scenes.
func (a *API) RemoveProduction(ctx context.Context, r RemoveProductionRequestObject) (RemoveProductionResponseObject, error) {
	if err := a.Store.RemoveProduction(ctx, r.Production); err != nil {
		return nil, err
	}
	return RemoveProduction204Response{}, nil
}
