package menu

import (
	"cmp"
	"slices"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"candlepath/internal/core/sitemap"
)

type builder struct {
	*Layout
	cands   []node
	found   map[string]int      // candidates by key
	natural map[string][]string // keys below a key, as computed
	less    *collate.Collator
}

// base collects what the menu shows by nature.
func (b *builder) base() {
	n := natureOf(b.id)
	levels := cmp.Or(b.own.Levels, n.levels)
	top := b.tree.Home()
	of := cmp.Or(b.own.Of, Branch(b.id))
	if of != "" {
		if top = b.tree.Find(of); top == sitemap.None {
			return
		}
	} else if b.id == Foot {
		return
	}
	if levels == Nothing {
		return
	}
	if b.id == Top && top == b.tree.Home() && top != sitemap.None {
		b.candidate(node{Line: Line{Key: b.tree.Ref(top).ID, Entry: top}})
	}
	b.below(top, "", "", levels)
}

func (b *builder) candidate(n node) {
	n.natural = n.Parent
	b.found[n.Key] = len(b.cands)
	b.cands = append(b.cands, n)
	b.natural[n.Parent] = append(b.natural[n.Parent], n.Key)
}

// below collects the entries below one. A group shows what is below it along
// with itself.
func (b *builder) below(i int, parent, prefix string, levels int) {
	for _, c := range b.children(i) {
		e := b.tree.Ref(c)
		key := prefix + e.ID
		b.candidate(node{Line: Line{Key: key, Parent: parent, Entry: c}})
		left := levels - 1
		if e.Kind == sitemap.Group {
			left = levels
		}
		switch said := b.own.Items[key].Levels; {
		case said == Nothing:
			left = 0
		case said > 0:
			left = said
		}
		if left > 0 {
			b.below(c, key, prefix, left)
		}
	}
}

func (b *builder) children(i int) []int {
	list := slices.Collect(b.tree.Children(i))
	if b.own.AZ {
		if b.less == nil {
			b.less = collate.New(language.Und, collate.IgnoreCase, collate.Numeric)
		}
		slices.SortStableFunc(list, func(x, y int) int { return b.less.CompareString(b.tree.Ref(x).Name(), b.tree.Ref(y).Name()) })
	}
	return list
}

// ownItems collects the editor's items, and what those show below themselves.
func (b *builder) ownItems() {
	var keys []string
	for k, it := range b.own.Items {
		if it.Kind != "" {
			keys = append(keys, k)
		}
	}
	slices.Sort(keys)
	for _, k := range keys {
		it := b.own.Items[k]
		entry := sitemap.None
		if it.Kind == AnEntry || it.Kind == Children {
			entry = b.tree.Find(it.Entry)
		}
		b.candidate(node{Line: Line{Key: k, Entry: entry}, own: true})
		levels := max(it.Levels, 0)
		if it.Kind == Children {
			levels = max(levels, 1)
		}
		if entry != sitemap.None && levels > 0 {
			b.below(entry, k, k+"/", levels)
		}
	}
}

// arrange puts the keys below each key in order: those that somebody arranged,
// and each computed one that nobody did after the nearest that precedes it by
// nature.
func (b *builder) arrange() {
	placed := map[string]string{}
	var parents []string
	for p := range b.own.Order {
		parents = append(parents, p)
	}
	slices.Sort(parents)
	for _, p := range parents {
		if _, there := b.found[p]; p != "" && !there {
			continue
		}
		for _, k := range b.own.Order[p] {
			_, there := b.found[k]
			if _, twice := placed[k]; there && !twice {
				placed[k] = p
			}
		}
	}
	b.untangle(placed)
	for _, p := range append(parents, "") {
		if _, done := b.order[p]; done {
			continue
		}
		seen := map[string]bool{}
		for _, k := range b.own.Order[p] {
			if at, ok := placed[k]; ok && at == p && !seen[k] {
				seen[k] = true
				b.order[p] = append(b.order[p], k)
			}
		}
	}
	for p, keys := range b.natural {
		b.order[p] = insertNatural(b.order[p], keys, placed)
	}
	for p := range b.order {
		b.markArranged(p)
	}
}

