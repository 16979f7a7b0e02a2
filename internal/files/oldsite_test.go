package files_test

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"candlepath/internal/files"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
)

// packed makes an archive of names and texts.
func packed(t testing.TB, in map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range in {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// dot is a picture of one dot.
var dot = func() string {
	b, err := base64.StdEncoding.DecodeString("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==")
	if err != nil {
		panic(err)
	}
	return string(b)
}()

var oldGardens = map[string]string{
	"gardens/index.html": `<!DOCTYPE html><title>Home | Gardens</title><body><nav><a href="grounds/mowers.html">Mowers</a></nav>
		<main><h1>The gardens</h1><p>See <a href="grounds/">the grounds</a>.</p></main></body>`,
	"gardens/grounds/index.html": `<title>Grounds | Gardens</title><body><div id="content"><h1>Grounds</h1>
		<ul><li><a href="zinnias.html#sow">Zinnias</a></li><li><a href="./mowers.html?x=1">Mowers</a></li></ul></div></body>`,
	"gardens/grounds/mowers.html": `<title>Mowers | Gardens</title><body>
		<script>alert(1)</script><div role="main"><h1>Mowers<a class="headerlink" href="#m">¶</a></h1>
		<h1 id="oil">Oil &amp; fuel</h1><p onclick="x()">Use <b>only</b> the <em>green</em> can, see <a href="javascript:alert(1)">this</a>, <a href="#oil">oil</a>,
		<a href="zinnias.html#sow">zinnias</a>, <a href="gone.html">gone</a> and <a href="https://weather.quillmere.example/now">weather</a>.</p>
		<div class="admonition warning"><p class="admonition-title">Warning</p><p>Hot &lt;engine&gt;.</p></div>
		<form><input name="q"><p>Search</p></form><img src="../img/dot.png" alt="A dot"><img src="../img/dot.png?2" alt=""><img src="../../../etc/passwd" alt="secret">
		<table><tr><th>Day</th><th>Who</th></tr><tr><td>Mon</td><td>Gwen | Tessa</td></tr></table>
		<pre><code>start --choke
  wait</code></pre></div></body>`,
	"gardens/grounds/zinnias.html": "<meta charset=\"windows-1252\"><title>Zinnias | Gardens</title><body><main><h1>Zinnias \x96 f\xfcr alle</h1><h2 id=sow>When to sow</h2><p>May\x85</p></main>",
	"gardens/img/dot.png":          dot,
	"gardens/img/not.png":          "<script>alert(1)</script>",
}

func TestOldSite(t *testing.T) {
	s, err := files.ReadSitemap("old.zip", bytes.NewReader(packed(t, oldGardens)), files.Options{})
	require.NoError(t, err)
	var out strings.Builder
	for i := range s.Tree.Len() {
		e := s.Tree.Ref(i)
		fmt.Fprintf(&out, "%d %s %s %s\n", s.Tree.Level(i), e.Title, s.Tree.Address(i), e.Source)
	}
	require.Equal(t, `0 The gardens / gardens/index.html
1 Grounds /grounds gardens/grounds/index.html
2 Zinnias – für alle /grounds/zinnias.html gardens/grounds/zinnias.html
2 Mowers /grounds/mowers.html gardens/grounds/mowers.html
`, out.String())

	t.Log("a folder reads the same")
	dir := fstest.MapFS{}
	for name, text := range oldGardens {
		dir[name] = &fstest.MapFile{Data: []byte(text)}
	}
	site, err := files.OpenFolder(dir)
	require.NoError(t, err)
	again, err := files.ReadOldSite(site, files.Options{})
	require.NoError(t, err)
	require.Equal(t, sheet.Rows(s.Tree), sheet.Rows(again.Tree))
}

func TestOldBody(t *testing.T) {
	site, err := files.OpenZip(packed(t, oldGardens))
	require.NoError(t, err)
	var pictures []content.PictureFile
	body, err := site.Body("gardens/grounds/mowers.html", "Mowers", content.OldLinks{
		Page: func(file string) (string, bool) {
			return strings.TrimSuffix(file[strings.LastIndexByte(file, '/')+1:], ".html"), true
		},
		Picture: func(p content.PictureFile) (string, error) {
			pictures = append(pictures, p)
			return "/files/" + strings.Repeat("0", 32) + "/" + p.Name, nil
		},
	})
	require.NoError(t, err)
	require.Equal(t, "Use only the green can, see this, oil, zinnias, gone and weather.", body.Summary)
	require.Len(t, body.Blocks, 3)
	require.Equal(t, content.Block{Type: content.Text, Text: "## Oil & fuel\n\nUse **only** the *green* can, see this, [oil](#oil-fuel), [zinnias](page:zinnias), gone and [weather](https://weather.quillmere.example/now)."}, body.Blocks[0])
	require.Equal(t, content.Note, body.Blocks[1].Type)
	require.Equal(t, "warning", body.Blocks[1].Get("tone"))
	require.Contains(t, body.Blocks[1].Text, "Hot &lt;engine&gt;")
	text := body.Blocks[2].Text
	require.Contains(t, text, "![A dot](/files/00000000000000000000000000000000/dot.png)![](/files/")
	require.Contains(t, text, "secret", "where a picture is not there, its words stay")
	require.Contains(t, text, "| Mon | Gwen \\| Tessa |")
	require.Contains(t, text, "```\nstart --choke\n  wait\n```")
	require.NotContains(t, text+body.Blocks[0].Text, "alert")
	require.NotContains(t, text, "Search")
	require.Len(t, pictures, 2)
	require.Equal(t, "image/png", pictures[0].Type)
	require.Contains(t, body.Source, "<script>alert(1)</script>", "the source is kept as it was")
	require.Equal(t, []string{"a link to gone.html, which is not here", "the picture passwd"}, body.Lost)
}

// Archives that are out to harm, and those that are none, are refused in words,
// quickly and before anything is unpacked.
func TestArchivesThatAreRefused(t *testing.T) {
	many := func(n int) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for i := range n {
			_, err := z.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("%d.html", i)})
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"outside":          {packed(t, map[string]string{"a.html": "x", "../../etc/cron.d/x.html": "x"}), "leads outside its folder"},
		"from the root":    {packed(t, map[string]string{"/etc/x.html": "x"}), "leads outside its folder"},
		"a drive":          {packed(t, map[string]string{"C:/x.html": "x"}), "leads outside its folder"},
		"backslashes":      {packed(t, map[string]string{`..\x.html`: "x"}), "leads outside its folder"},
		"very many":        {many(70_000), "70000 files"},
		"a few too many":   {many(50_001), "50001 files"},
		"no page":          {packed(t, map[string]string{"a.css": "x"}), "no HTML page"},
		"not a zip":        {[]byte("hello"), "no .zip archive"},
		"cut off":          {packed(t, oldGardens)[:500], "no .zip archive"},
		"nothing":          {nil, "no .zip archive"},
		"only hidden ones": {packed(t, map[string]string{"__MACOSX/._a.html": "x", ".hidden.html": "x"}), "no HTML page"},
	} {
		began := time.Now()
		_, err := files.ReadSitemap("x.zip", bytes.NewReader(c.data), files.Options{})
		refused := (*sheet.Refused)(nil)
		require.ErrorAs(t, err, &refused, name)
		require.ErrorContains(t, err, c.says, name)
		require.Less(t, time.Since(began), 10*time.Second, name)
	}
}

