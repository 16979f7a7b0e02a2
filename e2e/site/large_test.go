package site_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Shapes of large sites: wide has a twentieth of its entries at the top, and deep has
// ten below each other entry, as sites that people find their way in.
func wide(i int) int { return []int{1, 2, 3, 4, 5, 6, 7, 8, 8, 7, 4, 5, 3, 4, 5, 2, 3, 4, 5, 5}[i%20] }

func deep(i int) int {
	for level, below := range []int{10_000, 1000, 100, 10} {
		if i%below == level {
			return level + 1
		}
	}
	return 5
}

func importEntries(t testing.TB, site *testkit.Site, n int, level func(i int) int) {
	var csv strings.Builder
	csv.WriteString("Level;Title;Owner;Topics\n")
	for i := range n {
		fmt.Fprintf(&csv, "%d;Eintrag %d;%s;beds\n", level(i), i, []string{"Gwen Hale", "Ines Barrow", ""}[i%3])
	}
	testkit.ImportFile(t, site.App, "csv", []byte(csv.String()))
}

// Where working out the next edition takes long, its screen comes first and what it shows
// follows by itself; without scripts there is a link to it.
func TestTheNextEditionOfALargeSiteFollows(t *testing.T) {
	site := kit.Site(t, true)
	importEntries(t, site, 20_500, wide)
	c := testkit.SignIn(t, site, "marta")
	_, body := c.Get("/studio/edition")
	require.Contains(t, string(body), "Checking planned changes. With this many")
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/edition")
	tab.Until("/^Edition \\d+: 20,\\d+ of 20,\\d+ changes$/.test(document.querySelector('#edition-body h1').innerText)")
	_, body = c.Get("/studio/edition")
	require.Contains(t, string(body), `id="changes"`, "it is known now, so it comes at once")
}

// A large edition is published behind its screen, which tells how far it is, and goes on to the
// edition when it is out. What was ticked under a filter is what went.
func TestALargeEditionIsPublishedBehindItsScreen(t *testing.T) {
	site := kit.Site(t, true)
	importEntries(t, site, 2100, wide)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/edition")
	tab.MustElementR("button", "^Select none").MustClick()
	tab.Until("/^Edition 12: 0 of /.test(document.querySelector('#edition-body h1').innerText)")
	tab.Go("/studio/edition?show=mine")
	tab.MustElementR("button", "^Select these").MustClick()
	tab.Until("/^Edition 12: 2,10\\d of /.test(document.querySelector('#edition-body h1').innerText)")
	tab.MustElement("#why").MustInput("Many beds")
	tab.MustEval(`() => document.querySelector("button[value=publish]").click()`)
	tab.Until("document.getElementById('large') || /Edition 12 is live/.test(document.body.innerText)")
	tab.Until("/Edition 12 is live/.test(document.body.innerText)")
	status, inbox := testkit.SignIn(t, site, "marta").Get("/studio/inbox")
	require.Equal(t, 200, status)
	require.Contains(t, string(inbox), "Edition 12 is live: Many beds")
	for state, says := range map[string][2]string{
		"waiting": {"Publishing edition 13", "1,200 of 2,400 pages prepared"}, "stopped": {"Nothing was published", "Look again."},
	} {
		var id string
		require.NoError(t, site.Pool.QueryRow(t.Context(), `INSERT INTO large_editions (id, site_id, person_id, why, note, looked, changes, state, done, total, problem, at)
			SELECT gen_random_uuid(), site_id, id, '', '', '', 2412, $1, 1200, 2400, 'Look again.', now() FROM people WHERE login = 'marta' RETURNING id`, state).Scan(&id))
		tab.Go("/studio/edition/publish/" + id)
		shown := tab.MustElement("#large").MustText()
		require.Contains(t, shown, says[0])
		require.Contains(t, shown, says[1])
	}
}
