package files

import (
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
)

// ReadVisits reads a table of addresses and how often each was visited; an
// address that is listed again adds up.
func ReadVisits(name string, r io.Reader) (map[string]int, error) {
	column := func(cells []string, names ...string) int {
		return slices.IndexFunc(cells, func(c string) bool {
			return slices.Contains(names, strings.ToLower(strings.TrimSpace(strings.TrimPrefix(c, "\ufeff"))))
		})
	}
	columns := func(cells []string) (at, n int) {
		return column(cells, "address", "url", "path", "page"), column(cells, "visits", "views", "count")
	}
	records, _, err := ReadTable(name, r, Options{}, func(cells []string) bool {
		at, n := columns(cells)
		return at >= 0 && n >= 0
	})
	if err != nil {
		return nil, err
	}
	if len(records) == 0 {
		return nil, refuse(0, "the file is empty", "its first row must name the columns address and visits")
	}
	at, n := columns(records[0].Cells)
	if at < 0 || n < 0 {
		return nil, refuse(records[0].Line, "there is no usable header", "name the columns address and visits")
	}
	out := map[string]int{}
	for _, rec := range records[1:] {
		if len(rec.Cells) <= max(at, n) || strings.TrimSpace(rec.Cells[at]) == "" {
			continue
		}
		cell := strings.NewReplacer(",", "", " ", "", "\u00a0", "").Replace(rec.Cells[n])
		count, err := strconv.Atoi(cell)
		if err != nil || count < 0 || count > 1<<30 {
			return nil, refuse(rec.Line, fmt.Sprintf("%q is not a number of visits", rec.Cells[n]), "write whole numbers")
		}
		out[pathOf(strings.TrimSpace(rec.Cells[at]))] += count
	}
	return out, nil
}
