package change

import (
	"iter"

	"candlepath/internal/core/sitemap"
)

// Group is all that changes of one entry, menu, trail or address.
type Group struct {
	ID      string
	Changes []Change
	New     bool // it is added
}

// Groups brings changes together by what they are changes of, in the order in which each
// is first told. Those that cannot be chosen are left out.
func Groups(all []Change) []Group {
	var out []Group
	apart := map[string]int{} // by id, those that may be told of again further down
	for from := 0; from < len(all); {
		to := from + 1
		for to < len(all) && all[to].ID == all[from].ID {
			to++
		}
		g := Group{ID: all[from].ID, Changes: all[from:to:to], New: all[from].Aspect == Added}
		from = to
		if g.Changes = chosen(g.Changes); len(g.Changes) == 0 {
			continue
		}
		if at, again := apart[g.ID]; again {
			out[at].Changes = append(out[at].Changes, g.Changes...)
			continue
		}
		if !g.New {
			apart[g.ID] = len(out)
		}
		out = append(out, g)
	}
	return out
}

// chosen leaves out changes that cannot be chosen.
func chosen(changes []Change) []Change {
	for i := range changes {
		if changes[i].Aspect == Readdressed {
			return append(changes[:i:i], chosen(changes[i+1:])...)
		}
	}
	return changes
}

// Folding tells which new entries go with another new one above them: such a branch can
// be told and chosen as one. An entry that changes otherwise than by being new and having
// a text stands for itself.
type Folding struct {
	next  *sitemap.Tree
	top   []int32 // by index in Next, the topmost new entry with which it goes, or None
	below []int32 // how many go with each
}

// Fold works out which new entries go with others.
func Fold(next *sitemap.Tree, all []Change) Folding {
	const fresh, other = 1, 2
	f := Folding{next, make([]int32, next.Len()), make([]int32, next.Len())}
	is := make([]uint8, next.Len())
	i := sitemap.None
	for k := range all {
		if k == 0 || all[k].ID != all[k-1].ID {
			i = next.FindNear(all[k].ID, i+1)
		}
		if i == sitemap.None {
			continue
		}
		switch all[k].Aspect {
		case Added:
			is[i] |= fresh
		case Content:
		default:
			is[i] |= other
		}
	}
	for i := range f.top {
		f.top[i] = sitemap.None
		p := next.Parent(i)
		if p == sitemap.None || is[i] != fresh {
			continue
		}
		if f.top[i] = f.top[p]; f.top[i] == sitemap.None && is[p]&fresh != 0 {
			f.top[i] = int32(p)
		}
	}
	for i := len(f.top) - 1; i >= 0; i-- {
		if f.top[i] != sitemap.None {
			f.below[next.Parent(i)] += f.below[i] + 1
		}
	}
	return f
}

// Top gives the topmost new entry with which an entry goes; empty if it stands for itself.
func (f Folding) Top(id string) string {
	if i := f.next.Find(id); i != sitemap.None && f.top[i] != sitemap.None {
		return f.next.Ref(int(f.top[i])).ID
	}
	return ""
}

// Below is how many new entries go with one.
func (f Folding) Below(id string) int {
	if i := f.next.Find(id); i != sitemap.None {
		return int(f.below[i])
	}
	return 0
}

// Inside gives the entries right below one that go with it.
func (f Folding) Inside(id string) iter.Seq[string] {
	return func(yield func(string) bool) {
		i := f.next.Find(id)
		if i == sitemap.None || f.below[i] == 0 {
			return
		}
		for c := range f.next.Children(i) {
			if f.top[c] != sitemap.None && !yield(f.next.Ref(c).ID) {
				return
			}
		}
	}
}
