package site_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/demo"
	"candlepath/internal/testkit"
	"candlepath/internal/web/border"
	"candlepath/internal/web/studio"
)

// Every route of the table asks who is there, and what they may do.
func TestEveryRouteChecksRights(t *testing.T) {
	site := kit.Site(t, true)
	nobody, reader := testkit.SignIn(t, site, ""), testkit.SignIn(t, site, "noor")
	desk, err := studio.New(studio.Config{})
	require.NoError(t, err)
	for _, r := range desk.Routes() {
		path := strings.NewReplacer(":id", "x", ":number", "1").Replace(r.Path)
		req, err := http.NewRequest(r.Method, site.URL+path, strings.NewReader("{}"))
		require.NoError(t, err)
		status, _ := nobody.Send(req)
		require.Contains(t, []int{303, 401}, status, "%s %s", r.Method, r.Path)
		req, err = http.NewRequest(r.Method, site.URL+path, strings.NewReader("{}"))
		require.NoError(t, err)
		status, _ = reader.Send(req)
		require.Equal(t, 403, status, "%s %s", r.Method, r.Path)
	}
}

func TestEditorsDoNotPublish(t *testing.T) {
	site := kit.Site(t, true)
	for login, want := range map[string]int{"ines": 403, "anselm": 409} { // anselm may, but preflight stops it
		c := testkit.SignIn(t, site, login)
		status, _ := c.Form("/studio/edition/publish", c.PublishForm("now", testkit.Everything))
		require.Equal(t, want, status, login)
	}
}

func TestOtherOriginsCannotWrite(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	r, err := http.NewRequest("POST", site.URL+"/studio/sitemap/undo", strings.NewReader("{}"))
	require.NoError(t, err)
	r.Header.Set("Origin", "https://elsewhere.quillmere.example")
	status, _ := c.Send(r)
	require.Equal(t, 403, status)
}

func TestSignInIsLimited(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "")
	last := 0
	for range 9 {
		last, _ = c.Form("/studio/sign-in", url.Values{"name": {"ines"}, "password": {"wrong"}})
	}
	require.Equal(t, 429, last)
	last, _ = c.Form("/studio/sign-in", url.Values{"name": {"ines"}, "password": {demo.Password}})
	require.Equal(t, 429, last, "the right password has to wait too")
}

