package site_test

import (
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
)

// requireNoDeadLink walks the reader site from home as a crawler does: every
// link on every page answers with a page, without a redirect, and every heading
// that a link names is there.
func requireNoDeadLink(t *testing.T, base string) {
	t.Helper()
	c := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	ids := map[string]map[string]bool{} // of each page
	from := map[string]string{"/": "the start", "/search/a-z": "the start", "/search/overview": "the start", "/search/new": "the start", "/search/trails": "the start"}
	type anchor struct{ page, id, on string }
	var anchors []anchor
	queue := []string{"/", "/search/a-z", "/search/overview", "/search/new", "/search/trails"}
	for len(queue) > 0 {
		page := queue[0]
		queue = queue[1:]
		head, err := c.Head(base + page)
		require.NoError(t, err)
		require.NoError(t, head.Body.Close())
		require.Equal(t, 200, head.StatusCode, "the head of %s, linked from %s", page, from[page])
		r, err := c.Get(base + page)
		require.NoError(t, err)
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		require.Equal(t, 200, r.StatusCode, "%s, linked from %s", page, from[page])
		if !strings.HasPrefix(r.Header.Get("Content-Type"), "text/html") {
			continue
		}
		doc, err := html.Parse(strings.NewReader(string(body)))
		require.NoError(t, err)
		ids[page] = map[string]bool{}
		for n := range doc.Descendants() {
			for _, a := range n.Attr {
				switch {
				case a.Key == "id":
					ids[page][a.Val] = true
				case a.Key == "data-missing":
					t.Errorf("%s has a link to a page that is not there", page)
				case a.Key != "src" && (a.Key != "href" || n.Data != "a" && n.Data != "link"):
				case strings.HasPrefix(a.Val, "#"):
					anchors = append(anchors, anchor{page, a.Val[1:], page})
				case strings.HasPrefix(a.Val, "/"):
					to, id, _ := strings.Cut(a.Val, "#")
					if id != "" {
						anchors = append(anchors, anchor{to, id, page})
					}
					if from[to] == "" {
						from[to] = page
						queue = append(queue, to)
					}
				default:
					require.True(t, strings.HasPrefix(a.Val, "https://") || strings.HasPrefix(a.Val, "http://"), "%s leads to %s", page, a.Val)
				}
			}
		}
	}
	for _, a := range anchors {
		id, err := url.PathUnescape(a.id)
		require.NoError(t, err)
		require.True(t, ids[a.page][id] || ids[a.page][a.id], "%s#%s, linked from %s", a.page, id, a.on)
	}
	require.Greater(t, len(ids), 100)
}

func TestDemoHasNoDeadLink(t *testing.T) {
	requireNoDeadLink(t, kit.Site(t, true).URL)
}
