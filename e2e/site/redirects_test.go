package site_test

import (
	"bufio"
	"io"
	"net"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/setting"
	"candlepath/internal/testkit"
)

// An editor adds one redirect with the keyboard, and many from a list of which some lines
// are refused; tests them, undoes one act, and readers are led on once they are published.
func TestRedirectsAreAddedByHand(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/addresses/redirects")
	tab.MustElementR("summary", "Add a redirect").MustClick()
	tab.MustElement("#rd-from").MustInput("/tea/menu")
	tab.MustElement("#rd-to").MustFocus()
	tab.Keyboard.MustType([]input.Key("Allerg")...)
	tab.Until("document.querySelector('[role=option]')?.innerText.includes('Allergens')")
	tab.Keyboard.MustType(input.Enter)
	tab.Until("document.querySelector('#one [name=to-id]').value")
	tab.MustElementR("#one button", "Plan it").MustClick()
	tab.MustElementR("[role=status]", "Redirected /tea/menu")
	require.Contains(t, tab.MustElement("tbody").MustText(), "/visitors/cafe/allergens")

	tab.MustElementR("a.btn", "Add many").MustClick()
	tab.MustElement("#rl-list").MustInput("/herbs /glasshouses\n/visitors /grounds\n/fairs,/visitors/events/plant-fair,temporary\n/x /nowhere\n/ü%2Fb /grounds")
	tab.MustElementR("button", "^Preview$").MustClick()
	tab.Until("document.querySelectorAll('tbody tr').length === 5")
	require.Contains(t, tab.MustElement("tbody").MustText(), "is at this address. Move or remove")
	tab.MustElementR("button", "Plan 3 redirects").MustClick()
	tab.MustElementR("[role=status]", "Redirected 3 addresses")
	tab.MustElementR("[role=status] button", "Undo").MustClick()
	tab.MustElementR("[role=status]", "Undone: redirected 3 addresses")
	tab.MustElementR(".bar-acts button", "Redo").MustClick()
	tab.MustElementR("[role=status]", "Done again: redirected 3 addresses")
	tab.Go("/studio/addresses/redirects?show=planned")
	require.Len(t, tab.MustElements("tbody tr"), 4)
	tab.MustElement("[aria-label='Do not plan /herbs']").MustClick()
	tab.MustElementR("[role=status]", "No longer plans the redirect of /herbs")

	tab.Go("/studio/addresses/test")
	tab.MustElement("#ta-asked").MustInput("/Tea/Menu/\nherbs")
	tab.MustElementR("button", "^Test$").MustClick()
	tab.MustElementR(".tested", "An exact redirect names it")
	require.Contains(t, tab.MustElement(".tested").MustText(), "not found (404)")
	require.Empty(t, tab.Problems())

	testkit.PublishOnly(t, site, "Short addresses", func(aspect string) bool { return aspect == "redirect" })
	answer := func(at string) (int, string) {
		resp, _ := testkit.AskFor(t, "GET", site.URL+at, nil)
		return resp.StatusCode, resp.Header.Get("Location")
	}
	for at, want := range map[string]struct {
		code int
		to   string
	}{
		"/tea/menu": {301, "/visitors/cafe/allergens"}, "/fairs?day=2": {302, "/visitors/events/plant-fair?day=2"}, "/herbs": {404, ""}, "/walks/night-walk": {301, "/visitors/guided-walks/night-walk"}, "/newsletter-2019": {410, ""},
	} {
		code, to := answer(at)
		require.Equal(t, want.code, code, at)
		require.Equal(t, want.to, strings.TrimPrefix(to, site.URL), at)
	}
	c, err := net.Dial("tcp", strings.TrimPrefix(site.URL, "http://"))
	require.NoError(t, err)
	defer c.Close()
	_, err = io.WriteString(c, "GET /\u00fc%2Fb HTTP/1.1\r\nHost: inside.quillmere.example\r\nConnection: close\r\n\r\n") // as no browser writes it
	require.NoError(t, err)
	resp, err := http.ReadResponse(bufio.NewReader(c), nil)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	require.Equal(t, "/grounds", resp.Header.Get("Location"))
}

