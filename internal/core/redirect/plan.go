package redirect

import (
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
}

// Input is what the table of Next depends on.
type Input struct {
	Live, Next *sitemap.Tree
	Table      []Row               // of Live; targets as written or as entries
	Decisions  map[string]Decision // by entry id
	Hosts      []string            // the site's own
	Released   map[string]bool     // addresses given up: nothing leads on from them

	// Rollback makes undecided rows temporary: a rollback takes pages back
	// that are to come again.
	Takeback bool
}

// Plan gives the redirect table of Next, sorted by from. The package comment
// tells what it keeps true. A table that contradicts itself is refused with a
// *TableError.
func Plan(in Input) ([]Row, error) {
	given := ownHosts(in.Table, in.Hosts)
	live, err := NewTable(given, in.Live)
	if err != nil {
		return nil, err
	}
	if rings := live.Loops(); len(rings) > 0 {
		r := given[rings[0]]
		return nil, &TableError{r.Line, r.From, "this row leads back to itself", "point one row of the ring to a page"}
	}
	p := &planner{
		Input: in, live: live, given: given,
		pages: sync.OnceValue(func() []located { return locatePages(in.Live) }),
		rows:  sync.OnceValue(func() []located { return locateRows(given) }),

		following: map[int]bool{},
	}
	p.keepGiven()
	if p.kept, err = NewTable(p.out, in.Next); err != nil {
		return nil, err
	}
	p.movedPages()
	p.belowPrefixes()
	return p.sorted(), nil
}

type planner struct {
	Input
	live  *Table // given rows over Live
	given []Row
	kept  *Table // given rows as they are in Next, over Next
	out   []Row
	at    map[string]int // exact from → index in out

	pages, rows func() []located // of Live, sorted by address
	following   map[int]bool     // rows whose target is being looked for
}

// ownHosts turns URLs on the site's own hosts into addresses, and drops reports.
func ownHosts(rows []Row, hosts []string) []Row {
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
	dest := destination{to: d.To, code: d.Code, note: d.Note, review: d.Review}
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
	if p.Takeback || n != sitemap.None && p.Next.At(n).Withdrawn {
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
	p.out = make([]Row, 0, len(p.given))
	p.at = make(map[string]int, len(p.given))
	for i, g := range p.given {
		r := p.carry(i, g)
		if r.Match == Exact && !r.Status.IsReport() {
			p.at[r.From] = len(p.out)
		}
		p.out = append(p.out, r)
	}
}

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
	switch {
	case d.status != "":
		r.Status = d.status
	case r.Code != g.Code || r.Match != g.Match || p.live.Written(g.To) != WrittenTo(r.To, p.Next):
		r.Status = Changed
	}
	return r
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
	case cover >= 0 && (p.occupied(at) || p.cover(g.From, []int{i}) >= 0):
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
		if d.to.Entry != id && p.cover(g.From, []int{i}) >= 0 {
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
		if d := p.ofTarget(i, g.To, g.Code); p.cover(g.From, []int{i}) < 0 {
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

func below(t *sitemap.Tree, at string) bool {
	i := t.ClaimedBy(at)
	return i != sitemap.None && t.HasChildren(i) && t.Served(i) == ""
}

// movedPages adds a row for every page of Live that has another address in
// Next, or none.
func (p *planner) movedPages() {
	for i := range p.Live.Len() {
		old := p.Live.Served(i)
		if old == "" {
			continue
		}
		if n := p.Next.Find(p.Live.Ref(i).ID); n != sitemap.None && p.Next.Served(n) == old {
			continue
		}
		if p.Live.PageAt(old) == i {
			p.lead(old, p.ofAddress(old, p.Live.Ref(i).ID), p.answersRightly)
		}
	}
}

// lead makes sure that an address of Live leads to its destination in Next;
// right tells whether it does already.
func (p *planner) lead(from string, d destination, right func(string, destination) bool) {
	if p.Released[from] {
		return
	}
	r := Row{From: from, To: d.to, Code: d.code, Match: Exact, Status: Added, Note: d.note, Review: d.review}
	if r.Code == 0 {
		r.Code = 301
	}
	if r.Code == Gone {
		r.To = Target{}
	}
	taken := p.Next.PageAt(from) != sitemap.None
	at, given := p.at[from]
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
		p.at[from] = len(p.out)
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

func same(a, b Target, t *Table) bool { return a == b || t.Written(a) == t.Written(b) }

func pathOf(from string) string {
	path, _, _ := strings.Cut(from, "?")
	return path
}

// sorted gives the rows by from as written, the exact one first.
func (p *planner) sorted() []Row {
	slices.SortStableFunc(p.out, func(a, b Row) int {
		if c := strings.Compare(WrittenFrom(a.From), WrittenFrom(b.From)); c != 0 {
			return c
		}
		return strings.Compare(string(a.Match), string(b.Match))
	})
	return p.out
}
