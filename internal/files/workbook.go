package files

import (
	"archive/zip"
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"candlepath/internal/core/check"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// workbook is an open .xlsx file.
type workbook struct {
	*excelize.File
	merged bool // some worksheet has merged cells
	o      Options
}

func readWorkbook(data []byte, o Options, usable func([]string) bool) ([]sheet.Record, []check.Finding, error) {
	book, err := openWorkbook(data, o)
	if err != nil {
		return nil, nil, err
	}
	defer book.Close()
	if o.Sheet != "" {
		if i, _ := book.GetSheetIndex(o.Sheet); i < 0 {
			return nil, nil, refuse(0, fmt.Sprintf("there is no sheet %q", o.Sheet), "the sheets are: "+strings.Join(book.GetSheetList(), ", "))
		}
	}
	var sheets, indented []string
	for _, worksheet := range book.GetSheetList() {
		if o.Sheet != "" && o.Sheet != worksheet {
			continue
		}
		header, err := book.header(worksheet)
		if err != nil {
			return nil, nil, err
		}
		if usable(header) {
			sheets = append(sheets, worksheet)
		} else if usable(append(header, levelHeader)) {
			indented = append(indented, worksheet)
		}
	}
	if len(sheets) > 0 {
		records, err := book.records(sheets[0])
		return records, others(sheets, records), err
	}
	for _, worksheet := range indented {
		records, err := book.records(worksheet)
		if err != nil {
			return nil, nil, err
		}
		if records, ok := book.leveled(worksheet, records); ok {
			return records, nil, nil
		}
	}
	if o.Sheet != "" { // the core says what is wrong with its header
		records, err := book.records(o.Sheet)
		return records, nil, err
	}
	return nil, nil, refuse(1, "no sheet has a usable header", "name the columns: id and parent, or level and title, or Level 1, Level 2, …; or indent the titles")
}

func openWorkbook(data []byte, o Options) (*workbook, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, refuse(0, "this is no .xlsx workbook", "save it again as .xlsx, or as .csv")
	}
	var total uint64
	for _, f := range z.File {
		if total += f.UncompressedSize64; total > MaxBytes || f.UncompressedSize64 > MaxBytes {
			return nil, tooLarge()
		}
	}
	merged, err := checkParts(z, o)
	if err != nil {
		return nil, err
	}
	file, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: MaxBytes, UnzipXMLSizeLimit: 16 << 20})
	if err != nil {
		return nil, refuse(0, "the workbook cannot be opened", "save it again as .xlsx without a password, or as .csv")
	}
	return &workbook{file, merged, o}, nil
}

// others tells which sheets were left out.
func others(sheets []string, records []sheet.Record) []check.Finding {
	if len(sheets) < 2 || len(records) == 0 {
		return nil
	}
	return []check.Finding{{
		Line: records[0].Line, Severity: check.Warning, Rule: "other-sheets",
		Message: fmt.Sprintf("The sheet %q was read. These could be read, too: %s. Import each by itself.", sheets[0], strings.Join(sheets[1:], ", ")),
	}}
}

func (b *workbook) unreadable(worksheet string) error {
	return refuse(0, fmt.Sprintf("the sheet %q cannot be read", worksheet), "save the workbook again")
}

// header gives the first row of a sheet that is not empty.
func (b *workbook) header(worksheet string) ([]string, error) {
	rows, err := b.Rows(worksheet)
	if err != nil {
		return nil, b.unreadable(worksheet)
	}
	defer rows.Close()
	for rows.Next() {
		if err := b.o.ended(); err != nil {
			return nil, err
		}
		cells, err := rows.Columns()
		if err != nil {
			return nil, b.unreadable(worksheet)
		}
		if !blank(cells) {
			return cells, nil
		}
	}
	return nil, nil
}

func blank(cells []string) bool { return strings.TrimSpace(strings.Join(cells, "")) == "" }

// records reads a sheet. Cells hold what people see in them, dates the day.
func (b *workbook) records(worksheet string) ([]sheet.Record, error) {
	rows, err := b.Rows(worksheet)
	if err != nil {
		return nil, b.unreadable(worksheet)
	}
	defer rows.Close()
	var records []sheet.Record
	for line := 1; rows.Next(); line++ {
		if err := b.o.ended(); err != nil {
			return nil, err
		}
		cells, err := rows.Columns()
		if err != nil {
			return nil, refuse(line, "the row cannot be read", "save the workbook again")
		}
		if line > 4*sitemap.MaxRows || len(records) > sitemap.MaxRows+1 {
			return nil, refuse(line, fmt.Sprintf("there are more than %d rows", sitemap.MaxRows), "split the file")
		}
		if !blank(cells) {
			records = append(records, sheet.Record{Line: line, Cells: cells})
			b.o.told(len(records))
		}
	}
	if err := rows.Error(); err != nil {
		return nil, refuse(0, "the workbook is damaged", "save it again")
	}
	if err := b.dates(worksheet, records); err != nil {
		return nil, err
	}
	return records, b.unmerge(worksheet, records)
}

// columnsOf finds the columns of a header that fit.
func columnsOf(records []sheet.Record, fits func(name string) bool) map[int]bool {
	out := map[int]bool{}
	if len(records) > 0 {
		for i, name := range records[0].Cells {
			if fits(strings.ToLower(strings.TrimSpace(name))) {
				out[i] = true
			}
		}
	}
	return out
}

