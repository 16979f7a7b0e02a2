package reader

import (
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

func TestAcceptsGzip(t *testing.T) {
	for header, want := range map[string]bool{
		"gzip": true, "gzip, deflate, br": true, "br;q=1, gzip;q=0.5": true, "*": true, "deflate, *;q=0.1": true, "gzip ; q=1": true,
		"": false, "br": false, "gzip;q=0": false, "gzip; q=0.000": false, "xgzip": false,
	} {
		require.Equal(t, want, acceptsGzip(http.Header{"Accept-Encoding": {header}}), header)
	}
}

func TestMatchesETags(t *testing.T) {
	for header, want := range map[string]bool{
		`"a"`: true, `W/"a"`: true, `"b", "a"`: true, "*": true, "": false, `"b"`: false, "a": false, `"ab"`: false,
	} {
		require.Equal(t, want, matches(header, `"a"`), header)
	}
}

func ask(p *composed, method string, h ...string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, "/", nil)
	for i := 0; i < len(h); i += 2 {
		r.Header.Set(h[i], h[i+1])
	}
	w := httptest.NewRecorder()
	p.serve(w, r)
	return w
}

func TestAPageIsServedAsStored(t *testing.T) {
	html := strings.Repeat("<p>Compost</p>", 400)
	p := newComposed([]byte(html), plan.Reads{})
	plain, zipped := ask(p, "GET"), ask(p, "GET", "Accept-Encoding", "gzip")
	require.Equal(t, html, plain.Body.String())
	back, err := markup.Unzip(zipped.Body.Bytes())
	require.NoError(t, err)
	require.Equal(t, html, string(back))
	require.NotEqual(t, plain.Header().Get("Etag"), zipped.Header().Get("Etag"), "each coding has a tag of its own")
	for _, w := range []*httptest.ResponseRecorder{plain, zipped} {
		require.Equal(t, "Accept-Encoding", w.Header().Get("Vary"))
		require.Equal(t, "no-cache", w.Header().Get("Cache-Control"))
	}
	again := ask(p, "GET", "Accept-Encoding", "gzip", "If-None-Match", zipped.Header().Get("Etag"))
	require.Equal(t, 304, again.Code)
	require.Empty(t, again.Body.Bytes())
	require.Equal(t, zipped.Header().Get("Etag"), again.Header().Get("Etag"))
	head := ask(p, "HEAD")
	require.Empty(t, head.Body.Bytes())
	require.Equal(t, plain.Header().Get("Content-Length"), head.Header().Get("Content-Length"))
}

func TestTheCacheKeepsToItsRoom(t *testing.T) {
	c := newCache(1000)
	for i := range 50 {
		key := strconv.Itoa(i)
		c.put(key, &composed{zipped: make([]byte, 300)})
		require.NotNil(t, c.get(key), "the newest is there")
		require.LessOrEqual(t, len(c.pages), 3)
		require.GreaterOrEqual(t, c.room, 0)
	}
	c.put("49", &composed{zipped: make([]byte, 900)})
	require.Len(t, c.get("49").zipped, 900, "a page of another day takes the place of the one before")
	require.Equal(t, 100, c.room)
}

func restricted(t *testing.T) reading.LiveSite {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "p", Title: "Pay", Slug: "pay", Kind: sitemap.Page, Readership: "approver"},
		{ID: "o", Title: "Open", Slug: "open", Kind: sitemap.Page},
	})
	require.NoError(t, err)
	table, err := redirect.NewTable([]redirect.Row{{From: "/salary", To: redirect.Target{Entry: "p"}, Code: 301, Match: redirect.Exact}}, tree)
	require.NoError(t, err)
	return reading.LiveSite{Tree: tree, Table: table}
}

func TestViewsOfAnEdition(t *testing.T) {
	e, err := newEdition(restricted(t), nil, nil)
	require.NoError(t, err)
	require.True(t, e.restricted)
	require.Equal(t, 404, e.public.Table.Resolve("/salary").Code)
	may := e.viewOf(readership.Reader{Name: "Anselm", Role: workflow.Approver})
	require.True(t, may.differs && e.public.differs, "whoever asks, others may get something else")
	require.Equal(t, 301, may.Table.Resolve("/salary").Code)
	require.Len(t, may.menus.Top(sitemap.None), 3)
	require.Same(t, e.public, e.viewOf(readership.Reader{Name: "Noor", Role: workflow.Reader}), "who may read no more shares the public view")
	var all sync.WaitGroup
	for range 500 {
		all.Go(func() {
			for _, role := range workflow.Roles() {
				v := e.viewOf(readership.Reader{Name: "x", Role: role})
				if (v != e.public) != (role == workflow.Approver || role == workflow.Manager) {
					t.Error("wrong view for", role)
				}
			}
		})
	}
	all.Wait()
	for i := range 3 * mostViews {
		e.viewOf(readership.Reader{Name: string(rune('a' + i)), Role: workflow.Editor})
	}
	require.LessOrEqual(t, len(e.views), mostViews)
}

// After an edition in which texts and owners changed, other pages are not composed
// again; where a title changed, all are.
func TestWhatLooksTheSameIsKept(t *testing.T) {
	live := restricted(t)
	live.Summaries = plan.SummariesOf(plan.PageSummary{EntryID: "o", VersionID: "1"}, plan.PageSummary{EntryID: "h", VersionID: "2"})
	was, err := newEdition(live, nil, nil)
	require.NoError(t, err)
	for i := range was.public.Tree.Len() {
		e := was.public.Tree.Ref(i)
		was.public.cache.put(e.ID, newComposed([]byte(e.Title), plan.Reads{}))
	}
	next := func(change func(*sitemap.Entry), texts plan.Summaries) *edition {
		tree, err := live.Tree.Change("o", change)
		require.NoError(t, err)
		e, err := newEdition(reading.LiveSite{Tree: tree, Table: live.Table, Summaries: texts}, nil, was)
		require.NoError(t, err)
		return e
	}
	kept := func(e *edition) (ids []string) {
		for i := range e.public.Tree.Len() {
			if id := e.public.Tree.Ref(i).ID; e.public.cache.get(id) != nil {
				ids = append(ids, id)
			}
		}
		return ids
	}
	all := kept(was)
	require.Contains(t, all, "o")
	same := func(*sitemap.Entry) {}
	require.Equal(t, all, kept(next(same, live.Summaries)))
	owned := kept(next(func(e *sitemap.Entry) { e.Owner = "Gwen" }, live.Summaries))
	require.NotContains(t, owned, "o")
	require.Len(t, owned, len(all)-1)
	written := kept(next(same, plan.SummariesOf(plan.PageSummary{EntryID: "o", VersionID: "3"}, plan.PageSummary{EntryID: "h", VersionID: "2"})))
	require.Equal(t, owned, written)
	require.Empty(t, kept(next(func(e *sitemap.Entry) { e.Title = "Ajar" }, live.Summaries)))
	narrowed := next(same, live.Summaries)
	narrowed.full.Site.Settings = setting.Values{setting.Accent: "#112233"}
	again, err := newEdition(live, nil, narrowed)
	require.NoError(t, err)
	require.Empty(t, kept(again), "another colour")
}
