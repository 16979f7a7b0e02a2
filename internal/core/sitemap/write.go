package sitemap

import (
	"strconv"

	"candlepath/internal/core/address"
)

// Rows gives the tree as a table under Columns, in document order.
func (t *Tree) Rows() [][]string {
	rows := make([][]string, t.Len())
	for i := range rows {
		rows[i] = t.Row(i)
	}
	return rows
}

// Row gives one entry as a row under Columns.
func (t *Tree) Row(i int) []string {
	e := &t.entries[i]
	row := make([]string, 0, len(Columns))
	row = append(row, e.ID, e.Parent, strconv.Itoa(t.Level(i)))
	for _, f := range fields {
		v := f.Get(e)
		if f.Key == "slug" {
			if e.Fixed != "" || !e.Kind.HoldsChildren() {
				v = "" // its address says it all
			}
			row = append(row, v, address.Written(t.Address(i)))
			continue
		}
		row = append(row, v)
	}
	return row
}
