package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"time"

	"github.com/spf13/cobra"
	"gocloud.dev/blob"
	_ "gocloud.dev/blob/fileblob" // file:// folders
	"golang.org/x/sync/errgroup"

	"proscen/internal/demo"
	"proscen/internal/httpapi"
	"proscen/internal/live"
	"proscen/internal/production"
	"proscen/internal/render"
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
	f.IntVar(&s.threads, "threads", envInt("PROSCEN_THREADS", runtime.NumCPU()), "rendering threads (PROSCEN_THREADS)")
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

// bucket opens the blob store: a bucket address, or a folder that is made when
// missing.
func (s *settings) bucket(ctx context.Context) (*blob.Bucket, error) {
	address := s.blobs
	if filepath.IsAbs(address) || !hasScheme(address) {
		abs, err := filepath.Abs(address)
		if err != nil {
			return nil, err
		}
		if err := os.MkdirAll(abs, 0o755); err != nil {
			return nil, fmt.Errorf("the folder for videos cannot be made: %w", err)
		}
		address = "file://" + filepath.ToSlash(abs) + "?metadata=skip&no_tmp_dir=true"
	}
	b, err := blob.OpenBucket(ctx, address)
	if err != nil {
		return nil, fmt.Errorf("the blob store %q cannot be opened: %w", s.blobs, err)
	}
	return b, nil
}

// connect opens database and blob store; the caller ends both with end.
func (s *settings) connect(ctx context.Context) (st *store.Store, bucket *blob.Bucket, end func(), err error) {
	if st, err = s.open(ctx); err != nil {
		return nil, nil, nil, err
	}
	if bucket, err = s.bucket(ctx); err != nil {
		st.Close()
		return nil, nil, nil, err
	}
	return st, bucket, func() { _ = bucket.Close(); st.Close() }, nil
}

func hasScheme(s string) bool {
	for i, r := range s {
		if r == ':' {
			return i > 1 && len(s) > i+2 && s[i+1:i+3] == "//"
		}
		if r == '/' {
			return false
		}
	}
	return false
}

func serveCommand() *cobra.Command {
	var s settings
	var listen string
	var withDemo, noWorker bool
	c := &cobra.Command{
		Use: "serve", Short: "Serve the web application and render deliveries", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := httpapi.CheckListen(listen); err != nil {
				return inputError{err}
			}
			return serve(cmd.Context(), &s, listen, withDemo, !noWorker)
		},
	}
	s.flags(c)
	c.Flags().StringVar(&listen, "listen", env("PROSCEN_LISTEN", "127.0.0.1:8470"), "loopback address (PROSCEN_LISTEN)")
	c.Flags().BoolVar(&withDemo, "demo", false, "load the demonstration scene unless it is there")
	c.Flags().BoolVar(&noWorker, "no-worker", false, "leave rendering to ‘proscen work’")
	return c
}

// loadDemo puts the demonstration with its boards and sounds among the scenes, unless it is
// there.
func loadDemo(ctx context.Context, st *store.Store, bucket *blob.Bucket) error {
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

func serve(ctx context.Context, s *settings, listen string, withDemo, withWorker bool) error {
	log := s.logger()
	st, bucket, end, err := s.connect(ctx)
	if err != nil {
		return err
	}
	defer end()
	if withDemo {
		if err := loadDemo(ctx, st, bucket); err != nil {
			return fmt.Errorf("the demonstration scene could not be loaded: %w", err)
		}
	}
	var worker *render.Worker
	if withWorker {
		worker = &render.Worker{Store: st, Bucket: bucket, Threads: s.threads, Log: log}
	}
	queue, err := render.NewQueue(st, worker, render.DefaultTiming, quiet(log))
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("cannot listen on %s, perhaps another program does: %w", listen, err)
	}
	if withWorker {
		if err := queue.Start(ctx); err != nil {
			return err
		}
		defer queue.Wait()
	}
	hub := live.NewHub(httpapi.Encode)
	st.Told(hub.Tell)
	api := &httpapi.API{Store: st, Queue: queue, Bucket: bucket, Hub: hub, Log: log}
	server := &http.Server{Handler: api.Handler(), ReadHeaderTimeout: 10 * time.Second, BaseContext: func(net.Listener) context.Context { return ctx }}
	if _, built := web.Dist(); !built {
		log.Warn("the front end is not built; ‘make build’ builds it")
	}
	log.Info("serving", "address", "http://"+listener.Addr().String(), "worker", withWorker, "threads", s.threads)
	g, ctx := errgroup.WithContext(ctx)
	g.Go(func() error {
		hub.Run(ctx, st, log)
		return nil
	})
	g.Go(func() error {
		production.Spread(ctx, st, log, "") // what a stop has left
		sweep(ctx, st, log)
		return nil
	})
	g.Go(func() error {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			return err
		}
		return nil
	})
	g.Go(func() error {
		<-ctx.Done()
		log.Info("stopping")
		grace, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		if err := server.Shutdown(grace); err != nil {
			return server.Close()
		}
		return nil
	})
	return g.Wait()
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
			ctx, log := cmd.Context(), s.logger()
			st, bucket, end, err := s.connect(ctx)
			if err != nil {
				return err
			}
			defer end()
			q, err := render.NewQueue(st, &render.Worker{Store: st, Bucket: bucket, Threads: s.threads, Log: log}, render.DefaultTiming, quiet(log))
			if err != nil {
				return err
			}
			if err := q.Start(ctx); err != nil {
				return err
			}
			log.Info("working", "threads", s.threads)
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
