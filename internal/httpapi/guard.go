package httpapi

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/labstack/echo/v5"

	"proscen/api"
	"proscen/core/scene"
	"proscen/internal/media"
	"proscen/internal/turns"
)

// Bounds of requests.
const (
	maxBody    = scene.MaxBytes + 1<<20 // a whole document at most
	smallBody  = 1 << 20                // larger ones wait for their turn
	maxAddress = 4 << 10
)

// takesFiles tells requests that bring files with bounds of their own.
func takesFiles(c *echo.Context) bool {
	switch c.Request().URL.Path {
	case "/api/images", "/api/models", "/api/sounds", "/api/footage", "/api/panels", "/api/tables", "/api/parcels":
		return true
	}
	return false
}

// headers says how browsers take what is answered: as what it is called, and nothing
// from elsewhere.
func headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("X-Content-Type-Options", "nosniff")
		if strings.HasPrefix(c.Request().URL.Path, "/api/") {
			h.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'")
		} else {
			h.Set("Content-Security-Policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; connect-src 'self' ws: wss:; frame-ancestors 'none'")
		}
		return next(c)
	}
}

// addressed refuses addresses that are too long or hold what is no text.
func addressed(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		u := c.Request().URL
		query, err := url.QueryUnescape(u.RawQuery)
		switch {
		case len(u.Path)+len(u.RawQuery) > maxAddress:
			return echo.NewHTTPError(http.StatusRequestURITooLong, fmt.Sprintf("the address is longer than %d characters", maxAddress))
		case err != nil || !plain(query) || !plain(u.Path):
			return echo.NewHTTPError(http.StatusBadRequest, "the address holds characters that are no text")
		}
		return next(c)
	}
}

func plain(s string) bool { return utf8.ValidString(s) && strings.IndexByte(s, 0) < 0 }

// described holds requests to what the description of the API says of their
// parameters.
func described() (echo.MiddlewareFunc, error) {
	spec, err := openapi3.NewLoader().LoadFromData(api.Spec)
	if err != nil {
		return nil, err
	}
	variable := regexp.MustCompile(`:(\w+)`)
	options := &openapi3filter.Options{SkipSettingDefaults: true}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			path := variable.ReplaceAllString(strings.TrimPrefix(c.Path(), "/api"), "{$1}")
			item := spec.Paths.Find(path)
			if item == nil {
				return next(c)
			}
			operation := item.GetOperation(c.Request().Method)
			if operation == nil {
				return next(c)
			}
			in := &openapi3filter.RequestValidationInput{
				Request: c.Request(), PathParams: map[string]string{}, QueryParams: c.Request().URL.Query(), Options: options,
				Route: &routers.Route{Spec: spec, Path: path, PathItem: item, Method: c.Request().Method, Operation: operation},
			}
			for _, v := range c.PathValues() {
				in.PathParams[v.Name] = v.Value
			}
			for _, all := range []openapi3.Parameters{item.Parameters, operation.Parameters} {
				for _, p := range all {
					if err := openapi3filter.ValidateParameter(c.Request().Context(), in, p.Value); err != nil {
						return misfit(p.Value, err)
					}
				}
			}
			return next(c)
		}
	}, nil
}

// misfit answers a parameter that is not as described: what cannot be an address is
// none, and what is asked wrongly is told.
func misfit(p *openapi3.Parameter, err error) error {
	if p.In == openapi3.ParameterInPath {
		return echo.NewHTTPError(http.StatusNotFound, "there is nothing at this address")
	}
	why := "is of another form"
	var schema *openapi3.SchemaError
	switch {
	case errors.As(err, &schema):
		why = schema.Reason
	case errors.Is(err, openapi3filter.ErrInvalidRequired):
		why = "is missing"
	}
	if p.Description != "" {
		why += " (" + p.Description + ")"
	}
	return echo.NewHTTPError(http.StatusBadRequest, fmt.Sprintf("the parameter %q %s", p.Name, why))
}

// Bodies that did not come whole.
var (
	errStill     = errors.New("nothing came for long, so the request was ended; send it again")
	errBrokenOff = errors.New("the request broke off; send it again")
)

// moving is a body that may not stand still.
type moving struct {
	io.ReadCloser
	control *http.ResponseController
	within  time.Duration
}

func (m moving) Read(p []byte) (int, error) {
	_ = m.control.SetReadDeadline(time.Now().Add(m.within)) // not every server has them
	n, err := m.ReadCloser.Read(p)
	switch {
	case errors.Is(err, io.EOF):
		_ = m.control.SetReadDeadline(time.Time{}) // otherwise it stays: nothing more is waited for
	case errors.Is(err, os.ErrDeadlineExceeded):
		err = errStill
	case errors.Is(err, io.ErrUnexpectedEOF):
		err = errBrokenOff
	}
	return n, err
}

// leaving is an answer that may not stand still: each piece of it is taken in time, or
// the connection ends.
type leaving struct {
	http.ResponseWriter
	control *http.ResponseController
	within  time.Duration
}

// piece is how much of an answer has the whole time to be taken, in bytes.
const piece = 256 << 10

func (l leaving) Write(p []byte) (int, error) {
	sent := 0
	for {
		_ = l.control.SetWriteDeadline(time.Now().Add(l.within))
		n, err := l.ResponseWriter.Write(p[sent:min(len(p), sent+piece)])
		sent += n
		if err != nil || sent == len(p) {
			return sent, err
		}
	}
}

// Unwrap is how the server's own writer is found.
func (l leaving) Unwrap() http.ResponseWriter { return l.ResponseWriter }

// flowing ends requests whose body stands still, and answers that nobody takes.
func (a *API) flowing(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		control := http.NewResponseController(c.Response())
		if r := c.Request(); r.Body != nil && r.Body != http.NoBody {
			r.Body = moving{r.Body, control, a.Pace.Body}
		}
		if c.IsWebSocket() { // it has times of its own
			return next(c)
		}
		c.SetResponse(leaving{c.Response(), control, a.Pace.Body})
		err := next(c)
		_ = control.SetWriteDeadline(time.Now().Add(a.Pace.Body)) // for what is still kept back
		return err
	}
}

// spooled reads a JSON body before anything is made of it. Large ones wait on the disk
// for their turn; what cannot be kept, or would take much memory, is refused.
func spooled(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if r.Body == nil || r.Body == http.NoBody || takesFiles(c) {
			return next(c)
		}
		limited := http.MaxBytesReader(c.Response(), r.Body, maxBody)
		body, err := io.ReadAll(io.LimitReader(limited, smallBody))
		if err != nil {
			return err
		}
		if len(body) == smallBody {
			u, err := media.Receive(io.MultiReader(bytes.NewReader(body), limited), maxBody)
			if err != nil {
				return err
			}
			defer u.End()
			done, err := turns.Take(r.Context(), 8*u.Size)
			if err != nil {
				return err
			}
			defer done()
			if body, err = u.Bytes(); err != nil {
				return err
			}
		}
		if err := scene.Plain(body); err != nil {
			return badInput(fmt.Errorf("the request %w", err))
		}
		if scene.Weigh(body).Things > scene.MaxThings {
			return badInput(fmt.Errorf("the request holds more than %d things", scene.MaxThings))
		}
		r.Body = io.NopCloser(bytes.NewReader(body))
		return next(c)
	}
}
