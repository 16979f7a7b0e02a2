package site_test

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
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

		{"/shared/drag.js", `[0.1, 0.5, 0.9].map((at) => m.placeOn(at, true))`, `["before","into","after"]`},
		{"/shared/drag.js", `[0.1, 0.5, 0.9].map((at) => m.placeOn(at, false))`, `["before","after","after"]`},
		{"/shared/drag.js", `[["b", "after"], ["b", "before"], ["a", "before"]].map(([id, how]) => m.afterOf(["a", "b"], id, how))`, `["b","a",""]`},

		{"/sitemap/outline/pages.js", `(await m.allRows(async () => ({ version: 1, total: 2, rows: ["a", "b"] }), "/rows")).rows`, `["a","b"]`},
		{"/sitemap/outline/pages.js", `(await m.allRows(async (u) => (u === "/rows" ? { version: 1, total: 3, next: 2, rows: ["a", "b"] } : { version: 1, rows: ["c"] }), "/rows")).rows`, `["a","b","c"]`},
		{"/sitemap/outline/pages.js", `await (async () => { let n = 0; const got = await m.allRows(async (u) => (u === "/rows" ? { version: ++n, total: 2, next: 1, rows: [n] } : { version: 2, rows: ["last"] }), "/rows"); return got.rows; })()`, `[2,"last"]`},
		{"/sitemap/outline/pages.js", `await (async () => { let n = 0; try { await m.allRows(async () => ({ version: ++n, total: 9, next: 1, rows: [n] }), "/rows"); } catch (e) { return [e.message.length > 20, n]; } })()`, `[true,10]`},

		{"/shared/drag.js", `[[0, { k: 2, how: "after" }], [2, { k: 0, how: "before" }], [1, { k: 1, how: "after" }], [0, { k: 2, how: "before" }]].map(([i, to]) => m.movedTo(["a", "b", "c"], i, to).join("")).join(" ")`, `"bca cab abc bac"`},
		{"/pages/symbols.js", `m.matching([["", ""], ["cup", "cup drink"], ["coffee", "coffee break café tea"]], "TE").map(([name]) => name)`, `["coffee"]`},
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
	tab.MustEval(`async (fields) => { const m = await import("/sitemap/outline/columns.js"); m.learn(JSON.parse(fields)); }`, string(fields))
	const rows = `const page = { k: "page", t: "Ponds", facts: { slug: "ponds", owner: "Gwen", topics: "tea; cake" } },
		out = { k: "outside", t: "Weather", facts: { target: "https://w.example" }, fits: ["unlisted"] },
		home = { k: "page", t: "Home", h: true, facts: {}, fits: ["no-owner"] }, ref = { k: "reference", t: "See", r: "Grounds › Ponds", facts: { target: "p" } },
		names = { kinds: [["page", "page"]], templates: [["topic", "Topic page"]], owners: [] };`
	for _, c := range []struct{ module, js, want string }{
		{"/sitemap/outline/columns.js", `Object.keys(m.columns).slice(0, 4)`, `["title","address","owner","state"]`},
		{"/sitemap/outline/columns.js", `Object.keys(m.columns).length`, `16`},
		{"/sitemap/outline/columns.js", `Object.entries(m.columns).filter(([id, c]) => id !== "title" && !(c.least > 0)).map(([id]) => id)`, `[]`},
		{"/sitemap/outline/columns.js", `[page, out, home].map((n) => m.writable(m.columns.address, n))`, `[true,false,false]`},
		{"/sitemap/outline/columns.js", `[page, out, ref].map((n) => m.writable(m.columns.target, n))`, `[false,true,false]`},
		{"/sitemap/outline/columns.js", `[page, home].map((n) => m.writable(m.columns.kind, n))`, `[true,false]`},
		{"/sitemap/outline/columns.js", `m.writable(m.columns.state, page)`, `false`},
		{"/sitemap/outline/columns.js", `[page, home, out].map((n) => m.shownIn(m.columns.owner, n, names))`, `["Gwen","no owner",""]`},
		{"/sitemap/outline/columns.js", `m.shownIn(m.columns.listed, page, names)`, `"listed"`},
		{"/sitemap/outline/columns.js", `m.shownIn(m.columns.target, ref, names)`, `"Grounds › Ponds"`},
		{"/sitemap/outline/columns.js", `m.shownIn(m.columns.template, { k: "page", facts: { template: "topic" } }, names)`, `"Topic page"`},
		{"/sitemap/outline/columns.js", `[m.columns.owner.clears, m.columns.kind.clears, m.columns.address.clears, m.columns.notes.lines]`, `[true,false,false,true]`},
		{"/sitemap/outline/columns.js", `m.sorted([{ t: "Bed 10" }, { t: "Bed 9" }, { t: "" }], "title", names).map((n) => n.t)`, `["Bed 9","Bed 10",""]`},
		{"/sitemap/outline/columns.js", `m.sorted([{ v: 3 }, {}, { v: 12 }], "-visits", names).map((n) => n.v ?? 0)`, `[12,3,0]`},

		{"/sitemap/outline/looks.js", `[page, out, home].map(m.fits("is:no-owner"))`, `[false,false,true]`},
		{"/sitemap/outline/looks.js", `[page, out].map(m.fits("owner:Gwen"))`, `[true,false]`},
		{"/sitemap/outline/looks.js", `[page, out].map(m.fits("topic:cake"))`, `[true,false]`},
		{"/sitemap/outline/looks.js", `[page, out].map(m.fits("topic:ca"))`, `[false,false]`},
		{"/sitemap/outline/looks.js", `[page, out].map(m.fits("kind:outside"))`, `[false,true]`},
		{"/sitemap/outline/looks.js", `[page, out].map(m.fits("nonsense"))`, `[true,true]`},
	} {
		require.Equal(t, c.want, asked(t, tab, c.module, `(() => { `+rows+` return `+c.js+`; })()`), "%s: %s", c.module, c.js)
	}
	require.Empty(t, tab.Problems())
}

