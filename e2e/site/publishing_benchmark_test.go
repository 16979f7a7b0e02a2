package site_test

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/testkit"
	"candlepath/internal/web/reader"
)

// BenchmarkPublishing tells how long the acts and screens of publishing take at their median: a
// review of 200 changes, the next edition with 10,000, one page that is published, and acts of ten
// editors at once, of which it tells the 95th percentile.
func BenchmarkPublishing(b *testing.B) {
	site := kit.Site(b, true)
	ctx, marta, ines := b.Context(), testkit.PersonOf(b, site, "marta"), testkit.PersonOf(b, site, "ines")
	importEntries(b, site, 10_000, deep)
	makeLive(b, site)
	live, _, err := site.App.Export(ctx, marta, true)
	require.NoError(b, err)
	var ids []string
	for i := range live.Len() {
		if strings.HasPrefix(live.Ref(i).Title, "Eintrag ") {
			ids = append(ids, live.Ref(i).ID)
		}
	}
	c := testkit.SignIn(b, site, "marta")
	open := func(path string) float64 {
		var took []time.Duration
		for range 7 {
			began := time.Now()
			status, _ := c.Get(path)
			require.Equal(b, http.StatusOK, status)
			took = append(took, time.Since(began))
		}
		return testkit.Middle(took)
	}
	plan := func(id, title string) {
		_, err := site.App.Plan(ctx, ines, appsitemap.PlanAct{Key: uuid.NewString(), Do: "retitle", ID: id, Value: title, Confirmed: true})
		require.NoError(b, err)
	}
	for i := range 200 {
		plan(ids[i], fmt.Sprint("Reviewed ", i))
	}
	_, err = site.App.SendForReview(ctx, ines, editions.SendAsk{IDs: ids[:200], Message: "All of it"})
	require.NoError(b, err)
	b.ReportMetric(open("/studio/edition/review"), "ms/review-of-200")

	var ones []time.Duration
	for round := range 7 {
		plan(ids[300+round], fmt.Sprint("Published ", round))
		began := time.Now()
		_, err := site.App.Publish(ctx, marta, editions.PublishAsk{Key: uuid.NewString(), Why: "One page", Changes: editions.Select{Only: []string{ids[300+round]}}})
		require.NoError(b, err)
		ones = append(ones, time.Since(began))
	}
	b.ReportMetric(testkit.Middle(ones), "ms/publish-one")
	b.ReportMetric(actsAtOnce(b, site, ids), "ms/act-p95-of-ten-editors")

	_, err = site.Pool.Exec(ctx, `INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, changed_at)
		SELECT site_id, entry_id, parent_id, rank, title || ' anew', short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, now()
		FROM entry_rows r WHERE from_edition IS NOT NULL AND to_edition IS NULL AND kind = 'page' AND NOT EXISTS (SELECT 1 FROM entry_rows p WHERE p.site_id = r.site_id AND p.entry_id = r.entry_id AND p.from_edition IS NULL)`)
	require.NoError(b, err)
	_, err = site.Pool.Exec(ctx, `UPDATE sites SET plan_version = plan_version + 1`)
	require.NoError(b, err)
	n, err := site.App.LookAhead(ctx, marta, editions.Select{})
	require.NoError(b, err)
	b.ReportMetric(float64(len(n.All)), "changes")
	b.ReportMetric(open("/studio/edition"), "ms/next-edition")
	b.ReportMetric(open("/studio/edition?show=mine&by=branch"), "ms/next-edition-filtered")
	b.ReportMetric(open("/studio/edition/see?of=next"), "ms/see-next")
	b.ReportMetric(open("/studio/edition/shown/next/-/"), "ms/page-of-next")
}

// actsAtOnce has ten editors act twenty times each over HTTP, and gives the 95th percentile.
func actsAtOnce(b *testing.B, site *testkit.Site, ids []string) float64 {
	var mu sync.Mutex
	var took []time.Duration
	var all sync.WaitGroup
	for k := range 10 {
		c := testkit.SignIn(b, site, []string{"marta", "ines", "anselm", "kofi", "gwen"}[k%5])
		all.Go(func() {
			for i := range 20 {
				began := time.Now()
				status, _ := c.Act(map[string]any{"do": "retitle", "id": ids[1000+100*k+i], "value": fmt.Sprint("By ", k, " ", i), "confirmed": true})
				if status != http.StatusOK {
					b.Errorf("status %d", status)
				}
				mu.Lock()
				took = append(took, time.Since(began))
				mu.Unlock()
			}
		})
	}
	all.Wait()
	slices.Sort(took)
	return float64(took[len(took)*95/100].Microseconds()) / 1000
}

// BenchmarkStaticExport writes an edition of 10,000 pages out, beside copying the files that come of
// it, by turns.
func BenchmarkStaticExport(b *testing.B) {
	site := kit.Site(b, true)
	importEntries(b, site, 10_000, deep)
	makeLive(b, site)
	writeTexts(b, site)
	st, err := site.App.ReadersState(b.Context(), 0)
	require.NoError(b, err)
	var ratios []float64
	for range 3 {
		out, twice := b.TempDir(), b.TempDir()
		began := time.Now()
		said, err := site.Reader.Export(b.Context(), reader.Export{State: st, Put: files.Folder(out).Put})
		require.NoError(b, err)
		exported := time.Since(began)
		began = time.Now()
		n := copied(b, out, twice)
		took := time.Since(began)
		ratios = append(ratios, exported.Seconds()/took.Seconds())
		b.Logf("%d pages, %d MB: written out in %v, copied in %v, ratio %.2f", said.Pages, n>>20, exported, took, exported.Seconds()/took.Seconds())
	}
	slices.Sort(ratios)
	b.ReportMetric(ratios[1], "times-copying")
}

// copied copies a folder file by file, and gives the bytes.
func copied(b *testing.B, from, to string) (n int64) {
	require.NoError(b, filepath.WalkDir(from, func(name string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		at := filepath.Join(to, name[len(from):])
		if d.IsDir() {
			return os.MkdirAll(at, 0o755)
		}
		in, err := os.Open(name)
		if err != nil {
			return err
		}
		defer in.Close()
		out, err := os.Create(at)
		if err != nil {
			return err
		}
		k, err := io.Copy(out, in)
		n += k
		if err != nil {
			return err
		}
		return out.Close()
	}))
	return n
}
