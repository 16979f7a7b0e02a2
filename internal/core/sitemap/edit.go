package sitemap

import (
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/address"
)

// Errors of edits that the interface words for people.
var (
	ErrNoEntry     = errors.New("the entry is not in the sitemap any more")
	ErrUnderSelf   = errors.New("an entry cannot be moved below itself")
	ErrNoChildren  = errors.New("only pages and groups can have entries below them")
	ErrHome        = errors.New("the home page stays where it is")
	ErrNoTitle     = errors.New("an entry needs a title")
	ErrNotSiblings = errors.New("these entries are not next to each other; select neighbours")
	ErrLongTitle   = fmt.Errorf("a title has at most %d characters", MaxTitle)
	ErrSlug        = errors.New("a slug is one segment of letters, digits and hyphens, at most 80 characters")
	ErrKind        = errors.New("this kind cannot have entries below it; move them first")
	ErrNowhere     = errors.New("there is no step in that direction")
	ErrDeep        = fmt.Errorf("a sitemap has at most %d levels", MaxLevels)
)

// MaxTitle is the most characters a title may have.
const MaxTitle = 300

// Spot is a place in the tree: below Parent (empty for the top) and right after
// the sibling After (empty for first).
type Spot struct {
	Parent string
	After  string
}

// at finds the index at which a run has to be inserted to stand at the spot.
func (t *Tree) at(s Spot) (parent, index int, err error) {
	parent = t.home
	if s.Parent != "" {
		if parent = t.Find(s.Parent); parent == None {
			return 0, 0, ErrNoEntry
		}
	}
	if parent != None && !t.entries[parent].Kind.HoldsChildren() {
		return 0, 0, ErrNoChildren
	}
	if s.After == "" {
		return parent, parent + 1, nil
	}
	after := t.Find(s.After)
	if after == None || t.Parent(after) != parent {
		return 0, 0, ErrNoEntry
	}
	return parent, t.End(after), nil
}

// Last is the spot after the last child of parent (empty for the top).
func (t *Tree) Last(parent string) Spot {
	s := Spot{Parent: parent}
	p := t.home
	if parent != "" {
		if p = t.Find(parent); p == None {
			return s
		}
	}
	for c := range t.Children(p) {
		s.After = t.entries[c].ID
	}
	return s
}

// SpotOf is where the entry stands now.
func (t *Tree) SpotOf(i int) Spot {
	s := Spot{Parent: t.entries[i].Parent}
	for c := range t.Children(t.Parent(i)) {
		if c == i {
			break
		}
		s.After = t.entries[c].ID
	}
	return s
}

// Add puts a new entry at the spot. Its slug is made from the title unless it
// is held.
func (t *Tree) Add(e Entry, s Spot) (*Tree, error) {
	if err := checkTitle(e.Title); err != nil {
		return nil, err
	}
	if e.Kind == "" {
		e.Kind = Page
	}
	_, at, err := t.at(s)
	if err != nil {
		return nil, err
	}
	e.Parent = s.Parent
	if t.Len() == 0 && e.Kind.IsPage() {
		e.Fixed = "/" // the first page of a site is its home
	}
	if e.Kind.IsPage() && e.Slug == "" && e.Fixed == "" {
		e.Slug = address.Slug(e.Title)
	}
	return t.rebuild(slices.Insert(t.Refs(), at, &e), e.ID)
}

// Move cuts out the branch of an entry and puts it in at the spot.
func (t *Tree) Move(id string, s Spot) (*Tree, error) { return t.MoveAll([]string{id}, s) }

