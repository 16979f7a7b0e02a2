package site_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/platform/background"
	"candlepath/internal/testkit"
	"candlepath/internal/web/reader"
)

// hands plans and publishes on a site without a browser.
type hands struct {
	*testing.T
	site  *testkit.Site
	who   plan.Person
	leave []change.Key // what the demo plans
}

func handsOn(t *testing.T, site *testkit.Site) hands {
	h := hands{T: t, site: site, who: testkit.PersonOf(t, site, "marta")}
	h.leave = h.changes()
	return h
}

func (h hands) next() *sitemap.Tree {
	tree, _, err := h.site.App.Export(h.Context(), h.who, false)
	require.NoError(h, err)
	return tree
}

func (h hands) set(entry, field, value string) {
	h.Helper()
	_, err := h.site.App.Plan(h.Context(), h.who, appsitemap.PlanAct{Key: uuid.NewString(), Do: "fact", ID: entry, Field: field, Value: value, Confirmed: true})
	require.NoError(h, err)
}

func (h hands) write(entry string, change func(p *content.Page)) {
	h.Helper()
	ctx, window := h.Context(), uuid.NewString()
	v, err := h.site.App.OpenPage(ctx, h.who, entry, window)
	require.NoError(h, err)
	p := v.Content
	change(&p)
	_, err = h.site.App.SavePage(ctx, h.who, entry, window, p, v.Base)
	require.NoError(h, err)
	require.NoError(h, h.site.App.ClosePage(ctx, h.who, entry, window))
}

func (h hands) publish(why string) int {
	h.Helper()
	e, err := h.site.App.Publish(h.Context(), h.who, editions.PublishAsk{Key: uuid.NewString(), Why: why, Changes: editions.Select{Chosen: true, LeaveOut: h.leave}})
	if err != nil {
		n, _ := h.site.App.LookAhead(h.Context(), h.who, editions.Select{Chosen: true, LeaveOut: h.leave})
		require.NoError(h, err, "%+v", n.Findings)
	}
	return e.Number
}

func (h hands) visit(sites ...*testkit.Site) (bodies []map[string]string) {
	h.Helper()
	for _, site := range sites {
		out, c := map[string]string{}, testkit.SignIn(h, site, "")
		tree, _, err := site.App.Export(h.Context(), h.who, true)
		require.NoError(h, err)
		paths := []string{"/search/new", "/search/a-z", "/search/overview", "/search/trails", "/feed.atom"}
		for i := range tree.Len() {
			if at := tree.Served(i); at != "" {
				paths = append(paths, at)
			}
		}
		for _, at := range paths {
			status, body := c.Get(at)
			out[at] = fmt.Sprint(status, " ", strings.ReplaceAll(string(body), site.URL, ""))
		}
		bodies = append(bodies, out)
	}
	return bodies
}

// takes waits until instances serve an edition.
func (h hands) takes(number int, sites ...*testkit.Site) {
	h.Helper()
	for _, site := range sites {
		require.Eventually(h, func() bool { return site.Reader.Edition() == number }, 30*time.Second, 5*time.Millisecond)
	}
}

// lists are blocks that show others.
func lists(of, other string) []content.Block {
	block := func(kind content.BlockType, set content.Values, items ...content.Values) content.Block {
		return content.Block{ID: uuid.NewString(), Type: kind, Set: set, Items: items}
	}
	return []content.Block{
		block(content.Newest, content.Values{"count": "5", "summaries": content.Yes, "figures": content.Yes}),
		block(content.TopicList, content.Values{"topic": "water", "summaries": content.Yes}),
		block(content.NewsList, content.Values{"count": "5"}),
		block(content.Asked, content.Values{"count": "5", "figures": content.Yes}),
		block(content.Below, content.Values{"of": "page:" + of, "summaries": content.Yes, "order": content.ByChange}),
		block(content.Tiles, nil, content.Values{"to": "page:" + of}, content.Values{"to": "page:" + other}),
		block(content.FactRow, nil, content.Values{"of": "page:" + other, "fact": "Summary"}),
	}
}

