package httpapi

import (
	"context"
	"fmt"
	"image"
	"io"
	"net/http"
	"runtime"

	"github.com/labstack/echo/v5"
	"gocloud.dev/blob"

	"proscen/core/naming"
	"proscen/core/picture"
	"proscen/core/timing"
	"proscen/internal/media"
	"proscen/internal/render"
	"proscen/internal/sheets"
)

// uploaded reads the body of an upload, of at most so many bytes and one: what
// takes it in says what is too much of it.
func uploaded(c *echo.Context, most int64) ([]byte, error) {
	return io.ReadAll(http.MaxBytesReader(c.Response(), c.Request().Body, most+1))
}

// taken answers an upload with what is kept of it.
func taken[T any](a *API, most int64, keep func(ctx context.Context, bucket *blob.Bucket, data []byte) (T, error)) echo.HandlerFunc {
	return func(c *echo.Context) error {
		data, err := uploaded(c, most)
		if err != nil {
			return err
		}
		v, err := keep(c.Request().Context(), a.Bucket, data)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, v)
	}
}

// kept answers with the bytes of a file whose name always means the same bytes.
func kept(c *echo.Context, kind string, body []byte) error {
	forGood(c)
	return c.Blob(http.StatusOK, kind, body)
}

func forGood(c *echo.Context) {
	c.Response().Header().Set("Cache-Control", "private, max-age=31536000, immutable")
}

// serves answers with a file by its name.
func serves(a *API, kind string, read func(ctx context.Context, bucket *blob.Bucket, name string) ([]byte, error)) echo.HandlerFunc {
	return func(c *echo.Context) error {
		body, err := read(c.Request().Context(), a.Bucket, c.Param("name"))
		if err != nil {
			return err
		}
		return kept(c, kind, body)
	}
}

// panelPages are the pictures of a PDF's pages.
type panelPages struct {
	Pages []media.Image `json:"pages"`
}

// files serves what scenes keep besides their documents.
func (a *API) files(e *echo.Echo) {
	e.POST("/api/images", taken(a, media.MaxImageBytes, media.KeepImage))
	e.GET("/api/images/:name", serves(a, "image/jpeg", media.ImageBytes))
	e.POST("/api/panels", taken(a, media.MaxPanelBytes, func(ctx context.Context, bucket *blob.Bucket, data []byte) (panelPages, error) {
		pages, err := media.Panels(ctx, bucket, data)
		return panelPages{pages}, err
	}))
	e.POST("/api/sounds", taken(a, media.MaxSoundBytes, media.KeepSound))
	sound := func(peaks bool) func(context.Context, *blob.Bucket, string) ([]byte, error) {
		return func(ctx context.Context, bucket *blob.Bucket, name string) ([]byte, error) {
			return media.SoundBytes(ctx, bucket, name, peaks)
		}
	}
	e.GET("/api/sounds/:name", serves(a, "audio/flac", sound(false)))
	e.GET("/api/sounds/:name/peaks", serves(a, "application/octet-stream", sound(true)))
	e.POST("/api/footage", func(c *echo.Context) error {
		rate, err := timing.ParseRate(c.QueryParam("rate"))
		if err != nil {
			return badInput(fmt.Errorf("say the rate of the scene: %w", err))
		}
		return taken(a, media.MaxFootageBytes, func(ctx context.Context, bucket *blob.Bucket, data []byte) (media.Footage, error) {
			return media.KeepFootage(ctx, bucket, data, rate)
		})(c)
	})
	e.GET("/api/footage/:name", a.footage)
	e.GET("/api/scenes/:scene/assemblies/:assembly/sheets/:kind", a.sheet)
	e.GET("/api/footage/:name/picture", serves(a, "image/jpeg", media.FootagePicture))
}

// footage serves a video with byte ranges.
func (a *API) footage(c *echo.Context) error {
	r, err := media.OpenFootage(c.Request().Context(), a.Bucket, c.Param("name"))
	if err != nil {
		return err
	}
	defer func() { _ = r.Close() }()
	forGood(c)
	c.Response().Header().Set("Content-Type", "video/mp4")
	http.ServeContent(c.Response(), c.Request(), c.Param("name")+".mp4", r.ModTime(), r)
	return nil
}

// sheet makes a shot list with pictures, as a spreadsheet or as pages to print.
func (a *API) sheet(c *echo.Context) error {
	ctx := c.Request().Context()
	doc, _, err := a.Store.Document(ctx, c.Param("scene"))
	if err != nil {
		return err
	}
	id := c.Param("assembly")
	if _, ok := doc.Assemblies[id]; !ok {
		return echo.NewHTTPError(http.StatusNotFound, "there is no such assembly in the scene")
	}
	files, end, err := render.FilesOf(ctx, a.Bucket, doc)
	if err != nil {
		return err
	}
	defer end()
	size := sheets.Size(doc.Formats[doc.Settings.Format])
	painter, err := picture.NewPainter(doc, files, id, size, runtime.NumCPU())
	if err != nil {
		return err
	}
	kind := sheets.Kind(c.Param("kind"))
	data, media, err := sheets.Make(ctx, doc, id, kind, func(frame int) (*image.RGBA, error) {
		im := image.NewRGBA(image.Rect(0, 0, size.Width, size.Height))
		return im, painter.Frame(frame, im)
	})
	if err != nil {
		return badInput(err)
	}
	ending := "pdf"
	if kind == sheets.Spreadsheet {
		ending = "xlsx"
	}
	name := naming.Sheet(doc.Settings.Title, doc.Assemblies[id].Name, string(kind), ending)
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+name+`"`)
	return c.Blob(http.StatusOK, media, data)
}
