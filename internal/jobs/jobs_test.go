package jobs_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/jobs"
	"candlepath/internal/markup"
	"candlepath/internal/platform/background"
	"candlepath/internal/platform/objects"
	"candlepath/internal/store"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
)

var kit testkit.Kit

func TestMain(m *testing.M) { os.Exit(testkit.Main(m, &kit)) }

const (
	waitFor = 30 * time.Second
	tick    = 50 * time.Millisecond
)

// desk is an application over the demo's data, and whoever imports.
type desk struct {
	*app.App
	pool *pgxpool.Pool
	ines plan.Person
}

func newDesk(t *testing.T) desk {
	pool := kit.Pool(t, true)
	st, err := store.Open(pool)
	require.NoError(t, err)
	d := desk{App: app.New(st, markup.New(), memory(t), func() time.Time { return time.Now().UTC() }), pool: pool}
	everyone, err := d.Everyone(t.Context())
	require.NoError(t, err)
	for _, p := range everyone {
		if p.Login == "ines" {
			d.ines = p
		}
	}
	return d
}

// memory is a storage of files that ends with the test.
func memory(t *testing.T) *objects.Objects {
	kept, err := objects.Open(t.Context(), "mem://")
	require.NoError(t, err)
	t.Cleanup(func() { _ = kept.Close() })
	return kept
}

// run runs jobs on an instance of its own until the test or stop ends it.
func (d desk) run(t *testing.T, read appsitemap.ReadSheet) (stop func()) {
	st, err := store.Open(d.pool)
	require.NoError(t, err)
	a := app.New(st, markup.New(), d.Objects, func() time.Time { return time.Now().UTC() })
	r, err := jobs.Start(context.Background(), d.pool, jobs.Options{App: a, Read: read, OpenOld: server.OpenOldSite, ReadOlder: server.ReadOlder, Log: testkit.Quiet(), Work: &background.Group{}})
	require.NoError(t, err)
	ended := false
	stop = func() {
		if !ended {
			ended = true
			ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
			defer cancel()
			require.NoError(t, r.Stop(ctx))
		}
	}
	t.Cleanup(stop)
	return stop
}

func (d desk) file(t *testing.T, id string) appsitemap.Import {
	b, err := d.ImportState(t.Context(), d.ines, id)
	require.NoError(t, err)
	return b
}

func (d desk) jobs(t *testing.T, query string) (n int) {
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(*) FROM river_job WHERE `+query).Scan(&n))
	return n
}

// Two instances share the jobs: each file is read once.
func TestInstancesShareJobs(t *testing.T) {
	d := newDesk(t)
	var reads atomic.Int32
	read := func(ctx context.Context, name string, r io.Reader, progress func(int)) (*sheet.Sheet, error) {
		reads.Add(1)
		return server.ReadSheet(ctx, name, r, progress)
	}
	d.run(t, read)
	d.run(t, read)
	var ids []string
	for i := range 12 {
		id, err := d.PutFile(t.Context(), d.ines, "plan.csv", fmt.Appendf(nil, "level,title\n1,Science %d\n", i))
		require.NoError(t, err)
		ids = append(ids, id)
	}
	for _, id := range ids {
		require.Eventually(t, func() bool { return d.file(t, id).State == appsitemap.ImportReady }, waitFor, tick)
	}
	require.EqualValues(t, 12, reads.Load())
	require.Eventually(t, func() bool { return d.jobs(t, `kind = 'read_file' AND state = 'completed' AND attempt = 1`) == 12 }, waitFor, tick)
	var by int
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(DISTINCT attempted_by[1]) FROM river_job WHERE kind = 'read_file'`).Scan(&by))
	require.LessOrEqual(t, by, 2)
}

