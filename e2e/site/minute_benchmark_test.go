package site_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
	"candlepath/internal/testkit"
)

// BenchmarkMinute tells how long after its minute a thousand changed texts of a site of 10,000 pages are with
// readers: from the moment at which they are due until the instance serves their edition.
func BenchmarkMinute(b *testing.B) {
	site := kit.Site(b, true)
	ctx, marta := b.Context(), testkit.PersonOf(b, site, "marta")
	importEntries(b, site, 10_000, deep)
	makeLive(b, site)
	live, _, err := site.App.Export(ctx, marta, true)
	require.NoError(b, err)
	chosen := map[string]bool{}
	for i := range live.Len() {
		if e := live.Ref(i); strings.HasPrefix(e.Title, "Eintrag ") && e.Kind.IsPage() && len(chosen) < 1000 {
			window := uuid.NewString()
			v, err := site.App.OpenPage(ctx, marta, e.ID, window)
			require.NoError(b, err)
			p := v.Content
			if p.Slots == nil {
				p.Slots = map[string][]content.Block{}
			}
			p.Slots["main"] = []content.Block{{Type: content.Text, Text: fmt.Sprintf("Text %d of the minute. [Home](page:%s)", len(chosen), live.Ref(live.Home()).ID)}}
			_, err = site.App.SavePage(ctx, marta, e.ID, window, p, v.Base)
			require.NoError(b, err)
			require.NoError(b, site.App.ClosePage(ctx, marta, e.ID, window))
			chosen[e.ID] = true
		}
	}
	q, err := site.App.Queue(ctx, marta)
	require.NoError(b, err)
	var list []editions.Judged
	for _, i := range q.Items {
		if chosen[i.ID] && i.State == workflow.Draft {
			list = append(list, editions.Judged{ID: i.ID, Stamp: i.Stamp})
		}
	}
	require.Len(b, list, 1000)
	_, err = site.App.TimeChanges(ctx, marta, editions.TimeAsk{List: list, At: time.Now().UTC().Add(time.Hour).Format("2006-01-02T15:04"), Zone: "UTC"})
	require.NoError(b, err)
	before := site.Reader.Edition()
	time.Sleep(15 * time.Second) // what is prepared before a minute is
	began := time.Now()
	_, err = site.Pool.Exec(ctx, `UPDATE change_states SET go_at = now() WHERE go_at IS NOT NULL`)
	require.NoError(b, err)
	require.NoError(b, site.App.PublishDue(ctx))
	published := time.Since(began)
	require.Eventually(b, func() bool { return site.Reader.Edition() > before }, time.Minute, 5*time.Millisecond)
	b.ReportMetric(published.Seconds(), "s/published")
	b.ReportMetric(time.Since(began).Seconds(), "s/served")
	eds, _, err := site.App.PastEditions(ctx, marta)
	require.NoError(b, err)
	require.Len(b, eds[0].Changes, 1000)
}
