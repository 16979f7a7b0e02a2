package sitemap

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
)

// The limits of a sitemap: how many rows a file may have, how many levels may
// stand below each other, and how long an address in a file may be.
const (
	MaxRows    = 200_000
	MaxLevels  = 64
	maxAddress = 2000
)

// tooDeep refuses a file at the line where it goes too deep.
func tooDeep(line int) error {
	return &Refused{line, fmt.Sprintf("more than %d levels stand below each other here", MaxLevels), "bring some of it further up"}
}

// Sheet is a sitemap as read from a file.
type Sheet struct {
	Tree     *Tree
	Line     []int           // of each entry of Tree; 0 for ancestors that no row of their own names
	Given    []bool          // whether the entry's id stood in the file
	Has      map[string]bool // columns that the file has
	Findings []check.Finding
}

// Read understands a table as a sitemap, in any of the four shapes, and gives
// entries without id or slug theirs. The error is always a *Refused.
func Read(records []Record) (*Sheet, error) {
	r := &reader{tempOf: map[string]string{}}
	if err := r.findHeader(records); err != nil {
		return nil, err
	}
	var err error
	switch r.shape {
	case byParent:
		err = r.parents()
	case byLevel:
		err = r.levelNumbers()
	case byColumns:
		err = r.levelColumns()
	}
	if err != nil {
		return nil, err
	}
	return r.finish()
}

// ReadAddresses makes a sitemap of a bare list of addresses, such as a
// sitemaps.org file: every address lies below the nearest listed one above it.
func ReadAddresses(addresses []string) (*Sheet, error) {
	r := &reader{tempOf: map[string]string{}}
	at := map[string]int{}
	for i, a := range addresses {
		n, err := address.Normal(a)
		if err == nil && (len(n) > maxAddress || strings.Count(n, "/") > MaxLevels) {
			err = fmt.Errorf("it is longer than %d characters or %d segments", maxAddress, MaxLevels)
		}
		if err != nil {
			a = a[:min(len(a), maxAddress)]
			r.find(i+1, check.Error, "bad-address", "", a, "This is not an address: "+err.Error())
			continue
		}
		if _, twice := at[n]; twice {
			r.find(i+1, check.Warning, "listed-twice", "", n, "This address is listed twice; the first is used.")
			continue
		}
		at[n] = len(r.rows)
		r.rows = append(r.rows, row{line: i + 1, addr: n, entry: Entry{ID: tempID(len(r.rows)), Kind: Page, Title: titleOf(n)}})
	}
	for i := range r.rows {
		for up := parentPath(r.rows[i].addr); up != "/" && up != ""; up = parentPath(up) {
			if p, ok := at[up]; ok {
				r.rows[i].entry.Parent = r.rows[p].entry.ID
				break
			}
		}
	}
	return r.finish()
}

func parentPath(a string) string { return a[:max(strings.LastIndexByte(a, '/'), 0)] }

// titleOf words the last segment of an address.
func titleOf(a string) string {
	seg := a[strings.LastIndexByte(a, '/')+1:]
	if seg == "" {
		return "Home"
	}
	words := strings.Join(strings.FieldsFunc(seg, func(r rune) bool { return r == '-' || r == '_' }), " ")
	if words == "" {
		return seg
	}
	return strings.ToUpper(words[:1]) + words[1:]
}

type row struct {
	line  int
	addr  string // as given, later normal
	level int
	entry Entry // ids and parents are temporary where the file gives none
}

type reader struct {
	header
	records  []Record
	rows     []row
	tempOf   map[string]string
	findings []check.Finding
	home     int // the row of the home page, or None
}

func (r *reader) find(line int, s check.Severity, rule check.Rule, id, from, message string) {
	r.findings = append(r.findings, check.Finding{Line: line, Severity: s, Rule: rule, ID: id, From: from, Message: message})
}

func (r *reader) findHeader(records []Record) error {
	for i, rec := range records {
		if empty(rec) {
			continue
		}
		if r.header = readHeader(rec.Cells); r.shape == noShape {
			return &Refused{
				rec.Line, "there is no usable header",
				"name the columns: id and parent, or level and title, or Level 1, Level 2, …",
			}
		}
		r.records = records[i+1:]
		if len(r.records) > MaxRows {
			return &Refused{records[len(records)-1].Line, fmt.Sprintf("there are more than %d rows", MaxRows), "split the file"}
		}
		return nil
	}
	return &Refused{0, "the file is empty", "its first row must name the columns"}
}

func tempID(n int) string { return "\x00" + strconv.Itoa(n) }

