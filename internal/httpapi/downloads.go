package httpapi

import (
	"archive/zip"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"mime"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"proscen/core/interchange"
	"proscen/core/naming"
	"proscen/core/picture"
	"proscen/core/scene"
	"proscen/core/session"
	"proscen/core/turnover"
	"proscen/internal/render"
	"proscen/internal/sheets"
	"proscen/internal/store"
	"proscen/internal/turns"
)

// deliveryFiles sends all that is finished of a delivery.
func (a *API) deliveryFiles(c *echo.Context) error {
	ctx := c.Request().Context()
	d, err := a.Store.Delivery(ctx, c.Param("delivery"))
	if err != nil {
		return err
	}
	keys, err := a.filesOf(ctx, &d)
	if err != nil {
		return err
	}
	if len(keys) == 0 {
		return echo.NewHTTPError(http.StatusNotFound, "nothing of this delivery is finished yet")
	}
	papers, err := render.Papers(d)
	if err != nil {
		return err
	}
	switch sheet, err := a.contact(ctx, &d); {
	case err == nil:
		papers = append(papers, turnover.Paper{Name: render.ContactSheet, Data: sheet})
	case !errors.Is(err, render.ErrStills):
		return err
	}
	return a.zipped(c, naming.Slug(strings.TrimPrefix(d.Folder, "outputs/")), d.Folder, keys, papers)
}

// contactRoom is about how many bytes making a contact sheet takes.
const contactRoom = 120 << 20

// contact makes the contact sheet of a delivery, when it is its turn.
func (a *API) contact(ctx context.Context, d *store.Delivery) ([]byte, error) {
	if !render.HasStills(d) {
		return nil, render.ErrStills
	}
	done, err := turns.Take(ctx, contactRoom)
	if err != nil {
		return nil, err
	}
	defer done()
	return render.Contact(ctx, a.Bucket, d)
}

// contactSheet sends the finished stills of a delivery as pages to print.
func (a *API) contactSheet(c *echo.Context) error {
	ctx := c.Request().Context()
	d, err := a.Store.Delivery(ctx, c.Param("delivery"))
	if err != nil {
		return err
	}
	sheet, err := a.contact(ctx, &d)
	if errors.Is(err, render.ErrStills) {
		return echo.NewHTTPError(http.StatusNotFound, err.Error())
	}
	if err != nil {
		return err
	}
	name := naming.Slug(strings.TrimPrefix(d.Folder, "outputs/")) + "_" + render.ContactSheet
	c.Response().Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	return c.Blob(http.StatusOK, "application/pdf", sheet)
}

// pullSheet sends what is needed of each camera as pages to print.
func (a *API) pullSheet(c *echo.Context) error {
	ctx := c.Request().Context()
	body, _, err := a.Store.Scene(ctx, c.Param("scene"))
	if err != nil {
		return err
	}
	doc, err := scene.Decode(body)
	if err != nil {
		return err
	}
	if doc, err = turnover.DocumentsOf(doc).As(c.QueryParam("alternate")); err != nil {
		return badInput(err)
	}
	head, _ := strconv.Atoi(c.QueryParam("head")) // numbers in bounds, by the contract, or none
	tail, _ := strconv.Atoi(c.QueryParam("tail"))
	assemblies := strings.Split(c.QueryParam("assembly"), ",")
	for _, id := range assemblies {
		if _, ok := doc.Assemblies[id]; !ok {
			return echo.NewHTTPError(http.StatusNotFound, "there is no such assembly in the scene")
		}
	}
	pulled := turnover.PullOf(doc, assemblies, head, tail)
	sheet, err := sheets.Pulls(doc, pulled, fmt.Sprintf("%s · pull list, %d frames before and %d after", turnover.Titled(doc), head, tail))
	if err != nil {
		return err
	}
	name := naming.Slug(turnover.Titled(doc)) + "_pull-list.pdf"
	c.Response().Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	return c.Blob(http.StatusOK, "application/pdf", sheet)
}

// filesOf lists the keys of what is finished of a delivery.
func (a *API) filesOf(ctx context.Context, d *store.Delivery) ([]string, error) {
	var keys []string
	for _, o := range d.Outputs {
		if o.State != store.Done {
			continue
		}
		if o.Kind == store.Pictures {
			all, err := a.Bucket.Keys(ctx, o.File)
			if err != nil {
				return nil, err
			}
			keys = append(keys, slices.Sorted(maps.Keys(all))...)
			continue
		}
		keys = append(keys, o.File)
		var beside []store.Extra
		if err := json.Unmarshal(o.Beside, &beside); err != nil {
			return nil, err
		}
		for _, e := range beside {
			keys = append(keys, e.File)
		}
	}
	return keys, nil
}

// zipped sends files as a zip as it is made, under their names below a folder. They are
// not packed any smaller. When one cannot be read the connection breaks off, so that
// nobody takes half of it for the whole. Papers lie before them.
func (a *API) zipped(c *echo.Context, name, folder string, keys []string, papers []turnover.Paper) error {
	h := c.Response().Header()
	h.Set("Content-Type", "application/zip")
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name + ".zip"}))
	z := zip.NewWriter(c.Response())
	for _, p := range papers {
		w, err := z.Create(p.Name)
		if err == nil {
			_, err = w.Write(p.Data)
		}
		if err != nil {
			return err
		}
	}
	for _, key := range keys {
		if err := a.zipOne(c.Request().Context(), z, strings.TrimPrefix(key, folder+"/"), key); err != nil {
			a.Log.Warn("a download broke off", "file", key, "error", err)
			panic(http.ErrAbortHandler)
		}
	}
	if err := z.Close(); err != nil {
		panic(http.ErrAbortHandler)
	}
	return nil
}

