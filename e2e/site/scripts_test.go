package site_test

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
	"candlepath/internal/web/studio/part"
)

// scripts serves the sources of our scripts as modules, and gives a page in which
// they can be asked.
func scripts(t *testing.T) *testkit.Tab {
	t.Helper()
	mux := http.NewServeMux()
	mux.HandleFunc("/{$}", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write([]byte("<!DOCTYPE html><title>Scripts</title><body></body>"))
	})
	mux.Handle("/", http.FileServer(http.Dir(testkit.Root("web/assets/src/js"))))
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	tab := browser.Open(t, server.URL)
	tab.Go("/")
	return tab
}

// asked evaluates an expression over the exports of a module, m.
func asked(t *testing.T, tab *testkit.Tab, module, js string) string {
	t.Helper()
	return tab.MustEval(`async (module) => { const m = await import(module); return JSON.stringify(`+js+`) ?? "undefined"; }`, module).Str()
}

// The parts of our scripts that know nothing of a page, by tables of cases.
func TestPureScripts(t *testing.T) {
	tab := scripts(t)
	for _, c := range []struct{ module, js, want string }{
		{"/shared/chips.js", `m.listed("")`, `[]`},
		{"/shared/chips.js", `m.listed(" Ines Barrow ;editor;; ")`, `["Ines Barrow","editor"]`},
		{"/shared/chips.js", `m.listed("tea; Tea; cake")`, `["tea","cake"]`},

		{"/shared/dates.js", `m.dayInWords("2026-12-09")`, `"9 Dec 2026"`},
		{"/shared/dates.js", `m.dayInWords("")`, `""`},
		{"/shared/dates.js", `m.dayInWords("2026-13-40")`, `""`},

		{"/shared/waiting.js", `m.mergeOrder(["a", "b"], ["b", "a"], () => false)`, `["b","a"]`},
		{"/shared/waiting.js", `m.mergeOrder(["a", "x", "b"], ["b", "a"], (id) => id === "x")`, `["b","a","x"]`},
		{"/shared/waiting.js", `m.mergeOrder(["x", "a"], ["a"], (id) => id === "x")`, `["x","a"]`},
		{"/shared/waiting.js", `m.mergeOrder(["a", "x", "y"], ["a", "c"], (id) => id === "x" || id === "y")`, `["a","x","y","c"]`},
		{"/shared/waiting.js", `m.mergeOrder(["a", "gone", "x"], ["a"], (id) => id === "x")`, `["a","x"]`},
		{"/shared/waiting.js", `m.runOf([1, 2, 3].map((n) => ({ form: { do: "add", new: n } }))).length`, `3`},
		{"/shared/waiting.js", `m.runOf([{ form: { do: "move" } }, { form: { do: "add", new: 1 } }]).length`, `1`},
		{"/shared/waiting.js", `m.runOf([{ form: { do: "add", new: 1 } }, { what: "undo" }]).length`, `1`},
		{"/shared/waiting.js", `m.runOf(Array(90).fill({ form: { do: "add", new: 1 } })).length`, `50`},
		{"/shared/waiting.js", `[0, 1, 2, 9].map(m.pause)`, `[500,1000,2000,8000]`},
		{"/shared/waiting.js", `(() => { const mine = m.onThisComputer("p"); mine.write([{ id: 1 }]); const kept = mine.read(); mine.write([]); return [kept, mine.read(), m.onThisComputer("q").read()]; })()`, `[[{"id":1}],[],[]]`},
		{"/shared/waiting.js", `(() => { localStorage.setItem("candlepath:adding:r", "{broken"); return m.onThisComputer("r").read(); })()`, `[]`},
	} {
		require.Equal(t, c.want, asked(t, tab, c.module, c.js), "%s: %s", c.module, c.js)
	}
	require.Empty(t, tab.Problems())
}

