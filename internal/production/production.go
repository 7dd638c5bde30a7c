// Package production keeps what the scenes of a production share: its library, a
// document of its own, and what scenes take from it.
package production

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"maps"
	"slices"
	gosync "sync"

	"proscen/core/patch"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/sync"
	"proscen/internal/demo"
	"proscen/internal/store"
)

// tab is the tab that edits from outside any open copy are made in.
const tab = "home"

// RefusedError says why an operation was refused; nothing was changed.
type RefusedError struct{ Why error }

func (e RefusedError) Error() string { return e.Why.Error() }

// Unwrap returns the reason.
func (e RefusedError) Unwrap() error { return e.Why }

// Who makes an edit.
type Who struct{ Author, Person string }

// Do performs an operation on a document as its next edit, so that everybody who has
// it open sees it, and it is in the history. What the rules refuse is a RefusedError.
func Do(ctx context.Context, st *store.Store, id string, who Who, operation string, args any) error {
	given, err := json.Marshal(args)
	if err != nil {
		return err
	}
	if who.Author == "" {
		who.Author = "Home"
	}
	for range 8 {
		doc, revision, err := st.Document(ctx, id)
		if err != nil {
			return err
		}
		r, err := session.Open(doc, store.NewID).Run(operation, given)
		if err != nil {
			return RefusedError{err}
		}
		if len(r.Patch) == 0 {
			return nil
		}
		_, _, err = st.Accept(ctx, id, store.Edit{Author: who.Author, Edit: sync.Edit{
			ID: store.NewID(), Base: revision, Kind: sync.Do, Label: r.Label, Operation: operation, Arguments: given,
			Tab: tab, Person: who.Person, Patch: r.Patch,
		}})
		var clash sync.ClashError
		if !errors.As(err, &clash) {
			return err
		}
	}
	return RefusedError{errors.New("others are changing the same just now; try again in a moment")}
}

// Library returns the id of the library of a production, which is made if there is
// none yet.
func Library(ctx context.Context, st *store.Store, production string) (string, error) {
	return st.Library(ctx, production, demo.Library)
}

// Begin gives a new scene what its production has for new ones: its formats and its
// lens kits.
func Begin(ctx context.Context, st *store.Store, doc *scene.Document) error {
	lib, err := libraryOf(ctx, st, doc.Settings.Production)
	if err != nil {
		return err
	}
	shared, _, err := st.Document(ctx, lib)
	if err != nil {
		return err
	}
	doc.Formats, doc.Settings.Format = shared.Formats, shared.Settings.Format
	_, err = session.Open(doc, store.NewID).Run("libraryTake", taken(shared))
	return err
}

// Rate returns the rate that new scenes of a production have.
func Rate(ctx context.Context, st *store.Store, production string) (string, error) {
	lib, err := libraryOf(ctx, st, production)
	if err != nil {
		return "", err
	}
	doc, _, err := st.Document(ctx, lib)
	if err != nil {
		return "", err
	}
	return doc.Settings.Rate.String(), nil
}

func libraryOf(ctx context.Context, st *store.Store, name string) (string, error) {
	id, err := st.ProductionID(ctx, name)
	if err != nil {
		return "", err
	}
	return Library(ctx, st, id)
}

// Share puts the lens kits of a new scene into the library of its production, so that
// they are shared. What the library has already stays, and the scene takes it.
func Share(ctx context.Context, st *store.Store, doc *scene.Document) error {
	lib, err := libraryOf(ctx, st, doc.Settings.Production)
	if err != nil {
		return err
	}
	shared, _, err := st.Document(ctx, lib)
	if err != nil {
		return err
	}
	for _, id := range slices.Sorted(maps.Keys(doc.Kits)) {
		k := doc.Kits[id]
		if _, there := shared.Kits[id]; !there {
			if err := Do(ctx, st, lib, Who{}, "kitPut", kitPut{k, id}); err != nil {
				return err
			}
			shared.Kits[id] = k
		}
		k.Shared = true
		doc.Kits[id] = k
	}
	_, err = session.Open(doc, store.NewID).Run("libraryTake", taken(shared))
	return err
}

type kitPut struct {
	scene.Kit
	ID string `json:"id"`
}

// taken returns the arguments of what scenes take from a library.
func taken(library *scene.Document) json.RawMessage {
	return scene.Canonical(struct {
		Kits map[string]scene.Kit `json:"kits"`
	}{library.Kits})
}

// Rename gives a production another name, in its scenes too.
func Rename(ctx context.Context, st *store.Store, id, name string) error {
	if err := st.RenameProduction(ctx, id, name); err != nil {
		return err
	}
	return Say(ctx, st, id, "")
}

// Say lets the scenes of a production, of all ("") or one scene say its name, where a
// failure has left the one before. It goes on after one that fails.
func Say(ctx context.Context, st *store.Store, id, scene string) error {
	misnamed, err := st.Misnamed(ctx, id, scene)
	for _, m := range misnamed {
		err = errors.Join(err, Do(ctx, st, m.Scene, Who{}, "sceneRename", map[string]string{"production": m.Name}))
	}
	return err
}

// Concerns tells whether a change of a library is one that scenes take.
func Concerns(p patch.Patch) bool {
	return slices.ContainsFunc(p, func(c patch.Change) bool { return c.Collection == "kits" })
}

// Bring lets a scene take what its library has, unless it has that already.
func Bring(ctx context.Context, st *store.Store, id string) error {
	behind, err := st.Behind(ctx, "", id)
	if err != nil || len(behind) == 0 {
		return err
	}
	return bring(ctx, st, behind)
}

// Spread lets all scenes of a library, or of every one, take what it has. It goes on
// after one that fails.
func Spread(ctx context.Context, st *store.Store, log *slog.Logger, library string) {
	behind, err := st.Behind(ctx, library, "")
	if err == nil {
		for len(behind) > 0 {
			n := slices.IndexFunc(behind, func(b store.Behind) bool { return b.Library != behind[0].Library })
			if n < 0 {
				n = len(behind)
			}
			err = errors.Join(err, bring(ctx, st, behind[:n]))
			behind = behind[n:]
		}
	}
	if err != nil && ctx.Err() == nil {
		log.Warn("not every scene has taken what its production shares; they will when they are opened", "error", err)
	}
}

// bringing lets one go on at a time: who is late would bring what is old.
var bringing gosync.Mutex

// bring lets scenes take what their one library has.
func bring(ctx context.Context, st *store.Store, behind []store.Behind) (failed error) {
	bringing.Lock()
	defer bringing.Unlock()
	library, revision, err := st.Document(ctx, behind[0].Library)
	if err != nil {
		return err
	}
	args := taken(library)
	for _, b := range behind {
		err := Do(ctx, st, b.Scene, Who{Author: "the production"}, "libraryTake", args)
		if err == nil {
			b.Revision = revision
			err = st.Take(ctx, b)
		}
		failed = errors.Join(failed, err)
	}
	return failed
}
