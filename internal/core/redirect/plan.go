package redirect

import (
	"cmp"
	"slices"
	"strings"
	"sync"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Decision says where the visitors of a page that is no more belong.
type Decision struct {
	To     Target // zero: gone
	Code   int    // 0: 301, or 410 where To is zero
	Review string
	Note   string
	Says   string // what readers are told where it is gone
}

// Input is what the table of Next depends on.
type Input struct {
	Live, Next *sitemap.Tree
	Table      []Row               // of Live; targets as written or as entries
	Decisions  map[string]Decision // by entry id
	Hosts      []string            // the site's own
	Released   map[string]bool     // addresses given up: nothing leads on from them
	Index      *Table              // of Table over Live, where it is known

	// Rollback makes undecided rows temporary: a rollback takes pages back
	// that are to come again.
	Rollback bool
}

// Plan gives the redirect table of Next, sorted by from. The package comment
// tells what it keeps true. A table that contradicts itself is refused with a
// *TableError.
func Plan(in Input) ([]Row, error) {
	given := ownHosts(in.Table, in.Hosts)
	live := in.Index
	if live == nil || live.pages != in.Live || !sameRows(live.rows, given) {
		var err error
		if live, err = NewTable(given, in.Live); err != nil {
			return nil, err
		}
	}
	if rings := live.Loops(); len(rings) > 0 {
		r := given[rings[0]]
		return nil, &TableError{r.Line, r.From, "this row leads back to itself", "point one row of the ring to a page"}
	}
	p := &planner{
		Input: in, live: live, given: given,
		pages: sync.OnceValue(func() []located { return locatePages(in.Live) }),
		rows:  sync.OnceValue(func() []located { return locateRows(given) }),

		following: map[int]bool{}, added: map[string]int{},
	}
	p.keepGiven()
	var err error
	if p.kept, err = NewTable(p.out, in.Next); err != nil {
		return nil, err
	}
	p.movedPages()
	p.belowPrefixes()
	p.keepEntries()
	return p.sorted(), nil
}

// sameRows tells whether two lists are one and the same.
func sameRows(a, b []Row) bool { return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0]) }

type planner struct {
	Input
	live  *Table // given rows over Live
	given []Row
	kept  *Table // given rows as they are in Next, over Next
	out   []Row
	added map[string]int // exact from → index in out, of rows that are not given

	pages, rows func() []located // of Live, sorted by address
	following   map[int]bool     // rows whose target is being looked for
}

func needsCare(r Row) bool { return r.Status.IsReport() || r.To.URL != "" }

// ownHosts turns URLs on the site's own hosts into addresses, and drops reports.
func ownHosts(rows []Row, hosts []string) []Row {
	if !slices.ContainsFunc(rows, needsCare) {
		return rows
	}
	out := make([]Row, 0, len(rows))
	for _, r := range rows {
		if r.Status.IsReport() {
			continue
		}
		if _, own := address.PathOn(r.To.URL, hosts); own {
			if to, err := ParseTo(r.To.URL, hosts); err == nil {
				r.To = to
			}
		}
		out = append(out, r)
	}
	return out
}

// destination is where visitors of something of Live end in Next. A code of 0
// has no opinion.
type destination struct {
	to     Target
	code   int
	status Status // Undecided, Dangling or empty
	note   string
	says   string
	review string
}

// ofEntry tells where visitors of a page belong in Next.
func (p *planner) ofEntry(id string) destination {
	n := p.Next.Find(id)
	if n != sitemap.None && p.Next.Served(n) != "" {
		return destination{to: Target{Entry: id}}
	}
	if d, ok := p.Decisions[id]; ok {
		if dest, ok := p.decided(id, d); ok {
			if n != sitemap.None && p.Next.Ref(n).Withdrawn && dest.code != Gone {
				dest.code = 302 // the page is to come back
			}
			return dest
		}
		return destination{to: d.To, code: d.Code, status: Dangling, note: "the decided target is nowhere"}
	}
	if n != sitemap.None {
		if dest, ok := p.turnedInto(n); ok {
			return dest
		}
	}
	return p.undecided(id, n)
}

// ofAddress is ofEntry for the visitors of an address that a page had. Where
// another page takes the address nothing is left to decide: the report tells
// where the page now is, or what survives above it.
func (p *planner) ofAddress(old, id string) destination {
	n := p.Next.Find(id)
	if p.Next.PageAt(old) == sitemap.None || n != sitemap.None && p.Next.Served(n) != "" {
		return p.ofEntry(id)
	}
	return destination{to: p.undecided(id, n).to}
}

