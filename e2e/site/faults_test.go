package site_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"candlepath/internal/demo"
	"candlepath/internal/platform/pgcluster"
	"candlepath/internal/store"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
)

// serving is the program itself in a process of its own, to be killed.
func serving(t *testing.T, binary, dsn, addr string) *exec.Cmd {
	cmd := exec.Command(binary, "serve")
	cmd.Env = append(os.Environ(), "DATABASE_URL="+dsn, "ADDR="+addr)
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		r, err := http.Get("http://" + addr + "/readyz")
		if err != nil {
			return false
		}
		defer r.Body.Close()
		return r.StatusCode == 200
	}, 20*time.Second, 20*time.Millisecond)
	return cmd
}

// Killed at any moment of publishing, the site has the old edition or the new
// one, whole, and numbers have no gaps.
func TestKilledWhilePublishing(t *testing.T) {
	binary := filepath.Join(t.TempDir(), "candlepath")
	out, err := exec.Command("go", "build", "-o", binary, testkit.Root("cmd", "candlepath")).CombinedOutput()
	require.NoError(t, err, string(out))
	site := kit.Site(t, true)
	const addr = "127.0.0.1:39471"
	took := time.Duration(0)                              // a publish left alone, in the first round
	parts := []float64{0, 0.35, 0.55, 0.7, 0.8, 0.9, 1.0} // of that time, after which the others are killed
	outcomes := map[int]int{}
	for _, part := range parts {
		cmd := serving(t, binary, site.Pool.Config().ConnString(), addr)
		c := testkit.SignIn(t, &testkit.Site{URL: "http://" + addr}, "marta")
		status, _ := c.Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/visitors"), "value": "Visitors " + uuid.NewString()})
		require.Equal(t, 200, status)
		retitled := "title " + testkit.EntryID(t, site, "/visitors")
		v := c.PublishForm("killed", func(key string) bool { return key == retitled })
		r, err := http.NewRequest("POST", "http://"+addr+"/studio/edition/publish", strings.NewReader(v.Encode()))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		answered := make(chan int, 1)
		began := time.Now()
		go func() {
			status := 0 // cut off
			if resp, err := c.Do(r); err == nil {
				status = resp.StatusCode
				resp.Body.Close()
			}
			answered <- status
		}()
		if part == 0 {
			answered <- <-answered
			took = time.Since(began)
		}
		time.Sleep(time.Duration(part * float64(took)))
		require.NoError(t, cmd.Process.Kill())
		_ = cmd.Wait()
		outcomes[<-answered]++
		requireWhole(t, site)
	}
	t.Log("a publish takes", took, "answers, 0 for cut off:", outcomes)
	require.Positive(t, outcomes[0], "some were killed before they could answer")
	require.Positive(t, outcomes[http.StatusSeeOther], "the first was left alone")
}

func requireWhole(t *testing.T, site *testkit.Site) {
	t.Helper()
	var editions, highest, at, rows, addresses int
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*), max(number), (SELECT edition FROM sites),
		(SELECT count(*) FROM entry_rows WHERE from_edition IS NOT NULL AND to_edition IS NULL AND kind IN ('page', 'carried')),
		(SELECT count(*) FROM addresses WHERE to_edition IS NULL) FROM editions`).Scan(&editions, &highest, &at, &rows, &addresses))
	require.Equal(t, highest, editions, "no gaps")
	require.Equal(t, highest, at)
	require.Equal(t, rows, addresses, "every live page has its address")
	var title string
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT why FROM editions WHERE number = $1`, at).Scan(&title))
}

// stormy works on a site while its database comes and goes.
type stormy struct {
	t       *testing.T
	url     string
	stopped chan struct{}
	work    sync.WaitGroup

	mu    sync.Mutex
	added map[string]bool // titles of acts that were tried, and whether the program said that they are done
	lost  int             // answers that readers did not get
}

// reader opens a page over and over that is in memory.
func (s *stormy) reader(path string) {
	for s.going() {
		r, err := http.Get(s.url + path)
		if err == nil {
			err = r.Body.Close()
		}
		if err != nil || r.StatusCode != 200 {
			s.mu.Lock()
			s.lost++
			s.mu.Unlock()
		}
	}
}

