package redirect

import (
	"maps"
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Replay holds what a list of addresses answers over one table. What the list answers over
// another table is found by asking only those addresses of which the answer can differ:
//
//   - a page came to the address or left it, or its exact row differs;
//   - it lies at or below a prefix or branch row that differs;
//   - it lies at or below a prefix row that computes addresses among which something differs.
//
// A row differs, too, where what it leads to came or went. The rest keeps its answer.
type Replay struct {
	table     *Table
	addresses []string // normal, sorted by bytes
	codes     []int16
}

// NewReplay asks a table over its sitemap for addresses.
func NewReplay(t *Table, addresses []string) *Replay {
	if !slices.IsSorted(addresses) {
		addresses = slices.Sorted(slices.Values(addresses))
	}
	r := &Replay{table: t, addresses: addresses, codes: make([]int16, len(addresses))}
	ask(t, addresses, r.codes, places(len(addresses)))
	return r
}

// Addresses gives the list, sorted; it must not be changed.
func (r *Replay) Addresses() []string { return r.addresses }

// Over proves another table for the addresses of the list, but for some.
func (r *Replay) Over(t *Table, but map[string]bool) Proof {
	codes := slices.Clone(r.codes)
	again := r.again(t)
	ask(t, r.addresses, codes, again)
	for a := range but {
		if i, known := slices.BinarySearch(r.addresses, a); known {
			codes[i] = notAsked
		}
	}
	p := proved(r.addresses, codes)
	p.Again = len(again)
	return p
}

// many is the share of the list, one in so many, that is found by looking up all of it.
const many = 20

// again gives the places of the addresses that have to be asked again.
func (r *Replay) again(t *Table) []int {
	d := differing{old: r.table, now: t, paths: map[string]bool{}, ends: map[string]bool{}, moved: map[string]bool{}, spread: map[string]bool{}}
	d.pages()
	d.rows()
	d.computed()
	if d.spread["/"] {
		return places(len(r.addresses))
	}
	marked := make([]bool, len(r.addresses))
	n := 0
	mark := func(from, until string) {
		at, _ := slices.BinarySearch(r.addresses, from)
		for ; at < len(r.addresses) && (r.addresses[at] == from || r.addresses[at] < until); at++ {
			if !marked[at] {
				marked[at], n = true, n+1
			}
		}
	}
	if len(d.paths) > len(r.addresses)/many {
		for i, a := range r.addresses { // looking up all of them takes less than finding those many
			if path := pathOf(a); d.paths[path] || len(path) < len(a) && d.paths[a] {
				marked[i], n = true, n+1
			}
		}
	} else {
		for path := range d.paths {
			mark(path, "")
			mark(path+"?", path+"@")
		}
	}
	mark("//", "/0") // under a host name, what no row answers depends on all others
	for base := range d.spread {
		mark(base, "")
		mark(base+"/", base+"0")
		mark(base+"?", base+"@")
	}
	out := make([]int, 0, n)
	for i, is := range marked {
		if is {
			out = append(out, i)
		}
	}
	return out
}

func places(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// differing is what differs between two tables, as far as answers depend on it.
type differing struct {
	old, now *Table
	paths    map[string]bool // at which another page is, or none, or another exact row
	moved    map[string]bool // entries that have another address, or none
	ends     map[string]bool // of these, entries that came or went
	spread   map[string]bool // from of prefix and branch rows
	sorted   []string        // paths
}

// pages finds what moved, came and went. Both trees list most entries in the same order.
func (d *differing) pages() {
	was, is := d.old.pages, d.now.pages
	if was == is {
		return
	}
	met, k := 0, 0
	for i := range was.Len() {
		id := was.Ref(i).ID
		if k >= is.Len() || is.Ref(k).ID != id {
			k = is.Find(id)
		}
		before, after := was.Served(i), ""
		if k != sitemap.None {
			after = is.Served(k)
			met, k = met+1, k+1
		} else {
			k = i + 1
		}
		d.page(id, before, after)
	}
	for i := range is.Len() {
		if met == is.Len() {
			break
		}
		if id := is.Ref(i).ID; was.Find(id) == sitemap.None {
			d.page(id, "", is.Served(i))
			met++
		}
	}
}

func (d *differing) page(id, before, after string) {
	if before == after {
		return
	}
	d.moved[id] = true
	if before == "" || after == "" {
		d.ends[id] = true
	}
	for _, at := range []string{before, after} {
		if at != "" {
			d.paths[at] = true
		}
	}
}

// rows finds the rows that differ by themselves or in what they lead to.
func (d *differing) rows() {
	there := make([]bool, len(d.old.rows))
	j := 0
	for i := range d.now.rows {
		r := &d.now.rows[i]
		if r.Status.IsReport() {
			continue
		}
		for j < len(d.old.rows) && d.old.rows[j].Status.IsReport() {
			j++
		}
		at, known := j, j < len(d.old.rows) && d.old.rows[j].From == r.From && spreads(d.old.rows[j].Match) == spreads(r.Match)
		if !known {
			at, known = d.old.at(r)
		}
		if known {
			there[at], j = true, at+1
		}
		if !known || !answersAs(&d.old.rows[at], r) || d.leadsElsewhere(r.To) {
			d.row(r)
		}
	}
	for i := range d.old.rows {
		if r := &d.old.rows[i]; !there[i] && !r.Status.IsReport() {
			d.row(r)
		}
	}
}

func spreads(m Match) bool { return m != Exact }

func answersAs(a, b *Row) bool { return a.Match == b.Match && a.Code == b.Code && a.To == b.To }

// at gives the row with the same from and kind.
func (t *Table) at(r *Row) (int, bool) {
	of := t.exact
	if spreads(r.Match) {
		of = t.spread
	}
	i, ok := of[r.From]
	return int(i), ok
}

// leadsElsewhere tells whether the page that a target is came or went.
func (d *differing) leadsElsewhere(to Target) bool {
	return to.Entry != "" && d.ends[to.Entry] || to.Address != "" && d.paths[to.Address]
}

func (d *differing) row(r *Row) {
	if spreads(r.Match) {
		d.spread[r.From] = true
	} else {
		d.paths[r.From] = true
	}
}

// computed finds prefix rows that compute other addresses, or addresses among which something
// differs, at once or by way of a second row.
func (d *differing) computed() {
	if len(d.paths)+len(d.spread) == 0 && len(d.moved) == 0 {
		return
	}
	var kept []*Row // that may still differ in what they compute
	for base, i := range d.now.spread {
		if r := &d.now.rows[i]; r.Match == Prefix && r.Code != Gone && r.To.URL == "" && !d.spread[base] {
			kept = append(kept, r)
		}
	}
	if len(kept) == 0 {
		return
	}
	d.sorted = slices.Sorted(maps.Keys(d.paths))
	for range 2 { // the second row, then the row that needs it
		var more []string
		for _, r := range kept {
			if !d.spread[r.From] && d.computesElse(r) {
				more = append(more, r.From)
			}
		}
		for _, from := range more {
			d.spread[from] = true
		}
	}
}

func (d *differing) computesElse(r *Row) bool {
	if d.moved[r.To.Entry] {
		return true
	}
	base, ok := d.now.addressOf(r.To)
	if !ok {
		return false
	}
	if base == "/" {
		return true
	}
	at, _ := slices.BinarySearch(d.sorted, base)
	for ; at < len(d.sorted) && strings.HasPrefix(d.sorted[at], base); at++ {
		if isAtOrBelow(d.sorted[at], base) {
			return true
		}
	}
	for from := range d.spread {
		if isAtOrBelow(from, base) || isAtOrBelow(base, from) {
			return true
		}
	}
	return false
}

func isAtOrBelow(path, base string) bool {
	return base == "/" || strings.HasPrefix(path, base) && (len(path) == len(base) || path[len(base)] == '/' || path[len(base)] == '?')
}
