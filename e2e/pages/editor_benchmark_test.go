package pages_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/testkit"
)

// long is a page of 300 blocks: texts with a heading, a list and a table, and notices.
func long() content.Page {
	var blocks []content.Block
	for i := range 300 {
		b := content.Block{ID: fmt.Sprint("long-", i), Type: content.Text, Text: fmt.Sprintf("## Part %d\n\nWater by **weight**, not by the clock.\n\n- lift the pot\n- feel\n- decide\n\n| Bed | Litres |\n| - | -: |\n| North | 3 |\n| South | 5 |\n", i)}
		if i%5 == 4 {
			b = content.Block{ID: b.ID, Type: content.Note, Text: "Ask before you start.", Set: content.Values{"tone": "tip"}}
		}
		blocks = append(blocks, b)
	}
	return content.Page{Slots: map[string][]content.Block{"main": blocks}}
}

// writeLong gives a page of the demo a draft of 300 blocks.
func writeLong(t testing.TB, site *testkit.Site) (entry string) {
	t.Helper()
	entry = testkit.EntryID(t, site, borrowed)
	_, err := site.App.SavePage(t.Context(), testkit.PersonOf(t, site, "ines"), entry, "0d9f2f5e-0000-4000-8000-000000000001", long(), 0)
	require.NoError(t, err)
	_, err = site.Pool.Exec(t.Context(), `DELETE FROM locks`)
	require.NoError(t, err)
	return entry
}

// BenchmarkEditor opens a page of 300 blocks, until a key is taken, and types a sentence at
// its middle: how long a key waits for what it wrote, and which tasks hold up others.
func BenchmarkEditor(b *testing.B) {
	site := kit.Site(b, true)
	entry := writeLong(b, site)
	tab := browser.Open(b, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/pages")
	began := time.Now()
	tab.Go("/studio/pages/" + entry)
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]')?.querySelectorAll('h2').length > 200")
	tab.MustEval(`() => {
		window.tasks = [];
		new PerformanceObserver((seen) => seen.getEntries().forEach((e) => tasks.push(e.duration))).observe({ type: "longtask" });
		const at = document.querySelectorAll("#sheet .b-text")[120].querySelector("p");
		at.scrollIntoView({ block: "center" });
		document.querySelector(".ProseMirror").focus();
		getSelection().collapse(at.firstChild, 3);
	}`)
	require.NoError(b, tab.Keyboard.Type('.'))
	tab.Until("document.querySelectorAll('#sheet .b-text')[120].innerText.includes('Wat.er')")
	b.ReportMetric(float64(time.Since(began).Milliseconds()), "ms/first-key")
	time.Sleep(2 * time.Second) // what loads behind is no part of typing
	tab.MustEval(`() => {
		tasks.length = 0;
		window.frames = [];
		let pressed = 0;
		addEventListener("keydown", () => { pressed = performance.now(); }, true);
		addEventListener("input", () => requestAnimationFrame(() => setTimeout(() => frames.push(performance.now() - pressed))), true);
	}`)
	for _, r := range "the pots in the morning, and again where the sun stands long. " {
		require.NoError(b, tab.Keyboard.Type(input.Key(r)))
		time.Sleep(60 * time.Millisecond) // as a quick hand
	}
	tab.Until("frames.length > 50")
	b.ReportMetric(tab.MustEval("() => frames.sort((x, y) => x - y)[frames.length >> 1]").Num(), "ms/key")
	b.ReportMetric(tab.MustEval("() => Math.max(...frames)").Num(), "ms/longest-key")
	b.ReportMetric(tab.MustEval("() => tasks.length").Num(), "tasks-over-50ms")
	b.ReportMetric(tab.MustEval("() => Math.max(0, ...tasks)").Num(), "ms/longest-task")
}
