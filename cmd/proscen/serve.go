package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"runtime"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"proscen/core/raster"
	"proscen/internal/blobs"
	"proscen/internal/demo"
	"proscen/internal/httpapi"
	"proscen/internal/live"
	"proscen/internal/production"
	"proscen/internal/render"
	"proscen/internal/scratch"
	"proscen/internal/store"
	"proscen/web"
)

// settings are what servers and workers share; each flag has an environment
// variable of the same meaning.
type settings struct {
	database, blobs string
	threads         int
	logJSON         bool
}

func env(name, def string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return def
}

func envInt(name string, def int) int {
	if v, err := strconv.Atoi(os.Getenv(name)); err == nil {
		return v
	}
	return def
}

func (s *settings) flags(c *cobra.Command) {
	f := c.Flags()
	f.StringVar(&s.database, "database", env("PROSCEN_DATABASE", ""), "PostgreSQL address, postgres://… (PROSCEN_DATABASE)")
	f.StringVar(&s.blobs, "blobs", env("PROSCEN_BLOBS", "var/blobs"), "folder or bucket address for videos (PROSCEN_BLOBS)")
	f.IntVar(&s.threads, "threads", envInt("PROSCEN_THREADS", min(runtime.NumCPU(), raster.MaxThreads)), "rendering threads (PROSCEN_THREADS)")
	f.BoolVar(&s.logJSON, "log-json", env("PROSCEN_LOG_JSON", "") != "", "log as JSON (PROSCEN_LOG_JSON)")
}

func (s *settings) logger() *slog.Logger {
	if s.logJSON {
		return slog.New(slog.NewJSONHandler(os.Stderr, nil))
	}
	return slog.New(slog.NewTextHandler(os.Stderr, nil))
}

func (s *settings) open(ctx context.Context) (*store.Store, error) {
	if s.database == "" {
		return nil, badInput("no database is given; run ‘make start’, or set --database or PROSCEN_DATABASE")
	}
	return store.Open(ctx, s.database)
}

// connect opens database and blob store; the caller ends both with end.
func (s *settings) connect(ctx context.Context) (st *store.Store, bucket *blobs.Bucket, end func(), err error) {
	if st, err = s.open(ctx); err != nil {
		return nil, nil, nil, err
	}
	if bucket, err = blobs.Open(ctx, s.blobs); err != nil {
		st.Close()
		return nil, nil, nil, err
	}
	return st, bucket, func() { _ = bucket.Close(); st.Close(); scratch.End() }, nil
}

// serving is what only servers need.
type serving struct {
	listen, public, userHeader string
	demo, noWorker             bool
}

func (o *serving) check() error {
	if o.public == "" {
		return nil
	}
	u, err := url.Parse(o.public)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || strings.Trim(u.Path, "/") != "" || o.userHeader == "" {
		return fmt.Errorf("--public %q is no address of a proxy; write it as https://proscen.example", o.public)
	}
	return nil
}

func (s *settings) check() error {
	if s.threads < 1 || s.threads > raster.MaxThreads {
		return fmt.Errorf("--threads must be from 1 to %d", raster.MaxThreads)
	}
	return nil
}

func serveCommand() *cobra.Command {
	var s settings
	var o serving
	c := &cobra.Command{
		Use: "serve", Short: "Serve the web application and render deliveries", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := errors.Join(httpapi.CheckListen(o.listen), s.check(), o.check()); err != nil {
				return inputError{err}
			}
			return serve(cmd.Context(), &s, &o)
		},
	}
	s.flags(c)
	c.Flags().StringVar(&o.listen, "listen", env("PROSCEN_LISTEN", "127.0.0.1:8470"), "loopback address (PROSCEN_LISTEN)")
	c.Flags().BoolVar(&o.demo, "demo", false, "load the demonstration scene unless it is there")
	c.Flags().BoolVar(&o.noWorker, "no-worker", false, "leave rendering to ‘proscen work’")
	c.Flags().StringVar(&o.public, "public", env("PROSCEN_PUBLIC", ""), "address of a proxy that people log in to, https://… (PROSCEN_PUBLIC)")
	c.Flags().StringVar(&o.userHeader, "user-header", env("PROSCEN_USER_HEADER", "X-Forwarded-User"), "header in which that proxy says who somebody is (PROSCEN_USER_HEADER)")
	return c
}

// loadDemo puts the demonstration with its boards and sounds among the scenes, unless it is
// there.
func loadDemo(ctx context.Context, st *store.Store, bucket *blobs.Bucket) error {
	doc := demo.Scene()
	scenes, err := st.Scenes(ctx)
	if err != nil {
		return err
	}
	for _, s := range scenes {
		if s.Production == doc.Settings.Production && s.Title == doc.Settings.Title {
			return nil
		}
	}
	if err := demo.Files(ctx, bucket, doc); err != nil {
		return err
	}
	if err := production.Share(ctx, st, doc); err != nil {
		return err
	}
	if _, err := st.CreateScene(ctx, doc); err != nil && !errors.Is(err, store.ErrTaken) {
		return err
	}
	return nil
}

// memory is what this program keeps to as far as it can, unless GOMEMLIMIT says else.
const memory = 640 << 20

// grace is how long requests under way have to be finished when the server stops.
const grace = 15 * time.Second

