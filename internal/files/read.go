// Package files reads and writes the formats in which sitemaps and redirect
// tables come and go. It knows no database. What makes a file unusable is told
// as a *sheet.Refused with line and advice; memory is bounded whatever a file
// claims to be.
package files

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"candlepath/internal/core/check"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// maxCell is the most that one cell of a table may hold.
const maxCell = 1 << 20

// MaxBytes is the most that a file may hold, unpacked.
const MaxBytes = 512 << 20

// Progress is told how many rows have been read.
type Progress func(rows int)

// deepestXML is how deep the elements of an XML file may stand.
const deepestXML = 100

func tooDeep(line int) error {
	return refuse(line, fmt.Sprintf("more than %d levels stand below each other here", sitemap.MaxLevels), "bring some of it further up")
}

// Options for reading.
type Options struct {
	Context  context.Context // of whoever waits for it; nil: for ever
	Sheet    string          // of a workbook; empty: the first with a usable header
	Progress Progress        // may be nil

	// Beside opens a file that a sitemaps.org index names, by the last part of its
	// address; nil where there is nothing beside the file.
	Beside func(name string) (io.ReadCloser, error)
}

// ended tells a reader to stop, where nobody waits for it any more.
func (o Options) ended() error {
	if o.Context == nil || o.Context.Err() == nil {
		return nil
	}
	return o.Context.Err()
}

func (o Options) told(rows int) {
	if o.Progress != nil && rows%500 == 0 {
		o.Progress(rows)
	}
}

// ReadSitemap reads a sitemap from a file of the given name; the ending of the
// name tells the format.
func ReadSitemap(name string, r io.Reader, o Options) (*sheet.Sheet, error) {
	switch ext := strings.ToLower(filepath.Ext(name)); ext {
	case ".zip":
		data, err := readAll(r)
		if err != nil {
			return nil, err
		}
		site, err := openZip(data)
		if err != nil {
			return nil, err
		}
		if locs, only, err := site.locations(o); only {
			if err != nil {
				return nil, err
			}
			return sheet.ReadAddresses(paths(locs))
		}
		if site, err = site.usable(); err != nil {
			return nil, err
		}
		return ReadOldSite(site, o)
	case ".xml":
		locs, err := readURLs(r, o)
		if err != nil {
			return nil, err
		}
		return sheet.ReadAddresses(paths(locs))
	case ".csv", ".xlsx", ".tsv", ".txt", "", ".-", ".json", ".opml":
		records, findings, err := readRecords(ext, name, r, o)
		if err != nil {
			return nil, err
		}
		s, err := sheet.Read(records)
		if err != nil {
			return nil, err
		}
		s.Findings = append(findings, s.Findings...)
		return s, nil
	default:
		return nil, refuse(0, fmt.Sprintf("files ending in %q are not read", ext), "use .csv, .xlsx, .json, .opml, .xml, or a .zip of HTML pages")
	}
}

func readRecords(ext, name string, r io.Reader, o Options) (records []sheet.Record, findings []check.Finding, err error) {
	switch ext {
	case ".json":
		records, err = readJSON(r, o)
	case ".opml":
		records, err = readOPML(r, o)
	default:
		return ReadTable(name, r, o, sheet.UsableHeader)
	}
	return records, nil, err
}

func refuse(line int, problem, advice string) error {
	return &sheet.Refused{Line: line, Problem: problem, Advice: advice}
}

// ReadTable reads the rows of a .csv or .xlsx file. usable tells a header row,
// for choosing a sheet of a workbook.
func ReadTable(name string, r io.Reader, o Options, usable func([]string) bool) ([]sheet.Record, []check.Finding, error) {
	data, err := readAll(r)
	if err != nil {
		return nil, nil, err
	}
	if strings.EqualFold(filepath.Ext(name), ".xlsx") {
		return readWorkbook(data, o, usable)
	}
	return readCSV(data, o)
}

// ReadRows reads all rows of a .csv file, or of the first worksheet of an .xlsx file that has
// some.
func ReadRows(name string, r io.Reader) ([][]string, error) {
	records, _, err := ReadTable(name, r, Options{}, func(header []string) bool { return len(header) > 0 })
	out := make([][]string, len(records))
	for i, rec := range records {
		out[i] = rec.Cells
	}
	return out, err
}

func readAll(r io.Reader) ([]byte, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read: %w", err)
	}
	if len(data) > MaxBytes {
		return nil, tooLarge()
	}
	return data, nil
}

func tooLarge() error {
	return refuse(0, fmt.Sprintf("the file holds more than %d MB", MaxBytes>>20), "split it, or leave out what is no sitemap")
}

func readCSV(data []byte, o Options) ([]sheet.Record, []check.Finding, error) {
	var findings []check.Finding
	switch {
	case bytes.HasPrefix(data, []byte("PK\x03\x04")):
		return nil, nil, refuse(0, "this is a workbook or an archive, not a .csv", "name it .xlsx, or save the sheet as .csv")
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}), bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		return nil, nil, refuse(0, "the file is in UTF-16", "save it as CSV in UTF-8")
	case bytes.IndexByte(data, 0) >= 0:
		return nil, nil, refuse(1+bytes.Count(data[:bytes.IndexByte(data, 0)], []byte("\n")), "the file is not text", "save the sheet as .csv")
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if bad := firstBadUTF8(data); bad >= 0 {
		decoded, err := charmap.Windows1252.NewDecoder().Bytes(data)
		if err != nil {
			return nil, nil, refuse(0, "the text is neither UTF-8 nor Windows-1252", "save it as CSV in UTF-8")
		}
		findings = append(findings, check.Finding{
			Line: 1 + bytes.Count(data[:bad], []byte("\n")), Severity: check.Warning, Rule: "not-utf-8",
			Message: "The file is not UTF-8 and was read as Windows-1252. Look at letters with accents.",
		})
		data = decoded
	}
	records, err := parseCSV(data, o)
	return records, findings, err
}

