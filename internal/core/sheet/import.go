package sheet

import (
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// ImportMode is how a file is imported.
type ImportMode string

// The modes. Only Replace removes anything.
const (
	Below   ImportMode = "below"   // add what is listed below an entry
	Update  ImportMode = "update"  // change what is listed, add what is new
	Replace ImportMode = "replace" // make a branch what is listed
)

// ImportOutcome is what an import does to one row or entry.
type ImportOutcome string

// The outcomes.
const (
	Same       ImportOutcome = "same"
	IsAdded    ImportOutcome = "added"
	IsChanged  ImportOutcome = "changed"
	IsRemoved  ImportOutcome = "removed"
	IsRefused  ImportOutcome = "refused"
	IsAnnotate ImportOutcome = "note" // a finding of reading the file
)

// ImportResult is the outcome of importing a file.
type ImportResult struct {
	Tree  *sitemap.Tree
	Lines []ImportLine
	IDs   map[string]string // id in the file → id of the entry
	Count map[ImportOutcome]int
}

// Import computes what a file makes of the tree. Rows are matched by id (known
// holds ids imported before), else by address, else by parent and title.
// place is the entry for Below and Replace, empty for the top.
func Import(t *sitemap.Tree, s *Sheet, mode ImportMode, place string, known map[string]string, newID func() string) (*ImportResult, error) {
	b := &importer{
		t: t, s: s, mode: mode, place: place, known: known, newID: newID,
		ids: make([]string, s.Tree.Len()), outcome: make([]ImportOutcome, s.Tree.Len()), why: make([]string, s.Tree.Len()), matched: map[string]int{}, titled: map[int]map[string][]int{},
	}
	if place != "" {
		if p := t.Find(place); p == sitemap.None || !t.Ref(p).Kind.HoldsChildren() {
			return nil, sitemap.ErrNoEntry
		}
	}
	b.match()
	b.merge()
	return b.build()
}

type importer struct {
	t       *sitemap.Tree
	s       *Sheet
	mode    ImportMode
	place   string
	known   map[string]string
	newID   func() string
	ids     []string                 // entry of each row
	outcome []ImportOutcome          // of each row
	why     []string                 // of each row
	matched map[string]int           // entry → row
	titled  map[int]map[string][]int // children of an entry of t, by title
	list    map[string]sitemap.Entry

	inherited map[string]string   // templates that new entries take over, by parent
	order     map[string][]string // children in order
	removed   []string
}

// match finds the entry of every row, or makes an id for a new one.
func (b *importer) match() {
	for r := range b.s.Tree.Len() {
		if id := b.find(r); id != "" {
			b.ids[r], b.matched[id], b.outcome[r] = id, r, Same
			continue
		}
		b.ids[r], b.outcome[r] = b.newID(), IsAdded
	}
}

func (b *importer) find(r int) string {
	st, e := b.s.Tree, b.s.Tree.Ref(r)
	free := func(id string) bool {
		_, taken := b.matched[id]
		return id != "" && !taken && b.t.Find(id) != sitemap.None
	}
	if r == st.Home() && b.t.Home() != sitemap.None {
		return b.t.Ref(b.t.Home()).ID
	}
	if id := b.known[e.ID]; free(id) {
		return id
	}
	if free(e.ID) {
		return e.ID
	}
	if b.mode == Below {
		return b.byTitle(r, free)
	}
	if a := st.Claim(r); a != "" {
		if i := b.t.ClaimedBy(a); i != sitemap.None && free(b.t.Ref(i).ID) {
			return b.t.Ref(i).ID
		}
	}
	return b.byTitle(r, free)
}

// byTitle looks among the children of the row's parent for the same title.
func (b *importer) byTitle(r int, free func(string) bool) string {
	parent := b.t.Home()
	if id := b.parentID(r); id != "" {
		if parent = b.t.Find(id); parent == sitemap.None {
			return ""
		}
	}
	by, title := b.children(parent), b.s.Tree.Ref(r).Title
	for len(by[title]) > 0 {
		id := b.t.Ref(by[title][0]).ID
		by[title] = by[title][1:] // it is taken now, if it was not yet
		if free(id) {
			return id
		}
	}
	return ""
}

// children gives the children of an entry of the tree, by title.
func (b *importer) children(parent int) map[string][]int {
	if known, ok := b.titled[parent]; ok {
		return known
	}
	by := map[string][]int{}
	for c := range b.t.Children(parent) {
		by[b.t.Ref(c).Title] = append(by[b.t.Ref(c).Title], c)
	}
	b.titled[parent] = by
	return by
}

// parentID is the entry below which a row stands: its parent's, or the place.
func (b *importer) parentID(r int) string {
	p := b.s.Tree.Parent(r)
	if p == sitemap.None || p == b.s.Tree.Home() {
		if b.mode == Update {
			return ""
		}
		return b.place
	}
	return b.ids[p]
}

// merge works out the entries and the order of children.
func (b *importer) merge() {
	b.list = make(map[string]sitemap.Entry, b.t.Len()+len(b.ids))
	b.order = map[string][]string{}
	for _, e := range b.t.Entries() {
		b.list[e.ID] = e
		b.order[e.Parent] = append(b.order[e.Parent], e.ID)
	}
	listed := map[string][]string{}
	for r := range b.ids {
		if r == b.s.Tree.Home() && b.t.Home() != sitemap.None {
			b.outcome[r], b.why[r] = Same, "the home page stays as it is"
			continue
		}
		if b.outcome[r] == Same && b.mode == Below {
			b.outcome[r], b.why[r] = IsRefused, "it is there already; choose “update what is listed” to change it"
			continue
		}
		e := b.entry(r)
		listed[e.Parent] = append(listed[e.Parent], e.ID)
		b.list[e.ID] = e
	}
	b.arrange(listed)
	if b.mode == Replace {
		b.drop()
	}
}

// entry is what the row makes of its entry: the columns that the file has.
func (b *importer) entry(r int) sitemap.Entry {
	row, has := b.s.Tree.At(r), b.s.Has
	row.Target = b.target(row)
	if b.outcome[r] == IsAdded {
		row.ID, row.Parent, row.Rank = b.ids[r], b.parentID(r), ""
		if row.Template == "" {
			row.Template = b.templateAbove(row.Parent)
		}
		return row
	}
	old := b.t.At(b.t.Find(b.ids[r]))
	e := old
	e.Parent = b.parentID(r)
	e.Title = row.Title
	if has["slug"] && row.Slug != "" || has["address"] && row.SlugHeld {
		if row.Slug != e.Slug {
			e.Slug, e.SlugHeld = row.Slug, true
		}
	} else if !e.SlugHeld && e.Kind.IsPage() && e.Title != old.Title {
		e.Slug = address.Slug(e.Title)
	}
	if has["address"] && (row.Fixed != "" || has["slug"]) {
		e.Fixed = row.Fixed
	}
	for _, f := range sitemap.Fields() {
		if has[f.Key] && f.Counts != sitemap.WithPlace && f.Key != "title" {
			f.Copy(&e, &row)
		}
	}
	if has["kind"] && e.Kind != row.Kind {
		if b.t.HasChildren(b.t.Find(old.ID)) && !row.Kind.HoldsChildren() {
			b.why[r] = "its kind stays, because entries are below it"
		} else {
			e.Kind = row.Kind
		}
	}
	if e != old {
		b.outcome[r] = IsChanged
	}
	return e
}

func (b *importer) target(row sitemap.Entry) string {
	if row.Kind != sitemap.Reference {
		return row.Target
	}
	if i := b.s.Tree.Find(row.Target); i != sitemap.None {
		return b.ids[i]
	}
	if id := b.known[row.Target]; id != "" {
		return id
	}
	return row.Target
}

// templateAbove is the template that a new entry takes over below a parent, worked out once
// for each.
func (b *importer) templateAbove(parent string) string {
	if e, ok := b.list[parent]; ok && b.t.Find(parent) == sitemap.None {
		return e.Template
	}
	if b.inherited == nil {
		b.inherited = map[string]string{}
	}
	if _, known := b.inherited[parent]; !known {
		b.inherited[parent] = b.t.InheritedTemplate(parent)
	}
	return b.inherited[parent]
}

// arrange puts the listed entries among the children of their parents: in the
// order of the file, the others staying behind whom they followed.
func (b *importer) arrange(listed map[string][]string) {
	left := map[string]bool{} // parents that entries leave
	for id, e := range b.list {
		if i := b.t.Find(id); i != sitemap.None && b.t.Ref(i).Parent != e.Parent {
			left[b.t.Ref(i).Parent] = true
		}
	}
	for parent := range left {
		b.order[parent] = slices.DeleteFunc(b.order[parent], func(c string) bool { return b.list[c].Parent != parent })
	}
	for parent, ids := range listed {
		there := b.order[parent]
		in := map[string]int{} // place of each that is there, from 1
		for p, id := range there {
			in[id] = p + 1
		}
		at, sorted := 0, true
		for _, id := range ids {
			if p := in[id]; p > 0 {
				sorted = sorted && p > at
				at = p
			}
		}
		if !sorted {
			wanted := map[string]bool{}
			for _, id := range ids {
				wanted[id] = true
			}
			there = slices.DeleteFunc(slices.Clone(there), func(id string) bool { return wanted[id] })
			in = map[string]int{}
		}
		b.order[parent] = weave(there, ids, in)
	}
}

// weave inserts the ids that are not in yet after the id before them; new ones at
// the beginning go to the end.
func weave(there, ids []string, in map[string]int) []string {
	behind := map[string][]string{} // newcomers, by whom of those there they follow
	anchor := ""
	if len(there) > 0 {
		anchor = there[len(there)-1]
	}
	for _, id := range ids {
		if in[id] > 0 {
			anchor = id
			continue
		}
		behind[anchor] = append(behind[anchor], id)
	}
	out := slices.Clone(behind[""])
	for _, id := range there {
		out = append(append(out, id), behind[id]...)
	}
	return out
}

// drop removes what is below the place and not listed.
func (b *importer) drop() {
	p := b.t.Home()
	if b.place != "" {
		p = b.t.Find(b.place)
	}
	for i := p + 1; i < b.t.End(p); i++ {
		id := b.t.Ref(i).ID
		if _, listed := b.matched[id]; !listed {
			b.removed = append(b.removed, id)
			delete(b.list, id)
		}
	}
}

func (b *importer) build() (*ImportResult, error) {
	next, err := sitemap.New(b.flat())
	if shape := (*sitemap.ShapeError)(nil); errors.As(err, &shape) {
		return nil, &Refused{0, fmt.Sprintf("with this file, %q %s", b.list[shape.ID].Title, shape.Problem), "list the entries in between too, or choose another mode"}
	}
	if err != nil {
		return nil, err
	}
	for i := range next.Len() {
		if next.Level(i) > sitemap.MaxLevels {
			return nil, &Refused{0, fmt.Sprintf("with this file, %q stands on level %d; a sitemap has at most %d", next.Ref(i).Title, next.Level(i), sitemap.MaxLevels), "choose a place further up"}
		}
	}
	if next, err = b.freeAll(next); err != nil {
		return nil, err
	}
	ranked := next.Entries()
	for id, rank := range sitemap.Rerank(next) {
		ranked[next.Find(id)].Rank = rank
	}
	if next, err = sitemap.New(ranked); err != nil {
		return nil, err
	}
	return b.report(next), nil
}

func (b *importer) flat() []sitemap.Entry {
	out := make([]sitemap.Entry, 0, len(b.list))
	var put func(parent string)
	put = func(parent string) {
		for _, id := range b.order[parent] {
			if e, ok := b.list[id]; ok {
				out = append(out, e)
				delete(b.list, id)
				put(id)
			}
		}
	}
	put("")
	for _, e := range b.list { // children of what was removed, or a ring: New says which
		out = append(out, e)
	}
	return out
}

// freeAll gives newcomers whose address is taken another slug.
func (b *importer) freeAll(t *sitemap.Tree) (*sitemap.Tree, error) {
	isNew := map[string]bool{}
	for r, id := range b.ids {
		if b.outcome[r] == IsAdded || b.outcome[r] == IsChanged {
			isNew[id] = true
		}
	}
	for range 20 {
		holder, entries := map[string]int{}, t.Entries()
		for i := range entries {
			a := t.Claim(i)
			if a == "" {
				continue
			}
			if _, taken := holder[a]; !taken || !isNew[entries[i].ID] {
				holder[a] = i
			}
		}
		renamed, names := false, map[string]*address.Namer{}
		for i := range entries {
			e, a := &entries[i], t.Claim(i)
			if a == "" || holder[a] == i || !isNew[e.ID] || e.Fixed != "" {
				continue
			}
			above := t.Prefix(t.Parent(i))
			if names[above] == nil {
				names[above] = &address.Namer{}
			}
			e.Slug = names[above].Unused(e.Slug, func(s string) bool { _, taken := holder[address.Join(above, "/"+s)]; return taken })
			holder[address.Join(above, "/"+e.Slug)] = i
			renamed = true
		}
		if !renamed {
			return t, nil
		}
		var err error
		if t, err = sitemap.New(entries); err != nil {
			return nil, err
		}
	}
	return t, nil
}
