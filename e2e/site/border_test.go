package site_test

import (
	"bytes"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/demo"
	"candlepath/internal/testkit"
)

// Whatever comes in that is no text, or an id that is none, is told as what it
// is, and never as a fault.
func TestWhatIsNoTextIsNoFault(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	for _, path := range []string{
		"/files/%00/x", "/files/zz/x.png", "/search/where/%00", "/search/where/" + strings.Repeat("a", 26), "/search/where/%FF", "/%00", "/a%00b", "/%FF%FE",
		"/studio/pages/%00/source", "/studio/pages/%00", "/studio/sitemap/import/zz", "/studio/sitemap/import/%00", "/studio/menus/findability/zz", "/studio/menus/trails/%00",
		"/studio/pages/no-such-page", "/studio/%00", "/studio/people/%00", "/studio/password/%00", "/studio/removed/%00/back",
	} {
		status, body := c.Get(path)
		require.Equal(t, 404, status, "%s: %s", path, body)
	}
	for _, path := range []string{"/search?q=%00bees", "/search?q=%FF", "/studio/find?q=%00", "/studio/pages?q=%00", "/studio/sitemap/beside?many=%00&id=" + testkit.EntryID(t, site, "/visitors"), "/studio/sitemap?at=%00", "/studio/edition/past?edition=%00"} {
		status, body := c.Get(path)
		require.Equal(t, 200, status, "%s: %s", path, body)
	}
	id := testkit.EntryID(t, site, "/visitors")
	for name, act := range map[string]map[string]any{
		"NUL in notes":    {"do": "fact", "field": "notes", "id": id, "value": "a\x00b"},
		"NUL in a title":  {"do": "retitle", "id": id, "value": "Visi\x00tors"},
		"NUL in values":   {"do": "facts", "field": "notes", "values": map[string]string{id: "a\x00b\x0c"}},
		"a new entry":     {"do": "add", "value": "Bee\x00s"},
		"a pasted list":   {"do": "paste", "value": "One\x00\n\tTwo\x07"},
		"NUL in a review": {"do": "fact", "field": "review", "id": id, "value": "2027-01-01\x00"},
	} {
		status, body := c.Act(act)
		require.Equal(t, 200, status, "%s: %s", name, body)
	}
	for _, act := range []map[string]any{{"do": "retitle", "id": "\x00", "value": "x"}, {"do": "\x00", "id": id}, {"do": "retitle", "id": id, "value": "\x00"}} {
		status, _ := c.Act(act)
		require.Contains(t, []int{409, 422}, status)
	}
	require.Equal(t, 200, c.JSON("/studio/sitemap/views", map[string]any{"name": "Mine\x00", "query": "?\x00"}, nil))
	r, err := http.NewRequest("POST", c.Base+"/studio/sitemap/act", strings.NewReader(`{"key":"`+uuid.NewString()+`","do":"retitle","id":"`+id+`","value":"lone \ud800 surrogate"}`))
	require.NoError(t, err)
	r.Header.Set("Accept", "application/json")
	status, _ := c.Send(r)
	require.Equal(t, 200, status)
	var page struct{ Version int }
	require.Equal(t, 200, c.JSON("/studio/pages/"+id+"/save", map[string]any{
		"window": uuid.NewString(), "base": 0, "content": map[string]any{"slots": map[string]any{"main": []map[string]any{{"type": "text", "text": "a\x00b"}}}},
	}, &page))
	require.Positive(t, page.Version)
	status, _ = c.Form("/studio/people", url.Values{"name": {"T\x00ess"}, "login": {"te\x00ss"}, "role": {"editor"}})
	require.Equal(t, 200, status)
}

func TestSignInLeadsNowhereElse(t *testing.T) {
	site := kit.Site(t, true)
	for _, to := range []string{"/\t/evil.test", "//evil.test", "/\\evil.test", "https://evil.test", "/%09/evil.test"} {
		c := testkit.SignIn(t, site, "")
		r, err := http.NewRequest("POST", site.URL+"/studio/sign-in", strings.NewReader(url.Values{"name": {"ines"}, "password": {demo.Password}, "to": {to}}.Encode()))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		resp, err := c.Do(r)
		require.NoError(t, err)
		resp.Body.Close()
		require.Equal(t, "/studio/mine", resp.Header.Get("Location"), "%q", to)
	}
}

