package sitemap_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Ten thousand rows go in, are edited, and come out again.
func TestTenThousandEntries(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	var csv strings.Builder
	csv.WriteString("Level;Title;Comment\n")
	for i := range 10_000 {
		level := 3
		switch {
		case i%100 == 0:
			level = 1
		case i%10 == 1:
			level = 2
		}
		fmt.Fprintf(&csv, "%d;Entry %d;row %d\n", level, i, i)
	}
	at := c.Upload("large.csv", csv.String())
	require.Contains(t, c.Until(at, "How to import it"), "10,000")
	status, _ := c.Form(at+"/accept", nil)
	require.Equal(t, 303, status)
	c.Until(at, "10000 added")
	_, body := c.Get("/studio/sitemap/rows")
	var rows struct {
		Version int64
		Rows    []struct{ ID, T string }
	}
	require.NoError(t, json.Unmarshal(body, &rows))
	require.Greater(t, len(rows.Rows), 10_000)
	id := ""
	for _, r := range rows.Rows {
		if r.T == "Entry 4242" {
			id = r.ID
		}
	}
	began := time.Now()
	for i := range 10 {
		status, _ := c.Act(map[string]any{"key": uuid.NewString(), "do": "retitle", "id": id, "value": fmt.Sprintf("Entry renamed %d", i)})
		require.Equal(t, 200, status)
	}
	t.Log("an act takes", time.Since(began)/10)
	began = time.Now()
	status, _ = c.Get("/studio/sitemap")
	require.Equal(t, 200, status)
	t.Log("the outline opens in", time.Since(began))
	_, out := c.Get("/studio/sitemap/export?format=csv&of=next")
	require.Contains(t, string(out), "Entry renamed 9")
	at = c.Upload("again.csv", string(out))
	c.Until(at+"?way=update", "This import changes nothing")
}

func TestRefusedFilesChangeNothing(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	for text, says := range map[string]string{
		"id,parent,title\na,b,A\nb,a,B\n": "line 2", "nothing\n": "no usable header", "PK\x03\x04": "not a .csv",
	} {
		at := c.Upload("bad.csv", text)
		require.Contains(t, c.Until(at, "Nothing was changed"), says)
	}
}
