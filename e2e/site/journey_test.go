package site_test

import (
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// TestJourney goes from a spreadsheet to a published intranet, moves a page,
// and finds its old address still answering. Steps 2 to 7 of the first job,
// with keyboard and mouse.
func TestJourney(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Until("document.querySelector('.o-row')")

	t.Log("import a spreadsheet")
	file := filepath.Join(t.TempDir(), "bees.csv")
	require.NoError(t, os.WriteFile(file, []byte("Level 1;Level 2;Comment\nBees;;new in spring\n;Hive walk;\n;Honey shelf;\n"), 0o600))
	tab.Go("/studio/sitemap/import")
	tab.MustElement("#file").MustSetFiles(file)
	tab.MustElementR("button", "^Preview$").MustClick()
	tab.Until("document.querySelector('.outcome-added')")
	require.Contains(t, tab.MustElement("main").MustText(), "Hive walk")
	require.Contains(t, tab.MustElement("main").MustText(), "/bees/honey-shelf")
	tab.MustElementR("button", "^Import$").MustClick()
	tab.Until("document.body.innerText.includes('3 added')")

	t.Log("add, rename and reorder with the keyboard")
	tab.Go("/studio/sitemap")
	tab.Until("document.activeElement?.classList.contains('o-scroll')")
	testkit.Pick(tab, "Bees")
	tab.Keyboard.MustType('n')
	tab.Until("document.querySelector('.o-title input')")
	tab.MustElement(".o-title input").MustInput("Beekeepers")
	tab.Keyboard.MustType(input.Enter)
	tab.Until(testkit.RowShown("Beekeepers"))
	tab.Keyboard.MustType(input.Escape)
	tab.Until("!document.querySelector('.o-title input')")
	tab.Until("document.querySelector('.o-row.sel')?.innerText.includes('Beekeepers')")
	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(input.ArrowRight).Do())
	tab.Until("document.querySelector('.o-row.sel')?.innerText.includes('/bees/beekeepers')")
	tab.Until("document.querySelector('#shelf').innerText.includes('6 new')")

	t.Log("undo and redo survive a reload")
	tab.MustReload().MustWaitLoad()
	tab.Until("document.querySelector('.o-row.sel')?.innerText.includes('Beekeepers')")
	tab.MustElementR(".bar-acts button", "^Undo$").MustClick()
	tab.Until("document.querySelector('.o-row.sel .o-addr')?.innerText === '/beekeepers'")
	tab.MustElementR(".bar-acts button", "^Redo$").MustClick()
	tab.Until("document.querySelector('.o-row.sel .o-addr')?.innerText === '/bees/beekeepers'")

	t.Log("a move of a live page tells its consequences first")
	testkit.Pick(tab, "Glasshouses")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Glasshouses'")
	tab.Keyboard.MustType('m')
	tab.MustElement("#move-find").MustInput("Collections")
	tab.Until("document.querySelector('.suggest li')")
	tab.Keyboard.MustType(input.Enter)
	tab.Until("document.querySelector('[data-confirm]')")
	said := tab.MustElement("#beside").MustText()
	require.Contains(t, said, "addresses change")
	require.Contains(t, said, "follow by themselves")
	require.Contains(t, said, "Top menu")
	tab.Keyboard.MustType(input.Enter)
	tab.Until("document.querySelector('.o-row.sel .o-addr')?.innerText === '/collections/glasshouses'")

	t.Log("drag an entry")
	drag(tab, "Beekeepers", "Honey shelf")

	t.Log("write a page, linking to another by type-ahead")
	for _, title := range []string{"Bees", "Hive walk", "Honey shelf", "Beekeepers"} {
		writePage(t, tab, site, title)
	}

	t.Log("the next edition: leave out, decide, publish")
	tab.Go("/studio/edition")
	leaveOut(tab, "Science", "Accession notebook", "Seed vault", "Herbarium")
	tab.MustElement("#why").MustInput("Bees have a place, glasshouses move")
	decideGone(tab)
	require.Equal(t, "Bees have a place, glasshouses move", tab.MustElement("#why").MustProperty("value").String(), "a decision forgets nothing")
	tab.Go("/studio/edition")
	require.Equal(t, "Bees have a place, glasshouses move", tab.MustElement("#why").MustProperty("value").String(), "nor does a reload")
	tab.Until("!" + ticked("Herbarium") + " && !" + ticked("Science"))
	leaveOut(tab, "Assistance dogs")
	tab.Until("!document.querySelector('[value=publish]')?.disabled")
	tab.MustElement("[value=publish]").MustClick()
	tab.Until("document.body.innerText.includes('Edition 12 is live')")

	t.Log("readers: the new page, the moved page, the old address")
	tab.Go("/bees/hive-walk")
	require.Contains(t, tab.MustElement("main").MustText(), "Every sentence counts")
	require.Equal(t, "/collections/glasshouses", tab.MustElementR(".article a", "Glasshouses").MustEval("() => this.getAttribute('href')").String())
	get := func(path string) *http.Response {
		c := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		r, err := c.Get(site.URL + path)
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		return r
	}
	r := get("/glasshouses/watering-rounds?from=bookmark")
	require.Equal(t, 301, r.StatusCode)
	require.Equal(t, "/collections/glasshouses/watering-rounds?from=bookmark", r.Header.Get("Location"))
	require.Equal(t, 404, get("/science").StatusCode, "what was left out is not visible")
	tab.Go("/search?q=hive")
	require.Contains(t, tab.MustElement("main").MustText(), "Hive walk")
	tab.Until("document.querySelector('mark')")

	t.Log("go back: the address born since leads on")
	tab.Go("/studio/edition/past?edition=11")
	tab.MustElement("#why-11").MustInput("Too early for bees")
	tab.MustElementR("button", "Restore edition 11").MustClick()
	tab.Until("document.body.innerText.includes('Edition 13 is live')")
	require.Equal(t, 302, get("/bees/hive-walk").StatusCode)
	require.Equal(t, 200, get("/glasshouses/watering-rounds").StatusCode)
	tab.Go("/studio/edition")
	tab.Until("[...document.querySelectorAll('.changes > li')].some((li) => li.innerText.startsWith('Bees') && !li.querySelector('[type=checkbox]').checked)")
	require.Empty(t, tab.Problems())
}