// A job that is stopped in the middle, because its instance ends, goes on in another
// one, and so does one whose process was killed.
func TestAStoppedJobGoesOn(t *testing.T) {
	d := newDesk(t)
	began := make(chan struct{})
	stop := d.run(t, func(ctx context.Context, _ string, _ io.Reader, _ func(int)) (*sheet.Sheet, error) {
		close(began)
		<-ctx.Done()
		return nil, ctx.Err()
	})
	id, err := d.PutFile(t.Context(), d.ines, "plan.csv", []byte("level,title\n1,Science\n"))
	require.NoError(t, err)
	<-began
	stop()
	require.Equal(t, appsitemap.ImportReading, d.file(t, id).State)
	d.run(t, server.ReadSheet)
	require.Eventually(t, func() bool { return d.file(t, id).State == appsitemap.ImportReady }, waitFor, tick)

	t.Log("as a killed process leaves it")
	id = d.keep(t, "Arts")
	d.lost(t, plan.JobReadFile, id, "{}")
	require.Eventually(t, func() bool { return d.file(t, id).State == appsitemap.ImportFailed }, 2*waitFor, tick, "it may be what killed the process")
	require.Contains(t, d.file(t, id).Message, "Candle Path stopped while it was reading it")
	d.lost(t, plan.JobSimilar, "", "{}")
	require.Eventually(t, func() bool { return d.jobs(t, `kind = 'find_similar' AND state = 'completed'`) == 1 }, 2*waitFor, tick, "taken up")
	d.lost(t, plan.JobSimilar, "", `{"lost": true}`)
	require.Eventually(t, func() bool { return d.jobs(t, `kind = 'find_similar' AND state = 'discarded'`) == 1 }, 2*waitFor, tick, "lost twice")
}

// keep keeps a file without a job.
func (d desk) keep(t *testing.T, title string) (id string) {
	id, err := d.KeepFile(t.Context(), d.ines, "plan.csv", []byte("level,title\n1,"+title+"\n"))
	require.NoError(t, err)
	return id
}

// lost is a job that runs for an instance that is not there any more.
func (d desk) lost(t *testing.T, kind plan.JobKind, id, metadata string) {
	_, err := d.pool.Exec(t.Context(), `INSERT INTO river_job (kind, args, queue, state, attempt, max_attempts, attempted_at, attempted_by, metadata)
		VALUES ($1, jsonb_build_object('id', $2::text), 'default', 'running', 1, 5, now() - interval '15 seconds', '{gone}', $3)`, kind, id, metadata)
	require.NoError(t, err)
}

// A job that failed for the last time frees its person: an export that cannot be written does not keep them
// from beginning another, and one that they stop ends.
func TestNobodyWaitsForWhatIsGivenUp(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	export := func() string {
		id, err := d.BeginExport(ctx, d.ines, "1", "")
		require.NoError(t, err)
		return id
	}
	state := func(id string) editions.LargeState {
		x, err := d.EditionExport(ctx, d.ines, id)
		require.NoError(t, err)
		return x.State
	}
	id := export()
	require.NoError(t, d.GiveUpJob(ctx, plan.Job{Kind: plan.JobExport, ID: id}))
	require.Equal(t, editions.LargeStopped, state(id))
	again := export()
	require.NotEqual(t, id, again)
	wrote := make(chan error, 1)
	go func() {
		wrote <- d.WriteOut(ctx, again, func(ctx context.Context, _ plan.SiteState, _ string, out editions.ExportOutput) error {
			for done := 0; ctx.Err() == nil; done++ {
				time.Sleep(tick)
				out.Progress(done, 1000)
			}
			return ctx.Err()
		})
	}()
	require.NoError(t, d.StopExport(ctx, d.ines, again))
	require.NoError(t, <-wrote)
	require.Equal(t, editions.LargeStopped, state(again))
}