// editor adds entries one after the other; when an answer fails it sends the same act
// again, as the studio does.
func (s *stormy) editor(c *testkit.Client, name string) {
	for k := 0; s.going(); k++ {
		title := fmt.Sprintf("Storm %s %d", name, k)
		act := map[string]any{"do": "add", "value": title, "key": uuid.NewString()}
		for s.going() {
			body, err := json.Marshal(act)
			require.NoError(s.t, err)
			r, err := http.NewRequest("POST", s.url+"/studio/sitemap/act", bytes.NewReader(body))
			require.NoError(s.t, err)
			r.Header.Set("Accept", "application/json")
			status, _ := c.Send(r)
			s.mu.Lock()
			s.added[title] = status == 200
			s.mu.Unlock()
			if status == 200 {
				break
			}
			time.Sleep(20 * time.Millisecond) // as a browser waits before it tries again
		}
	}
}

func (s *stormy) going() bool {
	select {
	case <-s.stopped:
		return false
	default:
		return true
	}
}

// done counts the acts that are done.
func (s *stormy) done() (n int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, done := range s.added {
		if done {
			n++
		}
	}
	return n
}

// The database goes away under load and comes back; the program stays. Readers get every
// page that is in memory, and whatever an editor was told is done is there once.
func TestDatabaseRestartIsSurvived(t *testing.T) {
	dir, err := os.MkdirTemp("/var/tmp", "candlepath-test-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	defer os.RemoveAll(dir)
	ctx := context.Background()
	cluster, err := pgcluster.Start(ctx, dir, pgcluster.Options{Hasty: true})
	require.NoError(t, err)
	require.NoError(t, cluster.CreateDatabase(ctx, "site", ""))
	pool, err := pgxpool.New(ctx, cluster.DSN("site"))
	require.NoError(t, err)
	defer pool.Close()
	require.NoError(t, store.Migrate(ctx, pool))
	s, err := server.New(ctx, pool, server.Options{Log: testkit.Quiet()})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, demo.Load(ctx, s.App, os.DirFS(testkit.Root("demo")), func(string) {}))
	require.NoError(t, s.Reader.Refresh(ctx))
	h := &http.Server{Addr: "127.0.0.1:39472", Handler: s.Handler}
	go func() { _ = h.ListenAndServe() }()
	defer h.Close()
	stay := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	get := func(path string) int {
		r, err := stay.Get("http://127.0.0.1:39472" + path)
		if err != nil {
			return 0
		}
		defer r.Body.Close()
		return r.StatusCode
	}
	require.Eventually(t, func() bool { return get("/") == 200 && get("/visitors") == 200 }, 10*time.Second, 50*time.Millisecond)
	storm := &stormy{t: t, url: "http://127.0.0.1:39472", stopped: make(chan struct{}), added: map[string]bool{}}
	for _, login := range []string{"ines", "marta"} {
		c := testkit.SignIn(t, &testkit.Site{URL: storm.url}, login)
		storm.work.Go(func() { storm.editor(c, login) })
	}
	for _, path := range []string{"/", "/visitors"} {
		storm.work.Go(func() { storm.reader(path) })
	}
	require.Eventually(t, func() bool { return storm.done() > 5 }, 20*time.Second, 10*time.Millisecond)
	cluster.Stop()
	require.Equal(t, 200, get("/"), "a page in memory needs no database")
	require.Equal(t, 301, get("/seed-vault/"), "nor does a redirect")
	require.Equal(t, 503, get("/readyz"))
	again, err := pgcluster.Start(ctx, dir, pgcluster.Options{Hasty: true, Port: cluster.Port})
	require.NoError(t, err)
	defer again.Stop()
	require.Eventually(t, func() bool {
		return get("/visitors/shop") == 200 && get("/readyz") == 200 && get("/search?q=seed") == 200
	}, 20*time.Second, 100*time.Millisecond)
	before := storm.done()
	require.Eventually(t, func() bool { return storm.done() > before+5 }, 20*time.Second, 10*time.Millisecond)
	close(storm.stopped)
	storm.work.Wait()
	require.Zero(t, storm.lost, "readers whose page is in memory notice nothing")
	for title, done := range storm.added {
		var n int
		require.NoError(t, pool.QueryRow(ctx, `SELECT count(*) FROM entry_rows WHERE title = $1 AND from_edition IS NULL`, title).Scan(&n))
		require.True(t, n == 1 || n == 0 && !done, "%s is there %d times", title, n)
	}
}
