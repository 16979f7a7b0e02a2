package change

import (
	"candlepath/internal/core/sitemap"
)

// Folded tells, for each new entry below another new one, the topmost of them:
// such a branch can be told and chosen as one. An entry that changes otherwise
// than by being new and having a text stands for itself.
func Folded(next *sitemap.Tree, all []Change) map[string]string {
	fresh, other := map[string]bool{}, map[string]bool{}
	for _, c := range all {
		switch c.Aspect {
		case Added:
			fresh[c.ID] = true
		case Content:
		default:
			other[c.ID] = true
		}
	}
	out := map[string]string{}
	for i := range next.Len() {
		id, p := next.Ref(i).ID, next.Parent(i)
		if p == sitemap.None || !fresh[id] || other[id] {
			continue
		}
		switch above := next.Ref(p).ID; {
		case out[above] != "":
			out[id] = out[above]
		case fresh[above]:
			out[id] = above
		}
	}
	return out
}
