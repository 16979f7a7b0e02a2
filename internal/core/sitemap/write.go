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
	listed := "yes"
	if e.Unlisted {
		listed = "no"
	}
	slug := e.Slug
	if e.Fixed != "" || !e.Kind.HoldsChildren() {
		slug = ""
	}
	parent := e.Parent
	return []string{
		e.ID, parent, strconv.Itoa(t.Level(i)), e.Title, e.Short, slug, address.Written(t.Address(i)), string(e.Kind),
		e.Target, e.Source, e.Template, e.Owner, listed, e.Topics, e.Readership, e.Review, e.Notes,
	}
}
