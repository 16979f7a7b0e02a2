package files_test

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/csv"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"candlepath/internal/files"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

const shapes = "../core/sheet/testdata/shapes/"

// Each X.csv must come out as the columns of X.expected.csv.
func TestShapes(t *testing.T) {
	found, err := filepath.Glob(shapes + "*.expected.csv")
	require.NoError(t, err)
	require.Len(t, found, 3)
	for _, expected := range found {
		in := strings.TrimSuffix(expected, ".expected.csv") + ".csv"
		t.Run(filepath.Base(in), func(t *testing.T) {
			f, err := os.Open(in)
			require.NoError(t, err)
			defer f.Close()
			s, err := files.ReadSitemap(in, f, files.Options{})
			require.NoError(t, err)
			require.Equal(t, readRows(t, expected), columns(s.Tree, readRows(t, expected)[0]))
		})
	}
}

func readRows(t *testing.T, name string) [][]string {
	f, err := os.Open(name)
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	return rows
}

func columns(tree *sitemap.Tree, names []string) [][]string {
	out := [][]string{names}
	for _, r := range sheet.Rows(tree) {
		var row []string
		for _, n := range names {
			for i, c := range sheet.Columns {
				if c == n {
					row = append(row, r[i])
				}
			}
		}
		out = append(out, row)
	}
	return out
}

// What is written reads the same, in every format that can hold it.
func TestRoundTrip(t *testing.T) {
	in := "\xef\xbb\xbfPARENT;id;Title;Slug;Address;Kind;Target;Source;Listed;Notes;Colour\r\n" +
		";home;Home;;/;;;;;;\r\n;v;Visitors;;;;;;;\"two\r\nlines\";green\r\nv;h;Öffnungszeiten;;;;;;no;;\r\n" +
		"v;g;Teams;;;group;;;;;\r\ng;m;Guides;guides;;;;;;;\r\n;o;Old one;;/a/b/c;carried;;http://old.quillmere.example/x;;;\r\n" +
		";r;See hours;;;reference;h;;;;\r\n;w;=Weather;;;outside;https://weather.quillmere.example/;;;;\r\n"
	s, err := files.ReadSitemap("in.csv", strings.NewReader(in), files.Options{})
	require.NoError(t, err)
	require.Empty(t, s.Findings)
	at := s.Tree.Find("m")
	require.Equal(t, "/visitors/guides", s.Tree.Address(at), "a group without a slug adds no segment")
	require.Equal(t, "/a/b/c", s.Tree.At(s.Tree.Find("o")).Fixed)
	require.Equal(t, "two\nlines\nColour: green", s.Tree.At(s.Tree.Find("v")).Notes)
	for _, name := range []string{"x.csv", "x.xlsx"} {
		var b bytes.Buffer
		require.NoError(t, files.WriteSitemap(name, &b, s.Tree, ""))
		again, err := files.ReadSitemap(name, &b, files.Options{})
		require.NoError(t, err)
		require.Empty(t, again.Findings, name)
		require.Equal(t, sheet.Rows(s.Tree), sheet.Rows(again.Tree), name)
	}
	var b bytes.Buffer
	require.NoError(t, files.WriteSitemap("x.xml", &b, s.Tree, "https://inside.quillmere.example/"))
	again, err := files.ReadSitemap("x.xml", &b, files.Options{})
	require.NoError(t, err)
	require.NotEqual(t, sitemap.None, again.Tree.PageAt("/visitors/offnungszeiten"))
}

func TestWindows1252IsReadWithAFinding(t *testing.T) {
	s, err := files.ReadSitemap("x.csv", strings.NewReader("level,title\n1,Caf\xe9\n"), files.Options{})
	require.NoError(t, err)
	require.Equal(t, "Café", s.Tree.At(0).Title)
	require.EqualValues(t, "not-utf-8", s.Findings[0].Rule)
}

func TestUnusableFilesAreRefusedWithLineAndAdvice(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		line       int
		says       string
	}{
		"no header":           {"x.csv", "a,b\n1,2\n", 1, "no usable header"},
		"empty":               {"x.csv", "", 0, "empty"},
		"unknown parent":      {"x.csv", "id,parent,title\na,,A\nb,zz,B\n", 3, "\"zz\" is not in the file"},
		"cycle":               {"x.csv", "id,parent,title\na,b,A\nb,a,B\n", 2, "below itself"},
		"id twice":            {"x.csv", "id,parent,title\na,,A\na,,B\n", 3, "also on line 2"},
		"level jump":          {"x.csv", "level,title\n1,A\n3,B\n", 3, "jumps from 1 to 3"},
		"column jump":         {"x.csv", "Level 1,Level 2,Level 3\nA,,\n,,B\n", 3, "jumps from 1 to 3"},
		"broken quote":        {"x.csv", "level,title\n1,\"A\n1,B\n", 2, "quote is broken"},
		"workbook named csv":  {"x.csv", "PK\x03\x04....", 0, "not a .csv"},
		"text named xlsx":     {"x.xlsx", "level,title\n", 0, "no .xlsx"},
		"binary":              {"x.csv", "level,title\n1,\x00\n", 2, "not text"},
		"other format":        {"x.pdf", "", 0, "not read"},
		"xml of another kind": {"x.xml", "<html></html>", 1, "<html>"},
		"broken xml":          {"x.xml", "<urlset><url>", 1, "well-formed"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := files.ReadSitemap(c.file, strings.NewReader(c.text), files.Options{})
			var refused *sheet.Refused
			require.ErrorAs(t, err, &refused)
			require.Equal(t, c.line, refused.Line, refused.Error())
			require.Contains(t, refused.Problem, c.says)
			require.NotEmpty(t, refused.Advice)
		})
	}
}

