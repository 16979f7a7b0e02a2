package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/http/pprof"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/platform/logging"
	"candlepath/internal/platform/memory"
	"candlepath/internal/platform/objects"
	"candlepath/internal/store"
	"candlepath/internal/web/border"
	"candlepath/internal/web/server"
)

// config is what can be set of a running program, by flags or the environment.
type config struct {
	Addr        string        `env:"ADDR" default:"127.0.0.1:8080" help:"Address to listen on."`
	PoolSize    int32         `env:"POOL_SIZE" default:"24" help:"Most connections to the database."`
	Objects     string        `name:"objects" env:"FILES" default:".run/files" help:"Where pictures and files are kept: a folder, or s3://BUCKET?region=…&endpoint=… with keys in the environment."`
	ReadTime    time.Duration `env:"READ_TIMEOUT" default:"30s" help:"Longest time that a request may take to arrive; uploads get five minutes."`
	WriteTime   time.Duration `env:"WRITE_TIMEOUT" default:"60s" help:"Longest time that an answer may take."`
	Proxies     string        `env:"TRUSTED_PROXIES" help:"Addresses and networks, with commas between them, of servers that say for whom they pass a request on (X-Forwarded-For, X-Forwarded-Proto)."`
	LogLevel    slog.Level    `env:"LOG_LEVEL" default:"INFO" help:"What is logged at least: DEBUG, INFO, WARN or ERROR."`
	LogFormat   string        `env:"LOG_FORMAT" default:"text" enum:"text,json" help:"How it is logged: text or json."`
	MetricsAddr string        `env:"METRICS_ADDR" default:"127.0.0.1:9478" help:"Address at which metrics are served, for Prometheus; none if empty."`
	PprofAddr   string        `env:"PPROF_ADDR" help:"Loopback address for pprof; none if empty."`
	MemoryLimit int64         `env:"MEMORY_LIMIT_MB" help:"Soft limit of memory in MB; 0 takes three quarters of the machine's or the container's. GOMEMLIMIT wins."`
}

func (c config) logger() *slog.Logger {
	o := &slog.HandlerOptions{Level: c.LogLevel}
	if c.LogFormat == "json" {
		return slog.New(logging.NewAway(slog.NewJSONHandler(os.Stderr, o)))
	}
	return slog.New(logging.NewAway(slog.NewTextHandler(os.Stderr, o)))
}

// openPool opens the database of a URL, as DATABASE_URL holds it.
func (c config) openPool(ctx context.Context, url string) (*pgxpool.Pool, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("DATABASE_URL: %w", err)
	}
	if c.PoolSize > 0 {
		cfg.MaxConns = c.PoolSize
	}
	return pgxpool.NewWithConfig(ctx, cfg)
}

type serveCmd struct {
	config
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to use."`
}

func (c *serveCmd) Run() error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	pool, err := c.openPool(ctx, c.Database)
	if err != nil {
		return err
	}
	defer pool.Close()
	if err := requireSchema(ctx, pool); err != nil {
		return err
	}
	return c.serve(ctx, pool, nil)
}

// requireSchema refuses a database that this program cannot work with.
func requireSchema(ctx context.Context, pool *pgxpool.Pool) error {
	has, wants, err := store.Schema(ctx, pool)
	switch {
	case err != nil:
		return fmt.Errorf("look at the database: %w", err)
	case has < wants:
		return fmt.Errorf("the schema of the database is version %d, this program needs %d; run candlepath migrate first", has, wants)
	case has > wants:
		return fmt.Errorf("the schema of the database is version %d, this program knows %d; a newer program was here, use that one", has, wants)
	}
	return nil
}

// filling fills a running instance before it listens.
type filling func(context.Context, *server.Server) error

