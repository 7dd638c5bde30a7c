package httpapi

import (
	"context"
	"fmt"
	"strconv"

	"github.com/labstack/echo/v5"

	"proscen/core/interchange"
	"proscen/core/timing"
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
	if text := c.QueryParam("rate"); text != "" { // of the scene, for the cameras in it
		rate, err := timing.ParseRate(text)
		if err != nil {
			return badInput(err)
		}
		o.Shoot = &interchange.Shoot{Rate: rate.PerSecond(), Aspect: 16.0 / 9}
		if err := echo.QueryParamsBinder(c).Int("in", &o.Shoot.In).Float64("aspect", &o.Shoot.Aspect).BindError(); err != nil || !(o.Shoot.Aspect > 0) {
			return badInput(fmt.Errorf("the first frame and the aspect of the scene are numbers"))
		}
	}
	return taken(a, interchange.MaxFileBytes, func(ctx context.Context, bucket *blobs.Bucket, u *media.Upload) (media.Converted, error) {
		return media.Convert(ctx, bucket, u, o)
	})(c)
}