// Behind TLS the cookie goes over nothing else; it is out of reach of scripts in
// any case.
func TestTheCookieOfTheStudio(t *testing.T) {
	proxies, err := border.ParseProxies("127.0.0.0/8")
	require.NoError(t, err)
	site, open := kit.Behind(t, true, proxies), kit.Site(t, true)
	for proto, secure := range map[string]bool{"": false, "http": false, "https": true} {
		form := url.Values{"name": {"ines"}, "password": {demo.Password}}
		r, err := http.NewRequest("POST", site.URL+"/studio/sign-in", strings.NewReader(form.Encode()))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("X-Forwarded-Proto", proto)
		resp, err := http.DefaultTransport.RoundTrip(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Len(t, resp.Cookies(), 2, "the session, and that this browser is known")
		for _, cookie := range resp.Cookies() {
			require.Equal(t, secure, cookie.Secure, "%s over %s", cookie.Name, proto)
			require.True(t, cookie.HttpOnly)
			require.Equal(t, http.SameSiteLaxMode, cookie.SameSite)
		}
		cookie := resp.Cookies()[slices.IndexFunc(resp.Cookies(), func(c *http.Cookie) bool { return c.Path == "/" })]
		require.Equal(t, secure, strings.HasPrefix(cookie.Name, "__Host-"), "no other host can set it")
		var stored int
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM sessions WHERE token = $1 OR position($1 in encode(data, 'escape')) > 0`, cookie.Value).Scan(&stored))
		require.Zero(t, stored, "a backup holds no token by which somebody is signed in")
		other := strings.TrimPrefix(cookie.Name, "__Host-")
		if !secure {
			other = "__Host-" + other
		}
		r, err = http.NewRequest("GET", site.URL+"/studio/menus", nil)
		require.NoError(t, err)
		r.AddCookie(&http.Cookie{Name: other, Value: cookie.Value})
		r.Header.Set("X-Forwarded-Proto", proto)
		resp, err = http.DefaultTransport.RoundTrip(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Equal(t, 303, resp.StatusCode, "only the name of the connection counts")
		r, err = http.NewRequest("GET", site.URL+"/studio/menus", nil)
		require.NoError(t, err)
		r.AddCookie(&http.Cookie{Name: cookie.Name, Value: cookie.Value})
		r.Header.Set("X-Forwarded-Proto", proto)
		resp, err = http.DefaultTransport.RoundTrip(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Equal(t, 200, resp.StatusCode, proto)
		require.Equal(t, secure, resp.Header.Get("Strict-Transport-Security") != "")
		r.URL.Host = strings.TrimPrefix(open.URL, "http://")
		resp, err = http.DefaultTransport.RoundTrip(r)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		require.Empty(t, resp.Header.Get("Strict-Transport-Security"), "anybody can say that")
	}
}

func TestActSentTwiceActsOnce(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	key := uuid.NewString()
	for range 2 {
		status, _ := c.Act(map[string]any{"key": key, "do": "add", "value": "Twice sent"})
		require.Equal(t, 200, status)
	}
	_, body := c.Get("/studio/sitemap/rows")
	whole := idsIn(string(body))
	_, rest := c.Get("/studio/sitemap/rows?from=100")
	require.Equal(t, whole[100:], idsIn(string(rest)), "a page of the outline")
	_, rest = c.Get("/studio/sitemap/rows?from=999999")
	require.Empty(t, idsIn(string(rest)))
	require.Equal(t, 1, strings.Count(string(body), "Twice sent"))
}

func TestTwoPlannersAtOnce(t *testing.T) {
	site := kit.Site(t, true)
	ines, kofi := testkit.SignIn(t, site, "ines"), testkit.SignIn(t, site, "kofi")
	id := testkit.EntryID(t, site, "/visitors/shop")
	var rows struct{ Version int64 }
	_, body := ines.Get("/studio/sitemap/rows")
	require.NoError(t, json.Unmarshal(body, &rows))
	status, _ := ines.Act(map[string]any{"do": "retitle", "id": id, "value": "Garden shop", "seen": rows.Version})
	require.Equal(t, 200, status)
	status, a := kofi.Act(map[string]any{"do": "retitle", "id": id, "value": "Gift shop", "seen": rows.Version})
	require.Equal(t, 409, status)
	require.Contains(t, a.Error, `Ines Barrow changed the title first, to "Garden shop". You wrote "Gift shop"`)

	status, _ = ines.Act(map[string]any{"do": "remove", "id": id, "confirmed": true})
	require.Equal(t, 200, status)
	status, a = kofi.Act(map[string]any{"do": "add", "parent": id, "value": "Postcards", "seen": rows.Version})
	require.Equal(t, 409, status)
	require.Contains(t, a.Error, "Ines Barrow")

	var both sync.WaitGroup // many at once: the tree stays whole
	for n, c := range []*testkit.Client{ines, kofi} {
		both.Go(func() {
			for i := range 15 {
				c.Act(map[string]any{"do": "add", "value": fmt.Sprintf("Bench %d-%d", n, i)})
			}
		})
	}
	both.Wait()
	_, body = ines.Get("/studio/sitemap/rows")
	require.Equal(t, 30, strings.Count(string(body), "Bench "))
}

func TestBadActsAreAnswered(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	shop, home := testkit.EntryID(t, site, "/visitors/shop"), testkit.EntryID(t, site, "/")
	under := testkit.EntryID(t, site, "/visitors/shop/shop-deliveries")
	for want, m := range map[string]map[string]any{
		"below itself":         {"do": "move", "id": shop, "parent": under},
		"home page stays":      {"do": "remove", "id": home},
		"needs a title":        {"do": "add", "value": " \u202e\u0000 "},
		"at most 300":          {"do": "retitle", "id": shop, "value": strings.Repeat("x", 5000)},
		"A slug is":            {"do": "fact", "field": "slug", "id": shop, "value": "a/b"},
		"no such act":          {"do": "explode", "id": shop},
		"lost its key":         {"key": "1", "do": "add", "value": "x"},
		"begins with https://": {"do": "fact", "field": "target", "id": outside(t, site), "value": "javascript:alert(1)"},
	} {
		status, a := c.Act(m)
		require.Equal(t, 422, status, want)
		require.Contains(t, a.Error, want)
	}
}

func outside(t *testing.T, site *testkit.Site) string {
	var id string
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT entry_id FROM entry_rows WHERE kind = 'outside' LIMIT 1").Scan(&id))
	return id
}

// A save that meets another is kept, both are told, nothing is lost.
func TestNoSentenceIsLost(t *testing.T) {
	site := kit.Site(t, true)
	ines, kofi := testkit.SignIn(t, site, "ines"), testkit.SignIn(t, site, "kofi")
	at := "/studio/pages/" + testkit.EntryID(t, site, "/visitors/shop")
	text := func(s string) map[string]any {
		return map[string]any{"fields": map[string]string{"summary": s}, "slots": map[string]any{"main": []any{map[string]any{"type": "text", "text": s}}}}
	}
	w1, w2 := uuid.NewString(), uuid.NewString()
	var a testkit.Answer
	require.Equal(t, 200, ines.JSON(at+"/lock", map[string]any{"window": w1}, nil))
	require.Equal(t, 200, ines.JSON(at+"/save", map[string]any{"window": w1, "base": 0, "content": text("first")}, &a))
	require.Equal(t, 409, kofi.JSON(at+"/save", map[string]any{"window": w2, "base": 0, "content": text("kofi's")}, &a), "ines has the lock")
	require.Equal(t, "Ines Barrow", a.Holder)
	require.Equal(t, 200, kofi.JSON(at+"/lock", map[string]any{"window": w2, "force": true}, nil))
	require.Equal(t, 409, ines.JSON(at+"/save", map[string]any{"window": w1, "base": 1, "content": text("after take-over")}, &a))
	require.Equal(t, 200, kofi.JSON(at+"/save", map[string]any{"window": w2, "base": 1, "content": text("kofi's")}, nil))
	var kept int
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT count(*) FROM kept_texts WHERE content::text LIKE '%after take-over%' OR content::text LIKE '%kofi%'").Scan(&kept))
	require.Equal(t, 2, kept)
	_, body := ines.Get(at)
	require.Contains(t, string(body), "after take-over", "offered to its author on opening the page")
	require.NotContains(t, string(body), "kept\":[]")
}

func TestRichTextIsCleaned(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	at := "/studio/pages/" + testkit.EntryID(t, site, "/visitors/shop")
	evil := "<script>alert(1)</script> [x](javascript:alert(1)) <img src=x onerror=alert(1)> & \"q\""
	require.Equal(t, 200, c.JSON(at+"/save", map[string]any{"window": uuid.NewString(), "base": 0, "content": map[string]any{
		"fields": map[string]string{"summary": evil}, "slots": map[string]any{"main": []any{
			map[string]any{"type": "text", "text": evil},
			map[string]any{"type": "note", "tone": "\"><script>", "text": evil},
			map[string]any{"type": "tiles", "tiles": []any{map[string]any{"to": "javascript:alert(1)", "title": evil}}},
		}},
	}}, nil))
	_, body := c.Get(at + "/look")
	page := string(body)
	require.NotContains(t, page, "<script>alert")
	require.NotContains(t, page, `="javascript:`)
	require.NotContains(t, page, "<img")
}

func TestReaderHeaders(t *testing.T) {
	site := kit.Site(t, true)
	c := &http.Client{Transport: &http.Transport{DisableCompression: true}}
	ask := func(h ...string) *http.Response {
		r, err := http.NewRequest("GET", site.URL+"/grounds/machines/book-the-wood-chipper", nil)
		require.NoError(t, err)
		for i := 0; i < len(h); i += 2 {
			r.Header.Set(h[i], h[i+1])
		}
		resp, err := c.Do(r)
		require.NoError(t, err)
		_, err = io.Copy(io.Discard, resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		return resp
	}
	zipped := ask("Accept-Encoding", "gzip, br")
	require.Equal(t, 200, zipped.StatusCode)
	require.Equal(t, "gzip", zipped.Header.Get("Content-Encoding"))
	require.Equal(t, "no-cache", zipped.Header.Get("Cache-Control"))
	require.Equal(t, "Accept-Encoding", zipped.Header.Get("Vary"))
	plain := ask("Accept-Encoding", "gzip;q=0")
	require.Empty(t, plain.Header.Get("Content-Encoding"))
	require.NotEqual(t, zipped.Header.Get("Etag"), plain.Header.Get("Etag"))
	require.Equal(t, 304, ask("Accept-Encoding", "gzip", "If-None-Match", zipped.Header.Get("Etag")).StatusCode)
}
