package testkit

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sheet"
	"candlepath/internal/web/server"
)

// PersonOf gives the person of the demo who signs in under a name.
func PersonOf(t testing.TB, site *Site, login string) plan.Person {
	people, err := site.App.Everyone(t.Context())
	require.NoError(t, err)
	for _, p := range people {
		if p.Login == login {
			return p
		}
	}
	require.Fail(t, "nobody", login)
	return plan.Person{}
}

// ImportFile imports a file without the server, as Marta.
func ImportFile(b testing.TB, a *app.App, ending string, data []byte) {
	ctx := b.Context()
	people, err := a.Everyone(ctx)
	require.NoError(b, err)
	var who plan.Person
	for _, p := range people {
		if p.Login == "marta" {
			who = p
		}
	}
	id, err := a.KeepFile(ctx, who, "plan."+ending, data)
	require.NoError(b, err)
	require.NoError(b, a.ReadFile(ctx, id, server.ReadSheet))
	_, err = a.PreviewFile(ctx, who, id, appsitemap.ImportChoice{Mode: sheet.Update})
	require.NoError(b, err)
	_, err = a.AcceptFile(ctx, who, id)
	require.NoError(b, err)
}

// DotPNG is a picture of one dot, in base 64.
const DotPNG = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="

// LargeSite imports 10,000 entries in 8 levels.
func LargeSite(t testing.TB, c *Client) {
	var csv strings.Builder
	csv.WriteString("Level;Title;Owner;Topics\n")
	for i := range 10_000 {
		fmt.Fprintf(&csv, "%d;Eintrag %d;%s;beds\n", []int{1, 2, 3, 4, 5, 6, 7, 8, 8, 7, 4, 5, 3, 4, 5, 2, 3, 4, 5, 5}[i%20], i, []string{"Gwen Hale", "Ines Barrow", ""}[i%3])
	}
	at := c.Upload("large.csv", csv.String())
	c.Until(at, "How to import it")
	status, _ := c.Form(at+"/accept", nil)
	require.Equal(t, 303, status)
	c.Until(at, "10000 added")
}

// Middle gives the median, in milliseconds.
func Middle(d []time.Duration) float64 {
	slices.Sort(d)
	return float64(d[len(d)/2].Microseconds()) / 1000
}

// PublishOnly publishes the planned changes of some aspects and takes the
// edition up.
func PublishOnly(t testing.TB, site *Site, why string, goes func(aspect string) bool) {
	who := PersonOf(t, site, "marta")
	n, err := site.App.LookAhead(t.Context(), who, editions.Select{})
	require.NoError(t, err)
	sel := editions.Select{Chosen: true}
	for _, c := range n.All {
		if !goes(string(c.Aspect)) {
			sel.LeaveOut = append(sel.LeaveOut, c.Key)
		}
	}
	_, err = site.App.Publish(t.Context(), who, editions.PublishAsk{Key: uuid.NewString(), Why: why, Changes: sel})
	require.NoError(t, err)
	require.NoError(t, site.Reader.Refresh(t.Context()))
}

// EntryID gives the entry that has or had an address.
func EntryID(t testing.TB, site *Site, address string) string {
	var id string
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT entry_id FROM addresses WHERE address = $1 ORDER BY from_edition DESC", address).Scan(&id))
	return id
}
