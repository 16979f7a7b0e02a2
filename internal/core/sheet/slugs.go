package sheet

import (
	"fmt"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

// addresses gives every entry of the tree its slug or fixed address. Slugs are
// unique within a space: the entries with the same nearest address-giving
// ancestor. In each space what the file says comes first, so that nothing made
// from a title takes a slug that a later row asks for.
func (r *reader) addresses(t *sitemap.Tree, order []int) (*sitemap.Tree, error) {
	owner, members := r.spaces(t, order)
	entries := t.Entries()
	fixed := map[string]bool{}
	for i := range entries {
		entries[i].Slug, entries[i].Fixed = "", ""
	}
	prefix := make([]string, t.Len())
	for o := sitemap.None; o < t.Len(); o++ {
		above := "/"
		if o != sitemap.None {
			if above = address.Join(aboveSpace(o, owner, prefix), "/"+entries[o].Slug); entries[o].Fixed != "" {
				above = entries[o].Fixed
			}
			prefix[o] = above
		}
		taken, names := map[string]bool{}, address.Namer{}
		for _, i := range members[o] {
			r.explicitSlug(&entries[i], i == t.Home(), r.rows[order[i]], above, taken, fixed)
		}
		for _, i := range members[o] {
			e := &entries[i]
			if e.Kind.IsPage() && e.Slug == "" && e.Fixed == "" {
				e.Slug = names.Unused(address.Slug(e.Title), func(s string) bool {
					return taken[s] || fixed[address.Join(above, "/"+s)]
				})
				taken[e.Slug] = true
			}
		}
	}
	return sitemap.New(entries)
}

func aboveSpace(o int, owner []int, prefix []string) string {
	if owner[o] == sitemap.None {
		return "/"
	}
	return prefix[owner[o]]
}

// spaces finds for each entry its nearest address-giving ancestor, and for
// each of those the entries that share it.
func (r *reader) spaces(t *sitemap.Tree, order []int) (owner []int, members map[int][]int) {
	owner, members = make([]int, t.Len()), map[int][]int{}
	gives := func(i int) bool {
		e, w := t.Ref(i), r.rows[order[i]]
		return e.Kind.IsPage() || e.Kind == sitemap.Group && (w.entry.Slug != "" || w.addr != "")
	}
	for i := range t.Len() {
		owner[i] = sitemap.None
		if p := t.Parent(i); p != sitemap.None {
			if owner[i] = owner[p]; gives(p) {
				owner[i] = p
			}
		}
		members[owner[i]] = append(members[owner[i]], i)
	}
	return owner, members
}

// explicitSlug takes what the file says of a slug or an address. A slug wins
// over an address, which is then for information.
func (r *reader) explicitSlug(e *sitemap.Entry, home bool, w row, above string, taken, fixed map[string]bool) {
	if !e.Kind.HoldsChildren() {
		return
	}
	if home {
		e.Fixed = "/"
		return
	}
	if w.entry.Slug != "" {
		slug, ok := address.Options{}.NormalSlug(strings.Trim(w.entry.Slug, "/"))
		if !ok {
			r.find(w.line, check.Error, "bad-slug", e.ID, "", fmt.Sprintf("%q cannot be a slug; one is made from the title.", w.entry.Slug))
		} else {
			e.Slug, e.SlugHeld, taken[slug] = slug, true, true
			if made := address.Join(above, "/"+slug); w.addr != "" && w.addr != made {
				r.find(w.line, check.Warning, "address-differs", e.ID, made, fmt.Sprintf("The address is given as %s, but slug and parent make it %s; the slug is used.", w.addr, made))
			}
			return
		}
	}
	if w.addr == "" {
		return
	}
	rest, below := address.Below(above, w.addr)
	if seg := strings.TrimPrefix(rest, "/"); below && seg != "" && !strings.Contains(seg, "/") && len(seg) <= address.MaxSlug {
		e.Slug, e.SlugHeld, taken[seg] = seg, true, true
		return
	}
	e.Fixed, fixed[w.addr] = w.addr, true
}
