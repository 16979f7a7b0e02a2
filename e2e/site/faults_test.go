package site_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/demo"
	"candlepath/internal/platform/logging"
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
	}, 30*time.Second, 20*time.Millisecond)
	return cmd
}

// Killed at any moment of publishing, the site has the old edition or the new
// one, whole, and numbers have no gaps.
func TestKilledWhilePublishing(t *testing.T) {
	binary := filepath.Join(t.TempDir(), "candlepath")
	out, err := exec.Command("go", "build", "-o", binary, testkit.Root("cmd", "candlepath")).CombinedOutput()
	require.NoError(t, err, string(out))
	site := kit.Site(t, true)
	addr := testkit.FreeAddress(t)
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
	var log lines
	s, err := server.New(ctx, pool, server.Options{Log: slog.New(logging.NewAway(slog.NewTextHandler(&log, nil)))})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, demo.Load(ctx, s.App, os.DirFS(testkit.Root("demo")), func(string) {}))
	require.NoError(t, s.Reader.Refresh(ctx))
	h := httptest.NewServer(s.Handler)
	defer h.Close()
	stay := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	get := func(path string) int {
		r, err := stay.Get(h.URL + path)
		if err != nil {
			return 0
		}
		defer r.Body.Close()
		return r.StatusCode
	}
	require.Eventually(t, func() bool { return get("/") == 200 && get("/visitors") == 200 }, 30*time.Second, 50*time.Millisecond)
	storm := &stormy{t: t, url: h.URL, stopped: make(chan struct{}), added: map[string]bool{}}
	for _, login := range []string{"ines", "marta"} {
		c := testkit.SignIn(t, &testkit.Site{URL: storm.url}, login)
		storm.work.Go(func() { storm.editor(c, login) })
	}
	for _, path := range []string{"/", "/visitors"} {
		storm.work.Go(func() { storm.reader(path) })
	}
	require.Eventually(t, func() bool { return storm.done() > 5 }, 30*time.Second, 10*time.Millisecond)
	cluster.Stop()
	require.Equal(t, 200, get("/"), "a page in memory needs no database")
	require.Equal(t, 301, get("/seed-vault/"), "nor does a redirect")
	require.Equal(t, 503, get("/readyz"))
	require.Eventually(t, func() bool { return log.beside() > 0 }, 30*time.Second, 50*time.Millisecond, "the log says that the database is away")
	again, err := pgcluster.Start(ctx, dir, pgcluster.Options{Hasty: true, Port: cluster.Port})
	require.NoError(t, err)
	defer again.Stop()
	require.Eventually(t, func() bool {
		return get("/visitors/shop") == 200 && get("/readyz") == 200 && get("/search?q=seed") == 200
	}, 30*time.Second, 100*time.Millisecond)
	before := storm.done()
	require.Eventually(t, func() bool { return storm.done() > before+5 }, 30*time.Second, 10*time.Millisecond)
	close(storm.stopped)
	storm.work.Wait()
	require.Zero(t, storm.lost, "readers whose page is in memory notice nothing")
	require.Equal(t, 1, log.beside(), "it says so once, whoever notices:\n%s", log.text())
	for title, done := range storm.added {
		var n int
		require.NoError(t, pool.QueryRow(ctx, `SELECT count(*) FROM entry_rows WHERE title = $1 AND from_edition IS NULL`, title).Scan(&n))
		require.True(t, n == 1 || n == 0 && !done, "%s is there %d times", title, n)
	}
}

// lines is a log in memory.
type lines struct {
	mu  sync.Mutex
	all bytes.Buffer
}

func (l *lines) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all.Write(b)
}

func (l *lines) text() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all.String()
}

// beside counts the warnings and errors that no request wrote.
func (l *lines) beside() (n int) {
	for line := range strings.Lines(l.text()) {
		if !strings.Contains(line, " id=") && (strings.Contains(line, "level=ERROR") || strings.Contains(line, "level=WARN")) {
			n++
		}
	}
	return n
}