// drag moves a row below another in small steps.
func drag(tab *testkit.Tab, title, onto string) {
	testkit.Pick(tab, title)
	row := func(t string) proto.Point {
		el := tab.MustElementR(".o-row .t", "^"+t+"$")
		return *el.MustShape().OnePointInside()
	}
	from, to := row(title), row(onto)
	tab.Mouse.MustMoveTo(from.X, from.Y).MustDown(proto.InputMouseButtonLeft)
	for i := 1; i <= 8; i++ {
		tab.Mouse.MustMoveTo(from.X, from.Y+(to.Y+9-from.Y)*float64(i)/8)
		tab.MustEval("() => new Promise((done) => requestAnimationFrame(() => done(true)))")
	}
	tab.Until("document.querySelector('.drop-after, .drop-before, .into')")
	tab.Mouse.MustUp(proto.InputMouseButtonLeft)
	tab.Until("document.querySelector('#say').innerText.includes('oved')")
}

func writePage(t *testing.T, tab *testkit.Tab, site *testkit.Site, title string) {
	testkit.Pick(tab, title)
	tab.Until("document.querySelector('#beside h2')?.innerText === " + testkit.Quote(title))
	wait := tab.WaitNavigation(proto.PageLifecycleEventNameLoad)
	tab.Keyboard.MustType('o')
	wait()
	tab.Until("document.querySelector('#editor')?.editor")
	tab.MustElement("[data-field=summary]").MustClick()
	testkit.Insert(tab, "About "+title)
	tab.Keyboard.MustType(input.Enter)
	testkit.Insert(tab, "Every sentence counts, see ")
	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type('k').Do())
	tab.MustElement(".popover input").MustInput("Glasshouses")
	tab.Until("document.querySelector('.suggest li')")
	tab.Keyboard.MustType(input.Enter)
	tab.Until("document.querySelector('.ProseMirror a')")
	tab.Until("document.querySelector('#saved').innerText === 'Saved'")
	var text string
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT content::text FROM page_versions v JOIN page_spans s ON s.version_id = v.id WHERE from_edition IS NULL ORDER BY changed_at DESC LIMIT 1`).Scan(&text))
	require.Contains(t, text, "[Glasshouses](page:")
}

// leaveOut unticks every change of the entries named.
// ticked is a JavaScript expression for whether any change of an entry is ticked.
func ticked(title string) string {
	return "[...document.querySelectorAll('.changes > li')].some((li) => li.querySelector('.change-entry')?.firstElementChild.innerText === " + testkit.Quote(title) + " && li.querySelector('input[type=checkbox]:checked'))"
}

// leaveOut unticks what changes of entries, and waits until the program has said
// what that means.
func leaveOut(tab *testkit.Tab, titles ...string) {
	tab.MustEval(`(titles) => {
		document.querySelector("#edition-body").dataset.old = "1";
		for (const li of document.querySelectorAll(".changes > li"))
			if (titles.includes(li.querySelector(".change-entry")?.firstElementChild.innerText))
				for (const box of li.querySelectorAll("input[type=checkbox]")) if (box.checked) box.click();
	}`, titles)
	tab.Until("!document.querySelector('#edition-body').dataset.old")
	for _, title := range titles {
		tab.Until("!" + ticked(title))
	}
}

func decideGone(tab *testkit.Tab) {
	tab.MustElementR(".decision button", "^Mark as gone$").MustClick()
	tab.Until("document.querySelector('.decision.decided')")
}
