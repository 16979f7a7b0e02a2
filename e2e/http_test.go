package e2e_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"candlepath/internal/demo"
	"candlepath/internal/testkit"
	"candlepath/internal/web/border"
	"candlepath/internal/web/studio"
)

// client is somebody at the studio, without a browser.
type client struct {
	*http.Client
	t    testing.TB
	base string
	pool *pgxpool.Pool
}

func signIn(t testing.TB, site *testkit.Site, login string) *client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &client{&http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}, t, site.URL, site.Pool}
	if login != "" {
		status, _ := c.form("/studio/sign-in", url.Values{"name": {login}, "password": {demo.Password}})
		require.Equal(t, 303, status)
	}
	return c
}

func (c *client) do(r *http.Request) (int, []byte) {
	c.t.Helper()
	resp, err := c.Do(r)
	require.NoError(c.t, err)
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	require.NoError(c.t, err)
	return resp.StatusCode, body
}

func (c *client) form(path string, v url.Values) (int, []byte) {
	r, err := http.NewRequest("POST", c.base+path, strings.NewReader(v.Encode()))
	require.NoError(c.t, err)
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	return c.do(r)
}

func (c *client) json(path string, v any, into any) int {
	b, err := json.Marshal(v)
	require.NoError(c.t, err)
	r, err := http.NewRequest("POST", c.base+path, bytes.NewReader(b))
	require.NoError(c.t, err)
	r.Header.Set("Accept", "application/json")
	status, body := c.do(r)
	if into != nil {
		require.NoError(c.t, json.Unmarshal(body, into), string(body))
	}
	return status
}

func (c *client) get(path string) (int, []byte) {
	r, err := http.NewRequest("GET", c.base+path, nil)
	require.NoError(c.t, err)
	return c.do(r)
}

// publishForm is the form of the next edition as a browser would send it, with
// the changes ticked that choose wants, named like "title ID". What has no box
// goes as well if choose wants "rest".
func (c *client) publishForm(why string, choose func(key string) bool) url.Values {
	c.t.Helper()
	_, body := c.get("/studio/edition")
	doc, err := html.Parse(bytes.NewReader(body))
	require.NoError(c.t, err)
	v := url.Values{"do": {"publish"}, "why": {why}}
	for n := range doc.Descendants() {
		if n.DataAtom != atom.Input || !inForm(n, "publish") {
			continue
		}
		name, value := attr(n, "name"), attr(n, "value")
		switch {
		case attr(n, "type") == "hidden":
			v.Add(name, value)
		case name == "in" && choose(value), name == "rest" && choose("rest"):
			v.Add(name, value)
		}
	}
	return v
}

func inForm(n *html.Node, id string) bool {
	for p := range n.Ancestors() {
		if p.DataAtom == atom.Form && attr(p, "id") == id {
			return true
		}
	}
	return false
}