// dates writes the days of the review column as 2006-01-02: in the file they
// are numbers, shown in whatever way the cell says.
func (b *workbook) dates(worksheet string, records []sheet.Record) error {
	columns := columnsOf(records, func(name string) bool { return strings.HasPrefix(name, "review") })
	if !slices.ContainsFunc(records[min(1, len(records)):], func(r sheet.Record) bool { return undated(r, columns) }) {
		return nil // a second reading would tell nothing
	}
	rows, err := b.Rows(worksheet)
	if err != nil {
		return b.unreadable(worksheet)
	}
	defer rows.Close()
	k := 0
	for line := 1; rows.Next() && k < len(records); line++ {
		if err := b.o.ended(); err != nil {
			return err
		}
		raw, err := rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return refuse(line, "the row cannot be read", "save the workbook again")
		}
		if records[k].Line != line {
			continue
		}
		for i := range columns {
			if i < len(raw) && i < len(records[k].Cells) {
				records[k].Cells[i] = dayOf(raw[i], records[k].Cells[i])
			}
		}
		k++
	}
	return nil
}

// undated tells whether a cell of the columns shows anything but a plain day.
func undated(r sheet.Record, columns map[int]bool) bool {
	for i := range columns {
		if i < len(r.Cells) && r.Cells[i] != "" {
			if _, err := time.Parse(time.DateOnly, r.Cells[i]); err != nil {
				return true
			}
		}
	}
	return false
}

// dayOf gives the day of a cell that holds a date as a number, else what it shows.
func dayOf(raw, shown string) string {
	const first, last = 20_000, 80_000 // from 1954 to 2119
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil || n < first || n > last {
		return shown
	}
	d, err := excelize.ExcelDateToTime(n, false)
	if err != nil {
		return shown
	}
	return d.Format(time.DateOnly)
}

// unmerge gives each row of merged cells what they hold together, but for the
// cells that say which entry a row is: those stand once.
func (b *workbook) unmerge(worksheet string, records []sheet.Record) error {
	if !b.merged || len(records) == 0 {
		return nil
	}
	areas, err := b.GetMergeCells(worksheet)
	if err != nil {
		return b.unreadable(worksheet)
	}
	once := columnsOf(records, func(name string) bool {
		for _, word := range []string{"id", "parent", "title", "name", "page", "slug", "address", "url", "path", "level", "lvl"} {
			if strings.HasPrefix(name, word) {
				return true
			}
		}
		return len(name) == 2 && name[0] == 'l'
	})
	for _, area := range areas {
		left, top, err := excelize.CellNameToCoordinates(area.GetStartAxis())
		_, bottom, err2 := excelize.CellNameToCoordinates(area.GetEndAxis())
		if err = cmp.Or(err, err2); err != nil {
			return b.unreadable(worksheet)
		}
		from, _ := slices.BinarySearchFunc(records, max(top, records[0].Line+1), func(r sheet.Record, line int) int { return r.Line - line })
		column := left - 1
		if once[column] {
			continue
		}
		for k := from; k < len(records) && records[k].Line <= bottom; k++ {
			cells := make([]string, max(len(records[k].Cells), column+1))
			copy(cells, records[k].Cells)
			cells[column] = area.GetCellValue()
			records[k].Cells = cells
		}
	}
	return nil
}

const levelHeader = "level"

// leveled adds a column of levels to rows whose titles are indented, by spaces
// or by the format of their cells; where none is, it says so.
func (b *workbook) leveled(worksheet string, records []sheet.Record) ([]sheet.Record, bool) {
	at := -1
	for i := range columnsOf(records, func(name string) bool {
		return name == "title" || name == "name" || name == "page" || name == "page title"
	}) {
		if at < 0 || i < at {
			at = i
		}
	}
	if at < 0 {
		return nil, false
	}
	out := []sheet.Record{{Line: records[0].Line, Cells: append(slices.Clone(records[0].Cells), levelHeader)}}
	width, styles, deep := len(records[0].Cells), map[int]int{}, false
	var open []int // how far the entries above are indented
	for _, r := range records[1:] {
		if at >= len(r.Cells) || strings.TrimSpace(r.Cells[at]) == "" {
			continue
		}
		far := 4*b.indentOf(worksheet, at, r.Line, styles) + len(r.Cells[at]) - len(strings.TrimLeft(r.Cells[at], " \t\u00a0"))
		for len(open) > 0 && open[len(open)-1] >= far {
			open = open[:len(open)-1]
		}
		open = append(open, far)
		deep = deep || len(open) > 1
		cells := make([]string, width+1)
		copy(cells, r.Cells[:min(len(r.Cells), width)])
		cells[width] = strconv.Itoa(len(open))
		out = append(out, sheet.Record{Line: r.Line, Cells: cells})
	}
	return out, deep
}

// indentOf gives the indentation that the format of a cell says.
func (b *workbook) indentOf(worksheet string, column, line int, known map[int]int) int {
	name, err := excelize.CoordinatesToCellName(column+1, line)
	if err != nil {
		return 0
	}
	id, err := b.GetCellStyle(worksheet, name)
	if err != nil || id == 0 {
		return 0
	}
	if n, ok := known[id]; ok {
		return n
	}
	if style, err := b.GetStyle(id); err == nil && style.Alignment != nil {
		known[id] = style.Alignment.Indent
	}
	return known[id]
}
