package httpapi

import (
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"mime"
	"net"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"proscen/core/interchange"
	"proscen/core/scene"
	"proscen/core/sync"
	"proscen/internal/blobs"
	"proscen/internal/ffmpeg"
	"proscen/internal/live"
	"proscen/internal/media"
	"proscen/internal/parcel"
	"proscen/internal/production"
	"proscen/internal/render"
	"proscen/internal/scratch"
	"proscen/internal/sheets"
	"proscen/internal/store"
	"proscen/internal/turns"
)

// API answers the requests that api/openapi.yaml describes.
type API struct {
	Store  *store.Store
	Queue  *render.Queue
	Bucket *blobs.Bucket
	Hub    *live.Hub
	Log    *slog.Logger

	// Public is the address that a proxy before this server has, nil without one. The
	// proxy says in UserHeader who a request is from.
	Public     *url.URL
	UserHeader string

	// Threads is how many paint a frame that somebody waits for; 0 counts as 1.
	Threads int

	// Pace is how long others are waited for; the zero value is Pace of servers.
	Pace Pace
	// Stopping is closed when the server stops: whoever listens is let go. Nil is never.
	Stopping <-chan struct{}

	meter  *meter
	prints *render.Prints
}

// Pace is how long a server waits for the other side.
type Pace struct {
	Body time.Duration // a body may take long, but not stand still for so long
	Look time.Duration // how often an open page is asked whether it is there
	Say  time.Duration // how long it has to answer, and to take what it is told
}

var usualPace = Pace{Body: 20 * time.Second, Look: 15 * time.Second, Say: 10 * time.Second}

// Handler returns the whole web server: API, events, files and front end.
func (a *API) Handler() (http.Handler, error) {
	a.meter, a.prints = newMeter(a), render.NewPrints(a.Bucket)
	if a.Pace == (Pace{}) {
		a.Pace = usualPace
	}
	e := echo.New()
	e.Logger = a.Log
	e.HTTPErrorHandler = a.fail
	described, err := described()
	if err != nil {
		return nil, fmt.Errorf("the description of the API cannot be read: %w", err)
	}
	e.Use(middleware.Recover(), a.logged, a.measured, headers, a.admitted, addressed, described, a.flowing, spooled)
	api := e.Group("/api")
	RegisterHandlers(api, NewStrictHandler(a, nil))
	e.GET(eventsPath, a.events)
	api.GET("/metrics", a.metrics)
	api.GET("/scenes/:scene/picture", a.scenePicture)
	api.GET("/scenes/:scene/parcel", a.pack)
	api.POST("/parcels", a.unpack)
	api.GET("/outputs/:output/file", a.outputFile)
	api.GET("/deliveries/:delivery/files", a.deliveryFiles)
	api.GET("/deliveries/:delivery/contact", a.contactSheet)
	api.GET("/scenes/:scene/pulls", a.pullSheet)
	api.GET("/scenes/:scene/frame", a.frame)
	api.POST("/scenes/:scene/beside", a.beside)
	api.GET("/scenes/:scene/stage", a.stage)
	api.GET("/outputs/:output/picture", a.picture)
	a.files(api)
	a.frontEnd(e)
	return e, nil
}

// pathOf is the address of a request as the log has it.
func pathOf(c *echo.Context) string {
	if path := c.Request().URL.Path; len(path) <= 200 {
		return path
	}
	return c.Request().URL.Path[:200] + "…"
}

// logged writes one line for each request that fails or takes long.
func (a *API) logged(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		start := time.Now()
		err := next(c)
		took := time.Since(start)
		if err != nil || took > time.Second && !strings.HasSuffix(c.Request().URL.Path, "/events") {
			a.Log.Info("request", "method", c.Request().Method, "path", pathOf(c), "took", took.Round(time.Millisecond), "error", err)
		}
		return err
	}
}

// admitted refuses requests that a page from elsewhere makes a browser send to this
// machine: the host must be a loopback name, or the one that a proxy serves, and so
// must the origin. What comes through a proxy says who it is.
func (a *API) admitted(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		own := &url.URL{Scheme: "http", Host: r.Host}
		switch {
		case a.Public != nil && strings.EqualFold(r.Host, a.Public.Host):
			own = a.Public
			if strings.TrimSpace(r.Header.Get(a.UserHeader)) == "" {
				return echo.NewHTTPError(http.StatusUnauthorized, "the proxy has not said who you are; log in there")
			}
		case !loopbackHost(r.Host):
			return echo.NewHTTPError(http.StatusForbidden, "this address is not served here; open the address that the start command printed")
		}
		if o := r.Header.Get("Origin"); o != "" && !strings.EqualFold(o, own.Scheme+"://"+own.Host) {
			return echo.NewHTTPError(http.StatusForbidden, "requests from other sites are refused")
		}
		return next(c)
	}
}

func loopbackHost(hostport string) bool {
	host, _, err := net.SplitHostPort(hostport)
	if err != nil {
		host = hostport
	}
	if host == "localhost" {
		return true
	}
	ip := net.ParseIP(strings.Trim(host, "[]"))
	return ip != nil && ip.IsLoopback()
}

// CheckListen refuses addresses that other machines could reach: there are no
// accounts yet.
func CheckListen(address string) error {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return fmt.Errorf("the address %q cannot be read; write it as 127.0.0.1:8470", address)
	}
	if !loopbackHost(host) {
		return fmt.Errorf("refusing to listen on %q: without accounts only this machine may connect; use 127.0.0.1 or localhost", address)
	}
	return nil
}