func (p *planner) decided(id string, d Decision) (destination, bool) {
	dest := destination{to: d.To, code: d.Code, note: d.Note, says: d.Says, review: d.Review}
	switch {
	case d.To.IsZero() || d.Code == Gone:
		dest.to, dest.code = Target{}, Gone
		return dest, true
	case d.To.URL != "":
		if path, own := address.PathOn(d.To.URL, p.Hosts); own {
			to, err := ParseTo(path, nil)
			if err != nil {
				return dest, false
			}
			dest.to = to
		}
	}
	if dest.to.Address != "" {
		i := p.Next.PageAt(dest.to.Address)
		if i == sitemap.None {
			return dest, false
		}
		dest.to = Target{Entry: p.Next.At(i).ID, Suffix: dest.to.Suffix}
	}
	if e := dest.to.Entry; e != "" {
		i := p.Next.Find(e)
		if e == id || i == sitemap.None || p.Next.Served(i) == "" {
			return dest, false
		}
	}
	return dest, true
}

// turnedInto follows a page that became an outside link, a reference or a file.
func (p *planner) turnedInto(n int) (destination, bool) {
	switch e := p.Next.At(n); e.Kind {
	case sitemap.Outside:
		if address.IsURL(e.Target) {
			return destination{to: Target{URL: e.Target}}, true
		}
	case sitemap.File:
		if to, err := ParseTo(e.Target, nil); err == nil {
			return destination{to: to}, true
		}
	case sitemap.Reference:
		if i := p.Next.Referred(n); i != sitemap.None && p.Next.Served(i) != "" {
			return destination{to: Target{Entry: p.Next.At(i).ID}}, true
		}
	}
	return destination{}, false
}

// undecided sends visitors to the nearest ancestor in Live that survives.
func (p *planner) undecided(id string, n int) destination {
	d := destination{to: Target{Address: "/"}, status: Undecided, note: "say where its visitors belong"}
	if p.Rollback || n != sitemap.None && p.Next.At(n).Withdrawn {
		d.code = 302
	}
	if i := p.Live.Find(id); i != sitemap.None {
		for i = p.Live.Parent(i); i != sitemap.None; i = p.Live.Parent(i) {
			up := p.Next.Find(p.Live.At(i).ID)
			if up != sitemap.None && p.Next.Served(up) != "" {
				d.to = Target{Entry: p.Live.At(i).ID}
				return d
			}
		}
	}
	if h := p.Next.Home(); h != sitemap.None && p.Next.Served(h) != "" {
		d.to = Target{Entry: p.Next.At(h).ID}
	}
	return d
}

// ofTarget tells where the target of a given row leads in Next. It is read
// against Live first, through other rows, then against Next.
func (p *planner) ofTarget(row int, to Target, code int) destination {
	if to.URL != "" || to.IsZero() {
		return destination{to: to, code: code}
	}
	lost := destination{to: to, code: code, status: Dangling, note: "the target is neither a page of Live nor of Next"}
	if p.following[row] {
		return lost // a ring of which Live knows a part and Next another
	}
	p.following[row] = true
	defer delete(p.following, row)
	if to.Entry != "" {
		return p.onward(to.Entry, to.Suffix, code)
	}
	if i := p.Live.PageAt(to.Address); i != sitemap.None {
		return p.onward(p.Live.At(i).ID, to.Suffix, code)
	}
	if d, ok := p.throughRows(row, to, code); ok {
		return d
	}
	if i := p.Next.PageAt(to.Address); i != sitemap.None {
		return destination{to: Target{Entry: p.Next.At(i).ID, Suffix: to.Suffix}, code: code}
	}
	if d, ok := p.throughNext(row, to, code); ok {
		return d
	}
	if a := to.Address; address.Reserved(a) && strings.HasPrefix(a, "/files/") {
		return destination{to: to, code: code}
	}
	return lost
}

// onward is ofEntry for the target of a row with a code of its own.
func (p *planner) onward(id, suffix string, code int) destination {
	d := p.ofEntry(id)
	if d.to.Entry == id {
		d.to.Suffix = suffix
	}
	if d.code == 0 {
		d.code = code
	} else {
		d.code = join(code, d.code)
	}
	return d
}