// Uses of redirects are counted and drawn; what is never used is found, changed or released many
// at once; a rule for a branch tells what it covers, and a page every address it had.
func TestRedirectsInUse(t *testing.T) {
	site := kit.Site(t, true)
	for range 3 {
		testkit.AskFor(t, "GET", site.URL+"/walks/night-walk", nil)
		testkit.AskFor(t, "GET", site.URL+"/newsletter-2019", nil)
	}
	testkit.AskFor(t, "HEAD", site.URL+"/newsletter-2019", nil)
	require.NoError(t, site.Reader.WriteVisits(t.Context()))
	rows, err := site.Pool.Query(t.Context(), `SELECT key || ' ' || sum(n) FROM redirect_hits WHERE key ~ 'walks|newsletter' GROUP BY key ORDER BY 1`)
	require.NoError(t, err)
	told, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	require.Equal(t, []string{"=/newsletter-2019 3", "^/walks 3"}, told)

	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/addresses/redirects?q=walks")
	tab.MustElement(".hits")
	tab.MustElement("[title^='Which addresses it']").MustClick()
	tab.MustElementR("h1", "What the redirect of /walks and below covers")
	tab.MustElementR("main p", "which it does not hide")

	t.Log("those never used are made temporary, and one is released")
	tab.Go("/studio/addresses/redirects?show=unused&q=dept/herb")
	boxes := tab.MustElements("tbody input[type=checkbox]")
	require.Greater(t, len(boxes), 5)
	boxes[0].MustClick()
	tab.MustEval("() => document.querySelectorAll('tbody input[type=checkbox]')[2].dispatchEvent(new MouseEvent('click', { shiftKey: true, bubbles: true }))")
	require.Len(t, tab.MustElements("tbody input:checked"), 3)
	tab.MustElement("#bk-code").MustSelect("temporary")
	tab.MustElement("button[form=bulk][value=change]").MustClick()
	tab.MustElementR("[role=status]", "Redirected 3 addresses")
	tab.Go("/studio/addresses/redirects?q=newsletter-2019")
	tab.MustElement("tbody input[type=checkbox]").MustClick()
	tab.MustElement("button[form=bulk][value=release]").MustClick()
	tab.MustElementR("[role=alert]", "Give a reason")
	tab.Go("/studio/addresses/redirects?q=newsletter-2019")
	tab.MustElement("tbody input[type=checkbox]").MustClick()
	tab.MustElement("#bk-why").MustInput("It was one letter, long ago")
	tab.MustElement("button[form=bulk][value=release]").MustClick()
	tab.MustElementR("#released", "It was one letter, long ago")

	t.Log("the day before which a redirect was last used is chosen")
	tab.Go("/studio/addresses/redirects?show=long")
	tab.MustElement("#rq-before").MustInputTime(time.Now())
	tab.MustElementR("[role=search] button", "Find").MustClick()
	tab.Until("location.search.includes('before=" + time.Now().UTC().Format(time.DateOnly) + "')")
	require.Equal(t, tab.MustElement(".chip.on b").MustText(), strconv.Itoa(len(tab.MustElements("tbody input[type=checkbox]"))))

	tab.Go("/studio/addresses/of/" + testkit.EntryID(t, site, "/herbarium/plant-labels"))
	tab.MustElementR("tbody", "/collections/plant-labels")
	require.Contains(t, tab.MustElement("tbody").MustText(), "/herbarium/plant-labels")
	require.Empty(t, tab.Problems())
}

