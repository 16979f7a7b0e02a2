package redirect

import (
	"slices"
	"strings"

	"candlepath/internal/core/address"
)

// Plain gives rows that answer as the table does without a sitemap, for servers that look an
// address up once: the exact row, else the longest prefix or branch row, and what that computes
// is sent as it is. Where a prefix row leads into addresses that other rows lead on, these rows
// are written out, so that a visitor still makes one hop. Targets are addresses and URLs.
func Plain(rows []Row) ([]Row, error) {
	t, err := NewTable(rows, nil)
	if err != nil {
		return nil, err
	}
	p := plainer{t: t, has: map[Key]bool{}, exact: sortedFroms(t.exact), spread: sortedFroms(t.spread)}
	for _, r := range rows {
		if r.Status.IsReport() {
			continue
		}
		p.has[r.Key()] = true
		if r.Match == Prefix && r.Code != Gone && r.To.URL == "" {
			r = p.settled(r)
		}
		p.out = append(p.out, bare(r))
	}
	for _, r := range rows {
		if !r.Status.IsReport() && r.Match == Prefix && r.Code != Gone && r.To.URL == "" {
			p.writeOut(r)
		}
	}
	slices.SortFunc(p.out, func(a, b Row) int { return strings.Compare(a.Key().ID(), b.Key().ID()) })
	return p.out, nil
}

type plainer struct {
	t             *Table
	exact, spread []string // addresses, sorted
	has           map[Key]bool
	out           []Row
}

func sortedFroms(of map[string]int32) []string {
	out := make([]string, 0, len(of))
	for from := range of {
		if !strings.Contains(from, "?") {
			out = append(out, from)
		}
	}
	slices.Sort(out)
	return out
}

// settled gives a prefix row with its target led on by the nearest row at or above that.
func (p *plainer) settled(r Row) Row {
	for base, more := r.To.Address, true; more; base, more = up(base) {
		i, ok := p.t.spread[base]
		if !ok || base == r.From {
			continue
		}
		s := p.t.rows[i]
		r.Code = join(r.Code, s.Code)
		if r.Code == Gone || s.Match == Branch {
			r.Match, r.To = Branch, s.To
			if r.Code == Gone {
				r.To = Target{}
			}
			return r
		}
		rest, _ := address.Below(base, r.To.Address)
		if s.To.URL != "" {
			r.To = Target{URL: joinURL(s.To.URL, escaped(rest))}
		} else {
			r.To = Target{Address: address.Join(s.To.Address, rest), Suffix: s.To.Suffix}
		}
		return r
	}
	return r
}

// writeOut adds a row for each address below a prefix row that other rows lead on.
func (p *plainer) writeOut(r Row) {
	for _, exact := range []bool{true, false} {
		list, rows := p.spread, p.t.spread
		if exact {
			list, rows = p.exact, p.t.exact
		}
		for from := range within(list, r.To.Address) {
			rest, _ := address.Below(r.To.Address, from)
			at := address.Join(r.From, rest)
			key := Key{at, !exact}
			if p.has[key] || !exact && (rest == "" || from == r.From) || !p.holds(r, at) {
				continue
			}
			p.has[key] = true
			e := p.t.rows[rows[from]]
			e.From, e.Code = at, join(r.Code, e.Code)
			if e.Code == Gone {
				e.To = Target{}
			}
			p.out = append(p.out, bare(e))
		}
	}
}

// holds tells whether a row is the one that answers at an address that no exact row has.
func (p *plainer) holds(r Row, at string) bool {
	for base, more := at, true; more; base, more = up(base) {
		if _, ok := p.t.spread[base]; ok {
			return base == r.From
		}
	}
	return false
}

// within gives those of sorted addresses that are at or below one.
func within(list []string, base string) func(yield func(string) bool) {
	return func(yield func(string) bool) {
		i, _ := slices.BinarySearch(list, base)
		for ; i < len(list) && strings.HasPrefix(list[i], base); i++ {
			if _, ok := address.Below(base, list[i]); ok && !yield(list[i]) {
				return
			}
		}
	}
}