// Only what runs for nobody is taken up: a job that takes its time goes on where it is, also after its instance was cut off from the
// database. What comes back by itself is not held up by one that was lost.
func TestOnlyLostJobsAreTakenUp(t *testing.T) {
	d := newDesk(t)
	began, goOn := make(chan struct{}), make(chan struct{})
	var reads atomic.Int32
	d.run(t, func(ctx context.Context, name string, r io.Reader, progress func(int)) (*sheet.Sheet, error) {
		if reads.Add(1) == 1 {
			close(began)
			<-goOn
		}
		return server.ReadSheet(ctx, name, r, progress)
	})
	slow, err := d.PutFile(t.Context(), d.ines, "plan.csv", []byte("level,title\n1,Science\n"))
	require.NoError(t, err)
	<-began
	_, err = d.pool.Exec(t.Context(), `UPDATE river_job SET attempted_at = now() - interval '1 minute' WHERE kind = 'read_file'`)
	require.NoError(t, err)
	_, err = d.pool.Exec(t.Context(), `SELECT pg_terminate_backend(pid) FROM pg_locks WHERE locktype = 'advisory' AND objsubid = 2 AND database = (SELECT oid FROM pg_database WHERE datname = current_database())`)
	require.NoError(t, err)
	_, err = d.pool.Exec(t.Context(), `INSERT INTO river_job (kind, args, queue, state, attempt, max_attempts, attempted_at, attempted_by)
		VALUES ('finish_drafts', '{}', 'default', 'running', 1, 1, now() - interval '15 seconds', '{gone}')`)
	require.NoError(t, err)
	d.lost(t, plan.JobSimilar, "", "{}")
	require.Eventually(t, func() bool { return d.jobs(t, `kind = 'find_similar' AND state = 'completed'`) == 1 }, 2*waitFor, tick)
	require.Equal(t, 1, d.jobs(t, `kind = 'finish_drafts' AND state = 'discarded'`), "the next one begins by itself")
	require.Equal(t, 1, d.jobs(t, `kind = 'read_file' AND state = 'running' AND attempt = 1`))
	close(goOn)
	require.Eventually(t, func() bool { return d.file(t, slow).State == appsitemap.ImportReady }, waitFor, tick)
	require.EqualValues(t, 1, reads.Load())
}

// What is scheduled does not wait for a job whose process was killed in the middle of it.
func TestALostTickKeepsNobodyWaiting(t *testing.T) {
	d := newDesk(t)
	stop := d.run(t, server.ReadSheet)
	for _, kind := range []plan.JobKind{plan.JobTimed, plan.JobVisits} {
		require.Eventually(t, func() bool { return d.jobs(t, fmt.Sprintf(`kind = '%s' AND state = 'completed'`, kind)) > 0 }, waitFor, tick)
	}
	stop()
	_, err := d.pool.Exec(t.Context(), `UPDATE river_job SET state = 'running', finalized_at = NULL, attempted_at = now(), attempted_by = '{gone}' WHERE kind IN ('publish_timed', 'write_visits')`)
	require.NoError(t, err)
	d.run(t, server.ReadSheet)
	for _, kind := range []plan.JobKind{plan.JobTimed, plan.JobVisits} {
		require.Eventually(t, func() bool { return d.jobs(t, fmt.Sprintf(`kind = '%s' AND state = 'completed'`, kind)) > 0 }, 2*waitFor, tick, kind)
	}
}

// Texts are imported whole, and each once, although their job is killed again and
// again.
func TestTextsOfAKilledJob(t *testing.T) {
	d := newDesk(t)
	var archive bytes.Buffer
	z := zip.NewWriter(&archive)
	for i := range 60 {
		w, err := z.Create(fmt.Sprintf("shelf-%d.html", i))
		require.NoError(t, err)
		fmt.Fprintf(w, "<html><head><title>Shelf %d</title></head><body><main><h1>Shelf %d</h1><p>Seeds of row %d lie here.</p></main></body></html>", i, i, i)
	}
	require.NoError(t, z.Close())
	ctx := t.Context()
	id, err := d.KeepFile(ctx, d.ines, "old.zip", archive.Bytes())
	require.NoError(t, err)
	require.NoError(t, d.ReadFile(ctx, id, server.ReadSheet))
	_, err = d.PreviewFile(ctx, d.ines, id, appsitemap.ImportChoice{Mode: sheet.Below, Texts: true})
	require.NoError(t, err)
	_, err = d.AcceptFile(ctx, d.ines, id)
	require.NoError(t, err)
	require.Equal(t, 1, d.jobs(t, `kind = 'import_texts' AND state = 'available'`), "enqueued with the act")
	for range 2 {
		within, kill := context.WithCancel(ctx)
		opened := 0
		_, err := d.ImportTexts(within, id, func(data []byte) (appsitemap.OldSite, error) {
			site, err := server.OpenOldSite(data)
			return killing{site, &opened, kill}, err
		}, time.Hour)
		require.Error(t, err)
	}
	d.run(t, server.ReadSheet)
	require.Eventually(t, func() bool { return d.file(t, id).State == appsitemap.ImportWritten }, waitFor, tick)
	require.Contains(t, d.file(t, id).Message, "The texts of 60 pages were imported as drafts.")
	var drafts int
	require.NoError(t, d.pool.QueryRow(ctx, `SELECT count(*) FROM page_sources WHERE import_id = $1`, id).Scan(&drafts))
	require.Equal(t, 60, drafts)
}