func (p *planner) throughRows(row int, to Target, code int) (destination, bool) {
	a := p.live.ResolveNormal(to.Address, "")
	if a.row < 0 || a.row == row {
		return destination{}, false
	}
	target := a.target
	if target.IsZero() && a.Code == Gone {
		return destination{code: Gone}, true
	}
	d := p.ofTarget(a.row, target, join(code, a.Code))
	if d.to.URL == "" && d.to.Suffix == "" {
		d.to.Suffix = to.Suffix
	}
	return d, true
}

// throughNext follows a target to a row that answers it in Next only, because
// where it leads to is not there in Live. Rings were refused, so this ends.
func (p *planner) throughNext(row int, to Target, code int) (destination, bool) {
	r := p.given[row]
	r.To = to
	s := p.live.followRow(row, &r)
	if s < 0 || p.live.inactive(s) {
		return destination{}, false
	}
	over := p.given[s]
	d := p.ofTarget(s, over.To, join(code, over.Code))
	if over.Match != Prefix || over.Code == Gone || d.code == Gone {
		return d, true
	}
	rest, _ := address.Below(over.From, to.Address)
	switch n := p.Next.Find(d.to.Entry); {
	case d.to.URL != "":
		d.to.URL = joinURL(d.to.URL, escaped(rest))
		return d, true
	case d.to.Entry != "" && n != sitemap.None:
		if n = p.Next.PageAt(address.Join(p.Next.Served(n), rest)); n != sitemap.None {
			d.to = Target{Entry: p.Next.Ref(n).ID, Suffix: to.Suffix}
			return d, true
		}
	}
	return destination{}, false
}

// keepGiven carries the given rows over into Next.
func (p *planner) keepGiven() {
	p.out = make([]Row, len(p.given), len(p.given)+len(p.given)/4)
	inParts(len(p.given), func(from, to int) {
		own := *p
		own.following = map[int]bool{}
		for i := from; i < to; i++ {
			p.out[i] = own.carry(i, p.given[i])
		}
	})
}

// keepEntries keeps targets that are pages as their entries (R4). Rows that spread over each other
// were followed by their addresses.
func (p *planner) keepEntries() {
	for i := range p.out {
		r := &p.out[i]
		if r.Match != Prefix || r.To.Address == "" || r.Status.IsReport() {
			continue
		}
		if page := p.Next.PageAt(r.To.Address); page != sitemap.None {
			r.To = Target{Entry: p.Next.Ref(page).ID, Suffix: r.To.Suffix}
		}
	}
}

// inParts runs what is done to each of so many things in two parts side by side, where they are
// many.
func inParts(n int, run func(from, to int)) {
	const many = 5000
	if n < many {
		run(0, n)
		return
	}
	panicked := make(chan any, 1)
	go func() {
		defer func() { panicked <- recover() }() // which would end the process here; the caller may catch it
		run(0, n/2)
	}()
	run(n/2, n)
	if p := <-panicked; p != nil {
		panic(p)
	}
}

func same(a, b Target, t *Table) bool { return a == b || t.Written(a) == t.Written(b) }

func pathOf(from string) string {
	path, _, _ := strings.Cut(from, "?")
	return path
}

// sorted gives the rows by from as written, the exact one first.
func (p *planner) sorted() []Row {
	type place struct {
		from string
		row  int32
	}
	order := make([]place, len(p.out))
	for i := range p.out {
		order[i] = place{WrittenFrom(p.out[i].From), int32(i)}
	}
	compare := func(a, b place) int {
		if c := strings.Compare(a.from, b.from); c != 0 {
			return c
		}
		return cmp.Or(strings.Compare(string(p.out[a.row].Match), string(p.out[b.row].Match)), cmp.Compare(a.row, b.row))
	}
	kept, fresh := order[:len(p.given)], order[len(p.given):]
	for _, part := range [][]place{kept, fresh} { // the given ones are sorted as a rule
		if !slices.IsSortedFunc(part, compare) {
			slices.SortFunc(part, compare)
		}
	}
	out := make([]Row, 0, len(order))
	for len(kept)+len(fresh) > 0 {
		from := &kept
		if len(kept) == 0 || len(fresh) > 0 && compare(fresh[0], kept[0]) < 0 {
			from = &fresh
		}
		out = append(out, p.out[(*from)[0].row])
		*from = (*from)[1:]
	}
	return out
}