// MoveAll cuts out the branches of entries and puts them in at the spot, in the
// order in which they stand. An entry below another of them goes with that.
func (t *Tree) MoveAll(ids []string, s Spot) (*Tree, error) {
	chosen, err := t.branches(ids)
	if err != nil {
		return nil, err
	}
	if p := t.Find(s.Parent); p != None && slices.ContainsFunc(chosen, func(b int) bool { return t.Contains(b, p) }) {
		return nil, ErrUnderSelf
	}
	for k := t.Find(s.After); k != None && slices.Contains(chosen, k) && t.entries[k].Parent == s.Parent; k = t.Find(s.After) {
		s.After = t.SpotOf(k).After // it moves itself: behind what is before it
	}
	_, at, err := t.at(s)
	if err != nil {
		return nil, err
	}
	list, branches := make([]*Entry, 0, t.Len()), make([]*Entry, 0, t.Len())
	from, tops := 0, make([]string, len(chosen))
	cut := func(to int) {
		list = append(list, t.entries[from:max(from, to)]...)
	}
	for k, i := range chosen {
		tops[k] = t.entries[i].ID
		top := len(branches)
		branches = append(branches, t.entries[i:t.End(i)]...)
		first := *branches[top]
		first.Parent, first.Rank = s.Parent, ""
		branches[top] = &first
		cut(i)
		from = t.End(i)
	}
	cut(t.Len())
	for k := len(chosen) - 1; k >= 0; k-- {
		if i := chosen[k]; at > i {
			at -= t.End(i) - i
		}
	}
	return t.rebuild(slices.Insert(list, at, branches...), tops...)
}

// branches finds entries, in document order and without those below another of
// them. Home is none that can move or go.
func (t *Tree) branches(ids []string) ([]int, error) {
	found := make([]int, 0, len(ids))
	for _, id := range ids {
		i := t.Find(id)
		if i == None {
			return nil, ErrNoEntry
		}
		if i == t.home {
			return nil, ErrHome
		}
		found = append(found, i)
	}
	slices.Sort(found)
	end := 0
	return slices.DeleteFunc(found, func(i int) bool {
		if i < end {
			return true
		}
		end = t.End(i)
		return false
	}), nil
}

// Step is a small move from the keyboard.
type Step string

// The steps: up and down among siblings; in makes the entry the last child of
// the sibling before it; out puts it right after its parent.
const (
	Up   Step = "up"
	Down Step = "down"
	In   Step = "in"
	Out  Step = "out"
)

// StepAll moves neighbours one step, keeping their order, or says ErrNowhere. An
// entry below another of them goes with that; all others have one parent.
func (t *Tree) StepAll(ids []string, step Step) (*Tree, error) {
	s, err := t.stepSpot(ids, step)
	if err != nil {
		return nil, err
	}
	return t.MoveAll(ids, s)
}

// stepSpot is the spot to which a step leads.
func (t *Tree) stepSpot(ids []string, step Step) (Spot, error) {
	chosen, err := t.branches(ids)
	if err != nil {
		return Spot{}, err
	}
	if len(chosen) == 0 {
		return Spot{}, ErrNowhere
	}
	first, last := chosen[0], chosen[len(chosen)-1]
	parent := t.Parent(first)
	if slices.ContainsFunc(chosen, func(i int) bool { return t.Parent(i) != parent }) {
		return Spot{}, ErrNotSiblings
	}
	before, beforeThat, after := None, None, None
	for c := range t.Children(parent) {
		if c < first {
			beforeThat, before = before, c
		} else if c > last {
			after = c
			break
		}
	}
	switch {
	case step == Up && before != None:
		return Spot{t.entries[first].Parent, t.idOf(beforeThat)}, nil
	case step == Down && after != None:
		return Spot{t.entries[first].Parent, t.idOf(after)}, nil
	case step == In && before != None:
		if !t.entries[before].Kind.HoldsChildren() {
			return Spot{}, ErrNoChildren
		}
		return t.Last(t.entries[before].ID), nil
	case step == Out && parent != None && parent != t.home:
		return Spot{t.entries[parent].Parent, t.entries[parent].ID}, nil
	}
	return Spot{}, ErrNowhere
}

func (t *Tree) idOf(i int) string {
	if i == None {
		return ""
	}
	return t.entries[i].ID
}