func firstBadUTF8(data []byte) int {
	for i := 0; i < len(data); {
		r, n := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && n == 1 {
			return i
		}
		i += n
	}
	return -1
}

func parseCSV(data []byte, o Options) ([]sheet.Record, error) {
	c := csv.NewReader(bytes.NewReader(data))
	c.Comma = delimiter(data)
	c.FieldsPerRecord = -1
	var records []sheet.Record
	for {
		cells, err := c.Read()
		if errors.Is(err, io.EOF) {
			return records, nil
		}
		if broken := (*csv.ParseError)(nil); errors.As(err, &broken) {
			return nil, refuse(broken.StartLine, "a quote is broken", "double a quote inside a cell, and close each cell that begins with one")
		}
		if err != nil {
			return nil, fmt.Errorf("read csv: %w", err)
		}
		line, _ := c.FieldPos(0)
		for i := range cells {
			if len(cells[i]) > maxCell {
				return nil, refuse(line, fmt.Sprintf("a cell holds more than %d KB", maxCell>>10), "leave it out, or shorten it")
			}
			cells[i] = fromText(cells[i])
		}
		records = append(records, sheet.Record{Line: line, Cells: cells})
		o.told(len(records))
		if err := o.ended(); err != nil {
			return nil, err
		}
		if len(records) > sitemap.MaxRows+1 {
			return nil, refuse(line, fmt.Sprintf("there are more than %d rows", sitemap.MaxRows), "split the file")
		}
	}
}

// delimiter looks at the first line that is not empty and takes what it has
// most of, outside quotes.
func delimiter(data []byte) rune {
	counts := map[byte]int{}
	quoted, seen := false, false
	for _, b := range data {
		if b == '"' {
			quoted = !quoted
		}
		if b == '\n' && !quoted && seen {
			break
		}
		if !quoted && (b == ',' || b == ';' || b == '\t') {
			counts[b]++
		}
		seen = seen || b != '\n' && b != '\r'
	}
	best := byte(',')
	for _, b := range []byte{';', '\t'} {
		if counts[b] > counts[best] {
			best = b
		}
	}
	return rune(best)
}

// readURLs reads the locations of a sitemaps.org file, or of all files that an
// index of such files names.
func readURLs(r io.Reader, o Options) ([]string, error) {
	root, locs, err := readLocs(r, o)
	if err != nil || root != "sitemapindex" {
		return locs, err
	}
	if o.Beside == nil {
		return nil, refuse(0, "this is an index of sitemaps", "import the files that it names, or pack all of them into a .zip")
	}
	return indexed(locs, o)
}

// indexed reads the sitemaps that an index names.
func indexed(locs []string, o Options) ([]string, error) {
	var all []string
	for _, loc := range locs {
		name := path.Base(pathOf(loc))
		f, err := o.Beside(name)
		if err != nil {
			return nil, refuse(0, fmt.Sprintf("the index names %s, which is not beside it", name), "put it there")
		}
		inner, locs, err := readLocs(f, o)
		if err = errors.Join(err, f.Close()); err != nil {
			return nil, err
		}
		if inner != "urlset" {
			return nil, refuse(0, fmt.Sprintf("%s is an index itself", name), "name only sitemaps in an index")
		}
		if all = append(all, locs...); len(all) > sitemap.MaxRows {
			return nil, tooMany()
		}
	}
	return all, nil
}

func tooMany() error {
	return refuse(0, fmt.Sprintf("there are more than %d addresses", sitemap.MaxRows), "split the file")
}

func paths(locs []string) []string {
	out := make([]string, len(locs))
	for i, l := range locs {
		out[i] = pathOf(l)
	}
	return out
}

func readLocs(r io.Reader, o Options) (root string, locs []string, err error) {
	in, err := unpacked(r)
	if err != nil {
		return "", nil, err
	}
	d := xml.NewDecoder(io.LimitReader(in, MaxBytes))
	for depth := 0; ; {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			line, _ := d.InputPos()
			return "", nil, refuse(line, "this is not well-formed XML", "export the sitemap again")
		}
		if err := o.ended(); err != nil {
			return "", nil, err
		}
		start, ok := tok.(xml.StartElement)
		if !ok {
			if _, end := tok.(xml.EndElement); end {
				depth--
			}
			continue
		}
		if depth++; depth > deepestXML {
			line, _ := d.InputPos()
			return "", nil, tooDeep(line)
		}
		if root == "" {
			if root = start.Name.Local; root != "urlset" && root != "sitemapindex" {
				return "", nil, refuse(1, fmt.Sprintf("the file begins with <%s>, not <urlset>", root), "use a sitemap as described on sitemaps.org")
			}
		}
		if start.Name.Local != "loc" {
			continue
		}
		var loc string
		if err := d.DecodeElement(&loc, &start); err != nil {
			line, _ := d.InputPos()
			return "", nil, refuse(line, "a <loc> cannot be read", "export the sitemap again")
		}
		depth-- // its end was read with it
		if locs = append(locs, strings.TrimSpace(loc)); len(locs) > sitemap.MaxRows {
			return "", nil, tooMany()
		}
	}
	if root == "" {
		return "", nil, refuse(0, "the file is empty", "export the sitemap again")
	}
	return root, locs, nil
}

func pathOf(loc string) string {
	_, rest, ok := strings.Cut(loc, "://")
	if !ok {
		return loc
	}
	if i := strings.IndexByte(rest, '/'); i >= 0 {
		return rest[i:]
	}
	return "/"
}