func attr(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

func everything(string) bool { return true }

type answer struct {
	Version int64
	Select  string
	Error   string
	Confirm string
	Holder  string
	Kept    string
}

func (c *client) act(m map[string]any) (int, answer) {
	if m["key"] == nil {
		m["key"] = uuid.NewString()
	}
	var a answer
	return c.json("/studio/sitemap/act", m, &a), a
}

// Every route of the table asks who is there, and what they may do.
func TestEveryRouteChecksRights(t *testing.T) {
	site := kit.Site(t, true)
	nobody, reader := signIn(t, site, ""), signIn(t, site, "noor")
	desk, err := studio.New(studio.Config{})
	require.NoError(t, err)
	for _, r := range desk.Routes() {
		path := strings.NewReplacer(":id", "x", ":number", "1").Replace(r.Path)
		req, err := http.NewRequest(r.Method, site.URL+path, strings.NewReader("{}"))
		require.NoError(t, err)
		status, _ := nobody.do(req)
		require.Contains(t, []int{303, 401}, status, "%s %s", r.Method, r.Path)
		req, err = http.NewRequest(r.Method, site.URL+path, strings.NewReader("{}"))
		require.NoError(t, err)
		status, _ = reader.do(req)
		require.Equal(t, 403, status, "%s %s", r.Method, r.Path)
	}
}

func TestEditorsDoNotPublish(t *testing.T) {
	site := kit.Site(t, true)
	for login, want := range map[string]int{"ines": 403, "anselm": 409} { // anselm may, but preflight stops it
		c := signIn(t, site, login)
		status, _ := c.form("/studio/edition/publish", c.publishForm("now", everything))
		require.Equal(t, want, status, login)
	}
}

func TestOtherOriginsCannotWrite(t *testing.T) {
	site := kit.Site(t, true)
	c := signIn(t, site, "marta")
	r, err := http.NewRequest("POST", site.URL+"/studio/sitemap/undo", strings.NewReader("{}"))
	require.NoError(t, err)
	r.Header.Set("Origin", "https://elsewhere.quillmere.example")
	status, _ := c.do(r)
	require.Equal(t, 403, status)
}

func TestSignInIsLimited(t *testing.T) {
	site := kit.Site(t, true)
	c := signIn(t, site, "")
	last := 0
	for range 9 {
		last, _ = c.form("/studio/sign-in", url.Values{"name": {"ines"}, "password": {"wrong"}})
	}
	require.Equal(t, 429, last)
	last, _ = c.form("/studio/sign-in", url.Values{"name": {"ines"}, "password": {demo.Password}})
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
	c := signIn(t, site, "ines")
	key := uuid.NewString()
	for range 2 {
		status, _ := c.act(map[string]any{"key": key, "do": "add", "value": "Twice sent"})
		require.Equal(t, 200, status)
	}
	_, body := c.get("/studio/sitemap/rows")
	require.Equal(t, 1, strings.Count(string(body), "Twice sent"))
}

func TestTwoPlannersAtOnce(t *testing.T) {
	site := kit.Site(t, true)
	ines, kofi := signIn(t, site, "ines"), signIn(t, site, "kofi")
	id := entryID(t, site, "/visitors/shop")
	var rows struct{ Version int64 }
	_, body := ines.get("/studio/sitemap/rows")
	require.NoError(t, json.Unmarshal(body, &rows))
	status, _ := ines.act(map[string]any{"do": "retitle", "id": id, "value": "Garden shop", "seen": rows.Version})
	require.Equal(t, 200, status)
	status, a := kofi.act(map[string]any{"do": "retitle", "id": id, "value": "Gift shop", "seen": rows.Version})
	require.Equal(t, 409, status)
	require.Contains(t, a.Error, "Ines Barrow changed this first")

	status, _ = ines.act(map[string]any{"do": "remove", "id": id, "confirmed": true})
	require.Equal(t, 200, status)
	status, a = kofi.act(map[string]any{"do": "add", "parent": id, "value": "Postcards", "seen": rows.Version})
	require.Equal(t, 409, status)
	require.Contains(t, a.Error, "Ines Barrow")

	var both sync.WaitGroup // many at once: the tree stays whole
	for n, c := range []*client{ines, kofi} {
		both.Go(func() {
			for i := range 15 {
				c.act(map[string]any{"do": "add", "value": fmt.Sprintf("Bench %d-%d", n, i)})
			}
		})
	}
	both.Wait()
	_, body = ines.get("/studio/sitemap/rows")
	require.Equal(t, 30, strings.Count(string(body), "Bench "))
}

func TestBadActsAreAnswered(t *testing.T) {
	site := kit.Site(t, true)
	c := signIn(t, site, "ines")
	shop, home := entryID(t, site, "/visitors/shop"), entryID(t, site, "/")
	under := entryID(t, site, "/visitors/shop/shop-deliveries")
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
		status, a := c.act(m)
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
	ines, kofi := signIn(t, site, "ines"), signIn(t, site, "kofi")
	at := "/studio/pages/" + entryID(t, site, "/visitors/shop")
	text := func(s string) map[string]any {
		return map[string]any{"fields": map[string]string{"summary": s}, "slots": map[string]any{"main": []any{map[string]any{"type": "text", "text": s}}}}
	}
	w1, w2 := uuid.NewString(), uuid.NewString()
	var a answer
	require.Equal(t, 200, ines.json(at+"/lock", map[string]any{"window": w1}, nil))
	require.Equal(t, 200, ines.json(at+"/save", map[string]any{"window": w1, "base": 0, "content": text("first")}, &a))
	require.Equal(t, 409, kofi.json(at+"/save", map[string]any{"window": w2, "base": 0, "content": text("kofi's")}, &a), "ines has the lock")
	require.Equal(t, "Ines Barrow", a.Holder)
	require.Equal(t, 200, kofi.json(at+"/lock", map[string]any{"window": w2, "force": true}, nil))
	require.Equal(t, 409, ines.json(at+"/save", map[string]any{"window": w1, "base": 1, "content": text("after take-over")}, &a))
	require.Equal(t, 200, kofi.json(at+"/save", map[string]any{"window": w2, "base": 1, "content": text("kofi's")}, nil))
	var kept int
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT count(*) FROM kept_texts WHERE content::text LIKE '%after take-over%' OR content::text LIKE '%kofi%'").Scan(&kept))
	require.Equal(t, 2, kept)
	_, body := ines.get(at)
	require.Contains(t, string(body), "after take-over", "offered to its author on opening the page")
	require.NotContains(t, string(body), "kept\":[]")
}

func TestRichTextIsCleaned(t *testing.T) {
	site := kit.Site(t, true)
	c := signIn(t, site, "marta")
	at := "/studio/pages/" + entryID(t, site, "/visitors/shop")
	evil := "<script>alert(1)</script> [x](javascript:alert(1)) <img src=x onerror=alert(1)> & \"q\""
	require.Equal(t, 200, c.json(at+"/save", map[string]any{"window": uuid.NewString(), "base": 0, "content": map[string]any{
		"fields": map[string]string{"summary": evil}, "slots": map[string]any{"main": []any{
			map[string]any{"type": "text", "text": evil},
			map[string]any{"type": "note", "tone": "\"><script>", "text": evil},
			map[string]any{"type": "tiles", "tiles": []any{map[string]any{"to": "javascript:alert(1)", "title": evil}}},
		}},
	}}, nil))
	_, body := c.get(at + "/look")
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
