package edition

import (
	"candlepath/internal/core/sitemap"
)

// Stale tells which pages look otherwise to readers in one tree than in the other: the
// entries whose own facts differ in what no other page shows, such as the owner. Where
// a title, an address, an order or anything else differs that menus, lists and links
// of other pages show, all do.
//
//	owner of "Ponds"    "Ponds"
//	title of "Ponds"    all: it stands in menus, crumbs and links
func Stale(was, is *sitemap.Tree) (entries []string, all bool) {
	if was == is {
		return nil, false
	}
	if was.Len() != is.Len() {
		return nil, true
	}
	for i := range was.Len() {
		a, b := was.Ref(i), is.Ref(i)
		if *a == *b {
			continue
		}
		if around(*a) != around(*b) {
			return nil, true
		}
		entries = append(entries, b.ID)
	}
	return entries, false
}

// around is an entry without what only its own page shows, or none. The order among
// siblings tells in the tree, so its rank is of no interest.
func around(e sitemap.Entry) sitemap.Entry {
	e.Rank, e.SlugHeld, e.Owner, e.Template, e.Source, e.Topics, e.Review, e.Notes = "", false, "", "", "", "", "", ""
	return e
}
