package files_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"strings"
	"testing"

	"candlepath/internal/files"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

// odd are texts that formats like to lose.
var odd = []string{"", "plain", " a, b; c\t", "two\nlines", `"quoted"`, "<b> & 'c'", "=1+2", "'@x", "-", "Überwinterung", "Привет", "10:00", "000123", "no"}

func drawn(t *rapid.T) *sitemap.Tree {
	var author sitemaptest.Author
	tree := author.Small(t, rapid.IntRange(0, 8).Draw(t, "entries"))
	for range rapid.IntRange(0, 8).Draw(t, "edits") {
		tree = author.Edit(t, tree)
	}
	list := tree.Entries()
	text := func() string { return strings.TrimSpace(rapid.SampledFrom(odd).Draw(t, "text")) }
	for i := range list {
		e := &list[i]
		if e.Kind == sitemap.Reference && tree.Find(e.Target) == sitemap.None || e.Kind == sitemap.Group && e.Slug != "" {
			e.Kind, e.Target = sitemap.Page, ""
		}
		e.Short, e.Owner, e.Notes, e.Unlisted = text(), text(), text(), rapid.Bool().Draw(t, "unlisted")
		if e.Title = text(); e.Title == "" {
			e.Title = "Title"
		}
		e.Title = sitemap.CleanTitle(e.Title)
		e.Withdrawn = false // a state of the site, not of its plan
		if e.Fixed == "/old" {
			e.Fixed = "" // below home this reads as a slug
		}
		if e.Kind.IsPage() && e.Fixed == "" && e.Slug == "" {
			e.Slug = e.ID
		}
	}
	out, err := sitemap.New(list)
	require.NoError(t, err)
	return out
}

// A group with an address of its own, from which that of its pages derives, keeps it.
func TestAGroupKeepsItsAddress(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "home", Title: "Home", Kind: sitemap.Page, Fixed: "/"},
		{ID: "g", Title: "Archive", Kind: sitemap.Group, Fixed: "/old/x"},
		{ID: "p", Parent: "g", Title: "Ponds", Kind: sitemap.Page, Slug: "ponds"},
	})
	require.NoError(t, err)
	for _, name := range []string{"a.csv", "a.json", "a.opml", "a.xlsx"} {
		var b bytes.Buffer
		require.NoError(t, files.WriteSitemap(name, &b, tree, ""))
		s, err := files.ReadSitemap(name, &b, files.Options{})
		require.NoError(t, err, name)
		require.Equal(t, "/old/x/ponds", s.Tree.Address(s.Tree.Find("p")), name)
	}
}

// Whatever is taken out comes in again as it was.
func TestFormatsLoseNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tree := drawn(t)
		names := []string{"a.csv", "a.json", "a.opml"}
		if rapid.IntRange(0, 9).Draw(t, "slow") == 0 {
			names = append(names, "a.xlsx")
		}
		for _, name := range names {
			var b bytes.Buffer
			require.NoError(t, files.WriteSitemap(name, &b, tree, ""))
			s, err := files.ReadSitemap(name, &b, files.Options{})
			if tree.Len() == 0 {
				continue
			}
			require.NoError(t, err, name)
			require.Equal(t, sheet.Rows(tree), sheet.Rows(s.Tree), name)
		}
	})
}

// A spreadsheet program that opens a .csv file computes nothing of ours.
func TestFormulasAreWrittenAsText(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, files.WriteCSV(&b, []string{"a"}, [][]string{
		{"=HYPERLINK(\"x\")"}, {"+1"}, {"-1"}, {"@x"}, {"'=x"}, {"'"}, {"a=b"},
	}))
	require.Equal(t, "a\n\"'=HYPERLINK(\"\"x\"\")\"\n'+1\n'-1\n'@x\n''=x\n'\na=b\n", b.String())
}

func read(t *testing.T, name, text string, o files.Options) (string, error) {
	s, err := files.ReadSitemap(name, strings.NewReader(text), o)
	if err != nil {
		return "", err
	}
	var out []string
	for _, r := range columns(s.Tree, []string{"level", "title", "kind", "address"})[1:] {
		out = append(out, strings.Join(r, " "))
	}
	return strings.Join(out, "\n"), nil
}

func TestNestedFormats(t *testing.T) {
	want := "0 Home page /\n1 Visitors page /visitors\n2 Opening hours page /visitors/opening-hours\n1 Weather outside "
	for name, text := range map[string]string{
		"nested.json": `[{"title": "Home", "address": "/", "children": [{"Title": "Visitors", "children": [{"title": "Opening hours"}]}, {"title": "Weather", "kind": "outside", "target": "https://weather.quillmere.example"}]}]`,
		"flat.json": `[{"id": "h", "title": "Home", "address": "/"}, {"id": "v", "parent": "h", "title": "Visitors"}, {"id": "o", "parent": "v", "title": "Opening hours", "topics": ["a", "b"]},
			{"id": "w", "parent": null, "title": "Weather", "kind": "outside", "target": "https://weather.quillmere.example"}]`,
		"beside.json": `[{"title": "Home", "address": "/"}, {"title": "Visitors", "children": [{"title": "Opening hours"}]}, {"title": "Weather", "kind": "outside", "target": "https://weather.quillmere.example"}]`,
		"a.opml": `<opml version="1.0"><head><title>x</title></head><body><outline text="Home" address="/"><outline text="Visitors"><outline title="Opening hours" _note="n"/></outline>
			<outline text="Weather" type="link" url="https://weather.quillmere.example"/></outline></body></opml>`,
	} {
		got, err := read(t, name, text, files.Options{})
		require.NoError(t, err, name)
		require.Equal(t, want, got, name)
	}
	got, err := read(t, "list.json", `[{"title": "Visitors"}, {"title": "Grounds", "listed": false}]`, files.Options{})
	require.NoError(t, err)
	require.Equal(t, "1 Visitors page /visitors\n1 Grounds page /grounds", got)
}