func TestLinksNameTheSitesOwnHost(t *testing.T) {
	site := kit.Site(t, true)
	_, body := testkit.AskFor(t, "GET", site.URL+"/feed.atom", map[string]string{"Host": "evil.test"})
	require.NotContains(t, body, "evil.test")
	require.Contains(t, body, "http://inside.quillmere.example/")
	_, body = testkit.AskFor(t, "GET", site.URL+"/feed.atom", map[string]string{"Host": "INSIDE.quillmere.example"})
	require.Contains(t, body, "http://INSIDE.quillmere.example/")
	_, body = testkit.AskFor(t, "GET", site.URL+"/feed.atom", map[string]string{"X-Forwarded-Proto": "https"})
	require.NotContains(t, body, "https://", "nobody is trusted to say so")
}

// Whoever asks only for the head gets the same head.
func TestTheHeadIsThatOfTheWhole(t *testing.T) {
	site := kit.Site(t, true)
	for _, path := range []string{"/nowhere", "/", "/search?q=bees", "/files/zz/x", "/feed.atom", "/search/a-z", "/studio/nowhere"} {
		get, body := testkit.AskFor(t, "GET", site.URL+path, map[string]string{"Accept-Encoding": "identity"})
		head, none := testkit.AskFor(t, "HEAD", site.URL+path, map[string]string{"Accept-Encoding": "identity"})
		require.Equal(t, get.StatusCode, head.StatusCode, path)
		require.Empty(t, none)
		require.NotEmpty(t, body)
		for _, h := range []string{"Content-Type", "Content-Length", "Cache-Control", "Content-Security-Policy"} {
			require.Equal(t, get.Header.Get(h), head.Header.Get(h), "%s of %s", h, path)
		}
	}
}

// A picture is there for whoever may read a page that shows it.
func TestPicturesHaveTheReadershipOfTheirPages(t *testing.T) {
	site := kit.Site(t, true)
	marta, ines, noor, nobody := testkit.SignIn(t, site, "marta"), testkit.SignIn(t, site, "ines"), testkit.SignIn(t, site, "noor"), testkit.SignIn(t, site, "")
	status, kept := ines.AddFile("bee.png", testkit.PNG(t, 1, 1))
	require.Equal(t, 200, status, kept)
	at := kept[strings.Index(kept, "/files/"):][:len("/files/")+32] + "/bee.png"
	want := func(what string, statuses map[*testkit.Client]int) {
		t.Helper()
		for c, status := range statuses {
			got, body := c.Get(at)
			require.Equal(t, status, got, what)
			if status == 404 {
				_, lost := c.Get("/files/" + strings.Repeat("cd", 16) + "/bee.png")
				require.Equal(t, len(lost), len(body), "as if there was no such picture")
			}
		}
	}
	want("no page shows it", map[*testkit.Client]int{marta: 200, ines: 200, noor: 404, nobody: 404})
	page := testkit.EntryID(t, site, "/visitors/opening-hours")
	show := func(text string) {
		t.Helper()
		var v struct{ Version int }
		_, body := ines.Get("/studio/pages/" + page)
		var data struct{ Base int }
		require.NoError(t, json.Unmarshal([]byte(testkit.Between(string(body), `<script type="application/json" id="page-data">`, "</script>")), &data))
		window := uuid.NewString()
		require.Equal(t, 200, ines.JSON("/studio/pages/"+page+"/lock", map[string]any{"window": window, "force": true}, nil))
		require.Equal(t, 200, ines.JSON("/studio/pages/"+page+"/save", map[string]any{"window": window, "base": data.Base, "close": true, "content": map[string]any{
			"fields": map[string]any{"summary": "Hours"}, "slots": map[string]any{"main": []map[string]any{{"type": "text", "text": text}}},
		}}, &v))
	}
	publish := func() {
		t.Helper()
		testkit.PublishChosen(t, marta, func(key string) bool { return strings.HasSuffix(key, page) })
	}
	show("A bee: ![bee](" + at + ")")
	want("a draft shows it", map[*testkit.Client]int{marta: 200, ines: 200, noor: 404, nobody: 404})
	publish()
	want("everybody may read the page", map[*testkit.Client]int{marta: 200, ines: 200, noor: 200, nobody: 200})
	resp, _ := testkit.AskFor(t, "GET", site.URL+at, nil)
	require.NotContains(t, resp.Header.Get("Cache-Control"), "immutable")
	status, _ = marta.Act(map[string]any{"do": "fact", "field": "readership", "id": page, "value": "approver"})
	require.Equal(t, 200, status)
	publish()
	want("only approvers may read the page", map[*testkit.Client]int{marta: 200, noor: 404, nobody: 404})
	anselm := testkit.SignIn(t, site, "anselm")
	want("and one of them does", map[*testkit.Client]int{anselm: 200})
	r, err := http.NewRequest("GET", site.URL+at, nil)
	require.NoError(t, err)
	resp, err = anselm.Do(r)
	require.NoError(t, err)
	resp.Body.Close()
	require.Contains(t, resp.Header.Get("Cache-Control"), "private")
	show("No bee")
	publish()
	want("no page shows it any more, and the one that did is not for them", map[*testkit.Client]int{ines: 200, noor: 404, nobody: 404})
	status, _ = marta.Act(map[string]any{"do": "fact", "field": "readership", "id": page, "value": ""})
	require.Equal(t, 200, status)
	publish()
	want("no page shows it any more", map[*testkit.Client]int{ines: 200, noor: 410, nobody: 410})
}

