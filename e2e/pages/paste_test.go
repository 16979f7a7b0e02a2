package pages_test

import (
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"candlepath/internal/testkit"
)

// draftText is the text of the first block of a page's draft.
func draftText(t *testing.T, site *testkit.Site, entry string) string {
	var text string
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT v.content -> 'slots' -> 'main' -> 0 ->> 'text' FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.entry_id = $1 AND s.from_edition IS NULL`, entry).Scan(&text))
	return text
}

func pasteHTML(tab *testkit.Tab, html string) {
	tab.MustEval(`(html) => {
		const data = new DataTransfer();
		data.setData("text/html", html);
		document.querySelector(".ProseMirror").dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}));
	}`, html)
}

func TestPastingAndTables(t *testing.T) {
	site := kit.Site(t, true)
	entry := testkit.EntryID(t, site, "/visitors/opening-hours")
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/pages/" + entry)
	testkit.InText(tab)
	testkit.Ctrl(t, tab, 'a')
	tab.Until("document.getElementById('editor').editor.x.view.state.selection.empty === false")
	testkit.Press(t, tab, "Before", input.Enter, "Beginning")

	t.Log("a heading stays one, links to this site follow their pages, pictures are told, looks are dropped")
	pasteHTML(tab, `<h1 style="color:red">Pasted</h1><p style="margin:0">See <a href="`+site.URL+`/seed-vault#top">the vault</a>, <a href="https://inside.quillmere.example/herbarium">the herbarium</a> and <a href="https://old.quillmere.example/x">elsewhere</a> <img src="https://old.quillmere.example/a.png"></p>`)
	tab.Until("document.querySelector('#say').innerText === 'Left out: 1 picture that this site does not keep.'")
	tab.Until("document.querySelectorAll('.ProseMirror a[href^=\"page:\"]').length === 2")
	tab.Until("document.querySelector('#saved').innerText.includes('aved')")
	require.Eventually(t, func() bool {
		return draftText(t, site, entry) == "Before\n\nBeginning\n\n## Pasted\n\nSee [the vault](page:"+testkit.EntryID(t, site, "/seed-vault")+"#top), [the herbarium](page:"+testkit.EntryID(t, site, "/herbarium")+") and [elsewhere](https://old.quillmere.example/x)"
	}, waitFor, tick, "%s", func() string { return draftText(t, site, entry) }())

	t.Log("a table begins in its first cell; Tab goes on, and makes a row behind the last one")
	testkit.Press(t, tab, input.Enter)
	tab.MustElementR("#styles .tool", "^Table$").MustClick()
	testkit.Press(t, tab, "Day", input.Tab, "From", input.Tab, "To")
	for range 7 {
		testkit.Press(t, tab, input.Tab)
	}
	testkit.Press(t, tab, "Sunday")
	require.Equal(t, 4, tab.MustEval("() => document.querySelectorAll('.ProseMirror tr').length").Int())
	require.True(t, tab.MustEval("() => document.activeElement.classList.contains('ProseMirror')").Bool())
	require.Equal(t, "Day|From|To", tab.MustEval("() => [...document.querySelectorAll('.ProseMirror th')].map((c) => c.innerText.trim()).join('|')").String())
	require.Equal(t, "Sunday", tab.MustEval("() => document.querySelector('.ProseMirror tr:last-child td').innerText.trim()").String())

	t.Log("no table in a list")
	tab.MustEval("() => { const p = document.querySelector('#sheet .b-text p'); const r = document.createRange(); r.setStart(p.firstChild, 1); getSelection().removeAllRanges(); getSelection().addRange(r); }")
	tab.MustElementR("#styles .tool", "^List$").MustClick()
	tab.Until("[...document.querySelectorAll('#styles .tool')].find((b) => b.innerText === 'Table').disabled")
	require.Empty(t, tab.Problems())
}

// A window that is reloaded goes on, however often, and says nothing about it; a
// second one reads.
func TestAReloadedEditorGoesOn(t *testing.T) {
	site := kit.Site(t, true)
	entry := testkit.EntryID(t, site, "/visitors/opening-hours")
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/pages/" + entry)
	tab.Until("document.querySelector('.ProseMirror')?.contentEditable === 'true'")
	for range 4 {
		require.NoError(t, tab.Reload())
		tab.Until("document.querySelector('.ProseMirror')?.contentEditable === 'true'")
		require.True(t, tab.MustElement("#lock-note").MustProperty("hidden").Bool())
	}
	testkit.InText(tab)
	testkit.Ctrl(t, tab, 'a')
	testkit.Press(t, tab, "Still mine")
	require.Eventually(t, func() bool {
		var n int
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM page_spans WHERE entry_id = $1 AND from_edition IS NULL`, entry).Scan(&n))
		return n == 1 && draftText(t, site, entry) == "Still mine"
	}, waitFor, tick)
	require.NoError(t, tab.Reload())
	tab.Until("document.querySelector('#give-up') && !document.querySelector('#give-up').hidden")
	second := tab.Another()
	second.Go("/studio/pages/" + entry)
	second.Until("document.querySelector('#lock-note')?.innerText.startsWith('You have this page open in another window')")
	require.Empty(t, tab.Problems())
}

