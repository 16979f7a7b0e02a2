package change

import (
	"cmp"
	"maps"
	"slices"

	"candlepath/internal/core/sitemap"
)

// State is how a planned change stands: Mark differs whenever the change does,
// and By is who planned it last.
type State struct{ Mark, By, Title string }

// Choice is what one person picked of the planned changes for the next edition.
// The zero Choice leaves nothing out and has seen nothing.
//
// What was not there when somebody chose is in if it is their own, or if they
// chose everything there was; else it stays out until they tick it: nothing
// goes out that they never looked at.
type Choice struct {
	Out  Set           // what was unticked
	Seen map[Key]State // what there was when they chose; nil: they never did
}

// Never tells whether nothing was ever chosen, so that all goes that there is.
func (c Choice) Never() bool { return c.Seen == nil && len(c.Out) == 0 }

// ChangedSince is something that others did to the plan since somebody chose.
type ChangedSince struct {
	Key
	What  ChangedSinceKind
	Title string
	By    string // who did it; empty where that is not known
	In    bool   // it goes out as things are
}

// ChangedSinceKind is what happened to a change beneath a choice.
type ChangedSinceKind string

// The kinds: the change came, is another now, or is no longer planned.
const (
	Came    ChangedSinceKind = "came"
	Another ChangedSinceKind = "changed"
	Went    ChangedSinceKind = "went"
)

// Pick gives what of all changes goes by the choice of a person, and what
// happened beneath it since they made it. kept stays out unless they ticked it.
func (c Choice) Pick(next *sitemap.Tree, all []Change, state func(Key) State, me string, kept Set) (Set, []ChangedSince) {
	chosen, there := make(Set, len(all)), Set{}
	var beneath []ChangedSince
	for _, ch := range all {
		if ch.Aspect == Readdressed {
			continue
		}
		k := ch.Key
		if c.Never() {
			if !kept[k] {
				chosen[k] = true
			}
			continue
		}
		there[k] = true
		seen, known := c.Seen[k]
		now := state(k)
		in := !c.Out[k]
		if !known {
			in = in && !kept[k] && (now.By == me || len(c.Out) == 0)
		}
		if in {
			chosen[k] = true
		}
		switch {
		case c.Seen == nil || now.By == me:
		case !known && !kept[k]:
			beneath = append(beneath, ChangedSince{k, Came, now.Title, now.By, in})
		case known && seen.Mark != now.Mark:
			beneath = append(beneath, ChangedSince{k, Another, now.Title, now.By, in})
		}
	}
	var went []ChangedSince
	for k, s := range c.Seen {
		if !there[k] && !c.Out[k] {
			went = append(went, ChangedSince{Key: k, What: Went, Title: s.Title})
		}
	}
	slices.SortFunc(went, func(a, b ChangedSince) int {
		return cmp.Or(cmp.Compare(a.Title, b.Title), cmp.Compare(a.ID, b.ID), cmp.Compare(a.Aspect, b.Aspect))
	})
	Complete(next, all, chosen)
	return chosen, append(beneath, went...)
}

// Complete takes out of a chosen set what is new below something new that is
// not in it: nothing can stand below what is not there.
func Complete(next *sitemap.Tree, all []Change, chosen Set) {
	missing := map[string]bool{} // new, and not in it
	for _, ch := range all {
		if ch.Aspect == Added && !chosen[ch.Key] {
			missing[ch.ID] = true
		}
	}
	if len(missing) == 0 {
		return
	}
	for _, ch := range all { // in document order, so a parent comes first
		if ch.Aspect != Added {
			continue
		}
		if p := next.Parent(next.Find(ch.ID)); p != sitemap.None && missing[next.Ref(p).ID] {
			missing[ch.ID] = true
			delete(chosen, ch.Key)
		}
	}
}

// Toggle ticks and unticks changes of a chosen set. What is new goes and stays
// with all that is new below it, and needs what is new above it.
func Toggle(next *sitemap.Tree, all []Change, chosen Set, on, off []Key) Set {
	out := maps.Clone(chosen)
	fresh := freshOf(all)
	branch := func(k Key, visit func(Key)) {
		visit(k)
		i := next.Find(k.ID)
		if k.Aspect != Added || i == sitemap.None {
			return
		}
		for j := i + 1; j < next.End(i); j++ {
			if below := (Key{next.Ref(j).ID, Added}); fresh[below] {
				visit(below)
			}
		}
	}
	for _, k := range off {
		branch(k, func(b Key) { delete(out, b) })
	}
	for _, k := range on {
		branch(k, func(b Key) { out[b] = true })
		if i := next.Find(k.ID); i != sitemap.None {
			for p := next.Parent(i); p != sitemap.None; p = next.Parent(p) {
				if above := (Key{next.Ref(p).ID, Added}); fresh[above] {
					out[above] = true
				}
			}
		}
	}
	return out
}

// freshOf gives the changes by which entries are new.
func freshOf(all []Change) Set {
	fresh := Set{}
	for _, ch := range all {
		if ch.Aspect == Added {
			fresh[ch.Key] = true
		}
	}
	return fresh
}
