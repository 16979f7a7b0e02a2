package sitemap_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// BenchmarkOutline tells, at 10,000 entries: how long the server takes for the
// rows and for an act, how long the browser takes to show the outline and an act,
// and the longest task while one finds, sorts and scrolls.
func BenchmarkOutline(b *testing.B) {
	site := kit.Site(b, true)
	c := testkit.SignIn(b, site, "marta")
	testkit.LargeSite(b, c)
	tab := browser.Open(b, site.URL)
	tab.SignIn("marta")
	grounds := testkit.EntryID(b, site, "/grounds")
	timed := func(n int, f func()) float64 {
		var took []time.Duration
		for range n {
			began := time.Now()
			f()
			took = append(took, time.Since(began))
		}
		return testkit.Middle(took)
	}
	for b.Loop() {
		b.ReportMetric(timed(5, func() {
			status, _ := c.Get("/studio/sitemap/rows")
			require.Equal(b, 200, status)
		}), "ms/rows")
		n := 0
		b.ReportMetric(timed(15, func() {
			n++
			status, _ := c.Act(map[string]any{"key": uuid.NewString(), "do": "retitle", "id": grounds, "value": fmt.Sprint("Grounds ", n)})
			require.Equal(b, 200, status)
		}), "ms/act")
		b.ReportMetric(timed(3, func() {
			tab.Go("/studio/sitemap?level=9&at=" + grounds)
			tab.Until("document.querySelectorAll('.o-row').length > 10")
		}), "ms/open")
		var edits []time.Duration
		for range 5 { // from the key that ends an edit until the row shows what the server made of it
			n++
			testkit.Press(b, tab, input.Enter)
			tab.Until("document.activeElement.classList.contains('o-edit')")
			testkit.Press(b, tab, fmt.Sprint("Outdoors ", n))
			took := tab.MustEval(`(title) => new Promise((done) => {
				const began = performance.now(), shown = () => (document.querySelector(".o-row.at .t")?.innerText === title ? done(performance.now() - began) : requestAnimationFrame(shown));
				document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
				shown();
			})`, fmt.Sprint("Outdoors ", n)).Num()
			edits = append(edits, time.Duration(took*float64(time.Millisecond)))
		}
		b.ReportMetric(testkit.Middle(edits), "ms/edit")
		tab.MustEval(`() => { window.long = []; new PerformanceObserver((list) => { for (const e of list.getEntries()) window.long.push(e.duration); }).observe({type: "longtask"}); }`)
		longest := func() float64 {
			time.Sleep(600 * time.Millisecond)
			return tab.MustEval("() => Math.max(0, ...window.long.splice(0))").Num()
		}
		longest()
		tab.MustElement("#o-find").MustInput("Eintrag 77")
		b.ReportMetric(longest(), "ms-longest/find")
		tab.MustElement("#o-find").MustSelectAllText().MustInput("")
		longest()
		tab.MustElement(".o-head [data-col=address]").MustClick()
		b.ReportMetric(longest(), "ms-longest/sort")
		tab.MustElement(".o-head [data-col=address]").MustClick()
		tab.MustElement(".o-head [data-col=address]").MustClick()
		longest()
		for range 30 {
			tab.MustEval("() => new Promise((done) => { document.querySelector('.o-scroll').scrollTop += 3000; requestAnimationFrame(done); })")
		}
		b.ReportMetric(longest(), "ms-longest/scroll")
		tab.MustEval("() => document.querySelector('.o-scroll').focus()")
		testkit.Press(b, tab, input.Key('3'))
		b.ReportMetric(longest(), "ms-longest/level")
	}
	require.Empty(b, tab.Problems())
}