// What other programs write to the clipboard, by cases of testdata/pastes.
func TestPastesOfOtherPrograms(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/visitors/opening-hours")
	tab.Until("document.querySelector('#editor')?.editor")
	files, err := filepath.Glob("testdata/pastes/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		t.Log(name)
		a, err := txtar.ParseFile(name)
		require.NoError(t, err)
		part := map[string]string{}
		for _, f := range a.Files {
			part[f.Name] = strings.TrimSpace(string(f.Data))
		}
		emptyPage(tab)
		if html := part["in.html"]; html != "" {
			pasteHTML(tab, html)
		} else {
			pasteText(tab, part["in.txt"])
		}
		require.Equal(t, part["out.md"], pasted(tab), name)
		if strings.HasSuffix(part["out.md"], "|") {
			testkit.Press(t, tab, "Behind the table.")
			require.Equal(t, part["out.md"]+"\n\nBehind the table.", pasted(tab), name)
		}
		if told := part["told"]; told != "" {
			require.Equal(t, told, tab.MustEval("() => document.getElementById('say').textContent").String(), name)
		}
	}
	require.Empty(t, tab.Problems())
}

// emptyPage leaves one empty text with the caret in it.
func emptyPage(tab *testkit.Tab) {
	tab.MustEval(`() => { const { x } = document.getElementById("editor").editor; document.getElementById("say").textContent = "";
		x.show({ ...x.page(), slots: { main: [{ type: "text", id: "only", text: "" }] } });
		let at = -1;
		x.view.state.doc.descendants((n, pos) => { if (n.attrs.id === "only") at = pos; });
		x.select(at, false); }`)
}

func pasteText(tab *testkit.Tab, text string) {
	tab.MustEval(`(text) => {
		const data = new DataTransfer();
		data.setData("text/plain", text);
		document.querySelector(".ProseMirror").dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}));
	}`, text)
}

// pasted is what the texts of the page say now.
func pasted(tab *testkit.Tab) string {
	return tab.MustEval(`() => document.getElementById("editor").editor.x.page().slots.main.map((b) => b.text ?? "[" + b.type + "]").join("\n\n")`).String()
}

// HTML that is nested ten thousand deep does not hang the window, and is told.
func TestDeepPastes(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/visitors/opening-hours")
	tab.Until("document.querySelector('#editor')?.editor")
	for name, html := range map[string]string{
		"deep":       strings.Repeat("<div><b>", 10_000) + "The end." + strings.Repeat("</b></div>", 10_000),
		"deep lists": strings.Repeat("<ul><li>", 10_000) + "The end.",
	} {
		emptyPage(tab)
		began := time.Now()
		pasteHTML(tab, html)
		took := time.Since(began)
		require.Contains(t, pasted(tab), "The end.", name)
		t.Log(name, took)
		require.Less(t, took, 15*time.Second, name)
		require.Contains(t, tab.MustEval("() => document.getElementById('say').textContent").String(), "What was nested too deeply is flat now.", name)
	}
	require.Empty(t, tab.Problems())
}
