package httpapi

import (
	"context"
	"fmt"
	"strconv"

	"github.com/labstack/echo/v5"

	"proscen/core/interchange"
	"proscen/core/scene"
	"proscen/internal/blobs"
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
	return taken(a, interchange.MaxFileBytes, func(ctx context.Context, bucket *blobs.Bucket, u *media.Upload) (scene.Model, error) {
		return media.Convert(ctx, bucket, u, o)
	})(c)
}
