package files_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"runtime"
	"strings"
	"testing"
	"time"

	"candlepath/internal/files"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sheet"
)

// most is what reading any file may take: of memory beside what there was, and of
// time, on a machine that is busy with other tests.
const (
	mostMemory = 700 << 20
	mostTime   = 30 * time.Second
)

// measured reads a file and tells how much memory that took at the most.
func measured(t *testing.T, name string, data []byte) (given *sheet.Sheet, err error) {
	t.Helper()
	runtime.GC()
	var before runtime.MemStats
	runtime.ReadMemStats(&before)
	done := make(chan struct{})
	began := time.Now()
	go func() {
		defer close(done)
		given, err = files.ReadSitemap(name, bytes.NewReader(data), files.Options{})
	}()
	most := uint64(0)
	for tick := time.NewTicker(10 * time.Millisecond); ; {
		select {
		case <-done:
			tick.Stop()
			t.Logf("%s: %s, %d MB beside a file of %d KB", name, time.Since(began).Round(time.Millisecond), most>>20, len(data)>>10)
			return given, err
		case <-tick.C:
			var now runtime.MemStats
			runtime.ReadMemStats(&now)
			if now.HeapAlloc > before.HeapAlloc {
				most = max(most, now.HeapAlloc-before.HeapAlloc)
			}
			if most > mostMemory || time.Since(began) > mostTime {
				t.Fatalf("%s: more than %d MB or %s", name, mostMemory>>20, mostTime)
			}
		}
	}
}

func nestedOPML(depth int) string {
	return `<opml version="2.0"><body>` + strings.Repeat("<outline text=\"a\">\n", depth) + strings.Repeat("</outline>", depth) + "</body></opml>"
}

func TestFilesThatGoTooDeepAreRefusedAtTheirLine(t *testing.T) {
	var levels, parents, repeated strings.Builder
	levels.WriteString("level,title\n")
	parents.WriteString("id,parent,title\n")
	for n := 1; n <= 30_000; n++ {
		fmt.Fprintf(&levels, "%d,T\n", n)
		parent := ""
		if n > 1 {
			parent = fmt.Sprint(n - 1)
		}
		fmt.Fprintf(&parents, "%d,%s,T\n", n, parent)
	}
	header, row := "", ""
	for n := 1; n <= 300; n++ {
		header += fmt.Sprintf("Level %d,", n)
		row += "T,"
	}
	repeated.WriteString(header + "\n" + row + "\n")
	for name, c := range map[string]struct {
		file, data string
		line       int
	}{
		"outlines":             {"deep.opml", nestedOPML(200_000), 66},
		"elements of any kind": {"deep.opml", "<opml>" + strings.Repeat("<x>", 300_000), 1},
		"objects":              {"deep.json", strings.Repeat("[{\"title\":\"a\",\n\"children\":", 100_000), 67},
		"arrays":               {"deep.json", strings.Repeat("[", 2_000_000), 1},
		"level numbers":        {"deep.csv", levels.String(), 66},
		"parents":              {"deep.csv", parents.String(), 66},
		"level columns":        {"deep.csv", repeated.String(), 0},
		"sitemaps.org":         {"deep.xml", "<urlset>" + strings.Repeat("<x>", 300_000), 1},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := measured(t, c.file, []byte(c.data))
			refused := (*sheet.Refused)(nil)
			require.ErrorAs(t, err, &refused)
			require.Equal(t, c.line, refused.Line, refused.Error())
			require.Contains(t, refused.Error(), "levels")
		})
	}
	_, err := measured(t, "fine.opml", []byte(nestedOPML(64)))
	require.NoError(t, err, "as deep as may be")
}

// Large and odd files cost memory and time by their size, not more.
func TestLargeAndOddFilesStayWithinBounds(t *testing.T) {
	table := func(n int, row func(b *strings.Builder, i int)) []byte {
		var b strings.Builder
		for i := range n {
			row(&b, i)
		}
		return []byte(b.String())
	}
	head := func(h string, data []byte) []byte { return append([]byte(h+"\n"), data...) }
	deepPath := "/" + strings.Repeat("a/", 5000)
	for name, c := range map[string]struct {
		file string
		data []byte
	}{
		"150,000 rows on one level": {"flat.csv", head("level,title", table(150_000, func(b *strings.Builder, i int) { fmt.Fprintf(b, "1,Entry %d\n", i) }))},
		"all with one title":        {"same.csv", head("level,title", table(150_000, func(b *strings.Builder, _ int) { b.WriteString("1,Entry\n") }))},
		"all with one address":      {"home.csv", head("level,title,address", table(150_000, func(b *strings.Builder, _ int) { b.WriteString("1,Entry,/\n") }))},
		"all with one slug":         {"slug.csv", head("level,title,slug", table(150_000, func(b *strings.Builder, _ int) { b.WriteString("1,Entry,same\n") }))},
		"parents given last first":  {"back.csv", head("id,parent,title", table(150_000, func(b *strings.Builder, i int) { fmt.Fprintf(b, "e%d,,T\n", 150_000-i) }))},
		"addresses of a deep site": {"deep.xml", []byte("<urlset>" + string(table(2000, func(b *strings.Builder, i int) {
			fmt.Fprintf(b, "<url><loc>https://old.quillmere.example%s%d</loc></url>", deepPath, i)
		})) + "</urlset>")},
		"a row of many cells":       {"wide.csv", head("level,title", []byte("1,T"+strings.Repeat(",x", 3_000_000)+"\n"))},
		"a cell of ten megabytes":   {"long.csv", head("level,title", []byte("1,\""+strings.Repeat("x ", 5_000_000)+"\"\n"))},
		"many columns":              {"columns.csv", []byte("level,title" + strings.Repeat(",x", 200_000) + "\n1,T\n")},
		"one long cell":             {"long.csv", head("level,title", []byte("1,\""+strings.Repeat("x ", 20_000_000)+"\"\n"))},
		"many attributes":           {"wide.opml", []byte("<opml><body><outline" + string(table(200_000, func(b *strings.Builder, i int) { fmt.Fprintf(b, " a%d=\"x\"", i) })) + "/></body></opml>")},
		"a ring of 100,000":         {"ring.csv", head("id,parent,title", table(100_000, func(b *strings.Builder, i int) { fmt.Fprintf(b, "%d,%d,T\n", i, (i+1)%100_000) }))},
		"an archive of nested HTML": {"old.zip", zipped(t, map[string]string{"index.html": "<html><body>" + strings.Repeat("<b><i>", 200_000) + "x"})},
	} {
		t.Run(name, func(t *testing.T) {
			given, err := measured(t, c.file, c.data)
			if refused := (*sheet.Refused)(nil); err != nil {
				require.ErrorAs(t, err, &refused)
				return
			}
			require.Positive(t, given.Tree.Len()+len(given.Findings))
		})
	}
}

func zipped(t *testing.T, list map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range list {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// A reader for whom nobody waits any more comes to its end.
func TestReadersStopWhenNobodyWaits(t *testing.T) {
	var b strings.Builder
	b.WriteString("level,title\n")
	for i := range 100_000 {
		fmt.Fprintf(&b, "1,Entry %d\n", i)
	}
	ctx, cancel := context.WithCancel(t.Context())
	_, err := files.ReadSitemap("flat.csv", strings.NewReader(b.String()), files.Options{Context: ctx, Progress: func(rows int) {
		if rows >= 1000 {
			cancel()
		}
		if rows > 2000 {
			panic("went on")
		}
	}})
	require.True(t, errors.Is(err, context.Canceled))
}
