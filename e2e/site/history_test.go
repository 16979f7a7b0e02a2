package site_test

import (
	"fmt"
	"html"
	"math/rand/v2"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// keeper is a reader whose browser keeps every redirect for ever that it may
// keep, as browsers do with a plain 301.
type keeper struct {
	t    testing.TB
	base string
	kept map[string]string
}

// visit follows an address to its end and gives the last status and the hops
// that the site itself answered.
func (k *keeper) visit(path string) (status, hops int) {
	c := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	for range 6 {
		if to, ok := k.kept[path]; ok {
			path = to
			continue
		}
		r, err := c.Get(k.base + path)
		require.NoError(k.t, err)
		require.NoError(k.t, r.Body.Close())
		to := r.Header.Get("Location")
		if to == "" {
			return r.StatusCode, hops
		}
		hops++
		if !strings.Contains(r.Header.Get("Cache-Control"), "no-cache") {
			k.kept[path] = to
		}
		if !strings.HasPrefix(to, "/") {
			return 200, hops // left the site, as decided
		}
		path = to
	}
	return 0, hops
}

// A smaller run of the core's random histories, over HTTP: whatever is planned,
// decided, published and taken back, every address goes on answering in one hop.
func TestRandomHistoryOverHTTP(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	rnd := rand.New(rand.NewPCG(7, uint64(len(t.Name()))))
	k := &keeper{t, site.URL, map[string]string{}}
	// What is planned in the demo and not written yet is written, with all that its template asks for: another page may be moved
	// below it and take it along.
	contact := testkit.PersonOf(t, site, "ines").ID
	for _, title := range []string{"Science", "Accession notebook"} {
		var id string
		require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT entry_id FROM entry_rows WHERE title = $1", title).Scan(&id))
		text := map[string]any{"fields": map[string]string{"summary": title, "contact": contact, "risk": "low"}, "slots": map[string]any{"main": []any{map[string]any{"type": "text", "text": title}}}}
		require.Equal(t, 200, c.JSON("/studio/pages/"+id+"/save", map[string]any{"window": uuid.NewString(), "content": text}, nil))
		_, body := c.Get("/studio/edition")
		require.False(t, strings.Contains(string(body), html.EscapeString(fmt.Sprintf("%q cannot be published", title))), "%s lacks something", title)
	}
	pick := func() (id string) {
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT entry_id FROM entry_rows WHERE to_edition IS NULL AND fixed = '' AND NOT removed
			AND kind = 'page' ORDER BY md5(entry_id || $1::text) LIMIT 1`, fmt.Sprint(rnd.Int())).Scan(&id))
		return id
	}
	live := func() (id string) { // an item to a page that stays behind would stop the edition
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT entry_id FROM entry_rows WHERE to_edition IS NULL AND from_edition IS NOT NULL
			AND kind = 'page' ORDER BY md5(entry_id || $1::text) LIMIT 1`, fmt.Sprint(rnd.Int())).Scan(&id))
		return id
	}
	for range 3 {
		for i := range 12 {
			item := map[string]any{"key": uuid.NewString(), "menu": []string{"top", "foot"}[rnd.IntN(2)], "do": []string{"add", "out", "step"}[rnd.IntN(3)], "kind": []string{"entry", "children"}[rnd.IntN(2)], "entry": live(), "item": live(), "step": "out", "last": true}
			require.Contains(t, []int{200, 422}, c.JSON("/studio/menus/act", item, nil))
			act := map[string]any{"confirmed": true, "id": pick()}
			switch rnd.IntN(5) {
			case 0:
				act["do"], act["value"] = "slug", fmt.Sprintf("place-%d", rnd.IntN(5))
			case 1:
				act["do"] = "withdraw"
			case 2:
				act["do"], act["value"] = "retitle", fmt.Sprintf("Title %d", i)
			default:
				act["do"], act["parent"] = "move", pick()
			}
			status, a := c.Act(act)
			require.Contains(t, []int{200, 409, 422}, status, a.Error)
		}
		publishWhatGoes(t, c)
		requireAnswers(t, c, k)
		requireNoDeadLink(t, site.URL)
	}
	status, _ := c.Form("/studio/edition/past/4/rollback", url.Values{"key": {uuid.NewString()}, "why": {"back to the fourth"}})
	require.Equal(t, 303, status)
	requireAnswers(t, c, k)
	requireNoDeadLink(t, site.URL)
	requireWhole(t, site)
	var edition int
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT edition FROM sites").Scan(&edition))
	require.GreaterOrEqual(t, edition, 14, "the history really happened")
}

// publishWhatGoes publishes the changes of placement, and decides "gone" where
// a decision is asked for. Withdrawals stay planned.
func publishWhatGoes(t *testing.T, c *testkit.Client) {
	_, body := c.Get("/studio/edition")
	for _, part := range strings.Split(string(body), `action="/studio/edition/decide"`)[1:] {
		c.Form("/studio/edition/decide", url.Values{"id": {testkit.Between(part, `name="id" value="`, `"`)}, "choice": {"gone"}})
	}
	testkit.PublishChosen(t, c, func(key string) bool {
		return strings.HasPrefix(key, "placement") || strings.HasPrefix(key, "title") || strings.HasPrefix(key, "menu")
	})
}

func requireAnswers(t *testing.T, c *testkit.Client, k *keeper) {
	t.Helper()
	for _, a := range everAddress(t, c) {
		status, hops := k.visit(a)
		require.Contains(t, []int{200, 410}, status, a)
		require.LessOrEqual(t, hops, 1, a)
	}
}

// everAddress lists every page address of any edition.
func everAddress(t *testing.T, c *testkit.Client) []string {
	var out []string
	rows, err := c.Pool.Query(t.Context(), "SELECT DISTINCT address FROM addresses ORDER BY address")
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var a string
		require.NoError(t, rows.Scan(&a))
		out = append(out, a)
	}
	require.NoError(t, rows.Err())
	return out
}