// A small archive that unpacks to very much is refused by what it says, and
// where it lies, a page is left out.
func TestArchivesThatGrow(t *testing.T) {
	big := strings.Repeat("<p>x</p>", 2<<20)
	data := packed(t, map[string]string{"index.html": "<h1>Here</h1>", "big.html": big})
	require.Less(t, len(data), 100_000)
	s, err := files.ReadSitemap("x.zip", bytes.NewReader(data), files.Options{})
	require.NoError(t, err)
	require.Equal(t, 1, s.Tree.Len())
	require.Contains(t, s.Findings[0].Message, "holds more than 8 MB")

	one, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	at := slices.IndexFunc(one.File, func(f *zip.File) bool { return f.Name == "big.html" })
	raw, err := one.File[at].OpenRaw()
	require.NoError(t, err)
	small, err := io.ReadAll(raw)
	require.NoError(t, err)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := range 40 {
		head := one.File[at].FileHeader
		head.Name = fmt.Sprintf("%d.html", i)
		w, err := z.CreateRaw(&head)
		require.NoError(t, err)
		_, err = w.Write(small)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	_, err = files.ReadSitemap("x.zip", &b, files.Options{})
	require.ErrorContains(t, err, "more than 512 MB")
}

// Whatever a page holds, reading it ends, and what comes out holds no HTML that
// a browser would run.
func FuzzOldBody(f *testing.F) {
	for _, text := range oldGardens {
		f.Add(text)
	}
	f.Add("<table><tr><td rowspan=9999 colspan=9999>x")
	f.Add(strings.Repeat("<div>", 3000))
	f.Fuzz(func(t *testing.T, text string) {
		if len(text) > 20_000 {
			return
		}
		done := make(chan bool, 1)
		go func() {
			defer close(done)
			site, err := files.OpenFolder(fstest.MapFS{"a.html": {Data: []byte(text)}})
			if err != nil {
				return
			}
			if _, err := files.ReadOldSite(site, files.Options{}); err != nil {
				return
			}
			_, _ = site.Body("a.html", "A", content.OldLinks{
				Page:    func(string) (string, bool) { return "", false },
				Picture: func(content.PictureFile) (string, error) { return "", nil },
			})
		}()
		select {
		case <-done:
		case <-time.After(5 * time.Second):
			t.Fatalf("reading %q does not end", text)
		}
	})
}