// What an instance keeps of earlier editions is what it would compose: after random editions every page
// and list of two instances is, byte for byte, that of one which begins now.
func TestWhatIsKeptIsWhatIsComposed(t *testing.T) {
	site := kit.Site(t, true)
	other := kit.Another(t, site)
	h := handsOn(t, site)
	r := rand.New(rand.NewPCG(28, 1))
	var pages []string
	live, _, err := site.App.Export(t.Context(), h.who, true)
	require.NoError(t, err)
	for i := range live.Len() {
		if e := live.Ref(i); e.Kind == sitemap.Page && live.Served(i) != "" && h.next().Find(e.ID) != sitemap.None {
			pages = append(pages, e.ID)
		}
	}
	pick := func() string { return pages[r.IntN(len(pages))] }
	shows := []string{pick(), pick(), pick(), pick()}
	for k, id := range shows {
		h.write(id, func(p *content.Page) { p.Slots["main"] = append(p.Slots["main"], lists(shows[(k+1)%4], pick())...) })
	}
	h.takes(h.publish("Pages that show others"), site, other)
	for round := range 10 {
		before := site.Reader.Composed()
		for range 1 + r.IntN(3) {
			id := pick()
			if r.IntN(2) == 0 {
				id = shows[r.IntN(len(shows))]
			}
			switch r.IntN(7) {
			case 0:
				h.set(id, "topics", []string{"water", "fire", ""}[r.IntN(3)])
			case 1:
				h.set(id, "owner", []string{"Gwen Hale", "Ines Barrow"}[r.IntN(2)])
			case 2:
				h.write(id, func(p *content.Page) {
					p.Fields[content.NewsField] = time.Now().AddDate(0, 0, r.IntN(3)-2).Format(time.DateOnly)
				})
			case 3:
				if round%3 == 0 {
					h.set(id, "title", fmt.Sprintf("Title %d", r.IntN(100)))
				}
			default:
				h.write(id, func(p *content.Page) {
					p.Fields["summary"] = fmt.Sprintf("Summary %d.", r.IntN(1000))
					p.Slots["main"] = append(p.Slots["main"], content.Block{ID: uuid.NewString(), Type: content.Text, Text: fmt.Sprintf("Words %d.", r.IntN(1000))})
				})
			}
		}
		if len(h.changes()) == len(h.leave) {
			continue
		}
		h.takes(h.publish(fmt.Sprint("Round ", round)), site, other)
		fresh := kit.Another(t, site)
		got := h.visit(site, other, fresh)
		for at, want := range got[2] {
			require.Equal(t, want, got[0][at], "round %d, %s", round, at)
			require.Equal(t, want, got[1][at], "round %d, %s, another instance", round, at)
		}
		t.Logf("round %d: %d of %d composed", round, site.Reader.Composed()-before, len(got[2]))
	}
	for _, s := range []*testkit.Site{site, other} {
		_, ready := testkit.SignIn(t, s, "").Get("/readyz")
		require.Equal(t, "ready\n", string(ready))
	}
}

// changes lists what is planned.
func (h hands) changes() (keys []change.Key) {
	n, err := h.site.App.LookAhead(h.Context(), h.who, editions.Select{})
	require.NoError(h, err)
	for _, c := range n.All {
		keys = append(keys, c.Key)
	}
	return keys
}

// Lists that somebody opened do not keep an edition of texts from being taken up: their place in the
// cache was once taken for a page's, and the program ended.
func TestOpenedListsAndAnEditionOfTexts(t *testing.T) {
	site := kit.Site(t, true)
	h := handsOn(t, site)
	for range 2 {
		h.visit(site)
		h.write(testkit.EntryID(t, site, "/visitors/shop"), func(p *content.Page) { p.Fields["summary"] += " More." })
		h.takes(h.publish("A text"), site)
	}
	status, ready := testkit.SignIn(t, site, "").Get("/readyz")
	require.Equal(t, 200, status, string(ready))
}

