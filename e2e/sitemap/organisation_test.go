package sitemap_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// A whole organisation that nobody has seen goes from a spreadsheet to readers:
// 10,000 entries in 8 levels, ancestors repeated in each row, semicolons, titles
// in Cyrillic, the same title in many places, owners of another house.
func TestUnseenOrganisation(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	_, before := c.Get("/studio/edition")
	csv, want := organisation(10_000)
	at := c.Upload("organisation.csv", csv)
	preview := c.Until(at, "How to import it")
	require.Contains(t, preview, "10,000")
	_, notes := c.Get(at + "?show=note")
	require.Contains(t, string(notes), "is not among the people here; the name stays as text")
	began := time.Now()
	status, _ := c.Form(at+"/accept", nil)
	require.Equal(t, 303, status)
	c.Until(at, "10000 added")
	t.Log("imported after", time.Since(began))

	var rows struct {
		Rows []struct{ ID, T, A, S string }
	}
	_, body := c.Get("/studio/sitemap/rows")
	require.NoError(t, json.Unmarshal(body, &rows))
	var fresh []string
	for _, r := range rows.Rows {
		if r.S == "planned" && !strings.Contains(string(before), r.ID) {
			fresh = append(fresh, r.ID)
		}
	}
	require.Len(t, fresh, 10_000)
	began = time.Now()
	status, a := c.Act(map[string]any{"do": "fact", "field": "template", "value": "Section", "ids": fresh})
	require.Equal(t, 200, status, a.Error)
	t.Log("all got a template after", time.Since(began))

	began = time.Now()
	_, edition := c.Get("/studio/edition")
	require.Less(t, len(edition), 1_000_000, "a plan of this size is told in branches")
	require.Contains(t, string(edition), "new entries below are included or left out")
	testkit.PublishChosen(t, c, func(key string) bool { return !strings.Contains(string(before), key) })
	t.Log("published after", time.Since(began))
	var live int
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT count(*) FROM addresses WHERE to_edition IS NULL AND from_edition = 12").Scan(&live))
	require.Equal(t, 10_000, live)
	_, body = c.Get("/studio/sitemap/rows")
	require.NoError(t, json.Unmarshal(body, &rows))
	seen := 0
	for _, r := range rows.Rows {
		if want[r.T] && r.S == "live" {
			seen++
			if seen%500 == 0 {
				status, page := c.Get(r.A)
				require.Equal(t, 200, status, r.A)
				require.Contains(t, string(page), "<h1>"+r.T+"</h1>")
			}
		}
	}
	require.Greater(t, seen, 9_000)
	_, out := c.Get("/studio/sitemap/export?format=csv&of=next")
	at = c.Upload("again.csv", string(out))
	c.Until(at+"?way=update", "This import changes nothing")
}

// organisation writes n entries, and gives the titles that it used.
func organisation(n int) (csv string, titles map[string]bool) {
	r := rand.New(rand.NewPCG(8, 8))
	words := []string{"Сад", "Оранжерея", "Полив", "Контакты", "План", "Семена", "Склад", "Журнал", "Beds", "Öffnungszeiten"}
	var b strings.Builder
	b.WriteString("Level 1;Level 2;Level 3;Level 4;Level 5;Level 6;Level 7;Level 8;Owner\r\n")
	titles = map[string]bool{}
	path := []string{}
	for i := range n {
		depth := min(len(path)+1, 8)
		if i%7 == 0 || depth == 8 && r.IntN(3) > 0 {
			depth = 1 + r.IntN(min(len(path)+1, 8))
		}
		title := words[r.IntN(len(words))]
		if r.IntN(5) > 0 {
			title = fmt.Sprintf("%s %d", title, i)
		} else if i > 0 {
			title = fmt.Sprintf("%s, %s %d", title, words[r.IntN(len(words))], i%40) // again and again
		}
		path = append(path[:depth-1:depth-1], title)
		titles[title] = true
		cells := append(append([]string{}, path...), make([]string, 8-depth)...)
		fmt.Fprintf(&b, "%s;%s\r\n", strings.Join(cells, ";"), []string{"", "Пётр", "Gwen Hale"}[i%3])
	}
	return b.String(), titles
}
