package site_test

import (
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
	"candlepath/internal/testkit"
)

// What somebody may not read is for them exactly the page that is not there.
func TestRestrictedPagesDoNotExistForOthers(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	vault := testkit.EntryID(t, site, "/seed-vault")
	status, _ := marta.Act(map[string]any{"do": "fact", "id": vault, "field": "readership", "value": "Ines Barrow; approver"})
	require.Equal(t, 200, status)
	testkit.PublishOnly(t, site, "Only the vault team reads about the vault", func(k string) bool { return k == "readership" })

	const page = "/seed-vault/drying-room"
	for login, may := range map[string]bool{"": false, "noor": false, "kofi": false, "ines": true, "anselm": true, "marta": true} {
		c := testkit.SignIn(t, site, login)
		status, body := c.Get(page)
		_, home := c.Get("/")
		_, found := c.Get("/search?q=drying+room")
		listed := strings.Contains(string(home), `href="/seed-vault"`)
		lists := map[string]string{}
		for _, at := range []string{"/search/a-z", "/search/overview", "/search/new", "/feed.atom"} {
			status, list := c.Get(at)
			require.Equal(t, 200, status, at)
			lists[at] = string(list)
		}
		if may {
			require.Equal(t, 200, status, login)
			require.Contains(t, string(body), "Drying room")
			require.True(t, listed, login)
			require.Contains(t, string(found), page)
			for _, at := range []string{"/search/a-z", "/search/overview", "/search/new"} {
				require.Contains(t, lists[at], `href="`+page+`"`, at)
			}
			require.Contains(t, lists["/feed.atom"], "/seed-vault", login)
			continue
		}
		require.Equal(t, 404, status, login)
		require.Contains(t, string(body), "There is no page here")
		for _, secret := range []string{"Drying room", "Germination tests", "Seed vault"} {
			require.NotContains(t, string(body), secret, login)
		}
		require.False(t, listed, login)
		require.NotContains(t, string(found), page)
		for _, text := range [][]byte{home, found} {
			require.NotContains(t, string(text), "Seed vault", login)
		}
		for at, list := range lists {
			for _, secret := range []string{"Drying room", "Germination tests", "Seed vault", "seed-vault"} {
				require.NotContains(t, list, secret, at)
			}
		}
	}
	require.Equal(t, "private, no-cache", header(t, site, "ines", page, "Cache-Control"))
	require.Equal(t, "private, no-cache", header(t, site, "", "/visitors", "Cache-Control"), "its menus differ by reader")
}

// A restricted page that was removed redirects those who could read it; for others its addresses are those of a
// page that is not there, its earlier ones too, also in an instance begun anew and in rules that are exported.
func TestARemovedRestrictedPageBetraysNothing(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	room := testkit.EntryID(t, site, "/visitors/picnic-lawns")
	act := func(m map[string]any) {
		t.Helper()
		m["id"], m["confirmed"] = room, true
		status, a := marta.Act(m)
		require.Equal(t, 200, status, a.Error)
	}
	ours := func(key string) bool { return strings.Contains(key, room) }
	act(map[string]any{"do": "fact", "field": "readership", "value": "Ines Barrow"})
	testkit.PublishChosen(t, marta, ours)
	act(map[string]any{"do": "fact", "field": "slug", "value": "lawns"})
	testkit.PublishChosen(t, marta, ours)
	act(map[string]any{"do": "remove"})
	require.NoError(t, site.App.Decide(t.Context(), testkit.PersonOf(t, site, "marta"), room, "/volunteers", false, ""))
	testkit.PublishChosen(t, marta, ours)
	require.Eventually(t, func() bool { return statusOf(t, site, "ines", "/visitors/lawns") == 301 }, 10*time.Second, 50*time.Millisecond)
	for _, of := range []*testkit.Site{site, kit.Another(t, site)} {
		for login, want := range map[string]int{"": 404, "noor": 404, "ines": 301, "marta": 301} {
			for _, at := range []string{"/visitors/picnic-lawns", "/visitors/lawns", "/Visitors/LAWNS/"} {
				require.Equal(t, want, statusOf(t, of, login, at), "%s as %q", at, login)
			}
		}
	}
	require.Equal(t, "private, no-cache", header(t, site, "ines", "/visitors/lawns", "Cache-Control"))

	t.Log("once it is back, those who can read it get it again, and others still nothing")
	_, err := site.App.Rollback(t.Context(), testkit.PersonOf(t, site, "marta"), uuid.NewString(), 12, "It is missed")
	require.NoError(t, err)
	require.Eventually(t, func() bool { return statusOf(t, site, "ines", "/visitors/picnic-lawns") == 200 }, 10*time.Second, 50*time.Millisecond)
	require.Equal(t, 404, statusOf(t, site, "", "/visitors/picnic-lawns"), "it stays restricted")
}

