package site_test

import (
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"candlepath/internal/app/editions"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
	"candlepath/internal/testkit"
)

// crawl follows every link of the reader site from its home and gives each page by its address.
// What does not answer with a page, in one hop at most, is told by lost.
func crawl(base string, more []string, lost func(at, why string)) map[string]string {
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	pages, waiting, seen := map[string]string{}, append([]string{"/"}, more...), map[string]bool{}
	get := func(at string) (status int, to, body string) {
		resp, err := client.Get(base + at)
		if err != nil {
			lost(at, err.Error())
			return 0, "", ""
		}
		defer resp.Body.Close()
		b, _ := io.ReadAll(resp.Body)
		return resp.StatusCode, resp.Header.Get("Location"), string(b)
	}
	for len(waiting) > 0 {
		at := waiting[0]
		if waiting = waiting[1:]; seen[at] {
			continue
		}
		seen[at] = true
		status, to, body := get(at)
		final := at
		if status >= 300 && status < 400 {
			if !strings.HasPrefix(to, "/") {
				continue // it leads to another site
			}
			final, _, _ = strings.Cut(to, "#")
			status, _, body = get(final)
		}
		if status != http.StatusOK {
			lost(at, fmt.Sprint("answers ", status, " at ", final))
			continue
		}
		pages[final] = body
		for _, link := range linksOf(body) {
			if u, err := url.Parse(link); err == nil && u.Host == "" && strings.HasPrefix(u.Path, "/") && !slices.Contains([]string{"studio", "assets", "search"}, strings.Split(u.Path, "/")[1]) {
				waiting = append(waiting, u.EscapedPath())
			}
		}
	}
	return pages
}

func linksOf(page string) (out []string) {
	z := html.NewTokenizer(strings.NewReader(page))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out
		case html.StartTagToken, html.SelfClosingTagToken:
			if t := z.Token(); t.Data == "a" {
				for _, a := range t.Attr {
					if a.Key == "href" {
						out = append(out, a.Val)
					}
				}
			}
		}
	}
}

// Readers are crawled before, at and after the minute of an edition that moves, rewrites, adds and
// withdraws: each address answers at every moment, and what is of one edition comes together.
func TestReadersAcrossAMinute(t *testing.T) {
	site := kit.Site(t, true)
	ctx, marta, anselm := t.Context(), testkit.PersonOf(t, site, "marta"), testkit.PersonOf(t, site, "anselm")
	compost, hours := testkit.EntryID(t, site, "/grounds/compost"), testkit.EntryID(t, site, "/visitors/opening-hours")
	grounds, visitors := testkit.EntryID(t, site, "/grounds"), testkit.EntryID(t, site, "/visitors")
	for _, act := range []appsitemap.PlanAct{
		{Do: "move", ID: compost, Parent: visitors, Last: true},
		{Do: "retitle", ID: hours, Value: "When we are open"},
	} {
		act.Key, act.Confirmed = uuid.NewString(), true
		_, err := site.App.Plan(ctx, marta, act)
		require.NoError(t, err)
	}
	write := func(id, words string) {
		_, err := site.App.SavePage(ctx, marta, id, uuid.NewString(), content.Page{Slots: map[string][]content.Block{"main": {{ID: "b1", Type: content.Text, Text: words}}}}, 0)
		require.NoError(t, err)
	}
	write(grounds, "The new wording of the minute. See [compost](page:"+compost+").")
	ids := []string{compost, hours, grounds}
	_, err := site.App.SendForReview(ctx, marta, editions.SendAsk{IDs: ids})
	require.NoError(t, err)
	looked := func(state workflow.State) (out []editions.Judged) {
		q, err := site.App.Queue(ctx, anselm)
		require.NoError(t, err)
		for _, item := range q.Items {
			if slices.Contains(ids, item.ID) && item.State == state {
				out = append(out, editions.Judged{ID: item.ID, Stamp: item.Stamp})
			}
		}
		return out
	}
	_, err = site.App.Judge(ctx, anselm, workflow.Approve, looked(workflow.InReview), "")
	require.NoError(t, err)
	timed, err := site.App.TimeChanges(ctx, anselm, editions.TimeAsk{List: looked(workflow.Ready), At: time.Now().UTC().Add(10 * time.Minute).Format("2006-01-02T15:04"), Zone: "UTC"})
	require.NoError(t, err)
	require.Equal(t, 3, timed.N)

	const words = "The new wording of the minute."
	fail := func(at, why string) { t.Errorf("%s %s", at, why) }
	before := crawl(site.URL, nil, fail)
	require.Greater(t, len(before), 100)
	for at, page := range before {
		require.NotContains(t, page, words, at)
		require.NotContains(t, page, "When we are open", at)
	}
	old := make([]string, 0, len(before))
	for at := range before {
		old = append(old, at)
	}

	var crawling sync.WaitGroup
	done := make(chan struct{})
	crawling.Go(func() {
		for {
			select {
			case <-done:
				return
			default:
			}
			for at, page := range crawl(site.URL, old, fail) {
				if at == "/grounds" && strings.Contains(page, words) != strings.Contains(page, `href="/visitors/compost"`) {
					fail(at, "shows the text of one edition and the address of another")
				}
			}
		}
	})
	_, err = site.Pool.Exec(ctx, `UPDATE change_states SET go_at = date_trunc('minute', now()) WHERE go_at IS NOT NULL`) // the minute comes
	require.NoError(t, err)
	require.NoError(t, site.App.PublishDue(ctx))
	require.Eventually(t, func() bool {
		resp, err := http.Get(site.URL + "/grounds")
		if err != nil {
			return false
		}
		defer resp.Body.Close()
		body, _ := io.ReadAll(resp.Body)
		return strings.Contains(string(body), words)
	}, 30*time.Second, 20*time.Millisecond)
	close(done)
	crawling.Wait()

	after := crawl(site.URL, old, fail)
	require.Contains(t, after["/grounds"], words)
	require.Contains(t, after, "/visitors/compost")
	require.NotContains(t, after, "/grounds/compost", "nothing is left at the old address but a redirect")
	for at, page := range after {
		require.NotContains(t, page, `href="/grounds/compost"`, "%s leads to the old address", at)
	}
	require.Contains(t, after["/visitors"], "When we are open", "menus and lists are of the new edition")
}
