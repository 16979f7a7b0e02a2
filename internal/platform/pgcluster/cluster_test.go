package pgcluster_test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/platform/pgcluster"
)

// folder is one that the server's user can reach.
func folder(t *testing.T) string {
	dir, err := os.MkdirTemp("/var/tmp", "candlepath-test-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return dir
}

func start(t *testing.T, dir string) *pgcluster.Cluster {
	c, err := pgcluster.Start(t.Context(), dir, pgcluster.Options{Hasty: true})
	require.NoError(t, err)
	return c
}

func query(t *testing.T, c *pgcluster.Cluster, sql string) (n int) {
	conn, err := pgx.Connect(t.Context(), c.DSN("garden"))
	require.NoError(t, err)
	defer conn.Close(t.Context())
	require.NoError(t, conn.QueryRow(t.Context(), sql).Scan(&n))
	return n
}

func TestASecondStartKeepsTheData(t *testing.T) {
	dir := folder(t)
	c := start(t, dir)
	require.NoError(t, c.CreateDatabase(t.Context(), "garden", ""))
	require.NoError(t, c.CreateDatabase(t.Context(), "garden", ""), "once more does nothing")
	require.Equal(t, 1, query(t, c, "SELECT count(*) FROM pg_class WHERE relname = 'pg_class'"))
	conn, err := pgx.Connect(t.Context(), c.DSN("garden"))
	require.NoError(t, err)
	_, err = conn.Exec(t.Context(), "CREATE TABLE beds AS SELECT 7 AS n")
	require.NoError(t, err)
	require.NoError(t, conn.Close(t.Context()))
	c.Stop()
	c = start(t, dir)
	defer c.Stop()
	require.Equal(t, 7, query(t, c, "SELECT n FROM beds"))
	require.NoError(t, c.CreateDatabase(t.Context(), "copy", "garden"))
}

func TestAnUnfinishedClusterIsBegunAnew(t *testing.T) {
	dir := folder(t)
	for _, left := range []string{"data.new", "data"} { // killed in the middle of making it
		require.NoError(t, os.MkdirAll(filepath.Join(dir, left, "base"), 0o755))
	}
	c := start(t, dir)
	defer c.Stop()
	require.NoError(t, c.CreateDatabase(t.Context(), "garden", ""))
	require.NoDirExists(t, filepath.Join(dir, "data.new"))
}

func TestTwoClustersListenApart(t *testing.T) {
	a, b := start(t, folder(t)), start(t, folder(t))
	defer a.Stop()
	defer b.Stop()
	require.NotEqual(t, a.Port, b.Port)
}

func TestAFolderInUseIsRefused(t *testing.T) {
	dir := folder(t)
	c := start(t, dir)
	_, err := pgcluster.Start(t.Context(), dir, pgcluster.Options{Hasty: true})
	require.Error(t, err)
	require.NoError(t, c.CreateDatabase(t.Context(), "garden", ""), "the one that runs goes on")
	c.Stop()
	select {
	case <-c.Done():
	case <-time.After(time.Second):
		require.Fail(t, "it still runs")
	}
}
