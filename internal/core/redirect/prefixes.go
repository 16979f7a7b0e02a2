package redirect

import (
	"slices"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// belowPrefixes gives addresses that a prefix row answered in Live, and would
// answer wrongly in Next, exact rows of their own; and rows that began below a
// prefix row's old target, rows below its from.
func (p *planner) belowPrefixes() {
	for i, g := range p.given {
		if g.Match != Prefix || g.Code == Gone || p.Released[g.From] {
			continue
		}
		if at, ok := p.live.addressOf(g.To); ok {
			p.carriedOver(i, g.From, at, true)
		}
	}
}

// carriedOver preserves what row i answers at and below from by carrying the
// rest of the path over to an address, and once more by a row found there.
func (p *planner) carriedOver(i int, from, at string, first bool) {
	for rest := range under(p.pages(), at) {
		p.preserve(i, address.Join(from, rest))
	}
	if !first {
		return
	}
	for rest, row := range under(p.rows(), at) {
		r, here := p.given[row], address.Join(from, rest)
		switch {
		case r.Match == Exact:
			p.preserve(i, here)
		case row != i:
			p.preserve(i, here)
			p.second(i, row, here, "")
			if p.out[i].Status != Kept && p.preserveSpread(here, row) {
				for below := range under(p.pages(), r.From) { // which the new row would hide
					p.preserveBy(i, address.Join(here, below), func(string, destination) bool { return false })
				}
			}
		}
	}
	if s := p.cover(at, []int{i}); s >= 0 && p.given[s].From != at {
		rest, _ := address.Below(p.given[s].From, at)
		p.second(i, s, from, rest)
	}
}

// second preserves what row i answers by way of prefix row s.
func (p *planner) second(i, s int, from, rest string) {
	if over := p.given[s]; over.Match == Prefix && over.Code != Gone {
		if onto, ok := p.live.addressOf(over.To); ok {
			p.carriedOver(i, from, address.Join(onto, rest), false)
		}
	}
}

// preserve keeps an address that prefix row i answered in Live leading where
// its visitors belong.
func (p *planner) preserve(i int, from string) { p.preserveBy(i, from, p.answersRightly) }

func (p *planner) preserveBy(i int, from string, right func(string, destination) bool) {
	a := p.live.ResolveNormal(from, "")
	if a.row != i || p.Next.PageAt(from) != sitemap.None {
		return
	}
	d := destination{code: Gone}
	if a.Code != Gone {
		d = p.ofTarget(i, a.target, a.Code)
	}
	if d.status != Dangling {
		p.lead(from, d, right)
	}
}

// preserveSpread gives a row a double below the from of a prefix row whose
// target left it behind, and tells whether it did.
func (p *planner) preserveSpread(from string, row int) bool {
	r := p.out[row]
	if r.Status == Dangling || r.Status.IsReport() || slices.ContainsFunc(p.out, func(o Row) bool { return o.From == from && o.Match != Exact }) {
		return false
	}
	r.From, r.Status, r.Line = from, Added, 0
	p.out = append(p.out, r)
	return true
}