// Who asks under an old name that points here is led to the site under its own, in one hop.
func TestOldHostNames(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	status, body := marta.Get("/studio/settings")
	require.Equal(t, 200, status)
	form := url.Values{"key": {testkit.Between(string(body), `name="key" value="`, `"`)}}
	for _, s := range setting.All() {
		form.Set(string(s.Key), s.Usual)
	}
	form.Set(string(setting.SiteName), "Quillmere Inside")
	form.Set(string(setting.OldHosts), "Staff.quillmere.example")
	status, _ = marta.Form("/studio/settings", form)
	require.Equal(t, 303, status)
	const own = "http://inside.quillmere.example"
	require.Eventually(t, func() bool {
		resp, _ := testkit.AskFor(t, "GET", site.URL+"/visitors/", map[string]string{"Host": "staff.quillmere.example:80"})
		return resp.Header.Get("Location") == own+"/visitors"
	}, 30*time.Second, 20*time.Millisecond)
	for at, want := range map[string]string{
		"/visitors/opening-hours?x=1": own + "/visitors/opening-hours?x=1", "/dept/herb/": own + "/herbarium", "/walks/night-walk": own + "/visitors/guided-walks/night-walk", "/shop-online": "https://shop.quillmere.example/",
	} {
		resp, _ := testkit.AskFor(t, "GET", site.URL+at, map[string]string{"Host": "STAFF.quillmere.example"})
		require.Equal(t, want, resp.Header.Get("Location"), at)
		resp, _ = testkit.AskFor(t, "GET", site.URL+"/visitors", nil)
		require.Equal(t, 200, resp.StatusCode, "under its own name nothing changes")
	}
	t.Log("a redirect is added as it was known there, and one that leads there is one of the site")
	status, body = marta.Form("/studio/addresses/redirects/list", url.Values{"list": {"https://staff.quillmere.example/canteen/ /visitors\n/mess http://STAFF.quillmere.example/grounds"}})
	require.Equal(t, 200, status)
	rows := testkit.Between(string(body), "<tbody>", "</tbody>")
	require.NotContains(t, rows, "staff.quillmere")
	require.Contains(t, rows, "<span>canteen</span>")
	require.Contains(t, rows, "<span>grounds</span>")
	resp, _ := testkit.AskFor(t, "GET", site.URL+"/nothing", map[string]string{"Host": "staff.quillmere.example"})
	require.Equal(t, 404, resp.StatusCode)

	t.Log("what was at an address of the old name is led elsewhere, though a page of the site is at that address")
	status, body = marta.Get("/studio/addresses/redirects")
	require.Equal(t, 200, status)
	require.Contains(t, string(body), "staff.quillmere.example alone")
	for from, to := range map[string]string{"/visitors": "/grounds", "/": "/collections"} {
		status, body = marta.Form("/studio/addresses/redirects/plan", url.Values{"key": {uuid.NewString()}, "from": {from}, "to": {to}, "code": {"permanent"}, "match": {"exact"}, "host": {"staff.quillmere.example"}})
		require.Equal(t, 303, status, string(body))
	}
	status, body = marta.Get("/studio/addresses/test?asked=" + url.QueryEscape("https://staff.quillmere.example/visitors"))
	require.Equal(t, 200, status)
	require.Contains(t, string(body), "A redirect for staff.quillmere.example alone answers it")
	testkit.PublishOnly(t, site, "What the staff site had", func(aspect string) bool { return aspect == "redirect" })
	require.Eventually(t, func() bool {
		resp, _ := testkit.AskFor(t, "GET", site.URL+"/visitors", map[string]string{"Host": "staff.quillmere.example"})
		return resp.Header.Get("Location") == own+"/grounds"
	}, 30*time.Second, 20*time.Millisecond)
	resp, _ = testkit.AskFor(t, "GET", site.URL+"/", map[string]string{"Host": "staff.quillmere.example"})
	require.Equal(t, own+"/collections", resp.Header.Get("Location"))
	resp, _ = testkit.AskFor(t, "GET", site.URL+"/visitors", nil)
	require.Equal(t, 200, resp.StatusCode, "under its own name the page stays")
	resp, _ = testkit.AskFor(t, "GET", site.URL+"/visitors/opening-hours", map[string]string{"Host": "staff.quillmere.example"})
	require.Equal(t, own+"/visitors/opening-hours", resp.Header.Get("Location"))
}

