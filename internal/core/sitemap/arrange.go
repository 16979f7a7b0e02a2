package sitemap

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"
)

// MaxCopied is the most entries that are copied in one act.
const MaxCopied = 2_000

// Errors of arranging.
var (
	ErrCopiedTooMuch = fmt.Errorf("a copy has at most %d entries; copy the parts", MaxCopied)
	ErrTreeFull      = fmt.Errorf("a sitemap has at most %d entries", MaxRows)
	ErrNothingBelow  = errors.New("nothing is below this entry")
)

// Order compares two entries for sorting.
type Order func(a, b *Entry) int

// ByTitle orders by title. Upper and lower case count alike, and 9 comes before
// 10 (Unicode Technical Standard 10).
func ByTitle() Order {
	c := collate.New(language.Und, collate.IgnoreCase, collate.Numeric)
	return func(a, b *Entry) int { return c.CompareString(a.Title, b.Title) }
}

// ByDate orders by a date of each entry, the latest first; those without one
// come last.
func ByDate(of func(id string) time.Time) Order {
	return func(a, b *Entry) int { return of(b.ID).Compare(of(a.ID)) }
}

// SortBelow puts the children of an entry, "" for the top, in order, and if deep
// all further down too. What is equal stays as it stood.
func (t *Tree) SortBelow(id string, deep bool, order Order) (*Tree, error) {
	p := t.home
	if id != "" {
		if p = t.Find(id); p == None {
			return nil, ErrNoEntry
		}
	}
	if p != None && !t.HasChildren(p) || t.Len() == 0 {
		return nil, ErrNothingBelow
	}
	list := make([]*Entry, 0, t.Len())
	list = append(list, t.entries[:p+1]...)
	var put func(p int, sorted bool)
	put = func(p int, sorted bool) {
		children := slices.Collect(t.Children(p))
		if sorted {
			slices.SortStableFunc(children, func(a, b int) int { return order(t.entries[a], t.entries[b]) })
		}
		for _, c := range children {
			list = append(list, t.entries[c])
			put(c, deep)
		}
	}
	put(p, true)
	list = append(list, t.entries[len(list):]...)
	next, err := t.Alter(list)
	if err != nil {
		return nil, err
	}
	next.rank()
	return next, nil
}

// Copy puts a copy of an entry and all below it right behind it, with new ids,
// and gives the id of the first. References within the branch lead within the
// copy. The copy takes nobody's address.
func (t *Tree) Copy(id string, newID func() string) (*Tree, string, error) {
	i := t.Find(id)
	switch {
	case i == None:
		return nil, "", ErrNoEntry
	case i == t.home:
		return nil, "", ErrHome
	case t.End(i)-i > MaxCopied:
		return nil, "", ErrCopiedTooMuch
	case t.Len()+t.End(i)-i > MaxRows:
		return nil, "", ErrTreeFull
	}
	branch := t.Entries()[i:t.End(i)]
	ids := make(map[string]string, len(branch))
	for k := range branch {
		ids[branch[k].ID] = newID()
	}
	for k := range branch {
		e := &branch[k]
		e.ID, e.Withdrawn = ids[e.ID], false
		if k > 0 {
			e.Parent = ids[e.Parent]
		}
		if to, inside := ids[e.Target]; inside {
			e.Target = to
		}
		if e.Fixed != "" {
			e.Fixed, e.Slug = "", "" // an address of its own it cannot have
		}
	}
	first := &branch[0]
	first.Rank, first.Short = "", ""
	title := []rune("Copy of " + first.Title)
	first.Title = string(title[:min(len(title), MaxTitle)])
	if first.Kind.IsPage() {
		first.Slug, first.SlugHeld = "", false
	}
	next, err := t.plant(branch, t.End(i))
	return next, first.ID, err
}

// CopyPairs gives for each entry of a branch the id of its counterpart in a copy of
// it that was just made.
func (t *Tree) CopyPairs(branch, copied string) map[string]string {
	from, to := t.Find(branch), t.Find(copied)
	out := map[string]string{}
	if from == None || to == None {
		return out
	}
	for k := range min(t.End(from)-from, t.End(to)-to) {
		out[t.entries[from+k].ID] = t.entries[to+k].ID
	}
	return out
}
