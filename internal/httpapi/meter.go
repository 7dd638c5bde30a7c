package httpapi

import (
	"context"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"proscen/internal/store"
)

// meter counts what the server does, for those who watch it.
type meter struct {
	all      *prometheus.Registry
	requests *prometheus.HistogramVec
}

// newMeter returns a meter of a server; see docs/operations.md for what it tells.
func newMeter(a *API) *meter {
	m := &meter{all: prometheus.NewRegistry(), requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "proscen_request_seconds", Help: "How long requests took, by method, address and status.",
		Buckets: []float64{.005, .025, .1, .5, 2.5, 10, 60},
	}, []string{"method", "route", "status"})}
	pages := prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "proscen_open_pages", Help: "Browsers that have a scene open."}, func() float64 { return float64(a.Hub.Count()) })
	held := prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "proscen_held_scenes", Help: "Scenes that are held in memory."}, func() float64 { return float64(a.Store.Held()) })
	m.all.MustRegister(m.requests, pages, held, outputCounts{a.Store}, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

// measured notes how long requests take. Pages that listen are no requests in this sense.
func (a *API) measured(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		start := time.Now()
		err := next(c)
		if c.Path() == eventsPath {
			return err
		}
		status := http.StatusOK
		if err != nil {
			status = problem(err).Status
		} else if r, _ := echo.UnwrapResponse(c.Response()); r != nil && r.Status != 0 {
			status = r.Status
		}
		a.meter.requests.WithLabelValues(c.Request().Method, c.Path(), strconv.Itoa(status)).Observe(time.Since(start).Seconds())
		return err
	}
}

func (a *API) metrics(c *echo.Context) error {
	promhttp.HandlerFor(a.meter.all, promhttp.HandlerOpts{EnableOpenMetrics: true, ErrorHandling: promhttp.ContinueOnError}).ServeHTTP(c.Response(), c.Request())
	return nil
}

// outputCounts asks the database how many outputs there are in each state.
type outputCounts struct{ store *store.Store }

var outputsDesc = prometheus.NewDesc("proscen_outputs", "Outputs of deliveries, by state.", []string{"state"}, nil)

// Describe implements prometheus.Collector.
func (o outputCounts) Describe(to chan<- *prometheus.Desc) { to <- outputsDesc }

// Collect implements prometheus.Collector.
func (o outputCounts) Collect(to chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	counts, err := o.store.OutputCounts(ctx)
	if err != nil {
		to <- prometheus.NewInvalidMetric(outputsDesc, err)
		return
	}
	for _, state := range store.States {
		to <- prometheus.MustNewConstMetric(outputsDesc, prometheus.GaugeValue, float64(counts[state]), string(state))
	}
}
