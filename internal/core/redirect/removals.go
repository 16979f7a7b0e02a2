package redirect

import (
	"candlepath/internal/core/sitemap"
)

// Removal is an address of Live whose page has none in Next, so that it is decided where its
// visitors belong.
type Removal struct {
	Live     int // the page in Live
	Row      Row // what the address does in Next
	Decision *Decision
	Above    int // the nearest page of Next above it; sitemap.None
}

// IsOpen tells whether it is still to be decided where its visitors belong: nobody did, or what
// was decided leads to nothing.
func (r Removal) IsOpen() bool {
	return r.Row.Status == Dangling || r.Decision == nil && (r.Row.Status == Undecided || r.Row.From == "")
}

// Removals lists them, out of the rows that Plan gave. An address that another page takes is
// none: its decision could never act.
func Removals(live, next *sitemap.Tree, rows []Row, decisions map[string]Decision) (out []Removal) {
	at := map[string]Row{}
	for _, r := range rows {
		if r.Match == Exact {
			at[r.From] = r
		}
	}
	for i := range live.Len() {
		from := live.Served(i)
		if from == "" || next.PageAt(from) != sitemap.None {
			continue
		}
		e := live.Ref(i)
		if n := next.Find(e.ID); n != sitemap.None && next.Served(n) != "" {
			continue
		}
		r := Removal{Live: i, Row: at[from], Above: sitemap.None}
		if d, ok := decisions[e.ID]; ok {
			r.Decision = &d
		}
		for up := live.Parent(i); up != sitemap.None && r.Above == sitemap.None; up = live.Parent(up) {
			if n := next.Find(live.Ref(up).ID); n != sitemap.None && next.Served(n) != "" {
				r.Above = n
			}
		}
		out = append(out, r)
	}
	return out
}
