package redirect

import (
	"cmp"
	"maps"
	"slices"
	"strings"
)

// Compact gives the fewest rows that answer every row of a table the same way:
// each listed address with its target and code, and what prefix and branch rows
// of the table spread over. What the table does not answer at all is free, and
// may be answered by the result. There is never a row at "/": the home page is
// live, and a row there would answer everything. Rows with a query stand as they
// are.
//
// This is the construction of an optimal routing table (Draves, King,
// Venkatachary and Zill, 1999) over a trie of path segments. Going up, each node
// keeps the set of inherited answers under which its subtree costs least; any
// other answer costs one row more, because the best one can always be written at
// the node itself. Going down, a node that inherits one of its set needs no row.
//
//	/grounds/mulch        → /estate/mulch         /grounds  prefix  → /estate
//	/grounds/tools/saws   → /estate/tools/saws    /grounds/rota  410
//	/grounds/rota           410
func Compact(rows []Row) ([]Row, error) {
	given, err := NewTable(rows, nil)
	if err != nil {
		return nil, err
	}
	root := &compactNode{}
	var out []Row
	for _, r := range rows {
		switch {
		case r.Status.IsReport() || r.From == "/":
		case strings.Contains(r.From, "?"), strings.HasPrefix(r.From, "//"): // under a host name pages are not free
			out = append(out, bare(r))
		default:
			root.at(r.From).list(r)
		}
	}
	for _, child := range root.sorted() {
		child.spread(nil)
		child.weigh()
		out = child.write(out, inherited{})
	}
	out, err = patched(out, rows, given)
	slices.SortFunc(out, func(a, b Row) int {
		return cmp.Or(strings.Compare(WrittenFrom(a.From), WrittenFrom(b.From)), strings.Compare(string(a.Match), string(b.Match)))
	})
	return out, err
}

// bare is a row as a compact table has it.
func bare(r Row) Row { return Row{From: r.From, To: r.To, Code: r.Code, Match: r.Match} }

// inherited is the answer that a node gets from a row at it or above it; the
// zero value is none. For a prefix row, to is where it leads at this node.
type inherited struct {
	match Match
	to    Target
	code  int
}

// answers tells whether the answer is that of a listed address.
func (a inherited) answers(want inherited) bool { return a.to == want.to && a.code == want.code }

// below gives the answer as a child inherits it.
func (a inherited) below(segment string) inherited {
	if a.match != Prefix || a.code == Gone {
		return a
	}
	switch {
	case a.to.URL != "":
		a.to.URL = joinURL(a.to.URL, escaped("/"+segment))
	case a.to.Address == "/":
		a.to.Address += segment
	default:
		a.to.Address += "/" + segment
	}
	return a
}

// above gives the answer that a child with the segment inherits as this one, if
// there is one.
func (a inherited) above(segment string) (inherited, bool) {
	if a.match != Prefix || a.code == Gone {
		return a, true
	}
	up, text := a, a.to.Address
	if a.to.URL != "" {
		text = a.to.URL
	}
	cut, ok := strings.CutSuffix(text, "/"+segment)
	switch {
	case !ok:
		return a, false
	case a.to.URL != "":
		up.to.URL = cut
	case cut == "":
		up.to.Address = "/"
	default:
		up.to.Address = cut
	}
	return up, up.below(segment) == a
}

type compactNode struct {
	from     string
	children map[string]*compactNode
	want     *inherited // what the address itself has to answer
	forced   *inherited // what everything below it has to answer, for a row of the table spreads here

	best map[inherited]bool // answers under which the subtree costs least; nil: any
}

func (n *compactNode) at(from string) *compactNode {
	for segment := range strings.SplitSeq(strings.TrimPrefix(from, "/"), "/") {
		if n.children == nil {
			n.children = map[string]*compactNode{}
		}
		child := n.children[segment]
		if child == nil {
			child = &compactNode{from: n.from + "/" + segment}
			n.children[segment] = child
		}
		n = child
	}
	return n
}

