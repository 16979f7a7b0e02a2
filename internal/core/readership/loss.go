package readership

import (
	"slices"

	"candlepath/internal/core/sitemap"
)

// State is a sitemap with what bears on who may read its entries besides their own readership.
type State struct {
	Tree *sitemap.Tree
	Also map[string][]string
}

// Loss is what readers stop being able to read.
type Loss struct {
	Pages  int      // that someone stops being able to read
	Anyone int      // of those, pages that anyone could read
	People []string // names of the people who lose one of them, sorted
}

// Losing compares who may read the pages of a state with who may read them in a later one. Pages that the later
// one lacks are removed, not lost; of is which pages count. People who may read the same are worked out once.
func Losing(before, after State, of func(id string) bool, people []Reader) Loss {
	var loss Loss
	pages, sights := map[string]bool{}, map[string][]string{}
	kinds, later := Kinds(before.Tree, before.Also), Kinds(after.Tree, after.Also)
	lost := func(r Reader) []string {
		sight := r.Sight(kinds) + "/" + r.Sight(later)
		ids, known := sights[sight]
		if !known {
			ids = lostBy(r, before, after, of)
			sights[sight] = ids
		}
		for _, id := range ids {
			pages[id] = true
		}
		return ids
	}
	loss.Anyone = len(lost(Reader{}))
	for _, r := range people {
		if len(lost(r)) > 0 {
			loss.People = append(loss.People, r.Name)
		}
	}
	slices.Sort(loss.People)
	loss.Pages = len(pages)
	return loss
}

func lostBy(r Reader, before, after State, of func(id string) bool) (ids []string) {
	was, now := Visible(before.Tree, r, before.Also), Visible(after.Tree, r, after.Also)
	for i := range was.Len() {
		id := was.Ref(i).ID
		if was.Served(i) != "" && now.Find(id) == sitemap.None && after.Tree.Find(id) != sitemap.None && of(id) {
			ids = append(ids, id)
		}
	}
	return ids
}