// basics reads what every shape has in common.
func (r *reader) basics(rec Record, title string) row {
	var e Entry
	for _, f := range fields { // as written; what cannot be is told below
		if f.Counts != WithPlace && f.Key != "title" {
			f.Set(&e, r.cell(rec, f.Key))
		}
	}
	e.ID, e.Title, e.Slug = tempID(len(r.rows)), cleanTitle(title), r.cell(rec, "slug")
	e.Topics, e.Notes = JoinTopics(e.Topics), r.notes(rec)
	if id := r.cell(rec, "id"); id != "" {
		e.ID = id
	}
	kind, ok := ParseKind(r.cell(rec, "kind"))
	if !ok {
		r.find(rec.Line, check.Error, "unknown-kind", e.ID, "", fmt.Sprintf("%q is no kind of entry; it is read as a page. Kinds: page, carried, reference, outside, file, group.", r.cell(rec, "kind")))
	}
	e.Kind = kind
	if len([]rune(e.Title)) > MaxTitle {
		r.find(rec.Line, check.Error, "title-too-long", e.ID, "", fmt.Sprintf("The title has more than %d characters and is cut.", MaxTitle))
		e.Title = string([]rune(e.Title)[:MaxTitle])
	}
	if e.Review != "" {
		if _, err := time.Parse(time.DateOnly, e.Review); err != nil {
			r.find(rec.Line, check.Warning, "bad-date", e.ID, "", fmt.Sprintf("The review date %q is not written like 2026-11-24.", e.Review))
		}
	}
	return row{line: rec.Line, addr: r.cell(rec, "address"), entry: e}
}

// cleanTitle folds white space and drops control characters and marks that
// change the direction of text.
func cleanTitle(s string) string {
	s = strings.Map(func(c rune) rune {
		switch {
		case c == '\t' || c == '\n' || c == '\r' || c == '\u00a0':
			return ' '
		case c < 0x20 || c >= 0x7f && c < 0xa0, c >= 0x202a && c <= 0x202e, c >= 0x2066 && c <= 0x2069, c == 0x200e || c == 0x200f:
			return -1
		}
		return c
	}, s)
	return strings.Join(strings.Fields(s), " ")
}

