package httpapi

import (
	"context"
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"proscen/core/timing"
	"proscen/internal/blobs"
	"proscen/internal/media"
	"proscen/internal/sheets"
)

// taken answers an upload with what is kept of it. It lies on the disk while it is
// worked on.
func taken[T any](a *API, most int64, keep func(ctx context.Context, bucket *blobs.Bucket, u *media.Upload) (T, error)) echo.HandlerFunc {
	return func(c *echo.Context) error {
		u, err := media.Receive(c.Request().Body, most)
		if err != nil {
			return err
		}
		defer u.End()
		v, err := keep(c.Request().Context(), a.Bucket, u)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, v)
	}
}

// serves answers with a file by its name, which always means the same bytes; with
// byte ranges.
func (a *API) serves(kind media.Kind, param string) echo.HandlerFunc {
	return func(c *echo.Context) error {
		f := media.File{Kind: kind, Blob: c.Param(param)}
		r, err := media.Open(c.Request().Context(), a.Bucket, f)
		if err != nil {
			return err
		}
		defer func() { _ = r.Close() }()
		h := c.Response().Header()
		h.Set("Cache-Control", "private, max-age=31536000, immutable")
		h.Set("Content-Type", f.Media())
		http.ServeContent(c.Response(), c.Request(), "", r.ModTime(), r)
		return nil
	}
}

// panelPages are the pictures of a PDF's pages.
type panelPages struct {
	Pages []media.Image `json:"pages"`
}

// table is a spreadsheet as comma-separated values.
type table struct {
	Text string `json:"text"`
}

// files serves what scenes keep besides their documents.
func (a *API) files(api *echo.Group) {
	api.POST("/models", a.convertModel)
	api.GET("/models/:model", a.serves(media.Model, "model"))
	api.POST("/images", taken(a, media.MaxImageBytes, media.KeepImage))
	api.GET("/images/:image", a.serves(media.Still, "image"))
	api.POST("/panels", taken(a, media.MaxPanelBytes, func(ctx context.Context, bucket *blobs.Bucket, u *media.Upload) (panelPages, error) {
		pages, err := media.Panels(ctx, bucket, u)
		return panelPages{pages}, err
	}))
	api.POST("/tables", taken(a, sheets.MaxTableBytes, func(_ context.Context, _ *blobs.Bucket, u *media.Upload) (table, error) {
		data, err := u.Bytes()
		if err != nil {
			return table{}, err
		}
		text, err := sheets.Table(data)
		return table{string(text)}, err
	}))
	api.POST("/sounds", taken(a, media.MaxSoundBytes, media.KeepSound))
	api.GET("/sounds/:name", a.serves(media.SoundFile, "name"))
	api.GET("/sounds/:name/peaks", a.serves(media.PeaksFile, "name"))
	api.POST("/footage", func(c *echo.Context) error {
		rate, err := timing.ParseRate(c.QueryParam("rate"))
		if err != nil {
			return badInput(fmt.Errorf("say the rate of the scene: %w", err))
		}
		return taken(a, media.MaxFootageBytes, func(ctx context.Context, bucket *blobs.Bucket, u *media.Upload) (media.Footage, error) {
			return media.KeepFootage(ctx, bucket, u, rate)
		})(c)
	})
	api.GET("/footage/:name", a.serves(media.VideoFile, "name"))
	api.GET("/footage/:name/picture", a.serves(media.FirstFrame, "name"))
}
