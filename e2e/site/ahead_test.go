package site_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Somebody without an account walks through what is planned by a link, sees what differs, and says
// what they think of it; without the secret there is nothing.
func TestWalkingThroughWhatIsPlanned(t *testing.T) {
	site := kit.Site(t, true)
	marta, nobody := testkit.SignIn(t, site, "marta"), testkit.SignIn(t, site, "")
	day := time.Now().UTC().AddDate(0, 0, 3).Format(time.DateOnly)
	status, body := marta.Form("/studio/edition/see/share", url.Values{"of": {"next"}, "day": {day}, "at": {"/"}})
	require.Equal(t, 200, status)
	link := regexp.MustCompile(`/search/ahead/[a-z0-9]{26}`).FindString(string(body))
	require.NotEmpty(t, link)

	status, home := nobody.Get(link)
	require.Equal(t, 200, status)
	require.Contains(t, string(home), `href="`+link+`/science"`, "a planned page, and its link stays in what is planned")
	require.Contains(t, string(home), `<span class="shown-mark">new</span>`)
	require.False(t, strings.Contains(string(home), `href="/visitors`) || strings.Contains(string(home), "/studio/"))
	status, page := nobody.Get(link + "/visitors/opening-hours")
	require.Equal(t, 200, status)
	require.Contains(t, string(page), "This page is changed.")
	for _, at := range []string{"/search/a-z", "/search/overview", "/search/new", "/search/trails"} {
		status, list := nobody.Get(link + at)
		require.Equal(t, 200, status, at)
		require.False(t, regexp.MustCompile(`<a [^>]*href="/(visitors|search/[^a])`).Match(list), at)
	}
	r, _ := testkit.AskFor(t, "GET", site.URL+link+"/herbarium", nil)
	require.Equal(t, http.StatusFound, r.StatusCode, "an old address leads on as it will")
	require.True(t, strings.HasPrefix(r.Header.Get("Location"), link+"/science/"), r.Header.Get("Location"))
	r, _ = testkit.AskFor(t, "GET", site.URL+link+"/nothing", nil)
	require.Equal(t, 404, r.StatusCode)
	for _, lost := range []string{link[:len(link)-1], link + "a", strings.Replace(link, "/ahead/", "/ahead/x", 1)} {
		r, text := testkit.AskFor(t, "GET", site.URL+lost+"/science", nil)
		require.Equal(t, 404, r.StatusCode, lost)
		require.NotContains(t, text, "Science")
	}

	status, body = nobody.Form(link, url.Values{"at": {"/visitors/opening-hours"}, "page": {testkit.EntryID(t, site, "/visitors/opening-hours")}, "name": {"Lena Voss"}, "words": {"Is <b>Monday</b> right?"}})
	require.Equal(t, 200, status)
	require.Contains(t, string(body), "Your remark has arrived")
	_, inbox := marta.Get("/studio/inbox")
	require.Contains(t, string(inbox), "Is &lt;b&gt;Monday&lt;/b&gt; right?")
	req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, site.URL+link, strings.NewReader("name=x&words=x"))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Origin", "https://elsewhere.example")
	status, _ = nobody.Send(req)
	require.Equal(t, 403, status)

	_, err = site.Pool.Exec(t.Context(), `UPDATE shown_links SET at = at - interval '9 days', ends = now() - interval '1 second'`)
	require.NoError(t, err)
	status, _ = nobody.Get(link)
	require.Equal(t, 404, status, "its time is past")
}
