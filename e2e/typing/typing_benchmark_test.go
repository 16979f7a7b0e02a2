package typing_test

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// BenchmarkAdding adds 200 entries by keyboard at 10,000 entries, and tells the
// longest gap between Enter and the field of the next title.
func BenchmarkAdding(b *testing.B) {
	site := kit.Site(b, true)
	testkit.LargeSite(b, testkit.SignIn(b, site, "marta"))
	tab := browser.Open(b, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap?level=9")
	tab.Until("document.querySelector('.o-row.at')")
	tab.MustEval(`() => {
		window.gaps = [];
		let pressed = 0;
		addEventListener("keydown", (e) => { if (e.key === "Enter") pressed = performance.now(); }, true);
		addEventListener("focusin", (e) => { if (pressed && e.target.matches(".o-edit")) { gaps.push(performance.now() - pressed); pressed = 0; } });
	}`)
	require.NoError(b, tab.Keyboard.Type('n'))
	for n := range 200 {
		for _, r := range fmt.Sprint("Bed ", n) {
			require.NoError(b, tab.Keyboard.Type(input.Key(r)))
		}
		require.NoError(b, tab.Keyboard.Type(input.Enter))
	}
	require.NoError(b, tab.Keyboard.Type(input.Escape))
	tab.Until("!document.querySelector('.o-row.waiting')")
	require.Equal(b, 200, tab.MustEval("() => gaps.length").Int())
	b.ReportMetric(tab.MustEval("() => gaps.sort((x, y) => x - y)[100]").Num(), "ms/gap")
	b.ReportMetric(tab.MustEval("() => Math.max(...gaps)").Num(), "ms/longest-gap")
}