// deaf is an instance that no announcement reaches.
func deaf(t *testing.T, site *testkit.Site) (*reader.Site, *background.Group, func(path string) (int, string)) {
	var work background.Group
	r, err := reader.New(site.App, testkit.Quiet(), &work, func(*http.Request) readership.Reader { return readership.Reader{} })
	require.NoError(t, err)
	require.NoError(t, r.Refresh(t.Context()))
	e := gin.New()
	e.NoRoute(r.Serve)
	e.GET("/search", func(c *gin.Context) { r.Search(c.Writer, c.Request) })
	e.GET("/files/:id/:name", r.File)
	return r, &work, func(path string) (int, string) {
		w := httptest.NewRecorder()
		e.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w.Code, w.Body.String()
	}
}

// secret makes an edition in which a page is restricted and rewritten.
func (h hands) secret(entry string) int {
	h.write(entry, func(p *content.Page) {
		p.Slots["main"] = append(p.Slots["main"], content.Block{ID: uuid.NewString(), Type: content.Text, Text: "The zanzibar till is broken."})
	})
	h.set(entry, "readership", "site manager")
	return h.publish("The shop is for managers")
}

// An instance that missed an edition serves the one before whole, also in search, and takes the newest up
// within seconds, without an announcement.
func TestAMissedAnnouncement(t *testing.T) {
	site := kit.Site(t, true)
	h := handsOn(t, site)
	r, work, ask := deaf(t, site)
	was := r.Edition()
	h.secret(testkit.EntryID(t, site, "/visitors/shop"))
	status, body := ask("/visitors/shop")
	require.Equal(t, 200, status)
	require.NotContains(t, body, "zanzibar", "everybody reads this edition")
	_, body = ask("/search?q=zanzibar")
	require.NotContains(t, body, "/visitors/shop")
	ctx, stop := context.WithCancel(t.Context())
	work.Keep(ctx, "follow editions", r.Follow)
	require.Eventually(t, func() bool { return r.Edition() > was }, 6*time.Second, 10*time.Millisecond)
	status, _ = ask("/visitors/shop")
	require.Equal(t, 404, status)
	stop()
	work.Wait()
}

// Where taking an edition up fails, the one before is served on, to those only who may read a page in
// both; it is tried again, and readiness tells.
func TestAnEditionThatCannotBeTakenUp(t *testing.T) {
	site := kit.Site(t, true)
	h := handsOn(t, site)
	r, work, ask := deaf(t, kit.Another(t, site)) // with caches of its own
	was := r.Edition()
	status, _ := ask("/visitors/shop")
	require.Equal(t, 200, status)
	number := h.secret(testkit.EntryID(t, site, "/visitors/shop"))
	exec := func(sql string) {
		_, err := site.Pool.Exec(t.Context(), sql)
		require.NoError(t, err)
	}
	exec(`ALTER TABLE withheld RENAME TO withheld_away`) // which is read each time
	require.Error(t, r.Refresh(t.Context()))
	require.Equal(t, was, r.Edition())
	status, _ = ask("/visitors/shop")
	require.Equal(t, 404, status, "who may read it is known already")
	status, _ = ask("/visitors/opening-hours")
	require.Equal(t, 200, status)
	require.NotEmpty(t, work.Failing())
	newest, _ := r.Lag()
	require.Equal(t, number, newest)
	exec(`ALTER TABLE withheld_away RENAME TO withheld`)
	ctx, stop := context.WithCancel(t.Context())
	work.Keep(ctx, "follow editions", r.Follow)
	require.Eventually(t, func() bool { return r.Edition() == number && len(work.Failing()) == 0 }, 6*time.Second, 10*time.Millisecond)
	stop()
	work.Wait()
}
