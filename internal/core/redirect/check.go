package redirect

import (
	"cmp"
	"fmt"
	"slices"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

// ParseDecision reads where visitors of a removed page belong: "gone", an
// address of Next, a URL, or the id of an entry.
func ParseDecision(text string, code int, next *sitemap.Tree) Decision {
	d := Decision{Code: code}
	if text == "gone" || code == Gone {
		d.Code = Gone
		return d
	}
	to, err := ParseTo(text, nil)
	switch {
	case err == nil && to.Address != "" && next.PageAt(to.Address) == sitemap.None && next.Find(text) != sitemap.None:
		d.To = Target{Entry: text}
	case err == nil:
		d.To = to
	default:
		d.To = Target{Entry: text}
	}
	return d
}

// Check looks for what is wrong with a table by itself and, with a sitemap,
// over it.
func Check(rows []Row, pages *sitemap.Tree) []check.Finding {
	c := checker{rows: rows, pages: pages}
	c.twins()
	t, err := NewTable(c.single, pages)
	if err != nil {
		return c.out
	}
	for _, i := range t.Loops() {
		c.find(c.single[i], check.Error, "redirect-loop", "This row leads back to itself. Point one row of the ring to a page.")
	}
	for i, r := range c.single {
		if r.Status.IsReport() {
			continue
		}
		c.row(t, i, r)
	}
	slices.SortStableFunc(c.out, func(a, b check.Finding) int { return cmp.Compare(a.Line, b.Line) })
	return c.out
}

type checker struct {
	rows, single []Row
	pages        *sitemap.Tree
	out          []check.Finding
}

func (c *checker) find(r Row, s check.Severity, rule check.Rule, message string) {
	c.out = append(c.out, check.Finding{Line: r.Line, Severity: s, Rule: rule, ID: r.To.Entry, From: WrittenFrom(r.From), Message: message})
}

// twins sets aside rows whose from another row of the kind has already.
func (c *checker) twins() {
	type key struct {
		from  string
		exact bool
	}
	first := map[key]int{}
	for _, r := range c.rows {
		k := key{r.From, r.Match == Exact}
		if line, twice := first[k]; twice && !r.Status.IsReport() {
			c.find(r, check.Error, "two-of-a-kind", fmt.Sprintf("Line %d has this from already. Keep one of the two.", line))
			continue
		}
		if !r.Status.IsReport() {
			first[k] = r.Line
		}
		c.single = append(c.single, r)
	}
}

func (c *checker) row(t *Table, i int, r Row) {
	if r.Match == Exact && c.pages != nil && c.pages.PageAt(pathOf(r.From)) != sitemap.None {
		c.find(r, check.Warning, "hidden-by-page", "A live page has this address, so the row never answers. Remove it.")
	}
	if address.Reserved(pathOf(r.From)) {
		c.find(r, check.Warning, "reserved-address", "The program itself answers at this address, so the row never does. Remove it.")
	}
	if r.To.Address == "" || r.Code == Gone {
		return
	}
	if next := t.follow(i); next >= 0 && !t.inactive(next) {
		if !slices.Contains(t.Loops(), i) {
			c.find(r, check.Error, "redirect-chain", fmt.Sprintf("The target is itself redirected, by the row at %s. Point this row to where that one leads.", WrittenFrom(t.rows[next].From)))
		}
		return
	}
	if c.pages != nil && c.pages.PageAt(r.To.Address) == sitemap.None && (r.Match != Prefix || !below(c.pages, r.To.Address)) {
		c.find(r, check.Error, "target-missing", fmt.Sprintf("There is no page at %s. Choose another target, or 410.", r.To.Address))
	}
}

// Unanswered gives those of the addresses that answer nothing in a table over
// its sitemap, or need more than one hop: what R1 and R3 forbid.
func Unanswered(t *Table, addresses []string) []string {
	var out []string
	for _, a := range addresses {
		got := t.Resolve(WrittenFrom(a))
		if got.Code == 404 {
			out = append(out, a)
			continue
		}
		if got.target.Address != "" && got.Location != "" && t.page(got.target.Address) == sitemap.None {
			out = append(out, a)
		}
	}
	return out
}

// EntryOf gives the entry to which an answer leads, or "".
func (a Answer) EntryOf() string { return a.target.Entry }
