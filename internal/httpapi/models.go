package httpapi

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"proscen/core/interchange"
	"proscen/internal/media"
)

// convertModel reads an uploaded model as its query says and stores its bundle.
func (a *API) convertModel(c *echo.Context) error {
	o := interchange.Options{Unit: 1, ZUp: c.QueryParam("up") == "z"}
	if u := c.QueryParam("unit"); u != "" {
		v, err := strconv.ParseFloat(u, 64)
		if err != nil {
			return badInput(fmt.Errorf("the unit %q is not a number of metres", u))
		}
		o.Unit = v
	}
	data, err := uploaded(c, interchange.MaxFileBytes)
	if err != nil {
		return err
	}
	m, err := media.Convert(c.Request().Context(), a.Bucket, data, o)
	if err != nil {
		return err
	}
	body, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "application/json", body)
}

// model serves a mesh bundle; a name always means the same bytes.
func (a *API) model(c *echo.Context) error {
	body, err := media.Bytes(c.Request().Context(), a.Bucket, c.Param("model"))
	if err != nil {
		return err
	}
	return kept(c, "application/octet-stream", body)
}
