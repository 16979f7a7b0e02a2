package sheet

import (
	"fmt"
	"strconv"
	"strings"

	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

func (r *reader) parents() error {
	if r.levelsButNoParents() {
		return r.levelNumbers()
	}
	seen := make(map[string]int, len(r.records))
	for _, rec := range r.records {
		if empty(rec) {
			continue
		}
		w := r.basics(rec, r.cell(rec, "title"))
		if w.entry.Title == "" {
			if w.addr == "" {
				r.find(rec.Line, check.Error, "no-title", w.entry.ID, "", "The row has no title and is left out.")
				continue
			}
			w.entry.Title = titleOf(w.addr)
		}
		if first, twice := seen[w.entry.ID]; twice {
			return &Refused{rec.Line, fmt.Sprintf("the id %q is also on line %d", w.entry.ID, first), "give each entry an id of its own"}
		}
		seen[w.entry.ID] = rec.Line
		w.entry.Parent = r.cell(rec, "parent")
		w.level = -1
		if s := r.cell(rec, "level"); s != "" {
			if n, err := strconv.Atoi(s); err == nil {
				w.level = n
			}
		}
		r.rows = append(r.rows, w)
	}
	for _, w := range r.rows {
		if p := w.entry.Parent; p != "" && seen[p] == 0 {
			return &Refused{w.line, fmt.Sprintf("the parent %q is not in the file", p), "list it, or leave the parent empty for an entry at the top"}
		}
	}
	return nil
}

// levelsButNoParents tells a table whose parent column was left empty while
// its level column tells the hierarchy.
func (r *reader) levelsButNoParents() bool {
	if _, ok := r.column["level"]; !ok {
		return false
	}
	deep := false
	for _, rec := range r.records {
		if r.cell(rec, "parent") != "" {
			return false
		}
		deep = deep || len(r.cell(rec, "level")) > 1 || r.cell(rec, "level") > "1"
	}
	return deep
}

func (r *reader) levelNumbers() error {
	var open []string // ids of the entries on the way down to the last row
	var home string
	for _, rec := range r.records {
		if empty(rec) {
			continue
		}
		w := r.basics(rec, r.cell(rec, "title"))
		if w.entry.Title == "" {
			r.find(rec.Line, check.Error, "no-title", w.entry.ID, "", "The row has no title and is left out.")
			continue
		}
		text := r.cell(rec, "level")
		level, err := strconv.Atoi(strings.TrimSuffix(text, ".0"))
		switch {
		case err != nil || level < 0:
			return &Refused{rec.Line, fmt.Sprintf("the level %q is no number", text), "write 1 for the top, 2 for what is below it, and so on"}
		case level == 0 && home != "":
			return &Refused{rec.Line, "level 0 is used twice", "only the home page has level 0"}
		case level == 0:
			home, open = w.entry.ID, nil
			w.addr = "/"
		case level > sitemap.MaxLevels:
			return tooDeep(rec.Line)
		case level > len(open)+1:
			return &Refused{rec.Line, fmt.Sprintf("the level jumps from %d to %d", len(open), level), "go down one level at a time"}
		default:
			open = append(open[:level-1], w.entry.ID)
			if level > 1 {
				w.entry.Parent = open[level-2]
			}
		}
		w.level = -1
		r.rows = append(r.rows, w)
	}
	return nil
}

// levelColumns reads both shapes with a column for each level. In a row the
// last cell is the entry; cells before it name its ancestors, which are made if
// no row of their own has come yet.
func (r *reader) levelColumns() error {
	if len(r.levels) > sitemap.MaxLevels {
		return tooDeep(0)
	}
	c := columnWalk{reader: r, child: map[string]int{}}
	for _, rec := range r.records {
		if empty(rec) {
			continue
		}
		if err := c.row(rec); err != nil {
			return err
		}
	}
	return nil
}

type columnWalk struct {
	*reader
	open  []int          // rows on the way down
	child map[string]int // parent's temp id + title → row, for ancestors repeated
	bare  []bool         // row was made for an ancestor and waits for a row of its own
}

func (c *columnWalk) row(rec Record) error {
	titles := make([]string, len(c.levels))
	last, named := -1, 0
	for i, col := range c.levels {
		if titles[i] = sitemap.CleanTitle(cellAt(rec, col)); titles[i] != "" {
			last = i
			named++
		}
	}
	if last < 0 {
		c.find(rec.Line, check.Warning, "no-title", "", "", "The row has no title in any level and is left out.")
		return nil
	}
	for i := 0; i < last; i++ {
		if titles[i] == "" {
			if i >= len(c.open) {
				return &Refused{rec.Line, fmt.Sprintf("the level jumps from %d to %d", len(c.open), last+1), "go down one level at a time"}
			}
			continue // as in the row before
		}
		if i < len(c.open) && c.rows[c.open[i]].entry.Title == titles[i] {
			continue
		}
		c.descend(i, titles[i], rec.Line)
	}
	return c.entry(rec, titles[last], last, named > 1)
}

// descend opens the ancestor of that title at level i, known or new.
func (c *columnWalk) descend(i int, title string, line int) {
	c.open = c.open[:i]
	at, known := c.child[c.parentID(i)+"\x00"+title]
	if !known {
		at = c.add(row{line: line, entry: sitemap.Entry{ID: tempID(len(c.rows)), Kind: sitemap.Page, Title: title}}, i, true)
	}
	c.open = append(c.open, at)
}

func (c *columnWalk) parentID(i int) string {
	if i == 0 {
		return ""
	}
	return c.rows[c.open[i-1]].entry.ID
}

func (c *columnWalk) add(w row, i int, bare bool) int {
	w.entry.Parent, w.level = c.parentID(i), -1
	at := len(c.rows)
	c.rows = append(c.rows, w)
	c.bare = append(c.bare, bare)
	c.child[w.entry.Parent+"\x00"+w.entry.Title] = at
	return at
}

func (c *columnWalk) entry(rec Record, title string, i int, repeated bool) error {
	if i > len(c.open) {
		return &Refused{rec.Line, fmt.Sprintf("the level jumps from %d to %d", len(c.open), i+1), "go down one level at a time"}
	}
	c.open = c.open[:i]
	w := c.basics(rec, title)
	at, known := c.child[c.parentID(i)+"\x00"+title]
	if known && c.bare[at] && (repeated || i == 0) {
		parent, temp := c.rows[at].entry.Parent, c.rows[at].entry.ID
		id := w.entry.ID
		w.entry.ID, w.entry.Parent, w.level = temp, parent, -1
		if !isTemp(id) {
			c.tempOf[temp] = id
		}
		c.rows[at], c.bare[at] = w, false
	} else {
		at = c.add(w, i, false)
	}
	c.open = append(c.open, at)
	return nil
}