// CleanTitle is the form in which titles are kept: white space folded, control
// characters and direction marks dropped.
func CleanTitle(s string) string { return cleanTitle(s) }

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
		case level > MaxLevels:
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
	if len(r.levels) > MaxLevels {
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
		if titles[i] = cleanTitle(cellAt(rec, col)); titles[i] != "" {
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
		at = c.add(row{line: line, entry: Entry{ID: tempID(len(c.rows)), Kind: Page, Title: title}}, i, true)
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

func isTemp(id string) bool { return strings.HasPrefix(id, "\x00") }

// finish turns rows into a tree: home, addresses and slugs, ids, references.
func (r *reader) finish() (*Sheet, error) {
	r.findHome()
	list := make([]Entry, len(r.rows))
	rowOf := make(map[string]int, len(r.rows))
	for i := range r.rows {
		list[i] = r.rows[i].entry
		list[i].Slug, list[i].Fixed = "", ""
		if i == r.home {
			list[i].Fixed = "/"
		}
		if first, twice := rowOf[list[i].ID]; twice {
			return nil, &Refused{r.rows[i].line, fmt.Sprintf("the id %q is also on line %d", list[i].ID, r.rows[first].line), "give each entry an id of its own"}
		}
		rowOf[list[i].ID] = i
	}
	if line, deep := deepest(list, rowOf, r.rows); deep {
		return nil, tooDeep(line)
	}
	t, err := New(list)
	if shape := (*ShapeError)(nil); errors.As(err, &shape) {
		return nil, &Refused{r.rows[rowOf[shape.ID]].line, fmt.Sprintf("the entry %q %s", shape.ID, shape.Problem), "correct its parent"}
	}
	order := make([]int, t.Len())
	for i := range order {
		order[i] = rowOf[t.entries[i].ID]
	}
	r.checkLevels(t, order)
	r.addresses(t, order)
	return r.sheet(t, order)
}

// deepest finds a row that stands too deep. Rings are left to whoever builds the
// tree.
func deepest(list []Entry, rowOf map[string]int, rows []row) (line int, deep bool) {
	level := make([]int, len(list)) // 0: not known yet
	var way []int
	for i := range list {
		way = way[:0]
		at, ok := i, true
		for ok && level[at] == 0 && len(way) <= len(list) {
			way = append(way, at)
			at, ok = rowOf[list[at].Parent]
			if list[way[len(way)-1]].Parent == "" {
				ok = false
			}
		}
		base := 0
		if ok {
			base = level[at]
		}
		for k := len(way) - 1; k >= 0; k-- {
			base++
			if level[way[k]] = base; base > MaxLevels {
				if len(way) > len(list) {
					return 0, false // a ring
				}
				return rows[way[k]].line, true
			}
		}
	}
	return 0, false
}

func (r *reader) findHome() {
	for i := range r.rows {
		w := &r.rows[i]
		if address.IsURL(w.addr) {
			if w.entry.Kind == Outside && w.entry.Target == "" {
				w.entry.Target, w.addr = w.addr, ""
				continue
			}
			w.addr = pathOf(w.addr)
		}
		if w.addr == "" || !w.entry.Kind.HoldsChildren() {
			continue
		}
		path, _, _ := address.Split(w.addr)
		n, err := address.Normal(path)
		if err != nil {
			r.find(w.line, check.Error, "bad-address", showID(w.entry.ID), w.addr, "This is not an address; one is made from the title.")
		}
		w.addr = n
	}
	r.home = slices.IndexFunc(r.rows, func(w row) bool {
		return w.addr == "/" && w.entry.Parent == "" && w.entry.Kind.IsPage()
	})
}

func showID(id string) string {
	if isTemp(id) {
		return ""
	}
	return id
}

func pathOf(rawURL string) string {
	_, rest, _ := strings.Cut(rawURL, "://")
	if i := strings.IndexByte(rest, '/'); i >= 0 {
		return rest[i:]
	}
	return "/"
}

func (r *reader) checkLevels(t *Tree, order []int) {
	if r.shape != byParent {
		return
	}
	for i, at := range order {
		if w := r.rows[at]; w.level >= 0 && w.level != t.Level(i) {
			r.find(w.line, check.Warning, "level-differs", w.entry.ID, "", fmt.Sprintf("The level is given as %d, but the parent makes it %d; the parent is used.", w.level, t.Level(i)))
		}
	}
}

// sheet gives final ids and resolves references to them.
func (r *reader) sheet(t *Tree, order []int) (*Sheet, error) {
	s := &Sheet{Line: make([]int, t.Len()), Given: make([]bool, t.Len()), Has: map[string]bool{}}
	for c := range r.column {
		s.Has[c] = true
	}
	s.Has["title"] = true
	final := make(map[string]string, t.Len())
	used := make(map[string]bool, t.Len())
	for i := range t.entries {
		if id := r.ownID(t.entries[i].ID); id != "" {
			final[t.entries[i].ID], used[id], s.Given[i] = id, true, true
		}
	}
	var names address.Namer
	for i := range t.entries {
		if temp := t.entries[i].ID; final[temp] == "" {
			id := names.Unused(derivedID(t, i), func(id string) bool { return used[id] })
			final[temp], used[id] = id, true
		}
		s.Line[i] = r.rows[order[i]].line
	}
	list := make([]Entry, t.Len())
	for i, e := range t.entries {
		e.Target = r.target(t, e, r.rows[order[i]].line, final)
		e.ID = final[e.ID]
		if e.Parent != "" {
			e.Parent = final[e.Parent]
		}
		list[i] = e
	}
	for i := range r.findings {
		if id := r.findings[i].ID; isTemp(id) {
			r.findings[i].ID = final[id]
		}
	}
	s.Findings = r.findings
	var err error
	if s.Tree, err = New(list); err != nil {
		return nil, &Refused{0, err.Error(), "correct the file"}
	}
	return s, nil
}

func (r *reader) ownID(temp string) string {
	if isTemp(temp) {
		return r.tempOf[temp]
	}
	return temp
}

// derivedID makes the same id for the same address, else path of titles, each
// time a file is read.
func derivedID(t *Tree, i int) string {
	key := t.Address(i)
	if key == "" {
		key = strings.Join(t.Path(i), "\x00")
	}
	sum := sha256.Sum256([]byte(key))
	return "e" + hex.EncodeToString(sum[:8])
}

// target of a reference is an id or an address, and becomes an id.
func (r *reader) target(t *Tree, e Entry, line int, final map[string]string) string {
	if e.Kind != Reference {
		return e.Target
	}
	if id := final[e.Target]; e.Target != "" && id != "" {
		return id
	}
	if n, err := address.Normal(pathIfURL(e.Target)); err == nil && e.Target != "" {
		if i := t.ClaimedBy(n); i != None {
			return final[t.entries[i].ID]
		}
	}
	r.find(line, check.Error, "reference-to-nothing", e.ID, "", fmt.Sprintf("The reference leads to %q, which is neither an id nor an address of this sitemap.", e.Target))
	return e.Target
}

func pathIfURL(s string) string {
	if address.IsURL(s) {
		return pathOf(s)
	}
	return s
}
