package files_test

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/match"
	"candlepath/internal/files"
)

func gzipped(t *testing.T, text string) string {
	t.Helper()
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := io.WriteString(z, text)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.String()
}

// What lists of older sites hold, in each form in which they come: "host address visits title".
func TestListsOfOlderSites(t *testing.T) {
	const urls = `<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>http://Staff.Quillmere.example/Tea/</loc></url><url><loc>http://staff.quillmere.example/a.asp?b=2&amp;a=1#x</loc></url></urlset>`
	const index = `<sitemapindex xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><sitemap><loc>http://staff.quillmere.example/maps/one.xml.gz</loc></sitemap></sitemapindex>`
	const log = `10.0.0.1 - - [10/Oct/2026:13:55:36 +0000] "GET /tea HTTP/1.1" 200 2326 "-" "Mozilla/5.0"
10.0.0.2 - - [10/Oct/2026:13:56:36 +0000] "GET /tea/ HTTP/1.1" 200 2326 "-" "Mozilla/5.0"
10.0.0.2 - - [10/Oct/2026:13:56:37 +0000] "GET /tea.css HTTP/1.1" 200 26 "-" "Mozilla/5.0"
`
	for name, c := range map[string]struct{ file, text, want string }{
		"a table":              {"old.csv", "Address;Title;Visits\n/Tea/;The  tea\troom;1,204\n/tea;;6\n;;\nshop.html;Shop;\n", " /tea 1210 The tea room| /shop.html 0 Shop"},
		"from a spreadsheet":   {"old.csv", "\ufeffURL,Hits,Host\r\nhttps://Staff.Quillmere.example/a?z=1&b=2,5,\r\n/x,2,wiki.quillmere.example.\r\n", "staff.quillmere.example /a?b=2&z=1 5 |wiki.quillmere.example /x 2 "},
		"addresses alone":      {"old.txt", "address\n/a\n/b\n", " /a 0 | /b 0 "},
		"refused lines":        {"old.csv", "address\n/ok\njavascript:alert(1)\n/%00\n", " /ok 0 "},
		"XML":                  {"sitemap.xml", urls, "staff.quillmere.example /tea 0 |staff.quillmere.example /a.asp?a=1&b=2 0 "},
		"packed XML":           {"sitemap.xml.gz", gzipped(t, urls), "staff.quillmere.example /tea 0 |staff.quillmere.example /a.asp?a=1&b=2 0 "},
		"an index in a .zip":   {"maps.zip", string(packed(t, map[string]string{"index.xml": index, "one.xml.gz": gzipped(t, urls)})), "staff.quillmere.example /tea 0 |staff.quillmere.example /a.asp?a=1&b=2 0 "},
		"a log":                {"access.log", log, " /tea 2 "},
		"a packed log":         {"access.log.1.gz", gzipped(t, log), " /tea 2 "},
		"pages in a .zip":      {"site.zip", string(packed(t, map[string]string{"old/index.html": "<title>Staff web</title><h1>Welcome</h1><p>Hello.", "old/Tea Room.html": "<title>Tea</title><p>Soup & bread"})), " /tea room.html 0 Tea| / 0 Welcome"},
		"a name that is wrong": {"list.zip", "address\n/a\n", " /a 0 "},
	} {
		t.Run(name, func(t *testing.T) {
			l, err := files.ReadOlder(c.file, strings.NewReader(c.text), files.Options{})
			require.NoError(t, err)
			var got []string
			for _, line := range l.Lines {
				got = append(got, fmt.Sprint(line.Host, " ", line.Address, " ", line.Visits, " ", line.Title))
			}
			require.Equal(t, c.want, strings.Join(got, "|"))
			if name == "refused lines" {
				require.Len(t, l.Refused, 2)
				require.Equal(t, 3, l.Refused[0].Line)
			}
			if name == "pages in a .zip" {
				require.Equal(t, "Soup & bread", l.Lines[0].Text)
			}
		})
	}
}

func TestListsThatAreRefused(t *testing.T) {
	for name, c := range map[string]struct{ file, text, says string }{
		"no header":     {"old.csv", "/a,1\n/b,2\n", "no usable header"},
		"nothing":       {"old.csv", "", "empty"},
		"broken gzip":   {"old.gz", "\x1f\x8bnot", "gzip"},
		"a lonely list": {"index.xml", `<sitemapindex><sitemap><loc>http://a/b.xml</loc></sitemap></sitemapindex>`, "index of sitemaps"},
		"other XML":     {"feed.xml", `<rss></rss>`, "sitemaps.org"},
		"a broken .zip": {"old.zip", "PK\x03\x04zzz", "no .zip"},
		"no log":        {"access.log", "hello\nworld\n", "log"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := files.ReadOlder(c.file, strings.NewReader(c.text), files.Options{})
			require.ErrorContains(t, err, c.says)
		})
	}
}

// A bad number of visits leaves out its line alone.
func TestLinesWithABadNumberAreLeftOut(t *testing.T) {
	l, err := files.ReadOlder("old.csv", strings.NewReader("address,visits\n/a,3\n/b,many\n/c,-4\n/d,5\n"), files.Options{})
	require.NoError(t, err)
	require.Len(t, l.Lines, 2)
	require.Equal(t, []match.RefusedLine{{Line: 3, Text: "/b", Of: `"many" is not a number of visits`}, {Line: 4, Text: "/c", Of: `"-4" is not a number of visits`}}, l.Refused)
}

// A folder is read like its .zip.
func TestFolderOfAnOlderSite(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "tea"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "tea", "index.htm"), []byte("<h1>Tea</h1>"), 0o600))
	root, err := os.OpenRoot(dir)
	require.NoError(t, err)
	defer root.Close()
	site, err := files.OpenFolder(root.FS())
	require.NoError(t, err)
	l, err := files.OlderPages(site)
	require.NoError(t, err)
	require.Equal(t, []match.Line{{Old: match.Old{Address: "/", Title: "Tea"}, Written: []string{"/", "/index.htm"}}}, l.Lines)
}
