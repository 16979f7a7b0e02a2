package redirect

import (
	"fmt"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Proved is an address with what a table answers, and rules made of it do.
type Proved struct {
	Address  string // in written form
	Code     int
	Location string
}

// Under gives the rows by which a host name answers that another machine stands for: those for the
// name alone come before all that they cover, others are the same. Rows for other names alone are
// left out.
func Under(rows []Row, host string) []Row {
	own := map[Key]bool{}
	var out, others []Row
	for _, r := range rows {
		name, rest, named := address.CutHost(r.From)
		switch {
		case !named:
			others = append(others, r)
		case name == host:
			r.From = rest
			own[r.Key()] = true
			out = append(out, r)
		}
	}
	covered := func(from string) bool {
		for base, more := pathOf(from), true; more; base, more = up(base) {
			if own[Key{base, true}] {
				return true
			}
		}
		return false
	}
	for _, r := range others {
		if !own[r.Key()] && !covered(r.From) {
			out = append(out, r)
		}
	}
	return out
}

// ForServers gives the rows by which another server answers as a table does without a sitemap:
// written out (Plain), and the fewest if compact. They are held against the table for every
// address that it names; where one differs, nothing is given.
func ForServers(rows []Row, compact bool) (out []Row, proof []Proved, err error) {
	rows = Under(rows, "")
	given, err := NewTable(rows, nil)
	if err != nil {
		return nil, nil, err
	}
	if out = rows; compact {
		if out, err = Compact(rows); err != nil {
			return nil, nil, err
		}
	}
	if out, err = Plain(out); err != nil {
		return nil, nil, err
	}
	made, err := NewTable(out, nil)
	if err != nil {
		return nil, nil, err
	}
	made.once = true
	seen := map[string]bool{}
	for _, r := range rows {
		if r.Status.IsReport() || seen[r.From] {
			continue
		}
		seen[r.From] = true
		path, query, _ := strings.Cut(r.From, "?")
		want, got := given.ResolveNormal(path, query), made.ResolveNormal(path, query)
		if want.Code != got.Code || want.Location != got.Location {
			return nil, nil, fmt.Errorf("%s is answered by %d %s, not by %d %s as the table says", WrittenFrom(r.From), got.Code, got.Location, want.Code, want.Location)
		}
		proof = append(proof, Proved{WrittenFrom(r.From), want.Code, want.Location})
	}
	return out, proof, nil
}

// Addressed gives rows with their targets as addresses instead of entries. Rows that lead to
// nothing, and reports, are left out.
func Addressed(rows []Row, pages *sitemap.Tree) ([]Row, error) {
	t, err := NewTable(rows, pages)
	if err != nil {
		return nil, err
	}
	out := make([]Row, 0, len(rows))
	for _, r := range rows {
		if r.Status.IsReport() {
			continue
		}
		if r.Code != Gone && r.To.URL == "" {
			at, ok := t.addressOf(r.To)
			if !ok {
				continue
			}
			r.To = Target{Address: at, Suffix: r.To.Suffix}
		}
		out = append(out, r)
	}
	return out, nil
}

// WithPages adds a row for each of some addresses at which a page is, to that page. It is for
// servers that stand for another host, where the page is not.
func WithPages(rows []Row, pages *sitemap.Tree, addresses []string) []Row {
	has := make(map[string]bool, len(rows))
	for _, r := range rows {
		if r.Match == Exact {
			has[r.From] = true
		}
	}
	for _, a := range addresses {
		if !has[a] && pages.PageAt(a) != sitemap.None {
			has[a] = true
			rows = append(rows, Row{From: a, To: Target{Address: a}, Code: 301, Match: Exact, Status: Kept})
		}
	}
	return rows
}
