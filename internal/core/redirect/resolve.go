package redirect

import (
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// By tells what answered a request.
type By string

// What can answer.
const (
	ByPage   By = "page"
	ByExact  By = "exact"
	ByPrefix By = "prefix"
	ByBranch By = "branch"
	ByNone   By = "none"
)

// Answer is what a request gets.
type Answer struct {
	Code     int    // 200, 301, 302, 307, 308, 410 or 404
	Location string // in written form; empty for 200, 410 and 404
	By       By
	Page     int    // index in the sitemap for 200, else sitemap.None
	Rule     string // the from of the row that answered
	Says     string // what readers are told where it is gone

	row    int    // its index, or -1
	target Target // where the visitor ends, without the request's query
}

// Row gives the index of the row that answered, and whether one did.
func (a Answer) Row() (i int, did bool) {
	return a.row, a.By == ByExact || a.By == ByPrefix || a.By == ByBranch
}

// Table answers addresses. It is immutable and safe for concurrent use.
type Table struct {
	rows      []Row
	pages     *sitemap.Tree // nil: every target counts as there
	exact     map[string]int32
	spread    map[string]int32 // prefix and branch rows
	hasQuery  bool
	once      bool // what a prefix row computes is not looked up again
	addresses address.Options
}

// NewTable indexes rows for resolving over a sitemap, which may be nil. Rows
// that are reports are skipped. Two rows of a kind with one from are refused.
func NewTable(rows []Row, pages *sitemap.Tree) (*Table, error) {
	t := &Table{rows: rows, pages: pages, exact: make(map[string]int32, len(rows)), spread: map[string]int32{}}
	for i := range rows {
		r := &rows[i]
		if r.Status.IsReport() {
			continue
		}
		m := t.exact
		if r.Match != Exact {
			m = t.spread
		}
		before := len(m)
		if m[r.From] = int32(i); len(m) == before {
			kind := "two exact rows have"
			if r.Match != Exact {
				kind = "two prefix or branch rows have"
			}
			return nil, &TableError{r.Line, r.From, kind + " this from", "keep one of them"}
		}
		t.hasQuery = t.hasQuery || strings.Contains(r.From, "?")
	}
	return t, nil
}

// Rows gives the rows, which must not be changed.
func (t *Table) Rows() []Row { return t.rows }

// Resolve answers an address as requested, with its query; a URL under its host name. An address
// that is refused is a 404.
func (t *Table) Resolve(request string) Answer {
	normal, query, err := t.asked(request)
	if err != nil {
		return notFound()
	}
	return t.ResolveNormal(normal, query)
}

// ResolveUnder answers an address as requested under a host name, which may have a port.
func (t *Table) ResolveUnder(host, request string) Answer {
	path, query, _ := address.Split(request)
	normal, err := t.addresses.Normal(path)
	if err != nil {
		return notFound()
	}
	if name, _, named := address.HostOf("http://" + host); named {
		normal = address.OnHost(name, normal)
	}
	return t.ResolveNormal(normal, query)
}

// asked gives the normal form of what is requested, and the query.
func (t *Table) asked(request string) (normal, query string, err error) {
	host, rest, named := address.HostOf(request)
	if named {
		request = rest
	}
	path, query, _ := address.Split(request)
	if normal, err = t.addresses.Normal(path); named && err == nil {
		normal = address.OnHost(host, normal)
	}
	return normal, query, err
}

func notFound() Answer { return Answer{Code: 404, By: ByNone, Page: sitemap.None, row: -1} }

// ResolveNormal answers a path in normal form and the query that came with it. Under a host name
// the rows of that name are asked first, before pages too: they are pages of the site, not of what the name
// stood for.
func (t *Table) ResolveNormal(normal, query string) Answer {
	if _, path, named := address.CutHost(normal); named {
		if a := t.rowAnswer(normal, query); a.row >= 0 {
			return a
		}
		normal = path
	}
	if p := t.page(normal); p != sitemap.None {
		return Answer{Code: 200, By: ByPage, Page: p, row: -1}
	}
	return t.rowAnswer(normal, query)
}

// rowAnswer answers by rows alone.
func (t *Table) rowAnswer(normal, query string) Answer {
	if query != "" && t.hasQuery {
		if i, ok := t.exact[normal+"?"+address.SortQuery(query)]; ok {
			return t.answer(int(i), ByExact, t.rows[i].To, t.rows[i].Code, "")
		}
	}
	if i, ok := t.exact[normal]; ok {
		return t.answer(int(i), ByExact, t.rows[i].To, t.rows[i].Code, query)
	}
	return t.spreadAnswer(normal, query)
}

func (t *Table) page(normal string) int {
	if t.pages == nil {
		return sitemap.None
	}
	return t.pages.PageAt(normal)
}

// spreadAnswer tries prefix and branch rows, the longest first.
func (t *Table) spreadAnswer(normal, query string) Answer {
	if len(t.spread) == 0 {
		return notFound()
	}
	for base, more := normal, true; more; base, more = up(base) {
		i, ok := t.spread[base]
		if !ok {
			continue
		}
		r := &t.rows[i]
		if r.Match == Branch || r.Code == Gone {
			by := ByBranch
			if r.Match == Prefix {
				by = ByPrefix
			}
			return t.answer(int(i), by, r.To, r.Code, query)
		}
		rest, _ := address.Below(base, normal)
		if to, code, fires := t.fire(int(i), rest); fires {
			return t.answer(int(i), ByPrefix, to, code, query)
		}
	}
	return notFound()
}

// up gives the path above one, and whether there is one. Above what is under a host name is
// nothing of other names.
func up(path string) (string, bool) {
	if path == "/" {
		return "", false
	}
	switch i := strings.LastIndexByte(path, '/'); {
	case i == 1:
		return "", false // the name of a host
	case i > 0:
		return path[:i], true
	}
	return "/", true
}

// fire computes the target of a prefix row and resolves it once more.
func (t *Table) fire(i int, rest string) (to Target, code int, fires bool) {
	r := &t.rows[i]
	if r.To.URL != "" {
		return Target{URL: joinURL(r.To.URL, escaped(rest))}, r.Code, true
	}
	base, ok := t.addressOf(r.To)
	if !ok {
		return Target{}, 0, false
	}
	computed := address.Join(base, rest)
	if t.once {
		return Target{Address: computed, Suffix: r.To.Suffix}, r.Code, true
	}
	if p := t.page(computed); p != sitemap.None {
		return Target{Entry: t.pages.At(p).ID, Suffix: r.To.Suffix}, r.Code, true
	}
	if e, ok := t.exact[computed]; ok {
		return t.rows[e].To, join(r.Code, t.rows[e].Code), true
	}
	if to, code, ok := t.second(i, computed); ok {
		return to, join(r.Code, code), true
	}
	return Target{Address: computed, Suffix: r.To.Suffix}, r.Code, t.pages == nil
}

// second looks up a computed target in the other prefix and branch rows. What
// they compute must be there: there is no third time.
func (t *Table) second(not int, computed string) (Target, int, bool) {
	for base, more := computed, true; more; base, more = up(base) {
		i, ok := t.spread[base]
		if !ok || int(i) == not {
			continue
		}
		r := &t.rows[i]
		if r.Match == Branch || r.Code == Gone {
			return r.To, r.Code, true
		}
		rest, _ := address.Below(base, computed)
		if r.To.URL != "" {
			return Target{URL: joinURL(r.To.URL, escaped(rest))}, r.Code, true
		}
		onto, _ := t.addressOf(r.To)
		onto = address.Join(onto, rest)
		if p := t.page(onto); p != sitemap.None {
			return Target{Entry: t.pages.At(p).ID, Suffix: r.To.Suffix}, r.Code, true
		}
		if t.pages == nil {
			return Target{Address: onto, Suffix: r.To.Suffix}, r.Code, true
		}
	}
	return Target{}, 0, false
}

func escaped(rest string) string { return address.Written(rest) }

// addressOf gives the normal address at which a target on this site is.
func (t *Table) addressOf(to Target) (string, bool) {
	if to.Entry == "" {
		return to.Address, to.Address != ""
	}
	if t.pages == nil {
		return "", false
	}
	i := t.pages.Find(to.Entry)
	if i == sitemap.None || t.pages.Served(i) == "" {
		return "", false
	}
	return t.pages.Served(i), true
}

func (t *Table) answer(row int, by By, to Target, code int, query string) Answer {
	a := Answer{Code: code, By: by, Page: sitemap.None, Rule: t.rows[row].From, row: row, target: to}
	if code == Gone {
		a.target, a.Says = Target{}, t.rows[row].Says
		return a
	}
	switch at, ok := t.addressOf(to); {
	case to.URL != "":
		a.Location = withQuery(to.URL, query)
	case ok:
		a.Location = withQuery(address.Written(at)+to.Suffix, query)
	default:
		return notFound()
	}
	return a
}

// Written gives a target as files and people get it.
func (t *Table) Written(to Target) string { return WrittenTo(to, t.pages) }

// WrittenTo gives a target as files and people get it, with entries at their
// addresses in the sitemap.
func WrittenTo(to Target, pages *sitemap.Tree) string {
	if to.URL != "" {
		return to.URL
	}
	a, ok := (&Table{pages: pages}).addressOf(to)
	if !ok {
		return to.Entry
	}
	return address.Written(a) + to.Suffix
}
