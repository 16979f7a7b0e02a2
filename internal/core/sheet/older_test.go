package sheet_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"
)

var updateOlder = flag.Bool("update-older", false, "write what comes out into the cases of older sites")

// Each case holds "pages", one a line (file | title | heading | links), "out"
// with the tree that is read, and "follow" with the addresses that follow it.
func TestReadPages(t *testing.T) {
	cases, err := filepath.Glob("testdata/older/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, cases)
	for _, name := range cases {
		t.Run(strings.TrimSuffix(filepath.Base(name), ".txtar"), func(t *testing.T) {
			archive, err := txtar.ParseFile(name)
			require.NoError(t, err)
			s, err := sheet.ReadPages(oldPages(t, string(archive.Files[0].Data)))
			require.NoError(t, err)
			follow, err := s.FollowTree()
			require.NoError(t, err)
			out := []string{drawn(s) + found(s), drawn(follow)}
			for i, text := range out {
				if *updateOlder {
					archive.Files[1+i].Data = []byte(text)
				} else {
					require.Equal(t, string(archive.Files[1+i].Data), text)
				}
			}
			if *updateOlder {
				require.NoError(t, os.WriteFile(name, txtar.Format(archive), 0o644))
			}
		})
	}
}

func oldPages(t *testing.T, text string) (pages []sheet.OldPage) {
	for line := range strings.Lines(text) {
		parts := strings.Split(strings.TrimSpace(line), "|")
		require.Len(t, parts, 4, line)
		for i := range parts {
			parts[i] = strings.TrimSpace(parts[i])
		}
		pages = append(pages, sheet.OldPage{File: parts[0], Title: parts[1], Heading: parts[2], Links: strings.Split(parts[3], ", ")})
	}
	return pages
}

func drawn(s *sheet.Sheet) string {
	var b strings.Builder
	for i := range s.Tree.Len() {
		e := s.Tree.Ref(i)
		fmt.Fprintf(&b, "%s%s (%s) %s\n", strings.Repeat("  ", s.Tree.Level(i)), e.Title, e.Kind, s.Tree.Claim(i))
	}
	return b.String()
}

func found(s *sheet.Sheet) string {
	var b strings.Builder
	for _, f := range s.Findings {
		fmt.Fprintf(&b, "%s %s\n", f.Rule, f.From)
	}
	return b.String()
}

// Whatever the files are called and link to, every one of them becomes one
// entry, at the address it answered at.
func TestReadPagesKeepsEveryPage(t *testing.T) {
	names := []string{"index.html", "a.html", "b.htm", "c.html", "home.html", "Ünder.html"}
	folders := []string{"", "a/", "b/", "a/b/", "a/b/c/", "x/y/"}
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 25).Draw(t, "n")
		files := map[string]bool{}
		for range n {
			files[rapid.SampledFrom(folders).Draw(t, "folder")+rapid.SampledFrom(names).Draw(t, "name")] = true
		}
		var all []string
		for f := range files {
			all = append(all, f)
		}
		var pages []sheet.OldPage
		for f := range files {
			pages = append(pages, sheet.OldPage{File: f, Title: rapid.SampledFrom([]string{"", "T", "Same"}).Draw(t, "title"), Links: rapid.SliceOfN(rapid.SampledFrom(all), 0, 4).Draw(t, "links")})
		}
		s, err := sheet.ReadPages(pages)
		if err != nil {
			t.Fatal(err)
		}
		got := map[string]bool{}
		for i := range s.Tree.Len() {
			if e := s.Tree.Ref(i); e.Kind == sitemap.Carried {
				got[e.Source] = true
			} else if e.Kind != sitemap.Group || !s.Tree.HasChildren(i) {
				t.Fatalf("%v is not expected", e)
			}
		}
		if len(got) != len(files) {
			t.Fatalf("%d of %d files", len(got), len(files))
		}
		again, err := sheet.ReadPages(pages)
		if err != nil || drawn(again) != drawn(s) {
			t.Fatal("read again, it is another tree")
		}
	})
}
