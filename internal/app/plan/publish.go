package plan

import (
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
)

func Plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
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