// Columns follow from the table of fields; filters and sorting read what rows say.
func TestColumnsAndFilters(t *testing.T) {
	tab := scripts(t)
	fields, err := json.Marshal(part.FieldViews())
	require.NoError(t, err)
	tab.MustEval(`async (fields) => { const m = await import("/sitemap/columns.js"); m.learn(JSON.parse(fields)); }`, string(fields))
	const rows = `const page = { k: "page", t: "Ponds", facts: { slug: "ponds", owner: "Gwen", topics: "tea; cake" } },
		out = { k: "outside", t: "Weather", facts: { target: "https://w.example" }, fits: ["unlisted"] },
		home = { k: "page", t: "Home", h: true, facts: {}, fits: ["no-owner"] }, ref = { k: "reference", t: "See", r: "Grounds › Ponds", facts: { target: "p" } },
		names = { kinds: [["page", "page"]], templates: [["topic", "Topic page"]], owners: [] };`
	for _, c := range []struct{ module, js, want string }{
		{"/sitemap/columns.js", `Object.keys(m.columns).slice(0, 4)`, `["title","address","owner","state"]`},
		{"/sitemap/columns.js", `Object.keys(m.columns).length`, `16`},
		{"/sitemap/columns.js", `Object.entries(m.columns).filter(([id, c]) => id !== "title" && !(c.least > 0)).map(([id]) => id)`, `[]`},
		{"/sitemap/columns.js", `[page, out, home].map((n) => m.writable(m.columns.address, n))`, `[true,false,false]`},
		{"/sitemap/columns.js", `[page, out, ref].map((n) => m.writable(m.columns.target, n))`, `[false,true,false]`},
		{"/sitemap/columns.js", `[page, home].map((n) => m.writable(m.columns.kind, n))`, `[true,false]`},
		{"/sitemap/columns.js", `m.writable(m.columns.state, page)`, `false`},
		{"/sitemap/columns.js", `[page, home, out].map((n) => m.shownIn(m.columns.owner, n, names))`, `["Gwen","no owner",""]`},
		{"/sitemap/columns.js", `m.shownIn(m.columns.listed, page, names)`, `"listed"`},
		{"/sitemap/columns.js", `m.shownIn(m.columns.target, ref, names)`, `"Grounds › Ponds"`},
		{"/sitemap/columns.js", `m.shownIn(m.columns.template, { k: "page", facts: { template: "topic" } }, names)`, `"Topic page"`},
		{"/sitemap/columns.js", `[m.columns.owner.clears, m.columns.kind.clears, m.columns.address.clears, m.columns.notes.lines]`, `[true,false,false,true]`},
		{"/sitemap/columns.js", `m.sorted([{ t: "Bed 10" }, { t: "Bed 9" }, { t: "" }], "title", names).map((n) => n.t)`, `["Bed 9","Bed 10",""]`},
		{"/sitemap/columns.js", `m.sorted([{ v: 3 }, {}, { v: 12 }], "-visits", names).map((n) => n.v ?? 0)`, `[12,3,0]`},

		{"/sitemap/looks.js", `[page, out, home].map(m.fits("is:no-owner"))`, `[false,false,true]`},
		{"/sitemap/looks.js", `[page, out].map(m.fits("owner:Gwen"))`, `[true,false]`},
		{"/sitemap/looks.js", `[page, out].map(m.fits("topic:cake"))`, `[true,false]`},
		{"/sitemap/looks.js", `[page, out].map(m.fits("topic:ca"))`, `[false,false]`},
		{"/sitemap/looks.js", `[page, out].map(m.fits("kind:outside"))`, `[false,true]`},
		{"/sitemap/looks.js", `[page, out].map(m.fits("nonsense"))`, `[true,true]`},
	} {
		require.Equal(t, c.want, asked(t, tab, c.module, `(() => { `+rows+` return `+c.js+`; })()`), "%s: %s", c.module, c.js)
	}
	require.Empty(t, tab.Problems())
}