// fail answers an error as a problem document.
func (a *API) fail(c *echo.Context, err error) {
	if r, _ := echo.UnwrapResponse(c.Response()); r != nil && r.Committed {
		return
	}
	p := problem(err)
	if p.Status == http.StatusInternalServerError {
		a.Log.Error("request failed", "path", pathOf(c), "error", err)
	}
	body, _ := json.Marshal(p)
	_ = c.Blob(p.Status, "application/problem+json", body)
}

func problem(err error) Problem {
	var clash sync.ClashError
	var problems scene.Problems
	var coder echo.HTTPStatusCoder
	var refused production.RefusedError
	var tooLarge *http.MaxBytesError
	var wrong *pgconn.PgError
	switch {
	case errors.As(err, &clash):
		return Problem{Title: err.Error(), Status: http.StatusConflict, Revision: &clash.Current}
	case errors.As(err, &problems):
		fields := make([]FieldProblem, len(problems))
		for i, p := range problems {
			fields[i] = FieldProblem{Path: p.Path, Message: p.Message}
		}
		return Problem{Title: "This was not done: " + err.Error(), Status: http.StatusUnprocessableEntity, Fields: &fields}
	case errors.Is(err, store.ErrNotFound):
		return Problem{Title: err.Error(), Status: http.StatusNotFound}
	case media.IsMissing(err):
		return Problem{Title: err.Error(), Status: http.StatusNotFound}
	case errors.Is(err, blobs.ErrFull), errors.Is(err, scratch.ErrFull):
		return Problem{Title: "Nothing was changed: " + err.Error(), Status: http.StatusInsufficientStorage}
	case errors.Is(err, turns.ErrBusy), errors.Is(err, ffmpeg.ErrKilled):
		return Problem{Title: "Nothing was changed: " + err.Error(), Status: http.StatusServiceUnavailable}
	case errors.Is(err, errStill):
		return Problem{Title: err.Error(), Status: http.StatusRequestTimeout}
	case errors.Is(err, errBrokenOff):
		return Problem{Title: err.Error(), Status: http.StatusBadRequest}
	case errors.As(err, &wrong) && strings.HasPrefix(wrong.Code, "22"): // data exception
		return Problem{Title: "A number or a text in the request is none that can be kept.", Status: http.StatusUnprocessableEntity}
	case errors.Is(err, interchange.ErrModel), errors.Is(err, media.ErrImage), errors.Is(err, media.ErrSound), errors.Is(err, media.ErrFootage), errors.Is(err, parcel.ErrParcel), errors.Is(err, sheets.ErrTable), errors.Is(err, ffmpeg.ErrMissing):
		return Problem{Title: "This was not imported. " + err.Error(), Status: http.StatusUnprocessableEntity}
	case errors.Is(err, store.ErrTaken), errors.Is(err, store.ErrVersionTaken), errors.Is(err, store.ErrNameTaken), errors.Is(err, store.ErrInUse):
		return Problem{Title: err.Error(), Status: http.StatusConflict}
	case errors.As(err, &refused):
		return Problem{Title: err.Error(), Status: http.StatusUnprocessableEntity}
	case errors.Is(err, errBadInput):
		return Problem{Title: strings.TrimPrefix(err.Error(), errBadInput.Error()+": "), Status: http.StatusUnprocessableEntity}
	case errors.As(err, &tooLarge):
		return Problem{Title: fmt.Sprintf("The request is larger than %d MB and was refused.", tooLarge.Limit>>20), Status: http.StatusRequestEntityTooLarge}
	case errors.As(err, &coder):
		title := err.Error()
		var he *echo.HTTPError
		if errors.As(err, &he) && he.Message != "" {
			title = he.Message
		}
		return Problem{Title: title, Status: coder.StatusCode()}
	}
	return Problem{Title: "The server could not finish this; its log says why. Look whether it was done before you do it again.", Status: http.StatusInternalServerError}
}

var errBadInput = errors.New("bad input")

func badInput(err error) error { return fmt.Errorf("%w: %w", errBadInput, err) }

// outputFile serves a finished output with byte ranges.
func (a *API) outputFile(c *echo.Context) error {
	ctx := c.Request().Context()
	o, err := a.Store.Output(ctx, c.Param("output"))
	if err != nil {
		return err
	}
	if o.State != store.Done {
		return echo.NewHTTPError(http.StatusNotFound, "this is not finished")
	}
	if o.Kind == store.Pictures {
		keys, err := a.Bucket.Keys(ctx, o.File)
		if err != nil {
			return err
		}
		return a.zipped(c, path.Base(o.File), path.Dir(o.File), slices.Sorted(maps.Keys(keys)), nil)
	}
	r, err := a.Bucket.NewReader(ctx, o.File, nil)
	if err != nil {
		return fmt.Errorf("the file cannot be opened: %w", err)
	}
	defer func() { _ = r.Close() }()
	name := o.File[strings.LastIndexByte(o.File, '/')+1:]
	h := c.Response().Header()
	kind, shown := render.MediaType(name), "inline"
	if !o.Film() {
		kind, shown = sheets.Kind(o.Kind).Media(), "attachment"
	}
	h.Set("Content-Type", kind)
	h.Set("Content-Disposition", mime.FormatMediaType(shown, map[string]string{"filename": name}))
	h.Set("ETag", `"`+o.Sha256+`"`)
	http.ServeContent(c.Response(), c.Request(), name, r.ModTime(), r)
	return nil
}

func (a *API) picture(c *echo.Context) error {
	o, err := a.Store.Output(c.Request().Context(), c.Param("output"))
	if err != nil {
		return err
	}
	if len(o.Picture) == 0 {
		return echo.NewHTTPError(http.StatusNotFound, "there is no picture yet")
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.Blob(http.StatusOK, "image/jpeg", o.Picture)
}