func TestNestedFormatsThatAreRefused(t *testing.T) {
	for name, text := range map[string]string{
		"object.json": `{"title": "Home"}`, "cut.json": "[{\"title\": \"Home\"},\n{", "children.json": `[{"title": "a", "children": "b"}]`, "child.json": `[{"title": "a", "children": [1]}]`,
		"empty.json": "", "none.json": "[]", "jump.json": `[{"level": 1, "title": "a"}, {"level": 3, "title": "b"}]`,
		"other.opml": "<rss/>", "cut.opml": "<opml><body><outline text='a'>", "empty.opml": "", "bodyless.opml": "<opml/>",
	} {
		_, err := read(t, name, text, files.Options{})
		refused := (*sheet.Refused)(nil)
		require.ErrorAs(t, err, &refused, name)
		require.NotEmpty(t, refused.Advice, name)
	}
	deep := strings.Repeat(`[{"title":"a","children":`, 9000) + "[]" + strings.Repeat("}]", 9000)
	_, err := read(t, "deep.json", deep, files.Options{})
	require.True(t, err == nil || strings.Contains(err.Error(), ";"), "an answer, whatever it is")
}

func TestAnIndexOfSitemaps(t *testing.T) {
	set := func(paths ...string) string {
		s := "<urlset>"
		for _, p := range paths {
			s += "<url><loc>https://inside.quillmere.example" + p + "</loc></url>"
		}
		return s + "</urlset>"
	}
	beside := map[string]string{"a.xml": set("/", "/visitors"), "b.xml": set("/visitors/opening-hours"), "c.xml": "<sitemapindex/>"}
	index := func(names ...string) string {
		s := "<sitemapindex>"
		for _, n := range names {
			s += "<sitemap><loc>https://inside.quillmere.example/maps/" + n + "</loc></sitemap>"
		}
		return s + "</sitemapindex>"
	}
	o := files.Options{Beside: func(name string) (io.ReadCloser, error) {
		text, ok := beside[name]
		if !ok {
			return nil, os.ErrNotExist
		}
		return io.NopCloser(strings.NewReader(text)), nil
	}}
	got, err := read(t, "index.xml", index("a.xml", "b.xml"), o)
	require.NoError(t, err)
	require.Equal(t, "0 Home page /\n1 Visitors page /visitors\n2 Opening hours page /visitors/opening-hours", got)
	for _, bad := range []string{index("a.xml", "missing.xml"), index("c.xml")} {
		_, err = read(t, "index.xml", bad, o)
		require.ErrorContains(t, err, ".xml")
	}
	t.Log("all of it in one archive, for whoever has only a browser")
	zipped := func(contents map[string]string) string {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, text := range contents {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = io.WriteString(w, text)
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.String()
	}
	for _, contents := range []map[string]string{
		{"maps/index.xml": index("a.xml", "b.xml"), "maps/a.xml": beside["a.xml"], "maps/b.xml": beside["b.xml"]},
		{"a.xml": beside["a.xml"], "b.xml": beside["b.xml"]},
	} {
		got, err = read(t, "maps.zip", zipped(contents), files.Options{})
		require.NoError(t, err)
		require.Equal(t, "0 Home page /\n1 Visitors page /visitors\n2 Opening hours page /visitors/opening-hours", got)
	}
	for _, bad := range []map[string]string{{"index.xml": index("a.xml")}, {"a.xml": "<html>"}, {"a.xml": "<other/>"}, {"a.txt": "x"}} {
		_, err = read(t, "maps.zip", zipped(bad), files.Options{})
		require.ErrorAs(t, err, new(*sheet.Refused))
	}
	_, err = read(t, "index.xml", index("a.xml"), files.Options{})
	require.ErrorContains(t, err, "import the files that it names")
}

func TestReadVisits(t *testing.T) {
	got, err := files.ReadVisits("v.csv", strings.NewReader("\xef\xbb\xbfURL;Views\r\nhttps://inside.quillmere.example/grounds;1,204\r\n/grounds;6\r\n;9\r\n/ponds;0\r\n"))
	require.NoError(t, err)
	require.Equal(t, map[string]int{"/grounds": 1210, "/ponds": 0}, got)
	for _, bad := range []string{"", "a,b\n", "address,visits\n/x,many\n", "address,visits\n/x,-1\n", "address,visits\n/x,99999999999\n"} {
		_, err := files.ReadVisits("v.csv", strings.NewReader(bad))
		require.ErrorAs(t, err, new(*sheet.Refused), bad)
	}
}