// What cannot be a redirect is told line by line, and nothing of it is planned; who may not
// plan gets nothing.
func TestBadRedirectsAreRefused(t *testing.T) {
	site := kit.Site(t, true)
	ines := testkit.SignIn(t, site, "ines")
	for from, to := range map[string]string{
		"/": "/visitors", "/visitors": "/grounds", "/x": "/x", "/y": "//elsewhere.quillmere.example", "/z": "javascript:alert(1)", "/w\r\nSet-Cookie: a": "/grounds", "/studio": "/grounds",
	} {
		status, body := ines.Form("/studio/addresses/redirects/plan", url.Values{"key": {uuid.NewString()}, "from": {from}, "to": {to}, "code": {"permanent"}, "match": {"exact"}})
		require.Equal(t, http.StatusUnprocessableEntity, status, from)
		require.Contains(t, string(body), `role="alert"`, from)
	}
	noor := testkit.SignIn(t, site, "noor")
	status, _ := noor.Form("/studio/addresses/redirects/plan", url.Values{"key": {uuid.NewString()}, "from": {"/q"}, "to": {"/grounds"}})
	require.Equal(t, http.StatusForbidden, status)
	status, _ = noor.Get("/studio/addresses/test?asked=/")
	require.Equal(t, http.StatusForbidden, status)
	var planned int
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM planned_redirects`).Scan(&planned))
	require.Zero(t, planned)
}

// sorted is a link without the host, with the title of a new page first.
func sorted(link, host string) string {
	u, err := url.Parse(strings.TrimPrefix(link, host))
	if err != nil {
		return err.Error()
	}
	q := u.Query()
	return u.Path + "?title=" + url.QueryEscape(q.Get("title")) + "&parent=" + q.Get("parent")
}

// What was asked for in vain is counted, without who asked; scanners are folded, what is there
// for others is not told, and one press plans the redirect.
func TestUnansweredAddresses(t *testing.T) {
	site := kit.Site(t, true)
	status, _ := testkit.SignIn(t, site, "marta").Act(map[string]any{"do": "fact", "id": testkit.EntryID(t, site, "/visitors/shop"), "field": "readership", "value": "approver"})
	require.Equal(t, 200, status)
	testkit.PublishOnly(t, site, "Closed", func(aspect string) bool { return aspect == "readership" })
	for at, n := range map[string]int{"/opening-hour": 3, "/visitors/shop": 2, "/wp-login.php": 4, "/.env": 1, "/visitors/opening-hours": 1, "/walks/night-walk": 1} {
		for range n {
			testkit.AskFor(t, "GET", site.URL+at+"?token=secret", map[string]string{"Referer": site.URL + "/visitors?who=me"})
		}
	}
	testkit.AskFor(t, "HEAD", site.URL+"/only-head", nil)
	testkit.AskFor(t, "GET", site.URL+"/from-elsewhere", map[string]string{"Referer": "https://mail.quillmere.example/gwen"})
	require.NoError(t, site.Reader.WriteVisits(t.Context()))
	rows, err := site.Pool.Query(t.Context(), `SELECT address || ' ' || page || ' ' || n FROM unanswered ORDER BY 1`)
	require.NoError(t, err)
	told, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	require.Equal(t, []string{"(scanners)  5", "/from-elsewhere  1", "/opening-hour /visitors 3"}, told)

	tell := browser.Open(t, site.URL)
	tell.Go("/opening-hour")
	tell.MustElementR("button", "Tell the people").MustClick()
	tell.MustElementR("[role=status]", "were told")
	require.Equal(t, "/opening-hour", tell.MustElement(".lead .address").MustText())
	resp, _ := testkit.AskFor(t, "POST", site.URL+"/search/tell?address=/visitors/opening-hours", nil)
	require.Equal(t, 404, resp.StatusCode, "a page is there")
	manager := browser.Open(t, site.URL)
	manager.SignIn("marta")
	manager.Go("/studio/inbox")
	manager.MustElementR("tbody", "A reader looked for /opening-hour")
	require.Contains(t, manager.MustElement(".inbox").MustText(), "Inbox 1")
	manager.MustElementR("button", "Mark as read").MustClick()
	manager.MustElementR("[role=status]", "Everything is read")

	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/addresses/unanswered")
	require.Contains(t, tab.MustElement("tbody").MustText(), "/opening-hour")
	require.Contains(t, tab.MustElement("main").MustText(), "5 tries of programs that look for holes")
	tab.MustElementR(".guess button", "Opening hours").MustClick()
	tab.MustElementR("[role=status]", "Redirected /opening-hour")
	tab.Go("/studio/addresses/unanswered")
	require.Contains(t, tab.MustElement("tbody").MustText(), "answers with the next edition: permanent redirect")
	require.Equal(t, "/studio/pages/new?title=From+elsewhere&parent="+testkit.EntryID(t, site, "/"), sorted(tab.MustElement("[aria-label='New page… at /from-elsewhere']").MustProperty("href").Str(), site.URL))
	tab.MustElement("#ig").MustInput("from*")
	tab.MustElementR("form .btn", "Ignore").MustClick()
	tab.MustElementR("[role=alert]", "Write an address")
	tab.MustElement("#ig").MustSelectAllText().MustInput("/from-*")
	tab.MustElementR("form .btn", "Ignore").MustClick()
	tab.MustElementR("main", "1 request for addresses that you ignore")
	require.NotContains(t, tab.MustElement("tbody").MustText(), "/from-elsewhere")
	tab.MustElement("[aria-label='No longer ignore /from-*']").MustClick()
	tab.MustElement("[aria-label='Redirect /from-elsewhere']").MustClick()
	tab.Until("document.querySelector('#rd-from')?.value === '/from-elsewhere'")
	require.Empty(t, tab.Problems())
}
