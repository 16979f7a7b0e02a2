// Package sheet holds what files and sitemaps have in common: a Sheet is a sitemap
// as a table tells it, whatever the format of the file.
//
// Four shapes of tables are understood: with id and parent, with a level and a
// title, with a column for each level, and a bare list of addresses. Read and its
// sisters give every row a place, an address and an id, and say as findings what
// they had to decide; only a table that gives no tree at all is Refused.
//
//	level  title                     /visitors
//	1      Visitors             →    /visitors/opening-hours
//	2      Opening hours             (slugs are made from titles where none are given)
//
// Import then computes what a sheet makes of a sitemap: rows are matched with
// entries, and each row and each entry gets one outcome. Rows goes the other way.
package sheet

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
	"candlepath/internal/core/sitemap"
)

// maxAddress is how long an address in a file may be.
const maxAddress = 2000

// tooDeep refuses a file at the line where it goes too deep.
func tooDeep(line int) error {
	return &Refused{line, fmt.Sprintf("more than %d levels stand below each other here", sitemap.MaxLevels), "bring some of it further up"}
}

// Sheet is a sitemap as read from a file.
type Sheet struct {
	Tree     *sitemap.Tree
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

type row struct {
	line  int
	addr  string // as given, later normal
	level int
	entry sitemap.Entry // ids and parents are temporary where the file gives none
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
		if len(r.records) > sitemap.MaxRows {
			return &Refused{records[len(records)-1].Line, fmt.Sprintf("there are more than %d rows", sitemap.MaxRows), "split the file"}
		}
		return nil
	}
	return &Refused{0, "the file is empty", "its first row must name the columns"}
}

func tempID(n int) string { return "\x00" + strconv.Itoa(n) }

// basics reads what every shape has in common.
func (r *reader) basics(rec Record, title string) row {
	var e sitemap.Entry
	for _, f := range sitemap.Fields() { // as written; what cannot be is told below
		if f.Counts != sitemap.WithPlace && f.Key != "title" {
			f.Set(&e, r.cell(rec, f.Key))
		}
	}
	e.ID, e.Title, e.Slug = tempID(len(r.rows)), sitemap.CleanTitle(title), r.cell(rec, "slug")
	e.Topics, e.Notes = sitemap.JoinTopics(e.Topics), r.notes(rec)
	if id := r.cell(rec, "id"); id != "" {
		e.ID = id
	}
	kind, ok := sitemap.ParseKind(r.cell(rec, "kind"))
	if !ok {
		r.find(rec.Line, check.Error, "unknown-kind", e.ID, "", fmt.Sprintf("%q is no kind of entry; it is read as a page. Kinds: page, carried, reference, outside, file, group.", r.cell(rec, "kind")))
	}
	e.Kind = kind
	if len([]rune(e.Title)) > sitemap.MaxTitle {
		r.find(rec.Line, check.Error, "title-too-long", e.ID, "", fmt.Sprintf("The title has more than %d characters and is cut.", sitemap.MaxTitle))
		e.Title = string([]rune(e.Title)[:sitemap.MaxTitle])
	}
	if e.Review != "" {
		if _, err := time.Parse(time.DateOnly, e.Review); err != nil {
			r.find(rec.Line, check.Warning, "bad-date", e.ID, "", fmt.Sprintf("The review date %q is not written like 2026-11-24.", e.Review))
		}
	}
	return row{line: rec.Line, addr: r.cell(rec, "address"), entry: e}
}

func isTemp(id string) bool { return strings.HasPrefix(id, "\x00") }

// finish turns rows into a tree: home, addresses and slugs, ids, references.
func (r *reader) finish() (*Sheet, error) {
	r.findHome()
	list := make([]sitemap.Entry, len(r.rows))
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
	t, err := sitemap.New(list)
	if shape := (*sitemap.ShapeError)(nil); errors.As(err, &shape) {
		return nil, &Refused{r.rows[rowOf[shape.ID]].line, fmt.Sprintf("the entry %q %s", shape.ID, shape.Problem), "correct its parent"}
	}
	order := make([]int, t.Len())
	for i := range order {
		order[i] = rowOf[t.Ref(i).ID]
	}
	r.checkLevels(t, order)
	if t, err = r.addresses(t, order); err != nil {
		return nil, err
	}
	return r.sheet(t, order)
}

// deepest finds a row that stands too deep. Rings are left to whoever builds the
// tree.
func deepest(list []sitemap.Entry, rowOf map[string]int, rows []row) (line int, deep bool) {
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
			if level[way[k]] = base; base > sitemap.MaxLevels {
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
			if w.entry.Kind == sitemap.Outside && w.entry.Target == "" {
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

func (r *reader) checkLevels(t *sitemap.Tree, order []int) {
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
func (r *reader) sheet(t *sitemap.Tree, order []int) (*Sheet, error) {
	s := &Sheet{Line: make([]int, t.Len()), Given: make([]bool, t.Len()), Has: map[string]bool{}}
	for c := range r.column {
		s.Has[c] = true
	}
	s.Has["title"] = true
	final := make(map[string]string, t.Len())
	used := make(map[string]bool, t.Len())
	for i := range t.Len() {
		if id := r.ownID(t.Ref(i).ID); id != "" {
			final[t.Ref(i).ID], used[id], s.Given[i] = id, true, true
		}
	}
	var names address.Namer
	for i := range t.Len() {
		if temp := t.Ref(i).ID; final[temp] == "" {
			id := names.Unused(derivedID(t, i), func(id string) bool { return used[id] })
			final[temp], used[id] = id, true
		}
		s.Line[i] = r.rows[order[i]].line
	}
	list := make([]sitemap.Entry, t.Len())
	for i, e := range t.Entries() {
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
	if s.Tree, err = sitemap.New(list); err != nil {
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
func derivedID(t *sitemap.Tree, i int) string {
	key := t.Address(i)
	if key == "" {
		key = strings.Join(t.Path(i), "\x00")
	}
	sum := sha256.Sum256([]byte(key))
	return "e" + hex.EncodeToString(sum[:8])
}

// target of a reference is an id or an address, and becomes an id.
func (r *reader) target(t *sitemap.Tree, e sitemap.Entry, line int, final map[string]string) string {
	if e.Kind != sitemap.Reference {
		return e.Target
	}
	if id := final[e.Target]; e.Target != "" && id != "" {
		return id
	}
	if n, err := address.Normal(pathIfURL(e.Target)); err == nil && e.Target != "" {
		if i := t.ClaimedBy(n); i != sitemap.None {
			return final[t.Ref(i).ID]
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
