package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"proscen/core/patch"
	"proscen/core/sync"
	"proscen/internal/production"
	"proscen/internal/store"
)

// optional returns nil for what is empty.
func optional(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

// given returns what an optional text says.
func given(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

func apiEdit(e store.Edit) Edit {
	out := Edit{
		Id: e.ID, Revision: e.Revision, Base: e.Base, Label: e.Label, Kind: EditKind(e.Kind), Of: optional(e.Of),
		Operation: optional(e.Operation), Alternate: optional(e.Alternate), Tab: optional(e.Tab), Person: optional(e.Person), Author: e.Author, At: e.At,
	}
	if e.Patch != nil {
		out.Patch = new([]patch.Change(e.Patch))
	}
	return out
}

func apiEdits(list []store.Edit) []Edit {
	out := make([]Edit, len(list))
	for i, e := range list {
		out[i] = apiEdit(e)
	}
	return out
}

// ListEdits returns the newest edits.
func (a *API) ListEdits(ctx context.Context, r ListEditsRequestObject) (ListEditsResponseObject, error) {
	want := store.Slice{Limit: 200, Person: given(r.Params.Person)}
	if r.Params.Limit != nil {
		want.Limit = max(1, min(1000, *r.Params.Limit))
	}
	if r.Params.Before != nil {
		want.Before = *r.Params.Before
	}
	all, err := a.Store.Edits(ctx, r.Scene, want)
	if err != nil {
		return nil, err
	}
	return ListEdits200JSONResponse(apiEdits(all)), nil
}

// GetEdit returns an edit with its patch.
func (a *API) GetEdit(ctx context.Context, r GetEditRequestObject) (GetEditResponseObject, error) {
	e, err := a.Store.Edit(ctx, r.Scene, r.Revision)
	if err != nil {
		return nil, err
	}
	return GetEdit200JSONResponse(apiEdit(e)), nil
}

// GetSince returns the edits after a revision.
func (a *API) GetSince(ctx context.Context, r GetSinceRequestObject) (GetSinceResponseObject, error) {
	edits, revision, err := a.Store.Since(ctx, r.Scene, r.Revision)
	if err != nil {
		return nil, err
	}
	return GetSince200JSONResponse{Revision: revision, Edits: apiEdits(edits)}, nil
}

// mostKnown bounds how many edits can be asked about at once.
const mostKnown = 10_000

// KnownEdits tells which edits are in the log.
func (a *API) KnownEdits(ctx context.Context, r KnownEditsRequestObject) (KnownEditsResponseObject, error) {
	if len(*r.Body) > mostKnown {
		return nil, badInput(fmt.Errorf("at most %d edits can be asked about at once", mostKnown))
	}
	known, err := a.Store.Known(ctx, r.Scene, *r.Body)
	if err != nil {
		return nil, err
	}
	return KnownEdits200JSONResponse(append([]string{}, known...)), nil
}

// author is the name that an edit or a version is signed with.
func author(name *string) (string, error) {
	n := strings.TrimSpace(given(name))
	if n == "" {
		return "somebody", nil
	}
	if len(n) > 100 || !utf8.ValidString(n) || strings.ContainsRune(n, 0) {
		return "", badInput(errors.New("the name of an author is longer than 100 characters, or no text"))
	}
	return n, nil
}

// PostEdit makes an edit the next one of a scene.
func (a *API) PostEdit(ctx context.Context, r PostEditRequestObject) (PostEditResponseObject, error) {
	by, err := author(r.Body.Author)
	if err != nil {
		return nil, err
	}
	e := store.Edit{Author: by, Edit: sync.Edit{
		ID: r.Body.Id, Base: r.Body.Base, Kind: sync.Kind(r.Body.Kind), Of: given(r.Body.Of), Label: r.Body.Label,
		Operation: given(r.Body.Operation), Arguments: r.Body.Arguments, Alternate: given(r.Body.Alternate), Tab: given(r.Body.Tab), Person: given(r.Body.Person), Patch: r.Body.Patch,
	}}
	stored, again, err := a.Store.Accept(ctx, r.Scene, e)
	if err != nil {
		return nil, err
	}
	if production.Concerns(r.Body.Patch) {
		a.spread(ctx, r.Scene)
	}
	if !again {
		stored.Patch = nil // whoever sent it has it
	}
	return PostEdit200JSONResponse(apiEdit(stored)), nil
}

// GetState returns a scene as it was at a revision.
func (a *API) GetState(ctx context.Context, r GetStateRequestObject) (GetStateResponseObject, error) {
	doc, err := a.Store.At(ctx, r.Scene, r.Revision)
	if err != nil {
		return nil, err
	}
	return GetState200JSONResponse{Id: r.Scene, Revision: r.Revision, Document: doc}, nil
}

func apiVersion(v store.Version) Version {
	return Version{Id: v.ID, Revision: v.Revision, Name: v.Name, Author: v.Author, At: v.At}
}

// ListVersions lists the states that have a name.
func (a *API) ListVersions(ctx context.Context, r ListVersionsRequestObject) (ListVersionsResponseObject, error) {
	all, err := a.Store.Versions(ctx, r.Scene)
	if err != nil {
		return nil, err
	}
	out := make(ListVersions200JSONResponse, len(all))
	for i, v := range all {
		out[i] = apiVersion(v)
	}
	return out, nil
}

// KeepVersion keeps a state under a name.
func (a *API) KeepVersion(ctx context.Context, r KeepVersionRequestObject) (KeepVersionResponseObject, error) {
	by, err := author(r.Body.Author)
	if err != nil {
		return nil, err
	}
	name := strings.TrimSpace(r.Body.Name)
	if name == "" || len(name) > 120 || !utf8.ValidString(name) || strings.ContainsRune(name, 0) {
		return nil, badInput(errors.New("a version needs a name of 1 to 120 characters"))
	}
	v, err := a.Store.KeepVersion(ctx, r.Scene, r.Body.Revision, name, by)
	if err != nil {
		return nil, err
	}
	return KeepVersion201JSONResponse(apiVersion(v)), nil
}

// GetVersion returns a named version with its document.
func (a *API) GetVersion(ctx context.Context, r GetVersionRequestObject) (GetVersionResponseObject, error) {
	v, doc, err := a.Store.Version(ctx, r.Scene, r.Version)
	if err != nil {
		return nil, err
	}
	return GetVersion200JSONResponse{Id: r.Scene, Revision: v.Revision, Document: json.RawMessage(doc)}, nil
}

// RemoveVersion forgets the name of a state.
func (a *API) RemoveVersion(ctx context.Context, r RemoveVersionRequestObject) (RemoveVersionResponseObject, error) {
	if err := a.Store.RemoveVersion(ctx, r.Scene, r.Version); err != nil {
		return nil, err
	}
	return RemoveVersion204Response{}, nil
}
