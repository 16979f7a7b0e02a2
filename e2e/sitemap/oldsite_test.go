package sitemap_test

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// oldSite packs an older site with n pages in two folders, each with a picture
// and links to its neighbours.
func oldSite(t *testing.T, n int) string {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	put := func(name, text string) {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	var list strings.Builder
	for i := range n {
		fmt.Fprintf(&list, `<li><a href="plot-%d.html">Plot %d</a></li>`, i, i)
		put(fmt.Sprintf("allotments/plot-%d.html", i), fmt.Sprintf(`<title>Plot %d | Allotments</title><body onload="alert(1)"><nav>Menu</nav><main><h1>Plot %d</h1>
			<script>alert(2)</script><p>Beside <a href="plot-%d.html">the next plot</a>.</p><img src="dot.png" alt="A plan of plot %d"><img src="dot.png"></main>`, i, i, (i+1)%n, i))
	}
	put("allotments/index.html", "<title>Allotments</title><main><h1>Allotments</h1><p>All plots.</p><ul>"+list.String()+"</ul></main>")
	dot, err := base64.StdEncoding.DecodeString(testkit.DotPNG)
	require.NoError(t, err)
	put("allotments/dot.png", string(dot))
	put("index.html", `<main><h1>Old intranet</h1><a href="allotments/">Allotments</a></main>`)
	require.NoError(t, z.Close())
	return b.String()
}

// The pages of an older site come in with their texts and pictures, are
// published, and answer at the addresses they had.
func TestOlderSite(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	at := c.Upload("old.zip", oldSite(t, 45))
	body := c.Until(at+"?way=update&addresses=kept&texts=yes", "How to import it")
	require.Contains(t, body, "plot-7.html")
	require.NotContains(t, body, "refused</span>")
	status, _ := c.Form(at+"/accept", nil)
	require.Equal(t, 303, status)
	require.Contains(t, c.Until(at, "were imported as drafts"), "The texts of 46 pages were imported")

	plot := ""
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT entry_id FROM entry_rows WHERE title = 'Plot 7'").Scan(&plot))
	_, source := c.Get("/studio/pages/" + plot + "/source")
	require.Contains(t, string(source), "<script>alert(2)</script>")

	var ids []string
	rows, err := site.Pool.Query(t.Context(), "SELECT entry_id FROM entry_rows WHERE source LIKE 'allotments/%'")
	require.NoError(t, err)
	ids, err = pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	testkit.PublishChosen(t, c, func(key string) bool {
		return slices.ContainsFunc(ids, func(id string) bool { return strings.HasSuffix(key, id) })
	})
	anybody := testkit.SignIn(t, site, "")
	status, page := anybody.Get("/allotments/plot-7.html")
	require.Equal(t, 200, status)
	text := string(page)
	require.NotContains(t, text, "alert")
	require.Contains(t, text, `href="/allotments/plot-8.html">the next plot`)
	require.Contains(t, text, `alt="A plan of plot 7"`)
	_, src, _ := strings.Cut(text, `<img src="`)
	src, _, _ = strings.Cut(src, `"`)
	resp, err := http.Get(site.URL + src)
	require.NoError(t, err)
	defer resp.Body.Close()
	require.Equal(t, 200, resp.StatusCode)
	require.Equal(t, "image/png", resp.Header.Get("Content-Type"))
	status, _ = anybody.Get(src + "x")
	require.Equal(t, 404, status)

	t.Log("in the editor the picture is shown and kept, and imported again the texts stay")
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/pages/" + plot)
	tab.Until("document.querySelector('.ProseMirror img[alt=\"A plan of plot 7\"]')?.naturalWidth === 1")
	tab.Until("document.querySelector('.beside').innerText.includes('allotments/plot-7.html')")
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]')")
	testkit.InText(tab)
	testkit.Insert(tab, "Freshly dug. ")
	draft := ""
	require.Eventually(t, func() bool {
		require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT content::text FROM page_versions WHERE entry_id = $1 ORDER BY changed_at DESC LIMIT 1", plot).Scan(&draft))
		return strings.Contains(draft, "Freshly dug")
	}, 30*time.Second, 100*time.Millisecond)
	require.Contains(t, draft, "![A plan of plot 7](/files/")
	at = c.Upload("old.zip", oldSite(t, 46))
	require.Contains(t, c.Until(at+"?way=update&addresses=kept&texts=yes", "How to import it"), "Plot 45")
	status, _ = c.Form(at+"/accept", nil)
	require.Equal(t, 303, status)
	require.Contains(t, c.Until(at, "had a text and kept it"), "The texts of 1 page were imported")
	require.Empty(t, tab.Problems())
}
