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
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
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
	dir, err := os.MkdirTemp(home(), "candlepath-test-")
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

// home is where clusters of tests are: in memory where there is plenty, since a database a test is a thousand
// files to write and to remove; else on the disk, in a folder that the server's user can reach.
func home() string {
	const memory, enough = "/dev/shm", 6 << 30
	var fs syscall.Statfs_t
	if err := syscall.Statfs(memory, &fs); err != nil || fs.Bavail*uint64(fs.Bsize) < enough {
		return "/var/tmp"
	}
	return memory
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
	return k.copied(t, from)
}

// TB is a test, or one history of a property.
type TB interface {
	require.TestingT
	Helper()
	Cleanup(f func())
}

// copied makes a copy of a database, which goes with the test.
func (k *Kit) copied(t TB, of string) (dsn string) {
	k.made++
	name := fmt.Sprintf("t%d", k.made)
	require.NoError(t, k.cluster.CreateDatabase(context.Background(), name, of))
	t.Cleanup(func() { require.NoError(t, k.cluster.DropDatabase(context.Background(), name)) })
	return k.cluster.DSN(name)
}

// Copy opens a copy of a database that a test prepares once: fill is given an empty, migrated one, and has
// closed it when it returns.
func (k *Kit) Copy(t TB, of string, fill func(*pgxpool.Pool)) *pgxpool.Pool {
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
	return k.pool(t, k.copied(t, of))
}

// Remember keeps what a database holds now and gives a function that brings it back, for histories of which each
// begins there: connections stay, with what they have planned, and plan each statement once. That takes a quarter of
// the time of another copy.
func Remember(t testing.TB, pool *pgxpool.Pool) (again func(TB)) {
	t.Helper()
	ctx := context.Background()
	_, err := pool.Exec(ctx, `CREATE SCHEMA remembered;
		DO $$ DECLARE r record; BEGIN
			FOR r IN SELECT tablename AS name FROM pg_tables WHERE schemaname = 'public' LOOP
				EXECUTE format('CREATE TABLE remembered.%1$I AS TABLE public.%1$I', r.name);
			END LOOP;
		END $$;
		CREATE TABLE remembered."sequences of public" AS
			SELECT sequencename AS name, last_value AS last FROM pg_sequences WHERE schemaname = 'public'`)
	require.NoError(t, err)
	_, err = pool.Exec(ctx, "ALTER DATABASE "+pgx.Identifier{pool.Config().ConnConfig.Database}.Sanitize()+" SET plan_cache_mode = force_generic_plan")
	require.NoError(t, err)
	pool.Reset()
	return func(t TB) {
		t.Helper()
		tx, err := pool.Begin(ctx)
		require.NoError(t, err)
		defer tx.Rollback(ctx) //nolint:errcheck // committed before
		// What was cut off may be at work in the server still.
		_, err = tx.Exec(ctx, `SELECT pg_terminate_backend(pid, 5000) FROM pg_stat_activity
			WHERE datname = current_database() AND pid <> pg_backend_pid() AND state <> 'idle'`)
		require.NoError(t, err)
		_, err = tx.Exec(ctx, `SET LOCAL session_replication_role = replica;
			DO $$ DECLARE r record; BEGIN
				FOR r IN SELECT c.relname AS name, string_agg(quote_ident(a.attname), ',') AS cols
					FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid
					WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r'
						AND a.attnum > 0 AND NOT a.attisdropped AND a.attgenerated = '' GROUP BY 1 LOOP
					EXECUTE format('DELETE FROM public.%I', r.name);
					EXECUTE format('INSERT INTO public.%1$I (%2$s) OVERRIDING SYSTEM VALUE SELECT %2$s FROM remembered.%1$I', r.name, r.cols);
				END LOOP;
				PERFORM setval(quote_ident(name)::regclass, coalesce(last, 1), last IS NOT NULL) FROM remembered."sequences of public";
			END $$`)
		require.NoError(t, err)
		require.NoError(t, tx.Commit(ctx))
	}
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

func (k *Kit) pool(t TB, dsn string) *pgxpool.Pool {
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
