package pages_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// A study is begun, answered by colleagues without an account, also without
// scripts, and its result tells who found it and who went astray.
func TestFindability(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/menus/findability")
	tab.MustElement("#st-title").MustInput("Where would you look?")
	tab.MustElement("#question-1").MustInput("Where do you book the machine for branches?")
	tab.MustElement("#page-1").MustInput("wood chipper")
	tab.Until("document.querySelector('.suggest li')")
	tab.Until("document.querySelector('.suggest [aria-selected=true]')?.innerText.startsWith('Book the wood chipper')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('[name=right-1]').value !== ''")
	tab.MustElement("#question-2").MustInput("When is the shop open?")
	tab.MustElementR("button", "Create study and get the link").MustClick()
	tab.Until("document.querySelector('[role=alert]')?.innerText.includes('Choose the right page for \"When is the shop open?\"')")
	require.Equal(t, "Book the wood chipper", tab.MustElement("#page-1").MustProperty("value").Str(), "what was typed is kept")
	tab.MustElement("#page-2").MustInput("Opening hours")
	tab.Until("document.querySelector('.suggest li')")
	tab.Until("document.querySelector('.suggest [aria-selected=true]')?.innerText.startsWith('Opening hours')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('[name=right-2]').value !== ''")
	tab.MustElementR("button", "Create study and get the link").MustClick()
	tab.Until("document.querySelector('h1')?.innerText === 'Where would you look?' && location.pathname.length > 30")
	link := tab.MustElement("main .address").MustText()
	study := tab.MustEval("() => location.pathname").Str()
	require.Contains(t, link, "/search/where/")

	t.Log("somebody turns back once, then finds it, and gives the second up")
	guest := browser.Open(t, site.URL)
	guest.Go(strings.TrimPrefix(link, site.URL))
	require.Empty(t, guest.MustElements("nav"), "the hierarchy alone, no menu that tells")
	choose := func(words string) {
		loaded := guest.WaitNavigation(proto.PageLifecycleEventNameLoad)
		guest.MustElementR("main button", words).MustClick()
		loaded()
	}
	for _, title := range []string{"^Begin$", "^Visitors$", "^Top$", "^Grounds$", "^Machines$", "^Book the wood chipper$", "^I would find it here"} {
		choose(title)
	}
	guest.Until("document.querySelector('h1').innerText === 'When is the shop open?'")
	choose("I don't know")
	guest.Until("document.querySelector('h1').innerText === 'Thank you'")
	tab.Go(study)
	result := tab.MustElement("main").MustText()
	for _, says := range []string{"answered by 1 person", "100 %", "found it", "1 went astray here", "1 gave up", "Grounds › Machines › Book the wood chipper"} {
		require.Contains(t, result, says)
	}

	t.Log("a link that was altered, an answer that was, and one after the last day")
	c := testkit.SignIn(t, site, "")
	at := strings.TrimPrefix(link, site.URL)
	status, _ := c.Get(at + "x")
	require.Equal(t, 404, status)
	for _, bad := range []url.Values{
		{"do": {"here"}, "visitor": {"me"}, "task": {"0"}, "opened": {"nothing"}},
		{"do": {"give-up"}, "visitor": {"me"}, "task": {"0"}},
		{"do": {"here"}, "visitor": {"11111111-1111-4111-8111-111111111111"}, "task": {"99"}},
		{"do": {"here"}, "visitor": {"11111111-1111-4111-8111-111111111111"}, "task": {"0"}, "opened": {strings.Repeat("top,", 300) + "x"}},
	} {
		status, _ := c.Form(at, bad)
		require.Equal(t, 422, status, bad)
	}
	_, err := site.Pool.Exec(t.Context(), "UPDATE studies SET ends = current_date - 2")
	require.NoError(t, err)
	status, body := c.Get(at)
	require.Equal(t, 410, status)
	require.Contains(t, string(body), "This study has ended")
	status, _ = c.Form(at, url.Values{"do": {"start"}})
	require.Equal(t, 410, status)
	status, _ = testkit.SignIn(t, site, "ines").Form("/studio/menus/findability", url.Values{"title": {"x"}})
	require.Equal(t, 403, status)
	require.Empty(t, tab.Problems())
	require.Empty(t, guest.Problems())
}