// markArranged finds the computed items below a key that do not stand where the
// sitemap would put them: those from elsewhere, and the fewest of the others that
// explain the order.
func (b *builder) markArranged(p string) {
	if len(b.own.Order[p]) == 0 {
		return
	}
	at := map[string]int{}
	for i, k := range b.natural[p] {
		at[k] = i
	}
	var here []int
	for _, k := range b.order[p] {
		n := &b.cands[b.found[k]]
		n.Arranged = !n.own
		if _, ok := at[k]; ok && !n.own {
			here = append(here, b.found[k])
		}
	}
	less := func(i, j int) bool { return at[b.cands[here[i]].Key] < at[b.cands[here[j]].Key] }
	for _, i := range sitemap.Longest(len(here), less, nil) {
		b.cands[here[i]].Arranged = false
	}
}

// untangle gives up places that would put items below themselves, which happens
// where the sitemap turned round what stands below what.
func (b *builder) untangle(placed map[string]string) {
	var loose []string
	for k, p := range placed {
		if p != b.cands[b.found[k]].natural { // else the sitemap itself has it there
			loose = append(loose, k)
		}
	}
	slices.Sort(loose)
	for _, k := range loose {
		seen := map[string]bool{k: true}
		for p := placed[k]; p != ""; {
			if seen[p] {
				delete(placed, k)
				break
			}
			seen[p] = true
			at, ok := placed[p]
			if !ok {
				at = b.cands[b.found[p]].natural
			}
			p = at
		}
	}
}

func insertNatural(list, natural []string, placed map[string]string) []string {
	there := make(map[string]bool, len(list))
	for _, k := range list {
		there[k] = true
	}
	follow := map[string][]string{} // what goes behind a key; "": in front
	last := ""
	for _, k := range natural {
		if there[k] {
			last = k
		} else if _, elsewhere := placed[k]; !elsewhere {
			follow[last] = append(follow[last], k)
		}
	}
	out := follow[""]
	for _, k := range list {
		out = append(append(out, k), follow[k]...)
	}
	return out
}

// walk makes the nodes, in the order in which they stand.
func (b *builder) walk(parent string, level int, above Why) []int32 {
	var out []int32
	for _, k := range b.order[parent] {
		n := b.cands[b.found[k]]
		n.Parent, n.Level, n.Override = parent, level, b.own.Items[k]
		if !n.own {
			n.Override.Kind = ""
		}
		n.Why = above
		at := len(b.nodes)
		b.at[k] = at
		b.nodes = append(b.nodes, n)
		b.complete(&b.nodes[at])
		why := b.nodes[at].Why
		kids := b.walk(k, level+1, why)
		b.nodes[at].kids = kids
		out = append(out, int32(at))
	}
	return out
}

// complete says what an item shows, and why not.
func (b *builder) complete(n *node) {
	n.symbol, n.Title = n.Override.Symbol, n.Override.Title
	n.Holds = n.Override.Kind != Divider && n.Override.Kind != Children
	said := n.Why
	switch n.Override.Kind {
	case Divider:
		n.divider = true
	case Link:
		n.outside, n.Href = true, n.Override.URL
	case Label, Children:
	default:
		if n.Entry != sitemap.None {
			e := b.tree.Ref(n.Entry)
			n.Title, n.outside = cmp.Or(n.Title, e.Name()), e.Kind == sitemap.Outside
			n.Href = Href(b.tree, n.Entry)
		}
	}
	if n.Override.Kind == Children && n.Entry != sitemap.None {
		n.Title = cmp.Or(n.Title, "What is below "+b.tree.Ref(n.Entry).Name())
	}
	if said == Shown {
		n.Why = b.why(n)
	}
}

func (b *builder) why(n *node) Why {
	isEntry := n.Override.Kind == "" || n.Override.Kind == AnEntry || n.Override.Kind == Children
	switch {
	case n.Override.Out:
		return LeftOut
	case !n.own && b.own.Wait && !n.Override.In:
		return Waits
	case isEntry && n.Entry == sitemap.None:
		return Gone
	case !isEntry:
		return Shown
	}
	e := b.tree.Ref(n.Entry)
	switch {
	case e.Unlisted:
		return Unlisted
	case e.Withdrawn:
		return Withdrawn
	case n.Href == "" && e.Kind != sitemap.Group && n.Override.Kind != Children:
		return NoPage
	}
	return Shown
}
