package pages_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// A template is edited like a page: its parts are named, added and written, then the change
// is checked on the pages that follow and saved for the next edition.
func TestTemplateInTheEditor(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/templates")
	tab.MustElementR("a", "^Procedure$").MustClick()
	tab.Until("document.querySelector('#editor')?.editor")

	pressPart(tab, ".part-row", "Main text")
	tab.MustElement("[data-setting=name] input").MustSelectAllText().MustInput("What to do")
	tab.Until("document.querySelector('.tpl-slot b').innerText === 'What to do'")

	tab.MustElementR(".add-here", "Add a part").MustClick()
	tab.MustElement(".add-list input").MustInput("fix").MustType(input.Enter)
	tab.Until("document.querySelectorAll('.tpl-fixed').length === 2")
	tab.Until("document.querySelector('.part-open')?.innerText.includes('This fixed part shows nothing')")
	pressPart(tab, ".part-open button", "Add inside")
	tab.MustElement(".add-list input").MustInput("text").MustType(input.Enter)
	tab.Until("document.activeElement.closest('#sheet')")
	tab.Keyboard.MustType([]input.Key("When it rains, wait.")...)
	tab.Until("document.querySelectorAll('.tpl-fixed')[1].innerText.includes('When it rains, wait.')")
	allSaved(tab)
	tab.MustElement("#undo").MustClick()
	tab.Until("!document.querySelector('#sheet').innerText.includes('When it rains, wait.')")
	tab.MustElement("#redo").MustClick()
	tab.Until("document.querySelector('#sheet').innerText.includes('When it rains, wait.')")
	allSaved(tab)

	t.Log("two slots of one name are told in the editor, and stop the change")
	pressPart(tab, ".part-row", "You may also need")
	name := tab.MustElement(".part-open [data-setting=name] input")
	name.MustSelectAllText().MustInput("what to do")
	tab.Until("document.querySelector('.part-open .to-mend')?.innerText.includes('Two slots are called')")
	name.MustSelectAllText().MustInput("You may also need")
	tab.Until("!document.querySelector('.part-open .to-mend').innerText")
	allSaved(tab)

	tab.MustElementR("a.btn", "Check and save").MustClick()
	tab.MustElementR("h1", "What changes with “Procedure”")
	tab.Until("document.querySelector('.template-sides').innerText.split('When it rains, wait.').length === 2")
	tab.MustElementR("button", "Save for the next edition").MustClick()
	tab.MustElementR("[role=status]", "goes out with the next edition")
	tab.Go("/studio/menus/preview?of=next&at=/grounds/machines/book-the-wood-chipper")
	tab.Until("document.body.innerText.includes('When it rains, wait.')")
	tab.Go("/grounds/machines/book-the-wood-chipper")
	tab.Until("!document.body.innerText.includes('When it rains, wait.')")
	tab.Go("/studio/templates/procedure/versions?compare=0")
	tab.Until("document.querySelector('#compared').innerText.includes('What to do')")
	require.Empty(t, tab.Problems())
}

// Two windows of one person on one template: the second is told, and its work is kept.
func TestTwoWindowsOnOneTemplate(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	rename := func(to string) {
		pressPart(tab, ".part-row", "Facts")
		tab.MustElement("[data-setting=name] input").MustSelectAllText().MustInput(to)
	}
	tab.Go("/studio/templates/topic")
	tab.Until("document.querySelector('#editor')?.editor")
	rename("Topic")
	allSaved(tab)
	draft := func() (name string) {
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT page -> 'fields' ->> 'name' FROM template_drafts`).Scan(&name))
		return name
	}
	require.Equal(t, "Topic", draft())
	_, err := site.Pool.Exec(t.Context(), `UPDATE template_drafts SET version = version + 1, page = jsonb_set(page, '{fields,name}', '"Elsewhere"')`)
	require.NoError(t, err)
	rename("Topic here")
	tab.MustElementR("#lock-note button", "Load the other one").MustClick()
	tab.Until("document.querySelector('#compare') && !document.querySelector('#compare').hidden")
	tab.MustElementR("#compare button", "mine|Mine|yours|Yours").MustClick()
	allSaved(tab)
	require.Equal(t, "Topic here", draft())
	require.NotContains(t, tab.Problems(), "Uncaught")
}

// A page is added in one small form, and one that a link leads to is planned from the link.
func TestNewPageFromAFormAndFromALink(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/pages")
	tab.MustElementR("a.btn", "New page").MustClick()
	tab.MustElement("#np-title").MustInput("Frost watch")
	tab.MustElement("#np-template").MustSelect("Procedure")
	tab.MustElementR("button", "Use this template").MustClick()
	tab.MustElementR("label", "Risk").MustClick()
	require.Equal(t, "Frost watch", tab.MustElement("#np-title").MustProperty("value").Str())
	tab.MustElement("#f-new-risk").MustSelect("middle")
	tab.MustElementR("button", "Add and write it").MustClick()
	tab.Until("document.querySelector('#editor')?.editor")
	tab.MustElementR(".page-way b", "Frost watch")
	tab.Until("document.querySelector('#sheet .facts').innerText.includes('middle')")

	tab.MustElementR(".add-here", "Begin").MustClick()
	tab.MustElement(".add-list input").MustInput("text").MustType(input.Enter)
	tab.Until("document.activeElement.closest('#sheet')")
	tab.Keyboard.MustType([]input.Key("See ")...)
	tab.KeyActions().Press(input.ControlLeft).Type(input.KeyK).MustDo()
	tab.MustElement("[aria-label=Link] input").MustInput("Fleece store")
	tab.MustElementR("[aria-label=Link] button", "Plan a page called “Fleece store”").MustClick()
	tab.Until("document.querySelector('#sheet a')?.innerText === 'Fleece store'")
	allSaved(tab)
	var planned int
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM entry_rows WHERE title IN ('Fleece store', 'Frost watch') AND from_edition IS NULL`).Scan(&planned))
	require.Equal(t, 2, planned)
	require.Empty(t, tab.Problems())
}

// Facts of the pages of a template are edited in their table.
func TestFactsInATable(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/templates/procedure/facts?q=wood+chipper")
	id := testkit.EntryID(t, site, "/grounds/machines/book-the-wood-chipper")
	tab.MustElement("#f-" + id + "-risk").MustSelect("low")
	tab.MustElementR(".fact-said", "Saved")
	tab.MustElement("#f-" + id + "-owner").MustFocus().MustSelectAllText()
	tab.Keyboard.MustType(append([]input.Key("Machines"), input.Enter)...)
	tab.Until("document.querySelectorAll('.fact-said').length === 2")
	require.Equal(t, "f-"+id+"-owner", tab.MustEval("() => document.activeElement.id").Str())
	draftHolds(t, site, id, `"risk": "low"`)
	require.Empty(t, tab.Problems())
}