// killing ends its process, so to say, at the 25th text.
type killing struct {
	appsitemap.OldSite
	n    *int
	kill func()
}

func (k killing) Body(file, title string, links content.OldLinks) (content.OldBody, error) {
	if *k.n++; *k.n == 25 {
		k.kill()
	}
	return k.OldSite.Body(file, title, links)
}

// A file that cannot be read fails for good, and says so to the manager; one that met
// a fault is tried again, at once if the manager asks for it.
func TestFailuresAreTold(t *testing.T) {
	d := newDesk(t)
	var marta plan.Person
	everyone, err := d.Everyone(t.Context())
	require.NoError(t, err)
	for _, p := range everyone {
		if p.Login == "marta" {
			marta = p
		}
	}
	d.run(t, func(context.Context, string, io.Reader, func(int)) (*sheet.Sheet, error) {
		return nil, errors.New("the disk is full")
	})
	id, err := d.PutFile(t.Context(), d.ines, "plan.csv", []byte("level,title\n1,Science\n"))
	require.NoError(t, err)
	require.Eventually(t, func() bool { return d.file(t, id).State == appsitemap.ImportFailed }, waitFor, tick)
	var failed plan.KnownJob
	require.Eventually(t, func() bool {
		known, err := d.Jobs(t.Context(), marta)
		require.NoError(t, err)
		for _, j := range known {
			if j.Job.Kind == plan.JobReadFile && j.State == plan.JobFailed {
				failed = j
				return true
			}
		}
		return false
	}, waitFor, tick)
	require.Contains(t, failed.Error, "the disk is full")
	require.Equal(t, "plan.csv", failed.File)
	require.Equal(t, 1, failed.Attempt, "trying again does not help")
	require.NoError(t, d.RetryJob(t.Context(), marta, failed.Number))
	require.Eventually(t, func() bool { return d.jobs(t, `kind = 'read_file' AND state = 'completed' AND attempt = 2`) == 1 }, waitFor, tick)

	_, err = d.Jobs(t.Context(), d.ines)
	require.ErrorIs(t, err, plan.ErrForbidden)
	require.ErrorIs(t, d.RetryJob(t.Context(), d.ines, failed.Number), plan.ErrForbidden)
	require.ErrorIs(t, d.RetryJob(t.Context(), marta, 1<<40), plan.ErrNotFound)
}

// An act that is taken back leaves no job.
func TestNoActNoJob(t *testing.T) {
	d := newDesk(t)
	stopped := errors.New("stopped")
	st, err := store.Open(d.pool)
	require.NoError(t, err)
	before := d.jobs(t, `kind = 'read_file'`)
	require.ErrorIs(t, st.WriteUnlocked(t.Context(), func(tx app.Tx, _ plan.Site) error {
		require.NoError(t, tx.Enqueue(t.Context(), plan.Job{Kind: plan.JobReadFile, ID: plan.NewID()}))
		return stopped
	}), stopped)
	require.Equal(t, before, d.jobs(t, `kind = 'read_file'`))
}

// What an instance does by itself when it starts comes through.
func TestWhatRunsByItselfComesThrough(t *testing.T) {
	d := newDesk(t)
	var before int
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT coalesce(max(id), 0) FROM river_job`).Scan(&before))
	d.run(t, server.ReadSheet)
	kinds := `kind IN ('clean_up', 'write_visits', 'finish_drafts', 'publish_timed') AND id > ` + strconv.Itoa(before)
	require.Eventually(t, func() bool { return d.jobs(t, kinds+` AND finalized_at IS NOT NULL`) >= 4 }, waitFor, tick)
	require.Zero(t, d.jobs(t, kinds+` AND state IN ('discarded', 'cancelled')`))
}

// The list of an older site is read and taken up behind whoever brought it.
func TestListsOfOlderSites(t *testing.T) {
	d := newDesk(t)
	id, err := d.PutOlder(t.Context(), d.ines, "list.csv", "wiki.quillmere.example", strings.NewReader("address,visits\n/Main,12\n/Rota,3\n"))
	require.NoError(t, err)
	d.run(t, server.ReadSheet)
	i, err := d.AwaitOlder(t.Context(), d.ines, id)
	require.NoError(t, err)
	require.Equal(t, "2 addresses were read: 2 new.", i.Said)
}