// Remove takes an entry and all below it out of the sitemap.
func (t *Tree) Remove(id string) (*Tree, error) { return t.RemoveAll([]string{id}) }

// RemoveAll takes entries and all below them out of the sitemap.
func (t *Tree) RemoveAll(ids []string) (*Tree, error) {
	chosen, err := t.branches(ids)
	if err != nil {
		return nil, err
	}
	list, from := make([]*Entry, 0, t.Len()), 0
	for _, i := range chosen {
		list = append(list, t.entries[from:i]...)
		from = t.End(i)
	}
	return t.Alter(append(list, t.entries[from:]...))
}

// Retitle changes the title. The slug follows until it is held.
func (t *Tree) Retitle(id, title string) (*Tree, error) {
	return t.Change(id, func(e *Entry) { e.Retitle(title) })
}

// Change lets set alter an entry's own facts (not its id, parent or rank).
func (t *Tree) Change(id string, set func(*Entry)) (*Tree, error) {
	return t.ChangeAll([]string{id}, set)
}

// Withdraw takes pages out of what colleagues see, or lets them return. Entries
// that are no pages have nothing to see, and stay as they are.
func (t *Tree) Withdraw(ids []string, away bool) (*Tree, error) {
	return t.ChangeAll(ids, func(e *Entry) { e.Withdrawn = away && e.Kind.IsPage() })
}

// SplitOff adds a page with what was on the page at an index: like it, below it, or
// beside it with the same readers. What was split off the home page stands last at
// the top.
func (t *Tree) SplitOff(i int, id, title string, beside bool) (*Tree, error) {
	from := t.entries[i]
	e := Entry{ID: id, Title: title, Kind: Page, Template: from.Template, Owner: from.Owner, Topics: from.Topics}
	spot := t.Last(from.ID)
	switch {
	case i == t.Home():
		spot = t.Last("")
	case beside:
		spot, e.Readership = Spot{Parent: from.Parent, After: from.ID}, from.Readership
	}
	return t.Add(e, spot)
}

// ChangeAll lets set alter the facts of several entries; all or none change.
func (t *Tree) ChangeAll(ids []string, set func(*Entry)) (*Tree, error) {
	list := t.Refs()
	var readdressed []string
	for _, id := range ids {
		i := t.Find(id)
		if i == None {
			return nil, ErrNoEntry
		}
		e, err := t.changed(i, set)
		if err != nil {
			return nil, err
		}
		if list[i] = &e; e.Slug != t.entries[i].Slug || e.Kind != t.entries[i].Kind || e.Fixed != t.entries[i].Fixed {
			readdressed = append(readdressed, id)
		}
	}
	if len(readdressed) == 0 {
		return t.Alter(list)
	}
	return t.rebuild(list, readdressed...)
}

// changed gives the entry at i as set makes it, if that can be.
func (t *Tree) changed(i int, set func(*Entry)) (Entry, error) {
	was := t.entries[i]
	e := *was
	set(&e)
	e.ID, e.Parent, e.Rank = was.ID, was.Parent, was.Rank
	if err := checkTitle(e.Title); err != nil {
		return e, err
	}
	if t.HasChildren(i) && !e.Kind.HoldsChildren() {
		return e, ErrKind
	}
	if i == t.home && (!e.IsHome() || e.Kind != Page || e.Withdrawn) {
		return e, ErrHome
	}
	if e.Slug != "" {
		slug, ok := address.Options{}.NormalSlug(e.Slug)
		if !ok {
			return e, ErrSlug
		}
		e.Slug = slug
	}
	if e.Kind.IsPage() && e.Slug == "" && e.Fixed == "" {
		e.Slug = address.Slug(e.Title)
	}
	return e, nil
}

func checkTitle(title string) error {
	switch n := len([]rune(title)); {
	case n == 0:
		return ErrNoTitle
	case n > MaxTitle:
		return ErrLongTitle
	}
	return nil
}

