package site_test

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/platform/background"
	"candlepath/internal/testkit"
	"candlepath/internal/web/reader"
)

// shownEdition is what one edition shows, as this test knows it.
type shownEdition struct {
	tree  *sitemap.Tree
	also  map[string][]string
	words map[string]string // what the text of each page says
}

// instance is one that takes editions up when the test says so, and answers one reader after another.
type instance struct {
	*reader.Site
	as    readership.Reader
	heard []int // the later editions that it knows of
	get   func(path string) (int, string)
}

func newInstance(t *testing.T, site *testkit.Site) *instance {
	i := &instance{}
	var err error
	i.Site, err = reader.New(site.App, testkit.Quiet(), new(background.Group), func(*http.Request) readership.Reader { return i.as })
	require.NoError(t, err)
	require.NoError(t, i.Refresh(t.Context()))
	e := gin.New()
	e.NoRoute(i.Serve)
	e.GET("/search", func(c *gin.Context) { i.Search(c.Writer, c.Request) })
	i.get = func(path string) (int, string) {
		w := httptest.NewRecorder()
		e.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w.Code, w.Body.String()
	}
	return i
}

// Whatever instances missed, and whatever is rewritten, restricted, opened, moved and restored meanwhile: every answer of
// each to everybody is one edition's, and nobody reads what that edition, or a later one of which the instance knows, keeps
// from them.
func TestEveryAnswerIsOfOneEdition(t *testing.T) {
	site := kit.Site(t, true)
	h := handsOn(t, site)
	rnd := rand.New(rand.NewPCG(28, 2))
	branch := testkit.EntryID(t, site, "/visitors")
	ids := []string{branch}
	for _, at := range []string{"/visitors/shop", "/visitors/picnic-lawns", "/grounds"} {
		ids = append(ids, testkit.EntryID(t, site, at))
	}
	for _, k := range h.leave {
		require.NotContains(t, ids, k.ID, "what the demo plans of it stays planned")
	}
	places := []string{branch, testkit.EntryID(t, site, "/grounds"), testkit.EntryID(t, site, "/seed-vault")}
	people := map[string]readership.Reader{"nobody": {}, "ines": testkit.PersonOf(t, site, "ines").Reader(), "anselm": testkit.PersonOf(t, site, "anselm").Reader(), "marta": h.who.Reader()}
	editionsBy := map[int]shownEdition{}
	written := map[string]bool{} // words
	known := func(number int) {
		l, err := site.App.LoadLive(t.Context())
		require.NoError(t, err)
		require.Equal(t, number, l.Site.Edition)
		fresh, words := newInstance(t, site), map[string]string{} // composes each page from what the database has
		fresh.as = h.who.Reader()
		for _, id := range ids {
			_, body := fresh.get(l.Tree.ServedOf(id))
			words[id] = testkit.Between(body, "These words are ", ".")
			require.Contains(t, written, words[id])
		}
		editionsBy[number] = shownEdition{l.Tree, l.Readerships(), words}
	}
	publish := func(why string) {
		if len(h.changes()) > len(h.leave) {
			known(h.publish(why))
		}
	}
	write := func(id, words string) {
		written[words] = true
		h.write(id, func(p *content.Page) {
			p.Slots["main"] = []content.Block{{ID: uuid.NewString(), Type: content.Text, Text: "These words are " + words + "."}}
		})
	}
	for k, id := range ids {
		write(id, fmt.Sprintf("zeta%dq", k))
	}
	publish("Words that are known")
	first, _ := site.App.SiteNow(t.Context())
	instances := []*instance{newInstance(t, site), newInstance(t, site), newInstance(t, site)}
	newest := func() int { s, _ := site.App.SiteNow(t.Context()); return s.Edition }
	may := func(number int, who readership.Reader, id string) bool {
		e := editionsBy[number]
		at := readership.Visible(e.tree, who, e.also).Find(id)
		return at != sitemap.None
	}
	check := func(round int) {
		for n, i := range instances {
			k := i.Edition()
			shows, asked := editionsBy[k], 0
			for name, who := range people {
				i.as = who
				for _, id := range ids {
					at := shows.tree.Find(id)
					require.NotEqual(t, sitemap.None, at)
					reads := may(k, who, id)
					for _, later := range i.heard { // what is hidden takes along what is below it in the edition that is served
						for above := at; above != sitemap.None; above = shows.tree.Parent(above) {
							reads = reads && may(later, who, shows.tree.Ref(above).ID)
						}
					}
					says := fmt.Sprintf("round %d, instance %d at edition %d, heard of %v, %s at %s", round, n, k, i.heard, name, shows.tree.Served(at))
					status, body := i.get(shows.tree.Served(at))
					for words := range written {
						if strings.Contains(body, words) {
							require.True(t, reads, says)
						}
					}
					if reads {
						require.Equal(t, 200, status, says)
						require.Contains(t, body, "These words are "+shows.words[id]+".", says)
					} else {
						require.Equal(t, 404, status, says)
					}
					_, found := i.get("/search?q=" + shows.words[id])
					require.Equal(t, reads, strings.Contains(found, `href="`+shows.tree.Served(at)+`"`), "search, %s", says)
					asked++
				}
			}
			require.Equal(t, k, i.Edition())
			require.Positive(t, asked)
		}
	}
	check(0)
	for round := 1; round <= 15; round++ {
		for range 1 + rnd.IntN(3) {
			id := ids[rnd.IntN(len(ids))]
			switch rnd.IntN(6) {
			case 0, 1:
				h.set(id, "readership", []string{"", "approver", "Ines Barrow", "site manager", "editor"}[rnd.IntN(5)])
			case 2:
				h.set(id, "title", fmt.Sprintf("Title %d", round*10+rnd.IntN(10)))
			case 3:
				if id != branch && id != places[1] {
					_, err := site.App.Plan(t.Context(), h.who, appsitemap.PlanAct{Key: uuid.NewString(), Do: "move", ID: id, Parent: places[rnd.IntN(len(places))], Last: true, Confirmed: true})
					require.NoError(t, err)
				}
			default:
				write(id, fmt.Sprintf("zeta%dr%dq%d", round, rnd.IntN(1000), len(written)))
			}
		}
		publish(fmt.Sprint("Round ", round))
		if round%7 == 0 && newest()-2 >= first.Edition {
			back := newest() - 2
			_, err := site.App.Rollback(t.Context(), h.who, uuid.NewString(), back, "Restored")
			if err == nil {
				known(newest()) // what was live waits to be published again
			} else {
				require.ErrorAs(t, err, new(*plan.Invalid))
			}
		}
		for _, i := range instances {
			switch rnd.IntN(3) {
			case 0: // it misses this
			case 1: // and this one hears of it, and cannot take it up
				if i.Edition() != newest() {
					exec := func(sql string) {
						_, err := site.Pool.Exec(t.Context(), sql)
						require.NoError(t, err)
					}
					exec(`ALTER TABLE withheld RENAME TO withheld_away`)
					require.Error(t, i.Refresh(t.Context()))
					exec(`ALTER TABLE withheld_away RENAME TO withheld`)
					i.heard = append(i.heard, newest())
				}
			default:
				require.NoError(t, i.Refresh(t.Context()))
				require.Equal(t, newest(), i.Edition())
				i.heard = nil
			}
		}
		check(round)
	}
	require.Greater(t, newest(), first.Edition+10)
}
