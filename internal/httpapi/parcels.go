package httpapi

import (
	"fmt"
	"io"
	"mime"
	"net/http"
	"os"

	"github.com/labstack/echo/v5"

	"proscen/core/naming"
	"proscen/internal/media"
	"proscen/internal/parcel"
	"proscen/internal/scratch"
)

// pack sends a scene with its files as a zip.
func (a *API) pack(c *echo.Context) error {
	ctx := c.Request().Context()
	doc, _, err := a.Store.Document(ctx, c.Param("scene"))
	if err != nil {
		return err
	}
	// In a file first: once the answer has begun, it can only be broken off.
	file, err := scratch.File("parcel")
	if err != nil {
		return err
	}
	defer func() { _ = file.Close(); _ = os.Remove(file.Name()) }()
	if _, err := parcel.Pack(ctx, file, a.Bucket, doc); err != nil {
		return scratch.Full(err)
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	name := naming.Slug(doc.Settings.Production) + "_" + naming.Slug(doc.Settings.Title) + ".zip"
	c.Response().Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	return c.Stream(http.StatusOK, "application/zip", file)
}

// unpack takes in a packed scene.
func (a *API) unpack(c *echo.Context) error {
	file, err := scratch.File("parcel")
	if err != nil {
		return err
	}
	defer func() { _ = file.Close(); _ = os.Remove(file.Name()) }()
	size, err := io.Copy(file, io.LimitReader(c.Request().Body, parcel.MaxBytes+1))
	if err != nil {
		return scratch.Full(err)
	}
	if size > parcel.MaxBytes {
		return fmt.Errorf("%w: it has more than %d GB", parcel.ErrParcel, parcel.MaxBytes>>30)
	}
	ctx := c.Request().Context()
	doc, missing, err := parcel.Unpack(ctx, file, size, a.Bucket)
	if err != nil {
		return err
	}
	info, err := a.Store.TakeIn(ctx, doc)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Unpacked{Scene: sceneInfo(info), Missing: called(missing)})
}

func called(files []media.File) []string {
	out := make([]string, len(files))
	for i, f := range files {
		out[i] = f.For
	}
	return out
}