func (n *compactNode) list(r Row) {
	a := inherited{r.Match, r.To, r.Code}
	if a.code == Gone {
		a.match, a.to = Branch, Target{}
	}
	if r.Match == Exact {
		n.want = &a
		return
	}
	n.forced = &a
	if n.want == nil {
		n.want = &a
	}
}

func (n *compactNode) sorted() []*compactNode {
	out := make([]*compactNode, 0, len(n.children))
	for _, segment := range slices.Sorted(maps.Keys(n.children)) {
		out = append(out, n.children[segment])
	}
	return out
}

func (n *compactNode) segment() string { return n.from[strings.LastIndexByte(n.from, '/')+1:] }

// spread takes the answer of a prefix or branch row of the table down to the
// nodes that it spreads over.
func (n *compactNode) spread(from *inherited) {
	if n.forced == nil && from != nil {
		a := from.below(n.segment())
		n.forced = &a
	}
	for _, c := range n.children {
		c.spread(n.forced)
	}
}

// weigh finds the best answers of a subtree. An answer saves a row for the
// address itself if it is what that wants, and one for each child among whose
// best it is.
func (n *compactNode) weigh() {
	saves := map[inherited]int{}
	if n.want != nil {
		for _, m := range []Match{Prefix, Branch} {
			if a := (inherited{m, n.want.to, n.want.code}); m == Branch || a.code != Gone {
				saves[a]++
			}
		}
	}
	for _, c := range n.children {
		c.weigh()
		for a := range c.best {
			if up, ok := a.above(c.segment()); ok {
				saves[up]++
			}
		}
	}
	if n.forced != nil {
		n.best = map[inherited]bool{*n.forced: true}
		return
	}
	most := 0
	for _, s := range saves {
		most = max(most, s)
	}
	if most == 0 {
		return
	}
	n.best = map[inherited]bool{}
	for a, s := range saves {
		if s == most {
			n.best[a] = true
		}
	}
}

// saved counts the rows that an answer saves at a node.
func (n *compactNode) saved(a inherited) int {
	s := 0
	if n.want != nil && a.match != "" && a.answers(*n.want) {
		s++
	}
	for _, c := range n.children {
		if c.best == nil || c.best[a.below(c.segment())] {
			s++
		}
	}
	return s
}

// write adds the rows of a subtree that inherits an answer.
func (n *compactNode) write(out []Row, a inherited) []Row {
	if n.best != nil && !n.best[a] {
		chosen := n.choose()
		// An exact row says less than one that spreads, where both cost the same.
		if n.forced != nil || n.saved(a) < n.saved(chosen)-1 {
			a = chosen
			out = append(out, Row{From: n.from, To: a.to, Code: a.code, Match: a.match})
		}
	}
	if n.want != nil && (a.match == "" || !a.answers(*n.want)) {
		out = append(out, Row{From: n.from, To: n.want.to, Code: n.want.code, Match: Exact})
	}
	for _, c := range n.sorted() {
		out = c.write(out, a.below(c.segment()))
	}
	return out
}

// choose takes one of the best answers, the same each time.
func (n *compactNode) choose() inherited {
	return slices.MinFunc(slices.Collect(maps.Keys(n.best)), func(a, b inherited) int {
		return cmp.Or(strings.Compare(string(b.match), string(a.match)), strings.Compare(WrittenTo(a.to, nil), WrittenTo(b.to, nil)), a.code-b.code)
	})
}

// patched adds exact rows for listed addresses that the compact rows answer
// otherwise after all: the target of a prefix row is resolved once more, and a
// table may have rows there.
func patched(out, rows []Row, given *Table) ([]Row, error) {
	t, err := NewTable(out, nil)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		if r.Status.IsReport() || r.From == "/" {
			continue
		}
		path, query, _ := strings.Cut(r.From, "?")
		was, is := given.ResolveNormal(path, query), t.ResolveNormal(path, query)
		if was.target != is.target || was.Code != is.Code {
			out = append(out, Row{From: r.From, To: was.target, Code: was.Code, Match: Exact})
		}
	}
	return out, nil
}