// rebuild makes the tree from the list, gives newcomers and what came with them
// slugs that nobody else has, and ranks where they are missing.
func (t *Tree) rebuild(list []*Entry, newcomers ...string) (*Tree, error) {
	next, err := t.Alter(list)
	if err != nil {
		return nil, err
	}
	for _, id := range newcomers {
		for i, k := next.Find(id), 0; i+k < next.End(i); k++ {
			if next.Level(i+k) > MaxLevels {
				return nil, ErrDeep
			}
		}
	}
	renamed := next.freeSlugs(newcomers)
	next.rank()
	if renamed {
		next.deriveAddresses(nil, nil)
		next.claims.forget()
		next.served.forget()
		next.prepare()
	}
	return next, nil
}

// rank gives the entries of a tree just made the ranks that they need.
func (t *Tree) rank() {
	for id, rank := range Rerank(t) {
		t.change(t.Find(id), func(e *Entry) { e.Rank = rank })
	}
}

// change changes an entry of a tree just made.
func (t *Tree) change(i int, set func(*Entry)) {
	e := *t.entries[i]
	set(&e)
	t.entries[i] = &e
}

// freeSlugs gives the entries of the newcomers' branches that claim an address
// of somebody outside them, or of a newcomer before them, another slug, and
// tells whether there were any.
func (t *Tree) freeSlugs(newcomers []string) (renamed bool) {
	fresh := make([]int, len(newcomers))
	isFresh := make([]bool, t.Len())
	for k, id := range newcomers {
		fresh[k] = t.Find(id)
		for i := fresh[k]; i < t.End(fresh[k]); i++ {
			isFresh[i] = true
		}
	}
	slices.Sort(fresh)
	others := make(map[string]bool, len(t.claim))
	for i, a := range t.claim {
		if a != "" && !isFresh[i] {
			others[a] = true
		}
	}
	end, names := 0, map[string]*address.Namer{}
	for _, n := range fresh {
		renamed = t.freeBranch(max(n, end), t.End(n), others, names) || renamed
		end = max(end, t.End(n))
	}
	return renamed
}

// freeBranch frees the slugs of the entries from i to end of others, whom it
// joins. names remembers how far it counted below an address.
func (t *Tree) freeBranch(i, end int, others map[string]bool, names map[string]*address.Namer) (renamed bool) {
	var claims []string
	for ; i < end; i++ {
		e, a := t.entries[i], t.claim[i]
		if e.Fixed == "" && e.Slug != "" && others[a] {
			above := t.Prefix(t.Parent(i))
			if names[above] == nil {
				names[above] = &address.Namer{}
			}
			slug := names[above].Unused(e.Slug, func(s string) bool {
				a := address.Join(above, "/"+s)
				return others[a] || t.ClaimedBy(a) != None
			})
			t.change(i, func(e *Entry) { e.Slug = slug })
			renamed, a = true, address.Join(above, "/"+slug)
			i = t.End(i) - 1 // what is below moves along
		}
		claims = append(claims, a)
	}
	for _, a := range claims {
		others[a] = true
	}
	return renamed
}

// PlaceBeside gives the entry below which a page belongs that another page tells of: that
// page where it has pages below it already, else the one above it.
func (t *Tree) PlaceBeside(id string) int {
	i := t.Find(id)
	if i == None || t.End(i) > i+1 {
		return i
	}
	return t.Parent(i)
}

// InheritedTemplate is the template that a new page below a parent takes over: the one that
// most pages there have. Its parent's, or home's at the top, where no other has more; of others
// the first.
func (t *Tree) InheritedTemplate(parent string) string {
	p := t.Find(parent)
	if p == None {
		p = t.home
	}
	if p == None {
		return ""
	}
	counts := map[string]int{}
	for c := range t.Children(p) {
		if e := t.entries[c]; e.Kind.IsPage() {
			counts[e.Template]++
		}
	}
	most := t.entries[p].Template
	for c := range t.Children(p) {
		if e := t.entries[c]; counts[e.Template] > counts[most] {
			most = e.Template
		}
	}
	return most
}
