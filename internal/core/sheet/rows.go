package sheet

import (
	"strconv"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Rows gives the tree as a table under Columns, in document order.
func Rows(t *sitemap.Tree) [][]string {
	rows := make([][]string, t.Len())
	for i := range rows {
		rows[i] = Row(t, i)
	}
	return rows
}

// Row gives one entry as a row under Columns.
func Row(t *sitemap.Tree, i int) []string {
	e := t.Ref(i)
	row := make([]string, 0, len(Columns))
	row = append(row, e.ID, e.Parent, strconv.Itoa(t.Level(i)))
	for _, f := range sitemap.Fields() {
		v := f.Get(e)
		if f.Key == "slug" {
			if e.Fixed != "" || !e.Kind.HoldsChildren() {
				v = "" // its address says it all
			}
			at := t.Address(i)
			if e.Kind == sitemap.Group {
				at = e.Fixed // nothing answers there, but what is below derives from it
			}
			row = append(row, v, address.Written(at))
			continue
		}
		row = append(row, v)
	}
	return row
}