// What a removed restricted page betrays to nobody stays so when it is removed a second time, and where an undo takes
// back a planned return; a redirect that somebody makes by hand at its address is for everybody, from the edition that
// brings it.
func TestARestrictedPageIsRemovedTwice(t *testing.T) {
	site := kit.Site(t, true)
	ctx, who := t.Context(), testkit.PersonOf(t, site, "marta")
	marta := testkit.SignIn(t, site, "marta")
	lawns := testkit.EntryID(t, site, "/visitors/picnic-lawns")
	act := func(m map[string]any) {
		t.Helper()
		m["id"], m["confirmed"] = lawns, true
		status, a := marta.Act(m)
		require.Equal(t, 200, status, a.Error)
	}
	ours := func(key string) bool { return strings.Contains(key, lawns) || strings.Contains(key, "picnic") }
	codes := func(at string) (out []int) {
		for _, login := range []string{"", "noor", "ines"} {
			out = append(out, statusOf(t, site, login, at))
		}
		return out
	}
	shows := func(want ...int) {
		t.Helper()
		require.Eventually(t, func() bool { return slices.Equal(want, codes("/visitors/picnic-lawns")) }, 10*time.Second, 50*time.Millisecond, "%v", want)
	}
	remove := func() {
		t.Helper()
		act(map[string]any{"do": "remove"})
		require.NoError(t, site.App.Decide(ctx, who, lawns, "/volunteers", false, ""))
		testkit.PublishChosen(t, marta, ours)
	}
	act(map[string]any{"do": "fact", "field": "readership", "value": "Ines Barrow"})
	testkit.PublishChosen(t, marta, ours)
	remove()
	shows(404, 404, 301)

	_, err := site.App.BringBack(ctx, who, uuid.NewString(), lawns, false)
	require.NoError(t, err)
	_, err = site.App.Undo(ctx, who)
	require.NoError(t, err)
	shows(404, 404, 301)
	_, err = site.App.Redo(ctx, who)
	require.NoError(t, err)
	testkit.PublishChosen(t, marta, ours)
	shows(404, 404, 200)
	remove()
	shows(404, 404, 301)

	_, err = site.App.PlanRedirects(ctx, who, uuid.NewString(), []redirect.Wish{{From: "/visitors/picnic-lawns", To: "/grounds"}})
	require.NoError(t, err)
	shows(404, 404, 301)
	testkit.PublishChosen(t, marta, ours)
	shows(301, 301, 301)
}

// A readership that was narrowed stays narrow when an edition is taken back.
func TestGoingBackDoesNotOpenWhatWasClosed(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	who := testkit.PersonOf(t, site, "marta")
	at, err := site.App.SiteNow(t.Context())
	require.NoError(t, err)
	status, _ := marta.Act(map[string]any{"do": "fact", "id": testkit.EntryID(t, site, "/visitors"), "field": "readership", "value": "approver"})
	require.Equal(t, 200, status)
	shop := testkit.EntryID(t, site, "/visitors/shop")
	status, _ = marta.Act(map[string]any{"do": "retitle", "id": shop, "value": "Gift shop"})
	require.Equal(t, 200, status)
	testkit.PublishChosen(t, marta, func(key string) bool { return strings.Contains(key, "readership") || strings.Contains(key, shop) })
	_, err = site.App.Rollback(t.Context(), who, uuid.NewString(), at.Edition, "Something else was wrong")
	require.NoError(t, err)
	require.NoError(t, site.Reader.Refresh(t.Context()))
	status, _ = testkit.SignIn(t, site, "").Get("/visitors")
	require.Equal(t, 404, status)
	status, _ = marta.Get("/visitors")
	require.Equal(t, 200, status)
}

func header(t *testing.T, site *testkit.Site, login, path, name string) string {
	r, err := http.NewRequest("GET", site.URL+path, nil)
	require.NoError(t, err)
	resp, err := testkit.SignIn(t, site, login).Do(r)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	return resp.Header.Get(name)
}

// statusOf is how an address answers somebody at first, before any redirect is followed.
func statusOf(t *testing.T, site *testkit.Site, login, path string) int {
	r, err := http.NewRequest("GET", site.URL+path, nil)
	require.NoError(t, err)
	c := *testkit.SignIn(t, site, login).Client
	c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	resp, err := c.Do(r)
	require.NoError(t, err)
	require.NoError(t, resp.Body.Close())
	return resp.StatusCode
}