func (a *API) zipOne(ctx context.Context, z *zip.Writer, name, key string) error {
	r, err := a.Bucket.NewReader(ctx, key, nil)
	if err != nil {
		return err
	}
	defer func() { _ = r.Close() }()
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: r.ModTime().UTC().Truncate(time.Second)})
	if err != nil {
		return err
	}
	_, err = io.Copy(w, r)
	return err
}

// frameRoom is the memory that a frame may take while it is made.
const frameRoom = 200 << 20

// frame sends a frame as it would be delivered.
func (a *API) frame(c *echo.Context) error {
	ctx := c.Request().Context()
	doc, _, err := a.Store.Document(ctx, c.Param("scene"))
	if err != nil {
		return err
	}
	at, _ := strconv.Atoi(c.QueryParam("frame")) // a number in bounds, by the contract
	o := turnover.Order{
		Assemblies: []string{c.QueryParam("assembly")},
		Spots:      []turnover.Spot{{Camera: c.QueryParam("camera"), Frame: at}},
	}
	if f := c.QueryParam("format"); f != "" {
		o.Formats = []string{f}
	}
	if id := c.QueryParam("alternate"); id != "" {
		o.Alternates = []string{id}
	}
	o.Size[0], _ = strconv.Atoi(c.QueryParam("width"))
	o.Size[1], _ = strconv.Atoi(c.QueryParam("height"))
	r := scene.Recipe{Name: "frame", Pack: scene.PNG, Quality: scene.Quality(c.QueryParam("quality"))}
	if r.Quality == "" {
		r.Quality = scene.Check
	}
	items, err := turnover.Plan(doc, o, &r)
	if err == nil {
		err = picture.Form{Width: items[0].Width, Height: items[0].Height}.Validate()
	}
	if err != nil {
		return badInput(err)
	}
	done, err := turns.Take(ctx, frameRoom)
	if err != nil {
		return err
	}
	defer done()
	png, err := render.Frame(ctx, a.Bucket, doc, items[0], r, max(1, a.Threads))
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.Blob(http.StatusOK, "image/png", png)
}

// mostBeside bounds the pictures of a sheet, besideRoom is the memory of one of them with its
// place in the whole.
const (
	mostBeside = 60
	besideRoom = 5 << 20
)

// beside sends frames of a scene as a sheet: of alternates, assemblies, cameras or formats.
func (a *API) beside(c *echo.Context) error {
	ctx := c.Request().Context()
	var b Beside
	if err := c.Bind(&b); err != nil {
		return badInput(err)
	}
	switch n := len(b.Pictures); {
	case !b.As.Valid():
		return badInput(errors.New("a sheet is a png or a pdf"))
	case n == 0 || n > mostBeside:
		return badInput(fmt.Errorf("a sheet has 1 to %d pictures, not %d", mostBeside, n))
	}
	doc, _, err := a.Store.Document(ctx, c.Param("scene"))
	if err != nil {
		return err
	}
	sides := turnover.DocumentsOf(doc)
	r := scene.Recipe{Name: "sheet", Pack: scene.PNG, Quality: scene.Check}
	var items []turnover.Item
	for i, p := range b.Pictures {
		side, err := sides.As(given(p.Alternate))
		if err != nil {
			return badInput(fmt.Errorf("picture %d: %w", i+1, err))
		}
		o := turnover.Order{
			Assemblies: []string{p.Assembly}, Spots: []turnover.Spot{{Camera: given(p.Camera), Frame: p.Frame}},
			Formats: []string{cmp.Or(given(p.Format), side.Settings.Format)}, Alternates: []string{given(p.Alternate)},
		}
		o.Size[0], o.Size[1] = sheets.GridSize(doc.Formats[o.Formats[0]])
		planned, err := turnover.Plan(doc, o, &r)
		if err != nil {
			return badInput(fmt.Errorf("picture %d: %w", i+1, err))
		}
		items = append(items, planned[0])
	}
	done, err := turns.Take(ctx, frameRoom+int64(len(items))*besideRoom)
	if err != nil {
		return err
	}
	defer done()
	sheet, media, err := render.Beside(ctx, a.Bucket, doc, items, r, b.As == Pdf, max(1, a.Threads))
	if err != nil {
		return err
	}
	name := naming.Slug(doc.Settings.Title) + "_side-by-side." + string(b.As)
	c.Response().Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	return c.Blob(http.StatusOK, media, sheet)
}

// stageRoom is about how many bytes working out a stage takes.
const stageRoom = 300 << 20

// stage sends the set and the cameras of an assembly.
func (a *API) stage(c *echo.Context) error {
	ctx := c.Request().Context()
	doc, _, err := a.Store.Document(ctx, c.Param("scene"))
	if err != nil {
		return err
	}
	if doc, err = turnover.DocumentsOf(doc).As(c.QueryParam("alternate")); err != nil {
		return badInput(err)
	}
	done, err := turns.Take(ctx, stageRoom)
	if err != nil {
		return err
	}
	defer done()
	files, err := render.FilesOf(ctx, a.Bucket, doc)
	if err != nil {
		return err
	}
	s := session.Open(doc, nil)
	files.Into(s)
	format := c.QueryParam("format")
	w, err := turnover.WriteStage(s, c.QueryParam("assembly"), format)
	if err != nil {
		return badInput(err)
	}
	said, err := json.Marshal(w.Notes)
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Proscen-Notes", url.PathEscape(string(said)))
	f, _ := interchange.StageFormat(format) // it has been written
	name := naming.Slug(turnover.Titled(doc)) + "_" + naming.Slug(doc.Assemblies[c.QueryParam("assembly")].Name) + f.Ending
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	return c.Blob(http.StatusOK, f.Media, w.Data)
}