// The outline in memory: a tree that takes up answers, and the rows that show of it.
func TestTheTreeInMemory(t *testing.T) {
	tab := scripts(t)
	const outline = `const { load, apply, putLocal, wayTo, countBelow, holds } = await import("/sitemap/outline/tree.js"),
		{ layout, bestFound, reveal, wordsOf } = await import("/sitemap/outline/rows.js");
		const o = { names: {}, checks: { mowers: 1 }, find: { value: "" }, tree: { nodes: new Map(), tops: [], version: 0, edition: 0, home: null },
			state: { selected: null, level: 1, flipped: new Set(), filter: "all", words: [], visible: [], chosen: new Set(), only: "", sort: "" } };
		const row = (id, p, t, more) => ({ id, p, t, k: "page", a: "/" + id, ...more });
		load(o, [{ id: "home", t: "Home", k: "page", h: true }, row("grounds", "", "Grounds"), row("machines", "grounds", "Machines"),
			row("mowers", "machines", "Mowers", { m: ["new"] }), row("vault", "", "Seed vault"), row("see", "vault", "See mowers", { k: "reference" })]);
		const mine = (p, before) => putLocal(o, { id: "x", p, t: "Mine", k: "page", kids: [], fresh: true }, before), x = () => o.tree.nodes.get("x");
		const rows = () => (layout(o), o.state.visible.map((v) => v.node.id + v.depth + (v.faint ? "~" : "")).join(" "));`
	for _, c := range []struct{ js, want string }{
		{`rows()`, `"home1 grounds1 vault1"`},
		{`(o.state.level = 2, rows())`, `"home1 grounds1 machines2 vault1 see2"`},
		{`(o.state.flipped.add("vault"), rows())`, `"home1 grounds1 vault1 see2"`},
		{`(reveal(o, "mowers"), rows())`, `"home1 grounds1 machines2 mowers3 vault1"`},
		{`(o.state.filter = "changed", rows())`, `"grounds1~ machines2~ mowers3"`},
		{`(o.state.filter = "found", rows())`, `"grounds1~ machines2~ mowers3"`},
		{`(o.state.words = wordsOf("  MOWers "), rows())`, `"grounds1~ machines2~ mowers3 vault1~ see2"`},
		{`(o.find.value = "mow", o.state.words = wordsOf("mow"), rows(), bestFound(o).id)`, `"mowers"`},
		{`(o.state.only = "kind:reference", rows())`, `"vault1~ see2"`},
		{`[wayTo(o, o.tree.nodes.get("mowers")), countBelow(o, o.tree.nodes.get("grounds")), holds(o.tree.nodes.get("see"))]`, `["in Grounds › Machines",2,false]`},
		{`[apply(o, { version: 2, drop: ["see"], order: { "": ["vault", "grounds"], vault: [] } }), rows(), o.tree.version]`, `[true,"home1 vault1 grounds1",2]`},
		{`[apply(o, { version: 3, put: [row("vault", "", "Vault")], order: { "": ["grounds", "vault"] } }), o.tree.nodes.get("vault").t, o.tree.nodes.get("vault").kids]`, `[false,"Vault",["see"]]`},
		{`(putLocal(o, { id: "x", p: "", t: "Mine", kids: [], waiting: true }, "grounds"), apply(o, { version: 2, order: { "": ["vault", "grounds"] } }), o.tree.tops)`, `["vault","grounds","x"]`},
		{`(mine("machines", "mowers"), apply(o, { version: 2, drop: ["machines", "mowers"], order: { grounds: [] } }), [x().p, o.tree.nodes.get("grounds").kids, rows()])`, `["grounds",["x"],"home1 grounds1 vault1"]`},
		{`(mine("machines", "mowers"), apply(o, { version: 2, drop: ["grounds", "machines", "mowers"], order: { "": ["vault"] } }), [x().p, rows()])`, `["","home1 x1 vault1"]`},
		{`(mine("vault", "see"), apply(o, { version: 2, drop: ["vault", "see"], order: { "": ["grounds"] } }), [x().p, rows()])`, `["","home1 grounds1 x1"]`},
		{`(mine("machines", "mowers"), load(o, [row("grounds", "", "Grounds"), row("paths", "grounds", "Paths")]), [x().p, o.tree.nodes.get("grounds").kids])`, `["grounds",["x","paths"]]`},
		{`(mine("nowhere", "mowers"), [x().p, rows()])`, `["","home1 grounds1 vault1 x1"]`},
	} {
		got := tab.MustEval(`async () => { ` + outline + ` return JSON.stringify(` + c.js + `); }`).Str()
		require.Equal(t, c.want, got, c.js)
	}
}

// The editor has an input for every type of field that there is, whether of a block or of a
// template.
func TestTheEditorAsksForEveryField(t *testing.T) {
	types := asked(t, scripts(t), "/pages/settings.js", `m.fieldTypes`)
	for _, f := range content.FieldTypes() {
		if f != content.FieldProse { // which is written on the page
			require.Contains(t, types, `"`+string(f)+`"`)
		}
	}
}
