package e2e_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
)

// largeSite brings 10,000 entries in 8 levels in.
func largeSite(t testing.TB, c *client) {
	var csv strings.Builder
	csv.WriteString("Level;Title;Owner;Topics\n")
	for i := range 10_000 {
		fmt.Fprintf(&csv, "%d;Eintrag %d;%s;beds\n", []int{1, 2, 3, 4, 5, 6, 7, 8, 8, 7, 4, 5, 3, 4, 5, 2, 3, 4, 5, 5}[i%20], i, []string{"Gwen Hale", "Ines Barrow", ""}[i%3])
	}
	at := c.upload("large.csv", csv.String())
	c.until(at, "How to import it")
	status, _ := c.form(at+"/accept", nil)
	require.Equal(t, 303, status)
	c.until(at, "10000 added")
}

func middle(d []time.Duration) float64 {
	slices.Sort(d)
	return float64(d[len(d)/2].Microseconds()) / 1000
}

// BenchmarkOutline tells, at 10,000 entries: how long the server takes for the
// rows and for an act, how long the browser takes to show the outline and an act,
// and the longest task while one finds, sorts and scrolls.
func BenchmarkOutline(b *testing.B) {
	site := kit.Site(b, true)
	c := signIn(b, site, "marta")
	largeSite(b, c)
	tab := browser.Open(b, site.URL)
	tab.SignIn("marta")
	grounds := entryID(b, site, "/grounds")
	timed := func(n int, f func()) float64 {
		var took []time.Duration
		for range n {
			began := time.Now()
			f()
			took = append(took, time.Since(began))
		}
		return middle(took)
	}
	for b.Loop() {
		b.ReportMetric(timed(5, func() {
			status, _ := c.get("/studio/sitemap/rows")
			require.Equal(b, 200, status)
		}), "ms/rows")
		n := 0
		b.ReportMetric(timed(15, func() {
			n++
			status, _ := c.act(map[string]any{"key": uuid.NewString(), "do": "retitle", "id": grounds, "value": fmt.Sprint("Grounds ", n)})
			require.Equal(b, 200, status)
		}), "ms/act")
		b.ReportMetric(timed(3, func() {
			tab.Go("/studio/sitemap?level=9&at=" + grounds)
			tab.Until("document.querySelectorAll('.o-row').length > 10")
		}), "ms/open")
		var edits []time.Duration
		for range 5 { // from the key that ends an edit until the row shows what the server made of it
			n++
			press(b, tab, input.Enter)
			tab.Until("document.activeElement.classList.contains('o-edit')")
			press(b, tab, fmt.Sprint("Outdoors ", n))
			took := tab.MustEval(`(title) => new Promise((done) => {
				const began = performance.now(), shown = () => (document.querySelector(".o-row.at .t")?.innerText === title ? done(performance.now() - began) : requestAnimationFrame(shown));
				document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
				shown();
			})`, fmt.Sprint("Outdoors ", n)).Num()
			edits = append(edits, time.Duration(took*float64(time.Millisecond)))
		}
		b.ReportMetric(middle(edits), "ms/edit")
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
		press(b, tab, input.Key('3'))
		b.ReportMetric(longest(), "ms-longest/level")
	}
	require.Empty(b, tab.Problems())
}
