package change

import "candlepath/internal/core/sitemap"

// Touched tells of which aspects an act on an entry makes its author: those in which the entry before and
// after it differ. nil is no entry.
func Touched(before, after *sitemap.Entry) (out []Aspect) {
	switch {
	case before == nil && after == nil:
		return nil
	case before == nil:
		return []Aspect{Added}
	case after == nil:
		return []Aspect{Removed}
	}
	if before.Withdrawn != after.Withdrawn {
		out = append(out, Withdrawn, Returned)
	}
	if how(before, after) != "" {
		out = append(out, Placement)
	}
	if before.Parent == after.Parent && before.Rank != after.Rank {
		out = append(out, Reordered)
	}
	details := false
	for _, f := range sitemap.Fields() {
		switch {
		case f.Get(before) == f.Get(after):
		case f.Counts == sitemap.Alone:
			out = append(out, Aspect(f.Key))
		case f.Counts == sitemap.Together:
			details = true
		}
	}
	if details {
		out = append(out, Details)
	}
	return out
}
