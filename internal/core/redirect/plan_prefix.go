package redirect

import (
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

func (p *planner) carry(i int, g Row) Row {
	r := g
	r.Status, r.Note = Kept, g.Note
	if p.Released[g.From] {
		r.Status, r.Note = Retired, "released"
		return r
	}
	if g.Match == Exact && p.Next.PageAt(pathOf(g.From)) != sitemap.None {
		r.Status = Retired
		return r
	}
	if g.Match == Prefix && g.Code != Gone && g.To.URL == "" {
		carried := p.carryPrefix(i, g)
		if onto, ok := (&Table{pages: p.Next}).addressOf(carried.To); ok && carried.Match == Prefix && onto == g.From {
			r.Status = Retired // its pages came back to where it led from
			return r
		}
		return carried
	}
	d := p.ofTarget(i, g.To, g.Code)
	return p.settle(r, g, d)
}

// settle writes a destination into a given row and words the difference.
func (p *planner) settle(r, g Row, d destination) Row {
	r.To, r.Code, r.Status = d.to, d.code, Kept
	if r.Code == Gone {
		r.To = Target{}
	}
	if d.note != "" {
		r.Note = d.note
	}
	if d.review != "" {
		r.Review = d.review
	}
	if d.says != "" {
		r.Says = d.says
	}
	switch {
	case d.status != "":
		r.Status = d.status
	case r.Code != g.Code || r.Match != g.Match || !p.leadsAsBefore(g.To, r.To):
		r.Status = Changed
	}
	return r
}

// leadsAsBefore tells whether a target in Next is written as another was in Live.
func (p *planner) leadsAsBefore(was, is Target) bool {
	if was.URL == "" && is.URL == "" && was.Suffix == is.Suffix {
		before, ok := p.live.addressOf(was)
		now, alsoOK := (&Table{pages: p.Next}).addressOf(is)
		if ok && alsoOK {
			return before == now
		}
	}
	return p.live.Written(was) == WrittenTo(is, p.Next)
}

// carryPrefix follows the target of a prefix row. Where nothing is left for the
// rest of the path to be carried to, the row becomes a branch row. Where rows
// spread over each other, so that another is asked for what this one has no
// page for, it stays as it is: what it answers is preserved address by address.
func (p *planner) carryPrefix(i int, g Row, through ...int) Row {
	at, ok := p.live.addressOf(g.To)
	if !ok {
		return p.settlePrefix(g, g.To.Entry, p.ofTarget(i, g.To, g.Code))
	}
	stands := Target{Address: at, Suffix: g.To.Suffix}
	page, cover := p.Live.PageAt(at), p.cover(at, append(through, i))
	switch {
	case cover >= 0 && (p.occupied(at) || p.shares(i, g.From)):
		return p.settle(g, g, destination{to: stands, code: g.Code})
	case cover >= 0:
		r := p.flatten(i, cover, at, g, through)
		for not := append(through, i, cover); r.Status == Dangling; not = append(not, cover) {
			if cover = p.cover(at, not); cover < 0 {
				break
			}
			r = p.flatten(i, cover, at, g, through) // the nearer one does not fire
		}
		return r
	case page != sitemap.None:
		id := p.Live.Ref(page).ID
		d := p.onward(id, g.To.Suffix, g.Code)
		if d.to.Entry != id && p.shares(i, g.From) {
			// A branch row would take from a shorter row what this one never had.
			return p.settle(g, g, destination{to: stands, code: g.Code})
		}
		return p.settlePrefix(g, id, d)
	}
	if c := p.Live.ClaimedBy(at); c != sitemap.None && p.Live.Ref(c).Kind == sitemap.Group {
		if n := p.Next.Find(p.Live.Ref(c).ID); n != sitemap.None && p.Next.Claim(n) != "" {
			return p.settle(g, g, destination{to: Target{Address: p.Next.Claim(n), Suffix: g.To.Suffix}, code: g.Code})
		}
	}
	if below(p.Live, at) || below(p.Next, at) {
		return p.settle(g, g, destination{to: stands, code: g.Code})
	}
	if page := p.Next.PageAt(at); page != sitemap.None {
		return p.settle(g, g, destination{to: Target{Entry: p.Next.Ref(page).ID, Suffix: g.To.Suffix}, code: g.Code})
	}
	if _, exact := p.live.exact[at]; exact {
		if d := p.ofTarget(i, g.To, g.Code); !p.shares(i, g.From) {
			return p.settle(g, g, d)
		}
		return p.settle(g, g, destination{to: stands, code: g.Code})
	}
	return p.settle(g, g, destination{to: stands, code: g.Code, status: Dangling, note: "there is no page at or below the target"})
}

// settlePrefix is settle for a prefix row whose target was an entry: where the
// destination is another place, all below go there too.
func (p *planner) settlePrefix(g Row, id string, d destination) Row {
	r := g
	if d.to.Entry != id && d.code != Gone {
		r.Match = Branch
	}
	return p.settle(r, g, d)
}

// cover gives the nearest prefix or branch row of Live that answers at an
// address, leaving out some, or -1.
func (p *planner) cover(at string, not []int) int {
	for base, more := at, true; more; base, more = up(base) {
		if s, ok := p.live.spread[base]; ok && !slices.Contains(not, int(s)) {
			return int(s)
		}
	}
	return -1
}

// shares tells whether something else is asked for what prefix row i has no page for: a row above
// it or, under a host name, everything that answers under any.
func (p *planner) shares(i int, from string) bool {
	return strings.HasPrefix(from, "//") || p.cover(from, []int{i}) >= 0
}

// occupied tells whether pages of Live stand at an address or below it.
func (p *planner) occupied(at string) bool {
	for range under(p.pages(), at) {
		return true
	}
	return false
}

// flatten points a prefix row past row s, over which its target lies.
func (p *planner) flatten(i, s int, at string, g Row, through []int) Row {
	over := p.given[s]
	rest, _ := address.Below(over.From, at)
	code := join(g.Code, over.Code)
	if onto, ok := p.live.addressOf(over.To); ok && over.Match == Prefix && over.Code != Gone {
		moved := g
		moved.To, moved.Code = Target{Address: address.Join(onto, rest), Suffix: g.To.Suffix}, code
		r := p.carryPrefix(s, moved, append(through, i)...)
		if r.Status == Kept {
			r.Status = Changed
		}
		return r
	}
	r := g
	d := p.ofTarget(s, over.To, code)
	if over.To.URL != "" && over.Match == Prefix {
		d.to = Target{URL: joinURL(over.To.URL, escaped(rest))}
	} else {
		r.Match = Branch
	}
	return p.settle(r, g, d)
}

// movedPages adds a row for every page of Live that has another address in
// Next, or none.
func (p *planner) movedPages() {
	goes := make([]*destination, p.Live.Len())
	inParts(len(goes), func(from, to int) {
		own := *p
		own.following = map[int]bool{}
		for i := from; i < to; i++ {
			goes[i] = own.moved(i)
		}
	})
	for i, d := range goes {
		if d != nil {
			p.lead(p.Live.Served(i), *d, p.answersRightly)
		}
	}
}

// moved tells where visitors of a page of Live belong whose address is another in Next, or none;
// nil where it stays.
func (p *planner) moved(i int) *destination {
	old := p.Live.Served(i)
	if old == "" {
		return nil
	}
	if n := p.Next.Find(p.Live.Ref(i).ID); n != sitemap.None && p.Next.Served(n) == old {
		return nil
	}
	if p.Live.PageAt(old) != i {
		return nil
	}
	d := p.ofAddress(old, p.Live.Ref(i).ID)
	return &d
}

// lead makes sure that an address of Live leads to its destination in Next;
// right tells whether it does already.
func (p *planner) lead(from string, d destination, right func(string, destination) bool) {
	if p.Released[from] {
		return
	}
	r := Row{From: from, To: d.to, Code: d.code, Match: Exact, Status: Added, Note: d.note, Says: d.says, Review: d.review}
	if r.Code == 0 {
		r.Code = 301
	}
	if r.Code == Gone {
		r.To = Target{}
	}
	taken := p.Next.PageAt(from) != sitemap.None
	at, given := p.added[from]
	if i, kept := p.kept.exact[from]; kept {
		at, given = int(i), true
	}
	switch {
	case taken:
		r.Status, r.Note = Blocked, "another page has this address now"
	case d.status != "":
		r.Status = d.status
	case right(from, d):
		return
	case given && at < len(p.given):
		r.Status = Changed
	}
	if given && !taken {
		r.Line = p.out[at].Line
		p.out[at] = r
		return
	}
	if !taken {
		p.added[from] = len(p.out)
	}
	p.out = append(p.out, r)
}

// answersRightly tells whether the kept rows already lead an address to its
// destination.
func (p *planner) answersRightly(from string, d destination) bool {
	a := p.kept.ResolveNormal(from, "")
	if a.row < 0 {
		return false
	}
	if d.code == Gone || a.Code == Gone {
		return d.code == a.Code
	}
	return (d.code == 0 || d.code == a.Code) && same(a.target, d.to, p.kept)
}

func below(t *sitemap.Tree, at string) bool {
	i := t.ClaimedBy(at)
	return i != sitemap.None && t.HasChildren(i) && t.Served(i) == ""
}