// Two instances look at the clock while one after the other is killed and begins again. What is timed
// for several minutes that have come goes out once each, in order, and readers meet every page at
// every moment.
func TestTimedEditionsComeOnceWhateverIsKilled(t *testing.T) {
	site := kit.Site(t, true)
	path, err := binary()
	require.NoError(t, err)
	ctx, marta, anselm := t.Context(), testkit.PersonOf(t, site, "marta"), testkit.PersonOf(t, site, "anselm")
	pages := []string{"/grounds/compost", "/visitors/opening-hours", "/volunteers/volunteer-rota"}
	for i, at := range pages {
		id := testkit.EntryID(t, site, at)
		_, err := site.App.Plan(ctx, marta, appsitemap.PlanAct{Key: uuid.NewString(), Do: "fact", ID: id, Field: "notes", Value: fmt.Sprint("Minute ", i), Confirmed: true})
		require.NoError(t, err)
		_, err = site.App.SendForReview(ctx, marta, editions.SendAsk{IDs: []string{id}})
		require.NoError(t, err)
		q, err := site.App.Queue(ctx, anselm)
		require.NoError(t, err)
		for _, item := range q.Items {
			if item.ID == id && item.State == workflow.InReview {
				_, err = site.App.Judge(ctx, anselm, workflow.Approve, []editions.Judged{{ID: id, Stamp: item.Stamp}}, "")
				require.NoError(t, err)
			}
		}
		q, err = site.App.Queue(ctx, anselm)
		require.NoError(t, err)
		for _, item := range q.Items {
			if item.ID == id && item.State == workflow.Ready {
				_, err = site.App.TimeChanges(ctx, anselm, editions.TimeAsk{List: []editions.Judged{{ID: id, Stamp: item.Stamp}}, At: time.Now().UTC().Add(time.Duration(i+3) * time.Minute).Format("2006-01-02T15:04"), Zone: "UTC"})
				require.NoError(t, err)
			}
		}
	}
	var before int
	require.NoError(t, site.Pool.QueryRow(ctx, `SELECT edition FROM sites`).Scan(&before))
	site.Close()
	dsn := site.Pool.Config().ConnString()
	_, err = site.Pool.Exec(ctx, `UPDATE change_states SET go_at = go_at - interval '10 minutes' WHERE go_at IS NOT NULL`) // they have come
	require.NoError(t, err)
	_, err = site.Pool.Exec(ctx, `UPDATE river_job SET state = 'available', attempted_at = NULL, attempted_by = NULL, finalized_at = NULL WHERE kind = 'publish_timed' AND state = 'running'`)
	require.NoError(t, err)
	running := map[string]*exec.Cmd{}
	listen := func(name string) {
		addr := testkit.FreeAddress(t)
		running[name] = serving(t, path, dsn, addr)
	}
	listen("one")
	listen("two")
	for round := range 5 {
		name := []string{"one", "two"}[round%2]
		time.Sleep(time.Duration(200+round*311%1500) * time.Millisecond) // at any point of it
		require.NoError(t, running[name].Process.Kill())
		_ = running[name].Wait()
		listen(name)
	}
	require.Eventually(t, func() bool {
		var now int
		err := site.Pool.QueryRow(ctx, `SELECT edition FROM sites`).Scan(&now)
		return err == nil && now >= before+len(pages)
	}, 90*time.Second, 200*time.Millisecond)
	time.Sleep(2 * time.Second) // nothing comes twice
	rows, err := site.Pool.Query(ctx, `SELECT told::text FROM editions WHERE number > $1 ORDER BY number`, before)
	require.NoError(t, err)
	told, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	require.Len(t, told, len(pages))
	for i, at := range pages {
		require.Contains(t, told[i], testkit.EntryID(t, site, at), "in the order of their minutes")
	}
	var left int
	require.NoError(t, site.Pool.QueryRow(ctx, `SELECT count(*) FROM change_states WHERE state = 'scheduled'`).Scan(&left))
	require.Zero(t, left)
	requireWhole(t, site)
}
