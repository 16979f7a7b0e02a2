package sitemap

import (
	"errors"
	"slices"
	"time"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
)

// ErrNoMend says that what a check found is gone, or cannot be mended without
// somebody who decides.
var ErrNoMend = errors.New("there is nothing left to fix here")

// Mend is a way out of what a check found.
type Mend struct {
	Words string // on a button
	Done  string // what it did, in words, after the entry's title
	to    func() (*Tree, error)
}

// Apply gives the tree mended.
func (m Mend) Apply() (*Tree, error) { return m.to() }

// MendOf offers a mend of what a rule finds in an entry, if there is one that
// needs no decision of anybody.
func (t *Tree) MendOf(rule check.Rule, id string, o CheckOptions) (Mend, bool) {
	i := t.Find(id)
	if i == None {
		return Mend{}, false
	}
	e := t.entries[i]
	change := func(set func(*Entry)) func() (*Tree, error) {
		return func() (*Tree, error) { return t.Change(id, set) }
	}
	switch rule {
	case AddressClash, ReservedAddress:
		return t.freed(i)
	case ReferenceToNothing, ReferenceRing, EmptyGroup:
		return Mend{"Remove it", "was removed", func() (*Tree, error) { return t.Remove(id) }}, true
	case NoSource:
		return Mend{"Make it an ordinary page", "is an ordinary page now", change(func(e *Entry) { e.Turn(Page) })}, true
	case SameTitle, SameSource:
		return t.referred(rule, i)
	case TooDeep:
		return Mend{"Move it up a level", "moved up a level", func() (*Tree, error) { return t.StepAll([]string{id}, Out) }}, true
	case NoOwner, UnknownOwner:
		if owner := t.ownerAbove(i, o.People); owner != "" {
			return Mend{"Give it to " + owner + ", as above it", "has the owner of what is above it", change(func(e *Entry) { e.Owner = owner })}, true
		}
	case ReviewPassed:
		if next := nextReview(e.Review, o.Today); next != "" {
			return Mend{"Reviewed; next on  " + next, "is due for review on " + next, change(func(e *Entry) { e.Review = next })}, true
		}
	}
	return Mend{}, false
}

// freed gives an entry a slug that leads to an address nobody else has.
func (t *Tree) freed(i int) (Mend, bool) {
	e := t.entries[i]
	if e.Fixed != "" || e.Slug == "" || !e.Kind.IsPage() {
		return Mend{}, false
	}
	above := t.Prefix(t.Parent(i))
	slug := address.Unused(e.Slug, func(s string) bool {
		a := address.Join(above, "/"+s)
		return t.ClaimedBy(a) != None || address.Reserved(a)
	})
	return Mend{"Give it the slug " + slug, "has the slug " + slug, func() (*Tree, error) {
		return t.Change(e.ID, func(e *Entry) { e.Slug, e.SlugHeld = slug, true })
	}}, true
}

// referred makes an entry a reference to the earlier one with the same title or
// source.
func (t *Tree) referred(rule check.Rule, i int) (Mend, bool) {
	e, first := t.entries[i], None
	switch {
	case rule == SameSource && e.Kind == Carried && e.Source != "":
		first = slices.IndexFunc(t.entries[:i], func(o *Entry) bool { return o.Kind == Carried && o.Source == e.Source })
	case rule == SameTitle && e.Kind != Reference:
		if at, named := t.named()[titleKey(e.Title)]; named {
			first = int(at)
		}
	}
	if first < 0 || first >= i {
		return Mend{}, false
	}
	kept, gone := t.entries[first].ID, t.entries[i].ID
	if t.joinable(first, i) != nil || t.Contains(i, first) {
		return Mend{}, false
	}
	return Mend{"Make it a reference to the other", "is a reference now", func() (*Tree, error) { return t.Join(kept, gone, true) }}, true
}

// ownerAbove gives the owner of the nearest entry above that has a known one.
func (t *Tree) ownerAbove(i int, people map[string]bool) string {
	for p := t.Parent(i); p != None; p = t.Parent(p) {
		if o := t.entries[p].Owner; o != "" && (people == nil || people[o]) {
			return o
		}
	}
	return ""
}

// nextReview gives the first anniversary of a date after today.
func nextReview(last, today string) string {
	d, err := time.Parse(time.DateOnly, last)
	now, err2 := time.Parse(time.DateOnly, today)
	if err != nil || err2 != nil {
		return ""
	}
	for years := 1; ; years++ {
		if next := d.AddDate(years, 0, 0); next.After(now) {
			return next.Format(time.DateOnly)
		}
	}
}
