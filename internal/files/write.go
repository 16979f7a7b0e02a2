package files

import (
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"iter"
	"path/filepath"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// WriteSitemap writes a tree in the format that the ending of name tells. base
// is what addresses begin with in a sitemaps.org file.
func WriteSitemap(name string, w io.Writer, t *sitemap.Tree, base string) error {
	switch ext := strings.ToLower(filepath.Ext(name)); ext {
	case ".csv", "", ".-":
		return WriteCSV(w, sheet.Columns, sheet.Rows(t))
	case ".xlsx":
		return writeWorkbook(w, t)
	case ".json":
		return writeJSON(w, t)
	case ".opml":
		return writeOPML(w, t)
	case ".xml":
		return writeURLs(w, t, base)
	default:
		return refuse(0, fmt.Sprintf("files ending in %q are not written", ext), "use .csv, .xlsx, .json, .opml or .xml")
	}
}

// DiffColumns is the header of a comparison of two sitemaps.
var DiffColumns = []string{"id", "change", "before", "after", "because"}

// WriteCSV writes a header and rows, cells that a spreadsheet program would take
// for a formula as text.
func WriteCSV(w io.Writer, header []string, rows [][]string) error {
	return WriteCSVOf(w, header, slices.Values(rows))
}

// WriteCSVOf is WriteCSV for rows that come one by one.
func WriteCSVOf(w io.Writer, header []string, rows iter.Seq[[]string]) error {
	c := csv.NewWriter(w)
	if err := c.Write(header); err != nil {
		return err
	}
	cells := make([]string, 0, len(header))
	for r := range rows {
		cells = cells[:0]
		for _, cell := range r {
			cells = append(cells, asText(cell))
		}
		if err := c.Write(cells); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}

// formulaLike says whether a spreadsheet program may compute a cell of a .csv
// file. Cells that hold one behind apostrophes count too, so that asText can be
// taken back.
func formulaLike(cell string) bool {
	rest := strings.TrimLeft(cell, "'")
	return rest != "" && strings.IndexByte("=+-@", rest[0]) >= 0
}

// asText puts the apostrophe before a formula-like cell by which spreadsheet
// programs know text.
func asText(cell string) string {
	if formulaLike(cell) {
		return "'" + cell
	}
	return cell
}

// fromText takes back what asText did.
func fromText(cell string) string {
	if strings.HasPrefix(cell, "'") && formulaLike(cell) {
		return cell[1:]
	}
	return cell
}

// WriteJSONLines writes one object for each row, keys in the header's order.
func WriteJSONLines(w io.Writer, header []string, rows iter.Seq[[]string]) error {
	for r := range rows {
		parts := make([]string, len(header))
		for i, h := range header {
			v, err := json.Marshal(r[i])
			if err != nil {
				return err
			}
			parts[i] = fmt.Sprintf("%q:%s", h, v)
		}
		if _, err := fmt.Fprintf(w, "{%s}\n", strings.Join(parts, ",")); err != nil {
			return err
		}
	}
	return nil
}

func writeWorkbook(w io.Writer, t *sitemap.Tree) error {
	book := excelize.NewFile()
	defer book.Close()
	if err := book.SetSheetName("Sheet1", "Sitemap"); err != nil {
		return err
	}
	s, err := book.NewStreamWriter("Sitemap")
	if err != nil {
		return err
	}
	if err := s.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	for i, width := range []float64{14, 14, 7, 38, 20, 26, 44, 11, 30, 30, 14, 18, 8, 20, 16, 12, 50} {
		if err := s.SetColWidth(i+1, i+1, width); err != nil {
			return err
		}
	}
	wrap, err := book.NewStyle(&excelize.Style{Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	if err != nil {
		return err
	}
	put := func(line int, cells []string) error {
		values := make([]any, len(cells))
		for i, c := range cells {
			values[i] = excelize.Cell{Value: c} // a string is text, whatever it begins with
		}
		values[len(values)-1] = excelize.Cell{Value: cells[len(cells)-1], StyleID: wrap}
		return s.SetRow(fmt.Sprintf("A%d", line), values)
	}
	if err := put(1, sheet.Columns); err != nil {
		return err
	}
	for i := range t.Len() {
		if err := put(i+2, sheet.Row(t, i)); err != nil {
			return err
		}
	}
	if err := s.Flush(); err != nil {
		return err
	}
	return book.Write(w)
}

func writeURLs(w io.Writer, t *sitemap.Tree, base string) error {
	var b strings.Builder
	b.WriteString(xml.Header + `<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">` + "\n")
	for i := range t.Len() {
		if a := t.Served(i); a != "" {
			b.WriteString("  <url><loc>")
			if err := xml.EscapeText(&b, []byte(strings.TrimSuffix(base, "/")+address.Written(a))); err != nil {
				return err
			}
			b.WriteString("</loc></url>\n")
		}
	}
	b.WriteString("</urlset>\n")
	_, err := io.WriteString(w, b.String())
	return err
}