func serve(ctx context.Context, s *settings, o *serving) error {
	log := s.logger()
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memory)
	}
	st, bucket, end, err := s.connect(ctx)
	if err != nil {
		return err
	}
	defer end()
	if o.demo {
		if err := loadDemo(ctx, st, bucket); err != nil {
			return fmt.Errorf("the demonstration scene could not be loaded: %w", err)
		}
	}
	var worker *render.Worker
	if !o.noWorker {
		if worker, err = s.worker(ctx, st, bucket, log); err != nil {
			return err
		}
	}
	queue, err := render.NewQueue(st, worker, quiet(log))
	if err != nil {
		return err
	}
	stopping := make(chan struct{})
	hub := live.NewHub(httpapi.Encode)
	st.Told(hub.Tell)
	api := &httpapi.API{Store: st, Queue: queue, Bucket: bucket, Hub: hub, Log: log, Stopping: stopping, Threads: s.threads}
	if o.public != "" {
		api.Public, _ = url.Parse(o.public) // check has read it
		api.UserHeader = o.userHeader
	}
	handler, err := api.Handler()
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", o.listen)
	if err != nil {
		return fmt.Errorf("cannot listen on %s, perhaps another program does: %w", o.listen, err)
	}
	if _, built := web.Dist(); !built {
		log.Warn("the front end is not built; ‘make build’ builds it")
	}
	log.Info("serving", "address", "http://"+listener.Addr().String(), "worker", !o.noWorker, "threads", s.threads)
	// Requests live on when ctx ends: they are finished first.
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 30 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10}
	g, ctx := errgroup.WithContext(ctx)
	if !o.noWorker {
		if err := queue.Start(ctx); ctx.Err() != nil {
			return nil // it was stopped before it had begun
		} else if err != nil {
			return err
		}
		g.Go(func() error {
			queue.Wait()
			return nil
		})
	}
	g.Go(func() error {
		hub.Run(ctx, st, log)
		return nil
	})
	g.Go(func() error {
		// What a stop has left.
		if err := production.Say(ctx, st, "", ""); err != nil && ctx.Err() == nil {
			log.Warn("not every scene says the name of its production; they will when they are opened", "error", err)
		}
		production.Spread(ctx, st, log, "")
		sweep(ctx, st, log)
		return nil
	})
	g.Go(func() error {
		queue.Keep(ctx, st, bucket, render.DefaultTiming, log)
		return nil
	})
	g.Go(func() error {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			return fmt.Errorf("the server cannot take requests any more: %w", err)
		}
		return nil
	})
	g.Go(func() error {
		<-ctx.Done()
		log.Info("stopping")
		close(stopping)
		within, cancel := context.WithTimeout(context.Background(), grace)
		defer cancel()
		if err := server.Shutdown(within); err != nil {
			log.Warn("requests were broken off", "error", err)
			return server.Close()
		}
		return nil
	})
	return g.Wait()
}

// worker returns what renders deliveries.
func (s *settings) worker(ctx context.Context, st *store.Store, bucket *blobs.Bucket, log *slog.Logger) (*render.Worker, error) {
	maker, err := render.Maker(ctx)
	if err != nil {
		return nil, err
	}
	return &render.Worker{Store: st, Bucket: bucket, Threads: s.threads, Timing: render.DefaultTiming, Maker: maker, Log: log}, nil
}

// sweep empties the bin of scenes that have been in it for long, now and then.
func sweep(ctx context.Context, st *store.Store, log *slog.Logger) {
	every := time.NewTicker(6 * time.Hour)
	defer every.Stop()
	for {
		n, err := st.Sweep(ctx, time.Now().AddDate(0, 0, -store.BinDays))
		switch {
		case err != nil && ctx.Err() == nil:
			log.Warn("the bin could not be emptied", "error", err)
		case n > 0:
			log.Info("removed scenes that were in the bin for long", "scenes", n)
		}
		select {
		case <-ctx.Done():
			return
		case <-every.C:
		}
	}
}

// quiet keeps the queue's own log to warnings.
func quiet(log *slog.Logger) *slog.Logger {
	return slog.New(&levelHandler{log.Handler()})
}

type levelHandler struct{ slog.Handler }

func (h *levelHandler) Enabled(_ context.Context, l slog.Level) bool { return l >= slog.LevelWarn }

func workCommand() *cobra.Command {
	var s settings
	c := &cobra.Command{
		Use: "work", Short: "Render deliveries, without a web server", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := s.check(); err != nil {
				return inputError{err}
			}
			ctx, log := cmd.Context(), s.logger()
			st, bucket, end, err := s.connect(ctx)
			if err != nil {
				return err
			}
			defer end()
			w, err := s.worker(ctx, st, bucket, log)
			if err != nil {
				return err
			}
			q, err := render.NewQueue(st, w, quiet(log))
			if err != nil {
				return err
			}
			if err := q.Start(ctx); ctx.Err() != nil {
				return nil // it was stopped before it had begun
			} else if err != nil {
				return err
			}
			log.Info("working", "threads", s.threads)
			q.Keep(ctx, st, bucket, render.DefaultTiming, log)
			q.Wait()
			return nil
		},
	}
	s.flags(c)
	return c
}

func migrateCommand() *cobra.Command {
	var s settings
	c := &cobra.Command{
		Use: "migrate", Short: "Bring the database schema up to date", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := s.open(cmd.Context())
			if err != nil {
				return err
			}
			st.Close()
			return nil
		},
	}
	s.flags(c)
	return c
}
