package change_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"candlepath/internal/core/change"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

var update = flag.Bool("update", false, "write what comes out into the cases")

// Each case of testdata holds live.csv and next.csv, a file "chosen" with
// changes to choose, one set a line ("id aspect, id aspect"), and "out" with
// the changes in words and, for each set, what is pulled in and the tree that
// goes out.
func TestCases(t *testing.T) {
	cases, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, cases)
	for _, name := range cases {
		t.Run(strings.TrimSuffix(filepath.Base(name), ".txtar"), func(t *testing.T) {
			archive, err := txtar.ParseFile(name)
			require.NoError(t, err)
			part := map[string]string{}
			for _, f := range archive.Files {
				part[f.Name] = string(f.Data)
			}
			out := played(t, sitemaptest.Parsed(t, strings.NewReader(part["live.csv"])), sitemaptest.Parsed(t, strings.NewReader(part["next.csv"])), part["chosen"])
			if !*update {
				require.Equal(t, part["out"], out)
				return
			}
			i := slices.IndexFunc(archive.Files, func(f txtar.File) bool { return f.Name == "out" })
			archive.Files[i].Data = []byte(out)
			require.NoError(t, os.WriteFile(name, txtar.Format(archive), 0o644))
		})
	}
}

func played(t *testing.T, live, next *sitemap.Tree, sets string) string {
	var b strings.Builder
	all := change.Diff(live, next)
	for _, c := range all {
		fmt.Fprintf(&b, "%s %s: %s\n", c.ID, c.Aspect, change.Words(c, live, next))
	}
	for line := range strings.Lines(sets) {
		chosen := change.Set{}
		for one := range strings.SplitSeq(strings.TrimSpace(line), ", ") {
			id, aspect, ok := strings.Cut(one, " ")
			require.True(t, ok, line)
			chosen[change.Key{ID: id, Aspect: change.Aspect(aspect)}] = true
		}
		closed, pulled, _ := change.Closure(live, next, all, chosen)
		fmt.Fprintf(&b, "\nchosen: %s", line)
		for _, p := range pulled {
			fmt.Fprintf(&b, "+ %s %s, because %s\n", p.ID, p.Aspect, p.Why)
		}
		tree, err := change.Apply(live, next, closed)
		require.NoError(t, err)
		for i := range tree.Len() {
			fmt.Fprintf(&b, "  %s%s %s\n", strings.Repeat("  ", tree.Level(i)), tree.Ref(i).ID, tree.Claim(i))
		}
	}
	return b.String()
}
