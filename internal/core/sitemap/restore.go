package sitemap

import (
	"slices"

	"candlepath/internal/core/address"
)

// Restore puts entries back that were removed, in document order, the first
// being the one that is asked for. Each goes below its former parent where that
// is in the tree (again), else below the nearest of the former ancestors of the
// first that is, else to the top; last among those who are there. It keeps its
// address where that is free, and gets another slug where it is not.
func (t *Tree) Restore(entries []Entry, ancestors []string) (*Tree, error) {
	next := t
	for len(entries) > 0 {
		e := entries[0]
		if next.Find(e.ID) != None {
			entries = entries[1:]
			continue
		}
		n := next.newBelow(entries)
		branch := slices.Clone(entries[:n])
		branch[0].Parent = next.holder(append([]string{e.Parent}, ancestors...))
		branch[0].Rank = ""
		for k := range branch {
			if branch[k].Withdrawn = false; next.ClaimedBy(branch[k].Fixed) != None {
				branch[k].Fixed = ""
			}
		}
		_, at, err := next.at(next.Last(branch[0].Parent))
		if err != nil {
			return nil, err
		}
		if next, err = next.plant(branch, at); err != nil {
			return nil, err
		}
		entries = entries[n:]
	}
	return next, nil
}

// RestoredAt gives the address that a removed page gets when it is restored
// alone, as Restore gives it; "" for what has none.
func (t *Tree) RestoredAt(e Entry, ancestors []string) string {
	switch {
	case e.Fixed != "" && t.ClaimedBy(e.Fixed) == None:
		return e.Fixed
	case e.Kind != Page && e.Kind != Carried:
		return ""
	case e.Slug == "":
		e.Slug = address.Slug(e.Title)
	}
	above := t.Prefix(t.Find(t.holder(append([]string{e.Parent}, ancestors...))))
	slug := e.Slug
	if t.ClaimedBy(address.Join(above, "/"+slug)) != None {
		slug = address.Unused(slug, func(s string) bool { return t.ClaimedBy(address.Join(above, "/"+s)) != None })
	}
	return address.Join(above, "/"+slug)
}

// newBelow counts the entries at the front of a list that are not in the tree
// and belong to the branch of the first.
func (t *Tree) newBelow(list []Entry) int {
	inside := map[string]bool{list[0].ID: true}
	for n := 1; n < len(list); n++ {
		if !inside[list[n].Parent] || t.Find(list[n].ID) != None {
			return n
		}
		inside[list[n].ID] = true
	}
	return len(list)
}

// plant puts in a whole branch of newcomers. Pages without a slug or a fixed
// address get a slug from their title.
func (t *Tree) plant(branch []Entry, at int) (*Tree, error) {
	made := []string{branch[0].ID}
	for k := range branch {
		if e := &branch[k]; e.Kind.IsPage() && e.Slug == "" && e.Fixed == "" {
			if e.Slug = address.Slug(e.Title); k > 0 {
				made = append(made, e.ID)
			}
		}
	}
	next, err := t.rebuild(slices.Insert(t.Refs(), at, pointers(branch)...), made[0])
	for _, id := range made[1:] { // may clash within the branch
		if err == nil {
			next, err = next.rebuild(next.Refs(), id)
		}
	}
	return next, err
}

// holder gives the first of the ids that can have entries below it; "" is the
// top.
func (t *Tree) holder(ids []string) string {
	for _, id := range ids {
		if i := t.Find(id); i != None && i != t.home && t.entries[i].Kind.HoldsChildren() {
			return id
		}
	}
	return ""
}
