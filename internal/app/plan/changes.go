package plan

import (
	"slices"

	"candlepath/internal/core/change"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/sitemap"
)

// PlannedChanges tells all planned changes: of entries, of texts, of menus and trails.
func PlannedChanges(trees Trees, summaries []PageSummary) []change.Change {
	return append(withContent(change.Diff(trees.Live, trees.Next), trees, summaries), navigation.Diff(trees.Navigation.Live, trees.Navigation.Next)...)
}

// withContent adds a change for every draft of a page that is live already,
// after the other changes of the entry. Content of a new page goes with it.
func withContent(changes []change.Change, trees Trees, summaries []PageSummary) []change.Change {
	var edited []string
	for _, h := range summaries {
		l := trees.Live.Find(h.EntryID)
		if h.Draft && l != sitemap.None && trees.Next.Find(h.EntryID) != sitemap.None {
			edited = append(edited, h.EntryID)
		}
	}
	slices.SortFunc(edited, func(x, y string) int { return trees.Next.Find(x) - trees.Next.Find(y) })
	for _, id := range edited {
		changes = append(changes, change.Change{Key: change.Key{ID: id, Aspect: change.Content}})
	}
	return changes
}

// ContentChanges are the changes of content of entries that are in both trees.
func ContentChanges(ids []string, from, to *sitemap.Tree) []change.Change {
	var out []change.Change
	for _, id := range ids {
		if from.Find(id) != sitemap.None && to.Find(id) != sitemap.None {
			out = append(out, change.Change{Key: change.Key{ID: id, Aspect: change.Content}})
		}
	}
	return out
}
