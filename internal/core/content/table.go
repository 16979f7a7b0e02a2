package content

import (
	"slices"
	"strings"
)

// Most rows and columns of a file that are shown as a table on a page; longer ones are
// downloads.
const (
	MostTableRows    = 1_000
	MostTableColumns = 30
)

// TableText writes rows of a file as a table in CommonMark, the first of them as its head, and
// tells how many rows were left out because there are too many. Columns and rows that hold
// nothing are left out, too.
func TableText(rows [][]string) (text string, left int) {
	rows = slices.DeleteFunc(slices.Clone(rows), func(row []string) bool { return strings.TrimSpace(strings.Join(row, "")) == "" })
	if len(rows) > MostTableRows+1 {
		left, rows = len(rows)-MostTableRows-1, rows[:MostTableRows+1]
	}
	columns := filledColumns(rows)
	if len(columns) == 0 {
		return "", left
	}
	var b strings.Builder
	line := func(cell func(column int) string) {
		for _, c := range columns {
			b.WriteString("| " + cell(c) + " ")
		}
		b.WriteString("|\n")
	}
	for i, row := range rows {
		line(func(c int) string {
			if c < len(row) {
				return cellText(row[c])
			}
			return ""
		})
		if i == 0 {
			line(func(int) string { return "---" })
		}
	}
	return b.String(), left
}

func filledColumns(rows [][]string) (columns []int) {
	width := 0
	for _, row := range rows {
		width = max(width, len(row))
	}
	for c := range width {
		if slices.ContainsFunc(rows, func(row []string) bool { return c < len(row) && strings.TrimSpace(row[c]) != "" }) {
			columns = append(columns, c)
		}
	}
	return columns[:min(len(columns), MostTableColumns)]
}

// cellText is what a cell says as plain words of CommonMark.
func cellText(s string) string {
	return escaped.Replace(tidy(s))
}

var escaped = strings.NewReplacer(`\`, `\\`, "|", `\|`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, "&", `\&`, "~", `\~`)
