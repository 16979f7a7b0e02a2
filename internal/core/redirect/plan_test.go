package redirect_test

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"candlepath/internal/core/redirect"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

func table(t testing.TB, path string) []map[string]string {
	t.Helper()
	f, err := os.Open(path)
	if os.IsNotExist(err) {
		return nil
	}
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	var out []map[string]string
	for _, r := range rows[1:] {
		m := map[string]string{}
		for i, h := range rows[0] {
			m[h] = r[i]
		}
		out = append(out, m)
	}
	return out
}

func tree(t testing.TB, path string) *sitemap.Tree {
	t.Helper()
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	return sitemaptest.Parsed(t, f)
}

func rows(t testing.TB, path string) []redirect.Row {
	var out []redirect.Row
	for _, m := range table(t, path) {
		code, _ := strconv.Atoi(m["code"])
		r := redirect.Row{From: m["from"], Code: code, Match: redirect.Match(m["match"]), Status: redirect.Status(m["status"])}
		if r.Match == "" {
			r.Match = redirect.Exact
		}
		if m["to"] != "" {
			to, err := redirect.ParseTo(m["to"], nil)
			require.NoError(t, err)
			r.To = to
		}
		out = append(out, r)
	}
	return out
}

// Each folder of testdata/plan holds live.csv, next.csv, perhaps redirects.csv
// and decisions.csv, and what must come out.
func TestPlan(t *testing.T) {
	dirs, err := filepath.Glob("testdata/plan/*")
	require.NoError(t, err)
	require.NotEmpty(t, dirs)
	for _, dir := range dirs {
		t.Run(filepath.Base(dir), func(t *testing.T) {
			in := redirect.Input{
				Live: tree(t, dir+"/live.csv"), Next: tree(t, dir+"/next.csv"),
				Table: rows(t, dir+"/redirects.csv"), Decisions: map[string]redirect.Decision{},
			}
			for _, d := range table(t, dir+"/decisions.csv") {
				code, _ := strconv.Atoi(d["code"])
				in.Decisions[d["id"]] = redirect.ParseDecision(d["to"], code, in.Next)
			}
			got, err := redirect.Plan(in)
			require.NoError(t, err)
			require.Equal(t, lines(table(t, dir+"/expected.csv")), planned(got, in.Next))
		})
	}
}

func lines(ms []map[string]string) string {
	var b strings.Builder
	for _, m := range ms {
		b.WriteString(strings.Join([]string{m["from"], m["to"], m["code"], m["match"], m["status"]}, ",") + "\n")
	}
	return b.String()
}

func planned(rows []redirect.Row, next *sitemap.Tree) string {
	var b strings.Builder
	for _, r := range rows {
		b.WriteString(strings.Join([]string{redirect.WrittenFrom(r.From), redirect.WrittenTo(r.To, next), strconv.Itoa(r.Code), string(r.Match), string(r.Status)}, ",") + "\n")
	}
	return b.String()
}
