package httpapi

import (
	"compress/gzip"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"proscen/web"
)

// frontEnd serves the built pages, or says that they are not built. What is built
// under assets/ has its content in its name, lies there compressed too, and is kept
// by browsers for good.
func (a *API) frontEnd(e *echo.Echo) {
	dist, built := web.Dist()
	files := http.FileServerFS(dist)
	e.GET("/*", func(c *echo.Context) error {
		if !built {
			return c.String(http.StatusServiceUnavailable, "The front end is not built. Run ‘make build’ (or ‘make start’) and start the server again.\n")
		}
		name := strings.TrimPrefix(c.Request().URL.Path, "/")
		if strings.HasPrefix(name, "api/") {
			return echo.NewHTTPError(http.StatusNotFound, "there is nothing at this address")
		}
		w, r := c.Response(), c.Request()
		if strings.HasPrefix(name, "assets/") {
			w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			if asset(w, r, dist, name) {
				return nil
			}
		} else {
			w.Header().Set("Cache-Control", "no-cache")
		}
		if _, err := fs.Stat(dist, name); name == "" || err != nil {
			if strings.HasPrefix(name, "assets/") { // of another build: a page in its place would be taken for a script
				w.Header().Set("Cache-Control", "no-store")
				return echo.NewHTTPError(http.StatusNotFound, "this is of another build; reload the page")
			}
			r = r.Clone(r.Context())
			r.URL.Path = "/"
		}
		files.ServeHTTP(w, r)
		return nil
	})
}

// asset sends a file that lies there compressed, as the browser takes it.
func asset(w http.ResponseWriter, r *http.Request, dist fs.FS, name string) bool {
	zipped, err := fs.ReadFile(dist, name+".gz")
	if err != nil {
		return false
	}
	h := w.Header()
	h.Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
	h.Add("Vary", "Accept-Encoding")
	takes := r.Header.Get("Accept-Encoding")
	body, coding := zipped, "gzip"
	if accepts(takes, "br") {
		if b, err := fs.ReadFile(dist, name+".br"); err == nil {
			body, coding = b, "br"
		}
	}
	if coding == "gzip" && !accepts(takes, "gzip") {
		z, err := gzip.NewReader(strings.NewReader(string(zipped)))
		if err != nil {
			return false
		}
		_, _ = io.Copy(w, z)
		return true
	}
	h.Set("Content-Encoding", coding)
	h.Set("Content-Length", strconv.Itoa(len(body)))
	_, _ = w.Write(body)
	return true
}

// accepts reads an Accept-Encoding header (RFC 9110, 12.5.3) for one coding.
func accepts(header, coding string) bool {
	for _, part := range strings.Split(header, ",") {
		name, weight, _ := strings.Cut(strings.TrimSpace(part), ";")
		if strings.EqualFold(strings.TrimSpace(name), coding) {
			q := strings.TrimPrefix(strings.ReplaceAll(weight, " ", ""), "q=")
			v, err := strconv.ParseFloat(q, 64)
			return weight == "" || err != nil || v > 0
		}
	}
	return false
}
