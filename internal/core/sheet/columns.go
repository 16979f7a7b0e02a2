package sheet

import (
	"regexp"
	"strconv"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Columns is the header of a written sitemap, in order: where the entry stands,
// then its fields, with the address after the slug.
var Columns = func() []string {
	columns := []string{"id", "parent", "level"}
	for _, f := range sitemap.Fields() {
		if columns = append(columns, f.Key); f.Key == "slug" {
			columns = append(columns, "address")
		}
	}
	return columns
}()

// headerNames maps what people write over a column to our name of it.
var headerNames = func() map[string]string {
	m := map[string]string{"url": "address", "path": "address", "parent id": "parent"}
	for _, c := range Columns {
		m[c] = c
	}
	for _, f := range sitemap.Fields() {
		for _, name := range f.Names {
			m[name] = f.Key
		}
	}
	return m
}()

var levelColumn = regexp.MustCompile(`^(?:level|lvl|l)[ _.-]*([1-9][0-9]?)$`)

// Record is one row of a table, with the line on which it starts.
type Record struct {
	Line  int
	Cells []string
}

// shape is one of the four ways in which a table tells the hierarchy; the two
// with a column for each level are told apart row by row.
type shape int

const (
	noShape shape = iota
	byParent
	byLevel
	byColumns
)

type header struct {
	shape  shape
	column map[string]int // our name → index of the cell
	levels []int          // cells of Level 1, Level 2, …
	other  []int          // cells of unknown columns
	names  []string       // as they stand in the file
}

// readHeader looks at a row as a header; its shape is noShape if it is none.
func readHeader(cells []string) header {
	h := header{column: map[string]int{}, names: make([]string, len(cells))}
	levels := map[int]int{}
	for i, c := range cells {
		name := strings.TrimSpace(strings.TrimPrefix(c, "\ufeff"))
		h.names[i] = name
		key := strings.Join(strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return r == ' ' || r == '_' }), " ")
		if m := levelColumn.FindStringSubmatch(key); m != nil {
			n, _ := strconv.Atoi(m[1])
			levels[n] = i
			continue
		}
		if col := headerNames[key]; col != "" {
			if _, twice := h.column[col]; !twice {
				h.column[col] = i
				continue
			}
		}
		if name != "" {
			h.other = append(h.other, i)
		}
	}
	for n := 1; n <= len(levels); n++ {
		i, ok := levels[n]
		if !ok {
			return h // a gap between Level 1 and Level 3
		}
		h.levels = append(h.levels, i)
	}
	_, id := h.column["id"]
	_, parent := h.column["parent"]
	_, level := h.column["level"]
	_, title := h.column["title"]
	_, addr := h.column["address"]
	switch {
	case id && parent && (title || addr):
		h.shape = byParent
	case level && title:
		h.shape = byLevel
	case len(h.levels) > 0:
		h.shape = byColumns
	}
	return h
}

// UsableHeader tells whether a row can be the header of a sitemap.
func UsableHeader(cells []string) bool { return readHeader(cells).shape != noShape }

func (h header) cell(r Record, col string) string {
	if i, ok := h.column[col]; ok {
		return cellAt(r, i)
	}
	return ""
}

func cellAt(r Record, i int) string {
	if i < len(r.Cells) {
		return strings.TrimSpace(r.Cells[i])
	}
	return ""
}

// notes are the notes column and whatever else the row holds under names that
// we do not know.
func (h header) notes(r Record) string {
	var parts []string
	if n := h.cell(r, "notes"); n != "" {
		parts = append(parts, n)
	}
	for _, i := range h.other {
		if v := cellAt(r, i); v != "" {
			parts = append(parts, h.names[i]+": "+v)
		}
	}
	return strings.Join(parts, "\n")
}

func empty(r Record) bool {
	for _, c := range r.Cells {
		if strings.TrimSpace(c) != "" {
			return false
		}
	}
	return true
}