func TestTooManyRows(t *testing.T) {
	text := "level,title\n" + strings.Repeat("1,A\n", sitemap.MaxRows+1)
	_, err := files.ReadSitemap("x.csv", strings.NewReader(text), files.Options{})
	require.ErrorContains(t, err, "more than 200000 rows")
}

// A sheet of 3 GB, zipped into a few megabytes, is refused in little memory,
// whether its directory tells the truth or lies.
func TestHugeSheetInSmallZip(t *testing.T) {
	for _, size := range []uint64{3 << 30, 1 << 20} {
		data := bomb(t, size)
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		_, err := files.ReadSitemap("x.xlsx", bytes.NewReader(data), files.Options{})
		runtime.ReadMemStats(&after)
		var refused *sheet.Refused
		require.ErrorAs(t, err, &refused)
		require.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(600<<20))
	}
}

// bomb zips 3 GB of nothing as a sheet, under a claimed size.
func bomb(t *testing.T, claimed uint64) []byte {
	var body bytes.Buffer
	fl, err := flate.NewWriter(&body, flate.BestSpeed)
	require.NoError(t, err)
	_, err = io.CopyN(fl, zeros{}, 3<<30)
	require.NoError(t, err)
	require.NoError(t, fl.Close())
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"[Content_Types].xml":        `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`,
		"xl/workbook.xml":            `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><given name="S" sheetId="1" r:id="r1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	w, err := z.CreateRaw(&zip.FileHeader{Name: "xl/worksheets/sheet1.xml", Method: zip.Deflate, CompressedSize64: uint64(body.Len()), UncompressedSize64: claimed})
	require.NoError(t, err)
	_, err = w.Write(body.Bytes())
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.Bytes()
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = ' '
	}
	return len(p), nil
}

// Whatever comes in, reading ends in a tree that writes and reads again, or in
// a refusal.
func FuzzReadSitemap(f *testing.F) {
	for _, name := range []string{"level-columns", "level-number", "ancestors-repeated"} {
		b, err := os.ReadFile(shapes + name + ".csv")
		require.NoError(f, err)
		f.Add(b)
	}
	f.Add([]byte("id,parent,title,address\nh,,Home,/\na,h,A,/x/y\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		s, err := files.ReadSitemap("x.csv", bytes.NewReader(data), files.Options{})
		if err != nil {
			require.ErrorAs(t, err, new(*sheet.Refused))
			return
		}
		var b bytes.Buffer
		require.NoError(t, files.WriteSitemap("x.csv", &b, s.Tree, ""))
		again, err := files.ReadSitemap("x.csv", &b, files.Options{})
		require.NoError(t, err)
		require.Equal(t, s.Tree.Len(), again.Tree.Len())
	})
}

// The same for files in which entries stand within each other.
func FuzzReadNested(f *testing.F) {
	f.Add("x.opml", []byte(`<opml version="2.0"><body><outline text="a"><outline text="b" url="https://old.quillmere.example"/></outline></body></opml>`))
	f.Add("x.json", []byte(`[{"title":"a","children":[{"title":"b","slug":"c"}]}]`))
	f.Add("x.xml", []byte(`<urlset><url><loc>https://old.quillmere.example/a/b</loc></url></urlset>`))
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		if name != "x.opml" && name != "x.json" {
			name = "x.xml"
		}
		s, err := files.ReadSitemap(name, bytes.NewReader(data), files.Options{})
		if err != nil {
			require.ErrorAs(t, err, new(*sheet.Refused))
			return
		}
		for i := range s.Tree.Len() {
			require.LessOrEqual(t, s.Tree.Level(i), sitemap.MaxLevels)
		}
	})
}

func FuzzReadRedirects(f *testing.F) {
	f.Add([]byte("from,to,code,match\n/a,/b,301,prefix\n/c?x=1,,410,\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if _, err := files.ReadRedirects("x.csv", bytes.NewReader(data)); err != nil {
			require.ErrorAs(t, err, new(*sheet.Refused))
		}
	})
}
