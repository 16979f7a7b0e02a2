package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"candlepath/internal/demo"
	"candlepath/internal/platform/pgcluster"
	"candlepath/internal/store"
	"candlepath/internal/web/server"
)

type demoCmd struct {
	config
	Data   string `env:"DATA" default:".run/demo" help:"Folder of the demo's own PostgreSQL cluster."`
	Files  string `env:"DEMO_FILES" default:"demo" help:"Folder of the demo's files."`
	Afresh bool   `env:"AFRESH" help:"Throw the demo's data away first."`
}

func (c *demoCmd) Run() error {
	c.Objects = filepath.Join(c.Data, "files")
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
	keeping := keepAlive(ctx, cluster, c.Data, c.logger())
	defer keeping()
	if err := cluster.CreateDatabase(ctx, "candlepath", ""); err != nil {
		return err
	}
	pool, err := c.openPool(ctx, cluster.DSN("candlepath"))
	if err != nil {
		return err
	}
	defer pool.Close()
	if err := store.Migrate(ctx, pool); err != nil {
		return err
	}
	return c.serve(ctx, pool, func(ctx context.Context, s *server.Server) error {
		return demo.Load(ctx, s.App, os.DirFS(c.Files), func(step string) { fmt.Println(step) })
	})
}

// keepAlive starts the cluster again, at the same port, whenever it ends by itself.
// The function that it gives stops it for good and waits for that.
func keepAlive(ctx context.Context, cluster *pgcluster.Cluster, data string, log *slog.Logger) (stop func()) {
	ending := make(chan struct{})
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		for {
			select {
			case <-ending:
				cluster.Stop()
				return
			case <-cluster.Done():
			}
			select {
			case <-ending:
				return
			case <-time.After(300 * time.Millisecond):
			}
			fmt.Println("PostgreSQL ended; starting it again.")
			again, err := pgcluster.Start(context.WithoutCancel(ctx), data, pgcluster.Options{Port: cluster.Port})
			if err != nil {
				log.Error("start PostgreSQL again", "error", err)
				continue
			}
			cluster = again
			fmt.Println("PostgreSQL runs again.")
		}
	}()
	return func() {
		close(ending)
		<-ended
	}
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

func announce(addr, setupCode string, isDemo bool) {
	if setupCode != "" && !isDemo {
		fmt.Printf("\n  There is no site yet. Begin one at http://%s/studio/begin\n  The code is %s\n\n", addr, setupCode)
		return
	}
	fmt.Printf("\n  Reader site  http://%s/\n  Studio       http://%s/studio\n", addr, addr)
	if isDemo {
		fmt.Printf("\n  Sign in as marta (site manager), anselm (approver), ines (editor) or noor (reader);\n  the password of all is %q.\n\n  Ctrl-C stops everything. Data is kept; AFRESH=1 make demo begins anew.\n", demo.Password)
	}
	fmt.Println()
}
