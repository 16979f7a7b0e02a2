package site_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
)

// BenchmarkAfterAnEdition tells what an edition of ten changes costs readers of a site
// of 100,000 pages: how long an instance takes to take it up, how long the first page
// takes then, and what the instance holds in memory.
func BenchmarkAfterAnEdition(b *testing.B) {
	site := kit.Site(b, true)
	importEntries(b, site, 100_000, deep)
	makeLive(b, site)
	writeTexts(b, site)
	ctx, who := b.Context(), testkit.PersonOf(b, site, "marta")
	// Another instance, which takes up the editions that the first one publishes.
	s, err := server.New(ctx, site.Pool, server.Options{Log: testkit.Quiet()})
	require.NoError(b, err)
	b.Cleanup(s.Close)
	live, _, err := site.App.Export(ctx, who, true)
	require.NoError(b, err)
	var ids []string
	page := ""
	for i := range live.Len() {
		if strings.HasPrefix(live.Ref(i).Title, "Eintrag ") {
			ids, page = append(ids, live.Ref(i).ID), live.Served(i)
		}
	}
	read := func() time.Duration {
		began := time.Now()
		w := httptest.NewRecorder()
		s.Handler.ServeHTTP(w, httptest.NewRequest(http.MethodGet, page, nil))
		require.Equal(b, http.StatusOK, w.Code)
		return time.Since(began)
	}
	read()
	var ups, firsts, published []time.Duration
	for round := range 5 {
		var chosen []string
		for k := range 10 {
			id := ids[len(ids)/2+round*10+k]
			_, err := site.App.Plan(ctx, who, appsitemap.PlanAct{Key: uuid.NewString(), Do: "retitle", ID: id, Value: fmt.Sprint("Title ", round, k), Confirmed: true})
			require.NoError(b, err)
			chosen = append(chosen, id)
		}
		n, err := site.App.LookAhead(ctx, who, editions.Select{})
		require.NoError(b, err)
		out := change.All(n.All)
		for _, id := range chosen {
			delete(out, change.Key{ID: id, Aspect: "title"})
		}
		sel := editions.Select{Chosen: true}
		for k := range out {
			sel.LeaveOut = append(sel.LeaveOut, k)
		}
		began := time.Now()
		_, err = site.App.Publish(ctx, who, editions.PublishAsk{Key: uuid.NewString(), Why: "bench", Changes: sel})
		require.NoError(b, err)
		published = append(published, time.Since(began))
		began = time.Now()
		require.NoError(b, s.Reader.Refresh(ctx))
		ups = append(ups, time.Since(began))
		// The first instance shares the machine with the second; it is through, too.
		require.Eventually(b, func() bool { return site.Reader.Edition() == s.Reader.Edition() }, time.Minute, time.Millisecond)
		firsts = append(firsts, read())
	}
	site.Close()
	runtime.GC()
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	runtime.KeepAlive(s)
	b.ReportMetric(testkit.Middle(published), "ms/publish")
	b.ReportMetric(testkit.Middle(ups), "ms/taken-up")
	b.ReportMetric(testkit.Middle(firsts), "ms/first-page")
	b.ReportMetric(float64(m.HeapAlloc>>20), "MB/live-of-two-instances")
}