// Answers that may differ by reader are kept by nobody else.
func TestAnswersThatDifferArePrivate(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	cache := func(path string) string {
		resp, _ := testkit.AskFor(t, "GET", site.URL+path, nil)
		return resp.Header.Get("Cache-Control")
	}
	paths := []string{"/", "/nowhere", "/search?q=bees", "/search/a-z", "/feed.atom", "/search/new"}
	for _, p := range paths {
		require.NotContains(t, cache(p), "private", p)
	}
	page := testkit.EntryID(t, site, "/visitors/opening-hours")
	status, _ := marta.Act(map[string]any{"do": "fact", "field": "readership", "id": page, "value": "approver"})
	require.Equal(t, 200, status)
	testkit.PublishChosen(t, marta, func(key string) bool { return strings.HasSuffix(key, page) })
	for _, p := range append(paths, "/visitors/opening-hours") {
		require.Contains(t, cache(p), "private", p)
	}
}

func TestAnswersAreNumberedAndCounted(t *testing.T) {
	site := kit.Site(t, true)
	one, _ := testkit.AskFor(t, "GET", site.URL+"/", nil)
	two, _ := testkit.AskFor(t, "GET", site.URL+"/nowhere", nil)
	require.NotEmpty(t, one.Header.Get("X-Request-Id"))
	require.NotEqual(t, one.Header.Get("X-Request-Id"), two.Header.Get("X-Request-Id"))
	public, _ := testkit.AskFor(t, "GET", site.URL+"/metrics", nil)
	require.Equal(t, 404, public.StatusCode, "readers do not get them, also behind a proxy on this machine")
	w := httptest.NewRecorder()
	site.Metrics.ServeHTTP(w, httptest.NewRequest("GET", "/metrics", nil))
	body := w.Body.String()
	for _, want := range []string{
		`candlepath_requests_total{route="reader",status="200"} 1`, `candlepath_requests_total{route="reader",status="404"} 2`, "candlepath_edition 11", "candlepath_pool_connections ", "go_goroutines ",
		"candlepath_acts_total", "candlepath_tree_cache_misses_total",
	} {
		require.Contains(t, body, want)
	}
	require.True(t, bytes.Contains([]byte(body), []byte("candlepath_request_seconds_count")))
}