// serve serves until the context ends. Then nobody is waited for longer than
// longestGoodbye.
func (c config) serve(ctx context.Context, pool *pgxpool.Pool, fill filling) error {
	log := c.logger()
	memory.Limit(c.MemoryLimit << 20)
	proxies, err := border.ParseProxies(c.Proxies)
	if err != nil {
		return fmt.Errorf("TRUSTED_PROXIES: %w", err)
	}
	kept, err := objects.Open(ctx, c.Objects)
	if err != nil {
		return fmt.Errorf("FILES: %w", err)
	}
	defer kept.Close()
	s, err := server.New(ctx, pool, server.Options{Log: log, Proxies: proxies, Demo: fill != nil, Objects: kept})
	if err != nil {
		return err
	}
	defer s.Close()
	if fill != nil {
		if err := fill(ctx, s); err != nil {
			return err
		}
		if err := s.Reader.Refresh(ctx); err != nil {
			return err
		}
	}
	l, err := net.Listen("tcp", c.Addr)
	if err != nil {
		return fmt.Errorf("listen on %s: %w", c.Addr, err)
	}
	h := c.httpServer(s.Handler)
	h.RegisterOnShutdown(s.EndStreams)
	failed := make(chan error, 2)
	go func() { failed <- h.Serve(l) }()
	if c.MetricsAddr != "" {
		end, err := c.serveMetrics(s.Metrics, log)
		if err != nil {
			return err
		}
		defer end()
	}
	if c.PprofAddr != "" {
		ops, err := pprofServer(c.PprofAddr)
		if err != nil {
			return err
		}
		defer ops.Close()
		go func() { failed <- ops.ListenAndServe() }()
	}
	announce(l.Addr().String(), s.SetupCode, fill != nil)
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	fmt.Println("\nStopping.")
	return goodbye(h)
}

// metricsAddr is where metrics are served unless another address is named.
const metricsAddr = "127.0.0.1:9478"

// serveMetrics serves metrics at an address of their own, which readers do not reach. A second instance on
// this machine does without, unless it is told another address.
func (c config) serveMetrics(metrics http.Handler, log *slog.Logger) (end func(), err error) {
	l, err := net.Listen("tcp", c.MetricsAddr)
	if err != nil && c.MetricsAddr == metricsAddr {
		log.Warn("metrics are not served; set METRICS_ADDR to another address", "error", err)
		return func() {}, nil
	}
	if err != nil {
		return nil, fmt.Errorf("METRICS_ADDR: %w", err)
	}
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", metrics)
	h := &http.Server{Handler: mux, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 10 * time.Second, WriteTimeout: 30 * time.Second}
	go func() {
		if err := h.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			log.Error("metrics are not served any more", "error", err) // readers go on
		}
	}()
	return func() { _ = h.Close() }, nil
}

// httpServer is the server with its time limits. Uploads and large answers move
// theirs.
func (c config) httpServer(handler http.Handler) *http.Server {
	return &http.Server{
		Handler: handler, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ReadTimeout: c.ReadTime, WriteTimeout: c.WriteTime, MaxHeaderBytes: 64 << 10,
	}
}

// longestGoodbye is how long answers on their way may take when the program is
// stopped.
const longestGoodbye = 1200 * time.Millisecond

// goodbye lets answers on their way arrive, and then closes what is open: windows
// that wait for news would else keep the program from ending.
func goodbye(h *http.Server) error {
	ctx, cancel := context.WithTimeout(context.Background(), longestGoodbye)
	defer cancel()
	if err := h.Shutdown(ctx); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	if err := h.Close(); err != nil && !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// pprofServer serves profiles, to this machine alone.
func pprofServer(addr string) (*http.Server, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, fmt.Errorf("PPROF_ADDR: %q is not an address of this machine alone; use one like 127.0.0.1:6060", addr)
	}
	mux := http.NewServeMux()
	mux.HandleFunc("/debug/pprof/", pprof.Index)
	mux.HandleFunc("/debug/pprof/cmdline", pprof.Cmdline)
	mux.HandleFunc("/debug/pprof/profile", pprof.Profile)
	mux.HandleFunc("/debug/pprof/symbol", pprof.Symbol)
	mux.HandleFunc("/debug/pprof/trace", pprof.Trace)
	return &http.Server{Addr: addr, Handler: mux, ReadHeaderTimeout: 10 * time.Second}, nil
}

type migrateCmd struct {
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to bring up to date."`
}

func (c *migrateCmd) Run() error {
	ctx := context.Background()
	pool, err := config{}.openPool(ctx, c.Database)
	if err != nil {
		return err
	}
	defer pool.Close()
	return store.Migrate(ctx, pool)
}
