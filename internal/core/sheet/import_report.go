package sheet

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// ImportLine tells the outcome of one row, or of one entry that no row names.
type ImportLine struct {
	Line          int // 0: no row names it
	ImportOutcome ImportOutcome
	ID            string
	Title         string
	Where         string // address, or the path of titles above it
	Why           string
}

// TellOwners adds a line for each owner in the file who is not among the people:
// the name stays as text.
func (b *ImportResult) TellOwners(s *Sheet, people map[string]bool) {
	b.tell(s, func(e *sitemap.Entry) string {
		if people[e.Owner] {
			return ""
		}
		return e.Owner
	}, "the owner %q, named %d times, is not among the people here; the name stays as text")
}

// TellReaders adds a line for each readership in the file that cannot be
// understood: only site managers may read such an entry. problem words what is
// wrong with one, or is empty.
func (b *ImportResult) TellReaders(s *Sheet, problem func(readership string) string) {
	b.tell(s, func(e *sitemap.Entry) string {
		if problem(e.Readership) == "" {
			return ""
		}
		return e.Readership
	}, "the readership %q, given %d times, names nobody or somebody who is not among the people here; whoever is not named cannot read it")
}

// tell adds a line for each value that of gives.
func (b *ImportResult) tell(s *Sheet, of func(*sitemap.Entry) string, words string) {
	n, first := map[string]int{}, map[string]int{}
	for i := range s.Tree.Len() {
		v := of(s.Tree.Ref(i))
		if v == "" {
			continue
		}
		if n[v]++; n[v] == 1 || s.Line[i] < first[v] {
			first[v] = s.Line[i]
		}
	}
	for _, v := range slices.Sorted(maps.Keys(n)) {
		b.Lines = append(b.Lines, ImportLine{Line: first[v], ImportOutcome: IsAnnotate, Why: fmt.Sprintf(words, v, n[v])})
		b.Count[IsAnnotate]++
	}
	slices.SortStableFunc(b.Lines, func(x, y ImportLine) int { return x.Line - y.Line })
}

func (b *importer) report(next *sitemap.Tree) *ImportResult {
	out := &ImportResult{Tree: next, IDs: map[string]string{}, Count: map[ImportOutcome]int{}}
	add := func(l ImportLine) {
		out.Lines = append(out.Lines, l)
		out.Count[l.ImportOutcome]++
	}
	for r := range b.ids {
		e := b.s.Tree.Ref(r)
		outcome := b.outcome[r]
		if i, j := b.t.Find(b.ids[r]), next.Find(b.ids[r]); outcome == Same && i != sitemap.None && j != sitemap.None && b.t.Ref(i).Rank != next.Ref(j).Rank {
			outcome, b.why[r] = IsChanged, "moved among its neighbours"
		}
		if outcome != IsRefused {
			out.IDs[e.ID] = b.ids[r]
		}
		add(ImportLine{b.s.Line[r], outcome, b.ids[r], e.Title, where(next, b.ids[r]), b.words(r, next)})
	}
	for _, id := range b.removed {
		i := b.t.Find(id)
		add(ImportLine{0, IsRemoved, id, b.t.Ref(i).Title, where(b.t, id), "it is not listed"})
	}
	for _, f := range b.s.Findings {
		outcome := IsAnnotate
		if f.Rule == "no-title" || f.Rule == "bad-address" {
			outcome = IsRefused
		}
		add(ImportLine{f.Line, outcome, f.ID, "", f.From, f.Message})
	}
	slices.SortStableFunc(out.Lines, func(x, y ImportLine) int { return x.Line - y.Line })
	return out
}

// words tells what of an entry a row changes.
func (b *importer) words(r int, next *sitemap.Tree) string {
	i, j := b.t.Find(b.ids[r]), next.Find(b.ids[r])
	if j != sitemap.None {
		if a := next.Address(j); a != "" && address.Reserved(a) {
			return fmt.Sprintf("the program itself answers at %s; give it another slug before you publish", a)
		}
	}
	if b.outcome[r] != IsChanged || i == sitemap.None || j == sitemap.None {
		return b.why[r]
	}
	var parts []string
	o, n := b.t.Ref(i), next.Ref(j)
	if o.Parent != n.Parent {
		parts = append(parts, "place")
	}
	for _, f := range sitemap.Fields() {
		if f.Get(o) != f.Get(n) {
			parts = append(parts, f.Words)
		}
	}
	if o.Fixed != n.Fixed {
		parts = append(parts, "fixed address")
	}
	if b.why[r] != "" {
		parts = append(parts, b.why[r])
	}
	return strings.Join(parts, ", ")
}

func where(t *sitemap.Tree, id string) string {
	i := t.Find(id)
	if i == sitemap.None {
		return ""
	}
	if a := t.Claim(i); a != "" {
		return a
	}
	return strings.Join(t.Path(i), " › ")
}
