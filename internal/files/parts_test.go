package files_test

import (
	"archive/zip"
	"bytes"
	"io"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/files"
)

// repeated gives a text again and again, up to so many bytes.
type repeated struct {
	text string
	at   int
	left int
}

func (r *repeated) Read(p []byte) (int, error) {
	if r.left == 0 {
		return 0, io.EOF
	}
	n := copy(p[:min(len(p), r.left)], r.text[r.at:])
	r.at, r.left = (r.at+n)%len(r.text), r.left-n
	return n, nil
}

// swollen gives a workbook one part of which holds so many bytes of a text between two ends.
func swollen(t *testing.T, part, begin, text, end string, size int) []byte {
	book, s := newBook(t, "Plan")
	s[0].put([]any{"Level", "Title"}, []any{1, "Grounds"})
	from, err := zip.NewReader(bytes.NewReader(saved(t, book).Bytes()), int64(saved(t, book).Len()))
	require.NoError(t, err)
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range from.File {
		if f.Name != part {
			require.NoError(t, z.Copy(f))
		}
	}
	w, err := z.Create(part)
	require.NoError(t, err)
	_, err = io.Copy(w, io.MultiReader(strings.NewReader(begin), &repeated{text: text, left: size}, strings.NewReader(end)))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return out.Bytes()
}

// A workbook of some hundred kilobytes whose parts unpack to hundreds of megabytes is refused while it is
// unpacked, and takes no memory for that.
func TestAWorkbookThatSwells(t *testing.T) {
	const sheet = `<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1">`
	for name, c := range map[string]struct {
		part, begin, text, end, says string
	}{
		"a cell":          {"xl/worksheets/sheet1.xml", sheet + `<c r="A1" t="inlineStr"><is><t>`, "a", `</t></is></c></row></sheetData></worksheet>`, "a cell of the workbook"},
		"an attribute":    {"xl/worksheets/sheet1.xml", sheet + `<c r="`, "a", `"/></row></sheetData></worksheet>`, "a cell of the workbook"},
		"a shared string": {"xl/sharedStrings.xml", `<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><si><t>`, "a", `</t></si></sst>`, "a cell of the workbook"},
		"a row":           {"xl/worksheets/sheet1.xml", sheet, `<c/>`, `</row></sheetData></worksheet>`, "16384 in a row"},
		"rows":            {"xl/worksheets/sheet1.xml", sheet, `</row><row><c/>`, `</row></sheetData></worksheet>`, "4000000 cells"},
		"strings":         {"xl/sharedStrings.xml", `<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">`, `<si/>`, `</sst>`, "4000000 cells"},
		"styles":          {"xl/styles.xml", `<styleSheet>`, "a", `</styleSheet>`, "the part xl/styles.xml"},
	} {
		data := swollen(t, c.part, c.begin, strings.Repeat(c.text, 1<<10), c.end, 240<<20)
		require.Less(t, len(data), 2<<20, name)
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		_, err := files.ReadSitemap("plan.xlsx", bytes.NewReader(data), files.Options{})
		runtime.ReadMemStats(&after)
		require.ErrorContains(t, err, c.says, name)
		require.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(20<<20), name)
	}
}
