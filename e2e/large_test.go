package e2e_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"mime/multipart"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
)

// upload brings a file in, as its form does.
func (c *client) upload(name, text string) string {
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	w, err := m.CreateFormFile("file", name)
	require.NoError(c.t, err)
	_, err = w.Write([]byte(text))
	require.NoError(c.t, err)
	require.NoError(c.t, m.Close())
	r, err := http.NewRequest("POST", c.base+"/studio/sitemap/import", &b)
	require.NoError(c.t, err)
	r.Header.Set("Content-Type", m.FormDataContentType())
	resp, err := c.Do(r)
	require.NoError(c.t, err)
	defer resp.Body.Close()
	require.Equal(c.t, 303, resp.StatusCode)
	return resp.Header.Get("Location")
}

func (c *client) until(path, says string) string {
	var body []byte
	require.Eventually(c.t, func() bool {
		_, body = c.get(path)
		return strings.Contains(string(body), says)
	}, 60*time.Second, 100*time.Millisecond, says)
	return string(body)
}

// Ten thousand rows go in, are edited, and come out again.
func TestTenThousandEntries(t *testing.T) {
	site := kit.Site(t, true)
	c := signIn(t, site, "marta")
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
	at := c.upload("large.csv", csv.String())
	require.Contains(t, c.until(at, "How to import it"), "10,000")
	status, _ := c.form(at+"/accept", nil)
	require.Equal(t, 303, status)
	c.until(at, "10000 added")
	_, body := c.get("/studio/sitemap/rows")
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
		status, _ := c.act(map[string]any{"key": uuid.NewString(), "do": "retitle", "id": id, "value": fmt.Sprintf("Entry renamed %d", i)})
		require.Equal(t, 200, status)
	}
	t.Log("an act takes", time.Since(began)/10)
	began = time.Now()
	status, _ = c.get("/studio/sitemap")
	require.Equal(t, 200, status)
	t.Log("the outline opens in", time.Since(began))
	_, out := c.get("/studio/sitemap/export?format=csv&of=next")
	require.Contains(t, string(out), "Entry renamed 9")
	at = c.upload("again.csv", string(out))
	c.until(at+"?way=update", "This import changes nothing")
}

func TestRefusedFilesChangeNothing(t *testing.T) {
	site := kit.Site(t, true)
	c := signIn(t, site, "ines")
	for text, says := range map[string]string{
		"id,parent,title\na,b,A\nb,a,B\n": "line 2", "nothing\n": "no usable header", "PK\x03\x04": "not a .csv",
	} {
		at := c.upload("bad.csv", text)
		require.Contains(t, c.until(at, "Nothing was changed"), says)
	}
}
