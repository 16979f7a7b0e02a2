package redirect

import "candlepath/internal/core/sitemap"

// Heirs tells to which page of Next the visitors of a page that went, or is planned
// to go, are led: a decision comes first, then the redirect of its last address.
type Heirs struct {
	Decisions map[string]Decision
	Last      map[string]string // the last address of a page that went, by entry
	Table     *Table            // of Live; nil: not known
	Live      *sitemap.Tree
	Next      *sitemap.Tree
}

// Of gives the heir of an entry; "" if it has none in Next.
func (h Heirs) Of(id string) string {
	to := h.Decisions[id].To.Entry
	if to == "" && h.Last[id] != "" && h.Table != nil {
		if i := h.Table.Resolve(h.Table.Resolve(h.Last[id]).Location).Page; i != sitemap.None {
			to = h.Live.Ref(i).ID
		}
	}
	if to == "" || h.Next.Find(to) == sitemap.None {
		return ""
	}
	return to
}

// Inherit adds to the visits of pages those of the pages that left Next to them.
func (h Heirs) Inherit(visits map[string]int) {
	left := map[string]int{}
	for id, n := range visits {
		if h.Next.Find(id) != sitemap.None {
			continue
		}
		if to := h.Of(id); to != "" {
			left[to] += n
		}
	}
	for to, n := range left {
		visits[to] += n
	}
}

// Merge gives the decisions that change when one page takes in another: whoever was
// to be led to the page that goes is led to the one kept and, if colleagues can see
// it, so are its own visitors.
func Merge(decisions map[string]Decision, kept, gone string, live bool) map[string]Decision {
	out := map[string]Decision{}
	for id, d := range decisions {
		if d.To.Entry == gone && id != gone && id != kept {
			d.To.Entry = kept
			out[id] = d
		}
	}
	if live {
		out[gone] = Decision{To: Target{Entry: kept}}
	}
	return out
}
