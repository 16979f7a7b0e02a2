package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/demo"
	"candlepath/internal/platform/pgcluster"
	"candlepath/internal/store"
	"candlepath/internal/web/server"
)

type serveCmd struct {
	Addr     string `env:"ADDR" default:"127.0.0.1:8080" help:"Address to listen on."`
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to use."`
}

func (c *serveCmd) Run() error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	return serve(ctx, c.Database, c.Addr, nil)
}

type migrateCmd struct {
	Database string `env:"DATABASE_URL" required:"" help:"PostgreSQL to bring up to date."`
}

func (c *migrateCmd) Run() error {
	pool, err := pgxpool.New(context.Background(), c.Database)
	if err != nil {
		return err
	}
	defer pool.Close()
	return store.Migrate(context.Background(), pool)
}

type demoCmd struct {
	Addr   string `env:"ADDR" default:"127.0.0.1:8080" help:"Address to listen on."`
	Data   string `env:"DATA" default:".run/demo" help:"Folder of the demo's own PostgreSQL cluster."`
	Files  string `env:"DEMO_FILES" default:"demo" help:"Folder of the demo's files."`
	Afresh bool   `env:"AFRESH" help:"Throw the demo's data away first."`
}

func (c *demoCmd) Run() error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if l, err := net.Listen("tcp", c.Addr); err != nil {
		return fmt.Errorf("%s is taken; choose another address with ADDR=127.0.0.1:8090 make demo", c.Addr)
	} else if err := l.Close(); err != nil {
		return err
	}
	if c.Afresh {
		if err := throwAway(c.Data); err != nil {
			return err
		}
	}
	fmt.Println("Starting PostgreSQL in", c.Data)
	cluster, err := pgcluster.Start(ctx, c.Data, pgcluster.Options{})
	if err != nil {
		return err
	}
	defer cluster.Stop()
	if err := cluster.CreateDatabase(ctx, "candlepath", ""); err != nil {
		return err
	}
	return serve(ctx, cluster.DSN("candlepath"), c.Addr, func(ctx context.Context, s *server.Server) error {
		return demo.Load(ctx, s.App, os.DirFS(c.Files), func(step string) { fmt.Println(step) })
	})
}

// throwAway removes a data folder, but only one that a demo made.
func throwAway(dir string) error {
	if _, err := os.Stat(dir); errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if _, err := os.Stat(filepath.Join(dir, "data", "PG_VERSION")); err != nil {
		return fmt.Errorf("%s holds no demo data; it is left alone", dir)
	}
	return os.RemoveAll(filepath.Join(dir, "data"))
}

// serve migrates, fills and serves until the context ends.
func serve(ctx context.Context, dsn, addr string, fill func(context.Context, *server.Server) error) error {
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	pool, err := openPool(ctx, dsn)
	if err != nil {
		return err
	}
	defer pool.Close()
	if err := store.Migrate(ctx, pool); err != nil {
		return err
	}
	s, err := server.New(ctx, pool, log)
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
	h := &http.Server{Addr: addr, Handler: s.Handler, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute}
	failed := make(chan error, 1)
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("listen on %s: %w", addr, err)
	}
	go func() { failed <- h.Serve(l) }()
	announce(l.Addr().String(), fill != nil)
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	fmt.Println("\nStopping.")
	ending, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return h.Shutdown(ending)
}

func openPool(ctx context.Context, dsn string) (*pgxpool.Pool, error) {
	cfg, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, fmt.Errorf("DATABASE_URL: %w", err)
	}
	cfg.MaxConns = 24
	return pgxpool.NewWithConfig(ctx, cfg)
}

func announce(addr string, isDemo bool) {
	fmt.Printf("\n  Reader site  http://%s/\n  Studio       http://%s/studio\n", addr, addr)
	if isDemo {
		fmt.Printf("\n  Sign in as marta (site manager), anselm (approver), ines (editor) or noor (reader);\n  the password of all is %q.\n\n  Ctrl-C stops everything. Data is kept; AFRESH=1 make demo begins anew.\n", demo.Password)
	}
	fmt.Println()
}
