package edition

import (
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Move is an address that answers in another way from the next edition on.
type Move struct {
	redirect.Row
	Entry string // the page that has the address in Live; empty: a redirect has it
	Title string
}

// MoveGroup are the addresses that change for one reason: an entry that moves, gets another
// address or goes, with all that it takes along.
type MoveGroup struct {
	ID    string // of the entry; empty: redirects that were there already
	Title string
	Words string // what happens to it
	Moves []Move // by address
}

// Branch is a part of a group: the addresses at and below one that is right below the first.
type Branch struct {
	At    string // empty: what stands alone
	Moves []Move
}

// Branches folds a group of many addresses by what is right below the address that it is about.
func (g MoveGroup) Branches(fold int) []Branch {
	if len(g.Moves) <= fold {
		return []Branch{{Moves: g.Moves}}
	}
	top := g.Moves[0].From
	for _, m := range g.Moves {
		if len(m.From) < len(top) {
			top = m.From
		}
	}
	out, at := []Branch{{}}, map[string]int{}
	for _, m := range g.Moves {
		rest, below := address.Below(top, m.From)
		seg, _, _ := strings.Cut(strings.TrimPrefix(rest, "/"), "/")
		if !below || seg == "" {
			out[0].Moves = append(out[0].Moves, m)
			continue
		}
		i, ok := at[seg]
		if !ok {
			i = len(out)
			at[seg] = i
			out = append(out, Branch{At: address.Join(top, "/"+seg)})
		}
		out[i].Moves = append(out[i].Moves, m)
	}
	for i := 1; i < len(out); i++ { // a branch of one stands with the rest
		if len(out[i].Moves) == 1 {
			out[0].Moves = append(out[0].Moves, out[i].Moves...)
			out[i].Moves = nil
		}
	}
	return slices.DeleteFunc(out, func(b Branch) bool { return len(b.Moves) == 0 })
}

// Undecided tells how many addresses of the group wait for a decision.
func (g MoveGroup) Undecided() (n int) {
	for _, m := range g.Moves {
		if m.Status == redirect.Undecided || m.Status == redirect.Dangling {
			n++
		}
	}
	return n
}

// Moves groups the addresses that change with a draft by what takes them along. What waits
// for a decision comes first, redirects that were there already last.
func Moves(live *sitemap.Tree, d Draft, all []change.Change) []MoveGroup {
	m := mover{live: live, draft: d, took: map[string]string{}, change: map[string]change.Change{}, at: map[string]int{}}
	for _, c := range all {
		switch c.Aspect {
		case change.Readdressed:
			m.took[c.ID] = c.Because
		case change.Placement, change.Removed, change.Withdrawn, change.Target, change.Details:
			if _, told := m.change[c.ID]; !told {
				m.change[c.ID] = c
			}
		}
	}
	for _, r := range d.Plan {
		if r.Status != redirect.Kept {
			m.add(r)
		}
	}
	for i := range m.out {
		slices.SortFunc(m.out[i].Moves, func(a, b Move) int { return strings.Compare(a.From, b.From) })
	}
	slices.SortStableFunc(m.out, func(a, b MoveGroup) int { return order(a) - order(b) })
	return m.out
}

func order(g MoveGroup) int {
	switch {
	case g.ID == "":
		return 2
	case g.Undecided() > 0:
		return 0
	}
	return 1
}

type mover struct {
	live   *sitemap.Tree
	draft  Draft
	took   map[string]string // by entry: what took it along
	change map[string]change.Change
	at     map[string]int // groups by id
	out    []MoveGroup
}

func (m *mover) add(r redirect.Row) {
	move, root := Move{Row: r}, ""
	if i := m.live.PageAt(r.From); i != sitemap.None && r.Match == redirect.Exact {
		move.Entry, move.Title = m.live.Ref(i).ID, m.live.Ref(i).Title
		root = m.root(i)
	}
	at, ok := m.at[root]
	if !ok {
		at = len(m.out)
		m.at[root] = at
		m.out = append(m.out, m.group(root))
	}
	m.out[at].Moves = append(m.out[at].Moves, move)
}

// root is the entry that takes a page of Live along: what moved above it, or the topmost of a
// branch that goes.
func (m *mover) root(i int) string {
	id := m.live.Ref(i).ID
	if by := m.took[id]; by != "" {
		return by
	}
	gone := func(i int) bool { return m.draft.Tree.Find(m.live.Ref(i).ID) == sitemap.None }
	for p := m.live.Parent(i); gone(i) && p != sitemap.None && gone(p); p = m.live.Parent(p) {
		i = p
	}
	return m.live.Ref(i).ID
}

func (m *mover) group(root string) MoveGroup {
	if root == "" {
		return MoveGroup{Title: "Redirects that were there already", Words: "what they lead to changes"}
	}
	g := MoveGroup{ID: root, Title: root}
	for _, t := range []*sitemap.Tree{m.draft.Tree, m.live} {
		if i := t.Find(root); i != sitemap.None {
			g.Title = t.Ref(i).Title
			break
		}
	}
	if c, ok := m.change[root]; ok {
		g.Words = change.Words(c, m.live, m.draft.Next)
	}
	return g
}
