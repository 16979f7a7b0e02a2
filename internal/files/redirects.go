package files

import (
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// named reads a table whose columns have fixed names, of which some must be
// there.
type named struct {
	column map[string]int
	rows   []sheet.Record
}

func readNamed(name string, r io.Reader, required ...string) (*named, error) {
	header := func(cells []string) map[string]int {
		m := map[string]int{}
		for i, c := range cells {
			m[strings.ToLower(strings.TrimSpace(strings.TrimPrefix(c, "\ufeff")))] = i
		}
		return m
	}
	complete := func(cells []string) bool {
		m := header(cells)
		for _, c := range required {
			if _, ok := m[c]; !ok {
				return false
			}
		}
		return true
	}
	records, _, err := ReadTable(name, r, Options{}, complete)
	if err != nil {
		return nil, err
	}
	for i, rec := range records {
		if strings.TrimSpace(strings.Join(rec.Cells, "")) == "" {
			continue
		}
		if !complete(rec.Cells) {
			return nil, refuse(rec.Line, "there is no usable header", "name the columns: "+strings.Join(required, ", "))
		}
		return &named{header(rec.Cells), records[i+1:]}, nil
	}
	return nil, refuse(0, "the file is empty", "its first row must name the columns: "+strings.Join(required, ", "))
}

func (n *named) cell(r sheet.Record, col string) string {
	if i, ok := n.column[col]; ok && i < len(r.Cells) {
		return strings.TrimSpace(r.Cells[i])
	}
	return ""
}

// ReadRedirects reads a redirect table: from, to and perhaps code, match,
// status, note, and the host name for which alone a row is.
func ReadRedirects(name string, r io.Reader) ([]redirect.Row, error) {
	t, err := readNamed(name, r, "from", "to")
	if err != nil {
		return nil, err
	}
	var rows []redirect.Row
	for _, rec := range t.rows {
		if strings.TrimSpace(strings.Join(rec.Cells, "")) == "" {
			continue
		}
		row, err := t.redirect(rec)
		if err != nil {
			return nil, err
		}
		rows = append(rows, row)
	}
	return rows, nil
}

func (n *named) redirect(rec sheet.Record) (redirect.Row, error) {
	row := redirect.Row{Line: rec.Line, Code: 301, Match: redirect.Exact, Status: redirect.Status(n.cell(rec, "status")), Note: n.cell(rec, "note")}
	from := n.cell(rec, "from")
	if address.IsURL(from) {
		from = pathOf(from)
	}
	key, err := address.Options{}.Key(from)
	if err != nil || !strings.HasPrefix(from, "/") {
		return row, refuse(rec.Line, fmt.Sprintf("the from %q is not an address", from), "begin it with /")
	}
	if row.From = key; n.cell(rec, "host") != "" {
		row.From = address.OnHost(strings.ToLower(n.cell(rec, "host")), key)
	}
	if m := strings.ToLower(n.cell(rec, "match")); m != "" {
		row.Match = redirect.Match(m)
	}
	if row.Match != redirect.Exact && row.Match != redirect.Prefix && row.Match != redirect.Branch {
		return row, refuse(rec.Line, fmt.Sprintf("%q is no kind of match", row.Match), "use exact, prefix or branch")
	}
	if c := n.cell(rec, "code"); c != "" {
		if row.Code, err = strconv.Atoi(c); err != nil || !redirect.ValidCode(row.Code) {
			return row, refuse(rec.Line, fmt.Sprintf("the code %q is not used for redirects", c), "use 301, 302, 307, 308 or 410")
		}
	}
	if row.Code == redirect.Gone {
		return row, nil
	}
	if row.To, err = redirect.ParseTo(n.cell(rec, "to"), nil); err != nil {
		return row, refuse(rec.Line, fmt.Sprintf("the target %q is neither an address nor a URL", n.cell(rec, "to")), "begin it with / or https://, or use code 410")
	}
	return row, nil
}

// Decisions of a file, by entry id, with the line of each.
type Decisions struct {
	By   map[string]redirect.Decision
	Line map[string]int
}

// ReadDecisions reads where visitors of removed pages belong: id, to and
// perhaps code, review and note.
func ReadDecisions(name string, r io.Reader, next *sitemap.Tree) (Decisions, error) {
	d := Decisions{map[string]redirect.Decision{}, map[string]int{}}
	t, err := readNamed(name, r, "id", "to")
	if err != nil {
		return d, err
	}
	for _, rec := range t.rows {
		id, code := t.cell(rec, "id"), 0
		if id == "" {
			continue
		}
		if c := t.cell(rec, "code"); c != "" {
			if code, err = strconv.Atoi(c); err != nil || !redirect.ValidCode(code) {
				return d, refuse(rec.Line, fmt.Sprintf("the code %q is not used for redirects", c), "use 301, 302, 307, 308 or 410")
			}
		}
		to := t.cell(rec, "to")
		if to == "" && code != redirect.Gone {
			continue // not decided yet
		}
		if _, twice := d.By[id]; twice {
			return d, refuse(rec.Line, fmt.Sprintf("the id %q is also on line %d", id, d.Line[id]), "decide once")
		}
		dec := redirect.ParseDecision(to, code, next)
		dec.Review, dec.Note = t.cell(rec, "review"), t.cell(rec, "note")
		d.By[id], d.Line[id] = dec, rec.Line
	}
	return d, nil
}

// RedirectTable gives the header and the lines of a written redirect table. It has a column for
// hosts only where a row is for a host name alone.
func RedirectTable(rows []redirect.Row, pages *sitemap.Tree) (columns []string, lines [][]string) {
	columns = []string{"from", "to", "code", "match", "status", "note"}
	hosts := slices.ContainsFunc(rows, func(r redirect.Row) bool { _, _, named := address.CutHost(r.From); return named })
	if hosts {
		columns = append(columns, "host")
	}
	lines = make([][]string, len(rows))
	for i, r := range rows {
		host, from, _ := address.CutHost(r.From)
		lines[i] = []string{redirect.WrittenFrom(from), redirect.WrittenTo(r.To, pages), strconv.Itoa(r.Code), string(r.Match), string(r.Status), r.Note}
		if hosts {
			lines[i] = append(lines[i], host)
		}
	}
	return columns, lines
}
