package redirect

import (
	"slices"

	"candlepath/internal/core/sitemap"
)

// follow gives the row that the target of row i leads on to in the table, or
// -1 where it ends at a page, elsewhere, or nowhere. A prefix row may lead deeper
// into what it answers for itself: /docs to /docs/archive.
func (t *Table) follow(i int) int { return t.followRow(i, &t.rows[i]) }

func (t *Table) followRow(i int, r *Row) int {
	if r.Match == Prefix && r.To.Address == r.From && r.Code != Gone {
		return i // it carries every address over to itself
	}
	if r.Code == Gone || r.To.Address == "" || t.page(r.To.Address) != sitemap.None {
		return -1
	}
	if e, ok := t.exact[r.To.Address]; ok {
		return int(e)
	}
	for base, more := r.To.Address, true; more; base, more = up(base) {
		if s, ok := t.spread[base]; ok && (int(s) != i || r.Match == Branch || base == r.To.Address) {
			return int(s)
		}
	}
	return -1
}

// Loops finds rows that lead back to themselves, both as the table reads and as
// it answers, where prefix rows that do not fire are passed over. It gives the
// index of one row of each ring; rows that a live page hides lead nowhere.
func (t *Table) Loops() []int {
	found := t.rings(t.follow)
	for _, i := range t.rings(t.answeredBy) {
		if !slices.Contains(found, i) {
			found = append(found, i)
		}
	}
	return found
}

// answeredBy gives the row that answers at the target of row i, or -1.
func (t *Table) answeredBy(i int) int {
	r := &t.rows[i]
	if t.pages == nil || r.Code == Gone || r.To.Address == "" {
		return -1
	}
	return t.ResolveNormal(r.To.Address, "").row
}

func (t *Table) rings(follow func(int) int) []int {
	const unseen, onPath, done = 0, 1, 2
	state := make([]uint8, len(t.rows))
	var found []int
	for i := range t.rows {
		if r := &t.rows[i]; r.To.Address == "" || r.Code == Gone {
			continue // it leads to no row
		}
		at := i
		var path []int
		for at >= 0 && state[at] == unseen {
			if t.inactive(at) {
				state[at] = done
				break
			}
			state[at] = onPath
			path = append(path, at)
			at = follow(at)
		}
		if at >= 0 && state[at] == onPath {
			found = append(found, at)
		}
		for _, p := range path {
			state[p] = done
		}
	}
	return found
}

// inactive tells rows that never answer: reports, and exact rows at the address
// of a live page.
func (t *Table) inactive(i int) bool {
	r := &t.rows[i]
	return r.Status.IsReport() || r.Match == Exact && t.page(pathOf(r.From)) != sitemap.None
}
