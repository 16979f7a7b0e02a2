// Package testkit gives tests a database, a running site and a browser.
package testkit

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"runtime"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	"candlepath/internal/demo"
	"candlepath/internal/platform/loopback"
	"candlepath/internal/platform/objects"
	"candlepath/internal/platform/pgcluster"
	"candlepath/internal/store"
	"candlepath/internal/web/border"
	"candlepath/internal/web/server"
)

// Kit is the cluster of one test binary. Use it from TestMain.
type Kit struct {
	cluster *pgcluster.Cluster
	dir     string
	kept    plan.Objects // what the files of all its sites hold
	mu      sync.Mutex
	made    int
	filled  bool
	ready   map[string]bool // databases that tests prepared to be copied
}

// Run runs the tests of a package that uses a browser, ends both and exits.
func Run(m *testing.M, k *Kit, b *Browser, after ...func()) {
	code := Main(m, k)
	b.Close()
	for _, f := range after {
		f()
	}
	os.Exit(code)
}

// Main runs the tests of a package with a cluster of their own.
func Main(m *testing.M, k *Kit) int {
	dir, err := os.MkdirTemp("/var/tmp", "candlepath-test-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	sweep(filepath.Dir(dir))
	if err := os.Chmod(dir, 0o755); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	ctx := context.Background()
	k.dir = dir
	if k.kept, err = objects.Open(ctx, "mem://"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	if k.cluster, err = pgcluster.Start(ctx, dir, pgcluster.Options{Hasty: true}); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer k.cluster.Stop()
	if err := k.template(ctx); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return m.Run()
}

// sweep removes folders that tests which were killed left behind.
func sweep(in string) {
	old, _ := filepath.Glob(filepath.Join(in, "candlepath-test-*"))
	for _, d := range old {
		if st, err := os.Stat(d); err == nil && time.Since(st.ModTime()) > 6*time.Hour {
			_ = os.RemoveAll(d)
		}
	}
}

func (k *Kit) template(ctx context.Context) error {
	if err := k.cluster.CreateDatabase(ctx, "empty", ""); err != nil {
		return err
	}
	pool, err := pgxpool.New(ctx, k.cluster.DSN("empty"))
	if err != nil {
		return err
	}
	defer pool.Close()
	return store.Migrate(ctx, pool)
}

// DSN makes a database for one test: migrated, empty or filled with the demo.
func (k *Kit) DSN(t testing.TB, filled bool) string {
	t.Helper()
	k.mu.Lock()
	defer k.mu.Unlock()
	from := "empty"
	if filled {
		from = "filled"
		k.fill(t)
	}
	k.made++
	name := fmt.Sprintf("t%d", k.made)
	require.NoError(t, k.cluster.CreateDatabase(context.Background(), name, from))
	return k.cluster.DSN(name)
}

// Copy opens a copy of a database that a test prepares once: fill is given an empty, migrated one, and has
// closed it when it returns.
func (k *Kit) Copy(t testing.TB, of string, fill func(*pgxpool.Pool)) *pgxpool.Pool {
	t.Helper()
	k.mu.Lock()
	defer k.mu.Unlock()
	if !k.ready[of] {
		require.NoError(t, k.cluster.CreateDatabase(context.Background(), of, "empty"))
		pool := k.pool(t, k.cluster.DSN(of))
		fill(pool)
		pool.Close()
		if k.ready == nil {
			k.ready = map[string]bool{}
		}
		k.ready[of] = true
	}
	k.made++
	name := fmt.Sprintf("t%d", k.made)
	require.NoError(t, k.cluster.CreateDatabase(context.Background(), name, of))
	return k.pool(t, k.cluster.DSN(name))
}

// Bare makes an empty database, in which nothing was migrated.
func (k *Kit) Bare(t testing.TB) string {
	t.Helper()
	k.mu.Lock()
	defer k.mu.Unlock()
	k.made++
	name := fmt.Sprintf("bare%d", k.made)
	require.NoError(t, k.cluster.CreateDatabase(context.Background(), name, ""))
	return k.cluster.DSN(name)
}

func (k *Kit) fill(t testing.TB) {
	if k.filled {
		return
	}
	require.NoError(t, k.cluster.CreateDatabase(context.Background(), "filled", "empty"))
	pool := k.pool(t, k.cluster.DSN("filled"))
	s, err := server.New(context.Background(), pool, server.Options{Log: Quiet(), Objects: k.kept})
	require.NoError(t, err)
	err = demo.Load(context.Background(), s.App, os.DirFS(Root("demo")), func(string) {})
	s.Close()
	pool.Close()
	require.NoError(t, err)
	k.filled = true
}

// Pool opens a database of its own for one test.
func (k *Kit) Pool(t testing.TB, filled bool) *pgxpool.Pool { return k.pool(t, k.DSN(t, filled)) }

func (k *Kit) pool(t testing.TB, dsn string) *pgxpool.Pool {
	pool, err := pgxpool.New(context.Background(), dsn)
	require.NoError(t, err)
	t.Cleanup(pool.Close)
	return pool
}

// Site is a running instance for one test.
type Site struct {
	*server.Server
	URL  string
	Pool *pgxpool.Pool
}

// Site starts an instance over a database of its own.
func (k *Kit) Site(t testing.TB, filled bool) *Site {
	t.Helper()
	return k.Behind(t, filled, nil)
}

// Behind starts one that trusts these proxies.
func (k *Kit) Behind(t testing.TB, filled bool, proxies border.Proxies) *Site {
	t.Helper()
	return k.serve(t, k.Pool(t, filled), server.Options{Proxies: proxies, Demo: filled})
}

// Another starts another instance over the database of a site.
func (k *Kit) Another(t testing.TB, site *Site) *Site {
	t.Helper()
	return k.serve(t, k.pool(t, site.Pool.Config().ConnString()), server.Options{})
}

func (k *Kit) serve(t testing.TB, pool *pgxpool.Pool, o server.Options) *Site {
	t.Helper()
	o.Log, o.Objects = Quiet(), k.kept
	s, err := server.New(context.Background(), pool, o)
	require.NoError(t, err)
	h := httptest.NewServer(s.Handler)
	t.Cleanup(func() {
		s.EndStreams()
		h.Close()
		s.Close()
	})
	return &Site{s, h.URL, pool}
}

// Cluster is the PostgreSQL cluster of the test binary.
func (k *Kit) Cluster() *pgcluster.Cluster { return k.cluster }

// Quiet is a log for tests; LOG=1 shows it.
func Quiet() *slog.Logger {
	if os.Getenv("LOG") != "" {
		return slog.New(slog.NewTextHandler(os.Stderr, nil))
	}
	return slog.New(slog.NewTextHandler(io.Discard, nil))
}

// Root names a file of the project, wherever the test runs.
func Root(elem ...string) string {
	_, here, _, _ := runtime.Caller(0)
	return filepath.Join(append([]string{filepath.Dir(here), "..", ".."}, elem...)...)
}

// FreeAddress is where a program of its own may listen.
func FreeAddress(t testing.TB) string {
	t.Helper()
	addr, err := loopback.FreeAddress()
	require.NoError(t, err)
	return addr
}
